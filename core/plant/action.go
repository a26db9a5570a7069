package plant

import (
	"fmt"
	"math"

	"freshanvil/core/machine"
)

// Verb is what a hand does.
type Verb string

// The verbs.
const (
	PlugIn     Verb = "plug_in"
	Unplug     Verb = "unplug"
	SwitchOn   Verb = "switch_on"
	SwitchOff  Verb = "switch_off"
	HeaterOff  Verb = "heater_off"  // of a vessel, by its own switch or menu
	HeaterBack Verb = "heater_back" // on again
	SeeOff     Verb = "see_off"     // look, as the machine is switched on, whether the vessel's own heater still says off
	LetOff     Verb = "let_off"     // open a group for three seconds, the supply shut and the machine on
	SoakedHot  Verb = "soaked_hot"  // a hot soak of a vessel is over: it was hot
	Open       Verb = "open"        // an opening
	Close      Verb = "close"
	Empty      Verb = "empty"    // a source or a catch
	PourMix    Verb = "pour_mix" // so many litres of solution into the source
	PourClean  Verb = "pour_clean"
	FillUp     Verb = "fill_up"  // the source, with clean water, to the brim of its working fill
	PourTo     Verb = "pour_to"  // the same, up to so many litres in the boiler: a mark
	PourIn     Verb = "pour_in"  // from the mixing jug into a boiler by its cap
	TurnOver   Verb = "turn_out" // a boiler poured out by its cap
	PumpTo     Verb = "pump_to"  // the pump on, to an opening
	PumpOff    Verb = "pump_off"
	LeverDown  Verb = "lever_down" // so many litres out of a group by its lever, without a pump
	FilterOut  Verb = "filter_out"
	FilterIn   Verb = "filter_in"
	ShutSupply Verb = "shut_supply"
	OpenSupply Verb = "open_supply"
	MoveIntake Verb = "move_intake" // into the bucket
	PutIntake  Verb = "put_intake"  // back on the mains
	LetOut     Verb = "let_out"     // open a drain, let so many litres out, close it; 0 until it stops
	Blip       Verb = "blip"        // the pump on to a group for a second, and off again
	Puff       Verb = "puff"        // a steam tap open for so many seconds
	Sample     Verb = "sample"      // take so many litres at an opening, for a strip
	OwnRun     Verb = "own_run"     // the machine's own program brings so many litres through
	Measured   Verb = "measured"    // somebody has measured so many °C in a vessel
	Proven     Verb = "proven"      // two readings in a row match, of a vessel
)

// Action is one thing a hand does at an instant: to what, and how much.
type Action struct {
	Verb   Verb
	What   string
	Amount float64 // litres, or °C
}

// Do does it now. What cannot be done is noted as broken.
func (p *Plant) Do(a Action) {
	if !p.doPower(a) && !p.doSeen(a) && !p.doLiquid(a) && !p.doOpening(a) && !p.doTimed(a) && !p.doHead(a) &&
		!p.doLoose(a) {
		p.broke(CannotBeDone, a.What, "nobody can %s %s", a.Verb, a.What)
	}
	p.settle()
	p.flow(&p.scratch)
	p.look(&p.scratch)
	p.note(string(a.Verb) + " " + a.What)
}

// plugged puts the plug in or out: a setting may not survive it.
func (p *Plant) plugged(in bool) {
	p.Plug = in
	for i := range p.V {
		p.V[i].Seen = false
	}
}

// supplied opens the supply or shuts it; shut with the machine on, brew pressure is let off.
func (p *Plant) supplied(open bool) {
	p.Supply, p.letting = open, never
	if !open && p.powered() {
		p.letting = p.T
	}
	p.lookAtCartridge()
}

// doSeen does what an eye does: a heater that still says off, a soak that was hot.
func (p *Plant) doSeen(a Action) bool {
	switch a.Verb {
	case SeeOff:
		i := p.Spec.Find(a.What)
		if i < 0 {
			return false
		}
		p.V[i].Seen = p.V[i].Off
		whole := p.V[i].Litres >= p.Spec.Vessels[i].Covered && !p.Holds(Weak)
		p.V[i].Kept = p.V[i].Kept || whole && p.powered()
	case SoakedHot:
		i := p.Spec.Find(a.What)
		if i < 0 {
			return false
		}
		if p.V[i].Temp < hotAt {
			p.broke(NotHot, a.What, "the %s soaks at %.0f °C, and is said to soak hot", p.Spec.Vessels[i].Title, p.V[i].Temp)
		}
	default:
		return false
	}
	return true
}

