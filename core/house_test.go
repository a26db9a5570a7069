// Package core has no code of its own: this holds the arrows of the house.
package core

import (
	"maps"
	"os/exec"
	"slices"
	"strings"
	"testing"
)

// allowed are the arrows of the house: which package may import which, of ours. An arrow that is
// not here is refused, and so is one that nobody needs any more.
var allowed = map[string]string{
	"core/speak":     "",
	"core/units":     "",
	"core/reason":    "",
	"core/tables":    "",
	"core/water":     "core/reason core/tables core/units",
	"core/boiler":    "core/units",
	"core/scale":     "core/reason core/units",
	"core/machine":   "core/reason core/tables core/units",
	"core/task":      "core/machine core/units",
	"core/inspect":   "core/machine core/reason core/speak core/task core/units",
	"core/use":       "core/machine core/reason core/tables core/units",
	"core/backflush": "core/machine core/reason core/units",
	"core/circuit":   "core/boiler core/machine core/reason core/scale core/units core/water",
	"core/treat":     "core/circuit core/machine core/reason core/units core/water",
	"core/plant":     "core/boiler core/machine core/reason core/units core/water",
	"core/descale":   "core/boiler core/circuit core/machine core/reason core/units",
	"core/care": "core/backflush core/circuit core/inspect core/machine core/reason core/scale core/speak " +
		"core/standdown core/task core/treat core/units core/use core/water",
	"core/remind":    "core/care core/machine core/task core/units",
	"core/record":    "core/backflush core/machine core/speak core/task",
	"core/photo":     "core/backflush core/reason core/units",
	"core/standdown": "core/boiler core/circuit core/machine core/reason core/units",
	"core/sitting": "core/care core/job core/machine core/plant core/reason core/run core/speak core/task core/units " +
		"core/use",
	"core/diagnose": "core/machine core/reason core/task core/units",
	"core/supply":   "core/backflush core/reason core/units",
	"core/job": "core/backflush core/boiler core/care core/circuit core/descale core/inspect core/machine core/plant " +
		"core/reason core/speak core/standdown core/task core/treat core/units core/use",
	"core/run": "core/backflush core/descale core/inspect core/job core/machine core/plant core/reason core/speak " +
		"core/task core/units",
	// the store knows rows: the types that it keeps, and nothing that judges
	"internal/store": "core/backflush core/care core/descale core/diagnose core/inspect core/job core/machine " +
		"core/plant " +
		"core/reason core/remind core/run core/supply core/task core/treat core/units core/use core/water",
	"internal/app": "core/backflush core/care core/circuit core/descale core/diagnose core/inspect core/job " +
		"core/machine " +
		"core/photo core/plant core/reason core/record core/remind core/run core/sitting core/speak " +
		"core/standdown core/supply core/task core/treat core/units core/use core/water internal/store",
	"internal/api": "core/backflush core/boiler core/care core/circuit core/descale core/diagnose core/inspect " +
		"core/job " +
		"core/machine core/photo core/plant core/reason core/record core/run core/scale core/sitting " +
		"core/standdown core/supply core/tables core/task core/treat core/units core/use core/water " +
		"internal/app internal/calendar internal/exchange internal/report",
	"internal/calendar": "core/speak internal/app",
	"internal/golden":   "",
	"internal/post":     "internal/app",
	"internal/standin":  "",
	"internal/exchange": "core/inspect core/tables core/units core/water internal/app",
	"internal/report": "core/care core/inspect core/job core/reason core/record core/run core/sitting core/speak " +
		"core/task " +
		"internal/app",
	"internal/report/pairs": "core/inspect",
	"internal/demo": "core/backflush core/care core/inspect core/job core/machine core/run core/supply core/task " +
		"core/treat core/units core/use core/water internal/app",
	"internal/beside": "",
	"cmd/freshanvil": "core/backflush core/descale core/job core/plant core/reason core/run core/units core/water " +
		"internal/api internal/app internal/demo internal/exchange internal/post internal/report " +
		"internal/standin web",
	"web": "",
}

// Arrows run one way and only where they are allowed; core reaches nothing but the standard library
// and gonum, and has no input or output; only package app knows the store.
func TestArrows(t *testing.T) {
	format := `{{.ImportPath}} {{join .Imports " "}}`
	out, err := exec.Command("go", "list", "-f", format, "freshanvil/...").Output()
	if err != nil {
		t.Fatal(err)
	}
	seen := map[string]bool{}
	for line := range strings.Lines(string(out)) {
		fields := strings.Fields(line)
		name := strings.TrimPrefix(fields[0], "freshanvil/")
		if name == "core" || name == "e2e" { // no code but tests
			continue
		}
		want, known := allowed[name]
		if !known {
			t.Errorf("%s has no place in the house: give it one", name)
			continue
		}
		seen[name] = true
		var ours []string
		for _, path := range fields[1:] {
			if own, is := strings.CutPrefix(path, "freshanvil/"); is {
				ours = append(ours, own)
			} else if strings.HasPrefix(name, "core/") {
				checkOutside(t, name, path)
			}
		}
		for _, own := range ours {
			if !slices.Contains(strings.Fields(want), own) {
				t.Errorf("%s imports %s: no such arrow", name, own)
			}
		}
		for _, arrow := range strings.Fields(want) {
			if !slices.Contains(ours, arrow) {
				t.Errorf("%s may import %s and does not: take the arrow away", name, arrow)
			}
		}
	}
	for name := range maps.Keys(allowed) {
		if !seen[name] {
			t.Errorf("%s is not there any more", name)
		}
	}
}

func checkOutside(t *testing.T, name, path string) {
	t.Helper()
	switch {
	case strings.Contains(path, ".") && !strings.HasPrefix(path, "gonum.org/v1/gonum/"):
		t.Errorf("%s imports %s: core has the standard library and gonum", name, path)
	case slices.Contains([]string{"os", "net/http", "database/sql", "io/fs"}, path):
		t.Errorf("%s imports %s: no input or output in core", name, path)
	}
}
