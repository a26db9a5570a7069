package sitting

import (
	"math"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/task"
)

// usual is the interval that is taken where nothing is on record, days (our own engineering choice).
const usual = 30.0

// ItemsOf are the tasks of a machine that come round and are somebody's at home or in the shop: not the daily
// ones, which ride along, nor what a licensed hand or a workshop does. Each falls on the day that somebody put it on,
// where one did. Of a machine that is laid up there are none: its water is shut off.
func ItemsOf(list []care.Standing, now time.Time, placed ...care.Placing) []Item {
	var items []Item
	for _, s := range list {
		row := s.Task.Row()
		if s.Task == task.Return {
			return nil
		}
		if s.Daily || row.Rests || row.Way == task.Small || row.Whose != task.Anybodys || s.NoDate || s.Workshop {
			continue
		}
		items = append(items, itemOf(s, now).placed(placed, s.Last, now))
	}
	return items
}

func itemOf(s care.Standing, now time.Time) Item {
	days := func(d time.Duration) float64 { return d.Hours() / 24 }
	i := Item{Task: s.Task, Part: s.Part, Title: s.Title, Every: usual, Due: days(s.Likely.Sub(now)),
		Never: s.Pulled || s.Clock == task.ByDays && s.Most > 0 && s.Task.Row().Doses}
	if s.Last.IsZero() {
		i.Due = 0
		return i
	}
	gone := days(now.Sub(s.Last))
	switch {
	case s.Clock == task.ByDays && s.Most > 0:
		i.Every = s.Most
	case s.Used > 0 && gone > 1:
		i.Every = s.Most * gone / s.Used
	default:
		i.Every = days(s.Likely.Sub(s.Last))
	}
	i.Every = math.Max(1, i.Every)
	if s.State == care.Overdue {
		i.Due = math.Min(0, i.Every-gone)
	}
	return i
}
