package api

import (
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/treat"
)

func (b *bench) water(id string) (out WaterAtWork) {
	b.t.Helper()
	b.call("GET", "/api/machines/"+id+"/water", nil, 200, &out)
	return out
}

// From a strip to a date: a source, what was read of it, the machine that draws
// from it through a filter; the filter changed, led, and its next month.
func TestFromAStripToADate(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	first := b.water(id)
	if !first.Known || math.Abs(first.HardnessMgL-249.9) > 0.1 || first.Due.State != "later" ||
		len(first.Places) != 2 ||
		len(first.Table) != 7 ||
		!first.Table[0].Chosen ||
		first.Suits.Way != "workshop" {
		t.Fatalf(
			"by the five answers: %v mg/L, due %s, %d places, %d treatments, %s",
			first.HardnessMgL,
			first.Due.State,
			len(first.Places),
			len(first.Table),
			first.Suits.Way,
		)
	}
	for _, r := range first.Table {
		if r.Setting.Kind != machine.Untreated && r.Scale.Value >= first.Table[0].Scale.Value &&
			r.Setting.Kind != machine.Bottled {
			t.Errorf("%s leaves %v g a year, nothing %v", r.Title, r.Scale.Value, first.Table[0].Scale.Value)
		}
	}
	source, reading := newID(), newID()
	var all Waters
	b.call("POST", "/api/waters", fields{"id": source, "name": "Harbour main"}, 201, &all)
	strip := fields{
		"id":     reading,
		"taken":  b.now,
		"how":    "strip",
		"sample": fields{"hardness": fields{"low": 4, "high": 7, "unit": "dh"}, "ph": fields{"value": 7.4}},
	}
	b.call("POST", "/api/waters/"+source+"/readings", strip, 201, &all)
	b.call("POST", "/api/waters/"+source+"/readings", strip, 201, &all) // the same again
	b.call(
		"POST",
		"/api/calc/water",
		fields{
			"sample": fields{
				"hardness":           fields{"value": 14, "unit": "dh"},
				"conductivity_us_cm": fields{"value": 52, "unit": "mS/m"},
				"cl_mg_l":            fields{"value": 0.03, "unit": "g/L"},
			},
		},
		200,
		nil,
	)
	var bad Problem
	b.call(
		"POST",
		"/api/calc/water",
		fields{"sample": fields{"cl_mg_l": fields{"value": 3, "unit": "stone"}}},
		422,
		&bad,
	)
	if *bad.Field != "sample.cl_mg_l.unit" {
		t.Errorf("%+v", bad)
	}
	if len(all.Sources) != 1 || len(all.Sources[0].Readings) != 1 || len(all.Sources[0].Readings[0].Said) != 2 ||
		len(all.Treatments) != 7 {
		t.Fatalf("%+v", all)
	}
	var chosen WaterAtWork
	b.call(
		"POST",
		"/api/machines/"+id+"/water",
		fields{"id": newID(), "source_id": source, "treatment": treat.Usual(machine.InTank)},
		201,
		&chosen,
	)
	if chosen.Source == nil || chosen.HardnessMgL > 130 ||
		chosen.Reaches.Hardness.Units[0].Likely.Value >= chosen.Raw.Hardness.Units[0].Likely.Value ||
		chosen.Renew == nil ||
		chosen.Renew.State != "later" || !strings.Contains(chosen.Renew.Because[0].Text, "the day you named it") {
		t.Fatalf("chosen: %v mg/L, renew %+v", chosen.HardnessMgL, chosen.Renew)
	}
	var bare WaterAtWork
	b.call("POST", "/api/machines/"+id+"/water/if", fields{"treatment": treat.Usual(machine.Untreated)}, 200, &bare)
	if !(bare.ByScale.Low == bare.ByScale.Value && bare.ByScale.Value < bare.ByScale.High &&
		bare.ByScale.Value < chosen.ByScale.Value) {
		t.Errorf(
			"a strip is an interval, the date its early end: %v to %v; behind a filter %v",
			bare.ByScale.Value,
			bare.ByScale.High,
			chosen.ByScale.Value,
		)
	}
	b.call(
		"POST",
		"/api/machines/"+id+"/care",
		fields{"id": newID(), "task": "wash", "part": "group-1", "at": b.now},
		201,
		nil,
	)
	if next := b.first().Next; next.State != "later" {
		t.Errorf("a filter named today is due: %s, %s", next.Task, next.State)
	}
	l := &live{bench: b, id: newID()}
	b.call(
		"POST",
		"/api/machines/"+id+"/runs",
		fields{"id": l.id, "device": "phone", "parts": []string{"machine"}, "task": "filter_change"},
		201,
		&l.Run,
	)
	if l.Task != "filter_change" || l.Wash.Dose != nil {
		t.Fatalf("%s", l.Task)
	}
	for range 20 {
		if l.Outcome != nil {
			break
		}
		if l.Segment.EndsAt != nil {
			l.wait(l.Segment.EndsAt.Sub(l.now))
		} else {
			l.wait(20 * time.Second)
			l.press("done")
		}
	}
	if l.Outcome == nil || *l.Outcome != "done" || l.Next == nil || l.Next.Task != "filter_change" ||
		l.Next.State != "later" {
		t.Fatalf("the change ended %v, next %+v", l.Outcome, l.Next)
	}
	if now := b.water(id); now.Renew.State != "later" ||
		!slices.ContainsFunc(now.Renew.Clocks, func(c Clock) bool { return c.Kind == "litres" }) {
		t.Errorf("after the change: %+v", now.Renew)
	}
	b.call("DELETE", "/api/readings/"+reading, nil, 200, &all)
	if len(all.Sources[0].Readings) != 0 {
		t.Error("a reading that was taken back stands")
	}
}

