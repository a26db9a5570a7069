package run

import (
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
)

// Hands are a pair of hands that carries a plan out, while it is judged. The zero value
// takes no time at all; see AsSaid.
type Hands struct {
	Work   float64 // hand work takes so many times as said
	Late   float64 // what the screen calls ends so many seconds later; below 0, earlier
	Share  float64 // what goes by an amount is so much more of it
	Longer float64 // a longer wait takes so many seconds longer
	// Steps are steps whose hand work takes another factor; Answers what is said where one
	// is asked, by step; NoPressure the pushes at which no water comes, once; Differ the
	// proofs whose strip differs, once.
	Steps      map[string]float64
	Answers    map[string]job.Answer
	NoPressure map[string]bool
	Differ     map[string]bool
	What       string // in words, for who asked

	random *rand.Rand
}

// AsSaid are hands that take the time that steps are planned for.
func AsSaid() Hands { return Hands{Work: 1, What: "with hands as planned for"} }

// Uniform are hands of one factor: ½ comes two seconds early and a tenth short, 3 ten
// seconds late, a tenth over, and ten minutes late after a wait.
func Uniform(factor float64) Hands {
	h := Hands{Work: factor, What: fmt.Sprintf("with hands that take %.3g times as long", factor)}
	switch {
	case factor < 1:
		h.Late, h.Share = -2, -0.1
	case factor > 1:
		h.Late, h.Share, h.Longer = 10*(factor-1)/2, 0.1*(factor-1)/2, 600*(factor-1)/2
	}
	return h
}

// Mixed are hands that take each step at random, from half to three times as long.
func Mixed(seed uint64) Hands {
	h := Hands{Work: 1, What: fmt.Sprintf("with a mixture of slow and quick hands (seed %d)", seed)}
	h.random = rand.New(rand.NewPCG(seed, 17))
	return h
}

// draw gives the step its own factor, where hands are a mixture.
func (h *Hands) draw() {
	if h.random == nil {
		return
	}
	h.Work = math.Exp(math.Log(0.5) + h.random.Float64()*math.Log(6))
	h.Late, h.Share, h.Longer = -2+12*h.random.Float64(), -0.1+0.2*h.random.Float64(), 600*h.random.Float64()
}

// takes is how long the hand work of a step is.
func (h *Hands) takes(s job.Step) time.Duration {
	factor := h.Work
	if own, is := h.Steps[s.ID]; is {
		factor = own
	}
	return time.Duration(float64(s.Takes) * factor)
}

// scaled are the actions with what goes by an amount a little more, or less.
func (h *Hands) scaled(list []plant.Action, step string) []plant.Action {
	share := h.Share
	if own, is := h.Steps[step]; is {
		share = map[bool]float64{true: -0.1, false: 0.1}[own < 1]
	}
	out := make([]plant.Action, len(list))
	for i, a := range list {
		if a.Amount > 0 && (a.Verb == plant.LetOut || a.Verb == plant.PourIn) {
			a.Amount *= 1 + share
		}
		out[i] = a
	}
	return out
}

// Play is a plan carried out by a pair of hands, on the model of the machine.
type Play struct {
	f       *fold
	Plant   *plant.Plant
	Steps   []string // as they were gone through
	Took    time.Duration
	Outcome Outcome
	// Watch is told of each step as it begins; nil for nobody.
	Watch func(p *Play, step job.Step)
}

// epoch is when a play begins; no rule goes by it.
var epoch = time.Unix(0, 0).UTC()

// longestPlay is the most steps that a play goes through.
const longestPlay = 3000

// Perform carries a plan out to its end, or to where it halts. The error is a
// *job.Unsafe where the plant found what must never be.
func Perform(plan job.Plan, h Hands, watch ...func(*Play, job.Step)) (*Play, error) {
	f := begin(plan, epoch, 1)
	f.hands = &h
	p := &Play{f: f}
	if f.acid != nil {
		p.Plant = f.acid.plant
	}
	if len(watch) > 0 {
		p.Watch = watch[0]
	}
	for n := 0; !f.over && n < longestPlay; n++ {
		s := f.step()
		p.Steps = append(p.Steps, s.ID)
		if p.Watch != nil {
			p.Watch(p, s)
		}
		h.draw()
		if !p.carryOut(s, &h) {
			break
		}
		if err := p.broken(&h, s.ID); err != nil {
			return p, err
		}
	}
	p.Took, p.Outcome = f.now.Sub(f.started), f.state.Outcome
	if f.over && p.Plant != nil {
		p.Plant.End(false)
	}
	last := ""
	if len(p.Steps) > 0 {
		last = p.Steps[len(p.Steps)-1]
	}
	return p, p.broken(&h, last)
}

