package diagnose

import (
	"testing"

	"freshanvil/core/inspect"
	"freshanvil/core/machine"
)

// Each look that sends somebody on to look for a cause names a symptom that can be noticed on every machine on which
// the thing is looked at.
func TestLooksLeadToSymptoms(t *testing.T) {
	for _, l := range machine.Layouts() {
		f := machine.Answers{Layout: l, Valve: machine.Yes}.Facts()
		for _, c := range inspect.Walk(f, true) {
			for _, seen := range c.Seen {
				if seen.Symptom == "" {
					continue
				}
				if d, err := Diagnose(f, SymptomID(seen.Symptom), nil, nil); err != nil || len(d.Causes) == 0 {
					t.Errorf("%s: %s found %s leads to %q: %v", l, c.Sight, seen.Verdict, seen.Symptom, err)
				}
			}
		}
	}
}
