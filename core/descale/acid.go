// Package descale is the core of taking scale off: the acids and what they
// dissolve, how much of one and how many fills, how much rinse, and when a machine
// is cool enough to open.
//
// It does not say when (package care) nor who should (package circuit), and plans
// no steps (package job).
package descale

import (
	"fmt"
	"math"

	"freshanvil/core/units"
)

// AcidID names an acid.
type AcidID string

// The acids. Blends and sachets are products made of them (product.go).
const (
	Citric   AcidID = "citric"
	Lactic   AcidID = "lactic"
	Sulfamic AcidID = "sulfamic"
	Acetic   AcidID = "acetic"
)

// acid is an acid by its anion: how protons and calcium hold to it. All
// equilibria are cumulative log β at 25 °C and no ionic strength.
type acid struct {
	id     AcidID
	name   string
	molar  float64 // g/mol, anhydrous
	charge float64 // of the bare anion, below 0
	forms  []form
	// most is the protons it gives up.
	protons float64
}

// form is the anion with so many protons and calcium ions.
type form struct {
	beta    float64
	protons float64
	calcium float64
}

// Acids with their pKa (CRC Handbook) and, for citrate and acetate, the calcium
// complexes of NIST 46 as in MINTEQA2 4.
var acids = []acid{
	{
		Citric,
		"citric acid",
		192.124,
		-3,
		[]form{{0, 0, 0}, {6.396, 1, 0}, {11.157, 2, 0}, {14.285, 3, 0}, {4.87, 0, 1}, {9.26, 1, 1}, {12.257, 2, 1}},
		3,
	},
	{Lactic, "lactic acid", 90.078, -1, []form{{0, 0, 0}, {3.86, 1, 0}}, 1},
	{Sulfamic, "sulfamic acid", 97.094, -1, []form{{0, 0, 0}, {1.0, 1, 0}}, 1},
	{Acetic, "acetic acid", 60.052, -1, []form{{0, 0, 0}, {4.757, 1, 0}, {1.18, 0, 1}}, 1},
}

func find(id AcidID) (acid, error) {
	for _, a := range acids {
		if a.id == id {
			return a, nil
		}
	}
	return acid{}, &units.OutOfRange{Field: "acid", Value: string(id), Allowed: "citric, lactic, sulfamic, acetic"}
}

// Name is an acid in plain words.
func (id AcidID) Name() string { a, _ := find(id); return a.name }

// Strengths that are computed, g/L of the anhydrous acid.
const (
	weakest   = 0.1
	strongest = 150.0
)

// constants at 25 °C: of water, and of carbon dioxide open to air at 10^-3.4 atm
// (Plummer & Busenberg 1982)
const (
	logKw       = -13.998
	logBicarb   = -1.468 - 6.352 - 3.4 // activity of HCO3 × H
	debye       = 0.5092
	logKCitrate = -17.68 // calcium citrate tetrahydrate: 0.95 g/L in water (handbook solubility, from memory)
)

// Solution is an acid of a strength with so much calcium carbonate dissolved in
// it, open to air at 25 °C.
type Solution struct {
	PH units.PH
	// Cloudy is the saturation index of calcium citrate; above 0 it can drop out,
	// late and slowly. −Inf for the other acids, and where nothing is dissolved.
	Cloudy float64
	// Strength is the ionic strength, mol/kg.
	Strength float64
}

func (a acid) check(gPerL units.Strength) error {
	if !(gPerL >= weakest && gPerL <= strongest) {
		return &units.OutOfRange{
			Field:   "acid_g_l",
			Value:   fmt.Sprint(float64(gPerL)),
			Allowed: fmt.Sprintf("%g to %g g/L", weakest, strongest),
		}
	}
	return nil
}

// speciation is one state of a solution at a trial pH.
type speciation struct {
	charge, strength float64
	lnCa, lnAnion    float64 // log10 of activities
}

