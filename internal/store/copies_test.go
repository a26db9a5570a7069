package store

import (
	"context"
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"testing"
)

func made(t *testing.T, name string) (string, *Store) {
	t.Helper()
	file := filepath.Join(t.TempDir(), name)
	s, err := Open(context.Background(), file)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = s.Close() })
	return file, s
}

// say writes a note, and heard reads it of a file.
func say(t *testing.T, s *Store, text string) {
	t.Helper()
	err := s.Write(t.Context(), func(tx *Store) error { return tx.SetMeta(t.Context(), "said", text) })
	if err != nil {
		t.Fatal(err)
	}
}

func heard(t *testing.T, file string) string {
	t.Helper()
	s, err := Open(t.Context(), file)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = s.Close() }()
	text, err := s.Meta(t.Context(), "said")
	if err != nil {
		t.Fatal(err)
	}
	return text
}

// Only its owner reads a database, its side files, its lock and its copies.
func TestFilesAreTheirOwners(t *testing.T) {
	file, s := made(t, "a?b#c%.db") // signs that mean something in an address
	say(t, s, "one")
	claim, err := ClaimFile(file)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = claim.Release() }()
	to := filepath.Join(filepath.Dir(file), "copies", "one.db")
	if err := CopyTo(t.Context(), file, to); err != nil {
		t.Fatal(err)
	}
	for _, name := range []string{file, file + "-wal", file + "-shm", file + ".lock", to} {
		info, err := os.Stat(name)
		if err != nil || info.Mode().Perm() != 0o600 {
			t.Errorf("%s: %v, %v", filepath.Base(name), info, err)
		}
	}
	if err := os.Chmod(file, 0o644); err != nil {
		t.Fatal(err)
	}
	heard(t, file)
	if info, err := os.Stat(file); err != nil || info.Mode().Perm() != 0o600 {
		t.Errorf("an older file: %v, %v", info, err)
	}
}

// A copy holds what was written before it, is made while others write, and is not written over another.
func TestCopyWhileWritten(t *testing.T) {
	file, s := made(t, "bench.db")
	say(t, s, "before")
	stop, done := make(chan struct{}), make(chan struct{})
	go func() {
		defer close(done)
		for n := 0; ; n++ {
			select {
			case <-stop:
				return
			default:
				_ = s.Write(context.Background(), func(tx *Store) error { return tx.SetMeta(context.Background(), "n", "x") })
			}
		}
	}()
	to := filepath.Join(t.TempDir(), "copy.db")
	err := CopyTo(t.Context(), file, to)
	close(stop)
	<-done
	if err != nil {
		t.Fatal(err)
	}
	say(t, s, "after")
	if got := heard(t, to); got != "before" {
		t.Errorf("the copy says %q", got)
	}
	if err := CopyTo(t.Context(), file, to); !errors.Is(err, fs.ErrExist) {
		t.Errorf("written over: %v", err)
	}
}

// A file that is empty, damaged, another's or newer is refused in words, and left as it is to the byte.
func TestUnsoundFilesAreRefused(t *testing.T) {
	file, s := made(t, "bench.db")
	say(t, s, "kept")
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	sound, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	spoilt := append([]byte{}, sound...)
	for i := 4096; i < len(spoilt); i += 97 {
		spoilt[i] ^= 0x5a
	}
	tests := []struct {
		name string
		data []byte
		want error
	}{
		{"no bytes", nil, ErrEmpty},
		{"a text", []byte("date,drinks\n2026-03-10,4\n"), ErrDamaged},
		{"bytes turned", spoilt, ErrDamaged},
		{"cut off", sound[:len(sound)/2], ErrDamaged},
	}
	for _, x := range tests {
		t.Run(x.name, func(t *testing.T) {
			at := filepath.Join(t.TempDir(), "x.db")
			if err := os.WriteFile(at, x.data, 0o600); err != nil {
				t.Fatal(err)
			}
			s, err := Open(t.Context(), at)
			if !errors.Is(err, x.want) {
				t.Errorf("%v, want %v", err, x.want)
			}
			if err == nil {
				_ = s.Close()
			}
			if now, err := os.ReadFile(at); err != nil || string(now) != string(x.data) {
				t.Errorf("the file was changed: %d bytes, %v", len(now), err)
			}
			if err := Restore(t.Context(), file, at, file+".aside"); err == nil {
				t.Error("it was taken for a copy")
			}
		})
	}
	if got := heard(t, file); got != "kept" {
		t.Errorf("after refused restores it says %q", got)
	}
}

// A copy is put in place of what is there, which is kept beside it; not while it is served.
func TestRestore(t *testing.T) {
	file, s := made(t, "bench.db")
	say(t, s, "old")
	copied := filepath.Join(t.TempDir(), "copy.db")
	if err := CopyTo(t.Context(), file, copied); err != nil {
		t.Fatal(err)
	}
	say(t, s, "new")
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	claim, err := ClaimFile(file)
	if err != nil {
		t.Fatal(err)
	}
	if err := Restore(t.Context(), file, copied, file+".aside"); !errors.Is(err, ErrServed) {
		t.Errorf("while it is served: %v", err)
	}
	if err := claim.Release(); err != nil {
		t.Fatal(err)
	}
	if err := Restore(t.Context(), file, copied, file+".aside"); err != nil {
		t.Fatal(err)
	}
	if now, was, from := heard(t, file), heard(t, file+".aside"), heard(t, copied); now != "old" || was != "new" ||
		from != "old" {
		t.Errorf("now %q, aside %q, the copy %q", now, was, from)
	}
	if left, _ := filepath.Glob(file + "*.part*"); len(left) > 0 {
		t.Errorf("left over: %v", left)
	}
}

// A reader cannot write: what is written goes through the one gate.
func TestReadersDoNotWrite(t *testing.T) {
	_, s := made(t, "bench.db")
	if err := s.SetMeta(t.Context(), "said", "past the gate"); err == nil {
		t.Error("a reader wrote")
	}
}

// R11. A database is served once, by whatever name: a symlink or a hard link to it is the same file.
func TestAClaimIsOfTheFile(t *testing.T) {
	dir := t.TempDir()
	file := filepath.Join(dir, "a.db")
	s, err := Open(t.Context(), file)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	claim, err := ClaimFile(file)
	if err != nil {
		t.Fatal(err)
	}
	soft, hard := filepath.Join(dir, "soft.db"), filepath.Join(dir, "hard.db")
	for name, link := range map[string]func(string, string) error{soft: os.Symlink, hard: os.Link} {
		if err := link(file, name); err != nil {
			t.Fatal(err)
		}
		if again, err := ClaimFile(name); !errors.Is(err, ErrServed) {
			t.Errorf("%s: %v, %v", name, again, err)
		}
	}
	if err := claim.Release(); err != nil {
		t.Fatal(err)
	}
	again, err := ClaimFile(hard)
	if err != nil {
		t.Fatalf("given back, and still held: %v", err)
	}
	_ = again.Release()
}
