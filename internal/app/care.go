package app

import (
	"context"
	"fmt"
	"slices"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/machine"
	"freshanvil/core/run"
	"freshanvil/core/speak"
	"freshanvil/core/task"
	"freshanvil/core/units"
	"freshanvil/core/use"
	"freshanvil/internal/store"
)

// recordable are the tasks that may be put on record without a run.
func recordable() []task.ID {
	return task.Where(func(r task.Row) bool { return len(r.Clocks) > 0 && r.Way != task.Small })
}

func small() []task.ID { return task.Where(func(r task.Row) bool { return r.Way == task.Small }) }

// Care is care that was done without a run, in one or more parts of a machine.
type Care struct {
	ID, MachineID string
	Task          task.ID
	Parts         []machine.Part
	At            time.Time
	By            string // who did it; empty where nobody said
	Paper         Paper  // that was left, where one was
}

// RecordCare puts care on record that was done without a run, in all of its parts or none.
func (a *App) RecordCare(ctx context.Context, c Care) error {
	if _, err := task.Parse("task", string(c.Task), recordable()); err != nil {
		return err
	}
	if len(c.Parts) == 0 {
		return &units.OutOfRange{Field: "parts", Value: "none", Allowed: "at least one part"}
	}
	return a.write(ctx, c.ID, "care", c, func(tx *store.Store, now time.Time) error {
		m, err := inUse(ctx, tx, c.MachineID)
		if err != nil {
			return err
		}
		at, err := past("at", c.At, now, careReach)
		if err != nil {
			return err
		}
		if err := care.CheckRecord(m.Answers, c.Task, "task"); err != nil {
			return err
		}
		if c.By, err = doneBy(ctx, c); err != nil {
			return err
		}
		if err := c.Paper.check(now); err != nil {
			return err
		}
		for i, part := range c.Parts {
			if err := c.Task.CheckPart(part, m.Answers.Facts().Groups); err != nil {
				return err
			}
			id := c.ID
			if i > 0 {
				id = derived(c.ID, part)
			}
			e := entry(id, m.ID, c.Task, part, at)
			e.Record.By, e.Record.Paper, e.Record.Papered = c.By, c.Paper.Number, c.Paper.Dated
			e.Record.Sent = Asking(ctx).Name
			if err := tx.AddEntry(ctx, e); err != nil {
				return err
			}
		}
		return nil
	})
}

// doneBy is who did what is put on record. What the maker or the law names somebody for was done by them, not by who
// writes it down, and its keeper alone writes it.
func doneBy(ctx context.Context, c Care) (string, error) {
	if c.Task.Row().Whose == task.Anybodys {
		return who(ctx, "by", c.By)
	}
	if w := Asking(ctx); w.Role != "" && (w.Person == "" || !w.Role.May(Keeper)) {
		return "", &Denied{Code: "role", Title: "Its keeper puts this on record",
			Detail: "It is work of whoever the maker or the law names; a tablet's word for it is none."}
	}
	return who(context.Background(), "by", c.By)
}

// RecordSmall puts small tasks of the day on record, all or none, with who did them, where that is said.
func (a *App) RecordSmall(ctx context.Context, id, machineID string, tasks []task.ID, at time.Time, by string) error {
	content := []any{machineID, tasks, at, by}
	return a.write(ctx, id, "small", content, func(tx *store.Store, now time.Time) error {
		m, err := inUse(ctx, tx, machineID)
		if err != nil {
			return err
		}
		at, err := past("at", at, now, useReach)
		if err != nil {
			return err
		}
		if by, err = who(ctx, "by", by); err != nil {
			return err
		}
		for i, t := range tasks {
			if slices.Contains(tasks[:i], t) {
				return &units.OutOfRange{Field: "tasks", Value: string(t), Allowed: "each task once"}
			}
			if _, err := task.Parse("tasks", string(t), small()); err != nil {
				return err
			}
			if err := care.CheckRecord(m.Answers, t, "tasks"); err != nil {
				return err
			}
			e := entry(derived(id, t), m.ID, t, machine.Part{}, at)
			e.Record.By, e.Record.Sent = by, Asking(ctx).Name
			if err := tx.AddEntry(ctx, e); err != nil {
				return err
			}
		}
		return nil
	})
}

