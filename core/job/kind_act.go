package job

import (
	"time"

	"freshanvil/core/descale"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// Act is done by hand and said to be done.
type Act struct {
	// Flushes is the water that runs into the tray by it; FlushTime is how long that
	// runs, where there is something to measure.
	Flushes   units.Volume
	FlushTime *reason.Worked
	// Moves is what it does to the liquids of a descale.
	Moves []descale.Move
	// Mix is set where a batch of solution is made.
	Mix *Mix
}

// Mix is what a batch of solution is made of.
type Mix struct {
	Measure reason.Worked // of the product
	Water   reason.Worked // litres
}

// Kind is ActKind.
func (Act) Kind() StepKind { return ActKind }

// Spell is what the hands take; the pump runs for the flush meanwhile.
func (a Act) Spell(takes time.Duration, pump *Pump) time.Duration {
	ran := pump.Flush(a.Flushes)
	pump.Warm = pump.Duty.Ran(pump.Warm, ran)
	pump.Idle(max(0, takes-ran))
	return takes
}

// Water is the flush.
func (a Act) Water(units.Volume) units.Volume { return a.Flushes }
