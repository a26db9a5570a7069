package descale

import (
	"fmt"
	"math"

	"freshanvil/core/units"
)

// Taste is what a sip of rinse water tastes of; acid only, never detergent.
type Taste string

// The tastes.
const (
	TasteGone Taste = "gone"
	TasteAcid Taste = "acid"
)

// Strip is a pH as read, with what was seen and tasted beside it.
type Strip struct {
	PH    units.PH `json:"ph"`
	Meter bool     `json:"meter,omitempty"` // else by a strip
	// None: it was not read. Only the spent solution may go unread.
	None bool `json:"none,omitempty"`
	// Cloudy and Blue are of the spent solution: blue or green is copper.
	Cloudy bool  `json:"cloudy,omitempty"`
	Blue   bool  `json:"blue,omitempty"`
	Taste  Taste `json:"taste,omitempty"` // of the rinse water
}

// Check refuses what cannot be read; the error is a *units.OutOfRange.
func (s Strip) Check() error {
	if !s.None && !(s.PH >= 0 && s.PH <= 14) {
		return &units.OutOfRange{Field: "strip.ph", Value: fmt.Sprint(s.PH), Allowed: "0 to 14"}
	}
	switch s.Taste {
	case "", TasteGone, TasteAcid:
		return nil
	}
	return &units.OutOfRange{Field: "strip.taste", Value: string(s.Taste), Allowed: "gone, acid"}
}

// What drinking water reads (our own engineering choice): outside it, the strip or
// the water is not what is rinsed with.
const (
	leastFeed = 5.5
	mostFeed  = 9.5
)

// CheckFeed refuses a feed that the rinse cannot be compared with.
func (s Strip) CheckFeed() error {
	if s.None || !(s.PH >= leastFeed && s.PH <= mostFeed) {
		return &units.OutOfRange{
			Field:   "strip.ph",
			Value:   fmt.Sprint(s.PH),
			Allowed: fmt.Sprintf("%g to %g for the water that goes in; read it again", leastFeed, mostFeed),
		}
	}
	return nil
}

// StripStep is one step of a strip's scale, in pH (common practice of the trade).
const StripStep = 0.5

// Matches says whether rinse water is back to the feed: a strip within one step of its
// scale, a meter within Match; and it does not taste of acid, where somebody tasted it.
func (s Strip) Matches(feed Strip) bool {
	within := StripStep
	if s.Meter && feed.Meter {
		within = Match
	}
	return !s.None && math.Abs(float64(s.PH-feed.PH)) <= within+1e-9 && s.Taste != TasteAcid
}

// Needs is how many readings in a row prove a rinse: two by a strip, one by a
// meter.
func (s Strip) Needs() int {
	if s.Meter {
		return 1
	}
	return 2
}

// Tally adds up what the spent solutions of one circuit took up, fill by fill:
// what a fill leaves behind counts for the next one's pH, not as new.
type Tally struct {
	Low, Likely, High float64 // g
	left              [3]float64
	AtLeast           bool
	Read, Fills       int
}

// Carry takes over what an earlier fill left in the circuit: the share of it that is
// still there.
func (t *Tally) Carry(share float64) {
	for i := range t.left {
		t.left[i] *= share
	}
}

// Add takes the reading of a fill: so much of a solution of a strength in it, less
// the feed's own alkalinity. A reading that does not tell makes the
// sum a lower bound.
func (t *Tally) Add(id AcidID, gPerL units.Strength, s Strip, litres units.Litres, feed units.Alkalinity) {
	t.Fills++
	if s.None || s.Blue {
		t.AtLeast = true
		return
	}
	x, err := Was(id, gPerL, s.PH, litres, feed, !s.Meter, s.Cloudy)
	if err != nil || !x.Grams.Known {
		t.AtLeast = true
		return
	}
	t.Read++
	t.AtLeast = t.AtLeast || s.Cloudy
	for i, v := range []float64{x.Grams.Low, x.Grams.Likely, x.Grams.High} {
		more := math.Max(0, v-t.left[i])
		t.left[i] = math.Max(v, t.left[i])
		switch i {
		case 0:
			t.Low += more
		case 1:
			t.Likely += more
		default:
			t.High += more
		}
	}
}

// Spent is the sum as a spent solution, of several circuits.
func Sum(list ...Tally) (s Spent, any bool) {
	s.Grams.Known = true
	for _, t := range list {
		s.Grams.Low, s.Grams.Likely, s.Grams.High = s.Grams.Low+t.Low, s.Grams.Likely+t.Likely, s.Grams.High+t.High
		s.AtLeast = s.AtLeast || t.AtLeast || t.Read < t.Fills
		any = any || t.Read > 0
	}
	return s, any
}
