package machine

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"freshanvil/core/tables"
	"freshanvil/core/units"
)

// Listed is a machine of a list, as somebody wrote it down.
type Listed struct {
	Line               int // of the list, from 1; the header is one
	Name, Owner, Place string
	Answers            Answers
	Hardness           struct {
		Known bool
		Value float64
		Unit  units.HardnessUnit
	}
	Used bool // before it came: what was done is not known
}

// BadLine is a line of a list that cannot be taken, and why.
type BadLine struct {
	Line                  int
	Field, Value, Allowed string
}

// MostListed is the most machines that a list may have.
const MostListed = 500

// listColumns are those of a list: the first three may be left out.
var listColumns = []string{"owner", "place", "name", "layout", "valve", "drinks", "milk", "hardness", "unit",
	"treatment", "used"}

// ReadList reads a list of machines: a header that names the columns, then a line a machine. Columns are owner, place
// and name (words), layout (its code or its title), valve (yes, no; may be left out where the layout has it always or
// never), drinks and milk (a day), hardness (a number, or nothing where nobody knows) with unit (as in the contract;
// German degrees where it is left out), treatment (its code; nothing is none) and used (yes or no). Where a field but
// name and hardness is left empty, it is as on the line before. Commas, semicolons or tabs part the columns. Bad lines
// are all listed; where there is one, nothing is to be taken.
func ReadList(text string) (list []Listed, bad []BadLine) {
	r, head, wrong := readHead(text)
	if wrong != nil {
		return nil, []BadLine{*wrong}
	}
	before := map[string]string{}
	for {
		cells, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		var broken *csv.ParseError
		if errors.As(err, &broken) {
			return nil, append(bad, BadLine{broken.StartLine, "line", short(broken.Err.Error()),
				"columns as the header names them"})
		}
		line, _ := r.FieldPos(0)
		if len(list)+len(bad) >= MostListed {
			return nil, append(bad, BadLine{line, "line", "one more", fmt.Sprintf("%d machines at once", MostListed)})
		}
		if len(cells) > len(head) {
			bad = append(bad, BadLine{line, "line", fmt.Sprintf("%d fields", len(cells)), fmt.Sprintf("%d", len(head))})
			continue
		}
		before = asBefore(head, cells, before)
		l, wrong := listed(line, before)
		if bad = append(bad, wrong...); len(wrong) == 0 {
			list = append(list, l)
		}
	}
	if len(list) == 0 && len(bad) == 0 {
		bad = append(bad, BadLine{2, "line", "nothing", "a line a machine"})
	}
	if len(bad) > 0 {
		return nil, bad
	}
	return list, nil
}

// readHead opens a list and reads the names of its columns.
func readHead(text string) (r *csv.Reader, head []string, wrong *BadLine) {
	r = tables.Open(text)
	r.LazyQuotes = false
	head, err := r.Read()
	if err != nil || !slices.Contains(head, "layout") {
		return nil, nil, &BadLine{1, "header", short(strings.Join(head, ",")),
			"a line that names the columns: " + strings.Join(listColumns, ", ")}
	}
	for i, name := range head {
		if head[i] = strings.ToLower(strings.TrimSpace(name)); !slices.Contains(listColumns, head[i]) {
			return nil, nil, &BadLine{1, "header", short(name), "only " + strings.Join(listColumns, ", ")}
		}
	}
	return r, head, nil
}

// asBefore is what a line says, and, where it says nothing, the line before.
func asBefore(head, cells []string, before map[string]string) map[string]string {
	said := map[string]string{}
	for i, name := range head {
		if i < len(cells) {
			said[name] = strings.TrimSpace(cells[i])
		}
		if said[name] == "" && name != "name" && name != "hardness" {
			said[name] = before[name]
		}
	}
	return said
}

// short is what is told of something that cannot be read.
func short(text string) string {
	if r := []rune(strings.TrimSpace(text)); len(r) > 40 {
		return string(r[:40]) + "…"
	}
	return strings.TrimSpace(text)
}

// listed reads one line.
func listed(line int, said map[string]string) (l Listed, bad []BadLine) {
	wrong := func(field, allowed string) {
		bad = append(bad, BadLine{line, field, short(said[field]), allowed})
	}
	l = Listed{Line: line, Name: said["name"], Owner: said["owner"], Place: said["place"]}
	for _, field := range []string{"name", "owner", "place"} {
		if len([]rune(said[field])) > 80 {
			wrong(field, "80 letters at most")
		}
	}
	l.Answers.Layout = layoutNamed(said["layout"])
	if l.Answers.Layout == "" {
		wrong("layout", "one of "+join(Layouts()))
		return l, bad
	}
	if l.Name == "" {
		l.Name = l.Answers.Layout.Title()
	}
	l.Answers.Valve = valveListed(l.Answers.Layout, said["valve"])
	number := func(field string) float64 {
		v, err := strconv.ParseFloat(said[field], 64)
		if err != nil {
			wrong(field, "a number")
		}
		return v
	}
	l.Answers.Drinks = number("drinks")
	if said["milk"] != "" {
		l.Answers.MilkDrinks = number("milk")
	}
	l.Hardness.Unit = units.GermanDegree
	if said["unit"] != "" {
		l.Hardness.Unit = units.HardnessUnit(strings.ToLower(said["unit"]))
	}
	l.Answers.Hardness = units.UnknownHardness()
	if said["hardness"] != "" {
		l.Hardness.Known, l.Hardness.Value = true, number("hardness")
		h, err := units.NewHardness(l.Hardness.Value, l.Hardness.Unit)
		var out *units.OutOfRange
		if errors.As(err, &out) {
			wrong(map[bool]string{true: "unit", false: "hardness"}[out.Field == "unit"], out.Allowed)
		}
		l.Answers.Hardness = units.HardnessReading{Likely: h, Low: h, High: h, Known: true}
	}
	if l.Answers.Treatment = Treatment(strings.ToLower(said["treatment"])); l.Answers.Treatment == "" {
		l.Answers.Treatment = Untreated
	}
	if l.Used = !strings.EqualFold(said["used"], "no"); said["used"] != "" && l.Used &&
		!strings.EqualFold(said["used"], "yes") {
		wrong("used", "yes, no")
	}
	var out *units.OutOfRange
	if err := l.Answers.Check(); len(bad) == 0 && errors.As(err, &out) {
		bad = append(bad, BadLine{line, listField(out.Field), out.Value, out.Allowed})
	}
	return l, bad
}

// valveListed is the valve as it was said, or as the layout always has it; can't tell where neither says.
func valveListed(l Layout, said string) Answer {
	switch {
	case said != "":
		return Answer(strings.ToLower(said))
	case l == LeverManual:
		return No
	case !askedForValve[l]:
		return Yes
	}
	return CannotTell
}

// listField is what a field of the answers is called in a list.
func listField(field string) string {
	switch field {
	case "drinks_per_day":
		return "drinks"
	case "milk_drinks_per_day":
		return "milk"
	}
	return field
}

// layoutNamed finds a layout by its code or its title; empty where there is none.
func layoutNamed(name string) Layout {
	for _, l := range Layouts() {
		if strings.EqualFold(string(l), name) || strings.EqualFold(l.Title(), name) {
			return l
		}
	}
	return ""
}
