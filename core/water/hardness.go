// Package water says what a water is, and what it does when it is heated.
//
// Hardness is shown in every customary unit and classed (hardness.go). The
// equilibrium (equilibrium.go, constants.go) is that of the carbonate system with
// its ion pairs between 0 and 100 °C: calcium, magnesium, sodium, sulfate,
// hydrogen, hydroxide and carbonate in nineteen species; potassium and chloride
// only add to the ionic strength. Balances are for alkalinity, inorganic carbon
// and each of those ions; a litre is taken as a kilogram; the activity of water is
// 1. All of it, ionic strength and calcite that forms among it, is solved at once
// by Newton's method in the logarithms of the activities.
//
//	Warm         pH, saturation index of calcite; closed vessel
//	Precipitate  the calcite that forms (+) or would dissolve (−) to index 0
//	Degas        the same when carbon dioxide goes off down to a partial pressure
//	Langelier    the handbook formula, for comparison
//
// A sample (sample.go) is what somebody read. What was not read is filled in by
// what waters are usually like, said, and carried as a range, to which the newer
// of two published sets of constants is added. Concentrations are mg/L,
// hardness and alkalinity mg/L as CaCO3 at the door and mol/kg inside;
// temperatures °C at the door and K inside.
//
// It was judged against PHREEQC with wateq4f.dat (testdata). Not in it: the ion
// pairs of sulfate with hydrogen and sodium, silica, iron, organic acids, and
// pressure.
//
// It decides nothing about a machine.
package water

import (
	"fmt"
	"slices"

	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// Pads is what a number of turned pads means on a hardness strip, in °dH.
type Pads struct {
	Turned    int
	Low, High float64
}

// strip is what common strips of four pads show (common practice of the trade); the
// card that came with the strip goes first. Beyond the last pad nobody knows: 30 °dH
// is taken (our own engineering choice).
var strip = []Pads{{0, 0, 4}, {1, 4, 7}, {2, 7, 14}, {3, 14, 21}, {4, 21, 30}}

// Strip lists what each number of turned pads means.
func Strip() []Pads { return slices.Clone(strip) }

// Turned is the hardness, in mg/L CaCO3, that a number of turned pads stands for;
// *units.OutOfRange where a strip has no such number.
func Turned(pads int) (units.Reading, error) {
	if pads < 0 || pads >= len(strip) {
		return units.Reading{}, &units.OutOfRange{Field: "pads", Value: fmt.Sprint(pads),
			Allowed: fmt.Sprintf("0 to %d", len(strip)-1)}
	}
	dh := units.Between(strip[pads].Low, strip[pads].High)
	return dh.Through(func(v float64) (float64, error) {
		h, err := units.NewHardness(v, units.GermanDegree)
		return h.In(units.MgPerLCaCO3), err
	})
}

// In is one hardness in one unit.
type In struct {
	Unit  units.HardnessUnit
	Shown reason.Worked
}

// InAllUnits gives a reading in each of the six units, with its range.
func InAllUnits(h units.HardnessReading) []In {
	source, spread := reason.Said, reason.Tolerance
	if !h.Known {
		source, spread = reason.Ours, reason.Bounds
	}
	definition := reason.Source{Kind: reason.Published, Which: "definition of the unit"}
	list := make([]In, 0, 6)
	for _, u := range units.HardnessUnits() {
		list = append(list, In{u, reason.Worked{
			Name: "total hardness", Value: h.Likely.In(u), Low: h.Low.In(u), High: h.High.In(u),
			Spread: spread, Unit: u.Symbol(),
			Formula: "mmol × factor",
			Inputs: []reason.Input{
				reason.Input{
					Symbol: "mmol",
					Label:  "hardness in mmol/L",
					Value:  float64(h.Likely),
					Unit:   "mmol/L",
					Source: source,
				}.Ranged(float64(h.Low), float64(h.High)),
				{
					Symbol: "factor",
					Label:  u.Symbol() + " in one mmol/L",
					Value:  units.Hardness(1).In(u),
					Source: definition,
				},
			},
			Source: definition, WouldChange: []string{"another reading", "what treats the water"},
		}})
	}
	return list
}

// Class is a class with those at both ends of the range.
type Class struct {
	Likely, Low, High string
	Source            reason.Source
}

// Classes gives the class by the US Geological Survey and by the German
// washing agents act.
func Classes(h units.HardnessReading) (usgs, wrmg Class) {
	class := func(of func(units.Hardness) string, which string) Class {
		return Class{of(h.Likely), of(h.Low), of(h.High), reason.Source{Kind: reason.Published, Which: which}}
	}
	return class(units.Hardness.USGSClass, "US Geological Survey, classes of water hardness"),
		class(units.Hardness.WRMGClass, "German washing agents act 2007 (WRMG)")
}

// Note says how far the reading is to be trusted.
func Note(h units.HardnessReading) string {
	if h.Known {
		return "As you measured it."
	}
	return "Nobody has measured it: 250 mg/L is taken, anywhere from 30 to 400, until you read a strip."
}
