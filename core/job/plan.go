// Package job composes what is done to the parts of a machine: activities made of
// steps, put into an order for one pair of hands, and refuses an order that would
// hurt somebody.
//
// It does not carry the plan out (package run) nor decide when it is due
// (package care).
package job

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/descale"
	"freshanvil/core/inspect"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/speak"
	"freshanvil/core/task"
	"freshanvil/core/units"
)

// Resource is what an activity keeps from another while it goes on.
type Resource string

// The resources; a group is one by its part's name.
const (
	TheHands Resource = "hands"
	ThePump  Resource = "pump"
	TheTub   Resource = "tub"
	TheJug   Resource = "jug"
	TheSink  Resource = "sink"
	ThePower Resource = "power"
)

// Activity is what is done to one part: the wash of a group, a descale, the change of
// a filter.
type Activity struct {
	ID    string
	Setup int // which machine of the plan
	Task  task.ID
	Part  machine.Part
	Title string
	Takes []Resource
	Steps []Step
	// Wash is set where a group is washed or rinsed, Descale where acid goes through
	// the circuits or is rinsed out of them.
	Wash    *Washing
	Descale *Descaling
	// Cares are the parts of the plant that it is there for, Looks what must be looked at in it, Uses the
	// detergent that it takes beside a group.
	Cares []string
	Looks []inspect.Sight
	Uses  *backflush.Dose
	// By is who records to be entitled to it; empty where anybody may. Before is what was believed of the scale
	// when a look for it began.
	By     string
	Before *Believed
}

// Believed is what was believed of a machine's scale: the share of what falls out that stays, and how much
// of the limit had grown.
type Believed struct{ Share, Grown float64 }

// Washing is what a wash knows beside its steps.
type Washing struct {
	Method  backflush.MethodID
	Named   string          // how the method is called: by whose numbers it goes
	Dose    *backflush.Dose // nil where no detergent goes in
	Rinse   backflush.Rinse
	More    backflush.Pulses // a pair of them is added while the cup is not clear
	Dirty   bool             // detergent is in the group from the start
	Gone    float64          // share of the interval that had gone when the run began
	Blind   int              // tries, before this run, at which nothing came out at the drain
	Soapy   int              // detergent pulses planned
	Left    units.Mass       // detergent taken to be in the group from the start
	Morning bool             // the shot that is thrown away is the next morning's first
}

// Setup is what of a machine the steps rest on.
type Setup struct {
	Begin string       // what begins a pulse: pump on, lever on
	Blind string       // what stops a group: a blind basket, a rubber disc
	Vents units.Volume // a pulse
	Flow  units.Flow   // through an open group
	Tray  units.Volume // 0 for a waste pipe
	Tank  units.Volume // 0 for mains
	Duty  machine.Duty
}

// Plan is activities in an order. One pair of hands takes their steps in the order
// given; what stands by itself stands beside. A plan is frozen when a run starts:
// later changes of the rules do not change it.
type Plan struct {
	Setups []Setup     // of its machines; an activity names one
	Plant  *plant.Spec // of the model that the plan is played on; nil in a descale, which has its own
	Cold   bool        // it begins on a machine that has been off overnight: unplugged, cold
	LaidUp bool        // it begins on a machine that was closed for weeks
	// AsksFound says that after two tries without pressure a run asks what was found before it goes on. A run that was
	// begun before it did goes on as it began.
	AsksFound  bool
	StandDown  bool // it ends with a machine that is not to be switched on: its supply shut, or its tank empty
	Activities []Activity
	Order      []string // of the steps
	Minutes    reason.Worked
	TankUses   reason.Worked
	TrayGets   reason.Worked
}

