// Package backflush decides whether a group may be backflushed at all, how
// much detergent goes in, how many pulses it takes, and when the rinse is
// enough.
//
// It does not decide how often (package care) nor in which order the steps of
// a sitting come (package job).
package backflush

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// MethodID names a method in the contract and in the log.
type MethodID string

// The methods, by the pulse patterns in use (common practice).
const (
	Soak           MethodID = "soak"
	TenAndFive     MethodID = "ten_and_five"
	HalfTeaspoon   MethodID = "half_teaspoon"
	ShortPulse     MethodID = "short_pulse"
	ThreePulse     MethodID = "three_pulse"
	Tablet         MethodID = "tablet"
	MachineProgram MethodID = "machine_program"
	WaterOnly      MethodID = "water_only"
)

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
	Pattern   string     // the pulses in words
	Dose      units.Mass // 0 for water only
	Pinch     bool       // between two fingers, not a spoon
	Tablet    bool       // asks for a tablet, whatever the tub holds
	First     Pulses     // before the soak
	Soak      time.Duration
	Program   time.Duration // the machine's own program stands in for the pulses
	Detergent Pulses
	Wiggle    bool // the handle is loosened slightly under running water
	Screen    bool // the screen comes off between detergent and water
	Rinse     Pulses
	// More is added, and looked at again, until the cup is clear.
	More   Pulses
	Source reason.Source
	Why    string
	// Ours says what of it is not practice but our own choice.
	Ours string
}

func set(on, off time.Duration, count int) Pulses {
	return Pulses{on * time.Second, off * time.Second, count}
}

// firstPulses are the pulses of clean water before any powder, of two to four (common
// practice).
const firstPulses = 3

// WaterFirst are the pulses of clean water that come before any powder, in every method, so
// that no grounds are driven back.
func WaterFirst(m Method) Pulses { return Pulses{m.Rinse.On, m.Rinse.Off, firstPulses} }

// TabletMass is what a tablet is taken as: one group's largest common dose,
// so that the rinse errs on the long side (our own engineering choice).
const TabletMass units.Mass = 3

var methods = []Method{
	{
		ID: HalfTeaspoon, Name: "Half-teaspoon method", Pattern: "10 s on, 5 s off, five times; the same with water", Dose: 3,
		Detergent: set(10, 5, 5), Rinse: set(10, 5, 5), More: set(10, 5, 2), Source: reason.Trade,
		Why: "Half a level teaspoon a group, five pulses with it and five without, more while soap shows. It is the " +
			"default because its own rinse already meets the residue limit.",
	},
	{
		ID: Soak, Name: "Soak method", Pattern: "4 short pulses, soak 3 min, 6 pulses, wiggle, 6 with water", Dose: 1.5,
		First: set(
			5,
			5,
			4,
		), Soak: 3 * time.Minute, Detergent: set(5, 5, 6), Wiggle: true, Rinse: set(5, 5, 6), More: set(5, 5, 2),
		Source: reason.Trade,
		Why: "A quarter of a teaspoon and three minutes of standing do what more powder does elsewhere. The soak is " +
			"never longer unattended.",
		Ours: "The row gives no seconds: 5 on and 5 off.",
	},
	{
		ID: TenAndFive, Name: "Ten-and-five method", Pattern: "10 s on, 5 s off, ten times; screen washed; ten with water",
		Dose:      2,
		Detergent: set(10, 5, 10), Screen: true, Rinse: set(10, 5, 10), More: set(10, 5, 2), Source: reason.Trade,
		Why: "Water first, so that no grounds are driven back; a third of a teaspoon a group, so one teaspoon does " +
			"three. The screen is dropped, looked at and washed in between.",
	},
	{
		ID: ShortPulse, Name: "Short-pulse method", Pattern: "5 s on, 2 s off, five times; flush twice", Dose: 0.75,
		Pinch:     true,
		Detergent: set(5, 2, 5), Rinse: set(5, 2, 5), More: set(5, 2, 2), Source: reason.Trade,
		Why: "A pinch and quick pulses: little powder, little time, often.",
		Ours: "A pinch is taken as an eighth of a teaspoon, more than most fingers hold. The row has no rinse but two " +
			"flushes: five water pulses are added.",
	},
	{
		ID: ThreePulse, Name: "Three-pulse method", Pattern: "10 s on three times; wiggle, brush, flush", Dose: 2,
		Detergent: set(10, 10, 3), Wiggle: true, Rinse: set(10, 10, 5), More: set(10, 10, 2), Source: reason.Trade,
		Why: "A third of a teaspoon and three long pulses; the handle is loosened slightly and wiggled under running " +
			"water, which washes the rim of the seal.",
		Ours: "The row gives no seconds off and no rinse: 10 off, and water pulses as many as the residue asks for.",
	},
	{
		ID: Tablet, Name: "Tablet method", Pattern: "at most 10 s on, ten times; the same with water", Dose: TabletMass,
		Tablet:    true,
		Detergent: set(10, 10, 10), Rinse: set(10, 10, 10), More: set(10, 10, 2), Source: reason.Trade,
		Why:  "One tablet a group: nothing to measure. It dissolves slowly, so ten pulses, and a look whether it is gone.",
		Ours: "The row gives no seconds off: 10. A tablet is taken as 3 g.",
	},
	{
		ID: MachineProgram, Name: "Machine-program method",
		Pattern: "the machine's own program, 6 to 7 min, then five with water", Dose: TabletMass, Tablet: true,
		Program: 390 * time.Second, Detergent: set(10, 5, 5), Rinse: set(10, 5, 5), More: set(10, 5, 2), Source: reason.Trade,
		Why: "The machine pulses by itself, and only its own program puts out its light. At least 1 L in the tank, " +
			"tray empty, tablet on the disc.",
		Ours: "Nobody counts the program's own rinse, so it is taken as five detergent pulses; five water pulses by " +
			"hand and a clear cup prove it.",
	},
	{
		ID: WaterOnly, Name: "Water only", Pattern: "8 s on, 5 s off, five times at the end of the day; twice after a drink",
		Rinse: set(8, 5, 5), More: set(8, 5, 2), Source: reason.Trade,
		Why:  "Keeps grounds and fresh oil from settling; it does not take off what has dried on.",
		Ours: "The row gives no seconds: 8 on and 5 off.",
	},
}

