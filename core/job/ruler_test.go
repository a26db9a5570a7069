package job

import (
	"math"
	"testing"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
)

// Every school on the ruler, worked out by hand for one group at 3, 14 and 200
// shots a day. A wash takes 350 s by hand (ready 30, brush 45, dose 40, first dirty
// water 10, blind 45, cup 20, basket 40, outside 60, discard 60, which a café leaves to
// the morning) and its pulses, three of water first:
//
//	half-teaspoon  13 × 15 s                               545 s   3 g
//	soak           19 × 10 s, soak 180, wiggle 45           765 s   1.5 g
//	ten and five   23 × 15 s, screen put off 10             705 s   2 g
//	short pulse    13 × 7 s                                 441 s   0.75 g
//	three pulses   6 + 7 × 20 s, wiggle 45                  655 s   2 g
//	tablet         23 × 20 s, look whether it is gone 20    830 s   3 g
//	program        390 s, 8 × 15 s, look 20                 880 s   3 g
//
// A kilogram is 55.6 doubles; 200 on the counter 100 drinks with a flush each;
// limits by use are capped at 30 days.
func TestRulerByHand(t *testing.T) {
	kilo := 1000.0 / 18
	for _, c := range []struct {
		school  care.SchoolID
		days    [3]float64
		grams   float64
		seconds float64
	}{
		{care.SchoolFifty, [3]float64{50.0 / 3, 50.0 / 14, 0.25}, 3, 545},
		{care.SchoolClose, [3]float64{1, 1, 1}, 3, 545},
		{care.SchoolSoak, [3]float64{7, 7, 7}, 1.5, 765},
		{care.SchoolTen, [3]float64{14, 14, 14}, 2, 705},
		{care.SchoolPinch, [3]float64{1, 1, 1}, 0.75, 441},
		{care.SchoolThree, [3]float64{kilo / 3, kilo / 14, kilo / 200}, 2, 655},
		{care.SchoolTablet, [3]float64{30, 30, 30}, 3, 830},
		{care.SchoolProgram, [3]float64{30, 100.0 / 14, 0.5}, 3, 880},
		{care.SchoolSeldom, [3]float64{81, 81, 81}, 2, 705},
	} {
		for i, drinks := range []float64{3, 14, 200} {
			a := answers(machine.SingleBoiler, machine.Yes)
			a.Drinks, a.Overrides = drinks, map[string]string{"own_program": "yes"}
			pick, err := care.Pick(a, c.school)
			if err != nil {
				t.Fatal(err)
			}
			r, err := Lay(a, pick, care.Declared(a), backflush.UsualPowder)
			if err != nil {
				t.Fatal(err)
			}
			times, seconds := 365/c.days[i], c.seconds
			if cafe, _ := a.Cafe(); cafe {
				seconds -= 60
			}
			for what, pair := range map[string][2]float64{
				"days": {r.Days.Value, c.days[i]}, "shots": {r.Shots.Value, drinks * c.days[i]}, "washes": {r.Times.Value, times},
				"grams": {r.Grams.Value, times * c.grams}, "minutes": {r.Minutes.Value, times * seconds / 60},
			} {
				if math.Abs(pair[0]-pair[1]) > 1e-9*pair[1] {
					t.Errorf("%s at %v a day: %s %v, by hand %v", c.school, drinks, what, pair[0], pair[1])
				}
			}
		}
	}
	// 4 drinks a day over two groups: every 25 days each, 29.2 washes a year
	two := answers(machine.DualHome, machine.Yes)
	two.Overrides = map[string]string{"groups": "2"}
	r, err := Lay(two, care.Choice{}, care.Declared(two), backflush.UsualPowder)
	if err != nil || r.Days.Value != 25 || math.Abs(r.Times.Value-29.2) > 1e-9 {
		t.Errorf("two groups: %v days, %v a year, %v", r.Days.Value, r.Times.Value, err)
	}
}

// A method the machine cannot follow has no figures but a reason; by hand it
// is 15 minutes and no detergent.
func TestRulerWhereItDoesNotFit(t *testing.T) {
	a := answers(machine.SingleBoiler, machine.Yes)
	pick, _ := care.Pick(a, care.SchoolProgram)
	if r, err := Lay(a, pick, care.Declared(a), backflush.UsualPowder); err != nil ||
		r.Fits.Verdict != reason.Refused ||
		len(r.Fits.Next) == 0 ||
		r.Days.Name != "" {
		t.Errorf("no program: %+v, %v", r.Fits, err)
	}
	seldom, _ := care.Pick(a, care.SchoolSeldom)
	if r, _ := Lay(a, seldom, care.Declared(a), backflush.UsualPowder); r.Fits.Verdict != reason.Look {
		t.Errorf("81 days: %+v", r.Fits)
	}
	hand := answers(machine.SingleBoiler, machine.No)
	r, err := Lay(hand, care.Choice{}, care.Declared(hand), backflush.UsualPowder)
	if err != nil || r.Grams.Value != 0 || math.Abs(r.Minutes.Value-365.0/30*15) > 1e-9 {
		t.Errorf("by hand: %v g, %v min, %v", r.Grams.Value, r.Minutes.Value, err)
	}
}

