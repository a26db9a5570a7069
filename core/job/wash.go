package job

import (
	"fmt"
	"slices"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/descale"
	"freshanvil/core/inspect"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/units"
)

// The refusals of this package.
const (
	HeadBlocked    reason.Code = "head_blocked"
	ChemicalInside reason.Code = "chemical_inside"
	ContactTooLong reason.Code = "contact_too_long"
	NothingToRenew reason.Code = "nothing_to_renew"
	// SoftenerNotSaid: nobody has said how large a softener is that gets its salt by hand.
	SoftenerNotSaid reason.Code = "softener_not_said"
)

// MostBlind is how often nothing may come out at the drain after a pulse, over all
// runs, before nobody tries again (common practice: two tries at most).
const MostBlind = 2

// Bars says whether a head at whose drain nothing came out so often bars every run.
func Bars(tries int) bool { return tries >= MostBlind }

// Target is a group to be washed, with what is known of it.
type Target struct {
	Group int
	Dirty bool    // detergent is in it: it is only rinsed
	Gone  float64 // share of the interval that has gone
	Blind int     // tries at which nothing came out at the drain, not undone since
	// LockedIn: a handle is in the group, and nobody knows what is behind it. Only Unblock asks.
	LockedIn bool
}

// Wash composes a wash by a method, water only or with detergent, of the groups
// given. Where one is dirty, detergent is in it already and none is added: it is only
// rinsed, and the largest dose of any method is taken as still lying there. In is the
// detergent at hand. It refuses, with a *reason.Refusal, a machine that must not be
// backflushed, leaks or has not what the method needs, and a group whose drain let
// nothing out and that nobody has opened since; a bad group, or one named twice, is a
// *units.OutOfRange.
func Wash(a machine.Answers, id backflush.MethodID, in backflush.Detergent, targets ...Target) (Plan, error) {
	m, err := backflush.Lookup(id)
	if err != nil {
		return Plan{}, err
	}
	return WashBy(a, m, in, targets...)
}

// WashBy is Wash by a method that may have somebody's own numbers.
func WashBy(a machine.Answers, m backflush.Method, in backflush.Detergent, targets ...Target) (Plan, error) {
	f := a.Facts()
	p, err := modelled(f)
	if err != nil {
		return Plan{}, err
	}
	chains := make([][]Step, 0, len(targets))
	for _, target := range targets {
		if err := p.takesTarget(f, target); err != nil {
			return Plan{}, err
		}
		activity, chain, err := wash(f, m, in, target)
		if err != nil {
			return Plan{}, err
		}
		p.Activities, chains = append(p.Activities, activity), append(chains, chain)
	}
	if len(targets) == 0 {
		return Plan{}, &units.OutOfRange{Field: "parts", Value: "none",
			Allowed: fmt.Sprintf("group-1 to group-%d", f.Groups)}
	}
	close, _ := a.Cafe()
	p.lay(prepare(f, overlaps(chains), plant.HeatUp(p.Plant)), chains, p.finish(f, m, close))
	return p, p.Check()
}

