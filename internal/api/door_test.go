package api

import (
	"context"
	"database/sql"
	"encoding/json"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"github.com/getkin/kin-openapi/openapi3"

	"freshanvil/internal/app"
)

const outside = "https://bench.test:8443"

// guarded is a bench that lets nobody in who does not say who they are, with the code of its first owner.
func guarded(t *testing.T) (*bench, string) {
	t.Helper()
	b := newBench(t)
	code, err := b.app.FirstCode(t.Context())
	if err != nil || code == "" {
		t.Fatalf("%q, %v", code, err)
	}
	cfg := Config{App: b.app, Pages: fstest.MapFS{"index.html": {Data: []byte("<!doctype html>")}},
		Log: slog.New(slog.NewTextHandler(io.Discard, nil)), Speed: 1, Guarded: true, Origins: []string{outside}}
	if b.handle, err = New(cfg); err != nil {
		t.Fatal(err)
	}
	return b, code
}

// browser is one that keeps its cookie.
type browser struct {
	*bench
	cookie string
	at     string // where it is
}

func (b *bench) browser(at string) *browser { return &browser{bench: b, at: at} }

// ask sends a request, and gives its status and what was answered.
func (w *browser) ask(method, path string, body any, into any) int {
	w.t.Helper()
	text := ""
	if body != nil {
		raw, err := json.Marshal(body)
		if err != nil {
			w.t.Fatal(err)
		}
		text = string(raw)
	}
	header := map[string]string{"Host": "bench.test:8443", "Origin": outside}
	if w.cookie != "" {
		header["Cookie"] = w.cookie
	}
	rec := w.from(w.at, method, path, text, header)
	for _, c := range rec.Result().Cookies() {
		if c.MaxAge < 0 {
			w.cookie = ""
			continue
		}
		w.cookie = c.Name + "=" + c.Value
	}
	if into != nil {
		if err := json.Unmarshal(rec.Body.Bytes(), into); err != nil {
			w.t.Fatalf("%s %s: %d %s", method, path, rec.Code, rec.Body)
		}
	}
	return rec.Code
}

func (b *bench) from(address, method, path, body string, header map[string]string) *httptest.ResponseRecorder {
	ctx := b.t.Context()
	if strings.HasSuffix(path, "/events") { // a stream ends when nobody listens any more
		var end context.CancelFunc
		ctx, end = context.WithTimeout(ctx, 200*time.Millisecond)
		defer end()
	}
	r := httptest.NewRequestWithContext(ctx, method, path, strings.NewReader(body))
	r.RemoteAddr = address + ":5000"
	if body != "" {
		r.Header.Set("Content-Type", "application/json")
	}
	for k, v := range header {
		if k == "Host" {
			r.Host = v
			continue
		}
		r.Header.Set(k, v)
	}
	rec := httptest.NewRecorder()
	b.handle.ServeHTTP(rec, r)
	return rec
}

func (w *browser) logsIn(name, passphrase string) int {
	w.t.Helper()
	return w.ask("POST", "/api/login", fields{"name": name, "passphrase": passphrase}, nil)
}

func (w *browser) begins(code, name, passphrase string) int {
	w.t.Helper()
	return w.ask("POST", "/api/login/owner", fields{"code": code, "name": name, "passphrase": passphrase}, nil)
}

func (w *browser) pairs(code string) int {
	w.t.Helper()
	return w.ask("POST", "/api/login/pair", fields{"code": code}, nil)
}

const secret = "four quiet copper kettles"

// owner is the first one, let in.
func owner(t *testing.T) (*bench, *browser) {
	t.Helper()
	b, code := guarded(t)
	w := b.browser("192.0.2.1")
	var me Me
	if got := w.ask("POST", "/api/login/owner", fields{"code": strings.ToLower(code), "name": "Ines",
		"passphrase": secret}, &me); got != 200 || *me.Role != "owner" || *me.Name != "Ines" {
		t.Fatalf("%d %+v", got, me)
	}
	return b, w
}

