package api

import (
	"bytes"
	"encoding/json"
	"maps"
	"net/http/httptest"
	"slices"
	"strings"
	"testing"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/getkin/kin-openapi/openapi3filter"
	"github.com/getkin/kin-openapi/routers/gorillamux"

	"freshanvil/core/job"
	"freshanvil/core/task"
)

// ruled are the schemas that say rules between their fields.
func ruled() (names []string) {
	for name, s := range docOnce().Components.Schemas {
		if len(s.Value.AllOf) > 0 {
			names = append(names, name)
		}
	}
	slices.Sort(names)
	return names
}

// The rules between fields stand in the contract for whoever writes to it, and in core, which has the better words: the
// two take and refuse the same. Each rule is tried with bodies that keep it and bodies that break it.
func TestRulesBetweenFields(t *testing.T) {
	b := newBench(t)
	router, err := gorillamux.NewRouter(docOnce())
	if err != nil {
		t.Fatal(err)
	}
	source, machine := newID(), b.add(home())
	b.call("POST", "/api/waters", fields{"id": source, "name": "Harbour"}, 201, nil)
	l := b.start(machine)
	press := func(more fields) fields {
		f := fields{"id": newID(), "device": "phone", "step": "none", "segment": 0, "at": b.now}
		maps.Copy(f, more)
		return f
	}
	preview := func(hardness fields) fields {
		a := fields{"layout": "hx_home", "valve": "yes", "drinks_per_day": 4, "milk_drinks_per_day": 1, "treatment": "none",
			"hardness": hardness}
		return fields{"answers": a, "zone": "Europe/Lisbon"}
	}
	reading := func(sample fields) fields {
		return fields{"id": newID(), "taken": b.now, "how": "drops", "sample": sample}
	}
	with := func(base fields, more ...any) fields {
		f := maps.Clone(base)
		for i := 0; i < len(more); i += 2 {
			if f[more[i].(string)] = more[i+1]; more[i+1] == nil {
				delete(f, more[i].(string))
			}
		}
		return f
	}
	ph, hard := fields{"value": 7.5}, fields{"value": 10, "unit": "dh"}
	sealed := fields{"on": false, "host": "", "port": 0, "security": "tls", "user": "", "from": "", "to": ""}
	quiet := fields{"mail": sealed, "webhook": fields{"on": false, "url": ""}, "quiet_from": "", "quiet_to": "",
		"zone": "Europe/Lisbon", "address": ""}
	jug := fields{"kind": "jug", "rated_l": 100, "rating_mg_l": 178, "takes": 0.6, "days": 30, "price": 7, "litre": 0,
		"minutes": 3}
	powder := func(grams float64, form string, litre float64) fields {
		return fields{"id": "own", "name": "Own", "form": form, "a_litre": litre,
			"parts": []fields{{"acid": "citric", "grams": grams}}}
	}
	circuit := fields{"title": "boiler", "litre": 0.3, "count": 1}
	tube, element := fields{"surface": "tube", "litres_a_day": 1, "ccpp_mg_l": ph},
		fields{"surface": "element", "litres_a_day": 1, "heater_w": 1000, "ccpp_mg_l": ph}
	strip := fields{"ph": 7}
	cases := []struct {
		schema, method, path string
		keep, breaks         []fields
	}{
		{"HardnessAnswer", "POST", "/preview",
			[]fields{preview(fields{"known": false}), preview(fields{"known": true, "value": 112, "unit": "dh"})},
			[]fields{preview(fields{"known": true}), preview(fields{"known": true, "value": 5}),
				preview(fields{"known": true, "value": 113, "unit": "dh"}),
				preview(fields{"known": true, "value": 21, "unit": "mmol_l"})}},
		{"ReadingIn", "POST", "/calc/water",
			[]fields{{"sample": fields{"ph": ph}}, {"sample": fields{"ph": fields{"low": 7, "high": 8}}},
				{"sample": fields{"ph": fields{"text": "7,4"}}}},
			[]fields{{"sample": fields{"ph": fields{}}}, {"sample": fields{"ph": fields{"low": 7}}},
				{"sample": fields{"ph": fields{"low": 7, "high": 8, "value": 7}}},
				{"sample": fields{"ph": fields{"text": "7", "high": 8}}}}},
		{"UnitReadingIn", "POST", "/calc/water",
			[]fields{{"sample": fields{"hardness": hard}}},
			[]fields{{"sample": fields{"hardness": fields{"unit": "dh"}}},
				{"sample": fields{"hardness": fields{"unit": "dh", "value": 5, "low": 2}}}}},
		{"WaterSample", "POST", "/calc/water",
			[]fields{{"sample": fields{"pads": 2}}, {"sample": fields{}}},
			[]fields{{"sample": fields{"pads": 2, "hardness": hard}}}},
		{"NewReading", "POST", "/waters/" + source + "/readings",
			[]fields{reading(fields{"ph": ph})}, []fields{reading(fields{})}},
		{"CalcAcid", "POST", "/calc/acid",
			[]fields{{"acid": "citric", "acid_g_l": 20, "ph": 3}, {"acid": "citric", "acid_g_l": 20, "caco3_dissolved_g_l": 2}},
			[]fields{{"acid": "citric", "acid_g_l": 20},
				{"acid": "citric", "acid_g_l": 20, "ph": 3, "caco3_dissolved_g_l": 2}}},
		{"CalcBoiler", "POST", "/calc/boiler",
			[]fields{{"gauge_bar": 1.2}, {"gauge_bar": 1.2, "milk_g": 150}, {"boiler_l": 1}, {"steam_l_day": 1, "cycles": 4}},
			[]fields{{}, {"milk_to_c": nil}, {"steam_l_day": 1}, {"boiler_l": 1, "milk_g": 150}}},
		{"CalcCooling", "POST", "/calc/cooling",
			[]fields{{"from_c": 120, "litre": 1}, {"from_c": 120, "tau_h": 2}, {"from_c": 120, "readings": []fields{
				{"after_h": 0, "c": 100}, {"after_h": 1, "c": 70}}}},
			[]fields{{"from_c": 120}}},
		{"CalcDescale", "POST", "/calc/descale",
			[]fields{{"layout": "single_boiler"}, {"circuits": []fields{circuit}}},
			[]fields{{}, {"layout": "hx_home", "circuits": []fields{circuit}}, {"circuits": []fields{}}}},
		{"CalcScale", "POST", "/calc/scale",
			[]fields{tube, element, with(tube, "ccpp_mg_l", nil, "feed_mg_l_caco3", ph, "left_mg_l_caco3", ph)},
			[]fields{with(element, "heater_w", nil), with(tube, "ccpp_mg_l", nil), with(tube, "feed_mg_l_caco3", ph),
				with(tube, "ccpp_mg_l", nil, "feed_mg_l_caco3", ph)}},
		{"CalcRinse", "POST", "/calc/rinse",
			[]fields{{"litre": 1}, {"litre": 1, "heel": 0.1, "refills": 3}},
			[]fields{{"litre": 1, "refills": 3}}},
		{"NewReminders", "PUT", "/reminders",
			[]fields{quiet, with(quiet, "quiet_from", "22:00", "quiet_to", "07:00")},
			[]fields{with(quiet, "quiet_from", "22:00")}},
		{"Press", "POST", "/runs/" + l.id + "/presses",
			[]fields{press(fields{"kind": "hold"}), press(fields{"kind": "measured", "strip": strip}),
				press(fields{"kind": "away", "minutes": 5})},
			[]fields{press(fields{"kind": "reading"}), press(fields{"kind": "measured"}), press(fields{"kind": "graded"}),
				press(fields{"kind": "heard"}), press(fields{"kind": "mended"}), press(fields{"kind": "away"})}},
		{"Product", "POST", "/products",
			[]fields{powder(0.9, "powder", 30), powder(20, "sachets", 1)},
			[]fields{powder(1.1, "powder", 30), powder(2, "liquid", 30)}},
		{"TreatmentSetting", "PUT", "/treatments",
			[]fields{jug, {"kind": "none", "price": 0, "litre": 0, "minutes": 0}},
			[]fields{with(jug, "rated_l", nil), with(jug, "pass", 0.1), with(jug, "loose", true), with(jug, "takes", 0.01),
				{"kind": "bottled", "price": 0, "litre": 0, "minutes": 0, "bypass": 0.1}}},
	}
	for _, c := range cases {
		t.Run(c.schema, func(t *testing.T) {
			b.t = t
			for i, body := range append(slices.Clone(c.keep), c.breaks...) {
				raw, err := json.Marshal(body)
				if err != nil {
					t.Fatal(err)
				}
				req := httptest.NewRequest(c.method, "http://localhost/api"+c.path, bytes.NewReader(raw))
				req.Header.Set("Content-Type", "application/json")
				route, params, err := router.FindRoute(req)
				if err != nil {
					t.Fatal(err)
				}
				says := openapi3filter.ValidateRequest(t.Context(), &openapi3filter.RequestValidationInput{Request: req,
					PathParams: params, Route: route})
				if keeps := i < len(c.keep); keeps != (says == nil) {
					t.Errorf("%s, which keeps the rule: %v, to the contract: %v", raw, keeps, says)
				}
				answer := b.raw(c.method, "/api"+c.path, string(raw))
				var p Problem
				_ = json.Unmarshal(answer.Body.Bytes(), &p)
				switch {
				case says == nil && answer.Code >= 300:
					t.Errorf("%s keeps the contract, and is answered %d: %s", raw, answer.Code, answer.Body)
				case says != nil && (answer.Code != 422 || deref(p.Field) == "" || strings.HasPrefix(deref(p.Allowed), "a value")):
					t.Errorf("%s is against the contract, and is answered %d: %s", raw, answer.Code, answer.Body)
				}
			}
		})
	}
	var tried []string
	for _, c := range cases {
		tried = append(tried, c.schema)
	}
	slices.Sort(tried)
	if has := ruled(); !slices.Equal(has, tried) {
		t.Errorf("rules of %v, tried %v", has, tried)
	}
}

