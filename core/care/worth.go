package care

import (
	"cmp"
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"

	"freshanvil/core/circuit"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/treat"
	"freshanvil/core/units"
	"freshanvil/core/water"
)

// Outlook is what a machine's dates, dose and verdicts are worked out from, once its history was
// read: answers, water, what treats it and the use that is believed.
type Outlook struct {
	Answers machine.Answers
	Sample  water.Sample
	How     water.How
	Setting treat.Setting
	Use     circuit.Use
	// Dose is the acid that a descale of a machine with such facts would take, g; 0 where it is
	// refused. Nil leaves the dose out.
	Dose func(machine.Facts) units.Mass
}

// Worth is what it is worth to find one thing out that is not known: how far what is said moves over
// what it may be.
type Worth struct {
	Key   string // of the fact, or the field of the reading
	Label string
	Do    string           // what to do, and how long it takes
	Days  float64          // by which the days between two descales move
	Says  string           // what it moves, in words
	Ends  [2]reason.Worked // the days between two descales at both ends
	score float64
}

// outcome is what is said of a machine, with one thing taken so or so.
type outcome struct {
	every    reason.Worked
	renewed  float64 // days until the treatment is renewed; 0 where it never is
	dose     float64
	way      circuit.Way
	corrodes reason.Verdict
}

// unknown is one thing that may not be known: what it may be, and what to do to know it.
type unknown struct {
	key, label, do string
	// ends are the outlooks with it at both ends, or at each of its choices; none where it is known,
	// or does not concern the machine.
	ends func(Outlook) []Outlook
}

// Worths lists what is not known, most worth first: each alone over what it may be, the others as they
// are taken. What is measured or said is worth nothing, and left out; so is what moves nothing.
func Worths(o Outlook) ([]Worth, error) {
	base, err := o.comesTo()
	if err != nil {
		return nil, err
	}
	var list []Worth
	for _, u := range unknowns {
		all := []outcome{base}
		for _, end := range u.ends(o) {
			x, err := end.comesTo()
			var never *units.OutOfRange
			if errors.As(err, &never) || errors.Is(err, water.ErrNoEquilibrium) {
				continue // such a water, or machine, cannot be
			}
			if err != nil {
				return nil, fmt.Errorf("%s: %w", u.key, err)
			}
			all = append(all, x)
		}
		if w := weigh(all); w.score > leastWorth {
			w.Key, w.Label, w.Do = u.key, u.label, u.do
			list = append(list, w)
		}
	}
	slices.SortStableFunc(list, func(a, b Worth) int { return cmp.Compare(b.score, a.score) })
	return list, nil
}

// comesTo works out what is said of a machine.
func (o Outlook) comesTo() (outcome, error) {
	f := o.Answers.Facts()
	var out outcome
	filled, err := o.Sample.Fill()
	if err != nil {
		return out, err
	}
	after, _, _, err := o.Setting.After(filled, f)
	if err != nil {
		return out, err
	}
	e, err := circuit.EffectOf(after, f)
	if err != nil {
		return out, err
	}
	l, err := circuit.LitresADay(f, o.Use)
	if err != nil {
		return out, err
	}
	places, err := circuit.Places(f)
	if err != nil {
		return out, err
	}
	first := reason.Worked{Value: math.Inf(1)}
	for _, p := range places {
		rate := p.Rate(e, circuit.Day{Amount: l.Amount(), On: f.HoursOn})
		if early := p.Early(units.Reading{}, rate); early.Value < first.Value {
			first = early
		}
	}
	measured := o.How.Measures() && o.Sample.Hardened() && o.Sample.Alkalinity.Known
	out.every = circuit.Decide(first, circuit.Calendar(f, e.Hardness), measured).Every
	out.renewed = o.Setting.Lasts(filled, l.All).Days.Value
	out.way, out.corrodes = circuit.Judge(f).Way, e.Corrosion.Verdict
	if o.Dose != nil && (out.way == circuit.AtHome || out.way == circuit.WithCare) {
		out.dose = float64(o.Dose(f))
	}
	return out, nil
}

// What weighs how much (our own engineering choices): a date or a dose by how many times it may be as
// much, a verdict that turns as much as a date that moves fourfold; below leastWorth nobody needs to
// know.
const (
	verdictTurns = 1.4
	leastWorth   = 0.05
)

// weigh says how far a list of outcomes lies apart, the first being as things are taken.
func weigh(all []outcome) (w Worth) {
	apart := func(of func(outcome) float64) (low, high, by float64) {
		low, high = math.Inf(1), 0
		for _, x := range all {
			low, high = math.Min(low, of(x)), math.Max(high, of(x))
		}
		if low > 0 {
			by = math.Log(high / low)
		} else if high > 0 {
			by = verdictTurns
		}
		return low, high, by
	}
	low, high, by := apart(func(x outcome) float64 { return x.every.Value })
	w.Days, w.score = high-low, by
	for _, x := range all {
		if x.every.Value == low {
			w.Ends[0] = x.every
		}
		if x.every.Value == high {
			w.Ends[1] = x.every
		}
	}
	says := func(text string, args ...any) {
		if w.Says != "" {
			w.Says += "; "
		}
		w.Says += fmt.Sprintf(text, args...)
	}
	if by > leastWorth {
		says("moves the descale by %s", circuit.Spoken(w.Days))
	}
	if from, to, by := apart(func(x outcome) float64 { return x.renewed }); by > leastWorth {
		w.score += by / 2
		says("moves the filter or the salt by %s", circuit.Spoken(to-from))
	}
	if from, to, by := apart(func(x outcome) float64 { return x.dose }); by > leastWorth {
		w.score += by / 2
		if from == 0 {
			says("decides whether a dose can be led")
		} else {
			says("moves the dose by %s g of acid", reason.Figure(to-from, "g"))
		}
	}
	turns := func(of func(outcome) string, text string) {
		if slices.ContainsFunc(all, func(x outcome) bool { return of(x) != of(all[0]) }) {
			w.score += verdictTurns
			says("%s", text)
		}
	}
	turns(func(x outcome) string { return string(x.way) }, "decides who descales it")
	turns(func(x outcome) string { return string(x.corrodes) }, "decides whether it may corrode")
	return w
}

