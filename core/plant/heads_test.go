package plant

import (
	"math"
	"testing"

	"freshanvil/core/backflush"
	"freshanvil/core/machine"
	"freshanvil/core/units"
)

// pulse is one of ten seconds on and five off.
func pulse(p *Plant, group string) {
	do(p, Action{Verb: PumpTo, What: group})
	p.Wait(10)
	do(p, Action{Verb: PumpOff})
	p.Wait(5)
}

// dosed is a machine in use with so many grams in the blind of its first group.
func dosed(t testing.TB, f machine.Facts, grams float64) *Plant {
	p := InUse(specOf(t, f))
	do(p, Action{Verb: TakeOut, What: "group-1"}, Action{Verb: PutPowder, What: "group-1", Amount: grams},
		Action{Verb: LockBlind, What: "group-1"})
	return p
}

// Each pulse leaves stays ÷ (stays + vents) of the detergent, the first two dissolve it, a flush
// leaves e^(−V ÷ stays): the plant comes to what the residue model says (domain figure: 3 g, five
// and five pulses and 50 mL leave 9 mg/L).
func TestPulsesRinseAsTheResidueModelSays(t *testing.T) {
	for _, layout := range []machine.Layout{machine.SingleBoiler, machine.HXHome, machine.DualHome, machine.Thermoblock} {
		t.Run(string(layout), func(t *testing.T) {
			f := facts(layout, "tray_l", "3")
			p := dosed(t, f, 3)
			for range 5 {
				pulse(p, "group-1")
			}
			do(p, Action{Verb: TakeOut, What: "group-1"}, Action{Verb: WipeBlind, What: "group-1"},
				Action{Verb: LockBlind, What: "group-1"})
			for range 5 {
				pulse(p, "group-1")
			}
			do(p, Action{Verb: TakeOut, What: "group-1"}, Action{Verb: LockBasket, What: "group-1"},
				Action{Verb: Flush, What: "group-1", Amount: 0.05})
			want := backflush.Residue(3, f.Stays, f.Vents, 5, 5, 50)
			if got := p.At("group-1").Detergent; !near(got, want, 0.02*want) {
				t.Errorf("%.3g mg/L left, the residue model says %.3g", got, want)
			}
			vented := 10*f.Vents.Litres() + 0.05
			if got := p.V[TrayAt].Litres; !near(got, float64(vented), 1e-3) {
				t.Errorf("%.3f L in the tray, want %.3f", got, vented)
			}
			if len(p.Broken) > 0 {
				t.Error(p.Broken)
			}
		})
	}
}

// What is drawn from the tank is what came out, and what still stands in the head.
func TestPulsesKeepTheirWater(t *testing.T) {
	f := facts(machine.DualHome, "tray_l", "3")
	p := dosed(t, f, 2)
	before := p.V[SourceAt].Litres
	for range 4 {
		pulse(p, "group-1")
	}
	do(p, Action{Verb: PumpTo, What: "group-1"})
	p.Wait(20)
	held := p.At("group-1").Litres - p.Spec.Vessels[p.Spec.Find("group-1")].Working
	if drawn, kept := before-p.V[SourceAt].Litres, p.V[TrayAt].Litres+held; !near(drawn, kept, 1e-9) {
		t.Errorf("%.4f L drawn, %.4f L kept", drawn, kept)
	}
	if !near(held, float64(f.Vents.Litres()), 1e-9) {
		t.Errorf("%.4f L pressed into the head", held)
	}
}

func broken(p *Plant, n Never) bool {
	for _, v := range p.Broken {
		if v.Never == n {
			return true
		}
	}
	return false
}

