package job

import (
	"errors"
	"fmt"
	"math"
	"time"

	"freshanvil/core/boiler"
	"freshanvil/core/circuit"
	"freshanvil/core/descale"
	"freshanvil/core/inspect"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/standdown"
	"freshanvil/core/task"
	"freshanvil/core/units"
)

// Resting is a closing for weeks, a visit, or the return, as it is asked for.
type Resting struct {
	Answers machine.Answers
	Task    task.ID         // lay_up, visit or return
	Rest    standdown.Rest  // that begins; of a lay-up
	Stood   standdown.Stood // of a return: how long it stood, and how often somebody came
	// FilterDue says that what treats the water is to be renewed by its age.
	FilterDue bool
}

// NoPump is a refusal of a machine that is emptied by hand after use.
const NoPump reason.Code = "no_pump"

// resting is one of them while it is laid out.
type resting struct {
	Resting
	f       machine.Facts
	plan    *Plan
	turn    standdown.Turnover
	draw    drawing
	flushed reason.Worked
	heats   time.Duration
	long    bool
	filled  float64 // L in the tank, as a slow hand leaves it
}

// StandDown composes the closing of a machine for weeks, a visit meanwhile, or the return. A closing and a visit end
// with the machine unplugged and its supply shut, or its tank empty: it is not to be switched on. It refuses, with a
// *reason.Refusal, a machine that leaks, and one without a pump.
func StandDown(r Resting) (Plan, error) {
	f := r.Answers.Facts()
	switch {
	case f.Condition == "leaks":
		return Plan{}, reason.Refuse(circuit.Leaks, "It leaks: nothing is led on it").
			Of("condition", f.Condition, "a machine that is sound").
			Why(reason.Trade, "What leaks is switched off, and a technician looks first.").
			Instead("Switch it off, pull the plug and shut the water supply.", "Call a technician.")
	case f.Pump == machine.NoPump:
		return Plan{}, reason.Refuse(NoPump, "A lever without a pump is emptied by hand").
			Of("layout", string(f.Layout), "a machine with a pump").
			Why(reason.Trade, "Nothing stands in it once it is empty, so nobody needs to visit it.").
			Instead("Off, unplugged and cold, the pressure gone: open its cap slowly, pour it out, and leave the cap off.",
				"When you come back, rinse it, fill it fresh, and close the cap before you plug it in.")
	}
	p, err := modelled(f)
	if err != nil {
		return Plan{}, err
	}
	t := resting{Resting: r, f: f, plan: &p, flushed: standdown.Flushed(f), heats: plant.HeatUp(p.Plant),
		long: r.Task == task.Return && r.Stood.Long()}
	if err := t.turnover(); err != nil {
		return Plan{}, err
	}
	p.StandDown, p.LaidUp = r.Task != task.Return, r.Task != task.LayUp
	p.Activities = []Activity{{ID: string(r.Task), Task: r.Task, Title: r.Task.Title(),
		Takes: []Resource{TheHands, TheJug, ThePower}, Looks: t.looks()}}
	steps := map[task.ID]func() []Step{task.LayUp: t.layUp, task.Visit: t.visit, task.Return: t.comeBack}[r.Task]
	if steps == nil {
		return Plan{}, &units.OutOfRange{Field: "task", Value: string(r.Task), Allowed: "lay_up, visit or return"}
	}
	p.Setups[0].Tray, p.Setups[0].Tank = 0, 0 // what is drawn goes into a jug, and the tank is filled by the plan itself
	p.putInTurn(string(r.Task), steps())
	p.addUp()
	return p, p.Check()
}

// turnover finds how its steam boiler is renewed; where too little can be drawn at once, not at all.
func (t *resting) turnover() (err error) {
	var no *reason.Refusal
	if t.turn, err = standdown.TurnoverOf(t.f, t.long); errors.As(err, &no) && no.Code == circuit.TankTooSmall {
		return nil
	}
	if err != nil || t.turn.Draws == 0 {
		return err
	}
	hot, err := boiler.Boils(t.f.Gauge)
	if err != nil {
		return err
	}
	watts := t.f.SteamHeater
	if watts == 0 {
		watts = t.f.Heater
	}
	t.draw = drawing{f: t.f, draw: t.turn.Draw, back: descale.HeatUp(t.turn.Draw, watts, hot)}
	return nil
}

