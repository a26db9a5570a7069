package circuit

import (
	"fmt"
	"math"

	"freshanvil/core/boiler"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
)

// renewed is the share of the steam boiler that a draw-off renews (our own
// engineering choice).
const renewed = 0.95

// usable is the share of a tank that may be drawn before the pump draws air (our own
// engineering choice).
const usable = 0.9

// The refusals of a draw-off.
const (
	TankTooSmall  reason.Code = "tank_too_small"
	NoSteamBoiler reason.Code = "no_steam_boiler"
)

// DrawsOf is how large each draw of a draw-off is, in litres, and how many there are.
// It refuses, with a *reason.Refusal, a machine without a steam boiler of its own, one
// that leaks, and one whose tank does not hold what is drawn.
func DrawsOf(f machine.Facts) (draw float64, n int, err error) {
	if f.SteamBoiler == 0 {
		return 0, 0, reason.Refuse(NoSteamBoiler, "It has no steam boiler of its own").
			Of("layout", string(f.Layout), "a machine with a steam boiler of its own").
			Why(reason.Trade, "Only a boiler that gives off steam concentrates what steam leaves behind.")
	}
	if f.Condition == "leaks" {
		return 0, 0, reason.Refuse(Leaks, "It leaks: nothing is drawn off").
			Of("condition", f.Condition, "a machine that is sound").
			Why(reason.Trade, "What leaks is switched off, and a technician looks first.").
			Instead("Switch it off, plug out, water supply shut.", "Call a technician.")
	}
	draw, n, err = boiler.Draws(f.SteamBoiler.Litres(), renewed)
	if err != nil {
		return 0, 0, err
	}
	need, has := draw*float64(n), usable*f.Tank.Litres()
	if !f.Plumbed && need > has {
		return 0, 0, reason.Refuse(TankTooSmall, "The tank does not hold what would be drawn off").
			Of("tank_l", fmt.Sprintf("%.1f L", f.Tank.Litres()),
				fmt.Sprintf("at least %.1f L, or a machine on the mains", math.Ceil(need/usable*10)/10)).
			Why(reason.Ours, fmt.Sprintf("%d draws of %.2g L take %.1f L; the tank gives %.1f before the pump draws air.",
				n, draw, need, has)).
			Why(reason.Trade, "A pump that draws air no longer fills the boiler, and its element stands dry.").
			Instead("Draw a little hot water every day instead, a cup after the last drink, with the tank full.")
	}
	return draw, n, nil
}
