package use

import (
	"cmp"
	"slices"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/units"
)

// Counts is use counted up, by kind. Water is of runs, in millilitres.
type Counts struct{ Single, Double, Milk, Flush, Water float64 }

// Shots are the drinks of all kinds.
func (c Counts) Shots() float64 { return c.Single + c.Double + c.Milk }

// Coffee is what went into them, by the facts of a machine.
func (c Counts) Coffee(f machine.Facts) units.Mass {
	return units.Mass(c.Single)*f.Single + units.Mass(c.Double+c.Milk)*f.Double
}

// Litres is the water that went through the groups, by the facts of a machine.
func (c Counts) Litres(f machine.Facts) units.Litres {
	drinks, flushes := units.Litres(c.Shots()), units.Litres(c.Flush)
	return drinks*f.BrewWater.Litres() + flushes*f.Flush.Litres() + units.Volume(c.Water).Litres()
}

// Plus adds other counts.
func (c Counts) Plus(o Counts) Counts {
	return Counts{c.Single + o.Single, c.Double + o.Double, c.Milk + o.Milk, c.Flush + o.Flush, c.Water + o.Water}
}

// Times is a share of the counts.
func (c Counts) Times(share float64) Counts {
	return Counts{c.Single * share, c.Double * share, c.Milk * share, c.Flush * share, c.Water * share}
}

// CountsOf is what an entry counts; nothing for what is no use.
func CountsOf(e Event) Counts { return of(e, 1) }

// of is what an event counts, by a share of it; nothing for what is no use.
func of(e Event, share float64) Counts {
	n := e.Count * share
	switch e.Kind {
	case Single:
		return Counts{Single: n}
	case Double:
		return Counts{Double: n}
	case Milk:
		return Counts{Milk: n}
	case Flush:
		return Counts{Flush: n}
	case RunWater:
		return Counts{Water: n}
	}
	return Counts{}
}

// DayUse is what one part of a machine made in one of the machine's days.
type DayUse struct {
	Start time.Time
	Part  machine.Part
	Counts
}

// Log is what is known of the use of a machine.
type Log struct {
	// Events hold every entry from Since on, and of earlier days at least those that touch a
	// day on which something changed, as Touched lists them.
	Events []Event
	// Days are what was made by the day, oldest first, as far back as anything counts; none
	// where Events hold all of it.
	Days []DayUse
	// Since is the start of the day from which Events leave nothing out; zero: they hold all.
	Since time.Time
	// LoggedSince is when the machine's first use was logged; zero where it never was. Before
	// it, use is taken at the declared rate.
	LoggedSince time.Time
	// LoggedUntil is where the log ends for now: the end of a counter reading or of a file's
	// last day, where nothing was pressed after it. Use after it is taken at the believed
	// rate. Zero where presses go on.
	LoggedUntil time.Time
	// Habit is use by the day over the last weeks; where it is empty, HabitOf gives it.
	Habit Habit
	// Away are the times nobody was or will be there, as entered.
	Away []Spell
}

// window is a stretch of time. Its begin is not part of it and its end is, as for what was made
// since a wash; at the turn of a day it is the other way round.
type window struct {
	from, to           time.Time
	fromTurn, atTurnTo bool
}

// share is how much of an event lies in it.
func (w window) share(e Event) float64 {
	if e.From.Before(e.To) {
		start, end := latest(e.From, w.from), e.To
		if end.After(w.to) {
			end = w.to
		}
		if !start.Before(end) {
			return 0
		}
		return float64(end.Sub(start)) / float64(e.To.Sub(e.From))
	}
	if e.To.Before(w.from) || e.To.After(w.to) || e.To.Equal(w.from) && !w.fromTurn || e.To.Equal(w.to) && w.atTurnTo {
		return 0
	}
	return 1
}

// mine is the share of something of one part that counts for another, on a machine of so many
// groups.
func mine(of, for_ machine.Part, groups int) float64 {
	switch {
	case for_.IsWhole() || of == for_:
		return 1
	case of.IsWhole():
		return 1 / float64(groups)
	}
	return 0
}

func sum(events []Event, part machine.Part, groups int, w window) (all Counts) {
	for _, e := range events {
		if share := w.share(e) * mine(e.Part, part, groups); share > 0 {
			all = all.Plus(of(e, share))
		}
	}
	return all
}

// Count sums what a group, or the whole machine, has made from one instant to another, by the
// entries alone. One that lies over the edge counts by the share inside; one that a longer span
// absorbs does not count.
func Count(events []Event, part machine.Part, groups int, from, to time.Time) Counts {
	return sum(Standing(events), part, groups, window{from: from, to: to})
}

