package job

import (
	"maps"
	"slices"
	"time"
)

// Work is who or what is busy with a step.
type Work string

// The kinds of work.
const (
	ByHand   Work = "hands"
	ByPump   Work = "pump"   // it pushes, with a hand on the switch
	ByItself Work = "stands" // it soaks, cools or heats: the hands are free
)

// Span is when a step of a plan goes on, from the start of it: one pair of hands goes from step to step, and
// what stands goes on beside them.
type Span struct {
	Step     Step
	Work     Work
	From, To time.Duration
	Waited   time.Duration // for which the hands have nothing else to do
}

// ofTheMachine are steps that are nobody's part: it is switched off, cools, is switched on, heats.
var ofTheMachine = []string{"off", "cool", "on", "heat"}

// OfTheMachine says whether a step is done to the machine for the sake of several parts.
func (s Span) OfTheMachine() bool { return slices.Contains(ofTheMachine, s.Step.ID) }

// Spans lays the steps of a plan out in time, as the hands are planned for.
func (p Plan) Spans() []Span {
	return spans(p.Steps(), p.pump(), 0, map[string]time.Duration{})
}

func (p Plan) pump() Pump { return Pump{Duty: p.Setups[0].Duty, Flow: p.Setups[0].Flow} }

// Left is how long steps of a plan take from now on, as the hands are planned for: the first of them began some time
// ago, and others were over before, as long ago as a negative time says.
func (p Plan) Left(steps []Step, began time.Duration, over map[string]time.Duration) time.Duration {
	if len(steps) == 0 {
		return 0
	}
	ended := maps.Clone(over)
	first := spans(steps[:1], p.pump(), -began, ended)[0]
	at := max(0, first.To) // it takes longer than planned, and may be over any moment
	ended[first.Step.ID] = at
	for _, x := range spans(steps[1:], p.pump(), at, ended) {
		at = max(at, x.To)
	}
	return at
}

func spans(steps []Step, pump Pump, at time.Duration, ended map[string]time.Duration) []Span {
	list := make([]Span, 0, len(steps))
	for _, s := range steps {
		x := Span{Step: s, Work: ByHand, From: at}
		switch b := s.Body.(type) {
		case Soak:
			x.Work = ByItself
			if len(s.After) > 0 {
				x.From = ended[s.After[0]]
			}
			x.To = x.From + b.For
			x.Waited = max(0, x.To-at)
		case Wait:
			x.Work, x.To, x.Waited = ByItself, at+b.For, b.For
		case Pulses:
			x.Work, x.To = ByPump, at+b.Spell(s.Takes, &pump)
			x.Waited = x.To - at - b.Length()
		default:
			x.To = at + s.Body.Spell(s.Takes, &pump)
			x.Waited = x.To - at - s.Takes
		}
		at = max(at, x.To)
		ended[s.ID] = at
		list = append(list, x)
	}
	return list
}
