package api

import (
	"context"
	"slices"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/circuit"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/scale"
	"freshanvil/core/treat"
	"freshanvil/core/units"
	"freshanvil/core/water"
	"freshanvil/internal/app"
)

func (s *Server) waters(ctx context.Context) (Waters, error) {
	sources, err := s.App.Sources(ctx)
	if err != nil {
		return Waters{}, err
	}
	treatments, err := s.App.Treatments(ctx)
	out := Waters{Sources: make([]WaterSource, len(sources)), Treatments: treatments, Strip: []StripPads{}}
	for _, p := range water.Strip() {
		out.Strip = append(out.Strip, StripPads{Pads: p.Turned, Low: p.Low, High: p.High})
	}
	for i, x := range sources {
		out.Sources[i] = sourceOut(x)
	}
	return out, err
}

func sourceOut(x app.Source) WaterSource {
	out := WaterSource{Id: x.ID, Name: x.Name, Readings: []WaterReading{}}
	for _, r := range slices.Backward(x.Samples) {
		w := WaterReading{Id: r.ID, Taken: r.Taken, How: ReadBy(r.How), Said: saidOut(r.Sample)}
		if r.Bad != nil {
			w.Unreadable = ptr(true)
		}
		out.Readings = append(out.Readings, w)
	}
	return out
}

func saidOut(s water.Sample) []SaidOfWater {
	out := []SaidOfWater{}
	for _, x := range s.Said() {
		out = append(out, SaidOfWater{Label: x.Label, Unit: x.Unit, Value: readingOut(x.Value)})
	}
	return out
}

// ListWaters are the sources and the treatments.
func (s *Server) ListWaters(ctx context.Context, _ ListWatersRequestObject) (ListWatersResponseObject, error) {
	out, err := s.waters(ctx)
	return ListWaters200JSONResponse(out), err
}

// AddSource keeps a source.
func (s *Server) AddSource(ctx context.Context, r AddSourceRequestObject) (AddSourceResponseObject, error) {
	if err := s.App.AddSource(ctx, r.Body.Id, r.Body.Name); err != nil {
		return nil, err
	}
	out, err := s.waters(ctx)
	return AddSource201JSONResponse(out), err
}

// AddReading keeps what was read of a source.
func (s *Server) AddReading(ctx context.Context, r AddReadingRequestObject) (AddReadingResponseObject, error) {
	sample, err := sampleIn(r.Body.Sample)
	if err != nil {
		return nil, under("sample", err)
	}
	reading := app.Reading{ID: r.Body.Id, Taken: r.Body.Taken, How: string(r.Body.How), Sample: sample}
	if err := s.App.AddReading(ctx, r.SourceId, reading); err != nil {
		return nil, err
	}
	out, err := s.waters(ctx)
	return AddReading201JSONResponse(out), err
}

// AddReport takes a supplier's report, or says what it would come to.
func (s *Server) AddReport(ctx context.Context, r AddReportRequestObject) (AddReportResponseObject, error) {
	taken, err := s.App.CheckTaken(r.Body.Taken)
	if err != nil {
		return nil, err
	}
	sample, passed, bad := water.ReadReport(r.Body.Text)
	var out Report
	out.Passed, out.Said = passed, saidOut(sample)
	out.Bad = badLines(bad)
	if out.Kept = len(bad) == 0 && !r.Body.Preview; out.Kept {
		reading := app.Reading{ID: r.Body.Id, Taken: taken, How: "report", Sample: sample}
		if err := s.App.AddReading(ctx, r.SourceId, reading); err != nil {
			return nil, err
		}
	}
	out.Waters, err = s.waters(ctx)
	return AddReport200JSONResponse(out), err
}

// TakeReadings takes what was read of a source over time from a table, or says what it would come to.
func (s *Server) TakeReadings(ctx context.Context, r TakeReadingsRequestObject) (TakeReadingsResponseObject, error) {
	zone, err := app.ParseZone(r.Body.Zone)
	if err != nil {
		return nil, err
	}
	got, err := s.App.TakeReadings(ctx, r.SourceId, r.Body.Text, zone, r.Body.Preview)
	if err != nil {
		return nil, err
	}
	out := ReadingsTaken{Kept: len(got.Bad) == 0 && !r.Body.Preview, Fresh: got.New, Same: got.Same,
		Bad: badLines(got.Bad), Readings: []ReadingTaken{}}
	for _, x := range got.Readings {
		out.Readings = append(out.Readings, ReadingTaken{Taken: x.Taken, How: ReadBy(x.How), Said: saidOut(x.Sample)})
	}
	out.Waters, err = s.waters(ctx)
	return TakeReadings200JSONResponse(out), err
}

