package app

import (
	"context"
	"slices"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/use"
	"freshanvil/internal/store"
)

// batch is how many machines are worked out anew in one transaction: whoever wants to write
// meanwhile waits for no more.
const batch = 32

// Standings gives where the tasks of machines stand, by machine, most pressing first. What something
// has changed since it was kept is worked out anew first, and kept; what only a turned day concerns
// is, and what newer rules do, is left to TurnDay for a long list. Of one machine it is always as of now.
func (a *App) Standings(ctx context.Context, list []store.Machine, now time.Time) (map[string]store.Kept, error) {
	only := ""
	if len(list) == 1 {
		only = list[0].ID
	}
	err := a.freshen(ctx, list, only, now)
	if err == nil {
		return a.store.Standings(ctx, only)
	}
	if disk := DiskOf(err); disk != DiskFull && disk != DiskReadOnly {
		return nil, err
	}
	return a.unkept(ctx, list, only, now) // what cannot be kept is worked out and shown all the same
}

// unkept is Standings of a database that takes no write: what is stale is worked out, and kept nowhere.
func (a *App) unkept(ctx context.Context, list []store.Machine, only string, now time.Time) (map[string]store.Kept,
	error) {
	all, err := a.store.Standings(ctx, only)
	if err != nil {
		return nil, err
	}
	stale, err := a.store.StaleIDs(ctx, only, now, len(list) <= batch, len(list)+batch)
	if err != nil {
		return nil, err
	}
	for _, m := range list {
		if slices.Contains(stale, m.ID) {
			all[m.ID] = a.standingsOf(ctx, a.store, m, now)
		}
	}
	return all, nil
}

func (a *App) freshen(ctx context.Context, list []store.Machine, only string, now time.Time) error {
	ids, err := a.store.StaleIDs(ctx, only, now, len(list) <= batch, len(list)+batch)
	if err != nil {
		return err
	}
	for part := range slices.Chunk(ids, batch) {
		if err := a.workOut(ctx, part, now); err != nil {
			return err
		}
	}
	return nil
}

// workOut works the standings of machines out anew and keeps them, in one transaction.
func (a *App) workOut(ctx context.Context, ids []string, now time.Time) error {
	return a.store.Write(ctx, func(tx *store.Store) error {
		for _, id := range ids {
			m, err := tx.Machine(ctx, id)
			if err != nil {
				return err
			}
			if err := tx.KeepStandings(ctx, id, a.standingsOf(ctx, tx, m, now)); err != nil {
				return err
			}
		}
		return nil
	})
}

// standingsOf works the standings of one machine out anew. What cannot be read of it is a standing
// of that machine, never silence, and never the whole bench.
func (a *App) standingsOf(ctx context.Context, tx *store.Store, m store.Machine, now time.Time) store.Kept {
	k := store.Kept{Worked: now}
	if err := m.Answers.Check(); err != nil { // nothing follows from answers that cannot be
		k.List, k.Until = []care.Standing{care.Unreadable(m.Bad, now)}, use.NextDay(now, m.Zone)
		return k
	}
	h, err := a.history(ctx, tx, m, now)
	if err != nil {
		k.List, k.Until = []care.Standing{care.Unreadable(err, now)}, use.NextDay(now, m.Zone)
		return k
	}
	k.List, k.Until = care.Standings(m.Answers, h, now, m.Zone)
	if said, any := care.ThrowAway(care.FirstShotAway(m.Answers, h, now)); any {
		k.Says = said.Text
	}
	return k
}

// TurnDay works out anew, in batches of their own, what no longer holds because a day has turned,
// days have run out, or the clock was set back. It is not part of any request.
func (a *App) TurnDay(ctx context.Context) error {
	a.turning.Lock()
	defer a.turning.Unlock()
	for {
		now := a.now()
		ids, err := a.store.StaleIDs(ctx, "", now, true, batch)
		if err != nil || len(ids) == 0 {
			return err
		}
		if err := a.workOut(ctx, ids, now); err != nil {
			return err
		}
	}
}

// KeepTurning turns the day for as long as the context lasts, looking every so often.
func (a *App) KeepTurning(ctx context.Context, every time.Duration, failed func(error)) {
	tick := time.NewTicker(every)
	defer tick.Stop()
	for {
		if err := a.TurnDay(ctx); err != nil && ctx.Err() == nil {
			failed(err)
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}
