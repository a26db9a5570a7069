package e2e

import (
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"strings"
	"sync"
	"testing"
	"time"
)

// stub answers for a server that is well, down, busy or refuses, and keeps the presses that it took.
type stub struct {
	mu    sync.Mutex
	mode  string
	taken []string // ids of presses
	step  string
	slow  time.Duration // what its clock is behind by
}

func (s *stub) isBehind(d time.Duration) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.slow = d
}

func (s *stub) is(mode string) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.mode = mode
}

func (s *stub) presses() []string {
	s.mu.Lock()
	defer s.mu.Unlock()
	return append([]string{}, s.taken...)
}

func (s *stub) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	s.mu.Lock()
	defer s.mu.Unlock()
	refuse := func(status int, title string) {
		w.Header().Set("Content-Type", "application/problem+json")
		w.WriteHeader(status)
		fmt.Fprintf(w, `{"type":"about:blank","status":%d,"code":"x","title":%q}`, status, title)
	}
	switch {
	case s.mode == "down":
		panic(http.ErrAbortHandler)
	case s.mode == "busy":
		refuse(503, "It is busy")
		return
	case r.Method == http.MethodPost:
		var press struct{ ID, Step string }
		if err := json.NewDecoder(r.Body).Decode(&press); err != nil {
			refuse(400, "not a press")
			return
		}
		if s.mode == "refuses" {
			refuse(409, "Another run has it")
			return
		}
		s.taken = append(s.taken, press.ID)
		s.step = "after " + press.Step
	}
	now := time.Now().Add(-s.slow).UTC().Format(time.RFC3339Nano)
	w.Header().Set("Content-Type", "application/json")
	fmt.Fprintf(w, `{"id":"r","server_time":%q,"speed":1,"last_device":"d","step":{"id":%q},
		"segment":{"index":0,"kind":"open","starts_at":%q},"schedule":[{"index":0,"kind":"open","starts_at":%q}]}`,
		now, s.step, now, now)
}

// fixture serves the page of the tests with a server behind it that does as it is told.
func fixture(t *testing.T) (*page, *stub) {
	t.Helper()
	if _, err := os.Stat("../web/fixture-dist/index.html"); err != nil {
		t.Fatalf("%v: run make fixture first", err)
	}
	s := &stub{mode: "well", step: "first"}
	mux := http.NewServeMux()
	mux.Handle("/api/", s)
	mux.Handle("/", http.FileServer(http.Dir("../web/fixture-dist")))
	server := httptest.NewServer(mux)
	t.Cleanup(server.Close)
	p := (&app{t: t, address: server.URL, moment: noon(t), time: &passing{}}).open(browse(t), "/", 800, 600)
	p.until("the fixture", func() bool { return p.eval(`() => typeof window.follow`) == "function" })
	return p, s
}

type told struct {
	Waiting, Lost []string
	Step          string
	Busy          bool
}

func (p *page) told() (t told) {
	p.t.Helper()
	if err := json.Unmarshal([]byte(p.eval(`() => JSON.stringify(told())`)), &t); err != nil {
		p.t.Fatal(err)
	}
	return t
}

// TestLiveQueue: a press that finds no server is kept across a reload and sent once when there is one again; what is
// refused for good is told and not sent again; a busy server is asked again.
func TestLiveQueue(t *testing.T) {
	t.Parallel()
	p, s := fixture(t)
	press := func(kind string) { p.eval(`async (kind) => { await shelf.live.press(kind); return '' }`, kind) }
	until := func(what string, ok func(told) bool) {
		t.Helper()
		p.until(what, func() bool {
			p.eval(`() => { shelf.live.tick(); return '' }`)
			return ok(p.told())
		})
	}
	p.eval(`async () => { follow('r'); await shelf.live.load(); return '' }`)
	if at := p.told().Step; at != "first" {
		t.Fatalf("at %q", at)
	}
	s.is("down")
	press("done")
	press("done") // again, before an answer came
	if got := p.told(); len(got.Waiting) != 1 || got.Busy || len(s.presses()) != 0 {
		t.Errorf("down: %+v, %d taken", got, len(s.presses()))
	}
	p.must(p.Reload())
	p.until("the fixture", func() bool { return p.eval(`() => typeof window.follow`) == "function" })
	s.is("well")
	p.eval(`async () => { follow('r'); await shelf.live.load(); return '' }`)
	until("the kept press is sent", func(g told) bool { return len(g.Waiting) == 0 && g.Step == "after first" })
	if n := len(s.presses()); n != 1 {
		t.Errorf("sent %d times", n)
	}
	s.is("busy")
	press("begin")
	if got := p.told(); len(got.Waiting) != 1 || !got.Busy {
		t.Errorf("busy: %+v", got)
	}
	s.is("well")
	until("the server has time", func(g told) bool { return len(g.Waiting) == 0 && !g.Busy })
	s.is("refuses")
	press("hold")
	until("it is refused", func(g told) bool { return len(g.Waiting) == 0 && len(g.Lost) == 1 })
	if got := p.told(); got.Lost[0] != "Another run has it" || len(s.presses()) != 2 {
		t.Errorf("%+v, %d taken", got, len(s.presses()))
	}
}

