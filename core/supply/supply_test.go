package supply

import (
	"errors"
	"math"
	"testing"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

var now = time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)

func tub() Tub {
	return Tub{Form: backflush.Powder, Amount: 120, Holds: 500, GramTsp: 6, Opened: now.AddDate(0, -3, 0), Price: 15}
}

// Worked by hand: 120 g less 24 g used is 96 g, 32 washes of 3 g; two machines
// at 0.1 and 0.06 washes a day take 0.48 g a day, so 200 days; 15 for 500 g
// makes 0.09 a wash.
func TestOutlookByHand(t *testing.T) {
	o := tub().Look(24, 3, []Need{{"one", reason.Worked{Name: "washes a day", Value: 0.1}, 3},
		{"none", reason.Worked{}, 3}, {"two", reason.Worked{Name: "washes a day", Value: 0.06}, 3}})
	if o.Left.Value != 96 || o.Washes.Value != 32 || !o.Uses || math.Abs(o.Days.Value-200) > 1e-9 ||
		math.Abs(o.Wash.Value-0.09) > 1e-9 {
		t.Errorf("%v g, %v washes, %v days, %v a wash", o.Left.Value, o.Washes.Value, o.Days.Value, o.Wash.Value)
	}
	if empty := tub().Look(500, 3, nil); empty.Left.Value != 0 || empty.Washes.Value != 0 || empty.Uses {
		t.Errorf("more used than there was: %+v", empty)
	}
}

// Powder must be dry and foam when it meets hot water; stale powder does not
// clean (common practice). Trusted for twelve months (ours).
func TestFreshness(t *testing.T) {
	old, tablets := tub(), tub()
	old.Opened = now.AddDate(0, -14, 0)
	tablets.Form, tablets.Opened = backflush.Tablets, old.Opened
	for name, c := range map[string]struct {
		tub   Tub
		tests []FoamTest
		want  reason.Verdict
	}{
		"three months":                 {tub(), nil, reason.Fine},
		"fourteen months":              {old, nil, reason.Look},
		"fourteen months, it foams":    {old, []FoamTest{{now.AddDate(0, -1, 0), true}}, reason.Fine},
		"foamed too long ago":          {old, []FoamTest{{now.AddDate(0, -13, 0), true}}, reason.Look},
		"does not foam":                {old, []FoamTest{{now, false}}, reason.Stop},
		"new, but does not foam":       {tub(), []FoamTest{{now, false}}, reason.Stop},
		"foams after all":              {old, []FoamTest{{now.Add(-time.Hour), false}, {now, true}}, reason.Fine},
		"tablets keep in the wrapping": {tablets, nil, reason.Fine},
	} {
		if got := c.tub.Freshness(c.tests, now); got.Verdict != c.want || len(got.Because) == 0 {
			t.Errorf("%s: %+v, want %s", name, got, c.want)
		}
	}
}

func TestTubRefused(t *testing.T) {
	if err := tub().Check(now); err != nil {
		t.Error(err)
	}
	for field, change := range map[string]func(*Tub){
		"form":         func(x *Tub) { x.Form = "gas" },
		"holds":        func(x *Tub) { x.Holds = 0 },
		"amount":       func(x *Tub) { x.Amount = 501 },
		"powder_g_tsp": func(x *Tub) { x.GramTsp = math.NaN() },
		"opened":       func(x *Tub) { x.Opened = now.Add(time.Hour) },
		"price":        func(x *Tub) { x.Price = -1 },
	} {
		x := tub()
		change(&x)
		var bad *units.OutOfRange
		if err := x.Check(now); !errors.As(err, &bad) || bad.Field != field || bad.Allowed == "" {
			t.Errorf("%s: %v", field, err)
		}
	}
}
