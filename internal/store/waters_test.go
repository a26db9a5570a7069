package store

import (
	"errors"
	"math"
	"testing"
	"time"

	"github.com/google/uuid"

	"freshanvil/core/care"
	"freshanvil/core/machine"
	"freshanvil/core/treat"
	"freshanvil/core/units"
	"freshanvil/core/water"
)

// What is counted up once and kept gives the same scale as all events together,
// whatever is logged, back-dated or taken back afterwards; a new reading and
// another treatment count from their day on.
func TestSettledUseIsTheWholeUse(t *testing.T) {
	s, m := fresh(t)
	id := func() string { return uuid.NewString() }
	day := func(n int) time.Time { return now.AddDate(0, 0, -n) }
	source := id()
	if err := s.AddSource(ctx, source, "Harbour main", now); err != nil {
		t.Fatal(err)
	}
	read := func(n int, hardness float64) string {
		r := Reading{ID: id(), Taken: day(n), How: "strip", Sample: water.Sample{Hardness: units.Sharp(hardness)}}
		if err := s.AddReadings(ctx, source, now, r); err != nil {
			t.Fatal(err)
		}
		return r.ID
	}
	read(300, 260)
	if err := s.Draw(ctx, m.ID,
		Draws{ID: id(), SourceID: source, From: day(200), Treatment: treat.Usual(machine.Untreated)}); err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		task care.Task
		ago  int
	}{{care.Descale, 90}, {care.Wash, 10}} {
		if err := s.AddCare(ctx, id(), m.ID, c.task, machine.Group(1), day(c.ago)); err != nil {
			t.Fatal(err)
		}
	}
	add := func(n int, kind care.UseKind, count float64) string {
		e := care.UseEvent{ID: id(), Kind: kind, Count: count, From: day(n).Add(time.Hour), To: day(n).Add(time.Hour)}
		if err := s.AddUse(ctx, m.ID, "test", "", e); err != nil {
			t.Fatal(err)
		}
		return e.ID
	}
	for n := 100; n > 0; n-- {
		add(n, care.Double, 3)
		add(n, care.Milk, 1)
	}
	lies := func(what string) float64 {
		t.Helper()
		all, err := s.Histories(ctx, []Machine{m}, now)
		if err != nil {
			t.Fatal(err)
		}
		h := all[m.ID]
		d, err := care.DescalingOf(m.Answers, h, now, m.Zone)
		if err != nil {
			t.Fatal(err)
		}
		whole := h
		whole.Settled, whole.Since = nil, time.Time{}
		if whole.Events, err = s.usedSince(ctx, m.ID, day(400)); err != nil {
			t.Fatal(err)
		}
		want, err := care.DescalingOf(m.Answers, whole, now, m.Zone)
		if err != nil {
			t.Fatal(err)
		}
		if len(h.Settled) == 0 || len(h.Events) >= len(whole.Events) {
			t.Errorf("%s: nothing is settled: %d events of %d read", what, len(h.Events), len(whole.Events))
		}
		got := d.Places[0].Lies.Likely
		if math.Abs(got-want.Places[0].Lies.Likely) > 1e-6 || math.Abs(d.Through.All()-want.Through.All()) > 1e-9 {
			t.Errorf(
				"%s: %v mg lie there, of all events %v; %v L, %v",
				what,
				got,
				want.Places[0].Lies.Likely,
				d.Through.All(),
				want.Through.All(),
			)
		}
		return got
	}
	first := lies("at first")
	if again := lies("read again"); again != first {
		t.Errorf("read again it is %v, was %v", again, first)
	}
	back := add(50, care.Double, 40)
	more := lies("back-dated")
	if more <= first {
		t.Errorf("forty drinks more leave %v, before %v", more, first)
	}
	if err := s.AddUse(ctx, m.ID, "test", back, care.UseEvent{ID: id(), Kind: Undo, From: now, To: now}); err != nil {
		t.Fatal(err)
	}
	if got := lies("taken back"); math.Abs(got-first) > 1e-6 {
		t.Errorf("taken back: %v, was %v", got, first)
	}
	soft := read(40, 80)
	softer := lies("a softer reading")
	if softer >= first {
		t.Errorf("softer for forty days: %v, was %v", softer, first)
	}
	if err := s.TakeBack(ctx, soft, now); err != nil {
		t.Fatal(err)
	}
	if got := lies("the reading taken back"); math.Abs(got-first) > 1e-6 {
		t.Errorf("%v, was %v", got, first)
	}
	if err := s.Draw(ctx, m.ID,
		Draws{ID: id(), SourceID: source, From: day(30), Treatment: treat.Usual(machine.Softener)}); err != nil {
		t.Fatal(err)
	}
	if err := s.AddCare(ctx, id(), m.ID, care.Regenerate, machine.Part{}, day(2)); err != nil {
		t.Fatal(err)
	}
	if got := lies("softened"); got >= first {
		t.Errorf("softened for thirty days: %v, was %v", got, first)
	}
	if err := s.TakeBack(ctx, soft, now); !errors.Is(err, ErrNotFound) {
		t.Errorf("taken back twice: %v", err)
	}
	if err := s.Draw(ctx, m.ID,
		Draws{ID: id(), SourceID: id(), From: now, Treatment: treat.Usual(machine.Jug)}); !errors.Is(
		err,
		ErrNotFound,
	) {
		t.Errorf("a source that is not there: %v", err)
	}
	if err := s.AddReadings(ctx, id(), now, Reading{ID: id(), Taken: now}); !errors.Is(err, ErrNotFound) {
		t.Errorf("a reading of no source: %v", err)
	}
	own := treat.Usual(machine.Jug)
	own.Price = 11
	if err := s.SayTreatment(ctx, own); err != nil {
		t.Fatal(err)
	}
	if list, err := s.Treatments(ctx); err != nil || len(list) != 7 || list[1] != own ||
		list[2] != treat.Usual(machine.InTank) {
		t.Errorf("%+v, %v", list, err)
	}
}
