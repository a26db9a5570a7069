package water

import (
	"strings"
	"testing"
)

// An invented supplier's report, in its own units; what does not matter is passed
// over, and every bad line is told.
func TestReadReport(t *testing.T) {
	commas, _, first := ReadReport("parameter;value;unit\nTotal hardness;12,5-14,5;°dH\nCalcium;78,5;mg/L\n")
	if len(first) != 0 || commas.Calcium.Likely != 78.5 || commas.Hardness.Low >= commas.Hardness.High {
		t.Errorf("commas in numbers: %+v, %+v", commas, first)
	}
	_, _, first = ReadReport("parameter;value;unit\nTotal hardness;14;°dH\nCalcium;1,250;mg/L\n")
	if len(first) != 1 || first[0].Line != 3 || first[0].Field != "calcium" ||
		first[0].Allowed != "1.250 or 1250, whichever it is" {
		t.Errorf("a comma that may part thousands: %+v", first)
	}
	s, passed, bad := ReadReport(
		"Parameter,Value,Unit\npH,7.4,\nTotal hardness,14,°dH\nCalcium,78,mg/L\nBicarbonate,240,mg/L\n" +
			"Sodium,12..18,mg/L\nNitrate,9,mg/L\nSulfate,<30,mg/L\nConductivity,52,mS/m\n\n",
	)
	if len(bad) != 0 || passed != 1 {
		t.Fatalf("%d passed over, bad %+v", passed, bad)
	}
	// by hand: 14 × 17.848 = 249.9; 240 × 0.8202 = 196.8; 52 mS/m are 520 µS/cm
	for what, c := range map[string][2]float64{"hardness": {s.Hardness.Likely, 249.87},
		"alkalinity": {s.Alkalinity.Likely, 196.84}, "conductivity": {s.Conductivity.Likely, 520},
		"sodium, high": {s.Sodium.High, 18}, "sulfate, high": {s.Sulfate.High, 30}, "sulfate, low": {s.Sulfate.Low, 0}} {
		if d := c[0] - c[1]; d > 0.01 || d < -0.01 {
			t.Errorf("%s: %v, want %v", what, c[0], c[1])
		}
	}
	_, _, bad = ReadReport(
		"parameter,value,unit\nhardness,many,mg/L\ncalcium,40,bushels\nph,7,\nph,8,\nchloride,99999,mg/L\n",
	)
	if len(bad) != 4 || bad[0].Line != 2 || bad[1].Line != 3 || bad[2].Line != 5 || bad[3].Line != 6 {
		t.Errorf("bad lines: %+v", bad)
	}
	for text, field := range map[string]string{"": "header", "a,b\n1,2\n": "header",
		"parameter,value\nnitrate,5\n": "parameter", "parameter,value,unit\nhardness,100,mg/L " +
			"CaCO3\ncalcium,300,mg/L\n": "ca_mg_l"} {
		if _, _, bad := ReadReport(text); len(bad) != 1 || bad[0].Field != field {
			t.Errorf("%q: %+v, want %s", text, bad, field)
		}
	}
}

func FuzzReadReport(f *testing.F) {
	f.Add("parameter,value,unit\nhardness,14,°dH\n")
	f.Add("parameter;value\npH;<7\n")
	f.Fuzz(func(t *testing.T, text string) {
		s, _, bad := ReadReport(text)
		if len(bad) > 0 {
			return
		}
		if _, err := s.Fill(); err != nil && !strings.Contains(err.Error(), "equilibrium") {
			t.Fatalf("%q is taken, and is no water: %v", text, err)
		}
	})
}
