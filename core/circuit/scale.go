package circuit

import (
	"fmt"
	"math"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/scale"
	"freshanvil/core/units"
	"freshanvil/core/water"
)

// Effect is what a litre of a water leaves where it is heated, as the machine
// gets it; mg/L as CaCO3.
type Effect struct {
	Precipitates units.Reading // calcite that falls out at brew temperature, of either sign
	Feed         units.Reading // the smaller of calcium and alkalinity: all a steam boiler can drop
	Left         units.Reading // what then stays dissolved
	Hardness     units.Reading
	Corrosion    reason.Finding
	Hot          water.Answer
	Taken        []reason.Reason // what stands in for what was not read
}

// EffectOf works out what a litre of a water leaves in one machine, at its own
// temperatures. The error is water.ErrNoEquilibrium where the water has none.
func EffectOf(w water.Filled, f machine.Facts) (Effect, error) {
	hot, err := w.At(f.BrewTemp)
	if err != nil {
		return Effect{}, err
	}
	feed := w.Range(func(w water.Water) float64 {
		return math.Max(0, math.Min(w.Calcium*units.MolarCaCO3*1000, float64(w.Alk())))
	})
	left := hot.Left
	left.High, left.Likely, left.Low = math.Min(
		left.High,
		feed.High,
	), math.Min(
		left.Likely,
		feed.Likely,
	), math.Min(
		left.Low,
		feed.Low,
	)
	return Effect{
		Precipitates: hot.Precipitates,
		Feed:         feed,
		Left:         left,
		Hardness:     w.Hardness,
		Corrosion: water.Corrosion(
			w,
			hot,
			steely(f.BrewMaterial) || f.SteamBoiler > 0 && steely(f.SteamMaterial),
		),
		Hot:   hot,
		Taken: w.Taken,
	}, nil
}

// steely says whether a boiler is of stainless steel, or may be.
func steely(material string) bool { return material == "stainless" || material == "not_said" }

// PlaceID is where scale grows.
type PlaceID string

// The places: brewing and steam may share one boiler.
const (
	Brew   PlaceID = "brew"
	Steam  PlaceID = "steam"
	Shared PlaceID = "shared"
)

// Place is one kind of surface of a machine.
type Place struct {
	ID      PlaceID
	Title   string
	Count   int // of them, each with its share of the water
	Surface scale.Surface
	// Share of what falls out stays, as calibrated by spent solutions; 0 is all.
	Share float64
}

func (p Place) share() float64 {
	if p.Share == 0 {
		return 1
	}
	return p.Share
}

// Places are the surfaces of a layout. A heat exchanger's tube has no element.
func Places(f machine.Facts) ([]Place, error) {
	element := func(id PlaceID, title string, count int, watts units.Power) (Place, error) {
		s, err := scale.Element(watts)
		return Place{ID: id, Title: title, Count: count, Surface: s}, err
	}
	var list []Place
	add := func(p Place, err error) error {
		list = append(list, p)
		return err
	}
	var err error
	switch f.Layout {
	case machine.Thermoblock:
		err = add(element(Shared, "heating block", 1, f.Heater))
	case machine.SingleBoiler, machine.LeverManual:
		err = add(element(Shared, "boiler", 1, f.Heater))
	case machine.DualHome:
		err = add(element(Brew, "brew boiler", f.Groups, f.Heater))
	case machine.MultiCafe:
		err = add(element(Brew, "brew boiler", f.Groups, f.Heater))
	default: // heat exchangers, a cam lever among them: one tube a group in a steam boiler
		_ = add(Place{ID: Brew, Title: "brew tube", Count: f.Groups, Surface: scale.Tube()}, nil)
		err = add(element(Steam, "steam boiler", 1, f.Heater))
	}
	if err == nil && f.SteamHeater > 0 {
		err = add(element(Steam, "steam boiler", 1, f.SteamHeater))
	}
	return list, err
}

// Rate is the scale one surface of a place gets of some water, in mg: of the
// water through a brew circuit what falls out at brew temperature; of what a
// steam boiler makes up, less what is drawn off (package scale).
func (p Place) Rate(e Effect, a Amount) units.Reading {
	n := units.Litres(p.Count)
	add := func(x, y units.Reading) units.Reading {
		return units.Reading{Known: true, Low: x.Low + y.Low, Likely: x.Likely + y.Likely, High: x.High + y.High}
	}
	switch p.ID {
	case Brew:
		return scale.Brew(e.Precipitates, a.Brew/n, p.share())
	case Steam:
		return scale.Steam(e.Feed, e.Left, (a.Steam+a.Hot)/n, a.Hot/n, p.share())
	}
	return add(scale.Brew(e.Precipitates, a.Brew+a.Hot, p.share()), scale.Steam(e.Feed, e.Left, a.Steam, 0, p.share()))
}

