package machine

import (
	"errors"
	"math"
	"strconv"
	"strings"
	"testing"

	"freshanvil/core/reason"
	"freshanvil/core/units"
)

func good() Answers {
	return Answers{
		Layout:     SingleBoiler,
		Valve:      Yes,
		Drinks:     4,
		MilkDrinks: 2,
		Hardness:   units.UnknownHardness(),
		Treatment:  Untreated,
	}
}

// A machine vents only where it has a valve somebody is sure of; can't tell
// counts as no (our own engineering choice, the safe one).
func TestValveByLayoutAndAnswer(t *testing.T) {
	for _, c := range []struct {
		layout Layout
		answer Answer
		want   Valve
	}{
		{SingleBoiler, Yes, Solenoid}, {Thermoblock, No, NoValve}, {HXHome, CannotTell, Unsure},
		{LeverCam, Yes, Cam}, {LeverCam, CannotTell, Unsure}, {LeverManual, No, NoValve},
		{LeverManual, CannotTell, NoValve}, {MultiCafe, Yes, Solenoid},
	} {
		a := good()
		a.Layout, a.Valve = c.layout, c.answer
		f := a.Facts()
		if f.Valve != c.want {
			t.Errorf("%s, valve %s: %s, want %s", c.layout, c.answer, f.Valve, c.want)
		}
		if f.Valve.Vents() != (c.want == Solenoid || c.want == Cam) {
			t.Errorf("%s, valve %s: vents %v", c.layout, c.answer, f.Valve.Vents())
		}
	}
}

// The defaults the wash rests on, by layout (our own engineering choice,
// marked common practice where the trade agrees).
func TestDefaultsByLayout(t *testing.T) {
	for _, c := range []struct {
		layout             Layout
		groups             int
		stays, vents, tray units.Volume
		tank               units.Volume
		pump               Pump
	}{
		{Thermoblock, 1, 20, 30, 500, 1800, Vibratory},
		{SingleBoiler, 1, 30, 40, 500, 2000, Vibratory},
		{HXHome, 1, 30, 40, 1000, 2500, Vibratory},
		{HXCafe, 2, 30, 40, 0, 0, Rotary},
		{DualHome, 1, 30, 40, 800, 2000, Vibratory},
		{MultiCafe, 2, 30, 40, 0, 0, Rotary},
		{LeverCam, 1, 30, 40, 1000, 2500, Vibratory},
		{LeverManual, 1, 0, 0, 300, 0, NoPump},
	} {
		a := good()
		a.Layout = c.layout
		if c.layout == LeverManual {
			a.Valve = No
		}
		if err := a.Check(); err != nil {
			t.Fatalf("%s: %v", c.layout, err)
		}
		f := a.Facts()
		if f.Groups != c.groups || f.Stays != c.stays || f.Vents != c.vents || f.Tray != c.tray || f.Tank != c.tank ||
			f.Pump != c.pump {
			t.Errorf("%s: %+v", c.layout, f)
		}
		if f.Plumbed != c.layout.Commercial() || c.layout.Title() == "" {
			t.Errorf("%s: plumbed %v, title %q", c.layout, f.Plumbed, c.layout.Title())
		}
	}
}

func TestAnswersRefused(t *testing.T) {
	for _, c := range []struct {
		field  string
		change func(*Answers)
	}{
		{"layout", func(a *Answers) { a.Layout = "samovar" }},
		{"valve", func(a *Answers) { a.Valve = "perhaps" }},
		{"valve", func(a *Answers) { a.Layout = LeverManual }},
		{"drinks_per_day", func(a *Answers) { a.Drinks = 10000 }},
		{"drinks_per_day", func(a *Answers) { a.Drinks = -1 }},
		{"drinks_per_day", func(a *Answers) { a.Drinks = math.NaN() }},
		{"milk_drinks_per_day", func(a *Answers) { a.MilkDrinks = 5 }},
		{"milk_drinks_per_day", func(a *Answers) { a.MilkDrinks = -2 }},
		{"treatment", func(a *Answers) { a.Treatment = "magnets" }},
		{"groups", func(a *Answers) { a.Overrides = map[string]string{"groups": "9"} }},
		{"groups", func(a *Answers) { a.Overrides = map[string]string{"groups": "1.5"} }},
		{"tray_l", func(a *Answers) { a.Overrides = map[string]string{"tray_l": "-1"} }},
		{"tray_l", func(a *Answers) { a.Overrides = map[string]string{"tray_l": "NaN"} }},
		{"pump", func(a *Answers) { a.Overrides = map[string]string{"pump": "steam"} }},
		{"key", func(a *Answers) { a.Overrides = map[string]string{"wings": "2"} }},
		{"key", func(a *Answers) { a.Overrides = map[string]string{"steam_l": "2"} }},
	} {
		a := good()
		c.change(&a)
		var bad *units.OutOfRange
		if err := a.Check(); !errors.As(err, &bad) || bad.Field != c.field || bad.Value == "" || bad.Allowed == "" {
			t.Errorf("%+v: %v, want %s refused with value and what is allowed", a, err, c.field)
		}
	}
}

