package api

import (
	"context"
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

// GetSchools is every school on the ruler of this machine's own use.
func (s *Server) GetSchools(ctx context.Context, r GetSchoolsRequestObject) (GetSchoolsResponseObject, error) {
	m, err := s.App.Find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	out, err := s.schools(ctx, m)
	return GetSchools200JSONResponse(out), err
}

func (s *Server) schools(ctx context.Context, m app.Machine) (Schools, error) {
	now, a := s.App.Instant(), m.Answers
	h, err := s.App.History(ctx, m, now)
	if err != nil {
		return Schools{}, err
	}
	in, err := s.App.Detergent(ctx)
	if err != nil {
		return Schools{}, err
	}
	f := a.Facts()
	gate := backflush.Gate(f)
	pace := use.PaceOf(a.Drinks/float64(f.Groups), 1, f.Groups, h.Log, now, m.Zone)
	out := Schools{
		MachineId:   m.ID,
		Version:     m.Version,
		MachineName: m.Name,
		Zone:        m.Zone.String(),
		Groups:      f.Groups,
		ByHand:      gate.Verdict == reason.Refused,
		Gate:        gate,
		Rate:        pace.Mean(),
		ByDay:       pace.ByDay(),
		Shortened:   []string{},
		Methods:     []MethodRow{},
		Everies:     []EveryRow{},
	}
	choice := h.Choice.Settled(a)
	if out.Current, err = rowOut(a, choice, pace.Mean(), in); err != nil {
		return out, err
	}
	out.Current.Chosen = true
	usual, _ := care.DefaultSchool(a)
	for _, school := range care.SchoolsFor(a) {
		c, err := care.Pick(a, school.ID)
		if err != nil {
			return out, err
		}
		row, err := rowOut(a, c, pace.Mean(), in)
		if err != nil {
			return out, err
		}
		row.ByDefault, row.Chosen = school.ID == usual.ID, school.ID == choice.School
		out.Schools = append(out.Schools, row)
	}
	out.Water = []SchoolRow{}
	if !out.ByHand {
		if out.Water, err = watersOut(a, pace.Mean()); err != nil {
			return out, err
		}
		for _, method := range backflush.Methods() {
			row, err := methodOut(a, method, in)
			if err != nil {
				return out, err
			}
			out.Methods = append(out.Methods, row)
		}
	}
	for _, e := range care.Everies() {
		out.Everies = append(out.Everies, EveryRow{Id: string(e.ID), Title: e.Title, Why: e.Why})
	}
	lesson, err := s.App.Lesson(ctx, m, h)
	if err != nil {
		return out, err
	}
	out.Lesson = lessonOut(lesson)
	for _, x := range h.Choice.Shortened {
		out.Shortened = append(out.Shortened, x.Kind)
	}
	if out.Changes, err = s.changes(ctx, m); err != nil {
		return out, err
	}
	out.Passed, err = s.passed(ctx, m, now)
	return out, err
}

func rowOut(a machine.Answers, c care.Choice, rate reason.Worked, in backflush.Detergent) (SchoolRow, error) {
	r, err := job.Lay(a, c, rate, in)
	if err != nil {
		return SchoolRow{}, err
	}
	row := figuresOut(r)
	if r.Days.Name != "" {
		cafe, _ := a.Cafe()
		w := r.Weigh(cafe)
		row.Weighed = &Weighed{Per: WeighedPer(w.Per), Minutes: w.Minutes, Grams: w.Grams, Clean: WeighedClean(w.Clean)}
	}
	row.Id, row.Title, row.Why, row.Every, row.EveryTitle = string(
		c.School,
	), c.Title(), "Your own pairing.", string(
		c.Every,
	), "own numbers"
	if school, err := care.FindSchool(c.School); err == nil {
		row.Why = school.Why
	}
	for _, e := range care.Everies() {
		if e.ID == c.Every {
			row.EveryTitle = e.Title
		}
	}
	return row, nil
}

func figuresOut(r job.Row) SchoolRow {
	row := SchoolRow{Interval: intervalOut(r.Interval), Fits: r.Fits}
	if m, err := backflush.Lookup(r.Method); err == nil {
		m = m.With(r.Numbers)
		id := string(m.ID)
		row.Method, row.MethodName, row.Pattern = &id, &m.Name, &m.Pattern
	}
	if r.Days.Name != "" {
		row.Days, row.Shots, row.Times, row.Grams, row.Minutes = &r.Days, &r.Shots, &r.Times, &r.Grams, &r.Minutes
	}
	return row
}

// watersOut is water only in between, on the ruler.
func watersOut(a machine.Answers, rate reason.Worked) ([]SchoolRow, error) {
	list := []SchoolRow{}
	usual := a
	usual.Overrides = nil
	for _, w := range care.Waters() {
		r, err := job.LayWater(a, w, rate)
		if err != nil {
			return nil, err
		}
		row := figuresOut(r)
		row.Id, row.Title, row.Why, row.Every, row.EveryTitle = w.Answer, w.Title, w.Why, w.Answer, w.Answer
		row.Chosen, row.ByDefault = w.Answer == a.Facts().WaterOnly, w.Answer == usual.Facts().WaterOnly
		list = append(list, row)
	}
	return list, nil
}

func methodOut(a machine.Answers, m backflush.Method, in backflush.Detergent) (MethodRow, error) {
	row := MethodRow{
		Id:      string(m.ID),
		Name:    m.Name,
		Pattern: m.Pattern,
		Why:     m.Why,
		Ours:    ptr(m.Ours),
		Fits:    m.Fits(a.Facts()),
	}
	wash, err := washOut(a, care.Choice{Method: m.ID}, in, job.Target{Group: 1})
	row.Wash = wash
	return row, err
}

func intervalOut(i care.Interval) Interval {
	return Interval{
		Task:    string(i.Task),
		Title:   i.Task.Title(),
		Shots:   ptr(i.Shots),
		CoffeeG: ptr(i.Coffee),
		Counter: ptr(i.Counter),
		Litres:  ptr(i.Litres),
		Days:    ptr(i.Days),
		Daily:   i.Daily,
		Because: i.Because,
	}
}

func lessonOut(l care.Lesson) Lesson {
	out := Lesson{Finding: l.Finding, Proposed: l.Proposed}
	if l.Proposed {
		i := intervalOut(l.Interval)
		out.Factor, out.Interval = &l.Factor, &i
	}
	return out
}

func (s *Server) changes(ctx context.Context, m app.Machine) ([]ChangeShown, error) {
	list, err := s.App.Changes(ctx, m.ID)
	if err != nil {
		return nil, err
	}
	usual, why := care.DefaultSchool(m.Answers)
	begun := intervalOut(care.Choice{}.For(m.Answers))
	out := []ChangeShown{
		{
			Id:       "begun",
			What:     ChangeShownWhatBegun,
			Title:    usual.Title,
			At:       m.Created,
			Why:      why[0].Text,
			Interval: &begun,
		},
	}
	newest := -1
	for _, c := range list {
		row := ChangeShown{
			Id:        c.ID,
			What:      ChangeShownWhat(c.What),
			Title:     c.Choice.Title(),
			At:        c.At,
			Why:       c.Why,
			TakenBack: c.TakenBack,
		}
		switch c.What {
		case app.Chosen, app.Learned:
			i := intervalOut(c.Choice.For(m.Answers))
			row.Interval = &i
		case app.Oily:
			row.Title = "Oily beans"
		case app.Party:
			row.Title = "A party"
		default:
			row.Title = "Taken back"
		}
		out = append(out, row)
		if c.What != app.Undone && !c.TakenBack {
			newest = len(out) - 1
		}
	}
	if newest > 0 {
		out[newest].Newest = true
	}
	return out, nil
}

// passed is the care done in the last year, with the use since the one before
// in its group.
func (s *Server) passed(ctx context.Context, m app.Machine, now time.Time) ([]Passed, error) {
	since := now.AddDate(-1, 0, 0)
	list, err := s.App.Passed(ctx, m, since)
	if err != nil {
		return nil, err
	}
	events, err := s.App.EventsOf(ctx, m, since, nil)
	out := make([]Passed, len(list))
	before := map[machine.Part]time.Time{}
	f := m.Answers.Facts()
	for i, e := range list {
		out[i] = Passed{
			At:    e.At,
			Part:  e.Part,
			Task:  string(e.Task),
			Led:   e.RunID != "",
			First: ptr(string(e.Record.First)),
		}
		if last, any := before[e.Part]; any {
			days, shots := e.At.Sub(last).Hours()/24, use.Count(events, e.Part, f.Groups, last, e.At).Shots()
			out[i].Days, out[i].Shots = &days, &shots
		}
		before[e.Part] = e.At
	}
	return out, err
}

func choiceIn(a machine.Answers, b SchoolChoice) (care.Choice, error) {
	if b.School != nil {
		if b.Method != nil || b.Every != nil || b.Own != nil || b.Numbers != nil {
			return care.Choice{}, &units.OutOfRange{
				Field:   "school",
				Value:   string(*b.School),
				Allowed: "a school alone, or a method and an interval without one",
			}
		}
		return care.Pick(a, care.SchoolID(*b.School))
	}
	if b.Every == nil {
		return care.Choice{}, &units.OutOfRange{
			Field:   "every",
			Value:   "nothing",
			Allowed: "a school, or a method and an interval",
		}
	}
	var method backflush.MethodID
	if b.Method != nil {
		method = backflush.MethodID(*b.Method)
	}
	var own care.Interval
	if o := b.Own; o != nil {
		for _, x := range []struct {
			from *float64
			to   *float64
		}{{o.Shots, &own.Shots}, {o.CoffeeG, &own.Coffee}, {o.Counter, &own.Counter}, {o.Litres, &own.Litres},
			{o.Days, &own.Days}} {
			if x.from != nil {
				*x.to = *x.from
			}
		}
	}
	return care.Pair(a, method, numbersIn(b.Numbers), care.EveryID(*b.Every), own)
}

// numbersIn are somebody's own of a method; nil for the method's.
func numbersIn(n *OwnMethod) *backflush.Numbers {
	if n == nil {
		return nil
	}
	return &backflush.Numbers{Name: n.Name, Grams: units.Mass(orElse(n.Grams, 0)), On: orElse(n.OnS, 0),
		Off: orElse(n.OffS, 0), Detergent: orElse(n.Detergent, 0), Rinse: orElse(n.Rinse, 0)}
}

// PreviewPairing is what a choice would come to; it writes nothing.
func (s *Server) PreviewPairing(
	ctx context.Context,
	r PreviewPairingRequestObject,
) (PreviewPairingResponseObject, error) {
	m, err := s.App.Find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	c, err := choiceIn(m.Answers, *r.Body)
	if err != nil {
		return nil, err
	}
	now := s.App.Instant()
	h, err := s.App.History(ctx, m, now)
	if err != nil {
		return nil, err
	}
	in, err := s.App.Detergent(ctx)
	if err != nil {
		return nil, err
	}
	groups := m.Answers.Facts().Groups
	row, err := rowOut(
		m.Answers,
		c,
		use.PaceOf(m.Answers.Drinks/float64(groups), 1, groups, h.Log, now, m.Zone).Mean(),
		in,
	)
	return PreviewPairing200JSONResponse(row), err
}

// ChooseSchool lets a choice hold from now on.
func (s *Server) ChooseSchool(ctx context.Context, r ChooseSchoolRequestObject) (ChooseSchoolResponseObject, error) {
	err := s.App.ChooseSchool(ctx, r.Body.Id, r.MachineId, r.Body, func(m app.Machine) (care.Choice, error) {
		return choiceIn(m.Answers, *r.Body)
	})
	if err != nil {
		return nil, err
	}
	m, err := s.App.Find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	out, err := s.schools(ctx, m)
	return ChooseSchool201JSONResponse(out), err
}

// ChangeInterval takes what is proposed, takes the newest change back, or
// shortens the present interval.
func (s *Server) ChangeInterval(
	ctx context.Context,
	r ChangeIntervalRequestObject,
) (ChangeIntervalResponseObject, error) {
	if err := s.App.ChangeInterval(ctx, r.Body.Id, r.MachineId, string(r.Body.Kind)); err != nil {
		return nil, err
	}
	m, err := s.App.Find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	out, err := s.schools(ctx, m)
	return ChangeInterval201JSONResponse(out), err
}

// ReadCounter turns a reading of the machine's own counter into use.
func (s *Server) ReadCounter(ctx context.Context, r ReadCounterRequestObject) (ReadCounterResponseObject, error) {
	b := r.Body
	e, err := s.App.ReadCounter(ctx,
		app.Counted{ID: b.Id, MachineID: r.MachineId, Value: b.Reading, At: b.At, Reset: b.Reset})
	if err != nil {
		return nil, err
	}
	return ReadCounter201JSONResponse{Drinks: e.Count, From: e.From, To: e.To}, nil
}

// Importing says how far a file of use has come.
func (s *Server) Importing(ctx context.Context, r ImportingRequestObject) (ImportingResponseObject, error) {
	w, going, err := s.App.Importing(ctx, r.MachineId)
	return Importing200JSONResponse{Going: going, Entries: w.Entries, Ready: w.Ready}, err
}

// ImportUse takes dated use from a file, or says what it would come to.
func (s *Server) ImportUse(ctx context.Context, r ImportUseRequestObject) (ImportUseResponseObject, error) {
	sum, err := s.App.ImportUse(ctx, r.MachineId, r.Body.Text, r.Body.Preview)
	if err != nil {
		return nil, err
	}
	out := Imported{Entries: len(sum.Events)}
	out.Bad = badLines(sum.Bad)
	if len(sum.Bad) > 0 {
		return ImportUse200JSONResponse(out), nil
	}
	out.Kept = !r.Body.Preview
	out.Fresh, out.Changed, out.Same, out.ByHand = sum.New, sum.Changed, sum.Same, sum.ByHand
	drinks := 0.0
	for _, e := range sum.Events {
		if e.Kind.IsShot() {
			drinks += e.Count
		}
		if out.From == nil || e.From.Before(*out.From) {
			out.From = &e.From
		}
		if out.To == nil || e.To.After(*out.To) {
			out.To = &e.To
		}
	}
	out.Drinks = &drinks
	return ImportUse200JSONResponse(out), nil
}

// SayAway enters days on which nobody is there.
func (s *Server) SayAway(ctx context.Context, r SayAwayRequestObject) (SayAwayResponseObject, error) {
	day := func(d types.Date) func(*time.Location) time.Time {
		return func(zone *time.Location) time.Time { return use.DayOf(d.Year(), d.Month(), d.Day(), zone) }
	}
	away := app.Away{ID: r.Body.Id, Note: orElse(r.Body.Note, ""), Stands: string(orElse(r.Body.Stands, ""))}
	if err := s.App.SayAway(ctx, r.MachineId, away, day(r.Body.From), day(r.Body.To)); err != nil {
		return nil, err
	}
	out, err := s.machine(ctx, r.MachineId)
	return SayAway201JSONResponse(out), err
}

// ForgetAway takes a holiday back.
func (s *Server) ForgetAway(ctx context.Context, r ForgetAwayRequestObject) (ForgetAwayResponseObject, error) {
	if err := s.App.ForgetAway(ctx, r.MachineId, r.AwayId); err != nil {
		return nil, err
	}
	out, err := s.machine(ctx, r.MachineId)
	return ForgetAway200JSONResponse(out), err
}

// RecordSmall puts small tasks of the day on record.
func (s *Server) RecordSmall(ctx context.Context, r RecordSmallRequestObject) (RecordSmallResponseObject, error) {
	tasks := make([]task.ID, len(r.Body.Tasks))
	for i, t := range r.Body.Tasks {
		tasks[i] = task.ID(t)
	}
	if err := s.App.RecordSmall(ctx, r.Body.Id, r.MachineId, tasks, r.Body.At, orElse(r.Body.By, "")); err != nil {
		return nil, err
	}
	m, err := s.App.Find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	list, err := s.bench(ctx, []app.Machine{m}, s.App.Instant())
	if err != nil {
		return nil, err
	}
	return RecordSmall201JSONResponse(list[0]), nil
}

func smallOut(list []care.Chore) []Small {
	out := make([]Small, len(list))
	for i, c := range list {
		out[i] = Small{Task: c.Task, Title: c.Title, How: c.How, Because: c.Because, Last: ptr(c.Last)}
		if c.Leads != "" {
			out[i].Leads = ptr(string(c.Leads))
		}
	}
	return out
}
