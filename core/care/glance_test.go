package care_test

import (
	"slices"
	"strings"
	"testing"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/inspect"
	"freshanvil/core/machine"
	"freshanvil/core/task"
	"freshanvil/core/treat"
	"freshanvil/core/units"
)

// glanceOf is a machine some days after it came to the bench new.
func glanceOf(t *testing.T, a machine.Answers, days int, found ...inspect.Found) care.Glance {
	t.Helper()
	came := time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)
	now := came.AddDate(0, 0, days)
	held := machine.Hold(machine.Holding{From: came, Answers: a})
	waters, err := care.Regimes(care.Supplies(held, nil, []treat.Setting{treat.Usual(a.Treatment)}), care.EffectsOf)
	if err != nil {
		t.Fatal(err)
	}
	h := care.History{Held: held, Waters: waters, Found: found,
		Done: care.BegunAt(a, came, care.New, func(r task.Row) bool { return len(r.Clocks) > 0 })}
	d, err := care.DescalingOf(a, h, now, time.UTC)
	if err != nil {
		t.Fatal(err)
	}
	return care.GlanceOf(a, h, care.AllDue(a, h, now, time.UTC), &d, now, time.UTC)
}

func partOf(t *testing.T, g care.Glance, spot machine.Spot) care.AtPart {
	t.Helper()
	i := slices.IndexFunc(g.Parts, func(p care.AtPart) bool { return p.Spot == spot })
	if i < 0 {
		t.Fatalf("nothing at %s", spot)
	}
	return g.Parts[i]
}

// TestGlanceNamesTheGroups: what is due on all groups alike names none; what is due on one names that one.
func TestGlanceNamesTheGroups(t *testing.T) {
	a := machine.Answers{Layout: machine.HXCafe, Valve: machine.Yes, Drinks: 190, MilkDrinks: 110,
		Treatment: machine.UnderSink, Hardness: units.UnknownHardness()}
	came := time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)
	now := came.AddDate(0, 0, 3)
	h := care.History{Held: machine.Hold(machine.Holding{From: came, Answers: a})}
	var err error
	if h.Waters, err = care.Regimes(care.Supplies(h.Held, nil, []treat.Setting{treat.Usual(a.Treatment)}),
		care.EffectsOf); err != nil {
		t.Fatal(err)
	}
	for g := 1; g <= 2; g++ {
		h.Done = append(h.Done, care.Done{Task: task.Wash, Part: machine.Group(g), At: now.Add(-30 * time.Hour)})
	}
	said := func() string {
		t.Helper()
		d, err := care.DescalingOf(a, h, now, time.UTC)
		if err != nil {
			t.Fatal(err)
		}
		g := care.GlanceOf(a, h, care.AllDue(a, h, now, time.UTC), &d, now, time.UTC)
		return partOf(t, g, machine.AtGroup).Lines[0]
	}
	if got := said(); got != "wash today" {
		t.Errorf("both groups are due: %q", got)
	}
	h.Done = append(h.Done, care.Done{Task: task.Wash, Part: machine.Group(1), At: now.Add(-time.Minute)})
	if got := said(); got != "wash today, group 2" {
		t.Errorf("group 1 was washed a minute ago: %q", got)
	}
}

// TestGlance: each layout is told part by part; what nobody said is said to be unknown, and what is late is late.
func TestGlance(t *testing.T) {
	for _, s := range machine.Signs() {
		t.Run(string(s.Layout), func(t *testing.T) {
			a := machine.Answers{Layout: s.Layout, Valve: machine.Yes, Drinks: 6, MilkDrinks: 2,
				Treatment: machine.InTank, Hardness: units.UnknownHardness()}
			if s.Valve == machine.NoValve {
				a.Valve = machine.No
			}
			fresh := glanceOf(t, a, 0)
			if fresh.Does == "" || strings.Contains(fresh.Does, " now") {
				t.Errorf("new today, and yet: %s", fresh.Does)
			}
			if len(fresh.Parts) != len(a.Facts().Scheme().Spots())-1 {
				t.Errorf("%d parts", len(fresh.Parts))
			}
			for _, p := range fresh.Parts {
				if p.Title == "" || p.Late {
					t.Errorf("%+v", p)
				}
			}
			if brew := partOf(t, fresh, machine.AtBrew); brew.Known || !strings.Contains(brew.Lines[0], "metal not known") {
				t.Errorf("%+v", brew)
			}
			late := glanceOf(t, a, 400)
			if !strings.HasSuffix(late.Does, " now.") {
				t.Errorf("after 400 days: %s", late.Does)
			}
			if s.Valve != machine.NoValve && !partOf(t, late, machine.AtGroup).Late {
				t.Error("a wash that is a year late does not show at the group")
			}
		})
	}
}

