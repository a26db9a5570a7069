package run

import (
	"fmt"
	"math"
	"time"

	"freshanvil/core/job"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
)

// pulses let the pump build pressure and vent by the clock, once begun.
type pulses struct {
	f      *fold
	body   job.Pulses
	full   int       // pulses that count
	first  int       // segment index of the running pulse's ON
	begun  int       // segment index of the first ON since the last begin
	dry    int       // pulses without pressure in a row
	own    bool      // the running set goes at one's own pace
	laid   bool      // what the hands do before the first pulse is done
	asks   bool      // whether anything came at the drain, after a pulse at which nothing had
	turned time.Time // when the pump went off, at one's own pace
	rested time.Time // when the pump has rested enough
}

func init() {
	kinds[job.PulsesKind] = func(f *fold) kind {
		body, _ := job.BodyOf[job.Pulses](f.step())
		return &pulses{f: f, body: body}
	}
}

func (p *pulses) on() time.Duration  { return p.f.wall(p.body.On) }
func (p *pulses) off() time.Duration { return p.f.wall(p.body.Off) }

func (p *pulses) ahead() float64 { return float64(p.body.Count-p.full) * float64(p.f.setup().Vents) }

func (p *pulses) note() string {
	if p.f.over {
		return fmt.Sprint(p.body.Count)
	}
	return fmt.Sprintf("%d of %d", min(p.full+1, p.body.Count), p.body.Count)
}

// blind is how often nothing has come out at the drain of this group.
func (p *pulses) blind() int {
	if g := p.f.here(); g != nil {
		return g.Blind
	}
	return 0
}

func (p *pulses) allowed() []PressKind {
	switch p.f.mode {
	case On, Off, Rest:
		list := []PressKind{Hold, NoPressure, NothingCame}
		if p.own && p.f.mode != Rest {
			list = append([]PressKind{Turn}, list...)
		}
		return list
	case Held:
		switch blind := p.blind(); {
		case job.Bars(blind):
			return []PressKind{Opened}
		case p.f.mustAsk(p.dry):
			return []PressKind{Mended, NothingCame}
		case p.asks:
			return []PressKind{Opened, NothingCame}
		case blind > 0:
			return []PressKind{Begin, Opened}
		}
		return []PressKind{Begin, NothingCame}
	}
	if job.Bars(p.blind()) {
		return []PressKind{Opened}
	}
	return []PressKind{Begin}
}

func (p *pulses) press(q Press) {
	switch q.Kind {
	case Begin:
		p.begin(q)
	case Turn:
		if p.own && (p.f.mode == On || p.f.mode == Off) && q.Segment == p.f.segment {
			p.turn()
		}
	case Hold, NoPressure, NothingCame:
		p.void(q)
	case Opened:
		if p.blind() > 0 && (p.f.mode == Held || p.f.mode == Open) {
			p.f.clearBlind()
			if p.asks {
				p.asks = false
				p.f.state.Finding = nil
				p.goOn()
			}
		}
	}
}

// begin begins the set, or goes on with it after a hold.
func (p *pulses) begin(q Press) {
	f := p.f
	if p.asks || f.mode != Open && f.mode != Held || q.Segment != f.segment || job.Bars(p.blind()) {
		return
	}
	f.emptyAndFill()
	f.segment++
	p.begun, p.own = f.segment, q.Own
	f.state.Finding = nil
	if !p.laid {
		p.laid = true
		f.doBy(f.step().Acts, f.since)
	}
	p.run()
}

// run begins a pulse, or first lets the pump rest; where tray or tank would not bear one more,
// it waits for somebody.
func (p *pulses) run() {
	if full := p.f.bearsNoMore(); full != nil {
		p.f.hold(full)
		return
	}
	if until, rests := p.f.restFirst(p.body.On); rests {
		p.rested = until
		return
	}
	p.f.mode, p.f.since, p.first = On, p.f.now, p.f.segment
	p.f.doAt([]plant.Action{{Verb: plant.Pulse, What: p.f.step().Part.String()}}, p.late())
}

// pumpOff is the end of the on part of a pulse.
func (p *pulses) pumpOff() { p.f.doAt([]plant.Action{{Verb: plant.PumpOff}}, p.late()) }

// late is how late a hand is that follows ON and OFF by eye and ear, while a plan is judged:
// later than by half of the off part it would have missed it, and holds (our own engineering
// choice).
func (p *pulses) late() float64 {
	return math.Max(-1, math.Min(p.f.late(), p.body.Off.Seconds()/2))
}

