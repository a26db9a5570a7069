package plant

import (
	"math"
	"time"
)

// Handle is what is locked into a group.
type Handle string

// The states of a handle; the zero value is none: the group is open below.
const (
	HandleOut    Handle = ""
	HandleBasket Handle = "basket" // with the coffee basket
	HandleBlind  Handle = "blind"  // with a blind basket: the pump builds pressure
	HandleLoose  Handle = "loose"  // loosened, both lugs still holding: water runs over the rim
)

// The verbs of a group's head. What is the group.
const (
	LockBasket Verb = "lock_basket"
	LockBlind  Verb = "lock_blind"
	TakeOut    Verb = "take_handle_out"
	Loosen     Verb = "loosen_handle"
	PutPowder  Verb = "put_powder"  // so many grams of detergent into the blind
	WipeBlind  Verb = "empty_blind" // emptied and wiped: what powder is left in it is gone
	Flush      Verb = "flush"       // so many litres through the open group, into the tray
	Rinsed     Verb = "rinsed"      // its rinse counts as done: before the shot that is thrown away
	Together   Verb = "together"    // several groups, opened one after the other, let run for so many seconds each
	OwnWash    Verb = "own_wash"    // the machine's own cleaning program: so many pulses
	Pulse      Verb = "pulse"       // the pump on to a group behind its blind
	NothingOut Verb = "nothing_out" // somebody saw that nothing came out at its drain
	CameOut    Verb = "came_out"    // somebody says that it has opened, or lets the water out again
)

// HeadState is what moves of a group's head beside what moves of every vessel.
type HeadState struct {
	Handle  Handle
	Powder  float64 // g of detergent that is not dissolved yet
	Dried   bool    // that powder is in the valve, not in the blind: wiping does not take it away
	Pulsed  int     // pulses since the powder came in
	Pressed bool    // it stands at the pump's pressure
	Hisses  float64 // s for which its valve goes on venting
	Blocked bool    // its valve lets nothing out
	Away    bool    // its handle was taken out, and is not back
}

// Our own engineering choices: how long a valve vents, s; how many pulses dissolve a dose;
// a machine's own cleaning program, s on and off.
const (
	vents     = 3.0
	dissolves = 2
	ownOn     = 10.0
	ownOff    = 29.0
)

// headOf is where the head of a group's opening stands.
func (p *Plant) headOf(g int) int { return p.Spec.Openings[g].Of + 1 }

// blindAt says whether a blind stops the group's opening.
func (p *Plant) blindAt(g int) bool {
	return p.Spec.Openings[g].Kind == Group && p.V[p.headOf(g)].Handle == HandleBlind
}

// into is what catches what leaves by an opening now.
func (p *Plant) into(g int) int {
	if p.Gates[g].Tray {
		return TrayAt
	}
	return p.Spec.Openings[g].Into
}

// fillHead lets the pump press water into a head behind its blind: so much as a pulse vents,
// then it only holds its pressure. It says whether the group's opening was such a head.
func (p *Plant) fillHead(g int, f *flows, each float64) bool {
	if !p.blindAt(g) {
		return false
	}
	h, of := p.headOf(g), p.Spec.Openings[g].Of
	if p.V[h].Litres >= p.Spec.Vessels[h].Capacity-1e-9 {
		return true
	}
	f.in[of] += each
	f.out[of] += each
	f.drawn += each
	f.through[of] = true
	f.in[h] = each
	return true
}

// horizonOfHead takes the events of one head.
func (p *Plant) horizonOfHead(i int, f *flows, take func(float64, string)) {
	if f.in[i] > 0 {
		take((p.Spec.Vessels[i].Capacity-p.V[i].Litres)/f.in[i], "the head is at pressure")
	}
	if p.V[i].Hisses > 0 {
		take(p.V[i].Hisses, "the valve has vented")
	}
}

// moveHead lets so many seconds pass for one head: what the pump presses in thins what was in it.
func (p *Plant) moveHead(i int, f *flows, h float64) {
	s := &p.V[i]
	s.Hisses = math.Max(0, s.Hisses-h)
	if in := f.in[i] * h; in > 0 {
		kept := s.Litres / (s.Litres + in)
		from := p.V[i-1].Acid // of the circuit that it is filled from
		s.Detergent *= kept
		s.Acid = s.Acid*kept + from*(1-kept)
		s.Litres = math.Min(s.Litres+in, p.Spec.Vessels[i].Capacity)
		s.Pressed = true
	}
}

