// Package run is the live run of a plan as a pure state machine:
//
//	state = fold(plan, accepted presses, now)
//
// Nothing in it ticks and nothing is kept that the fold does not give again.
// A press is what a person does on a device; time moves the pulses. The
// clock leads: a press begins a set of pulses, and every boundary after it is
// computed from that instant.
//
// It decides when detergent counts as out of the group. It does not plan
// (package job) and stores nothing.
package run

import (
	"fmt"
	"math"
	"time"

	"freshanvil/core/backflush"
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
	// What, with Heard: flows, no_click or clicks.
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
	case Done, Begin, Hold, NoPressure, Turn, Again, Stop:
	case Reading:
		if p.Cup == nil {
			return &units.OutOfRange{Field: "cup", Value: "nothing", Allowed: "colour, foam and grains with a reading"}
		}
		return p.Cup.Check()
	case Graded:
		return backflush.CheckFirst(p.First)
	case Heard:
		if p.What != job.Flows && p.What != job.NoClick && p.What != job.Clicks {
			return &units.OutOfRange{Field: "what", Value: p.What, Allowed: "flows, no_click, clicks"}
		}
	default:
		return &units.OutOfRange{Field: "kind", Value: string(p.Kind), Allowed: "done, begin, hold, no_pressure, reading, graded, heard, turn, again, stop"}
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

// Detergent is the hazard of the group as this run knows it.
type Detergent struct {
	In      bool // in the group now
	Ever    bool // this run put it in, or began with it
	Rinsed  int  // full rinse pulses counted
	Least   int  // before the cup may be judged
	Clear   bool // the last cup was clear, after enough pulses
	Flushed bool
}

// Line is one step as listed: gone, now or ahead.
type Line struct {
	ID, Title, Note string
	Status          string // gone, now, ahead
}

// State is the run at one instant.
type State struct {
	Step     job.Step
	Segment  Segment
	Schedule []Segment // from the present one to the end of the step
	Allowed  []PressKind
	Lines    []Line
	Outcome  Outcome
	EndedAt  time.Time

	Detergent Detergent
	Soapy     int              // full detergent pulses
	First     backflush.Colour // of the first discharge; empty where nobody was asked
	Cups      []backflush.Cup
	Finding   *reason.Finding
	// EmptyTray: the tray has no room for what comes; it is to be emptied
	// before the next press that lets water run.
	EmptyTray bool
	// FillTank: the tank would run dry in what comes; it is to be filled before
	// the next press that lets water run.
	FillTank bool
	Tray     Water // since it was emptied
	Used     Water // in all
	Drawn    Water // from the tank since it was full
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
	return reason.Worked{Name: name, Value: float64(w.Volume(vents)), Unit: "mL", Formula: "pulses × vents + flushed", Inputs: w.inputs(vents), Source: reason.Ours,
		WouldChange: []string{"a group that vents more or less", "emptying the tray"}}.Exact()
}

// Left is what a full tank of this size has left.
func (w Water) Left(tank, vents units.Volume) reason.Worked {
	return reason.Worked{Name: "water left in the tank", Value: math.Max(0, float64(tank-w.Volume(vents))), Unit: "mL", Formula: "max(0, tank − pulses × vents − flushed)",
		Inputs: append(w.inputs(vents), reason.Input{Symbol: "tank", Label: "a full tank, as the run began or as you said since", Value: float64(tank), Unit: "mL", Source: reason.Ours}),
		Source: reason.Ours, WouldChange: []string{"a tank that was not full", "a group that vents more or less"}}.Exact()
}

func (w Water) inputs(vents units.Volume) []reason.Input {
	return []reason.Input{
		{Symbol: "pulses", Label: "pulses so far, void ones too", Value: float64(w.Pulses), Unit: "pulses", Source: reason.Log},
		{Symbol: "vents", Label: "vents a pulse", Value: float64(vents), Unit: "mL", Source: reason.Ours},
		{Symbol: "flushed", Label: "flushed so far", Value: float64(w.Flushed), Unit: "mL", Source: reason.Log},
	}
}

// fold is the machine that replays a run.
type fold struct {
	plan    job.Plan
	speed   time.Duration
	now     time.Time
	steps   []job.Step
	i       int
	segment int
	mode    SegmentKind
	since   time.Time // start of the present segment, or of the pulse while it runs
	pulse   int       // full pulses of this step
	first   int       // segment index of the running pulse's ON
	begun   int       // segment index of the first ON since the last begin
	extra   int       // sets of pulses added
	pairs   int       // unclear pairs in a row
	dry     int       // pulses without pressure in a row
	own     bool      // the running set goes at one's own pace
	turned  time.Time // when the pump went off, at one's own pace
	brims   int       // tries to dissolve what has dried
	ended   bool
	state   State
}

// Fold replays the accepted presses, in their order, up to now. Speed is run
// seconds a wall second, 1 or more.
func Fold(plan job.Plan, started time.Time, speed int, presses []Press, now time.Time) State {
	f := &fold{plan: plan, speed: time.Duration(max(1, speed)), now: started, steps: plan.Steps[:len(plan.Steps):len(plan.Steps)], mode: Open, since: started}
	f.state.Detergent = Detergent{In: plan.Dirty, Ever: plan.Dirty, Least: plan.Rinse.Least}
	for _, p := range presses {
		if p.At.After(now) {
			break
		}
		f.advance(p.At)
		f.apply(p)
	}
	f.advance(now)
	return f.view()
}

func (f *fold) step() job.Step { return f.steps[f.i] }

func (f *fold) on() time.Duration  { return f.step().Pulses.On / f.speed }
func (f *fold) off() time.Duration { return f.step().Pulses.Off / f.speed }

// advance lets time pass to t: pulses run out, and with the last the step.
func (f *fold) advance(t time.Time) {
	if t.Before(f.now) {
		return // a press that claims to be older than one accepted before it
	}
	for !f.ended && (f.mode == Soak || !f.own && (f.mode == On || f.mode == Off)) {
		end := f.ends()
		if end.After(t) {
			break
		}
		f.now = end
		f.segment++
		switch f.mode {
		case On:
			f.mode = Off
		case Off:
			f.full()
		default:
			f.waited()
		}
	}
	f.now = t
}

// ends is when the running segment is over.
func (f *fold) ends() time.Time {
	switch f.mode {
	case On:
		return f.since.Add(f.on())
	case Off:
		return f.since.Add(f.on() + f.off())
	}
	return f.since.Add(f.step().Waits / f.speed)
}

// waited ends a soak or a program; what ran into the tray is counted then.
func (f *fold) waited() {
	f.state.Soapy += f.step().Soapy
	f.flowed(f.step().Water)
	f.next()
}

func (f *fold) flowed(v units.Volume) {
	f.state.Tray.Flushed += v
	f.state.Used.Flushed += v
	f.state.Drawn.Flushed += v
}

// full counts a pulse that had its on and its off time.
func (f *fold) full() {
	f.vent()
	f.pulse++
	f.dry = 0
	if f.step().Hazard == job.Rinses {
		f.state.Detergent.Rinsed++
	} else {
		f.state.Soapy++
	}
	if f.pulse < f.step().Pulses.Count {
		f.mode, f.since, f.first = On, f.now, f.segment
		return
	}
	f.next()
}

func (f *fold) vent() {
	f.state.Tray.Pulses++
	f.state.Used.Pulses++
	f.state.Drawn.Pulses++
}

func (f *fold) next() {
	f.i++
	f.segment, f.mode, f.since, f.pulse = 0, Open, f.now, 0
	switch {
	case f.i == len(f.steps):
		f.end(Finished)
	case f.step().AtOnce:
		f.mode = Soak
	}
}

func (f *fold) end(o Outcome) {
	if f.mode == On || f.mode == Off {
		f.vent()
	}
	f.ended, f.mode = true, Open
	f.i = min(f.i, len(f.steps)-1)
	f.state.Outcome, f.state.EndedAt = o, f.now
}

// apply takes one press. One that was made for a state already gone does
// nothing.
func (f *fold) apply(p Press) {
	if f.ended || p.Step != f.step().ID {
		return
	}
	switch p.Kind {
	case Stop:
		f.stop(p)
	case Hold, NoPressure:
		f.void(p)
	case Begin:
		if f.step().Kind == job.Wait && f.mode == Open {
			f.tray()
			f.segment++
			f.mode, f.since = Soak, f.now
			f.state.Finding = nil
		}
		if f.step().Kind == job.Pulsed && (f.mode == Open || f.mode == Held) && p.Segment == f.segment {
			f.tray()
			f.segment++
			f.mode, f.since, f.first, f.begun, f.own = On, f.now, f.segment, f.segment, p.Own
			f.state.Finding = nil
		}
	case Turn:
		if f.own && (f.mode == On || f.mode == Off) && p.Segment == f.segment {
			f.turn()
		}
	case Done:
		if f.step().Kind == job.Act {
			f.act()
		} else if f.mode == Soak && f.step().Early {
			f.waited()
		}
	case Graded:
		if f.step().Kind == job.Grade && backflush.CheckFirst(p.First) == nil {
			f.state.First = p.First
			f.next()
		}
	case Heard:
		if f.step().Kind == job.Choose && f.mode == Open && p.Check() == nil {
			f.heard(p.What)
		}
	case Reading:
		if f.step().Kind == job.Look && f.mode == Open && p.Cup != nil && p.Cup.Check() == nil {
			f.look(*p.Cup)
		}
	case Again:
		if f.step().Kind == job.Look && f.mode == Held {
			f.pairs = 0
			f.more(f.plan.More.Count)
		}
	}
}

func (f *fold) act() {
	s := f.step()
	d := &f.state.Detergent
	switch s.Hazard {
	case job.Sets:
		d.In, d.Ever, d.Rinsed, d.Clear, d.Flushed = true, true, 0, false, false
		if f.plan.Dirty { // a pinch on top of all that was left in: a pulse more than halves it
			d.Least = f.plan.Rinse.Least + 1
		}
	case job.Proves:
		d.Flushed = true
		if d.Rinsed >= d.Least && d.Clear {
			d.In = false
		}
	}
	if s.Water > 0 {
		f.tray()
		f.flowed(s.Water)
	}
	f.state.Finding = nil
	f.next()
}

// turn is a boundary at one's own pace, never quicker than the method's: shorter
// than it gives the on or the off part, the pulse counts for nothing and is held,
// to come again.
func (f *fold) turn() {
	f.segment++
	part, asked := f.now.Sub(f.since), f.on()
	if f.mode == Off {
		part, asked = f.now.Sub(f.turned), f.off()
	}
	switch {
	case part < asked:
		f.vent()
		f.mode, f.since = Held, f.now
		p := f.step().Pulses
		f.state.Finding = &reason.Finding{Verdict: reason.Look, Title: "Too quick: the pulse comes again",
			Because: []reason.Reason{{Text: fmt.Sprintf("On takes at least %.0f seconds to build pressure, off at least %.0f: then it cleans.", p.On.Seconds(), p.Off.Seconds()), Source: reason.Trade}}}
	case f.mode == On:
		f.mode, f.turned = Off, f.now
	default:
		f.state.Finding = nil
		f.full()
	}
}

// void makes the running pulse count for nothing. Pressed just after its end,
// no pressure still takes back the pulse it was meant for.
func (f *fold) void(p Press) {
	if (f.mode != On && f.mode != Off) || p.Segment > f.segment || p.Segment < max(f.begun, f.segment-2) {
		return
	}
	if p.Kind == NoPressure {
		if p.Segment < f.first && f.pulse > 0 {
			f.pulse--
			if f.step().Hazard == job.Rinses {
				f.state.Detergent.Rinsed--
			} else {
				f.state.Soapy--
			}
		}
		f.dry++
		f.state.Finding = noPressure(f.dry)
	}
	f.vent()
	f.segment++
	f.mode, f.since = Held, f.now
}

func noPressure(times int) *reason.Finding {
	f := &reason.Finding{
		Verdict: reason.Look, Title: "No pressure: the pulse does not count",
		Because: []reason.Reason{{Text: "A pulse that never reaches pressure pushes nothing back through the valve.", Source: reason.Trade}},
		Next:    []string{"Is the blind basket in, without a hole? A rubber disc with a hole drips: that is normal.", "Is there water in the tank, or is the supply open?", "Is the handle locked to its mark?"},
	}
	if times >= 2 {
		f.Verdict, f.Title = reason.Stop, "No pressure twice: stop before something runs dry"
		f.Next = append(f.Next, "Two tries at most. Stop here, switch the pump off, and let a technician look.")
	}
	return f
}

func (f *fold) look(c backflush.Cup) {
	f.state.Cups = append(f.state.Cups, c)
	d := &f.state.Detergent
	finding := c.Judge(f.pairs)
	f.state.Finding = &finding
	switch {
	case c.Clear() && d.Rinsed >= d.Least:
		d.Clear = true
		f.state.Finding = nil
		f.next()
	case c.Clear(): // cannot be in a plan that passes its check; never skip the least
		f.more(d.Least - d.Rinsed)
	case finding.Verdict == reason.Stop:
		d.Clear = false
		f.segment++
		f.mode, f.since = Held, f.now
	default:
		d.Clear = false
		f.pairs++
		f.more(f.plan.More.Count)
	}
}

// more adds a set of water pulses and another look after it.
func (f *fold) more(count int) {
	f.extra++
	cup := job.Cup(fmt.Sprintf("cup-%d", f.extra+1))
	pulses := f.plan.ExtraRinse(fmt.Sprintf("more-%d", f.extra), count)
	pulses.After = []string{f.step().ID}
	cup.Lane, cup.Group, cup.After = pulses.Lane, pulses.Group, []string{pulses.ID}
	rest := append([]job.Step{pulses, cup}, f.steps[f.i+1:]...)
	f.steps = append(f.steps[:f.i+1:f.i+1], rest...)
	f.next()
}

// mostBrims is how often hot water is tried, the last time with a little powder.
const mostBrims = 3

// heard follows what happens in a group that detergent dried in. Only water
// that comes leads on; a valve that does not let go, or a jet that is blocked,
// is a technician's.
func (f *fold) heard(what string) {
	call := func(title, because string, next ...string) {
		f.state.Finding = &reason.Finding{Verdict: reason.Stop, Title: title, Because: []reason.Reason{{Text: because, Source: reason.Trade}}, Next: append(next, "Stop here. The group stays marked, no drinks from it.")}
	}
	switch {
	case what == job.Flows:
		f.state.Finding = nil
		f.next()
	case what == job.Clicks:
		call("It clicks, but no water comes: the group's jet is blocked", "The valve lets go. A jet of about 0.8 mm behind a small strainer is stopped, usual after standing unused.",
			"Technician's work: unplugged, cold, supply shut, boiler gauge at 0, steam tap open.")
	case f.brims == mostBrims:
		call("Still no click: the coil", "Hot water and foam did not free it, so it is not dried powder.", "A technician measures the coil and opens the valve, unplugged and cold.")
	default:
		f.brims++
		brim := job.Brim(fmt.Sprintf("brim-%d", f.brims), f.brims == mostBrims)
		again := job.Listen(fmt.Sprintf("listen-%d", f.brims+1))
		brim.Lane, brim.Group, brim.After = f.step().Lane, f.step().Group, []string{f.step().ID}
		again.Lane, again.Group, again.After = f.step().Lane, f.step().Group, []string{brim.ID}
		rest := append([]job.Step{brim, again}, f.steps[f.i+1:]...)
		f.steps = append(f.steps[:f.i+1:f.i+1], rest...)
		f.state.Finding = nil
		f.next()
	}
}

func (f *fold) stop(p Press) {
	d := &f.state.Detergent
	if f.step().Hazard == job.Sets && !p.NothingIn {
		d.In, d.Ever = true, true // powder may be in: take it so
	}
	switch {
	case d.In:
		f.end(StoppedUnsafe)
	case d.Ever:
		// the rinse is proven; what is left is one drink to pour away
	default:
		f.end(Stopped)
	}
}

// Patience is the run time that a run may stand still with detergent in the
// group before it nags (our own engineering choice).
const Patience = time.Minute

// fullTray is the share of the tray that is used before it is emptied.
const fullTray = 0.8

// needsTray says whether the water of the present step would fill the tray
// beyond what is safe to carry.
func (f *fold) needsTray() bool {
	ahead := f.ahead()
	if f.plan.Tray == 0 {
		return false
	}
	return ahead > 0 && f.state.Tray.Volume(f.plan.Vents)+ahead > units.Volume(fullTray*float64(f.plan.Tray))
}

// tray: where it had to be emptied, or the tank filled, the press says that it
// was.
func (f *fold) tray() {
	if f.needsTray() {
		f.state.Tray = Water{}
	}
	if f.needsTank() {
		f.state.Drawn = Water{}
	}
}

// spare is the share of the tank that is left in it: a pump must not draw air.
const spare = 0.1

// needsTank says whether the water of the present step would draw the tank down
// to what must stay in it.
func (f *fold) needsTank() bool {
	ahead := f.ahead()
	return f.plan.Tank > 0 && ahead > 0 && f.state.Drawn.Volume(f.plan.Vents)+ahead > units.Volume((1-spare)*float64(f.plan.Tank))
}

// ahead is the water of the present step that is still to come; 0 while it runs.
func (f *fold) ahead() units.Volume {
	if f.ended || f.mode == On || f.mode == Off || f.mode == Soak {
		return 0
	}
	s := f.step()
	ahead := s.Water
	if s.Pulses != nil {
		ahead += units.Volume(s.Pulses.Count-f.pulse) * f.plan.Vents
	}
	return ahead
}

func (f *fold) view() State {
	s := f.state
	s.Step = f.step()
	s.EmptyTray = f.needsTray() && s.Tray != (Water{})
	s.FillTank = f.needsTank() && s.Drawn != (Water{})
	s.Segment = Segment{Index: f.segment, Kind: f.mode, Start: f.since}
	if s.Step.Pulses != nil && !f.ended {
		s.Segment.Pulse = f.pulse + 1
	}
	s.Schedule = f.schedule(&s.Segment)
	s.Allowed = f.allowed()
	s.Lines = f.lines()
	return s
}

// schedule lists the segments from the present one to the end of the step.
func (f *fold) schedule(present *Segment) []Segment {
	if f.mode == Soak {
		present.End = f.ends()
	}
	if f.own && (f.mode == On || f.mode == Off) {
		if f.mode == Off {
			present.Start = f.turned
		}
		return []Segment{*present}
	}
	if f.mode != On && f.mode != Off {
		return []Segment{*present}
	}
	var list []Segment
	index, start := f.first, f.since
	for pulse := f.pulse + 1; pulse <= f.step().Pulses.Count; pulse++ {
		turn, end := start.Add(f.on()), start.Add(f.on()+f.off())
		list = append(list, Segment{index, On, pulse, start, turn}, Segment{index + 1, Off, pulse, turn, end})
		index, start = index+2, end
	}
	if f.mode == Off {
		list = list[1:]
	}
	*present = list[0]
	return list
}

func (f *fold) allowed() []PressKind {
	if f.ended {
		return nil
	}
	var list []PressKind
	switch s := f.step(); {
	case s.Kind == job.Act, f.mode == Soak && s.Early:
		list = []PressKind{Done}
	case s.Kind == job.Grade:
		list = []PressKind{Graded}
	case s.Kind == job.Choose:
		list = []PressKind{Heard}
	case f.mode == Soak:
	case s.Kind == job.Look && f.mode == Held:
		list = []PressKind{Again}
	case s.Kind == job.Look:
		list = []PressKind{Reading}
	case f.own && (f.mode == On || f.mode == Off):
		list = []PressKind{Turn, Hold, NoPressure}
	case f.mode == On || f.mode == Off:
		list = []PressKind{Hold, NoPressure}
	default:
		list = []PressKind{Begin}
	}
	if d := f.state.Detergent; d.In || !d.Ever {
		list = append(list, Stop)
	}
	return list
}

func (f *fold) lines() []Line {
	list := make([]Line, len(f.steps))
	for i, s := range f.steps {
		l := Line{ID: s.ID, Title: s.Title, Status: "ahead"}
		if i < f.i || f.state.Outcome == Finished {
			l.Status = "gone"
		} else if i == f.i {
			l.Status = "now"
		}
		if s.Pulses != nil {
			l.Note = fmt.Sprint(s.Pulses.Count)
			if i == f.i && !f.ended {
				l.Note = fmt.Sprintf("%d of %d", min(f.pulse+1, s.Pulses.Count), s.Pulses.Count)
			} else if i > f.i && s.Hazard == job.Rinses {
				l.Note += ", then look"
			}
		}
		list[i] = l
	}
	return list
}
