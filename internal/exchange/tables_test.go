package exchange

import (
	"bytes"
	"encoding/csv"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/thedatashed/xlsxreader"

	"freshanvil/internal/app"
	"freshanvil/internal/demo"
)

// shown is the demo's record, with a name in it that a spreadsheet would take for a formula.
func shown(t *testing.T) *app.App {
	t.Helper()
	file := filepath.Join(t.TempDir(), "demo.db")
	if err := demo.Ready(t.Context(), file, noon, false); err != nil {
		t.Fatal(err)
	}
	a, err := app.Open(t.Context(), file, func() time.Time { return noon })
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = a.Close() })
	list, err := a.Machines(t.Context(), false)
	if err != nil || len(list) == 0 {
		t.Fatal(err)
	}
	m := list[0]
	edit := app.Edit{MachineID: m.ID, Version: m.Version}
	err = a.ChangeDetails(t.Context(), edit, app.Details{Name: `=HYPERLINK("x")`, Owner: m.Owner, Place: m.Place})
	if err != nil {
		t.Fatal(err)
	}
	return a
}

// Each table as CSV has its columns and its rows, dates by the clock of the machine, and nothing that a spreadsheet
// takes for a formula; the workbook, read by another library than wrote it, says the same, numbers and dates as such.
func TestTablesForPeople(t *testing.T) {
	a := shown(t)
	var book bytes.Buffer
	if err := Spreadsheet(t.Context(), &book, a, noon); err != nil {
		t.Fatal(err)
	}
	read, err := xlsxreader.NewReader(book.Bytes())
	if err != nil {
		t.Fatal(err)
	}
	formula := false
	for _, table := range Tables() {
		var out bytes.Buffer
		if err := CSV(t.Context(), &out, table, a); err != nil {
			t.Fatal(err)
		}
		lines, err := csv.NewReader(&out).ReadAll()
		if err != nil || len(lines) < 3 || !slices.Equal(lines[0], table.Columns) {
			t.Fatalf("%s: %d lines, %v", table.Name, len(lines), err)
		}
		n := 0
		for row := range read.ReadRows(table.Title) {
			if row.Error != nil || n >= len(lines) {
				t.Fatalf("%s: row %d of %d: %v", table.Title, n, len(lines), row.Error)
			}
			for _, cell := range row.Cells {
				column := int(cell.Column[0] - 'A')
				want := lines[n][column]
				if strings.HasPrefix(want, "=") {
					t.Errorf("%s: %q is a formula", table.Name, want)
				}
				formula = formula || strings.HasPrefix(cell.Value, "=HYPERLINK")
				if !alike(cell, unplain(want)) {
					t.Errorf("%s, row %d, %s: %q (%s) in the workbook, %q as CSV", table.Title, n, table.Columns[column],
						cell.Value, cell.Type, want)
				}
			}
			n++
		}
		if n != len(lines) {
			t.Errorf("%s: %d rows in the workbook, %d as CSV", table.Title, n, len(lines))
		}
	}
	if !formula {
		t.Error("the name that begins as a formula is in no cell")
	}
}

// alike says whether a cell of a workbook is a field of a CSV: an instant to the minute, a number by its value.
func alike(cell xlsxreader.Cell, field string) bool {
	if cell.Value == field {
		return true
	}
	if at, err := time.Parse(time.RFC3339, cell.Value); err == nil {
		return at.Format(clock) == field || at.Add(time.Second).Format(clock) == field // a day's share, cut to the second
	}
	a, err := strconv.ParseFloat(cell.Value, 64)
	b, other := strconv.ParseFloat(field, 64)
	return err == nil && other == nil && a == b
}

func TestPlainText(t *testing.T) {
	for _, s := range []string{"", "tea", "=1+2", "+3", "-4", "@x", "\tx", "'quoted", "'=x", "＝1+2", "＋3", "－4", "＠x"} {
		p := plain(s)
		if p != "" && strings.ContainsAny(string([]rune(p)[:1]), "=+-@\t＝＋－＠") {
			t.Errorf("%q is written %q", s, p)
		}
		if got := unplain(p); got != s {
			t.Errorf("%q comes back as %q", s, got)
		}
	}
}
