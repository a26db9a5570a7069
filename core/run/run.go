// Package run is the live run of a plan as a pure state machine:
//
//	state = fold(plan, accepted presses, now)
//
// Nothing in it ticks and nothing is kept that the fold does not give again.
// A press is what a person does on a device; time moves the pulses. The
// clock leads: a press begins a set of pulses, and every boundary after it is
// computed from that instant. The order of presses is the order in which they
// were accepted; a time that goes back stands still.
//
// The fold (fold.go) keeps order and time. What a step shows, what may be pressed in
// it, what time does to it and what it books is its kind's, a file each. It decides
// when a chemical counts as out of a part. It does not plan (package job) and stores
// nothing.
package run

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/descale"
	"freshanvil/core/inspect"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/units"
)

// PressKind is what was pressed.
type PressKind string

// The kinds of press.
const (
	Done        PressKind = "done"         // an act is done
	Begin       PressKind = "begin"        // begin the pulses, or go on after a hold
	Hold        PressKind = "hold"         // stop: the pulse is void and comes again
	NoPressure  PressKind = "no_pressure"  // the pulse built none: void, comes again
	NothingCame PressKind = "nothing_came" // nothing came out at the drain: the head may be under pressure
	Opened      PressKind = "opened"       // the head has opened after all
	Reading     PressKind = "reading"      // what the cup shows
	Graded      PressKind = "graded"       // how the first dirty water looked
	Heard       PressKind = "heard"        // which of several it is
	Turn        PressKind = "turn"         // at one's own pace: the pump goes off, or on again
	Mended      PressKind = "mended"       // after no pressure twice: what was found, in Answer
	Again       PressKind = "again"        // two more pulses, after the advice to stop and look
	Measured    PressKind = "measured"     // what a strip or a meter reads
	Cut         PressKind = "cut"          // the power is gone
	Back        PressKind = "back"         // the power is back
	Stop        PressKind = "stop"         // the run cannot go on
	RinseNow    PressKind = "rinse_now"    // no more detergent: rinse what is in, then the run is over
	Away        PressKind = "away"         // somebody is called away, for so many minutes
	Returned    PressKind = "returned"     // and is back
	// Reorder is no press of anybody's: what is left goes on in another order, as the server found it.
	Reorder PressKind = "reorder"
)

// Press is one press, as accepted. Segment is the one it was made in.
type Press struct {
	ID      string
	Device  string
	Step    string
	Segment int
	Kind    PressKind
	At      time.Time
	Cup     *backflush.Cup   // with Reading
	First   backflush.Colour // with Graded: the colour of the first dirty water, or unseen
	Strip   *descale.Strip   // with Measured
	Answer  job.Answer       // with Heard
	Own     bool             // with Begin: at one's own pace, each boundary a press
	// Mixed, with Done where a batch was mixed: how much of the product really went in,
	// in the unit of the plan; nil for as much as planned.
	Mixed *float64
	// NothingIn, with Stop in the dose step: no powder went in.
	NothingIn bool
	Note      string
	Minutes   int      // with Away: 5, 15 or 30
	Order     []string // with Reorder: the steps that are left
}

// mostMixed is the most of a product that one batch is taken to hold, in its unit.
const mostMixed = 20000.0

// checks says of each kind what must come with it; nil is nothing.
var checks = map[PressKind]func(Press) error{
	Begin: nil, Hold: nil, NoPressure: nil, NothingCame: nil, Opened: nil, Turn: nil, Again: nil, Stop: nil, Cut: nil,
	Back: nil, RinseNow: nil, Returned: nil,
	Away: func(p Press) error {
		if !slices.Contains(absences, p.Minutes) {
			return &units.OutOfRange{Field: "minutes", Value: fmt.Sprint(p.Minutes), Allowed: "5, 15 or 30"}
		}
		return nil
	},
	Done: func(p Press) error {
		if p.Mixed != nil && !(*p.Mixed >= 0 && *p.Mixed <= mostMixed) {
			return &units.OutOfRange{
				Field: "mixed", Value: fmt.Sprint(*p.Mixed), Allowed: fmt.Sprintf("0 to %.0f", mostMixed),
			}
		}
		return nil
	},
	Measured: func(p Press) error {
		if p.Strip == nil {
			return &units.OutOfRange{Field: "strip", Value: "nothing", Allowed: "a pH, or none, with measured"}
		}
		return p.Strip.Check()
	},
	Reading: func(p Press) error {
		if p.Cup == nil {
			return &units.OutOfRange{
				Field: "cup", Value: "nothing", Allowed: "colour, foam and grains with a reading",
			}
		}
		return p.Cup.Check()
	},
	Graded: func(p Press) error { return backflush.CheckFirst(p.First) },
	Mended: func(p Press) error {
		if slices.Contains(job.Mends(), p.Answer) {
			return nil
		}
		return &units.OutOfRange{Field: "what", Value: string(p.Answer), Allowed: "water_was_missing, blind_was_wrong or " +
			"handle_was_loose"}
	},
	Heard: func(p Press) error {
		list := append(job.Answers(), job.Found()...)
		if slices.Contains(list, p.Answer) {
			return nil
		}
		names := make([]string, len(list))
		for i, a := range list {
			names[i] = string(a)
		}
		return &units.OutOfRange{Field: "what", Value: string(p.Answer), Allowed: strings.Join(names, ", ")}
	},
}

