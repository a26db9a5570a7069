package api

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/units"
	"freshanvil/internal/store"
)

// PreviewPlan says what the five answers come to; it writes nothing.
func (s *Server) PreviewPlan(_ context.Context, r PreviewPlanRequestObject) (PreviewPlanResponseObject, error) {
	a, _, err := answersIn(*r.Body)
	if err != nil {
		return nil, err
	}
	now := s.now()
	var h care.History
	for g := range a.Facts().Groups {
		h.Done = append(h.Done, care.Done{Task: care.Wash, Group: g + 1, At: now}, care.Done{Task: care.HandClean, Group: g + 1, At: now})
	}
	p, err := planOut(a, care.AllDue(a, h, now, time.UTC))
	return PreviewPlan200JSONResponse(p), err
}

// CreateMachine keeps a machine.
func (s *Server) CreateMachine(ctx context.Context, r CreateMachineRequestObject) (CreateMachineResponseObject, error) {
	a, h, err := answersIn(r.Body.Answers)
	if err != nil {
		return nil, under("answers", err)
	}
	zone, err := zoneIn(r.Body.Zone)
	if err != nil {
		return nil, err
	}
	if err := s.Store.AddMachine(ctx, store.Machine{ID: r.Body.Id, Name: r.Body.Name, Zone: zone, Answers: a, Hardness: h}, s.now()); err != nil {
		return nil, err
	}
	m, err := s.machine(ctx, r.Body.Id)
	return CreateMachine201JSONResponse(m), err
}

// under puts a field that is not allowed below the one that holds it.
func under(field string, err error) error {
	var bad *units.OutOfRange
	if errors.As(err, &bad) {
		return &units.OutOfRange{Field: field + "." + bad.Field, Value: bad.Value, Allowed: bad.Allowed}
	}
	return err
}

func zoneIn(name string) (*time.Location, error) {
	zone, err := time.LoadLocation(name)
	if err != nil || name == "" || name == "Local" {
		return nil, &units.OutOfRange{Field: "zone", Value: shorten(name), Allowed: "an IANA time zone such as Europe/Lisbon"}
	}
	return zone, nil
}

// now is cut to the millisecond, as everything that is stored.
func (s *Server) now() time.Time { return s.Now().UTC().Truncate(time.Millisecond) }

func (s *Server) find(ctx context.Context, id string) (store.Machine, error) {
	m, err := s.Store.Machine(ctx, id)
	if errors.Is(err, store.ErrNotFound) {
		return m, newProblem(http.StatusNotFound, "No such machine").at("machine_id", id, "the id of a machine on the bench")
	}
	return m, err
}

// GetMachine is one machine with its plan.
func (s *Server) GetMachine(ctx context.Context, r GetMachineRequestObject) (GetMachineResponseObject, error) {
	m, err := s.machine(ctx, r.MachineId)
	return GetMachine200JSONResponse(m), err
}

// ChangeAnswers lets new answers hold from now on.
func (s *Server) ChangeAnswers(ctx context.Context, r ChangeAnswersRequestObject) (ChangeAnswersResponseObject, error) {
	if _, err := s.find(ctx, r.MachineId); err != nil {
		return nil, err
	}
	a, h, err := answersIn(*r.Body)
	if err != nil {
		return nil, err
	}
	if err := s.refuseChange(ctx, r.MachineId); err != nil {
		return nil, err
	}
	if err := s.Store.ChangeAnswers(ctx, r.MachineId, a, h, s.now()); err != nil {
		return nil, err
	}
	m, err := s.machine(ctx, r.MachineId)
	return ChangeAnswers200JSONResponse(m), err
}

