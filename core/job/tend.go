package job

import (
	"fmt"
	"math"
	"slices"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/descale"
	"freshanvil/core/inspect"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/speak"
	"freshanvil/core/task"
	"freshanvil/core/units"
)

// NoSuchPart refuses care of a part that a machine has not, NotEntitled work that is not anybody's.
const (
	NoSuchPart  reason.Code = "no_such_part"
	NotEntitled reason.Code = "not_entitled"
)

// tending writes the steps of the care of a machine's parts: what is said and what is done, as one.
type tending struct {
	f     machine.Facts
	a     machine.Answers
	plan  *Plan
	group int  // whose part it is; 0 for the machine's
	first bool // of the parts
	last  bool
	many  bool // several groups, one after the other
	dose  backflush.Dose
	cold  reason.Worked // hours until it may be opened
	heats time.Duration // from cold to its heat
}

// tended is the care of one part: its activity, and the steps before, of and after it. What is done cold is
// done on every group between one switching off and one switching on.
type tended struct {
	cold     bool
	supply   bool // shut meanwhile
	lets     bool // what is behind the group's valve comes out: on the mains, brew pressure is let off before
	drained  bool // a boiler is empty when it is switched on again
	sealed   bool // behind it is a boiler's pressure: the gauge is looked at
	reach    string
	anywhere bool // the machine may be as it is
	steps    func(*tending) []Step
	// after are the steps at its heat again.
	after func(*tending) []Step
	cares func(*tending) []string // the parts of the plant that it is there for
	looks []inspect.Sight
	lacks func(machine.Facts) string // why a machine has no such part; empty where it has
}

// activities are the tasks that are done to parts, each as it is led.
var activities = map[task.ID]tended{
	task.Screen: {cold: true, supply: true, lets: true, reach: onTheGroup, steps: (*tending).screen,
		after: (*tending).wetting,
		cares: ofGroup("screen", "spreader"), looks: []inspect.Sight{inspect.Screen, inspect.Seal, inspect.Wetting}},
	task.Seal: {cold: true, supply: true, lets: true, reach: onTheGroup, steps: (*tending).seal, after: (*tending).sealDry,
		cares: ofGroup("seal", "screen"), looks: []inspect.Sight{inspect.Screen}},
	task.CamGrease: {cold: true, supply: true, lets: true, sealed: true, reach: onTheGroup, steps: (*tending).cam,
		after: (*tending).lever, cares: ofGroup("cam"), looks: []inspect.Sight{inspect.Lever},
		lacks: func(f machine.Facts) string {
			if f.Valve != machine.Cam {
				return "Its groups have no cam."
			}
			return ""
		}},
	task.Jet: {cold: true, supply: true, lets: true, sealed: true, reach: onTheGroup, steps: (*tending).jet,
		after: (*tending).wetting, cares: ofGroup("jet"), looks: []inspect.Sight{inspect.Wetting},
		lacks: func(f machine.Facts) string {
			if f.SteamBoiler == 0 || !f.Valve.Vents() {
				return "Its groups have no jet that is cleaned by itself."
			}
			return ""
		}},
	task.Soak: {anywhere: true, steps: (*tending).bath, cares: (*tending).everyHandle,
		looks: []inspect.Sight{inspect.Spring, inspect.Rim}},
	task.Tip: {steps: (*tending).tip, cares: named("tip"), looks: []inspect.Sight{inspect.Tip}},
	task.Tank: {steps: (*tending).tank, cares: named("tank-walls", "strainer"),
		looks: []inspect.Sight{inspect.Strainer}, lacks: func(f machine.Facts) string {
			if f.Tank == 0 || f.Pump == machine.NoPump {
				return "It has no tank."
			}
			return ""
		}},
	task.Tray:  {anywhere: true, steps: (*tending).tray, cares: named("tray-pan")},
	task.Waste: {steps: (*tending).waste, cares: named("tray-pan", "waste-pipe")},
	task.LookForScale: {cold: true, sealed: true, reach: onTheFitting, steps: (*tending).lookForScale,
		after: (*tending).dryAgain, cares: (*tending).window, looks: []inspect.Sight{inspect.Gauze}},
	task.SteamJoint: {cold: true, sealed: true, reach: onTheFitting, steps: (*tending).joint, after: (*tending).jointDry,
		cares: named("joint"), looks: []inspect.Sight{inspect.Joint}},
	task.DrainSeals: {cold: true, supply: true, sealed: true, drained: true, reach: onTheFitting,
		steps: (*tending).drainSeals,
		after: (*tending).screwsDry, cares: (*tending).drains, looks: []inspect.Sight{inspect.Screws},
		lacks: func(f machine.Facts) string {
			if f.Drain != "screws" && f.Drain != "plug" {
				return "Its boilers have no drain screws and no plug."
			}
			return ""
		}},
	task.Probe: {cold: true, supply: true, sealed: true, reach: onTheFitting, steps: (*tending).probe,
		after: (*tending).dryAgain, cares: named("probe"), looks: []inspect.Sight{inspect.Probe},
		lacks: func(f machine.Facts) string {
			if f.SteamBoiler == 0 || f.Pump == machine.NoPump {
				return "It has no boiler that fills itself by a probe."
			}
			return ""
		}},
	task.Bleed: {steps: (*tending).bleed, lacks: func(f machine.Facts) string {
		if f.Pump == machine.NoPump {
			return "It has no pump."
		}
		return ""
	}},
	task.Relief:  {steps: (*tending).relief, looks: []inspect.Sight{inspect.Relief}},
	task.Grinder: {anywhere: true, steps: (*tending).grinder, cares: named("burrs")},
}

