package api

import (
	"context"
	"math"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/run"
	"freshanvil/core/task"
	"freshanvil/internal/app"
)

// descalePlanOut is a plan before it is led.
func descalePlanOut(p job.Plan, cleared reason.Reason, now time.Time) *DescalePlan {
	d := p.Descaling().Descale
	out := &DescalePlan{Program: string(d.Program), Minutes: p.Minutes, ContactMostMin: d.Contact.Minutes(),
		TankFills: d.Tubs, Jugs: d.Catches, Findings: append([]Finding{}, d.Findings...), Chapters: []Chapter{},
		EndsAt: now.Add(time.Duration(p.Minutes.Value * float64(time.Minute))), LayOut: p.LayOut(), Cleared: &cleared,
		Circuits: []PlanCircuit{}, Rounds: d.Rounds, LeftG: float64(d.Left), ContactMin: d.Planned.Minutes()}
	for _, c := range d.Circuits {
		one := PlanCircuit{Id: c.Part.String(), Title: c.Title, HoldsL: float64(c.Working), Drained: c.Drained,
			ScaleG: float64(c.Scale),
			Least:  c.Least, Outlets: []string{}}
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
	for _, c := range p.Chapters() {
		one := Chapter{Title: c.Title, HandsMin: c.Hands.Minutes(), Minutes: c.All.Minutes(), Lines: []Line{}}
		for _, st := range c.Steps {
			one.Lines = append(one.Lines, Line{Id: st.ID, Title: st.Title, Part: st.Part, Status: LineStatus("ahead")})
		}
		out.Steps += len(c.Steps)
		out.Chapters = append(out.Chapters, one)
	}
	return out
}

// jugAsked is the jug that catches what comes out, where how often it is emptied hangs on it and nobody has said how
// large it is; nil elsewhere.
func jugAsked(a machine.Answers, p job.Plan) *Fact {
	for _, k := range a.Known() {
		if k.Key == "jug_l" && !k.Set && p.Descaling().Descale.Catches > 1 {
			return &knownOut([]machine.Known{k})[0]
		}
	}
	return nil
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
		out.FeedPh = ptr(float64(now.Feed.PH))
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
func endedDescaleOut(e app.EndedDescale) *RunDescale {
	out := &RunDescale{Program: e.Program, Product: e.Product, ContactMin: e.Contact.Minutes(),
		ContactMostMin: e.Most.Minutes(), Vessels: []VesselNow{}, Frames: []PlantFrame{}, Leave: []string{},
		Circuits: []AcidNow{}, Findings: append([]Finding{}, e.Findings...), Says: ptr(e.Report)}
	if e.Measure.Name != "" {
		out.Measure, out.Solution = &e.Measure, &e.Solution
		out.Booked = &Booked{Mixed: e.Booked.Mixed, Unit: e.Measure.Unit, PushedL: float64(e.Booked.Pushed),
			Soaks: e.Booked.Soaks, LeftOut: e.Booked.LeftOut}
	}
	if e.Feed != nil {
		out.FeedPh = ptr(float64(e.Feed.PH))
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

// AddNote puts a note on a task into the log; on descaling, where none is named.
func (s *Server) AddNote(ctx context.Context, r AddNoteRequestObject) (AddNoteResponseObject, error) {
	m, err := s.App.Find(ctx, r.MachineId)
	if err != nil {
		return nil, err
	}
	e, err := s.App.Note(ctx, r.Body.Id, m.ID, orElse(r.Body.Task, task.Descale), r.Body.Text)
	return AddNote201JSONResponse(entryOut(e, m)), err
}
