package plant

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"freshanvil/core/machine"
)

// each is what a hand does to break one thing that must never be.
var each = []struct {
	never  Never
	layout machine.Layout
	set    []string
	by     func(p *Plant)
}{
	{DryElement, machine.DualHome, []string{"brew_heater", "can_be_off"}, func(p *Plant) {
		do(p, Action{Verb: Open, What: "steam-drain"})
		p.Wait(60)
		do(p, Action{Verb: Close, What: "steam-drain"}, Action{Verb: PlugIn}, Action{Verb: SwitchOn})
	}},
	{HotFill, machine.LeverManual, nil, func(p *Plant) {
		p.At("brew-1").Litres = 0.05
		do(p, Action{Verb: PlugIn}, Action{Verb: SwitchOn})
		p.Wait(120)
		do(p, Action{Verb: Unplug}, Action{Verb: Open, What: "cap"}, Action{PourClean, "jug", 0.5},
			Action{PourIn, "brew-1", 0.5})
	}},
	{AcidHeated, machine.SingleBoiler, nil, func(p *Plant) {
		p.At("brew-1").Acid = 1
		do(p, Action{Verb: PlugIn}, Action{Verb: SwitchOn})
		p.Wait(40)
	}},
	{AcidShutIn, machine.DualHome, nil, func(p *Plant) { p.At("steam").Acid = 0.5; p.Wait(1) }},
	{NotVented, machine.DualHome, nil, func(p *Plant) {
		p.At("brew-1").Acid = 1
		p.Wait(20 * 60)
		p.Do(Action{Verb: Open, What: "brew-1-drain"})
	}},
	{OpenedHot, machine.DualHome, nil, func(p *Plant) {
		p.At("brew-1").Temp = 46
		p.Do(Action{Verb: Open, What: "brew-1-drain"})
	}},
	{OpenedPressed, machine.DualHome, nil, func(p *Plant) {
		p.At("steam").Temp = 120
		p.Do(Action{Verb: Open, What: "steam-drain"})
	}},
	{DrawsAir, machine.SingleBoiler, nil, func(p *Plant) {
		do(p, Action{Verb: Empty, What: "tank"}, Action{Verb: PlugIn}, Action{Verb: SwitchOn},
			Action{Verb: PumpTo, What: "group-1"})
		p.Wait(11)
	}},
	{OverDuty, machine.SingleBoiler, []string{"jug_l", "5"}, func(p *Plant) {
		do(p, Action{Verb: PlugIn}, Action{Verb: SwitchOn}, Action{Verb: PumpTo, What: "group-1"})
		p.Wait(122)
	}},
	{ShutIn, machine.SingleBoiler, nil, func(p *Plant) {
		do(p, Action{Verb: PlugIn}, Action{Verb: SwitchOn}, Action{Verb: PumpTo, What: "steam_tap"})
		p.Wait(1)
	}},
	{OverBrim, machine.SingleBoiler, []string{"jug_l", "0.3"}, func(p *Plant) {
		do(p, Action{Verb: PlugIn}, Action{Verb: SwitchOn}, Action{Verb: PumpTo, What: "group-1"})
		p.Wait(60)
	}},
	{ContactOver, machine.SingleBoiler, nil, func(p *Plant) { p.At("brew-1").Acid = 1; p.Wait(91 * 60) }},
	{AcidAndSoap, machine.SingleBoiler, nil, func(p *Plant) {
		p.At("brew-1").Acid, p.At("group-1").Detergent = 0.5, 500
		p.Wait(1)
	}},
	{PowerOpen, machine.DualHome, nil, func(p *Plant) {
		do(p, Action{Verb: Open, What: "brew-1-drain"}, Action{Verb: PlugIn}, Action{Verb: SwitchOn})
	}},
	{PowerNoSupply, machine.HXCafe, nil, func(p *Plant) {
		do(p, Action{Verb: ShutSupply}, Action{Verb: PlugIn}, Action{Verb: SwitchOn})
	}},
	{PressureOpen, machine.HXHome, []string{"steam_heater", "held_off"}, func(p *Plant) {
		do(p, Action{Verb: Open, What: "steam_tap"}, Action{Verb: PlugIn}, Action{Verb: SwitchOn})
		p.Wait(1800)
	}},
	{PressureEmpty, machine.LeverManual, nil, func(p *Plant) {
		p.At("brew-1").Litres = 0.55
		do(p, Action{Verb: PlugIn}, Action{Verb: SwitchOn})
		p.Wait(1800)
	}},
	{EndUnproven, machine.SingleBoiler, nil, func(p *Plant) { p.At("brew-1").Sour = true; p.End(true) }},
	{EndNotFull, machine.DualHome, nil, func(p *Plant) { p.At("steam").Litres = 0.1; p.End(false) }},
	{EndSupplyShut, machine.HXCafe, nil, func(p *Plant) { p.Do(Action{Verb: ShutSupply}); p.End(false) }},
	{FilterInAcid, machine.SingleBoiler, nil, func(p *Plant) {
		do(p, Action{Verb: FilterIn}, Action{PourMix, "tank", 0})
		p.At("tank").Acid = 1
		p.Wait(1)
	}},
	{AcidIntoMains, machine.HXCafe, nil, func(p *Plant) { p.Do(Action{PourMix, "bucket", 1}) }},
	{CannotBeDone, machine.SingleBoiler, nil, func(p *Plant) { p.Do(Action{Verb: Open, What: "steam-drain"}) }},
	{TwoHands, machine.SingleBoiler, nil, func(p *Plant) {
		p.Busy(0, 30)
		p.Wait(10)
		p.Busy(10, 20)
	}},
	{PluggedIn, machine.HXHome, nil, func(p *Plant) {
		do(p, Action{Verb: PlugIn}, Action{Verb: TakeOut, What: "group-1"}, Action{Verb: TakeOff, What: "screen-1"})
	}},
	{WrongOrder, machine.HXHome, nil, func(p *Plant) { p.Do(Action{Verb: TakeOff, What: "shims-1"}) }},
	{StillSoapy, machine.HXHome, nil, func(p *Plant) {
		do(p, Action{Verb: MixBath}, Action{Verb: TakeOff, What: "basket-1"}, Action{Bathe, "basket-1", 300})
		p.Wait(300)
		do(p, Action{Verb: Lift, What: "basket-1"}, Action{Verb: FitOn, What: "basket-1"})
	}},
	{SpoiltInBath, machine.HXHome, nil, func(p *Plant) {
		do(p, Action{Verb: TakeOff, What: "grip-1"}, Action{Bathe, "grip-1", 300})
	}},
	{InLiquid, machine.HXHome, nil, func(p *Plant) {
		do(p, Action{Verb: PlugIn}, Action{Verb: SwitchOn}, Action{Verb: Dip, What: "tip"}, Action{Verb: SwitchOff})
	}},
	{EndPartOff, machine.HXHome, nil, func(p *Plant) {
		do(p, Action{Verb: TakeOut, What: "group-1"}, Action{Verb: TakeOff, What: "screen-1"})
		p.End(false)
	}},
	{NotHot, machine.HXHome, nil, func(p *Plant) { p.Do(Action{Verb: AtHeat}) }},
	{EndUnclean, machine.HXHome, nil, func(p *Plant) { p.Soil("tip"); p.End(false) }},
	{TipOff, machine.HXHome, nil, func(p *Plant) {
		do(p, Action{Verb: TakeOff, What: "tip"}, Action{Verb: PlugIn}, Action{Verb: SwitchOn}, Action{Puff, "steam_tap", 2})
	}},
	{NoBlind, machine.HXHome, nil, func(p *Plant) {
		do(p, Action{Verb: LockBasket, What: "group-1"}, Action{Verb: PlugIn}, Action{Verb: SwitchOn},
			Action{Verb: Pulse, What: "group-1"})
	}},
	{BlindIn, machine.HXHome, nil, func(p *Plant) {
		do(p, Action{Verb: LockBlind, What: "group-1"}, Action{Verb: PlugIn}, Action{Sample, "group-1", 0.05})
	}},
	{BlindIn, machine.HXHome, nil, func(p *Plant) {
		do(p, Action{Verb: LockBlind, What: "group-1"}, Action{Verb: PlugIn}, Action{Flush, "group-1", 0.05})
	}},
	{CartridgeOut, machine.HXCafe, nil, func(p *Plant) { p.Do(Action{Verb: FilterOut}) }},
	{CartridgeOut, machine.HXCafe, nil, func(p *Plant) {
		do(p, Action{Verb: ShutSupply}, Action{Verb: FilterOut}, Action{Verb: OpenSupply})
	}},
	{HeaterNotSeen, machine.DualHome, []string{"steam_heater", "can_be_off"}, func(p *Plant) { // the plug was out
		do(p, Action{Verb: PlugIn}, Action{Verb: SwitchOn}, Action{Verb: HeaterOff, What: "steam"}, Action{Verb: Unplug},
			Action{Verb: Open, What: "steam-drain"})
		p.Wait(60)
		do(p, Action{Verb: Close, What: "steam-drain"}, Action{Verb: PlugIn})
	}},
	{HeaterNotSeen, machine.DualHome, []string{"steam_heater", "can_be_off"}, func(p *Plant) { // it did not say so before
		do(p, Action{Verb: PlugIn}, Action{Verb: SwitchOn}, Action{Verb: HeaterOff, What: "steam"}, Action{Verb: Unplug},
			Action{Verb: Open, What: "steam-drain"})
		p.Wait(60)
		do(p, Action{Verb: Close, What: "steam-drain"}, Action{Verb: SwitchOff}, Action{Verb: PlugIn},
			Action{Verb: SeeOff, What: "steam"}, Action{Verb: SwitchOn})
	}},
	{LineOpened, machine.HXCafe, nil, func(p *Plant) { // as it was left overnight, and only the steam tap opened
		do(p, Action{Verb: ShutSupply}, Action{Verb: Open, What: "steam_tap"}, Action{Verb: TakeOff, What: "jet-1"})
	}},
	{EndFilterOut, machine.SingleBoiler, nil, func(p *Plant) { p.Do(Action{Verb: FilterOut}); p.End(false) }},
	{EndTankDry, machine.HXHome, nil, func(p *Plant) {
		do(p, Action{Verb: PlugIn}, Action{Verb: SwitchOn}, Action{Verb: Empty, What: "tank"})
		p.End(false)
	}},
	{EndPartOff, machine.HXHome, nil, func(p *Plant) { // a handle that was taken out
		do(p, Action{Verb: LockBasket, What: "group-1"}, Action{Verb: TakeOut, What: "group-1"})
		p.End(false)
	}},
	{EndPartOff, machine.HXHome, nil, func(p *Plant) { p.Do(Action{Verb: LockBlind, What: "group-1"}); p.End(true) }},
	{NotHot, machine.SingleBoiler, nil, func(p *Plant) { p.Do(Action{Verb: SoakedHot, What: "brew-1"}) }},
	{CannotBeDone, machine.LeverManual, nil, func(p *Plant) { // cold, the lever draws air
		p.Do(Action{LeverDown, "group-1", 0.08})
	}},
	{CannotBeDone, machine.LeverManual, nil, func(p *Plant) { // and with the cap off
		p.At("brew-1").Temp = 44
		do(p, Action{Verb: Open, What: "cap"}, Action{LeverDown, "group-1", 0.08})
	}},
}

