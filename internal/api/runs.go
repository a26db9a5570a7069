package api

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/run"
	"freshanvil/core/units"
	"freshanvil/internal/store"
)

// StartRun plans what is to be done to a machine or its groups and begins it. Where
// detergent is in a group already, or acid in the machine, only its rinse is planned.
func (s *Server) StartRun(ctx context.Context, r StartRunRequestObject) (StartRunResponseObject, error) {
	m, err := s.find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	if have, err := s.Store.Run(ctx, r.Body.Id); err == nil { // the same request again
		if have.MachineID() != m.ID {
			return nil, newProblem(http.StatusConflict, "id_in_use", "The id belongs to another run").
				at("id", r.Body.Id, "an id that is not in use")
		}
		out, err := s.run(ctx, have, m)
		return StartRun201JSONResponse(out), err
	} else if !errors.Is(err, store.ErrNotFound) {
		return nil, err
	}
	practice := orElse(r.Body.Practice, false)
	speed := max(1, s.Speed)
	if r.Body.Speed != nil {
		if !practice {
			return nil, &units.OutOfRange{Field: "speed", Value: fmt.Sprint(*r.Body.Speed),
				Allowed: "nothing, but in practice: a real wash takes its time"}
		}
		speed = *r.Body.Speed
	}
	now := s.now()
	in, err := s.inside(ctx, m.ID)
	if err != nil {
		return nil, err
	}
	if practice {
		in = job.Contents{}
	}
	plan, err := s.plan(ctx, m, *r.Body, in, now)
	if err == nil { // none is led that the model of the machine does not clear
		_, err = s.cleared(plan)
	}
	if err != nil {
		return nil, err
	}
	begun := store.Run{ID: r.Body.Id, Machines: []string{m.ID}, Device: r.Body.Device, Speed: speed, Practice: practice,
		Plan: plan, Started: now}
	if err := s.Store.StartRun(ctx, begun); errors.Is(err, store.ErrConflict) {
		return nil, s.openAlready(ctx, m)
	} else if err != nil {
		return nil, err
	}
	begun, err = s.Store.Run(ctx, begun.ID)
	if err != nil {
		return nil, err
	}
	out, err := s.run(ctx, begun, m)
	return StartRun201JSONResponse(out), err
}

// plan makes the plan that was asked for.
func (s *Server) plan(
	ctx context.Context,
	m store.Machine,
	b NewRun,
	in job.Contents,
	now time.Time,
) (job.Plan, error) {
	task := orElse(b.Task, NewRunTaskWash)
	if err := checkParts(task, b.Parts); err != nil {
		return job.Plan{}, err
	}
	switch task {
	case NewRunTaskRenew:
		if err := in.MeetsFilter(); err != nil {
			return job.Plan{}, err
		}
		setting, err := s.renewal(ctx, m, now)
		if err != nil {
			return job.Plan{}, err
		}
		return job.Renew(m.Answers, setting, now)
	case NewRunTaskDescale, NewRunTaskDrawOff:
		return s.ofMachine(ctx, m, b, in, now)
	}
	if err := in.Meets(false); err != nil {
		return job.Plan{}, err
	}
	powder, err := s.detergent(ctx)
	if err != nil {
		return job.Plan{}, err
	}
	h, err := s.history(ctx, m, now)
	if err != nil {
		return job.Plan{}, err
	}
	choice := h.Choice.Settled(m.Answers)
	if b.Method != nil {
		choice = care.Choice{Method: backflush.MethodID(*b.Method)}
	} else if choice.Method == "" {
		choice.Method = backflush.HalfTeaspoon // refused with the gate's reason
	}
	method, err := choice.By()
	if err != nil {
		return job.Plan{}, err
	}
	if task == NewRunTaskUnblock {
		part := b.Parts[0]
		return job.Unblock(m.Answers, powder, job.Target{
			Group: part.GroupNumber(), Dirty: slices.Contains(in.Detergent, part), Blind: in.Blind[part],
			LockedIn: b.LockedIn == nil || *b.LockedIn, // as the contract's default
		})
	}
	dues := care.AllDue(m.Answers, h, now, m.Zone)
	targets := make([]job.Target, len(b.Parts))
	for i, part := range b.Parts {
		targets[i] = job.Target{
			Group: part.GroupNumber(),
			Dirty: slices.Contains(in.Detergent, part),
			Blind: in.Blind[part],
		}
		for _, d := range dues {
			if d.Task == care.Wash && d.Part == part {
				targets[i].Gone = d.Gone()
			}
		}
	}
	return job.WashBy(m.Answers, method, powder, targets...)
}

