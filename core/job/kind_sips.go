package job

import (
	"time"

	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// Sips let the pump bring in a little and let it stand, so many times, by the clock.
type Sips struct {
	To        string // the opening that the pump is switched to
	Count     int
	On, Stand time.Duration
	Litres    units.Litres  // a sip
	Length    reason.Worked // of a stand, s
}

// Kind is SipsKind.
func (Sips) Kind() StepKind { return SipsKind }

// Begins is what a hand does as the pump starts, Ends as it stops.
func (s Sips) Begins() []plant.Action { return beginsTo(s.To) }
func (s Sips) Ends() []plant.Action   { return endsOf(s.To) }

// Spell is all of them with the rests the pump needs.
func (s Sips) Spell(takes time.Duration, pump *Pump) time.Duration {
	pump.Idle(takes)
	long := takes
	for range s.Count {
		long += pump.Run(s.On) + s.Stand
		pump.Idle(s.Stand)
	}
	return long
}

// Water is none: what leaves goes into a jug.
func (Sips) Water(units.Volume) units.Volume { return 0 }