// Begins is the machine as the plan begins, on the model; nil where the plan has none.
func (p Plan) Begins() *plant.Plant {
	if a := p.Descaling(); a != nil {
		return a.Descale.Begins()
	}
	if p.Plant == nil {
		return nil
	}
	q := plant.InUse(p.Plant)
	if p.Cold {
		q = plant.Cold(p.Plant)
	}
	if p.LaidUp {
		q = plant.LaidUp(p.Plant)
	}
	for _, a := range p.Activities {
		q.Soil(a.Cares...)
	}
	for _, a := range p.Washes() {
		if w := a.Wash; w.Left > 0 || w.Blind > 0 {
			q.LeaveIn(a.Part.String(), float64(w.Left), w.Blind > 0)
		}
	}
	return q
}

// Steps are the steps of all activities in the order of the plan.
func (p Plan) Steps() []Step {
	byID := map[string]Step{}
	for _, a := range p.Activities {
		for _, s := range a.Steps {
			byID[s.ID] = s
		}
	}
	list := make([]Step, 0, len(p.Order))
	for _, id := range p.Order {
		if s, known := byID[id]; known {
			list = append(list, s)
		}
	}
	return list
}

// Activity finds one by its id; nil where the plan has none of that name.
func (p Plan) Activity(id string) *Activity {
	for i := range p.Activities {
		if p.Activities[i].ID == id {
			return &p.Activities[i]
		}
	}
	return nil
}

// Of is the setup that an activity rests on.
func (p Plan) Of(a Activity) Setup { return p.Setups[a.Setup] }

// Descaling is the activity that brings acid into circuits or takes it out; nil where
// the plan has none.
func (p Plan) Descaling() *Activity {
	i := slices.IndexFunc(p.Activities, func(a Activity) bool { return a.Descale != nil })
	if i < 0 {
		return nil
	}
	return &p.Activities[i]
}

// Washes are the activities that wash or rinse a group.
func (p Plan) Washes() []Activity {
	var list []Activity
	for _, a := range p.Activities {
		if a.Wash != nil {
			list = append(list, a)
		}
	}
	return list
}

// WashOf is what the plan does to a group with a blind in it; nil where it does
// nothing of the kind.
func (p Plan) WashOf(part machine.Part) *Washing {
	for i := range p.Activities {
		if a := &p.Activities[i]; a.Wash != nil && a.Part == part {
			return a.Wash
		}
	}
	return nil
}

// Groups are the numbers of the groups that something is done to, in the order of the plan.
func (p Plan) Groups() []int {
	var list []int
	for _, a := range p.Activities {
		if g := a.Part.GroupNumber(); g > 0 {
			list = append(list, g)
		}
	}
	return list
}

// Leads is the activity that names the whole plan: a descale, else the first that
// washes with detergent, else the first.
func (p Plan) Leads() Activity {
	if d := p.Descaling(); d != nil {
		return *d
	}
	for _, a := range p.Activities {
		if a.Task == task.Wash {
			return a
		}
	}
	return p.Activities[0]
}

// trayFull is how full a tray may get before it is emptied, as a share (our own engineering choice).
const trayFull = 0.8

// Waters are what is filled and emptied for it, in a sentence each; none where nothing is counted, or it is mains and
// a waste pipe.
func (p Plan) Waters() (list []string) {
	if p.Descaling() != nil { // which counts its own tanks and jugs
		return nil
	}
	s := p.Setups[0]
	times := func(all, each float64) string {
		n := int(math.Ceil(all/each-1e-9)) - 1
		if n < 1 {
			return "."
		}
		return fmt.Sprintf(", and %s on the way.", strings.ToLower(speak.Times(n)))
	}
	if gets := p.TrayGets.Value; s.Tray > 0 && gets > 0 {
		list = append(list, fmt.Sprintf("The tray gets about %s and holds %s: empty it before%s",
			Litres(units.Volume(gets).Litres()),
			Litres(s.Tray.Litres()), times(gets, trayFull*float64(s.Tray))))
	}
	if uses := p.TankUses.Value; s.Tank > 0 && uses > 0 {
		list = append(list, fmt.Sprintf("About %s come from the tank: fill it before%s", Litres(units.Volume(uses).Litres()),
			times(uses, float64(s.Tank))))
	}
	return list
}

