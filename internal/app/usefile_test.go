package app

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"freshanvil/core/use"
	"freshanvil/internal/store"
)

// tenYears is a file of a drink row a day.
func tenYears(until time.Time) (text string, rows int) {
	var out strings.Builder
	out.WriteString("date,double,milk\n")
	for day := until.AddDate(-9, -11, 0); day.Before(until.AddDate(0, 0, -1)); day = day.AddDate(0, 0, 1) {
		fmt.Fprintf(&out, "%s,%d,%d\n", day.Format(time.DateOnly), 2+day.YearDay()%5, day.YearDay()%3)
		rows++
	}
	return out.String(), rows
}

// held is a database that somebody writes to, until it is let go.
func (b *bench) held() (letGo func()) {
	holding, release, done := make(chan struct{}), make(chan struct{}), make(chan struct{})
	go func() {
		defer close(done)
		if err := b.store.Write(ctx, func(*store.Store) error { close(holding); <-release; return nil }); err != nil {
			b.t.Error(err)
		}
	}()
	<-holding
	return func() { close(release); <-done }
}

// inLine starts something that is to wait as the nth for its turn to write, and gives what it came to.
func (b *bench) inLine(n int, do func() error) (came func() error) {
	done := make(chan error, 1)
	go func() { done <- do() }()
	for b.store.Waiting() < n {
		select {
		case err := <-done:
			b.t.Fatalf("it did not wait for its turn: %v", err)
		case <-time.After(time.Millisecond):
		}
	}
	return func() error { return <-done }
}

func (b *bench) archive(id string, is bool) error {
	m, err := b.Find(ctx, id)
	if err != nil {
		return err
	}
	return b.ChangeDetails(ctx, Edit{MachineID: id, Version: m.Version}, Details{Name: m.Name, Archived: is})
}

// entries is how many lines the ledger has.
func (b *bench) entries() int { return b.sql("SELECT COUNT(*) FROM use_events") }

// A file of ten years is made ready while others write, and waits for its turn with all of it ready: a drink that came
// first stands before it, the next one after the whole of it. A preview writes nothing and waits for nobody; the same
// file again changes nothing.
func TestAFileLetsOthersPass(t *testing.T) {
	b := newBench(t)
	b.clock = now.AddDate(10, 0, 0)
	id := b.add(4, 14)
	text, _ := tenYears(b.clock)
	drink := func() (string, func() error) {
		d := Pressed{ID: newID(), MachineID: id, Kind: use.Double, Count: 1, At: b.clock}
		return d.ID, func() error { _, err := b.LogUse(ctx, d); return err }
	}
	letGo := b.held()
	seen, err := b.ImportUse(ctx, id, text, true)
	if err != nil || seen.New < 3600 || len(seen.Bad) > 0 {
		t.Fatalf("a preview while somebody writes: %d new, %v", seen.New, err)
	}
	early, log := drink()
	first := b.inLine(1, log)
	var sum Imported
	file := b.inLine(2, func() (err error) { sum, err = b.ImportUse(ctx, id, text, false); return err })
	if far, going, err := b.Importing(ctx, id); err != nil || !going || far != (Readied{seen.New, seen.New}) {
		t.Errorf("while it waits: %+v, %v, %v", far, going, err)
	}
	late, log := drink()
	last := b.inLine(3, log)
	letGo()
	b.must(errors.Join(first(), file(), last()))
	if _, going, err := b.Importing(ctx, id); going || err != nil {
		t.Errorf("it has ended: %v, %v", going, err)
	}
	before := func(id string) int {
		return b.sql("SELECT COUNT(*) FROM use_events WHERE rowid < (SELECT rowid FROM use_events WHERE id = ?)", id)
	}
	if e, l := before(early), before(late); e != 0 || l != 1+seen.New {
		t.Errorf("%d entries stand before the first drink, %d before the last, of %d", e, l, seen.New)
	}
	b.checkKept("after ten years")
	again, err := b.ImportUse(ctx, id, text, false)
	b.must(err)
	if again.New != 0 || again.Changed != 0 || again.Same != sum.New {
		t.Errorf("the same file again: %d new, %d changed, %d same of %d", again.New, again.Changed, again.Same, sum.New)
	}
	b.checkKept("after the same again")
}

// A file that cannot be taken to its end is not taken at all: whatever stops it, the ledger, the use by the day and the
// folder of the database are as before.
func TestAFileIsTakenWholeOrNotAtAll(t *testing.T) {
	text, _ := tenYears(now)
	stopped, stop := context.WithCancel(ctx)
	stop()
	for _, c := range []struct {
		name string
		text string
		stop func(b *bench, id string) error // what comes while the file waits
		as   context.Context
		want any
	}{
		{"archived meanwhile", text, func(b *bench, id string) error { return b.archive(id, true) }, ctx, new(*Conflict)},
		{"the client left", text, nil, stopped, nil},
		{"a bad row at its end", text + "yesterday,4,0\n", nil, ctx, nil},
	} {
		t.Run(c.name, func(t *testing.T) {
			b := newBench(t)
			id := b.add(4, 14)
			_, err := b.LogUse(ctx, Pressed{ID: newID(), MachineID: id, Kind: use.Double, Count: 2, At: b.clock})
			b.must(err)
			before := b.entries()
			var sum Imported
			take := func() (err error) { sum, err = b.ImportUse(c.as, id, c.text, false); return err }
			if c.stop == nil {
				err = take()
			} else {
				letGo := b.held()
				stopping := b.inLine(1, func() error { return c.stop(b, id) })
				file := b.inLine(2, take)
				letGo()
				b.must(stopping())
				err = file()
			}
			if (err == nil) != (len(sum.Bad) > 0) || c.want != nil && !errors.As(err, c.want) {
				t.Errorf("%v, bad %+v", err, sum.Bad)
			}
			if n := b.entries(); n != before {
				t.Errorf("%d entries, %d before", n, before)
			}
			b.checkKept("after it was stopped")
			if left, _ := filepath.Glob(filepath.Join(filepath.Dir(b.file), "stage-*")); len(left) > 0 {
				t.Errorf("left behind: %v", left)
			}
		})
	}
}