// Sum is what a group, or the whole machine, has made from one instant to another: by the day
// where the days are whole and the entries do not reach back so far.
func (l Log) Sum(part machine.Part, groups int, from, to time.Time, zone *time.Location) Counts {
	if !from.Before(to) {
		return Counts{}
	}
	standing := Standing(l.Events)
	if !from.Before(l.Since) || len(l.Days) == 0 {
		return sum(standing, part, groups, window{from: from, to: to})
	}
	first := NextDay(from, zone) // even from a turn on: what was made at that instant was before it
	last := Day(to, zone)        // the days before it are whole
	if last.After(l.Since) {
		last = l.Since
	}
	if !first.Before(last) {
		return sum(standing, part, groups, window{from: from, to: to})
	}
	all := sum(standing, part, groups, window{from: from, to: first, atTurnTo: true})
	begin := sort(l.Days, first)
	for _, d := range l.Days[begin:] {
		if !d.Start.Before(last) {
			break
		}
		all = all.Plus(d.Times(mine(d.Part, part, groups)))
	}
	return all.Plus(sum(standing, part, groups, window{from: last, to: to, fromTurn: true}))
}

// sort is where a day, or the first after it, stands in a list.
func sort(days []DayUse, start time.Time) int {
	at, _ := slices.BinarySearchFunc(days, start, func(d DayUse, t time.Time) int { return d.Start.Compare(t) })
	return at
}

// Touched lists the starts of the days, before the one from which entries leave nothing out, in
// which one of some instants falls: of these the entries are needed, too.
func Touched(since time.Time, zone *time.Location, at ...time.Time) []time.Time {
	var list []time.Time
	for _, t := range at {
		if d := Day(t, zone); t.Before(since) {
			list = append(list, d)
		}
	}
	slices.SortFunc(list, time.Time.Compare)
	return slices.CompactFunc(list, time.Time.Equal)
}

// ByDay counts entries up by the day, for the days that start from one instant on and before
// another. A press on the turn belongs to the day that begins.
func ByDay(events []Event, from, to time.Time, zone *time.Location) []DayUse {
	type key struct {
		start int64
		part  machine.Part
	}
	sums := map[key]Counts{}
	for _, e := range Standing(events) {
		if of(e, 1) == (Counts{}) {
			continue
		}
		for d := latest(Day(e.From, zone), from); d.Before(to) && !d.After(e.To); d = NextDay(d, zone) {
			w := window{from: d, to: NextDay(d, zone), fromTurn: true, atTurnTo: true}
			if share := w.share(e); share > 0 {
				k := key{d.UnixMilli(), e.Part}
				sums[k] = sums[k].Plus(of(e, share))
			}
		}
	}
	list := make([]DayUse, 0, len(sums))
	for k, c := range sums {
		list = append(list, DayUse{time.UnixMilli(k.start).UTC(), k.part, c})
	}
	slices.SortFunc(list, func(a, b DayUse) int {
		return cmp.Or(a.Start.Compare(b.Start), cmp.Compare(a.Part.String(), b.Part.String()))
	})
	return list
}

// HabitOf is use by the day over the eight weeks before now and today, from what is counted by
// the day.
func HabitOf(days []DayUse, now time.Time, zone *time.Location) Habit {
	today := Day(now, zone)
	h := Habit{From: time.Date(today.Year(), today.Month(), today.Day()-habitDays, DayTurns, 0, 0, 0, zone).UTC()}
	for _, d := range days[sort(days, h.From):] {
		if n := d.Shots(); n > 0 {
			h.add(h.index(d.Start, zone), d.Part.GroupNumber(), n)
		}
	}
	return h
}

// Reaches says whether the log reaches as far as a day.
func (l Log) Reaches(day time.Time) bool { return l.LoggedUntil.IsZero() || day.Before(l.LoggedUntil) }

// Gone says whether somebody entered that nobody is there at an instant.
func (l Log) Gone(t time.Time) bool { return away(l.Away, t) }

// Counted is the log with its habit, counted up where nobody did.
func (l Log) Counted(now time.Time, zone *time.Location) Log {
	if !l.Habit.From.IsZero() {
		return l
	}
	days := l.Days
	if len(days) == 0 {
		days = ByDay(l.Events, Day(now, zone).AddDate(0, 0, -habitDays-1), NextDay(now, zone), zone)
	}
	l.Habit = HabitOf(days, now, zone)
	return l
}

// HabitFrom is the start of the first day that a habit needs.
func HabitFrom(now time.Time, zone *time.Location) time.Time {
	return Day(now, zone).AddDate(0, 0, -habitDays-1)
}

func latest(a, b time.Time) time.Time {
	if a.After(b) {
		return a
	}
	return b
}