// TestGlanceSaysWhatIsKnown: metal, scale, filter and looks stand at their parts.
func TestGlanceSaysWhatIsKnown(t *testing.T) {
	h, err := units.NewHardness(14, units.GermanDegree)
	if err != nil {
		t.Fatal(err)
	}
	a := machine.Answers{Layout: machine.DualHome, Valve: machine.Yes, Drinks: 4, MilkDrinks: 2, Treatment: machine.InTank,
		Hardness:  units.HardnessReading{Likely: h, Low: h, High: h, Known: true},
		Overrides: map[string]string{"steam_material": "copper"}}
	g := glanceOf(t, a, 20, inspect.Found{Sight: inspect.Seal, Part: machine.Group(1), Verdict: "springy",
		At: time.Date(2026, 3, 12, 9, 0, 0, 0, time.UTC)})
	for _, c := range []struct {
		spot machine.Spot
		says string
	}{
		{machine.AtSteam, "1 L, copper"}, {machine.AtSteam, "of 0.2 mm of scale"}, {machine.AtTank, "filter "},
		{machine.AtTank, "2 L"}, {machine.AtGroup, "seal "}, {machine.AtGroup, "12 Mar"}, {machine.AtGroup, "wash "},
		{machine.AtPump, "2 min on, 1 off"}, {machine.AtValve, "yes"}, {machine.AtTray, "0.8 L"},
	} {
		if p := partOf(t, g, c.spot); !strings.Contains(strings.Join(p.Lines, "; "), c.says) {
			t.Errorf("at %s: %v, want %q", c.spot, p.Lines, c.says)
		}
	}
	if p := partOf(t, g, machine.AtSteam); !p.Known {
		t.Error("copper was said")
	}
	if all := strings.Join(g.Says, " "); !strings.Contains(all, "escale") {
		t.Errorf("nothing of the descale: %s", all)
	}
}

func TestCounted(t *testing.T) {
	for _, c := range []struct {
		done []task.ID
		want string
	}{
		{nil, "nothing on record"},
		{[]task.ID{task.Wash}, "1 wash"},
		{[]task.ID{task.Wash, task.Descale, task.Wash, task.FilterChange, task.Seal, task.Regenerate},
			"2 washes, 2 filters or salt, 1 descale, 1 other job"},
	} {
		var list []care.Done
		for _, id := range c.done {
			list = append(list, care.Done{Task: id})
		}
		if got := care.Counted(list); got != c.want {
			t.Errorf("%v: %q, want %q", c.done, got, c.want)
		}
	}
}

// TestFitted: of each part the last time, newest first; a clock that only began is no new part.
func TestFitted(t *testing.T) {
	day := func(d int) time.Time { return time.Date(2026, 3, d, 9, 0, 0, 0, time.UTC) }
	list := care.Fitted([]care.Done{
		{Task: task.Seal, Part: machine.Group(1), At: day(1)}, {Task: task.Seal, Part: machine.Group(1), At: day(9)},
		{Task: task.Seal, Part: machine.Group(2), At: day(2)}, {Task: task.Wash, Part: machine.Group(1), At: day(10)},
		{Task: task.FilterChange, At: day(5)}, {Task: task.BrushHead, At: day(8), Begun: care.Added},
	})
	var got []string
	for _, d := range list {
		got = append(got, string(d.Task)+" "+d.Part.String()+" "+d.At.Format("2"))
	}
	want := []string{"seal group-1 9", "filter_change machine 5", "seal group-2 2"}
	if !slices.Equal(got, want) {
		t.Errorf("%v, want %v", got, want)
	}
}
