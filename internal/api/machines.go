package api

import (
	"context"
	"errors"
	"maps"
	"slices"
	"time"

	"github.com/oapi-codegen/runtime/types"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/units"
	"freshanvil/core/use"
	"freshanvil/internal/app"
)

// PreviewPlan says what the five answers come to; it writes nothing.
func (s *Server) PreviewPlan(ctx context.Context, r PreviewPlanRequestObject) (PreviewPlanResponseObject, error) {
	a, h, err := answersIn(r.Body.Answers)
	if err != nil {
		return nil, under("answers", err)
	}
	n := app.NewMachine{Zone: r.Body.Zone, Answers: a, Hardness: h, Before: beforeIn(r.Body.Before)}
	now := s.App.Instant()
	came, err := s.App.Preview(ctx, n, orElse(r.Body.Used, false))
	if err != nil {
		return nil, err
	}
	in, err := s.App.Detergent(ctx)
	if err != nil {
		return nil, err
	}
	p, err := planOut(a, care.Choice{}, came.Dues, in, now)
	p.First, p.FirstDose = firstOut(came, p.Groups, now)
	return PreviewPlan200JSONResponse(p), err
}

// firstOut is what somebody hears first: three dates, and the dose of the first descale.
func firstOut(came app.Previewed, groups int, now time.Time) (*[]FirstJob, *FirstDose) {
	list := make([]FirstJob, len(came.First))
	for i, f := range came.First {
		list[i].Title, list[i].Doses, list[i].Why = f.Title, FirstJobDoses(f.Doses), ptr(f.Why())
		if f.Due == nil {
			list[i].None = &f.None
			continue
		}
		list[i].Due = dueOut(*f.Due, groups, now)
	}
	dose := FirstDose{Asks: []string{}}
	for _, k := range came.Asks {
		dose.Asks = append(dose.Asks, k.Label)
	}
	if came.Descaler == nil {
		dose.None = &came.NoDose
		return &list, &dose
	}
	dose.Product, dose.Measure, dose.Mixed = &came.Descaler.Product.Name, &came.Descaler.Measure, &came.Descaler.Mixed
	return &list, &dose
}

func beforeIn(in *DoneBefore) []app.Before {
	list := []app.Before{}
	for _, b := range orElse(in, nil) {
		list = append(list, app.Before{Task: b.Task, Part: b.Part, At: b.At})
	}
	return list
}

// ListLayouts says how machines are built, and how somebody tells each.
func (s *Server) ListLayouts(context.Context, ListLayoutsRequestObject) (ListLayoutsResponseObject, error) {
	out := ListLayouts200JSONResponse{Layouts: []LayoutSign{}}
	valves := map[machine.Valve]LayoutSignValve{machine.Unsure: LayoutSignValveAsk, machine.NoValve: LayoutSignValveNo}
	for _, x := range machine.Signs() {
		sign := LayoutSign{Layout: LayoutSignLayout(x.Layout), Title: x.Title, Sees: x.Sees, Hears: x.Hears,
			Valve: LayoutSignValveYes, Scheme: schemeOut(x.Scheme)}
		if v, is := valves[x.Valve]; is {
			sign.Valve = v
		}
		out.Layouts = append(out.Layouts, sign)
	}
	return out, nil
}

func schemeOut(x machine.Scheme) Scheme {
	out := Scheme{Source: SchemeSource(x.Source), Pump: x.Pump, Brews: SchemeBrews(x.Brews), Steam: x.Steam,
		Groups: x.Groups, Valve: SchemeValve(x.Valve), Wand: x.Wand, Tap: x.Tap, Tray: x.Tray}
	if x.Lever != "" {
		out.Lever = ptr(SchemeLever(x.Lever))
	}
	return out
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
	n := app.NewMachine{ID: r.Body.Id, Name: r.Body.Name, Zone: r.Body.Zone, Answers: a, Hardness: h,
		Owner: orElse(r.Body.Owner, ""), Place: orElse(r.Body.Place, ""),
		IsNew: r.Body.NewSince, Before: beforeIn(r.Body.Before)}
	if err := s.App.CreateMachine(ctx, n); err != nil {
		return nil, err
	}
	m, err := s.machine(ctx, r.Body.Id)
	return CreateMachine201JSONResponse(m), err
}

