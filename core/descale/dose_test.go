package descale

import (
	"errors"
	"math"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

func near[T ~float64](a, b, off T) bool { return math.Abs(float64(a-b)) <= float64(off) }

func product(t *testing.T, id string) Product {
	t.Helper()
	for _, p := range Products() {
		if p.ID == id {
			return p
		}
	}
	t.Fatalf("no %s", id)
	return Product{}
}

func mix(t *testing.T, p Product, g units.Strength, list []Circuit, m ...Material) Card {
	t.Helper()
	c, err := Mix(p, g, list, m...)
	if err != nil {
		t.Fatal(err)
	}
	return c
}

// Worked by hand for three layouts, citric acid of 30 g/L, which takes up 14.3 g/L to
// pH 4 (30 ÷ 2.1, reference table).
//
// A single boiler of 0.3 L with its lines holds 0.35 and is not drained: a volume and
// a half, 0.525 L a fill, at 23.3 g/L; a fill takes about 0.35 × 11 = 3.9 g, so 6 g
// are two fills, 1.05 L, 31.5 g. Forty are three: more does not fit into the time.
//
// A heat exchanger's 1.8 L with its lines holds 1.85, and 0.4 stays in the tap:
// 1.11 L a fill at 18 g/L; its tube of 0.1 L is flushed.
//
// A home dual boiler drains to 0.08 by its screws: 0.92 of each vessel a fill.
func TestDoseByHandForThreeLayouts(t *testing.T) {
	citric := product(t, "citric")
	single := machine.Answers{Layout: machine.SingleBoiler}.Facts()
	c := mix(t, citric, 0, Circuits(single, units.Reading{Known: true, Likely: 6, High: 9}, units.Reading{}))
	if n := c.Needs[0]; len(c.Needs) != 1 || !near(n.Fill.Value, 0.525, 1e-9) || n.Fills.Value != 2 ||
		!near(n.Takes.Value, 3.9, 0.15) || !near(c.Solution.Value, 1.05, 1e-9) || !near(c.Measure.Value, 31.5, 1e-6) {
		t.Errorf("single boiler: %v L a fill, takes %v g, %v fills, %v L, %v g", n.Fill.Value, n.Takes.Value,
			n.Fills.Value, c.Solution.Value, c.Measure.Value)
	}
	c = mix(t, citric, 0, Circuits(single, units.Reading{Known: true, Likely: 40, High: 60}, units.Reading{}))
	if n := c.Needs[0]; n.Fills.Value != 3 || !near(n.Leaves.Value, 40-3*n.Takes.Value, 1e-9) || len(c.Findings) != 1 {
		t.Errorf("forty grams: %v fills leave %v g, %+v", n.Fills.Value, n.Leaves.Value, c.Findings)
	}
	hx := machine.Answers{Layout: machine.HXHome}.Facts()
	c = mix(t, citric, 0, Circuits(hx, units.Sharp(1), units.Sharp(4)))
	if tube, steam := c.Needs[0], c.Needs[1]; !near(tube.Fill.Value, 0.225, 1e-9) ||
		!near(steam.Fill.Value, 1.85*0.6, 1e-9) ||
		!near(steam.Strength.Value, 18, 1e-9) ||
		steam.Fill.Value < 1 ||
		steam.Rinse.Advice == nil ||
		steam.Rinse.Refills.Value != 11 {
		t.Errorf("heat exchanger: %+v", steam)
	}
	dual := machine.Answers{Layout: machine.DualHome}.Facts()
	c = mix(t, citric, 0, Circuits(dual, units.Sharp(1), units.Sharp(2)))
	if brew, steam := c.Needs[0], c.Needs[1]; !near(brew.Fill.Value, 0.35*0.92, 1e-9) ||
		!near(steam.Fill.Value, 1.05*0.92, 1e-9) ||
		steam.Rinse.Refills.Value != 4 ||
		steam.Rinse.Advice != nil {
		t.Errorf("dual boiler: %v and %v L, %v refills", brew.Fill.Value, steam.Fill.Value, steam.Rinse.Refills.Value)
	}
	// by hand, a fill of each vessel with its 0.05 L of lines: one and a half volumes where
	// it is flushed, what its heel leaves where it is drained
	for l, litres := range map[machine.Layout]float64{
		machine.Thermoblock: 0.1 * 1.5, machine.SingleBoiler: 0.35 * 1.5, machine.HXHome: 0.15*1.5 + 1.85*0.6,
		machine.HXCafe: 2*0.2*1.5 + 11.05*0.92, machine.DualHome: (0.35 + 1.05) * 0.92,
		machine.MultiCafe: 2*0.75*1.5 + 8.05*1.5, machine.LeverCam: 0.15*1.5 + 1.85*0.6,
		machine.LeverManual: 0.85 * 0.95,
	} {
		c := mix(t, citric, 0, Circuits(machine.Answers{Layout: l}.Facts(), units.Reading{}, units.Reading{}))
		if !near(c.Solution.Value, litres, 1e-9) || !near(c.Measure.Value, 30*litres, 1e-6) {
			t.Errorf("%s: %v L and %v g, want %v L", l, c.Solution.Value, c.Measure.Value, litres)
		}
	}
	// every layout fills every one of its vessels at least once
	for _, l := range machine.Layouts() {
		f := machine.Answers{Layout: l}.Facts()
		c := mix(t, citric, 0, Circuits(f, units.Reading{}, units.Reading{}))
		for _, n := range c.Needs {
			if n.Fills.Value < 1 || n.Fill.Value < float64(n.Litre)*(1-n.Heel)-1e-9 || n.Count < 1 {
				t.Errorf("%s, %s: %v fills of %v L for %v L", l, n.Title, n.Fills.Value, n.Fill.Value, n.Litre)
			}
		}
	}
}

// An ounce to 32 fluid ounces is about 30 g/L (common practice, by the definitions);
// the monohydrate takes 1.094 as much; a sachet a litre, rounded up; a liquid to the
// mark as its label says.
func TestMeasures(t *testing.T) {
	one := []Circuit{{Title: "boiler", Count: 1, Litre: 1, Heel: 0.1}}
	citric := mix(t, product(t, "citric"), 30, one)
	if !near(citric.Ounces.Value, 32, 0.1) {
		t.Errorf("an ounce to %v fl oz", citric.Ounces.Value)
	}
	hydrate := mix(t, product(t, "citric_hydrate"), 30, one)
	if got := hydrate.ALitre.Value / citric.ALitre.Value; !near(got, 1.094, 0.0005) {
		t.Errorf("the monohydrate takes %v as much", got)
	}
	if s := mix(t, product(t, "sachet"), 0,
		[]Circuit{{Title: "boiler", Count: 1, Litre: 2.2, Heel: 0.05}}); s.Measure.Value != 3 ||
		s.Measure.Unit != "sachets" || !near(s.Mixed.Value, 3, 1e-9) {
		t.Errorf("2.1 L take %v %s, in %v L", s.Measure.Value, s.Measure.Unit, s.Mixed.Value)
	}
	// a whole sachet in a third of a litre would be three times as strong as it is meant
	for _, id := range []string{"sachet", "citric", "mark"} {
		s := mix(t, product(t, id), 0, []Circuit{{Title: "block", Count: 1, Litre: 0.1}})
		if acid := s.Measure.Value * float64(s.Product.Strength()) / s.Product.Litre; !near(
			acid/s.Mixed.Value, float64(s.Strength), 1e-6) {
			t.Errorf("%s: %v g of acid in %v L, meant %v g/L", id, acid, s.Mixed.Value, s.Strength)
		}
	}
	if m := mix(t, product(t, "mark"), 0, one); !near(m.ALitre.Value, 125, 1e-9) || m.Measure.Unit != "mL" {
		t.Errorf("%v %s a litre", m.ALitre.Value, m.ALitre.Unit)
	}
	if v := mix(t, product(t, "vinegar"), 0, one); !near(v.Strength, 50, 1e-9) || !near(v.Fresh.Value, 2.42, 0.02) {
		t.Errorf("vinegar: %v g/L, pH %v", v.Strength, v.Fresh.Value)
	}
}

// More scale never asks for less acid, nor a larger vessel for less solution; the
// acid that goes in is what is left and what went out, over fills and rinses.
func TestMoreScaleNeverAsksForLess(t *testing.T) {
	random := rand.New(rand.NewPCG(5, 8))
	for range 120 {
		p := Products()[random.IntN(len(products))]
		x := Circuit{
			Title: "boiler",
			Count: 1 + random.IntN(2),
			Litre: units.Litres(0.1 + 5*random.Float64()),
			Heel:  []float64{0, 0.08, 0.4}[random.IntN(3)],
			Grams: units.Mass(20 * random.Float64()),
		}
		x.High = x.Grams * units.Mass(1+random.Float64())
		more := x
		more.Grams, more.High = x.Grams+3, x.High+3
		a, b := mix(t, p, 0, []Circuit{x}), mix(t, p, 0, []Circuit{more})
		if b.Measure.Value < a.Measure.Value {
			t.Errorf(
				"%s: %v to %v g of scale ask for %v, 3 g more for %v",
				p.ID,
				x.Grams,
				x.High,
				a.Measure.Value,
				b.Measure.Value,
			)
		}
		n := a.Needs[0]
		if n.Fills.Value*n.Takes.Value+n.Leaves.Value < float64(x.Grams)-1e-9 {
			t.Errorf("%s: %v fills take up %v g of %v and leave %v", p.ID, n.Fills.Value, n.Fills.Value*n.Takes.Value,
				x.Grams, n.Leaves.Value)
		}
		if a.Acid() > a.Ceiling()*1.001 {
			t.Errorf("%s: %v g of acid, at most %v", p.ID, a.Acid(), a.Ceiling())
		}
		// the acid over the fills: what went in is inside or was let out, and after the
		// first fill it is as strong as the card says
		in, inside, out, strength, holds := 0.0, 0.0, 0.0, float64(a.Strength), float64(x.Litre)
		for fill := range int(n.Fills.Value) {
			if x.Heel > 0 {
				out += inside * (1 - x.Heel)
				inside = inside*x.Heel + n.Fill.Value*strength
			} else { // pushed through: what was inside leaves as e^(−V ÷ Vb)
				kept := math.Exp(-n.Fill.Value / holds)
				now := inside*kept + strength*holds*(1-kept)
				out += inside + n.Fill.Value*strength - now
				inside = now
			}
			in += n.Fill.Value * strength
			if fill == 0 && !near(inside/holds, n.Strength.Value, 1e-9*strength) ||
				inside/holds > strength*(1+1e-9) {
				t.Errorf(
					"%+v: %v g/L inside after fill %d, the card says %v",
					x,
					inside/holds,
					fill+1,
					n.Strength.Value,
				)
			}
		}
		if each := float64(p.Strength()) / p.Litre; !near(in, inside+out, 1e-9*in) ||
			p.Form != Sachets && !near(in*float64(x.Count), a.Measure.Value*each, 1e-6*in) {
			t.Errorf(
				"%s, %+v: %v g in, %v inside, %v let out; %v measured",
				p.ID,
				x,
				in,
				inside,
				out,
				a.Measure.Value*each,
			)
		}
		// a stepwise rinse, drained and refilled or pushed through in small steps
		left := 1.0
		out = 0
		if x.Heel > 0 {
			for range int(n.Rinse.Refills.Value) {
				out += left * (1 - x.Heel)
				left *= x.Heel
			}
		} else {
			steps := 200000
			each := n.Rinse.Flush.Value / float64(n.Litre) / float64(steps)
			for range steps {
				gone := left * each
				left, out = left-gone, out+gone
			}
		}
		if !near(left+out, 1, 1e-9) || left > Clean*1.01 {
			t.Errorf("%+v: %v left, %v went out", x, left, out)
		}
	}
}

// Three quarts clear a boiler of 0.3 L but leave over a fifth in one of 1.8; 9.2
// volumes, or four refills at 0.08, or three and 1.7 volumes; 11 at 0.4.
func TestRinseByHand(t *testing.T) {
	const quarts units.Litres = 3 * 0.946353
	if small, large := Left(0.3, 0, 0, quarts), Left(1.8, 0, 0, quarts); !near(small, 8e-5, 1e-5) || large < 0.2 ||
		large > 0.21 {
		t.Errorf("three quarts leave %v of 0.3 L and %v of 1.8 L", small, large)
	}
	r, err := RinseOf(1, 0.08)
	if err != nil || !near(r.Flush.Value, 9.21, 0.01) || r.Refills.Value != 4 {
		t.Errorf("%v L or %v refills, %v", r.Flush.Value, r.Refills.Value, err)
	}
	if got := Left(1, 0.08, 3, 1.7); got > Clean {
		t.Errorf("three refills and 1.7 volumes leave %v", got)
	}
	if again, flush, refills := More(1.8, 0.08, 7.4, 6.4); !again || !near(flush, 4.14, 0.01) || refills != 1 {
		t.Errorf("a strip a whole step off: %v, %v L, %v refills", again, flush, refills)
	}
	if again, _, _ := More(1.8, 0.08, 7.4, 7.2); again {
		t.Error("a strip within 0.3 asks for more")
	}
}

// 125 to 45 °C in four hours for a litre (our own model's anchor); two readings set
// the constant; a home dual boiler waits four hours whatever the curve says.
func TestCooling(t *testing.T) {
	c := Cooling{From: 125, Air: 22, Tau: machine.UsualTau(1)}
	if got := c.Below(SafeToDrain).Hours(); !near(got, 4, 0.1) {
		t.Errorf("a litre from 125 °C: %v h", got)
	}
	if big := (Cooling{125, 22, machine.UsualTau(11)}).Opens(false).Value; !near(
		big/c.Opens(false).Value,
		math.Cbrt(11),
		1e-9,
	) {
		t.Errorf("eleven litres: %v h", big)
	}
	real := Cooling{From: 120, Air: 20, Tau: 5 * time.Hour}
	got, err := Cooling{Air: 20}.Calibrated(time.Hour, 3*time.Hour, real.At(time.Hour), real.At(3*time.Hour))
	if err != nil || !near(got.Tau.Hours(), 5, 1e-6) || !near(got.From, 120, 1e-6) {
		t.Errorf("%+v, %v", got, err)
	}
	small := Cooling{From: 93, Air: 22, Tau: time.Hour}
	if w := small.Opens(false).Value; w > 1.2 {
		t.Errorf("a small boiler opens after %v h", w)
	}
	if w := small.Opens(true).Value; w != 4 {
		t.Errorf("a home dual boiler opens after %v h", w)
	}
	nan := units.Temperature(math.NaN())
	for _, bad := range []Cooling{{10, 20, time.Hour}, {120, 44, time.Hour}, {120, 20, 0}, {nan, 20, time.Hour}} {
		if bad.Check() == nil {
			t.Errorf("%+v was taken", bad)
		}
	}
	if _, err := (Cooling{Air: 20}).Calibrated(time.Hour, 2*time.Hour, 60, 70); err == nil {
		t.Error("a boiler that warms was taken as cooling")
	}
}

// Citric acid of 30 g/L at pH 2.7 by a strip: 1.4, 2.8 or 4.9 g/L (worked with the
// complexes); the share moves halfway, within its bounds, and can be undone.
func TestSpentSolution(t *testing.T) {
	s, err := Was(Citric, 30, 2.7, 1, 0, true, false)
	if err != nil || !near(s.Grams.Low, 1.4, 0.1) || !near(s.Grams.Likely, 2.8, 0.1) ||
		!near(s.Grams.High, 4.9, 0.15) {
		t.Errorf("%+v, %v", s.Grams, err)
	}
	if m, _ := Was(Citric, 30, 2.7, 2, 200, false, true); !m.AtLeast || m.Grams.Low != m.Grams.High ||
		!near(m.Grams.Likely, 2*(s.Grams.Likely-0.2), 1e-9) {
		t.Errorf("by a meter, two litres, less the feed: %+v", m)
	}
	for ph, title := range map[units.PH]string{1.2: "Not spent yet", 2.4: "Spent"} {
		if s, err := Was(Sulfamic, 30, ph, 1, 0, true, false); err != nil || s.Grams.Known ||
			s.Finding.Title != title {
			t.Errorf("sulfamic at pH %v: %+v, %v", ph, s, err)
		}
	}
	for _, c := range []struct {
		s         Spent
		predicted units.Mass
		teaches   bool
	}{{s, 5, true}, {s, 0, false}, {Spent{}, 5, false}, {Spent{Grams: units.Sharp(2), AtLeast: true}, 5, false},
		{Spent{Grams: units.Sharp(9), AtLeast: true}, 5, true}} {
		if _, teaches := c.s.Teaches(1, c.predicted); teaches != c.teaches {
			t.Errorf("%+v beside %v g predicted teaches: %v", c.s, c.predicted, teaches)
		}
	}
	for _, c := range []struct{ share, measured, predicted, want float64 }{{1, 5, 10, 0.75}, {1, 100, 10, 1.25},
		{1, 0, 10, 0.6}, {0.5, 4, 2, 0.75}, {0.8, 3, 0, 0.8}} {
		if got := Calibrate(c.share, units.Mass(c.measured), units.Mass(c.predicted)).Value; !near(got, c.want, 1e-12) {
			t.Errorf("%+v: %v", c, got)
		}
	}
}

// Bad input is refused with the field, and what must not touch is refused with its
// reason.
func TestBadInput(t *testing.T) {
	one := []Circuit{{Title: "boiler", Count: 1, Litre: 1}}
	citric := product(t, "citric")
	unknown := citric
	unknown.Parts = []Part{{"hydrochloric", 1}}
	for field, call := range map[string]func() error{
		"acid":       func() error { _, err := Mix(unknown, 30, one); return err },
		"acid_g_l":   func() error { _, err := Mix(citric, 500, one); return err },
		"acid_g_l ":  func() error { _, err := Mix(citric, -1, one); return err },
		"litre":      func() error { _, err := Mix(citric, 30, []Circuit{{Title: "boiler", Count: 1}}); return err },
		"circuits":   func() error { _, err := Mix(citric, 30, nil); return err },
		"litres":     func() error { _, err := Was(Citric, 30, 2.7, 0, 0, true, false); return err },
		"a_litre":    func() error { p := citric; p.Litre = 0; return p.Check() },
		"form":       func() error { p := citric; p.Form = "gas"; return p.Check() },
		"heel":       func() error { _, err := RinseOf(1, 1); return err },
		"name":       func() error { p := citric; p.Name = ""; return p.Check() },
		"grams":      func() error { p := citric; p.Parts = []Part{{Citric, 2}}; return p.Check() },
		"parts":      func() error { p := citric; p.Parts = nil; return p.Check() },
		"circuits  ": func() error { _, err := Mix(citric, 30, []Circuit{{Title: "b", Count: 0, Litre: 1}}); return err },
	} {
		var bad *units.OutOfRange
		if err := call(); !errors.As(err, &bad) || bad.Field != strings.TrimSpace(field) {
			t.Errorf("%s: %v", field, err)
		}
	}
	for _, c := range []struct {
		product string
		g       units.Strength
		code    reason.Code
		field   string
	}{{"sulfamic", 0, HarmsMaterial, "product"}, {"citric", 30, TooStrong, "strength_g_l"}} {
		var no *reason.Refusal
		if _, err := Mix(product(t, c.product), c.g, one, Aluminium); !errors.As(err, &no) || no.Code != c.code ||
			no.Field != c.field || len(no.Finding.Because) == 0 || len(no.Finding.Next) == 0 {
			t.Errorf("%s of %v g/L on aluminium: %v", c.product, c.g, err)
		}
	}
	// where nobody asks for a strength it is as weak as the material needs
	if c := mix(t, citric, 0, one, Aluminium); c.Strength != 20 {
		t.Errorf("on aluminium %v g/L", c.Strength)
	}
	if c := mix(t, citric, 15, one, Aluminium, Copper, Stainless, Stone); len(c.Findings) != 3 {
		t.Errorf("%+v", c.Findings)
	}
	for _, p := range Products() {
		if err := p.Check(); err != nil {
			t.Errorf("%s: %v", p.ID, err)
		}
		for _, m := range Materials() {
			if f := p.Suits(m, p.Strength()); f.Title == "" || len(f.Because) == 0 {
				t.Errorf("%s on %s: %+v", p.ID, m, f)
			}
		}
	}
}

// How long acid may stand (our own engineering choices; the label goes before them):
// citric or lactic up to 30 g/L 90 minutes, sulfamic 30, aluminium 20; a machine whose
// material is not said has the worst its layout is built of.
func TestContact(t *testing.T) {
	labelled := product(t, "citric")
	labelled.Minutes = 15
	for name, c := range map[string]struct {
		p    Product
		g    units.Strength
		m    Material
		want time.Duration
	}{
		"citric on steel":     {product(t, "citric"), 30, Stainless, 90 * time.Minute},
		"lactic on brass":     {product(t, "lactic"), 30, Brass, 90 * time.Minute},
		"stronger":            {product(t, "citric"), 40, Copper, time.Hour},
		"sulfamic":            {product(t, "sulfamic"), 30, Stainless, 30 * time.Minute},
		"vinegar":             {product(t, "vinegar"), 50, Stainless, time.Hour},
		"citric on aluminium": {product(t, "citric"), 20, Aluminium, 20 * time.Minute},
		"by its label":        {labelled, 30, Stainless, 15 * time.Minute},
	} {
		t.Run(name, func(t *testing.T) {
			if got := Contact(c.p, c.g, c.m); got != c.want {
				t.Errorf("%v, want %v", got, c.want)
			}
		})
	}
	for l, want := range map[machine.Layout]Material{machine.Thermoblock: Aluminium, machine.SingleBoiler: Aluminium,
		machine.HXHome: Brass, machine.DualHome: Brass, machine.MultiCafe: Brass} {
		if m, said := Careful(machine.Answers{Layout: l}.Facts()); m != want || said {
			t.Errorf("%s is taken as %s, said: %v", l, m, said)
		}
	}
}
