package care

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
)

// State is where a task stands.
type State string

// The states, most pressing first.
const (
	Overdue    State = "overdue"
	Unrecorded State = "unrecorded" // nothing on record: due now
	Today      State = "today"      // falls due before the machine's day turns
	Later      State = "later"
)

// ClockKind is what a clock counts.
type ClockKind string

// The clocks so far.
const (
	ByShots   ClockKind = "shots"
	ByCoffee  ClockKind = "coffee"
	ByCounter ClockKind = "counter"
	ByLitres  ClockKind = "litres"
	ByDays    ClockKind = "days"
)

// Clock is one thing the task is counted by: how much has gone, and how much
// may go.
type Clock struct {
	Kind  ClockKind
	Used  reason.Worked
	Limit float64
	Unit  string
	// Leads is set on the clock that runs out first.
	Leads bool
}

// Left is what may still go; below zero, how far it is over.
func (c Clock) Left() float64 { return c.Limit - c.Used.Value }

// Over says whether the clock has run out.
func (c Clock) Over() bool { return c.Used.Value >= c.Limit }

// Due says when one task of one part falls due, by which clock, and how sure.
type Due struct {
	Task     Task
	Part     machine.Part
	State    State
	Interval Interval
	Clocks   []Clock
	Last     time.Time // zero where nothing is on record
	// Earliest, Likely and Latest bound the date, as Days.Spread says. All are the
	// present instant where it is overdue or unrecorded.
	Earliest, Likely, Latest time.Time
	Days                     reason.Worked // from now to Likely
	Because                  []reason.Reason
	Cafe                     bool   // cared for like a café's: the wash is part of the close
	As                       string // what it is called here, where that is not the task's own title
	NoDate                   bool   // its date could not be worked out; Because says why
}

// Title is the task as it is called here.
func (d Due) Title() string {
	if d.As != "" {
		return d.As
	}
	return d.Task.Title()
}

// Head is the job in few words, for a machine of so many groups.
func (d Due) Head(groups int, together ...int) string {
	which := ""
	switch group := d.Part.GroupNumber(); {
	case group == 0:
	case len(together) > 1:
		which = ", " + Groups(together)
	case groups > 1:
		which = ", " + Groups([]int{group})
	}
	switch {
	case d.State == Later:
		return "Nothing to do"
	case d.State == Today && d.Interval.Daily && d.Cafe:
		return "Close tonight: wash" + which
	case d.State == Today && d.Interval.Daily:
		return "Tonight: wash" + which
	}
	return d.Title() + which
}

// OfMachine says whether a task is of the whole machine, not of a group.
func (t Task) OfMachine() bool {
	switch t {
	case Descale, AcidRinse, DrawOff, FilterChange, Regenerate:
		return true
	}
	return false
}

// Now says whether the job is for now, not just for later today.
func (d Due) Now(now time.Time) bool {
	return d.State == Overdue || d.State == Unrecorded || (d.State == Today && !d.Likely.After(now))
}

// When is when the job fell or falls due, in one sentence.
func (d Due) When() string {
	switch d.State {
	case Unrecorded:
		if d.NoDate {
			return "Its date cannot be worked out: taken as due now."
		}
		return "Nothing on record: due now."
	case Later:
		return ""
	case Today:
		if d.Interval.Daily {
			return "After the last drink."
		}
		return "Falls due today."
	}
	for _, c := range d.Clocks {
		if c.Leads {
			return c.fell()
		}
	}
	return "Overdue."
}

// fell says how far a clock is over.
func (c Clock) fell() string {
	over := math.Floor(-c.Left())
	unit := c.Unit
	switch {
	case c.Kind == ByCoffee:
		unit = "g of coffee"
	case c.Kind == ByCounter:
		unit = "on the counter"
	case c.Kind == ByLitres:
		unit = "litres"
	case c.Kind == ByScale:
		return fmt.Sprintf("%.2g mm of scale. The limit is %.1f mm.", c.Used.Value, c.Limit)
	case over == 1:
		unit = strings.TrimSuffix(unit, "s")
	}
	if over < 1 {
		return "Has just fallen due."
	}
	return fmt.Sprintf("Fell due %.0f %s ago.", over, unit)
}

// Done is a completed task on record.
type Done struct {
	Task Task
	Part machine.Part
	At   time.Time
}