func (t *resting) looks() []inspect.Sight {
	switch {
	case t.Task == task.LayUp:
		return nil
	case t.Task == task.Visit:
		return []inspect.Sight{inspect.Under}
	case t.f.SteamBoiler > 0:
		return []inspect.Sight{inspect.Under, inspect.SteamBar, inspect.Relief}
	}
	return []inspect.Sight{inspect.Under}
}

// acting is a step that hands do.
func acting(id, title, head, button string, takes time.Duration, cautions ...reason.Caution) Step {
	return Step{ID: id, Title: title, Head: head, Button: button, Takes: takes, Body: Act{}, Cautions: cautions}
}

var (
	doNotOn = reason.Caution{Danger: "break",
		Text: "Do not switch it on from here: its water is shut off, or its tank is empty, and an element runs dry."}
	spray = reason.Caution{Danger: "poison",
		Text: "Let it run gently and do not breathe its spray: what grew in standing water is breathed in."}
	supplyFirst = reason.Caution{Danger: "break",
		Text: "Water before power: a pump that screams is dry, and an element without water burns out."}
)

// layUp closes a machine that is hot and in use.
func (t *resting) layUp() []Step {
	days := t.Rest.Days()
	steps := []Step{acting("ready", "washed, rinsed, at its heat", "Is it washed?", "Washed and rinsed", time.Minute).with(
		say("It closes for %d days. Each group is washed and rinsed before: old oil and detergent set hard. If it is not, "+
			"stop here and wash it first.", days),
		say("The machine is on and at its heat."), t.freshTank(), say("%s", t.jugs()))}
	steps = append(steps, t.draws()...)
	var handles []doing
	for g := 1; g <= t.f.Groups; g++ {
		handles = append(handles, doing{acts: []plant.Action{act(plant.TakeOut, machine.Group(g).String())}})
	}
	steps = append(steps,
		acting("wand", "purge, wipe", "Purge and wipe the wand", "Wiped, tap closed", 30*time.Second, steamy).with(
			does("Tip over the tray, by its grip: open the steam tap for two seconds, close it, and wipe the wand.",
				amount(plant.Puff, steamTap, 2))),
		acting("off", "off, plug out", "Switch it off, plug out", "Off, plug out", 30*time.Second, livid).with(offAndOut()),
		acting("heads", "handles out, seals dry", "Handles out, seals dry", "Dry, handles beside it", 3*time.Minute, lock,
			scald).with(append([]doing{
			say("Wait until nothing hisses. Take each handle out, and leave it out: a seal that is pressed for weeks stays " +
				"flat."),
			say("With a cloth, not with fingers: wipe seal, screen and rim dry."),
			say("Baskets and handles washed, dry, beside the machine."),
		}, handles...)...),
		acting("empty", "tank, tray, waste", t.emptyHead(), "Empty and dry", 3*time.Minute, scald).with(t.empties()...),
	)
	if text := t.filterStays(); text != "" {
		steps = append(steps, acting("filter", "what becomes of the filter", "The filter", "Done",
			time.Minute).with(say("%s", text)))
	}
	return append(steps, t.shutLast())
}

// freshTank fills the tank, where there is one.
func (t *resting) freshTank() doing {
	if t.f.Plumbed {
		return say("The water supply is open.")
	}
	return does("Fill the tank with fresh water.", act(plant.FillUp, "tank"))
}

// jugs says what catches what is drawn.
func (t *resting) jugs() string {
	if t.turn.Draws == 0 {
		return "A jug that bears hot water stands ready."
	}
	return fmt.Sprintf("A jug that holds more than %s and bears hot water stands ready. With a larger one fewer draws "+
		"do: say its size among the machine's facts.", Litres(t.turn.Draw))
}

