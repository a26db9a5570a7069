package job

import (
	"errors"
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/circuit"
	"freshanvil/core/descale"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/treat"
	"freshanvil/core/units"
)

// with are answers about a machine of which some facts were said.
func with(l machine.Layout, facts ...string) machine.Answers {
	a := answers(l, machine.Yes)
	a.Overrides = map[string]string{}
	for i := 0; i < len(facts); i += 2 {
		a.Overrides[facts[i]] = facts[i+1]
	}
	return a
}

func planned(t testing.TB, a machine.Answers, product string, scale float64, change func(*Sitting)) (Sitting, error) {
	t.Helper()
	f := a.Facts()
	r := units.Reading{Known: true, Low: scale, Likely: scale, High: scale * 1.2}
	material, _ := descale.Careful(f)
	i := slices.IndexFunc(descale.Products(), func(p descale.Product) bool { return p.ID == product })
	card, err := descale.Mix(descale.Products()[i], 0, descale.Circuits(f, r, r), material)
	in := Sitting{Card: card, Setting: treat.Usual(a.Treatment), FeedAlk: 100, Share: 1, Known: true,
		Now: time.Date(2026, 3, 10, 18, 0, 0, 0, time.UTC)}
	if change != nil {
		change(&in)
	}
	return in, err
}

func descaled(t testing.TB, a machine.Answers, scale float64, change func(*Sitting)) Plan {
	t.Helper()
	in, err := planned(t, a, "citric", scale, change)
	if err != nil {
		t.Fatal(err)
	}
	p, err := Descale(a, in)
	if err != nil {
		t.Fatalf("%s %v: %v", a.Layout, a.Overrides, err)
	}
	return p
}

// What may harm somebody is refused, each with the field that decided and what
// would be allowed: nothing that must be drained, tapped or poured; no sulfamic acid
// and no hot soak where the material is not said; nothing on a machine that leaks.
func TestDescaleRefused(t *testing.T) {
	for name, c := range map[string]struct {
		a       machine.Answers
		program descale.ProgramID
		product string
		code    reason.Code
		field   string
	}{
		"heat exchanger by its tap": {with(machine.HXHome), "", "citric", circuit.ByItsTap, "drain"},
		"the same, asked for":       {with(machine.HXHome), descale.ByTap, "citric", circuit.ByItsTap, "drain"},
		"heat exchanger by its plug": {with(machine.HXHome, "drain", "plug", "heel", "0.08"), "", "citric",
			circuit.DrainNotLed, "drain"},
		"too many refills": {with(machine.HXHome, "drain", "plug", "heel", "0.4"), descale.Drained,
			"citric", circuit.ManyRefills, "heel"},
		"dual boiler by its screws": {with(machine.DualHome), "", "citric", circuit.DrainNotLed, "drain"},
		"a small steam boiler pushed": {with(machine.DualHome, "drain", "flushing only", "steam_l", "0.5"), "",
			"citric", circuit.DrainNotLed, "steam_l"},
		"poured":                      {with(machine.LeverManual), "", "citric", circuit.DrainNotLed, "drain"},
		"trade machine":               {with(machine.MultiCafe), "", "citric", circuit.NotByTheKeeper, "layout"},
		"sulfamic, material not said": {with(machine.Thermoblock), "", "sulfamic", descale.MaterialNotSaid, "product"},
		"hot, material not said": {with(machine.SingleBoiler), descale.HotSoaks, "citric",
			descale.MaterialNotSaid, "program"},
		"hot, aluminium": {with(machine.SingleBoiler, "brew_material", "aluminium"), descale.HotSoaks,
			"citric", descale.HarmsMaterial, "program"},
		"it leaks": {with(machine.SingleBoiler, "condition", "leaks"), "", "citric", circuit.Leaks,
			"condition"},
	} {
		t.Run(name, func(t *testing.T) {
			in, err := planned(t, c.a, c.product, 1, func(in *Sitting) { in.Program = c.program })
			if err == nil {
				_, err = Descale(c.a, in)
			} else if c.code == descale.MaterialNotSaid { // refused by the machine, not by the mixing alone
				err = descale.Products()[3].Bears(c.a.Facts(), 30)
			}
			var no *reason.Refusal
			if !errors.As(err, &no) {
				t.Fatalf("%v, want a refusal", err)
			}
			if no.Code != c.code || no.Field != c.field || no.Value == "" || no.Allowed == "" ||
				len(no.Finding.Because) == 0 {
				t.Errorf("%+v", no)
			}
		})
	}
	// a program that fits no machine of its kind is a wrong answer, not a refusal
	in, err := planned(t, with(machine.SingleBoiler), "citric", 1, func(in *Sitting) { in.Program = descale.Drained })
	if err != nil {
		t.Fatal(err)
	}
	var bad *units.OutOfRange
	if _, err := Descale(with(machine.SingleBoiler), in); !errors.As(err, &bad) || bad.Field != "program" {
		t.Errorf("a single boiler is drained: %v", err)
	}
}