// ForgetReading takes a reading back.
func (s *Server) ForgetReading(
	ctx context.Context,
	r ForgetReadingRequestObject,
) (ForgetReadingResponseObject, error) {
	if err := s.App.ForgetReading(ctx, r.ReadingId); err != nil {
		return nil, err
	}
	out, err := s.waters(ctx)
	return ForgetReading200JSONResponse(out), err
}

// DateReading corrects when a reading was taken.
func (s *Server) DateReading(ctx context.Context, r DateReadingRequestObject) (DateReadingResponseObject, error) {
	if err := s.App.DateReading(ctx, r.ReadingId, r.Body.At); err != nil {
		return nil, err
	}
	out, err := s.waters(ctx)
	return DateReading200JSONResponse(out), err
}

// SayTreatment keeps the user's numbers of a treatment.
func (s *Server) SayTreatment(ctx context.Context, r SayTreatmentRequestObject) (SayTreatmentResponseObject, error) {
	if err := s.App.SayTreatment(ctx, *r.Body); err != nil {
		return nil, err
	}
	out, err := s.waters(ctx)
	return SayTreatment200JSONResponse(out), err
}

// GetWater is what its water does in a machine.
func (s *Server) GetWater(ctx context.Context, r GetWaterRequestObject) (GetWaterResponseObject, error) {
	table := true
	out, err := s.atWork(ctx, r.MachineId, WaterIf{Table: &table, Worth: &table})
	return GetWater200JSONResponse(out), err
}

// WaterIf is what another water would do.
func (s *Server) WaterIf(ctx context.Context, r WaterIfRequestObject) (WaterIfResponseObject, error) {
	out, err := s.atWork(ctx, r.MachineId, *r.Body)
	return WaterIf200JSONResponse(out), err
}

// ChooseWater lets a machine draw from a source through a treatment.
func (s *Server) ChooseWater(ctx context.Context, r ChooseWaterRequestObject) (ChooseWaterResponseObject, error) {
	c := app.WaterChoice{ID: r.Body.Id, MachineID: r.MachineId, SourceID: orElse(r.Body.SourceId, ""),
		Treatment: r.Body.Treatment, From: r.Body.From}
	if err := s.App.ChooseWater(ctx, c); err != nil {
		return nil, err
	}
	table := true
	out, err := s.atWork(ctx, r.MachineId, WaterIf{Table: &table, Worth: &table})
	return ChooseWater201JSONResponse(out), err
}

// broughtWater is a water as it comes, as it reaches a machine, and what it does there.
type broughtWater struct {
	drawing      app.Drawing
	facts        machine.Facts
	raw, reaches water.Filled
	blend        float64
	effect       circuit.Effect
}

// brought follows a machine's water, or the one that is tried in its place, from the tap into the boiler.
func brought(d app.Drawing, what WaterIf, f machine.Facts) (w broughtWater, err error) {
	if err := suppose(&d, what); err != nil {
		return w, err
	}
	if what.HoursOn != nil {
		f.HoursOn = time.Duration(*what.HoursOn * float64(time.Hour))
	}
	w.drawing, w.facts = d, f
	if w.raw, err = d.Sample.Fill(); err != nil {
		return w, under("sample", err)
	}
	if w.reaches, w.blend, _, err = d.Setting.After(w.raw, f); err != nil {
		return w, err
	}
	w.effect, err = circuit.EffectOf(w.reaches, f)
	return w, err
}

// ahead is what is to hold from now on, where something is tried.
func (w *broughtWater) ahead(what WaterIf) care.Ahead {
	ahead := care.Ahead{Effect: &w.effect, Drinks: what.Drinks}
	if what.HoursOn != nil {
		ahead.On = &w.facts.HoursOn
	}
	if what.Sample != nil { // what is typed in to try is taken as measured where it says enough
		measured := w.drawing.Sample.Hardened() && w.drawing.Sample.Alkalinity.Known
		ahead.Measured = &measured
	}
	return ahead
}

