package main

import (
	"context"
	"errors"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"freshanvil/internal/app"
)

// A database is copied while it is served, and put back once it is not; both say what was done, and where what was
// there before is kept.
func TestBackupAndRestore(t *testing.T) {
	ctx := context.Background()
	at := time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)
	now := func() time.Time { return at }
	file := filepath.Join(t.TempDir(), "bench.db")
	claim, err := app.Claim(file)
	if err != nil {
		t.Fatal(err)
	}
	a, err := app.Open(ctx, file, now)
	if err != nil {
		t.Fatal(err)
	}
	if err := a.SetMeta(ctx, "said", "before"); err != nil {
		t.Fatal(err)
	}
	var out, told strings.Builder
	if err := backup(ctx, []string{"-db", file}, now, &out, &told); err != nil {
		t.Fatal(err)
	}
	made, _, _ := strings.Cut(out.String(), " is a whole copy")
	if err := a.SetMeta(ctx, "said", "after"); err != nil {
		t.Fatal(err)
	}
	args := []string{"-db", file, "-from", made}
	if err := restore(ctx, args, now, &out, &told); err == nil || !strings.Contains(err.Error(), "stop it first") {
		t.Errorf("while it is served: %v", err)
	}
	if err := errors.Join(a.Close(), claim.Release()); err != nil {
		t.Fatal(err)
	}
	out.Reset()
	if err := restore(ctx, args, now, &out, &told); err != nil {
		t.Fatal(err)
	}
	if !strings.Contains(out.String(), "bench.aside-20260310-120000.db") {
		t.Errorf("%q", out.String())
	}
	b, err := app.Open(ctx, file, now)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = b.Close() }()
	if said, err := b.Meta(ctx, "said"); err != nil || said != "before" {
		t.Errorf("%q, %v", said, err)
	}
}

func TestBackupAndRestoreRefuse(t *testing.T) {
	none := filepath.Join(t.TempDir(), "none.db")
	for args, want := range map[string]string{
		"backup -db " + none:                     "no such file",
		"restore -db " + none:                    "from is nothing",
		"restore -db " + none + " -from " + none: "no such file",
		"restore -db " + none + " -from x.csv":   "no such file",
	} {
		if err := command(context.Background(), strings.Fields(args)); err == nil ||
			!strings.Contains(err.Error(), want) {
			t.Errorf("freshanvil %s: %v, want %q", args, err, want)
		}
	}
}
