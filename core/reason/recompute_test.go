package reason_test

import (
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"testing"
	"time"
	"unicode"

	"gonum.org/v1/gonum/mathext"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/circuit"
	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/run"
	"freshanvil/core/scale"
	"freshanvil/core/supply"
	"freshanvil/core/task"
	"freshanvil/core/treat"
	"freshanvil/core/units"
	"freshanvil/core/use"
	"freshanvil/core/water"
)

// Every number that is shown can be opened: its formula, evaluated over the
// inputs listed beside it, gives the number, and over what the inputs may be, its range. (The range
// of a forecast is a chance, not what its inputs may be: TestRangeHolds holds that.) The evaluator
// reads the formula as a person would and shares no code with the rules.
func TestEveryWorkedNumberFollowsFromItsInputs(t *testing.T) {
	now := time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)
	seen, ranged := map[string]bool{}, map[string]int{}
	var check func(reason.Worked)
	check = func(w reason.Worked) {
		seen[w.Name] = true
		if w.Formula == "" || len(w.Inputs) == 0 || w.Source.Kind == "" || len(w.WouldChange) == 0 || w.Name == "" {
			t.Errorf("%q is not said in full: %+v", w.Name, w)
		}
		values := map[string]float64{}
		for _, in := range w.Inputs {
			if in.Label == "" || in.Source.Kind == "" {
				t.Errorf("%s: input %q is not said in full", w.Name, in.Symbol)
			}
			values[in.Symbol] = in.Value
			if in.Worked != nil {
				if in.Worked.Value != in.Value {
					t.Errorf("%s: input %s is %v, worked out as %v", w.Name, in.Symbol, in.Value, in.Worked.Value)
				}
				check(*in.Worked)
			}
		}
		got, err := evaluate(w.Formula, values)
		if err != nil || math.Abs(got-w.Value) > 1e-9*math.Max(1, math.Abs(w.Value)) {
			t.Errorf("%s is %v, but %s gives %v (%v)", w.Name, w.Value, w.Formula, got, err)
		}
		if w.Low > w.Value || w.Value > w.High {
			t.Errorf("%s: %v is outside %v to %v", w.Name, w.Value, w.Low, w.High)
		}
		if w.Low < w.High && w.Spread != reason.Chance {
			ranged[w.Name]++
			if low, high := corners(w, values); !near(low, w.Low) || !near(high, w.High) {
				t.Errorf("%s is from %v to %v, but %s over what its inputs may be gives %v to %v", w.Name, w.Low, w.High,
					w.Formula, low, high)
			}
		}
		if w.Low < w.High && w.Spread == "" {
			t.Errorf("%s: nobody says what %v to %v means", w.Name, w.Low, w.High)
		}
	}
	for _, rate := range []float64{0, 3, 82} {
		element, err := scale.Element(1100)
		if err != nil {
			t.Fatal(err)
		}
		for _, s := range []scale.Surface{element, scale.Tube()} {
			d, err := s.Grows(units.Sharp(rate))
			if err != nil {
				t.Fatal(err)
			}
			check(d.Days)
		}
	}
	for _, hardness := range []float64{0, 60, 260} {
		f, err := water.Sample{Hardness: units.Sharp(hardness)}.Fill()
		if err != nil {
			t.Fatal(err)
		}
		for _, l := range machine.Layouts() {
			a := machine.Answers{
				Layout:     l,
				Valve:      machine.Yes,
				Drinks:     4,
				MilkDrinks: 2,
				Overrides:  map[string]string{"hot_water_l": "0.4"},
			}
			for _, drinks := range []float64{0, 6} {
				litres, err := circuit.LitresADay(a.Facts(), circuit.UseOf(drinks, drinks/2))
				if err != nil {
					t.Fatal(err)
				}
				for _, k := range machine.Treatments() {
					r, err := treat.Lay(treat.Usual(k), f, a.Facts(), litres)
					if err != nil {
						t.Fatal(err)
					}
					for _, w := range []reason.Worked{r.Shown.Hardness, r.Shown.Alkalinity, r.Shown.PH, r.Shown.Falls, r.Scale,
						r.Descale, r.Cost, r.Minutes, r.Life.Litres, r.Life.Days} {
						if w.Name != "" {
							check(w)
						}
					}
					if r.Blend != nil {
						check(*r.Blend)
					}
					h := care.History{
						Waters: []care.Regime{
							{Effect: r.Effect, Renew: &care.Renewal{Task: task.FilterChange, Litres: 50, Days: 60}},
						},
						Done: []care.Done{
							{Task: task.Descale, At: now.AddDate(0, 0, -20)},
							{Task: task.FilterChange, At: now.AddDate(0, 0, -20)},
						},
					}
					d, err := care.DescalingOf(a, h, now, time.UTC)
					if err != nil {
						t.Fatal(err)
					}
					filter, _, err := care.Renewing(a, h, now, time.UTC)
					if err != nil {
						t.Fatal(err)
					}
					all := []reason.Worked{
						d.Litres.All,
						d.Litres.Steam,
						d.Calendar,
						d.ByScale,
						d.Decided.Every,
						d.Due.Days,
						filter.Days,
						d.Use.Milk,
					}
					for _, p := range d.Places {
						all = append(all, p.Rate, p.Grown, p.Most(), p.Days, p.Early, p.Predicted())
						if p.Hotter != nil {
							all = append(all, *p.Hotter)
						}
					}
					for _, c := range append(d.Due.Clocks, filter.Clocks...) {
						all = append(all, c.Used)
					}
					for _, w := range all {
						check(w)
					}
				}
			}
		}
	}
	for _, l := range machine.Layouts() {
		f := machine.Answers{Layout: l}.Facts()
		for _, p := range descale.Products() {
			c, err := descale.Mix(p, 0, descale.Circuits(f, units.Between(1, 3), units.Sharp(4)))
			if err != nil {
				t.Fatal(err)
			}
			for _, w := range []reason.Worked{c.Solution, c.Measure, c.ALitre, c.Fresh, c.Ounces, c.Spoons} {
				if w.Name != "" {
					check(w)
				}
			}
			for _, n := range c.Needs {
				for _, w := range []reason.Worked{n.Fill, n.Strength, n.Takes, n.Fills, n.Rinse.Flush, n.Rinse.More,
					n.Rinse.Refills, n.Leaves} {
					if w.Name != "" {
						check(w)
					}
				}
			}
		}
		checkSitting(t, l, check)
		cool := descale.Cooling{From: 120, Air: 22, Tau: f.Cooling}
		check(cool.Opens(false))
		check(cool.Opens(true))
	}
	check(descale.Calibrate(0.9, 3, 5))
	check(descale.Calibrate(0.9, 3, 0))
	for _, in := range water.InAllUnits(units.UnknownHardness()) {
		check(in.Shown)
	}
	for _, l := range machine.Layouts() {
		for _, drinks := range []float64{0, 3, 14, 200} {
			for _, ago := range []time.Duration{time.Hour, 40 * time.Hour, 400 * time.Hour, 5000 * time.Hour} {
				a := machine.Answers{
					Layout:    l,
					Valve:     machine.Yes,
					Drinks:    drinks,
					Hardness:  units.UnknownHardness(),
					Treatment: machine.Untreated,
				}
				h := care.History{
					Done: []care.Done{{Task: task.Wash, Part: machine.Group(1), At: now.Add(-ago)},
						{Task: task.Seal, Part: machine.Group(1), At: now.Add(-ago)}, {Task: task.Soak, At: now.Add(-ago)}},
					Log: use.Log{LoggedSince: now.Add(-ago / 2)},
				}
				h.Events = []use.Event{
					{Kind: use.Single, Count: 7, From: now.Add(-ago / 3), To: now.Add(-ago / 3)},
				}
				for _, d := range care.AllDue(a, h, now, time.UTC) {
					for _, c := range d.Clocks {
						check(c.Used)
					}
					if d.State != care.Unrecorded {
						check(d.Days)
					}
				}
				none := a
				none.Valve = machine.No
				schools(check, t, none, h, now)
				if l == machine.LeverManual {
					continue
				}
				schools(check, t, a, h, now)
				perDay := care.PerDay(a, care.Choice{})
				check(perDay)
				tub := supply.Tub{Form: backflush.Powder, Amount: 100, Holds: 500, GramTsp: 6, Price: 12}
				for _, used := range []float64{0, 40, 120} {
					o := tub.Look(
						used,
						3,
						[]supply.Need{
							{Machine: "a", PerDay: perDay, Dose: 3},
							{Machine: "b", PerDay: perDay, Dose: 1.5},
						},
					)
					for _, w := range []reason.Worked{o.Left, o.Washes, o.Days, o.Wash} {
						check(w)
					}
				}
				for _, in := range []backflush.Detergent{backflush.UsualPowder, {Form: backflush.Tablets}} {
					soak, err := backflush.SoakDose(in)
					if err != nil {
						t.Fatal(err)
					}
					check(soak.Mass)
				}
				for _, dirty := range []bool{false, true} {
					p, err := job.Wash(
						a,
						backflush.HalfTeaspoon,
						backflush.UsualPowder,
						job.Target{Group: 1, Dirty: dirty},
					)
					if err != nil {
						t.Fatal(err)
					}
					for _, w := range []reason.Worked{p.Minutes, p.TankUses, p.TrayGets, p.Activities[0].Wash.Rinse.Model,
						p.Activities[0].Wash.Rinse.Shown, p.Activities[0].Wash.Rinse.Residue,
						run.Water{Pulses: 7, Flushed: 50}.Worked("water in the tray", p.Setups[0].Vents),
						run.Water{Pulses: 7, Flushed: 50}.Left(p.Setups[0].Tank, p.Setups[0].Vents)} {
						check(w)
					}
					for _, s := range p.Steps() {
						if act, _ := job.BodyOf[job.Act](s); act.FlushTime != nil {
							check(*act.FlushTime)
						}
					}
					if p.Activities[0].Wash.Dose != nil {
						check(p.Activities[0].Wash.Dose.Mass)
					}
				}
			}
		}
	}
	if len(ranged) < 12 {
		t.Errorf("only %d kinds of range were worked out anew: %v", len(ranged), ranged)
	}
	if len(seen) < 40 {
		t.Errorf("only %d kinds of number were seen: %v", len(seen), seen)
	}
}

