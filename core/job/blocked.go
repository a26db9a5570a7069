package job

import (
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// mostBrims is how often hot water is tried in a group that detergent dried in, the
// last time with a little powder (common practice).
const mostBrims = 3

// brims is how long it stands to the brim, pinch the powder of the last try (our own
// engineering choices).
const (
	brims            = 3 * time.Minute
	pinch units.Mass = 0.75
)

// listen asks what happens when the pump runs for a second, in a group that detergent
// was left in, or that lets no water out. Only water that comes leads on; a valve that does
// not let go, or a jet that is blocked, is a technician's.
func (w washer) listen() Step {
	var tries [][]Step
	for n := range mostBrims {
		tries = append(tries, w.brim(n == mostBrims-1))
	}
	call := func(title, because string, next ...string) *reason.Finding {
		return &reason.Finding{
			Verdict: reason.Stop, Title: title, Because: []reason.Reason{{Text: because, Source: reason.Trade}},
			Next: append(next, "Stop here. The group stays marked: no drinks from it."),
		}
	}
	return Step{
		ID: "listen", Title: "does it click, does water come?", Head: "Listen: does it click?",
		Button: "That is what happens", Takes: 15 * time.Second, Cautions: []reason.Caution{scald, drink},
		Body: Choose{Ways: []Way{
			{Answer: Flows, Text: "It clicks, and water comes"},
			{Answer: NoClick, Text: "No click, no water", Tries: tries,
				Stop: call("Still no click: the coil",
					"Hot water and foam did not free it, so it is not dried powder.",
					"A technician measures the coil and opens the valve, unplugged and cold.")},
			{Answer: Clicks, Text: "It clicks, but no water",
				Stop: call(
					"It clicks, but no water comes: the group's jet is blocked",
					"The valve lets go. A jet of about 0.8 mm behind a small strainer is stopped, which is usual after standing "+
						"unused.",
					"A blocked jet lets nothing off: take the group to be under pressure.",
					"It is a technician's work: brew pressure let off first, then unplugged, cold, the supply shut, gauge at 0.",
				)},
		}},
	}.with(
		does("Leave the handle out. Run the pump for one second.", w.flushes(w.f.FreeFlow.Over(1))),
		say("As it should be, the valve clicks and water comes from the group."),
	)
}

// brim dissolves what has dried in the valve with hot water, and at the last try
// with the foam of a little powder.
func (w washer) brim(powder bool) []Step {
	fill := Step{
		ID: "brim", Title: "hot water to the brim", Head: "Fill the blind to the brim", Button: "It is locked in",
		Takes: 90 * time.Second, Cautions: []reason.Caution{scald, drink}, Body: Act{},
	}
	first := say("Dried powder may hold the valve. %s it to the brim with hot water.", w.putIn("empty")+", and fill")
	if powder {
		fill.Title, fill.Head, fill.Effect = "hot water and a little powder", "Once more, with a little powder", Doses
		fill.Cautions = []reason.Caution{soap, scald}
		first = does(w.putIn("empty")+". Fill it to the brim with hot water. Add a pinch of powder: its foam creeps further.",
			amount(plant.PutPowder, w.group, float64(pinch)))
	}
	stand := Step{
		ID: "brim-soak", Title: "it stands 3 min", Head: "It stands", Button: "Go on", Effect: NoEffect,
		Body: Soak{For: brims}, Cautions: []reason.Caution{drink},
	}.with(say("The water stands against the screen. Stay here."))
	out := Step{
		ID: "brim-out", Title: "handle out", Head: "Handle out, carefully", Button: "Handle is out",
		Takes: 30 * time.Second, Cautions: []reason.Caution{scald, drink}, Body: Act{},
	}.with(
		say("Put a cloth over the handle: the water is hot."),
		does("Loosen it slowly, let the water run into the tray, and take it out.", w.act(plant.TakeOut),
			w.act(plant.WipeBlind)),
	)
	fill = fill.with(first, does("Lock it in, so that the water stands against the screen.", w.act(plant.LockBlind)))
	return []Step{fill, stand, out}
}

// cooled lets a machine cool whose head may be under pressure, and takes the handle out.
func (w washer) cooled(cold reason.Worked) []Step {
	off := Step{
		ID: "off", Body: Act{}, Title: "off, plug out", Head: "Switch it off", Button: "It is off", Takes: time.Minute,
		Cautions: []reason.Caution{locked},
	}.with(offAndOut(), say("Leave the handle locked. Behind it the water may still be under pressure."))
	wait := Step{
		ID: "cold", Title: "it cools below 45 °C", Head: "It cools", Button: "It is off: the clock runs",
		Cautions: []reason.Caution{locked, never45},
		Body: Wait{
			For:   time.Duration(cold.Value * float64(time.Hour)).Round(time.Minute),
			Early: true, Ends: "It is below 45 °C", Length: &cold,
			Read: []plant.Action{amount(plant.Measured, machine.Brew(w.number()).String(), 45)},
		},
	}.with(
		say("A thermometer on the group tells when it is below 45 °C. Without one, leave it overnight."),
	)
	loosen := Step{
		ID: "loosen", Title: "cloth over it, loosen", Head: "Loosen it under a cloth", Button: "That is what happened",
		Takes: 2 * time.Minute, Cautions: []reason.Caution{locked, sprays},
		Body: Choose{Ways: []Way{
			{Answer: Opens, Text: "The handle is out"},
			{Answer: Stuck, Text: "It does not move, or water sprays", Stop: &reason.Finding{
				Verdict: reason.Stop, Title: "Leave it: a technician opens it",
				Because: []reason.Reason{{Text: "What holds the handle is pressure, or a seal that has set.",
					Source: reason.Trade}},
				Next: []string{"Leave it unplugged and the handle where it is.", "Call a technician."},
			}},
		}},
	}.with(
		say("Protect your eyes. Put a cloth over the handle."),
		does("Loosen it a few degrees. Stop, and wait until nothing comes any more. Then take it out.", w.act(plant.TakeOut)),
		does(w.cleared("rinse it under clean water")+".", w.act(plant.WipeBlind)),
	)
	return []Step{off, wait, loosen}
}

func (w washer) number() int { return part(w.group).GroupNumber() }

// on brings the machine back to its heat.
func (w washer) on(heats time.Duration) Step {
	return Step{
		ID: "on", Body: Act{}, Title: "plug in, on, hot", Head: "Switch it on", Button: "It is on", Takes: time.Minute,
		Cautions: []reason.Caution{scald},
	}.with(
		waterReady(w.f), trayEmpty(w.f),
		does("Dry hands: plug in and switch on.", act(plant.PlugIn, ""), act(plant.SwitchOn, "")),
		say("It is hot in about %s. You may go on at once: hot water can come from a kettle.", spokenTime(heats)),
	)
}
