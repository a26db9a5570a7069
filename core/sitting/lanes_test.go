package sitting

import (
	"testing"
	"time"

	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/task"
)

// Whatever is put together: two hands never do two things, each lane goes on in time, a soak lasts what it
// says, and the sheet ends when the plan says.
func TestLanesAreOnePairOfHands(t *testing.T) {
	for _, c := range []struct {
		layout machine.Layout
		tasks  []task.ID
	}{
		{machine.DualHome, []task.ID{task.Soak, task.Tip, task.Wash}},
		{machine.DualHome, []task.ID{task.Soak, task.Tip, task.Screen, task.Tank, task.Wash}},
		{machine.HXHome, []task.ID{task.Soak, task.Tip, task.Waste, task.Wash}},
	} {
		in := gathering(t, c.layout)
		done, err := Compose(in, wantsOf(in, c.tasks...)...)
		if err != nil {
			t.Fatalf("%s: %v", c.layout, err)
		}
		end, beside := time.Duration(0), false
		lanes := Lanes(done.Plan)
		for _, l := range lanes {
			at := time.Duration(0)
			for _, b := range l.Bars {
				if b.From < at || b.To < b.From {
					t.Errorf("%s: %s from %v to %v, and the one before it ends at %v", l.Title, b.Title, b.From, b.To, at)
				}
				at, end = b.To, max(end, b.To)
				for _, h := range lanes[0].Bars {
					beside = beside || b.Work == job.ByItself && h.From > b.From && h.To < b.To
				}
			}
		}
		if !beside {
			t.Errorf("%s %v: nothing is done while something stands", c.layout, c.tasks)
		}
		minutes := 0.0
		for _, in := range done.Plan.Minutes.Inputs {
			minutes += in.Value / 60
		}
		if off := end.Minutes() - minutes; off > 0.51 || off < -0.51 {
			t.Errorf("%s %v: the lanes end after %.1f min, the plan says %.1f", c.layout, c.tasks, end.Minutes(), minutes)
		}
	}
}
