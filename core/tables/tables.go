// Package tables opens tables as people keep them in text: a line a row, below one that names the columns. It decides
// what parts the columns; what stands in them is decided by whoever reads it.
package tables

import (
	"encoding/csv"
	"strings"
)

// Open is a reader of a table in UTF-8. Commas, semicolons or tabs part its columns, whichever the first line has most
// of; a byte order mark at its start is passed over, as are empty lines. Rows may be of different lengths, and a quote
// may stand in the middle of a field.
func Open(text string) *csv.Reader {
	text = strings.TrimPrefix(text, "\ufeff")
	r := csv.NewReader(strings.NewReader(text))
	r.FieldsPerRecord, r.TrimLeadingSpace, r.LazyQuotes = -1, true, true
	r.Comma = commaOf(text)
	return r
}

// commaOf is what parts the columns.
func commaOf(text string) rune {
	first, _, _ := strings.Cut(strings.TrimLeft(text, "\r\n"), "\n")
	best := ','
	for _, c := range ";\t" {
		if strings.Count(first, string(c)) > strings.Count(first, string(best)) {
			best = c
		}
	}
	return best
}
