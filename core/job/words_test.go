package job

import (
	"fmt"
	"regexp"
	"strings"
	"testing"

	"freshanvil/core/backflush"
	"freshanvil/core/descale"
	"freshanvil/core/machine"
	"freshanvil/core/standdown"
	"freshanvil/core/task"
	"freshanvil/core/treat"
)

// mostWords is the longest sentence that a hand with wet gloves is asked to read.
const mostWords = 22

var sentenceEnd = regexp.MustCompile(`[.?!] +`)

// everyPlan are plans of every kind, for every layout.
func everyPlan(t *testing.T) map[string]Plan {
	t.Helper()
	list := map[string]Plan{}
	add := func(name string, p Plan, err error) {
		if err == nil {
			list[name] = p
		}
	}
	for _, l := range machine.Layouts() {
		a := answers(l, machine.Yes)
		a.Overrides = map[string]string{"own_program": "yes"}
		for _, m := range backflush.Methods() {
			p, err := Wash(a, m.ID, backflush.UsualPowder, Target{Group: 1})
			add(string(l)+" "+string(m.ID), p, err)
		}
		if a.Facts().Groups > 1 {
			p, err := Wash(a, backflush.Soak, backflush.UsualPowder, Target{Group: 1}, Target{Group: 2})
			add(string(l)+" two groups", p, err)
		}
		p, err := Wash(a, backflush.HalfTeaspoon, backflush.UsualPowder, Target{Group: 1, Dirty: true})
		add(string(l)+" rinse", p, err)
		for blind := range 2 {
			p, err = Unblock(a, backflush.UsualPowder, Target{Group: 1, Blind: blind})
			add(string(l)+" freed", p, err)
		}
		for id := range activities {
			part := machine.Part{}
			if !id.IsOfMachine() {
				part = machine.Group(1)
			}
			for _, held := range []string{"screw", "seal", "not_said"} {
				a.Overrides["screen"] = held
				p, err = Tend(a, id, backflush.UsualPowder, part)
				add(fmt.Sprintf("%s %s %s", l, id, held), p, err)
			}
		}
		for _, id := range []task.ID{task.LayUp, task.Visit, task.Return} {
			for _, kind := range []machine.Treatment{machine.InTank, machine.UnderSink, machine.Softener} {
				still := a
				still.Treatment = kind
				from := renewedAt
				p, err = StandDown(Resting{Answers: still, Task: id, FilterDue: true, Stood: standdown.Stood{Days: 40},
					Rest: standdown.Rest{From: from, To: from.AddDate(0, 0, 40), Visited: kind != machine.InTank}})
				add(fmt.Sprintf("%s %s %s", l, id, kind), p, err)
			}
		}
		p, err = DrawOff(a, 0)
		add(string(l)+" draw off", p, err)
		for _, k := range machine.Treatments() {
			p, err = Renew(a, treat.Usual(k), renewedAt)
			add(string(l)+" "+string(k), p, err)
		}
	}
	for _, a := range []machine.Answers{block, soft, hx, dual, lever, with(machine.LeverCam, "drain", "plug",
		"brew_material", "brass", "steam_material", "brass", "steam_heater", "held_off")} {
		for _, prog := range descale.ProgramsFor(a.Facts()) {
			in, err := planned(t, a, "citric", 1, func(in *Sitting) { in.Program = prog.ID })
			if err != nil {
				t.Fatal(err)
			}
			p, err := Descale(a, in)
			add(string(a.Layout)+" "+string(prog.ID), p, err)
			in.Dirty = true
			p, err = Descale(a, in)
			add(string(a.Layout)+" acid left in", p, err)
		}
	}
	return list
}

// No sentence of a step is longer than a person reads at a glance.
func TestSentencesAreShort(t *testing.T) {
	told, steps := map[string]bool{}, 0
	for name, p := range everyPlan(t) {
		for _, s := range p.Steps() {
			steps++
			texts := append([]string{s.Title, s.Head, s.Button}, s.Do...)
			for _, c := range s.Cautions {
				texts = append(texts, c.Text)
			}
			for _, text := range texts {
				for _, sentence := range sentenceEnd.Split(text, -1) {
					if n := len(strings.Fields(sentence)); n > mostWords && !told[sentence] {
						told[sentence] = true
						t.Errorf("%s, %s: %d words: %s", name, s.ID, n, sentence)
					}
				}
			}
		}
	}
	if steps < 1000 {
		t.Errorf("only %d steps", steps)
	}
}

// Words that the screens and sheets do not use: one thing has one name (docs/words.md).
func TestOneThingHasOneName(t *testing.T) {
	never := regexp.MustCompile(`(?i)\b(portafilter|blank basket|discharge|three-way drain|renew the)\b`)
	for name, p := range everyPlan(t) {
		for _, s := range p.Steps() {
			for _, text := range append([]string{s.Title, s.Head, s.Button}, s.Do...) {
				if found := never.FindString(text); found != "" {
					t.Errorf("%s, %s says %q: %s", name, s.ID, found, text)
				}
			}
		}
	}
}
