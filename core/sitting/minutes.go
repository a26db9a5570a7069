package sitting

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"freshanvil/core/reason"
	"freshanvil/core/speak"
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

// inAll is a sum of minutes.
func inAll(name string, parts []reason.Worked) reason.Worked {
	symbols, inputs := make([]string, len(parts)), make([]reason.Input, len(parts))
	for i, p := range parts {
		symbols[i] = fmt.Sprintf("t%d", i+1)
		inputs[i] = p.AsInput(symbols[i])
	}
	if len(parts) == 0 {
		return reason.Worked{Name: name, Unit: "min", Formula: "0", Source: reason.Ours}
	}
	return reason.MustFormula(strings.Join(symbols, " + ")).Of(name, "min", reason.Ours, inputs,
		"hands that are quicker or slower")
}

// taken is what somebody's hands and what stands come to.
var taken = reason.MustFormula("hands + stands")

func takesOf(name string, hands, stands time.Duration) reason.Worked {
	return taken.Of(name, "min", reason.Ours, []reason.Input{
		{Symbol: "hands", Label: "hand work, with the pump and short rests", Value: hands.Minutes(), Unit: "min",
			Source: reason.Ours},
		{Symbol: "stands", Label: "nothing for the hands to do: it cools, heats or soaks, or one walks",
			Value: stands.Minutes(),
			Unit:  "min", Source: reason.Ours},
	}, "hands that are quicker or slower", "a machine that is cold already")
}

// Worked is how long an afternoon takes, min.
func (a Afternoon) Worked() reason.Worked {
	return takesOf("all of it in one go", a.Hands, a.Takes-a.Hands)
}

// OneAfterTheOther is how long the same runs take one after the other, min.
func (a Afternoon) OneAfterTheOther() reason.Worked {
	parts := make([]reason.Worked, len(a.Jobs))
	for i, j := range a.Jobs {
		c := chained(j.Plan)
		hands := time.Duration(0)
		for _, l := range c.links {
			hands += l.hands
		}
		parts[i] = takesOf(j.Name+": "+speak.Lower(j.Plan.Leads().Title), hands, c.length()-hands)
	}
	return inAll("the same runs one after the other", parts)
}