// What changes the imported entries, or the machine, between reading a file and writing it is seen: the file is read
// anew, and what it comes to is told of the record as it then was.
func TestAFileIsReadAnewWhereTheRecordMoved(t *testing.T) {
	text := "date,group,drinks\n2026-03-01,1,7\n2026-03-02,2,8\n"
	b := newBench(t)
	id := b.add(4, 14)
	groups := func(n string) error {
		return b.ChangeFacts(ctx, Edit{MachineID: id, Version: b.machine(id).Version}, []Fact{{"groups", &n}})
	}
	b.must(groups("2"))
	for _, c := range []struct {
		name                  string
		first                 func() error
		second                string // how many drinks on the second day
		fresh, same, bad, all int
	}{
		{"the same file", func() error { _, err := b.ImportUse(ctx, id, text, false); return err }, "8", 0, 2, 0, 2},
		{"a group less", func() error { return groups("1") }, "9", 0, 0, 1, 2},
	} {
		t.Run(c.name, func(t *testing.T) {
			letGo := b.held()
			first := b.inLine(1, c.first)
			var sum Imported
			text := strings.ReplaceAll(text, ",8", ","+c.second)
			file := b.inLine(2, func() (err error) { sum, err = b.ImportUse(ctx, id, text, false); return err })
			letGo()
			b.must(errors.Join(first(), file()))
			if sum.New != c.fresh || sum.Same != c.same || len(sum.Bad) != c.bad || b.entries() != c.all {
				t.Errorf("%d new, %d same, bad %+v, %d entries in all", sum.New, sum.Same, sum.Bad, b.entries())
			}
			b.checkKept("after both")
		})
	}
}

// What somebody took back or corrected by hand stays as they left it when the same line comes again, whatever it says
// by then; what a file corrects may be corrected by a file again.
func TestAFileLeavesWhatWasChangedByHand(t *testing.T) {
	b := newBench(t)
	id := b.add(4, 14)
	take := func(text string) Imported {
		t.Helper()
		sum, err := b.ImportUse(ctx, id, "date,drinks\n"+text, false)
		b.must(err)
		b.checkKept("after " + text)
		return sum
	}
	change := func(day int, kind use.Kind, count float64) {
		t.Helper()
		list, err := b.store.Ledger(ctx, id, 10)
		b.must(err)
		for _, e := range list {
			if e.From.Day() == day {
				_, err := b.LogUse(ctx, Pressed{ID: newID(), MachineID: id, Kind: kind, Count: count, At: e.To,
					Supersedes: e.ID})
				b.must(err)
				return
			}
		}
		t.Fatalf("no entry of the %d", day)
	}
	const three = "2026-03-01,7\n2026-03-02,8\n2026-03-03,9\n"
	if sum := take(three); sum.New != 3 {
		t.Fatalf("%+v", sum)
	}
	change(1, use.Undo, 1)
	change(2, use.Double, 5)
	if sum := take(three); sum.New != 0 || sum.Changed != 0 || sum.Same != 1 || sum.ByHand != 2 {
		t.Errorf("the same again: %d new, %d changed, %d same, %d by hand", sum.New, sum.Changed, sum.Same, sum.ByHand)
	}
	sum := take("2026-03-01,8\n2026-03-02,9\n2026-03-03,10\n")
	if sum.New != 0 || sum.Changed != 1 || sum.Same != 0 || sum.ByHand != 2 {
		t.Errorf("all differ: %d new, %d changed, %d same, %d by hand", sum.New, sum.Changed, sum.Same, sum.ByHand)
	}
	for _, count := range []string{"9", "10"} { // there and back
		if sum := take("2026-03-03," + count + "\n"); sum.Changed != 1 {
			t.Errorf("%s drinks: %d changed", count, sum.Changed)
		}
	}
	var drinks float64
	days, err := b.store.Days(ctx, id, time.UnixMilli(0))
	b.must(err)
	for _, d := range days {
		drinks += d.Shots()
	}
	if drinks != 15 { // five by hand and ten by the file
		t.Errorf("%v drinks stand, want 15", drinks)
	}
}

// A stage that a server left when it was killed goes with the next one, one that is in use stays.
func TestStagesOfTheDeadGo(t *testing.T) {
	b := newBench(t)
	id := b.add(4, 14)
	files := map[string]time.Duration{"stage-1.db": 48 * time.Hour, "stage-2.db": time.Hour, "other.db": 48 * time.Hour}
	for name, age := range files {
		file := filepath.Join(filepath.Dir(b.file), name)
		b.must(os.WriteFile(file, nil, 0o600))
		then := time.Now().Add(-age)
		b.must(os.Chtimes(file, then, then))
	}
	_, err := b.ImportUse(ctx, id, "date,drinks\n2026-03-01,7\n", false)
	b.must(err)
	for name := range files {
		_, err := os.Stat(filepath.Join(filepath.Dir(b.file), name))
		if gone := errors.Is(err, os.ErrNotExist); gone != (name == "stage-1.db") {
			t.Errorf("%s is gone: %v", name, gone)
		}
	}
}
