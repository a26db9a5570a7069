package plant

import (
	"math"
	"slices"

	"freshanvil/core/machine"
)

// most vessels and openings of one plant: six groups, each with a boiler of its own.
const (
	mostVessels  = 36
	mostOpenings = 28
	mostBodies   = 8
)

// flows are what moves while nothing is switched, in L/s.
type flows struct {
	in, out [mostVessels]float64  // of each vessel
	by      [mostOpenings]float64 // out of each opening
	through [mostVessels]bool     // it stays full: in is out
	drawn   float64               // out of the source
	motor   bool                  // the pump turns
	air     bool                  // and draws none
	shut    bool                  // and has no way out
}

// How fast a boiler runs out by its drain with air coming in, and by gurgling; how fast
// the hot-water tap gives under pressure, L/s (our own engineering choices).
const (
	Drains  = 0.015
	gurgles = 0.0075
	taps    = 0.03
)

// flow works out what moves now.
func (p *Plant) flow(f *flows) {
	*f = flows{}
	p.pump(f)
	for g := range p.Gates {
		if !p.Gates[g].Open {
			continue
		}
		o := &p.Spec.Openings[g]
		v, s := &p.Spec.Vessels[o.Of], &p.V[o.Of]
		switch o.Kind {
		case Drain:
			if s.Litres > v.Heel*v.Working+1e-9 {
				q := gurgles
				if p.airComesIn(o.Of, g) {
					q = Drains
				}
				f.by[g], f.out[o.Of] = q, f.out[o.Of]+q
			}
		case HotTap:
			if s.Temp > 100 && s.Litres > 0.1*v.Capacity {
				f.by[g], f.out[o.Of] = taps, f.out[o.Of]+taps
			}
		}
	}
}

// airComesIn says whether air gets into a vessel by another opening than one.
func (p *Plant) airComesIn(i, but int) bool {
	for g := range p.Gates {
		if o := &p.Spec.Openings[g]; g != but && o.Of == i && o.Kind != Spout && p.Gates[g].Open {
			return true
		}
	}
	return false
}

// pump works out where the pump brings what.
func (p *Plant) pump(f *flows) {
	if !p.powered() || !p.Spec.HasPump || p.Dead {
		return
	}
	fills := -1
	for i := range p.V {
		if v := &p.Spec.Vessels[i]; v.Probe && !p.V[i].Full {
			fills = i
		}
	}
	routes := p.Route >= 0 && p.runsNow()
	wants := 0.0
	if fills >= 0 {
		wants++
	}
	if routes {
		wants++
	}
	if wants == 0 {
		return
	}
	f.motor = true
	if p.V[SourceAt].Litres <= 1e-9 && !p.fromMains() {
		f.air = true
		return
	}
	each := p.Spec.Flow / wants
	if fills >= 0 {
		f.in[fills] = each
		f.drawn += each
	}
	if routes {
		p.push(f, p.Route, each)
	}
	for _, g := range p.more { // what the pump gives is told for one open group: each gets that
		p.push(f, g, each)
	}
}

// fromMains says whether the pump draws from the mains.
func (p *Plant) fromMains() bool { return p.Spec.Mains && !p.Intake && p.Supply }

// runsNow says whether the pump runs for a group or a wand: on some machines not before
// the boiler is hot.
func (p *Plant) runsNow() bool {
	of := p.Spec.Openings[p.Route].Of
	return p.Spec.PumpsCold != machine.No || p.V[of].Temp >= p.setOf(p.Spec.Vessels[of].Body)-2
}

// push brings what the pump gives into the vessel of the opening it is switched to, and
// once that is full out of what is open.
func (p *Plant) push(f *flows, route int, each float64) {
	of := p.Spec.Openings[route].Of
	v, s := &p.Spec.Vessels[of], &p.V[of]
	ways := 0.0
	for g := range p.Gates {
		if o := &p.Spec.Openings[g]; o.Of == of && p.isWayOut(g) {
			ways++
		}
	}
	if s.Litres < v.Working-1e-9 {
		f.in[of] += each
		f.drawn += each
		return
	}
	if p.Spec.Openings[route].Kind == Group && p.fillHead(route, f, each) {
		return
	}
	if ways == 0 {
		f.shut = true
		return
	}
	f.in[of] += each
	f.out[of] += each
	f.drawn += each
	f.through[of] = true
	for g := range p.Gates {
		if o := &p.Spec.Openings[g]; o.Of == of && p.isWayOut(g) {
			f.by[g] += each / ways
		}
	}
}

