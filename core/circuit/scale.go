package circuit

import (
	"fmt"
	"math"
	"slices"
	"time"

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
		Corrosion: water.Corrosion(w, hot, water.Touches{
			Stainless: mayBeOf(f, "stainless"), Softened: w.Softened,
			Copper: mayBeOf(f, "copper", "brass", "nickel_plated", "tinned_or_soldered"),
		}),
		Hot:   hot,
		Taken: w.Taken,
	}, nil
}

// mayBeOf says whether one of a machine's boilers is of one of some materials, or may be.
func mayBeOf(f machine.Facts, materials ...string) bool {
	may := func(material string) bool { return material == "not_said" || slices.Contains(materials, material) }
	return may(f.BrewMaterial) || f.SteamBoiler > 0 && may(f.SteamMaterial)
}

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

// Day is the water that went through a machine in a day, or a part of one, and how long it was
// switched on in it.
type Day struct {
	Amount
	On time.Duration
}

// Times is a share of the day, or as many days alike.
func (d Day) Times(x float64) Day { return Day{d.Amount.Times(x), time.Duration(float64(d.On) * x)} }

// Rate is the scale that one surface of a place gets of some water in a day, in mg: of the water
// through a brew circuit what falls out at brew temperature and reaches the surface; of what a
// steam boiler makes up, less what is drawn off (package scale). It is not linear in the day: the
// less water, the larger the share of it that stays.
func (p Place) Rate(e Effect, d Day) units.Reading {
	n := units.Litres(p.Count)
	brew := func(through units.Litres) units.Reading {
		return scale.Brew(e.Precipitates, through, p.Surface.Reached(through, d.On), p.share())
	}
	switch p.ID {
	case Brew:
		return brew(d.Brew / n)
	case Steam:
		return scale.Steam(e.Feed, e.Left, (d.Steam+d.Hot)/n, d.Hot/n, p.share())
	}
	x, y := brew(d.Brew+d.Hot), scale.Steam(e.Feed, e.Left, d.Steam, 0, p.share())
	return units.Reading{Known: true, Low: x.Low + y.Low, Likely: x.Likely + y.Likely, High: x.High + y.High}
}

// The formulas of Rate, in µm/s, cm², hours and litres.
var (
	brewRate   = "max(0, falls) × brew ÷ count × (1 − exp(−reach × area × hours × 0.00036 ÷ (brew ÷ count)))"
	sharedRate = "max(0, falls) × (brew + hot) × (1 − exp(−reach × area × hours × 0.00036 ÷ (brew + hot))) + steam × feed"
	steamRate  = "max(0, (steam + hot) × feed − hot × left) ÷ count"
	rates      = map[PlaceID][2]reason.Formula{ // as it falls out, and with a share of it
		Brew:   {reason.MustFormula(brewRate), reason.MustFormula("(" + brewRate + ") × share")},
		Shared: {reason.MustFormula(sharedRate), reason.MustFormula("(" + sharedRate + ") × share")},
		Steam:  {reason.MustFormula(steamRate), reason.MustFormula("(" + steamRate + ") × share")},
	}
)

// convection is where the share that reaches a surface comes from.
var convection = reason.Source{Kind: reason.Model,
	Which: "free convection (McAdams; Churchill & Chu 1975), Chilton–Colburn: an upper bound"}

