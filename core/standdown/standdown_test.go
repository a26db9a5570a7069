package standdown

import (
	"errors"
	"math"
	"testing"
	"time"
	_ "time/tzdata"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

func facts(l machine.Layout, set ...string) machine.Facts {
	a := machine.Answers{Layout: l, Valve: machine.Yes, Overrides: map[string]string{}}
	for i := 0; i < len(set); i += 2 {
		a.Overrides[set[i]] = set[i+1]
	}
	return a.Facts()
}

func on(month time.Month, day int) time.Time {
	return time.Date(2026, month, day, 4, 0, 0, 0, time.UTC)
}

// A visit each week of the rest (common practice), none so near to the return that this does for it, none where nobody
// comes; over a change of the clocks a week is still seven of the machine's days.
func TestVisits(t *testing.T) {
	zone, err := time.LoadLocation("Europe/Oslo")
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		name     string
		from, to time.Time
		visited  bool
		want     []int // days after the first
	}{
		{"five weeks", on(1, 5), on(2, 9), true, []int{7, 14, 21, 28}},
		{"twelve days", on(1, 5), on(1, 17), true, []int{7}},
		{"nine days", on(1, 5), on(1, 14), true, nil},
		{"ten days", on(1, 5), on(1, 15), true, []int{7}},
		{"nobody comes", on(1, 5), on(2, 9), false, nil},
		{"summer time begins", time.Date(2026, 3, 25, 4, 0, 0, 0, zone), time.Date(2026, 4, 8, 4, 0, 0, 0, zone), true,
			[]int{7}},
	} {
		t.Run(c.name, func(t *testing.T) {
			got := Rest{From: c.from, To: c.to, Visited: c.visited}.Visits()
			if len(got) != len(c.want) {
				t.Fatalf("%v", got)
			}
			for i, days := range c.want {
				if want := c.from.AddDate(0, 0, days); !got[i].Equal(want) {
					t.Errorf("visit %d on %v, want %v", i+1, got[i], want)
				}
			}
		})
	}
	var bad *units.OutOfRange
	if err := (Rest{From: on(1, 5), To: on(1, 9)}).Check(); !errors.As(err, &bad) || bad.Field != "to" {
		t.Errorf("four days: %v", err)
	}
	if err := (Rest{From: on(1, 5), To: on(1, 10)}).Check(); err != nil {
		t.Errorf("five days: %v", err)
	}
}

// What counts as long (our own engineering choices): over four weeks, or over two between visits.
func TestLong(t *testing.T) {
	for _, c := range []struct {
		stood Stood
		want  bool
	}{
		{Stood{14, 0}, false}, {Stood{15, 0}, true}, {Stood{28, 3}, false}, {Stood{28, 1}, false}, {Stood{29, 4}, true},
		{Stood{35, 4}, true}, {Stood{28, 0}, true},
	} {
		if got := c.stood.Long(); got != c.want || c.stood.Because().Text == "" {
			t.Errorf("%+v: %v, %q", c.stood, got, c.stood.Because().Text)
		}
	}
}

// The groups of a café by what its waste pipe takes, worked by hand: three groups of 30 mL/s are 90; a pipe of 100
// takes
// all three, opened at 0, 12 and 24 s, the last shut after 324 s; one of 70 takes two, and the third is opened when
// the second is shut, at 312 s; one of 20 takes them one by one.
func TestOpenings(t *testing.T) {
	s := func(n int) time.Duration { return time.Duration(n) * time.Second }
	for _, c := range []struct {
		waste    string
		together int
		at       [3]time.Duration
		shut     time.Duration
	}{
		{"100", 3, [3]time.Duration{0, s(12), s(24)}, s(324)},
		{"90", 3, [3]time.Duration{0, s(12), s(24)}, s(324)},
		{"70", 2, [3]time.Duration{0, s(12), s(312)}, s(612)},
		{"20", 1, [3]time.Duration{0, s(300), s(600)}, s(900)},
	} {
		t.Run(c.waste, func(t *testing.T) {
			list, together := Openings(facts(machine.HXCafe, "groups", "3", "waste_ml_s", c.waste))
			if len(list) != 3 || together != c.together || list[2].Shut != c.shut {
				t.Fatalf("%d together: %v", together, list)
			}
			for i, want := range c.at {
				if list[i].At != want || list[i].Group != i+1 {
					t.Errorf("%+v, want it at %v", list[i], want)
				}
			}
		})
	}
}

// Turnover, worked by hand on eleven litres kept at 0.7 (7.7 L): a draw is 1.8 L at most, 1 − (1 − 1.8/7.7)³ = 55 %
// by three of them; 95 % take ⌈ln 0.05 ÷ ln(1 − 1.8/7.7)⌉ = ⌈11.26⌉ = 12. With a jug of a litre a draw is 0.85 L, and
// 95 % would take 26: twenty are asked for at most, and the share says what they renew.
func TestTurnover(t *testing.T) {
	large := facts(machine.HXCafe, "jug_l", "3")
	three, err := TurnoverOf(large, false)
	if err != nil || three.Draw != 1.8 || three.Draws != 3 || math.Abs(three.Renews.Value-0.55) > 0.005 {
		t.Errorf("%v %+v", err, three)
	}
	if all, err := TurnoverOf(large, true); err != nil || all.Draws != 12 || all.Renews.Value < 0.95 {
		t.Errorf("%v %+v", err, all)
	}
	if many, err := TurnoverOf(facts(machine.HXCafe, "jug_l", "1"), true); err != nil || many.Draws != MostDraws ||
		many.Renews.Value < 0.85 || many.Renews.Value > 0.95 {
		t.Errorf("%v %+v", err, many)
	}
	if none, err := TurnoverOf(facts(machine.SingleBoiler), true); err != nil || none.Draws != 0 {
		t.Errorf("a machine without a steam boiler: %v %+v", err, none)
	}
	var no *reason.Refusal
	if _, err := TurnoverOf(facts(machine.HXHome, "condition", "leaks"), true); !errors.As(err, &no) {
		t.Errorf("one that leaks: %v", err)
	}
}

// Three times what stands there, by hand: a boiler of 0.3 L and a line of 0.1 take ln 20 × 0.4 = 1.2 L.
func TestFlushed(t *testing.T) {
	if got := Flushed(facts(machine.SingleBoiler)); math.Abs(got.Value-1.198) > 0.001 {
		t.Errorf("%+v", got)
	}
}
