package sitting

import (
	"math"
	"slices"
	"time"

	"freshanvil/core/reason"
	"freshanvil/core/use"
)

// Gone is a time in which nobody is there, in days from now.
type Gone struct{ From, To float64 }

// GoneOf are the times that nobody is there, of those that were entered.
func GoneOf(spells []use.Spell, now time.Time) (list []Gone) {
	for _, s := range spells {
		if s.To.After(now) {
			list = append(list, Gone{s.From.Sub(now).Hours() / 24, s.To.Sub(now).Hours() / 24})
		}
	}
	return list
}

// backAfter is how long after somebody is back a sitting is, days.
const backAfter = 0.25

// within is the time in which nobody is there that a day lies in.
func within(day float64, away []Gone) (Gone, bool) {
	i := slices.IndexFunc(away, func(a Gone) bool { return day > a.From && day < a.To })
	if i < 0 {
		return Gone{}, false
	}
	return away[i], true
}

// mayBe says whether a sitting may be on a day: too early for none of its tasks, and not past.
func (s Sitting) mayBe(day, now float64) bool {
	return day >= now && !slices.ContainsFunc(s.Members, func(m Member) bool {
		first, _ := m.window()
		return day < now+first
	})
}

// onDay is a sitting on another day, for a reason.
func (s Sitting) onDay(day float64, text string) Sitting {
	for i := range s.Members {
		s.Members[i].Early += s.Day - day
		s.Members[i].Because = reason.Reason{Text: text, Source: reason.Ours}
	}
	s.Day = day
	return s
}

// Year rolls the sittings on for so many days: each time the first is done, and its tasks come round anew. Nothing is
// done while nobody is there: what would be is done on the day before, where that is too early for none of its tasks,
// else when somebody is back, with all that waited.
func Year(items []Item, days float64, away ...Gone) []Sitting {
	items = slices.Clone(items)
	var list []Sitting
	now, back := 0.0, false
	for len(list) < mostSittings {
		ahead := slices.Clone(items)
		for i := range ahead {
			ahead[i].Due -= now
			ahead[i].On -= now
		}
		next := Together(ahead)
		if len(next) == 0 || now+next[0].Day > days {
			return list
		}
		s := next[0]
		s.Day += now
		if a, gone := within(s.Day, away); gone {
			if !s.mayBe(a.From-0.5, now) {
				now, back = a.To+backAfter, true
				continue
			}
			s = s.onDay(a.From-0.5, "Before nobody is there.")
		}
		if back && s.Day <= now+1e-9 {
			s, back = s.onDay(s.Day, "It waited until somebody is back."), false
		}
		now = s.Day
		list = append(list, s)
		for i := range items {
			for _, m := range s.Members {
				if m.Task == items[i].Task && m.Part == items[i].Part {
					items[i].Due, items[i].Placed = now+items[i].Every, false
				}
			}
		}
	}
	return list
}

// mostSittings bounds a year.
const mostSittings = 400

// Minutes is what a year of sittings costs.
func Minutes(list []Sitting) (sum float64) {
	for _, s := range list {
		sum += s.Minutes
	}
	return sum
}

// Bound is what so many days cost at the least, however the tasks are put together: each as seldom as it may
// be, what is shared as seldom as the one that needs it most often.
func Bound(items []Item, days float64) (minutes float64) {
	times := func(i Item) float64 { return math.Max(0, math.Floor((days-i.latest())/(i.Every*(1+late(i))))+1) }
	often := 0.0
	for _, i := range items {
		if i.latest() > days {
			continue
		}
		minutes += times(i) * i.Task.Row().Hands
		often = math.Max(often, times(i))
	}
	minutes += often * layingOut
	for _, s := range states {
		often = 0
		for _, i := range items {
			if i.latest() <= days && slices.Contains(i.Task.Row().Needs, s.state) {
				often = math.Max(often, times(i))
			}
		}
		minutes += often * s.minutes
	}
	return minutes
}

func late(i Item) float64 {
	if i.Never {
		return 0
	}
	return mostLate
}
