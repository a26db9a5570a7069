package care

import (
	"slices"
	"strings"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/use"
)

// Closing is what is done to a machine tonight, in the order of the work.
type Closing struct {
	// Jobs are those of tonight: what is still to do first, in order, then what is done.
	Jobs []Close
	// AfterDrink is the water backflush that belongs to each drink, where that is kept; nil where not.
	AfterDrink *Chore
	// Morning are the titles of what is due and is done cold: next morning, before it is switched on.
	Morning []string
	// Nights are those before, the newest first.
	Nights []Night
	// Every is what closes each day, tonight or not.
	Every []Close
	// Pulses says that its groups may be backflushed at all, so that what may go wrong with that can.
	Pulses bool
}

// Close is one job of the night.
type Close struct {
	Task    task.ID
	Title   string
	How     string
	Because reason.Reason
	Leads   backflush.MethodID // of a run that leads a water backflush; empty for others
	Due     bool               // a job of its own date that has come
	Done    time.Time          // tonight; zero where it is still to do
	By      string             // who did it; empty where nobody said
	Line    string             // of the log, by which it can be taken back
}

// Did is one job as it was done at an instant.
type Did struct {
	ID   string // of its line in the log
	Task task.ID
	At   time.Time
	By   string
}

// NightState is what became of a night.
type NightState string

// A night with every job of each day done, with some, with none; with no drink made there is nothing to do.
const (
	ClosedNight NightState = "closed"
	PartNight   NightState = "part"
	OpenNight   NightState = "nobody"
	IdleNight   NightState = "idle"
)

// Night is one of the nights before.
type Night struct {
	Day     time.Time // when the machine's day began
	State   NightState
	Missing []string // titles of what was not done
	By      []string
}

// nightsBack is how many nights are looked back at (our own engineering choice).
const nightsBack = 14

// closeOrder is the order of the work at the end of a day (common practice: the wand while there is
// pressure, the groups while they are hot, what is soaked then, the tray when nothing runs into it any
// more).
var closeOrder = []task.ID{task.Wand, task.Tip, task.Wash, task.WaterBackflush, task.Brush, task.Soak, task.Tray,
	task.Waste, task.TankWater, task.Tank}

// ClosingSince is from when on a closing needs what was done.
func ClosingSince(now time.Time, zone *time.Location) time.Time {
	return use.Day(now, zone).AddDate(0, 0, -nightsBack)
}

// Closes are the tasks of a closing.
func Closes() []task.ID { return slices.Clone(closeOrder) }

// Tonight are the tasks of tonight's close of what stands, and when it is begun: about when the last drink is made.
// There is none where no job of each day is left.
func Tonight(list []Standing, now time.Time) (due []task.ID, begin time.Time) {
	jobs, small := Split(list)
	daily := slices.IndexFunc(jobs, func(x Standing) bool { return x.Daily && x.State == Today })
	if daily < 0 {
		return nil, now
	}
	for _, x := range append(jobs, small...) {
		tonight := x.Task == jobs[daily].Task || x.State != Later || x.Task.Row().Way == task.Small
		if tonight && slices.Contains(closeOrder, x.Task) && !slices.Contains(due, x.Task) {
			due = append(due, x.Task)
		}
	}
	if begin = now; jobs[daily].Likely.After(now) {
		begin = jobs[daily].Likely
	}
	return due, begin
}

// ClosingOf works out tonight's jobs of a machine from what is due, and what was done of them since
// ClosingSince.
func ClosingOf(a machine.Answers, h History, dues []Standing, did []Did, now time.Time, zone *time.Location) Closing {
	f := a.Facts()
	var c Closing
	jobs := c.daily(a, f, h, did, now, zone)
	for _, d := range dues {
		if d.closes(jobs) && (d.State != Later || done(did, d.Task, now, zone)) {
			jobs = append(jobs, Close{Task: d.Task, Title: d.Task.Title(), How: d.Task.Row().How, Due: true,
				Because: reason.Reason{Text: d.Why, Source: reason.Ours}})
		}
	}
	jobs = apart(jobs)
	for i := range jobs {
		for _, x := range did {
			if x.Task.Counts(jobs[i].Task) && !x.At.Before(use.Day(now, zone)) && x.At.After(jobs[i].Done) && !x.At.After(now) {
				jobs[i].Done, jobs[i].By, jobs[i].Line = x.At, x.By, ""
				if x.Task == jobs[i].Task {
					jobs[i].Line = x.ID
				}
			}
		}
	}
	slices.SortStableFunc(jobs, func(x, y Close) int {
		if x.Done.IsZero() != y.Done.IsZero() {
			if x.Done.IsZero() {
				return -1
			}
			return 1
		}
		return slices.Index(closeOrder, x.Task) - slices.Index(closeOrder, y.Task)
	})
	c.Jobs = jobs
	c.Morning = mornings(dues)
	c.Nights = nights(a, f, h, did, now, zone)
	c.Every = EveryNight(a, dues)
	c.Pulses = backflush.Gate(f).Verdict != reason.Refused
	return c
}

// apart leaves out what another job includes: it is no job of its own.
func apart(jobs []Close) []Close {
	all := slices.Clone(jobs)
	return slices.DeleteFunc(jobs, func(j Close) bool {
		return slices.ContainsFunc(all, func(x Close) bool { return x.Task != j.Task && x.Task.Counts(j.Task) })
	})
}

