package api

import (
	"errors"
	"fmt"
	"maps"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/labstack/echo/v5"
	"github.com/mattn/go-sqlite3"
)

func mustDoc(t *testing.T) *openapi3.T {
	t.Helper()
	doc, err := openapi3.NewLoader().LoadFromData(contract)
	if err != nil {
		t.Fatal(err)
	}
	return doc
}

// sent is what a request with these headers comes to.
func (b *bench) sent(method, path, body string, header map[string]string) *httptest.ResponseRecorder {
	b.t.Helper()
	all := map[string]string{"Host": "127.0.0.1:8080"}
	maps.Copy(all, header)
	return b.from("127.0.0.1", method, path, body, all)
}

// What a page of another site sends is refused, whatever it sends; a link from there may open a page. What no browser
// sends says nothing of where it comes from, and is answered.
func TestNoPageFromElsewhere(t *testing.T) {
	b := newBench(t)
	person := `{"id":"` + newID() + `","name":"Ines"}`
	tests := []struct {
		name, method, path string
		header             map[string]string
		status             int
	}{
		{"a tool", "GET", "/api/bench", nil, 200},
		{"a page of ours", "GET", "/api/bench", map[string]string{"Sec-Fetch-Site": "same-origin"}, 200},
		{"typed into the browser", "GET", "/", map[string]string{"Sec-Fetch-Site": "none"}, 200},
		{"read by another site", "GET", "/api/bench", map[string]string{"Sec-Fetch-Site": "cross-site"}, 403},
		{"read by another port", "GET", "/api/bench", map[string]string{"Sec-Fetch-Site": "same-site"}, 403},
		{"a link from elsewhere", "GET", "/log", map[string]string{"Sec-Fetch-Site": "cross-site",
			"Sec-Fetch-Mode": "navigate"}, 200},
		{"a link into the API", "GET", "/api/bench", map[string]string{"Sec-Fetch-Site": "cross-site",
			"Sec-Fetch-Mode": "navigate"}, 403},
		{"a script of another site", "GET", "/assets/a.js", map[string]string{"Sec-Fetch-Site": "cross-site",
			"Sec-Fetch-Mode": "no-cors"}, 403},
		{"written by another site", "POST", "/api/people", map[string]string{"Origin": "https://elsewhere.test"}, 403},
		{"written by nobody", "POST", "/api/people", map[string]string{"Origin": "null"}, 403},
		{"written by another port", "POST", "/api/people", map[string]string{"Origin": "http://127.0.0.1:9"}, 403},
		{"written by us", "POST", "/api/people", map[string]string{"Origin": "http://127.0.0.1:8080"}, 201},
		{"a name that resolves to us", "GET", "/api/bench", map[string]string{"Host": "elsewhere.test"}, 403},
		{"this machine by name", "GET", "/api/bench", map[string]string{"Host": "localhost:8080"}, 200},
	}
	for _, x := range tests {
		t.Run(x.name, func(t *testing.T) {
			body := ""
			if x.method == "POST" {
				body = person
			}
			if rec := b.sent(x.method, x.path, body, x.header); rec.Code != x.status {
				t.Errorf("%d, want %d: %s", rec.Code, x.status, rec.Body)
			}
		})
	}
}

// Every answer keeps itself to this origin, and what the API answers is kept nowhere.
func TestEveryAnswerIsGuarded(t *testing.T) {
	b := newBench(t)
	for path, cache := range map[string]string{"/": "no-cache", "/api/bench": "no-store", "/api/nothing": "no-store",
		"/assets/a.js": "public, max-age=31536000, immutable", "/healthz": ""} {
		h := b.sent("GET", path, "", nil).Header()
		for name, want := range map[string]string{"Cross-Origin-Resource-Policy": "same-origin",
			"Cross-Origin-Opener-Policy": "same-origin", "Referrer-Policy": "same-origin",
			"X-Content-Type-Options": "nosniff", "X-Frame-Options": "DENY", "Cache-Control": cache} {
			if got := h.Get(name); got != want {
				t.Errorf("%s: %s %q, want %q", path, name, got, want)
			}
		}
		if csp := h.Get("Content-Security-Policy"); !strings.Contains(csp, "default-src 'self'") ||
			strings.Contains(csp, "unsafe") {
			t.Errorf("%s: %q", path, csp)
		}
	}
}

