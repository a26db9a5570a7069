package care

import (
	"testing"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/task"
	"freshanvil/core/use"
	"freshanvil/internal/beside"
)

// BenchmarkOneDue: one machine's due answers from a month of presses, beside
// counting the same presses alone.
func BenchmarkOneDue(b *testing.B) {
	h := History{
		Done: []Done{{task.Wash, machine.Group(1), daysAgo(12), ""}},
		Log:  use.Log{LoggedSince: daysAgo(100), Events: presses(use.Double, 48, daysAgo(12), noon, 1)},
	}
	h.Log = h.Counted(noon, time.UTC)
	a := home(4)
	beside.Run(b, "counting_alone",
		func() { use.Count(h.Events, machine.Group(1), 1, daysAgo(12), noon) },
		func() { AllDue(a, h, noon, time.UTC) })
}
