package api

import (
	"context"
	"time"

	"freshanvil/core/boiler"
	"freshanvil/core/circuit"
	"freshanvil/core/descale"
	"freshanvil/core/machine"
	"freshanvil/core/units"
	"freshanvil/internal/app"
)

// BoilerLife is what goes on in a machine's boilers.
func (s *Server) BoilerLife(ctx context.Context, r BoilerLifeRequestObject) (BoilerLifeResponseObject, error) {
	m, err := s.App.Find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	f := m.Answers.Facts()
	cool, err := descale.CoolingOf(f)
	if err != nil {
		return nil, err
	}
	out := BoilerLife{MachineId: m.ID, Version: m.Version, Cooling: coolingOut(m, cool), Hotter: []HotterBy{}}
	d, err := s.App.Scale(ctx, m, s.App.Instant())
	if err != nil {
		return BoilerLife200JSONResponse(out), nil //nolint:nilerr // without a water that can be worked out: said elsewhere
	}
	for _, p := range d.Places {
		if p.Surface.Heated {
			out.Hotter = append(out.Hotter, hotterOut(p.Place, p.Grown.Value))
		}
	}
	if c, any := circuit.Concentrated(f, d.Litres); any {
		draws := circuit.UsualDraws
		toDraw := circuit.ToDraw(d.Litres)
		out.Concentrated, out.ToDraw, out.GaugeBar = &c, &toDraw, ptr(float64(f.Gauge))
		if boils, err := boiler.Boils(f.Gauge); err == nil {
			out.BoilsC = ptr(float64(boils))
		}
		if draw, err := circuit.DrawOf(f); err == nil {
			renews := circuit.Renews(f, draw, draws)
			out.DrawL, out.Renews, out.Draws = ptr(float64(draw)), &renews, &draws
		}
	}
	return BoilerLife200JSONResponse(out), nil
}

// hotterOut is how much hotter an element runs by the thickness of its scale, to half over its limit.
func hotterOut(p circuit.Place, now float64) HotterBy {
	out := HotterBy{Title: p.Title, LimitMm: float64(p.Surface.Limit), NowMm: now}
	const steps = 6
	for i := range steps + 1 {
		mm := p.Surface.Limit * 1.5 * units.Length(i) / steps
		r := p.Surface.Hotter(mm)
		out.Points = append(out.Points, struct {
			High   float64 `json:"high"`
			Likely float64 `json:"likely"`
			Low    float64 `json:"low"`
			Mm     float64 `json:"mm"`
		}{r.High, r.Likely, r.Low, float64(mm)})
	}
	return out
}

// coolingOut is how a machine cools, from now on.
func coolingOut(m app.Machine, c descale.Cooling) CoolingShown {
	fact := "cooling_h"
	if m.Answers.Facts().SteamCooling > 0 {
		fact = "steam_cooling_h"
	}
	_, said := m.Answers.Overrides[fact]
	out := CoolingShown{FromC: float64(c.From), AirC: float64(c.Air), TauH: c.Tau.Hours(), Fact: fact, Said: said,
		Opens: c.Opens(m.Answers.Layout == machine.DualHome), SafeC: float64(descale.SafeToDrain)}
	for _, t := range touched {
		out.Touch = append(out.Touch, struct {
			AfterH  float64 `json:"after_h"`
			C       float64 `json:"c"`
			Minutes float64 `json:"minutes"`
		}{c.Below(t.at).Hours(), float64(t.at), t.minutes})
	}
	const steps = 24
	for i := range steps + 1 {
		h := 1.3 * out.Opens.Value * float64(i) / steps
		out.Curve = append(out.Curve, struct {
			C float64 `json:"c"`
			H float64 `json:"h"`
		}{float64(c.At(hours(h))), h})
	}
	return out
}

// touched are the temperatures at which bare metal may be touched, and for how long; 0 is longer.
var touched = []struct {
	at      units.Temperature
	minutes float64
}{{descale.TouchMinute, 1}, {descale.TouchTen, 10}, {descale.TouchLong, 0}}

func hours(h float64) time.Duration { return time.Duration(h * float64(time.Hour)) }

// CalibrateCooling is how a machine cools by two readings of its own.
func (s *Server) CalibrateCooling(ctx context.Context, r CalibrateCoolingRequestObject) (
	CalibrateCoolingResponseObject, error) {
	m, err := s.App.Find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	cool, err := descale.CoolingOf(m.Answers.Facts())
	if err != nil {
		return nil, err
	}
	cool, err = cool.Calibrated(hours(r.Body.First.AfterH), hours(r.Body.Second.AfterH),
		units.Temperature(r.Body.First.C), units.Temperature(r.Body.Second.C))
	if err != nil {
		return nil, err
	}
	return CalibrateCooling200JSONResponse(coolingOut(m, cool)), nil
}

// CheckSaturation compares a thermometer with the gauge of the steam boiler.
func (s *Server) CheckSaturation(ctx context.Context, r CheckSaturationRequestObject) (
	CheckSaturationResponseObject, error) {
	if _, err := s.App.Find(ctx, r.MachineId); err != nil {
		return nil, err
	}
	found, boils, err := circuit.Saturation(units.Pressure(r.Body.GaugeBar), units.Temperature(r.Body.ThermometerC))
	if err != nil {
		return nil, err
	}
	return CheckSaturation200JSONResponse(SaturationAnswer{Finding: found, BoilsC: float64(boils)}), nil
}
