package run

import (
	"fmt"
	"slices"
	"time"

	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
)

// absences are the lengths for which somebody may be called away, in minutes.
var absences = []int{5, 15, 30}

// driesAfter is how long detergent may stand in a group with nobody there, in minutes: longer,
// it begins to dry in the valve (our own engineering choice).
const driesAfter = 5

// Absence is somebody called away.
type Absence struct {
	Since, Until time.Time
	Minutes      int
	Do           []string // what was to be done before
}

// Leave is what there is to do before going for so many minutes.
type Leave struct {
	Minutes int
	Do      []string
	Not     string // why nobody should go for so long; empty where it is safe
}

// leave says what is safe for so many minutes.
func (f *fold) leave(minutes int) Leave {
	l := Leave{Minutes: minutes}
	switch {
	case f.acid.in():
		l.Do = RescueOf(f.model).Do
		stands := f.contact() + time.Duration(minutes)*time.Minute + f.acid.plan.Exit
		if !f.acid.rinsing && stands > f.acid.plan.Contact {
			l.Not = fmt.Sprintf("Acid may stand %.0f minutes in all, and has to be rinsed out in time.",
				f.acid.plan.Contact.Minutes())
		}
	case f.soapy():
		l.Do = []string{"Stop the pump. Leave the handle locked."}
		if minutes > driesAfter {
			l.Not = "Detergent would begin to dry in the valve. Rinse now and stop, then go."
		}
	case f.dipped():
		l.Do = []string{"Take the cup away from the wand first: it must not stand in liquid."}
	case f.opened():
		l.Do = []string{"Leave the machine off and unplugged.", "Put a note on it: a part is off, do not switch it on."}
	default:
		l.Do = []string{"Stop the pump and close every tap. Leave the handle as it is."}
	}
	return l
}

// dipped says whether a part stands in liquid on the machine.
func (f *fold) dipped() (is bool) {
	for _, s := range f.steps[:f.i] {
		for _, a := range s.Acts {
			is = a.Verb == plant.Dip || is && a.Verb != plant.Undip
		}
	}
	return is
}

// opened says whether a part is off without which the machine must not be switched on.
func (f *fold) opened() bool {
	if f.plan.Plant == nil {
		return false
	}
	off := map[string]bool{}
	for _, s := range f.steps[:f.i] {
		for _, a := range s.Acts {
			i := f.plan.Plant.FindLoose(a.What)
			switch {
			case i < 0 || !f.plan.Plant.Loose[i].Closed:
			case a.Verb == plant.TakeOff:
				off[a.What] = true
			case a.Verb == plant.FitOn:
				delete(off, a.What)
			}
		}
	}
	return len(off) > 0
}

// soapy says whether detergent is in any group.
func (f *fold) soapy() bool {
	for _, g := range f.groups {
		if g.Detergent.In {
			return true
		}
	}
	return false
}

// callAway lets somebody go: what was begun is held, soaks go on.
func (f *fold) callAway(minutes int) {
	if l := f.leave(minutes); l.Not == "" {
		f.pause()
		f.absence = &Absence{Since: f.now, Until: f.now.Add(f.wall(time.Duration(minutes) * time.Minute)), Minutes: minutes,
			Do: l.Do}
	}
}

// pause holds what the pump does; a pulse or a sip that was cut short comes again. A sip that
// stands goes on standing, and the next waits.
func (f *fold) pause() {
	if f.mode == On || f.mode == Off || f.mode == Rest {
		f.present.press(Press{Kind: Hold, Step: f.step().ID, Segment: f.segment, At: f.now})
	}
}

// comeBack takes somebody's word that they are back.
func (f *fold) comeBack() {
	if f.absence == nil {
		return
	}
	f.absence = nil
	f.state.Finding = &reason.Finding{
		Verdict: reason.Look, Title: "Go on here",
		Because: []reason.Reason{{Text: "Pulses made before count; soaks have gone on.", Source: reason.Ours}},
	}
}

