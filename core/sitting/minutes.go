package sitting

import (
	"slices"

	"freshanvil/core/reason"
	"freshanvil/core/task"
)

// work is what the minutes of somebody's time are made of.
var work = reason.MustFormula("often × layout + chilled × cold + closed × shut + hands")

// Takes is what a sitting takes of somebody's time, min: laying out, bringing the machine into a state and back,
// each once, and the hand work of each task. It is an estimate for the calendar; the plan of a sitting is worked
// out step by step.
func (s Sitting) Takes() reason.Worked {
	return s.taking("a sitting", 1, min(1, s.want(task.Cold)), min(1, s.want(task.SupplyShut)))
}

// OneByOne is the same, min, with everything that is shared done anew for each task.
func (s Sitting) OneByOne() reason.Worked {
	return s.taking("the same one by one", len(s.Members), s.want(task.Cold), s.want(task.SupplyShut))
}

// want is how many of its tasks want the machine in a state.
func (s Sitting) want(state task.State) (n int) {
	for _, m := range s.Members {
		if slices.Contains(m.Task.Row().Needs, state) {
			n++
		}
	}
	return n
}

func (s Sitting) taking(name string, often, chilled, closed int) reason.Worked {
	hands := 0.0
	for _, m := range s.Members {
		hands += m.Task.Row().Hands
	}
	in := func(symbol, label string, value float64, unit string) reason.Input {
		return reason.Input{Symbol: symbol, Label: label, Value: value, Unit: unit, Source: reason.Ours}
	}
	return work.Of(name, "min", reason.Ours, []reason.Input{
		in("often", "laying out and clearing away", float64(often), "times"),
		in("layout", "for each", layingOut, "min"),
		in("chilled", "switching off, looking after it while it cools, switching on", float64(chilled), "times"),
		in("cold", "for each", beingCold, "min"),
		in("closed", "shutting and opening the supply", float64(closed), "times"),
		in("shut", "for each", beingShut, "min"),
		in("hands", "hand work of its tasks, for a usual machine", hands, "min"),
	}, "hands that are quicker or slower", "which tasks are done together")
}
