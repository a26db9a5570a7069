package app

import (
	"context"
	"database/sql"
	"errors"
	"path/filepath"
	"testing"
	"time"

	"github.com/google/uuid"

	"freshanvil/core/machine"
	"freshanvil/core/task"
	"freshanvil/core/units"
	"freshanvil/core/use"
	"freshanvil/internal/store"
)

var (
	ctx = context.Background()
	now = time.Date(2026, 3, 10, 7, 0, 0, 0, time.UTC)
)

func newID() string { return uuid.Must(uuid.NewV7()).String() }

// open opens a database as the application does, at the test's own instant.
func open(t testing.TB, file string) *App {
	t.Helper()
	a, err := Open(ctx, file, func() time.Time { return now })
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = a.Close() })
	return a
}

func shut(t testing.TB, a *App) {
	t.Helper()
	if err := a.Close(); err != nil {
		t.Fatal(err)
	}
}

// bench is a database with a clock that the test moves.
type bench struct {
	*App
	t     testing.TB
	file  string
	clock time.Time
}

func newBench(t testing.TB) *bench {
	t.Helper()
	b := &bench{t: t, file: filepath.Join(t.TempDir(), "test.db"), clock: now}
	b.restart()
	t.Cleanup(func() { _ = b.Close() })
	return b
}

// restart opens the file anew, as after the server was killed.
func (b *bench) restart() {
	b.t.Helper()
	if b.App != nil {
		shut(b.t, b.App)
	}
	var err error
	if b.App, err = Open(ctx, b.file, func() time.Time { return b.clock }); err != nil {
		b.t.Fatal(err)
	}
}

func (b *bench) must(err error) {
	b.t.Helper()
	if err != nil {
		b.t.Fatal(err)
	}
}

func hard(dh float64) store.HardnessAnswer {
	return store.HardnessAnswer{Known: true, Value: dh, Unit: units.GermanDegree}
}

// home are the answers of a machine at home, on water of so many degrees.
func home(drinks, dh float64) (machine.Answers, store.HardnessAnswer) {
	h := hard(dh)
	reading, _ := h.Reading()
	return machine.Answers{Layout: machine.SingleBoiler, Valve: machine.Yes, Drinks: drinks, MilkDrinks: drinks / 2,
		Hardness: reading, Treatment: machine.Untreated}, h
}

// add keeps a machine that is new, in Lisbon.
func (b *bench) add(drinks, dh float64) string {
	b.t.Helper()
	n := NewMachine{ID: newID(), Name: "Tide office", Zone: "Europe/Lisbon", IsNew: &b.clock}
	n.Answers, n.Hardness = home(drinks, dh)
	b.must(b.CreateMachine(ctx, n))
	return n.ID
}

func (b *bench) machine(id string) store.Machine {
	b.t.Helper()
	m, err := b.Find(ctx, id)
	b.must(err)
	return m
}

func (b *bench) log(id string, kind use.Kind, at time.Time) string {
	b.t.Helper()
	p := Pressed{ID: newID(), MachineID: id, Kind: kind, Count: 1, At: at}
	_, err := b.LogUse(ctx, p)
	b.must(err)
	return p.ID
}

func (b *bench) done(id string, of task.ID, part machine.Part, at time.Time) string {
	b.t.Helper()
	c := Care{ID: newID(), MachineID: id, Task: of, Parts: []machine.Part{part}, At: at}
	b.must(b.RecordCare(ctx, c))
	return c.ID
}

// sql runs a statement on the file itself, as another program might, and gives the one number that
// it answers, if any.
func (b *bench) sql(statement string, args ...any) (n int) {
	b.t.Helper()
	db, err := sql.Open("sqlite3", b.file)
	b.must(err)
	defer db.Close()
	if err := db.QueryRow(statement, args...).Scan(&n); err != nil && !errors.Is(err, sql.ErrNoRows) {
		b.t.Fatal(err)
	}
	return n
}

// conflict says whether an error is a conflict of a kind.
func conflict(err error, code string) bool {
	var c *Conflict
	return errors.As(err, &c) && c.Code == code && c.Field != "" && c.Allowed != ""
}
