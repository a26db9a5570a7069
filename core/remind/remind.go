// Package remind decides what is said, and when, to somebody who does not look at the pages: each job once when it
// falls due and once when it is overdue, not in the quiet hours, and by mail once a day at most (our own engineering
// choices: a reminder that comes often is not read). It sends nothing.
package remind

import (
	"fmt"
	"strings"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/machine"
	"freshanvil/core/task"
	"freshanvil/core/units"
)

// Stage is how far a job has come.
type Stage string

// The stages that are told of, in their order.
const (
	Due     Stage = "due"
	Overdue Stage = "overdue"
)

// Job is one time that a task of a part comes round at a machine, as it stands now.
type Job struct {
	Key     string // names this time of it, and no other
	Machine string // its id
	Task    task.ID
	Part    machine.Part
	Title   string // with its group, where there are several
	Stage   Stage
	When    string // in one sentence
}

// StageOf is what is told of a standing; false for one that is not due, is done every day anyway, or has no date.
func StageOf(s care.Standing) (Stage, bool) {
	row := s.Task.Row()
	if s.Daily || row.Way == task.Small || s.NoDate || row.Rests && s.Task != task.Return {
		return "", false
	}
	switch s.State {
	case care.Overdue:
		return Overdue, true
	case care.Today, care.Unrecorded:
		return Due, true
	}
	return "", false
}

// News are the jobs of which something is to be told that was not: told has by key the stage that was told last.
func News(jobs []Job, told map[string]Stage) []Job {
	var list []Job
	for _, j := range jobs {
		if last, before := told[j.Key]; !before || last == Due && j.Stage == Overdue {
			list = append(list, j)
		}
	}
	return list
}

// Hours are the quiet ones of a day, by a clock on the wall; from 22:00 to 07:00 they pass midnight. The zero value is
// none.
type Hours struct{ From, To time.Duration }

// ParseHours reads two times of a day, such as 22:00 and 07:00; both empty for no quiet hours. The error is a
// *units.OutOfRange of the field.
func ParseHours(from, to string) (Hours, error) {
	if from == "" && to == "" {
		return Hours{}, nil
	}
	var h Hours
	for _, x := range []struct {
		field, text string
		into        *time.Duration
	}{{"quiet_from", from, &h.From}, {"quiet_to", to, &h.To}} {
		at, err := time.Parse("15:04", x.text)
		if err != nil {
			return h, &units.OutOfRange{Field: x.field, Value: x.text,
				Allowed: "a time of the day, such as 22:00, or both empty"}
		}
		*x.into = time.Duration(at.Hour())*time.Hour + time.Duration(at.Minute())*time.Minute
	}
	return h, nil
}

// Quiet says whether an instant lies in the quiet hours there.
func (h Hours) Quiet(at time.Time, zone *time.Location) bool {
	l := at.In(zone)
	now := time.Duration(l.Hour())*time.Hour + time.Duration(l.Minute())*time.Minute
	if h.From <= h.To {
		return now >= h.From && now < h.To
	}
	return now >= h.From || now < h.To
}

// SameDay says whether two instants are of one day there; never with a zero one.
func SameDay(a, b time.Time, zone *time.Location) bool {
	return !a.IsZero() && !b.IsZero() && a.In(zone).Format(time.DateOnly) == b.In(zone).Format(time.DateOnly)
}

// Again is how long to wait before what could not be sent is tried again: longer each time, half a day at most.
func Again(failures int) time.Duration {
	wait := 15 * time.Minute
	for range failures - 1 {
		if wait *= 3; wait > 12*time.Hour {
			return 12 * time.Hour
		}
	}
	return wait
}

// Subject is a reminder in one line.
func Subject(jobs []Job) string {
	late := 0
	for _, j := range jobs {
		if j.Stage == Overdue {
			late++
		}
	}
	switch {
	case len(jobs) == 1 && late == 1:
		return jobs[0].Title + " is overdue"
	case len(jobs) == 1:
		return jobs[0].Title + " is due"
	case late == 0:
		return fmt.Sprintf("%d jobs are due", len(jobs))
	case late == len(jobs):
		return fmt.Sprintf("%d jobs are overdue", len(jobs))
	}
	return fmt.Sprintf("%d jobs are due, %d of them overdue", len(jobs), late)
}

// Text is a reminder in plain text: each machine by its name, with its jobs; names names a machine.
func Text(jobs []Job, names func(id string) string, address string) string {
	var out strings.Builder
	var order []string
	of := map[string][]Job{}
	for _, j := range jobs {
		if len(of[j.Machine]) == 0 {
			order = append(order, j.Machine)
		}
		of[j.Machine] = append(of[j.Machine], j)
	}
	for _, id := range order {
		fmt.Fprintf(&out, "%s\n", names(id))
		for _, j := range of[id] {
			text := j.When
			if j.Stage == Overdue && !strings.HasPrefix(text, "Overdue") {
				text = "Overdue. " + text
			}
			fmt.Fprintf(&out, "  %s. %s\n", j.Title, text)
		}
		if address != "" {
			fmt.Fprintf(&out, "  %s/machines/%s\n", address, id)
		}
		out.WriteString("\n")
	}
	out.WriteString("Each job is told of once when it falls due and once when it is overdue.\n")
	return out.String()
}
