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
	Doses Dosed
	// Due is when it falls due; nil where it never does.
	Due *Due
	// None says why it never does; empty where it does.
	None reason.Reason
}

// Dosed is whose dose stands with one of the first jobs.
type Dosed string

// Whose dose it is.
const (
	DosesNothing   Dosed = "nothing"
	DosesDetergent Dosed = "detergent"
	DosesAcid      Dosed = "acid"
)

// Why is why it falls due then: empty where its interval says it, and for a clock that began with
// the machine not that it did.
func (f First) Why() string {
	if f.Due == nil || f.Doses == DosesDetergent || len(f.Due.Because) == 0 {
		return ""
	}
	if f.Due.Begun && len(f.Due.Because) > 1 {
		return f.Due.Because[1].Text
	}
	return f.Due.Because[0].Text
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
	wash := First{Title: task.Wash.Title(), Doses: DosesDetergent, Due: of(task.Wash)}
	if wash.Due == nil {
		gate := backflush.Gate(a.Facts())
		wash.None = reason.Reason{Text: gate.Title + ".", Source: gate.Because[0].Source}
	}
	scale := First{Title: task.Descale.Title(), Doses: DosesAcid, Due: of(task.Descale, task.LookForScale)}
	if scale.Due == nil {
		scale.None = reason.Reason{Text: "Nothing is known of its water.", Source: reason.Ours}
	}
	if scale.Due != nil {
		scale.Title = scale.Due.Title()
	}
	renew := First{Title: "Filter", Doses: DosesNothing, Due: of(task.FilterChange, task.Regenerate)}
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
