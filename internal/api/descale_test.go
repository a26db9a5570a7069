package api

import (
	"math"
	"strings"
	"testing"

	"freshanvil/core/reason"
)

// A card is traced to its inputs: every circuit is filled, the verdict stands on top,
// the rinse and the time it may be opened are said; what is not known of the boiler is
// taken as the worst. A machine that is not cleared has no card at all.
func TestDescaleCards(t *testing.T) {
	b := newBench(t)
	for _, c := range []struct {
		name, layout, material string
		strength               float64 // g/L; 0: no card
		way                    string
	}{
		{"what it is made of is not said", "thermoblock", "", 20, "at_home"},
		{"stainless", "single_boiler", "stainless", 30, "at_home"},
		{"aluminium", "thermoblock", "aluminium", 20, "with_care"},
		{"a heat exchanger", "hx_home", "stainless", 0, "workshop"},
		{"a dual boiler", "dual_home", "stainless", 0, "workshop"},
		{"a trade machine", "hx_cafe", "stainless", 0, "workshop"},
	} {
		t.Run(c.name, func(t *testing.T) {
			b.t = t
			id := b.add(with("layout", c.layout))
			if c.material != "" {
				b.knows(id, "brew_material", c.material)
			}
			var d MachineDescale
			b.call("GET", "/api/machines/"+id+"/descale", nil, 200, &d)
			if string(d.Way) != c.way || !d.OpensAt.After(b.now) {
				t.Errorf("%s, opens at %v", d.Way, d.OpensAt)
			}
			// where pushing heats, it begins colder than it is opened
			if below := map[bool]float64{true: 30, false: 45}[d.Plan != nil]; d.OpensBelowC != below {
				t.Errorf("it begins below %v °C, want %v", d.OpensBelowC, below)
			}
			if c.strength == 0 {
				if d.Card != nil || d.Plan != nil || len(d.Programs) != 0 || len(d.Instead) == 0 ||
					d.Verdict.Verdict != reason.Refused || len(d.Verdict.Because) == 0 {
					t.Errorf("a card for what is not led: %+v, %+v", d.Card, d.Verdict)
				}
				return
			}
			if d.Card == nil || d.Card.StrengthGL != c.strength || len(d.Card.Needs) != 1 || len(d.Card.Cautions) < 4 {
				t.Fatalf("%+v", d.Card)
			}
			said := !strings.Contains(d.Card.Findings[0].Title, "is not said: taken as aluminium")
			if said != (c.material != "") {
				t.Errorf("found %+v", d.Card.Findings)
			}
			if math.Abs(d.Card.Solution.Value*d.Card.ALitre.Value-d.Card.Measure.Value) > 1e-6 {
				t.Errorf("%v L in all, %v measured out", d.Card.Solution.Value, d.Card.Measure.Value)
			}
			if d.Plan == nil {
				t.Fatalf("no plan: %+v", d.Unready)
			}
			if p := d.Plan; p.ContactMin > p.ContactMostMin || len(p.LayOut) < 3 || p.Cleared == nil ||
				!p.EndsAt.After(b.now) || len(p.Circuits) == 0 || p.Solution.Value != d.Card.Solution.Value {
				t.Errorf("%+v", p)
			}
		})
	}
	b.t = t
	id := b.add(with("layout", "single_boiler"))
	b.knows(id, "brew_material", "aluminium")
	var d MachineDescale
	b.call("GET", "/api/machines/"+id+"/descale?product=sulfamic", nil, 200, &d)
	if d.Card != nil || d.Refused == nil || !strings.Contains(d.Refused.Title, "aluminium") {
		t.Errorf("sulfamic on aluminium: %+v", d.Refused)
	}
	var p Problem
	b.call("GET", "/api/machines/"+id+"/descale?product=lemonade", nil, 422, &p)
	if *p.Field != "product" {
		t.Errorf("%+v", p)
	}
}

