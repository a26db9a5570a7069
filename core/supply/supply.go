// Package supply says what is left of a stock and how long it lasts at the
// present use, and when it is too old to trust.
//
// It does not decide how much is used at a time (package backflush) nor how
// often (package care).
package supply

import (
	"fmt"
	"math"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// Tub is a tub of detergent as somebody said it stood at an instant.
type Tub struct {
	Form    backflush.Form
	Amount  float64 // grams or tablets in it at that instant
	Holds   float64 // when full
	GramTsp float64 // grams a level teaspoon, of powder
	Opened  time.Time
	Price   float64 // of a full tub; 0 where nobody said
}

// Check refuses what no tub can be; the error is a *units.OutOfRange.
func (t Tub) Check(now time.Time) error {
	switch {
	case t.Form != backflush.Powder && t.Form != backflush.Tablets:
		return &units.OutOfRange{Field: "form", Value: string(t.Form), Allowed: "powder, tablets"}
	case !(t.Holds >= 1 && t.Holds <= 20000):
		return &units.OutOfRange{Field: "holds", Value: fmt.Sprint(t.Holds), Allowed: "1 to 20000 g or tablets"}
	case !(t.Amount >= 0 && t.Amount <= t.Holds):
		return &units.OutOfRange{
			Field:   "amount",
			Value:   fmt.Sprint(t.Amount),
			Allowed: fmt.Sprintf("0 to %g, what the tub holds", t.Holds),
		}
	case t.Form == backflush.Powder && !(t.GramTsp >= 1.5 && t.GramTsp <= 10):
		return &units.OutOfRange{
			Field:   "powder_g_tsp",
			Value:   fmt.Sprint(t.GramTsp),
			Allowed: "1.5 to 10 g a level teaspoon",
		}
	case t.Opened.After(now) || t.Opened.Before(now.AddDate(-20, 0, 0)):
		return &units.OutOfRange{
			Field:   "opened",
			Value:   t.Opened.Format(time.DateOnly),
			Allowed: "a day that is past, at most 20 years back",
		}
	case !(t.Price >= 0 && t.Price <= 10000):
		return &units.OutOfRange{Field: "price", Value: fmt.Sprint(t.Price), Allowed: "0 to 10000"}
	}
	return nil
}

// Detergent is what is in the tub.
func (t Tub) Detergent() backflush.Detergent {
	return backflush.Detergent{Form: t.Form, Density: units.Density(t.GramTsp / float64(units.Teaspoon))}
}

func (t Tub) unit() string {
	if t.Form == backflush.Tablets {
		return "tablets"
	}
	return "g"
}

// Need is what one machine takes: washes a day, over all its groups, and the
// dose of one.
type Need struct {
	Machine string
	PerDay  reason.Worked
	Dose    float64 // grams or tablets
}

// Outlook is what is left and how long it lasts.
type Outlook struct {
	Left   reason.Worked
	Washes reason.Worked // of the dose asked about
	Days   reason.Worked // at the use of all machines; no days where nothing is used
	Wash   reason.Worked // price of one dose; no name where no price was said
	Uses   bool
}

// Look works the outlook out: used is what the runs took since the tub was
// said, dose what one wash of the machine asked about takes.
func (t Tub) Look(used, dose float64, needs []Need) Outlook {
	left := reason.Worked{
		Name:    "left in the tub",
		Value:   math.Max(0, t.Amount-used),
		Unit:    t.unit(),
		Formula: "max(0, amount − used)",
		Source:  reason.Log,
		Inputs: []reason.Input{
			{Symbol: "amount", Label: "in it when you said so", Value: t.Amount, Unit: t.unit(), Source: reason.Said},
			{Symbol: "used", Label: "taken by the runs since", Value: used, Unit: t.unit(), Source: reason.Log},
		},
		WouldChange: []string{"weighing the tub and saying it again", "soak baths: they are not counted yet"},
	}.Exact()
	o := Outlook{Left: left}
	o.Washes = reason.Worked{
		Name:    "washes left in the tub",
		Value:   math.Floor(left.Value / dose),
		Unit:    "washes",
		Formula: "floor(left ÷ dose)",
		Source:  reason.Log,
		Inputs: []reason.Input{
			left.AsInput("left"),
			{Symbol: "dose", Label: "one group takes", Value: dose, Unit: t.unit(), Source: reason.Trade},
		},
		WouldChange: []string{"another dose"},
	}.Exact()

	days := reason.Worked{
		Name:        "days until the tub is empty",
		Unit:        "days",
		Source:      reason.Ours,
		Formula:     "left ÷ (",
		Inputs:      []reason.Input{left.AsInput("left")},
		WouldChange: []string{"more or fewer drinks", "another interval", "another dose"},
	}
	rate := 0.0
	for i, n := range needs {
		if n.PerDay.Value <= 0 {
			continue
		}
		if o.Uses {
			days.Formula += " + "
		}
		o.Uses = true
		often, take := fmt.Sprintf("often%d", i+1), fmt.Sprintf("dose%d", i+1)
		days.Formula += often + " × " + take
		in := n.PerDay.AsInput(often)
		in.Label = n.Machine + ": " + in.Label
		days.Inputs = append(
			days.Inputs,
			in,
			reason.Input{
				Symbol: take,
				Label:  n.Machine + ": a wash of one group takes",
				Value:  n.Dose,
				Unit:   t.unit(),
				Source: reason.Trade,
			},
		)
		rate += n.PerDay.Value * n.Dose
	}
	days.Formula += ")"
	if o.Uses {
		days.Value = left.Value / rate
	}
	o.Days = days.Exact()
	if t.Price > 0 {
		o.Wash = reason.Worked{
			Name:    "price of one dose",
			Value:   t.Price * dose / t.Holds,
			Unit:    "",
			Formula: "price × dose ÷ holds",
			Source:  reason.Said,
			Inputs: []reason.Input{
				{Symbol: "price", Label: "a full tub costs", Value: t.Price, Source: reason.Said},
				{Symbol: "dose", Label: "one group takes", Value: dose, Unit: t.unit(), Source: reason.Trade},
				{Symbol: "holds", Label: "a full tub holds", Value: t.Holds, Unit: t.unit(), Source: reason.Said},
			},
			WouldChange: []string{"another price", "another dose"},
		}.Exact()
	}
	return o
}

// staleAfter is how long an opened tub of powder is trusted without a test
// (our own engineering choice).
const staleAfter = 12 // months

// FoamTest is a pinch dropped into hot water.
type FoamTest struct {
	At    time.Time
	Foams bool
}

// Freshness says whether the powder can be trusted: stale powder does not
// clean, and it is dry and foams when it meets hot water (common practice).
// The newest test counts for as long as a fresh tub does.
func (t Tub) Freshness(tests []FoamTest, now time.Time) reason.Finding {
	months := int(now.Sub(t.Opened).Hours() / 24 / 30.44)
	opened := reason.Reason{Text: fmt.Sprintf("Opened %s.", ago(months)), Source: reason.Said}
	var newest FoamTest
	for _, test := range tests {
		if test.At.After(newest.At) {
			newest = test
		}
	}
	switch {
	case !newest.At.IsZero() && !newest.Foams:
		return reason.Finding{Verdict: reason.Stop, Title: "It does not foam: do not use it",
			Because: []reason.Reason{
				{
					Text:   "Detergent that does not foam in hot water has gone stale. It does not clean.",
					Source: reason.Trade,
				},
				opened,
			},
			Next: []string{"Open a new tub and say so here.", "Keep its lid shut and the powder dry."}}
	case t.Form == backflush.Tablets:
		return reason.Finding{
			Verdict: reason.Fine,
			Title:   "Tablets keep in their wrapping",
			Because: []reason.Reason{opened},
		}
	case now.Before(t.Opened.AddDate(0, staleAfter, 0)):
		return reason.Finding{Verdict: reason.Fine, Title: "Fresh enough", Because: []reason.Reason{opened}}
	case now.Before(newest.At.AddDate(0, staleAfter, 0)):
		return reason.Finding{
			Verdict: reason.Fine,
			Title:   "Old, but it foams",
			Because: []reason.Reason{
				opened,
				{
					Text:   "A pinch foamed in hot water " + newest.At.Format("on 2 January 2006") + ".",
					Source: reason.Log,
				},
			},
		}
	}
	return reason.Finding{Verdict: reason.Look, Title: "Test it: does it foam?",
		Because: []reason.Reason{
			opened,
			{Text: fmt.Sprintf("An opened tub is trusted for %d months.", staleAfter), Source: reason.Ours},
		},
		Next: []string{"Drop a pinch into hot water. It must foam. Stale powder does not clean."}}
}

func ago(months int) string {
	switch {
	case months < 1:
		return "less than a month ago"
	case months == 1:
		return "a month ago"
	}
	return fmt.Sprintf("%d months ago", months)
}
