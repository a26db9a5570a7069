package units

import (
	"math"
)

// Teaspoon is a level measuring teaspoon.
const Teaspoon Volume = 5

// DefaultPowder is the bulk density of detergent powder: 6 g a level
// teaspoon (common practice of the trade).
const DefaultPowder Density = 1.2

// Spoon is a number of level teaspoons: whole ones and at most one fraction
// off a usual measuring set. The zero value is no spoon at all.
type Spoon struct{ Whole, Num, Den int }

// the fractions on a measuring set, as a card may ask for them
var fractions = []struct{ num, den int }{{0, 1}, {1, 4}, {1, 3}, {1, 2}, {2, 3}, {3, 4}}

// NearestSpoon is the spoon nearest to the mass at this density, never less
// than a quarter. Ties go to the smaller spoon.
func NearestSpoon(m Mass, powder Density) Spoon {
	want := float64(m) / (float64(powder) * float64(Teaspoon))
	best, off := Spoon{Num: 1, Den: 4}, math.Inf(1)
	for whole := int(want); whole <= int(want)+1; whole++ {
		for _, f := range fractions {
			if whole == 0 && f.num == 0 {
				continue
			}
			s := Spoon{Whole: whole, Num: f.num, Den: f.den}
			if d := math.Abs(s.Teaspoons() - want); d < off-1e-12 {
				best, off = s, d
			}
		}
	}
	return best
}

// Teaspoons is the spoon as a number of level teaspoons.
func (s Spoon) Teaspoons() float64 {
	if s.Den == 0 {
		return float64(s.Whole)
	}
	return float64(s.Whole) + float64(s.Num)/float64(s.Den)
}

// Mass is what the spoon holds at this density.
func (s Spoon) Mass(powder Density) Mass {
	return Mass(s.Teaspoons() * float64(Teaspoon) * float64(powder))
}
