package job

import (
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// Lane is who or what a step keeps busy while it goes on.
type Lane string

// Hands is the lane of the one who does the work. What stands by itself keeps a
// lane of its own busy and leaves the hands free.
const (
	Hands        Lane = "hands"
	SoftenerLane Lane = "softener"
	FilterLane   Lane = "filter"
)

func groupLane(part machine.Part) Lane { return Lane(part.String()) }

// StepKind is how a step is carried out.
type StepKind string

// The kinds. Each has a file here, with what it is made of, and one in package run,
// with what may be pressed in it and what time does to it.
const (
	ActKind     StepKind = "act"     // somebody does it, and presses
	PulsesKind  StepKind = "pulses"  // the pump on and off by the clock, once begun
	PushKind    StepKind = "push"    // the pump runs until so much is through
	SipsKind    StepKind = "sips"    // a little pushed in, left to stand, again, by the clock
	SoakKind    StepKind = "soak"    // stands by itself, from the end of the step before it
	WaitKind    StepKind = "wait"    // begun by a press, then time does it
	LookKind    StepKind = "look"    // asks what is seen
	ChooseKind  StepKind = "choose"  // asks which of several it is
	MeasureKind StepKind = "measure" // asks what a strip or a meter reads
)

// Body is what a kind of step is made of, beside what every step has.
type Body interface {
	Kind() StepKind
	// Spell is how long it keeps its lane, the rests of the pump included, where the
	// hands take takes for it.
	Spell(takes time.Duration, pump *Pump) time.Duration
	// Water is what runs through the group into the tray, where a pulse vents so much.
	Water(vents units.Volume) units.Volume
}

// Effect is what a step does to the chemical in its part.
type Effect string

// The effects. Clears lets clean water through before any powder; Doses puts detergent in;
// Stands lets it stand or work; Empties takes
// what is left out of the blind; Rinses counts towards getting it out of the group;
// Proves is the flush after a clear cup, which ends it; Pours makes a drink.
const (
	NoEffect Effect = ""
	Clears   Effect = "clears"
	Doses    Effect = "doses"
	Stands   Effect = "stands"
	Empties  Effect = "empties"
	Rinses   Effect = "rinses"
	Proves   Effect = "proves"
	Pours    Effect = "pours"
)

// Phase is the part of a descale that a step belongs to.
type Phase string

// The phases, in their order.
const (
	Before  Phase = "before"
	Acidic  Phase = "acid"
	Rinsing Phase = "rinse"
	Proving Phase = "proof"
	After   Phase = "after"
)

// Step is one thing to do to one part.
type Step struct {
	ID       string
	Activity string // the activity it belongs to
	Lane     Lane
	After    []string // steps that must be over
	Part     machine.Part
	Title    string   // the line in the list
	Head     string   // the words read from across the room
	Do       []string // what to do, in order
	Button   string   // what pressing says
	Cautions []reason.Caution
	Effect   Effect
	Takes    time.Duration // estimate for the hands, without what the body takes
	Phase    Phase         // of a descale; empty in everything else
	Round    int           // of the soaks of a descale; 0 outside them
	Body     Body
	Picture  Picture // a drawing beside it; empty for none
	// Acts is what the hands do to the machine in it, in order, before the body's own time:
	// what Do says in words. It is empty outside descales.
	Acts []plant.Action
}

// Picture names a drawing of ours, shown where a hand turns or presses something.
type Picture string

// The drawings.
const (
	ScreenOut    Picture = "screen_out"    // where to lever, which screw
	SealSection  Picture = "seal_section"  // shims, seal, screen: which side up
	BathLevel    Picture = "bath_level"    // how far a handle stands in the bath
	CamSection   Picture = "cam_section"   // the cam and its cap
	JointSection Picture = "joint_section" // ball, ring, spring, nut
)

// Kind is how it is carried out.
func (s Step) Kind() StepKind { return s.Body.Kind() }

// BodyOf gives the body of a step where it is of that type.
func BodyOf[B Body](s Step) (B, bool) {
	b, ok := s.Body.(B)
	return b, ok
}

// Is says whether the body of a step is of that type.
func Is[B Body](s Step) bool {
	_, ok := s.Body.(B)
	return ok
}

// Pump follows how warm a pump gets while a plan is laid out.
type Pump struct {
	Duty machine.Duty
	Flow units.Flow // through an open group
	Warm time.Duration
}

// Run lets it run so long, after the rest it needs first, and says how long both take.
func (p *Pump) Run(on time.Duration) time.Duration {
	rest := p.Duty.Rest(p.Warm, on)
	p.Warm = p.Duty.Ran(p.Duty.Cooled(p.Warm, rest), on)
	return rest + on
}

// Idle lets it cool.
func (p *Pump) Idle(long time.Duration) { p.Warm = p.Duty.Cooled(p.Warm, long) }

// Flush is how long it runs for so much water through an open group.
func (p *Pump) Flush(v units.Volume) time.Duration {
	if p.Flow == 0 {
		return 0
	}
	return time.Duration(p.Flow.Takes(v) * float64(time.Second))
}
