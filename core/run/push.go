package run

import (
	"time"

	"freshanvil/core/job"
	"freshanvil/core/reason"
)

// push lets the pump run until so much is through, and rest where it must.
type push struct {
	still
	f       *fold
	body    job.Push
	pushed  time.Duration // so far
	entered bool          // what comes before the push is done
	begun   int           // segment index of the first ON since the last begin
	dry     int
	rested  time.Time
}

func init() {
	kinds[job.PushKind] = func(f *fold) kind {
		body, _ := job.BodyOf[job.Push](f.step())
		return &push{f: f, body: body}
	}
}

// left is how long the pump still has to run.
func (p *push) tries() *int { return &p.dry }

func (p *push) left() time.Duration { return p.body.Runs() - p.pushed }

func (p *push) allowed() []PressKind {
	switch p.f.mode {
	case On, Rest:
		return []PressKind{Hold, NoPressure}
	}
	if p.f.mustAsk(p.dry) {
		return []PressKind{Mended}
	}
	return []PressKind{Begin}
}

func (p *push) press(q Press) {
	f := p.f
	switch {
	case q.Kind == Begin && (f.mode == Open || f.mode == Held) && q.Segment == f.segment:
		f.segment++
		p.begun = f.segment
		f.state.Finding = nil
		if !p.entered {
			p.entered = true
			f.doBy(f.step().Acts, f.since)
		}
		p.run()
	case q.Kind != Hold && q.Kind != NoPressure || f.mode != On && f.mode != Rest:
	case q.Segment > f.segment || q.Segment < max(p.begun, f.segment-2):
	case q.Kind == Hold:
		p.breakOff()
		f.turnTo(Held)
	case f.mode == Rest && f.segment == p.begun: // nothing has run yet
	default:
		p.holdDry()
	}
}

// run lets the pump run as long as it may, or rest first.
func (p *push) run() {
	if until, rests := p.f.restFirst(p.want() + p.f.slack()); rests {
		p.rested = until
		return
	}
	p.f.mode, p.f.since = On, p.f.now
	p.f.markSour(p.body.To)
	p.f.doNow(p.body.Begins())
}

// want is how long it is to run next, if it may.
func (p *push) want() time.Duration {
	if on := p.f.pumpHere().duty.On; on > 0 {
		return min(p.left(), on)
	}
	return p.left()
}

// stretch is how long it runs from the start of the present segment.
func (p *push) stretch() time.Duration {
	left := p.left()
	if may := p.f.pumpHere().duty.Left(p.f.warmth(p.f.since)); may >= 0 {
		left = min(left, may)
	}
	return max(0, left)
}

func (p *push) ends() (time.Time, bool) {
	switch p.f.mode {
	case On:
		return p.f.since.Add(p.f.wall(p.stretch())), true
	case Rest:
		return p.rested, true
	}
	return time.Time{}, false
}

func (p *push) pass() {
	f := p.f
	if f.mode == Rest {
		f.segment++
		p.run()
		return
	}
	on := p.stretch()
	f.warmPump(on)
	f.warmSlack()
	p.pushed += on
	f.doAt(p.body.Ends(), f.late())
	f.segment++
	if p.left() < time.Millisecond {
		f.next()
		return
	}
	p.run()
}

// breakOff counts what has gone through when the pump is stopped in the middle.
func (p *push) breakOff() {
	if p.f.mode == On {
		on := p.f.now.Sub(p.f.since) * p.f.speed
		p.f.warmPump(on)
		p.pushed += on
		p.f.doNow(p.body.Ends())
	}
}

// holdDry holds the push on somebody's word that the pump ran and no water came: what it has
// run counts for nothing.
func (p *push) holdDry() {
	f := p.f
	if f.mode == On {
		f.warmPumpSince()
		f.doNow(p.body.Ends())
	}
	p.dry++
	f.hold(dryFor(p.dry))
}

// dryFor is what there is to say of so many tries at which no water came.
func dryFor(tries int) *reason.Finding {
	finding := &reason.Finding{
		Verdict: reason.Look, Title: "No water comes: it does not count",
		Because: []reason.Reason{{
			Text:   "A pump that draws air runs dry, and a circuit that is empty must not be heated.",
			Source: reason.Trade,
		}},
		Next: []string{
			"Switch the machine off. Is the intake under water, and is the tank in its seat?",
			"It may be an air lock. With the group open, run the pump for five seconds and rest ten, three times at most.",
		},
	}
	if tries >= mostDry {
		finding.Verdict, finding.Title = reason.Stop, "No water twice: stop before something runs dry"
		finding.Next = []string{"Switch the machine off. Is the intake under water, and is the tank in its seat?",
			"Found nothing? Stop here, unplugged, and let a technician look."}
	}
	return finding
}

// schedule lists the pump's stretches and rests to the end of the push.
func (p *push) schedule(present *Segment) []Segment {
	f := p.f
	if f.mode == Rest {
		present.End = p.rested
	}
	if f.mode != On && f.mode != Rest {
		return []Segment{*present}
	}
	duty := f.pumpHere().duty
	left, warm := p.left(), f.warmth(f.since)
	next := Segment{Index: f.segment, Kind: f.mode, Pulse: 1, Start: f.since}
	var list []Segment
	for len(list) < 200 {
		var long time.Duration
		kind := On
		if next.Kind == Rest {
			want := left
			if duty.On > 0 {
				want = min(want, duty.On)
			}
			long = duty.Rest(warm, want)
			warm = duty.Cooled(warm, long)
		} else {
			long = left
			if may := duty.Left(warm); may >= 0 {
				long = min(long, may)
			}
			warm, left, kind = duty.Ran(warm, long), left-long, Rest
		}
		next.End = next.Start.Add(f.wall(long))
		list = append(list, next)
		if left < time.Millisecond {
			break
		}
		next = Segment{Index: next.Index + 1, Kind: kind, Pulse: 1, Start: next.End}
	}
	*present = list[0]
	return list
}
