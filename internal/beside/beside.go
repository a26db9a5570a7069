// Package beside measures a piece of work beside a named baseline, turn and
// turn about, so that a busy machine slows both alike.
package beside

import (
	"slices"
	"testing"
	"time"
)

// Run does baseline and work once each a loop of the benchmark and reports the
// median of the work in milliseconds and its ratio to the median baseline.
func Run(b *testing.B, baseline string, base, work func()) {
	var bases, works []time.Duration
	for b.Loop() {
		bases = append(bases, took(base))
		works = append(works, took(work))
	}
	own, other := median(works), median(bases)
	b.ReportMetric(own*1e3, "ms")
	b.ReportMetric(own/other, "x_"+baseline)
	b.ReportMetric(1/own, "a_second")
	b.ReportMetric(1/other, baseline+"_a_second")
	b.ReportMetric(0, "ns/op") // both together mean nothing
}

func took(f func()) time.Duration {
	began := time.Now()
	f()
	return time.Since(began)
}

// median in seconds.
func median(list []time.Duration) float64 {
	slices.Sort(list)
	return list[len(list)/2].Seconds()
}
