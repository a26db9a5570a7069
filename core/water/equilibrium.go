package water

import (
	"errors"
	"fmt"
	"math"

	"freshanvil/core/units"
)

// Water is a water whose makeup is known in full, in mol/kg (taken as mol/L).
// Carbon is all inorganic carbon; Alkalinity is in equivalents.
type Water struct {
	Calcium, Magnesium, Sodium, Potassium, Chloride, Sulfate float64
	Carbon, Alkalinity                                       float64
	// Strength is the ionic strength in mol/kg where the ions are not all
	// known; 0 has it worked out from them.
	Strength float64
}

// State is a water at equilibrium with itself at a temperature, in a closed
// vessel: no carbon dioxide lost.
type State struct {
	PH       units.PH
	SI       float64 // saturation index of calcite: log of ion product over constant
	Strength float64 // ionic strength, mol/kg
}

// ErrNoEquilibrium: the makeup does not come to an equilibrium; it is no water.
var ErrNoEquilibrium = errors.New("no equilibrium is found for this makeup")

// unknowns of the solver: the logarithms of the basis activities, the calcite
// that forms, and the ionic strength
const (
	uX = basis
	uI = basis + 1
	n  = basis + 2
	// a row of the system, with its right-hand side
	width = n + 1
)

// system is the Jacobian with minus the residuals beside it, row by row. It and
// the concentrations are a power of two long, so that a masked index needs no
// check.
type system [128]float64

func (j *system) row(r int) *[width]float64 { return (*[width]float64)(j[r*width:]) }

const (
	inSystem  = len(system{}) - 1
	inSpecies = 31
)

// solver holds one water at one temperature. It allocates nothing.
type solver struct {
	w     Water
	c     constants
	lnK   [len(all)]float64
	u     [n]float64 // ln activities; x
	m     [len(all)]float64
	ln    [len(all)]float64 // of m
	gamma [len(all)]float64 // ln
	slope [len(all)]float64 // of gamma by the strength
	inert float64           // ½ Σ m z² of what forms no pair
	total [basis]float64
	// what stands in the place of the carbon balance, and of x = 0
	fixH   bool
	lnH    float64
	fixCO2 bool
	lnCO2  float64
	form   bool // calcite forms until its saturation index is shift
	shift  float64
}

// trace stands in for a total of nothing, mol/kg: a logarithm must be had.
const trace = 1e-12

func (s *solver) begin(w *Water, celsius float64) {
	*s = solver{w: *w, c: at(celsius)}
	for i := range all {
		s.lnK[i] = all[i].k(s.c)
		s.ln[i] = math.Inf(1) // not computed yet
	}
	s.turn(w)
	// near enough: all alkalinity as bicarbonate, the other carbon as dissolved gas
	c := math.Max(w.Alkalinity, 1e-6)
	gas := math.Max(w.Carbon-c, 0.01*c)
	s.u = [n]float64{bC: math.Log(c)}
	for _, b := range [...]int{bCa, bMg, bNa, bS} {
		s.u[b] = math.Log(s.total[b])
	}
	s.u[uI] = w.Strength
	if w.Strength == 0 {
		s.u[uI] = s.inert + 0.9*(2*(w.Calcium+w.Magnesium+w.Sulfate)+0.5*(w.Sodium+c))
	}
	// some of it in pairs, all of it with its activity
	s.setActivities()
	for b, i := range own {
		s.u[b] += s.gamma[i] - 0.04*all[i].charge*all[i].charge/2
	}
	s.u[bH] = math.Log(gas/c) + s.c.k1 - s.gamma[own[bC]]
}

// turn puts another water in the place of the one that was solved: the next
// solution begins where the last one ended.
func (s *solver) turn(w *Water) {
	s.w = *w
	s.inert = 0.5 * (w.Potassium + w.Chloride)
	s.total = [basis]float64{
		bH:  w.Alkalinity,
		bC:  math.Max(w.Carbon, trace),
		bCa: math.Max(w.Calcium, trace),
		bMg: math.Max(w.Magnesium, trace),
		bNa: math.Max(w.Sodium, trace),
		bS:  math.Max(w.Sulfate, trace),
	}
}

// own is the species that each of the basis is itself.
var own = [basis]int{bH: 0, bC: 2, bCa: 5, bMg: 10, bNa: 15, bS: 18}

// setActivities works out the activity coefficients by Truesdell & Jones (published);
// that of a neutral species is 10^(0.1 I), I the ionic strength.
func (s *solver) setActivities() {
	strength := s.u[uI]
	root := math.Sqrt(strength)
	neutral := 0.1 * strength * math.Ln10
	for i := range all {
		p := &all[i]
		if p.charge == 0 {
			s.gamma[i], s.slope[i] = neutral, 0.1*math.Ln10
			continue
		}
		z, wide := s.c.a*p.charge*p.charge, 1/(1+s.c.b*p.size*root)
		s.gamma[i] = p.b*strength*math.Ln10 - z*root*wide
		s.slope[i] = p.b*math.Ln10 - z*wide*wide/(2*root)
	}
}