// Worked is Rate for a usual day with how it came about.
func (p Place) Worked(e Effect, l Litres, on time.Duration) reason.Worked {
	falls := reason.Input{Symbol: "falls", Label: "calcite that falls out of a litre at brew temperature",
		Value: e.Precipitates.Likely, Unit: "mg/L", Source: plummer}.Ranged(e.Precipitates.Low, e.Precipitates.High)
	feed := reason.Input{Symbol: "feed", Label: "the smaller of calcium and alkalinity, as CaCO3",
		Value: e.Feed.Likely, Unit: "mg/L", Source: reason.Ours}.Ranged(e.Feed.Low, e.Feed.High)
	reach := reason.Input{Symbol: "reach", Label: "how fast what falls out reaches the surface",
		Value: scale.Transfer, Unit: "µm/s", Source: convection}.Ranged(scale.TransferLeast, scale.TransferMost)
	area := reason.Input{Symbol: "area", Label: "of the surface it grows on", Value: float64(p.Surface.Area),
		Unit: "cm²", Source: reason.Ours}
	hours := reason.Input{Symbol: "hours", Label: "it is switched on in a day", Value: on.Hours(), Unit: "h",
		Source: reason.Ours}
	count := reason.Input{Symbol: "count", Label: "of them", Value: float64(p.Count), Source: reason.Ours}
	var in []reason.Input
	switch p.ID {
	case Brew:
		in = []reason.Input{falls, l.Brew.AsInput("brew"), count, reach, area, hours}
	case Steam:
		left := reason.Input{Symbol: "left", Label: "stays dissolved when steamed", Value: e.Left.Likely, Unit: "mg/L",
			Source: plummer}.Ranged(e.Left.Low, e.Left.High)
		in = []reason.Input{l.Steam.AsInput("steam"), l.Hot.AsInput("hot"), feed, left, count}
	default:
		in = []reason.Input{falls, l.Brew.AsInput("brew"), l.Hot.AsInput("hot"), reach, area, hours,
			l.Steam.AsInput("steam"), feed}
	}
	formula := rates[p.ID][0]
	if p.Share != 0 {
		formula = rates[p.ID][1]
		in = append(in, reason.Input{Symbol: "share", Value: p.Share, Source: reason.Log,
			Label: "of what falls out that stays here, by spent solutions"})
	}
	return formula.Of("scale a day, each "+p.Title, "mg/day", reason.Ours, in,
		"softer water", "fewer drinks", "fewer hours switched on", "what treats the water")
}

var plummer = reason.Source{Kind: reason.Published, Which: "Plummer & Busenberg 1982, calcite equilibrium"}

// thickness is how thick a mass of scale lies.
var thickness = reason.MustFormula("grams ÷ (density × area) × 10")

// Grown is the scale that likely lies on one surface of a place, in mm, from its mass in mg.
func (p Place) Grown(mg units.Reading) reason.Worked { return p.grown("scale on the ", mg, mg.Likely) }

// GrownMost is the scale that may lie there, at the early end of what is not known.
func (p Place) GrownMost(mg units.Reading) reason.Worked {
	return p.grown("scale that may lie on the ", mg, mg.High)
}

