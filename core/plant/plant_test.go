package plant

import (
	"encoding/csv"
	"math"
	"os"
	"strconv"
	"testing"

	"freshanvil/core/machine"
	"freshanvil/core/units"
)

// facts are those of a layout, with some of them said.
func facts(l machine.Layout, set ...string) machine.Facts {
	a := machine.Answers{Layout: l, Valve: machine.Yes, Overrides: map[string]string{}}
	if l == machine.LeverManual {
		a.Valve = machine.No
	}
	for i := 0; i < len(set); i += 2 {
		a.Overrides[set[i]] = set[i+1]
	}
	return a.Facts()
}

// citric is 30 g/L: it takes up 14.5 g/L to pH 4 (core/descale).
var citric = Solution{Takes: 14.5, Contact: 90 * 60, Limit: 1e-4}

func specOf(t testing.TB, f machine.Facts) *Spec {
	t.Helper()
	s, err := Of(f, citric, 5.5, 7)
	if err != nil {
		t.Fatal(err)
	}
	return &s
}

func near[T ~float64](got, want, within T) bool {
	return math.Abs(float64(got-want)) <= float64(within)
}

func do(p *Plant, list ...Action) {
	for _, a := range list {
		p.Do(a)
	}
}

// A heat exchanger of 1.8 L, worked by hand: 1.26 + 0.1 L of water and metal worth 0.57 kg
// are 8.09 kJ/K; 1400 W less what it loses, 0.68 W/K, bring it from 22 to 100 °C in 459 s.
func TestHeatUp(t *testing.T) {
	p := Cold(specOf(t, facts(machine.HXHome, "steam_heater", "held_off")))
	do(p, Action{Verb: PlugIn}, Action{Verb: SwitchOn})
	hot := func(p *Plant) bool { return p.At("steam").Temp >= 100-1e-9 }
	if took := p.Until(hot, 3600); !near(took, 459, 1) {
		t.Errorf("%.1f s to 100 °C", took)
	}
	p.Wait(3600)
	if got := p.At("steam").Temp; !near(got, 123, 0.6) || p.At("brew-1").Temp != got {
		t.Errorf("held at %.1f, the tube %.1f °C", got, p.At("brew-1").Temp)
	}
	if bar := p.Gauge(p.Spec.Find("steam")); !near(bar, 1.2, 1e-6) {
		t.Errorf("%.3f bar", bar)
	}
	if len(p.Broken) > 0 {
		t.Error(p.Broken)
	}
}

// The gauge follows the saturation line (IAPWS-IF97 region 4, testdata of core/boiler).
func TestGaugeFollowsSaturation(t *testing.T) {
	file, err := os.Open("../boiler/testdata/saturation.csv")
	if err != nil {
		t.Fatal(err)
	}
	defer file.Close()
	rows, err := csv.NewReader(file).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	p := Cold(specOf(t, facts(machine.HXHome)))
	steam, judged := p.Spec.Find("steam"), 0
	for _, row := range rows[1:] {
		bar, _ := strconv.ParseFloat(row[0], 64)
		celsius, err := strconv.ParseFloat(row[1], 64)
		if err != nil {
			t.Fatal(rows[0], row, err)
		}
		if celsius <= 100 || celsius > 150 {
			continue
		}
		p.V[steam].Temp = celsius
		if got := p.Gauge(steam); !near(got, bar, 0.002) {
			t.Errorf("%v °C: %.4f bar, want %v", celsius, got, bar)
		}
		judged++
	}
	if judged < 5 {
		t.Errorf("only %d rows", judged)
	}
}

// One litre of boiler water cools from 125 to 45 °C in four hours in a room of 22 °C (our
// own engineering model); six litres take 7.3 h.
func TestCooling(t *testing.T) {
	for litres, hours := range map[string]float64{"1": 4.05, "6": 7.36} {
		t.Run(litres+" L", func(t *testing.T) {
			p := InUse(specOf(t, facts(machine.DualHome, "steam_l", litres)))
			p.At("steam").Temp = 125
			do(p, Action{Verb: SwitchOff}, Action{Verb: Unplug})
			took := p.Until(func(p *Plant) bool { return p.At("steam").Temp <= 45 }, 24*3600)
			if !near(took/3600, hours, 0.02) {
				t.Errorf("%.2f h", took/3600)
			}
		})
	}
}