// counts finds a line of the log that a clock counts from; others cannot be taken back.
func counts(ctx context.Context, tx *store.Store, machineID, id string) (store.Entry, error) {
	e, err := tx.Entry(ctx, machineID, id)
	if err != nil {
		return e, missing(err, "No such line in the log", "care_id", id, "the id of care on record of this machine")
	}
	if e.Outcome != store.Recorded && e.Outcome != string(run.Finished) {
		return e, &Conflict{Code: "counts_for_nothing", Title: "This line counts for nothing", Field: "care_id", Value: id,
			Allowed: "care that was done or put on record"}
	}
	return e, nil
}

// TakeCareBack takes care that is on record back: the line stays in the log, and counts for
// nothing. Care that is taken back already is left as it is.
func (a *App) TakeCareBack(ctx context.Context, machineID, id string) error {
	now := a.now()
	return a.store.Write(ctx, func(tx *store.Store) error {
		e, err := counts(ctx, tx, machineID, id)
		if err != nil || e.TakenBack {
			return err
		}
		if err := mayTakeBack(ctx, tx, e, now); err != nil {
			return err
		}
		return tx.TakeEntryBack(ctx, e, now)
	})
}

// mayTakeBack refuses whoever may not take a line back: a record that the maker's or the law's people leave, and one of
// an earlier day or of somebody else, is its keeper's to take back; a tablet takes back tonight's ticks only.
func mayTakeBack(ctx context.Context, tx *store.Store, e store.Entry, now time.Time) error {
	w := Asking(ctx)
	if w.Role == "" || w.Person != "" && w.Role.May(Keeper) {
		return nil
	}
	m, err := find(ctx, tx, e.MachineID)
	if err != nil {
		return err
	}
	tonight := use.Day(e.At, m.Zone).Equal(use.Day(now, m.Zone))
	tick := e.Task.IsSmall()
	own := e.Record.By == "" || w.Person != "" && e.Record.By == w.Name
	if tonight && e.Task.Row().Whose == task.Anybodys && (w.Person == "" && tick || w.Person != "" && own) {
		return nil
	}
	return &Denied{Code: "role", Title: "Its keeper takes this line back",
		Detail: "It is older than tonight, somebody else's, or a record that is left by law."}
}

// DateCare corrects when care was done that was put on record. What a run did is known by the run.
func (a *App) DateCare(ctx context.Context, machineID, id string, at time.Time) error {
	now := a.now()
	return a.store.Write(ctx, func(tx *store.Store) error {
		e, err := counts(ctx, tx, machineID, id)
		if err != nil {
			return err
		}
		if e.RunID != "" || e.TakenBack {
			return &Conflict{Code: "date_is_known", Title: "Its date is not corrected", Field: "care_id", Value: id,
				Allowed: "care that was put on record and stands; take care of a run back instead"}
		}
		to, err := past("at", at, now, careReach)
		if err != nil || to.Equal(e.At) {
			return err
		}
		return tx.DateEntry(ctx, e, to)
	})
}

// Note puts a note on a task into the log, such as who is booked for it, and gives the line. It moves no date.
func (a *App) Note(ctx context.Context, id, machineID string, of task.ID, text string) (store.Entry, error) {
	row, known := task.Find(of)
	if !known {
		return store.Entry{}, &units.OutOfRange{Field: "task", Value: string(of), Allowed: "a task of the table"}
	}
	text, err := units.Text("text", text, true, longestNote)
	if err != nil {
		return store.Entry{}, err
	}
	err = a.write(ctx, id, "note", []string{machineID, string(of), text}, func(tx *store.Store, now time.Time) error {
		if _, err := find(ctx, tx, machineID); err != nil {
			return err
		}
		e := entry(id, machineID, of, machine.Part{}, now)
		e.Outcome, e.Title, e.Record.Note = store.Noted, "Note: "+speak.Lower(row.Title), text
		return tx.AddEntry(ctx, e)
	})
	if err != nil {
		return store.Entry{}, err
	}
	e, err := a.store.Entry(ctx, machineID, id)
	if err != nil {
		err = fmt.Errorf("the note: %w", err)
	}
	return e, err
}

// washes are the tasks whose past is shown beside the schools.
func washes() []task.ID { return []task.ID{task.Wash, task.Screen} }

// Passed is the care of the groups since an instant, with the use that it is counted by.
func (a *App) Passed(ctx context.Context, m store.Machine, since time.Time) ([]store.Entry, error) {
	return a.store.Past(ctx, m.ID, washes(), since)
}
