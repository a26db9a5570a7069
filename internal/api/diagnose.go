package api

import (
	"context"
	"strings"

	"freshanvil/core/diagnose"
	"freshanvil/core/inspect"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/units"
	"freshanvil/internal/app"
)

// Diagnose is how far the search for a cause has come.
func (s *Server) Diagnose(ctx context.Context, r DiagnoseRequestObject) (DiagnoseResponseObject, error) {
	var said []diagnose.Said
	for _, text := range orElse(r.Params.Said, nil) {
		check, answer, _ := strings.Cut(text, ":")
		said = append(said, diagnose.Said{Check: diagnose.CheckID(check), Answer: diagnose.AnswerID(answer)})
	}
	d, err := s.App.Diagnose(ctx, r.MachineId, diagnose.SymptomID(orElse(r.Params.Symptom, "")), said)
	if err != nil {
		return nil, err
	}
	m := d.Machine
	out := Diagnosis{MachineId: m.ID, MachineName: m.Name, Groups: m.Answers.Facts().Groups,
		Symptoms: make([]DiagnosisSymptom, len(d.Symptoms)), Gauges: []DiagnosisGauges{}}
	for _, g := range inspect.Gauges(m.Answers.Facts()) {
		out.Gauges = append(out.Gauges, DiagnosisGauges(g))
	}
	for i, x := range d.Symptoms {
		out.Symptoms[i] = symptomOut(x)
	}
	if d.Finding != nil {
		out.Finding = findingOut(*d.Finding)
	}
	return Diagnose200JSONResponse(out), nil
}

func symptomOut(s diagnose.Symptom) DiagnosisSymptom {
	return DiagnosisSymptom{Id: string(s.ID), Title: s.Title, Stops: s.Stops}
}

func findingOut(f diagnose.Finding) *DiagnosisFinding {
	out := &DiagnosisFinding{Symptom: symptomOut(f.Symptom), Causes: make([]DiagnosisCause, len(f.Causes)), Sure: f.Sure,
		Because: f.Because}
	for i, c := range f.Causes {
		row := c.Remedy.Task.Row()
		out.Causes[i] = DiagnosisCause{Id: string(c.ID), Title: c.Title, Share: c.Share, Words: c.Words,
			End: DiagnosisCauseEnd(c.Remedy.End), Do: orNone(c.Remedy.Do), Whose: whoseOut(row.Whose)}
		if c.Remedy.Task != "" {
			out.Causes[i].Task, out.Causes[i].TaskTitle = ptr(c.Remedy.Task), ptr(row.Title)
			out.Causes[i].Begins = ptr(DiagnosisCauseBegins(c.Remedy.Begins()))
			out.Causes[i].Groups = row.Of == task.EachGroup || c.Remedy.Task == task.Unblock || c.Remedy.Task == task.Rinse
		}
	}
	if c := f.Next; c != nil {
		out.Next = &DiagnosisCheck{Id: string(c.ID), Ask: c.Ask, How: orNone(c.How), Minutes: c.Minutes,
			Cautions: append([]reason.Caution{}, c.Cautions...)}
		for _, a := range c.Answers {
			out.Next.Answers = append(out.Next.Answers, struct {
				Id   string `json:"id"`
				Text string `json:"text"`
			}{string(a.ID), a.Text})
		}
	}
	return out
}

// RecordCause keeps the cause that was found.
func (s *Server) RecordCause(ctx context.Context, r RecordCauseRequestObject) (RecordCauseResponseObject, error) {
	b := r.Body
	return RecordCause204Response{}, s.App.RecordCause(ctx, app.Found{ID: b.Id, MachineID: r.MachineId,
		Symptom: diagnose.SymptomID(b.Symptom), Cause: diagnose.CauseID(b.Cause)})
}

// ReadGauge judges what a gauge shows.
func (s *Server) ReadGauge(ctx context.Context, r ReadGaugeRequestObject) (ReadGaugeResponseObject, error) {
	m, err := s.App.Find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	read, err := inspect.ReadGauge(m.Answers.Facts(), inspect.Gauge(r.Params.Which), units.Pressure(r.Params.Bar),
		orElse(r.Params.Shakes, false))
	if err != nil {
		return nil, err
	}
	return ReadGauge200JSONResponse{Finding: read.Finding, Stops: read.Verdict == reason.Stop,
		Symptom: ptr(read.Symptom)}, nil
}