// as lets somebody in with a role.
func (w *browser) as(name string, role app.Role) *browser {
	w.t.Helper()
	id := newID()
	if got := w.ask("POST", "/api/people", fields{"id": id, "name": name}, nil); got != 201 {
		w.t.Fatalf("%d", got)
	}
	if got := w.ask("PUT", "/api/accounts/"+id, fields{"role": role, "passphrase": secret + name}, nil); got != 200 {
		w.t.Fatalf("%d", got)
	}
	other := w.browser("192.0.2.9")
	if got := other.logsIn(name, secret+name); got != 200 {
		w.t.Fatalf("%d", got)
	}
	return other
}

// Every operation of the contract, for every role and for nobody: who may, is answered by the operation itself; who may
// not, is refused before anything of the request is looked at.
func TestEveryOperationForEveryRole(t *testing.T) {
	b, first := owner(t)
	who := map[app.Role]*browser{"": b.browser("192.0.2.7"), app.Owner: first}
	for _, role := range []app.Role{app.Onlooker, app.Closer, app.Keeper} {
		who[role] = first.as("A "+string(role), role)
	}
	leaves := map[string]bool{"logout": true, "login": true, "beginOwner": true, "pair": true, "changePassphrase": true}
	id, asked := newID(), 0
	for path, item := range mustDoc(t).Paths.Map() {
		at := "/api" + strings.NewReplacer("{task}", "wash", "{part}", "machine", "{sight}", "cup").Replace(path)
		for strings.Contains(at, "{") {
			i, j := strings.Index(at, "{"), strings.Index(at, "}")
			at = at[:i] + id + at[j+1:]
		}
		for method, op := range item.Operations() {
			needs := app.Role(op.Extensions["x-role"].(string))
			if leaves[op.OperationID] {
				continue // they change who is in: their own tests
			}
			for role, w := range who {
				asked++
				var p Problem
				status := w.ask(method, at, nil, nil)
				may := role.May(needs) || needs == app.Anybody
				refused := status == http.StatusUnauthorized || status == http.StatusForbidden
				if refused == may {
					t.Errorf("%s %s for %q: %d %+v", method, path, role, status, p)
				}
				if !may && (status == http.StatusUnauthorized) != (role == "") {
					t.Errorf("%s %s for %q: %d", method, path, role, status)
				}
			}
		}
	}
	if asked < 400 {
		t.Errorf("only %d were asked", asked)
	}
	if got := who[""].ask("GET", "/", nil, nil); got != 200 {
		t.Errorf("the page to log in on: %d", got)
	}
}

// An operation that says no role, or one that nobody knows, keeps the server from starting.
func TestARouteWithoutARoleFails(t *testing.T) {
	for _, said := range []any{nil, "everybody", 7} {
		doc := mustDoc(t)
		op := doc.Paths.Map()["/bench"].Get
		op.Extensions = map[string]any{"x-role": said}
		if _, err := Roles(doc); err == nil || !strings.Contains(err.Error(), "/bench") {
			t.Errorf("%v: %v", said, err)
		}
	}
	doc := mustDoc(t)
	doc.Paths.Set("/new", &openapi3.PathItem{Get: &openapi3.Operation{OperationID: "new"}})
	if err := func() error { _, err := Roles(doc); return err }(); err == nil {
		t.Error("a new operation is open to nobody knows whom")
	}
}

