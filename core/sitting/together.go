// Package sitting decides what of a machine's care is done together: which of the tasks that come round are
// pulled forward to share a laying out, a cold machine or a shut supply, and which wait.
//
// It does not decide when a task is due (package care) nor how it is done (package job).
package sitting

import (
	"cmp"
	"fmt"
	"math"
	"math/bits"
	"slices"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
)

// How far a task may be pulled forward or put off, as shares of its interval (our own engineering choices),
// and what a minute late weighs beside one early.
const (
	mostEarly = 1.0 / 3
	mostLate  = 1.0 / 10
	lateCosts = 3.0
)

// What is shared, min of somebody's time (our own engineering choices): laying out and clearing away, and
// bringing a machine into a state and back.
const (
	layingOut = 8.0
	beingCold = 20.0
	beingShut = 6.0
)

var states = []struct {
	state   task.State
	minutes float64
	because string
}{
	{task.Cold, beingCold, "the machine is cold anyway"},
	{task.SupplyShut, beingShut, "the supply is shut anyway"},
}

// Exact is the most tasks that are put together exactly; of more, those that come first.
const Exact = 10

// Item is one task as it comes round.
type Item struct {
	Task  task.ID
	Part  machine.Part
	Title string
	Every float64 // days from one to the next
	Due   float64 // days from now; below 0 where it is late
	Never bool    // never put off: its date is a cap, a law's, or a hazard's
	// Placed says that somebody put it on a day, so many days from now.
	Placed bool
	On     float64
}

// earliest and latest are the days between which it may be done; of one that is late already, now.
func (i Item) earliest() float64 { return math.Max(0, i.Due-mostEarly*i.Every) }
func (i Item) latest() float64 {
	if i.Never || i.Due <= 0 { // what is late is not put off
		return math.Max(0, i.Due)
	}
	return i.Due + mostLate*i.Every
}

// window is the days between which it is done: the one it was put on, or those it may be.
func (i Item) window() (from, to float64) {
	if i.Placed {
		on := math.Max(0, i.On)
		return on, on
	}
	return i.earliest(), i.latest()
}

// Member is a task in a sitting, with why it is there.
type Member struct {
	Item
	Early   float64 // days that it is pulled forward; below 0, put off
	Because reason.Reason
}

// Sitting is what is done together.
type Sitting struct {
	Day     float64 // from now
	Members []Member
	Minutes float64 // of somebody's time, what is shared counted once
	Alone   float64 // the same, each task by itself
}

// shared is what a set of tasks costs beside their own work: laid out once, each state once.
func shared(items []Item, set uint) (minutes float64) {
	minutes = layingOut
	for _, s := range states {
		for i := range items {
			if set>>i&1 == 1 && slices.Contains(items[i].Task.Row().Needs, s.state) {
				minutes += s.minutes
				break
			}
		}
	}
	return minutes
}

// own is what a task costs by itself on a day: its hands, and what doing it early or late comes to.
func (i Item) own(day float64) float64 {
	hands := i.Task.Row().Hands
	off := (i.Due - day) / math.Max(1, i.Every)
	if off < 0 {
		return hands * (1 - lateCosts*off)
	}
	return hands * (1 + off)
}

// best is the cheapest day for a set of tasks, and what it costs; false where no day suits all of them. The
// cost is straight between the days on which one falls due, so that one of those is it, or an end of what is
// allowed.
func best(items []Item, set uint) (day, cost float64, fits bool) {
	from, to := 0.0, math.Inf(1)
	for i := range items {
		if set>>i&1 == 1 {
			first, last := items[i].window()
			from, to = math.Max(from, first), math.Min(to, last)
		}
	}
	if from > to {
		return 0, math.Inf(1), false
	}
	cost = math.Inf(1)
	try := func(at float64) {
		if waits(items, set, at) {
			return
		}
		sum := 0.0
		for i := range items {
			if set>>i&1 == 1 {
				sum += items[i].own(at)
			}
		}
		if sum < cost-1e-9 {
			day, cost = at, sum
		}
	}
	try(from)
	if !math.IsInf(to, 1) {
		try(to)
	}
	for i := range items {
		if set>>i&1 == 1 && items[i].Due > from && items[i].Due < to {
			try(items[i].Due)
		}
	}
	return day, cost + shared(items, set), !math.IsInf(cost, 1)
}

// waits says whether one of a set does better to wait: another of it comes round again before the first is due, and
// brings all that it shares.
func waits(items []Item, set uint, day float64) bool {
	for i := range items {
		if set>>i&1 == 0 || items[i].Placed {
			continue
		}
		for j := range items {
			if i != j && set>>j&1 == 1 && day+items[j].Every <= items[i].Due &&
				subset(items[i].Task.Row().Needs, items[j].Task.Row().Needs) {
				return true
			}
		}
	}
	return false
}

// subset says whether what is shared of one is among what is of another.
func subset(of, in []task.State) bool {
	return !slices.ContainsFunc(states, func(s struct {
		state   task.State
		minutes float64
		because string
	}) bool {
		return slices.Contains(of, s.state) && !slices.Contains(in, s.state)
	})
}

