package care

import (
	"testing"
	"time"

	"freshanvil/core/machine"
	"freshanvil/internal/beside"
)

// BenchmarkOneDue: one machine's due answers from a month of presses, beside
// counting the same presses alone.
func BenchmarkOneDue(b *testing.B) {
	h := History{
		Done:        []Done{{Wash, machine.Group(1), daysAgo(12)}},
		LoggedSince: daysAgo(100),
		Events:      presses(Double, 48, daysAgo(12), noon, 1),
	}
	h.Habit = HabitOf(h.Events, noon, time.UTC) // kept by the store
	a := home(4)
	beside.Run(b, "counting_alone",
		func() { Count(h.Events, machine.Group(1), a.Facts(), daysAgo(12), noon) },
		func() { AllDue(a, h, noon, time.UTC) })
}