// checkParts refuses parts that a task is not of.
func checkParts(task NewRunTask, parts []Part) error {
	allowed := "machine, alone, for " + string(task)
	ok := len(parts) == 1 && parts[0].IsWhole()
	notAGroup := slices.ContainsFunc(parts, func(p Part) bool { return p.GroupNumber() == 0 })
	switch task {
	case NewRunTaskWash:
		allowed, ok = "groups, such as group-1", !notAGroup
	case NewRunTaskUnblock:
		allowed, ok = "one group, such as group-1", len(parts) == 1 && !notAGroup
	}
	if !ok {
		return &units.OutOfRange{Field: "parts", Value: fmt.Sprint(parts), Allowed: allowed}
	}
	return nil
}

// nextOf is the task whose next date the end of a run tells.
func nextOf(t care.Task) care.Task {
	switch t {
	case care.FilterChange, care.Regenerate:
		return t
	case care.Descale, care.AcidRinse, care.DrawOff:
		return care.Descale
	}
	return care.Wash
}

// inside is what is in a machine now.
func (s *Server) inside(ctx context.Context, machineID string) (job.Contents, error) {
	hazards, err := s.Store.Hazards(ctx)
	return store.Contents(hazards, machineID), err
}

func (s *Server) openAlready(ctx context.Context, m store.Machine) error {
	p := newProblem(http.StatusConflict, "run_open", "A run is open on this machine").say("Finish it or stop it first.")
	open, err := s.Store.OpenRuns(ctx)
	if err != nil {
		return err
	}
	for _, r := range open {
		if slices.Contains(r.Machines, m.ID) {
			p.at("machine_id", m.ID, "to go on with run "+r.ID)
		}
	}
	return p
}

func (s *Server) findRun(ctx context.Context, id string) (store.Run, error) {
	r, err := s.Store.Run(ctx, id)
	return r, runNotFound(id, err)
}

func runNotFound(id string, err error) error {
	if errors.Is(err, store.ErrNotFound) {
		return newProblem(http.StatusNotFound, "not_found", "No such run").
			at("run_id", id, "the id of a run that was started")
	}
	return err
}

// GetRun is the run at this instant.
func (s *Server) GetRun(ctx context.Context, r GetRunRequestObject) (GetRunResponseObject, error) {
	out, err := s.runByID(ctx, r.RunId)
	return GetRun200JSONResponse(out), err
}

func (s *Server) runByID(ctx context.Context, id string) (Run, error) {
	have, err := s.findRun(ctx, id)
	if err != nil {
		return Run{}, err
	}
	m, err := s.find(ctx, have.MachineID())
	if err != nil {
		return Run{}, err
	}
	return s.run(ctx, have, m)
}

// Press takes one press.
func (s *Server) Press(ctx context.Context, r PressRequestObject) (PressResponseObject, error) {
	b := r.Body
	p := run.Press{ID: b.Id, Device: b.Device, Step: b.Step, Segment: b.Segment, Kind: run.PressKind(b.Kind), At: b.At,
		Cup: b.Cup, Strip: b.Strip, Mixed: b.Mixed, Own: orElse(b.Own, false), NothingIn: orElse(b.NothingIn, false),
		Note: orElse(b.Note, "")}
	if b.First != nil {
		p.First = backflush.Colour(*b.First)
	}
	if b.Minutes != nil {
		p.Minutes = int(*b.Minutes)
	}
	if b.What != nil {
		p.Answer = job.Answer(*b.What)
	}
	if err := p.Check(); err != nil {
		return nil, err
	}
	have, err := s.Store.Accept(ctx, r.RunId, p, s.now())
	if err != nil {
		return nil, runNotFound(r.RunId, err)
	}
	s.hub.tell(r.RunId)
	m, err := s.find(ctx, have.MachineID())
	if err != nil {
		return nil, err
	}
	out, err := s.run(ctx, have, m)
	return Press200JSONResponse(out), err
}

