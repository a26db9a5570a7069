package job

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"freshanvil/core/descale"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
)

// addBegin adds the steps that get ready: what is laid out, heaters off, cooled, the
// filter out, the water read, the pump tried.
func (l *laying) addBegin() {
	l.prepare()
	if !l.in.Dirty {
		l.turnHeatersOff()
		l.cool()
	}
	if l.d.Plant.Mains {
		l.moveIntake()
	}
	l.takeFilterOut()
	l.readFeed()
	if !l.in.Dirty && !l.f.HasTube() {
		l.tryPump()
	}
	if !l.in.Dirty && l.prog.Empties == descale.ByDrain {
		l.drainAll(false)
		if l.f.HasTube() {
			l.tryPump()
		}
	}
}

func (l *laying) prepare() {
	jug := Litres(l.f.Jug.Litres())
	list := []doing{
		say("Gloves on, glasses on. Open the window."),
		say("Put ready: two jugs of %s, pH strips or a meter, a thermometer, two cups, a wet cloth and a sponge.", jug),
		say("Empty the drip tray and put it back. Take the handle out of the group."),
	}
	if l.in.Dirty {
		list = append(list, say("Acid is in from before. %s", l.tapStays()))
	}
	l.add(Step{
		ID: "prepare", Title: "get ready: gloves, jugs, strips", Head: "Gloves on, jugs ready", Button: "All ready",
		Takes: 2 * time.Minute, Cautions: []reason.Caution{gloves, sponge}, Body: Act{},
	}.with(append(list, does("", act(plant.Empty, "tray")))...))
}

// turnHeatersOff turns off what can be turned off for itself, while the machine is still on.
func (l *laying) turnHeatersOff() {
	var list []doing
	for i := range l.d.Plant.Vessels {
		v := &l.d.Plant.Vessels[i]
		if v.Watts > 0 && v.Heater == machine.CanBeOff {
			list = append(list, does(fmt.Sprintf("Turn the heater of the %s off, at its own switch or in the menu.", v.Title),
				act(plant.HeaterOff, v.ID)))
		}
	}
	if len(list) == 0 {
		return
	}
	l.add(Step{
		ID: "heaters-off", Title: "heaters off", Head: "Heaters off", Button: "Each says off", Takes: 2 * time.Minute,
		Cautions: []reason.Caution{dryHeat}, Body: Act{},
	}.with(list...))
	stop := reason.Refuse(NotCleared, "A heater does not stay off: stop here").
		Why(reason.Ours, "A setting that is gone after the plug was out would heat an empty boiler, or acid.").
		Instead("Switch it off. Nothing has been drained, and no acid is in.",
			"Say on the machine's page that this heater cannot be off, so that nobody plans it again.")
	l.add(Step{
		ID: "still-off", Title: "still off after the plug?", Head: "Still off?", Button: "That is what they say",
		Takes: time.Minute, Cautions: []reason.Caution{dryHeat},
		Body: Choose{Ways: []Way{{Answer: StillOff, Text: "Each says off"},
			{Answer: OnAgain, Text: "One is on again, or I cannot see", Stop: &stop.Finding}}},
	}.with(
		does("Switch off, pull the plug, and count to ten.", act(plant.SwitchOff, ""), act(plant.Unplug, "")),
		does("Dry hands: plug in, and switch on.", act(plant.PlugIn, ""), act(plant.SwitchOn, "")),
		doing{text: "Look at the display or the light of " + l.heatersOff() + ", each by itself. A gauge does not tell.",
			acts: l.seeOff()},
	))
}

// heatersOff names the heaters that are turned off for themselves.
func (l *laying) heatersOff() string {
	var names []string
	for i := range l.d.Plant.Vessels {
		if v := &l.d.Plant.Vessels[i]; l.p.V[i].Off {
			names = append(names, "the "+v.Title)
		}
	}
	return strings.Join(names, " and ")
}

// seeOff looks at the own sign of each heater that is off.
func (l *laying) seeOff() (acts []plant.Action) {
	for i := range l.d.Plant.Vessels {
		if l.p.V[i].Off {
			acts = append(acts, act(plant.SeeOff, l.d.Plant.Vessels[i].ID))
		}
	}
	return acts
}

