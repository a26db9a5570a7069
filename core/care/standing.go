package care

import (
	"fmt"
	"math"
	"strings"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/use"
)

// Standing is where one task of one part stands: what is kept of a due answer, so that a list need
// not work it out. How it came about is worked out when somebody asks.
type Standing struct {
	Task  task.ID
	Part  machine.Part
	State State
	Title string // as it is called here
	Daily bool   // once in each of the machine's days
	Cafe  bool   // cared for like a café's: the wash is part of the close
	// NoDate says that the date could not be worked out, Begun that its clock counts from a day on
	// which nothing was done.
	NoDate, Begun            bool
	Pulled                   bool      // what was found at a look brings it forward
	Workshop                 bool      // a workshop does it, not whoever keeps the machine
	Last                     time.Time // zero where nothing is on record
	Earliest, Likely, Latest time.Time
	// Clock is the one that runs out first: how much has gone of how much, in its unit. Empty
	// where none counts.
	Clock      task.Clock
	Used, Most float64
	Unit       string
	Why        string // its first reason
}

// Standing is what is kept of a due answer.
func (d Due) Standing() Standing {
	s := Standing{Task: d.Task, Part: d.Part, State: d.State, Title: d.Title(), Daily: d.Interval.Daily, Cafe: d.Cafe,
		NoDate: d.NoDate, Begun: d.Begun, Pulled: d.Pulled, Workshop: d.Workshop, Last: d.Last, Earliest: d.Earliest,
		Likely: d.Likely, Latest: d.Latest}
	for _, c := range d.Clocks {
		if c.Leads {
			s.Clock, s.Used, s.Most, s.Unit = c.Kind, c.Used.Value, c.Limit, c.Unit
		}
	}
	if len(d.Because) > 0 {
		s.Why = d.Because[0].Text
	}
	return s
}

// Standings are the standings of all tasks of a machine, most pressing first, then the small ones
// of today, and the instant
// until which they hold by themselves: a day turns then, or days run out.
func Standings(a machine.Answers, h History, now time.Time, zone *time.Location) (list []Standing, until time.Time) {
	until = use.NextDay(now, zone)
	for _, d := range AllDue(a, h, now, zone) {
		list = append(list, d.Standing())
		for _, c := range d.Clocks {
			if c.Kind != task.ByDays || c.Over() {
				continue
			}
			if out := after(d.Last, c.Limit); out.After(now) && out.Before(until) {
				until = out
			}
		}
	}
	for _, c := range Chores(a, h, now, zone) {
		list = append(list, Standing{Task: c.Task, State: Today, Title: c.Title, Last: c.Last, Earliest: now, Likely: now,
			Latest: until, Why: c.Because.Text})
	}
	return list, until
}

// Head is the job in few words, for a machine of so many groups.
func (s Standing) Head(groups int, together ...int) string {
	which := ""
	switch group := s.Part.GroupNumber(); {
	case group == 0:
	case len(together) > 1:
		which = ", " + Groups(together)
	case groups > 1:
		which = ", " + Groups([]int{group})
	}
	switch {
	case s.State == Later:
		return "Nothing to do"
	case s.State == Today && s.Daily && s.Cafe:
		return "Close tonight: wash" + which
	case s.State == Today && s.Daily:
		return "Tonight: wash" + which
	}
	return s.Title + which
}

// Now says whether the job is for now, not just for later today.
func (s Standing) Now(now time.Time) bool {
	return s.State == Overdue || s.State == Unrecorded || (s.State == Today && !s.Likely.After(now))
}

// When is when the job fell or falls due, in one sentence.
func (s Standing) When() string {
	switch s.State {
	case Unrecorded:
		if s.NoDate {
			return "Its date cannot be worked out: taken as due now."
		}
		return "Nothing on record: due now."
	case Later:
		return ""
	case Today:
		if s.Pulled {
			return "Asked for by what was found."
		}
		if s.Daily {
			return "After the last drink."
		}
		return "Falls due today."
	}
	if s.Clock == "" {
		return "Overdue."
	}
	return s.fell()
}

// ByOthers says that a job has a date and is done by whom the maker or the trade names, or by a workshop.
func (s Standing) ByOthers() bool {
	row := s.Task.Row()
	return !s.NoDate && !row.Rests && row.Way != task.Small && (row.Whose != task.Anybodys || s.Workshop)
}

// Falls is when the job falls due as paper says it: with its year.
func (s Standing) Falls(zone *time.Location) string {
	if s.State != Later {
		return strings.TrimSpace(map[State]string{Overdue: "Overdue. "}[s.State] + s.When())
	}
	return "About " + s.Likely.In(zone).Format("2 January 2006") + "."
}

// Between are the days between which the date of a later job lies, as paper says it; empty where it is sharp to a day.
func (s Standing) Between(zone *time.Location) string {
	from, to := s.Earliest.In(zone), s.Latest.In(zone)
	if s.State != Later || s.Earliest.IsZero() || s.Latest.IsZero() ||
		from.Format(time.DateOnly) == to.Format(time.DateOnly) {
		return ""
	}
	form := "2 January 2006"
	switch {
	case from.Year() == to.Year() && from.Month() == to.Month():
		form = "2"
	case from.Year() == to.Year():
		form = "2 January"
	}
	return fmt.Sprintf("Between %s and %s.", from.Format(form), to.Format("2 January 2006"))
}

// fell says how far the clock is over that ran out first.
func (s Standing) fell() string {
	over := math.Floor(s.Used - s.Most)
	unit := s.Unit
	switch {
	case s.Clock == task.ByCoffee:
		unit = "g of coffee"
	case s.Clock == task.ByCounter:
		unit = "on the counter"
	case s.Clock == task.ByLitres:
		unit = "litres"
	case s.Clock == task.ByScale:
		return fmt.Sprintf("%.2g mm of scale. The limit is %.1f mm.", s.Used, s.Most)
	case over == 1:
		unit = strings.TrimSuffix(unit, "s")
	}
	if over < 1 {
		return "Has just fallen due."
	}
	return fmt.Sprintf("Fell due %.0f %s ago.", over, unit)
}

// Gone is the share of the interval that has gone, by the clock that leads.
func (s Standing) Gone() float64 {
	if s.Most > 0 {
		return s.Used / s.Most
	}
	return 0
}

// Going is how far the clock that leads has gone, in few words.
func (s Standing) Going() string {
	if gone := s.Gone(); gone >= 1.05 {
		return reason.Figure(math.Round(gone*10)/10, "") + " × the limit"
	}
	return fmt.Sprintf("%.0f %% of it", 100*math.Min(1, s.Gone()))
}

// Unreadable is the standing of a machine whose record cannot be read: its dates are not known, so
// it is looked at now.
func Unreadable(err error, now time.Time) Standing {
	s := notWorkedOut(task.Wash, err, now).Standing()
	s.Title = "Its record cannot be read"
	return s
}

// Split parts the jobs of a list from the small ones of the day.
func Split(list []Standing) (jobs, small []Standing) {
	for _, s := range list {
		if s.Task.IsSmall() {
			small = append(small, s)
		} else {
			jobs = append(jobs, s)
		}
	}
	return jobs, small
}
