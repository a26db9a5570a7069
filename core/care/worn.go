package care

import (
	"fmt"
	"math"
	"slices"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/use"
)

// worn works out a task of a group that is counted by use, by the calendar, or by the day.
func (s *situation) worn(every Interval, part machine.Part) Due {
	d, any := s.begin(every, part)
	if !any {
		return d
	}
	if every.Daily {
		return s.daily(d)
	}
	why := len(d.Because) - len(every.Because)
	every = s.h.Choice.shorten(every, d.Last.UnixMilli())
	d.Interval, d.Because = every, append(slices.Clone(d.Because[:why]), every.Because...)

	group := part.GroupNumber()
	used := s.since(group, d.Last)
	if every.wears() {
		used.pace = s.pace(group)
		used.believed = used.pace.PerDay()
		d.Because = append(d.Because, used.pace.Because...)
	}
	var ahead []reason.Worked
	count := func(kind task.Clock, name, unit string, made, aShot, limit, toGo float64) {
		w := used.worked(name+" since the last "+every.Task.Short(), unit, made, aShot)
		d.Clocks = append(d.Clocks, Clock{Kind: kind, Used: w, Limit: limit, Unit: unit})
		shots := math.Max(0, math.Ceil((limit-w.Value)/toGo))
		ahead = append(ahead, used.pace.Forecast(daysTo[kind], shots))
	}
	each := s.f.CountsADrink() * float64(s.f.Groups)
	if every.Shots > 0 {
		count(task.ByShots, "shots", "shots", used.made.Shots, 1, every.Shots, 1)
	}
	if every.Coffee > 0 {
		count(task.ByCoffee, "coffee", "g", used.made.Coffee, float64(s.f.Double), every.Coffee, used.gramsAShot(s.f))
	}
	if every.Counter > 0 {
		count(task.ByCounter, "counted", "counts", used.made.Counted, each, every.Counter, each)
	}
	if every.Litres > 0 {
		aShot := float64(s.f.BrewWater.Litres())
		count(task.ByLitres, "water", "L", used.made.Litres, aShot, every.Litres, aShot)
	}
	d.calendar(every.Days, s.now)
	ahead = append(ahead, daysLeft(d.Clocks[len(d.Clocks)-1].Used, every.Days))
	return d.settle(ahead, s.now, s.zone)
}

// daysTo names the days ahead of each clock.
var daysTo = map[task.Clock]string{task.ByShots: "days to the shot limit", task.ByCoffee: "days to the coffee limit",
	task.ByCounter: "days to the counter's limit", task.ByLitres: "days to the water limit"}

// tally is use counted up, by what held when it was made.
type tally struct {
	Shots, Coffee, Litres float64
	Counted               float64 // on the machine's own counter, of all groups
}

func (s *situation) tally(part machine.Part, from, to time.Time) (t tally) {
	for _, x := range s.h.Held.Between(from, to) {
		c := s.h.Sum(part, x.Facts.Groups, x.From, x.To, s.zone)
		t.Shots += c.Shots()
		t.Coffee += float64(c.Coffee(x.Facts))
		t.Litres += float64(c.Litres(x.Facts))
		whole := c
		if x.Facts.Groups > 1 {
			whole = s.h.Sum(machine.Part{}, x.Facts.Groups, x.From, x.To, s.zone)
		}
		t.Counted += whole.Shots() * x.Facts.CountsADrink()
	}
	return t
}

// used is one group's use since its last care: what was logged, and the
// declared rate for the days before anything was.
type used struct {
	made     tally
	perDay   float64 // shots a day as declared, over the days before the first log
	blank    float64 // days before the first log
	since    float64 // days after the last reading
	believed float64 // shots a day taken for those
	pace     use.Pace
}

// blankUntil is until when use since an instant is taken at the declared rate.
func (s *situation) blankUntil(last time.Time) time.Time {
	if !s.h.LoggedSince.IsZero() && s.h.LoggedSince.Before(s.now) {
		return latest(last, s.h.LoggedSince)
	}
	return s.now
}