// With the material not said a thermoblock or a single boiler is taken as aluminium:
// 20 g/L and 20 minutes from the first drop, whatever it would otherwise be.
func TestNotSaidIsTakenAsAluminium(t *testing.T) {
	for _, l := range []machine.Layout{machine.Thermoblock, machine.SingleBoiler} {
		for _, scale := range []float64{0.2, 3, 40} {
			p := descaled(t, with(l), scale, nil)
			d := p.Descaling().Descale
			if d.Strength != 20 || d.Contact != 20*time.Minute || d.Planned > d.Contact {
				t.Errorf("%s, %v g: %v g/L for %v of %v", l, scale, d.Strength, d.Planned, d.Contact)
			}
			if l == machine.SingleBoiler && (d.Rounds != 1 || scale > 3 && len(d.Findings) == 0) {
				t.Errorf("%s, %v g: %d rounds, %+v", l, scale, d.Rounds, d.Findings)
			}
		}
		in, err := planned(t, with(l), "citric", 1, nil)
		if err != nil {
			t.Fatal(err)
		}
		in.Card.Strength = 25
		var no *reason.Refusal
		if _, err := Descale(with(l), in); !errors.As(err, &no) || no.Code != descale.MaterialNotSaid ||
			no.Field != "strength_g_l" {
			t.Errorf("%s at 25 g/L: %v", l, err)
		}
	}
}

// A single boiler of steel: three soaks of 20 min fit into the 90 minutes, pushes and
// hands included; the rinse is 9.2 volumes through it, jug by jug; no push runs longer
// than a minute, for on most machines on means heating.
func TestThreeSoaks(t *testing.T) {
	p := descaled(t, with(machine.SingleBoiler, "brew_material", "stainless"), 9, nil)
	d := p.Descaling().Descale
	soaks, rinsed, jugs := 0, 0.0, 0
	for _, s := range p.Steps() {
		if body, ok := BodyOf[Soak](s); ok {
			soaks++
			if body.For != 20*time.Minute || !body.Acid {
				t.Errorf("%s for %v", s.ID, body.For)
			}
		}
		if push, ok := BodyOf[Push](s); ok {
			if push.Runs() > time.Minute {
				t.Errorf("%s runs %v", s.ID, push.Runs())
			}
			if s.Phase == Rinsing {
				rinsed += push.Litres()
				jugs++
			}
		}
	}
	if soaks != 3 || rinsed < 3.22 || rinsed > 3.24 || jugs < 5 {
		t.Errorf("%d soaks, %.3f L in %d jugs", soaks, rinsed, jugs)
	}
	if d.Contact != 90*time.Minute || d.Planned > d.Contact || d.Planned < 70*time.Minute || d.Tubs < 2 {
		t.Errorf("contact %v of %v, source filled %d times", d.Planned, d.Contact, d.Tubs)
	}
	// a pump that may run half a minute and then rests two makes it longer by its rests
	weak := with(machine.SingleBoiler, "brew_material", "stainless", "duty_on_min", "0.5", "duty_off_min", "2")
	if more := descaled(t, weak, 1, nil).Minutes.Value - descaled(t,
		with(machine.SingleBoiler, "brew_material", "stainless"), 1, nil).Minutes.Value; more < 12 || more > 40 {
		t.Errorf("a weak pump takes %.1f min more", more)
	}
}

