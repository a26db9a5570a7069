package store

import (
	"context"
	"database/sql"
	"errors"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"reflect"
	"slices"
	"testing"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"

	"freshanvil/core/backflush"
	"freshanvil/core/inspect"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/run"
	"freshanvil/core/units"
	"freshanvil/core/use"
)

var (
	ctx = context.Background()
	now = time.Date(2026, 3, 10, 7, 0, 0, 0, time.UTC)
)

// open opens a store whose every statement may write: these tests are of the rows, not of the gate.
func open(t *testing.T, file string) *Store {
	t.Helper()
	s, err := Open(ctx, file)
	if err != nil {
		t.Fatal(err)
	}
	return &Store{s.writer, s.shared}
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
	if err := s.AddMachine(ctx, m, now); !errors.Is(err, ErrConflict) {
		t.Errorf("the same id again: %v", err)
	}
	later := Said{From: now.Add(time.Hour), Answers: m.Answers}
	later.Answers.Drinks = 9
	if err := s.Say(ctx, m.ID, later.From, []Said{later}, now.Add(time.Hour)); err != nil {
		t.Fatal(err)
	}
	have, err := s.Machine(ctx, m.ID)
	if err != nil || have.Answers.Drinks != 9 || have.Answers.Hardness.Known || have.Version != 2 {
		t.Errorf("%+v, %v", have, err)
	}
	line, err := s.Timeline(ctx, m.ID)
	if err != nil || len(line) != 2 || line[0].Answers.Drinks != 4 || !line[1].From.Equal(later.From) {
		t.Errorf("%+v, %v", line, err)
	}
	if then, err := s.SaidAt(ctx, m.ID, 1); err != nil || then.Answers.Drinks != 4 {
		t.Errorf("as of the first version: %+v, %v", then, err)
	}
	if _, err := s.Machine(ctx, uuid.NewString()); !errors.Is(err, ErrNotFound) {
		t.Errorf("a machine that is not there: %v", err)
	}
}

func press(kind use.Kind, at time.Time) Used {
	return Used{Event: use.Event{ID: uuid.NewString(), Kind: kind, Count: 1, From: at, To: at}, Source: "test"}
}

// log keeps entries of the ledger, all or none.
func (s *Store) log(m Machine, list ...Used) error {
	return s.Write(ctx, func(tx *Store) error { _, err := tx.AddUse(ctx, m, now, list...); return err })
}

// What is taken back counts no more, once; an entry of another machine, or an id that is in use, is
// refused.
func TestLedger(t *testing.T) {
	s, m := fresh(t)
	day := func(n int) time.Time { return now.AddDate(0, 0, n) }
	kept, taken := press(use.Milk, day(-5)), press(use.Single, day(-4))
	add := func(list ...Used) {
		t.Helper()
		if err := s.log(m, list...); err != nil {
			t.Fatal(err)
		}
	}
	add(kept, taken, press(use.Flush, day(-3)), press(use.RunWater, day(-3)))
	undo := press(use.Undo, day(-4))
	undo.Supersedes = taken.ID
	add(undo)
	list, err := s.EventsOf(ctx, m, day(-30), nil)
	if err != nil || len(list) != 3 || list[0].ID != kept.ID {
		t.Errorf("%+v, %v", list, err)
	}
	if m, err = s.Machine(ctx, m.ID); err != nil || !m.LoggedSince.Equal(day(-5)) {
		t.Errorf("logged since %v, %v", m.LoggedSince, err)
	}
	other := Machine{ID: uuid.NewString(), Name: "Other", Zone: time.UTC, Answers: m.Answers}
	if err := s.AddMachine(ctx, other, now); err != nil {
		t.Fatal(err)
	}
	undo.ID = uuid.NewString()
	for name, c := range map[string]struct {
		of   Machine
		u    Used
		want error
	}{
		"taken back twice":        {m, undo, ErrConflict},
		"another machine's entry": {other, func() Used { u := undo; u.Supersedes = kept.ID; return u }(), ErrNotFound},
		"an id that is in use":    {m, kept, ErrOther},
	} {
		t.Run(name, func(t *testing.T) {
			if err := s.log(c.of, c.u); !errors.Is(err, c.want) {
				t.Errorf("%v, want %v", err, c.want)
			}
		})
	}
}

// Use by the day is counted up with the entries: however they come, by presses, spans over them,
// corrections and undo, it is what counting all of them up anew gives.
func TestDaysFollowTheLedger(t *testing.T) {
	kinds := []use.Kind{use.Single, use.Double, use.Milk, use.Flush, use.RunWater}
	for seed := range uint64(12) {
		s, m := fresh(t)
		r := rand.New(rand.NewPCG(seed, 9))
		var standing []Used
		for range 80 {
			at := now.Add(-time.Duration(r.IntN(40*24*60)) * time.Minute)
			u := press(kinds[r.IntN(len(kinds))], at)
			u.Count = float64(1 + r.IntN(4))
			if r.IntN(3) == 0 {
				u.Part = machine.Group(1)
			}
			switch {
			case r.IntN(5) == 0:
				u.From = at.Add(-time.Duration(r.IntN(9*24)) * time.Hour)
			case r.IntN(4) == 0 && len(standing) > 0:
				i := r.IntN(len(standing))
				u.Supersedes = standing[i].ID
				u.From, u.To = standing[i].From, standing[i].To
				if standing = slices.Delete(standing, i, i+1); r.IntN(2) == 0 {
					u.Kind = use.Undo
				}
			}
			if err := s.log(m, u); err != nil {
				t.Fatal(err)
			}
			if u.Kind != use.Undo {
				standing = append(standing, u)
			}
		}
		kept, err := s.Days(ctx, m.ID, time.UnixMilli(0))
		if err != nil {
			t.Fatal(err)
		}
		if err := s.Recount(ctx, m); err != nil {
			t.Fatal(err)
		}
		anew, err := s.Days(ctx, m.ID, time.UnixMilli(0))
		if err != nil {
			t.Fatal(err)
		}
		if !sameDays(kept, anew) {
			t.Fatalf("seed %d: kept %d days, anew %d\n%+v\n%+v", seed, len(kept), len(anew), kept, anew)
		}
	}
}

