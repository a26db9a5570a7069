package exchange

import (
	"context"
	"encoding/csv"
	"io"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"

	"freshanvil/internal/app"
)

// clock is how an instant stands in a table: by the clock on the wall there, so that it sorts as text.
const clock = "2006-01-02 15:04"

// plain is a text that no program takes for a formula: what begins as one stands behind an apostrophe.
func plain(s string) string {
	if formal(s) {
		return "'" + s
	}
	return s
}

// formal says whether a text begins as a formula does, behind any apostrophes.
func formal(s string) bool {
	s = strings.TrimLeft(s, "'")
	first, _ := utf8.DecodeRuneInString(s)
	return s != "" && strings.ContainsRune("=+-@\t\r＝＋－＠", first) // wide ones are taken for the narrow by some
}

// unplain is the text that plain wrote.
func unplain(s string) string {
	if strings.HasPrefix(s, "'") && formal(s) {
		return s[1:]
	}
	return s
}

// CSV writes a table as comma-separated values (RFC 4180), UTF-8, its first line the names of the columns.
func CSV(ctx context.Context, to io.Writer, t Table, from *app.App) error {
	w := csv.NewWriter(to)
	w.UseCRLF = true
	if err := w.Write(t.Columns); err != nil {
		return err
	}
	line := make([]string, len(t.Columns))
	err := t.Rows(ctx, from, func(cells ...Cell) error {
		for i, c := range cells {
			switch x := c.(type) {
			case nil:
				line[i] = ""
			case string:
				line[i] = plain(x)
			case float64:
				line[i] = strconv.FormatFloat(x, 'g', -1, 64)
			case time.Time:
				line[i] = x.Format(clock)
			}
		}
		return w.Write(line)
	})
	if err != nil {
		return err
	}
	w.Flush()
	return w.Error()
}

// widths are how wide the columns of a sheet are, letters; the rest are as usual.
var widths = map[string]float64{"machine": 24, "owner": 20, "date": 17, "from": 17, "to": 17, "task": 26, "what": 48,
	"proof": 42, "seen": 30, "means": 48, "id": 12, "source": 18, "outcome": 18}

// Spreadsheet writes all tables as one workbook (ISO/IEC 29500), a sheet each, with numbers and instants as such and
// every text as text.
func Spreadsheet(ctx context.Context, to io.Writer, from *app.App, now time.Time) error {
	f := excelize.NewFile()
	defer f.Close()
	made := now.UTC().Format(time.RFC3339)
	err := f.SetDocProps(&excelize.DocProperties{Creator: "Fresh Anvil", Title: "Records", Created: made, Modified: made,
		Language: "en-GB"})
	if err != nil {
		return err
	}
	form := "yyyy-mm-dd hh:mm"
	instant, err := f.NewStyle(&excelize.Style{CustomNumFmt: &form})
	if err != nil {
		return err
	}
	head, err := f.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}})
	if err != nil {
		return err
	}
	for i, t := range Tables() {
		if i == 0 {
			err = f.SetSheetName("Sheet1", t.Title)
		} else {
			_, err = f.NewSheet(t.Title)
		}
		if err != nil {
			return err
		}
		if err := sheet(ctx, f, t, from, head, instant); err != nil {
			return err
		}
	}
	return f.Write(to)
}

// sheet writes one table row by row, without holding it.
func sheet(ctx context.Context, f *excelize.File, t Table, from *app.App, head, instant int) error {
	w, err := f.NewStreamWriter(t.Title)
	if err != nil {
		return err
	}
	titles := make([]any, len(t.Columns))
	for i, name := range t.Columns {
		titles[i] = excelize.Cell{StyleID: head, Value: name}
		if width := widths[name]; width > 0 {
			if err := w.SetColWidth(i+1, i+1, width); err != nil {
				return err
			}
		}
	}
	top := &excelize.Panes{Freeze: true, YSplit: 1, TopLeftCell: "A2", ActivePane: "bottomLeft"}
	if err := w.SetPanes(top); err != nil {
		return err
	}
	if err := w.SetRow("A1", titles); err != nil {
		return err
	}
	n := 1
	err = t.Rows(ctx, from, func(cells ...Cell) error {
		n++
		row := make([]any, len(cells))
		for i, c := range cells {
			row[i] = c
			if at, is := c.(time.Time); is { // as the clock on the wall there shows it: a sheet knows no zone
				wall := time.Date(at.Year(), at.Month(), at.Day(), at.Hour(), at.Minute(), at.Second(), 0, time.UTC)
				row[i] = excelize.Cell{StyleID: instant, Value: wall}
			}
		}
		return w.SetRow("A"+strconv.Itoa(n), row)
	})
	if err != nil {
		return err
	}
	return w.Flush()
}
