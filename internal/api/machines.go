package api

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/oapi-codegen/runtime/types"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
	"freshanvil/internal/store"
)

// PreviewPlan says what the five answers come to; it writes nothing.
func (s *Server) PreviewPlan(ctx context.Context, r PreviewPlanRequestObject) (PreviewPlanResponseObject, error) {
	a, _, err := answersIn(*r.Body)
	if err != nil {
		return nil, err
	}
	now := s.now()
	var h care.History
	for g := range a.Facts().Groups {
		h.Done = append(
			h.Done,
			care.Done{Task: care.Wash, Part: machine.Group(g + 1), At: now},
			care.Done{Task: care.HandClean, Part: machine.Group(g + 1), At: now},
		)
	}
	in, err := s.detergent(ctx)
	if err != nil {
		return nil, err
	}
	p, err := planOut(a, care.Choice{}, care.AllDue(a, h, now, time.UTC), in, now)
	return PreviewPlan200JSONResponse(p), err
}

// CreateMachine keeps a machine.
func (s *Server) CreateMachine(
	ctx context.Context,
	r CreateMachineRequestObject,
) (CreateMachineResponseObject, error) {
	a, h, err := answersIn(r.Body.Answers)
	if err != nil {
		return nil, under("answers", err)
	}
	zone, err := zoneIn(r.Body.Zone)
	if err != nil {
		return nil, err
	}
	if err := s.Store.AddMachine(ctx,
		store.Machine{ID: r.Body.Id, Name: r.Body.Name, Zone: zone, Answers: a, Hardness: h}, s.now()); err != nil {
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
		return nil, &units.OutOfRange{
			Field:   "zone",
			Value:   shorten(name),
			Allowed: "an IANA time zone such as Europe/Lisbon",
		}
	}
	return zone, nil
}

// now is cut to the millisecond, as everything that is stored.
func (s *Server) now() time.Time { return s.Now().UTC().Truncate(time.Millisecond) }

func (s *Server) find(ctx context.Context, id string) (store.Machine, error) {
	m, err := s.Store.Machine(ctx, id)
	if errors.Is(err, store.ErrNotFound) {
		return m, newProblem(
			http.StatusNotFound,
			"not_found",
			"No such machine",
		).at("machine_id", id, "the id of a machine on the bench")
	}
	return m, err
}

// GetMachine is one machine with its plan.
func (s *Server) GetMachine(ctx context.Context, r GetMachineRequestObject) (GetMachineResponseObject, error) {
	m, err := s.machine(ctx, r.MachineId)
	return GetMachine200JSONResponse(m), err
}

// ChangeAnswers lets new answers hold from now on.
func (s *Server) ChangeAnswers(
	ctx context.Context,
	r ChangeAnswersRequestObject,
) (ChangeAnswersResponseObject, error) {
	was, err := s.find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	a, h, err := answersIn(*r.Body)
	if err != nil {
		return nil, err
	}
	a.Overrides = keep(was.Answers.Overrides, a)
	if err := s.refuseChange(ctx, r.MachineId); err != nil {
		return nil, err
	}
	if err := s.Store.ChangeAnswers(ctx, r.MachineId, a, h, s.now()); err != nil {
		return nil, err
	}
	m, err := s.machine(ctx, r.MachineId)
	return ChangeAnswers200JSONResponse(m), err
}

// keep gives the facts that a machine of the new answers still has.
func keep(facts map[string]string, a machine.Answers) map[string]string {
	kept := map[string]string{}
	for key, value := range facts {
		if a.CheckOverride(key, value) == nil {
			kept[key] = value
		}
	}
	return kept
}

