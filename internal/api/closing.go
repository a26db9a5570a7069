package api

import (
	"context"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/inspect"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/task"
	"freshanvil/core/use"
	"freshanvil/internal/app"
)

// GetClosing is tonight's jobs of a machine, and the nights before.
func (s *Server) GetClosing(ctx context.Context, r GetClosingRequestObject) (GetClosingResponseObject, error) {
	m, err := s.App.Find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	now := s.App.Instant()
	c, err := s.App.Closing(ctx, m, now)
	if err != nil {
		return nil, err
	}
	people, err := s.App.People(ctx)
	if err != nil {
		return nil, err
	}
	hazards, open, err := s.stands(ctx, m.ID)
	if err != nil {
		return nil, err
	}
	out := Closing{MachineId: m.ID, MachineName: m.Name, Zone: m.Zone.String(), Day: use.Day(now, m.Zone).UTC(),
		Jobs: make([]CloseJob, len(c.Jobs)), Morning: orNone(c.Morning), EveryNight: []NightJob{}, Pulses: c.Pulses,
		Nights: make([]Night, len(c.Nights)), People: peopleOut(people),
		Hazards: hazardsOut(hazards, m), OpenRun: openOn(open, m.ID)}
	for g := range m.Answers.Facts().Groups {
		out.Groups = append(out.Groups, machine.Group(g+1))
	}
	for i, j := range c.Jobs {
		out.Jobs[i] = closeJobOut(j, m.Answers)
	}
	for _, j := range c.Every {
		out.EveryNight = append(out.EveryNight, NightJob{Task: j.Task, Title: j.Title, How: j.How})
	}
	if out.Together, err = s.closeTogether(ctx, m, c); err != nil {
		return nil, err
	}
	if c.AfterDrink != nil {
		out.AfterDrink = &smallOut([]care.Chore{*c.AfterDrink})[0]
	}
	for i, n := range c.Nights {
		out.Nights[i] = Night{Day: n.Day.UTC(), State: NightState(n.State), Missing: orNone(n.Missing), By: orNone(n.By)}
	}
	return GetClosing200JSONResponse(out), nil
}

// closeTogether is what of a close one run leads; nil where that is one job, or none.
func (s *Server) closeTogether(ctx context.Context, m app.Machine, c care.Closing) (*CloseTogether, error) {
	var due []task.ID
	for _, j := range c.Jobs {
		if j.Done.IsZero() {
			due = append(due, j.Task)
		}
	}
	return s.eveningFrom(ctx, m, due, s.App.Instant())
}

// after is so many minutes after an instant.
func after(t time.Time, minutes float64) time.Time {
	return t.Add(time.Duration(minutes * float64(time.Minute))).UTC()
}

// evening is tonight's close as the bench says it beforehand; nil where there is none.
func (s *Server) evening(ctx context.Context, m app.Machine, kept []care.Standing, now time.Time) (*CloseEvening,
	error) {
	full, err := s.eveningOf(ctx, m, kept, now)
	if full == nil {
		return nil, err
	}
	return &CloseEvening{Minutes: full.Minutes.Value, HandsMin: full.HandsMin, EndAt: full.EndAt}, err
}

// eveningOf is what of tonight's close is led, begun about when the last drink is made; nil where there is none.
func (s *Server) eveningOf(ctx context.Context, m app.Machine, kept []care.Standing, now time.Time) (*CloseTogether,
	error) {
	due, begin := care.Tonight(kept, now)
	return s.eveningFrom(ctx, m, due, begin)
}

func (s *Server) eveningFrom(ctx context.Context, m app.Machine, due []task.ID, begin time.Time) (*CloseTogether,
	error) {
	e, err := s.App.EveningOf(ctx, m, due)
	if err != nil || len(e.Wants) == 0 {
		return nil, err
	}
	return &CloseTogether{Tasks: tasksOut(e.Wants), Titles: e.Plan.Titles(), Minutes: e.Plan.Minutes,
		HandsMin: e.Hands().Minutes(), EndAt: after(begin, e.Plan.Minutes.Value)}, nil
}