// A session is a token that nobody had before, in a cookie that no script reads and no other site sends; once it is
// left it lets nobody in.
func TestSessions(t *testing.T) {
	b, first := owner(t)
	planted := b.browser("192.0.2.5")
	planted.cookie = "__Host-freshanvil=planted"
	if got := planted.logsIn("ines", secret); got != 200 ||
		strings.Contains(planted.cookie, "planted") || planted.cookie == first.cookie {
		t.Errorf("%d, %q", got, planted.cookie)
	}
	rec := b.from("192.0.2.5", "POST", "/api/login", `{"name":"Ines","passphrase":"`+secret+`"}`,
		map[string]string{"Host": "bench.test:8443", "Origin": outside})
	c := rec.Result().Cookies()[0]
	if c.Name != "__Host-freshanvil" || !c.Secure || !c.HttpOnly || c.SameSite != http.SameSiteStrictMode ||
		c.Path != "/" || c.Domain != "" || len(c.Value) < 40 {
		t.Errorf("%+v", c)
	}
	if strings.Contains(rec.Body.String(), c.Value) {
		t.Error("the token stands in the answer")
	}
	stolen := planted.cookie
	if got := planted.ask("POST", "/api/logout", fields{"everywhere": false}, nil); got != 200 || planted.cookie != "" {
		t.Errorf("%d %q", got, planted.cookie)
	}
	planted.cookie = stolen
	if got := planted.ask("GET", "/api/bench", nil, nil); got != 401 {
		t.Errorf("left, and let in again: %d", got)
	}
	if got := first.ask("GET", "/api/bench", nil, nil); got != 200 {
		t.Errorf("the other browser: %d", got)
	}
	if got := first.ask("POST", "/api/logout", fields{"everywhere": true}, nil); got != 200 {
		t.Errorf("%d", got)
	}
	again := b.browser("192.0.2.5")
	again.cookie = c.Name + "=" + c.Value
	if got := again.ask("GET", "/api/bench", nil, nil); got != 401 {
		t.Errorf("everywhere: %d", got)
	}
	if got := again.logsIn("Ines", secret); got != 200 {
		t.Fatalf("%d", got)
	}
	b.now = b.now.Add(31 * 24 * time.Hour)
	if got := again.ask("GET", "/api/bench", nil, nil); got != 401 {
		t.Errorf("a month without being seen: %d", got)
	}
}

// Who tries passphrases waits, then waits long; others are let in meanwhile, and the owner can give a new one.
func TestBruteForce(t *testing.T) {
	b, first := owner(t)
	rui := first.as("Rui", app.Closer)
	thief := b.browser("198.51.100.3")
	statuses := map[int]int{}
	for range 40 {
		statuses[thief.logsIn("Rui", "guess guess guess")]++
	}
	if statuses[200] > 0 || statuses[401] > 5 || statuses[429] < 35 {
		t.Errorf("%v", statuses)
	}
	tried := 0
	for range 200 { // an hour of patience
		b.now = b.now.Add(18 * time.Second)
		if thief.logsIn("Rui", "guess guess guess") == 401 {
			tried++
		}
	}
	if tried > 30 {
		t.Errorf("%d guesses in an hour", tried)
	}
	rec := b.from("198.51.100.3", "POST", "/api/login", `{"name":"Rui","passphrase":"x"}`,
		map[string]string{"Host": "bench.test:8443", "Origin": outside})
	if rec.Code != 429 || rec.Header().Get("Retry-After") == "" {
		t.Errorf("%d, %q", rec.Code, rec.Header().Get("Retry-After"))
	}
	if got := rui.ask("GET", "/api/bench", nil, nil); got != 200 {
		t.Errorf("who is in stays in: %d", got)
	}
	if got := b.browser("192.0.2.1").logsIn("Ines", secret); got != 200 {
		t.Errorf("somebody else: %d", got)
	}
	var list Accounts
	first.ask("GET", "/api/accounts", nil, &list)
	for _, x := range list.Accounts {
		if x.Name == "Rui" {
			change := fields{"role": "closer", "passphrase": secret + "new"}
			if got := first.ask("PUT", "/api/accounts/"+x.Id, change, nil); got != 200 {
				t.Errorf("%d", got)
			}
		}
	}
	if got := rui.ask("GET", "/api/bench", nil, nil); got != 401 {
		t.Errorf("by the old passphrase: %d", got)
	}
	if got := rui.logsIn("Rui", secret+"new"); got != 200 {
		t.Errorf("by the new one, from where it was never guessed: %d", got)
	}
}

