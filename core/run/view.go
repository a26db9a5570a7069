package run

import (
	"fmt"
	"sort"
	"time"

	"freshanvil/core/job"
)

// Patience is the run time that a run may stand still with detergent in the
// group before it nags (our own engineering choice).
const Patience = time.Minute

// view is the state as it is at now.
func (f *fold) view() State {
	s := f.state
	s.Step = f.step()
	for _, g := range f.groups {
		s.Groups = append(s.Groups, g.Group)
		s.Groups[len(s.Groups)-1].Ended = f.done(f.activityOf(g))
		if g.Part == s.Step.Part {
			s.Group = s.Groups[len(s.Groups)-1]
		}
	}
	s.Activities = f.activities()
	s.Stock = *f.stock()
	s.Soaks = f.soaks()
	s.Ran = f.warmth(f.now)
	if f.mode == On {
		s.Ran = f.pumpHere().duty.Ran(f.warmth(f.since), f.now.Sub(f.since)*f.speed)
	}
	f.describe(&s)
	s.Cut, s.Absence = f.cut, f.absence
	for _, m := range absences {
		if !f.over {
			s.Absences = append(s.Absences, f.leave(m))
		}
	}
	s.EmptyTray = f.needsTray() && s.Tray != (Water{})
	s.FillTank = f.needsTank() && s.Drawn != (Water{})
	s.Segment = Segment{Index: f.segment, Kind: f.mode, Start: f.since}
	s.Schedule = f.present.schedule(&s.Segment)
	s.Allowed = f.allowed()
	s.LikelyEnd = f.likelyEnd()
	s.Lines = f.lines()
	return s
}

// activityOf is the id of the activity that washes a group.
func (f *fold) activityOf(g *group) string {
	for _, a := range f.plan.Washes() {
		if a.Part == g.Part {
			return a.ID
		}
	}
	return ""
}

// allowed is what may be pressed: what the kind of the step allows, and what every
// step does.
func (f *fold) allowed() []PressKind {
	switch {
	case f.over:
		return nil
	case f.cut:
		return []PressKind{Back, Stop}
	case f.absence != nil:
		return []PressKind{Returned, Stop}
	}
	list := f.present.allowed()
	if f.stoppable() {
		list = append(list, Stop)
	}
	if f.acid != nil {
		list = append(list, Cut)
	}
	if f.mayRinseNow() {
		list = append(list, RinseNow)
	}
	return append(list, Away)
}

// soaks are those that run beside the present step, the first to end first.
func (f *fold) soaks() []Beside {
	var list []Beside
	for j, s := range f.steps {
		soak, ok := job.BodyOf[job.Soak](s)
		if f.over || j <= f.i || !ok {
			continue
		}
		if began := f.begins(s); !began.IsZero() {
			list = append(list, Beside{s, began, began.Add(f.wall(soak.For))})
		}
	}
	sort.SliceStable(list, func(a, b int) bool { return list[a].End.Before(list[b].End) })
	return list
}

func (f *fold) lines() []Line {
	list := make([]Line, len(f.steps))
	for i, s := range f.steps {
		l := Line{ID: s.ID, Title: s.Title, Part: s.Part, Status: "ahead"}
		switch {
		case i < f.i || f.state.Outcome == Finished:
			l.Status = "gone"
		case i == f.i:
			l.Status = "now"
		case job.Is[job.Soak](s) && !f.begins(s).IsZero():
			l.Status = "beside"
		}
		if b, ok := job.BodyOf[job.Pulses](s); ok {
			l.Note = fmt.Sprint(b.Count)
			if i > f.i && s.Effect == job.Rinses {
				l.Note += ", then look"
			}
		}
		if i == f.i {
			if note := f.present.note(); note != "" {
				l.Note = note
			}
		}
		list[i] = l
	}
	return list
}
