package main

import (
	"context"
	"strings"
	"testing"
)

func TestCommandRefuses(t *testing.T) {
	for args, want := range map[string]string{
		"brew":                         `no command "brew"`,
		"serve --listen 0.0.0.0":       "no login yet",
		"serve --listen anvil.example": "loopback",
		"serve --port 70000":           "port is 70000; allowed: 0 to 65535",
		"demo --speed 0":               "speed is 0; allowed: 1 to 600",
		"serve --no-such-flag":         "not defined",
	} {
		if err := command(context.Background(), strings.Fields(args)); err == nil ||
			!strings.Contains(err.Error(), want) {
			t.Errorf("freshanvil %s: %v, want %q", args, err, want)
		}
	}
}
