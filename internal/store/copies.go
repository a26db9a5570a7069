package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io/fs"
	"net/url"
	"os"
	"path/filepath"
	"strings"

	"github.com/gofrs/flock"
	"github.com/mattn/go-sqlite3"
)

// Errors of a file as a whole. What to do about each stands in their words.
var (
	// ErrEmpty is a file of no bytes: something has cut it off, or it was never one.
	ErrEmpty = errors.New("the file is empty, so it is no database: restore a copy of it, or name a file that is not " +
		"there to begin anew")
	// ErrDamaged is a database whose pages contradict each other.
	ErrDamaged = errors.New("the database is damaged, and nothing was changed: restore the newest copy with " +
		"freshanvil restore; keep the damaged file")
	// ErrServed is a database that another process serves.
	ErrServed = errors.New("another process serves this database: stop it first")
)

// fileAt is how a file is named to the driver.
func fileAt(file string, q url.Values) string {
	return "file:" + strings.NewReplacer("%", "%25", "?", "%3f", "#", "%23").Replace(file) + "?" + q.Encode()
}

// Claim is the sole use of a database file by one process, given back by Release.
type Claim struct{ lock, same *flock.Flock }

// ClaimFile claims a database file; ErrServed where another process has it.
func ClaimFile(file string) (*Claim, error) {
	if real, err := filepath.EvalSymlinks(file); err == nil { // by whatever name it is called
		file = real
	}
	lock := flock.New(file+".lock", flock.SetPermissions(0o600))
	held, err := lock.TryLock()
	if err != nil {
		return nil, err
	}
	if !held {
		return nil, ErrServed
	}
	same, err := claimNode(file)
	if err != nil {
		return nil, errors.Join(err, lock.Unlock())
	}
	return &Claim{lock, same}, nil
}

// claimNode claims the file itself, which may have several names; nil where there is none yet. The lock is flock's,
// beside those that the database takes by ranges.
func claimNode(file string) (*flock.Flock, error) {
	if _, err := os.Stat(file); err != nil {
		return nil, nil
	}
	same := flock.New(file, flock.SetFlag(os.O_RDONLY))
	held, err := same.TryLock()
	if err != nil || held {
		return same, err
	}
	return nil, ErrServed
}

// Release gives the file back.
func (c *Claim) Release() error {
	if c.same != nil {
		return errors.Join(c.same.Unlock(), c.lock.Unlock())
	}
	return c.lock.Unlock()
}

// Private makes a file that only its owner reads and writes, where there is none, and one that is there so.
func Private(file string) error {
	f, err := os.OpenFile(file, os.O_RDWR|os.O_CREATE, 0o600)
	if err != nil {
		return err
	}
	return errors.Join(f.Chmod(0o600), f.Close())
}

// Sound reads a database file through and says what is wrong with it: ErrEmpty, ErrDamaged, ErrForeign, ErrNewer, or
// that it cannot be read. It changes nothing. The whole check also compares every index with its table.
func Sound(ctx context.Context, file string, whole bool) error {
	info, err := os.Stat(file)
	if err != nil {
		return err
	}
	if info.Size() == 0 {
		return ErrEmpty
	}
	db, err := sql.Open("sqlite3", fileAt(file, url.Values{"mode": {"ro"}, "_busy_timeout": {"5000"}}))
	if err != nil {
		return err
	}
	defer db.Close()
	if err := ours(ctx, db); err != nil {
		return damaged(err)
	}
	check := "PRAGMA quick_check(1)"
	if whole {
		check = "PRAGMA integrity_check(1)"
	}
	var said string
	if err := db.QueryRowContext(ctx, check).Scan(&said); err != nil {
		return damaged(err)
	}
	if said != "ok" {
		return fmt.Errorf("%w (%s)", ErrDamaged, said)
	}
	return nil
}

// damaged tells a file that is broken from one that cannot be read now.
func damaged(err error) error {
	var e sqlite3.Error
	if errors.As(err, &e) && (e.Code == sqlite3.ErrCorrupt || e.Code == sqlite3.ErrNotADB) {
		return fmt.Errorf("%w (%s)", ErrDamaged, e.Error())
	}
	return err
}

// CopyTo writes a copy of a database file, as it stands at one instant, while others go on reading and writing it. The
// copy is read through before it gets its name; where anything fails nothing of it is left. A file that is there
// is not written over.
func CopyTo(ctx context.Context, file, to string) (err error) {
	if _, err := os.Stat(to); err == nil {
		return fmt.Errorf("copy to %s: %w", to, fs.ErrExist)
	} else if !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	if err := os.MkdirAll(filepath.Dir(to), 0o700); err != nil {
		return err
	}
	part := to + ".part"
	_ = os.Remove(part)
	defer func() {
		if err != nil {
			_ = os.Remove(part)
		}
	}()
	db, err := sql.Open("sqlite3", fileAt(file, url.Values{"mode": {"rw"}, "_busy_timeout": {"10000"}}))
	if err != nil {
		return err
	}
	defer db.Close()
	if err := ours(ctx, db); err != nil {
		return damaged(err)
	}
	if err := Private(part); err != nil { // the copy is written into a file that nobody else reads
		return err
	}
	if _, err := db.ExecContext(ctx, "VACUUM INTO ?", part); err != nil {
		return damaged(err)
	}
	if err := Sound(ctx, part, true); err != nil {
		return fmt.Errorf("the copy cannot be read back: %w", err)
	}
	return settle(part, to)
}

// settle gives a written file its name, once it is on the disk.
func settle(part, to string) error {
	f, err := os.Open(part)
	if err != nil {
		return err
	}
	if err := errors.Join(f.Sync(), f.Close(), os.Rename(part, to)); err != nil {
		return err
	}
	dir, err := os.Open(filepath.Dir(to))
	if err != nil {
		return err
	}
	return errors.Join(dir.Sync(), dir.Close())
}

// Restore puts a copy in the place of a database file that is not served. What was there is kept beside it, under
// aside. The copy is read through first, and stays as it is.
func Restore(ctx context.Context, file, from, aside string) error {
	claim, err := ClaimFile(file)
	if err != nil {
		return err
	}
	defer func() { _ = claim.Release() }()
	if err := Sound(ctx, from, true); err != nil {
		return fmt.Errorf("the copy %s is not taken: %w", from, err)
	}
	part := file + ".part"
	_ = os.Remove(part)
	if err := CopyTo(ctx, from, part); err != nil {
		return err
	}
	for _, end := range []string{"", "-wal", "-shm"} {
		if err := os.Rename(file+end, aside+end); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return err
		}
	}
	return settle(part, file)
}
