package job

import (
	"slices"
	"time"

	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// chain is what is still to be done to one group.
type chain struct {
	steps []Step
	ends  time.Duration // of the soak that comes next, where it has begun
	over  bool          // its soak is over: its pulses and the first dirty water come before all else
}

// soaking says whether what comes next is a soak that has begun.
func (c *chain) soaking() bool { return len(c.steps) > 0 && Is[Soak](c.steps[0]) }

// soaks says whether a soak is still to be begun.
func (c *chain) soaks() bool {
	for _, s := range c.steps {
		if Is[Soak](s) {
			return !c.soaking()
		}
	}
	return false
}

// hours is the clock of a plan while it is laid out.
type hours struct {
	at   time.Duration
	pump Pump
}

// spell is how long a step would keep the hands if it were begun now.
func (c hours) spell(s Step) time.Duration { return s.Body.Spell(s.Takes, &c.pump) }

// Overstay is by how much a soak with detergent may be longer than its method says, and
// slowest how many times as long as said a pair of hands may take (our own engineering
// choices).
const (
	Overstay = 30 * time.Second
	slowest  = 3
)

// Slow is how long a step keeps slow hands, with a pump as warm as that.
func Slow(s Step, pump Pump) time.Duration { return s.Body.Spell(slowest*s.Takes, &pump) }

// sums adds up what the steps of a plan take.
type sums struct{ hands, pulsing, waits time.Duration }

// lay puts the groups on one pair of hands. What is done while a group soaks is
// another group's, but nothing is begun that would outlast the soak: when it
// ends, the hands are there. A group that has yet to begin its soak goes first,
// for its soak is time that others can use; apart from that, one group is done
// with before the next is begun.
func (p *Plan) lay(ready Step, chains [][]Step, ends []Step) {
	clock := &hours{pump: Pump{Duty: p.Setups[0].Duty, Flow: p.Setups[0].Flow}}
	groups := make([]*chain, len(chains))
	for i, steps := range chains {
		groups[i] = &chain{steps: steps}
		after := ready.ID
		for j := range steps {
			s := &steps[j]
			a := p.Activities[i]
			s.Activity, s.Part, s.Lane = a.ID, a.Part, Hands
			s.ID, s.After = name(len(chains) > 1, a.Part, s.ID), []string{after}
			if Is[Soak](*s) {
				s.Lane = groupLane(s.Part)
			}
			after = s.ID
		}
	}
	ready.Activity, ready.Lane, ready.Part = p.Activities[0].ID, Hands, p.Activities[0].Part
	list := []Step{ready}
	clock.at += ready.Body.Spell(ready.Takes, &clock.pump)
	all := sums{hands: ready.Takes}
	var last *chain
	for {
		c := clock.next(groups, last)
		if c == nil {
			break
		}
		s := c.steps[0]
		if Is[Soak](s) {
			idle := max(0, c.ends-clock.at)
			clock.at += idle
			clock.pump.Idle(idle)
		} else {
			clock.at += s.Body.Spell(s.Takes, &clock.pump)
			all.hands += s.Takes
			if b, ok := BodyOf[Pulses](s); ok {
				all.pulsing += b.Length()
			}
		}
		list = append(list, s)
		c.steps, last, c.over = c.steps[1:], c, Is[Soak](s) || c.over && !Is[Look](s)
		if c.soaking() {
			soak, _ := BodyOf[Soak](c.steps[0])
			c.ends = clock.at + soak.For
		}
	}
	for _, s := range ends {
		s.After = []string{list[len(list)-1].ID}
		clock.at += s.Body.Spell(s.Takes, &clock.pump)
		all.hands += s.Takes
		list = append(list, s)
	}
	p.put(list)
	all.waits = clock.at - all.hands - all.pulsing
	p.setWork(all)
}

// next is whose turn it is; nil when all is done.
func (c hours) next(groups []*chain, last *chain) *chain {
	var soaked *chain // the first to have soaked, or to end its soak
	for _, g := range groups {
		if g.soaking() && (soaked == nil || g.ends < soaked.ends) {
			soaked = g
		}
	}
	if soaked != nil && soaked.ends <= c.at {
		return soaked
	}
	if i := slices.IndexFunc(groups, func(g *chain) bool { return g.over }); i >= 0 {
		return groups[i]
	}
	var best *chain
	for _, g := range groups {
		if len(g.steps) == 0 || g.soaking() || soaked != nil && c.outlasts(g.steps[0], soaked.ends) {
			continue
		}
		if best == nil || g.soaks() && !best.soaks() || g == last && g.soaks() == best.soaks() {
			best = g
		}
	}
	if best == nil {
		return soaked
	}
	return best
}

// outlasts says whether a step begun now would keep the hands beyond the end of a soak, or
// slow hands for longer than it may stand over.
func (c hours) outlasts(s Step, ends time.Duration) bool {
	return c.at+c.spell(s) > ends || c.at+Slow(s, c.pump) > ends+Overstay
}

// setWork sums up what the plan takes.
func (p *Plan) setWork(all sums) {
	var flushes, draws units.Volume
	pulses := 0
	for _, s := range p.Steps() {
		if b, ok := BodyOf[Act](s); ok {
			draws += b.Draws
		}
		if b, ok := BodyOf[Pulses](s); ok {
			pulses += b.Count
		} else {
			flushes += s.Body.Water(p.Setups[0].Vents)
		}
	}
	ours := func(symbol, label string, v float64, unit string, source reason.Source) reason.Input {
		return reason.Input{Symbol: symbol, Label: label, Value: v, Unit: unit, Source: source}
	}
	p.Minutes = reason.Worked{
		Name: "time the sitting takes", Value: (all.hands + all.pulsing + all.waits).Minutes(), Unit: "min",
		Formula: "(hands + pulses + waits) ÷ 60", Source: reason.Ours,
		Inputs: []reason.Input{
			ours("hands", "estimate for the steps done by hand", all.hands.Seconds(), "s", reason.Ours),
			ours("pulses", "pulses, on and off", all.pulsing.Seconds(), "s", reason.Trade),
			ours("waits", "what no work fills: a soak, the machine's own program, a pump that must rest",
				all.waits.Seconds(), "s", reason.Trade),
		},
		WouldChange: []string{"an unclear cup adds half a minute a pair of pulses"},
	}.Exact()
	vents := float64(p.Setups[0].Vents)
	inputs := []reason.Input{
		ours("pulses", "pulses in all", float64(pulses), "pulses", reason.Trade),
		ours("vents", "vents a pulse", vents, "mL", reason.Ours),
		ours("flushes", "flushes in all", float64(flushes), "mL", reason.Ours),
	}
	total := float64(pulses)*vents + float64(flushes)
	p.TrayGets = reason.Worked{
		Name: "water into the tray", Value: total * 1.1, Unit: "mL", Formula: "(pulses × vents + flushes) × 1.1",
		Inputs: inputs, Source: reason.Ours, WouldChange: []string{"more pulses", "a group that vents more"},
	}.Exact()
	inputs = append(inputs[:3:3], ours("draws", "drawn into a jug or a cup", float64(draws), "mL", reason.Ours))
	p.TankUses = reason.Worked{
		Name: "water from the tank", Value: total + float64(draws), Unit: "mL",
		Formula: "pulses × vents + flushes + draws", Inputs: inputs, Source: reason.Ours,
		WouldChange: []string{"more pulses"},
	}.Exact()
}

// adds up what the steps of a plan take that is done from first to last; what stands
// beside them on a lane of its own is left out.
func (p *Plan) addUp() {
	var all sums
	pump := Pump{Duty: p.Setups[0].Duty, Flow: p.Setups[0].Flow}
	for _, s := range p.Steps() {
		if s.Lane == SoftenerLane || s.Lane == FilterLane {
			continue
		}
		long := s.Body.Spell(s.Takes, &pump)
		switch b := s.Body.(type) {
		case Push:
			all.pulsing, all.waits = all.pulsing+b.Runs(), all.waits+long-b.Runs()-s.Takes
			all.hands += s.Takes
		case Sips:
			runs := time.Duration(b.Count) * b.On
			all.pulsing, all.waits = all.pulsing+runs, all.waits+long-runs-s.Takes
			all.hands += s.Takes
		case Pulses:
			all.pulsing, all.waits = all.pulsing+b.Length(), all.waits+long-b.Length()
		case Soak, Wait:
			all.waits += long
		default:
			all.hands, all.waits = all.hands+s.Takes, all.waits+long-s.Takes
		}
	}
	p.setWork(all)
	p.Minutes.Inputs[1].Label = "the pump runs, and pulses"
	p.Minutes.WouldChange = []string{"a strip that does not match: it is rinsed on", "a larger jug, a larger tank"}
}
