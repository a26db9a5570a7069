package app

import (
	"context"
	"errors"
	"slices"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/circuit"
	"freshanvil/core/descale"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/supply"
	"freshanvil/core/treat"
	"freshanvil/core/units"
	"freshanvil/core/water"
	"freshanvil/internal/store"
)

// AddSource keeps a source of water.
func (a *App) AddSource(ctx context.Context, id, name string) error {
	name, err := units.Line("name", name, true, longestTitle)
	if err != nil {
		return err
	}
	return a.write(ctx, id, "source", name, func(tx *store.Store, now time.Time) error {
		return tx.AddSource(ctx, id, name, now)
	})
}

func noSource(id string, err error) error {
	return missing(err, "No such source", "source_id", id, "the id of a source that was kept")
}

// AddReading keeps what was read of a source.
func (a *App) AddReading(ctx context.Context, sourceID string, r store.Reading) error {
	if _, err := r.Sample.Fill(); err != nil {
		return under("sample", err)
	}
	if len(r.Sample.Said()) == 0 {
		return &units.OutOfRange{Field: "sample", Value: "nothing", Allowed: "at least one reading"}
	}
	return a.write(ctx, r.ID, "reading", []any{sourceID, r}, func(tx *store.Store, now time.Time) error {
		at, err := past("taken", r.Taken, now, careReach)
		if err != nil {
			return err
		}
		r.Taken = at
		return noSource(sourceID, tx.AddReading(ctx, sourceID, r, now))
	})
}

// ReadingsTaken says what a table of readings came to.
type ReadingsTaken struct {
	Bad       []water.BadLine
	Readings  []water.Taken
	New, Same int
}

// TakeReadings takes what was read of a source over time from a table, all of it or none, or says what it would come
// to. What is there of the same day, read in the same way and the same, is left alone, so that the same table again
// changes nothing. For a preview the source need not be there yet.
func (a *App) TakeReadings(ctx context.Context, sourceID, text string, zone *time.Location, preview bool) (
	ReadingsTaken, error,
) {
	now := a.now()
	var out ReadingsTaken
	if out.Readings, out.Bad = water.ReadReadings(text, zone, now); len(out.Bad) > 0 {
		return out, nil
	}
	if preview {
		source, err := a.store.SourceNamed(ctx, sourceID)
		if errors.Is(err, store.ErrNotFound) {
			err = nil
		}
		out.New = len(out.fresh(source, zone))
		out.Same = len(out.Readings) - out.New
		return out, err
	}
	err := a.store.Write(ctx, func(tx *store.Store) error {
		source, err := tx.SourceNamed(ctx, sourceID)
		if err != nil {
			return noSource(sourceID, err)
		}
		fresh := out.fresh(source, zone)
		out.New, out.Same = len(fresh), len(out.Readings)-len(fresh)
		for i, r := range fresh {
			kept := store.Reading{ID: derived(sourceID, "table", now.UnixMilli(), i), Taken: r.Taken, How: string(r.How),
				Sample: r.Sample}
			if err := tx.AddReading(ctx, sourceID, kept, now); err != nil {
				return err
			}
		}
		return nil
	})
	return out, err
}

// fresh are the readings of a table that a source does not have.
func (r ReadingsTaken) fresh(source store.Source, zone *time.Location) (list []water.Taken) {
	type key struct {
		day, how string
		sample   water.Sample
	}
	have := map[key]bool{}
	of := func(at time.Time, how string, s water.Sample) key {
		return key{at.In(zone).Format(time.DateOnly), how, s}
	}
	for _, x := range source.Samples {
		have[of(x.Taken, x.How, x.Sample)] = true
	}
	for _, x := range r.Readings {
		k := of(x.Taken, string(x.How), x.Sample)
		if !have[k] {
			list = append(list, x)
		}
		have[k] = true
	}
	return list
}

// CheckTaken is when a reading was taken; the future, or too long ago, is a *units.OutOfRange.
func (a *App) CheckTaken(at time.Time) (time.Time, error) {
	return past("taken", at, a.now(), careReach)
}

func noReading(id string, err error) error {
	return missing(err, "No such reading", "reading_id", id, "the id of a reading that stands")
}

// ForgetReading takes a reading of a source back.
func (a *App) ForgetReading(ctx context.Context, id string) error {
	now := a.now()
	return a.store.Write(ctx, func(tx *store.Store) error {
		_, source, err := tx.ReadingOf(ctx, id)
		if err != nil {
			return noReading(id, unlessGone(err))
		}
		return tx.TakeBack(ctx, id, source, now)
	})
}

// DateReading corrects when a reading of a source was taken.
func (a *App) DateReading(ctx context.Context, id string, taken time.Time) error {
	now := a.now()
	return a.store.Write(ctx, func(tx *store.Store) error {
		_, source, err := tx.ReadingOf(ctx, id)
		if err != nil {
			return noReading(id, err)
		}
		at, err := past("taken", taken, now, careReach)
		if err != nil {
			return err
		}
		return tx.DateReading(ctx, id, source, at)
	})
}

// SayTreatment keeps the user's numbers of a treatment.
func (a *App) SayTreatment(ctx context.Context, t treat.Setting) error {
	if err := t.Check(); err != nil {
		return err
	}
	return a.store.Write(ctx, func(tx *store.Store) error { return tx.SayTreatment(ctx, t) })
}

// WaterChoice is the water that a machine is to draw.
type WaterChoice struct {
	ID, MachineID, SourceID string
	Treatment               treat.Setting
	From                    *time.Time // nil for now
}

