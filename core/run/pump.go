package run

import (
	"fmt"
	"time"

	"freshanvil/core/machine"
)

// pump is how warm the pump of one machine is, as of an instant.
type pump struct {
	duty machine.Duty
	warm time.Duration
	at   time.Time
}

// pumpHere is that of the present step's machine.
func (f *fold) pumpHere() *pump { return &f.pumps[f.activity().Setup] }

// warmth is how warm the pump is at an instant at which it has not run since warmPump was
// last called.
func (f *fold) warmth(t time.Time) time.Duration {
	p := f.pumpHere()
	return p.duty.Cooled(p.warm, max(0, t.Sub(p.at))*f.speed)
}

// warmPump counts that the pump has run that long, in run time, up to now.
func (f *fold) warmPump(on time.Duration) {
	p := f.pumpHere()
	p.warm, p.at = p.duty.Ran(f.warmth(f.now.Add(-on/f.speed)), on), f.now
}

// warmPumpSince counts that it has run since the present segment began.
func (f *fold) warmPumpSince() { f.warmPump(f.now.Sub(f.since) * f.speed) }

// restFirst begins a rest where the pump needs one before it may run so long, and says
// until when.
func (f *fold) restFirst(want time.Duration) (until time.Time, rests bool) {
	p := f.pumpHere()
	rest := p.duty.Rest(f.warmth(f.now), want)
	if rest > 0 { // it cools once it has really stopped
		rest += max(0, p.at.Sub(f.now)) * f.speed
	}
	if rest <= 0 || f.mode == Rest {
		return time.Time{}, false
	}
	f.mode, f.since = Rest, f.now
	return f.now.Add(f.wall(rest)), true
}

// slack is what a hand may be late at a switch that the screen calls: a pump that may not
// run for long is counted as having run for that, too.
func (f *fold) slack() time.Duration {
	if f.acid == nil {
		return 0
	}
	return 10 * time.Second
}

// warmSlack counts the pump as having run on for as long as such a hand leaves it.
func (f *fold) warmSlack() {
	p := f.pumpHere()
	p.warm, p.at = p.duty.Ran(p.warm, f.slack()), f.now.Add(f.wall(f.slack()))
}

// spoken is a length of time in words.
func spoken(d time.Duration) string {
	if d%time.Minute == 0 {
		return fmt.Sprintf("%.0f min", d.Minutes())
	}
	return fmt.Sprintf("%.0f s", d.Seconds())
}
