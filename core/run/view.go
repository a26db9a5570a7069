package run

import (
	"fmt"
	"sort"
	"time"

	"freshanvil/core/job"
	"freshanvil/core/units"
)

// Patience is the run time that a run may stand still with detergent in the
// group before it nags (our own engineering choice).
const Patience = time.Minute

// fullTray is the share of the tray that is used before it is emptied.
const fullTray = 0.8

// needsTray says whether the water of the present step would fill the tray
// beyond what is safe to carry.
func (f *fold) needsTray() bool {
	ahead := f.ahead()
	if f.plan.Tray == 0 {
		return false
	}
	return ahead > 0 && f.state.Tray.Volume(f.plan.Vents)+ahead > units.Volume(fullTray*float64(f.plan.Tray))
}

// tray: where it had to be emptied, or the tank filled, the press says that it
// was.
func (f *fold) tray() {
	if f.needsTray() {
		f.state.Tray = Water{}
	}
	if f.needsTank() {
		f.state.Drawn = Water{}
	}
}

// spare is the share of the tank that is left in it: a pump must not draw air.
const spare = 0.1

// needsTank says whether the water of the present step would draw the tank down
// to what must stay in it.
func (f *fold) needsTank() bool {
	ahead := f.ahead()
	return f.plan.Tank > 0 && ahead > 0 &&
		f.state.Drawn.Volume(f.plan.Vents)+ahead > units.Volume((1-spare)*float64(f.plan.Tank))
}

// ahead is the water of the present step that is still to come; 0 while it runs.
func (f *fold) ahead() units.Volume {
	if f.over || f.mode == On || f.mode == Off || f.mode == Soak || f.mode == Rest {
		return 0
	}
	s := f.step()
	ahead := s.Water
	if s.Pulses != nil {
		ahead += units.Volume(s.Pulses.Count-f.pulse) * f.plan.Vents
	}
	return ahead
}

func (f *fold) view() State {
	f.chemistry()
	s := f.state
	s.Step = f.step()
	s.Group = f.at().Group
	for _, g := range f.groups {
		s.Groups = append(s.Groups, g.Group)
	}
	s.Soaks = f.soaks()
	s.Ran = f.warmth(f.now)
	if f.mode == On {
		s.Ran = f.plan.Duty.Ran(f.warmth(f.since), f.now.Sub(f.since)*f.speed)
	}
	f.shown(&s)
	s.EmptyTray = f.needsTray() && s.Tray != (Water{})
	s.FillTank = f.needsTank() && s.Drawn != (Water{})
	s.Segment = Segment{Index: f.segment, Kind: f.mode, Start: f.since}
	if s.Step.Pulses != nil && !f.over {
		s.Segment.Pulse = f.pulse + 1
	}
	s.Schedule = f.schedule(&s.Segment)
	s.Allowed = f.allowed()
	s.Lines = f.lines()
	return s
}

// schedule lists the segments from the present one to the end of the step.
func (f *fold) schedule(present *Segment) []Segment {
	if f.mode == Soak || f.mode == Rest {
		present.End = f.ends()
	}
	if f.own && f.mode == Off {
		present.Start = f.turned
	}
	if f.pushes() {
		return f.pushing(present)
	}
	if f.own || f.mode != On && f.mode != Off && f.mode != Rest {
		return []Segment{*present}
	}
	duty, pulses := f.plan.Duty, f.step().Pulses
	next := Segment{Index: f.segment, Kind: f.mode, Pulse: f.pulse + 1, Start: f.since}
	warm := f.warmth(f.since)
	if f.mode == Off { // the on part of this pulse is in it already
		next.Start, warm = f.since.Add(f.on()), f.warm
	}
	var list []Segment
	for next.Pulse <= pulses.Count {
		kind, pulse, long := On, next.Pulse, pulses.Off
		switch next.Kind {
		case Rest:
			long = duty.Rest(warm, pulses.On)
			warm = duty.Cooled(warm, long)
		case On:
			kind, long = Off, pulses.On
			warm = duty.Ran(warm, long)
		case Off:
			pulse++
			warm = duty.Cooled(warm, long)
			if duty.Rest(warm, pulses.On) > 0 {
				kind = Rest
			}
		}
		next.End = next.Start.Add(long / f.speed)
		list = append(list, next)
		next = Segment{Index: next.Index + 1, Kind: kind, Pulse: pulse, Start: next.End}
	}
	*present = list[0]
	return list
}

func (f *fold) allowed() []PressKind {
	if f.over {
		return nil
	}
	var list []PressKind
	if f.acid.cut {
		return []PressKind{Back, Stop}
	}
	switch s := f.step(); {
	case s.Kind == job.Act, f.mode == Soak && s.Early:
		list = []PressKind{Done}
	case s.Kind == job.Grade:
		list = []PressKind{Graded}
	case s.Kind == job.Choose:
		list = []PressKind{Heard}
	case f.mode == Soak:
	case s.Kind == job.Look && f.mode == Held:
		list = []PressKind{Again}
	case s.Kind == job.Look && s.Reads != "":
		list = []PressKind{Measured}
	case s.Kind == job.Look:
		list = []PressKind{Reading}
	case f.own && (f.mode == On || f.mode == Off):
		list = []PressKind{Turn, Hold, NoPressure}
	case f.mode == On || f.mode == Off || f.mode == Rest:
		list = []PressKind{Hold, NoPressure}
	default:
		list = []PressKind{Begin}
	}
	if f.stoppable() {
		list = append(list, Stop)
	}
	if f.plan.Acid != nil {
		list = append(list, Cut)
	}
	return list
}

// soaks are those that run beside the present step, the first to end first.
func (f *fold) soaks() []Beside {
	var list []Beside
	for j, s := range f.steps {
		if f.over || j <= f.i || !s.AtOnce {
			continue
		}
		if began := f.begins(s); !began.IsZero() {
			list = append(list, Beside{s, began, began.Add(s.Waits / f.speed)})
		}
	}
	sort.SliceStable(list, func(a, b int) bool { return list[a].End.Before(list[b].End) })
	return list
}

func (f *fold) lines() []Line {
	list := make([]Line, len(f.steps))
	for i, s := range f.steps {
		l := Line{ID: s.ID, Title: s.Title, Group: s.Group, Status: "ahead"}
		switch {
		case i < f.i || f.state.Outcome == Finished:
			l.Status = "gone"
		case i == f.i:
			l.Status = "now"
		case s.AtOnce && !f.begins(s).IsZero():
			l.Status = "beside"
		}
		if s.Pulses != nil {
			l.Note = fmt.Sprint(s.Pulses.Count)
			if i == f.i && !f.over {
				l.Note = fmt.Sprintf("%d of %d", min(f.pulse+1, s.Pulses.Count), s.Pulses.Count)
			} else if i > f.i && s.Hazard == job.Rinses {
				l.Note += ", then look"
			}
		}
		list[i] = l
	}
	return list
}
