package machine_test

import (
	"testing"

	"freshanvil/core/machine"
)

// TestSigns: every layout can be told from the others by what is seen and heard, only those that are built
// both ways are asked for their valve, and what is drawn is what the facts say.
func TestSigns(t *testing.T) {
	list := machine.Signs()
	if len(list) != len(machine.Layouts()) {
		t.Fatalf("%d signs for %d layouts", len(list), len(machine.Layouts()))
	}
	told := map[string]machine.Layout{}
	for _, s := range list {
		t.Run(string(s.Layout), func(t *testing.T) {
			if s.Sees == "" || s.Hears == "" || s.Title == "" {
				t.Fatalf("nothing to tell it by: %+v", s)
			}
			if other, same := told[s.Sees+s.Hears]; same {
				t.Errorf("looks like %s", other)
			}
			told[s.Sees+s.Hears] = s.Layout
			a := machine.Answers{Layout: s.Layout, Valve: machine.Yes}
			asked := s.Layout == machine.Thermoblock || s.Layout == machine.SingleBoiler
			if (s.Valve == machine.Unsure) != asked {
				t.Errorf("valve %s", s.Valve)
			}
			f := a.Facts()
			if s.Scheme.Steam != (f.SteamBoiler > 0) || s.Scheme.Groups != f.Groups ||
				s.Scheme.Pump != (f.Pump != machine.NoPump) || (s.Scheme.Source == machine.FromMains) != f.Plumbed {
				t.Errorf("drawn as %+v, built as %+v", s.Scheme, f)
			}
		})
	}
}

// TestSchemeFollowsFacts: what somebody said moves the drawing.
func TestSchemeFollowsFacts(t *testing.T) {
	a := machine.Answers{Layout: machine.HXHome, Valve: machine.CannotTell,
		Overrides: map[string]string{"groups": "3", "water": "mains", "tray_l": "0", "pump": "rotary"}}
	s := a.Facts().Scheme()
	want := machine.Scheme{Source: machine.FromMains, Pump: true, Brews: machine.Tube, Steam: true, Groups: 3,
		Valve: machine.Unsure, Wand: true, Tap: true}
	if s != want {
		t.Errorf("got %+v, want %+v", s, want)
	}
}

// TestFactsAt: every fact of every layout is said at one part of its drawing, and at no other.
func TestFactsAt(t *testing.T) {
	for _, s := range machine.Signs() {
		t.Run(string(s.Layout), func(t *testing.T) {
			a := machine.Answers{Layout: s.Layout, Valve: machine.CannotTell}
			at := map[string]machine.Spot{}
			for _, spot := range a.Facts().Scheme().Spots() {
				for _, k := range a.FactsAt(spot) {
					if other, twice := at[k.Key]; twice {
						t.Errorf("%s at %s and at %s", k.Key, other, spot)
					}
					at[k.Key] = spot
				}
			}
			if len(at) != len(a.Known()) {
				t.Errorf("%d facts at the parts, %d of the machine", len(at), len(a.Known()))
			}
			if at["brew_material"] != machine.AtBrew || at["tray_l"] != machine.AtTray {
				t.Errorf("brew material at %s, tray at %s", at["brew_material"], at["tray_l"])
			}
			if a.Knows(machine.AtBrew) {
				t.Error("nobody has said what it is made of")
			}
			a.Overrides = map[string]string{"brew_material": "copper"}
			if !a.Knows(machine.AtBrew) {
				t.Error("copper was said")
			}
			if s.Layout != machine.LeverManual && a.Knows(machine.AtValve) {
				t.Error("nobody could tell about the valve")
			}
		})
	}
}
