package use

import (
	"fmt"
	"math"
	"time"

	"freshanvil/core/reason"
)

// habitDays is how far back use by the day is kept: eight weeks.
const habitDays = 56

// Habit is use by the day: the shots of each of a machine's days from From on,
// by group; index 0 is use of the whole machine. Days after the last one had
// none. It holds all that the ledger says of the last weeks, so that a due
// answer need not read the ledger again.
type Habit struct {
	From time.Time
	Days [][]float64
}

func (h *Habit) add(day, group int, count float64) {
	for len(h.Days) <= day {
		h.Days = append(h.Days, nil)
	}
	for len(h.Days[day]) <= group {
		h.Days[day] = append(h.Days[day], 0)
	}
	h.Days[day][group] += count
}

// index is the number of the machine's day that holds t.
func (h Habit) index(t time.Time, zone *time.Location) int {
	// a day may be an hour shorter or longer where clocks change
	return int(math.Round(Day(t, zone).Sub(h.From).Hours() / 24))
}

// On is what one group made in the machine's day that holds t; group 0 is the
// whole machine.
func (h Habit) On(t time.Time, group, groups int, zone *time.Location) float64 {
	return h.at(h.index(t, zone), group, groups)
}

func (h Habit) at(day, group, groups int) float64 {
	if day < 0 || day >= len(h.Days) {
		return 0
	}
	sum := 0.0
	for g, count := range h.Days[day] {
		switch {
		case group == 0 || g == group:
			sum += count
		case g == 0:
			sum += count / float64(groups)
		}
	}
	return sum
}

// Spell is a stretch of time nobody is there: entered, or recognised.
type Spell struct {
	From, To time.Time
	Entered  bool
}

func away(list []Spell, t time.Time) bool {
	for _, s := range list {
		if !t.Before(s.From) && t.Before(s.To) {
			return true
		}
	}
	return false
}

// What makes a spell without use an idle one: at least so many days, on which
// so many shots would have been expected. Two in the eight weeks are a habit
// and stay in the rate (our own engineering choices).
const (
	idleDays  = 3
	idleShots = 10
	idleHabit = 2
)

// days is one group's evidence: shots and exposure of each day before today.
type evidence struct {
	shots, open []float64 // exposure: 1 for a day of use, 0 for one left out
	first       time.Time
	weekday     int // of the first
	idle        []Spell
	until       time.Time // begin of a spell that goes on now
}

// gather takes the days that count: logged ones, before today, at which
// somebody was there.
func gather(h Log, group, groups int, now time.Time, zone *time.Location) evidence {
	today := h.Habit.index(now, zone)
	first := max(0, today-habitDays)
	e := evidence{first: Day(now, zone).AddDate(0, 0, first-today)}
	e.weekday = int(e.first.Weekday())
	if h.LoggedSince.IsZero() || today <= 0 {
		return e
	}
	begin := h.Habit.index(h.LoggedSince, zone)
	if !h.LoggedUntil.IsZero() { // what was not logged is no evidence of none
		today = max(first, min(today, h.Habit.index(h.LoggedUntil, zone)))
	}
	var whole []float64
	for day := first; day < today; day++ {
		open := 1.0
		switch {
		case day < begin || (len(h.Away) > 0 && away(h.Away, e.first.Add(time.Duration(24*(day-first)+12)*time.Hour))):
			open = 0
		case day == begin:
			open = math.Max(0, NextDay(h.LoggedSince, zone).Sub(h.LoggedSince).Hours()/24)
		}
		e.open = append(e.open, open)
		e.shots = append(e.shots, h.Habit.at(day, group, groups)*math.Ceil(open))
		whole = append(whole, h.Habit.at(day, 0, groups))
	}
	e.leaveOut(whole, h.Habit.at(today, 0, groups))
	return e
}

// leaveOut recognises the spells on which nobody was there.
func (e *evidence) leaveOut(whole []float64, today float64) {
	used, days := 0.0, 0.0
	type run struct{ from, to int }
	var runs []run
	for i := 0; i < len(whole); {
		j := i
		for j < len(whole) && whole[j] == 0 && e.open[j] > 0 {
			j++
		}
		if j-i >= idleDays {
			runs = append(runs, run{i, j})
			i = j
			continue
		}
		for ; i <= j && i < len(whole); i++ {
			used, days = used+whole[i], days+e.open[i]
		}
	}
	if days == 0 {
		return
	}
	var idle []run
	for _, r := range runs {
		if float64(r.to-r.from)*used/days >= idleShots {
			idle = append(idle, r)
		}
	}
	if len(idle) >= idleHabit {
		return
	}
	for _, r := range idle {
		for d := r.from; d < r.to; d++ {
			e.open[d] = 0
		}
		s := Spell{From: e.first.AddDate(0, 0, r.from), To: e.first.AddDate(0, 0, r.to)}
		if r.to == len(whole) && today == 0 {
			e.until = s.From
		}
		e.idle = append(e.idle, s)
	}
}

// on is the weekday of the i-th day, Sunday 0.
func (e evidence) on(i int) int { return (e.weekday + i) % 7 }

func (e evidence) because() []reason.Reason {
	var list []reason.Reason
	for _, s := range e.idle {
		text := fmt.Sprintf(
			"Nothing was logged from %s to %s: taken as nobody there, and left out of the rate.",
			s.From.Format("2 January"),
			s.To.AddDate(0, 0, -1).Format("2 January"),
		)
		if s.From.Equal(e.until) {
			text = fmt.Sprintf(
				"Nothing has been logged since %s: taken as nobody there. The date counts as if you were back today.",
				s.From.Format("2 January"),
			)
		}
		list = append(list, reason.Reason{Text: text, Source: reason.Ours})
	}
	return list
}
