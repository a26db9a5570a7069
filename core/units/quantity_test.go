package units

import (
	"errors"
	"math"
	"testing"
)

// By definition: 0 °C is 32 °F and 273.15 K; 1 bar is 100 kPa and 14.5038 psi
// (6894.757 Pa); 1 mmol/L of alkalinity is 50.0435 mg/L as CaCO3, 61.0168 mg/L
// HCO3; the factor 0.8202 from HCO3 to CaCO3. GNU units knows the grain, the
// gallons, psi and the temperatures, but no degree of hardness.
func TestQuantitiesByDefinition(t *testing.T) {
	near := func(what string, got, want float64) {
		t.Helper()
		if math.Abs(got-want) > 1e-4*math.Max(1, math.Abs(want)) {
			t.Errorf("%s: %v, want %v", what, got, want)
		}
	}
	boil, err := NewTemperature(212, "°F")
	if err != nil {
		t.Fatal(err)
	}
	near("212 °F", float64(boil), 100)
	near("100 °C in K", boil.In("K"), 373.15)
	bar, err := NewPressure(14.5038, "psi")
	if err != nil {
		t.Fatal(err)
	}
	near("14.5038 psi", float64(bar), 1)
	near("1 bar in kPa", bar.In("kPa"), 100)
	a, err := NewAlkalinity(100, "mg/L HCO3")
	if err != nil {
		t.Fatal(err)
	}
	near("100 mg/L HCO3", float64(a), 82.02)
	near("in meq/L", a.In("meq/L"), 100/61.0168)
	near("in °KH", a.In("dKH"), 82.02/17.848)
	near("solids", float64(Conductivity(500).Solids()), 325)
	near("and back", float64(Conductivity(500).Solids().Conducts()), 500)
	if !math.IsNaN(a.In("furlong")) {
		t.Error("an unknown unit has a value")
	}
}

// What is printed is read back.
func TestQuantitiesInPairs(t *testing.T) {
	for _, text := range []string{"93 °C", "199.4 F", "366.15 K"} {
		v, err := ParseTemperature(text)
		if back, again := ParseTemperature(v.String()); err != nil || again != nil || math.Abs(float64(v-93)) > 1e-9 ||
			back != v {
			t.Errorf("%q: %v, %v", text, v, err)
		}
	}
	for _, text := range []string{"1.2 bar", "120 kPa", "0.12 MPa"} {
		v, err := ParsePressure(text)
		if back, again := ParsePressure(v.String()); err != nil || again != nil || math.Abs(float64(v)-1.2) > 1e-9 ||
			back != v {
			t.Errorf("%q: %v, %v", text, v, err)
		}
	}
	for _, text := range []string{"178.48 mg/L CaCO3", "10 °dH", "10 dkh"} {
		v, err := ParseAlkalinity(text)
		if back, again := ParseAlkalinity(v.String()); err != nil || again != nil ||
			math.Abs(float64(v)-178.48) > 0.01 ||
			back != v {
			t.Errorf("%q: %v, %v", text, v, err)
		}
	}
	if c, err := ParseConcentration("0.025 g/L"); err != nil || c != 25 || c.String() != "25 mg/L" ||
		c.In("µg/L") != 25000 {
		t.Errorf("%v, %v", c, err)
	}
	if c, err := ParseConductivity("0.4 mS/cm"); err != nil || c != 400 || c.String() != "400 µS/cm" ||
		c.In("mS/m") != 40 {
		t.Errorf("%v, %v", c, err)
	}
	for _, text := range []string{"14", "4..7", "4 - 7", "-3", "1e-3", "0..2"} {
		r, err := ParseReading(text)
		if err != nil {
			t.Errorf("%q: %v", text, err)
			continue
		}
		if back, err := ParseReading(r.String()); err != nil || back != r {
			t.Errorf("%q prints as %q", text, r.String())
		}
	}
	for text, want := range map[string]Reading{
		"4-7": Between(4, 7), "12,5-14,5": Between(12.5, 14.5), "12.5 – 14.5": Between(12.5, 14.5),
		"4 to 7": Between(4, 7), "7,4": Sharp(7.4), "0,125": Sharp(0.125), "-3--1": Between(-3, -1),
		"1e-3-2e-3": Between(0.001, 0.002), "1250": Sharp(1250), "1,25": Sharp(1.25),
	} {
		t.Run(text, func(t *testing.T) {
			if r, err := ParseReading(text); err != nil || r != want {
				t.Errorf("%+v, %v; want %+v", r, err, want)
			}
		})
	}
	for text, want := range map[string]struct {
		r    Reading
		unit string
	}{
		"52 mS/m": {Sharp(52), "mS/m"}, "52mS/m": {Sharp(52), "mS/m"}, "14": {Sharp(14), ""},
		"120 mg/L CaCO3": {Sharp(120), "mg/L CaCO3"}, "12,5-14,5 °dH": {Between(12.5, 14.5), "°dH"},
		"78 mg/L": {Sharp(78), "mg/L"},
	} {
		t.Run(text, func(t *testing.T) {
			if r, unit, err := ParseReadingIn(text); err != nil || r != want.r || unit != want.unit {
				t.Errorf("%+v %q, %v; want %+v %q", r, unit, err, want.r, want.unit)
			}
		})
	}
	if r := Drops(5, 20); r.Low != 80 || r.High != 100 {
		t.Errorf("five drops of 20: %+v", r)
	}
}

func TestQuantitiesRefused(t *testing.T) {
	for _, err := range []error{
		second(ParseTemperature("warm")), second(ParseTemperature("-300 °C")), second(NewTemperature(math.NaN(), "°C")),
		second(NewPressure(1e9, "bar")), second(ParsePressure("1 atm")),
		second(NewAlkalinity(-1, "°dH")), second(ParseConcentration("NaN mg/L")), second(ParseConductivity("12")),
		second(ParseReading("7..4")), second(ParseReading("x")), second(ParseReading("NaN")), second(ParseReading("1..Inf")),
		second(ParseReading("1,250")), second(ParseReading("12,5-1,500")), second(ParseReading("1,2,3")),
	} {
		var bad *OutOfRange
		if !errors.As(err, &bad) || bad.Field == "" || bad.Allowed == "" {
			t.Errorf("%v", err)
		}
	}
}

func second[T any](_ T, err error) error { return err }

func FuzzParseReading(f *testing.F) {
	for _, s := range []string{"14", "4..7", "4-7", "1e9", "-", "..", "1..2..3"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		r, err := ParseReading(text)
		if err != nil {
			return
		}
		if !r.Known || r.Low > r.Likely || r.Likely > r.High {
			t.Fatalf("%q reads as %+v", text, r)
		}
	})
}
