package sitting

import (
	"cmp"
	"math"
	"slices"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/machine"
	"freshanvil/core/task"
	"freshanvil/core/use"
)

// Axis is a machine's life measured in drinks: how many were made by each of its days, as logged, and how many are
// expected of the days to come. Between two turns of a day it is straight.
type Axis struct {
	starts []time.Time // of the days, oldest first; the present instant stands among them
	drinks []float64   // made by then
}

// Life is what an axis is laid out from.
type Life struct {
	Made   []use.Made                       // by the day, from the first day to now
	PerDay [7]float64                       // expected on each day of the week, Sunday first; above 0
	Away   []use.Spell                      // nobody is there: nothing is expected
	Until  time.Time                        // how far it is laid out
	Now    time.Time                        //
	Zone   *time.Location                   // of the machine
	Blank  func(from, to time.Time) float64 // drinks taken for a stretch that nobody logged; nil for none
}

// AxisOf lays the days of a life out.
func AxisOf(l Life) Axis {
	x := Axis{}
	sum := 0.0
	add := func(t time.Time) {
		x.starts, x.drinks = append(x.starts, t), append(x.drinks, sum)
	}
	for _, m := range l.Made {
		add(m.From)
		sum += m.Shots()
		if l.Blank != nil {
			sum += l.Blank(m.From, m.To)
		}
	}
	for t := l.Now; t.Before(l.Until); {
		add(t)
		next := use.NextDay(t, l.Zone)
		middle := t.Add(next.Sub(t) / 2)
		if !slices.ContainsFunc(l.Away, func(s use.Spell) bool { return !middle.Before(s.From) && middle.Before(s.To) }) {
			sum += l.PerDay[use.Day(t, l.Zone).Weekday()] * math.Min(1, next.Sub(t).Hours()/24)
		}
		t = next
	}
	add(l.Until)
	return x
}

// At is how many drinks were, or are expected to be, made by an instant; at an end where it lies beyond.
func (x Axis) At(t time.Time) float64 {
	i, exact := slices.BinarySearchFunc(x.starts, t, time.Time.Compare)
	switch {
	case exact, i == 0:
		return x.drinks[i]
	case i == len(x.starts):
		return x.drinks[i-1]
	}
	share := float64(t.Sub(x.starts[i-1])) / float64(x.starts[i].Sub(x.starts[i-1]))
	return x.drinks[i-1] + share*(x.drinks[i]-x.drinks[i-1])
}

// Tick is a mark on an axis.
type Tick struct {
	At     float64 // drinks
	Day    time.Time
	Strong bool // it carries a label
}

// Uses are the marks of the drinks between two instants: at most so many with a label, at steps of 1, 2 or 5.
func (x Axis) Uses(from, to time.Time, labels int) (ticks []Tick) {
	low, high := x.At(from), x.At(to)
	step := 1.0
	for n := 0; (high-low)/step > float64(labels); n++ {
		step *= []float64{2, 2.5, 2}[n%3]
	}
	small := step / 5
	for n := math.Ceil(low/small - 1e-9); n*small <= high+1e-9; n++ {
		at := n * small
		ticks = append(ticks, Tick{At: at, Strong: math.Abs(at/step-math.Round(at/step)) < 1e-6})
	}
	return ticks
}

// Days are the marks of the dates between two instants: of each day, each Monday or each month, the closest that
// there are no more than so many of; with a label where the one before is far enough, a share of what is shown.
func (x Axis) Days(from, to time.Time, zone *time.Location, most int, apart float64) (ticks []Tick) {
	whole := to.Sub(from).Hours() / 24
	wide := math.Max(1e-9, x.At(to)-x.At(from))
	last := math.Inf(-1)
	for day := use.Day(from, zone); !day.After(to); day = use.NextDay(day, zone) {
		switch {
		case day.Before(from):
			continue
		case whole > float64(7*most) && day.In(zone).Day() != 1:
			continue
		case whole > float64(most) && whole <= float64(7*most) && day.In(zone).Weekday() != time.Monday:
			continue
		}
		t := Tick{At: x.At(day), Day: day}
		if (t.At-last)/wide >= apart {
			t.Strong, last = true, t.At
		}
		ticks = append(ticks, t)
	}
	return ticks
}

