package run

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"

	"freshanvil/core/backflush"
	"freshanvil/core/inspect"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/units"
)

// tended are the tasks that are done to parts.
func tended() []task.ID { return task.Where(func(r task.Row) bool { return job.Tends(r.ID) }) }

func machineOf(l machine.Layout, set ...string) machine.Answers {
	a := machine.Answers{Layout: l, Valve: machine.Yes, Drinks: 4, MilkDrinks: 2, Treatment: machine.Untreated,
		Hardness: units.UnknownHardness(), Overrides: map[string]string{}}
	if l == machine.LeverManual {
		a.Valve = machine.No
	}
	for i := 0; i < len(set); i += 2 {
		a.Overrides[set[i]] = set[i+1]
	}
	return a
}

func partsOf(a machine.Answers, id task.ID) []machine.Part {
	if id.IsOfMachine() {
		return []machine.Part{{}}
	}
	var list []machine.Part
	for g := range a.Facts().Groups {
		list = append(list, machine.Group(g+1))
	}
	return list
}

// Every care of a part is led on every layout that has the part, and the model of the machine clears it:
// order, states and the end; a machine that has not the part, or must not be opened like that, says why.
func TestPartsAreTended(t *testing.T) {
	led := map[task.ID]int{}
	for _, l := range machine.Layouts() {
		for _, id := range tended() {
			t.Run(fmt.Sprintf("%s %s", l, id), func(t *testing.T) {
				a := machineOf(l)
				p, err := job.Tend(a, id, backflush.UsualPowder, partsOf(a, id)...)
				if err == nil {
					_, err = Cleared(p)
				}
				var no *reason.Refusal
				switch {
				case errors.As(err, &no) && no.Code == job.NoSuchPart:
				case errors.As(err, &no) && id == task.DrainSeals: // filled with its element dry: a workshop's
				case err != nil:
					t.Error(err)
				default:
					led[id]++
				}
			})
		}
	}
	for _, id := range tended() {
		if led[id] == 0 {
			t.Errorf("%s is led nowhere", id)
		}
	}
	if led[task.Screen] != len(machine.Layouts()) || led[task.Soak] != len(machine.Layouts()) {
		t.Errorf("led: %v", led)
	}
}

// A pump is bled through the group, off first: no tap of a boiler is opened, it never runs longer than ten seconds
// without water, and three goes end it.
func TestAPumpIsBled(t *testing.T) {
	for _, l := range machine.Layouts() {
		for _, heater := range []string{"can_be_off", "on_means_heating", "cannot_tell"} {
			a := machineOf(l, "brew_heater", heater)
			p, err := job.Tend(a, task.Bleed, backflush.UsualPowder, machine.Part{})
			if a.Facts().Pump == machine.NoPump {
				if err == nil {
					t.Errorf("%s: it has no pump", l)
				}
				continue
			}
			if err == nil {
				_, err = Cleared(p)
			}
			if err != nil {
				t.Fatalf("%s %s: %v", l, heater, err)
			}
			off, goes := false, 0
			for _, s := range p.Steps() {
				for _, x := range s.Acts {
					switch x.Verb {
					case plant.SwitchOff:
						off = true
					case plant.Sample:
						if goes++; !off || x.What != "group-1" {
							t.Errorf("%s: %v before it is off", l, x)
						}
					case plant.Open, plant.Puff, plant.LetOut:
						t.Errorf("%s: %v lets no air out", l, x)
					}
				}
				if choose, is := job.BodyOf[job.Choose](s); is {
					goes += len(choose.Ways[1].Tries)
					if choose.Ways[1].Stop == nil {
						t.Errorf("%s: it never ends", l)
					}
				}
			}
			if goes != 3 {
				t.Errorf("%s: %d goes", l, goes)
			}
		}
	}
}

// leftOut is a plan in which a step is left out.
func leftOut(p job.Plan, id string) job.Plan {
	p.Order = slices.DeleteFunc(slices.Clone(p.Order), func(s string) bool { return s == id })
	p.Activities = slices.Clone(p.Activities)
	for i, a := range p.Activities {
		p.Activities[i].Steps = slices.Clone(a.Steps)
		for j, s := range p.Activities[i].Steps {
			if at := slices.Index(s.After, id); at >= 0 {
				p.Activities[i].Steps[j].After = nil
			}
		}
	}
	return p
}

