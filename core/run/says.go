package run

import (
	"fmt"
	"strings"

	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/reason"
)

// Says is what a descale came to, in sentences for the log; empty for other runs.
func (s State) Says(plan job.Plan) string {
	a := plan.Acid
	if a == nil {
		return ""
	}
	var said []string
	say := func(text string, args ...any) { said = append(said, fmt.Sprintf(text, args...)) }
	if !a.Dirty {
		say("%s: %.3g %s of %s in %.2g L.", a.Title, a.Measure.Value, a.Measure.Unit, a.Product, a.Solution.Value)
		if s.Contact > 0 {
			say("Acid stood %.0f min.", s.Contact.Minutes())
		}
	}
	var tallies []descale.Tally
	for _, c := range s.Acids {
		tallies = append(tallies, c.Tally)
		if n := len(c.Strips); n > 0 && s.Feed != nil && !c.In {
			say("%s: strip %.1f beside %.1f.", capital(c.Title), c.Strips[n-1].PH, s.Feed.PH)
		}
		if c.In {
			say("%s: acid left in.", capital(c.Title))
		}
	}
	if sum, any := descale.Sum(tallies...); any {
		least := ""
		if sum.AtLeast {
			least = ", at least"
		}
		say("About %.2g g of scale came out%s.", sum.Grams.Likely, least)
	}
	if len(s.Marks) > 0 {
		say("Seen: %s.", strings.Join(s.Marks, ", "))
	}
	return strings.Join(said, " ")
}

func capital(s string) string { return strings.ToUpper(s[:1]) + s[1:] }

// Came is the scale that came out, by what the spent solutions said; its name is
// empty where none was read.
func (s State) Came() reason.Worked {
	w := reason.Worked{
		Name:        "scale that came out",
		Unit:        "g",
		Source:      descale.Equilibrium,
		WouldChange: []string{"a meter in the place of a strip", "a reading of every fill"},
	}
	for i, a := range s.Acids {
		if a.Tally.Read == 0 {
			continue
		}
		symbol := fmt.Sprintf("c%d", i+1)
		if w.Formula != "" {
			w.Formula += " + "
		}
		w.Formula += symbol
		w.Value, w.Low, w.High = w.Value+a.Tally.Likely, w.Low+a.Tally.Low, w.High+a.Tally.High
		w.Inputs = append(
			w.Inputs,
			reason.Input{
				Symbol: symbol,
				Label: fmt.Sprintf(
					"%s, from the pH of %d of %d fills, less what the fill before had left",
					a.Title,
					a.Tally.Read,
					a.Tally.Fills,
				),
				Value:  a.Tally.Likely,
				Unit:   "g",
				Source: descale.Equilibrium,
			},
		)
	}
	if w.Formula == "" {
		return reason.Worked{}
	}
	return w
}

// Spent is what the spent solutions of a descale said in all, and whether they move
// the share of the scale that stays: not where gauze or taps still show scale, which
// tells of less than there was, unless more came out than was believed.
func (s State) Spent(plan job.Plan) (spent descale.Spent, any bool) {
	var tallies []descale.Tally
	for _, c := range s.Acids {
		tallies = append(tallies, c.Tally)
	}
	spent, any = descale.Sum(tallies...)
	for _, m := range s.Marks {
		spent.AtLeast = spent.AtLeast || strings.HasPrefix(m, "gauze")
	}
	return spent, any && plan.Acid != nil && plan.Acid.Known
}
