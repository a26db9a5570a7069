package job

import (
	"fmt"
	"math"
	"time"

	"freshanvil/core/boiler"
	"freshanvil/core/circuit"
	"freshanvil/core/descale"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/units"
)

// MostDraws is the most draws of one draw-off.
const MostDraws = 20

// drawing is a draw-off while it is laid out.
type drawing struct {
	f    machine.Facts
	draw units.Litres
	tank units.Litres // drawn from it since it was filled
	back reason.Worked
}

// DrawOff composes the drawing off of a steam boiler by its tap, so that the salts
// which steam leaves behind go out before they set: so many draws, or as many as usual where
// that is 0, never more than a quarter of it at once, pressure back between, the tank filled
// in time. It refuses, with a *reason.Refusal, what circuit.DrawOf refuses; a number of draws
// that is out of range is a *units.OutOfRange.
func DrawOff(a machine.Answers, draws int) (Plan, error) {
	f := a.Facts()
	if draws == 0 {
		draws = circuit.UsualDraws
	}
	if draws < 1 || draws > MostDraws {
		return Plan{}, &units.OutOfRange{Field: "draws", Value: fmt.Sprint(draws),
			Allowed: fmt.Sprintf("1 to %d", MostDraws)}
	}
	draw, err := circuit.DrawOf(f)
	if err != nil {
		return Plan{}, err
	}
	p, err := modelled(f)
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
	d := drawing{f: f, draw: draw, back: descale.HeatUp(draw, watts, hot)}
	steps := []Step{d.ready(draws, plant.HeatUp(p.Plant))}
	for i := range draws {
		steps = append(steps, d.drawn(i+1, draws), d.pressureBack(i+1))
	}
	steps = append(steps, d.done())
	p.Setups[0].Tray, p.Setups[0].Tank = 0, 0 // the tank is filled by the plan itself
	p.Activities = []Activity{{
		ID: "draw-off", Task: task.DrawOff, Title: task.DrawOff.Title(), Takes: []Resource{TheHands, TheJug, ThePower},
	}}
	p.putInTurn("draw-off", steps)
	p.addUp()
	return p, p.Check()
}

// putInTurn gives an activity steps that are done one after the other.
func (p *Plan) putInTurn(activity string, steps []Step) {
	for i := range steps {
		steps[i].Activity, steps[i].Lane = activity, Hands
		if i > 0 {
			steps[i].After = []string{steps[i-1].ID}
		}
	}
	p.put(steps)
}

// hotTap is the opening that is drawn by.
const hotTap = "hot_water_tap"

func (d *drawing) ready(draws int, heats time.Duration) Step {
	share := circuit.Renews(d.f, d.draw, draws)
	water := say("The water supply is open.")
	if !d.f.Plumbed {
		water = does("Fill the tank.", act(plant.FillUp, "tank"))
	}
	goes := fmt.Sprintf("%d draws of %s renew", draws, Litres(d.draw))
	if draws == 1 {
		goes = fmt.Sprintf("One draw of %s renews", Litres(d.draw))
	}
	return Step{
		ID: "ready", Title: "at pressure, jug under the tap", Head: "At pressure, jug ready", Button: "All ready",
		Takes: time.Minute, Cautions: []reason.Caution{steamy}, Body: Act{},
	}.with(
		say("The machine is on and at pressure. From cold that takes about %s.", spokenTime(heats)), water,
		does(fmt.Sprintf("Put an empty jug that holds more than %s under the hot-water tap.", Litres(d.draw)),
			act(plant.Empty, "jug-tap")),
		say("%s about %.0f %% of the water in the boiler.", goes, math.Round(share.Value*100/5)*5),
	)
}

// drawn is one draw; the tank is filled before it where it would not do.
func (d *drawing) drawn(n, of int) Step {
	fill := doing{}
	if !d.f.Plumbed && d.tank+1.15*d.draw > 0.9*d.f.Tank.Litres() && n > 1 {
		fill = does("Fill the tank first.", act(plant.FillUp, "tank"))
		d.tank = 0
	}
	d.tank += d.draw
	return Step{
		ID: fmt.Sprintf("draw-%d", n), Title: fmt.Sprintf("draw %s, %d of %d", Litres(d.draw), n, of),
		Head: "Draw " + Litres(d.draw), Button: "Drawn, tap closed", Takes: 30 * time.Second,
		Body: Act{Draws: d.draw.Millilitres()}, Cautions: []reason.Caution{steamy},
	}.with(
		fill,
		does(fmt.Sprintf("Open the hot-water tap slowly. Let %s out, then close it.", Litres(d.draw)),
			amount(plant.LetOut, hotTap, float64(d.draw))),
		say("Never take more at once: the element must stay covered."),
		does("Pour the jug away, and put it back.", act(plant.Empty, "jug-tap")),
	)
}

func (d *drawing) pressureBack(n int) Step {
	refill := d.f.FreeFlow.Takes(d.draw.Millilitres())
	long := math.Max(d.back.Value*60, refill)
	return Step{
		ID: fmt.Sprintf("back-%d", n), Title: "pressure back", Head: "Pressure comes back", Button: "The pump refills it",
		Cautions: []reason.Caution{scald},
		Body: Soak{
			For: time.Duration(long * float64(time.Second)).Round(time.Second), Early: true, Ends: "The gauge is up",
			Length: &d.back,
		},
	}.with(say("The pump refills the boiler, and the heater brings it back. Go on when the gauge stands as usual."))
}

func (d *drawing) done() Step {
	again := doing{}
	if !d.f.Plumbed {
		again = does("Fill the tank again.", act(plant.FillUp, "tank"))
	}
	return Step{
		ID: "done", Title: "look at the gauge", Head: "Look at the gauge", Button: "It is as usual",
		Takes: 20 * time.Second, Body: Act{}, Cautions: []reason.Caution{scald},
	}.with(
		say("Is the gauge at its usual pressure, and nothing drips? Then it is done."),
		again,
	)
}
