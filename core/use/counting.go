package use

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/tables"
	"freshanvil/core/units"
)

// Reading is what the machine's own counter showed.
type Reading struct {
	Value float64
	At    time.Time
	// Reset says whether it went back to 0 since the reading before; nil where
	// nobody said.
	Reset *bool
}

// MostCounts is the highest reading of a counter that is accepted.
const MostCounts = 100000

// FromCounter turns a reading into the use of the whole machine over the span
// since the reading before, or since the last wash where the counter went back
// to 0 with it. The first reading of all only begins the count, a use of none, unless
// somebody says that the counter was reset with the wash on record. A reading that cannot be
// told apart, or below the one before, is a *units.OutOfRange, its times in the machine's zone.
func FromCounter(f machine.Facts, before *Reading, lastWash time.Time, r Reading, zone *time.Location) (
	Event, error,
) {
	when := func(t time.Time) string { return t.In(zone).Format("2 January 2006, 15:04") }
	use := Event{Kind: Double, From: r.At, To: r.At}
	switch {
	case !(r.Value >= 0 && r.Value <= MostCounts):
		return use, &units.OutOfRange{
			Field:   "reading",
			Value:   fmt.Sprint(r.Value),
			Allowed: fmt.Sprintf("0 to %d", MostCounts),
		}
	case before != nil && !r.At.After(before.At):
		return use, &units.OutOfRange{
			Field:   "at",
			Value:   when(r.At),
			Allowed: "after the reading before, " + when(before.At),
		}
	}
	washed := lastWash.Before(r.At) && !lastWash.IsZero() && (before == nil || lastWash.After(before.At))
	counts := r.Value
	switch {
	case before == nil && (!washed || r.Reset == nil || !*r.Reset):
		return use, nil
	case before == nil:
		use.From = lastWash
	case r.Reset != nil && *r.Reset:
		use.From = before.At
		if washed {
			use.From = lastWash
		}
	case r.Reset == nil && washed:
		return use, &units.OutOfRange{Field: "reset", Value: "nothing",
			Allowed: "true if the counter went back to 0 with the wash since the reading before, false if it went on"}
	case r.Value < before.Value:
		return use, &units.OutOfRange{
			Field:   "reading",
			Value:   fmt.Sprint(r.Value),
			Allowed: fmt.Sprintf("%g or more, as the reading before; or say that the counter was reset", before.Value),
		}
	default:
		use.From, counts = before.At, r.Value-before.Value
	}
	use.Count = counts / f.CountsADrink()
	if days := max(1, r.At.Sub(use.From).Hours()/24); use.Count > days*machine.MaxDrinks {
		return use, &units.OutOfRange{
			Field: "reading",
			Value: fmt.Sprint(r.Value),
			Allowed: fmt.Sprintf(
				"no more than %g drinks a day since %s",
				machine.MaxDrinks,
				when(use.From),
			),
		}
	}
	return use, nil
}

// BadRow is a line of a file that cannot be taken, and why.
type BadRow struct {
	Line    int
	Field   string
	Value   string
	Allowed string
}

// MostRows is the most lines that a file of use may have.
const MostRows = 60_000

// columns are those of a file of use, besides date and group.
var columns = []string{"drinks", "single", "double", "milk", "flush", "counter"}

// ReadUse reads a table of dated use: a header, then a line a day. Columns are
// date (2026-03-10, or a time such as 2026-03-10T07:00:00Z), group (may be
// left out: the whole machine), and any of drinks, single, double, milk, flush,
// counter. A date is the machine's day, from 04:00; a counter is what it
// showed at the end of it, and falls back only when it was reset. Commas,
// semicolons or tabs part the columns. Bad rows are all listed; where there is
// one, nothing is to be taken.
func ReadUse(text string, f machine.Facts, zone *time.Location, now time.Time) ([]Event, []BadRow) {
	r := tables.Open(text)
	r.LazyQuotes = false
	t := &useTable{
		facts:    f,
		zone:     zone,
		now:      now,
		at:       map[string]int{},
		seen:     map[string]int{},
		counters: map[int]Reading{},
	}
	head, err := r.Read()
	if err != nil {
		return nil, []BadRow{
			{
				1,
				"header",
				"nothing that can be read",
				"a line that names the columns: date, and " + strings.Join(columns, ", "),
			},
		}
	}
	if bad := t.head(head); bad != nil {
		return nil, []BadRow{*bad}
	}
	for {
		cells, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		line := 0
		if len(cells) > 0 {
			line, _ = r.FieldPos(0)
		}
		if err != nil {
			var parse *csv.ParseError
			if errors.As(err, &parse) {
				line = parse.Line
			}
			t.bad = append(t.bad, BadRow{line, "line", "unreadable", "cells parted by commas; quotes that close"})
			if !errors.Is(err, csv.ErrFieldCount) {
				break // the rest cannot be told apart
			}
			continue
		}
		if t.readRow(line, cells); t.rows > MostRows {
			t.bad = append(
				t.bad,
				BadRow{line, "line", fmt.Sprint(t.rows), fmt.Sprintf("%d lines at most: part the file", MostRows)},
			)
			break
		}
	}
	if t.rows == 0 && len(t.bad) == 0 {
		t.bad = append(t.bad, BadRow{2, "line", "nothing", "at least one line below the header"})
	}
	if len(t.bad) > 0 {
		return nil, t.bad
	}
	return t.events, nil
}

