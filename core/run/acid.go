package run

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/reason"
)

// Acid is the hazard of one circuit as a run knows it, and what was read of it.
type Acid struct {
	ID, Title string
	In        bool // in the circuit now: until its rinse is proven
	Ever      bool
	Strips    []descale.Strip // of the rinse water
	Tally     descale.Tally   // of the spent solution

	holds, start, kept, flushed float64 // of the rinse: share at its start, share the refills kept, litres
	refills                     int
	drained                     bool
	row, strikes, more          int // readings that match in a row, those that do not, rinses added
}

// Rinsed is the clean water that went through it since the rinse began, in litres,
// or the refills where it is drained.
func (a Acid) Rinsed() float64 {
	if a.drained {
		return float64(a.refills)
	}
	return a.flushed
}

// Left is the acid left in the circuit, as a share of the fresh strength.
func (a Acid) Left() reason.Worked {
	return reason.Worked{
		Name:        "acid left, " + a.Title,
		Value:       a.start * a.kept * math.Exp(-a.flushed/a.holds),
		Formula:     "start × kept × exp(−flushed ÷ holds)",
		Source:      reason.Ours,
		WouldChange: []string{"more rinse water", "what the strip says"},
		Inputs: []reason.Input{
			{
				Symbol: "start",
				Label:  "strength when the rinse began, of the fresh one",
				Value:  a.start,
				Source: reason.Ours,
			},
			{Symbol: "kept", Label: "share that the refills so far left in it", Value: a.kept, Source: reason.Ours},
			{
				Symbol: "flushed",
				Label:  "clean water through it so far",
				Value:  a.flushed,
				Unit:   "L",
				Source: reason.Log,
			},
			{Symbol: "holds", Label: "it holds", Value: a.holds, Unit: "L", Source: reason.Ours}},
	}.Exact()
}

// Errand is what a task beside the parts has come to.
type Errand struct {
	Task    care.Task
	Title   string
	Outcome Outcome
}

// acidity is what the fold keeps of a descale.
type acidity struct {
	plan     *job.Acid
	pipes    descale.Pipes
	circuits []Acid
	since    time.Time // acid first went in
	until    time.Time // the rinse began
	feed     *descale.Strip
	pushed   time.Duration // of the present push
	given    float64       // litres of it
	entered  bool          // what a step does at its beginning is done
	tries    map[string]int
	called   map[string]string // a step asked again, by the one it repeats
	marks    []string
	hurry    bool // no more acid: straight on to the rinse
	cut      bool
	broke    error
}

func begin(plan *job.Acid) acidity {
	a := acidity{plan: plan, tries: map[string]int{}, called: map[string]string{}}
	if plan == nil {
		return a
	}
	a.pipes = plan.Pipes.Clone()
	for _, c := range plan.Circuits {
		a.circuits = append(
			a.circuits,
			Acid{
				ID:      c.ID,
				Title:   c.Title,
				In:      plan.Dirty,
				Ever:    plan.Dirty,
				holds:   c.Holds,
				start:   a.pipes.At(c.ID).Acid,
				kept:    1,
				drained: c.Heel > 0,
			},
		)
	}
	return a
}

// stands ends a wait in which acid works no later than acid may stand in all.
func (f *fold) stands(end time.Time) time.Time {
	if !f.step().Stands || f.acid.since.IsZero() {
		return end
	}
	if most := f.acid.since.Add(f.acid.plan.Contact / f.speed); most.Before(end) {
		end = most
	}
	if end.Before(f.since) {
		return f.since
	}
	return end
}

// contact is how long acid has stood in the machine, in run time.
func (f *fold) contact() time.Duration {
	if f.acid.since.IsZero() {
		return 0
	}
	until := f.now
	if !f.acid.until.IsZero() {
		until = f.acid.until
	}
	return until.Sub(f.acid.since) * f.speed
}

// move carries a move out and follows what it does to each circuit.
func (f *fold) move(m descale.Move) {
	before := f.acid.pipes.Clone()
	if err := f.acid.pipes.Do(m); err != nil {
		if f.acid.broke == nil {
			f.acid.broke = fmt.Errorf("step %s: %w", f.step().ID, err)
		}
		return
	}
	for i := range f.acid.circuits {
		a := &f.acid.circuits[i]
		was, is := before.At(a.ID), f.acid.pipes.At(a.ID)
		switch {
		case m.Kind == descale.Pushes && m.Through == a.ID:
			a.Tally.Carries(math.Exp(-m.Litres / is.Holds))
			a.flushed += m.Litres
		case m.Kind == descale.Fills && m.To == a.ID && is.Litres > 0:
			a.Tally.Carries(was.Litres / is.Litres)
			a.kept *= was.Litres / is.Litres
			if is.Full() {
				a.refills++
			}
		default:
			continue
		}
		if is.Sour() {
			f.sours(a.ID)
		}
	}
}

