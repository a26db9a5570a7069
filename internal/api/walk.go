package api

import (
	"context"

	"freshanvil/core/inspect"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/internal/app"
)

// WalkRound is what there is to look at on a walk round a machine.
func (s *Server) WalkRound(ctx context.Context, r WalkRoundRequestObject) (WalkRoundResponseObject, error) {
	hot := orElse(r.Params.Hot, true)
	w, err := s.App.WalkRound(ctx, r.MachineId, hot)
	if err != nil {
		return nil, err
	}
	hazards, err := s.App.Hazards(ctx)
	if err != nil {
		return nil, err
	}
	m := w.Machine
	out := Walk{MachineId: m.ID, MachineName: m.Name, Owner: m.Owner, Place: m.Place, Zone: m.Zone.String(),
		Groups: m.Answers.Facts().Groups, Hot: hot, Stopped: ptr(app.Contents(hazards, m.ID).Halted()),
		Cards: make([]WalkCard, len(w.Cards))}
	for i, c := range w.Cards {
		out.Cards[i] = walkCardOut(c)
	}
	return WalkRound200JSONResponse(out), nil
}

func walkCardOut(c app.WalkCard) WalkCard {
	out := WalkCard{Sight: Sight(c.Sight), Part: c.Part, Title: c.Title, Ask: c.Ask, How: orNone(c.How),
		Posture: WalkCardPosture(c.At), Cautions: append([]reason.Caution{}, c.Cautions...), Trend: c.Trend.Text,
		Worse: c.Trend.Worse, Fresh: c.Fresh}
	for _, seen := range c.Seen {
		out.Answers = append(out.Answers, WalkAnswer{Verdict: string(seen.Verdict), Text: seen.Text, Bad: seen.Bad})
	}
	if m := c.Measure; m != nil {
		out.Measure = &WalkMeasure{Ask: m.Ask, Unit: m.Unit, Low: m.Low, High: m.High, Expected: c.Expected}
	}
	if l := c.Last; l != nil {
		seen := l.Seen()
		out.Last = &WalkLast{Id: l.ID, Verdict: string(l.Verdict), Text: seen.Text, Do: seen.Do, Bad: seen.Bad, At: l.At,
			Number: l.Number}
	}
	return out
}

// JudgeLook is what a look would come to and move.
func (s *Server) JudgeLook(ctx context.Context, r JudgeLookRequestObject) (JudgeLookResponseObject, error) {
	part, err := machine.ParsePart(r.Params.Part)
	if err != nil {
		return nil, err
	}
	j, err := s.App.JudgeLook(ctx, r.MachineId, inspect.Found{Sight: inspect.Sight(r.Sight), Part: part,
		Verdict: inspect.Verdict(orElse(r.Params.Verdict, "")), Number: r.Params.Number})
	if err != nil {
		return nil, err
	}
	out := LookJudged{Verdict: string(j.Verdict), Text: j.Text, Finding: j.Finding, Moves: []string{}, Fit: ptr(j.Fit),
		Symptom: ptr(j.Symptom), Stops: j.Stops != nil}
	for _, m := range j.Moves {
		out.Moves = append(out.Moves, m.Text)
	}
	return JudgeLook200JSONResponse(out), nil
}