// Each thing that must never be has a way in which it comes about, and is caught, with
// its instant, its part and why; what is done right breaks nothing.
func TestEachNeverIsCaught(t *testing.T) {
	seen := map[Never]bool{}
	for _, c := range each {
		t.Run(string(c.never), func(t *testing.T) {
			seen[c.never] = true
			p := Cold(specOf(t, facts(c.layout, c.set...)))
			c.by(p)
			found := false
			for _, v := range p.Broken {
				if v.Never == c.never {
					found = true
					if v.Part == "" && c.never != CannotBeDone || v.Why == "" || v.T < 0 || v.T > p.T {
						t.Errorf("%+v at %v s", v, p.T)
					}
				}
			}
			if !found {
				t.Errorf("not caught: %v", p.Broken)
			}
		})
	}
	for _, n := range Nevers() {
		if !seen[n] {
			t.Errorf("nothing breaks %s", n)
		}
	}
}

// An instant is exact: the element is uncovered when 0.3 L are out of a boiler of one litre
// that holds 0.7, the pump has drawn air for ten seconds after the tank is empty.
func TestInstantsAreExact(t *testing.T) {
	p := Cold(specOf(t, facts(machine.DualHome, "steam_l", "1")))
	p.Plug, p.On = true, true
	p.V[p.Spec.Find("brew-1")].Off = true
	p.At("steam").Temp = 20
	p.Gates[p.Spec.FindOpening("steam-drain")].Open = true
	p.Spec.HasPump = false
	p.Wait(300)
	for _, v := range p.Broken {
		if v.Never == DryElement && !near(v.T, 0.3/gurgles, 0.001) {
			t.Errorf("uncovered at %.3f s, want %.3f", v.T, 0.3/gurgles)
		}
	}
	q := Cold(specOf(t, facts(machine.SingleBoiler, "tank_l", "0.4")))
	do(q, Action{Verb: PlugIn}, Action{Verb: SwitchOn}, Action{Verb: PumpTo, What: "group-1"})
	q.Wait(100)
	if len(q.Broken) == 0 || q.Broken[0].Never != DrawsAir || !near(q.Broken[0].T, 50+10, 0.001) {
		t.Errorf("%v", q.Broken)
	}
}