// refuseChange: while a run is open or detergent is inside, the answers that
// the way out was planned from must hold.
func (s *Server) refuseChange(ctx context.Context, id string) error {
	hazards, err := s.Store.Hazards(ctx)
	if err != nil {
		return err
	}
	for _, h := range hazards {
		if h.MachineID == id {
			return newProblem(http.StatusConflict, bandText(h.Group)).at("machine_id", id, "a machine without detergent inside: rinse it first")
		}
	}
	open, err := s.Store.OpenRuns(ctx)
	if err != nil {
		return err
	}
	for _, r := range open {
		if r.MachineID == id {
			return newProblem(http.StatusConflict, "A run is open on this machine").at("machine_id", id, "a machine without an open run: finish or stop it first")
		}
	}
	return nil
}

// RecordCare puts care on record that was done without a run.
func (s *Server) RecordCare(ctx context.Context, r RecordCareRequestObject) (RecordCareResponseObject, error) {
	m, err := s.find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	if err := checkGroup(r.Body.Group, 1, m); err != nil {
		return nil, err
	}
	if err := s.checkPast(r.Body.At, careReach); err != nil {
		return nil, err
	}
	task := care.Task(r.Body.Task)
	if gate := backflush.Gate(m.Answers.Facts()); task == care.Wash && gate.Verdict == "refused" {
		p := newProblem(http.StatusUnprocessableEntity, gate.Title).at("task", string(task), string(care.HandClean))
		p.Finding = &gate
		return nil, p
	}
	if err := s.Store.AddCare(ctx, r.Body.Id, m.ID, task, r.Body.Group, r.Body.At); err != nil {
		return nil, err
	}
	out, err := s.machine(ctx, m.ID)
	return RecordCare201JSONResponse(out), err
}

// How far back care and use may be put on record, in years.
const (
	careReach = 10
	useReach  = 1
)

// checkPast: a device's clock may be a minute fast, no more.
func (s *Server) checkPast(at time.Time, years int) error {
	now := s.now()
	if at.After(now.Add(time.Minute)) || at.Before(now.AddDate(-years, 0, 0)) {
		return &units.OutOfRange{Field: "at", Value: at.Format(time.RFC3339), Allowed: fmt.Sprintf("a time that is past, at most %d years back", years)}
	}
	return nil
}

func checkGroup(group, least int, m store.Machine) error {
	if most := m.Answers.Facts().Groups; group < least || group > most {
		return &units.OutOfRange{Field: "group", Value: fmt.Sprint(group), Allowed: fmt.Sprintf("%d to %d", least, most)}
	}
	return nil
}

// LogUse logs drinks and flushes, or takes an entry back.
func (s *Server) LogUse(ctx context.Context, r LogUseRequestObject) (LogUseResponseObject, error) {
	m, err := s.find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	now := s.now()
	e := care.UseEvent{ID: r.Body.Id, Kind: care.UseKind(r.Body.Kind), Count: 1, From: r.Body.At, To: r.Body.At}
	if r.Body.Count != nil {
		e.Count = *r.Body.Count
	}
	if r.Body.Group != nil {
		e.Group = *r.Body.Group
	}
	supersedes := ""
	if r.Body.Supersedes != nil {
		supersedes = *r.Body.Supersedes
	}
	if err := checkGroup(e.Group, 0, m); err != nil {
		return nil, err
	}
	if err := s.checkPast(e.From, useReach); err != nil {
		return nil, err
	}
	if (e.Kind == store.Undo) != (supersedes != "") {
		return nil, &units.OutOfRange{Field: "supersedes", Value: supersedes, Allowed: "the id of an entry, with kind undo and only with it"}
	}
	if e.Kind != store.Undo && e.Kind != care.Flush {
		if err := s.refuseDrink(ctx, m, e.Group); err != nil {
			return nil, err
		}
	}
	if err := s.Store.AddUse(ctx, m.ID, "pressed", supersedes, e); err != nil {
		return nil, err
	}
	list, err := s.bench(ctx, []store.Machine{m}, now)
	if err != nil {
		return nil, err
	}
	return LogUse201JSONResponse(list[0]), nil
}