// Methods lists the methods, the default first.
func Methods() []Method { return slices.Clone(methods) }

// Lookup finds a method by its name in the contract.
func Lookup(id MethodID) (Method, error) {
	var names []string
	for _, m := range methods {
		if m.ID == id {
			return m, nil
		}
		names = append(names, string(m.ID))
	}
	return Method{}, &units.OutOfRange{
		Field:   "method",
		Value:   string(id),
		Allowed: "one of " + strings.Join(names, ", "),
	}
}

// Wet says whether the method is water only: no detergent, no rinse to prove.
func (m Method) Wet() bool { return m.Dose == 0 }

// Fits says whether a machine can be washed by the method.
func (m Method) Fits(f machine.Facts) reason.Finding {
	if gate := Gate(f); gate.Verdict == reason.Refused {
		return gate
	}
	switch {
	case m.ID == MachineProgram && !f.Program:
		return reason.Finding{Verdict: reason.Refused, Title: "It has no cleaning program on record",
			Because: []reason.Reason{
				{Text: "Only a machine with a program of its own can be washed by it.", Source: reason.Trade},
			},
			Next: []string{"If it has one, say so on the machine's page."}}
	case f.Valve == machine.Cam && !m.Wet():
		return reason.Finding{Verdict: reason.Look, Title: "Detergent strips the cam's grease",
			Because: []reason.Reason{
				{
					Text: "At most twice a year on a cam; a stiff or squeaking lever afterwards is normal for a few shots, " +
						"then it needs food-safe grease.",
					Source: reason.Trade,
				},
			}}
	}
	return reason.Finding{
		Verdict: reason.Fine,
		Title:   "Suits this machine",
		Because: []reason.Reason{{Text: m.Why, Source: m.Source}},
	}
}

// The refusals of this package.
const (
	NoValve     reason.Code = "no_three_way_valve"
	ValveUnsure reason.Code = "valve_not_known"
	Leaks       reason.Code = "leaks"
	MethodUnfit reason.Code = "method_does_not_fit"
	NotABlind   reason.Code = "not_a_blind"
)