// No dose is above three times what the likely scale takes to pH 4, what fills the
// circuits once, and what must stay in the tank; or one litre by the label.
func TestDoseStaysBelowItsCeiling(t *testing.T) {
	random := rand.New(rand.NewPCG(6, 16))
	for range 200 {
		a := randomMachine(random)
		for _, id := range []string{"citric", "lactic", "sulfamic", "vinegar", "sachet", "mark"} {
			in, err := planned(t, a, id, random.Float64()*random.Float64()*200, nil)
			if err != nil {
				continue // refused: nothing is shown
			}
			c := in.Card
			if c.Acid() > c.Ceiling()*1.001 {
				t.Fatalf("%s %v, %s: %.0f g of acid, at most %.0f", a.Layout, a.Overrides, id, c.Acid(), c.Ceiling())
			}
			p, err := Descale(a, in)
			if err != nil {
				continue
			}
			d := p.Descaling().Descale
			kept := d.Pipes.At(sourceID).Keeps
			least := 0.0
			if d.Program == descale.OwnProgram {
				least = ownLeast
			}
			if acid := d.Solution.Value * d.Strength; acid > (c.Ceiling()+(kept+least)*d.Strength)*1.001 {
				t.Fatalf("%s %v, %s: %.0f g are mixed, at most %.0f", a.Layout, a.Overrides, id, acid, c.Ceiling())
			}
			for _, s := range p.Steps() { // what is weighed out for a batch makes it as strong as it is meant
				act, ok := BodyOf[Act](s)
				if !ok || act.Mix == nil {
					continue
				}
				acid := act.Mix.Measure.Value * c.Product.Strength() / c.Product.Litre
				if got := acid / act.Mix.Water.Value; got > d.Strength*1.001 || got < d.Strength*0.999 {
					t.Fatalf("%s %v, %s: %.1f g/L, meant %.1f", a.Layout, a.Overrides, id, got, d.Strength)
				}
			}
		}
	}
}

// Where acid is, is called as the machine calls it, in the band as in the steps.
func TestAcidIsNamedAsItsMachineCallsIt(t *testing.T) {
	brew, steam := machine.Brew(1), machine.Only(machine.SteamBoiler)
	for _, c := range []struct {
		in   Contents
		want string
	}{
		{Contents{Acid: []machine.Part{brew}, Layout: machine.Thermoblock}, "the heating block"},
		{Contents{Acid: []machine.Part{brew}}, "the boiler"},
		{Contents{Acid: []machine.Part{steam, brew}, Layout: machine.HXHome}, "the brew tube and steam boiler"},
		{Contents{Acid: []machine.Part{machine.Brew(2), brew}, Layout: machine.MultiCafe},
			"the brew boiler 1 and brew boiler 2"},
	} {
		if got := c.in.Names(); got != c.want {
			t.Errorf("%+v: %s, want %s", c.in, got, c.want)
		}
	}
}

func TestAcidAndDetergentNeverMeet(t *testing.T) {
	a := with(machine.SingleBoiler)
	in, err := planned(t, a, "citric", 1, func(in *Sitting) { in.Inside.Detergent = []machine.Part{machine.Group(1)} })
	if err != nil {
		t.Fatal(err)
	}
	var no *reason.Refusal
	if _, err := Descale(a, in); !errors.As(err, &no) || no.Code != ChemicalInside ||
		!strings.Contains(no.Finding.Title, "Detergent is in group 1") {
		t.Errorf("acid beside detergent: %v", err)
	}
	acid := Contents{Acid: []machine.Part{machine.Brew(1)}}
	if err := acid.Meets(false); !errors.As(err, &no) {
		t.Errorf("detergent beside acid: %v", err)
	}
	if err := acid.Meets(true); err != nil {
		t.Errorf("acid on acid: %v", err)
	}
	if err := acid.MeetsFilter(); !errors.As(err, &no) || no.Code != ChemicalInside || no.Field != "task" {
		t.Errorf("a filter into acid: %v", err)
	}
	if err := (Contents{Detergent: []machine.Part{machine.Group(1)}}).MeetsFilter(); err != nil {
		t.Errorf("a filter beside detergent in a group: %v", err)
	}
	// a joined wash comes after the proof, and an order that is turned round is refused
	w, err := Wash(a, backflush.HalfTeaspoon, backflush.UsualPowder, Target{Group: 1})
	if err != nil {
		t.Fatal(err)
	}
	p := descaled(t, a, 1, func(in *Sitting) { in.Wash = &w })
	proves := func(s Step) bool { m, _ := BodyOf[Measure](s); return m.Reads == Proof }
	doses := func(s Step) bool { return s.Effect == Doses }
	if slices.IndexFunc(p.Steps(), doses) < slices.IndexFunc(p.Steps(), proves) {
		t.Error("detergent before the acid is proven out")
	}
	if len(p.Activities) != 2 || p.Leads().Task != care.Descale || p.Activities[1].Task != care.Wash {
		t.Errorf("%+v, leads %s", p.Activities, p.Leads().Task)
	}
	p = loose(p)
	i := slices.IndexFunc(p.Steps(), proves)
	p.Order = slices.Delete(p.Order, i, i+1)
	if err := p.Check(); err == nil {
		t.Error("a plan without its proof passes")
	}
}