// The calculators answer as core does; each refuses what cannot be.
func TestDescaleCalculators(t *testing.T) {
	b := newBench(t)
	var acid AcidAnswers
	b.call("POST", "/api/calc/acid", fields{"acid": "citric", "acid_g_l": 30, "caco3_dissolved_g_l": 0}, 200, &acid)
	if math.Abs(acid.FreshPh-1.98) > 0.01 || acid.SiCalciumCitrate != nil || math.Abs(*acid.CloudyGL-6.5) > 0.2 {
		t.Errorf("%+v", acid)
	}
	b.call("POST", "/api/calc/acid", fields{"acid": "citric", "acid_g_l": 30, "ph": 2.7}, 200, &acid)
	if math.Abs(acid.Caco3DissolvedGL-2.8) > 0.1 {
		t.Errorf("%+v", acid)
	}
	var card DescaleCard
	b.call(
		"POST",
		"/api/calc/descale",
		fields{
			"strength_g_l": 30,
			"circuits":     []fields{{"title": "boiler", "count": 1, "litre": 2, "heel": 0.1, "grams": 5}},
		},
		200,
		&card,
	)
	if card.Solution.Value < 1.8 || card.Ounces == nil || math.Abs(card.Ounces.Value-32) > 0.1 {
		t.Errorf("%+v", card.Solution)
	}
	var rinse RinseAnswers
	b.call(
		"POST",
		"/api/calc/rinse",
		fields{"litre": 1.8, "flushed_l": 2.84, "feed_ph": 7.4, "strip_ph": 5},
		200,
		&rinse,
	)
	if rinse.Left < 0.2 || *rinse.Matches || *rinse.MoreFlushL < 4 {
		t.Errorf("%+v", rinse)
	}
	var cool CoolingAnswers
	b.call("POST", "/api/calc/cooling", fields{"from_c": 125, "litre": 1}, 200, &cool)
	if math.Abs(cool.Opens.Value-4) > 0.1 || len(cool.Touch) != 3 || cool.Touch[2].AfterH < cool.Opens.Value {
		t.Errorf("%+v", cool)
	}
	b.call(
		"POST",
		"/api/calc/cooling",
		fields{"from_c": 120, "air_c": 20, "readings": []fields{{"after_h": 1, "c": 100}, {"after_h": 3, "c": 70}}},
		200,
		&cool,
	)
	if math.Abs(cool.TauH-2/math.Log(80.0/50)) > 1e-6 {
		t.Errorf("calibrated: %v h", cool.TauH)
	}
	var p Problem
	for field, c := range map[string]struct {
		path string
		body fields
	}{
		"acid":                {"acid", fields{"acid": "hydrochloric", "acid_g_l": 30, "ph": 3}},
		"acid_g_l":            {"acid", fields{"acid": "citric", "acid_g_l": 0, "ph": 3}},
		"acid_g_l ":           {"acid", fields{"acid": "citric", "acid_g_l": 500, "ph": 3}},
		"caco3_dissolved_g_l": {"acid", fields{"acid": "citric", "acid_g_l": 30}},
		"litre":               {"descale", fields{"circuits": []fields{{"title": "boiler", "count": 1, "litre": 0}}}},
		"product": {"descale",
			fields{"product": "sulfamic", "layout": "single_boiler", "materials": []string{"aluminium"}}},
		"product ": {"descale", fields{"product": "lemonade", "layout": "single_boiler"}},
		"circuits": {"descale", fields{}},
		"litre ":   {"rinse", fields{"litre": -1}},
		"from_c":   {"cooling", fields{"from_c": 500, "litre": 1}},
		"litre  ":  {"cooling", fields{"from_c": 90}},
		"litres":   {"spent", fields{"acid": "citric", "acid_g_l": 30, "ph": 3, "litres": 0}},
	} {
		b.call("POST", "/api/calc/"+c.path, c.body, 422, &p)
		if p.Field == nil || !strings.HasSuffix(*p.Field, strings.TrimSpace(field)) {
			t.Errorf("%s %v: %+v", c.path, c.body, p)
		}
	}
}

