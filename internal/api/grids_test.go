package api

import (
	"fmt"
	"strings"
	"testing"
	"time"
)

// A foreign table of fifty thousand rows is asked for its columns, then given as one of ours; fifty thousand rows of a
// machine of four groups, two entries each, are taken from one file, and the same again changes nothing.
func TestATableOfFiftyThousandRows(t *testing.T) {
	b := newBench(t)
	id := b.add(with("layout", "multi_cafe"))
	b.knows(id, "groups", "4")
	var text strings.Builder
	text.WriteString("Day;Cups;Group\n")
	first := b.now.AddDate(0, 0, -25_001)
	for n := range 50_000 {
		day := first.AddDate(0, 0, n/2)
		fmt.Fprintf(&text, "%s;%d;\n", day.Format("02.01.2006"), 1+n%40)
	}
	var g Grid
	ask := fields{"kind": "use", "file": []byte(text.String())}
	b.call("POST", "/api/grids", ask, 200, &g)
	if g.Rows != 50_000 || g.Ours || g.Text == nil || g.Dates != "dmy" || g.Unsure || g.Columns["drinks"] != 1 ||
		len(g.Becomes) != 7 || g.Becomes[1][0] != first.Format("2006-01-02") {
		t.Fatalf("%d rows, %+v, %v", g.Rows, g.Columns, g.Becomes)
	}
	ask["columns"] = map[string]int{"drinks": 1}
	b.call("POST", "/api/grids", ask, 200, &g)
	if g.Missing == nil || *g.Missing != "date" {
		t.Errorf("without its day: %+v", g.Missing)
	}
	var p Problem
	ask["columns"] = map[string]int{"date": 0, "drinks": 9}
	b.call("POST", "/api/grids", ask, 422, &p)
	if *p.Field != "columns.drinks" {
		t.Errorf("%+v", p)
	}

	var ours strings.Builder
	ours.WriteString("date,group,double,milk\n")
	for n := range 50_000 { // by the hour
		at := b.now.Add(time.Duration(n/4-12_502) * time.Hour)
		fmt.Fprintf(&ours, "%s,%d,%d,3\n", at.UTC().Format(time.RFC3339), 1+n%4, 1+n%40)
	}
	body := fields{"text": ours.String(), "preview": false}
	var got Imported
	b.call("POST", "/api/machines/"+id+"/imports", body, 200, &got)
	if len(got.Bad) > 0 || got.Fresh != 100_000 {
		t.Errorf("%d fresh, bad %+v", got.Fresh, got.Bad)
	}
	var far Importing
	if b.call("GET", "/api/machines/"+id+"/imports", nil, 200, &far); far.Going {
		t.Errorf("it has ended: %+v", far)
	}
	b.call("POST", "/api/machines/"+id+"/imports", body, 200, &got)
	if got.Fresh != 0 || got.Changed != 0 || got.Same != 100_000 {
		t.Errorf("again: %d fresh, %d changed, %d same", got.Fresh, got.Changed, got.Same)
	}
}
