package sitting

import (
	"math/rand/v2"
	"testing"
	"time"

	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/run"
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

// Random sittings over the layouts, in use or off overnight: each is cleared on the model of the machine in the order
// that is called the shortest or is said to be plain, is never longer than its tasks one by one, holds each step once,
// and never has two things for two hands; no acid is in any of it.
func TestRandomSittings(t *testing.T) {
	r := rand.New(rand.NewPCG(14, 22))
	layouts := []machine.Layout{machine.DualHome, machine.HXHome, machine.HXCafe, machine.SingleBoiler, machine.LeverCam}
	all := []task.ID{task.Soak, task.Tip, task.Tank, task.Screen, task.Seal, task.Wash, task.FilterChange, task.Grinder,
		task.Waste, task.CamGrease}
	composed := 0
	for range 40 {
		in := gathering(t, layouts[r.IntN(len(layouts))])
		in.Cold = r.IntN(2) == 0
		r.Shuffle(len(all), func(i, j int) { all[i], all[j] = all[j], all[i] })
		ids := all[:2+r.IntN(4)]
		c, err := Compose(in, wantsOf(in, ids...)...)
		if err != nil {
			continue // not for this machine: what one refuses, the sitting refuses
		}
		composed++
		if _, err := run.Cleared(c.Plan); err != nil {
			t.Errorf("%s %v: %v", in.Answers.Layout, ids, err)
		}
		if takes(c.Plan) > c.Alone+time.Second || c.Order.Least > c.Order.Takes {
			t.Errorf("%s %v: %v, one by one %v, at the least %v", in.Answers.Layout, ids, takes(c.Plan), c.Alone, c.Order.Least)
		}
		seen, hands := map[string]bool{}, time.Duration(0)
		for _, x := range c.Plan.Spans() {
			if seen[x.Step.ID] || x.Work != job.ByItself && x.From < hands {
				t.Errorf("%s %v: %s twice, or while the hands are elsewhere", in.Answers.Layout, ids, x.Step.ID)
			}
			if seen[x.Step.ID] = true; x.Work != job.ByItself {
				hands = x.To
			}
			if soak, is := job.BodyOf[job.Soak](x.Step); is && soak.Acid {
				t.Errorf("acid in a sitting: %s", x.Step.ID)
			}
		}
	}
	if composed < 20 {
		t.Errorf("only %d of 40 were composed", composed)
	}
}
