package job

import (
	"fmt"
	"slices"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// The refusals of this package.
const (
	HeadBlocked    reason.Code = "head_blocked"
	ChemicalInside reason.Code = "chemical_inside"
	ContactTooLong reason.Code = "contact_too_long"
	NothingToRenew reason.Code = "nothing_to_renew"
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
}

// Wash composes a wash by a method, water only or with detergent, of the groups
// given. Where one is dirty, detergent is in it already and none is added: it is only
// rinsed, and the largest dose of any method is taken as still lying there. In is the
// detergent at hand. It refuses, with a *reason.Refusal, a machine that must not be
// backflushed, leaks or has not what the method needs, and a group whose drain let
// nothing out twice; a bad group, or one named twice, is a *units.OutOfRange.
func Wash(a machine.Answers, id backflush.MethodID, in backflush.Detergent, targets ...Target) (Plan, error) {
	f := a.Facts()
	p := Plan{Setups: []Setup{SetupOf(f)}}
	chains := make([][]Step, 0, len(targets))
	for _, target := range targets {
		if target.Group < 1 || target.Group > f.Groups || slices.Contains(p.Groups(), target.Group) {
			return Plan{}, &units.OutOfRange{
				Field: "parts", Value: fmt.Sprintf("group-%d", target.Group),
				Allowed: fmt.Sprintf("group-1 to group-%d, each once", f.Groups),
			}
		}
		activity, chain, err := wash(f, id, in, target, p.Setups[0].Begin)
		if err != nil {
			return Plan{}, err
		}
		p.Activities, chains = append(p.Activities, activity), append(chains, chain)
	}
	if len(targets) == 0 {
		return Plan{}, &units.OutOfRange{Field: "parts", Value: "none",
			Allowed: fmt.Sprintf("group-1 to group-%d", f.Groups)}
	}
	p.lay(prepare(f, overlaps(chains)), chains)
	return p, p.Check()
}

// SetupOf is what of a machine the steps of a wash rest on.
func SetupOf(f machine.Facts) Setup {
	return Setup{Begin: starts(f.Pump), Vents: f.Vents, Flow: f.FreeFlow, Tray: f.Tray, Tank: f.Tank, Duty: f.Duty}
}

// overlaps says whether one group stands in its soak while another is washed: then
// each needs a blind of its own.
func overlaps(chains [][]Step) bool {
	return len(chains) > 1 && slices.ContainsFunc(chains, func(list []Step) bool {
		return slices.ContainsFunc(list, Is[Soak])
	})
}

// wash is what is done to one group.
func wash(f machine.Facts, id backflush.MethodID, in backflush.Detergent, t Target, begin string) (Activity, []Step,
	error) {
	a := Activity{
		ID: fmt.Sprintf("wash-%d", t.Group), Part: machine.Group(t.Group),
		Takes: []Resource{TheHands, Resource(machine.Group(t.Group).String()), ThePump, ThePower},
	}
	m, err := backflush.Lookup(id)
	if err == nil && t.Dirty {
		m, err = backflush.Lookup(backflush.HalfTeaspoon)
	}
	if err != nil {
		return a, nil, err
	}
	if err := refuseTarget(f, m, t); err != nil {
		return a, nil, err
	}
	w := &Washing{Method: m.ID, More: m.More, Dirty: t.Dirty, Gone: t.Gone, Blind: t.Blind}
	a.Wash, a.Task, a.Title = w, care.Wash, care.Wash.Title()
	if m.Wet() {
		a.Task, a.Title = care.WaterBackflush, care.WaterBackflush.Title()
		w.Rinse = backflush.Rinse{Shown: waterPulses(m)}
		return a, []Step{blind(), rinsing("rinse", m.Rinse, begin), rest(f)}, nil
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
		a.Task, a.Title = care.Rinse, "Rinse the detergent out"
		w.Rinse = backflush.LeastRinse(m, max(gram, backflush.TabletMass), f, 0)
		chain = []Step{open(), listen(), blind()}
	} else {
		w.Dose = &dose
		w.Rinse = backflush.LeastRinse(m, gram, f, m.First.Count+m.Detergent.Count)
		chain = append([]Step{brush(), dosing(dose, m)}, detergent(m, f)...)
	}
	rinse.Count = w.Rinse.Least
	return a, append(chain, rinsing("rinse", rinse, begin), Cup("cup"), basket(f), discard()), nil
}

// refuseTarget refuses what a method must not be done to.
func refuseTarget(f machine.Facts, m backflush.Method, t Target) error {
	if err := m.Takes(f); err != nil {
		return err
	}
	if Bars(t.Blind) {
		return Blocked(machine.Group(t.Group), t.Blind)
	}
	return nil
}

// Blocked refuses to put pressure again on a group whose drain let nothing out so
// often.
func Blocked(part machine.Part, tries int) *reason.Refusal {
	no := reason.Refuse(HeadBlocked, fmt.Sprintf("Group %d may still be under pressure", part.GroupNumber())).
		Of("parts", part.String(), "a group whose drain lets the water out").
		Why(reason.Log, fmt.Sprintf("Nothing came out at its drain after %d pulses.", tries)).
		Why(reason.Trade, "A pulse that does not come out stays in the head, behind the handle.")
	no.Finding.Verdict = reason.Stop
	return no.Instead("Machine off. Wait until it is cold: leave the handle where it is.",
		"Two tries are enough: call a technician.",
		"It has opened since? Say so with your name on the machine's page.")
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
func detergent(m backflush.Method, f machine.Facts) []Step {
	var list []Step
	switch {
	case m.Program > 0:
		list = append(list, program(m, f))
	case m.Soak > 0:
		list = append(list, soapy("short", m.First, f), soak(m.Soak), soapy("detergent", m.Detergent, f))
	default:
		list = append(list, soapy("detergent", m.Detergent, f))
	}
	list = append(list, first())
	if m.Wiggle {
		list = append(list, wiggle())
	}
	if m.Screen {
		list = append(list, screen())
	}
	empty := empty()
	if m.Tablet {
		empty.Do[1] = "Handle out. Is the tablet gone? If not, leave it in and pulse again before you go on. Empty the " +
			"blind and rinse it under clean water."
	}
	return append(list, empty)
}

// ExtraRinse is a set of water pulses that a run adds for a group.
func ExtraRinse(a Activity, begin, id string, count int) Step {
	more := a.Wash.More
	more.Count = count
	s := rinsing(id, more, begin)
	s.Lane, s.Part, s.Activity = Hands, a.Part, a.ID
	return s
}
