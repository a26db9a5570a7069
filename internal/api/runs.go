package api

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/job"
	"freshanvil/core/run"
	"freshanvil/core/units"
	"freshanvil/internal/store"
)

// StartRun plans a wash of one group or more and begins it. Where detergent is
// in a group already, only its rinse is planned.
func (s *Server) StartRun(ctx context.Context, r StartRunRequestObject) (StartRunResponseObject, error) {
	m, err := s.find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	if have, err := s.Store.Run(ctx, r.Body.Id); err == nil { // the same request again
		if have.MachineID != m.ID {
			return nil, newProblem(
				http.StatusConflict,
				"The id belongs to another run",
			).at("id", r.Body.Id, "an id that is not in use")
		}
		out, err := s.run(ctx, have, m)
		return StartRun201JSONResponse(out), err
	} else if !errors.Is(err, store.ErrNotFound) {
		return nil, err
	}
	practice := r.Body.Practice != nil && *r.Body.Practice
	speed := max(1, s.Speed)
	if r.Body.Speed != nil {
		if !practice {
			return nil, &units.OutOfRange{
				Field:   "speed",
				Value:   fmt.Sprint(*r.Body.Speed),
				Allowed: "nothing, but in practice: a real wash takes its time",
			}
		}
		speed = *r.Body.Speed
	}
	now := s.now()
	in, err := s.inside(ctx, m.ID)
	if err != nil {
		return nil, err
	}
	if practice {
		in = job.Inside{}
	}
	if r.Body.Task != nil && *r.Body.Task == NewRunTaskRenew {
		if len(in.Acid) > 0 {
			return nil, newProblem(
				http.StatusConflict,
				in.Says(),
			).at("task", "renew", "a machine without acid inside: the filter goes back after the rinse")
		}
		setting, err := s.renewal(ctx, m, now)
		if err != nil {
			return nil, err
		}
		plan, err := job.Renew(m.Answers, setting, now)
		if err != nil {
			return nil, err
		}
		out, err := s.begin(
			ctx,
			store.Run{
				ID:        r.Body.Id,
				MachineID: m.ID,
				Device:    r.Body.Device,
				Speed:     speed,
				Practice:  practice,
				Plan:      plan,
				Started:   now,
			},
			m,
		)
		return StartRun201JSONResponse(out), err
	}
	if r.Body.Task != nil && (*r.Body.Task == NewRunTaskDescale || *r.Body.Task == NewRunTaskDrawOff) {
		plan, err := s.ofMachine(ctx, m, *r.Body, in, now)
		if err != nil {
			return nil, err
		}
		out, err := s.begin(
			ctx,
			store.Run{
				ID:        r.Body.Id,
				MachineID: m.ID,
				Device:    r.Body.Device,
				Speed:     speed,
				Practice:  practice,
				Plan:      plan,
				Started:   now,
			},
			m,
		)
		return StartRun201JSONResponse(out), err
	}
	if err := in.Meets(false); err != nil {
		return nil, err
	}
	parts := make([]job.Part, len(r.Body.Groups))
	for i, g := range r.Body.Groups {
		parts[i] = job.Part{Group: g, Dirty: slices.Contains(in.Detergent, g)}
	}
	powder, err := s.detergent(ctx)
	if err != nil {
		return nil, err
	}
	h, err := s.history(ctx, m, now)
	if err != nil {
		return nil, err
	}
	method := h.Choice.Settled(m.Answers).Method
	if r.Body.Method != nil {
		method = backflush.MethodID(*r.Body.Method)
	} else if method == "" {
		method = backflush.HalfTeaspoon // refused with the gate's reason
	}
	for _, d := range care.AllDue(m.Answers, h, now, m.Zone) {
		for i := range parts {
			if d.Task == care.Wash && d.Group == parts[i].Group {
				parts[i].Gone = d.Gone()
			}
		}
	}
	plan, err := job.Wash(m.Answers, method, powder, parts...)
	if err != nil {
		return nil, err
	}
	out, err := s.begin(
		ctx,
		store.Run{
			ID:        r.Body.Id,
			MachineID: m.ID,
			Device:    r.Body.Device,
			Speed:     speed,
			Practice:  practice,
			Plan:      plan,
			Started:   now,
		},
		m,
	)
	return StartRun201JSONResponse(out), err
}

// begin keeps a run that is planned.
func (s *Server) begin(ctx context.Context, r store.Run, m store.Machine) (Run, error) {
	if err := s.Store.StartRun(ctx, r); errors.Is(err, store.ErrConflict) {
		return Run{}, s.openAlready(ctx, m)
	} else if err != nil {
		return Run{}, err
	}
	return s.run(ctx, r, m)
}

