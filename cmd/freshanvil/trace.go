package main

import (
	"bufio"
	"encoding/json"
	"io"

	"freshanvil/core/job"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/run"
	"freshanvil/internal/app"
)

// The documents that plan prints.
type (
	planDocument struct {
		Title    string         `json:"title"`
		Program  string         `json:"program,omitempty"`
		Minutes  float64        `json:"minutes"`
		HandsMin float64        `json:"hands_min"`
		WaitsMin float64        `json:"waits_min"`
		LayOut   []string       `json:"lay_out"`
		Findings []findingLine  `json:"findings"`
		Steps    []stepDocument `json:"steps"`
		Cleared  string         `json:"cleared,omitempty"`
	}
	findingLine struct {
		Title   string   `json:"title"`
		Because []string `json:"because"`
		Next    []string `json:"next,omitempty"`
	}
	stepDocument struct {
		ID       string         `json:"id"`
		Kind     string         `json:"kind"`
		Part     string         `json:"part"`
		Lane     string         `json:"lane"`
		Phase    string         `json:"phase,omitempty"`
		Title    string         `json:"title"`
		Head     string         `json:"head"`
		Do       []string       `json:"do"`
		Button   string         `json:"button"`
		Cautions []string       `json:"cautions"`
		TakesS   float64        `json:"takes_s"`
		RunsS    float64        `json:"runs_s,omitempty"`
		Ways     []wayDocument  `json:"ways,omitempty"`
		Acts     []plant.Action `json:"acts,omitempty"`
	}
	wayDocument struct {
		Answer string `json:"answer"`
		Text   string `json:"text"`
	}
	traceLine struct {
		T          float64            `json:"t_s"`
		Step       string             `json:"step"`
		Event      string             `json:"event"`
		Plugged    bool               `json:"plugged"`
		On         bool               `json:"on"`
		Pump       bool               `json:"pump"`
		SupplyOpen bool               `json:"supply_open"`
		Violations []violationLine    `json:"violations"`
		Contact    map[string]float64 `json:"contact_s"`
		Vessels    []vesselLine       `json:"vessels"`
	}
	violationLine struct {
		Never string  `json:"never"`
		T     float64 `json:"t_s"`
		Part  string  `json:"part"`
		Why   string  `json:"why"`
	}
	vesselLine struct {
		ID        string        `json:"id"`
		Kind      plant.Kind    `json:"kind"`
		Litres    float64       `json:"litres"`
		Capacity  float64       `json:"capacity_l"`
		Working   float64       `json:"working_l"`
		Acid      float64       `json:"acid_share"`
		Detergent float64       `json:"detergent_mg_l"`
		Temp      float64       `json:"temp_c"`
		Gauge     float64       `json:"gauge_bar"`
		HeaterOn  bool          `json:"heater_on"`
		Openings  []openingLine `json:"openings"`
	}
	openingLine struct {
		ID   string            `json:"id"`
		Kind plant.OpeningKind `json:"kind"`
		Open bool              `json:"open"`
	}
)

// planOut prints a plan as a document.
func planOut(out io.Writer, p app.Planned) error {
	lead := p.Plan.Leads()
	d := planDocument{Title: lead.Title, Minutes: p.Plan.Minutes.Value, LayOut: p.Plan.LayOut(),
		Findings: []findingLine{}, Steps: []stepDocument{}}
	if lead.Descale != nil {
		d.Program = string(lead.Descale.Program)
		for _, f := range lead.Descale.Findings {
			d.Findings = append(d.Findings, findingOut(f))
		}
	}
	if p.Clear != nil {
		d.Cleared = p.Clear.Text
	}
	for _, in := range p.Plan.Minutes.Inputs {
		if in.Symbol == "hands" {
			d.HandsMin += in.Value / 60
		} else {
			d.WaitsMin += in.Value / 60
		}
	}
	for _, s := range p.Plan.Steps() {
		d.Steps = append(d.Steps, stepLine(s))
	}
	e := json.NewEncoder(out)
	e.SetIndent("", "  ")
	return e.Encode(d)
}

func findingOut(f reason.Finding) findingLine {
	line := findingLine{Title: f.Title, Next: f.Next}
	for _, r := range f.Because {
		line.Because = append(line.Because, r.Text)
	}
	return line
}

func stepLine(s job.Step) stepDocument {
	d := stepDocument{ID: s.ID, Kind: string(s.Kind()), Part: s.Part.String(), Lane: string(s.Lane),
		Phase: string(s.Phase),
		Title: s.Title, Head: s.Head, Do: s.Do, Button: s.Button, TakesS: s.Takes.Seconds(), Acts: s.Acts}
	for _, c := range s.Cautions {
		d.Cautions = append(d.Cautions, c.Text)
	}
	pump := job.Pump{}
	d.RunsS = (s.Body.Spell(s.Takes, &pump) - s.Takes).Seconds()
	if soak, ok := job.BodyOf[job.Soak](s); ok {
		d.RunsS = soak.For.Seconds()
	}
	if wait, ok := job.BodyOf[job.Wait](s); ok {
		d.RunsS = wait.For.Seconds()
	}
	if choose, ok := job.BodyOf[job.Choose](s); ok {
		for _, w := range choose.Ways {
			d.Ways = append(d.Ways, wayDocument{string(w.Answer), w.Text})
		}
	}
	return d
}

// traceOut plays a plan and prints the plant at each step and event. The error is a
// *job.Unsafe where it came to what must never be.
func traceOut(out io.Writer, p job.Plan, h run.Hands) error {
	buffer := bufio.NewWriter(out)
	defer buffer.Flush()
	e := json.NewEncoder(buffer)
	step, over := "", false
	write := func(p *plant.Plant, event string) {
		if over {
			return
		}
		_ = e.Encode(plantLine(p, step, event)) // what cannot be written is told when the buffer is flushed
		over = len(p.Broken) > 0
	}
	play, err := run.Perform(p, h, func(play *run.Play, s job.Step) {
		step = s.ID
		write(play.Plant, "step")
		play.Plant.Watch = write
	})
	if play.Plant != nil {
		play.Plant.Watch = nil
		if !over {
			write(play.Plant, "end")
		}
	}
	if err == nil {
		err = buffer.Flush()
	}
	return err
}

func plantLine(p *plant.Plant, step, event string) traceLine {
	line := traceLine{T: p.T, Step: step, Event: event, Plugged: p.Plug, On: p.On, Pump: p.PumpRuns(),
		SupplyOpen: p.Supply,
		Violations: []violationLine{}, Contact: map[string]float64{}, Vessels: []vesselLine{}}
	for _, v := range p.Broken {
		line.Violations = append(line.Violations, violationLine{string(v.Never), v.T, v.Part, v.Why})
	}
	for i, v := range p.Spec.Vessels {
		s := p.V[i]
		one := vesselLine{ID: v.ID, Kind: v.Kind, Litres: s.Litres, Capacity: v.Capacity, Working: v.Working, Acid: s.Acid,
			Detergent: s.Detergent, Temp: s.Temp, HeaterOn: p.HeaterOn(i), Openings: []openingLine{}}
		if v.IsCircuit() {
			line.Contact[v.ID] = s.Contact
			one.Gauge = p.Gauge(i)
		}
		for g, o := range p.Spec.Openings {
			if o.Of == i {
				one.Openings = append(one.Openings, openingLine{o.ID, o.Kind, p.Gates[g].Open || p.Route == g})
			}
		}
		line.Vessels = append(line.Vessels, one)
	}
	return line
}
