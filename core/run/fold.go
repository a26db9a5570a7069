package run

import (
	"slices"
	"time"

	"freshanvil/core/job"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// kind carries one step out. It is made when its step becomes the present one, and
// keeps what it needs to know of it.
type kind interface {
	// allowed lists what may be pressed now, beside what every step allows.
	allowed() []PressKind
	// press takes a press; one that means nothing now does nothing.
	press(p Press)
	// ends is when the running segment is over by itself; false where a press ends it.
	ends() (time.Time, bool)
	// pass carries on where the running segment is over.
	pass()
	// schedule lists the segments from the present one on, and completes that one.
	schedule(present *Segment) []Segment
	// breakOff counts what a step that is cut short has done so far.
	breakOff()
	// ahead is the water that the step still lets into the tray, in mL.
	ahead() float64
	// note is what stands beside the step in the list.
	note() string
}

// kinds makes each of them; a kind's own file enters it here.
var kinds = map[job.StepKind]func(*fold) kind{}

// still is what the kinds have alike in which nothing moves by itself.
type still struct{}

func (still) ends() (time.Time, bool)             { return time.Time{}, false }
func (still) pass()                               {}
func (still) schedule(present *Segment) []Segment { return []Segment{*present} }
func (still) breakOff()                           {}
func (still) ahead() float64                      { return 0 }
func (still) note() string                        { return "" }

// fold is the machine that replays a run. It keeps the order of the steps and the
// time; the rest is the kinds'.
type fold struct {
	plan    job.Plan
	speed   time.Duration
	now     time.Time
	steps   []job.Step
	i       int
	present kind
	segment int
	mode    SegmentKind
	since   time.Time            // start of the present segment, or of the pulse while it runs
	entered time.Time            // start of the present step
	ended   map[string]time.Time // when a step was over
	tries   map[string]int       // by question and answer: what was tried before it was asked again
	asked   map[string]string    // a question asked again, by the one it repeats
	over    bool
	cut     bool // the power is gone
	short   bool // only what is in is rinsed any more
	absence *Absence
	drawn   map[string]units.Volume // by activity: water that left beside the tray
	groups  []*group
	stocks  []Stock // by machine of the plan
	pumps   []pump
	acid    *acidity     // nil where no acid is meant
	model   *plant.Plant // the machine as the model believes it to be; nil in a live run without acid
	lead    float64      // s that the model is ahead of the run
	started time.Time
	hands   *Hands // whose a play is that judges a plan; nil in a run
	state   State
}

// Fold replays the accepted presses, in the order of their acceptance, up to now or
// to the last of them, whichever is later. Speed is run seconds a wall second, 1 or
// more.
func Fold(plan job.Plan, started time.Time, speed int, presses []Press, now time.Time) State {
	return replay(plan, started, speed, presses, now).view()
}

func replay(plan job.Plan, started time.Time, speed int, presses []Press, now time.Time) *fold {
	f := begin(plan, started, speed)
	for _, p := range presses {
		f.advance(p.At)
		f.apply(p)
	}
	f.advance(now)
	return f
}

// begin is a run as it starts.
func begin(plan job.Plan, started time.Time, speed int) *fold {
	f := &fold{
		plan: plan, speed: time.Duration(max(1, speed)), now: started, started: started, steps: plan.Steps(), mode: Open,
		since: started, ended: map[string]time.Time{}, tries: map[string]int{}, asked: map[string]string{},
		drawn:  map[string]units.Volume{},
		stocks: make([]Stock, len(plan.Setups)), pumps: make([]pump, len(plan.Setups)),
	}
	for i, setup := range plan.Setups {
		f.pumps[i] = pump{duty: setup.Duty, at: started}
	}
	for _, a := range plan.Washes() {
		f.groups = append(f.groups, newGroup(a))
	}
	if a := plan.Descaling(); a != nil {
		f.model = plan.Begins()
		f.acid = newAcidity(a.Descale, f.model)
	}
	f.enter()
	return f
}

func (f *fold) step() job.Step { return f.steps[f.i] }

// activity is the one that the present step belongs to.
func (f *fold) activity() *job.Activity { return f.plan.Activity(f.step().Activity) }

// setup is what the present step rests on.
func (f *fold) setup() job.Setup { return f.plan.Setups[f.activity().Setup] }

// wall is a time of the run in wall time.
func (f *fold) wall(d time.Duration) time.Duration { return d / f.speed }

// advance lets time pass to t: segments run out, and with the last the step. A time
// before the present one changes nothing.
func (f *fold) advance(t time.Time) {
	if t.Before(f.now) {
		return
	}
	for !f.over {
		end, runs := f.present.ends()
		if !runs || end.After(t) {
			break
		}
		if end.After(f.now) { // a soak may have been over before anybody came
			f.now = end
		}
		f.present.pass()
	}
	f.now = t
}

// apply takes one press. One that was made for a state already gone does nothing.
func (f *fold) apply(p Press) {
	if f.over || p.Step != f.step().ID {
		return
	}
	if f.cut && p.Kind != Back && p.Kind != Stop || f.absence != nil && p.Kind != Returned && p.Kind != Stop {
		return
	}
	switch p.Kind {
	case Away:
		f.callAway(p.Minutes)
	case Returned:
		f.comeBack()
	case RinseNow:
		f.rinseNow()
	case Reorder:
		f.reorder(p.Order)
	case Cut, Back:
		f.switchPower(p.Kind == Cut)
	case Stop:
		f.stop(p)
	default:
		f.pressStep(p)
	}
}

// turnTo begins another segment of the present step.
func (f *fold) turnTo(mode SegmentKind) {
	f.segment++
	f.mode, f.since = mode, f.now
}

// hold stops the present step until somebody presses, with what there is to say.
func (f *fold) hold(finding *reason.Finding) {
	f.turnTo(Held)
	f.state.Finding = finding
}

// next ends the present step and goes on to the one after it.
func (f *fold) next() {
	f.ended[f.step().ID] = f.now
	f.i++
	f.leaveOut()
	f.pull()
	f.segment, f.mode, f.since = 0, Open, f.now
	if f.i == len(f.steps) {
		f.end()
		return
	}
	f.enter()
}

// enter makes the kind of the present step.
func (f *fold) enter() { f.entered, f.present = f.now, kinds[f.step().Kind()](f) }

// likelyEnd is when the run is over if the hands go on as planned for; zero where it is over.
func (f *fold) likelyEnd() time.Time {
	if f.over {
		return time.Time{}
	}
	over := map[string]time.Duration{}
	for id, at := range f.ended {
		over[id] = at.Sub(f.now) * f.speed
	}
	left := f.plan.Left(f.steps[f.i:], f.now.Sub(f.entered)*f.speed, over)
	return f.now.Add(f.wall(left))
}

// begins is when a soak began: with the end of the step it comes after.
func (f *fold) begins(soak job.Step) time.Time {
	if len(soak.After) == 0 {
		return time.Time{}
	}
	return f.ended[soak.After[0]]
}

// pull brings forward what a group waits for whose soak is over, or would be over for too
// long when slow hands came back from the step that is next: so that it does not stand there
// until the list comes to it.
func (f *fold) pull() {
	if f.i == len(f.steps) {
		return
	}
	pump := job.Pump{Duty: f.setup().Duty, Flow: f.setup().Flow, Warm: f.warmth(f.now)}
	over := f.now // by then slow hands would be back from the step that comes next
	if !job.Is[job.Soak](f.steps[f.i]) {
		over = f.now.Add(f.wall(max(0, job.Slow(f.steps[f.i], pump)-job.Overstay)))
	}
	best := -1
	for j := f.i; j < len(f.steps); j++ {
		soak, ok := job.BodyOf[job.Soak](f.steps[j])
		if !ok || f.steps[j].Phase != "" || f.steps[j].Effect != job.Stands { // a filter in its jug does not press
			continue
		}
		began := f.begins(f.steps[j])
		if end := began.Add(f.wall(soak.For)); !began.IsZero() && !end.After(over) {
			best, over = j, end
		}
	}
	if best <= f.i {
		return
	}
	end := best + 1
	for end < len(f.steps) && f.steps[end].Activity == f.steps[best].Activity && followsASoak(f.steps[end]) {
		end++
	}
	list := append([]job.Step(nil), f.steps[:f.i]...)
	list = append(list, f.steps[best:end]...)
	list = append(list, f.steps[f.i:best]...)
	f.steps = append(list, f.steps[end:]...)
}

// followsASoak says whether a step belongs to the soak before it.
func followsASoak(s job.Step) bool {
	look, ok := job.BodyOf[job.Look](s)
	return job.Is[job.Pulses](s) || ok && look.At == job.FirstWater
}

// insert puts steps of the same activity behind the present one, and goes on.
func (f *fold) insert(steps ...job.Step) {
	after := f.step().ID
	list := append(f.steps[:f.i+1:f.i+1], steps...)
	for i := range steps {
		s := &list[f.i+1+i]
		s.Lane, s.Part, s.Activity, s.After = job.Hands, f.step().Part, f.step().Activity, []string{after}
		after = s.ID
	}
	f.steps = append(list, f.steps[f.i+1:]...)
	f.next()
}

// end is how the run ends: as badly as its worst activity.
func (f *fold) end() {
	f.over, f.mode = true, Open
	f.i = min(f.i, len(f.steps)-1)
	worst := Finished
	for _, a := range f.activities() {
		if a.Outcome == StoppedUnsafe || a.Outcome == Stopped && worst == Finished {
			worst = a.Outcome
		}
	}
	f.state.Outcome, f.state.EndedAt = worst, f.now
}

// activities says how each ended, or would end now.
func (f *fold) activities() []Activity {
	list := make([]Activity, len(f.plan.Activities))
	for i, a := range f.plan.Activities {
		list[i] = Activity{ID: a.ID, Task: a.Task, Part: a.Part, Title: a.Title, Outcome: Stopped,
			Drawn: f.drawn[a.ID], Used: f.mixed(a)}
		switch g := f.group(a.Part); {
		case a.Wash != nil:
			list[i].Outcome = g.outcome(f.done(a.ID))
		case a.Descale != nil:
			list[i].Outcome = f.acid.outcome(f.done(a.ID))
		case f.done(a.ID):
			list[i].Outcome = Finished
		}
	}
	return list
}

// mixed says whether a bath of detergent was mixed in an activity.
func (f *fold) mixed(a job.Activity) bool {
	return a.Uses != nil && slices.ContainsFunc(f.steps, func(s job.Step) bool {
		_, over := f.ended[s.ID]
		return over && s.Activity == a.ID && slices.ContainsFunc(s.Acts, func(x plant.Action) bool {
			return x.Verb == plant.MixBath
		})
	})
}

// done says whether every step of an activity is over.
func (f *fold) done(activity string) bool {
	for _, s := range f.steps {
		if _, over := f.ended[s.ID]; s.Activity == activity && !over {
			return false
		}
	}
	return true
}

// stop ends the run where it stands.
func (f *fold) stop(p Press) {
	if !f.stoppable() {
		return
	}
	if g := f.group(f.step().Part); g != nil && f.step().Effect == job.Doses && !p.NothingIn {
		g.Detergent.In, g.Detergent.Ever = true, true // powder may be in: take it so
	}
	f.present.breakOff()
	f.end()
}

// stoppable says whether there is anything left to stop: not where every group is
// proven rinsed, and what is left of it is one drink to pour away.
func (f *fold) stoppable() bool {
	for _, a := range f.plan.Activities {
		g := f.group(a.Part)
		if a.Wash != nil && g.Detergent.Ever && !g.Detergent.In {
			continue
		}
		if !f.done(a.ID) || a.Descale != nil && f.acid.in() {
			return true
		}
	}
	return false
}
