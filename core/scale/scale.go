// Package scale says how fast scale grows where water is heated, how thick it
// is, what it does to the element, and when it reaches its limit.
//
// It does not decide whether the owner should take it off (package descale),
// nor what a water is (package water).
package scale

import (
	"fmt"
	"math"
	"time"

	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// Surface is what scale grows on.
type Surface struct {
	Area    units.Area
	Limit   units.Length // at which it is due
	Heated  bool         // by an element: it overheats
	Density float64      // of heat, W/cm²
}

// Choices of ours, and one published density.
const (
	Porous      = 2.0  // g/cm³, scale as it grows (model); dense calcite is 2.71 (published)
	Dense       = 2.71 // g/cm³
	wattDensity = 8.0  // W/cm² of an element
	Conducts    = 1.0  // W/(m K), of scale
	// what it may conduct
	ConductsLeast, ConductsMost = 0.7, 2.5
	// Transfer is how fast what falls out of hot water reaches a surface that it passes, µm/s, and
	// between what it lies: free convection at 2 to 10 K (McAdams; Churchill & Chu 1975) with the
	// analogy of Chilton & Colburn gives 9 to 15, a flowing tube by Lévêque 6 to 9; the kinetics of the
	// surface are left out, so it is an upper bound.
	Transfer                    = 10.0
	TransferLeast, TransferMost = 3.0, 30.0
	// MostDays is the calendar's cap: never later than a year.
	MostDays = 365.0

	elementLimit units.Length = 0.2
	tubeLimit    units.Length = 0.3   // as lost flow
	tubeArea     units.Area   = 125.0 // the brew tube of a heat exchanger
)

// Element is the surface of an element or a thermoblock, of 100 to 20000 W; else *units.OutOfRange.
func Element(heater units.Power) (Surface, error) {
	if !(heater >= 100 && heater <= 20000) {
		return Surface{}, &units.OutOfRange{Field: "heater_w", Value: fmt.Sprint(float64(heater)), Allowed: "100 to 20000 W"}
	}
	return Surface{Area: units.Area(heater / wattDensity), Limit: elementLimit, Heated: true, Density: wattDensity}, nil
}

// Tube is the brew tube of a heat exchanger: it has no element and is due as
// lost flow.
func Tube() Surface { return Surface{Area: tubeArea, Limit: tubeLimit} }

// Thickness is how thick a mass of scale lies.
func (s Surface) Thickness(of units.Mass) units.Length {
	return units.Length(float64(of) / (Porous * float64(s.Area)) * 10)
}

// Holds is the mass of scale at which the surface is due.
func (s Surface) Holds() units.Mass {
	return units.Mass(float64(s.Limit) / 10 * Porous * float64(s.Area))
}

// Hotter is by how many kelvin an element runs hotter under scale of a
// thickness: q t ÷ k, with the range of k. A tube does not overheat.
func (s Surface) Hotter(under units.Length) units.Reading {
	if !s.Heated {
		return units.Reading{}
	}
	flux := s.Density * 1e4
	by := func(k float64) float64 { return flux * float64(under) / 1000 / k }
	return units.Reading{Low: by(ConductsMost), Likely: by(Conducts), High: by(ConductsLeast), Known: true}
}

// Reached is the share of what falls out that reaches the surface: 1 − e^(−k A t ÷ V), of the
// litres it sees in a day and the time that it is hot in it, with what k may be. The less water
// passes and the longer it stands hot, the more of it stays.
func (s Surface) Reached(water units.Litres, hot time.Duration) units.Reading {
	by := func(k float64) float64 {
		if !(water > 0) {
			return 1
		}
		// µm/s × cm² × s ÷ L
		return 1 - math.Exp(-k*1e-6*float64(s.Area)*1e-4*hot.Seconds()/(float64(water)*1e-3))
	}
	return units.Reading{Known: true, Low: by(TransferLeast), Likely: by(Transfer), High: by(TransferMost)}
}

// Brew is the scale a brew circuit gets, in mg: what precipitates of a litre at brew temperature
// (mg/L, of either sign) × litres × the share that reaches the surface × the share of it that is
// deposited. A water that dissolves scale is taken to give none.
func Brew(precipitates units.Reading, through units.Litres, reached units.Reading, share float64) units.Reading {
	by := func(v, reached float64) float64 { return math.Max(0, v) * float64(through) * reached * share }
	return units.Reading{
		Low:    by(precipitates.Low, reached.Low),
		Likely: by(precipitates.Likely, reached.Likely),
		High:   by(precipitates.High, reached.High),
		Known:  true,
	}
}

// Steam is the scale a steam boiler gets, in mg a day: max(0, M m − B r), with M
// litres made up and B drawn off, m the smaller of calcium and alkalinity of the
// feed and r what stays dissolved, both mg/L CaCO3. With nothing drawn off all
// of m falls out: what stays dissolved concentrates and falls out later.
func Steam(feed, left units.Reading, makeUp, drawnOff units.Litres, share float64) units.Reading {
	by := func(m, r float64) float64 { return math.Max(0, float64(makeUp)*m-float64(drawnOff)*r) * share }
	return units.Reading{
		Low:    by(feed.Low, left.High),
		Likely: by(feed.Likely, left.Likely),
		High:   by(feed.High, left.Low),
		Known:  true,
	}
}

// Due is when a surface reaches its limit.
type Due struct {
	Days reason.Worked // from clean, never more than a year
	// Inspect: the water gives no scale over its whole range, so the date is one
	// to look, not to descale.
	Inspect bool
	Because []reason.Reason
}

// Grows works the days out at so many mg a day. A negative or endless rate is a
// *units.OutOfRange.
func (s Surface) Grows(mgADay units.Reading) (Due, error) {
	if !(mgADay.Low >= 0 && mgADay.Low <= mgADay.Likely && mgADay.Likely <= mgADay.High) ||
		math.IsInf(mgADay.High, 0) {
		return Due{}, &units.OutOfRange{
			Field:   "mg_a_day",
			Value:   mgADay.String(),
			Allowed: "0 or more, low, likely and high in that order",
		}
	}
	if !(s.Area > 0 && s.Limit > 0) {
		return Due{}, &units.OutOfRange{Field: "area_cm2", Value: fmt.Sprint(float64(s.Area)), Allowed: "above 0"}
	}
	days := func(rate float64) float64 { return math.Min(MostDays, float64(s.Holds())*1000/math.Max(rate, 1e-9)) }
	d := Due{Days: reason.Worked{
		Name: "days from clean to the limit", Value: days(mgADay.Likely), Low: days(mgADay.High), High: days(mgADay.Low),
		Spread: reason.Bounds,
		Unit:   "days", Source: reason.Ours,
		Formula: "min(cap, limit ÷ 10 × density × area × 1000 ÷ max(rate, 0.000000001))",
		Inputs: []reason.Input{
			{Symbol: "cap", Label: "never later than", Value: MostDays, Unit: "days", Source: reason.Ours},
			{Symbol: "limit", Label: "thickness at which it is due", Value: float64(s.Limit), Unit: "mm", Source: reason.Ours},
			{Symbol: "density", Label: "of porous scale", Value: Porous, Unit: "g/cm³", Source: reason.Ours},
			{Symbol: "area", Label: "of the surface it grows on", Value: float64(s.Area), Unit: "cm²", Source: reason.Ours},
			reason.Input{Symbol: "rate", Label: "scale a day", Value: mgADay.Likely, Unit: "mg/day", Source: reason.Ours}.
				Ranged(mgADay.Low, mgADay.High),
		}, WouldChange: []string{"softer water", "fewer litres a day", "another limit"}}}
	switch {
	case mgADay.High == 0:
		d.Inspect = true
		d.Because = []reason.Reason{
			{
				Text:   "This water gives no scale over its whole range: look once a year, do not descale.",
				Source: reason.Ours,
			},
		}
	case d.Days.Value >= MostDays:
		d.Because = []reason.Reason{
			{Text: "It would take longer than a year: the calendar's cap decides.", Source: reason.Ours},
		}
	case s.Heated:
		d.Because = []reason.Reason{
			{
				Text: fmt.Sprintf(
					"At %.1f mm the element runs about %.0f K hotter.",
					s.Limit,
					s.Hotter(s.Limit).Likely,
				),
				Source: reason.Ours,
			},
		}
	default:
		d.Because = []reason.Reason{
			{Text: fmt.Sprintf("At %.1f mm the tube loses flow.", s.Limit), Source: reason.Ours},
		}
	}
	return d, nil
}
