package descale

import (
	"fmt"
	"math"

	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// stripOff is what a pH strip may be off by (our own engineering choice).
const stripOff = 0.3

// spentAbove is the pH above which sulfamic acid counts as spent (our own
// engineering choice).
const spentAbove = 2.0

// Spent is what a spent solution says of the scale that was there.
type Spent struct {
	Grams units.Reading // not known where the pH does not tell
	// AtLeast: it was cloudy, so some has dropped out again.
	AtLeast bool
	PH      units.PH // as it was read; 0 where that was not kept
	Finding reason.Finding
}

// Was works out the scale a solution has taken up from its pH: so much of it, of the
// strength as mixed, less the feed's own alkalinity. A meter is
// exact, a strip off by 0.3 either way. Only citric and lactic acid tell; sulfamic
// says just whether it is spent.
func Was(
	id AcidID, gPerL units.Strength, ph units.PH, litres units.Litres, feed units.Alkalinity, strip, cloudy bool,
) (Spent, error) {
	if !(litres > 0 && litres <= 200) {
		return Spent{}, &units.OutOfRange{Field: "litres", Value: fmt.Sprint(float64(litres)), Allowed: "above 0, to 200 L"}
	}
	if !(feed >= 0 && feed <= 2000) {
		return Spent{}, &units.OutOfRange{Field: "feed_mg_l_caco3", Value: fmt.Sprint(float64(feed)),
			Allowed: "0 to 2000 mg/L"}
	}
	likely, err := TakenUp(id, gPerL, ph)
	if err != nil {
		return Spent{}, err
	}
	if id == Sulfamic || id == Acetic {
		s := Spent{
			Finding: reason.Finding{
				Verdict: reason.Look,
				Title:   "Not spent yet",
				Because: []reason.Reason{
					{
						Text: fmt.Sprintf(
							"pH %.1f: this acid is not spent. How much it took up cannot be told from it.",
							float64(ph),
						),
						Source: reason.Ours,
					},
				},
			},
		}
		if id == Sulfamic && ph > spentAbove || ph > SlowAt {
			s.Finding.Title = "Spent"
			s.Finding.Because[0].Text = fmt.Sprintf(
				"pH %.1f: spent, so a fresh fill is needed. How much it took up cannot be told from it.",
				float64(ph),
			)
		}
		return s, nil
	}
	low, high := likely, likely
	if strip {
		if low, err = TakenUp(id, gPerL, max(0, ph-stripOff)); err != nil {
			return Spent{}, err
		}
		if high, err = TakenUp(id, gPerL, min(mostPH, ph+stripOff)); err != nil {
			return Spent{}, err
		}
	}
	grams := func(took units.Strength) float64 {
		return float64(litres.At(max(0, took-units.Strength(feed)/1000)))
	}
	s := Spent{
		Grams:   units.Reading{Known: true, Low: grams(low), Likely: grams(likely), High: grams(high)},
		AtLeast: cloudy,
		PH:      ph,
	}
	s.Finding = reason.Finding{
		Verdict: reason.Fine,
		Title:   fmt.Sprintf("About %.2g g of scale was there", s.Grams.Likely),
		Because: []reason.Reason{
			{
				Text:   "From the protons it gave up, with calcium's complexes, less the water's own alkalinity.",
				Source: phreeqc,
			},
		},
	}
	if cloudy {
		s.Finding.Verdict = reason.Look
		s.Finding.Because = append(
			s.Finding.Because,
			reason.Reason{
				Text: "It was cloudy: calcium citrate has dropped out, so it was at least that much. Rinse well, look into " +
					"the gauze.",
				Source: reason.Ours,
			},
		)
	}
	if ph > SlowAt {
		s.Finding.Verdict = reason.Look
		s.Finding.Next = []string{"Above pH 4 it was spent before the end: another fill."}
	}
	return s, nil
}

// Teaches is what a spent solution makes of the share so far, and whether it says
// anything: not where its pH does not tell, where nothing was predicted, or where it
// was cloudy and so cannot say that there was less.
func (s Spent) Teaches(share float64, predicted units.Mass) (to reason.Worked, teaches bool) {
	if !s.Grams.Known || predicted <= 0 {
		return to, false
	}
	to = Calibrate(share, units.Mass(s.Grams.Likely), predicted)
	return to, !s.AtLeast || to.Value >= share
}

// How far one reading moves the share of scale that is deposited, and between what
// it stays (our own engineering choices).
const (
	leastShare = 0.2
	mostShare  = 1.5
	moves      = 0.5
)

// rebased is a share that was taught beside another prediction.
var rebased = reason.MustFormula("min(most, max(least, share × before ÷ now))")

// Rebase brings a share that was taught beside a prediction of an older model over to what this one
// predicts of the same water, so that the two together say what the spent solution said.
func Rebase(taught reason.Worked, before, now units.Mass) reason.Worked {
	taught.Name = "share of the scale that stays in the machine, as it was taught"
	return rebased.Of("share of the scale that stays in the machine", "", reason.Ours, []reason.Input{
		taught.AsInput("share"),
		{Symbol: "before", Label: "scale of that time, as it was predicted then", Value: float64(before), Unit: "g",
			Source: reason.Ours},
		{Symbol: "now", Label: "as it is predicted since an update", Value: float64(now), Unit: "g", Source: reason.Ours},
		{Symbol: "least", Label: "never below", Value: leastShare, Source: reason.Ours},
		{Symbol: "most", Label: "never above", Value: mostShare, Source: reason.Ours},
	}, "the next spent solution", "taking it back")
}

// Calibrate moves the share of what falls out that is believed to stay in the
// machine, halfway to what was measured beside what was predicted at the share so
// far. A prediction of nothing teaches nothing: the share stays.
func Calibrate(share float64, measured, predicted units.Mass) reason.Worked {
	w := reason.Worked{
		Name:        "share of the scale that stays in the machine",
		Unit:        "",
		Source:      reason.Ours,
		WouldChange: []string{"the next spent solution", "taking it back"},
		Inputs:      []reason.Input{{Symbol: "share", Label: "so far", Value: share, Source: reason.Ours}},
	}
	if predicted <= 0 {
		w.Value, w.Formula = share, "share"
		return w.Exact()
	}
	w.Value = share + moves*(math.Min(mostShare, math.Max(leastShare, share*float64(measured/predicted)))-share)
	w.Formula = "share + moves × (min(most, max(least, share × measured ÷ predicted)) − share)"
	w.Inputs = append(
		w.Inputs,
		reason.Input{
			Symbol: "measured",
			Label:  "from the spent solution",
			Value:  float64(measured),
			Unit:   "g",
			Source: reason.Said,
		},
		reason.Input{
			Symbol: "predicted",
			Label:  "at the share so far",
			Value:  float64(predicted),
			Unit:   "g",
			Source: reason.Ours,
		},
		reason.Input{
			Symbol: "moves",
			Label:  "of the way",
			Value:  moves,
			Source: reason.Ours,
		},
		reason.Input{Symbol: "least", Label: "never below", Value: leastShare, Source: reason.Ours},
		reason.Input{Symbol: "most", Label: "never above", Value: mostShare, Source: reason.Ours},
	)
	return w.Exact()
}

// Grades are what the tap's gauze says of the scale beside what was predicted (our own engineering
// choices): clean half of it, a dusting as much, crusted half more.
const (
	GradeClean   = 0.5
	GradeDusting = 1.0
	GradeCrusted = 1.5
)

var graded = reason.MustFormula("share + moves × (min(most, max(least, share × grade)) − share)")

// Graded moves the share of what falls out that is believed to stay in the machine, halfway to what the
// look of the tap's gauze says beside what was predicted at the share so far.
func Graded(share, grade float64) reason.Worked {
	return graded.Of("share of the scale that stays in the machine", "", reason.Ours, []reason.Input{
		{Symbol: "share", Label: "so far", Value: share, Source: reason.Ours},
		{Symbol: "grade", Label: "of what was predicted, by the look of the gauze", Value: grade, Source: reason.Said},
		{Symbol: "moves", Label: "of the way", Value: moves, Source: reason.Ours},
		{Symbol: "least", Label: "never below", Value: leastShare, Source: reason.Ours},
		{Symbol: "most", Label: "never above", Value: mostShare, Source: reason.Ours},
	}, "the next look or spent solution", "taking it back")
}
