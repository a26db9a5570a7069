package care

import (
	"math"
	"slices"
	"strings"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/use"
)

// Interval is how often. A zero limit does not count; whichever runs out
// first decides. Daily means once in each of the machine's days, by its end.
type Interval struct {
	Task    task.ID `json:"-"`
	Shots   float64 `json:"shots,omitempty"`
	Coffee  float64 `json:"coffee_g,omitempty"` // grams
	Counter float64 `json:"counter,omitempty"`  // on the machine's own counter
	Litres  float64 `json:"litres,omitempty"`   // through the group
	Days    float64 `json:"days,omitempty"`
	Daily   bool    `json:"daily,omitempty"`
	// Also is what counts as it besides.
	Also    []task.ID       `json:"-"`
	Because []reason.Reason `json:"-"`
}

// wears says whether it is counted by use, not by the calendar alone.
func (i Interval) wears() bool { return i.Shots > 0 || i.Coffee > 0 || i.Counter > 0 || i.Litres > 0 }

const (
	shotsBetween  = 50
	coffeeBetween = 1000
	monthlyCap    = 30
	halfYear      = 182
	quarter       = 91
	counterLimit  = 200
	lightUse      = 10 // shots a day a group
)

// EveryID names an interval in the contract and in the log.
type EveryID string

// The intervals in use (common practice), all put on one ruler by use.
const (
	EveryDay      EveryID = "day"
	EveryWeek     EveryID = "week"
	EveryTwoWeeks EveryID = "two_weeks"
	EveryMonth    EveryID = "month"
	FiftyOrKilo   EveryID = "fifty_or_kilo"
	FiftyShots    EveryID = "fifty_shots"
	OnCounter     EveryID = "counter"
	EveryKilo     EveryID = "kilogram"
	FiveAYear     EveryID = "five_a_year"
	TwiceAYear    EveryID = "twice_a_year"
	OwnNumbers    EveryID = "own"
)

// Every is one way of saying how often, with its reason.
type Every struct {
	ID       EveryID
	Title    string
	Interval Interval
	Why      string
}

const capped = " Never later than 30 days: oil goes rancid in a group that stands, too (our own cap)."

var everies = []Every{
	{
		FiftyOrKilo,
		"50 shots or a kilogram",
		Interval{Shots: shotsBetween, Coffee: coffeeBetween, Days: monthlyCap},
		"50 shots a group, or each kilogram of coffee, whichever comes first: 1000 g are about 56 doubles, so the two " +
			"schools agree." + capped,
	},
	{
		EveryDay,
		"every day",
		Interval{Daily: true},
		"After the last drink, so that nothing dries overnight: what a café needs.",
	},
	{EveryWeek, "every week", Interval{Days: 7}, "A fixed day is easy to keep, however many drinks it was."},
	{
		EveryTwoWeeks,
		"every two weeks",
		Interval{Days: 14},
		"The common rhythm of a home that makes three or four drinks a day.",
	},
	{EveryMonth, "every month", Interval{Days: monthlyCap}, "Enough for a drink or two a day."},
	{
		FiftyShots,
		"every 50 shots",
		Interval{Shots: shotsBetween, Days: monthlyCap},
		"Oil builds up with use, not with time." + capped,
	},
	{
		OnCounter,
		"200 on the counter",
		Interval{Counter: counterLimit, Days: monthlyCap},
		"Where the machine counts by itself and asks: about 100 drinks, where each comes with a flush that counts " +
			"too." + capped,
	},
	{
		EveryKilo,
		"each new kilogram",
		Interval{Coffee: coffeeBetween, Days: monthlyCap},
		"Opening a new bag is the reminder." + capped,
	},
	{
		FiveAYear,
		"4 to 5 times a year",
		Interval{Days: 81},
		"For those who backflush with water in between and want as little detergent as possible.",
	},
	{
		TwiceAYear,
		"twice a year",
		Interval{Days: halfYear},
		"At most, on a group with a greased cam: detergent strips the grease. A hand clean stands in between.",
	},
}

// Everies lists the intervals, the usual one first.
func Everies() []Every { return slices.Clone(everies) }

// times scales the limits, shots and counts to whole ones. A calendar limit beside use is a cap and stays; a
// calendar interval is never scaled past the cap, or past its own length where
// that is longer already.
func (i Interval) times(share, most float64) Interval {
	i.Shots, i.Coffee, i.Counter, i.Litres = math.Round(
		i.Shots*share,
	), i.Coffee*share, math.Round(
		i.Counter*share,
	), i.Litres*share
	if !i.wears() || share < 1 {
		i.Days = math.Min(i.Days*share, math.Max(i.Days, most))
	}
	return i
}