// How many pulses a water backflush has (common practice): two after a drink, four to six at the end of a
// day; five where nobody says.
const (
	afterADrink = 2
	mostWater   = 6
)

// WaterPulses is the water backflush of a machine with so many pulses; 0 is as many as its own habit asks
// for: two where it follows each drink, else five. A number out of range is a *units.OutOfRange.
func WaterPulses(f machine.Facts, n int) (Method, error) {
	m, err := Lookup(WaterOnly)
	switch {
	case err != nil:
		return m, err
	case n == 0 && f.WaterOnly == "after each drink":
		n = afterADrink
	case n == 0:
		return m, nil
	case n < afterADrink || n > mostWater:
		return m, &units.OutOfRange{Field: "pulses", Value: fmt.Sprint(n),
			Allowed: fmt.Sprintf("%d after a drink, 4 to %d at the end of a day", afterADrink, mostWater)}
	}
	m.Rinse.Count = n
	return m, nil
}

// Ready refuses a machine of which no group may be backflushed now: it has no valve
// for it, nobody knows whether it has, or it leaks. The error is a *reason.Refusal.
func Ready(f machine.Facts) error {
	if f.Condition == "leaks" {
		return reason.Refuse(Leaks, "It leaks: no wash until it is mended").
			Of("condition", f.Condition, "a machine that is sound").
			Why(reason.Trade, "A wash puts every joint under full pressure, with detergent in it.").
			Instead("Switch it off, pull the plug and shut the water supply.", "Call a technician.",
				"Mended? Say so on the machine's page.")
	}
	if f.Blind == machine.Pressurised {
		return reason.Refuse(NotABlind, "This basket is not a blind one").
			Of("blind", f.Blind, "a blind basket, a disc in it, or a gauge that reaches 6 bar").
			Why(reason.Trade,
				"A pressurised basket has one small hole. By itself it holds too little pressure for the valve to "+
					"send water back through the screen.").
			Instead("Lay a rubber disc into it, or use a blind basket.",
				"Does the gauge reach at least 6 bar with it? Say so on the machine's page; a cup stands under the spout then.")
	}
	gate := Gate(f)
	if gate.Verdict != reason.Refused {
		return nil
	}
	no := &reason.Refusal{
		Code: NoValve, Field: "valve", Value: string(f.Valve), Allowed: "a machine with a three-way valve", Finding: gate,
	}
	if f.Valve == machine.Unsure {
		no.Code, no.Allowed = ValveUnsure, "a three-way valve that somebody is sure of"
	}
	return no
}

// Takes refuses a method that a machine cannot follow now, or must not. The error is
// a *reason.Refusal.
func (m Method) Takes(f machine.Facts) error {
	if err := Ready(f); err != nil {
		return err
	}
	if fits := m.Fits(f); fits.Verdict == reason.Refused {
		return &reason.Refusal{
			Code: MethodUnfit, Field: "method", Value: string(m.ID),
			Allowed: "a method that the machine can follow", Finding: fits,
		}
	}
	return nil
}

// Gate says whether a group of this machine may be backflushed at all. A machine
// without a three-way valve, or whose owner cannot tell, is refused.
func Gate(f machine.Facts) reason.Finding {
	source := reason.Trade
	switch {
	case f.Valve == machine.Unsure:
		return reason.Finding{
			Verdict: reason.Refused, Title: "Do not backflush until you know the valve",
			Because: []reason.Reason{
				{
					Text: "Nobody has told yet whether a three-way valve lets the pressed water out. Not knowing counts as no " +
						"valve.",
					Source: reason.Ours,
				},
				{
					Text: "Without one, pressure behind a blind basket has nowhere to go: the handle can spit hot water when " +
						"it is unlocked.",
					Source: source,
				},
			},
			Next: []string{
				"Pull a shot and stop the pump. A valve answers with a hiss and a gush into the tray, and the puck comes out " +
					"fairly dry.",
				"No hiss, and a wet, soupy puck: there is no valve.",
				"Still unsure: the maker's manual says whether a blind basket may be used.",
			},
		}
	case !f.Valve.Vents():
		return reason.Finding{
			Verdict: reason.Refused, Title: "Never backflush this machine",
			Because: []reason.Reason{
				{
					Text: "It has no three-way valve. A blind basket would hold the pressure in the head, nothing runs " +
						"backwards, and nothing gets clean.",
					Source: source,
				},
				{Text: "The handle would be under pressure when you unlock it.", Source: source},
			},
			Next: []string{
				"Clean the group by hand instead: brush the seal and the screen, take the screen off and scrub it.",
			},
		}
	case f.Valve == machine.Cam:
		return reason.Finding{
			Verdict: reason.Look, Title: "Backflush seldom, and grease the cam",
			Because: []reason.Reason{
				{
					Text: "The cam valve vents, but detergent strips its grease. A stiff or squeaking lever after a wash is " +
						"normal for a few shots, then it needs food-safe grease.",
					Source: source,
				},
			},
		}
	}
	return reason.Finding{
		Verdict: reason.Fine, Title: "May be backflushed",
		Because: []reason.Reason{
			{
				Text:   "A solenoid three-way valve lets the pressed water out backwards, through the screen into the tray.",
				Source: source,
			},
		},
	}
}

