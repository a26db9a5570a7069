// Package circuit puts a water to work in one machine: the litres that go
// through each of its circuits, the scale that grows where they are heated, when
// that is due to come off, and whether the owner should do it.
//
// It knows neither the chemistry (package water) nor the log (package care), nor
// how scale is taken off (package descale).
package circuit

import (
	"fmt"

	"freshanvil/core/boiler"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// Use is what a whole machine makes in a day.
type Use struct {
	Shots, Milk reason.Worked // drinks a day; milk drinks are among the shots
	Flushes     reason.Worked // logged ones, a day, beside the flush of each drink
	Runs        reason.Worked // mL a day, pulses and flushes of runs
}

// UseOf is the use that somebody declared, in shots and milk drinks a day for the whole
// machine, with its source.
func UseOf(shots, milk float64) Use {
	said := func(name string, v float64) reason.Worked {
		return reason.Worked{
			Name:    name,
			Value:   v,
			Unit:    "a day",
			Formula: "said",
			Source:  reason.Said,
			Inputs: []reason.Input{
				{Symbol: "said", Label: name + ", as you said", Value: v, Unit: "a day", Source: reason.Said},
			},
			WouldChange: []string{"logging drinks", "other answers"},
		}.Exact()
	}
	none := func(name, unit string) reason.Worked {
		return reason.Worked{
			Name:        name,
			Unit:        unit,
			Formula:     "logged",
			Source:      reason.Log,
			Inputs:      []reason.Input{{Symbol: "logged", Label: "none is logged", Unit: unit, Source: reason.Log}},
			WouldChange: []string{"logging them"},
		}.Exact()
	}
	return Use{
		said("drinks", shots),
		said("milk drinks", milk),
		none("flushes", "a day"),
		none("water of runs", "mL/day"),
	}
}

// Litres is the water that a machine takes in a day, in litres, by what becomes of it.
type Litres struct {
	Beverage, Puck, Vent, Flush, Runs reason.Worked // through the groups
	Steam, Hot                        reason.Worked // out of the steam boiler
	Brew, All                         reason.Worked
}

// What milk is heated from and to, in °C, and the steam purged before and after it, in
// grams (our own engineering choices).
const (
	milkFrom = 5
	milkTo   = 65
	purge    = 5
)

// SteamADrink is the steam of one milk drink in grams, its purge too.
func SteamADrink(f machine.Facts) (units.Mass, error) {
	return boiler.SteamFor(boiler.Milk{Mass: f.Milk, From: milkFrom, To: milkTo, Purge: purge}, f.Gauge)
}

// LitresADay works out how much water a machine takes in a day and where it goes. The
// error is a *units.OutOfRange where the use or a fact is out of range.
func LitresADay(f machine.Facts, u Use) (Litres, error) {
	a := func(symbol, label string, v float64, unit string) reason.Input {
		return reason.Input{Symbol: symbol, Label: label, Value: v, Unit: unit, Source: reason.Ours}
	}
	drink := func(name, symbol, label string, v float64, unit string) reason.Worked {
		return reason.Worked{
			Name:    name,
			Value:   u.Shots.Value * v / 1000,
			Unit:    "L/day",
			Formula: "drinks × " + symbol + " ÷ 1000",
			Source:  reason.Ours,
			Inputs: []reason.Input{
				u.Shots.AsInput("drinks"),
				a(symbol, label, v, unit),
			},
			WouldChange: []string{"more or fewer drinks", "the machine's facts"},
		}.Exact()
	}
	l := Litres{
		Beverage: drink("in the cup", "beverage", "of a drink", float64(f.Beverage), "g"),
		Puck:     drink("kept in the puck", "puck", "of a drink", float64(f.Puck), "g"),
		Vent:     drink("vented after a shot", "vent", "of a drink", float64(f.Vent), "mL"),
	}
	l.Flush = reason.Worked{
		Name:    "flushed",
		Value:   (u.Shots.Value + u.Flushes.Value) * float64(f.Flush) / 1000,
		Unit:    "L/day",
		Formula: "(drinks + flushes) × flush ÷ 1000",
		Source:  reason.Ours,
		Inputs: []reason.Input{
			u.Shots.AsInput("drinks"),
			u.Flushes.AsInput("flushes"),
			a("flush", "a flush, one with each drink", float64(f.Flush), "mL"),
		},
		WouldChange: []string{"more or fewer drinks", "the machine's facts"},
	}.Exact()
	l.Runs = reason.Worked{
		Name:        "pulses and flushes of runs",
		Value:       u.Runs.Value / 1000,
		Unit:        "L/day",
		Formula:     "runs ÷ 1000",
		Source:      reason.Log,
		Inputs:      []reason.Input{u.Runs.AsInput("runs")},
		WouldChange: []string{"washing more or less often"},
	}.Exact()
	gram, err := SteamADrink(f)
	if err != nil {
		return l, fmt.Errorf("steam of a milk drink: %w", err)
	}
	l.Steam = reason.Worked{
		Name:    "steam",
		Value:   u.Milk.Value * float64(gram) / 1000,
		Unit:    "L/day",
		Formula: "milk × steam ÷ 1000",
		Source:  reason.Ours,
		Inputs: []reason.Input{
			u.Milk.AsInput("milk"),
			a(
				"steam",
				fmt.Sprintf(
					"of a milk drink: %.0f g of milk from %d to %d °C at %.1f bar, %d g purged",
					float64(f.Milk),
					milkFrom,
					milkTo,
					float64(f.Gauge),
					purge,
				),
				float64(gram),
				"g",
			),
		},
		WouldChange: []string{"more or fewer milk drinks", "more milk in one"},
	}.Exact()
	l.Hot = reason.Worked{
		Name:    "hot water",
		Value:   float64(f.HotWater.Litres()),
		Unit:    "L/day",
		Formula: "hot",
		Source:  reason.Said,
		Inputs: []reason.Input{
			{Symbol: "hot", Label: "drawn a day", Value: float64(f.HotWater.Litres()), Unit: "L/day", Source: reason.Said},
		},
		WouldChange: []string{"the machine's page"},
	}.Exact()
	sum := func(name, formula string, parts ...reason.Input) reason.Worked {
		w := reason.Worked{
			Name:        name,
			Unit:        "L/day",
			Formula:     formula,
			Inputs:      parts,
			Source:      reason.Ours,
			WouldChange: []string{"more or fewer drinks", "the machine's facts"},
		}
		for _, p := range parts {
			w.Value += p.Value
		}
		return w.Exact()
	}
	l.Brew = sum(
		"water through the groups",
		"beverage + puck + vent + flush + runs",
		l.Beverage.AsInput("beverage"),
		l.Puck.AsInput("puck"),
		l.Vent.AsInput("vent"),
		l.Flush.AsInput("flush"),
		l.Runs.AsInput("runs"),
	)
	l.All = sum(
		"water in all",
		"brew + steam + hot",
		l.Brew.AsInput("brew"),
		l.Steam.AsInput("steam"),
		l.Hot.AsInput("hot"),
	)
	return l, nil
}

// Amount is water that went through a machine over some time.
type Amount struct{ Brew, Steam, Hot units.Litres }

// Amount is the water of one day, by the circuit it goes through.
func (l Litres) Amount() Amount {
	return Amount{units.Litres(l.Brew.Value), units.Litres(l.Steam.Value), units.Litres(l.Hot.Value)}
}

// Plus adds another amount.
func (a Amount) Plus(b Amount) Amount {
	return Amount{a.Brew + b.Brew, a.Steam + b.Steam, a.Hot + b.Hot}
}

// Times is so many times the amount.
func (a Amount) Times(x float64) Amount {
	n := units.Litres(x)
	return Amount{a.Brew * n, a.Steam * n, a.Hot * n}
}

// All is the water of all circuits.
func (a Amount) All() units.Litres { return a.Brew + a.Steam + a.Hot }
