package water

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

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
		[]string{"mg/L CaCO3", "°dH", "mmol/L"},
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
	file = strings.TrimPrefix(file, "\ufeff")
	r := csv.NewReader(strings.NewReader(file))
	r.FieldsPerRecord, r.TrimLeadingSpace, r.LazyQuotes = -1, true, true
	header, _, _ := strings.Cut(file, "\n")
	for _, comma := range ";\t" {
		if strings.ContainsRune(header, comma) && !strings.Contains(header, ",") {
			r.Comma = comma
		}
	}
	at := map[string]int{}
	head, err := r.Read()
	for i, cell := range head {
		at[strings.ToLower(strings.TrimSpace(cell))] = i
	}
	name, named := at["parameter"]
	value, valued := at["value"]
	unit, united := at["unit"]
	if err != nil || !named || !valued {
		return s, 0, []BadLine{{1, "header", strings.Join(head, ","), "parameter,value,unit"}}
	}
	cell := func(cells []string, i int) string {
		if i < len(cells) {
			return strings.TrimSpace(cells[i])
		}
		return ""
	}
	taken := 0
	for {
		cells, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		line, _ := r.FieldPos(0)
		if err != nil || taken+passed+len(bad) > mostLines {
			bad = append(
				bad,
				BadLine{
					line,
					"line",
					"unreadable",
					fmt.Sprintf("cells parted by commas, %d lines at most", mostLines),
				},
			)
			break
		}
		what := strings.ToLower(cell(cells, name))
		if what == "" && cell(cells, value) == "" {
			continue
		}
		found := slices.IndexFunc(parameters, func(p parameter) bool { return slices.Contains(p.names, what) })
		if found < 0 {
			passed++
			continue
		}
		p := parameters[found]
		in := p.units[0]
		if u := ""; united {
			if u = cell(cells, unit); u != "" {
				in = u
			}
		}
		said := cell(cells, value)
		if limit, below := strings.CutPrefix(said, "<"); below {
			said = "0.." + strings.TrimSpace(limit)
		}
		reading, err := units.ParseReading(said)
		if err != nil {
			bad = append(
				bad,
				BadLine{
					line,
					what,
					cell(cells, value),
					"a number, an interval such as 40..60, or below a limit such as <5",
				},
			)
			continue
		}
		to := units.Reading{Known: true}
		for _, x := range []struct {
			from float64
			to   *float64
		}{{reading.Low, &to.Low}, {reading.Likely, &to.Likely}, {reading.High, &to.High}} {
			if *x.to, err = p.take(x.from, in); err != nil {
				break
			}
		}
		var never *units.OutOfRange
		switch {
		case errors.As(err, &never):
			bad = append(bad, BadLine{line, what, strings.TrimSpace(cell(cells, value) + " " + in), never.Allowed})
		case err != nil:
			bad = append(bad, BadLine{line, what, cell(cells, value), err.Error()})
		case p.of(&s).Known:
			bad = append(bad, BadLine{line, what, cell(cells, value), "once in a report"})
		default:
			*p.of(&s) = to
			taken++
		}
	}
	if taken == 0 && len(bad) == 0 {
		bad = append(
			bad,
			BadLine{
				2,
				"parameter",
				"nothing that matters",
				"at least one of hardness, alkalinity, calcium, magnesium, pH, sodium, potassium, chloride, sulfate, " +
					"dissolved solids, conductivity",
			},
		)
	}
	if len(bad) == 0 {
		if _, err := s.Fill(); err != nil {
			var never *units.OutOfRange
			if errors.As(err, &never) {
				bad = append(bad, BadLine{0, never.Field, never.Value, never.Allowed})
			} else {
				bad = append(bad, BadLine{0, "report", "a water that cannot be", err.Error()})
			}
		}
	}
	return s, passed, bad
}
