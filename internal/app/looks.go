package app

import (
	"context"
	"errors"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/descale"
	"freshanvil/core/inspect"
	"freshanvil/core/job"
	"freshanvil/core/reason"
	"freshanvil/core/run"
	"freshanvil/core/task"
	"freshanvil/internal/store"
)

// newest is how many looks at each thing a due answer needs: the last, and the one before.
const newest = 2

// found is what was seen of a machine's parts.
func found(ctx context.Context, tx *store.Store, machineID string) ([]inspect.Found, error) {
	looks, err := tx.Looks(ctx, machineID, newest)
	list := make([]inspect.Found, len(looks))
	for i, l := range looks {
		list[i] = l.Found
	}
	return list, err
}

// Seen is a look at a part, without a run.
type Seen struct {
	ID, MachineID string
	inspect.Found
}

// RecordLook keeps what somebody saw of a part; what that moves, it moves from then on.
func (a *App) RecordLook(ctx context.Context, s Seen) error {
	believed, err := a.believedAtLook(ctx, s)
	if err != nil {
		return err
	}
	return a.write(ctx, s.ID, "look", s, func(tx *store.Store, now time.Time) error {
		m, err := inUse(ctx, tx, s.MachineID)
		if err != nil {
			return err
		}
		if err := s.Check(m.Answers.Facts().Groups); err != nil {
			return err
		}
		if s.At, err = past("at", s.At, now, careReach); err != nil {
			return err
		}
		if s.Verdict, err = measured(ctx, tx, m, s.Found); err != nil {
			return err
		}
		look := store.Look{ID: s.ID, MachineID: m.ID, Found: s.Found}
		if err := tx.AddLook(ctx, look); err != nil {
			return err
		}
		if err := teach(ctx, tx, look, believed); err != nil {
			return err
		}
		return puts(ctx, tx, look, now)
	})
}

// believedAtLook is what is believed of the scale of a machine whose gauze is looked at; nil for another look, or
// where nothing is known.
func (a *App) believedAtLook(ctx context.Context, s Seen) (*job.Believed, error) {
	if s.Sight != inspect.Gauze {
		return nil, nil
	}
	m, err := find(ctx, a.store, s.MachineID)
	if err != nil {
		return nil, err
	}
	return a.believedScale(ctx, m, a.now())
}

// teach lets the look of a gauze on a walk move the share of the scale that stays; the same gauze looked at again in
// the same walk tells nothing new.
func teach(ctx context.Context, tx *store.Store, l store.Look, believed *job.Believed) error {
	if believed == nil {
		return nil
	}
	to, tells := gauzeTells(l.Verdict, *believed)
	list, err := tx.LooksAt(ctx, l.MachineID, l.Sight, l.Part, 2) // this one, and the one before
	if err != nil || !tells || len(list) > 1 && l.At.Sub(list[1].At) < inspect.SameWalk {
		return err
	}
	return tx.AddShare(ctx, l.MachineID, store.Share{ID: derived(l.ID, "gauze"), At: l.At, Share: to.Value, Worked: to})
}

// TakeLookBack takes a look back: it moves nothing any more.
func (a *App) TakeLookBack(ctx context.Context, machineID, id string) error {
	now := a.now()
	return a.store.Write(ctx, func(tx *store.Store) error {
		if _, err := find(ctx, tx, machineID); err != nil {
			return err
		}
		if err := tx.TakeLookBack(ctx, machineID, id, now); err != nil {
			return missing(unlessGone(err), "No such look", "look_id", id, "a look that stands")
		}
		if err := tx.ClearSeen(ctx, id, "taken back", now); err != nil {
			return err
		}
		err := tx.TakeShareBack(ctx, machineID, derived(id, "gauze"), now)
		if err != nil && !errors.Is(err, store.ErrNotFound) && !errors.Is(err, store.ErrGone) {
			return err
		}
		looks, err := tx.Looks(ctx, machineID, 1)
		if err != nil {
			return err
		}
		for _, l := range looks { // another danger that was seen goes on to stop it
			if l.Seen().Stops != nil {
				if err := puts(ctx, tx, l, now); err != nil {
					return err
				}
			}
		}
		return nil
	})
}

// Looks are the newest looks at each thing of a machine, newest first.
func (a *App) Looks(ctx context.Context, machineID string) ([]store.Look, error) {
	return a.store.Looks(ctx, machineID, 1)
}

// keepSeen keeps what was seen in a run, however it ended.
func keepSeen(ctx context.Context, tx *store.Store, r store.Run, after run.State, at time.Time) error {
	last := map[string]inspect.Found{} // of each thing, the last word
	var order []string
	for _, f := range after.Seen {
		key := string(f.Sight) + " " + f.Part.String()
		if _, again := last[key]; !again {
			order = append(order, key)
		}
		last[key] = f
	}
	of := r.Machines[0]
	for _, key := range order {
		f := last[key]
		if f.At.After(at) {
			f.At = at
		}
		look := store.Look{ID: derived(r.ID, "look", key), MachineID: of, RunID: r.ID, Found: f}
		if err := tx.AddLook(ctx, look); err != nil {
			return err
		}
		if err := puts(ctx, tx, look, at); err != nil {
			return err
		}
	}
	return nil
}

// Where a clean gauze teaches that there is less scale than was predicted: not before half of the limit was
// believed to have grown (our own engineering choice), for soon after a descale every gauze is clean.
const tellsFrom = 0.5

// learnFromGauze lets the look of a gauze move the share of the scale that stays, where somebody looked for
// it: the gauze at the end of a descale tells what that left.
func learnFromGauze(ctx context.Context, tx *store.Store, r store.Run, after run.State, at time.Time) error {
	for _, a := range r.Plan.Activities {
		if a.Task != task.LookForScale || a.Before == nil {
			continue
		}
		for _, f := range after.Seen {
			if f.Sight != inspect.Gauze {
				continue
			}
			to, tells := gauzeTells(f.Verdict, *a.Before)
			if !tells {
				continue
			}
			share := store.Share{ID: derived(r.ID, "gauze"), At: at, Share: to.Value, Worked: to}
			if err := tx.AddShare(ctx, r.Machines[a.Setup], share); err != nil {
				return err
			}
		}
	}
	return nil
}

// gauzeTells is the share of the scale that stays, by the look of a gauze beside what was believed; false where the
// look tells nothing.
func gauzeTells(v inspect.Verdict, b job.Believed) (reason.Worked, bool) {
	grade := map[inspect.Verdict]float64{inspect.Clean: descale.GradeClean, inspect.Crusted: descale.GradeCrusted}[v]
	if grade == 0 || v == inspect.Clean && b.Grown < tellsFrom {
		return reason.Worked{}, false
	}
	return descale.Graded(b.Share, grade), true
}

// Fits are the parts to fit on a machine, by what was found.
func (a *App) Fits(ctx context.Context, m store.Machine, now time.Time) ([]care.Fit, error) {
	h, err := a.History(ctx, m, now)
	return care.Fits(m.Answers, h, now), err
}