func (p *pulses) ends() (time.Time, bool) {
	f := p.f
	switch f.mode {
	case On:
		if duty := f.pumpHere().duty; p.own { // at one's own pace only the pump's duty does
			return f.since.Add(f.wall(duty.Left(f.warmth(f.since)))), duty.On > 0
		}
		return f.since.Add(p.on()), true
	case Off:
		return f.since.Add(p.on() + p.off()), !p.own
	case Rest:
		return p.rested, true
	}
	return time.Time{}, false
}

func (p *pulses) pass() {
	f := p.f
	switch {
	case f.mode == On && p.own:
		p.holdOverrun()
	case f.mode == On:
		f.segment++
		f.mode = Off
		f.warmPump(p.body.On)
		p.pumpOff()
	case f.mode == Off:
		f.segment++
		p.count()
	default:
		f.segment++
		p.run()
	}
}

// count counts a pulse that had its on and its off time.
func (p *pulses) count() {
	p.f.countPulse()
	p.full++
	p.dry = 0
	p.countFull(1)
	switch {
	case p.blind() > 0:
		p.asks = true
		p.f.hold(cameNow())
	default:
		p.goOn()
	}
}

// goOn goes on with the next pulse, or the next step.
func (p *pulses) goOn() {
	if p.full < p.body.Count {
		p.run()
		return
	}
	p.f.next()
}

// cameNow asks whether the water came at the drain after a pulse at which nothing had.
func cameNow() *reason.Finding {
	return &reason.Finding{
		Verdict: reason.Look, Title: "Did water come at the drain spout this time?",
		Because: []reason.Reason{{
			Text: "Nothing came after the pulse before. If it does not come out, it stays in the head.", Source: reason.Trade,
		}},
		Next: []string{"Say so before you touch the handle."},
	}
}

// countFull counts full pulses for the group, or takes them back.
func (p *pulses) countFull(n int) { countPulses(p.f.here(), p.f.step().Effect, n) }

func countPulses(g *group, effect job.Effect, n int) {
	switch {
	case g == nil:
	case effect == job.Clears:
	case effect == job.Rinses:
		g.Detergent.Rinsed += n
	default:
		g.Soapy += n
	}
}

// holdOverrun ends a pulse at one's own pace that runs past what the pump may.
func (p *pulses) holdOverrun() {
	duty := p.f.pumpHere().duty
	p.breakOff()
	p.f.hold(&reason.Finding{
		Verdict: reason.Stop, Title: "Pump off: it has run as long as it may",
		Because: []reason.Reason{{
			Text: fmt.Sprintf("It may run %s and then rests %s. The pulse does not count; it comes again.",
				spoken(duty.On), spoken(duty.Off)),
			Source: reason.Trade,
		}},
		Next: []string{"Switch the pump off now."},
	})
}

// breakOff counts the pump time and the water of a pulse that is cut short.
func (p *pulses) breakOff() {
	switch p.f.mode {
	case On:
		p.f.doNow([]plant.Action{{Verb: plant.PumpOff}})
		p.f.warmPumpSince()
		p.f.countPulse()
	case Off:
		p.f.countPulse()
	}
}

// turn is a boundary at one's own pace, never quicker than the method's: shorter
// than it gives the on or the off part, the pulse counts for nothing and is held,
// to come again.
func (p *pulses) turn() {
	f := p.f
	part, asked := f.now.Sub(f.since), p.on()
	if f.mode == Off {
		part, asked = f.now.Sub(p.turned), p.off()
	}
	switch {
	case part < asked:
		p.breakOff()
		f.hold(&reason.Finding{
			Verdict: reason.Look, Title: "Too quick: the pulse comes again",
			Because: []reason.Reason{{
				Text: fmt.Sprintf(
					"On takes at least %.0f seconds to build pressure, off at least %.0f: then it cleans.",
					p.body.On.Seconds(),
					p.body.Off.Seconds(),
				),
				Source: reason.Trade,
			}},
		})
	case f.mode == On:
		f.warmPump(part * f.speed)
		p.pumpOff()
		f.segment++
		f.mode, p.turned = Off, f.now
	default:
		f.segment++
		f.state.Finding = nil
		p.count()
	}
}

// void makes the running pulse count for nothing. Pressed just after its end, no
// pressure and nothing came still take back the pulse they were meant for.
func (p *pulses) void(q Press) {
	f := p.f
	if q.Kind == NothingCame && f.mode == Held {
		p.nothingAgain()
		return
	}
	runs := f.mode == On || f.mode == Off || f.mode == Rest
	if !runs || q.Segment > f.segment || q.Segment < max(p.begun, f.segment-2) {
		return
	}
	if q.Kind == Hold {
		p.breakOff()
		f.turnTo(Held)
		return
	}
	if f.mode == Rest && f.segment == p.begun {
		return // no pulse has run yet
	}
	if (q.Segment < p.first || f.mode == Rest) && p.full > 0 {
		p.full--
		p.countFull(-1)
	}
	if q.Kind == NothingCame {
		p.breakOff()
		f.countBlind()
		return
	}
	p.dry++
	finding := noPressure(p.dry)
	p.breakOff()
	f.hold(finding)
}

