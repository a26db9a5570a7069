package reason

import (
	"encoding/json"
	"math"
	"strconv"
)

// counted are the units that come one by one: nobody makes half a pulse.
var counted = map[string]bool{
	"pulses": true, "shots": true, "drinks": true, "groups": true, "refills": true, "spoons": true, "tablets": true,
	"sachets": true, "tries": true, "a year": true,
}

// unbroken are the units that are not worth a fraction.
var unbroken = map[string]bool{
	"mg/L": true, "mL": true, "s": true, "min": true, "°C": true, "K": true, "W": true, "uses": true,
}

// mostCounted is from where on a count is told in round figures.
const mostCounted = 1000

// Step is how finely a value is worth telling: to two figures, nothing finer than one where
// its unit is not worth a fraction, and a count as it is up to a thousand (our own engineering
// choice). It is above 0.
func Step(value float64, unit string) float64 {
	v := math.Abs(value)
	if !(v > 0) || math.IsInf(v, 0) {
		return 1
	}
	step := math.Pow(10, math.Floor(math.Log10(v)+1e-9)-1)
	switch {
	case counted[unit] && v < mostCounted:
		return 1
	case counted[unit], unbroken[unit]:
		return math.Max(1, step)
	}
	return step
}

// Figure is a value as a person is told it, without its unit.
func Figure(value float64, unit string) string {
	step := Step(value, unit)
	rounded := math.Round(value/step) * step
	decimals := 0
	if step < 1 {
		decimals = int(math.Round(-math.Log10(step)))
	}
	text := strconv.FormatFloat(rounded, 'f', decimals, 64)
	if decimals > 0 { // 1.0 is 1
		if short := strconv.FormatFloat(rounded, 'f', -1, 64); len(short) < len(text) {
			return short
		}
	}
	return text
}

// MarshalJSON adds the step, so that no screen decides how fine a number is told.
func (w Worked) MarshalJSON() ([]byte, error) {
	type plain Worked
	return json.Marshal(struct {
		plain
		Step float64 `json:"step"`
	}{plain(w), Step(w.Value, w.Unit)})
}
