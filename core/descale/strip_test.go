package descale

import (
	"math"
	"testing"

	"freshanvil/core/units"
)

// Citric acid of 30 g/L at pH 2.7 took up about 2.8 g/L (worked from the acid's own
// constants). What a fill leaves behind counts once.
func TestTallyCountsALeftoverOnce(t *testing.T) {
	var one Tally
	s := Strip{PH: 2.7, Meter: true}
	one.Add(Citric, 30, s, 1, 0)
	if one.Likely < 2.6 || one.Likely > 3.0 || one.AtLeast {
		t.Errorf("%+v", one)
	}
	one.Carry(0.5)
	was := one.Likely
	one.Add(Citric, 30, s, 1, 0) // half of it is the first fill's
	if got := one.Likely - was; math.Abs(got-was/2) > 1e-9 {
		t.Errorf("the second fill adds %v, want half of %v", got, was)
	}
	one.Add(Citric, 30, Strip{None: true}, 1, 0)
	if sum, any := Sum(one, Tally{}); !any || !sum.AtLeast || sum.Grams.Likely != one.Likely {
		t.Errorf("with one unread: %+v", sum)
	}
	if _, any := Sum(Tally{Fills: 1, AtLeast: true}); any {
		t.Error("nothing was read, and something is said")
	}
}

func TestStrips(t *testing.T) {
	if err := (Strip{PH: 15}).Check(); err == nil {
		t.Error("pH 15 is read")
	}
	if err := (Strip{PH: 3}).CheckFeed(); err == nil {
		t.Error("a feed of pH 3 is rinsed with")
	}
	feed := Strip{PH: 7.5, Meter: true}
	for _, c := range []struct {
		name string
		s    Strip
		want bool
		need int
	}{
		{"a strip one step off", Strip{PH: 7.0}, true, 2},
		{"and tasted", Strip{PH: 7.4, Taste: TasteGone}, true, 2},
		{"a strip two steps off", Strip{PH: 6.5}, false, 2},
		{"a meter within 0.3", Strip{PH: 7.2, Meter: true}, true, 1},
		{"a meter 0.4 off", Strip{PH: 7.1, Meter: true}, false, 1},
		{"it tastes of acid", Strip{PH: 7.5, Taste: TasteAcid}, false, 2},
		{"not read", Strip{None: true, Taste: TasteGone}, false, 2},
	} {
		t.Run(c.name, func(t *testing.T) {
			if c.s.Matches(feed) != c.want || c.s.Needs() != c.need {
				t.Errorf("beside 7.5: %v, needs %d", c.s.Matches(feed), c.s.Needs())
			}
		})
	}
	if !(Strip{PH: 7, Meter: true}).Matches(Strip{PH: 7.5}) {
		t.Error("a feed read by a strip is known to a step of its scale, no finer")
	}
}

// What may stay: a ten-thousandth, or less where the feed buffers little. By hand: citric acid
// of 30 g/L is 468 meq/L; a feed of 20 mg/L alkalinity at pH 7.6 holds 0.4 meq/L, so
// 0.4 ÷ (19.8 × 468) = 4.3e-5.
func TestLimitByTheFeed(t *testing.T) {
	for _, c := range []struct {
		alkalinity units.Alkalinity
		ph         units.PH
		want       float64
	}{
		{20, 7.6, 4.31e-5}, {160, 7.6, 1e-4}, {50, 8.3, 2.35e-5}, {0, 7, 1e-6},
	} {
		if got := LimitOf(products[0], 30, c.alkalinity, c.ph); math.Abs(got-c.want) > 0.01*c.want {
			t.Errorf("%v at pH %v: %.3g, want %.3g", c.alkalinity, c.ph, got, c.want)
		}
	}
}