func (p *Plant) doPower(a Action) bool {
	switch a.Verb {
	case PlugIn, Unplug:
		p.plugged(a.Verb == PlugIn)
	case SwitchOn:
		p.On = true
	case SwitchOff:
		p.On, p.Route = false, -1
	case HeaterOff, HeaterBack:
		i := p.Spec.Find(a.What)
		if i < 0 || p.Spec.Vessels[i].Heater != machine.CanBeOff {
			return false
		}
		p.V[i].Off = a.Verb == HeaterOff
		p.V[i].Seen = p.V[i].Off && p.powered() // whoever turns it off sees it
	case PumpOff:
		p.Route = -1
	case PumpTo:
		g := p.Spec.FindOpening(a.What)
		if g < 0 || !p.Spec.HasPump {
			return false
		}
		p.Route = g
	case FilterOut, FilterIn:
		p.Filter, p.Pulled = a.Verb == FilterIn, a.Verb == FilterOut
		p.lookAtCartridge()
	case ShutSupply, OpenSupply:
		p.supplied(a.Verb == OpenSupply)
	case MoveIntake, PutIntake:
		p.Intake = a.Verb == MoveIntake
	default:
		return false
	}
	if !p.powered() {
		p.Route = -1
	}
	return true
}

// lookAtCartridge judges what is under the counter: on the mains nothing is out of its line while that is open.
func (p *Plant) lookAtCartridge() {
	if p.Spec.Mains && !p.Intake && p.Supply && p.Pulled {
		p.broke(CartridgeOut, "supply", "the supply is open while what treats the water is out of its line")
	}
}

func (p *Plant) doLiquid(a Action) bool {
	source := &p.V[SourceAt]
	switch a.Verb {
	case Empty:
		i := p.Spec.Find(a.What)
		if i < 0 || p.Spec.Vessels[i].wets() {
			return false
		}
		p.V[i].Litres, p.V[i].Acid = 0, 0
	case PourMix, PourClean:
		acid := 0.0
		if a.Verb == PourMix {
			acid = 1
		}
		if acid > 0 && p.Spec.Mains && !p.Intake {
			p.broke(AcidIntoMains, "supply", "acid would go into the mains line")
		}
		p.catch(SourceAt, a.Amount, acid, p.Spec.Feed)
	case FillUp:
		p.catch(SourceAt, math.Max(0, p.Spec.Vessels[SourceAt].Working-source.Litres), 0, p.Spec.Feed)
	case PourIn:
		return p.pourIn(a)
	case PourTo:
		i := p.Spec.Find(a.What)
		return i >= 0 && p.pourIn(Action{PourIn, a.What, math.Max(0, a.Amount-p.V[i].Litres)})
	case TurnOver:
		return p.turnOver(a)
	case LeverDown:
		return p.leverDown(a)
	case Measured:
		i := p.Spec.Find(a.What)
		if i < 0 {
			return false
		}
		p.measured(i, a.Amount)
	case Proven:
		i := p.Spec.Find(a.What)
		if i < 0 {
			return false
		}
		if !p.Sours(i) {
			p.V[i].Sour = false
		}
	default:
		return false
	}
	return true
}

// measured takes somebody's thermometer for what the model believes, where it reads lower.
func (p *Plant) measured(i int, celsius float64) {
	body := p.Spec.Vessels[i].Body
	for j := range p.V {
		if p.Spec.Vessels[j].Body == body {
			p.V[j].Temp = math.Min(p.V[j].Temp, celsius)
		}
	}
}

// SaidHot takes somebody's word that a machine which heats is at its heat already, sooner than the model has it; while
// acid is in, no word is taken for it.
func (p *Plant) SaidHot() {
	if p.Holds(Weak) {
		return
	}
	for i := range p.V {
		if !p.heats(i) {
			continue
		}
		for j := range p.V {
			if p.Spec.Vessels[j].Body == p.Spec.Vessels[i].Body {
				p.V[j].Temp = math.Max(p.V[j].Temp, p.Spec.Vessels[i].Set)
			}
		}
	}
}

// openAbove finds the cap of a boiler that is filled and poured out by hand, where it is
// open; -1 else.
func (p *Plant) openAbove(i int) int {
	for g := range p.Gates {
		if o := &p.Spec.Openings[g]; o.Of == i && o.Kind == Cap && p.Gates[g].Open {
			return g
		}
	}
	return -1
}

