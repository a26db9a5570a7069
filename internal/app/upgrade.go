package app

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/descale"
	"freshanvil/core/machine"
	"freshanvil/core/run"
	"freshanvil/core/task"
	"freshanvil/internal/store"
)

// upgradedKey notes in the database how far it was brought up, upgraded how far that is now; beganKey notes the tasks
// whose clocks its machines know.
const (
	beganKey    = "began"
	upgradedKey = "upgraded"
	upgraded    = "12"
	sharesBegan = "11" // shares are taught beside the model of since then
	heldBegan   = "10" // what held has a date since then
)

// upgrade brings what an older version kept up to what this one reads, in one transaction.
func (a *App) upgrade(ctx context.Context) error {
	now := a.now()
	return a.store.Write(ctx, func(tx *store.Store) error {
		if err := endOldRuns(ctx, tx, now); err != nil {
			return err
		}
		done, err := tx.Meta(ctx, upgradedKey)
		if err != nil {
			return err
		}
		fresh, all, err := freshTasks(ctx, tx, done)
		if err != nil || done == upgraded && len(fresh) == 0 {
			return err
		}
		for _, archived := range []bool{false, true} {
			list, err := tx.Machines(ctx, archived)
			if err != nil {
				return err
			}
			for _, m := range list {
				if err := a.bringUp(ctx, tx, m, done, fresh, now); err != nil {
					return fmt.Errorf("machine %s: %w", m.ID, err)
				}
			}
		}
		return errors.Join(tx.SetMeta(ctx, upgradedKey, upgraded), tx.SetMeta(ctx, beganKey, all))
	})
}

// endOldRuns ends the runs whose plans are of an older form.
func endOldRuns(ctx context.Context, tx *store.Store, now time.Time) error {
	old, err := tx.OldRuns(ctx)
	if err != nil {
		return err
	}
	for _, x := range old {
		e := endedByTheLog(x)
		if x.EndedAt.IsZero() {
			const note = "The application was updated while it went on, and cannot carry it on."
			if e, err = abandoned(ctx, tx, x.Run, note, now); err != nil {
				return fmt.Errorf("run %s: %w", x.ID, err)
			}
		}
		if err := tx.EndRun(ctx, x.ID, e); err != nil {
			return fmt.Errorf("run %s: %w", x.ID, err)
		}
	}
	return nil
}

// bringUp brings one machine up from where its database was, and begins the clocks of the tasks that are fresh to it.
func (a *App) bringUp(ctx context.Context, tx *store.Store, m store.Machine, done string, fresh []task.ID,
	now time.Time) error {
	if done != upgraded {
		if err := a.upgradeFrom(ctx, tx, m, done, now); err != nil {
			return err
		}
	}
	begins := care.Begins(m.Answers)
	err := beginClocks(ctx, tx, m, now, care.Started, func(r task.Row) bool {
		return begins(r) && slices.Contains(fresh, r.ID)
	})
	return errors.Join(err, tx.Stale(ctx, m.ID))
}

// freshTasks are the tasks that came to the table since a database was last opened, whose clocks begin now on machines
// that are there already; and all that begin, as they are noted. Nothing is fresh where an upgrade begins them all.
func freshTasks(ctx context.Context, tx *store.Store, done string) (fresh []task.ID, all string, err error) {
	begin := task.Where(func(r task.Row) bool { return r.Begins })
	var names []string
	for _, id := range begin {
		names = append(names, string(id))
	}
	noted, err := tx.Meta(ctx, beganKey)
	if err != nil {
		return nil, "", err
	}
	known := strings.Fields(noted)
	if noted == "" {
		switch done {
		case upgraded:
			known = strings.Fields(begunBefore + " " + begunOfParts)
		case heldBegan, sharesBegan:
			known = strings.Fields(begunBefore)
		default:
			known = names
		}
	}
	for _, id := range begin {
		if !slices.Contains(known, string(id)) {
			fresh = append(fresh, id)
		}
	}
	return fresh, strings.Join(names, " "), nil
}

