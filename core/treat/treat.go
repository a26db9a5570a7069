// Package treat knows what may stand before a machine to treat its water: what
// water then reaches it, how long that lasts, what it costs, and which of them
// leave scale or corrosion.
//
// None stops scale completely. It does not say when a filter was changed (package
// care).
package treat

import (
	"fmt"
	"math"

	"freshanvil/core/machine"
	"freshanvil/core/units"
	"freshanvil/core/water"
)

// Setting is one treatment with its numbers. What does not apply is zero.
type Setting struct {
	Kind machine.Treatment `json:"kind"`
	// Rated is the litres on the box, at Rating mg/L as CaCO3 and RatedBypass.
	Rated       float64 `json:"rated_l,omitempty"`
	Rating      float64 `json:"rating_mg_l,omitempty"`
	RatedBypass float64 `json:"rated_bypass,omitempty"`
	Bypass      float64 `json:"bypass,omitempty"` // share that goes past it
	Takes       float64 `json:"takes,omitempty"`  // share of carbonate hardness a resin in hydrogen form takes
	Days        float64 `json:"days,omitempty"`   // never longer
	Resin       float64 `json:"resin_l,omitempty"`
	Salt        float64 `json:"salt_g,omitempty"` // a regeneration
	Pass        float64 `json:"pass,omitempty"`   // share of the ions a membrane lets through
	// Loose is a pouch that lies in the tank's water; else a filter in the tank sits at its intake.
	Loose bool `json:"loose,omitempty"`
	// Blend is the share of tap water put back; below 0 it is worked out.
	Blend   float64 `json:"blend,omitempty"`
	Price   float64 `json:"price"`             // of a cartridge or a membrane
	SaltKg  float64 `json:"salt_kg,omitempty"` // price of a kilogram of salt
	Litre   float64 `json:"litre"`             // price of a litre of its water
	Minutes float64 `json:"minutes"`           // of work each time
	// a bottle's label, mg/L as CaCO3
	Hardness   float64 `json:"hardness_mg_l,omitempty"`
	Alkalinity float64 `json:"alkalinity_mg_l,omitempty"`
}

// Titles of the treatments, as a person calls them.
var titles = map[machine.Treatment]string{
	machine.Untreated: "nothing", machine.Jug: "filter jug", machine.InTank: "filter in the tank",
	machine.UnderSink: "filter under the sink",
	machine.Softener:  "softener with salt", machine.ReverseOsmosis: "reverse osmosis", machine.Bottled: "bottled water",
}

// Title is a treatment in plain words.
func Title(k machine.Treatment) string { return titles[k] }

// The usual numbers: shares and bottle our own, life of filters common practice
// (over 500 L under the sink, under 250 L in the tank, two months there), prices
// invented placeholders, to be replaced by the user's. A litre of tap water costs tapLitre; a
// membrane lets three litres go for one.
const tapLitre = 0.003

var usual = []Setting{
	{Kind: machine.Untreated, Litre: tapLitre},
	{Kind: machine.Jug, Rated: 100, Rating: 178, Takes: 0.6, Days: 30, Price: 7, Litre: tapLitre, Minutes: 3},
	{Kind: machine.InTank, Rated: 200, Rating: 178, Takes: 0.5, Days: 60, Price: 18, Litre: tapLitre, Minutes: 8},
	{
		Kind:        machine.UnderSink,
		Rated:       1500,
		Rating:      178,
		RatedBypass: 0.3,
		Bypass:      0.3,
		Takes:       0.9,
		Days:        365,
		Price:       140,
		Litre:       tapLitre,
		Minutes:     20,
	},
	{Kind: machine.Softener, Resin: 0.2, Salt: 18, SaltKg: 1.5, Litre: tapLitre, Minutes: 10},
	{Kind: machine.ReverseOsmosis, Pass: 0.05, Blend: -1, Days: 365, Price: 80, Minutes: 45, Litre: 4 * tapLitre},
	{Kind: machine.Bottled, Litre: 0.4, Hardness: 60, Alkalinity: 50},
}

// Usual is the treatment with its usual numbers.
func Usual(k machine.Treatment) Setting {
	for _, s := range usual {
		if s.Kind == k {
			return s
		}
	}
	return usual[0]
}

// Check refuses numbers that no treatment has; the error is a *units.OutOfRange
// with the contract's field.
func (s Setting) Check() error {
	u := Usual(s.Kind)
	if u.Kind != s.Kind {
		return &units.OutOfRange{
			Field:   "kind",
			Value:   string(s.Kind),
			Allowed: "none, jug, in_tank, under_sink, softener, reverse_osmosis, bottled",
		}
	}
	if s.Loose && s.Kind != machine.InTank {
		return &units.OutOfRange{Field: "loose", Value: "true", Allowed: "only for a filter in the tank"}
	}
	for _, x := range []struct {
		field     string
		v         float64
		low, high float64
		needed    bool // only where the usual one has it
	}{
		{"rated_l", s.Rated, 1, 100000, u.Rated > 0}, {"rating_mg_l", s.Rating, 10, 1000, u.Rated > 0},
		{"rated_bypass", s.RatedBypass, 0, 0.9, u.Rated > 0}, {"bypass", s.Bypass, 0, 0.9, u.Rated > 0},
		{"takes", s.Takes, 0.05, 1, u.Takes > 0}, {"days", s.Days, 1, 3650, u.Days > 0},
		{"resin_l", s.Resin, 0.02, 100, u.Resin > 0}, {"salt_g", s.Salt, 1, 20000, u.Salt > 0},
		{"pass", s.Pass, 0.005, 0.5, u.Pass > 0}, {"blend", s.Blend, -1, 1, u.Pass > 0},
		{"price", s.Price, 0, 100000, true}, {"salt_kg", s.SaltKg, 0, 1000, u.Salt > 0},
		{"litre", s.Litre, 0, 1000, true}, {"minutes", s.Minutes, 0, 600, true},
		{"hardness_mg_l", s.Hardness, 0, 1000, u.Hardness > 0}, {"alkalinity_mg_l", s.Alkalinity, 0, 1000, u.Hardness > 0},
	} {
		switch {
		case !x.needed && x.v != 0:
			return &units.OutOfRange{
				Field:   x.field,
				Value:   fmt.Sprint(x.v),
				Allowed: "nothing: " + Title(s.Kind) + " has no such number",
			}
		case x.needed && !(x.v >= x.low && x.v <= x.high):
			return &units.OutOfRange{
				Field:   x.field,
				Value:   fmt.Sprint(x.v),
				Allowed: fmt.Sprintf("%g to %g", x.low, x.high),
			}
		}
	}
	return nil
}

