package api

import (
	"strings"
	"testing"
)

// From a symptom to its cause over the contract: what can be noticed on this machine, one question after the other, a
// cause with what follows; what was found is kept once, and is asked for sooner the next time. Nonsense is refused.
func TestDiagnosis(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	path := "/api/machines/" + id + "/diagnosis"
	var d Diagnosis
	b.call("GET", path, nil, 200, &d)
	if len(d.Symptoms) < 15 || d.Finding != nil {
		t.Fatalf("%d symptoms, %+v", len(d.Symptoms), d.Finding)
	}
	said := ""
	for n := 0; n < 12; n++ {
		d = Diagnosis{}
		b.call("GET", path+"?symptom=slow_heating"+said, nil, 200, &d)
		if d.Finding.Next == nil {
			break
		}
		says := map[string]string{"how_long": "longer", "gauge_reads": "usual", "gauze_looked": "crusted"}
		answer := says[d.Finding.Next.Id]
		if answer == "" || len(d.Finding.Next.Answers) < 2 {
			t.Fatalf("asked %+v", d.Finding.Next)
		}
		said += "&said=" + d.Finding.Next.Id + ":" + answer
	}
	first := d.Finding.Causes[0]
	if !d.Finding.Sure || first.Id != "steam_scale" || first.Task == nil || *first.Task != "descale" {
		t.Fatalf("%+v", d.Finding.Causes)
	}
	sum := 0.0
	for i, c := range d.Finding.Causes {
		sum += c.Share
		if i > 0 && c.Share > d.Finding.Causes[i-1].Share {
			t.Error("not the likeliest first")
		}
	}
	if sum < 0.999 || sum > 1.001 {
		t.Errorf("the shares come to %g", sum)
	}
	found := fields{"id": newID(), "symptom": "slow_heating", "cause": "element"}
	var before, after Diagnosis
	b.call("GET", path+"?symptom=slow_heating", nil, 200, &before)
	b.call("POST", path, found, 204, nil)
	b.call("POST", path, found, 204, nil) // the same request again
	b.call("GET", path+"?symptom=slow_heating", nil, 200, &after)
	share := func(d Diagnosis) float64 {
		for _, c := range d.Finding.Causes {
			if c.Id == "element" {
				return c.Share
			}
		}
		return 0
	}
	if share(after) <= share(before) || !strings.Contains(after.Finding.Because[1].Text, "1 time") {
		t.Errorf("%g, then %g: %+v", share(before), share(after), after.Finding.Because)
	}
	for _, bad := range []string{"hiccups", "slow_heating&said=click:yes", "slow_heating&said=nonsense"} {
		b.call("GET", path+"?symptom="+bad, nil, 422, nil)
	}
	b.call("POST", path, fields{"id": newID(), "symptom": "slow_heating", "cause": "rim"}, 422, nil)
}

// A gauge is judged by the machine's own mark; over it everything stops, and the cause may be looked for.
func TestGauge(t *testing.T) {
	b := newBench(t)
	cafe := home()
	cafe["layout"] = "hx_home"
	path := "/api/machines/" + b.add(cafe) + "/gauge"
	var g GaugeReading
	b.call("GET", path+"?which=steam&bar=1.2", nil, 200, &g)
	if g.Stops || g.Finding.Verdict != "fine" {
		t.Errorf("%+v", g)
	}
	b.call("GET", path+"?which=steam&bar=2.1", nil, 200, &g)
	if !g.Stops || g.Symptom == nil || *g.Symptom != "over_pressure" || !strings.Contains(g.Finding.Next[0],
		"pull the plug") {
		t.Errorf("%+v", g)
	}
	for _, bad := range []string{"which=steam&bar=-1", "which=steam&bar=NaN", "which=oven&bar=1", "which=steam"} {
		b.call("GET", path+"?"+bad, nil, 422, nil)
	}
}