// Filter and softener have lanes of their own: out before the acid, back after the
// rinse, the month set.
func TestFilterAndSoftener(t *testing.T) {
	a := with(machine.SingleBoiler)
	before := func(list, first, then string) bool {
		i, j := strings.Index(list, first), strings.Index(list, then)
		return i >= 0 && j > i
	}
	a.Treatment = machine.InTank
	p := descaled(t, a, 1, func(in *Sitting) { in.Renew = true })
	got := ids(p)
	if !before(got, "filter-out", "mix") || !before(got, "filter-in-water", "filter-soak") ||
		!before(got, "prove-brew-1", "fit") || !before(got, "fit", "month") ||
		p.Activities[1].Task != care.FilterChange {
		t.Errorf("filter: %s, %+v", got, p.Activities)
	}
	a.Treatment = machine.Softener
	got = ids(descaled(t, a, 1, func(in *Sitting) { in.Renew = true }))
	if !before(got, "softener-out", "mix") || !before(got, "salt-soak", "salt-rinse") ||
		!before(got, "salt-rinse", "back") || !before(got, "prove-brew-1", "back") {
		t.Errorf("softener: %s", got)
	}
	if got := ids(descaled(t, a, 1, nil)); !before(got, "filter-out", "mix") ||
		!before(got, "prove-brew-1", "filter-back") {
		t.Errorf("put back as it is: %s", got)
	}
}

// Over random machines every plan passes the check that plays its liquids through,
// fits into the time that acid may stand, and is said in full.
func TestRandomMachinesArePlannedSafely(t *testing.T) {
	r := rand.New(rand.NewPCG(10, 26))
	count := map[descale.ProgramID]int{}
	for range 1200 {
		a := randomMachine(r)
		list := descale.ProgramsFor(a.Facts())
		if len(list) == 0 {
			if way := circuit.Judge(a.Facts()).Way; way == circuit.AtHome {
				t.Fatalf("%s %v is for home, and has no program", a.Layout, a.Overrides)
			}
			continue
		}
		prog := list[r.IntN(len(list))].ID
		renew, dirty := r.IntN(2) == 0, r.IntN(5) == 0
		in, err := planned(t, a, "citric", 0.2+r.Float64()*20, func(in *Sitting) {
			in.Program, in.Renew, in.Dirty = prog, renew, dirty
		})
		if err != nil {
			t.Fatal(err)
		}
		p, err := Descale(a, in)
		var no *reason.Refusal
		if errors.As(err, &no) && no.Code == ContactTooLong {
			continue
		}
		if err != nil {
			t.Fatalf("%s %v: %v", a.Layout, a.Overrides, err)
		}
		count[prog]++
		if d := p.Descaling().Descale; !dirty && d.Planned > d.Contact {
			t.Fatalf("%s %v: acid stands %v of %v", a.Layout, a.Overrides, d.Planned, d.Contact)
		}
		for _, s := range p.Steps() {
			if len(s.Do) == 0 || len(s.Cautions) == 0 || s.Button == "" || s.Head == "" {
				t.Fatalf("%s is not said in full", s.ID)
			}
		}
	}
	for _, id := range []descale.ProgramID{descale.ThreeSoaks, descale.TwoSoaks, descale.HotSoaks, descale.OwnProgram} {
		if count[id] < 5 {
			t.Errorf("%s was planned %d times", id, count[id])
		}
	}
}

// Acid that was left in is rinsed out of a machine the pump pushes through; of one
// that would have to be switched on to be refilled, nobody is led: it says how to leave
// it.
func TestAcidLeftIn(t *testing.T) {
	p := descaled(t, with(machine.SingleBoiler, "warranty", "forbids descaling"), 1,
		func(in *Sitting) { in.Dirty = true })
	if p.Leads().Task != care.AcidRinse || strings.Contains(ids(p), "mix") {
		t.Errorf("%s: %s", p.Leads().Task, ids(p))
	}
	for _, l := range []machine.Layout{machine.DualHome, machine.HXHome, machine.LeverManual} {
		in, err := planned(t, with(l), "citric", 1, func(in *Sitting) { in.Dirty = true })
		if err != nil {
			t.Fatal(err)
		}
		var no *reason.Refusal
		if _, err := Descale(with(l), in); !errors.As(err, &no) || no.Code != descale.NotCleared ||
			!strings.Contains(strings.Join(no.Finding.Next, " "), "plug out") {
			t.Errorf("%s: %v", l, err)
		}
	}
}