// settleHead lets a head that the pump has left vent by its spout, and dissolves a dose: the
// first two pulses do, and rinse nothing yet.
func (p *Plant) settleHead(i int) {
	s, v := &p.V[i], &p.Spec.Vessels[i]
	if !s.Pressed || s.Blocked || p.pressing(i) {
		return
	}
	s.Pressed, s.Hisses = false, vents
	if s.Powder > 0 {
		s.Pulsed++
		s.Detergent = s.Powder * 1000 / v.Capacity
		if s.Pulsed >= dissolves {
			s.Powder, s.Dried = 0, false
		}
	}
	p.catch(TrayAt, s.Litres-v.Working, s.Acid, s.Temp)
	s.Litres = v.Working
}

// pressing says whether the pump is switched to the group of a head.
func (p *Plant) pressing(i int) bool {
	return p.Route >= 0 && p.powered() && p.Spec.Openings[p.Route].Kind == Group && p.headOf(p.Route) == i
}

// rinseHead thins what is in the head of an open group by what runs through it.
func (p *Plant) rinseHead(g int, litres float64) {
	if o := &p.Spec.Openings[g]; o.Kind == Group {
		h := p.headOf(g)
		p.V[h].Detergent *= math.Exp(-litres / p.Spec.Vessels[h].Working)
	}
}

// doHead does what a hand does at a group's head.
func (p *Plant) doHead(a Action) bool {
	if a.Verb == Together {
		return p.together(a.What, a.Amount)
	}
	g := p.Spec.FindOpening(a.What)
	if g < 0 || p.Spec.Openings[g].Kind != Group {
		return false
	}
	s := &p.V[p.headOf(g)]
	switch a.Verb {
	case Pulse:
		return p.pulse(g, s)
	case LetOff:
		return p.letOff(g)
	case LockBasket, LockBlind:
		return p.lock(a, s)
	case TakeOut, Loosen:
		if s.Handle == HandleOut {
			return a.Verb == TakeOut // it hangs beside the machine already
		}
		p.unlock(g, s)
		s.Handle, s.Away = map[Verb]Handle{TakeOut: HandleOut, Loosen: HandleLoose}[a.Verb], true
	case PutPowder:
		if s.Handle != HandleOut {
			return false
		}
		s.Powder, s.Pulsed, s.Dried = a.Amount, 0, false
	case WipeBlind:
		if s.Handle != HandleOut {
			return false
		}
		if !s.Dried {
			s.Powder = 0
		}
	case NothingOut:
		s.Blocked, s.Pressed, s.Hisses = true, true, 0
	case CameOut:
		s.Blocked = false
	case Rinsed:
		p.lookAtHead(p.headOf(g))
	case Flush:
		return p.flush(g, s, a.Amount)
	case OwnWash:
		return p.ownWash(g, int(a.Amount))
	default:
		return false
	}
	return true
}

// lock puts a handle into a group: its own, which must not be in a bath.
func (p *Plant) lock(a Action, s *State) bool {
	if a.Verb == LockBasket && s.Handle == HandleBasket {
		s.Away = false
		return true // it is in already
	}
	if s.Handle != HandleOut {
		return false
	}
	if i := p.Spec.FindLoose("handle-" + a.What[len("group-"):]); i >= 0 && p.L[i].Off {
		p.broke(WrongOrder, a.What, "the handle of %s is in the bath", a.What)
	}
	s.Handle = map[Verb]Handle{LockBasket: HandleBasket, LockBlind: HandleBlind}[a.Verb]
	s.Away = a.Verb == LockBlind
	return true
}

