package plant

import (
	"testing"

	"freshanvil/core/machine"
)

// What a rinse counts begins anew each time that acid goes in: water from before it is no rinse of it.
func TestAcidBeginsTheRinseAnew(t *testing.T) {
	p := Cold(specOf(t, facts(machine.SingleBoiler, "tank_l", "20", "jug_l", "20")))
	push := func(acid float64, seconds float64) float64 {
		p.V[SourceAt].Acid = acid
		do(p, Action{Verb: PumpTo, What: "group-1"})
		p.Wait(seconds)
		p.Do(Action{Verb: PumpOff})
		return p.At("brew-1").Through
	}
	do(p, Action{Verb: PlugIn}, Action{Verb: SwitchOn})
	push(1, 30)
	first := push(0, 40)
	if !near(first, 0.32, 0.02) {
		t.Fatalf("%.2f L in 40 s at 8 mL/s", first)
	}
	if again := push(1, 5); again != 0 {
		t.Errorf("%.2f L are still counted with fresh acid in", again)
	}
	if after := push(0, 10); !near(after, 0.08, 0.01) {
		t.Errorf("%.2f L in 10 s after it", after)
	}
}

// A pump that may run two minutes and rests one is as good as rested after half as long as it ran.
func TestAPumpCoolsByItsDuty(t *testing.T) {
	p := Cold(specOf(t, facts(machine.SingleBoiler, "tank_l", "20", "jug_l", "20")))
	do(p, Action{Verb: PlugIn}, Action{Verb: SwitchOn}, Action{Verb: PumpTo, What: "group-1"})
	p.Wait(60)
	p.Do(Action{Verb: PumpOff})
	p.Wait(10)
	if !near(p.Warm, 40, 0.5) {
		t.Errorf("after 60 s of running and 10 s of rest it is as warm as after %.1f s, want 40", p.Warm)
	}
	p.Wait(25)
	if p.Warm != 0 {
		t.Errorf("after 35 s of rest it is as warm as after %.1f s, want rested", p.Warm)
	}
}

// The contact of a machine is that of the circuit in which acid has stood for longest.
func TestContactIsTheLongest(t *testing.T) {
	p := Cold(specOf(t, facts(machine.DualHome)))
	p.At("brew-1").Contact, p.At("steam").Contact = 600, 1500
	if p.Contact() != 1500 {
		t.Errorf("%v s, want the longer of 600 and 1500", p.Contact())
	}
}

// Gas leaves a steam boiler by its steam tap. A hot-water tap dips below the water: by it comes water, and no gas.
func TestGasLeavesByTheSteamTap(t *testing.T) {
	for tap, vents := range map[string]bool{"steam_tap": true, "hot_water_tap": false} {
		p := Cold(specOf(t, facts(machine.HXHome)))
		i := p.Spec.Find("steam")
		g := p.Spec.FindOpening(tap)
		if g < 0 {
			t.Fatalf("no %s", tap)
		}
		p.Gates[g].Open = true
		if p.vented(i) != vents {
			t.Errorf("%s open: vented is %v", tap, p.vented(i))
		}
	}
}

// A bath has the time that it was given, and not longer: what is lifted out of it at its end is clean.
func TestABathEndsWhenItShould(t *testing.T) {
	p := Cold(specOf(t, facts(machine.HXHome)))
	do(p, Action{Verb: MixBath}, Action{Verb: TakeOff, What: "basket-1"}, Action{Bathe, "basket-1", 600})
	p.Wait(601)
	do(p, Action{Verb: Lift, What: "basket-1"})
	if len(p.Broken) > 0 {
		t.Errorf("out after 601 s of 600: %v", p.Broken)
	}
}