// Together puts the next of each task into sittings, the first first, so that they cost the least time in
// all: every way of parting them is compared. Of more than Exact tasks, those that come first are parted so and
// each other one is put where it costs the least more; or all stand on beats that double, where that is cheaper.
func Together(items []Item) []Sitting {
	items = slices.Clone(items)
	slices.SortStableFunc(items, func(a, b Item) int {
		first, _ := a.window()
		second, _ := b.window()
		if c := cmp.Compare(first, second); c != 0 {
			return c
		}
		return a.Task.Rank() - b.Task.Rank()
	})
	items = items[:min(len(items), mostTasks)]
	if len(items) == 0 {
		return nil
	}
	list := widened(items, parted(items[:min(len(items), Exact)]))
	if len(items) > Exact {
		if beats := onBeats(items); worth(beats) < worth(list)-1e-9 {
			list = beats
		}
	}
	slices.SortStableFunc(list, func(a, b Sitting) int { return cmp.Compare(a.Day, b.Day) })
	return list
}

// mostTasks bounds how many tasks of a machine are put together.
const mostTasks = bits.UintSize

// parted is the cheapest way of parting tasks, as sets.
func parted(items []Item) (sets []uint) {
	all := uint(1)<<len(items) - 1
	costs := make([]float64, all+1)
	for set := uint(1); set <= all; set++ {
		_, costs[set], _ = best(items, set)
	}
	least, first := make([]float64, all+1), make([]uint, all+1)
	for set := uint(1); set <= all; set++ {
		least[set] = math.Inf(1)
		lowest := set & -set
		for part := set; part > 0; part = (part - 1) & set { // every part that holds the first of the set
			if part&lowest == 0 || math.IsInf(costs[part], 1) {
				continue
			}
			if c := costs[part] + least[set^part]; c < least[set]-1e-9 {
				least[set], first[set] = c, part
			}
		}
	}
	for set := all; set > 0; set ^= first[set] {
		sets = append(sets, first[set])
	}
	return sets
}

// sittingOf is a set of tasks on a day, with why each is there.
func sittingOf(items []Item, set uint, day float64) Sitting {
	s := Sitting{Day: day, Minutes: shared(items, set)}
	for i, x := range items {
		if set>>i&1 == 0 {
			continue
		}
		hands := x.Task.Row().Hands
		s.Minutes += hands
		s.Alone += hands + shared(items, 1<<i)
		s.Members = append(s.Members, Member{Item: x, Early: x.Due - day, Because: why(items, set, i, day)})
	}
	slices.SortStableFunc(s.Members, func(a, b Member) int { return place(a.Task) - place(b.Task) })
	return s
}

// why says why a task is in a sitting: it is due, or what it shares with the others.
func why(items []Item, set uint, i int, day float64) reason.Reason {
	x := items[i]
	early := x.Due - day
	text := "Due."
	switch {
	case x.Placed && math.Abs(early) < 0.5:
		text = "Put on this day by hand."
	case x.Placed && early > 0:
		text = fmt.Sprintf("Put on this day by hand, %s early.", spoken(early))
	case x.Placed && x.Due > 0:
		text = fmt.Sprintf("Put on this day by hand, %s late.", spoken(-early))
	case early < -0.5:
		text = fmt.Sprintf("Late by %s.", spoken(-early))
		if bits.OnesCount(set) > 1 && x.Due > 0 {
			text = fmt.Sprintf("Put off by %s: one laying out less.", spoken(-early))
		}
	case early > 0.5:
		because := "one laying out less"
		for _, s := range states {
			others := set &^ (1 << i)
			for j := range items {
				if others>>j&1 == 1 && slices.Contains(x.Task.Row().Needs, s.state) &&
					slices.Contains(items[j].Task.Row().Needs, s.state) {
					because = s.because
				}
			}
		}
		text = fmt.Sprintf("Pulled forward by %s: %s.", spoken(early), because)
	}
	return reason.Reason{Text: text, Source: reason.Ours}
}

// spoken is a number of days in words.
func spoken(days float64) string {
	n := math.Max(1, math.Round(days))
	if n == 1 {
		return "a day"
	}
	return fmt.Sprintf("%.0f days", n)
}

// order is the order of work of one sitting (common practice): filter out, descale, filter in, what is done
// cold, then what is done hot, last what needs neither.
var order = []task.ID{task.Inspection, task.Service, task.Service3, task.Service5, task.FilterChange, task.Regenerate,
	task.Descale, task.LookForScale, task.DrainSeals, task.Probe, task.Jet, task.CamGrease, task.Seal, task.Screen,
	task.SteamJoint, task.Relief, task.Tip, task.Wash, task.Soak, task.Tank, task.Grinder, task.BrushHead}

// place is where a task stands in the order of work.
func place(id task.ID) int {
	if i := slices.Index(order, id); i >= 0 {
		return i
	}
	return len(order)
}
