package backflush

import (
	"errors"
	"math"
	"testing"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/units"
)

// One's own numbers hold where they are given, the method's where not; the rinse is never shorter
// than the residue asks for.
func TestOwnNumbers(t *testing.T) {
	f := machine.Answers{Layout: machine.HXHome, Valve: machine.Yes}.Facts()
	half, _ := Lookup(HalfTeaspoon)
	n := &Numbers{Name: " Closer's way ", Grams: 2, On: 8, Detergent: 4, Rinse: 3}
	if err := half.CheckNumbers(n, f); err != nil {
		t.Fatal(err)
	}
	own := half.With(n)
	if own.ID != HalfTeaspoon || own.Name != "Closer's way" || own.Dose != 2 ||
		own.Detergent != (Pulses{8 * time.Second, 5 * time.Second, 4}) || own.Rinse.Count != 3 ||
		own.Rinse.On != 8*time.Second {
		t.Errorf("%+v", own)
	}
	// by hand: 2 g in 70 mL, 2 pulses that count, e^(−50/30): 6 rinse pulses leave 6.2 mg/L, 5 leave 14
	r := LeastRinse(own, own.Dose, f, 4)
	if r.Least != 6 || math.Abs(r.Residue.Value-6.14) > 0.05 {
		t.Errorf("least %d, %.2f mg/L", r.Least, r.Residue.Value)
	}
	if same := half.With(nil); same.Name != half.Name || same.Dose != half.Dose {
		t.Errorf("without numbers: %+v", same)
	}
}

// What residue, tray and duty do not allow is refused at its field, with what is allowed.
func TestOwnNumbersRefused(t *testing.T) {
	home := map[string]string{"duty_on_min": "0.25", "duty_off_min": "1"}
	for name, c := range map[string]struct {
		id    MethodID
		n     Numbers
		set   map[string]string
		field string
	}{
		"no name":                      {HalfTeaspoon, Numbers{Name: "  ", Grams: 2}, nil, "numbers.name"},
		"a spoon heaped":               {HalfTeaspoon, Numbers{Name: "x", Grams: 9}, nil, "numbers.grams"},
		"longer than the pump may run": {HalfTeaspoon, Numbers{Name: "x", On: 12}, home, "numbers.on_s"},
		"no time to vent":              {HalfTeaspoon, Numbers{Name: "x", Off: 1}, nil, "numbers.off_s"},
		"two pulses":                   {HalfTeaspoon, Numbers{Name: "x", Detergent: 2}, nil, "numbers.detergent"},
		"a rinse without end":          {HalfTeaspoon, Numbers{Name: "x", Rinse: 31}, nil, "numbers.rinse"},
		"grams of a tablet":            {Tablet, Numbers{Name: "x", Grams: 2}, nil, "numbers.grams"},
		"pulses of a program":          {MachineProgram, Numbers{Name: "x", Detergent: 6}, nil, "numbers.detergent"},
		"more than the head gives up": {HalfTeaspoon, Numbers{Name: "x", Grams: 6, Detergent: 3},
			map[string]string{"stays_ml": "100", "vents_ml": "25"}, "numbers.grams"},
		"not a number": {HalfTeaspoon, Numbers{Name: "x", Grams: units.Mass(math.NaN())}, nil, "numbers.grams"},
	} {
		t.Run(name, func(t *testing.T) {
			f := machine.Answers{Layout: machine.HXHome, Valve: machine.Yes, Overrides: c.set}.Facts()
			m, _ := Lookup(c.id)
			var bad *units.OutOfRange
			if err := m.CheckNumbers(&c.n, f); !errors.As(err, &bad) || bad.Field != c.field || bad.Allowed == "" {
				t.Errorf("%v", err)
			}
		})
	}
}