// declared is the drinks that were said to be made a day, over a stretch of time.
func (s *situation) declared(from, to time.Time, of func(machine.Holding) float64) (sum float64) {
	for _, x := range s.h.Held.Between(from, to) {
		sum += of(x.Holding) * s.there(x.From, x.To)
	}
	return sum
}

// there is how many days lie between two instants on which somebody was there: none of what nobody makes wears.
func (s *situation) there(from, to time.Time) float64 {
	all := days(from, to)
	if len(s.h.Away) == 0 {
		return all
	}
	away := slices.SortedFunc(slices.Values(s.h.Away), func(a, b use.Spell) int { return a.From.Compare(b.From) })
	for _, x := range away {
		if x.To.Before(from) || x.To.Equal(from) {
			continue
		}
		all -= days(latest(x.From, from), earliest(x.To, to))
		from = latest(from, x.To) // spells may overlap
	}
	return math.Max(0, all)
}

func aGroup(x machine.Holding) float64 { return x.Answers.Drinks / float64(x.Facts.Groups) }

func (s *situation) since(group int, last time.Time) used {
	until := s.blankUntil(last)
	u := used{perDay: s.a.Drinks / float64(s.f.Groups), blank: s.there(last, until)}
	if u.blank > 0 {
		u.perDay = s.declared(last, until, aGroup) / u.blank
	}
	u.made = s.tally(machine.Group(group), last, s.now)
	if until := latest(last, s.h.LoggedUntil); !s.h.LoggedUntil.IsZero() {
		u.since = s.there(until, s.now)
	}
	return u
}

// gramsAShot is the coffee of a shot as logged, else a double's.
func (u used) gramsAShot(f machine.Facts) float64 {
	if u.made.Shots > 0 {
		return u.made.Coffee / u.made.Shots
	}
	return float64(f.Double)
}

func (u used) worked(name, unit string, logged, perShot float64) reason.Worked {
	w := reason.Worked{
		Name: name, Value: logged + u.perDay*u.blank*perShot + u.believed*perShot*u.since, Unit: unit,
		Formula: "logged + rate × blank", Source: reason.Ours,
		Inputs: []reason.Input{
			{Symbol: "logged", Label: "logged for this group", Value: logged, Unit: unit, Source: reason.Log},
			{
				Symbol: "rate",
				Label:  "a day a group, from your drinks a day",
				Value:  u.perDay * perShot,
				Unit:   unit + "/day",
				Source: reason.Said,
			},
			{
				Symbol: "blank",
				Label:  "days before the first drink was logged, on which somebody was there",
				Value:  u.blank,
				Unit:   "days",
				Source: reason.Log,
			},
		},
		WouldChange: []string{"logging drinks", "another date for the last care"},
	}
	if u.since > 0 {
		w.Formula += " + believed × since"
		w.Inputs = append(
			w.Inputs,
			reason.Input{
				Symbol: "believed",
				Label:  "a day a group, as learned from what was logged",
				Value:  u.believed * perShot,
				Unit:   unit + "/day",
				Source: reason.Log,
			},
			reason.Input{
				Symbol: "since",
				Label:  "days since the newest reading, with nothing logged, on which somebody was there",
				Value:  u.since,
				Unit:   "days",
				Source: reason.Log,
			},
		)
		w.WouldChange = append(w.WouldChange, "a new reading")
	}
	return w.Exact()
}

func daysSince(last, now time.Time, t task.ID) reason.Worked {
	hours := now.Sub(last).Hours()
	return reason.Worked{
		Name: "days since the last " + t.Short(), Value: hours / 24, Unit: "days", Formula: "hours ÷ 24", Source: reason.Log,
		Inputs: []reason.Input{
			{Symbol: "hours", Label: "hours since it was done", Value: hours, Unit: "h", Source: reason.Log},
		},
		WouldChange: []string{"another date for the last care"},
	}.Exact()
}

