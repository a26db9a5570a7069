package api

import (
	"slices"
	"strings"
	"testing"
	"time"

	"freshanvil/core/machine"
)

// Both groups of a shop in one sitting: the bench offers them together, each
// keeps its own hazard, and each is written down.
func TestTwoGroupsFromTheBenchToTheLog(t *testing.T) {
	b := newBench(t)
	shop := home()
	shop["layout"], shop["drinks_per_day"], shop["milk_drinks_per_day"] = "multi_cafe", 120, 60
	id := b.add(shop)
	if m := b.first(); !slices.Equal(m.Together, []Part{machine.Group(1), machine.Group(2)}) ||
		m.Next.Head != "Detergent wash, groups 1 and 2" ||
		m.Wash == nil {
		t.Fatalf("bench: %v, %q", m.Together, m.Next.Head)
	}
	l := &live{bench: b, id: newID()}
	b.call(
		"POST",
		"/api/machines/"+id+"/runs",
		fields{"id": l.id, "device": "phone", "parts": []string{"group-1", "group-2"}, "method": "soak"},
		201,
		&l.Run,
	)
	if l.Here != "groups 1 and 2" || b.first().OpenRun.Where != "groups 1 and 2" {
		t.Errorf("for %q, the bench says %q", l.Here, b.first().OpenRun.Where)
	}
	most, beside := 0, false
	for range 80 {
		if l.Outcome != nil {
			break
		}
		most = max(most, len(b.first().Hazards))
		beside = beside || len(l.Soaks) > 0 && l.Soaks[0].Part != l.Part
		switch {
		case l.Segment.EndsAt != nil:
			l.wait(l.Schedule[len(l.Schedule)-1].EndsAt.Sub(l.now))
		case slices.Contains(l.Allowed, "graded"):
			l.press("graded", "first", "pale")
		case slices.Contains(l.Allowed, "reading"):
			l.press("reading", "cup", clearCup)
		default:
			l.wait(time.Second)
			l.press(string(l.Allowed[0]))
		}
	}
	if l.Outcome == nil || *l.Outcome != "done" || most != 2 || !beside {
		t.Fatalf("ended %v with %d hazards at most, a soak beside other work: %v", l.Outcome, most, beside)
	}
	if m := b.first(); len(m.Hazards) != 0 || len(m.Together) != 0 || m.OpenRun != nil || l.Next == nil ||
		l.Then != nil {
		t.Errorf("afterwards: %+v, then %+v", m, l.Then)
	}
	var log Log
	b.call("GET", "/api/log", nil, 200, &log)
	if len(log.Entries) != 3 || log.Entries[0].Id == log.Entries[1].Id {
		t.Fatalf("log: %+v", log.Entries)
	}
	for _, e := range log.Entries[:2] {
		if e.Outcome != "done" || *e.RunId != l.id || *e.SoapyPulses != 10 || *e.First != "pale" || len(*e.Cups) != 1 {
			t.Errorf("%s: %+v", e.Part, e)
		}
	}
	if log.Entries[0].Part == log.Entries[1].Part {
		t.Error("not one entry for each group")
	}
	b.now = b.now.Add(24 * time.Hour)

	// stopped with one group done: it is washed, the other is not
	l = &live{bench: b, id: newID()}
	b.call(
		"POST",
		"/api/machines/"+id+"/runs",
		fields{"id": l.id, "device": "phone", "parts": []string{"group-2", "group-1"}, "method": "short_pulse"},
		201,
		&l.Run,
	)
	for range 60 {
		if strings.HasPrefix(l.Step.Id, "1-dose") {
			break
		}
		switch {
		case l.Segment.EndsAt != nil:
			l.wait(l.Schedule[len(l.Schedule)-1].EndsAt.Sub(l.now))
		case slices.Contains(l.Allowed, "graded"):
			l.press("graded", "first", "clear")
		case slices.Contains(l.Allowed, "reading"):
			l.press("reading", "cup", clearCup)
		default:
			l.press(string(l.Allowed[0]))
		}
	}
	l.press("stop")
	if *l.Outcome != "stopped_unsafe" || l.Groups[0].Outcome != "done" || l.Groups[1].Outcome != "stopped_unsafe" {
		t.Errorf("stopped: %v, %+v", *l.Outcome, l.Groups)
	}
	m := b.first()
	if len(m.Hazards) != 1 || m.Hazards[0].Part != machine.Group(1) ||
		!slices.Equal(m.Together, []Part{machine.Group(1)}) {
		t.Errorf("afterwards: %+v, together %v", m.Hazards, m.Together)
	}
	var p Problem
	for _, parts := range [][]string{{}, {"group-1", "group-1"}, {"group-3"}, {"machine"}, {"group-9"}} {
		b.call("POST", "/api/machines/"+id+"/runs", fields{"id": newID(), "device": "d", "parts": parts}, 422, &p)
		if !strings.HasPrefix(*p.Field, "parts") {
			t.Errorf("parts %v: %+v", parts, p)
		}
	}
	b.call(
		"POST",
		"/api/machines/"+id+"/runs",
		fields{"id": newID(), "device": "phone", "parts": []string{"group-1", "group-2"}},
		201,
		&l.Run,
	)
	if l.Groups[0].Task != "rinse" || l.Groups[1].Task != "wash" || l.Task != "wash" {
		t.Errorf("one left dirty: %+v", l.Groups)
	}
}
