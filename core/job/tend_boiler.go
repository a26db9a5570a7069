package job

import (
	"fmt"
	"math"
	"time"

	"freshanvil/core/inspect"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
)

// tank wipes the tank out.
func (t *tending) tank() []Step {
	filter := doing{}
	if t.a.Treatment == machine.InTank || t.a.Treatment == machine.Softener {
		filter = say("Take the filter or softener out of it and stand it in clean water, so that it does not dry.")
	}
	return []Step{
		Step{ID: "out", Title: "off, tank out", Head: "Tank out", Button: "It is out and empty",
			Takes: time.Minute, Body: Act{},
			Cautions: []reason.Caution{intakeInAir}}.with(
			does("Switch the machine off.", act(plant.SwitchOff, "")),
			does("Take the tank out and pour the old water away.", act(plant.TakeOff, "tank-walls"), act(plant.Empty, "tank")),
			filter,
		),
		lookAt(inspect.Strainer, "Look at the strainer", "That is how it looks", 20*time.Second).with(
			say("Look at the gauze where the pump draws its water. Do not force it out."),
		),
		Step{ID: "wipe", Title: "wipe, rinse", Head: "Wipe the inside", Button: "Wiped and rinsed", Takes: 2 * time.Minute,
			Body: Act{}, Cautions: []reason.Caution{byManual}}.with(
			does("Wipe walls, corners and lid with a soft cloth and a drop of dish soap. Rinse until nothing foams.",
				act(plant.Scrub, "tank-walls")),
			does("Rinse the strainer under the tap.", act(plant.Scrub, "strainer")),
		),
		Step{ID: "back", Title: "fill, back, on", Head: "Fill it, back, on", Button: "It is back and full",
			Takes: time.Minute,
			Body:  Act{}, Cautions: []reason.Caution{dryFilter}}.with(
			doingIf(filter.text != "", say("Filter or softener back, to its mark.")),
			does("Fill it with fresh water and put it back.", act(plant.FillUp, "tank"), act(plant.FitOn, "tank-walls")),
			does("Switch the machine on. A pump that screams draws air: put the tank in to its stop.", act(plant.SwitchOn, "")),
		),
	}
}

func doingIf(is bool, d doing) doing {
	if is {
		return d
	}
	return doing{}
}

// tray empties and washes the drip tray.
func (t *tending) tray() []Step {
	return []Step{Step{ID: "tray", Title: "empty, wash, back", Head: "Empty and wash it", Button: "It is back, clean",
		Takes: 90 * time.Second, Body: Act{}, Cautions: []reason.Caution{scald}}.with(
		does("Take tray and grid out level: the water in it may be hot. Pour it away.", act(plant.TakeOff, "tray-pan"),
			act(plant.Empty, "tray")),
		does("Wash both with hot water and wipe them.", act(plant.Scrub, "tray-pan")),
		does("Put them back.", act(plant.FitOn, "tray-pan")),
	)}
}

// halfJug is what goes down a waste pipe, L (common practice: half a jug).
const halfJug = 0.5

// waste washes tray and waste pipe.
func (t *tending) waste() []Step {
	water := say("Fill a jug to the half with hot water out of a kettle.")
	if t.f.SteamBoiler > 0 {
		litres := math.Min(halfJug, 0.2*float64(t.f.SteamFill().Litres()))
		water = does(fmt.Sprintf("Draw %s from the hot-water tap into a jug, slowly.", Litres(litres)),
			act(plant.Empty, "jug-tap"), amount(plant.LetOut, hotTap, litres))
	}
	return []Step{
		Step{ID: "tray", Title: "tray out, washed", Head: "Tray out, wash it", Button: "Washed",
			Takes: 90 * time.Second, Body: Act{},
			Cautions: []reason.Caution{scald}}.with(
			does("Lift tray and grid out.", act(plant.TakeOff, "tray-pan"), act(plant.Empty, "tray")),
			does("Wash both with hot water and wipe them.", act(plant.Scrub, "tray-pan")),
		),
		Step{ID: "waste", Title: "hot water down the waste", Head: "Hot water down the waste", Button: "It runs away freely",
			Takes: time.Minute, Body: Act{}, Cautions: []reason.Caution{steamy}}.with(
			water,
			does("Pour it slowly into the waste: coffee sludge sets in the pipe. If it stands, stop pouring and clear it.",
				act(plant.Scrub, "waste-pipe")),
			does("Put tray and grid back.", act(plant.FitOn, "tray-pan")),
		),
	}
}

