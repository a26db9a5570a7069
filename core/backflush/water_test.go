package backflush

import (
	"errors"
	"testing"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// A water backflush has two pulses after a drink, four to six at the end of a day (common practice).
func TestWaterPulses(t *testing.T) {
	for _, c := range []struct {
		name, kept string
		asked      int
		want       int // 0 is refused
	}{
		{"after each drink", "after each drink", 0, 2},
		{"at the end of the day", "daily", 0, 5},
		{"as asked", "daily", 4, 4},
		{"as asked after a drink", "after each drink", 6, 6},
		{"one is none", "daily", 1, 0},
		{"too many", "daily", 7, 0},
	} {
		t.Run(c.name, func(t *testing.T) {
			m, err := WaterPulses(machine.Facts{WaterOnly: c.kept}, c.asked)
			var bad *units.OutOfRange
			if c.want == 0 {
				if !errors.As(err, &bad) || bad.Field != "pulses" {
					t.Errorf("error %v", err)
				}
				return
			}
			if err != nil || m.Rinse.Count != c.want || m.ID != WaterOnly {
				t.Errorf("%d pulses, %v", m.Rinse.Count, err)
			}
		})
	}
}

// A pressurised basket stands in for the blind only with a disc in it, or where the gauge reaches 6 bar
// (common practice).
func TestPressurisedBasket(t *testing.T) {
	for _, c := range []struct {
		blind string
		fine  bool
	}{
		{machine.Pressurised, false}, {machine.PressurisedDisc, true}, {machine.PressurisedSix, true}, {"metal", true},
		{"not said", true},
	} {
		t.Run(c.blind, func(t *testing.T) {
			err := Ready(machine.Facts{Valve: machine.Solenoid, Blind: c.blind})
			var no *reason.Refusal
			if c.fine != (err == nil) || !c.fine && (!errors.As(err, &no) || no.Code != NotABlind || no.Field != "blind") {
				t.Errorf("%v", err)
			}
		})
	}
}
