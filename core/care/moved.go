package care

import (
	"fmt"
	"time"

	"freshanvil/core/inspect"
	"freshanvil/core/machine"
	"freshanvil/core/task"
	"freshanvil/core/use"
)

// Shift is a task of a part whose date or interval a look moves.
type Shift struct {
	Task     task.ID
	Part     machine.Part
	From, To time.Time // its likely day without the look, and with it
	Text     string    // the same in a sentence
}

// MovedBy lists what a look at a part would move if it were put on record now: the tasks whose day or interval is
// another with it than without, most pressing first.
func MovedBy(a machine.Answers, h History, f inspect.Found, now time.Time, zone *time.Location) (list []Shift) {
	type key struct {
		id   task.ID
		part machine.Part
	}
	before := map[key]Due{}
	for _, d := range AllDue(a, h, now, zone) {
		before[key{d.Task, d.Part}] = d
	}
	f.At = now
	h.Found = append(append([]inspect.Found{}, h.Found...), f)
	groups := a.Facts().Groups
	for _, d := range AllDue(a, h, now, zone) {
		was, known := before[key{d.Task, d.Part}]
		if !known {
			continue
		}
		text := ""
		switch day := use.Day(d.Likely, zone); {
		case d.State != was.State && d.State != Later:
			text = "now, not " + was.told(now, zone) + "."
		case d.State == Later && !day.Equal(use.Day(was.Likely, zone)):
			text = "about " + d.told(now, zone) + ", not " + was.told(now, zone) + "."
		case d.Interval.Shots != was.Interval.Shots && d.Interval.Shots > 0:
			text = fmt.Sprintf("every %.0f shots, not every %.0f.", d.Interval.Shots, was.Interval.Shots)
		default:
			continue
		}
		title := d.Title()
		if g := d.Part.GroupNumber(); g > 0 && groups > 1 {
			title += ", " + Groups([]int{g})
		}
		list = append(list, Shift{d.Task, d.Part, was.Likely, d.Likely, title + ": " + text})
	}
	return list
}

// told is when it falls due, in a few words.
func (d Due) told(now time.Time, zone *time.Location) string {
	switch d.State {
	case Overdue, Unrecorded:
		return "now"
	case Today:
		return "today"
	}
	day := d.Likely.In(zone)
	if day.Year() == now.In(zone).Year() {
		return day.Format("2 January")
	}
	return day.Format("2 January 2006")
}
