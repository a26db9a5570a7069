package units

import (
	"fmt"
	"math"
	"strings"
)

// Meant is what somebody probably meant by a number that is out of range: the number to take in its place, in the unit
// that was asked for, and a sentence that says so, such as "250 mg/L would be 14 °dH".
type Meant struct {
	Value float64
	Says  string
}

// confused are the units that stand on labels, gauges and strips beside each other: what is read in one is typed where
// another is asked for. The commonest stands first.
var confused = []measure{
	{"volume", 0, math.Inf(1), []unit{{"mL", nil, 0.001, 0}, {"L", nil, 1, 0}}},
	{"mass", 0, math.Inf(1), []unit{{"g", nil, 1, 0}, {"mg", nil, 0.001, 0}, {"kg", nil, 1000, 0}}},
	{"power", 0, math.Inf(1), []unit{{"W", nil, 1, 0}, {"kW", nil, 1000, 0}}},
	{"length", 0, math.Inf(1), []unit{{"mm", nil, 1, 0}, {"cm", nil, 10, 0}, {"in", nil, 25.4, 0}}},
	{"area", 0, math.Inf(1), []unit{{"cm²", nil, 1, 0}, {"mm²", nil, 0.01, 0}}},
	{"time", 0, math.Inf(1), []unit{{"min", nil, 60, 0}, {"s", nil, 1, 0}, {"h", nil, 3600, 0}}},
	{"temperature", -KelvinZero, math.Inf(1), []unit{{"°C", nil, 1, 0}, {"°F", nil, 5.0 / 9, -160.0 / 9}}},
	{"pressure", -Atmosphere, math.Inf(1), []unit{
		{"bar", nil, 1, 0}, {"psi", nil, 0.06894757, 0}, {"kPa", nil, 0.01, 0}}},
	{"strength", 0, math.Inf(1), []unit{{"g/L", nil, 1, 0}, {"%", nil, 10, 0}, {"mg/L", nil, 0.001, 0}}},
	{"conductivity", 0, math.Inf(1), conductivity.units},
	{"hardness", 0, math.Inf(1), hardnessAsRead()},
}

// hardnessAsRead are the units of hardness, what strips and reports give most often first.
func hardnessAsRead() []unit {
	list := make([]unit, len(hardnessUnits))
	for i, u := range hardnessUnits {
		list[i] = unit{strings.TrimSuffix(u.symbol, " CaCO3"), []string{u.symbol}, u.mgL, 0}
	}
	return list
}

// Probably says what was meant by a value outside low to high of a unit: what it would be, read in another unit of the
// same kind, if that lies within; of a pH, its point left out. Nothing, where nothing lies near.
func Probably(value, low, high float64, name string) []Meant {
	if math.IsNaN(value) || math.IsInf(value, 0) || value >= low && value <= high {
		return nil
	}
	if strings.EqualFold(name, "pH") {
		if v := value / 10; v >= low && v <= high {
			return []Meant{{v, fmt.Sprintf("%g without its point would be %g", value, v)}}
		}
		return nil
	}
	for _, m := range confused {
		asked, ok := m.find(name)
		if !ok {
			continue
		}
		for _, other := range m.units {
			if other.symbol == asked.symbol {
				continue
			}
			v := Shown(m.in(value*other.factor+other.offset, asked.symbol))
			if v >= low && v <= high && v > 0 {
				return []Meant{{v, fmt.Sprintf("%g %s would be %g %s", value, other.symbol, v, asked.symbol)}}
			}
		}
	}
	return nil
}

// Shown is a number with three figures that count, as people read them off a strip, a gauge or a label.
func Shown(v float64) float64 {
	if v == 0 || math.IsNaN(v) || math.IsInf(v, 0) {
		return v
	}
	p := math.Pow(10, 2-math.Floor(math.Log10(math.Abs(v))))
	if p >= 1 {
		return math.Round(v*p) / p
	}
	return math.Round(v)
}
