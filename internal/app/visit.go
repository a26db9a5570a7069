package app

import (
	"context"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/job"
	"freshanvil/core/reason"
	"freshanvil/core/record"
	"freshanvil/core/task"
	"freshanvil/core/units"
	"freshanvil/core/use"
	"freshanvil/internal/store"
)

// Visit is what is handed to whoever owns a machine: what was found and done in some days, what stands open, what
// comes next, and what is theirs to do.
type Visit struct {
	Machine store.Machine
	Plate   store.Plate
	Layout  string
	// From and To are the first and the last of the machine's days, by their dates.
	From, To time.Time
	Now      time.Time
	Found    []store.Look // newest of each thing, worst first
	Done     []record.Entry
	Inside   []string // what is in it now, or stops it
	Next     []care.Standing
	Daily    []care.Chore
	Cautions []reason.Caution
}

// Days are the first and the last day of a paper, as dates such as 2026-03-10; empty for the last day on which
// anything was done or found.
type Days struct{ From, To string }

// longestVisit is how many days one paper covers at most.
const longestVisit = 400

// Visit gathers what a paper of some days of a machine says.
func (a *App) Visit(ctx context.Context, m store.Machine, days Days, now time.Time) (Visit, error) {
	v := Visit{Machine: m, Now: now, Layout: m.Answers.Layout.Title(), Daily: care.Routine(m.Answers),
		Cautions: job.OwnerCautions(m.Answers.Facts())}
	var err error
	if v.From, v.To, err = a.daysOf(ctx, m, days, now); err != nil {
		return v, err
	}
	from, until := use.DayOf(v.From.Year(), v.From.Month(), v.From.Day(), m.Zone), use.NextDay(v.To, m.Zone)
	if v.Plate, err = a.store.Plate(ctx, m.ID); err != nil {
		return v, err
	}
	entries, err := a.store.EntriesBetween(ctx, m.ID, from, until)
	if err != nil {
		return v, err
	}
	for _, e := range entries {
		v.Done = append(v.Done, recordOf(e))
	}
	if v.Found, err = a.store.LooksBetween(ctx, m.ID, from, until); err != nil {
		return v, err
	}
	if v.Inside, err = a.inside(ctx, m); err != nil {
		return v, err
	}
	kept, err := a.Standings(ctx, []store.Machine{m}, now)
	if err != nil {
		return v, err
	}
	for _, s := range kept[m.ID].List {
		if s.Task.Row().Way != task.Small {
			v.Next = append(v.Next, s)
		}
	}
	return v, nil
}

// daysOf are the days that are asked for, checked; each at noon of its date.
func (a *App) daysOf(ctx context.Context, m store.Machine, days Days, now time.Time) (from, to time.Time, err error) {
	noon := func(t time.Time) time.Time { return use.Day(t, m.Zone).Add(8 * time.Hour) }
	if days.From == "" && days.To == "" {
		at, err := a.store.LastWord(ctx, m.ID)
		if err != nil || at.IsZero() || at.After(now) {
			at = now
		}
		return noon(at), noon(at), err
	}
	parse := func(field, text string, other time.Time) (time.Time, error) {
		if text == "" {
			return other, nil
		}
		day, err := time.ParseInLocation(time.DateOnly, text, m.Zone)
		if err != nil || day.After(now) || day.Before(now.AddDate(-careYears, 0, 0)) {
			return day, &units.OutOfRange{Field: field, Value: text,
				Allowed: "a day of the last thirty years, such as " + now.In(m.Zone).Format(time.DateOnly)}
		}
		return day.Add(12 * time.Hour), nil
	}
	if to, err = parse("to", days.To, noon(now)); err != nil {
		return from, to, err
	}
	if from, err = parse("from", days.From, to); err != nil {
		return from, to, err
	}
	if from.After(to) || to.Sub(from) > longestVisit*24*time.Hour {
		return from, to, &units.OutOfRange{Field: "from", Value: days.From, Allowed: "a day up to 400 days before the last"}
	}
	return from, to, nil
}

// careYears is how far back a paper reaches.
const careYears = 30

// inside is what is in a machine now, and what stops it, in words.
func (a *App) inside(ctx context.Context, m store.Machine) ([]string, error) {
	hazards, err := a.store.Hazards(ctx)
	if err != nil {
		return nil, err
	}
	in := store.Contents(hazards, m.ID)
	in.Layout = m.Answers.Layout
	var said []string
	for _, text := range []string{in.Halted(), in.Holds(), in.Pressed()} {
		if text != "" {
			said = append(said, text)
		}
	}
	return said, nil
}

// recordOf is a line of the log as it is told.
func recordOf(e store.Entry) record.Entry {
	return record.Entry{Task: e.Task, Part: e.Part, Title: e.Title, At: e.At, Outcome: record.Outcome(e.Outcome),
		Dose: e.Record.Dose, Soapy: e.Record.Soapy, Rinsed: e.Record.Rinsed, First: e.Record.First,
		Cups: e.Record.Cups, Note: e.Record.Note, By: e.Record.By, Paper: e.Record.Paper, Machine: e.MachineID, Run: e.RunID}
}

// OwnedBy lists the machines of an owner, as the name was said; *Missing where nobody of that name has one.
func (a *App) OwnedBy(ctx context.Context, owner string) ([]store.Machine, error) {
	all, err := a.Machines(ctx, false)
	if err != nil {
		return nil, err
	}
	var list []store.Machine
	for _, m := range all {
		if m.Owner == owner {
			list = append(list, m)
		}
	}
	if len(list) == 0 {
		return nil, missing(store.ErrNotFound, "No machine of this owner", "owner", owner, "the owner of a machine")
	}
	return list, nil
}
