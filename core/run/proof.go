package run

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/reason"
)

// measured takes what a strip or a meter reads.
func (f *fold) measured(s descale.Strip) {
	step := f.step()
	if step.Reads == job.Feed {
		if err := s.CheckFeed(); err != nil {
			f.state.Finding = &reason.Finding{
				Verdict: reason.Look,
				Title:   "That is not clean water, or not read right",
				Because: []reason.Reason{
					{
						Text:   "Drinking water reads about 6 to 9; the rinse is measured against it.",
						Source: reason.Ours,
					},
				},
				Next: []string{"A fresh strip in a clean glass."},
			}
			return
		}
		f.acid.feed = &s
		f.state.Finding = nil
		f.next()
		return
	}
	i := slices.IndexFunc(f.acid.circuits, func(a Acid) bool { return a.ID == step.Circuit })
	if i < 0 {
		return
	}
	if a := &f.acid.circuits[i]; step.Reads == job.Spent {
		f.spent(a, s)
	} else {
		f.proof(a, s)
	}
}

func (f *fold) spent(a *Acid, s descale.Strip) {
	plan := f.acid.plan
	strength := plan.Strength * f.acid.pipes.At(a.ID).Acid
	a.Tally.Adds(plan.Kind, strength, s, a.holds, plan.FeedAlk)
	f.state.Finding = nil
	switch {
	case s.Blue:
		f.acid.hurry = true
		f.acid.marks = append(f.acid.marks, "blue or green solution")
		f.state.Finding = &reason.Finding{
			Verdict: reason.Stop,
			Title:   "Blue or green is copper: rinse now",
			Because: []reason.Reason{
				{Text: "The acid has begun on the metal. No more soaking.", Source: reason.Trade},
			},
			Next: []string{"Go on to the rinse without a pause.", "Next time: weaker, or shorter; ask the maker."},
		}
	case !s.None:
		if x, err := descale.Was(plan.Kind, strength, s.PH, a.holds, plan.FeedAlk, !s.Meter, s.Cloudy); err == nil {
			f.state.Finding = &x.Finding
		}
	}
	f.next()
}

// mostStrikes is how many readings may differ before somebody stops and looks (our
// own engineering choice, as for the cup).
const mostStrikes = 3

func (f *fold) proof(a *Acid, s descale.Strip) {
	a.Strips = append(a.Strips, s)
	feed := f.acid.feed
	if feed == nil {
		return // cannot be in a plan that passes its check
	}
	if s.Matches(feed.PH) {
		if a.row++; a.row >= s.Needs() {
			a.In = f.acid.pipes.At(a.ID).Sour()
			f.state.Finding = nil
			if a.In { // never by a strip alone
				f.rinseOn()
				return
			}
			f.next()
			return
		}
		f.segment++
		f.since = f.now
		f.state.Finding = &reason.Finding{
			Verdict: reason.Fine,
			Title:   "It matches. Once more, with a new strip",
			Because: []reason.Reason{
				{Text: "Two strips in a row, or a meter: one alone may err.", Source: reason.Ours},
			},
		}
		return
	}
	a.row = 0
	a.strikes++
	why := fmt.Sprintf(
		"It reads %.1f, the water that goes in %.1f: more than %.1f apart.",
		s.PH,
		feed.PH,
		descale.Match,
	)
	if math.Abs(s.PH-feed.PH) <= descale.Match {
		why = "The strip matches, but it tastes of acid."
		if s.Taste == "" {
			why = "The strip matches; nobody has tasted it."
		}
	}
	if a.strikes >= mostStrikes {
		f.segment++
		f.mode, f.since = Held, f.now
		f.state.Finding = &reason.Finding{
			Verdict: reason.Stop,
			Title:   "Still acid after three rinses: stop and look",
			Because: []reason.Reason{{Text: why, Source: reason.Log}},
			Next: []string{
				"Is the tank clean, and was its water changed?",
				"Is there a part that no water reaches: a tap never opened, a group never flushed?",
				"A new strip from another pot. Then rinse on, or a workshop.",
			},
		}
		return
	}
	f.state.Finding = &reason.Finding{
		Verdict: reason.Look,
		Title:   "Not clean yet: rinse on",
		Because: []reason.Reason{
			{Text: why, Source: reason.Log},
			{Text: "What follows brings what is left to a tenth.", Source: reason.Ours},
		},
	}
	f.rinseMoreAcid(a)
}

// rinseOn goes on rinsing after the advice to stop and look.
func (f *fold) rinseOn() {
	for i := range f.acid.circuits {
		if a := &f.acid.circuits[i]; a.ID == f.step().Circuit {
			a.strikes = 0
			f.state.Finding = nil
			f.rinseMoreAcid(a)
			return
		}
	}
}

func (f *fold) rinseMoreAcid(a *Acid) {
	a.more++
	var list []job.Step
	for _, s := range f.acid.plan.Circuit(a.ID).More {
		s.ID = fmt.Sprintf("more-%d-%s", a.more, s.ID)
		list = append(list, s)
	}
	look := f.step()
	look.ID = fmt.Sprintf("%s-more-%d", strings.TrimSuffix(look.ID, fmt.Sprintf("-more-%d", a.more-1)), a.more)
	f.insert(append(list, look)...)
}