// Every method's plan is complete and passes its own check; the rinse is what
// the residue model asks for where that is more: three detergent pulses of 2 g
// need seven of water.
func TestEveryMethodPlans(t *testing.T) {
	for id, want := range map[backflush.MethodID][]string{
		backflush.HalfTeaspoon: {"ready", "brush", "water", "dose", "detergent", "first", "blind", "rinse", "cup", "basket",
			"outside", "discard"},
		backflush.Soak: {"ready", "brush", "water", "dose", "short", "soak", "detergent", "first", "blind",
			"rinse", "cup", "wiggle", "basket", "outside", "discard"},
		backflush.TenAndFive: {"ready", "brush", "water", "dose", "detergent", "first", "blind", "rinse", "cup",
			"basket", "outside", "discard", "screen"},
		backflush.ShortPulse: {"ready", "brush", "water", "dose", "detergent", "first", "blind", "rinse", "cup", "basket",
			"outside", "discard"},
		backflush.ThreePulse: {"ready", "brush", "water", "dose", "detergent", "first", "blind", "rinse", "cup", "wiggle",
			"basket", "outside", "discard"},
		backflush.Tablet: {"ready", "brush", "water", "dose", "detergent", "first", "gone", "blind", "rinse", "cup", "basket",
			"outside", "discard"},
		backflush.MachineProgram: {"ready", "brush", "water", "dose", "program", "first", "gone", "blind", "rinse", "cup",
			"basket", "outside", "discard"},
		backflush.WaterOnly: {"ready", "blind", "rinse", "basket"},
	} {
		a := answers(machine.HXHome, machine.Yes)
		a.Overrides = map[string]string{"own_program": "yes"}
		p, err := Wash(a, id, backflush.UsualPowder, Target{Group: 1})
		if err != nil {
			t.Errorf("%s: %v", id, err)
			continue
		}
		if len(p.Steps()) != len(want) {
			t.Errorf("%s: %d steps, want %d", id, len(p.Steps()), len(want))
			continue
		}
		for i, s := range p.Steps() {
			if s.ID != want[i] || len(s.Do) == 0 || len(s.Cautions) == 0 || s.Button == "" || s.Head == "" {
				t.Errorf("%s: step %d is %s, want %s in full", id, i, s.ID, want[i])
			}
		}
		if least := map[backflush.MethodID]int{backflush.ThreePulse: 7, backflush.Soak: 6, backflush.TenAndFive: 10,
			backflush.Tablet: 10}[id]; least > 0 &&
			p.Activities[0].Wash.Rinse.Least != least {
			t.Errorf("%s: least rinse %d, want %d", id, p.Activities[0].Wash.Rinse.Least, least)
		}
		if p.Activities[0].Wash.Dose != nil && p.Activities[0].Wash.Rinse.Residue.Value > backflush.Limit {
			t.Errorf("%s leaves %.1f mg/L", id, p.Activities[0].Wash.Rinse.Residue.Value)
		}
		if (p.Activities[0].Wash.Dose == nil) != (id == backflush.WaterOnly) {
			t.Errorf("%s: dose %+v", id, p.Activities[0].Wash.Dose)
		}
	}
	if _, err := Wash(answers(machine.HXHome, machine.Yes), backflush.MachineProgram, backflush.UsualPowder,
		Target{Group: 1}); err == nil {
		t.Error("a program was planned on a machine that has none")
	}
	// the largest dose of any method counts as left in, whatever is chosen now
	p, err := Wash(
		answers(machine.HXHome, machine.Yes),
		backflush.ShortPulse,
		backflush.UsualPowder,
		Target{Group: 1, Dirty: true},
	)
	if err != nil || p.Activities[0].Wash.Rinse.Least != 10 || p.Activities[0].Task != task.Rinse {
		t.Errorf("rinse only: %d, %v", p.Activities[0].Wash.Rinse.Least, err)
	}
}

// Water only, by hand, one group at 4 drinks a day: ready 30 s, blind 20,
// basket 30 and five pulses of 13 s are 145 s; two pulses after a drink 0.75 min.
func TestWaterOnTheRuler(t *testing.T) {
	a := answers(machine.SingleBoiler, machine.Yes)
	want := map[string][3]float64{
		"after each drink":   {0.25, 4 * 365, 4 * 365 * 0.75},
		"daily":              {1, 365, 365 * 145.0 / 60},
		"a few times a week": {3, 365.0 / 3, 365.0 / 3 * 145 / 60},
	}
	for _, w := range care.Waters() {
		r, err := LayWater(a, w, care.Declared(a))
		if err != nil {
			t.Fatal(err)
		}
		got := [3]float64{r.Days.Value, r.Times.Value, r.Minutes.Value}
		for i := range got {
			if math.Abs(got[i]-want[w.Answer][i]) > 1e-9*want[w.Answer][i] {
				t.Errorf("%s: %v, by hand %v", w.Answer, got, want[w.Answer])
			}
		}
		if r.Grams.Value != 0 || w.Why == "" {
			t.Errorf("%s: %v g", w.Answer, r.Grams.Value)
		}
	}
}
