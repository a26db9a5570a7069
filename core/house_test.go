// Package core has no code of its own: this holds the arrows between its
// packages.
package core

import (
	"os/exec"
	"slices"
	"strings"
	"testing"
)

// Arrows run one way, and core reaches nothing but the standard library and
// gonum. A package may import those that stand before it.
func TestArrowsRunOneWay(t *testing.T) {
	order := []string{
		"units",
		"reason",
		"water",
		"boiler",
		"scale",
		"machine",
		"backflush",
		"circuit",
		"treat",
		"plant",
		"descale",
		"care",
		"supply",
		"job",
		"run",
	}
	out, err := exec.Command("go", "list", "-f", `{{.ImportPath}} {{join .Imports " "}}`, "./...").Output()
	if err != nil {
		t.Fatal(err)
	}
	seen := 0
	for line := range strings.Lines(string(out)) {
		fields := strings.Fields(line)
		name := strings.TrimPrefix(fields[0], "freshanvil/core/")
		if name == "freshanvil/core" {
			continue
		}
		at := slices.Index(order, name)
		if at < 0 {
			t.Errorf("core/%s has no place in the order: give it one", name)
			continue
		}
		seen++
		for _, path := range fields[1:] {
			switch own, inside := strings.CutPrefix(path, "freshanvil/core/"); {
			case inside && slices.Index(order, own) >= at:
				t.Errorf("core/%s imports core/%s, which stands after it", name, own)
			case !inside && strings.HasPrefix(path, "freshanvil/"):
				t.Errorf("core/%s imports %s", name, path)
			case !inside && strings.Contains(path, ".") && !strings.HasPrefix(path, "gonum.org/v1/gonum/"):
				t.Errorf("core/%s imports %s", name, path)
			case slices.Contains([]string{"os", "net/http", "database/sql", "io/fs"}, path):
				t.Errorf("core/%s imports %s: no input or output in core", name, path)
			}
		}
	}
	if seen != len(order) {
		t.Errorf("%d packages seen, want %d", seen, len(order))
	}
}
