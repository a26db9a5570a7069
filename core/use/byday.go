package use

import (
	"slices"
	"time"

	"freshanvil/core/machine"
)

// Made is what a whole machine made in one of its days, or in the part of one between two instants.
type Made struct {
	From, To time.Time
	Counts
}

// ByDay is what a whole machine has made from one instant to another, day by day, days without use
// too: together it is what Sum gives.
func (l Log) ByDay(groups int, from, to time.Time, zone *time.Location) []Made {
	if !from.Before(to) {
		return nil
	}
	var list []Made
	for at := from; at.Before(to); {
		turn := NextDay(at, zone)
		if turn.After(to) {
			turn = to
		}
		list = append(list, Made{From: at, To: turn})
		at = turn
	}
	byRows := l.Since // before it, whole days count by their rows
	if len(l.Days) == 0 {
		byRows = time.Time{}
	}
	rows := make([]bool, len(list))
	for i := range list {
		m := &list[i]
		whole := Day(m.From, zone).Equal(m.From) && NextDay(m.From, zone).Equal(m.To)
		// what was made at the first instant was before it, as in Sum
		if rows[i] = whole && i > 0 && !m.To.After(byRows); rows[i] {
			m.Counts = m.Plus(l.rowsOf(m.From, groups))
		}
	}
	for _, e := range Standing(l.Events) {
		first, _ := slices.BinarySearchFunc(list, e.From, func(m Made, t time.Time) int { return m.To.Compare(t) })
		for i := first; i < len(list) && !list[i].From.After(e.To); i++ {
			m := &list[i]
			w := window{from: m.From, to: m.To, fromTurn: i > 0, atTurnTo: i < len(list)-1}
			if rows[i] { // but for what was made at the very end, which is in the next day's row
				if w.from = w.to; i < len(list)-1 || e.From.Before(e.To) {
					continue
				}
			}
			if share := w.share(e); share > 0 {
				m.Counts = m.Plus(of(e, share))
			}
		}
	}
	return list
}

// rowsOf is what a whole machine made by the rows of the day that begins at an instant.
func (l Log) rowsOf(day time.Time, groups int) (sum Counts) {
	for _, d := range l.Days[sort(l.Days, day):] {
		if !d.Start.Equal(day) {
			break
		}
		sum = sum.Plus(d.Times(mine(d.Part, machine.Part{}, groups)))
	}
	return sum
}
