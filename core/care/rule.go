package care

import (
	"fmt"
	"slices"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/standdown"
	"freshanvil/core/task"
	"freshanvil/core/use"
)

// rule says when one task falls due on a machine: a due for each part, none where the machine
// has no such task.
type rule struct {
	task task.ID
	dues func(*situation) []Due
}

// rules, one a task that has a date of its own. The small ones of the day are in chores.
var rules = []rule{
	{task.LayUp, ofRest(task.LayUp)},
	{task.Visit, ofRest(task.Visit)},
	{task.Return, ofRest(task.Return)},
	{task.Wash, func(s *situation) []Due { return s.byInterval(task.Wash) }},
	{task.Descale, func(s *situation) []Due { return s.ofScale(task.Descale) }},
	{task.LookForScale, func(s *situation) []Due { return s.ofScale(task.LookForScale) }},
	{task.FilterChange, func(s *situation) []Due { return s.ofRenewal(task.FilterChange) }},
	{task.Regenerate, func(s *situation) []Due { return s.ofRenewal(task.Regenerate) }},
	{task.Screen, func(s *situation) []Due { return s.byInterval(task.Screen) }},
	{task.Soak, func(s *situation) []Due {
		return s.byCalendar(task.Soak, weekly, reason.Trade, "Every week, two weeks at the most: old oil turns rancid.")
	}},
	{task.Tank, func(s *situation) []Due {
		if s.f.Tank == 0 {
			return nil
		}
		return s.byCalendar(task.Tank, monthlyCap, reason.Trade, "Every month: slime grows on the walls of a tank.")
	}},
	{task.Tip, func(s *situation) []Due {
		if s.a.MilkDrinks == 0 {
			return nil
		}
		return s.byCalendar(task.Tip, weekly, reason.Trade,
			"Every week, two weeks at the most: milk sets in the holes of the tip.")
	}},
	{task.Seal, (*situation).seals},
	{task.CamGrease, func(s *situation) []Due {
		if s.f.Valve != machine.Cam {
			return nil
		}
		return s.byCalendar(task.CamGrease, yearly, reason.Ours,
			"Every year, and sooner where a wash has left the lever stiff.")
	}},
	{task.SteamJoint, func(s *situation) []Due {
		if s.a.MilkDrinks == 0 {
			return nil
		}
		return s.byCalendar(task.SteamJoint, yearly, reason.Trade, "Every year, with the seals, or when it weeps.")
	}},
	{task.BrushHead, func(s *situation) []Due {
		return s.byCalendar(task.BrushHead, halfYear, reason.Ours, "Twice a year, or when the bristles are bent.")
	}},
	{task.Grinder, func(s *situation) []Due {
		return s.byCalendar(task.Grinder, quarter, reason.Trade, "Every three months: oil on the burrs turns rancid.")
	}},
	{task.DrainSeals, func(s *situation) []Due {
		if s.f.Drain != "screws" && s.f.Drain != "plug" {
			return nil
		}
		return s.byCalendar(task.DrainSeals, 2*yearly, reason.Ours,
			"Every two years, or when a drop hangs from a screw.")
	}},
	{task.Jet, func(s *situation) []Due {
		if s.f.SteamBoiler == 0 || !s.f.Valve.Vents() {
			return nil
		}
		return s.byCalendar(task.Jet, s.inTrade(yearly, 3*yearly), reason.Ours,
			"Every year in trade use, every three years at home, or when it clicks and no water comes.")
	}},
	{task.Probe, func(s *situation) []Due {
		if s.f.SteamBoiler == 0 || s.f.Pump == machine.NoPump {
			return nil
		}
		return s.byCalendar(task.Probe, s.inTrade(yearly, 3*yearly), reason.Ours,
			"Every year in trade use, every three years at home: a crusted probe lets the boiler overfill.")
	}},
	{task.Relief, func(s *situation) []Due {
		if s.f.SteamBoiler == 0 && s.f.Layout != machine.LeverManual {
			return nil
		}
		return s.byCalendar(task.Relief, yearly, reason.Trade,
			"Every year, by eye: it is what stands between a fault and you.")
	}},
	{task.Service, func(s *situation) []Due {
		if !s.cafe {
			return nil
		}
		return s.byCalendar(task.Service, yearly, reason.Trade, "Every year in trade use, by the maker's own list.")
	}},
	{task.Service3, func(s *situation) []Due {
		return s.byCalendar(task.Service3, 3*yearly, reason.Ours, "Every three years: what ages is renewed before it fails.")
	}},
	{task.Service5, func(s *situation) []Due {
		if !s.cafe {
			return nil
		}
		return s.byCalendar(task.Service5, 5*yearly, reason.Ours, "Every five years in trade use.")
	}},
	{task.Inspection, func(s *situation) []Due {
		if !s.a.Layout.Commercial() {
			return nil
		}
		return s.byCalendar(task.Inspection, yearly, reason.Trade,
			"Every year for a pressure vessel in trade use; where the local code says otherwise, that goes.")
	}},
}

