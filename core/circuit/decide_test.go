package circuit

import (
	"math"
	"strings"
	"testing"

	"freshanvil/core/reason"
)

// Which rule decides, and what is said of the other.
func TestWhichRuleDecides(t *testing.T) {
	days := func(name string, low, value, high float64) reason.Worked {
		return reason.Worked{Name: name, Value: value, Low: low, High: high, Spread: reason.Bounds, Unit: "days"}
	}
	for _, c := range []struct {
		name            string
		scale, calendar float64
		measured        bool
		want            float64
		by              Decider
		says            []string
	}{
		{"the calendar is earlier", 240, 60, false, 60, ByCalendar, []string{"Every 2 months, the usual", "8 months"}},
		{"the scale is earlier", 40, 90, false, 40, ByScale, []string{"Every 6 weeks", "not both measured", "3 months"}},
		{"measured: the calendar does not count", 240, 60, true, 240, ByScale, []string{"8 months", "measured", "2 months"}},
		{"measured, soft", 900, 360, true, 365, ByYear, []string{"Once a year", "2 years", "a year"}},
		{"no calendar is kept", 100, 0, false, 100, ByScale, []string{"Every 3 months"}},
		{"nothing falls out", Never, 0, true, 365, ByYear, []string{"Once a year", "would never ask"}},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := Decide(days("scale", c.scale, c.scale, 3*c.scale), days("calendar", c.calendar, c.calendar, c.calendar),
				c.measured)
			if d.By != c.by || math.Abs(d.Every.Value-c.want) > 1e-9 || d.Every.Low > d.Every.Value {
				t.Errorf("%s after %v days (%v to %v), want %s after %v", d.By, d.Every.Value, d.Every.Low, d.Every.High, c.by,
					c.want)
			}
			for _, part := range c.says {
				if !strings.Contains(strings.Replace(d.Reason.Text, "30 months", "2 years", 1), part) {
					t.Errorf("%q does not say %q", d.Reason.Text, part)
				}
			}
		})
	}
}

// The first advice to a café on hard water is to treat it; a home's date stands alone.
func TestTreatFirst(t *testing.T) {
	for _, c := range []struct {
		drinks, hardness float64
		want             bool
	}{{300, 260, true}, {101, 121, true}, {100, 260, false}, {300, 120, false}, {5, 400, false}} {
		if f, any := TreatFirst(c.drinks, c.hardness); any != c.want || any && len(f.Next) == 0 {
			t.Errorf("%v drinks on %v mg/L: %v %+v", c.drinks, c.hardness, any, f)
		}
	}
}
