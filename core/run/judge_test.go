package run

import (
	"maps"
	"slices"
	"strings"
	"testing"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/treat"
	"freshanvil/core/units"
)

// answersOf are those of a layout, with facts that were said.
func answersOf(l machine.Layout, set ...string) machine.Answers {
	a := machine.Answers{Layout: l, Valve: machine.Yes, Drinks: 4, MilkDrinks: 2, Hardness: units.UnknownHardness(),
		Treatment: machine.Untreated, Overrides: map[string]string{}}
	if l == machine.LeverManual {
		a.Valve = machine.No
	}
	for i := 0; i < len(set); i += 2 {
		a.Overrides[set[i]] = set[i+1]
	}
	return a
}

// sittingOf is what a descale of a machine is planned from of which nothing is on record.
func sittingOf(a machine.Answers, change func(*job.Sitting)) (job.Sitting, error) {
	brew, steam, err := descale.AtTheLimit(a.Facts())
	if err != nil {
		return job.Sitting{}, err
	}
	i := slices.IndexFunc(descale.Products(), func(p descale.Product) bool { return p.ID == "citric" })
	card, err := descale.MixFor(descale.Products()[i], 0, a.Facts(), descale.Circuits(a.Facts(), brew, steam))
	in := job.Sitting{Card: card, Setting: treat.Usual(a.Treatment), FeedAlk: 160, FeedPH: 7.6, Share: 1, Now: start}
	if change != nil {
		change(&in)
	}
	return in, err
}

