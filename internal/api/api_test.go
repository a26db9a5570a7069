package api

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"maps"
	"net/http"
	"net/http/httptest"
	"path/filepath"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/getkin/kin-openapi/openapi3filter"
	"github.com/getkin/kin-openapi/routers"
	"github.com/getkin/kin-openapi/routers/gorillamux"
	"github.com/google/uuid"

	"freshanvil/core/task"
	"freshanvil/internal/app"
	"freshanvil/internal/post"
)

// bench is a server with a clock the test moves, whose every answer is held
// against the contract.
type bench struct {
	t      testing.TB
	handle http.Handler
	app    *app.App
	file   string
	router routers.Router
	now    time.Time
}

func newBench(t testing.TB, stop ...context.Context) *bench {
	t.Helper()
	file, now := filepath.Join(t.TempDir(), "test.db"), time.Date(2026, 3, 10, 7, 0, 0, 0, time.UTC)
	doc, err := openapi3.NewLoader().LoadFromData(contract)
	if err != nil {
		t.Fatal(err)
	}
	if err := doc.Validate(context.Background()); err != nil {
		t.Fatal(err)
	}
	router, err := gorillamux.NewRouter(doc)
	if err != nil {
		t.Fatal(err)
	}
	b := &bench{t: t, file: file, router: router, now: now}
	b.open(stop...)
	t.Cleanup(func() { _ = b.app.Close() })
	return b
}

// open serves the file of the bench.
func (b *bench) open(stop ...context.Context) {
	b.t.Helper()
	var err error
	if b.app, err = app.Open(context.Background(), b.file, func() time.Time { return b.now }); err != nil {
		b.t.Fatal(err)
	}
	pages := fstest.MapFS{
		"index.html":  {Data: []byte("<!doctype html><title>Fresh Anvil</title>")},
		"assets/a.js": {Data: []byte("1")},
	}
	cfg := Config{
		App:   b.app,
		Pages: pages,
		Post:  post.Post{},
		Log:   slog.New(slog.NewTextHandler(io.Discard, nil)),
		Speed: 1,
	}
	if len(stop) > 0 {
		cfg.Stop = stop[0]
	}
	if b.handle, err = New(cfg); err != nil {
		b.t.Fatal(err)
	}
}

// asEdit names the version that an edit is made from, as a page does that has just read it.
func (b *bench) asEdit(method, path string, body any) any {
	b.t.Helper()
	of, edit := strings.CutPrefix(path, "/api/machines/")
	id, what, _ := strings.Cut(of, "/")
	given, plain := body.(fields)
	if !edit || method != "POST" || !plain || given["version"] != nil {
		return body
	}
	version := func() int {
		m, err := b.app.Find(context.Background(), id)
		if err != nil {
			return 1
		}
		return m.Version
	}
	with := maps.Clone(given)
	switch what {
	case "answers":
		return fields{"version": version(), "answers": given}
	case "facts", "details":
		with["version"] = version()
	case "care":
		if part, one := given["part"]; one {
			delete(with, "part")
			with["parts"] = []any{part}
		}
	}
	return with
}

// reopen serves it anew, as after a restart.
func (b *bench) reopen() {
	b.t.Helper()
	if err := b.app.Close(); err != nil {
		b.t.Fatal(err)
	}
	b.open()
}

func (b *bench) raw(method, path, body string) *httptest.ResponseRecorder {
	b.t.Helper()
	req := httptest.NewRequest(method, "http://localhost"+path, strings.NewReader(body))
	if body != "" {
		req.Header.Set("Content-Type", "application/json")
	}
	rec := httptest.NewRecorder()
	b.handle.ServeHTTP(rec, req)
	route, params, err := b.router.FindRoute(req)
	if err != nil {
		return rec // outside the contract
	}
	in := &openapi3filter.RequestValidationInput{Request: req, PathParams: params, Route: route}
	err = openapi3filter.ValidateResponse(context.Background(), &openapi3filter.ResponseValidationInput{
		RequestValidationInput: in, Status: rec.Code, Header: rec.Header(),
		Body: io.NopCloser(bytes.NewReader(rec.Body.Bytes())),
	})
	if err != nil {
		b.t.Errorf("%s %s answers %d against the contract: %v", method, path, rec.Code, err)
	}
	var p Problem
	if rec.Code >= 400 && json.Unmarshal(rec.Body.Bytes(), &p) == nil && p.Code != "http" {
		if as, _ := listed(b.t)[p.Code].(map[string]any); as == nil || as["status"] != float64(rec.Code) {
			b.t.Errorf("%s %s answers %d %s, listed as %v", method, path, rec.Code, p.Code, as)
		}
	}
	return rec
}

// call sends a body and reads the answer, which must have the status.
func (b *bench) call(method, path string, body any, status int, into any) {
	b.t.Helper()
	text := ""
	if body != nil {
		raw, err := json.Marshal(b.asEdit(method, path, body))
		if err != nil {
			b.t.Fatal(err)
		}
		text = string(raw)
	}
	rec := b.raw(method, path, text)
	if rec.Code != status {
		b.t.Fatalf("%s %s: %d, want %d: %s", method, path, rec.Code, status, rec.Body)
	}
	if into != nil {
		if err := json.Unmarshal(rec.Body.Bytes(), into); err != nil {
			b.t.Fatal(err)
		}
	}
}

type fields = map[string]any

func newID() string { return uuid.Must(uuid.NewV7()).String() }

func home() fields {
	return fields{
		"layout":              "dual_home",
		"valve":               "yes",
		"drinks_per_day":      4,
		"milk_drinks_per_day": 2,
		"hardness":            fields{"known": true, "value": 14, "unit": "dh"},
		"treatment":           "none",
	}
}

