package care

import (
	"math"
	"slices"
	"testing"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/standdown"
	"freshanvil/core/task"
	"freshanvil/core/use"
)

// A machine that is closed from 8 June to 13 July with visits, in use until then.
func closing(t *testing.T) (machine.Answers, History, standdown.Rest) {
	t.Helper()
	a, h, _ := lookedAt(machine.HXHome)
	h.Waters = []Regime{{Effect: effectOf(t, 160, a.Facts())}}
	day := func(month time.Month, day int) time.Time { return time.Date(2026, month, day, 4, 0, 0, 0, time.UTC) }
	r := standdown.Rest{From: day(6, 8), To: day(7, 13), Visited: true}
	h.Rests = []standdown.Rest{r}
	h.Away = []use.Spell{{From: r.From, To: r.To, Entered: true}}
	return a, h, r
}

func stands(a machine.Answers, h History, now time.Time) (list []Due) {
	for _, d := range AllDue(a, h, now, time.UTC) {
		if d.Task == task.LayUp || d.Task == task.Visit || d.Task == task.Return {
			list = append(list, d)
		}
	}
	return list
}

// A closing is asked for on the evening before; then each visit, once a week, until it was made or missed; then the
// return. What is shown is what follows from what is on record, and nothing else falls due meanwhile.
func TestRestsFallDue(t *testing.T) {
	a, h, r := closing(t)
	on := func(days, hour int) time.Time {
		return r.From.AddDate(0, 0, days).Add(time.Duration(hour-4) * time.Hour)
	}
	did := func(id task.ID, at time.Time) { h.Done = append(h.Done, Done{Task: id, At: at}) }
	expect := func(now time.Time, want ...string) {
		t.Helper()
		var got []string
		for _, d := range stands(a, h, now) {
			got = append(got, string(d.Task)+" "+string(d.State))
			if math.Abs(d.Days.Value-math.Max(0, d.Likely.Sub(now).Hours()/24)) > 1e-6 || len(d.Because) == 0 {
				t.Errorf("%s in %g days, on %s", d.Task, d.Days.Value, d.Likely)
			}
		}
		slices.Sort(got)
		if !slices.Equal(got, want) {
			t.Errorf("%s: %q, want %q", now.Format("2 Jan 15:04"), got, want)
		}
	}
	expect(on(-8, 9), "lay_up later")
	expect(on(-1, 9), "lay_up today")
	expect(on(1, 9), "lay_up overdue")
	did(task.LayUp, on(-1, 19))
	expect(on(1, 9), "return later", "visit later")
	if d := stands(a, h, on(1, 9)); !slices.ContainsFunc(d, func(d Due) bool { return d.Likely.Equal(on(7, 4)) }) {
		t.Error("the first visit is a week after the first day")
	}
	expect(on(7, 9), "return later", "visit today")
	expect(on(9, 9), "return later", "visit overdue")
	expect(on(11, 9), "return later", "visit later") // the first was missed
	did(task.Visit, on(14, 9))
	expect(on(15, 9), "return later", "visit later")
	did(task.Visit, on(28, 9))
	expect(on(29, 9), "return later")
	for _, d := range AllDue(a, h, on(29, 9), time.UTC) {
		if d.State != Later || d.Likely.Before(r.To) {
			t.Errorf("laid up, and %s falls due on %s", d.Task, d.Likely)
		}
	}
	if small := Chores(a, h, on(29, 9), time.UTC); len(small) > 0 {
		t.Errorf("laid up, and %s is for today", small[0].Title)
	}
	expect(on(35, 9), "return today")
	expect(on(37, 9), "return overdue")
	did(task.Return, on(36, 9))
	expect(on(37, 9))
	if _, laid := h.LaidUp(on(37, 9)); laid {
		t.Error("it has come back, and is laid up")
	}
}

// Over an absence wear clocks stand still and hygiene clocks go on, whatever its length: each of them has gone as far
// as on a machine that was never closed, less the drinks that were not made.
func TestClocksOverAnAbsence(t *testing.T) {
	for _, days := range []int{5, 14, 35, 90} {
		a, h, r := closing(t)
		h.Rests[0].To = r.From.AddDate(0, 0, days)
		h.Away[0].To = h.Rests[0].To
		open := h
		open.Away, open.Rests = nil, nil
		begin := r.From
		used := func(h History, now time.Time, kind task.Clock) (sum float64) {
			for _, d := range AllDue(a, h, now, time.UTC) {
				for _, c := range d.Clocks {
					if c.Kind == kind && d.Task != task.Descale && !d.Begun {
						sum += c.Used.Value
					}
				}
			}
			return sum
		}
		end := h.Rests[0].To
		for _, kind := range []task.Clock{task.ByShots, task.ByCoffee} {
			before, after, worn := used(h, begin, kind), used(h, end, kind), used(open, end, kind)
			if before <= 0 || math.Abs(after-before) > 1e-6*before || worn <= after {
				t.Errorf("%d days: %s %g, then %g, in use %g", days, kind, before, after, worn)
			}
		}
		if before, after, open := used(h, begin, task.ByDays), used(h, end, task.ByDays),
			used(open, end, task.ByDays); after <= before || math.Abs(after-open) > 1e-6 {
			t.Errorf("%d days: calendar %g, then %g, in use %g", days, before, after, open)
		}
	}
}

// Days on which nobody was there are counted once, however their spells overlap.
func TestThere(t *testing.T) {
	day := func(n int) time.Time { return time.Date(2026, 3, n, 0, 0, 0, 0, time.UTC) }
	spell := func(from, to int) use.Spell { return use.Spell{From: day(from), To: day(to)} }
	for name, c := range map[string]struct {
		away []use.Spell
		want float64
	}{
		"always there": {nil, 20}, "one": {[]use.Spell{spell(5, 8)}, 17}, "before and after": {[]use.Spell{spell(1, 2),
			spell(25, 28)}, 20},
		"over the edges": {[]use.Spell{spell(1, 5), spell(20, 28)}, 15},
		"overlapping":    {[]use.Spell{spell(7, 12), spell(5, 9), spell(6, 7)}, 13}, "all": {[]use.Spell{spell(1, 28)}, 0},
	} {
		s := &situation{h: History{Log: use.Log{Away: c.away}}}
		if got := s.there(day(2), day(22)); math.Abs(got-c.want) > 1e-9 {
			t.Errorf("%s: %g days, want %g", name, got, c.want)
		}
	}
}