// speciate gives every species its concentration.
func (s *solver) speciate() {
	s.setActivities()
	for i := range all {
		ln := s.lnK[i] - s.gamma[i]
		for _, t := range made[i] {
			ln += t.share * s.u[t.at]
		}
		if ln > 5 {
			ln = 5 // far off yet: keep it finite
		}
		d := ln - s.ln[i]
		s.ln[i] = ln
		if math.Abs(d) < 0.02 { // the series is good to a hundred-millionth here, and quicker
			s.m[i] *= 1 + d*(1+d*(0.5+d*(1.0/6)))
		} else {
			s.m[i] = math.Exp(ln)
		}
	}
}

func (s *solver) lnCalcite() float64 { return s.u[bCa] + s.u[bC] - s.u[bH] + s.c.k2 - s.c.calcite }

// near is how small the last step must be, relative: Newton squares it, so that
// what is left is below a millionth.
const near = 5e-4

// most steps of Newton before a makeup is given up
const mostSteps = 120

// solve brings the balances to zero by Newton's method, in the logarithms of
// the activities.
func (s *solver) solve() error {
	for range mostSteps {
		s.speciate()
		var j system
		worst := s.balances(&j)
		step, ok := eliminate(&j)
		if !ok {
			return ErrNoEquilibrium
		}
		// no more than a factor of e² at a time, never more calcite than most of
		// what is left, and a strength that stays positive
		damp, change := 1.0, 0.0
		for b := range basis {
			if d := math.Abs(step[b]); d > change {
				change = d
			}
		}
		if change > 2 {
			damp = 2 / change
		}
		if left := s.total[bCa] - s.u[uX]; s.form && step[uX]*damp > 0.9*left {
			damp = 0.9 * left / step[uX]
		}
		if -step[uI]*damp > 0.8*s.u[uI] {
			damp = 0.8 * s.u[uI] / -step[uI]
		}
		for i := range n {
			s.u[i] += damp * step[i]
		}
		if math.IsNaN(change) {
			return ErrNoEquilibrium
		}
		if worst < near && change < near {
			return nil
		}
	}
	return ErrNoEquilibrium
}

// balances fills in the Jacobian and the residuals; it reports the worst
// residual relative to its total.
func (s *solver) balances(j *system) float64 {
	x := s.u[uX]
	sum := [n]float64{uI: s.inert}
	for i := range parts {
		p := &parts[i]
		m := p.share * s.m[p.of&inSpecies]
		sum[p.row&(n-1)] += m
		j[(int(p.row)*width+uI)&inSystem] -= m * s.slope[p.of&inSpecies]
	}
	for i := range links {
		l := &links[i]
		j[int(l.at)&inSystem] += l.share * s.m[l.of&inSpecies]
	}
	worst := 0.0
	for b := range basis {
		r := sum[b] - s.total[b] + formed[b]*x
		row := j.row(b)
		row[uX], row[n] = formed[b], -r
		if b == bC && (s.fixH || s.fixCO2) {
			continue
		}
		if r = math.Abs(r) / (math.Abs(s.total[b]) + 1e-6); r > worst {
			worst = r
		}
	}
	if s.fixH || s.fixCO2 {
		row := j.row(bC)
		*row = [width]float64{bH: 1, n: s.lnH - s.u[bH]}
		if s.fixCO2 {
			row[bC] = 1
			row[n] = s.lnCO2 - s.u[bH] - s.u[bC] + s.c.k1
		}
		worst = math.Max(worst, math.Abs(row[n]))
	}
	if row := j.row(uI); s.w.Strength != 0 {
		*row = [width]float64{uI: 1, n: s.w.Strength - s.u[uI]}
	} else {
		row[uI]--
		row[n] = s.u[uI] - sum[uI]
	}
	row := j.row(uX)
	if s.form {
		*row = [width]float64{bCa: 1, bC: 1, bH: -1, n: s.shift - s.lnCalcite()}
		return math.Max(worst, math.Abs(row[n]))
	}
	*row = [width]float64{uX: 1, n: -x}
	return worst
}

// formed is what a mol of calcite takes out of each balance.
var formed = [basis]float64{bH: 2, bC: 1, bCa: 1}

const few = n - metals // unknowns once the metals are eliminated