// add keeps a machine that was descaled just now.
func (b *bench) add(answers fields) string {
	b.t.Helper()
	id := newID()
	b.call(
		"POST",
		"/api/machines",
		fields{"id": id, "name": "Tea deck", "zone": "Europe/Lisbon", "answers": answers},
		201,
		nil,
	)
	b.call(
		"POST",
		"/api/machines/"+id+"/care",
		fields{"id": newID(), "task": "descale", "part": "machine", "at": b.now},
		201,
		nil,
	)
	return id
}

// with is a home machine with some answers of its own.
func with(key string, value any, more ...any) fields {
	a := home()
	a[key] = value
	for i := 0; i < len(more); i += 2 {
		a[more[i].(string)] = more[i+1]
	}
	return a
}

// asked are answers as a preview takes them.
func asked(answers fields) fields { return fields{"answers": answers, "zone": "UTC"} }

func askedWith(key string, value any) fields { return asked(with(key, value)) }

// knows has a machine's facts said, key after value.
func (b *bench) knows(machine string, pairs ...string) {
	b.t.Helper()
	var list []fields
	for i := 0; i < len(pairs); i += 2 {
		list = append(list, fields{"key": pairs[i], "value": pairs[i+1]})
	}
	b.call("POST", "/api/machines/"+machine+"/facts", fields{"facts": list}, 200, nil)
}

// addSteel keeps a small machine whose stainless boiler is pushed through, descaled just now.
func (b *bench) addSteel(more ...any) string {
	b.t.Helper()
	id := b.add(with("layout", "single_boiler", more...))
	b.knows(id, "brew_material", "stainless")
	return id
}

// washDue is the wash of the first machine's first group, with how it came about.
func (b *bench) washDue() Due {
	b.t.Helper()
	var m Machine
	b.call("GET", "/api/machines/"+b.first().Id, nil, 200, &m)
	for _, d := range m.Plan.Dues {
		if d.Task == task.Wash {
			return d
		}
	}
	b.t.Fatal("no wash is due")
	return Due{}
}

func (b *bench) first() BenchMachine {
	b.t.Helper()
	var out Bench
	b.call("GET", "/api/bench", nil, 200, &out)
	if len(out.Machines) == 0 {
		b.t.Fatal("the bench is empty")
	}
	return out.Machines[0]
}

func TestPreviewWritesNothing(t *testing.T) {
	b := newBench(t)
	var p MachinePlan
	b.call("POST", "/api/preview", asked(home()), 200, &p)
	if p.Wash == nil || p.Wash.Dose.Mass.Value != 3 || p.Wash.Rinse.Value != 5 || len(p.Hardness.Units) != 6 ||
		p.Hardness.Usgs.Likely != "very hard" ||
		p.Hardness.Wrmg.Likely != "medium" {
		t.Errorf("%+v", p)
	}
	if len(p.Dues) < 12 || !p.Dues[0].Likely.After(b.now) || len(p.Assumptions) < 12 || p.Descaling == "" {
		t.Errorf("dues %+v, %d assumptions", p.Dues, len(p.Assumptions))
	}
	var out Bench
	b.call("GET", "/api/bench", nil, 200, &out)
	if len(out.Machines) != 0 {
		t.Error("a preview was kept")
	}
}

// TestPreviewSaysAllThree: wash, descale and filter, each with a date or the reason for none; the dose of the
// first descale only where its plan is cleared, and what has to be said first where it is not.
func TestPreviewSaysAllThree(t *testing.T) {
	b := newBench(t)
	var p MachinePlan
	b.call("POST", "/api/preview", askedWith("layout", "thermoblock"), 200, &p)
	first := *p.First
	if len(first) != 3 || first[0].Due == nil || first[1].Due == nil || first[2].None == nil {
		t.Fatalf("%+v", first)
	}
	if !first[0].Due.Likely.After(b.now) || !first[1].Due.Likely.After(first[0].Due.Likely) {
		t.Errorf("washed %s, descaled %s", first[0].Due.Likely, first[1].Due.Likely)
	}
	if p.FirstDose.Measure == nil || p.FirstDose.Measure.Value <= 0 {
		t.Errorf("no dose: %+v", p.FirstDose)
	}
	var dual MachinePlan
	b.call("POST", "/api/preview", asked(with("treatment", "in_tank")), 200, &dual)
	if list := *dual.First; list[2].Due == nil || !list[2].Due.Likely.After(b.now) {
		t.Errorf("a filter in the tank: %+v", list[2])
	}
	if d := dual.FirstDose; d.Measure != nil || d.None == nil || len(d.Asks) == 0 {
		t.Errorf("heaters that nobody told of, and yet a dose: %+v", d)
	}
	var used MachinePlan
	body := asked(home())
	body["used"] = true
	b.call("POST", "/api/preview", body, 200, &used)
	if list := *used.First; list[0].Due.State != DueStateUnrecorded && !list[0].Due.Now {
		t.Errorf("used before, nothing known: %+v", list[0].Due)
	}
	was := b.now.AddDate(0, 0, -5)
	body["before"] = []fields{{"task": "wash", "part": "group-1", "at": was}}
	b.call("POST", "/api/preview", body, 200, &used)
	if list := *used.First; list[0].Due.Last == nil || !list[0].Due.Last.Equal(was) {
		t.Errorf("washed five days ago: %+v", list[0].Due)
	}
}

// TestLayouts: each has what it is told by, and a drawing.
func TestLayouts(t *testing.T) {
	b := newBench(t)
	var l Layouts
	b.call("GET", "/api/layouts", nil, 200, &l)
	if len(l.Layouts) != 8 {
		t.Fatalf("%d layouts", len(l.Layouts))
	}
	for _, x := range l.Layouts {
		if x.Sees == "" || x.Hears == "" || x.Scheme.Groups < 1 || !x.Valve.Valid() || !x.Scheme.Brews.Valid() {
			t.Errorf("%+v", x)
		}
	}
}