func (p *Play) broken(h *Hands, step string) error {
	if p.Plant == nil || len(p.Plant.Broken) == 0 {
		return nil
	}
	return &job.Unsafe{Violation: p.Plant.Broken[0], Hands: h.What, Step: step}
}

// press presses something in the present step.
func (p *Play) press(kind PressKind, change func(*Press)) {
	f := p.f
	q := Press{Step: f.step().ID, Segment: f.segment, Kind: kind, At: f.now}
	if change != nil {
		change(&q)
	}
	f.apply(q)
}

// carryOut takes one step to its end; false where it halts.
func (p *Play) carryOut(s job.Step, h *Hands) bool {
	f := p.f
	here := func() bool { return !f.over && f.step().ID == s.ID }
	if soak, ok := job.BodyOf[job.Soak](s); ok {
		p.runOn(here)
		f.advance(f.now.Add(h.overrun(soak.For)))
		return true
	}
	f.advance(f.now.Add(h.takes(s)))
	switch b := s.Body.(type) {
	case job.Act:
		p.press(Done, nil)
	case job.Push, job.Sips, job.Pulses:
		p.pump(s, h, here)
	case job.Wait:
		p.press(Begin, nil)
		if end, runs := f.present.ends(); runs && here() { // somebody comes a little after it is over
			f.advance(end.Add(-time.Millisecond))
			f.now = end.Add(h.overrun(b.For))
			f.present.pass()
		}
	default:
		return p.answer(s, h, here)
	}
	return true
}

// pump lets the pump run by the clock, where water comes.
func (p *Play) pump(s job.Step, h *Hands, here func() bool) {
	f := p.f
	p.press(Begin, nil)
	if h.NoPressure[s.ID] && here() {
		f.advance(f.now.Add(3 * time.Second))
		p.press(NoPressure, nil)
		f.advance(f.now.Add(h.takes(s) + time.Minute))
		p.press(Begin, nil)
	}
	p.runOn(here)
}

// answer says what is asked; false where the answer halts the run.
func (p *Play) answer(s job.Step, h *Hands, here func() bool) bool {
	f := p.f
	switch b := s.Body.(type) {
	case job.Choose:
		answer := b.Ways[0].Answer
		if own, is := h.Answers[s.ID]; is {
			answer = own
		}
		before := f.i
		p.press(Heard, func(q *Press) { q.Answer = answer })
		return f.over || f.i != before || !here()
	case job.Measure:
		strip := p.reads(s.ID, b, h)
		p.press(Measured, func(q *Press) { q.Strip = &strip })
		if here() && f.mode == Held {
			p.press(Again, nil)
		}
	case job.Look:
		if b.At == job.FirstWater {
			p.press(Graded, func(q *Press) { q.First = backflush.ColourBrown })
			break
		}
		clear := backflush.Cup{Colour: backflush.ColourClear, Foam: backflush.FoamNone, Grains: backflush.GrainsNone}
		p.press(Reading, func(q *Press) { q.Cup = &clear })
	}
	return true
}

// runOn lets the clock lead until the step is over.
func (p *Play) runOn(here func() bool) {
	for n := 0; here() && n < 500; n++ {
		end, runs := p.f.present.ends()
		if !runs {
			return
		}
		p.f.advance(end)
	}
}

func (h *Hands) overrun(long time.Duration) time.Duration {
	by := h.Longer
	if long <= 5*time.Minute {
		by = math.Max(0, h.Late)
	}
	return time.Duration(by * float64(time.Second))
}

// feedReads is what the clean water reads in a play.
const feedReads = 7.5

// reads is what a meter reads in a play: what the plant holds.
func (p *Play) reads(step string, b job.Measure, h *Hands) descale.Strip {
	s := descale.Strip{PH: feedReads, Meter: true}
	switch b.Reads {
	case job.Spent:
		return descale.Strip{None: true}
	case job.Feed:
		return s
	}
	i := p.Plant.Spec.Find(b.Circuit.String())
	g := p.Plant.Spec.FindOpening(b.Outlet)
	sour := p.Plant.V[i].Acid
	if g >= 0 && p.Plant.Spec.Openings[g].Kind != plant.Drain {
		sour = math.Max(sour, p.Plant.Gates[g].Acid)
	}
	if sour > p.Plant.Spec.Solution.Limit || h.Differ[strings.Split(step, "-more-")[0]] &&
		!strings.Contains(step, "-more-") {
		s.PH = feedReads - 2
	}
	return s
}

