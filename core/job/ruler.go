package job

import (
	"errors"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
)

// Row is one school, or one pairing of a method and an interval, on the ruler
// of a machine's own use.
type Row struct {
	Method   backflush.MethodID // none for a hand clean
	Numbers  *backflush.Numbers // one's own of it; nil for the method's
	Interval care.Interval
	Fits     reason.Finding
	Days     reason.Worked // between two of them
	Shots    reason.Worked
	// Of the whole machine; in a year.
	Times, Grams, Minutes reason.Worked
}

// handClean is what screen and seal take by hand, in minutes (our own
// engineering choice).
const handClean = 15

// Lay puts a choice on the ruler: what it comes to at so many shots a day a
// group, with the detergent at hand. A choice whose method the machine cannot
// follow has no figures, but says why.
func Lay(a machine.Answers, c care.Choice, rate reason.Worked, in backflush.Detergent) (Row, error) {
	f := a.Facts()
	c = c.Settled(a)
	r := Row{Method: c.Method, Numbers: c.Numbers, Interval: c.For(a)}
	minutes := reason.Input{
		Symbol: "minutes",
		Label:  "a hand clean takes",
		Value:  handClean,
		Unit:   "min",
		Source: reason.Ours,
	}
	dose := reason.Input{Symbol: "dose", Label: "no detergent by hand", Value: 0, Unit: "g", Source: reason.Trade}
	r.Fits = reason.Finding{Verdict: reason.Fine, Title: "Suits this machine", Because: r.Interval.Because}
	if c.Method != "" {
		m, err := c.By()
		if err != nil {
			return Row{}, err
		}
		if r.Fits = m.Fits(f); r.Fits.Verdict == reason.Refused {
			return r, nil
		}
		p, err := WashBy(a, m, in, Target{Group: 1})
		var no *reason.Refusal
		if errors.As(err, &no) {
			r.Fits = no.Finding
			return r, nil
		}
		if err != nil {
			return Row{}, err
		}
		minutes, dose = p.Minutes.AsInput("minutes"), p.Activities[0].Wash.Dose.Mass.AsInput("dose")
	}
	if warn := c.Warn(a); len(warn) > 0 {
		r.Fits = reason.Finding{Verdict: reason.Look, Title: "Something speaks against it", Because: warn}
	}
	r.setYear(f, rate, dose, minutes)
	return r, nil
}

// afterADrink is two pulses of water and what they take by hand, in minutes
// (our own engineering choice).
const afterADrink = 0.75

// LayWater puts a way of backflushing with water only on the ruler.
func LayWater(a machine.Answers, w care.Water, rate reason.Worked) (Row, error) {
	r := Row{
		Method: backflush.WaterOnly,
		Interval: care.Interval{
			Task:    task.WaterBackflush,
			Shots:   w.Shots,
			Days:    float64(w.Days),
			Because: []reason.Reason{{Text: w.Why, Source: reason.Trade}},
		},
	}
	minutes := reason.Input{
		Symbol: "minutes",
		Label:  "two pulses after a drink take",
		Value:  afterADrink,
		Unit:   "min",
		Source: reason.Ours,
	}
	if w.Shots == 0 {
		p, err := Wash(a, backflush.WaterOnly, backflush.UsualPowder, Target{Group: 1})
		if err != nil {
			return Row{}, err
		}
		minutes = p.Minutes.AsInput("minutes")
	}
	r.Fits = reason.Finding{Verdict: reason.Fine, Title: "Suits this machine", Because: r.Interval.Because}
	r.setYear(
		a.Facts(),
		rate,
		reason.Input{Symbol: "dose", Label: "water only", Value: 0, Unit: "g", Source: reason.Trade},
		minutes,
	)
	return r, nil
}

// setYear works out what a row comes to in a year.
func (r *Row) setYear(f machine.Facts, rate reason.Worked, dose, minutes reason.Input) {
	would := []string{"more or fewer drinks", "another interval"}
	r.Days = r.Interval.Span(f, rate)
	r.Shots = reason.Worked{
		Name:        "shots between two of them",
		Value:       r.Days.Value * rate.Value,
		Unit:        "shots",
		Formula:     "days × rate",
		Source:      reason.Ours,
		Inputs:      []reason.Input{r.Days.AsInput("days"), rate.AsInput("rate")},
		WouldChange: would,
	}.Exact()
	r.Times = reason.Worked{
		Name:    "of them a year, all groups",
		Value:   float64(f.Groups) * 365 / r.Days.Value,
		Unit:    "a year",
		Formula: "groups × 365 ÷ days",
		Source:  reason.Ours,
		Inputs: []reason.Input{
			{Symbol: "groups", Label: "groups", Value: float64(f.Groups), Source: reason.Said},
			r.Days.AsInput("days"),
		},
		WouldChange: would,
	}.Exact()
	year := func(name, unit string, each reason.Input) reason.Worked {
		return reason.Worked{
			Name:    name,
			Value:   r.Times.Value * each.Value,
			Unit:    unit,
			Formula: "times × " + each.Symbol,
			Source:  reason.Ours,
			Inputs: []reason.Input{
				r.Times.AsInput("times"),
				each,
			},
			WouldChange: append([]string{"another method"}, would...),
		}.Exact()
	}
	r.Grams, r.Minutes = year("detergent a year", "g", dose), year("minutes a year", "min", minutes)
}