// window is the part through which scale is looked for.
func (t *tending) window() []string {
	switch {
	case t.f.SteamBoiler > 0:
		return []string{"gauze"}
	case t.f.Layout == machine.LeverManual:
		return nil
	}
	return []string{"tip"}
}

// lookForScale looks into the boiler by what can be unscrewed, and descales nothing.
func (t *tending) lookForScale() []Step {
	out := Step{ID: "out", Title: "gauze off", Head: "Gauze off", Button: "It is in my hand", Takes: 2 * time.Minute,
		Body: Act{}, Cautions: []reason.Caution{byManual, never45}}
	back := Step{ID: "back", Title: "rinse, back", Head: "Rinse it, back", Button: "It is back, snug",
		Takes: 2 * time.Minute,
		Body:  Act{}, Cautions: []reason.Caution{byManual}}
	where := "Look at the gauze, and into the tap behind it with a torch."
	switch part := t.window(); {
	case part == nil:
		out.Title, out.Head, out.Button = "cap off", "Cap off", "It is off"
		out = out.with(does("Open the cap slowly.", act(plant.Open, "cap")))
		where = "Look at the walls of the boiler with a torch."
		back.Title, back.Head, back.Button = "cap back", "Cap back", "It is tight"
		back = back.with(does("Close the cap, tight.", act(plant.Close, "cap")))
	case part[0] == "tip":
		out.Title, out.Head = "steam tip off", "Steam tip off"
		where = "Look at the tip, and into the wand behind it with a torch."
		out = out.with(does("Unscrew the tip of the steam wand.", act(plant.TakeOff, "tip")))
		back = back.with(does("Rinse flakes out of it.", act(plant.Scrub, "tip")),
			does("Screw it back with its gasket, snug.", act(plant.FitOn, "tip")))
	default:
		out = out.with(does("Hold the hot-water tap and unscrew its gauze, by hand or with a soft-jawed key.",
			act(plant.TakeOff, "gauze")))
		back = back.with(does("Rinse flakes out of it.", act(plant.Scrub, "gauze")),
			does("Screw it back by hand, snug.", act(plant.FitOn, "gauze")))
	}
	return []Step{out, lookAt(inspect.Gauze, "Is it white?", "That is how it looks", 30*time.Second).with(
		say("%s", where), say("White is scale. Brown is old coffee or rust: wipe it first.")), back}
}

// fromAway is how what is under pressure is looked at: nothing is held to it, and it is dried once it is off.
const fromAway = "From a step away, with a torch: look at %s for a minute. No hand, cloth or paper near it."

// dryAgain looks whether what was opened is dry, at pressure.
func (t *tending) dryAgain() []Step {
	stop := reason.Finding{Verdict: reason.Stop, Title: "Switch it off: it leaks at pressure",
		Because: []reason.Reason{{Text: "A joint that leaks hot water or steam scalds, and lets the boiler run low.",
			Source: reason.Trade}},
		Next: []string{"Switch off and pull the plug. When it is cold, turn the joint snug, or fit a new gasket.",
			"Still wet? Leave it off and call a technician."}}
	return []Step{Step{ID: "dry", Title: "dry at pressure?", Head: "Is it dry?", Button: "That is how it is",
		Takes: time.Minute, Cautions: []reason.Caution{steamy},
		Body: Choose{Ways: []Way{{Answer: Dry, Text: "Dry"}, {Answer: Drips, Text: "A drop, or a hiss", Stop: &stop}}},
	}.with(does("It is at pressure. "+fmt.Sprintf(fromAway, "where you worked"), act(plant.AtHeat, "")))}
}