// lookStillOff is said wherever the plug goes in again.
func (l *laying) lookStillOff() doing {
	if acts := l.seeOff(); len(acts) > 0 {
		return doing{text: "As it is switched on, look: does " + l.heatersOff() + " still say off? If not, off at " +
			"once, plug " +
			"out, and stop.", acts: acts}
	}
	return doing{}
}

// cool switches the machine off and lets it cool.
func (l *laying) cool() {
	l.add(Step{
		ID: "off", Title: "machine off, plug out", Head: "Switch off, plug out", Button: "Off, plug out",
		Takes: 30 * time.Second, Cautions: []reason.Caution{scald}, Body: Act{},
	}.with(offAndOut(), say("Leave every tap closed while it cools.")))
	cooling, err := descale.CoolingOf(l.f)
	if err != nil && l.err == nil {
		l.err = err
		return
	}
	opens := cooling.Opens(l.f.Layout == machine.DualHome)
	below := descale.SafeToDrain
	if l.pushedHot() || l.heldOff() && !l.f.HasTube() {
		below = max(coldStart, cooling.Air+5)
		opens = cooling.Reaches(below)
	}
	var read []plant.Action
	for _, i := range l.circuits() {
		read = append(read, amount(plant.Measured, l.d.Plant.Vessels[i].ID, float64(below)))
	}
	where, then := "on the metal beside the group", "Test the first 50 mL that come, too."
	if l.prog.Empties != descale.ByPump && l.prog.Empties != descale.ByMachine {
		where = "on the drain fitting"
		then = "Without that, test the first 50 mL that come: are they hotter, close the drain and wait."
	}
	if l.f.Layout == machine.LeverManual {
		where, then = "on the cap", ""
	}
	why, gauge, ends := "", "Then the gauge must be at 0 and a", fmt.Sprintf("Below %.0f °C, gauge at 0", below)
	if l.d.Plant.Find("steam") < 0 && l.f.Layout != machine.LeverManual { // most of these have no gauge
		gauge, ends = "Then a", fmt.Sprintf("Below %.0f °C", below)
	}
	if l.pushedHot() {
		why = "On means heating: every push warms the acid. It starts cold, so that there is time for more of it."
	}
	l.add(Step{
		ID: "cool", Title: fmt.Sprintf("it cools below %.0f °C", below), Head: "It cools",
		Button: "It is off: the clock runs",
		Do: slices.DeleteFunc([]string{
			"Leave it off and unplugged. Nothing is opened while it is hot.",
			fmt.Sprintf("%s thermometer must read less than %.0f °C %s.", gauge, below, where), then,
			"Without a thermometer, leave it overnight.",
			"If it has been off for 12 hours already, go on at once.",
			why,
		}, func(text string) bool { return text == "" }),
		Cautions: []reason.Caution{scald, never45},
		Body: Wait{
			For:   time.Duration(math.Ceil(opens.Value*60+1) * float64(time.Minute)),
			Early: true, Ends: ends, Length: &opens, Read: read,
		},
	})
}

// coldStart is how cold a machine is before acid is pushed through it whose pump heats it,
// °C: acid that is warm already has less time (our own engineering choice).
const coldStart = 30.0

// pushedHot says whether pushing heats.
func (l *laying) pushedHot() bool {
	return l.prog.Empties == descale.ByPump && l.f.BrewHeater != machine.CanBeOff
}

// heldOff says whether the steam heater is held off until its boiler is full, so that it
// heats whenever the machine is on and that is full.
func (l *laying) heldOff() bool {
	return l.f.SteamBoiler > 0 && l.f.SteamBy == machine.HeldOff
}

// never45 is said wherever something hot could be opened.
var never45 = reason.Caution{
	Danger: "scald", Text: "Above 45 °C nothing is opened. Never feel for it with a hand.",
}

