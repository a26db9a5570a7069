package sitting

import (
	"cmp"
	"fmt"
	"slices"
	"time"

	"freshanvil/core/job"
	"freshanvil/core/plant"
	"freshanvil/core/speak"
)

// When hands go elsewhere while something stands by itself (our own engineering choices): for how long it must stand,
// what going to another machine takes, and how late they may be back at acid and at any other bath.
const (
	worthLeaving = 4 * time.Minute
	walking      = time.Minute
	lateAtAcid   = 5 * time.Minute
	lateAtABath  = 15 * time.Minute
	lateAtAny    = 12 * time.Hour // what cools, or is hot again, waits
)

// Job is one run of an afternoon: the plan of one machine, as it is led. Those of one machine are done in their order.
type Job struct {
	Machine string // which, for whoever asks
	Name    string // the machine, as people call it
	Plan    job.Plan
}

// Visit is what the hands do to one machine in one go.
type Visit struct {
	Job      int
	From, To time.Duration // from the start of the afternoon
	Own      time.Duration // where in the plan of its own it begins
	Steps    []string      // what is done, in few words each
	Last     bool          // the job is over with it, but for what stands
	Stands   string        // what then stands by itself; empty at the end
	Back     time.Duration // when the hands are wanted again; 0 at the end
}

// Afternoon is several runs in one go by one pair of hands.
type Afternoon struct {
	Jobs   []Job
	Visits []Visit
	Takes  time.Duration
	Hands  time.Duration
	Alone  time.Duration // the same, one after the other
	Least  time.Duration // no order of these visits is shorter
	Proven bool          // that none is shorter
}

// link is a visit as it is looked for: what stands before it, and how much longer than that it may.
type link struct {
	hands, stands, late time.Duration // hands: with what stands meanwhile, too short to go elsewhere
	work                time.Duration // of it with the hands
	from                time.Duration // in the plan of its own
	steps               []string
	before              string // what stood before it
	soap                bool   // detergent is handled in it
	sour                bool   // acid is in the machine after it
	tub                 bool   // a bath is mixed in it, and stands after it
}

// chain is a job as it is looked for.
type chain struct {
	links   []link
	tail    time.Duration // that still stands when the hands are done
	ends    string
	machine string
}

// chained cuts a plan where the hands may go elsewhere.
func chained(p job.Plan) chain {
	var c chain
	end, last := time.Duration(0), time.Duration(0)
	var acidic []job.Phase
	var of []int // which link each of them is in
	spans := p.Spans()
	for _, x := range spans {
		last = max(last, x.To)
		if x.Work == job.ByItself {
			continue
		}
		stood, late := left(spans, x.From)
		switch n := len(c.links); {
		case n == 0:
			c.links = []link{{hands: x.To - x.From, stands: x.From, late: lateAtAny, from: x.From}}
		case x.From-end >= worthLeaving && late > 0:
			c.links = append(c.links, link{hands: x.To - x.From, stands: x.From - end, late: late, from: x.From, before: stood})
		default:
			c.links[n-1].hands += x.To - end
		}
		own := &c.links[len(c.links)-1]
		if x.Work == job.ByHand { // as on the work sheet, where the pump's pulses are told apart
			own.work += x.To - max(x.From, end)
		}
		own.soap, own.tub = own.soap || soapy(x.Step), own.tub || mixes(x.Step)
		acidic = append(acidic, x.Step.Phase)
		of = append(of, len(c.links)-1)
		if title := x.Step.Title; !slices.Contains(own.steps, title) {
			own.steps = append(own.steps, title)
		}
		end = max(end, x.To)
	}
	first := slices.Index(acidic, job.Acidic)
	for i, phase := range acidic {
		if sour := phase == job.Acidic || phase == job.Rinsing || phase == job.Proving; first >= 0 && i > first && sour {
			for n := of[first]; n < of[i]; n++ {
				c.links[n].sour = true
			}
		}
	}
	for n := range c.links { // what is emptied in the same visit stands for nobody
		c.links[n].tub = c.links[n].tub && n+1 < len(c.links)
	}
	c.tail = last - end
	c.ends, _ = left(spans, last)
	return c
}

