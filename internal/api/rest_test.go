package api

import (
	"net/url"
	"slices"
	"strings"
	"testing"
	"time"
)

// lead carries a run out to its end, with other answers than the first where they are given.
func (l *live) toEnd(answers map[string]string) {
	l.t.Helper()
	for n := 0; n < 400 && l.Outcome == nil; n++ {
		switch {
		case l.Finding != nil && l.Finding.Verdict == "stop":
			if l.Finding.Symptom != "pump_screams" {
				l.t.Errorf("it stops for %+v", l.Finding)
			}
			l.press("stop")
		case slices.Contains(l.Allowed, "heard"):
			what := answers[l.Step.Id]
			if what == "" {
				what = (*l.Step.Ways)[0].What
			}
			l.press("heard", "what", what)
		case slices.Contains(l.Allowed, "begin"):
			l.press("begin")
		case slices.Contains(l.Allowed, "done"):
			l.press("done")
		default:
			l.wait(time.Minute)
		}
	}
	if l.Outcome == nil {
		l.t.Fatalf("it hangs at %s", l.Step.Id)
	}
}

func (b *bench) rest(id string) (r Rest) {
	b.t.Helper()
	b.call("GET", "/api/machines/"+id+"/rest", nil, 200, &r)
	return r
}

// A café closed for twelve days with one visit, over the contract: what it comes to is told before anything is kept;
// nothing is led without its days; the closing, the visit and the return are led, each at its time, and nothing else
// meanwhile; a pump that screams on the return stops it, and names what to look for the cause of.
func TestStandingStill(t *testing.T) {
	b := newBench(t)
	answers := home()
	answers["layout"], answers["drinks_per_day"] = "hx_cafe", 200
	id := b.add(answers)
	if r := b.rest(id); r.State != "in_use" || r.From != nil || len(r.Opens) != 2 || r.Refused != nil {
		t.Fatalf("%+v", r)
	}
	run := func(task string, status int) *live {
		l := &live{bench: b, id: newID()}
		var into any
		if status == 201 {
			into = &l.Run
		}
		b.call("POST", "/api/machines/"+id+"/runs", fields{"id": l.id, "device": "phone", "task": task,
			"parts": []string{"machine"}}, status, into)
		return l
	}
	run("lay_up", 422) // nobody said when
	from, to := b.now.AddDate(0, 0, 1).Format(time.DateOnly), b.now.AddDate(0, 0, 12).Format(time.DateOnly)
	query := url.Values{"from": {from}, "to": {to}, "stands": {"visited"}}
	var asked Rest
	b.call("GET", "/api/machines/"+id+"/rest?"+query.Encode(), nil, 200, &asked)
	if asked.State != "ahead" || *asked.Days != 12 || len(asked.Visits) != 1 || asked.AwayId != nil ||
		asked.Stood.Long || len(asked.Plans) != 3 || asked.Plans[1].Draws == nil {
		t.Errorf("%+v", asked)
	}
	if b.rest(id).State != "in_use" {
		t.Error("asking kept it")
	}
	b.call("GET", "/api/machines/"+id+"/rest?from="+from, nil, 422, nil)
	b.call("GET", "/api/machines/"+id+"/rest?from="+from+"&to="+from, nil, 422, nil) // a day is no rest
	b.call("POST", "/api/machines/"+id+"/away", fields{"id": newID(), "from": from, "to": to, "stands": "visited"}, 201,
		nil)
	if r := b.rest(id); r.State != "ahead" || r.AwayId == nil || len(r.WashFirst) != 2 {
		t.Errorf("%+v", r)
	}
	b.now = b.now.Add(10 * time.Hour)
	run("visit", 422)
	run("lay_up", 201).toEnd(nil)
	if r := b.rest(id); r.State != "laid_up" || r.Since == nil {
		t.Fatalf("%+v", r)
	}
	var p Problem
	b.call("POST", "/api/machines/"+id+"/runs", fields{"id": newID(), "device": "d", "task": "wash",
		"parts": []string{"group-1"}}, 409, &p)
	if !strings.Contains(p.Title, "laid up") {
		t.Errorf("%+v", p)
	}
	b.now = b.now.AddDate(0, 0, 8)
	if next := b.first().Next; next.Task != "visit" || next.State == "later" {
		t.Errorf("a week later: %s %s", next.Task, next.State)
	}
	run("visit", 201).toEnd(nil)
	if r := b.rest(id); !r.Visits[0].Made || r.Stood.Visits != 1 {
		t.Errorf("%+v", r.Visits)
	}
	b.now = b.now.AddDate(0, 0, 5)
	if next := b.first().Next; next.Task != "return" {
		t.Errorf("back: %s %s", next.Task, next.State)
	}
	bad := run("return", 201)
	bad.toEnd(map[string]string{"pump": "pump_screams"})
	if *bad.Outcome == "done" || b.rest(id).State != "laid_up" {
		t.Errorf("a screaming pump: %s, %s", *bad.Outcome, b.rest(id).State)
	}
	run("return", 201).toEnd(nil)
	if r := b.rest(id); r.State != "in_use" {
		t.Errorf("back in use: %+v", r.State)
	}
	run("wash", 422) // of a group, not of the machine: but it is not the rest that stands in its way any more
	b.call("POST", "/api/machines/"+id+"/runs", fields{"id": newID(), "device": "d", "task": "wash",
		"parts": []string{"group-1"}}, 201, nil)
}

// A lever without a pump has nothing to visit, and says what to do instead.
func TestALeverIsEmptied(t *testing.T) {
	b := newBench(t)
	answers := home()
	answers["layout"], answers["valve"] = "lever_manual", "no"
	id := b.add(answers)
	r := b.rest(id)
	if r.Refused == nil || len(r.Refused.Next) == 0 || len(r.Plans) > 0 {
		t.Errorf("%+v", r)
	}
}