// sours: acid is in a circuit, until its rinse is proven.
func (f *fold) sours(id string) {
	for i := range f.acid.circuits {
		if a := &f.acid.circuits[i]; a.ID == id {
			a.In, a.Ever, a.row = true, true, 0
		}
	}
	if f.acid.since.IsZero() {
		f.acid.since = f.now
	}
}

// enters does what a step does as it begins, leaves what it does as it ends: a push
// counts as it runs, a program of the machine's own when it is over.
func (f *fold) enters() {
	f.acid.entered = true
	for _, m := range f.step().Does {
		if m.Kind != descale.Pushes && m.Kind != descale.Drains && m.Kind != descale.Fills {
			if f.step().Kind != job.Act || !f.drainsOrFills() {
				f.move(m)
			}
		}
	}
	for _, m := range f.step().Does { // acid is in from the first drop, or the start of its own program
		if m.Kind == descale.Pushes && f.acid.pipes.At(m.From).Sour() {
			f.sours(m.Through)
		}
	}
}

// drainsOrFills says whether a step's moves belong in their order, at its end.
func (f *fold) drainsOrFills() bool {
	return slices.ContainsFunc(
		f.step().Does,
		func(m descale.Move) bool { return m.Kind == descale.Drains || m.Kind == descale.Fills },
	)
}

func (f *fold) leaves() {
	switch {
	case f.step().Kind == job.Act && f.drainsOrFills(), f.step().Kind == job.Choose:
		for _, m := range f.step().Does {
			f.move(m)
		}
	case f.step().Kind == job.Wait:
		for _, m := range f.step().Does {
			if m.Kind == descale.Pushes || m.Kind == descale.Empties {
				f.move(m)
			}
		}
	}
}

// passed: the present step is done with.
func (f *fold) passed() {
	f.acid.pushed, f.acid.given, f.acid.entered = 0, 0, false
	f.dry = 0
}

// enough leaves out the rounds of acid that there is no time for any more, and
// marks where the rinse begins.
func (f *fold) enough() {
	if f.acid.plan == nil {
		return
	}
	for f.i < len(f.steps) {
		s := f.steps[f.i]
		if s.Phase != job.Acidic || s.Round < 2 || s.Round <= f.steps[f.i-1].Round ||
			!f.acid.hurry && f.acid.plan.Contact-f.contact() >= job.ShortestSoak {
			break
		}
		end := f.i
		for end < len(f.steps) && f.steps[end].Round == s.Round {
			end++
		}
		f.steps = append(f.steps[:f.i:f.i], f.steps[end:]...)
		if !f.acid.hurry && f.state.Finding == nil {
			f.state.Finding = &reason.Finding{Verdict: reason.Look, Title: "Enough: the rest of the soaks is left out",
				Because: []reason.Reason{
					{
						Text: fmt.Sprintf(
							"Acid has stood %.0f minutes, and may stand %.0f in all.",
							f.contact().Minutes(),
							f.acid.plan.Contact.Minutes(),
						),
						Source: reason.Ours,
					},
				}, Next: []string{"Rinse now."}}
		}
	}
	if f.i < len(f.steps) && f.steps[f.i].Phase == job.Rinsing && f.acid.until.IsZero() {
		f.acid.until = f.now
		for i := range f.acid.circuits {
			a := &f.acid.circuits[i]
			a.start, a.kept, a.flushed, a.refills = f.acid.pipes.At(a.ID).Acid, 1, 0, 0
		}
	}
}

