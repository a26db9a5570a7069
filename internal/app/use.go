package app

import (
	"context"
	"errors"
	"fmt"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/task"
	"freshanvil/core/units"
	"freshanvil/core/use"
	"freshanvil/internal/store"
)

// Pressed is use as it is pressed in, or an entry that is taken back.
type Pressed struct {
	ID, MachineID string
	Kind          use.Kind
	Count         float64
	Part          machine.Part
	At            time.Time
	Supersedes    string // the entry that it corrects or takes back; empty for none
}

// LogUse logs drinks and flushes, or takes an entry back, and gives the drinks of the machine's day.
func (a *App) LogUse(ctx context.Context, p Pressed) (drinks float64, err error) {
	now := a.now()
	err = a.store.Write(ctx, func(tx *store.Store) error {
		g, err := tx.Guard(ctx, p.MachineID, p.ID, now)
		if err != nil {
			return missing(err, "No such machine", "machine_id", p.MachineID, "the id of a machine on the bench")
		}
		u, err := p.entry(ctx, tx, g, now)
		if err != nil {
			return err
		}
		if g.Before != nil {
			drinks = g.Today
			return p.again(*g.Before, u)
		}
		if err := refuseUse(g, u.Event); err != nil {
			return err
		}
		drinks, err = tx.AddUse(ctx, g.Machine, now, u)
		return err
	})
	return drinks, otherRequest(err, p.ID)
}

// entry is the entry of the ledger that is to be made.
func (p Pressed) entry(ctx context.Context, tx *store.Store, g store.Guard, now time.Time) (store.Used, error) {
	at, err := past("at", p.At, now, useReach)
	if err != nil {
		return store.Used{}, err
	}
	u := store.Used{Source: "pressed", Supersedes: p.Supersedes,
		Event: use.Event{ID: p.ID, Kind: p.Kind, Count: p.Count, Part: p.Part, From: at, To: at}}
	if most := g.Machine.Answers.Facts().Groups; p.Part.GroupNumber() > most || !p.Part.IsWhole() &&
		p.Part.GroupNumber() == 0 {
		return u, task.Wash.CheckPart(p.Part, most)
	}
	if p.Kind == use.Undo && p.Supersedes == "" {
		return u, &units.OutOfRange{Field: "supersedes", Value: "nothing", Allowed: "the id of the entry to take back"}
	}
	if p.Supersedes != "" { // what was counted over a span stays over it
		was, err := tx.Use(ctx, g.Machine.ID, p.Supersedes)
		if err == nil && was.From.Before(was.To) {
			u.From, u.To = was.From, was.To
		} else if err != nil && !errors.Is(err, store.ErrNotFound) {
			return u, err
		}
	}
	return u, nil
}

// again says whether a request whose id is in use is the same as before.
func (p Pressed) again(was store.Used, u store.Used) error {
	same := was.Kind == u.Kind && was.Count == u.Count && was.Part == u.Part && was.Source == u.Source &&
		was.Supersedes == u.Supersedes && !u.To.Before(was.To) && u.To.Sub(was.To) <= time.Minute
	if !same {
		return fmt.Errorf("id %s: %w", p.ID, store.ErrOther)
	}
	return nil
}

// refuseUse: nothing is logged on an archived machine, no drinks from a group that holds
// detergent, none at all where acid is in.
func refuseUse(g store.Guard, e use.Event) error {
	if g.Machine.Archived {
		return &Conflict{Code: "archived", Title: "This machine is archived", Field: "machine_id", Value: g.Machine.ID,
			Allowed: "a machine in use: take it back from the archive first"}
	}
	if len(g.Hazards) == 0 {
		return nil
	}
	in := store.Contents(g.Hazards, g.Machine.ID)
	in.Layout = g.Machine.Answers.Layout
	barred := in.Bars(e.Kind, e.Part, g.Machine.Answers.Facts().Groups)
	if len(barred) == 0 {
		return nil
	}
	if text := in.Halted(); text != "" {
		return &Conflict{Code: string(job.Stopping), Title: text, Field: "part", Value: e.Part.String(),
			Allowed: "a machine that a technician has seen, and signed off by name"}
	}
	if len(in.Acid) == 0 {
		in.Detergent = barred
	}
	return &Conflict{Code: string(job.ChemicalInside), Title: in.Holds(), Field: "part", Value: e.Part.String(),
		Allowed: "a group without detergent or acid; it is in " + in.Names() + ": rinse it first"}
}

