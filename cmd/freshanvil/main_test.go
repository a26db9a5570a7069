package main

import (
	"context"
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
