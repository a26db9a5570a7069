package descale

import (
	"errors"
	"math"
	"strings"
	"testing"

	"freshanvil/core/units"
)

func fresh() Pipes {
	return Pipes{Vented: true, Vessels: []Vessel{
		{ID: "tank", Kind: Source, Holds: 2, Litres: 2, Acid: 1, Keeps: 0.2},
		{ID: "boiler", Kind: InCircuit, Holds: 0.5, Litres: 0.5, Heel: 0.08},
		{ID: "jug", Kind: Catch, Holds: 1},
	}}
}

// What goes through a well mixed circuit leaves c0 (1 − e^(−V ÷ Vb)) in it, and
// nothing is lost on the way: the acid of tank, boiler and jug is what it was.
func TestPushMixesAndLosesNothing(t *testing.T) {
	p := fresh()
	acid := func() (sum float64) {
		for _, v := range p.Vessels {
			sum += v.Litres * v.Acid
		}
		return sum
	}
	was := acid()
	if err := p.Do(Move{Kind: Pushes, From: "tank", Through: "boiler", To: "jug", Litres: 0.5}); err != nil {
		t.Fatal(err)
	}
	if got := p.At("boiler").Acid; math.Abs(got-(1-math.Exp(-1))) > 1e-12 || math.Abs(acid()-was) > 1e-12 {
		t.Errorf("strength %v, acid %v of %v", got, acid(), was)
	}
	if err := p.Do(Move{Kind: Drains, From: "boiler", To: "jug", Litres: 0.3}); err != nil {
		t.Fatal(err)
	}
	if err := p.Do(Move{Kind: Fills, From: "tank", To: "boiler", Litres: 0.3}); err != nil || !p.At("boiler").Full() ||
		math.Abs(acid()-was) > 1e-12 {
		t.Errorf("filled again: %+v, %v", p.At("boiler"), err)
	}
}

func TestUnsafeMovesChangeNothing(t *testing.T) {
	for _, c := range []struct {
		name  string
		put   func(*Pipes)
		move  Move
		field string
	}{
		{"jug over", nil, Move{Kind: Pushes, From: "tank", Through: "boiler", To: "jug", Litres: 0.9}, "jug"},
		{"tank dry", func(p *Pipes) { p.At("jug").Holds = 9 },
			Move{Kind: Pushes, From: "tank", Through: "boiler", To: "jug", Litres: 1.9}, "source|tank"},
		{"tank over", nil, Move{Kind: Pours, To: "tank", Litres: 0.1}, "tank"},
		{"boiler over", nil, Move{Kind: Fills, From: "tank", To: "boiler", Litres: 0.1}, "boiler"},
		{"emptied under heat", func(p *Pipes) { p.Hot = true }, Move{Kind: Drains, From: "boiler", To: "jug", Litres: 0.1},
			"boiler"},
		{"heated empty", func(p *Pipes) { p.At("boiler").Litres = 0.1 }, Move{Kind: Heats}, "boiler"},
		{"acid heated shut", func(p *Pipes) { p.At("boiler").Acid = 0.5; p.Vented = false }, Move{Kind: Heats}, "boiler"},
		{"shut on hot acid", func(p *Pipes) { p.At("boiler").Acid = 0.5; p.Hot = true }, Move{Kind: Shuts}, "boiler"},
		{"past the heel", nil, Move{Kind: Drains, From: "boiler", To: "jug", Litres: 0.49}, "boiler"},
		{"through half a boiler", func(p *Pipes) { p.At("boiler").Litres = 0.2 },
			Move{Kind: Pushes, From: "tank", Through: "boiler", To: "jug", Litres: 0.1}, "boiler"},
		{"no such vessel", nil, Move{Kind: Drains, From: "kettle", To: "jug"}, "move"},
		{"no such move", nil, Move{Kind: "shakes"}, "move"},
		{"not a number", nil, Move{Kind: Pours, To: "tank", Litres: math.NaN()}, "litres"},
	} {
		p := fresh()
		if c.put != nil {
			c.put(&p)
		}
		before := p.Clone()
		err := p.Do(c.move)
		var bad *units.OutOfRange
		if !errors.As(err, &bad) || !strings.Contains(c.field, bad.Field) {
			t.Errorf("%s: %v", c.name, err)
		}
		for i := range p.Vessels {
			if p.Vessels[i] != before.Vessels[i] {
				t.Errorf("%s changed %+v", c.name, p.Vessels[i])
			}
		}
		if p.Hot != before.Hot || p.Vented != before.Vented {
			t.Errorf("%s changed the heater or the outlet", c.name)
		}
	}
}

// Citric acid of 30 g/L at pH 2.7 took up about 2.8 g/L (worked from the acid's own
// constants). What a fill leaves behind counts once.
func TestTallyCountsALeftoverOnce(t *testing.T) {
	var one Tally
	s := Strip{PH: 2.7, Meter: true}
	one.Add(Citric, 30, s, 1, 0)
	if one.Likely < 2.6 || one.Likely > 3.0 || one.AtLeast {
		t.Errorf("%+v", one)
	}
	one.Carry(0.5)
	was := one.Likely
	one.Add(Citric, 30, s, 1, 0) // half of it is the first fill's
	if got := one.Likely - was; math.Abs(got-was/2) > 1e-9 {
		t.Errorf("the second fill adds %v, want half of %v", got, was)
	}
	one.Add(Citric, 30, Strip{None: true}, 1, 0)
	if sum, any := Sum(one, Tally{}); !any || !sum.AtLeast || sum.Grams.Likely != one.Likely {
		t.Errorf("with one unread: %+v", sum)
	}
	if _, any := Sum(Tally{Fills: 1, AtLeast: true}); any {
		t.Error("nothing was read, and something is said")
	}
}

func TestStrips(t *testing.T) {
	if err := (Strip{PH: 15}).Check(); err == nil {
		t.Error("pH 15 is read")
	}
	if err := (Strip{PH: 3}).CheckFeed(); err == nil {
		t.Error("a feed of pH 3 is rinsed with")
	}
	for _, c := range []struct {
		s    Strip
		want bool
		need int
	}{{Strip{PH: 7.4, Taste: TasteGone}, true, 2}, {Strip{PH: 7.2, Taste: TasteGone, Meter: true}, true, 1},
		{Strip{PH: 7.1, Taste: TasteGone}, false, 2}, {Strip{PH: 7.5, Taste: TasteAcid}, false, 2},
		{Strip{PH: 7.5}, false, 2}, {Strip{None: true, Taste: TasteGone}, false, 2}} {
		if c.s.Matches(7.5) != c.want || c.s.Needs() != c.need {
			t.Errorf("%+v beside 7.5: %v, needs %d", c.s, c.s.Matches(7.5), c.s.Needs())
		}
	}
}