func daysLeft(gone reason.Worked, limit float64) reason.Worked {
	return reason.Worked{
		Name: "days to the calendar limit", Value: math.Max(0, limit-gone.Value), Unit: "days",
		Formula: "max(0, limit − gone)", Source: reason.Trade,
		Inputs: []reason.Input{
			{Symbol: "limit", Label: "never later than", Value: limit, Unit: "days", Source: reason.Ours},
			gone.AsInput("gone"),
		},
		WouldChange: []string{"another date for the last care", "another interval"},
	}.Exact()
}

func after(now time.Time, days float64) time.Time {
	return now.Add(time.Duration(days * 24 * float64(time.Hour)))
}

func earliest(a, b time.Time) time.Time {
	if b.Before(a) {
		return b
	}
	return a
}

func latest(a, b time.Time) time.Time {
	if a.After(b) {
		return a
	}
	return b
}

// days is how many days lie between two instants; none where the second is not later.
func days(a, b time.Time) float64 { return math.Max(0, b.Sub(a).Hours()/24) }

// daily: once in each of the machine's days, by its end. A day that is over,
// on which nothing was made, asked for no wash; nor does a day nobody is there.
func (s *situation) daily(d Due) Due {
	f, h, now, zone := s.f, s.h, s.now, s.zone
	dueDay, today := use.NextDay(d.Last, zone), use.Day(now, zone)
	for dueDay.Before(today) && h.Reaches(dueDay) && !h.LoggedSince.IsZero() && dueDay.After(h.LoggedSince) &&
		h.Habit.On(dueDay, d.Part.GroupNumber(), f.Groups, zone) == 0 {
		dueDay = use.NextDay(dueDay, zone)
	}
	for day := 0; day < 400 && !dueDay.Before(today) && h.Gone(dueDay.Add(12*time.Hour)); day++ {
		dueDay = use.NextDay(dueDay, zone)
	}
	end := use.NextDay(dueDay, zone)
	closes := time.Date(dueDay.Year(), dueDay.Month(), dueDay.Day(), 0, int(f.Closes*60), 0, 0, zone)
	used := daysSince(d.Last, now, d.Task)
	d.Clocks = []Clock{{Kind: task.ByDays, Used: used, Limit: end.Sub(d.Last).Hours() / 24, Unit: "days", Leads: true}}
	d.Because = append(
		slices.Clone(d.Because),
		reason.Reason{
			Text: fmt.Sprintf(
				"The day turns at %02d:00 in the machine's zone; the last drink is taken to be made by %s.",
				use.DayTurns,
				closes.Format("15:04"),
			),
			Source: reason.Ours,
		},
	)
	d.Earliest, d.Likely, d.Latest = latest(dueDay, now), latest(closes, now), latest(end, now)
	days := func(t time.Time) float64 { return t.Sub(now).Hours() / 24 }
	d.Days = reason.Worked{
		Name: "days to the next " + d.Task.Short(), Value: days(d.Likely), Low: days(d.Earliest), High: days(d.Latest),
		Spread:  reason.Bounds,
		Unit:    "days",
		Formula: "max(0, closes) ÷ 24", Source: reason.Trade,
		Inputs: []reason.Input{
			reason.Input{
				Symbol: "closes",
				Label:  "hours to closing on the day it is due",
				Value:  closes.Sub(now).Hours(),
				Unit:   "h",
				Source: reason.Ours,
			}.Ranged(dueDay.Sub(now).Hours(), end.Sub(now).Hours()),
		},
		WouldChange: []string{"another closing time", "a day without a drink: it asks for no wash", "another school"},
	}
	switch {
	case !now.Before(end):
		d.State = Overdue
	case !now.Before(dueDay):
		d.State = Today
	default:
		d.State = Later
	}
	return d
}