// Form is how the detergent comes.
type Form string

// The forms.
const (
	Powder  Form = "powder"
	Tablets Form = "tablets"
)

// Detergent is what is in the tub: powder of a bulk density, or tablets.
type Detergent struct {
	Form    Form
	Density units.Density // of powder, grams a millilitre
}

// UsualPowder stands in where no tub is on record.
var UsualPowder = Detergent{Powder, units.DefaultPowder}

// Dose is what goes into one group. Mass leads; the spoon is the nearest on a
// measuring set at this powder's density. A tablet is one group's dose.
type Dose struct {
	Form    Form          `json:"form"`
	Tablets int           `json:"tablets,omitempty"`
	Pinch   bool          `json:"pinch,omitempty"` // between two fingers
	Mass    reason.Worked `json:"mass"`            // grams the spoon makes, or that a tablet stands for
	Asked   units.Mass    `json:"asked"`           // what the method asks for
	Spoon   units.Spoon   `json:"spoon"`           // none for tablets
}

// Amount is the dose as it is counted out of the tub: grams, or tablets.
func (d Dose) Amount() float64 {
	if d.Form == Tablets {
		return float64(d.Tablets)
	}
	return d.Mass.Value
}

// Words is the dose in words: grams of powder, a pinch, a tablet.
func (d Dose) Words() string {
	switch {
	case d.Form == Tablets:
		return "one tablet"
	case d.Pinch:
		return "a pinch of powder"
	}
	return fmt.Sprintf("%.2g g of powder", d.Mass.Value)
}

// DoseFor is the dose of a method for one group. Powder must weigh 0.3 to 2
// grams a millilitre; else *units.OutOfRange.
func DoseFor(m Method, in Detergent) (Dose, error) {
	if m.Tablet {
		in.Form = Tablets
	}
	d, err := measure(m.Dose, m.Source, in)
	if err != nil || !m.Pinch || d.Form == Tablets {
		return d, err
	}
	d.Pinch, d.Spoon = true, units.Spoon{}
	d.Mass = reason.Worked{
		Name: "detergent in the blind", Value: float64(m.Dose), Unit: "g", Formula: "pinch", Source: reason.Ours,
		Inputs: []reason.Input{
			{
				Symbol: "pinch",
				Label:  "a pinch is taken as an eighth of a teaspoon of usual powder",
				Value:  float64(m.Dose),
				Unit:   "g",
				Source: reason.Ours,
			},
		},
		WouldChange: []string{"another school", "larger fingers: more than it is taken as needs a longer rinse"},
	}.Exact()
	return d, nil
}

// SoakDose is the dose of a soak bath: a quarter teaspoon, or a tablet, in a
// basin of hot water (common practice).
func SoakDose(in Detergent) (Dose, error) {
	return measure(1.5, reason.Trade, in)
}

