package job

import (
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
	return spans(p.Steps(), Pump{Duty: p.Setups[0].Duty, Flow: p.Setups[0].Flow})
}

func spans(steps []Step, pump Pump) []Span {
	list := make([]Span, 0, len(steps))
	at, ended := time.Duration(0), map[string]time.Duration{}
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
