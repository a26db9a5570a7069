package app

import (
	"context"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/run"
	"freshanvil/core/task"
	"freshanvil/core/use"
	"freshanvil/internal/store"
)

// followHazards opens or clears the hazard of each part that a run is about.
func followHazards(ctx context.Context, tx *store.Store, r store.Run, after run.State, now time.Time) error {
	for _, g := range after.Groups {
		of := r.Machines[activityOf(r.Plan, g.Part).Setup]
		h := store.Hazard{MachineID: of, Part: g.Part, Chemical: store.Detergent, RunID: r.ID}
		if err := tx.SetHazard(ctx, h, g.Detergent.In, g.Detergent.Ever, now); err != nil {
			return err
		}
		h.Chemical, h.Tries = store.Pressure, g.Blind
		if err := tx.SetHazard(ctx, h, g.Blind > 0, true, now); err != nil {
			return err
		}
	}
	if after.Descale == nil {
		return nil
	}
	of := r.Machines[r.Plan.Descaling().Setup]
	for _, a := range after.Descale.Acids {
		h := store.Hazard{MachineID: of, Part: a.Part, Chemical: store.Acid, RunID: r.ID}
		if err := tx.SetHazard(ctx, h, a.In, a.Ever, now); err != nil {
			return err
		}
	}
	return nil
}

// follow writes down what a press led to: what is in which part, and, where the run
// has ended, what it came to, activity by activity. Wall is the time on the wall.
func follow(ctx context.Context, tx *store.Store, r store.Run, after run.State, wall time.Time) error {
	if !r.Practice {
		if err := followHazards(ctx, tx, r, after, wall); err != nil {
			return err
		}
	}
	if after.Outcome == "" {
		return nil
	}
	e := endOf(r, after)
	if e.At.After(wall) {
		e.At = wall // the clock was set back meanwhile: no record lies ahead
	}
	if err := tx.EndRun(ctx, r.ID, e); err != nil || r.Practice {
		return err
	}
	if err := keepSeen(ctx, tx, r, after, e.At); err != nil {
		return err
	}
	for _, a := range after.Activities {
		if err := writeDown(ctx, tx, r, a, after, e.At); err != nil {
			return err
		}
	}
	if err := learnFromGauze(ctx, tx, r, after, e.At); err != nil {
		return err
	}
	return learn(ctx, tx, r, after, e.At)
}

// writeDown puts on record what an activity came to.
func writeDown(ctx context.Context, tx *store.Store, r store.Run, a run.Activity, after run.State, at time.Time) error {
	of := r.Machines[r.Plan.Activity(a.ID).Setup]
	row := store.Entry{ID: derived(r.ID, "care", a.ID), MachineID: of, Part: a.Part, Task: a.Task, At: at,
		Outcome: string(a.Outcome), Title: a.Title, RunID: r.ID}
	planned := r.Plan.Activity(a.ID)
	if row.Record.By = planned.By; row.Record.By == "" { // who ends it is who led it to the end
		row.Record.By = Asking(ctx).Name
	}
	if a.Used {
		row.Record.Dose = planned.Uses
	}
	row.Record.Minutes = max(0, at.Sub(r.Started).Minutes()*float64(r.Speed))
	if a.Task.Tells() == task.Descale && a.Task != task.DrawOff {
		row.Record.Note = after.Report(r.Plan)
	}
	if row.Record.Note == "" {
		row.Record.Note = after.Found(*planned)
	}
	for _, g := range after.Groups {
		if g.Part == a.Part && planned.Wash != nil {
			if err := writeDownGroup(ctx, tx, r, g, of, at, &row.Record); err != nil {
				return err
			}
		}
	}
	if a.Drawn > 0 {
		e := use.Event{ID: derived(r.ID, "drawn", a.ID), Part: a.Part, Kind: use.RunWater, Count: float64(a.Drawn),
			From: r.Started, To: at}
		if e.From.After(at) {
			e.From = at
		}
		if err := runWater(ctx, tx, of, e); err != nil {
			return err
		}
	}
	return tx.AddEntry(ctx, row)
}

// writeDownGroup counts the water of a group as use, and puts what was done to it into
// its record.
func writeDownGroup(ctx context.Context, tx *store.Store, r store.Run, g run.Group, of string, at time.Time,
	record *store.Record) error {
	wash := r.Plan.WashOf(g.Part)
	if used := g.Through.Volume(r.Plan.Of(*activityOf(r.Plan, g.Part)).Vents); used > 0 {
		e := use.Event{ID: derived(r.ID, "water", g.Part), Part: g.Part, Kind: use.RunWater, Count: float64(used),
			From: r.Started, To: at}
		if e.From.After(at) {
			e.From = at
		}
		if err := runWater(ctx, tx, of, e); err != nil {
			return err
		}
	}
	record.Method, record.Soapy, record.Rinsed = wash.Method, g.Soapy, g.Detergent.Rinsed
	record.Cups, record.First, record.Gone = g.Cups, g.First, wash.Gone
	if g.Detergent.Ever {
		record.Dose = wash.Dose
	}
	return nil
}