// A path of the contract by a method that it does not take is told apart from one that is not there.
func TestAnotherMethodIsNotANotFound(t *testing.T) {
	b := newBench(t)
	id := newID()
	for path, item := range mustDoc(t).Paths.Map() {
		at := "/api" + strings.NewReplacer("{task}", "wash", "{part}", "machine", "{sight}", "cup").Replace(path)
		for strings.Contains(at, "{") {
			i, j := strings.Index(at, "{"), strings.Index(at, "}")
			at = at[:i] + id + at[j+1:]
		}
		for _, method := range []string{"GET", "POST", "PUT", "PATCH", "DELETE"} {
			if item.GetOperation(method) != nil {
				continue
			}
			rec := b.sent(method, at, "", nil)
			if rec.Code != http.StatusMethodNotAllowed || rec.Header().Get("Allow") == "" {
				t.Errorf("%s %s: %d, Allow %q", method, at, rec.Code, rec.Header().Get("Allow"))
			}
		}
	}
	if rec := b.sent("GET", "/api/nothing", "", nil); rec.Code != http.StatusNotFound {
		t.Errorf("%d", rec.Code)
	}
}

// What the disk will not do is said for what it is, as is a server that takes no write.
func TestDiskIsSaidForWhatItIs(t *testing.T) {
	for err, want := range map[error]string{
		sqlite3.Error{Code: sqlite3.ErrFull}:     "disk_full",
		sqlite3.Error{Code: sqlite3.ErrReadonly}: "read_only",
		sqlite3.Error{Code: sqlite3.ErrCorrupt}:  "damaged",
		sqlite3.Error{Code: sqlite3.ErrIoErr}:    "disk",
		sqlite3.Error{Code: sqlite3.ErrBusy}:     "busy",
		syscall.ENOSPC:                           "disk_full", // of a file beside the database
		syscall.EACCES:                           "read_only",
	} {
		p := problemOf(fmt.Errorf("a drink: %w", err))
		if p.Code != want || p.Status < 500 || p.Detail == nil {
			t.Errorf("%v: %+v", err, p.Problem)
		}
	}
	b := newBench(t)
	if rec := b.sent("GET", "/healthz", "", nil); rec.Code != 200 {
		t.Errorf("%d %s", rec.Code, rec.Body)
	}
	b = newBench(t) // an answer holds for a moment
	if err := b.app.Close(); err != nil {
		t.Fatal(err)
	}
	if rec := b.sent("GET", "/healthz", "", nil); rec.Code != 503 || !strings.Contains(rec.Body.String(), "no_write") {
		t.Errorf("%d %s", rec.Code, rec.Body)
	}
}

// How the database is kept is said, changed, and copied at a press.
func TestHowItIsKept(t *testing.T) {
	b := newBench(t)
	var k Kept
	b.call("GET", "/api/kept", nil, 200, &k)
	if k.Keep != 7 || len(k.Copies) != 0 || k.Tried != nil || k.Folder == "" {
		t.Errorf("%+v", k)
	}
	b.call("PUT", "/api/kept", fields{"keep": 61}, 422, nil)
	b.call("PUT", "/api/kept", fields{"keep": 2}, 200, &k)
	for range 3 {
		b.now = b.now.AddDate(0, 0, 1)
		b.call("POST", "/api/kept/copies", nil, 201, &k)
	}
	if k.Keep != 2 || len(k.Copies) != 2 || !k.Copies[0].At.Equal(b.now) || k.Copies[0].Bytes == 0 || k.Failed != nil {
		t.Errorf("%+v", k)
	}
}

