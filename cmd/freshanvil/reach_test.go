package main

import (
	"net"
	"os"
	"path/filepath"
	"slices"
	"testing"
	"time"
)

// Only the machine itself reaches a server without a login; beyond it, nothing is served without TLS.
func TestReach(t *testing.T) {
	now := time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)
	base := filepath.Join(t.TempDir(), "bench.db")
	tests := []struct {
		name              string
		o                 options
		guarded, own, bad bool
		origin            string
	}{
		{"this machine", options{listen: "127.0.0.1"}, false, false, false, ""},
		{"this machine, the newer way", options{listen: "::1"}, false, false, false, ""},
		{"this machine over TLS", options{listen: "127.0.0.1", tls: true, port: 8443}, true, true, false,
			"https://localhost:8443"},
		{"behind a proxy on this machine", options{listen: "127.0.0.1", origin: "https://bench.example.org"}, true, false,
			false, "https://bench.example.org"},
		{"a network in the clear", options{listen: "192.0.2.4"}, false, false, true, ""},
		{"a network in the clear, for a proxy elsewhere", options{listen: "192.0.2.4", origin: "https://bench.example.org"},
			false, false, true, ""},
		{"a network over its own TLS", options{listen: "192.0.2.4", tls: true, port: 8443}, true, true, false,
			"https://192.0.2.4:8443"},
		{"an origin in the clear", options{listen: "192.0.2.4", origin: "http://bench.example.org"}, false, false, true, ""},
		{"an origin with a path", options{listen: "192.0.2.4", origin: "https://bench.example.org/x"}, false, false, true,
			""},
		{"a name", options{listen: "bench"}, false, false, true, ""},
		{"a key alone", options{listen: "192.0.2.4", key: "k.pem"}, false, false, true, ""},
	}
	for _, x := range tests {
		t.Run(x.name, func(t *testing.T) {
			x.o.db = base
			r, err := x.o.reachOf(now)
			if (err != nil) != x.bad {
				t.Fatalf("%v", err)
			}
			if x.bad {
				return
			}
			if r.guarded != x.guarded || (r.config != nil) != x.own || (r.fingerprint != "") != x.own ||
				x.origin != "" && !slices.Contains(r.origins, x.origin) {
				t.Errorf("%+v", r)
			}
		})
	}
}

// A certificate of its own is kept, so that who has trusted it need not again; it is made anew before it ends, and for
// an address that it does not name. Only its owner reads the key.
func TestOwnCertificate(t *testing.T) {
	now := time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)
	base := filepath.Join(t.TempDir(), "bench")
	here := []net.IP{net.IPv4(192, 0, 2, 4)}
	print := func(ips []net.IP, at time.Time) string {
		t.Helper()
		_, made, err := own(base, ips, at)
		if err != nil {
			t.Fatal(err)
		}
		if err := made.VerifyHostname("192.0.2.4"); err != nil {
			t.Error(err)
		}
		return fingerprint(made.Raw)
	}
	first := print(here, now)
	if len(first) != 32*3-1 || print(here, now.AddDate(0, 10, 0)) != first {
		t.Errorf("%s: another after ten months", first)
	}
	later := print(here, now.AddDate(1, 1, 0))
	if later == first {
		t.Error("it is let run out")
	}
	if print(append(here, net.IPv4(198, 51, 100, 7)), now.AddDate(1, 1, 0)) == later {
		t.Error("it does not name the new address")
	}
	if info, err := os.Stat(base + ".key.pem"); err != nil || info.Mode().Perm() != 0o600 {
		t.Errorf("%v, %v", info, err)
	}
}