// Bad input gives a problem with field, value and what is allowed, and writes
// nothing.
func TestBadInput(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	nobody := newID()
	for _, c := range []struct {
		name, method, path string
		body               any
		status             int
		field, value       string
	}{
		{"unknown unit", "POST", "/api/preview", askedWith("hardness", fields{"known": true, "value": 5, "unit": "furlongs"}),
			422, "answers.hardness.unit", "furlongs"},
		{"10,000 drinks", "POST", "/api/preview", askedWith("drinks_per_day", 10000), 422, "answers.drinks_per_day", "10000"},
		{"negative drinks", "POST", "/api/preview", askedWith("drinks_per_day", -1), 422, "answers.drinks_per_day", "-1"},
		{"more milk than drinks", "POST", "/api/preview", askedWith("milk_drinks_per_day", 9), 422,
			"answers.milk_drinks_per_day", "9"},
		{"negative hardness", "POST", "/api/preview", askedWith("hardness", fields{"known": true, "value": -3, "unit": "dh"}),
			422, "answers.hardness.value", "-3"},
		{"hardness of brine", "POST", "/api/preview",
			askedWith("hardness", fields{"known": true, "value": 200, "unit": "dh"}),
			422, "answers.hardness.value", "200"},
		{"a reading without a number", "POST", "/api/preview",
			askedWith("hardness", fields{"known": true, "unit": "dh"}), 422,
			"answers.hardness.value", "nothing"},
		{"a reading without a unit", "POST", "/api/preview", askedWith("hardness", fields{"known": true, "value": 3}), 422,
			"answers.hardness.unit", "nothing"},
		{"unknown layout", "POST", "/api/preview", askedWith("layout", "samovar"), 422, "answers.layout", "samovar"},
		{"manual lever with a valve", "POST", "/api/preview", askedWith("layout", "lever_manual"), 422,
			"answers.valve", "yes"},
		{"a field too many", "POST", "/api/preview", askedWith("colour", "red"), 422, "answers.colour", `red`},
		{"text for a number", "POST", "/api/preview", askedWith("drinks_per_day", "four"), 422,
			"answers.drinks_per_day", "four"},
		{"no treatment", "POST", "/api/preview",
			asked(fields{"layout": "dual_home", "valve": "yes", "drinks_per_day": 4, "milk_drinks_per_day": 2,
				"hardness": fields{"known": false}}), 422, "answers.treatment", "nothing"},
		{"machine without a zone", "POST", "/api/machines",
			fields{"id": newID(), "name": "x", "zone": "Nowhere/Land", "answers": home()}, 422, "zone", "Nowhere/Land"},
		{"machine with bad answers", "POST", "/api/machines",
			fields{"id": newID(), "name": "x", "zone": "UTC", "answers": with("milk_drinks_per_day", 9)}, 422,
			"answers.milk_drinks_per_day", "9"},
		{"machine without a name", "POST", "/api/machines",
			fields{"id": newID(), "name": "", "zone": "UTC", "answers": home()}, 422, "name", ""},
		{"an id that is none", "POST", "/api/machines",
			fields{"id": "seven", "name": "x", "zone": "UTC", "answers": home()}, 422, "id", "seven"},
		{"a machine that is not there", "GET", "/api/machines/" + nobody, nil, 404, "machine_id", nobody},
		{"a path that is no id", "GET", "/api/machines/seven", nil, 422, "machine_id", "seven"},
		{"a run on a machine that is not there", "POST", "/api/machines/" + nobody + "/runs",
			fields{"id": newID(), "device": "d", "parts": []string{"group-1"}, "method": "half_teaspoon"}, 404,
			"machine_id", nobody},
		{"a run on a group that is not there", "POST", "/api/machines/" + id + "/runs",
			fields{"id": newID(), "device": "d", "parts": []string{"group-2"}, "method": "half_teaspoon"}, 422, "parts",
			"group-2"},
		{"a run by no known method", "POST", "/api/machines/" + id + "/runs",
			fields{"id": newID(), "device": "d", "parts": []string{"group-1"}, "method": "fistful"}, 422, "method", "fistful"},
		{"a run that is not there", "GET", "/api/runs/" + nobody, nil, 404, "run_id", nobody},
		{"a press in a run that is not there", "POST", "/api/runs/" + nobody + "/presses",
			fields{"id": newID(), "device": "d", "step": "ready", "segment": 0, "kind": "done", "at": b.now}, 404, "run_id",
			nobody},
		{"care in the future", "POST", "/api/machines/" + id + "/care",
			fields{"id": newID(), "task": "wash", "part": "group-1", "at": "2027-01-01T00:00:00Z"}, 422, "at",
			"2027-01-01T00:00:00Z"},
		{"care of a group that is not there", "POST", "/api/machines/" + id + "/care",
			fields{"id": newID(), "task": "wash", "part": "group-3", "at": b.now}, 422, "part", "group-3"},
		{"care of no known kind", "POST", "/api/machines/" + id + "/care",
			fields{"id": newID(), "task": "blessing", "part": "group-1", "at": b.now}, 422, "task", "blessing"},
		{"use of no known kind", "POST", "/api/machines/" + id + "/use",
			fields{"id": newID(), "kind": "quadruple", "at": b.now}, 422, "kind", "quadruple"},
		{"use that undoes nothing", "POST", "/api/machines/" + id + "/use",
			fields{"id": newID(), "kind": "undo", "at": b.now}, 422, "supersedes", "nothing"},
		{"use in the future", "POST", "/api/machines/" + id + "/use",
			fields{"id": newID(), "kind": "double", "at": "2027-01-01T00:00:00Z"}, 422, "at", "2027-01-01T00:00:00Z"},
		{"use before living memory", "POST", "/api/machines/" + id + "/use",
			fields{"id": newID(), "kind": "double", "at": "1970-01-01T00:00:00Z"}, 422, "at", "1970-01-01T00:00:00Z"},
		{"care before living memory", "POST", "/api/machines/" + id + "/care",
			fields{"id": newID(), "task": "wash", "part": "group-1", "at": "1970-01-01T00:00:00Z"}, 422, "at",
			"1970-01-01T00:00:00Z"},
		{"a fact that is none", "POST", "/api/machines/" + id + "/facts",
			fields{"facts": []any{fields{"key": "wings", "value": "2"}}}, 422, "key", "wings"},
		{"a fact taken back that is none", "POST", "/api/machines/" + id + "/facts",
			fields{"facts": []any{fields{"key": "wings"}}}, 422, "key", "wings"},
		{"a good fact beside a bad one", "POST", "/api/machines/" + id + "/facts",
			fields{"facts": []any{fields{"key": "tray_l", "value": "2"}, fields{"key": "groups", "value": "90"}}}, 422,
			"groups", "90"},
		{"details without a name", "POST", "/api/machines/" + id + "/details",
			fields{"name": "", "owner": "", "place": "", "archived": false}, 422, "name", ""},
		{"a sign-off with nothing inside", "POST", "/api/machines/" + id + "/sign-offs",
			fields{"id": newID(), "part": "group-1", "name": "A. Tester", "note": "looked"}, 409, "part",
			"group-1"},
		{"a sign-off by nobody", "POST", "/api/machines/" + id + "/sign-offs",
			fields{"id": newID(), "part": "group-1", "name": "   ", "note": "looked"}, 422, "name", "   "},
		{"a tub that holds less than is in it", "POST", "/api/tubs",
			fields{"id": newID(), "form": "powder", "amount": 600, "holds": 500, "opened": "2026-01-01"}, 422, "amount", "600"},
		{"a tub opened in the future", "POST", "/api/tubs",
			fields{"id": newID(), "form": "powder", "amount": 400, "holds": 500, "opened": "2027-01-01"}, 422, "opened",
			"2027-01-01"},
		{"powder as heavy as lead", "POST", "/api/tubs",
			fields{"id": newID(), "form": "powder", "amount": 400, "holds": 500, "opened": "2026-01-01", "powder_g_tsp": 57},
			422, "powder_g_tsp", "57"},
		{"foam of a tub that is not there", "POST", "/api/tubs/" + nobody + "/foam-tests",
			fields{"id": newID(), "foams": true}, 404, "tub_id", nobody},
		{"a currency that is none", "PUT", "/api/preferences",
			fields{"units": "metric", "hardness": "dh", "currency": "shells", "clock": "24"}, 422, "currency", "shells"},
		{"a system of units that is none", "PUT", "/api/preferences",
			fields{"units": "cubits", "hardness": "dh", "currency": "EUR", "clock": "24"}, 422, "units", "cubits"},
		{"a log of a machine that is not there", "GET", "/api/log?machine_id=" + nobody, nil, 404, "machine_id", nobody},
		{"a log without end", "GET", "/api/log?limit=9999", nil, 422, "limit", "9999"},
	} {
		t.Run(c.name, func(t *testing.T) {
			b.t = t
			var p Problem
			b.call(c.method, c.path, c.body, c.status, &p)
			if p.Field == nil || *p.Field != c.field || p.Value == nil || *p.Value != c.value || p.Allowed == nil ||
				*p.Allowed == "" ||
				p.Status != c.status {
				got, _ := json.Marshal(p)
				t.Errorf("%s, want field %q, value %q and what is allowed", got, c.field, c.value)
			}
		})
	}
	b.t = t
	var out Bench
	b.call("GET", "/api/bench", nil, 200, &out)
	var log Log
	b.call("GET", "/api/log", nil, 200, &log)
	if len(out.Machines) != 1 || out.Machines[0].Today.Drinks != 0 || out.Machines[0].OpenRun != nil ||
		len(log.Entries) != 1 {
		t.Errorf("bad input left a trace: %+v, %+v", out, log)
	}
}

