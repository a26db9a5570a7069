package api

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"strings"

	"freshanvil/internal/exchange"
)

// writing is what a function writes, read as it is written: a large file is never held.
func writing(write func(io.Writer) error) io.Reader {
	from, to := io.Pipe()
	go func() { to.CloseWithError(write(to)) }()
	return from
}

// fileNamed is the header by which a browser keeps an answer as a file, its name dated.
func (s *Server) fileNamed(name, ending string) *string {
	return ptr(fmt.Sprintf(`attachment; filename="%s-%s.%s"`, name, s.App.Instant().Format("2006-01-02"), ending))
}

// ExportRecord is everything that is on record.
func (s *Server) ExportRecord(ctx context.Context, _ ExportRecordRequestObject) (ExportRecordResponseObject, error) {
	body := writing(func(to io.Writer) error { return exchange.Write(ctx, to, s.App, s.App.Instant()) })
	return ExportRecord200ApplicationoctetStreamResponse{Body: body,
		Headers: ExportRecord200ResponseHeaders{ContentDisposition: s.fileNamed("fresh-anvil", "json")}}, nil
}

// ExportSpreadsheet is log, use, readings and findings as a workbook.
func (s *Server) ExportSpreadsheet(ctx context.Context, _ ExportSpreadsheetRequestObject) (
	ExportSpreadsheetResponseObject, error) {
	var out bytes.Buffer
	if err := exchange.Spreadsheet(ctx, &out, s.App, s.App.Instant()); err != nil {
		return nil, fmt.Errorf("the spreadsheet: %w", err)
	}
	return ExportSpreadsheet200ApplicationvndOpenxmlformatsOfficedocumentSpreadsheetmlSheetResponse{Body: &out,
		ContentLength: int64(out.Len()),
		Headers:       ExportSpreadsheet200ResponseHeaders{ContentDisposition: s.fileNamed("fresh-anvil", "xlsx")}}, nil
}

// ExportTable is one table as comma-separated values.
func (s *Server) ExportTable(ctx context.Context, r ExportTableRequestObject) (ExportTableResponseObject, error) {
	name := strings.TrimSuffix(string(r.Table), ".csv")
	table, known := exchange.Find(name)
	if !known {
		return nil, fmt.Errorf("the table %s is in the contract only", name)
	}
	body := writing(func(to io.Writer) error { return exchange.CSV(ctx, to, table, s.App) })
	return ExportTable200TextcsvResponse{Body: body,
		Headers: ExportTable200ResponseHeaders{ContentDisposition: s.fileNamed(name, "csv")}}, nil
}
