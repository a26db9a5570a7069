package api

import (
	"time"

	"freshanvil/core/care"
	"freshanvil/core/job"
	"freshanvil/core/sitting"
)

// shownAhead is how far ahead sittings are shown, days.
const shownAhead = 92

// togetherNow is what is done together now, of the jobs of a machine; nil where that is one task, or none.
func togetherNow(jobs []care.Standing, now time.Time) *SittingBrief {
	if len(jobs) == 0 || !jobs[0].Now(now) {
		return nil
	}
	list := sitting.Together(sitting.ItemsOf(jobs, now))
	if len(list) == 0 || list[0].Day > 0.5 || len(list[0].Members) < 2 {
		return nil
	}
	return &SittingBrief{Head: list[0].Head(), Minutes: list[0].Minutes, Alone: list[0].Alone}
}

func sittingsOut(dues []care.Due, now time.Time) []SittingShown {
	standings := make([]care.Standing, len(dues))
	for i, d := range dues {
		standings[i] = d.Standing()
	}
	out := []SittingShown{}
	for _, s := range sitting.Year(sitting.ItemsOf(standings, now), shownAhead) {
		shown := SittingShown{At: now.Add(time.Duration(s.Day * 24 * float64(time.Hour))).UTC(), Now: s.Day < 0.5,
			Minutes: s.Minutes, Alone: s.Alone, Members: make([]SittingMember, len(s.Members))}
		for i, m := range s.Members {
			shown.Members[i] = SittingMember{Task: m.Task, Part: m.Part, Title: m.Title, Way: TaskWay(m.Task.Row().Way),
				Because: m.Because, Joins: job.Gathers(m.Task)}
		}
		out = append(out, shown)
	}
	return out
}
