// Package job composes the steps of a sitting into an ordered plan, and
// refuses an order that would hurt somebody.
//
// It does not carry the plan out (package run) nor decide when it is due
// (package care).
package job

import (
	"fmt"
	"math"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// Lane is who or what a step keeps busy.
type Lane string

// Hands is the one lane in use so far.
const Hands Lane = "hands"

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

// The effects: Sets puts detergent in; Rinses counts towards getting it out;
// Proves is the flush after a clear cup, which ends it.
const (
	NoHazard Hazard = ""
	Sets     Hazard = "sets"
	Rinses   Hazard = "rinses"
	Proves   Hazard = "proves"
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
}

// Plan is an ordered list of steps for one sitting, with what it uses. It is
// frozen when a run starts: later changes of the rules do not change it.
type Plan struct {
	Version  int                `json:"version"`
	Task     care.Task          `json:"task"`
	Method   backflush.MethodID `json:"method"`
	Group    int                `json:"group"`
	Title    string             `json:"title"`
	Dirty    bool               `json:"dirty"` // detergent is in the group from the start
	Gone     float64            `json:"gone"`  // share of the interval that had gone when the run began
	Begin    string             `json:"begin"` // what begins a pulse: pump on, lever on
	Dose     *backflush.Dose    `json:"dose,omitempty"`
	Rinse    backflush.Rinse    `json:"rinse"`
	More     backflush.Pulses   `json:"more"`
	Vents    units.Volume       `json:"vents"`
	Tray     units.Volume       `json:"tray"` // 0 for a waste pipe
	Tank     units.Volume       `json:"tank"` // 0 for mains
	Steps    []Step             `json:"steps"`
	Minutes  reason.Worked      `json:"minutes"`
	TankUses reason.Worked      `json:"tank_uses"`
	TrayGets reason.Worked      `json:"tray_gets"`
}

// Refused says why no plan is made.
type Refused struct{ Finding reason.Finding }

func (r *Refused) Error() string { return r.Finding.Title }

// DetergentCautions are shown wherever detergent is handled.
func DetergentCautions() []reason.Caution { return []reason.Caution{soap, drink} }

const brushFlush units.Volume = 50

var (
	scald = reason.Caution{Danger: "scald", Text: "Hot water and steam. The maker's manual goes first."}
	lock  = reason.Caution{Danger: "pressure", Text: "Never unlock the handle while the pump runs, or before the hiss has ended."}
	soap  = reason.Caution{Danger: "poison", Text: "Detergent is alkaline and an oxidiser: gloves and eye protection, dry hands, lid shut at once, away from children. Powder into water, never into a closed vessel; not on aluminium baskets or handles. The label goes before this card."}
	drink = reason.Caution{Danger: "poison", Text: "Not for drinking. No drinks from this group until the rinse is proven."}
	drain = reason.Caution{Danger: "pressure", Text: "Nothing came out at the drain after a pulse? Take the head as under pressure: pump off, machine off, wait until it is cold, then a technician."}
)

// Wash composes a wash of one group by a method, water only or with
// detergent. With dirty, detergent is in the group already and none is added:
// only the rinse is planned, and it takes the largest dose of any method as
// still lying there. In is the detergent at hand. It refuses, with *Refused, a
// machine that must not be backflushed or has not what the method needs; a bad
// group is a *units.OutOfRange.
func Wash(a machine.Answers, id backflush.MethodID, group int, dirty bool, in backflush.Detergent) (Plan, error) {
	f := a.Facts()
	if group < 1 || group > f.Groups {
		return Plan{}, &units.OutOfRange{Field: "group", Value: fmt.Sprint(group), Allowed: fmt.Sprintf("1 to %d", f.Groups)}
	}
	m, err := backflush.Lookup(id)
	if err == nil && dirty {
		m, err = backflush.Lookup(backflush.HalfTeaspoon)
	}
	if err != nil {
		return Plan{}, err
	}
	if fits := m.Fits(f); fits.Verdict == reason.Refused {
		return Plan{}, &Refused{fits}
	}
	p := Plan{
		Version: 1, Task: care.Wash, Method: m.ID, Group: group, Title: care.Wash.Title(), Dirty: dirty, More: m.More, Begin: starts(f.Pump),
		Vents: f.Vents, Tray: f.Tray, Tank: f.Tank,
	}
	if m.Wet() {
		p.Task, p.Title = care.WaterBackflush, care.WaterBackflush.Title()
		p.Rinse = backflush.Rinse{Shown: reason.Worked{Name: "water pulses", Value: float64(m.Rinse.Count), Unit: "pulses", Formula: "method", Source: m.Source,
			Inputs: []reason.Input{{Symbol: "method", Label: "4 to 6 at the end of the day", Value: float64(m.Rinse.Count), Unit: "pulses", Source: m.Source}}, WouldChange: []string{"another school"}}.Exact()}
		p.Steps = []Step{prepare(f), p.blind(), rinsing("rinse", m.Rinse, p.Begin), rest(f)}
		return p.lined()
	}
	dose, err := backflush.DoseFor(m, in)
	if err != nil {
		return Plan{}, err
	}
	rinse := m.Rinse
	gram := units.Mass(dose.Mass.Value)
	if dirty {
		p.Task, p.Title = care.Rinse, "Rinse the detergent out"
		p.Rinse = backflush.LeastRinse(m, max(gram, backflush.TabletMass), f, 0)
		p.Steps = []Step{prepare(f), open(), Listen("listen"), p.blind()}
	} else {
		p.Dose = &dose
		p.Rinse = backflush.LeastRinse(m, gram, f, m.First.Count+m.Detergent.Count)
		p.Steps = append([]Step{prepare(f), brush(), dosing(dose, m)}, p.detergent(m, f)...)
	}
	rinse.Count = p.Rinse.Least
	p.Steps = append(p.Steps, rinsing("rinse", rinse, p.Begin), Cup("cup"), p.basket(f), discard())
	return p.lined()
}

// lined puts the steps on their lane, one after the other.
func (p Plan) lined() (Plan, error) {
	for i := range p.Steps {
		p.Steps[i].Lane, p.Steps[i].Group = Hands, p.Group
		if i > 0 {
			p.Steps[i].After = []string{p.Steps[i-1].ID}
		}
	}
	p.work()
	return p, p.Check()
}

// detergent is what a method does between the dose and the water.
func (p Plan) detergent(m backflush.Method, f machine.Facts) []Step {
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
	empty := p.empty()
	if m.Tablet {
		empty.Do[1] = "Handle out. Is the tablet gone? If not, leave it in and pulse again before you go on. Empty the blind and rinse it under clean water."
	}
	return append(list, empty)
}

func prepare(f machine.Facts) Step {
	do := []string{"Machine on and at pressure."}
	switch {
	case f.Tank > 0:
		do = append(do, "Tank full.")
	case f.Plumbed:
		do = append(do, "Water supply open.")
	}
	if f.Tray > 0 {
		do = append(do, "Tray empty and back in.")
	}
	switch f.Blind {
	case "none":
		do = append(do, "You have no blind on record: get one that fits before you start. A basket with holes builds no pressure.")
	case "rubber with a hole":
		do = append(do, "The rubber disc and a clear cup at hand. The disc drips through its hole: that is normal.")
	default:
		do = append(do, "A blind basket and a clear cup at hand.")
	}
	return Step{ID: "ready", Kind: Act, Title: "get ready", Head: "Get ready", Do: do, Button: "All ready", Cautions: []reason.Caution{scald}, Takes: 30 * time.Second}
}

func brush() Step {
	return Step{ID: "brush", Kind: Act, Title: "brush, flush", Head: "Brush and flush", Button: "Brushed and flushed", Water: brushFlush, Takes: 45 * time.Second,
		Do:       []string{"Take the handle out.", "Brush the seal and the screen.", "Flush for a few seconds, so that no grounds are driven back."},
		Cautions: []reason.Caution{scald}}
}

func dosing(d backflush.Dose, m backflush.Method) Step {
	what, put := fmt.Sprintf("%.2g g", d.Mass.Value), "Powder in, dry."
	button := "Powder is in, handle locked"
	switch {
	case d.Pinch:
		what, put = "a pinch", "A pinch of powder in, dry."
	case d.Form == backflush.Tablets:
		what, put, button = "one tablet", "One tablet in, dry.", "Tablet is in, handle locked"
	}
	blind := "Put the blind basket in the handle."
	if m.Program > 0 {
		blind = "Put the cleaning disc in the handle."
	}
	return Step{ID: "dose", Kind: Act, Title: what + " in the blind, lock in", Head: "Dose", Button: button, Hazard: Sets, Takes: 40 * time.Second,
		Do:       []string{blind, put, "Lock the handle in."},
		Cautions: []reason.Caution{soap, drink}}
}

func soapy(id string, p backflush.Pulses, f machine.Facts) Step {
	return Step{ID: id, Kind: Pulsed, Title: pulseTitle(p, "detergent"), Head: "Detergent pulses", Button: "Begin: " + starts(f.Pump), Pulses: &p,
		Do:       []string{"Hold a clear cup under the drain for the first discharge.", "Press, and in the same moment: " + starts(f.Pump) + ".", "Follow ON and OFF by eye."},
		Cautions: []reason.Caution{lock, drain}}
}

// soak stands with detergent in the group, begun by the last pulse's end.
func soak(long time.Duration) Step {
	return Step{ID: "soak", Kind: Wait, Title: fmt.Sprintf("soak %.0f min", long.Minutes()), Head: "Soak", Button: "Go on", Waits: long, AtOnce: true,
		Do:       []string{"Leave the handle in. Stay here: never longer unattended, or it dries hard in the valve."},
		Cautions: []reason.Caution{lock, drink}}
}

// programPulses is the water a program is taken to vent, in pulses: five with
// detergent, five without (our own engineering choice).
const programPulses = 10

func program(m backflush.Method, f machine.Facts) Step {
	return Step{ID: "program", Kind: Wait, Title: "the machine's own program", Head: "Start the cleaning program", Button: "The program has started", Waits: m.Program, Early: true,
		Soapy: m.Detergent.Count, Water: programPulses * f.Vents,
		Do:       []string{"At least 1 L in the tank, tray empty.", "Start the machine's cleaning program by its manual. It runs 6 to 7 minutes.", "Hold a clear cup under the drain for the first discharge."},
		Cautions: []reason.Caution{lock, drain}}
}

// first asks how the first discharge looked: it tells whether the interval fits.
func first() Step {
	return Step{ID: "first", Kind: Grade, Title: "first discharge: how brown?", Head: "The first discharge", Button: "That is how it looked", Takes: 10 * time.Second,
		Do:       []string{"How brown was the first discharge, with the detergent? Foam is normal.", "It says whether the wash comes often enough. Missed it? Say so; nothing is lost."},
		Cautions: []reason.Caution{drink}}
}

func wiggle() Step {
	return Step{ID: "wiggle", Kind: Act, Title: "loosen slightly, water on, wiggle, brush", Head: "Loosen and wiggle", Button: "Wiggled and brushed", Water: brushFlush, Takes: 45 * time.Second,
		Do:       []string{"Wait until the hiss has ended.", "Loosen the handle a few degrees, not off. Water on for 3 seconds: it runs over the rim of the seal. Wiggle the handle. Water off.", "Wait, handle out, brush seal and screen."},
		Cautions: []reason.Caution{lock, scald}}
}

func screen() Step {
	return Step{ID: "screen", Kind: Act, Title: "screen off, look, wash", Head: "Drop the screen", Button: "Screen is washed and back", Takes: 2 * time.Minute,
		Do:       []string{"Wait until the hiss has ended. Handle out.", "Screw out, screen off: are all holes open, on both sides? Wash it under clean water.", "Screen back, screw snug, not tight. If it does not come off easily, leave it on."},
		Cautions: []reason.Caution{lock, {Danger: "scald", Text: "Screen and screw are as hot as the group: a cloth, or let it cool first."}}}
}

func (p Plan) empty() Step {
	return Step{ID: "blind", Kind: Act, Title: "empty and rinse the blind", Head: "Empty the blind", Button: "Blind is clean and locked in", Takes: 45 * time.Second,
		Do:       []string{"Wait until the hiss has ended.", "Handle out. Empty the blind and rinse it under clean water.", "Blind back in, no powder. Lock in."},
		Cautions: []reason.Caution{lock, scald}}
}

// blind locks the clean blind in, for water only.
func (p Plan) blind() Step {
	return Step{ID: "blind", Kind: Act, Title: "clean blind in", Head: "Blind in", Button: "Blind is in, no powder", Takes: 20 * time.Second,
		Do: []string{"Brush the seal and the screen.", "Clean blind basket in the handle, no powder. Lock in."}, Cautions: []reason.Caution{scald}}
}

// What happens when the pump runs for a second, in a group that detergent was
// left in: water comes; nothing does and no valve clicks; or it clicks, and no
// water comes.
const (
	Flows   = "flows"
	NoClick = "no_click"
	Clicks  = "clicks"
)

// Listen asks which of them it is.
func Listen(id string) Step {
	return Step{ID: id, Kind: Choose, Title: "does it click, does water come?", Head: "Listen: does it click?", Button: "That is what happens", Takes: 15 * time.Second,
		Do:       []string{"Handle out. Pump on for one second.", "The valve clicks, and water comes from the group: as it should be."},
		Cautions: []reason.Caution{scald, drink}}
}

// Brim dissolves what has dried in the valve with hot water, and at the last try
// with the foam of a little powder.
func Brim(id string, powder bool) Step {
	s := Step{ID: id, Kind: Act, Title: "hot water to the brim", Head: "Fill the blind to the brim", Button: "Locked in and waited", Takes: 3 * time.Minute,
		Do:       []string{"Dried powder holds the valve. Fill the blind with hot water, to the brim.", "Lock it in, so that the water stands against the screen. Wait three minutes.", "Handle out, carefully."},
		Cautions: []reason.Caution{scald, drink}}
	if powder {
		s.Title, s.Head, s.Hazard = "hot water and a little powder", "Once more, with a little powder", Sets
		s.Do[0] = "The same with a pinch of powder in the hot water: its foam creeps where water does not."
		s.Cautions = []reason.Caution{soap, scald}
	}
	return s
}

// rest ends a water backflush.
func rest(f machine.Facts) Step {
	return Step{ID: "rest", Kind: Act, Title: "basket back, flush", Head: "Basket back, flush", Button: "Flushed", Water: backflush.RinseFlush, Takes: 30 * time.Second, Flush: flushTime(f),
		Do: []string{"Wait until the hiss has ended.", "Blind out, coffee basket in.", "Flush into the tray."}, Cautions: []reason.Caution{lock, scald}}
}

// open begins a rinse of a group that already holds detergent.
func open() Step {
	return Step{ID: "open", Kind: Act, Title: "handle out, empty the blind", Head: "Handle out, carefully", Button: "Handle is out, blind is clean", Takes: 60 * time.Second,
		Do:       []string{"If a handle is locked in: wait until no hiss is left, cloth over it, loosen a few degrees, stop, wait, then take it out.", "Empty the blind and rinse it under clean water."},
		Cautions: []reason.Caution{lock, drain, drink}}
}

func rinsing(id string, p backflush.Pulses, begin string) Step {
	return Step{ID: id, Kind: Pulsed, Title: pulseTitle(p, "water"), Head: "Water pulses", Button: "Begin: " + begin, Pulses: &p, Hazard: Rinses,
		Do:       []string{"Only water now.", "Catch the last discharge at the drain in the clear cup."},
		Cautions: []reason.Caution{lock, drain}}
}

// Cup is the look that asks for a reading; More is the pair of pulses before
// the next one. A run adds them until the cup is clear.
func Cup(id string) Step {
	return Step{ID: id, Kind: Look, Title: "cup: colour, foam, grains", Head: "Look in the cup", Button: "That is what I see", Takes: 20 * time.Second,
		Do:       []string{"Hold it against something white.", "Pick what you see. If in doubt, pick the dirtier one."},
		Cautions: []reason.Caution{drink}}
}

// ExtraRinse is a set of water pulses that a run adds.
func (p Plan) ExtraRinse(id string, count int) Step {
	more := p.More
	more.Count = count
	s := rinsing(id, more, p.Begin)
	s.Lane, s.Group = Hands, p.Group
	return s
}

func (p Plan) basket(f machine.Facts) Step {
	return Step{ID: "basket", Kind: Act, Title: "basket back, flush", Head: "Basket back, flush", Button: "Flushed", Hazard: Proves, Water: backflush.RinseFlush, Takes: 40 * time.Second,
		Do:       []string{"Wait until the hiss has ended.", "Blind out, coffee basket in.", "Flush into the tray."},
		Flush:    flushTime(f),
		Cautions: []reason.Caution{lock, scald}}
}

func flushTime(f machine.Facts) *reason.Worked {
	w := reason.Worked{Name: "length of the flush", Value: math.Ceil(float64(backflush.RinseFlush) / f.FreeFlow), Unit: "s", Formula: "ceil(flush ÷ flow)", Source: reason.Ours,
		Inputs: []reason.Input{
			{Symbol: "flush", Label: "water that ends the rinse", Value: float64(backflush.RinseFlush), Unit: "mL", Source: reason.Ours},
			{Symbol: "flow", Label: "free flow from the group", Value: f.FreeFlow, Unit: "mL/s", Source: reason.Ours},
		},
		WouldChange: []string{"a group that flows faster or slower: the machine's page"}}.Exact()
	return &w
}

func discard() Step {
	return Step{ID: "discard", Kind: Act, Title: "discard the first drink", Head: "Pour the first drink away", Button: "Poured away", Takes: time.Minute,
		Do:       []string{"Pull one shot as usual.", "Pour it away. Do not taste it to test for detergent."},
		Cautions: []reason.Caution{scald}}
}

// starts is what begins a pulse: the pump, or the lever that makes the pressure.
func starts(p machine.Pump) string {
	if p == machine.NoPump {
		return "lever on"
	}
	return "pump on"
}

func pulseTitle(p backflush.Pulses, with string) string {
	return fmt.Sprintf("%.0f s on, %.0f s off, %s", p.On.Seconds(), p.Off.Seconds(), with)
}

// work sums up what the plan takes.
func (p *Plan) work() {
	var hands, pulsing, waits time.Duration
	var water units.Volume
	pulses := 0
	for _, s := range p.Steps {
		hands += s.Takes
		waits += s.Waits
		water += s.Water
		if s.Pulses != nil {
			pulsing += s.Pulses.Length()
			pulses += s.Pulses.Count
		}
	}
	p.Minutes = reason.Worked{Name: "time the sitting takes", Value: (hands + pulsing + waits).Minutes(), Unit: "min", Formula: "(hands + pulses + waits) ÷ 60", Source: reason.Ours,
		Inputs: []reason.Input{
			{Symbol: "hands", Label: "estimate for the steps done by hand", Value: hands.Seconds(), Unit: "s", Source: reason.Ours},
			{Symbol: "pulses", Label: "pulses, on and off", Value: pulsing.Seconds(), Unit: "s", Source: reason.Trade},
			{Symbol: "waits", Label: "soak, or the machine's own program", Value: waits.Seconds(), Unit: "s", Source: reason.Trade},
		}, WouldChange: []string{"an unclear cup adds half a minute a pair of pulses"}}.Exact()
	inputs := []reason.Input{
		{Symbol: "pulses", Label: "pulses in all", Value: float64(pulses), Unit: "pulses", Source: reason.Trade},
		{Symbol: "vents", Label: "vents a pulse", Value: float64(p.Vents), Unit: "mL", Source: reason.Ours},
		{Symbol: "flushes", Label: "flushes in all", Value: float64(water), Unit: "mL", Source: reason.Ours},
	}
	total := float64(pulses)*float64(p.Vents) + float64(water)
	p.TrayGets = reason.Worked{Name: "water into the tray", Value: total * 1.1, Unit: "mL", Formula: "(pulses × vents + flushes) × 1.1", Inputs: inputs, Source: reason.Ours, WouldChange: []string{"more pulses", "a group that vents more"}}.Exact()
	p.TankUses = reason.Worked{Name: "water from the tank", Value: total, Unit: "mL", Formula: "pulses × vents + flushes", Inputs: inputs, Source: reason.Ours, WouldChange: []string{"more pulses"}}.Exact()
}

// Check refuses an unsafe order: detergent pulses before the dose, a rinse
// that is too short, a look before the rinse, no clean blind between, an end
// before the proof. The error says which step and why.
func (p Plan) Check() error {
	seen := map[string]bool{}
	dirty, blind, cup := p.Dirty, false, false
	rinsed := 0
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
		switch {
		case s.Hazard == Sets:
			if rinsed > 0 || dirty {
				return fmt.Errorf("step %s puts detergent in a group that is being rinsed", s.ID)
			}
			dirty, blind, cup = true, false, false
		case (s.Kind == Pulsed || s.Kind == Wait) && s.Hazard != Rinses && !dirty:
			return fmt.Errorf("step %s pulses before the dose is in", s.ID)
		case (s.Kind == Pulsed || s.Kind == Wait) && s.Hazard != Rinses && rinsed > 0:
			return fmt.Errorf("step %s brings detergent back after the rinse has begun", s.ID)
		case (s.Kind == Pulsed || s.Kind == Wait) && s.Hazard != Rinses:
			blind = false
		case s.Hazard == Rinses:
			if dirty && !blind {
				return fmt.Errorf("step %s rinses with powder still in the blind", s.ID)
			}
			rinsed += s.Pulses.Count
		case s.ID == "blind":
			blind = dirty
		case s.Kind == Look:
			if dirty && rinsed < p.Rinse.Least {
				return fmt.Errorf("step %s looks after %d rinse pulses, before the least of %d", s.ID, rinsed, p.Rinse.Least)
			}
			cup = true
		case s.Hazard == Proves:
			if !cup {
				return fmt.Errorf("step %s ends the rinse before anybody looked in the cup", s.ID)
			}
			dirty = false
		case s.ID == "discard" && dirty:
			return fmt.Errorf("step %s makes a drink while detergent is in the group", s.ID)
		}
	}
	if dirty {
		return fmt.Errorf("the plan ends with detergent in group %d", p.Group)
	}
	return nil
}
