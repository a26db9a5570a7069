package treat

import (
	"errors"
	"fmt"
	"math"
	"sync"

	"freshanvil/core/circuit"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
	"freshanvil/core/water"
)

// Life is how long a treatment lasts; zero litres and days where nothing is
// renewed.
type Life struct {
	Litres reason.Worked // to exhaustion at this hardness
	Days   reason.Worked // at this use, and by its calendar
}

// equivalents and masses of the regeneration
const (
	resinHolds = 1.0 // eq a litre of resin (our own choice for a home's)
	saltWorks  = 0.5 // of the salt (our own choice)
	endless    = 1e6 // litres: shown as without end
)

// Lasts is the life behind a water at so many litres a day.
func (s Setting) Lasts(f water.Filled, litres reason.Worked) Life {
	var l Life
	ours := func(symbol, label string, v float64, unit string) reason.Input {
		return reason.Input{Symbol: symbol, Label: label, Value: v, Unit: unit, Source: reason.Said}
	}
	would := []string{"softer water", "a larger cartridge", "fewer drinks"}
	switch {
	case s.Rated > 0:
		ch := math.Min(f.Hardness.Likely, f.Alkalinity.Likely)
		l.Litres = reason.Worked{
			Name:        "litres until it is exhausted",
			Unit:        "L",
			Formula:     "min(endless, rated × rating ÷ max(hardness, 0.001) × (1 − rated_bypass) ÷ (1 − bypass))",
			Source:      reason.Trade,
			WouldChange: would,
			Value:       math.Min(endless, s.Rated*s.Rating/math.Max(ch, 0.001)*(1-s.RatedBypass)/(1-s.Bypass)),
			Inputs: []reason.Input{
				ours("endless", "shown as without end", endless, "L"),
				ours("rated", "litres on the box", s.Rated, "L"),
				ours("rating", "at a carbonate hardness of", s.Rating, "mg/L"),
				{
					Symbol: "hardness",
					Label:  "carbonate hardness here: the smaller of hardness and alkalinity",
					Value:  ch,
					Unit:   "mg/L",
					Source: reason.Ours,
				},
				ours(
					"rated_bypass",
					"goes past it, by the box",
					s.RatedBypass,
					"",
				),
				ours("bypass", "goes past it here", s.Bypass, ""),
			},
		}.Exact()
	case s.Resin > 0:
		l.Litres = reason.Worked{
			Name:        "litres until the next regeneration",
			Unit:        "L",
			Formula:     "min(endless, min(resin × holds, salt ÷ mass × works) × equivalent × 1000 ÷ max(hardness, 0.001))",
			Source:      reason.Ours,
			WouldChange: would,
			Value: math.Min(
				endless,
				math.Min(
					s.Resin*resinHolds,
					s.Salt/units.MolarNaCl*saltWorks,
				)*units.EquivalentCaCO3*1000/math.Max(
					f.Hardness.Likely,
					0.001,
				),
			),
			Inputs: []reason.Input{
				ours("endless", "shown as without end", endless, "L"),
				ours("resin", "resin", s.Resin, "L"),
				{
					Symbol: "holds",
					Label:  "a litre of resin holds",
					Value:  resinHolds,
					Unit:   "eq/L",
					Source: reason.Ours,
				},
				ours("salt", "salt of a regeneration", s.Salt, "g"),
				{
					Symbol: "mass",
					Label:  "molar mass of salt",
					Value:  units.MolarNaCl,
					Unit:   "g/mol",
					Source: handbook,
				},
				{Symbol: "works", Label: "of the salt that works", Value: saltWorks, Source: reason.Ours},
				{
					Symbol: "equivalent",
					Label:  "of calcium carbonate",
					Value:  units.EquivalentCaCO3,
					Unit:   "g/eq",
					Source: handbook,
				},
				{
					Symbol: "hardness",
					Label:  "total hardness here",
					Value:  f.Hardness.Likely,
					Unit:   "mg/L",
					Source: reason.Ours,
				},
			},
		}.Exact()
	}
	if s.Days == 0 && l.Litres.Name == "" {
		return l
	}
	l.Days = reason.Worked{
		Name:        "days until it is renewed",
		Unit:        "days",
		Source:      reason.Ours,
		Value:       math.Inf(1),
		WouldChange: would,
	}
	var terms []string
	if l.Litres.Name != "" {
		l.Days.Value = math.Min(circuit.Never, l.Litres.Value/math.Max(litres.Value, 0.001))
		terms = append(terms, "min(never, litres ÷ max(use, 0.001))")
		l.Days.Inputs = append(
			l.Days.Inputs,
			reason.Input{
				Symbol: "never",
				Label:  "shown as never",
				Value:  circuit.Never,
				Unit:   "days",
				Source: reason.Ours,
			},
			l.Litres.AsInput("litres"),
			litres.AsInput("use"),
		)
	}
	if s.Days > 0 {
		l.Days.Value = math.Min(l.Days.Value, s.Days)
		terms = append(terms, "calendar")
		l.Days.Inputs = append(
			l.Days.Inputs,
			reason.Input{
				Symbol: "calendar",
				Label:  "never longer than",
				Value:  s.Days,
				Unit:   "days",
				Source: reason.Trade,
			},
		)
	}
	if l.Days.Formula = terms[0]; len(terms) > 1 {
		l.Days.Formula = "min(" + terms[0] + ", " + terms[1] + ")"
	}
	l.Days = l.Days.Exact()
	return l
}

