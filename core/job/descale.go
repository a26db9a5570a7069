package job

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"time"

	"freshanvil/core/circuit"
	"freshanvil/core/descale"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/treat"
	"freshanvil/core/units"
)

// Sitting is what a descale is planned from, beside the machine.
type Sitting struct {
	Program descale.ProgramID // none is the usual one
	Card    descale.Card
	Setting treat.Setting // what treats the water
	Renew   bool          // with a new filter, or the softener in salt
	FeedAlk units.Alkalinity
	FeedPH  units.PH
	Share   float64 // of the scale that stays, so far
	Known   bool    // a descale is on record
	Dirty   bool    // acid is in already: it is only rinsed out
	Wash    *Plan   // joined after it
	Inside  Contents
	Now     time.Time
	Zone    *time.Location
}

// What the machine's own program asks for at least, L (common practice).
const ownLeast = 1.0

// settles is how long the group comes to its usual heat before a wash (common
// practice: a few minutes).
const settles = 5 * time.Minute

// ids of activities
const (
	descaleID = "descale"
	renewID   = "renew"
)

// ShortestSoak is the soak that is still worth beginning (our own engineering choice).
const ShortestSoak = 5 * time.Minute

// NotCleared is the refusal of a plan in which the model of the machine finds something
// that must never be.
const NotCleared = descale.NotCleared

// DoseTooLarge is the refusal of more acid than the likely scale can use.
const DoseTooLarge reason.Code = "dose_too_large"

// NeverLed says whether a plan was refused for what waiting does not mend: another product,
// strength or machine would. No dose is shown for it.
func NeverLed(no *reason.Refusal) bool {
	return slices.Contains([]reason.Code{NotCleared, ContactTooLong, DoseTooLarge}, no.Code)
}

// Cooling is how long a machine cools before it is opened or filled, and how cold it is then,
// °C; false where nothing waits for it.
func (p Plan) Cooling() (opens reason.Worked, below float64, cools bool) {
	for _, s := range p.Steps() {
		w, is := BodyOf[Wait](s)
		if is && w.Length != nil && len(w.Read) > 0 && w.Read[0].Verb == plant.Measured {
			return *w.Length, w.Read[0].Amount, true
		}
	}
	return opens, 0, false
}

// Descale composes the descale of a machine, led from the filter out to the first
// shot poured away, as much of it as fits into the time that acid may stand. It
// refuses, with a *reason.Refusal, a machine that is not for its keeper to descale, a
// product it does not bear, acid beside detergent, and what the model of the machine does
// not clear; a program that does not suit is a *units.OutOfRange.
func Descale(a machine.Answers, in Sitting) (Plan, error) {
	if err := in.Inside.Meets(true); err != nil {
		return Plan{}, err
	}
	f := a.Facts()
	if in.Zone == nil {
		in.Zone = time.UTC
	}
	if in.Renew && !in.Dirty && !RenewsBeside(in.Setting) {
		return Plan{}, &units.OutOfRange{Field: "renew", Value: "true",
			Allowed: "false: what treats the water is not in the tank, and is renewed by itself"}
	}
	prog, err := descale.ProgramFor(f, in.Program)
	if in.Dirty {
		prog, err = descale.ToRinse(f)
	} else if err == nil {
		err = in.Card.Product.Bears(f, in.Card.Strength)
	}
	if err != nil {
		return Plan{}, err
	}
	l, err := begin(f, in, prog)
	if err != nil {
		return Plan{}, err
	}
	if err := l.lay(); err != nil {
		return l.sofar(), err
	}
	return l.plan()
}

// sofar is as much of a plan as was laid before it was refused, for a trace.
func (l *laying) sofar() Plan {
	p := Plan{Setups: []Setup{SetupOf(l.f)}, Activities: l.activities()}
	p.put(l.steps)
	return p
}

