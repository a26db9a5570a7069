package water

import (
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"freshanvil/core/tables"
)

// Taken is what was read of a water on a day.
type Taken struct {
	Taken  time.Time
	How    How
	Sample Sample
}

// Bounds of a table of readings (our own engineering choices).
const (
	mostReadings = 2000
	oldestYears  = 10
)

// ReadReadings reads a table of what was read of a water over time: a header, then a line a day. Its columns are date
// (2026-03-10), how (strip, drops, meter or report; a strip where it is left out, which is trusted least) and what was
// read, by the names of a report, with its unit behind: "hardness °dH", "alkalinity (mg/L HCO3)". Hardness and
// alkalinity need one, so that degrees are not taken for milligrams; ions are in mg/L unless said. Values are as in a
// report. A day is taken at its noon in the zone, or, while that is to come, as it begins. Commas, semicolons or tabs
// part the columns. Bad lines are all listed; where there is one, nothing is taken.
func ReadReadings(text string, zone *time.Location, now time.Time) ([]Taken, []BadLine) {
	r := tables.Open(text)
	head, err := r.Read()
	if err != nil {
		head = nil
	}
	t, bad := headOf(head)
	if bad != nil {
		return nil, []BadLine{*bad}
	}
	var list []Taken
	var all []BadLine
	for {
		cells, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		line, _ := r.FieldPos(0)
		if err != nil || len(list)+len(all) >= mostReadings {
			all = append(all, BadLine{line, "line", "unreadable",
				fmt.Sprintf("cells parted by commas, %d lines at most", mostReadings)})
			break
		}
		if strings.TrimSpace(strings.Join(cells, "")) == "" {
			continue
		}
		one, bad := t.row(cells, zone, now)
		for _, b := range bad {
			b.Line = line
			all = append(all, b)
		}
		list = append(list, one)
	}
	if len(list) == 0 && len(all) == 0 {
		all = append(all, BadLine{2, "line", "nothing", "a line a day"})
	}
	if len(all) > 0 {
		return nil, all
	}
	return list, nil
}

// Column is what a column of a table of readings may hold.
type Column struct {
	Name  string
	Alike []string // other names for it
	Units []string
	// AsksUnit is of what is read in degrees as well as in milligrams: it is never taken without its unit.
	AsksUnit bool
}

// Columns are what a table of readings may hold besides its days.
func Columns() []Column {
	var list []Column
	for _, p := range parameters {
		name := p.names[0]
		if name == "ph" {
			name = "pH"
		}
		list = append(list, Column{name, p.names[1:], p.units, p.asksUnit()})
	}
	return list
}

// readColumn is a column that says something of the water.
type readColumn struct {
	parameter
	at   int
	unit string
}

// readTable is where a table of readings has what; -1 where it has no such column.
type readTable struct {
	date, how int
	read      []readColumn
}

// headOf finds the columns of a table by what stands over them.
func headOf(head []string) (t readTable, bad *BadLine) {
	t = readTable{date: -1, how: -1}
	for i, cell := range head {
		cell = strings.TrimSpace(cell)
		switch strings.ToLower(cell) {
		case "date":
			t.date = i
			continue
		case "how":
			t.how = i
			continue
		}
		p, unit, found := parameterOf(cell)
		if !found {
			continue // what does not matter to a machine is passed over
		}
		name := p.names[0]
		if slices.ContainsFunc(t.read, func(c readColumn) bool { return c.names[0] == name }) {
			return t, &BadLine{1, name, cell, "one column of it"}
		}
		if p.asksUnit() && unit == "" {
			return t, &BadLine{1, name, "no unit", "its unit behind the name, such as " + name + " " + p.units[1]}
		}
		if unit != "" {
			if _, err := p.take(1, unit); err != nil {
				return t, &BadLine{1, name, unit, "one of " + strings.Join(p.units, ", ")}
			}
		}
		t.read = append(t.read, readColumn{p, i, unit})
	}
	if t.date < 0 || len(t.read) == 0 {
		return t, &BadLine{1, "header", strings.Join(head, ","), "date, and at least one of hardness °dH, " +
			"alkalinity mg/L CaCO3, pH, calcium, magnesium, sodium, potassium, chloride, sulfate, conductivity"}
	}
	return t, nil
}

// asksUnit is of what is read in degrees as well as in milligrams.
func (p parameter) asksUnit() bool { return p.names[0] == "hardness" || p.names[0] == "alkalinity" }

// parameterOf is what a head names, the longest name first, and the unit behind it.
func parameterOf(head string) (p parameter, unit string, found bool) {
	most := 0
	for _, x := range parameters {
		for _, name := range x.names {
			if len(name) <= most || len(head) < len(name) || !strings.EqualFold(head[:len(name)], name) {
				continue
			}
			rest := head[len(name):]
			if rest != "" && !strings.ContainsAny(rest[:1], " ,([\t") {
				continue
			}
			p, most, found = x, len(name), true
			unit = strings.Trim(rest, " ,()[]\t")
		}
	}
	return p, unit, found
}

func (t readTable) row(cells []string, zone *time.Location, now time.Time) (out Taken, bad []BadLine) {
	cell := func(i int) string {
		if i < 0 || i >= len(cells) {
			return ""
		}
		return strings.TrimSpace(cells[i])
	}
	day, err := time.ParseInLocation(time.DateOnly, cell(t.date), zone)
	out.Taken = time.Date(day.Year(), day.Month(), day.Day(), 12, 0, 0, 0, zone).UTC()
	if out.Taken.After(now) {
		out.Taken = day.UTC()
	}
	if err != nil || out.Taken.After(now) || out.Taken.Before(now.AddDate(-oldestYears, 0, 0)) {
		bad = append(bad, BadLine{Field: "date", Value: cell(t.date),
			Allowed: fmt.Sprintf("a day such as 2026-03-10 that has begun, at most %d years back", oldestYears)})
	}
	out.How = How(strings.ToLower(cell(t.how)))
	switch {
	case out.How == "":
		out.How = ByStrip
	case out.How != ByStrip && !out.How.Measures():
		bad = append(bad, BadLine{Field: "how", Value: cell(t.how), Allowed: "strip, drops, meter, report"})
	}
	for _, c := range t.read {
		value := cell(c.at)
		if value == "" {
			continue
		}
		if no := c.takeLine(&out.Sample, value, c.unit); no != nil {
			no.Field = c.names[0]
			bad = append(bad, *no)
		}
	}
	if len(bad) > 0 {
		return out, bad
	}
	if len(out.Sample.Said()) == 0 {
		return out, []BadLine{{Field: "line", Value: "nothing read", Allowed: "at least one reading"}}
	}
	return out, impossible(out.Sample)
}