// A draw-off takes no more than the tank holds: 11 draws of 0.45 L are 4.95 L, a tank
// of 2.5 gives 2.25.
func TestDrawOff(t *testing.T) {
	for name, c := range map[string]struct {
		a     machine.Answers
		code  reason.Code
		field string
	}{
		"tank too small":     {with(machine.HXHome), circuit.TankTooSmall, "tank_l"},
		"six litres, a tank": {with(machine.HXHome, "steam_l", "6"), circuit.TankTooSmall, "tank_l"},
		"no steam boiler":    {with(machine.SingleBoiler), circuit.NoSteamBoiler, "layout"},
		"it leaks":           {with(machine.HXCafe, "condition", "leaks"), circuit.Leaks, "condition"},
	} {
		t.Run(name, func(t *testing.T) {
			var no *reason.Refusal
			if _, err := DrawOff(c.a); !errors.As(err, &no) || no.Code != c.code || no.Field != c.field {
				t.Errorf("%v", err)
			}
		})
	}
	p, err := DrawOff(with(machine.HXCafe))
	if err != nil || !strings.Contains(ids(p), "draw-17") || strings.Contains(ids(p), "draw-18") {
		t.Errorf("eleven litres on the mains: %v, %s", err, ids(p))
	}
}

// A machine that leaks is not washed, nor a group whose drain let nothing out twice.
func TestWashRefusedWhereItWouldHurt(t *testing.T) {
	for name, c := range map[string]struct {
		a      machine.Answers
		target Target
		code   reason.Code
		field  string
	}{
		"it leaks":       {with(machine.HXHome, "condition", "leaks"), Target{Group: 1}, backflush.Leaks, "condition"},
		"blind twice":    {with(machine.HXHome), Target{Group: 1, Blind: 2}, HeadBlocked, "parts"},
		"blind, a rinse": {with(machine.HXHome), Target{Group: 1, Blind: 3, Dirty: true}, HeadBlocked, "parts"},
	} {
		t.Run(name, func(t *testing.T) {
			var no *reason.Refusal
			_, err := Wash(c.a, backflush.HalfTeaspoon, backflush.UsualPowder, c.target)
			if !errors.As(err, &no) || no.Code != c.code || no.Field != c.field || len(no.Finding.Next) == 0 {
				t.Errorf("%v", err)
			}
		})
	}
	if _, err := Wash(with(machine.HXHome), backflush.HalfTeaspoon, backflush.UsualPowder,
		Target{Group: 1, Blind: 1}); err != nil {
		t.Errorf("after one try: %v", err)
	}
}

func randomMachine(r *rand.Rand) machine.Answers {
	pick := func(list ...string) string { return list[r.IntN(len(list))] }
	num := func(low, high float64) string { return fmt.Sprintf("%.3g", low+r.Float64()*(high-low)) }
	a := answers(machine.Layouts()[r.IntN(len(machine.Layouts()))], machine.No)
	a.Treatment = machine.Treatments()[r.IntN(len(machine.Treatments()))]
	try := map[string]string{
		"brew_l": num(0.05, 1), "steam_l": num(0.3, 3), "tank_l": num(0.8, 4), "tray_l": num(0, 1.5),
		"jug_l": num(0.3, 3), "heel": num(0.03, 0.5), "flow_ml_s": num(2, 20), "duty_on_min": num(0.5, 3),
		"duty_off_min": num(0, 2), "brew_material": pick("not_said", "copper", "aluminium", "stainless"),
		"drain":       pick("tap", "plug", "screws", "pouring out", "flushing only"),
		"own_descale": pick("no", "yes"), "water": pick("tank", "mains"), "pump": pick("vibratory", "rotary"),
	}
	a.Overrides = map[string]string{}
	for _, key := range slices.Sorted(maps.Keys(try)) {
		if value := try[key]; r.IntN(2) == 0 && a.CheckOverride(key, value) == nil {
			a.Overrides[key] = value
		}
	}
	return a
}
