package sitting

import (
	"fmt"
	"math"
	"slices"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/speak"
	"freshanvil/core/task"
	"freshanvil/core/units"
)

// farthest is how much later than it is due a task may be put by hand, as a share of its interval (our own
// engineering choice).
const farthest = 1.0 / 3

// placed puts a task on the day that somebody put it on since it was last done.
func (i Item) placed(list []care.Placing, last, now time.Time) Item {
	for _, p := range list {
		if p.Task == i.Task && p.Part == i.Part && !p.Set.Before(last) {
			i.Placed, i.On = true, p.On.Sub(now).Hours()/24
		}
	}
	return i
}

// DayOn is the middle of the day, by the hands of a clock, that a task is put on.
func DayOn(year int, month time.Month, day int, zone *time.Location) time.Time {
	return time.Date(year, month, day, 12, 0, 0, 0, zone).UTC()
}

func find(items []Item, id task.ID, part machine.Part) int {
	return slices.IndexFunc(items, func(i Item) bool { return i.Task == id && i.Part == part })
}

// Move is what putting a task on another day comes to.
type Move struct {
	Early   float64 // days before it is due; below 0, after
	Minutes float64 // of somebody's time that it costs more over the time looked at; below 0, saves
	Joined  []Member
	Says    reason.Reason
}

// Moving works out what putting a task on a day, so many from now, comes to over so many days ahead. A day that is
// past, or later than the task may wait, is a *units.OutOfRange.
func Moving(items []Item, id task.ID, part machine.Part, on, ahead float64, away ...Gone) (
	m Move, after []Sitting, err error,
) {
	i := find(items, id, part)
	if i < 0 {
		return m, nil, &units.OutOfRange{Field: "task", Value: string(id),
			Allowed: "a task of this machine that comes round and is anybody's"}
	}
	if err := items[i].mayBeOn(on); err != nil {
		return m, nil, err
	}
	freed := slices.Clone(items)
	freed[i].Placed = false
	moved := slices.Clone(items)
	moved[i].Placed, moved[i].On = true, on
	after = Year(moved, ahead, away...)
	m = Move{Early: items[i].Due - on, Minutes: Minutes(after) - Minutes(Year(freed, ahead, away...))}
	for _, s := range after {
		if s.holds(id, Member{Item: items[i]}) {
			m.Joined = slices.DeleteFunc(slices.Clone(s.Members), func(o Member) bool { return o.Task == id && o.Part == part })
			break
		}
	}
	m.Says = m.says(items[i], ahead)
	return m, after, nil
}

// mayBeOn says whether a task may be put on a day.
func (i Item) mayBeOn(on float64) error {
	last := math.Max(0, i.Due+farthest*i.Every)
	allowed := fmt.Sprintf("a day from now to %s ahead", spoken(last))
	if i.Never {
		last = math.Max(0, i.Due)
		allowed = fmt.Sprintf("a day from now to %s ahead: this task is never put off", spoken(last))
	}
	if last < 1 {
		allowed = "today: it is not put off any longer"
	}
	if on < -1 || on > last+today || math.IsNaN(on) {
		return &units.OutOfRange{Field: "on", Value: fmt.Sprintf("%.0f days ahead", on), Allowed: allowed}
	}
	return nil
}

func (m Move) says(i Item, ahead float64) reason.Reason {
	text := "On the day it is due."
	share := math.Abs(m.Early) / math.Max(1, i.Every) * 100
	switch {
	case m.Early > 0.5:
		text = fmt.Sprintf("%s early: %.0f %% of its interval is given away.", speak.Upper(spoken(m.Early)), share)
	case m.Early < -0.5:
		text = fmt.Sprintf("%s late: %.0f %% over its interval.", speak.Upper(spoken(-m.Early)), share)
	}
	whole := fmt.Sprintf("the next %.0f days", ahead)
	switch n := math.Round(m.Minutes); {
	case n > 0:
		text += fmt.Sprintf(" Over %s it costs %.0f minutes more.", whole, n)
	case n < 0:
		text += fmt.Sprintf(" Over %s it saves %.0f minutes.", whole, -n)
	default:
		text += fmt.Sprintf(" Over %s it costs no more time.", whole)
	}
	return reason.Reason{Text: text, Source: reason.Ours}
}