// Verdict is what judging a plan found.
type Verdict struct {
	Plays   int // of the plan, by so many pairs of hands and answers
	Rescues int // instants at which somebody was called away, or the power went
}

// Judge plays a plan with the hands that it must be safe for: three uniform, each step alone
// at half and three times its time, each answer and each detour once, sixteen mixtures; and
// looks for a rescue at each step and event of the nominal play. It is not a proof: it says
// how much was played. The error is a *reason.Refusal.
func Judge(plan job.Plan) (Verdict, error) { return judge(plan, false) }

// judge looks for rescues along every play, where all are asked for.
func judge(plan job.Plan, all bool) (Verdict, error) {
	var v Verdict
	if plan.Descaling() == nil {
		return v, nil
	}
	list := handsFor(plan)
	v.Plays = len(list)
	if err := judgeHands(plan, list); err != nil {
		return v, asRefusal(err)
	}
	if !all {
		list = uniform()
	}
	n, err := judgeRescues(plan, list)
	v.Rescues = n
	return v, asRefusal(err)
}

// judgeHands plays the plan by each pair of hands.
func judgeHands(plan job.Plan, list []Hands) error {
	for _, h := range list {
		if _, err := Perform(plan, h); err != nil {
			return err
		}
	}
	return nil
}

func asRefusal(err error) error {
	var unsafe *job.Unsafe
	if errors.As(err, &unsafe) {
		return unsafe.Refusal()
	}
	return err
}

// mixtures is how many mixtures of hands a plan is judged for.
const mixtures = 16

// uniform are hands of one factor: as planned for, quick, slow.
func uniform() []Hands { return []Hands{AsSaid(), Uniform(0.5), Uniform(3)} }

// handsFor are the hands that a plan must be safe for.
func handsFor(plan job.Plan) []Hands {
	list := uniform()
	for _, s := range plan.Steps() {
		if s.Takes > 0 && s.Phase != "" {
			for _, factor := range []float64{0.5, 3} {
				h := AsSaid()
				h.Steps = map[string]float64{s.ID: factor}
				h.What = fmt.Sprintf("with hands that take %.3g times as long for «%s»", factor, s.Title)
				list = append(list, h)
			}
		}
		list = append(list, answersFor(s)...)
	}
	for seed := range uint64(mixtures) {
		list = append(list, Mixed(seed))
	}
	return list
}

// answersFor are the hands that answer otherwise than usual at a step, or meet a detour.
func answersFor(s job.Step) []Hands {
	var list []Hands
	with := func(what string, change func(*Hands)) {
		h := AsSaid()
		h.What = fmt.Sprintf("where %s at «%s»", what, s.Title)
		change(&h)
		list = append(list, h)
	}
	switch b := s.Body.(type) {
	case job.Choose:
		for _, w := range b.Ways[1:] {
			with("the answer is «"+w.Text+"»", func(h *Hands) { h.Answers = map[string]job.Answer{s.ID: w.Answer} })
		}
	case job.Push:
		with("no water comes", func(h *Hands) { h.NoPressure = map[string]bool{s.ID: true} })
	case job.Measure:
		if b.Reads == job.Proof {
			with("the strip differs", func(h *Hands) { h.Differ = map[string]bool{s.ID: true} })
		}
	}
	return list
}

// alone is how long a machine is left when somebody is called away, or the power is gone, s.
const alone = 12 * 3600.0

// lost is how something goes wrong in the middle: what the machine does by itself, and how
// long it takes until a hand as planned for does something about it, s (our own engineering
// choices: a pump that falls silent is heard).
type lost struct {
	what   string
	begins func(p *plant.Plant)
	until  float64
}

// leave is what such a hand takes for each thing that it does then, s (our own engineering
// choice).
const leave = 3.0

var ways = []lost{
	{"somebody is called away", func(*plant.Plant) {}, 0},
	{"the power goes", func(p *plant.Plant) { p.Do(plant.Action{Verb: plant.Unplug}) }, 60},
	{"the pump dies", func(p *plant.Plant) { p.Dead = true }, 5},
}

// Rescue is how a machine is left in the middle of a descale: what is said, and what that
// does.
type Rescue struct {
	Do   []string
	Acts []plant.Action
}