// Unblock composes what frees a group from which no water comes, or whose drain let nothing
// out: cold and under a cloth where it may be under pressure, then by hot water to the brim,
// and a rinse, for powder may lie in it. A handle that is locked in counts as one try. It
// refuses as Wash does, and a group whose drain let nothing out twice.
func Unblock(a machine.Answers, in backflush.Detergent, target Target) (Plan, error) {
	f := a.Facts()
	p, err := modelled(f)
	if err != nil {
		return Plan{}, err
	}
	blind := target.Blind
	if target.LockedIn {
		blind = max(blind, 1)
	}
	if Bars(target.Blind) {
		return Plan{}, Blocked(machine.Group(target.Group), target.Blind)
	}
	target.Blind = 0
	if err := p.takesTarget(f, target); err != nil {
		return Plan{}, err
	}
	dirty := target
	dirty.Dirty = true // what lies in it nobody knows
	m, err := backflush.Lookup(backflush.HalfTeaspoon)
	if err != nil {
		return Plan{}, err
	}
	activity, chain, err := wash(f, m, in, dirty)
	if err != nil {
		return Plan{}, err
	}
	activity.Title, activity.Wash.Dirty = "Free the group", target.Dirty
	heats := plant.HeatUp(p.Plant)
	w := washerOf(f, machine.Group(target.Group))
	chain = chain[1:] // the handle is out, or comes out cold
	ready := prepare(f, false, heats).with(
		does("The handle is out of the group.", w.act(plant.TakeOut), w.act(plant.WipeBlind)),
		say("Is one locked in after all? Leave it where it is, and start again from the bench: it comes out cold."),
	)
	if blind > 0 {
		cooling, err := descale.CoolingOf(f)
		if err != nil {
			return Plan{}, err
		}
		chain = append(append(w.cooled(cooling.Opens(f.Layout == machine.DualHome)), w.on(heats)), chain...)
		activity.Wash.Blind = blind
		ready = Step{
			ID: "ready", Body: Act{}, Title: "get ready", Head: "Get ready", Button: "All ready", Takes: 30 * time.Second,
			Cautions: []reason.Caution{locked},
		}.with(say("Have a cloth, a %s, a clear cup and hot water from a kettle ready.", blindName(f)))
	}
	p.Activities = append(p.Activities, activity)
	p.lay(ready, [][]Step{chain}, p.finish(f, m, false))
	return p, p.Check()
}

// modelled is an empty plan for a machine, with the model of it.
func modelled(f machine.Facts) (Plan, error) {
	spec, err := plant.Of(f, plant.Solution{}, 0, 0)
	return Plan{Setups: []Setup{SetupOf(f)}, Plant: &spec, AsksFound: true}, err
}

// takesTarget refuses a group that the machine has not, or that is named twice.
func (p *Plan) takesTarget(f machine.Facts, t Target) error {
	if t.Group < 1 || t.Group > f.Groups || slices.Contains(p.Groups(), t.Group) {
		return &units.OutOfRange{
			Field: "parts", Value: fmt.Sprintf("group-%d", t.Group),
			Allowed: fmt.Sprintf("group-1 to group-%d, each once", f.Groups),
		}
	}
	return nil
}

// finish is what ends a sitting of washes, when every group is done with: the outside wiped,
// then the shot that is thrown away, but at a café's close.
func (p *Plan) finish(f machine.Facts, m backflush.Method, close bool) []Step {
	last := p.Activities[len(p.Activities)-1]
	of := func(s Step, a Activity) Step {
		s.Activity, s.Part, s.Lane = a.ID, a.Part, Hands
		return s
	}
	var list []Step
	soapy := slices.ContainsFunc(p.Activities, func(a Activity) bool { return a.Task != task.WaterBackflush })
	if soapy {
		list = append(list, of(wipeOutside(f, close), last))
	}
	for i := range p.Activities {
		a := &p.Activities[i]
		if a.Task == task.WaterBackflush {
			continue
		}
		if close {
			a.Wash.Morning = true
			continue
		}
		s := of(washerOf(f, a.Part).discard(), *a)
		s.ID = name(len(p.Activities) > 1, a.Part, s.ID)
		list = append(list, s)
	}
	for i := range p.Activities { // detergent strips a cam's grease: how the lever moves says whether it wants some
		if a := p.Activities[i]; f.Valve == machine.Cam && a.Task == task.Wash {
			s := of(leverAfterWash(), a)
			s.ID = name(len(p.Activities) > 1, a.Part, s.ID)
			list = append(list, s)
		}
	}
	if m.Screen && soapy {
		list = append(list, of(screenTomorrow(), last))
	}
	return list
}

