package main

import (
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"
)

// A clock that was set runs on from there as the machine's own does.
func TestClockRunsOnFromWhereItWasSet(t *testing.T) {
	own := time.Date(2030, 1, 1, 12, 0, 0, 0, time.UTC)
	now, err := options{clock: "2026-03-10T00:30:00+13:00"}.now(func() time.Time { return own })
	if err != nil {
		t.Fatal(err)
	}
	own = own.Add(90 * time.Second)
	if want := time.Date(2026, 3, 9, 11, 31, 30, 0, time.UTC); !now().Equal(want) {
		t.Errorf("%v, want %v", now(), want)
	}
}

// What the clock is ahead is read from its file each time; what is no number leaves it where it was.
func TestClockIsAheadByAFile(t *testing.T) {
	file := filepath.Join(t.TempDir(), "ahead")
	write := func(text string) {
		t.Helper()
		if err := os.WriteFile(file, []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	o := options{clock: "2026-03-10T00:00:00Z", ahead: file}
	own := time.Date(2030, 1, 1, 12, 0, 0, 0, time.UTC)
	if _, err := o.now(func() time.Time { return own }); err == nil || !strings.Contains(err.Error(), "allowed: a file") {
		t.Errorf("without the file: %v", err)
	}
	write("0\n")
	now, err := o.now(func() time.Time { return own })
	if err != nil {
		t.Fatal(err)
	}
	set := time.Date(2026, 3, 10, 0, 0, 0, 0, time.UTC)
	for _, x := range []struct {
		text string
		want time.Duration
	}{{"0", 0}, {"90.5", 90500 * time.Millisecond}, {"", 90500 * time.Millisecond}, {"3600", time.Hour}} {
		write(x.text)
		if got := now().Sub(set); got != x.want {
			t.Errorf("%q: %v ahead, want %v", x.text, got, x.want)
		}
	}
}

func TestCommandRefuses(t *testing.T) {
	for args, want := range map[string]string{
		"brew":                         `no command "brew"`,
		"serve --listen 0.0.0.0":       "only over TLS",
		"serve --listen anvil.example": "allowed: an address",
		"serve --origin http://bench.example.org": "allowed: where browsers find it",
		"serve --cert a.pem":                      "cert and key go together",
		"serve --port 70000":                      "port is 70000; allowed: 0 to 65535",
		"demo --speed 0":                          "speed is 0; allowed: 1 to 600",
		"serve --clock noon":                      "clock is \"noon\"; allowed: an instant such as 2026-03-10T07:00:00Z",
		"serve --no-such-flag":                    "not defined",
	} {
		if err := command(context.Background(), strings.Fields(args)); err == nil ||
			!strings.Contains(err.Error(), want) {
			t.Errorf("freshanvil %s: %v, want %q", args, err, want)
		}
	}
}
