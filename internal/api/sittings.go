package api

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/job"
	"freshanvil/core/reason"
	"freshanvil/core/sitting"
	"freshanvil/internal/app"
)

// shownAhead is how far ahead sittings are shown, days.
const shownAhead = 92

func sittingsOut(dues []care.Due, placed []care.Placing, h care.History, now time.Time) []SittingShown {
	standings := make([]care.Standing, len(dues))
	for i, d := range dues {
		standings[i] = d.Standing()
	}
	out := []SittingShown{}
	items := sitting.ItemsOf(standings, now, placed...)
	for _, s := range sitting.Year(items, shownAhead, sitting.GoneOf(h.Away, now)...) {
		out = append(out, sittingOut(s, now))
	}
	return out
}

// on is an instant so many days from another.
func on(now time.Time, days float64) time.Time {
	return now.Add(time.Duration(days * 24 * float64(time.Hour))).UTC()
}

func sittingOut(s sitting.Sitting, now time.Time) SittingShown {
	shown := SittingShown{At: on(now, s.Day), Now: s.Now(), Head: s.Head(), Minutes: s.Takes(), Alone: s.OneByOne(),
		Members: make([]SittingMember, len(s.Members)), Led: tasksOut(s.Led())}
	for i, m := range s.Members {
		shown.Members[i] = SittingMember{Task: m.Task, Part: m.Part, Title: m.Title, Way: TaskWay(m.Task.Row().Way),
			Because: m.Because}
	}
	return shown
}

func tasksOut(wants []job.Want) []SittingTask {
	out := make([]SittingTask, len(wants))
	for i, w := range wants {
		out[i] = SittingTask{Task: w.Task, Parts: w.Parts}
	}
	return out
}

// GetWorkSheet lays out what falls due together now, before anything is begun.
func (s *Server) GetWorkSheet(ctx context.Context, r GetWorkSheetRequestObject) (GetWorkSheetResponseObject, error) {
	m, err := s.App.Find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	wants, err := s.App.FallsTogether(ctx, m)
	if err != nil {
		return nil, err
	}
	if len(wants) == 0 {
		return nil, &app.Conflict{Code: "nothing_together", Title: "Nothing falls due together now",
			Detail: "Two tasks or more make a sitting. What comes next stands on the page of " + m.Name + ".",
			Field:  "machine_id", Value: m.Name, Allowed: "a machine of which two tasks or more are due"}
	}
	cafe, _ := m.Answers.Cafe() // its cold work is done in the morning, before it is switched on
	how := app.How{Order: orElse(r.Params.Order, nil), Cold: orElse(r.Params.Cold, cafe)}
	c, err := s.App.Composed(ctx, m.ID, wants, how)
	if err != nil {
		return nil, err
	}
	start := s.App.Instant()
	if r.Params.Begin != nil {
		start = nextAt(*r.Params.Begin, start, m.Zone)
	}
	out := sheetOut(c, start)
	out.MachineName, out.Zone = m.Name, m.Zone.String()
	out.Tasks = tasksOut(wants)
	return GetWorkSheet200JSONResponse(out), nil
}

// nextAt is the next instant at which a clock in a zone shows hours and minutes, as 18:30.
func nextAt(clock string, now time.Time, zone *time.Location) time.Time {
	t, err := time.Parse("15:04", clock)
	if err != nil { // the contract lets none through
		return now
	}
	now = now.In(zone)
	at := time.Date(now.Year(), now.Month(), now.Day(), t.Hour(), t.Minute(), 0, 0, zone)
	if at.Before(now.Truncate(time.Minute)) {
		at = time.Date(now.Year(), now.Month(), now.Day()+1, t.Hour(), t.Minute(), 0, 0, zone)
	}
	return at.UTC()
}

func lanesOut(lanes []sitting.Lane) []SheetLane {
	out := make([]SheetLane, len(lanes))
	for i, l := range lanes {
		out[i] = SheetLane{Title: l.Title, Bars: make([]SheetBar, len(l.Bars))}
		for j, b := range l.Bars {
			out[i].Bars[j] = SheetBar{Title: b.Title, Work: b.Work, FromMin: b.From.Minutes(), ToMin: b.To.Minutes()}
		}
	}
	return out
}

// sheetStepOut is a step on the sheet; a caution stands in full once, then by its first words.
func sheetStepOut(x job.Span, start time.Time, told map[string]bool) SheetStep {
	step := SheetStep{Id: x.Step.ID, At: start.Add(x.From).UTC(), Until: start.Add(x.To).UTC(), Head: x.Step.Head,
		Task: "the machine", Work: x.Work, Do: append(orNone(x.Step.OnPaper()), x.Step.Beside()...), Ways: []string{},
		Cautions: []reason.Caution{}}
	for _, c := range x.Step.Cautions {
		full := c.Text
		if told[full] {
			c.Text = c.Short()
		}
		told[full] = true
		step.Cautions = append(step.Cautions, c)
	}
	if b, ok := job.BodyOf[job.Choose](x.Step); ok {
		for _, w := range b.Ways {
			step.Ways = append(step.Ways, w.Text)
		}
	}
	return step
}

func sheetOut(c sitting.Composed, start time.Time) WorkSheet {
	out := WorkSheet{Title: c.Plan.Title(), Tasks: []SittingTask{}, StartAt: start.UTC(), Minutes: c.Plan.Minutes,
		Alone: c.OneByOne(), Says: c.Says(), Clear: c.Clear.Text, LayOut: append(orNone(c.Plan.LayOut()),
			c.Plan.Waters()...),
		Lanes: []SheetLane{}, Turns: []SheetTurn{}, Moved: c.Shortest > 0, Opens: c.Opens(), Cold: c.Plan.Cold,
		Steps: []SheetStep{}}
	for _, p := range c.Places() {
		out.Turns = append(out.Turns, SheetTurn{Name: p.Name, Title: p.Title})
	}
	for _, in := range c.Plan.Minutes.Inputs {
		if in.Symbol == "hands" {
			out.HandsMin = in.Value / 60
		}
	}
	lanes, end := sitting.Lanes(c.Plan), start
	for _, l := range lanes {
		for _, b := range l.Bars {
			if to := start.Add(b.To); to.After(end) {
				end = to
			}
		}
	}
	out.Lanes, out.EndAt = lanesOut(lanes), end.UTC()
	spans := c.Plan.Spans()
	slices.SortStableFunc(spans, func(a, b job.Span) int { return cmp.Compare(a.From, b.From) })
	several, told := len(c.Plan.Groups()) > 1, map[string]bool{}
	for _, x := range spans {
		step := sheetStepOut(x, start, told)
		if a := c.Plan.Activity(x.Step.Activity); a != nil && !x.OfTheMachine() {
			step.Task = a.Task.Title()
		}
		if g := x.Step.Part.GroupNumber(); several && g > 0 {
			step.Task += fmt.Sprintf(", group %d", g)
		}
		out.Steps = append(out.Steps, step)
	}
	return out
}
