package api

import (
	"slices"
	"strings"
	"testing"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/treat"
)

// descale begins one with what is asked of it.
func (b *bench) descale(machine string, more fields) *live {
	b.t.Helper()
	l := &live{bench: b, id: newID()}
	body := fields{"id": l.id, "device": "phone", "parts": []string{"machine"}, "task": "descale"}
	for k, v := range more {
		body[k] = v
	}
	b.call("POST", "/api/machines/"+machine+"/runs", body, 201, &l.Run)
	return l
}

// goOn presses what a careful person would, once.
func (l *live) goOn() {
	l.t.Helper()
	switch {
	case l.Step.Reads != nil && *l.Step.Reads == "spent":
		l.press("measured", "strip", fields{"ph": 2.6})
	case l.Step.Reads != nil:
		l.press("measured", "strip", fields{"ph": 7.4, "meter": true, "taste": "gone"})
	case slices.Contains(l.Allowed, "heard"):
		l.press("heard", "what", (*l.Step.Ways)[0].What)
	case slices.Contains(l.Allowed, "done"):
		l.press("done")
	case slices.Contains(l.Allowed, "begin"):
		l.press("begin")
	case slices.Contains(l.Allowed, "reading"):
		l.press("reading", "cup", clearCup)
	case slices.Contains(l.Allowed, "graded"):
		l.press("graded", "first", "pale")
	default:
		l.wait(30 * time.Second)
	}
}

func (l *live) goOnTo(what string, ok func() bool) {
	l.t.Helper()
	for range 600 {
		if ok() {
			return
		}
		if l.Outcome != nil {
			break
		}
		l.goOn()
	}
	l.t.Fatalf("never came to %s; at %s, where %v may be pressed", what, l.Step.Id, l.Allowed)
}

// The whole of it over the contract: the hazard is of the circuit, drinks and a wash
// are refused beside it, the strip ends it; descale, filter and wash are written
// down and their dates move, and the spent solution is learned from.
func TestDescaleFromPlanToLog(t *testing.T) {
	b := newBench(t)
	a := with("layout", "single_boiler", "treatment", "in_tank")
	id := b.addSteel("treatment", "in_tank")
	b.call(
		"POST",
		"/api/machines/"+id+"/water",
		fields{"id": newID(), "treatment": treat.Usual(machine.InTank)},
		201,
		nil,
	)
	b.now = b.now.AddDate(0, 0, 60) // scale grows at the declared rate
	var d MachineDescale
	b.call("GET", "/api/machines/"+id+"/descale?renew=true&wash=true", nil, 200, &d)
	if d.Plan == nil || len(d.Programs) != 3 || d.Plan.Program != "three_soaks" || d.Renews == nil || !d.Washable ||
		d.Plan.Measure.Value != d.Card.Measure.Value {
		t.Fatalf("the plan: %+v, %v programs", d.Plan, len(d.Programs))
	}
	l := b.descale(id, fields{"renew": true, "wash": true})
	l.goOnTo("the soak", func() bool { return l.Step.Kind == "soak" && l.Inside.Any })
	hazards := b.first().Hazards
	if len(hazards) != 1 || hazards[0].Chemical != "acid" || hazards[0].Part != machine.Brew(1) ||
		hazards[0].Text != "Acid in the boiler: no drinks until the rinse is proven" ||
		!l.Inside.Any {
		t.Fatalf("hazards %+v", hazards)
	}
	var p Problem
	b.call("POST", "/api/machines/"+id+"/use", fields{"id": newID(), "kind": "double", "at": b.now}, 409, &p)
	if !strings.Contains(p.Title, "Acid in the boiler") {
		t.Errorf("a drink with acid in: %+v", p)
	}
	b.call("POST", "/api/machines/"+id+"/answers", a, 409, &p)
	l.goOnTo("the proof", func() bool { return l.Step.Reads != nil && *l.Step.Reads == "proof" })
	l.press("measured", "strip", fields{"ph": 5.5, "taste": "gone"})
	if l.Finding == nil || !strings.Contains(l.Finding.Title, "rinse on") || len(b.first().Hazards) != 1 {
		t.Errorf("pH 5.5: %+v", l.Finding)
	}
	l.goOnTo("the gauze", func() bool { return l.Step.Id == "gauze" })
	if len(b.first().Hazards) != 0 {
		t.Error("the hazard stayed after the proof")
	}
	l.goOnTo("the dose", func() bool { return l.Step.Doses != nil })
	l.goOnTo("the end", func() bool { return l.Outcome != nil })
	if *l.Outcome != "done" || l.Descale.Came == nil || l.Descale.Share == nil || len(l.Activities) != 3 {
		t.Fatalf("ended: %v, %+v", *l.Outcome, l.Descale)
	}
	for _, e := range l.Activities {
		if e.Outcome != "done" || e.Next == nil || e.Next.State != "later" || e.Next.Likely.Before(b.now) {
			t.Errorf("%s: %s, next %+v", e.Task, e.Outcome, e.Next)
		}
	}
	var log Log
	b.call("GET", "/api/log?machine_id="+id, nil, 200, &log)
	titles := []string{}
	for _, e := range log.Entries {
		titles = append(titles, e.Title)
		if e.Title == "Descale" && e.RunId != nil &&
			(e.Note == nil || !strings.Contains(*e.Note, "g of scale came out")) {
			t.Errorf("%+v", e)
		}
	}
	if len(titles) != 4 || !slices.Contains(titles, "Detergent wash") ||
		!slices.Contains(titles, "Change the filter") {
		t.Errorf("logged %v", titles)
	}
	b.call("GET", "/api/machines/"+id+"/descale", nil, 200, &d)
	if len(d.Spent) != 1 || d.Share != d.Spent[0].Share.Value {
		t.Errorf("learned %+v", d.Spent)
	}
}

