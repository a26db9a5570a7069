package api

import (
	"bytes"
	"context"
	"fmt"
	"time"

	"github.com/oapi-codegen/runtime/types"

	"freshanvil/core/record"
	"freshanvil/core/units"
	"freshanvil/internal/app"
	"freshanvil/internal/report"
)

// paper gathers what is handed over, of one machine or of all of an owner.
func (s *Server) paper(ctx context.Context, machineID, owner *string, from, to *types.Date) (report.Paper, error) {
	now := s.App.Instant()
	var list []app.Machine
	switch {
	case (machineID == nil) == (owner == nil):
		return report.Paper{}, &units.OutOfRange{Field: "machine_id", Value: orElse(machineID, ""),
			Allowed: "a machine, or an owner, and one of them only"}
	case machineID != nil:
		m, err := s.App.Find(ctx, *machineID)
		if err != nil {
			return report.Paper{}, err
		}
		list = []app.Machine{m}
	default:
		var err error
		if list, err = s.App.OwnedBy(ctx, *owner); err != nil {
			return report.Paper{}, err
		}
	}
	var days app.Days
	if from != nil {
		days.From = from.String()
	}
	if to != nil {
		days.To = to.String()
	}
	visits := make([]app.Visit, len(list))
	for i, m := range list {
		var err error
		if visits[i], err = s.App.Visit(ctx, m, days, now); err != nil {
			return report.Paper{}, err
		}
	}
	return report.Of(orElse(owner, ""), visits, now), nil
}

// GetReport is what is handed to an owner, in sentences.
func (s *Server) GetReport(ctx context.Context, r GetReportRequestObject) (GetReportResponseObject, error) {
	p, err := s.paper(ctx, r.Params.MachineId, r.Params.Owner, r.Params.From, r.Params.To)
	if err != nil {
		return nil, err
	}
	out := OwnerReport{Title: p.Title, Owner: p.Owner, Period: p.Period, Made: p.Made, Machines: []ReportPart{}}
	for _, m := range p.Machines {
		out.Machines = append(out.Machines, reportPartOut(m))
	}
	return GetReport200JSONResponse(out), nil
}

func reportPartOut(m report.Part) ReportPart {
	out := ReportPart{Id: m.ID, Name: m.Name, Head: m.Head(), Inside: orNone(m.Inside), Found: []ReportFound{},
		Done: []ReportDone{}, Next: []ReportNext{}, Daily: []ReportDaily{}, Cautions: orNone(m.Cautions), By: orNone(m.By)}
	for _, x := range m.Found {
		out.Found = append(out.Found, ReportFound{Sight: string(x.Sight), Verdict: string(x.Verdict), Title: x.Title,
			Text: x.Text, Means: x.Means, Bad: x.Bad})
	}
	for _, x := range m.Done {
		out.Done = append(out.Done, ReportDone{When: x.When, Title: x.Title, Did: orNone(x.Did), Proof: x.Proof, By: x.By,
			Unsafe: x.Ended == record.Unsafe})
	}
	for _, x := range m.Next {
		n := ReportNext{When: x.When, Between: x.Between, Now: x.Now, Jobs: []ReportJob{}}
		for _, j := range x.Jobs {
			n.Jobs = append(n.Jobs, ReportJob{Title: j.Title, Why: j.Why})
		}
		out.Next = append(out.Next, n)
	}
	for _, x := range m.Daily {
		out.Daily = append(out.Daily, ReportDaily{Title: x.Title, How: x.How})
	}
	return out
}

// GetReportPDF is the same as a PDF.
func (s *Server) GetReportPDF(ctx context.Context, r GetReportPDFRequestObject) (GetReportPDFResponseObject, error) {
	p, err := s.paper(ctx, r.Params.MachineId, r.Params.Owner, r.Params.From, r.Params.To)
	if err != nil {
		return nil, err
	}
	size := report.A4
	if orElse(r.Params.Paper, "") == "letter" {
		size = report.Letter
	}
	var out bytes.Buffer
	if err := report.PDF(&out, p, size, s.App.Instant().Truncate(24*time.Hour)); err != nil {
		return nil, fmt.Errorf("the report as a PDF: %w", err)
	}
	return GetReportPDF200ApplicationpdfResponse{Body: &out, ContentLength: int64(out.Len()),
		Headers: GetReportPDF200ResponseHeaders{ContentDisposition: ptr(`inline; filename="service-report.pdf"`)}}, nil
}
