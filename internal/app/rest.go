package app

import (
	"context"
	"errors"
	"slices"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/standdown"
	"freshanvil/core/task"
	"freshanvil/core/units"
	"freshanvil/internal/store"
)

// Standing still is a rest that is ahead of a machine or that it is in, with what belongs to it.
type StandingStill struct {
	Machine  store.Machine
	Rest     *standdown.Rest // nil where none was said
	RestID   string          // empty where it was only asked what one would come to
	Laid     time.Time       // since when it is laid up; zero where it is in use
	Stood    standdown.Stood // by now, or, where it is in use, what it will have come to
	Visits   []RestVisit
	Plans    map[task.ID]job.Plan // none where it is refused
	Refused  *reason.Refusal
	Visit    standdown.Turnover // on a visit
	Back     standdown.Turnover // on the return
	Flushed  reason.Worked
	Opens    []standdown.Opening
	CloseNow bool // its closing is due, or soon will be
	// WashFirst are the groups that are to be washed before it closes, FilterDue says that what treats the water is
	// due by its age when it comes back, After what else falls due by then.
	WashFirst []machine.Part
	FilterDue bool
	After     []care.Due
}

// RestVisit is a weekly visit, and whether it was made.
type RestVisit struct {
	On   time.Time
	Made bool
}

// Shown are the plans that are still to come, in their order.
func (s StandingStill) Shown() (list []task.ID) {
	for _, id := range []task.ID{task.LayUp, task.Visit, task.Return} {
		over := id == task.LayUp && !s.Laid.IsZero()
		alone := id == task.Visit && s.Rest != nil && !s.Rest.Visited
		if _, is := s.Plans[id]; is && !over && !alone {
			list = append(list, id)
		}
	}
	return list
}

// When is on which day one of its plans is carried out, zero where that is not known, and what else is to be said of
// it.
func (s StandingStill) When(id task.ID) (on time.Time, words string) {
	switch {
	case id == task.Visit:
		return on, "once a week"
	case id == task.LayUp && s.Rest != nil:
		return s.Rest.From.AddDate(0, 0, -1), "after the last drink"
	case id == task.LayUp:
		return on, "on the last evening"
	case s.Rest != nil:
		return s.Rest.To, ""
	}
	return on, "on the day it is used again"
}

// Drawn is what one of its plans draws out of the steam boiler.
func (s StandingStill) Drawn(id task.ID) standdown.Turnover {
	switch id {
	case task.Visit:
		return s.Visit
	case task.Return:
		return s.Back
	}
	return standdown.Turnover{}
}

// washedLately is how long before a closing a group may have been washed (our own engineering choice).
const washedLately = 24 * time.Hour

// closingFrom is how long before its first day a closing may begin (our own engineering choice).
const closingFrom = 3 * 24 * time.Hour

// StandStill says what a rest of a machine comes to: the one that is entered, or, where one is given, what that would
// come to. It writes nothing.
func (a *App) StandStill(ctx context.Context, machineID string, asked *standdown.Rest) (s StandingStill, err error) {
	now := a.now()
	if s.Machine, err = find(ctx, a.store, machineID); err != nil {
		return s, err
	}
	m := s.Machine
	h, err := a.History(ctx, m, now)
	if err != nil {
		return s, err
	}
	if since, laid := h.LaidUp(now); laid {
		s.Laid = since
	}
	rest, any := h.Rest(now)
	if asked != nil && s.Laid.IsZero() {
		rest, any = *asked, true
		if err := rest.Check(); err != nil {
			return s, err
		}
		h.Rests = append(h.Rests, rest)
	}
	if any {
		s.Rest = &rest
		if s.RestID, err = a.restID(ctx, m.ID, rest); err != nil {
			return s, err
		}
	}
	made, err := a.visitsSince(ctx, m.ID, s.Laid)
	if err != nil {
		return s, err
	}
	s.Stood = standdown.Stood{Visits: len(made)}
	switch {
	case !s.Laid.IsZero():
		s.Stood.Days = days(s.Laid, now)
	case any:
		s.Stood = standdown.Stood{Days: rest.Days(), Visits: len(rest.Visits())}
	}
	for _, on := range rest.Visits() {
		s.Visits = append(s.Visits, RestVisit{on, slices.ContainsFunc(made, func(at time.Time) bool {
			return at.Sub(on).Abs() < 4*24*time.Hour
		})})
	}
	if err := s.fillIn(h, rest, now); err != nil {
		return s, err
	}
	return s, nil
}

