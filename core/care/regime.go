package care

import (
	"slices"
	"time"

	"freshanvil/core/circuit"
	"freshanvil/core/machine"
	"freshanvil/core/task"
	"freshanvil/core/treat"
	"freshanvil/core/units"
	"freshanvil/core/water"
)

// Drawn is what a machine draws from an instant on: a source with what was read of it, oldest
// first, through a treatment. Without a source it is the hardness of the answers.
type Drawn struct {
	From      time.Time
	Source    bool
	Samples   []Sampled
	Treatment treat.Setting
}

// Sampled is one reading of a source.
type Sampled struct {
	Taken  time.Time
	How    water.How
	Sample water.Sample
}

// measured is when a reading measured hardness and alkalinity, by more than a strip; zero where it
// did not.
func (s Sampled) measured() time.Time {
	if s.How.Measures() && s.Sample.Hardened() && s.Sample.Alkalinity.Known {
		return s.Taken
	}
	return time.Time{}
}

// SampleAt is the newest reading at an instant; before the first, that one. False where nothing
// was read.
func SampleAt(list []Sampled, t time.Time) (Sampled, bool) {
	if len(list) == 0 {
		return Sampled{}, false
	}
	s := list[0]
	for _, x := range list {
		if !x.Taken.After(t) {
			s = x
		}
	}
	return s, true
}

// Answered is the sample of the five answers.
func Answered(a machine.Answers) water.Sample {
	h := a.Hardness
	if !h.Known {
		return water.Sample{}
	}
	mg := func(v units.Hardness) float64 { return v.In(units.MgPerLCaCO3) }
	return water.Sample{Hardness: units.Reading{Known: true, Low: mg(h.Low), Likely: mg(h.Likely), High: mg(h.High)}}
}

// Supply is what reached a machine from an instant on: a water, and what treated it.
type Supply struct {
	From      time.Time
	Sample    water.Sample
	Treatment treat.Setting
	Facts     machine.Facts
	Source    bool      // it was read, and is not just the hardness of the answers
	Measured  time.Time // when hardness and alkalinity were both measured; zero where they were not
	Named     time.Time // since when the treatment is known to be there
}

// Supplies puts together what reached a machine, oldest first, from what held of it, what it drew
// and the usual settings of the treatments.
func Supplies(held machine.Held, drawn []Drawn, usual []treat.Setting) []Supply {
	var turns []time.Time
	for _, x := range held {
		turns = append(turns, x.From)
	}
	for _, d := range drawn {
		turns = append(turns, d.From)
		for _, s := range d.Samples {
			if s.Taken.After(d.From) {
				turns = append(turns, s.Taken)
			}
		}
	}
	slices.SortFunc(turns, time.Time.Compare)
	turns = slices.CompactFunc(turns, time.Time.Equal)
	var list []Supply
	for _, t := range turns {
		s := supplyAt(held, drawn, usual, t)
		if n := len(list); n > 0 && list[n-1].Treatment.Kind == s.Treatment.Kind {
			s.Named = list[n-1].Named
		}
		list = append(list, s)
	}
	return list
}

func supplyAt(held machine.Held, drawn []Drawn, usual []treat.Setting, t time.Time) Supply {
	now := held.At(t)
	s := Supply{From: t, Named: t, Facts: now.Facts, Sample: Answered(now.Answers)}
	if i := slices.IndexFunc(usual, func(x treat.Setting) bool { return x.Kind == now.Answers.Treatment }); i >= 0 {
		s.Treatment = usual[i]
	}
	for _, d := range drawn {
		if d.From.After(t) {
			continue
		}
		s.Treatment, s.Source, s.Sample, s.Measured = d.Treatment, false, Answered(now.Answers), time.Time{}
		if read, any := SampleAt(d.Samples, t); d.Source && any {
			s.Sample, s.Source, s.Measured = read.Sample, true, read.measured()
		}
	}
	return s
}

// Effects are what a water does in a machine, before and behind what treats it.
type Effects struct {
	Behind, Raw circuit.Effect
	Litres      units.Litres // until the treatment is exhausted; 0 where it never is
}

// EffectsOf works them out; a water that comes to no equilibrium is an error.
func EffectsOf(sample water.Sample, set treat.Setting, f machine.Facts) (e Effects, err error) {
	filled, err := sample.Fill()
	if err != nil {
		return e, err
	}
	after, _, _, err := set.After(filled, f)
	if err != nil {
		return e, err
	}
	if e.Behind, err = circuit.EffectOf(after, f); err != nil {
		return e, err
	}
	raw, err := set.Untreated(filled, f)
	if err != nil {
		return e, err
	}
	if e.Raw, err = circuit.EffectOf(raw, f); err != nil {
		return e, err
	}
	if l := set.Lasts(filled, circuit.Litres{}.All).Litres; l.Name != "" {
		e.Litres = units.Litres(l.Value)
	}
	return e, nil
}

// ClosedEffects are the effects as they were worked out before the model knew water that stands open:
// as if none did. They serve to bring over what was taught then.
func ClosedEffects(sample water.Sample, set treat.Setting, f machine.Facts) (e Effects, err error) {
	filled, err := sample.Fill()
	if err != nil {
		return e, err
	}
	after, _, _, err := set.Behind(filled)
	if err != nil {
		return e, err
	}
	if e.Behind, err = circuit.EffectOf(after, f); err != nil {
		return e, err
	}
	if e.Raw, err = circuit.EffectOf(filled, f); err != nil {
		return e, err
	}
	if l := set.Lasts(filled, circuit.Litres{}.All).Litres; l.Name != "" {
		e.Litres = units.Litres(l.Value)
	}
	return e, nil
}

// Regimes are what the waters that reached a machine do in it; of works out the effects of one.
func Regimes(list []Supply, of func(water.Sample, treat.Setting, machine.Facts) (Effects, error)) ([]Regime, error) {
	regimes := make([]Regime, 0, len(list))
	for _, s := range list {
		e, err := of(s.Sample, s.Treatment, s.Facts)
		if err != nil {
			return nil, err
		}
		r := Regime{From: s.From, Effect: e.Behind, Measured: s.Measured}
		switch t := s.Treatment; {
		case t.Resin > 0:
			r.Raw, r.Renew = &e.Raw, &Renewal{Task: task.Regenerate, Litres: e.Litres, Named: s.Named}
		case t.Rated > 0 || t.Days > 0:
			r.Raw, r.Renew = &e.Raw, &Renewal{Task: task.FilterChange, Litres: e.Litres, Days: t.Days, Named: s.Named}
		}
		regimes = append(regimes, r)
	}
	return regimes, nil
}