// Tends says whether a task is done to a part, by a plan of Tend.
func Tends(id task.ID) bool { _, is := activities[id]; return is }

// named are the parts of these names; of are those of the group.
func named(ids ...string) func(*tending) []string { return func(*tending) []string { return ids } }

func ofGroup(ids ...string) func(*tending) []string {
	return func(t *tending) []string {
		list := make([]string, len(ids))
		for i, id := range ids {
			list[i] = t.part(id)
		}
		return list
	}
}

// part is a part of the group, by its name on the plant.
func (t *tending) part(id string) string { return fmt.Sprintf("%s-%d", id, t.group) }

func (t *tending) opening() string { return machine.Group(t.group).String() }

// groupWords is "the group", or which one.
func (t *tending) groupWords() string {
	if t.f.Groups == 1 {
		return "the group"
	}
	return fmt.Sprintf("group %d", t.group)
}

// Where a thermometer is held.
const (
	onTheGroup   = "on the metal beside the group"
	onTheFitting = "on the metal of the boiler's fitting"
)

// Tend composes the care of parts of a machine: of the whole machine, or of the groups named. It refuses a
// machine that has no such part with a *reason.Refusal; parts that the task is not of are a
// *units.OutOfRange.
func Tend(a machine.Answers, id task.ID, powder backflush.Detergent, parts ...machine.Part) (Plan, error) {
	if !Tends(id) {
		return Plan{}, &units.OutOfRange{Field: "task", Value: string(id), Allowed: "care of a part"}
	}
	g, err := Gather(Gathering{Answers: a, Powder: powder}, Want{id, parts})
	if err != nil {
		return Plan{}, err
	}
	return g.Plan(g.InTurn())
}

func newTending(a machine.Answers, p *Plan, powder backflush.Detergent) (*tending, error) {
	f := a.Facts()
	dose, err := backflush.SoakDose(powder)
	if err != nil {
		return nil, err
	}
	cooling, err := descale.CoolingOf(f)
	if err != nil {
		return nil, err
	}
	return &tending{f: f, a: a, plan: p, dose: dose, heats: plant.HeatUp(p.Plant),
		cold: cooling.Opens(f.Layout == machine.DualHome)}, nil
}

// check refuses a machine that has no such part, and parts that a task is not of.
func (what tended) check(id task.ID, f machine.Facts, parts []machine.Part) error {
	if what.lacks != nil && what.lacks(f) != "" {
		return reason.Refuse(NoSuchPart, "There is nothing here to care for").
			Of("task", string(id), "a task of a part that this machine has").Why(reason.Said, what.lacks(f))
	}
	if len(parts) == 0 {
		return &units.OutOfRange{Field: "parts", Value: "none", Allowed: "at least one part"}
	}
	for i, part := range parts {
		if err := id.CheckPart(part, f.Groups); err != nil {
			return err
		}
		if slices.Contains(parts[:i], part) {
			return &units.OutOfRange{Field: "parts", Value: part.String(), Allowed: "each part once"}
		}
	}
	return nil
}

func (t *tending) activity(id task.ID, what tended, part machine.Part) Activity {
	t.group = part.GroupNumber()
	title := id.Title()
	if t.group > 0 && t.f.Groups > 1 {
		title = fmt.Sprintf("%s, group %d", title, t.group)
	}
	a := Activity{ID: name(t.group > 0 && t.many, part, string(id)), Task: id, Part: part, Title: title,
		Takes: []Resource{TheHands}, Looks: what.looks}
	if what.cares != nil {
		a.Cares = what.cares(t)
	}
	if id == task.Soak {
		a.Uses, a.Takes = &t.dose, append(a.Takes, TheTub)
	}
	if what.cold {
		a.Takes = append(a.Takes, ThePower)
	}
	return a
}

