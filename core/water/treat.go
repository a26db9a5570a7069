package water

import (
	"errors"
	"math"

	"freshanvil/core/units"
)

// Softened is the water behind a resin in hydrogen form that takes x mol/kg of
// calcium and magnesium, calcium first: alkalinity falls by 2x (as CaCO3 both
// fall alike), the carbon stays, so the pH falls. It takes no more than there is.
func (w Water) Softened(x float64) Water {
	x = math.Max(0, math.Min(x, math.Min(w.Calcium+w.Magnesium, w.Alkalinity/2)))
	ca := math.Min(x, w.Calcium)
	w.Calcium, w.Magnesium, w.Alkalinity = w.Calcium-ca, w.Magnesium-(x-ca), w.Alkalinity-2*x
	return w.weaker(3 * x)
}

// Exchanged is the water behind a resin in sodium form that exchanges a share of
// calcium and magnesium for sodium; alkalinity, carbon and so pH stay.
func (w Water) Exchanged(share float64) Water {
	x := share * (w.Calcium + w.Magnesium)
	w.Calcium, w.Magnesium, w.Sodium = w.Calcium*(1-share), w.Magnesium*(1-share), w.Sodium+2*x
	return w.weaker(x)
}

// Permeate is the water behind a membrane that lets a share of the ions pass, and
// all carbon dioxide: what carbon there is beyond the alkalinity.
func (w Water) Permeate(pass float64) Water {
	dioxide := math.Max(0, w.Carbon-w.Alkalinity)
	return Water{
		Calcium:    pass * w.Calcium,
		Magnesium:  pass * w.Magnesium,
		Sodium:     pass * w.Sodium,
		Potassium:  pass * w.Potassium,
		Chloride:   pass * w.Chloride,
		Sulfate:    pass * w.Sulfate,
		Alkalinity: pass * w.Alkalinity,
		Carbon:     dioxide + pass*(w.Carbon-dioxide),
		Strength:   pass * w.Strength,
	}
}

// Blend mixes a share of this water with another: every content adds up.
func (w Water) Blend(share float64, o Water) Water {
	mix := func(a, b float64) float64 { return share*a + (1-share)*b }
	return Water{
		Calcium:   mix(w.Calcium, o.Calcium),
		Magnesium: mix(w.Magnesium, o.Magnesium),
		Sodium:    mix(w.Sodium, o.Sodium),
		Potassium: mix(w.Potassium, o.Potassium),
		Chloride:  mix(w.Chloride, o.Chloride),
		Sulfate: mix(
			w.Sulfate,
			o.Sulfate,
		),
		Alkalinity: mix(w.Alkalinity, o.Alkalinity),
		Carbon:     mix(w.Carbon, o.Carbon),
		Strength:   mix(w.Strength, o.Strength),
	}
}

// weaker takes some ionic strength off, where it is not worked out from the ions.
func (w Water) weaker(by float64) Water {
	if w.Strength > 0 {
		w.Strength = math.Max(leastStrength, w.Strength-by)
	}
	return w
}

const leastStrength = 1e-5 // mol/kg

// Hard is the hardness of a water.
func (w Water) Hard() units.Hardness { return units.Hardness((w.Calcium + w.Magnesium) * 1000) }

// Alk is the alkalinity of a water.
func (w Water) Alk() units.Alkalinity {
	return units.Alkalinity(w.Alkalinity * units.EquivalentCaCO3 * 1000)
}

// Through is a sample behind something that changes its water: what is not sharp
// goes through it as well.
func (f Filled) Through(change func(Water) Water) Filled {
	f.Water = change(f.Water)
	around := f.around
	f.around = make([]Water, len(around))
	for i, w := range around {
		f.around[i] = change(w)
	}
	f.Hardness, f.Alkalinity = f.Range(hardMgL), f.Range(alkMgL)
	f.Calcium = f.Range(func(w Water) float64 { return w.Calcium * units.MolarCaCO3 * 1000 })
	var first solver
	_ = first.warm(&f.Water, 25) // where it fails, so does the next, and says NaN
	f.PH = f.Range(func(w Water) float64 {
		s := first
		s.turn(&w)
		if s.solve() != nil {
			return math.NaN()
		}
		return float64(s.state().PH)
	})
	if f.Chloride.Known {
		f.Chloride = f.Range(func(w Water) float64 { return w.Chloride * massCl * 1000 })
	}
	f.Sodium = f.Range(func(w Water) float64 { return float64(w.SodiumMg()) })
	return f
}

// Range is a figure of the water with what is not sharp moved to both its ends.
func (f Filled) Range(of func(Water) float64) units.Reading {
	base := of(f.Water)
	var up, down float64
	for _, w := range f.around {
		if d := of(w) - base; d > 0 {
			up += d * d
		} else if d < 0 {
			down += d * d
		}
	}
	r := units.Reading{Known: true, Low: base - math.Sqrt(down), Likely: base, High: base + math.Sqrt(up)}
	if base >= 0 {
		r.Low = math.Max(0, r.Low)
	}
	return r
}

// surround finds the water with each value that is not sharp at both its ends,
// one at a time. An end that contradicts the rest cannot be, and is left out.
func (f *Filled) surround() error {
	for _, l := range f.loose {
		for _, v := range []float64{l.low, l.high} {
			m := f.likely
			l.set(&m, v)
			w, err := m.water()
			var never *units.OutOfRange
			if errors.As(err, &never) || errors.Is(err, ErrNoEquilibrium) {
				continue
			}
			if err != nil {
				return err
			}
			f.around = append(f.around, w)
		}
	}
	return nil
}

// hardMgL and alkMgL are hardness and alkalinity in mg/L as CaCO3.
func hardMgL(w Water) float64 { return w.Hard().In(units.MgPerLCaCO3) }
func alkMgL(w Water) float64  { return float64(w.Alk()) }

// SodiumMg is the sodium of a water.
func (w Water) SodiumMg() units.Concentration { return units.Concentration(w.Sodium * massNa * 1000) }
