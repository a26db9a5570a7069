package speak

import "testing"

func TestFirstLetters(t *testing.T) {
	for in, want := range map[string][2]string{"": {"", ""}, "descale": {"Descale", "descale"}, "Öl": {"Öl", "öl"},
		"étage": {"Étage", "étage"}, "7 g": {"7 g", "7 g"}} {
		if got := Upper(in); got != want[0] {
			t.Errorf("Upper(%q) is %q", in, got)
		}
		if got := Lower(in); got != want[1] {
			t.Errorf("Lower(%q) is %q", in, got)
		}
	}
}

func TestMinutes(t *testing.T) {
	for in, want := range map[float64]string{0: "less than a minute", 0.4: "less than a minute", 0.6: "1 min", 1: "1 min",
		59.6: "60 min", 89: "89 min", 90: "1 h 30 min", 92: "1 h 30 min", 93: "1 h 35 min", 119: "2 h 00 min",
		379: "6 h 20 min"} {
		if got := Minutes(in); got != want {
			t.Errorf("%v minutes are %q, want %q", in, got, want)
		}
	}
}

func TestTimes(t *testing.T) {
	for n, want := range map[int]string{1: "Once", 2: "2 times", 10: "10 times"} {
		if got := Times(n); got != want {
			t.Errorf("%d is %q, want %q", n, got, want)
		}
	}
}