// nextOf is the task whose next date the end of a run tells.
func nextOf(t RunTask) care.Task {
	switch t {
	case RunTaskFilterChange:
		return care.FilterChange
	case RunTaskRegenerate:
		return care.Regenerate
	case RunTaskDescale, RunTaskAcidRinse, RunTaskDrawOff:
		return care.Descale
	}
	return care.Wash
}

// inside is what is in a machine now.
func (s *Server) inside(ctx context.Context, machineID string) (job.Inside, error) {
	hazards, err := s.Store.Hazards(ctx)
	return store.Inside(hazards, machineID), err
}

func (s *Server) openAlready(ctx context.Context, m store.Machine) error {
	p := newProblem(http.StatusConflict, "A run is open on this machine").say("Finish it or stop it first.")
	open, err := s.Store.OpenRuns(ctx)
	if err != nil {
		return err
	}
	for _, r := range open {
		if r.MachineID == m.ID {
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
		return newProblem(http.StatusNotFound, "No such run").at("run_id", id, "the id of a run that was started")
	}
	return err
}

// GetRun is the run at this instant.
func (s *Server) GetRun(ctx context.Context, r GetRunRequestObject) (GetRunResponseObject, error) {
	have, err := s.findRun(ctx, r.RunId)
	if err != nil {
		return nil, err
	}
	m, err := s.find(ctx, have.MachineID)
	if err != nil {
		return nil, err
	}
	out, err := s.run(ctx, have, m)
	return GetRun200JSONResponse(out), err
}

// Press takes one press.
func (s *Server) Press(ctx context.Context, r PressRequestObject) (PressResponseObject, error) {
	b := r.Body
	p := run.Press{
		ID:      b.Id,
		Device:  b.Device,
		Step:    b.Step,
		Segment: b.Segment,
		Kind:    run.PressKind(b.Kind),
		At:      b.At,
		Cup:     b.Cup,
	}
	if b.First != nil {
		p.First = backflush.Colour(*b.First)
	}
	p.Own = b.Own != nil && *b.Own
	p.Strip = b.Strip
	if b.What != nil {
		p.What = string(*b.What)
	}
	if b.NothingIn != nil {
		p.NothingIn = *b.NothingIn
	}
	if b.Note != nil {
		p.Note = *b.Note
	}
	if err := p.Check(); err != nil {
		return nil, err
	}
	have, err := s.Store.Accept(ctx, r.RunId, p, s.now())
	if err != nil {
		return nil, runNotFound(r.RunId, err)
	}
	s.hub.tell(r.RunId)
	m, err := s.find(ctx, have.MachineID)
	if err != nil {
		return nil, err
	}
	out, err := s.run(ctx, have, m)
	return Press200JSONResponse(out), err
}

// run shows a run; an ended one with the next due date, and the group
// that comes next.
func (s *Server) run(ctx context.Context, r store.Run, m store.Machine) (Run, error) {
	now := s.now()
	out := runOut(r, m, now)
	if out.Outcome == nil {
		return out, nil
	}
	h, err := s.history(ctx, m, now)
	if err != nil {
		return out, err
	}
	if out.Descale != nil && out.Descale.Errands != nil && !r.Practice {
		for i, e := range *out.Descale.Errands {
			for _, d := range care.AllDue(m.Answers, h, now, m.Zone) {
				if string(d.Task) == e.Task && (d.OfMachine() || d.Group == 1) {
					(*out.Descale.Errands)[i].Next = dueOut(d, m.Answers.Facts().Groups, now)
				}
			}
		}
	}
	if out.Task == RunTaskWaterBackflush || r.Practice {
		return out, nil
	}
	if *out.Outcome == RunOutcomeDone && out.Task == RunTaskWash {
		lesson, err := s.lesson(ctx, m, h)
		if err != nil {
			return out, err
		}
		shown := lessonOut(lesson)
		out.Lesson = &shown
	}
	dues := care.AllDue(m.Answers, h, now, m.Zone)
	if d, ok := care.Then(dues, r.Plan.Groups()...); ok {
		out.Then = dueOut(d, m.Answers.Facts().Groups, now)
	}
	for _, d := range dues {
		if d.Task == nextOf(out.Task) && slices.Contains(r.Plan.Groups(), d.Group) && out.Next == nil {
			out.Next = dueOut(d, m.Answers.Facts().Groups, now)
		}
	}
	return out, nil
}

// GetLog is what was done, newest first, with the next date of each machine.
func (s *Server) GetLog(ctx context.Context, r GetLogRequestObject) (GetLogResponseObject, error) {
	only, limit := "", 100
	if r.Params.MachineId != nil {
		only = *r.Params.MachineId
		if _, err := s.find(ctx, only); err != nil {
			return nil, err
		}
	}
	if r.Params.Limit != nil {
		limit = *r.Params.Limit
	}
	machines, err := s.Store.Machines(ctx, false)
	if err != nil {
		return nil, err
	}
	entries, err := s.Store.Log(ctx, only, r.Params.Small != nil && *r.Params.Small, limit)
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
