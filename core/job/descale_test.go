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
	"freshanvil/core/treat"
	"freshanvil/core/units"
)

func planned(t testing.TB, a machine.Answers, scale float64, change func(*Sitting)) Sitting {
	t.Helper()
	f := a.Facts()
	g := 0.0
	if f.Material == "aluminium" {
		g = 20
	}
	r := units.Reading{Known: true, Low: scale, Likely: scale, High: scale * 1.2}
	card, err := descale.Mix(descale.Products()[0], g, descale.Circuits(f, r, r), descale.Material(f.Material))
	if err != nil {
		t.Fatal(err)
	}
	in := Sitting{
		Card:    card,
		Setting: treat.Usual(a.Treatment),
		FeedAlk: 100,
		Share:   1,
		Known:   true,
		Now:     time.Date(2026, 3, 10, 18, 0, 0, 0, time.UTC),
	}
	if change != nil {
		change(&in)
	}
	return in
}

func descaled(t testing.TB, a machine.Answers, scale float64, change func(*Sitting)) Plan {
	t.Helper()
	p, err := Descale(a, planned(t, a, scale, change))
	if err != nil {
		t.Fatalf("%s %v: %v", a.Layout, a.Overrides, err)
	}
	return p
}

// The programs by layout are common practice: what is drained, tapped, pushed or
// poured follows from how a machine is emptied, and who may do it from the
// judgement on it.
func TestProgramsByLayout(t *testing.T) {
	for _, c := range []struct {
		layout machine.Layout
		set    map[string]string
		want   string
	}{
		{machine.Thermoblock, nil, "[three_soaks two_soaks hot_soaks]"},
		{machine.SingleBoiler, map[string]string{"own_descale": "yes"}, "[three_soaks two_soaks hot_soaks own_program]"},
		{machine.SingleBoiler, map[string]string{"boiler_material": "aluminium"}, "[three_soaks two_soaks]"},
		{machine.DualHome, nil, "[drained]"},
		{machine.DualHome, map[string]string{"stance": "nobody, low-mineral water"}, "[]"},
		{machine.DualHome, map[string]string{"stance": "a workshop"}, "[]"},
		{machine.HXHome, nil, "[by_tap]"},
		{machine.HXHome, map[string]string{"drain": "plug", "heel": "0.08"}, "[drained]"},
		{machine.LeverManual, nil, "[poured]"},
		{machine.HXCafe, nil, "[]"},
		{machine.MultiCafe, nil, "[]"},
	} {
		a := answers(c.layout, machine.Yes)
		a.Overrides = c.set
		var got []descale.ProgramID
		for _, p := range descale.ProgramsFor(a.Facts()) {
			got = append(got, p.ID)
		}
		if s := fmt.Sprint(got); s != c.want {
			t.Errorf("%s %v: %s, want %s", c.layout, c.set, s, c.want)
		}
	}
}

// A home dual boiler is drained steam first, then brew; filled, soaked for 20 min,
// drained, and refilled as often as the rinse asks: four times at a heel of 0.08,
// where practice says twice.
func TestDrainedDualBoiler(t *testing.T) {
	p := descaled(t, answers(machine.DualHome, machine.Yes), 0.3, nil)
	got := ids(p)
	want := "prepare off cool cold drain-steam-boiler drain-brew-boiler feed mix fill-steam-boiler fill-brew-boiler " +
		"soak plug spent-steam-boiler spent-brew-boiler drain-steam-boiler-2 drain-brew-boiler-2 clean-source " +
		"fill-steam-boiler-2"
	if !strings.HasPrefix(got, want) || strings.Count(got, "fill-brew-boiler") != 5 ||
		strings.Count(got, "drain-steam-boiler") != 5 {
		t.Errorf("%s\nwant\n%s…, five fills and five drains of each", got, want)
	}
	cool := p.Steps[2]
	if cool.Waits != 4*time.Hour || !cool.Early || cool.Length == nil {
		t.Errorf("cools for %v", cool.Waits)
	}
	// a litre of steam boiler does not go into a tray of 0.8 L at once
	for _, s := range p.Steps {
		if s.ID == "drain-steam-boiler" &&
			(len(s.Does) != 3 || !strings.Contains(strings.Join(s.Do, " "), "at a time")) {
			t.Errorf("%+v: %v", s.Does, s.Do)
		}
	}
}