// draws renew the steam boiler, pressure back between.
func (t *resting) draws() (list []Step) {
	for n := 1; n <= t.turn.Draws; n++ {
		s := t.draw.drawn(n, t.turn.Draws)
		if n == 1 {
			s = s.first(does("Put an empty jug under the hot-water tap.", act(plant.Empty, "jug-tap"))).with(
				say("%d draws renew about %.0f %% of the water in the boiler.", t.turn.Draws,
					math.Round(t.turn.Renews.Value*100/5)*5))
		}
		list = append(list, s, t.draw.pressureBack(n))
	}
	return list
}

func (t *resting) emptyHead() string {
	if t.f.Plumbed {
		return "Tray and waste"
	}
	return "Empty tank and tray"
}

// empties is what stands empty and dry meanwhile. The boilers stay full.
func (t *resting) empties() []doing {
	var list []doing
	if !t.f.Plumbed {
		list = append(list, does("Pour the tank out, wipe it dry, and leave its lid open: water that stands grows slime.",
			act(plant.Empty, "tank")))
	}
	list = append(list, does("Empty the drip tray, wash it and dry it.", act(plant.Empty, "tray")))
	if t.f.Tray == 0 {
		list = append(list, say("Rinse the waste with hot water out of a kettle, half a litre: what sets in it now smells "+
			"in weeks."))
	}
	return append(list, say("The boilers stay full: half-empty ones corrode where water meets air, and are switched "+
		"on dry by mistake. Where the room may freeze, a technician drains them."))
}

// filterStays is what becomes of what treats the water meanwhile; empty where nothing does.
func (t *resting) filterStays() string {
	kind := t.Answers.Treatment
	if t.f.Plumbed && (kind == machine.InTank || kind == machine.Softener) { // there is no tank for it to stand in
		return ""
	}
	switch kind {
	case machine.InTank:
		if t.Rest.Visited {
			return "Stand the cartridge in a closed jar of clean water, in the refrigerator: it must neither dry nor stand warm."
		}
		return "Throw the cartridge away. Bacteria grow in a cartridge that stands still for weeks; a new one goes in " +
			"on the return."
	case machine.Softener:
		return "Take the softener out of the tank and stand it in a closed jar of clean water."
	case machine.UnderSink:
		if t.Rest.Visited {
			return "The cartridge under the sink stays. It is flushed on each visit, and its months go on."
		}
		return "The cartridge under the sink stays, and is renewed on the return: bacteria grow in one that stands still."
	}
	return ""
}

// shutLast ends a closing or a visit.
func (t *resting) shutLast() Step {
	s := acting("shut", "supply shut, sign on it", "Last: shut the water", "Shut. Do not switch on", time.Minute, doNotOn)
	if t.f.Plumbed {
		s = s.with(does("Shut the water supply, last of all: the lever across the pipe.", act(plant.ShutSupply, "")))
	} else {
		s.Title, s.Head = "sign on it", "Last: a sign on it"
		s.Button = "Do not switch on"
	}
	return s.with(say("Hang a sign on it: do not switch on. Its card prints one."))
}

// visit is one of the weekly visits.
func (t *resting) visit() []Step {
	steps := append([]Step{t.waterFirst(doing{}), t.dryCold()}, t.filterFlush()...)
	steps = append(steps, t.runWater()...)
	steps = append(steps, t.draws()...)
	off := acting("off", "off, plug out", "Switch it off, plug out", "Off, plug out", 2*time.Minute,
		livid).with(offAndOut())
	if t.f.Plumbed {
		off = off.with(does("Empty the drip tray and dry it.", act(plant.Empty, "tray")))
	} else {
		off = off.with(does("Pour the tank out, wipe it dry, lid open. Tray empty and dry.", act(plant.Empty, "tank"),
			act(plant.Empty, "tray")))
	}
	return append(steps, off, t.shutLast())
}
