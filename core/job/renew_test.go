package job

import (
	"errors"
	"strings"
	"testing"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/treat"
	"freshanvil/core/units"
)

var renewedAt = time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)

// A new filter soaks while the old one comes out and the strainer is looked at; the
// month that is set is two months on (common practice in the tank).
func TestFilterChange(t *testing.T) {
	p, err := Renew(answers(machine.DualHome, machine.Yes), treat.Usual(machine.InTank), renewedAt)
	if err != nil {
		t.Fatal(err)
	}
	soak := p.Steps()[3]
	if body, ok := BodyOf[Soak](soak); !ok || soak.Lane != FilterLane || soak.After[0] != "in" ||
		body.For != 5*time.Minute {
		t.Errorf("%+v", soak)
	}
	if month := p.Steps()[5].Do[0]; !strings.Contains(month, "May 2026") {
		t.Error(month)
	}
	// by hand: 1 + 1 + 1 + 2 min and 20 s of work, three of the five minutes of soaking are left
	if want := 8 + 1.0/3; p.Minutes.Value < want-1e-9 || p.Minutes.Value > want+1e-9 {
		t.Errorf("%v min, want %v", p.Minutes.Value, want)
	}
	if p.TankUses.Value != 500 {
		t.Errorf("%v mL through the new filter", p.TankUses.Value)
	}
	var no *reason.Refusal
	_, err = Renew(answers(machine.DualHome, machine.Yes), treat.Usual(machine.Bottled), renewedAt)
	if !errors.As(err, &no) || no.Code != NothingToRenew || no.Field != "treatment" {
		t.Errorf("bottled water is renewed: %v", err)
	}
}

// Each kind is changed as it really is: only what stands in a tank or a jug soaks; what is under
// the counter is opened with its supply shut and its pressure off, and is flushed into a bucket; a
// softener gets its salt by its size.
func TestEachKindIsRenewedAsItIs(t *testing.T) {
	resin := func(litres, salt float64) treat.Setting {
		s := treat.Usual(machine.Softener)
		s.Resin, s.Salt = litres, salt
		return s
	}
	for name, c := range map[string]struct {
		s     treat.Setting
		steps string
		says  []string
		never []string
	}{
		"a jug": {treat.Usual(machine.Jug), "in out soak fit month", []string{"pour both fillings away"},
			[]string{"machine", "supply"}},
		"in the tank": {treat.Usual(machine.InTank), "in out strainer soak fit month",
			[]string{"until no bubbles come", "500 mL through"}, []string{"bucket", "supply"}},
		"under the sink": {treat.Usual(machine.UnderSink), "out in flush on month",
			[]string{"Shut the tap", "pressure out", "dry", "5 L run into the bucket", "dry paper"},
			[]string{"jug until no bubbles"}},
		"reverse osmosis": {treat.Usual(machine.ReverseOsmosis), "out in membrane flush on month",
			[]string{"Shut the tap", "prefilters", "membrane", "all of it run away"}, []string{"until no bubbles"}},
		"a small softener": {treat.Usual(machine.Softener), "out strainer soak rinse back",
			[]string{"18 g of salt, about 3 teaspoons"}, nil},
		"one under the counter": {resin(8, 1500), "out salt rinse back on",
			[]string{"1.5 kg of softener salt", "drain hose", "outlet to the machine stays shut"},
			[]string{"teaspoon", "jug of warm"}},
		"a mains softener": {resin(25, 3000), "salt programme on",
			[]string{"3.0 kg", "its own programme"}, []string{"teaspoon", "lid"}},
	} {
		t.Run(name, func(t *testing.T) {
			for _, l := range []machine.Layout{machine.DualHome, machine.HXCafe} {
				if l == machine.HXCafe && RenewsBeside(c.s) { // it has no tank
					continue
				}
				p, err := Renew(answers(l, machine.Yes), c.s, renewedAt)
				if err != nil || ids(p) != c.steps {
					t.Fatalf("%v: %s", err, ids(p))
				}
				text := ""
				for _, s := range p.Steps() {
					text += strings.Join(s.Do, " ") + " "
					if len(s.Cautions) == 0 || len(s.Do) == 0 || s.Button == "" {
						t.Errorf("%s is not said in full", s.ID)
					}
				}
				for _, part := range c.says {
					if !strings.Contains(text, part) {
						t.Errorf("%s: nothing of %q in: %s", l, part, text)
					}
				}
				for _, part := range c.never {
					if strings.Contains(text, part) {
						t.Errorf("%s: %q in: %s", l, part, text)
					}
				}
			}
		})
	}
}

// What is not in the tank is no part of a descale: it is renewed by itself.
func TestOnlyATankFilterIsRenewedBesideADescale(t *testing.T) {
	for kind, beside := range map[machine.Treatment]bool{
		machine.InTank: true, machine.Softener: true, machine.UnderSink: false, machine.ReverseOsmosis: false,
		machine.Jug: false,
	} {
		a := with(machine.SingleBoiler, "brew_material", "brass")
		a.Treatment = kind
		in, err := planned(t, a, "citric", 1, func(in *Sitting) { in.Renew = true })
		if err != nil {
			t.Fatal(err)
		}
		p, err := Descale(a, in)
		var bad *units.OutOfRange
		if beside != (err == nil) || !beside && (!errors.As(err, &bad) || bad.Field != "renew") {
			t.Errorf("%s: %v", kind, err)
		}
		if beside && (len(p.Activities) != 2 || p.Activities[1].Task == task.Descale) {
			t.Errorf("%s: %+v", kind, p.Activities)
		}
	}
}
