package run

import (
	"errors"
	"maps"
	"slices"
	"strings"
	"testing"
	"time"

	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
)

// edit changes a step of a plan.
func edit(p *job.Plan, id string, change func(*job.Step)) {
	for a := range p.Activities {
		for i := range p.Activities[a].Steps {
			if s := &p.Activities[a].Steps[i]; s.ID == id {
				s.Acts, s.Do = slices.Clone(s.Acts), slices.Clone(s.Do)
				change(s)
				return
			}
		}
	}
	panic("no step " + id)
}

// lastOf is the last step of a plan whose name begins like that.
func lastOf(p *job.Plan, begins string) (id string) {
	for _, s := range p.Steps() {
		if strings.HasPrefix(s.ID, begins) {
			id = s.ID
		}
	}
	return id
}

// drop takes a step out.
func drop(p *job.Plan, id string) {
	p.Order = slices.DeleteFunc(slices.Clone(p.Order), func(x string) bool { return x == id })
}

// without takes what a step does of one kind out of it.
func without(p *job.Plan, id string, verbs ...plant.Verb) {
	edit(p, id, func(s *job.Step) {
		s.Acts = slices.DeleteFunc(s.Acts, func(a plant.Action) bool { return slices.Contains(verbs, a.Verb) })
	})
}

// heater lets a heater of the plan's machine be another.
func heater(p *job.Plan, vessel string, does machine.HeaterFact) {
	spec := &p.Descaling().Descale.Plant
	spec.Vessels = slices.Clone(spec.Vessels)
	spec.Vessels[spec.Find(vessel)].Heater = does
}

