package app

import (
	"freshanvil/core/care"
	"freshanvil/core/circuit"
	"freshanvil/core/descale"
	"freshanvil/core/machine"
	"freshanvil/core/units"
	"freshanvil/internal/store"
)

// mostWorth is how many things worth finding out are named.
const mostWorth = 3

// Worth names what would help most to know of a machine, of what was not read or said.
func (a *App) Worth(m store.Machine, d Drawing, use circuit.Use) ([]care.Worth, error) {
	list, err := care.Worths(care.Outlook{Answers: m.Answers, Sample: d.Sample, How: d.How, Setting: d.Setting, Use: use,
		Dose: usualDose})
	if len(list) > mostWorth {
		list = list[:mostWorth]
	}
	return list, err
}

// usualDose is the citric acid for as much scale as a machine may ever hold; 0 where it is refused.
func usualDose(f machine.Facts) units.Mass {
	brew, steam, err := descale.AtTheLimit(f)
	if err != nil {
		return 0
	}
	c, err := descale.MixFor(descale.Products()[0], 0, f, descale.Circuits(f, brew, steam))
	if err != nil {
		return 0
	}
	return c.Acid()
}