func TestNotJSON(t *testing.T) {
	b := newBench(t)
	rec := b.raw("POST", "/api/preview", `{"layout": `)
	var p Problem
	if err := json.Unmarshal(rec.Body.Bytes(), &p); err != nil || rec.Code != 400 || p.Field != nil ||
		!strings.Contains(p.Title, "JSON") {
		t.Errorf("%d %s", rec.Code, rec.Body)
	}
	if got := rec.Header().Get("Content-Type"); got != "application/problem+json" {
		t.Errorf("content type %q", got)
	}
}

func TestPagesHealthAndContract(t *testing.T) {
	b := newBench(t)
	for path, want := range map[string]struct {
		status int
		text   string
	}{
		"/": {200, "Fresh Anvil"}, "/machines/x/runs/y": {200, "Fresh Anvil"}, "/assets/a.js": {200, "1"},
		"/assets/gone.js": {404, ""},
		"/healthz":        {200, "ok"}, "/api/openapi.yaml": {200, "openapi: 3.0.3"}, "/api/nothing": {404, "status"},
	} {
		if rec := b.raw("GET", path, ""); rec.Code != want.status || !strings.Contains(rec.Body.String(), want.text) {
			t.Errorf("%s: %d %.60s", path, rec.Code, rec.Body)
		}
	}
	req := httptest.NewRequest("GET", "http://evil.example/api/bench", nil)
	rec := httptest.NewRecorder()
	b.handle.ServeHTTP(rec, req)
	if rec.Code != http.StatusForbidden {
		t.Errorf("another host's name: %d, want it refused", rec.Code)
	}
}

