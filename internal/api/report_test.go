package api

import (
	"bytes"
	"strings"
	"testing"

	"github.com/ledongthuc/pdf"
)

// A report tells what was found and done on its days, what comes next and what is the owner's to do; of many days it
// tells what the lines come to. As a PDF it says the same.
func TestAReportForTheOwner(t *testing.T) {
	b := newBench(t)
	id, other := b.add(home()), b.add(home())
	at := "/api/machines/" + id
	b.call("POST", at+"/details", fields{"name": "Tea deck", "owner": "Ferry line", "place": "main deck",
		"archived": false}, 200, nil)
	b.call("POST", "/api/machines/"+other+"/details", fields{"name": "Galley", "owner": "Ferry line", "place": "",
		"archived": false}, 200, nil)
	for _, days := range []int{-40, -20, 0} {
		b.call("POST", at+"/care", fields{"id": newID(), "task": "screen", "part": "group-1",
			"at": b.now.AddDate(0, 0, days), "by": "RM"}, 201, nil)
	}
	b.look(id, "seal", "group-1", "stiff", nil, 201)

	var r OwnerReport
	b.call("GET", "/api/report?machine_id="+id, nil, 200, &r)
	m := r.Machines[0]
	if r.Owner != "Ferry line" || r.Title != "Service report" || m.Name != "Tea deck" ||
		!strings.Contains(m.Head, "main deck") {
		t.Errorf("%+v", r)
	}
	if len(m.Done) != 2 || len(m.Found) != 1 || !m.Found[0].Bad || m.By[0] != "RM" || len(m.Daily) == 0 ||
		len(m.Cautions) == 0 || len(m.Next) == 0 || !m.Next[0].Now {
		t.Errorf("of the last day: %+v", m)
	}
	from := b.now.AddDate(0, 0, -60).Format("2006-01-02")
	b.call("GET", "/api/report?owner=Ferry%20line&from="+from, nil, 200, &r)
	if len(r.Machines) != 2 || r.Title != "What was done" {
		t.Fatalf("of the owner: %+v", r)
	}
	for _, m := range r.Machines {
		if m.Id == id && m.Done[0].When != "3 times" || m.Id == other && (len(m.Done) != 1 || m.Done[0].When != "Once") {
			t.Errorf("of two months: %+v", m.Done)
		}
	}

	rec := b.sent("GET", "/api/report.pdf?machine_id="+id+"&paper=letter", "", nil)
	if rec.Code != 200 || rec.Header().Get("Content-Type") != "application/pdf" {
		t.Fatalf("%d %v", rec.Code, rec.Header())
	}
	raw := rec.Body.Bytes()
	read, err := pdf.NewReader(bytes.NewReader(raw), int64(len(raw)))
	if err != nil {
		t.Fatal(err)
	}
	text := ""
	for n := 1; n <= read.NumPage(); n++ {
		page, err := read.Page(n).GetPlainText(nil)
		if err != nil {
			t.Fatal(err)
		}
		text += page
	}
	for _, said := range []string{m.Name, m.Found[0].Title, m.Done[0].Title, m.Daily[0].Title} {
		if !strings.Contains(text, said) {
			t.Errorf("%q is not on the paper", said)
		}
	}

	for _, x := range []struct {
		query, field string
		want         int
	}{
		{"", "machine_id", 422}, {"?owner=Nobody", "owner", 404}, {"?machine_id=" + newID(), "machine_id", 404},
		{"?machine_id=" + id + "&owner=Ferry", "machine_id", 422},
		{"?machine_id=" + id + "&from=2099-01-01", "from", 422},
		{"?machine_id=" + id + "&from=2026-03-09&to=2026-03-01", "from", 422},
		{"?machine_id=" + id + "&from=2019-01-01&to=2026-03-01", "from", 422},
		{"?machine_id=" + id + "&to=1990-03-01", "to", 422},
	} {
		for _, path := range []string{"/api/report", "/api/report.pdf"} {
			var p Problem
			b.call("GET", path+x.query, nil, x.want, &p)
			if p.Field == nil || *p.Field != x.field {
				t.Errorf("%s%s: %+v", path, x.query, p)
			}
		}
	}
}
