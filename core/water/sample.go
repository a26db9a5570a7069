package water

import (
	"errors"
	"fmt"
	"math"

	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// Sample is what was read of a water. What was not read is zero and is filled
// by what waters are usually like.
type Sample struct {
	PH     units.Reading
	PHTemp units.Reading // °C at which the pH was read; 25 unless said
	// mg/L as CaCO3
	Hardness, Alkalinity units.Reading
	// mg/L
	Calcium, Magnesium, Sodium, Potassium, Chloride, Sulfate units.Reading
	Solids                                                   units.Reading // mg/L
	Conductivity                                             units.Reading // µS/cm
}

// Hardened says whether the hardness was read, by itself or as calcium and magnesium.
func (s Sample) Hardened() bool { return s.Hardness.Known || s.Calcium.Known && s.Magnesium.Known }

// How is by what a water was read.
type How string

// A strip shows steps of a colour; drops, a meter and a supplier's report measure.
const (
	ByStrip  How = "strip"
	ByDrops  How = "drops"
	ByMeter  How = "meter"
	ByReport How = "report"
)

// Measures says whether it is exact enough for the scale to be worked out from it.
func (h How) Measures() bool { return h == ByDrops || h == ByMeter || h == ByReport }

// mg/L as CaCO3 in a mg/L of the ion, and molar masses in g/mol (IUPAC)
const (
	massCa  = 40.078
	massMg  = 24.305
	massNa  = 22.98977
	massK   = 39.0983
	massCl  = 35.453
	massSO4 = 96.0626
	// CalciumAs and MagnesiumAs turn mg/L of the ion into mg/L as CaCO3.
	CalciumAs   = units.MolarCaCO3 / massCa
	MagnesiumAs = units.MolarCaCO3 / massMg
)

// What waters are usually like, likely and range (our own engineering choices).
var (
	usualHardness    = units.Reading{Low: 30, Likely: 250, High: 400}
	usualCalcium     = units.Reading{Low: 0.6, Likely: 0.78, High: 0.92} // of the hardness
	usualAlkalinity  = units.Reading{Low: 0.6, Likely: 0.8, High: 1.0}   // of the hardness
	usualPH          = units.Reading{Low: 7.2, Likely: 7.6, High: 8.0}
	purePH           = units.Reading{Low: 5.6, Likely: 6, High: 6.6} // of a water that holds next to nothing
	usualSolids      = [2]float64{1.5, 50}                           // × hardness +
	solidsToStrength = 2.5e-5                                        // mol/kg a mg/L
)

// Imbalance is the share by which charges may differ before a water is flagged.
const Imbalance = 0.10

// makeup is a water in plain numbers: one point of what a sample may be.
type makeup struct {
	hardness, calcium float64 // mg/L CaCO3; share of it
	alkalinity        float64 // share of the hardness, or mg/L where shared is false
	shared            bool
	ph, phTemp        float64
	sodium, potassium float64 // mg/L
	chloride, sulfate float64
	closed            bool // chloride closes the charges, or sodium
	solids            float64
	ions              bool // the ions are known: the strength follows from them
}

// one value that is not sharp: how it moves a makeup
type loose struct {
	low, high float64
	set       func(*makeup, float64)
}

// Filled is a sample with what was not read filled in.
type Filled struct {
	Water Water
	// Hardness, Alkalinity, Calcium are what was taken, mg/L CaCO3; PH at its
	// own temperature.
	Hardness, Alkalinity, Calcium, PH units.Reading
	PHRead                            bool            // the pH follows from one that was read
	Softened                          bool            // its hardness was exchanged for sodium
	Chloride                          units.Reading   // mg/L; not known where it only closes the charges
	Taken                             []reason.Reason // what stands in for what was not read
	Sodium                            units.Reading   // mg/L; set behind a treatment
	likely                            makeup
	loose                             []loose
	around                            []Water // with each value that is not sharp at one of its ends
}

var ranges = []struct {
	field, label, unit string
	low, high          float64
	of                 func(*Sample) *units.Reading
}{
	{"ph", "pH", "", 4, 11, func(s *Sample) *units.Reading { return &s.PH }},
	{"ph_temp_c", "pH read at", "°C", 0, 60, func(s *Sample) *units.Reading { return &s.PHTemp }},
	{"hardness_mg_l_caco3", "hardness", "mg/L", 0, 2000, func(s *Sample) *units.Reading { return &s.Hardness }},
	{"alkalinity_mg_l_caco3", "alkalinity", "mg/L", 0, 2000, func(s *Sample) *units.Reading { return &s.Alkalinity }},
	{"ca_mg_l", "calcium", "mg/L", 0, 800, func(s *Sample) *units.Reading { return &s.Calcium }},
	{"mg_mg_l", "magnesium", "mg/L", 0, 500, func(s *Sample) *units.Reading { return &s.Magnesium }},
	{"na_mg_l", "sodium", "mg/L", 0, 2000, func(s *Sample) *units.Reading { return &s.Sodium }},
	{"k_mg_l", "potassium", "mg/L", 0, 500, func(s *Sample) *units.Reading { return &s.Potassium }},
	{"cl_mg_l", "chloride", "mg/L", 0, 3000, func(s *Sample) *units.Reading { return &s.Chloride }},
	{"so4_mg_l", "sulfate", "mg/L", 0, 2500, func(s *Sample) *units.Reading { return &s.Sulfate }},
	{"tds_mg_l", "dissolved solids", "mg/L", 0, 6000, func(s *Sample) *units.Reading { return &s.Solids }},
	{
		"conductivity_us_cm",
		"conductivity",
		"µS/cm",
		0,
		10000,
		func(s *Sample) *units.Reading { return &s.Conductivity },
	},
}

// Said is one thing that was read, as it is shown.
type Said struct {
	Label, Unit string
	Value       units.Reading
}

// Said lists what was read of a sample.
func (s Sample) Said() []Said {
	var list []Said
	for _, r := range ranges {
		if v := *r.of(&s); v.Known && r.of(&s) != &s.PHTemp {
			list = append(list, Said{r.label, r.unit, v})
		}
	}
	return list
}

// Check refuses what no drinking water can be; the error is a *units.OutOfRange
// with the contract's field.
func (s Sample) Check() error {
	for _, r := range ranges {
		v := *r.of(&s)
		if !v.Known {
			continue
		}
		for _, x := range []float64{v.Low, v.Likely, v.High} {
			if !(x >= r.low && x <= r.high) {
				return &units.OutOfRange{
					Field:   r.field,
					Value:   fmt.Sprint(x),
					Allowed: fmt.Sprintf("%g to %g", r.low, r.high),
				}
			}
		}
		if v.Low > v.Likely || v.Likely > v.High {
			return &units.OutOfRange{Field: r.field, Value: v.String(), Allowed: "low, likely and high in that order"}
		}
	}
	return nil
}

// Fill completes a sample. It refuses, with *units.OutOfRange, what contradicts
// itself: more calcium than hardness, more alkalinity than the cations allow,
// charges that differ by more than a tenth where all ions were read.
func (s Sample) Fill() (Filled, error) {
	if err := s.Check(); err != nil {
		return Filled{}, err
	}
	f := Filled{likely: makeup{phTemp: 25}, Chloride: s.Chloride, PHRead: s.PH.Known}
	if s.PHTemp.Known {
		f.likely.phTemp = s.PHTemp.Likely
	}
	if err := f.fillHardness(s); err != nil {
		return f, err
	}
	if err := f.fillCalcium(s); err != nil {
		return f, err
	}
	f.fillAlkalinity(s)
	f.PH = f.take(s.PH, usualPH, func(m *makeup, v float64) { m.ph = v }, "pH was not read: 7.6 is taken, 7.2 to 8.0.")
	f.fillIons(s)
	if err := f.likely.check(s); err != nil {
		return f, err
	}
	if err := f.solve(s); err != nil {
		return f, err
	}
	return f, f.surround()
}

// note writes down what was taken for what was not read.
func (f *Filled) note(text string) {
	f.Taken = append(f.Taken, reason.Reason{Text: text, Source: reason.Ours})
}

// take sets what was read, or the usual value in its place with a note, and keeps its
// range. It gives what was taken.
func (f *Filled) take(r, usual units.Reading, set func(*makeup, float64), note string) units.Reading {
	if !r.Known {
		r = usual
		f.note(note)
	}
	set(&f.likely, r.Likely)
	if r.Low < r.High {
		f.loose = append(f.loose, loose{r.Low, r.High, set})
	}
	return r
}

// fillHardness takes calcium and magnesium together, or else the hardness that was read.
func (f *Filled) fillHardness(s Sample) error {
	hardness := s.Hardness
	if s.Calcium.Known && s.Magnesium.Known {
		both := units.Reading{
			Known:  true,
			Low:    CalciumAs*s.Calcium.Low + MagnesiumAs*s.Magnesium.Low,
			Likely: CalciumAs*s.Calcium.Likely + MagnesiumAs*s.Magnesium.Likely,
			High:   CalciumAs*s.Calcium.High + MagnesiumAs*s.Magnesium.High,
		}
		if s.Hardness.Known && (both.High < 0.9*s.Hardness.Low-2 || both.Low > 1.1*s.Hardness.High+2) {
			return &units.OutOfRange{Field: "hardness_mg_l_caco3", Value: s.Hardness.String(), Allowed: fmt.Sprintf(
				"about %.0f, which calcium and magnesium make; or leave one of them out", both.Likely)}
		}
		hardness = both
	}
	f.Hardness = f.take(hardness, usualHardness, func(m *makeup, v float64) { m.hardness = v },
		"Nobody read the hardness: 250 mg/L is taken, anywhere from 30 to 400, until a strip is read.")
	return nil
}

// fillCalcium takes the calcium as a share of the hardness.
func (f *Filled) fillCalcium(s Sample) error {
	set := func(m *makeup, v float64) { m.calcium = v }
	switch {
	case s.Calcium.Known && f.Hardness.High > 0:
		if CalciumAs*s.Calcium.Low > 1.02*f.Hardness.High+1 {
			return &units.OutOfRange{Field: "ca_mg_l", Value: s.Calcium.String(),
				Allowed: fmt.Sprintf("at most %.1f, the whole hardness", f.Hardness.High/CalciumAs)}
		}
		share := func(ca float64) float64 { return math.Min(1, CalciumAs*ca/math.Max(f.Hardness.Likely, 1e-9)) }
		f.take(units.Reading{Known: true, Low: share(s.Calcium.Low), Likely: share(s.Calcium.Likely),
			High: share(s.Calcium.High)}, units.Reading{}, set, "")
	case s.Magnesium.Known && f.Hardness.Likely > 0:
		share := func(mg float64) float64 { return math.Max(0, 1-MagnesiumAs*mg/f.Hardness.Likely) }
		f.take(units.Reading{Known: true, Low: share(s.Magnesium.High), Likely: share(s.Magnesium.Likely),
			High: share(s.Magnesium.Low)}, units.Reading{}, set, "")
	default:
		f.take(units.Reading{}, usualCalcium, set, "Calcium was not read: 78 % of the hardness is taken, 60 to 92.")
	}
	switch {
	case s.Calcium.Known:
		f.Calcium = s.Calcium.Scale(CalciumAs)
	case s.Magnesium.Known:
		f.Calcium = f.Hardness.Scale(f.likely.calcium)
	default:
		f.Calcium = units.Reading{Low: usualCalcium.Low * f.Hardness.Low, Likely: f.likely.calcium * f.Hardness.Likely,
			High: usualCalcium.High * f.Hardness.High}
	}
	return nil
}

// fillAlkalinity takes what was read, or a share of the hardness.
func (f *Filled) fillAlkalinity(s Sample) {
	set := func(m *makeup, v float64) { m.alkalinity = v }
	if s.Alkalinity.Known {
		f.Alkalinity = f.take(s.Alkalinity, units.Reading{}, set, "")
		return
	}
	f.likely.shared = true
	share := f.take(units.Reading{}, usualAlkalinity, set,
		"Alkalinity was not read: 0.8 of the hardness is taken, 0.6 to 1.0.")
	f.Alkalinity = units.Reading{Low: share.Low * f.Hardness.Low, Likely: share.Likely * f.Hardness.Likely,
		High: share.High * f.Hardness.High}
}

// fillIons takes the other ions, or what dissolved solids say of them.
func (f *Filled) fillIons(s Sample) {
	m := &f.likely
	m.ions = s.Sodium.Known || s.Potassium.Known || s.Chloride.Known || s.Sulfate.Known
	if !m.ions {
		solids := s.Solids
		if !solids.Known && s.Conductivity.Known {
			solids = s.Conductivity.Scale(units.SolidsFactor)
			f.note(fmt.Sprintf("Dissolved solids from the conductivity: %.2f mg/L a µS/cm.", units.SolidsFactor))
		}
		usual := units.Sharp(usualSolids[0]*f.Hardness.Likely + usualSolids[1])
		f.take(solids, usual, func(m *makeup, v float64) { m.solids = v },
			"The other ions were not read: dissolved solids are taken as 1.5 times the hardness and 50 mg/L, and the ionic "+
				"strength from them.")
		return
	}
	for _, x := range []struct {
		r   units.Reading
		set func(*makeup, float64)
	}{
		{s.Sodium, func(m *makeup, v float64) { m.sodium = v }},
		{s.Potassium, func(m *makeup, v float64) { m.potassium = v }},
		{s.Chloride, func(m *makeup, v float64) { m.chloride = v }},
		{s.Sulfate, func(m *makeup, v float64) { m.sulfate = v }},
	} {
		if x.r.Known {
			f.take(x.r, units.Reading{}, x.set, "")
		}
	}
	if m.closed = !s.Chloride.Known || !s.Sodium.Known; m.closed {
		f.note("Of the ions that were not read, chloride or sodium is taken as what the charges leave over.")
	}
}

// solve finds the water of the likely values.
func (f *Filled) solve(s Sample) error {
	var err error
	f.Water, err = f.likely.water()
	if err != nil && !s.PH.Known { // next to no alkalinity carries no such pH
		f.PH, f.likely.ph = purePH, purePH.Likely
		f.note("This water holds next to nothing, so a pH of 6 is taken, 5.6 to 6.6.")
		f.Water, err = f.likely.water()
	}
	return err
}

func (m makeup) alk() float64 {
	if m.shared {
		return m.alkalinity * m.hardness
	}
	return m.alkalinity
}

// charges are the sums in milliequivalents a litre.
func (m makeup) charges() (cations, anions float64) {
	return 2*m.hardness/units.MolarCaCO3 + m.sodium/massNa + m.potassium/massK,
		2*m.alk()/units.MolarCaCO3 + m.chloride/massCl + 2*m.sulfate/massSO4
}

func (m makeup) check(s Sample) error {
	cations, anions := m.charges()
	if s.Sodium.Known && s.Alkalinity.Known && 2*s.Alkalinity.Low/units.MolarCaCO3 > (1+Imbalance)*cations+0.1 {
		return &units.OutOfRange{
			Field: "alkalinity_mg_l_caco3",
			Value: s.Alkalinity.String(),
			Allowed: fmt.Sprintf(
				"at most about %.0f: more than the calcium, magnesium, sodium and potassium can carry",
				cations*units.MolarCaCO3/2,
			),
		}
	}
	if s.Sodium.Known && s.Chloride.Known && s.Sulfate.Known && s.Alkalinity.Known && s.Calcium.Known &&
		s.Magnesium.Known {
		if off := math.Abs(cations - anions); off > Imbalance*(cations+anions)/2 && off > 0.1 {
			return &units.OutOfRange{
				Field:   "ions",
				Value:   fmt.Sprintf("%.2f meq/L of cations, %.2f of anions", cations, anions),
				Allowed: "sums that differ by 10 % at most: read them again, or leave one out",
			}
		}
	}
	return nil
}

// water turns plain numbers into a water with its carbon.
func (m makeup) water() (Water, error) {
	w := Water{
		Calcium:    m.calcium * m.hardness / units.MolarCaCO3 / 1000,
		Magnesium:  (1 - m.calcium) * m.hardness / units.MolarCaCO3 / 1000,
		Alkalinity: 2 * m.alk() / units.MolarCaCO3 / 1000,
	}
	if m.ions {
		w.Sodium, w.Potassium, w.Chloride, w.Sulfate = m.sodium/massNa/1000, m.potassium/massK/1000, m.chloride/massCl/1000,
			m.sulfate/massSO4/1000
		if cations, anions := m.charges(); m.closed {
			if left := (cations - anions) / 1000; left > 0 {
				w.Chloride += left
			} else {
				w.Sodium -= left
			}
		}
	} else {
		w.Strength = math.Max(leastStrength, solidsToStrength*m.solids)
	}
	// hydroxide alone must not be more than the alkalinity, nor acid less than none
	c := at(m.phTemp)
	lnH := -m.ph * math.Ln10
	bound := w.Calcium*math.Exp(c.pairs[pairCaOH]-lnH) + w.Magnesium*math.Exp(c.pairs[pairMgOH]-lnH)
	if hydroxide := math.Exp(c.kw-lnH) - math.Exp(lnH) + bound; hydroxide > 0.9*w.Alkalinity {
		return w, &units.OutOfRange{
			Field:   "ph",
			Value:   fmt.Sprint(m.ph),
			Allowed: fmt.Sprintf("lower: an alkalinity of %.3g mg/L leaves no room for it", m.alk()),
		}
	}
	return w.WithPH(units.PH(m.ph), units.Temperature(m.phTemp))
}

// Answer is a water at one temperature: likely, and the range that what is not
// known and the spread of published constants leave.
type Answer struct {
	Temp         units.Temperature
	PH, SI       units.Reading
	Precipitates units.Reading // CCPP in mg/L, of either sign
	Degassed     units.Reading // calcite in mg/L when steamed; at 95 °C
	Left         units.Reading // what then stays dissolved, mg/L CaCO3: the smaller of calcium and alkalinity
	Extrapolated bool          // beyond the range the constants were fitted in
}

// newer is how much lower log K of calcite the newer published set lies than the
// one used, by temperature in °C: the middle of phreeqc.dat (2024) beside
// wateq4f.dat over 30 waters.
var newer = [][2]float64{{0, 0}, {25, 0.01}, {40, 0.045}, {60, 0.12}, {80, 0.21}, {88, 0.255}, {93, 0.28}, {100, 0.31}}

func newerAt(celsius float64) float64 {
	for i := 1; i < len(newer); i++ {
		if a, b := newer[i-1], newer[i]; celsius <= b[0] {
			return a[1] + (b[1]-a[1])*(celsius-a[0])/(b[0]-a[0])
		}
	}
	return newer[len(newer)-1][1]
}

// SteamTemp is the temperature the degassed equilibrium is taken at: the
// constants are not known far above it (our own engineering choice).
const SteamTemp units.Temperature = 95

// At computes a filled sample at a temperature, 0 to 100 °C. Each value that is
// not sharp is moved to both its ends; the effects are joined as independent
// ones (root of the sum of squares). Good published constants differ: what the newer ones add is
// added above, and as large a step below.
func (f Filled) At(temp units.Temperature) (Answer, error) {
	celsius := float64(temp)
	a := Answer{Temp: temp, Extrapolated: celsius > Extrapolated}
	var alike family
	base, err := alike.first(f.Water, celsius)
	if err != nil {
		return a, err
	}
	var up, down [5]float64
	for _, w := range f.around {
		p, err := alike.like(w)
		var never *units.OutOfRange
		if errors.As(err, &never) {
			continue
		}
		if err != nil {
			return a, err
		}
		for i := range p {
			if d := p[i] - base[i]; d > 0 {
				up[i] += d * d
			} else {
				down[i] += d * d
			}
		}
	}
	lower := newerAt(celsius)
	more, err := alike.lowered(f.Water, lower)
	if err != nil {
		return a, err
	}
	add := [5]float64{1: lower, 2: math.Max(0, more-base[2])}
	for i, to := range []*units.Reading{&a.PH, &a.SI, &a.Precipitates, &a.Degassed, &a.Left} {
		*to = units.Reading{
			Known:  true,
			Low:    base[i] - math.Sqrt(down[i]) - add[i],
			Likely: base[i],
			High:   base[i] + math.Sqrt(up[i]) + add[i],
		}
	}
	a.Left.Low = math.Max(0, a.Left.Low)
	return a, nil
}

// Langelier is the saturation index by the handbook formula (Carrier 1965): pH
// less (9.3 + A + B) + (C + D), with solids, calcium (as CaCO3) and alkalinity above 1 mg/L.
// It knows neither ion pairs nor that pH moves as the water is warmed; it stands beside the equilibrium for comparison.
func Langelier(
	ph units.PH, solids, calcium units.Concentration, alkalinity units.Alkalinity, at units.Temperature,
) (float64, error) {
	for _, x := range []struct {
		field string
		v     float64
	}{{"tds_mg_l", float64(solids)}, {"ca_mg_l_caco3", float64(calcium)},
		{"alkalinity_mg_l_caco3", float64(alkalinity)}} {
		if !(x.v >= 1 && x.v < 1e5) {
			return 0, &units.OutOfRange{
				Field:   x.field,
				Value:   fmt.Sprint(x.v),
				Allowed: "1 to 100000 mg/L: the formula takes its logarithm",
			}
		}
	}
	if !(at >= 0 && at <= 100) || !(ph >= 0 && ph <= 14) {
		return 0, &units.OutOfRange{
			Field:   "ph",
			Value:   fmt.Sprintf("%v at %v", ph, at),
			Allowed: "pH 0 to 14, 0 to 100 °C",
		}
	}
	a := (math.Log10(float64(solids)) - 1) / 10
	b := -13.12*math.Log10(float64(at)+kelvin) + 34.55
	c := math.Log10(float64(calcium)) - 0.4
	d := math.Log10(float64(alkalinity))
	return float64(ph) - ((9.3 + a + b) - (c + d)), nil
}

// Langelier is the index of a filled sample by the handbook formula.
func (f Filled) Langelier(at units.Temperature) (float64, error) {
	return Langelier(units.PH(f.PH.Likely), units.Concentration(f.SolidsLikely()),
		units.Concentration(f.Calcium.Likely), units.Alkalinity(f.Alkalinity.Likely), at)
}

// SolidsLikely is the dissolved solids in mg/L: as read or taken, else the sum
// of the ions, with alkalinity as bicarbonate.
func (f Filled) SolidsLikely() float64 {
	if !f.likely.ions {
		return f.Water.Strength / solidsToStrength
	}
	w := f.Water
	return 1000 * (w.Calcium*massCa + w.Magnesium*massMg + w.Sodium*massNa + w.Potassium*massK +
		w.Chloride*massCl + w.Sulfate*massSO4 + w.Alkalinity*61.0168)
}

// What waters are usually like where nobody has read it: hardness in mg/L as CaCO3, pH; alkalinity and
// calcium as CaCO3 as shares of the hardness.
func UsualHardness() units.Reading   { return usualHardness }
func UsualPH() units.Reading         { return usualPH }
func UsualAlkalinity() units.Reading { return usualAlkalinity }
func UsualCalcium() units.Reading    { return usualCalcium }