// The window an espresso machine's water is aimed at, hardness in mg/L as CaCO3 (Specialty
// Coffee Association, water handbook 2018, from memory), and the alkalinity aimed
// at (our own choice).
const (
	leastHardness, mostHardness = 50.0, 175.0

	leastAlkalinity, mostAlkalinity units.Alkalinity = 40, 75
	aimAlkalinity                   units.Alkalinity = 50
)

// InWindow says whether a water lies in the window.
func InWindow(hard units.Hardness, alkalinity units.Alkalinity) bool {
	const slack = 1e-6
	hardness := hard.In(units.MgPerLCaCO3)
	return hardness >= leastHardness-slack && hardness <= mostHardness+slack && alkalinity >= leastAlkalinity-slack &&
		alkalinity <= mostAlkalinity+slack
}

// Blended is the share of tap water that brings a pure water into the window,
// as near as can be to the alkalinity aimed at; false where none does, with the
// share that comes to that alkalinity.
func Blended(tap, pure water.Water) (share float64, lands bool) {
	low, high := 0.0, 1.0
	hard := func(w water.Water) float64 { return w.Hard().In(units.MgPerLCaCO3) }
	for _, x := range []struct{ tap, pure, least, most float64 }{
		{hard(tap), hard(pure), leastHardness, mostHardness},
		{float64(tap.Alk()), float64(pure.Alk()), float64(leastAlkalinity), float64(mostAlkalinity)},
	} {
		if d := x.tap - x.pure; d > 1e-9 {
			low, high = math.Max(low, (x.least-x.pure)/d), math.Min(high, (x.most-x.pure)/d)
		} else if x.tap < x.least || x.tap > x.most {
			return 0, false
		}
	}
	aim := 0.0
	if d := tap.Alk() - pure.Alk(); d > 1e-9 {
		aim = math.Max(0, math.Min(1, float64((aimAlkalinity-pure.Alk())/d)))
	}
	if low > high {
		return aim, false
	}
	return math.Max(low, math.Min(high, aim)), true
}

// Stands says whether a water stands open, and so gives off carbon dioxide, before it is treated and
// after: in the tank of a machine, or in a jug. From the mains and behind a cartridge at the intake
// it is heated at once.
func (s Setting) Stands(m machine.Facts) (before, after bool) {
	switch {
	case s.Kind == machine.Jug || s.Kind == machine.Bottled:
		return false, true
	case m.Plumbed:
		return false, false
	case s.Kind == machine.InTank && !s.Loose:
		return true, false
	}
	return false, true
}

// After is a water as a machine gets it behind the treatment, after it stood open where it does; and
// the share of tap water in it where one is blended in.
func (s Setting) After(f water.Filled, m machine.Facts) (after water.Filled, blend float64, lands bool, err error) {
	opensBefore, opensAfter := s.Stands(m)
	if opensBefore {
		if f, err = f.Stood(water.LostInTheOpen(), water.OpenAt); err != nil {
			return f, 0, false, err
		}
	}
	if after, blend, lands, err = s.Behind(f); err == nil && opensAfter {
		after, err = after.Stood(water.LostInTheOpen(), water.OpenAt)
	}
	return after, blend, lands, err
}

// Untreated is the water as a machine gets it where the treatment is exhausted: as it came, after it
// stood open where it does.
func (s Setting) Untreated(f water.Filled, m machine.Facts) (water.Filled, error) {
	if before, after := s.Stands(m); !before && !after {
		return f, nil
	}
	return f.Stood(water.LostInTheOpen(), water.OpenAt)
}

// Behind is a water just behind the treatment, before it stands anywhere, and the share of tap water in
// it where one is blended in.
func (s Setting) Behind(f water.Filled) (after water.Filled, blend float64, lands bool, err error) {
	switch s.Kind {
	case machine.Jug, machine.InTank, machine.UnderSink:
		return f.Through(func(w water.Water) water.Water {
			return w.Blend(s.Bypass, w.Softened(s.Takes*math.Min(w.Calcium+w.Magnesium, w.Alkalinity/2)))
		}), 0, true, nil
	case machine.Softener:
		after = f.Through(func(w water.Water) water.Water { return w.Blend(s.Bypass, w.Exchanged(1)) })
		after.Softened = true
		return after, 0, true, nil
	case machine.ReverseOsmosis:
		blend, lands = s.Blend, true
		if blend < 0 {
			blend, lands = Blended(f.Water, f.Water.Permeate(s.Pass))
		}
		return f.Through(
			func(w water.Water) water.Water { return w.Blend(blend, w.Permeate(s.Pass)) },
		), blend, lands, nil
	case machine.Bottled:
		bottle, err := water.Sample{Hardness: units.Sharp(s.Hardness), Alkalinity: units.Sharp(s.Alkalinity)}.Fill()
		return bottle, 0, true, err
	}
	return f, 0, true, nil
}
