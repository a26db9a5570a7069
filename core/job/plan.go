// Package job composes the steps of a sitting into an ordered plan, and
// refuses an order that would hurt somebody.
//
// It does not carry the plan out (package run) nor decide when it is due
// (package care).
package job

import (
	"fmt"
	"slices"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/descale"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// Lane is who or what a step keeps busy.
type Lane string

// Hands is the lane of the one who does the work. A soak keeps its group busy,
// and leaves the hands free.
const Hands Lane = "hands"

func groupLane(group int) Lane { return Lane(fmt.Sprintf("group %d", group)) }

// StepKind is how a step is carried out.
type StepKind string

// The kinds: an act is done and pressed; pulses run by the clock once begun;
// a look asks for a reading; a wait lets time do it.
const (
	Act    StepKind = "act"
	Pulsed StepKind = "pulses"
	Look   StepKind = "look"
	Wait   StepKind = "wait"   // a soak, or the machine's own program
	Grade  StepKind = "grade"  // asks how the first discharge looked
	Choose StepKind = "choose" // asks what happens when the pump runs
)

// Hazard is what a step does to the chemical in its group.
type Hazard string

// The effects: Sets puts detergent in; Holds lets it stand or work; Empties takes what is left out of the
// blind; Rinses counts towards getting it out of the group; Proves is the flush
// after a clear cup, which ends it; Pours makes a drink.
const (
	NoHazard Hazard = ""
	Sets     Hazard = "sets"
	Holds    Hazard = "holds"
	Empties  Hazard = "empties"
	Rinses   Hazard = "rinses"
	Proves   Hazard = "proves"
	Pours    Hazard = "pours"
)

// Step is one thing to do.
type Step struct {
	ID       string            `json:"id"`
	Kind     StepKind          `json:"kind"`
	Lane     Lane              `json:"lane"`
	After    []string          `json:"after"`
	Group    int               `json:"group"`
	Title    string            `json:"title"`  // the line in the list
	Head     string            `json:"head"`   // the words read from across the room
	Do       []string          `json:"do"`     // what to do, in order
	Button   string            `json:"button"` // what pressing says
	Cautions []reason.Caution  `json:"cautions"`
	Pulses   *backflush.Pulses `json:"pulses,omitempty"`
	Hazard   Hazard            `json:"hazard"`
	Water    units.Volume      `json:"water"` // runs into the tray, besides the pulses
	Takes    time.Duration     `json:"takes"` // estimate, without the pulses
	Waits    time.Duration     `json:"waits,omitempty"`
	AtOnce   bool              `json:"at_once,omitempty"` // a wait that begins by itself
	Early    bool              `json:"early,omitempty"`   // a wait that may be left before its time
	Soapy    int               `json:"soapy,omitempty"`   // detergent pulses a program stands for
	// Flush is how long the flush of this step runs, where there is one to measure.
	Flush *reason.Worked `json:"flush,omitempty"`
	// Of a descale: the phase it belongs to and the round of the soak, what it does to
	// the liquids, the circuit it is about, what it reads, the answers of a choice,
	// what is mixed, and how a wait was worked out.
	Phase   Phase          `json:"phase,omitempty"`
	Round   int            `json:"round,omitempty"`
	Does    []descale.Move `json:"does,omitempty"`
	Circuit string         `json:"circuit,omitempty"`
	Reads   Reads          `json:"reads,omitempty"`
	Ways    []Way          `json:"ways,omitempty"`
	Mix     *Mix           `json:"mix,omitempty"`
	Length  *reason.Worked `json:"length,omitempty"`
	Stands  bool           `json:"stands,omitempty"` // a wait in which acid works
	Ends    string         `json:"ends,omitempty"`   // what pressing says that ends a wait early
}

// Litres is what a step pushes through.
func (s Step) Litres() float64 {
	for _, m := range s.Does {
		if m.Kind == descale.Pushes {
			return m.Litres
		}
	}
	return 0
}

// Part is what a plan does to one group.
type Part struct {
	Group  int                `json:"group"`
	Dirty  bool               `json:"dirty"` // detergent is in the group from the start
	Gone   float64            `json:"gone"`  // share of the interval that had gone when the run began
	Task   care.Task          `json:"task"`
	Method backflush.MethodID `json:"method"`
	Title  string             `json:"title"`
	Dose   *backflush.Dose    `json:"dose,omitempty"`
	Rinse  backflush.Rinse    `json:"rinse"`
	More   backflush.Pulses   `json:"more"`
}

// Plan is an ordered list of steps for one sitting, with what it uses. One pair
// of hands takes them in that order; a soak runs beside them on the lane of its
// group. It is frozen when a run starts: later changes of the rules do not
// change it.
type Plan struct {
	Version  int           `json:"version"`
	Parts    []Part        `json:"parts"`
	Begin    string        `json:"begin"` // what begins a pulse: pump on, lever on
	Vents    units.Volume  `json:"vents"`
	Flow     float64       `json:"flow"` // mL/s, of a flush
	Tray     units.Volume  `json:"tray"` // 0 for a waste pipe
	Tank     units.Volume  `json:"tank"` // 0 for mains
	Duty     machine.Duty  `json:"duty"`
	Steps    []Step        `json:"steps"`
	Minutes  reason.Worked `json:"minutes"`
	TankUses reason.Worked `json:"tank_uses"`
	TrayGets reason.Worked `json:"tray_gets"`
	// Acid is set in a descale; Errands are done beside the parts.
	Acid    *Acid    `json:"acid,omitempty"`
	Errands []Errand `json:"errands,omitempty"`
}

// Part finds what the plan does to a group; the first part for a group it does
// nothing to.
func (p Plan) Part(group int) Part {
	for _, part := range p.Parts {
		if part.Group == group {
			return part
		}
	}
	return p.Parts[0]
}

// Groups are the groups of a plan, in its order.
func (p Plan) Groups() []int {
	list := make([]int, len(p.Parts))
	for i, part := range p.Parts {
		list[i] = part.Group
	}
	return list
}

// Leads is the part that names the whole plan: the first that washes, or else
// the first.
func (p Plan) Leads() Part {
	if p.Acid != nil {
		lead := Part{Group: p.Parts[0].Group, Task: care.Descale, Title: care.Descale.Title()}
		if p.Acid.Dirty {
			lead.Task, lead.Title = care.AcidRinse, care.AcidRinse.Title()
		}
		return lead
	}
	for _, part := range p.Parts {
		if part.Task == care.Wash {
			return part
		}
	}
	return p.Parts[0]
}

// ID is how a step of a group is called in this plan.
func (p Plan) ID(group int, name string) string {
	if len(p.Parts) == 1 {
		return name
	}
	return fmt.Sprintf("%d-%s", group, name)
}

// Refused says why no plan is made.
type Refused struct{ Finding reason.Finding }

func (r *Refused) Error() string { return r.Finding.Title }

// DetergentCautions are shown wherever detergent is handled.
func DetergentCautions() []reason.Caution { return []reason.Caution{soap, drink} }

const brushFlush units.Volume = 50

var (
	scald = reason.Caution{Danger: "scald", Text: "Hot water and steam. The maker's manual goes first."}
	lock  = reason.Caution{
		Danger: "pressure",
		Text:   "Never unlock the handle while the pump runs, or before the hiss has ended.",
	}
	soap = reason.Caution{
		Danger: "poison",
		Text: "Detergent is alkaline and an oxidiser: gloves and eye protection, dry hands, lid shut at once, away " +
			"from children. Powder into water, never into a closed vessel; not on aluminium baskets or handles. The label " +
			"goes before this card.",
	}
	drink = reason.Caution{
		Danger: "poison",
		Text:   "Not for drinking. No drinks from this group until the rinse is proven.",
	}
	drain = reason.Caution{
		Danger: "pressure",
		Text: "Nothing came out at the drain after a pulse? Take the head as under pressure: pump off, machine off, " +
			"wait until it is cold, then a technician.",
	}
)

// Wash composes a wash by a method, water only or with detergent, of the groups
// of the parts given: of each, Group and Dirty are read. Where a part is dirty,
// detergent is in the group already and none is added: it is only rinsed, and
// the largest dose of any method is taken as still lying there. In is the
// detergent at hand. It refuses, with *Refused, a machine that must not be
// backflushed or has not what the method needs; a bad group, or one named
// twice, is a *units.OutOfRange.
func Wash(a machine.Answers, id backflush.MethodID, in backflush.Detergent, parts ...Part) (Plan, error) {
	f := a.Facts()
	p := Plan{
		Version: 2,
		Begin:   starts(f.Pump),
		Vents:   f.Vents,
		Flow:    f.FreeFlow,
		Tray:    f.Tray,
		Tank:    f.Tank,
		Duty:    f.Duty,
	}
	chains := make([][]Step, 0, len(parts))
	for _, part := range parts {
		if part.Group < 1 || part.Group > f.Groups || slices.Contains(p.Groups(), part.Group) {
			return Plan{}, &units.OutOfRange{
				Field:   "group",
				Value:   fmt.Sprint(part.Group),
				Allowed: fmt.Sprintf("1 to %d, each once", f.Groups),
			}
		}
		part, chain, err := wash(f, id, in, part, p.Begin)
		if err != nil {
			return Plan{}, err
		}
		p.Parts, chains = append(p.Parts, part), append(chains, chain)
	}
	if len(parts) == 0 {
		return Plan{}, &units.OutOfRange{Field: "group", Value: "none", Allowed: fmt.Sprintf("1 to %d", f.Groups)}
	}
	p.lay(prepare(f, overlaps(chains)), chains)
	return p, p.Check()
}

// overlaps says whether one group stands in its soak while another is washed: then
// each needs a blind of its own.
func overlaps(chains [][]Step) bool {
	return len(chains) > 1 && slices.ContainsFunc(chains, func(list []Step) bool {
		return slices.ContainsFunc(list, func(s Step) bool { return s.AtOnce })
	})
}

// wash is what is done to one group.
func wash(
	f machine.Facts,
	id backflush.MethodID,
	in backflush.Detergent,
	part Part,
	begin string,
) (Part, []Step, error) {
	m, err := backflush.Lookup(id)
	if err == nil && part.Dirty {
		m, err = backflush.Lookup(backflush.HalfTeaspoon)
	}
	if err != nil {
		return part, nil, err
	}
	if fits := m.Fits(f); fits.Verdict == reason.Refused {
		return part, nil, &Refused{fits}
	}
	part.Method, part.More, part.Task, part.Title = m.ID, m.More, care.Wash, care.Wash.Title()
	if m.Wet() {
		part.Task, part.Title = care.WaterBackflush, care.WaterBackflush.Title()
		part.Rinse = backflush.Rinse{
			Shown: reason.Worked{
				Name:    "water pulses",
				Value:   float64(m.Rinse.Count),
				Unit:    "pulses",
				Formula: "method",
				Source:  m.Source,
				Inputs: []reason.Input{
					{
						Symbol: "method",
						Label:  "4 to 6 at the end of the day",
						Value:  float64(m.Rinse.Count),
						Unit:   "pulses",
						Source: m.Source,
					},
				},
				WouldChange: []string{"another school"},
			}.Exact(),
		}
		return part, []Step{blind(), rinsing("rinse", m.Rinse, begin), rest(f)}, nil
	}
	dose, err := backflush.DoseFor(m, in)
	if err != nil {
		return part, nil, err
	}
	rinse := m.Rinse
	gram := units.Mass(dose.Mass.Value)
	var chain []Step
	if part.Dirty {
		part.Task, part.Title = care.Rinse, "Rinse the detergent out"
		part.Rinse = backflush.LeastRinse(m, max(gram, backflush.TabletMass), f, 0)
		chain = []Step{open(), Listen("listen"), blind()}
	} else {
		part.Dose = &dose
		part.Rinse = backflush.LeastRinse(m, gram, f, m.First.Count+m.Detergent.Count)
		chain = append([]Step{brush(), dosing(dose, m)}, detergent(m, f)...)
	}
	rinse.Count = part.Rinse.Least
	return part, append(chain, rinsing("rinse", rinse, begin), Cup("cup"), basket(f), discard()), nil
}

// detergent is what a method does between the dose and the water.
func detergent(m backflush.Method, f machine.Facts) []Step {
	var list []Step
	switch {
	case m.Program > 0:
		list = append(list, program(m, f))
	case m.Soak > 0:
		list = append(list, soapy("short", m.First, f), soak(m.Soak), soapy("detergent", m.Detergent, f))
	default:
		list = append(list, soapy("detergent", m.Detergent, f))
	}
	list = append(list, first())
	if m.Wiggle {
		list = append(list, wiggle())
	}
	if m.Screen {
		list = append(list, screen())
	}
	empty := empty()
	if m.Tablet {
		empty.Do[1] = "Handle out. Is the tablet gone? If not, leave it in and pulse again before you go on. Empty the " +
			"blind and rinse it under clean water."
	}
	return append(list, empty)
}

// Check refuses an unsafe order, group by group: detergent pulses before the
// dose, a rinse that is too short, a look before the rinse, no clean blind
// between, an end before the proof. The error says which step and why.
func (p Plan) Check() error {
	seen := map[string]bool{}
	at := map[int]*progress{}
	for _, part := range p.Parts {
		at[part.Group] = &progress{dirty: part.Dirty, least: part.Rinse.Least}
	}
	for _, s := range p.Steps {
		for _, after := range s.After {
			if !seen[after] {
				return fmt.Errorf("step %s comes before %s, which it waits for", s.ID, after)
			}
		}
		if seen[s.ID] || s.ID == "" {
			return fmt.Errorf("step %q stands in the plan twice", s.ID)
		}
		seen[s.ID] = true
		if at[s.Group] == nil {
			return fmt.Errorf("step %s is for group %d, which the plan is not for", s.ID, s.Group)
		}
		if err := at[s.Group].take(s); err != nil {
			return err
		}
	}
	for _, part := range p.Parts {
		if at[part.Group].dirty {
			return fmt.Errorf("the plan ends with detergent in group %d", part.Group)
		}
	}
	return p.checkAcid()
}

// progress is how far a plan has come with one group.
type progress struct {
	dirty, blind, cup bool
	rinsed, least     int
}

func (g *progress) take(s Step) error {
	soapy := s.Kind == Pulsed && s.Hazard != Rinses || s.Hazard == Holds
	switch {
	case s.Hazard == Sets:
		if g.rinsed > 0 || g.dirty {
			return fmt.Errorf("step %s puts detergent in a group that is being rinsed", s.ID)
		}
		g.dirty, g.blind, g.cup = true, false, false
	case soapy && !g.dirty:
		return fmt.Errorf("step %s pulses before the dose is in", s.ID)
	case soapy && g.rinsed > 0:
		return fmt.Errorf("step %s brings detergent back after the rinse has begun", s.ID)
	case soapy:
		g.blind = false
	case s.Hazard == Rinses:
		if g.dirty && !g.blind {
			return fmt.Errorf("step %s rinses with powder still in the blind", s.ID)
		}
		g.rinsed += s.Pulses.Count
	case s.Hazard == Empties:
		g.blind = g.dirty
	case s.Kind == Look && s.Reads == "":
		if g.dirty && g.rinsed < g.least {
			return fmt.Errorf("step %s looks after %d rinse pulses, before the least of %d", s.ID, g.rinsed, g.least)
		}
		g.cup = true
	case s.Hazard == Proves:
		if !g.cup {
			return fmt.Errorf("step %s ends the rinse before anybody looked in the cup", s.ID)
		}
		g.dirty = false
	case s.Hazard == Pours && g.dirty:
		return fmt.Errorf("step %s makes a drink while detergent is in the group", s.ID)
	}
	return nil
}