// atWork puts a water to work in a machine: its own, or another if one is given.
func (s *Server) atWork(ctx context.Context, id string, what WaterIf) (WaterAtWork, error) {
	m, err := s.App.Find(ctx, id)
	if err != nil {
		return WaterAtWork{}, err
	}
	now := s.App.Instant()
	h, err := s.App.History(ctx, m, now)
	if err != nil {
		return WaterAtWork{}, err
	}
	d, err := s.App.Drawing(ctx, m, now)
	if err != nil {
		return WaterAtWork{}, err
	}
	w, err := brought(d, what, m.Answers.Facts())
	if err != nil {
		return WaterAtWork{}, err
	}
	d, facts, effect := w.drawing, w.facts, w.effect
	here := d.Setting.Shows(w.raw, w.reaches, w.blend, effect)
	plain := treat.Usual(machine.Untreated).Shows(w.raw, w.raw, 0, effect)
	ahead := w.ahead(what)
	at, err := care.DescalingIf(m.Answers, h, now, m.Zone, ahead)
	if err != nil {
		return WaterAtWork{}, err
	}
	out := WaterAtWork{
		MachineId:      m.ID,
		Version:        m.Version,
		MachineName:    m.Name,
		Zone:           m.Zone.String(),
		Known:          d.Sample.Hardness.Known || d.Sample.Calcium.Known,
		Says:           append([]Reason{}, w.raw.Taken...),
		Raw:            waterOut(w.raw, plain),
		Reaches:        waterOut(w.reaches, here),
		HardnessMgL:    w.raw.Hardness.Likely,
		Treatment:      d.Setting,
		TreatmentTitle: treat.Title(d.Setting.Kind),
		Corrosion:      effect.Corrosion,
		Falls:          here.Falls,
		Extrapolated:   effect.Hot.Extrapolated,
		Drinks:         at.Use.Shots.Value,
		ThroughL:       float64(at.Through.All()),
		CapDays:        scale.MostDays,
		Calendar:       at.Calendar,
		ByScale:        at.ByScale,
		Every:          at.Decided.Every,
		DecidedBy:      Decider(at.Decided.By),
		Decided:        at.Decided.Reason,
		Measured:       at.Measured,
		TreatFirst:     at.TreatFirst,
		HoursOn:        facts.HoursOn.Hours(),
		Inspect:        at.Inspect,
		Stance:         facts.Stance,
		Due:            *dueOut(at.Due, facts.Groups, now),
		Table:          []TreatmentRow{},
		Places:         []ScalePlace{},
	}
	if why, any := water.Probe(w.reaches); any && facts.SteamBoiler > 0 && facts.Pump != machine.NoPump {
		out.Probe = &why
	}
	l := at.Litres
	out.Litres = []Worked{l.Beverage, l.Puck, l.Vent, l.Flush, l.Runs, l.Steam, l.Hot, l.All}
	out.Suits.Way, out.Suits.Finding = WaterAtWorkSuitsWay(at.Suits.Way), at.Suits.Finding
	if d.Source != nil {
		shown := sourceOut(*d.Source)
		out.Source = &shown
	}
	for i, p := range at.Places {
		out.Places = append(out.Places, ScalePlace{Id: ScalePlaceId(p.ID), Title: p.Title, Count: p.Count,
			LimitMm: float64(p.Surface.Limit), Leads: i == at.Lead, Rate: p.Rate, Grown: p.Grown, Days: p.Days,
			Early: p.Early, Hotter: p.Hotter,
			Curve: p.Curve(p.Lies, p.MgADay)})
	}
	if renew, any, err := care.Renewing(m.Answers, h, now, m.Zone); err != nil {
		return out, err
	} else if any && what.Treatment == nil {
		out.Renew = dueOut(renew, facts.Groups, now)
	}
	if orElse(what.Worth, false) {
		if out.Worth, err = s.worth(m, d, at.Use); err != nil {
			return out, err
		}
	}
	if orElse(what.Table, false) {
		rows, err := s.treatments(ctx, d.Setting, w.raw, facts, l,
			treat.Known{Share: h.ShareAt(now), Measured: at.Measured})
		if err != nil {
			return out, err
		}
		for _, r := range rows {
			out.Table = append(out.Table, treatmentOut(r, r.Setting.Kind == d.Setting.Kind))
		}
		out.Advice = adviceOut(rows, d.Setting, at.Suits.Way, facts, l.All.Value)
	}
	return out, err
}

