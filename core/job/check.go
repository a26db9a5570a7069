package job

import (
	"errors"
	"fmt"

	"freshanvil/core/machine"
	"freshanvil/core/plant"
)

// Check refuses an unsafe order, part by part: detergent pulses before the dose, a
// rinse that is too short, a look before the rinse, no clean blind between, acid
// beside detergent or after the rinse has begun, a vessel that runs over, an end
// before the proof. The error says which step and why.
func (p Plan) Check() error {
	if len(p.Order) == 0 {
		return errors.New("the plan has no steps")
	}
	seen := map[string]bool{}
	at := map[machine.Part]*progress{}
	for _, a := range p.Washes() {
		at[a.Part] = &progress{dirty: a.Wash.Dirty, least: a.Wash.Rinse.Least}
	}
	var acid *acidProgress
	if a := p.Descaling(); a != nil {
		acid = newAcidProgress(a.Descale)
	}
	for _, s := range p.Steps() {
		if err := p.checkTurn(s, seen); err != nil {
			return err
		}
		if g := at[s.Part]; g != nil {
			if err := g.take(s); err != nil {
				return err
			}
		} else if s.Effect != NoEffect {
			return fmt.Errorf("step %s is for %s, which the plan does not wash", s.ID, s.Part)
		}
		if acid != nil {
			if err := acid.take(s); err != nil {
				return err
			}
		}
	}
	for part, g := range at {
		if g.dirty {
			return fmt.Errorf("the plan ends with detergent in %s", part)
		}
	}
	if err := p.checkLooks(); err != nil {
		return err
	}
	if acid != nil {
		return acid.end()
	}
	return nil
}

// checkTurn refuses a step that comes before what it waits for, comes twice, or is of no activity; it counts as seen.
func (p Plan) checkTurn(s Step, seen map[string]bool) error {
	for _, after := range s.After {
		if !seen[after] {
			return fmt.Errorf("step %s comes before %s, which it waits for", s.ID, after)
		}
	}
	if seen[s.ID] || s.ID == "" {
		return fmt.Errorf("step %q stands in the plan twice", s.ID)
	}
	seen[s.ID] = true
	if p.Activity(s.Activity) == nil {
		return fmt.Errorf("step %s is of activity %q, which the plan has not", s.ID, s.Activity)
	}
	return nil
}

// checkLooks refuses a plan in which something is not looked at that an activity is there for.
func (p Plan) checkLooks() error {
	looked := map[string]bool{}
	for _, s := range p.Steps() {
		if look, is := BodyOf[Choose](s); is && look.Sight != "" {
			looked[s.Activity+string(look.Sight)] = true
		}
	}
	for _, a := range p.Activities {
		for _, sight := range a.Looks {
			if !looked[a.ID+string(sight)] {
				return fmt.Errorf("the plan ends before anybody looked at the %s", sight)
			}
		}
	}
	return nil
}

// progress is how far a plan has come with one group.
type progress struct {
	dirty, blind, cup bool
	rinsed, least     int
}

// take goes one step on.
func (g *progress) take(s Step) error {
	if s.Effect == Clears {
		return g.takeClear(s)
	}
	if Is[Pulses](s) && s.Effect != Rinses || s.Effect == Stands {
		return g.takeSoapy(s)
	}
	if look, ok := BodyOf[Look](s); ok && look.At == RinseCup {
		return g.takeCup(s)
	}
	switch s.Effect {
	case Doses:
		if g.rinsed > 0 || g.dirty {
			return fmt.Errorf("step %s puts detergent in a group that is being rinsed", s.ID)
		}
		g.dirty, g.blind, g.cup = true, false, false
	case Rinses:
		if g.dirty && !g.blind {
			return fmt.Errorf("step %s rinses with powder still in the blind", s.ID)
		}
		pulses, _ := BodyOf[Pulses](s)
		g.rinsed += pulses.Count
	case Empties:
		g.blind = g.dirty
	case Proves:
		if !g.cup {
			return fmt.Errorf("step %s ends the rinse before anybody looked in the cup", s.ID)
		}
		g.dirty = false
	case Pours:
		if g.dirty {
			return fmt.Errorf("step %s makes a drink while detergent is in the group", s.ID)
		}
	}
	return nil
}

