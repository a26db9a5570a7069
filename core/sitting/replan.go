package sitting

import (
	"cmp"
	"slices"
	"time"

	"freshanvil/core/job"
	"freshanvil/core/run"
	"freshanvil/core/task"
)

// leastSaved is what another order of what is left must save, so that the hands are told another thing than they were
// (our own engineering choice).
const leastSaved = time.Minute

// mostLookedLive bounds how many ways are looked at while somebody waits for the answer to a press.
const mostLookedLive = 20_000

// piecework is a plan of several tasks cut into pieces again, as it was put together.
type piecework struct {
	g     job.Gathered
	turns map[job.Turn]block
	order []job.Turn // of the plan
}

// block is the steps of a turn: what stands before it, and what the hands do.
type block struct {
	stand string
	steps []string
}

// cutUp cuts a plan up; false where it holds what is not moved. What a stretch wants is read from where the plan has
// it: a task that is done hot there is never moved to where the machine is off.
func cutUp(p job.Plan) (w piecework, ok bool) {
	w.turns = map[job.Turn]block{}
	w.g.Switching = time.Minute
	pieces, off, on := map[task.ID]int{}, false, false
	var stand *job.Span
	var open *job.Turn
	for _, x := range p.Spans() {
		if x.OfTheMachine() {
			open = nil
			w.ofTheMachine(x, &off, &on)
			continue
		}
		a := p.Activity(x.Step.Activity)
		if a == nil || a.Descale != nil {
			return w, false
		}
		if soak, is := job.BodyOf[job.Soak](x.Step); is && a.Wash == nil {
			if soak.Acid || stand != nil {
				return w, false
			}
			stand, open = &x, nil
			continue
		}
		i, known := pieces[a.Task]
		if !known {
			i = len(w.g.Pieces)
			pieces[a.Task] = i
			w.g.Pieces = append(w.g.Pieces, job.Piece{Task: a.Task})
		}
		piece := &w.g.Pieces[i]
		if open == nil || open.Piece != i || stand != nil {
			t := job.Turn{Piece: i, Stretch: len(piece.Stretches)}
			s := job.Stretch{Wants: wanted(a.Task, off, on)}
			if stand != nil {
				s.Stands = stand.To - stand.From
				w.turns[t] = block{stand: stand.Step.ID}
				stand = nil
			}
			piece.Stretches = append(piece.Stretches, s)
			w.order, open = append(w.order, t), &t
		}
		piece.Stretches[open.Stretch].Hands += x.To - x.From
		b := w.turns[*open]
		b.steps = append(b.steps, x.Step.ID)
		w.turns[*open] = b
	}
	return w, stand == nil && len(w.g.Pieces) > 1
}

// ofTheMachine takes note of switching, cooling and heating.
func (w *piecework) ofTheMachine(x job.Span, off, on *bool) {
	t := job.Turn{Kind: job.OffTurn}
	switch x.Step.ID {
	case "off":
		*off = true
		w.order = append(w.order, t)
	case "on":
		*on = true
		t.Kind = job.OnTurn
		w.order = append(w.order, t)
	case "cool":
		w.g.Cools = x.To - x.From
	case "heat":
		t.Kind, w.g.Heats = job.OnTurn, x.To-x.From
	}
	b := w.turns[t]
	if _, beside := job.BodyOf[job.Soak](x.Step); beside {
		b.stand = x.Step.ID
	} else {
		b.steps = append(b.steps, x.Step.ID)
	}
	w.turns[t] = b
}

func wanted(id task.ID, off, on bool) job.Condition {
	switch cold := off && !on; {
	case cold && slices.Contains(id.Row().Needs, task.Cold):
		return job.ColdMachine
	case cold:
		return job.Whatever
	}
	return job.HotMachine
}

// Replan looks for a shorter order of what is left of a run of several tasks: hands were slower or quicker than
// planned, and what stands is ready earlier or later than the order was made for. It gives the steps that are left in
// the new order, and what that saves; false where nothing is to be gained, where the hands are in the middle of
// something, or where the model of the machine does not clear it.
func Replan(p job.Plan, so run.Progress) (order []string, saves time.Duration, ok bool) {
	w, ok := cutUp(p)
	if !ok || !so.Fresh || len(so.Left) == 0 {
		return nil, 0, false
	}
	s := newSearch(&w.g)
	s.most = mostLookedLive
	here, rest, ok := w.where(s, so)
	if !ok || len(rest) < 2 {
		return nil, 0, false
	}
	planned := here
	for _, t := range rest {
		planned = planned.after(move{turn: t, start: planned.from(s, t)}, &w.g)
	}
	s.best = planned.now
	s.least = s.atLeast(here)
	s.from(here)
	if saves = planned.now - s.best; saves < leastSaved || len(s.found) == 0 {
		return nil, 0, false
	}
	if order, ok = w.steps(s.found, so.Left); !ok {
		return nil, 0, false
	}
	if _, err := run.Cleared(inOrderOf(p, so, order)); err != nil {
		return nil, 0, false
	}
	return order, saves, true
}

