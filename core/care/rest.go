package care

import (
	"fmt"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/standdown"
	"freshanvil/core/task"
	"freshanvil/core/use"
)

// When what belongs to a rest counts for it (our own engineering choices): a closing up to three days before its first
// day; a visit from three days before its own to four after, then it was missed; the closing is asked for on the
// evening before.
const (
	closedFrom   = 3 * 24 * time.Hour
	visitFrom    = 3 * 24 * time.Hour
	visitUntil   = 4 * 24 * time.Hour
	eveningAhead = 10 * time.Hour // before the machine's day turns
)

// LaidUp says whether a machine is laid up at an instant, and since when: it was closed down, and has not come back.
func (h History) LaidUp(now time.Time) (since time.Time, is bool) {
	closed := h.last(task.LayUp, machine.Part{}, now).At
	return closed, h.last(task.Return, machine.Part{}, now).At.Before(closed)
}

// Rest is the rest that a machine is in or that is ahead of it, the nearest first; false where there is none.
func (h History) Rest(now time.Time) (standdown.Rest, bool) {
	since, laid := h.LaidUp(now)
	back := h.last(task.Return, machine.Part{}, now).At
	var near standdown.Rest
	for _, r := range h.Rests {
		switch {
		case laid && (since.Before(r.From.Add(-closedFrom)) || !since.Before(r.To)):
			continue // it was closed for another
		case !laid && (!r.To.After(now) || back.After(r.From.Add(-closedFrom))):
			continue // over, or it has come back from it
		}
		if near.From.IsZero() || r.From.Before(near.From) {
			near = r
		}
	}
	return near, !near.From.IsZero()
}

// ofRest is one of the tasks of standing still.
func ofRest(id task.ID) func(*situation) []Due {
	return func(s *situation) (list []Due) {
		for _, d := range s.rests() {
			if d.Task == id {
				list = append(list, d)
			}
		}
		return list
	}
}

// rests are the tasks of standing still: to close it down before a rest; then the next visit, and the return.
func (s *situation) rests() []Due {
	rest := s.rest
	switch {
	case !s.resting && s.laid:
		return []Due{s.onDay(task.Return, s.now, "It is laid up, and nobody said until when.")}
	case !s.resting:
		return nil
	case !s.laid:
		return []Due{s.onDay(task.LayUp, rest.From.Add(-eveningAhead), fmt.Sprintf(
			"It closes for %d days from %s on.", rest.Days(), rest.From.In(s.zone).Format("2 January")))}
	}
	list := []Due{s.onDay(task.Return, rest.To, fmt.Sprintf("It is laid up until %s.",
		rest.To.In(s.zone).Format("2 January")))}
	last := s.h.last(task.Visit, machine.Part{}, s.now).At
	for _, day := range rest.Visits() {
		if last.Before(day.Add(-visitFrom)) && s.now.Before(day.Add(visitUntil)) {
			return append([]Due{s.onDay(task.Visit, day, "Once a week while it stands still: water that stands grows "+
				"what nobody wants in a drink, and a seal that dries leaks.")}, list...)
		}
	}
	return list
}

var untilDay = reason.MustFormula("max(0, day)")

// onDay is a task that falls on a day that follows from a rest.
func (s *situation) onDay(id task.ID, at time.Time, why string) Due {
	days := untilDay.Of("days to the "+id.Short(), "days", reason.Said, []reason.Input{{Symbol: "day",
		Label: "days to its day, by when the machine is closed", Value: at.Sub(s.now).Hours() / 24, Unit: "days",
		Source: reason.Said}}, "another day of closing or return")
	d := Due{Task: id, State: Later, Interval: Interval{Task: id}, Days: days, Cafe: s.cafe,
		Last:    s.h.last(id, machine.Part{}, s.now).At,
		Because: []reason.Reason{{Text: why, Source: reason.Said}}}
	d.Earliest, d.Likely, d.Latest = latest(at, s.now), latest(at, s.now), latest(at, s.now)
	today, of := use.Day(s.now, s.zone), use.Day(at, s.zone)
	switch {
	case of.Before(today):
		d.State = Overdue
	case of.Equal(today):
		d.State = Today
	}
	return d
}

var heldTo = reason.MustFormula("max(days, back)")

// hold puts off what falls due while a machine is laid up, until it is back: wear stands still meanwhile, and what is
// counted by days goes on, so that it is due then.
func (s *situation) hold(d Due) Due {
	if !s.laid || d.Task.Row().Rests {
		return d
	}
	back := use.NextDay(s.now, s.zone)
	if s.resting && s.rest.To.After(back) {
		back = s.rest.To
	}
	if d.State == Later && !d.Likely.Before(back) {
		return d
	}
	name := d.Days.Name
	if name == "" {
		name = "days to the next " + d.Task.Short()
	}
	d.Days = heldTo.Of(name, "days", reason.Ours, []reason.Input{d.Days.AsInput("days"),
		{Symbol: "back", Label: "days until it is used again", Value: back.Sub(s.now).Hours() / 24, Unit: "days",
			Source: reason.Said}}, "another day of return")
	d.State = Later
	d.Earliest, d.Likely, d.Latest = latest(d.Earliest, back), back, latest(d.Latest, back)
	d.Because = append([]reason.Reason{{Text: fmt.Sprintf("It is laid up since %s: not before it is back.",
		s.laidSince.In(s.zone).Format("2 January")), Source: reason.Ours}}, d.Because...)
	return d
}
