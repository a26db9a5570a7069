package run

import (
	"fmt"
	"math"
	"slices"
	"time"

	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// Acid is the hazard of one circuit as a run knows it, and what was read of it.
type Acid struct {
	Part   machine.Part
	Title  string
	In     bool // in the circuit now: until its rinse is proven
	Ever   bool
	Strips []descale.Strip // of the rinse water
	Tally  descale.Tally   // of the spent solution

	holds        units.Litres
	start, share float64 // of the rinse: share at its start, now
	flushed      float64 // litres of clean water through it
	refills      int     // since the rinse began
	emptied      int     // how often it had been let out then
	drained      bool
	spent        float64 // share when it had last soaked
	rows         map[string]*row
}

// row is how the readings at one outlet stand.
type row struct {
	matches, strikes, more int
	done                   bool
}

// Rinsed is what has been done of its rinse so far: litres of clean water, or refills.
func (a Acid) Rinsed() float64 {
	if a.drained {
		return float64(a.refills)
	}
	return a.flushed
}

// Left is the acid left in the circuit, as a share of the fresh strength.
func (a Acid) Left() reason.Worked {
	w := reason.Worked{
		Name: "acid left, " + a.Title, Value: a.share, Formula: "start × kept", Source: reason.Ours,
		WouldChange: []string{"more rinse water", "what the strip says"},
		Inputs: []reason.Input{{
			Symbol: "start", Label: "strength when the rinse began, of the fresh one", Value: a.start, Source: reason.Ours,
		}},
	}
	if a.drained || a.start == 0 {
		kept := 1.0
		if a.start > 0 {
			kept = a.share / a.start
		}
		w.Inputs = append(w.Inputs, reason.Input{
			Symbol: "kept", Label: "share of that, which refills and flushes so far have left", Value: kept,
			Source: reason.Ours,
		})
		return w.Exact()
	}
	w.Formula = "start × exp(−flushed ÷ holds)"
	through := float64(a.holds) * math.Log(a.start/math.Max(1e-300, a.share))
	if a.share == a.start {
		through = 0
	}
	w.Inputs = append(w.Inputs,
		reason.Input{Symbol: "flushed", Label: "clean water through it so far", Value: through, Unit: "L",
			Source: reason.Log},
		reason.Input{Symbol: "holds", Label: "it holds", Value: float64(a.holds), Unit: "L", Source: reason.Ours})
	return w.Exact()
}

// Descale is what a descale has come to.
type Descale struct {
	Acids   []Acid
	Plant   *plant.Plant  // the machine as the model believes it to be now
	Frames  []Frame       // and as it will be at each event of the present segment
	Contact time.Duration // minutes that acid has stood, warm ones counted by their weight
	Feed    *descale.Strip
	Marks   []job.Mark
	Booked  Booked
}

// Frame is the machine at an instant ahead.
type Frame struct {
	At    time.Time
	Plant *plant.Plant
}

// mostFrames is how many events ahead are told.
const mostFrames = 24

// Booked is what was really done.
type Booked struct {
	Mixed   float64      // of the product, in its unit
	Pushed  units.Litres // of solution that went in or through
	Soaks   int          // soaks, or sips, that acid stood for
	LeftOut int          // soaks, or sips, of the plan that were left out
}

// In says whether acid is in any circuit.
func (d Descale) In() bool { return slices.ContainsFunc(d.Acids, func(a Acid) bool { return a.In }) }

// acidity is what the fold keeps of a descale.
type acidity struct {
	plan     *job.Descaling
	circuits []Acid
	rinsing  bool // the rinse has begun
	feed     *descale.Strip
	marks    []job.Mark
	hurry    bool // no more acid: straight on to the rinse
	booked   Booked
}

func newAcidity(plan *job.Descaling, model *plant.Plant) *acidity {
	a := &acidity{plan: plan}
	for _, c := range plan.Circuits {
		a.circuits = append(a.circuits, Acid{
			Part: c.Part, Title: c.Title, In: plan.Dirty, Ever: plan.Dirty, holds: c.Working, drained: c.Drained,
			start: model.At(c.Part.String()).Acid, rows: map[string]*row{},
		})
	}
	return a
}

// circuit finds one; nil where there is none.
func (a *acidity) circuit(part machine.Part) *Acid {
	for i := range a.circuits {
		if a.circuits[i].Part == part {
			return &a.circuits[i]
		}
	}
	return nil
}

// in says whether acid is in any circuit.
func (a *acidity) in() bool {
	return a != nil && slices.ContainsFunc(a.circuits, func(c Acid) bool { return c.In })
}

// outcome is how the descale ends, or would end now.
func (a *acidity) outcome(done bool) Outcome {
	ever := slices.ContainsFunc(a.circuits, func(c Acid) bool { return c.Ever })
	switch {
	case a.in():
		return StoppedUnsafe
	case done, ever:
		return Finished
	}
	return Stopped
}

// mix books a batch: as much as was said, or as planned.
func (a *acidity) mix(m job.Mix, said *float64) {
	if said == nil {
		a.booked.Mixed += m.Measure.Value
		return
	}
	a.booked.Mixed += *said
}

// markSour counts acid as in whatever the pump brings it to from now on, until its rinse is
// proven.
func (f *fold) markSour(to string) {
	p := f.model
	if p == nil || f.acid == nil || p.V[plant.SourceAt].Acid <= f.acid.plan.Plant.Solution.Limit {
		return
	}
	for i := range f.acid.circuits {
		a := &f.acid.circuits[i]
		at := p.Spec.Find(a.Part.String())
		routed := to != "" && p.Spec.Openings[p.Spec.FindOpening(to)].Of == at
		if fills := p.Spec.Vessels[at].Probe && !p.V[at].Full; routed || fills {
			a.In, a.Ever = true, true
		}
	}
}

// watch follows what the plant does to each circuit.
func (f *fold) watch() {
	if f.acid == nil {
		return
	}
	for i := range f.acid.circuits {
		a := &f.acid.circuits[i]
		s := f.model.At(a.Part.String())
		if s.Sour && !a.In && !a.Ever {
			a.In, a.Ever = true, true
		} else if s.Acid > f.acid.plan.Plant.Solution.Limit && s.Sour {
			a.In, a.Ever = true, true
		}
		a.share, a.flushed = s.Acid, s.Through
		a.refills = s.Emptied - a.emptied
	}
	f.acid.booked.Pushed = 0
	for i := range f.model.V {
		f.acid.booked.Pushed += units.Litres(f.model.V[i].Solution)
	}
}

// countSoaks books what has stood, a soak or so many sips, and remembers how strong each
// circuit was then.
func (f *fold) countSoaks(n int) {
	f.acid.booked.Soaks += n
	p := f.model
	for i := range f.acid.circuits {
		a := &f.acid.circuits[i]
		s := p.At(a.Part.String())
		a.Tally.Carry(s.Old)
		a.spent, s.Old = s.Acid, 1
	}
}

// contact is how long acid has stood in the machine, warm minutes by their weight, from the
// first drop until less than 1 % is left.
func (f *fold) contact() time.Duration {
	p := f.model
	if now := f.at(f.now); p.T < now {
		p = p.Clone()
		p.WaitTo(now)
	}
	return time.Duration(p.Contact() * float64(time.Second))
}

// soakEnds is when a soak ends: after its time, or when what is left of the contact is what
// slow hands need to get out of it.
func (f *fold) soakEnds(long time.Duration) time.Time {
	most := (f.acid.plan.Contact - f.acid.plan.Exit).Seconds()
	p := f.model.Clone()
	took := p.Until(func(p *plant.Plant) bool { return p.Contact() >= most }, long.Seconds())
	if p.Contact() > most+1 { // it goes by events; between two, the clock runs evenly
		took -= (p.Contact() - most) / weightOf(p)
	}
	return f.since.Add(f.wall(time.Duration(math.Max(0, took) * float64(time.Second))))
}

// weightOf is what a minute counts for in the circuit where it counts most.
func weightOf(p *plant.Plant) float64 {
	most := 1.0
	for i := range p.V {
		if p.V[i].Acid >= plant.Weak && p.Spec.Vessels[i].IsCircuit() {
			most = math.Max(most, plant.Weight(p.V[i].Temp))
		}
	}
	return most
}

// mark remembers something that was seen.
func (f *fold) mark(m job.Mark) {
	if m != "" && f.acid != nil && !slices.Contains(f.acid.marks, m) {
		f.acid.marks = append(f.acid.marks, m)
	}
}

// leaveOut leaves out the rounds that there is no time for any more, and notes where
// the rinse begins.
func (f *fold) leaveOut() {
	if f.acid == nil {
		return
	}
	f.model.WaitTo(f.at(f.now))
	for f.i < len(f.steps) {
		s := f.steps[f.i]
		begins := s.Phase == job.Acidic && s.Round >= 2 && s.Round > f.steps[f.i-1].Round
		if !begins || !f.acid.hurry && f.fits(s.Round) {
			break
		}
		f.dropRound(s.Round)
	}
	if f.i < len(f.steps) && f.steps[f.i].Phase == job.Rinsing && !f.acid.rinsing {
		f.acid.rinsing = true
		for i := range f.acid.circuits {
			a := &f.acid.circuits[i]
			s := f.model.At(a.Part.String())
			a.start, a.emptied, a.refills = s.Acid, s.Emptied, 0
			a.share = s.Acid
		}
	}
}

// fits says whether there is time for a round, at slow hands.
func (f *fold) fits(round int) bool {
	d := f.acid.plan
	cost := job.ShortestSoak
	if round <= len(d.Costs) {
		cost = d.Costs[round-1]
	}
	return f.contact()+cost+d.Exit <= d.Contact
}

// dropRound takes a soak and what belongs to it out of the list.
func (f *fold) dropRound(round int) {
	end := f.i
	for end < len(f.steps) && f.steps[end].Round == round {
		switch b := f.steps[end].Body.(type) {
		case job.Soak:
			f.acid.booked.LeftOut++
		case job.Sips:
			f.acid.booked.LeftOut += b.Count
		}
		f.ended[f.steps[end].ID] = f.now
		end++
	}
	f.steps = append(f.steps[:f.i:f.i], f.steps[end:]...)
	if f.acid.hurry || f.state.Finding != nil {
		return
	}
	f.state.Finding = f.enough()
}

// enough says that the rest of the acid is left out.
func (f *fold) enough() *reason.Finding {
	return &reason.Finding{
		Verdict: reason.Look, Title: "Enough: the rest of the soaks is left out",
		Because: []reason.Reason{{
			Text: fmt.Sprintf("Acid has stood %.0f minutes, warm ones counted more, and may stand %.0f. The rinse needs what "+
				"is left of them.", f.contact().Minutes(), f.acid.plan.Contact.Minutes()),
			Source: reason.Ours,
		}},
		Next: []string{"Rinse now."},
	}
}

// switchPower takes somebody's word that the power is cut, or back. Nothing is lost by it; what was begun
// goes on from where it stood.
func (f *fold) switchPower(cut bool) {
	if f.acid == nil || cut == f.cut {
		return
	}
	f.cut = cut
	if !cut {
		f.goOnAfterCut()
		return
	}
	if f.mode == On || f.mode == Rest {
		f.present.breakOff()
		f.turnTo(Held)
	}
	f.doNow([]plant.Action{{Verb: plant.SwitchOff}})
	f.state.Finding = &reason.Finding{
		Verdict: reason.Look, Title: "No power: switch it off",
		Because: []reason.Reason{{
			Text: "When power comes back, it would heat, with nobody there.", Source: reason.Trade,
		}},
		Next: RescueOf(f.model).Do,
	}
}

// goOnAfterCut says how the run goes on after a power cut, and leaves out the soaks that acid has stood
// through meanwhile.
func (f *fold) goOnAfterCut() {
	finding := reason.Finding{
		Verdict: reason.Look, Title: "Power is back: go on here",
		Because: []reason.Reason{{
			Text: "What was pushed before counts; the present step goes on.", Source: reason.Ours,
		}},
	}
	stood := f.contact()
	if f.acid.in() && !f.acid.rinsing && stood+job.ShortestSoak+f.acid.plan.Exit > f.acid.plan.Contact {
		finding.Title, finding.Verdict = "Power is back: no more soaking, rinse", reason.Stop
		finding.Because = append(finding.Because, reason.Reason{
			Text: fmt.Sprintf("Acid has stood %.0f minutes, and may stand %.0f in all.", stood.Minutes(),
				f.acid.plan.Contact.Minutes()),
			Source: reason.Ours,
		})
		f.acid.hurry = true
	}
	f.state.Finding = &finding
}

// describe puts what a descale has come to into the state, with the plant as it is now.
func (f *fold) describe(s *State) {
	if f.acid == nil {
		return
	}
	a := *f.acid
	g := *f
	g.acid = &a
	g.model, a.circuits = f.model.Clone(), slices.Clone(a.circuits)
	if !f.over {
		g.model.WaitTo(f.at(f.now))
	}
	g.watch()
	d := &Descale{
		Acids: a.circuits, Plant: g.model, Contact: time.Duration(g.model.Contact() * float64(time.Second)), Feed: a.feed,
		Marks: a.marks, Booked: a.booked,
	}
	if !a.rinsing { // nothing is rinsed yet: it is as strong as it stands
		for i := range d.Acids {
			d.Acids[i].start, d.Acids[i].flushed, d.Acids[i].refills = d.Acids[i].share, 0, 0
		}
	}
	d.Frames = g.frames(g.model)
	s.Descale = d
	for _, v := range g.model.Broken {
		if v.Never != plant.ContactOver { // that is told by its minutes
			s.Broke = v
			break
		}
	}
}