// schools checks what every school, every method and a learned interval show.
func schools(check func(reason.Worked), t *testing.T, a machine.Answers, h care.History, now time.Time) {
	t.Helper()
	a.Overrides = map[string]string{"own_program": "yes"}
	if a.Layout == machine.LeverManual {
		a.Overrides = nil
	}
	h.LoggedUntil = now.Add(now.Sub(h.LoggedSince) / -4) // a reading, and nothing since
	pace := use.PaceOf(a.Drinks, 1, a.Facts().Groups, h.Log, now, time.UTC)
	check(pace.Mean())
	var choices []care.Choice
	for _, s := range care.SchoolsFor(a) {
		c, err := care.Pick(a, s.ID)
		if err != nil {
			t.Fatal(err)
		}
		choices = append(choices, c)
	}
	own, err := care.Pair(a, backflush.Soak, nil, care.OwnNumbers, care.Interval{Litres: 20, Coffee: 700, Counter: 90})
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range append(choices, own) {
		r, err := job.Lay(a, c, pace.Mean(), backflush.UsualPowder)
		if err != nil {
			t.Fatal(err)
		}
		for _, w := range []reason.Worked{r.Days, r.Shots, r.Times, r.Grams, r.Minutes} {
			check(w)
		}
		h.Choice = c
		for _, d := range care.AllDue(a, h, now, time.UTC) {
			if d.State == care.Unrecorded {
				continue
			}
			for _, k := range d.Clocks {
				check(k.Used)
			}
			if d.State != care.Unrecorded {
				check(d.Days)
			}
		}
		l := care.Learn(a, c, []care.Graded{{At: now, Part: machine.Group(1), First: backflush.ColourDark, Gone: 1}})
		if l.Proposed {
			check(l.Factor)
		}
		if c.Method != "" {
			p, err := job.Wash(a, c.Method, backflush.UsualPowder, job.Target{Group: 1})
			if err != nil {
				t.Fatal(err)
			}
			for _, w := range []reason.Worked{p.Minutes, p.TankUses, p.TrayGets, p.Activities[0].Wash.Rinse.Model,
				p.Activities[0].Wash.Rinse.Shown, p.Activities[0].Wash.Rinse.Residue, p.Activities[0].Wash.Dose.Mass} {
				check(w)
			}
		}
	}
	if a.Facts().Valve.Vents() {
		p, err := job.Wash(a, backflush.WaterOnly, backflush.UsualPowder, job.Target{Group: 1})
		if err != nil {
			t.Fatal(err)
		}
		check(p.Activities[0].Wash.Rinse.Shown)
		check(p.Minutes)
	}
}