const (
	weekly = 7
	yearly = 365
	// sealShots is how many shots of a group a seal is taken to last (our own engineering choice): heat and the
	// handle wear it in a busy group long before a year is over.
	sealShots = 20000
)

// inTrade is one number for a machine in trade use, another for one at home.
func (s *situation) inTrade(trade, home float64) float64 {
	if s.cafe {
		return trade
	}
	return home
}

// seals works out the seals of the groups, by use and by the calendar.
func (s *situation) seals() []Due {
	every := Interval{Task: task.Seal, Shots: sealShots, Days: yearly, Because: []reason.Reason{
		{Text: "Every year, or when it is hard, cracked or chipped, or the handle leaks. Silicone lasts longer.",
			Source: reason.Trade},
		{Text: fmt.Sprintf("In a busy group after %d shots.", sealShots), Source: reason.Ours},
	}}
	var list []Due
	for _, part := range s.parts(task.Seal) {
		list = append(list, s.worn(every, part))
	}
	return list
}

// situation is a machine as it stands at an instant: what the rules work from. What several of
// them need is worked out once.
type situation struct {
	a     machine.Answers
	f     machine.Facts
	cafe  bool
	h     History
	now   time.Time
	zone  *time.Location
	every []Interval
	paces map[int]use.Pace // by group

	scale    *Descaling
	scaleErr error
	// laidSince is when it was laid up, rest the one that it is in or that is ahead of it.
	laidSince     time.Time
	rest          standdown.Rest
	laid, resting bool
}

func situated(a machine.Answers, h History, now time.Time, zone *time.Location) *situation {
	h.Log = h.Counted(now, zone)
	if len(h.Held) == 0 {
		h.Held = machine.Hold(machine.Holding{Answers: a})
	}
	s := &situation{a: a, f: a.Facts(), h: h, now: now, zone: zone, every: Intervals(a, h.Choice),
		paces: map[int]use.Pace{}}
	s.cafe, _ = a.Cafe()
	s.laidSince, s.laid = h.LaidUp(now)
	s.rest, s.resting = h.Rest(now)
	return s
}

// pace is what is believed of one group.
func (s *situation) pace(group int) use.Pace {
	p, known := s.paces[group]
	if !known {
		p = use.PaceOf(s.a.Drinks/float64(s.f.Groups), group, s.f.Groups, s.h.Log, s.now, s.zone)
		s.paces[group] = p
	}
	return p
}

// parts are what a task is of on this machine.
func (s *situation) parts(id task.ID) []machine.Part {
	if id.IsOfMachine() {
		return []machine.Part{{}}
	}
	list := make([]machine.Part, s.f.Groups)
	for g := range list {
		list[g] = machine.Group(g + 1)
	}
	return list
}

// begin is a due of a part with what is on record of it; false where that is nothing, and the
// due stands as it is: it counts as due now.
func (s *situation) begin(every Interval, part machine.Part) (Due, bool) {
	d := Due{Task: every.Task, Part: part, Interval: every, Because: every.Because, Cafe: s.cafe}
	last := s.h.last(every.Task, part, s.now, every.Also...)
	if d.Last = last.At; !d.Last.IsZero() {
		if why, any := last.Begun.Why(); any {
			d.Because, d.Begun = append([]reason.Reason{why}, d.Because...), true
		}
		return d, true
	}
	return d.unrecorded(s.now), false
}

// unrecorded is a due of which nothing is on record.
func (d Due) unrecorded(now time.Time) Due {
	d.State, d.Earliest, d.Likely, d.Latest = Unrecorded, now, now, now
	d.Because = append([]reason.Reason{{
		Text:   "Nothing is on record, so it counts as due now. If it was done, say when.",
		Source: reason.Ours,
	}}, d.Because...)
	return d
}

// byInterval works out a task that has an interval of its own, as chosen or by default.
func (s *situation) byInterval(id task.ID) []Due {
	var list []Due
	for _, every := range s.every {
		if every.Task != id {
			continue
		}
		for _, part := range s.parts(id) {
			list = append(list, s.worn(s.judged(every, part), part))
		}
	}
	return list
}

