package job

import (
	"fmt"
	"math"
	"time"

	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/treat"
	"freshanvil/core/units"
)

func saltBath(s treat.Setting) Step {
	return Step{
		ID: "out", Title: "softener out, into salt", Head: "Softener into salt", Button: "It stands in salt water",
		Takes: 2 * time.Minute, Body: Act{}, Cautions: []reason.Caution{saltOnly},
	}.with(
		does("Switch the machine off. Take the softener out.", act(plant.SwitchOff, ""), act(plant.FilterOut, "")),
		say("Stir %.0f g of salt, about %.0f teaspoons, into a jug of warm water. Put the softener in.", s.Salt,
			math.Max(1, math.Round(s.Salt/teaspoon))),
	)
}

func saltSoak() Step {
	return Step{
		ID: "soak", Title: fmt.Sprintf("in salt, %.0f min", saltSoaks.Minutes()), Head: "In salt", Button: "Go on",
		Body: Soak{For: saltSoaks}, Cautions: []reason.Caution{saltOnly},
	}.with(say("The salt puts back what the resin gave. Do not use the machine meanwhile."))
}

func saltRinse() Step {
	return Step{
		ID: "rinse", Title: "rinse until not salty", Head: "Rinse it", Button: "It no longer tastes salty",
		Takes: 5 * time.Minute, Body: Act{},
		Cautions: []reason.Caution{{
			Danger: "break", Text: "Salty still? Rinse on: what is left goes into the boiler.",
		}},
	}.with(say("Rinse it under running water for about five minutes, until a drop of it no longer tastes salty."))
}

// softenerBack puts a small softener back and switches on.
func (r renewal) softenerBack() Step {
	return Step{
		ID: "back", Title: "softener back in", Head: "Softener back in", Button: "It is in, the water is away",
		Takes: 2 * time.Minute, Cautions: []reason.Caution{scald}, Body: Act{Draws: units.Volume(flushedTank * 1000)},
	}.with(
		does("Put the softener back into the tank. Fill the tank.", act(plant.FilterIn, ""), act(plant.FillUp, "tank")),
		does("Switch the machine on.", act(plant.SwitchOn, "")),
		r.drawn(flushedTank),
	)
}

// bath regenerates a small softener in salt.
func (r renewal) bath() []Step {
	soak := saltSoak()
	soak.Lane, soak.After = SoftenerLane, []string{"out"}
	return []Step{saltBath(r.s), strainer(), soak, saltRinse(), r.softenerBack()}
}

// kilos is an amount of salt as it is weighed.
func kilos(grams float64) string {
	if grams < 1000 {
		return fmt.Sprintf("%.0f g", math.Round(grams/10)*10)
	}
	return fmt.Sprintf("%.1f kg", grams/1000)
}

// byHand regenerates a softener that gets its salt through its lid.
func (r renewal) byHand() []Step {
	open := Step{
		ID: "out", Title: "shut, drained, lid off", Head: "Shut it and let the pressure out", Button: "The lid is off",
		Takes: 4 * time.Minute, Cautions: []reason.Caution{pressureLine}, Body: Act{},
	}.with(append(r.shutUnder("the softener"),
		say("Shut its outlet to the machine, too."),
		say("Put its drain hose into the sink. Open the drain valve until nothing runs."),
		does("Take the lid off.", act(plant.FilterOut, "")),
	)...)
	salt := Step{
		ID: "salt", Title: kilos(r.s.Salt) + " of salt in", Head: kilos(r.s.Salt) + " of salt", Button: "Salt is in, lid on",
		Takes: 4 * time.Minute, Cautions: []reason.Caution{saltOnly}, Body: Act{},
	}.with(
		does(fmt.Sprintf("Pour %s of softener salt in. Wipe the rim and screw the lid on.", kilos(r.s.Salt)),
			act(plant.FilterIn, "")),
		say("Its outlet to the machine stays shut."),
	)
	run := Step{
		ID: "rinse", Title: "salt water runs out", Head: "Salt water runs out", Button: "It runs into the sink",
		Cautions: []reason.Caution{saltOnly}, Body: Wait{For: brineRuns, Early: true, Ends: "It no longer tastes salty"},
	}.with(
		say("Open the tap that feeds it a little, so that a thin stream runs into the sink."),
		say("Leave it until a drop of it no longer tastes salty."),
	)
	back := Step{
		ID: "back", Title: "drain shut, outlet open", Head: "Back to the machine", Button: "It is open, and dry",
		Takes: 2 * time.Minute, Cautions: []reason.Caution{pressureLine}, Body: Act{},
	}.with(say("Close the drain valve. Open the outlet to the machine.")).with(append(r.open("the softener"), dry())...)
	return []Step{open, salt, run, back, r.onAgain()}
}

// byProgramme regenerates a softener that does it by itself.
func (r renewal) byProgramme() []Step {
	fill := Step{
		ID: "salt", Title: "salt filled up", Head: "Fill up the salt", Button: "Salt is in", Takes: 4 * time.Minute,
		Cautions: []reason.Caution{saltOnly}, Body: Act{},
	}.with(
		does("Switch the machine off.", act(plant.SwitchOff, "")),
		say("Fill its salt bin up: at least %s for one regeneration.", kilos(r.s.Salt)),
	)
	run := Step{
		ID: "programme", Title: "its own programme", Head: "Its own programme runs", Button: "It has started",
		Cautions: []reason.Caution{leaflet}, Body: Wait{For: programmed, Early: true, Ends: "It has finished"},
	}.with(
		say("Start its own programme by its manual."),
		say("Do not draw water meanwhile: it would be hard, or salty."),
	)
	return []Step{fill, run, r.onAgain()}
}
