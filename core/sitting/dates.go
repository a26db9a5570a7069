package sitting

import (
	"fmt"
	"slices"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/speak"
	"freshanvil/core/task"
	"freshanvil/core/use"
)

// Turn is one time that a task of a part comes round, counted over all that are on record: the first was 1. It stays
// the same while its date moves, until it is done.
type Turn struct {
	Task   task.ID
	Part   machine.Part
	Number int
}

// before says which of two turns names a sitting: the task that presses first, of the lower group.
func (t Turn) before(o Turn) bool {
	if a, b := t.Task.Rank(), o.Task.Rank(); a != b {
		return a < b
	}
	return t.Part.GroupNumber() < o.Part.GroupNumber()
}

// Date is a day on which something is to be done to a machine: a sitting, or a job for whom the maker or the trade
// names.
type Date struct {
	Turn    Turn      // of what leads it: the name by which the date is known again
	Day     time.Time // some instant of that day
	Now     bool      // due now, or overdue
	Jobs    []string  // what is done, in the order of work
	Minutes float64   // of somebody's time; 0 for a job that somebody else does
	Between string    // within which days the date lies, in words; empty where it is sharp
	Book    bool      // somebody else is booked for it
}

// Title names a date in few words.
func (d Date) Title() string {
	text := d.Jobs[0]
	switch more := len(d.Jobs) - 1; {
	case more == 1:
		text += ", with one more job"
	case more > 1:
		text += fmt.Sprintf(", with %d more jobs", more)
	}
	if d.Book {
		return "Book a technician: " + speak.Lower(text)
	}
	return text
}

// Takes is how long it takes of somebody's time, in words, to five minutes where it is long; empty for what somebody
// else does.
func (d Date) Takes() string {
	if d.Minutes <= 0 {
		return ""
	}
	whole := job.WholeMinutes(time.Duration(d.Minutes * float64(time.Minute)))
	return "About " + long(time.Duration(whole)*time.Minute) + " of your time."
}

// Dates are the days of a machine for so many days ahead, in their order: its sittings, and what a technician or a
// workshop does. Done says how often each task of each part has been done.
func Dates(list []care.Standing, done func(task.ID, machine.Part) int, placed []care.Placing, away []use.Spell,
	groups int, now time.Time, days float64, zone *time.Location) []Date {
	spans := map[Turn]string{}
	for _, s := range list {
		spans[Turn{Task: s.Task, Part: s.Part}] = s.Between(zone)
	}
	seen := map[Turn]int{}
	turn := func(id task.ID, of machine.Part) Turn {
		key := Turn{Task: id, Part: of}
		seen[key]++
		return Turn{id, of, done(id, of) + seen[key]}
	}
	var out []Date
	for _, s := range Year(ItemsOf(list, now, placed...), days, GoneOf(away, now)...) {
		d := Date{Day: now.Add(time.Duration(s.Day * 24 * float64(time.Hour))), Now: s.Now(), Jobs: s.Jobs(groups),
			Minutes: s.Takes().Value}
		for _, m := range s.Members {
			if t := turn(m.Task, m.Part); d.Turn.Task == "" || t.before(d.Turn) {
				d.Turn = t
			}
		}
		next := d.Turn.Number == done(d.Turn.Task, d.Turn.Part)+1
		if next && !d.Now { // the range is known of the next one only
			d.Between = spans[Turn{Task: d.Turn.Task, Part: d.Turn.Part}]
		}
		out = append(out, d)
	}
	for _, s := range list {
		if !s.ByOthers() || s.Likely.After(now.Add(time.Duration(days*24*float64(time.Hour)))) {
			continue
		}
		out = append(out, Date{Turn: turn(s.Task, s.Part), Day: s.Likely, Now: s.State != care.Later,
			Between: s.Between(zone), Jobs: []string{s.Title + care.OfGroup(s.Part, groups)}, Book: true})
	}
	slices.SortStableFunc(out, func(a, b Date) int { return a.Day.Compare(b.Day) })
	return out
}

// Jobs are the tasks of a sitting in the order of work, a task of several groups once, with its groups.
func (s Sitting) Jobs(groups int) []string {
	list := make([]care.Titled, len(s.Members))
	for i, m := range s.Members {
		list[i] = care.Titled{Title: m.Title, Part: m.Part}
	}
	return care.Titles(list, groups)
}