// closeJobOut is a job of the night, with how its run is started where one leads it.
func closeJobOut(j care.Close, a machine.Answers) CloseJob {
	row := j.Task.Row()
	out := CloseJob{Task: j.Task, Title: j.Title, How: j.How, Because: j.Because, Due: j.Due, Way: TaskWay(row.Way),
		Tick: row.Way == task.Small, Leads: row.Way == task.Led || row.Leads || j.Leads != "", DoneAt: ptr(j.Done),
		By: ptr(j.By), CareId: ptr(j.Line), Method: ptr(string(j.Leads)), Parts: []machine.Part{}}
	if j.Task.IsOfMachine() {
		out.Parts = append(out.Parts, machine.Part{})
		return out
	}
	for g := range a.Facts().Groups {
		out.Parts = append(out.Parts, machine.Group(g+1))
	}
	return out
}

func orNone(list []string) []string { return append([]string{}, list...) }

// RecordLook keeps what somebody saw of a part.
func (s *Server) RecordLook(ctx context.Context, r RecordLookRequestObject) (RecordLookResponseObject, error) {
	b := r.Body
	seen := app.Seen{ID: b.Id, MachineID: r.MachineId, Found: inspect.Found{Sight: inspect.Sight(b.Sight), Part: b.Part,
		Verdict: inspect.Verdict(b.Verdict), At: b.At, Number: b.Number}}
	if err := s.App.RecordLook(ctx, seen); err != nil {
		return nil, err
	}
	out, err := s.machine(ctx, r.MachineId)
	return RecordLook201JSONResponse(out), err
}

// TakeLookBack takes a look back.
func (s *Server) TakeLookBack(ctx context.Context, r TakeLookBackRequestObject) (TakeLookBackResponseObject, error) {
	return TakeLookBack204Response{}, s.App.TakeLookBack(ctx, r.MachineId, r.LookId)
}

// ListPeople is who does the small jobs.
func (s *Server) ListPeople(ctx context.Context, _ ListPeopleRequestObject) (ListPeopleResponseObject, error) {
	out, err := s.people(ctx)
	return ListPeople200JSONResponse(out), err
}

// AddPerson puts somebody on the list.
func (s *Server) AddPerson(ctx context.Context, r AddPersonRequestObject) (AddPersonResponseObject, error) {
	p := app.Person{ID: r.Body.Id, Name: r.Body.Name, Initials: orElse(r.Body.Initials, "")}
	if err := s.App.AddPerson(ctx, p); err != nil {
		return nil, err
	}
	out, err := s.people(ctx)
	return AddPerson201JSONResponse(out), err
}

// ForgetPerson takes somebody off the list.
func (s *Server) ForgetPerson(ctx context.Context, r ForgetPersonRequestObject) (ForgetPersonResponseObject, error) {
	if err := s.App.ForgetPerson(ctx, r.PersonId); err != nil {
		return nil, err
	}
	out, err := s.people(ctx)
	return ForgetPerson200JSONResponse(out), err
}

func (s *Server) people(ctx context.Context) (People, error) {
	list, err := s.App.People(ctx)
	return People{People: peopleOut(list)}, err
}

func peopleOut(list []app.Person) []Person {
	out := make([]Person, len(list))
	for i, p := range list {
		out[i] = Person{Id: p.ID, Name: p.Name, Initials: p.Initials}
	}
	return out
}

// looksOut are looks with what they mean.
func looksOut(list []app.Look) []Found {
	out := make([]Found, 0, len(list))
	for _, l := range list {
		row, known := inspect.Find(l.Sight)
		if !known {
			continue
		}
		seen := l.Seen()
		out = append(out, Found{Id: l.ID, Sight: string(l.Sight), Title: row.Title, Part: l.Part,
			Verdict: string(l.Verdict), Text: seen.Text, Means: seen.Means, Bad: seen.Bad, At: l.At, RunId: ptr(l.RunID),
			Symptom: ptr(seen.Symptom), Number: ptr(row.Read(l.Number))})
	}
	return out
}

func fitsOut(list []care.Fit) []Fit {
	out := make([]Fit, len(list))
	for i, f := range list {
		out[i] = Fit{Part: f.Part, What: f.What, Found: f.Found.Seen().Text}
	}
	return out
}

// wayOut is an answer, with what it means where it is a verdict that is kept.
func wayOut(w job.Way, sight inspect.Sight) Way {
	out := Way{What: string(w.Answer), Text: w.Text}
	if row, known := inspect.Find(sight); known {
		if seen, is := row.Find(inspect.Verdict(w.Answer)); is {
			out.Means, out.Bad = &seen.Means, &seen.Bad
		}
	}
	return out
}