// run plays a run over the API.
type live struct {
	*bench
	id string
	Run
}

func (b *bench) start(machine string, more ...string) *live {
	b.t.Helper()
	l := &live{bench: b, id: newID()}
	body := fields{"id": l.id, "device": "phone", "parts": []string{"group-1"}, "method": "half_teaspoon"}
	for i := 0; i < len(more); i += 2 {
		body[more[i]] = more[i+1]
	}
	b.call("POST", "/api/machines/"+machine+"/runs", body, 201, &l.Run)
	return l
}

func (l *live) press(kind string, more ...any) {
	l.t.Helper()
	body := fields{
		"id":      newID(),
		"device":  "phone",
		"step":    l.Step.Id,
		"segment": l.Segment.Index,
		"kind":    kind,
		"at":      l.now,
	}
	for i := 0; i < len(more); i += 2 {
		body[more[i].(string)] = more[i+1]
	}
	l.Run = Run{}
	l.call("POST", "/api/runs/"+l.id+"/presses", body, 200, &l.Run)
}

func (l *live) wait(d time.Duration) {
	l.t.Helper()
	l.now = l.now.Add(d)
	l.Run = Run{}
	l.call("GET", "/api/runs/"+l.id, nil, 200, &l.Run)
}

// toDose goes on to the dose: ready, brushed, three pulses of water.
func (l *live) toDose() {
	l.t.Helper()
	l.press("done")
	l.press("done")
	l.press("begin")
	l.wait(46 * time.Second)
	if l.Step.Id != "dose" {
		l.t.Fatalf("at %s, not at the dose", l.Step.Id)
	}
}

var clearCup = fields{"colour": "clear", "foam": "none", "grains": "0"}

// A whole wash over the contract: the hazard stands in the store, drinks are
// refused, the log is written, the date moves.
func TestWashFromStartToLog(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	if next := b.first().Next; next == nil || next.State != "unrecorded" {
		t.Fatalf("a new machine: %+v", next)
	}
	l := b.start(id)
	var again Run
	b.call(
		"POST",
		"/api/machines/"+id+"/runs",
		fields{"id": l.id, "device": "phone", "parts": []string{"group-1"}, "method": "half_teaspoon"},
		201,
		&again,
	)
	if again.Id != l.id {
		t.Error("the same request made another run")
	}
	var p Problem
	b.call(
		"POST",
		"/api/machines/"+id+"/runs",
		fields{"id": newID(), "device": "tablet", "parts": []string{"group-1"}, "method": "half_teaspoon"},
		409,
		&p,
	)
	l.toDose()
	b.call("POST", "/api/machines/"+id+"/use", fields{"id": newID(), "kind": "double", "at": b.now}, 201, nil)
	l.press("done")
	if !l.Detergent.In || len(b.first().Hazards) != 1 {
		t.Fatalf("after the dose: %+v", l.Detergent)
	}
	b.call("POST", "/api/machines/"+id+"/use", fields{"id": newID(), "kind": "double", "at": b.now}, 409, &p)
	if *p.Field != "part" || !strings.Contains(p.Title, "no drinks") {
		t.Errorf("a drink with detergent in: %+v", p)
	}
	b.call("POST", "/api/machines/"+id+"/use", fields{"id": newID(), "kind": "flush", "at": b.now}, 201, nil)
	b.call("POST", "/api/machines/"+id+"/answers", home(), 409, &p)
	l.press("begin")
	if len(l.Schedule) != 10 || l.Schedule[0].EndsAt.Sub(b.now) != 10*time.Second {
		t.Errorf("schedule of %d segments: %+v", len(l.Schedule), l.Schedule)
	}
	l.wait(76 * time.Second)
	l.press("graded", "first", "brown")
	l.press("done")
	l.press("begin")
	l.wait(76 * time.Second)
	l.press("reading", "cup", clearCup)
	if len(b.first().Hazards) != 1 {
		t.Error("the hazard went before the flush")
	}
	l.press("done")
	if len(b.first().Hazards) != 0 {
		t.Error("the hazard stayed after the flush")
	}
	b.now = b.now.Add(time.Minute)
	l.press("done")
	l.press("done")
	if l.Outcome == nil || *l.Outcome != "done" || l.Next == nil || l.Next.State != "later" {
		t.Fatalf("ended: %+v", l.Outcome)
	}
	var log Log
	b.call("GET", "/api/log?machine_id="+id, nil, 200, &log)
	if len(log.Entries) != 2 {
		t.Fatalf("%d entries", len(log.Entries))
	}
	e := log.Entries[0]
	if e.Outcome != "done" || e.Dose.Mass.Value != 3 || *e.SoapyPulses != 5 || *e.RinsePulses != 5 ||
		*e.First != "brown" ||
		len(*e.Cups) != 1 ||
		fmt.Sprintf("%.2f", *e.Minutes) != "4.30" {
		t.Errorf("logged: %+v", e)
	}
	if next := b.washDue(); next.State != "later" || !next.Likely.After(b.now.AddDate(0, 0, 7)) {
		t.Errorf("the date did not move: %+v", next)
	}
	// the run's water is no shot: the wash was the first thing on record after it
	if used := b.washDue().Clocks[0].Used.Value; used != 0 {
		t.Errorf("%v shots since the wash", used)
	}
}

