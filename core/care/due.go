package care

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"freshanvil/core/inspect"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/standdown"
	"freshanvil/core/task"
	"freshanvil/core/use"
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

// Clock is one thing the task is counted by: how much has gone, and how much
// may go.
type Clock struct {
	Kind  task.Clock
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
	Task     task.ID
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
	Begun                    bool   // its clock counts from a day on which nothing was done; Because says why
	Pulled                   bool   // what was found at a look brings it forward; Because says what
	Workshop                 bool   // a workshop does it, not whoever keeps the machine
}

// Title is the task as it is called here.
func (d Due) Title() string {
	if d.As != "" {
		return d.As
	}
	return d.Task.Title()
}

// Head is the job in few words, for a machine of so many groups.
func (d Due) Head(groups int, together ...int) string { return d.Standing().Head(groups, together...) }

// Now says whether the job is for now, not just for later today.
func (d Due) Now(now time.Time) bool { return d.Standing().Now(now) }

// When is when the job fell or falls due, in one sentence.
func (d Due) When() string { return d.Standing().When() }

// Placing is a day that somebody put a task on. It holds for its next time only.
type Placing struct {
	Task    task.ID
	Part    machine.Part
	On, Set time.Time
}

// Done is a completed task on record, or the day from which its clock counts.
type Done struct {
	Task task.ID
	Part machine.Part
	At   time.Time
	// Begun is set where it was not done then: the machine was new, or the task was first
	// asked for.
	Begun Begun
}

// Begun is why a clock counts from a day on which nothing was done.
type Begun string

// The machine was new; it came to the bench; the task came to the list of an older database.
const (
	New     Begun = "new"
	Added   Begun = "added"
	Started Begun = "started"
)

// Why says it in a sentence; none where it was done.
func (b Begun) Why() (reason.Reason, bool) {
	text := map[Begun]string{
		New:     "Counted from the day the machine was new.",
		Added:   "Counted from the day the machine came to the bench. If it was done before, say when.",
		Started: "Counted from the day this job was first listed here. If it was done before, say when.",
	}[b]
	return reason.Reason{Text: text, Source: reason.Said}, text != ""
}

// BegunAt are the clocks of some tasks as they begin at an instant, in every part of a machine
// that they are of.
func BegunAt(a machine.Answers, at time.Time, why Begun, which func(task.Row) bool) []Done {
	var list []Done
	for _, id := range task.Where(which) {
		if id.IsOfMachine() || id.IsSmall() {
			list = append(list, Done{id, machine.Part{}, at, why})
			continue
		}
		for g := range a.Facts().Groups {
			list = append(list, Done{id, machine.Group(g + 1), at, why})
		}
	}
	return list
}

// Begins says of which tasks the clock begins when a machine comes to the bench, or a task to the
// list: of those that were never asked for before. Where the screen stands in the place of a wash,
// nobody knows when it was last off, so it is due.
func Begins(a machine.Answers) func(task.Row) bool {
	byHand := a.Facts().Valve == machine.Cam || Choice{}.For(a).Task == task.Screen
	return func(r task.Row) bool { return r.Begins && !(byHand && r.ID == task.Screen) }
}

// History is what the due answer rests on.
type History struct {
	// Done holds at least the newest completion of each task and part.
	Done []Done
	use.Log
	// Choice is how often and how, as chosen.
	Choice      Choice
	ChoiceSince time.Time
	// Held is what held of the machine, and since when; empty where its answers always held.
	Held machine.Held
	// Waters are what reached the machine, oldest first; where there is none,
	// nothing is said of descaling.
	Waters []Regime
	// Shares are what of the scale that falls out stays in the machine, as calibrated, by the
	// day from which each holds, oldest first; before the first, all.
	Shares []Share
	// Found holds at least the newest two looks at each thing.
	Found []inspect.Found
	// Rests are the times for which it is closed down, as entered.
	Rests []standdown.Rest
	// NoWater says why nothing is known of the water; nil where Waters hold it.
	NoWater error
}

// Share of what falls out stays in the machine, from an instant on.
type Share struct {
	From time.Time
	Of   float64
}

