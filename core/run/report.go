package run

import (
	"fmt"
	"slices"
	"strings"

	"freshanvil/core/descale"
	"freshanvil/core/inspect"
	"freshanvil/core/job"
	"freshanvil/core/reason"
	"freshanvil/core/speak"
)

// Report is what a descale came to, in sentences for the log; empty for other runs.
// It tells what was done, not what was planned.
func (s State) Report(plan job.Plan) string {
	activity := plan.Descaling()
	if activity == nil || s.Descale == nil {
		return ""
	}
	p, d := activity.Descale, s.Descale
	var said []string
	say := func(text string, args ...any) { said = append(said, fmt.Sprintf(text, args...)) }
	if !p.Dirty {
		say("%s: %s %s of %s mixed, %.2g L of solution through.", p.Title, reason.Figure(d.Booked.Mixed, "g"),
			p.Measure.Unit, p.Product,
			d.Booked.Pushed)
		if d.Contact > 0 {
			say("Acid stood %.0f min, %s.", d.Contact.Minutes(), times(d.Booked.Soaks, p.Program))
		}
		if d.Booked.LeftOut > 0 {
			say("Left out: %d of %s.", d.Booked.LeftOut, times(p.Rounds, p.Program))
		}
	}
	for _, c := range d.Acids {
		if n := len(c.Strips); n > 0 && d.Feed != nil && !c.In {
			say("%s: strip %.1f beside %.1f.", speak.Upper(c.Title), c.Strips[n-1].PH, d.Feed.PH)
		}
		if c.In {
			say("%s: acid left in.", speak.Upper(c.Title))
		}
	}
	if sum, any := descale.Sum(d.tallies()...); any {
		least := ""
		if sum.AtLeast {
			least = ", at least"
		}
		say("About %s g of scale came out%s.", reason.Figure(sum.Grams.Likely, "g"), least)
	}
	if len(d.Marks) > 0 {
		texts := make([]string, len(d.Marks))
		for i, m := range d.Marks {
			texts[i] = m.Text()
		}
		say("Seen: %s.", strings.Join(texts, ", "))
	}
	return strings.Join(said, " ")
}

// Found is what was seen in an activity, of what it looks at, in a sentence for the log; empty where nothing
// was.
func (s State) Found(a job.Activity) string {
	var said []string
	for _, f := range s.Seen {
		row, known := inspect.Find(f.Sight)
		if known && slices.Contains(a.Looks, f.Sight) && (f.Part == a.Part || f.Part.IsWhole()) {
			said = append(said, speak.Lower(row.Title)+": "+speak.Lower(f.Seen().Text))
		}
	}
	if len(said) == 0 {
		return ""
	}
	return "Found: " + strings.Join(said, "; ") + "."
}

func times(n int, program descale.ProgramID) string {
	what := "soak"
	if program == descale.Sips {
		what = "sip"
	}
	if n == 1 {
		return "one " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}

// tallies are what was read of the spent solution of each circuit.
func (d Descale) tallies() []descale.Tally {
	var list []descale.Tally
	for _, c := range d.Acids {
		list = append(list, c.Tally)
	}
	return list
}

// Came is the scale that came out, by what the spent solutions said; its name is
// empty where none was read.
func (d Descale) Came() reason.Worked {
	w := reason.Worked{
		Name: "scale that came out", Unit: "g", Source: descale.Equilibrium,
		WouldChange: []string{"a meter in the place of a strip", "a reading of every fill"},
	}
	var terms []string
	for i, a := range d.Acids {
		if a.Tally.Read == 0 {
			continue
		}
		symbol := fmt.Sprintf("c%d", i+1)
		terms = append(terms, symbol)
		w.Value, w.Low, w.High = w.Value+a.Tally.Likely, w.Low+a.Tally.Low, w.High+a.Tally.High
		w.Spread = reason.Tolerance
		w.Inputs = append(w.Inputs, reason.Input{
			Symbol: symbol,
			Label: fmt.Sprintf("%s, from the pH of %d of %d fills, less what the fill before had left", a.Title,
				a.Tally.Read, a.Tally.Fills),
			Value: a.Tally.Likely, Unit: "g", Source: descale.Equilibrium,
		}.Ranged(a.Tally.Low, a.Tally.High))
	}
	if len(terms) == 0 {
		return reason.Worked{}
	}
	w.Formula = strings.Join(terms, " + ")
	return w
}

// Spent is what the spent solutions of a descale said in all, and whether they move
// the share of the scale that stays: not where gauze or taps still show scale, or
// soaks were left out, which tells of less than there was, unless more came out than
// was believed.
func (s State) Spent(plan job.Plan) (spent descale.Spent, any bool) {
	activity := plan.Descaling()
	if activity == nil || s.Descale == nil {
		return spent, false
	}
	spent, any = descale.Sum(s.Descale.tallies()...)
	left := slices.Contains(s.Descale.Marks, job.GauzeDusted) || slices.Contains(s.Descale.Marks, job.GauzeCrusted)
	spent.AtLeast = spent.AtLeast || left || s.Descale.Booked.LeftOut > 0
	return spent, any && activity.Descale.Known
}
