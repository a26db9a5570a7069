package api

import (
	"context"

	"freshanvil/core/photo"
	"freshanvil/internal/app"
)

// JudgeCup is what a photo of a cup is nearest to.
func (s *Server) JudgeCup(_ context.Context, r JudgeCupRequestObject) (JudgeCupResponseObject, error) {
	c, err := app.JudgeCup(r.Body.Photo)
	if err != nil {
		return nil, err
	}
	out := PhotoCup{Colour: PhotoCupColour(c.Colour), Or: PhotoCupOr(c.Or), Sure: PhotoSure(c.Sure), Says: c.Says,
		Counted: c.Counted, Grains: ptr(PhotoCupGrains(c.Grains)), Because: c.Because,
		Rings: []float64{photo.Water, photo.WallFrom, photo.WallTo}}
	out.Marks = make([]struct {
		R float64 `json:"r"`
		X float64 `json:"x"`
		Y float64 `json:"y"`
	}, len(c.Marks))
	for i, m := range c.Marks {
		out.Marks[i].X, out.Marks[i].Y, out.Marks[i].R = m.X, m.Y, m.R
	}
	out.Looks.Cup, out.Looks.Discharge = string(c.AsCup), string(c.AsFirstOut)
	return JudgeCup200JSONResponse(out), nil
}

// JudgeStrip is what a pad of a strip is nearest to on its own chart.
func (s *Server) JudgeStrip(_ context.Context, r JudgeStripRequestObject) (JudgeStripResponseObject, error) {
	b := r.Body
	chart := make([]photo.Patch, len(b.Chart))
	for i, c := range b.Chart {
		chart[i] = photo.Patch{Point: photo.Point{X: c.X, Y: c.Y}, Value: c.Value}
	}
	strip, err := app.JudgeStrip(b.Photo, photo.Point(b.White), photo.Point(b.Pad), chart)
	if err != nil {
		return nil, err
	}
	return JudgeStrip200JSONResponse{Value: strip.Value, Low: strip.Low, High: strip.High, Sure: PhotoSure(strip.Sure),
		Says: strip.Says, Because: strip.Because}, nil
}
