// Package machine knows what an espresso machine is made of: the layouts, the
// facts kept of one machine, and the defaults that stand in for what nobody
// has looked up yet.
//
// It decides whether a machine has a three-way valve. What may be done with
// the machine is decided by the packages of the work itself.
package machine

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

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

// Treatments lists the treatments in the order in which they are asked for.
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

// Facts are what the rules need of one machine. A zero Tank is mains water or
// no tank, a zero Tray a waste pipe.
type Facts struct {
	Layout   Layout
	Valve    Valve
	Groups   int
	Tank     units.Volume
	Plumbed  bool
	Tray     units.Volume
	Pump     Pump
	Duty     Duty       // of the pump
	FreeFlow units.Flow // through an open group
	Waste    units.Flow // that the waste pipe takes; 0 where water runs into a tray
	Stays    units.Volume
	Vents    units.Volume // a pulse
	Double   units.Mass   // coffee in a double
	Single   units.Mass
	Closes   float64 // hour of the day; above 24 is after midnight
	Blind    string
	Handle   string
	Entitled bool // who plans for it records by name to be entitled to trade machines
	// SoakFor is how long baskets and handles soak; TipFixed says that the steam tip does not unscrew, TipIn
	// what it soaks in, ScreenBy what holds the screen.
	SoakFor         time.Duration
	TipFixed        bool
	TipIn, ScreenBy string
	Program         bool // has a cleaning program of its own
	// OwnDescale says that it has a descaling program of its own.
	OwnDescale bool
	// Jug is how much the jug holds that catches what comes out.
	Jug units.Volume
	// WaterOnly is how often it is backflushed without detergent.
	WaterOnly string
	// CounterLimit is where the machine's own counter asks for a wash, 0 where
	// it has none; CounterFlushes says whether it counts flushes too.
	CounterLimit   float64
	CounterFlushes bool
	// BrewBoiler is the water heated for brewing, a group; SteamBoiler is 0 where
	// brewing and steam share one.
	BrewBoiler, SteamBoiler units.Volume
	Heater, SteamHeater     units.Power
	// BrewMaterial is what acid touches on the brew side, SteamMaterial the steam
	// boiler; "not_said" where nobody has said it.
	BrewMaterial, SteamMaterial string
	// BrewHeater and SteamBy say of each heater whether it can be off while the pump
	// runs; empty where there is no such heater.
	BrewHeater, SteamBy HeaterFact
	PumpBeforeHot       Answer        // empty where there is no pump
	HoursOn             time.Duration // in a day, that it is switched on
	RedMark             units.Pressure
	Room                units.Temperature
	Drain               string
	Heel                float64 // share of the working fill that stays after draining
	// Cooling is the time constant it cools with; SteamCooling of the steam boiler,
	// 0 where that is the same.
	Cooling, SteamCooling time.Duration
	BrewTemp              units.Temperature
	Gauge                 units.Pressure // of the steam boiler
	Milk                  units.Mass     // in a milk drink
	HotWater              units.Volume   // drawn a day
	Beverage, Puck        units.Mass
	Vent                  units.Volume // after a shot
	// Calendar, Stance, Warranty and Condition are about descaling, in the words
	// of the facts.
	Calendar, Stance, Warranty, Condition string
	// BrewWater is the water a drink takes through the group, its flush too.
	BrewWater, Flush units.Volume
}

// HeaterFact is whether a heater can be off while the pump runs.
type HeaterFact string

// What may be known of a heater: a switch or a menu turns it off, and not just a steam
// switch; it is held off until its boiler is full; on means heating; nobody can tell.
const (
	CanBeOff HeaterFact = "can_be_off"
	HeldOff  HeaterFact = "held_off"
	OnHeats  HeaterFact = "on_means_heating"
	NotKnown HeaterFact = "cannot_tell"
)

// row is a layout and what it is called.
type row struct {
	layout     Layout
	title      string
	commercial bool
}

var rows = []row{
	{Thermoblock, "Thermoblock or thermocoil", false},
	{SingleBoiler, "Single boiler", false},
	{HXHome, "Heat exchanger, home", false},
	{HXCafe, "Heat exchanger, café", true},
	{DualHome, "Dual boiler, home", false},
	{MultiCafe, "Multi boiler, café", true},
	{LeverCam, "Lever with a cam valve", false},
	{LeverManual, "Spring or manual lever", false},
}

// Layouts lists the layouts in the order in which they are asked for.
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
	// Overrides are facts somebody said, by their key; the defaults of the
	// layout stand in for the others.
	Overrides map[string]string
	// Entitled is set while somebody plans who records by name to be entitled to trade machines. It is
	// not kept.
	Entitled bool
}

// MaxDrinks is the most that is accepted: six groups in a station hall.
const MaxDrinks = 2000.0

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
		return &units.OutOfRange{
			Field:   "valve",
			Value:   string(a.Valve),
			Allowed: "no for a spring or manual lever; choose lever_cam if it has a cam valve",
		}
	}
	if !(a.Drinks >= 0 && a.Drinks <= MaxDrinks) {
		return &units.OutOfRange{
			Field:   "drinks_per_day",
			Value:   number(a.Drinks),
			Allowed: "0 to " + number(MaxDrinks),
		}
	}
	if !(a.MilkDrinks >= 0 && a.MilkDrinks <= a.Drinks) {
		return &units.OutOfRange{
			Field:   "milk_drinks_per_day",
			Value:   number(a.MilkDrinks),
			Allowed: "0 to " + number(a.Drinks) + ", as many as drinks a day in all",
		}
	}
	known := false
	for _, t := range Treatments() {
		known = known || t == a.Treatment
	}
	if !known {
		return &units.OutOfRange{
			Field:   "treatment",
			Value:   string(a.Treatment),
			Allowed: "one of " + join(Treatments()),
		}
	}
	for _, key := range slices.Sorted(maps.Keys(a.Overrides)) {
		if err := a.CheckOverride(key, a.Overrides[key]); err != nil {
			return err
		}
	}
	return nil
}

// valve is the kind of valve the answer and the layout come to.
func (a Answers) valve() Valve {
	switch {
	case a.Valve == CannotTell && a.Layout != LeverManual:
		return Unsure
	case a.Valve == Yes && a.Layout == LeverCam:
		return Cam
	case a.Valve == Yes:
		return Solenoid
	}
	return NoValve
}

// Shots a day at which one group makes a machine a café's.
const cafeShots = 50

// Cafe says whether the machine is cared for like a café's, and why: its
// layout is built for trade use, or a group makes 50 or more shots a day.
func (a Answers) Cafe() (bool, reason.Reason) {
	switch per := a.Drinks / float64(a.Facts().Groups); {
	case a.Layout.Commercial():
		return true, reason.Reason{
			Text:   "The layout is built for trade use, so it is cared for like a café's.",
			Source: reason.Ours,
		}
	case per >= cafeShots:
		return true, reason.Reason{
			Text: fmt.Sprintf(
				"Each group makes %.0f shots a day, %d or more, so it is cared for like a café's.",
				per,
				cafeShots,
			),
			Source: reason.Ours,
		}
	}
	return false, reason.Reason{}
}

func join[T ~string](list []T) string {
	names := make([]string, len(list))
	for i, v := range list {
		names[i] = string(v)
	}
	return strings.Join(names, ", ")
}

func number(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }

// CountsADrink is what the machine's own counter goes up by with each drink:
// one, or two where the flush before it counts too (common practice).
func (f Facts) CountsADrink() float64 {
	if f.CounterFlushes {
		return 2
	}
	return 1
}