func TestStoppedUnsafeLeavesTheHazardAndPlansARinse(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	l := b.start(id)
	l.toDose()
	l.press("done")
	l.press("stop")
	if *l.Outcome != "stopped_unsafe" || len(b.first().Hazards) != 1 {
		t.Fatalf("%v, hazards %v", *l.Outcome, b.first().Hazards)
	}
	if next := b.first().Next; next.State != "unrecorded" {
		t.Errorf("a stopped wash counts: %+v", next)
	}
	rinse := b.start(id)
	if rinse.Title != "Rinse the detergent out" || !rinse.Detergent.In || rinse.Detergent.Least != 10 {
		t.Fatalf("the next run: %s, %+v", rinse.Title, rinse.Detergent)
	}
	rinse.press("done")
	rinse.press("done")
	rinse.press("heard", "what", "no_click")
	if rinse.Step.Head != "Fill the blind to the brim" {
		t.Errorf("no click leads to %s", rinse.Step.Head)
	}
	rinse.press("done")
	rinse.wait(3 * time.Minute)
	rinse.press("done")
	rinse.press("heard", "what", "flows")
	rinse.press("done")
	rinse.press("begin")
	rinse.wait(151 * time.Second)
	rinse.press("reading", "cup", clearCup)
	rinse.press("done")
	rinse.press("done")
	rinse.press("done")
	if *rinse.Outcome != "done" || len(b.first().Hazards) != 0 {
		t.Errorf("rinsed: %v, hazards %v", *rinse.Outcome, b.first().Hazards)
	}
	if next := b.first().Next; next.State != "unrecorded" {
		t.Errorf("a rinse counts as a wash: %+v", next)
	}
}

func TestPressesRepeatedLateOrAheadOfTime(t *testing.T) {
	b := newBench(t)
	l := b.start(b.add(home()))
	body := fields{"id": newID(), "device": "phone", "step": "ready", "segment": 0, "kind": "done", "at": b.now}
	for range 3 {
		b.call("POST", "/api/runs/"+l.id+"/presses", body, 200, &l.Run)
	}
	if l.Step.Id != "brush" {
		t.Errorf("a repeated press leads to %s", l.Step.Id)
	}
	body["id"] = newID() // another device, for a state already gone
	b.call("POST", "/api/runs/"+l.id+"/presses", body, 200, &l.Run)
	if l.Step.Id != "brush" {
		t.Errorf("a press for a step already gone leads to %s", l.Step.Id)
	}
	l.press("done", "at", b.now.Add(time.Hour))
	l.press("done", "at", b.now.Add(-time.Hour))
	l.press("begin", "at", b.now.Add(time.Hour))
	if l.Segment.Kind != "on" || !l.Segment.StartsAt.Equal(b.now) {
		t.Errorf("a press an hour ahead begins at %v, want now", l.Segment.StartsAt)
	}
	var p Problem
	b.call(
		"POST",
		"/api/runs/"+l.id+"/presses",
		fields{"id": newID(), "device": "d", "step": "cup", "segment": 0, "kind": "reading", "at": b.now},
		422,
		&p,
	)
	if *p.Field != "cup" {
		t.Errorf("a reading without a cup: %+v", p)
	}
}

func TestRefusedMachine(t *testing.T) {
	b := newBench(t)
	a := home()
	a["valve"] = "cannot_tell"
	id := b.add(a)
	var p Problem
	b.call(
		"POST",
		"/api/machines/"+id+"/runs",
		fields{"id": newID(), "device": "d", "parts": []string{"group-1"}, "method": "half_teaspoon"},
		422,
		&p,
	)
	if p.Finding == nil || len(p.Finding.Because) == 0 || len(p.Finding.Next) == 0 {
		t.Errorf("refused without a reason: %+v", p)
	}
	b.call(
		"POST",
		"/api/machines/"+id+"/care",
		fields{"id": newID(), "task": "wash", "part": "group-1", "at": b.now},
		422,
		&p,
	)
	m := b.first()
	if m.Wash != nil || m.Next.Task != "screen" || m.Gate.Verdict != "refused" {
		t.Errorf("%+v", m)
	}
	a["valve"] = "yes"
	var after Machine
	b.call("POST", "/api/machines/"+id+"/answers", a, 200, &after)
	if after.Plan.Wash == nil || b.first().Next.Task != "wash" {
		t.Error("a better answer changes nothing")
	}
}

func TestUseAndUndo(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	b.call(
		"POST",
		"/api/machines/"+id+"/care",
		fields{"id": newID(), "task": "wash", "part": "group-1", "at": b.now.Add(-time.Minute)},
		201,
		nil,
	)
	entry := fields{"id": newID(), "kind": "milk", "at": b.now}
	var today Today
	for range 2 {
		b.call("POST", "/api/machines/"+id+"/use", entry, 201, &today)
	}
	used := b.washDue().Clocks[0].Used.Value
	if today.Drinks != 1 || b.first().Today.Drinks != 1 || used < 1 || used > 1.01 {
		t.Errorf("one drink pressed twice: %+v, used %v", today, used)
	}
	undo := fields{"id": newID(), "kind": "undo", "at": b.now, "supersedes": entry["id"]}
	b.call("POST", "/api/machines/"+id+"/use", undo, 201, &today)
	if today.Drinks != 0 || b.washDue().Clocks[0].Used.Value > 0.01 {
		t.Errorf("undone: %+v", today)
	}
	undo["id"] = newID()
	b.call("POST", "/api/machines/"+id+"/use", undo, 409, nil)
	undo["supersedes"] = newID()
	b.call("POST", "/api/machines/"+id+"/use", undo, 404, nil)
}