// leverAfterWash asks how a lever moves when its group was washed.
func leverAfterWash() Step {
	return lookAt(inspect.Lever, "Move the lever", "That is how it moves", 20*time.Second, scald).with(
		say("Lift the lever a little and put it down, slowly."),
		say("Stiff for a few shots after a wash is normal. If it squeaks, it wants grease."))
}

// SetupOf is what of a machine the steps of a wash rest on.
func SetupOf(f machine.Facts) Setup {
	return Setup{Begin: starts(f), Blind: blindName(f), Vents: f.Vents, Flow: f.FreeFlow, Tray: f.Tray, Tank: f.Tank,
		Duty: f.Duty}
}

// washerOf writes the steps of a group.
func washerOf(f machine.Facts, part machine.Part) washer {
	return washer{f: f, group: part.String(), lever: f.Valve == machine.Cam || f.Pump == machine.NoPump}
}

// overlaps says whether one group stands in its soak while another is washed: then
// each needs a blind of its own.
func overlaps(chains [][]Step) bool {
	return len(chains) > 1 && slices.ContainsFunc(chains, func(list []Step) bool {
		return slices.ContainsFunc(list, Is[Soak])
	})
}

// wash is what is done to one group.
func wash(f machine.Facts, m backflush.Method, in backflush.Detergent, t Target) (Activity, []Step, error) {
	a := Activity{
		ID: fmt.Sprintf("wash-%d", t.Group), Part: machine.Group(t.Group),
		Takes: []Resource{TheHands, Resource(machine.Group(t.Group).String()), ThePump, ThePower},
	}
	if t.Dirty {
		var err error
		if m, err = backflush.Lookup(backflush.HalfTeaspoon); err != nil {
			return a, nil, err
		}
	}
	if err := refuseTarget(f, m, t); err != nil {
		return a, nil, err
	}
	x := washerOf(f, machine.Group(t.Group))
	x.m = m
	w := &Washing{Method: m.ID, Named: m.Name, More: m.More, Dirty: t.Dirty, Gone: t.Gone}
	a.Wash, a.Task, a.Title = w, task.Wash, task.Wash.Title()
	if m.Wet() {
		a.Task, a.Title = task.WaterBackflush, task.WaterBackflush.Title()
		w.Rinse = backflush.Rinse{Shown: waterPulses(m)}
		return a, []Step{x.blind(false), x.rinsing("rinse", m.Rinse), x.rest()}, nil
	}
	dose, err := backflush.DoseFor(m, in)
	if err != nil {
		return a, nil, err
	}
	a.Takes = append(a.Takes, TheTub)
	rinse := m.Rinse
	gram := units.Mass(dose.Mass.Value)
	var chain []Step
	if t.Dirty {
		a.Task, a.Title = task.Rinse, "Rinse the detergent out"
		w.Left = max(gram, backflush.TabletMass)
		w.Rinse = backflush.LeastRinse(m, w.Left, f, 0)
		chain = []Step{x.open(), x.listen(), x.blind(true)}
	} else {
		w.Dose, w.Soapy = &dose, m.First.Count+m.Detergent.Count
		w.Rinse = backflush.LeastRinse(m, gram, f, w.Soapy)
		chain = append([]Step{x.brush(), x.waterFirst(), x.dosing(dose)}, x.detergent()...)
	}
	rinse.Count = w.Rinse.Least
	chain = append(chain, x.rinsing("rinse", rinse), Cup("cup"))
	if m.Wiggle && !t.Dirty {
		chain = append(chain, x.wiggle())
	}
	return a, append(chain, x.basket(m.Wiggle && !t.Dirty)), nil
}

// refuseTarget refuses what a method must not be done to.
func refuseTarget(f machine.Facts, m backflush.Method, t Target) error {
	if err := m.Takes(f); err != nil {
		return err
	}
	if t.Blind > 0 {
		return Blocked(machine.Group(t.Group), t.Blind)
	}
	return nil
}

