package run

import (
	"fmt"
	"math"
	"slices"
	"time"

	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
)

// Acid is the hazard of one circuit as a run knows it, and what was read of it.
type Acid struct {
	Part   machine.Part
	Title  string
	In     bool // in the circuit now: until its rinse is proven
	Ever   bool
	Strips []descale.Strip // of the rinse water
	Tally  descale.Tally   // of the spent solution

	holds, start, flushed float64 // of the rinse: litres it holds, share at its start, litres through
	row, strikes, more    int     // readings that match in a row, those that do not, rinses added
}

// Rinsed is the clean water that went through it since the rinse began, in litres.
func (a Acid) Rinsed() float64 { return a.flushed }

// Left is the acid left in the circuit, as a share of the fresh strength.
func (a Acid) Left() reason.Worked {
	return reason.Worked{
		Name: "acid left, " + a.Title, Value: a.start * math.Exp(-a.flushed/a.holds),
		Formula: "start × exp(−flushed ÷ holds)", Source: reason.Ours,
		WouldChange: []string{"more rinse water", "what the strip says"},
		Inputs: []reason.Input{
			{
				Symbol: "start",
				Label:  "strength when the rinse began, of the fresh one",
				Value:  a.start,
				Source: reason.Ours,
			},
			{
				Symbol: "flushed",
				Label:  "clean water through it so far",
				Value:  a.flushed,
				Unit:   "L",
				Source: reason.Log,
			},
			{Symbol: "holds", Label: "it holds", Value: a.holds, Unit: "L", Source: reason.Ours},
		},
	}.Exact()
}

// Descale is what a descale has come to.
type Descale struct {
	Acids   []Acid
	Pipes   descale.Pipes // where the liquid is
	Contact time.Duration // minutes that acid has stood, hot ones counted by their weight
	Feed    *descale.Strip
	Marks   []job.Mark
	Booked  Booked
}

// Booked is what was really done.
type Booked struct {
	Mixed   float64 // of the product, in its unit
	Pushed  float64 // litres of solution that went through
	Soaks   int     // that acid stood for
	LeftOut int     // soaks of the plan that were left out
}

// In says whether acid is in any circuit.
func (d Descale) In() bool { return slices.ContainsFunc(d.Acids, func(a Acid) bool { return a.In }) }

// acidity is what the fold keeps of a descale.
type acidity struct {
	plan     *job.Descaling
	pipes    descale.Pipes
	circuits []Acid
	since    time.Time     // acid first went in
	until    time.Time     // less than 1 % was left in every circuit again
	hot      time.Duration // what hot soaks count for beyond their own time
	rinsing  bool          // the rinse has begun
	feed     *descale.Strip
	marks    []job.Mark
	hurry    bool // no more acid: straight on to the rinse
	booked   Booked
	broke    error
}

