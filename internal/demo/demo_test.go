package demo

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"reflect"
	"testing"
	"time"

	"freshanvil/core/care"
	"freshanvil/internal/app"
)

// The demo has one machine that is overdue and one without the valve, and is
// the same at every start.
func TestDemoIsBelievableAndTheSameAtEveryStart(t *testing.T) {
	ctx := context.Background()
	now := time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC)
	fill := func() ([]app.Machine, map[string]care.History, []app.Entry) {
		file := filepath.Join(t.TempDir(), "demo.db")
		if err := Ready(ctx, file, now, false); err != nil {
			t.Fatal(err)
		}
		a, err := app.Open(ctx, file, func() time.Time { return now })
		if err != nil {
			t.Fatal(err)
		}
		defer a.Close()
		list, err := a.Machines(ctx, false)
		if err != nil {
			t.Fatal(err)
		}
		h := map[string]care.History{}
		for _, m := range list {
			if h[m.ID], err = a.History(ctx, m, now); err != nil {
				t.Fatal(err)
			}
		}
		log, err := a.Log(ctx, "", false, 100)
		if err != nil {
			t.Fatal(err)
		}
		return list, h, log
	}
	list, histories, log := fill()
	states := map[care.State]int{}
	valves := map[bool]int{}
	for _, m := range list {
		due := care.AllDue(m.Answers, histories[m.ID], now, m.Zone)[0]
		states[due.State]++
		valves[m.Answers.Facts().Valve.Vents()]++
	}
	if len(list) != 5 || states[care.Overdue] != 1 || valves[false] != 1 || len(log) < 40 {
		t.Errorf("%d machines, states %v, with valve %v, %d log entries", len(list), states, valves, len(log))
	}
	// its waters: one very hard, one soft, a filter near its end, a bare membrane that may corrode
	for _, m := range list {
		h := histories[m.ID]
		d, err := care.DescalingOf(m.Answers, h, now, m.Zone)
		if err != nil {
			t.Fatal(err)
		}
		filter, any, err := care.Renewing(m.Answers, h, now, m.Zone)
		if err != nil {
			t.Fatal(err)
		}
		raw := d.Effect.Hardness.Likely
		if r := h.Waters[len(h.Waters)-1].Raw; r != nil {
			raw = r.Hardness.Likely
		}
		left := filter.Days.Value
		switch m.Name {
		case "Ferry tea deck":
			if raw < 300 {
				t.Errorf("the ferry's water is of %v mg/L", raw)
			}
		case "Potter's studio":
			if raw > 60 {
				t.Errorf("the potter's water is of %v mg/L", raw)
			}
		case "Observatory kitchen":
			if !any || left > 10 || left < 1 {
				t.Errorf("the observatory's filter lasts %v days", left)
			}
		case "Corner shop":
			if d.Effect.Corrosion.Verdict != "look" {
				t.Errorf("the shop's water: %+v", d.Effect.Corrosion)
			}
		}
		if d.Due.State != care.Later || any && filter.State != care.Later {
			t.Errorf("%s: descale %s, filter %s", m.Name, d.Due.State, filter.State)
		}
	}
	list2, histories2, log2 := fill()
	if !reflect.DeepEqual(list, list2) || !reflect.DeepEqual(histories, histories2) || !reflect.DeepEqual(log, log2) {
		t.Error("the demo differs from start to start")
	}
}

// What was tried on a demo is there again where it is kept, and gone where it is made anew.
func TestKept(t *testing.T) {
	ctx := t.Context()
	file := filepath.Join(t.TempDir(), "demo.db")
	now := time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC)
	with := func(keep bool) *app.App {
		t.Helper()
		if err := Ready(ctx, file, now, keep); err != nil {
			t.Fatal(err)
		}
		a, err := app.Open(ctx, file, func() time.Time { return now })
		if err != nil {
			t.Fatal(err)
		}
		return a
	}
	a := with(true) // there is none yet: it is made
	if err := errors.Join(a.SetMeta(ctx, "tried", "yes"), a.Close()); err != nil {
		t.Fatal(err)
	}
	for _, keep := range []bool{true, false} {
		a := with(keep)
		tried, err := a.Meta(ctx, "tried")
		list, err2 := a.Machines(ctx, false)
		if err := errors.Join(err, err2, a.Close()); err != nil {
			t.Fatal(err)
		}
		if (tried == "yes") != keep || len(list) != 5 {
			t.Errorf("keep %v: tried %q, %d machines", keep, tried, len(list))
		}
	}
}

func TestRefusesWhatTheDemoDidNotMake(t *testing.T) {
	ctx := t.Context()
	now := time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC)
	for _, keep := range []bool{false, true} {
		file := filepath.Join(t.TempDir(), "mine.db")
		db, err := app.Open(ctx, file, time.Now)
		if err != nil {
			t.Fatal(err)
		}
		if err := errors.Join(db.SetMeta(ctx, "said", "mine"), db.Close()); err != nil {
			t.Fatal(err)
		}
		if Ready(ctx, file, now, keep) == nil {
			t.Error("a database of somebody's own was taken for a demo")
		}
		if db, err = app.Open(ctx, file, time.Now); err != nil {
			t.Fatal(err)
		}
		said, err := db.Meta(ctx, "said")
		if err := errors.Join(err, db.Close()); err != nil || said != "mine" {
			t.Errorf("%q, %v", said, err)
		}
		text := filepath.Join(t.TempDir(), "notes.txt")
		if err := os.WriteFile(text, []byte("not a database at all, but words"), 0o600); err != nil {
			t.Fatal(err)
		}
		if Ready(ctx, text, now, keep) == nil {
			t.Error("a text file was taken for a demo")
		}
		if got, _ := os.ReadFile(text); string(got) != "not a database at all, but words" {
			t.Errorf("the text file now says %q", got)
		}
	}
}