// evaluate reads a formula with + − × ÷ ^, parentheses, names and functions.
func evaluate(formula string, values map[string]float64) (result float64, err error) {
	defer func() {
		if r := recover(); r != nil {
			err = fmt.Errorf("%v", r)
		}
	}()
	p := &parser{text: []rune(strings.ReplaceAll(formula, " ", "")), values: values}
	result = p.sum()
	if p.at < len(p.text) {
		return 0, fmt.Errorf("stray %q", string(p.text[p.at:]))
	}
	return result, nil
}

type parser struct {
	text   []rune
	at     int
	values map[string]float64
}

func (p *parser) take(options string) rune {
	if p.at < len(p.text) && strings.ContainsRune(options, p.text[p.at]) {
		p.at++
		return p.text[p.at-1]
	}
	return 0
}

func (p *parser) sum() float64 {
	v := p.product()
	for {
		switch p.take("+−") {
		case '+':
			v += p.product()
		case '−':
			v -= p.product()
		default:
			return v
		}
	}
}

func (p *parser) product() float64 {
	v := p.power()
	for {
		switch p.take("×÷") {
		case '×':
			v *= p.power()
		case '÷':
			v /= p.power()
		default:
			return v
		}
	}
}

func (p *parser) power() float64 {
	if p.take("−") != 0 {
		return -p.power()
	}
	v := p.atom()
	if p.take("^") != 0 {
		v = math.Pow(v, p.power())
	}
	return v
}

