package plant

import (
	"fmt"
	"math"
	"slices"
)

// Never is something that must never happen, at any instant.
type Never string

// What must never happen.
const (
	DryElement    Never = "dry_element"
	HotFill       Never = "water_into_hot_dry_boiler"
	AcidHeated    Never = "acid_heated"
	AcidShutIn    Never = "acid_shut_in"
	NotVented     Never = "not_vented"
	OpenedHot     Never = "opened_hot"
	OpenedPressed Never = "opened_under_pressure"
	DrawsAir      Never = "pump_draws_air"
	OverDuty      Never = "pump_over_duty"
	ShutIn        Never = "pump_shut_in"
	OverBrim      Never = "over_the_brim"
	ContactOver   Never = "contact_over"
	AcidAndSoap   Never = "acid_beside_detergent"
	PowerOpen     Never = "power_on_while_open"
	PowerNoSupply Never = "power_on_without_supply"
	PressureOpen  Never = "to_pressure_with_tap_open"
	PressureEmpty Never = "to_pressure_not_full"
	TwoHands      Never = "two_things_for_two_hands"
	EndUnproven   Never = "ends_unproven"
	EndNotFull    Never = "ends_not_full"
	EndSupplyShut Never = "ends_supply_shut"
	FilterInAcid  Never = "filter_in_acid"
	AcidIntoMains Never = "acid_into_mains"
	CannotBeDone  Never = "cannot_be_done"
	PluggedIn     Never = "opened_plugged_in"
	WrongOrder    Never = "wrong_order"
	StillSoapy    Never = "detergent_left_on_a_part"
	SpoiltInBath  Never = "spoilt_in_the_bath"
	InLiquid      Never = "left_standing_in_liquid"
	EndPartOff    Never = "ends_with_a_part_off"
	EndUnclean    Never = "ends_unclean"
	NotHot        Never = "not_hot"
	TipOff        Never = "steam_tap_opened_with_the_tip_off"
	NoBlind       Never = "pulse_into_an_open_basket"
	BlindIn       Never = "water_run_into_a_blind"
	CartridgeOut  Never = "supply_open_with_the_cartridge_out"
	HeaterNotSeen Never = "heater_off_by_nobody's_eye"
	LineOpened    Never = "opened_at_the_pressure_of_the_mains"
	EndFilterOut  Never = "ends_with_the_filter_out"
	EndTankDry    Never = "ends_with_a_tank_that_is_asked_for_more"
)

// Nevers lists them.
func Nevers() []Never {
	return []Never{DryElement, HotFill, AcidHeated, AcidShutIn, NotVented, OpenedHot, OpenedPressed, DrawsAir, OverDuty,
		ShutIn, OverBrim, ContactOver, AcidAndSoap, PowerOpen, PowerNoSupply, PressureOpen, PressureEmpty, TwoHands,
		EndUnproven, EndNotFull, EndSupplyShut, FilterInAcid, AcidIntoMains, CannotBeDone, PluggedIn, WrongOrder,
		StillSoapy, SpoiltInBath, InLiquid, EndPartOff, EndUnclean, NotHot, TipOff, NoBlind, BlindIn, CartridgeOut,
		HeaterNotSeen, LineOpened, EndFilterOut, EndTankDry}
}

// Busy says that two hands are taken from one instant to another, s; while they are, nobody
// can do a second thing.
func (p *Plant) Busy(from, to float64) {
	if from < p.busy-1e-6 {
		p.broke(TwoHands, "hands", "something else is done with the same two hands")
	}
	p.busy = math.Max(p.busy, to)
}

// Violation is one of them, when and where.
type Violation struct {
	Never Never
	T     float64 // s
	Part  string
	Why   string
}

// Error is it in a sentence.
func (v Violation) Error() string { return fmt.Sprintf("at %.0f s, %s: %s", v.T, v.Part, v.Why) }

// broke notes what must never happen, once a part.
func (p *Plant) broke(n Never, part, why string, args ...any) {
	for _, v := range p.Broken {
		if v.Never == n && v.Part == part {
			return
		}
	}
	p.Broken = append(p.Broken, Violation{n, p.T, part, fmt.Sprintf(why, args...)})
}

// What a push may warm acid by at most: its heater on so long at a stretch, s, and so long
// of that with nothing flowing (our own engineering choices: a minute, and a slow hand at
// the switch).
const (
	longFired = 90.0
	longIdle  = 30.0
)

// detergentLimit is the detergent that may stay, mg/L (our own engineering choice).
const detergentLimit = 10.0

