package care

import (
	"math"

	"gonum.org/v1/gonum/mathext"

	"freshanvil/core/reason"
)

// leastRate keeps the prior proper for a machine said to make no drinks.
const leastRate = 0.1

// Rate is what is believed of one group's shots a day: a Gamma distribution
// with shape A and rate B in days. The declared rate is the prior, A = 2 and
// B = 2 ÷ declared; each logged day and shot is added to it (our own
// engineering choice).
type Rate struct {
	A, B     float64
	declared float64
	logged   float64
	days     float64
}

// Believe blends the declared shots a day with so many shots logged over so
// many days.
func Believe(declared, logged, days float64) Rate {
	declared = math.Max(declared, leastRate)
	return Rate{A: 2 + logged, B: 2/declared + days, declared: declared, logged: logged, days: days}
}

// DaysTo is the time in days by which n more shots are made with probability
// p. Shots at an unknown Gamma rate follow a negative binomial, whose waiting
// time is beta prime: B × q ÷ (1 − q), q the p-quantile of Beta(n, A).
func (r Rate) DaysTo(n, p float64) float64 {
	if n <= 0 {
		return 0
	}
	q := mathext.InvRegIncBeta(n, r.A, p)
	return r.B * q / (1 - q)
}

// The range that is shown: earliest and latest bound the middle 80 %.
const early, middle, late = 0.1, 0.5, 0.9

// forecast is the days to n shots, likely with its 80 % range.
func (r Rate) forecast(name string, n float64) reason.Worked {
	return reason.Worked{
		Name: name, Unit: "days",
		Value: r.DaysTo(n, middle), Low: r.DaysTo(n, early), High: r.DaysTo(n, late),
		Formula: "(2 ÷ declared + days) × betainv(n, 2 + logged, p) ÷ (1 − betainv(n, 2 + logged, p))",
		Inputs: []reason.Input{
			{Symbol: "n", Label: "shots to go", Value: n, Unit: "shots", Source: reason.Log},
			{Symbol: "declared", Label: "shots a day a group, as you said", Value: r.declared, Unit: "shots/day", Source: reason.Said},
			{Symbol: "logged", Label: "shots logged since", Value: r.logged, Unit: "shots", Source: reason.Log},
			{Symbol: "days", Label: "days they were logged over", Value: r.days, Unit: "days", Source: reason.Log},
			{Symbol: "p", Label: "chance that it has come by then (range: 0.1 and 0.9)", Value: middle, Unit: "", Source: reason.Ours},
		},
		Source:      reason.Ours,
		WouldChange: []string{"logging the drinks you really make", "changing the drinks a day in your answers"},
	}
}
