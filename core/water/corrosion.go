package water

import (
	"fmt"
	"math"

	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// The corrosion side (common practice of the trade, but where it says otherwise).
const (
	mostChloride    = 30.0  // mg/L with stainless steel
	leastAlkalinity = 40.0  // mg/L CaCO3
	clearlyNegative = -0.5  // saturation index
	leastPH         = 6.5   // with copper or brass
	mostSoftened    = 150.0 // mg/L CaCO3 of alkalinity behind a softener, with copper above 60 °C (our own choice)
	massCO2         = 44.0095
)

// LeastConducts is the conductivity under which a level probe may not see the water, and a boiler is
// overfilled (common practice of the trade).
const LeastConducts units.Conductivity = 50

// Touches is what a water touches in a machine, and what was done to it. What nobody has said is
// taken as the worst that it may be.
type Touches struct {
	Stainless, Copper bool // Copper: or brass
	Softened          bool // its hardness was exchanged for sodium
}

// Corrosion says what speaks for corrosion: something does, nothing does, or it is not known since
// something was not read.
func Corrosion(f Filled, hot Answer, by Touches) reason.Finding {
	out := reason.Finding{Verdict: reason.Fine, Title: "Nothing speaks for corrosion"}
	against := func(text string, args ...any) {
		out.Verdict, out.Title = reason.Look, "It may corrode"
		out.Because = append(out.Because, reason.Reason{Text: fmt.Sprintf(text, args...), Source: reason.Trade})
	}
	if f.Chloride.Known && f.Chloride.Likely > mostChloride && by.Stainless {
		against("Chloride is %.0f mg/L, over about %.0f with stainless steel: it can pit.", f.Chloride.Likely, mostChloride)
	}
	if f.Alkalinity.Likely < leastAlkalinity && hot.SI.Likely < clearlyNegative {
		against("Alkalinity is %.0f mg/L, under about %.0f, and the water would dissolve calcite (index %.1f): it can "+
			"dissolve copper and brass.", f.Alkalinity.Likely, leastAlkalinity, hot.SI.Likely)
	}
	if by.Copper && f.PHRead && f.PH.Likely < leastPH {
		against("The pH is %.1f, under %.1f, with %.0f mg/L of free carbon dioxide: it can dissolve copper and brass.",
			math.Floor(f.PH.Likely*10)/10, leastPH, float64(f.Water.FreeCO2()))
	}
	if by.Copper && by.Softened && f.Alkalinity.Likely > mostSoftened {
		against("Softened water with an alkalinity of %.0f mg/L, over about %.0f, can pit copper above 60 °C.",
			f.Alkalinity.Likely, mostSoftened)
	}
	unread := func(text string) {
		if out.Verdict == reason.Fine {
			out.Verdict, out.Title = reason.NotKnown, "Whether it corrodes is not known"
		}
		out.Because = append(out.Because, reason.Reason{Text: text, Source: reason.Ours})
	}
	if !f.Chloride.Known && by.Stainless {
		unread("Chloride was not read: over about 30 mg/L it can pit stainless steel.")
	}
	if !f.PHRead && by.Copper {
		unread("The pH was not read: under 6.5 it can dissolve copper and brass.")
	}
	switch {
	case out.Verdict == reason.NotKnown:
		out.Next = []string{"Ask the supplier for the chloride and pH of the water, or read them, and enter them here."}
	case len(out.Because) == 0:
		out.Because = []reason.Reason{{Text: "Chloride, pH and alkalinity are on the safe side.", Source: reason.Trade}}
	}
	return out
}

// FreeCO2 is the dissolved carbon dioxide of a water, what carbon there is beyond the alkalinity.
func (w Water) FreeCO2() units.Concentration {
	return units.Concentration(math.Max(0, w.Carbon-w.Alkalinity) * massCO2 * 1000)
}

// Conducts is the conductivity as far as the dissolved solids tell it.
func (f Filled) Conducts() units.Conductivity {
	return units.Concentration(f.SolidsLikely()).Conducts()
}

// Probe warns where a level probe may not see the water; false where it does.
func Probe(f Filled) (reason.Reason, bool) {
	if f.Conducts() >= LeastConducts {
		return reason.Reason{}, false
	}
	return reason.Reason{
		Text: fmt.Sprintf("So pure a water, under about %.0f µS/cm, hardly conducts: a level probe may not see it, and the "+
			"boiler may overfill. Blend in some tap water, or ask the maker.", float64(LeastConducts)),
		Source: reason.Trade,
	}, true
}
