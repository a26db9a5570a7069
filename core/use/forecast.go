package use

import (
	"fmt"
	"math"
	"time"

	"gonum.org/v1/gonum/mathext"

	"freshanvil/core/reason"
)

// LeastRate keeps the prior proper for a machine said to make no drinks.
const LeastRate = 0.1

// How evidence is weighed (our own engineering choices, set so that the range
// holds in simulated futures: see TestRangeHolds).
const (
	halfLife  = 16.0 // days after which a day counts half
	dayPrior  = 0.5  // days of the mean rate added to each day of the week
	spreadOld = 2.0  // weeks of plain chance added to what the spread is judged by
	clumps    = 1.8  // what swings from week to week swings so much more over months
)

// Pace is what is believed of one group's shots a day: a Gamma distribution
// with the declared rate as prior, shape 2, to which every logged day is
// added, older ones for less; and a rate for each day of the week.
type Pace struct {
	declared float64
	shots    float64 // logged, older ones for less
	days     float64 // they were logged over
	byDay    [7]float64
	spread   float64 // variance over mean of a week's shots: 1 is plain chance
	now      time.Time
	day      int     // the weekday now
	left     float64 // of today, in days
	away     []Spell
	Because  []reason.Reason
}

// PaceOf blends the declared shots a day a group with what was logged.
func PaceOf(declared float64, group, groups int, h Log, now time.Time, zone *time.Location) Pace {
	today := Day(now, zone)
	p := Pace{
		declared: math.Max(declared, LeastRate),
		spread:   1,
		now:      now,
		day:      int(today.Weekday()),
		left:     NextDay(now, zone).Sub(now).Hours() / 24,
		away:     h.Away,
	}
	e := gather(h, group, groups, now, zone)
	p.Because = e.because()
	var shots, open [7]float64
	for i := range e.shots {
		weight := math.Exp2(-float64(len(e.shots)-i) / halfLife)
		d := e.on(i)
		shots[d] += weight * e.shots[i]
		open[d] += weight * e.open[i]
	}
	for d := range 7 {
		p.shots += shots[d]
		p.days += open[d]
	}
	mean := p.PerDay()
	for d := range 7 {
		p.byDay[d] = math.Max(LeastRate/10, (shots[d]+dayPrior*mean)/(open[d]+dayPrior))
	}
	p.spread = p.judge(e)
	return p
}

// PerDay is the believed shots a day of one group.
func (p Pace) PerDay() float64 { return (2 + p.shots) / (2/p.declared + p.days) }

// judge compares each week's shots with what was expected of it.
func (p Pace) judge(e evidence) float64 {
	sum, weeks := 0.0, 0.0
	for end := len(e.shots); end >= 7; end -= 7 {
		made, expected := 0.0, 0.0
		for i := end - 7; i < end; i++ {
			made += e.shots[i] * math.Ceil(e.open[i])
			expected += p.byDay[e.on(i)] * e.open[i]
		}
		if expected > 0 {
			sum += (made - expected) * (made - expected) / expected
			weeks++
		}
	}
	spread := (spreadOld + sum) / (spreadOld + math.Max(0, weeks-1))
	if spread > 1 {
		spread = 1 + clumps*(spread-1)
	}
	return math.Min(25, math.Max(0.5, spread))
}

// shape of the Gamma distribution, where spread shots come in a clump.
func (p Pace) shape(spread float64) float64 { return 2 + p.shots/spread }

// need is how many shots at the believed pace must be expected until n have
// been made with probability chance: shots at an unknown Gamma rate follow a
// negative binomial, whose waiting time is beta prime.
func (p Pace) need(n, chance, spread float64) float64 {
	if n <= 0 {
		return 0
	}
	a := p.shape(spread)
	q := mathext.InvRegIncBeta(n/spread, a, chance)
	return spread * a * q / (1 - q)
}

// The range that is shown: earliest and latest bound the middle 80 %.
const early, late = 0.1, 0.9

// walk follows the days of the week until so many shots are to be expected: it
// gives the days to the begin of the last day, the shots by then, and its pace.
func (p Pace) walk(need float64) (start, before, pace float64, day int) {
	length := p.left
	day = p.day
	for n := 0; ; n++ {
		pace = p.byDay[day]
		if len(p.away) > 0 {
			noon := p.now.Add(time.Duration((start + length/2) * 24 * float64(time.Hour)))
			if away(p.away, noon) && n < 800 {
				pace = 0
			}
		}
		if pace > 0 && before+pace*length >= need {
			return start, before, pace, day
		}
		start, before = start+length, before+pace*length
		length, day = 1, (day+1)%7
	}
}