// TestTheClockStandsRatherThanGoesBack: an answer that sets the clock back a little lets it stand, so that no part of a
// pulse begins twice; a server whose clock was set is followed.
func TestTheClockStandsRatherThanGoesBack(t *testing.T) {
	t.Parallel()
	p, s := fixture(t)
	now := func() (at float64) {
		t.Helper()
		p.eval(`async () => { await shelf.live.load(); shelf.live.tick(); return '' }`)
		p.must(json.Unmarshal([]byte(p.eval(`() => String(shelf.live.now)`)), &at))
		return at
	}
	p.eval(`() => { const at = performance.now(); performance.now = () => at; follow('r'); return '' }`)
	first := now()
	s.isBehind(900 * time.Millisecond)
	if at := now(); at < first {
		t.Errorf("it went back by %.0f ms", first-at)
	}
	s.isBehind(0)
	if at := now(); at <= first {
		t.Errorf("it stands at %.0f", at)
	}
	s.isBehind(time.Hour)
	if at := now(); at > first-3e6 {
		t.Errorf("a server an hour behind is not followed: %.0f ms", at-first)
	}
}

// TestLateAnswersAreDropped: the answer to what was asked last stands, whichever comes last; what fails leaves what is
// shown.
func TestLateAnswersAreDropped(t *testing.T) {
	t.Parallel()
	p, _ := fixture(t)
	got := p.eval(`async () => {
		const said = await Promise.all([late('old', 120), late('new', 10)])
		await new Promise((r) => setTimeout(r, 200))
		return JSON.stringify([said, shelf.resource.value])
	}`)
	if got != `[[null,"new"],"new"]` {
		t.Errorf("%s", got)
	}
	got = p.eval(`async () => { await broken(); return shelf.resource.value + ', ' + shelf.resource.problem.title }`)
	if got != "new, it broke" {
		t.Errorf("%s", got)
	}
	got = p.eval(`async () => { await late('well again', 5); return String(shelf.resource.problem) }`)
	if got != "undefined" {
		t.Errorf("a problem that is over still stands: %s", got)
	}
}

// TestFormats: numbers no finer than they are good for, dates with their year where it is another, words for lengths.
func TestFormats(t *testing.T) {
	t.Parallel()
	p, _ := fixture(t)
	for _, c := range []struct{ call, want string }{
		{`f.figure(0.384)`, "0.38"}, {`f.figure(9.21)`, "9.2"}, {`f.figure(33.8)`, "34"}, {`f.figure(12848)`, "12,848"},
		{`f.poured(0.384)`, "0.38 L"}, {`f.poured(1.26)`, "1.3 L"}, {`f.poured(0.996)`, "1 L"},
		{`f.money(506.63)`, "€507"}, {`f.money(3.5)`, "€3.50"},
		{`f.span(1)`, "1 day"}, {`f.span(10)`, "10 days"}, {`f.span(21)`, "3 weeks"}, {`f.span(61)`, "2 months"},
		{`f.span(365)`, "a year"}, {`f.span(4000)`, "no end"},
		{`f.listed(['a'])`, "a"}, {`f.listed(['a', 'b', 'c'])`, "a, b and c"},
		{`f.day('2026-03-10T02:00:00Z', 'America/New_York')`, "9 March"},
		{`f.dated('2025-12-24T12:00:00Z', 'UTC')`, "24 December 2025"},
		{`f.dated('2026-12-24T12:00:00Z', 'UTC')`, "24 December"},
		{`f.clock('2026-03-10T18:05:00Z', 'Europe/Lisbon')`, "18:05"},
		{`f.range({ earliest: '2026-12-05T12:00:00Z', latest: '2026-12-14T12:00:00Z' }, 'UTC')`, "5 – 14 Dec"},
		{`f.range({ earliest: '2026-12-05T12:00:00Z', latest: '2026-12-05T18:00:00Z' }, 'UTC')`, ""},
		{`f.range({ earliest: '2026-11-28T12:00:00Z', latest: '2026-12-04T12:00:00Z' }, 'UTC')`, "28 Nov – 4 Dec"},
		{`f.every({ daily: true })`, "every day, after the last drink"},
		{`f.every({ shots: 50, coffee_g: 1000, days: 30 })`,
			"every 50 shots, 1 kg of coffee or 30 days, whichever comes first"},
		{`f.lasting(89.4)`, "89 min"}, {`f.lasting(89.5)`, "1 h 30"}, {`f.lasting(419.7)`, "7 h 00"},
		{`f.inHours(59 * 60)`, "59 min"}, {`f.inHours(3600)`, "1 h"}, {`f.inHours(5400)`, "1 h 30 min"},
		{`f.groupOf('group-2') + ' ' + f.groupOf('machine')`, "2 0"},
		{`f.inWords(['group-1', 'group-2', 'group-3'])`, "groups 1, 2 and 3"},
		{`f.residue({ value: 0.4 })`, "under 1 mg/L"},
		{`f.worked({ value: 44.6, unit: 'g', step: 1 })`, "45 g"},
		{`f.told({ value: 0.0931, unit: 'mm', step: 0.01 })`, "0.09"},
	} {
		got := p.eval(`(call) => { const f = shelf.format; return String(eval(call)) }`, c.call)
		got = strings.ReplaceAll(got, "\u00a0", " ")
		if got != c.want {
			t.Errorf("%s: %q, want %q", c.call, got, c.want)
		}
	}
}
