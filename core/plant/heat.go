package plant

import (
	"math"

	"freshanvil/core/units"
)

// heatOfWater in J/(kg K), heatOfSteam in J/kg (handbook values, from memory).
const (
	heatOfWater = units.HeatOfWater * 1000
	heatOfSteam = 2.257e6
)

// course is how the temperature of a body goes on while nothing is switched: towards an
// end, by an exponential where its mass stays, by a power where it changes.
type course struct {
	from, to float64 // °C
	mass     float64 // J/K now
	grows    float64 // J/K a second
	rate     float64 // J/K a second that pull towards the end
	still    bool    // held at its set point, or boiling
	steams   float64 // kg/s that boil off
	on       bool    // a heater may be on
	fires    bool    // and is
}

// at is the temperature after so many seconds.
func (c *course) at(t float64) float64 {
	if c.still || c.rate == 0 {
		return c.from
	}
	if math.Abs(c.grows) < 1e-12 {
		return c.to + (c.from-c.to)*math.Exp(-c.rate/c.mass*t)
	}
	left := (c.mass + c.grows*t) / c.mass
	if left <= 0 {
		return c.to
	}
	return c.to + (c.from-c.to)*math.Pow(left, -c.rate/c.grows)
}

// when is how long it takes to a temperature; +Inf where it never gets there.
func (c *course) when(celsius float64) float64 {
	ahead, all := celsius-c.from, c.to-c.from
	if c.still || c.rate == 0 || ahead*all <= 0 || math.Abs(ahead) >= math.Abs(all) {
		return math.Inf(1)
	}
	left := (c.to - celsius) / (c.to - c.from) // of the way
	if math.Abs(c.grows) < 1e-12 {
		return -math.Log(left) * c.mass / c.rate
	}
	t := c.mass / c.grows * (math.Pow(left, -c.grows/c.rate) - 1)
	if !(t >= 0) {
		return math.Inf(1)
	}
	return t
}

// body is what the vessels that share their heat come to.
type body struct {
	litres, full, metal, in, grows float64 // L, L, kg of water, L/s, L/s
	tau, watts, set                float64
	vented, blows                  bool
}

func (p *Plant) bodyOf(n int, f *flows) (b body, from float64) {
	from, b.set = p.Spec.Room, math.Inf(1)
	for i := range p.V {
		v := &p.Spec.Vessels[i]
		if v.Body != n || v.Kind == Head {
			continue
		}
		from = p.V[i].Temp
		b.in += f.in[i]
		b.grows += f.in[i] - f.out[i]
		b.full, b.metal, b.litres = b.full+v.Working, b.metal+v.Metal, b.litres+p.V[i].Litres
		b.tau = math.Max(b.tau, v.Tau)
		if p.heats(i) {
			b.watts += v.Watts
			b.set = v.Set
		}
		b.vented = b.vented || p.vented(i)
		b.blows = b.blows || v.Kind != Tube && p.blowsFrom(i)
	}
	return b, from
}

// courseOf is the course of a body under the flows of now.
func (p *Plant) courseOf(n int, f *flows) course {
	b, from := p.bodyOf(n, f)
	c := course{from: from, still: b.tau == 0}
	if c.still {
		return c
	}
	c.mass, c.grows = heatOfWater*(b.litres+b.metal), heatOfWater*b.grows
	lost := heatOfWater * (b.full + b.metal) / b.tau
	feed := b.in * heatOfWater
	c.rate = lost + feed
	c.on = b.watts > 0
	c.fires = c.on && from <= b.set+1e-6
	if !c.fires { // hotter than it is held at: off until it has cooled
		b.watts = 0
	}
	wants := func(celsius float64) float64 { return lost*(celsius-p.Spec.Room) + feed*(celsius-p.Spec.Feed) }
	switch {
	case b.blows && from > 100+1e-9: // steam leaves by the open tap
		c.steams = tapSteam
		b.watts -= tapSteam * heatOfSteam
	case c.fires && b.vented && from >= 100-1e-9 && b.watts > wants(100):
		c.still, c.steams = true, (b.watts-wants(100))/heatOfSteam
	case c.fires && from >= b.set-1e-9 && b.watts > wants(b.set):
		c.still = true
	}
	c.grows -= heatOfWater * c.steams
	c.to = (b.watts + lost*p.Spec.Room + feed*p.Spec.Feed) / c.rate
	return c
}

// tapSteam is what an open steam tap lets out of a boiler under pressure, kg/s (our own
// engineering choice).
const tapSteam = 0.0015

// blowsFrom says whether a vessel's steam tap is open.
func (p *Plant) blowsFrom(i int) bool {
	for g := range p.Gates {
		if o := &p.Spec.Openings[g]; o.Of == i && o.Kind == SteamTap && p.Gates[g].Open {
			return true
		}
	}
	return false
}
