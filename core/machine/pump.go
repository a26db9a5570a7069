package machine

import (
	"math"
	"time"
)

// Duty is how long a pump may run, and how long it then rests. The zero value
// has no limit.
//
// Between the two it is taken to warm by the second it runs and to cool at the
// rate that a whole rest makes good (our own engineering model of the rating a
// vibratory pump carries): so it may run On at most when rested, and On ÷ Off
// seconds of running are made good by each second of rest.
type Duty struct{ On, Off time.Duration }

// Ran is how warm the pump is after running for a time, from how warm it was. Warmth is
// told as the time that a rested pump would have run to be as warm.
func (d Duty) Ran(warm, on time.Duration) time.Duration {
	if d.On == 0 {
		return 0
	}
	return warm + on
}

// Regained is how much longer the pump may run after a rest, both in one unit; endless where it needs no rest.
func (d Duty) Regained(rest float64) float64 {
	if d.On == 0 || d.Off == 0 {
		return math.Inf(1)
	}
	return rest * float64(d.On) / float64(d.Off)
}

// Cooled is how warm the pump still is after a rest, told as in Ran.
func (d Duty) Cooled(warm, rest time.Duration) time.Duration {
	if d.On == 0 || d.Off == 0 {
		return 0
	}
	return max(0, warm-time.Duration(d.Regained(float64(rest))))
}

// Rest is how long the pump must rest before it may run that long, rounded up
// to whole seconds; a run longer than the pump may run at all waits until it is
// rested.
func (d Duty) Rest(warm, on time.Duration) time.Duration {
	over := warm + min(on, d.On) - d.On
	if d.On == 0 || over <= 0 {
		return 0
	}
	rest := time.Duration(float64(over) * float64(d.Off) / float64(d.On))
	return (rest + time.Second - 1).Truncate(time.Second)
}

// Left is how much longer a pump that is so warm may run; negative where it has no limit.
func (d Duty) Left(warm time.Duration) time.Duration {
	if d.On == 0 {
		return -1
	}
	return max(0, d.On-warm)
}
