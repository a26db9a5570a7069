package plant

// Things a hand does that take the time they take, however fast the hand is.

// blip is how long a pump runs that is only to let gas out, s; steamed how long a steam tap
// is opened for a cup (our own engineering choices).
const (
	blip    = 1.0
	steamed = 10.0
	cup     = 0.1 // L
)

// longest is how long anything is waited for that may never come, s.
const longest = 3600.0

func (p *Plant) doTimed(a Action) bool {
	g := p.Spec.FindOpening(a.What)
	switch a.Verb {
	case LetOut:
		if g < 0 {
			return false
		}
		p.doOpening(Action{Verb: Open, What: a.What})
		p.runOut(g, a.Amount)
		p.Gates[g].Open = false
		p.V[p.Spec.Openings[g].Of].Emptied++
	case Blip:
		if g < 0 || !p.Plug || !p.Spec.HasPump {
			return false
		}
		was := p.On
		p.On, p.Route = true, g
		p.Wait(blip)
		p.On, p.Route = was, -1
	case Puff:
		if g < 0 {
			return false
		}
		p.doOpening(Action{Verb: Open, What: a.What})
		p.Wait(a.Amount)
		p.Gates[g].Open = false
	case Sample:
		return g >= 0 && p.sample(g, a.Amount)
	case OwnRun:
		return p.ownRun(a.Amount, a.What == OwnRinse)
	default:
		return false
	}
	return true
}

// runOut lets so many litres out of an opening that is open, or all that comes.
func (p *Plant) runOut(g int, litres float64) {
	start := p.T
	for left := litres; (litres == 0 || left > 1e-9) && p.T-start < longest; {
		p.flow(&p.scratch)
		q := p.scratch.by[g]
		if q == 0 && p.scratch.in[p.Spec.Openings[g].Of] > 0 { // it fills first
			p.step(longest)
			continue
		}
		if q == 0 {
			return
		}
		most := longest
		if litres > 0 {
			most = left / q
		}
		left -= q * p.step(most)
	}
}

// sample takes a cup at an opening: by the pump, by the lever, or as it runs out.
func (p *Plant) sample(g int, litres float64) bool {
	o := &p.Spec.Openings[g]
	was := p.Gates[g].Open
	if p.blindAt(g) {
		p.broke(BlindIn, p.Spec.Vessels[p.headOf(g)].ID, "water is to run from %s, where a blind is locked in",
			p.Spec.Vessels[p.headOf(g)].Title)
		return true
	}
	if litres <= cup { // into a cup that is taken away
		under := p.V[o.Into]
		p.V[o.Into].Litres = 0
		defer func() { p.V[o.Into].Litres, p.V[o.Into].Acid = under.Litres, under.Acid }()
	}
	switch {
	case o.Kind == Cap:
		s := &p.V[o.Of]
		s.Litres -= min(litres, s.Litres)
		p.Gates[g].Acid = s.Acid
	case o.Kind == Drain, o.Kind == HotTap:
		p.doOpening(Action{Verb: Open, What: o.ID})
		p.runOut(g, litres)
		p.Gates[g].Open = was
	case o.Kind == SteamTap && (p.Spec.Vessels[o.Of].Kind == Steam || !p.Spec.HasPump):
		p.Gates[g].Open = true
		p.Wait(steamed)
		p.Gates[g].Open = was
	case !p.Spec.HasPump:
		return p.leverDown(Action{What: o.ID, Amount: litres})
	case !p.Plug:
		return false
	default:
		on := p.On
		p.Gates[g].Open = o.Kind != Group || was
		p.On, p.Route = true, g
		p.runOut(g, litres)
		p.On, p.Route = on, -1
		p.Gates[g].Open = was
	}
	return true
}

// A machine's own program is taken for this: so many pushes with as long a rest after each,
// its heater off (our own engineering choices).
const (
	ownPushes = 10
	ownRests  = 90.0
	ownDrips  = 5.0 // while it only rinses
)

// OwnRinse tells the rinse of a machine's own program from its acid.
const OwnRinse = "rinse"

// ownRun lets the machine's own program bring so much through, by every outlet that is
// open.
func (p *Plant) ownRun(litres float64, rinses bool) bool {
	g := p.Spec.FindOpening("steam_tap")
	if g < 0 || !p.Plug {
		return false
	}
	i := p.Spec.Openings[g].Of
	was := p.V[i]
	p.V[i].Off, p.V[i].Seen, p.V[i].Kept, p.On = true, true, true, true // the program sees to its heater
	for range ownPushes {
		p.Route = g
		p.runOut(g, litres/ownPushes)
		p.Route = -1
		if rinses {
			p.Wait(ownDrips)
		} else {
			p.Wait(ownRests)
		}
	}
	p.V[i].Off, p.V[i].Seen, p.V[i].Kept, p.On = was.Off, was.Seen, was.Kept, false
	return true
}

// WaitTo lets time pass to an instant, s; where that has gone already, none passes.
func (p *Plant) WaitTo(t float64) {
	if t > p.T {
		p.Wait(t - p.T)
	}
}

// Play does a list of things one after the other, spread over a time from one instant to
// another, s.
func (p *Plant) Play(list []Action, from, to float64) {
	for i, a := range list {
		p.WaitTo(from + (to-from)*float64(i+1)/float64(len(list)+1))
		p.Do(a)
	}
	p.WaitTo(to)
}