// planOf is the plan of a descale of a machine.
func planOf(t testing.TB, a machine.Answers, change func(*job.Sitting)) job.Plan {
	t.Helper()
	in, err := sittingOf(a, change)
	if err != nil {
		t.Fatal(err)
	}
	p, err := job.Descale(a, in)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

// cleared are the machines that are led with default facts, plus material and heaters said.
var cleared = map[string]machine.Answers{
	"a single boiler":          answersOf(machine.SingleBoiler, "brew_material", "brass"),
	"a thermoblock, stainless": answersOf(machine.Thermoblock, "brew_material", "stainless"),
	"a thermoblock, aluminium": answersOf(machine.Thermoblock, "brew_material", "aluminium"),
	"a heat exchanger by its plug": answersOf(machine.HXHome, "drain", "plug", "brew_material", "copper",
		"steam_material", "copper", "steam_heater", "held_off"),
	"a dual boiler by its screws": answersOf(machine.DualHome, "brew_material", "stainless", "steam_material", "stainless",
		"brew_heater", "can_be_off", "steam_heater", "can_be_off"),
	"a poured lever": answersOf(machine.LeverManual, "brew_material", "brass"),
	"a cam lever by its plug": answersOf(machine.LeverCam, "drain", "plug", "brew_material", "copper",
		"steam_material", "copper", "steam_heater", "held_off"),
}

func TestCleared(t *testing.T) {
	for name, a := range cleared {
		t.Run(name, func(t *testing.T) {
			p := planOf(t, a, nil)
			v, err := judge(p, *long)
			if err != nil {
				t.Error(err)
			}
			// a start, a middle and an event at least of each step, for three paces
			if steps := len(p.Steps()); v.Plays < steps || v.Rescues < 3*2*steps {
				t.Errorf("%d steps: %+v", steps, v)
			}
		})
	}
}

// Acid that was left in is rinsed out by a plan that is cleared the same way; and however long
// it has stood, that is no reason to leave it in.
func TestRinseOutIsCleared(t *testing.T) {
	for name, a := range cleared {
		t.Run(name, func(t *testing.T) {
			p := planOf(t, a, func(in *job.Sitting) { in.Dirty = true })
			if v, err := Judge(p); err != nil || v.Rescues == 0 {
				t.Errorf("%+v, %v", v, err)
			}
			play, err := Perform(p, Uniform(3))
			if err != nil || play.Outcome != Finished {
				t.Errorf("it ends %s, %v", play.Outcome, err)
			}
		})
	}
}

// How a machine is left follows from how it stands: off and unplugged always, a drain that is
// open is closed, gas can leave where acid is.
func TestRescueFollowsFromTheState(t *testing.T) {
	p := planOf(t, cleared["a dual boiler by its screws"], nil)
	x := p.Descaling().Descale.Begins()
	clean := RescueOf(x)
	x.At("steam").Acid = 0.5
	x.Do(plant.Action{Verb: plant.PlugIn})
	sour := RescueOf(x)
	for _, a := range sour.Acts {
		x.Do(a)
	}
	if x.Plug || x.On || !x.Gates[x.Spec.FindOpening("steam_tap")].Open {
		t.Errorf("it is left plugged in %v, on %v", x.Plug, x.On)
	}
	if len(clean.Do) != 1 || len(sour.Do) != 3 || !strings.Contains(sour.Do[2], "pump is dead") {
		t.Errorf("%q, %q", clean.Do, sour.Do)
	}
}

// A plan judged for its fixed set of hands, and with its rescues, beside one play of it as
// planned.
func BenchmarkJudge(b *testing.B) {
	plans := map[string]job.Plan{}
	for name, a := range cleared {
		plans[name] = planOf(b, a, nil)
	}
	for _, groups := range []string{"1", "3", "6"} {
		a := answersOf(machine.MultiCafe)
		a.Valve, a.Overrides["groups"] = machine.Yes, groups
		p, err := job.Wash(a, backflush.Soak, backflush.UsualPowder, allGroups(a)...)
		if err != nil {
			b.Fatal(err)
		}
		plans["a wash of "+groups] = p
	}
	for _, name := range slices.Sorted(maps.Keys(plans)) {
		b.Run(name, func(b *testing.B) {
			plan := plans[name]
			var once, hands, rescues time.Duration
			took := func(sum *time.Duration, do func() error) {
				from := time.Now()
				if err := do(); err != nil {
					b.Fatal(err)
				}
				*sum += time.Since(from)
			}
			for b.Loop() {
				took(&once, func() error { _, err := Perform(plan, AsSaid()); return err })
				took(&hands, func() error { return judgeHands(plan, handsFor(plan)) })
				took(&rescues, func() error { _, err := judgeRescues(plan, uniform()); return err })
			}
			b.ReportMetric(float64(hands.Milliseconds())/float64(b.N), "ms/judged")
			b.ReportMetric(float64(hands)/float64(once), "×one-play")
			b.ReportMetric(float64(rescues)/float64(once), "×one-play-rescues")
		})
	}
}

// Whatever is answered, no step of a play has the name of another: what was pressed in one
// is never taken for the other's.
func TestNamesOfStepsAreTheirOwn(t *testing.T) {
	for name, a := range cleared {
		p := planOf(t, a, nil)
		for _, h := range handsFor(p) {
			play, err := Perform(p, h)
			if err != nil {
				t.Fatal(err)
			}
			seen := map[string]bool{}
			for i, id := range play.Steps {
				if seen[id] && play.Steps[i-1] != id { // a second strip is read in the same step
					t.Fatalf("%s %s: %s comes twice", name, h.What, id)
				}
				seen[id] = true
			}
		}
	}
}

// T4. The words of a rescue say what its acts do: at every instant a shut steam tap is told to be opened, an open one
// to be left open; nobody is told of a tap that no act touches and no acid needs.
func TestRescueSaysWhatItDoes(t *testing.T) {
	opened, left := 0, 0
	for name, a := range cleared {
		p := planOf(t, a, nil)
		x := p.Descaling().Descale.Begins()
		if x.Spec.FindOpening("steam_tap") < 0 {
			continue
		}
		x.Watch = func(at *plant.Plant, _ string) {
			shut := !at.Gates[at.Spec.FindOpening("steam_tap")].Open
			r := RescueOf(at)
			opens := slices.ContainsFunc(r.Acts, func(a plant.Action) bool {
				return a.Verb == plant.Open && a.What == "steam_tap"
			})
			words := strings.Join(r.Do, " ")
			told := strings.Contains(words, "Open the steam tap")
			if told {
				opened++
			}
			if strings.Contains(words, "Leave the steam tap open") {
				left++
			}
			if told != (opens && shut) || strings.Contains(words, "Leave the steam tap open") && shut {
				t.Errorf("%s: the tap is shut %v, opened %v: %q", name, shut, opens, r.Do)
			}
		}
		for _, s := range p.Steps() {
			x.Play(s.Acts, x.T, x.T+s.Takes.Seconds())
			x.Wait(s.Body.Spell(0, &job.Pump{}).Seconds())
		}
	}
	if opened == 0 || left == 0 {
		t.Errorf("told to open %d times, to leave open %d: not both were met", opened, left)
	}
}
