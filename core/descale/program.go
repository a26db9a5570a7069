package descale

import (
	"strings"
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
	Sips       ProgramID = "sips"
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

// programs are data: common practice, but for the sips and the poured one (our own
// engineering choices).
var programs = []Program{
	{
		ID: Sips, Title: "Sips that stand",
		Pattern: "one and a half volumes pushed in, left to stand a minute or two, again",
		Why: "A small heated path holds little acid: pushed straight through, it has no time to work. Sips that stand " +
			"use it.",
		Empties: ByPump, Soaks: 20, Source: reason.Ours,
	},
	{
		ID: ThreeSoaks, Title: "Up to three soaks, switched off",
		Pattern: "push a fill through, 20 min off, as often as the scale asks, three times at most",
		Why:     "Slow and cold: off while the solution stands. The usual way for a single boiler.",
		Empties: ByPump, Soaks: 3, Soak: 20 * time.Minute, Source: reason.Trade,
	},
	{
		ID: TwoSoaks, Title: "Up to two soaks, switched off",
		Pattern: "push a fill through, 20 min off, twice at most",
		Why:     "Quicker, with less solution.", Empties: ByPump, Soaks: 2, Soak: 20 * time.Minute, Source: reason.Trade,
	},
	{
		ID: HotSoaks, Title: "A short hot soak",
		Pattern: "push through, 5 min at brew temperature with the steam tap open",
		Why:     "Heat works faster, gasses more and is harder on metal: the outlet stays open.",
		Empties: ByPump, Soaks: 2, Soak: 5 * time.Minute, Hot: true, Source: reason.Trade,
	},
	{
		ID: Drained, Title: "Drained and refilled",
		Pattern: "cool, drain, fill with solution, 20 min, drain, refill with water",
		Why:     "What is drained need not be flushed through: the only way to clear a boiler of more than a cup.",
		Empties: ByDrain, Soaks: 2, Soak: 20 * time.Minute, Source: reason.Trade,
	},
	{
		ID: ByTap, Title: "Emptied by its tap",
		Pattern: "empty by its own pressure, the pump refills it, 20 min, empty, refill",
		Why:     "For a boiler without a drain. The acid would have to be heated: it is never led.",
		Empties: ByOwnTap, Soaks: 1, Soak: 20 * time.Minute, Source: reason.Trade,
	},
	{
		ID: Poured, Title: "Filled and poured out by hand", Pattern: "cool, pour out, fill, 20 min, pour out, rinse",
		Why:     "It has no pump: acid and water come out the way they went in.",
		Empties: ByPouring, Soaks: 2, Soak: 20 * time.Minute, Source: reason.Ours,
	},
	{
		ID: OwnProgram, Title: "The machine's own program",
		Pattern: "at least a litre; its program and its rinse, then rinse on until the strip matches",
		Why:     "It puts out its own light. Its rinse alone is not taken for enough.",
		Empties: ByMachine, Soaks: 1, Source: reason.Trade,
	},
}

// sipped is the volume, L, below which a path is taken in sips that stand (our own
// engineering choice).
const sipped = 0.15

// EmptiedBy is how the boilers of a machine are emptied: a small path that brewing and
// steam share is pushed on by the pump, whatever drain it has.
func EmptiedBy(f machine.Facts) Emptying {
	switch {
	case f.Pump == machine.NoPump || f.FreeFlow == 0:
		return ByPouring
	case f.SteamBoiler == 0:
		return ByPump
	case f.Drain == "tap":
		return ByOwnTap
	case f.Drain == "pouring out":
		return ByPouring
	}
	return ByDrain
}

// fits says whether a program empties a machine as it is emptied.
func (p Program) fits(f machine.Facts) bool {
	way := EmptiedBy(f)
	switch {
	case p.Empties == ByMachine:
		return f.OwnDescale && way == ByPump
	case p.Empties != way:
		return false
	case p.Empties != ByPump:
		return true
	}
	return (p.ID == Sips) == (f.BrewBoiler.Litres() < sipped)
}

// refuses is why a machine is not led through a program; nil where it may be.
func (p Program) refuses(f machine.Facts) error {
	if suits := circuit.Judge(f); suits.Finding.Verdict == reason.Refused {
		return suits.Refusal()
	}
	if !p.fits(f) {
		return &units.OutOfRange{Field: "program", Value: string(p.ID), Allowed: allowedPrograms(f)}
	}
	if p.Hot {
		if no := needsMaterial(f, "hot soak", "program", string(p.ID), "a cold soak"); no != nil {
			return no
		}
		if m, _ := Careful(f); m == Aluminium {
			return reason.Refuse(HarmsMaterial, "No hot soak on aluminium").
				Of("program", string(p.ID), "a cold soak").Why(reason.Trade, "Hot acid eats aluminium.")
		}
	}
	return nil
}

// allowedPrograms names those that empty a machine as it is emptied.
func allowedPrograms(f machine.Facts) string {
	var names []string
	for _, p := range programs {
		if p.fits(f) {
			names = append(names, string(p.ID))
		}
	}
	return "one of " + strings.Join(names, ", ")
}

// ProgramsFor are those a machine can be led through by whoever keeps it, the usual
// one first; none where it is not for them to descale.
func ProgramsFor(f machine.Facts) []Program {
	var list []Program
	for _, p := range programs {
		if p.refuses(f) == nil {
			list = append(list, p)
		}
	}
	return list
}

// ProgramFor finds one that suits a machine; none named is the usual one. One that
// does not exist or does not fit how the machine is emptied is a
// *units.OutOfRange, one that is not led a *reason.Refusal.
func ProgramFor(f machine.Facts, id ProgramID) (Program, error) {
	for _, p := range programs {
		if p.ID == id || id == "" && p.fits(f) {
			return p, p.refuses(f)
		}
	}
	if suits := circuit.Judge(f); suits.Finding.Verdict == reason.Refused {
		return Program{}, suits.Refusal()
	}
	return Program{}, &units.OutOfRange{Field: "program", Value: string(id), Allowed: allowedPrograms(f)}
}

// ToRinse is how acid that was left in a machine is led out of it again, whoever
// descales it otherwise. Where nobody can be led through that, it is a *reason.Refusal
// that says how to leave the machine.
func ToRinse(f machine.Facts) (Program, error) {
	leave := func() (Program, error) {
		return Program{}, reason.Refuse(NotCleared, "Acid is in: leave it off, a workshop rinses it").
			Of("drain", f.Drain, "a machine that its keeper can rinse").
			Why(reason.Trade, "To refill it, it must be switched on, and with acid inside nothing may be heated.").
			Why(reason.Trade, "Scale goes on giving off gas while acid stands.").
			Instead("Switch the machine off and pull the plug. Leave it so.",
				"Once the gauge is at 0, open the steam tap into a jug and leave it open, so that gas can leave.",
				"Open no drain, cap or screw: gas may stand behind it.",
				"Call a workshop today and say which acid it is. Their name on the sign-off ends it.")
	}
	poured := f.Pump == machine.NoPump && f.SteamBoiler == 0 && f.Drain == "pouring out"
	if f.Condition == "leaks" || circuit.CannotFill(f) || EmptiedBy(f) == ByPouring && !poured {
		return leave()
	}
	for _, p := range programs {
		if p.fits(f) && p.Empties != ByOwnTap && p.Empties != ByMachine {
			return p, nil
		}
	}
	return leave()
}

// coldWater is what a tank holds, °C (our own engineering choice).
const coldWater = 20.0

// HeatUp is how long a heater takes to bring so much water to a temperature, with
// no loss: a kilogram a litre.
func HeatUp(holds units.Litres, heater units.Power, to units.Temperature) reason.Worked {
	return reason.Worked{
		Name:        "time to heat up",
		Value:       float64(holds) * units.HeatOfWater * float64(to-coldWater) * 1000 / float64(heater) / 60,
		Unit:        "min",
		Formula:     "litres × heat × (to − cold) × 1000 ÷ watts ÷ 60",
		Source:      reason.Ours,
		WouldChange: []string{"another heater", "warmer water"},
		Inputs: []reason.Input{
			{Symbol: "litres", Label: "to be heated", Value: float64(holds), Unit: "L", Source: reason.Ours},
			{
				Symbol: "heat",
				Label:  "heat of water (handbook value, from memory)",
				Value:  units.HeatOfWater,
				Unit:   "kJ/(kg K)",
				Source: reason.Source{Kind: reason.Published, Which: "handbook value, from memory"},
			},
			{
				Symbol: "to",
				Label:  "up to",
				Value:  float64(to),
				Unit:   "°C",
				Source: reason.Ours,
			}, {Symbol: "cold", Label: "from", Value: coldWater, Unit: "°C", Source: reason.Ours},
			{Symbol: "watts", Label: "of the heater", Value: float64(heater), Unit: "W", Source: reason.Ours}},
	}.Exact()
}
