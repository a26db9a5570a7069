package job

import (
	"freshanvil/core/reason"
)

// Weighed is a row of the ruler in the terms that people weigh: what it takes of them, of the tub, and how clean the
// group stays.
type Weighed struct {
	Per            string        // "week", or "night" where it is a café's
	Minutes, Grams reason.Worked // each
	Clean          Cleanliness
}

// Cleanliness is how clean a group stays, by the shots that go through it between two washes at most.
type Cleanliness string

// How clean it stays, by the most shots between two (our own engineering choice: a wash every 50 doubles is common
// practice, and counts as clean).
const (
	Spotless   Cleanliness = "spotless" // to 30
	StaysClean Cleanliness = "clean"    // to 70
	SomeOil    Cleanliness = "some oil" // to 150
	Oily       Cleanliness = "oily"
)

// cleanTo are the most shots for each.
var cleanTo = []struct {
	shots float64
	is    Cleanliness
}{{30, Spotless}, {70, StaysClean}, {150, SomeOil}}

// CleanAfter is how clean a group stays that is washed after so many shots, or days: washed every night, as a café is,
// it stays clean whatever went through it (common practice).
func CleanAfter(shots, days float64) Cleanliness {
	if shots > cleanTo[1].shots && days <= 1 {
		return StaysClean
	}
	for _, c := range cleanTo {
		if shots <= c.shots {
			return c.is
		}
	}
	return Oily
}

// Weigh puts a row in those terms; a café weighs by the night.
func (r Row) Weigh(cafe bool) Weighed {
	w, days := Weighed{Per: "week", Clean: CleanAfter(r.Shots.Value, r.Days.Value)}, 7.0
	if cafe {
		w.Per, days = "night", 1
	}
	each := func(name string, year reason.Worked) reason.Worked {
		return reason.MustFormula("year × days ÷ 365").Of(name+" a "+w.Per, year.Unit, reason.Ours, []reason.Input{
			year.AsInput("year"),
			{Symbol: "days", Label: "days of a " + w.Per, Value: days, Unit: "days", Source: reason.Ours},
		}, "more or fewer drinks", "another interval")
	}
	w.Minutes, w.Grams = each("minutes", r.Minutes), each("detergent", r.Grams)
	return w
}
