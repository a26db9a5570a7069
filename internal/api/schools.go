package api

import (
	"context"
	"errors"
	"net/http"
	"time"

	"github.com/oapi-codegen/runtime/types"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
	"freshanvil/internal/store"
)

// history is what the due answers of one machine rest on.
func (s *Server) history(ctx context.Context, m store.Machine, now time.Time) (care.History, error) {
	all, err := s.Store.Histories(ctx, []store.Machine{m}, now)
	return all[m.ID], err
}

// GetSchools is every school on the ruler of this machine's own use.
func (s *Server) GetSchools(ctx context.Context, r GetSchoolsRequestObject) (GetSchoolsResponseObject, error) {
	m, err := s.find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	out, err := s.schools(ctx, m)
	return GetSchools200JSONResponse(out), err
}

func (s *Server) schools(ctx context.Context, m store.Machine) (Schools, error) {
	now, a := s.now(), m.Answers
	h, err := s.history(ctx, m, now)
	if err != nil {
		return Schools{}, err
	}
	in, err := s.detergent(ctx)
	if err != nil {
		return Schools{}, err
	}
	f := a.Facts()
	gate := backflush.Gate(f)
	pace := care.PaceOf(a.Drinks/float64(f.Groups), 1, f.Groups, h, now, m.Zone)
	out := Schools{
		MachineId:   m.ID,
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
	lesson, err := s.lesson(ctx, m, h)
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

// lesson is what the first discharges say since the interval was last changed.
func (s *Server) lesson(ctx context.Context, m store.Machine, h care.History) (care.Lesson, error) {
	graded, err := s.Store.Graded(ctx, m.ID, h.ChoiceSince)
	return care.Learn(m.Answers, h.Choice, graded), err
}

func (s *Server) changes(ctx context.Context, m store.Machine) ([]ChangeShown, error) {
	list, err := s.Store.Changes(ctx, m.ID)
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
		case store.Chosen, store.Learned:
			i := intervalOut(c.Choice.For(m.Answers))
			row.Interval = &i
		case store.Oily:
			row.Title = "Oily beans"
		case store.Party:
			row.Title = "A party"
		default:
			row.Title = "Taken back"
		}
		out = append(out, row)
		if c.What != store.Undone && !c.TakenBack {
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
func (s *Server) passed(ctx context.Context, m store.Machine, now time.Time) ([]Passed, error) {
	list, events, err := s.Store.Past(ctx, m.ID, now.AddDate(-1, 0, 0))
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
			days, shots := e.At.Sub(last).Hours()/24, care.Count(events, e.Part, f, last, e.At).Shots
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
	m, err := s.find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	c, err := choiceIn(m.Answers, *r.Body)
	if err != nil {
		return nil, err
	}
	now := s.now()
	h, err := s.history(ctx, m, now)
	if err != nil {
		return nil, err
	}
	in, err := s.detergent(ctx)
	if err != nil {
		return nil, err
	}
	groups := m.Answers.Facts().Groups
	row, err := rowOut(
		m.Answers,
		c,
		care.PaceOf(m.Answers.Drinks/float64(groups), 1, groups, h, now, m.Zone).Mean(),
		in,
	)
	return PreviewPairing200JSONResponse(row), err
}

// ChooseSchool lets a choice hold from now on.
func (s *Server) ChooseSchool(ctx context.Context, r ChooseSchoolRequestObject) (ChooseSchoolResponseObject, error) {
	m, err := s.find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	c, err := choiceIn(m.Answers, *r.Body)
	if err != nil {
		return nil, err
	}
	if c.Method != "" {
		method, err := c.By()
		if err != nil {
			return nil, err
		}
		if fits := method.Fits(m.Answers.Facts()); fits.Verdict == reason.Refused {
			return nil, &reason.Refusal{Code: backflush.MethodUnfit, Field: "method", Value: string(c.Method),
				Allowed: "a method that suits this machine", Finding: fits}
		}
	}
	if err := s.Store.ChangeInterval(ctx, m.ID,
		store.Change{ID: r.Body.Id, What: store.Chosen, At: s.now(), Choice: c, Why: "chosen"}); err != nil {
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
	m, err := s.find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	now := s.now()
	h, err := s.history(ctx, m, now)
	if err != nil {
		return nil, err
	}
	c := store.Change{ID: r.Body.Id, At: now, Choice: h.Choice.Settled(m.Answers)}
	switch kind := string(r.Body.Kind); kind {
	case "undo":
		err = s.Store.UndoInterval(ctx, r.Body.Id, m.ID, now)
		if errors.Is(err, store.ErrConflict) {
			return nil, newProblem(
				http.StatusConflict,
				"conflict",
				"Nothing to take back",
			).at("kind", kind, "a machine whose interval was changed")
		}
	case "take":
		lesson, wrong := s.lesson(ctx, m, h)
		if wrong != nil {
			return nil, wrong
		}
		if !lesson.Proposed {
			p := newProblem(
				http.StatusConflict,
				"conflict",
				"No other interval is proposed",
			).at("kind", kind, "a machine whose first dirty water proposes another interval")
			p.Finding = &lesson.Finding
			return nil, p
		}
		c.What, c.Why, c.Choice.Factor = store.Learned, lesson.Finding.Because[0].Text, lesson.Factor.Value
		err = s.Store.ChangeInterval(ctx, m.ID, c)
	default:
		if err := care.CheckShortening(kind); err != nil {
			return nil, err
		}
		c.What, c.Why = kind, "until the next wash"
		err = s.Store.ChangeInterval(ctx, m.ID, c)
	}
	if err != nil {
		return nil, err
	}
	out, err := s.schools(ctx, m)
	return ChangeInterval201JSONResponse(out), err
}

// lastWash is the newest wash of any group.
func lastWash(h care.History) time.Time {
	var last time.Time
	for _, d := range h.Done {
		if d.Task == care.Wash && d.At.After(last) {
			last = d.At
		}
	}
	return last
}

// ReadCounter turns a reading of the machine's own counter into use.
func (s *Server) ReadCounter(ctx context.Context, r ReadCounterRequestObject) (ReadCounterResponseObject, error) {
	m, err := s.find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	at, err := s.past(r.Body.At, useReach)
	if err != nil {
		return nil, err
	}
	before, err := s.Store.LastReading(ctx, m.ID)
	if err != nil {
		return nil, err
	}
	if again, err := s.Store.HasReading(ctx, r.Body.Id); err != nil || again {
		return ReadCounter201JSONResponse{From: at, To: at}, err
	}
	h, err := s.history(ctx, m, s.now())
	if err != nil {
		return nil, err
	}
	use, err := care.FromCounter(
		m.Answers.Facts(),
		before,
		lastWash(h),
		care.Reading{Value: r.Body.Reading, At: at.UTC().Truncate(time.Millisecond), Reset: r.Body.Reset},
	)
	if err != nil {
		return nil, err
	}
	use.ID = r.Body.Id
	if err := s.Store.AddReading(ctx, m.ID, r.Body.Reading, use); err != nil {
		return nil, err
	}
	return ReadCounter201JSONResponse{Drinks: use.Count, From: use.From, To: use.To}, nil
}

// ImportUse takes dated use from a file, or says what it would come to.
func (s *Server) ImportUse(ctx context.Context, r ImportUseRequestObject) (ImportUseResponseObject, error) {
	m, err := s.find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	events, bad := care.ReadUse(r.Body.Text, m.Answers.Facts(), m.Zone, s.now())
	out := Imported{Entries: len(events)}
	out.Bad = make([]struct {
		Allowed string `json:"allowed"`
		Field   string `json:"field"`
		Line    int    `json:"line"`
		Value   string `json:"value"`
	}, len(bad))
	for i, b := range bad {
		out.Bad[i].Line, out.Bad[i].Field, out.Bad[i].Value, out.Bad[i].Allowed = b.Line, b.Field, b.Value, b.Allowed
	}
	if len(bad) > 0 {
		return ImportUse200JSONResponse(out), nil
	}
	sum, err := s.Store.ImportUse(ctx, m.ID, events, r.Body.Preview)
	if err != nil {
		return nil, err
	}
	out.Kept, out.Fresh, out.Changed, out.Same = !r.Body.Preview, sum.New, sum.Changed, sum.Same
	drinks := 0.0
	for _, e := range events {
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
	m, err := s.find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	now := s.now()
	day := func(d types.Date) time.Time { return care.DayOf(d.Year(), d.Month(), d.Day(), m.Zone) }
	spell, err := care.NewSpell(day(r.Body.From), day(r.Body.To), now, m.Zone)
	if err != nil {
		return nil, err
	}
	away := store.Away{ID: r.Body.Id, From: spell.From, To: spell.To}
	if r.Body.Note != nil {
		away.Note = *r.Body.Note
	}
	if err := s.Store.SayAway(ctx, m.ID, away, now); err != nil {
		return nil, err
	}
	out, err := s.machine(ctx, m.ID)
	return SayAway201JSONResponse(out), err
}

// ForgetAway takes a holiday back.
func (s *Server) ForgetAway(ctx context.Context, r ForgetAwayRequestObject) (ForgetAwayResponseObject, error) {
	m, err := s.find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	if err := s.Store.ForgetAway(ctx, m.ID, r.AwayId, s.now()); errors.Is(err, store.ErrNotFound) {
		return nil, newProblem(
			http.StatusNotFound,
			"not_found",
			"No such holiday",
		).at("away_id", r.AwayId, "the id of a holiday of this machine")
	} else if err != nil {
		return nil, err
	}
	out, err := s.machine(ctx, m.ID)
	return ForgetAway200JSONResponse(out), err
}

// RecordSmall puts small tasks of the day on record.
func (s *Server) RecordSmall(ctx context.Context, r RecordSmallRequestObject) (RecordSmallResponseObject, error) {
	m, err := s.find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	at, err := s.past(r.Body.At, useReach)
	if err != nil {
		return nil, err
	}
	gate := backflush.Gate(m.Answers.Facts())
	tasks := make([]care.Task, len(r.Body.Tasks))
	for i, t := range r.Body.Tasks {
		if tasks[i] = care.Task(t); tasks[i] == care.WaterBackflush && gate.Verdict == reason.Refused {
			return nil, &reason.Refusal{Code: backflush.NoValve, Field: "tasks", Value: string(t),
				Allowed: "the other small tasks", Finding: gate}
		}
	}
	if err := s.Store.AddSmall(ctx, r.Body.Id, m.ID, tasks, at); err != nil {
		return nil, err
	}
	list, err := s.bench(ctx, []store.Machine{m}, s.now())
	if err != nil {
		return nil, err
	}
	return RecordSmall201JSONResponse(list[0]), nil
}

func smallOut(list []care.Chore) []Small {
	out := make([]Small, len(list))
	for i, c := range list {
		out[i] = Small{Task: SmallTask(c.Task), Title: c.Title, How: c.How, Because: c.Because, Last: ptr(c.Last)}
	}
	return out
}
