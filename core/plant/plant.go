package plant

import (
	"math"
	"slices"

	"freshanvil/core/boiler"
	"freshanvil/core/machine"
	"freshanvil/core/units"
	"freshanvil/core/water"
)

// State is what moves of one vessel.
type State struct {
	Litres    float64
	Acid      float64 // share of the fresh strength
	Taken     float64 // scale dissolved in it, g/L
	Scale     float64 // left on its surface, g
	Detergent float64 // mg/L
	Temp      float64 // °C
	Gas       float64 // mol of carbon dioxide that it holds shut in
	Contact   float64 // s that acid has stood, by its weight
	Off       bool    // its heater is switched off for itself
	Seen      bool    // its own sign is looked at as the machine is switched on, since it was plugged in
	Kept      bool    // that sign has said off after the plug, while nothing was drained and no acid was in
	Line      bool    // the mains have pressed on it since brew pressure was let off
	Full      bool    // its probe has asked for no more since it was last low
	Sour      bool    // acid has been in it since it was last proven
	Through   float64 // L of clean water since acid last went in
	Solution  float64 // L of solution that went in or through
	Stood     float64 // s that acid has stood since the circuit was last open
	Old       float64 // share of what was in it when it was last sampled
	Emptied   int     // how often it was let out, or turned over
	HeadState         // of the head of a group

	fired float64 // s that its heater has been on with acid inside, at a stretch
	idle  float64 // of these, with nothing flowing through
	dried bool    // it stood hot with its element uncovered
}

// Gate is what moves of one opening.
type Gate struct {
	Open bool
	Acid float64 // share in what stands in its line
	Drew float64 // L of clean water that left by it since acid last did
	Tray bool    // what leaves by it now goes into the tray, not under it
}

// Plant is a machine at one instant. It is a value: a copy made by Clone goes its own way.
type Plant struct {
	Spec   *Spec
	T      float64 // s since the plan began
	V      []State
	Gates  []Gate
	L      []LooseState // of the parts that come off
	Bath   bool         // a bath of detergent is mixed
	Plug   bool
	On     bool
	Route  int     // the opening that the pump is switched to; -1 where it is to none
	Supply bool    // the mains are open, or the tank is in its seat
	Intake bool    // the pump draws from the bucket, not from the mains
	Filter bool    // what treats the water is in the source
	Pulled bool    // what treats the water was taken out, and is not back
	Warm   float64 // s that a rested pump would have run to be as warm
	Ran    float64 // s that the pump has run in all
	Air    float64 // s that the pump has drawn air
	Dead   bool    // the pump does not turn any more
	Broken []Violation
	Watch  func(p *Plant, event string) // told of each event; nil for nobody
	Marks  []float64                    // instants that Watch is told of beside, s, in order

	more    []int // further groups that are open beside that of the route
	scratch flows
	events  int
	letting float64 // s, when the supply was shut with the machine on: brew pressure is let off
	busy    float64 // until when hands are taken
}

// never is an instant that has not been.
const never = -1e9

// lines is what stands in the line to an opening, L (our own engineering choice).
const lines = 0.02

// InUse is a machine as it is used every day: plugged in, on, hot, full, its tank full.
func InUse(s *Spec) *Plant {
	p := blank(s)
	p.Plug, p.On = true, true
	for i := range p.V {
		v := &s.Vessels[i]
		if v.Set > 0 {
			p.V[i].Temp = v.Set
		}
		if v.Kind == Head {
			p.V[i].Handle = HandleBasket
		}
		p.V[i].Line = s.Mains && (v.Kind == Brew || v.Kind == Tube)
		if shared := v.Kind == Brew && len(s.steams()) == 0; shared && v.Set < 100 && v.Covered > 0 {
			p.V[i].Temp = afterSteaming
		}
	}
	for i := range p.V {
		if b := s.Vessels[i].Body; b >= 0 {
			p.V[i].Temp = p.bodyTemp(b)
		}
	}
	return p
}

// afterSteaming is how hot a single boiler is after steaming, °C (our own engineering
// choice).
const afterSteaming = 130.0

