package api

import (
	"strings"
	"testing"

	"freshanvil/core/machine"
	"freshanvil/core/task"
)

// The bench names the sitting, not one task of it; the machine says in which order, and why each is there.
func TestTheBenchNamesTheSitting(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	b.now = b.now.AddDate(0, 0, 20) // the wash of a new machine is late by then
	for _, c := range []struct {
		task  string
		part  string
		since int
	}{{"soak", "machine", 6}, {"tip", "machine", 6}, {"tank", "machine", 12}} {
		b.call("POST", "/api/machines/"+id+"/care", fields{"id": newID(), "task": c.task, "parts": []string{c.part},
			"at": b.now.AddDate(0, 0, -c.since)}, 201, nil)
	}
	m := b.first()
	if m.Sitting == nil || !strings.HasPrefix(m.Front.Head, "Soak the steam tip, detergent wash") ||
		m.Sitting.Minutes >= m.Sitting.Alone {
		t.Fatalf("on the bench: %+v", m.Sitting)
	}
	var whole Machine
	b.call("GET", "/api/machines/"+id, nil, 200, &whole)
	if len(whole.Sittings) < 3 || !whole.Sittings[0].Now {
		t.Fatalf("%d sittings", len(whole.Sittings))
	}
	why := map[task.ID]string{}
	for _, x := range whole.Sittings[0].Members {
		why[x.Task] = x.Because.Text
		if x.Task == task.Wash && x.Part != machine.Group(1) {
			t.Errorf("the wash is of %s", x.Part)
		}
	}
	if why[task.Wash] != "Due." || !strings.HasPrefix(why[task.Soak], "Pulled forward by a day") ||
		why[task.Tank] != "" {
		t.Errorf("why: %v", why)
	}
	for i := 1; i < len(whole.Sittings); i++ {
		if whole.Sittings[i].At.Before(whole.Sittings[i-1].At) {
			t.Error("sittings go back in time")
		}
	}
}
