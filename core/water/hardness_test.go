package water

import (
	"errors"
	"math"
	"strings"
	"testing"

	"freshanvil/core/units"
)

// The pads of a strip meet without a gap, and stand for mg/L by the definition of °dH
// (17.848 mg/L, published).
func TestTurnedPads(t *testing.T) {
	last := 0.0
	for _, p := range Strip() {
		r, err := Turned(p.Turned)
		if err != nil || p.Low != last || math.Abs(r.Low-17.848*p.Low) > 0.02 || math.Abs(r.High-17.848*p.High) > 0.02 ||
			!(r.Low < r.Likely && r.Likely < r.High) {
			t.Errorf("%d pads: %+v of %+v, %v", p.Turned, r, p, err)
		}
		last = p.High
	}
	for _, none := range []int{-1, 5} {
		var never *units.OutOfRange
		if _, err := Turned(none); !errors.As(err, &never) || never.Field != "pads" {
			t.Errorf("%d pads: %v", none, err)
		}
	}
}

// 14 °dH by the definitions of the units: 249.9 mg/L, 2.497 mmol/L, 24.99 °fH,
// 17.53 °e, 14.60 gpg (published); very hard by USGS, medium by WRMG.
func TestAReadingInAllUnits(t *testing.T) {
	v, err := units.NewHardness(14, units.GermanDegree)
	if err != nil {
		t.Fatal(err)
	}
	h := units.HardnessReading{Likely: v, Low: v, High: v, Known: true}
	want := map[units.HardnessUnit]float64{
		units.MgPerLCaCO3:  249.87,
		units.MmolPerL:     2.4966,
		units.GermanDegree: 14,
		units.FrenchDegree: 24.987,
		units.ClarkDegree:  17.530,
		units.GrainPerUSG:  14.597,
	}
	list := InAllUnits(h)
	for _, in := range list {
		if math.Abs(in.Shown.Value-want[in.Unit]) > 0.003 || in.Shown.Unit != in.Unit.Symbol() {
			t.Errorf("%s: %v %s, want %v", in.Unit, in.Shown.Value, in.Shown.Unit, want[in.Unit])
		}
	}
	usgs, wrmg := Classes(h)
	if len(list) != 6 || usgs.Likely != "very hard" || wrmg.Likely != "medium" {
		t.Errorf("%d units, %+v, %+v", len(list), usgs, wrmg)
	}
}

func TestAnUnknownHardnessSpansItsClasses(t *testing.T) {
	usgs, wrmg := Classes(units.UnknownHardness())
	if usgs.Low != "soft" || usgs.High != "very hard" || wrmg.Low != "soft" || wrmg.High != "hard" {
		t.Errorf("%+v, %+v", usgs, wrmg)
	}
	if !strings.Contains(Note(units.UnknownHardness()), "30 to 400") {
		t.Error("the range is not said")
	}
}