// fillIn works out what belongs to it; what is refused is kept with its reason.
func (s *StandingStill) fillIn(h care.History, rest standdown.Rest, now time.Time) error {
	m, f := s.Machine, s.Machine.Answers.Facts()
	s.Flushed = standdown.Flushed(f)
	s.Opens, _ = standdown.Openings(f)
	back := now
	if s.Rest != nil {
		back = rest.To
	}
	s.CloseNow = s.Rest != nil && s.Laid.IsZero() && rest.From.Sub(now) < closingFrom
	for _, d := range care.AllDue(m.Answers, h, now, m.Zone) {
		switch {
		case d.Task.Row().Rests || d.Task.IsSmall():
			continue
		case d.Task == task.Wash && s.CloseNow && now.Sub(d.Last) > washedLately:
			s.WashFirst = append(s.WashFirst, d.Part)
		}
		if !d.Likely.After(back.Add(24 * time.Hour)) {
			s.After = append(s.After, d)
			s.FilterDue = s.FilterDue || d.Task == task.FilterChange
		}
	}
	s.Plans = map[task.ID]job.Plan{}
	for _, id := range []task.ID{task.LayUp, task.Visit, task.Return} {
		p, err := job.StandDown(job.Resting{Answers: m.Answers, Task: id, Rest: rest, Stood: s.Stood, FilterDue: s.FilterDue})
		var no *reason.Refusal
		if errors.As(err, &no) {
			s.Refused, s.Plans = no, nil
			return nil
		}
		if err != nil {
			return err
		}
		s.Plans[id] = p
	}
	var err error
	if s.Visit, err = standdown.TurnoverOf(f, false); ignored(&err) {
		return err
	}
	if s.Back, err = standdown.TurnoverOf(f, s.Stood.Long()); ignored(&err) {
		return err
	}
	return nil
}

// ignored says whether an error stands; that too little can be drawn at once only leaves the draws out.
func ignored(err *error) bool {
	var no *reason.Refusal
	if errors.As(*err, &no) {
		*err = nil
	}
	return *err != nil
}

func days(from, to time.Time) int { return int(to.Sub(from).Hours()/24 + 0.5) }

// restID is the entry that a rest is from; empty where it is from none.
func (a *App) restID(ctx context.Context, machineID string, r standdown.Rest) (string, error) {
	list, err := a.store.Aways(ctx, machineID)
	for _, x := range list {
		if x.Stands != "" && x.From.Equal(r.From) && x.To.Equal(r.To) {
			return x.ID, nil
		}
	}
	return "", err
}

// visitsSince are the visits of a machine since it was laid up; none where it is not.
func (a *App) visitsSince(ctx context.Context, machineID string, since time.Time) (list []time.Time, err error) {
	if since.IsZero() {
		return nil, nil
	}
	done, err := a.store.DoneSince(ctx, machineID, []task.ID{task.Visit}, since)
	for _, d := range done {
		list = append(list, d.At)
	}
	return list, err
}

// planStandDown plans the closing of a machine, a visit or the return.
func (a *App) planStandDown(ctx context.Context, m store.Machine, b Begun, in job.Contents, _ time.Time) (
	job.Plan, error,
) {
	if text := in.Holds(); text != "" {
		return job.Plan{}, &Conflict{Code: string(job.ChemicalInside), Title: text, Field: "task", Value: string(b.Task),
			Allowed: "a machine without detergent or acid inside: rinse it first"}
	}
	s, err := a.StandStill(ctx, m.ID, nil)
	switch {
	case err != nil:
		return job.Plan{}, err
	case s.Refused != nil:
		return job.Plan{}, s.Refused
	case b.Task == task.LayUp && s.Rest == nil:
		return job.Plan{}, &units.OutOfRange{Field: "task", Value: string(b.Task),
			Allowed: "a machine whose days of closing are said first"}
	case b.Task == task.LayUp && !s.Laid.IsZero(), b.Task == task.Visit && s.Laid.IsZero():
		return job.Plan{}, &units.OutOfRange{Field: "task", Value: string(b.Task),
			Allowed: "lay_up of a machine in use, visit of one that is laid up"}
	}
	return s.Plans[b.Task], nil
}

// LaidUp refuses to use what stands closed down.
const LaidUp reason.Code = "laid_up"

// mayRun refuses to lead anything but a visit or the return on a machine that is laid up: its water is shut off.
func (a *App) mayRun(ctx context.Context, m store.Machine, b Begun, in job.Contents, now time.Time) error {
	if b.Practice || b.Task == task.Visit || b.Task == task.Return || in.Any() {
		return nil
	}
	done, err := a.store.Done(ctx, m.ID)
	if err != nil {
		return err
	}
	since, laid := care.History{Done: done}.LaidUp(now)
	if !laid {
		return nil
	}
	return reason.Refuse(LaidUp, "It is laid up").
		Of("task", string(b.Task), "a visit, or its return").
		Why(reason.Log, "It was closed down on "+since.In(m.Zone).Format("2 January")+": its water is shut off, or its "+
			"tank is "+
			"empty, and an element runs dry.").
		Instead("Bring it back into use first: water before power.")
}
