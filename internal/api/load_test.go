package api

import (
	"bytes"
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"runtime"
	"slices"
	"sync"
	"sync/atomic"
	"testing"
	"time"
)

var load = flag.Duration("load", 3*time.Second, "how long the steady load lasts: half an hour in make long")

// holding is what the server holds at an instant: memory in use after it is cleared up, goroutines, the log of writes.
type holding struct {
	heap, wal  int64
	goroutines int
	asked      int64
}

// Under steady load nothing grows that should not: drinks are logged, benches, logs, calendars and runs are read, and
// streams come and go, for as long as is said; memory, goroutines and the log of writes at the end are those of the
// beginning, and every answer is one that was meant.
func TestSteadyLoad(t *testing.T) {
	b := newBench(t)
	var machines []string
	for i := range 5 {
		machines = append(machines, b.add(with("layout", []string{"dual_home", "hx_home", "hx_cafe"}[i%3])))
	}
	run := b.start(machines[0])
	server := httptest.NewServer(b.handle)
	defer server.Close()
	over, end := context.WithTimeout(t.Context(), *load)
	defer end()

	var asked, odd atomic.Int64
	var hands sync.WaitGroup
	client := &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: 32}}
	ask := func(method, path string, body any) {
		raw, _ := json.Marshal(body)
		req, err := http.NewRequestWithContext(over, method, server.URL+path, bytes.NewReader(raw))
		if err != nil {
			t.Error(err)
			return
		}
		req.Header.Set("Content-Type", "application/json")
		got, err := client.Do(req)
		if err != nil {
			return // it is over
		}
		defer got.Body.Close()
		_, _ = io.Copy(io.Discard, got.Body)
		asked.Add(1)
		// a disk that others keep busy may let a write wait for longer than is patient: said, and seldom
		if got.StatusCode >= 400 && odd.Add(1) < 5 && got.StatusCode != http.StatusServiceUnavailable {
			t.Errorf("%s %s: %s", method, path, got.Status)
		}
	}
	goes := func(every time.Duration, do func(i int)) {
		hands.Add(1)
		go func() {
			defer hands.Done()
			for i := 0; over.Err() == nil; i++ {
				do(i)
				time.Sleep(every)
			}
		}()
	}
	for range 3 {
		goes(40*time.Millisecond, func(i int) {
			ask("POST", "/api/machines/"+machines[1+i%4]+"/use", fields{"id": newID(), "kind": "double", "count": 1,
				"part": "group-1", "at": b.now})
		})
	}
	for i, path := range []string{"/api/bench", "/api/log", "/api/calendar.ics", "/api/machines/" + machines[2],
		"/api/runs/" + run.id, "/healthz"} {
		goes(time.Duration(60+20*i)*time.Millisecond, func(int) { ask("GET", path, nil) })
	}
	goes(100*time.Millisecond, func(int) { // a page comes, listens for a moment, and goes
		leave, gone := context.WithTimeout(over, 200*time.Millisecond)
		defer gone()
		req, _ := http.NewRequestWithContext(leave, "GET", server.URL+"/api/events", nil)
		if got, err := client.Do(req); err == nil {
			_, _ = io.Copy(io.Discard, got.Body)
			_ = got.Body.Close()
		}
	})

	var held []holding
	for range 30 {
		select {
		case <-over.Done():
		case <-time.After(*load / 30):
		}
		runtime.GC()
		var m runtime.MemStats
		runtime.ReadMemStats(&m)
		h := holding{heap: int64(m.HeapAlloc), goroutines: runtime.NumGoroutine(), asked: asked.Load()}
		if f, err := os.Stat(b.file + "-wal"); err == nil {
			h.wal = f.Size()
		}
		held = append(held, h)
	}
	hands.Wait()
	client.CloseIdleConnections()
	runtime.GC()
	runtime.GC()
	var idle runtime.MemStats
	runtime.ReadMemStats(&idle)
	first, last := most(held[3:13]), most(held[20:])
	t.Logf("%v: %d answers, %d odd; heap %.1f then %.1f MB, goroutines %d then %d, log of writes %.1f then %.1f MB",
		*load, asked.Load(), odd.Load(), float64(first.heap)/1e6, float64(last.heap)/1e6, first.goroutines, last.goroutines,
		float64(first.wal)/1e6, float64(last.wal)/1e6)
	t.Logf("at rest after it: %.1f MB", float64(idle.HeapAlloc)/1e6)
	if last.heap > first.heap*13/10+4e6 || last.goroutines > first.goroutines+40 || last.wal > max(first.wal*3/2, 16e6) {
		t.Errorf("it grows: %s", fmt.Sprint(held))
	}
	if asked.Load() < 100*odd.Load() || asked.Load() == 0 {
		t.Errorf("%d answers, %d of them odd", asked.Load(), odd.Load())
	}
}

// most is the most of each that was held; of the memory the least, which no request of the instant swells.
func most(list []holding) holding {
	return holding{
		heap: slices.MinFunc(list, func(x, y holding) int { return int(x.heap - y.heap) }).heap,
		wal:  slices.MaxFunc(list, func(x, y holding) int { return int(x.wal - y.wal) }).wal,
		goroutines: slices.MaxFunc(list, func(x, y holding) int {
			return x.goroutines - y.goroutines
		}).goroutines,
	}
}
