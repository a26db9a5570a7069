package e2e

import (
	"bytes"
	"compress/gzip"
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"testing"
	"time"
)

// BenchmarkFirstScreenScript: the script the first screen loads, gzipped,
// beside the budget of 100 kB.
func BenchmarkFirstScreenScript(b *testing.B) {
	page, err := os.ReadFile("../web/dist/index.html")
	if err != nil {
		b.Fatal(err)
	}
	size := 0
	for b.Loop() {
		size = 0
		for _, m := range regexp.MustCompile(`(?:src|href)="(/assets/[^"]+\.js)"`).FindAllSubmatch(page, -1) {
			raw, err := os.ReadFile(filepath.Join("../web/dist", string(m[1])))
			if err != nil {
				b.Fatal(err)
			}
			var out bytes.Buffer
			w, _ := gzip.NewWriterLevel(&out, gzip.BestCompression)
			if _, err := w.Write(raw); err != nil {
				b.Fatal(err)
			}
			if err := w.Close(); err != nil {
				b.Fatal(err)
			}
			size += out.Len()
		}
	}
	if size == 0 {
		b.Fatal("the page loads no script")
	}
	b.ReportMetric(float64(size)/1000, "kB_gzip")
	b.ReportMetric(float64(size)/100000, "of_100_kB_budget")
}

// BenchmarkColdStart: from starting the binary on a kept database to its first
// answer, beside the budget of 300 ms.
func BenchmarkColdStart(b *testing.B) {
	db := filepath.Join(b.TempDir(), "cold.db")
	run := func() time.Duration {
		began := time.Now()
		cmd := exec.Command("../bin/freshanvil", "serve", "--port", "18473", "--db", db)
		if err := cmd.Start(); err != nil {
			b.Fatal(err)
		}
		defer func() {
			_ = cmd.Process.Signal(os.Interrupt)
			_ = cmd.Wait()
		}()
		for time.Since(began) < 10*time.Second {
			res, err := http.Get("http://127.0.0.1:18473/api/bench")
			if err != nil {
				time.Sleep(time.Millisecond)
				continue
			}
			_, _ = io.Copy(io.Discard, res.Body)
			_ = res.Body.Close()
			return time.Since(began)
		}
		b.Fatal("no answer within ten seconds")
		return 0
	}
	run() // makes the database
	var total time.Duration
	n := 0
	for b.Loop() {
		total += run()
		n++
	}
	each := total.Seconds() * 1000 / float64(n)
	b.ReportMetric(each, "ms_to_first_answer")
	b.ReportMetric(each/300, "of_300_ms_budget")
}