// unlock judges a handle that is turned: never while the pump presses, and not before the valve
// has vented; a blocked head not before it is cold.
func (p *Plant) unlock(g int, s *State) {
	title := p.Spec.Vessels[p.headOf(g)].Title
	hot := s.Temp > safeToOpen
	switch {
	case p.pressing(p.headOf(g)):
		p.broke(OpenedPressed, title, "the handle of %s is unlocked while the pump runs", title)
	case s.Hisses > 1e-9, s.Pressed && hot:
		p.broke(OpenedPressed, title, "the handle of %s is unlocked under pressure", title)
	}
	s.Pressed = false
	if s.Blocked { // what was pressed in runs out over the rim, into the tray
		v := &p.Spec.Vessels[p.headOf(g)]
		p.catch(TrayAt, math.Max(0, s.Litres-v.Working), s.Acid, s.Temp)
		s.Litres = v.Working
	}
}

// pulse switches the pump to a group, which must be closed by a blind.
func (p *Plant) pulse(g int, s *State) bool {
	head := &p.Spec.Vessels[p.headOf(g)]
	if s.Handle != HandleBlind {
		p.broke(NoBlind, head.ID, "the pump presses into %s, where no blind is locked in", head.Title)
	}
	return p.doPower(Action{Verb: PumpTo, What: p.Spec.Openings[g].ID})
}

// lettingOff is how long a group is opened so that the pressure of the mains is let off, s.
const lettingOff = 3.0

// letOff opens a group so that the pressure of the mains is let off: with the supply shut, and the machine still on.
func (p *Plant) letOff(g int) bool {
	if !p.Spec.Mains || p.Supply || !p.powered() || p.V[p.headOf(g)].Handle == HandleBlind {
		return false
	}
	air := p.Air // against a supply that is shut the pump draws nothing, neither water nor air
	p.Route = g
	p.Wait(lettingOff)
	p.Route, p.Air = -1, air
	p.V[p.Spec.Openings[g].Of].Line = false
	return true
}

// flush lets so much run through an open group into the tray.
func (p *Plant) flush(g int, s *State, litres float64) bool {
	if s.Handle == HandleBlind {
		p.broke(BlindIn, p.Spec.Vessels[p.headOf(g)].ID, "water is to run through %s, where a blind is locked in",
			p.Spec.Vessels[p.headOf(g)].Title)
		return true
	}
	if !p.Plug || !p.Spec.HasPump {
		return false
	}
	on := p.On
	p.On, p.Route, p.Gates[g].Tray = true, g, true
	p.runOut(g, litres)
	p.On, p.Route, p.Gates[g].Tray = on, -1, false
	return true
}

// ownWash lets the machine's own cleaning program make so many pulses.
func (p *Plant) ownWash(g, pulses int) bool {
	if !p.powered() || !p.Spec.HasPump {
		return false
	}
	for range pulses {
		p.Route = g
		p.Wait(ownOn)
		p.Route = -1
		p.settle()
		p.Wait(ownOff)
	}
	return true
}

// LeaveIn leaves so many grams of detergent in a group, behind a blind that is locked in, and
// its head at pressure where nothing came out at its drain.
func (p *Plant) LeaveIn(group string, grams float64, pressed bool) {
	i := p.Spec.Find(group)
	s := &p.V[i]
	s.Handle, s.Powder, s.Dried = HandleBlind, grams, grams > 0
	if pressed {
		s.Pressed, s.Blocked, s.Litres = true, true, p.Spec.Vessels[i].Capacity
	}
}

// Soapy says whether any head holds more detergent than may stay.
func (p *Plant) Soapy() bool {
	for i := range p.V {
		if p.V[i].Detergent > detergentLimit || p.V[i].Powder > 0 {
			return true
		}
	}
	return false
}

// HeatUp is how long a machine takes from cold until every heater holds its heat; at most two
// hours.
func HeatUp(s *Spec) time.Duration {
	p := Cold(s)
	p.Do(Action{Verb: PlugIn})
	p.Do(Action{Verb: SwitchOn})
	hot := func(p *Plant) bool {
		for i, v := range p.Spec.Vessels {
			if v.Watts > 0 && p.V[i].Temp < v.Set-0.01 {
				return false
			}
		}
		return true
	}
	return time.Duration(p.Until(hot, 7200) * float64(time.Second))
}

// lookAtHead judges the head of a group when its rinse is over.
func (p *Plant) lookAtHead(i int) {
	if s := &p.V[i]; s.Detergent > detergentLimit || s.Powder > 0 {
		p.broke(EndUnproven, p.Spec.Vessels[i].ID, "detergent is left in %s", p.Spec.Vessels[i].Title)
	}
}