// holdings sums up what a plant holds of water, acid and scale: nothing may come or go.
func holdings(p *Plant) (water, acid, scale float64) {
	for i := range p.V {
		s := &p.V[i]
		if p.Spec.Vessels[i].Kind == Head {
			continue // stays full, and is told by its line
		}
		water += s.Litres
		acid += s.Litres * s.Acid
	}
	return water, acid, scale
}

// Whatever a hand does, and however time is cut up, nothing is lost: water to a millionth,
// acid too; and two ways of cutting the same time agree.
func TestBalances(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 11))
	for range 200 {
		layout := []machine.Layout{machine.SingleBoiler, machine.Thermoblock, machine.HXHome, machine.DualHome}[r.IntN(4)]
		p := Cold(specOf(t, facts(layout, "drain", "plug", "steam_heater", "can_be_off", "jug_l", "20")))
		do(p, Action{Verb: Empty, What: "tank"}, Action{PourMix, "tank", 1 + r.Float64()}, Action{Verb: PlugIn},
			Action{Verb: SwitchOn})
		if layout == machine.DualHome {
			do(p, Action{Verb: HeaterOff, What: "brew-1"})
		}
		if p.At("steam") != nil {
			do(p, Action{Verb: HeaterOff, What: "steam"})
			p.At("steam").Litres, p.At("steam").Full = r.Float64()*0.5, false
		}
		water, acid, _ := holdings(p)
		for range 12 {
			p.Do([]Action{{Verb: PumpTo, What: "group-1"}, {Verb: PumpOff}, {Verb: Open, What: "steam_tap"},
				{Verb: Close, What: "steam_tap"}}[r.IntN(4)])
			q := p.Clone()
			long := r.Float64() * 30
			p.Wait(long)
			for range 7 {
				q.Wait(long / 7)
			}
			for i := range p.V {
				if !near(p.V[i].Litres, q.V[i].Litres, 1e-7) || !near(p.V[i].Acid, q.V[i].Acid, 1e-6) ||
					!near(p.V[i].Temp, q.V[i].Temp, 1e-6) && p.Spec.Vessels[i].Kind != Catch {
					t.Fatalf("%s: cut in seven it is %+v, in one %+v", p.Spec.Vessels[i].ID, q.V[i], p.V[i])
				}
			}
			w, a, _ := holdings(p)
			if !near(w, water, 1e-6) {
				t.Fatalf("%.7f L, were %.7f", w, water)
			}
			if !near(a, acid, 1e-6) {
				t.Fatalf("%.4f of acid, were %.4f", a, acid)
			}
		}
	}
}

