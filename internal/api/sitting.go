package api

import (
	"context"
	"fmt"
	"math"
	"net/http"
	"strings"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/run"
	"freshanvil/core/units"
	"freshanvil/internal/store"
)

// asked is what is chosen of a descale.
type asked struct {
	program, product string
	strength         *float64
	renew, wash      bool
}

// ofMachine plans what is done to a machine as a whole.
func (s *Server) ofMachine(
	ctx context.Context,
	m store.Machine,
	b NewRun,
	in job.Contents,
	now time.Time,
) (job.Plan, error) {
	if *b.Task == NewRunTaskDrawOff {
		if text := in.Holds(); text != "" {
			return job.Plan{}, newProblem(
				http.StatusConflict,
				string(job.ChemicalInside),
				text,
			).at("task", "draw_off", "a machine without detergent or acid inside: rinse it first")
		}
		return job.DrawOff(m.Answers, orElse(b.Draws, 0))
	}
	a := asked{
		product:  orElse(b.Product, "citric"),
		strength: b.StrengthGL,
		renew:    orElse(b.Renew, false),
		wash:     orElse(b.Wash, false),
	}
	if b.Program != nil {
		a.program = string(*b.Program)
	}
	d, err := s.descaling(ctx, m, now)
	if err != nil {
		return job.Plan{}, err
	}
	sit, err := s.sitting(ctx, m, d, a, in, now)
	if err != nil {
		return job.Plan{}, err
	}
	return s.descalePlan(ctx, m, d, sit, a)
}

// standing is what is known of a machine's scale.
type standing struct {
	history care.History
	care.Descaling
}

func (s *Server) descaling(ctx context.Context, m store.Machine, now time.Time) (standing, error) {
	h, err := s.history(ctx, m, now)
	if err != nil {
		return standing{}, err
	}
	d, err := care.DescalingOf(m.Answers, h, now, m.Zone)
	return standing{h, d}, err
}

// card is the dose for a machine as it stands.
func (s *Server) card(ctx context.Context, m store.Machine, d standing, product string, strength *float64) (
	descale.Card, error) {
	own, err := s.Store.Products(ctx)
	if err != nil {
		return descale.Card{}, err
	}
	p, err := among(append(descale.Products(), own...), product)
	if err != nil {
		return descale.Card{}, err
	}
	gPerL := 0.0
	if strength != nil {
		if gPerL = *strength; gPerL <= 0 {
			return descale.Card{}, &units.OutOfRange{Field: "strength_g_l", Value: fmt.Sprint(gPerL),
				Allowed: "above 0; left out, as the label says"}
		}
	}
	f := m.Answers.Facts()
	brew, steam, _ := d.InVessels()
	circuits := descale.Circuits(f, brew, steam)
	for i := range circuits { // brew, or both in one, first; then steam
		if i < len(d.Places) && d.Due.State != care.Unrecorded {
			circuits[i].From = d.Places[i].Predicted()
		}
	}
	return descale.MixFor(p, gPerL, f, circuits, descale.Chrome, descale.Seals)
}

// sitting gathers what a descale is planned from.
func (s *Server) sitting(
	ctx context.Context,
	m store.Machine,
	d standing,
	a asked,
	in job.Contents,
	now time.Time,
) (job.Sitting, error) {
	if len(in.Acid) > 0 { // only rinsed: what is in, and how strong, is not asked
		a.product, a.strength = "citric", nil
	}
	card, err := s.card(ctx, m, d, a.product, a.strength)
	if err != nil {
		return job.Sitting{}, err
	}
	w, err := s.drawn(ctx, m, now)
	if err != nil {
		return job.Sitting{}, err
	}
	filled, err := w.sample.Fill()
	if err != nil {
		return job.Sitting{}, err
	}
	share := 1.0
	if d.history.Share > 0 {
		share = d.history.Share
	}
	return job.Sitting{
		Program: descale.ProgramID(a.program),
		Card:    card,
		Setting: w.setting,
		Renew:   a.renew,
		FeedAlk: filled.Alkalinity.Likely,
		FeedPH:  filled.PH.Likely,
		Share:   share,
		Known:   d.Due.State != care.Unrecorded,
		Dirty:   len(in.Acid) > 0,
		Inside:  in,
		Now:     now,
		Zone:    m.Zone,
	}, nil
}