func newAcidity(plan *job.Descaling) *acidity {
	a := &acidity{plan: plan, pipes: plan.Pipes.Clone()}
	for _, c := range plan.Circuits {
		a.circuits = append(a.circuits, Acid{
			Part: c.Part, Title: c.Title, In: plan.Dirty, Ever: plan.Dirty, holds: c.Holds,
			start: a.pipes.At(c.Part.String()).Acid,
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

// countSoak books a soak that is over, of so long in run time, each minute counting for
// so many.
func (a *acidity) countSoak(long time.Duration, counts float64) {
	a.booked.Soaks++
	if counts > 1 {
		a.hot += time.Duration(float64(long) * (counts - 1))
	}
}

// withinContact ends a wait in which acid works no later than acid may stand in all;
// a minute of it counts for so many.
func (f *fold) withinContact(end time.Time, counts float64) time.Time {
	if f.acid == nil || f.acid.since.IsZero() {
		return end
	}
	stood := f.since.Sub(f.acid.since)*f.speed + f.acid.hot
	left := float64(f.acid.plan.Contact-stood) / math.Max(1, counts)
	if most := f.since.Add(f.wall(time.Duration(left))); most.Before(end) {
		end = most
	}
	if end.Before(f.since) {
		return f.since
	}
	return end
}

// contact is how long acid has stood in the machine, in run time, from the first drop
// until less than 1 % is left.
func (f *fold) contact() time.Duration {
	if f.acid.since.IsZero() {
		return 0
	}
	until := f.now
	if !f.acid.until.IsZero() {
		until = f.acid.until
	}
	stood := until.Sub(f.acid.since)*f.speed + f.acid.hot
	if s, ok := f.present.(*soak); ok && s.body.Acid && s.body.Counts > 1 && !f.over {
		stood += time.Duration(float64(f.now.Sub(f.since)*f.speed) * (s.body.Counts - 1))
	}
	return stood
}

// mark remembers something that was seen.
func (f *fold) mark(m job.Mark) {
	if m != "" && f.acid != nil && !slices.Contains(f.acid.marks, m) {
		f.acid.marks = append(f.acid.marks, m)
	}
}

// moveAll carries moves out one after the other.
func (f *fold) moveAll(list []descale.Move) {
	for _, m := range list {
		f.move(m)
	}
}

// startMoves carries out what comes before a push or a program; from then on acid
// counts as in whatever it will go through.
func (f *fold) startMoves(list []descale.Move) {
	for _, m := range list {
		if m.Kind == descale.Pushes {
			break
		}
		f.move(m)
	}
	for _, m := range list {
		if m.Kind == descale.Pushes && f.acid.pipes.At(m.From).Sour() {
			f.markSour(m.Through)
		}
	}
}

// finishMoves carries out what a program did, from its first push on.
func (f *fold) finishMoves(list []descale.Move) {
	for i, m := range list {
		if m.Kind == descale.Pushes {
			f.moveAll(list[i:])
			return
		}
	}
}

// move carries a move out and follows what it does to each circuit.
func (f *fold) move(m descale.Move) {
	if f.acid == nil {
		return
	}
	strong := f.acid.pipes.At(m.From)
	acidic := m.Kind == descale.Pushes && strong != nil && strong.Sour()
	if err := f.acid.pipes.Do(m); err != nil {
		if f.acid.broke == nil {
			f.acid.broke = fmt.Errorf("step %s: %w", f.step().ID, err)
		}
		return
	}
	if m.Kind != descale.Pushes {
		return
	}
	if acidic {
		f.acid.booked.Pushed += m.Litres
	}
	for i := range f.acid.circuits {
		a := &f.acid.circuits[i]
		if a.Part.String() != m.Through {
			continue
		}
		is := f.acid.pipes.At(m.Through)
		a.Tally.Carry(math.Exp(-m.Litres / is.Holds))
		a.flushed += m.Litres
		if is.Sour() {
			f.markSour(m.Through)
		}
	}
	f.watchContact()
}

// markSour counts acid as in a circuit, until its rinse is proven.
func (f *fold) markSour(id string) {
	for i := range f.acid.circuits {
		if a := &f.acid.circuits[i]; a.Part.String() == id {
			a.In, a.Ever, a.row = true, true, 0
		}
	}
	if f.acid.since.IsZero() {
		f.acid.since = f.now
	}
}

// watchContact stops the clock of the contact where less than 1 % is left in every
// circuit.
func (f *fold) watchContact() {
	a := f.acid
	if !a.since.IsZero() && a.until.IsZero() && a.rinsing && !a.pipes.Holds(descale.Weak) {
		a.until = f.now
	}
}

// leaveOut leaves out the soaks that there is no time for any more, and notes where
// the rinse begins.
func (f *fold) leaveOut() {
	if f.acid == nil {
		return
	}
	for f.i < len(f.steps) {
		s := f.steps[f.i]
		begins := s.Phase == job.Acidic && s.Round >= 2 && s.Round > f.steps[f.i-1].Round
		if !begins || !f.acid.hurry && f.acid.plan.Contact-f.contact() >= job.ShortestSoak {
			break
		}
		f.dropRound(s.Round)
	}
	if f.i < len(f.steps) && f.steps[f.i].Phase == job.Rinsing && !f.acid.rinsing {
		f.acid.rinsing = true
		for i := range f.acid.circuits {
			a := &f.acid.circuits[i]
			a.start, a.flushed = f.acid.pipes.At(a.Part.String()).Acid, 0
		}
	}
}

// dropRound takes a soak and what belongs to it out of the list.
func (f *fold) dropRound(round int) {
	end := f.i
	for end < len(f.steps) && f.steps[end].Round == round {
		f.ended[f.steps[end].ID] = f.now
		end++
	}
	f.steps = append(f.steps[:f.i:f.i], f.steps[end:]...)
	f.acid.booked.LeftOut++
	if f.acid.hurry || f.state.Finding != nil {
		return
	}
	f.state.Finding = &reason.Finding{
		Verdict: reason.Look, Title: "Enough: the rest of the soaks is left out",
		Because: []reason.Reason{{
			Text: fmt.Sprintf("Acid has stood %.0f minutes, and may stand %.0f in all.", f.contact().Minutes(),
				f.acid.plan.Contact.Minutes()),
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
	next := []string{"Machine off at its switch, or unplugged: it must not start by itself."}
	if f.acid.in() {
		next = append(
			next,
			"Steam tap stays open: gas must leave. Acid goes on working: rinse as soon as there is power.",
		)
	}
	f.state.Finding = &reason.Finding{
		Verdict: reason.Look, Title: "No power: switch it off",
		Because: []reason.Reason{{
			Text: "When power comes back, it would heat, with nobody there.", Source: reason.Trade,
		}},
		Next: next,
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
	if f.acid.in() && !f.acid.rinsing && f.acid.plan.Contact-stood < job.ShortestSoak {
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

// describe puts what a descale has come to into the state; a push that runs counts up
// to now.
func (f *fold) describe(s *State) {
	if f.acid == nil {
		return
	}
	a := *f.acid
	if p, ok := f.present.(*push); ok && f.mode == On && !f.over {
		g, q := *f, *p
		shadow := a
		shadow.pipes, shadow.circuits = a.pipes.Clone(), slices.Clone(a.circuits)
		g.acid, q.f = &shadow, &g
		q.pour(f.now.Sub(f.since) * f.speed)
		a = shadow
	}
	d := &Descale{
		Acids: slices.Clone(a.circuits), Pipes: a.pipes.Clone(), Contact: f.contact(), Feed: a.feed, Marks: a.marks,
		Booked: a.booked,
	}
	if !a.rinsing { // nothing is rinsed yet: it is as strong as it stands
		for i := range d.Acids {
			d.Acids[i].start, d.Acids[i].flushed = d.Pipes.At(d.Acids[i].Part.String()).Acid, 0
		}
	}
	s.Descale, s.Broke = d, a.broke
}
