package sitting

import (
	"fmt"
	"math"
	"testing"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/machine"
	"freshanvil/core/task"
	"freshanvil/core/use"
)

var tapeNow = time.Date(2026, 5, 20, 10, 0, 0, 0, time.UTC)

// lived is eight weeks of five drinks a day with three weeks away in the middle, and ten weeks to come.
func lived() Axis {
	l := Life{Now: tapeNow, Until: tapeNow.AddDate(0, 0, 70), Zone: time.UTC, PerDay: [7]float64{8, 4, 4, 4, 4, 4, 8},
		Away: []use.Spell{{From: tapeNow.AddDate(0, 0, 30), To: tapeNow.AddDate(0, 0, 40)}}}
	day := use.Day(tapeNow.AddDate(0, 0, -56), time.UTC)
	for n := 0; day.Before(tapeNow); n++ {
		to := use.NextDay(day, time.UTC)
		m := use.Made{From: day, To: earlier(to, tapeNow)}
		if n < 20 || n >= 41 {
			m.Double = 5
		}
		l.Made = append(l.Made, m)
		day = to
	}
	return AxisOf(l)
}

// The axis is drinks: an instant within a day lies between its turns, what is to come goes by the days of the week,
// and a time away stands still, behind and ahead.
func TestAxis(t *testing.T) {
	x := lived()
	start := use.Day(tapeNow.AddDate(0, 0, -56), time.UTC)
	for name, c := range map[string]struct {
		at   time.Time
		want float64
	}{
		"the beginning":      {start, 0},
		"before it":          {start.AddDate(0, 0, -9), 0},
		"ten days on":        {start.AddDate(0, 0, 10), 50},
		"half a day later":   {start.AddDate(0, 0, 10).Add(12 * time.Hour), 52.5},
		"away":               {start.AddDate(0, 0, 33), 100},
		"now":                {tapeNow, 100 + 16*5},
		"the end of today":   {use.NextDay(tapeNow, time.UTC), 180 + 4*0.75},
		"a week from then":   {use.NextDay(tapeNow, time.UTC).AddDate(0, 0, 7), 183 + 36},
		"beyond what it has": {tapeNow.AddDate(1, 0, 0), x.At(tapeNow.AddDate(0, 0, 70))},
	} {
		t.Run(name, func(t *testing.T) {
			if got := x.At(c.at); math.Abs(got-c.want) > 1e-9 {
				t.Errorf("%g drinks, want %g", got, c.want)
			}
		})
	}
	if a, b := x.At(tapeNow.AddDate(0, 0, 31)), x.At(tapeNow.AddDate(0, 0, 39)); math.Abs(a-b) > 1e-9 {
		t.Errorf("away, %g drinks become %g", a, b)
	}
	list := x.Pinches(start, tapeNow.AddDate(0, 0, 70))
	if len(list) != 2 || list[0].To.Sub(list[0].From) != 21*24*time.Hour {
		t.Errorf("pinches %+v", list)
	}
	if none := x.Pinches(start, start.AddDate(0, 0, 15)); len(none) != 0 {
		t.Errorf("before the time away: %+v", none)
	}
}

// Marks: uses at steps of 1, 2 or 5 and never too many with a label; dates by the day, the week or the month, with a
// label only where there is room.
func TestTicks(t *testing.T) {
	x := lived()
	start := use.Day(tapeNow.AddDate(0, 0, -56), time.UTC)
	strong := func(ticks []Tick) (n int) {
		for _, k := range ticks {
			if k.Strong {
				n++
			}
		}
		return n
	}
	for _, labels := range []int{4, 6, 10} {
		ticks := x.Uses(start, tapeNow, labels)
		if n := strong(ticks); n < labels/3 || n > labels+1 {
			t.Errorf("%d labels of %d", n, labels)
		}
		if step := ticks[1].At - ticks[0].At; math.Abs(step*5-math.Round(step*5)) > 1e-6 {
			t.Errorf("in steps of %g", step)
		}
	}
	for _, c := range []struct {
		days, from, to int
		every          string
	}{{10, 8, 12, "day"}, {56, 7, 9, "week"}, {126, 3, 5, "month"}} {
		t.Run(c.every, func(t *testing.T) {
			ticks := x.Days(start, start.AddDate(0, 0, c.days), time.UTC, 16, 0.06)
			if len(ticks) < c.from || len(ticks) > c.to {
				t.Errorf("%d marks in %d days", len(ticks), c.days)
			}
			last := -1.0
			for _, k := range ticks {
				if c.every == "week" && k.Day.Weekday() != time.Monday || c.every == "month" && k.Day.Day() != 1 {
					t.Errorf("a mark on %s", k.Day)
				}
				if k.Strong && last >= 0 && k.At-last < 0.06*(x.At(start.AddDate(0, 0, c.days))-x.At(start))-1e-9 {
					t.Errorf("a label at %g, the one before at %g", k.At, last)
				}
				if k.Strong {
					last = k.At
				}
			}
		})
	}
}