// Leaving out a step that does something to the machine or a part fails the end of its plan, or an
// instant of it; leaving out a look fails it, too.
func TestNoStepOfACareCanBeLeftOut(t *testing.T) {
	// what is said and not done changes nothing that the model keeps: the grinder's
	// hopper; and a question whose answer is not kept is only a question
	idle := []string{"empty", "back", "tight", "dry"}
	machines := map[task.ID]machine.Answers{task.CamGrease: machineOf(machine.LeverCam)}
	for _, id := range tended() {
		if id == task.Bleed { // which cares for no part
			continue
		}
		a, special := machines[id]
		if !special {
			a = machineOf(machine.HXCafe)
		}
		if id == task.Tank {
			a = machineOf(machine.HXHome)
		}
		p, err := job.Tend(a, id, backflush.UsualPowder, partsOf(a, id)[0])
		if err != nil {
			t.Fatalf("%s: %v", id, err)
		}
		if _, err := Cleared(p); err != nil {
			t.Fatalf("%s: %v", id, err)
		}
		for _, s := range p.Steps() {
			t.Run(fmt.Sprintf("%s without %s", id, s.ID), func(t *testing.T) {
				q := leftOut(p, s.ID)
				err := q.Check()
				if err == nil {
					_, err = Cleared(q)
				}
				silent := slices.Contains(idle, s.ID) && !slices.ContainsFunc(s.Acts, func(a plant.Action) bool {
					return a.Verb != plant.AtHeat
				})
				if err == nil && !silent {
					t.Errorf("«%s» left out: the plan is cleared", s.Title)
				}
			})
		}
	}
}

// What is seen in a run is kept, the group it was of with it, and a verdict that stops, stops.
func TestWhatIsSeenIsKept(t *testing.T) {
	a := machineOf(machine.HXHome)
	p, err := job.Tend(a, task.Screen, backflush.UsualPowder, machine.Group(1))
	if err != nil {
		t.Fatal(err)
	}
	h := AsSaid()
	h.Answers = map[string]job.Answer{"look-seal": job.Answer(inspect.Brittle)}
	played, err := Perform(p, h)
	if err != nil || played.Outcome != Finished {
		t.Fatal(played.Outcome, err)
	}
	var got []string
	for _, f := range played.f.state.Seen {
		if err := f.Check(1); err != nil {
			t.Error(err)
		}
		got = append(got, fmt.Sprintf("%s %s %s", f.Part, f.Sight, f.Verdict))
	}
	want := []string{"group-1 screen clean", "group-1 seal brittle", "group-1 wetting even"}
	if !slices.Equal(got, want) {
		t.Errorf("kept %v, want %v", got, want)
	}

	p, err = job.Tend(a, task.Relief, backflush.UsualPowder, machine.Part{})
	if err != nil {
		t.Fatal(err)
	}
	h.Answers = map[string]job.Answer{"look-relief": job.Answer(inspect.Blows)}
	played, err = Perform(p, h)
	if f := played.f.state.Finding; err != nil || played.Outcome == Finished || f == nil || f.Verdict != reason.Stop ||
		len(played.f.state.Seen) != 1 {
		t.Errorf("a relief valve that blows: %v, %+v", err, f)
	}
}

// Called away while a part is off, one is told to leave the machine off; while a tip stands in liquid, to
// take the cup away first.
func TestAwayFromAPart(t *testing.T) {
	for _, c := range []struct {
		task task.ID
		set  []string
		step string
		want string
	}{
		{task.Screen, nil, "scrub", "do not switch it on"},
		{task.Screen, nil, "off", "Stop the pump"},
		{task.Screen, nil, "heat", "Stop the pump"},
		{task.Tip, []string{"tip", "fixed"}, "soak", "Take the cup away"},
		{task.Tip, []string{"tip", "fixed"}, "look-tip", "Stop the pump"},
	} {
		t.Run(string(c.task)+" "+c.step, func(t *testing.T) {
			a := machineOf(machine.HXHome, c.set...)
			p, err := job.Tend(a, c.task, backflush.UsualPowder, partsOf(a, c.task)...)
			if err != nil {
				t.Fatal(err)
			}
			told := ""
			_, err = Perform(p, AsSaid(), func(play *Play, s job.Step) {
				if s.ID == c.step {
					told = strings.Join(play.f.leave(5).Do, " ")
				}
			})
			if err != nil || !strings.Contains(told, c.want) {
				t.Errorf("told %q, %v", told, err)
			}
		})
	}
}
