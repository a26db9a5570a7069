package units

import (
	"errors"
	"math"
	"testing"
)

// The factors are exact from the definitions of the units: molar masses of
// CaCO3 and CaO, the grain, and the two gallons (published).
func TestHardnessUnitsFromTheirDefinitions(t *testing.T) {
	for _, c := range []struct {
		unit HardnessUnit
		mgL  float64
	}{
		{MmolPerL, 100.0869}, {GermanDegree, 17.848}, {FrenchDegree, 10},
		{ClarkDegree, 14.254}, {GrainPerUSG, 17.118}, {MgPerLCaCO3, 1},
	} {
		h, err := NewHardness(1, c.unit)
		if err != nil {
			t.Fatal(err)
		}
		if got := h.In(MgPerLCaCO3); math.Abs(got-c.mgL) > 0.0006 {
			t.Errorf("1 %s is %.4f mg/L, want %.4f", c.unit, got, c.mgL)
		}
		if back := h.In(c.unit); math.Abs(back-1) > 1e-12 {
			t.Errorf("1 %s comes back as %v", c.unit, back)
		}
		if c.unit.Symbol() == "" {
			t.Errorf("%s has no symbol", c.unit)
		}
	}
	if len(HardnessUnits()) != 6 {
		t.Errorf("%d units, want six", len(HardnessUnits()))
	}
}

func TestHardnessPrintsAndParsesInPairs(t *testing.T) {
	for _, text := range []string{"14 °dH", "14 dh", "250 mg/L CaCO3", "2.5 mmol/L", "30 °fH", "12 °e", "9 gpg"} {
		h, err := ParseHardness(text)
		if err != nil {
			t.Fatalf("%s: %v", text, err)
		}
		again, err := ParseHardness(h.String())
		if err != nil || again != h {
			t.Errorf("%s prints as %s and reads as %v, %v", text, h, again, err)
		}
	}
}

func TestHardnessRefused(t *testing.T) {
	for _, c := range []struct {
		value float64
		unit  HardnessUnit
		field string
	}{
		{-1, MmolPerL, "value"}, {math.NaN(), MmolPerL, "value"}, {math.Inf(1), GermanDegree, "value"},
		{21, MmolPerL, "value"}, {5, "furlongs", "unit"},
	} {
		_, err := NewHardness(c.value, c.unit)
		var bad *OutOfRange
		if !errors.As(err, &bad) || bad.Field != c.field || bad.Allowed == "" || bad.Value == "" {
			t.Errorf("%v %s: %v, want field %s named with what is allowed", c.value, c.unit, err, c.field)
		}
	}
	for _, text := range []string{"", "14", "x °dH", "14 furlongs"} {
		if h, err := ParseHardness(text); err == nil {
			t.Errorf("%q was read as %v", text, h)
		}
	}
}

// Class limits: US Geological Survey water hardness classes; German washing
// agents act 2007 (WRMG), § 9 (both published).
func TestHardnessClasses(t *testing.T) {
	for _, c := range []struct {
		mgL        float64
		usgs, wrmg string
	}{
		{0, "soft", "soft"}, {60, "soft", "soft"}, {61, "moderately hard", "soft"}, {120, "moderately hard", "soft"},
		{121, "hard", "soft"}, {150, "hard", "soft"}, {151, "hard", "medium"}, {180, "hard", "medium"},
		{181, "very hard", "medium"}, {250, "very hard", "medium"}, {251, "very hard", "hard"},
	} {
		h, err := NewHardness(c.mgL, MgPerLCaCO3)
		if err != nil {
			t.Fatal(err)
		}
		if h.USGSClass() != c.usgs || h.WRMGClass() != c.wrmg {
			t.Errorf("%v mg/L: %s and %s, want %s and %s", c.mgL, h.USGSClass(), h.WRMGClass(), c.usgs, c.wrmg)
		}
	}
}

func TestUnknownHardnessIsARangeAndSaysSo(t *testing.T) {
	u := UnknownHardness()
	if u.Known || math.Abs(u.Likely.In(MgPerLCaCO3)-250) > 1e-9 || math.Abs(u.Low.In(MgPerLCaCO3)-30) > 1e-9 ||
		math.Abs(u.High.In(MgPerLCaCO3)-400) > 1e-9 {
		t.Errorf("unknown hardness is %+v, want 250 (30 to 400) mg/L, not known", u)
	}
}

// 6 g a level teaspoon, half of it 3 g, a quarter 1.5 g, a third 2 g (common practice).
func TestNearestSpoon(t *testing.T) {
	for _, c := range []struct {
		grams  Mass
		powder Density
		want   Spoon
		makes  Mass
	}{
		{3, DefaultPowder, Spoon{0, 1, 2}, 3},
		{1.5, DefaultPowder, Spoon{0, 1, 4}, 1.5},
		{2, DefaultPowder, Spoon{0, 1, 3}, 2},
		{6, DefaultPowder, Spoon{1, 0, 1}, 6},
		{3, 0.8, Spoon{0, 3, 4}, 3},
		{3, 1.0, Spoon{0, 2, 3}, 10.0 / 3},
		{9, DefaultPowder, Spoon{1, 1, 2}, 9},
		{0.1, DefaultPowder, Spoon{0, 1, 4}, 1.5},
		{11.9, DefaultPowder, Spoon{2, 0, 1}, 12},
	} {
		got := NearestSpoon(c.grams, c.powder)
		if got != c.want || math.Abs(float64(got.Mass(c.powder)-c.makes)) > 1e-9 {
			t.Errorf(
				"%v g at %v g/mL: %+v makes %v, want %+v makes %v",
				c.grams,
				c.powder,
				got,
				got.Mass(c.powder),
				c.want,
				c.makes,
			)
		}
	}
}

func FuzzParseHardness(f *testing.F) {
	for _, s := range []string{"14 °dH", "1e309 gpg", "NaN mmol/L", "-3 fh", "2 mg/L CaCO₃"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		if h, err := ParseHardness(s); err == nil && !(h >= 0 && h <= MaxHardness*1.0000001) {
			t.Errorf("%q was read as %v, outside what is allowed", s, h)
		}
	})
}