// look judges the present instant.
func (p *Plant) look(f *flows) {
	weak := p.Holds(Weak)
	for i := range p.V {
		if v := &p.Spec.Vessels[i]; v.wets() {
			p.lookAtCircuit(i, f, weak)
		} else if p.V[i].Litres > v.Capacity+1e-6 {
			p.broke(OverBrim, v.ID, "%.2f L in the %s, which holds %.2f", p.V[i].Litres, v.Title, v.Capacity)
		}
	}
	if p.Filter && p.V[SourceAt].Acid > p.Spec.Solution.Limit {
		p.broke(FilterInAcid, "filter", "what treats the water stands in acid")
	}
	if p.Air > longAir {
		p.broke(DrawsAir, "pump", "the pump has drawn air for more than %.0f s", longAir)
	}
	if p.Spec.Duty.On > 0 && p.Warm > p.Spec.Duty.On.Seconds()+0.5 {
		p.broke(OverDuty, "pump", "the pump has run for longer than it may")
	}
	p.lookAtLoose()
	p.lookAtHeaters()
	if f.shut {
		p.broke(ShutIn, "pump", "the pump runs with every way out shut")
	}
	if p.powered() {
		for g := range p.Gates {
			if o := &p.Spec.Openings[g]; p.Gates[g].Open && (o.Kind == Drain || o.Kind == Cap) {
				p.broke(PowerOpen, o.ID, "power is on while the %s is open", o.Title)
			}
		}
		if !p.Supply && !p.Intake && !p.letsOff() {
			p.broke(PowerNoSupply, "supply", "power is on while the supply is shut")
		}
	}
}

// longestLetting is how long a machine may stay on with its supply shut, s, so that brew pressure is let off (our own
// engineering choice: two minutes' work by the slowest hands, for each group in turn).
const longestLetting = 20 * 60.0

// letsOff says whether the machine is on with its supply shut so that brew pressure is let off: nothing fills
// meanwhile.
func (p *Plant) letsOff() bool {
	for i := range p.V {
		if p.Spec.Vessels[i].Probe && !p.V[i].Full {
			return false
		}
	}
	return p.T <= p.letting+longestLetting
}

// lookAtHeaters judges heaters that are off by a setting, where it would harm if one were not: acid is in, or an
// element is not covered. Its own sign is looked at whenever the machine is switched on after its plug was out, and
// has said off once before anything was drained.
func (p *Plant) lookAtHeaters() {
	if !p.powered() {
		return
	}
	acid := p.Holds(Weak)
	for i := range p.V {
		v, s := &p.Spec.Vessels[i], &p.V[i]
		if !s.Off || s.Seen && s.Kept || !acid && s.Litres >= v.Covered-1e-6 {
			continue
		}
		p.broke(HeaterNotSeen, v.ID, "nobody has seen that the heater of the %s is still off", v.Title)
	}
}

// longAir is how long a pump may draw air, s.
const longAir = 10.0

func (p *Plant) lookAtCircuit(i int, f *flows, weak bool) {
	v, s := &p.Spec.Vessels[i], &p.V[i]
	if s.Litres > v.Capacity+1e-6 {
		p.broke(OverBrim, v.ID, "%.2f L in the %s, which holds %.2f", s.Litres, v.Title, v.Capacity)
	}
	if p.HeaterOn(i) && v.Covered > 0 && s.Litres < v.Covered-1e-6 {
		p.broke(DryElement, v.ID, "the element of the %s is on and not covered", v.Title)
		s.dried = true
	}
	if s.dried && f.in[i] > 0 && s.Temp > safeToOpen {
		p.broke(HotFill, v.ID, "water runs into the %s, which ran dry and is hot", v.Title)
	}
	if v.Kind == Steam && p.Sours(i) && s.Litres > 0.01*v.Capacity && p.shutIn(i) {
		p.broke(AcidShutIn, v.ID, "acid stands in the %s with every outlet shut", v.Title)
	}
	p.lookAtHeat(i, weak)
	if most := p.Spec.Solution.Contact; most > 0 && s.Contact > most+1 {
		p.broke(ContactOver, v.ID, "acid has stood in the %s for longer than %.0f minutes", v.Title, most/60)
	}
	if v.Kind != Steam && p.Sours(i) && p.V[i+1].Detergent > detergentLimit {
		p.broke(AcidAndSoap, v.ID, "acid in the %s meets detergent in its group", v.Title)
	}
}

