package sitting_test

import (
	"testing"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/inspect"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/sitting"
	"freshanvil/core/task"
)

// What stands foremost on a machine: a run under way, then what is unsafe, then what is done together, then the one
// job.
func TestWhatStandsForemost(t *testing.T) {
	now := time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)
	one, two := machine.Group(1), machine.Group(2)
	wash := care.Standing{Task: task.Wash, Part: one, Title: "Detergent wash", State: care.Overdue, Likely: now}
	later := wash
	later.State, later.Likely = care.Later, now.AddDate(0, 0, 9)
	fresh := wash
	fresh.State = care.Unrecorded
	tonight := wash
	tonight.State, tonight.Daily, tonight.Cafe, tonight.Likely = care.Today, true, true, now.Add(7*time.Hour)
	descale := care.Standing{Task: task.Descale, Title: "Descale", State: care.Overdue, Likely: now}
	filter := care.Standing{Task: task.FilterChange, Title: "Change the filter", State: care.Overdue,
		Likely: now}
	brush := care.Standing{Task: task.BrushHead, Title: "A new brush head", State: care.Overdue, Likely: now}
	probe := care.Standing{Task: task.Probe, Title: "Clean the level probe",
		State: care.Overdue, Likely: now}
	back := care.Standing{Task: task.Return, Title: "Bring it back into use", State: care.Later,
		Likely: now.AddDate(0, 0, 5)}
	several := sitting.Sitting{Members: []sitting.Member{
		{Item: sitting.Item{Task: task.FilterChange, Title: "Change the filter"}},
		{Item: sitting.Item{Task: task.Wash, Part: one, Title: "Detergent wash"}},
	}, Minutes: 34}
	tests := []struct {
		name   string
		at     sitting.At
		begin  sitting.Begin
		head   string
		button string
	}{
		{"nothing known", sitting.At{}, sitting.Nothing, "Nothing to do", ""},
		{"later", sitting.At{Jobs: []care.Standing{later}}, sitting.Nothing, "Nothing to do", ""},
		{"a wash", sitting.At{Jobs: []care.Standing{wash}}, sitting.BeginRun, "Detergent wash", "Start the wash"},
		{"the first wash", sitting.At{Jobs: []care.Standing{fresh}}, sitting.BeginRun, "Detergent wash",
			"Start the first wash"},
		{"both groups tonight", sitting.At{Jobs: []care.Standing{tonight}, Groups: 2, Together: []int{1, 2}},
			sitting.BeginRun, "Close tonight: wash, groups 1 and 2", "Start the wash, groups 1 and 2"},
		{"a descale", sitting.At{Jobs: []care.Standing{descale}}, sitting.BeginCard, "Descale", "See the descale card"},
		{"a filter", sitting.At{Jobs: []care.Standing{filter}}, sitting.BeginRun, "Change the filter", "Lead me"},
		{"by hand", sitting.At{Jobs: []care.Standing{brush}}, sitting.Record, "A new brush head", ""},
		{"for the entitled", sitting.At{Jobs: []care.Standing{probe}}, sitting.BeginNamed, "Clean the level probe",
			"Lead a technician"},
		{"together", sitting.At{Jobs: []care.Standing{filter, wash}, Sitting: &several}, sitting.BeginSheet,
			several.Head(), "See the work sheet"},
		{"laid up", sitting.At{Jobs: []care.Standing{back}}, sitting.Nothing, "Laid up", ""},
		{"a run", sitting.At{Jobs: []care.Standing{wash}, Open: &sitting.Open{Title: "Detergent wash", Where: "group 1"},
			In: job.Contents{Detergent: []machine.Part{one}}}, sitting.GoOn, "Detergent wash under way",
			"Go back to the run"},
		{"a sitting", sitting.At{Jobs: []care.Standing{wash}, Open: &sitting.Open{Title: "One sitting: a, b",
			Where: "group 1", Tasks: []string{"Change the filter", "Detergent wash"}}}, sitting.GoOn,
			"A sitting is under way", "Go back to the run"},
		{"a run that cannot be read", sitting.At{Jobs: []care.Standing{wash}, Open: &sitting.Open{Title: "A run",
			Unreadable: true}}, sitting.VoidIt, "A run", ""},
		{"acid before detergent and pressure", sitting.At{Jobs: []care.Standing{wash}, In: job.Contents{
			Acid: []machine.Part{machine.Only(machine.Whole)}, Blind: map[machine.Part]int{two: 1}}}, sitting.BeginRun,
			"Rinse the acid out", "Start the rinse"},
		{"pressure before detergent", sitting.At{Jobs: []care.Standing{wash}, In: job.Contents{
			Detergent: []machine.Part{one}, Blind: map[machine.Part]int{two: 1}}}, sitting.BeginRun, "Free group 2",
			"Free group 2"},
		{"detergent", sitting.At{Jobs: []care.Standing{filter}, Sitting: &several, In: job.Contents{
			Detergent: []machine.Part{one, two}}}, sitting.BeginRun, "Rinse the detergent out", "Start the rinse"},
		{"a rescue before all but a run", sitting.At{Jobs: []care.Standing{wash}, In: job.Contents{
			Acid: []machine.Part{machine.Only(machine.Whole)}}, Rescue: &reason.Finding{Verdict: reason.Stop,
			Title: "Call a technician"}}, sitting.SeeIt, "Call a technician", "See the machine"},
		{"switched off", sitting.At{Jobs: []care.Standing{wash}, In: job.Contents{Stopped: []inspect.Found{{}}},
			Rescue: &reason.Finding{Verdict: reason.Stop, Title: "Switched off"}}, sitting.SeeIt, "Switched off",
			"See the machine"},
	}
	for _, x := range tests {
		t.Run(x.name, func(t *testing.T) {
			f := sitting.FrontOf(x.at, now)
			if f.Begin != x.begin || f.Head != x.head || f.Button != x.button {
				t.Errorf("%s %q %q, want %s %q %q", f.Begin, f.Head, f.Button, x.begin, x.head, x.button)
			}
			begins := f.Begin == sitting.BeginRun || f.Begin == sitting.BeginNamed
			if begins != (f.Task != "" && len(f.Parts) > 0) {
				t.Errorf("begins %v: task %q, parts %v", begins, f.Task, f.Parts)
			}
			if f.Pulses != (f.Head == "Rinse the detergent out") {
				t.Errorf("pulses: %v", f.Pulses)
			}
			if f.Button != "" && f.Short == "" {
				t.Error("no short word for a list")
			}
			if x.at.In.Holds() != "" && x.at.Open == nil && !f.Unsafe {
				t.Error("what is in the machine does not stand out")
			}
		})
	}
}

// Of what is left in, the parts that a rinse is for are those that hold it, not those whose wash is due.
func TestARinseIsOfWhatHoldsIt(t *testing.T) {
	two := machine.Group(2)
	f := sitting.FrontOf(sitting.At{Groups: 2, Together: []int{1}, In: job.Contents{Detergent: []machine.Part{two}}},
		time.Now())
	if len(f.Parts) != 1 || f.Parts[0] != two {
		t.Errorf("parts %v", f.Parts)
	}
}