// ChooseWater lets a machine draw from a source through a treatment, from an instant on.
func (a *App) ChooseWater(ctx context.Context, c WaterChoice) error {
	if err := c.Treatment.Check(); err != nil {
		return under("treatment", err)
	}
	return a.write(ctx, c.ID, "water", c, func(tx *store.Store, now time.Time) error {
		m, err := inUse(ctx, tx, c.MachineID)
		if err != nil {
			return err
		}
		d := store.Draws{ID: c.ID, SourceID: c.SourceID, From: now, Treatment: c.Treatment}
		if c.From != nil {
			if d.From, err = past("from", *c.From, now, careReach); err != nil {
				return err
			}
		}
		sample := care.Answered(m.Answers)
		if c.SourceID != "" {
			x, err := tx.SourceNamed(ctx, c.SourceID)
			if err != nil {
				return noSource(c.SourceID, err)
			}
			if r, any := care.SampleAt(samplesOf(x), now); any {
				sample = r.Sample
			}
		}
		if err := comesTo(sample, c.Treatment, m.Answers.Facts()); err != nil {
			return err
		}
		return noSource(c.SourceID, tx.Draw(ctx, m.ID, d))
	})
}

// comesTo refuses a water that comes to nothing behind a treatment.
func comesTo(sample water.Sample, t treat.Setting, f machine.Facts) error {
	raw, err := sample.Fill()
	if err == nil {
		if raw, _, _, err = t.After(raw, f); err == nil {
			_, err = circuit.EffectOf(raw, f)
		}
	}
	if errors.Is(err, water.ErrNoEquilibrium) {
		return &units.OutOfRange{
			Field:   "source_id",
			Value:   "a water that comes to no equilibrium behind " + treat.Title(t.Kind),
			Allowed: "another reading, or another treatment",
		}
	}
	return err
}

// AddProduct keeps a descaler as its label says; the same id again replaces it.
func (a *App) AddProduct(ctx context.Context, p descale.Product) error {
	if err := p.Check(); err != nil {
		return err
	}
	if slices.ContainsFunc(descale.Products(), func(x descale.Product) bool { return x.ID == p.ID }) {
		return &units.OutOfRange{Field: "id", Value: p.ID, Allowed: "an id that no generic product has"}
	}
	return a.store.Write(ctx, func(tx *store.Store) error { return tx.AddProduct(ctx, p) })
}

// ForgetProduct takes one of the user's own descalers away.
func (a *App) ForgetProduct(ctx context.Context, id string) error {
	return a.store.Write(ctx, func(tx *store.Store) error {
		return tx.ForgetProduct(ctx, id)
	})
}

// Taught is what a spent solution has said of a machine.
type Taught struct {
	Predicted units.Mass
	Share     *reason.Worked // as it is now; nil where nothing was learned
}

// AddSpent keeps what a spent solution said.
func (a *App) AddSpent(ctx context.Context, id, machineID string, content any, x descale.Spent) (Taught, error) {
	var out Taught
	now := a.now()
	err := a.store.Write(ctx, func(tx *store.Store) error {
		again, err := tx.Claim(ctx, id, "spent", []any{machineID, content}, now)
		if err != nil {
			return err
		}
		m, err := inUse(ctx, tx, machineID)
		if err != nil {
			return err
		}
		h, err := a.history(ctx, tx, m, now)
		if err != nil {
			return err
		}
		d, err := care.DescalingOf(m.Answers, h, now, m.Zone)
		if err != nil {
			return err
		}
		_, _, out.Predicted = d.InVessels()
		share := 1.0
		if s := h.ShareAt(now); s > 0 {
			share = s
		}
		to, teaches := x.Teaches(share, out.Predicted)
		if !teaches || d.Due.State == care.Unrecorded { // without a record nothing was predicted
			return nil
		}
		out.Share = &to
		if again {
			return nil
		}
		return tx.AddShare(ctx, m.ID, store.Share{ID: id, At: now, Share: to.Value, Worked: to, Spent: x})
	})
	return out, otherRequest(err, id)
}

// ForgetSpent takes it back.
func (a *App) ForgetSpent(ctx context.Context, machineID, id string) error {
	now := a.now()
	return a.store.Write(ctx, func(tx *store.Store) error {
		if _, err := find(ctx, tx, machineID); err != nil {
			return err
		}
		return missing(unlessGone(tx.TakeShareBack(ctx, machineID, id, now)), "No such spent solution", "spent_id", id,
			"the id of one that stands")
	})
}

// SayTub keeps a new word about the tub of detergent.
func (a *App) SayTub(ctx context.Context, id string, t supply.Tub) error {
	// a day that has begun anywhere on earth has begun
	if err := t.Check(a.now().Add(14 * time.Hour)); err != nil {
		return err
	}
	return a.write(ctx, id, "tub", t, func(tx *store.Store, now time.Time) error { return tx.SayTub(ctx, id, t, now) })
}

// TestFoam keeps a foam test of the tub in use.
func (a *App) TestFoam(ctx context.Context, id, tubID string, foams bool) error {
	return a.write(ctx, id, "foam", []any{tubID, foams}, func(tx *store.Store, now time.Time) error {
		return missing(tx.TestFoam(ctx, id, tubID, foams, now), "No such tub in use", "tub_id", tubID,
			"the id of the tub that was said last")
	})
}

// SetMeta keeps a note about the whole database, such as how numbers are written.
func (a *App) SetMeta(ctx context.Context, key, value string) error {
	return a.store.Write(ctx, func(tx *store.Store) error { return tx.SetMeta(ctx, key, value) })
}
