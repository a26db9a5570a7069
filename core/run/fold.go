package run

import (
	"fmt"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/job"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// fold is the machine that replays a run.
type fold struct {
	plan    job.Plan
	speed   time.Duration
	now     time.Time
	steps   []job.Step
	groups  []group
	i       int
	segment int
	mode    SegmentKind
	since   time.Time // start of the present segment, or of the pulse while it runs
	pulse   int       // full pulses of this step
	first   int       // segment index of the running pulse's ON
	begun   int       // segment index of the first ON since the last begin
	dry     int       // pulses without pressure in a row
	own     bool      // the running set goes at one's own pace
	turned  time.Time // when the pump went off, at one's own pace
	rests   time.Time // when the pump has rested enough
	warm    time.Duration
	warmAt  time.Time            // when it was that warm
	ended   map[string]time.Time // when a step was done
	over    bool
	acid    acidity
	state   State
}

// group is a group and what the fold keeps of it besides.
type group struct {
	Group
	extra int // sets of pulses added
	pairs int // unclear pairs in a row
	brims int // tries to dissolve what has dried
	// descaled: it stands for the whole machine, which is descaled
	descaled bool
}

// Fold replays the accepted presses, in their order, up to now. Speed is run
// seconds a wall second, 1 or more.
func Fold(plan job.Plan, started time.Time, speed int, presses []Press, now time.Time) State {
	f := &fold{
		plan:   plan,
		speed:  time.Duration(max(1, speed)),
		now:    started,
		steps:  plan.Steps[:len(plan.Steps):len(plan.Steps)],
		mode:   Open,
		since:  started,
		warmAt: started,
		ended:  map[string]time.Time{},
	}
	f.groups = make([]group, len(plan.Parts))
	for i, part := range plan.Parts {
		f.groups[i].descaled = part.Task == care.Descale || part.Task == care.AcidRinse
		f.groups[i].Number, f.groups[i].Detergent = part.Group, Detergent{
			In:    part.Dirty,
			Ever:  part.Dirty,
			Least: part.Rinse.Least,
		}
	}
	f.acid = begin(plan.Acid)
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

// at is the group of the present step.
func (f *fold) at() *group {
	for i := range f.groups {
		if f.groups[i].Number == f.step().Group {
			return &f.groups[i]
		}
	}
	return &f.groups[0]
}

func (f *fold) on() time.Duration  { return f.step().Pulses.On / f.speed }
func (f *fold) off() time.Duration { return f.step().Pulses.Off / f.speed }

// runs says whether time alone ends the present segment.
func (f *fold) runs() bool {
	switch f.mode {
	case Soak, Rest:
		return true
	case On: // at one's own pace only the pump's duty does
		return f.pushes() || !f.own || f.plan.Duty.On > 0
	case Off:
		return !f.own
	}
	return false
}

// advance lets time pass to t: pulses run out, and with the last the step.
func (f *fold) advance(t time.Time) {
	if t.Before(f.now) {
		return // a press that claims to be older than one accepted before it
	}
	for !f.over && f.runs() {
		end := f.ends()
		if end.After(t) {
			break
		}
		if end.After(f.now) { // a soak may have been over before anybody came
			f.now = end
		}
		switch f.mode {
		case On:
			if f.pushes() {
				f.stretched()
				continue
			}
			if f.own {
				f.overrun()
				continue
			}
			f.segment++
			f.mode = Off
			f.ran(f.step().Pulses.On)
		case Off:
			f.segment++
			f.full()
		case Rest:
			f.segment++
			f.pump()
		default:
			f.segment++
			f.waited()
		}
	}
	f.now = t
}

// ends is when the running segment is over.
func (f *fold) ends() time.Time {
	switch f.mode {
	case On:
		if f.pushes() {
			return f.since.Add(f.stretch() / f.speed)
		}
		if f.own {
			return f.since.Add(f.plan.Duty.Left(f.warmth(f.since)) / f.speed)
		}
		return f.since.Add(f.on())
	case Off:
		return f.since.Add(f.on() + f.off())
	case Rest:
		return f.rests
	}
	return f.stands(f.since.Add(f.step().Waits / f.speed))
}

// warmth is how warm the pump is at an instant at which it has not run since
// ran was last called.
func (f *fold) warmth(t time.Time) time.Duration {
	return f.plan.Duty.Cooled(f.warm, max(0, t.Sub(f.warmAt))*f.speed)
}

// ran: the pump has run that long, in run time, up to now.
func (f *fold) ran(on time.Duration) {
	f.warm, f.warmAt = f.plan.Duty.Ran(f.warmth(f.now.Add(-on/f.speed)), on), f.now
}

// pump begins a pulse, or first lets the pump rest.
func (f *fold) pump() {
	if rest := f.plan.Duty.Rest(f.warmth(f.now), f.want()); rest > 0 && f.mode != Rest {
		f.mode, f.since, f.rests = Rest, f.now, f.now.Add(rest/f.speed)
		return
	}
	f.mode, f.since, f.first = On, f.now, f.segment
}

// overrun ends a pulse at one's own pace that runs past what the pump may.
func (f *fold) overrun() {
	f.interrupted()
	f.segment++
	f.mode, f.since = Held, f.now
	f.state.Finding = &reason.Finding{Verdict: reason.Stop, Title: "Pump off: it has run as long as it may",
		Because: []reason.Reason{
			{
				Text: fmt.Sprintf(
					"It may run %s and then rests %s. The pulse does not count; it comes again.",
					says(f.plan.Duty.On),
					says(f.plan.Duty.Off),
				),
				Source: reason.Trade,
			},
		},
		Next: []string{"Switch the pump off now."}}
}

func says(d time.Duration) string {
	if d%time.Minute == 0 {
		return fmt.Sprintf("%.0f min", d.Minutes())
	}
	return fmt.Sprintf("%.0f s", d.Seconds())
}

// interrupted counts the pump time and the water of a pulse that is cut short.
func (f *fold) interrupted() {
	switch {
	case f.mode == On && f.pushes():
		f.ran(f.now.Sub(f.since) * f.speed)
		f.poured(f.now.Sub(f.since) * f.speed)
	case f.mode == On:
		f.ran(f.now.Sub(f.since) * f.speed)
		f.vent()
	case f.mode == Off:
		f.vent()
	}
}

// waited ends a soak or a program; what ran into the tray is counted then.
func (f *fold) waited() {
	f.leaves()
	f.at().Soapy += f.step().Soapy
	f.flowed(f.step().Water)
	f.next()
}

func (f *fold) flowed(v units.Volume) {
	for _, w := range []*Water{&f.state.Tray, &f.state.Used, &f.state.Drawn, &f.at().Through} {
		w.Flushed += v
	}
}

func (f *fold) vent() {
	for _, w := range []*Water{&f.state.Tray, &f.state.Used, &f.state.Drawn, &f.at().Through} {
		w.Pulses++
	}
}

// full counts a pulse that had its on and its off time.
func (f *fold) full() {
	f.vent()
	f.pulse++
	f.dry = 0
	f.counts(1)
	if f.pulse < f.step().Pulses.Count {
		f.pump()
		return
	}
	f.next()
}

// counts counts full pulses, or takes them back.
func (f *fold) counts(n int) {
	if f.step().Hazard == job.Rinses {
		f.at().Detergent.Rinsed += n
	} else {
		f.at().Soapy += n
	}
}

func (f *fold) next() {
	f.ended[f.step().ID] = f.now
	f.at().Ended = !f.more(f.i + 1)
	f.passed()
	f.i++
	f.enough()
	f.pull()
	f.segment, f.mode, f.since, f.pulse = 0, Open, f.now, 0
	switch {
	case f.i == len(f.steps):
		f.end()
	case f.step().AtOnce:
		f.mode, f.since = Soak, f.begins(f.step())
		f.enters()
	}
}

// more says whether steps of the present group come at or after that place.
func (f *fold) more(from int) bool {
	for _, s := range f.steps[from:] {
		if s.Group == f.step().Group {
			return true
		}
	}
	return false
}

// begins is when a soak began: with the end of the step it comes after.
func (f *fold) begins(soak job.Step) time.Time {
	if at, done := f.ended[soak.After[0]]; done {
		return at
	}
	return time.Time{}
}

// pull brings forward what a group waits for whose soak is over, so that it does
// not stand there until the list comes to it.
func (f *fold) pull() {
	best, over := -1, f.now
	for j := f.i; j < len(f.steps); j++ {
		s := f.steps[j]
		if !s.AtOnce || s.Phase != "" { // a filter in its jug does not press
			continue
		}
		began := f.begins(s)
		if end := began.Add(s.Waits / f.speed); !began.IsZero() && !end.After(over) {
			best, over = j, end
		}
	}
	if best <= f.i {
		return
	}
	end := best + 1
	for end < len(f.steps) && f.steps[end].Group == f.steps[best].Group &&
		(f.steps[end].Kind == job.Pulsed || f.steps[end].Kind == job.Grade) {
		end++
	}
	list := append([]job.Step(nil), f.steps[:f.i]...)
	list = append(list, f.steps[best:end]...)
	list = append(list, f.steps[f.i:best]...)
	f.steps = append(list, f.steps[end:]...)
}

// end is how the run ends: as badly as its worst group.
func (f *fold) end() {
	f.interrupted()
	f.over, f.mode = true, Open
	f.i = min(f.i, len(f.steps)-1)
	f.chemistry()
	worst := Finished
	for _, g := range f.groups {
		if o := g.Outcome(); o == StoppedUnsafe || o == Stopped && worst == Finished {
			worst = o
		}
	}
	f.state.Outcome, f.state.EndedAt = worst, f.now
}

// apply takes one press. One that was made for a state already gone does
// nothing.
func (f *fold) apply(p Press) {
	if f.over || p.Step != f.step().ID {
		return
	}
	if f.acid.cut && p.Kind != Back && p.Kind != Stop {
		return
	}
	switch p.Kind {
	case Cut, Back:
		f.power(p.Kind == Cut)
	case Measured:
		if f.step().Reads != "" && f.mode == Open && p.Strip != nil && p.Strip.Check() == nil {
			f.measured(*p.Strip)
		}
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
			f.enters()
		}
		if f.pushes() && (f.mode == Open || f.mode == Held) && p.Segment == f.segment {
			f.segment++
			f.begun, f.own = f.segment, false
			f.state.Finding = nil
			if !f.acid.entered {
				f.enters()
			}
			f.pump()
		}
		if f.step().Kind == job.Pulsed && (f.mode == Open || f.mode == Held) && p.Segment == f.segment {
			f.tray()
			f.segment++
			f.begun, f.own = f.segment, p.Own
			f.state.Finding = nil
			f.pump()
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
			f.at().First = p.First
			f.next()
		}
	case Heard:
		if f.step().Kind == job.Choose && f.mode == Open && p.Check() == nil {
			f.heard(p.What)
		}
	case Reading:
		if f.step().Kind == job.Look && f.step().Reads == "" && f.mode == Open && p.Cup != nil &&
			p.Cup.Check() == nil {
			f.look(*p.Cup)
		}
	case Again:
		if f.step().Kind == job.Look && f.mode == Held && f.step().Reads != "" {
			f.rinseOn()
		} else if f.step().Kind == job.Look && f.mode == Held {
			f.at().pairs = 0
			f.rinseMore(f.plan.Part(f.step().Group).More.Count)
		}
	}
}

func (f *fold) act() {
	s := f.step()
	d := &f.at().Detergent
	switch s.Hazard {
	case job.Sets:
		d.In, d.Ever, d.Rinsed, d.Clear, d.Flushed = true, true, 0, false, false
		if part := f.plan.Part(s.Group); part.Dirty { // a pinch on top of all that was left in: a pulse more than halves it
			d.Least = part.Rinse.Least + 1
		}
	case job.Proves:
		d.Flushed = true
		if d.Rinsed >= d.Least && d.Clear {
			d.In = false
		}
	}
	f.enters()
	f.leaves()
	if s.Water > 0 {
		f.tray()
		f.flowed(s.Water)
		f.ran(f.plan.Ran(s.Water))
	}
	f.state.Finding = nil
	f.next()
}

// turn is a boundary at one's own pace, never quicker than the method's: shorter
// than it gives the on or the off part, the pulse counts for nothing and is held,
// to come again.
func (f *fold) turn() {
	part, asked := f.now.Sub(f.since), f.on()
	if f.mode == Off {
		part, asked = f.now.Sub(f.turned), f.off()
	}
	f.segment++
	switch {
	case part < asked:
		f.interrupted()
		f.mode, f.since = Held, f.now
		p := f.step().Pulses
		f.state.Finding = &reason.Finding{Verdict: reason.Look, Title: "Too quick: the pulse comes again",
			Because: []reason.Reason{
				{
					Text: fmt.Sprintf(
						"On takes at least %.0f seconds to build pressure, off at least %.0f: then it cleans.",
						p.On.Seconds(),
						p.Off.Seconds(),
					),
					Source: reason.Trade,
				},
			}}
	case f.mode == On:
		f.ran(part * f.speed)
		f.mode, f.turned = Off, f.now
	default:
		f.state.Finding = nil
		f.full()
	}
}

// void makes the running pulse count for nothing. Pressed just after its end,
// no pressure still takes back the pulse it was meant for.
func (f *fold) void(p Press) {
	if (f.mode != On && f.mode != Off && f.mode != Rest) || p.Segment > f.segment ||
		p.Segment < max(f.begun, f.segment-2) {
		return
	}
	if p.Kind == NoPressure {
		if f.mode == Rest && f.segment == f.begun {
			return // no pulse has run yet
		}
		if f.pushes() {
			f.dryPush()
			return
		}
		if (p.Segment < f.first || f.mode == Rest) && f.pulse > 0 {
			f.pulse--
			f.counts(-1)
		}
		f.dry++
		f.state.Finding = noPressure(f.dry)
	}
	f.interrupted()
	f.segment++
	f.mode, f.since = Held, f.now
}

func noPressure(times int) *reason.Finding {
	f := &reason.Finding{
		Verdict: reason.Look, Title: "No pressure: the pulse does not count",
		Because: []reason.Reason{
			{Text: "A pulse that never reaches pressure pushes nothing back through the valve.", Source: reason.Trade},
		},
		Next: []string{
			"Is the blind basket in, without a hole? A rubber disc with a hole drips: that is normal.",
			"Is there water in the tank, or is the supply open?",
			"Is the handle locked to its mark?",
		},
	}
	if times >= 2 {
		f.Verdict, f.Title = reason.Stop, "No pressure twice: stop before something runs dry"
		f.Next = append(f.Next, "Two tries at most. Stop here, switch the pump off, and let a technician look.")
	}
	return f
}

func (f *fold) look(c backflush.Cup) {
	g := f.at()
	g.Cups = append(g.Cups, c)
	d := &g.Detergent
	finding := c.Judge(g.pairs)
	f.state.Finding = &finding
	switch {
	case c.Clear() && d.Rinsed >= d.Least:
		d.Clear = true
		f.state.Finding = nil
		f.next()
	case c.Clear(): // cannot be in a plan that passes its check; never skip the least
		f.rinseMore(d.Least - d.Rinsed)
	case finding.Verdict == reason.Stop:
		d.Clear = false
		f.segment++
		f.mode, f.since = Held, f.now
	default:
		d.Clear = false
		g.pairs++
		f.rinseMore(f.plan.Part(g.Number).More.Count)
	}
}

// rinseMore adds a set of water pulses and another look after it.
func (f *fold) rinseMore(count int) {
	g := f.at()
	g.extra++
	f.insert(
		f.plan.ExtraRinse(g.Number, f.plan.ID(g.Number, fmt.Sprintf("more-%d", g.extra)), count),
		job.Cup(f.plan.ID(g.Number, fmt.Sprintf("cup-%d", g.extra+1))),
	)
}

// insert puts steps of the same group behind the present one, and goes on.
func (f *fold) insert(steps ...job.Step) {
	after := f.step().ID
	for i := range steps {
		s := &steps[i]
		s.Lane, s.Group, s.After = job.Hands, f.step().Group, []string{after}
		after = s.ID
	}
	rest := append(steps, f.steps[f.i+1:]...)
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
		f.state.Finding = &reason.Finding{
			Verdict: reason.Stop,
			Title:   title,
			Because: []reason.Reason{{Text: because, Source: reason.Trade}},
			Next:    append(next, "Stop here. The group stays marked, no drinks from it."),
		}
	}
	if len(f.step().Ways) > 0 {
		f.choose(what)
		return
	}
	switch {
	case what == job.Flows:
		f.state.Finding = nil
		f.next()
	case what == job.Clicks:
		call(
			"It clicks, but no water comes: the group's jet is blocked",
			"The valve lets go. A jet of about 0.8 mm behind a small strainer is stopped, usual after standing unused.",
			"Technician's work: unplugged, cold, supply shut, boiler gauge at 0, steam tap open.",
		)
	case f.at().brims == mostBrims:
		call(
			"Still no click: the coil",
			"Hot water and foam did not free it, so it is not dried powder.",
			"A technician measures the coil and opens the valve, unplugged and cold.",
		)
	default:
		g := f.at()
		g.brims++
		f.state.Finding = nil
		f.insert(
			job.Brim(f.plan.ID(g.Number, fmt.Sprintf("brim-%d", g.brims)), g.brims == mostBrims),
			job.Listen(f.plan.ID(g.Number, fmt.Sprintf("listen-%d", g.brims+1))),
		)
	}
}

func (f *fold) stop(p Press) {
	if !f.stoppable() {
		return
	}
	if d := &f.at().Detergent; f.step().Hazard == job.Sets && !p.NothingIn {
		d.In, d.Ever = true, true // powder may be in: take it so
	}
	f.end()
}

// stoppable says whether there is anything left to stop: not where the rinse of
// every group is proven, and what is left is one drink to pour away.
func (f *fold) stoppable() bool {
	for _, g := range f.groups {
		if g.Detergent.In || !g.Detergent.Ever && !g.Ended {
			return true
		}
	}
	return false
}
