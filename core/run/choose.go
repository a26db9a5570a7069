package run

import (
	"fmt"
	"slices"
	"strings"

	"freshanvil/core/inspect"
	"freshanvil/core/job"
	"freshanvil/core/plant"
)

// choose asks which of several it is, and leads on, round by what is tried, or to a
// halt.
type choose struct {
	still
	f    *fold
	body job.Choose
	done bool // what the hands do in it
}

func init() {
	kinds[job.ChooseKind] = func(f *fold) kind {
		body, _ := job.BodyOf[job.Choose](f.step())
		return &choose{f: f, body: body}
	}
}

func (c *choose) allowed() []PressKind { return []PressKind{Heard} }

func (c *choose) press(p Press) {
	i := slices.IndexFunc(c.body.Ways, func(w job.Way) bool { return w.Answer == p.Answer })
	if p.Kind != Heard || i < 0 || c.f.mode != Open {
		return
	}
	f, way := c.f, c.body.Ways[i]
	if !c.done {
		c.done = true
		f.doBy(f.step().Acts, f.since)
	}
	f.mark(way.Marks)
	if c.body.Sight != "" {
		f.state.Seen = append(f.state.Seen, inspect.Found{Sight: c.body.Sight, Part: f.step().Part,
			Verdict: inspect.Verdict(way.Answer), At: f.now})
	}
	if g := f.here(); g != nil {
		c.heard(g, way.Answer)
	}
	f.state.Finding = nil
	key := c.base() + " " + string(way.Answer)
	switch tried := f.tries[key]; {
	case len(way.Tries) == 0 && way.Stop == nil:
		f.next()
	case tried < len(way.Tries):
		f.tries[key]++
		c.try(way.Tries[tried])
	case way.Stop == nil:
		f.next()
	default:
		f.state.Finding = way.Stop
	}
}

// heard takes what an answer says of a group's head: that it is out, or lets water through.
func (c *choose) heard(g *group, answer job.Answer) {
	if answer == job.Opens {
		g.Blind = 0
	}
	if answer == job.Opens || answer == job.Flows {
		c.f.doNow([]plant.Action{{Verb: plant.CameOut, What: g.Part.String()}})
	}
}

// base is the name of the question as the plan asks it first.
func (c *choose) base() string {
	id := c.f.step().ID
	if first, again := c.f.asked[id]; again {
		return first
	}
	return id
}

// try goes through what is to be tried, and asks again.
func (c *choose) try(steps []job.Step) {
	f, base, n := c.f, c.base(), 0
	for key, times := range f.tries {
		if strings.HasPrefix(key, base+" ") {
			n += times
		}
	}
	// a descale asks the same several times, numbered: what is asked again is named apart
	before, after := "", fmt.Sprintf("-%d", n+1)
	if f.step().Phase != "" {
		before, after = base+"-", fmt.Sprintf("-again-%d", n)
	}
	var list []job.Step
	for _, s := range steps {
		if s.ID = fmt.Sprintf("%s%s-%d", before, s.ID, n); f.here() != nil {
			s.ID = f.named(s.ID)
		}
		s.Phase, s.Round = f.step().Phase, f.step().Round
		list = append(list, s)
	}
	again := f.step()
	again.ID = base + after
	f.asked[again.ID] = base
	f.insert(append(list, again)...)
}