// EveryNight is what closes each of a machine's days in the order of the work, whatever is due tonight: for a card that
// hangs on a wall for weeks.
func EveryNight(a machine.Answers, dues []Standing) []Close {
	f := a.Facts()
	var jobs []Close
	for _, x := range choresOf(a, f) {
		if x.Title = x.Task.Title(); x.Leads != "" && f.WaterOnly == afterEach {
			continue // it belongs to each drink
		}
		jobs = append(jobs, Close{Task: x.Task, Title: x.OnPaper(), How: x.How, Because: x.Because, Leads: x.Leads})
	}
	for _, d := range dues {
		if d.Daily && !d.NoDate && d.closes(jobs) {
			jobs = append(jobs, Close{Task: d.Task, Title: d.Task.Title(), How: d.Task.Row().How,
				Because: reason.Reason{Text: d.Why, Source: reason.Ours}})
		}
	}
	jobs = apart(jobs)
	slices.SortStableFunc(jobs, func(x, y Close) int {
		return slices.Index(closeOrder, x.Task) - slices.Index(closeOrder, y.Task)
	})
	return jobs
}

// EachDay names what each of a machine's days asks for, on a tag: the small jobs in their order, and then what follows
// the last drink.
func EachDay(a machine.Answers, dues []Standing) []string {
	var titles []string
	for _, x := range Routine(a) {
		titles = append(titles, x.OnPaper())
	}
	for _, d := range dues {
		if title := d.Title + " after the last drink"; d.Daily && !d.NoDate && !slices.Contains(titles, title) {
			titles = append(titles, title)
		}
	}
	return titles
}

// mornings are the titles of what is due and opened cold, each once.
func mornings(dues []Standing) (titles []string) {
	for _, d := range dues {
		row := d.Task.Row()
		if d.State != Later && slices.Contains(row.Needs, task.Cold) && row.Whose == task.Anybodys && !d.Workshop &&
			row.Way == task.Led && !slices.Contains(titles, d.Title) {
			titles = append(titles, d.Title)
		}
	}
	return titles
}

// daily are the small jobs of tonight; what belongs to each drink is kept apart.
func (c *Closing) daily(a machine.Answers, f machine.Facts, h History, did []Did, now time.Time, zone *time.Location,
) (jobs []Close) {
	for _, x := range choresOf(a, f) {
		if x.Leads != "" && f.WaterOnly == afterEach {
			chore := x
			chore.Title = x.Task.Title()
			c.AfterDrink = &chore
			continue
		}
		if last := h.lastChore(x.Task, now); !last.IsZero() && use.Day(last, zone).AddDate(0, 0, x.Every).After(now) &&
			!done(did, x.Task, now, zone) {
			continue // of every few days, and not tonight
		}
		jobs = append(jobs, Close{Task: x.Task, Title: x.Task.Title(), How: x.How, Because: x.Because, Leads: x.Leads})
	}
	return jobs
}

// closes says whether a task belongs to a closing, and stands there only once.
func (s Standing) closes(jobs []Close) bool {
	return slices.Contains(closeOrder, s.Task) && s.Task.Row().Way != task.Small &&
		!slices.ContainsFunc(jobs, func(j Close) bool { return j.Task == s.Task })
}

// afterEach is the answer by which a water backflush belongs to each drink.
const afterEach = "after each drink"

func done(did []Did, id task.ID, now time.Time, zone *time.Location) bool {
	return slices.ContainsFunc(did, func(x Did) bool {
		return x.Task.Counts(id) && !x.At.Before(use.Day(now, zone)) && !x.At.After(now)
	})
}

// nightOf is a night by what was done in it: by whom, and what of its daily jobs is missing.
func nightOf(day time.Time, did []Did, daily []task.ID) Night {
	n := Night{Day: day, State: ClosedNight}
	for _, x := range did {
		if by := strings.TrimSpace(x.By); by != "" && !slices.Contains(n.By, by) {
			n.By = append(n.By, by)
		}
	}
	for _, id := range daily {
		if !slices.ContainsFunc(did, func(x Did) bool { return x.Task.Counts(id) }) {
			n.Missing = append(n.Missing, id.Title())
		}
	}
	return n
}

// nights looks back at the nights before tonight: what of each day's jobs was done. It counts nobody's
// score; a night on which no drink was made asks for nothing.
func nights(a machine.Answers, f machine.Facts, h History, did []Did, now time.Time, zone *time.Location) []Night {
	var daily []task.ID
	for _, x := range choresOf(a, f) {
		if x.Every == 1 && (x.Leads == "" || f.WaterOnly != afterEach) {
			daily = append(daily, x.Task)
		}
	}
	h.Log = h.Counted(now, zone)
	var list []Night
	for day := use.Day(now, zone); len(list) < nightsBack; {
		next := day
		day = time.Date(next.In(zone).Year(), next.In(zone).Month(), next.In(zone).Day()-1, use.DayTurns, 0, 0, 0, zone)
		tonight := slices.DeleteFunc(slices.Clone(did), func(x Did) bool {
			return x.At.Before(day) || !x.At.Before(next)
		})
		n := nightOf(day, tonight, daily)
		switch {
		case len(n.Missing) == 0:
		case len(tonight) > 0:
			n.State = PartNight
		case h.Gone(day) || h.Habit.On(day, 0, f.Groups, zone) == 0:
			n.State, n.Missing = IdleNight, nil
		default:
			n.State = OpenNight
		}
		list = append(list, n)
	}
	return list
}
