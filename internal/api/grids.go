package api

import (
	"context"
	"encoding/csv"
	"maps"
	"strings"

	"freshanvil/internal/exchange"
)

// gridShown is how many rows of a table are shown before it is taken.
const gridShown = 6

// ReadGrid reads a table of somebody else's, and gives it as one of ours.
func (s *Server) ReadGrid(_ context.Context, r ReadGridRequestObject) (ReadGridResponseObject, error) {
	b := r.Body
	g, err := exchange.ReadGrid(b.File, orElse(b.Sheet, ""))
	if err != nil {
		return nil, err
	}
	fields := exchange.Fields(string(b.Kind))
	out := Grid{Sheets: orNone(g.Sheets), Sheet: g.Sheet, Head: g.Head, Sample: g.Rows[:min(gridShown, len(g.Rows))],
		Columns: g.Guess(fields), Rows: len(g.Rows), Dates: GridDates(exchange.ISO), Becomes: [][]string{}}
	if b.Columns != nil {
		out.Columns = *b.Columns
	}
	out.Units = g.Units(fields, out.Columns)
	if b.Units != nil {
		maps.Copy(out.Units, *b.Units)
	}
	out.Ours = b.Columns == nil && g.IsOurs(fields)
	asks(&out, g, fields)
	if b.Dates != nil {
		out.Dates, out.Unsure = *b.Dates, false
	}
	if out.Missing != nil || out.NoUnit != nil {
		out.Ours = false
		return ReadGrid200JSONResponse(out), nil
	}
	text, err := g.Rewrite(fields, out.Columns, out.Units, exchange.Dates(out.Dates))
	if err != nil {
		return nil, err
	}
	out.Text = &text
	out.Ours = out.Ours && out.Dates == GridDates(exchange.ISO)
	read := csv.NewReader(strings.NewReader(text))
	for range gridShown + 1 {
		line, err := read.Read()
		if err != nil {
			break
		}
		out.Becomes = append(out.Becomes, line)
	}
	return ReadGrid200JSONResponse(out), nil
}

// asks says of each field what it may be, and what has to be said of it still.
func asks(out *Grid, g exchange.Grid, fields []exchange.Field) {
	for _, f := range fields {
		out.Fields = append(out.Fields, GridField{Field: f.Name, Title: f.Title, Required: f.Required,
			Units: orNone(f.Units)})
		column, mapped := out.Columns[f.Name]
		if mapped && f.AsksUnit && out.Units[f.Name] == "" && out.NoUnit == nil {
			out.NoUnit = ptr(f.Name)
		}
		if f.Required && !mapped && out.Missing == nil {
			out.Missing = ptr(f.Name)
		}
		if f.Date && mapped {
			as, unsure := g.GuessDates(column)
			out.Dates, out.Unsure = GridDates(as), unsure
		}
	}
}