// Worked is Rate for a day with how it came about.
func (p Place) Worked(e Effect, l Litres) reason.Worked {
	r := p.Rate(e, l.Amount())
	w := reason.Worked{
		Name:        "scale a day, each " + p.Title,
		Value:       r.Likely,
		Low:         r.Low,
		High:        r.High,
		Spread:      reason.Bounds,
		Unit:        "mg/day",
		Source:      reason.Ours,
		WouldChange: []string{"softer water", "fewer drinks", "what treats the water"},
	}
	n := reason.Input{Symbol: "count", Label: "of them", Value: float64(p.Count), Source: reason.Ours}
	falls := reason.Input{
		Symbol: "falls",
		Label:  "calcite that falls out of a litre at brew temperature",
		Value:  e.Precipitates.Likely,
		Unit:   "mg/L",
		Source: plummer,
	}.Ranged(e.Precipitates.Low, e.Precipitates.High)
	feed := reason.Input{
		Symbol: "feed",
		Label:  "the smaller of calcium and alkalinity, as CaCO3",
		Value:  e.Feed.Likely,
		Unit:   "mg/L",
		Source: reason.Ours,
	}.Ranged(e.Feed.Low, e.Feed.High)
	left := reason.Input{
		Symbol: "left",
		Label:  "stays dissolved when steamed",
		Value:  e.Left.Likely,
		Unit:   "mg/L",
		Source: plummer,
	}.Ranged(e.Left.Low, e.Left.High)
	switch p.ID {
	case Brew:
		w.Formula, w.Inputs = "max(0, falls) × brew ÷ count", []reason.Input{falls, l.Brew.AsInput("brew"), n}
	case Steam:
		w.Formula, w.Inputs = "max(0, (steam + hot) × feed − hot × left) ÷ count", []reason.Input{
			l.Steam.AsInput("steam"),
			l.Hot.AsInput("hot"),
			feed,
			left,
			n,
		}
	default:
		w.Formula, w.Inputs = "max(0, falls) × (brew + hot) + steam × feed", []reason.Input{
			falls,
			l.Brew.AsInput("brew"),
			l.Hot.AsInput("hot"),
			l.Steam.AsInput("steam"),
			feed,
		}
	}
	if p.Share != 0 {
		w.Formula = "(" + w.Formula + ") × share"
		w.Inputs = append(
			w.Inputs,
			reason.Input{
				Symbol: "share",
				Label:  "of what falls out that stays here, by spent solutions",
				Value:  p.Share,
				Source: reason.Log,
			},
		)
	}
	return w
}

var plummer = reason.Source{Kind: reason.Published, Which: "Plummer & Busenberg 1982, calcite equilibrium"}

// Grown is the scale that lies on one surface of a place, in mm, from its mass.
func (p Place) Grown(mg units.Reading) reason.Worked {
	mm := func(mg float64) float64 { return float64(p.Surface.Thickness(units.Mass(mg / 1000))) }
	return reason.Worked{
		Name:    "scale on the " + p.Title,
		Value:   mm(mg.Likely),
		Low:     mm(mg.Low),
		High:    mm(mg.High),
		Spread:  reason.Bounds,
		Unit:    "mm",
		Formula: "grams ÷ (density × area) × 10",
		Source:  reason.Ours,
		Inputs: []reason.Input{
			reason.Input{
				Symbol: "grams",
				Label:  "grown since the last descale, of the water that went through",
				Value:  mg.Likely / 1000,
				Unit:   "g",
				Source: reason.Log,
			}.Ranged(mg.Low/1000, mg.High/1000),
			{Symbol: "density", Label: "of porous scale", Value: scale.Porous, Unit: "g/cm³", Source: reason.Ours},
			{
				Symbol: "area",
				Label:  "of the surface it grows on",
				Value:  float64(p.Surface.Area),
				Unit:   "cm²",
				Source: reason.Ours,
			},
		},
		WouldChange: []string{"another water", "another date for the last descale"},
	}
}

// Hotter is by how much an element runs hotter under the scale that lies on it,
// in K; false where nothing overheats.
func (p Place) Hotter(grown reason.Worked) (reason.Worked, bool) {
	if !p.Surface.Heated {
		return reason.Worked{}, false
	}
	at := func(mm float64) units.Reading { return p.Surface.Hotter(units.Length(mm)) }
	return reason.Worked{
		Name:    "hotter under its scale, " + p.Title,
		Value:   at(grown.Value).Likely,
		Low:     at(grown.Low).Low,
		High:    at(grown.High).High,
		Spread:  reason.Bounds,
		Unit:    "K",
		Formula: "flux × 10 × mm ÷ conducts",
		Source:  reason.Ours,
		Inputs: []reason.Input{
			{
				Symbol: "flux",
				Label:  "heat through its surface",
				Value:  p.Surface.Density,
				Unit:   "W/cm²",
				Source: reason.Ours,
			},
			grown.AsInput("mm"),
			reason.Input{
				Symbol: "conducts",
				Label:  "scale",
				Value:  scale.Conducts,
				Unit:   "W/(m K)",
				Source: reason.Ours,
			}.Ranged(scale.ConductsLeast, scale.ConductsMost),
		},
		WouldChange: []string{"descaling"},
	}, true
}

