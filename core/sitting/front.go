package sitting

import (
	"slices"
	"strings"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
)

// Begin is how what stands foremost on a machine is begun.
type Begin string

// The ways of beginning.
const (
	Nothing    Begin = "nothing" // there is nothing to begin
	SeeIt      Begin = "see"     // what is to be known first stands on the machine's page
	VoidIt     Begin = "void"    // a run whose plan cannot be read is ended by name
	GoOn       Begin = "go_on"   // a run is under way
	BeginRun   Begin = "run"     // a run of Task, on Parts
	BeginNamed Begin = "named"   // the same, once somebody has said by name to be entitled to it
	BeginSheet Begin = "sheet"   // the work sheet of what is done together
	BeginOrder Begin = "order"   // the order of several runs
	BeginCard  Begin = "card"    // the descale card
	Record     Begin = "record"  // it is done by hand, and put on record
)

// Open is a run under way, or one whose plan cannot be read.
type Open struct {
	Title, Where string
	Tasks        []string // of a sitting, in their order
	Unreadable   bool
}

// At is how a machine stands: what is in it, what goes on, and what is due.
type At struct {
	Groups   int
	In       job.Contents
	Rescue   *reason.Finding // what is in it and is not led out of it
	Open     *Open
	Jobs     []care.Standing // most pressing first, without the small ones of the day
	Together []int           // the groups that the first of them is for
	Sitting  *Sitting        // what is done together now
}

// Front is what stands foremost on a machine: the one thing to do with it, in words, and how it is begun.
type Front struct {
	Begin  Begin
	Head   string   // what to do, or what is so
	Name   string   // the same among many: the next task by its name, also where it is not for now
	Says   []string // what to know before, a sentence each
	Button string   // empty where nothing is begun from here
	Short  string   // the same among many
	Task   task.ID
	Parts  []machine.Part
	Press  bool // it stands out
	Pulses bool // it rinses by pulses of water: what they take stands with the wash
	Unsafe bool // something in the machine is to be seen to before anything else
}

// FrontOf is what stands foremost: a run under way, what is unsafe, what is done together, the one job.
func FrontOf(at At, now time.Time) Front {
	f, danger := at.danger()
	if !danger {
		f = at.due(now)
	}
	if f.Name == "" {
		f.Name = f.Head
	}
	return f
}

// danger is what comes before any care.
func (at At) danger() (Front, bool) {
	whole := machine.Only(machine.Whole)
	blind := at.blind()
	f := Front{Begin: BeginRun, Press: true, Unsafe: true}
	switch {
	case at.Open != nil && at.Open.Unreadable:
		f.Begin, f.Head = VoidIt, at.Open.Title
		f.Says = []string{"Its plan cannot be read any more. End it by name; what is in the machine stays on record."}
	case at.Open != nil:
		f.Begin, f.Head, f.Button, f.Short = GoOn, at.Open.Title+" under way", "Go back to the run", "go back"
		f.Unsafe = at.In.Any()
		f.Says = []string{"In " + at.Open.Where + "." + at.inside()}
		if list := at.Open.Tasks; len(list) > 1 {
			f.Head = "A sitting is under way"
			f.Says = []string{list[0] + ", " + strings.ToLower(strings.Join(list[1:], ", ")) + "." + at.inside()}
		}
	case at.Rescue != nil:
		f.Begin, f.Head, f.Button, f.Short = SeeIt, at.Rescue.Title, "See the machine", "see it"
		for _, r := range at.Rescue.Because {
			f.Says = append(f.Says, r.Text)
		}
		f.Says = append(f.Says, at.Rescue.Next...)
	case len(at.In.Acid) > 0:
		f.Head, f.Button, f.Short = "Rinse the acid out", "Start the rinse", "rinse"
		f.Task, f.Parts = task.Descale, []machine.Part{whole}
		f.Says = []string{"Acid was left in.", "No drinks before the strip matches the water that goes in.",
			"Heater off, an outlet open."}
	case len(blind) > 0:
		where := care.Groups([]int{blind[0].GroupNumber()})
		f.Head, f.Button, f.Short = "Free "+where, "Free "+where, "free it"
		f.Task, f.Parts = task.Unblock, blind[:1]
		f.Says = []string{at.In.Pressed() + ".", "Leave the handle where it is. It is freed cold, step by step."}
	case len(at.In.Detergent) > 0:
		f.Head, f.Button, f.Short = "Rinse the detergent out", "Start the rinse", "rinse"
		f.Task, f.Parts, f.Pulses = task.Wash, at.In.Detergent, true
		f.Says = []string{"Detergent was left in " + at.In.Names() + ".", "No drinks before it is rinsed."}
	default:
		return Front{}, false
	}
	return f, true
}

