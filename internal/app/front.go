package app

import (
	"slices"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/job"
	"freshanvil/core/sitting"
)

// Foremost is what stands foremost on a machine.
type Foremost struct {
	sitting.Front
	Together *sitting.Sitting // what is done together now; nil where that is one task or none
	Alone    *sitting.Front   // where some are done together: the first of them by itself
}

// FrontOf is what stands foremost on a machine, by what is in it, which runs go on, and where its tasks stand; with
// what is done together now, where that is asked for.
func FrontOf(m Machine, in job.Contents, open []Run, list []care.Standing, placed []care.Placing,
	together bool, now time.Time,
) Foremost {
	f := m.Answers.Facts()
	jobs, _ := care.Split(list)
	at := sitting.At{Groups: f.Groups, In: in, Rescue: job.RescueOf(f, in), Jobs: jobs,
		Together: care.Together(jobs)}
	if together {
		at.Sitting = sitting.NowOf(jobs, placed, now)
	}
	for _, r := range open {
		if at.Open != nil || !slices.Contains(r.Machines, m.ID) {
			continue
		}
		at.Open = &sitting.Open{Title: "A run that cannot be carried on", Where: "the machine", Unreadable: true}
		if r.Unreadable == nil {
			at.Open = &sitting.Open{Title: r.Plan.Title(), Where: r.Plan.Where(), Tasks: r.Plan.Titles()}
		}
	}
	out := Foremost{Front: sitting.FrontOf(at, now), Together: at.Sitting}
	if at.Sitting != nil {
		at.Sitting = nil
		alone := sitting.FrontOf(at, now)
		out.Alone = &alone
	}
	return out
}