// davies is log10 of the activity coefficient of an ion of a charge; a neutral
// species has 0.1 I.
func davies(z, strength float64) float64 {
	if z == 0 {
		return 0.1 * strength
	}
	root := math.Sqrt(strength)
	return -debye * z * z * (root/(1+root) - 0.3*strength)
}

// at speciates so much acid and calcium, mol/kg, at a pH and ionic strength. The
// two mass balances are a quadratic in the free anion.
func (a acid) at(ph, acidTotal, calcium, strength float64) speciation {
	gamma := [4]float64{davies(0, strength), davies(1, strength), davies(2, strength), davies(3, strength)}
	g := func(z float64) float64 { return gamma[int(math.Abs(z))] }
	free, bound := 0.0, 0.0 // per free anion; per free anion and free calcium
	var weights [8]float64
	for i, f := range a.forms {
		z := a.charge + f.protons + 2*f.calcium
		w := math.Pow(10, f.beta-f.protons*ph+g(a.charge)+f.calcium*g(2)-g(z))
		weights[i] = w
		if f.calcium == 0 {
			free += w
		} else {
			bound += w
		}
	}
	// L (free + bound Ca) = A and Ca (1 + bound L) = C
	l, ca := acidTotal/free, calcium
	if bound > 0 && calcium > 0 {
		p := free + bound*(calcium-acidTotal)
		l = (-p + math.Sqrt(p*p+4*free*bound*acidTotal)) / (2 * free * bound)
		ca = calcium / (1 + bound*l)
	}
	h := math.Pow(10, -ph-g(1))
	oh := math.Pow(10, logKw+ph-g(1))
	hco3 := math.Pow(10, logBicarb+ph-g(1))
	s := speciation{charge: 2*ca + h - oh - hco3, strength: 0.5 * (4*ca + h + oh + hco3)}
	for i, f := range a.forms {
		z := a.charge + f.protons + 2*f.calcium
		c := weights[i] * l
		if f.calcium > 0 {
			c *= ca
		}
		s.charge += z * c
		s.strength += 0.5 * z * z * c
	}
	s.lnCa, s.lnAnion = math.Log10(ca)+g(2), math.Log10(l)+g(a.charge)
	return s
}

// root is where f changes its sign between two ends, by the Illinois method: false
// position that halves the end which stays.
func root(low, high float64, f func(float64) float64) float64 {
	fl, fh := f(low), f(high)
	side := 0
	for range 100 {
		x := (low*fh - high*fl) / (fh - fl)
		if !(x > math.Min(low, high) && x < math.Max(low, high)) {
			x = (low + high) / 2
		}
		fx := f(x)
		if fx == 0 || math.Abs(high-low) < 1e-11*(1+math.Abs(x)) {
			return x
		}
		if (fx > 0) == (fh > 0) {
			high, fh = x, fx
			if side == 1 {
				fl /= 2
			}
			side = 1
		} else {
			low, fl = x, fx
			if side == -1 {
				fh /= 2
			}
			side = -1
		}
		if math.Abs(fx) < 1e-13 {
			return x
		}
	}
	return (low + high) / 2
}

// balanced finds what makes the charges balance, with the ionic strength that goes
// with it.
func balanced(low, high float64, of func(x, strength float64) speciation) (x float64, s speciation) {
	strength := 0.1
	for range 60 {
		x = root(low, high, func(x float64) float64 { return of(x, strength).charge })
		s = of(x, strength)
		if math.Abs(s.strength-strength) < 1e-9 {
			break
		}
		strength = s.strength
	}
	return x, s
}