// Blocked refuses to put pressure again on a group whose drain let nothing out, and which
// nobody has opened since.
func Blocked(part machine.Part, tries int) *reason.Refusal {
	no := reason.Refuse(HeadBlocked, fmt.Sprintf("Group %d may still be under pressure", part.GroupNumber())).
		Of("parts", part.String(), "a group whose drain lets the water out").
		Why(reason.Log, "Nothing came out at its drain after "+pulsesSaid(tries)+".").
		Why(reason.Trade, "A pulse that does not come out stays in the head, behind the handle.")
	no.Finding.Verdict = reason.Stop
	if Bars(tries) {
		return no.Instead("Switch the machine off and leave the handle where it is.",
			"Two tries are enough: call a technician.",
			"It has opened since? Say so with your name on the machine's page.")
	}
	return no.Instead("Leave the handle where it is.",
		"Start «No water comes» on the bench: it frees the group cold, step by step.",
		"It has opened since? Say so with your name on the machine's page.")
}

func pulsesSaid(n int) string {
	if n == 1 {
		return "a pulse"
	}
	return fmt.Sprintf("%d pulses", n)
}

// waterPulses is the rinse of a water backflush, which rinses nothing.
func waterPulses(m backflush.Method) reason.Worked {
	count := float64(m.Rinse.Count)
	return reason.Worked{
		Name: "water pulses", Value: count, Unit: "pulses", Formula: "method", Source: m.Source,
		Inputs: []reason.Input{{
			Symbol: "method", Label: "4 to 6 at the end of the day", Value: count, Unit: "pulses", Source: m.Source,
		}},
		WouldChange: []string{"another school"},
	}.Exact()
}

// detergent is what a method does between the dose and the water.
func (w washer) detergent() []Step {
	var list []Step
	switch m := w.m; {
	case m.Program > 0:
		list = append(list, w.program())
	case m.Soak > 0:
		list = append(list, w.soapy("short", m.First, false), soak(m.Soak), w.soapy("detergent", m.Detergent, true))
	default:
		list = append(list, w.soapy("detergent", m.Detergent, false))
	}
	list = append(list, first())
	if w.m.Tablet {
		list = append(list, w.gone())
	}
	return append(list, w.empty(w.m.Tablet))
}

// HandleOut takes the handle of a group out, where a run leaves out the step that would.
func HandleOut(a Activity, id string) Step {
	w := washer{group: a.Part.String()}
	return Step{
		ID: id, Body: Act{}, Title: "handle out", Head: "Handle out", Button: "Handle is out", Takes: 20 * time.Second,
		Cautions: []reason.Caution{lock, scald}, Lane: Hands, Part: a.Part, Activity: a.ID,
	}.with(does(hissOver, w.act(plant.TakeOut)))
}

// HandleBack puts the handle of a group back with its basket, where a run leaves out the step that would.
func HandleBack(a Activity, id string) Step {
	w := washer{group: a.Part.String()}
	return Step{
		ID: id, Body: Act{}, Title: "handle back", Head: "Handle back", Button: "It is back", Takes: 20 * time.Second,
		Cautions: []reason.Caution{lock, scald}, Lane: Hands, Part: a.Part, Activity: a.ID,
	}.with(does(fmt.Sprintf("Is a blind in group %d? Wait until the hiss has ended, and take it out.",
		a.Part.GroupNumber()), w.act(plant.TakeOut)),
		does("Put the coffee basket back and lock the handle in.", w.act(plant.LockBasket)))
}

// ExtraRinse is a set of water pulses that a run adds for a group.
func ExtraRinse(a Activity, begin, id string, count int) Step {
	more := a.Wash.More
	more.Count = count
	w := washer{group: a.Part.String(), lever: begin == leverOn}
	s := w.rinsing(id, more)
	s.Button = "Begin: " + begin
	s.Lane, s.Part, s.Activity = Hands, a.Part, a.ID
	return s
}
