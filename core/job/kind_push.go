package job

import (
	"time"

	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// Push lets the pump run until so much has gone through a circuit, or into it, and rest
// where it must.
type Push struct {
	// To is the opening that the pump is switched to; where it is empty, the machine is
	// only switched on, and its boiler fills by itself.
	To     string
	Litres units.Litres
	Long   reason.Worked // how long the pump runs, s
}

// Kind is PushKind.
func (Push) Kind() StepKind { return PushKind }

// Runs is how long the pump runs in all.
func (p Push) Runs() time.Duration { return time.Duration(p.Long.Value * float64(time.Second)) }

// Begins is what a hand does in the moment in which the pump starts, Ends in the one in
// which it stops.
func (p Push) Begins() []plant.Action { return beginsTo(p.To) }
func (p Push) Ends() []plant.Action   { return endsOf(p.To) }

func beginsTo(to string) []plant.Action {
	list := []plant.Action{{Verb: plant.SwitchOn}}
	if to != "" {
		list = append(list, plant.Action{Verb: plant.PumpTo, What: to})
	}
	return list
}

func endsOf(to string) []plant.Action {
	if to == "" {
		return []plant.Action{{Verb: plant.SwitchOff}}
	}
	return []plant.Action{{Verb: plant.PumpOff}, {Verb: plant.SwitchOff}}
}

// Spell is the hands' time, then the pump's with its rests.
func (p Push) Spell(takes time.Duration, pump *Pump) time.Duration {
	pump.Idle(takes)
	long := takes
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
