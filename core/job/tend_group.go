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

// byScrew says whether a screw holds the screen, bySeal whether the seal does. Where nobody has said it,
// both are told.
func (t *tending) byScrew() bool { return t.f.ScreenBy == "screw" }
func (t *tending) bySeal() bool  { return t.f.ScreenBy == "seal" }

// screenOut takes the screen down, and with it the seal that holds it.
func (t *tending) screenOut(seal bool) Step {
	levered := does("Put a blunt lever under the lip of the screen. Lever a little on the left, a little on the right, "+
		"until screen and seal come down together.",
		act(plant.TakeOff, t.part("screen")), act(plant.TakeOff, t.part("seal")))
	screwed := does("Hold the screen and undo the screw in its middle. Take the screen down.",
		act(plant.TakeOff, t.part("screen")))
	var list []doing
	switch {
	case t.byScrew() && seal:
		list = []doing{screwed, does("Lever the seal out at its lip, a little at a time, all round.",
			act(plant.TakeOff, t.part("seal")))}
	case t.byScrew():
		list = []doing{screwed}
	case t.bySeal():
		list = []doing{levered}
	default:
		levered.text = "No screw? Put a blunt lever under its lip, a little left, a little right, until screen and seal " +
			"come down."
		screw := "Is there a screw in the middle of the screen? Undo it, and take the screen down."
		if seal {
			screw = "Is there a screw in the middle of the screen? Undo it, then lever the seal out at its lip, all round."
		}
		list = []doing{say("%s", screw), levered}
	}
	return Step{ID: "out", Title: "screen off", Head: "Screen off", Button: "It is in my hand", Takes: 3 * time.Minute,
		Picture: ScreenOut, Body: Act{}, Cautions: []reason.Caution{
			{Danger: "break", Text: "Lever at the lip only: a scratch in the face of the group leaks for good."}, byManual,
			never45,
		}}.with(list...)
}

// screenIn puts them back: shims, seal, screen, and presses them home.
func (t *tending) screenIn(sealOut bool) Step {
	out := act(plant.FitOn, t.part("seal"))
	seal := does("Turn the seal so that its flat side looks up into the group. The bevelled or rounded "+
		"side takes the screen.", out)
	screen := act(plant.FitOn, t.part("screen"))
	pressed := does("Press the screen into the seal. Press both up with your thumbs, level all round.", screen)
	screwed := does("Hold the screen up, level, and turn its screw until it is snug. Not tight.", screen)
	shims := say("Shims first, where it has any: they lie above the seal.")
	group := t.opening()
	home := does("Press it home with the empty handle. Lock it a little further each time, left and right, until it "+
		"stops where it did before. Take the handle out again.", act(plant.LockBasket, group), act(plant.TakeOut, group))
	var list []doing
	switch {
	case t.byScrew() && sealOut:
		list = []doing{shims, seal, home, screwed}
	case t.byScrew():
		list = []doing{screwed}
	case t.bySeal() || sealOut:
		list = []doing{shims, seal, pressed, home}
		if !t.bySeal() {
			list = append(list, say("Has the screen a screw? Then it goes in last: snug, not tight."))
		}
	default:
		seal.text = "Did the seal come out? Shims first, where it has any. Then the seal: its flat side looks up into the " +
			"group, the bevelled or rounded side takes the screen."
		pressed.text = "Press the screen up with your thumbs, level all round. Has it a screw? Snug, not tight."
		home.text = "Did the seal come out? Press it home with the empty handle. Lock it a little further each time, left " +
			"and right, until it stops where it did before. Take the handle out again."
		list = []doing{seal, pressed, home}
	}
	return Step{ID: "in", Title: "screen back", Head: "Put it back", Button: "It sits level and holds",
		Takes:   4 * time.Minute,
		Picture: SealSection, Body: Act{}, Cautions: []reason.Caution{
			{Danger: "break", Text: "A seal that is in upside down leaks, and tears as it is pressed."}, byManual,
		}}.with(list...)
}

