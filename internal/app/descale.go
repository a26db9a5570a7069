package app

import (
	"context"
	"errors"
	"fmt"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/units"
	"freshanvil/internal/store"
)

// Asked is what is chosen of a descale.
type Asked struct {
	Program, Product string
	Strength         *float64 // g/L; nil as the label says
	Renew, Wash      bool
}

// Scaled is what is known of a machine's scale.
type Scaled struct {
	History care.History
	care.Descaling
}

// Scale is what is known of a machine's scale, at an instant.
func (a *App) Scale(ctx context.Context, m store.Machine, now time.Time) (Scaled, error) {
	h, err := a.History(ctx, m, now)
	if err != nil {
		return Scaled{}, err
	}
	d, err := care.DescalingOf(m.Answers, h, now, m.Zone)
	return Scaled{h, d}, err
}

// Card is the dose for a machine as it stands.
func (a *App) Card(ctx context.Context, m store.Machine, d Scaled, product string, strength *float64) (
	descale.Card, error) {
	own, err := a.store.Products(ctx)
	if err != nil {
		return descale.Card{}, err
	}
	p, err := Among(append(descale.Products(), own...), product)
	if err != nil {
		return descale.Card{}, err
	}
	var gPerL units.Strength
	if strength != nil {
		if gPerL = units.Strength(*strength); gPerL <= 0 {
			return descale.Card{}, &units.OutOfRange{Field: "strength_g_l", Value: fmt.Sprint(*strength),
				Allowed: "above 0; left out, as the label says"}
		}
	}
	f := m.Answers.Facts()
	brew, steam, _ := d.InVessels()
	circuits := descale.Circuits(f, brew, steam)
	for i := range circuits { // brew, or both in one, first; then steam
		if i < len(d.Places) && d.Due.State != care.Unrecorded {
			circuits[i].From = d.Places[i].Predicted()
		}
	}
	return descale.MixFor(p, gPerL, f, circuits, descale.Chrome, descale.Seals)
}

// Sitting gathers what a descale is planned from.
func (a *App) Sitting(
	ctx context.Context,
	m store.Machine,
	d Scaled,
	ask Asked,
	in job.Contents,
	now time.Time,
) (job.Sitting, error) {
	if len(in.Acid) > 0 { // only rinsed: what is in, and how strong, is not asked
		ask.Product, ask.Strength = "citric", nil
	}
	card, err := a.Card(ctx, m, d, ask.Product, ask.Strength)
	if err != nil {
		return job.Sitting{}, err
	}
	w, err := a.Drawing(ctx, m, now)
	if err != nil {
		return job.Sitting{}, err
	}
	filled, err := w.Sample.Fill()
	if err != nil {
		return job.Sitting{}, err
	}
	share := 1.0
	if s := d.History.ShareAt(now); s > 0 {
		share = s
	}
	return job.Sitting{
		Program: descale.ProgramID(ask.Program),
		Card:    card,
		Setting: w.Setting,
		Renew:   ask.Renew,
		FeedAlk: units.Alkalinity(filled.Alkalinity.Likely),
		FeedPH:  units.PH(filled.PH.Likely),
		Share:   share,
		Known:   d.Due.State != care.Unrecorded,
		Dirty:   len(in.Acid) > 0,
		Inside:  in,
		Now:     now,
		Zone:    m.Zone,
	}, nil
}

// DescalePlan plans it, with a wash of every group where one is to follow.
func (a *App) DescalePlan(
	ctx context.Context,
	m store.Machine,
	d Scaled,
	sit job.Sitting,
	ask Asked,
) (job.Plan, error) {
	if ask.Wash && !sit.Dirty {
		powder, err := a.Detergent(ctx)
		if err != nil {
			return job.Plan{}, err
		}
		var targets []job.Target
		for g := range m.Answers.Facts().Groups {
			targets = append(targets, job.Target{Group: g + 1, Blind: sit.Inside.Blind[machine.Group(g+1)]})
		}
		choice := d.History.Choice.Settled(m.Answers)
		if choice.Method == "" {
			return job.Plan{}, &units.OutOfRange{
				Field:   "wash",
				Value:   "true",
				Allowed: "false: this machine is not washed with detergent",
			}
		}
		method, err := choice.By()
		if err != nil {
			return job.Plan{}, err
		}
		w, err := job.WashBy(m.Answers, method, powder, targets...)
		if err != nil {
			return job.Plan{}, err
		}
		sit.Wash = &w
	}
	p, err := job.Descale(m.Answers, sit)
	if err != nil {
		return p, err
	}
	_, err = a.Cleared(p)
	return p, err
}

// Among finds a descaler by its id; another is a *units.OutOfRange.
func Among(list []descale.Product, id string) (descale.Product, error) {
	var names []string
	for _, p := range list {
		if p.ID == id {
			return p, nil
		}
		names = append(names, p.ID)
	}
	return descale.Product{}, &units.OutOfRange{Field: "product", Value: id, Allowed: fmt.Sprintf("one of %v", names)}
}

// Detergent is what is in the tub in use; the usual powder where none is on
// record.
func (a *App) Detergent(ctx context.Context) (backflush.Detergent, error) {
	t, err := a.store.Tub(ctx)
	if errors.Is(err, store.ErrNotFound) {
		return backflush.UsualPowder, nil
	}
	return t.Detergent(), err
}
