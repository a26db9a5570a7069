package reason_test

import (
	"math"
	"testing"

	"freshanvil/core/reason"
)

// A formula computes what its text says, by the usual ranks and with the signs that are printed.
func TestFormulaComputesWhatItSays(t *testing.T) {
	inputs := []reason.Input{{Symbol: "a", Value: 6}, {Symbol: "b_1", Value: 3}, {Symbol: "little", Value: 0.5}}
	for text, want := range map[string]float64{
		"a + b_1 × 2":                   12,
		"(a + b_1) × 2":                 18,
		"a − b_1 − 1":                   2,
		"a ÷ b_1 ÷ 2":                   1,
		"−a ^ 2":                        -36,
		"2 ^ b_1 ^ 2":                   512,
		"min(a, b_1, 1) + max(a, 9)":    10,
		"exp(ln(a)) + ceil(little)":     7,
		"floor(1 − exp(−little × b_1))": 0,
		"a × 1.5":                       9,
	} {
		t.Run(text, func(t *testing.T) {
			f, err := reason.ParseFormula(text)
			if err != nil {
				t.Fatal(err)
			}
			w := f.Of("n", "", reason.Ours, inputs)
			if math.Abs(w.Value-want) > 1e-12 || w.Low != w.Value || w.High != w.Value || w.Spread != "" {
				t.Errorf("%v (%v to %v, %q), want %v", w.Value, w.Low, w.High, w.Spread, want)
			}
			if w.Formula != text {
				t.Errorf("shown as %q", w.Formula)
			}
			if other, err := evaluate(text, map[string]float64{"a": 6, "b_1": 3, "little": 0.5}); err != nil ||
				math.Abs(other-w.Value) > 1e-12 {
				t.Errorf("the reader of the test gives %v, %v", other, err)
			}
		})
	}
	for _, text := range []string{"", "a +", "(a", "a b)", "a × × b", "sin(a)", "min(a)", "exp(a, b)", "1.2.3", "a)"} {
		t.Run("bad "+text, func(t *testing.T) {
			if _, err := reason.ParseFormula(text); err == nil {
				t.Error("it was read")
			}
		})
	}
}

// What the inputs may be, given or worked out, reaches the answer, and so does what a range means.
func TestFormulaCarriesRanges(t *testing.T) {
	worked := reason.Worked{Name: "w", Value: 2, Low: 1, High: 4, Spread: reason.Chance}
	given := reason.Input{Symbol: "g", Value: 10}.Ranged(5, 20)
	for _, c := range []struct {
		name, formula string
		low, high     float64
		spread        reason.Spread
	}{
		{"worked alone", "w × 3", 3, 12, reason.Chance},
		{"given alone", "g + 1", 6, 21, reason.Bounds},
		{"falls with one, rises with the other", "g ÷ w", 1.25, 20, reason.Bounds},
		{"capped on both sides", "min(3, g)", 3, 3, ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			w := reason.MustFormula(c.formula).Of("n", "", reason.Ours, []reason.Input{worked.AsInput("w"), given})
			if w.Low != c.low || w.High != c.high || w.Spread != c.spread {
				t.Errorf("%v to %v, %q; want %v to %v, %q", w.Low, w.High, w.Spread, c.low, c.high, c.spread)
			}
		})
	}
}