// A handle is turned only where nothing presses: each way of turning it too early is caught, the
// right way is not.
func TestHandleUnderPressure(t *testing.T) {
	pressed := func(p *Plant) { do(p, Action{Verb: PumpTo, What: "group-1"}); p.Wait(10) }
	out, off := Action{Verb: TakeOut, What: "group-1"}, Action{Verb: PumpOff}
	for name, c := range map[string]struct {
		does  func(p *Plant)
		wrong bool
	}{
		"while the pump runs":       {func(p *Plant) { pressed(p); do(p, out) }, true},
		"before the hiss has ended": {func(p *Plant) { pressed(p); do(p, off); p.Wait(1); do(p, out) }, true},
		"after the hiss":            {func(p *Plant) { pressed(p); do(p, off); p.Wait(4); do(p, out) }, false},
		"blocked, and hot": {func(p *Plant) {
			p.At("group-1").Blocked = true
			pressed(p)
			do(p, Action{Verb: PumpOff})
			p.Wait(600)
			do(p, out)
		}, true},
		"blocked, and cold": {func(p *Plant) {
			p.At("group-1").Blocked = true
			pressed(p)
			do(p, Action{Verb: PumpOff}, Action{Verb: SwitchOff}, Action{Verb: Unplug})
			p.Wait(24 * 3600)
			do(p, out)
		}, false},
		"loosened while the pump runs": {func(p *Plant) { pressed(p); do(p, Action{Verb: Loosen, What: "group-1"}) }, true},
		"water over the rim, not turned": {func(p *Plant) {
			do(p, Action{Verb: Loosen, What: "group-1"}, Action{Verb: Flush, What: "group-1", Amount: 0.03}, out)
		}, false},
	} {
		t.Run(name, func(t *testing.T) {
			p := dosed(t, facts(machine.DualHome), 0)
			c.does(p)
			if broken(p, OpenedPressed) != c.wrong {
				t.Errorf("caught %v: %v", !c.wrong, p.Broken)
			}
		})
	}
}

// A head that lets nothing out keeps its detergent and its water.
func TestBlockedHeadVentsNothing(t *testing.T) {
	p := dosed(t, facts(machine.DualHome), 3)
	p.At("group-1").Blocked = true
	pulse(p, "group-1")
	if s := p.At("group-1"); !s.Pressed || s.Hisses > 0 || p.V[TrayAt].Litres > 0 || s.Powder != 3 {
		t.Errorf("a blocked head: %+v, %.3f L in the tray", s.HeadState, p.V[TrayAt].Litres)
	}
}

// Detergent left in ends unproven; acid in its circuit is never beside it; a tray runs over.
func TestNeversOfAWash(t *testing.T) {
	p := dosed(t, facts(machine.SingleBoiler), 3)
	for range 17 {
		pulse(p, "group-1")
	}
	if !broken(p, OverBrim) {
		t.Error("17 pulses of 40 mL into half a litre of tray were let pass")
	}
	p = dosed(t, facts(machine.SingleBoiler), 3)
	for range 3 {
		pulse(p, "group-1")
	}
	p.At("brew-1").Acid = 0.5
	p.Wait(1)
	p.End(false)
	if !broken(p, EndUnproven) || !broken(p, AcidAndSoap) {
		t.Errorf("detergent left beside acid: %v", p.Broken)
	}
}

// The machine's own program makes its pulses by itself.
func TestOwnWash(t *testing.T) {
	f := facts(machine.HXHome)
	p := dosed(t, f, 3)
	do(p, Action{Verb: OwnWash, What: "group-1", Amount: 10})
	want := backflush.Residue(3, f.Stays, f.Vents, 10, 0, 0)
	if got := p.At("group-1").Detergent; !near(got, want, 0.02*want) || !near(p.T, 390, 1) {
		t.Errorf("%.3g mg/L after %.0f s, want %.3g after 390", got, p.T, want)
	}
}

// Any dose, head and count: never less detergent left than the residue model says, and no more
// than a twentieth of it.
func FuzzHead(f *testing.F) {
	f.Add(3.0, 30.0, 40.0, uint8(5), uint8(5))
	f.Fuzz(func(t *testing.T, dose, stays, vents float64, soapy, rinse uint8) {
		if !(dose > 0.1 && dose < 10 && stays >= 10 && stays <= 100 && vents >= 10 && vents <= 100) {
			t.Skip()
		}
		soapy, rinse = 2+soapy%10, rinse%10
		facts := facts(machine.DualHome, "tray_l", "5", "tank_l", "10")
		facts.Stays, facts.Vents = units.Volume(stays), units.Volume(vents)
		p := dosed(t, facts, dose)
		for range soapy + rinse {
			do(p, Action{Verb: PumpTo, What: "group-1"})
			p.Wait(math.Max(10, vents/4))
			do(p, Action{Verb: PumpOff})
			p.Wait(30)
		}
		want := backflush.Residue(units.Mass(dose), facts.Stays, facts.Vents, int(soapy), int(rinse), 0)
		if got := p.At("group-1").Detergent; !near(got, want, 1e-6*want+1e-9) {
			t.Errorf("%.4g mg/L, want %.4g", got, want)
		}
	})
}