// isWayOut says whether what the pump brings leaves by an opening: a group's by its own
// valve, which opens with the pump, a tap by hand.
func (p *Plant) isWayOut(g int) bool {
	o := &p.Spec.Openings[g]
	switch o.Kind {
	case Group:
		return p.Route == g || p.Gates[g].Open || slices.Contains(p.more, g)
	case SteamTap, HotTap, Drain, Cap:
		return p.Gates[g].Open
	}
	return false
}

// Wait lets time pass, s.
func (p *Plant) Wait(long float64) {
	for left := long; left > 1e-9; {
		left -= p.step(left)
	}
}

// Until lets time pass until something holds, at most so long, and says how long it took.
// It is asked after each event.
func (p *Plant) Until(holds func(p *Plant) bool, most float64) float64 {
	gone := 0.0
	for gone < most-1e-9 && !holds(p) {
		gone += p.step(most - gone)
	}
	return gone
}

// step goes on to the next event, or so long, and says how long that was.
func (p *Plant) step(long float64) float64 {
	f := &p.scratch
	p.flow(f)
	var c [mostBodies]course
	for b := range mostBodies {
		c[b] = p.courseOf(b, f)
	}
	h, event := p.horizon(f, &c, long)
	p.move(f, &c, h)
	p.T += h
	p.settle()
	p.look(f)
	if event != "" {
		if event == hundred {
			for i := range p.V {
				v := &p.Spec.Vessels[i]
				if v.wets() && math.Abs(p.V[i].Temp-100) < 1e-6 && p.heats(i) && c[v.Body].to > 100 {
					p.lookAtPressure(i, f)
				}
			}
		}
		p.note(event)
	}
	return math.Max(h, 1e-9)
}

func (p *Plant) note(event string) {
	p.events++
	if p.Watch != nil {
		p.Watch(p, event)
	}
}

// hundred is the event of a boiler that comes to pressure.
const hundred = "at 100 °C"

// horizon is when the next event is, within so long, and what it is.
func (p *Plant) horizon(f *flows, c *[mostBodies]course, long float64) (h float64, event string) {
	h = long
	take := func(t float64, what string) {
		if t > 1e-9 && t < h-1e-12 {
			h, event = t, what
		}
	}
	for len(p.Marks) > 0 && p.Marks[0] <= p.T+1e-9 {
		p.Marks = p.Marks[1:]
	}
	if len(p.Marks) > 0 {
		take(p.Marks[0]-p.T, "half-way")
	}
	if f.drawn > 0 && !p.fromMains() {
		take(p.V[SourceAt].Litres/f.drawn, "the source is empty")
	}
	if f.air {
		take(longAir+1e-6-p.Air, "the pump draws air")
	}
	if on := p.Spec.Duty.On.Seconds(); f.motor && on > 0 {
		take(on+0.6-p.Warm, "the pump has run as long as it may")
	}
	for i := range p.V {
		if v := &p.Spec.Vessels[i]; v.wets() {
			p.horizonOf(i, f, &c[v.Body], take)
		} else if v.Kind == Head {
			p.horizonOfHead(i, f, take)
		}
	}
	for g := range p.Gates {
		if q := f.by[g]; q > 0 {
			into := p.into(g)
			if room := p.Spec.Vessels[into].Capacity - p.V[into].Litres; room > -1e-9 {
				take((room+2e-6)/q, "a catch is full")
			}
		}
	}
	for b := range c {
		p.horizonOfHeat(b, &c[b], take)
	}
	return h, event
}

// horizonOfHeat takes the instants at which a body goes through a temperature that counts.
func (p *Plant) horizonOfHeat(b int, c *course, take func(float64, string)) {
	if c.still {
		return
	}
	take(c.when(doubles), "45 °C")
	take(c.when(fours), "70 °C")
	take(c.when(100), hundred)
	if set := p.setOf(b); c.on && set > 0 {
		take(c.when(set), "at its heat")
	}
}