// Counted is a reading of a machine's own counter.
type Counted struct {
	ID, MachineID string
	Value         float64
	At            time.Time
	Reset         *bool
}

// ReadCounter turns a reading of the machine's own counter into the use that it stands for.
func (a *App) ReadCounter(ctx context.Context, c Counted) (use.Event, error) {
	var e use.Event
	now := a.now()
	err := a.store.Write(ctx, func(tx *store.Store) error {
		again, err := tx.Claim(ctx, c.ID, "counter", c, now)
		if err != nil {
			return err
		}
		if again {
			e, err = readBefore(ctx, tx, c)
			return err
		}
		m, err := inUse(ctx, tx, c.MachineID)
		if err != nil {
			return err
		}
		at, err := past("at", c.At, now, useReach)
		if err != nil {
			return err
		}
		before, err := tx.LastReading(ctx, m.ID, now.Add(time.Minute)) // one dated ahead binds nobody
		if err != nil {
			return err
		}
		done, err := tx.Done(ctx, m.ID)
		if err != nil {
			return err
		}
		r := use.Reading{Value: c.Value, At: at, Reset: c.Reset}
		if e, err = use.FromCounter(m.Answers.Facts(), before, LastWash(done), r, m.Zone); err != nil {
			return err
		}
		e.ID = c.ID
		if err := tx.AddCounter(ctx, c.ID, m.ID, r); err != nil || e.Count == 0 {
			return err
		}
		_, err = tx.AddUse(ctx, m, now, store.Used{Event: e, Source: "counter"})
		return err
	})
	return e, otherRequest(err, c.ID)
}

// readBefore is what a reading came to that was kept before: of one that only began the count,
// nothing.
func readBefore(ctx context.Context, tx *store.Store, c Counted) (use.Event, error) {
	was, err := tx.Use(ctx, c.MachineID, c.ID)
	if errors.Is(err, store.ErrNotFound) {
		return use.Event{ID: c.ID, Kind: use.Double, From: c.At, To: c.At}, nil
	}
	return was.Event, err
}

// LastWash is the newest wash of any group.
func LastWash(done []care.Done) time.Time {
	var last time.Time
	for _, d := range done {
		if d.Task == task.Wash && d.Begun == "" && d.At.After(last) {
			last = d.At
		}
	}
	return last
}

// SayAway enters days on which nobody is there.
func (a *App) SayAway(ctx context.Context, machineID string, away store.Away,
	first, last func(*time.Location) time.Time) error {
	m, err := find(ctx, a.store, machineID)
	if err != nil {
		return err
	}
	spell, err := use.NewSpell(first(m.Zone), last(m.Zone), a.now(), m.Zone)
	if err != nil {
		return err
	}
	away.From, away.To = spell.From, spell.To
	return a.write(ctx, away.ID, "away", []any{machineID, away}, func(tx *store.Store, now time.Time) error {
		if _, err := inUse(ctx, tx, machineID); err != nil {
			return err
		}
		return tx.SayAway(ctx, machineID, away, now)
	})
}

// ForgetAway takes a holiday back.
func (a *App) ForgetAway(ctx context.Context, machineID, id string) error {
	now := a.now()
	err := a.store.Write(ctx, func(tx *store.Store) error {
		if _, err := find(ctx, tx, machineID); err != nil {
			return err
		}
		return missing(tx.ForgetAway(ctx, machineID, id, now), "No such holiday", "away_id", id,
			"the id of a holiday of this machine")
	})
	return err
}
