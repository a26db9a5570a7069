package sitting

import (
	"slices"
	"time"

	"freshanvil/core/job"
	"freshanvil/core/task"
)

// mostLooked bounds how many ways are looked at; beyond it the best that was found is said not to be proven
// the shortest.
const mostLooked = 200_000

// Order is an order of work, with how long it takes and how short it could be at the least.
type Order struct {
	Turns  []job.Turn
	Takes  time.Duration
	Least  time.Duration // no order is shorter
	Proven bool          // that none is shorter
}

// at is where an order stands: the time, the machine, and how far each piece has come.
type at struct {
	now      time.Duration
	off, on  bool // switched off, and on again
	gaps     int  // times that the hands waited so far
	cold     time.Duration
	hot      time.Duration
	done     []int           // of each piece, stretches
	ready    []time.Duration // when the next stretch of each may begin
	finished int
}

// search goes through orders, the most promising first, and leaves what cannot be shorter.
type search struct {
	g      *job.Gathered
	colds  int
	total  int
	best   time.Duration
	least  time.Duration
	turns  []job.Turn
	found  []job.Turn
	looked int
	most   int // that are looked at
	arrows []arrow
	// Among orders that are as short, the hands' waits are to be interrupted as seldom as may be.
	tie    bool
	fewest int // waits of the order that was found
}

// arrow says that one turn comes before another.
type arrow struct{ first, then job.Turn }

// barred says whether an arrow keeps a turn from being next.
func (s *search) barred(a *at, t job.Turn) bool {
	return slices.ContainsFunc(s.arrows, func(w arrow) bool { return w.then == t && !a.has(w.first) })
}

// has says whether a turn is over.
func (a *at) has(t job.Turn) bool {
	switch t.Kind {
	case job.OffTurn:
		return a.off
	case job.OnTurn:
		return a.on
	}
	return a.done[t.Piece] > t.Stretch
}

// Shortest finds the order of work that takes the least time for one pair of hands: what waits by itself is
// filled with what may be done meanwhile; what is done cold comes between one switching off and one switching
// on; a wash comes after what is done cold.
func Shortest(g *job.Gathered) Order { return shortest(g) }

// shortest keeps to arrows beside; no order at all where they leave none.
func shortest(g *job.Gathered, arrows ...arrow) Order {
	s := newSearch(g)
	s.arrows = arrows
	start := s.begins()
	first := len(s.turns)
	s.least = s.atLeast(start)
	s.from(start)
	o := Order{Turns: s.found, Takes: s.best, Least: s.least, Proven: s.looked < s.most || s.best == s.least}
	s.tie, s.looked, s.most = true, 0, mostLookedForFewer
	s.turns = s.turns[:first]
	s.from(start)
	o.Turns = s.found
	return o
}

// mostLookedForFewer bounds how many orders that are as short are looked at for fewer waits.
const mostLookedForFewer = 3_000

func newSearch(g *job.Gathered) *search {
	s := &search{g: g, best: 1 << 62, most: mostLooked}
	for _, p := range g.Pieces {
		s.total += len(p.Stretches)
		for _, x := range p.Stretches {
			if x.Wants == job.ColdMachine {
				s.colds++
			}
		}
	}
	return s
}

// begins is where every order begins.
func (s *search) begins() *at {
	a := &at{done: make([]int, len(s.g.Pieces)), ready: make([]time.Duration, len(s.g.Pieces))}
	switch {
	case s.colds == 0:
		a.off, a.on = true, true // it stays on
	case s.g.Cold:
		a.off, a.now, a.cold = true, s.g.Switching, s.g.Switching
		s.turns = []job.Turn{{Kind: job.OffTurn}} // which is to see that it is
	}
	return a
}

// coldLeft says how many stretches are still to be done cold.
func (s *search) coldLeft(a *at) (n int) {
	for i, p := range s.g.Pieces {
		for _, x := range p.Stretches[a.done[i]:] {
			if x.Wants == job.ColdMachine {
				n++
			}
		}
	}
	return n
}

// atLeast is how long it takes at the least from where an order stands: by the hands that are left, by each
// piece's own stretches, and by cooling, what is cold, heating and what comes then.
func (s *search) atLeast(a *at) time.Duration {
	hands, cold, hot, anyHot := time.Duration(0), time.Duration(0), time.Duration(0), time.Duration(0)
	least := a.now
	for i, p := range s.g.Pieces {
		own, chilled := max(a.now, a.ready[i])-a.now, false
		for j, x := range p.Stretches[a.done[i]:] {
			if j > 0 {
				own += x.Stands
			}
			own += x.Hands
			hands += x.Hands
			if x.Wants == job.HotMachine {
				anyHot += x.Hands
			}
			switch {
			case x.Wants == job.ColdMachine:
				cold += x.Hands
				chilled = true
			case chilled || s.afterCold(p.Task):
				hot += x.Hands
			}
		}
		least = max(least, a.now+own)
	}
	switching := time.Duration(0)
	if !a.off {
		switching += s.g.Switching
	}
	if !a.on {
		switching += s.g.Switching
	}
	least = max(least, a.now+hands+switching)
	switch {
	case !a.off:
		// what wants it hot is done neither while it cools nor while it heats
		least = max(least, a.now+2*s.g.Switching+s.g.Cools+cold+s.tail(hot)+anyHot-hot)
	case !a.on:
		least = max(least, max(a.now, a.cold)+cold+s.g.Switching+s.tail(anyHot))
	case s.colds > 0 && anyHot > 0:
		least = max(least, max(a.now, a.hot)+anyHot)
	}
	return least
}

// tail is heating up and what is done then, where something is.
func (s *search) tail(hot time.Duration) time.Duration {
	if hot == 0 {
		return 0
	}
	return s.g.Heats + hot
}

