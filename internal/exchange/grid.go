package exchange

import (
	"archive/zip"
	"bytes"
	"encoding/csv"
	"fmt"
	"io"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"

	"freshanvil/core/tables"
	"freshanvil/core/water"
)

// Grid is a table of somebody else's: its columns by the names that stand over them.
type Grid struct {
	Sheets []string // of a workbook
	Sheet  string
	Head   []string
	Rows   [][]string
	lines  []int // of the file, on which the head and then each row begins
}

// Bounds of what is read in (our own engineering choices).
const (
	mostRows    = 60_000
	mostColumns = 60
	longestCell = 400
	unzipped    = 96 << 20
)

// Field is a column that a reader of ours knows.
type Field struct {
	Name     string
	Title    string
	Required bool
	Date     bool
	alike    []string // other names for it
	// Units are those it may be in, named behind it in our own tables; AsksUnit, that it is not read without one.
	Units    []string
	AsksUnit bool
}

// readings are the columns of a table of what was read of a water.
func readings() []Field {
	list := []Field{{Name: "date", Title: "day", Required: true, Date: true, alike: []string{"day", "when"}},
		{Name: "how", Title: "how it was read", alike: []string{"method"}}}
	for _, c := range water.Columns() {
		list = append(list, Field{Name: c.Name, Title: c.Name, alike: c.Alike, Units: c.Units, AsksUnit: c.AsksUnit})
	}
	return list
}

// Fields are what a kind of table has: use, machines, report, readings; nothing for another kind.
func Fields(kind string) []Field {
	switch kind {
	case "readings":
		return readings()
	case "use":
		return []Field{{Name: "date", Title: "day", Required: true, Date: true, alike: []string{"day", "when"}},
			{Name: "drinks", Title: "drinks", alike: []string{"shots", "cups", "coffees", "total"}},
			{Name: "single", Title: "singles", alike: []string{"espresso", "single shots"}},
			{Name: "double", Title: "doubles", alike: []string{"double shots", "doppio"}},
			{Name: "milk", Title: "with milk", alike: []string{"milk drinks", "cappuccino", "flat white"}},
			{Name: "flush", Title: "flushes"},
			{Name: "counter", Title: "the machine's counter", alike: []string{"reading"}},
			{Name: "group", Title: "group", alike: []string{"head"}}}
	case "machines":
		return []Field{{Name: "name", Title: "name", alike: []string{"machine", "title"}},
			{Name: "owner", Title: "owner", alike: []string{"customer", "client"}},
			{Name: "place", Title: "place", alike: []string{"site", "address", "location"}},
			{Name: "layout", Title: "layout", Required: true, alike: []string{"type", "kind"}},
			{Name: "valve", Title: "three-way valve"},
			{Name: "drinks", Title: "drinks a day", alike: []string{"shots"}},
			{Name: "milk", Title: "with milk a day"}, {Name: "hardness", Title: "hardness"},
			{Name: "unit", Title: "unit of the hardness"},
			{Name: "treatment", Title: "what treats the water", alike: []string{"filter"}}, {Name: "used", Title: "used"}}
	case "report":
		return []Field{{Name: "parameter", Title: "parameter", Required: true, alike: []string{"name", "what", "analysis"}},
			{Name: "value", Title: "value", Required: true, alike: []string{"result", "mean", "average"}},
			{Name: "unit", Title: "unit"}}
	}
	return nil
}

// ReadGrid reads a file: a workbook, or text whose columns commas, semicolons or tabs part. What is wrong with it is a
// *units.OutOfRange.
func ReadGrid(raw []byte, sheet string) (Grid, error) {
	if bytes.HasPrefix(raw, []byte("PK\x03\x04")) {
		return readBook(raw, sheet)
	}
	text := string(raw)
	if !utf8.ValidString(text) || strings.ContainsRune(text, 0) {
		return Grid{}, wrong("file", "cannot be read", "a spreadsheet (.xlsx), or text in UTF-8 with a line a row")
	}
	r := tables.Open(text)
	var g Grid
	for {
		line, err := r.Read()
		if err == io.EOF {
			return g.checked()
		}
		if err != nil {
			return g, wrong("file", err.Error(), "a line a row, its fields parted alike")
		}
		at, _ := r.FieldPos(0)
		if err := g.add(at, line); err != nil {
			return g, err
		}
	}
}