// RescueOf is how to leave a machine as it is: off, unplugged, gas able to leave.
func RescueOf(p *plant.Plant) Rescue {
	r := Rescue{
		Do: []string{"Switch the machine off and pull the plug: it must not start by itself."},
		Acts: []plant.Action{
			{Verb: plant.PumpOff}, {Verb: plant.SwitchOff}, {Verb: plant.Unplug},
		},
	}
	for g := range p.Gates {
		if o := &p.Spec.Openings[g]; p.Gates[g].Open && (o.Kind == plant.Drain || o.Kind == plant.HotTap) {
			r.Do = append(r.Do, "Close the "+o.Title+".")
			r.Acts = append(r.Acts, plant.Action{Verb: plant.Close, What: o.ID})
		}
	}
	if tap := p.Spec.FindOpening("steam_tap"); tap >= 0 && p.Spec.FindOpening("cap") < 0 &&
		p.Holds(p.Spec.Solution.Limit) {
		r.Do = append(r.Do, "Leave the steam tap open, its jug under the wand: gas must leave.")
		if !p.Gates[tap].Open {
			r.Acts = append(r.Acts, plant.Action{Verb: plant.Open, What: "steam_tap"})
		}
	}
	if p.Holds(p.Spec.Solution.Limit) {
		r.Do = append(r.Do, "Open nothing else. Acid goes on working: rinse it out as soon as you can, by the run that says "+
			"«rinse the acid out». If the pump is dead, a workshop does, today.")
	}
	return r
}

// rescuer tries to leave a machine as RescueOf says, whatever happens, at instants of a play.
type rescuer struct {
	tried  int
	failed error
}

// try leaves the machine as it is at an instant, by hands that take so many times as long.
func (r *rescuer) try(at *plant.Plant, factor float64, where string) {
	r.tried++
	for _, w := range ways {
		if r.failed != nil {
			return
		}
		p := at.Clone()
		p.Spec = relaxed(p.Spec)
		w.begins(p)
		letGo(p)
		p.Wait(w.until * factor)
		for _, a := range RescueOf(p).Acts {
			p.Do(a)
			if a.Verb != plant.PumpOff { // that is the same switch, or under the same hand
				p.Wait(leave * factor)
			}
		}
		p.Wait(alone)
		for _, v := range p.Broken {
			if v.Never != plant.ContactOver {
				r.failed = &job.Unsafe{Violation: v, Hands: "if " + w.what + ", " + where}
				break
			}
		}
	}
}

// letGo closes what a hand holds open: whoever lets something out of a drain or a tap stays
// by it, whatever the rest of the machine does.
func letGo(p *plant.Plant) {
	for g := range p.Gates {
		if o := &p.Spec.Openings[g]; p.Gates[g].Open && (o.Kind == plant.Drain || o.Kind == plant.HotTap) {
			p.Do(plant.Action{Verb: plant.Close, What: o.ID})
		}
	}
}

// judgeRescues plays the plan by some hands, and tries to leave the machine at each step's
// start, middle and end, and at each event.
func judgeRescues(plan job.Plan, list []Hands) (int, error) {
	var r rescuer
	for _, h := range list {
		if err := r.along(plan, h); err != nil {
			return r.tried, err
		}
	}
	return r.tried, nil
}

// along tries at each of the instants of one play.
func (r *rescuer) along(plan job.Plan, h Hands) error {
	var begins []float64
	if _, err := Perform(plan, h, func(pl *Play, _ job.Step) { begins = append(begins, pl.Plant.T) }); err != nil {
		return err
	}
	var marks []float64
	for i := 1; i < len(begins); i++ {
		marks = append(marks, (begins[i-1]+begins[i])/2)
	}
	_, err := Perform(plan, h, func(pl *Play, s job.Step) {
		if r.failed != nil {
			return
		}
		if pl.Plant.Watch == nil {
			pl.Plant.Marks = marks
		}
		r.try(pl.Plant, h.Work, "as «"+s.Title+"» begins")
		pl.Plant.Watch = func(p *plant.Plant, event string) {
			if r.failed == nil {
				r.try(p, h.Work, "during «"+s.Title+"»: "+event)
			}
		}
	})
	if r.failed != nil {
		return r.failed
	}
	return err
}

// relaxed is a spec whose contact has no end: an absence reports it, and never fails by it.
func relaxed(s *plant.Spec) *plant.Spec {
	x := *s
	x.Solution.Contact = 0
	return &x
}

// Cleared composes nothing: it judges, and says in how many plays nothing happened that must
// not.
func Cleared(plan job.Plan) (reason.Reason, error) {
	v, err := Judge(plan)
	return reason.Reason{
		Text: fmt.Sprintf("Played %d times on a model of this machine, by slow and quick hands and with every other answer, "+
			"and left at %d instants: nothing happened that must not. That is a sample, not a proof.", v.Plays, v.Rescues),
		Source: reason.Ours,
	}, err
}

// Now is how long a play has gone on.
func (p *Play) Now() time.Duration { return p.f.now.Sub(p.f.started) }