// joint greases the joint of the steam wand.
func (t *tending) joint() []Step {
	return []Step{
		Step{ID: "out", Title: "nut off, wand out", Head: "Wand off", Button: "It is off",
			Takes: 3 * time.Minute, Body: Act{},
			Picture: JointSection, Cautions: []reason.Caution{byManual, never45}}.with(
			does("Hold the tap with one key and undo the nut of the wand with another. Take the wand off, and mind the order "+
				"of ring, spring and gasket.", act(plant.TakeOff, "joint")),
		),
		Step{ID: "grease", Title: "wipe, grease", Head: "Wipe and grease", Button: "Greased",
			Takes: 3 * time.Minute, Body: Act{},
			Cautions: []reason.Caution{grease}}.with(
			does("Wipe the ball clean. Is the gasket flat or hard? Fit a new one. A thin film of food-safe grease on the ball.",
				act(plant.Scrub, "joint")),
		),
		Step{ID: "in", Title: "wand back, nut snug", Head: "Wand back", Button: "Snug, and it turns", Takes: 3 * time.Minute,
			Picture: JointSection, Body: Act{}, Cautions: []reason.Caution{byManual}}.with(
			does("Put ring, spring and gasket back in their order, and turn the nut until the wand moves with a little drag.",
				act(plant.FitOn, "joint")),
		),
	}
}

func (t *tending) jointDry() []Step {
	return []Step{lookAt(inspect.Joint, "Is the joint dry?", "That is how it is", time.Minute, steamy).with(
		does("At pressure, wand over the tray by its grip: open the steam tap for two seconds and close it. Look at the "+
			"joint meanwhile, your hand on the tap.", act(plant.AtHeat, ""), amount(plant.Puff, steamTap, 2)),
		say("Then turn the wand by its grip."),
	)}
}

// drains are the seals of the openings that boilers are drained by.
func (t *tending) drains() []string {
	var list []string
	for _, o := range t.plan.Plant.Openings {
		if o.Kind == plant.Drain {
			list = append(list, "seal-"+o.ID)
		}
	}
	return list
}

// drainSeals renews the seals of the boiler drains, one boiler after the other.
func (t *tending) drainSeals() []Step {
	var list []Step
	s := t.plan.Plant
	for _, o := range s.Openings {
		if o.Kind != plant.Drain {
			continue
		}
		v, jug := s.Vessels[o.Of], s.Vessels[o.Into]
		goes := int(math.Ceil(v.Working / (0.8 * jug.Capacity)))
		out := Step{ID: "drain-" + v.ID, Title: "drain the " + v.Title, Head: "Drain the " + v.Title,
			Button: "Nothing comes any more", Takes: time.Minute + time.Duration(goes)*30*time.Second, Body: Act{},
			Cautions: []reason.Caution{never45, steamy}}
		if v.Kind == plant.Steam {
			out = out.with(openSteamTap())
		}
		text := fmt.Sprintf("Put a jug under the %s. Open it slowly. Measure the first 50 mL: over 45 °C, close it and "+
			"wait. Else let the water out.", o.Title)
		if goes > 1 {
			text += fmt.Sprintf(" Close it when the jug is nearly full, empty the jug, and go on: %d jugs.", goes)
		}
		d := doing{text: text}
		for range goes {
			d.acts = append(d.acts, act(plant.Empty, jug.ID), amount(plant.LetOut, o.ID, 0.8*jug.Capacity))
		}
		d.acts = append(d.acts, act(plant.Empty, jug.ID), act(plant.Open, o.ID))
		list = append(list, out.with(d),
			Step{ID: "seal-" + v.ID, Title: "new seal", Head: "A new seal", Button: "In, closed gently", Takes: 3 * time.Minute,
				Body: Act{}, Cautions: []reason.Caution{byManual}}.with(
				does(fmt.Sprintf("Take the %s out, and the old seal off it. Wipe the thread and the seat.", o.Title),
					act(plant.TakeOff, "seal-"+o.ID)),
				does("Put the new seal on, of the same size.", act(plant.Renew, "seal-"+o.ID)),
				does("Turn it in by hand, then a little with the key. Close gently: an overtightened screw tears its thread.",
					act(plant.FitOn, "seal-"+o.ID), act(plant.Close, o.ID)),
				doingIf(v.Kind == plant.Steam, closeSteamTap()),
			))
	}
	return list
}

