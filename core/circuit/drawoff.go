package circuit

import (
	"fmt"
	"math"

	"freshanvil/core/boiler"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// UsualDraws is how many draws a draw-off has, until more are asked for (common practice).
const UsualDraws = 3

// Our own engineering choices: the share of a tank that may be drawn before the pump draws
// air, and of a jug that is filled; how long an autofill may run at a stretch, s; the least
// draw that is worth the work.
const (
	usable    = 0.8
	jugFull   = 0.85
	fillsFor  = 100.0
	leastDraw = 0.05 // L
)

// The refusals of a draw-off.
const (
	TankTooSmall  reason.Code = "tank_too_small"
	NoSteamBoiler reason.Code = "no_steam_boiler"
)

// DrawOf is how large each draw of a draw-off is: never more than a quarter of
// what the boiler holds as it is kept, than tank and jug hold, than the pump may refill at a
// stretch, nor so much that the element would be uncovered. It refuses, with a
// *reason.Refusal, a machine without a steam boiler of its own or a pump that refills it, one
// that leaks, and one whose tank or jug is too small for a draw that is worth it.
func DrawOf(f machine.Facts) (units.Litres, error) {
	if f.SteamBoiler == 0 || f.Pump == machine.NoPump {
		return 0, reason.Refuse(NoSteamBoiler, "It has no steam boiler that refills itself").
			Of("layout", string(f.Layout), "a machine with a steam boiler of its own, and a pump").
			Why(reason.Trade, "Only a boiler that gives off steam concentrates what steam leaves behind.")
	}
	if f.Condition == "leaks" {
		return 0, reason.Refuse(Leaks, "It leaks: nothing is drawn off").
			Of("condition", f.Condition, "a machine that is sound").
			Why(reason.Trade, "What leaks is switched off, and a technician looks first.").
			Instead("Switch it off, pull the plug and shut the water supply.", "Call a technician.")
	}
	fill := f.SteamFill().Litres()
	draw, _, err := boiler.Draws(fill, boiler.WellRenewed)
	if err != nil {
		return 0, err
	}
	draw = min(draw, fill-1.1*f.SteamCovered().Litres())
	if !f.Plumbed {
		draw = min(draw, usable*f.Tank.Litres())
	}
	draw = min(draw, jugFull*f.Jug.Litres())
	if on := f.Duty.On.Seconds(); on > 0 {
		draw = min(draw, f.FreeFlow.Over(min(fillsFor, on-15)).Litres())
	}
	mark := 0.05 // what a jug shows
	if draw < 0.2 {
		mark = 0.01
	}
	draw = units.Litres(math.Round(math.Floor(float64(draw)/mark+1e-9)*mark*100) / 100)
	if draw < leastDraw {
		return 0, reason.Refuse(TankTooSmall, "Too little can be drawn at once").
			Of("tank_l", fmt.Sprintf("%.1f L", f.Tank.Litres()), "a tank and a jug of at least 0.1 L").
			Why(reason.Ours, "Each draw must leave the element covered and the tank with water for the pump.").
			Why(reason.Trade, "A pump that draws air no longer fills the boiler, and its element stands dry.").
			Instead("Draw a little hot water every day instead, a cup after the last drink, with the tank full.")
	}
	return draw, nil
}

// renews is Turnover as it is shown.
var renews = reason.MustFormula("1 − (1 − draw ÷ holds)^draws")

// Renews is the share of a steam boiler that so many draws renew, refilled between.
func Renews(f machine.Facts, draw units.Litres, n int) reason.Worked {
	return renews.Of("share of the boiler that is renewed", "", reason.Ours, []reason.Input{
		{Symbol: "draw", Label: "each draw", Value: float64(draw), Unit: "L", Source: reason.Ours},
		{Symbol: "holds", Label: "the boiler holds, as full as it is kept", Value: float64(f.SteamFill().Litres()),
			Unit: "L", Source: reason.Ours},
		{Symbol: "draws", Label: "draws", Value: float64(n), Source: reason.Trade},
	}, "more draws", "a boiler that is kept fuller")
}