// A single boiler: three soaks of 20 min, an hour in all; the rinse is 9.2 volumes
// through it, jug by jug, and the tank is filled again before it runs dry.
func TestThreeSoaks(t *testing.T) {
	p := descaled(t, answers(machine.SingleBoiler, machine.Yes), 1, nil)
	soaks, rinsed, jugs := 0, 0.0, 0
	for _, s := range p.Steps {
		if s.ID == "soak" || strings.HasPrefix(s.ID, "soak-") {
			soaks++
			if s.Waits != 20*time.Minute || !s.Stands {
				t.Errorf("%s for %v", s.ID, s.Waits)
			}
		}
		if s.Kind == Push && s.Phase == Rinsing {
			rinsed += s.Litres()
			jugs++
		}
	}
	if soaks != 3 || rinsed < 3.22 || rinsed > 3.24 || jugs < 5 {
		t.Errorf("%d soaks, %.3f L in %d jugs", soaks, rinsed, jugs)
	}
	if p.Acid.Contact != time.Hour || p.Acid.Tubs < 3 {
		t.Errorf("contact %v, source filled %d times", p.Acid.Contact, p.Acid.Tubs)
	}
	// a pump that may run half a minute and then rests two makes it longer by its rests:
	// over 500 s of pumping, all but the first half minute at four seconds' rest a second
	weak := answers(machine.SingleBoiler, machine.Yes)
	weak.Overrides = map[string]string{"duty_on_min": "0.5", "duty_off_min": "2"}
	if more := descaled(t, weak, 1, nil).Minutes.Value - p.Minutes.Value; more < 12 || more > 40 {
		t.Errorf("a weak pump takes %.1f min more", more)
	}
	alu := answers(machine.SingleBoiler, machine.Yes)
	alu.Overrides = map[string]string{"boiler_material": "aluminium"}
	if p := descaled(t, alu, 1, nil); strings.Contains(ids(p), "soak-2") || p.Acid.Contact != 20*time.Minute ||
		len(p.Acid.Findings) != 1 {
		t.Errorf("aluminium: %s, %v", ids(p), p.Acid.Findings)
	}
}

// A heat exchanger of 1.8 L without a plug is emptied by its tap, the heater off
// each time, and takes eleven refills; its tube is flushed.
func TestEmptiedByTheTap(t *testing.T) {
	p := descaled(t, answers(machine.HXHome, machine.Yes), 0.3, nil)
	hot := true
	for _, s := range p.Steps {
		for _, m := range s.Does {
			switch m.Kind {
			case descale.Heats:
				hot = true
			case descale.Cools:
				hot = false
			case descale.Drains:
				if hot {
					t.Errorf("%s empties it under heat", s.ID)
				}
			}
		}
	}
	if n := strings.Count(ids(p), "fill-steam-boiler"); n != 12 {
		t.Errorf("%d fills, want one of acid and eleven of water", n)
	}
}

func TestAcidAndDetergentNeverMeet(t *testing.T) {
	a := answers(machine.SingleBoiler, machine.Yes)
	_, err := Descale(a, planned(t, a, 1, func(in *Sitting) { in.Inside.Detergent = []int{1} }))
	var no *Refused
	if !errors.As(err, &no) || !strings.Contains(no.Finding.Title, "Detergent is in group 1") {
		t.Errorf("acid beside detergent: %v", err)
	}
	if err := (Inside{Acid: []string{"boiler"}}).Meets(false); !errors.As(err, &no) {
		t.Errorf("detergent beside acid: %v", err)
	}
	if err := (Inside{Acid: []string{"boiler"}}).Meets(true); err != nil {
		t.Errorf("acid on acid: %v", err)
	}
	// a joined wash comes after the proof, and an order that is turned round is refused
	w, err := Wash(a, backflush.HalfTeaspoon, backflush.UsualPowder, Part{Group: 1})
	if err != nil {
		t.Fatal(err)
	}
	p := descaled(t, a, 1, func(in *Sitting) { in.Wash = &w })
	if at := slices.IndexFunc(p.Steps, func(s Step) bool { return s.Hazard == Sets }); at < slices.IndexFunc(
		p.Steps,
		func(s Step) bool { return s.Reads == Proof },
	) {
		t.Error("detergent before the acid is proven out")
	}
	if len(p.Errands) != 1 || p.Errands[0].Task != care.Descale || p.Leads().Task != care.Descale {
		t.Errorf("%+v, leads %s", p.Errands, p.Leads().Task)
	}
	i := slices.IndexFunc(p.Steps, func(s Step) bool { return s.Reads == Proof })
	p.Steps = slices.Delete(slices.Clone(p.Steps), i, i+1)
	for j := range p.Steps {
		p.Steps[j].After = nil
	}
	if err := p.Check(); err == nil {
		t.Error("a plan without its proof passes")
	}
}

