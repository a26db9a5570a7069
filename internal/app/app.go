// Package app holds the use cases: what is asked for is checked against what stands, put together
// from core, judged, and refused or written down, in one transaction. Whatever comes in, from a
// page, a file, the demo or the command line, goes through the same one.
//
// It knows neither HTTP nor rows: package api translates, package store keeps.
package app

import (
	"context"
	"errors"
	"fmt"
	"sync"
	"time"

	"github.com/google/uuid"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/units"
	"freshanvil/internal/store"
)

// App is the use cases over one database.
type App struct {
	Reads
	store *store.Store
	// Now is the time on the wall.
	Now func() time.Time
	// Changed is told of a run that was pressed or ended; nil where nobody listens.
	Changed func(run string)

	effects   effects
	judged    judgements
	turning   sync.Mutex // one turn of a day at a time
	copying   copying
	door      door
	reminding sync.Mutex
	readied   sync.Map // how far a file of use has come, by its machine
}

// Open opens or makes a database and brings it up to what this version keeps; now is the time on
// the wall.
func Open(ctx context.Context, file string, now func() time.Time) (*App, error) {
	s, err := store.Open(ctx, file)
	if err != nil {
		return nil, err
	}
	a := over(s, now)
	a.copying.file = file
	if err := a.upgrade(ctx); err != nil {
		return nil, errors.Join(err, s.Close())
	}
	return a, nil
}

func over(s *store.Store, now func() time.Time) *App { return &App{Reads: s, store: s, Now: now} }

// Close closes the database.
func (a *App) Close() error { return a.store.Close() }

// now is cut to the millisecond, as everything that is stored.
func (a *App) now() time.Time { return a.Now().UTC().Truncate(time.Millisecond) }

// Instant is the time on the wall, cut to the millisecond, as everything that is stored.
func (a *App) Instant() time.Time { return a.now() }

func (a *App) tell(run string) {
	if a.Changed != nil {
		a.Changed(run)
	}
}

// Conflict is why something is not possible as a machine stands now: nothing was changed.
type Conflict struct {
	Code                  string // of the problem document
	Title, Detail         string
	Field, Value, Allowed string
	Finding               *reason.Finding
}

// Error is the conflict in one sentence.
func (c *Conflict) Error() string { return c.Title + ": " + c.Field + " " + c.Value }

// Missing is something that is not there.
type Missing struct{ Title, Field, Value, Allowed string }

// Error is what is missing in one sentence.
func (m *Missing) Error() string { return m.Title + ": " + m.Field + " " + m.Value }

// Unwrap says that it is a store.ErrNotFound.
func (m *Missing) Unwrap() error { return store.ErrNotFound }

// missing says what is not there, where that is the error.
func missing(err error, title, field, value, allowed string) error {
	if errors.Is(err, store.ErrNotFound) || errors.Is(err, store.ErrGone) {
		return &Missing{title, field, value, allowed}
	}
	return err
}

// unlessGone is the error of taking away what is there; taken away twice is taken away.
func unlessGone(err error) error {
	if errors.Is(err, store.ErrGone) {
		return nil
	}
	return err
}

// write makes one transaction of a request with an id: where the same request was made before,
// nothing is done again. An id that belongs to another request is a *Conflict.
func (a *App) write(ctx context.Context, id, what string, content any, f func(tx *store.Store, now time.Time) error,
) error {
	now := a.now()
	err := a.store.Write(ctx, func(tx *store.Store) error {
		again, err := tx.Claim(ctx, id, what, content, now)
		if err != nil || again {
			return err
		}
		return f(tx, now)
	})
	return otherRequest(err, id)
}

func otherRequest(err error, id string) error {
	if errors.Is(err, store.ErrOther) {
		return &Conflict{Code: "id_in_use", Title: "The id belongs to another request", Field: "id", Value: id,
			Allowed: "an id that is not in use, or the same request again"}
	}
	return err
}

// Find finds a machine; a *Missing where it is not there.
func (a *App) Find(ctx context.Context, id string) (store.Machine, error) {
	return find(ctx, a.store, id)
}

func find(ctx context.Context, tx *store.Store, id string) (store.Machine, error) {
	m, err := tx.Machine(ctx, id)
	return m, missing(err, "No such machine", "machine_id", id, "the id of a machine on the bench")
}

// inUse finds a machine that is not archived: nothing is done to one that is.
func inUse(ctx context.Context, tx *store.Store, id string) (store.Machine, error) {
	m, err := find(ctx, tx, id)
	if err == nil && m.Archived {
		err = &Conflict{Code: "archived", Title: "This machine is archived", Field: "machine_id", Value: id,
			Allowed: "a machine in use: take it back from the archive first"}
	}
	return m, err
}

// How far back care and use may be put on record, in years.
const (
	careReach = 10
	useReach  = 1
)

// ShutOut has somebody told whenever somebody was shut out.
func (a *App) ShutOut(told func()) {
	a.door.mu.Lock()
	defer a.door.mu.Unlock()
	a.door.told = told
}

// past is a time that is past. A device's clock may be a minute fast, no more:
// what it says is then now.
func past(field string, at, now time.Time, years int) (time.Time, error) {
	if at.After(now.Add(time.Minute)) || at.Before(now.AddDate(-years, 0, 0)) {
		return at, &units.OutOfRange{
			Field:   field,
			Value:   at.Format(time.RFC3339),
			Allowed: fmt.Sprintf("a time that is past, at most %d years back", years),
		}
	}
	if at.After(now) {
		at = now
	}
	return at.UTC().Truncate(time.Millisecond), nil
}

// derived is an id that follows from another and from what it is for: ids of
// different things never meet.
func derived(from string, what ...any) string {
	return uuid.NewSHA1(uuid.NameSpaceOID, fmt.Append([]byte(from+" "), what...)).String()
}

// entry is a line of the log that was put on record.
func entry(id, machineID string, of task.ID, part machine.Part, at time.Time) store.Entry {
	return store.Entry{ID: id, MachineID: machineID, Task: of, Part: part, At: at, Outcome: store.Recorded,
		Title: of.Title()}
}
