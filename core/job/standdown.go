package job

import (
	"errors"
	"fmt"
	"math"
	"strings"
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
	return fmt.Sprintf("A jug that holds more than %s and bears hot water stands ready. With a larger one fewer "+
		"draws do: "+
		"say its size among the machine's facts.", Litres(t.turn.Draw))
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
		list = append(list, say("Pour half a jug of hot water from a kettle down the waste: what sets in it now smells "+
			"in weeks."))
	}
	return append(list, say("The boilers stay full: half-empty ones corrode where water meets air, and are switched "+
		"on dry "+
		"by mistake. Where the room may freeze, a technician drains them."))
}

// filterStays is what becomes of what treats the water meanwhile; empty where nothing does.
func (t *resting) filterStays() string {
	switch t.Answers.Treatment {
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

// waterFirst brings water before power.
func (t *resting) waterFirst(before doing) Step {
	s := acting("water", "water first", "Water first", "Water is there", 2*time.Minute, supplyFirst)
	s = s.with(say("The plug is out."))
	if t.f.Plumbed {
		return s.with(before, does("Open the water supply slowly: the lever along the pipe.", act(plant.OpenSupply, "")),
			say("No water in the pipe? Let a tap beside it run until it comes clear and cold."))
	}
	return s.with(say("Rinse the tank."), before,
		does("Fill it with fresh water, and put it in to its stop.", act(plant.FillUp, "tank")))
}

// dryCold looks for leaks before there is power.
func (t *resting) dryCold() Step {
	return t.dryUnder("leaks", "The plug is still out: two minutes after the water came, a torch and a dry tissue, "+
		"under it "+
		"and behind it.", livid)
}

// dryUnder looks for leaks.
func (t *resting) dryUnder(id, how string, cautions ...reason.Caution) Step {
	s := lookAt(inspect.Under, "Is it dry?", "That is what I see", 2*time.Minute, cautions...).with(say("%s", how))
	s.ID = id
	return s
}

// filterFlush lets clean water through a cartridge under the sink before it goes into the machine.
func (t *resting) filterFlush() []Step {
	if t.Answers.Treatment != machine.UnderSink || !t.f.Plumbed {
		return nil
	}
	s := acting("filter", "flush the filter", "Flush the filter", "Two litres are through", 2*time.Minute, spray).with(
		say("At its flush valve, let two litres through the cartridge into a bucket. Without a flush valve go on: the "+
			"groups' "+
			"water goes through it."),
		say("Its months go on, whether it is used or not."))
	s.Body = Act{Draws: flushFilter.Millilitres()}
	return []Step{s}
}

// flushFilter is what runs through a cartridge that has stood, L (our own engineering choice: about twice what it
// holds).
const flushFilter units.Litres = 2

// screams is what there is to do where a pump screams.
var screams = reason.Finding{Verdict: reason.Stop, Title: "Switch it off: the pump is dry",
	Because: []reason.Reason{{Source: reason.Trade,
		Text: "A pump that screams gets no water: the supply is shut, the tank is out of its seat, a filter is clogged, or " +
			"air stands in it. A dry pump wears in minutes, and an element without water burns out."}},
	Next: []string{"Switch it off now and pull the plug.",
		"Open the supply, or press the tank home. Then begin again; if it still screams, look for the cause."},
	Symptom: "pump_screams"}

var silent = reason.Finding{Verdict: reason.Stop, Title: "Switch it off: the pump does not run",
	Because: []reason.Reason{{Source: reason.Trade, Text: "Without the pump nothing refills, and an element runs dry."}},
	Next:    []string{"Switch it off now and pull the plug.", "Look for the cause, or call a technician."},
	Symptom: "no_pump_pressure"}

// powerOn switches the machine on.
func (t *resting) powerOn() Step {
	return acting("on", "plug in, on", "Plug in, and on", "It is on", 30*time.Second, supplyFirst, livid).with(
		does("Dry hands: plug in, and switch on. A scream: off at once.", act(plant.PlugIn, ""), act(plant.SwitchOn, "")))
}

// listen lets the pump run and asks how it sounds.
func (t *resting) listen() Step {
	return Step{ID: "pump", Title: "listen to the pump", Head: "How does the pump sound?", Takes: 30 * time.Second,
		Button: "That is how it sounds", Cautions: []reason.Caution{supplyFirst, scald},
		Body: Choose{Ways: []Way{{Answer: PumpUsual, Text: "As usual, and water comes"},
			{Answer: PumpScreams, Text: "It screams, or rattles", Stop: &screams},
			{Answer: PumpSilent, Text: "Not a sound", Stop: &silent}}}}.with(
		does(fmt.Sprintf("A jug under %s. Run water for three seconds, and listen. It spits at first: that is air.",
			t.oneGroup()), act(plant.Empty, "jug-group-1"), amount(plant.Sample, "group-1", 0.02)))
}

func (t *resting) oneGroup() string {
	if t.f.Groups == 1 {
		return "the group"
	}
	return "group 1"
}

// runWater switches it on, lets fresh water through the groups, before it is hot where the pump then runs, and waits
// for
// its heat.
func (t *resting) runWater() []Step {
	heat := Step{ID: "heat", Title: "to its heat", Head: "It comes to its heat", Button: "At its heat",
		Cautions: []reason.Caution{scald}, Body: Wait{For: t.heats.Round(time.Minute), Early: true, Ends: "It is at its " +
			"heat"}}
	heat = heat.with(say("It takes about %s. Stay near: the relief valve is shut, nothing drips.", spokenTime(t.heats)))
	steps := []Step{t.powerOn()}
	if t.f.PumpBeforeHot == machine.No {
		return append(append(steps, heat, t.listen()), t.groups()...)
	}
	return append(append(append(steps, t.listen()), t.groups()...), heat)
}

// groups lets water run through every group.
func (t *resting) groups() []Step {
	if t.f.Tray == 0 && t.f.Waste > 0 {
		return []Step{t.allGroups()}
	}
	var list []Step
	for g := 1; g <= t.f.Groups; g++ {
		list = append(list, t.intoJug(g)...)
	}
	return list
}

// allGroups opens the groups of a café one after the other, as many as the waste pipe takes.
func (t *resting) allGroups() Step {
	openings, together := standdown.Openings(t.f)
	s := acting("groups", "water through the groups", "Five minutes of water", "All are closed",
		openings[len(openings)-1].Shut+30*time.Second, spray, scald) // somebody stands by and watches the waste
	each := float64(t.f.FreeFlow) * standdown.RunsFor.Seconds() / 1000
	s.Body = Act{Draws: units.Volume(each * 1000 * float64(t.f.Groups))}
	s = s.with(say("Handles out. About %s a group goes down the waste: watch that it runs away.",
		Litres(units.Litres(each))))
	for i := 0; i < len(openings); i += together {
		wave := openings[i:min(len(openings), i+together)]
		var names, ids []string
		for _, o := range wave {
			names = append(names, fmt.Sprint(o.Group))
			ids = append(ids, machine.Group(o.Group).String())
		}
		text := fmt.Sprintf("Open group %s and let it run for five minutes.", names[0])
		if len(wave) > 1 {
			text = fmt.Sprintf("Open group %s, and the next each twelve seconds later (%s). Close each after five minutes, in "+
				"the same order.", names[0], strings.Join(names[1:], ", "))
		}
		s = s.with(does(text, amount(plant.Together, strings.Join(ids, " "), standdown.RunsFor.Seconds())))
	}
	return s
}

// How a group of a machine with a tank is let run: so long at a stretch, s, and so much of a jug (our own engineering
// choices).
const (
	spell   = 40.0
	jugFull = 0.7
)

// intoJug lets so much through a group that what stood there is out, in spells that pump, jug and tank take.
func (t *resting) intoJug(g int) (list []Step) {
	group := machine.Group(g).String()
	jug := "jug-" + group
	flow := float64(t.f.FreeFlow) / 1000
	most := math.Min(flow*spell, jugFull*float64(t.f.Jug.Litres()))
	if on := t.f.Duty.On.Seconds(); on > 0 {
		most = math.Min(most, flow*on/2)
	}
	n := int(math.Ceil(t.flushed.Value / most))
	each := math.Ceil(t.flushed.Value/float64(n)*20) / 20
	for i := 1; i <= n; i++ {
		id := fmt.Sprintf("run-%d-%d", g, i)
		s := acting(id, fmt.Sprintf("water through the group, %d of %d", i, n), "Run "+Litres(units.Litres(each)),
			"Run, jug empty",
			time.Duration((each/flow+30)*float64(time.Second)).Round(time.Second), spray, scald)
		s.Body = Act{Draws: units.Volume(each * 1000)}
		fill := doing{}
		if t.filled+1.2*each > 0.8*float64(t.f.Tank.Litres()) && !t.f.Plumbed {
			fill = does("Fill the tank first.", act(plant.FillUp, "tank"))
			t.filled = 0
		}
		t.filled += 1.2 * each
		list = append(list, s.with(fill,
			does(fmt.Sprintf("Handle out, the empty jug under the group. Run water for about %.0f seconds: %s. Stop.",
				math.Round(each/flow/5)*5, Litres(units.Litres(each))), act(plant.Empty, jug), amount(plant.Sample, group, each)),
			does("Pour the jug away.", act(plant.Empty, jug))))
		if t.f.Duty.On > 0 && i < n {
			list = append(list, Step{ID: id + "-rest", Title: "the pump rests", Head: "The pump rests", Button: "It has rested",
				Body: Soak{For: time.Minute}}.with(say("A pump of this kind may not run on: it rests for a minute.")))
		}
	}
	if !t.f.Plumbed && n > 0 {
		list = append(list, acting(fmt.Sprintf("tank-%d", g), "fill the tank", "Fill the tank", "It is full",
			30*time.Second).with(
			does("Fill the tank again, and put it in to its stop.", act(plant.FillUp, "tank"))))
		t.filled = 0
	}
	return list
}

// comeBack brings a machine back into use.
func (t *resting) comeBack() []Step {
	var steps []Step
	if t.long {
		steps = append(steps, acting("authority", "the health authority", "First: who must be asked?",
			"Asked, or it serves nobody else", time.Minute, spray).with(
			say("%s", t.Stood.Because().Text),
			say("Bacteria may have grown in water that stood: above all between 20 and 45 °C, in boilers, hoses and filters."),
			say("Does anybody but you drink from it? Ask the local health authority what it wants before the first drink, "+
				"and do that, too. What follows renews the water; it is no proof that it is clean.")))
	}
	steps = append(steps, t.waterFirst(say("%s", t.filterBack())), t.dryCold())
	steps = append(steps, t.filterFlush()...)
	steps = append(steps, t.runWater()...)
	steps = append(steps, t.atPressure()...)
	steps = append(steps, t.draws()...)
	return append(steps, t.firstAway())
}

// filterBack is what goes back that treats the water.
func (t *resting) filterBack() string {
	old := t.long || t.FilterDue
	switch {
	case t.Answers.Treatment == machine.InTank && (old || t.Stood.Visits == 0):
		return "A new cartridge goes into the tank: soaked for five minutes, as its leaflet says."
	case t.Answers.Treatment == machine.InTank:
		return "The cartridge goes back into the tank: rinsed under the tap, and soaked for five minutes."
	case t.Answers.Treatment == machine.Softener:
		return "The softener goes back: rinsed under the tap, and soaked for five minutes."
	case t.Answers.Treatment == machine.UnderSink && (old || t.Stood.Visits == 0):
		return "Is a new cartridge in, under the sink? The old one has stood too long. If not, stop here and change it first."
	}
	return ""
}

// atPressure is what is looked at when it is at its heat for the first time.
func (t *resting) atPressure() []Step {
	if t.f.SteamBoiler == 0 {
		return []Step{t.dryUnder("dry", "At its heat: a torch and a dry tissue, under it and behind it.", scald)}
	}
	gauge := lookAt(inspect.SteamBar, "What does the gauge show?", "That is what it shows", 30*time.Second, scald).with(
		does("The machine is at its heat, and nobody draws steam.", act(plant.AtHeat, "")))
	probe := reason.Finding{Verdict: reason.Stop, Title: "Switch it off: the boiler overfills",
		Because: []reason.Reason{{Text: "A probe that does not feel the water lets the pump fill on, until water comes " +
			"by the " +
			"wand or the relief valve.", Source: reason.Trade}},
		Next: []string{"Switch it off and pull the plug.", "A technician cleans the level probe, and looks at the valve."}}
	fills := Step{ID: "probe", Title: "does the filling stop?", Head: "Does the filling stop?", Takes: time.Minute,
		Button: "That is what it does", Cautions: []reason.Caution{scald},
		Body: Choose{Ways: []Way{{Answer: FillStops, Text: "Yes: the pump is quiet"},
			{Answer: FillsOn, Text: "No, it fills on and on", Stop: &probe}}}}.with(
		say("Nobody draws anything. Listen for a minute: the pump that refills the boiler stops by itself."))
	relief := lookAt(inspect.Relief, "Look at the relief valve", "That is what I see", time.Minute, relief, scald).with(
		say("From a step away, a torch on its outlet. Touch nothing."))
	return []Step{gauge, fills, relief, t.dryUnder("dry", "At pressure: a torch and dry paper, under it, behind it, "+
		"and at every joint you can see.", steamy)}
}

// firstAway ends the return.
func (t *resting) firstAway() Step {
	s := acting("first", "the first drinks away", "The first drinks go away", "It is back in use", 2*time.Minute, scald)
	for g := 1; g <= t.f.Groups; g++ {
		s = s.with(doing{acts: []plant.Action{act(plant.LockBasket, machine.Group(g).String())}})
	}
	if !t.f.Plumbed {
		s = s.with(does("Fill the tank with fresh water.", act(plant.FillUp, "tank")))
	}
	each := ""
	if t.f.Groups > 1 {
		each = " at each group"
	}
	return s.with(say("Brush the seals, handles in. Pull two shots of ordinary coffee%s, and pour them away.", each),
		say("Steam into a jug of water for ten seconds, and pour it away. Wipe the wand."),
		say("Take the sign off. What has fallen due meanwhile stands on the bench."))
}
