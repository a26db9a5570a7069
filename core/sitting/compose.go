package sitting

import (
	"errors"
	"fmt"
	"slices"
	"time"

	"freshanvil/core/job"
	"freshanvil/core/reason"
	"freshanvil/core/run"
)

// Composed is a sitting as it is led.
type Composed struct {
	Plan  job.Plan
	Order Order
	Alone time.Duration // the same tasks one by one, each with its own cooling and heating
	ones  []reason.Worked
	Clear reason.Reason // how it was cleared on the model of the machine
	// Plain says that the tasks are taken one by one: no shorter order was cleared.
	Plain bool
	// Shortest is what the best order found takes, where somebody moved something; 0 otherwise.
	Shortest time.Duration
	gathered *job.Gathered
}

// OneByOne is what the same tasks take one by one, min, each cooled for and heated up by itself.
func (c Composed) OneByOne() reason.Worked { return inAll("the same tasks one by one", c.ones) }

// Opens says that something is opened in it that must be cold.
func (c Composed) Opens() bool {
	return slices.ContainsFunc(c.Order.Turns, func(t job.Turn) bool { return t.Kind == job.OffTurn })
}

// Place is a turn of a sitting, in its order, for whoever moves it.
type Place struct{ Name, Title string }

// Places are its turns in their order.
func (c Composed) Places() []Place {
	list := make([]Place, len(c.Order.Turns))
	for i, t := range c.Order.Turns {
		list[i] = Place{c.gathered.Name(t), c.gathered.Title(t)}
	}
	return list
}

// ComposeAs is Compose in an order that somebody chose, by the names of its turns. What the model of the machine does
// not clear, or a rule of the work forbids, is a *reason.Refusal that says why; names that do not fit are a
// *units.OutOfRange. Without names it is Compose.
func ComposeAs(in job.Gathering, names []string, wants ...job.Want) (Composed, error) {
	c, err := Compose(in, wants...)
	if err != nil || len(names) == 0 {
		return c, err
	}
	c.Shortest = takes(c.Plan)
	turns, err := c.gathered.Turns(names)
	if err != nil {
		return c, err
	}
	if err := allowed(c.gathered, turns); err != nil {
		return c, err
	}
	if c.Plan, err = c.gathered.Plan(turns); err != nil {
		return c, err
	}
	if c.Clear, err = run.Cleared(c.Plan); err != nil {
		return c, err
	}
	c.Order.Turns, c.Order.Takes = turns, takes(c.Plan)
	return c, nil
}

// OutOfOrder is the code of an order that a rule of the work forbids.
const OutOfOrder reason.Code = "out_of_order"

// allowed refuses an order that the rules of the work forbid beside what the model of the machine judges.
func allowed(g *job.Gathered, turns []job.Turn) error {
	refuse := func(t job.Turn, why, instead string) error {
		return reason.Refuse(OutOfOrder, "Not in this order").Of("order", g.Title(t), "another order").
			Why(reason.Trade, why).Instead(instead)
	}
	s := newSearch(g)
	a := s.begins()
	for _, t := range turns[len(s.turns):] {
		switch {
		case t.Kind == job.OnTurn && !a.off:
			return refuse(t, "It is on already.", "Switch it off, and let it cool, before what is done cold.")
		case t.Kind == job.OnTurn && s.coldLeft(a) > 0:
			return refuse(t, "Something is still to be done cold: it would have to cool twice.",
				"Do what is done cold first, then switch on.")
		case t.Kind == job.OffTurn && s.midway(a):
			return refuse(t, "Something is begun that wants the machine hot: a boiler that cools sucks in what its wand "+
				"stands in.", "End that first, then switch off.")
		case t.Kind == job.WorkTurn && g.Pieces[t.Piece].Task.Row().Doses && t.Stretch == 0 && s.begun(a):
			return refuse(t, "A wash may have to be rinsed and left at once, and it needs the handle: nothing soaks "+
				"meanwhile.", "End what soaks first, or begin it after the wash.")
		}
		a = a.after(move{turn: t, start: max(a.now, a.readyFor(t))}, g)
		if i := s.leftTooLong(a); i >= 0 {
			return refuse(job.Turn{Piece: i, Stretch: a.done[i]}, "It would stand far longer than it is meant to: chrome goes "+
				"dull, and what was loosened dries on.", "End it first, or begin it later.")
		}
	}
	return nil
}

// readyFor is when what stood before a turn is over.
func (a *at) readyFor(t job.Turn) time.Duration {
	if t.Kind != job.WorkTurn {
		return a.now
	}
	return a.ready[t.Piece]
}