// setOf is what the heater of a body holds it at; 0 where it has none.
func (p *Plant) setOf(body int) float64 {
	for i := range p.Spec.Vessels {
		if v := &p.Spec.Vessels[i]; v.Body == body && v.Watts > 0 {
			return v.Set
		}
	}
	return 0
}

// horizonOf takes the events of one circuit.
func (p *Plant) horizonOf(i int, f *flows, c *course, take func(float64, string)) {
	v, s := &p.Spec.Vessels[i], &p.V[i]
	net := f.in[i] - f.out[i] - c.steams
	if net > 0 {
		take((v.Working-s.Litres)/net, "full")
		take((v.Covered-s.Litres)/net, "the element is covered")
	}
	if net < 0 {
		take((s.Litres-v.Heel*v.Working)/-net, "it has run out")
		take((s.Litres-v.Covered+2e-6)/-net, "the element is uncovered")
		if v.Probe {
			take((s.Litres-probeWet*v.Working+1e-6)/-net, "the probe is dry")
		}
	}
	p.horizonOfAcid(i, f, take)
	if s.Acid >= Weak && p.Spec.Solution.Contact > 0 {
		take((p.Spec.Solution.Contact+1.1-s.Contact)/Weight(c.from), "contact is over")
	}
	if s.fired > 0 && (p.Sours(i) || s.Acid >= Weak) {
		take(longFired+0.1-s.fired, "a push has warmed it for long")
		take(longIdle+0.1-s.idle, "it is warmed with nothing flowing")
	}
}

// horizonOfAcid takes the instants at which the acid of a circuit goes through a limit.
func (p *Plant) horizonOfAcid(i int, f *flows, take func(float64, string)) {
	s := &p.V[i]
	from := p.V[SourceAt].Acid
	if p.fromMains() {
		from = 0
	}
	if f.in[i] == 0 {
		return
	}
	for _, share := range [...]float64{Weak, p.Spec.Solution.Limit} {
		if (s.Acid-share)*(from-share) >= 0 {
			continue
		}
		if f.through[i] {
			take(s.Litres/f.in[i]*math.Log((s.Acid-from)/(share-from)), "acid at a limit")
		} else if dt := s.Litres * (s.Acid - share) / (f.in[i] * (share - from)); dt > 0 {
			take(dt, "acid at a limit")
		}
	}
}

// move lets so many seconds pass, in which nothing is switched.
func (p *Plant) move(f *flows, c *[mostBodies]course, h float64) {
	from := p.V[SourceAt].Acid
	if p.fromMains() {
		from = 0
	}
	for i := range p.V {
		v := &p.Spec.Vessels[i]
		if v.wets() {
			p.moveCircuit(i, f, &c[v.Body], h, from)
		} else if v.Kind == Head {
			p.V[i].Temp = c[v.Body].at(h)
			p.moveHead(i, f, h)
		}
	}
	if !p.fromMains() {
		p.V[SourceAt].Litres = math.Max(0, p.V[SourceAt].Litres-f.drawn*h)
	}
	if f.motor {
		p.Warm += h
		p.Ran += h
	} else if d := p.Spec.Duty; d.On > 0 {
		p.Warm = math.Max(0, p.Warm-d.Regained(h))
	}
	if f.air {
		p.Air += h
	} else if f.motor {
		p.Air = 0
	}
	if p.Spec.Duty.On == 0 {
		p.Warm = 0
	}
}

