package units

// Physical constants that more than one package needs, each once.
const (
	// MolarCaCO3 is the molar mass of calcium carbonate, g/mol (IUPAC standard atomic weights).
	MolarCaCO3 = 100.0869
	// EquivalentCaCO3 is the grams of calcium carbonate that take up one mole of protons, g/eq.
	EquivalentCaCO3 = MolarCaCO3 / 2
	// MolarNaCl is the molar mass of sodium chloride, g/mol (IUPAC standard atomic weights).
	MolarNaCl = 58.44
	// HeatOfWater is the specific heat of water, kJ/(kg K), within 1 % from 0 to 100 °C (handbook value,
	// from memory).
	HeatOfWater = 4.19
	// KelvinZero is 0 °C in kelvin, by definition.
	KelvinZero = 273.15
	// Atmosphere is the standard pressure of the air outside, bar, by definition; a gauge reads above it.
	Atmosphere = 1.01325

	molarCaO  = 56.0774     // g/mol
	molarHCO3 = 61.0168     // g/mol
	grainMg   = 64.79891    // mg a grain, by definition
	gallonUK  = 4.54609     // L, by definition
	gallonUS  = 3.785411784 // L, by definition
)
