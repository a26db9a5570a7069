package app

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"freshanvil/core/sitting"
	"freshanvil/core/units"
	"freshanvil/core/use"
	"freshanvil/internal/store"
)

// datesAhead is how far ahead a calendar reaches, days.
const datesAhead = 183

// manyMachines is how many machines a calendar gives out at its full reach; of more it reaches less far, so that it
// stays as long (our own engineering choice), and never less than a fortnight.
const (
	manyMachines = 100
	leastAhead   = 14
)

// reach is how far ahead a calendar of so many machines reaches, days.
func reach(machines int) float64 {
	if machines <= manyMachines {
		return datesAhead
	}
	return max(leastAhead, float64(datesAhead*manyMachines/machines))
}

// Date is a day of a machine as a calendar gives it out: known again by its UID, with a higher sequence each time that
// it says something else.
type Date struct {
	sitting.Date
	Machine  store.Machine
	UID      string
	On       string // the day, such as 2026-03-10
	Sequence int
	Changed  time.Time
}

// Dates are the days of machines, in their order. What is due stays on the day on which it was first given out as due,
// and what was done is left out.
func (a *App) Dates(ctx context.Context, machines []store.Machine, now time.Time) ([]Date, error) {
	kept, err := a.Standings(ctx, machines, now)
	if err != nil {
		return nil, err
	}
	var all []Date
	var fresh []store.GivenDate
	for _, m := range machines {
		if err := ctx.Err(); err != nil { // nobody waits for it any more
			return nil, err
		}
		list, changed, err := a.datesOf(ctx, m, kept[m.ID], now, reach(len(machines)))
		if err != nil {
			return nil, err
		}
		all, fresh = append(all, list...), append(fresh, changed...)
	}
	if len(fresh) > 0 {
		err := a.store.Write(ctx, func(tx *store.Store) error { return tx.KeepDates(ctx, fresh) })
		if err != nil {
			return nil, err
		}
	}
	slices.SortStableFunc(all, func(x, y Date) int {
		return strings.Compare(x.On+x.Machine.Name, y.On+y.Machine.Name)
	})
	return all, nil
}

func (a *App) datesOf(ctx context.Context, m store.Machine, kept store.Kept, now time.Time, ahead float64) (list []Date,
	changed []store.GivenDate, err error) {
	often, err := a.store.Often(ctx, m.ID)
	if err != nil {
		return nil, nil, err
	}
	given, err := a.store.GivenDates(ctx, m.ID)
	if err != nil {
		return nil, nil, err
	}
	placed, err := a.store.Placings(ctx, m.ID)
	if err != nil {
		return nil, nil, err
	}
	aways, err := a.store.Aways(ctx, m.ID)
	if err != nil {
		return nil, nil, err
	}
	var away []use.Spell
	for _, x := range aways {
		away = append(away, use.Spell{From: x.From, To: x.To})
	}
	groups := m.Answers.Facts().Groups
	for _, d := range sitting.Dates(kept.List, often, placed[m.ID], away, groups, now, ahead, m.Zone) {
		out := Date{Date: d, Machine: m, On: use.Day(d.Day, m.Zone).Format(time.DateOnly),
			UID: fmt.Sprintf("%s-%s-%s-%d@fresh-anvil", m.ID, d.Turn.Task, d.Turn.Part, d.Turn.Number)}
		was, known := given[out.UID]
		today := use.Day(now, m.Zone).Format(time.DateOnly)
		if d.Now && known && was.Day < today {
			out.On = was.Day // it fell due then
		}
		sum := sha256.Sum256([]byte(strings.Join(append([]string{out.On, m.Name, m.Owner, m.Place, d.Between}, d.Jobs...),
			"\n")))
		digest := hex.EncodeToString(sum[:8])
		out.Sequence, out.Changed = was.Sequence, was.Changed
		if was.Digest != digest {
			if known {
				out.Sequence++
			}
			out.Changed = now
			changed = append(changed, store.GivenDate{MachineID: m.ID, UID: out.UID, Day: out.On, Digest: digest,
				Sequence: out.Sequence, Changed: now})
		}
		list = append(list, out)
	}
	return list, changed, nil
}

// The things that a feed may be of.
const (
	FeedBench   = "bench"
	FeedOwner   = "owner"
	FeedMachine = "machine"
)

// Feeds lists the calendars that may be asked for from outside.
func (a *App) Feeds(ctx context.Context) ([]store.Feed, error) { return a.store.Feeds(ctx) }

// OpenFeed gives a calendar a secret address, or, where it has one, another: the old one is answered no more.
func (a *App) OpenFeed(ctx context.Context, of, key string) error {
	switch of {
	case FeedBench:
		key = ""
	case FeedOwner:
		if _, err := a.OwnedBy(ctx, key); err != nil {
			return err
		}
	case FeedMachine:
		if _, err := a.Find(ctx, key); err != nil {
			return err
		}
	default:
		return &units.OutOfRange{Field: "of", Value: of, Allowed: "bench, owner, machine"}
	}
	now := a.now()
	return a.store.Write(ctx, func(tx *store.Store) error {
		return tx.SetFeed(ctx, store.Feed{ID: uuid.NewString(), Of: of, Key: key, Secret: newToken(), Made: now})
	})
}

// EndFeed ends a calendar's address.
func (a *App) EndFeed(ctx context.Context, id string) error {
	return a.store.Write(ctx, func(tx *store.Store) error { return tx.ForgetFeed(ctx, id) })
}

// FeedHolds says whether a secret still leads to a calendar; *Missing where it does not.
func (a *App) FeedHolds(ctx context.Context, secret string) error {
	_, err := a.store.FeedBy(ctx, secret)
	if err != nil {
		return missing(err, "No calendar at this address", "secret", "…", "an address that holds; it may have been "+
			"changed in the preferences")
	}
	return nil
}

// FeedDates are the dates of the feed of a secret, and what it is called; *Missing where there is none.
func (a *App) FeedDates(ctx context.Context, secret string, now time.Time) (name string, list []Date, err error) {
	f, err := a.store.FeedBy(ctx, secret)
	if err != nil {
		return "", nil, missing(err, "No calendar at this address", "secret", "…", "an address that holds; it may have been "+
			"changed in the preferences")
	}
	var machines []store.Machine
	switch f.Of {
	case FeedMachine:
		m, err := a.Find(ctx, f.Key)
		if err != nil {
			return "", nil, err
		}
		name, machines = m.Name, []store.Machine{m}
	case FeedOwner:
		name = f.Key
		if machines, err = a.OwnedBy(ctx, f.Key); err != nil {
			return "", nil, err
		}
	default:
		name = "Fresh Anvil"
		if machines, err = a.Machines(ctx, false); err != nil {
			return "", nil, err
		}
	}
	list, err = a.Dates(ctx, machines, now)
	return name, list, err
}
