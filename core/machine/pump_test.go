package machine

import (
	"testing"
	"time"
)

// A pump of 2 min on and 1 min off (common practice for vibratory pumps): two
// minutes at most at once; a full rest makes two minutes good, half a rest one.
func TestPumpDuty(t *testing.T) {
	d := Answers{Layout: HXHome}.Facts().Duty
	if d != (Duty{2 * time.Minute, time.Minute}) {
		t.Fatalf("a heat exchanger's pump: %+v", d)
	}
	if rest := d.Rest(0, 2*time.Minute); rest != 0 {
		t.Errorf("rested, it waits %v for two minutes", rest)
	}
	warm := d.Ran(d.Ran(0, 90*time.Second), 30*time.Second)
	if d.Left(warm) != 0 || d.Rest(warm, time.Minute) != 30*time.Second ||
		d.Rest(warm, 10*time.Minute) != time.Minute {
		t.Errorf(
			"after two minutes: %v left, rests %v before a minute, %v before ten",
			d.Left(warm),
			d.Rest(warm, time.Minute),
			d.Rest(warm, 10*time.Minute),
		)
	}
	if got := d.Cooled(warm, 30*time.Second); got != time.Minute || d.Cooled(got, time.Hour) != 0 {
		t.Errorf("half a rest leaves %v", got)
	}
	// 10 s on and 5 s off is just what it bears without end
	warm = 0
	for range 100 {
		warm = d.Cooled(d.Ran(warm, 10*time.Second), 5*time.Second)
	}
	if warm != 0 {
		t.Errorf("after a hundred pulses: %v", warm)
	}
	rotary := Answers{Layout: HXCafe}.Facts().Duty
	if rotary != (Duty{}) || rotary.Left(rotary.Ran(0, time.Hour)) >= 0 || rotary.Rest(time.Hour, time.Hour) != 0 {
		t.Errorf("a rotary pump has a limit: %+v", rotary)
	}
}
