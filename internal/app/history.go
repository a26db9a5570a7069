package app

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"sync"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/machine"
	"freshanvil/core/standdown"
	"freshanvil/core/treat"
	"freshanvil/core/units"
	"freshanvil/core/use"
	"freshanvil/core/water"
	"freshanvil/internal/store"
)

// History is what the due answers of one machine rest on, at an instant.
func (a *App) History(ctx context.Context, m store.Machine, now time.Time) (care.History, error) {
	return a.history(ctx, a.store, m, now)
}

func (a *App) history(ctx context.Context, tx *store.Store, m store.Machine, now time.Time) (care.History, error) {
	h := care.History{Log: use.Log{LoggedSince: m.LoggedSince}}
	var err error
	if h.Done, err = tx.Done(ctx, m.ID); err != nil {
		return h, err
	}
	if h.Found, err = found(ctx, tx, m.ID); err != nil {
		return h, err
	}
	if h.Choice, h.ChoiceSince, err = choiceOf(ctx, tx, m.ID); err != nil {
		return h, err
	}
	if h.Held, err = held(ctx, tx, m.ID); err != nil {
		return h, err
	}
	supplies, unread, err := suppliesOf(ctx, tx, m, h.Held)
	if err != nil {
		return h, err
	}
	h.Waters, h.NoWater = a.regimes(supplies, unread)
	shares, err := tx.Shares(ctx, m.ID)
	if err != nil {
		return h, err
	}
	for i := len(shares) - 1; i >= 0; i-- { // they are the newest first
		h.Shares = append(h.Shares, care.Share{From: shares[i].At, Of: shares[i].Share})
	}
	aways, err := tx.Aways(ctx, m.ID)
	if err != nil {
		return h, err
	}
	for _, x := range aways {
		h.Away = append(h.Away, use.Spell{From: x.From, To: x.To, Entered: true})
		if x.Stands != "" {
			h.Rests = append(h.Rests, standdown.Rest{From: x.From.In(m.Zone), To: x.To.In(m.Zone),
				Visited: x.Stands == store.Visited})
		}
	}
	return h, used(ctx, tx, m, &h, now)
}

// used fills in what was made: every entry as far back as a task is counted by it, by the day
// before that, and the entries of the days on which something changed.
func used(ctx context.Context, tx *store.Store, m store.Machine, h *care.History, now time.Time) (err error) {
	h.Since = care.ReadFrom(m.Answers, h.Choice, h.Done, now, m.Zone)
	if h.Days, err = tx.Days(ctx, m.ID, h.DaysFrom(now, m.Zone)); err != nil {
		return err
	}
	if h.LoggedUntil, err = tx.LoggedUntil(ctx, m.ID); err != nil {
		return err
	}
	touched := use.Touched(h.Since, m.Zone, h.Marks()...)
	h.Events, err = tx.EventsOf(ctx, m, h.Since, touched)
	h.Log = h.Counted(now, m.Zone)
	return err
}

// held is what held of a machine, and since when. What cannot be read of it stands as not said.
func held(ctx context.Context, tx *store.Store, id string) (machine.Held, error) {
	said, err := tx.Timeline(ctx, id)
	var bad *units.OutOfRange
	if err != nil && !errors.As(err, &bad) {
		return nil, err
	}
	return heldOf(said), nil
}

func heldOf(said []store.Said) machine.Held {
	list := make([]machine.Holding, len(said))
	for i, s := range said {
		list[i] = machine.Holding{From: s.From, Answers: s.Answers}
	}
	return machine.Hold(list...)
}

// choiceOf is how often and how, as chosen, and since when.
func choiceOf(ctx context.Context, tx *store.Store, id string) (c care.Choice, since time.Time, err error) {
	list, err := tx.Changes(ctx, id)
	for _, x := range list {
		switch {
		case x.TakenBack || x.What == store.Undone:
		case x.What == store.Oily || x.What == store.Party:
			c.Shortened = append(c.Shortened, care.Shortening{Kind: x.What, At: x.At.UnixMilli()})
		default:
			x.Choice.Shortened = c.Shortened
			c, since = x.Choice, x.At
		}
	}
	return c, since, err
}

// regimes are the waters that reached a machine. A water that comes to no equilibrium is refused
// where it is chosen; should one be kept all the same, or a reading not be readable any more, the
// machine says so in the place of the date.
func (a *App) regimes(supplies []care.Supply, unread error) ([]care.Regime, error) {
	if unread != nil {
		return nil, unread
	}
	list, err := care.Regimes(supplies, a.effects.of)
	if err != nil {
		return nil, err
	}
	return list, nil
}

