package api

import (
	"strings"
	"testing"
	"time"

	"freshanvil/core/task"
)

// What is due on several machines comes in one order of visits that do not overlap, by the first machine's clock; what
// is not led stands beside it with the reason; nothing is written.
func TestAfternoon(t *testing.T) {
	b := newBench(t)
	one, two := b.add(home()), b.add(home())
	b.call("POST", "/api/machines/"+one+"/care", fields{"id": newID(), "task": "wash", "parts": []string{"group-1"},
		"at": b.now}, 201, nil)
	var none Problem
	b.call("GET", "/api/afternoon?machine="+one, nil, 409, &none)
	if none.Code != "nothing_due" {
		t.Errorf("%+v", none)
	}
	b.now = b.now.AddDate(0, 0, 40) // the wash of a new machine is late by then, and more
	for _, id := range []string{one, two} {
		for name, days := range map[string]int{"soak": 6, "tip": 6} {
			b.call("POST", "/api/machines/"+id+"/care", fields{"id": newID(), "task": name, "parts": []string{"machine"},
				"at": b.now.AddDate(0, 0, -days)}, 201, nil)
		}
	}
	var all, first, later Afternoon
	b.call("GET", "/api/afternoon", nil, 200, &all)
	b.call("GET", "/api/afternoon?machine="+one, nil, 200, &first)
	if len(all.Jobs) != 2*len(first.Jobs) || all.Minutes.Value >= all.Alone.Value || all.HandsMin >= all.Minutes.Value {
		t.Errorf("%d jobs, of one machine %d; %g min, alone %g, hands %g", len(all.Jobs), len(first.Jobs), all.Minutes.Value,
			all.Alone.Value, all.HandsMin)
	}
	end := all.StartAt
	for _, v := range all.Visits {
		if v.At.Before(end) || v.Until.Before(v.At) || len(v.Steps) == 0 {
			t.Errorf("%+v begins before %v", v, end)
		}
		if end = v.Until; v.BackAt != nil && v.BackAt.Before(v.Until) {
			t.Errorf("back before it is left: %+v", v)
		}
	}
	if len(all.Lanes) != len(all.Jobs)+1 || all.Lanes[0].Title != "hands" || end.After(all.EndAt) {
		t.Errorf("%d lanes of %d jobs, to %v of %v", len(all.Lanes), len(all.Jobs), end, all.EndAt)
	}
	for _, j := range all.Jobs {
		if len(j.LayOut) == 0 || len(j.Tasks) == 0 || j.EndAt.After(all.EndAt) || j.BeginAt.Before(all.StartAt) {
			t.Errorf("%+v", j)
		}
	}
	b.call("GET", "/api/afternoon?begin=18:30", nil, 200, &later)
	if off := later.EndAt.Sub(later.StartAt) - all.EndAt.Sub(all.StartAt); off > time.Second || off < -time.Second ||
		later.StartAt.Before(b.now) {
		t.Errorf("begun later it takes %v longer", off)
	}
	j := first.Jobs[len(first.Jobs)-1]
	run := fields{"id": newID(), "device": "bench", "task": j.Tasks[0].Task, "parts": j.Tasks[0].Parts}
	if len(j.Tasks) > 1 {
		run["with"] = j.Tasks[1:]
	}
	b.call("POST", "/api/machines/"+one+"/runs", run, 201, nil)
	b.call("GET", "/api/afternoon?machine="+newID(), nil, 404, nil)
}

// With a descale due, that goes first, and takes the new filter and the wash along; the rest comes after it.
func TestADescaleGoesFirst(t *testing.T) {
	b := newBench(t)
	id := b.addSteel()
	b.now = b.now.AddDate(0, 0, 400)
	var all Afternoon
	b.call("GET", "/api/afternoon?machine="+id, nil, 200, &all)
	if len(all.Jobs) < 2 || all.Jobs[0].Descale == nil || !all.Jobs[0].Descale.Wash {
		t.Fatalf("%+v\nleft out %+v", all.Jobs, all.LeftOut)
	}
	if all.Jobs[1].BeginAt.Before(all.Jobs[0].EndAt) {
		t.Errorf("the rest begins at %v, the descale ends at %v", all.Jobs[1].BeginAt, all.Jobs[0].EndAt)
	}
	for _, x := range all.Jobs[1].Tasks {
		if x.Task == task.Wash || x.Task == task.Descale {
			t.Errorf("%s twice", x.Task)
		}
	}
	if !strings.Contains(strings.ToLower(all.Jobs[0].Title), "wash") {
		t.Errorf("%q", all.Jobs[0].Title)
	}
	m := b.first()
	if m.Sitting == nil || m.Front.Begin != "order" {
		t.Errorf("on the bench: %+v", m.Sitting)
	}
}

// The close of a café is led in one go where more than one job of it is: every group, and what is due that night;
// what is opened cold waits for the morning. Hands and end stand on the bench beforehand, by the hour of the close.
func TestTheCloseInOneGo(t *testing.T) {
	b := newBench(t)
	cafe := home()
	cafe["layout"], cafe["drinks_per_day"], cafe["milk_drinks_per_day"] = "hx_cafe", 200, 90
	id := b.add(cafe)
	b.now = b.now.AddDate(0, 0, 20)
	b.call("POST", "/api/machines/"+id+"/care", fields{"id": newID(), "task": "wash",
		"parts": []string{"group-1", "group-2"}, "at": b.now.AddDate(0, 0, -1)}, 201, nil)
	var c Closing
	b.call("GET", "/api/machines/"+id+"/close", nil, 200, &c)
	if n := len(c.EveryNight); n != 3 || c.EveryNight[1].Task != "wash" || c.EveryNight[0].How == "" {
		t.Errorf("of each night: %+v", c.EveryNight)
	}
	if c.Together == nil || len(c.Together.Tasks) < 2 || c.Together.HandsMin >= c.Together.Minutes.Value ||
		!c.Together.EndAt.After(b.now) {
		t.Fatalf("%+v", c.Together)
	}
	for _, x := range c.Together.Tasks {
		if x.Task == task.Screen || x.Task == task.Seal {
			t.Errorf("%s is opened on a hot machine at night", x.Task)
		}
		if x.Task == task.Wash && len(x.Parts) != 2 {
			t.Errorf("the wash is of %v", x.Parts)
		}
	}
	if m := b.first(); m.Evening == nil || m.Evening.EndAt.Sub(b.now) < 2*time.Hour {
		t.Errorf("on the bench at %v: %+v", b.now, m.Evening)
	}
	b.call("POST", "/api/machines/"+id+"/runs", fields{"id": newID(), "device": "bar", "task": c.Together.Tasks[0].Task,
		"parts": c.Together.Tasks[0].Parts, "with": c.Together.Tasks[1:]}, 201, nil)
}