// What may be put on record by hand is the same in the contract and in core.
func TestRecordedTasks(t *testing.T) {
	b := newBench(t)
	machine := b.add(home())
	may := docOnce().Components.Schemas["RecordedTask"].Value.Enum
	for _, one := range docOnce().Components.Schemas["Task"].Value.Enum {
		part := "group-1"
		var p Problem
		got := b.raw("POST", "/api/machines/"+machine+"/care", `{"id":"`+newID()+`","task":"`+one.(string)+
			`","parts":["`+part+`"],"at":"`+b.now.Format("2006-01-02T15:04:05Z07:00")+`"}`)
		_ = json.Unmarshal(got.Body.Bytes(), &p)
		if refused := deref(p.Field) == "task"; refused == slices.Contains(may, one) {
			t.Errorf("%s: %d %s", one, got.Code, got.Body)
		}
	}
}

// A limit counts signs, not what they are written as in an address.
func TestLimitsCountSigns(t *testing.T) {
	b := newBench(t)
	for signs, status := range map[int]int{64: 200, 65: 422} {
		id := strings.Repeat("%C3%A9", signs)
		if got := b.raw("DELETE", "/api/products/"+id, ""); got.Code != status {
			t.Errorf("%d signs in the path: %d %s", signs, got.Code, got.Body)
		}
	}
	for signs, status := range map[int]int{80: 200, 81: 422} {
		if got := b.raw("GET", "/api/log?text="+strings.Repeat("%C3%A9", signs), ""); got.Code != status {
			t.Errorf("%d signs in the query: %d %s", signs, got.Code, got.Body)
		}
	}
	odd := fields{"id": "é ü", "name": "Harbour", "form": "powder", "a_litre": 30,
		"parts": []fields{{"acid": "citric", "grams": 1}}}
	var all Products
	b.call("POST", "/api/products", odd, 201, &all)
	if b.call("DELETE", "/api/products/%C3%A9%20%C3%BC", nil, 200, &all); len(all.Own) != 0 {
		t.Errorf("%+v", all.Own)
	}
}

