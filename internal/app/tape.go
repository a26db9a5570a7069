package app

import (
	"context"
	"fmt"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/machine"
	"freshanvil/core/sitting"
	"freshanvil/core/task"
	"freshanvil/core/units"
	"freshanvil/core/use"
	"freshanvil/internal/store"
)

// Tape is a machine's life on an axis of use, and what is done together of what is to come.
type Tape struct {
	Machine         store.Machine
	Axis            sitting.Axis
	Since           time.Time // of the count: the day of the first drink or the first thing on record
	From, Now, To   time.Time // what is shown
	LoggedSince     time.Time
	Tracks          []sitting.Track
	Items           []sitting.Item
	Gone            []sitting.Gone // nobody is there
	Year            []sitting.Sitting
	Minutes, AtBest float64 // of somebody's time over what is to come, and what no way of putting it together is below
}

// mostAhead is how far ahead a tape looks, and behind of it what share is ahead (our own engineering choices).
const (
	longestTape = 104 // weeks
	ahead       = 0.6
)

// LifeOf lays a machine's life out: so many weeks behind, and more than half as many ahead.
func (a *App) LifeOf(ctx context.Context, machineID string, weeks int) (t Tape, err error) {
	if weeks < 1 || weeks > longestTape {
		return t, &units.OutOfRange{Field: "weeks", Value: fmt.Sprint(weeks), Allowed: fmt.Sprintf("1 to %d", longestTape)}
	}
	now := a.now()
	if t.Machine, err = find(ctx, a.store, machineID); err != nil {
		return t, err
	}
	m := t.Machine
	h, err := a.History(ctx, m, now)
	if err != nil {
		return t, err
	}
	jobs := task.Where(func(r task.Row) bool { return r.Way != task.Small })
	done, err := a.store.DoneSince(ctx, m.ID, jobs, time.Time{})
	if err != nil {
		return t, err
	}
	if h.Days, err = a.store.Days(ctx, m.ID, time.Time{}); err != nil {
		return t, err
	}
	t.Since, t.LoggedSince = now, h.LoggedSince
	if !h.LoggedSince.IsZero() && h.LoggedSince.Before(t.Since) {
		t.Since = h.LoggedSince
	}
	for _, d := range done {
		if d.At.Before(t.Since) {
			t.Since = d.At
		}
	}
	t.Since, t.Now = use.Day(t.Since, m.Zone), now
	t.From = now.AddDate(0, 0, -7*weeks)
	if t.From.Before(t.Since) {
		t.From = t.Since
	}
	t.To = now.AddDate(0, 0, int(7*ahead*float64(weeks))+1)
	t.Axis = sitting.AxisOf(sitting.LifeOf(m.Answers, h, t.Since, now, now.AddDate(2, 0, 0), m.Zone))
	list, _ := care.Standings(m.Answers, h, now, m.Zone)
	t.Tracks = sitting.Tracks(list, completed(done))
	placed, err := a.store.Placings(ctx, m.ID)
	if err != nil {
		return t, err
	}
	t.Items = sitting.ItemsOf(list, now, placed[m.ID]...)
	days := t.To.Sub(now).Hours() / 24
	t.Gone = sitting.GoneOf(h.Away, now)
	t.Year = sitting.Year(t.Items, days, t.Gone...)
	t.Minutes, t.AtBest = sitting.Minutes(t.Year), sitting.Bound(t.Items, days)
	return t, nil
}

// completed are entries of the log as what was done.
func completed(list []store.Entry) []care.Done {
	out := make([]care.Done, len(list))
	for i, e := range list {
		out[i] = care.Done{Task: e.Task, Part: e.Part, At: e.At}
	}
	return out
}

// Placed is a task that somebody puts on a day.
type Placed struct {
	ID, MachineID string
	Task          task.ID
	Part          machine.Part
	Year          int
	Month         time.Month
	Day           int
}

// on is the day, so many days from now.
func (p Placed) on(now time.Time, zone *time.Location) (at time.Time, days float64) {
	at = sitting.DayOn(p.Year, p.Month, p.Day, zone)
	return at, at.Sub(now).Hours() / 24
}

// Moving works out what putting a task on a day would come to, and what is then done together. It writes nothing.
func (t Tape) Moving(p Placed) (sitting.Move, []sitting.Sitting, error) {
	_, days := p.on(t.Now, t.Machine.Zone)
	return sitting.Moving(t.Items, p.Task, p.Part, days, t.To.Sub(t.Now).Hours()/24, t.Gone...)
}

// Place puts a task on a day, for its next time.
func (a *App) Place(ctx context.Context, p Placed) error {
	return a.write(ctx, p.ID, "place", p, func(tx *store.Store, now time.Time) error {
		m, err := inUse(ctx, tx, p.MachineID)
		if err != nil {
			return err
		}
		h, err := a.history(ctx, tx, m, now)
		if err != nil {
			return err
		}
		list, _ := care.Standings(m.Answers, h, now, m.Zone)
		at, days := p.on(now, m.Zone)
		if _, _, err := sitting.Moving(sitting.ItemsOf(list, now), p.Task, p.Part, days, 0); err != nil {
			return err
		}
		return tx.Place(ctx, m.ID, care.Placing{Task: p.Task, Part: p.Part, On: at, Set: now})
	})
}

// Unplace lets a task fall on its own day again.
func (a *App) Unplace(ctx context.Context, machineID string, id task.ID, part machine.Part) error {
	return a.store.Write(ctx, func(tx *store.Store) error {
		if _, err := find(ctx, tx, machineID); err != nil {
			return err
		}
		return tx.Unplace(ctx, machineID, id, part)
	})
}
