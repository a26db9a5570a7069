package app

import (
	"context"
	"slices"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/sitting"
	"freshanvil/core/task"
	"freshanvil/core/units"
	"freshanvil/internal/store"
)

// FallsTogether is what of a machine's care is done together now, each task once with its parts; without what is
// led by itself, as a descale. It is empty where that is one task, or none.
func (a *App) FallsTogether(ctx context.Context, m store.Machine) ([]job.Want, error) {
	s, err := a.dueNow(ctx, m)
	return s.Led(), err
}

// How is how a sitting is carried out: in which order, the shortest where there is none, and whether the machine has
// been off overnight.
type How struct {
	Order []string
	Cold  bool
}

// Composed puts tasks of a machine into one sitting, in the shortest order that the model of it clears, or in the one
// that is asked for.
func (a *App) Composed(ctx context.Context, machineID string, wants []job.Want, how How) (sitting.Composed, error) {
	m, err := inUse(ctx, a.store, machineID)
	if err != nil {
		return sitting.Composed{}, err
	}
	in, err := a.Inside(ctx, machineID)
	if err != nil {
		return sitting.Composed{}, err
	}
	return a.composed(ctx, m, wants, how, in, a.now())
}

func (a *App) composed(ctx context.Context, m store.Machine, wants []job.Want, how How, in job.Contents,
	now time.Time) (c sitting.Composed, err error,
) {
	g, err := a.gathering(ctx, m, wants, in, now)
	if err != nil {
		return c, err
	}
	g.Cold = how.Cold
	return sitting.ComposeAs(g, how.Order, wants...)
}

// gathering is what a sitting is made from. What of it cannot be led with others now is refused.
func (a *App) gathering(ctx context.Context, m store.Machine, wants []job.Want, in job.Contents, now time.Time) (
	g job.Gathering, err error,
) {
	for _, w := range wants {
		if !job.Gathers(w.Task) || w.Task.Row().Whose != task.Anybodys {
			return g, &units.OutOfRange{Field: "task", Value: string(w.Task),
				Allowed: "tasks that are anybody's and are led; a descale, and what a licensed hand does, by themselves"}
		}
	}
	if text := in.Holds(); text != "" {
		return g, &Conflict{Code: string(job.ChemicalInside), Title: text, Field: "task", Value: string(wants[0].Task),
			Allowed: "a machine without detergent or acid inside: rinse it first"}
	}
	for part := range in.Blind {
		return g, &Conflict{Code: "under_pressure", Title: "A head may be under pressure", Field: "parts",
			Value: part.String(), Allowed: "groups that let their water out: free this one first"}
	}
	g = job.Gathering{Answers: m.Answers, Now: now}
	if g.Powder, err = a.Detergent(ctx); err != nil {
		return g, err
	}
	d, err := a.Drawing(ctx, m, now)
	if err != nil {
		return g, err
	}
	g.Setting = d.Setting
	if i := slices.IndexFunc(wants, func(w job.Want) bool { return w.Task == task.Wash }); i >= 0 {
		if g.Method, err = a.methodOf(ctx, m); err != nil {
			return g, err
		}
		g.Targets, err = a.targets(ctx, m, wants[i].Parts, now)
		if err != nil {
			return g, err
		}
	}
	return g, nil
}

// methodOf is how a machine is washed, as chosen or by default.
func (a *App) methodOf(ctx context.Context, m store.Machine) (backflush.Method, error) {
	choice, err := a.Choice(ctx, m)
	if err != nil {
		return backflush.Method{}, err
	}
	choice = choice.Settled(m.Answers)
	if choice.Method == "" {
		choice.Method = backflush.HalfTeaspoon // refused with the gate's reason
	}
	return choice.By()
}

// targets are groups to be washed, with how much of their interval had gone.
func (a *App) targets(ctx context.Context, m store.Machine, parts []machine.Part, now time.Time) ([]job.Target, error) {
	h, err := a.History(ctx, m, now)
	if err != nil {
		return nil, err
	}
	list := make([]job.Target, len(parts))
	for i, part := range parts {
		list[i] = job.Target{Group: part.GroupNumber()}
		for _, d := range care.AllDue(m.Answers, h, now, m.Zone) {
			if d.Task == task.Wash && d.Part == part {
				list[i].Gone = d.Gone()
			}
		}
	}
	return list, nil
}
