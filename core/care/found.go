package care

import (
	"fmt"
	"math"
	"time"

	"freshanvil/core/inspect"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/use"
)

// sameSitting is how long before a task went on record a look may belong to it: what is found while a
// task is done brings it forward again only where that look comes at its end (our own engineering choice).
const sameSitting = 12 * time.Hour

// atItsEnd are the looks with which a task ends: what they find counts although the task was just done.
var atItsEnd = map[inspect.Sight][]task.ID{
	inspect.Wetting: {task.Screen}, inspect.Gauze: {task.Descale}, inspect.Tip: {task.Tip},
	inspect.Strainer: {task.Tank}, inspect.Joint: {task.SteamJoint}, inspect.Screws: {task.DrainSeals},
}

// asked is a finding that brings a task forward, and to when.
type asked struct {
	found inspect.Found
	seen  inspect.Seen
	at    time.Time
}

// asks finds what brings a task of a part forward, the earliest first seen to count; false for nothing.
func (s *situation) asks(d Due) (first asked, any bool) {
	for _, row := range inspect.All() {
		parts := []machine.Part{d.Part}
		if row.Of == task.Whole {
			parts = []machine.Part{{}}
		} else if d.Part.IsWhole() {
			parts = s.parts(task.Screen) // every group
		}
		for _, part := range parts {
			found, _ := inspect.Newest(s.h.Found, row.Sight, part, s.now)
			if found == nil || !counts(*found, d) {
				continue
			}
			if got, asks := askedBy(*found, d.Task); asks && (!any || got.at.Before(first.at)) {
				first, any = got, true
			}
		}
	}
	return first, any
}

// askedBy is what a finding asks of a task, the earliest of its moves; false where it asks nothing of it.
func askedBy(f inspect.Found, id task.ID) (first asked, any bool) {
	seen := f.Seen()
	for _, m := range seen.Moves {
		if m.Task != id {
			continue
		}
		at := f.At
		if m.By == inspect.Soon {
			at = at.AddDate(0, 0, inspect.SoonDays)
		}
		if !any || at.Before(first.at) {
			first, any = asked{f, seen, at}, true
		}
	}
	return first, any
}

// counts says whether a finding still asks for a task: not where it was done since, unless the look was
// how it ended.
func counts(f inspect.Found, d Due) bool {
	if d.Begun || !d.Last.After(f.At) {
		return true
	}
	for _, id := range atItsEnd[f.Sight] {
		if id == d.Task {
			return d.Last.Sub(f.At) < sameSitting
		}
	}
	return false
}

var pulledTo = reason.MustFormula("max(0, min(days, asked))")

// pull brings a task forward that a look asks for.
func (s *situation) pull(d Due) Due {
	if d.State == Overdue || d.State == Unrecorded {
		return d
	}
	a, any := s.asks(d)
	if !any || !a.at.Before(d.Likely) {
		return d
	}
	row, _ := inspect.Find(a.found.Sight)
	text := fmt.Sprintf("%s on %s: «%s». %s", row.Title, a.found.At.In(s.zone).Format("2 January 2006"),
		a.seen.Text, a.seen.Means)
	d.Because = append([]reason.Reason{{Text: text, Source: a.seen.Source}}, d.Because...)
	d.Pulled = true
	name := d.Days.Name
	if name == "" {
		name = "days to the next " + d.Task.Short()
	}
	asks := reason.Input{Symbol: "asked", Label: "days until what was found asks for it",
		Value: math.Max(0, a.at.Sub(s.now).Hours()/24), Unit: "days", Source: reason.Ours}
	d.Days = pulledTo.Of(name, "days", reason.Ours, []reason.Input{d.Days.AsInput("days"), asks},
		"another look", "doing it")
	at := latest(a.at, s.now)
	d.Earliest, d.Likely, d.Latest = earliest(d.Earliest, at), at, at
	d.State = Later
	if at.Before(use.NextDay(s.now, s.zone)) {
		d.State = Today
	}
	return d
}

// judged is an interval by what was last found of the part that it cares for: longer where that was
// clean twice running, shorter where it was blocked.
func (s *situation) judged(every Interval, part machine.Part) Interval {
	for _, row := range inspect.All() {
		if row.Wears != every.Task || every.Daily {
			continue
		}
		last, before := inspect.Newest(s.h.Found, row.Sight, part, s.now)
		if last == nil {
			continue
		}
		seen := last.Seen()
		once := seen.Times > 1 && (before == nil || before.Verdict != last.Verdict)
		if seen.Times == 0 || once {
			continue
		}
		every.Shots *= seen.Times
		every.Coffee *= seen.Times
		every.Litres *= seen.Times
		every.Days = math.Max(1, math.Round(every.Days*seen.Times))
		every.Because = append([]reason.Reason{{
			Text: fmt.Sprintf("%s, last found «%s»: %s", row.Title, seen.Text, seen.Means), Source: seen.Source,
		}}, every.Because...)
	}
	return every
}

// Fit is a part to fit, by what was found.
type Fit struct {
	Part  machine.Part
	What  string
	Found inspect.Found
}

// Fits lists the parts that are to be fitted on a machine: what the newest look at each thing asks for,
// where the task that fits it was not done since.
func Fits(a machine.Answers, h History, now time.Time) []Fit {
	var list []Fit
	groups := a.Facts().Groups
	for _, row := range inspect.All() {
		parts := []machine.Part{{}}
		if row.Of == task.EachGroup {
			parts = parts[:0]
			for g := range groups {
				parts = append(parts, machine.Group(g+1))
			}
		}
		for _, part := range parts {
			last, _ := inspect.Newest(h.Found, row.Sight, part, now)
			if last == nil || last.Seen().Fit == "" || h.fitted(*last, now) {
				continue
			}
			list = append(list, Fit{part, last.Seen().Fit, *last})
		}
	}
	return list
}

// fitted says whether the task that a finding asks for was done since.
func (h History) fitted(f inspect.Found, now time.Time) bool {
	for _, m := range f.Seen().Moves {
		d := Due{Task: m.Task, Part: f.Part}
		if m.Task.IsOfMachine() {
			d.Part = machine.Part{}
		}
		last := h.last(m.Task, d.Part, now)
		if d.Last, d.Begun = last.At, last.Begun != ""; !d.Last.IsZero() && !d.Begun && !counts(f, d) {
			return true
		}
	}
	return false
}
