package job

import (
	"math"
	"testing"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/machine"
)

// TestWeighByHand: at 5 shots a day the fifty-shot school washes every 10 days: 36.5 times a year of 545 s and 3 g,
// that is 331.5 min and 109.5 g a year, 6.36 min and 2.1 g a week. By the night it is a seventh of it.
func TestWeighByHand(t *testing.T) {
	a := answers(machine.SingleBoiler, machine.Yes)
	a.Drinks = 5
	pick, err := care.Pick(a, care.SchoolFifty)
	if err != nil {
		t.Fatal(err)
	}
	r, err := Lay(a, pick, care.Declared(a), backflush.UsualPowder)
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		cafe           bool
		per            string
		minutes, grams float64
	}{{false, "week", 331.5 * 7 / 365, 109.5 * 7 / 365}, {true, "night", 331.5 / 365, 109.5 / 365}} {
		w := r.Weigh(c.cafe)
		if w.Per != c.per || math.Abs(w.Minutes.Value-c.minutes) > 0.01 || math.Abs(w.Grams.Value-c.grams) > 0.001 {
			t.Errorf("a %s: %v min, %v g, want %v and %v", w.Per, w.Minutes.Value, w.Grams.Value, c.minutes, c.grams)
		}
		if w.Clean != StaysClean {
			t.Errorf("every 50 shots is %s", w.Clean)
		}
	}
}

// TestCleanAfter: more shots are never cleaner, and each bound belongs to the cleaner side.
func TestCleanAfter(t *testing.T) {
	for _, c := range []struct {
		shots float64
		want  Cleanliness
	}{
		{0, Spotless}, {30, Spotless}, {30.1, StaysClean}, {70, StaysClean}, {71, SomeOil}, {150, SomeOil}, {151, Oily},
		{1e6, Oily},
	} {
		if got := CleanAfter(c.shots, 30); got != c.want {
			t.Errorf("%v shots: %s, want %s", c.shots, got, c.want)
		}
	}
	if got := CleanAfter(300, 1); got != StaysClean {
		t.Errorf("a café that washes every night stays %s", got)
	}
}
