package api

import (
	"bytes"
	"context"
	"slices"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/machine"
	"freshanvil/internal/app"
)

// Glance is a machine at a glance.
func (s *Server) Glance(ctx context.Context, r GlanceRequestObject) (GlanceResponseObject, error) {
	m, err := s.App.Find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	now := s.App.Instant()
	g, err := s.App.Glance(ctx, m, now)
	if err != nil {
		return nil, err
	}
	plate, err := s.App.Plate(ctx, m.ID)
	if err != nil {
		return nil, err
	}
	first, err := s.foremost(ctx, m, g.Dues, now)
	if err != nil {
		return nil, err
	}
	out := Glance200JSONResponse{Front: frontOut(first.Front), Leads: []LeadClock{}, Does: g.Does,
		Says: append([]string{}, g.Says...), Scheme: schemeOut(g.Scheme), Parts: []PartGlance{}, Worth: []Worth{},
		Year: []YearMark{}, Done: g.Done, YearFrom: g.From, YearTo: now, Plate: plateOut(plate)}
	if first.Alone != nil {
		alone := frontOut(*first.Alone)
		out.Alone = &alone
	}
	for _, d := range g.Leads {
		out.Leads = append(out.Leads, LeadClock{Task: d.Task, Part: d.Part})
	}
	for _, p := range g.Parts {
		out.Parts = append(out.Parts, PartGlance{Spot: Spot(p.Spot), Title: p.Title, Lines: append([]string{}, p.Lines...),
			Known: p.Known, Late: p.Late, Facts: knownOut(m.Answers.FactsAt(p.Spot))})
	}
	out.Parts = append(out.Parts, PartGlance{Spot: SpotMachine, Title: "how it is used", Lines: []string{}, Known: true,
		Facts: knownOut(m.Answers.FactsAt(machine.AtMachine))})
	for _, w := range g.Worth {
		out.Worth = append(out.Worth, worthOut(w))
		out.Worth[len(out.Worth)-1].Spot = spotOf(m.Answers, w)
	}
	out.Fitted = []FittedPart{}
	for _, d := range g.Fitted {
		out.Fitted = append(out.Fitted, FittedPart{Title: d.Task.Title(), Part: d.Part, At: d.At})
	}
	for _, e := range g.Year {
		out.Year = append(out.Year, YearMark{At: e.At, Size: YearMarkSize(care.SizeOf(e.Task)), Task: e.Task,
			Title: e.Task.Title()})
	}
	return out, nil
}

// foremost is what stands foremost on one machine.
func (s *Server) foremost(ctx context.Context, m app.Machine, dues []care.Due, now time.Time) (app.Foremost, error) {
	hazards, open, err := s.stands(ctx, m.ID)
	if err != nil {
		return app.Foremost{}, err
	}
	placed, err := s.App.Placings(ctx, m.ID)
	if err != nil {
		return app.Foremost{}, err
	}
	list := make([]care.Standing, len(dues))
	for i, d := range dues {
		list[i] = d.Standing()
	}
	in := app.Contents(hazards, m.ID)
	in.Layout = m.Answers.Layout
	return app.FrontOf(m, in, open, list, placed[m.ID], true, now), nil
}

// spotOf is the part at which a fact is said that is worth knowing; nil where it is read of the water.
func spotOf(a machine.Answers, w care.Worth) *Spot {
	for _, spot := range append(a.Facts().Scheme().Spots(), machine.AtMachine) {
		if slices.ContainsFunc(a.FactsAt(spot), func(k machine.Known) bool { return k.Key == w.Key }) {
			return ptr(Spot(spot))
		}
	}
	return nil
}

func plateOut(p app.Plate) PlateShown {
	return PlateShown{Model: p.Model, Serial: p.Serial, Notes: p.Notes, Photo: p.Photo}
}

// SayPlate keeps what stands on a machine's plate.
func (s *Server) SayPlate(ctx context.Context, r SayPlateRequestObject) (SayPlateResponseObject, error) {
	p := app.Plate{Model: r.Body.Model, Serial: r.Body.Serial, Notes: r.Body.Notes}
	if err := s.App.SayPlate(ctx, r.MachineId, p); err != nil {
		return nil, err
	}
	kept, err := s.App.Plate(ctx, r.MachineId)
	return SayPlate200JSONResponse(plateOut(kept)), err
}

// MachinePhoto is the photo of a machine.
func (s *Server) MachinePhoto(ctx context.Context, r MachinePhotoRequestObject) (MachinePhotoResponseObject, error) {
	data, err := s.App.Photo(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	return MachinePhoto200ImagejpegResponse{Body: bytes.NewReader(data), ContentLength: int64(len(data))}, nil
}

// SetMachinePhoto keeps a photo of a machine.
func (s *Server) SetMachinePhoto(
	ctx context.Context,
	r SetMachinePhotoRequestObject,
) (SetMachinePhotoResponseObject, error) {
	return SetMachinePhoto204Response{}, s.App.SetPhoto(ctx, r.MachineId, r.Body.Photo)
}

// ForgetMachinePhoto forgets it.
func (s *Server) ForgetMachinePhoto(
	ctx context.Context,
	r ForgetMachinePhotoRequestObject,
) (ForgetMachinePhotoResponseObject, error) {
	return ForgetMachinePhoto204Response{}, s.App.SetPhoto(ctx, r.MachineId, nil)
}
