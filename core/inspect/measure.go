package inspect

import (
	"fmt"
	"math"
	"slices"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// Measure is what of a sight is read in numbers.
type Measure struct {
	Ask, Unit string
	Low, High float64 // what may be entered
	judge     func(Context, float64) (Verdict, []reason.Reason)
	limit     func(Context) float64 // from which it turns bad; nil where no course is drawn towards it
}

// Context is what a number is judged against.
type Context struct {
	Facts machine.Facts
	// Earlier are the readings of the same thing before, oldest first.
	Earlier []float64
	// Expected is what the model of the machine gives for it; a zero value where it gives nothing.
	Expected reason.Worked
}

// From when the handle stands past its mark, degrees past straight at whoever stands before it (our own engineering
// choices); how much less flow or more time than its own best is noticed, and than the model expects, which is looser,
// for most of a machine's facts are assumed (our own engineering choices).
const (
	farShort, pastMark, farPast    = -30.0, 5.0, 20.0
	lessOfOwn, littleOfOwn         = 0.8, 0.5
	lessOfModel, littleOfModel     = 0.65, 0.4
	slowerThanOwn, slowerThanModel = 1.25, 1.6
	bestOf                         = 3
)

func pastFrom(Context) float64 { return pastMark }

func lockAngle(_ Context, degrees float64) (Verdict, []reason.Reason) {
	v := AtMark
	switch {
	case degrees < farShort:
		v = Short
	case degrees > farPast:
		v = FarPast
	case degrees > pastMark:
		v = Past
	}
	return v, []reason.Reason{{Source: reason.Ours, Text: fmt.Sprintf(
		"Up to %.0f° past straight is taken as its mark, over %.0f° as far past it.", pastMark, farPast)}}
}

// gauged judges a gauge by its zones.
func gauged(g Gauge, f machine.Facts, bar float64) (reason.Verdict, []reason.Reason) {
	r, err := ReadGauge(f, g, units.Pressure(bar), false)
	if err != nil {
		return "", nil
	}
	return r.Verdict, r.Because
}

func steamBar(c Context, bar float64) (Verdict, []reason.Reason) {
	v, why := gauged(SteamGauge, c.Facts, bar)
	switch {
	case v == reason.Stop:
		return Over, why
	case bar > steamLook: // between usual and this it is only read again: no technician is asked for
		return High, why
	case bar < steamLow:
		return Low, why
	}
	return Usual, why
}

func pumpBar(c Context, bar float64) (Verdict, []reason.Reason) {
	v, why := gauged(PumpGauge, c.Facts, bar)
	switch {
	case v == reason.Stop:
		return None, why
	case v == reason.Fine:
		return Usual, why
	case bar < pumpFrom:
		return Low, why
	}
	return High, why
}

// best is the machine's own measure of good: the median of its three best readings; 0 where there is none.
func best(earlier []float64, compare func(a, b float64) int) float64 {
	list := slices.Clone(earlier)
	slices.SortFunc(list, compare)
	if len(list) > bestOf {
		list = list[:bestOf]
	}
	if len(list) == 0 {
		return 0
	}
	return list[(len(list)-1)/2]
}

func most(a, b float64) int  { return int(math.Copysign(1, b-a)) }
func least(a, b float64) int { return int(math.Copysign(1, a-b)) }

// weakest is the flow under which it is noticed.
func weakest(c Context) float64 {
	if own := best(c.Earlier, most); own > 0 {
		return own * lessOfOwn
	}
	return c.Expected.Value * lessOfModel
}

func flow(c Context, ml float64) (Verdict, []reason.Reason) {
	own, less, little := best(c.Earlier, most), lessOfOwn, littleOfOwn
	why := []reason.Reason{{Source: reason.Log, Text: fmt.Sprintf("Its own best is about %s mL.", shown(own))}}
	if own == 0 {
		own, less, little = c.Expected.Value, lessOfModel, littleOfModel
		why[0] = reason.Reason{Source: reason.Ours, Text: fmt.Sprintf(
			"Nothing was measured before: the model of this machine expects about %s mL.", shown(own))}
	}
	switch {
	case own == 0:
		return Usual, nil
	case ml < little*own:
		return Weak, why
	case ml < less*own:
		return Weaker, why
	case ml > own/less:
		why = append(why, reason.Reason{Source: reason.Ours, Text: "That is more than before: was it ten seconds, and is " +
			"the screen in?"})
	}
	return Usual, why
}

// slowest is the time from which heating is noticed as slow.
func slowest(c Context) float64 {
	if own := best(c.Earlier, least); own > 0 {
		return own * slowerThanOwn
	}
	return c.Expected.Value * slowerThanModel
}

func heatUp(c Context, minutes float64) (Verdict, []reason.Reason) {
	own, limit := best(c.Earlier, least), slowest(c)
	why := []reason.Reason{{Source: reason.Log, Text: fmt.Sprintf("Its own best is about %s min.", shown(own))}}
	if own == 0 {
		why[0] = reason.Reason{Source: reason.Ours, Text: fmt.Sprintf(
			"Nothing was measured before: the model of this machine expects about %s min.", shown(c.Expected.Value))}
	}
	if limit > 0 && minutes > limit {
		return Slower, why
	}
	return Usual, why
}

// shown is a number no finer than it is good for.
func shown(x float64) string {
	switch {
	case x >= 20:
		return fmt.Sprintf("%.0f", math.Round(x/5)*5)
	case x >= 3:
		return fmt.Sprintf("%.0f", x)
	}
	return fmt.Sprintf("%.1f", x)
}

func (r Row) checkNumber(number *float64) error {
	switch m := r.Measure; {
	case number == nil:
	case m == nil:
		return &units.OutOfRange{Field: "number", Value: fmt.Sprint(*number), Allowed: "nothing: this is looked at, " +
			"not measured"}
	case !(*number >= m.Low && *number <= m.High):
		return &units.OutOfRange{Field: "number", Value: fmt.Sprint(*number),
			Allowed: fmt.Sprintf("%g to %g %s", m.Low, m.High, m.Unit)}
	}
	return nil
}
