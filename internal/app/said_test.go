package app

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"freshanvil/internal/golden"
)

// What somebody said, read and did in databases of earlier versions is read as it was before the forms on disk had
// types of their own: readings, treatments, choices, products, what spent solutions taught, the log. The file was
// written by the version before.
func TestWhatEarlierVersionsKept(t *testing.T) {
	const path = "testdata/said.txt"
	var out strings.Builder
	say := func(what string, list any, err error) {
		t.Helper()
		text, bad := json.Marshal(list)
		if err != nil || bad != nil {
			t.Fatalf("%s: %v, %v", what, err, bad)
		}
		fmt.Fprintf(&out, "  %s %s\n", what, text)
	}
	for _, version := range []int{1, 2, 3, 4, 5, 6, 7, 8, 9, 19} {
		a := open(t, older(t, version))
		fmt.Fprintf(&out, "version %d\n", version)
		sources, err := a.store.Sources(ctx)
		say("waters", sources, err)
		treatments, err := a.store.Treatments(ctx)
		say("treatments", treatments, err)
		products, err := a.store.Products(ctx)
		say("products", products, err)
		machines, err := a.store.Machines(ctx, false)
		if err != nil {
			t.Fatal(err)
		}
		for _, m := range machines {
			fmt.Fprintf(&out, "  %s\n", m.ID)
			drawn, err := a.store.Drawn(ctx, m.ID)
			say("draws", drawn, err)
			changes, err := a.store.Changes(ctx, m.ID)
			say("choices", changes, err)
			shares, err := a.store.Shares(ctx, m.ID)
			say("taught", shares, err)
			log, err := a.store.Log(ctx, m.ID, true, 500)
			if err != nil {
				t.Fatal(err)
			}
			for _, e := range log {
				r := e.Record
				dose := "none"
				if d := r.Dose; d != nil {
					dose = fmt.Sprintf("%s %d %v %v %v %+v", d.Form, d.Tablets, d.Pinch, d.Mass.Value, d.Asked, d.Spoon)
				}
				fmt.Fprintf(&out, "  log %s %s %s %s: %s, dose %s, %d and %d pulses, %v, %s %v %v %q %q %q %v %s %v\n",
					e.ID, e.Task, e.Part, e.At.Format(time.RFC3339), r.Method, dose, r.Soapy, r.Rinsed, r.Cups, r.First, r.Gone,
					r.Minutes, r.Note, r.By, r.Paper, r.Papered, r.Begun, r.Dated)
			}
		}
	}
	golden.Text(t, path, out.String())
}
