package sitting

import (
	"cmp"
	"fmt"
	"maps"
	"math"
	"slices"

	"freshanvil/core/task"
)

// Beats puts tasks on beats: a base of so many days, and each task on every first, second, fourth or eighth of
// them, as seldom as it may be. Beats that double are never far from the best there is where what is shared is
// dear (joint replenishment; Roundy 1985, Management Science 31, from memory); how far is what Bound tells.
type Beats struct {
	Base  float64   // days
	Every []float64 // days, of each task in turn: the base times 1, 2, 4 …
}

// BeatsOf finds the base that costs the least a day.
func BeatsOf(items []Item) Beats {
	if len(items) == 0 {
		return Beats{}
	}
	shortest := math.Inf(1)
	for _, i := range items {
		shortest = math.Min(shortest, i.longest())
	}
	best, least := Beats{}, math.Inf(1)
	for _, i := range items { // the cost is least where a beat is just one task's own interval, halved or not
		base := i.longest()
		for base > shortest*(1+1e-9) {
			base /= 2
		}
		b := onBase(items, base)
		if cost := b.perDay(items); cost < least-1e-12 {
			best, least = b, cost
		}
	}
	return best
}

// longest is the longest that a task may go from one time to the next, days.
func (i Item) longest() float64 { return i.Every * (1 + late(i)) }

// onBase puts each task on the longest doubling of a base that it may go.
func onBase(items []Item, base float64) Beats {
	b := Beats{Base: base, Every: make([]float64, len(items))}
	for n, i := range items {
		b.Every[n] = base
		for b.Every[n]*2 <= i.longest()*(1+1e-9) {
			b.Every[n] *= 2
		}
	}
	return b
}

// perDay is what beats cost of somebody's time, min a day.
func (b Beats) perDay(items []Item) (minutes float64) {
	often := math.Inf(1)
	for n, i := range items {
		minutes += i.Task.Row().Hands / b.Every[n]
		often = math.Min(often, b.Every[n])
	}
	minutes += layingOut / often
	for _, s := range states {
		often = math.Inf(1)
		for n, i := range items {
			if slices.Contains(i.Task.Row().Needs, s.state) {
				often = math.Min(often, b.Every[n])
			}
		}
		minutes += s.minutes / often // nothing where no task needs it
	}
	return minutes
}

// onBeats puts the next of each task on the last beat that it may wait for, counted from the day of the first;
// one that fits none stands on its own day.
func onBeats(items []Item) (list []Sitting) {
	b := BeatsOf(items)
	first := math.Inf(1)
	for _, i := range items {
		_, to := i.window()
		first = math.Min(first, to)
	}
	sets := map[float64]uint{}
	for n, i := range items {
		from, to := i.window()
		day := first + math.Floor((to-first)/b.Base+1e-9)*b.Base
		if i.Placed || day < from-1e-9 {
			day = math.Min(math.Max(i.Due, from), to)
		}
		sets[day] |= 1 << n
	}
	for _, on := range slices.Sorted(maps.Keys(sets)) {
		if day, _, fits := best(items, sets[on]); fits {
			list = append(list, sittingOf(items, sets[on], day))
			continue
		}
		for n := range items { // they do not suit each other: each by itself
			if sets[on]>>n&1 == 1 {
				day, _, _ := best(items, 1<<n)
				list = append(list, sittingOf(items, 1<<n, day))
			}
		}
	}
	return list
}

// widened takes the sittings of the tasks that come first and puts each later task where it costs the least more:
// into one of them, or on a day of its own.
func widened(items []Item, sets []uint) (list []Sitting) {
	sets = slices.Clone(sets)
	for n := Exact; n < len(items); n++ {
		_, least, _ := best(items, 1<<n)
		into := -1
		for s, set := range sets {
			_, before, _ := best(items, set)
			if _, with, fits := best(items, set|1<<n); fits && with-before < least-1e-9 {
				into, least = s, with-before
			}
		}
		if into < 0 {
			sets = append(sets, 1<<n)
			continue
		}
		sets[into] |= 1 << n
	}
	for _, set := range sets {
		day, _, _ := best(items, set)
		list = append(list, sittingOf(items, set, day))
	}
	return list
}

// worth is what sittings cost, early and late counted.
func worth(list []Sitting) (cost float64) {
	for _, s := range list {
		for _, m := range s.Members {
			cost += m.own(s.Day) - m.Task.Row().Hands
		}
		cost += s.Minutes
	}
	return cost
}

// sides is how many sides a card has.
const sides = 4

// Card is the beats of a machine as they come round for good: every so many days one side, and what comes more seldom
// with the last side of every so many rounds.
type Card struct {
	Base   float64 // days from one side to the next
	Sides  [sides][]Item
	Rounds []Seldom
}

// Seldom is what is done once in so many rounds of a card.
type Seldom struct {
	Item
	Every int // rounds
}

// CardOf puts tasks on the sides of a card: on a base of whole days, each on every side, every second, the last, or the
// last of every second, fourth … round, as seldom as it may be.
func CardOf(items []Item) (c Card) {
	if len(items) == 0 {
		return c
	}
	shortest := math.Inf(1)
	for _, i := range items {
		shortest = math.Min(shortest, i.longest())
	}
	best, least := Beats{}, math.Inf(1)
	for _, i := range items {
		for base := i.Every; ; base /= 2 {
			whole := math.Max(1, math.Floor(base+1e-9))
			if b := onBase(items, whole); whole <= shortest && b.perDay(items) < least-1e-12 {
				best, least = b, b.perDay(items)
			}
			if whole <= 1 || whole <= shortest/2 {
				break
			}
		}
	}
	if math.IsInf(least, 1) { // something comes round more often than once a day
		best = onBase(items, 1)
	}
	c.Base = best.Base
	for n, i := range items {
		step := int(math.Round(best.Every[n] / best.Base))
		if step > sides {
			c.Rounds = append(c.Rounds, Seldom{i, step / sides})
			continue
		}
		for side := step; side <= sides; side += max(1, step) {
			c.Sides[side-1] = append(c.Sides[side-1], i)
		}
	}
	inTurn := func(a, b Item) int { return place(a.Task) - place(b.Task) }
	for i := range c.Sides {
		slices.SortStableFunc(c.Sides[i], inTurn)
	}
	slices.SortStableFunc(c.Rounds, func(a, b Seldom) int { return cmp.Or(a.Every-b.Every, inTurn(a.Item, b.Item)) })
	return c
}

// holds says whether a sitting holds a task of a part.
func (s Sitting) holds(id task.ID, of Member) bool {
	return slices.ContainsFunc(s.Members, func(m Member) bool { return m.Task == id && m.Part == of.Part })
}

// Says is how often a side comes, in words.
func (c Card) Says() string { return "every " + often(c.Base) }

// Says is how often it is done, in words.
func (s Seldom) Says(c Card) string { return "about every " + often(c.Base*sides*float64(s.Every)) }

// often is a number of days as an interval is told: in days, in weeks, or in months where those are many.
func often(days float64) string {
	unit, n := "day", math.Round(days)
	switch {
	case days >= 91:
		unit, n = "month", math.Round(days/30.4)
	case days >= 14 || n == 7:
		unit, n = "week", math.Round(days/7)
	}
	switch {
	case unit == "month" && n == 12:
		return "year"
	case n == 1:
		return unit
	}
	return fmt.Sprintf("%.0f %ss", n, unit)
}
