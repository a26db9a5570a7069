package api

import (
	"strings"
	"testing"
)

// TestNoImplausibleDescale: 25 drinks a day on hard untreated water, eleven months after the last descale, on every
// layout: no card is a kilogram in a bucket, nor hundreds of steps; where that would be needed it is refused, in words.
func TestNoImplausibleDescale(t *testing.T) {
	for _, layout := range []string{"thermoblock", "single_boiler", "hx_home", "dual_home", "lever_manual"} {
		t.Run(layout, func(t *testing.T) {
			b := newBench(t)
			answers := with("layout", layout, "drinks_per_day", 25, "milk_drinks_per_day", 10,
				"hardness", fields{"known": true, "value": 25, "unit": "dh"})
			if layout == "lever_manual" {
				answers["valve"] = "no"
			}
			id := b.add(answers)
			b.knows(id, "brew_material", "stainless")
			b.now = b.now.AddDate(0, 11, 0)
			var d MachineDescale
			b.call("GET", "/api/machines/"+id+"/descale", nil, 200, &d)
			if d.Card == nil && d.Refused == nil && len(d.Instead) == 0 {
				t.Fatalf("neither a dose nor a reason: %+v", d.Verdict)
			}
			if d.Card != nil && (d.Card.Measure.Value > 250 || d.Card.Mixed.Value > 8) {
				t.Errorf("%v g in %v L", d.Card.Measure.Value, d.Card.Mixed.Value)
			}
			if d.Plan == nil {
				return
			}
			steps, named := 0, map[string]bool{}
			for _, c := range d.Plan.Chapters {
				steps += len(c.Lines)
				named[c.Title] = true
			}
			if d.Plan.Steps > 110 || steps != d.Plan.Steps || len(named) > 6 {
				t.Errorf("%d steps in %d chapters", d.Plan.Steps, len(named))
			}
		})
	}
}

// TestNewIsNoReasonForACall: a machine that is said to be new has nothing that is due now; one of which nothing is
// known has, and says so.
func TestNewIsNoReasonForACall(t *testing.T) {
	b := newBench(t)
	for _, isNew := range []bool{true, false} {
		id := newID()
		body := fields{"id": id, "name": "It", "zone": "Europe/Lisbon", "answers": home()}
		if isNew {
			body["new_since"] = b.now
		}
		b.call("POST", "/api/machines", body, 201, nil)
		var out Bench
		b.call("GET", "/api/bench?machine_id="+id, nil, 200, &out)
		m := out.Machines[0]
		if m.Next == nil || m.Next.Now == isNew {
			t.Errorf("new %v: %+v", isNew, m.Next)
		}
		if want := map[bool]BenchMachineBand{true: BenchMachineBandLater, false: BenchMachineBandNotKnown}[isNew]; m.Band !=
			want && m.Band != BenchMachineBandThisWeek {
			t.Errorf("new %v stands under %s", isNew, m.Band)
		}
	}
}

// TestASoftenedMachineIsLookedAt: where the water leaves no scale, the date is one to look, and the card behind it
// shows no dose.
func TestASoftenedMachineIsLookedAt(t *testing.T) {
	b := newBench(t)
	id := b.add(with("layout", "hx_cafe", "drinks_per_day", 200, "milk_drinks_per_day", 80,
		"hardness", fields{"known": true, "value": 0.5, "unit": "dh"}, "treatment", "softener"))
	var d MachineDescale
	b.call("GET", "/api/machines/"+id+"/descale", nil, 200, &d)
	if d.Card != nil || d.Plan != nil {
		t.Errorf("a dose for a machine that is only looked at: %+v", d.Verdict)
	}
	var w WaterAtWork
	b.call("GET", "/api/machines/"+id+"/water", nil, 200, &w)
	if w.Inspect && !strings.Contains(strings.ToLower(w.Due.Title), "look") {
		t.Errorf("it is looked at, and yet: %s", w.Due.Title)
	}
}

// TestFirstCounterReadingBeginsTheCount: a first reading is taken also where a wash is on record, without a question.
func TestFirstCounterReadingBeginsTheCount(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	b.call("POST", "/api/machines/"+id+"/care", fields{"id": newID(), "task": "wash", "part": "group-1", "at": b.now}, 201,
		nil)
	b.now = b.now.AddDate(0, 0, 3)
	var c Counted
	b.call("POST", "/api/machines/"+id+"/counter", fields{"id": newID(), "reading": 1240, "at": b.now}, 201, &c)
	if c.Drinks != 0 {
		t.Errorf("%v drinks from a first reading", c.Drinks)
	}
}

// TestListOfMachines: all or none, each line's fault told; the same list again keeps nothing twice; owners stand on the
// bench.
func TestListOfMachines(t *testing.T) {
	b := newBench(t)
	take := func(text string, preview bool) MachineListTaken {
		var out MachineListTaken
		b.call("POST", "/api/machines-list", fields{"text": text, "zone": "Europe/Lisbon", "preview": preview}, 200, &out)
		return out
	}
	bench := func() Bench {
		var out Bench
		b.call("GET", "/api/bench", nil, 200, &out)
		return out
	}
	bad := take("owner,layout,drinks\nFerry,hx_home,3\nFerry,samovar,3\n", false)
	if bad.Kept || len(bad.Bad) != 1 || bad.Bad[0].Line != 3 || len(bench().Machines) != 0 {
		t.Errorf("%+v", bad)
	}
	good := "owner,place,name,layout,drinks,used\nFerry,aft,One,hx_home,3,no\n,,Two,,,yes\n"
	if seen := take(good, true); seen.Kept || len(seen.Machines) != 2 || len(bench().Machines) != 0 {
		t.Errorf("a preview kept something: %+v", seen)
	}
	if kept := take(good, false); !kept.Kept || kept.Same != 0 {
		t.Errorf("%+v", kept)
	}
	if again := take(good, false); !again.Kept || again.Same != 2 {
		t.Errorf("%+v", again)
	}
	list := bench().Machines
	if len(list) != 2 {
		t.Fatalf("%d machines", len(list))
	}
	for _, m := range list {
		if m.Owner != "Ferry" || m.Place != "aft" {
			t.Errorf("%+v", m)
		}
	}
	b.call("POST", "/api/machines-list", fields{"text": good, "zone": "Nowhere/Land", "preview": false}, 422, nil)
}