// eliminate solves the linear system: the metals first, since they are not
// coupled with one another, then the rest by Gauss, rows scaled, with pivots.
func eliminate(j *system) (step [n]float64, ok bool) {
	if !eliminateMetals(j) {
		return step, false
	}
	var a [few][few + 1]float64
	if !scaleRows(j, &a) || !reduce(&a) {
		return step, false
	}
	for r := few - 1; r >= 0; r-- {
		v := a[r][few]
		for c := r + 1; c < few; c++ {
			v -= a[r][c] * step[c+metals]
		}
		step[r+metals] = v / a[r][r]
	}
	for m := range metals {
		row := j.row(m)
		v := row[n]
		for k := metals; k < n; k++ {
			v -= row[k] * step[k]
		}
		step[m] = v / row[m]
	}
	return step, true
}

// eliminateMetals takes the metals out of the rows below them; false where one has no
// pivot.
func eliminateMetals(j *system) bool {
	for m := range metals {
		row := j.row(m)
		if !(row[m] > 0 && row[m] < math.MaxFloat64) {
			return false
		}
		inverse := 1 / row[m]
		for r := metals; r < n; r++ {
			to := j.row(r)
			f := to[m] * inverse
			if f == 0 {
				continue
			}
			for k := metals; k < width; k++ {
				to[k] -= f * row[k]
			}
		}
	}
	return true
}

// scaleRows copies what is left of the system, each row scaled to a largest
// coefficient of 1; false where a row is empty.
func scaleRows(j *system, a *[few][few + 1]float64) bool {
	for r := range few {
		row := &a[r]
		copy(row[:], j.row(r + metals)[metals:])
		most := 0.0
		for c := range few {
			if d := math.Abs(row[c]); d > most {
				most = d
			}
		}
		if !(most > 0 && most < math.MaxFloat64) {
			return false
		}
		most = 1 / most
		for c := range few + 1 {
			row[c] *= most
		}
	}
	return true
}

// reduce brings the rows to an upper triangle, with pivots; false where one is 0.
func reduce(a *[few][few + 1]float64) bool {
	for c := range few {
		p := c
		for r := c + 1; r < few; r++ {
			if math.Abs(a[r][c]) > math.Abs(a[p][c]) {
				p = r
			}
		}
		if a[p][c] == 0 {
			return false
		}
		if p != c {
			a[c], a[p] = a[p], a[c]
		}
		pivot := &a[c]
		inverse := 1 / pivot[c]
		for r := c + 1; r < few; r++ {
			row := &a[r]
			f := row[c] * inverse
			if f == 0 {
				continue
			}
			for k := c + 1; k <= few; k++ {
				row[k] -= f * pivot[k]
			}
		}
	}
	return true
}

// carbon is all inorganic carbon as speciated.
func (s *solver) carbon() float64 {
	sum := 0.0
	for i := range all {
		sum += s.m[i] * all[i].nu[bC]
	}
	return sum
}

func (s *solver) state() State {
	return State{PH: units.PH(-s.u[bH] / math.Ln10), SI: s.lnCalcite() / math.Ln10, Strength: s.u[uI]}
}

// Temperatures that are computed, °C.
const (
	Coldest = 0.0
	Hottest = 100.0
)

func checkTemp(celsius float64) error {
	if !(celsius >= Coldest && celsius <= Hottest) {
		return fmt.Errorf("%v °C is outside %v to %v", celsius, Coldest, Hottest)
	}
	return nil
}

// WithPH gives the water its inorganic carbon from the pH it has at a
// temperature; its alkalinity and ions must be set.
func (w Water) WithPH(ph units.PH, at units.Temperature) (Water, error) {
	celsius := float64(at)
	if err := checkTemp(celsius); err != nil {
		return w, err
	}
	var s solver
	s.begin(&w, celsius)
	s.fixH, s.lnH = true, -float64(ph)*math.Ln10
	s.u[bH] = s.lnH
	if err := s.solve(); err != nil {
		return w, err
	}
	w.Carbon = s.carbon()
	return w, nil
}

// Warm is the water brought to a temperature in a closed vessel.
func (w Water) Warm(to units.Temperature) (State, error) {
	var s solver
	if err := s.warm(&w, float64(to)); err != nil {
		return State{}, err
	}
	return s.state(), nil
}

func (s *solver) warm(w *Water, celsius float64) error {
	if err := checkTemp(celsius); err != nil {
		return err
	}
	s.begin(w, celsius)
	return s.solve()
}

// Precipitate is the calcium carbonate precipitation potential in a closed
// vessel, of either sign (Standard Methods 2330): the calcite that forms until
// the saturation index is 0; negative where it would dissolve. It
// gives the state before, too.
func (w Water) Precipitate(at units.Temperature) (State, units.Concentration, error) {
	state, formed, err := w.precipitate(float64(at), 0)
	return state, units.Concentration(formed), err
}

// stride is how far a condition is moved at a time, in natural logarithms,
// where moving it all at once does not come to an end.
const stride = 0.7

