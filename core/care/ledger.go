// Package care decides how often each kind of care falls due: it counts use,
// holds the intervals with their reasons, and says when a clock runs out and
// how sure that is.
//
// It does not decide how the work is done (packages backflush, job, run).
package care

import (
	"fmt"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/units"
)

// UseKind is what one event of the use ledger counts.
type UseKind string

// The kinds. A milk drink is one shot, of 18 g; a flush and run water are no
// shots.
const (
	Single   UseKind = "single"
	Double   UseKind = "double"
	Milk     UseKind = "milk"
	Flush    UseKind = "flush"
	RunWater UseKind = "run_water" // Count in millilitres, pulses and flushes of a run
)

// UseEvent is one entry of the append-only ledger, of a group or of the whole
// machine: use of the whole machine is split evenly over its groups.
type UseEvent struct {
	ID       string
	Part     machine.Part
	Kind     UseKind
	Count    float64
	From, To time.Time
}

// Tally is use counted up for one group, or for the whole machine.
type Tally struct {
	Shots  float64
	Coffee float64 // grams
	Litres float64 // through the group
}

// IsShot says whether the kind is a drink; flushes and run water are none.
func (k UseKind) IsShot() bool { return k == Single || k == Double || k == Milk }

// shot is the coffee of one shot of the kind; false for what is no shot.
func shot(k UseKind, f machine.Facts) (units.Mass, bool) {
	switch k {
	case Single:
		return f.Single, true
	case Double, Milk:
		return f.Double, true
	}
	return 0, false
}

// Barred gives the groups that bar a use from being logged: no drinks from a
// group that holds detergent. A drink of the whole machine counts on every group,
// so any of them bars it; flushes and undo are never barred.
func Barred(kind UseKind, of machine.Part, dirty []machine.Part) []machine.Part {
	if !kind.IsShot() {
		return nil
	}
	var barred []machine.Part
	for _, d := range dirty {
		if of.IsWhole() || of == d {
			barred = append(barred, d)
		}
	}
	return barred
}

// Count sums what a group, or the whole machine, has made from one instant to
// another. An event that lies over the edge
// counts by the share inside; one that a longer span absorbs does not count.
func Count(events []UseEvent, of machine.Part, f machine.Facts, from, to time.Time) Tally {
	var sum Tally
	for _, e := range Standing(events) {
		if !of.IsWhole() && !e.Part.IsWhole() && e.Part != of {
			continue
		}
		share := overlap(e.From, e.To, from, to)
		if share == 0 {
			continue
		}
		if e.Part.IsWhole() && !of.IsWhole() {
			share /= float64(f.Groups)
		}
		switch g, shot := shot(e.Kind, f); {
		case shot:
			sum.Shots += e.Count * share
			sum.Coffee += e.Count * share * float64(g)
			sum.Litres += e.Count * share * f.BrewWater.Litres()
		case e.Kind == Flush:
			sum.Litres += e.Count * share * f.Flush.Litres()
		case e.Kind == RunWater:
			sum.Litres += e.Count * share / 1000
		}
	}
	return sum
}

// Standing leaves out what a longer span absorbs: a reading or a count is the
// amount over its span, so presses and shorter spans wholly inside it are part
// of it. A span of one group absorbs that group's only.
func Standing(events []UseEvent) []UseEvent {
	var spans []UseEvent
	for _, e := range events {
		if e.From.Before(e.To) && (e.Kind.IsShot() || e.Kind == Flush) {
			spans = append(spans, e)
		}
	}
	if len(spans) == 0 {
		return events
	}
	list := make([]UseEvent, 0, len(events))
	for _, e := range events {
		absorbed := false
		for _, s := range spans {
			if s.absorbs(e) {
				absorbed = true
				break
			}
		}
		if !absorbed {
			list = append(list, e)
		}
	}
	return list
}

func (s UseEvent) absorbs(e UseEvent) bool {
	if e.Kind.IsShot() != s.Kind.IsShot() || (e.Kind != Flush && !e.Kind.IsShot()) ||
		(!s.Part.IsWhole() && s.Part != e.Part) {
		return false
	}
	if e.From.Equal(e.To) { // an instant, as overlap counts it
		return e.To.After(s.From) && !e.To.After(s.To)
	}
	return !e.From.Before(s.From) && !e.To.After(s.To) && e.To.Sub(e.From) < s.To.Sub(s.From)
}

func overlap(a, b, from, to time.Time) float64 {
	if !a.Before(b) { // a press: an instant
		if a.After(from) && !a.After(to) {
			return 1
		}
		return 0
	}
	start, end := a, b
	if start.Before(from) {
		start = from
	}
	if end.After(to) {
		end = to
	}
	if !start.Before(end) {
		return 0
	}
	return float64(end.Sub(start)) / float64(b.Sub(a))
}

// dayTurns is the hour at which a machine's day turns.
const dayTurns = 4

// Day is the start of the machine's day that holds t: 04:00 in its own zone.
func Day(t time.Time, zone *time.Location) time.Time {
	l := t.In(zone)
	start := time.Date(l.Year(), l.Month(), l.Day(), dayTurns, 0, 0, 0, zone)
	if l.Before(start) {
		start = time.Date(l.Year(), l.Month(), l.Day()-1, dayTurns, 0, 0, 0, zone)
	}
	return start
}

// NextDay is the turn after the day that holds t.
func NextDay(t time.Time, zone *time.Location) time.Time {
	d := Day(t, zone)
	return time.Date(d.Year(), d.Month(), d.Day()+1, dayTurns, 0, 0, 0, zone)
}

// longestAway bounds a holiday, in days.
const longestAway = 400

// NewSpell is the days from a first to a last one on which nobody is there, both
// as starts of a machine's day. Too long, the wrong way round, or far from now is
// a *units.OutOfRange.
func NewSpell(first, last, now time.Time, zone *time.Location) (Spell, error) {
	switch {
	case first.Before(now.AddDate(-1, 0, 0)) || first.After(now.AddDate(2, 0, 0)):
		return Spell{}, &units.OutOfRange{
			Field:   "from",
			Value:   first.In(zone).Format(time.DateOnly),
			Allowed: "a day within the last year or the next two",
		}
	case last.Before(first) || last.Sub(first) > longestAway*24*time.Hour:
		return Spell{}, &units.OutOfRange{
			Field: "to",
			Value: last.In(zone).Format(time.DateOnly),
			Allowed: fmt.Sprintf(
				"the first day, %s, or up to %d days after it",
				first.In(zone).Format(time.DateOnly),
				longestAway,
			),
		}
	}
	return Spell{From: first, To: NextDay(last, zone), Entered: true}, nil
}

// DayOf is the start of the machine's day of a date.
func DayOf(year int, month time.Month, day int, zone *time.Location) time.Time {
	return time.Date(year, month, day, dayTurns, 0, 0, 0, zone)
}