// steps are those of every part, one after the other.
func (t *tending) each(acts []Activity, steps func(*tending) []Step) []Step {
	if steps == nil {
		return nil
	}
	t.many = len(acts) > 1
	var list []Step
	for i, a := range acts {
		t.group, t.first, t.last = a.Part.GroupNumber(), i == 0, i == len(acts)-1
		for _, s := range steps(t) {
			s.Activity, s.Part, s.Lane, s.ID = a.ID, a.Part, Hands, name(t.many, a.Part, s.ID)
			list = append(list, s)
		}
	}
	return list
}

// lookAt asks what is seen of a part, in the words of its row.
func lookAt(s inspect.Sight, head, button string, takes time.Duration, cautions ...reason.Caution) Step {
	row, _ := inspect.Find(s)
	ways := make([]Way, len(row.Seen))
	for i, v := range row.Seen {
		ways[i] = Way{Answer: Answer(v.Verdict), Text: v.Text}
		if f, stops := v.Halts(); stops {
			ways[i].Stop = &f
		}
	}
	return Step{ID: "look-" + string(s), Title: "look: " + speak.Lower(row.Title), Head: head, Button: button,
		Takes: takes, Cautions: cautions, Body: Choose{Ways: ways, Sight: s}}
}

// Cautions of parts.
var (
	byManual = reason.Caution{Danger: "break",
		Text: "The maker's manual goes first. What does not come off easily is left on."}
	grease = reason.Caution{Danger: "poison", Text: "Food-safe grease only, and little of it: it touches the water."}
	livid  = reason.Caution{Danger: "shock",
		Text: "Unplugged before anything is opened. Dry hands before it is plugged in."}
	bath = reason.Caution{Danger: "break",
		Text: "Never wood, plastic or aluminium in the bath. Powder into the water, never into a vessel that is then shut."}
	sucks = reason.Caution{Danger: "poison",
		Text: "Never leave the wand standing in liquid: a boiler that cools sucks it in."}
)

// letOff lets off what the mains press on the groups with, the supply shut and the machine still on; where nothing
// comes, the group is taken to be under pressure. False where nothing is to be let off. A machine that was off
// overnight is switched on for it, and off again by the next step.
func (t *tending) letOff(what tended, parts []machine.Part, cold bool) (Step, bool) {
	if !what.lets || !t.f.Plumbed {
		return Step{}, false
	}
	stop := reason.Finding{Verdict: reason.Stop, Title: "Take the group to be under pressure: stop here",
		Because: []reason.Reason{{Text: "A valve or a jet that is blocked lets nothing off. What the mains press on stays " +
			"behind it.", Source: reason.Trade}},
		Next: []string{"Switch it off and pull the plug. Leave the supply shut, and open nothing.", "Call a technician."}}
	open := reason.Finding{Verdict: reason.Stop, Title: "The supply is not shut: stop here",
		Because: []reason.Reason{{Text: "Water that runs on still has the mains behind it.", Source: reason.Trade}},
		Next: []string{"Close the group. Switch it off and pull the plug. Open nothing.",
			"Is the lever across the pipe? A valve that does not hold is a plumber's."}}
	var list []doing
	if cold {
		list = append(list, does("Dry hands: plug in, switch on, and wait until the pump is quiet.", act(plant.PlugIn, ""),
			act(plant.SwitchOn, "")))
	}
	list = append(list, does("Shut the water supply: the lever across the pipe. Leave the machine on.",
		act(plant.ShutSupply, "")))
	var acts []plant.Action
	for _, part := range parts {
		if part.GroupNumber() > 0 {
			acts = append(acts, act(plant.LetOff, part.String()))
		}
	}
	if !cold {
		list = append([]doing{say("This is best done in the morning, before it is switched on: now it has to cool first.")},
			list...)
	}
	where := "under the group, its handle in. Open the group"
	if t.f.Groups > 1 {
		where = "under each group that is worked on, its handle in. Open it"
	}
	list = append(list, doing{text: "Stand a cup " + where + " for two seconds, then close it: a little comes, and stops.",
		acts: acts})
	return Step{ID: "let-off", Title: "supply shut, brew pressure let off", Head: "Let the pressure off",
		Button: "That is what came", Takes: time.Minute, Cautions: []reason.Caution{lock, scald},
		Body: Choose{Ways: []Way{{Answer: Came, Text: "A little, and it stopped"},
			{Answer: NoneCame, Text: "Nothing came", Stop: &stop},
			{Answer: RunsOn, Text: "It runs on", Stop: &open}}}}.with(list...), true
}

