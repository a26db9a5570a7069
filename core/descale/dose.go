package descale

import (
	"fmt"
	"math"

	"freshanvil/core/circuit"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// Circuit is one kind of vessel to be descaled.
type Circuit struct {
	Title string
	Count int
	Litre units.Litres // each holds
	// Heel is the share that stays after draining; 0 where it cannot be drained,
	// only flushed.
	Heel  float64
	Grams units.Mass // of scale in each, as predicted; High is planned for
	High  units.Mass
	From  reason.Worked // how the prediction came about, where it did
}

// pipes is what the lines of a circuit hold besides its vessel (our own
// engineering choice).
const pipes units.Litres = 0.05

// Circuits are the vessels of a machine, with the scale predicted in each (likely
// and high, grams): brew first.
func Circuits(f machine.Facts, brew, steam units.Reading) []Circuit {
	heel := f.Heel
	if f.Drain == "flushing only" || f.Drain == "technician" {
		heel = 0
	}
	c := func(title string, n int, holds units.Litres, heel float64, g units.Reading) Circuit {
		return Circuit{Title: title, Count: n, Litre: holds + pipes, Heel: heel,
			Grams: units.Mass(g.Likely), High: units.Mass(g.High)}
	}
	switch f.Layout {
	case machine.Thermoblock:
		return []Circuit{c("heating block", 1, f.BrewBoiler.Litres(), 0, brew)}
	case machine.SingleBoiler, machine.LeverManual:
		return []Circuit{c("boiler", 1, f.BrewBoiler.Litres(), heel, brew)}
	case machine.DualHome, machine.MultiCafe:
		own := heel
		if f.Drain == "tap" { // it empties the steam boiler alone
			own = 0
		}
		return []Circuit{
			c("brew boiler", f.Groups, f.BrewBoiler.Litres(), own, brew),
			c("steam boiler", 1, f.SteamBoiler.Litres(), heel, steam),
		}
	}
	return []Circuit{
		c("brew tube", f.Groups, f.BrewBoiler.Litres(), 0, brew),
		c("steam boiler", 1, f.SteamBoiler.Litres(), heel, steam),
	}
}

// through is how many volumes of solution a soak renews in a circuit that is not
// drained: 1 − e^−1.5 of the strength after the first (our own engineering choice).
const through = 1.5

// mostFills is how many soaks of up to 20 minutes fit into the longest contact;
// what they do not dissolve stays on the clock for another day (our own engineering
// choice). A vessel that is drained gets two at most.
const (
	mostFills   = 3.0
	mostDrained = 2.0
)

// mostTimes is how many times what the likely scale takes to pH 4 a plan may use at
// most, on top of what fills the circuits (our own engineering choice).
const mostTimes = 3.0

// What the soaks of a circuit come to, as computed and as shown.
var (
	fillDrained     = reason.MustFormula("holds × (1 − heel)")
	strengthDrained = reason.MustFormula("mixed × (1 − heel)")
	fillPushed      = reason.MustFormula("holds × through")
	strengthPushed  = reason.MustFormula("mixed × (1 − exp(−through))")
	fillTakes       = reason.MustFormula("limit × holds")
	fillsNeeded     = reason.MustFormula("min(most, max(1, ceil(scale ÷ takes)))")
	fillsLeave      = reason.MustFormula("max(0, scale − fills × takes)")
)

// Need is what one circuit takes.
type Need struct {
	Circuit
	Scale    reason.Worked // g predicted in each
	Fill     reason.Worked // L of solution a fill, each
	Strength reason.Worked // g/L of acid in it once filled
	Takes    reason.Worked // g of scale a fill takes up before its limit
	Fills    reason.Worked
	// Leaves is the scale, g, that so many fills do not take up: for another day.
	Leaves reason.Worked
	Rinse  Rinse
}

// Card is the dose for a machine.
type Card struct {
	Product  Product
	Strength units.Strength // anhydrous, as mixed
	Needs    []Need
	Solution reason.Worked // L in all
	Measure  reason.Worked // g, mL or sachets of the product in all
	Mixed    reason.Worked // L of solution that it makes: as much as Solution, or more, where it comes by the piece
	ALitre   reason.Worked // of it in a litre
	Spoons   reason.Worked // level teaspoons in all, of a powder; zero for the others
	Ounces   reason.Worked // fl oz of water to an ounce of powder; zero for the others
	Fresh    reason.Worked // pH as mixed
	Limits   Limits
	Findings []reason.Finding
	Because  []reason.Reason
}

// Equilibrium is the source of what an acid takes up.
var Equilibrium = phreeqc

var phreeqc = reason.Source{
	Kind:  reason.Published,
	Which: "acid–base equilibrium with the complexes of NIST 46 (MINTEQA2 4)",
}

// Mix works the dose out: volumes that fill every circuit, fills for the likely
// scale, as many as fit, and rinse. Strength is g/L of anhydrous acid; 0 is as the
// label says, or as weak as the first material asks. Bad input is a
// *units.OutOfRange; a product that must not touch a material, or a dose above what
// the scale can use, is a *reason.Refusal.
func Mix(p Product, gPerL units.Strength, circuits []Circuit, materials ...Material) (Card, error) {
	if err := p.Check(); err != nil {
		return Card{}, err
	}
	if gPerL == 0 {
		gPerL = p.Strength()
		for _, m := range materials {
			gPerL = min(gPerL, p.UsualStrength(m))
		}
	}
	a, err := find(p.Main())
	if err == nil {
		err = a.check(gPerL)
	}
	if err != nil {
		return Card{}, err
	}
	c := Card{Product: p, Strength: gPerL}
	for _, m := range materials {
		if no := p.refuses(m, gPerL); no != nil {
			return Card{}, no
		}
		if f := p.Suits(m, gPerL); f.Verdict != reason.Fine {
			c.Findings = append(c.Findings, f)
		}
	}
	if c.Limits, err = p.TakesUp(gPerL); err != nil {
		return c, err
	}
	fresh, err := Dissolve(p.Main(), gPerL, 0)
	if err != nil {
		return c, err
	}
	c.Fresh = reason.Worked{
		Name:    "pH as mixed",
		Value:   float64(fresh.PH),
		Formula: "equilibrium",
		Source:  phreeqc,
		Inputs: []reason.Input{
			{
				Symbol: "equilibrium",
				Label:  fmt.Sprintf("%s of %.3g g/L, nothing dissolved, 25 °C", p.Main().Name(), float64(gPerL)),
				Value:  float64(fresh.PH),
				Source: phreeqc,
			},
		},
		WouldChange: []string{"another strength", "another acid"},
	}.Exact()
	solution := reason.Worked{
		Name:        "solution in all",
		Unit:        "L",
		Source:      reason.Ours,
		WouldChange: []string{"more or less scale", "larger circuits", "another strength"},
	}
	for i, x := range circuits {
		n, err := p.need(x, gPerL)
		if err != nil {
			return c, err
		}
		c.Needs = append(c.Needs, n)
		fills, fill, count := fmt.Sprintf("fills%d", i+1), fmt.Sprintf("fill%d", i+1), fmt.Sprintf("n%d", i+1)
		if i > 0 {
			solution.Formula += " + "
		}
		solution.Formula += fmt.Sprintf("%s × %s × %s", fills, fill, count)
		solution.Value += n.Fills.Value * n.Fill.Value * float64(x.Count)
		solution.Inputs = append(
			solution.Inputs,
			n.Fills.AsInput(fills),
			n.Fill.AsInput(fill),
			reason.Input{Symbol: count, Label: "of them: " + x.Title, Value: float64(x.Count), Source: reason.Ours},
		)
	}
	if len(circuits) == 0 {
		return c, &units.OutOfRange{Field: "circuits", Value: "none", Allowed: "at least one"}
	}
	c.Solution = solution.Exact()
	c.setMeasure()
	c.giveReasons()
	return c, c.checkCeiling()
}

// Ceiling is the acid, anhydrous, that a dose may hold at most: three times what
// the likely scale takes to pH 4, and one filling of each circuit; or one litre by
// the label, whichever is more.
func (c Card) Ceiling() units.Mass {
	var most units.Litres
	for _, n := range c.Needs {
		takes := units.Litres(mostTimes * float64(n.Grams) / float64(c.Limits.Slow))
		most += units.Litres(n.Count) * (takes + units.Litres(n.Fill.Value))
	}
	return max(most.At(c.Strength), units.Litres(1).At(c.Product.Strength()))
}

// Acid is the acid in the whole dose, anhydrous.
func (c Card) Acid() units.Mass { return units.Litres(c.Solution.Value).At(c.Strength) }

// checkCeiling refuses a dose that the scale cannot use. It is the last look: the
// fills are planned below it.
func (c Card) checkCeiling() error {
	if acid, most := c.Acid(), c.Ceiling(); acid > most*1.001 {
		return reason.Refuse(DoseTooLarge, "More acid than the scale can use").
			Of("solution", fmt.Sprintf("%.0f g of acid", float64(acid)), fmt.Sprintf("at most %.0f g", float64(most))).
			Why(reason.Ours, "More acid than three times what the scale takes does not clean better; it eats metal.").
			Instead("Mix it weaker, or take one part of it today and look what the gauze says.")
	}
	return nil
}

func (p Product) need(x Circuit, gPerL units.Strength) (Need, error) {
	if !(x.Litre > 0 && x.Litre <= 100) {
		return Need{}, &units.OutOfRange{Field: "litre", Value: fmt.Sprint(float64(x.Litre)), Allowed: "above 0, to 100 L"}
	}
	if x.Count < 1 || !(x.Heel >= 0 && x.Heel < 1) || !(x.Grams >= 0 && x.High >= x.Grams && x.High <= 5000) {
		return Need{}, &units.OutOfRange{
			Field:   "circuits",
			Value:   fmt.Sprintf("%d of them, heel %v, %v to %v g", x.Count, x.Heel, float64(x.Grams), float64(x.High)),
			Allowed: "one or more, a heel of 0 to below 1, scale of 0 to 5000 g",
		}
	}
	ours := func(symbol, label string, v float64, unit string) reason.Input {
		return reason.Input{Symbol: symbol, Label: label, Value: v, Unit: unit, Source: reason.Ours}
	}
	n := Need{Circuit: x, Scale: x.From}
	if n.Scale.Name == "" {
		n.Scale = reason.Worked{
			Name:        "scale predicted, " + x.Title,
			Value:       float64(x.Grams),
			Low:         float64(x.Grams),
			High:        float64(x.High),
			Spread:      reason.Bounds,
			Unit:        "g",
			Formula:     "given",
			Source:      reason.Said,
			WouldChange: []string{"another prediction"},
			Inputs: []reason.Input{
				{Symbol: "given", Label: "in each, as given", Value: float64(x.Grams), Unit: "g", Source: reason.Said},
			},
		}
	}
	would := []string{"another strength", "the volume of the circuit: the machine's page"}
	holds := ours("holds", "it holds, with its lines", float64(x.Litre), "L")
	mixed := ours("mixed", "as mixed", float64(gPerL), "g/L")
	fill, strength := "solution a fill, "+x.Title, "strength in the "+x.Title
	if x.Heel > 0 {
		n.Fill = fillDrained.Of(fill, "L", reason.Ours,
			[]reason.Input{holds, ours("heel", "stays after draining", x.Heel, "")}, would...)
		n.Strength = strengthDrained.Of(strength, "g/L", reason.Ours,
			[]reason.Input{mixed, ours("heel", "stays after draining, and dilutes it", x.Heel, "")}, would...)
	} else {
		n.Fill = fillPushed.Of(fill, "L", reason.Ours, []reason.Input{holds,
			ours("through", "volumes pushed through, since it is not drained", through, "")}, would...)
		n.Strength = strengthPushed.Of(strength, "g/L", reason.Ours, []reason.Input{mixed,
			ours("through", "volumes pushed through", through, "")}, would...)
	}
	l, err := p.TakesUp(max(weakest, units.Strength(n.Strength.Value)))
	if err != nil {
		return n, err
	}
	n.setFills(x, l, would)
	n.Rinse, err = RinseOf(x.Litre, x.Heel)
	return n, err
}

// setFills works out how many fills of a circuit the likely scale asks for, as many as
// fit, and what they leave. A cold soak of up to 30 minutes is planned to pH 4, for
// calcium citrate takes hours to drop out.
func (n *Need) setFills(x Circuit, l Limits, would []string) {
	ours := func(symbol, label string, v float64, unit string) reason.Input {
		return reason.Input{Symbol: symbol, Label: label, Value: v, Unit: unit, Source: reason.Ours}
	}
	n.Takes = fillTakes.Of("scale a fill takes up, "+x.Title, "g", phreeqc, []reason.Input{
		{Symbol: "limit", Label: "calcium carbonate a litre takes up, to pH 4, where it becomes slow",
			Value: float64(l.Slow), Unit: "g/L", Source: phreeqc},
		ours("holds", "it holds", float64(x.Litre), "L"),
	}, would...)
	most, why := mostFills, "soaks of 20 minutes fit into the longest contact"
	if x.Heel > 0 {
		most, why = mostDrained, "a vessel that is drained is filled so often at most"
	}
	scale := ours("scale", "likely in each", float64(x.Grams), "g")
	n.Fills = fillsNeeded.Of("fills, "+x.Title, "fills", reason.Ours,
		[]reason.Input{ours("most", why, most, "fills"), scale, n.Takes.AsInput("takes")},
		"more or less scale", "another strength")
	n.Leaves = fillsLeave.Of("scale left for another day, "+x.Title, "g", reason.Ours,
		[]reason.Input{scale, n.Fills.AsInput("fills"), n.Takes.AsInput("takes")},
		"what the spent solution and the gauze say")
}

// an ounce and a US fluid ounce
const (
	ounce      = 28.349523
	fluidOunce = 29.573530
)

// setMeasure works out how much of the product is measured out.
func (c *Card) setMeasure() {
	p := c.Product
	unit := map[Form]string{Powder: "g", Sachets: "sachets", Liquid: "mL"}[p.Form]
	each := float64(p.Strength()) / p.Litre
	c.ALitre = reason.Worked{
		Name:        p.Name + " in a litre",
		Value:       float64(c.Strength) / each,
		Unit:        unit,
		Formula:     "strength ÷ acid",
		Source:      reason.Trade,
		WouldChange: []string{"another strength", "another product"},
		Inputs: []reason.Input{
			{
				Symbol: "strength",
				Label:  "acid of a litre, anhydrous",
				Value:  float64(c.Strength),
				Unit:   "g/L",
				Source: reason.Trade,
			},
			{Symbol: "acid", Label: "acid in one of it, by its label", Value: each, Unit: "g", Source: reason.Said},
		},
	}.Exact()
	c.Measure = reason.Worked{
		Name:        p.Name + " in all",
		Value:       c.Solution.Value * c.ALitre.Value,
		Unit:        unit,
		Formula:     "solution × litre",
		Source:      reason.Ours,
		WouldChange: []string{"more or less scale", "another strength"},
		Inputs:      []reason.Input{c.Solution.AsInput("solution"), c.ALitre.AsInput("litre")},
	}.Exact()
	if p.Form == Sachets {
		c.Measure.Value, c.Measure.Formula = math.Ceil(c.Measure.Value-1e-9), "ceil(solution × litre − 0.000000001)"
		c.Measure = c.Measure.Exact()
	}
	c.Mixed = p.MakesUp(c.Measure, c.ALitre, c.Solution)
	if p.Spoon > 0 {
		c.Spoons = reason.Worked{
			Name:        "level teaspoons in all",
			Value:       c.Measure.Value / p.Spoon,
			Unit:        "tsp",
			Formula:     "grams ÷ spoon",
			Source:      reason.Trade,
			WouldChange: []string{"a scale is better"},
			Inputs: []reason.Input{
				c.Measure.AsInput("grams"),
				{Symbol: "spoon", Label: "in a level teaspoon", Value: p.Spoon, Unit: "g", Source: reason.Ours},
			},
		}.Exact()
	}
	if p.Form == Powder {
		c.Ounces = reason.Worked{
			Name:        "water to an ounce of powder",
			Value:       ounce / c.ALitre.Value * 1000 / fluidOunce,
			Unit:        "fl oz",
			Formula:     "ounce ÷ litre × 1000 ÷ fluid",
			Source:      reason.Ours,
			WouldChange: []string{"another strength"},
			Inputs: []reason.Input{
				{
					Symbol: "ounce",
					Label:  "grams in an ounce",
					Value:  ounce,
					Unit:   "g",
					Source: reason.Source{Kind: reason.Published, Which: "definition of the unit"},
				},
				c.ALitre.AsInput("litre"),
				{
					Symbol: "fluid",
					Label:  "millilitres in a US fluid ounce",
					Value:  fluidOunce,
					Unit:   "mL",
					Source: reason.Source{Kind: reason.Published, Which: "definition of the unit"},
				},
			},
		}.Exact()
	}
}

// MakesUp is how much solution, in litres, a measure of the product is mixed to:
// as much as is wanted; or, where it comes by the piece, as much as whole pieces make,
// of which only what is wanted is used.
func (p Product) MakesUp(measure, aLitre, wanted reason.Worked) reason.Worked {
	if p.Form != Sachets {
		return wanted
	}
	return reason.Worked{
		Name: "mixed with water to", Value: measure.Value / aLitre.Value, Unit: "L", Formula: "pieces ÷ litre",
		Source: reason.Ours, WouldChange: []string{"a product that is weighed"},
		Inputs: []reason.Input{measure.AsInput("pieces"), aLitre.AsInput("litre")},
	}.Exact()
}

func (c *Card) giveReasons() {
	say := func(source reason.Source, text string, args ...any) {
		c.Because = append(c.Because, reason.Reason{Text: fmt.Sprintf(text, args...), Source: source})
	}
	say(
		reason.Ours,
		"Every circuit is filled, not one litre as usual: %.2g L goes in. It is as much as the likely scale "+
			"can use, in as many soaks as fit; the spent solution and the gauze say whether more is needed.",
		c.Solution.Value,
	)
	say(phreeqc, "A cold soak of up to 30 minutes is planned to pH 4, %.1f g of scale a litre: beyond it the acid is "+
		"slow.", float64(c.Limits.Slow))
	if c.Limits.Cloudy < c.Limits.Slow {
		say(phreeqc, "Push it out after the soak: after hours, from %.1f g a litre on, white calcium citrate can drop "+
			"out and stick.", float64(c.Limits.Cloudy))
	}
	if c.Product.Main() == Acetic {
		say(reason.Trade, "Weak, and it smells: another acid is the better choice.")
	}
	for _, n := range c.Needs {
		if n.Leaves.Value > 0 {
			c.Findings = append(c.Findings, reason.Finding{
				Verdict: reason.Look, Title: "One sitting does not take all of it: " + n.Title,
				Because: []reason.Reason{{Text: fmt.Sprintf(
					"%.0f soaks fit; about %.2g g of scale would be left.", n.Fills.Value, n.Leaves.Value),
					Source: reason.Ours}},
				Next: []string{"Look into the gauze afterwards, and descale again another day."},
			})
		}
	}
}

// Measured is the card with its measures worked out anew for the solution it names.
func (c Card) Measured() Card {
	c.setMeasure()
	return c
}

// AtTheLimit is the scale taken for each vessel of a machine of which no descale is on
// record: as much as may ever be, the limit of each surface, g.
func AtTheLimit(f machine.Facts) (brew, steam units.Reading, err error) {
	places, err := circuit.Places(f)
	for _, p := range places {
		g := units.Sharp(float64(p.Surface.Holds()))
		if p.ID == circuit.Steam {
			steam = g
		} else {
			brew = g
		}
	}
	return brew, steam, err
}
