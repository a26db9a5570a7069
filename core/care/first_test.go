package care_test

import (
	"testing"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/machine"
	"freshanvil/core/task"
	"freshanvil/core/treat"
	"freshanvil/core/units"
)

// firstOf is what is first heard of a machine that is new now.
func firstOf(t *testing.T, a machine.Answers) []care.First {
	t.Helper()
	now := time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)
	held := machine.Hold(machine.Holding{From: now, Answers: a})
	waters, err := care.Regimes(care.Supplies(held, nil, []treat.Setting{treat.Usual(a.Treatment)}), care.EffectsOf)
	if err != nil {
		t.Fatal(err)
	}
	h := care.History{Held: held, Waters: waters,
		Done: care.BegunAt(a, now, care.New, func(r task.Row) bool { return len(r.Clocks) > 0 })}
	return care.Firsts(a, h, now, time.UTC)
}

// TestFirsts: every layout hears of all three jobs: a date, or why there is none; never neither, never both.
func TestFirsts(t *testing.T) {
	h, err := units.NewHardness(14, units.GermanDegree)
	if err != nil {
		t.Fatal(err)
	}
	read := units.HardnessReading{Likely: h, Low: h, High: h, Known: true}
	for _, s := range machine.Signs() {
		for _, how := range machine.Treatments() {
			t.Run(string(s.Layout)+" "+string(how), func(t *testing.T) {
				a := machine.Answers{Layout: s.Layout, Valve: machine.Yes, Drinks: 6, MilkDrinks: 2, Treatment: how,
					Hardness: read}
				if s.Valve == machine.NoValve {
					a.Valve = machine.No
				}
				list := firstOf(t, a)
				if len(list) != 3 {
					t.Fatalf("%d jobs", len(list))
				}
				for _, f := range list {
					if f.Title == "" || (f.Due == nil) == (f.None.Text == "") {
						t.Errorf("%+v", f)
					}
					if f.Due != nil && !f.Due.Likely.After(f.Due.Last) {
						t.Errorf("%s of a new machine falls due at once: %s", f.Title, f.Due.Likely)
					}
				}
				if none := list[0].Due == nil; none != (s.Valve == machine.NoValve) {
					t.Errorf("washed: %v, with valve %s", !none, s.Valve)
				}
				renewed := how != machine.Untreated && how != machine.Bottled
				if (list[2].Due != nil) != renewed {
					t.Errorf("renewed: %+v, treated by %s", list[2], how)
				}
			})
		}
	}
}