// lookAtHeat judges what is heated while acid stands anywhere in the machine.
func (p *Plant) lookAtHeat(i int, weak bool) {
	v, s := &p.Spec.Vessels[i], &p.V[i]
	if s.fired == 0 || !weak {
		return
	}
	pushed := v.Kind == Brew && s.fired <= longFired && s.idle <= longIdle
	soaked := v.Kind == Brew && p.vented(i) && len(p.Spec.steams()) == 0
	if !pushed && !soaked {
		p.broke(AcidHeated, v.ID, "the %s is heated with acid in the machine", v.Title)
	}
}

// safeToOpen is the temperature, °C, above which nothing is opened by hand (our own
// engineering choice).
const safeToOpen = 45.0

// fullEnough is the share of the working fill that a boiler holds at least before it is
// heated to pressure.
const fullEnough = 0.9

// lookAtPressure judges a boiler that comes to 100 °C and goes on.
func (p *Plant) lookAtPressure(i int, f *flows) {
	v, s := &p.Spec.Vessels[i], &p.V[i]
	if f.motor || v.Set <= 100 {
		return
	}
	if p.vented(i) {
		p.broke(PressureOpen, v.ID, "the %s comes to pressure with a tap open", v.Title)
	}
	if s.Litres < fullEnough*v.Working {
		p.broke(PressureEmpty, v.ID, "the %s comes to pressure with %.2f L in it", v.Title, s.Litres)
	}
}

// fillsAtEnd is how long a boiler that asks for water at the end of a plan is given, s.
const fillsAtEnd = 100.0

// lowTank is what a source holds at least at the end, L, where the pump fills by itself (our own engineering choice: a
// cup).
const lowTank = 0.1

// leastAtEnd is what a boiler holds at least at the end: nearly all of its working fill. One without a pump is used up
// from its mark, and filled again cold: there the element stays covered.
func (p *Plant) leastAtEnd(v *Vessel) float64 {
	if !p.Spec.HasPump {
		return v.Covered
	}
	return fullEnough * v.Working
}

// End judges the end of a plan; a stand-down may leave a boiler empty and the supply shut.
func (p *Plant) End(standDown bool) {
	p.fillUp()
	for i := range p.V {
		v, s := &p.Spec.Vessels[i], &p.V[i]
		if v.Kind == Head {
			p.lookAtHead(i)
		}
		if !v.wets() {
			continue
		}
		if s.Sour || p.Sours(i) {
			p.broke(EndUnproven, v.ID, "nobody has proven the %s", v.Title)
		}
		if !standDown && s.Litres < p.leastAtEnd(v)-1e-9 {
			p.broke(EndNotFull, v.ID, "the %s ends with %.2f L in it", v.Title, s.Litres)
		}
	}
	p.endGates()
	p.endLoose(standDown)
	if !standDown && (!p.Supply || p.Intake) {
		p.broke(EndSupplyShut, "supply", "the supply is shut at the end")
	}
	p.endWater(standDown)
}

// fillUp lets boilers fill that ask for water at the end of a plan.
func (p *Plant) fillUp() {
	full := func(p *Plant) bool {
		for i := range p.V {
			if p.Spec.Vessels[i].Probe && !p.V[i].Full {
				return false
			}
		}
		return true
	}
	if p.powered() {
		p.Until(full, fillsAtEnd)
	}
}

// endGates judges what stands in the lines at the end.
func (p *Plant) endGates() {
	for g := range p.Gates {
		if o := &p.Spec.Openings[g]; p.Gates[g].Acid > p.Spec.Solution.Limit*(1+1e-9) && o.Kind != Spout &&
			o.Kind != Drain && o.Kind != Cap {
			p.broke(EndUnproven, o.ID, "acid stands in the line of the %s", o.Title)
		}
	}
}

// endWater judges what treats the water, and what is left of it.
func (p *Plant) endWater(standDown bool) {
	if p.Filter && p.V[SourceAt].Acid > p.Spec.Solution.Limit {
		p.broke(FilterInAcid, "filter", "what treats the water stands in acid")
	}
	if p.Pulled {
		p.broke(EndFilterOut, "filter", "what treats the water is not back")
	}
	if !standDown && p.powered() && p.fillsItself() && !p.Spec.Mains && p.V[SourceAt].Litres < lowTank {
		p.broke(EndTankDry, "tank", "%.0f mL are left in the tank, and the boiler asks for more as it is used",
			1000*p.V[SourceAt].Litres)
	}
}

// fillsItself says whether a boiler is filled by the pump without anybody.
func (p *Plant) fillsItself() bool {
	return slices.ContainsFunc(p.Spec.Vessels, func(v Vessel) bool { return v.Probe })
}