// sameDays compares them, empty ones left out.
func sameDays(a, b []use.DayUse) bool {
	full := func(list []use.DayUse) []use.DayUse {
		return slices.DeleteFunc(slices.Clone(list), func(d use.DayUse) bool { return d.Counts == use.Counts{} })
	}
	return slices.EqualFunc(full(a), full(b), func(x, y use.DayUse) bool {
		near := func(v, w float64) bool { return math.Abs(v-w) < 1e-9 }
		return x.Start.Equal(y.Start) && x.Part == y.Part && near(x.Single, y.Single) && near(x.Double, y.Double) &&
			near(x.Milk, y.Milk) && near(x.Flush, y.Flush) && near(x.Water, y.Water)
	})
}

// An id belongs to one request.
func TestClaim(t *testing.T) {
	s, m := fresh(t)
	id := uuid.NewString()
	if again, err := s.Claim(ctx, id, "care", "wash", now); again || err != nil {
		t.Errorf("the first: %v, %v", again, err)
	}
	if again, err := s.Claim(ctx, id, "care", "wash", now); !again || err != nil {
		t.Errorf("the same again: %v, %v", again, err)
	}
	for _, c := range [][2]string{{"care", "descale"}, {"note", "wash"}} {
		if _, err := s.Claim(ctx, id, c[0], c[1], now); !errors.Is(err, ErrOther) {
			t.Errorf("%v: %v", c, err)
		}
	}
	u := press(use.Double, now)
	if err := s.log(m, u); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Claim(ctx, u.ID, "care", "wash", now); !errors.Is(err, ErrOther) {
		t.Errorf("the id of a drink: %v", err)
	}
	err := s.Write(ctx, func(tx *Store) error { _, err := tx.Guard(ctx, m.ID, id, now); return err })
	if !errors.Is(err, ErrOther) {
		t.Errorf("a drink under the id of a record: %v", err)
	}
}

// A database of a newer version is left as it is.
func TestNewerDatabaseIsLeftAlone(t *testing.T) {
	file := filepath.Join(t.TempDir(), "bench.db")
	s := open(t, file)
	if err := s.db.Exec("INSERT INTO goose_db_version (version_id, is_applied) VALUES (99, 1)").Error; err != nil {
		t.Fatal(err)
	}
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	before, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := Open(ctx, file); !errors.Is(err, ErrNewer) {
		t.Errorf("opened: %v", err)
	}
	if after, err := os.ReadFile(file); err != nil || !slices.Equal(before, after) {
		t.Errorf("it was written, %v", err)
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
		p := run.Press{ID: uuid.NewString(), Step: step.id, Kind: step.kind, At: at.Truncate(time.Millisecond)}
		if r, err = s.AddPress(ctx, r, p, at, at); err != nil {
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
	if s, err := Open(ctx, file); !errors.Is(err, ErrForeign) {
		t.Errorf("opened %v, %v", s, err)
	}
	var tables int
	if err := other.QueryRow("SELECT COUNT(*) FROM sqlite_schema").Scan(&tables); err != nil || tables != 1 {
		t.Errorf("%d tables now, %v", tables, err)
	}
}

// counted counts statements.
type counted struct {
	logger.Interface
	n int
}

func (c *counted) Trace(context.Context, time.Time, func() (string, int64), error) { c.n++ }

// A drink takes six statements, begin and commit counted.
func TestADrinkTakesSixStatements(t *testing.T) {
	s, m := fresh(t)
	c := &counted{Interface: logger.Discard}
	s.writer = s.writer.Session(&gorm.Session{Logger: c})
	u := press(use.Double, now)
	s.hot.asked.Store(0)
	err := s.Write(ctx, func(tx *Store) error {
		g, err := tx.Guard(ctx, m.ID, u.ID, now)
		if err != nil {
			return err
		}
		drinks, err := tx.AddUse(ctx, g.Machine, now, u)
		if drinks != 1 {
			t.Errorf("%v drinks today", drinks)
		}
		return err
	})
	if n := c.n + int(s.hot.asked.Load()); err != nil || n != 4 {
		t.Errorf("%d statements between begin and commit, want 4; %v", n, err)
	}
}

// Of two looks at one thing at the same instant the one that was kept last is the last one, whatever their ids: what
// stopped a machine does not come back after somebody signed for it.
func TestTheLastLookIsTheOneKeptLast(t *testing.T) {
	s, m := fresh(t)
	var last string
	for n := range 12 {
		look := Look{ID: uuid.NewString(), MachineID: m.ID, Found: inspect.Found{Sight: inspect.Relief, Verdict: "blows",
			At: now}}
		if n%2 == 1 {
			look.Verdict = "dry"
		}
		last = look.ID
		if err := s.AddLook(ctx, look); err != nil {
			t.Fatal(err)
		}
	}
	list, err := s.LooksAt(ctx, m.ID, inspect.Relief, machine.Part{}, 1)
	if err != nil || len(list) != 1 || list[0].ID != last || list[0].At.Sub(now) > time.Second {
		t.Errorf("%+v, %v, want %s", list, err, last)
	}
}
