package api

import (
	"strings"
	"testing"
	"time"

	"freshanvil/core/job"
)

// The work sheet of what falls due together says when it ends by the machine's clock, in lanes and steps that
// agree; begun at another hour all of it moves, and nothing is written. Where nothing is due, it says so.
func TestWorkSheet(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	var none Problem
	b.call("GET", "/api/machines/"+id+"/sitting", nil, 409, &none)
	if none.Code != "nothing_together" || !strings.Contains(*none.Allowed, "two tasks") {
		t.Errorf("%+v", none)
	}
	b.now = b.now.AddDate(0, 0, 20) // the wash of a new machine is late by then
	for task, days := range map[string]int{"soak": 6, "tip": 6} {
		b.call("POST", "/api/machines/"+id+"/care", fields{"id": newID(), "task": task, "parts": []string{"machine"},
			"at": b.now.AddDate(0, 0, -days)}, 201, nil)
	}
	var now, later WorkSheet
	b.call("GET", "/api/machines/"+id+"/sitting", nil, 200, &now)
	if !now.StartAt.Equal(b.now) || len(now.Tasks) < 2 || now.Lanes[0].Title != "hands" || len(now.LayOut) == 0 {
		t.Fatalf("%+v", now)
	}
	if now.Alone.Value <= now.Minutes.Value || now.HandsMin >= now.Minutes.Value {
		t.Errorf("%.0f min, of it hands %.0f; one by one %.0f", now.Minutes.Value, now.HandsMin, now.Alone.Value)
	}
	last := time.Time{}
	for _, l := range now.Lanes {
		for _, bar := range l.Bars {
			if at := now.StartAt.Add(time.Duration(bar.ToMin * float64(time.Minute))); at.After(last) {
				last = at
			}
		}
	}
	if off := last.Sub(now.EndAt); off > time.Second || off < -time.Second {
		t.Errorf("the bars end at %v, the sheet at %v", last, now.EndAt)
	}
	stands := 0
	for _, s := range now.Steps {
		if s.Work == job.ByItself {
			stands++
		}
		if s.At.Before(now.StartAt) || s.At.After(now.EndAt) || s.Task == "" {
			t.Errorf("%+v", s)
		}
	}
	if stands < 2 {
		t.Errorf("%d steps stand by themselves, want the bath and the tip", stands)
	}
	zone, err := time.LoadLocation(now.Zone)
	if err != nil {
		t.Fatal(err)
	}
	b.call("GET", "/api/machines/"+id+"/sitting?begin=18:30", nil, 200, &later)
	if at := later.StartAt.In(zone).Format("15:04"); at != "18:30" || later.StartAt.Before(b.now) ||
		later.StartAt.Sub(b.now) > 24*time.Hour || later.EndAt.Sub(later.StartAt) != now.EndAt.Sub(now.StartAt) {
		t.Errorf("begun at %s, %v after now", at, later.StartAt.Sub(b.now))
	}
	if len(later.Steps) != len(now.Steps) || len(later.Lanes) != len(now.Lanes) {
		t.Errorf("%d steps and %d", len(now.Steps), len(later.Steps))
	}
	b.call("GET", "/api/machines/"+id+"/sitting?begin=25:00", nil, 422, &none)
}

// The turns of a work sheet in another order: led where the model clears it, never shorter, and begun as it was moved;
// an unsafe one is refused with the reason and what to do instead.
func TestTheSheetInAnotherOrder(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	b.now = b.now.AddDate(0, 0, 20)
	for task, days := range map[string]int{"soak": 6, "tip": 6} {
		b.call("POST", "/api/machines/"+id+"/care", fields{"id": newID(), "task": task, "parts": []string{"machine"},
			"at": b.now.AddDate(0, 0, -days)}, 201, nil)
	}
	path := "/api/machines/" + id + "/sitting"
	var best, moved WorkSheet
	b.call("GET", path, nil, 200, &best)
	query := func(names ...string) string { return path + "?order=" + strings.Join(names, "&order=") }
	wash := []string{"wash.1", "soak.1", "tip.1", "tip.2", "soak.2"}
	if best.Moved || len(best.Turns) != len(wash) {
		t.Fatalf("%+v", best.Turns)
	}
	b.call("GET", query(wash...), nil, 200, &moved)
	if !moved.Moved || moved.Turns[0].Name != "wash.1" || moved.Minutes.Value < best.Minutes.Value ||
		!strings.Contains(moved.Says, "as you moved it") {
		t.Errorf("%+v %s", moved.Turns, moved.Says)
	}
	var bad Problem
	b.call("GET", query("soak.1", "wash.1", "tip.1", "tip.2", "soak.2"), nil, 422, &bad)
	if bad.Finding == nil || !strings.Contains(bad.Finding.Because[0].Text, "nothing soaks meanwhile") {
		t.Errorf("%+v", bad)
	}
	b.call("GET", query("wash.1", "soak.1"), nil, 422, &bad)
	if *bad.Field != "order" {
		t.Errorf("%+v", bad)
	}
	start := fields{"id": newID(), "device": "bench", "task": best.Tasks[0].Task, "parts": best.Tasks[0].Parts,
		"with": best.Tasks[1:], "order": wash}
	var run Run
	b.call("POST", "/api/machines/"+id+"/runs", start, 201, &run)
	if run.Step.Head != "Get ready" {
		t.Errorf("it begins with %+v", run.Step)
	}
}

