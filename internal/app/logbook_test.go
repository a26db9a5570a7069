package app

import (
	"slices"
	"testing"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/task"
)

// A year of the log is one by the clock on the machine's wall: what was done at two in the night of New Year is of the
// old one, as is what the page of that year lists.
func TestAYearTurnsByTheMachinesClock(t *testing.T) {
	b := newBench(t)
	id := b.add(4, 14)
	b.done(id, task.Seal, machine.Group(1), time.Date(2026, 1, 1, 2, 0, 0, 0, time.UTC))
	b.done(id, task.Screen, machine.Group(1), time.Date(2024, 12, 31, 12, 0, 0, 0, time.UTC))
	for _, of := range []string{"", id} {
		l, err := b.Logbook(ctx, LogQuery{MachineID: of, Year: 2025, Limit: 10})
		b.must(err)
		if !slices.Equal(l.Years, []int{2025, 2024}) || len(l.Entries) != 1 || l.Entries[0].Task != task.Seal {
			t.Errorf("years %v, %d lines of 2025", l.Years, len(l.Entries))
		}
	}
	b.done(id, task.Tank, machine.Part{}, time.Date(2026, 1, 1, 5, 0, 0, 0, time.UTC))
	l, err := b.Logbook(ctx, LogQuery{Limit: 10})
	b.must(err)
	if !slices.Equal(l.Years, []int{2026, 2025, 2024}) {
		t.Errorf("years %v", l.Years)
	}
}