// What a push warms: 1100 W in 8 mL/s are 33 K, 1300 W in 6 mL/s 52 K, once it has gone on
// for long.
func TestWarmthOfAPush(t *testing.T) {
	for layout, rises := range map[machine.Layout]float64{machine.SingleBoiler: 33, machine.Thermoblock: 52} {
		t.Run(string(layout), func(t *testing.T) {
			p := Cold(specOf(t, facts(layout, "tank_l", "20", "duty_on_min", "60", "jug_l", "20")))
			do(p, Action{Verb: PlugIn}, Action{Verb: SwitchOn}, Action{Verb: PumpTo, What: "group-1"})
			p.Wait(900)
			if got := p.At("brew-1").Temp - feedTemp; !near(got, rises, 1.5) {
				t.Errorf("%.1f K warmer", got)
			}
			if len(p.Broken) > 0 {
				t.Error(p.Broken)
			}
		})
	}
}

// Filling and mixing: half a litre through a boiler of 0.3 L leaves e^(−5/3) of what was
// there; the autofill stops at the probe; group and autofill share what the pump gives.
func TestFillingAndMixing(t *testing.T) {
	p := Cold(specOf(t, facts(machine.SingleBoiler)))
	do(p, Action{Verb: Empty, What: "tank"}, Action{PourMix, "tank", 1.5}, Action{Verb: PlugIn},
		Action{Verb: SwitchOn}, Action{Verb: PumpTo, What: "group-1"})
	p.Wait(0.5 / 0.008)
	if got, want := p.At("brew-1").Acid, 1-math.Exp(-5.0/3); !near(got, want, 1e-9) {
		t.Errorf("a share of %.4f, want %.4f", got, want)
	}
	if got := p.At("jug-group-1").Litres; !near(got, 0.5, 1e-9) {
		t.Errorf("%.3f L in the jug", got)
	}
	hx := Cold(specOf(t, facts(machine.HXHome, "steam_heater", "held_off", "drain", "plug")))
	hx.At("steam").Litres, hx.At("steam").Full = 0.1, false
	do(hx, Action{Verb: PlugIn}, Action{Verb: SwitchOn}, Action{Verb: PumpTo, What: "group-1"})
	hx.Wait(50)
	if got := hx.At("steam").Litres; !near(got, 0.3, 1e-9) || !near(hx.At("jug-group-1").Litres, 0.2, 1e-9) {
		t.Errorf("%.3f L in the boiler, %.3f in the jug: not half each", got, hx.At("jug-group-1").Litres)
	}
	hx.Do(Action{Verb: PumpOff})
	hx.Wait(200)
	if got := hx.At("steam").Litres; !near(got, 1.26, 1e-6) {
		t.Errorf("the probe stops it at %.3f L", got)
	}
}

// Dissolving, so that practice holds: 5.5 g on 137 cm² in 0.35 L of citric acid of 30 g/L
// lose 3.1 g in the first 20 min (our own engineering choice of the rate).
func TestDissolving(t *testing.T) {
	p := Cold(specOf(t, facts(machine.SingleBoiler, "brew_l", "0.35")))
	s := p.At("brew-1")
	s.Acid = 1
	p.Gates[p.Spec.FindOpening("steam_tap")].Open = true
	p.Wait(20 * 60)
	if gone := 5.5 - s.Scale; !near(gone, 3.1, 0.1) {
		t.Errorf("%.2f g in 20 min", gone)
	}
	p.Wait(24 * 3600)
	if gone, most := 5.5-s.Scale, 0.35*citric.Takes; !near(gone, most, 0.001) {
		t.Errorf("%.3f g in a day, of %.3f that it takes up", gone, most)
	}
}