// Estimate is what tasks of one machine take in one sitting, in the shortest order, before any of it is judged.
func Estimate(in job.Gathering, wants ...job.Want) (job.Plan, error) {
	g, err := job.Gather(in, apart(wants)...)
	if err != nil {
		return job.Plan{}, err
	}
	return g.Plan(Shortest(g).Turns)
}

// apart leaves out what another of the tasks includes.
func apart(wants []job.Want) []job.Want {
	return slices.DeleteFunc(slices.Clone(wants), func(w job.Want) bool {
		return slices.ContainsFunc(wants, func(o job.Want) bool { return o.Task != w.Task && o.Task.Counts(w.Task) })
	})
}

// Compose puts tasks of one machine into the order that takes the least time, and judges it on the model of
// the machine. What the model does not clear in that order is led in the plain one, and that is said.
func Compose(in job.Gathering, wants ...job.Want) (Composed, error) {
	wants = apart(wants)
	g, err := job.Gather(in, wants...)
	if err != nil {
		return Composed{}, err
	}
	c, err := cleared(g, run.Cleared)
	if err != nil {
		return c, err
	}
	for _, w := range wants {
		one, err := job.Gather(in, w)
		if err != nil {
			return c, err
		}
		p, err := one.Plan(one.InTurn())
		if err != nil {
			return c, err
		}
		c.Alone += takes(p)
		minutes := p.Minutes
		minutes.Name = w.Task.Title() + " by itself"
		c.ones = append(c.ones, minutes)
	}
	return c, nil
}

// Says is how good the order is, in a sentence.
func (c Composed) Says() string {
	whole := takes(c.Plan)
	if c.Shortest > 0 {
		return fmt.Sprintf("%s in all, as you moved it; the shortest order takes %s, one by one it would be %s.", long(whole),
			long(c.Shortest), long(c.Alone))
	}
	text := fmt.Sprintf("%s in all; one by one it would be %s.", long(whole), long(c.Alone))
	if c.Opens() && !c.Plan.Cold {
		text += fmt.Sprintf(" Begun in the morning, before it is switched on, it is %s shorter: it need not cool.",
			long(c.gathered.Cools))
	}
	if c.Plain {
		return text + " They are taken one by one: the model of the machine clears no shorter order."
	}
	if c.Order.Proven {
		return text + " No order of these is shorter."
	}
	return text + fmt.Sprintf(" The shortest could take %s: this order is not proven the best.", long(c.Order.Least))
}

// mostArrows is how often an order that the model does not clear is looked for anew.
const mostArrows = 5

// cleared is the shortest order that is cleared. Where one is not, the turn that it broke at is put behind the one
// that came after it, and the shortest of what is left is looked for; after five times the tasks are taken one by one,
// in the plain order, which is not called the shortest.
func cleared(g *job.Gathered, judge func(job.Plan) (reason.Reason, error)) (c Composed, err error) {
	c = Composed{gathered: g}
	var arrows []arrow
	for range mostArrows + 1 {
		c.Order = shortest(g, arrows...)
		if len(c.Order.Turns) == 0 {
			break
		}
		if c.Plan, err = g.Plan(c.Order.Turns); err != nil {
			break
		}
		if c.Clear, err = judge(c.Plan); err == nil {
			return c, nil
		}
		var unsafe *job.Unsafe
		if !errors.As(err, &unsafe) {
			break
		}
		next, any := broken(g, c.Order.Turns, unsafe.Step)
		if !any || slices.Contains(arrows, next) {
			break
		}
		arrows = append(arrows, next)
	}
	c.Order.Turns, c.Order.Proven, c.Plain = g.InTurn(), false, true
	if c.Plan, err = g.Plan(c.Order.Turns); err != nil {
		return c, err
	}
	c.Clear, err = judge(c.Plan)
	return c, err
}

// broken is the arrow that an order broke by a step: its turn comes after the next one of another task.
func broken(g *job.Gathered, turns []job.Turn, step string) (arrow, bool) {
	i := slices.IndexFunc(turns, func(t job.Turn) bool { return slices.Contains(g.Steps(t), step) })
	if i < 0 {
		return arrow{}, false
	}
	for _, t := range turns[i+1:] {
		if t.Kind != job.WorkTurn || turns[i].Kind != job.WorkTurn || t.Piece != turns[i].Piece {
			return arrow{first: t, then: turns[i]}, true
		}
	}
	return arrow{}, false
}

// takes is what a plan takes, as the hands are planned for.
func takes(p job.Plan) time.Duration { return time.Duration(p.Minutes.Value * float64(time.Minute)) }

// long is a length of time as people say it.
func long(d time.Duration) string {
	m := int(d.Round(time.Minute).Minutes())
	switch {
	case m == 1:
		return "a minute"
	case m < 90:
		return fmt.Sprintf("%d minutes", m)
	}
	return fmt.Sprintf("%d h %02d min", m/60, m%60)
}
