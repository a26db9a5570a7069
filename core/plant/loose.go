package plant

import (
	"fmt"
	"slices"

	"freshanvil/core/machine"
)

// Loose is what is fixed of a part that a hand takes off, cleans, soaks or renews.
type Loose struct {
	ID, Title string
	Of        int      // the vessel that it closes or hangs at; -1 for none
	Closed    bool     // it comes off only cold, unplugged and without pressure; power stays off until it is back
	Wet       bool     // mains water stands behind it: the supply is shut first
	Over      []string // parts that lie under it: they come off after it, and go on before it
	In        string   // a part that must be off before it can be reached; empty for none
	Gate      string   // an opening that it belongs to: what is behind it is let out first
	Handle    bool     // a group's handle must be out before it is reached
	NoBath    bool     // wood or aluminium: never into detergent
	InPlace   bool     // what cleans it is brought to where it is
}

// LooseState is what moves of such a part.
type LooseState struct {
	Off, Dirty, Soapy bool
	Bath              bool
	Until             float64 // s, before which it is not lifted out of the bath
	Dipped            bool    // it stands in liquid on the machine
	Since             float64 // s, since when
}

// The verbs of parts.
const (
	TakeOff Verb = "take_off"
	FitOn   Verb = "fit_on"
	Scrub   Verb = "scrub"    // until it is clean
	Renew   Verb = "renew"    // a new one in its place
	Bathe   Verb = "bathe"    // into detergent and hot water, for at least so many seconds
	Lift    Verb = "lift"     // out of it
	WashOff Verb = "wash_off" // what detergent sticks to it
	Dip     Verb = "dip"      // into liquid, where it hangs on the machine
	Undip   Verb = "undip"
	MixBath Verb = "mix_bath" // detergent into hot water
	AtHeat  Verb = "at_heat"  // what follows is done with the machine on and at its heat
)

// longestDip is how long a wand's tip may stand in liquid, s (our own engineering choice): a boiler that
// cools sucks it in.
const longestDip = 5*60 + 20.0

// addLoose adds the parts of a machine that come off.
func (b *builder) addLoose() {
	f, s := b.f, &b.spec
	add := func(l Loose) { s.Loose = append(s.Loose, l) }
	for g := 1; g <= f.Groups; g++ {
		of, head := s.Find(machine.Brew(g).String()), s.Find(machine.Group(g).String())
		name := func(id string) string { return fmt.Sprintf("%s-%d", id, g) }
		add(Loose{ID: name("spreader"), Title: "spreader", Of: head, Closed: true, Handle: true})
		add(Loose{ID: name("shims"), Title: "shims", Of: head, Closed: true, Handle: true})
		add(Loose{ID: name("seal"), Title: "seal", Of: head, Closed: true, Handle: true, Over: []string{name("shims")}})
		add(Loose{ID: name("screen"), Title: "screen", Of: head, Closed: true, Handle: true,
			Over: []string{name("spreader"), name("seal")}})
		add(Loose{ID: name("jet"), Title: "jet", Of: of, Closed: true, Wet: true})
		if f.Valve == machine.Cam {
			add(Loose{ID: name("cam"), Title: "cam", Of: of, Closed: true, Wet: true})
		}
		add(Loose{ID: name("basket"), Title: "basket", Of: -1, Handle: true})
		add(Loose{ID: name("handle"), Title: "metal of the handle", Of: -1, Handle: true})
		add(Loose{ID: name("grip"), Title: "grip of the handle", Of: -1, Handle: true, NoBath: true})
	}
	if steam := s.Find("steam"); steam >= 0 {
		add(Loose{ID: "gauze", Title: "gauze of the hot-water tap", Of: steam, Closed: true})
		if f.Pump != machine.NoPump {
			add(Loose{ID: "probe", Title: "level probe", Of: steam, Closed: true, Wet: true})
		}
	}
	wand := s.Openings[s.FindOpening("steam_tap")].Of
	add(Loose{ID: "tip", Title: "steam tip", Of: wand})
	add(Loose{ID: "joint", Title: "joint of the steam wand", Of: wand, Closed: true})
	for _, o := range s.Openings {
		if o.Kind == Drain {
			add(Loose{ID: "seal-" + o.ID, Title: "seal of the " + o.Title, Of: o.Of, Closed: true, Wet: true, Gate: o.ID})
		}
	}
	if f.Tank > 0 && f.Pump != machine.NoPump {
		add(Loose{ID: "tank-walls", Title: "tank", Of: -1})
		add(Loose{ID: "strainer", Title: "strainer", Of: -1, In: "tank-walls"})
	}
	add(Loose{ID: "tray-pan", Title: "tray", Of: -1})
	add(Loose{ID: "waste-pipe", Title: "waste pipe", Of: -1, In: "tray-pan"})
	add(Loose{ID: "burrs", Title: "burrs of the grinder", Of: -1, InPlace: true})
}

