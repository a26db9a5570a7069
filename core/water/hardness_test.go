package water

import (
	"math"
	"strings"
	"testing"

	"freshanvil/core/units"
)

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