// What if: harder water, more drinks and other treatments move the date, each the
// right way, and nothing is kept.
func TestWhatIf(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	days := func(what fields) float64 {
		t.Helper()
		var out WaterAtWork
		b.call("POST", "/api/machines/"+id+"/water/if", what, 200, &out)
		if len(out.Table) != 0 {
			t.Error("a table nobody asked for")
		}
		return out.ByScale.Value
	}
	hardness := func(v float64) fields {
		return fields{"sample": fields{"hardness": fields{"value": v, "unit": "mg_l_caco3"}}}
	}
	now := days(fields{})
	if soft, hard := days(hardness(120)), days(hardness(400)); !(hard < now && now < soft) {
		t.Errorf("hard %v, as it is %v, soft %v days", hard, now, soft)
	}
	if few, many := days(fields{"drinks": 1}), days(fields{"drinks": 20}); !(many < now && now < few) {
		t.Errorf("many %v, as it is %v, few %v days", many, now, few)
	}
	if softened := days(fields{"treatment": treat.Usual(machine.Softener)}); softened <= now {
		t.Errorf("softened %v, as it is %v", softened, now)
	}
	if again := b.water(id); again.ByScale.Value != now || again.Treatment.Kind != machine.Untreated {
		t.Error("asking what if changed something")
	}
	own := treat.Usual(machine.Jug)
	own.Price, own.Rated = 4.5, 120
	var all Waters
	b.call("PUT", "/api/treatments", own, 200, &all)
	if row := b.water(id).Table[1]; row.Setting != own {
		t.Errorf("own numbers: %+v", row.Setting)
	}
}

// A supplier's report is taken whole or not at all.
func TestSuppliersReport(t *testing.T) {
	b := newBench(t)
	source := newID()
	b.call("POST", "/api/waters", fields{"id": source, "name": "Hill spring"}, 201, nil)
	post := func(text string, preview bool) (out Report) {
		t.Helper()
		b.call(
			"POST",
			"/api/waters/"+source+"/report",
			fields{"id": newID(), "taken": b.now, "text": text, "preview": preview},
			200,
			&out,
		)
		return out
	}
	bad := post("parameter,value,unit\nhardness,lots,mg/L\npH,7.2,\nchloride,12,stone\n", false)
	if bad.Kept || len(bad.Bad) != 2 || bad.Bad[0].Line != 2 || bad.Bad[1].Line != 4 ||
		len(bad.Waters.Sources[0].Readings) != 0 {
		t.Errorf("bad lines: %+v", bad.Bad)
	}
	good := "parameter,value,unit\nhardness,95,mg/L\nalkalinity,70,mg/L\npH,7.2,\nchloride,12,mg/L\nnitrate,3,mg/L\n"
	if p := post(good, true); p.Kept || p.Passed != 1 || len(p.Said) != 4 || len(p.Waters.Sources[0].Readings) != 0 {
		t.Errorf("preview: %+v", p)
	}
	if p := post(good, false); !p.Kept || len(p.Waters.Sources[0].Readings) != 1 ||
		p.Waters.Sources[0].Readings[0].How != "report" {
		t.Errorf("kept: %+v", p)
	}
}