// claimed is what a sheet says of its own size, at its head.
var claimed = regexp.MustCompile(`<dimension ref="[A-Z]+[0-9]+:[A-Z]+([0-9]+)"`)

// tooLong says whether a sheet of a workbook says by itself that it holds more rows than are taken: it is refused
// before it is read.
func tooLong(raw []byte) bool {
	z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	if err != nil {
		return false
	}
	for _, f := range z.File {
		if !strings.HasPrefix(f.Name, "xl/worksheets/sheet") || f.UncompressedSize64 > unzipped {
			continue
		}
		r, err := f.Open()
		if err != nil {
			continue
		}
		head := make([]byte, 4096)
		n, _ := io.ReadFull(r, head)
		_ = r.Close()
		if m := claimed.FindSubmatch(head[:n]); m != nil {
			if rows, err := strconv.Atoi(string(m[1])); err == nil && rows > mostLines {
				return true
			}
		}
	}
	return false
}

func readBook(raw []byte, sheet string) (Grid, error) {
	if tooLong(raw) {
		return Grid{}, wrong("file", "more rows", fmt.Sprintf("%d rows at most; part it", mostRows))
	}
	f, err := excelize.OpenReader(bytes.NewReader(raw), excelize.Options{RawCellValue: true, UnzipSizeLimit: unzipped,
		UnzipXMLSizeLimit: unzipped / 4})
	if err != nil {
		return Grid{}, wrong("file", "cannot be read as a spreadsheet", "a workbook (.xlsx) of at most 96 MB unpacked")
	}
	defer f.Close()
	g := Grid{Sheets: f.GetSheetList(), Sheet: sheet}
	if sheet == "" && len(g.Sheets) > 0 {
		g.Sheet = g.Sheets[0]
	}
	if !slices.Contains(g.Sheets, g.Sheet) {
		return g, wrong("sheet", sheet, strings.Join(g.Sheets, ", "))
	}
	rows, err := f.Rows(g.Sheet)
	if err != nil {
		return g, wrong("sheet", g.Sheet, "a sheet with rows")
	}
	defer rows.Close()
	dates := map[int]bool{}
	for n := 1; rows.Next(); n++ {
		line, err := rows.Columns()
		if err != nil {
			return g, wrong("file", err.Error(), "a whole workbook")
		}
		if len(g.Head) > 0 && len(g.Rows) == 0 {
			for i := range line {
				dates[i] = isDate(f, g.Sheet, i+1, n)
			}
		}
		writeDays(line, dates)
		if err := g.add(n, line); err != nil {
			return g, err
		}
	}
	return g.checked()
}

// writeDays writes what a workbook keeps as numbers of days, in the columns that are dates.
func writeDays(line []string, dates map[int]bool) {
	for i, cell := range line {
		if serial, err := strconv.ParseFloat(cell, 64); err == nil && dates[i] {
			if at, err := excelize.ExcelDateToTime(serial, false); err == nil {
				line[i] = at.Format(time.DateOnly)
			}
		}
	}
}

// isDate says whether a cell is shown as a date: a workbook keeps days as numbers.
func isDate(f *excelize.File, sheet string, column, row int) bool {
	name, err := excelize.CoordinatesToCellName(column, row)
	if err != nil {
		return false
	}
	id, err := f.GetCellStyle(sheet, name)
	if err != nil {
		return false
	}
	style, err := f.GetStyle(id)
	if err != nil || style == nil {
		return false
	}
	if style.CustomNumFmt != nil {
		return strings.ContainsAny(strings.ToLower(*style.CustomNumFmt), "yd")
	}
	return style.NumFmt >= 14 && style.NumFmt <= 17 || style.NumFmt == 22
}

// add takes a line of the file in; empty ones are passed over, the first that is not names the columns.
func (g *Grid) add(at int, line []string) error {
	if len(line) > mostColumns {
		return wrong("file", fmt.Sprintf("%d columns", len(line)), fmt.Sprintf("%d at most", mostColumns))
	}
	empty := true
	for i, cell := range line {
		line[i] = unplain(strings.TrimSpace(cell))
		empty = empty && line[i] == ""
		if len(cell) > longestCell {
			return wrong("file", fmt.Sprintf("a field of %d signs", len(cell)), fmt.Sprintf("%d at most", longestCell))
		}
	}
	switch {
	case empty:
		return nil
	case g.Head == nil:
		g.Head = slices.Clone(line)
	case len(g.Rows) >= mostRows:
		return wrong("file", "more rows", fmt.Sprintf("%d rows at most; part it", mostRows))
	default:
		g.Rows = append(g.Rows, slices.Clone(line))
	}
	g.lines = append(g.lines, at)
	return nil
}