// screen is the care of a group's screen.
func (t *tending) screen() []Step {
	where := "Press a fingernail into the seal, and look at it all round."
	if !t.bySeal() {
		where += " Is it still in the group? Feel it from below."
	}
	return []Step{
		t.screenOut(false),
		lookAt(inspect.Screen, "Hold it to the light", "That is how it looks", 20*time.Second).with(
			say("Hold the screen against a lamp. Count the holes that no light comes through."),
			say("In doubt, pick the worse one."),
		),
		lookAt(inspect.Seal, "Press the seal", "That is how it feels", 20*time.Second).with(say("%s", where)),
		Step{ID: "scrub", Title: "scrub both sides", Head: "Scrub both sides", Button: "Clean, and rinsed",
			Takes: 4 * time.Minute,
			Body:  Act{}, Cautions: []reason.Caution{scald}}.with(
			does("Scrub the screen on both sides under hot water.", act(plant.Scrub, t.part("screen"))),
			does(fmt.Sprintf("Brush the spreader and the face of %s, where the screen sat. A spreader with a screw of its own "+
				"may come down, too.", t.groupWords()), act(plant.Scrub, t.part("spreader"))),
			say("Wipe the crumbs out of the groove."),
		),
		t.screenIn(!t.byScrew()),
	}
}

// wetting looks how the group wets, at its heat.
func (t *tending) wetting() []Step {
	flush := brushFlush * 2
	words := fmt.Sprintf("Let water run from %s for %.0f seconds, without a handle, and look from the side.",
		t.groupWords(), t.f.FreeFlow.Takes(flush))
	if t.f.Pump == machine.NoPump {
		words = "Lift the lever and let a little water run, without a handle. Look from the side."
	}
	return []Step{
		lookAt(inspect.Wetting, "Watch the water", "That is how it comes", 30*time.Second, scald).with(
			does(words, act(plant.AtHeat, ""), t.flush(float64(flush.Litres()))),
			does("Then put handle and basket back.", act(plant.LockBasket, t.opening())),
		),
	}
}

// leverFlush is what a lever without a pump lets out for a look, L (our own engineering choice).
const leverFlush = 0.04

// flush lets so many litres through the open group; a lever without a pump is only moved.
func (t *tending) flush(litres float64) plant.Action {
	if t.f.Pump == machine.NoPump { // what it lets out is not filled up before the end
		return amount(plant.Sample, t.opening(), math.Min(litres, leverFlush))
	}
	return amount(plant.Flush, t.opening(), litres)
}

// seal is a new seal in a group.
func (t *tending) seal() []Step {
	return []Step{
		t.screenOut(true),
		lookAt(inspect.Screen, "Hold the screen to the light", "That is how it looks", 20*time.Second).with(
			say("While it is off: hold the screen against a lamp."),
		),
		Step{ID: "scrub", Title: "scrub screen and groove", Head: "Scrub screen and groove", Button: "Clean, no crumbs left",
			Takes: 4 * time.Minute, Body: Act{}, Cautions: []reason.Caution{byManual}}.with(
			does("Scrub the screen on both sides under hot water.", act(plant.Scrub, t.part("screen"))),
			say("Brush the groove where the seal sat until no hard crumb is left: a crumb lets it leak."),
			say("Keep the shims, and mind how many there are."),
		),
		Step{ID: "new", Title: "the new seal beside the old", Head: "Compare the two", Button: "Same width, same height",
			Takes: time.Minute, Picture: SealSection, Body: Act{}, Cautions: []reason.Caution{byManual}}.with(
			does("Lay the new seal beside the old one. It has the same width and the same height; the old one goes away.",
				act(plant.Renew, t.part("seal"))),
			say("Wet it with water. No oil, no grease."),
		),
		t.screenIn(true),
	}
}

