package job

import (
	"time"

	"freshanvil/core/descale"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// Push lets the pump run until so much has gone through a circuit, and rest where it
// must.
type Push struct {
	Moves []descale.Move // what is done first; the push itself is the last
	Long  reason.Worked  // how long the pump runs, s
}

// Kind is PushKind.
func (Push) Kind() StepKind { return PushKind }

// Litres is what goes through.
func (p Push) Litres() float64 {
	for _, m := range p.Moves {
		if m.Kind == descale.Pushes {
			return m.Litres
		}
	}
	return 0
}

// Runs is how long the pump runs in all.
func (p Push) Runs() time.Duration { return time.Duration(p.Long.Value * float64(time.Second)) }

// Spell is the pump's time with its rests.
func (p Push) Spell(_ time.Duration, pump *Pump) time.Duration {
	long := time.Duration(0)
	for left := p.Runs(); left > 0; {
		on := left
		if most := pump.Duty.On; most > 0 {
			on = min(left, most)
		}
		long, left = long+pump.Run(on), left-on
	}
	return long
}

// Water is none: what is pushed goes into a jug.
func (Push) Water(units.Volume) units.Volume { return 0 }