// TakeMachineList keeps the machines of a list, or only reads it.
func (s *Server) TakeMachineList(
	ctx context.Context,
	r TakeMachineListRequestObject,
) (TakeMachineListResponseObject, error) {
	taken, err := s.App.TakeList(ctx, r.Body.Text, r.Body.Zone, r.Body.Preview)
	if err != nil {
		return nil, err
	}
	var out MachineListTaken
	out.Kept, out.Same = taken.Kept, taken.Same
	out.Machines = make([]struct {
		LayoutTitle string `json:"layout_title"`
		Line        int    `json:"line"`
		Name        string `json:"name"`
		Owner       string `json:"owner"`
		Place       string `json:"place"`
	}, len(taken.Machines))
	for i, l := range taken.Machines {
		m := &out.Machines[i]
		m.Line, m.Name, m.Owner, m.Place, m.LayoutTitle = l.Line, l.Name, l.Owner, l.Place, l.Answers.Layout.Title()
	}
	out.Bad = badLines(taken.Bad)
	return TakeMachineList200JSONResponse(out), nil
}

// under puts a field that is not allowed below the one that holds it.
func under(field string, err error) error {
	var bad *units.OutOfRange
	if errors.As(err, &bad) {
		return bad.Under(field)
	}
	return err
}

// GetMachine is one machine with its plan.
func (s *Server) GetMachine(ctx context.Context, r GetMachineRequestObject) (GetMachineResponseObject, error) {
	m, err := s.machine(ctx, r.MachineId)
	return GetMachine200JSONResponse(m), err
}

// ChangeAnswers lets new answers hold from now on, or corrects the past.
func (s *Server) ChangeAnswers(
	ctx context.Context,
	r ChangeAnswersRequestObject,
) (ChangeAnswersResponseObject, error) {
	a, h, err := answersIn(r.Body.Answers)
	if err != nil {
		return nil, under("answers", err)
	}
	e := app.Edit{MachineID: r.MachineId, Version: r.Body.Version, Since: r.Body.Since}
	if err := s.App.ChangeAnswers(ctx, e, a, h); err != nil {
		return nil, err
	}
	m, err := s.machine(ctx, r.MachineId)
	return ChangeAnswers200JSONResponse(m), err
}

// ChangeFacts says facts of a machine, all or none.
func (s *Server) ChangeFacts(ctx context.Context, r ChangeFactsRequestObject) (ChangeFactsResponseObject, error) {
	facts := make([]app.Fact, len(r.Body.Facts))
	for i, f := range r.Body.Facts {
		facts[i] = app.Fact{Key: f.Key, Value: f.Value}
	}
	e := app.Edit{MachineID: r.MachineId, Version: r.Body.Version, Since: r.Body.Since}
	if err := s.App.ChangeFacts(ctx, e, facts); err != nil {
		return nil, err
	}
	out, err := s.machine(ctx, r.MachineId)
	return ChangeFacts200JSONResponse(out), err
}

// ChangeDetails changes name, owner and place, and archives.
func (s *Server) ChangeDetails(
	ctx context.Context,
	r ChangeDetailsRequestObject,
) (ChangeDetailsResponseObject, error) {
	b := r.Body
	err := s.App.ChangeDetails(ctx, app.Edit{MachineID: r.MachineId, Version: b.Version},
		app.Details{Name: b.Name, Owner: b.Owner, Place: b.Place, Archived: b.Archived})
	if err != nil {
		return nil, err
	}
	out, err := s.machine(ctx, r.MachineId)
	return ChangeDetails200JSONResponse(out), err
}

// SeeMoved notes that somebody has seen the dates that an update moved.
func (s *Server) SeeMoved(ctx context.Context, r SeeMovedRequestObject) (SeeMovedResponseObject, error) {
	return SeeMoved204Response{}, s.App.SeeMoved(ctx, r.MachineId)
}

// SignOff clears a group on a technician's word.
func (s *Server) SignOff(ctx context.Context, r SignOffRequestObject) (SignOffResponseObject, error) {
	b := r.Body
	sign := app.Signed{ID: b.Id, MachineID: r.MachineId, Part: b.Part, Name: b.Name, Note: b.Note,
		Stopped: orElse(b.What, "") == SignOffWhatStopped}
	if err := s.App.SignOff(ctx, sign); err != nil {
		return nil, err
	}
	out, err := s.machine(ctx, r.MachineId)
	return SignOff201JSONResponse(out), err
}

