// Package machine knows what an espresso machine is made of: the layouts, the
// facts kept of one machine, and the defaults that stand in for what nobody
// has looked up yet.
//
// It decides whether a machine has a three-way valve. What may be done with
// the machine is decided by the packages of the work itself.
package machine

import (
	"fmt"
	"strconv"
	"strings"

	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// Layout is how a machine is built.
type Layout string

// The layouts.
const (
	Thermoblock  Layout = "thermoblock"
	SingleBoiler Layout = "single_boiler"
	HXHome       Layout = "hx_home"
	HXCafe       Layout = "hx_cafe"
	DualHome     Layout = "dual_home"
	MultiCafe    Layout = "multi_cafe"
	LeverCam     Layout = "lever_cam"
	LeverManual  Layout = "lever_manual"
)

// Answer is yes, no or can't tell.
type Answer string

// The answers.
const (
	Yes        Answer = "yes"
	No         Answer = "no"
	CannotTell Answer = "cannot_tell"
)

// Valve is the kind of three-way valve in the group.
type Valve string

// The valves. Unsure counts as none wherever it matters.
const (
	NoValve  Valve = "none"
	Unsure   Valve = "unsure"
	Solenoid Valve = "solenoid"
	Cam      Valve = "cam"
)

// Vents says whether the valve lets pressed water out backwards.
func (v Valve) Vents() bool { return v == Solenoid || v == Cam }

// Treatment is what treats the water before it reaches the machine.
type Treatment string

// The treatments.
const (
	Untreated      Treatment = "none"
	Jug            Treatment = "jug"
	InTank         Treatment = "in_tank"
	UnderSink      Treatment = "under_sink"
	Softener       Treatment = "softener"
	ReverseOsmosis Treatment = "reverse_osmosis"
	Bottled        Treatment = "bottled"
)

// Treatments lists them in the order they are asked.
func Treatments() []Treatment {
	return []Treatment{Untreated, Jug, InTank, UnderSink, Softener, ReverseOsmosis, Bottled}
}

// Pump is the kind of pump.
type Pump string

// The pumps.
const (
	NoPump    Pump = "none"
	Vibratory Pump = "vibratory"
	Rotary    Pump = "rotary"
)

// Facts are what is kept of one machine. Volumes are millilitres; a zero
// TankL means mains water or no tank, a zero Tray a waste pipe.
type Facts struct {
	Layout Layout
	Valve  Valve
	Groups int

	Brew, Steam units.Volume // Steam is 0 where brew and steam share one boiler, or there is none
	Heater      string       // watts, element by element
	Tank        units.Volume
	Plumbed     bool
	Tray        units.Volume
	Pump        Pump
	FreeFlow    float64 // mL/s through an open group
	Stays       units.Volume
	Vents       units.Volume // a pulse
	Powder      units.Density
}

// row is one column of the defaults table.
type row struct {
	layout              Layout
	title               string
	groups              int
	brew, steam         units.Volume
	brewText, steamText string
	heater              string
	tank, tray          units.Volume
	plumbed             bool
	pump                Pump
	flow                float64
	stays, vents        units.Volume
	heel, cooling       string
	practice            string // which of the fields are common practice; the others are our choice
	commercial          bool
}

// The defaults by layout: common practice where named so, else our own
// engineering choice. All of them can be wrong for a given machine.
var rows = []row{
	{layout: Thermoblock, title: "Thermoblock or thermocoil", groups: 1, brew: 50, brewText: "0.05 L", steamText: "none", heater: "1300 W", tank: 1800, tray: 500, pump: Vibratory, flow: 6, stays: 20, vents: 30, heel: "flush only", cooling: "0.7 h", practice: "pump"},
	{layout: SingleBoiler, title: "Single boiler", groups: 1, brew: 300, brewText: "0.3 L", steamText: "the same boiler", heater: "1100 W", tank: 2000, tray: 500, pump: Vibratory, flow: 8, stays: 30, vents: 40, heel: "flush only", cooling: "1.8 h", practice: "pump brew heater"},
	{layout: HXHome, title: "Heat exchanger, home", groups: 1, brew: 100, steam: 1800, brewText: "0.1 L, a tube", steamText: "1.8 L", heater: "1400 W", tank: 2500, tray: 1000, pump: Vibratory, flow: 8, stays: 30, vents: 40, heel: "tap 0.4, plug 0.08", cooling: "3.2 h", practice: "pump steam"},
	{layout: HXCafe, title: "Heat exchanger, café", groups: 2, brew: 150, steam: 11000, brewText: "0.15 L a group, a tube", steamText: "11 L", heater: "3500 W", plumbed: true, pump: Rotary, flow: 30, stays: 30, vents: 40, heel: "plug 0.08", cooling: "6 h", practice: "pump", commercial: true},
	{layout: DualHome, title: "Dual boiler, home", groups: 1, brew: 300, steam: 1000, brewText: "0.3 L", steamText: "1.0 L", heater: "800 + 1200 W", tank: 2000, tray: 800, pump: Vibratory, flow: 8, stays: 30, vents: 40, heel: "screw 0.08, tap 0.4", cooling: "brew 1.8 h, steam 2.7 h", practice: "pump brew steam heel"},
	{layout: MultiCafe, title: "Multi boiler, café", groups: 2, brew: 700, steam: 8000, brewText: "0.7 L a group", steamText: "8 L", heater: "1000 W a group + 4000 W", plumbed: true, pump: Rotary, flow: 30, stays: 30, vents: 40, heel: "technician", cooling: "5.4 h", practice: "pump", commercial: true},
	{layout: LeverCam, title: "Lever with a cam valve", groups: 1, brew: 100, steam: 1800, brewText: "0.1 L, a tube", steamText: "1.8 L", heater: "1400 W", tank: 2500, tray: 1000, pump: NoPump, flow: 8, stays: 30, vents: 40, heel: "tap 0.4, plug 0.08", cooling: "3.2 h", practice: "steam"},
	{layout: LeverManual, title: "Spring or manual lever", groups: 1, brew: 800, brewText: "0.8 L", steamText: "the same boiler", heater: "900 W", tray: 300, pump: NoPump, heel: "pour out 0.05", cooling: "2.5 h"},
}

// Layouts lists the layouts in the order they are asked.
func Layouts() []Layout {
	list := make([]Layout, len(rows))
	for i, r := range rows {
		list[i] = r.layout
	}
	return list
}

func find(l Layout) (row, bool) {
	for _, r := range rows {
		if r.layout == l {
			return r, true
		}
	}
	return row{}, false
}

// Title is the layout in plain words.
func (l Layout) Title() string { r, _ := find(l); return r.title }

// Commercial says whether the layout is built for trade use.
func (l Layout) Commercial() bool { r, _ := find(l); return r.commercial }

// Answers are the five answers a plan starts from, with the zone the machine
// stands in. Drinks and MilkDrinks are a day, for the whole machine.
type Answers struct {
	Layout     Layout
	Valve      Answer
	Drinks     float64
	MilkDrinks float64
	Hardness   units.HardnessReading
	Treatment  Treatment
	Groups     int // 0 for the layout's own number
}

// The most that is accepted: a machine of six groups in a station hall.
const (
	MaxDrinks = 2000.0
	MaxGroups = 6
)

// Check refuses answers that are out of range or contradict each other; the
// error is a *units.OutOfRange with the contract's field name.
func (a Answers) Check() error {
	if _, ok := find(a.Layout); !ok {
		return &units.OutOfRange{Field: "layout", Value: string(a.Layout), Allowed: "one of " + join(Layouts())}
	}
	switch a.Valve {
	case Yes, No, CannotTell:
	default:
		return &units.OutOfRange{Field: "valve", Value: string(a.Valve), Allowed: "yes, no, cannot_tell"}
	}
	if a.Layout == LeverManual && a.Valve == Yes {
		return &units.OutOfRange{Field: "valve", Value: string(a.Valve), Allowed: "no for a spring or manual lever; choose lever_cam if it has a cam valve"}
	}
	if !(a.Drinks >= 0 && a.Drinks <= MaxDrinks) {
		return &units.OutOfRange{Field: "drinks_per_day", Value: number(a.Drinks), Allowed: "0 to " + number(MaxDrinks)}
	}
	if !(a.MilkDrinks >= 0 && a.MilkDrinks <= a.Drinks) {
		return &units.OutOfRange{Field: "milk_drinks_per_day", Value: number(a.MilkDrinks), Allowed: "0 to drinks_per_day, " + number(a.Drinks)}
	}
	known := false
	for _, t := range Treatments() {
		known = known || t == a.Treatment
	}
	if !known {
		return &units.OutOfRange{Field: "treatment", Value: string(a.Treatment), Allowed: "one of " + join(Treatments())}
	}
	if a.Groups < 0 || a.Groups > MaxGroups {
		return &units.OutOfRange{Field: "groups", Value: strconv.Itoa(a.Groups), Allowed: "1 to " + strconv.Itoa(MaxGroups)}
	}
	return nil
}

// Facts fills everything not asked with the layout's defaults.
func (a Answers) Facts() Facts {
	r, _ := find(a.Layout)
	groups := a.Groups
	if groups == 0 {
		groups = r.groups
	}
	valve := NoValve
	switch {
	case a.Valve == CannotTell && a.Layout != LeverManual:
		valve = Unsure
	case a.Valve == Yes && a.Layout == LeverCam:
		valve = Cam
	case a.Valve == Yes:
		valve = Solenoid
	}
	return Facts{
		Layout: a.Layout, Valve: valve, Groups: groups, Brew: r.brew, Steam: r.steam, Heater: r.heater,
		Tank: r.tank, Plumbed: r.plumbed, Tray: r.tray, Pump: r.pump, FreeFlow: r.flow,
		Stays: r.stays, Vents: r.vents, Powder: units.DefaultPowder,
	}
}

// Shots a day at which one group makes a machine a café's.
const cafeShots = 50

// Cafe says whether the machine is cared for like a café's, and why: its
// layout is built for trade use, or a group makes 50 or more shots a day.
func (a Answers) Cafe() (bool, reason.Reason) {
	switch per := a.Drinks / float64(a.Facts().Groups); {
	case a.Layout.Commercial():
		return true, reason.Reason{Text: "The layout is built for trade use, so it is cared for like a café's.", Source: reason.Ours}
	case per >= cafeShots:
		return true, reason.Reason{Text: fmt.Sprintf("Each group makes %.0f shots a day, %d or more, so it is cared for like a café's.", per, cafeShots), Source: reason.Ours}
	}
	return false, reason.Reason{}
}

// Assumption is a fact nobody has confirmed yet.
type Assumption struct {
	Label  string        `json:"label"`
	Value  string        `json:"value"`
	Source reason.Source `json:"source"`
}

// Per-drink defaults: a double of 18 g, a single of 9 g (common practice).
const (
	DoubleGrams = 18.0
	SingleGrams = 9.0
)

// Assumptions lists every default that stands in for these answers, so that a
// person can see what was taken for granted.
func (a Answers) Assumptions() []Assumption {
	r, ok := find(a.Layout)
	if !ok {
		return nil
	}
	f := a.Facts()
	mark := func(field string) reason.Source {
		for _, p := range strings.Fields(r.practice) {
			if p == field {
				return reason.Trade
			}
		}
		return reason.Ours
	}
	list := []Assumption{
		{"groups", strconv.Itoa(f.Groups), mark("groups")},
		{"brew water heated", r.brewText, mark("brew")},
		{"steam boiler", r.steamText, mark("steam")},
		{"heater", r.heater, mark("heater")},
		{"tank", tankText(f), mark("tank")},
		{"drip tray", trayText(f), mark("tray")},
		{"pump", pumpText(f.Pump), mark("pump")},
		{"stays after draining", r.heel, mark("heel")},
		{"cools with a time constant of", r.cooling, mark("cooling")},
	}
	if f.Valve.Vents() {
		list = append(list,
			Assumption{"free flow from the group", number(f.FreeFlow) + " mL/s", reason.Ours},
			Assumption{"stays behind in the head", number(float64(f.Stays)) + " mL", reason.Ours},
			Assumption{"vents a pulse", number(float64(f.Vents)) + " mL", reason.Ours})
	}
	return append(list,
		Assumption{"coffee in a double", number(DoubleGrams) + " g", reason.Trade},
		Assumption{"coffee in a single", number(SingleGrams) + " g", reason.Trade},
		Assumption{"beverage", "36 g", reason.Trade},
		Assumption{"kept in the puck, vented, flushed a drink", "20 g, 25 mL, 50 mL", reason.Ours},
		Assumption{"milk drink", "150 g milk, 15 g steam and 5 g purge", reason.Ours},
		Assumption{"hot water drawn", "none", reason.Ours},
		Assumption{"detergent powder", number(float64(f.Powder)*float64(units.Teaspoon)) + " g a level teaspoon", reason.Trade})
}

func tankText(f Facts) string {
	switch {
	case f.Plumbed:
		return "mains water"
	case f.Tank == 0:
		return "none"
	}
	return number(f.Tank.Litres()) + " L"
}

func trayText(f Facts) string {
	if f.Tray == 0 {
		return "waste pipe"
	}
	return number(f.Tray.Litres()) + " L"
}

func pumpText(p Pump) string {
	switch p {
	case Vibratory:
		return "vibratory, 2 min on, 1 min off"
	case Rotary:
		return "rotary, no limit"
	}
	return "none"
}

func join[T ~string](list []T) string {
	names := make([]string, len(list))
	for i, v := range list {
		names[i] = string(v)
	}
	return strings.Join(names, ", ")
}

func number(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }
