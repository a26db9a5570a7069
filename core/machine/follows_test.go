package machine

import (
	"math"
	"testing"
	"time"

	"freshanvil/core/units"
)

func with(l Layout, set ...string) Facts {
	a := Answers{Layout: l, Overrides: map[string]string{}}
	for i := 0; i < len(set); i += 2 {
		a.Overrides[set[i]] = set[i+1]
	}
	return a.Facts()
}

// The heel follows from how a boiler is emptied, whatever the layout (common practice for
// screws and plug, the rest our own engineering choice); what was said stays.
func TestHeelFollowsFromTheDrain(t *testing.T) {
	for _, c := range []struct {
		name string
		f    Facts
		want float64
	}{
		{"screws", with(DualHome), 0.08},
		{"a dual boiler with a tap", with(DualHome, "drain", "tap"), 0.4},
		{"a heat exchanger by its tap", with(HXHome), 0.4},
		{"a heat exchanger with a plug", with(HXHome, "drain", "plug"), 0.08},
		{"poured out", with(LeverManual), 0.05},
		{"flushed", with(SingleBoiler), 0},
		{"flushed, whatever was said", with(DualHome, "drain", "flushing only", "heel", "0.2"), 0},
		{"said", with(DualHome, "heel", "0.15"), 0.15},
	} {
		t.Run(c.name, func(t *testing.T) {
			if c.f.Heel != c.want {
				t.Errorf("%v, want %v", c.f.Heel, c.want)
			}
		})
	}
}

// The time constant follows this machine's volume (our own engineering model): 2.7 h a
// litre, by the cube root; a block 0.7 h. Six litres: 4.9 h.
func TestCoolingFollowsTheVolume(t *testing.T) {
	for _, c := range []struct {
		name        string
		f           Facts
		brew, steam float64
	}{
		{"a block", with(Thermoblock), 0.7, 0},
		{"a litre", with(SingleBoiler, "brew_l", "1"), 2.7, 0},
		{"six litres around a tube", with(HXHome, "steam_l", "6"), 4.906, 0},
		{"a dual boiler", with(DualHome), 1.807, 2.7},
		{"said", with(DualHome, "cooling_h", "3", "steam_cooling_h", "5"), 3, 5},
	} {
		t.Run(c.name, func(t *testing.T) {
			if math.Abs(c.f.Cooling.Hours()-c.brew) > 0.001 || math.Abs(c.f.SteamCooling.Hours()-c.steam) > 0.001 {
				t.Errorf("%v and %v, want %v and %v h", c.f.Cooling, c.f.SteamCooling, c.brew, c.steam)
			}
		})
	}
	if UsualTau(1) != 2*time.Hour+42*time.Minute {
		t.Errorf("%v a litre", UsualTau(1))
	}
}

// How full a boiler is kept, and from where its element is covered (our own engineering
// choices).
func TestFillsFollowFromTheLayout(t *testing.T) {
	for _, c := range []struct {
		name                                 string
		f                                    Facts
		brew, brewCovered, steam, steamCover units.Volume
	}{
		{"a heat exchanger", with(HXHome), 100, 0, 1260, 720},
		{"a dual boiler", with(DualHome), 300, 270, 700, 400},
		{"a block", with(Thermoblock), 50, 0, 0, 0},
		{"a manual lever", with(LeverManual), 680, 400, 0, 0},
	} {
		t.Run(c.name, func(t *testing.T) {
			got := [4]units.Volume{c.f.BrewFill(), c.f.BrewCovered(), c.f.SteamFill(), c.f.SteamCovered()}
			for i, want := range [4]units.Volume{c.brew, c.brewCovered, c.steam, c.steamCover} {
				if math.Abs(float64(got[i]-want)) > 1e-6 {
					t.Errorf("%v, want %v", got, want)
				}
			}
		})
	}
}