// Undo and correction are events; they restore the same answers.
func TestUndoAndCorrectionRestoreTheSameAnswers(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	b.call(
		"POST",
		"/api/machines/"+id+"/care",
		fields{"id": newID(), "task": "wash", "part": "group-1", "at": b.now.Add(-240 * time.Hour)},
		201,
		nil,
	)
	log := func(kind string, count int, ago time.Duration, supersedes any) string {
		t.Helper()
		entry := fields{"id": newID(), "kind": kind, "count": count, "at": b.now.Add(-ago)}
		if supersedes != nil {
			entry["supersedes"] = supersedes
		}
		b.call("POST", "/api/machines/"+id+"/use", entry, 201, nil)
		return entry["id"].(string)
	}
	answer := func() string {
		text, err := json.Marshal(b.first().Next)
		if err != nil {
			t.Fatal(err)
		}
		return string(text)
	}
	log("double", 12, 200*time.Hour, nil)
	before := answer()
	wrong := log("double", 30, 3*time.Hour, nil)
	if answer() == before {
		t.Fatal("thirty drinks change nothing")
	}
	log("undo", 1, 0, wrong)
	if got := answer(); got != before {
		t.Errorf("after the undo:\n%s\nwant\n%s", got, before)
	}
	three := log("single", 3, 2*time.Hour, nil)
	want := answer()
	log("undo", 1, 0, three)
	five := log("single", 5, 2*time.Hour, nil)
	log("single", 3, 2*time.Hour, five)
	if got := answer(); got != want {
		t.Errorf("five corrected to three:\n%s\nthree at once:\n%s", got, want)
	}
	var list UseList
	b.call("GET", "/api/machines/"+id+"/use", nil, 200, &list)
	if len(list.Entries) != 2 || list.Entries[0].Count != 3 || list.Entries[1].Count != 12 {
		t.Errorf("the ledger as it stands: %+v", list.Entries)
	}
}

func TestFactsChangeThePlanAndGoBack(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	change := func(list ...any) Machine {
		t.Helper()
		var m Machine
		b.call("POST", "/api/machines/"+id+"/facts", fields{"facts": list}, 200, &m)
		return m
	}
	m := change(fields{"key": "groups", "value": "2"}, fields{"key": "vents_ml", "value": "20"})
	if m.Plan.Groups != 2 || len(m.Plan.Dues) < 16 || m.Plan.Wash.Rinse.Value <= 5 {
		t.Errorf(
			"two groups that vent little: %d groups, %d dues, %v rinse pulses",
			m.Plan.Groups,
			len(m.Plan.Dues),
			m.Plan.Wash.Rinse.Value,
		)
	}
	// a layout without the fact drops it, the others stay
	other := home()
	other["layout"], other["valve"] = "lever_manual", "no"
	b.call("POST", "/api/machines/"+id+"/answers", other, 200, &m)
	if m.Plan.Groups != 2 {
		t.Errorf("%d groups after another layout", m.Plan.Groups)
	}
	b.call("POST", "/api/machines/"+id+"/answers", home(), 200, &m)
	if m = change(fields{"key": "groups"}, fields{"key": "vents_ml"}); m.Plan.Groups != 1 ||
		m.Plan.Wash.Rinse.Value != 5 {
		t.Errorf("back to the defaults: %d groups, %v pulses", m.Plan.Groups, m.Plan.Wash.Rinse.Value)
	}
	for _, f := range m.Facts {
		if f.Set || f.Label == "" || f.Changes == "" {
			t.Errorf("%+v", f)
		}
	}
}

func TestArchivedNotDeleted(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	var m Machine
	b.call(
		"POST",
		"/api/machines/"+id+"/details",
		fields{"name": "Old", "owner": "Ferry line", "place": "store", "archived": true},
		200,
		&m,
	)
	var out Bench
	b.call("GET", "/api/bench", nil, 200, &out)
	if len(out.Machines) != 0 || !m.Archived {
		t.Errorf("archived, but on the bench: %+v", out.Machines)
	}
	b.call("GET", "/api/bench?archived=true", nil, 200, &out)
	if len(out.Machines) != 1 || out.Machines[0].Owner != "Ferry line" {
		t.Errorf("archived: %+v", out.Machines)
	}
	b.call(
		"POST",
		"/api/machines/"+id+"/details",
		fields{"name": "Old", "owner": "", "place": "", "archived": false},
		200,
		&m,
	)
	if b.first().Name != "Old" {
		t.Error("it did not come back")
	}
	l := b.start(id)
	l.press("done")
	var p Problem
	b.call(
		"POST",
		"/api/machines/"+id+"/details",
		fields{"name": "Old", "owner": "", "place": "", "archived": true},
		409,
		&p,
	)
}

