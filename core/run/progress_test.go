package run

import (
	"testing"
	"time"

	"freshanvil/core/machine"
)

// TestLikelyEnd: at its start a run ends when its plan says; a step that takes longer moves the end, one that is done
// sooner brings it forward; at the end of the run there is none. Told in run time at any speed.
func TestLikelyEnd(t *testing.T) {
	p := plan(t, machine.HXHome, false)
	spans := p.Spans()
	whole := time.Duration(0)
	for _, x := range spans {
		whole = max(whole, x.To)
	}
	first := spans[0].To
	for _, c := range []struct {
		name    string
		speed   int
		presses []Press
		after   time.Duration // wall time since the start
		want    time.Duration // of the end, wall time since the start
	}{
		{"at the start", 1, nil, 0, whole},
		{"in the first step", 1, nil, first / 2, whole},
		{"it takes three times as long", 1, nil, 3 * first, 3*first + whole - first},
		{"done at once", 1, []Press{{ID: "1", Step: spans[0].Step.ID, Kind: Done, At: start}}, 0, whole - first},
		{"ten times the speed", 10, nil, 0, whole / 10},
	} {
		t.Run(c.name, func(t *testing.T) {
			s := Fold(p, start, c.speed, c.presses, start.Add(c.after))
			if got := s.LikelyEnd.Sub(start); got.Round(time.Second) != c.want.Round(time.Second) {
				t.Errorf("ends after %s, want %s", got, c.want)
			}
		})
	}
	stopped := Fold(p, start, 1, []Press{{ID: "1", Step: spans[0].Step.ID, Kind: Stop, At: start}}, start)
	if !stopped.LikelyEnd.IsZero() {
		t.Errorf("over, and yet it ends at %s", stopped.LikelyEnd)
	}
}

// TestLikelyEndOfSoaks: what soaks beside counts from when it began, not from now.
func TestLikelyEndOfSoaks(t *testing.T) {
	p := two(t, "soak", nil)
	h := newHand(t, p).to("1-short")
	h.press(Begin)
	h.wait(40 * time.Second)
	before := h.state().LikelyEnd
	h.wait(20 * time.Second) // the step beside the soak goes on
	if after := h.state().LikelyEnd; after.Sub(before).Abs() > time.Second {
		t.Errorf("twenty seconds as planned move the end from %s to %s", before, after)
	}
}
