package api

import (
	"bufio"
	"context"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"testing"
	"time"
)

// A stream says which run was pressed, whoever pressed it, and ends with the server.
func TestEventsOfARun(t *testing.T) {
	stop, end := context.WithCancel(context.Background())
	defer end()
	b := newBench(t, stop)
	l := b.start(b.add(home()))
	server := httptest.NewServer(b.handle)
	defer server.Close()
	res, err := http.Get(server.URL + "/api/events")
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
	next("data: " + l.id)
	l.press("done")
	next("data: " + l.id)
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
	changed, done, err := h.listen("192.0.2.1")
	if err != nil {
		b.Fatal(err)
	}
	defer done()
	b.ReportAllocs()
	for b.Loop() {
		h.tell("run")
		<-changed.wake
		changed.take()
	}
}

// Streams are bounded, in all and to one address; one that is closed makes room. Who is over is told when to try again,
// and who reads slowly hears of each run once, or to look at all anew.
func TestStreamsAreBounded(t *testing.T) {
	var h hub
	var first func()
	for n := range mostOfAddress {
		_, done, err := h.listen("192.0.2.1")
		if err != nil {
			t.Fatalf("the %d. stream: %v", n+1, err)
		}
		first = done
	}
	_, _, err := h.listen("192.0.2.1")
	if p := problemOf(err); p.Status != http.StatusServiceUnavailable || p.retry == 0 {
		t.Errorf("%+v", p)
	}
	slow, _, err := h.listen("192.0.2.2")
	if err != nil {
		t.Fatal(err)
	}
	first()
	if _, _, err := h.listen("192.0.2.1"); err != nil {
		t.Errorf("after one was closed: %v", err)
	}
	for range 3 {
		h.tell("a")
		h.tell("b")
	}
	if got := slow.take(); len(got) != 2 {
		t.Errorf("%v", got)
	}
	for n := range mostPending + 5 {
		h.tell(newID() + string(rune(n)))
	}
	if got := slow.take(); len(got) > 10 || !slices.Contains(got, "") {
		t.Errorf("%d of them", len(got))
	}
	for n := range mostStreams {
		_, _, err = h.listen("198.51.100." + string(rune(n)))
	}
	if err == nil {
		t.Error("no bound in all")
	}
}
