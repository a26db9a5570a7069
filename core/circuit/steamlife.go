package circuit

import (
	"fmt"
	"math"

	"freshanvil/core/boiler"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// blowDown is where what is said of concentration comes from.
var blowDown = reason.Source{Kind: reason.Published,
	Which: "boiler-water handbooks: the balance of make-up and drawn-off"}

// How many times the feed the salts of a steam boiler may be, and over how many days they are shown
// (our own engineering choices).
const (
	MostCycles = 3.0
	shownOver  = 7.0
)

var (
	concentrates = reason.MustFormula("1 + steam × days ÷ holds")
	drawnOff     = reason.MustFormula("(steam + hot) ÷ hot − ((steam + hot) ÷ hot − 1) × exp(−hot × days ÷ holds)")
	toDraw       = reason.MustFormula("steam ÷ (times − 1)")
)

// Concentrated is how many times the feed the salts in a steam boiler are a week after it was filled
// anew, by the steam taken and the hot water drawn; false where there is no such boiler.
func Concentrated(f machine.Facts, l Litres) (reason.Worked, bool) {
	if f.SteamBoiler == 0 {
		return reason.Worked{}, false
	}
	in := []reason.Input{
		l.Steam.AsInput("steam"),
		{Symbol: "days", Label: "since it was filled anew", Value: shownOver, Unit: "days", Source: reason.Ours},
		{Symbol: "holds", Label: "the boiler holds, as full as it is kept", Value: float64(f.SteamFill().Litres()), Unit: "L",
			Source: reason.Ours},
	}
	formula := concentrates
	if l.Hot.Value > 0 {
		formula, in = drawnOff, append(in, l.Hot.AsInput("hot"))
	}
	return formula.Of("salts in the steam boiler after a week", "times the feed", blowDown, in,
		"drawing hot water by the tap", "less steam", "emptying it"), true
}

// ToDraw is the hot water to draw a day so that the salts stay below MostCycles times the feed.
func ToDraw(l Litres) reason.Worked {
	return toDraw.Of("hot water to draw a day", "L/day", blowDown, []reason.Input{
		l.Steam.AsInput("steam"),
		{Symbol: "times", Label: "the salts may be so many times the feed", Value: MostCycles, Source: reason.Ours},
	}, "less steam", "a softer or purer water")
}

// agrees is how far a thermometer may lie from what a gauge says, K (our own engineering choice).
const agrees = 4.0

// Saturation compares a thermometer on a steam boiler with the temperature that belongs to its gauge.
// The error is a *units.OutOfRange.
func Saturation(gauge units.Pressure, thermometer units.Temperature) (reason.Finding, units.Temperature, error) {
	boils, err := boiler.Boils(gauge)
	if err != nil {
		return reason.Finding{}, 0, err
	}
	if !(thermometer >= 0 && thermometer <= 200) {
		return reason.Finding{}, 0, &units.OutOfRange{Field: "thermometer_c", Value: fmt.Sprint(float64(thermometer)),
			Allowed: "0 to 200 °C"}
	}
	out := reason.Finding{Verdict: reason.Look, Because: []reason.Reason{{
		Text: fmt.Sprintf("At %.1f bar steam is %.0f °C; the thermometer reads %.0f.", float64(gauge), float64(boils),
			float64(thermometer)),
		Source: reason.Source{Kind: reason.Published, Which: "IAPWS-IF97, region 4"},
	}}}
	switch off := float64(thermometer - boils); {
	case math.Abs(off) <= agrees:
		out.Verdict, out.Title = reason.Fine, "Gauge and thermometer agree"
	case off < 0:
		out.Title = "Air is trapped in the boiler, or the gauge reads too much"
		out.Next = []string{"Let steam out by the wand for ten seconds into a cloth, and read both again.",
			"If they still differ, let a technician check the gauge."}
	default:
		out.Title = "The gauge reads too little, or the thermometer too much"
		out.Next = []string{"Do not go by the gauge: the pressure may be higher than it says.",
			"Let a technician check the gauge before you turn the pressure up."}
	}
	return out, boils, nil
}
