package care

import (
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

// fewAWeek is what "a few times a week" comes to at home.
const fewAWeek = 3

// Chores lists the small tasks that are for today, on a day the machine is
// used: on a day without a drink, or with nobody there, none. What was missed
// yesterday is not held against anybody.
func Chores(a machine.Answers, h History, now time.Time, zone *time.Location) []Chore {
	f := a.Facts()
	today := Day(now, zone)
	if !h.LoggedSince.IsZero() && h.Habit.On(now, 0, f.Groups, zone) == 0 || away(h.Away, now) || (h.LoggedSince.IsZero() && a.Drinks == 0) {
		return nil
	}
	cafe, _ := a.Cafe()
	all := []Chore{
		{Task: Brush, How: "Dry brush, round the seal and over the screen; flush once.", Every: 1, Because: reason.Reason{Text: "Daily: grounds on the rim wear the seal.", Source: reason.Trade}},
	}
	if backflush.Gate(f).Verdict != reason.Refused {
		c := Chore{Task: WaterBackflush, How: "Clean blind, no powder: five pulses, each held at full pressure a few seconds.", Every: fewAWeek,
			Because: reason.Reason{Text: "A few times a week at home, daily in a café; it does not take the detergent wash's place.", Source: reason.Trade}}
		if cafe {
			c.Every = 1
		}
		all = append(all, c)
	}
	if f.Tray > 0 {
		all = append(all, Chore{Task: Tray, How: "Empty it, wash it, put it back.", Every: 1, Because: reason.Reason{Text: "Daily: what stands in it grows.", Source: reason.Trade}})
	} else {
		all = append(all, Chore{Task: Waste, How: "Half a jug of hot water from the boiler, slowly, down the waste. It scalds.", Every: 1, Because: reason.Reason{Text: "Daily: coffee sludge sets in the pipe.", Source: reason.Trade}})
	}
	if f.Tank > 0 {
		all = append(all, Chore{Task: TankWater, How: "Pour the old water away, fill with fresh.", Every: 1, Because: reason.Reason{Text: "Daily: fresh water, no slime.", Source: reason.Trade}})
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
