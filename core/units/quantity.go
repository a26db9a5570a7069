package units

import (
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"
	"unicode"
)

// measure is a kind of quantity: its units by what they are in the first one,
// and the range that is accepted in it.
type measure struct {
	field     string
	low, high float64
	units     []unit
}

// unit is value × factor + offset in the base unit of its measure.
type unit struct {
	symbol         string
	names          []string // other ways it is written
	factor, offset float64
}

func (m measure) find(name string) (unit, bool) {
	for _, u := range m.units {
		if strings.EqualFold(name, u.symbol) {
			return u, true
		}
		for _, n := range u.names {
			if strings.EqualFold(name, n) {
				return u, true
			}
		}
	}
	return unit{}, false
}

func (m measure) symbols() string {
	list := make([]string, len(m.units))
	for i, u := range m.units {
		list[i] = u.symbol
	}
	return strings.Join(list, ", ")
}

// take is a value of a unit in the base unit; else *OutOfRange.
func (m measure) take(value float64, name string) (float64, error) {
	u, ok := m.find(name)
	if !ok {
		return 0, &OutOfRange{Field: m.field, Value: name, Allowed: "a unit, one of " + m.symbols()}
	}
	base := value*u.factor + u.offset
	if !(base >= m.low && base <= m.high) {
		return 0, &OutOfRange{
			Field:   m.field,
			Value:   formatFloat(value),
			Allowed: fmt.Sprintf("%.4g to %.4g %s", (m.low-u.offset)/u.factor, (m.high-u.offset)/u.factor, u.symbol),
			Meant:   Probably(value, (m.low-u.offset)/u.factor, (m.high-u.offset)/u.factor, u.symbol),
		}
	}
	return base, nil
}

func (m measure) in(base float64, name string) float64 {
	u, ok := m.find(name)
	if !ok {
		return math.NaN()
	}
	return (base - u.offset) / u.factor
}

// parse reads a number and a unit, such as "93 °C" or "1.2 bar".
func (m measure) parse(text string) (float64, error) {
	number, name, _ := strings.Cut(strings.TrimSpace(strings.ReplaceAll(text, "₃", "3")), " ")
	value, err := strconv.ParseFloat(number, 64)
	if err != nil {
		return 0, &OutOfRange{Field: m.field, Value: text, Allowed: "a number and one of " + m.symbols()}
	}
	return m.take(value, strings.TrimSpace(name))
}

func (m measure) print(base float64) string {
	return formatFloat(base) + " " + m.units[0].symbol
}

// The quantities beside hardness. Each is held in the first unit of its table.
type (
	// Temperature is in degrees Celsius.
	Temperature float64
	// Pressure is a gauge pressure in bar: above the air outside.
	Pressure float64
	// Alkalinity is in mg/L as CaCO3.
	Alkalinity float64
	// Concentration is in mg/L.
	Concentration float64
	// Conductivity is in µS/cm at 25 °C.
	Conductivity float64
)

// Definitions: the inch of mercury and the like are not used here; 1 psi is
// 6894.757 Pa; Fahrenheit by its definition; 1 mg/L HCO3 is 0.8202 mg/L as
// CaCO3 (molar masses 61.0168 and 100.0869, two to one); degrees as for hardness.
var (
	temperature = measure{
		"temperature",
		-KelvinZero,
		1000,
		[]unit{
			{"°C", []string{"c", "celsius"}, 1, 0},
			{"°F", []string{"f"}, 5.0 / 9, -160.0 / 9},
			{"K", nil, 1, -KelvinZero},
		},
	}
	pressure = measure{
		"pressure",
		-Atmosphere,
		25,
		[]unit{{"bar", nil, 1, 0}, {"psi", nil, 0.06894757, 0}, {"kPa", nil, 0.01, 0}, {"MPa", nil, 10, 0}},
	}
	alkalinity = measure{"alkalinity", 0, 2000, []unit{
		{
			"mg/L CaCO3",
			[]string{"mg_l_caco3", "ppm CaCO3"},
			1,
			0,
		}, {"mmol/L", []string{"meq/L", "mmol_l"}, MolarCaCO3 / 2, 0},
		{"°dH", []string{"dh", "°KH", "dKH"}, 10 * MolarCaCO3 / molarCaO, 0},
		{
			"°fH",
			[]string{"fh"},
			10,
			0,
		}, {"°e", []string{"clark"}, grainMg / gallonUK, 0}, {"gpg", nil, grainMg / gallonUS, 0},
		{"mg/L HCO3", []string{"mg_l_hco3"}, MolarCaCO3 / 2 / molarHCO3, 0}}}
	concentration = measure{
		"concentration",
		0,
		50000,
		[]unit{
			{"mg/L", []string{"ppm", "mg_l"}, 1, 0},
			{"g/L", nil, 1000, 0},
			{"µg/L", []string{"ug/L", "ppb"}, 0.001, 0},
		},
	}
	conductivity = measure{
		"conductivity",
		0,
		100000,
		[]unit{
			{"µS/cm", []string{"us/cm", "us_cm"}, 1, 0},
			{"mS/cm", []string{"ms_cm"}, 1000, 0},
			{"mS/m", nil, 10, 0},
		},
	}
)