// Span is the time between two cares of one group at a use of so many shots a
// day, in days: whichever limit runs out first. Rate is a shots-a-day Worked.
func (i Interval) Span(f machine.Facts, rate reason.Worked) reason.Worked {
	w := reason.Worked{
		Name:        "days between two of them",
		Unit:        "days",
		Source:      reason.Ours,
		Value:       math.Inf(1),
		WouldChange: []string{"more or fewer drinks", "another interval"},
	}
	var terms []string
	add := func(term string, days float64, in ...reason.Input) {
		terms = append(terms, term)
		w.Value = math.Min(w.Value, days)
		w.Inputs = append(w.Inputs, in...)
	}
	limit := func(symbol, label, unit string, v float64) reason.Input {
		return reason.Input{Symbol: symbol, Label: label, Value: v, Unit: unit, Source: reason.Trade}
	}
	if i.Daily {
		add("days", 1, limit("days", "once in each day", "days", 1))
	}
	if i.Days > 0 {
		add("days", i.Days, limit("days", "never later than", "days", i.Days))
	}
	if i.wears() {
		w.Inputs = append(w.Inputs, rate.AsInput("rate"))
	}
	if i.Shots > 0 {
		add("shots ÷ rate", i.Shots/rate.Value, limit("shots", "every so many shots", "shots", i.Shots))
	}
	if i.Coffee > 0 {
		add(
			"coffee ÷ (rate × double)",
			i.Coffee/(rate.Value*float64(f.Double)),
			limit("coffee", "every so much coffee", "g", i.Coffee),
			limit("double", "coffee in a double", "g", float64(f.Double)),
		)
	}
	if i.Counter > 0 {
		add(
			"counter ÷ (rate × groups × each)",
			i.Counter/(rate.Value*float64(f.Groups)*f.CountsADrink()),
			limit(
				"counter",
				"on the machine's counter",
				"counts",
				i.Counter,
			),
			limit("groups", "groups", "", float64(f.Groups)),
			limit("each", "counts a drink, its flush too", "counts", f.CountsADrink()),
		)
	}
	if i.Litres > 0 {
		add(
			"litres ÷ (rate × water)",
			i.Litres/(rate.Value*float64(f.BrewWater.Litres())),
			limit("litres", "every so much water", "L", i.Litres),
			limit("water", "water a drink takes through the group", "L", float64(f.BrewWater.Litres())),
		)
	}
	w.Formula = terms[0]
	if len(terms) > 1 {
		w.Formula = "min(" + strings.Join(terms, ", ") + ")"
	}
	return w.Exact()
}

// Declared is the drinks a day of one group, as somebody said.
func Declared(a machine.Answers) reason.Worked {
	f := a.Facts()
	return reason.Worked{
		Name:    "shots a day a group",
		Value:   math.Max(use.LeastRate, a.Drinks/float64(f.Groups)),
		Unit:    "shots/day",
		Formula: "max(least, drinks ÷ groups)",
		Source:  reason.Said,
		Inputs: []reason.Input{
			{
				Symbol: "drinks",
				Label:  "drinks a day, as you said",
				Value:  a.Drinks,
				Unit:   "drinks/day",
				Source: reason.Said,
			},
			{Symbol: "groups", Label: "groups", Value: float64(f.Groups), Source: reason.Said},
			{
				Symbol: "least",
				Label:  "taken at least, so that a date can be given",
				Value:  use.LeastRate,
				Unit:   "shots/day",
				Source: reason.Ours,
			},
		},
		WouldChange: []string{"logging drinks", "other answers"},
	}.Exact()
}

// PerDay is how many washes a machine takes a day, over all its groups, at the
// declared use; 0 where it has none.
func PerDay(a machine.Answers, c Choice) reason.Worked {
	f := a.Facts()
	w := reason.Worked{
		Name:        "washes a day",
		Unit:        "a day",
		Source:      reason.Ours,
		WouldChange: []string{"more or fewer drinks", "another interval"},
	}
	i := c.For(a)
	if i.Task != task.Wash {
		return w
	}
	span := i.Span(f, Declared(a))
	w.Value, w.Formula = float64(f.Groups)/span.Value, "groups ÷ days"
	w.Inputs = []reason.Input{
		{Symbol: "groups", Label: "groups", Value: float64(f.Groups), Unit: "", Source: reason.Said},
		span.AsInput("days"),
	}
	return w.Exact()
}
