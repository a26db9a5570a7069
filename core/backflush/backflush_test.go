package backflush

import (
	"errors"
	"math"
	"testing"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

func facts(v machine.Valve) machine.Facts {
	return machine.Facts{Valve: v, Stays: 30, Vents: 40, Groups: 1}
}

// A machine without a three-way valve must not be backflushed (common
// practice); can't tell counts as no, with how to find out.
func TestGate(t *testing.T) {
	for valve, want := range map[machine.Valve]reason.Verdict{
		machine.Solenoid: reason.Fine, machine.Cam: reason.Look, machine.NoValve: reason.Refused,
		machine.Unsure: reason.Refused,
	} {
		got := Gate(facts(valve))
		if got.Verdict != want || len(got.Because) == 0 || got.Title == "" {
			t.Errorf("%s: %+v, want %s with a reason", valve, got, want)
		}
		if want == reason.Refused && len(got.Next) == 0 {
			t.Errorf("%s is refused without saying what to do instead", valve)
		}
	}
}

// The half-teaspoon school: 3 g, 10/5 five times, then five with water, more
// in pairs (common practice).
func TestHalfTeaspoonSchool(t *testing.T) {
	m, err := Lookup(HalfTeaspoon)
	if err != nil {
		t.Fatal(err)
	}
	five := Pulses{10 * time.Second, 5 * time.Second, 5}
	if m.Dose != 3 || m.Detergent != five || m.Rinse != five || m.More.Count != 2 || m.Source.Kind != reason.Practice {
		t.Errorf("%+v", m)
	}
	if five.Length() != 75*time.Second {
		t.Errorf("five pulses of 10/5 take %v, want 75 s", five.Length())
	}
	if _, err := Lookup("fistful"); err == nil {
		t.Error("an unknown method was found")
	}
}

func TestDoseCard(t *testing.T) {
	m, _ := Lookup(HalfTeaspoon)
	for _, c := range []struct {
		powder units.Density
		spoon  units.Spoon
		grams  float64
	}{
		{1.2, units.Spoon{Num: 1, Den: 2}, 3},
		{0.8, units.Spoon{Num: 3, Den: 4}, 3},
		{1.0, units.Spoon{Num: 2, Den: 3}, 10.0 / 3},
	} {
		d, err := DoseFor(m, Detergent{Powder, c.powder})
		if err != nil || d.Spoon != c.spoon || math.Abs(d.Mass.Value-c.grams) > 1e-9 {
			t.Errorf("powder %v g/mL: %+v, %v", c.powder, d, err)
		}
	}
	for _, powder := range []units.Density{0, -1, 2.1, units.Density(math.NaN())} {
		_, err := DoseFor(m, Detergent{Powder, powder})
		var bad *units.OutOfRange
		if !errors.As(err, &bad) || bad.Field != "powder_g_tsp" {
			t.Errorf("powder of %v g/mL: %v", powder, err)
		}
	}
}

// Worked examples of the residue model, by hand (our own engineering choice,
// agreeing with the practice of five and five):
// 3 g in 70 mL is 43 g/L; × (3/7)^8 × e^(−50/30) = 9 mg/L.
// 2 g with three detergent pulses needs seven of water.
func TestResidueByHand(t *testing.T) {
	if got := Residue(3, 30, 40, 5, 5, 50); math.Abs(got-9.2) > 0.1 {
		t.Errorf("3 g, five and five: %.2f mg/L, want 9.2", got)
	}
	m, _ := Lookup(HalfTeaspoon)
	for _, c := range []struct {
		dose      units.Mass
		detergent int
		model     int
		least     int
	}{
		{3, 5, 5, 5}, {2, 3, 7, 7}, {1.5, 5, 5, 5}, {1.5, 10, 0, 5}, {6, 5, 6, 6}, {3, 0, 10, 10},
	} {
		r := LeastRinse(m, c.dose, facts(machine.Solenoid), c.detergent)
		if int(r.Model.Value) != c.model || r.Least != c.least {
			t.Errorf(
				"%v g after %d pulses: model %v, least %d, want %d and %d",
				c.dose,
				c.detergent,
				r.Model.Value,
				r.Least,
				c.model,
				c.least,
			)
		}
		if r.Residue.Value > Limit {
			t.Errorf("%v g after %d pulses leaves %.1f mg/L, over the limit", c.dose, c.detergent, r.Residue.Value)
		}
	}
}

func TestMoreRinseNeverLeavesMore(t *testing.T) {
	for det := 0; det < 12; det++ {
		for rinse := 0; rinse < 20; rinse++ {
			here := Residue(3, 30, 40, det, rinse, 50)
			if more := Residue(3, 30, 40, det, rinse+1, 50); more > here {
				t.Fatalf("%d+%d pulses leave %v, one more leaves %v", det, rinse, here, more)
			}
			if more := Residue(3, 30, 40, det, rinse, 60); more > here {
				t.Fatalf("a longer flush leaves more: %v after %v", more, here)
			}
		}
	}
}

// Ends when the discharge has no colour, no foam, at most 1–3 grains (common practice).
func TestCup(t *testing.T) {
	clear := 0
	for _, colour := range []Colour{ColourClear, ColourPale, ColourBrown, ColourDark} {
		for _, foam := range []Foam{FoamNone, FoamSome, FoamMuch} {
			for _, grains := range []Grains{GrainsNone, GrainsFew, GrainsSome, GrainsMany} {
				c := Cup{colour, foam, grains}
				if err := c.Check(); err != nil {
					t.Fatal(err)
				}
				if c.Clear() {
					clear++
				}
				first, third := c.Judge(1), c.Judge(3)
				if c.Clear() != (first.Verdict == reason.Fine) || len(first.Because) == 0 {
					t.Errorf("%+v: %+v", c, first)
				}
				if !c.Clear() && (third.Verdict != reason.Stop || len(third.Next) < 2) {
					t.Errorf("%+v three times: %+v, want a stop with what to do next", c, third)
				}
			}
		}
	}
	if clear != 2 {
		t.Errorf("%d cups count as clear, want two: none and 1-3 grains", clear)
	}
	for _, c := range []Cup{{"blue", FoamNone, GrainsNone}, {ColourClear, "", GrainsNone}, {ColourClear, FoamNone, "12"}} {
		if c.Check() == nil {
			t.Errorf("%+v was accepted", c)
		}
	}
}

// A tablet is one group; a soak bath takes a quarter teaspoon or a tablet
// (common practice).
func TestTabletsAndSoakBath(t *testing.T) {
	m, _ := Lookup(HalfTeaspoon)
	d, err := DoseFor(m, Detergent{Form: Tablets})
	if err != nil || d.Tablets != 1 || d.Amount() != 1 || d.Spoon != (units.Spoon{}) || d.Mass.Value != 3 {
		t.Errorf("a tablet: %+v, %v", d, err)
	}
	soak, err := SoakDose(UsualPowder)
	if err != nil || soak.Spoon != (units.Spoon{Num: 1, Den: 4}) || soak.Amount() != 1.5 {
		t.Errorf("soak bath: %+v, %v", soak, err)
	}
}
