package main

import (
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"freshanvil/internal/app"
	"freshanvil/internal/demo"
)

// What export writes while a database is served, import takes into an empty one: it is the same record; taken twice it
// changes nothing, and a database that is served is refused.
func TestExportAndImport(t *testing.T) {
	ctx := context.Background()
	at := time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)
	now := func() time.Time { return at }
	folder := t.TempDir()
	file, other := filepath.Join(folder, "bench.db"), filepath.Join(folder, "other.db")
	if err := demo.Ready(ctx, file, at, false); err != nil {
		t.Fatal(err)
	}
	claim, err := app.Claim(file)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = claim.Release() }()
	run := func(f func(context.Context, []string, func() time.Time, *strings.Builder) error, args ...string) string {
		t.Helper()
		var out strings.Builder
		if err := f(ctx, args, now, &out); err != nil {
			t.Fatalf("%v: %v", args, err)
		}
		return out.String()
	}
	exports := func(ctx context.Context, args []string, now func() time.Time, out *strings.Builder) error {
		return export(ctx, args, now, out, &strings.Builder{})
	}
	imports := func(ctx context.Context, args []string, now func() time.Time, out *strings.Builder) error {
		return bringIn(ctx, args, now, out, &strings.Builder{})
	}
	first := run(exports, "-db", file)
	record := filepath.Join(folder, "record.json")
	if said := run(exports, "-db", file, "-to", record); !strings.Contains(said, "is written") {
		t.Error(said)
	}
	if said := run(imports, "-db", other, "-from", record, "-trial"); !strings.Contains(said, "Nothing was changed") {
		t.Error(said)
	}
	if said := run(imports, "-db", other, "-from", record); !strings.Contains(said, "0 were there already") {
		t.Error(said)
	}
	if said := run(imports, "-db", other, "-from", record); !strings.Contains(said, "0 rows were taken") {
		t.Error(said)
	}
	if second := run(exports, "-db", other); second != first {
		t.Errorf("%d bytes, then %d", len(first), len(second))
	}
	for _, name := range []string{"all.xlsx", "use.csv"} {
		run(exports, "-db", file, "-table", "use", "-to", filepath.Join(folder, name))
		info, err := os.Stat(filepath.Join(folder, name))
		if err != nil || info.Size() < 1000 || info.Mode().Perm() != 0o600 {
			t.Errorf("%s: %+v, %v", name, info, err)
		}
	}
	for _, x := range []struct {
		said string
		args []string
	}{
		{"another process serves", []string{"-db", file, "-from", record}},
		{"from is", []string{"-db", other, "-from", filepath.Join(folder, "nothing.json")}},
		{"format", []string{"-db", other, "-from", filepath.Join(folder, "use.csv")}},
	} {
		if err := imports(ctx, x.args, now, &strings.Builder{}); err == nil || !strings.Contains(err.Error(), x.said) &&
			!strings.Contains(err.Error(), "file is") {
			t.Errorf("%v: %v", x.args, err)
		}
	}
	for _, to := range []string{record, filepath.Join(folder, "x.doc")} {
		if err := exports(ctx, []string{"-db", file, "-to", to}, now, &strings.Builder{}); err == nil {
			t.Errorf("%s is written over, or in no form", to)
		}
	}
	if _, err := os.Stat(filepath.Join(folder, "x.doc")); err == nil {
		t.Error("a file that was not written is left")
	}
}
