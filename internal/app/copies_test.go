package app

import (
	"context"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"freshanvil/core/use"
	"freshanvil/internal/store"
)

// Each night the database is read through and copied once, and as many of the newest are kept as was said.
func TestNightlyCopies(t *testing.T) {
	b := newBench(t)
	b.clock = time.Date(2026, 3, 10, 2, 59, 0, 0, time.FixedZone("here", 9*60*60))
	night := func() Keeping {
		t.Helper()
		b.must(b.Nightly(ctx))
		k, err := b.Keeping(ctx)
		b.must(err)
		return k
	}
	first := night()
	if len(first.Copies) != 1 || first.Keep != 7 || first.Failed != "" || first.Damage != "" || first.Checked.IsZero() {
		t.Fatalf("%+v", first)
	}
	b.clock = b.clock.Add(30 * time.Second)
	if k := night(); len(k.Copies) != 1 {
		t.Errorf("a second one the same night: %+v", k.Copies)
	}
	b.clock = b.clock.Add(31 * time.Second) // past the hour
	if k := night(); len(k.Copies) != 2 {
		t.Errorf("after the hour: %+v", k.Copies)
	}
	b.must(b.KeepCopies(ctx, 3))
	for range 5 {
		b.clock = b.clock.AddDate(0, 0, 1)
		night()
	}
	k := night()
	if len(k.Copies) != 3 || !k.Copies[0].At.Equal(b.clock) || !k.Tried.Equal(b.clock) {
		t.Errorf("%+v", k)
	}
	b.must(b.KeepCopies(ctx, 0))
	b.clock = b.clock.AddDate(0, 0, 1)
	if again := night(); len(again.Copies) != 3 || again.Checked.Equal(k.Checked) {
		t.Errorf("none is made by itself, and what is there stays; it is read through all the same: %+v", again)
	}
	if err := b.KeepCopies(ctx, 61); err == nil {
		t.Error("61 are kept")
	}
	for _, c := range k.Copies {
		if err := store.Sound(ctx, filepath.Join(CopiesOf(b.file), c.Name), true); err != nil {
			t.Errorf("%s: %v", c.Name, err)
		}
	}
}

// A copy that cannot be made is said, and is tried again by who asks for it.
func TestACopyThatFails(t *testing.T) {
	b := newBench(t)
	b.must(os.WriteFile(CopiesOf(b.file), []byte("no folder"), 0o600))
	if err := b.CopyNow(ctx); err == nil {
		t.Fatal("it was made")
	}
	if k, err := b.kept(ctx); err != nil || k.Failed == "" || strings.Contains(k.Failed, "\n") {
		t.Errorf("%+v, %v", k, err)
	}
	b.must(os.Remove(CopiesOf(b.file)))
	for range 2 { // in the same second
		b.must(b.CopyNow(ctx))
	}
	if k, err := b.Keeping(ctx); err != nil || k.Failed != "" || len(k.Copies) != 1 {
		t.Errorf("%+v, %v", k, err)
	}
}

// A copy that was made under load, restored: every drink that was acknowledged before it is there, once.
func TestACopyIsWhole(t *testing.T) {
	b := newBench(t)
	id, most := b.add(6, 14), 120
	acknowledged, done := make(chan string, most), make(chan struct{})
	go func() {
		defer close(done)
		for range most {
			drink := newID()
			if _, err := b.LogUse(ctx, Pressed{ID: drink, MachineID: id, Kind: use.Double, Count: 1, At: now}); err == nil {
				acknowledged <- drink
			}
		}
	}()
	for range 20 {
		<-acknowledged
	}
	before := len(acknowledged) + 20
	b.must(b.CopyNow(ctx))
	<-done
	k, err := b.Keeping(ctx)
	if err != nil || len(k.Copies) != 1 {
		t.Fatalf("%+v, %v", k, err)
	}
	shut(t, b.App)
	b.App = nil
	b.must(store.Restore(ctx, b.file, filepath.Join(CopiesOf(b.file), k.Copies[0].Name), b.file+".aside"))
	b.restart()
	list, err := b.store.Days(ctx, id, time.UnixMilli(0))
	b.must(err)
	shots := 0.0
	for _, d := range list {
		shots += d.Shots()
	}
	if int(shots) < before || int(shots) > most {
		t.Errorf("%v drinks, %d were acknowledged before the copy", shots, before)
	}
}

// R1. A clock that was ahead, and is right again: the next night makes its copy and reads the database through all the
// same, what was just made is never taken away, and copies that are late are said.
func TestAClockThatWasAhead(t *testing.T) {
	b := newBench(t)
	right := b.clock
	b.must(b.KeepCopies(ctx, 3))
	for i := range 8 {
		b.clock = right.AddDate(2, 0, i)
		b.must(b.Nightly(ctx))
	}
	b.clock = right.AddDate(0, 0, 1)
	k, err := b.Keeping(ctx)
	b.must(err)
	if len(k.Copies) != 3 || !k.Late {
		t.Fatalf("%d copies, late %v, before the clock is right", len(k.Copies), k.Late)
	}
	b.must(b.Nightly(ctx))
	k, err = b.Keeping(ctx)
	b.must(err)
	if k.Late || !k.Checked.Equal(b.clock) || !k.Tried.Equal(b.clock) ||
		!k.Copies[0].At.Equal(b.clock.Truncate(time.Second)) {
		t.Errorf("the night after: %+v", k)
	}
	b.clock = b.clock.Add(time.Minute)
	b.must(b.CopyNow(ctx))
	k, err = b.Keeping(ctx)
	b.must(err)
	if len(k.Copies) != 3 || !k.Copies[0].At.Equal(b.clock.Truncate(time.Second)) {
		t.Errorf("what was just made is not the newest: %+v", k.Copies)
	}
	b.clock = b.clock.Add(lateAfter + time.Hour)
	if k, err = b.Keeping(ctx); err != nil || !k.Late {
		t.Errorf("a night and a half without a copy is not late: %+v, %v", k, err)
	}
}

// R10. What a copy that was killed has left is swept before the next is made; copies, and what is somebody else's,
// stay.
func TestKilledCopiesAreSwept(t *testing.T) {
	b := newBench(t)
	b.must(b.CopyNow(ctx))
	dir := CopiesOf(b.file)
	left := []string{"freshanvil-20260310-030000.db.part", "freshanvil-20260310-030000.db.part-journal",
		"freshanvil-20260310-030000.db-journal"}
	stay := []string{"notes.part", "other.db-journal"}
	for _, name := range slices.Concat(left, stay) {
		b.must(os.WriteFile(filepath.Join(dir, name), []byte("x"), 0o600))
	}
	over, end := context.WithCancel(ctx)
	end()
	b.KeepCopying(over, time.Hour, func(err error) { t.Error(err) })
	for _, name := range left {
		if _, err := os.Stat(filepath.Join(dir, name)); !os.IsNotExist(err) {
			t.Errorf("%s is left: %v", name, err)
		}
	}
	for _, name := range stay {
		if _, err := os.Stat(filepath.Join(dir, name)); err != nil {
			t.Error(err)
		}
	}
	if k, err := b.Keeping(ctx); err != nil || len(k.Copies) != 1 {
		t.Errorf("%+v, %v", k, err)
	}
}