// Acid and detergent never meet, whichever is in first; acid that was left in is
// only rinsed, or signed off by name.
func TestAcidAndDetergentAreKeptApart(t *testing.T) {
	b := newBench(t)
	id := b.addSteel()
	w := b.start(id)
	w.toDose()
	w.press("done")
	w.press("stop")
	var p Problem
	b.call(
		"POST",
		"/api/machines/"+id+"/runs",
		fields{"id": newID(), "device": "phone", "parts": []string{"machine"}, "task": "descale"},
		409,
		&p,
	)
	if !strings.Contains(p.Title, "Detergent is in group 1: no acid") {
		t.Errorf("acid beside detergent: %+v", p)
	}
	var d MachineDescale
	b.call("GET", "/api/machines/"+id+"/descale", nil, 200, &d)
	if d.Unready == nil || d.Plan != nil {
		t.Errorf("the card plans it: %+v", d.Unready)
	}
	b.call(
		"POST",
		"/api/machines/"+id+"/sign-offs",
		fields{"id": newID(), "part": "group-1", "name": "Bench", "note": "rinsed through"},
		201,
		nil,
	)

	l := b.descale(id, nil)
	l.goOnTo("acid in", func() bool { return l.Inside.Any })
	l.press("stop")
	if *l.Outcome != "stopped_unsafe" || len(b.first().Hazards) != 1 {
		t.Fatalf("stopped: %v, %+v", *l.Outcome, b.first().Hazards)
	}
	b.call(
		"POST",
		"/api/machines/"+id+"/runs",
		fields{"id": newID(), "device": "phone", "parts": []string{"group-1"}},
		409,
		&p,
	)
	if !strings.Contains(p.Title, "Acid is in the machine: no detergent") {
		t.Errorf("detergent beside acid: %+v", p)
	}
	b.call(
		"POST",
		"/api/machines/"+id+"/water",
		fields{"id": newID(), "treatment": treat.Usual(machine.InTank)},
		201,
		nil,
	)
	b.call(
		"POST",
		"/api/machines/"+id+"/runs",
		fields{"id": newID(), "device": "phone", "parts": []string{"machine"}, "task": "filter_change"},
		409,
		&p,
	)
	if *p.Field != "task" {
		t.Errorf("a filter into acid: %+v", p)
	}
	rinse := b.descale(id, nil)
	if rinse.Title != "Rinse the acid out" || rinse.Task != "acid_rinse" || rinse.Descale.Measure != nil {
		t.Fatalf("the next run: %s", rinse.Title)
	}
	rinse.goOnTo("the end", func() bool { return rinse.Outcome != nil })
	if *rinse.Outcome != "done" || len(b.first().Hazards) != 0 {
		t.Errorf("rinsed: %v", *rinse.Outcome)
	}
	l = b.descale(id, nil)
	l.goOnTo("acid in", func() bool { return l.Inside.Any })
	b.call(
		"POST",
		"/api/machines/"+id+"/sign-offs",
		fields{"id": newID(), "part": "machine", "name": "Bench", "note": "while it runs"},
		409,
		nil,
	)
	l.press("stop")
	b.call(
		"POST",
		"/api/machines/"+id+"/sign-offs",
		fields{"id": newID(), "part": "machine", "name": "Bench", "note": "rinsed, pH as the feed"},
		201,
		nil,
	)
	if len(b.first().Hazards) != 0 {
		t.Error("signed off, and acid is still in")
	}
}

// A machine that is not for its keeper to descale is offered something instead: the
// water, drawing off, a note; it is not led.
func TestRefusedMachineIsOfferedSomethingElse(t *testing.T) {
	b := newBench(t)
	a := home()
	a["layout"], a["drinks_per_day"] = "hx_cafe", 100
	id := b.add(a)
	var d MachineDescale
	b.call("GET", "/api/machines/"+id+"/descale", nil, 200, &d)
	kinds := []string{}
	for _, o := range d.Instead {
		kinds = append(kinds, string(o.Kind))
	}
	if d.Plan != nil || len(d.Programs) != 0 || !slices.Equal(kinds, []string{"treat_water", "draw_off", "workshop"}) {
		t.Fatalf("%v, %+v", kinds, d.Plan)
	}
	var p Problem
	b.call(
		"POST",
		"/api/machines/"+id+"/runs",
		fields{"id": newID(), "device": "phone", "parts": []string{"machine"}, "task": "descale"},
		422,
		&p,
	)
	if *p.Field != "layout" || p.Code != "not_by_the_keeper" {
		t.Errorf("%+v", p)
	}
	before := b.first().Next
	b.call("POST", "/api/machines/"+id+"/notes", fields{"id": newID(), "text": "  "}, 422, nil)
	b.call("POST", "/api/machines/"+id+"/notes", fields{"id": newID(), "text": "bench in town, Friday"}, 201, nil)
	l := b.descale(id, fields{"task": "draw_off"})
	if l.Step.Head != "At pressure, jug ready" {
		t.Errorf("draw-off begins with %s", l.Step.Head)
	}
	l.goOnTo("the end", func() bool { return l.Outcome != nil })
	var log Log
	b.call("GET", "/api/log?machine_id="+id, nil, 200, &log)
	if log.Entries[0].Title != "Draw off the steam boiler" || log.Entries[1].Outcome != "noted" ||
		*log.Entries[1].Note != "bench in town, Friday" {
		t.Errorf("logged %+v", log.Entries[:2])
	}
	if after := b.first().Next; after.Task != before.Task || after.State != before.State {
		t.Errorf("a note moved %+v to %+v", before, after)
	}
}
