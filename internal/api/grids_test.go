package api

import (
	"fmt"
	"strings"
	"testing"
)

// A foreign table of fifty thousand rows is asked for its columns, then given as one of ours; ten years of a machine of
// four groups, more than fifty thousand entries, are taken from one file, and the same again changes nothing.
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
	ours.WriteString("date,group,single,double,milk,flush\n")
	for n := range 3_600 {
		for group := range 4 {
			fmt.Fprintf(&ours, "%s,%d,1,%d,3,4\n", b.now.AddDate(0, 0, n-3_601).Format("2006-01-02"), group+1, 1+n%40)
		}
	}
	var got Imported
	for i := range 2 {
		b.call("POST", "/api/machines/"+id+"/imports", fields{"text": ours.String(), "preview": false}, 200, &got)
		if len(got.Bad) > 0 || i == 0 && got.Fresh != 57_600 || i == 1 && (got.Fresh != 0 || got.Changed != 0) {
			t.Errorf("the %d. time: %d fresh, %d changed, %d same, bad %+v", i+1, got.Fresh, got.Changed, got.Same, got.Bad)
		}
	}
}
