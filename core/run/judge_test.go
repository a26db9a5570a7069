package run

import (
	"slices"
	"testing"

	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/machine"
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
			in, err := sittingOf(a, nil)
			if err != nil {
				t.Fatal(err)
			}
			p, err := job.Descale(a, in)
			if err != nil {
				t.Fatal(err)
			}
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
