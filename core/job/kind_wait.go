package job

import (
	"time"

	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// Soak stands by itself, begun by the end of the step it comes after: a group with
// detergent, a filter in its jug, acid in a circuit.
type Soak struct {
	For time.Duration
	// Acid says that acid works meanwhile, so that it ends when acid has stood as long
	// as it may.
	Acid   bool
	Early  bool           // it may be left before its time
	Ends   string         // what pressing says that ends it early
	Length *reason.Worked // how its length was worked out, where it was
	Read   []plant.Action // what somebody has measured at its end
}

// Kind is SoakKind.
func (Soak) Kind() StepKind { return SoakKind }

// Spell is its length.
func (s Soak) Spell(_ time.Duration, pump *Pump) time.Duration {
	pump.Idle(s.For)
	return s.For
}

// Water is none.
func (Soak) Water(units.Volume) units.Volume { return 0 }

// Wait is begun by a press; then time does it: a boiler cools, a program of the machine's
// own runs, the machine comes to its heat.
type Wait struct {
	For    time.Duration
	Early  bool   // it may be left before its time
	Ends   string // what pressing says that ends it early
	Length *reason.Worked
	// Soapy is the detergent pulses that a program stands for, Lets the water it lets
	// into the tray.
	Soapy int
	Lets  units.Volume
	Acid  bool // acid works meanwhile
	// Does is what the machine does by itself, Read what somebody has measured at its end.
	Does, Read []plant.Action
}

// Kind is WaitKind.
func (Wait) Kind() StepKind { return WaitKind }

// Spell is its length.
func (w Wait) Spell(_ time.Duration, pump *Pump) time.Duration {
	pump.Idle(w.For)
	return w.For
}

// Water is what it lets into the tray.
func (w Wait) Water(units.Volume) units.Volume { return w.Lets }
