package treat

import (
	"fmt"

	"freshanvil/core/circuit"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
	"freshanvil/core/water"
)

// Shown is a water behind a treatment with how it came about: hardness and
// alkalinity in mg/L as CaCO3, and the calcite a litre drops when it brews.
type Shown struct{ Hardness, Alkalinity, PH, Falls reason.Worked }

var equilibrium = reason.Source{Kind: reason.Published, Which: "Plummer & Busenberg 1982 and WATEQ4F, solved together"}

// Shows says how a water behind the treatment came about from the one before it.
func (s Setting) Shows(raw, after water.Filled, blend float64, e circuit.Effect) Shown {
	said := func(symbol, label string, r units.Reading, unit string, known bool) reason.Input {
		from := reason.Ours
		if known {
			from = reason.Said
		}
		return reason.Input{Symbol: symbol, Label: label, Value: r.Likely, Unit: unit, Source: from}.Ranged(r.Low, r.High)
	}
	would := []string{"another reading", "another treatment"}
	hard := said("hardness", "of the water before it", raw.Hardness, "mg/L", raw.Hardness.Known)
	alk := said("alkalinity", "of the water before it", raw.Alkalinity, "mg/L", raw.Alkalinity.Known)
	number := func(symbol, label string, v float64) reason.Input {
		return reason.Input{Symbol: symbol, Label: label, Value: v, Source: reason.Ours}
	}
	with := func(name string, r units.Reading, formula string, in ...reason.Input) reason.Worked {
		return reason.Worked{
			Name:        name,
			Value:       r.Likely,
			Low:         r.Low,
			High:        r.High,
			Spread:      reason.Bounds,
			Unit:        "mg/L",
			Formula:     formula,
			Inputs:      in,
			Source:      reason.Ours,
			WouldChange: would,
		}
	}
	const taken = " − (1 − bypass) × takes × min(hardness, alkalinity)"
	h, a := "hardness", "alkalinity"
	hIn, aIn := []reason.Input{hard}, []reason.Input{alk}
	switch {
	case s.Takes > 0:
		resin := []reason.Input{
			number("bypass", "goes past it", s.Bypass),
			number("takes", "it takes of the carbonate hardness", s.Takes),
		}
		h, a = h+taken, a+taken
		hIn, aIn = append([]reason.Input{hard, alk}, resin...), append([]reason.Input{alk, hard}, resin...)
	case s.Resin > 0:
		h, hIn = "bypass × hardness", append(hIn, number("bypass", "goes past it", s.Bypass))
	case s.Pass > 0:
		membrane := []reason.Input{
			number("blend", "of tap water put back", blend),
			number("pass", "of the ions passes the membrane", s.Pass),
		}
		h, a = "blend × hardness + (1 − blend) × pass × hardness", "blend × alkalinity + (1 − blend) × pass × alkalinity"
		hIn, aIn = append(hIn, membrane...), append(aIn, membrane...)
	case s.Kind == machine.Bottled:
		h, a = "label", "label"
		hIn = []reason.Input{said("label", "hardness on the label", units.Sharp(s.Hardness), "mg/L", true)}
		aIn = []reason.Input{said("label", "alkalinity on the label", units.Sharp(s.Alkalinity), "mg/L", true)}
	}
	out := Shown{
		Hardness:   with("hardness", after.Hardness, h, hIn...),
		Alkalinity: with("alkalinity", after.Alkalinity, a, aIn...),
	}
	solved := func(name, unit, at string, r units.Reading) reason.Worked {
		w := with(
			name,
			r,
			"equilibrium",
			reason.Input{
				Symbol: "equilibrium",
				Label:  "solved from what stands below, " + at,
				Value:  r.Likely,
				Unit:   unit,
				Source: equilibrium,
			}.Ranged(r.Low, r.High),
			out.Hardness.AsInput("hardness"),
			out.Alkalinity.AsInput("alkalinity"),
		)
		w.Unit, w.Source = unit, equilibrium
		return w
	}
	out.PH = solved("pH", "", "with its carbon dioxide, at 25 °C", after.PH)
	out.Falls = solved(
		"calcite a litre drops when it brews",
		"mg/L",
		fmt.Sprintf("at %.0f °C in a closed vessel; below 0 it would dissolve some", float64(e.Hot.Temp)),
		e.Precipitates,
	)
	return out
}
