// Package units holds the quantities of the trade as small value types, with
// the customary units people read off a strip, a label or a spoon.
//
// It converts and classifies; it decides nothing about a machine.
package units

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// Hardness is total hardness (calcium and magnesium), held in millimoles a
// litre. The zero value is water with no hardness at all.
type Hardness float64

// MaxHardness is the hardest water accepted: 20 mmol/L, about 2000 mg/L as
// CaCO3. Sea water and brines are beyond it, and so is any espresso machine.
const MaxHardness Hardness = 20

// HardnessUnit is one of the six customary units of total hardness.
type HardnessUnit string

// The six units. Their names are those of the contract.
const (
	MmolPerL     HardnessUnit = "mmol_l"
	MgPerLCaCO3  HardnessUnit = "mg_l_caco3"
	GermanDegree HardnessUnit = "dh"
	FrenchDegree HardnessUnit = "fh"
	ClarkDegree  HardnessUnit = "clark"
	GrainPerUSG  HardnessUnit = "gpg"
)

// mg/L as CaCO3 that one unit stands for, exact from the definitions:
// 1 mmol/L is the molar mass of CaCO3; 1 °dH is 10 mg/L CaO (56.0774 g/mol);
// 1 °fH is 10 mg/L CaCO3; 1 °e is one grain (64.79891 mg) an imperial gallon
// (4.54609 L); 1 gpg is one grain a US gallon (3.785411784 L).
var hardnessUnits = []struct {
	unit   HardnessUnit
	symbol string
	mgL    float64
}{
	{MgPerLCaCO3, "mg/L CaCO3", 1},
	{MmolPerL, "mmol/L", MolarCaCO3},
	{GermanDegree, "°dH", 10 * MolarCaCO3 / molarCaO},
	{FrenchDegree, "°fH", 10},
	{ClarkDegree, "°e", grainMg / gallonUK},
	{GrainPerUSG, "gpg", grainMg / gallonUS},
}

// HardnessUnits lists the units in the order they are shown.
func HardnessUnits() []HardnessUnit {
	list := make([]HardnessUnit, len(hardnessUnits))
	for i, u := range hardnessUnits {
		list[i] = u.unit
	}
	return list
}

// Symbol is the unit as printed, such as °dH; empty for a unit not known.
func (u HardnessUnit) Symbol() string {
	for _, k := range hardnessUnits {
		if k.unit == u {
			return k.symbol
		}
	}
	return ""
}

func (u HardnessUnit) mgPerL() (float64, bool) {
	for _, k := range hardnessUnits {
		if k.unit == u {
			return k.mgL, true
		}
	}
	return 0, false
}

// NewHardness takes a reading in any of the units. It refuses what is not a
// number, negative, or above MaxHardness; the error is an *OutOfRange.
func NewHardness(value float64, unit HardnessUnit) (Hardness, error) {
	mg, ok := unit.mgPerL()
	if !ok {
		return 0, &OutOfRange{Field: "unit", Value: string(unit), Allowed: "one of " + joinUnits()}
	}
	most := float64(MaxHardness) * MolarCaCO3 / mg
	if math.IsNaN(value) || value < 0 || value > most {
		return 0, &OutOfRange{
			Field:   "value",
			Value:   formatFloat(value),
			Allowed: fmt.Sprintf("0 to %g %s", math.Floor(most), unit.Symbol()),
			Meant:   Probably(value, 0, most, unit.Symbol()),
		}
	}
	return Hardness(value * mg / MolarCaCO3), nil
}

// In gives the hardness as a number of the unit; NaN for a unit not known.
func (h Hardness) In(unit HardnessUnit) float64 {
	mg, ok := unit.mgPerL()
	if !ok {
		return math.NaN()
	}
	return float64(h) * MolarCaCO3 / mg
}

// String prints the hardness as ParseHardness reads it.
func (h Hardness) String() string {
	return formatFloat(float64(h)) + " mmol/L"
}

// ParseHardness reads a number and a unit, such as "14 °dH", "250 mg/L CaCO3"
// or "1.2 mmol/L". The unit may also be given by its contract name.
func ParseHardness(text string) (Hardness, error) {
	fields := strings.Fields(strings.ReplaceAll(text, "₃", "3"))
	if len(fields) < 2 {
		return 0, &OutOfRange{Field: "hardness", Value: text, Allowed: "a number and one of " + joinUnits()}
	}
	value, err := strconv.ParseFloat(fields[0], 64)
	if err != nil {
		return 0, &OutOfRange{Field: "value", Value: fields[0], Allowed: "a number such as 14 or 2.5"}
	}
	name := strings.Join(fields[1:], " ")
	for _, k := range hardnessUnits {
		if strings.EqualFold(name, string(k.unit)) || strings.EqualFold(name, k.symbol) {
			return NewHardness(value, k.unit)
		}
	}
	return 0, &OutOfRange{Field: "unit", Value: name, Allowed: "one of " + joinUnits()}
}

// HardnessReading is a hardness that may be known only as a range: what is
// likely, and between which bounds.
type HardnessReading struct {
	Likely, Low, High Hardness
	// Known is false where nobody has measured and a default stands in.
	Known bool
}

// UnknownHardness stands in until a strip is read: 250 mg/L as CaCO3, anywhere
// from 30 to 400 (our own engineering choice).
func UnknownHardness() HardnessReading {
	mg := func(v float64) Hardness { return Hardness(v / MolarCaCO3) }
	return HardnessReading{Likely: mg(250), Low: mg(30), High: mg(400)}
}

// USGSClass is the class of the US Geological Survey: soft to 60 mg/L as
// CaCO3, moderately hard to 120, hard to 180, very hard above.
func (h Hardness) USGSClass() string {
	switch mg := h.In(MgPerLCaCO3); {
	case mg <= 60:
		return "soft"
	case mg <= 120:
		return "moderately hard"
	case mg <= 180:
		return "hard"
	default:
		return "very hard"
	}
}

// WRMGClass is the class of the German washing agents act of 2007 (WRMG § 9):
// soft below 1.5 mmol/L, medium to 2.5, hard above.
func (h Hardness) WRMGClass() string {
	switch {
	case h < 1.5:
		return "soft"
	case h <= 2.5:
		return "medium"
	default:
		return "hard"
	}
}

// OutOfRange says which field was wrong, what was received, and what is allowed.
type OutOfRange struct {
	Field, Value, Allowed string
	Name                  string  // what people call the field; empty where the field says it
	Meant                 []Meant // what was probably meant
}

// Under is the same of a field that stands below another.
func (e *OutOfRange) Under(field string) *OutOfRange { return e.Of(field + "." + e.Field) }

// Of is the same of another field.
func (e *OutOfRange) Of(field string) *OutOfRange {
	c := *e
	c.Field = field
	return &c
}

func (e *OutOfRange) Error() string {
	return fmt.Sprintf("%s is %s; allowed: %s", e.Field, e.Value, e.Allowed)
}

func joinUnits() string {
	names := make([]string, len(hardnessUnits))
	for i, k := range hardnessUnits {
		names[i] = string(k.unit)
	}
	return strings.Join(names, ", ")
}

func formatFloat(v float64) string { return strconv.FormatFloat(v, 'g', -1, 64) }
