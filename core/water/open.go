package water

import (
	"fmt"
	"math"

	"freshanvil/core/units"
)

// OpenAt is the temperature at which a water that stands open is taken to give off its carbon dioxide
// (our own engineering choice).
const OpenAt units.Temperature = 20

// lostUsual is the share of the carbon dioxide above equilibrium with the air that has left a water
// before it is heated, where it stands open in a jug or a tank (our own engineering choice).
var lostUsual = units.Reading{Low: 0.4, Likely: 0.85, High: 1}

// LostInTheOpen is that share with what it may be.
func LostInTheOpen() units.Reading { return lostUsual }

// Stood is the water after it stood open: the share lost, 0 to 1, of the carbon dioxide above
// equilibrium with the air (10^-3.4 atm) has left it at a temperature, and nothing fell out. A water
// that holds less than the air would give it takes up as much of the difference. The error is a
// *units.OutOfRange, or ErrNoEquilibrium.
func (w Water) Stood(lost float64, at units.Temperature) (Water, error) {
	if !(lost >= 0 && lost <= 1) {
		return w, &units.OutOfRange{Field: "lost_fraction", Value: fmt.Sprint(lost), Allowed: "0 to 1"}
	}
	if !(at >= Coldest && at <= 60) {
		return w, &units.OutOfRange{Field: "tank_c", Value: fmt.Sprint(float64(at)), Allowed: "0 to 60 °C"}
	}
	if lost == 0 {
		return w, nil
	}
	var s solver
	if err := s.aired(&w, float64(at)); err != nil {
		return w, err
	}
	w.Carbon += lost * (s.carbon() - w.Carbon)
	return w, nil
}

// aired is the water at equilibrium with the air, nothing formed.
func (s *solver) aired(w *Water, celsius float64) error {
	if err := s.warm(w, celsius); err != nil {
		return err
	}
	target := s.c.henry + OpenAir*math.Ln10
	s.fixCO2, s.lnCO2 = true, s.u[bH]+s.u[bC]-s.c.k1
	return s.march(&s.lnCO2, target)
}

// Stood is a sample after it stood open, with what the share lost may be: all else that is not sharp
// goes through it, too.
func (f Filled) Stood(lost units.Reading, at units.Temperature) (Filled, error) {
	var first solver
	if err := first.aired(&f.Water, float64(at)); err != nil {
		return f, err
	}
	var failed error
	stand := func(w Water, lost float64) Water {
		s := first
		s.turn(&w)
		if err := s.solve(); err != nil {
			var anew solver
			if err = anew.aired(&w, float64(at)); err != nil {
				failed = err
				return w
			}
			s = anew
		}
		w.Carbon += lost * (s.carbon() - w.Carbon)
		return w
	}
	fresh := f.Water
	f = f.Through(func(w Water) Water { return stand(w, lost.Likely) })
	for _, end := range []float64{lost.Low, lost.High} {
		if end != lost.Likely {
			f.around = append(f.around, stand(fresh, end))
		}
	}
	return f, failed
}
