package reason

import (
	"encoding/json"
	"math"
	"testing"
)

// No number is told finer than it is good for.
func TestFigure(t *testing.T) {
	for _, c := range []struct {
		value float64
		unit  string
		want  string
	}{
		{9.21, "mg/L", "9"}, {0.4, "mg/L", "0"}, {312.3, "mg/L", "310"}, {62.6, "g", "63"}, {44.6, "g", "45"},
		{33.8, "K", "34"}, {12848, "min", "13000"}, {1752, "a year", "1800"}, {365, "a year", "365"},
		{1.83, "L", "1.8"}, {0.054, "mm", "0.054"}, {1.02, "L", "1"}, {-2.04, "mm", "-2"}, {0, "g", "0"},
		{1.5e+02, "mL", "150"}, {56, "shots", "56"}, {0.115, "mm", "0.12"}, {99.96, "g", "100"},
	} {
		if got := Figure(c.value, c.unit); got != c.want {
			t.Errorf("%v %s is told as %s, want %s", c.value, c.unit, got, c.want)
		}
	}
}

func FuzzStep(f *testing.F) {
	f.Add(9.21, "mg/L")
	f.Fuzz(func(t *testing.T, value float64, unit string) {
		step := Step(value, unit)
		if !(step > 0) || math.IsInf(step, 0) {
			t.Errorf("%v %s: %v", value, unit, step)
		}
		if v := math.Abs(value); v >= 1 && v < 1e300 && math.Abs(math.Round(value/step)*step-value) > 0.51*step {
			t.Errorf("%v %s is told %v off", value, unit, step)
		}
	})
}

// On the wire a number carries its step, and reads back as it was.
func TestWorkedOnTheWire(t *testing.T) {
	w := Worked{Name: "n", Value: 9.21, Low: 8, High: 10, Spread: Bounds, Unit: "mg/L", Formula: "a", Source: Ours}
	text, err := json.Marshal(w)
	if err != nil {
		t.Fatal(err)
	}
	var wire struct{ Step, Value, Low float64 }
	var back Worked
	if json.Unmarshal(text, &wire) != nil || json.Unmarshal(text, &back) != nil || wire.Step != 1 || wire.Low != 8 ||
		back.Value != 9.21 || back.Spread != Bounds {
		t.Errorf("%s: %+v, %+v", text, wire, back)
	}
}
