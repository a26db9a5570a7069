package plant

import (
	"freshanvil/core/machine"
	"freshanvil/core/reason"
)

var (
	heatsIn  = reason.MustFormula("−tau × ln(1 − heat × kg × (set − room) ÷ (tau × watts)) ÷ 60")
	tenFlows = reason.MustFormula("flow × seconds")
)

// tenSeconds is how long a flow is measured, s (common practice).
const tenSeconds = 10.0

// HeatsIn is how long the slowest heated body of a machine takes from the room's temperature to where it is held, all
// openings shut, min: what a time that somebody measured is compared with. Each body that has a heater of its own is
// heated by it alone. The error is that of Of.
func HeatsIn(f machine.Facts) (slowest reason.Worked, err error) {
	s, err := Of(f, Solution{}, 0, 0)
	if err != nil {
		return slowest, err
	}
	for _, own := range s.Vessels {
		if own.Watts == 0 {
			continue
		}
		kg, tau := 0.0, 0.0
		for _, v := range s.Vessels {
			if v.Body == own.Body && v.Kind != Head && v.Kind != Catch {
				kg, tau = kg+v.Working+v.Metal, max(tau, v.Tau)
			}
		}
		in := func(symbol, label string, value float64, unit string) reason.Input {
			return reason.Input{Symbol: symbol, Label: label, Value: value, Unit: unit, Source: reason.Ours}
		}
		w := heatsIn.Of("time to its heat", "min", reason.Ours, []reason.Input{
			in("heat", "heat of a kilogram of water a degree", heatOfWater, "J"),
			in("kg", "water, and what the metal is worth in water, of the "+own.Title, kg, "kg"),
			in("set", "where it is held", own.Set, "°C"), in("room", "the room", s.Room, "°C"),
			in("watts", "its heater", own.Watts, "W"), in("tau", "time constant of its cooling", tau, "s"),
		}, "its heater, said as a fact", "its litres, said as a fact")
		if w.Value > slowest.Value {
			slowest = w
		}
	}
	return slowest, nil
}

// TenSeconds is what flows freely through an open group in ten seconds, mL; 0 where a machine has no pump.
func TenSeconds(f machine.Facts) reason.Worked {
	if f.Pump == machine.NoPump {
		return reason.Worked{}
	}
	return tenFlows.Of("flow in ten seconds", "mL", reason.Ours, []reason.Input{
		{Symbol: "flow", Label: "free flow through a group", Value: float64(f.FreeFlow), Unit: "mL/s", Source: reason.Ours},
		{Symbol: "seconds", Label: "how long", Value: tenSeconds, Unit: "s", Source: reason.Trade},
	}, "the free flow, said as a fact")
}