// power: it is cut, or back. Nothing is lost by it; what was begun goes on from
// where it stood.
func (f *fold) power(cut bool) {
	if f.acid.plan == nil || cut == f.acid.cut {
		return
	}
	f.acid.cut = cut
	in := slices.ContainsFunc(f.acid.circuits, func(a Acid) bool { return a.In })
	if cut {
		if f.mode == On || f.mode == Rest {
			f.interrupted()
			f.segment++
			f.mode, f.since = Held, f.now
		}
		next := []string{"Machine off at its switch, or unplugged: it must not start by itself."}
		if in {
			next = append(
				next,
				"Steam tap stays open: gas must leave. Acid goes on working; by hand, nothing is drained that is not cold.",
			)
		}
		f.state.Finding = &reason.Finding{
			Verdict: reason.Look,
			Title:   "No power: switch it off",
			Because: []reason.Reason{
				{
					Text:   "When power comes back, a boiler that is not full would be heated empty.",
					Source: reason.Trade,
				},
			},
			Next: next,
		}
		return
	}
	finding := reason.Finding{
		Verdict: reason.Look,
		Title:   "Power is back: go on here",
		Because: []reason.Reason{
			{Text: "What was pushed and drained before counts; the present step goes on.", Source: reason.Ours},
		},
	}
	for _, v := range f.acid.pipes.Vessels {
		if v.Kind == descale.InCircuit && !v.Full() {
			finding.Next = append(
				finding.Next,
				fmt.Sprintf("The %s is not full: leave the heater off until it is.", v.Title),
			)
		}
	}
	if stood := f.contact(); in && f.acid.until.IsZero() && f.acid.plan.Contact-stood < job.ShortestSoak {
		finding.Title, finding.Verdict = "Power is back: no more soaking, rinse", reason.Stop
		finding.Because = append(
			finding.Because,
			reason.Reason{
				Text: fmt.Sprintf(
					"Acid has stood %.0f minutes, and may stand %.0f in all.",
					stood.Minutes(),
					f.acid.plan.Contact.Minutes(),
				),
				Source: reason.Ours,
			},
		)
		f.acid.hurry = true
	} else if f.step().Kind == job.Wait && f.mode == Soak && !f.step().Stands {
		finding.Next = append(finding.Next, "It has lost heat meanwhile: go by the gauge, not by the clock.")
	}
	f.state.Finding = &finding
}

// choose follows the answer to a choice: on, round a detour and back to it, or to a
// halt.
func (f *fold) choose(what string) {
	s := f.step()
	i := slices.IndexFunc(s.Ways, func(w job.Way) bool { return w.What == what })
	if i < 0 {
		return
	}
	w := s.Ways[i]
	if w.Marks != "" && !slices.Contains(f.acid.marks, w.Marks) {
		f.acid.marks = append(f.acid.marks, w.Marks)
	}
	f.state.Finding = nil
	if len(w.Detour) == 0 && w.Stop == nil {
		f.leaves()
		f.next()
		return
	}
	base := s.ID
	if b, again := f.acid.called[s.ID]; again {
		base = b
	}
	key := base + " " + what
	if f.acid.tries[key] >= w.Most {
		f.state.Finding = w.Stop
		return
	}
	f.acid.tries[key]++
	n := 0
	for k, v := range f.acid.tries {
		if strings.HasPrefix(k, base+" ") {
			n += v
		}
	}
	var list []job.Step
	for _, d := range w.Detour {
		d.ID = fmt.Sprintf("%s-%s-%d", base, d.ID, n)
		d.Phase, d.Round = s.Phase, s.Round
		list = append(list, d)
	}
	s.ID = fmt.Sprintf("%s-again-%d", base, n)
	f.acid.called[s.ID] = base
	f.insert(append(list, s)...)
}

// chemistry tells the groups how it stands with the acid.
func (f *fold) chemistry() {
	if f.acid.plan == nil {
		return
	}
	in, ever := false, false
	for _, a := range f.acid.circuits {
		in, ever = in || a.In, ever || a.Ever
	}
	for i := range f.groups {
		g := &f.groups[i]
		g.Acid = in
		g.Proven = g.descaled && ever && !in
	}
	f.state.Errands = nil
	for _, e := range f.plan.Errands {
		_, done := f.ended[e.Last]
		out := Errand{e.Task, e.Title, Stopped}
		switch {
		case e.Task == care.Descale && in:
			out.Outcome = StoppedUnsafe
		case done, e.Task == care.Descale && ever:
			out.Outcome = Finished
		}
		f.state.Errands = append(f.state.Errands, out)
	}
}

// shown puts what a descale has come to into the state; a push that runs counts up
// to now.
func (f *fold) shown(s *State) {
	if f.acid.plan == nil {
		return
	}
	s.Acids, s.Pipes = slices.Clone(f.acid.circuits), f.acid.pipes.Clone()
	if f.mode == On && f.pushes() {
		g := *f
		g.acid.pipes, g.acid.circuits = s.Pipes, s.Acids
		g.poured(f.now.Sub(f.since) * f.speed)
		s.Pipes, s.Acids = g.acid.pipes, g.acid.circuits
	}
	if f.acid.until.IsZero() { // nothing is rinsed yet: it is as strong as it stands
		for i := range s.Acids {
			a := &s.Acids[i]
			a.start, a.kept, a.flushed, a.refills = s.Pipes.At(a.ID).Acid, 1, 0, 0
		}
	}
	s.Contact, s.Feed, s.Marks, s.Cut, s.Broke = f.contact(), f.acid.feed, f.acid.marks, f.acid.cut, f.acid.broke
}
