package plant

import (
	"math"

	"freshanvil/core/units"
)

// How fast acid takes scale off, m/s, at 35 °C and below, and by how much faster above
// 80 °C; between them by the logarithm (our own engineering choice, so that practice
// holds: two or three soaks of 20 min clear a single boiler).
const (
	Attack  = 2e-5
	hotter  = 2.5
	coldAt  = 35.0
	hotAt   = 80.0
	doubles = 45.0 // °C above which a minute of contact counts double
	fours   = 70.0 // and fourfold
)

// AttackAt is how fast acid takes scale off at a temperature, m/s.
func AttackAt(celsius float64) float64 {
	share := math.Min(1, math.Max(0, (celsius-coldAt)/(hotAt-coldAt)))
	return Attack * math.Pow(hotter, share)
}

// Weight is what a minute of contact counts for at a temperature (our own engineering
// choice).
func Weight(celsius float64) float64 {
	switch {
	case celsius > fours+1e-9:
		return 4
	case celsius > doubles+1e-9:
		return 2
	}
	return 1
}

// dissolve lets the acid of a vessel work for so many seconds, with what flows in at an
// acid share and load. Share and load follow two first-order courses, whose sum is exact
// while temperature and volume stay.
func (p *Plant) dissolve(i int, dt, q, inAcid, inTaken float64) {
	v, s := &p.Spec.Vessels[i], &p.V[i]
	if s.Litres <= 1e-9 {
		return
	}
	beta := q / s.Litres
	takes := p.Spec.Solution.Takes
	kappa := 0.0
	if s.Scale > 0 && takes*math.Max(s.Acid, inAcid) > s.Taken {
		kappa = AttackAt(s.Temp) * v.Area / (s.Litres / 1000)
	}
	acid := s.Acid
	decay := math.Exp(-beta * dt)
	if kappa == 0 {
		s.Acid = inAcid + (acid-inAcid)*decay
		s.Taken = inTaken + (s.Taken-inTaken)*decay
		return
	}
	a := (kappa*takes*inAcid + beta*inTaken) / (kappa + beta)
	b := takes * (acid - inAcid)
	d := s.Taken - a - b
	fast := math.Exp(-(kappa + beta) * dt)
	loaded := a + b*decay + d*fast
	// what the surface gave is what is more in it than mixing alone would leave
	mixed := inTaken + (s.Taken-inTaken)*decay
	carried := 0.0 // by what left meanwhile
	if beta > 0 {
		carried = q * (a*dt + b*(1-decay)/beta + d*(1-fast)/(kappa+beta) -
			(inTaken*dt + (s.Taken-inTaken)*(1-decay)/beta))
	}
	gave := (loaded-mixed)*s.Litres + carried
	if gave <= 0 {
		loaded, gave = mixed, 0
	}
	if gave > s.Scale {
		loaded, gave = mixed+(loaded-mixed)*s.Scale/gave, s.Scale
	}
	s.Acid, s.Taken = inAcid+(acid-inAcid)*decay, loaded
	s.Scale -= gave
	s.Gas += gave / units.MolarCaCO3
}

// settleGas lets out of a vented vessel what it holds above one atmosphere of gas.
func (p *Plant) settleGas(i int) {
	if s := &p.V[i]; s.Gas > 0 && p.vented(i) {
		s.Gas = math.Min(s.Gas, p.holdsGas(i))
		s.Stood = 0
	}
}
