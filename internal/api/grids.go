package api

import (
	"context"
	"maps"

	"freshanvil/core/tables"
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
		Columns: g.Guess(fields), Rows: len(g.Rows), Becomes: [][]string{}}
	for _, f := range fields {
		out.Fields = append(out.Fields, GridField{Field: f.Name, Title: f.Title, Required: f.Required,
			Units: orNone(f.Units)})
	}
	if b.Columns != nil {
		out.Columns = *b.Columns
	}
	out.Units = g.Units(fields, out.Columns)
	if b.Units != nil {
		maps.Copy(out.Units, *b.Units)
	}
	asked := g.Asks(fields, out.Columns, out.Units)
	out.Dates, out.Unsure = GridDates(asked.Dates), asked.Unsure
	out.Missing, out.NoUnit = ptr(asked.Missing), ptr(asked.NoUnit)
	if b.Dates != nil {
		out.Dates, out.Unsure = *b.Dates, false
	}
	if out.Missing != nil || out.NoUnit != nil {
		return ReadGrid200JSONResponse(out), nil
	}
	text, err := g.Rewrite(fields, out.Columns, out.Units, exchange.Dates(out.Dates))
	if err != nil {
		return nil, err
	}
	out.Text = &text
	out.Ours = b.Columns == nil && g.IsOurs(fields) && out.Dates == GridDates(exchange.ISO)
	read := tables.Open(text)
	for range gridShown + 1 {
		line, err := read.Read()
		if err != nil {
			break
		}
		out.Becomes = append(out.Becomes, line)
	}
	return ReadGrid200JSONResponse(out), nil
}
