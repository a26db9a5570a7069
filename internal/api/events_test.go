package api

import (
	"bufio"
	"context"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"
)

// A stream says "changed" for every press, whoever made it, and ends with the
// server; a run that is not there has none.
func TestEventsOfARun(t *testing.T) {
	stop, end := context.WithCancel(context.Background())
	defer end()
	b := newBench(t, stop)
	l := b.start(b.add(home()))
	server := httptest.NewServer(b.handle)
	defer server.Close()
	if res, err := http.Get(server.URL + "/api/runs/" + newID() + "/events"); err != nil ||
		res.StatusCode != http.StatusNotFound {
		t.Fatalf("%v, %v", res, err)
	}
	res, err := http.Get(server.URL + "/api/runs/" + l.id + "/events")
	if err != nil || res.Header.Get("Content-Type") != "text/event-stream" {
		t.Fatalf("%v, %v", res, err)
	}
	defer res.Body.Close()
	lines := make(chan string)
	go func() {
		defer close(lines)
		for s := bufio.NewScanner(res.Body); s.Scan(); {
			lines <- s.Text()
		}
	}()
	next := func(want string) {
		t.Helper()
		for {
			select {
			case line, open := <-lines:
				if !open {
					t.Fatal("the stream ended")
				}
				if strings.Contains(line, want) {
					return
				}
			case <-time.After(3 * time.Second):
				t.Fatalf("%q never came", want)
			}
		}
	}
	next("retry")
	l.press("done")
	next("changed")
	l.press("done")
	next("changed")
	if l.Device != "phone" || l.LastDevice != "phone" {
		t.Errorf("device %q, last %q", l.Device, l.LastDevice)
	}
	end()
	for range lines { // the stream ends with the server
	}
}

// BenchmarkEvents: how long a press takes to reach a stream, beside the press
// alone.
func BenchmarkEvents(b *testing.B) {
	var h hub
	changed, done := h.listen("run")
	defer done()
	b.ReportAllocs()
	for b.Loop() {
		h.tell("run")
		<-changed
	}
}
