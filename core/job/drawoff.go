package job

import (
	"fmt"
	"time"

	"freshanvil/core/boiler"
	"freshanvil/core/care"
	"freshanvil/core/circuit"
	"freshanvil/core/descale"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
)

// DrawOff composes the drawing off of a steam boiler by its tap, so that the salts
// which steam leaves behind go out before they set: never more than a quarter of it
// at once, pressure back between. It refuses, with a *reason.Refusal, what
// circuit.DrawsOf refuses.
func DrawOff(a machine.Answers) (Plan, error) {
	f := a.Facts()
	draw, n, err := circuit.DrawsOf(f)
	if err != nil {
		return Plan{}, err
	}
	hot, err := boiler.Boils(f.Gauge)
	if err != nil {
		return Plan{}, err
	}
	watts := f.SteamHeater
	if watts == 0 {
		watts = f.Heater
	}
	back := descale.HeatUp(draw, watts, float64(hot))
	water := "Tank full."
	if f.Plumbed {
		water = "Water supply open."
	}
	steps := []Step{{
		ID: "ready", Title: "at pressure, jug under the tap", Head: "At pressure, jug ready", Button: "All ready",
		Takes: time.Minute, Cautions: []reason.Caution{steamy}, Body: Act{},
		Do: []string{
			"Machine on and at pressure. " + water,
			fmt.Sprintf("A jug that holds more than %s under the hot-water tap.", Litres(draw)),
		},
	}}
	for i := range n {
		steps = append(steps, Step{
			ID: fmt.Sprintf("draw-%d", i+1), Title: fmt.Sprintf("draw %s, %d of %d", Litres(draw), i+1, n),
			Head: "Draw " + Litres(draw), Button: "Drawn, tap shut", Takes: 30 * time.Second, Body: Act{},
			Do: []string{
				"Tap open slowly. Never more than this at once: the element must stay covered.",
				"Tap shut; pour it away.",
			},
			Cautions: []reason.Caution{steamy},
		})
		if i+1 == n {
			break
		}
		steps = append(steps, Step{
			ID: fmt.Sprintf("back-%d", i+1), Title: "pressure back", Head: "Pressure comes back",
			Button: "The pump refills it", Cautions: []reason.Caution{scald},
			Do: []string{
				"The pump refills it and the heater brings it back. Go by the gauge; say when it is up.",
			},
			Body: Soak{
				For:   time.Duration(back.Value * float64(time.Minute)).Round(time.Second),
				Early: true, Ends: "The gauge is up", Length: &back,
			},
		})
	}
	steps = append(steps, Step{
		ID: "done", Title: "look at the gauge", Head: "Look at the gauge", Button: "It is as usual",
		Takes: 20 * time.Second, Body: Act{}, Do: []string{"At its usual pressure, nothing drips: done."},
		Cautions: []reason.Caution{scald},
	})
	p := Plan{
		Setups: []Setup{{Begin: starts(f.Pump), Flow: f.FreeFlow, Duty: f.Duty}},
		Activities: []Activity{{
			ID: "draw-off", Task: care.DrawOff, Title: care.DrawOff.Title(), Takes: []Resource{TheHands, TheJug, ThePower},
		}},
	}
	for i := range steps {
		steps[i].Activity, steps[i].Lane = "draw-off", Hands
		if i > 0 {
			steps[i].After = []string{steps[i-1].ID}
		}
	}
	p.put(steps)
	p.addUp()
	return p, p.Check()
}