// The tasks that began a clock before databases noted which; those of the parts came later. Both lists are closed: what
// comes to the table now is fresh by itself.
const (
	begunBefore  = "screen soak seal tank wand"
	begunOfParts = "tip steam_joint cam_grease brush_head grinder drain_seals jet probe relief service service_3 " +
		"service_5 inspection"
)

// upgradeFrom brings a machine up from where its database was.
func (a *App) upgradeFrom(ctx context.Context, tx *store.Store, m store.Machine, done string, now time.Time) error {
	if done != heldBegan && done != sharesBegan {
		if err := a.upgradeMachine(ctx, tx, m, now); err != nil {
			return err
		}
	}
	if done == sharesBegan {
		return nil
	}
	return a.rebaseShares(ctx, tx, m, now)
}

// upgradeMachine counts its use up by the day, lets the newest answers hold from its last descale
// on and the older ones before, begins the clocks of the jobs that are new to the list, and keeps
// what dates moved by it.
func (a *App) upgradeMachine(ctx context.Context, tx *store.Store, m store.Machine, now time.Time) error {
	if err := tx.Recount(ctx, m); err != nil {
		return err
	}
	h, err := a.history(ctx, tx, m, now)
	if err != nil {
		return nil //nolint:nilerr // what cannot be read is said on the bench, and stops no update
	}
	was, err := a.newestOnly(ctx, tx, m, h)
	if err != nil {
		return err
	}
	before := care.AllDue(m.Answers, was, now, m.Zone)
	if err := a.holdSinceDescale(ctx, tx, m, h, now); err != nil {
		return err
	}
	if err := beginClocks(ctx, tx, m, now, care.Started, care.Begins(m.Answers)); err != nil {
		return err
	}
	if h, err = a.history(ctx, tx, m, now); err != nil {
		return err
	}
	return tx.KeepMoved(ctx, m.ID, movedBetween(before, care.AllDue(m.Answers, h, now, m.Zone)))
}

// rebaseShares brings over what spent solutions taught beside an older model's prediction: by that
// prediction over this one's, of the water between the descale before and the one that taught it.
func (a *App) rebaseShares(ctx context.Context, tx *store.Store, m store.Machine, now time.Time) error {
	shares, err := tx.Shares(ctx, m.ID)
	if err != nil || len(shares) == 0 {
		return err
	}
	h, err := a.history(ctx, tx, m, now)
	if err != nil || h.NoWater != nil {
		return nil //nolint:nilerr // what cannot be read is said on the bench, and stops no update
	}
	supplies, _, err := suppliesOf(ctx, tx, m, h.Held)
	if err != nil {
		return err
	}
	closed := h
	if closed.Waters, err = care.Regimes(supplies, care.ClosedEffects); err != nil {
		return nil //nolint:nilerr // as above
	}
	descaled, err := tx.DoneAt(ctx, m.ID, task.Descale)
	if err != nil {
		return err
	}
	for _, x := range shares {
		var from time.Time
		for _, at := range descaled { // not the one that taught it, on the same day
			if at.Before(x.At.Add(-12 * time.Hour)) {
				from = at
			}
		}
		if from.IsZero() {
			continue
		}
		before, err := care.PredictedUntil(m.Answers, closed, from, x.At, m.Zone, true)
		if err != nil {
			return err
		}
		since, err := care.PredictedUntil(m.Answers, h, from, x.At, m.Zone, false)
		if err != nil {
			return err
		}
		if before > 0 && since > 0 {
			x.Worked = descale.Rebase(x.Worked, before, since)
			x.Share = x.Worked.Value
			if err := tx.SetShare(ctx, m.ID, x); err != nil {
				return err
			}
		}
	}
	return nil
}