// VoidRun ends a run by name.
func (s *Server) VoidRun(ctx context.Context, r VoidRunRequestObject) (VoidRunResponseObject, error) {
	name, why := strings.TrimSpace(r.Body.Name), strings.TrimSpace(r.Body.Why)
	if len([]rune(name)) < 2 {
		return nil, &units.OutOfRange{Field: "name", Value: shorten(r.Body.Name), Allowed: "the name of who ends it"}
	}
	if why == "" {
		return nil, &units.OutOfRange{Field: "why", Value: shorten(r.Body.Why), Allowed: "why it cannot go on"}
	}
	if err := s.Store.Void(ctx, r.RunId, name, why, s.now()); err != nil {
		return nil, runNotFound(r.RunId, err)
	}
	s.hub.tell(r.RunId)
	out, err := s.runByID(ctx, r.RunId)
	return VoidRun200JSONResponse(out), err
}

// run shows a run; an ended one with the next due date, and the group
// that comes next.
func (s *Server) run(ctx context.Context, r store.Run, m store.Machine) (Run, error) {
	if r.Unreadable != nil {
		return Run{}, newProblem(http.StatusConflict, "run_unreadable", "This run cannot be carried on").
			say("Its plan cannot be read. End it by name; what is in the machine stays on record.").
			at("run_id", r.ID, "a run that can be read")
	}
	now := s.now()
	if r.Ended == nil {
		return runOut(r, m, s.Store.Clock(r, now)), nil
	}
	out := endedOut(r, m, now)
	if r.Practice {
		return out, nil
	}
	h, err := s.history(ctx, m, now)
	if err != nil {
		return out, err
	}
	dues, groups := care.AllDue(m.Answers, h, now, m.Zone), m.Answers.Facts().Groups
	for i, a := range out.Activities {
		for _, d := range dues {
			if string(d.Task) == a.Task && d.Part == a.Part {
				out.Activities[i].Next = dueOut(d, groups, now)
			}
		}
	}
	if r.Ended.Task == care.WaterBackflush {
		return out, nil
	}
	if r.Ended.Outcome == run.Finished && r.Ended.Task == care.Wash {
		lesson, err := s.lesson(ctx, m, h)
		if err != nil {
			return out, err
		}
		shown := lessonOut(lesson)
		out.Lesson = &shown
	}
	showNext(&out, *r.Ended, dues, groups, now)
	return out, nil
}

// showNext puts what comes next beside the end of a run: the wash of another group,
// and the next date of what was done.
func showNext(out *Run, e store.Ended, dues []care.Due, groups int, now time.Time) {
	var washed []int
	parts := []machine.Part{{}}
	for _, a := range e.Activities {
		if g := a.Part.GroupNumber(); g > 0 {
			washed = append(washed, g)
		}
		parts = append(parts, a.Part)
	}
	if d, ok := care.Then(dues, washed...); ok {
		out.Then = dueOut(d, groups, now)
	}
	for _, d := range dues {
		if d.Task == nextOf(e.Task) && slices.Contains(parts, d.Part) && out.Next == nil {
			out.Next = dueOut(d, groups, now)
		}
	}
}

// GetLog is what was done, newest first, with the next date of each machine.
func (s *Server) GetLog(ctx context.Context, r GetLogRequestObject) (GetLogResponseObject, error) {
	only := orElse(r.Params.MachineId, "")
	if only != "" {
		if _, err := s.find(ctx, only); err != nil {
			return nil, err
		}
	}
	machines, err := s.Store.Machines(ctx, false)
	if err != nil {
		return nil, err
	}
	entries, err := s.Store.Log(ctx, only, orElse(r.Params.Small, false), orElse(r.Params.Limit, 100))
	if err != nil {
		return nil, err
	}
	now := s.now()
	histories, err := s.Store.Histories(ctx, machines, now)
	if err != nil {
		return nil, err
	}
	byID := map[string]store.Machine{}
	out := Log{Entries: make([]LogEntry, len(entries)), Machines: []NextDate{}}
	for _, m := range machines {
		byID[m.ID] = m
		if only != "" && only != m.ID {
			continue
		}
		line := NextDate{Id: m.ID, Name: m.Name, Zone: m.Zone.String()}
		if dues := care.AllDue(m.Answers, histories[m.ID], now, m.Zone); len(dues) > 0 {
			line.Next = dueOut(dues[0], m.Answers.Facts().Groups, now)
		}
		out.Machines = append(out.Machines, line)
	}
	for i, e := range entries {
		out.Entries[i] = entryOut(e, byID[e.MachineID])
	}
	return GetLog200JSONResponse(out), nil
}
