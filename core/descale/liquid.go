package descale

import (
	"fmt"
	"math"
	"slices"

	"freshanvil/core/units"
)

// VesselKind is what a vessel is for.
type VesselKind string

// The kinds: liquid is drawn from a source, goes through a circuit, and runs into
// a catch.
const (
	Source    VesselKind = "source"
	InCircuit VesselKind = "circuit"
	Catch     VesselKind = "catch"
)

// Vessel is something that holds liquid, in litres. Acid is the strength of what is
// in it, as a share of the fresh solution's.
type Vessel struct {
	ID     string     `json:"id"`
	Title  string     `json:"title"`
	Kind   VesselKind `json:"kind"`
	Holds  float64    `json:"holds"`
	Litres float64    `json:"litres"`
	Acid   float64    `json:"acid"`
	// Keeps is what must stay in a source, so that no pump draws air; Heel what stays
	// in a circuit that is drained.
	Keeps float64 `json:"keeps,omitempty"`
	Heel  float64 `json:"heel,omitempty"`
}

// MoveKind is what happens to a liquid.
type MoveKind string

// The moves. Pours puts a measured amount into a source, Tops fills it up with
// water, Fills draws from it until a circuit is full, Pushes draws through a full
// circuit into a catch, Drains lets a circuit out into one, Empties takes away what
// is in a source or a catch. Heats and Cools switch the heater, Vents and Shuts the
// outlet by which gas leaves.
const (
	Pours   MoveKind = "pours"
	Tops    MoveKind = "tops"
	Fills   MoveKind = "fills"
	Pushes  MoveKind = "pushes"
	Drains  MoveKind = "drains"
	Empties MoveKind = "empties"
	Heats   MoveKind = "heats"
	Cools   MoveKind = "cools"
	Vents   MoveKind = "vents"
	Shuts   MoveKind = "shuts"
)

// Move is one of them: From, Through and To are vessels.
type Move struct {
	Kind    MoveKind `json:"kind"`
	From    string   `json:"from,omitempty"`
	Through string   `json:"through,omitempty"`
	To      string   `json:"to,omitempty"`
	Litres  float64  `json:"litres,omitempty"`
	Acid    bool     `json:"acid,omitempty"` // with Pours: solution, not water
}

// Pipes is where the liquid of a machine is.
type Pipes struct {
	Vessels []Vessel `json:"vessels"`
	Hot     bool     `json:"hot"`    // the heater is on
	Vented  bool     `json:"vented"` // an outlet is open, so that gas leaves
}

// Brim is the share of a catch that is filled before it is emptied (our own
// engineering choice).
const Brim = 0.8

// hair is what rounding may be off by, in litres.
const hair = 1e-6

// Room is what a catch still takes.
func (v Vessel) Room() float64 { return math.Max(0, Brim*v.Holds-v.Litres) }

// Gives is what a source still gives.
func (v Vessel) Gives() float64 { return math.Max(0, v.Litres-v.Keeps) }

// Full says whether a circuit is full.
func (v Vessel) Full() bool { return v.Litres >= v.Holds-hair }

// Sour says whether more acid is in it than may stay, rounding apart.
func (v Vessel) Sour() bool { return v.Acid > Clean*1.001 }

// Weak is the share of the fresh strength below which acid no longer counts as
// standing in a circuit (our own engineering choice).
const Weak = 0.01

// Holds says whether any circuit holds acid of at least that share of the fresh
// strength.
func (p Pipes) Holds(share float64) bool {
	return slices.ContainsFunc(p.Vessels, func(v Vessel) bool { return v.Kind == InCircuit && v.Acid >= share })
}

// At finds a vessel; nil where there is none.
func (p *Pipes) At(id string) *Vessel {
	for i := range p.Vessels {
		if p.Vessels[i].ID == id {
			return &p.Vessels[i]
		}
	}
	return nil
}

// Clone is a copy that moves by itself.
func (p Pipes) Clone() Pipes {
	p.Vessels = slices.Clone(p.Vessels)
	return p
}

func (v *Vessel) pourIn(litres, acid float64) {
	if all := v.Litres + litres; all > 0 {
		v.Acid = (v.Acid*v.Litres + acid*litres) / all
		v.Litres = all
	}
}

// Do carries a move out, or refuses it and changes nothing: a vessel that would run
// over, a pump that would draw air, a boiler emptied while it is heated or heated
// while it is not full, acid that is heated with every outlet shut. The error is a
// *units.OutOfRange that names the vessel.
func (p *Pipes) Do(m Move) error {
	old := p.Clone()
	if err := p.do(m); err != nil {
		*p = old
		return err
	}
	for _, v := range p.Vessels {
		switch most := v.Holds; {
		case v.Kind == Catch && v.Litres > Brim*most+hair, v.Litres > most+hair:
			*p = old
			return &units.OutOfRange{
				Field:   v.ID,
				Value:   fmt.Sprintf("%.2f L", v.Litres),
				Allowed: fmt.Sprintf("at most %.2f L: it would run over", most),
			}
		case v.Kind == InCircuit && p.Hot && !v.Full():
			*p = old
			return &units.OutOfRange{
				Field:   v.ID,
				Value:   fmt.Sprintf("%.2f L, heated", v.Litres),
				Allowed: "full before the heater is on: never heat an empty boiler",
			}
		case v.Kind == InCircuit && p.Hot && !p.Vented && v.Sour():
			*p = old
			return &units.OutOfRange{
				Field:   v.ID,
				Value:   "acid, heated, every outlet shut",
				Allowed: "an outlet open: gas must leave",
			}
		}
	}
	return nil
}

