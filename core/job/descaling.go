package job

import (
	"slices"
	"strings"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/descale"
	"freshanvil/core/inspect"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/speak"
	"freshanvil/core/units"
	"freshanvil/core/use"
)

// Circuit is one circuit of a descale.
type Circuit struct {
	Part    machine.Part
	Title   string
	Working units.Litres // as full as it is kept
	Drained bool         // let out and refilled; else pushed through
	Least   reason.Worked
	Outlets []Outlet
	// Firsts are what got no acid, and are drawn and proven at first pressure.
	Firsts []Outlet
	Scale  units.Mass // predicted
}

// Outlet is a way by which liquid leaves a circuit cold, where its rinse is proven.
type Outlet struct {
	ID    string
	Title string
	More  []Step // where a strip does not match
}

// Descaling is what a descale knows beside its steps.
type Descaling struct {
	Program  descale.ProgramID
	Title    string
	Product  string
	Acid     descale.AcidID
	Strength units.Strength // as mixed
	Measure  reason.Worked
	Solution reason.Worked
	Spoons   reason.Worked // of a powder; zero for the others
	Contact  time.Duration // at most, in all, warm minutes by their weight
	Planned  time.Duration // as the hands are estimated
	// Exit is what slow hands need, from the end of a soak until less than 1 % is left,
	// by its weight; Costs is what each round adds.
	Exit     time.Duration
	Costs    []time.Duration
	FeedAlk  units.Alkalinity
	FeedPH   units.PH
	Known    bool    // a descale was on record, so scale was predicted
	Share    float64 // of the scale that stays, so far
	Circuits []Circuit
	Plant    plant.Spec
	Rounds   int  // soaks, or sips, planned
	Dirty    bool // acid is in from the start: it is only rinsed
	Filtered bool // what treats the water stands in the tank as it begins
	Tubs     int  // how often the source is filled
	Catches  int
	Left     units.Mass // of the likely scale that stays for another day
	Findings []reason.Finding
}

// Begins is the plant as the descale begins: in daily use, or with acid left in it.
func (d *Descaling) Begins() *plant.Plant {
	if !d.Dirty {
		p := plant.InUse(&d.Plant)
		p.Filter = d.Filtered
		return p
	}
	p := plant.WithAcid(&d.Plant)
	for i := range d.Plant.Vessels {
		if d.Plant.Vessels[i].Heater == machine.CanBeOff { // as it was left
			p.V[i].Off, p.V[i].Kept = true, true // and as it was proven before the acid went in
		}
	}
	return p
}

// Predicted is the scale believed to be in all circuits.
func (d Descaling) Predicted() units.Mass {
	var sum units.Mass
	for _, c := range d.Circuits {
		sum += c.Scale
	}
	return sum
}

// Circuit finds one; nil where there is none.
func (d Descaling) Circuit(part machine.Part) *Circuit {
	i := slices.IndexFunc(d.Circuits, func(c Circuit) bool { return c.Part == part })
	if i < 0 {
		return nil
	}
	return &d.Circuits[i]
}

// Outlet finds one of a circuit by its opening; nil where there is none.
func (c *Circuit) Outlet(id string) *Outlet {
	for i := range c.Outlets {
		if c.Outlets[i].ID == id {
			return &c.Outlets[i]
		}
	}
	for i := range c.Firsts {
		if c.Firsts[i].ID == id {
			return &c.Firsts[i]
		}
	}
	return nil
}

// Contents is what is in a machine now: detergent in groups, acid in circuits, and
// heads whose drain let nothing out.
type Contents struct {
	Detergent []machine.Part
	Acid      []machine.Part
	Blind     map[machine.Part]int // tries
	Stopped   []inspect.Found      // dangers for which it is switched off
	Layout    machine.Layout       // where it is known: by it the circuits are called
}

// Meets refuses to bring acid and detergent together: with acid, a machine that
// holds detergent; with detergent, one that holds acid. Nil where it may go on.
func (in Contents) Meets(acid bool) error {
	refuse := func(title, next string) error {
		return reason.Refuse(ChemicalInside, title).
			Of("task", in.Names(), "a machine without it: a full rinse lies between").
			Why(reason.Trade, "Acid and detergent never meet: a full rinse lies between them.").Instead(next)
	}
	switch {
	case acid && len(in.Detergent) > 0:
		return refuse("Detergent is in "+groups(in.Detergent)+": no acid beside it",
			"Rinse the detergent out first, until the cup is clear.")
	case !acid && len(in.Acid) > 0:
		return refuse("Acid is in the machine: no detergent beside it",
			"Rinse the acid out first, until the strip matches.")
	}
	return nil
}