// Energy: what a heater gave is in the water and the metal, or was lost to the room.
func TestEnergyBalance(t *testing.T) {
	p := Cold(specOf(t, facts(machine.SingleBoiler)))
	do(p, Action{Verb: PlugIn}, Action{Verb: SwitchOn})
	mass := heatOfWater * (0.3 + 0.1)
	lost := 0.0
	for range 600 {
		was := p.At("brew-1").Temp
		p.Wait(0.1)
		lost += 0.1 * mass / p.Spec.Vessels[p.Spec.Find("brew-1")].Tau * ((was+p.At("brew-1").Temp)/2 - p.Spec.Room)
	}
	if in := mass*(p.At("brew-1").Temp-p.Spec.Room) + lost; !near(in, 1100*60, 1) {
		t.Errorf("%.1f J, want %d", in, 1100*60)
	}
}

// A shared tap, both vessels heated, a hand that forgets: whatever is tried at random, a
// plant never holds what cannot be.
func TestStatesStaySane(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for range 300 {
		l := machine.Layouts()[r.IntN(len(machine.Layouts()))]
		p := InUse(specOf(t, facts(l, "drain", "plug")))
		for range 60 {
			verbs := []Verb{PlugIn, Unplug, SwitchOn, SwitchOff, Open, Close, PumpTo, PumpOff, FillUp, Empty}
			a := Action{Verb: verbs[r.IntN(len(verbs))]}
			switch a.Verb {
			case Open, Close, PumpTo:
				a.What = p.Spec.Openings[r.IntN(len(p.Spec.Openings))].ID
			case Empty:
				a.What = p.Spec.Vessels[r.IntN(2)].ID
			}
			p.Do(a)
			p.Wait(r.ExpFloat64() * 60)
			for i := range p.V {
				s := &p.V[i]
				if math.IsNaN(s.Temp+s.Litres+s.Acid) || s.Litres < 0 || s.Temp > 140 || s.Temp < 4 || s.Acid < 0 ||
					s.Acid > 1 {
					t.Fatalf("%s %s after %v: %+v", l, p.Spec.Vessels[i].ID, a, *s)
				}
			}
		}
		if p.events == 0 || strings.Contains(p.Spec.Vessels[0].ID, " ") {
			t.Fatal("nothing happened")
		}
	}
}
