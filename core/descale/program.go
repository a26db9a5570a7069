package descale

import (
	"fmt"
	"slices"
	"time"

	"freshanvil/core/circuit"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// ProgramID names a way of getting the solution everywhere.
type ProgramID string

// The programs.
const (
	ThreeSoaks ProgramID = "three_soaks"
	TwoSoaks   ProgramID = "two_soaks"
	HotSoaks   ProgramID = "hot_soaks"
	Drained    ProgramID = "drained"
	ByTap      ProgramID = "by_tap"
	Poured     ProgramID = "poured"
	OwnProgram ProgramID = "own_program"
)

// Emptying is how solution leaves a circuit.
type Emptying string

// The ways out: pushed on by the pump, let out by a drain screw or plug when cold,
// by the hot-water tap under the boiler's own pressure, poured out, or by the
// machine's own program.
const (
	ByPump    Emptying = "pump"
	ByDrain   Emptying = "drain"
	ByOwnTap  Emptying = "tap"
	ByPouring Emptying = "pour"
	ByMachine Emptying = "machine"
)

// Program is a way of getting the solution everywhere.
type Program struct {
	ID      ProgramID
	Title   string
	Pattern string // in one line
	Why     string
	Empties Emptying
	Soaks   int // rounds, where solution is pushed; else as many as fills are needed
	Soak    time.Duration
	Hot     bool // soaked at brew temperature, an outlet open
	Source  reason.Source
}

// programs are data: common practice, but for the poured one, which is the drained
// one of a machine without a drain (our own engineering choice).
var programs = []Program{
	{
		ThreeSoaks,
		"Three soaks, switched off",
		"push a third through, 20 min off, three times",
		"Slow and cold: nothing heats while acid is in. The usual way for a heating block or a single boiler.",
		ByPump,
		3,
		20 * time.Minute,
		false,
		reason.Trade,
	},
	{
		TwoSoaks,
		"Two soaks, half each",
		"push half through, 20 min off, twice",
		"Quicker, with as much solution.",
		ByPump,
		2,
		20 * time.Minute,
		false,
		reason.Trade,
	},
	{
		HotSoaks,
		"Short hot soaks, one outlet after the other",
		"push through, 8 min at brew temperature with an outlet open, four times",
		"Heat works faster, and gasses more: the outlet stays open.",
		ByPump,
		4,
		8 * time.Minute,
		true,
		reason.Trade,
	},
	{
		Drained,
		"Drained and refilled",
		"cool, drain, fill with solution, 20 min, drain, refill with water",
		"What is drained need not be flushed through: the only way to clear a boiler of more than a cup.",
		ByDrain,
		1,
		20 * time.Minute,
		false,
		reason.Trade,
	},
	{
		ByTap,
		"Emptied by its tap",
		"empty by its own pressure, the pump refills it, 20 min, empty, refill",
		"For a boiler without a drain: the tap leaves a good part behind, so it takes many refills.",
		ByOwnTap,
		1,
		20 * time.Minute,
		false,
		reason.Trade,
	},
	{
		Poured,
		"Filled and poured out by hand",
		"cool, pour out, fill, 20 min, pour out, rinse",
		"It has no pump: acid and water come out the way they went in.",
		ByPouring,
		1,
		20 * time.Minute,
		false,
		reason.Ours,
	},
	{
		OwnProgram,
		"The machine's own program",
		"at least a litre; its program and its rinse, then rinse on until the strip matches",
		"It puts out its own light. Its rinse alone is not taken for enough.",
		ByMachine,
		1,
		20 * time.Minute,
		false,
		reason.Trade,
	},
}

// Programs lists all of them.
func Programs() []Program { return slices.Clone(programs) }

// ProgramsFor are those a machine can be led through by whoever keeps it, the usual
// one first; none where it is not for them to descale.
func ProgramsFor(f machine.Facts) []Program {
	if way := circuit.Judge(f).Way; way == circuit.Workshop || way == circuit.TreatWater {
		return nil
	}
	drained := slices.ContainsFunc(
		Circuits(f, units.Reading{}, units.Reading{}),
		func(c Circuit) bool { return c.Heel > 0 },
	)
	var list []Program
	for _, p := range programs {
		ok := false
		switch p.Empties {
		case ByPump:
			ok = !drained && !(p.Hot && f.Material == "aluminium")
		case ByDrain:
			ok = drained && f.Drain != "tap" && f.Drain != "pouring out"
		case ByOwnTap:
			ok = drained && f.Drain == "tap"
		case ByPouring:
			ok = drained && f.Drain == "pouring out"
		case ByMachine:
			ok = f.OwnDescale && !drained // a boiler it does not empty is not rinsed by it
		}
		if ok {
			list = append(list, p)
		}
	}
	return list
}

// ProgramFor finds one that suits a machine; none named is the usual one. Another
// is a *units.OutOfRange.
func ProgramFor(f machine.Facts, id ProgramID) (Program, error) {
	list := ProgramsFor(f)
	var names []ProgramID
	for i, p := range list {
		if p.ID == id || id == "" && i == 0 {
			return p, nil
		}
		names = append(names, p.ID)
	}
	if len(list) == 0 {
		return Program{}, &units.OutOfRange{
			Field:   "program",
			Value:   string(id),
			Allowed: "nothing: this machine is not descaled by whoever keeps it",
		}
	}
	return Program{}, &units.OutOfRange{Field: "program", Value: string(id), Allowed: fmt.Sprintf("one of %v", names)}
}

// Contact is how long acid may stand in a machine in all: an hour, what its
// material bears, or what the label says, whichever is least.
func Contact(p Product, m Material) time.Duration {
	most := MostContact
	if m == Aluminium {
		most = min(most, aluminiumMins)
	}
	if p.Minutes > 0 {
		most = min(most, p.Minutes)
	}
	return time.Duration(most) * time.Minute
}

// heat of water, kJ/(kg K) (handbook value, from memory)
const heatOfWater = 4.19

// coldWater is what a tank holds, °C (our own engineering choice).
const coldWater = 20.0

// HeatUp is how long a heater takes to bring so many litres to a temperature, with
// no loss: a kilogram a litre.
func HeatUp(litres, watts, to float64) reason.Worked {
	return reason.Worked{
		Name:        "time to heat up",
		Value:       litres * heatOfWater * (to - coldWater) * 1000 / watts / 60,
		Unit:        "min",
		Formula:     "litres × heat × (to − cold) × 1000 ÷ watts ÷ 60",
		Source:      reason.Ours,
		WouldChange: []string{"another heater", "warmer water"},
		Inputs: []reason.Input{
			{Symbol: "litres", Label: "to be heated", Value: litres, Unit: "L", Source: reason.Ours},
			{
				Symbol: "heat",
				Label:  "heat of water (handbook value, from memory)",
				Value:  heatOfWater,
				Unit:   "kJ/(kg K)",
				Source: reason.Source{Kind: reason.Published, Which: "handbook value, from memory"},
			},
			{
				Symbol: "to",
				Label:  "up to",
				Value:  to,
				Unit:   "°C",
				Source: reason.Ours,
			}, {Symbol: "cold", Label: "from", Value: coldWater, Unit: "°C", Source: reason.Ours},
			{Symbol: "watts", Label: "of the heater", Value: watts, Unit: "W", Source: reason.Ours}},
	}.Exact()
}
