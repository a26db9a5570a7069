package app

import (
	"context"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/inspect"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/internal/store"
)

// Walk is a walk round a machine: its looks, and what was found at each before.
type Walk struct {
	Machine store.Machine
	Cards   []WalkCard
}

// WalkCard is one look of a walk, with how it went before.
type WalkCard struct {
	inspect.Card
	Last  *store.Look // nil where it was never looked at
	Fresh bool        // looked at in this walk already
	Trend inspect.Trend
	// Expected is what the model gives for what is measured; nil where it gives nothing.
	Expected *reason.Worked
}

// WalkRound is what there is to look at on a machine that is hot, or cold.
func (a *App) WalkRound(ctx context.Context, machineID string, hot bool) (w Walk, err error) {
	now := a.now()
	if w.Machine, err = find(ctx, a.store, machineID); err != nil {
		return w, err
	}
	looks, err := a.store.Looks(ctx, machineID, told)
	if err != nil {
		return w, err
	}
	for _, c := range inspect.Walk(w.Machine.Answers.Facts(), hot) {
		card := WalkCard{Card: c}
		var list []store.Look
		var found []inspect.Found
		for _, l := range looks {
			if l.Sight == c.Sight && l.Part == c.Part {
				list, found = append(list, l), append(found, l.Found)
			}
		}
		if len(list) > 0 {
			card.Last = &list[0]
			card.Fresh = now.Sub(list[0].At) < inspect.SameWalk
		}
		in := contextOf(w.Machine, c.Row, list, now)
		card.Trend = c.TrendOf(found, in, now, w.Machine.Zone)
		if in.Expected.Value > 0 {
			card.Expected = &in.Expected
		}
		w.Cards = append(w.Cards, card)
	}
	return w, nil
}

// JudgedLook is what a look comes to, and what it would move.
type JudgedLook struct {
	inspect.Judged
	Moves []care.Shift
}

// JudgeLook says what a look would come to on a machine if it were put on record now. It writes nothing.
func (a *App) JudgeLook(ctx context.Context, machineID string, f inspect.Found) (j JudgedLook, err error) {
	now := a.now()
	m, err := find(ctx, a.store, machineID)
	if err != nil {
		return j, err
	}
	f.At = now
	checked := f
	row, known := inspect.Find(f.Sight)
	if known && f.Number != nil {
		checked.Verdict = row.Seen[0].Verdict // the number makes it
	}
	if err := checked.Check(m.Answers.Facts().Groups); err != nil {
		return j, err
	}
	list, err := a.store.LooksAt(ctx, m.ID, f.Sight, f.Part, told)
	if err != nil {
		return j, err
	}
	if j.Judged, err = row.Judge(f.Verdict, f.Number, contextOf(m, row, list, now)); err != nil {
		return j, err
	}
	h, err := a.History(ctx, m, now)
	if err != nil {
		return j, err
	}
	f.Verdict = j.Verdict
	j.Moves = care.MovedBy(m.Answers, h, f, now, m.Zone)
	return j, nil
}

// measured is the verdict of a look: where a number was read, the one that it makes on this machine.
func measured(ctx context.Context, tx *store.Store, m store.Machine, f inspect.Found) (inspect.Verdict, error) {
	if f.Number == nil {
		return f.Verdict, nil
	}
	list, err := tx.LooksAt(ctx, m.ID, f.Sight, f.Part, told)
	if err != nil {
		return "", err
	}
	row, _ := inspect.Find(f.Sight)
	judged, err := row.Judge(f.Verdict, f.Number, contextOf(m, row, list, f.At))
	return judged.Verdict, err
}

// told is how many looks at a thing its course is told by.
const told = 40

// contextOf is what a number read of a machine at an instant is judged against, by the looks at it, newest first.
func contextOf(m store.Machine, row inspect.Row, list []store.Look, at time.Time) inspect.Context {
	c := inspect.Context{Facts: m.Answers.Facts()}
	for i := len(list) - 1; i >= 0; i-- {
		if l := list[i]; l.Number != nil && l.At.Before(at) {
			c.Earlier = append(c.Earlier, *l.Number)
		}
	}
	switch row.Sight {
	case inspect.Flow:
		c.Expected = plant.TenSeconds(c.Facts)
	case inspect.HeatUp:
		if w, err := plant.HeatsIn(c.Facts); err == nil {
			c.Expected = w
		}
	}
	return c
}

// puts keeps what a look puts in the way of using a machine: a danger for which it is switched off, or detergent
// that foams in the cup.
func puts(ctx context.Context, tx *store.Store, l store.Look, now time.Time) error {
	h := store.Hazard{MachineID: l.MachineID, Part: l.Part, Look: &l}
	switch {
	case l.Seen().Stops != nil:
		h.Chemical = store.Stopped
		h.Part = machine.Part{}
	case l.Sight == inspect.Cup && l.Verdict == inspect.Foamy:
		h.Chemical = store.Detergent
	default:
		return nil
	}
	return tx.SetHazard(ctx, h, true, true, now)
}