var handbook = reason.Source{Kind: reason.Published, Which: "molar masses, IUPAC"}

// Row is a treatment for one water, machine and use.
type Row struct {
	Setting       Setting
	After         water.Filled
	Effect        circuit.Effect
	Blend         *reason.Worked // share of tap water, where one is blended in
	Shown         Shown
	InWindow      bool
	Life          Life
	Scale         reason.Worked // grams a year, all surfaces
	Descale       reason.Worked // days from clean: scale, calendar, a year
	DecidedBy     circuit.Decider
	Cost, Minutes reason.Worked // a year
	Because       []reason.Reason
}

// leaves says in words what each kind leaves, and how often it asks for somebody.
var leaves = map[machine.Treatment]string{
	machine.Jug: "It takes part of the carbonate hardness, less towards its end, and asks for a new cartridge about " +
		"every month; what it leaves still scales, more so since the water stands open.",
	machine.InTank: "It takes about half of the carbonate hardness and asks for a new one every two months.",
	machine.UnderSink: "It takes most of the carbonate hardness but for what is let past it, and asks for a new one " +
		"when its litres are through, a year at most.",
	machine.Softener: "Its sum is next to no scale while it is fresh; towards the end of its salt hardness slips " +
		"through, so that it, too, does not stop scale completely.",
}

// atUsualPrices says whether nobody has typed in prices of their own.
func (s Setting) atUsualPrices() bool {
	u := Usual(s.Kind)
	return s.Price == u.Price && s.Litre == u.Litre && s.SaltKg == u.SaltKg
}

// Lay works one treatment out.
func Lay(s Setting, f water.Filled, m machine.Facts, l circuit.Litres) (Row, error) {
	return lay(s, f, m, l, Known{})
}

func lay(s Setting, f water.Filled, m machine.Facts, l circuit.Litres, k Known) (Row, error) {
	after, blend, lands, err := s.After(f, m)
	if err != nil {
		return Row{}, err
	}
	e, err := circuit.EffectOf(after, m)
	if err != nil {
		return Row{}, fmt.Errorf("behind %s: %w", Title(s.Kind), err)
	}
	r := Row{
		Setting:  s,
		After:    after,
		Effect:   e,
		Life:     s.Lasts(f, l.All),
		InWindow: InWindow(units.Hardness(after.Hardness.Likely/units.MolarCaCO3), units.Alkalinity(after.Alkalinity.Likely)),
	}
	r.Shown = s.Shows(f, after, blend, e)
	say := func(source reason.Source, text string, args ...any) {
		r.Because = append(r.Because, reason.Reason{Text: fmt.Sprintf(text, args...), Source: source})
	}
	if s.Kind == machine.ReverseOsmosis {
		w := reason.Worked{
			Name:    "share of tap water in the blend",
			Value:   blend,
			Formula: "share",
			Source:  reason.Ours,
			Inputs: []reason.Input{
				{
					Symbol: "share",
					Label:  fmt.Sprintf("as near to an alkalinity of %.0f mg/L as the window lets it", aimAlkalinity),
					Value:  blend,
					Source: reason.Ours,
				},
			},
			WouldChange: []string{"another water", "your own blend"},
		}.Exact()
		r.Blend = &w
		if !lands {
			say(
				reason.Ours,
				"No blend of this water lands in the window of hardness %.0f to %.0f and alkalinity %.0f to %.0f mg/L.",
				leastHardness,
				mostHardness,
				leastAlkalinity,
				mostAlkalinity,
			)
		}
	}
	if what, any := leaves[s.Kind]; any {
		say(reason.Trade, "%s", what)
	}
	if s.Kind == machine.Softener {
		say(
			reason.Ours,
			"It adds %.0f mg/L of sodium: for one who must not have it, another treatment.",
			after.Sodium.Likely-float64(f.Water.SodiumMg()),
		)
		say(reason.Trade, "The alkalinity stays, so the water keeps its pH; without regeneration it does nothing.")
	}
	if why, any := water.Probe(after); any && m.SteamBoiler > 0 && m.Pump != machine.NoPump {
		r.Because = append(r.Because, why)
	}
	if s.Takes > 0 {
		say(reason.Trade, "Let water through at least weekly: bacteria grow in a cartridge that stands still.")
	}
	if s.Kind == machine.Bottled {
		say(
			reason.Ours,
			"By the label: hardness %.0f and alkalinity %.0f mg/L are taken until you type in yours.",
			s.Hardness,
			s.Alkalinity,
		)
	}
	places, err := circuit.Places(m)
	if err != nil {
		return r, err
	}
	for i := range places {
		places[i].Share = k.Share
	}
	r.weighUp(places, m, l, k.Measured)
	return r, nil
}

