package descale

import (
	"freshanvil/core/machine"
	"freshanvil/core/reason"
)

// Help is what may go wrong in the middle of a descale, and what to do: for the
// hand, not for the record. All of it is common practice.
func Help(f machine.Facts) []reason.Finding {
	say := func(v reason.Verdict, title, because string, next ...string) reason.Finding {
		return reason.Finding{
			Verdict: v,
			Title:   title,
			Because: []reason.Reason{{Text: because, Source: reason.Trade}},
			Next:    next,
		}
	}
	list := []reason.Finding{
		say(
			reason.Stop,
			"Acid on skin or in an eye",
			"It burns, slowly at first.",
			"Rinse with a lot of running water: skin until it no longer stings, an eye for fifteen minutes, lids open.",
			"Then see a doctor, with the label.",
		),
		say(
			reason.Stop,
			"Hissing, spitting, pressure with the heater off",
			"Scale frees gas, and it has nowhere to go.",
			"Open the steam tap slowly, into the jug. Keep your hands clear.",
			"Open no drain until the gauge is at 0.",
		),
		say(
			reason.Stop,
			"Blue or green",
			"Copper comes off: the acid dissolves the metal.",
			"Do not soak any more. Rinse now.",
		),
		say(
			reason.Look,
			"The pump runs, and no water comes",
			"An air lock, or the intake is not under water.",
			"Is the intake under water, the tank in its seat, the supply open?",
			"Open the steam tap and the group. Run the pump for ten seconds, rest ten, three times.",
			"If nothing comes after two tries, switch it off, unplug it and call a technician.",
		),
		say(
			reason.Look,
			"Flakes come, or the flow gets weak",
			"Scale has come loose; it stops jets and valves.",
			"Let it cool. Take the gauze and the screen off and rinse them.",
			"Go on gently. If the flow stays weak, stop and call a workshop.",
		),
		say(
			reason.Fine,
			"The descaling light stays on",
			"Only the machine's own program puts it out.",
			"Run its program with clean water when you have time, or leave the light on; it does no harm.",
		),
	}
	switch f.Drain {
	case "screws", "plug":
		list = append(
			list,
			say(
				reason.Fine,
				"“Not drained”, or nothing comes",
				"This is no fault: no air comes in, or the drain is hardly open.",
				"Open the steam tap. Turn that drain another half turn, not out.",
				"If nothing comes after two tries, leave it unplugged and call a workshop.",
			),
			say(
				reason.Look,
				"A drain drips after it was shut",
				"A grain lies on its seat, or it was overtightened.",
				"Open it half a turn, let water run through, and shut it gently. Never use force.",
			),
		)
	}
	return list
}