// The tub: what a wash takes, tablets instead, foam.
func TestMixAndTub(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	var mix Mix
	b.call("GET", "/api/machines/"+id+"/mix", nil, 200, &mix)
	if mix.Tub != nil || mix.Dose.Mass.Value != 3 || mix.Soak.Mass.Value != 1.5 || len(mix.Cautions) == 0 ||
		len(mix.Why) == 0 {
		t.Errorf("no tub on record: %+v", mix)
	}
	tub := fields{
		"id":           newID(),
		"form":         "powder",
		"amount":       100,
		"holds":        500,
		"opened":       "2024-12-01",
		"powder_g_tsp": 4,
		"price":        20,
	}
	b.call("POST", "/api/tubs", tub, 201, nil)
	b.call("GET", "/api/machines/"+id+"/mix", nil, 200, &mix)
	// light powder: three quarters of a teaspoon is 3 g; 20 for 500 g is 0.12
	if s := mix.Dose.Spoon; s.Num != 3 || s.Den != 4 || mix.Outlook.Left.Value != 100 ||
		mix.Outlook.Washes.Value != 33 ||
		fmt.Sprintf("%.2f", mix.Outlook.Price.Value) != "0.12" ||
		mix.Freshness.Verdict != "look" {
		t.Errorf("%+v, %+v, %+v", mix.Dose.Spoon, mix.Outlook, mix.Freshness)
	}
	var f Finding
	b.call("POST", "/api/tubs/"+tub["id"].(string)+"/foam-tests", fields{"id": newID(), "foams": true}, 201, &f)
	if f.Verdict != "fine" {
		t.Errorf("it foams: %+v", f)
	}
	b.now = b.now.Add(time.Hour)
	l := b.start(id)
	l.toDose()
	l.press("stop") // powder may be in: it is counted as used
	b.call("GET", "/api/machines/"+id+"/mix", nil, 200, &mix)
	if mix.Outlook.Left.Value != 97 {
		t.Errorf("%v g left after one dose", mix.Outlook.Left.Value)
	}
	b.now = b.now.Add(time.Hour)
	b.call(
		"POST",
		"/api/tubs",
		fields{"id": newID(), "form": "tablets", "amount": 40, "holds": 60, "opened": "2026-03-01"},
		201,
		nil,
	)
	b.call("GET", "/api/machines/"+id+"/mix", nil, 200, &mix)
	if mix.Dose.Form != "tablets" || mix.Dose.Tablets != 1 || mix.Outlook.Washes.Value != 40 {
		t.Errorf("tablets: %+v, %+v", mix.Dose, mix.Outlook)
	}
	none := home()
	none["valve"] = "no"
	refused := b.add(none)
	var no Mix
	b.call("GET", "/api/machines/"+refused+"/mix", nil, 200, &no)
	if no.Dose != nil || no.Gate.Verdict != "refused" {
		t.Errorf("a machine without a valve gets a dose: %+v", no.Dose)
	}
}

func TestSignOffClearsOnlyWithANameAndNoOpenRun(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	l := b.start(id)
	l.toDose()
	l.press("done")
	sign := fields{"id": newID(), "part": "group-1", "name": "A. Tester", "note": "opened and rinsed"}
	b.call("POST", "/api/machines/"+id+"/sign-offs", sign, 409, nil) // the run goes on
	l.press("stop")
	for range 2 {
		b.call("POST", "/api/machines/"+id+"/sign-offs", sign, 201, nil)
	}
	if m := b.first(); len(m.Hazards) != 0 || m.Next.State != "unrecorded" {
		t.Errorf("signed off: %+v, %s", m.Hazards, m.Next.State)
	}
	var log Log
	b.call("GET", "/api/log", nil, 200, &log)
	if len(log.Entries) != 3 || log.Entries[0].Outcome != "signed_off" || *log.Entries[0].Note != "opened and rinsed" {
		t.Errorf("%+v", log.Entries)
	}
}

func TestPreferencesAreKept(t *testing.T) {
	b := newBench(t)
	var p Preferences
	b.call("GET", "/api/preferences", nil, 200, &p)
	if p.Units != "metric" {
		t.Errorf("%+v", p)
	}
	want := Preferences{Units: "us", Hardness: "gpg", Currency: "CAD", Clock: "12"}
	b.call("PUT", "/api/preferences", want, 200, nil)
	b.call("GET", "/api/preferences", nil, 200, &p)
	if p != want {
		t.Errorf("%+v, want %+v", p, want)
	}
}

func TestWhatPressesComesFirst(t *testing.T) {
	b := newBench(t)
	calm, fresh, dirty := b.add(home()), b.add(home()), b.add(home())
	b.call(
		"POST",
		"/api/machines/"+calm+"/care",
		fields{"id": newID(), "task": "wash", "part": "group-1", "at": b.now.Add(-time.Hour)},
		201,
		nil,
	)
	l := b.start(dirty)
	l.toDose()
	l.press("stop")
	var out Bench
	b.call("GET", "/api/bench", nil, 200, &out)
	for i, want := range []string{dirty, fresh, calm} {
		if out.Machines[i].Id != want {
			t.Errorf("place %d: %s", i, out.Machines[i].Name)
		}
	}
}

// The first drink ever logged, taken back again, leaves the declared rate
// standing in as before; a flush is no drink and starts no log.
func TestUndoOfTheFirstEntryRestoresTheDeclaredRate(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	b.call(
		"POST",
		"/api/machines/"+id+"/care",
		fields{"id": newID(), "task": "wash", "part": "group-1", "at": b.now.Add(-240 * time.Hour)},
		201,
		nil,
	)
	used := func() float64 { return b.washDue().Clocks[0].Used.Value }
	if used() != 40 {
		t.Fatalf("nothing logged in ten days: %v shots, want 40 at the declared rate", used())
	}
	first := newID()
	for _, entry := range []fields{
		{"id": newID(), "kind": "flush", "at": b.now.Add(-100 * time.Hour)},
		{"id": first, "kind": "double", "at": b.now.Add(-120 * time.Hour)},
	} {
		b.call("POST", "/api/machines/"+id+"/use", entry, 201, nil)
	}
	if used() != 21 {
		t.Fatalf("logged since five days: %v shots, want 20 assumed and one logged", used())
	}
	b.call(
		"POST",
		"/api/machines/"+id+"/use",
		fields{"id": newID(), "kind": "undo", "at": b.now, "supersedes": first},
		201,
		nil,
	)
	if used() != 40 {
		t.Errorf("taken back: %v shots, want 40 as before", used())
	}
}

// A device whose clock is half a minute fast is believed as of now.
func TestACareOfASecondAheadCountsAtOnce(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	b.call(
		"POST",
		"/api/machines/"+id+"/care",
		fields{"id": newID(), "task": "wash", "part": "group-1", "at": b.now.Add(30 * time.Second)},
		201,
		nil,
	)
	if next := b.first().Next; next.State != "later" {
		t.Errorf("%s, want it done", next.State)
	}
}
