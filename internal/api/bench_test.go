package api

import (
	"bufio"
	"bytes"
	"database/sql"
	"encoding/json"
	"errors"
	"io"
	"net/http"
	"net/http/httptest"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/labstack/echo/v5"

	"freshanvil/internal/beside"
)

// BenchmarkLogDrink: logging a drink over HTTP, beside a bare Echo handler that answers as many
// bytes, and beside one that commits one row to a database of its own.
func BenchmarkLogDrink(b *testing.B) {
	s := newBench(b)
	id := s.add(home())
	s.call(
		"POST",
		"/api/machines/"+id+"/care",
		fields{"id": newID(), "task": "wash", "part": "group-1", "at": s.now},
		201,
		nil,
	)
	own := httptest.NewServer(s.handle)
	defer own.Close()
	post := func(base, path string) int {
		body, _ := json.Marshal(fields{"id": newID(), "kind": "double", "at": s.now})
		res, err := http.Post(base+path, "application/json", strings.NewReader(string(body)))
		if err != nil {
			b.Fatal(err)
		}
		defer res.Body.Close()
		raw, err := io.ReadAll(res.Body)
		if err != nil || res.StatusCode != http.StatusCreated {
			b.Fatalf("%s %s, %v", res.Status, raw, err)
		}
		return len(raw)
	}
	path := "/api/machines/" + id + "/use"
	size := post(own.URL, path)

	bare := echo.New()
	answer := map[string]string{"text": strings.Repeat("x", size)}
	bare.POST("/use", func(c *echo.Context) error {
		var in map[string]any
		if err := c.Bind(&in); err != nil {
			return err
		}
		return c.JSON(http.StatusCreated, answer)
	})
	plain := httptest.NewServer(bare)
	defer plain.Close()
	bare.POST("/row", committer(b, answer))
	b.Run("beside_an_answer", func(b *testing.B) {
		beside.Run(b, "bare_echo", func() { post(plain.URL, "/use") }, func() { post(own.URL, path) })
	})
	b.Run("beside_a_row", func(b *testing.B) {
		beside.Run(b, "bare_row", func() { post(plain.URL, "/row") }, func() { post(own.URL, path) })
	})
}

// committer is a bare handler that commits one row.
func committer(b *testing.B, answer any) echo.HandlerFunc {
	b.Helper()
	db, err := sql.Open("sqlite3", "file:"+filepath.Join(b.TempDir(), "bare.db")+
		"?_journal_mode=WAL&_synchronous=FULL&_busy_timeout=5000&_txlock=immediate")
	if err != nil {
		b.Fatal(err)
	}
	b.Cleanup(func() { _ = db.Close() })
	if _, err := db.Exec("CREATE TABLE rows (id TEXT PRIMARY KEY, kind TEXT, at TEXT)"); err != nil {
		b.Fatal(err)
	}
	return func(c *echo.Context) error {
		var in map[string]any
		if err := c.Bind(&in); err != nil {
			return err
		}
		tx, err := db.Begin()
		if err != nil {
			return err
		}
		if _, err := tx.Exec("INSERT INTO rows VALUES (?, ?, ?)", in["id"], in["kind"], in["at"]); err != nil {
			return errors.Join(err, tx.Rollback())
		}
		if err := tx.Commit(); err != nil {
			return err
		}
		return c.JSON(http.StatusCreated, answer)
	}
}

// BenchmarkBench: the bench of forty machines, and how many bytes of it each takes.
func BenchmarkBench(b *testing.B) {
	s := newBench(b)
	const machines = 40
	for i := range machines {
		id := s.add(home())
		if i%2 == 0 {
			s.call("POST", "/api/machines/"+id+"/care",
				fields{"id": newID(), "task": "wash", "part": "group-1", "at": s.now.AddDate(0, 0, -i)}, 201, nil)
		}
	}
	size := 0
	read := func() { size = s.raw("GET", "/api/bench", "").Body.Len() }
	read()
	beside.Run(b, "one_machine", func() { s.raw("GET", "/api/bench?machine_id="+s.first().Id, "") }, read)
	b.ReportMetric(float64(size)/machines/1000, "kB_a_machine")
}

// begun starts a run of the home machine and leads it to its detergent pulses.
func begun(b *bench, machine string) *live {
	var run Run
	b.call(
		"POST",
		"/api/machines/"+machine+"/runs",
		fields{
			"id":       newID(),
			"device":   "phone",
			"parts":    []string{"group-1"},
			"practice": true,
			"speed":    1,
			"method":   "half_teaspoon",
		},
		201,
		&run,
	)
	l := &live{bench: b, id: run.Id, Run: run}
	for range 3 {
		l.press("done")
	}
	return l
}