// soapy says whether detergent is handled in a step.
func soapy(s job.Step) bool { return s.Effect == job.Doses || mixes(s) }

// mixes says whether a bath is mixed in a step.
func mixes(s job.Step) bool {
	return slices.ContainsFunc(s.Acts, func(a plant.Action) bool { return a.Verb == plant.MixBath })
}

// left is what ends standing at an instant, and how late the hands may be back at it; 0 where it is not left.
func left(spans []job.Span, at time.Duration) (title string, late time.Duration) {
	late = lateAtAny
	for _, x := range spans {
		if x.Work != job.ByItself || x.To > at || x.To < at-time.Second {
			continue
		}
		title, late = x.Step.Title, min(late, lateAt(x.Step))
	}
	if title == "" {
		return "", 0
	}
	return title, late
}

func lateAt(s job.Step) time.Duration {
	early, acid := false, false
	if b, is := job.BodyOf[job.Soak](s); is {
		early, acid = b.Early, b.Acid
	}
	if b, is := job.BodyOf[job.Wait](s); is {
		early, acid = b.Early, b.Acid
	}
	switch {
	case s.Effect == job.Stands: // detergent in a group is not left alone
		return 0
	case acid:
		return lateAtAcid
	case early:
		return lateAtAny
	}
	return lateAtABath
}

// InOneGo finds the order of visits that takes the least time for one pair of hands: while one machine cools, heats or
// soaks, another is seen to. Acid and baths are come back to in time; the order within a run stays as it is led.
func InOneGo(jobs ...Job) Afternoon {
	chains := make([]chain, len(jobs))
	a := Afternoon{Jobs: jobs}
	for i, j := range jobs {
		chains[i] = chained(j.Plan)
		chains[i].machine = j.Machine
		a.Alone += chains[i].length()
		for _, l := range chains[i].links {
			a.Hands += l.work
		}
	}
	s := newJuggle(chains)
	s.run()
	a.Takes, a.Least, a.Proven = s.best, s.least, s.looked < mostLooked || s.best == s.least
	for n, m := range s.found {
		c := chains[m.chain]
		l := c.links[m.link]
		v := Visit{Job: m.chain, From: m.start, To: m.start + l.hands, Own: l.from, Steps: l.steps,
			Last: m.link == len(c.links)-1}
		switch {
		case v.Last:
			v.Stands = c.ends
			if c.tail == 0 {
				v.Stands = ""
			}
		default:
			v.Stands = c.links[m.link+1].before
			for _, o := range s.found[n+1:] {
				if o.chain == m.chain {
					v.Back = o.start
					break
				}
			}
		}
		a.Visits = append(a.Visits, v)
	}
	return a
}

// length is how long a job takes by itself.
func (c chain) length() (sum time.Duration) {
	for _, l := range c.links {
		sum += l.stands + l.hands
	}
	return sum + c.tail
}

// hop is one visit of an order.
type hop struct {
	chain, link int
	start       time.Duration
}

// juggle looks for the order of visits.
type juggle struct {
	chains []chain
	rest   [][]time.Duration // of each chain from each link on, with what stands between and at the end
	before []int             // the chain of the same machine that must be over; -1 for none
	least  time.Duration
	best   time.Duration
	hops   []hop
	found  []hop
	looked int
}

func newJuggle(chains []chain) *juggle {
	s := &juggle{chains: chains, best: 1 << 62}
	for i, c := range chains {
		rest := make([]time.Duration, len(c.links)+1)
		rest[len(c.links)] = c.tail
		for n := len(c.links) - 1; n >= 0; n-- {
			rest[n] = rest[n+1] + c.links[n].hands
			if n+1 < len(c.links) {
				rest[n] += c.links[n+1].stands
			}
		}
		s.rest = append(s.rest, rest)
		before := -1
		for j := range i {
			if c.machine != "" && chains[j].machine == c.machine {
				before = j
			}
		}
		s.before = append(s.before, before)
	}
	return s
}

