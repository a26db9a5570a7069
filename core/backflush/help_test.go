package backflush

import (
	"strings"
	"testing"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
)

// What goes wrong in the middle is there for every machine, each with what to do
// and where to stop; what does not concern a machine is left out.
func TestHelpAtHand(t *testing.T) {
	titles := func(f machine.Facts) string {
		var list []string
		for _, h := range Help(f) {
			if h.Title == "" || len(h.Because) == 0 || len(h.Next) == 0 ||
				h.Because[0].Source.Kind != reason.Practice {
				t.Errorf("%+v is not said in full", h)
			}
			list = append(list, h.Title)
		}
		return strings.Join(list, "; ")
	}
	plain := titles(machine.Facts{Blind: "metal"})
	for _, word := range []string{"stuck", "No pressure", "brown", "soapy"} {
		if !strings.Contains(plain, word) {
			t.Errorf("%q is missing: %s", word, plain)
		}
	}
	if strings.Contains(plain, "drips") || strings.Contains(plain, "light") {
		t.Errorf("a metal blind and no counter: %s", plain)
	}
	if all := titles(machine.Facts{Blind: "rubber with a hole", Program: true}); !strings.Contains(all, "drips") ||
		!strings.Contains(all, "light") {
		t.Errorf("%s", all)
	}
}