func measure(asked units.Mass, source reason.Source, in Detergent) (Dose, error) {
	if in.Form == Tablets {
		w := reason.Worked{
			Name: "detergent in a tablet", Value: float64(TabletMass), Unit: "g", Formula: "tablets × mass", Source: reason.Ours,
			Inputs: []reason.Input{
				{
					Symbol: "tablets",
					Label:  "a tablet is one group, or one basin",
					Value:  1,
					Unit:   "tablets",
					Source: reason.Trade,
				},
				{
					Symbol: "mass",
					Label:  "a tablet is taken as",
					Value:  float64(TabletMass),
					Unit:   "g",
					Source: reason.Ours,
				},
			},
			WouldChange: []string{"the label of your tablets: it goes before this card", "powder instead"},
		}.Exact()
		return Dose{Form: Tablets, Tablets: 1, Mass: w, Asked: asked}, nil
	}
	powder := in.Density
	if !(powder >= 0.3 && powder <= 2) {
		return Dose{}, &units.OutOfRange{
			Field:   "powder_g_tsp",
			Value:   fmt.Sprint(float64(powder * units.Density(units.Teaspoon))),
			Allowed: "1.5 to 10 g a level teaspoon",
		}
	}
	s := units.NearestSpoon(asked, powder)
	w := reason.Worked{
		Name: "detergent in the blind", Value: float64(s.Mass(powder)), Unit: "g",
		Formula: "spoons × spoon × powder",
		Inputs: []reason.Input{
			{
				Symbol: "spoons",
				Label:  fmt.Sprintf("level teaspoons nearest to %g g", float64(asked)),
				Value:  s.Teaspoons(),
				Unit:   "tsp",
				Source: source,
			},
			{
				Symbol: "spoon",
				Label:  "a level teaspoon",
				Value:  float64(units.Teaspoon),
				Unit:   "mL",
				Source: reason.Ours,
			},
			{
				Symbol: "powder",
				Label:  "this powder's density",
				Value:  float64(powder),
				Unit:   "g/mL",
				Source: reason.Trade,
			},
		},
		Source: source,
		WouldChange: []string{
			"another school",
			"a powder that is lighter or heavier a spoon",
			"the label of your powder: it goes before this card",
		},
	}.Exact()
	return Dose{Form: Powder, Mass: w, Asked: asked, Spoon: s}, nil
}

// ForGroups is the dose in all, for so many groups: grams, or tablets.
func (d Dose) ForGroups(groups int) reason.Worked {
	unit := "g"
	if d.Form == Tablets {
		unit = "tablets"
	}
	return reason.Worked{
		Name: "detergent in all", Value: float64(groups) * d.Amount(), Unit: unit, Formula: "groups × dose",
		Source: d.Mass.Source,
		Inputs: []reason.Input{
			{Symbol: "groups", Label: "groups", Value: float64(groups), Unit: "", Source: reason.Said},
			{Symbol: "dose", Label: "a group", Value: d.Amount(), Unit: unit, Source: d.Mass.Source},
		},
		WouldChange: []string{"another number of groups", "another dose"},
	}.Exact()
}

// Because says why it is this much.
func (d Dose) Because(m Method) []reason.Reason {
	if d.Form == Tablets {
		return []reason.Reason{
			{Text: "A tablet is one group's dose.", Source: reason.Trade},
			{Text: m.Name + ": " + m.Why, Source: m.Source},
		}
	}
	if d.Pinch {
		return []reason.Reason{{Text: m.Name + ": " + m.Why, Source: m.Source}, {Text: m.Ours, Source: reason.Ours}}
	}
	return []reason.Reason{
		{Text: m.Name + ": " + m.Why, Source: m.Source},
		{
			Text: fmt.Sprintf(
				"Your powder weighs %.1f g a level teaspoon.",
				d.Mass.Inputs[2].Value*float64(units.Teaspoon),
			),
			Source: reason.Said,
		},
	}
}

// SoakBath says what belongs in the bath, for how long, and what never does.
func SoakBath(handle string) []reason.Reason {
	list := []reason.Reason{
		{
			Text:   "In a basin of hot water: baskets, the metal of the handles, tips. 5 to 10 minutes.",
			Source: reason.Trade,
		},
		{
			Text:   "The powder goes into the water, never water onto powder, and never into a vessel that is then shut.",
			Source: reason.Trade,
		},
		{Text: "Handles stay out of the water, level at the metal's edge.", Source: reason.Trade},
		{Text: "Never aluminium baskets or handles.", Source: reason.Trade},
	}
	if handle == "wood" {
		list = append(
			list,
			reason.Reason{Text: "Yours are of wood: never in the bath, not even the ends.", Source: reason.Trade},
		)
	}
	return list
}
