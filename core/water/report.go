package water

import (
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"freshanvil/core/tables"
	"freshanvil/core/units"
)

// BadLine is a line of a report that cannot be taken, and what could be.
type BadLine struct {
	Line                  int
	Field, Value, Allowed string
}

// parameter is one thing a report may say of a water. Where no unit is named, it
// is the first.
type parameter struct {
	names []string
	units []string
	take  func(v float64, unit string) (float64, error)
	of    func(s *Sample) *units.Reading
}

// asCaCO3 takes plain mg/L of hardness or alkalinity as reports mean it.
func asCaCO3(unit string) string {
	if strings.EqualFold(unit, "mg/L") || strings.EqualFold(unit, "ppm") {
		return "mg/L CaCO3"
	}
	return unit
}

func text(v float64, unit string) string { return strconv.FormatFloat(v, 'f', -1, 64) + " " + unit }

func plain(v float64, _ string) (float64, error) { return v, nil }

func milligrams(v float64, unit string) (float64, error) {
	c, err := units.ParseConcentration(text(v, unit))
	return float64(c), err
}

var parameters = []parameter{
	{[]string{"ph", "ph value"}, []string{""}, plain, func(s *Sample) *units.Reading { return &s.PH }},
	{
		[]string{"hardness", "total hardness"},
		[]string{"mg/L CaCO3", "°dH", "mmol/L", "°fH", "°e", "gpg"},
		func(v float64, unit string) (float64, error) {
			h, err := units.ParseHardness(text(v, asCaCO3(unit)))
			return h.In(units.MgPerLCaCO3), err
		},
		func(s *Sample) *units.Reading { return &s.Hardness },
	},
	{
		[]string{"alkalinity", "total alkalinity", "carbonate hardness"},
		[]string{"mg/L CaCO3", "mmol/L", "°dH", "mg/L HCO3"},
		func(v float64, unit string) (float64, error) {
			a, err := units.NewAlkalinity(v, asCaCO3(unit))
			return float64(a), err
		},
		func(s *Sample) *units.Reading { return &s.Alkalinity },
	},
	{
		[]string{"bicarbonate", "hydrogencarbonate", "hco3"},
		[]string{"mg/L"},
		func(v float64, unit string) (float64, error) {
			mg, err := milligrams(v, unit)
			if err != nil {
				return 0, err
			}
			a, err := units.NewAlkalinity(mg, "mg/L HCO3")
			return float64(a), err
		},
		func(s *Sample) *units.Reading { return &s.Alkalinity },
	},
	{[]string{"calcium", "ca"}, []string{"mg/L"}, milligrams, func(s *Sample) *units.Reading { return &s.Calcium }},
	{
		[]string{"magnesium", "mg"},
		[]string{"mg/L"},
		milligrams,
		func(s *Sample) *units.Reading { return &s.Magnesium },
	},
	{[]string{"sodium", "na"}, []string{"mg/L"}, milligrams, func(s *Sample) *units.Reading { return &s.Sodium }},
	{[]string{"potassium", "k"}, []string{"mg/L"}, milligrams, func(s *Sample) *units.Reading { return &s.Potassium }},
	{[]string{"chloride", "cl"}, []string{"mg/L"}, milligrams, func(s *Sample) *units.Reading { return &s.Chloride }},
	{
		[]string{"sulfate", "sulphate", "so4"},
		[]string{"mg/L"},
		milligrams,
		func(s *Sample) *units.Reading { return &s.Sulfate },
	},
	{
		[]string{"dissolved solids", "total dissolved solids", "tds"},
		[]string{"mg/L"},
		milligrams,
		func(s *Sample) *units.Reading { return &s.Solids },
	},
	{[]string{"conductivity"}, []string{"µS/cm", "mS/m", "mS/cm"}, func(v float64, unit string) (float64, error) {
		c, err := units.ParseConductivity(text(v, unit))
		return float64(c), err
	}, func(s *Sample) *units.Reading { return &s.Conductivity }},
}

// mostLines is the longest report that is read.
const mostLines = 500

