package care

import (
	"testing"
	"time"
)

func TestBandOf(t *testing.T) {
	now := time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)
	in := func(state State, days float64) *Standing {
		return &Standing{State: state, Likely: now.Add(time.Duration(days * 24 * float64(time.Hour)))}
	}
	for _, c := range []struct {
		name   string
		unsafe bool
		next   *Standing
		want   Band
	}{
		{"something is in it, whatever is due", true, in(Later, 90), Unsafe},
		{"nothing is due", false, nil, Calm},
		{"nobody knows", false, in(Unrecorded, 0), NotKnown},
		{"overdue", false, in(Overdue, -3), Late},
		{"due today, its hour has come", false, in(Today, -0.1), Late},
		{"tonight", false, in(Today, 0.3), ThisWeek},
		{"in six days", false, in(Later, 6), ThisWeek},
		{"in eight", false, in(Later, 8), Calm},
	} {
		t.Run(c.name, func(t *testing.T) {
			if got := BandOf(c.unsafe, c.next, now); got != c.want {
				t.Errorf("%s, want %s", got, c.want)
			}
		})
	}
}
