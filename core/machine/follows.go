package machine

import (
	"math"
	"strconv"
	"time"

	"freshanvil/core/units"
)

// derived marks, in the table of defaults, what follows from other facts.
const derived = "*"

// heels are the shares of the working fill that stay after draining, by how a boiler is
// emptied: screw or plug common practice, the rest our own engineering choice.
var heels = map[string]float64{"screws": 0.08, "plug": 0.08, "pouring out": 0.05, "tap": 0.4}

// blockCools is the time constant of a heating block, whose metal holds the heat (our own
// engineering choice).
const blockCools = 42 * time.Minute

// UsualTau is the time constant a boiler cools with: 2.7 h × V^⅓ (our
// own engineering model: 125 to 45 °C in four hours for one litre).
func UsualTau(holds units.Litres) time.Duration {
	return time.Duration(2.7 * math.Cbrt(float64(holds)) * float64(time.Hour))
}

// fillIn works out what follows from other facts, where nobody has said it.
func (f *Facts) fillIn(said func(key string) bool) {
	if f.Drain == "flushing only" || f.Drain == "technician" {
		f.Heel = 0
	} else if !said("heel") {
		f.Heel = heels[f.Drain]
	}
	if !said("cooling_h") {
		f.Cooling = f.cools()
	}
	if !said("steam_cooling_h") {
		f.SteamCooling = 0
		if f.SteamHeater > 0 {
			f.SteamCooling = UsualTau(f.SteamBoiler.Litres())
		}
	}
}

// cools is the time constant of the boiler that cooling_h is of: the steam boiler around a
// brew tube, else the brew boiler.
func (f Facts) cools() time.Duration {
	switch {
	case f.Layout == Thermoblock:
		return blockCools
	case f.HasTube():
		return UsualTau(f.SteamBoiler.Litres())
	}
	return UsualTau(f.BrewBoiler.Litres())
}

// follows is the value of a fact that follows from others, as it is shown.
func (a Answers) follows(key string) string {
	f := a.read()
	v := map[string]float64{
		"heel": f.Heel, "cooling_h": f.Cooling.Hours(), "steam_cooling_h": f.SteamCooling.Hours(),
	}[key]
	return strconv.FormatFloat(math.Round(v*100)/100, 'f', -1, 64)
}

// HasTube says whether brew water passes through a tube in the steam boiler.
func (f Facts) HasTube() bool {
	return f.Layout == HXHome || f.Layout == HXCafe || f.Layout == LeverCam
}

// The share of its volume that a boiler is filled to (our own engineering choices): a
// steam boiler with a probe to the probe, a manual lever below its safety valve.
const (
	probeFill  = 0.7
	pouredFill = 0.85
)

// SteamFill is what the steam boiler holds when it is as full as it is kept; 0 where it
// has none.
func (f Facts) SteamFill() units.Volume { return units.Volume(probeFill * float64(f.SteamBoiler)) }

// BrewFill is what a brew boiler, or the boiler that brewing and steam share, or a tube
// holds when it is as full as it is kept.
func (f Facts) BrewFill() units.Volume {
	if f.Layout == LeverManual {
		return units.Volume(pouredFill * float64(f.BrewBoiler))
	}
	return f.BrewBoiler
}

// The share of its volume from which on an element is covered, until somebody says
// otherwise (our own engineering choices).
const (
	steamCovered  = 0.4
	brewCovered   = 0.9
	pouredCovered = 0.5
)

// SteamCovered is the water from which on the element of the steam boiler is covered.
func (f Facts) SteamCovered() units.Volume {
	return units.Volume(steamCovered * float64(f.SteamBoiler))
}

// BrewCovered is the water from which on the element on the brew side is covered; 0 where
// it is cast in, or there is none.
func (f Facts) BrewCovered() units.Volume {
	switch {
	case f.Layout == Thermoblock || f.HasTube():
		return 0
	case f.Layout == LeverManual:
		return units.Volume(pouredCovered * float64(f.BrewBoiler))
	}
	return units.Volume(brewCovered * float64(f.BrewBoiler))
}