// off switches the machine off, shuts its supply where that is wanted, and takes the handles out.
func (t *tending) off(what tended, parts []machine.Part) Step {
	list, cautions := []doing{offAndOut()}, []reason.Caution{scald, livid}
	if what.supply && !what.lets && t.f.Plumbed {
		list = append(list, does("Shut the water supply: the lever across the pipe.", act(plant.ShutSupply, "")))
	}
	for _, part := range parts {
		if g := part.GroupNumber(); g > 0 {
			cautions = []reason.Caution{lock, scald, livid}
			word := "the group"
			if t.f.Groups > 1 {
				word = fmt.Sprintf("group %d", g)
			}
			list = append(list, does(fmt.Sprintf("Take the handle out of %s.", word), act(plant.TakeOut, part.String())))
		}
	}
	return Step{ID: "off", Title: "off, plug out", Head: "Switch it off", Button: "Off, plug out", Takes: time.Minute,
		Cautions: cautions, Body: Act{}}.with(list...)
}

// left is a machine that has been off overnight: nothing is waited for, but it is measured before it is opened.
func (t *tending) left(what tended, parts []machine.Part) Step {
	read, gauge, below := t.measured(what)
	s := t.off(what, parts)
	s.Title, s.Head, s.Button = "off since last night, cold", "It is off, and cold", "Cold, plug out"
	s.Do, s.Acts = s.Do[1:], s.Acts[len(offAndOut().acts):]
	first := does("Leave it off. Pull the plug.", offAndOut().acts...)
	if what.lets && t.f.Plumbed { // it was switched on for that
		first = offAndOut()
	}
	last := does(fmt.Sprintf("%s thermometer must read less than %.0f °C %s. Is it warmer: stop, let it cool, and begin "+
		"again with a machine that was in use.", gauge, below, what.reach), read...)
	s.Cautions = append(s.Cautions, never45)
	return s.first(first).with(last)
}

// measured is what must be read before something is opened cold.
func (t *tending) measured(what tended) (read []plant.Action, gauge string, below float64) {
	below = float64(descale.SafeToDrain)
	for i := range t.plan.Plant.Vessels {
		if v := &t.plan.Plant.Vessels[i]; v.IsCircuit() {
			read = append(read, amount(plant.Measured, v.ID, below))
		}
	}
	if what.sealed && (t.f.SteamBoiler > 0 || t.f.Layout == machine.LeverManual) {
		return read, "The gauge must be at 0, and a", below
	}
	return read, "A", below
}

// cools lets it cool.
func (t *tending) cools(what tended) Step {
	read, gauge, below := t.measured(what)
	ends := fmt.Sprintf("Below %.0f °C", below)
	if gauge != "A" {
		ends += ", gauge at 0"
	}
	return Step{
		ID: "cool", Title: fmt.Sprintf("it cools below %.0f °C", below), Head: "It cools",
		Button:   "It is off: the clock runs",
		Cautions: []reason.Caution{scald, never45},
		Body: Wait{For: time.Duration(math.Ceil(t.cold.Value*60+1) * float64(time.Minute)), Early: true, Ends: ends,
			Length: &t.cold, Read: read},
	}.with(
		say("Best in the morning, before it is switched on: if it has been off for 12 hours, go on at once."),
		say("%s thermometer must read less than %.0f °C %s. Without one, leave it overnight.", gauge, below, what.reach),
	)
}

// on brings supply and power back.
func (t *tending) on(what tended) Step {
	list := []doing{waterReady(t.f)}
	if what.supply && t.f.Plumbed {
		list = []doing{does("Open the water supply. Look for a drop where you worked.", act(plant.OpenSupply, ""))}
	}
	list = append(list, does("Dry hands: plug in and switch on.", act(plant.PlugIn, ""), act(plant.SwitchOn, "")))
	if what.drained {
		list = append(list,
			say("It fills before it heats: listen to the pump, and watch the level. If it does not fill within "+
				"minutes, switch it off."))
	}
	return Step{ID: "on", Title: "plug in, on", Head: "Switch it on", Button: "It is on", Takes: time.Minute,
		Cautions: []reason.Caution{scald, dryHeat}, Body: Act{}}.with(list...)
}

func (t *tending) hotAgain() Step {
	return Step{ID: "heat", Title: "it heats", Head: "It heats", Button: "It is on: the clock runs",
		Cautions: []reason.Caution{scald},
		Body:     Wait{For: max(time.Minute, t.heats.Round(time.Minute)), Early: true, Ends: "It is hot"},
	}.with(say("From cold it takes about %s. Go on when it is as hot as usual.", spokenTime(t.heats)))
}
