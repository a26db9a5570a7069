package store_test

import (
	"bytes"
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"testing"

	"freshanvil/internal/store"
)

var long = flag.Bool("long", false, "as often as takes long: make long")

// A write-ahead log that is cut off or has a byte turned, as after a power cut on a bad disk, leaves no gap: what opens
// holds every write up to some point and none beyond, and is sound.
func TestDamagedLogsLeaveNoGap(t *testing.T) {
	file := filepath.Join(t.TempDir(), "bench.db")
	s, err := store.Open(t.Context(), file)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = s.Close() }()
	const writes = 60
	for n := range writes {
		err := s.Write(t.Context(), func(tx *store.Store) error {
			return tx.SetMeta(t.Context(), fmt.Sprintf("n%03d", n), "x")
		})
		if err != nil {
			t.Fatal(err)
		}
	}
	main, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	log, err := os.ReadFile(file + "-wal")
	if err != nil || len(log) < writes*1000 {
		t.Fatalf("a log of %d bytes, %v", len(log), err)
	}
	times := 24
	if *long {
		times = 240
	}
	at := filepath.Join(t.TempDir(), "x.db")
	short := 0
	for i := range times {
		where := 40 + (len(log)-41)*i/times
		hurt := bytes.Clone(log[:where])
		if i%2 == 0 { // a byte turned, everything after it there
			hurt = bytes.Clone(log)
			hurt[where] ^= 0x41
		}
		for _, end := range []string{"", "-wal", "-shm"} {
			_ = os.Remove(at + end)
		}
		if err := os.WriteFile(at, main, 0o600); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(at+"-wal", hurt, 0o600); err != nil {
			t.Fatal(err)
		}
		x, err := store.Open(t.Context(), at)
		if err != nil {
			t.Fatalf("damage at %d: %v", where, err)
		}
		there, gap := 0, false
		for n := range writes {
			said, err := x.Meta(t.Context(), fmt.Sprintf("n%03d", n))
			if err != nil {
				t.Fatal(err)
			}
			if said == "" {
				gap = true
			} else if there++; gap {
				t.Errorf("damage at %d: write %d is there, one before it is not", where, n)
			}
		}
		if err := x.Close(); err != nil {
			t.Fatal(err)
		}
		if err := store.Sound(t.Context(), at, true); err != nil {
			t.Errorf("damage at %d: %v", where, err)
		}
		if there < writes {
			short++
		}
	}
	if short < times/2 {
		t.Errorf("only %d of %d damages cost anything: they did not reach the log", short, times)
	}
}