// inside is what the run under way must not leave in.
func (at At) inside() string {
	switch {
	case len(at.In.Acid) > 0:
		return " Acid is in: finish the rinse."
	case len(at.In.Detergent) > 0:
		return " Detergent is in: finish the rinse."
	}
	return ""
}

// blind are the groups that may be under pressure, in their order.
func (at At) blind() (list []machine.Part) {
	for part := range at.In.Blind {
		list = append(list, part)
	}
	slices.SortFunc(list, machine.Part.Compare)
	return list
}

// due is the care that comes next.
func (at At) due(now time.Time) Front {
	if len(at.Jobs) == 0 {
		return Front{Begin: Nothing, Head: "Nothing to do"}
	}
	next := at.Jobs[0]
	f := Front{Begin: Nothing, Head: next.Head(at.Groups, at.Together...), Press: next.Now(now)}
	laidUp := slices.ContainsFunc(at.Jobs, func(s care.Standing) bool { return s.Task == task.Return })
	if laidUp {
		f.Says = []string{"Do not switch it on: its water is shut off, or its tank is empty."}
	}
	switch {
	case next.State == care.Later && laidUp:
		f.Head = "Laid up"
	case next.State == care.Later:
		f.Name = next.Title
	case at.Sitting != nil:
		f.Head, f.Name = at.Sitting.Head(), ""
		if at.Sitting.Runs() > 0 {
			f.Begin, f.Button, f.Short = BeginSheet, "See the work sheet", "work sheet"
			if at.Sitting.Apart() {
				f.Begin = BeginOrder
			}
			return f
		}
		f.begin(next, at)
	default:
		f.begin(next, at)
	}
	return f
}

// begin is how one task is begun.
func (f *Front) begin(next care.Standing, at At) {
	row := next.Task.Row()
	f.Parts = []machine.Part{next.Part}
	if len(at.Together) > 0 {
		f.Parts = nil
		for _, g := range at.Together {
			f.Parts = append(f.Parts, machine.Group(g))
		}
	}
	f.Task = next.Task
	switch {
	case row.Doses:
		f.Begin, f.Button, f.Short = BeginRun, "Start the wash", "wash"
		if next.State == care.Unrecorded {
			f.Button = "Start the first wash"
		} else if len(at.Together) > 1 {
			f.Button += ", " + care.Groups(at.Together)
		}
	case row.Way == task.Planned:
		f.Begin, f.Button, f.Short = BeginCard, "See the descale card", "its card"
	case row.Way == task.Led && row.Whose == task.Entitled:
		f.Begin, f.Button, f.Short = BeginNamed, "Lead a technician", "see it"
	case row.Way == task.Led:
		f.Begin, f.Button, f.Short = BeginRun, "Lead me", "lead me"
	default:
		f.Begin, f.Button, f.Short = Record, "", ""
	}
	if f.Begin != BeginRun && f.Begin != BeginNamed {
		f.Task, f.Parts = "", nil
	}
}

// NowOf is what is done together now, of the jobs of a machine; nil where that is one task, or none.
func NowOf(jobs []care.Standing, placed []care.Placing, now time.Time) *Sitting {
	if len(jobs) == 0 || !jobs[0].Now(now) {
		return nil
	}
	list := Together(ItemsOf(jobs, now, placed...))
	if len(list) == 0 || !list[0].Now() || list[0].Tasks() < 2 {
		return nil
	}
	return &list[0]
}
