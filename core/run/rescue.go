package run

import (
	"freshanvil/core/job"
	"freshanvil/core/plant"
)

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
	if tap := p.Spec.FindOpening("steam_tap"); tap >= 0 && p.Spec.FindOpening("cap") < 0 && p.Sour() {
		if p.Gates[tap].Open {
			r.Do = append(r.Do, "Leave the steam tap open, its jug under the wand: gas must leave.")
		} else {
			r.Do = append(r.Do, "Put a jug under the steam wand. Open the steam tap, and leave it open: gas must leave.")
			r.Acts = append(r.Acts, plant.Action{Verb: plant.Open, What: "steam_tap"})
		}
	}
	if p.Soapy() {
		r.Do = append(r.Do, "Leave the handle locked. Detergent dries in the valve: rinse it out as soon as you can.")
	}
	if p.Sour() {
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
