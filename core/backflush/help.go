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
			"Take the head as under pressure: what went in has not come out.",
			"Pump off, machine off. Leave it locked.",
			"Wait until it is cold. Cloth over it, loosen a few degrees, stop, wait.",
			"Two tries at most, then a technician.",
		),
		say(
			reason.Look,
			"No pressure, with the blind in",
			"A pulse that builds none cleans nothing, and the pump may be running dry.",
			"Is there water, and is the supply open?",
			"Is the blind without a hole, and the handle at its mark?",
			"Twice without pressure: stop, and let a technician look.",
		),
		say(
			reason.Look,
			"Still brown",
			"Oil still comes loose, mostly from behind the screen.",
			"Two more pulses, and look again.",
			"After three pairs: group cool, screen off, scrub both sides.",
		),
		say(
			reason.Look,
			"Still soapy",
			"Powder is left somewhere: in the blind, or behind the screen.",
			"Blind out, wash it in clean water, feel for grains of powder.",
			"Flush for ten seconds, two more pulses, look again.",
		),
	}
	switch f.Blind {
	case "rubber with a hole", "not said":
		list = append(
			list,
			say(
				reason.Fine,
				"The rubber disc drips from the spout",
				"A disc with a hole lets a little through. That is normal.",
				"Cup under the spout, and go on.",
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
				"Run its program when you have time, or let it burn.",
			),
		)
	}
	return list
}