// Plans as they were once written, or could be: each breaks one thing that must never be, and
// is caught, by hands as planned for or by others.
func TestPlansThatWouldHurtAreCaught(t *testing.T) {
	tried := cleared["a dual boiler by its screws"] // its pump is known to run cold
	tried.Overrides = maps.Clone(tried.Overrides)
	tried.Overrides["pump_before_hot"] = "yes"
	mains := answersOf(machine.SingleBoiler, "brew_material", "brass", "water", "mains")
	for name, c := range map[string]struct {
		of    machine.Answers
		does  func(p *job.Plan)
		never plant.Never
	}{
		"the tube is rinsed after the boiler is heated": {cleared["a heat exchanger by its plug"], func(p *job.Plan) {
			for _, id := range []string{"push-group-1", "push-group-1-2", "push-group-1-3"} {
				drop(p, id)
			}
		}, plant.AcidHeated},
		"one soak more than acid may stand": {cleared["a single boiler"], func(p *job.Plan) {
			p.Descaling().Descale.Plant.Solution.Contact = 40 * 60
		}, plant.ContactOver},
		"the cap is never screwed on": {cleared["a poured lever"], func(p *job.Plan) {
			without(p, "on", plant.Close)
		}, plant.PowerOpen},
		"on is heating, while a boiler is empty": {tried, func(p *job.Plan) {
			heater(p, "brew-1", machine.OnHeats)
			without(p, "heaters-off", plant.HeaterOff)
		}, plant.DryElement},
		"the steam boiler heats as it fills with acid": {tried, func(p *job.Plan) {
			heater(p, "steam", machine.OnHeats)
			without(p, "heaters-off", plant.HeaterOff)
		}, plant.DryElement},
		"a heater is turned off that cannot be": {cleared["a dual boiler by its screws"], func(p *job.Plan) {
			heater(p, "brew-1", machine.OnHeats)
		}, plant.CannotBeDone},
		"plugged in before the hose is back": {mains, func(p *job.Plan) {
			without(p, "supply", plant.OpenSupply)
			edit(p, "supply", func(s *job.Step) {
				s.Acts = append(s.Acts, plant.Action{Verb: plant.SwitchOn})
			})
		}, plant.PowerNoSupply},
		"a boiler that is not filled again": {cleared["a poured lever"], func(p *job.Plan) {
			without(p, lastOf(p, "pour-in"), plant.PourIn, plant.PourTo)
		}, plant.DryElement},
		"the litres that must stay are tipped out": {cleared["a thermoblock, stainless"], func(p *job.Plan) {
			edit(p, "sips-steam_tap-2", func(s *job.Step) {
				s.Acts = append(s.Acts, plant.Action{Verb: plant.Empty, What: "tank"})
			})
		}, plant.DrawsAir},
		"acid in the steam boiler with every outlet shut": {cleared["a dual boiler by its screws"], func(p *job.Plan) {
			edit(p, "push-group-1", func(s *job.Step) {
				s.Acts = append(s.Acts, plant.Action{Verb: plant.Close, What: "steam_tap"})
			})
		}, plant.AcidShutIn},
		"a screw before the gas is out": {cleared["a dual boiler by its screws"], func(p *job.Plan) {
			for _, id := range []string{"vent", "vent-wait", "vent-again"} {
				drop(p, id)
			}
			edit(p, "drain-steam-2", func(s *job.Step) {
				s.Acts = append([]plant.Action{{Verb: plant.SwitchOff}, {Verb: plant.Unplug}}, s.Acts...)
			})
			without(p, "drain-brew-1-2", plant.PlugIn, plant.Blip)
		}, plant.OpenedPressed},
		"opened while it is hot": {cleared["a heat exchanger by its plug"], func(p *job.Plan) {
			edit(p, "cool", func(s *job.Step) {
				body, _ := job.BodyOf[job.Wait](*s)
				body.For, body.Read = time.Hour, nil
				s.Body = body
			})
		}, plant.OpenedHot},
		"a pump that runs too long": {cleared["a single boiler"], func(p *job.Plan) {
			edit(p, "push-steam_tap", func(s *job.Step) {
				body, _ := job.BodyOf[job.Push](*s)
				body.Long.Value = 125
				s.Body = body
			})
		}, plant.OverDuty},
		"a jug under two outlets": {cleared["a single boiler"], func(p *job.Plan) {
			for _, id := range []string{"push-steam_tap-3", "push-steam_tap-4", "push-steam_tap-5"} {
				without(p, id, plant.Empty)
			}
		}, plant.OverBrim},
		"the filter stands in acid": {func() machine.Answers {
			a := answersOf(machine.SingleBoiler, "brew_material", "brass")
			a.Treatment = machine.InTank
			return a
		}(), func(p *job.Plan) { without(p, "filter-out", plant.FilterOut) }, plant.FilterInAcid},
		"a mains line is dosed": {mains, func(p *job.Plan) {
			without(p, "intake", plant.MoveIntake, plant.ShutSupply)
		}, plant.AcidIntoMains},
		"to pressure with the tap open": {cleared["a dual boiler by its screws"], func(p *job.Plan) {
			without(p, "tap-shut", plant.Close)
		}, plant.PressureOpen},
		"an end before the drain is proven": {cleared["a heat exchanger by its plug"], func(p *job.Plan) {
			drop(p, "prove-steam-steam-drain")
		}, plant.EndUnproven},
		"a heel as of a tap": {cleared["a heat exchanger by its plug"], func(p *job.Plan) {
			spec := &p.Descaling().Descale.Plant
			spec.Vessels = slices.Clone(spec.Vessels)
			spec.Vessels[spec.Find("steam")].Heel = 0.4
		}, plant.AcidHeated},
	} {
		t.Run(name, func(t *testing.T) {
			p := planOf(t, c.of, nil)
			if err := judgeHands(p, handsFor(p)); err != nil {
				t.Fatalf("it is broken as it is: %v", err)
			}
			c.does(&p)
			var unsafe *job.Unsafe
			if err := judgeHands(p, handsFor(p)); !errors.As(err, &unsafe) {
				t.Fatalf("nothing is caught: %v", err)
			}
			if v := unsafe.Violation; v.Never != c.never {
				t.Errorf("caught as %s (%s), want %s", v.Never, v.Why, c.never)
			}
			if no := unsafe.Refusal(); no.Code != job.NotCleared || len(no.Finding.Because) == 0 || len(no.Finding.Next) == 0 {
				t.Errorf("the refusal says too little: %+v", no)
			}
		})
	}
}