// stand is where a juggle stands: the hands' time and machine, and of each chain how many links are done, when the
// next may begin and when it must.
type stand struct {
	now          time.Duration
	at           string
	done         []int
	ready, limit []time.Duration
}

func (s *juggle) run() {
	n := len(s.chains)
	w := stand{done: make([]int, n), ready: make([]time.Duration, n), limit: make([]time.Duration, n)}
	for i, c := range s.chains {
		w.limit[i] = 1 << 62
		if len(c.links) > 0 {
			w.ready[i] = c.links[0].stands
		}
	}
	s.least = s.atLeast(&w)
	s.plainly(&w)
	s.from(&w)
}

// plainly takes one job after the other: what is found is never longer, and something is always found.
func (s *juggle) plainly(w *stand) {
	end := time.Duration(0)
	var hops []hop
	for i, c := range s.chains {
		for n := range c.links {
			h := hop{i, n, max(w.now, w.ready[i])}
			if b := s.before[i]; n == 0 && b >= 0 {
				h.start = max(h.start, w.ready[b])
			}
			if w.at != "" && w.at != c.machine {
				h.start = max(h.start, w.now+walking)
			}
			hops = append(hops, h)
			w = s.after(w, h)
		}
		end = max(end, w.ready[i])
	}
	s.best, s.found = end, hops
}

// atLeast is when all is over at the least: by each machine's own runs, by the hands that are left, and by those
// with the shortest tail after them.
func (s *juggle) atLeast(w *stand) time.Duration {
	hands, tail := time.Duration(0), time.Duration(1<<62)
	least, earliest := w.now, time.Duration(1<<62)
	for i, c := range s.chains {
		n := w.done[i]
		for _, l := range c.links[n:] {
			hands += l.hands
		}
		if n < len(c.links) {
			tail, earliest = min(tail, c.tail), min(earliest, max(w.now, w.ready[i]))
			least = max(least, max(w.now, w.ready[i])+s.rest[i][n]+s.behind(i))
			continue
		}
		least = max(least, w.ready[i])
	}
	if hands > 0 {
		least = max(least, earliest+hands+tail)
	}
	return least
}

// behind is what the later runs of the same machine take at the least.
func (s *juggle) behind(i int) (sum time.Duration) {
	for j := i + 1; j < len(s.chains); j++ {
		if s.chains[j].machine != "" && s.chains[j].machine == s.chains[i].machine {
			sum += s.rest[j][0]
		}
	}
	return sum
}

func (s *juggle) from(w *stand) {
	var next []hop
	over, end := true, w.now
	for i, c := range s.chains {
		if w.done[i] == len(c.links) {
			end = max(end, w.ready[i])
			continue
		}
		over = false
		start, may := s.startOf(w, i)
		if !may {
			continue
		}
		if start > w.limit[i] {
			return // it would be left too long
		}
		if s.meets(w, i) {
			continue
		}
		next = append(next, hop{i, w.done[i], start})
	}
	if over {
		if end < s.best {
			s.best, s.found = end, slices.Clone(s.hops)
		}
		return
	}
	slices.SortStableFunc(next, func(a, b hop) int {
		return cmp.Or(cmp.Compare(a.start, b.start), cmp.Compare(s.rest[b.chain][b.link], s.rest[a.chain][a.link]))
	})
	for _, h := range next {
		if s.looked++; s.looked > mostLooked || s.best == s.least {
			return
		}
		o := s.after(w, h)
		if s.atLeast(o) >= s.best {
			continue
		}
		s.hops = append(s.hops, h)
		s.from(o)
		s.hops = s.hops[:len(s.hops)-1]
	}
}

// startOf is when the next visit of a run may begin; false where a run before it is not over.
func (s *juggle) startOf(w *stand, i int) (start time.Duration, may bool) {
	start = max(w.now, w.ready[i])
	if b := s.before[i]; b >= 0 {
		if w.done[b] < len(s.chains[b].links) {
			return 0, false
		}
		start = max(start, w.ready[b])
	}
	if w.at != "" && w.at != s.chains[i].machine {
		start = max(start, w.now+walking)
	}
	return start, true
}

