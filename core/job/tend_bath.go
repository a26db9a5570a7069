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

// doseWords is the dose of the bath by weight and by the spoon.
func (t *tending) doseWords() string {
	parts := map[[2]int]string{{1, 4}: "a quarter of a level teaspoon", {1, 3}: "a third of a level teaspoon",
		{1, 2}: "half a level teaspoon", {2, 3}: "two thirds of a level teaspoon", {3,
			4}: "three quarters of a level teaspoon"}
	if spoon := t.dose.Spoon; spoon.Whole == 0 && parts[[2]int{spoon.Num, spoon.Den}] != "" {
		return fmt.Sprintf("%s (%s)", t.dose.Words(), parts[[2]int{spoon.Num, spoon.Den}])
	}
	return t.dose.Words()
}

// everyHandle are the baskets and handles of all groups.
func (t *tending) everyHandle() []string {
	var list []string
	for g := 1; g <= t.f.Groups; g++ {
		list = append(list, fmt.Sprintf("basket-%d", g), fmt.Sprintf("handle-%d", g))
	}
	return list
}

// bathHolds is the hot water of a soak bath, L (our own engineering choice: a basin that a handle leans in).
const bathHolds = 1.0

// each does something to every basket and handle.
func (t *tending) handles(text string, verb plant.Verb, value float64) doing {
	d := doing{text: text}
	for _, id := range t.everyHandle() {
		d.acts = append(d.acts, amount(verb, id, value))
	}
	return d
}

// bath soaks baskets and handles.
func (t *tending) bath() []Step {
	var out, back []plant.Action
	for g := 1; g <= t.f.Groups; g++ {
		out = append(out, act(plant.TakeOut, machine.Group(g).String()))
		back = append(back, act(plant.LockBasket, machine.Group(g).String()))
	}
	for _, id := range t.everyHandle() {
		out = append(out, act(plant.TakeOff, id))
	}
	grip := "Lean the handles on the rim: the water reaches to the metal's edge, and the grip stays out."
	if t.f.Handle == "wood" {
		grip = "Lean the handles on the rim: the water reaches to the metal's edge. The wooden grip stays dry, always."
	}
	stand := t.f.SoakFor
	if stand == 0 {
		stand = 10 * time.Minute
	}
	soak := Step{ID: "soak", Title: fmt.Sprintf("it soaks, %.0f min", stand.Minutes()), Head: "It soaks",
		Button: "Go on", Cautions: []reason.Caution{soap, bath}, Body: Soak{For: stand}}.with(
		say("The bell rings when it is time. Do not leave it longer than an hour: the chrome goes dull."))
	return []Step{
		Step{ID: "mix", Title: "mix the bath", Head: "Mix the bath", Button: "It is mixed",
			Takes: 2 * time.Minute, Body: Act{},
			Cautions: []reason.Caution{soap, bath, scald}}.with(
			say("Gloves and glasses on. Pour %s of hot water into a tub.", Litres(bathHolds)),
			does(fmt.Sprintf("Then put %s into the water, with dry hands. It foams? If not, it is stale: take a fresh tub.",
				t.doseWords()), act(plant.MixBath, "")),
		),
		Step{ID: "in", Title: "baskets and handles in", Head: "Baskets and handles in", Button: "They are in",
			Takes: 90 * time.Second, Picture: BathLevel, Body: Act{}, Cautions: []reason.Caution{lock, bath, soap}}.with(
			does("Take the handles out of the machine, and the baskets out of the handles.", out...),
			t.handles("Baskets and blind go under water. "+grip, plant.Bathe, stand.Seconds()),
			say("Aluminium stays out: it goes grey. Wash it by hand."),
		),
		soak,
		Step{ID: "out", Title: "out, brushed, rinsed", Head: "Out, brush, rinse", Button: "Nothing feels slippery",
			Takes: 3 * time.Minute, Body: Act{}, Cautions: []reason.Caution{soap}}.with(
			t.handles("Gloves on: take baskets and handles out of the bath.", plant.Lift, 0),
			t.handles("Brush rims, springs and spouts under running water.", plant.Scrub, 0),
			t.handles("Rinse on until nothing feels slippery, then once more. Detergent must not come into a drink.",
				plant.WashOff, 0),
			say("Pour the bath away, with plenty of water."),
		),
		lookAt(inspect.Spring, "Knock the handle", "That is what it does", 20*time.Second).with(
			say("Put the basket into the handle, turn it over, and knock it once with your hand."),
		),
		lookAt(inspect.Rim, "Feel the rim", "That is how it is", 20*time.Second).with(
			say("Run a finger round the rim of each basket. Pick the worst one."),
		),
		Step{ID: "back", Title: "baskets and handles back", Head: "Put them back", Button: "They are back",
			Takes: time.Minute, Body: Act{}}.with(
			t.handles("Baskets back into the handles.", plant.FitOn, 0),
			does("Put the handles into the machine.", back...),
		),
	}
}

// How long a tip soaks (common practice): in hot water, in milk cleaner, with a tablet overnight.
const (
	tipInWater   = 10 * time.Minute
	tipInCleaner = time.Hour
	tipOvernight = 8 * time.Hour
	tipDips      = 4 * time.Minute // on the wand; five minutes are the most
)

