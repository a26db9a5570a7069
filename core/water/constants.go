package water

import (
	"math"

	"freshanvil/core/units"
)

// The constants, all log10 at a temperature T in kelvin.
//
// Carbonic acid, calcite and the constants of the ion pairs with calcium:
// Plummer & Busenberg 1982, Geochim. Cosmochim. Acta 46:1011 (0 to 90 °C; above
// that extrapolated). Water, the other ion pairs and their enthalpies: Ball &
// Nordstrom 1991, WATEQ4F, USGS Open-File Report 91-183. Activities: Truesdell &
// Jones 1974, J. Res. USGS 2:233. Permittivity and density of water as in
// WATEQ4F.

// Extrapolated is the temperature in °C above which the constants are used
// beyond the range they were fitted in.
const Extrapolated = 90.0

const (
	kelvin = units.KelvinZero
	// gas constant in kcal/(mol K)
	gas = 1.98720425e-3
)

// fit is log K = a + b T + c/T + d log T + e/T²; a plain value with an
// enthalpy is a and h, in kcal/mol, by van 't Hoff from 25 °C.
type fit struct{ a, b, c, d, e, h float64 }

func (f fit) ln(t, logT float64) float64 {
	log := f.a + f.b*t + f.c/t + f.d*logT + f.e/(t*t)
	if f.h != 0 {
		log -= f.h / (math.Ln10 * gas) * (1/t - 1/(25+kelvin))
	}
	return log * math.Ln10
}

var (
	fitHenry   = fit{a: 108.3865, b: 0.01985076, c: -6919.53, d: -40.45154, e: 669365}
	fitK1      = fit{a: -356.3094, b: -0.06091964, c: 21834.37, d: 126.8339, e: -1684915}
	fitK2      = fit{a: -107.8871, b: -0.03252849, c: 5151.79, d: 38.92561, e: -563713.9}
	fitCalcite = fit{a: -171.9065, b: -0.077993, c: 2839.319, d: 71.595}
	fitWater   = fit{a: -283.971, b: -0.05069842, c: 13323, d: 102.24447, e: -1119669}
)

// the basis: what every species is made of; the metals, which are not coupled
// with one another, come first
const (
	bCa = iota
	bMg
	bNa
	bH // H+
	bC // HCO3-
	bS // SO4--
	basis
	metals = bH // how many
)

// species of the water. In ln K + Σ nu ln a it is formed from the basis; a
// neutral one has charge 0.
type species struct {
	name   string
	nu     [basis]float64
	charge float64
	size   float64 // å of Truesdell & Jones
	b      float64
	alk    float64 // equivalents of alkalinity
	k      func(c constants) float64
}

// constants at one temperature, natural logarithms
type constants struct {
	k1, k2, kw, calcite, henry float64
	pairs                      [len(pairs)]float64
	a, b                       float64 // Debye-Hückel, a for natural logarithms
}

// the ion pairs, by their fits
var pairs = [...]fit{
	{a: 1209.12, b: 0.31294, c: -34765.05, d: -478.782},   // Ca + HCO3
	{a: -1228.732, b: -0.299444, c: 35512.75, d: 485.818}, // Ca + CO3
	{a: -59.215, c: 2537.455, d: 20.92298},                // Mg + HCO3
	{a: 0.991, b: 0.00667},                                // Mg + CO3
	{a: 2.30, h: 1.65},                                    // Ca + SO4
	{a: 2.37, h: 4.55},                                    // Mg + SO4
	{a: 1.27, h: 8.91},                                    // Na + CO3
	{a: -0.25},                                            // Na + HCO3
	{a: -12.78},                                           // Ca + H2O - H
	{a: -11.44, h: 15.952},                                // Mg + H2O - H
}

// the hydroxides among the pairs
const (
	pairCaOH = 8
	pairMgOH = 9
)

func pair(i int) func(constants) float64 { return func(c constants) float64 { return c.pairs[i] } }
func pairCO3(i int) func(constants) float64 {
	return func(c constants) float64 { return c.pairs[i] + c.k2 }
}
func free(constants) float64 { return 0 }