// Cold is a machine that was left off: unplugged, as cold as the room, full. On the mains its brew side stands at
// their pressure.
func Cold(s *Spec) *Plant {
	p := blank(s)
	for i := range p.V {
		kind := s.Vessels[i].Kind
		p.V[i].Line = s.Mains && (kind == Brew || kind == Tube)
	}
	return p
}

// LaidUp is a machine that was closed for weeks: unplugged and cold, its boilers full, its supply shut or its tank
// empty, its handles out.
func LaidUp(s *Spec) *Plant {
	p := blank(s)
	p.Supply = !s.Mains
	p.V[SourceAt].Litres = 0
	for i := range p.V {
		if s.Vessels[i].Kind == Head {
			p.V[i].Handle = HandleOut
		}
	}
	return p
}

// WithAcid is a machine that acid was left in: off and unplugged, an outlet open, its
// circuits full of solution of the full strength.
func WithAcid(s *Spec, parts ...string) *Plant {
	p := blank(s)
	for i := range p.V {
		if v := &s.Vessels[i]; v.wets() && (len(parts) == 0 || slices.Contains(parts, v.ID)) {
			p.V[i].Acid, p.V[i].Sour, p.V[i].Taken = 1, true, s.Solution.Takes
			p.V[i].Litres = math.Min(p.V[i].Litres, Stops*v.Working)
			if !v.Probe {
				p.V[i].Litres = v.Working
			}
		}
	}
	for i := range p.Gates {
		o := &s.Openings[i]
		byPump := o.Kind == SteamTap && s.HasPump && s.Vessels[o.Of].Kind != Steam
		if p.V[o.Of].Acid > 0 && (o.Kind == Group || o.Kind == Cap || byPump) {
			p.Gates[i].Acid = 1
		}
		if o.Kind == Cap || o.Kind == SteamTap && s.FindOpening("cap") < 0 {
			p.Gates[i].Open = true
		}
	}
	return p
}

func blank(s *Spec) *Plant {
	p := &Plant{Spec: s, V: make([]State, len(s.Vessels)), Gates: make([]Gate, len(s.Openings)), Route: -1,
		L:      make([]LooseState, len(s.Loose)),
		Supply: true, letting: never}
	for i, v := range s.Vessels {
		p.V[i].Temp, p.V[i].Scale = s.Room, v.Scale
		if v.Kind != Catch {
			p.V[i].Litres = v.Working
		}
		if v.Kind == Source {
			p.V[i].Temp = s.Feed
			if s.Mains || !s.HasPump {
				p.V[i].Litres = 0
			}
		}
		p.V[i].Full = v.Probe
	}
	return p
}

// Clone is a copy that moves by itself. Nobody watches it.
func (p *Plant) Clone() *Plant {
	q := *p
	q.V, q.Gates, q.L = slices.Clone(p.V), slices.Clone(p.Gates), slices.Clone(p.L)
	q.Broken = slices.Clone(p.Broken)
	q.Watch, q.Marks = nil, nil
	return &q
}

// wets says whether solution or water of the plan works in it: a circuit.
func (v *Vessel) wets() bool { return v.Kind == Brew || v.Kind == Tube || v.Kind == Steam }

// IsCircuit says whether it is one of the machine's circuits.
func (v *Vessel) IsCircuit() bool { return v.wets() }

func (s *Spec) steams() []int {
	var list []int
	for i := range s.Vessels {
		if s.Vessels[i].Kind == Steam {
			list = append(list, i)
		}
	}
	return list
}

// bodyTemp is the temperature of the vessels of a body: that of the one with a heater.
func (p *Plant) bodyTemp(body int) float64 {
	for i := range p.V {
		if v := &p.Spec.Vessels[i]; v.Body == body && v.Watts > 0 {
			return p.V[i].Temp
		}
	}
	return p.Spec.Room
}

// At is the state of a vessel by its name; nil where there is none.
func (p *Plant) At(id string) *State {
	if i := p.Spec.Find(id); i >= 0 {
		return &p.V[i]
	}
	return nil
}

// Gauge is the pressure in a vessel above the air's, bar: of its steam where it is closed
// and above 100 °C, of the gas it holds shut in, whichever is more.
func (p *Plant) Gauge(i int) float64 {
	steam := 0.0
	if p.V[i].Temp > 100 && p.Spec.Vessels[i].wets() {
		if bar, err := boiler.Saturated(units.Temperature(p.V[i].Temp)); err == nil {
			steam = math.Max(0, float64(bar))
		}
	}
	return math.Max(steam, p.gasBar(i))
}