func (p Place) grown(name string, mg units.Reading, lies float64) reason.Worked {
	return thickness.Of(name+p.Title, "mm", reason.Ours, []reason.Input{
		reason.Input{Symbol: "grams", Label: "grown since the last descale, of the water that went through",
			Value: lies / 1000, Unit: "g", Source: reason.Log}.Ranged(mg.Low/1000, mg.High/1000),
		{Symbol: "density", Label: "of porous scale", Value: scale.Porous, Unit: "g/cm³", Source: reason.Ours},
		{Symbol: "area", Label: "of the surface it grows on", Value: float64(p.Surface.Area), Unit: "cm²",
			Source: reason.Ours},
	}, "another water", "another date for the last descale")
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

// daysLeft is how long until a surface reaches its limit.
var daysLeft = reason.MustFormula(
	"min(never, max(0, limit ÷ 10 × density × area × 1000 − lies) ÷ max(rate, 0.000000001))")

// Days is how long until a surface likely reaches its limit from what lies on it already, by scale
// alone: no cap. Without growth it is Never.
func (p Place) Days(mg, mgADay units.Reading) reason.Worked {
	return p.days("days until the "+p.Title+" has its limit", mg, mgADay, mg.Likely, mgADay.Likely)
}

// Early is how long until it may have its limit, by the early end of what is not known: with the
// most that may lie there, and the most that may come a day. It goes on to the late end.
func (p Place) Early(mg, mgADay units.Reading) reason.Worked {
	return p.days("days until the "+p.Title+" may have its limit", mg, mgADay, mg.High, mgADay.High)
}

func (p Place) days(name string, mg, mgADay units.Reading, lies, rate float64) reason.Worked {
	return daysLeft.Of(name, "days", reason.Ours, []reason.Input{
		{Symbol: "never", Label: "shown as never", Value: Never, Unit: "days", Source: reason.Ours},
		{Symbol: "limit", Label: "thickness at which it is due", Value: float64(p.Surface.Limit), Unit: "mm",
			Source: reason.Ours},
		{Symbol: "density", Label: "of porous scale", Value: scale.Porous, Unit: "g/cm³", Source: reason.Ours},
		{Symbol: "area", Label: "of the surface it grows on", Value: float64(p.Surface.Area), Unit: "cm²",
			Source: reason.Ours},
		reason.Input{Symbol: "lies", Label: "lies there already", Value: lies, Unit: "mg", Source: reason.Log}.
			Ranged(mg.Low, mg.High),
		reason.Input{Symbol: "rate", Label: "scale a day", Value: rate, Unit: "mg/day", Source: reason.Ours}.
			Ranged(mgADay.Low, mgADay.High),
	}, "softer water", "fewer drinks", "what treats the water")
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
	until := math.Max(60, math.Min(1460, reaches*1.1))
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

// The calendar school's intervals, months, at the middle of each class of water, mg/L as CaCO3
// (common practice); on a line through them in the logarithm of the months, 12 below the first, on
// along the last line above.
var calendar = [...]struct{ hardness, months float64 }{{30, 12}, {90, 6}, {150, 3}, {250, 2}}

var (
	everyMonths = reason.MustFormula("months × 30.4")
	byHardness  = reason.MustFormula("from × (to ÷ from)^((hardness − soft) ÷ (hard − soft)) × 30.4")
)

// Calendar is the calendar school's interval for a water, in days: by its hardness, every month, or
// none (0).
func Calendar(f machine.Facts, hardness units.Reading) reason.Worked {
	const name = "days between two, by the calendar"
	would := []string{"another hardness", "another calendar: the machine's page"}
	months := func(n float64, why string) reason.Worked {
		return everyMonths.Of(name, "days", reason.Trade,
			[]reason.Input{{Symbol: "months", Label: why, Value: n, Unit: "months", Source: reason.Trade}}, would...)
	}
	switch f.Calendar {
	case "every month":
		return months(1, "every month, because more does no harm, as one school says")
	case "by hardness class":
	default:
		return months(0, "no calendar is kept")
	}
	here := hardness.Likely
	if here <= calendar[0].hardness {
		return months(calendar[0].months, fmt.Sprintf("for soft water, %.0f mg/L", here))
	}
	i := 1
	for i < len(calendar)-1 && here > calendar[i].hardness {
		i++
	}
	a, b := calendar[i-1], calendar[i]
	class := units.Hardness(here / units.MolarCaCO3).USGSClass()
	return byHardness.Of(name, "days", reason.Trade, []reason.Input{
		{Symbol: "hardness", Label: "of the water that reaches the machine: " + class, Value: here, Unit: "mg/L",
			Source: reason.Ours},
		{Symbol: "soft", Label: "a softer water", Value: a.hardness, Unit: "mg/L", Source: reason.Trade},
		{Symbol: "from", Label: "for that one", Value: a.months, Unit: "months", Source: reason.Trade},
		{Symbol: "hard", Label: "a harder water", Value: b.hardness, Unit: "mg/L", Source: reason.Trade},
		{Symbol: "to", Label: "for that one", Value: b.months, Unit: "months", Source: reason.Trade},
	}, would...)
}
