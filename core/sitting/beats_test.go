package sitting

import (
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/machine"
	"freshanvil/core/task"
	"freshanvil/core/units"
)

// many are more tasks than are put together exactly, of several groups.
func many(r *rand.Rand, n int) (items []Item) {
	for len(items) < n {
		for _, i := range random(r, 6) {
			i.Part = machine.Group(1 + len(items)/6)
			items = append(items, i)
		}
	}
	return items[:n]
}

// Beats that double: each task as seldom as it may be on the base, never more seldom, and never more than twice
// as often as it must (Roundy 1985, from memory: powers of two).
func TestBeatsDouble(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 4))
	for range 200 {
		items := many(r, 3+r.IntN(15))
		b := BeatsOf(items)
		for n, i := range items {
			if times := math.Log2(b.Every[n] / b.Base); math.Abs(times-math.Round(times)) > 1e-9 {
				t.Errorf("every %g days on a base of %g", b.Every[n], b.Base)
			}
			if b.Every[n] > i.longest()*(1+1e-6) || b.Every[n]*2 < i.longest()*(1-1e-6) {
				t.Errorf("every %g days of %g that it may go", b.Every[n], i.longest())
			}
		}
		for _, factor := range []float64{0.71, 0.8, 0.9, 0.97} { // no other base is cheaper
			if o := onBase(items, b.Base*factor); o.perDay(items) < b.perDay(items)-1e-9 {
				t.Errorf("a base of %g costs %g a day, one of %g %g", o.Base, o.perDay(items), b.Base, b.perDay(items))
			}
		}
	}
}

// More tasks than are put together exactly: none is lost, each is in its window, and a year stays near its bound.
func TestMoreThanExact(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 2))
	worst := 0.0
	for range 40 {
		items := many(r, Exact+1+r.IntN(12))
		seen := 0
		for _, s := range Together(items) {
			for _, m := range s.Members {
				seen++
				if from, to := m.window(); s.Day < from-1e-9 || s.Day > to+1e-9 {
					t.Errorf("%s on day %.2f of %.2f to %.2f", m.Task, s.Day, from, to)
				}
			}
		}
		if seen != len(items) {
			t.Errorf("%d of %d tasks", seen, len(items))
		}
		minutes, bound := Minutes(Year(items, 200)), Bound(items, 200)
		if minutes < bound-1e-6 {
			t.Errorf("%g min, below the bound of %g", minutes, bound)
		}
		worst = math.Max(worst, minutes/bound)
	}
	t.Logf("at worst %.2f of the bound", worst)
	if worst > 2.5 {
		t.Errorf("a year of %.2f times its bound", worst)
	}
}

// The card of a machine: from two, four and eight weeks the four beats of practice, the filter with the last side; what
// comes more seldom stands in its rounds; nothing is ever later than it may be.
func TestCard(t *testing.T) {
	c := CardOf([]Item{item(task.Wash, 14, 3), item(task.Descale, 28, 9), item(task.FilterChange, 56, 40)})
	if c.Base != 14 || len(c.Rounds) != 0 {
		t.Fatalf("every %g days, %d in rounds", c.Base, len(c.Rounds))
	}
	for i, want := range [][]task.ID{{task.Wash}, {task.Descale, task.Wash}, {task.Wash},
		{task.FilterChange, task.Descale, task.Wash}} {
		var got []task.ID
		for _, x := range c.Sides[i] {
			got = append(got, x.Task)
		}
		if !slices.Equal(got, want) {
			t.Errorf("side %d: %v, want %v", i+1, got, want)
		}
	}
	yearly := CardOf([]Item{item(task.Soak, 7, 1), item(task.Wash, 13.4, 2), item(task.Seal, 365, 200)})
	if yearly.Base != 7 || len(yearly.Rounds) != 1 || yearly.Rounds[0].Every != 8 || len(yearly.Sides[0]) != 1 ||
		len(yearly.Sides[1]) != 2 {
		t.Errorf("%+v", yearly)
	}
	r := rand.New(rand.NewPCG(8, 8))
	for range 200 {
		items := many(r, 1+r.IntN(12))
		c := CardOf(items)
		for _, x := range items {
			on := 0
			for _, side := range c.Sides {
				on += count(side, x)
			}
			every := float64(sides) / math.Max(1, float64(on)) * c.Base
			for _, s := range c.Rounds {
				if s.Task == x.Task && s.Part == x.Part {
					every, on = float64(sides*s.Every)*c.Base, 1
				}
			}
			if on == 0 || every > x.longest()*(1+1e-6) {
				t.Errorf("%s every %g days of %g, on %d sides", x.Task, every, x.Every, on)
			}
		}
	}
	for days, want := range map[float64]string{1: "day", 5: "5 days", 7: "week", 10: "10 days", 14: "2 weeks",
		60: "9 weeks", 120: "4 months", 365: "year", 730: "24 months"} {
		if got := often(days); got != want {
			t.Errorf("every %g days: every %s", days, got)
		}
	}
	if none := CardOf(nil); none.Base != 0 {
		t.Errorf("%+v of nothing", none)
	}
}