// FindLoose is where a part stands; -1 where there is none of that name.
func (s *Spec) FindLoose(id string) int {
	for i := range s.Loose {
		if s.Loose[i].ID == id {
			return i
		}
	}
	return -1
}

// Soil says that parts are not clean as a plan begins: it must not end with them like that.
func (p *Plant) Soil(ids ...string) {
	for _, id := range ids {
		if i := p.Spec.FindLoose(id); i >= 0 {
			p.L[i].Dirty = true
		}
	}
}

// Unsoil says that what is not clean was not worked on: what was to be done to it is left out.
func (p *Plant) Unsoil() {
	for i := range p.L {
		p.L[i].Dirty = false
	}
}

// doLoose does what a hand does with a part.
func (p *Plant) doLoose(a Action) bool {
	switch a.Verb {
	case MixBath:
		p.Bath = true
		return true
	case AtHeat:
		p.lookIfHot()
		return true
	}
	i := p.Spec.FindLoose(a.What)
	if i < 0 {
		return false
	}
	l, s := &p.Spec.Loose[i], &p.L[i]
	switch a.Verb {
	case TakeOff:
		if s.Off {
			return false
		}
		p.reach(l)
		s.Off = true
	case FitOn:
		if !s.Off {
			return false
		}
		p.fit(l, s)
	case Scrub, Renew:
		if !s.Off {
			p.reach(l)
		}
		s.Dirty = false
		if a.Verb == Renew {
			s.Soapy = false
		}
	case Bathe:
		p.bathe(l, s, a.Amount)
	case Lift:
		if !s.Bath {
			return false
		}
		if p.T < s.Until-handEarly {
			p.broke(WrongOrder, l.ID, "the %s comes out of the bath too early", l.Title)
		}
		s.Bath, s.Soapy = false, true
	case WashOff:
		s.Soapy = false
	case Dip, Undip:
		if a.Verb == Dip && !p.powered() {
			p.broke(InLiquid, l.ID, "the %s stands in liquid while the machine is off", l.Title)
		}
		s.Dipped, s.Since = a.Verb == Dip, p.T
		if a.Verb == Undip {
			s.Dirty = false
		}
	default:
		return false
	}
	return true
}

// handEarly is how much before the bell a quick hand comes, s (our own engineering choice).
const handEarly = 5.0

// nearlyHot is how far below its set point a boiler counts as at its heat, K (our own engineering choice).
const nearlyHot = 10.0

// comesBack is how long somebody waits for a machine to come back to its heat after water was drawn, s (our own
// engineering choice); less than it takes from cold.
const comesBack = 180.0

// lookIfHot judges what needs the machine on and at its heat.
func (p *Plant) lookIfHot() {
	hot := func(p *Plant) bool {
		for i := range p.V {
			if v := &p.Spec.Vessels[i]; v.Watts > 0 && p.V[i].Temp < v.Set-nearlyHot {
				return false
			}
		}
		return true
	}
	if p.powered() {
		p.Until(hot, comesBack)
	}
	for i := range p.V {
		if v := &p.Spec.Vessels[i]; v.Watts > 0 && (!p.powered() || p.V[i].Temp < v.Set-nearlyHot) {
			p.broke(NotHot, v.ID, "the %s is at %.0f °C where it is wanted hot", v.Title, p.V[i].Temp)
		}
	}
}

// reach judges that a part is got at.
func (p *Plant) reach(l *Loose) {
	for j := range p.Spec.Loose { // what lies over it comes off first
		if over := &p.Spec.Loose[j]; slices.Contains(over.Over, l.ID) && !p.L[j].Off {
			p.broke(WrongOrder, l.ID, "the %s is behind the %s", l.Title, over.Title)
		}
	}
	if l.In != "" {
		if j := p.Spec.FindLoose(l.In); j >= 0 && !p.L[j].Off {
			p.broke(WrongOrder, l.ID, "the %s is behind the %s", l.Title, p.Spec.Loose[j].Title)
		}
	}
	if l.Handle && l.Of >= 0 && p.V[l.Of].Handle != HandleOut {
		p.broke(WrongOrder, l.ID, "the %s is behind a handle that is locked in", l.Title)
	}
	if !l.Closed {
		return
	}
	if p.Plug {
		p.broke(PluggedIn, l.ID, "the %s is taken off while the machine is plugged in", l.Title)
	}
	if l.Wet && p.Spec.Mains && p.Supply {
		p.broke(PluggedIn, l.ID, "the %s is taken off while the supply is open", l.Title)
	}
	if p.V[l.Of].Temp > safeToOpen+1e-6 {
		p.broke(OpenedHot, l.ID, "the %s is taken off at %.0f °C", l.Title, p.V[l.Of].Temp)
	}
	if bar := p.Gauge(l.Of); bar > hiss {
		p.broke(OpenedPressed, l.ID, "the %s is taken off at %.1f bar", l.Title, bar)
	}
	if p.lineBehind(l.Of) {
		p.broke(LineOpened, l.ID, "the %s is taken off with the pressure of the mains behind it", l.Title)
	}
	if g := p.Spec.FindOpening(l.Gate); g >= 0 && !p.Gates[g].Open {
		p.broke(WrongOrder, l.ID, "what is behind the %s was not let out", l.Title)
	}
}

