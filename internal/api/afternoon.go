package api

import (
	"context"
	"strings"
	"time"

	"freshanvil/core/job"
	"freshanvil/internal/app"
)

// GetAfternoon puts what is due on several machines into one order of visits.
func (s *Server) GetAfternoon(ctx context.Context, r GetAfternoonRequestObject) (GetAfternoonResponseObject, error) {
	w, err := s.App.InOneGo(ctx, orElse(r.Params.Machine, nil))
	if err != nil {
		return nil, err
	}
	start := s.App.Instant()
	if r.Params.Begin != nil {
		start = nextAt(*r.Params.Begin, start, w.Of[0].Machine.Zone)
	}
	return GetAfternoon200JSONResponse(afternoonOut(w, start)), nil
}

func afternoonOut(w app.Work, start time.Time) Afternoon {
	at := func(d time.Duration) time.Time { return start.Add(d).UTC() }
	out := Afternoon{Zone: w.Of[0].Machine.Zone.String(), StartAt: start.UTC(), EndAt: at(w.Takes),
		Minutes:  w.Worked(),
		HandsMin: w.Hands.Minutes(), Alone: w.OneAfterTheOther(), Says: w.Says(), Lanes: lanesOut(w.Lanes()),
		Visits: make([]AfternoonVisit, len(w.Visits)), Jobs: make([]AfternoonJob, len(w.Jobs)),
		LeftOut: make([]AfternoonLeft, len(w.LeftOut))}
	for i, v := range w.Visits {
		out.Visits[i] = AfternoonVisit{At: at(v.From), Until: at(v.To), Job: v.Job, MachineName: w.Jobs[v.Job].Name,
			Steps: orNone(v.Steps), Last: v.Last}
		if v.Stands != "" {
			out.Visits[i].Stands = &w.Visits[i].Stands
		}
		if v.Back > 0 {
			out.Visits[i].BackAt = ptr(at(v.Back))
		}
	}
	for i, j := range w.Jobs {
		of := w.Of[i]
		from, to := w.Span(i)
		out.Jobs[i] = AfternoonJob{MachineId: of.Machine.ID, MachineName: j.Name, Title: titleOf(j.Plan), BeginAt: at(from),
			EndAt: at(to), Tasks: tasksOut(of.Wants), LayOut: orNone(j.Plan.LayOut())}
		if j.Plan.Descaling() != nil {
			out.Jobs[i].Descale = &struct {
				Product string `json:"product"`
				Renew   bool   `json:"renew"`
				Wash    bool   `json:"wash"`
			}{of.Asked.Product, of.Asked.Renew, of.Asked.Wash}
		}
	}
	for i, x := range w.LeftOut {
		out.LeftOut[i] = AfternoonLeft{MachineId: x.Machine.ID, MachineName: x.Machine.Name, What: x.What, Why: x.Why}
	}
	return out
}

// titleOf is what a run of an afternoon is called: a descale with what it takes along.
func titleOf(p job.Plan) string {
	if p.Descaling() == nil {
		return p.Title()
	}
	list := p.Titles()
	for i := 1; i < len(list); i++ {
		list[i] = strings.ToLower(list[i])
	}
	return strings.Join(list, ", ")
}
