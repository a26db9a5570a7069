package api

import (
	"context"
	"strings"
	"time"

	types "github.com/oapi-codegen/runtime/types"

	"freshanvil/core/care"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/standdown"
	"freshanvil/core/task"
	"freshanvil/core/units"
	"freshanvil/core/use"
	"freshanvil/internal/app"
)

// StandStill is what standing still for weeks comes to.
func (s *Server) StandStill(ctx context.Context, r StandStillRequestObject) (StandStillResponseObject, error) {
	asked, err := s.askedRest(ctx, r)
	if err != nil {
		return nil, err
	}
	still, err := s.App.StandStill(ctx, r.MachineId, asked)
	if err != nil {
		return nil, err
	}
	return StandStill200JSONResponse(restOut(still, s.App.Now())), nil
}

// askedRest is the rest that is asked about; nil where none is.
func (s *Server) askedRest(ctx context.Context, r StandStillRequestObject) (*standdown.Rest, error) {
	from, to := r.Params.From, r.Params.To
	if from == nil && to == nil {
		return nil, nil
	}
	if from == nil || to == nil {
		return nil, &units.OutOfRange{Field: "to", Value: "one day of two", Allowed: "both from and to"}
	}
	m, err := s.App.Find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	day := func(d *types.Date) time.Time { return use.DayOf(d.Year(), d.Month(), d.Day(), m.Zone) }
	spell, err := use.NewSpell(day(from), day(to), s.App.Now(), m.Zone)
	if err != nil {
		return nil, err
	}
	return &standdown.Rest{From: spell.From, To: spell.To,
		Visited: orElse(r.Params.Stands, "visited") == "visited"}, nil
}

func restOut(s app.StandingStill, now time.Time) Rest {
	m := s.Machine
	out := Rest{MachineId: m.ID, MachineName: m.Name, Zone: m.Zone.String(), Groups: m.Answers.Facts().Groups,
		State: RestStateInUse, Visits: []RestVisit{}, Opens: []GroupOpening{}, After: []string{}, Plans: []RestPlan{},
		WashFirst: append([]machine.Part{}, s.WashFirst...), FilterDue: s.FilterDue, AwayId: ptr(s.RestID),
		CloseNow: s.CloseNow}
	if s.Refused != nil {
		out.Refused = &s.Refused.Finding
	}
	if r := s.Rest; r != nil {
		out.State = RestStateAhead
		out.From, out.To = &types.Date{Time: r.From}, &types.Date{Time: r.To.AddDate(0, 0, -1)}
		out.Back, out.Days, out.Stands = &r.To, ptr(r.Days()), ptr(RestStandsAlone)
		if r.Visited {
			out.Stands = ptr(RestStandsVisited)
		}
	}
	if !s.Laid.IsZero() {
		out.State, out.Since = RestStateLaidUp, &s.Laid
	}
	for _, v := range s.Visits {
		out.Visits = append(out.Visits, RestVisit{On: v.On, Made: v.Made,
			Missed: !v.Made && now.After(v.On.AddDate(0, 0, 4))})
	}
	if s.Rest != nil || !s.Laid.IsZero() {
		out.Stood = &Stood{Days: s.Stood.Days, Visits: s.Stood.Visits, Long: s.Stood.Long(), Because: s.Stood.Because()}
	}
	if f := m.Answers.Facts(); f.Tray == 0 && f.Waste > 0 {
		for _, o := range s.Opens {
			out.Opens = append(out.Opens, GroupOpening{Group: o.Group, AtS: o.At.Seconds(), ShutS: o.Shut.Seconds()})
		}
	} else if s.Flushed.Value > 0 {
		out.Flushed = &s.Flushed
	}
	for _, d := range s.After {
		title := d.Title()
		if g := d.Part.GroupNumber(); g > 0 && out.Groups > 1 {
			title += ", " + care.Groups([]int{g})
		}
		out.After = append(out.After, title)
	}
	for _, id := range s.Shown() {
		p := s.Plans[id]
		on, words := s.When(id)
		out.Plans = append(out.Plans, RestPlan{Task: id, Title: id.Title(), On: ptr(on), When: words, Minutes: p.Minutes,
			Steps: heads(p), Renews: id != task.LayUp, Draws: turnoverOut(s.Drawn(id))})
	}
	return out
}

// heads are the steps of a plan in a few words each, what is done again and again once.
func heads(p job.Plan) (list []string) {
	seen := map[string]bool{}
	for _, s := range p.Steps() {
		if head := strings.TrimSuffix(s.Head, "."); !seen[head] {
			seen[head] = true
			list = append(list, head)
		}
	}
	return list
}

func turnoverOut(t standdown.Turnover) *Turnover {
	if t.Draws == 0 {
		return nil
	}
	return &Turnover{DrawL: float64(t.Draw), Draws: t.Draws, Renews: t.Renews}
}
