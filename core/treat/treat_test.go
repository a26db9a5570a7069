package treat

import (
	"errors"
	"fmt"
	"math"
	"strings"
	"testing"

	"freshanvil/core/circuit"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
	"freshanvil/core/water"
)

func fill(t *testing.T, hardness, alkalinity float64) water.Filled {
	t.Helper()
	f, err := water.Sample{
		Hardness:   units.Sharp(hardness),
		Alkalinity: units.Sharp(alkalinity),
		PH:         units.Sharp(7.6),
		Sodium:     units.Sharp(20),
		Chloride:   units.Sharp(25),
	}.Fill()
	if err != nil {
		t.Fatal(err)
	}
	return f
}

func near[T ~float64](a, b, off T) bool { return math.Abs(float64(a-b)) <= float64(off) }

func litres(v float64) reason.Worked { return reason.Worked{Value: v}.Exact() }

// Worked by hand. A cartridge of 1500 L at 178 mg/L and 0.3 past it, here 200 mg/L
// of carbonate hardness: 1335 L; with half going past 1869. A pouch of 18 g salt:
// 18 ÷ 58.44 × 0.5 eq × 50.04 g are 7.7 g of CaCO3, 30.8 L at 250 mg/L. A jug of
// 100 L at two litres a day would last 44.5 days at 200: its month ends it.
func TestLifeByHand(t *testing.T) {
	f := fill(t, 250, 200)
	sink := Usual(machine.UnderSink)
	if got := sink.Lasts(f, litres(2)).Litres.Value; !near(got, 1335, 0.01) {
		t.Errorf("under the sink: %v L, want 1335", got)
	}
	sink.Bypass = 0.5
	if got := sink.Lasts(f, litres(2)).Litres.Value; !near(got, 1869, 0.01) {
		t.Errorf("half past it: %v L, want 1869", got)
	}
	pouch := Usual(machine.Softener).Lasts(f, litres(2))
	if !near(pouch.Litres.Value, 30.83, 0.01) || !near(pouch.Days.Value, 15.41, 0.01) {
		t.Errorf("pouch: %v L, %v days, want 30.8 and 15.4", pouch.Litres.Value, pouch.Days.Value)
	}
	jug := Usual(machine.Jug).Lasts(f, litres(2))
	if !near(jug.Litres.Value, 89, 0.01) || jug.Days.Value != 30 {
		t.Errorf("jug: %v L, %v days", jug.Litres.Value, jug.Days.Value)
	}
	if l := Usual(machine.Untreated).Lasts(f, litres(2)); l.Days.Value != 0 || l.Litres.Value != 0 {
		t.Errorf("nothing wears out: %+v", l)
	}
}

