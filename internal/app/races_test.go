package app

import (
	"fmt"
	"sync"
	"testing"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/task"
	"freshanvil/core/use"
	"freshanvil/internal/store"
)

const racers = 60

// race lets so many do something at once, and gives what each came to.
func race(n int, do func(i int) error) []error {
	errs := make([]error, n)
	var ready, done sync.WaitGroup
	ready.Add(n)
	done.Add(n)
	for i := range n {
		go func() {
			defer done.Done()
			ready.Done()
			ready.Wait()
			errs[i] = do(i)
		}()
	}
	done.Wait()
	return errs
}

// Sixty devices that have read the same version change different facts at once: all hold. Of sixty
// that change the same one, the first holds and the others are told that it was changed.
func TestNoFactIsLost(t *testing.T) {
	b := newBench(t)
	id := b.add(4, 14)
	facts := b.machine(id).Answers.Known()
	var numbers []machine.Known
	for _, f := range facts {
		if f.Options == nil {
			numbers = append(numbers, f)
		}
	}
	version := b.machine(id).Version
	for i, err := range race(racers, func(i int) error {
		f := numbers[i%len(numbers)]
		return b.ChangeFacts(ctx, Edit{MachineID: id, Version: version}, []Fact{{f.Key, &f.Value}})
	}) {
		if i < len(numbers) && err != nil && !conflict(err, "changed_meanwhile") {
			t.Errorf("%s: %v", numbers[i].Key, err)
		}
	}
	held := b.machine(id).Answers.Overrides
	for _, f := range numbers {
		if held[f.Key] != f.Value {
			t.Errorf("%s is lost: %q", f.Key, held[f.Key])
		}
	}
	version = b.machine(id).Version
	held, won := nil, 0
	for _, err := range race(racers, func(i int) error {
		value := fmt.Sprint(20 + i)
		return b.ChangeFacts(ctx, Edit{MachineID: id, Version: version}, []Fact{{"beverage_g", &value}})
	}) {
		switch {
		case err == nil:
			won++
		case !conflict(err, "changed_meanwhile"):
			t.Errorf("the same fact: %v", err)
		}
	}
	if won != 1 {
		t.Errorf("%d of %d changed the same fact of one version", won, racers)
	}
}

// Sixty repeats of one request are one: a drink, a reading of the counter, care. The id with other
// content, on the machine or another, is a conflict, and nothing is dropped under a good answer.
func TestARequestIsMadeOnce(t *testing.T) {
	b := newBench(t)
	id, other := b.add(4, 14), b.add(4, 14)
	b.clock = b.clock.AddDate(0, 0, 5)
	yes := true
	p := Pressed{ID: newID(), MachineID: id, Kind: use.Double, Count: 2, At: b.clock}
	c := Counted{ID: newID(), MachineID: id, Value: 40, At: b.clock, Reset: &yes}
	w := Care{ID: newID(), MachineID: id, Task: task.Wash, Parts: []machine.Part{machine.Group(1)}, At: b.clock}
	for _, err := range race(racers, func(i int) error {
		switch i % 3 {
		case 0:
			_, err := b.LogUse(ctx, p)
			return err
		case 1:
			_, err := b.ReadCounter(ctx, c)
			return err
		}
		return b.RecordCare(ctx, w)
	}) {
		if err != nil {
			t.Fatal(err)
		}
	}
	list, err := b.Ledger(ctx, id, 100)
	b.must(err)
	log, err := b.Log(ctx, id, false, 100)
	b.must(err)
	if len(list) != 1 || list[0].ID != p.ID || len(log) != 1 {
		t.Errorf("%d entries of use, %d of care: %+v", len(list), len(log), list)
	}
	for what, do := range map[string]func() error{
		"another count":        func() error { q := p; q.Count = 3; _, err := b.LogUse(ctx, q); return err },
		"on another machine":   func() error { q := p; q.MachineID = other; _, err := b.LogUse(ctx, q); return err },
		"another reading":      func() error { q := c; q.Value = 41; _, err := b.ReadCounter(ctx, q); return err },
		"care of another kind": func() error { q := w; q.Task = task.Seal; return b.RecordCare(ctx, q) },
		"a drink's id for care": func() error {
			q := w
			q.ID = p.ID
			return b.RecordCare(ctx, q)
		},
	} {
		if err := do(); !conflict(err, "id_in_use") {
			t.Errorf("%s: %v", what, err)
		}
	}
}

// Two readings of the counter at once, each a request of its own: the second counts from the first.
func TestTwoReadingsAtOnceCountOnce(t *testing.T) {
	b := newBench(t)
	for range racers / 2 {
		id := b.add(4, 14)
		_, err := b.ReadCounter(ctx, Counted{ID: newID(), MachineID: id, Value: 100, At: b.clock.Add(-time.Hour)})
		b.must(err)
		race(2, func(i int) error {
			_, err := b.ReadCounter(ctx, Counted{ID: newID(), MachineID: id, Value: 160,
				At: b.clock.Add(time.Duration(i) * time.Millisecond)})
			return err
		})
		list, err := b.Ledger(ctx, id, 100)
		b.must(err)
		sum := 0.0
		for _, e := range list {
			sum += e.Count
		}
		if sum != 30 {
			t.Fatalf("60 on the counter are %v drinks", sum)
		}
	}
}

