package job

import (
	"freshanvil/core/backflush"
	"freshanvil/core/reason"
)

// TendHelp is what may go wrong while a part is cared for, and what to do then (common practice).
func TendHelp() []reason.Finding {
	say := func(v reason.Verdict, title, because string, next ...string) reason.Finding {
		return reason.Finding{Verdict: v, Title: title, Because: []reason.Reason{{Text: because, Source: reason.Trade}},
			Next: next}
	}
	list := []reason.Finding{
		say(reason.Look, "It does not come off", "Scale or old coffee holds it, or it turns the other way.",
			"Wet it with hot water, wait ten minutes, try again by hand.",
			"No force and no heat: put back what is off, and leave it to a technician."),
		say(reason.Look, "A screw turns and does not hold", "Its thread is torn.",
			"Do not switch the machine on while it is loose.", "A technician cuts the thread anew, or fits another part."),
		say(reason.Look, "A part broke, or a piece is missing", "A piece left inside blocks a valve or a jet.",
			"Look for the piece before you put anything back.", "Not found? Leave the machine off and unplugged."),
		say(reason.Look, "The handle stops too early, or turns past its mark", "The seal sits askew, or a shim is missing.",
			"Take seal and shims out once more. Shims first, flat side of the seal up, level all round."),
		say(reason.Stop, "Water or steam where it should not be", "A joint that leaks at pressure scalds, and lets a boiler "+
			"run low.", "Switch it off and pull the plug. On the mains, shut the supply.",
			"Wait until it is cold and the gauge is at 0 before you touch the joint again."),
		say(reason.Stop, "A burn", "Metal stays hot for hours.", "Cool running water for ten minutes. Large, deep or in the "+
			"face: a doctor."),
	}
	return append(list, backflush.FirstAid()...)
}