// The first owner comes in by the code of the terminal, once; one who forgot the passphrase by that of the command
// line.
func TestTheOwnersCode(t *testing.T) {
	b, code := guarded(t)
	w := b.browser("192.0.2.1")
	var me Me
	if got := w.ask("GET", "/api/me", nil, &me); got != 200 || !me.Login || !*me.First || me.Role != nil {
		t.Errorf("%d %+v", got, me)
	}
	if got := w.begins("AAAAA-AAAAA", "Ines", secret); got != 401 {
		t.Errorf("a wrong code: %d", got)
	}
	if got := w.begins(code, "Ines", "short"); got != 422 {
		t.Errorf("a short passphrase: %d", got)
	}
	if got := w.begins(code, "Ines", secret); got != 200 {
		t.Fatalf("%d", got)
	}
	if got := b.browser("192.0.2.2").begins(code, "Eve", secret); got != 401 {
		t.Errorf("used twice: %d", got)
	}
	if again, err := b.app.FirstCode(t.Context()); err != nil || again != "" {
		t.Errorf("a second first owner: %q, %v", again, err)
	}
	back, err := b.app.RecoverOwner(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	forgot := b.browser("192.0.2.3")
	if got := forgot.begins(back, "Ines", secret+"2"); got != 200 {
		t.Errorf("%d", got)
	}
	if got := w.ask("GET", "/api/bench", nil, nil); got != 401 {
		t.Errorf("who was in by the old passphrase: %d", got)
	}
	late, err := b.app.RecoverOwner(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	b.now = b.now.Add(61 * time.Minute)
	if got := w.begins(late, "Ines", secret); got != 401 {
		t.Errorf("after an hour: %d", got)
	}
}

// A device is paired by the digits or the QR code, once, within five minutes, with no more than its owner's role; it is
// named, and shut out at a press.
func TestPairing(t *testing.T) {
	b, first := owner(t)
	offer := func(w *browser, role string, kiosk bool) (o PairOffer, status int) {
		status = w.ask("POST", "/api/devices", fields{"name": "phone in the kitchen", "role": role, "kiosk": kiosk}, &o)
		return o, status
	}
	o, _ := offer(first, "keeper", false)
	if len(o.Code) != 6 || !strings.HasPrefix(o.Path, "/pair#") || len(o.Qr) < 30 || len(o.Qr) != len(o.Qr[0]) {
		t.Fatalf("%+v", o)
	}
	phone := b.browser("192.0.2.20")
	var me Me
	if got := phone.ask("POST", "/api/login/pair", fields{"code": o.Code[:3] + " " + o.Code[3:]}, &me); got != 200 ||
		*me.Role != "keeper" || *me.Name != "Ines" {
		t.Fatalf("%d %+v", got, me)
	}
	if got := b.browser("192.0.2.21").pairs(o.Code); got != 401 {
		t.Errorf("twice: %d", got)
	}
	tablet := b.browser("192.0.2.22")
	o, _ = offer(first, "owner", true)
	scanned := fields{"code": strings.TrimPrefix(o.Path, "/pair#")}
	if got := tablet.ask("POST", "/api/login/pair", scanned, &me); got != 200 ||
		*me.Role != "closer" || !*me.Device {
		t.Fatalf("%d %+v", got, me)
	}
	o, _ = offer(first, "closer", false)
	b.now = b.now.Add(5 * time.Minute)
	if got := b.browser("192.0.2.23").pairs(o.Code); got != 401 {
		t.Errorf("too late: %d", got)
	}
	if _, got := offer(phone, "owner", false); got != 422 {
		t.Errorf("more than its own role: %d", got)
	}
	o, _ = offer(first, "owner", false)
	for n := range 6 { // tried through from many addresses
		b.browser("198.51.100." + string(rune('1'+n))).pairs("00000" + string(rune('a'+n)))
	}
	if got := b.browser("192.0.2.24").pairs(o.Code); got != 401 {
		t.Errorf("after it was tried through: %d", got)
	}
	var list Devices
	first.ask("GET", "/api/devices", nil, &list)
	if len(list.Devices) != 3 {
		t.Fatalf("%+v", list)
	}
	for _, d := range list.Devices {
		if d.Name == "phone in the kitchen" && d.Role == "keeper" {
			if got := first.ask("DELETE", "/api/devices/"+d.Id, nil, nil); got != 204 {
				t.Errorf("%d", got)
			}
		}
	}
	if got := phone.ask("GET", "/api/bench", nil, nil); got != 401 {
		t.Errorf("shut out, and let in: %d", got)
	}
	if got := tablet.ask("GET", "/api/bench", nil, nil); got != 200 {
		t.Errorf("the other: %d", got)
	}
}

// Behind a proxy somebody waits for their own tries, not for those of everybody who comes through it; where the proxy
// names nobody, only the name that was tried waits.
func TestBehindAProxy(t *testing.T) {
	for _, names := range []bool{true, false} {
		b, _ := owner(t)
		cfg := Config{App: b.app, Pages: fstest.MapFS{"index.html": {Data: []byte("<!doctype html>")}},
			Log: slog.New(slog.NewTextHandler(io.Discard, nil)), Speed: 1, Guarded: true, Proxied: true,
			Origins: []string{outside}}
		var err error
		if b.handle, err = New(cfg); err != nil {
			t.Fatal(err)
		}
		login := func(from, name, passphrase string) int {
			header := map[string]string{"Host": "bench.test:8443", "Origin": outside}
			if names {
				header["X-Forwarded-For"] = "203.0.113.1, " + from // the first may be made up
			}
			return b.from("127.0.0.1", "POST", "/api/login", `{"name":"`+name+`","passphrase":"`+passphrase+`"}`, header).Code
		}
		for range 15 {
			login("198.51.100.3", "Nobody", "guess guess guess")
		}
		if got := login("198.51.100.3", "Nobody", "guess guess guess"); got != 429 {
			t.Errorf("named %v: %d", names, got)
		}
		if got := login("192.0.2.1", "Ines", secret); got != 200 {
			t.Errorf("named %v: somebody else: %d", names, got)
		}
	}
}

// Two people on one machine: each entry of the ledger and each line of the log is whose it was; what is reserved to
// others keeps the name of who did it.
func TestWhoseItWas(t *testing.T) {
	b, ines := owner(t)
	rui := ines.as("Rui Mar", app.Closer)
	id := newID()
	if got := ines.ask("POST", "/api/machines", fields{"id": id, "name": "Deck", "zone": "Europe/Lisbon",
		"answers": home()}, nil); got != 201 {
		t.Fatalf("%d", got)
	}
	for _, w := range []*browser{ines, rui} {
		if got := w.ask("POST", "/api/machines/"+id+"/use", fields{"id": newID(), "kind": "double", "count": 1,
			"part": "machine", "at": b.now}, nil); got != 201 {
			t.Fatalf("%d", got)
		}
		if got := w.ask("POST", "/api/machines/"+id+"/small", fields{"id": newID(), "tasks": []string{"wand"},
			"at": b.now}, nil); got != 201 && got != 200 {
			t.Fatalf("%d", got)
		}
	}
	db, err := sql.Open("sqlite3", b.file+"?mode=ro")
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	var people, nobodys int
	if err := db.QueryRow("SELECT COUNT(DISTINCT person_id), SUM(person_id = '') FROM use_events").Scan(&people,
		&nobodys); err != nil || people != 2 || nobodys != 0 {
		t.Errorf("%d people, %d entries of nobody, %v", people, nobodys, err)
	}
	var log Log
	ines.ask("GET", "/api/log?small=true", nil, &log)
	by := map[string]int{}
	for _, e := range log.Entries {
		if e.By != nil {
			by[*e.By]++
		}
	}
	if by["I"] != 1 || by["RM"] != 1 {
		t.Errorf("%v", by)
	}
}
