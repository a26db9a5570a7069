package care

import (
	"slices"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
)

// Chore is a small task that stands beside the wash: a minute's work, done
// with the last drink, and never a job of its own.
type Chore struct {
	Task    Task
	Title   string
	How     string
	Every   int // of the machine's days
	Because reason.Reason
	Last    time.Time // zero where nothing is on record
}

// Water is how often a group is backflushed without detergent (common
// practice); it stands beside the wash, never in its place.
type Water struct {
	Says  string // the answer to the fact of that name
	Title string
	Shots float64 // 1 after each drink
	Days  int
	Why   string
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
	today := Day(now, zone)
	if !h.LoggedSince.IsZero() && h.logged(now) && h.Habit.On(now, 0, f.Groups, zone) == 0 || away(h.Away, now) ||
		a.Drinks == 0 && h.LoggedSince.IsZero() {
		return nil
	}
	all := []Chore{
		{
			Task:    Brush,
			How:     "Dry brush, round the seal and over the screen; flush once.",
			Every:   1,
			Because: reason.Reason{Text: "Daily: grounds on the rim wear the seal.", Source: reason.Trade},
		},
	}
	for _, w := range waters {
		if w.Says != f.WaterOnly || backflush.Gate(f).Verdict == reason.Refused {
			continue
		}
		how := "Clean blind, no powder: five pulses, each held at full pressure a few seconds."
		if w.Shots > 0 {
			how = "Clean blind, no powder: two pulses after each drink, each held at full pressure a few seconds."
		}
		if f.Groups > 1 {
			how += " Each group."
		}
		all = append(
			all,
			Chore{
				Task:  WaterBackflush,
				How:   how,
				Every: w.Days,
				Because: reason.Reason{
					Text:   w.Title + ". It does not take the detergent wash's place.",
					Source: reason.Trade,
				},
			},
		)
	}
	if f.Tray > 0 {
		all = append(
			all,
			Chore{
				Task:    Tray,
				How:     "Empty it, wash it, put it back.",
				Every:   1,
				Because: reason.Reason{Text: "Daily: what stands in it grows.", Source: reason.Trade},
			},
		)
	} else {
		all = append(all, Chore{Task: Waste, How: "Half a jug of hot water from the boiler, slowly, down the waste. It " +
			"scalds.", Every: 1, Because: reason.Reason{Text: "Daily: coffee sludge sets in the pipe.", Source: reason.Trade}})
	}
	if f.Tank > 0 {
		all = append(
			all,
			Chore{
				Task:    TankWater,
				How:     "Pour the old water away, fill with fresh.",
				Every:   1,
				Because: reason.Reason{Text: "Daily: fresh water, no slime.", Source: reason.Trade},
			},
		)
	}
	var list []Chore
	for _, c := range all {
		c.Title = c.Task.Title()
		for _, d := range h.Done {
			// the wash is more than a water backflush, and begins with the brush
			counts := d.Task == c.Task || (d.Task == Wash && (c.Task == WaterBackflush || c.Task == Brush))
			if counts && d.At.After(c.Last) && !d.At.After(now) {
				c.Last = d.At
			}
		}
		if c.Last.IsZero() || !Day(c.Last, zone).AddDate(0, 0, c.Every).After(today) {
			list = append(list, c)
		}
	}
	return list
}

// IsChore says whether the task is one of the small ones.
func IsChore(t Task) bool {
	switch t {
	case WaterBackflush, Brush, Tray, Waste, TankWater:
		return true
	}
	return false
}
