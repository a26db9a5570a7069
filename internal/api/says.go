package api

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/getkin/kin-openapi/openapi3"

	"freshanvil/core/units"
)

// unitOf are the ends of field names that say their unit, and the unit as it is written.
var unitOf = []struct{ end, unit string }{
	{"_mg_l_caco3", "mg/L"}, {"_us_cm", "µS/cm"}, {"_g_tsp", "g"}, {"_mg_l", "mg/L"}, {"_g_l", "g/L"}, {"_cm2", "cm²"},
	{"_bar", "bar"}, {"_min", "min"}, {"_ml", "mL"}, {"_mm", "mm"}, {"_kg", "kg"}, {"_l", "L"}, {"_g", "g"},
	{"_c", "°C"}, {"_w", "W"}, {"_h", "h"}, {"_s", "s"},
}

// calledOtherwise are fields whose names say too little to people.
var calledOtherwise = map[string]string{
	"ph": "pH", "at": "the day and time", "from": "the first day", "to": "the last day", "ca": "calcium",
	"mg": "magnesium", "na": "sodium", "k": "potassium", "cl": "chloride", "so4": "sulfate", "tds": "dissolved solids",
	"id": "the id", "drinks per day": "drinks a day", "milk drinks per day": "milk drinks a day", "spoon": "a spoonful",
	"by": "who did it", "done by": "who did it", "note": "the note", "tau": "the cooling time", "litre": "litres",
}

// says nothing by itself: the field above it does.
var saysNothing = map[string]bool{"value": true, "text": true, "low": true, "high": true, "known": true}

// nameOf is a field of the contract as people call it: the last part of its path that says something, without its unit.
func nameOf(field string) string {
	parts := strings.Split(field, ".")
	if above, ok := strings.CutSuffix(field, ".known"); ok {
		return "whether the " + nameOf(above) + " is known"
	}
	last := ""
	for len(parts) > 0 {
		last = parts[len(parts)-1]
		if number := strings.Trim(last, "0123456789") == ""; !number && !saysNothing[last] {
			break
		}
		parts = parts[:len(parts)-1]
	}
	if last == "unit" && len(parts) > 1 {
		return "the unit of " + nameOf(strings.Join(parts[:len(parts)-1], "."))
	}
	name, _ := cutUnit(last)
	name = strings.ReplaceAll(name, "_", " ")
	if other, ok := calledOtherwise[name]; ok {
		return other
	}
	return name
}

// cutUnit parts a field's name from the unit it says; the unit is empty where it says none.
func cutUnit(field string) (name, unit string) {
	if strings.EqualFold(field, "ph") {
		return field, "pH"
	}
	for _, u := range unitOf {
		if name, ok := strings.CutSuffix(field, u.end); ok && name != "" {
			return name, u.unit
		}
	}
	return field, ""
}

// sentence tells a person what was not taken, and what would be.
func sentence(name, value, allowed string) string {
	missing := value == "" || value == "nothing"
	if name == "" {
		name = "this"
	}
	if missing && strings.HasPrefix(name, "whether ") {
		return "Say " + name + "."
	}
	r, size := utf8.DecodeRuneInString(name)
	if name != "pH" {
		name = string(unicode.ToUpper(r)) + name[size:]
	}
	allowed = strings.TrimSuffix(allowed, ".")
	switch {
	case missing && allowed == "it must be given":
		return name + " is missing."
	case missing:
		return name + " is missing. Allowed: " + allowed + "."
	}
	return name + " cannot be " + value + ". Allowed: " + allowed + "."
}

// meantBy is what was probably meant by a number beyond the bounds of the contract.
func meantBy(field string, e *openapi3.SchemaError) []units.Meant {
	v, ok := e.Value.(float64)
	if !ok || e.Schema.Min == nil || e.Schema.Max == nil {
		return nil
	}
	parts := strings.Split(field, ".")
	_, unit := cutUnit(parts[len(parts)-1])
	return units.Probably(v, *e.Schema.Min, *e.Schema.Max, unit)
}
