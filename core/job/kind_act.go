package job

import (
	"time"

	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// Act is done by hand and said to be done.
type Act struct {
	// Flushes is the water that runs into the tray by it; FlushTime is how long that
	// runs, where there is something to measure.
	Flushes   units.Volume
	FlushTime *reason.Worked
	// Draws is the water that leaves the machine otherwise: into a jug, through a filter.
	Draws units.Volume
	// Runs is what runs out by itself meanwhile, however fast the hands are.
	Runs time.Duration
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
	pump.Idle(max(0, takes+a.Runs-ran))
	return takes + a.Runs
}

// Water is the flush.
func (a Act) Water(units.Volume) units.Volume { return a.Flushes }