// ChangeFacts says facts of a machine, all or none.
func (s *Server) ChangeFacts(ctx context.Context, r ChangeFactsRequestObject) (ChangeFactsResponseObject, error) {
	m, err := s.find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	a := m.Answers
	a.Overrides = maps.Clone(a.Overrides)
	if a.Overrides == nil {
		a.Overrides = map[string]string{}
	}
	for _, f := range r.Body.Facts {
		if f.Value == nil {
			if err := a.CheckOverride(f.Key, ""); fieldOf(err) == "key" {
				return nil, err
			}
			delete(a.Overrides, f.Key)
			continue
		}
		if err := a.CheckOverride(f.Key, *f.Value); err != nil {
			return nil, err
		}
		a.Overrides[f.Key] = *f.Value
	}
	if err := s.refuseChange(ctx, m.ID); err != nil {
		return nil, err
	}
	if err := s.Store.ChangeAnswers(ctx, m.ID, a, m.Hardness, s.now()); err != nil {
		return nil, err
	}
	out, err := s.machine(ctx, m.ID)
	return ChangeFacts200JSONResponse(out), err
}

func fieldOf(err error) string {
	var bad *units.OutOfRange
	if errors.As(err, &bad) {
		return bad.Field
	}
	return ""
}

// ChangeDetails changes name, owner and place, and archives.
func (s *Server) ChangeDetails(
	ctx context.Context,
	r ChangeDetailsRequestObject,
) (ChangeDetailsResponseObject, error) {
	m, err := s.find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	if r.Body.Archived && !m.Archived {
		if err := s.refuseChange(ctx, m.ID); err != nil {
			return nil, err
		}
	}
	m.Name, m.Owner, m.Place, m.Archived = r.Body.Name, r.Body.Owner, r.Body.Place, r.Body.Archived
	if err := s.Store.Describe(ctx, m, s.now()); err != nil {
		return nil, err
	}
	out, err := s.machine(ctx, m.ID)
	return ChangeDetails200JSONResponse(out), err
}

// SignOff clears a group on a technician's word.
func (s *Server) SignOff(ctx context.Context, r SignOffRequestObject) (SignOffResponseObject, error) {
	m, err := s.find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	name := strings.TrimSpace(r.Body.Name)
	if len(name) < 2 {
		return nil, &units.OutOfRange{Field: "name", Value: shorten(r.Body.Name), Allowed: "the name of who vouches"}
	}
	part := r.Body.Part
	if !part.IsWhole() {
		if err := checkPart(part, m); err != nil {
			return nil, err
		}
	}
	err = s.Store.SignOff(ctx, r.Body.Id, m.ID, part, name, r.Body.Note, s.now())
	if errors.Is(err, store.ErrConflict) {
		return nil, newProblem(http.StatusConflict, "nothing_inside", "Nothing to sign off").
			at("part", part.String(), "a group that holds detergent or may be under pressure, or the machine where acid "+
				"is in its circuits, and no open run")
	}
	if err != nil {
		return nil, err
	}
	out, err := s.machine(ctx, m.ID)
	return SignOff201JSONResponse(out), err
}