// reading is an unknown of the water: between two ends where it was not read, or not sharply.
func reading(key, label, do string, of func(*water.Sample) *units.Reading, usual func(Outlook) units.Reading) unknown {
	return unknown{key, label, do, func(o Outlook) []Outlook {
		r := *of(&o.Sample)
		if !r.Known {
			r = usual(o)
		}
		if !(r.Low < r.High) {
			return nil
		}
		var list []Outlook
		for _, v := range []float64{r.Low, r.High} {
			end := o
			*of(&end.Sample) = units.Sharp(v)
			list = append(list, end)
		}
		return list
	}}
}

// number is an unknown fact that is a number: between two shares of what is taken.
func number(key, label, do string, low, high float64) unknown {
	return unknown{key, label, do, func(o Outlook) []Outlook {
		return factEnds(o, key, func(k machine.Known) []string {
			v, err := strconv.ParseFloat(k.Value, 64)
			if err != nil || v == 0 {
				return nil
			}
			return []string{strconv.FormatFloat(v*low, 'g', 6, 64), strconv.FormatFloat(v*high, 'g', 6, 64)}
		})
	}}
}

// choice is an unknown fact that is a choice: each of some, and the same of the facts that are found
// out with it.
func choice(key, label, do string, options []string, with ...string) unknown {
	return unknown{key, label, do, func(o Outlook) []Outlook {
		return factEnds(o, key, func(machine.Known) []string { return options }, with...)
	}}
}

// factEnds are the outlooks with a fact that nobody has said taken so and so.
func factEnds(o Outlook, key string, values func(machine.Known) []string, with ...string) []Outlook {
	known := o.Answers.Known()
	i := slices.IndexFunc(known, func(k machine.Known) bool { return k.Key == key })
	if i < 0 || known[i].Set {
		return nil
	}
	var list []Outlook
	for _, v := range values(known[i]) {
		if o.Answers.CheckOverride(key, v) != nil {
			continue
		}
		end := o
		end.Answers.Overrides = maps.Clone(o.Answers.Overrides)
		if end.Answers.Overrides == nil {
			end.Answers.Overrides = map[string]string{}
		}
		end.Answers.Overrides[key] = v
		for _, other := range with {
			if _, said := end.Answers.Overrides[other]; !said && end.Answers.CheckOverride(other, v) == nil {
				end.Answers.Overrides[other] = v
			}
		}
		list = append(list, end)
	}
	return list
}

// shareOf is a range that is a share of the hardness that is taken.
func shareOf(share units.Reading, per float64) func(Outlook) units.Reading {
	return func(o Outlook) units.Reading {
		f, err := o.Sample.Fill()
		if err != nil {
			return units.Reading{}
		}
		return share.Scale(f.Hardness.Likely / per)
	}
}

func always(r units.Reading) func(Outlook) units.Reading {
	return func(Outlook) units.Reading { return r }
}

// What may not be known, with what to do (our own engineering choices where it says how far).
var unknowns = []unknown{
	reading("hardness_mg_l_caco3", "hardness", "Read the hardness with a drop kit: two minutes.",
		func(s *water.Sample) *units.Reading { return &s.Hardness }, always(water.UsualHardness())),
	reading("alkalinity_mg_l_caco3", "alkalinity", "Read the alkalinity with a drop kit: two minutes.",
		func(s *water.Sample) *units.Reading { return &s.Alkalinity }, shareOf(water.UsualAlkalinity(), 1)),
	reading("ca_mg_l", "calcium", "Ask the supplier for the calcium of the water, or look at its yearly report.",
		func(s *water.Sample) *units.Reading { return &s.Calcium }, shareOf(water.UsualCalcium(), water.CalciumAs)),
	reading("ph", "pH", "Read the pH with a meter or a strip: one minute.",
		func(s *water.Sample) *units.Reading { return &s.PH }, always(water.UsualPH())),
	reading("cl_mg_l", "chloride", "Ask the supplier for the chloride of the water, or look at its yearly report.",
		func(s *water.Sample) *units.Reading { return &s.Chloride }, always(units.Reading{Low: 10, Likely: 25, High: 80})),
	number("hours_on", "hours a day switched on", "Say for how many hours a day it is switched on.", 1.0/3, 2),
	number("heater_w", "heater", "Read the watts off the machine's plate.", 0.8, 1.3),
	number("steam_heater_w", "heater of the steam boiler", "Look up the heater of the steam boiler in the manual.",
		0.8, 1.3),
	number("brew_l", "brew water heated", "Look up in the manual how much the brew boiler holds.", 0.6, 1.5),
	number("steam_l", "steam boiler", "Look up in the manual how much the steam boiler holds.", 0.6, 1.5),
	choice("brew_material", "what the boilers are made of",
		"Find out what the boilers are made of: the manual or its maker says.",
		[]string{"copper", "stainless", "aluminium"}, "steam_material"),
	choice("brew_heater", "whether the heaters can be off",
		"Find out whether the heaters can be off while the pump runs: the manual tells.",
		[]string{string(machine.CanBeOff), string(machine.OnHeats)}, "steam_heater"),
	choice("drain", "how the boiler is emptied", "Look how the boiler is emptied: a plug, screws, or its tap.",
		[]string{"tap", "plug", "screws", "technician"}),
}