// descalePlan plans it, with a wash of every group where one is to follow.
func (s *Server) descalePlan(
	ctx context.Context,
	m store.Machine,
	d standing,
	sit job.Sitting,
	a asked,
) (job.Plan, error) {
	if a.wash && !sit.Dirty {
		powder, err := s.detergent(ctx)
		if err != nil {
			return job.Plan{}, err
		}
		var targets []job.Target
		for g := range m.Answers.Facts().Groups {
			targets = append(targets, job.Target{Group: g + 1, Blind: sit.Inside.Blind[machine.Group(g+1)]})
		}
		choice := d.history.Choice.Settled(m.Answers)
		if choice.Method == "" {
			return job.Plan{}, &units.OutOfRange{
				Field:   "wash",
				Value:   "true",
				Allowed: "false: this machine is not washed with detergent",
			}
		}
		method, err := choice.By()
		if err != nil {
			return job.Plan{}, err
		}
		w, err := job.WashBy(m.Answers, method, powder, targets...)
		if err != nil {
			return job.Plan{}, err
		}
		sit.Wash = &w
	}
	p, err := job.Descale(m.Answers, sit)
	if err != nil {
		return p, err
	}
	_, err = s.cleared(p)
	return p, err
}

// descalePlanOut is a plan before it is led.
func descalePlanOut(p job.Plan, cleared reason.Reason, now time.Time) *DescalePlan {
	d := p.Descaling().Descale
	out := &DescalePlan{Program: string(d.Program), Minutes: p.Minutes, ContactMostMin: d.Contact.Minutes(),
		TankFills: d.Tubs, Jugs: d.Catches, Findings: append([]Finding{}, d.Findings...), Lines: []Line{},
		EndsAt: now.Add(time.Duration(p.Minutes.Value * float64(time.Minute))), LayOut: p.LayOut(), Cleared: &cleared,
		Circuits: []PlanCircuit{}, Rounds: d.Rounds, LeftG: d.Left, ContactMin: d.Planned.Minutes()}
	for _, c := range d.Circuits {
		one := PlanCircuit{Id: c.Part.String(), Title: c.Title, HoldsL: c.Working, Drained: c.Drained, ScaleG: c.Scale,
			Least: c.Least, Outlets: []string{}}
		for _, o := range c.Outlets {
			one.Outlets = append(one.Outlets, o.Title)
		}
		out.Circuits = append(out.Circuits, one)
	}
	if d.Measure.Name != "" {
		out.Measure, out.Solution = &d.Measure, &d.Solution
	}
	for _, in := range p.Minutes.Inputs {
		switch in.Symbol {
		case "hands":
			out.HandsMin = in.Value / 60
		default:
			out.WaitsMin += in.Value / 60
		}
	}
	for _, st := range p.Steps() {
		out.Lines = append(out.Lines, Line{Id: st.ID, Title: st.Title, Part: st.Part, Status: LineStatus("ahead")})
	}
	return out
}

// offersOut are what to do in the place of a descale, and the programs there are.
func offersOut(d care.Descaling, f machine.Facts) (instead []Offer, programs []DescaleProgram) {
	instead, programs = []Offer{}, []DescaleProgram{}
	for _, o := range d.Suits.Instead {
		instead = append(instead, Offer{Kind: OfferKind(o.Kind), Title: o.Title, Why: o.Why})
	}
	for _, p := range descale.ProgramsFor(f) {
		programs = append(
			programs,
			DescaleProgram{Id: string(p.ID), Title: p.Title, Pattern: p.Pattern, Why: p.Why, Source: p.Source},
		)
	}
	return instead, programs
}

// runDescaleOut is how a descale stands.
func runDescaleOut(plan job.Plan, s run.State) *RunDescale {
	d, now := plan.Descaling().Descale, s.Descale
	out := &RunDescale{Program: d.Title, Product: d.Product, ContactMin: now.Contact.Minutes(),
		ContactMostMin: d.Contact.Minutes(), Cut: s.Cut, Pump: now.Plant.PumpRuns(), Plugged: now.Plant.Plug,
		Vessels: vesselsOut(now.Plant, s.Step), Frames: framesOut(now.Frames),
		Leave: append([]string{}, run.RescueOf(now.Plant).Do...), Circuits: []AcidNow{},
		Findings: append([]Finding{}, d.Findings...)}
	for _, v := range out.Vessels {
		out.Hot = out.Hot || v.HeaterOn
		for _, o := range v.Openings {
			out.Vented = out.Vented || o.Open
		}
	}
	if d.Measure.Name != "" {
		out.Measure, out.Solution = &d.Measure, &d.Solution
	}
	if now.Feed != nil {
		out.FeedPh = &now.Feed.PH
	}
	for _, c := range now.Acids {
		out.Circuits = append(out.Circuits, AcidNow{Id: c.Part.String(), Title: c.Title, In: c.In, Ever: c.Ever,
			Left: c.Left(), Rinsed: c.Rinsed(), Least: d.Circuit(c.Part).Least,
			Enough: !now.Plant.Sours(now.Plant.Spec.Find(c.Part.String())), Strips: append([]Strip{}, c.Strips...)})
	}
	return out
}