// refuseChange: while a run is open or detergent is inside, the answers that
// the way out was planned from must hold.
func (s *Server) refuseChange(ctx context.Context, id string) error {
	hazards, err := s.Store.Hazards(ctx)
	if err != nil {
		return err
	}
	if text := store.Contents(hazards, id).Holds(); text != "" {
		return newProblem(
			http.StatusConflict,
			string(job.ChemicalInside),
			text,
		).at("machine_id", id, "a machine without detergent or acid inside: rinse it first")
	}
	open, err := s.Store.OpenRuns(ctx)
	if err != nil {
		return err
	}
	for _, r := range open {
		if slices.Contains(r.Machines, id) {
			return newProblem(http.StatusConflict, "run_open", "A run is open on this machine").
				at("machine_id", id, "a machine without an open run: finish or stop it first")
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
	task := care.Task(r.Body.Task)
	if err := checkPartOf(task, r.Body.Part, m); err != nil {
		return nil, err
	}
	at, err := s.past(r.Body.At, careReach)
	if err != nil {
		return nil, err
	}
	if gate := backflush.Gate(m.Answers.Facts()); task == care.Wash && gate.Verdict == reason.Refused {
		return nil, &reason.Refusal{Code: backflush.NoValve, Field: "task", Value: string(task),
			Allowed: string(care.HandClean), Finding: gate}
	}
	if err := s.Store.AddCare(ctx, r.Body.Id, m.ID, task, r.Body.Part, at); err != nil {
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

// past is a time that is past. A device's clock may be a minute fast, no more:
// what it says is then now.
func (s *Server) past(at time.Time, years int) (time.Time, error) {
	now := s.now()
	if at.After(now.Add(time.Minute)) || at.Before(now.AddDate(-years, 0, 0)) {
		return at, &units.OutOfRange{
			Field:   "at",
			Value:   at.Format(time.RFC3339),
			Allowed: fmt.Sprintf("a time that is past, at most %d years back", years),
		}
	}
	if at.After(now) {
		at = now
	}
	return at, nil
}

// checkPart refuses a part that is not a group of the machine.
func checkPart(part machine.Part, m store.Machine) error {
	if n, most := part.GroupNumber(), m.Answers.Facts().Groups; n < 1 || n > most {
		return &units.OutOfRange{Field: "part", Value: part.String(), Allowed: fmt.Sprintf("group-1 to group-%d", most)}
	}
	return nil
}

// checkPartOf refuses a part that a task is not of.
func checkPartOf(task care.Task, part machine.Part, m store.Machine) error {
	if !task.OfMachine() {
		return checkPart(part, m)
	}
	if !part.IsWhole() {
		return &units.OutOfRange{Field: "part", Value: part.String(), Allowed: "machine, for " + string(task)}
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
	e := care.UseEvent{ID: r.Body.Id, Kind: care.UseKind(r.Body.Kind), Count: 1}
	if r.Body.Count != nil {
		e.Count = *r.Body.Count
	}
	e.Part = orElse(r.Body.Part, machine.Part{})
	supersedes := ""
	if r.Body.Supersedes != nil {
		supersedes = *r.Body.Supersedes
	}
	if !e.Part.IsWhole() {
		if err := checkPart(e.Part, m); err != nil {
			return nil, err
		}
	}
	at, err := s.past(r.Body.At, useReach)
	if err != nil {
		return nil, err
	}
	e.From, e.To = at, at
	if e.Kind == store.Undo && supersedes == "" {
		return nil, &units.OutOfRange{
			Field:   "supersedes",
			Value:   "nothing",
			Allowed: "the id of the entry to take back",
		}
	}
	if supersedes != "" { // what was counted over a span stays over it
		was, err := s.Store.Use(ctx, m.ID, supersedes)
		if err == nil && was.From.Before(was.To) {
			e.From, e.To = was.From, was.To
		} else if err != nil && !errors.Is(err, store.ErrNotFound) {
			return nil, err
		}
	}
	if err := s.refuseDrink(ctx, m, e); err != nil {
		return nil, err
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

// refuseDrink: no drinks from a group that holds detergent, none at all where acid
// is in.
func (s *Server) refuseDrink(ctx context.Context, m store.Machine, e care.UseEvent) error {
	all, err := s.Store.Hazards(ctx)
	if err != nil {
		return err
	}
	in := store.Contents(all, m.ID)
	in.Layout = m.Answers.Layout
	barred := in.Bars(e.Kind, e.Part, m.Answers.Facts().Groups)
	if len(barred) == 0 {
		return nil
	}
	if len(in.Acid) == 0 {
		in.Detergent = barred
	}
	return newProblem(http.StatusConflict, string(job.ChemicalInside), in.Holds()).
		at("part", e.Part.String(), "a group without detergent or acid; it is in "+in.Names()+": rinse it first")
}

// machine is one machine as it stands.
func (s *Server) machine(ctx context.Context, id string) (Machine, error) {
	m, err := s.find(ctx, id)
	if err != nil {
		return Machine{}, err
	}
	now := s.now()
	list := []store.Machine{m}
	h, err := s.history(ctx, m, now)
	if err != nil {
		return Machine{}, err
	}
	in, err := s.detergent(ctx)
	if err != nil {
		return Machine{}, err
	}
	plan, err := planOut(m.Answers, h.Choice, care.AllDue(m.Answers, h, now, m.Zone), in, now)
	if err != nil {
		return Machine{}, err
	}
	bench, err := s.bench(ctx, list, now)
	if err != nil {
		return Machine{}, err
	}
	aways, err := s.Store.Aways(ctx, m.ID)
	if err != nil {
		return Machine{}, err
	}
	reading, err := s.Store.LastReading(ctx, m.ID)
	if err != nil {
		return Machine{}, err
	}
	out := Machine{
		Id:       m.ID,
		Name:     m.Name,
		Owner:    m.Owner,
		Place:    m.Place,
		Archived: m.Archived,
		Facts:    factsOut(m.Answers),
		Zone:     m.Zone.String(),
		Answers:  answersOut(m),
		Plan:     plan,
		Hazards:  bench[0].Hazards,
		OpenRun:  bench[0].OpenRun,
		Away:     make([]Away, len(aways)),
	}
	for i, w := range aways {
		last := w.To.In(m.Zone).AddDate(0, 0, -1)
		out.Away[i] = Away{
			Id:   w.ID,
			From: types.Date{Time: w.From.In(m.Zone)},
			To:   types.Date{Time: last},
			Note: w.Note,
		}
	}
	out.Counter.Each = m.Answers.Facts().CountsADrink()
	if wash := lastWash(h); reading != nil {
		out.Counter.Last, out.Counter.LastAt, out.Counter.Washed = &reading.Value, &reading.At, ptr(
			wash.After(reading.At),
		)
	}
	return out, nil
}

// GetBench is every machine with its one next job.
func (s *Server) GetBench(ctx context.Context, r GetBenchRequestObject) (GetBenchResponseObject, error) {
	list, err := s.Store.Machines(ctx, r.Params.Archived != nil && *r.Params.Archived)
	if err != nil {
		return nil, err
	}
	now := s.now()
	machines, err := s.bench(ctx, list, now)
	if err != nil {
		return nil, err
	}
	slices.SortStableFunc(machines, func(a, b BenchMachine) int { return presses(a) - presses(b) })
	return GetBench200JSONResponse{Now: now, Machines: machines}, nil
}

// presses says how much a machine presses, 0 the most: a chemical inside, an
// open run, then what is due.
func presses(m BenchMachine) int {
	switch {
	case len(m.Hazards) > 0:
		return 0
	case m.OpenRun != nil:
		return 1
	case m.Next == nil:
		return 9
	}
	return 2 + care.State(m.Next.State).Rank()
}

func (s *Server) bench(ctx context.Context, list []store.Machine, now time.Time) ([]BenchMachine, error) {
	histories, err := s.Store.Histories(ctx, list, now)
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
	in, err := s.detergent(ctx)
	if err != nil {
		return nil, err
	}
	today, err := s.today(ctx, list, now)
	if err != nil {
		return nil, err
	}
	out := make([]BenchMachine, len(list))
	for i, m := range list {
		b := benchOut(m, histories[m.ID], hazards, now)
		for _, r := range open {
			if slices.Contains(r.Machines, m.ID) {
				b.OpenRun = openRunOut(r)
			}
		}
		targets := targetsOf(&b, store.Contents(hazards, m.ID))
		choice := histories[m.ID].Choice.Settled(m.Answers)
		if b.Wash, err = washOut(m.Answers, choice, in, targets...); err != nil {
			return nil, err
		}
		if t, any := today[m.ID]; any {
			kind := string(t.Kind)
			b.Today.Drinks, b.Today.LastEntry, b.Today.LastKind = t.Drinks, &t.ID, &kind
		}
		out[i] = b
	}
	return out, nil
}

// benchOut is a machine with its one next job and what is in it.
func benchOut(m store.Machine, h care.History, hazards []store.Hazard, now time.Time) BenchMachine {
	f := m.Answers.Facts()
	b := BenchMachine{Id: m.ID, Name: m.Name, Owner: m.Owner, Place: m.Place, Archived: m.Archived,
		Zone: m.Zone.String(), LayoutTitle: m.Answers.Layout.Title(), Groups: f.Groups, Gate: gateOut(f),
		Hazards: []Hazard{}, Together: []Part{}, Small: smallOut(care.Chores(m.Answers, h, now, m.Zone))}
	dues := care.AllDue(m.Answers, h, now, m.Zone)
	if len(dues) > 0 {
		b.Next = dueOut(dues[0], f.Groups, now)
	}
	for i, d := range dues {
		if i > 0 && d.Task == care.Descale {
			b.Scale = dueOut(d, f.Groups, now)
		}
	}
	if list := care.Together(dues); len(list) > 0 {
		b.Next.Head = dues[0].Head(f.Groups, list...)
		for _, g := range list {
			b.Together = append(b.Together, machine.Group(g))
		}
	}
	for _, x := range hazards {
		if x.MachineID == m.ID {
			b.Hazards = append(b.Hazards, hazardOut(x, m))
		}
	}
	if said, any := care.ThrowAway(care.FirstShotAway(m.Answers, h, now)); any {
		b.ThrowAway = &said.Text
	}
	b.Rescue = rescueOut(f, store.Contents(hazards, m.ID))
	return b
}

// targetsOf is what a wash of a machine would be for: what was left in comes first.
func targetsOf(b *BenchMachine, in job.Contents) []job.Target {
	if len(in.Detergent) > 0 {
		b.Together = append([]Part{}, in.Detergent...)
	}
	list := []job.Target{}
	for _, part := range b.Together {
		list = append(list, job.Target{Group: part.GroupNumber(), Dirty: slices.Contains(in.Detergent, part),
			Blind: in.Blind[part]})
	}
	if len(list) == 0 {
		return []job.Target{{Group: 1}}
	}
	return list
}

// gateOut says whether a machine may be backflushed now, or why not.
func gateOut(f machine.Facts) reason.Finding {
	var no *reason.Refusal
	if errors.As(backflush.Ready(f), &no) {
		return no.Finding
	}
	return backflush.Gate(f)
}

// rescueOut is what there is to do where what is in a machine is not led out of it;
// nil where it is.
func rescueOut(f machine.Facts, in job.Contents) *reason.Finding {
	var no *reason.Refusal
	if len(in.Acid) > 0 {
		if _, err := descale.ToRinse(f); errors.As(err, &no) {
			return &no.Finding
		}
	}
	for g := range f.Groups {
		if part := machine.Group(g + 1); job.Bars(in.Blind[part]) {
			return &job.Blocked(part, in.Blind[part]).Finding
		}
	}
	return nil
}

func openRunOut(r store.Run) *OpenRun {
	out := &OpenRun{Id: r.ID, Parts: []Part{}, Where: "the machine", Title: "A run that cannot be carried on"}
	if r.Unreadable != nil {
		out.Unreadable = ptr(true)
		return out
	}
	for _, a := range r.Plan.Activities {
		out.Parts = append(out.Parts, a.Part)
	}
	out.Where, out.Title = r.Plan.Where(), r.Plan.Leads().Title
	return out
}

// today is what was pressed in on each machine since its day turned, zone by
// zone, since days turn with the zone.
func (s *Server) today(ctx context.Context, list []store.Machine, now time.Time) (map[string]store.Today, error) {
	out, done := map[string]store.Today{}, map[string]bool{}
	for _, m := range list {
		if done[m.Zone.String()] {
			continue
		}
		done[m.Zone.String()] = true
		part, err := s.Store.Todays(ctx, list, m.Zone, care.Day(now, m.Zone))
		if err != nil {
			return nil, err
		}
		maps.Copy(out, part)
	}
	return out, nil
}

// ledgerShown is how many entries of the ledger are listed.
const ledgerShown = 40

// ListUse lists the newest entries of the ledger.
func (s *Server) ListUse(ctx context.Context, r ListUseRequestObject) (ListUseResponseObject, error) {
	m, err := s.find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	list, err := s.Store.Ledger(ctx, m.ID, ledgerShown)
	out := ListUse200JSONResponse{Entries: make([]UseShown, len(list))}
	for i, e := range list {
		out.Entries[i] = UseShown{
			Id:    e.ID,
			Kind:  string(e.Kind),
			Count: e.Count,
			Part:  e.Part,
			From:  e.From,
			At:    e.To,
		}
	}
	return out, err
}
