package job

import (
	"time"

	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// chain is what is still to be done to one group.
type chain struct {
	steps []Step
	ends  time.Duration // of the soak that comes next, where it has begun
}

func (c *chain) soaking() bool { return len(c.steps) > 0 && c.steps[0].AtOnce }

// soaks says whether a soak is still to be begun.
func (c *chain) soaks() bool {
	for _, s := range c.steps {
		if s.AtOnce {
			return !c.soaking()
		}
	}
	return false
}

// sitting is the clock of a plan while it is laid out.
type sitting struct {
	plan *Plan
	at   time.Duration
	warm time.Duration // of the pump
}

// spell is how long a step keeps the hands, pump rests included, and how warm it
// leaves the pump. A program of the machine's own looks after its pump itself.
func (c sitting) spell(s Step) (long, warm time.Duration) {
	d := c.plan.Duty
	switch {
	case s.Pulses != nil:
		for range s.Pulses.Count {
			rest := d.Rest(c.warm, s.Pulses.On)
			c.warm = d.Cooled(d.Ran(d.Cooled(c.warm, rest), s.Pulses.On), s.Pulses.Off)
			long += rest + s.Pulses.On + s.Pulses.Off
		}
		return long, c.warm
	case s.Kind == Push:
		for left := s.Takes; left > 0; {
			want := left
			if d.On > 0 {
				want = min(left, d.On)
			}
			rest := d.Rest(c.warm, want)
			c.warm = d.Ran(d.Cooled(c.warm, rest), want)
			long, left = long+rest+want, left-want
		}
		return long, c.warm
	case s.Kind == Wait:
		return s.Waits, d.Cooled(c.warm, s.Waits)
	}
	ran := c.plan.Ran(s.Water)
	return s.Takes, d.Cooled(d.Ran(c.warm, ran), max(0, s.Takes-ran))
}

// Ran is how long the pump runs for a flush of so much water.
func (p Plan) Ran(v units.Volume) time.Duration {
	if p.Flow == 0 {
		return 0
	}
	return time.Duration(float64(v) / p.Flow * float64(time.Second))
}

// lay puts the groups on one pair of hands. What is done while a group soaks is
// another group's, but nothing is begun that would outlast the soak: when it
// ends, the hands are there. A group that has yet to begin its soak goes first,
// for its soak is time that others can use; apart from that, one group is done
// with before the next is begun.
func (p *Plan) lay(ready Step, chains [][]Step) {
	clock := &sitting{plan: p}
	groups := make([]*chain, len(chains))
	for i, steps := range chains {
		groups[i] = &chain{steps: steps}
		after := ready.ID
		for j := range steps {
			s := &steps[j]
			s.Group, s.Lane = p.Parts[i].Group, Hands
			s.ID, s.After = p.ID(s.Group, s.ID), []string{after}
			if s.AtOnce {
				s.Lane = groupLane(s.Group)
			}
			after = s.ID
		}
	}
	ready.Lane, ready.Group = Hands, p.Parts[0].Group
	p.Steps = nil
	var hands, pulsing time.Duration
	take := func(s Step) {
		long, warm := clock.spell(s)
		clock.at, clock.warm = clock.at+long, warm
		hands += s.Takes
		if s.Pulses != nil {
			pulsing += s.Pulses.Length()
		}
		p.Steps = append(p.Steps, s)
	}
	take(ready)
	var last *chain
	for {
		c := clock.next(groups, last)
		if c == nil {
			break
		}
		s := c.steps[0]
		if s.AtOnce {
			idle := max(0, c.ends-clock.at)
			clock.at, clock.warm = clock.at+idle, p.Duty.Cooled(clock.warm, idle)
			p.Steps = append(p.Steps, s)
		} else {
			take(s)
		}
		c.steps, last = c.steps[1:], c
		if c.soaking() {
			c.ends = clock.at + c.steps[0].Waits
		}
	}
	p.work(hands, pulsing, clock.at-hands-pulsing)
}

// next is whose turn it is; nil when all is done.
func (c sitting) next(groups []*chain, last *chain) *chain {
	var soaked *chain // the first to have soaked, or to end its soak
	for _, g := range groups {
		if g.soaking() && (soaked == nil || g.ends < soaked.ends) {
			soaked = g
		}
	}
	if soaked != nil && soaked.ends <= c.at {
		return soaked
	}
	var best *chain
	for _, g := range groups {
		if len(g.steps) == 0 || g.soaking() {
			continue
		}
		if long, _ := c.spell(g.steps[0]); soaked != nil && c.at+long > soaked.ends {
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

// work sums up what the plan takes.
func (p *Plan) work(hands, pulsing, waits time.Duration) {
	var water units.Volume
	pulses := 0
	for _, s := range p.Steps {
		water += s.Water
		if s.Pulses != nil {
			pulses += s.Pulses.Count
		}
	}
	p.Minutes = reason.Worked{
		Name:    "time the sitting takes",
		Value:   (hands + pulsing + waits).Minutes(),
		Unit:    "min",
		Formula: "(hands + pulses + waits) ÷ 60",
		Source:  reason.Ours,
		Inputs: []reason.Input{
			{
				Symbol: "hands",
				Label:  "estimate for the steps done by hand",
				Value:  hands.Seconds(),
				Unit:   "s",
				Source: reason.Ours,
			},
			{Symbol: "pulses", Label: "pulses, on and off", Value: pulsing.Seconds(), Unit: "s", Source: reason.Trade},
			{
				Symbol: "waits",
				Label:  "what no work fills: a soak, the machine's own program, a pump that must rest",
				Value:  waits.Seconds(),
				Unit:   "s",
				Source: reason.Trade,
			},
		},
		WouldChange: []string{"an unclear cup adds half a minute a pair of pulses"},
	}.Exact()
	inputs := []reason.Input{
		{Symbol: "pulses", Label: "pulses in all", Value: float64(pulses), Unit: "pulses", Source: reason.Trade},
		{Symbol: "vents", Label: "vents a pulse", Value: float64(p.Vents), Unit: "mL", Source: reason.Ours},
		{Symbol: "flushes", Label: "flushes in all", Value: float64(water), Unit: "mL", Source: reason.Ours},
	}
	total := float64(pulses)*float64(p.Vents) + float64(water)
	p.TrayGets = reason.Worked{
		Name:        "water into the tray",
		Value:       total * 1.1,
		Unit:        "mL",
		Formula:     "(pulses × vents + flushes) × 1.1",
		Inputs:      inputs,
		Source:      reason.Ours,
		WouldChange: []string{"more pulses", "a group that vents more"},
	}.Exact()
	p.TankUses = reason.Worked{
		Name:        "water from the tank",
		Value:       total,
		Unit:        "mL",
		Formula:     "pulses × vents + flushes",
		Inputs:      inputs,
		Source:      reason.Ours,
		WouldChange: []string{"more pulses"},
	}.Exact()
}
