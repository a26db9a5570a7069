package store

import (
	"context"
	"database/sql"
	"errors"
	"path/filepath"
	"reflect"
	"testing"
	"time"

	"github.com/google/uuid"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/run"
	"freshanvil/core/units"
)

var (
	ctx = context.Background()
	now = time.Date(2026, 3, 10, 7, 0, 0, 0, time.UTC)
)

func open(t *testing.T, file string) *Store {
	t.Helper()
	s, err := Open(ctx, file, now)
	if err != nil {
		t.Fatal(err)
	}
	return s
}

func fresh(t *testing.T) (*Store, Machine) {
	t.Helper()
	s := open(t, filepath.Join(t.TempDir(), "test.db"))
	t.Cleanup(func() { _ = s.Close() })
	zone, err := time.LoadLocation("Europe/Lisbon")
	if err != nil {
		t.Fatal(err)
	}
	m := Machine{ID: uuid.NewString(), Name: "Tea deck", Zone: zone,
		Answers: machine.Answers{
			Layout:     machine.DualHome,
			Valve:      machine.Yes,
			Drinks:     4,
			MilkDrinks: 2,
			Treatment:  machine.Untreated,
		},
		Hardness: HardnessAnswer{Known: true, Value: 14, Unit: units.GermanDegree}}
	if err := s.AddMachine(ctx, m, now); err != nil {
		t.Fatal(err)
	}
	m, err = s.Machine(ctx, m.ID)
	if err != nil {
		t.Fatal(err)
	}
	return s, m
}

func TestMachineComesBackAsKept(t *testing.T) {
	s, m := fresh(t)
	if m.Name != "Tea deck" || m.Zone.String() != "Europe/Lisbon" || m.Hardness.Value != 14 ||
		!m.Answers.Hardness.Known ||
		!m.LoggedSince.IsZero() {
		t.Errorf("%+v", m)
	}
	again := m
	again.Name = "Other"
	if err := s.AddMachine(ctx, again, now); err != nil {
		t.Fatal(err)
	}
	if have, _ := s.Machine(ctx, m.ID); have.Name != "Tea deck" {
		t.Error("adding the same id again changed the machine")
	}
	a := m.Answers
	a.Drinks = 9
	if err := s.ChangeAnswers(ctx, m.ID, a, HardnessAnswer{}, now.Add(time.Hour)); err != nil {
		t.Fatal(err)
	}
	have, err := s.Machine(ctx, m.ID)
	if err != nil || have.Answers.Drinks != 9 || have.Answers.Hardness.Known {
		t.Errorf("%+v, %v", have, err)
	}
	if _, err := s.Machine(ctx, uuid.NewString()); !errors.Is(err, ErrNotFound) {
		t.Errorf("a machine that is not there: %v", err)
	}
}

func press(kind care.UseKind, at time.Time) care.UseEvent {
	return care.UseEvent{ID: uuid.NewString(), Kind: kind, Count: 1, From: at, To: at}
}

// The history holds use since the oldest of the newest completions, and none
// that was taken back.
func TestHistoryReadsNoOlderUse(t *testing.T) {
	s, m := fresh(t)
	day := func(n int) time.Time { return now.AddDate(0, 0, n) }
	old, kept, taken := press(care.Double, day(-20)), press(care.Milk, day(-5)), press(care.Single, day(-4))
	for _, e := range []care.UseEvent{old, kept, taken, press(care.Flush, day(-3)), press(care.RunWater, day(-3))} {
		if err := s.AddUse(ctx, m.ID, "test", "", e); err != nil {
			t.Fatal(err)
		}
	}
	if err := s.AddUse(ctx, m.ID, "test", taken.ID, press(Undo, day(-4))); err != nil {
		t.Fatal(err)
	}
	for _, at := range []int{-30, -10} {
		if err := s.AddCare(ctx, uuid.NewString(), m.ID, care.Wash, machine.Group(1), day(at)); err != nil {
			t.Fatal(err)
		}
	}
	m, err := s.Machine(ctx, m.ID)
	if err != nil {
		t.Fatal(err)
	}
	all, err := s.Histories(ctx, []Machine{m}, now)
	if err != nil {
		t.Fatal(err)
	}
	h := all[m.ID]
	if len(h.Events) != 3 || h.Events[0].ID != kept.ID || len(h.Done) != 1 || !h.Done[0].At.Equal(day(-10)) ||
		!h.LoggedSince.Equal(day(-20)) {
		t.Errorf("%+v", h)
	}
	if err := s.AddUse(ctx, m.ID, "test", taken.ID, press(Undo, day(-4))); !errors.Is(err, ErrConflict) {
		t.Errorf("taken back twice: %v", err)
	}
	other := Machine{ID: uuid.NewString(), Name: "Other", Zone: time.UTC, Answers: m.Answers}
	if err := s.AddMachine(ctx, other, now); err != nil {
		t.Fatal(err)
	}
	if err := s.AddUse(ctx, other.ID, "test", kept.ID, press(Undo, now)); !errors.Is(err, ErrNotFound) {
		t.Errorf("another machine's entry taken back: %v", err)
	}
	if all, _ := s.Histories(ctx, []Machine{m, other}, now); len(all[other.ID].Events) != 0 ||
		len(all[m.ID].Events) != 3 {
		t.Error("the machines' histories are mixed")
	}
}