// from is when a turn may begin from where an order stands.
func (a *at) from(s *search, t job.Turn) time.Duration {
	if t.Kind != job.WorkTurn {
		return a.now
	}
	start := max(a.now, a.ready[t.Piece])
	switch s.g.Pieces[t.Piece].Stretches[t.Stretch].Wants {
	case job.ColdMachine:
		start = max(start, a.cold)
	case job.HotMachine:
		if s.colds > 0 && a.on {
			start = max(start, a.hot)
		}
	}
	return start
}

// where is where an order stands in the middle of a run, and the turns that are left, as the run has them; false where
// the hands are within a turn, or something is left that belongs to none.
func (w *piecework) where(s *search, so run.Progress) (a *at, rest []job.Turn, ok bool) {
	a = s.begins()
	a.now = so.Now
	owner := map[string]job.Turn{}
	for t, b := range w.turns {
		for _, id := range b.steps {
			owner[id] = t
		}
		if b.stand != "" {
			owner[b.stand] = t
		}
	}
	for _, x := range so.Left {
		t, known := owner[x.ID]
		if !known {
			return a, nil, false
		}
		if n := len(rest); w.turns[t].stand != x.ID && (n == 0 || rest[n-1] != t) {
			rest = append(rest, t)
		}
	}
	for _, t := range w.order {
		if slices.Contains(rest, t) {
			if _, begun := so.Ended[w.turns[t].steps[0]]; begun {
				return a, nil, false
			}
			continue
		}
		steps := w.turns[t].steps
		ended, over := so.Ended[steps[len(steps)-1]]
		if !over {
			return a, nil, false
		}
		w.passed(a, t, ended, so)
	}
	return a, rest, true
}

// passed takes note of a turn that is over.
func (w *piecework) passed(a *at, t job.Turn, ended time.Duration, so run.Progress) {
	_, stood := so.Ended[w.turns[t].stand]
	switch t.Kind {
	case job.OffTurn:
		if a.off, a.cold = true, ended+w.g.Cools; stood {
			a.cold = 0
		}
	case job.OnTurn:
		if a.on, a.hot = true, ended+w.g.Heats; stood {
			a.hot = 0
		}
	default:
		piece := w.g.Pieces[t.Piece]
		a.done[t.Piece]++
		a.finished++
		if n := a.done[t.Piece]; n < len(piece.Stretches) {
			a.ready[t.Piece] = ended + piece.Stretches[n].Stands
		}
	}
}

// steps are the steps of turns in their order, what stands before each first; false where they are not those that are
// left.
func (w *piecework) steps(turns []job.Turn, left []job.Step) (order []string, ok bool) {
	open := map[string]bool{}
	for _, s := range left {
		open[s.ID] = true
	}
	add := func(id string) {
		if open[id] {
			order = append(order, id)
			delete(open, id)
		}
	}
	machine := func(kind job.TurnKind) string { return w.turns[job.Turn{Kind: kind}].stand }
	for _, t := range turns {
		if t.Kind == job.WorkTurn {
			switch w.g.Pieces[t.Piece].Stretches[t.Stretch].Wants {
			case job.ColdMachine:
				add(machine(job.OffTurn))
			case job.HotMachine:
				if !open["on"] {
					add(machine(job.OnTurn))
				}
			}
			add(w.turns[t].stand)
		}
		for _, id := range w.turns[t].steps {
			add(id)
		}
	}
	return order, len(open) == 0
}

// inOrderOf is a plan in the order in which it was done so far and goes on.
func inOrderOf(p job.Plan, so run.Progress, left []string) job.Plan {
	done := make([]string, 0, len(p.Order))
	for _, id := range p.Order {
		if _, over := so.Ended[id]; over {
			done = append(done, id)
		}
	}
	slices.SortStableFunc(done, func(a, b string) int { return cmp.Compare(so.Ended[a], so.Ended[b]) })
	p.Order = append(done, left...)
	return p
}