var all = [...]species{
	{"H+", [basis]float64{bH: 1}, 1, 9, 0, -1, free},
	{"OH-", [basis]float64{bH: -1}, -1, 3.5, 0, 1, func(c constants) float64 { return c.kw }},
	{"HCO3-", [basis]float64{bC: 1}, -1, 5.4, 0, 1, free},
	{"CO3--", [basis]float64{bH: -1, bC: 1}, -2, 5.4, 0, 2, func(c constants) float64 { return c.k2 }},
	{"CO2", [basis]float64{bH: 1, bC: 1}, 0, 0, 0, 0, func(c constants) float64 { return -c.k1 }},
	{"Ca++", [basis]float64{bCa: 1}, 2, 5.0, 0.165, 0, free},
	{"CaHCO3+", [basis]float64{bC: 1, bCa: 1}, 1, 6, 0, 1, pair(0)},
	{"CaCO3", [basis]float64{bH: -1, bC: 1, bCa: 1}, 0, 0, 0, 2, pairCO3(1)},
	{"CaOH+", [basis]float64{bH: -1, bCa: 1}, 1, 6, 0, 1, pair(pairCaOH)},
	{"CaSO4", [basis]float64{bCa: 1, bS: 1}, 0, 0, 0, 0, pair(4)},
	{"Mg++", [basis]float64{bMg: 1}, 2, 5.5, 0.20, 0, free},
	{"MgHCO3+", [basis]float64{bC: 1, bMg: 1}, 1, 4, 0, 1, pair(2)},
	{"MgCO3", [basis]float64{bH: -1, bC: 1, bMg: 1}, 0, 0, 0, 2, pairCO3(3)},
	{"MgOH+", [basis]float64{bH: -1, bMg: 1}, 1, 6.5, 0, 1, pair(pairMgOH)},
	{"MgSO4", [basis]float64{bMg: 1, bS: 1}, 0, 0, 0, 0, pair(5)},
	{"Na+", [basis]float64{bNa: 1}, 1, 4.0, 0.075, 0, free},
	{"NaHCO3", [basis]float64{bC: 1, bNa: 1}, 0, 0, 0, 1, pair(7)},
	{"NaCO3-", [basis]float64{bH: -1, bC: 1, bNa: 1}, -1, 5.4, 0, 2, pairCO3(6)},
	{"SO4--", [basis]float64{bS: 1}, -2, 5.0, -0.04, 0, free},
}

// term is one basis species in another: how often it goes into the mass action.
type term struct {
	at    int
	share float64
}

// part is what a species puts into one balance, and link into one place of the
// Jacobian, counted row by row: a share of its concentration.
type (
	part struct {
		share float64
		of    uint8
		row   uint8
	}
	link struct {
		share float64
		of    uint8
		at    uint8
	}
)

// made, parts and links are the stoichiometry without its zeros. The last row
// is that of the ionic strength.
var made, parts, links = func() (made [len(all)][]term, parts []part, links []link) {
	for i, p := range all {
		for b, nu := range p.nu {
			if nu != 0 {
				made[i] = append(made[i], term{b, nu})
			}
		}
		carries := func(row int, share float64) {
			if share == 0 {
				return
			}
			parts = append(parts, part{share, uint8(i), uint8(row)})
			for _, t := range made[i] {
				links = append(links, link{share * t.share, uint8(i), uint8(row*width + t.at)})
			}
		}
		for b, nu := range p.nu {
			if b == bH {
				nu = p.alk
			}
			carries(b, nu)
		}
		carries(uI, 0.5*p.charge*p.charge)
	}
	return made, parts, links
}()

// at gives the constants at a temperature in °C.
func at(celsius float64) constants {
	t := celsius + kelvin
	log := math.Log10(t)
	c := constants{
		k1:      fitK1.ln(t, log),
		k2:      fitK2.ln(t, log),
		kw:      fitWater.ln(t, log),
		calcite: fitCalcite.ln(t, log),
		henry:   fitHenry.ln(t, log),
	}
	for i := range pairs {
		c.pairs[i] = pairs[i].ln(t, log)
	}
	density := 1 - (celsius-3.9863)*(celsius-3.9863)*(celsius+288.9414)/(508929.2*(celsius+68.12963)) + 0.011445*math.Exp(
		-374.3/math.Max(celsius, 1e-9),
	)
	permittivity := 2727.586 + 0.6224107*t - 466.9151*math.Log(t) - 52000.87/t
	c.a = 1.82483e6 * math.Sqrt(density) / math.Pow(permittivity*t, 1.5) * math.Ln10
	c.b = 50.2916 * math.Sqrt(density/(permittivity*t))
	return c
}

// Henry is how much carbon dioxide water holds at a temperature under one atmosphere of
// it, mol/(kg atm). Source: Plummer & Busenberg 1982; extrapolated above 90 °C.
func Henry(at units.Temperature) float64 {
	t := float64(at) + kelvin
	return math.Exp(fitHenry.ln(t, math.Log10(t)))
}
