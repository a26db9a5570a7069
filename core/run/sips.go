package run

import (
	"fmt"
	"time"

	"freshanvil/core/job"
	"freshanvil/core/plant"
)

// sips let a little in and let it stand, so many times. The clock leads from the first
// press on; when the time that acid may stand is used up, the rest is left out.
type sips struct {
	still
	f       *fold
	body    job.Sips
	done    int // sips that have stood
	entered bool
	rested  time.Time
	dry     int // tries at which no water came
}

func init() {
	kinds[job.SipsKind] = func(f *fold) kind {
		body, _ := job.BodyOf[job.Sips](f.step())
		return &sips{f: f, body: body}
	}
}

func (s *sips) tries() *int { return &s.dry }

func (s *sips) note() string {
	if s.body.Count == 1 {
		return ""
	}
	return fmt.Sprintf("%d of %d", min(s.done+1, s.body.Count), s.body.Count)
}

func (s *sips) allowed() []PressKind {
	switch s.f.mode {
	case On, Rest:
		return []PressKind{Hold, NoPressure}
	case Soak:
		return nil
	}
	if s.f.mustAsk(s.dry) {
		return []PressKind{Mended}
	}
	return []PressKind{Begin}
}

func (s *sips) press(p Press) {
	f := s.f
	switch {
	case p.Kind == Begin && (f.mode == Open || f.mode == Held) && p.Segment == f.segment:
		f.state.Finding = nil
		if !s.entered {
			s.entered = true
			f.doBy(f.step().Acts, f.since)
		}
		s.begin()
	case p.Kind != Hold && p.Kind != NoPressure || f.mode != On && f.mode != Rest:
	case p.Segment > f.segment || p.Segment < f.segment-2:
	case p.Kind == NoPressure:
		s.breakOff()
		s.dry++
		f.hold(dryFor(s.dry))
	default:
		s.breakOff()
		f.turnTo(Held)
	}
}

// begin lets the next sip in, after the rest that the pump needs.
func (s *sips) begin() {
	f := s.f
	f.segment++
	if until, rests := f.restFirst(s.body.On + f.slack()); rests {
		s.rested = until
		return
	}
	f.mode, f.since = On, f.now
	f.markSour(s.body.To)
	f.doNow(s.body.Begins())
}

func (s *sips) ends() (time.Time, bool) {
	switch s.f.mode {
	case On:
		return s.f.since.Add(s.f.wall(s.body.On)), true
	case Soak:
		return s.f.since.Add(s.f.wall(s.body.Stand)), true
	case Rest:
		return s.rested, true
	}
	return time.Time{}, false
}

func (s *sips) pass() {
	f := s.f
	switch f.mode {
	case Rest:
		s.begin()
	case On:
		f.warmPump(s.body.On)
		f.warmSlack()
		f.doAt(s.body.Ends(), f.late())
		f.turnTo(Soak)
	default:
		s.done++
		f.model.WaitTo(f.at(f.now))
		switch {
		case s.done >= s.body.Count:
		case f.acid.hurry || !s.fits():
			f.state.Finding = f.enough()
			f.acid.hurry = true
			f.acid.booked.LeftOut += s.body.Count - s.done
		case f.absence != nil: // nobody is there to begin the next
			f.turnTo(Held)
			return
		default:
			s.begin()
			return
		}
		f.countSoaks(s.done)
		f.next()
	}
}

// fits says whether there is time for one more sip.
func (s *sips) fits() bool {
	d, p := s.f.acid.plan, s.f.model.Clone()
	for _, a := range s.body.Begins() {
		p.Do(a)
	}
	p.Wait((s.body.On + slowAtTheSwitch).Seconds())
	for _, a := range s.body.Ends() {
		p.Do(a)
	}
	p.Wait(s.body.Stand.Seconds())
	return time.Duration(p.Contact()*float64(time.Second))+d.Exit <= d.Contact
}

// slowAtTheSwitch is how late a slow hand ends what the screen calls.
const slowAtTheSwitch = 10 * time.Second

func (s *sips) breakOff() {
	f := s.f
	if f.mode == On {
		f.warmPumpSince()
		f.doNow([]plant.Action{{Verb: plant.PumpOff}, {Verb: plant.SwitchOff}})
	}
}

// schedule lists the sips from the present segment on.
func (s *sips) schedule(present *Segment) []Segment {
	f := s.f
	end, runs := s.ends()
	if !runs {
		return []Segment{*present}
	}
	present.Pulse, present.End = s.done+1, end
	list := []Segment{*present}
	at, kind, sip := end, f.mode, s.done+1
	for len(list) < 60 {
		switch kind {
		case Rest:
			kind = On
		case On:
			kind = Soak
		default:
			if kind, sip = On, sip+1; sip > s.body.Count {
				return list
			}
		}
		long := s.body.On
		if kind == Soak {
			long = s.body.Stand
		}
		next := Segment{Index: list[len(list)-1].Index + 1, Kind: kind, Pulse: sip, Start: at, End: at.Add(f.wall(long))}
		list, at = append(list, next), next.End
	}
	return list
}