// What was done stands on the track of its task and of each that it includes; the small daily ones have none.
func TestTracks(t *testing.T) {
	ago := func(d int) time.Time { return tapeNow.AddDate(0, 0, -d) }
	list := Tracks([]care.Standing{
		{Task: task.Wash, Part: machine.Group(1)}, {Task: task.Wash, Part: machine.Group(2)}, {Task: task.Screen,
			Part: machine.Group(1)},
		{Task: task.Brush, Part: machine.Group(1)}, {Task: task.Descale}, {Task: task.Tank, NoDate: true}},
		[]care.Done{{Task: task.Wash, Part: machine.Group(1), At: ago(3)}, {Task: task.Seal, Part: machine.Group(1),
			At: ago(5)},
			{Task: task.Wash, Part: machine.Group(1), At: ago(9)}, {Task: task.Descale, At: ago(8), Begun: care.New}})
	got := ""
	for _, k := range list {
		got += fmt.Sprintf("%s %s %d; ", k.Task, k.Part, len(k.Done))
	}
	if want := "descale machine 0; screen group-1 1; wash group-1 2; wash group-2 0; "; got != want {
		t.Errorf("%q, want %q", got, want)
	}
	if w := list[2]; !w.Done[0].Before(w.Done[1]) {
		t.Errorf("not the oldest first: %v", w.Done)
	}
}

// A life before anything was logged goes by what was said then, and one that nobody logs goes on as believed.
func TestLifeThatNobodyLogged(t *testing.T) {
	a := machine.Answers{Layout: machine.SingleBoiler, Drinks: 6}
	from := use.Day(tapeNow.AddDate(0, 0, -10), time.UTC)
	held := machine.Hold(machine.Holding{From: from.AddDate(0, 0, -90),
		Answers: machine.Answers{Layout: machine.SingleBoiler, Drinks: 2}},
		machine.Holding{From: from.AddDate(0, 0, 4), Answers: a})
	h := care.History{Held: held}
	x := AxisOf(LifeOf(a, h, from, tapeNow, tapeNow.AddDate(0, 0, 30), time.UTC))
	if got := x.At(from.AddDate(0, 0, 5)); math.Abs(got-(4*2+6)) > 1e-6 {
		t.Errorf("%g drinks in five days", got)
	}
	if got := x.At(tapeNow.AddDate(0, 0, 10)) - x.At(tapeNow); math.Abs(got-60) > 1 {
		t.Errorf("%g drinks in ten days to come", got)
	}
	h.LoggedSince, h.LoggedUntil = from, from.AddDate(0, 0, 5)
	h.Events = []use.Event{{ID: "1", Kind: use.Double, Count: 20, From: from, To: from.AddDate(0, 0, 5)}}
	x = AxisOf(LifeOf(a, h, from, tapeNow, tapeNow.AddDate(0, 0, 30), time.UTC))
	if read, after := x.At(from.AddDate(0, 0, 5)), x.At(from.AddDate(0, 0, 7)); math.Abs(read-20) > 1e-6 ||
		after <= read+4 {
		t.Errorf("%g drinks by the counter, %g two days on", read, after)
	}
}
