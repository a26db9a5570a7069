package exchange

import (
	"bytes"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/xuri/excelize/v2"

	"freshanvil/core/tables"
	"freshanvil/core/units"
)

// book is a workbook as a till might write one: a title above, days as dates, another sheet beside.
func book(t *testing.T) []byte {
	t.Helper()
	f := excelize.NewFile()
	defer f.Close()
	if _, err := f.NewSheet("Till"); err != nil {
		t.Fatal(err)
	}
	style, err := f.NewStyle(&excelize.Style{NumFmt: 14})
	if err != nil {
		t.Fatal(err)
	}
	for cell, v := range map[string]any{"A2": "Day", "B2": "Cups sold", "C2": "Cappuccino", "D2": "Till",
		"A3": time.Date(2026, 3, 2, 0, 0, 0, 0, time.UTC), "B3": 141, "C3": 60, "D3": "=1+1",
		"A4": time.Date(2026, 3, 3, 0, 0, 0, 0, time.UTC), "B4": 98.5, "C4": 41, "D4": "b"} {
		if err := f.SetCellValue("Till", cell, v); err != nil {
			t.Fatal(err)
		}
	}
	if err := f.SetCellStyle("Till", "A3", "A4", style); err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	if err := f.Write(&out); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

// A table of somebody else's becomes one of ours: its columns are told by their names, its days by how they are
// written.
func TestAForeignTable(t *testing.T) {
	for _, x := range []struct {
		name, kind, sheet string
		raw               []byte
		want              string
		as                Dates
		unsure            bool
	}{
		{"a workbook", "use", "Till", book(t), "\ndate,drinks,milk\n2026-03-02,141,60\n2026-03-03,98.5,41\n", ISO, false},
		{"semicolons, day first", "use", "", []byte("\ufeffDay;Double shots;Flushes\n13.03.2026;12,5;3\n14.03.26;9;\n"),
			"date,double,flush\n2026-03-13,12.5,3\n2026-03-14,9,\n", DayFirst, false},
		{"month first", "use", "", []byte("when\tdrinks\n3/13/2026\t12\n"), "date,drinks\n2026-03-13,12\n", MonthFirst,
			false},
		{"either way", "use", "", []byte("day,drinks\n3/4/2026,12\n"), "date,drinks\n2026-04-03,12\n", DayFirst, true},
		{"ours", "use", "", []byte("date,double\n2026-03-10,14\n"), "date,double\n2026-03-10,14\n", ISO, false},
		{"machines", "machines", "", []byte("Customer,Machine,Type,Site\nFerry,Deck,hx_cafe,Quay\n"),
			"name,owner,place,layout\nDeck,Ferry,Quay,hx_cafe\n", ISO, true},
		{"readings", "readings", "",
			[]byte("Day;Total hardness [°dH];pH;Conductivity, mS/m;Remark\n1.7.2025;14,2;7;52;clear\n"),
			"date,pH,hardness °dH,conductivity mS/m\n2025-07-01,7,14.2,52\n", DayFirst, true},
		{"a report", "report", "", []byte("Analysis;Result;Unit\nCalcium;78,2;mg/L\n"),
			"parameter,value,unit\nCalcium,78.2,mg/L\n", ISO, true},
	} {
		t.Run(x.name, func(t *testing.T) {
			g, err := ReadGrid(x.raw, x.sheet)
			if err != nil {
				t.Fatal(err)
			}
			fields := Fields(x.kind)
			of := g.Guess(fields)
			column, dated := of["date"]
			as := ISO
			if dated {
				var unsure bool
				if as, unsure = g.GuessDates(column); as != x.as || unsure != x.unsure {
					t.Errorf("days by %s, unsure %v", as, unsure)
				}
			}
			got, err := g.Rewrite(fields, of, g.Units(fields, of), as)
			if err != nil || got != x.want {
				t.Errorf("%q, %v, want %q", got, err, x.want)
			}
			if g.IsOurs(fields) != (x.name == "ours") {
				t.Errorf("taken for one of ours: %v", g.IsOurs(fields))
			}
		})
	}
}

// A row stays on the line of the file on which it began, so that a reader of ours names it by that: below empty lines,
// between them, below a field of two lines, and on its row of a sheet. Far down in a sheet that is mostly empty, rows
// follow each other.
func TestRowsStayOnTheirLines(t *testing.T) {
	f := excelize.NewFile()
	defer f.Close()
	for cell, v := range map[string]any{"A1": "date", "B1": "drinks", "A9": "2026-03-02", "A200000": "2026-03-03",
		"A200003": "2026-03-04"} {
		if err := f.SetCellValue("Sheet1", cell, v); err != nil {
			t.Fatal(err)
		}
	}
	var far bytes.Buffer
	if err := f.Write(&far); err != nil {
		t.Fatal(err)
	}
	for _, x := range []struct {
		name string
		raw  []byte
		want []int
	}{
		{"one after the other", []byte("day;drinks\n1.3.2026;1\n2.3.2026;2\n"), []int{1, 2, 3}},
		{"empty lines", []byte("\n;\nday;drinks\n\n1.3.2026;1\n;;\n2.3.2026;2\n"), []int{3, 5, 7}},
		{"a field of two lines", []byte("day;drinks;note\n1.3.2026;1;\"a\nb\"\n2.3.2026;2;\n"), []int{1, 2, 4}},
		{"a title of two lines", []byte("day;\"drinks\nsold\"\n1.3.2026;1\n"), []int{1, 3}},
		{"a sheet", book(t), []int{2, 3, 4}},
		{"far down", far.Bytes(), []int{1, 9, mostLines, mostLines + 1}},
	} {
		t.Run(x.name, func(t *testing.T) {
			sheet := ""
			if x.name == "a sheet" {
				sheet = "Till"
			}
			g, err := ReadGrid(x.raw, sheet)
			if err != nil {
				t.Fatal(err)
			}
			text, err := g.Rewrite(Fields("use"), map[string]int{"date": 0, "drinks": 1}, nil, DayFirst)
			if err != nil {
				t.Fatal(err)
			}
			var got []int
			for r := tables.Open(text); ; {
				if _, err := r.Read(); err != nil {
					break
				}
				line, _ := r.FieldPos(0)
				got = append(got, line)
			}
			if !slices.Equal(got, x.want) {
				t.Errorf("rows on lines %v, want %v", got, x.want)
			}
		})
	}
}

// Before a table can be rewritten, its days, a column that is needed and a unit that is not named have to be said.
func TestWhatATableIsAsked(t *testing.T) {
	g, err := ReadGrid([]byte("Day,Hardness,pH\n3/4/2026,14,7\n"), "")
	if err != nil {
		t.Fatal(err)
	}
	fields := Fields("readings")
	all := map[string]int{"date": 0, "hardness": 1, "pH": 2}
	for _, x := range []struct {
		name  string
		of    map[string]int
		units map[string]string
		want  Asked
	}{
		{"all of it", all, map[string]string{"hardness": "°dH"}, Asked{Dates: DayFirst, Unsure: true}},
		{"no unit", all, nil, Asked{NoUnit: "hardness", Dates: DayFirst, Unsure: true}},
		{"no day", map[string]int{"hardness": 1}, nil, Asked{Missing: "date", NoUnit: "hardness", Dates: ISO}},
		{"what has no unit", map[string]int{"date": 0, "pH": 2}, nil, Asked{Dates: DayFirst, Unsure: true}},
	} {
		t.Run(x.name, func(t *testing.T) {
			if got := g.Asks(fields, x.of, x.units); got != x.want {
				t.Errorf("%+v, want %+v", got, x.want)
			}
		})
	}
}

func TestBadTables(t *testing.T) {
	wide := strings.Repeat("a,", mostColumns+1) + "\n"
	for _, x := range []struct{ name, text, sheet, field string }{
		{"nothing", "", "", "file"}, {"a header alone", "date,drinks\n", "", "file"},
		{"pictures", "\x89PNG\x00\xff", "", "file"},
		{"half a workbook", "PK\x03\x04nothing", "", "file"}, {"too wide", wide + wide, "", "file"},
		{"too long a field", "date\n" + strings.Repeat("x", longestCell+1), "", "file"},
		{"no such sheet", string(book(t)), "Till 2", "sheet"},
	} {
		t.Run(x.name, func(t *testing.T) {
			var bad *units.OutOfRange
			if _, err := ReadGrid([]byte(x.text), x.sheet); !errors.As(err, &bad) || bad.Field != x.field {
				t.Errorf("%v", err)
			}
		})
	}
	g, err := ReadGrid([]byte("date,drinks\n2026-03-10,3\n"), "")
	if err != nil {
		t.Fatal(err)
	}
	for field, of := range map[string]map[string]int{"columns.date": {"drinks": 1},
		"columns.drinks": {"date": 0, "drinks": 7}} {
		var bad *units.OutOfRange
		if _, err := g.Rewrite(Fields("use"), of, nil, ISO); !errors.As(err, &bad) || bad.Field != field {
			t.Errorf("%s: %v", field, err)
		}
	}
	var many strings.Builder
	many.WriteString("date,drinks\n")
	for n := range 50_000 {
		fmt.Fprintf(&many, "%s,%d\n", noon.AddDate(0, 0, -n%3000).Format(time.DateOnly), n%200)
	}
	if g, err := ReadGrid([]byte(many.String()), ""); err != nil || len(g.Rows) != 50_000 {
		t.Errorf("fifty thousand rows: %d, %v", len(g.Rows), err)
	}
}

// Whatever comes ends in a grid or an error, and a grid is written so that our own readers take its fields apart again.
func FuzzReadGrid(f *testing.F) {
	f.Add([]byte("day;drinks\n1.2.2026;3\n"), "")
	f.Add([]byte("PK\x03\x04"), "x")
	f.Fuzz(func(t *testing.T, raw []byte, sheet string) {
		g, err := ReadGrid(raw, sheet)
		if err != nil {
			return
		}
		fields := Fields("use")
		text, err := g.Rewrite(fields, map[string]int{"date": 0}, nil, ISO)
		if err != nil {
			t.Fatal(err)
		}
		again, err := ReadGrid([]byte(text), "")
		if err == nil && len(again.Rows) > len(g.Rows) {
			t.Errorf("%d rows become %d", len(g.Rows), len(again.Rows))
		}
	})
}

// R16. A workbook that says it holds more rows than are taken is refused by its head: nothing of it is read.
func TestALongWorkbookIsRefusedByItsHead(t *testing.T) {
	f := excelize.NewFile()
	if err := f.SetCellValue("Sheet1", "A1", "day"); err != nil {
		t.Fatal(err)
	}
	if err := f.SetSheetDimension("Sheet1", "A1:C400000"); err != nil {
		t.Fatal(err)
	}
	var raw bytes.Buffer
	if err := f.Write(&raw); err != nil {
		t.Fatal(err)
	}
	if !tooLong(raw.Bytes()) {
		t.Error("its head is not looked at")
	}
	var bad *units.OutOfRange
	if _, err := ReadGrid(raw.Bytes(), ""); !errors.As(err, &bad) || !strings.Contains(bad.Allowed, "rows at most") {
		t.Errorf("%v", err)
	}
	if tooLong(book(t)) {
		t.Error("a short one is refused, too")
	}
}