// The rate of attack: as cold up to 35 °C, two and a half times from 80 °C up, by the
// logarithm between; a minute counts double above 45 °C, fourfold above 70.
func TestAttackAndWeight(t *testing.T) {
	for celsius, times := range map[float64]float64{20: 1, 35: 1, 57.5: math.Sqrt(2.5), 80: 2.5, 93: 2.5} {
		if got := AttackAt(celsius) / Attack; !near(got, times, 1e-9) {
			t.Errorf("%v °C: %v, want %v", celsius, got, times)
		}
	}
	for celsius, weight := range map[float64]float64{20: 1, 45: 1, 46: 2, 70: 2, 71: 4} {
		if got := Weight(celsius); got != weight {
			t.Errorf("%v °C counts %v, want %v", celsius, got, weight)
		}
	}
	p := Cold(specOf(t, facts(machine.SingleBoiler)))
	s := p.At("brew-1")
	s.Acid, s.Temp = 1, 60
	below := p.Until(func(p *Plant) bool { return s.Temp <= 45 }, 3600*9)
	p.Wait(600)
	if want := 2*below + 600; !near(s.Contact, want, 0.01) {
		t.Errorf("contact %.1f s, want %.1f", s.Contact, want)
	}
}

// Gas (stoichiometry: 1 g of calcium carbonate frees 0.24 L of carbon dioxide): 60 g in
// 3.5 L under 1.5 L of head are over 3 bar cold. A brew side that is shut and full holds 4
// to 5 bar cold, about 7 at 50 °C and 14 at 93 (Henry's constant of Plummer & Busenberg).
func TestGas(t *testing.T) {
	p := Cold(specOf(t, facts(machine.DualHome, "steam_l", "5")))
	i := p.Spec.Find("steam")
	p.V[i].Litres = 3.5
	p.V[i].Gas = p.holdsGas(i) + 60/units.MolarCaCO3
	if bar := p.Gauge(i); bar < 2.9 || bar > 3.6 {
		t.Errorf("%.2f bar in the steam boiler", bar)
	}
	b := p.Spec.Find("brew-1")
	for celsius, want := range map[float64]float64{22: 4.1, 50: 7.4, 93: 14} {
		p.V[b].Temp = celsius
		p.V[b].Gas = p.holdsGas(b) + 0.3*14.5/units.MolarCaCO3
		if bar := p.Gauge(b); !near(bar, want, 0.15*want) {
			t.Errorf("%v °C: %.1f bar, want about %v", celsius, bar, want)
		}
	}
	p.V[b].Temp = 22
	do(p, Action{Verb: PlugIn}, Action{Verb: HeaterOff, What: "brew-1"}, Action{Verb: HeaterOff, What: "steam"},
		Action{Verb: SwitchOn}, Action{Verb: PumpTo, What: "group-1"})
	p.Wait(1)
	p.Do(Action{Verb: PumpOff})
	if bar := p.Gauge(b); bar > 0.05 {
		t.Errorf("%.2f bar after it was vented at the group", bar)
	}
}

// Draining leaves the heel, and takes twice as long where no air comes in.
func TestDraining(t *testing.T) {
	s := specOf(t, facts(machine.DualHome))
	out := func(p *Plant) bool { return p.At("brew-1").Litres <= 0.024+1e-9 }
	p := Cold(s)
	p.Do(Action{Verb: Open, What: "brew-1-drain"})
	gurgling := p.Until(out, 3600)
	q := Cold(s)
	q.Gates[s.FindOpening("group-1")].Open = true // a valve that stands open
	q.Do(Action{Verb: Open, What: "brew-1-drain"})
	if freely := q.Until(out, 3600); !near(gurgling, 2*freely, 1e-6) || !near(freely, 0.276/Drains, 1e-6) {
		t.Errorf("%.1f s gurgling, %.1f s with air", gurgling, freely)
	}
	p.Wait(600)
	if got := p.At("brew-1").Litres; !near(got, 0.08*0.3, 1e-9) || !near(p.At("jug-brew-1").Litres, 0.276, 1e-9) {
		t.Errorf("%.4f L stay, %.4f L came out", got, p.At("jug-brew-1").Litres)
	}
}

