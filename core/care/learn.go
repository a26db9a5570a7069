package care

import (
	"fmt"
	"math"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
)

// Graded is one wash whose first discharge was looked at.
type Graded struct {
	At    time.Time
	Part  machine.Part
	First backflush.Colour
	Gone  float64 // share of the interval that had gone when it began
}

// Lesson is what the first discharges say about the interval.
type Lesson struct {
	Finding reason.Finding
	// Proposed is set where another interval is proposed, Factor what it is
	// then of the school's own, Interval what that comes to.
	Proposed bool
	Factor   reason.Worked
	Interval Interval
}

// What the first discharge asks for (our own engineering choices).
const (
	longer      = 1.25
	shorter     = 0.85
	muchShorter = 0.70
	leastFactor = 0.5
	mostFactor  = 2.0
	// a clear cup after much less than the interval says nothing, nor a dark
	// one long after it
	tooEarly = 0.75
	tooLate  = 1.5
)

// changeFor is by what the washes that were graded change the interval, and why; 0
// where they leave it as it is.
func changeFor(list []Graded) (change float64, why string) {
	last := list[len(list)-1]
	switch last.First {
	case backflush.ColourPale:
		return 0, "The first dirty water was pale: the interval fits."
	case backflush.ColourClear:
		if last.Gone < tooEarly {
			return 0, fmt.Sprintf("Clear, but after only %.0f %% of the interval: that says nothing yet.", 100*last.Gone)
		}
		if !clearBefore(list) {
			return 0, "Clear once. Clear twice running would make it longer."
		}
		return longer, "The first dirty water was clear twice running: nothing had built up, so 25 % longer."
	}
	if last.Gone > tooLate {
		return 0, fmt.Sprintf("It was %s, but the wash came %.1f intervals late: that says nothing about the interval.",
			last.First, last.Gone-1)
	}
	if last.First == backflush.ColourBrown {
		return shorter, "The first dirty water was brown: oil had built up, so 15 % shorter."
	}
	return muchShorter, "The first dirty water was dark: far too much had built up, so 30 % shorter."
}

// clearBefore says whether the wash of the same group before the last one was clear,
// late enough to say something.
func clearBefore(list []Graded) bool {
	last := list[len(list)-1]
	for i := len(list) - 2; i >= 0; i-- {
		if list[i].Part == last.Part {
			return list[i].First == backflush.ColourClear && list[i].Gone >= tooEarly
		}
	}
	return false
}

// Learn judges by the washes graded since the interval was last changed,
// oldest first: clear twice running in the same group lengthens it, pale keeps
// it, brown and dark shorten it, never outside half to twice the school's own,
// nor past the calendar's cap.
func Learn(a machine.Answers, c Choice, graded []Graded) Lesson {
	c = c.Settled(a)
	var list []Graded
	for _, g := range graded {
		if g.First != "" && g.First != backflush.Unseen {
			list = append(list, g)
		}
	}
	keep := func(title, text string, source reason.Source) Lesson {
		return Lesson{
			Finding: reason.Finding{
				Verdict: reason.Fine,
				Title:   title,
				Because: []reason.Reason{{Text: text, Source: source}},
			},
		}
	}
	if len(list) == 0 {
		return keep(
			"Nothing to learn from yet",
			"No first dirty water was looked at since the interval was set.",
			reason.Log,
		)
	}
	last := list[len(list)-1]
	change, why := changeFor(list)
	if change == 0 {
		return keep("Keep the interval", why, reason.Ours)
	}
	l := Lesson{Factor: reason.Worked{
		Name: "share of the school's interval", Value: math.Min(mostFactor, math.Max(leastFactor, c.Factor*change)),
		Unit: "", Source: reason.Ours,
		Formula: "min(most, max(least, now × change))",
		Inputs: []reason.Input{
			{
				Symbol: "now",
				Label:  "share of the school's interval that holds now",
				Value:  c.Factor,
				Source: reason.Log,
			},
			{
				Symbol: "change",
				Label:  "what the first dirty water asks for: " + string(last.First),
				Value:  change,
				Source: reason.Ours,
			},
			{Symbol: "least", Label: "never less than", Value: leastFactor, Source: reason.Ours},
			{Symbol: "most", Label: "never more than", Value: mostFactor, Source: reason.Ours},
		}, WouldChange: []string{"another first dirty water at the next wash"}}.Exact()}
	now, then := c.For(a), c
	then.Factor = l.Factor.Value
	l.Interval = then.For(a)
	because := []reason.Reason{{Text: why, Source: reason.Ours}}
	switch {
	case now.Daily:
		return keep(
			"Keep the interval",
			"It is washed every day already: a café's one day is its cap, and more than once a day is for the closer to judge.",
			reason.Ours,
		)
	case a.Facts().Valve == machine.Cam && change < 1 && l.Interval.Days < halfYear:
		l = keep("Keep the interval", why, reason.Ours)
		l.Finding.Verdict = reason.Look
		l.Finding.Because = append(
			l.Finding.Because,
			reason.Reason{Text: "But detergent more than twice a year strips the cam's grease.", Source: reason.Trade},
		)
		l.Finding.Next = []string{"Clean by hand more often instead: screen off, scrubbed, seal brushed."}
		return l
	case same(now, l.Interval):
		return keep(
			"Keep the interval",
			why+" It is at its bound already: half to twice the school's own, and never past the calendar's cap.",
			reason.Ours,
		)
	}
	l.Proposed = true
	title := "Wash more often"
	if change > 1 {
		title = "Wash less often"
	}
	l.Finding = reason.Finding{Verdict: reason.Look, Title: title, Because: because}
	return l
}

func same(a, b Interval) bool {
	near := func(x, y float64) bool { return math.Abs(x-y) < 0.02*math.Max(x, y) || x == y }
	return near(a.Shots, b.Shots) && near(a.Coffee, b.Coffee) && near(a.Counter, b.Counter) &&
		near(a.Litres, b.Litres) &&
		near(a.Days, b.Days)
}

// Moved is by how much an interval is shorter or longer than usual, in words: "15 % sooner".
func Moved(factor float64) string {
	by, way := 100*(1-factor), "sooner"
	if factor > 1 {
		by, way = 100*(factor-1), "later"
	}
	return fmt.Sprintf("%.0f %% %s", by, way)
}