// Hands that would wait, since the order was moved so, are told of what may be done meanwhile: the server writes the
// new order into the run, the next answer shows it with what it saves, whoever pressed last still leads, and after a
// restart it is the same.
func TestARunIsPutIntoAnotherOrder(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	b.now = b.now.AddDate(0, 0, 20)
	for task, days := range map[string]int{"soak": 6, "tip": 6} {
		b.call("POST", "/api/machines/"+id+"/care", fields{"id": newID(), "task": task, "parts": []string{"machine"},
			"at": b.now.AddDate(0, 0, -days)}, 201, nil)
	}
	var sheet WorkSheet
	b.call("GET", "/api/machines/"+id+"/sitting", nil, 200, &sheet)
	l := &live{bench: b, id: newID()}
	b.call("POST", "/api/machines/"+id+"/runs", fields{"id": l.id, "device": "phone", "task": sheet.Tasks[0].Task,
		"parts": sheet.Tasks[0].Parts, "with": sheet.Tasks[1:],
		"order": []string{"soak.1", "soak.2", "tip.1", "tip.2", "wash.1"}}, 201, &l.Run)
	for n := 0; strings.HasPrefix(l.Step.Id, "soak") && n < 4; n++ {
		b.now = b.now.Add(time.Minute)
		l.press("done")
	}
	if !strings.HasPrefix(l.Step.Id, "tip") || l.SoonerMin == nil || *l.SoonerMin < 5 || l.LastDevice != "phone" {
		t.Fatalf("at %s, sooner %v, led by %s", l.Step.Id, l.SoonerMin, l.LastDevice)
	}
	if len(l.Soaks) != 1 {
		t.Errorf("%d soak beside", len(l.Soaks))
	}
	step := l.Step.Id
	b.reopen()
	l.wait(10 * time.Second)
	if l.Step.Id != step {
		t.Errorf("after a restart at %s, was at %s", l.Step.Id, step)
	}
	l.press("done")
	if l.SoonerMin != nil || l.Step.Id == step {
		t.Errorf("it is said again at %s", l.Step.Id)
	}
	var bad Problem
	b.call("POST", "/api/runs/"+l.id+"/presses", fields{"id": newID(), "device": "phone", "step": l.Step.Id, "segment": 0,
		"kind": "reorder", "at": b.now}, 422, &bad)
}

// What is opened cold waits for hours on a machine in use, and for nothing on one that has been off overnight: a café's
// sheet is laid out so, and either may be asked for and begun.
func TestTheSheetOfAColdMachine(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	b.now = b.now.AddDate(0, 0, 60)
	for task, days := range map[string]int{"soak": 8, "screen": 40} {
		part := "machine"
		if task == "screen" {
			part = "group-1"
		}
		b.call("POST", "/api/machines/"+id+"/care", fields{"id": newID(), "task": task, "parts": []string{part},
			"at": b.now.AddDate(0, 0, -days)}, 201, nil)
	}
	var used, cold WorkSheet
	b.call("GET", "/api/machines/"+id+"/sitting", nil, 200, &used)
	b.call("GET", "/api/machines/"+id+"/sitting?cold=true", nil, 200, &cold)
	if !used.Opens || used.Cold || !cold.Cold || used.Minutes.Value-cold.Minutes.Value < 120 {
		t.Fatalf("in use %g min (%v), cold %g min (%v)", used.Minutes.Value, used.Cold, cold.Minutes.Value, cold.Cold)
	}
	var run Run
	b.call("POST", "/api/machines/"+id+"/runs", fields{"id": newID(), "device": "bench", "task": cold.Tasks[0].Task,
		"parts": cold.Tasks[0].Parts, "with": cold.Tasks[1:], "cold": true}, 201, &run)
	if run.Step.Head != "It is off, and cold" {
		t.Errorf("it begins with %q", run.Step.Head)
	}
}
