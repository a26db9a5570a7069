package treat

import (
	"testing"

	"freshanvil/core/circuit"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
)

// side is a row of which only what is weighed is said.
func side(kind machine.Treatment, descale, cost, minutes float64, corrosion reason.Verdict) Row {
	days := reason.Worked{Name: "days between descales", Value: descale, Unit: "days"}.Exact()
	r := Row{Setting: Setting{Kind: kind}, Descale: days,
		Cost:    reason.Worked{Name: "cost a year", Value: cost, Unit: "money"}.Exact(),
		Minutes: reason.Worked{Name: "work a year", Value: minutes, Unit: "min"}.Exact()}
	r.Effect = circuit.Effect{Corrosion: reason.Finding{Verdict: corrosion,
		Because: []reason.Reason{{Text: "Chloride is high."}}}}
	return r
}

// TestAdviseByHand: untreated, a descale every 73 days takes 5 × (90 + 3 × 4) = 510 min a year. A filter of 60 money
// and 30 min with one descale a year takes 30 + 240 + 102 = 372: it is picked, and saves 4 descales,
// 4 × 90 - 30 = 330 min,
// and costs 60 - 12 = 48 more.
func TestAdviseByHand(t *testing.T) {
	none := side(machine.Untreated, 73, 0, 0, reason.Fine)
	filter := side(machine.InTank, 365, 60, 30, reason.Fine)
	dear := side(machine.Bottled, 365, 400, 100, reason.Fine)
	a, any := Advise([]Row{none, dear, filter}, 0, DescaledAtHome, machine.Facts{}, 2)
	if !any || a.Stay || a.Row.Setting.Kind != machine.InTank {
		t.Fatalf("%+v", a)
	}
	for _, c := range []struct {
		name string
		got  reason.Worked
		want float64
	}{{"descales", a.Descales, 4}, {"minutes", a.Minutes, 330}, {"money", a.Money, -48}} {
		if !near(c.got.Value, c.want, 1e-9) {
			t.Errorf("%s saved: %v, want %v", c.name, c.got.Value, c.want)
		}
	}
	if len(a.Because) == 0 {
		t.Error("no reason")
	}
}

func TestAdviseStaysAndRefuses(t *testing.T) {
	none := side(machine.Untreated, 365, 0, 0, reason.Fine)
	little := side(machine.Jug, 400, 0, 0, reason.Fine)
	for _, c := range []struct {
		name string
		rows []Row
		now  int
		want machine.Treatment
		stay bool
		any  bool
	}{
		{"a gain of a tenth is needed", []Row{none, little}, 0, machine.Untreated, true, true},
		{"what may corrode is left, at any price", []Row{side(machine.Softener, 3650, 0, 0, reason.Look),
			side(machine.Bottled, 365, 500, 200, reason.NotKnown)}, 0, machine.Bottled, false, true},
		{"nothing can be picked", []Row{side(machine.Softener, 3650, 0, 0, reason.Look)}, 0, "", false, false},
		{"nobody says what it is now", []Row{none}, -1, "", false, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			a, any := Advise(c.rows, c.now, DescaledAtHome, machine.Facts{}, 2)
			if any != c.any || any && (a.Stay != c.stay || a.Row.Setting.Kind != c.want) {
				t.Errorf("%v, %+v", any, a)
			}
			if any && !a.Stay && c.rows[c.now].Effect.Corrosion.Verdict == reason.Look && len(a.Because) < 2 {
				t.Error("nothing is said of the corrosion")
			}
		})
	}
}

// TestAdviseOnWaters: a hard water wants something; a soft one is left as it is, in a machine at home.
func TestAdviseOnWaters(t *testing.T) {
	f := machine.Answers{Layout: machine.DualHome, Valve: machine.Yes, Drinks: 6, MilkDrinks: 3}.Facts()
	var list []Setting
	now := 0
	for i, k := range machine.Treatments() {
		list = append(list, Usual(k))
		if k == machine.Untreated {
			now = i
		}
	}
	l, err := circuit.LitresADay(f, circuit.UseOf(6, 3))
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		hardness, alkalinity float64
		stay                 bool
	}{{320, 260, false}, {40, 35, true}} {
		rows, err := Table(list, fill(t, c.hardness, c.alkalinity), f, l, Known{Measured: true})
		if err != nil {
			t.Fatal(err)
		}
		a, any := Advise(rows, now, DescaledAtHome, f, l.All.Value)
		if !any || a.Stay != c.stay {
			t.Errorf("%v mg/L: %v, stay %v, %s", c.hardness, any, a.Stay, a.Row.Setting.Kind)
		}
	}
}

// TestHandy: nothing is carried by hand to a machine on the mains, nor a hundred litres to any.
func TestHandy(t *testing.T) {
	for _, c := range []struct {
		kind    machine.Treatment
		plumbed bool
		litres  float64
		want    bool
	}{
		{machine.Bottled, false, 2, true}, {machine.Bottled, false, 100, false}, {machine.Jug, true, 2, false},
		{machine.InTank, true, 2, false}, {machine.InTank, false, 30, true}, {machine.UnderSink, true, 200, true},
		{machine.Untreated, true, 200, true}, {machine.ReverseOsmosis, false, 2, true},
	} {
		if got := Handy(c.kind, machine.Facts{Plumbed: c.plumbed}, c.litres); got != c.want {
			t.Errorf("%s, plumbed %v, %v L a day: %v", c.kind, c.plumbed, c.litres, got)
		}
	}
}