// Dissolve is an acid of so many g/L (anhydrous) that has taken up so many g/L of
// calcium carbonate. Bad input is a *units.OutOfRange. Judged against PHREEQC with
// minteq.v4.dat (testdata/acids.csv): pH within 0.02, index within 0.05.
func Dissolve(id AcidID, gPerL, caco3 units.Strength) (Solution, error) {
	a, err := find(id)
	if err == nil {
		err = a.check(gPerL)
	}
	if err != nil {
		return Solution{}, err
	}
	if most := a.neutral(gPerL) * 1.5; !(caco3 >= 0 && caco3 <= most) {
		return Solution{}, &units.OutOfRange{
			Field:   "caco3_dissolved_g_l",
			Value:   fmt.Sprint(float64(caco3)),
			Allowed: fmt.Sprintf("0 to %.3g g/L: more than it can take up", float64(most)),
		}
	}
	total, calcium := float64(gPerL)/a.molar, float64(caco3)/units.MolarCaCO3
	ph, s := balanced(-0.5, 12, func(ph, strength float64) speciation { return a.at(ph, total, calcium, strength) })
	return a.solution(ph, s), nil
}

func (a acid) solution(ph float64, s speciation) Solution {
	out := Solution{PH: units.PH(ph), Strength: s.strength, Cloudy: math.Inf(-1)}
	if a.id == Citric && !math.IsInf(s.lnCa, -1) {
		out.Cloudy = 3*s.lnCa + 2*s.lnAnion - logKCitrate
	}
	return out
}

// neutral is the g/L of calcium carbonate that takes up all its protons.
func (a acid) neutral(gPerL units.Strength) units.Strength {
	return gPerL / units.Strength(a.molar) * units.Strength(a.protons) / 2 * units.MolarCaCO3
}

// mostPH is the highest pH that still says anything of what was taken up.
const mostPH = 6.5

// TakenUp is the g/L of calcium carbonate that an acid of so many g/L has taken up
// when it shows a pH; 0 where it shows no more than fresh. Above pH 4.5 it says
// little: the error is a *units.OutOfRange above 6.5.
func TakenUp(id AcidID, gPerL units.Strength, ph units.PH) (units.Strength, error) {
	a, err := find(id)
	if err == nil {
		err = a.check(gPerL)
	}
	if err != nil {
		return 0, err
	}
	if !(ph >= 0 && ph <= mostPH) {
		return 0, &units.OutOfRange{
			Field:   "ph",
			Value:   fmt.Sprint(float64(ph)),
			Allowed: "0 to 6.5: above it the acid is spent, and pH tells no more",
		}
	}
	total := float64(gPerL) / a.molar
	if a.at(float64(ph), total, 0, 0.01).charge > 0 { // more acid than fresh
		return 0, nil
	}
	most := float64(a.neutral(gPerL)) * 1.5 / units.MolarCaCO3
	calcium, _ := balanced(
		0,
		most,
		func(calcium, strength float64) speciation { return a.at(float64(ph), total, calcium, strength) },
	)
	return units.Strength(calcium * units.MolarCaCO3), nil
}

// SlowAt is the pH at which an acid works slowly (our own engineering choice).
const SlowAt units.PH = 4

// Limits are the g/L of calcium carbonate that an acid of a strength takes up: to
// pH 4, where it becomes slow, and until calcium citrate can drop out, which is
// +Inf for the other acids.
type Limits struct{ Slow, Cloudy units.Strength }

// Plans is the one that fills are planned by: the cloudy limit for citric, pH 4 for
// the others.
func (l Limits) Plans() units.Strength { return min(l.Slow, l.Cloudy) }

// LimitsOf works both limits out.
func LimitsOf(id AcidID, gPerL units.Strength) (Limits, error) {
	slow, err := TakenUp(id, gPerL, SlowAt)
	if err != nil {
		return Limits{}, err
	}
	l := Limits{slow, units.Strength(math.Inf(1))}
	if id != Citric {
		return l, nil
	}
	a, _ := find(id)
	low, high := 1e-6, float64(a.neutral(gPerL))*1.4
	index := func(caco3 float64) float64 {
		s, failed := Dissolve(id, gPerL, units.Strength(caco3))
		if failed != nil {
			err = failed
		}
		return s.Cloudy
	}
	if index(high) < 0 || err != nil {
		return l, err
	}
	l.Cloudy = units.Strength(root(low, high, index))
	return l, err
}
