// Package use keeps and counts what a machine makes: the ledger of drinks and flushes, the
// machine's own counter, use by the day, what is believed of the days to come, and files of
// past use.
//
// It does not decide what any of it means for the care of a machine (package care).
package use

import (
	"fmt"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/units"
)

// Kind is what one event of the use ledger counts.
type Kind string

// The kinds. A milk drink is one shot, of 18 g; a flush and run water are no
// shots.
const (
	Single   Kind = "single"
	Double   Kind = "double"
	Milk     Kind = "milk"
	Flush    Kind = "flush"
	RunWater Kind = "run_water" // Count in millilitres, pulses and flushes of a run
	Undo     Kind = "undo"      // takes another entry back
)

// Event is one entry of the append-only ledger, of a group or of the whole
// machine: use of the whole machine is split evenly over its groups.
type Event struct {
	ID       string
	Part     machine.Part
	Kind     Kind
	Count    float64
	From, To time.Time
}

// IsShot says whether the kind is a drink; flushes and run water are none.
func (k Kind) IsShot() bool { return k == Single || k == Double || k == Milk }

// Barred gives the groups that bar a use from being logged: no drinks from a
// group that holds detergent. A drink of the whole machine counts on every group,
// so any of them bars it; flushes and undo are never barred.
func Barred(kind Kind, of machine.Part, dirty []machine.Part) []machine.Part {
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

// Standing leaves out what a longer span absorbs: a reading or a count is the
// amount over its span, so presses and shorter spans wholly inside it are part
// of it. A span of one group absorbs that group's only.
func Standing(events []Event) []Event {
	var spans []Event
	for _, e := range events {
		if e.From.Before(e.To) && (e.Kind.IsShot() || e.Kind == Flush) {
			spans = append(spans, e)
		}
	}
	if len(spans) == 0 {
		return events
	}
	list := make([]Event, 0, len(events))
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

func (s Event) absorbs(e Event) bool {
	if e.Kind.IsShot() != s.Kind.IsShot() || (e.Kind != Flush && !e.Kind.IsShot()) ||
		(!s.Part.IsWhole() && s.Part != e.Part) {
		return false
	}
	if e.From.Equal(e.To) { // an instant, as overlap counts it
		return e.To.After(s.From) && !e.To.After(s.To)
	}
	return !e.From.Before(s.From) && !e.To.After(s.To) && e.To.Sub(e.From) < s.To.Sub(s.From)
}

// DayTurns is the hour at which a machine's day turns.
const DayTurns = 4

// Day is the start of the machine's day that holds t: 04:00 in its own zone.
func Day(t time.Time, zone *time.Location) time.Time {
	l := t.In(zone)
	start := time.Date(l.Year(), l.Month(), l.Day(), DayTurns, 0, 0, 0, zone)
	if l.Before(start) {
		start = time.Date(l.Year(), l.Month(), l.Day()-1, DayTurns, 0, 0, 0, zone)
	}
	return start
}

// NextDay is the turn after the day that holds t.
func NextDay(t time.Time, zone *time.Location) time.Time {
	d := Day(t, zone)
	return time.Date(d.Year(), d.Month(), d.Day()+1, DayTurns, 0, 0, 0, zone)
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
	return time.Date(year, month, day, DayTurns, 0, 0, 0, zone)
}