// A manual lever is filled and poured out by its cap.
func TestPouring(t *testing.T) {
	p := Cold(specOf(t, facts(machine.LeverManual)))
	do(p, Action{Verb: Open, What: "cap"}, Action{Verb: TurnOver, What: "brew-1"})
	if got := p.At("brew-1").Litres; !near(got, 0.05*0.68, 1e-9) {
		t.Errorf("%.4f L stay", got)
	}
	do(p, Action{PourMix, "jug", 1}, Action{PourIn, "brew-1", 0.544})
	if got, want := p.At("brew-1").Acid, 0.544/0.578; !near(got, want, 1e-9) || !p.At("brew-1").Sour {
		t.Errorf("a share of %.4f, want %.4f", got, want)
	}
	if p.Gates[p.Spec.FindOpening("group-1")].Acid < 0.85 {
		t.Error("no solution in the pipe that leads to the group")
	}
	if len(p.Broken) > 0 {
		t.Error(p.Broken)
	}
}

// Sips, with a heater that is off: 6.5 g in a stainless thermoblock of 0.05 L and 162 cm² take
// 17 to 19 of 75 mL at 30 g/L that stand about two minutes; eight at 20 g/L take about 2 g (our
// own engineering model, so chosen that practice holds).
func TestSipsDissolve(t *testing.T) {
	for _, c := range []struct {
		takes       float64 // g/L to pH 4
		scale, left float64
		least, most int
	}{
		{14.5, 6.5, 0.05 * 6.5, 17, 19},
		{9.7, 6.5, 6.5 - 2, 7, 9},
	} {
		spec := specOf(t, facts(machine.Thermoblock, "brew_heater", "can_be_off", "jug_l", "5"))
		spec.Solution = Solution{Takes: c.takes, Limit: 1e-4}
		spec.Vessels[spec.Find("brew-1")].Area = 0.0162
		p := Cold(spec)
		s := p.At("brew-1")
		s.Scale = c.scale
		do(p, Action{HeaterOff, "brew-1", 0}, Action{Empty, "tank", 0}, Action{PourMix, "tank", 1.8},
			Action{Open, "steam_tap", 0}, Action{Verb: PlugIn})
		sips := 0
		for ; s.Scale > c.left && sips < 40; sips++ {
			do(p, Action{Verb: SwitchOn}, Action{Verb: PumpTo, What: "steam_tap"})
			p.Wait(0.075 / p.Spec.Flow)
			p.Do(Action{Verb: SwitchOff})
			p.Wait(108)
		}
		if sips < c.least || sips > c.most {
			t.Errorf("%v g/L: %d sips leave %.2f g", c.takes, sips, s.Scale)
		}
	}
}

// What a heat-up time is compared with is what the model itself takes, on every layout; ten seconds are ten times the
// free flow, and a lever without a pump has none.
func TestExpects(t *testing.T) {
	for _, l := range machine.Layouts() {
		t.Run(string(l), func(t *testing.T) {
			f := facts(l, "steam_heater", "held_off")
			want, err := HeatsIn(f)
			if err != nil || want.Value < 0.5 || want.Value > 60 {
				t.Fatalf("%v %g min", err, want.Value)
			}
			if took := HeatUp(specOf(t, f)).Minutes(); !near(took, want.Value, 0.03*want.Value+0.05) {
				t.Errorf("the model takes %.2f min, the formula %.2f", took, want.Value)
			}
			if got, flow := TenSeconds(f).Value, float64(f.FreeFlow); f.Pump != machine.NoPump && got != 10*flow ||
				f.Pump == machine.NoPump && got != 0 {
				t.Errorf("%g mL in ten seconds at %g mL/s", got, flow)
			}
		})
	}
}
