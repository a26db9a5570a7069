package app

import (
	"errors"
	"slices"
	"testing"

	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/run"
	"freshanvil/core/task"
	"freshanvil/core/units"
	"freshanvil/internal/store"
)

// Tasks of one sitting are led in one run; each is on record by itself, with its own part, and the tub gives
// for the bath and for the group. A licensed hand's work and a descale are no part of one.
func TestASittingIsOneRun(t *testing.T) {
	b := newBench(t)
	n := NewMachine{ID: newID(), Name: "Observatory", Zone: "Europe/Lisbon", IsNew: &b.clock}
	n.Answers, n.Hardness = home(4, 10)
	n.Answers.Layout, n.Answers.Treatment = machine.DualHome, machine.InTank
	b.must(b.CreateMachine(ctx, n))
	b.clock = b.clock.AddDate(0, 0, 20)
	whole, group := []machine.Part{{}}, []machine.Part{machine.Group(1)}
	begin := func(with ...job.Want) (store.Run, error) {
		s := Begun{ID: newID(), MachineID: n.ID, Device: "test", Speed: 1, Task: task.Wash, Parts: group, With: with}
		if err := b.StartRun(ctx, s); err != nil {
			return store.Run{}, err
		}
		return b.Run(ctx, s.ID)
	}
	var bad *units.OutOfRange
	for _, id := range []task.ID{task.Descale, task.Probe, task.Brush} {
		if _, err := begin(job.Want{Task: id, Parts: whole}); !errors.As(err, &bad) || bad.Field != "task" {
			t.Errorf("with %s: %v", id, err)
		}
	}
	r, err := begin(job.Want{Task: task.Soak, Parts: whole}, job.Want{Task: task.FilterChange, Parts: whole},
		job.Want{Task: task.Screen, Parts: group}, job.Want{Task: task.Tank, Parts: whole})
	b.must(err)
	r = b.goOn(r, nil)
	if r.Ended.Outcome != run.Finished {
		t.Fatalf("ended %s", r.Ended.Outcome)
	}
	log, err := b.Log(ctx, n.ID, false, 20)
	b.must(err)
	var got []task.ID
	for _, e := range log {
		got = append(got, e.Task)
		if e.Outcome != string(run.Finished) || (e.Record.Dose != nil) != (e.Task == task.Wash || e.Task == task.Soak) {
			t.Errorf("%s: %s, dose %v", e.Task, e.Outcome, e.Record.Dose)
		}
	}
	slices.Sort(got)
	if want := []task.ID{task.FilterChange, task.Screen, task.Soak, task.Tank, task.Wash}; !slices.Equal(got, want) {
		t.Errorf("in the log: %v, want %v", got, want)
	}
	b.checkKept(n.ID)
}