type useTable struct {
	facts    machine.Facts
	zone     *time.Location
	now      time.Time
	at       map[string]int // column by name
	width    int
	seen     map[string]int // line by day, group and column
	counters map[int]Reading
	rows     int
	events   []Event
	bad      []BadRow
}

func (t *useTable) head(cells []string) *BadRow {
	any := false
	for i, cell := range cells {
		name := strings.ToLower(strings.TrimSpace(cell))
		if name == "" {
			continue
		}
		if name != "date" && name != "group" && !slices.Contains(columns, name) {
			return &BadRow{1, "header", short(cell), "date, group, " + strings.Join(columns, ", ")}
		}
		if _, twice := t.at[name]; twice {
			return &BadRow{1, "header", name, "each column once"}
		}
		t.at[name] = i
		any = any || slices.Contains(columns, name)
	}
	t.width = len(cells)
	for _, name := range []string{"single", "double", "milk"} {
		_, all := t.at["drinks"]
		if _, one := t.at[name]; all && one {
			return &BadRow{
				1,
				"header",
				"drinks and " + name,
				"either drinks, or single, double and milk: a drink must not be counted twice",
			}
		}
	}
	if _, ok := t.at["date"]; !ok {
		return &BadRow{1, "header", "no date", "a column called date"}
	}
	if !any {
		return &BadRow{1, "header", "nothing counted", "at least one of " + strings.Join(columns, ", ")}
	}
	return nil
}

func short(text string) string {
	if r := []rune(text); len(r) > 40 {
		return string(r[:40]) + "…"
	}
	return text
}

func (t *useTable) refuse(line int, field, value, allowed string) {
	t.bad = append(t.bad, BadRow{line, field, short(value), allowed})
}

func (t *useTable) cell(cells []string, name string) string {
	i, ok := t.at[name]
	if !ok || i >= len(cells) {
		return ""
	}
	return strings.TrimSpace(cells[i])
}

func (t *useTable) readRow(line int, cells []string) {
	if strings.TrimSpace(strings.Join(cells, "")) == "" {
		return
	}
	t.rows++
	if len(cells) > t.width {
		t.refuse(line, "line", fmt.Sprintf("%d cells", len(cells)), fmt.Sprintf("%d, as the header", t.width))
		return
	}
	from, to, ok := t.span(line, t.cell(cells, "date"))
	if !ok {
		return
	}
	group := 0
	if text := t.cell(cells, "group"); text != "" {
		g, err := strconv.Atoi(text)
		if err != nil || g < 0 || g > t.facts.Groups {
			t.refuse(line, "group", text, fmt.Sprintf("0 for the whole machine, to %d", t.facts.Groups))
			return
		}
		group = g
	}
	any := false
	for _, name := range columns {
		text := t.cell(cells, name)
		if text == "" {
			continue
		}
		any = true
		v, err := strconv.ParseFloat(text, 64)
		most := machine.MaxDrinks
		if name == "counter" {
			most = MostCounts
		}
		if err != nil || !(v >= 0 && v <= most) {
			t.refuse(line, name, text, fmt.Sprintf("a number from 0 to %g", most))
			continue
		}
		key := fmt.Sprint(from.Unix(), group, name)
		if first, twice := t.seen[key]; twice {
			t.refuse(
				line,
				"date",
				t.cell(cells, "date"),
				fmt.Sprintf("each day once for a group: line %d has it already", first),
			)
			continue
		}
		t.seen[key] = line
		t.count(line, name, v, group, from, to)
	}
	if !any {
		t.refuse(line, "line", "nothing counted", "a number in at least one of the columns")
	}
}

// span is the machine's day of a date, or the instant of a time.
func (t *useTable) span(line int, text string) (from, to time.Time, ok bool) {
	if at, err := time.Parse(time.RFC3339, text); err == nil {
		from, to = at, at
	} else if day, err := time.ParseInLocation(time.DateOnly, text, t.zone); err == nil {
		from = time.Date(day.Year(), day.Month(), day.Day(), DayTurns, 0, 0, 0, t.zone)
		to = NextDay(from, t.zone)
	} else {
		t.refuse(line, "date", text, "a day such as 2026-03-10, or a time such as 2026-03-10T07:00:00Z")
		return from, to, false
	}
	if to.After(t.now) || from.Before(t.now.AddDate(-10, 0, 0)) {
		t.refuse(line, "date", text, "a day that is over, at most 10 years back; a machine's day ends at 04:00")
		return from, to, false
	}
	return from.UTC(), to.UTC(), true
}

// ofGroup is the group with a number; 0 stands for the whole machine.
func ofGroup(n int) machine.Part {
	if n == 0 {
		return machine.Part{}
	}
	return machine.Group(n)
}

func (t *useTable) count(line int, name string, v float64, group int, from, to time.Time) {
	kind := Kind(name)
	switch name {
	case "drinks":
		kind = Double
	case "counter":
		before, any := t.counters[group]
		t.counters[group] = Reading{Value: v, At: to}
		if !any {
			return // the first begins the count
		}
		if !to.After(before.At) {
			t.refuse(line, "date", to.Format(time.RFC3339), "counter readings in the order of their days")
			return
		}
		if v >= before.Value {
			v -= before.Value
		}
		kind, v, from = Double, v/t.facts.CountsADrink(), before.At
	}
	if v > 0 {
		t.events = append(t.events, Event{Part: ofGroup(group), Kind: kind, Count: v, From: from, To: to})
	}
}
