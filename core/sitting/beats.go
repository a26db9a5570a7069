package sitting

import (
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

// Side is one side of a machine's card: what is done together, and how many days after the side before.
type Side struct {
	Tasks []Member
	After float64
}

// Cycle is the beats of a machine as they come round: sides that repeat. Of beats that do not repeat within so
// many sides, the next so many.
func Cycle(list []Sitting, most int) []Side {
	n := min(most, len(list))
	for length := 1; length <= min(most, len(list)/2); length++ {
		if repeats(list, length) {
			n = length
			break
		}
	}
	sides := make([]Side, n)
	for i := range sides {
		sides[i] = Side{Tasks: list[i].Members, After: list[i].Day}
		switch {
		case i > 0:
			sides[i].After -= list[i-1].Day
		case len(list) > n:
			sides[i].After = list[n].Day - list[n-1].Day
		}
	}
	return sides
}

// repeats says whether sittings are the same tasks again after so many.
func repeats(list []Sitting, length int) bool {
	for i := length; i < len(list); i++ {
		if !sameTasks(list[i], list[i-length]) {
			return false
		}
	}
	return true
}

func sameTasks(a, b Sitting) bool {
	return len(a.Members) == len(b.Members) && !slices.ContainsFunc(a.Members, func(m Member) bool {
		return !b.holds(m.Task, m)
	})
}

func (s Sitting) holds(id task.ID, of Member) bool {
	return slices.ContainsFunc(s.Members, func(m Member) bool { return m.Task == id && m.Part == of.Part })
}
