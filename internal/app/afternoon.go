package app

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"freshanvil/core/care"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/sitting"
	"freshanvil/core/task"
	"freshanvil/core/units"
	"freshanvil/internal/store"
)

// AfternoonJob is a run of an afternoon as it is asked for.
type AfternoonJob struct {
	Machine store.Machine
	Wants   []job.Want // a descale has one, and what it takes along
	Asked   Asked      // of a descale
}

// LeftOut is what is due and is not in an afternoon, with why.
type LeftOut struct {
	Machine store.Machine
	What    string
	Why     string
}

// Work is what is done in one go on several machines, and what not.
type Work struct {
	sitting.Afternoon
	Of      []AfternoonJob // of each of its jobs
	LeftOut []LeftOut
}

// mostTogether is how many machines are seen to in one go.
const mostTogether = 8

// InOneGo puts what is due now on some machines into one order of visits; on all that something is due on, where none
// is named. Of a machine with a descale that may be done at home, that goes first, as a run of its own: it takes the
// new filter and the wash along.
func (a *App) InOneGo(ctx context.Context, ids []string) (w Work, err error) {
	machines, err := a.asked(ctx, ids)
	if err != nil {
		return w, err
	}
	var jobs []sitting.Job
	for _, m := range machines {
		list, err := a.jobsOf(ctx, m, &w)
		if err != nil {
			return w, err
		}
		jobs = append(jobs, list...)
	}
	if len(jobs) == 0 {
		return w, &Conflict{Code: "nothing_due", Title: "Nothing that is led is due now", Field: "machine",
			Value: fmt.Sprintf("%d machines", len(machines)), Allowed: "machines of which something is due that a run leads"}
	}
	w.Afternoon = sitting.InOneGo(jobs...)
	return w, nil
}

// asked are the machines that are asked for, each once.
func (a *App) asked(ctx context.Context, ids []string) (list []store.Machine, err error) {
	if len(ids) == 0 {
		if list, err = a.store.Machines(ctx, false); err != nil {
			return nil, err
		}
		return list[:min(len(list), mostTogether)], nil
	}
	if len(ids) > mostTogether {
		return nil, &units.OutOfRange{Field: "machine", Value: fmt.Sprintf("%d machines", len(ids)),
			Allowed: fmt.Sprintf("up to %d at once", mostTogether)}
	}
	for i, id := range ids {
		if slices.Contains(ids[:i], id) {
			continue
		}
		m, err := inUse(ctx, a.store, id)
		if err != nil {
			return nil, err
		}
		list = append(list, m)
	}
	return list, nil
}

// jobsOf are the runs of one machine, in their order; what cannot be led is left out with the reason.
func (a *App) jobsOf(ctx context.Context, m store.Machine, w *Work) (jobs []sitting.Job, err error) {
	due, err := a.dueNow(ctx, m)
	if err != nil || len(due.Members) == 0 {
		return nil, err
	}
	out := func(what string, err error) error {
		if ctx.Err() != nil {
			return err
		}
		text, known := whyNot(err)
		if !known { // one machine that cannot be planned takes no other down with it
			text = "It could not be planned: " + err.Error() + "."
		}
		w.LeftOut = append(w.LeftOut, LeftOut{m, what, text})
		return nil
	}
	add := func(j AfternoonJob, p job.Plan) {
		w.Of = append(w.Of, j)
		jobs = append(jobs, sitting.Job{Machine: m.ID, Name: m.Name, Plan: p})
	}
	in, err := a.Inside(ctx, m.ID)
	if err != nil {
		return nil, err
	}
	now := a.now()
	has := func(id task.ID) bool {
		return slices.ContainsFunc(due.Members, func(x sitting.Member) bool { return x.Task == id })
	}
	descales := false
	if has(task.Descale) {
		ask := Asked{Product: "citric", Renew: has(task.FilterChange) || has(task.Regenerate), Wash: has(task.Wash)}
		p, err := a.planDescale(ctx, m, Begun{Task: task.Descale, Descale: ask}, in, now)
		if err != nil {
			if err := out(task.Descale.Title(), err); err != nil {
				return nil, err
			}
		} else {
			add(AfternoonJob{m, []job.Want{{Task: task.Descale, Parts: []machine.Part{{}}}}, ask}, p)
			descales = true
		}
	}
	for _, x := range due.Members {
		if !job.Gathers(x.Task) && x.Task != task.Descale {
			w.LeftOut = append(w.LeftOut, LeftOut{m, x.Title, "It is not led with others: the machine's page says how."})
		}
	}
	wants := slices.DeleteFunc(due.Wants(), func(x job.Want) bool {
		return descales && sitting.AlongWithDescale(x.Task)
	})
	if len(wants) == 0 {
		return jobs, nil
	}
	c, err := a.composed(ctx, m, wants, How{}, in, now)
	if err != nil {
		return jobs, out(strings.ToLower(due.Head()), err)
	}
	add(AfternoonJob{Machine: m, Wants: wants}, c.Plan)
	return jobs, nil
}

// dueNow is the sitting of a machine that is due now; empty where there is none.
func (a *App) dueNow(ctx context.Context, m store.Machine) (sitting.Sitting, error) {
	now := a.now()
	h, err := a.History(ctx, m, now)
	if err != nil {
		return sitting.Sitting{}, err
	}
	standings, _ := care.Standings(m.Answers, h, now, m.Zone)
	placed, err := a.store.Placings(ctx, m.ID)
	if err != nil {
		return sitting.Sitting{}, err
	}
	list := sitting.Together(sitting.ItemsOf(standings, now, placed[m.ID]...))
	if len(list) == 0 || !list[0].Now() {
		return sitting.Sitting{}, nil
	}
	return list[0], nil
}

// whyNot is why something is not led, in words; false where the error is another.
func whyNot(err error) (string, bool) {
	var refused *reason.Refusal
	var bad *units.OutOfRange
	var conflict *Conflict
	switch {
	case errors.As(err, &refused):
		return refused.Finding.Title + ".", true
	case errors.As(err, &conflict):
		return conflict.Title + ".", true
	case errors.As(err, &bad):
		return "Allowed: " + bad.Allowed + ".", true
	}
	return "", false
}
