package api

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"strings"
	"testing"

	"github.com/thedatashed/xlsxreader"
)

// What is on record is taken away as files: everything as JSON, a workbook, tables; only by whom it is for.
func TestWhatIsTakenAway(t *testing.T) {
	b := newBench(t)
	b.add(home())
	ask := func(path, kind string) []byte {
		t.Helper()
		rec := b.sent("GET", path, "", nil)
		if rec.Code != 200 || rec.Header().Get("Content-Type") != kind || rec.Body.Len() == 0 {
			t.Fatalf("%s: %d %v", path, rec.Code, rec.Header())
		}
		if path != "/api/schema.json" && !strings.HasPrefix(rec.Header().Get("Content-Disposition"), "attachment") {
			t.Errorf("%s: %v", path, rec.Header())
		}
		return rec.Body.Bytes()
	}
	var record struct {
		Format string
		Tables struct{ Machines []struct{ Name string } }
	}
	if err := json.Unmarshal(ask("/api/export.json", "application/octet-stream"), &record); err != nil ||
		record.Format != "fresh-anvil" || record.Tables.Machines[0].Name != "Tea deck" {
		t.Errorf("%+v, %v", record, err)
	}
	var schema map[string]any
	if err := json.Unmarshal(ask("/api/schema.json", "application/schema+json"), &schema); err != nil ||
		schema["$schema"] == nil {
		t.Errorf("%v", err)
	}
	lines, err := csv.NewReader(bytes.NewReader(ask("/api/tables/log.csv", "text/csv"))).ReadAll()
	if err != nil || len(lines) != 2 || lines[1][3] != "Descale" {
		t.Errorf("%v, %v", lines, err)
	}
	book, err := xlsxreader.NewReader(ask("/api/export.xlsx",
		"application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"))
	if err != nil || strings.Join(book.Sheets, " ") != "Log Use Readings Findings" {
		t.Errorf("%v, %v", book.Sheets, err)
	}
	b.call("GET", "/api/tables/runs.csv", nil, 422, nil)
}