// purge blows steam through the wand.
func purge(seconds float64) doing {
	return does(fmt.Sprintf("Point the wand into the tray, by its grip. Open the steam tap for %.0f seconds, then "+
		"close it.",
		seconds), act(plant.AtHeat, ""), amount(plant.Puff, steamTap, seconds))
}

// tip soaks the tip of the steam wand.
func (t *tending) tip() []Step {
	if t.f.TipFixed {
		return t.tipOnTheWand()
	}
	stand, in := tipInWater, "hot water"
	list := []reason.Caution{scald}
	switch t.f.TipIn {
	case "milk_cleaner":
		stand, in = tipInCleaner, "milk cleaner, mixed by its label"
		list = append(list, soap)
	case "tablet_overnight":
		stand, in = tipOvernight, "hot water with a tablet"
		list = append(list, soap)
	}
	soaks := fmt.Sprintf("%.0f min", stand.Minutes())
	if stand >= time.Hour {
		soaks = fmt.Sprintf("%.0f h", math.Round(stand.Hours()))
	}
	return []Step{
		Step{ID: "purge", Title: "purge, wipe, tip off", Head: "Purge, wipe, tip off", Button: "The tip is off",
			Takes: 90 * time.Second, Body: Act{}, Cautions: []reason.Caution{steamy, sucks}}.with(
			say("The machine is on and at pressure."),
			purge(3),
			say("Wipe the wand with a damp cloth. Let it cool for a minute, the steam tap closed."),
			does("Hold the tip with a dry cloth and unscrew it.", act(plant.TakeOff, "tip")),
		),
		Step{ID: "cup", Title: "tip into a cup", Head: "Tip into a cup", Button: "It is in the cup", Takes: 30 * time.Second,
			Body: Act{}, Cautions: list}.with(
			does(fmt.Sprintf("Put the tip into a cup of %s. Stand the cup apart: not where somebody drinks.", in),
				act(plant.MixBath, ""), amount(plant.Bathe, "tip", stand.Seconds())),
			say("Leave the steam tap closed until the tip is back on: without it the wand spits."),
		),
		Step{ID: "soak", Title: "it soaks, " + soaks, Head: "It soaks", Button: "Go on", Cautions: []reason.Caution{sucks},
			Body: Soak{For: stand}}.with(say("The steam tap stays closed meanwhile.")),
		Step{ID: "pick", Title: "open the holes", Head: "Open the holes", Button: "Rinsed, holes open",
			Takes: 90 * time.Second,
			Body:  Act{}, Cautions: []reason.Caution{{Danger: "break", Text: "A soft pick, never steel: the holes get wider."}}}.
			with(
				does("Take the tip out of the cup. Push a soft pick through each hole.", act(plant.Lift, "tip"),
					act(plant.Scrub, "tip")),
				does("Rinse it inside and out under running water, twice.", act(plant.WashOff, "tip")),
			),
		lookAt(inspect.Tip, "Hold the tip to the light", "That is how it looks", 15*time.Second).with(
			say("Does light come through every hole?"),
		),
		Step{ID: "back", Title: "tip back, purge, wipe", Head: "Tip back, purge", Button: "Purged and wiped",
			Takes: time.Minute, Body: Act{}, Cautions: []reason.Caution{steamy}}.with(
			does("Screw the tip on with its gasket. Snug, not tight.", act(plant.FitOn, "tip")),
			purge(5),
			say("Wipe the wand with a clean damp cloth."),
		),
	}
}

// tipOnTheWand soaks a tip that does not come off: at pressure, for minutes, and never alone.
func (t *tending) tipOnTheWand() []Step {
	return []Step{
		Step{ID: "purge", Title: "purge, wipe", Head: "Purge and wipe", Button: "Wiped", Takes: 45 * time.Second, Body: Act{},
			Cautions: []reason.Caution{steamy}}.with(
			say("The machine is on and at pressure, and stays on until this is done."),
			purge(3), say("Wipe the wand with a damp cloth."),
		),
		Step{ID: "dip", Title: "tip into hot water", Head: "Tip into hot water", Button: "It stands in it",
			Takes: 20 * time.Second, Body: Act{}, Cautions: []reason.Caution{sucks}}.with(
			does("Hold a cup of hot water up so that only the tip stands in it, and stand the cup there. Stay with it.",
				act(plant.Dip, "tip")),
		),
		Step{ID: "soak", Title: "4 minutes, no longer", Head: "It stands", Button: "Go on", Cautions: []reason.Caution{sucks},
			Body: Soak{For: tipDips}}.with(say("Do not switch off, and do not go away: five minutes are the most.")),
		Step{ID: "out", Title: "out, purge, wipe", Head: "Out, purge, wipe", Button: "Purged and wiped",
			Takes: 20 * time.Second,
			Body:  Act{}, Cautions: []reason.Caution{steamy, sucks}}.with(
			does("Take the cup away first.", act(plant.Undip, "tip")),
			purge(5), say("Wipe the wand. Open the holes with a soft pick."),
		),
		lookAt(inspect.Tip, "Look at the holes", "That is how it looks", 15*time.Second, scald).with(
			say("Open the steam tap for a second, the wand over the tray. Does steam come from every hole?"),
		),
	}
}