// moveCircuit moves one circuit on, and what leaves it.
func (p *Plant) moveCircuit(i int, f *flows, c *course, h, from float64) {
	v, s := &p.Spec.Vessels[i], &p.V[i]
	was, litres, loaded := s.Acid, s.Litres, s.Taken
	in, out := f.in[i], f.out[i]
	warm := (s.Temp + c.at(h)) / 2
	s.Temp = warm
	switch {
	case f.through[i]:
		p.dissolve(i, h, in, from, 0)
		s.Old *= math.Exp(-in * h / litres)
	default:
		s.Litres = math.Max(0, s.Litres+(in-out)*h)
		if in > 0 && s.Litres > 0 {
			kept := math.Min(1, litres/s.Litres)
			s.Acid, s.Taken, s.Old = was*kept+from*(1-kept), loaded*kept, s.Old*kept
		}
		p.dissolve(i, h, 0, s.Acid, s.Taken)
	}
	if c.steams > 0 && s.Litres > 0 && v.Watts > 0 {
		left := math.Max(1e-6, s.Litres-c.steams*h)
		s.Acid, s.Litres = s.Acid*s.Litres/left, left
	}
	s.Temp = c.at(h)
	p.countAcid(i, in*h, from, math.Max(was, s.Acid), warm, h)
	for g := range p.Gates {
		if f.by[g] > 0 && p.Spec.Openings[g].Of == i {
			p.leave(g, f, h, from, was, litres)
		}
	}
	if p.heats(i) && c.fires {
		s.fired += h
		if in == 0 {
			s.idle += h
		}
	} else {
		s.fired, s.idle = 0, 0
	}
	if s.dried && s.Temp < safeToOpen {
		s.dried = false
	}
}

// countAcid counts what went in, and how long acid stood.
func (p *Plant) countAcid(i int, in, from, most, warm, h float64) {
	s := &p.V[i]
	if in > 0 {
		if from > p.Spec.Solution.Limit {
			s.Solution += in
			s.Sour, s.Through = true, 0
		} else {
			s.Through += in
		}
	}
	if most > Weak*(1+1e-9) && s.Litres > 0 {
		s.Contact += h * Weight(warm)
		if !p.vented(i) {
			s.Stood += h
		}
	}
}

// leave brings what leaves by an opening into what catches it, through what stands in its
// line: two well mixed volumes, one behind the other, worked out exactly.
func (p *Plant) leave(g int, f *flows, h, from, was, litres float64) {
	o, gate := &p.Spec.Openings[g], &p.Gates[g]
	q := f.by[g]
	line := lines
	head := -1
	if o.Kind == Group {
		head = o.Of + 1
		line = p.Spec.Vessels[head].Working
	}
	before := gate.Acid
	fast := q / line
	gone := math.Exp(-fast * h)
	if f.through[o.Of] {
		slow := f.in[o.Of] / litres
		if math.Abs(fast-slow) < 1e-9*fast {
			slow *= 1 + 1e-6
		}
		gate.Acid = from + (was-from)*fast/(fast-slow)*(math.Exp(-slow*h)-gone) + (before-from)*gone
		gate.Acid = math.Max(0, gate.Acid)
	} else {
		gate.Acid = was + (before-was)*gone
	}
	if head >= 0 {
		p.V[head].Acid = gate.Acid
	}
	if from <= p.Spec.Solution.Limit && f.through[o.Of] {
		gate.Drew += q * h
	} else {
		gate.Drew = 0
	}
	mean := was // of what left: what is in it less than came in
	if f.through[o.Of] {
		mean = from + (was-p.V[o.Of].Acid)*litres/(f.in[o.Of]*h)
	}
	p.rinseHead(g, q*h)
	p.catch(p.into(g), q*h, math.Max(0, mean), p.V[o.Of].Temp)
}

// catch adds so much to what catches it, well mixed.
func (p *Plant) catch(i int, litres, acid, temp float64) {
	s := &p.V[i]
	all := s.Litres + litres
	if all <= 0 {
		return
	}
	s.Acid = (s.Acid*s.Litres + acid*litres) / all
	s.Temp = (s.Temp*s.Litres + temp*litres) / all
	s.Litres = all
}

// settle switches what switches by itself: probes, and gas that leaves.
func (p *Plant) settle() {
	for i := range p.V {
		v, s := &p.Spec.Vessels[i], &p.V[i]
		if (v.Kind == Brew || v.Kind == Tube) && p.Spec.Mains && !p.Intake && p.Supply {
			s.Line = true
		}
		if v.Probe {
			if s.Litres >= v.Working-1e-9 {
				s.Full = true
			} else if s.Litres < probeWet*v.Working {
				s.Full = false
			}
		}
		if v.wets() {
			p.settleGas(i)
		} else if v.Kind == Head {
			p.settleHead(i)
		}
	}
}