// A task that comes to the table is in the lists of the contract: those with a date may be put on record by hand, those
// that are led may be begun.
func TestTheContractListsTheTable(t *testing.T) {
	enum := func(s *openapi3.SchemaRef) (list []string) {
		for _, v := range s.Value.Enum {
			list = append(list, v.(string))
		}
		slices.Sort(list)
		return list
	}
	table := func(holds func(task.Row) bool) (list []string) {
		for _, id := range task.Where(holds) {
			list = append(list, string(id))
		}
		slices.Sort(list)
		return list
	}
	schemas := docOnce().Components.Schemas
	for _, c := range []struct {
		name      string
		has, want []string
	}{
		{"Task", enum(schemas["Task"]), table(func(task.Row) bool { return true })},
		{"RecordedTask", enum(schemas["RecordedTask"]), table(func(r task.Row) bool {
			return r.Way != task.Small && len(r.Clocks) > 0
		})},
		{"NewRun.task", enum(schemas["NewRun"].Value.Properties["task"]), table(func(r task.Row) bool {
			rinses := r.ID == task.Rinse || r.ID == task.AcidRinse // begun by what is left inside
			return !rinses && (r.Way == task.Led || r.Way == task.Planned || job.Tends(r.ID))
		})},
	} {
		if !slices.Equal(c.has, c.want) {
			t.Errorf("%s lists\n%v\nthe table has\n%v", c.name, c.has, c.want)
		}
	}
}
