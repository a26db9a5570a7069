package store

import (
	"context"
	"errors"
	"fmt"
	"path/filepath"
	"testing"
	"time"

	"github.com/google/uuid"

	"freshanvil/core/machine"
	"freshanvil/core/use"
)

// Whatever stops a file while it is taken over keeps none of it, and stands in the way of nothing that comes after.
func TestAStoppedFileKeepsNothing(t *testing.T) {
	s, m := fresh(t)
	take := func(ctx context.Context, meanwhile func()) error {
		stage, err := NewUseStage(t.Context(), t.TempDir())
		if err != nil {
			t.Fatal(err)
		}
		defer func() { _ = stage.Close() }()
		for n := range 5_000 {
			at := now.Add(time.Duration(n-5_000) * time.Hour)
			u := Used{Source: "import", Event: use.Event{ID: uuid.NewString(), Kind: use.Double, Count: 2, From: at, To: at}}
			if err := stage.Add(t.Context(), u); err != nil {
				t.Fatal(err)
			}
		}
		return s.WriteFrom(ctx, stage, func(tx *Store) error {
			meanwhile()
			return tx.TakeUse(ctx, m, now, stage)
		})
	}
	kept := func() (entries, days int64) {
		for model, n := range map[any]*int64{&useRow{}: &entries, &dayRow{}: &days} {
			if err := s.db.Model(model).Count(n).Error; err != nil {
				t.Fatal(err)
			}
		}
		return entries, days
	}
	pragma := func(what string) (n int) {
		if err := s.writer.Raw("PRAGMA " + what).Scan(&n).Error; err != nil {
			t.Fatal(err)
		}
		return n
	}
	leaving, leave := context.WithCancel(ctx)
	pages := pragma("page_count")
	for _, c := range []struct {
		name              string
		ctx               context.Context
		before, meanwhile func()
		stopped           func(error) bool
	}{
		{"the disk is full", ctx, func() { pragma(fmt.Sprintf("main.max_page_count = %d", pages+40)) }, func() {},
			func(err error) bool { return DiskOf(err) == DiskFull }},
		{"the client leaves", leaving, func() {}, leave, func(err error) bool { return errors.Is(err, context.Canceled) }},
	} {
		t.Run(c.name, func(t *testing.T) {
			c.before()
			if err := take(c.ctx, c.meanwhile); !c.stopped(err) {
				t.Error(err)
			}
			if entries, days := kept(); entries+days > 0 {
				t.Errorf("%d entries and %d days are kept", entries, days)
			}
			pragma("main.max_page_count = 1000000")
		})
	}
	if err := take(ctx, func() {}); err != nil {
		t.Fatal(err)
	}
	if entries, days := kept(); entries != 5_000 || days < 208 {
		t.Errorf("%d entries, %d days", entries, days)
	}
}

// BenchmarkTakeUse: how long nobody else writes while a file of a hundred thousand entries is taken over, beside the
// same entries appended one by one.
func BenchmarkTakeUse(b *testing.B) {
	const entries = 100_000
	list := make([]Used, entries)
	for n := range list {
		at := now.Add(time.Duration(n-entries) * time.Hour)
		list[n] = Used{Source: "import", Event: use.Event{ID: uuid.NewString(), Kind: use.Double, Count: 2, From: at, To: at,
			Part: machine.Part{}}}
	}
	timed := func(into func(*Store, Machine) error) time.Duration {
		s, err := Open(ctx, filepath.Join(b.TempDir(), "test.db"))
		if err != nil {
			b.Fatal(err)
		}
		defer func() { _ = s.Close() }()
		m := Machine{ID: uuid.NewString(), Name: "Tea deck", Zone: time.UTC,
			Answers: machine.Answers{Layout: machine.DualHome, Valve: machine.Yes, Drinks: 4}}
		if err := s.Write(ctx, func(tx *Store) error { return tx.AddMachine(ctx, m, now) }); err != nil {
			b.Fatal(err)
		}
		began := time.Now()
		if err := into(s, m); err != nil {
			b.Fatal(err)
		}
		return time.Since(began)
	}
	for b.Loop() {
		single := timed(func(s *Store, m Machine) error {
			return s.Write(ctx, func(tx *Store) error { _, err := tx.AddUse(ctx, m, now, list...); return err })
		})
		var held time.Duration
		whole := timed(func(s *Store, m Machine) error {
			stage, err := NewUseStage(ctx, b.TempDir())
			if err != nil {
				return err
			}
			defer func() { _ = stage.Close() }()
			if err := stage.Add(ctx, list...); err != nil {
				return err
			}
			began := time.Now()
			err = s.WriteFrom(ctx, stage, func(tx *Store) error { return tx.TakeUse(ctx, m, now, stage) })
			held = time.Since(began)
			return err
		})
		b.ReportMetric(held.Seconds()*1e3, "ms_held")
		b.ReportMetric(held.Seconds()/single.Seconds(), "x_held_of_one_by_one")
		b.ReportMetric(whole.Seconds()/single.Seconds(), "x_whole_of_one_by_one")
	}
}
