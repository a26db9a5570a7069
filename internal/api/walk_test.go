package api

import (
	"fmt"
	"net/url"
	"slices"
	"strings"
	"testing"
	"time"
)

// look puts on record what was seen of a part; number is left out where it is nil.
func (b *bench) look(machine, sight, part, verdict string, number any, status int) string {
	b.t.Helper()
	id := newID()
	body := fields{"id": id, "sight": sight, "part": part, "verdict": verdict, "at": b.now}
	if number != nil {
		body["number"] = number
	}
	b.call("POST", "/api/machines/"+machine+"/looks", body, status, nil)
	return id
}

func (b *bench) card(machine, sight string) WalkCard {
	b.t.Helper()
	var w Walk
	b.call("GET", "/api/machines/"+machine+"/walk", nil, 200, &w)
	for _, c := range w.Cards {
		if string(c.Sight) == sight {
			return c
		}
	}
	b.t.Fatalf("no card of %s", sight)
	return WalkCard{}
}

// A walk lists what there is to look at; what a look comes to is told beforehand and writes nothing; on record it
// moves what it said; the next walk tells how it went before. Nonsense is refused by its field.
func TestWalkRound(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	path := "/api/machines/" + id + "/walk"
	var hot, cold Walk
	b.call("GET", path, nil, 200, &hot)
	b.call("GET", path+"?hot=false", nil, 200, &cold)
	if len(hot.Cards) < 15 || len(hot.Cards) != len(cold.Cards) || hot.Cards[4].Posture != "hot" ||
		cold.Cards[4].Posture != "cold" {
		t.Fatalf("%d and %d cards", len(hot.Cards), len(cold.Cards))
	}
	judge := func(sight, query string, status int) (j LookJudged) {
		b.call("GET", path+"/"+sight+"?part="+query, nil, status, &j)
		return j
	}
	crusted := judge("seal", "group-1&verdict=brittle", 200)
	if crusted.Finding.Verdict != "look" || len(crusted.Moves) == 0 || *crusted.Fit != "a group seal" {
		t.Errorf("%+v", crusted)
	}
	if c := b.card(id, "seal"); c.Last != nil || c.Trend != "" {
		t.Errorf("judging wrote %+v", c.Last)
	}
	for _, bad := range []string{"seal?part=group-1&verdict=crusted", "seal?part=group-9&verdict=stiff",
		"seal?part=group-1&verdict=stiff&number=3", "flow?part=group-1&number=90000"} {
		b.call("GET", path+"/"+bad, nil, 422, nil)
	}
	b.look(id, "seal", "group-1", "springy", nil, 201)
	b.now = b.now.AddDate(0, 2, 0)
	b.look(id, "seal", "group-1", "stiff", nil, 201)
	c := b.card(id, "seal")
	if c.Trend != "Springy in March, stiff in May." || !c.Worse || c.Last.Verdict != "stiff" {
		t.Errorf("%q, %+v", c.Trend, c.Last)
	}
	var m Machine
	b.call("GET", "/api/machines/"+id, nil, 200, &m)
	if len(m.Fits) != 1 || m.Fits[0].What != "a group seal" {
		t.Errorf("to fit: %+v", m.Fits)
	}
}

// A number makes its verdict by the machine's own course, whatever the browser says it was: of three flows of 90 mL,
// one of 60 is two thirds, clearly less (our own engineering choice).
func TestNumbersAreJudgedByTheirOwnCourse(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	expected := b.card(id, "flow").Measure.Expected
	if expected == nil || expected.Value != 80 {
		t.Fatalf("the model expects %+v, ten seconds at 8 mL/s", expected)
	}
	for range 3 {
		b.look(id, "flow", "group-1", "usual", 90, 201)
		b.now = b.now.AddDate(0, 0, 20)
	}
	b.look(id, "flow", "group-1", "usual", 60, 201)
	if last := b.card(id, "flow").Last; last.Verdict != "weaker" || *last.Number != 60 {
		t.Errorf("%+v", last)
	}
	b.look(id, "flow", "group-1", "usual", -4, 422)
}

