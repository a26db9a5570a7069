package api

import (
	"math"
	"strings"
	"testing"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/task"
)

// A tape runs in drinks: what was done stands where the drinks of its day were, now at the sum, and what is to come
// after it; closer, it shows less.
func TestTape(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	b.drinks(id, 12)
	b.now = b.now.AddDate(0, 0, 20)
	b.drinks(id, 30)
	b.call("POST", "/api/machines/"+id+"/care", fields{"id": newID(), "task": "soak", "parts": []string{"machine"},
		"at": b.now.AddDate(0, 0, -3)}, 201, nil)
	var tape, close Tape
	b.call("GET", "/api/machines/"+id+"/tape", nil, 200, &tape)
	if math.Abs(tape.Now-42) > 1e-6 || tape.From > 1e-6 || tape.To <= tape.Now || !tape.NowAt.Equal(b.now) {
		t.Errorf("from %g, now %g, to %g", tape.From, tape.Now, tape.To)
	}
	soak := trackOf(t, tape, task.Soak)
	if len(soak.Done) != 1 || math.Abs(soak.Done[0].At-12) > 1e-6 || soak.Due == nil || !soak.Moves {
		t.Errorf("%+v", soak)
	}
	for _, k := range tape.Tracks {
		if d := k.Due; d != nil && (d.Earliest > d.Likely || d.Likely > d.Latest || d.Earliest < tape.Now-1e-6) {
			t.Errorf("%s: %+v", k.Task, *d)
		}
	}
	if len(tape.Pinches) == 0 || tape.Pinches[0].Days < 15 || math.Abs(tape.Pinches[0].At-12) > 1e-6 {
		t.Errorf("twenty days without a drink: %+v", tape.Pinches)
	}
	if len(tape.Sittings) == 0 || tape.Minutes < tape.AtBest || tape.Sittings[0].Place < tape.Now-1e-6 {
		t.Errorf("%d sittings of %g min, at best %g", len(tape.Sittings), tape.Minutes, tape.AtBest)
	}
	b.call("GET", "/api/machines/"+id+"/tape?weeks=1", nil, 200, &close)
	if close.From <= tape.From || close.To >= tape.To || close.Now != tape.Now {
		t.Errorf("closer: from %g to %g", close.From, close.To)
	}
	for _, bad := range []string{"weeks=0", "weeks=105", "task=soak", "task=soak&part=machine", "on=2026-02-30"} {
		var p Problem
		b.call("GET", "/api/machines/"+id+"/tape?"+bad, nil, 422, &p)
	}
}

// A task put on another day is done on it: looked at first, with what it costs, and nothing kept; then kept, until it
// is done or freed. A day that it may not wait for is refused, and nothing is half-written.
func TestPlaceATask(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	at := func(days int) string { return b.now.AddDate(0, 0, days).Format(time.DateOnly) }
	path := "/api/machines/" + id
	b.call("POST", path+"/care", fields{"id": newID(), "task": "soak", "parts": []string{"machine"},
		"at": b.now.AddDate(0, 0, -1)}, 201, nil)
	var seen, now Tape
	b.call("GET", path+"/tape?task=soak&part=machine&on="+at(3), nil, 200, &seen)
	if seen.Move == nil || !strings.Contains(seen.Move.Says.Text, "early") || seen.Move.EarlyDays < 1 {
		t.Fatalf("%+v", seen.Move)
	}
	b.call("GET", path+"/tape", nil, 200, &now)
	if trackOf(t, now, task.Soak).Placed != nil || now.Move != nil {
		t.Error("looking at it kept it")
	}
	var bad Problem
	b.call("GET", path+"/tape?task=soak&part=machine&on="+at(40), nil, 422, &bad)
	if *bad.Field != "on" || !strings.Contains(*bad.Allowed, "days ahead") {
		t.Errorf("%+v", bad)
	}
	body := fields{"id": newID(), "task": "soak", "part": "machine", "on": at(3)}
	b.call("POST", path+"/placings", fields{"id": newID(), "task": "soak", "part": "machine", "on": at(40)}, 422, nil)
	b.call("POST", path+"/placings", fields{"id": newID(), "task": "wand", "part": "machine", "on": at(1)}, 422, nil)
	b.call("POST", path+"/placings", body, 204, nil)
	b.call("POST", path+"/placings", body, 204, nil) // a repeat is the same
	b.call("GET", path+"/tape", nil, 200, &now)
	soak := trackOf(t, now, task.Soak)
	if soak.Placed == nil || soak.Placed.Format(time.DateOnly) != at(3) {
		t.Fatalf("%+v", soak)
	}
	on := ""
	for _, s := range now.Sittings {
		for _, m := range s.Shown.Members {
			if m.Task == task.Soak && on == "" {
				on = s.Shown.At.Format(time.DateOnly)
			}
		}
	}
	if on != at(3) {
		t.Errorf("it is done on %s, put on %s", on, at(3))
	}
	var whole Machine
	b.call("GET", path, nil, 200, &whole)
	found := false
	for _, s := range whole.Sittings {
		found = found || s.At.Format(time.DateOnly) == at(3)
	}
	if !found {
		t.Error("the machine's page does not know it")
	}
	b.call("DELETE", path+"/placings/soak/machine", nil, 204, nil)
	b.call("DELETE", path+"/placings/soak/machine", nil, 204, nil)
	b.call("POST", path+"/placings", fields{"id": newID(), "task": "soak", "part": "machine", "on": at(3)}, 204, nil)
	b.now = b.now.AddDate(0, 0, 1)
	b.call("POST", path+"/care", fields{"id": newID(), "task": "soak", "parts": []string{"machine"}, "at": b.now}, 201,
		nil)
	var after Tape
	b.call("GET", path+"/tape", nil, 200, &after)
	if trackOf(t, after, task.Soak).Placed != nil {
		t.Error("it was done since, and still stands on that day")
	}
}

func trackOf(t *testing.T, tape Tape, id task.ID) TapeTrack {
	t.Helper()
	for _, k := range tape.Tracks {
		if k.Task == id && (k.Part == machine.Part{} || k.Part == machine.Group(1)) {
			return k
		}
	}
	t.Fatalf("no %s on the tape", id)
	return TapeTrack{}
}

// drinks logs so many doubles at once.
func (b *bench) drinks(machine string, count int) {
	b.t.Helper()
	b.call("POST", "/api/machines/"+machine+"/use", fields{"id": newID(), "kind": "double", "count": count,
		"at": b.now}, 201, nil)
}