// Days is how long until a surface reaches its limit from what lies on it
// already, by scale alone: no cap. Without growth it is Never.
func (p Place) Days(mg, mgADay units.Reading) reason.Worked {
	holds := float64(p.Surface.Holds()) * 1000
	days := func(lies, rate float64) float64 {
		return math.Min(Never, math.Max(0, holds-lies)/math.Max(rate, 1e-9))
	}
	w := reason.Worked{
		Name:    "days until the " + p.Title + " has its limit",
		Value:   days(mg.Likely, mgADay.Likely),
		Low:     days(mg.High, mgADay.High),
		High:    days(mg.Low, mgADay.Low),
		Spread:  reason.Bounds,
		Unit:    "days",
		Source:  reason.Ours,
		Formula: "min(never, max(0, limit ÷ 10 × density × area × 1000 − lies) ÷ max(rate, 0.000000001))",
		Inputs: []reason.Input{
			{Symbol: "never", Label: "shown as never", Value: Never, Unit: "days", Source: reason.Ours},
			{
				Symbol: "limit",
				Label:  "thickness at which it is due",
				Value:  float64(p.Surface.Limit),
				Unit:   "mm",
				Source: reason.Ours,
			},
			{Symbol: "density", Label: "of porous scale", Value: scale.Porous, Unit: "g/cm³", Source: reason.Ours},
			{
				Symbol: "area",
				Label:  "of the surface it grows on",
				Value:  float64(p.Surface.Area),
				Unit:   "cm²",
				Source: reason.Ours,
			},
			reason.Input{Symbol: "lies", Label: "lies there already", Value: mg.Likely, Unit: "mg", Source: reason.Log}.
				Ranged(mg.Low, mg.High),
			reason.Input{Symbol: "rate", Label: "scale a day", Value: mgADay.Likely, Unit: "mg/day", Source: reason.Ours}.
				Ranged(mgADay.Low, mgADay.High),
		},
		WouldChange: []string{"softer water", "fewer drinks", "what treats the water"},
	}
	return w
}

// Point is the scale on a surface so many days from now, in mm.
type Point struct {
	Days   float64 `json:"days"`
	Low    float64 `json:"low"`
	Likely float64 `json:"likely"`
	High   float64 `json:"high"`
}

// Curve is how the scale on one surface grows from what lies there, until its
// limit is reached even at the low end, a year and a half at most, 60 days at
// least.
func (p Place) Curve(mg, mgADay units.Reading) []Point {
	const points = 12
	reaches := (float64(p.Surface.Holds())*1000 - mg.Low) / math.Max(mgADay.Low, 1e-9)
	until := math.Max(60, math.Min(548, reaches*1.1))
	list := make([]Point, points+1)
	mm := func(lies, rate, days float64) float64 {
		return float64(p.Surface.Thickness(units.Mass((lies + rate*days) / 1000)))
	}
	for i := range list {
		d := until * float64(i) / points
		list[i] = Point{d, mm(mg.Low, mgADay.Low, d), mm(mg.Likely, mgADay.Likely, d), mm(mg.High, mgADay.High, d)}
	}
	return list
}

// Never stands for a surface that does not reach its limit: ten years.
const Never = 3650.0

// Calendar is the calendar school's interval for a water, in days: by the class
// of its hardness (common practice: 12, 6, 3 or 2 months), every month, or none
// (0).
func Calendar(f machine.Facts, hardness units.Reading) reason.Worked {
	w := reason.Worked{
		Name:        "days between two, by the calendar",
		Unit:        "days",
		Formula:     "months × 30.4",
		Source:      reason.Trade,
		WouldChange: []string{"another hardness", "another calendar: the machine's page"},
	}
	months, why := 0.0, "no calendar is kept"
	switch f.Calendar {
	case "every month":
		months, why = 1, "every month, because more does no harm, as one school says"
	case "by hardness class":
		class := units.Hardness(hardness.Likely / units.MolarCaCO3).USGSClass()
		months, why = classMonths[class], fmt.Sprintf("for %s water, %.0f mg/L", class, hardness.Likely)
	}
	w.Value = months * 30.4
	w.Inputs = []reason.Input{{Symbol: "months", Label: why, Value: months, Unit: "months", Source: reason.Trade}}
	return w.Exact()
}

var classMonths = map[string]float64{"soft": 12, "moderately hard": 6, "hard": 3, "very hard": 2}