// LayOut is what to have at hand before a plan is begun, in words.
func (p Plan) LayOut() []string {
	var list []string
	if len(p.Washes()) > 0 {
		name := p.Setups[0].Blind
		if name == "" {
			name = "blind basket"
		}
		list = append(list, "a "+name+", a clear cup, a group brush, a clean wet cloth")
	}
	for _, a := range p.Activities {
		if wash := a.Wash; wash != nil && wash.Dose != nil {
			list = append(list, fmt.Sprintf("%s for group %d", wash.Dose.Words(), a.Part.GroupNumber()))
		}
		list = addNew(list, layOutFor(a))
		d := a.Descale
		if d == nil {
			continue
		}
		if d.Measure.Name != "" {
			unit := d.Measure.Unit
			if d.Measure.Value == 1 && unit == "sachets" {
				unit = "sachet"
			}
			of := " of " + d.Product
			if strings.HasPrefix(d.Product, unit) { // named by what they are counted in
				of = ""
			}
			text := fmt.Sprintf("%s %s%s, for %s of solution of %.0f g/L", reason.Figure(d.Measure.Value, "g"), unit, of,
				Litres(d.Solution.Value), d.Strength)
			if d.Spoons.Name != "" {
				spoons := math.Max(1, math.Round(d.Spoons.Value))
				text += fmt.Sprintf(" (about %.0f level teaspoons; a scale is better)", spoons)
			}
			list = append(list, text, "food-grade acid only, with its label and safety data sheet")
		}
		list = append(list, "gloves and glasses; a wet cloth and a sponge",
			"pH strips, or a meter; a thermometer; two cups", d.jugs())
	}
	return list
}

// addNew adds lines to a list, without the things on them that lie there already.
func addNew(list, lines []string) []string {
	const between = "; "
	lies := map[string]bool{}
	for _, line := range list {
		for _, thing := range strings.Split(line, between) {
			lies[thing] = true
		}
	}
	for _, line := range lines {
		things := slices.DeleteFunc(strings.Split(line, between), func(thing string) bool { return lies[thing] })
		if len(things) == 0 {
			continue
		}
		list = append(list, strings.Join(things, between))
		for _, thing := range things {
			lies[thing] = true
		}
	}
	return list
}

// layOutFor is what else an activity needs.
func layOutFor(a Activity) []string {
	switch a.Task {
	case task.Wash, task.Rinse:
		return []string{"gloves and glasses"}
	case task.FilterChange:
		return []string{"the new filter with its leaflet; a jug or a bucket; dry paper"}
	case task.Regenerate:
		return []string{"salt without additives; a jug or a bucket; dry paper"}
	case task.DrawOff:
		return []string{"a jug that bears hot water; an oven glove"}
	}
	if a.Uses != nil {
		return append(slices.Clone(a.Task.Row().Tools), a.Uses.Words()+" for the bath")
	}
	return a.Task.Row().Tools
}

// jugs says what catches what comes out.
func (d *Descaling) jugs() string {
	holds := 0.0
	for _, v := range d.Plant.Vessels {
		if v.Kind == plant.Catch && v.ID != "tray" && v.ID != "sink" {
			holds = v.Capacity
		}
	}
	text := fmt.Sprintf("two jugs of %.2g L", holds)
	if d.Program == descale.Poured {
		text += "; a large bowl, to pour it out into"
	}
	return text
}

// Where names what a plan is for: its groups, or the machine.
func (p Plan) Where() string {
	if p.Leads().Part.IsWhole() {
		return "the machine"
	}
	return care.Groups(p.Groups())
}

// put gives the steps of an activity to it, and to the plan the place they have in
// the order.
func (p *Plan) put(list []Step) {
	for _, s := range list {
		a := p.Activity(s.Activity)
		a.Steps = append(a.Steps, s)
		p.Order = append(p.Order, s.ID)
	}
}

// name is how a step is called in a plan: by itself where only one group is washed,
// else with the group's number before it.
func name(several bool, part machine.Part, id string) string {
	if several {
		return fmt.Sprintf("%d-%s", part.GroupNumber(), id)
	}
	return id
}