// lineBehind says whether the mains' pressure stands in a circuit, or behind the head of its group.
func (p *Plant) lineBehind(i int) bool {
	if p.Spec.Vessels[i].Kind == Head {
		i--
	}
	return p.V[i].Line
}

// fit judges that a part is put back, and puts it back.
func (p *Plant) fit(l *Loose, s *LooseState) {
	if s.Soapy {
		p.broke(StillSoapy, l.ID, "the %s is put back with detergent on it", l.Title)
	}
	for _, under := range l.Over {
		if j := p.Spec.FindLoose(under); j >= 0 && p.L[j].Off {
			p.broke(WrongOrder, l.ID, "the %s goes on before the %s", l.Title, p.Spec.Loose[j].Title)
		}
	}
	if s.Bath {
		p.broke(WrongOrder, l.ID, "the %s is in the bath", l.Title)
	}
	s.Off = false
}

// bathe puts a part into detergent and hot water.
func (p *Plant) bathe(l *Loose, s *LooseState, least float64) {
	if l.NoBath {
		p.broke(SpoiltInBath, l.ID, "the %s goes into detergent", l.Title)
	}
	if !s.Off && !l.InPlace {
		p.broke(WrongOrder, l.ID, "the %s goes into the bath while it is on", l.Title)
	}
	if !p.Bath && !l.InPlace {
		p.broke(WrongOrder, l.ID, "the %s goes into a bath that nobody mixed", l.Title)
	}
	s.Bath, s.Until, s.Dirty = true, p.T+least, false
}

// lookAtLoose judges the parts at the present instant.
func (p *Plant) lookAtLoose() {
	for i := range p.L {
		l, s := &p.Spec.Loose[i], &p.L[i]
		if l.Closed && s.Off && p.powered() {
			p.broke(PowerOpen, l.ID, "power is on while the %s is off", l.Title)
		}
		if l.ID == "tank-walls" && s.Off && p.powered() {
			p.broke(PowerNoSupply, l.ID, "power is on while the tank is out")
		}
		if l.ID == "tip" && s.Off && p.steams(l.Of) {
			p.broke(TipOff, l.ID, "the steam tap is open while the %s is off", l.Title)
		}
		if s.Dipped && (!p.powered() || p.T-s.Since > longestDip) {
			p.broke(InLiquid, l.ID, "the %s is left standing in liquid", l.Title)
		}
	}
}

// steams says whether steam or hot water leaves a vessel by its steam tap.
func (p *Plant) steams(i int) bool {
	for g := range p.Gates {
		if o := &p.Spec.Openings[g]; o.Of == i && o.Kind == SteamTap && p.isOpen(g) {
			return p.powered() || p.V[i].Temp > safeToOpen
		}
	}
	return false
}

// endLoose judges the parts at the end of a plan; a stand-down leaves the handles out, so that seals do not set.
func (p *Plant) endLoose(standDown bool) {
	for i := range p.V {
		v := &p.Spec.Vessels[i]
		if v.Kind == Head && !standDown && p.V[i].Away {
			p.broke(EndPartOff, v.ID, "the handle of %s is not put back", v.Title)
		}
		if v.Kind == Head && p.V[i].Handle == HandleBlind {
			p.broke(EndPartOff, v.ID, "a blind is left in %s", v.Title)
		}
	}
	for i := range p.L {
		l, s := &p.Spec.Loose[i], &p.L[i]
		switch {
		case s.Bath:
			p.broke(EndPartOff, l.ID, "the %s is left in the bath", l.Title)
		case s.Dipped:
			p.broke(InLiquid, l.ID, "the %s is left standing in liquid", l.Title)
		case s.Off:
			p.broke(EndPartOff, l.ID, "the %s is not put back", l.Title)
		case s.Soapy:
			p.broke(StillSoapy, l.ID, "detergent is left on the %s", l.Title)
		case s.Dirty:
			p.broke(EndUnclean, l.ID, "nothing was done to the %s", l.Title)
		}
	}
}