func (g Grid) checked() (Grid, error) {
	if len(g.Head) == 0 || len(g.Rows) == 0 {
		return g, wrong("file", "no rows", "a line that names the columns, and rows under it")
	}
	return g, nil
}

func (g Grid) cell(row, column int) string {
	if column < 0 || column >= len(g.Rows[row]) {
		return ""
	}
	return g.Rows[row][column]
}

// Guess says which column is which field, by the names over them; a field that no column is named like has none.
func (g Grid) Guess(fields []Field) map[string]int {
	of, taken := map[string]int{}, map[int]bool{}
	find := func(f Field, fits func(head, name string) bool) {
		if _, known := of[f.Name]; known {
			return
		}
		for _, name := range append([]string{f.Name, f.Title}, f.alike...) {
			for i, head := range g.Head {
				if !taken[i] && fits(strings.ToLower(head), strings.ToLower(name)) {
					of[f.Name], taken[i] = i, true
					return
				}
			}
		}
	}
	for _, f := range fields {
		find(f, func(head, name string) bool { return head == name })
	}
	for _, f := range fields {
		find(f, func(head, name string) bool { return len(name) > 3 && strings.Contains(head, name) })
	}
	return of
}

// Units says in what unit each field is that has several, by what stands over its column; a field whose unit is not
// named there has none.
func (g Grid) Units(fields []Field, of map[string]int) map[string]string {
	in := map[string]string{}
	for _, f := range fields {
		column, mapped := of[f.Name]
		if !mapped || column < 0 || column >= len(g.Head) {
			continue
		}
		head := strings.ToLower(g.Head[column])
		for _, unit := range f.Units {
			if unit != "" && strings.Contains(head, strings.ToLower(unit)) && len(unit) > len(in[f.Name]) {
				in[f.Name] = unit
			}
		}
	}
	return in
}

// IsOurs says whether it is text whose columns are all named as fields of ours, so that nothing has to be asked.
func (g Grid) IsOurs(fields []Field) bool {
	for _, head := range g.Head {
		if !slices.ContainsFunc(fields, func(f Field) bool { return f.heads(head) }) {
			return false
		}
	}
	return g.Sheet == ""
}

// heads says whether a column of ours is named so.
func (f Field) heads(head string) bool {
	return strings.EqualFold(f.Name, head) ||
		slices.ContainsFunc(f.Units, func(unit string) bool { return strings.EqualFold(f.Name+" "+unit, head) })
}

// Dates are how days are written.
type Dates string

// The ways to write days.
const (
	ISO        Dates = "iso" // 2026-03-10
	DayFirst   Dates = "dmy" // 10.3.2026, 10/03/26
	MonthFirst Dates = "mdy" // 3/10/2026
)

// GuessDates says how the days of a column are written, and whether another way would read them, too.
func (g Grid) GuessDates(column int) (as Dates, unsure bool) {
	iso, day, month := true, true, true
	for i := range g.Rows {
		text := g.cell(i, column)
		if text == "" {
			continue
		}
		for as, still := range map[Dates]*bool{ISO: &iso, DayFirst: &day, MonthFirst: &month} {
			if *still {
				_, *still = dayOf(text, as)
			}
		}
	}
	switch {
	case iso:
		return ISO, false
	case day:
		return DayFirst, month
	case month:
		return MonthFirst, false
	}
	return ISO, true
}