// History is what the due answer rests on.
type History struct {
	// Done holds at least the newest completion of each task and part.
	Done []Done
	// Events holds at least every use event since the oldest of those.
	Events []UseEvent
	// LoggedSince is when the machine's first use was logged; zero where it
	// never was. Before it, use is taken at the declared rate.
	LoggedSince time.Time
	// LoggedUntil is where the log ends for now: the end of a counter reading or
	// of a file's last day, where nothing was pressed after it. Use after it is
	// taken at the believed rate. Zero where presses go on.
	LoggedUntil time.Time
	// Habit is use by the day over the last weeks; where it is empty, the
	// events stand in.
	Habit Habit
	// Away are the times nobody was or will be there, as entered.
	Away []Spell
	// Choice is how often and how, as chosen.
	Choice      Choice
	ChoiceSince time.Time
	// Waters are what reached the machine, oldest first; where there is none,
	// nothing is said of descaling. Settled is the use since the last descale
	// before the events.
	Waters  []Regime
	Settled []Settled
	// Share of what falls out stays in the machine, as calibrated; 0 is all.
	Share float64
	// Since is the instant from which Settled and Events leave nothing out.
	Since time.Time

	paces map[int]Pace // by group, while one list of dues is worked out
}

// pace is what is believed of one group, worked out once for a list of dues.
func (h History) pace(declared float64, group, groups int, now time.Time, zone *time.Location) Pace {
	p, known := h.paces[group]
	if !known {
		p = PaceOf(declared, group, groups, h, now, zone)
		if h.paces != nil {
			h.paces[group] = p
		}
	}
	return p
}

// AllDue works out every task of every group of a machine at an instant,
// most pressing first.
func AllDue(a machine.Answers, h History, now time.Time, zone *time.Location) []Due {
	var list []Due
	f := a.Facts()
	cafe, _ := a.Cafe()
	if h.Habit.From.IsZero() {
		h.Habit = HabitOf(h.Events, now, zone)
	}
	h.paces = make(map[int]Pace, f.Groups)
	for _, every := range Intervals(a, h.Choice) {
		for g := 1; g <= f.Groups; g++ {
			d := dueOf(a.Drinks, f, every, g, h, now, zone)
			d.Cafe = cafe
			list = append(list, d)
		}
	}
	list = ofWater(list, a, h, now, zone)
	// few entries; keep the order of intervals and groups among equals
	for i := 1; i < len(list); i++ {
		for j := i; j > 0 && list[j].Before(list[j-1]); j-- {
			list[j], list[j-1] = list[j-1], list[j]
		}
	}
	return list
}

var rank = map[State]int{Overdue: 0, Unrecorded: 1, Today: 2, Later: 3}

// Then is the wash of another group that comes next after a wash of these,
// where one is due today or before; dues are as AllDue gives them.
func Then(dues []Due, washed ...int) (Due, bool) {
	for _, d := range dues {
		if d.Task == Wash && !slices.Contains(washed, d.Part.GroupNumber()) && d.State != Later {
			return d, true
		}
	}
	return Due{}, false
}

// Together are the groups to wash in one sitting: where a wash presses most,
// every group whose wash is due today or before; none where it does not.
func Together(dues []Due) []int {
	if len(dues) == 0 || dues[0].Task != Wash || dues[0].State == Later {
		return nil
	}
	var list []int
	for _, d := range dues {
		if d.Task == Wash && d.State != Later {
			list = append(list, d.Part.GroupNumber())
		}
	}
	slices.Sort(list)
	return list
}

// Groups names groups in words: group 1, or groups 1, 2 and 3.
func Groups(list []int) string {
	names := make([]string, len(list))
	for i, g := range list {
		names[i] = fmt.Sprint(g)
	}
	if len(list) == 1 {
		return "group " + names[0]
	}
	last := len(names) - 1
	return "groups " + strings.Join(names[:last], ", ") + " and " + names[last]
}

// Rank is how much a state presses, 0 the most.
func (s State) Rank() int { return rank[s] }

// Before puts what presses more first. Of two tasks due alike, the wash
// comes first: it covers the hand clean.
func (d Due) Before(o Due) bool {
	if rank[d.State] != rank[o.State] {
		return rank[d.State] < rank[o.State]
	}
	if d.State == Later || d.State == Today {
		return d.Likely.Before(o.Likely)
	}
	return false
}