// gasConstant in L atm/(mol K).
const gasConstant = 0.082057

// holdsGas is how much carbon dioxide a vessel holds under one atmosphere of it, mol: in
// its water by Henry's law, in the space above it as a gas.
func (p *Plant) holdsGas(i int) float64 {
	v, s := &p.Spec.Vessels[i], &p.V[i]
	above := math.Max(0, v.Capacity-s.Litres)
	return water.Henry(units.Temperature(s.Temp))*s.Litres + above/(gasConstant*(s.Temp+units.KelvinZero))
}

func (p *Plant) gasBar(i int) float64 {
	if p.V[i].Gas <= 0 || p.vented(i) {
		return 0
	}
	return math.Max(0, p.V[i].Gas/p.holdsGas(i)-1) * units.Atmosphere
}

// vented says whether gas can leave a vessel now.
func (p *Plant) vented(i int) bool {
	for g := range p.Spec.Openings {
		o := &p.Spec.Openings[g]
		if o.Of == i && o.Kind != Spout && o.Kind != HotTap && p.isOpen(g) {
			return true
		}
	}
	return false
}

// shutIn says whether every outlet of a vessel is shut.
func (p *Plant) shutIn(i int) bool {
	for g := range p.Spec.Openings {
		if o := &p.Spec.Openings[g]; o.Of == i && o.Kind != Spout && p.isOpen(g) {
			return false
		}
	}
	return true
}

// isOpen says whether an opening lets something through: by hand, or its group's valve
// while the pump runs.
func (p *Plant) isOpen(g int) bool { return p.Gates[g].Open || p.Route == g && p.powered() }

func (p *Plant) powered() bool { return p.Plug && p.On }

// heats says whether the heater of a vessel may be on: power, and its own fact.
func (p *Plant) heats(i int) bool {
	v := &p.Spec.Vessels[i]
	if v.Watts == 0 || !p.powered() || p.V[i].Off {
		return false
	}
	if v.Heater == machine.HeldOff && v.Kind == Steam {
		return p.V[i].Litres >= probeWet*v.Working
	}
	return true
}

// probeWet is the share of the working fill at which a probe is wet (our own engineering
// choice).
const probeWet = 0.98

// PumpRuns says whether the pump turns at this instant.
func (p *Plant) PumpRuns() bool {
	var f flows
	p.flow(&f)
	return f.motor
}

// HeaterOn says whether a heater is on at this instant.
func (p *Plant) HeaterOn(i int) bool {
	return p.heats(i) && p.V[i].Temp <= p.Spec.Vessels[i].Set+1e-6
}

// Sours says whether a vessel holds more acid than may stay.
func (p *Plant) Sours(i int) bool { return p.V[i].Acid > p.Spec.Solution.Limit*(1+1e-9) }

// Sour says whether any circuit holds more acid than may stay.
func (p *Plant) Sour() bool {
	return slices.ContainsFunc(p.Spec.circuits(), p.Sours)
}

// circuits are where the circuits stand among the vessels.
func (s *Spec) circuits() (list []int) {
	for i := range s.Vessels {
		if s.Vessels[i].wets() {
			list = append(list, i)
		}
	}
	return list
}

// Weak is the share of the fresh strength below which acid no longer counts as standing
// in a circuit (our own engineering choice).
const Weak = 0.01

// Holds says whether any circuit holds acid of at least a share of the fresh strength.
func (p *Plant) Holds(share float64) bool {
	for i := range p.V {
		if p.Spec.Vessels[i].wets() && p.V[i].Acid >= share && p.V[i].Litres > 0 {
			return true
		}
	}
	return false
}

// Contact is the longest contact of all circuits, s.
func (p *Plant) Contact() float64 {
	most := 0.0
	for i := range p.V {
		most = math.Max(most, p.V[i].Contact)
	}
	return most
}

// Stops is the share of the working fill at which every filling of a boiler that holds 1 %
// of acid or more stops: foam on a probe would stop it early, and at the probe its element
// goes on (our own engineering choice).
const Stops = 0.85