func (p *parser) atom() float64 {
	if p.take("(") != 0 {
		v := p.sum()
		p.must(")")
		return v
	}
	from := p.at
	for p.at < len(p.text) &&
		(unicode.IsLetter(p.text[p.at]) || unicode.IsDigit(p.text[p.at]) || p.text[p.at] == '_' || p.text[p.at] == '.') {
		p.at++
	}
	word := string(p.text[from:p.at])
	if word == "" {
		panic("a value is missing")
	}
	if unicode.IsDigit([]rune(word)[0]) {
		var v float64
		if _, err := fmt.Sscan(word, &v); err != nil {
			panic(err)
		}
		return v
	}
	if p.take("(") == 0 {
		v, ok := p.values[word]
		if !ok {
			panic("no input called " + word)
		}
		return v
	}
	args := []float64{p.sum()}
	for p.take(",") != 0 {
		args = append(args, p.sum())
	}
	p.must(")")
	return call(word, args)
}

func (p *parser) must(what string) {
	if p.take(what) == 0 {
		panic("expected " + what)
	}
}

func call(name string, a []float64) float64 {
	switch name {
	case "min", "max":
		v := a[0]
		for _, x := range a[1:] {
			if (name == "min") == (x < v) {
				v = x
			}
		}
		return v
	case "exp":
		return math.Exp(a[0])
	case "ln":
		return math.Log(a[0])
	case "floor":
		return math.Floor(a[0])
	case "ceil":
		return math.Ceil(a[0])
	case "betainv":
		if a[0] <= 0 {
			return 0 // no shots to go: no days to wait
		}
		return mathext.InvRegIncBeta(a[0], a[1], a[2])
	}
	panic("no function called " + name)
}

func near(a, b float64) bool { return math.Abs(a-b) <= 1e-9*math.Max(1, math.Abs(b)) }

