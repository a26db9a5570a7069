package machine

import (
	"slices"
	"time"
)

// Holding is what held of a machine from an instant on: the answers, the facts that were said,
// and what both come to.
type Holding struct {
	From    time.Time
	Answers Answers
	Facts   Facts
}

// Held is what held of a machine, oldest first. Before the first, that held, too: nobody said
// otherwise.
type Held []Holding

// Hold makes a timeline of answers by the instant from which they hold; of two with the same
// instant, the one given later holds.
func Hold(list ...Holding) Held {
	slices.SortStableFunc(list, func(a, b Holding) int { return a.From.Compare(b.From) })
	h := make(Held, 0, len(list))
	for _, x := range list {
		x.Facts = x.Answers.Facts()
		if n := len(h); n > 0 && h[n-1].From.Equal(x.From) {
			h[n-1] = x
			continue
		}
		h = append(h, x)
	}
	return h
}

// At is what held at an instant; the zero value of an empty timeline.
func (h Held) At(t time.Time) Holding {
	var now Holding
	for i, x := range h {
		if i == 0 || !x.From.After(t) {
			now = x
		}
	}
	return now
}

// Newest is what holds last.
func (h Held) Newest() Holding {
	if len(h) == 0 {
		return Holding{}
	}
	return h[len(h)-1]
}

// Stretch is a time over which the same held.
type Stretch struct {
	From, To time.Time
	Holding
}

// Between cuts a stretch of time where something changed.
func (h Held) Between(from, to time.Time) []Stretch {
	var list []Stretch
	for i, x := range h {
		start, end := from, to
		if i > 0 && x.From.After(from) {
			start = x.From
		}
		if i+1 < len(h) && h[i+1].From.Before(to) {
			end = h[i+1].From
		}
		if start.Before(end) {
			list = append(list, Stretch{start, end, x})
		}
	}
	return list
}

// Correct says that something was otherwise from an instant on: it changes what held then, and
// everything that was said for a later time. The instant itself begins a stretch of its own.
func (h Held) Correct(since time.Time, change func(Answers) Answers) Held {
	at := h.At(since)
	at.From = since
	list := []Holding{at}
	for _, x := range h {
		if x.From.Before(since) {
			continue
		}
		list = append(list, x)
	}
	kept := slices.DeleteFunc(slices.Clone(h), func(x Holding) bool { return !x.From.Before(since) })
	for i := range list {
		list[i].Answers = change(list[i].Answers)
	}
	return Hold(append(kept, list...)...)
}

// Since is the timeline in which the newest answers hold from an instant on, and the older ones
// before it. A zero instant changes nothing.
func (h Held) Since(t time.Time) Held {
	if t.IsZero() || len(h) < 2 || !h.Newest().From.After(t) {
		return h
	}
	newest := h.Newest()
	newest.From = t
	before := slices.DeleteFunc(slices.Clone(h), func(x Holding) bool { return !x.From.Before(t) })
	return Hold(append(before, newest)...)
}
