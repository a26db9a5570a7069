// Package use keeps and counts what a machine makes: the ledger of drinks and flushes, the
// machine's own counter, use by the day, what is believed of the days to come, and files of
// past use.
//
// It does not decide what any of it means for the care of a machine (package care).
package use

import (
	"cmp"
	"fmt"
	"slices"
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
// of it. A span of one group absorbs that group's only; one of shots absorbs
// shots, one of flushes flushes. It takes n log n steps for n entries.
func Standing(events []Event) []Event {
	var spans map[counted]reaches
	for _, e := range events {
		if c, may := countedAs(e); may && e.From.Before(e.To) {
			if spans == nil {
				spans = map[counted]reaches{}
			}
			spans[c] = append(spans[c], reach{e.From, e.To})
		}
	}
	if spans == nil {
		return events
	}
	for _, r := range spans {
		r.sort()
	}
	list := make([]Event, 0, len(events))
	for _, e := range events {
		c, may := countedAs(e)
		whole := counted{shots: c.shots}
		if !may || !spans[whole].absorbs(e) && (c == whole || !spans[c].absorbs(e)) {
			list = append(list, e)
		}
	}
	return list
}

// counted is what a span counts: shots or flushes, of one part or of the whole machine.
type counted struct {
	shots bool
	part  machine.Part
}

// countedAs is what an entry is counted as; false for one that no span is of.
func countedAs(e Event) (counted, bool) {
	if e.Part.IsWhole() {
		e.Part = machine.Part{}
	}
	return counted{e.Kind.IsShot(), e.Part}, e.Kind.IsShot() || e.Kind == Flush
}

// reach is one span and, once they are in order, how far it and those that begin before it reach.
type reach struct{ from, to time.Time }

// reaches are the spans of a kind, the one that begins first at the front.
type reaches []reach

func (r reaches) sort() {
	slices.SortFunc(r, func(a, b reach) int { return a.from.Compare(b.from) })
	for i := 1; i < len(r); i++ {
		r[i].to = latest(r[i].to, r[i-1].to)
	}
}

// absorbs says whether a span holds the entry: one of an instant from after its start to its end, as
// overlap counts it; a span where it is shorter.
func (r reaches) absorbs(e Event) bool {
	earlier := func(strictly int) time.Time { // how far the spans reach that begin before the entry, or with it
		i, _ := slices.BinarySearchFunc(r, e.From, func(x reach, t time.Time) int {
			return cmp.Or(x.from.Compare(t), strictly)
		})
		if i == 0 {
			return time.Time{}
		}
		return r[i-1].to
	}
	before := earlier(1) // of those that begin strictly before
	if e.From.Equal(e.To) {
		return !before.Before(e.To)
	}
	return !before.Before(e.To) || earlier(-1).After(e.To)
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

// OfOneDay says whether it was counted over one whole day of the machine, as a row of a file of days is.
func (e Event) OfOneDay(zone *time.Location) bool {
	return Day(e.From, zone).Equal(e.From) && NextDay(e.From, zone).Equal(e.To)
}

// DayOf is the start of the machine's day of a date.
func DayOf(year int, month time.Month, day int, zone *time.Location) time.Time {
	return time.Date(year, month, day, DayTurns, 0, 0, 0, zone)
}