// newestOnly is a history as it was read before what held had a date: the newest answers for all
// of the past, and of the water what was drawn first for all before it.
func (a *App) newestOnly(ctx context.Context, tx *store.Store, m store.Machine, h care.History) (care.History, error) {
	newest := h.Held.Newest()
	newest.From = time.Time{}
	h.Held = machine.Hold(newest)
	supplies, unread, err := suppliesOf(ctx, tx, m, h.Held)
	if err != nil {
		return h, err
	}
	if drawn, err := tx.Drawn(ctx, m.ID); err != nil {
		return h, err
	} else if len(drawn) > 0 {
		supplies = slices.DeleteFunc(supplies, func(s care.Supply) bool { return s.From.Before(drawn[0].From) })
	}
	h.Waters, h.NoWater = a.regimes(supplies, unread)
	return h, nil
}

// holdSinceDescale lets what holds now hold from the last descale on.
func (a *App) holdSinceDescale(ctx context.Context, tx *store.Store, m store.Machine, h care.History, now time.Time,
) error {
	var descaled time.Time
	for _, d := range h.Done {
		if d.Task == task.Descale && d.At.After(descaled) {
			descaled = d.At
		}
	}
	if descaled.IsZero() {
		return nil
	}
	drawn, err := tx.Drawn(ctx, m.ID)
	if err != nil {
		return err
	}
	if len(drawn) > 0 && drawn[0].From.After(descaled) {
		if err := tx.DateDraw(ctx, m.ID, drawn[0].ID, descaled); err != nil {
			return err
		}
	}
	said, err := tx.Timeline(ctx, m.ID)
	if err != nil || len(said) < 2 {
		return err
	}
	newest := said[len(said)-1]
	if !newest.From.After(descaled) {
		return nil
	}
	newest.From = descaled
	return tx.Say(ctx, m.ID, descaled, []store.Said{newest}, now)
}

// movedBetween lists the dates that differ, by a day or more.
func movedBetween(before, after []care.Due) []store.Moved {
	var list []store.Moved
	for _, b := range before {
		for _, d := range after {
			if b.Task != d.Task || b.Part != d.Part || b.State == care.Unrecorded || d.State == care.Unrecorded {
				continue
			}
			if by := d.Likely.Sub(b.Likely); by >= 24*time.Hour || by <= -24*time.Hour {
				list = append(list, store.Moved{Task: d.Task, Part: d.Part, Was: b.Likely, Is: d.Likely})
			}
		}
	}
	return list
}

// endedByTheLog is what an ended run of an older version came to, as far as the log
// tells.
func endedByTheLog(x store.OldRun) store.Ended {
	e := store.Ended{At: x.EndedAt, Task: task.Wash, Title: "Practice", Where: "the machine",
		Outcome: run.Outcome(x.EndedWith)}
	var numbers []int
	for i, c := range x.Log {
		if i == 0 || c.Task == task.Descale {
			e.Task, e.Title = c.Task, c.Title
		}
		e.Activities = append(e.Activities, run.Activity{ID: fmt.Sprint(c.Task, " ", c.Part), Task: c.Task, Part: c.Part,
			Title: c.Title, Outcome: run.Outcome(c.Outcome)})
		if c.Record.Note != "" {
			e.Note = c.Record.Note
		}
		if c.Part.GroupNumber() == 0 {
			continue
		}
		numbers = append(numbers, c.Part.GroupNumber())
		e.Groups = append(e.Groups, store.EndedGroup{Part: c.Part, Task: c.Task, Method: c.Record.Method,
			Dose: c.Record.Dose, In: c.Outcome == string(run.StoppedUnsafe), Soapy: c.Record.Soapy,
			Rinsed: c.Record.Rinsed, Least: c.Record.Rinsed, Cups: c.Record.Cups, First: c.Record.First})
	}
	if len(numbers) > 0 {
		e.Where = care.Groups(numbers)
	}
	return e
}
