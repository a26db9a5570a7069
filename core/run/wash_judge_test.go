package run

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/treat"
)

// allGroups are the groups of a machine, or as many of them as are asked for.
func allGroups(a machine.Answers) []job.Target {
	var list []job.Target
	for g := range a.Facts().Groups {
		list = append(list, job.Target{Group: g + 1})
	}
	return list
}

// explained is a refusal with its reasons.
func explained(err error) string {
	var no *reason.Refusal
	if errors.As(err, &no) {
		return fmt.Sprint(no.Finding.Because)
	}
	return fmt.Sprint(err)
}

// Every wash of every layout is cleared on the model of its machine, by slow and quick hands, with
// each other answer, and left at any instant: by every method, one group and all, dirty, and freed.
func TestEveryWashIsCleared(t *testing.T) {
	for _, l := range machine.Layouts() {
		if l == machine.LeverManual {
			continue
		}
		for _, m := range backflush.Methods() {
			t.Run(fmt.Sprintf("%s %s", l, m.ID), func(t *testing.T) {
				a := answersOf(l)
				a.Valve, a.Drinks, a.Overrides["own_program"] = machine.Yes, 4, "yes"
				for name, targets := range map[string][]job.Target{
					"one": {{Group: 1}}, "all": allGroups(a), "dirty": {{Group: 1, Dirty: true}},
				} {
					p, err := job.Wash(a, m.ID, backflush.UsualPowder, targets...)
					if err != nil {
						t.Fatal(err)
					}
					v, err := Judge(p)
					if err != nil || v.Plays < 25 || v.Rescues < 10 {
						t.Errorf("%s: %v after %+v", name, explained(err), v)
					}
				}
			})
		}
		t.Run(string(l)+" freed", func(t *testing.T) {
			a := answersOf(l)
			a.Valve = machine.Yes
			for blind := range 2 {
				p, err := job.Unblock(a, backflush.UsualPowder, job.Target{Group: 1, Blind: blind})
				if err == nil {
					_, err = Judge(p)
				}
				if err != nil {
					t.Errorf("after %d tries: %v", blind, explained(err))
				}
			}
		})
	}
}

// A café's machine of two to six groups, washed by soaking in turn: no soak is longer than its
// method says and half a minute, by quick and slow hands, in the record of the run itself.
func TestNoSoakOutlastsItsMethod(t *testing.T) {
	for groups := 2; groups <= 6; groups++ {
		t.Run(fmt.Sprintf("%d groups", groups), func(t *testing.T) {
			a := answersOf(machine.MultiCafe)
			a.Valve, a.Overrides["groups"] = machine.Yes, fmt.Sprint(groups)
			p, err := job.Wash(a, backflush.Soak, backflush.UsualPowder, allGroups(a)...)
			if err != nil {
				t.Fatal(err)
			}
			hands := uniform()
			for seed := range uint64(20) {
				hands = append(hands, Mixed(seed))
			}
			for _, h := range hands {
				began, soaked := map[string]time.Duration{}, 0
				_, err := Perform(p, h, func(play *Play, s job.Step) {
					group, id, _ := strings.Cut(s.ID, "-")
					for _, other := range play.f.steps { // what has begun to soak by now
						if at := play.f.begins(other); job.Is[job.Soak](other) && !at.IsZero() {
							began[strings.Split(other.ID, "-")[0]] = at.Sub(play.f.started)
						}
					}
					if id == "detergent" {
						soaked++
						if long := play.Now() - began[group]; long > 3*time.Minute+30*time.Second {
							t.Errorf("%s: group %s soaks %v", h.What, group, long)
						}
					}
				})
				if err != nil || soaked != groups {
					t.Errorf("%s: %d groups soaked, %v", h.What, soaked, err)
				}
			}
		})
	}
}