func dueOf(
	drinks float64,
	f machine.Facts,
	every Interval,
	group int,
	h History,
	now time.Time,
	zone *time.Location,
) Due {
	d := Due{Task: every.Task, Part: machine.Group(group), Interval: every, Because: every.Because}
	for _, done := range h.Done {
		// a wash does what a hand clean does
		counts := done.Task == every.Task || (every.Task == HandClean && done.Task == Wash)
		if counts && done.Part == d.Part && done.At.After(d.Last) && !done.At.After(now) {
			d.Last = done.At
		}
	}
	if d.Last.IsZero() {
		d.State, d.Earliest, d.Likely, d.Latest = Unrecorded, now, now, now
		d.Because = append(
			[]reason.Reason{
				{
					Text:   "Nothing is on record, so it counts as due now. If it was done, say when.",
					Source: reason.Ours,
				},
			},
			d.Because...)
		return d
	}
	if every.Daily {
		return d.daily(f, h, now, zone)
	}
	every = h.Choice.shorten(every, d.Last.UnixMilli())
	d.Interval, d.Because = every, every.Because

	use := usage(drinks, f, group, h, d.Last, now)
	if every.wears() {
		use.pace = h.pace(use.perDay, group, f.Groups, now, zone)
		use.believed = use.pace.mean()
		d.Because = append(slices.Clone(d.Because), use.pace.Because...)
	}
	var ahead []reason.Worked
	each := f.CountsADrink() * float64(f.Groups)
	if every.Shots > 0 {
		used := use.worked("shots since the last "+every.Task.short(), "shots", use.logged.Shots, 1)
		d.Clocks = append(d.Clocks, Clock{Kind: ByShots, Used: used, Limit: every.Shots, Unit: "shots"})
		ahead = append(ahead, use.pace.forecast("days to the shot limit", toGo(every.Shots-used.Value)))
	}
	if every.Coffee > 0 {
		used := use.worked("coffee since the last "+every.Task.short(), "g", use.logged.Coffee, float64(f.Double))
		d.Clocks = append(d.Clocks, Clock{Kind: ByCoffee, Used: used, Limit: every.Coffee, Unit: "g"})
		ahead = append(
			ahead,
			use.pace.forecast("days to the coffee limit", toGo((every.Coffee-used.Value)/use.gramsAShot(f))),
		)
	}
	if every.Counter > 0 {
		used := use.worked(
			"counted since the last "+every.Task.short(),
			"counts",
			use.whole.Shots*f.CountsADrink(),
			each,
		)
		d.Clocks = append(d.Clocks, Clock{Kind: ByCounter, Used: used, Limit: every.Counter, Unit: "counts"})
		ahead = append(ahead, use.pace.forecast("days to the counter's limit", toGo((every.Counter-used.Value)/each)))
	}
	if every.Litres > 0 {
		used := use.worked("water since the last "+every.Task.short(), "L", use.logged.Litres, f.BrewWater.Litres())
		d.Clocks = append(d.Clocks, Clock{Kind: ByLitres, Used: used, Limit: every.Litres, Unit: "L"})
		ahead = append(
			ahead,
			use.pace.forecast("days to the water limit", toGo((every.Litres-used.Value)/f.BrewWater.Litres())),
		)
	}
	used := daysSince(d.Last, now, every.Task)
	d.Clocks = append(d.Clocks, Clock{Kind: ByDays, Used: used, Limit: every.Days, Unit: "days"})
	ahead = append(ahead, daysLeft(used, every.Days))
	return d.settle(ahead, now, zone)
}

// toGo is a number of whole shots still to be made.
func toGo(shots float64) float64 { return math.Max(0, math.Ceil(shots)) }

// settle takes the clock that runs out first as the one that decides.
func (d Due) settle(ahead []reason.Worked, now time.Time, zone *time.Location) Due {
	lead := 0
	for i, w := range ahead {
		if w.Value < ahead[lead].Value {
			lead = i
		}
	}
	for i, c := range d.Clocks {
		if c.Over() && !d.Clocks[lead].Over() {
			lead = i
		}
	}
	d.Clocks[lead].Leads = true

	days := reason.Worked{Name: "days to the next " + d.Task.short(), Unit: "days", Source: reason.Ours,
		Value: math.Inf(1), Low: math.Inf(1), High: math.Inf(1),
		WouldChange: []string{"using the machine more or less than you said", "another interval"}}
	for i, w := range ahead {
		symbol := string(d.Clocks[i].Kind)
		if i > 0 {
			days.Formula += ", "
		}
		days.Formula += symbol
		days.Inputs = append(days.Inputs, w.AsInput(symbol))
		days.Value, days.Low = math.Min(days.Value, w.Value), math.Min(days.Low, w.Low)
		days.High, days.Spread = math.Min(days.High, w.High), days.Spread.Wider(w.Spread)
	}
	days.Formula = "min(" + days.Formula + ")"
	d.Days = days
	d.Earliest, d.Likely, d.Latest = after(now, days.Low), after(now, days.Value), after(now, days.High)
	switch {
	case d.Clocks[lead].Over():
		d.State = Overdue
	case d.Likely.Before(NextDay(now, zone)):
		d.State = Today
	default:
		d.State = Later
	}
	return d
}

// logged says whether the log reaches as far as a day.
func (h History) logged(day time.Time) bool {
	return h.LoggedUntil.IsZero() || day.Before(h.LoggedUntil)
}