// mayRinseNow says whether the present step may be left for the rinse at once: detergent is in, and
// something other than its rinse is still to come.
func (f *fold) mayRinseNow() bool {
	if f.over || f.short || !f.soapy() || f.acid.in() {
		return false
	}
	for _, s := range f.steps[f.i:] { // a run that only rinses, or is of an older plan, has nothing to leave out
		if a := f.plan.Activity(s.Activity); !f.isRinse(s) && a.Wash != nil && a.Wash.Soapy > 0 {
			return true
		}
	}
	return false
}

// isRinse says whether a step takes detergent out of a group that holds some.
func (f *fold) isRinse(s job.Step) bool {
	g := f.group(s.Part)
	if g == nil || !g.Detergent.In || s.Activity != f.activityOf(g) {
		return false
	}
	look, looks := job.BodyOf[job.Look](s)
	return s.Effect == job.Empties || s.Effect == job.Rinses || s.Effect == job.Proves || looks && look.At == job.RinseCup
}

// rinseNow leaves out everything but the rinse of what is in; then the run is over, and its
// washes do not count as done.
func (f *fold) rinseNow() {
	if !f.mayRinseNow() {
		return
	}
	f.pause()
	f.short = true
	here := f.isRinse(f.step())
	kept := f.i
	if !here {
		f.ended[f.step().ID] = f.now
		kept++
	}
	list := f.steps[:kept:kept]
	for _, s := range f.steps[kept:] {
		if f.isRinse(s) {
			opens := s.Effect == job.Empties || s.Effect == job.Proves
			if opens && !takesOut(s) { // that belongs to a step that is left out
				list = append(list, job.HandleOut(*f.plan.Activity(s.Activity), s.ID+"-out"))
			}
			list = append(list, f.longer(s))
		} else {
			f.ended[s.ID] = f.now
		}
	}
	for _, g := range f.groups { // one that is rinsed by now has had its wash
		g.short = g.Detergent.In || !g.Detergent.Ever
		if f.handleAway(g.Part) && !slices.ContainsFunc(list[kept:], func(s job.Step) bool { return putsBack(s, g.Part) }) {
			list = append(list, job.HandleBack(*f.plan.Activity(f.activityOf(g)), f.activityOf(g)+"-back"))
		}
	}
	f.steps = list
	f.state.Finding = &reason.Finding{
		Verdict: reason.Look, Title: "Rinse, then it is over",
		Because: []reason.Reason{{Text: "The wash is cut short, and does not count as done.", Source: reason.Ours}},
	}
	if here {
		return
	}
	f.i = kept
	f.segment, f.mode, f.since = 0, Open, f.now
	f.enter()
}

// handleAway says whether the handle of a group was taken out and is not back.
func (f *fold) handleAway(part machine.Part) bool {
	if f.model == nil {
		return false
	}
	head := f.model.At(part.String())
	return head != nil && head.Away && head.Handle != plant.HandleBasket
}

// putsBack says whether the basket is locked into a group in a step.
func putsBack(s job.Step, part machine.Part) bool {
	return s.Part == part &&
		slices.ContainsFunc(s.Acts, func(a plant.Action) bool { return a.Verb == plant.LockBasket })
}

// takesOut says whether the handle is taken out in a step.
func takesOut(s job.Step) bool {
	return slices.ContainsFunc(s.Acts, func(a plant.Action) bool { return a.Verb == plant.TakeOut })
}

// longer is a rinse with a pulse more for each detergent pulse that was left out.
func (f *fold) longer(s job.Step) job.Step {
	g := f.group(s.Part)
	set, ok := job.BodyOf[job.Pulses](s)
	if !ok || s.Effect != job.Rinses {
		return s
	}
	wash := f.plan.WashOf(s.Part)
	if missing := wash.Soapy - g.Soapy; missing > 0 && !g.lengthened {
		g.lengthened = true
		g.Detergent.Least += missing
	}
	set.Count = max(set.Count, g.Detergent.Least-g.Detergent.Rinsed)
	s.Body = set
	return s
}
