package units

// Amounts of one measure each. A zero is none of it, never "not known".
type (
	// Mass is a mass in grams.
	Mass float64
	// Volume is a volume in millilitres: what a drink, a pulse or a spoon holds.
	Volume float64
	// Litres is a volume in litres: what a boiler or a tank holds, and what goes through a machine.
	Litres float64
	// Density is a bulk density in grams a millilitre.
	Density float64
	// Strength is of an acid in its solution, grams a litre.
	Strength float64
	// Length is in millimetres.
	Length float64
	// Area is in square centimetres.
	Area float64
	// Power is in watts.
	Power float64
	// Flow is in millilitres a second.
	Flow float64
	// PH is the negative decimal logarithm of the activity of protons.
	PH float64
)

// Litres gives the volume in litres.
func (v Volume) Litres() Litres { return Litres(v) / 1000 }

// Millilitres gives the volume in millilitres.
func (l Litres) Millilitres() Volume { return Volume(l) * 1000 }

// At is the mass of acid in so many litres of its solution.
func (l Litres) At(s Strength) Mass { return Mass(float64(l) * float64(s)) }

// Takes is how many seconds so much takes to flow; without a flow it never does: +Inf.
func (f Flow) Takes(v Volume) float64 { return float64(v) / float64(f) }

// Over is what flows in so many seconds.
func (f Flow) Over(seconds float64) Volume { return Volume(float64(f) * seconds) }