// refuseDrink: no drinks from a group that holds detergent. A drink of the
// whole machine counts on every group.
func (s *Server) refuseDrink(ctx context.Context, m store.Machine, group int) error {
	all, err := s.Store.Hazards(ctx)
	if err != nil {
		return err
	}
	var inside []store.Hazard
	for _, h := range all {
		if h.MachineID == m.ID && (group == 0 || h.Group == group) {
			inside = append(inside, h)
		}
	}
	if len(inside) == 0 {
		return nil
	}
	return newProblem(http.StatusConflict, bandText(inside[0].Group)).
		at("group", fmt.Sprint(group), "a group without detergent; group "+groupList(inside)+" holds some: rinse it first")
}

// machine is one machine as it stands.
func (s *Server) machine(ctx context.Context, id string) (Machine, error) {
	m, err := s.find(ctx, id)
	if err != nil {
		return Machine{}, err
	}
	list := []store.Machine{m}
	history, err := s.Store.Histories(ctx, list)
	if err != nil {
		return Machine{}, err
	}
	plan, err := planOut(m.Answers, care.AllDue(m.Answers, history[m.ID], s.now(), m.Zone))
	if err != nil {
		return Machine{}, err
	}
	bench, err := s.bench(ctx, list, s.now())
	if err != nil {
		return Machine{}, err
	}
	return Machine{Id: m.ID, Name: m.Name, Zone: m.Zone.String(), Answers: answersOut(m), Plan: plan, Hazards: bench[0].Hazards, OpenRun: bench[0].OpenRun}, nil
}

// GetBench is every machine with its one next job.
func (s *Server) GetBench(ctx context.Context, _ GetBenchRequestObject) (GetBenchResponseObject, error) {
	list, err := s.Store.Machines(ctx)
	if err != nil {
		return nil, err
	}
	now := s.now()
	machines, err := s.bench(ctx, list, now)
	return GetBench200JSONResponse{Now: now, Machines: machines}, err
}

func (s *Server) bench(ctx context.Context, list []store.Machine, now time.Time) ([]BenchMachine, error) {
	histories, err := s.Store.Histories(ctx, list)
	if err != nil {
		return nil, err
	}
	hazards, err := s.Store.Hazards(ctx)
	if err != nil {
		return nil, err
	}
	open, err := s.Store.OpenRuns(ctx)
	if err != nil {
		return nil, err
	}
	out := make([]BenchMachine, len(list))
	for i, m := range list {
		b := BenchMachine{Id: m.ID, Name: m.Name, Zone: m.Zone.String(), LayoutTitle: m.Answers.Layout.Title(), Groups: m.Answers.Facts().Groups,
			Gate: backflush.Gate(m.Answers.Facts()), Hazards: []Hazard{}}
		dues := care.AllDue(m.Answers, histories[m.ID], now, m.Zone)
		group := 1
		if len(dues) > 0 {
			b.Next, group = dueOut(dues[0], b.Groups), dues[0].Group
		}
		for _, h := range hazards {
			if h.MachineID == m.ID {
				b.Hazards = append(b.Hazards, hazardOut(h, m.Name))
				group = h.Group
			}
		}
		for _, r := range open {
			if r.MachineID == m.ID {
				b.OpenRun = &OpenRun{Id: r.ID, Group: r.Group, Title: r.Plan.Title}
			}
		}
		if b.Wash, err = washOut(m.Answers, group, len(b.Hazards) > 0); err != nil {
			return nil, err
		}
		if err := s.today(ctx, m, now, &b); err != nil {
			return nil, err
		}
		out[i] = b
	}
	return out, nil
}

func (s *Server) today(ctx context.Context, m store.Machine, now time.Time, b *BenchMachine) error {
	events, err := s.Store.UseSince(ctx, m.ID, care.Day(now, m.Zone).Add(-time.Millisecond))
	if err != nil {
		return err
	}
	for _, e := range events {
		if e.Kind != care.Flush {
			b.Today.Drinks += e.Count
		}
		kind := string(e.Kind)
		b.Today.LastEntry, b.Today.LastKind = &e.ID, &kind
	}
	return nil
}