// worth is what would help most to know.
func (s *Server) worth(m app.Machine, d app.Drawing, use circuit.Use) (*[]Worth, error) {
	list, err := s.App.Worth(m, d, use)
	out := make([]Worth, len(list))
	for i, w := range list {
		out[i] = worthOut(w)
		out[i].Spot = spotOf(m.Answers, w)
	}
	return &out, err
}

func worthOut(w care.Worth) Worth {
	out := Worth{Key: w.Key, Label: w.Label, Do: w.Do, Says: w.Says, Days: w.Days}
	if w.Days > 0 {
		out.Soonest, out.Latest = &w.Ends[0], &w.Ends[1]
	}
	return out
}

// treatments compares them all for a water in a machine, with the one that is chosen.
func (s *Server) treatments(ctx context.Context, chosen treat.Setting, raw water.Filled, f machine.Facts,
	l circuit.Litres, k treat.Known) ([]treat.Row, error) {
	settings, err := s.App.Treatments(ctx)
	if err != nil {
		return nil, err
	}
	for i := range settings {
		if settings[i].Kind == chosen.Kind {
			settings[i] = chosen
		}
	}
	return treat.Table(settings, raw, f, l, k)
}

// adviceOut is the one that is recommended; nil where a machine is not descaled whatever it takes, or none can be.
func adviceOut(rows []treat.Row, chosen treat.Setting, way circuit.Way, f machine.Facts, litres float64) *WaterAdvice {
	each := treat.DescaledAtHome
	switch way {
	case circuit.Workshop:
		each = treat.DescaledInTrade
	case circuit.TreatWater:
		return nil
	}
	now := slices.IndexFunc(rows, func(r treat.Row) bool { return r.Setting.Kind == chosen.Kind })
	a, any := treat.Advise(rows, now, each, f, litres)
	if !any {
		return nil
	}
	return &WaterAdvice{Kind: string(a.Row.Setting.Kind), Title: treat.Title(a.Row.Setting.Kind), Stay: a.Stay,
		Descales: a.Descales, Minutes: a.Minutes, Money: a.Money, Because: a.Because}
}

// suppose takes another sample or treatment in the place of the machine's own.
func suppose(d *app.Drawing, what WaterIf) error {
	if what.Sample != nil {
		sample, err := sampleIn(*what.Sample)
		if err != nil {
			return under("sample", err)
		}
		d.Sample = sample
	}
	if what.Treatment != nil {
		d.Setting = *what.Treatment
		return under("treatment", d.Setting.Check())
	}
	return nil
}

func waterOut(f water.Filled, s treat.Shown) WaterShown {
	mmol := func(v float64) units.Hardness { return units.Hardness(v / units.MolarCaCO3) }
	h := units.HardnessReading{
		Likely: mmol(f.Hardness.Likely),
		Low:    mmol(f.Hardness.Low),
		High:   mmol(f.Hardness.High),
		Known:  f.Hardness.Known,
	}
	return WaterShown{
		Hardness:   hardnessOut(h),
		Here:       s.Hardness,
		Alkalinity: s.Alkalinity,
		Ph:         s.PH,
		InWindow:   treat.InWindow(mmol(f.Hardness.Likely), units.Alkalinity(f.Alkalinity.Likely)),
	}
}

func treatmentOut(r treat.Row, chosen bool) TreatmentRow {
	out := TreatmentRow{
		Setting:   r.Setting,
		Title:     treat.Title(r.Setting.Kind),
		Chosen:    chosen,
		Reaches:   waterOut(r.After, r.Shown),
		Blend:     r.Blend,
		Scale:     r.Scale,
		Descale:   r.Descale,
		DecidedBy: Decider(r.DecidedBy),
		Corrosion: r.Effect.Corrosion,
		Cost:      r.Cost,
		Minutes:   r.Minutes,
		Says:      append([]reason.Reason{}, r.Because...),
	}
	if r.Life.Litres.Name != "" {
		out.Litres = &r.Life.Litres
	}
	if r.Life.Days.Name != "" {
		out.Days = &r.Life.Days
	}
	return out
}