// Water under the machine stops it: nothing is led on it and no drink is logged, until the look is taken back, since it
// was the tray, or a technician signs for it by name, which puts it on record as mended. A second danger goes on to
// stop it when the first was taken back.
func TestADangerStopsTheMachine(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	stopped := func() string {
		m := b.first()
		if m.Front.Begin != "see" {
			return ""
		}
		if !m.Front.Unsafe || len(m.Front.Says) < 2 {
			t.Errorf("%+v", m.Front)
		}
		return m.Hazards[0].Text
	}
	drink := func(status int) {
		b.call("POST", "/api/machines/"+id+"/use", fields{"id": newID(), "kind": "double", "count": 1, "part": "group-1",
			"at": b.now}, status, nil)
	}
	run := func(status int) {
		b.call("POST", "/api/machines/"+id+"/runs", fields{"id": newID(), "device": "d", "task": "wash",
			"parts": []string{"group-1"}}, status, nil)
	}
	wet := b.look(id, "under", "machine", "wet", nil, 201)
	if text := stopped(); !strings.HasPrefix(text, "Under the machine: wet") {
		t.Errorf("%q", text)
	}
	drink(409)
	run(409)
	over := b.look(id, "steam_bar", "machine", "usual", 2.1, 201)
	b.call("DELETE", "/api/machines/"+id+"/looks/"+wet, nil, 204, nil)
	if text := stopped(); !strings.HasPrefix(text, "Gauge of the steam boiler: at the red mark") {
		t.Errorf("%q", text)
	}
	b.call("DELETE", "/api/machines/"+id+"/looks/"+over, nil, 204, nil)
	if text := stopped(); text != "" {
		t.Errorf("taken back, still %q", text)
	}
	drink(201)
	b.now = b.now.Add(time.Hour)
	b.look(id, "relief", "machine", "blows", nil, 201)
	sign := fields{"id": newID(), "part": "machine", "name": "A. Tester", "note": "a new pressure switch",
		"what": "stopped"}
	b.call("POST", "/api/machines/"+id+"/sign-offs", fields{"id": newID(), "part": "machine", "name": "A. Tester",
		"note": "no acid"}, 409, nil)
	b.call("POST", "/api/machines/"+id+"/sign-offs", sign, 201, nil)
	if text := stopped(); text != "" || b.card(id, "relief").Last.Verdict != "dry" {
		t.Errorf("signed off, %q", text)
	}
	sign["id"] = newID()
	b.call("POST", "/api/machines/"+id+"/sign-offs", sign, 409, nil)
	drink(201)
}

// A cup that foams says that detergent is in the group: no drinks, and the bench leads its rinse, which ends it.
func TestAFoamingCupAsksForTheRinse(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	var j LookJudged
	query := url.Values{"part": {"group-1"}, "verdict": {"foamy"}}
	b.call("GET", fmt.Sprintf("/api/machines/%s/walk/cup?%s", id, query.Encode()), nil, 200, &j)
	if j.Finding.Title != "No drinks: rinse it" || *j.Symptom != "soapy" {
		t.Errorf("%+v", j)
	}
	b.look(id, "cup", "group-1", "foamy", nil, 201)
	if m := b.first(); len(m.Hazards) != 1 || m.Hazards[0].Chemical != "detergent" {
		t.Fatalf("%+v", b.first().Hazards)
	}
	l := b.start(id)
	dosed := false
	for n := 0; n < 60 && l.Outcome == nil; n++ {
		dosed = dosed || strings.Contains(l.Step.Id, "dose")
		switch {
		case slices.Contains(l.Allowed, "begin"):
			l.press("begin")
		case slices.Contains(l.Allowed, "heard"):
			l.press("heard", "what", "flows")
		case slices.Contains(l.Allowed, "reading"):
			l.press("reading", "cup", clearCup)
		case slices.Contains(l.Allowed, "done"):
			l.press("done")
		default:
			l.wait(20 * time.Second)
		}
	}
	if dosed || l.Outcome == nil || *l.Outcome != "done" {
		t.Errorf("at %s, a dose %v: %s", l.Step.Id, dosed, *l.Outcome)
	}
	if m := b.first(); len(m.Hazards) != 0 {
		t.Errorf("proven, still %+v", m.Hazards)
	}
}