// NewTemperature takes a temperature in °C, °F or K; else *OutOfRange.
func NewTemperature(value float64, unit string) (Temperature, error) {
	v, err := temperature.take(value, unit)
	return Temperature(v), err
}

// ParseTemperature reads what String prints, in any of the units.
func ParseTemperature(text string) (Temperature, error) {
	v, err := temperature.parse(text)
	return Temperature(v), err
}

// In gives the temperature in a unit; NaN for a unit not known.
func (t Temperature) In(unit string) float64 { return temperature.in(float64(t), unit) }

func (t Temperature) String() string { return temperature.print(float64(t)) }

// NewPressure takes a gauge pressure in bar, psi, kPa or MPa; else *OutOfRange.
func NewPressure(value float64, unit string) (Pressure, error) {
	v, err := pressure.take(value, unit)
	return Pressure(v), err
}

// ParsePressure reads what String prints, in any of the units.
func ParsePressure(text string) (Pressure, error) {
	v, err := pressure.parse(text)
	return Pressure(v), err
}

// In gives the pressure in a unit; NaN for a unit not known.
func (p Pressure) In(unit string) float64 { return pressure.in(float64(p), unit) }

func (p Pressure) String() string { return pressure.print(float64(p)) }

// NewAlkalinity takes an alkalinity in any customary unit; else *OutOfRange.
func NewAlkalinity(value float64, unit string) (Alkalinity, error) {
	v, err := alkalinity.take(value, unit)
	return Alkalinity(v), err
}

// ParseAlkalinity reads what String prints, in any of the units.
func ParseAlkalinity(text string) (Alkalinity, error) {
	v, err := alkalinity.parse(text)
	return Alkalinity(v), err
}

// In gives the alkalinity in a unit; NaN for a unit not known.
func (a Alkalinity) In(unit string) float64 { return alkalinity.in(float64(a), unit) }

func (a Alkalinity) String() string { return alkalinity.print(float64(a)) }

// ParseConcentration reads a concentration in mg/L, g/L or µg/L.
func ParseConcentration(text string) (Concentration, error) {
	v, err := concentration.parse(text)
	return Concentration(v), err
}

// In gives the concentration in a unit; NaN for a unit not known.
func (c Concentration) In(unit string) float64 { return concentration.in(float64(c), unit) }

func (c Concentration) String() string { return concentration.print(float64(c)) }

// ParseConductivity reads a conductivity in µS/cm, mS/cm or mS/m.
func ParseConductivity(text string) (Conductivity, error) {
	v, err := conductivity.parse(text)
	return Conductivity(v), err
}

// In gives the conductivity in a unit; NaN for a unit not known.
func (c Conductivity) In(unit string) float64 { return conductivity.in(float64(c), unit) }

func (c Conductivity) String() string { return conductivity.print(float64(c)) }

// SolidsFactor is the dissolved solids in mg/L that a µS/cm stands for, where
// nobody weighed them (our own engineering choice; practice uses 0.5 to 0.7).
const SolidsFactor = 0.65

// Solids is the total dissolved solids a conductivity stands for.
func (c Conductivity) Solids() Concentration { return Concentration(SolidsFactor * float64(c)) }

// Conducts is the conductivity that dissolved solids stand for.
func (c Concentration) Conducts() Conductivity { return Conductivity(float64(c) / SolidsFactor) }

// Reading is a value as it was read: sharp, or between two bounds, as a pad of
// a strip or the drops of a kit give it. The zero value was not read.
type Reading struct {
	Low, Likely, High float64
	Known             bool
}

// Sharp is a reading without a range.
func Sharp(v float64) Reading { return Reading{v, v, v, true} }

// Between is a reading known as an interval; the middle is taken as likely.
func Between(low, high float64) Reading { return Reading{low, (low + high) / 2, high, true} }

// Drops is the reading of a kit that changes colour at the n-th drop of so much
// each: more than the drop before, at most this one.
func Drops(n int, each float64) Reading { return Between(float64(n-1)*each, float64(n)*each) }

