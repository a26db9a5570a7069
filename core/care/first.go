package care

import (
	"slices"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
)

// First is what somebody hears first of one of the three jobs that a machine lives by: the wash, the descale
// and what renews its treatment.
type First struct {
	Title string
	// Due is when it falls due; nil where it never does.
	Due *Due
	// None says why it never does; empty where it does.
	None reason.Reason
}

// Firsts are the wash, the descale and the filter or the salt of a machine, in this order, whatever else is
// due: each with its date, or why it has none.
func Firsts(a machine.Answers, h History, now time.Time, zone *time.Location) []First {
	dues := AllDue(a, h, now, zone)
	of := func(ids ...task.ID) *Due {
		i := slices.IndexFunc(dues, func(d Due) bool { return slices.Contains(ids, d.Task) })
		if i < 0 {
			return nil
		}
		return &dues[i]
	}
	wash := First{Title: task.Wash.Title(), Due: of(task.Wash)}
	if wash.Due == nil {
		gate := backflush.Gate(a.Facts())
		wash.None = reason.Reason{Text: gate.Title + ".", Source: gate.Because[0].Source}
	}
	scale := First{Title: task.Descale.Title(), Due: of(task.Descale, task.LookForScale)}
	if scale.Due == nil {
		scale.None = reason.Reason{Text: "Nothing is known of its water.", Source: reason.Ours}
	}
	if scale.Due != nil {
		scale.Title = scale.Due.Title()
	}
	renew := First{Title: "Filter", Due: of(task.FilterChange, task.Regenerate)}
	switch {
	case renew.Due != nil:
		renew.Title = renew.Due.Title()
	case a.Treatment == machine.Untreated:
		renew.None = reason.Reason{Text: "No filter: nothing treats the water.", Source: reason.Said}
	default:
		renew.None = reason.Reason{Text: "No filter: what treats the water is not renewed here.", Source: reason.Said}
	}
	return []First{wash, scale, renew}
}
