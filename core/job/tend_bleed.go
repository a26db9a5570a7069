package job

import (
	"fmt"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
)

// How a pump is bled (common practice): ten seconds without water at the most, then a minute's rest, three goes in all.
const (
	bledBy    = 0.05 // L that come in a go
	bledRests = time.Minute
)

// bleed lets the air out of a pump through the group: a tap of the steam boiler would let out steam, and no air. It
// begins switched off; a heater that can be off is off, and any other is on for the push only.
func (t *tending) bleed() []Step {
	group := machine.Group(1).String()
	water := does("Take the tank out, fill it, and press it home to its stop.", act(plant.FillUp, "tank"))
	if t.f.Plumbed {
		water = say("Is the supply open? Its lever lies along the pipe.")
	}
	handle, under, replace := "Take the handle out.", "the group", "Put the handle back."
	if t.f.Groups > 1 {
		handle, under, replace = "Take the handle of group 1 out.", "group 1", "Put the handle of group 1 back."
	}
	run := amount(plant.Sample, group, bledBy)
	var off, back []doing
	for i := range t.plan.Plant.Vessels {
		if v := &t.plan.Plant.Vessels[i]; v.Watts > 0 && v.Heater == machine.CanBeOff {
			off = append(off, does(fmt.Sprintf("Turn the heater of the %s off, and see that it says so.", v.Title),
				act(plant.HeaterOff, v.ID)))
			back = append(back, does(fmt.Sprintf("Turn the heater of the %s on again.", v.Title),
				act(plant.HeaterBack, v.ID)))
		}
	}
	again := []Step{
		{ID: "rest", Title: "the pump rests", Head: "It rests", Button: "Go on", Cautions: []reason.Caution{scald},
			Do: []string{"Leave it off for a minute: a pump without water gets hot."}, Body: Soak{For: bledRests}},
		Step{ID: "again", Title: "once more", Head: "Once more", Button: "It is off again", Takes: 30 * time.Second,
			Cautions: []reason.Caution{scald}, Body: Act{}}.with(
			does("Switch on and press the brew switch. Count to ten, then switch off, whatever comes.", run)),
	}
	stop := reason.Finding{Verdict: reason.Stop, Title: "Leave it off: it draws no water",
		Because: []reason.Reason{{Text: "Three goes are enough. A pump that runs dry wears in minutes.",
			Source: reason.Trade}},
		Next: []string{"Switch it off and pull the plug.",
			"Is a filter clogged, or the intake out of the water? Else call a technician."}}
	return []Step{
		Step{ID: "off", Title: "off, water there", Head: "Switch it off first", Button: "Off, and water is there",
			Takes: time.Minute, Cautions: []reason.Caution{scald, dryPump}, Body: Act{}}.with(
			append(off, does("Switch the machine off.", act(plant.SwitchOff, "")), water)...),
		Step{ID: "bleed", Title: "ten seconds by the group", Head: "Ten seconds, then off", Button: "That is what came",
			Takes: time.Minute, Cautions: []reason.Caution{lock, scald},
			Body: Choose{Ways: []Way{{Answer: Flows, Text: "Water comes, without spitting"},
				{Answer: NoneCame, Text: "Nothing, or it only spits", Tries: [][]Step{again, again}, Stop: &stop}}}}.with(
			does(handle+" Stand a jug under "+under+".", act(plant.TakeOut, group), act(plant.Empty, "jug-group-1")),
			does("Switch on and press the brew switch. Count to ten, then switch off, whatever comes.", run)),
		Step{ID: "back", Title: "on, handle back", Head: "On, handle back", Button: "It is on", Takes: time.Minute,
			Cautions: []reason.Caution{scald}, Body: Act{}}.with(
			append(back, does("Switch the machine on.", act(plant.SwitchOn, "")),
				does(replace, act(plant.LockBasket, group)))...),
	}
}
