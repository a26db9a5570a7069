package app

import (
	"context"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/reason"
	"freshanvil/internal/store"
)

// Lesson is what the first dirty water says about the interval, since it was last changed.
func (a *App) Lesson(ctx context.Context, m store.Machine, h care.History) (care.Lesson, error) {
	return lesson(ctx, a.store, m, h.Choice, h.ChoiceSince)
}

func lesson(ctx context.Context, tx *store.Store, m store.Machine, c care.Choice, since time.Time) (
	care.Lesson, error,
) {
	list, err := tx.Washes(ctx, m.ID, since)
	var graded []care.Graded
	for _, e := range list {
		if e.Record.First != "" {
			graded = append(graded, care.Graded{At: e.At, Part: e.Part, First: e.Record.First, Gone: e.Record.Gone})
		}
	}
	return care.Learn(m.Answers, c, graded), err
}

// ChooseSchool lets a choice hold from now on.
func (a *App) ChooseSchool(ctx context.Context, id, machineID string, content any,
	choose func(store.Machine) (care.Choice, error)) error {
	return a.write(ctx, id, "choice", []any{machineID, content}, func(tx *store.Store, now time.Time) error {
		m, err := inUse(ctx, tx, machineID)
		if err != nil {
			return err
		}
		c, err := choose(m)
		if err != nil {
			return err
		}
		if c.Method != "" {
			method, err := c.By()
			if err != nil {
				return err
			}
			if fits := method.Fits(m.Answers.Facts()); fits.Verdict == reason.Refused {
				return &reason.Refusal{Code: backflush.MethodUnfit, Field: "method", Value: string(c.Method),
					Allowed: "a method that suits this machine", Finding: fits}
			}
		}
		return tx.ChangeInterval(ctx, m.ID, store.Change{ID: id, What: store.Chosen, At: now, Choice: c, Why: "chosen"})
	})
}

// ChangeInterval takes what is proposed, takes the newest change back, or
// shortens the present interval: take, undo, oily, party.
func (a *App) ChangeInterval(ctx context.Context, id, machineID, kind string) error {
	return a.write(ctx, id, "interval", []string{machineID, kind}, func(tx *store.Store, now time.Time) error {
		m, err := inUse(ctx, tx, machineID)
		if err != nil {
			return err
		}
		choice, since, err := choiceOf(ctx, tx, m.ID)
		if err != nil {
			return err
		}
		c := store.Change{ID: id, At: now, Choice: choice.Settled(m.Answers)}
		switch kind {
		case "undo":
			if c, err = undo(ctx, tx, m, c); err != nil {
				return err
			}
		case "take":
			lesson, err := lesson(ctx, tx, m, choice, since)
			if err != nil {
				return err
			}
			if !lesson.Proposed {
				return &Conflict{Code: "conflict", Title: "No other interval is proposed", Field: "kind", Value: kind,
					Allowed: "a machine whose first dirty water proposes another interval", Finding: &lesson.Finding}
			}
			c.What, c.Why, c.Choice.Factor = store.Learned, lesson.Finding.Because[0].Text, lesson.Factor.Value
		default:
			if err := care.CheckShortening(kind); err != nil {
				return err
			}
			c.What, c.Why = kind, "until the next wash"
		}
		return tx.ChangeInterval(ctx, m.ID, c)
	})
}

// undo is the change that takes the newest standing one back; what held before it holds again.
func undo(ctx context.Context, tx *store.Store, m store.Machine, c store.Change) (store.Change, error) {
	list, err := tx.Changes(ctx, m.ID)
	if err != nil {
		return c, err
	}
	for _, x := range list {
		if x.What != store.Undone && !x.TakenBack {
			c.Supersedes = x.ID // the newest is the last
		}
	}
	if c.Supersedes == "" {
		return c, &Conflict{Code: "conflict", Title: "Nothing to take back", Field: "kind", Value: "undo",
			Allowed: "a machine whose interval was changed"}
	}
	c.What, c.Why, c.Choice = store.Undone, "taken back", care.Choice{}
	return c, nil
}

// Choice is how often and how a machine is washed, as chosen or by default.
func (a *App) Choice(ctx context.Context, m store.Machine) (care.Choice, error) {
	c, _, err := choiceOf(ctx, a.store, m.ID)
	return c.Settled(m.Answers), err
}