// begin is a descale of which nothing is laid yet.
func begin(f machine.Facts, in Sitting, prog descale.Program) (*laying, error) {
	m, _ := descale.Careful(f)
	contact := descale.Contact(in.Card.Product, in.Card.Strength, m)
	limit := descale.LimitOf(in.Card.Product, in.Card.Strength, in.FeedAlk, in.FeedPH)
	var brew, steam units.Mass
	for i, n := range in.Card.Needs {
		if i == 0 {
			brew = n.Grams
		} else {
			steam = n.Grams
		}
	}
	may := contact
	if in.Dirty { // it has stood as long as it has: nothing is a reason not to rinse it out
		may = 0
	}
	spec, err := plant.Of(f, plant.Solution{
		Takes: float64(in.Card.Limits.Slow), Contact: may.Seconds(), Limit: limit,
	}, brew, steam)
	if err != nil {
		return nil, err
	}
	l := &laying{
		f: f, in: in, prog: prog, pace: asSaid, phase: Before, names: map[string]int{}, lateIn: map[string]float64{},
		placed: map[string]bool{},
		d: &Descaling{
			Program: prog.ID, Title: prog.Title, Product: in.Card.Product.Name, Acid: in.Card.Product.Main(),
			Strength: in.Card.Strength, Contact: contact, FeedAlk: in.FeedAlk, FeedPH: in.FeedPH, Known: in.Known,
			Share: in.Share, Dirty: in.Dirty, Plant: spec,
			Filtered: !in.Dirty && RenewsBeside(in.Setting),
		},
	}
	l.p = l.d.Begins()
	l.setCircuits()
	return l, nil
}

// setCircuits sets out the circuits with their outlets.
func (l *laying) setCircuits() {
	for _, i := range l.circuits() {
		v := &l.d.Plant.Vessels[i]
		c := Circuit{Part: part(v.ID), Title: v.Title, Working: units.Litres(v.Working),
			Scale: units.Mass(v.Scale), Drained: v.Heel > 0}
		c.Least = l.least(v)
		for g := range l.d.Plant.Openings {
			o := &l.d.Plant.Openings[g]
			cold := o.Kind == plant.Group && l.d.Plant.HasPump || o.Kind == plant.Cap || o.Kind == plant.SteamTap &&
				v.Kind != plant.Steam ||
				o.Kind == plant.Drain && v.Kind == plant.Steam
			if o.Of == i && cold && !(o.Kind == plant.SteamTap && l.prog.Empties == descale.ByPouring) {
				c.Outlets = append(c.Outlets, Outlet{ID: o.ID, Title: l.outlet(o.ID)})
			}
		}
		l.d.Circuits = append(l.d.Circuits, c)
	}
}

// least is the rinse that a circuit takes at least: litres flushed, or refills.
func (l *laying) least(v *plant.Vessel) reason.Worked {
	limit := reason.Input{Symbol: "limit", Label: "share of the acid that may stay: a ten-thousandth, or less where the " +
		"water buffers little", Value: l.d.Plant.Solution.Limit, Source: reason.Ours}
	would := []string{"what the strip says", "the volume of the circuit"}
	if v.Heel == 0 {
		return reason.Worked{
			Name: "water to flush through, " + v.Title, Value: -v.Working * math.Log(limit.Value), Unit: "L",
			Formula: "−holds × ln(limit)", Source: reason.Ours, WouldChange: would,
			Inputs: []reason.Input{
				{Symbol: "holds", Label: "it holds", Value: v.Working, Unit: "L", Source: reason.Ours}, limit,
			},
		}.Exact()
	}
	weak := "ceil(ln(weak) ÷ ln(heel ÷ stops))"
	return reason.Worked{
		Name: "drain-and-refills, " + v.Title, Value: float64(circuit.Refills(v.Heel, limit.Value)), Unit: "refills",
		Formula: weak + " + max(0, ceil((ln(limit) − " + weak + " × ln(heel ÷ stops)) ÷ ln(heel)))",
		Source:  reason.Ours, WouldChange: would,
		Inputs: []reason.Input{
			{Symbol: "weak", Label: "above this share a filling stops early", Value: plant.Weak, Source: reason.Ours},
			{Symbol: "stops", Label: "of its fill, there", Value: plant.Stops, Source: reason.Ours},
			{Symbol: "heel", Label: "stays after draining", Value: v.Heel, Source: reason.Ours}, limit,
		},
	}.Exact()
}

// lay puts the steps in their order.
func (l *laying) lay() error {
	l.addBegin()
	if !l.in.Dirty {
		l.phase = Acidic
		if err := l.addRounds(); err != nil {
			return err
		}
	}
	l.phase, l.round = Rinsing, 0
	l.placed = map[string]bool{} // where a round is left out, nobody knows how full a jug is
	l.rinse()
	l.phase = Proving
	l.soakFilterMeanwhile()
	l.prove()
	l.phase = After
	l.finish()
	return l.err
}