// Forecast is the days to n shots: likely by the mean rate, the same that every ruler and school goes
// by, with the 80 % range of the predictive distribution.
func (p Pace) Forecast(name string, n float64) reason.Worked {
	expect := reason.Worked{
		Name: "shots to go, at the mean rate", Unit: "shots", Value: math.Max(0, n), Formula: "max(0, n)",
		Inputs: []reason.Input{{Symbol: "n", Label: "shots to go; the range is what eight of ten futures at a rate that is " +
			"not known exactly come to", Value: n, Unit: "shots", Source: reason.Log}},
		Source: reason.Ours, WouldChange: []string{"logging the drinks you really make"}, Spread: reason.Chance,
	}
	expect.Low = math.Min(expect.Value, p.need(n, early, p.spread))
	expect.High = math.Max(expect.Value, p.need(n, late, p.spread))
	on := func(need float64) float64 {
		start, before, pace, _ := p.walk(need)
		return start + math.Max(0, need-before)/pace
	}
	start, before, pace, day := p.walk(expect.Value)
	rate := p.rate(day, pace)
	w := reason.Worked{
		Name: name, Unit: "days", Value: start + math.Max(0, expect.Value-before)/pace, Low: on(expect.Low),
		High:    on(expect.High),
		Spread:  reason.Chance,
		Formula: "start + max(0, expected − before) ÷ pace",
		Inputs: []reason.Input{
			expect.AsInput("expected"),
			{
				Symbol: "start",
				Label:  "days until the day on which it comes begins, holidays that were entered too",
				Value:  start,
				Unit:   "days",
				Source: reason.Ours,
			},
			{
				Symbol: "before",
				Label:  "shots to be expected until that day begins, by the day of the week",
				Value:  before,
				Unit:   "shots",
				Source: reason.Log,
			},
			rate.AsInput("pace"),
		},
		Source: reason.Ours,
		WouldChange: []string{
			"logging the drinks you really make",
			"changing the drinks a day in your answers",
			"entering a holiday",
			fmt.Sprintf(
				"use that swings more or less from week to week: the range is for a spread of %.1f (1 is plain chance)",
				p.spread,
			),
		},
	}
	return w
}

// rate is the pace of one day of the week with how it came about.
func (p Pace) rate(day int, pace float64) reason.Worked {
	mean := p.Mean()
	// the sums are not kept by day: they follow from the pace
	w := reason.Worked{
		Name:    "shots a group on a " + time.Weekday(day).String(),
		Value:   pace,
		Unit:    "shots/day",
		Formula: "mean × share",
		Source:  reason.Log,
		Inputs: []reason.Input{mean.AsInput("mean"),
			{
				Symbol: "share",
				Label:  "this day of the week beside the mean, as logged; half a mean day is added to each",
				Value:  pace / mean.Value,
				Source: reason.Log,
			}},
		WouldChange: []string{"logging more or less on that day of the week"},
	}
	return w.Exact()
}

// Mean is the believed shots a day of one group.
func (p Pace) Mean() reason.Worked {
	return reason.Worked{
		Name:    "shots a day a group",
		Value:   p.PerDay(),
		Unit:    "shots/day",
		Formula: "(2 + logged) ÷ (2 ÷ declared + days)",
		Source:  reason.Ours,
		Inputs: []reason.Input{
			{
				Symbol: "declared",
				Label:  "shots a day a group, as you said",
				Value:  p.declared,
				Unit:   "shots/day",
				Source: reason.Said,
			},
			{
				Symbol: "logged",
				Label:  fmt.Sprintf("shots of the last eight weeks, a day counting half after %.0f days", halfLife),
				Value:  p.shots,
				Unit:   "shots",
				Source: reason.Log,
			},
			{
				Symbol: "days",
				Label:  "days they were logged over, counted alike, idle spells left out",
				Value:  p.days,
				Unit:   "days",
				Source: reason.Log,
			},
		},
		WouldChange: []string{"logging drinks", "other answers"},
	}.Exact()
}

// ByDay is the believed shots of each day of the week, Sunday first.
func (p Pace) ByDay() []reason.Worked {
	list := make([]reason.Worked, 7)
	for d := range list {
		list[d] = p.rate(d, p.byDay[d])
	}
	return list
}
