package job

import (
	"fmt"
	"time"

	"freshanvil/core/boiler"
	"freshanvil/core/care"
	"freshanvil/core/descale"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// renewed is the share of the steam boiler that a draw-off renews (common practice
// of draws of a quarter; the share is our own engineering choice).
const renewed = 0.95

// DrawOff composes the drawing off of a steam boiler by its tap, so that the salts
// which steam leaves behind go out before they set: never more than a quarter of it
// at once, pressure back between. A machine without one is a *units.OutOfRange.
func DrawOff(a machine.Answers) (Plan, error) {
	f := a.Facts()
	if f.SteamBoiler == 0 {
		return Plan{}, &units.OutOfRange{
			Field:   "task",
			Value:   "draw_off",
			Allowed: "a machine with a steam boiler of its own",
		}
	}
	draw, n, err := boiler.Draws(f.SteamBoiler.Litres(), renewed)
	if err != nil {
		return Plan{}, err
	}
	p := Plan{
		Version: 3,
		Begin:   starts(f.Pump),
		Flow:    f.FreeFlow,
		Duty:    f.Duty,
		Parts:   []Part{{Group: 1, Task: care.DrawOff, Title: care.DrawOff.Title()}},
	}
	watts := f.SteamHeater
	if watts == 0 {
		watts = f.Heater
	}
	hot, err := boiler.Boils(f.Gauge)
	if err != nil {
		return Plan{}, err
	}
	back := descale.HeatUp(draw, watts, float64(hot))
	add := func(s Step) {
		s.Group, s.Lane = 1, Hands
		if len(p.Steps) > 0 {
			s.After = []string{p.Steps[len(p.Steps)-1].ID}
		}
		p.Steps = append(p.Steps, s)
	}
	add(
		Step{
			ID:     "ready",
			Kind:   Act,
			Title:  "at pressure, jug under the tap",
			Head:   "At pressure, jug ready",
			Button: "All ready",
			Takes:  time.Minute,
			Do: []string{
				"Machine on and at pressure, tank full or supply open.",
				fmt.Sprintf("A jug that holds more than %s under the hot-water tap.", litres(draw)),
			},
			Cautions: []reason.Caution{steamy},
		},
	)
	for i := range n {
		add(
			Step{
				ID:     fmt.Sprintf("draw-%d", i+1),
				Kind:   Act,
				Title:  fmt.Sprintf("draw %s, %d of %d", litres(draw), i+1, n),
				Head:   "Draw " + litres(draw),
				Button: "Drawn, tap shut",
				Takes:  30 * time.Second,
				Do: []string{
					"Tap open slowly. Never more than this at once: the element must stay covered.",
					"Tap shut; pour it away.",
				},
				Cautions: []reason.Caution{steamy},
			},
		)
		if i+1 < n {
			add(
				Step{
					ID:     fmt.Sprintf("back-%d", i+1),
					Kind:   Wait,
					Title:  "pressure back",
					Head:   "Pressure comes back",
					Button: "The pump refills it",
					Ends:   "The gauge is up",
					Waits:  time.Duration(back.Value * float64(time.Minute)).Round(time.Second),
					AtOnce: true,
					Early:  true,
					Length: &back,
					Do: []string{
						"The pump refills it and the heater brings it back. Go by the gauge; say when it is up.",
					},
					Cautions: []reason.Caution{scald},
				},
			)
		}
	}
	add(
		Step{
			ID:       "done",
			Kind:     Act,
			Title:    "look at the gauge",
			Head:     "Look at the gauge",
			Button:   "It is as usual",
			Takes:    20 * time.Second,
			Do:       []string{"At its usual pressure, nothing drips: done."},
			Cautions: []reason.Caution{scald},
		},
	)
	p.sums()
	return p, p.Check()
}
