package inspect

import (
	"fmt"
	"slices"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// Gauge is which one is read.
type Gauge string

// The gauges: of the steam boiler, hot; of the pump, while it runs against a puck or a blind.
const (
	SteamGauge Gauge = "steam"
	PumpGauge  Gauge = "pump"
)

// The zones of the gauges, bar (common practice of the trade); over the red mark, or over 2 where nobody said one, it
// is switched off.
const (
	steamLow, steamFrom, steamTo, steamLook = 0.8, 1.0, 1.3, 1.5
	steamLimit                              = 2.0
	pumpNone, pumpFrom, pumpTo, pumpHome    = 1.0, 8.0, 10.0, 11.0
	mostBar                                 = 25.0
)

// Reading is what a gauge shows, judged.
type Reading struct {
	reason.Finding
	Symptom string // to look for a cause of; empty for none
}

// Gauges are those that a machine may have.
func Gauges(f machine.Facts) (list []Gauge) {
	if f.SteamBoiler > 0 {
		list = append(list, SteamGauge)
	}
	if f.PumpBeforeHot != "" {
		list = append(list, PumpGauge)
	}
	return list
}

// ReadGauge judges what a gauge of a machine shows, bar above the room's; shakes says that its needle does. A gauge
// that the machine has not, or a pressure that none shows, is a *units.OutOfRange.
func ReadGauge(f machine.Facts, g Gauge, bar units.Pressure, shakes bool) (Reading, error) {
	if !(bar >= 0 && bar <= mostBar) {
		return Reading{}, &units.OutOfRange{Field: "bar", Value: fmt.Sprint(float64(bar)),
			Allowed: fmt.Sprintf("0 to %.0f", mostBar)}
	}
	if !slices.Contains(Gauges(f), g) {
		return Reading{}, &units.OutOfRange{Field: "gauge", Value: string(g),
			Allowed: "steam, of a machine with a steam boiler; pump, of one with a pump"}
	}
	if g == SteamGauge {
		return steam(f, float64(bar)), nil
	}
	return pump(f, float64(bar), shakes), nil
}

func judged(v reason.Verdict, title, why string, next ...string) Reading {
	return Reading{Finding: reason.Finding{Verdict: v, Title: title, Because: []reason.Reason{{Text: why,
		Source: reason.Trade}},
		Next: next}}
}

// off is said before anything else where it goes on at a danger.
const off = "Switch it off and pull the plug. Do not open it, and do not touch the relief valve."

func steam(f machine.Facts, bar float64) (r Reading) {
	limit, whose := steamLimit, "where nobody said the red mark of its gauge"
	if f.RedMark > 0 {
		limit, whose = float64(f.RedMark), "the red mark of its gauge"
	}
	switch {
	case bar >= limit:
		r = judged(reason.Stop, "Stop: it is over its limit", fmt.Sprintf("%.1f bar is the limit, %s.", limit, whose), off,
			"Call a technician.")
		r.Symptom = "over_pressure"
	case bar > steamLook:
		r = judged(reason.Look, "Higher than it should be",
			fmt.Sprintf("%.1f to %.1f bar is usual; over %.1f somebody looks.",
				steamFrom, steamTo, steamLook), "Read it again in ten minutes, without drawing steam. Stay beside it.",
			fmt.Sprintf("Does it rise to %.1f bar, or the relief valve blow: switch it off, pull the plug, call a "+
				"technician.", limit),
			"Does it stay there: a technician sets it.")
	case bar > steamTo:
		r = judged(reason.Look, "A little high", fmt.Sprintf("%.1f to %.1f bar is usual.", steamFrom, steamTo),
			"Read it again tomorrow. Does it go on rising: a technician sets it.")
	case bar >= steamFrom:
		r = judged(reason.Fine, "As usual", fmt.Sprintf("%.1f to %.1f bar is usual.", steamFrom, steamTo))
	case bar >= steamLow:
		r = judged(reason.Look, "A little low", fmt.Sprintf("%.1f to %.1f bar is usual.", steamFrom, steamTo),
			"Is it at its heat already? Wait ten minutes and read it again.")
	default:
		r = judged(reason.Look, "Low", fmt.Sprintf("Under %.1f bar a boiler that is hot makes weak steam.", steamLow),
			"Is it at its heat already? Wait until it is, and read it again.")
		r.Symptom = "weak_steam"
	}
	return r
}

func pump(f machine.Facts, bar float64, shakes bool) (r Reading) {
	to, where := pumpHome, "at home"
	if f.Layout.Commercial() {
		to, where = pumpTo, "in a café"
	}
	usual := fmt.Sprintf("%.0f to %.0f bar is usual %s.", pumpFrom, to, where)
	switch {
	case bar < pumpNone:
		r = judged(reason.Stop, "The pump makes no pressure: switch it off", "Without water an element runs dry.",
			"Switch it off now.", "Then look for the cause: supply, tank, filter, air.")
		r.Symptom = "no_pump_pressure"
	case shakes:
		r = judged(reason.Look, "A needle that shakes is a fault", "Air, a worn pump, or a valve that flutters.",
			"Look for air first. Does it go on: a technician.")
		r.Symptom = "no_pump_pressure"
	case bar > to:
		r = judged(reason.Look, "Higher than it should be", usual, "A technician sets the pump's own valve, with a gauge.")
	case bar < pumpFrom:
		r = judged(reason.Look, "Lower than it should be", usual,
			"Was it against a puck or the blind? If not, read it again so.")
		r.Symptom = "no_pump_pressure"
	default:
		r = judged(reason.Fine, "As usual", usual)
	}
	return r
}