func (t *tending) screwsDry() []Step {
	return []Step{lookAt(inspect.Screws, "Are the drains dry?", "That is how it is", time.Minute, steamy).with(
		does("It is at pressure. "+fmt.Sprintf(fromAway, "each drain"), act(plant.AtHeat, "")),
	)}
}

// probe cleans the level probe.
func (t *tending) probe() []Step {
	return []Step{
		Step{ID: "out", Title: "probe out", Head: "Probe out", Button: "It is in my hand",
			Takes: 4 * time.Minute, Body: Act{},
			Cautions: []reason.Caution{livid, byManual, never45}}.with(
			does("Pull its wire off, and mind where it sat. Unscrew the probe.", act(plant.TakeOff, "probe")),
		),
		lookAt(inspect.Probe, "Look at the rod", "That is how it looks", 20*time.Second).with(
			say("Look at the metal rod, before you clean it.")),
		Step{ID: "clean", Title: "rub it clean", Head: "Rub it clean", Button: "Bright metal",
			Takes: 3 * time.Minute, Body: Act{},
			Cautions: []reason.Caution{byManual}}.with(
			does("Rub the rod with fine abrasive cloth until it is bright. Wipe it. Its insulator stays whole and dry.",
				act(plant.Scrub, "probe")),
		),
		Step{ID: "in", Title: "probe back, wire on", Head: "Probe back", Button: "In, wire on",
			Takes: 4 * time.Minute, Body: Act{},
			Cautions: []reason.Caution{livid}}.with(
			does("Screw it in with a new gasket, to the same depth. Put the wire back on. A probe without its wire lets the "+
				"boiler overfill.", act(plant.FitOn, "probe")),
		),
	}
}

// relief looks at the relief valve.
func (t *tending) relief() []Step {
	heat := "The machine is on and at its heat."
	if t.f.SteamBoiler > 0 {
		heat = "The machine is on and at pressure, the gauge where it usually stands."
	}
	return []Step{lookAt(inspect.Relief, "Look at the relief valve", "That is what I see", time.Minute,
		relief, scald).with(
		does(heat, act(plant.AtHeat, "")),
		say(fromAway, "the outlet of the relief valve"),
		say("A drop or steam comes? Say so: it is switched off before anything else."),
	)}
}

// grinder cleans the burrs.
func (t *tending) grinder() []Step {
	return []Step{
		Step{ID: "empty", Title: "beans out", Head: "Beans out", Button: "It runs empty", Takes: 2 * time.Minute, Body: Act{},
			Cautions: []reason.Caution{{Danger: "break", Text: "No fingers and no tools between the burrs; unplug before you " +
				"open it."}}}.with(say("Shut the hopper, take it off and pour the beans out. Grind what is left.")),
		Step{ID: "tablets", Title: "tablets through", Head: "Tablets through", Button: "They are through",
			Takes: 2 * time.Minute,
			Body:  Act{}, Cautions: []reason.Caution{{Danger: "break",
				Text: "Only what is made for grinders, by its label. Never " +
					"water, never rice: it is too hard."}}}.with(
			does("Pour the tablets in, as many as the label says, and grind them at a middle setting.",
				amount(plant.Bathe, "burrs", 0), act(plant.Lift, "burrs"))),
		Step{ID: "coffee", Title: "coffee through, thrown away", Head: "Coffee through", Button: "Thrown away",
			Takes: 2 * time.Minute, Body: Act{}, Cautions: []reason.Caution{{Danger: "poison",
				Text: "The first grounds hold dust of the tablets: nobody drinks them."}}}.with(
			does("Grind about 30 g of coffee and throw it away. Brush the chute.", act(plant.WashOff, "burrs"))),
		Step{ID: "back", Title: "hopper back", Head: "Hopper back", Button: "It is back", Takes: time.Minute,
			Body: Act{}}.with(
			say("Wipe the hopper dry. Beans back in. Set the grind where it was, and taste.")),
	}
}
