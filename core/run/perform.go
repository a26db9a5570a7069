package run

import (
	"math"
	"strings"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/plant"
)

// Play is a plan carried out by a pair of hands, on the model of the machine.
type Play struct {
	f       *fold
	Plant   *plant.Plant
	Steps   []string // as they were gone through
	Took    time.Duration
	Outcome Outcome
	stopped bool // somebody had to stop it
	// Watch is told of each step as it begins; nil for nobody.
	Watch func(p *Play, step job.Step)
}

// epoch is when a play begins; no rule goes by it.
var epoch = time.Unix(0, 0).UTC()

// longestPlay is the most steps that a play goes through.
const longestPlay = 3000

// Perform carries a plan out to its end, or to where it halts. The error is a
// *job.Unsafe where the plant found what must never be.
func Perform(plan job.Plan, h Hands, watch ...func(*Play, job.Step)) (*Play, error) {
	f := begin(plan, epoch, 1)
	f.hands = &h
	if f.model == nil {
		f.model = plan.Begins()
	}
	p := &Play{f: f, Plant: f.model}
	if len(watch) > 0 {
		p.Watch = watch[0]
	}
	for n := 0; !f.over && n < longestPlay; n++ {
		s := f.step()
		p.Steps = append(p.Steps, s.ID)
		if p.Watch != nil {
			p.Watch(p, s)
		}
		h.draw()
		if h.RinseNow[s.ID] && f.mayRinseNow() {
			p.press(RinseNow, nil)
			h.RinseNow = nil
			if p.Plant != nil {
				p.Plant.Unsoil()
			}
			continue
		}
		if !p.carryOut(s, &h) {
			break
		}
		if err := p.broken(&h, s.ID); err != nil {
			return p, err
		}
	}
	p.Took, p.Outcome = f.now.Sub(f.started), f.state.Outcome
	if f.over && !p.stopped && p.Plant != nil {
		p.Plant.WaitTo(f.at(f.now))
		p.Plant.End(p.f.plan.StandDown)
	}
	last := ""
	if len(p.Steps) > 0 {
		last = p.Steps[len(p.Steps)-1]
	}
	return p, p.broken(&h, last)
}

func (p *Play) broken(h *Hands, step string) error {
	if p.Plant == nil || len(p.Plant.Broken) == 0 {
		return nil
	}
	return &job.Unsafe{Violation: p.Plant.Broken[0], Hands: h.What, Step: step, Task: p.f.plan.Leads().Task}
}

// press presses something in the present step.
func (p *Play) press(kind PressKind, change func(*Press)) {
	f := p.f
	q := Press{Step: f.step().ID, Segment: f.segment, Kind: kind, At: f.now}
	if change != nil {
		change(&q)
	}
	f.apply(q)
}

// carryOut takes one step to its end; false where it halts.
func (p *Play) carryOut(s job.Step, h *Hands) bool {
	f := p.f
	here := func() bool { return !f.over && f.step().ID == s.ID }
	if soak, ok := job.BodyOf[job.Soak](s); ok {
		p.runOn(here)
		f.advance(f.now.Add(h.overrun(soak.For)))
		return true
	}
	f.advance(f.now.Add(h.takes(s)))
	switch b := s.Body.(type) {
	case job.Act:
		p.press(Done, nil)
	case job.Push, job.Sips, job.Pulses:
		p.pump(s, h, here)
	case job.Wait:
		p.press(Begin, nil)
		if end, runs := f.present.ends(); runs && here() { // somebody comes a little after it is over
			f.advance(end.Add(-time.Millisecond))
			f.now = end.Add(h.overrun(b.For))
			f.present.pass()
		}
	default:
		return p.answer(s, h, here)
	}
	return true
}

// pump lets the pump run by the clock, where water comes.
func (p *Play) pump(s job.Step, h *Hands, here func() bool) {
	f := p.f
	p.press(Begin, nil)
	if h.NoPressure[s.ID] && here() {
		f.advance(f.now.Add(3 * time.Second))
		p.press(NoPressure, nil)
		f.advance(f.now.Add(h.takes(s) + time.Minute))
		p.press(Begin, nil)
	}
	if h.NothingCame[s.ID] && here() {
		if p.nothingComes(s, h); h.Twice {
			return
		}
	}
	p.runOn(here)
}

// nothingComes is a pulse after which nothing comes at the drain, and a second try: it comes,
// or the run is stopped.
func (p *Play) nothingComes(s job.Step, h *Hands) {
	f := p.f
	set, _ := job.BodyOf[job.Pulses](s)
	f.advance(f.now.Add(set.On + time.Second))
	p.press(NothingCame, nil)
	f.advance(f.now.Add(h.takes(s) + time.Minute))
	if h.Twice {
		p.press(NothingCame, nil)
		p.press(Begin, nil)
		f.advance(f.now.Add(set.On + time.Second))
		p.press(NothingCame, nil)
		p.press(Stop, nil)
		p.stopped = true
		return
	}
	p.press(Begin, nil)
	f.advance(f.now.Add(set.Length()))
	p.press(Opened, nil)
}

// answer says what is asked; false where the answer halts the run.
func (p *Play) answer(s job.Step, h *Hands, here func() bool) bool {
	f := p.f
	switch b := s.Body.(type) {
	case job.Choose:
		answer := b.Ways[0].Answer
		if own, is := h.Answers[s.ID]; is {
			answer = own
		}
		before := f.i
		p.press(Heard, func(q *Press) { q.Answer = answer })
		return f.over || f.i != before || !here()
	case job.Measure:
		strip := p.reads(s.ID, b, h)
		p.press(Measured, func(q *Press) { q.Strip = &strip })
		if here() && f.mode == Held {
			p.press(Again, nil)
		}
	case job.Look:
		if b.At == job.FirstWater {
			if h.NothingCame[s.ID] {
				p.press(NothingCame, nil)
				f.advance(f.now.Add(time.Minute))
				p.press(Opened, nil)
				break
			}
			p.press(Graded, func(q *Press) { q.First = backflush.ColourBrown })
			break
		}
		clear := backflush.Cup{Colour: backflush.ColourClear, Foam: backflush.FoamNone, Grains: backflush.GrainsNone}
		p.press(Reading, func(q *Press) { q.Cup = &clear })
	}
	return true
}

// runOn lets the clock lead until the step is over.
func (p *Play) runOn(here func() bool) {
	for n := 0; here() && n < 500; n++ {
		end, runs := p.f.present.ends()
		if !runs {
			return
		}
		p.f.advance(end)
	}
}

// feedReads is what the clean water reads in a play.
const feedReads = 7.5

// reads is what a meter reads in a play: what the plant holds.
func (p *Play) reads(step string, b job.Measure, h *Hands) descale.Strip {
	s := descale.Strip{PH: feedReads, Meter: true}
	switch b.Reads {
	case job.Spent:
		return descale.Strip{None: true}
	case job.Feed:
		return s
	}
	i := p.Plant.Spec.Find(b.Circuit.String())
	g := p.Plant.Spec.FindOpening(b.Outlet)
	sour := p.Plant.V[i].Acid
	if g >= 0 && p.Plant.Spec.Openings[g].Kind != plant.Drain {
		sour = math.Max(sour, p.Plant.Gates[g].Acid)
	}
	if sour > p.Plant.Spec.Solution.Limit || h.Differ[strings.Split(step, "-more-")[0]] &&
		!strings.Contains(step, "-more-") {
		s.PH = feedReads - 2
	}
	return s
}

// Now is how long a play has gone on.
func (p *Play) Now() time.Duration { return p.f.now.Sub(p.f.started) }
