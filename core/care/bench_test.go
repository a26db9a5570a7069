package care

import (
	"testing"
	"time"
)

// BenchmarkOneDue: one machine's due answers from a month of presses, beside
// counting the same presses alone.
func BenchmarkOneDue(b *testing.B) {
	h := History{Done: []Done{{Wash, 1, daysAgo(12)}}, LoggedSince: daysAgo(100), Events: presses(Double, 48, daysAgo(12), noon, 1)}
	a := home(4)
	const rounds = 1000
	began := time.Now()
	for range rounds {
		Count(h.Events, 1, a.Facts(), daysAgo(12), noon)
	}
	baseline := float64(time.Since(began)) / rounds
	for b.Loop() {
		AllDue(a, h, noon, time.UTC)
	}
	b.ReportMetric(float64(b.Elapsed())/float64(b.N)/baseline, "x_counting_alone")
}
