package care

import (
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"freshanvil/core/inspect"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
)

// lookedAt is a home machine on which every task was done 20 days ago, and what was found since.
func lookedAt(layout machine.Layout, found ...inspect.Found) (machine.Answers, History, time.Time) {
	a := machine.Answers{Layout: layout, Valve: machine.Yes, Drinks: 4, MilkDrinks: 2}
	now := time.Date(2026, 5, 20, 9, 0, 0, 0, time.UTC)
	h := History{Found: found}
	for _, r := range task.All() {
		h.Done = append(h.Done, Done{Task: r.ID, At: now.AddDate(0, 0, -20)})
		for g := range a.Facts().Groups {
			h.Done = append(h.Done, Done{Task: r.ID, Part: machine.Group(g + 1), At: now.AddDate(0, 0, -20)})
		}
	}
	return a, h, now
}

func dueOf(t *testing.T, list []Due, id task.ID, part machine.Part) Due {
	t.Helper()
	for _, d := range list {
		if d.Task == id && d.Part == part {
			return d
		}
	}
	t.Fatalf("no %s of %s", id, part)
	return Due{}
}

// What a look finds moves something: each verdict of section "parts" of the trade (common practice), in
// the days that it leaves (how many is our own choice).
func TestWhatALookFindsMovesSomething(t *testing.T) {
	g := machine.Group(1)
	for _, c := range []struct {
		name    string
		layout  machine.Layout
		sight   inspect.Sight
		part    machine.Part
		verdict inspect.Verdict
		moves   task.ID
		of      machine.Part
		days    float64 // to it from now; -1 for as it was
	}{
		{"springy", machine.HXHome, inspect.Seal, g, inspect.Springy, task.Seal, g, -1},
		{"stiff", machine.HXHome, inspect.Seal, g, inspect.Stiff, task.Seal, g, 29},
		{"brittle", machine.HXHome, inspect.Seal, g, inspect.Brittle, task.Seal, g, 0},
		{"chipped", machine.HXHome, inspect.Seal, g, inspect.Chipped, task.Seal, g, 0},
		{"one-sided", machine.HXHome, inspect.Wetting, g, inspect.OneSided, task.Screen, g, 0},
		{"flakes", machine.HXHome, inspect.Strainer, machine.Part{}, inspect.Flakes, task.Relief, machine.Part{}, -1},
		{"weeping joint", machine.HXHome, inspect.Joint, machine.Part{}, inspect.Drips, task.SteamJoint, machine.Part{}, 0},
		{"stiff lever", machine.LeverCam, inspect.Lever, g, inspect.Squeaks, task.CamGrease, g, 29},
		{"drop at a drain", machine.DualHome, inspect.Screws, machine.Part{}, inspect.Drips, task.DrainSeals,
			machine.Part{}, 0},
		{"blocked tip", machine.HXHome, inspect.Tip, machine.Part{}, inspect.SomeBlocked, task.Tip, machine.Part{}, -1},
	} {
		t.Run(c.name, func(t *testing.T) {
			_, _, now := lookedAt(c.layout)
			at := now.AddDate(0, 0, -1)
			a, h, _ := lookedAt(c.layout, inspect.Found{Sight: c.sight, Part: c.part, Verdict: c.verdict, At: at})
			_, plain, _ := lookedAt(c.layout)
			was := dueOf(t, AllDue(a, plain, now, time.UTC), c.moves, c.of)
			is := dueOf(t, AllDue(a, h, now, time.UTC), c.moves, c.of)
			if c.days < 0 {
				if is.Pulled || !is.Likely.Equal(was.Likely) {
					t.Errorf("moved from %s to %s", was.Likely, is.Likely)
				}
				return
			}
			if !is.Pulled || math.Abs(is.Likely.Sub(now).Hours()/24-c.days) > 0.01 || was.Pulled {
				t.Errorf("%s, %s from now, was %s", is.State, is.Likely.Sub(now), was.Likely.Sub(now))
			}
			row, _ := inspect.Find(c.sight)
			if !strings.HasPrefix(is.Because[0].Text, row.Title) || is.Days.Value != math.Max(0, is.Days.Value) {
				t.Errorf("because %q", is.Because[0].Text)
			}
			if c.days == 0 && (!is.Now(now) || is.When() == "Falls due today.") {
				t.Errorf("not for now: %q", is.When())
			}
		})
	}
}