// Pinch is a stretch of days in which nothing, or next to nothing, was made: many dates at one place.
type Pinch struct{ From, To time.Time }

// leastPinch is how many days without a drink are shown as a pinch.
const leastPinch = 7

// Pinches are the stretches between two instants in which no drink was made on so many days in a row.
func (x Axis) Pinches(from, to time.Time) (list []Pinch) {
	for i := 0; i+1 < len(x.starts); {
		j := i
		for j+1 < len(x.starts) && x.drinks[j+1]-x.drinks[i] < 1e-9 {
			j++
		}
		if x.starts[j].Sub(x.starts[i]).Hours()/24 >= leastPinch && x.starts[j].After(from) && x.starts[i].Before(to) {
			list = append(list, Pinch{x.starts[i], x.starts[j]})
		}
		i = max(j, i+1)
	}
	return list
}

// Track is one task of one part on a tape: when it was done, and when it falls due.
type Track struct {
	care.Standing
	Done []time.Time // oldest first
}

// Tracks are the tasks of a machine that a tape shows, what falls due next first: what comes round and is not one of
// the small daily ones. What was done counts for each task that it includes.
func Tracks(list []care.Standing, done []care.Done) (tracks []Track) {
	for _, s := range list {
		if s.Task.Row().Way == task.Small || s.NoDate {
			continue
		}
		t := Track{Standing: s}
		for _, d := range done {
			if d.Begun == "" && (d.Task == s.Task || d.Task.Counts(s.Task)) && covers(d.Part, s.Part) {
				t.Done = append(t.Done, d.At)
			}
		}
		slices.SortFunc(t.Done, time.Time.Compare)
		tracks = append(tracks, t)
	}
	slices.SortStableFunc(tracks, func(a, b Track) int {
		return cmp.Or(a.Likely.Compare(b.Likely), place(a.Task)-place(b.Task))
	})
	return tracks
}

func covers(done, of machine.Part) bool { return done == of || done.IsWhole() }

// LifeOf is what is known of a machine's use from a day on, and what is expected of it until another. A stretch that
// nobody logged counts by what was said or is believed: before the first entry the drinks a day of the answers, after
// the end of a counter's reading or of a file the pace of the weeks before.
func LifeOf(a machine.Answers, h care.History, from, now, until time.Time, zone *time.Location) Life {
	f := a.Facts()
	l := Life{Until: until, Now: now, Zone: zone, Away: h.Away, Made: h.ByDay(f.Groups, from, now, zone)}
	mean := 0.0
	for g := 1; g <= f.Groups; g++ {
		pace := use.PaceOf(a.Drinks/float64(f.Groups), g, f.Groups, h.Log, now, zone)
		for day, w := range pace.ByDay() {
			l.PerDay[day] += w.Value
		}
		mean += pace.PerDay()
	}
	days := func(from, to time.Time) float64 { return math.Max(0, to.Sub(from).Hours()/24) }
	logged := now
	if !h.LoggedSince.IsZero() { // the day of the first entry counts as logged
		logged = use.Day(h.LoggedSince, zone)
	}
	l.Blank = func(from, to time.Time) (drinks float64) {
		if from.Before(logged) {
			for _, x := range h.Held.Between(from, earlier(to, logged)) {
				drinks += x.Answers.Drinks * days(x.From, x.To)
			}
		}
		if !h.LoggedUntil.IsZero() && to.After(h.LoggedUntil) {
			drinks += mean * days(later(from, h.LoggedUntil), to)
		}
		return drinks
	}
	return l
}

func earlier(a, b time.Time) time.Time {
	if a.Before(b) {
		return a
	}
	return b
}

func later(a, b time.Time) time.Time {
	if a.After(b) {
		return a
	}
	return b
}