// sealDry looks whether the handle leaks at full lock.
func (t *tending) sealDry() []Step {
	again := Step{ID: "home", Title: "press it home", Head: "A little further", Button: "It is further in",
		Takes: time.Minute, Body: Act{}, Cautions: []reason.Caution{lock, scald}}.with(
		say("Pump off. Wait until the hiss has ended."),
		say("Turn the handle a little further, then back, then further again. A new seal takes a few turns to settle."),
	)
	stop := reason.Finding{Verdict: reason.Look, Title: "It leaks with a new seal: look at size and shims",
		Because: []reason.Reason{{Text: "A seal that is too low, a missing shim, a worn handle or a dented rim leak alike.",
			Source: reason.Trade}},
		Next: []string{"Put the old shims back, or fit a seal of the right height.", "Stop here and do not use this group."}}
	return []Step{
		Step{ID: "water", Title: "handle in, water", Head: "Handle in, water", Button: "Water ran", Takes: 45 * time.Second,
			Body: Act{}, Cautions: []reason.Caution{lock, scald}}.with(
			does("Lock handle and basket in, a cup below.", act(plant.LockBasket, t.opening())),
			does("Let water run for five seconds.", act(plant.AtHeat, ""), t.flush(0.04)),
		),
		Step{ID: "tight", Title: "does the handle leak?", Head: "Does it leak?", Button: "That is how it is",
			Takes: time.Minute, Cautions: []reason.Caution{lock, scald},
			Body: Choose{Ways: []Way{
				{Answer: Dry, Text: "Dry at full lock"},
				{Answer: Drips, Text: "It drips over the rim", Tries: [][]Step{{again}, {again}}, Stop: &stop},
			}}}.with(
			say("Look at the rim of the handle all round. Feel nothing: it is hot."),
		),
	}
}

// cam greases the cam of a lever group.
func (t *tending) cam() []Step {
	return []Step{
		Step{ID: "out", Title: "cam out", Head: "Cam out", Button: "It is in my hand", Takes: 4 * time.Minute, Body: Act{},
			Picture: CamSection, Cautions: []reason.Caution{byManual, never45}}.with(
			say("Put the lever down. Lay a cloth under the group: a little water comes."),
			does("Undo the cap at the side. Draw the cam out straight, and mind which way its flat looks.",
				act(plant.TakeOff, t.part("cam"))),
		),
		Step{ID: "grease", Title: "old grease off, new on", Head: "Grease it thinly", Button: "Greased",
			Takes: 3 * time.Minute,
			Body:  Act{}, Cautions: []reason.Caution{grease}}.with(
			say("Wipe cam and bore clean with a cloth that leaves no lint."),
			does("Rub a thin film of food-safe grease on the cam and its seals. What can be seen as a lump is too much.",
				act(plant.Scrub, t.part("cam"))),
		),
		Step{ID: "in", Title: "cam back", Head: "Cam back", Button: "In, cap snug", Takes: 4 * time.Minute, Body: Act{},
			Picture: CamSection, Cautions: []reason.Caution{byManual}}.with(
			does("Push the cam in straight, the way it was, and turn its cap until it is snug.",
				act(plant.FitOn, t.part("cam"))),
			say("Move the lever up and down ten times."),
		),
	}
}

// lever asks how the lever moves.
func (t *tending) lever() []Step {
	return []Step{lookAt(inspect.Lever, "Move the lever", "That is how it moves", 30*time.Second, scald).with(
		does("Lift the lever for two seconds and put it down. Look for a drop at the cap.", act(plant.AtHeat,
			""), t.flush(0.02)),
		does("Then put handle and basket back.", act(plant.LockBasket, t.opening())),
	)}
}

// jet cleans the jet of a group, and its strainer.
func (t *tending) jet() []Step {
	return []Step{
		Step{ID: "out", Title: "jet out", Head: "Jet out", Button: "It is in my hand", Takes: 5 * time.Minute, Body: Act{},
			Cautions: []reason.Caution{pressureLine, byManual, never45}}.with(
			doingIf(t.first, does("Open the steam tap: nothing hisses any more.", act(plant.Open, steamTap))),
			does("Undo the fitting of the jet by the maker's manual. Jet and strainer come with it.",
				act(plant.TakeOff, t.part("jet"))),
		),
		Step{ID: "clean", Title: "clean jet and strainer", Head: "Clean both", Button: "Light comes through",
			Takes: 4 * time.Minute,
			Body:  Act{}, Cautions: []reason.Caution{
				{Danger: "break", Text: "Wood or nylon only: steel makes the bore of about 0.8 mm wider."}}}.with(
			does("Rinse the strainer. Clear the jet with a wooden pick, and hold it against the light.",
				act(plant.Scrub, t.part("jet"))),
		),
		Step{ID: "in", Title: "jet back, new gasket", Head: "Jet back", Button: "It is in", Takes: 5 * time.Minute,
			Body: Act{}, Cautions: []reason.Caution{byManual}}.with(
			does("Put jet and strainer back with a new gasket. Snug, not tight.", act(plant.FitOn, t.part("jet"))),
			doingIf(t.last, closeSteamTap()),
		),
	}
}