// daily: once in each of the machine's days, by its end. A day that is over,
// on which nothing was made, asked for no wash; nor does a day nobody is there.
func (d Due) daily(f machine.Facts, h History, now time.Time, zone *time.Location) Due {
	dueDay, today := NextDay(d.Last, zone), Day(now, zone)
	for dueDay.Before(today) && h.logged(dueDay) && !h.LoggedSince.IsZero() && dueDay.After(h.LoggedSince) &&
		h.Habit.On(dueDay, d.Part.GroupNumber(), f.Groups, zone) == 0 {
		dueDay = NextDay(dueDay, zone)
	}
	for day := 0; day < 400 && !dueDay.Before(today) && away(h.Away, dueDay.Add(12*time.Hour)); day++ {
		dueDay = NextDay(dueDay, zone)
	}
	end := NextDay(dueDay, zone)
	closes := time.Date(dueDay.Year(), dueDay.Month(), dueDay.Day(), 0, int(f.Closes*60), 0, 0, zone)
	used := daysSince(d.Last, now, d.Task)
	d.Clocks = []Clock{{Kind: ByDays, Used: used, Limit: end.Sub(d.Last).Hours() / 24, Unit: "days", Leads: true}}
	d.Because = append(
		slices.Clone(d.Because),
		reason.Reason{
			Text: fmt.Sprintf(
				"The day turns at %02d:00 in the machine's zone; the last drink is taken to be made by %s.",
				dayTurns,
				closes.Format("15:04"),
			),
			Source: reason.Ours,
		},
	)
	d.Earliest, d.Likely, d.Latest = latest(dueDay, now), latest(closes, now), latest(end, now)
	days := func(t time.Time) float64 { return t.Sub(now).Hours() / 24 }
	d.Days = reason.Worked{
		Name: "days to the next " + d.Task.short(), Value: days(d.Likely), Low: days(d.Earliest), High: days(d.Latest),
		Spread:  reason.Bounds,
		Unit:    "days",
		Formula: "max(0, closes) ÷ 24", Source: reason.Trade,
		Inputs: []reason.Input{
			{
				Symbol: "closes",
				Label:  "hours to closing on the day it is due",
				Value:  closes.Sub(now).Hours(),
				Unit:   "h",
				Source: reason.Ours,
			},
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

// Gone is the share of the interval that has gone, by the clock that leads.
func (d Due) Gone() float64 {
	for _, c := range d.Clocks {
		if c.Leads && c.Limit > 0 {
			return c.Used.Value / c.Limit
		}
	}
	return 0
}

func (t Task) short() string {
	switch t {
	case Wash:
		return "wash"
	case Descale:
		return "descale"
	case FilterChange:
		return "filter"
	case Regenerate:
		return "regeneration"
	}
	return "hand clean"
}

// used is one group's use since its last care: what was logged, and the
// declared rate for the days before anything was.
type used struct {
	logged, whole Tally
	declared      float64 // shots taken at the declared rate
	perDay        float64
	blank         float64 // days before the first log
	since         float64 // days after the last reading
	believed      float64 // shots a day taken for those
	pace          Pace
}

func usage(drinks float64, f machine.Facts, group int, h History, last, now time.Time) used {
	from := now
	if !h.LoggedSince.IsZero() && h.LoggedSince.Before(now) {
		from = latest(last, h.LoggedSince)
	}
	u := used{perDay: drinks / float64(f.Groups), blank: from.Sub(last).Hours() / 24}
	u.logged = Count(h.Events, machine.Group(group), f, last, now)
	u.whole = u.logged
	if f.Groups > 1 {
		u.whole = Count(h.Events, machine.Part{}, f, last, now)
	}
	u.declared = u.perDay * u.blank
	if until := latest(last, h.LoggedUntil); !h.LoggedUntil.IsZero() && until.Before(now) {
		u.since = now.Sub(until).Hours() / 24
	}
	return u
}

// gramsAShot is the coffee of a shot as logged, else a double's.
func (u used) gramsAShot(f machine.Facts) float64 {
	if u.logged.Shots > 0 {
		return u.logged.Coffee / u.logged.Shots
	}
	return float64(f.Double)
}

func (u used) worked(name, unit string, logged, perShot float64) reason.Worked {
	w := reason.Worked{
		Name: name, Value: logged + u.declared*perShot + u.believed*perShot*u.since, Unit: unit,
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
				Label:  "days before the first drink was logged",
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
				Label:  "days since the newest reading, with nothing logged",
				Value:  u.since,
				Unit:   "days",
				Source: reason.Log,
			},
		)
		w.WouldChange = append(w.WouldChange, "a new reading")
	}
	return w.Exact()
}

func daysSince(last, now time.Time, t Task) reason.Worked {
	hours := now.Sub(last).Hours()
	return reason.Worked{
		Name: "days since the last " + t.short(), Value: hours / 24, Unit: "days", Formula: "hours ÷ 24", Source: reason.Log,
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

func latest(a, b time.Time) time.Time {
	if a.After(b) {
		return a
	}
	return b
}
