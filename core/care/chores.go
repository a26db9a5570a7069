package care

import (
	"fmt"
	"slices"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/use"
)

// Chore is a small task that stands beside the wash: a minute's work, done
// with the last drink, and never a job of its own.
type Chore struct {
	Task    task.ID
	Title   string
	How     string
	Every   int // of the machine's days
	Because reason.Reason
	Last    time.Time // zero where nothing is on record
	// Leads is the method of a run that leads it; empty where it is a matter of a minute.
	Leads backflush.MethodID
}

// Water is how often a group is backflushed without detergent (common
// practice); it stands beside the wash, never in its place.
type Water struct {
	Answer string // the answer to the fact of that name
	Title  string
	Shots  float64 // 1 after each drink
	Days   int
	Why    string
}

// fewAWeek is what "a few times a week" comes to, in days.
const fewAWeek = 3

var waters = []Water{
	{"after each drink", "After each drink", 1, 1, "Two pulses, before anything can dry: the group is never dirty."},
	{"daily", "Every day", 0, 1, "With the last drink: what a café does beside its wash."},
	{"a few times a week", "A few times a week", 0, fewAWeek, "Enough for a home; every third day of use."},
}

// Waters lists the ways, most often first.
func Waters() []Water { return slices.Clone(waters) }

// Chores lists the small tasks that are for today, on a day the machine is
// used: on a day without a drink, or with nobody there, none. What was missed
// yesterday is not held against anybody.
func Chores(a machine.Answers, h History, now time.Time, zone *time.Location) []Chore {
	f := a.Facts()
	today := use.Day(now, zone)
	h.Log = h.Counted(now, zone)
	if !h.LoggedSince.IsZero() && h.Reaches(now) && h.Habit.On(now, 0, f.Groups, zone) == 0 || h.Gone(now) ||
		a.Drinks == 0 && h.LoggedSince.IsZero() {
		return nil
	}
	if _, laid := h.LaidUp(now); laid {
		return nil
	}
	var list []Chore
	for _, c := range choresOf(a, f) {
		c.Title, c.Last = c.Task.Title(), h.lastChore(c.Task, now)
		if c.Last.IsZero() || !use.Day(c.Last, zone).AddDate(0, 0, c.Every).After(today) {
			list = append(list, c)
		}
	}
	return list
}

// Routine lists the small tasks that a machine has, whether they are for today or not.
func Routine(a machine.Answers) []Chore {
	list := choresOf(a, a.Facts())
	for i := range list {
		list[i].Title = list[i].Task.Title()
	}
	return list
}

// OnPaper is what it is called on a list of what is done each day: with how often, where that is not so often.
func (c Chore) OnPaper() string {
	if c.Every <= 1 {
		return c.Title
	}
	return fmt.Sprintf("%s, every %d days", c.Title, c.Every)
}

// choresOf lists the small tasks that a machine has at all.
func choresOf(a machine.Answers, f machine.Facts) []Chore {
	daily := func(t task.ID, because string) Chore {
		return Chore{Task: t, How: t.Row().How, Every: 1, Because: reason.Reason{Text: because, Source: reason.Trade}}
	}
	all := []Chore{daily(task.Brush, "Daily: grounds on the rim wear the seal.")}
	if a.MilkDrinks > 0 {
		all = append(all, daily(task.Wand, "Daily, and after each milk drink: milk that dries in the tip blocks it."))
	}
	for _, w := range waters {
		if w.Answer != f.WaterOnly || backflush.Gate(f).Verdict == reason.Refused {
			continue
		}
		how := "Clean blind, no detergent: five pulses, each held at full pressure a few seconds."
		if w.Shots > 0 {
			how = "Clean blind, no detergent: two pulses after each drink, each held at full pressure a few seconds."
		}
		if f.Groups > 1 {
			how += " Each group."
		}
		c := daily(task.WaterBackflush, w.Title+". It does not take the detergent wash's place.")
		c.How, c.Every, c.Leads = how, w.Days, backflush.WaterOnly
		all = append(all, c)
	}
	if f.Tray > 0 {
		all = append(all, daily(task.Tray, "Daily: what stands in it grows."))
	} else {
		all = append(all, daily(task.Waste, "Daily: coffee sludge sets in the pipe."))
	}
	if f.Tank > 0 {
		all = append(all, daily(task.TankWater, "Daily: fresh water, no slime."))
	}
	return all
}

// lastChore is when a small task was last done. A wash is more than a water backflush,
// and begins with the brush.
func (h History) lastChore(t task.ID, now time.Time) (last time.Time) {
	for _, d := range h.Done {
		if d.Task.Counts(t) && d.Begun == "" && d.At.After(last) && !d.At.After(now) {
			last = d.At
		}
	}
	return last
}