// What a resin takes of hardness it takes of alkalinity, and the pH falls; sodium
// for calcium and magnesium, charge for charge, at the same pH but for the ion
// pairs that go with them; what passes a
// membrane and what is blended in add up, and the carbon dioxide passes.
func TestMassBalance(t *testing.T) {
	f := fill(t, 250, 200)
	w := f.Water
	tank, _, _, err := Usual(machine.InTank).Behind(f)
	if err != nil {
		t.Fatal(err)
	}
	took := f.Hardness.Likely - tank.Hardness.Likely
	if !near(took, 100, 1e-6) || !near(f.Alkalinity.Likely-tank.Alkalinity.Likely, took, 1e-6) ||
		tank.Water.Carbon != w.Carbon ||
		tank.PH.Likely > 7.2 {
		t.Errorf(
			"in the tank: %v of hardness, %v of alkalinity, pH %v",
			took,
			f.Alkalinity.Likely-tank.Alkalinity.Likely,
			tank.PH.Likely,
		)
	}
	soft, _, _, err := Usual(machine.Softener).Behind(f)
	if err != nil {
		t.Fatal(err)
	}
	if !near(soft.Water.Sodium-w.Sodium, 2*(w.Calcium+w.Magnesium), 1e-12) || soft.Hardness.Likely != 0 ||
		!near(soft.Alkalinity.Likely, 200, 1e-9) ||
		!near(soft.PH.Likely, 7.6, 0.06) {
		t.Errorf("softened: sodium %v, hardness %v, pH %v", soft.Water.Sodium, soft.Hardness.Likely, soft.PH.Likely)
	}
	// 0.459 mg of sodium a mg of CaCO3
	if got := float64(soft.Water.SodiumMg()-w.SodiumMg()) / 250; !near(got, 0.459, 0.001) {
		t.Errorf("%v mg of sodium a mg of CaCO3", got)
	}
	pure := w.Permeate(0.05)
	if !near(pure.Hard().In(units.MgPerLCaCO3), 12.5, 1e-9) || !near(pure.Alk(), 10, 1e-9) ||
		!near(pure.Carbon-pure.Alkalinity, w.Carbon-w.Alkalinity, 1e-5) {
		t.Errorf(
			"permeate: hardness %v, alkalinity %v, carbon dioxide %v of %v",
			pure.Hard(),
			pure.Alk(),
			pure.Carbon-pure.Alkalinity,
			w.Carbon-w.Alkalinity,
		)
	}
	mix := w.Blend(0.3, pure)
	if !near(mix.Hard().In(units.MgPerLCaCO3), 0.3*250+0.7*12.5, 1e-9) ||
		!near(mix.Carbon, 0.3*w.Carbon+0.7*pure.Carbon, 1e-15) {
		t.Errorf("blend: %v", mix.Hard())
	}
	for _, k := range machine.Treatments() {
		after, _, _, err := Usual(k).Behind(f)
		if err != nil {
			t.Fatal(err)
		}
		if a := after.Water; a.Calcium < 0 || a.Magnesium < 0 || a.Alkalinity < 0 ||
			after.Hardness.Low > after.Hardness.Likely ||
			k != machine.Bottled && after.Hardness.Likely > 250 {
			t.Errorf("%s: %+v", k, a)
		}
	}
}

// Hardness 250 and alkalinity 200: 0.21 of tap water in permeate come to an
// alkalinity of 50 and a hardness of 62.5, inside the window. Of 300 and 50 none
// does: an alkalinity of 40 takes 0.79, and then the hardness is 240.
func TestBlendByHand(t *testing.T) {
	w := fill(t, 250, 200).Water
	share, lands := Blended(w, w.Permeate(0.05))
	if !lands || !near(share, 40.0/190, 1e-9) {
		t.Errorf("%v, %v, want 0.2105", share, lands)
	}
	if mix := w.Blend(share, w.Permeate(0.05)); !InWindow(mix.Hard(), mix.Alk()) ||
		!near(mix.Hard().In(units.MgPerLCaCO3), 62.5, 0.01) {
		t.Errorf("blend: %v, %v", mix.Hard(), mix.Alk())
	}
	hard := fill(t, 300, 50).Water
	if _, lands := Blended(hard, hard.Permeate(0.05)); lands {
		t.Error("a blend of 300 and 50 lands in the window")
	}
	// whatever the water: what is said to land, lands; what is said not to, no share does
	for h := 10.0; h <= 500; h += 35 {
		for a := 10.0; a <= h; a += 35 {
			w := fill(t, h, a).Water
			pure := w.Permeate(0.05)
			share, lands := Blended(w, pure)
			if mix := w.Blend(share, pure); lands != InWindow(mix.Hard(), mix.Alk()) && lands {
				t.Errorf("%v/%v: %v is said to land, it comes to %v, %v", h, a, share, mix.Hard(), mix.Alk())
			}
			for f := 0.0; f <= 1 && !lands; f += 0.01 {
				if mix := w.Blend(f, pure); InWindow(mix.Hard(), mix.Alk()) {
					t.Errorf("%v/%v: none is said to land, %v does", h, a, f)
					break
				}
			}
		}
	}
}