// Done since, it asks for nothing any more; done in the same sitting in which it was found, it does where
// the look came at the end.
func TestAFindingEndsWithItsTask(t *testing.T) {
	g := machine.Group(1)
	at := time.Date(2026, 5, 19, 9, 0, 0, 0, time.UTC)
	for _, c := range []struct {
		name  string
		found inspect.Found
		done  task.ID
		after time.Duration
		moves task.ID
		want  bool
	}{
		{"a new seal", inspect.Found{Sight: inspect.Seal, Part: g, Verdict: inspect.Brittle, At: at}, task.Seal, time.Hour,
			task.Seal, false},
		{"the run it was seen in", inspect.Found{Sight: inspect.Wetting, Part: g, Verdict: inspect.OneSided, At: at},
			task.Screen, time.Minute, task.Screen, true},
		{"once more since", inspect.Found{Sight: inspect.Wetting, Part: g, Verdict: inspect.OneSided, At: at},
			task.Screen, 20 * time.Hour, task.Screen, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			a, h, now := lookedAt(machine.HXHome, c.found)
			h.Done = append(h.Done, Done{Task: c.done, Part: g, At: at.Add(c.after)})
			if got := dueOf(t, AllDue(a, h, now, time.UTC), c.moves, g).Pulled; got != c.want {
				t.Errorf("asks for it: %v", got)
			}
			fits := Fits(a, h, now)
			if wants := c.found.Seen().Fit != "" && c.want; (len(fits) > 0) != wants {
				t.Errorf("to fit: %+v", fits)
			}
		})
	}
	a, h, now := lookedAt(machine.HXHome, inspect.Found{Sight: inspect.Seal, Part: g, Verdict: inspect.Brittle, At: at})
	if fits := Fits(a, h, now); len(fits) != 1 || fits[0].What != "a group seal" || fits[0].Part != g {
		t.Errorf("to fit: %+v", fits)
	}
}

// A screen found clean twice running comes off later, a blocked one sooner: as the first dirty water moves
// the wash (our own choice).
func TestTheScreenMovesItsInterval(t *testing.T) {
	g := machine.Group(1)
	seen := func(days int, v inspect.Verdict) inspect.Found {
		return inspect.Found{Sight: inspect.Screen, Part: g, Verdict: v, At: time.Date(2026, 5, days, 9, 0, 0, 0, time.UTC)}
	}
	for _, c := range []struct {
		name  string
		found []inspect.Found
		want  float64 // days
	}{
		{"never looked at", nil, 30},
		{"clean once", []inspect.Found{seen(10, inspect.Clean)}, 30},
		{"clean twice", []inspect.Found{seen(3, inspect.Clean), seen(10, inspect.Clean)}, 38},
		{"stained", []inspect.Found{seen(10, inspect.Stained)}, 30},
		{"some blocked", []inspect.Found{seen(3, inspect.Clean), seen(10, inspect.SomeBlocked)}, 26},
		{"blocked", []inspect.Found{seen(10, inspect.Blocked)}, 21},
		{"blocked, then clean", []inspect.Found{seen(3, inspect.Blocked), seen(10, inspect.Clean)}, 30},
	} {
		t.Run(c.name, func(t *testing.T) {
			a, h, now := lookedAt(machine.HXHome, c.found...)
			d := dueOf(t, AllDue(a, h, now, time.UTC), task.Screen, g)
			if d.Interval.Days != c.want {
				t.Errorf("every %g days, want %g", d.Interval.Days, c.want)
			}
		})
	}
}