// corners is the least and the most that a formula gives where each input that has a range lies at
// one of its ends.
func corners(w reason.Worked, values map[string]float64) (low, high float64) {
	ends := map[string]reason.Range{}
	for _, in := range w.Inputs {
		switch {
		case in.Worked != nil && in.Worked.Low < in.Worked.High:
			ends[in.Symbol] = reason.Range{Low: in.Worked.Low, High: in.Worked.High}
		case in.Range != nil:
			ends[in.Symbol] = *in.Range
		}
	}
	names := slices.Sorted(maps.Keys(ends))
	low, high = math.Inf(1), math.Inf(-1)
	for which := range 1 << len(names) {
		at := maps.Clone(values)
		for i, name := range names {
			if at[name] = ends[name].Low; which>>i&1 == 1 {
				at[name] = ends[name].High
			}
		}
		v, err := evaluate(w.Formula, at)
		if err != nil {
			return math.NaN(), math.NaN()
		}
		low, high = math.Min(low, v), math.Max(high, v)
	}
	return low, high
}

// checkSitting checks every figure of a descale of a layout, and of one under way.
func checkSitting(t *testing.T, l machine.Layout, check func(reason.Worked)) {
	t.Helper()
	a := machine.Answers{Layout: l, Valve: machine.No, Hardness: units.UnknownHardness(), Treatment: machine.InTank}
	if p, err := job.DrawOff(a, 0); err == nil {
		check(p.Minutes)
		back, _ := job.BodyOf[job.Soak](p.Steps()[2])
		check(*back.Length)
	}
	a.Overrides = map[string]string{}
	for key, value := range map[string]string{"brew_material": "stainless", "steam_material": "stainless",
		"drain":       "screws",
		"brew_heater": "can_be_off", "steam_heater": "can_be_off"} {
		if l != machine.LeverManual && a.CheckOverride(key, value) == nil || key == "brew_material" {
			a.Overrides[key] = value
		}
	}
	list := descale.ProgramsFor(a.Facts())
	if len(list) == 0 {
		return
	}
	planned := 0
	defer func() {
		if planned < 3 {
			t.Errorf("%s: only %d plans", l, planned)
		}
	}()
	material, _ := descale.Careful(a.Facts())
	for _, product := range descale.Products() {
		if product.Bears(a.Facts(), product.UsualStrength(material)) != nil {
			continue
		}
		circuits := descale.Circuits(a.Facts(), units.Between(1, 2), units.Between(1, 2))
		card, err := descale.Mix(product, 0, circuits, material)
		if err != nil {
			t.Fatal(err)
		}
		p, err := job.Descale(a, job.Sitting{
			Program: list[0].ID, Card: card, Setting: treat.Usual(machine.InTank), Renew: true, Share: 1, FeedAlk: 100,
			FeedPH: 7.6,
		})
		var no *reason.Refusal
		if errors.As(err, &no) && (no.Code == job.ContactTooLong || no.Code == job.NotCleared) {
			continue // a product that does not fit; others do
		}
		if err != nil {
			t.Fatal(err)
		}
		planned++
		checkDescale(t, p, check)
	}
}

// checkDescale checks every figure of a plan, and of its run.
func checkDescale(t *testing.T, p job.Plan, check func(reason.Worked)) {
	t.Helper()
	d := p.Descaling().Descale
	for _, w := range []reason.Worked{p.Minutes, d.Measure, d.Solution} {
		check(w)
	}
	for _, s := range p.Steps() {
		if push, ok := job.BodyOf[job.Push](s); ok {
			check(push.Long)
		}
		if sips, ok := job.BodyOf[job.Sips](s); ok {
			check(sips.Length)
		}
		if wait, ok := job.BodyOf[job.Wait](s); ok && wait.Length != nil {
			check(*wait.Length)
		}
		if act, _ := job.BodyOf[job.Act](s); act.Mix != nil {
			check(act.Mix.Measure)
			check(act.Mix.Water)
		}
	}
	at := run.Fold(p, time.Unix(0, 0), 1, nil, time.Unix(60, 0)).Descale
	for i := range at.Acids {
		at.Acids[i].Tally.Add(descale.Citric, 25, descale.Strip{PH: 2.8}, 0.4, 80)
	}
	check(at.Came())
	for _, c := range at.Acids {
		check(c.Left())
		check(d.Circuit(c.Part).Least)
	}
}
