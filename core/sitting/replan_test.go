package sitting

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/run"
	"freshanvil/core/task"
)

// lived carries a plan out by hands that take so many times as long as planned, up to a step, and says how far it has
// come.
func livedTo(t *testing.T, p job.Plan, until string, times float64) (presses []run.Press, now time.Time) {
	t.Helper()
	now = tapeNow
	for range 400 {
		s := run.Fold(p, tapeNow, 1, presses, now)
		if s.Outcome != "" || s.Step.ID == until {
			return presses, now
		}
		press := run.Press{ID: s.Step.ID, Step: s.Step.ID, Segment: s.Segment.Index, Kind: s.Allowed[0]}
		switch b := s.Step.Body.(type) {
		case job.Soak:
			now = s.Schedule[len(s.Schedule)-1].End
			continue
		case job.Choose:
			press.Kind, press.Answer = run.Heard, b.Ways[0].Answer
		}
		now = now.Add(time.Duration(float64(s.Step.Takes) * times))
		press.At = now
		presses = append(presses, press)
	}
	t.Fatalf("it never came to %s", until)
	return nil, now
}

// A sitting cut up again gives the pieces that it was put together from, and its order.
func TestCutUp(t *testing.T) {
	for _, ids := range [][]task.ID{{task.Soak, task.Tip, task.Wash}, {task.Screen, task.Soak, task.Tip, task.Wash,
		task.Tank}} {
		in := gathering(t, machine.HXHome)
		c, err := Compose(in, wantsOf(in, ids...)...)
		if err != nil {
			t.Fatal(err)
		}
		w, ok := cutUp(c.Plan)
		if !ok || len(w.order) != len(c.Order.Turns) || len(w.g.Pieces) != len(ids) {
			t.Fatalf("%v: %v, %d turns of %d", ids, ok, len(w.order), len(c.Order.Turns))
		}
		for i, turn := range c.Order.Turns {
			if turn.Kind != w.order[i].Kind {
				t.Fatalf("%v: turn %d is %v, was %v", ids, i, w.order[i], turn)
			}
			if turn.Kind != job.WorkTurn {
				continue
			}
			was, is := c.gathered.Pieces[turn.Piece], w.g.Pieces[w.order[i].Piece]
			a, b := was.Stretches[turn.Stretch], is.Stretches[w.order[i].Stretch]
			if was.Task != is.Task || a.Stands != b.Stands || (a.Hands-b.Hands).Abs() > time.Minute {
				t.Errorf("%s %d: %+v, was %+v", is.Task, turn.Stretch, b, a)
			}
		}
	}
}

// Hands that do nothing while something soaks, because the order was moved so, are told of what may be done meanwhile:
// the new order holds the same steps, is shorter, clears the model, and what is done stays done. Hands within a step,
// and an order that nothing is gained by, are left alone.
func TestReplan(t *testing.T) {
	in := gathering(t, machine.HXHome)
	wants := wantsOf(in, task.Soak, task.Tip, task.Tank, task.Wash)
	c, err := ComposeAs(in, []string{"soak.1", "soak.2", "tip.1", "tip.2", "tank.1", "wash.1"}, wants...)
	if err != nil {
		t.Fatal(err)
	}
	presses, now := livedTo(t, c.Plan, "soak-soak", 1)
	at := run.ProgressOf(c.Plan, tapeNow, 1, presses, now)
	order, saves, ok := Replan(c.Plan, at)
	if !ok || saves < 8*time.Minute {
		t.Fatalf("%v %v: %v", ok, saves, order)
	}
	if order[0] == "soak-soak" {
		t.Errorf("the hands wait: %v", order)
	}
	left := make([]string, len(at.Left))
	for i, s := range at.Left {
		left[i] = s.ID
	}
	if a, b := slices.Sorted(slices.Values(left)), slices.Sorted(slices.Values(order)); !slices.Equal(a, b) {
		t.Errorf("%v became %v", left, order)
	}
	turned := append(slices.Clone(presses), run.Press{ID: "order", Step: at.Left[0].ID, Kind: run.Reorder, At: now,
		Order: order})
	after := run.Fold(c.Plan, tapeNow, 1, turned, now)
	if after.Step.ID != order[0] || after.Outcome != "" {
		t.Errorf("it goes on at %s, want %s", after.Step.ID, order[0])
	}
	if so := run.ProgressOf(c.Plan, tapeNow, 1, turned, now); len(so.Ended) != len(at.Ended) {
		t.Errorf("%d steps were over, now %d", len(at.Ended), len(so.Ended))
	}
	if _, _, again := Replan(c.Plan, run.ProgressOf(c.Plan, tapeNow, 1, turned, now)); again {
		t.Error("it is put into another order twice")
	}
	for name, bad := range map[string][]string{"a step too few": order[1:],
		"one that is none": append(slices.Clone(order[1:]), "tea"),
		"one twice":        append(slices.Clone(order[1:]), order[1])} {
		t.Run(name, func(t *testing.T) {
			press := run.Press{ID: "order", Step: at.Left[0].ID, Kind: run.Reorder, At: now, Order: bad}
			if s := run.Fold(c.Plan, tapeNow, 1, append(slices.Clone(presses), press), now); s.Step.ID != at.Left[0].ID {
				t.Errorf("it goes on at %s", s.Step.ID)
			}
		})
	}
	best, err := Compose(in, wants...)
	if err != nil {
		t.Fatal(err)
	}
	if order, saves, ok := Replan(best.Plan, run.ProgressOf(best.Plan, tapeNow, 1, nil, tapeNow)); ok {
		t.Errorf("the shortest order is shortened by %v: %v", saves, order)
	}
}

