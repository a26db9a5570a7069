package descale

import (
	"fmt"
	"math"
	"time"

	"freshanvil/core/boiler"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// Clean is the share of the fresh strength that may stay: about what brings the pH
// back to within 0.3 of the feed (our own engineering choice).
const Clean = 1e-4

// LimitOf is the share of the fresh strength that may stay: Clean, or less where the water
// that goes in buffers little: what moves its pH by 0.3. Alkalinity and pH
// are of the feed; the acid counts by its protons, meq/L.
func LimitOf(p Product, gPerL units.Strength, alkalinity units.Alkalinity, ph units.PH) float64 {
	protons := 0.0
	all := float64(p.Strength()) / p.Litre
	for _, x := range p.Parts {
		if a, err := find(x.Acid); err == nil {
			protons += a.protons * float64(gPerL) * x.Grams / all / a.molar * 1000
		}
	}
	if protons == 0 {
		return Clean
	}
	buffer := float64(alkalinity) / units.EquivalentCaCO3 // meq/L
	return math.Max(1e-6, math.Min(Clean, buffer/((2+math.Pow(10, float64(ph)-6.35))*protons)))
}

// Left is the share of the acid that stays after n drain-and-refills with a heel
// and so many litres flushed through a circuit, well mixed: h^n e^(−V ÷ Vb).
func Left(holds units.Litres, heel float64, refills int, flushed units.Litres) float64 {
	return math.Pow(heel, float64(refills)) * math.Exp(-float64(flushed/holds))
}

// Rinse is how a circuit is rinsed.
type Rinse struct {
	Flush   reason.Worked // L to flush, without draining
	Refills reason.Worked // drain-and-refills; zero where it is not drained
	More    reason.Worked // L more where the strip does not match: to a tenth of what is left
	// Advice: with a large heel, flushing or a workshop.
	Advice *reason.Finding
}

// tooManyRefills is where draining no longer makes sense (our own engineering
// choice).
const tooManyRefills = 6

// RinseOf works both ways out. A circuit of 0 L is a *units.OutOfRange.
func RinseOf(holds units.Litres, heel float64) (Rinse, error) {
	if !(holds > 0 && holds <= 100) {
		return Rinse{}, &units.OutOfRange{Field: "litre", Value: fmt.Sprint(float64(holds)), Allowed: "above 0, to 100 L"}
	}
	if !(heel >= 0 && heel < 1) {
		return Rinse{}, &units.OutOfRange{Field: "heel", Value: fmt.Sprint(heel), Allowed: "0 to below 1"}
	}
	limit := reason.Input{Symbol: "limit", Label: "share of the acid that may stay", Value: Clean, Source: reason.Ours}
	would := []string{"what the strip says", "the volume of the circuit"}
	r := Rinse{
		Flush: reason.Worked{
			Name:        "water to flush through",
			Value:       -float64(holds) * math.Log(Clean),
			Unit:        "L",
			Formula:     "−holds × ln(limit)",
			Source:      reason.Ours,
			WouldChange: would,
			Inputs: []reason.Input{
				{Symbol: "holds", Label: "the circuit holds", Value: float64(holds), Unit: "L", Source: reason.Ours},
				limit,
			},
		}.Exact(),
	}
	r.More = reason.Worked{
		Name:        "more water, where the strip does not match",
		Value:       float64(holds) * math.Ln10,
		Unit:        "L",
		Formula:     "holds × ln(10)",
		Source:      reason.Ours,
		WouldChange: would,
		Inputs: []reason.Input{
			{
				Symbol: "holds",
				Label:  "the circuit holds: a tenth of what is left stays",
				Value:  float64(holds),
				Unit:   "L",
				Source: reason.Ours,
			},
		},
	}.Exact()
	if heel == 0 {
		return r, nil
	}
	r.Refills = reason.Worked{
		Name:        "drain-and-refills",
		Value:       math.Ceil(math.Log(Clean) / math.Log(heel)),
		Unit:        "refills",
		Formula:     "ceil(ln(limit) ÷ ln(heel))",
		Source:      reason.Ours,
		WouldChange: would,
		Inputs: []reason.Input{
			limit,
			{Symbol: "heel", Label: "stays after draining", Value: heel, Source: reason.Ours},
		},
	}.Exact()
	if r.Refills.Value > tooManyRefills {
		r.Advice = &reason.Finding{
			Verdict: reason.Look,
			Title:   "Draining leaves too much behind",
			Because: []reason.Reason{
				{
					Text: fmt.Sprintf(
						"%.0f %% stays each time: it would take %.0f refills.",
						heel*100,
						r.Refills.Value,
					),
					Source: reason.Ours,
				},
			},
			Next: []string{
				fmt.Sprintf("Flush %.1f L through instead, or let a workshop drain it by its plug.", r.Flush.Value),
			},
		}
	}
	return r, nil
}

// Match is how near the rinse water's pH must be to the feed's.
const Match = 0.3

// More is how much more rinse it takes when the strip does not match the feed: what
// brings what is left to a tenth.
func More(holds units.Litres, heel float64, feed, strip units.PH) (again bool, flush units.Litres, refills int) {
	if math.Abs(float64(feed-strip)) <= Match {
		return false, 0, 0
	}
	flush = holds * math.Ln10
	if heel > 0 {
		refills = int(math.Ceil(math.Log(0.1) / math.Log(heel)))
	}
	return true, flush, refills
}

// What may be touched, °C of bare metal (ISO 13732-1, from memory): for a minute,
// ten, and longer. By hand it is drained below 45 (our own engineering choice).
const (
	TouchMinute units.Temperature = 51
	TouchTen    units.Temperature = 48
	TouchLong   units.Temperature = 43
	SafeToDrain units.Temperature = 45
)

// leastCool is how long a home dual boiler cools at least (common practice).
const leastCool = 4 * time.Hour

// Cooling is a boiler that cools by itself: T(t) = Ta + (T0 − Ta) e^(−t ÷ τ).
type Cooling struct {
	From, Air units.Temperature
	Tau       time.Duration // time constant
}

// How hot a boiler is at most that makes steam without a probe, °C (our own engineering
// choices): a manual lever; a single boiler after steaming.
const (
	hotLever      units.Temperature = 120
	afterSteaming units.Temperature = 130
)

// CoolingOf is the cooling of a machine's hottest boiler, switched off now: whatever makes
// steam from the steam's temperature, the rest from brew temperature.
func CoolingOf(f machine.Facts) (Cooling, error) {
	c := Cooling{From: f.BrewTemp, Air: f.Room, Tau: f.Cooling}
	switch {
	case f.Layout == machine.LeverManual:
		c.From = hotLever
	case f.Layout == machine.SingleBoiler:
		c.From = afterSteaming
	case f.SteamBoiler > 0:
		hot, err := boiler.Boils(f.Gauge)
		if err != nil {
			return c, err
		}
		c.From = hot
		if f.SteamCooling > 0 {
			c.Tau = f.SteamCooling
		}
	}
	return c, c.Check()
}

// Check refuses what does not cool; the error is a *units.OutOfRange.
func (c Cooling) Check() error {
	switch {
	case !(c.From >= 20 && c.From <= 180):
		return &units.OutOfRange{Field: "from_c", Value: fmt.Sprint(float64(c.From)), Allowed: "20 to 180 °C"}
	case !(c.Air >= -10 && c.Air <= 42):
		return &units.OutOfRange{
			Field:   "air_c",
			Value:   fmt.Sprint(float64(c.Air)),
			Allowed: "-10 to 42 °C: above it never cools enough to be drained by hand",
		}
	case !(c.Tau >= time.Minute && c.Tau <= 72*time.Hour):
		return &units.OutOfRange{Field: "tau_h", Value: fmt.Sprint(c.Tau.Hours()), Allowed: "a minute to 72 h"}
	}
	return nil
}

// At is the temperature after a time.
func (c Cooling) At(t time.Duration) units.Temperature {
	return c.Air + (c.From-c.Air)*units.Temperature(math.Exp(-float64(t)/float64(c.Tau)))
}

// Below is how long it takes to a temperature above the air's.
func (c Cooling) Below(hot units.Temperature) time.Duration {
	if c.From <= hot {
		return 0
	}
	return time.Duration(float64(c.Tau) * math.Log(float64((c.From-c.Air)/(hot-c.Air))))
}

// Calibrated takes two readings, so long after it was switched off, and gives
// the cooling they lie on. Readings that do not fall are a *units.OutOfRange.
func (c Cooling) Calibrated(first, second time.Duration, a, b units.Temperature) (Cooling, error) {
	if !(second > first && a > b && b > c.Air+1) {
		return c, &units.OutOfRange{
			Field:   "readings",
			Value:   fmt.Sprintf("%.1f and %.1f °C", float64(a), float64(b)),
			Allowed: "two that fall with time and stay above the air",
		}
	}
	c.Tau = time.Duration(float64(second-first) / math.Log(float64((a-c.Air)/(b-c.Air))))
	c.From = c.Air + (a-c.Air)*units.Temperature(math.Exp(float64(first)/float64(c.Tau)))
	return c, c.Check()
}

// Opens is when it is cool enough to be drained by hand: below 45 °C, and for a
// home dual boiler at least four hours.
func (c Cooling) Opens(dual bool) reason.Worked {
	w := c.Reaches(SafeToDrain)
	if least := leastCool.Hours(); dual {
		w.Value, w.Formula = math.Max(least, w.Value), "max(least, "+w.Formula+")"
		w.Inputs = append(w.Inputs, reason.Input{
			Symbol: "least", Label: "a home dual boiler at least", Value: least, Unit: "h", Source: reason.Trade,
		})
		w = w.Exact()
	}
	return w
}

// Reaches is when it has cooled to a temperature above the room's.
func (c Cooling) Reaches(hot units.Temperature) reason.Worked {
	return reason.Worked{
		Name: "hours until it is cool enough", Value: c.Below(hot).Hours(), Unit: "h",
		Formula: "tau × ln((from − air) ÷ (safe − air))", Source: reason.Ours,
		WouldChange: []string{"two readings of its own", "a cooler room"},
		Inputs: []reason.Input{
			{Symbol: "tau", Label: "time constant of its cooling", Value: c.Tau.Hours(), Unit: "h", Source: reason.Ours},
			{Symbol: "from", Label: "as hot as it is when switched off", Value: float64(max(c.From, hot)), Unit: "°C",
				Source: reason.Ours},
			{Symbol: "air", Label: "the room", Value: float64(c.Air), Unit: "°C", Source: reason.Ours},
			{Symbol: "safe", Label: "cool enough below", Value: float64(hot), Unit: "°C", Source: reason.Ours},
		},
	}.Exact()
}