// suppliesOf is what a machine drew, and since when; unread says which reading of a source that it
// drew from cannot be read.
func suppliesOf(
	ctx context.Context, tx *store.Store, m store.Machine, h machine.Held,
) (supplies []care.Supply, unread, err error) {
	draws, err := tx.Drawn(ctx, m.ID)
	if err != nil {
		return nil, nil, err
	}
	settings, err := tx.Treatments(ctx)
	if err != nil {
		return nil, nil, err
	}
	var sources []store.Source
	if len(draws) > 0 {
		if sources, err = tx.Sources(ctx); err != nil {
			return nil, nil, err
		}
	}
	list := make([]care.Drawn, len(draws))
	for i, d := range draws {
		list[i] = care.Drawn{From: d.From, Source: d.SourceID != "", Treatment: d.Treatment}
		for _, x := range sources {
			if x.ID == d.SourceID {
				list[i].Samples = samplesOf(x)
				unread = cmp.Or(unread, unreadOf(x, m.Zone))
			}
		}
	}
	return care.Supplies(h, list, settings), unread, nil
}

// samplesOf are the readings of a source that can be read.
func samplesOf(x store.Source) []care.Sampled {
	var list []care.Sampled
	for _, r := range x.Samples {
		if r.Bad == nil {
			list = append(list, care.Sampled{Taken: r.Taken, How: water.How(r.How), Sample: r.Sample})
		}
	}
	return list
}

// unreadOf says which reading of a source cannot be read; nil where all can.
func unreadOf(x store.Source, zone *time.Location) error {
	for _, r := range x.Samples {
		if r.Bad != nil {
			return fmt.Errorf("the reading of %s of %s cannot be read: take it back and read the water again",
				r.Taken.In(zone).Format("2 January 2006"), x.Name)
		}
	}
	return nil
}

// effects keeps what waters come to: machines that share a water share the work.
type effects struct {
	mu   sync.Mutex
	made map[effectKey]care.Effects
}

type effectKey struct {
	sample   water.Sample
	setting  treat.Setting
	celsius  units.Temperature
	material string
	plumbed  bool
}

// mostEffects bounds what is kept.
const mostEffects = 2000

func (e *effects) of(sample water.Sample, set treat.Setting, f machine.Facts) (care.Effects, error) {
	key := effectKey{sample, set, f.BrewTemp, f.BrewMaterial + " " + f.SteamMaterial, f.Plumbed}
	e.mu.Lock()
	m, known := e.made[key]
	e.mu.Unlock()
	if known {
		return m, nil
	}
	m, err := care.EffectsOf(sample, set, f)
	if err != nil {
		return m, err
	}
	e.mu.Lock()
	defer e.mu.Unlock()
	if e.made == nil || len(e.made) > mostEffects {
		e.made = map[effectKey]care.Effects{}
	}
	e.made[key] = m
	return m, nil
}

// Drawing is what a machine draws now.
type Drawing struct {
	Source  *store.Source
	Sample  water.Sample
	How     water.How // by what the sample was read; empty where it is the answer of a hardness
	Setting treat.Setting
}

// Drawing is what a machine draws at an instant.
func (a *App) Drawing(ctx context.Context, m store.Machine, now time.Time) (Drawing, error) {
	return drawing(ctx, a.store, m, now)
}

func drawing(ctx context.Context, tx *store.Store, m store.Machine, now time.Time) (Drawing, error) {
	d := Drawing{Sample: care.Answered(m.Answers)}
	settings, err := tx.Treatments(ctx)
	if err != nil {
		return d, err
	}
	for _, s := range settings {
		if s.Kind == m.Answers.Treatment {
			d.Setting = s
		}
	}
	draws, err := tx.Drawn(ctx, m.ID)
	if err != nil {
		return d, err
	}
	var at *store.Draws
	for i := range draws {
		if !draws[i].From.After(now) {
			at = &draws[i]
		}
	}
	if at == nil {
		return d, nil
	}
	d.Setting = at.Treatment
	if at.SourceID == "" {
		return d, nil
	}
	x, err := tx.SourceNamed(ctx, at.SourceID)
	if err != nil {
		return d, err
	}
	d.Source = &x
	if r, any := care.SampleAt(samplesOf(x), now); any {
		d.Sample, d.How = r.Sample, r.How
	}
	return d, nil
}
