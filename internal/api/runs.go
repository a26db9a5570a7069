package api

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/run"
	"freshanvil/core/task"
	"freshanvil/core/units"
	"freshanvil/internal/app"
)

// StartRun plans what is to be done to a machine or its groups and begins it.
func (s *Server) StartRun(ctx context.Context, r StartRunRequestObject) (StartRunResponseObject, error) {
	m, err := s.App.Find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	b := r.Body
	practice := orElse(b.Practice, false)
	speed := max(1, s.Speed)
	if b.Speed != nil {
		if !practice {
			return nil, &units.OutOfRange{Field: "speed", Value: fmt.Sprint(*b.Speed),
				Allowed: "nothing, but in practice: a real wash takes its time"}
		}
		speed = *b.Speed
	}
	begun := app.Begun{ID: b.Id, MachineID: m.ID, Device: b.Device, Speed: speed, Practice: practice,
		Task: task.ID(orElse(b.Task, NewRunTaskWash)), Parts: b.Parts, Method: backflush.MethodID(orElse(b.Method, "")),
		LockedIn: orElse(b.LockedIn, true), Draws: orElse(b.Draws, 0), Pulses: orElse(b.Pulses, 0),
		Entitled: orElse(b.Entitled, ""),
		Descale: app.Asked{Program: string(orElse(b.Program, "")), Product: orElse(b.Product, "citric"),
			Strength: b.StrengthGL, Renew: orElse(b.Renew, false), Wash: orElse(b.Wash, false)}}
	begun.How = app.How{Order: orElse(b.Order, nil), Cold: orElse(b.Cold, false)}
	if b.With != nil {
		for _, w := range *b.With {
			begun.With = append(begun.With, job.Want{Task: w.Task, Parts: w.Parts})
		}
	}
	if err := s.App.StartRun(ctx, begun); err != nil {
		return nil, err
	}
	have, err := s.App.Run(ctx, b.Id)
	if err != nil {
		return nil, err
	}
	out, err := s.run(ctx, have, m)
	return StartRun201JSONResponse(out), err
}

// GetRun is the run at this instant.
func (s *Server) GetRun(ctx context.Context, r GetRunRequestObject) (GetRunResponseObject, error) {
	out, err := s.runByID(ctx, r.RunId)
	return GetRun200JSONResponse(out), err
}

func (s *Server) runByID(ctx context.Context, id string) (Run, error) {
	have, err := s.App.Run(ctx, id)
	if err != nil {
		return Run{}, err
	}
	m, err := s.App.Find(ctx, have.MachineID())
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
	have, err := s.App.Press(ctx, r.RunId, p)
	if err != nil {
		return nil, err
	}
	m, err := s.App.Find(ctx, have.MachineID())
	if err != nil {
		return nil, err
	}
	out, err := s.run(ctx, have, m)
	return Press200JSONResponse(out), err
}

// VoidRun ends a run by name.
func (s *Server) VoidRun(ctx context.Context, r VoidRunRequestObject) (VoidRunResponseObject, error) {
	if err := s.App.Void(ctx, r.RunId, r.Body.Name, r.Body.Why); err != nil {
		return nil, err
	}
	out, err := s.runByID(ctx, r.RunId)
	return VoidRun200JSONResponse(out), err
}

// run shows a run; an ended one with the next due date, and the group
// that comes next.
func (s *Server) run(ctx context.Context, r app.Run, m app.Machine) (Run, error) {
	if r.Unreadable != nil {
		return Run{}, newProblem(http.StatusConflict, "run_unreadable", "This run cannot be carried on").
			say("Its plan cannot be read. End it by name; what is in the machine stays on record.").
			at("run_id", r.ID, "a run that can be read")
	}
	now := s.App.Instant()
	if r.Ended == nil {
		return runOut(r, m, s.App.Clock(r, now)), nil
	}
	out := endedOut(r, m, now)
	if r.Practice {
		return out, nil
	}
	looks, err := s.App.RunLooks(ctx, r.ID)
	if err != nil {
		return out, err
	}
	seen := looksOut(looks)
	out.Seen = &seen
	h, err := s.App.History(ctx, m, now)
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
	if r.Ended.Task.IsSmall() {
		return out, nil
	}
	if r.Ended.Outcome == run.Finished && r.Ended.Task == task.Wash {
		lesson, err := s.App.Lesson(ctx, m, h)
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
func showNext(out *Run, e app.Ended, dues []care.Due, groups int, now time.Time) {
	var washed []int
	parts := []machine.Part{{}}
	for _, a := range e.Activities {
		if g := a.Part.GroupNumber(); g > 0 {
			washed = append(washed, g)
		}
		parts = append(parts, a.Part)
	}
	standings := make([]care.Standing, len(dues))
	for i, d := range dues {
		standings[i] = d.Standing()
	}
	then, another := care.Then(standings, washed...)
	for _, d := range dues {
		if another && d.Task == then.Task && d.Part == then.Part {
			out.Then = dueOut(d, groups, now)
		}
		if d.Task == e.Task.Tells() && slices.Contains(parts, d.Part) && out.Next == nil {
			out.Next = dueOut(d, groups, now)
		}
	}
}
