package api

import (
	"context"
	"errors"
	"net/http"
	"slices"
	"strings"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/circuit"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/scale"
	"freshanvil/core/treat"
	"freshanvil/core/units"
	"freshanvil/core/water"
	"freshanvil/internal/store"
)

// as names the field of an error that was found under another name.
func as(field string, err error) error {
	var bad *units.OutOfRange
	if errors.As(err, &bad) {
		return &units.OutOfRange{Field: field, Value: bad.Value, Allowed: bad.Allowed}
	}
	return err
}

// readingsReach is how many years back a reading of water may lie.
const readingsReach = 10

func (s *Server) waters(ctx context.Context) (Waters, error) {
	sources, err := s.Store.Sources(ctx)
	if err != nil {
		return Waters{}, err
	}
	treatments, err := s.Store.Treatments(ctx)
	out := Waters{Sources: make([]WaterSource, len(sources)), Treatments: treatments, Strip: []StripPads{}}
	for _, p := range water.Strip() {
		out.Strip = append(out.Strip, StripPads{Pads: p.Turned, Low: p.Low, High: p.High})
	}
	for i, x := range sources {
		out.Sources[i] = sourceOut(x)
	}
	return out, err
}

func sourceOut(x store.Source) WaterSource {
	out := WaterSource{Id: x.ID, Name: x.Name, Readings: []WaterReading{}}
	for _, r := range slices.Backward(x.Samples) {
		out.Readings = append(
			out.Readings,
			WaterReading{Id: r.ID, Taken: r.Taken, How: WaterReadingHow(r.How), Said: saidOut(r.Sample)},
		)
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
	name := strings.TrimSpace(r.Body.Name)
	if name == "" {
		return nil, &units.OutOfRange{Field: "name", Value: r.Body.Name, Allowed: "a name"}
	}
	if err := s.Store.AddSource(ctx, r.Body.Id, name, s.now()); err != nil {
		return nil, err
	}
	out, err := s.waters(ctx)
	return AddSource201JSONResponse(out), err
}

func noSource(id string, err error) error {
	if errors.Is(err, store.ErrNotFound) {
		return newProblem(
			http.StatusNotFound,
			"not_found",
			"No such source",
		).at("source_id", id, "the id of a source that was kept")
	}
	return err
}

// AddReading keeps what was read of a source.
func (s *Server) AddReading(ctx context.Context, r AddReadingRequestObject) (AddReadingResponseObject, error) {
	sample, err := sampleIn(r.Body.Sample)
	if err == nil {
		_, err = sample.Fill()
	}
	if err != nil {
		return nil, under("sample", err)
	}
	if len(sample.Said()) == 0 {
		return nil, &units.OutOfRange{Field: "sample", Value: "nothing", Allowed: "at least one reading"}
	}
	taken, err := s.past(r.Body.Taken, readingsReach)
	if err != nil {
		return nil, as("taken", err)
	}
	reading := store.Reading{ID: r.Body.Id, Taken: taken, How: string(r.Body.How), Sample: sample}
	if err := s.Store.AddReadings(ctx, r.SourceId, s.now(), reading); err != nil {
		return nil, noSource(r.SourceId, err)
	}
	out, err := s.waters(ctx)
	return AddReading201JSONResponse(out), err
}

// AddReport takes a supplier's report, or says what it would come to.
func (s *Server) AddReport(ctx context.Context, r AddReportRequestObject) (AddReportResponseObject, error) {
	taken, err := s.past(r.Body.Taken, readingsReach)
	if err != nil {
		return nil, as("taken", err)
	}
	sample, passed, bad := water.ReadReport(r.Body.Text)
	var out Report
	out.Passed, out.Said = passed, saidOut(sample)
	out.Bad = make([]struct {
		Allowed string `json:"allowed"`
		Field   string `json:"field"`
		Line    int    `json:"line"`
		Value   string `json:"value"`
	}, len(bad))
	for i, b := range bad {
		out.Bad[i].Line, out.Bad[i].Field, out.Bad[i].Value, out.Bad[i].Allowed = b.Line, b.Field, b.Value, b.Allowed
	}
	if out.Kept = len(bad) == 0 && !r.Body.Preview; out.Kept {
		if err := s.Store.AddReadings(ctx, r.SourceId, s.now(),
			store.Reading{ID: r.Body.Id, Taken: taken, How: "report", Sample: sample}); err != nil {
			return nil, noSource(r.SourceId, err)
		}
	}
	out.Waters, err = s.waters(ctx)
	return AddReport200JSONResponse(out), err
}

// ForgetReading takes a reading back.
func (s *Server) ForgetReading(
	ctx context.Context,
	r ForgetReadingRequestObject,
) (ForgetReadingResponseObject, error) {
	if err := s.Store.TakeBack(ctx, r.ReadingId, s.now()); errors.Is(err, store.ErrNotFound) {
		return nil, newProblem(
			http.StatusNotFound,
			"not_found",
			"No such reading",
		).at("reading_id", r.ReadingId, "the id of a reading that stands")
	} else if err != nil {
		return nil, err
	}
	out, err := s.waters(ctx)
	return ForgetReading200JSONResponse(out), err
}

// SayTreatment keeps the user's numbers of a treatment.
func (s *Server) SayTreatment(ctx context.Context, r SayTreatmentRequestObject) (SayTreatmentResponseObject, error) {
	if err := r.Body.Check(); err != nil {
		return nil, err
	}
	if err := s.Store.SayTreatment(ctx, *r.Body); err != nil {
		return nil, err
	}
	out, err := s.waters(ctx)
	return SayTreatment200JSONResponse(out), err
}

// drawn is what a machine draws now.
type drawn struct {
	source  *store.Source
	sample  water.Sample
	setting treat.Setting
}

func (s *Server) drawn(ctx context.Context, m store.Machine, now time.Time) (drawn, error) {
	all, err := s.Store.Drawn(ctx, m.ID)
	if err != nil {
		return drawn{}, err
	}
	d := drawn{sample: store.Answered(m)}
	var at *store.Draws
	for i := range all[m.ID] {
		if !all[m.ID][i].From.After(now) {
			at = &all[m.ID][i]
		}
	}
	if at == nil {
		settings, err := s.Store.Treatments(ctx)
		d.setting = settings[slices.IndexFunc(settings, func(t treat.Setting) bool { return t.Kind == m.Answers.Treatment })]
		return d, err
	}
	d.setting = at.Treatment
	if at.SourceID != "" {
		x, err := s.Store.SourceNamed(ctx, at.SourceID)
		if err != nil {
			return d, err
		}
		d.source = &x
		if r, any := x.Sampled(now); any {
			d.sample = r.Sample
		}
	}
	return d, nil
}

// GetWater is what its water does in a machine.
func (s *Server) GetWater(ctx context.Context, r GetWaterRequestObject) (GetWaterResponseObject, error) {
	table := true
	out, err := s.atWork(ctx, r.MachineId, WaterIf{Table: &table})
	return GetWater200JSONResponse(out), err
}

// WaterIf is what another water would do.
func (s *Server) WaterIf(ctx context.Context, r WaterIfRequestObject) (WaterIfResponseObject, error) {
	out, err := s.atWork(ctx, r.MachineId, *r.Body)
	return WaterIf200JSONResponse(out), err
}

// ChooseWater lets a machine draw from a source through a treatment.
func (s *Server) ChooseWater(ctx context.Context, r ChooseWaterRequestObject) (ChooseWaterResponseObject, error) {
	m, err := s.find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	if err := r.Body.Treatment.Check(); err != nil {
		return nil, under("treatment", err)
	}
	from := s.now()
	if r.Body.From != nil {
		if from, err = s.past(*r.Body.From, careReach); err != nil {
			return nil, as("from", err)
		}
	}
	d := store.Draws{ID: r.Body.Id, From: from, Treatment: r.Body.Treatment}
	sample := store.Answered(m)
	if r.Body.SourceId != nil {
		d.SourceID = *r.Body.SourceId
		x, err := s.Store.SourceNamed(ctx, d.SourceID)
		if err != nil {
			return nil, noSource(d.SourceID, err)
		}
		if reading, any := x.Sampled(s.now()); any {
			sample = reading.Sample
		}
	}
	if err := comesTo(sample, d.Treatment, m.Answers.Facts()); err != nil {
		return nil, err
	}
	if err := s.Store.Draw(ctx, m.ID, d); err != nil {
		return nil, noSource(d.SourceID, err)
	}
	table := true
	out, err := s.atWork(ctx, m.ID, WaterIf{Table: &table})
	return ChooseWater201JSONResponse(out), err
}

// comesTo refuses a water that comes to nothing behind a treatment.
func comesTo(sample water.Sample, t treat.Setting, f machine.Facts) error {
	raw, err := sample.Fill()
	if err == nil {
		if raw, _, _, err = t.After(raw); err == nil {
			_, err = circuit.EffectOf(raw, f)
		}
	}
	if errors.Is(err, water.ErrNoEquilibrium) {
		return &units.OutOfRange{
			Field:   "source_id",
			Value:   "a water that comes to no equilibrium behind " + treat.Title(t.Kind),
			Allowed: "another reading, or another treatment",
		}
	}
	return err
}

// atWork puts a water to work in a machine: its own, or another if one is given.
func (s *Server) atWork(ctx context.Context, id string, what WaterIf) (WaterAtWork, error) {
	m, err := s.find(ctx, id)
	if err != nil {
		return WaterAtWork{}, err
	}
	now := s.now()
	h, err := s.history(ctx, m, now)
	if err != nil {
		return WaterAtWork{}, err
	}
	d, err := s.drawn(ctx, m, now)
	if err != nil {
		return WaterAtWork{}, err
	}
	if err := d.suppose(what); err != nil {
		return WaterAtWork{}, err
	}
	raw, err := d.sample.Fill()
	if err != nil {
		return WaterAtWork{}, under("sample", err)
	}
	facts := m.Answers.Facts()
	reaches, blend, _, err := d.setting.After(raw)
	if err != nil {
		return WaterAtWork{}, err
	}
	effect, err := circuit.EffectOf(reaches, facts)
	if err != nil {
		return WaterAtWork{}, err
	}
	here, plain := d.setting.Shows(
		raw,
		reaches,
		blend,
		effect,
	), treat.Usual(machine.Untreated).
		Shows(raw, raw, 0, effect)
	at, err := care.DescalingIf(m.Answers, h, now, m.Zone, care.Ahead{Effect: &effect, Drinks: what.Drinks})
	if err != nil {
		return WaterAtWork{}, err
	}
	out := WaterAtWork{
		MachineId:      m.ID,
		MachineName:    m.Name,
		Zone:           m.Zone.String(),
		Known:          d.sample.Hardness.Known || d.sample.Calcium.Known,
		Says:           append([]Reason{}, raw.Taken...),
		Raw:            waterOut(raw, plain),
		Reaches:        waterOut(reaches, here),
		HardnessMgL:    raw.Hardness.Likely,
		Treatment:      d.setting,
		TreatmentTitle: treat.Title(d.setting.Kind),
		Corrosion:      effect.Corrosion,
		Falls:          here.Falls,
		Extrapolated:   effect.Hot.Extrapolated,
		Drinks:         at.Use.Shots.Value,
		ThroughL:       at.Through.All(),
		CapDays:        scale.MostDays,
		Calendar:       at.Calendar,
		ByScale:        at.ByScale,
		Every:          at.Every,
		Inspect:        at.Inspect,
		Stance:         facts.Stance,
		Due:            *dueOut(at.Due, facts.Groups, now),
		Table:          []TreatmentRow{},
		Places:         []ScalePlace{},
	}
	l := at.Litres
	out.Litres = []Worked{l.Beverage, l.Puck, l.Vent, l.Flush, l.Runs, l.Steam, l.Hot, l.All}
	out.Suits.Way, out.Suits.Finding = WaterAtWorkSuitsWay(at.Suits.Way), at.Suits.Finding
	if d.source != nil {
		shown := sourceOut(*d.source)
		out.Source = &shown
	}
	for i, p := range at.Places {
		out.Places = append(out.Places, ScalePlace{Id: ScalePlaceId(p.ID), Title: p.Title, Count: p.Count,
			LimitMm: p.Surface.Limit, Leads: i == at.Lead, Rate: p.Rate, Grown: p.Grown, Days: p.Days, Hotter: p.Hotter,
			Curve: p.Curve(p.Lies, p.MgADay)})
	}
	if renew, any, err := care.Renewing(m.Answers, h, now, m.Zone); err != nil {
		return out, err
	} else if any && what.Treatment == nil {
		out.Renew = dueOut(renew, facts.Groups, now)
	}
	if orElse(what.Table, false) {
		out.Table, err = s.treatments(ctx, d.setting, raw, facts, l, h.Share)
	}
	return out, err
}

// treatments compares them all for a water in a machine, with the one that is chosen.
func (s *Server) treatments(ctx context.Context, chosen treat.Setting, raw water.Filled, f machine.Facts,
	l circuit.Litres, share float64) ([]TreatmentRow, error) {
	settings, err := s.Store.Treatments(ctx)
	if err != nil {
		return []TreatmentRow{}, err
	}
	for i := range settings {
		if settings[i].Kind == chosen.Kind {
			settings[i] = chosen
		}
	}
	out := []TreatmentRow{}
	rows, err := treat.Table(settings, raw, f, l, share)
	if err != nil {
		return out, err
	}
	for _, r := range rows {
		out = append(out, treatmentOut(r, r.Setting.Kind == chosen.Kind))
	}
	return out, nil
}

// suppose takes another sample or treatment in the place of the machine's own.
func (d *drawn) suppose(what WaterIf) error {
	if what.Sample != nil {
		sample, err := sampleIn(*what.Sample)
		if err != nil {
			return under("sample", err)
		}
		d.sample = sample
	}
	if what.Treatment != nil {
		d.setting = *what.Treatment
		return under("treatment", d.setting.Check())
	}
	return nil
}

func waterOut(f water.Filled, s treat.Shown) WaterShown {
	mmol := func(v float64) units.Hardness { return units.Hardness(v / water.CalciteMass) }
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
		InWindow:   treat.InWindow(f.Hardness.Likely, f.Alkalinity.Likely),
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

// renewal is the setting of what is renewed before a machine; false where nothing
// is.
func (s *Server) renewal(ctx context.Context, m store.Machine, now time.Time) (treat.Setting, error) {
	d, err := s.drawn(ctx, m, now)
	if err == nil && d.setting.Kind == machine.Untreated {
		err = &units.OutOfRange{Field: "task", Value: "renew", Allowed: "a machine behind a filter or a softener"}
	}
	return d.setting, err
}
