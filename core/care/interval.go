package care

import (
	"fmt"

	"freshanvil/core/backflush"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
)

// Task is one kind of care.
type Task string

// The tasks so far. A wash is a detergent backflush; a hand clean is screen
// and seal brushed and scrubbed, without detergent in the group; a rinse gets
// detergent out that was left in, and counts for nothing else.
const (
	Wash      Task = "wash"
	HandClean Task = "hand_clean"
	Rinse     Task = "rinse"
)

// Title is the task in plain words.
func (t Task) Title() string {
	if t == Wash {
		return "Detergent wash"
	}
	return "Hand clean of screen and seal"
}

// Interval is how often. A zero limit does not count. Daily means once in
// each of the machine's days, by its end.
type Interval struct {
	Task    Task
	Shots   float64
	Coffee  float64 // grams
	Days    float64
	Daily   bool
	Because []reason.Reason
}

const (
	shotsBetween  = 50
	coffeeBetween = 1000
	monthlyCap    = 30
	halfYear      = 182
	quarter       = 91
	lightUse      = 10 // shots a day a group
)

// Intervals gives the default interval of every task this machine needs, most
// urgent kind first. A machine that must not be backflushed has no wash.
func Intervals(a machine.Answers) []Interval {
	f := a.Facts()
	cafe, whyCafe := a.Cafe()
	perGroup := a.Drinks / float64(f.Groups)
	switch {
	case backflush.Gate(f).Verdict == reason.Refused:
		every := Interval{Task: HandClean, Days: 7, Because: []reason.Reason{{Text: "It cannot be backflushed, so the screen comes off and is scrubbed every week.", Source: reason.Trade}}}
		if perGroup < lightUse {
			every.Days = 30
			every.Because = []reason.Reason{
				{Text: "It cannot be backflushed, so the screen comes off and is scrubbed: every month in light use, weekly otherwise.", Source: reason.Trade},
				{Text: fmt.Sprintf("Light use is fewer than %d shots a day a group.", lightUse), Source: reason.Ours},
			}
		}
		return []Interval{every}
	case f.Valve == machine.Cam:
		return []Interval{
			{Task: Wash, Days: halfYear, Because: []reason.Reason{{Text: "Detergent twice a year at most: it strips the grease of the lever's cam.", Source: reason.Trade}}},
			{Task: HandClean, Days: quarter, Because: []reason.Reason{{Text: "A hand clean in each quarter without a wash, because detergent strips the cam's grease.", Source: reason.Trade}}},
		}
	case cafe:
		return []Interval{{Task: Wash, Daily: true, Because: []reason.Reason{{Text: "A café washes every day, after the last drink.", Source: reason.Trade}, whyCafe}}}
	}
	return []Interval{{Task: Wash, Shots: shotsBetween, Coffee: coffeeBetween, Days: monthlyCap, Because: []reason.Reason{
		{Text: "Every 50 shots a group, or each kilogram of coffee, whichever comes first: 1000 g are about 56 doubles, so the two schools agree.", Source: reason.Trade},
		{Text: "Never later than 30 days: oil goes rancid in a group that stands, too.", Source: reason.Ours},
	}}}
}

// PerDay is how many washes a machine takes a day, over all its groups, at the
// declared use; 0 where it has none.
func PerDay(a machine.Answers) reason.Worked {
	f := a.Facts()
	w := reason.Worked{Name: "washes a day", Unit: "a day", Source: reason.Ours, WouldChange: []string{"more or fewer drinks", "another interval"}}
	groups := reason.Input{Symbol: "groups", Label: "groups", Value: float64(f.Groups), Source: reason.Said}
	for _, i := range Intervals(a) {
		if i.Task != Wash {
			continue
		}
		if i.Daily {
			w.Value, w.Formula, w.Inputs = float64(f.Groups), "groups", []reason.Input{groups}
			break
		}
		w.Value, w.Formula = float64(f.Groups)/i.Days, "groups ÷ days"
		w.Inputs = []reason.Input{groups, {Symbol: "days", Label: "never later than", Value: i.Days, Unit: "days", Source: i.Because[0].Source}}
		if i.Shots > 0 {
			drinks := a.Drinks / float64(f.Groups)
			w.Value = float64(f.Groups) * max(1/i.Days, drinks/i.Shots, drinks*float64(f.Double)/i.Coffee)
			w.Formula = "groups × max(1 ÷ days, drinks ÷ shots, drinks × double ÷ coffee)"
			w.Inputs = append(w.Inputs,
				reason.Input{Symbol: "drinks", Label: "drinks a day a group", Value: drinks, Unit: "shots/day", Source: reason.Said},
				reason.Input{Symbol: "shots", Label: "every so many shots", Value: i.Shots, Unit: "shots", Source: reason.Trade},
				reason.Input{Symbol: "double", Label: "coffee in a double", Value: float64(f.Double), Unit: "g", Source: reason.Trade},
				reason.Input{Symbol: "coffee", Label: "or so much coffee", Value: i.Coffee, Unit: "g", Source: reason.Trade})
		}
		break
	}
	return w.Exact()
}