// Check refuses a press that means nothing; the error is a *units.OutOfRange.
func (p Press) Check() error {
	check, known := checks[p.Kind]
	if !known {
		var names []string
		for kind := range checks {
			names = append(names, string(kind))
		}
		slices.Sort(names)
		return &units.OutOfRange{Field: "kind", Value: string(p.Kind), Allowed: strings.Join(names, ", ")}
	}
	if check == nil {
		return nil
	}
	return check(p)
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

// Outcome is how a run, or an activity of it, ended; empty while the run goes on.
type Outcome string

// The outcomes.
const (
	Finished      Outcome = "done"
	Stopped       Outcome = "stopped"        // nothing harmful is in the machine
	StoppedUnsafe Outcome = "stopped_unsafe" // a chemical stays in it
)

// Activity is how one activity of the plan ended, or would end now.
type Activity struct {
	ID      string
	Task    task.ID
	Part    machine.Part
	Title   string
	Outcome Outcome
	Drawn   units.Volume // water that left the machine by it, beside what ran through a group
	Used    bool         // the detergent that it takes beside a group was mixed
}

// Line is one step as listed: gone, now or ahead; a soak that runs beside what
// is done now is beside.
type Line struct {
	ID, Title, Note string
	Part            machine.Part
	Status          string // gone, now, beside, ahead
}

// Beside is a soak that runs while the hands are elsewhere.
type Beside struct {
	Step       job.Step
	Start, End time.Time
}

// State is the run at one instant. What is embedded is of the group of the
// present step; it is zero where the step is of no group that is washed.
type State struct {
	Group
	Groups     []Group // that are washed or rinsed, in the order of the plan
	Activities []Activity
	Step       job.Step
	Segment    Segment
	Schedule   []Segment // from the present one to the end of the step
	Allowed    []PressKind
	Lines      []Line
	Soaks      []Beside
	Outcome    Outcome
	EndedAt    time.Time
	// LikelyEnd is when it is over if the hands go on as planned for; zero where it is over.
	LikelyEnd time.Time
	Finding   *reason.Finding
	// EmptyTray: the tray has no room for what comes; it is to be emptied
	// before the next press that lets water run.
	EmptyTray bool
	// FillTank: the tank would run dry in what comes; it is to be filled before
	// the next press that lets water run.
	FillTank bool
	Stock    // of the machine of the present step
	// Ran is how long the pump has run on top of what its rests made good.
	Ran time.Duration
	// Descale is set where acid is brought in or taken out.
	Descale *Descale
	Cut     bool // the power is gone
	Absence *Absence
	// Seen is what was looked at and found, in its order.
	Seen []inspect.Found
	// Absences are what there is to do before somebody goes, for each length.
	Absences []Leave
	// Broke is set where a step did to the liquids what must not be: a fault of the
	// plan.
	Broke error
}

// In says whether detergent is in any group, or acid in any circuit.
func (s State) In() bool {
	return slices.ContainsFunc(s.Groups, func(g Group) bool { return g.Detergent.In }) ||
		s.Descale != nil && s.Descale.In()
}

// Contents is what the run knows to be in the machine.
func (s State) Contents() (in job.Contents) {
	for _, g := range s.Groups {
		if g.Detergent.In {
			in.Detergent = append(in.Detergent, g.Part)
		}
	}
	if s.Descale == nil {
		return in
	}
	for _, a := range s.Descale.Acids {
		if a.In {
			in.Acid = append(in.Acid, a.Part)
		}
	}
	return in
}

// Stock is the water of one machine, as the run counts it.
type Stock struct {
	Tray  Water // since it was emptied
	Used  Water // in all
	Drawn Water // from the tank since it was full
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
		Name: name, Value: float64(w.Volume(vents)), Unit: "mL", Formula: "pulses × vents + flushed",
		Inputs: w.inputs(vents), Source: reason.Ours,
		WouldChange: []string{"a group that vents more or less", "emptying the tray"},
	}.Exact()
}

// Left is what a full tank of this size has left.
func (w Water) Left(tank, vents units.Volume) reason.Worked {
	return reason.Worked{
		Name: "water left in the tank", Value: math.Max(0, float64(tank-w.Volume(vents))), Unit: "mL",
		Formula: "max(0, tank − pulses × vents − flushed)",
		Inputs: append(w.inputs(vents), reason.Input{
			Symbol: "tank", Label: "a full tank, as the run began or as you said since", Value: float64(tank), Unit: "mL",
			Source: reason.Ours,
		}),
		Source: reason.Ours, WouldChange: []string{"a tank that was not full", "a group that vents more or less"},
	}.Exact()
}

func (w Water) inputs(vents units.Volume) []reason.Input {
	return []reason.Input{
		{Symbol: "pulses", Label: "pulses so far, void ones too", Value: float64(w.Pulses), Unit: "pulses",
			Source: reason.Log},
		{Symbol: "vents", Label: "vents a pulse", Value: float64(vents), Unit: "mL", Source: reason.Ours},
		{Symbol: "flushed", Label: "flushed so far", Value: float64(w.Flushed), Unit: "mL", Source: reason.Log},
	}
}