// do carries a move out as far as it can be; what it cannot leaves the vessels as the
// caller must put them back.
func (p *Pipes) do(m Move) error {
	if m.Litres < 0 || math.IsNaN(m.Litres) {
		return &units.OutOfRange{Field: "litres", Value: fmt.Sprint(m.Litres), Allowed: "0 or more"}
	}
	switch m.Kind {
	case Pours, Tops:
		return p.pour(m)
	case Fills:
		return p.fill(m)
	case Pushes:
		return p.push(m)
	case Drains:
		return p.drain(m)
	case Empties:
		from, err := p.vessel(m, m.From, Source, Catch)
		if err != nil {
			return err
		}
		from.Litres, from.Acid = 0, 0
	case Heats, Cools:
		p.Hot = m.Kind == Heats
	case Vents, Shuts:
		p.Vented = m.Kind == Vents
	default:
		return &units.OutOfRange{Field: "move", Value: string(m.Kind), Allowed: "one that is known"}
	}
	return nil
}

// vessel is the one that a move names, if it is of one of the kinds.
func (p *Pipes) vessel(m Move, id string, kinds ...VesselKind) (*Vessel, error) {
	v := p.At(id)
	if v == nil || !slices.Contains(kinds, v.Kind) {
		return nil, &units.OutOfRange{
			Field:   "move",
			Value:   fmt.Sprintf("%s %q", m.Kind, id),
			Allowed: fmt.Sprintf("a vessel that is a %v", kinds),
		}
	}
	return v, nil
}

// source is what a move draws from, if it gives so much.
func (p *Pipes) source(m Move) (*Vessel, error) {
	from, err := p.vessel(m, m.From, Source)
	if err == nil && m.Litres > from.Gives()+hair {
		err = &units.OutOfRange{
			Field:   from.ID,
			Value:   fmt.Sprintf("%.2f L drawn of %.2f", m.Litres, from.Litres),
			Allowed: fmt.Sprintf("at most %.2f L: the pump would draw air", from.Gives()),
		}
	}
	return from, err
}

// pour puts solution or water into a source, or tops it up with water.
func (p *Pipes) pour(m Move) error {
	to, err := p.vessel(m, m.To, Source)
	if err != nil {
		return err
	}
	acid := 0.0
	if m.Acid {
		acid = 1
	}
	if m.Kind == Tops {
		m.Litres, acid = math.Max(0, to.Holds-to.Litres), 0
	}
	to.pourIn(m.Litres, acid)
	return nil
}

// fill lets a source run into a circuit.
func (p *Pipes) fill(m Move) error {
	from, err := p.source(m)
	if err != nil {
		return err
	}
	to, err := p.vessel(m, m.To, InCircuit)
	if err != nil {
		return err
	}
	to.pourIn(m.Litres, from.Acid)
	from.Litres -= m.Litres
	return nil
}

// push drives a source through a full circuit, well mixed, into what catches it.
func (p *Pipes) push(m Move) error {
	from, err := p.source(m)
	if err != nil {
		return err
	}
	through, err := p.vessel(m, m.Through, InCircuit)
	if err != nil {
		return err
	}
	to, err := p.vessel(m, m.To, Catch)
	if err != nil {
		return err
	}
	if !through.Full() {
		return &units.OutOfRange{
			Field:   through.ID,
			Value:   fmt.Sprintf("%.2f L", through.Litres),
			Allowed: "full before anything is pushed through it",
		}
	}
	was := through.Acid
	through.Acid = from.Acid + (was-from.Acid)*math.Exp(-m.Litres/through.Holds)
	if m.Litres > 0 {
		to.pourIn(m.Litres, from.Acid+(was-through.Acid)*through.Holds/m.Litres)
	}
	from.Litres -= m.Litres
	return nil
}

// drain lets a circuit out into what catches it, cold, down to its heel.
func (p *Pipes) drain(m Move) error {
	from, err := p.vessel(m, m.From, InCircuit)
	if err != nil {
		return err
	}
	to, err := p.vessel(m, m.To, Catch)
	if err != nil {
		return err
	}
	if p.Hot {
		return &units.OutOfRange{Field: from.ID, Value: "emptied while it is heated", Allowed: "the heater off first"}
	}
	if from.Litres-m.Litres < from.Heel*from.Holds-hair {
		return &units.OutOfRange{
			Field:   from.ID,
			Value:   fmt.Sprintf("%.2f L let out of %.2f", m.Litres, from.Litres),
			Allowed: fmt.Sprintf("all but %.2f L, which stays", from.Heel*from.Holds),
		}
	}
	to.pourIn(m.Litres, from.Acid)
	from.Litres -= m.Litres
	return nil
}
