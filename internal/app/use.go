package app

import (
	"context"
	"errors"
	"fmt"
	"slices"
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
		before, err := tx.LastReading(ctx, m.ID)
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

// imported is the source of what a file says.
const imported = "import"

// mostAtOnce is how many rows of a file are written in one transaction: others that want to write
// pass between two of them.
const mostAtOnce = 500

// Imported says what a file of use came to.
type Imported struct {
	Events             []use.Event
	Bad                []use.BadRow
	New, Changed, Same int
}

// Partly is why a file of use was not taken to its end: what was written stays, and the same file again takes the rest.
type Partly struct {
	Writing
	Err error
}

func (p *Partly) Error() string {
	return fmt.Sprintf("%d of %d entries are written: %v", p.Written, p.Entries, p.Err)
}

func (p *Partly) Unwrap() error { return p.Err }

// Writing is how far a file of use has come that is being written.
type Writing struct{ Entries, Written int }

// Importing says how far the file has come that is being written on a machine; false where none is.
func (a *App) Importing(ctx context.Context, machineID string) (Writing, bool, error) {
	if _, err := find(ctx, a.store, machineID); err != nil {
		return Writing{}, false, err
	}
	w, is := a.writing.Load(machineID)
	if !is {
		return Writing{}, false, nil
	}
	return w.(Writing), true, nil
}

// ImportUse takes the use of a file, or says what it would come to. A file with a bad row is not
// taken at all. What was imported for the same span, part and kind before is corrected where the
// count differs, and left alone where it does not; so the same file again changes nothing, and
// one whose import was cut off goes on where it stopped. It is read and judged before anything
// waits for it, and written in parts.
func (a *App) ImportUse(ctx context.Context, machineID, text string, preview bool) (Imported, error) {
	now := a.now()
	m, err := inUse(ctx, a.store, machineID)
	if err != nil {
		return Imported{}, err
	}
	var sum Imported
	sum.Events, sum.Bad = use.ReadUse(text, m.Answers.Facts(), m.Zone, now)
	if len(sum.Bad) > 0 {
		return sum, nil
	}
	slices.SortStableFunc(sum.Events, func(x, y use.Event) int { return x.From.Compare(y.From) })
	if preview {
		for part := range slices.Chunk(sum.Events, mostAtOnce) {
			if _, err := sum.compare(ctx, a.store, m, part); err != nil {
				return sum, err
			}
		}
		return sum, nil
	}
	defer a.writing.Delete(machineID)
	written := 0
	for part := range slices.Chunk(sum.Events, mostAtOnce) {
		a.writing.Store(machineID, Writing{Entries: len(sum.Events), Written: written})
		err := a.store.Write(ctx, func(tx *store.Store) error { return sum.take(ctx, tx, machineID, part, now) })
		if err != nil && written > 0 {
			err = &Partly{Writing{Entries: len(sum.Events), Written: written}, err}
		}
		if err != nil {
			return sum, err
		}
		written += len(part)
	}
	return sum, nil
}

// take writes a part of a file.
func (i *Imported) take(ctx context.Context, tx *store.Store, machineID string, part []use.Event, now time.Time) error {
	m, err := inUse(ctx, tx, machineID) // it may have been archived meanwhile
	if err != nil {
		return err
	}
	list, err := i.compare(ctx, tx, m, part)
	if err != nil || len(list) == 0 {
		return err
	}
	_, err = tx.AddUse(ctx, m, now, list...)
	return err
}

type row struct {
	from, to int64
	part     machine.Part
	kind     use.Kind
}

func rowOf(e use.Event) row { return row{e.From.UnixMilli(), e.To.UnixMilli(), e.Part, e.Kind} }

// compare says which rows of a part are new or differ from what was imported before, and counts
// them.
func (i *Imported) compare(ctx context.Context, tx *store.Store, m store.Machine, part []use.Event) (
	[]store.Used, error,
) {
	from, to := part[0].From, part[0].To
	for _, e := range part {
		if e.To.After(to) {
			to = e.To
		}
	}
	before, err := tx.Imported(ctx, m.ID, imported, from, to)
	if err != nil {
		return nil, err
	}
	have := make(map[row]use.Event, len(before))
	for _, e := range before {
		have[rowOf(e)] = e
	}
	var list []store.Used
	for _, e := range part {
		was, any := have[rowOf(e)]
		switch {
		case !any:
			i.New++
		case was.Count == e.Count:
			i.Same++
			continue
		default:
			i.Changed++
		}
		e.ID = derived(m.ID, imported, e.From.UnixMilli(), e.To.UnixMilli(), e.Part, e.Kind, e.Count, was.ID)
		list = append(list, store.Used{Event: e, Source: imported, Supersedes: was.ID})
	}
	return list, nil
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
