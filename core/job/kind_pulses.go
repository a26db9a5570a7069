package job

import (
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/units"
)

// Pulses let the pump build pressure against the blind and let it vent, so many
// times.
type Pulses struct{ backflush.Pulses }

// Kind is PulsesKind.
func (Pulses) Kind() StepKind { return PulsesKind }

// Spell is the pulses with the rests the pump needs between them.
func (p Pulses) Spell(_ time.Duration, pump *Pump) time.Duration {
	long := time.Duration(0)
	for range p.Count {
		long += pump.Run(p.On) + p.Off
		pump.Idle(p.Off)
	}
	return long
}

// Water is what the pulses vent.
func (p Pulses) Water(vents units.Volume) units.Volume { return units.Volume(p.Count) * vents }