func TestBadWater(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	source := newID()
	b.call("POST", "/api/waters", fields{"id": source, "name": "Harbour main"}, 201, nil)
	spoiled := treat.Usual(machine.Jug)
	spoiled.Rated = 0
	for _, c := range []struct {
		method, path string
		body         fields
		status       int
		field        string
	}{
		{"POST", "/api/waters", fields{"id": newID(), "name": "  "}, 422, "name"},
		{"POST", "/api/waters/" + newID() + "/readings",
			fields{"id": newID(), "taken": b.now, "how": "strip", "sample": fields{"ph": fields{"value": 7}}}, 404, "source_id"},
		{"POST", "/api/waters/" + source + "/readings",
			fields{"id": newID(), "taken": b.now, "how": "strip", "sample": fields{}}, 422, "sample"},
		{"POST", "/api/waters/" + source + "/readings",
			fields{"id": newID(), "taken": b.now, "how": "strip", "sample": fields{"ph": fields{"value": 3}}}, 422, "sample.ph"},
		{"POST", "/api/waters/" + source + "/readings",
			fields{"id": newID(), "taken": b.now.AddDate(0, 0, 2), "how": "strip", "sample": fields{"ph": fields{"value": 7}}},
			422, "taken"},
		{"POST", "/api/waters/" + source + "/readings",
			fields{"id": newID(), "taken": b.now, "how": "nose", "sample": fields{"ph": fields{"value": 7}}}, 422, "how"},
		{"POST", "/api/machines/" + id + "/water",
			fields{"id": newID(), "source_id": newID(), "treatment": treat.Usual(machine.Jug)}, 404, "source_id"},
		{"POST", "/api/machines/" + id + "/water", fields{"id": newID(), "treatment": spoiled}, 422, "treatment.rated_l"},
		{"PUT", "/api/treatments", fields{"kind": "magnet", "price": 1, "litre": 0, "minutes": 1}, 422, "kind"},
		{"POST", "/api/machines/" + id + "/water/if", fields{"drinks": -1}, 422, "drinks"},
		{"DELETE", "/api/readings/" + newID(), nil, 404, "reading_id"},
		{"POST", "/api/machines/" + id + "/runs",
			fields{"id": newID(), "device": "d", "parts": []string{"machine"}, "task": "filter_change"},
			422, "task"},
	} {
		var p Problem
		var body any
		if c.body != nil {
			body = c.body
		}
		b.call(c.method, c.path, body, c.status, &p)
		if p.Field == nil || !strings.HasPrefix(*p.Field, c.field) {
			t.Errorf("%s %v: %+v, want %s named", c.path, c.body, p, c.field)
		}
	}
	if got := b.water(id); got.Source != nil || got.Treatment.Kind != machine.Untreated {
		t.Error("bad input left a trace")
	}
}

// What was read over the years comes in from one table, the same again changes nothing, and a foreign one is asked for
// the unit of its hardness.
func TestATableOfReadings(t *testing.T) {
	b := newBench(t)
	source := newID()
	path := "/api/waters/" + source + "/readings-list"
	body := fields{"zone": "Europe/Lisbon", "preview": true,
		"text": "date,how,hardness °dH,pH\n2025-06-01,drops,12,7.4\n2026-01-15,strip,4..7,\n"}
	var got ReadingsTaken
	b.call("POST", path, body, 200, &got)
	if got.Kept || got.Fresh != 2 || len(got.Readings) != 2 || got.Readings[1].How != "strip" {
		t.Errorf("a preview of what is not there yet: %+v", got)
	}
	body["preview"] = false
	b.call("POST", path, body, 404, nil)
	b.call("POST", "/api/waters", fields{"id": source, "name": "Harbour"}, 201, nil)
	for i := range 2 {
		b.call("POST", path, body, 200, &got)
		if !got.Kept || got.Fresh != 2*(1-i) || got.Same != 2*i || len(got.Waters.Sources[0].Readings) != 2 {
			t.Errorf("the %d. time: %+v", i+1, got)
		}
	}
	body["text"] = "date,pH\n2026-02-01,7\n2026-02-30,7\nyesterday,7\n"
	b.call("POST", path, body, 200, &got)
	if got.Kept || len(got.Bad) != 2 || got.Bad[0].Line != 3 || got.Bad[1].Field != "date" ||
		len(got.Waters.Sources[0].Readings) != 2 {
		t.Errorf("bad lines: %+v", got)
	}
	body["zone"] = "Harbour/Town"
	b.call("POST", path, body, 422, nil)

	var g Grid
	ask := fields{"kind": "readings", "file": []byte("Day;Total hardness;Remark\n13.6.2025;12,5;clear\n")}
	b.call("POST", "/api/grids", ask, 200, &g)
	if g.NoUnit == nil || *g.NoUnit != "hardness" || g.Text != nil {
		t.Errorf("a hardness without its unit: %+v", g)
	}
	ask["units"] = fields{"hardness": "°dH"}
	var asked Grid
	b.call("POST", "/api/grids", ask, 200, &asked)
	if deref(asked.Text) != "date,hardness °dH\n2025-06-13,12.5\n" || asked.Ours {
		t.Errorf("with its unit: %+v", asked)
	}
	ask["units"] = fields{"hardness": "bushels"}
	b.call("POST", "/api/grids", ask, 422, nil)
}
