package job

import (
	"time"

	"freshanvil/core/inspect"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
)

// comeBack brings a machine back into use.
func (t *resting) comeBack() []Step {
	var steps []Step
	if t.long {
		steps = append(steps, acting("authority", "the health authority", "First: who must be asked?",
			"Asked, or it serves nobody else", time.Minute, spray).with(
			say("%s", t.Stood.Because().Text),
			say("Bacteria may have grown in water that stood: above all between 20 and 45 °C, in boilers, hoses and filters."),
			say("Does anybody but you drink from it? Ask the local health authority what it wants before the first drink, "+
				"and do that, too. The next steps bring fresh water; that is no proof that it is clean.")))
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
	case t.f.Plumbed && t.Answers.Treatment != machine.UnderSink: // there is no tank for it to stand in
		return ""
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
		return []Step{t.dryUnder("dry", "At its heat: a torch, from a step away. Look under it and behind it. Wipe "+
			"it dry once it is off.",
			scald)}
	}
	gauge := lookAt(inspect.SteamBar, "What does the gauge show?", "That is what it shows", 30*time.Second, scald).with(
		does("The machine is at its heat, and nobody draws steam.", act(plant.AtHeat, "")))
	probe := reason.Finding{Verdict: reason.Stop, Title: "Switch it off: the boiler overfills",
		Because: []reason.Reason{{Text: "A probe that does not feel the water lets the pump fill on, until water comes " +
			"by the wand or the relief valve.", Source: reason.Trade}},
		Next: []string{"Switch it off and pull the plug.", "A technician cleans the level probe, and looks at the valve."}}
	fills := Step{ID: "probe", Title: "does the filling stop?", Head: "Does the filling stop?", Takes: time.Minute,
		Button: "That is what it does", Cautions: []reason.Caution{scald},
		Body: Choose{Ways: []Way{{Answer: FillStops, Text: "Yes: the pump is quiet"},
			{Answer: FillsOn, Text: "No, it fills on and on", Stop: &probe}}}}.with(
		say("Nobody draws anything. Listen for a minute: the pump that refills the boiler stops by itself."))
	relief := lookAt(inspect.Relief, "Look at the relief valve", "That is what I see", time.Minute, relief, scald).with(
		say("From a step away, a torch on its outlet. Touch nothing."))
	return []Step{gauge, fills, relief, t.dryUnder("dry", "At pressure: a torch, from a step away. Look under it, behind "+
		"it, and at every joint you can see. No hand, cloth or paper near them.", steamy)}
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
		say("Take the sign off. The bench lists the work that fell due meanwhile."))
}