func count(list []Item, of Item) (n int) {
	for _, i := range list {
		if i.Task == of.Task && i.Part == of.Part {
			n++
		}
	}
	return n
}

// The minutes of a sitting can be worked out again, and are those it is put together by.
func TestTakes(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 1))
	for range 50 {
		for _, s := range Together(random(r, 5)) {
			if w := s.Takes(); math.Abs(w.Value-s.Minutes) > 1e-9 || w.Unit != "min" {
				t.Errorf("%g %s, put together by %g", w.Value, w.Unit, s.Minutes)
			}
			if w := s.OneByOne(); math.Abs(w.Value-s.Alone) > 1e-9 {
				t.Errorf("one by one %g, put together by %g", w.Value, s.Alone)
			}
		}
	}
}

// What somebody put on a day is done on it; the others gather round it or stay away, and its next time is free.
func TestPlaced(t *testing.T) {
	now := time.Date(2026, 5, 20, 9, 0, 0, 0, time.UTC)
	items := []Item{item(task.Wash, 14, 10), item(task.Soak, 14, 10), item(task.Descale, 90, 40)}
	placed := slices.Clone(items)
	list := []care.Placing{{Task: task.Soak, On: now.AddDate(0, 0, 4), Set: now}, {Task: task.Tank, On: now, Set: now}}
	for i := range placed {
		placed[i] = placed[i].placed(list, now.AddDate(0, 0, -4), now)
	}
	if done := items[1].placed(list, now.AddDate(0, 0, 1), now); done.Placed {
		t.Error("it was done since, and is still put on a day")
	}
	year := Year(placed, 60)
	first := year[0]
	if math.Abs(first.Day-4) > 0.01 || !first.holds(task.Soak, Member{}) ||
		!strings.Contains(first.Members[len(first.Members)-1].Because.Text, "by hand, 6 days early") {
		t.Fatalf("%+v", first)
	}
	for _, s := range year[1:] {
		for _, m := range s.Members {
			if m.Placed {
				t.Errorf("day %.0f: placed again", s.Day)
			}
		}
	}
	if items[1].Placed {
		t.Error("what was handed in was changed")
	}
}

// Moving says what it costs, and is never cheaper than the best; a day that is past or too late is refused.
func TestMoving(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 8))
	for range 100 {
		items := random(r, 4)
		i := items[r.IntN(4)]
		free, pinned := worth(Together(items)), slices.Clone(items)
		n := find(pinned, i.Task, i.Part)
		from, to := i.window()
		pinned[n].Placed, pinned[n].On = true, from+r.Float64()*(to-from)
		if with := worth(Together(pinned)); with < free-1e-6 {
			t.Errorf("moved by hand %g, the best was %g", with, free)
		}
	}
	items := []Item{item(task.Wash, 14, 10), item(task.Soak, 14, 10)}
	m, after, err := Moving(items, task.Soak, machine.Part{}, 4, 28)
	if err != nil || m.Early != 6 || m.Minutes <= 0 || len(m.Joined) != 0 || len(after) == 0 ||
		!strings.Contains(m.Says.Text, "6 days early: 43 %") || !strings.Contains(m.Says.Text, "minutes more") {
		t.Errorf("%+v %v", m, err)
	}
	if m, _, err = Moving(items, task.Soak, machine.Part{}, 10, 28); err != nil || len(m.Joined) != 1 {
		t.Errorf("back on its day: %+v %v", m, err)
	}
	never := []Item{{Task: task.Wash, Every: 14, Due: 10, Never: true}}
	for _, c := range []struct {
		items []Item
		id    task.ID
		on    float64
		field string
	}{{items, task.Soak, -3, "on"}, {items, task.Soak, 16, "on"}, {never, task.Wash, 12, "on"},
		{items, task.Descale, 3, "task"}, {items, task.Soak, math.NaN(), "on"}} {
		t.Run(fmt.Sprint(c.id, c.on), func(t *testing.T) {
			var bad *units.OutOfRange
			if _, _, err := Moving(c.items, c.id, machine.Part{}, c.on, 28); !errors.As(err, &bad) || bad.Field != c.field {
				t.Errorf("%v", err)
			}
		})
	}
}