func groups(list []machine.Part) string {
	var numbers []int
	for _, p := range list {
		numbers = append(numbers, p.GroupNumber())
	}
	return care.Groups(numbers)
}

// MeetsFilter refuses to put what treats the water back into a machine that holds acid.
func (in Contents) MeetsFilter() error {
	if len(in.Acid) == 0 {
		return nil
	}
	return reason.Refuse(ChemicalInside, in.Holds()).
		Of("task", "filter_change", "a machine without acid inside: the filter goes back after the rinse").
		Why(reason.Trade, "Acid spoils a filter, and a filter keeps the acid.").
		Instead("Rinse the acid out first, until the strip matches.")
}

// Any says whether something is in that must not be drunk.
func (in Contents) Any() bool { return len(in.Detergent) > 0 || len(in.Acid) > 0 }

// Holds is what the band says of it; empty where nothing is in.
func (in Contents) Holds() string {
	what := ""
	switch {
	case len(in.Detergent) > 0 && len(in.Acid) > 0:
		what = "Detergent in " + groups(in.Detergent) + ", acid in the " + in.circuits()
	case len(in.Detergent) > 0:
		what = "Detergent in " + groups(in.Detergent)
	case len(in.Acid) > 0:
		what = "Acid in the " + in.circuits()
	default:
		return ""
	}
	return what + ": no drinks until the rinse is proven"
}

// Pressed is what the band says of heads whose drain let nothing out; empty where
// there are none.
func (in Contents) Pressed() string {
	var list []machine.Part
	for part := range in.Blind {
		list = append(list, part)
	}
	if len(list) == 0 {
		return ""
	}
	slices.SortFunc(list, machine.Part.Compare)
	where := groups(list)
	return speak.Upper(where) + " may still be under pressure: nothing came out at the drain. " +
		"Do not open it"
}

// Halted is what the band says of a machine that is switched off for what was seen; empty where it is not.
func (in Contents) Halted() string {
	if len(in.Stopped) == 0 {
		return ""
	}
	f := in.Stopped[0]
	row, known := inspect.Find(f.Sight)
	if !known {
		return "A danger was seen: leave it off, until a technician has seen it"
	}
	return row.Title + ": " + speak.Lower(f.Seen().Text) + ". Leave it off, until a technician has seen it"
}

// Stopping is a code for a machine that is switched off for what was seen of it.
const Stopping reason.Code = "stopped"

// MayBeUsed refuses a machine that is switched off for what was seen: nothing is led on it. Nil where it may be used.
func (in Contents) MayBeUsed() error {
	if len(in.Stopped) == 0 {
		return nil
	}
	f := in.Stopped[0]
	no := reason.Refuse(Stopping, "Switch off, and do not use it").
		Of("machine_id", in.Halted(), "a machine that a technician has seen, and signed off by name")
	seen := f.Seen()
	if seen.Stops == nil {
		return no.Why(reason.Trade, "A danger was seen.").Instead("Call a technician.")
	}
	for _, b := range seen.Stops.Because {
		no = no.Why(b.Source, b.Text)
	}
	for _, next := range seen.Stops.Next {
		no = no.Instead(next)
	}
	return no
}

// Names is where it is, in words.
func (in Contents) Names() string {
	switch {
	case !in.Any():
		return ""
	case len(in.Acid) == 0:
		return groups(in.Detergent)
	case len(in.Detergent) == 0:
		return "the " + in.circuits()
	}
	return groups(in.Detergent) + ", the " + in.circuits()
}

// circuits names them in one breath.
func (in Contents) circuits() string {
	var names []string
	for _, p := range in.Acid {
		names = append(names, in.circuit(p))
	}
	slices.Sort(names)
	if n := len(names); n > 1 {
		return strings.Join(names[:n-1], ", ") + " and " + names[n-1]
	}
	return strings.Join(names, "")
}

// circuit is what one of them is called in its machine, or in any where the layout is not
// known.
func (in Contents) circuit(p machine.Part) string {
	brews := 0
	for _, q := range in.Acid {
		if q.Kind() == machine.BrewCircuit {
			brews++
		}
	}
	layout := in.Layout
	if layout == "" {
		layout = machine.SingleBoiler
	}
	return machine.Facts{Layout: layout, Groups: max(brews, p.Number())}.PartTitle(p)
}

// Bars gives the groups that bar a use of a part from being logged on a machine of so
// many groups: acid bars all of them, and so does a danger that was seen.
func (in Contents) Bars(kind use.Kind, of machine.Part, groups int) []machine.Part {
	dirty := in.Detergent
	if len(in.Acid) > 0 || len(in.Stopped) > 0 {
		dirty = nil
		for g := range groups {
			dirty = append(dirty, machine.Group(g+1))
		}
	}
	return use.Barred(kind, of, dirty)
}
