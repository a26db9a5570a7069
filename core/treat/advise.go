package treat

import (
	"fmt"
	"math"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
)

// Advice is the one treatment that is recommended for a water in a machine, against what treats it now.
type Advice struct {
	Row  Row
	Stay bool // what treats it now is the one
	// Descales, Minutes and Money are what it saves a year against now; below 0 it costs so much more.
	Descales, Minutes, Money reason.Worked
	Because                  []reason.Reason
}

// Burden is what a descale takes of whoever keeps a machine, minutes and money.
type Burden struct{ Minutes, Money float64 }

// The burdens of a descale, and what an hour is worth (our own engineering choices: they only decide between
// treatments, and stand beside the recommendation).
var (
	DescaledAtHome   = Burden{Minutes: 90, Money: 3}
	DescaledInTrade  = Burden{Minutes: 30, Money: 150}
	moneyAnHour      = 15.0
	leastGain        = 0.1 // of what it takes now: below that nothing is changed
	daysAYear        = 365.0
	minutesAMoney    = 60 / moneyAnHour
	corrosionRefuses = reason.Look
)

// Advise picks, of treatments laid out side by side, the one that takes the least of whoever keeps the machine: work
// and money of the treatment and of the descales it leaves. One behind which the water may corrode is not picked, nor
// one that cannot be used with the machine. Now
// is the row of what treats the water now; false where none can be picked.
func Advise(rows []Row, now int, each Burden, f machine.Facts, litres float64) (a Advice, any bool) {
	if now < 0 || now >= len(rows) {
		return a, false
	}
	best, least := -1, math.Inf(1)
	for i, r := range rows {
		if r.Effect.Corrosion.Verdict == corrosionRefuses || i != now && !Handy(r.Setting.Kind, f, litres) {
			continue
		}
		if b := r.takes(each); b < least {
			best, least = i, b
		}
	}
	if best < 0 {
		return a, false
	}
	at := rows[now]
	safe := at.Effect.Corrosion.Verdict != corrosionRefuses
	if safe && least > (1-leastGain)*at.takes(each) {
		best = now
	}
	r := rows[best]
	a = Advice{Row: r, Stay: best == now}
	saves := func(name, unit, formula string, inputs []reason.Input) reason.Worked {
		return reason.MustFormula(formula).Of(name, unit, reason.Ours, inputs, "other prices", "another water").Exact()
	}
	days := []reason.Input{at.Descale.AsInput("now"), r.Descale.AsInput("then")}
	a.Descales = saves("descales saved a year", "", "365 ÷ now − 365 ÷ then", days)
	a.Minutes = saves("work saved a year", "min", "m1 − m2 + (365 ÷ now − 365 ÷ then) × each", append([]reason.Input{
		at.Minutes.AsInput("m1"), r.Minutes.AsInput("m2"),
		{Symbol: "each", Label: "a descale takes", Value: each.Minutes, Unit: "min", Source: reason.Ours}}, days...))
	a.Money = saves("money saved a year", "money", "c1 − c2 + (365 ÷ now − 365 ÷ then) × each", append([]reason.Input{
		at.Cost.AsInput("c1"), r.Cost.AsInput("c2"),
		{Symbol: "each", Label: "a descale costs", Value: each.Money, Unit: "money", Source: reason.Ours}}, days...))
	a.Because = append(a.Because, reason.Reason{Source: reason.Ours, Text: fmt.Sprintf(
		"Of all ways it takes the least: work and money of a year with its descales, an hour counted as %.0f in your "+
			"currency.", moneyAnHour)})
	if !safe && !a.Stay {
		a.Because = append(a.Because, reason.Reason{Source: at.Effect.Corrosion.Because[0].Source,
			Text: "Behind what treats it now the water may corrode: " + at.Effect.Corrosion.Because[0].Text})
	}
	return a, true
}

// mostByHand is the litres a day that anybody still carries to a machine (our own engineering choice).
const mostByHand = 15.0

// Handy says whether a treatment can be used with a machine at all: nothing is carried by hand to one on the mains, and
// not so many litres to any.
func Handy(kind machine.Treatment, f machine.Facts, litresADay float64) bool {
	switch kind {
	case machine.Jug, machine.Bottled:
		return !f.Plumbed && litresADay <= mostByHand
	case machine.InTank:
		return !f.Plumbed
	}
	return true
}

// takes is what a treatment takes in a year, with the descales that it leaves, in minutes.
func (r Row) takes(each Burden) float64 {
	return r.Minutes.Value + r.Cost.Value*minutesAMoney + daysAYear/r.Descale.Value*(each.Minutes+each.Money*minutesAMoney)
}