// byCalendar works out a task that falls due after so many days, whatever was made meanwhile.
func (s *situation) byCalendar(id task.ID, days float64, source reason.Source, why string) []Due {
	every := Interval{Task: id, Days: days, Because: []reason.Reason{{Text: why, Source: source}}}
	var list []Due
	for _, part := range s.parts(id) {
		d, any := s.begin(every, part)
		if any {
			d.calendar(every.Days, s.now)
			d = d.settle([]reason.Worked{daysLeft(d.Clocks[0].Used, every.Days)}, s.now, s.zone)
		}
		list = append(list, d)
	}
	return list
}

// calendar adds the clock that counts days.
func (d *Due) calendar(limit float64, now time.Time) {
	d.Clocks = append(d.Clocks, Clock{Kind: task.ByDays, Used: daysSince(d.Last, now, d.Task), Limit: limit,
		Unit: "days"})
}

// screens are the intervals at which the screen comes off (common practice), where it is not
// what the machine is cleaned by in the place of a wash.
func screens(a machine.Answers) Interval {
	f := a.Facts()
	say := func(text string) []reason.Reason { return []reason.Reason{{Text: text, Source: reason.Trade}} }
	switch {
	case f.Valve == machine.Cam:
		return Interval{Task: task.Screen, Days: quarter, Also: []task.ID{task.Wash},
			Because: say("In each quarter without a wash: twice a year, because detergent strips the cam's grease.")}
	case a.Drinks/float64(f.Groups) < lightUse && !a.Layout.Commercial():
		return Interval{Task: task.Screen, Days: monthlyCap, Because: append(
			say("Every month in light use: a wash does not reach behind the screen."),
			reason.Reason{Text: fmt.Sprintf("Light use is fewer than %d shots a day a group.", lightUse), Source: reason.Ours})}
	}
	return Interval{Task: task.Screen, Days: weekly,
		Because: say("Every week: a wash does not reach behind the screen.")}
}

// Intervals gives the interval of every task that is counted by use or chosen, as chosen or by
// default. A machine that must not be backflushed has no wash: its screen comes off instead.
func Intervals(a machine.Answers, c Choice) []Interval {
	list := []Interval{c.For(a)}
	if list[0].Task == task.Wash {
		list = append(list, screens(a))
	}
	return list
}

// ReadFrom is the start of the day from which every entry of use is needed one by one: that of
// the oldest of the newest completions of what is counted by use. Where nothing is on record,
// today's.
func ReadFrom(a machine.Answers, c Choice, done []Done, now time.Time, zone *time.Location) time.Time {
	since := now
	for _, every := range Intervals(a, c) {
		if !every.wears() && !every.Daily {
			continue
		}
		h := History{Done: done}
		for g := range a.Facts().Groups {
			if last := h.last(every.Task, machine.Group(g+1), now, every.Also...); !last.At.IsZero() &&
				last.At.Before(since) {
				since = last.At
			}
		}
	}
	return use.Day(since, zone)
}

// Marks are the instants at which something changed that use is counted from, or by.
func (h History) Marks() []time.Time {
	var list []time.Time
	for _, d := range h.Done {
		list = append(list, d.At)
	}
	for _, x := range h.Held {
		list = append(list, x.From)
	}
	for _, w := range h.Waters {
		list = append(list, w.From)
		if w.Renew != nil {
			list = append(list, w.Renew.Named)
		}
	}
	for _, s := range h.Shares {
		list = append(list, s.From)
	}
	list = append(list, h.LoggedSince, h.LoggedUntil)
	return slices.DeleteFunc(list, time.Time.IsZero)
}

// CheckRecord refuses to put a task on record that this machine must not have done; the error
// is a *reason.Refusal.
func CheckRecord(a machine.Answers, id task.ID, field string) error {
	gate := backflush.Gate(a.Facts())
	if (id == task.Wash || id == task.WaterBackflush) && gate.Verdict == reason.Refused {
		return &reason.Refusal{Code: backflush.NoValve, Field: field, Value: string(id), Allowed: string(task.Screen),
			Finding: gate}
	}
	return nil
}

// DaysFrom is the start of the first day of which anything is needed.
func (h History) DaysFrom(now time.Time, zone *time.Location) time.Time {
	from := use.HabitFrom(now, zone)
	if o := h.oldest(now); !o.IsZero() && o.Before(from) {
		from = o
	}
	return use.Day(from, zone)
}