// What was taken away once may be taken away again, by whoever lost the answer: it is the same one. What never was is
// told apart where the log knows it.
func TestDeletedTwiceIsDeleted(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	at := "/api/machines/" + id
	made := func(path string, body fields) string {
		t.Helper()
		body["id"] = newID()
		b.call("POST", path, body, 201, nil)
		return body["id"].(string)
	}
	person := made("/api/people", fields{"name": "Rui"})
	away := made(at+"/away", fields{"from": "2026-03-20", "to": "2026-03-24"})
	care := made(at+"/care", fields{"task": "screen", "parts": []string{"group-1"}, "at": b.now.AddDate(0, -1, 0)})
	source := made("/api/waters", fields{"name": "Tap"})
	reading := made("/api/waters/"+source+"/readings", fields{"taken": b.now, "how": "strip",
		"sample": fields{"hardness": fields{"low": 4, "high": 7, "unit": "dh"}}})
	look := b.look(id, "seal", "group-1", "stiff", nil, 201)
	for _, x := range []struct {
		path string
		want int
		none bool // one that never was is told apart
	}{{"/api/people/" + person, 200, true}, {at + "/away/" + away, 200, true}, {at + "/care/" + care, 204, true},
		{"/api/readings/" + reading, 200, true}, {at + "/looks/" + look, 204, true}, {at + "/photo", 204, false},
		{at + "/moved", 204, false}, {at + "/placings/soak/machine", 204, false},
		{"/api/products/harbour", 200, false}, {"/api/devices/" + newID(), 204, false}} {
		for range 2 {
			b.call("DELETE", x.path, nil, x.want, nil)
		}
		if x.none {
			b.call("DELETE", x.path[:strings.LastIndex(x.path, "/")+1]+newID(), nil, 404, nil)
		}
	}
}

// Files and pictures have a bound of their own, below that of presses: while they are full, a press is answered.
func TestHeavyOnesHoldUpNoPress(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	enough, entered := make(chan struct{}), make(chan struct{}, 2)
	slow := (&Server{}).roomForHeavy(b.router, 2)(func(c *echo.Context) error {
		entered <- struct{}{}
		<-enough
		return nil
	})
	ask := func(path string) error {
		req := httptest.NewRequest("POST", path, nil)
		return slow(echo.New().NewContext(req, httptest.NewRecorder()))
	}
	file := "/api/machines/" + id + "/imports"
	var two sync.WaitGroup
	for range 2 {
		two.Go(func() {
			if err := ask(file); err != nil {
				t.Error(err)
			}
		})
		<-entered
	}
	var p *problem
	if err := ask(file); !errors.As(err, &p) || p.Status != 503 || p.retry == 0 {
		t.Errorf("a third file: %v", err)
	}
	press := make(chan error, 1)
	go func() { press <- ask("/api/machines/" + id + "/use") }()
	<-entered
	close(enough)
	if err := <-press; err != nil {
		t.Errorf("a press: %v", err)
	}
	two.Wait()
	if err := ask(file); err != nil {
		t.Errorf("once there is room: %v", err)
	}
}

// More than there is room for are told when to come again, at once: none waits for long, none is lost without a word,
// and what was acknowledged is there, once.
func TestACrowdIsBounded(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	var done, busy atomic.Int64
	var crowd sync.WaitGroup
	for range 400 {
		crowd.Add(1)
		go func() {
			defer crowd.Done()
			body := fmt.Sprintf(`{"id":%q,"kind":"double","count":1,"part":"machine","at":%q}`, newID(),
				b.now.Format(time.RFC3339))
			rec := b.sent("POST", "/api/machines/"+id+"/use", body, nil)
			switch {
			case rec.Code == 201 || rec.Code == 200:
				done.Add(1)
			case rec.Code == 503 && rec.Header().Get("Retry-After") != "":
				busy.Add(1)
			default:
				t.Errorf("%d %s", rec.Code, rec.Body)
			}
		}()
	}
	crowd.Wait()
	var bench Bench
	b.call("GET", "/api/bench", nil, 200, &bench)
	got := bench.Machines[0].Today.Drinks
	if int64(got) != done.Load() || done.Load()+busy.Load() != 400 || done.Load() == 0 {
		t.Errorf("%v drinks, %d acknowledged, %d told to come again", got, done.Load(), busy.Load())
	}
}
