package job

import (
	"maps"
	"regexp"
	"slices"
	"strings"
	"testing"

	"freshanvil/core/descale"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// acidPlans is a descale by each program of each layout whose heaters can be off, by name.
func acidPlans(t *testing.T) map[string]Plan {
	list := map[string]Plan{}
	for _, l := range machine.Layouts() {
		a := with(l, "brew_material", "stainless", "steam_material", "copper", "brew_heater", "can_be_off",
			"steam_heater", "can_be_off")
		for _, prog := range descale.ProgramsFor(a.Facts()) {
			in, err := planned(t, a, "citric", 6, nil)
			if err != nil {
				continue
			}
			in.Program = prog.ID
			if p, err := Descale(a, in); err == nil {
				list[string(l)+" "+string(prog.ID)] = p
			}
		}
	}
	return list
}

// No sheet tells anybody what would hurt: each line stands for what a look at the product found.
func TestNoSheetTellsWhatHurts(t *testing.T) {
	never := []struct {
		rule string
		said *regexp.Regexp
		but  func(Plan, Step) bool
	}{
		{"nothing is held to what is at pressure",
			regexp.MustCompile(`(?i)dry (paper|tissue)|by a dry cloth|with a dry cloth, not`),
			func(_ Plan, s Step) bool {
				hot := func(a plant.Action) bool { return a.Verb == plant.AtHeat }
				return !slices.ContainsFunc(s.Acts, hot) && s.Phase != After
			}},
		{"nobody tastes what held acid", regexp.MustCompile(`(?i)\b(a sip|spat|taste)\b`), func(p Plan, s Step) bool {
			return p.Descaling() == nil || strings.Contains(strings.Join(s.Do, " "), "Nobody tastes")
		}},
		{"no cup is held where hot water comes", regexp.MustCompile(`(?i)hold a cup by`), nil},
		{"a tip has no gauze", regexp.MustCompile(`(?i)gauze of the (wand|tip)`), nil},
		{"which switch is said", regexp.MustCompile(`(?i)(start|stop) the pump\b`),
			func(p Plan, _ Step) bool { return p.Descaling() == nil }},
		{"with what is said", regexp.MustCompile(`(?i)switch (on|the machine on).* together\.`), nil},
		{"a gauge does not tell two heaters", regexp.MustCompile(`(?i)gauge for a minute`), nil},
		{"one month", regexp.MustCompile(`\b1 months`), nil},
		{"no tank on the mains", regexp.MustCompile(`(?i)\bthe tank\b`), func(p Plan, s Step) bool {
			return p.Plant == nil || !p.Plant.Mains || strings.Contains(strings.Join(s.Do, " "), "the unit") // which has one
		}},
	}
	plans := everyPlan(t)
	maps.Copy(plans, acidPlans(t))
	for _, c := range never {
		t.Run(c.rule, func(t *testing.T) {
			for name, p := range plans {
				for _, s := range p.Steps() {
					if text := strings.Join(s.Do, " "); c.said.MatchString(text) && (c.but == nil || !c.but(p, s)) {
						t.Errorf("%s, %s: %s", name, s.ID, text)
					}
				}
			}
		})
	}
	if len(plans) < 100 {
		t.Errorf("only %d plans", len(plans))
	}
}

// Each acid plan warns of an allergy; a hot soak of what scalds, with the heater on as its words say.
func TestAcidPlansWarn(t *testing.T) {
	hot := 0
	for name, p := range acidPlans(t) {
		if p.Descaling() == nil {
			continue
		}
		allergy := false
		for _, s := range p.Steps() {
			for _, c := range s.Cautions {
				allergy = allergy || strings.Contains(c.Text, "allergy")
			}
			if soak, is := BodyOf[Soak](s); is && soak.Acid && strings.Contains(s.Title, "hot") {
				hot++
				if !slices.Contains(s.Cautions, hotAcid) {
					t.Errorf("%s, %s: no word that it scalds", name, s.ID)
				}
				if back := act(plant.HeaterBack, "brew-1"); !slices.Contains(s.Acts, back) {
					t.Errorf("%s, %s: its heater stays off: %v", name, s.ID, s.Acts)
				}
			}
		}
		if !allergy {
			t.Errorf("%s says nothing of an allergy", name)
		}
	}
	if hot == 0 {
		t.Error("no hot soak was looked at")
	}
}

// Heaters that are off by a setting are seen to be off after the plug, before anything is drained or acid goes in, and
// each time the plug goes in again until they are turned on.
func TestHeatersAreSeenOff(t *testing.T) {
	seen := 0
	for name, p := range acidPlans(t) {
		d := p.Descaling()
		if d == nil {
			continue
		}
		off := map[string]bool{}
		for _, s := range p.Steps() {
			var looks []string
			plugged := false
			for _, a := range s.Acts {
				switch a.Verb {
				case plant.HeaterOff:
					off[a.What] = true
				case plant.HeaterBack:
					delete(off, a.What)
				case plant.SeeOff:
					looks = append(looks, a.What)
				case plant.PlugIn:
					plugged = true
				}
			}
			if plugged && len(off) > 0 {
				seen++
				if len(looks) != len(off) {
					t.Errorf("%s, %s: the plug goes in, and %v of %d heaters are looked at", name, s.ID, looks, len(off))
				}
			}
		}
	}
	if seen < 5 {
		t.Errorf("only %d plugs were looked at", seen)
	}
}

// A solution far over what practice mixes is not passed without a word.
func TestStrongSolutionsAreSaid(t *testing.T) {
	a := with(machine.SingleBoiler, "brew_material", "stainless")
	for _, c := range []struct {
		strength float64
		said     bool
	}{{30, false}, {50, false}, {60, true}, {100, true}} {
		card, err := descale.MixFor(descale.Products()[0], units.Strength(c.strength), a.Facts(),
			descale.Circuits(a.Facts(), units.Sharp(5), units.Sharp(0)))
		if err != nil {
			t.Fatal(err)
		}
		said := slices.ContainsFunc(card.Findings, func(f reason.Finding) bool {
			return strings.Contains(f.Title, "stronger than it needs to be")
		})
		if said != c.said {
			t.Errorf("%.0f g/L: said %v", c.strength, said)
		}
	}
}
