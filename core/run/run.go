// Package run is the live run of a plan as a pure state machine:
//
//	state = fold(plan, accepted presses, now)
//
// Nothing in it ticks and nothing is kept that the fold does not give again.
// A press is what a person does on a device; time moves the pulses. The
// clock leads: a press begins a set of pulses, and every boundary after it is
// computed from that instant.
//
// It decides when detergent counts as out of a group. It does not plan
// (package job) and stores nothing.
package run

import (
	"math"
	"slices"
	"strings"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// PressKind is what was pressed.
type PressKind string

// The kinds of press.
const (
	Done       PressKind = "done"        // an act is done
	Begin      PressKind = "begin"       // begin the pulses, or go on after a hold
	Hold       PressKind = "hold"        // stop: the pulse is void and comes again
	NoPressure PressKind = "no_pressure" // the pulse built none: void, comes again
	Reading    PressKind = "reading"     // what the cup shows
	Graded     PressKind = "graded"      // how the first discharge looked
	Heard      PressKind = "heard"       // what happens when the pump runs
	Turn       PressKind = "turn"        // at one's own pace: the pump goes off, or on again
	Again      PressKind = "again"       // two more pulses, after the advice to stop and look
	Measured   PressKind = "measured"    // what a strip or a meter reads
	Cut        PressKind = "cut"         // the power is gone
	Back       PressKind = "back"        // the power is back
	Stop       PressKind = "stop"        // the run cannot go on
)

// Press is one press, as accepted. Segment is the one it was made in.
type Press struct {
	ID      string         `json:"id"`
	Device  string         `json:"device"`
	Step    string         `json:"step"`
	Segment int            `json:"segment"`
	Kind    PressKind      `json:"kind"`
	At      time.Time      `json:"at"`
	Cup     *backflush.Cup `json:"cup,omitempty"`
	// First, with Graded: the colour of the first discharge, or unseen.
	First backflush.Colour `json:"first,omitempty"`
	// Strip, with Measured.
	Strip *descale.Strip `json:"strip,omitempty"`
	// What, with Heard: flows, no_click or clicks, or an answer of the step's own.
	What string `json:"what,omitempty"`
	// Own, with Begin: the set goes at one's own pace, each boundary a press.
	Own bool `json:"own,omitempty"`
	// NothingIn, with Stop in the dose step: no powder went in.
	NothingIn bool   `json:"nothing_in,omitempty"`
	Note      string `json:"note,omitempty"`
}

// Check refuses a press that means nothing; the error is a *units.OutOfRange.
func (p Press) Check() error {
	switch p.Kind {
	case Done, Begin, Hold, NoPressure, Turn, Again, Stop, Cut, Back:
	case Measured:
		if p.Strip == nil {
			return &units.OutOfRange{Field: "strip", Value: "nothing", Allowed: "a pH, or none, with measured"}
		}
		return p.Strip.Check()
	case Reading:
		if p.Cup == nil {
			return &units.OutOfRange{Field: "cup", Value: "nothing", Allowed: "colour, foam and grains with a reading"}
		}
		return p.Cup.Check()
	case Graded:
		return backflush.CheckFirst(p.First)
	case Heard:
		if list := job.Answers(); !slices.Contains(list, p.What) {
			return &units.OutOfRange{Field: "what", Value: p.What, Allowed: strings.Join(list, ", ")}
		}
	default:
		return &units.OutOfRange{
			Field:   "kind",
			Value:   string(p.Kind),
			Allowed: "done, begin, hold, no_pressure, reading, graded, heard, turn, again, measured, cut, back, stop",
		}
	}
	return nil
}

// SegmentKind is what a stretch of a step is.
type SegmentKind string

// The kinds: Open waits for a press; Held does too, after a hold.
const (
	Open SegmentKind = "open"
	On   SegmentKind = "on"
	Off  SegmentKind = "off"
	Held SegmentKind = "held"
	Soak SegmentKind = "soak" // a soak, or the machine's own program, runs
	Rest SegmentKind = "rest" // the pump rests before it may run again
)

// Segment is one stretch of the current step. End is zero where it waits for
// a press.
type Segment struct {
	Index int
	Kind  SegmentKind
	Pulse int // 1 is the first; 0 outside pulses
	Start time.Time
	End   time.Time
}

// Outcome is how a run ended; empty while it goes on.
type Outcome string

// The outcomes.
const (
	Finished      Outcome = "done"
	Stopped       Outcome = "stopped"        // nothing harmful is in the group
	StoppedUnsafe Outcome = "stopped_unsafe" // detergent stays in the group
)

// Detergent is the hazard of one group as this run knows it.
type Detergent struct {
	In      bool // in the group now
	Ever    bool // this run put it in, or began with it
	Rinsed  int  // full rinse pulses counted
	Least   int  // before the cup may be judged
	Clear   bool // the last cup was clear, after enough pulses
	Flushed bool
}

// Group is what a run has come to in one group.
type Group struct {
	Number    int
	Detergent Detergent
	Soapy     int              // full detergent pulses
	First     backflush.Colour // of the first discharge; empty where nobody was asked
	Cups      []backflush.Cup
	Through   Water // what ran through it
	Ended     bool  // its last step is done
	Acid      bool  // acid is in the machine
	Proven    bool  // it is being descaled, and the rinse of every circuit is proven
}

// Outcome is how it ends, or would end now, for this group.
func (g Group) Outcome() Outcome {
	switch {
	case g.Detergent.In, g.Acid:
		return StoppedUnsafe
	case g.Ended, g.Detergent.Ever, g.Proven: // what may be left is one drink to pour away
		return Finished
	}
	return Stopped
}

// Line is one step as listed: gone, now or ahead; a soak that runs beside what
// is done now is beside.
type Line struct {
	ID, Title, Note string
	Group           int
	Status          string // gone, now, beside, ahead
}

// Beside is a soak that runs while the hands are in another group.
type Beside struct {
	Step       job.Step
	Start, End time.Time
}

// State is the run at one instant. What is embedded is of the group of the
// present step.
type State struct {
	Group
	Groups   []Group // in the order of the plan
	Step     job.Step
	Segment  Segment
	Schedule []Segment // from the present one to the end of the step
	Allowed  []PressKind
	Lines    []Line
	Soaks    []Beside
	Outcome  Outcome
	EndedAt  time.Time
	Finding  *reason.Finding
	// EmptyTray: the tray has no room for what comes; it is to be emptied
	// before the next press that lets water run.
	EmptyTray bool
	// FillTank: the tank would run dry in what comes; it is to be filled before
	// the next press that lets water run.
	FillTank bool
	Tray     Water // since it was emptied
	Used     Water // in all
	Drawn    Water // from the tank since it was full
	// Ran is how long the pump has run on top of what its rests made good.
	Ran time.Duration
	// Of a descale: its circuits, where the liquid is, how long acid has stood, what
	// the spent solution said, the errands, and whether the power is cut.
	Acids   []Acid
	Pipes   descale.Pipes
	Contact time.Duration
	Feed    *descale.Strip
	Marks   []string
	Errands []Errand
	Cut     bool
	// Broke is set where a step did to the liquids what must not be: a fault of the
	// plan.
	Broke error
}

// In says whether detergent is in any group, or acid in the machine.
func (s State) In() bool {
	return slices.ContainsFunc(s.Groups, func(g Group) bool { return g.Detergent.In || g.Acid })
}

// Water is water counted by how it came: pulses, void ones too, and flushes.
type Water struct {
	Pulses  int
	Flushed units.Volume
}

// Volume is the water in all, at so much a pulse.
func (w Water) Volume(vents units.Volume) units.Volume {
	return units.Volume(w.Pulses)*vents + w.Flushed
}

// Worked is the volume with how it was worked out.
func (w Water) Worked(name string, vents units.Volume) reason.Worked {
	return reason.Worked{
		Name:        name,
		Value:       float64(w.Volume(vents)),
		Unit:        "mL",
		Formula:     "pulses × vents + flushed",
		Inputs:      w.inputs(vents),
		Source:      reason.Ours,
		WouldChange: []string{"a group that vents more or less", "emptying the tray"},
	}.Exact()
}

// Left is what a full tank of this size has left.
func (w Water) Left(tank, vents units.Volume) reason.Worked {
	return reason.Worked{
		Name:    "water left in the tank",
		Value:   math.Max(0, float64(tank-w.Volume(vents))),
		Unit:    "mL",
		Formula: "max(0, tank − pulses × vents − flushed)",
		Inputs: append(
			w.inputs(vents),
			reason.Input{
				Symbol: "tank",
				Label:  "a full tank, as the run began or as you said since",
				Value:  float64(tank),
				Unit:   "mL",
				Source: reason.Ours,
			},
		),
		Source:      reason.Ours,
		WouldChange: []string{"a tank that was not full", "a group that vents more or less"},
	}.Exact()
}

func (w Water) inputs(vents units.Volume) []reason.Input {
	return []reason.Input{
		{
			Symbol: "pulses",
			Label:  "pulses so far, void ones too",
			Value:  float64(w.Pulses),
			Unit:   "pulses",
			Source: reason.Log,
		},
		{Symbol: "vents", Label: "vents a pulse", Value: float64(vents), Unit: "mL", Source: reason.Ours},
		{Symbol: "flushed", Label: "flushed so far", Value: float64(w.Flushed), Unit: "mL", Source: reason.Log},
	}
}