// Filter and softener have lanes of their own: out before the acid, back after the
// rinse, the month set.
func TestFilterAndSoftener(t *testing.T) {
	a := answers(machine.SingleBoiler, machine.Yes)
	before := func(list, first, then string) bool {
		i, j := strings.Index(list, first), strings.Index(list, then)
		return i >= 0 && j > i
	}
	a.Treatment = machine.InTank
	p := descaled(t, a, 1, func(in *Sitting) { in.Renew = true })
	got := ids(p)
	if !before(got, "filter-out", "mix") || !before(got, "filter-in-water", "filter-soak") ||
		!before(got, "prove-boiler", "fit") ||
		!before(got, "fit", "month") ||
		p.Errands[0].Task != care.FilterChange {
		t.Errorf("filter: %s, %+v", got, p.Errands)
	}
	a.Treatment = machine.Softener
	got = ids(descaled(t, a, 1, func(in *Sitting) { in.Renew = true }))
	if !before(got, "softener-out", "mix") || !before(got, "salt-soak", "salt-rinse") ||
		!before(got, "salt-rinse", "back") ||
		!before(got, "prove-boiler", "back") {
		t.Errorf("softener: %s", got)
	}
	if got := ids(descaled(t, a, 1, nil)); !before(got, "filter-out", "mix") ||
		!before(got, "prove-boiler", "filter-back") {
		t.Errorf("put back as it is: %s", got)
	}
}

// Over random machines every plan passes the check that plays its liquids through:
// nothing runs over, no pump draws air, no boiler is emptied under heat, none heated
// empty, none ends before its rinse is proven.
func TestRandomMachinesArePlannedSafely(t *testing.T) {
	r := rand.New(rand.NewPCG(10, 26))
	count := map[descale.ProgramID]int{}
	for range 900 {
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
		p := descaled(
			t,
			a,
			0.2+r.Float64()*20,
			func(in *Sitting) { in.Program, in.Renew, in.Dirty = prog, renew, dirty },
		)
		count[prog]++
		for _, s := range p.Steps {
			if s.Waits > 0 && s.Stands && s.Waits > p.Acid.Contact {
				t.Fatalf("%s soaks for %v", s.ID, s.Waits)
			}
			if len(s.Do) == 0 || len(s.Cautions) == 0 || s.Button == "" || s.Head == "" {
				t.Fatalf("%s is not said in full", s.ID)
			}
		}
	}
	for _, p := range descale.Programs() {
		if count[p.ID] < 5 {
			t.Errorf("%s was planned %d times", p.ID, count[p.ID])
		}
	}
}

func randomMachine(r *rand.Rand) machine.Answers {
	pick := func(list ...string) string { return list[r.IntN(len(list))] }
	num := func(low, high float64) string { return fmt.Sprintf("%.3g", low+r.Float64()*(high-low)) }
	a := answers(machine.Layouts()[r.IntN(len(machine.Layouts()))], machine.No)
	a.Treatment = machine.Treatments()[r.IntN(len(machine.Treatments()))]
	try := map[string]string{
		"brew_l":       num(0.05, 1),
		"steam_l":      num(0.3, 3),
		"tank_l":       num(0.8, 4),
		"tray_l":       num(0, 1.5),
		"jug_l":        num(0.3, 3),
		"heel":         num(0.03, 0.5),
		"flow_ml_s":    num(2, 20),
		"duty_on_min":  num(0.5, 3),
		"duty_off_min": num(0, 2),
		"boiler_material": pick(
			"not said",
			"copper",
			"aluminium",
			"stainless",
		),
		"drain":       pick("tap", "plug", "screws", "pouring out", "flushing only"),
		"own_descale": pick("no", "yes"),
		"water":       pick("tank", "mains"),
		"pump":        pick("vibratory", "rotary"),
	}
	a.Overrides = map[string]string{}
	for _, key := range slices.Sorted(maps.Keys(try)) {
		if value := try[key]; r.IntN(2) == 0 && a.CheckOverride(key, value) == nil {
			a.Overrides[key] = value
		}
	}
	return a
}