// A jug of 7 a month at two litres a day: 365 ÷ 30 × 7 = 85.17 a year, 2.19 of tap water, and 36.5
// minutes of work; bottled water 365 × 2 × 0.40 = 292. The softener's 0.2 eq or 18 g of salt at half
// worth: 0.154 eq × 50.04 g ÷ 250 mg/L are 30.8 L, and 18 g of salt each time.
func TestCostByHand(t *testing.T) {
	f := fill(t, 250, 200)
	m := machine.Answers{Layout: machine.DualHome, Overrides: map[string]string{"hot_water_l": "1.476"}}.Facts()
	l, err := circuit.LitresADay(m, circuit.UseOf(4, 0)) // 0.524 + 1.476
	if err != nil {
		t.Fatal(err)
	}
	jug, err := Lay(Usual(machine.Jug), f, m, l)
	if err != nil || !near(jug.Cost.Value, 87.36, 0.01) || !near(jug.Minutes.Value, 36.5, 0.01) {
		t.Errorf("jug: %v a year, %v min, %v", jug.Cost.Value, jug.Minutes.Value, err)
	}
	bottle, err := Lay(Usual(machine.Bottled), f, m, l)
	if err != nil || !near(bottle.Cost.Value, 292, 0.01) || bottle.Life.Days.Value != 0 {
		t.Errorf("bottled: %v, %v", bottle.Cost.Value, err)
	}
	raw, err := Lay(Usual(machine.Untreated), f, m, l)
	if err != nil || !near(raw.Cost.Value, 2.19, 0.001) || !(jug.Scale.Value < raw.Scale.Value) ||
		!(jug.Descale.Value >= raw.Descale.Value) {
		t.Errorf("nothing: %v a year, %v g of scale, jug %v g", raw.Cost.Value, raw.Scale.Value, jug.Scale.Value)
	}
	cost := map[machine.Treatment]float64{}
	for _, k := range []machine.Treatment{machine.Jug, machine.InTank, machine.UnderSink, machine.Softener} {
		r, err := Lay(Usual(k), f, m, l)
		if err != nil || !strings.Contains(fmt.Sprint(r.Cost.Inputs), "a placeholder") {
			t.Errorf("%s: %v, %v", k, r.Cost.Inputs, err)
		}
		for other, v := range cost {
			if math.Abs(r.Cost.Value-v) < 0.05*v {
				t.Errorf("%s costs what %s does: %v", k, other, v)
			}
		}
		cost[k] = r.Cost.Value
	}
	if want := 365*2*0.003 + 365*2/30.83*0.018*1.5; !near(cost[machine.Softener], want, 0.01) {
		t.Errorf("softener: %v a year, want %v", cost[machine.Softener], want)
	}
	osmosis := Usual(machine.ReverseOsmosis)
	osmosis.Blend = 0
	bare, err := Lay(osmosis, f, m, l)
	if err != nil || bare.Effect.Corrosion.Verdict != reason.Look || bare.Scale.Value > 0.1*raw.Scale.Value {
		t.Errorf("bare permeate: %+v, %v g, %v", bare.Effect.Corrosion, bare.Scale.Value, err)
	}
}

func TestSettingsAreChecked(t *testing.T) {
	for _, k := range machine.Treatments() {
		if err := Usual(k).Check(); err != nil {
			t.Errorf("%s: %v", k, err)
		}
	}
	for field, spoil := range map[string]func(*Setting){
		"rated_l": func(s *Setting) { s.Rated = 0 }, "bypass": func(s *Setting) { s.Bypass = 1 },
		"price":  func(s *Setting) { s.Price = math.NaN() },
		"salt_g": func(s *Setting) { s.Salt = 5 }, "kind": func(s *Setting) { s.Kind = "magnet" },
		"days": func(s *Setting) { s.Days = -1 },
	} {
		s := Usual(machine.UnderSink)
		spoil(&s)
		var bad *units.OutOfRange
		if err := s.Check(); !errors.As(err, &bad) || bad.Field != field {
			t.Errorf("%s: %v", field, err)
		}
	}
}

// BenchmarkTable: the seven treatments of one water for one machine, beside the
// 2 ms they may take.
func BenchmarkTable(b *testing.B) {
	f, err := water.Sample{Hardness: units.Between(200, 280)}.Fill()
	if err != nil {
		b.Fatal(err)
	}
	m := machine.Answers{Layout: machine.DualHome}.Facts()
	l, err := circuit.LitresADay(m, circuit.UseOf(4, 2))
	if err != nil {
		b.Fatal(err)
	}
	var list []Setting
	for _, k := range machine.Treatments() {
		list = append(list, Usual(k))
	}
	for b.Loop() {
		if _, err := Table(list, f, m, l, Known{}); err != nil {
			b.Fatal(err)
		}
	}
	b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(b.N)/2e6, "of_2_ms")
}