// What the store gives back after a restart is what the fold gave before.
func TestRunSurvivesARestart(t *testing.T) {
	file := filepath.Join(t.TempDir(), "test.db")
	s := open(t, file)
	m := Machine{
		ID:   uuid.NewString(),
		Name: "Tea deck",
		Zone: time.UTC,
		Answers: machine.Answers{
			Layout:    machine.SingleBoiler,
			Valve:     machine.Yes,
			Drinks:    4,
			Treatment: machine.Untreated,
		},
	}
	if err := s.AddMachine(ctx, m, now); err != nil {
		t.Fatal(err)
	}
	plan, err := job.Wash(m.Answers, backflush.HalfTeaspoon, backflush.UsualPowder, job.Target{Group: 1})
	if err != nil {
		t.Fatal(err)
	}
	r := Run{ID: uuid.NewString(), Machines: []string{m.ID}, Device: "phone", Speed: 1, Plan: plan, Started: now}
	if err := s.StartRun(ctx, r); err != nil {
		t.Fatal(err)
	}
	second := r
	second.ID = uuid.NewString()
	if err := s.StartRun(ctx, second); !errors.Is(err, ErrConflict) {
		t.Errorf("a second run on the machine: %v", err)
	}
	at := now
	for _, step := range []struct {
		id   string
		kind run.PressKind
	}{{"ready", run.Done}, {"brush", run.Done}, {"water", run.Begin}, {"dose", run.Done},
		{"detergent", run.Begin}} {
		if step.id == "dose" { // the pulses of water are over
			at = at.Add(time.Minute)
		}
		at = at.Add(1500 * time.Microsecond) // finer than what is stored
		if r, err = s.Accept(ctx, r.ID, run.Press{ID: uuid.NewString(), Step: step.id, Kind: step.kind, At: at},
			at); err != nil {
			t.Fatal(err)
		}
	}
	look := at.Add(23 * time.Second)
	want := r.At(look)
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	s = open(t, file)
	defer s.Close()
	have, err := s.Run(ctx, r.ID)
	if err != nil {
		t.Fatal(err)
	}
	if got := have.At(look); !reflect.DeepEqual(got, want) || got.Segment.Kind != run.On || got.Segment.Pulse != 2 {
		t.Errorf("after the restart:\n%+v\nbefore:\n%+v", got, want)
	}
	hazards, err := s.Hazards(ctx)
	if err != nil || len(hazards) != 1 || hazards[0].RunID != r.ID {
		t.Errorf("hazards %+v, %v", hazards, err)
	}
	if open, err := s.OpenRuns(ctx); err != nil || len(open) != 1 {
		t.Errorf("open runs %v, %v", open, err)
	}
}

func TestMetaAndReady(t *testing.T) {
	s, _ := fresh(t)
	if v, err := s.Meta(ctx, "made_by"); v != "" || err != nil {
		t.Errorf("%q, %v", v, err)
	}
	for _, v := range []string{"a", "b"} {
		if err := s.SetMeta(ctx, "made_by", v); err != nil {
			t.Fatal(err)
		}
	}
	if v, _ := s.Meta(ctx, "made_by"); v != "b" {
		t.Errorf("%q", v)
	}
	if err := s.Ready(ctx); err != nil {
		t.Error(err)
	}
}

// A database that another program made is refused and stays as it is.
func TestForeignDatabaseIsLeftAlone(t *testing.T) {
	file := filepath.Join(t.TempDir(), "other.db")
	other, err := sql.Open("sqlite3", file)
	if err != nil {
		t.Fatal(err)
	}
	defer other.Close()
	if _, err := other.Exec("CREATE TABLE songs (title TEXT)"); err != nil {
		t.Fatal(err)
	}
	if s, err := Open(ctx, file, now); !errors.Is(err, ErrForeign) {
		t.Errorf("opened %v, %v", s, err)
	}
	var tables int
	if err := other.QueryRow("SELECT COUNT(*) FROM sqlite_schema").Scan(&tables); err != nil || tables != 1 {
		t.Errorf("%d tables now, %v", tables, err)
	}
}