// Who has which task: what a machine has not is not asked for, what the law asks for only in trade use;
// how often is common practice, or said to be ours.
func TestWhichPartsFallDue(t *testing.T) {
	for _, c := range []struct {
		name   string
		layout machine.Layout
		milk   float64
		task   task.ID
		days   float64 // of the interval; 0 for none
		trade  bool
	}{
		{"tip, milk", machine.HXHome, 2, task.Tip, 7, true},
		{"tip, no milk", machine.HXHome, 0, task.Tip, 0, false},
		{"cam", machine.LeverCam, 2, task.CamGrease, 365, false},
		{"no cam", machine.HXHome, 2, task.CamGrease, 0, false},
		{"grinder", machine.DualHome, 2, task.Grinder, 91, true},
		{"relief valve", machine.DualHome, 2, task.Relief, 365, true},
		{"no boiler that makes steam by itself", machine.Thermoblock, 2, task.Relief, 0, false},
		{"inspection in trade", machine.HXCafe, 2, task.Inspection, 365, true},
		{"none at home", machine.HXHome, 2, task.Inspection, 0, false},
		{"service in trade", machine.MultiCafe, 2, task.Service, 365, true},
		{"every three years at home", machine.HXHome, 2, task.Service3, 1095, false},
		{"probe in trade", machine.HXCafe, 2, task.Probe, 365, false},
		{"probe at home", machine.HXHome, 2, task.Probe, 1095, false},
		{"no screws", machine.HXHome, 2, task.DrainSeals, 0, false},
		{"screws", machine.DualHome, 2, task.DrainSeals, 730, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			a, h, now := lookedAt(c.layout)
			a.MilkDrinks = c.milk
			var days float64
			var source reason.Source
			for _, d := range AllDue(a, h, now, time.UTC) {
				if d.Task == c.task {
					days, source = d.Interval.Days, d.Because[0].Source
				}
			}
			if days != c.days || days > 0 && (source == reason.Trade) != c.trade {
				t.Errorf("every %g days by %+v, want %g", days, source, c.days)
			}
		})
	}
}

// A seal wears by use and by the calendar, whichever is first.
func TestASealWearsByUse(t *testing.T) {
	a, h, now := lookedAt(machine.HXCafe)
	a.Drinks = 600
	d := dueOf(t, AllDue(a, h, now, time.UTC), task.Seal, machine.Group(1))
	if len(d.Clocks) != 2 || !d.Clocks[0].Leads || d.Days.Value > 60 || d.Days.Value < 40 {
		t.Errorf("20 days at 300 shots a day of 20,000: %g days to go, clocks %+v", d.Days.Value, d.Clocks)
	}
	a.Drinks = 4
	if d = dueOf(t, AllDue(a, h, now, time.UTC), task.Seal, machine.Group(1)); math.Abs(d.Days.Value-345) > 1 {
		t.Errorf("a seldom used one: %g days to go", d.Days.Value)
	}
}

// What a look would move is told beforehand, and is what it does move once it is on record: nothing where the part is
// as it should be, the task now where it is bad, how often it comes where that changes; nothing is written.
func TestMovedByIsWhatItMoves(t *testing.T) {
	a, h, now := lookedAt(machine.HXHome)
	h.Waters = []Regime{{Effect: effectOf(t, 160, a.Facts())}}
	g := machine.Group(1)
	days := func(h History) map[task.ID]time.Time {
		m := map[task.ID]time.Time{}
		for _, d := range AllDue(a, h, now, time.UTC) {
			m[d.Task] = d.Likely
		}
		return m
	}
	before := days(h)
	for _, row := range inspect.All() {
		for _, seen := range row.Seen {
			f := inspect.Found{Sight: row.Sight, Verdict: seen.Verdict, At: now}
			if row.Of == task.EachGroup {
				f.Part = g
			}
			list := MovedBy(a, h, f, now, time.UTC)
			with := h
			with.Found = append(with.Found, f)
			after := days(with)
			for id, day := range after {
				told := slices.ContainsFunc(list, func(s Shift) bool { return s.Task == id && s.To.Equal(day) })
				if far := math.Abs(day.Sub(before[id]).Hours()) > 24; far && !told {
					t.Errorf("%s %s moves %s, and does not say so", row.Sight, seen.Verdict, id)
				}
			}
			if !seen.Bad && len(list) > 0 {
				t.Errorf("%s %s is fine and moves %v", row.Sight, seen.Verdict, list)
			}
		}
	}
	crusted := MovedBy(a, h, inspect.Found{Sight: inspect.Gauze, Verdict: inspect.Crusted}, now, time.UTC)
	if len(crusted) != 1 || crusted[0].Task != task.Descale ||
		!strings.HasPrefix(crusted[0].Text, "Descale, in a workshop: now, not ") {
		t.Errorf("a crusted gauze: %+v", crusted)
	}
	some := MovedBy(a, h, inspect.Found{Sight: inspect.Screen, Part: g, Verdict: inspect.SomeBlocked}, now, time.UTC)
	if len(some) != 1 || some[0].Task != task.Screen || !some[0].To.Before(some[0].From) {
		t.Errorf("holes blocked: %+v", some)
	}
	if len(h.Found) > 0 {
		t.Error("it was written down")
	}
}