// meets says whether the next visit of a run would bring together what never meets: acid and detergent, not on a pair
// of gloves either; two soaks in the one tub, or acid opened beside it.
func (s *juggle) meets(w *stand, i int) bool {
	l := s.chains[i].links[w.done[i]]
	return l.soap && s.elsewhere(w, i, func(o link) bool { return o.sour }) ||
		(l.tub || l.sour) && s.elsewhere(w, i, func(o link) bool { return o.tub })
}

// elsewhere says whether something is so of the last visit of another run that is not over.
func (s *juggle) elsewhere(w *stand, but int, so func(link) bool) bool {
	for i, c := range s.chains {
		if n := w.done[i]; i != but && n > 0 && n < len(c.links) && so(c.links[n-1]) {
			return true
		}
	}
	return false
}

// after is where it stands when one visit more is over.
func (s *juggle) after(w *stand, h hop) *stand {
	c := s.chains[h.chain]
	o := &stand{now: h.start + c.links[h.link].hands, at: c.machine, done: slices.Clone(w.done),
		ready: slices.Clone(w.ready), limit: slices.Clone(w.limit)}
	o.done[h.chain]++
	o.ready[h.chain], o.limit[h.chain] = o.now+c.tail, 1<<62
	if n := h.link + 1; n < len(c.links) {
		o.ready[h.chain] = o.now + c.links[n].stands
		o.limit[h.chain] = o.ready[h.chain] + c.links[n].late
	}
	return o
}

// Says is how good the order is, in a sentence.
func (a Afternoon) Says() string {
	if len(a.Jobs) < 2 {
		return long(a.Takes) + " in all."
	}
	text := fmt.Sprintf("%s in all; one after the other it would be %s.", long(a.Takes), long(a.Alone))
	if a.Proven {
		return text + " No order of these visits is shorter."
	}
	return text + fmt.Sprintf(" The shortest could take %s: this order is not proven the best.", long(a.Least))
}

// Lanes draws an afternoon in time: the hands, and each run at its machine.
func (a Afternoon) Lanes() []Lane {
	list := make([]Lane, len(a.Jobs)+1)
	list[0].Title = "hands"
	for i, j := range a.Jobs {
		list[i+1].Title = j.Name + ": " + speak.Lower(j.Plan.Leads().Title)
		if titles := j.Plan.Titles(); len(titles) > 1 {
			list[i+1].Title = fmt.Sprintf("%s: %d tasks", j.Name, len(titles))
		}
		for _, x := range j.Plan.Spans() {
			shift := a.shift(i, x.From)
			list[i+1].Bars = append(list[i+1].Bars, Bar{Title: x.Step.Title, Work: x.Work, From: x.From + shift,
				To: x.To + shift})
		}
	}
	for i, j := range a.Jobs {
		for _, b := range list[i+1].Bars {
			if b.Work != job.ByItself {
				b.Title = j.Name
				list[0].Bars = append(list[0].Bars, b)
			}
		}
	}
	slices.SortStableFunc(list[0].Bars, func(x, y Bar) int { return cmp.Compare(x.From, y.From) })
	return list
}

// shift is how much later than in its own plan something of a job goes on.
func (a Afternoon) shift(i int, at time.Duration) (shift time.Duration) {
	for _, v := range a.Visits {
		if v.Job == i && v.Own <= at {
			shift = v.From - v.Own
		}
	}
	return shift
}

// Span is when a job of an afternoon begins and ends, with what stands after the hands.
func (a Afternoon) Span(i int) (from, to time.Duration) {
	from = -1
	for _, x := range a.Jobs[i].Plan.Spans() {
		shift := a.shift(i, x.From)
		if from < 0 {
			from = x.From + shift
		}
		to = max(to, x.To+shift)
	}
	return max(0, from), to
}