func (p *Plant) pourIn(a Action) bool {
	i := p.Spec.Find(a.What)
	if i < 0 || p.openAbove(i) < 0 {
		return false
	}
	s, source := &p.V[i], &p.V[SourceAt]
	litres := math.Min(a.Amount, source.Litres)
	was := s.Litres
	s.Litres += litres
	if s.Litres > 0 {
		s.Acid = (s.Acid*was + source.Acid*litres) / s.Litres
		s.Taken *= was / s.Litres
		s.Old *= was / s.Litres
	}
	source.Litres -= litres
	if s.dried && s.Temp > safeToOpen {
		p.broke(HotFill, a.What, "water runs into a boiler that ran dry and is hot")
	}
	s.Temp = (s.Temp*was + p.Spec.Feed*litres) / math.Max(1e-9, was+litres)
	p.countAcid(i, litres, source.Acid, 0, s.Temp, 0)
	p.fillDip(i)
	return true
}

// fillDip lets what a boiler without a pump is filled with stand in the pipe that leads to its group, too: it runs out
// with the boiler as it is turned over, all but the same share.
func (p *Plant) fillDip(i int) {
	for g := range p.Gates {
		if o := &p.Spec.Openings[g]; o.Of == i && o.Kind == Group && o.Lever && !p.Spec.HasPump {
			p.Gates[g].Acid, p.Gates[g].Drew = p.V[i].Acid+(p.Gates[g].Acid-p.V[i].Acid)*p.Spec.Vessels[i].Heel, 0
		}
	}
}

func (p *Plant) turnOver(a Action) bool {
	i := p.Spec.Find(a.What)
	if i < 0 {
		return false
	}
	g := p.openAbove(i)
	if g < 0 {
		return false
	}
	v, s := &p.Spec.Vessels[i], &p.V[i]
	out := math.Max(0, s.Litres-v.Heel*v.Working) * a.share()
	p.catch(p.Spec.Openings[g].Into, out, s.Acid, s.Temp)
	s.Litres -= out
	p.Gates[g].Acid = s.Acid
	s.Emptied++
	return true
}

// share is the part of what could be poured out that is: all of it, unless less is said.
func (a Action) share() float64 {
	if a.Amount > 0 && a.Amount < 1 {
		return a.Amount
	}
	return 1
}

// leverDown presses so much out of a group by its lever, without a pump: the boiler's own pressure brings it there.
// Cold, or with the cap off, the lever draws air, and nothing comes.
func (p *Plant) leverDown(a Action) bool {
	g := p.Spec.FindOpening(a.What)
	if g < 0 || !p.Spec.Openings[g].Lever || p.V[p.headOf(g)].Handle == HandleBlind {
		return false
	}
	o := &p.Spec.Openings[g]
	s := &p.V[o.Of]
	if s.Temp <= 100 || p.vented(o.Of) {
		return false
	}
	out := math.Min(a.Amount, s.Litres)
	gone := math.Exp(-out / p.Spec.Vessels[o.Of+1].Working)
	p.Gates[g].Acid = s.Acid + (p.Gates[g].Acid-s.Acid)*gone
	p.V[o.Of+1].Acid = p.Gates[g].Acid
	if p.Sours(o.Of) {
		p.Gates[g].Drew = 0
	} else {
		p.Gates[g].Drew += out
	}
	s.Litres -= out
	p.catch(o.Into, out, s.Acid, s.Temp)
	return true
}

// hiss is the pressure, bar, that a quarter turn under a cloth lets off without harm (our
// own engineering choice).
const hiss = 0.3

func (p *Plant) doOpening(a Action) bool {
	if a.Verb != Open && a.Verb != Close {
		return false
	}
	g := p.Spec.FindOpening(a.What)
	if g < 0 {
		return false
	}
	o := &p.Spec.Openings[g]
	if a.Verb == Close {
		p.Gates[g].Open = false
		return true
	}
	s := &p.V[o.Of]
	if o.Kind == Drain || o.Kind == Cap {
		title := o.Title
		if s.Temp > safeToOpen+1e-6 {
			p.broke(OpenedHot, o.ID, "the %s is opened at %.0f °C", title, s.Temp)
		}
		if bar := p.Gauge(o.Of); bar > hiss {
			p.broke(OpenedPressed, o.ID, "the %s is opened at %.1f bar", title, bar)
			if p.V[o.Of].Acid >= Weak && p.gasBar(o.Of) > hiss {
				p.broke(NotVented, o.ID, "the %s is opened before the gas behind it was let out", title)
			}
		}
	}
	p.Gates[g].Open = true
	return true
}

// String is an action in the words of a trace.
func (a Action) String() string {
	if a.Amount > 0 {
		return fmt.Sprintf("%s %s %.3g", a.Verb, a.What, a.Amount)
	}
	return fmt.Sprintf("%s %s", a.Verb, a.What)
}