// plan is what has been laid, if nothing in it must never be.
func (l *laying) plan() (Plan, error) {
	setup := SetupOf(l.f)
	setup.Tray, setup.Tank = 0, 0 // the liquids are followed by themselves
	p := Plan{Setups: []Setup{setup}, Activities: l.activities(), AsksFound: true}
	p.put(l.steps)
	l.d.Planned = time.Duration(l.p.Contact() * float64(time.Second))
	if l.in.Wash != nil && !l.in.Dirty {
		p.join(*l.in.Wash)
	}
	p.addUp()
	l.p.End(false)
	if err := Cleared(l.p); err != nil {
		return p, err
	}
	return p, p.Check()
}

// Cleared refuses a plan that did to a plant what must never be.
func Cleared(p *plant.Plant) error {
	if len(p.Broken) == 0 {
		return nil
	}
	return &Unsafe{Violation: p.Broken[0]}
}

// Unsafe is the refusal of a plan that the model of the machine does not clear.
type Unsafe struct {
	Violation plant.Violation
	Hands     string // for which hands, or what answer
	Step      string
	Task      task.ID // that the plan is for; empty is a descale
}

// Error says what would happen.
func (u *Unsafe) Error() string { return "the plan is not cleared: " + u.Violation.Error() }

// Refusal is it as it is told.
func (u *Unsafe) Refusal() *reason.Refusal {
	why := fmt.Sprintf("After %.0f minutes: %s.", u.Violation.T/60, u.Violation.Why)
	no := reason.Refuse(NotCleared, "Not led here: the model of this machine does not clear it").
		Of("task", string(cmp.Or(u.Task, task.Descale)),
			"a plan in which nothing happens that must not").Why(reason.Ours, why)
	if u.Hands != "" {
		no.Why(reason.Ours, "That is so "+u.Hands+".")
	}
	if u.Task != "" && u.Task != task.Descale {
		return no.Instead("A workshop does it. Put it on record, with who did it.")
	}
	return no.Instead("A workshop descales it; treat the water meanwhile.")
}

// Unwrap lets it be told as any refusal.
func (u *Unsafe) Unwrap() error { return u.Refusal() }

// activities are the descale, and the renewal of what treats the water beside it.
func (l *laying) activities() []Activity {
	d := Activity{
		ID: descaleID, Task: task.Descale, Title: task.Descale.Title(), Descale: l.d,
		Takes: []Resource{TheHands, ThePump, TheJug, TheSink, ThePower},
	}
	if l.in.Dirty {
		d.Task, d.Title = task.AcidRinse, task.AcidRinse.Title()
		return []Activity{d}
	}
	list := []Activity{d}
	if task, any := Renews(l.in.Setting); any && l.in.Renew {
		list = append(
			list,
			Activity{ID: renewID, Task: task, Title: task.Title(), Takes: []Resource{TheHands, TheSink}},
		)
	}
	return list
}

// setMeasures sums up what is mixed.
func (l *laying) setMeasures() {
	card := l.in.Card
	solution := reason.Worked{
		Name: "solution in all", Value: l.mixed, Unit: "L", Formula: "mixed", Source: reason.Ours,
		WouldChange: []string{"more or less scale", "another strength", "a larger tank"},
		Inputs: []reason.Input{{
			Symbol: "mixed", Label: "what goes in and through, and what a slow hand lets through beside, in all batches",
			Value: l.mixed, Unit: "L", Source: reason.Ours,
		}},
	}.Exact()
	l.d.Solution = solution
	card.Solution = solution
	card = card.Measured()
	l.d.Measure, l.d.Spoons = card.Measure, card.Spoons
}

// join lets a wash follow, once the acid is out and the filter is back.
func (p *Plan) join(w Plan) {
	steps := w.Steps()
	settle := Step{
		ID: "settle", Lane: Hands, Part: w.Activities[0].Part, After: []string{p.Order[len(p.Order)-1]}, Phase: After,
		Activity: descaleID, Title: "to its usual heat, a few minutes", Head: "A few minutes", Button: "The clock runs",
		Do:       []string{"Until group and gauge stand as usual. Then the wash; the acid is out."},
		Cautions: []reason.Caution{scald},
		Body:     Wait{For: settles, Early: true, Ends: "It is at its usual heat"},
	}
	setup := w.Setups[0]
	p.Setups = append(p.Setups[:0:0], setup)
	for _, a := range w.Activities {
		a.Steps = nil
		p.Activities = append(p.Activities, a)
	}
	p.put([]Step{settle})
	for _, s := range steps {
		if len(s.After) == 0 {
			s.After = []string{"settle"}
		}
		p.put([]Step{s})
	}
}