// Known is what is known beside a water and a use.
type Known struct {
	Share    float64 // of what falls out that stays in the machine, as calibrated; 0 is all
	Measured bool    // hardness and alkalinity were measured, so that the scale decides
}

// Table lays treatments out side by side, each worked out by itself.
func Table(list []Setting, f water.Filled, m machine.Facts, l circuit.Litres, k Known) ([]Row, error) {
	rows, errs := make([]Row, len(list)), make([]error, len(list))
	var all sync.WaitGroup
	for i, s := range list {
		all.Go(func() { rows[i], errs[i] = lay(s, f, m, l, k) })
	}
	all.Wait()
	return rows, errors.Join(errs...)
}

// weighUp works scale, dates, cost and work out.
func (r *Row) weighUp(places []circuit.Place, m machine.Facts, l circuit.Litres, measured bool) {
	would := []string{"another treatment", "more or fewer drinks"}
	r.Scale = reason.Worked{Name: "scale a year, all surfaces", Unit: "g", Spread: reason.Bounds, Source: reason.Ours,
		WouldChange: would}
	var first reason.Worked
	for i, p := range places {
		rate := p.Worked(r.Effect, l, m.HoursOn)
		symbol := fmt.Sprintf("s%d", i+1)
		term := fmt.Sprintf("%s × n%d", symbol, i+1)
		if i > 0 {
			r.Scale.Formula += " + "
		}
		r.Scale.Formula += term
		r.Scale.Inputs = append(
			r.Scale.Inputs,
			rate.AsInput(symbol),
			reason.Input{
				Symbol: fmt.Sprintf("n%d", i+1),
				Label:  "of them",
				Value:  float64(p.Count),
				Source: reason.Ours,
			},
		)
		n := float64(p.Count) * 0.365
		r.Scale.Value, r.Scale.Low, r.Scale.High = r.Scale.Value+rate.Value*n, r.Scale.Low+rate.Low*n,
			r.Scale.High+rate.High*n
		early := p.Early(units.Reading{}, p.Rate(r.Effect, circuit.Day{Amount: l.Amount(), On: m.HoursOn}))
		if i == 0 || early.Value < first.Value {
			first = early
		}
	}
	r.Scale.Formula = "(" + r.Scale.Formula + ") × 365 ÷ 1000"
	d := circuit.Decide(first, circuit.Calendar(m, r.Effect.Hardness), measured)
	r.Descale, r.DecidedBy = d.Every, d.By
	guess := ""
	if r.Setting.atUsualPrices() {
		guess = ": a placeholder until you type in yours"
	}
	price := func(name, unit string, each, litre float64) reason.Worked {
		guess := guess
		if unit != "money" {
			guess = ""
		}
		w := reason.Worked{
			Name:        name,
			Unit:        unit,
			Source:      reason.Said,
			WouldChange: []string{"other prices", "more or fewer drinks"},
			Formula:     "365 × use × litre",
			Value:       365 * l.All.Value * litre,
			Inputs: []reason.Input{
				l.All.AsInput("use"),
				{Symbol: "litre", Label: "a litre" + guess, Value: litre, Unit: unit, Source: reason.Said},
			},
		}
		if r.Life.Days.Value > 0 {
			w.Formula, w.Value = w.Formula+" + 365 ÷ days × each", w.Value+365/r.Life.Days.Value*each
			w.Inputs = append(
				w.Inputs,
				r.Life.Days.AsInput("days"),
				reason.Input{Symbol: "each", Label: "each renewal" + guess, Value: each, Unit: unit, Source: reason.Said},
			)
		}
		return w.Exact()
	}
	r.Cost, r.Minutes = price(
		"cost a year",
		"money",
		r.Setting.Price+r.Setting.Salt/1000*r.Setting.SaltKg,
		r.Setting.Litre,
	), price(
		"work a year",
		"min",
		r.Setting.Minutes,
		0,
	)
}
