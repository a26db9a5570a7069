package app

import (
	"context"
	"errors"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/internal/store"
)

// Previewed is what a machine would be told if it came to the bench now.
type Previewed struct {
	Dues  []care.Due
	First []care.First
	// Descaler is the dose of its first descale, once the scale is at its limit; nil where none is
	// shown, and then NoDose says why, and Asks what would have to be said first.
	Descaler *descale.Card
	NoDose   string
	Asks     []machine.Known
}

// Preview works out what somebody's answers come to. It writes nothing. What is not named of what was done
// before counts from now; where known is set, what is not named is not known.
func (a *App) Preview(ctx context.Context, n NewMachine, known bool) (Previewed, error) {
	var out Previewed
	if err := n.Answers.Check(); err != nil {
		return out, err
	}
	zone, err := ParseZone(n.Zone)
	if err != nil {
		return out, err
	}
	now := a.Instant()
	m := store.Machine{Name: n.Name, Zone: zone, Answers: n.Answers, Hardness: n.Hardness}
	h, err := a.historyOfNew(ctx, n, known, now)
	if err != nil {
		return out, err
	}
	out.Dues, out.First = care.AllDue(m.Answers, h, now, zone), care.Firsts(m.Answers, h, now, zone)
	return out, a.previewDose(ctx, m, h, now, &out)
}

// historyOfNew is what the dates of a machine rest on that has just come.
func (a *App) historyOfNew(ctx context.Context, n NewMachine, known bool, now time.Time) (care.History, error) {
	h := care.History{Held: machine.Hold(machine.Holding{From: now, Answers: n.Answers})}
	for _, b := range n.Before {
		if !b.At.After(now) {
			h.Done = append(h.Done, care.Done{Task: b.Task, Part: b.Part, At: b.At})
		}
	}
	if known {
		h.Done = append(h.Done, care.BegunAt(n.Answers, now, care.Added, care.Begins(n.Answers))...)
	} else {
		h.Done = append(h.Done, care.BegunAt(n.Answers, now, care.New, func(r task.Row) bool { return len(r.Clocks) > 0 })...)
	}
	settings, err := a.store.Treatments(ctx)
	if err != nil {
		return h, err
	}
	h.Waters, h.NoWater = a.regimes(care.Supplies(h.Held, nil, settings), nil)
	return h, nil
}

// previewDose is the dose of the first descale, where a plan of it is cleared.
func (a *App) previewDose(ctx context.Context, m store.Machine, h care.History, now time.Time, out *Previewed) error {
	d, err := care.DescalingOf(m.Answers, h, now, m.Zone)
	if err != nil {
		out.NoDose = "Nothing is known of its water."
		return nil
	}
	for _, k := range m.Answers.Known() {
		for _, key := range d.Suits.Asks {
			if k.Key == key {
				out.Asks = append(out.Asks, k)
			}
		}
	}
	if d.Inspect || len(descale.ProgramsFor(m.Answers.Facts())) == 0 {
		out.NoDose = d.Suits.Finding.Title + "."
		return nil
	}
	d.Due.State = care.Unrecorded // as much scale as there may ever be
	sit, err := a.Sitting(ctx, m, Scaled{h, d}, Asked{Product: "citric"}, job.Contents{}, now)
	if err == nil {
		_, err = a.DescalePlan(ctx, m, Scaled{h, d}, sit, Asked{})
	}
	var no *reason.Refusal
	switch {
	case errors.As(err, &no):
		out.NoDose = no.Finding.Title + "."
		return nil
	case err != nil:
		return err
	}
	out.Descaler = &sit.Card
	return nil
}