// nothingAgain counts that nothing came at the second try, either; the pulse that was asked
// after counts for nothing.
func (p *pulses) nothingAgain() {
	if p.asks {
		p.asks = false
		p.full--
		p.countFull(-1)
	}
	p.f.countBlind()
}

// mostDry is how often a pump may build no pressure, or bring no water, before it goes on only with what was found
// (common practice: two tries at most).
const mostDry = 2

// mustAsk says whether so many tries without pressure, or without water, ask what was found before the run goes on.
func (f *fold) mustAsk(tries int) bool { return f.plan.AsksFound && tries >= mostDry }

// tried is a kind of step in which a pump may build no pressure, or bring no water, so many times running.
type tried interface{ tries() *int }

func (p *pulses) tries() *int { return &p.dry }

// asksFirst takes what was found, where two tries failed, and holds back whatever would go on without it; false where
// nothing is asked.
func (f *fold) asksFirst(p Press) bool {
	step, is := f.present.(tried)
	if !is || p.Kind != Mended && p.Kind != Begin {
		return false
	}
	asks := f.mustAsk(*step.tries())
	if asks && p.Kind == Mended && f.mode == Held {
		*step.tries() = 0
		f.state.Finding = mended(p.Answer)
	}
	return asks || p.Kind == Mended
}

// pressStep gives a press to the present step, but for one that goes on before it was said what was found.
func (f *fold) pressStep(p Press) {
	if !f.asksFirst(p) {
		f.present.press(p)
	}
}

// mended takes somebody's word for what was found.
func mended(what job.Answer) *reason.Finding {
	text := map[job.Answer]string{
		job.NoWater: "You found that water was missing.", job.WrongIn: "You found that the blind was not right.",
		job.NotLocked: "You found that the handle was loose.",
	}[what]
	return &reason.Finding{Verdict: reason.Fine, Title: "Go on: it is mended",
		Because: []reason.Reason{{Text: text, Source: reason.Said}}}
}

func noPressure(times int) *reason.Finding {
	f := &reason.Finding{
		Verdict: reason.Look, Title: "No pressure: the pulse does not count",
		Because: []reason.Reason{{
			Text: "A pulse that never reaches pressure pushes nothing back through the valve.", Source: reason.Trade,
		}},
		Next: []string{
			"Is the blind basket in, without a hole? A rubber disc with a hole drips: that is normal.",
			"Is there water in the tank, or is the supply open?", "Is the handle locked to its mark?",
		},
	}
	if times >= mostDry {
		f.Verdict, f.Title = reason.Stop, "No pressure twice: stop before something runs dry"
		f.Next = append(f.Next, "Pump off. Found nothing? Stop here, and let a technician look.")
	}
	return f
}

// schedule lists the boundaries to the end of the set, the pump's rests among them.
func (p *pulses) schedule(present *Segment) []Segment {
	f := p.f
	if !f.over {
		present.Pulse = p.full + 1
	}
	if f.mode == Rest {
		present.End = p.rested
	}
	if p.own && f.mode == Off {
		present.Start = p.turned
	}
	if p.own || f.mode != On && f.mode != Off && f.mode != Rest {
		return []Segment{*present}
	}
	duty := f.pumpHere().duty
	next := Segment{Index: f.segment, Kind: f.mode, Pulse: p.full + 1, Start: f.since}
	warm := f.warmth(f.since)
	if f.mode == Off { // the on part of this pulse is in it already
		next.Start, warm = f.since.Add(p.on()), f.pumpHere().warm
	}
	var list []Segment
	for next.Pulse <= p.body.Count {
		kind, pulse, long := On, next.Pulse, p.body.Off
		switch next.Kind {
		case Rest:
			long = duty.Rest(warm, p.body.On)
			warm = duty.Cooled(warm, long)
		case On:
			kind, long = Off, p.body.On
			warm = duty.Ran(warm, long)
		case Off:
			pulse++
			warm = duty.Cooled(warm, long)
			if duty.Rest(warm, p.body.On) > 0 {
				kind = Rest
			}
		}
		next.End = next.Start.Add(f.wall(long))
		list = append(list, next)
		next = Segment{Index: next.Index + 1, Kind: kind, Pulse: pulse, Start: next.End}
	}
	*present = list[0]
	return list
}
