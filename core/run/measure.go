package run

import (
	"fmt"
	"strings"
	"time"

	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// measure asks what a strip or a meter reads.
type measure struct {
	still
	f    *fold
	body job.Measure
	done bool // what the hands do in it
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
	if p.Kind == Measured && f.mode == Open && !m.done {
		m.done = true
		f.doBy(f.step().Acts, f.since)
	}
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
			Next: []string{"Take a fresh strip in a clean glass."},
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
	strength := max(0.1, plan.Strength*units.Strength(a.spent))
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
			Next: []string{
				"Go on to the rinse without a pause.", "Next time mix it weaker or soak it shorter, and ask the maker.",
			},
		}
	case !s.None:
		x, err := descale.Was(plan.Acid, strength, s.PH, a.holds, plan.FeedAlk, !s.Meter, s.Cloudy)
		if err == nil {
			f.state.Finding = &x.Finding
		}
	}
	f.next()
}

// Readings that differ (our own engineering choices): after so many the feed is read anew,
// for it may be that which has changed; after so many somebody stops and looks.
const (
	doubts      = 2
	mostStrikes = 3
)

// row is how the readings at the present outlet stand.
func (m *measure) row(a *Acid) *row {
	r := a.rows[m.body.Outlet]
	if r == nil {
		r = &row{}
		a.rows[m.body.Outlet] = r
	}
	return r
}

// takeProof compares the rinse water with the feed: enough matches in a row end the
// hazard of the circuit once every outlet is proven, a reading that differs asks for more
// rinse.
func (m *measure) takeProof(s descale.Strip) {
	f := m.f
	a, feed := f.acid.circuit(m.body.Circuit), f.acid.feed
	if a == nil || feed == nil {
		return // cannot be in a plan that passes its check
	}
	a.Strips = append(a.Strips, s)
	r := m.row(a)
	if s.Matches(*feed) {
		m.countMatch(a, r, s)
		return
	}
	r.matches = 0
	r.strikes++
	why := fmt.Sprintf("It reads %.1f, the water that goes in %.1f.", s.PH, feed.PH)
	if s.Taste == descale.TasteAcid {
		why = "It tastes of acid."
	}
	switch {
	case r.strikes >= mostStrikes:
		f.hold(&reason.Finding{
			Verdict: reason.Stop, Title: "Still acid after three rinses: stop and look",
			Because: []reason.Reason{{Text: why, Source: reason.Log}},
			Next: []string{
				"Is the tank clean, and was its water changed?",
				"Is there a part that no water reaches: a tap never opened, a group never flushed?",
				"Take a strip from another pot. Then rinse on, or call a workshop.",
			},
		})
		return
	case r.strikes == doubts:
		m.readFeedAgain(a, r, why)
		return
	}
	f.state.Finding = &reason.Finding{
		Verdict: reason.Look, Title: "Not clean yet: rinse on",
		Because: []reason.Reason{
			{Text: why, Source: reason.Log},
			{Text: "The next rinse brings the rest to a tenth.", Source: reason.Ours},
		},
	}
	m.rinseMore(a, r)
}

// readFeedAgain doubts the reading of the water that goes in, after two that differ: it is
// read anew, with a fresh strip, before it is rinsed on.
func (m *measure) readFeedAgain(a *Acid, r *row, why string) {
	f := m.f
	f.state.Finding = &reason.Finding{
		Verdict: reason.Look, Title: "Read the clean water again, with a fresh strip",
		Because: []reason.Reason{
			{Text: why, Source: reason.Log},
			{Text: "After two rinses the first reading of the clean water may be the wrong one.", Source: reason.Ours},
		},
	}
	feed := job.Step{
		ID: fmt.Sprintf("feed-again-%s-%d", m.body.Outlet, r.more), Title: "pH of the clean water, once more",
		Head: "The clean water again", Button: "That is what it reads", Takes: time.Minute,
		Do:       []string{"A fresh strip, from another pot if there is one, in the clean water you rinse with."},
		Cautions: f.step().Cautions, Phase: f.step().Phase, Body: job.Measure{Reads: job.Feed},
	}
	m.rinseMore(a, r, feed)
}

// countMatch counts a reading that matches.
func (m *measure) countMatch(a *Acid, r *row, s descale.Strip) {
	f := m.f
	r.matches++
	if r.matches < s.Needs() {
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
	f.state.Finding = nil
	p := f.model
	if p.Sours(f.acid.plan.Plant.Find(a.Part.String())) { // never by a strip alone
		m.rinseMore(a, r)
		return
	}
	r.done = true
	if m.body.Last {
		f.doNow([]plant.Action{{Verb: plant.Proven, What: a.Part.String()}})
		a.In = false
	}
	f.next()
}

// rinseOn goes on rinsing after the advice to stop and look.
func (m *measure) rinseOn() {
	a := m.f.acid.circuit(m.body.Circuit)
	if a == nil {
		return
	}
	r := m.row(a)
	r.strikes = 0
	m.f.state.Finding = nil
	m.rinseMore(a, r)
}

func (m *measure) rinseMore(a *Acid, r *row, first ...job.Step) {
	f := m.f
	r.more++
	list := first
	if o := f.acid.plan.Circuit(a.Part).Outlet(m.body.Outlet); o != nil {
		for _, s := range o.More {
			s.ID = fmt.Sprintf("more-%d-%s-%s", r.more, m.body.Outlet, s.ID)
			list = append(list, s)
		}
	}
	look := f.step()
	look.ID = fmt.Sprintf("%s-more-%d", strings.TrimSuffix(look.ID, fmt.Sprintf("-more-%d", r.more-1)), r.more)
	f.insert(append(list, look)...)
}
