// Package backflush decides whether a group may be backflushed at all, how
// much detergent goes in, how many pulses it takes, and when the rinse is
// enough.
//
// It does not decide how often (package care) nor in which order the steps of
// a sitting come (package job).
package backflush

import (
	"fmt"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// MethodID names a method in the contract and in the log.
type MethodID string

// HalfTeaspoon is the method of the half-teaspoon school.
const HalfTeaspoon MethodID = "half_teaspoon"

// Pulses is a set of pulses: pump on, pump off, so many times. Only the off
// part cleans: then the valve opens and the pressed water runs backwards.
type Pulses struct {
	On, Off time.Duration
	Count   int
}

// Length is the time the whole set takes.
func (p Pulses) Length() time.Duration { return time.Duration(p.Count) * (p.On + p.Off) }

// Method is the steps and the dose of a wash.
type Method struct {
	ID        MethodID
	Name      string
	Dose      units.Mass
	Detergent Pulses
	Rinse     Pulses
	// More is added, and looked at again, until the cup is clear.
	More   Pulses
	Source reason.Source
	Why    string
}

var methods = []Method{{
	ID: HalfTeaspoon, Name: "Half-teaspoon school", Dose: 3,
	Detergent: Pulses{10 * time.Second, 5 * time.Second, 5},
	Rinse:     Pulses{10 * time.Second, 5 * time.Second, 5},
	More:      Pulses{10 * time.Second, 5 * time.Second, 2},
	Source:    reason.Trade,
	Why:       "Half a level teaspoon a group, five pulses with it and five without, more while soap shows. It is the default because its own rinse already meets the residue limit.",
}}

// Lookup finds a method by its name in the contract.
func Lookup(id MethodID) (Method, error) {
	for _, m := range methods {
		if m.ID == id {
			return m, nil
		}
	}
	return Method{}, &units.OutOfRange{Field: "method", Value: string(id), Allowed: string(HalfTeaspoon)}
}

// Gate says whether a group of this machine may be backflushed. A machine
// without a three-way valve, or whose owner cannot tell, is refused.
func Gate(f machine.Facts) reason.Finding {
	source := reason.Trade
	switch {
	case f.Valve == machine.Unsure:
		return reason.Finding{
			Verdict: reason.Refused, Title: "Do not backflush until you know the valve",
			Because: []reason.Reason{
				{Text: "Nobody has told yet whether a three-way valve lets the pressed water out. Not knowing counts as no valve.", Source: reason.Ours},
				{Text: "Without one, pressure behind a blind basket has nowhere to go: the handle can spit hot water when it is unlocked.", Source: source},
			},
			Next: []string{
				"Pull a shot and stop the pump. A valve answers with a hiss and a gush into the tray, and the puck comes out fairly dry.",
				"No hiss, and a wet, soupy puck: there is no valve.",
				"Still unsure: the maker's manual says whether a blind basket may be used.",
			},
		}
	case !f.Valve.Vents():
		return reason.Finding{
			Verdict: reason.Refused, Title: "Never backflush this machine",
			Because: []reason.Reason{
				{Text: "It has no three-way valve. A blind basket would hold the pressure in the head, nothing runs backwards, and nothing gets clean.", Source: source},
				{Text: "The handle would be under pressure when you unlock it.", Source: source},
			},
			Next: []string{"Clean the group by hand instead: brush the seal and the screen, take the screen off and scrub it."},
		}
	case f.Valve == machine.Cam:
		return reason.Finding{
			Verdict: reason.Look, Title: "Backflush seldom, and grease the cam",
			Because: []reason.Reason{{Text: "The cam valve vents, but detergent strips its grease. A stiff or squeaking lever after a wash is normal for a few shots, then it needs food-safe grease.", Source: source}},
		}
	}
	return reason.Finding{
		Verdict: reason.Fine, Title: "May be backflushed",
		Because: []reason.Reason{{Text: "A solenoid three-way valve lets the pressed water out backwards, through the screen into the tray.", Source: source}},
	}
}

// Dose is what goes into one group. Mass leads; the spoon is the nearest on a
// measuring set at this powder's density.
type Dose struct {
	Mass   reason.Worked // grams the spoon makes
	Asked  units.Mass    // what the method asks for
	Spoon  units.Spoon
	Powder units.Density
}

// DoseFor is the dose of a method for one group, in powder of this density
// (grams a millilitre, 0.3 to 2; outside, *units.OutOfRange).
func DoseFor(m Method, powder units.Density) (Dose, error) {
	if !(powder >= 0.3 && powder <= 2) {
		return Dose{}, &units.OutOfRange{Field: "powder_density_g_ml", Value: fmt.Sprint(float64(powder)), Allowed: "0.3 to 2"}
	}
	s := units.NearestSpoon(m.Dose, powder)
	w := reason.Worked{
		Name: "detergent in the blind", Value: float64(s.Mass(powder)), Unit: "g",
		Formula: "spoons × spoon × powder",
		Inputs: []reason.Input{
			{Symbol: "spoons", Label: fmt.Sprintf("level teaspoons nearest to %g g", float64(m.Dose)), Value: s.Teaspoons(), Unit: "tsp", Source: m.Source},
			{Symbol: "spoon", Label: "a level teaspoon", Value: float64(units.Teaspoon), Unit: "mL", Source: reason.Ours},
			{Symbol: "powder", Label: "this powder's density", Value: float64(powder), Unit: "g/mL", Source: reason.Trade},
		},
		Source:      m.Source,
		WouldChange: []string{"another school", "a powder that is lighter or heavier a spoon", "the label of your powder: it goes before this card"},
	}.Exact()
	return Dose{Mass: w, Asked: m.Dose, Spoon: s, Powder: powder}, nil
}