// takeClear goes on with clean water before any powder.
func (g *progress) takeClear(s Step) error {
	if g.dirty {
		return fmt.Errorf("step %s is for clean water, and detergent is in the group", s.ID)
	}
	return nil
}

// takeCup goes on with the look in the cup.
func (g *progress) takeCup(s Step) error {
	if g.dirty && g.rinsed < g.least {
		return fmt.Errorf("step %s looks after %d rinse pulses, before the least of %d", s.ID, g.rinsed, g.least)
	}
	g.cup = true
	return nil
}

// takeSoapy goes on with a step in which detergent works.
func (g *progress) takeSoapy(s Step) error {
	switch {
	case !g.dirty:
		return fmt.Errorf("step %s pulses before the dose is in", s.ID)
	case g.rinsed > 0:
		return fmt.Errorf("step %s brings detergent back after the rinse has begun", s.ID)
	}
	g.blind = false
	return nil
}

// acidProgress is how far a plan has come with a descale: what it has done to the machine,
// and what is proven.
type acidProgress struct {
	plan   *Descaling
	plant  *plant.Plant
	phase  int
	fed    bool
	proven map[machine.Part]bool
	cups   map[string]bool // outlets that were looked at
}

var phaseOrder = map[Phase]int{Before: 0, Acidic: 1, Rinsing: 2, Proving: 3, After: 4}

func newAcidProgress(d *Descaling) *acidProgress {
	return &acidProgress{plan: d, plant: d.Begins(), proven: map[machine.Part]bool{}, cups: map[string]bool{}}
}

// take goes one step on: nothing is done that must never be, acid comes before the rinse
// and never beside detergent, and nothing is proven before enough has gone through.
func (x *acidProgress) take(s Step) error {
	if s.Effect == Doses {
		for _, c := range x.plan.Circuits {
			if !x.proven[c.Part] {
				return fmt.Errorf("step %s brings detergent beside acid in the %s", s.ID, c.Title)
			}
		}
	}
	if s.Phase == "" {
		return nil
	}
	if phaseOrder[s.Phase] < x.phase {
		return fmt.Errorf("step %s goes back to %s", s.ID, s.Phase)
	}
	x.phase = phaseOrder[s.Phase]
	for _, a := range s.Acts {
		if a.Verb == plant.PourMix && s.Phase != Acidic {
			return fmt.Errorf("step %s brings acid back after the rinse has begun", s.ID)
		}
	}
	look, _ := BodyOf[Measure](s)
	play(x.plant, s, asSaid)
	switch look.Reads {
	case Feed:
		x.fed = true
	case Proof:
		i := x.plan.Plant.Find(look.Circuit.String())
		if !x.fed || i < 0 || x.plant.Sours(i) {
			return fmt.Errorf("step %s proves the rinse of %s before enough has gone through", s.ID, look.Circuit)
		}
		x.proven[look.Circuit] = x.proven[look.Circuit] || look.Last
		x.cups[look.Outlet] = true
	}
	if err := Cleared(x.plant); err != nil {
		return fmt.Errorf("step %s: %w", s.ID, err)
	}
	return nil
}

// end is what is still missing when the plan is over.
func (x *acidProgress) end() error {
	for _, c := range x.plan.Circuits {
		if !x.proven[c.Part] {
			return fmt.Errorf("the plan ends before the rinse of the %s is proven", c.Title)
		}
		for _, o := range c.Outlets {
			if !x.cups[o.ID] {
				return fmt.Errorf("the plan ends before the rinse of the %s is proven at the %s", c.Title, o.Title)
			}
		}
	}
	x.plant.End(false)
	return Cleared(x.plant)
}