// RecordCare puts care on record that was done without a run.
func (s *Server) RecordCare(ctx context.Context, r RecordCareRequestObject) (RecordCareResponseObject, error) {
	b := r.Body
	care := app.Care{ID: b.Id, MachineID: r.MachineId, Task: b.Task, Parts: b.Parts, At: b.At, By: orElse(b.By, "")}
	if b.Paper != nil {
		care.Paper = app.Paper{Number: orElse(b.Paper.Number, ""), Dated: b.Paper.Dated}
	}
	err := s.App.RecordCare(ctx, care)
	if err != nil {
		return nil, err
	}
	out, err := s.machine(ctx, r.MachineId)
	return RecordCare201JSONResponse(out), err
}

// TakeCareBack takes care that is on record back.
func (s *Server) TakeCareBack(ctx context.Context, r TakeCareBackRequestObject) (TakeCareBackResponseObject, error) {
	return TakeCareBack204Response{}, s.App.TakeCareBack(ctx, r.MachineId, r.CareId)
}

// DateCare corrects when care was done.
func (s *Server) DateCare(ctx context.Context, r DateCareRequestObject) (DateCareResponseObject, error) {
	return DateCare204Response{}, s.App.DateCare(ctx, r.MachineId, r.CareId, r.Body.At)
}

// LogUse logs drinks and flushes, or takes an entry back.
func (s *Server) LogUse(ctx context.Context, r LogUseRequestObject) (LogUseResponseObject, error) {
	b := r.Body
	p := app.Pressed{ID: b.Id, MachineID: r.MachineId, Kind: use.Kind(b.Kind), Count: orElse(b.Count, 1),
		Part: orElse(b.Part, machine.Part{}), At: b.At, Supersedes: orElse(b.Supersedes, "")}
	drinks, err := s.App.LogUse(ctx, p)
	if err != nil {
		return nil, err
	}
	out := Today{Drinks: drinks}
	if p.Kind != use.Undo {
		out.LastEntry, out.LastKind = &p.ID, ptr(string(p.Kind))
	}
	return LogUse201JSONResponse(out), nil
}

// machine is one machine as it stands.
func (s *Server) machine(ctx context.Context, id string) (Machine, error) {
	m, err := s.App.Find(ctx, id)
	if err != nil {
		return Machine{}, err
	}
	now := s.App.Instant()
	h, err := s.App.History(ctx, m, now)
	if err != nil {
		return Machine{}, err
	}
	in, err := s.App.Detergent(ctx)
	if err != nil {
		return Machine{}, err
	}
	dues := care.AllDue(m.Answers, h, now, m.Zone)
	plan, err := planOut(m.Answers, h.Choice, dues, in, now)
	if err != nil {
		return Machine{}, err
	}
	hazards, open, err := s.stands(ctx, m.ID)
	if err != nil {
		return Machine{}, err
	}
	aways, err := s.App.Aways(ctx, m.ID)
	if err != nil {
		return Machine{}, err
	}
	reading, err := s.App.LastReading(ctx, m.ID, s.App.Instant())
	if err != nil {
		return Machine{}, err
	}
	looks, err := s.App.Looks(ctx, m.ID)
	if err != nil {
		return Machine{}, err
	}
	placed, err := s.App.Placings(ctx, m.ID)
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
		Version:  m.Version,
		Answered: h.Held.Newest().From,
		Hazards:  hazardsOut(hazards, m),
		OpenRun:  openOn(open, m.ID),
		Small:    smallOut(care.Chores(m.Answers, h, now, m.Zone)),
		Moved:    []Moved{},
		Found:    looksOut(looks),
		Fits:     fitsOut(care.Fits(m.Answers, h, now)),
		Sittings: sittingsOut(dues, placed[m.ID], h, now),
		Away:     make([]Away, len(aways)),
	}
	for i, w := range aways {
		last := w.To.In(m.Zone).AddDate(0, 0, -1)
		out.Away[i] = Away{
			Id:   w.ID,
			From: types.Date{Time: w.From.In(m.Zone)},
			To:   types.Date{Time: last},
			Note: w.Note, Stands: ptr(AwayStands(w.Stands)),
		}
	}
	kept, _ := care.Standings(m.Answers, h, now, m.Zone)
	if out.Evening, err = s.eveningOf(ctx, m, kept, now); err != nil {
		return Machine{}, err
	}
	out.Counter.Each = m.Answers.Facts().CountsADrink()
	if m.Bad != nil {
		out.Trouble = ptr(m.Bad.Error())
	}
	moved, err := s.App.MovedOf(ctx, m.ID)
	if err != nil {
		return Machine{}, err
	}
	for _, x := range moved {
		out.Moved = append(out.Moved, Moved{Task: x.Task, Title: x.Task.Title(), Part: x.Part, Was: x.Was, Is: x.Is})
	}
	wash := app.LastWash(h.Done)
	out.Counter.Washed = ptr(!wash.IsZero() && reading == nil) // the first may have begun with it
	if reading != nil {
		out.Counter.Last, out.Counter.LastAt, out.Counter.Washed = &reading.Value, &reading.At, ptr(
			wash.After(reading.At),
		)
	}
	return out, nil
}

