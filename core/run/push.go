package run

import (
	"math"
	"time"

	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/reason"
)

// pushes says whether the present step lets the pump run until so much is through.
func (f *fold) pushes() bool { return f.step().Kind == job.Push }

// pushTime is how long the pump runs for the present push.
func (f *fold) pushTime() time.Duration {
	return time.Duration(f.step().Litres() * 1000 / f.plan.Flow * float64(time.Second))
}

// want is how long the pump is to run next, if it may.
func (f *fold) want() time.Duration {
	if !f.pushes() {
		return f.step().Pulses.On
	}
	left := f.pushTime() - f.acid.pushed
	if on := f.plan.Duty.On; on > 0 {
		left = min(left, on)
	}
	return left
}

// stretch is how long it runs from the start of the present segment.
func (f *fold) stretch() time.Duration {
	left := f.pushTime() - f.acid.pushed
	if may := f.plan.Duty.Left(f.warmth(f.since)); may >= 0 {
		left = min(left, may)
	}
	return max(0, left)
}

// stretched: the pump has run as long as it may, or as it must.
func (f *fold) stretched() {
	on := f.stretch()
	f.ran(on)
	f.poured(on)
	f.segment++
	if f.pushTime()-f.acid.pushed < time.Millisecond {
		f.next()
		return
	}
	f.pump()
}

// poured counts what the pump has brought through in that time.
func (f *fold) poured(on time.Duration) {
	f.acid.pushed += on
	for _, m := range f.step().Does {
		if m.Kind == descale.Pushes {
			m.Litres = math.Max(0, m.Litres*math.Min(1, float64(f.acid.pushed)/float64(f.pushTime()))-f.acid.given)
			f.acid.given += m.Litres
			f.move(m)
		}
	}
}

// dryPush: the pump ran, and nothing came.
func (f *fold) dryPush() {
	if f.mode == On {
		f.ran(f.now.Sub(f.since) * f.speed)
	}
	f.dry++
	f.segment++
	f.mode, f.since = Held, f.now
	f.state.Finding = &reason.Finding{Verdict: reason.Look, Title: "No water comes: it does not count",
		Because: []reason.Reason{
			{
				Text:   "A pump that draws air runs dry, and a circuit that is empty must not be heated.",
				Source: reason.Trade,
			},
		},
		Next: []string{
			"Is the intake under water, and is the tank in its seat?",
			"Air lock: steam tap and group open, pump on for ten seconds, off for ten, three times.",
		}}
	if f.dry >= 2 {
		f.state.Finding.Verdict = reason.Stop
		f.state.Finding.Next = append(f.state.Finding.Next, "Two tries at most. Off, unplugged, and a technician.")
	}
}

// pushing lists the segments of a push from the present one to its end.
func (f *fold) pushing(present *Segment) []Segment {
	if f.mode != On && f.mode != Rest {
		return []Segment{*present}
	}
	duty := f.plan.Duty
	left, warm := f.pushTime()-f.acid.pushed, f.warmth(f.since)
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
		next.End = next.Start.Add(long / f.speed)
		list = append(list, next)
		if left < time.Millisecond {
			break
		}
		next = Segment{Index: next.Index + 1, Kind: kind, Pulse: 1, Start: next.End}
	}
	*present = list[0]
	return list
}