// What a spent solution says moves the share, and with it the date; taken back, both
// are as before. A product of one's own is used like any other.
func TestSpentSolutionMovesTheDate(t *testing.T) {
	b := newBench(t)
	id := b.addSteel()
	b.now = b.now.AddDate(0, 0, 50)
	before := b.water(id)
	spent := newID()
	var out SpentAnswers
	b.call(
		"POST",
		"/api/machines/"+id+"/spent",
		fields{
			"id":      spent,
			"reading": fields{"acid": "citric", "acid_g_l": 30, "ph": 2.0, "litres": 1, "strip": false},
		},
		201,
		&out,
	)
	if out.Share == nil || out.Share.Value >= 1 || *out.PredictedG <= 0 {
		t.Fatalf("%+v", out)
	}
	after := b.water(id)
	if !(after.ByScale.Value > before.ByScale.Value) || !(after.Table[0].Scale.Value < before.Table[0].Scale.Value) {
		t.Errorf("less was there than predicted: %v days, before %v", after.ByScale.Value, before.ByScale.Value)
	}
	var cloudy SpentAnswers
	b.call(
		"POST",
		"/api/machines/"+id+"/spent",
		fields{
			"id": newID(),
			"reading": fields{
				"acid":     "citric",
				"acid_g_l": 30,
				"ph":       2.0,
				"litres":   1,
				"strip":    false,
				"cloudy":   true,
			},
		},
		201,
		&cloudy,
	)
	if !cloudy.AtLeast || cloudy.Share != nil || b.water(id).ByScale.Value != after.ByScale.Value {
		t.Errorf("a lower bound taught that there was less: %+v", cloudy)
	}
	fresh := b.addSteel()
	b.call(
		"POST",
		"/api/machines",
		fields{"id": newID(), "name": "Loaner", "zone": "Europe/Lisbon", "answers": with("layout", "single_boiler")},
		201,
		nil,
	)
	var bench Bench
	b.call("GET", "/api/bench", nil, 200, &bench)
	for _, m := range bench.Machines {
		if m.Name != "Loaner" {
			continue
		}
		b.knows(m.Id, "brew_material", "stainless")
		var known, unknown MachineDescale
		b.call("GET", "/api/machines/"+fresh+"/descale", nil, 200, &known)
		b.call("GET", "/api/machines/"+m.Id+"/descale", nil, 200, &unknown)
		if unknown.Card.Measure.Value <= known.Card.Measure.Value ||
			unknown.Card.Findings[0].Title != "No descale is on record" {
			t.Errorf(
				"nothing on record asks for %v, just descaled %v",
				unknown.Card.Measure.Value,
				known.Card.Measure.Value,
			)
		}
	}
	var share ShareNow
	b.call("DELETE", "/api/machines/"+id+"/spent/"+spent, nil, 200, &share)
	if again := b.water(id); share.Share != 1 || again.ByScale.Value != before.ByScale.Value {
		t.Errorf("taken back: %v, %v days", share.Share, again.ByScale.Value)
	}
	b.call("DELETE", "/api/machines/"+id+"/spent/"+spent, nil, 200, nil)
	own := fields{
		"id":      "harbour",
		"name":    "harbour mix",
		"form":    "liquid",
		"parts":   []fields{{"acid": "lactic", "grams": 0.3}},
		"a_litre": 100,
	}
	var all Products
	b.call("POST", "/api/products", own, 201, &all)
	if len(all.Own) != 1 || len(all.Generic) < 7 {
		t.Errorf("%+v", all.Own)
	}
	var d MachineDescale
	b.call("GET", "/api/machines/"+id+"/descale?product=harbour", nil, 200, &d)
	if d.Card == nil || d.Card.StrengthGL != 30 || d.Card.Measure.Unit != "mL" || d.Card.CloudyGL != nil {
		t.Errorf("%+v", d.Card)
	}
	own["a_litre"] = 0
	b.call("POST", "/api/products", own, 422, nil)
	own["a_litre"], own["id"] = 100, "citric"
	b.call("POST", "/api/products", own, 422, nil)
	b.call("DELETE", "/api/products/harbour", nil, 200, &all)
	b.call("DELETE", "/api/products/harbour", nil, 200, &all)
}