// GetBench is every machine with its one next job.
func (s *Server) GetBench(ctx context.Context, r GetBenchRequestObject) (GetBenchResponseObject, error) {
	now := s.App.Instant()
	var list []app.Machine
	var err error
	if r.Params.MachineId != nil {
		var m app.Machine
		m, err = s.App.Find(ctx, *r.Params.MachineId)
		list = []app.Machine{m}
	} else {
		list, err = s.App.Machines(ctx, orElse(r.Params.Archived, false))
	}
	if err != nil {
		return nil, err
	}
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

// stands is what is in which part, and which runs go on: all of them, or those on some machines.
func (s *Server) stands(ctx context.Context, machines ...string) ([]app.Hazard, []app.Run, error) {
	hazards, err := s.App.Hazards(ctx)
	if err != nil {
		return nil, nil, err
	}
	open, err := s.App.OpenRuns(ctx, machines...)
	return hazards, open, err
}

func hazardsOut(list []app.Hazard, m app.Machine) []Hazard {
	out := []Hazard{}
	for _, x := range list {
		if x.MachineID == m.ID {
			out = append(out, hazardOut(x, m))
		}
	}
	return out
}

func openOn(list []app.Run, id string) *OpenRun {
	for _, r := range list {
		if slices.Contains(r.Machines, id) {
			return openRunOut(r)
		}
	}
	return nil
}

func (s *Server) bench(ctx context.Context, list []app.Machine, now time.Time) ([]BenchMachine, error) {
	kept, err := s.App.Standings(ctx, list, now)
	if err != nil {
		return nil, err
	}
	var one []string
	if len(list) == 1 {
		one = []string{list[0].ID}
	}
	hazards, open, err := s.stands(ctx, one...)
	if err != nil {
		return nil, err
	}
	powder, err := s.App.Detergent(ctx)
	if err != nil {
		return nil, err
	}
	today, err := s.today(ctx, list, now)
	if err != nil {
		return nil, err
	}
	var placed map[string][]care.Placing
	if len(list) <= slips {
		if placed, err = s.App.Placings(ctx, ""); err != nil {
			return nil, err
		}
	}
	out := make([]BenchMachine, len(list))
	for i, m := range list {
		b := benchOut(m, kept[m.ID], hazards, now)
		b.OpenRun = openOn(open, m.ID)
		in := app.Contents(hazards, m.ID)
		in.Layout = m.Answers.Layout
		first := app.FrontOf(m, in, open, kept[m.ID].List, placed[m.ID], len(list) <= slips, now)
		b.Front = frontOut(first.Front)
		if first.Together != nil {
			b.Sitting = &SittingBrief{Minutes: first.Together.Minutes, Alone: first.Together.Alone}
			alone := frontOut(*first.Alone)
			b.Alone = &alone
		}
		if len(list) <= slips {
			if b.Evening, err = s.evening(ctx, m, kept[m.ID].List, now); err != nil {
				return nil, err
			}
		}
		if t, any := today[m.ID]; any {
			b.Today = Today{Drinks: t.Drinks, LastEntry: &t.ID, LastKind: ptr(string(t.Kind))}
		}
		if washes(b, in) {
			if b.Wash, err = s.washBrief(ctx, m, powder, targetsOf(&b, in)); err != nil {
				return nil, err
			}
		}
		out[i] = b
	}
	return out, nil
}

// slips is up to how many machines each stands on a slip of its own, with what is done together; more stand
// in a list.
const slips = 50

// washes says whether what a wash takes is told on the bench: where one is the next job, or
// detergent is to be rinsed out.
func washes(b BenchMachine, in job.Contents) bool {
	return len(in.Detergent) > 0 || b.Next != nil && b.Next.Task == task.Wash
}

// washBrief is what a wash takes, in short; nil where it must not be washed now.
func (s *Server) washBrief(ctx context.Context, m app.Machine, powder backflush.Detergent, targets []job.Target) (
	*WashBrief, error,
) {
	choice, err := s.App.Choice(ctx, m)
	if err != nil {
		return nil, err
	}
	w, err := washOut(m.Answers, choice, powder, targets...)
	if err != nil || w == nil {
		return nil, err
	}
	brief := &WashBrief{MethodName: w.MethodName, Minutes: w.Minutes.Value, Rinse: w.Rinse.Value}
	if d := w.Dose; d != nil {
		brief.Dose = &struct {
			Form    WashBriefDoseForm `json:"form"`
			Grams   float64           `json:"grams"`
			Pinch   *bool             `json:"pinch,omitempty"`
			Spoon   Spoon             `json:"spoon"`
			Tablets int               `json:"tablets"`
		}{WashBriefDoseForm(d.Form), d.Mass.Value, d.Pinch, d.Spoon, d.Tablets}
	}
	return brief, nil
}

// benchOut is a machine with its one next job and what is in it.
func benchOut(m app.Machine, kept app.Kept, hazards []app.Hazard, now time.Time) BenchMachine {
	f := m.Answers.Facts()
	b := BenchMachine{Id: m.ID, Name: m.Name, Owner: m.Owner, Place: m.Place, Archived: m.Archived,
		Zone: m.Zone.String(), LayoutTitle: m.Answers.Layout.Title(), Groups: f.Groups, Gate: gateOut(f),
		Hazards: hazardsOut(hazards, m), Together: []Part{}, Small: []SmallJob{}}
	if m.Bad != nil {
		b.Trouble = ptr(m.Bad.Error())
	}
	jobs, small := care.Split(kept.List)
	for _, x := range small {
		b.Small = append(b.Small, SmallJob{Task: x.Task, Title: x.Title})
	}
	together := care.Together(jobs)
	if slices.ContainsFunc(jobs, func(x care.Standing) bool { return x.Task == task.Return }) {
		b.LaidUp = ptr(true)
	}
	b.Band = BenchMachineBand(care.BandOf(len(b.Hazards) > 0, nil, now))
	if len(jobs) > 0 {
		b.Next = standingOut(jobs[0], f.Groups, now, together...)
		b.Band = BenchMachineBand(care.BandOf(len(b.Hazards) > 0, &jobs[0], now))
		row := jobs[0].Task.Row()
		b.HandsMin = ptr(float64(row.Hands))
		if len(row.Tools) > 0 {
			b.Material = &row.Tools[0]
		}
	}
	for i, x := range jobs {
		if i > 0 && slices.Contains(x.Task.Row().Clocks, task.ByScale) {
			b.Scale = standingOut(x, f.Groups, now)
		}
	}
	for _, g := range together {
		b.Together = append(b.Together, machine.Group(g))
	}
	b.ThrowAway = ptr(kept.Says)
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

func openRunOut(r app.Run) *OpenRun {
	out := &OpenRun{Id: r.ID, Parts: []Part{}, Where: "the machine", Title: "A run that cannot be carried on"}
	if r.Unreadable != nil {
		out.Unreadable = ptr(true)
		return out
	}
	for _, a := range r.Plan.Activities {
		out.Parts = append(out.Parts, a.Part)
	}
	out.Where, out.Title = r.Plan.Where(), r.Plan.Title()
	return out
}

// today is what was pressed in on each machine since its day turned, zone by
// zone, since days turn with the zone.
func (s *Server) today(ctx context.Context, list []app.Machine, now time.Time) (map[string]app.Today, error) {
	out, done := map[string]app.Today{}, map[string]bool{}
	for _, m := range list {
		if done[m.Zone.String()] {
			continue
		}
		done[m.Zone.String()] = true
		part, err := s.App.Todays(ctx, list, m.Zone, use.Day(now, m.Zone))
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
	m, err := s.App.Find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	list, err := s.App.Ledger(ctx, m.ID, ledgerShown)
	out := ListUse200JSONResponse{Entries: make([]UseShown, len(list))}
	for i, e := range list {
		out.Entries[i] = UseShown{
			Id:    e.ID,
			Kind:  string(e.Kind),
			Count: e.Count,
			Part:  e.Part,
			From:  e.From,
			At:    e.To,
			Day:   ptr(e.OfOneDay(m.Zone)),
		}
	}
	return out, err
}