// activityOf is the activity that washes a group.
func activityOf(p job.Plan, part machine.Part) *job.Activity {
	for i := range p.Activities {
		if p.Activities[i].Wash != nil && p.Activities[i].Part == part {
			return &p.Activities[i]
		}
	}
	return &p.Activities[0]
}

// learn lets the spent solution of a descale that is done move the share of the
// scale that stays.
func learn(ctx context.Context, tx *store.Store, r store.Run, after run.State, at time.Time) error {
	spent, any := after.Spent(r.Plan)
	if !any || after.In() || after.Outcome == run.StoppedUnsafe {
		return nil
	}
	a := r.Plan.Descaling()
	if to, teaches := spent.Teaches(a.Descale.Share, a.Descale.Predicted()); teaches {
		share := store.Share{ID: derived(r.ID, "spent"), At: at, Share: to.Value, Worked: to, Spent: spent}
		return tx.AddShare(ctx, r.Machines[a.Setup], share)
	}
	return nil
}

// runWater counts the water of a run as use.
func runWater(ctx context.Context, tx *store.Store, machineID string, e use.Event) error {
	m, err := tx.Machine(ctx, machineID)
	if err != nil {
		return err
	}
	_, err = tx.AddUse(ctx, m, e.To, store.Used{Event: e, Source: "run"})
	return err
}

// endOf is what a run has come to.
func endOf(r store.Run, s run.State) store.Ended {
	lead := r.Plan.Leads()
	e := store.Ended{Outcome: s.Outcome, At: s.EndedAt, Task: lead.Task, Title: r.Plan.Title(), Where: r.Plan.Where(),
		Activities: s.Activities, Lines: s.Lines, Finding: s.Finding}
	for _, g := range s.Groups {
		wash, dose := r.Plan.WashOf(g.Part), (*backflush.Dose)(nil)
		if g.Detergent.Ever {
			dose = wash.Dose
		}
		task := task.Wash
		for _, a := range r.Plan.Washes() {
			if a.Part == g.Part {
				task = a.Task
			}
		}
		e.Groups = append(e.Groups, store.EndedGroup{Part: g.Part, Task: task, Method: wash.Method, Dose: dose,
			In: g.Detergent.In, Soapy: g.Soapy, Rinsed: g.Detergent.Rinsed, Least: g.Detergent.Least, Cups: g.Cups,
			First: g.First, Blind: g.Blind})
	}
	if a := r.Plan.Descaling(); a != nil && s.Descale != nil {
		e.Descale = endOfDescale(r.Plan, *a.Descale, s)
	}
	return e
}

func endOfDescale(plan job.Plan, d job.Descaling, s run.State) *store.EndedDescale {
	e := &store.EndedDescale{Program: d.Title, Product: d.Product, Measure: d.Measure, Solution: d.Solution,
		Contact: s.Descale.Contact, Most: d.Contact, Booked: s.Descale.Booked, Came: s.Descale.Came(),
		Report: s.Report(plan), Feed: s.Descale.Feed, Findings: d.Findings}
	spent, any := s.Spent(plan)
	e.AtLeast = spent.AtLeast
	if to, teaches := spent.Teaches(d.Share, d.Predicted()); any && teaches && !s.In() {
		e.Share = to
	}
	for _, a := range s.Descale.Acids {
		e.Circuits = append(e.Circuits, store.EndedCircuit{Part: a.Part, Title: a.Title, In: a.In, Ever: a.Ever,
			Left: a.Left(), Rinsed: a.Rinsed(), Least: d.Circuit(a.Part).Least, Strips: a.Strips})
	}
	return e
}

// abandoned is how a run ends that is carried on no more: what it left inside stays on
// record, and its machines are told so in the log.
func abandoned(ctx context.Context, tx *store.Store, r store.Run, note string, now time.Time) (store.Ended, error) {
	e := store.Ended{Outcome: run.Stopped, At: now, Task: task.Wash, Title: "A run that was not carried on",
		Where: "the machine", Note: note}
	if r.Unreadable == nil && len(r.Plan.Activities) > 0 {
		lead := r.Plan.Leads()
		e.Task, e.Title, e.Where = lead.Task, lead.Title, r.Plan.Where()
	}
	if r.Practice {
		return e, nil
	}
	all, err := tx.Hazards(ctx)
	if err != nil {
		return e, err
	}
	for i, machineID := range r.Machines {
		in := store.Contents(all, machineID)
		outcome := run.Stopped
		if in.Any() || len(in.Blind) > 0 {
			outcome, e.Outcome = run.StoppedUnsafe, run.StoppedUnsafe
		}
		for _, part := range in.Detergent {
			e.Groups = append(e.Groups, store.EndedGroup{Part: part, Task: task.Wash, In: true})
		}
		row := store.Entry{ID: derived(r.ID, "void", i), MachineID: machineID, Task: e.Task, At: now,
			Outcome: string(outcome), Title: e.Title, RunID: r.ID, Record: store.Record{Note: note}}
		if err := tx.AddEntry(ctx, row); err != nil {
			return e, err
		}
	}
	return e, nil
}
