package run

import (
	"fmt"
	"strings"

	"freshanvil/core/descale"
	"freshanvil/core/job"
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
		say("%s: %.3g %s of %s in %.1f L.", a.Title, a.Measure.Value, a.Measure.Unit, a.Product, a.Solution.Value)
		if s.Contact > 0 {
			say("Acid stood %.0f min.", s.Contact.Minutes())
		}
	}
	var tallies []descale.Tally
	for _, c := range s.Acids {
		tallies = append(tallies, c.Tally)
		if n := len(c.Strips); n > 0 && s.Feed != nil && !c.In {
			say("%s: strip %.1f beside %.1f.", c.Title, c.Strips[n-1].PH, s.Feed.PH)
		}
		if c.In {
			say("%s: acid left in.", c.Title)
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
