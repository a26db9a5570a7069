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
	if r, _ := ParseReading("4-7"); r != Between(4, 7) || r.Likely != 5.5 {
		t.Errorf("%+v", r)
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