// A café: its layout is commercial, or a group makes 50 or more shots a day.
func TestCafe(t *testing.T) {
	for _, c := range []struct {
		layout Layout
		groups int
		drinks float64
		want   bool
	}{
		{SingleBoiler, 0, 49, false}, {SingleBoiler, 0, 50, true}, {HXHome, 2, 98, false}, {HXHome, 2, 100, true},
		{HXCafe, 0, 5, true}, {MultiCafe, 0, 300, true},
	} {
		a := good()
		a.Layout, a.Drinks = c.layout, c.drinks
		if c.groups > 0 {
			a.Overrides = map[string]string{"groups": strconv.Itoa(c.groups)}
		}
		got, why := a.Cafe()
		if got != c.want || got != (why.Text != "") {
			t.Errorf("%s with %v drinks: café %v because %q, want %v", c.layout, c.drinks, got, why.Text, c.want)
		}
	}
}

func TestAssumptionsAreSaidWithTheirMark(t *testing.T) {
	for _, l := range Layouts() {
		a := good()
		a.Layout = l
		list := a.Assumptions()
		if len(list) < 12 {
			t.Errorf("%s: only %d assumptions", l, len(list))
		}
		for _, s := range list {
			if s.Label == "" || strings.TrimSpace(s.Value) == "" || s.Source.Kind == "" {
				t.Errorf("%s: %+v is not said in full", l, s)
			}
		}
	}
}

// Every fact has a place in the table, a range that takes its own default, and
// says what it changes; every default is a fact.
func TestFactsAndTableAgree(t *testing.T) {
	keys := map[string]bool{}
	for _, f := range facts {
		keys[f.Key] = true
		if f.Label == "" || f.Changes == "" || (f.Options == nil) == (f.Max == 0) {
			t.Errorf("%s is not said in full", f.Key)
		}
	}
	if len(table) != len(Layouts()) {
		t.Errorf("%d layouts in the table, want %d", len(table), len(Layouts()))
	}
	for _, l := range Layouts() {
		a := good()
		a.Layout = l
		for key := range table[l] {
			if !keys[key] {
				t.Errorf("%s: the table has %s, which is no fact", l, key)
			}
		}
		for _, k := range a.Known() {
			if err := a.CheckOverride(k.Key, k.Default); err != nil {
				t.Errorf("%s: the default is refused: %v", l, err)
			}
		}
	}
}

func TestOverridesStandInForDefaults(t *testing.T) {
	a := good()
	a.Overrides = map[string]string{"tray_l": "0", "groups": "3", "water": "mains", "double_g": "20"}
	if err := a.Check(); err != nil {
		t.Fatal(err)
	}
	f := a.Facts()
	if f.Tray != 0 || f.Groups != 3 || !f.Plumbed || f.Tank != 0 || f.Double != 20 {
		t.Errorf("%+v", f)
	}
	set := 0
	for _, k := range a.Known() {
		if k.Set {
			set++
			if k.Source != reason.Said || k.Default == k.Value {
				t.Errorf("%s: %+v", k.Key, k)
			}
		}
	}
	if all := len(a.Known()); set != 4 || len(a.Assumptions()) != all-4 {
		t.Errorf("%d set, %d assumptions of %d", set, len(a.Assumptions()), all)
	}
}
