package backflush

import (
	"freshanvil/core/machine"
	"freshanvil/core/reason"
)

// Help is what may go wrong in the middle of a wash, and what to do: for the
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
			"The handle is stuck, or nothing came out at the drain",
			"It may still be under pressure: what went in has not come out. Do not open it.",
			"Stop the pump and switch the machine off. Leave the handle locked.",
			"Wait until it is cold. Put a cloth over it, loosen it a few degrees, stop and wait.",
			"If nothing comes after two tries, leave it and call a technician.",
		),
		say(
			reason.Look,
			"No pressure, with the blind in",
			"A pulse that builds none cleans nothing, and the pump may be running dry.",
			"Is there water, and is the supply open?",
			"Is the blind without a hole, and the handle at its mark?",
			"If there is none at the second try, stop and let a technician look.",
		),
		say(
			reason.Look,
			"Still brown",
			"Oil still comes loose, mostly from behind the screen.",
			"Make two more pulses and look again.",
			"Still brown after three pairs? Let the group cool, take the screen off and scrub both sides.",
		),
		say(
			reason.Look,
			"Still soapy",
			"Powder is left somewhere: in the blind, or behind the screen.",
			"Take the blind basket out and wash it in clean water. Feel for grains of powder.",
			"Flush for ten seconds, make two more pulses and look again.",
		),
	}
	list = append(list, FirstAid()...)
	switch f.Blind {
	case "rubber with a hole", "not said":
		list = append(
			list,
			say(
				reason.Fine,
				"The rubber disc drips from the spout",
				"A disc with a hole lets a little through. That is normal.",
				"Put a cup under the spout and go on.",
			),
		)
	}
	if f.Program || f.CounterLimit > 0 {
		list = append(
			list,
			say(
				reason.Fine,
				"The machine's light is still on",
				"Only its own cleaning program puts its light out; what you do by hand cleans as well.",
				"Run its program when you have time, or leave the light on; it does no harm.",
			),
		)
	}
	return list
}

// FirstAid is what to do where detergent hurts somebody, or the machine would.
func FirstAid() []reason.Finding {
	say := func(v reason.Verdict, title, because string, next ...string) reason.Finding {
		return reason.Finding{Verdict: v, Title: title, Because: []reason.Reason{{Text: because, Source: reason.Trade}},
			Next: next}
	}
	return []reason.Finding{
		say(
			reason.Stop,
			"Detergent in an eye or swallowed",
			"It is alkaline and burns. The label and its safety data sheet go before this.",
			"In an eye: rinse with running water for fifteen minutes, lids held open. Then see a doctor.",
			"Swallowed: rinse the mouth and drink water. Do not vomit. Call a poison centre, with the label.",
			"On the skin: rinse it off. A rash or short breath: an allergy; stop, and see a doctor.",
		),
		say(
			reason.Stop,
			"Steam blows from the relief valve",
			"The boiler is over its pressure. The valve does its work.",
			"Switch it off at the plug if you can reach it safely. Keep away, and wait until it is cold.",
			"Never plug the valve or adjust it. Call a technician.",
		),
		say(
			reason.Look,
			"The steam wand stands in liquid",
			"A boiler that cools sucks it in.",
			"Take it out before the machine is switched off. Then let steam through for five seconds, and wipe it.",
		),
	}
}