// moveIntake puts the pump's intake into a bucket.
func (l *laying) moveIntake() {
	l.add(Step{
		ID: "intake", Title: "supply shut, intake into the bucket", Head: "Intake into the bucket",
		Button: "The hose is off and capped", Takes: 5 * time.Minute, Body: Act{},
		Cautions: []reason.Caution{{
			Danger: "poison",
			Text:   "Never dose acid into a mains line. Local codes and licensed people go first.",
		}},
	}.with(
		does("Shut the water supply: the lever across the pipe. Take the mains hose off and cap it.",
			act(plant.ShutSupply, "")),
		does("Put the pump's intake into a clean bucket. If it cannot be moved, stop here: that is a technician's work.",
			act(plant.MoveIntake, "")),
		does("Fill the bucket with clean water.", act(plant.FillUp, "bucket")),
	))
}

// takeFilterOut adds the step that takes what treats the water out before any acid.
func (l *laying) takeFilterOut() {
	s := l.in.Setting
	renews := l.in.Renew && !l.in.Dirty
	switch {
	case s.Kind != machine.InTank && renews:
		out := saltBath(s)
		out.ID = "softener-out"
		out.Do[0], out.Acts = "Take the softener out of the tank.", []plant.Action{act(plant.FilterOut, "")}
		l.renewing(out)
		l.renewing(strainer())
		bath := saltSoak()
		bath.ID, bath.After, bath.Lane = "salt-soak", []string{"softener-out"}, SoftenerLane
		l.late = append(l.late, bath)
	case RenewsBeside(s):
		l.add(Step{
			ID: "filter-out", Title: "filter out", Head: "Filter out", Button: "It is out, and stands in water",
			Takes:    time.Minute,
			Cautions: []reason.Caution{{Danger: "break", Text: "Left in, it is spoilt and takes up the acid."}},
			Body:     Act{},
		}.with(
			does("Take the filter or the softener out of the tank: acid ruins it.", act(plant.FilterOut, "")),
			say("Stand it in clean water, so that it does not dry."),
		))
		l.add(strainer())
	}
}

// readFeed adds the reading of the water that goes in: what the rinse is compared with.
func (l *laying) readFeed() {
	l.add(Step{
		ID: "feed", Title: "pH of the water that goes in", Head: "The water that goes in",
		Button: "That is what it reads", Takes: time.Minute, Body: Measure{Reads: Feed},
		Do: []string{
			"Dip a strip, or hold a meter, in the clean water you will rinse with. The rinse is done when it reads the " +
				"same again.",
		},
		Cautions: []reason.Caution{{
			Danger: "poison", Text: "Without a strip or a meter a rinse cannot be proven: get some first.",
		}},
	})
}

// tried is the water that comes when the pump is tried, L.
const tried = 0.04

// tryPump asks whether the pump runs before the machine is hot, where nobody has said it.
func (l *laying) tryPump() {
	if !l.d.Plant.HasPump || l.f.PumpBeforeHot != machine.CannotTell {
		return
	}
	group := groupOf(&l.d.Plant.Vessels[l.brews()[0]])
	stop := reason.Refuse(NotCleared, "Its pump waits until it is hot: stop here").
		Why(reason.Ours, "Acid would be heated before it could be pushed on. Nothing has gone in yet.").
		Instead("Let it heat up as usual. A workshop descales it.", "Say so on the machine's page, so that nobody plans "+
			"it again.")
	none := reason.Refuse(NotCleared, "No water comes: stop here").
		Why(reason.Trade, "Without water at the group acid could not be rinsed out. Nothing has gone in yet.").
		Instead("Switch it off. Is the tank full and in its seat, and the handle out?",
			"Look for the cause on the machine's page, under «no water comes».")
	l.add(Step{
		ID: "try-pump", Title: "try the pump cold", Head: "Try the pump", Button: "That is what it did",
		Takes: time.Minute, Cautions: []reason.Caution{steamy},
		Body: Choose{Ways: []Way{
			{Answer: Flows, Text: "It ran at once"},
			{Answer: Waits, Text: "Nothing until it was hot", Stop: &stop.Finding},
			{Answer: NoneCame, Text: "Nothing came at all", Stop: &none.Finding},
		}},
	}.with(
		append(l.plugged(), l.jugUnder(group),
			does(fmt.Sprintf("Switch on and %s at once, for about five seconds, with clean water. Then %s and switch off.",
				l.start(group), l.stop(group)), amount(plant.Sample, group, tried)),
		)...))
}