// BenchmarkPress: presses a second through the run's door, written down and
// folded anew each time, beside a bare Echo handler that answers as many bytes.
func BenchmarkPress(b *testing.B) {
	s := newBench(b)
	machine := s.add(home())
	own := httptest.NewServer(s.handle)
	defer own.Close()
	post := func(base, path string, body fields, into any) int {
		raw, _ := json.Marshal(body)
		res, err := http.Post(base+path, "application/json", bytes.NewReader(raw))
		if err != nil {
			b.Fatal(err)
		}
		defer res.Body.Close()
		got, err := io.ReadAll(res.Body)
		if err != nil || res.StatusCode != http.StatusOK {
			b.Fatalf("%s %.200s, %v", res.Status, got, err)
		}
		if into != nil {
			if err := json.Unmarshal(got, into); err != nil {
				b.Fatal(err)
			}
		}
		return len(got)
	}
	l, pressed, size := begun(s, machine), 0, 0
	press := func() {
		if pressed++; pressed%60 == 0 { // a wash of one group takes some fourteen
			l = begun(s, machine)
		}
		kind := "begin"
		if l.Segment.Kind == "on" {
			kind = "hold"
		}
		next := struct{ Segment Segment }{}
		size = post(
			own.URL,
			"/api/runs/"+l.id+"/presses",
			fields{
				"id":      newID(),
				"device":  "phone",
				"step":    "detergent",
				"segment": l.Segment.Index,
				"kind":    kind,
				"at":      s.now,
			},
			&next,
		)
		l.Segment = next.Segment
	}
	press()
	bare := echo.New()
	answer := map[string]string{"text": strings.Repeat("x", size)}
	bare.POST("/press", func(c *echo.Context) error {
		var in map[string]any
		if err := c.Bind(&in); err != nil {
			return err
		}
		return c.JSON(http.StatusOK, answer)
	})
	plain := httptest.NewServer(bare)
	defer plain.Close()
	beside.Run(
		b,
		"bare_echo",
		func() { post(plain.URL, "/press", fields{"id": newID(), "kind": "begin"}, &struct{}{}) },
		press,
	)
}

// BenchmarkSecondDevice: from a press on one device until another, told by
// server-sent events, has the new state; beside the second it may take.
func BenchmarkSecondDevice(b *testing.B) {
	s := newBench(b)
	machine := s.add(home())
	own := httptest.NewServer(s.handle)
	defer own.Close()
	var l *live
	var stream *http.Response
	var lines *bufio.Scanner
	fresh := func() {
		if stream != nil {
			_ = stream.Body.Close()
		}
		l = begun(s, machine)
		var err error
		if stream, err = http.Get(own.URL + "/api/events"); err != nil {
			b.Fatal(err)
		}
		lines = bufio.NewScanner(stream.Body)
	}
	var total time.Duration
	n := 0
	for b.Loop() {
		if n++; n%60 == 1 { // a wash of one group takes some fourteen presses
			fresh()
		}
		kind := "begin"
		if l.Segment.Kind == "on" {
			kind = "hold"
		}
		at := time.Now()
		l.press(kind)
		for lines.Scan() && lines.Text() != "event: changed" {
		}
		res, err := http.Get(own.URL + "/api/runs/" + l.id)
		if err != nil {
			b.Fatal(err)
		}
		if _, err := io.Copy(io.Discard, res.Body); err != nil {
			b.Fatal(err)
		}
		_ = res.Body.Close()
		total += time.Since(at)
	}
	_ = stream.Body.Close()
	each := total.Seconds() * 1000 / float64(n)
	b.ReportMetric(each, "ms_to_second_device")
	b.ReportMetric(each/1000, "of_1_s")
	b.ReportMetric(0, "ns/op")
}

// BenchmarkWhatIf: another water tried in a machine with half a year behind it,
// with the treatments side by side, beside the 5 ms it may take at the server.
func BenchmarkWhatIf(b *testing.B) {
	s := newBench(b)
	id := s.add(home())
	own := httptest.NewServer(s.handle)
	defer own.Close()
	for _, table := range []bool{false, true} {
		name := "date"
		if table {
			name = "date_and_table"
		}
		b.Run(name, func(b *testing.B) {
			n := 0
			for b.Loop() {
				n++
				body, _ := json.Marshal(
					fields{
						"sample": fields{"hardness": fields{"value": 100 + n%300, "unit": "mg_l_caco3"}},
						"drinks": 2 + n%20,
						"table":  table,
					},
				)
				res, err := http.Post(
					own.URL+"/api/machines/"+id+"/water/if",
					"application/json",
					bytes.NewReader(body),
				)
				if err != nil {
					b.Fatal(err)
				}
				if _, err := io.Copy(io.Discard, res.Body); err != nil || res.StatusCode != http.StatusOK {
					b.Fatal(res.Status, err)
				}
				_ = res.Body.Close()
			}
			each := b.Elapsed().Seconds() * 1000 / float64(n)
			b.ReportMetric(each, "ms")
			b.ReportMetric(each/5, "of_5_ms")
			b.ReportMetric(0, "ns/op")
		})
	}
}

// BenchmarkManyOpenRuns: a drink and the bench of its machine that is asked for after it, while 200 runs go on, beside
// the same while 20 do.
func BenchmarkManyOpenRuns(b *testing.B) {
	at := func(runs int) func() {
		s := newBench(b)
		for range runs {
			s.start(s.add(home()))
		}
		id := s.add(home())
		s.call("POST", "/api/machines/"+id+"/care",
			fields{"id": newID(), "task": "wash", "part": "group-1", "at": s.now}, 201, nil)
		once := func() {
			s.call("POST", "/api/machines/"+id+"/use", fields{"id": newID(), "kind": "double", "at": s.now}, 201, nil)
			s.raw("GET", "/api/bench?machine_id="+id, "")
		}
		once()
		return once
	}
	few, many := at(20), at(200)
	beside.Run(b, "20_runs", few, many)
}