// ShareAt is the share of what falls out that stays in the machine, at an instant; 0 is all.
func (h History) ShareAt(t time.Time) (share float64) {
	for _, s := range h.Shares {
		if !s.From.After(t) {
			share = s.Of
		}
	}
	return share
}

// last is the newest completion of a task, or of one that counts as it, in a part; a zero time
// where none is on record. Where a clock begins, that is its own task's alone.
func (h History) last(id task.ID, part machine.Part, now time.Time, also ...task.ID) (newest Done) {
	for _, d := range h.Done {
		counts := d.Task == id || d.Begun == "" && (d.Task.Counts(id) || slices.Contains(also, d.Task))
		if counts && d.Part == part && d.At.After(newest.At) && !d.At.After(now) {
			newest = d
		}
	}
	return newest
}

// AllDue works out every task of every part of a machine at an instant,
// most pressing first. One whose date cannot be worked out is due now, and says why.
func AllDue(a machine.Answers, h History, now time.Time, zone *time.Location) []Due {
	s := situated(a, h, now, zone)
	var list []Due
	for _, r := range rules {
		for _, d := range r.dues(s) {
			list = append(list, s.hold(s.pull(d)))
		}
	}
	slices.SortStableFunc(list, func(x, y Due) int {
		switch {
		case x.Before(y):
			return -1
		case y.Before(x):
			return 1
		}
		return 0
	})
	return list
}

var rank = map[State]int{Overdue: 0, Unrecorded: 1, Today: 2, Later: 3}

// Then is the wash of another group that comes next after a wash of these,
// where one is due today or before; most pressing first.
func Then(dues []Standing, washed ...int) (Standing, bool) {
	for _, d := range dues {
		if d.Task == task.Wash && !slices.Contains(washed, d.Part.GroupNumber()) && d.State != Later {
			return d, true
		}
	}
	return Standing{}, false
}

// Together are the groups to care for in one go: where a task of a group presses most,
// every group in which it is due today or before; none where it does not.
func Together(dues []Standing) []int {
	if len(dues) == 0 || dues[0].Task.IsOfMachine() || dues[0].State == Later {
		return nil
	}
	var list []int
	for _, d := range dues {
		if d.Task == dues[0].Task && d.State != Later {
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

// OfGroup is what follows a title where a machine has several groups, such as ", group 2"; nothing of the whole machine
// or of its only group.
func OfGroup(part machine.Part, groups int) string {
	if n := part.GroupNumber(); n > 0 && groups > 1 {
		return ", " + Groups([]int{n})
	}
	return ""
}

// Titled is a job by its title, of a part.
type Titled struct {
	Title string
	Part  machine.Part
}

// Titles are the titles of jobs in their order, each once, with its groups where a machine has several.
func Titles(list []Titled, groups int) []string {
	var names []string
	var of [][]int
	for _, x := range list {
		i := slices.Index(names, x.Title)
		if i < 0 {
			i = len(names)
			names, of = append(names, x.Title), append(of, nil)
		}
		if n := x.Part.GroupNumber(); n > 0 && groups > 1 && !slices.Contains(of[i], n) {
			of[i] = append(of[i], n)
		}
	}
	for i := range names {
		if len(of[i]) > 0 {
			slices.Sort(of[i])
			names[i] += ", " + Groups(of[i])
		}
	}
	return names
}

// Rank is how much a state presses, 0 the most.
func (s State) Rank() int { return rank[s] }

// Before puts what presses more first. Of two tasks due alike, the one that stands first in
// the table of tasks.
func (d Due) Before(o Due) bool {
	if rank[d.State] != rank[o.State] {
		return rank[d.State] < rank[o.State]
	}
	if d.State == Later || d.State == Today {
		return d.Likely.Before(o.Likely)
	}
	return d.Task.Rank() < o.Task.Rank()
}

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

	days := reason.Worked{Name: "days to the next " + d.Task.Short(), Unit: "days", Source: reason.Ours,
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
	case d.Likely.Before(use.NextDay(now, zone)):
		d.State = Today
	default:
		d.State = Later
	}
	return d
}

// Gone is the share of the interval that has gone, by the clock that leads.
func (d Due) Gone() float64 { return d.Standing().Gone() }