// ReadReport reads a supplier's report: a header, then a line each, with the
// columns parameter, value and unit (which may be left out). A value is a number,
// an interval such as 40..60, or below a limit, such as <5. Lines of what does
// not matter to a machine, such as nitrate, are passed over and counted. Commas,
// semicolons or tabs part the columns. Bad lines are all listed; where there is
// one, nothing is to be taken.
func ReadReport(file string) (s Sample, passed int, bad []BadLine) {
	r := tables.Open(file)
	head, err := r.Read()
	columns, named := columnsOf(head)
	if err != nil || !named {
		return s, 0, []BadLine{{1, "header", strings.Join(head, ","), "parameter,value,unit"}}
	}
	taken := 0
	for {
		cells, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		line, _ := r.FieldPos(0)
		if err != nil || taken+passed+len(bad) > mostLines {
			bad = append(bad, BadLine{line, "line", "unreadable",
				fmt.Sprintf("cells parted by commas, %d lines at most", mostLines)})
			break
		}
		what, value, unit := columns.of(cells)
		if what == "" && value == "" {
			continue
		}
		found := slices.IndexFunc(parameters, func(p parameter) bool { return slices.Contains(p.names, what) })
		if found < 0 {
			passed++
			continue
		}
		if no := parameters[found].takeLine(&s, value, unit); no != nil {
			no.Line, no.Field = line, what
			bad = append(bad, *no)
			continue
		}
		taken++
	}
	if taken == 0 && len(bad) == 0 {
		bad = append(bad, BadLine{2, "parameter", "nothing that matters",
			"at least one of hardness, alkalinity, calcium, magnesium, pH, sodium, potassium, chloride, sulfate, " +
				"dissolved solids, conductivity"})
	}
	if len(bad) == 0 {
		bad = impossible(s)
	}
	return s, passed, bad
}

// columns are where a report has what; -1 where it has no such column.
type columns struct{ name, value, unit int }

// columnsOf finds them in a header; named is false where one that is needed is missing.
func columnsOf(head []string) (c columns, named bool) {
	at := func(name string) int {
		return slices.IndexFunc(head, func(cell string) bool { return strings.EqualFold(strings.TrimSpace(cell), name) })
	}
	c = columns{at("parameter"), at("value"), at("unit")}
	return c, c.name >= 0 && c.value >= 0
}

func (c columns) of(cells []string) (name, value, unit string) {
	cell := func(i int) string {
		if i < 0 || i >= len(cells) {
			return ""
		}
		return strings.TrimSpace(cells[i])
	}
	return strings.ToLower(cell(c.name)), cell(c.value), cell(c.unit)
}

// takeLine puts what a line says into the sample; what it cannot take is a bad line.
func (p parameter) takeLine(s *Sample, value, unit string) *BadLine {
	if unit == "" {
		unit = p.units[0]
	}
	said := value
	if limit, below := strings.CutPrefix(value, "<"); below {
		said = "0.." + strings.TrimSpace(limit)
	}
	var never *units.OutOfRange
	reading, err := units.ParseReading(said)
	if errors.As(err, &never) && strings.Contains(never.Allowed, "whichever") {
		return &BadLine{Value: value, Allowed: never.Allowed}
	}
	if err != nil {
		return &BadLine{Value: value, Allowed: "a number, an interval such as 40..60, or below a limit such as <5"}
	}
	to, err := reading.Through(func(v float64) (float64, error) { return p.take(v, unit) })
	switch {
	case errors.As(err, &never):
		return &BadLine{Value: strings.TrimSpace(value + " " + unit), Allowed: never.Allowed}
	case err != nil:
		return &BadLine{Value: value, Allowed: err.Error()}
	case p.of(s).Known:
		return &BadLine{Value: value, Allowed: "once in a report"}
	}
	*p.of(s) = to
	return nil
}

// impossible is why a sample cannot be of a water, where it cannot.
func impossible(s Sample) []BadLine {
	_, err := s.Fill()
	var never *units.OutOfRange
	switch {
	case err == nil:
		return nil
	case errors.As(err, &never):
		return []BadLine{{0, never.Field, never.Value, never.Allowed}}
	}
	return []BadLine{{0, "report", "a water that cannot be", err.Error()}}
}