// afterCold says whether a task comes after what is done cold.
func (s *search) afterCold(id task.ID) bool { return s.colds > 0 && id.Row().Doses }

// move is one way to go on.
type move struct {
	turn  job.Turn
	start time.Duration
	tail  time.Duration // that its piece still takes after it
}

func (s *search) moves(a *at) []move {
	if s.leftTooLong(a) >= 0 {
		return nil
	}
	var list []move
	left := s.coldLeft(a)
	for i := range s.g.Pieces {
		if m, may := s.next(a, i, left); may && !s.barred(a, m.turn) {
			list = append(list, m)
		}
	}
	if !a.off && !s.midway(a) && !s.barred(a, job.Turn{Kind: job.OffTurn}) {
		list = append(list, move{job.Turn{Kind: job.OffTurn}, a.now, s.g.Cools + s.g.Heats})
	}
	if a.off && !a.on && left == 0 && !s.barred(a, job.Turn{Kind: job.OnTurn}) {
		list = append(list, move{job.Turn{Kind: job.OnTurn}, a.now, s.g.Heats})
	}
	slices.SortStableFunc(list, func(x, y move) int {
		switch {
		case x.start != y.start:
			return int(min(1, max(-1, x.start-y.start)))
		case x.tail != y.tail:
			return int(min(1, max(-1, y.tail-x.tail)))
		}
		return 0
	})
	return list
}

// leftTooLong is the piece whose bath stands longer than it may; -1 for none.
func (s *search) leftTooLong(a *at) int {
	for i, p := range s.g.Pieces {
		if n := a.done[i]; n > 0 && n < len(p.Stretches) && p.Stretches[n].Stands > 0 && a.now > a.ready[i]+lateAtABath {
			return i
		}
	}
	return -1
}

// next is the next stretch of a piece, and whether it may be done from here.
func (s *search) next(a *at, i, left int) (m move, may bool) {
	p := s.g.Pieces[i]
	if a.done[i] == len(p.Stretches) {
		return m, false
	}
	x := p.Stretches[a.done[i]]
	m = move{turn: job.Turn{Piece: i, Stretch: a.done[i]}, start: max(a.now, a.ready[i])}
	switch x.Wants {
	case job.HotMachine:
		if a.off && !a.on || p.Task.Row().Doses && (left > 0 || s.begun(a)) || x.Handle && s.inBath(a, i) {
			return m, false
		}
		if s.colds > 0 && a.on {
			m.start = max(m.start, a.hot)
		}
	case job.ColdMachine:
		if !a.off || a.on || x.Handle && s.inBath(a, i) {
			return m, false
		}
		m.start = max(m.start, a.cold)
	}
	if x.Steams && s.isMidway(a, task.Tip, i) { // the tip is in its cup
		return m, false
	}
	for _, y := range p.Stretches[a.done[i]+1:] {
		m.tail += y.Stands + y.Hands
	}
	return m, true
}

// inBath says whether the handles that a piece needs are in the soak bath.
func (s *search) inBath(a *at, but int) bool { return s.isMidway(a, task.Soak, but) }

// isMidway says whether a task is begun and not over, by another piece than one.
func (s *search) isMidway(a *at, id task.ID, but int) bool {
	for i, p := range s.g.Pieces {
		if n := a.done[i]; i != but && p.Task == id && n > 0 && n < len(p.Stretches) {
			return true
		}
	}
	return false
}

// begun says whether any piece has begun and is not over: with handles in a bath or a tip in a cup no wash is
// begun, for it may have to be rinsed and left at once.
func (s *search) begun(a *at) bool {
	for i, p := range s.g.Pieces {
		if n := a.done[i]; n > 0 && n < len(p.Stretches) {
			return true
		}
	}
	return false
}

// midway says whether a piece that wants the machine hot has begun and is not over: it is not switched off
// in the middle of that.
func (s *search) midway(a *at) bool {
	for i, p := range s.g.Pieces {
		if n := a.done[i]; n > 0 && n < len(p.Stretches) && p.Stretches[n].Wants == job.HotMachine {
			return true
		}
	}
	return false
}

func (s *search) from(a *at) {
	if a.finished == s.total && a.on {
		if a.now < s.best || a.now == s.best && s.tie && a.gaps < s.fewest {
			s.best, s.found, s.fewest = a.now, slices.Clone(s.turns), a.gaps
		}
		return
	}
	for _, m := range s.moves(a) {
		if s.looked++; s.looked > s.most || s.best == s.least && !s.tie {
			return
		}
		b := a.after(m, s.g)
		if least := s.atLeast(b); least > s.best || least == s.best && (!s.tie || b.gaps >= s.fewest) {
			continue
		}
		s.turns = append(s.turns, m.turn)
		s.from(b)
		s.turns = s.turns[:len(s.turns)-1]
	}
}

// after is where an order stands when one thing more is done.
func (a *at) after(m move, g *job.Gathered) *at {
	b := *a
	b.done, b.ready = slices.Clone(a.done), slices.Clone(a.ready)
	switch m.turn.Kind {
	case job.OffTurn:
		b.now = a.now + g.Switching
		b.off, b.cold = true, b.now+g.Cools
	case job.OnTurn:
		b.now = a.now + g.Switching
		b.on, b.hot = true, b.now+g.Heats
	default:
		i := m.turn.Piece
		if m.start > a.now {
			b.gaps++
		}
		b.now = m.start + g.Pieces[i].Stretches[m.turn.Stretch].Hands
		b.done[i]++
		b.finished++
		if b.done[i] < len(g.Pieces[i].Stretches) {
			b.ready[i] = b.now + g.Pieces[i].Stretches[b.done[i]].Stands
		}
	}
	return &b
}