// A run and what must not change under it, at once, sixty times: one of them goes first, and the
// other is refused.
func TestNothingChangesUnderARun(t *testing.T) {
	b := newBench(t)
	never, hardness := home(4, 14)
	never.Layout, never.Valve = machine.LeverManual, machine.No
	for round := range racers {
		id := b.add(4, 14)
		version := b.machine(id).Version
		edit := Edit{MachineID: id, Version: version}
		run := Begun{ID: newID(), MachineID: id, Device: "d", Speed: 1, Task: task.Wash,
			Parts: []machine.Part{machine.Group(1)}, LockedIn: true}
		errs := race(2, func(i int) error {
			switch {
			case i == 0:
				return b.StartRun(ctx, run)
			case round%2 == 0:
				return b.ChangeAnswers(ctx, edit, never, hardness)
			}
			return b.ChangeDetails(ctx, edit, Details{Name: "x", Archived: true})
		})
		open, err := b.OpenRuns(ctx)
		b.must(err)
		m := b.machine(id)
		switch begun := len(open) > 0; {
		case (errs[0] == nil) == (errs[1] == nil):
			t.Fatalf("both, or neither: %v, %v", errs[0], errs[1])
		case begun && (m.Archived || m.Answers.Layout == machine.LeverManual):
			t.Fatalf("a run goes on under other answers, or on an archived machine")
		case begun:
			b.must(b.Void(ctx, run.ID, "the test", "it is over"))
		}
	}
}

// Nothing is done to an archived machine.
func TestArchivedMachinesAreLeftAlone(t *testing.T) {
	b := newBench(t)
	id := b.add(4, 14)
	b.must(b.ChangeDetails(ctx, Edit{MachineID: id, Version: 1}, Details{Name: "x", Archived: true}))
	_, drink := b.LogUse(ctx, Pressed{ID: newID(), MachineID: id, Kind: use.Double, Count: 1, At: b.clock})
	_, counter := b.ReadCounter(ctx, Counted{ID: newID(), MachineID: id, Value: 1, At: b.clock})
	_, file := b.ImportUse(ctx, id, "date,drinks\n2026-03-01,4\n", false)
	for what, err := range map[string]error{
		"a drink": drink, "a reading": counter, "a file": file,
		"care": b.RecordCare(ctx, Care{ID: newID(), MachineID: id, Task: task.Soak, Parts: []machine.Part{{}}, At: b.clock}),
		"a run": b.StartRun(ctx, Begun{ID: newID(), MachineID: id, Device: "d", Speed: 1, Task: task.Wash,
			Parts: []machine.Part{machine.Group(1)}}),
	} {
		if !conflict(err, "archived") {
			t.Errorf("%s: %v", what, err)
		}
	}
}

// Drinks, files, corrections and undo at once, sixty of them: use by the day is what counting all
// entries up anew gives.
func TestUseByTheDayHoldsUnderARace(t *testing.T) {
	b := newBench(t)
	id := b.add(4, 14)
	b.clock = b.clock.AddDate(0, 0, 30)
	first := b.log(id, use.Double, b.clock.AddDate(0, 0, -3))
	undone := 0
	var mu sync.Mutex
	race(racers, func(i int) error {
		at := b.clock.AddDate(0, 0, -i%9)
		var err error
		switch i % 4 {
		case 0:
			_, err = b.LogUse(ctx, Pressed{ID: newID(), MachineID: id, Kind: use.Milk, Count: 1, At: at})
		case 1:
			_, err = b.LogUse(ctx, Pressed{ID: newID(), MachineID: id, Kind: use.Undo, Count: 1, At: at, Supersedes: first})
			if err == nil {
				mu.Lock()
				undone++
				mu.Unlock()
			}
		case 2:
			_, err = b.ImportUse(ctx, id, "date,drinks\n2026-04-01,7\n2026-04-02,8\n", false)
		default:
			_, err = b.ReadCounter(ctx, Counted{ID: newID(), MachineID: id, Value: float64(100 + i), At: at})
		}
		return err
	})
	if undone != 1 {
		t.Errorf("one drink was taken back %d times", undone)
	}
	kept, err := b.store.Days(ctx, id, time.UnixMilli(0))
	b.must(err)
	b.must(b.store.Write(ctx, func(tx *store.Store) error { return tx.Recount(ctx, b.machine(id)) }))
	anew, err := b.store.Days(ctx, id, time.UnixMilli(0))
	b.must(err)
	sum := func(list []use.DayUse) (shots float64) {
		for _, d := range list {
			shots += d.Shots()
		}
		return shots
	}
	if k, a := sum(kept), sum(anew); len(anew) == 0 || k < a-1e-6 || k > a+1e-6 {
		t.Errorf("kept %v shots, anew %v", k, a)
	}
}

// R8. A reading that was dated ahead, by a clock that was, binds nobody once the clock is right; one that was wrong is
// taken back with its use.
func TestAReadingDatedAhead(t *testing.T) {
	b := newBench(t)
	id := b.add(4, 14)
	read := func(value float64) (use.Event, error) {
		b.clock = b.clock.Add(time.Hour)
		return b.ReadCounter(ctx, Counted{ID: newID(), MachineID: id, Value: value, At: b.clock})
	}
	_, err := read(100)
	b.must(err)
	right := b.clock
	b.clock = right.AddDate(1, 0, 0)
	_, err = read(900)
	b.must(err)
	b.clock = right
	e, err := read(160)
	if err != nil || e.Count != 30 {
		t.Fatalf("60 more on the counter are %v drinks, %v", e.Count, err)
	}
	wrong, err := read(990)
	b.must(err)
	if _, err := read(200); err == nil {
		t.Error("a counter that runs back is taken")
	}
	_, err = b.LogUse(ctx, Pressed{ID: newID(), MachineID: id, Kind: use.Undo, At: b.clock,
		Supersedes: wrong.ID})
	b.must(err)
	if e, err = read(200); err != nil || e.Count != 20 {
		t.Errorf("after the wrong one was taken back: %v drinks, %v", e.Count, err)
	}
}