// Plans that would hurt are caught by name: the handle taken out at once, no rinse, a dose twice as
// large as its rinse, and the rinse before the blind is wiped.
func TestUnsafeWashesAreCaught(t *testing.T) {
	change := func(p job.Plan, id string, with func(*job.Step)) job.Plan {
		for i := range p.Activities {
			for j := range p.Activities[i].Steps {
				if s := &p.Activities[i].Steps[j]; s.ID == id {
					with(s)
				}
			}
		}
		return p
	}
	for name, c := range map[string]struct {
		step  string
		with  func(*job.Step)
		never plant.Never
	}{
		"handle out while it hisses": {"detergent", func(s *job.Step) {
			b, _ := job.BodyOf[job.Pulses](*s)
			b.Off = 0
			s.Body = b
		}, plant.OpenedPressed},
		"a flush that is left out": {"basket", func(s *job.Step) { s.Acts = slices.Delete(s.Acts, 2, 3) }, plant.EndUnproven},
		"four times the dose": {"dose", func(s *job.Step) {
			for i := range s.Acts {
				s.Acts[i].Amount *= 4
			}
		}, plant.EndUnproven},
		"powder into a handle that is locked": {"dose", func(s *job.Step) { s.Acts = s.Acts[2:] }, plant.CannotBeDone},
	} {
		t.Run(name, func(t *testing.T) {
			p := change(plan(t, machine.DualHome, false), c.step, c.with)
			for _, id := range []string{"first", "blind"} {
				p = change(p, id, func(s *job.Step) { s.Takes = 0 })
			}
			play, err := Perform(p, AsSaid())
			if err == nil || play.Plant.Broken[0].Never != c.never {
				t.Errorf("let pass: %v, %v", err, play.Plant.Broken)
			}
		})
	}
}

// A draw-off keeps the element covered and the pump in water, whatever boiler and tank, by slow and
// quick hands: from boilers of 1.8, 6 and 11 L with tanks of one to three.
func TestEveryDrawOffIsCleared(t *testing.T) {
	for _, boiler := range []string{"1.8", "6", "11"} {
		for _, tank := range []string{"1", "1.5", "2", "3"} {
			for _, draws := range []int{0, 1, 8} {
				t.Run(fmt.Sprintf("%s L, a tank of %s, %d draws", boiler, tank, draws), func(t *testing.T) {
					a := answersOf(machine.HXHome, "steam_l", boiler, "tank_l", tank, "jug_l", "2")
					p, err := job.DrawOff(a, draws)
					if err != nil {
						t.Fatal(err)
					}
					if _, err := Judge(p); err != nil {
						t.Error(explained(err))
					}
					play, _ := Perform(p, AsSaid())
					low := play.Plant.Spec.Vessels[play.Plant.Spec.Find("steam")].Covered
					if s := play.Plant.At("steam"); s.Litres < low {
						t.Errorf("%.2f L in the end, covered from %.2f", s.Litres, low)
					}
				})
			}
		}
	}
	for _, l := range []machine.Layout{machine.HXCafe, machine.DualHome, machine.MultiCafe, machine.LeverCam} {
		p, err := job.DrawOff(answersOf(l, "jug_l", "2"), 0)
		if err == nil {
			_, err = Judge(p)
		}
		if err != nil {
			t.Errorf("%s: %s", l, explained(err))
		}
	}
}

// Each kind of treatment is renewed without the pump in air, power on a shut supply or an end with
// the supply shut, on every layout.
func TestEveryRenewalIsCleared(t *testing.T) {
	big := treat.Usual(machine.Softener)
	big.Resin, big.Salt = 8, 1500
	list := map[string]treat.Setting{"softener by hand": big}
	for _, k := range machine.Treatments() {
		list[string(k)] = treat.Usual(k)
	}
	for name, s := range list {
		if _, any := job.Renews(s); !any {
			continue
		}
		for _, l := range machine.Layouts() {
			t.Run(name+" "+string(l), func(t *testing.T) {
				a := answersOf(l)
				a.Treatment = s.Kind
				p, err := job.Renew(a, s, epoch)
				f := a.Facts()
				if noTank := f.Plumbed || f.Tank == 0; s.Kind == machine.InTank && noTank ||
					f.Plumbed && job.RenewsBeside(s) {
					if err == nil {
						t.Error("what stands in a tank, and it has none")
					}
					return
				}
				if err == nil {
					_, err = Judge(p)
				}
				if err != nil {
					t.Error(explained(err))
				}
			})
		}
	}
}