// march moves a condition to its target by strides, solving at each.
func (s *solver) march(condition *float64, target float64) error {
	for *condition != target {
		if d := target - *condition; math.Abs(d) <= stride {
			*condition = target
		} else {
			*condition += math.Copysign(stride, d)
		}
		if err := s.solve(); err != nil {
			return err
		}
	}
	return nil
}

// saturate lets calcite form or dissolve until its ion product is so far from
// its constant, in natural logarithms.
func (s *solver) saturate(to float64) error {
	before := s.u
	s.form, s.shift = true, to
	if s.solve() == nil {
		return nil
	}
	s.u = before
	s.shift = s.lnCalcite()
	return s.march(&s.shift, to)
}

// precipitate with the constant of calcite lowered by so much, in log10.
func (w Water) precipitate(celsius, lower float64) (State, float64, error) {
	var s solver
	if err := s.warm(&w, celsius); err != nil {
		return State{}, 0, err
	}
	before := s.state()
	if err := s.saturate(-lower * math.Ln10); err != nil {
		return before, 0, err
	}
	return before, s.u[uX] * units.MolarCaCO3 * 1000, nil
}

// Boiled is what is left when the carbon dioxide goes off too.
type Boiled struct {
	PH units.PH
	// Formed is the calcite; Calcium, as CaCO3, and Alkalinity are what stays dissolved.
	Formed, Calcium units.Concentration
	Alkalinity      units.Alkalinity
}

// OpenAir is the log10 of the partial pressure of carbon dioxide in air, in
// atmospheres, that a boiler is taken to come to (our own engineering choice).
const OpenAir = -3.4

// Degas is the calcite that forms when the water also gives off carbon dioxide
// down to a partial pressure, log10 of atmospheres: the most that a boiler
// which steams can drop.
func (w Water) Degas(at units.Temperature, logPCO2 float64) (Boiled, error) {
	var s solver
	if err := s.degas(&w, float64(at), logPCO2); err != nil {
		return Boiled{}, err
	}
	return s.boiled(), nil
}

func (s *solver) degas(w *Water, celsius, logPCO2 float64) error {
	if err := s.warm(w, celsius); err != nil {
		return err
	}
	if err := s.saturate(0); err != nil {
		return err
	}
	target := s.c.henry + logPCO2*math.Ln10
	s.fixCO2, s.lnCO2 = true, s.u[bH]+s.u[bC]-s.c.k1
	return s.march(&s.lnCO2, target)
}

func (s *solver) boiled() Boiled {
	x := s.u[uX]
	return Boiled{
		PH:         s.state().PH,
		Formed:     units.Concentration(x * units.MolarCaCO3 * 1000),
		Calcium:    units.Concentration((s.w.Calcium - x) * units.MolarCaCO3 * 1000),
		Alkalinity: units.Alkalinity((s.w.Alkalinity - 2*x) * units.EquivalentCaCO3 * 1000),
	}
}

// family solves waters that are much alike at one temperature: warmed,
// saturated and degassed. Each begins where the first one ended.
type family struct {
	celsius           float64
	warm, full, boils solver
}

// first solves the one that the others are like.
func (f *family) first(w Water, celsius float64) (p [5]float64, err error) {
	f.celsius = celsius
	if err = f.warm.warm(&w, celsius); err != nil {
		return p, err
	}
	f.full = f.warm
	if err = f.full.saturate(0); err != nil {
		return p, err
	}
	if err = f.boils.degas(&w, float64(SteamTemp), OpenAir); err != nil {
		return p, err
	}
	return figures(&f.warm, &f.full, &f.boils), nil
}

// like solves another; where that does not come to an end it begins anew.
func (f *family) like(w Water) ([5]float64, error) {
	a, b, c := f.warm, f.full, f.boils
	a.turn(&w)
	b.turn(&w)
	c.turn(&w)
	if a.solve() == nil && b.solve() == nil && c.solve() == nil {
		return figures(&a, &b, &c), nil
	}
	var anew family
	return anew.first(w, f.celsius)
}

// lowered is the calcite that forms of the first one with the constant of calcite
// lowered by so much, in log10; mg/L.
func (f *family) lowered(w Water, by float64) (float64, error) {
	s := f.full
	s.shift = -by * math.Ln10
	if s.solve() == nil {
		return s.u[uX] * units.MolarCaCO3 * 1000, nil
	}
	_, more, err := w.precipitate(f.celsius, by)
	return more, err
}

// figures are pH and index as warmed, the calcite that forms, the calcite that
// forms when steamed, and what then stays dissolved.
func figures(warm, full, boils *solver) [5]float64 {
	s, b := warm.state(), boils.boiled()
	left := math.Min(float64(b.Calcium), float64(b.Alkalinity))
	return [5]float64{float64(s.PH), s.SI, full.u[uX] * units.MolarCaCO3 * 1000, float64(b.Formed), left}
}
