package job

import (
	"errors"
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"freshanvil/core/backflush"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

func answers(l machine.Layout, v machine.Answer) machine.Answers {
	return machine.Answers{
		Layout:    l,
		Valve:     v,
		Drinks:    4,
		Hardness:  units.UnknownHardness(),
		Treatment: machine.Untreated,
	}
}

// The half-teaspoon school's order (common practice): brush and flush, water first, dose,
// pulses, empty the blind, water pulses, look, basket back and flush, wipe, discard.
func TestWashOrder(t *testing.T) {
	p, err := Wash(
		answers(machine.DualHome, machine.Yes),
		backflush.HalfTeaspoon,
		backflush.UsualPowder,
		Target{Group: 1},
	)
	if err != nil {
		t.Fatal(err)
	}
	want := []string{"ready", "brush", "water", "dose", "detergent", "first", "blind", "rinse", "cup", "basket",
		"outside", "discard"}
	if len(p.Steps()) != len(want) {
		t.Fatalf("%d steps, want %d", len(p.Steps()), len(want))
	}
	for i, s := range p.Steps() {
		if s.ID != want[i] || s.Lane != Hands || s.Part != machine.Group(1) || s.Title == "" || s.Button == "" ||
			len(s.Do) == 0 {
			t.Errorf("step %d: %+v, want %s in full", i, s, want[i])
		}
		if len(s.Cautions) == 0 {
			t.Errorf("step %s shows no caution", s.ID)
		}
	}
	// by hand: 13 pulses of 40 mL, two flushes and the first shot of 50 mL
	if p.TankUses.Value != 670 || math.Abs(p.TrayGets.Value-682) > 1e-9 {
		t.Errorf("tank %v, tray %v mL, want 670 and 682", p.TankUses.Value, p.TrayGets.Value)
	}
	if p.Activities[0].Wash.Dose.Mass.Value != 3 || p.Activities[0].Wash.Rinse.Least != 5 {
		t.Errorf("dose %v g, least rinse %d", p.Activities[0].Wash.Dose.Mass.Value, p.Activities[0].Wash.Rinse.Least)
	}
}

func TestWashRefused(t *testing.T) {
	for _, v := range []machine.Answer{machine.No, machine.CannotTell} {
		_, err := Wash(
			answers(machine.SingleBoiler, v),
			backflush.HalfTeaspoon,
			backflush.UsualPowder,
			Target{Group: 1},
		)
		var no *reason.Refusal
		if !errors.As(err, &no) || len(no.Finding.Because) == 0 || len(no.Finding.Next) == 0 {
			t.Errorf("valve %s: %v, want a refusal with its reason", v, err)
		}
	}
	for _, c := range []struct {
		group  int
		method backflush.MethodID
		field  string
	}{{0, backflush.HalfTeaspoon, "parts"}, {2, backflush.HalfTeaspoon, "parts"}, {1, "fistful", "method"}} {
		_, err := Wash(
			answers(machine.SingleBoiler, machine.Yes),
			c.method,
			backflush.UsualPowder,
			Target{Group: c.group},
		)
		var bad *units.OutOfRange
		if !errors.As(err, &bad) || bad.Field != c.field {
			t.Errorf("group %d, %s: %v", c.group, c.method, err)
		}
	}
}

// A group that already holds detergent is only rinsed, as if the whole dose
// still lay in it: ten pulses by the residue model.
func TestRinseOnlyTakesTheWholeDose(t *testing.T) {
	p, err := Wash(
		answers(machine.SingleBoiler, machine.Yes),
		backflush.HalfTeaspoon,
		backflush.UsualPowder,
		Target{Group: 1, Dirty: true},
	)
	if err != nil {
		t.Fatal(err)
	}
	for _, s := range p.Steps() {
		if s.Effect == Doses || s.ID == "detergent" {
			t.Errorf("a rinse puts detergent in at %s", s.ID)
		}
	}
	if p.Activities[0].Wash.Rinse.Least != 10 || p.Activities[0].Wash.Dose != nil {
		t.Errorf("least rinse %d, want 10", p.Activities[0].Wash.Rinse.Least)
	}
}

func TestEveryLayoutWithAValveHasASafePlan(t *testing.T) {
	for _, l := range machine.Layouts() {
		if l == machine.LeverManual {
			continue
		}
		a := answers(l, machine.Yes)
		for g := 1; g <= a.Facts().Groups; g++ {
			for _, dirty := range []bool{false, true} {
				if _, err := Wash(a, backflush.HalfTeaspoon, backflush.UsualPowder, Target{Group: g, Dirty: dirty}); err != nil {
					t.Errorf("%s group %d, dirty %v: %v", l, g, dirty, err)
				}
			}
		}
	}
}

// loose is a plan of its own whose steps wait for nothing.
func loose(p Plan) Plan {
	p.Order = slices.Clone(p.Order)
	p.Activities = slices.Clone(p.Activities)
	for i := range p.Activities {
		a := &p.Activities[i]
		a.Steps = slices.Clone(a.Steps)
		for j := range a.Steps {
			a.Steps[j].After = nil
		}
	}
	return p
}

// Whatever the order of the steps, the plan passes only if detergent never
// stays and no drink is made before the proof. The oracle below restates the
// rule by positions instead of walking the steps.
func TestUnsafeOrdersAreRefused(t *testing.T) {
	base, err := Wash(
		answers(machine.SingleBoiler, machine.Yes),
		backflush.HalfTeaspoon,
		backflush.UsualPowder,
		Target{Group: 1},
	)
	if err != nil {
		t.Fatal(err)
	}
	random := rand.New(rand.NewPCG(1, 2))
	passed := 0
	for range 20000 {
		p := loose(base)
		// a few swaps keep safe orders in reach
		for range 1 + random.IntN(4) {
			i, j := random.IntN(len(p.Order)), random.IntN(len(p.Order))
			p.Order[i], p.Order[j] = p.Order[j], p.Order[i]
		}
		at := map[string]int{}
		for i, s := range p.Steps() {
			at[s.ID] = i
		}
		safe := (at["water"] < at["dose"] || at["water"] > at["basket"]) && at["dose"] < at["detergent"] &&
			at["detergent"] < at["blind"] &&
			at["blind"] < at["rinse"] && at["rinse"] < at["cup"] && at["cup"] < at["basket"] &&
			(at["discard"] > at["basket"] || at["discard"] < at["dose"])
		if err := p.Check(); (err == nil) != safe {
			t.Fatalf("order %v: %v, safe %v", at, err, safe)
		}
		if safe {
			passed++
		}
	}
	if passed == 0 {
		t.Error("no safe order came up: the test proves nothing")
	}
	short := loose(base)
	rinse := &short.Activities[0].Steps[7]
	pulses, _ := BodyOf[Pulses](*rinse)
	pulses.Count = 4
	rinse.Body = pulses
	if short.Check() == nil {
		t.Error("a rinse of four pulses passed, the least is five")
	}
	if waits := base; waits.Check() != nil {
		t.Error("the plan as composed does not pass")
	}
	swapped := base
	swapped.Order = slices.Clone(base.Order)
	swapped.Order[0], swapped.Order[1] = swapped.Order[1], swapped.Order[0]
	if swapped.Check() == nil {
		t.Error("a step before the one it waits for passed")
	}
}
