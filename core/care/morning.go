package care

import (
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/use"
)

// morning is for how long after a wash its first shot is reminded of (our own engineering
// choice).
const morning = 36 * time.Hour

// FirstShotAway are the groups whose next shot is thrown away: a café's close ends with the
// flush, so the first shot of the morning is the one that carries what the rinse may have left.
// None where a shot was pulled since.
func FirstShotAway(a machine.Answers, h History, now time.Time) []machine.Part {
	if cafe, _ := a.Cafe(); !cafe {
		return nil
	}
	var list []machine.Part
	for g := range a.Facts().Groups {
		part := machine.Group(g + 1)
		var last time.Time
		for _, d := range h.Done {
			if d.Task == task.Wash && d.Part == part && d.At.After(last) && !d.At.After(now) {
				last = d.At
			}
		}
		if !last.IsZero() && now.Sub(last) < morning && !pulled(h.Events, part, last) {
			list = append(list, part)
		}
	}
	return list
}

// pulled says whether a shot was pulled by a group since an instant, or by any where nobody said
// which.
func pulled(list []use.Event, part machine.Part, since time.Time) bool {
	for _, e := range list {
		if e.Kind.IsShot() && e.To.After(since) && (e.Part == part || e.Part.IsWhole()) {
			return true
		}
	}
	return false
}

// ThrowAway is what the bench says of such groups; empty where there are none.
func ThrowAway(list []machine.Part) (said reason.Reason, any bool) {
	if len(list) == 0 {
		return reason.Reason{}, false
	}
	var groups []int
	for _, p := range list {
		groups = append(groups, p.GroupNumber())
	}
	return reason.Reason{
		Text:   "Pour the first shot of " + Groups(groups) + " away: it was washed and has made none since.",
		Source: reason.Trade,
	}, true
}
