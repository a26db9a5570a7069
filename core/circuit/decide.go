package circuit

import (
	"fmt"
	"math"

	"freshanvil/core/reason"
	"freshanvil/core/scale"
)

// Decider is the rule that decides how often a machine is descaled.
type Decider string

// The rules: the scale itself, at the early end of its range; the calendar of the trade; and a
// year, which nothing goes beyond.
const (
	ByScale    Decider = "scale"
	ByCalendar Decider = "calendar"
	ByYear     Decider = "year"
)

// Decided is how often a machine is descaled, which rule says so, and what the other would have
// said.
type Decided struct {
	Every  reason.Worked // days from clean
	By     Decider
	Reason reason.Reason
}

var (
	byScaleAlone = reason.MustFormula("min(cap, scale)")
	byTheEarlier = reason.MustFormula("min(cap, scale, calendar)")
)

// Decide puts the rules together. Where hardness and alkalinity were measured, the scale itself
// decides, at the early end of its range; else the earlier of that end and the calendar. Neither
// goes beyond a year. byScale is the early end, in days from clean (Place.Early of nothing), and
// calendar is 0 where none is kept.
func Decide(byScale, calendar reason.Worked, measured bool) Decided {
	formula := byScaleAlone
	in := []reason.Input{{Symbol: "cap", Label: "never later than", Value: scale.MostDays, Unit: "days",
		Source: reason.Ours}, byScale.AsInput("scale")}
	counts := calendar.Value > 0 && !measured
	if counts {
		formula, in = byTheEarlier, append(in, calendar.AsInput("calendar"))
	}
	d := Decided{By: ByYear, Every: formula.Of("days between two descales", "days", reason.Ours, in,
		"another water", "reading hardness and alkalinity by drops", "more or fewer drinks", "another calendar")}
	switch {
	case counts && calendar.Value < byScale.Value && calendar.Value < scale.MostDays:
		d.By = ByCalendar
	case byScale.Value < scale.MostDays:
		d.By = ByScale
	}
	d.Reason = reason.Reason{Source: reason.Ours, Text: d.says(byScale, calendar, measured)}
	if d.By == ByCalendar {
		d.Reason.Source = reason.Trade
	}
	return d
}

// says names the rule that decides, and what the other would have said.
func (d Decided) says(byScale, calendar reason.Worked, measured bool) string {
	every := fmt.Sprintf("Every %s", Spoken(d.Every.Value))
	alone := "By the scale alone it would be " + Spoken(byScale.Value) + "."
	if byScale.Value >= Never {
		alone = "The scale alone would never ask for it."
	}
	other := ""
	if calendar.Value > 0 {
		other = fmt.Sprintf(" The usual interval for this hardness would be %s.", Spoken(calendar.Value))
	}
	switch d.By {
	case ByCalendar:
		return every + ", the usual interval for this hardness. " + alone
	case ByScale:
		if measured {
			return every + ", by the scale itself at its early end: hardness and alkalinity were measured." + other
		}
		return every + ", by the most scale that this water may leave: hardness and alkalinity were not both measured." +
			other
	}
	return "Once a year, and never later. " + alone + other
}

// Spoken is a number of days as a person says it, no finer than it is good for.
func Spoken(days float64) string {
	n, unit := math.Round(days), "day"
	switch {
	case days >= 360 && days < 371:
		return "a year"
	case days >= 5*365:
		n, unit = math.Round(days/365), "year"
	case days >= 55:
		n, unit = math.Round(days/30.4), "month"
	case days >= 14:
		n, unit = math.Round(days/7), "week"
	}
	if n = math.Max(1, n); n == 1 {
		return "1 " + unit
	}
	return fmt.Sprintf("%.0f %ss", n, unit)
}

// From how many drinks a day, on water how hard at the machine, mg/L as CaCO3, the water is treated
// before any date is kept (our own engineering choices).
const (
	manyDrinks = 100.0
	hardWater  = 120.0
)

// TreatFirst is the advice that goes before a date: much hard water is treated, not descaled after.
func TreatFirst(drinksADay float64, hardness float64) (reason.Finding, bool) {
	if drinksADay <= manyDrinks || hardness <= hardWater {
		return reason.Finding{}, false
	}
	return reason.Finding{
		Verdict: reason.Look,
		Title:   "Treat the water first",
		Because: []reason.Reason{{
			Text: fmt.Sprintf("%.0f drinks a day on water of %.0f mg/L: so much scale comes that descaling does not keep up "+
				"with it.", drinksADay, hardness),
			Source: reason.Ours,
		}},
		Next: []string{"Compare what may stand before the machine on its water page, and choose one before you go by a " +
			"date."},
	}, true
}