// vesselsOut are the vessels of a machine as the model believes them to be: those that hold
// something, or that the present step does something to.
func vesselsOut(p *plant.Plant, step job.Step) []VesselNow {
	touched := map[string]bool{}
	mark := func(id string) {
		touched[id] = true
		if g := p.Spec.FindOpening(id); g >= 0 {
			o := p.Spec.Openings[g]
			touched[p.Spec.Vessels[o.Of].ID], touched[p.Spec.Vessels[o.Into].ID] = true, true
		}
	}
	for _, a := range step.Acts {
		mark(a.What)
	}
	switch b := step.Body.(type) {
	case job.Push:
		mark(p.Spec.Vessels[plant.SourceAt].ID)
		mark(b.To)
		if b.To == "" {
			mark("steam")
		}
	case job.Sips:
		mark(p.Spec.Vessels[plant.SourceAt].ID)
		mark(b.To)
	}
	out := []VesselNow{}
	for i, v := range p.Spec.Vessels {
		s := p.V[i]
		if v.Kind == plant.Head || v.Kind == plant.Catch && !touched[v.ID] && s.Litres < 0.005 {
			continue
		}
		now := VesselNow{Id: v.ID, Title: v.Title, Kind: VesselNowKind(v.Kind), HoldsL: v.Capacity,
			Litres: math.Max(0, s.Litres), Acid: s.Acid, Sour: p.Sours(i) && s.Litres > 0.001, TempC: s.Temp,
			HeaterOn: p.HeaterOn(i), Touched: touched[v.ID], Openings: []OpeningNow{}}
		if v.IsCircuit() {
			now.GaugeBar = p.Gauge(i)
		}
		for g, o := range p.Spec.Openings {
			if o.Of == i && o.Kind != plant.Spout {
				now.Openings = append(now.Openings, OpeningNow{Id: o.ID, Title: o.Title, Open: p.Gates[g].Open || p.Route == g})
			}
		}
		out = append(out, now)
	}
	return out
}

// framesOut are the states ahead, at each event of the present segment.
func framesOut(list []run.Frame) []PlantFrame {
	out := []PlantFrame{}
	for _, f := range list {
		frame := PlantFrame{At: f.At, Vessels: []VesselFrame{}}
		for i, v := range f.Plant.Spec.Vessels {
			if v.Kind == plant.Head {
				continue
			}
			s := f.Plant.V[i]
			one := VesselFrame{Id: v.ID, Litres: s.Litres, Acid: s.Acid, TempC: s.Temp,
				Sour: f.Plant.Sours(i) && s.Litres > 0.001, HeaterOn: f.Plant.HeaterOn(i)}
			if v.IsCircuit() {
				one.GaugeBar = f.Plant.Gauge(i)
			}
			frame.Vessels = append(frame.Vessels, one)
		}
		out = append(out, frame)
	}
	return out
}

// endedDescaleOut is what a descale came to.
func endedDescaleOut(e store.EndedDescale) *RunDescale {
	out := &RunDescale{Program: e.Program, Product: e.Product, ContactMin: e.Contact.Minutes(),
		ContactMostMin: e.Most.Minutes(), Vessels: []VesselNow{}, Frames: []PlantFrame{}, Leave: []string{},
		Circuits: []AcidNow{}, Findings: append([]Finding{}, e.Findings...), Says: ptr(e.Report)}
	if e.Measure.Name != "" {
		out.Measure, out.Solution = &e.Measure, &e.Solution
		out.Booked = &Booked{Mixed: e.Booked.Mixed, Unit: e.Measure.Unit, PushedL: e.Booked.Pushed,
			Soaks: e.Booked.Soaks, LeftOut: e.Booked.LeftOut}
	}
	if e.Feed != nil {
		out.FeedPh = &e.Feed.PH
	}
	if e.Came.Name != "" {
		out.Came, out.AtLeast = &e.Came, &e.AtLeast
	}
	if e.Share.Name != "" {
		out.Share = &e.Share
	}
	for _, c := range e.Circuits {
		out.Circuits = append(out.Circuits, AcidNow{Id: c.Part.String(), Title: c.Title, In: c.In, Ever: c.Ever,
			Left: c.Left, Rinsed: c.Rinsed, Least: c.Least, Enough: !c.In, Strips: append([]Strip{}, c.Strips...)})
	}
	return out
}

// AddNote puts a note on descaling into the log.
func (s *Server) AddNote(ctx context.Context, r AddNoteRequestObject) (AddNoteResponseObject, error) {
	m, err := s.find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	text := strings.TrimSpace(r.Body.Text)
	if text == "" {
		return nil, &units.OutOfRange{Field: "text", Value: shorten(r.Body.Text), Allowed: "what is to be remembered"}
	}
	now := s.now()
	title := "Note on descaling"
	if err := s.Store.Note(ctx, r.Body.Id, m.ID, care.Descale, title, text, now); err != nil {
		return nil, err
	}
	return AddNote201JSONResponse(
		entryOut(
			store.Entry{
				ID:        r.Body.Id,
				MachineID: m.ID,
				Outcome:   store.Noted,
				Title:     title,
				Task:      care.Descale,
				At:        now,
				Record:    store.Record{Note: text},
			},
			m,
		),
	), nil
}