// Scale multiplies a reading.
func (r Reading) Scale(by float64) Reading {
	return Reading{r.Low * by, r.Likely * by, r.High * by, r.Known}
}

// Through puts the bounds and the likely value of a reading through a conversion that
// keeps their order; its first error stands.
func (r Reading) Through(convert func(float64) (float64, error)) (Reading, error) {
	to := Reading{Known: r.Known}
	var err error
	for _, x := range []struct {
		from float64
		to   *float64
	}{{r.Low, &to.Low}, {r.Likely, &to.Likely}, {r.High, &to.High}} {
		if *x.to, err = convert(x.from); err != nil {
			return to, err
		}
	}
	return to, nil
}

// String prints a reading as ParseReading reads it: 14 or 4..7.
func (r Reading) String() string {
	switch {
	case !r.Known:
		return ""
	case r.Low == r.High:
		return formatFloat(r.Likely)
	}
	return formatFloat(r.Low) + ".." + formatFloat(r.High)
}

// ParseReading reads a number, or two as an interval, as a person writes them: 14,
// 4..7, 4-7, 4 to 7, 12,5-14,5. A comma before three digits is refused where it may
// part thousands. What is not a finite number, or the wrong way round, is *OutOfRange.
func ParseReading(text string) (Reading, error) {
	text = strings.TrimSpace(text)
	bad := &OutOfRange{Field: "reading", Value: text, Allowed: "a number, or an interval such as 4..7"}
	low, high, two := cutInterval(text)
	a, err := parseDecimal(low)
	if err != nil {
		return Reading{}, either(err, bad)
	}
	if !two {
		return Sharp(a), nil
	}
	b, err := parseDecimal(high)
	if err != nil || b < a {
		return Reading{}, either(err, bad)
	}
	return Between(a, b), nil
}

// ParseReadingIn reads a reading that a unit may follow: 52 mS/m. The unit is as it
// was written, empty where there is none.
func ParseReadingIn(text string) (r Reading, unit string, err error) {
	text = strings.TrimSpace(text)
	end := strings.LastIndexAny(text, "0123456789") + 1
	for end > 0 && unitBegins(text[:end]) > 0 { // the 3 of CaCO3 belongs to the unit
		end = unitBegins(text[:end])
	}
	r, err = ParseReading(text[:end])
	var never *OutOfRange
	if errors.As(err, &never) {
		never.Value = text
	}
	return r, strings.TrimSpace(text[end:]), err
}

// unitBegins is where the last word of a text begins, if that has letters before its
// digits, as no number has; 0 where it has not.
func unitBegins(text string) int {
	word := strings.LastIndexAny(text, " \t\u00a0") + 1
	if word == 0 || !unicode.IsLetter([]rune(text[word:])[0]) {
		return 0
	}
	return strings.LastIndexAny(text[:word], "0123456789") + 1
}

// cutInterval cuts a text at what stands between two numbers.
func cutInterval(text string) (low, high string, two bool) {
	text = strings.NewReplacer("\u2013", "-", "\u2212", "-").Replace(text)
	for _, between := range []string{"..", " to "} {
		if low, high, two = strings.Cut(text, between); two {
			return low, high, true
		}
	}
	at := 1
	for at < len(text) { // a minus that leads a number or an exponent is none
		next := strings.Index(text[at:], "-")
		if next < 0 {
			break
		}
		at += next
		if !strings.ContainsAny(text[at-1:at], "eE") {
			return text[:at], text[at+1:], true
		}
		at++
	}
	return text, "", false
}

// parseDecimal reads one finite number, its decimals behind a point or a comma.
func parseDecimal(text string) (float64, error) {
	text = strings.TrimSpace(text)
	if whole, part, comma := strings.Cut(text, ","); comma {
		if digits := strings.TrimLeft(whole, "-+0"); len(part) == 3 && digits != "" {
			return 0, &OutOfRange{Field: "reading", Value: text,
				Allowed: fmt.Sprintf("%s.%s or %s%s, whichever it is", whole, part, whole, part)}
		}
		text = whole + "." + part
	}
	v, err := strconv.ParseFloat(text, 64)
	if err == nil && (math.IsNaN(v) || math.IsInf(v, 0)) {
		err = strconv.ErrRange
	}
	return v, err
}

// either is the error that says what is allowed, where one does.
func either(err error, otherwise *OutOfRange) error {
	var own *OutOfRange
	if errors.As(err, &own) {
		return own
	}
	return otherwise
}
