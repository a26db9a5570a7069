package run

import (
	"fmt"
	"math"
	"strings"

	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/reason"
)

// measure asks what a strip or a meter reads.
type measure struct {
	still
	f    *fold
	body job.Measure
}

func init() {
	kinds[job.MeasureKind] = func(f *fold) kind {
		body, _ := job.BodyOf[job.Measure](f.step())
		return &measure{f: f, body: body}
	}
}

func (m *measure) allowed() []PressKind {
	if m.f.mode == Held {
		return []PressKind{Again}
	}
	return []PressKind{Measured}
}

func (m *measure) press(p Press) {
	f := m.f
	switch {
	case p.Kind == Again && f.mode == Held:
		m.rinseOn()
	case p.Kind != Measured || f.mode != Open || p.Strip == nil || p.Strip.Check() != nil:
	case m.body.Reads == job.Feed:
		m.takeFeed(*p.Strip)
	case m.body.Reads == job.Spent:
		m.takeSpent(*p.Strip)
	default:
		m.takeProof(*p.Strip)
	}
}

// takeFeed keeps what the water reads that the rinse is compared with.
func (m *measure) takeFeed(s descale.Strip) {
	f := m.f
	if err := s.CheckFeed(); err != nil {
		f.state.Finding = &reason.Finding{
			Verdict: reason.Look, Title: "That is not clean water, or not read right",
			Because: []reason.Reason{{
				Text: "Drinking water reads about 6 to 9; the rinse is measured against it.", Source: reason.Ours,
			}},
			Next: []string{"A fresh strip in a clean glass."},
		}
		return
	}
	f.acid.feed = &s
	f.state.Finding = nil
	f.next()
}

// takeSpent counts what a spent solution has taken up; deep blue ends the soaking.
func (m *measure) takeSpent(s descale.Strip) {
	f := m.f
	a, plan := f.acid.circuit(m.body.Circuit), f.acid.plan
	if a == nil {
		return
	}
	strength := plan.Strength * f.acid.pipes.At(a.Part.String()).Acid
	a.Tally.Add(plan.Acid, strength, s, a.holds, plan.FeedAlk)
	f.state.Finding = nil
	switch {
	case s.Blue:
		f.acid.hurry = true
		f.mark(job.CopperSeen)
		f.state.Finding = &reason.Finding{
			Verdict: reason.Stop, Title: "Blue or green is copper: rinse now",
			Because: []reason.Reason{{
				Text: "The acid has begun on the metal. No more soaking, and no tasting.", Source: reason.Trade,
			}},
			Next: []string{"Go on to the rinse without a pause.", "Next time: weaker, or shorter; ask the maker."},
		}
	case !s.None:
		x, err := descale.Was(plan.Acid, strength, s.PH, a.holds, plan.FeedAlk, !s.Meter, s.Cloudy)
		if err == nil {
			f.state.Finding = &x.Finding
		}
	}
	f.next()
}

// mostStrikes is how many readings may differ before somebody stops and looks (our
// own engineering choice, as for the cup).
const mostStrikes = 3

// takeProof compares the rinse water with the feed: enough matches in a row end the
// hazard of the circuit, a reading that differs asks for more rinse.
func (m *measure) takeProof(s descale.Strip) {
	f := m.f
	a, feed := f.acid.circuit(m.body.Circuit), f.acid.feed
	if a == nil || feed == nil {
		return // cannot be in a plan that passes its check
	}
	a.Strips = append(a.Strips, s)
	if s.Matches(feed.PH) {
		m.countMatch(a, s)
		return
	}
	a.row = 0
	a.strikes++
	why := fmt.Sprintf("It reads %.1f, the water that goes in %.1f: more than %.1f apart.", s.PH, feed.PH,
		descale.Match)
	switch {
	case math.Abs(s.PH-feed.PH) > descale.Match:
	case s.Taste == "":
		why = "The strip matches; nobody has tasted it."
	default:
		why = "The strip matches, but it tastes of acid."
	}
	if a.strikes >= mostStrikes {
		f.hold(&reason.Finding{
			Verdict: reason.Stop, Title: "Still acid after three rinses: stop and look",
			Because: []reason.Reason{{Text: why, Source: reason.Log}},
			Next: []string{
				"Is the tank clean, and was its water changed?",
				"Is there a part that no water reaches: a tap never opened, a group never flushed?",
				"A new strip from another pot. Then rinse on, or a workshop.",
			},
		})
		return
	}
	f.state.Finding = &reason.Finding{
		Verdict: reason.Look, Title: "Not clean yet: rinse on",
		Because: []reason.Reason{
			{Text: why, Source: reason.Log},
			{Text: "What follows brings what is left to a tenth.", Source: reason.Ours},
		},
	}
	m.rinseMore(a)
}

// countMatch counts a reading that matches.
func (m *measure) countMatch(a *Acid, s descale.Strip) {
	f := m.f
	a.row++
	if a.row < s.Needs() {
		f.segment++
		f.since = f.now
		f.state.Finding = &reason.Finding{
			Verdict: reason.Fine, Title: "It matches. Once more, with a new strip",
			Because: []reason.Reason{{
				Text: "Two strips in a row, or a meter: one alone may err.", Source: reason.Ours,
			}},
		}
		return
	}
	a.In = f.acid.pipes.At(a.Part.String()).Sour()
	f.state.Finding = nil
	if a.In { // never by a strip alone
		m.rinseOn()
		return
	}
	f.next()
}

// rinseOn goes on rinsing after the advice to stop and look.
func (m *measure) rinseOn() {
	a := m.f.acid.circuit(m.body.Circuit)
	if a == nil {
		return
	}
	a.strikes = 0
	m.f.state.Finding = nil
	m.rinseMore(a)
}

func (m *measure) rinseMore(a *Acid) {
	f := m.f
	a.more++
	var list []job.Step
	for _, s := range f.acid.plan.Circuit(a.Part).More {
		s.ID = fmt.Sprintf("more-%d-%s", a.more, s.ID)
		list = append(list, s)
	}
	look := f.step()
	look.ID = fmt.Sprintf("%s-more-%d", strings.TrimSuffix(look.ID, fmt.Sprintf("-more-%d", a.more-1)), a.more)
	f.insert(append(list, look)...)
}
