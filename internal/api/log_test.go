package api

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"
)

// The log of a year is read by machine and month, task, owner, person and words; what was done in one has one name, a
// line tells what was done, and a correction shows what was there before.
func TestTheLogIsReadAYearAtATime(t *testing.T) {
	b := newBench(t)
	id, other := b.add(home()), b.add(home())
	b.call("POST", "/api/machines/"+other+"/details", fields{"name": "Galley", "owner": "Ferry line", "place": "",
		"archived": false}, 200, nil)
	at := "/api/machines/" + id
	did := func(machine, task, by string, when time.Time) string {
		entry := newID()
		b.call("POST", "/api/machines/"+machine+"/care", fields{"id": entry, "task": task, "part": "group-1", "at": when,
			"by": by}, 201, nil)
		return entry
	}
	last := b.now.AddDate(-1, 0, 0)
	did(id, "screen", "RM", last)
	both := b.now.AddDate(0, -1, 0)
	did(id, "seal", "Rui Mar", both)
	did(id, "screen", "Rui Mar", both)
	moved := did(other, "seal", "IK", b.now.AddDate(0, -2, 0))
	b.call("PATCH", "/api/machines/"+other+"/care/"+moved, fields{"at": b.now.AddDate(0, 0, -3)}, 204, nil)
	read := func(query string) (l Log) {
		b.call("GET", "/api/log?"+query, nil, 200, &l)
		return l
	}
	year := fmt.Sprintf("year=%d", b.now.Year())
	l := read(year)
	if !slices.Equal(l.Years, []int{b.now.Year(), b.now.Year() - 1}) || len(l.Entries) != 5 || len(l.Bands) != 2 ||
		!slices.Equal(l.Owners, []string{"Ferry line"}) || !slices.Equal(l.People, []string{"IK", "Rui Mar"}) || l.More {
		t.Errorf("%+v", l)
	}
	band := l.Bands[slices.IndexFunc(l.Bands, func(x Band) bool { return x.MachineId == id })]
	if band.Times[both.Month()-1] != 1 || band.Times[b.now.Month()-1] != 1 {
		t.Errorf("what was done in one is one: %+v", band)
	}
	var pair, named []string
	for _, e := range l.Entries {
		if e.At.Equal(both) {
			pair, named = append(pair, e.Sitting), append(named, deref(e.Jobs))
		}
		if e.Id == moved && (e.WasAt == nil || !e.WasAt.Equal(b.now.AddDate(0, -2, 0))) {
			t.Errorf("its date was another: %+v", e)
		}
	}
	if len(pair) != 2 || pair[0] != pair[1] || !strings.Contains(named[0], "; ") || named[1] != "nothing" {
		t.Errorf("of one sitting: %v, named %q", pair, named)
	}
	for query, want := range map[string]int{
		fmt.Sprintf("year=%d", b.now.Year()-1):              1,
		year + "&task=screen":                               1,
		year + "&owner=Ferry%20line":                        2, // its seal, and the descale of the day it came
		year + "&by=rui%20mar":                              2,
		year + "&text=SEAL":                                 2,
		year + "&text=seal%20nobody":                        0,
		fmt.Sprintf("%s&month=%d", year, both.Month()):      2,
		year + "&machine_id=" + id:                          3,
		year + "&limit=1":                                   1,
		year + "&task=screen&by=IK":                         0,
		year + "&text=group-1":                              3,
		"limit=3":                                           3,
		fmt.Sprintf("%s&month=%d", year, last.Month()%12+6): 0,
	} {
		if got := read(query); len(got.Entries) != want {
			t.Errorf("%s: %d lines, want %d", query, len(got.Entries), want)
		}
	}
	if l := read(year + "&limit=1"); !l.More {
		t.Error("there are more, and it does not say so")
	}
	b.call("GET", "/api/log?month=3", nil, 422, nil)

	for _, days := range []int{20, 10} {
		b.call("POST", at+"/looks", fields{"id": newID(), "sight": "heat_up", "part": "machine", "verdict": "usual",
			"number": float64(days), "at": b.now.AddDate(0, 0, -days)}, 201, nil)
	}
	var c Courses
	b.call("GET", at+"/courses", nil, 200, &c)
	if len(c.Courses) != 1 || len(c.Courses[0].Points) != 2 || c.Courses[0].Points[0].Value != 20 ||
		c.Courses[0].Unit == "" || c.Courses[0].Points[0].Text == "" {
		t.Errorf("%+v", c)
	}
}

// What spent solutions said is drawn over time: their pH, and the scale that came out by it.
func TestSpentSolutionsOverTime(t *testing.T) {
	b := newBench(t)
	id := b.addSteel()
	for _, ph := range []float64{2.2, 2.4} {
		b.now = b.now.AddDate(0, 0, 50)
		b.call("POST", "/api/machines/"+id+"/spent", fields{"id": newID(), "reading": fields{"acid": "citric", "acid_g_l": 30,
			"ph": ph, "litres": 1, "strip": false}}, 201, nil)
	}
	var c Courses
	b.call("GET", "/api/machines/"+id+"/courses", nil, 200, &c)
	last := c.Courses[len(c.Courses)-1]
	if len(c.Courses) != 2 || c.Courses[0].Unit != "g" || last.Title != "pH of the spent solution" ||
		last.Points[0].Value != 2.2 || last.Points[1].Text != "pH 2.4" {
		t.Errorf("%+v", c.Courses)
	}
}