// Days with hands of all kinds, on a sitting whose order somebody moved: put into another order as it goes, it takes
// less time over the days and never loses a step, and no day ends otherwise than done.
func TestReplannedDays(t *testing.T) {
	in := gathering(t, machine.HXHome)
	c, err := ComposeAs(in, []string{"soak.1", "tank.1", "soak.2", "tip.1", "tip.2", "wash.1"},
		wantsOf(in, task.Soak, task.Tip, task.Tank, task.Wash)...)
	if err != nil {
		t.Fatal(err)
	}
	r := rand.New(rand.NewPCG(11, 3))
	var plain, turned time.Duration
	for range 12 {
		times := map[string]float64{}
		for _, s := range c.Plan.Steps() {
			times[s.ID] = 0.5 + 2.5*r.Float64()
		}
		a, b := aDay(t, c.Plan, times, false), aDay(t, c.Plan, times, true)
		plain, turned = plain+a, turned+b
	}
	if turned >= plain {
		t.Errorf("put into another order as it goes: %v, without %v", turned, plain)
	}
}

// aDay leads a plan through by hands that take each step's own times as long, and gives what it takes.
func aDay(t *testing.T, p job.Plan, times map[string]float64, replan bool) time.Duration {
	t.Helper()
	var presses []run.Press
	now, seen := tapeNow, ""
	for n := range 600 {
		s := run.Fold(p, tapeNow, 1, presses, now)
		if s.Outcome != "" {
			if s.Outcome != run.Finished {
				t.Fatalf("it ended %s", s.Outcome)
			}
			return now.Sub(tapeNow)
		}
		if replan && s.Step.ID != seen {
			seen = s.Step.ID
			if order, _, ok := Replan(p, run.ProgressOf(p, tapeNow, 1, presses, now)); ok {
				presses = append(presses, run.Press{ID: fmt.Sprint(n), Step: s.Step.ID, Kind: run.Reorder, At: now, Order: order})
				continue
			}
		}
		press := run.Press{ID: fmt.Sprint(n), Step: s.Step.ID, Segment: s.Segment.Index}
		hand := time.Duration(float64(s.Step.Takes) * times[s.Step.ID])
		switch b := s.Step.Body.(type) {
		case job.Soak, job.Pulses:
			if last := s.Schedule[len(s.Schedule)-1].End; !last.IsZero() {
				now = last
				continue
			}
			press.Kind = run.Begin
		case job.Choose:
			press.Kind, press.Answer = run.Heard, b.Ways[0].Answer
		case job.Look:
			if press.Kind, press.First = run.Graded, backflush.ColourPale; b.At == job.RinseCup {
				press.Kind, press.Cup = run.Reading, &backflush.Cup{Colour: backflush.ColourClear, Foam: backflush.FoamNone,
					Grains: backflush.GrainsNone}
			}
		case job.Wait:
			press.Kind = s.Allowed[0]
		default:
			press.Kind = run.Done
		}
		now = now.Add(hand)
		press.At = now
		presses = append(presses, press)
	}
	t.Fatal("it never ends")
	return 0
}