// dayOf is a day as ISO 8601 writes it; false where it is not written so.
func dayOf(text string, as Dates) (string, bool) {
	text, _, _ = strings.Cut(text, " ")
	text, _, _ = strings.Cut(text, "T")
	if as == ISO {
		at, err := time.Parse(time.DateOnly, text)
		return at.Format(time.DateOnly), err == nil
	}
	parts := strings.FieldsFunc(text, func(r rune) bool { return strings.ContainsRune("./-", r) })
	if len(parts) != 3 {
		return "", false
	}
	var n [3]int
	for i, p := range parts {
		var err error
		if n[i], err = strconv.Atoi(p); err != nil {
			return "", false
		}
	}
	if as == MonthFirst {
		n[0], n[1] = n[1], n[0]
	}
	if n[2] < 100 {
		n[2] += 2000
	}
	at := time.Date(n[2], time.Month(n[1]), n[0], 0, 0, 0, 0, time.UTC)
	return at.Format(time.DateOnly), at.Day() == n[0] && int(at.Month()) == n[1] && n[2] > 1900 && n[2] < 2200
}

// Rewrite is the grid as our own reader of that kind takes it: its fields that have a column, with their units behind
// their names, days as ISO 8601, numbers with a point. What cannot be read stays as it is, and each row on its line of
// the file, or of the sheet, so that the reader names it by that.
func (g Grid) Rewrite(fields []Field, of map[string]int, in map[string]string, as Dates) (string, error) {
	var has []Field
	for _, f := range fields {
		column, mapped := of[f.Name]
		if mapped && (column < 0 || column >= len(g.Head)) {
			return "", wrong("columns."+f.Name, fmt.Sprint(column), "a column of the file")
		}
		if mapped {
			has = append(has, f)
		} else if f.Required {
			return "", wrong("columns."+f.Name, "none", "the column in which it stands: "+f.Title)
		}
	}
	out := lined{at: 1}
	out.to = csv.NewWriter(&out.text)
	line := make([]string, len(has))
	for i, f := range has {
		unit := in[f.Name]
		if unit != "" && !slices.Contains(f.Units, unit) {
			return "", wrong("units."+f.Name, unit, "one of "+strings.Join(f.Units, ", "))
		}
		line[i] = strings.TrimSpace(f.Name + " " + unit)
	}
	if err := out.write(g.lines[0], line); err != nil {
		return "", err
	}
	for n := range g.Rows {
		for i, f := range has {
			line[i] = rewritten(g.cell(n, of[f.Name]), f.Date, as)
		}
		if err := out.write(g.lines[n+1], line); err != nil {
			return "", err
		}
	}
	out.to.Flush()
	return out.text.String(), out.to.Error()
}

// rewritten is a cell as our own reader takes it; as it is, where it cannot be read.
func rewritten(cell string, date bool, as Dates) string {
	read, ok := numberOf(cell)
	if date {
		read, ok = dayOf(cell, as)
	}
	if ok {
		return read
	}
	return cell
}

// lined writes rows on the lines on which they are to stand.
type lined struct {
	text bytes.Buffer
	to   *csv.Writer
	at   int // the next line
}

// mostLines is how far down a row is kept on its line: below that a file is mostly empty, and rows follow each other.
const mostLines = 2 * mostRows

func (l *lined) write(on int, row []string) error {
	if on = min(on, mostLines); l.at < on {
		l.to.Flush()
		l.text.WriteString(strings.Repeat("\n", on-l.at))
		l.at = on
	}
	for _, cell := range row {
		l.at += strings.Count(cell, "\n")
	}
	l.at++
	return l.to.Write(row)
}

// Asked is what has still to be said of a table before it can be rewritten, and how its days are written.
type Asked struct {
	Missing string // the first field that is needed and has no column
	NoUnit  string // the first field that is not read without a unit and has none
	Dates   Dates
	Unsure  bool // its days can be read in another way too
}

// Asks says so, with what is said of its columns and units.
func (g Grid) Asks(fields []Field, of map[string]int, in map[string]string) Asked {
	a := Asked{Dates: ISO}
	for _, f := range fields {
		column, mapped := of[f.Name]
		switch {
		case !mapped && f.Required && a.Missing == "":
			a.Missing = f.Name
		case !mapped:
		case f.Date:
			a.Dates, a.Unsure = g.GuessDates(column)
		case f.AsksUnit && in[f.Name] == "" && a.NoUnit == "":
			a.NoUnit = f.Name
		}
	}
	return a
}

// numberOf is a number that is written with a comma, with a point; false for anything else.
func numberOf(text string) (string, bool) {
	if strings.Count(text, ",") != 1 || strings.Contains(text, ".") {
		return "", false
	}
	number := strings.Replace(text, ",", ".", 1)
	_, err := strconv.ParseFloat(number, 64)
	return number, err == nil
}
