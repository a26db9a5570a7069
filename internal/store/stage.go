package store

import (
	"context"
	"database/sql"
	"errors"
	"io/fs"
	"net/url"
	"os"
	"path/filepath"
	"time"

	"gorm.io/gorm"
)

// aside is a database file of its own, into which rows are brought while others write: they count when a transaction
// takes them over, all at once.
type aside struct {
	file string
	db   *sql.DB
	tx   *sql.Tx // of what is brought in; nil once that is finished
}

// incoming is how a transaction calls what stands aside.
const incoming = "incoming"

// stages are the names of such files in the folder of a database.
const stages = "stage-*.db"

// deadAfter is how long a stage may stand untouched before it is taken for one that a server left when it was killed.
const deadAfter = 24 * time.Hour

// putAside makes such a file in a folder, with the tables that are prepared there.
func putAside(ctx context.Context, folder string, prepare func(*sql.DB) error) (*aside, error) {
	f, err := os.CreateTemp(folder, stages)
	if err != nil {
		return nil, err
	}
	a := &aside{file: f.Name()}
	err = errors.Join(sweep(f, folder), f.Close(), func() (err error) {
		a.db, err = sql.Open("sqlite3", fileAt(a.file, url.Values{"_foreign_keys": {"off"}, "_journal_mode": {"OFF"},
			"_synchronous": {"OFF"}}))
		if err != nil {
			return err
		}
		a.db.SetMaxOpenConns(1)
		if err := prepare(a.db); err != nil {
			return err
		}
		a.tx, err = a.db.BeginTx(ctx, nil)
		return err
	}())
	if err != nil {
		return nil, errors.Join(err, a.Close())
	}
	return a, nil
}

// sweep takes away the stages that were left in a folder, by the disk's own clock.
func sweep(fresh *os.File, folder string) error {
	now, err := fresh.Stat()
	if err != nil {
		return err
	}
	all, err := filepath.Glob(filepath.Join(folder, stages))
	for _, file := range all {
		was, gone := os.Stat(file)
		if gone != nil || now.ModTime().Sub(was.ModTime()) < deadAfter {
			continue
		}
		if failed := os.Remove(file); !errors.Is(failed, fs.ErrNotExist) {
			err = errors.Join(err, failed)
		}
	}
	return err
}

// finish ends bringing in.
func (a *aside) finish() error {
	if a.tx == nil {
		return nil
	}
	err := a.tx.Commit()
	a.tx = nil
	return err
}

func (a *aside) path() string { return a.file }

// Close takes it away.
func (a *aside) Close() error {
	var err error
	if a.tx != nil {
		err = a.tx.Rollback()
	}
	if a.db != nil {
		err = errors.Join(err, a.db.Close())
	}
	return errors.Join(err, os.Remove(a.file))
}

// Staged is what stands aside, ready to be taken over.
type Staged interface {
	finish() error
	path() string
}

// WriteFrom makes one transaction of what f does, as Write, with what stands aside at hand.
func (s *Store) WriteFrom(ctx context.Context, staged Staged, f func(tx *Store) error) error {
	if err := staged.finish(); err != nil {
		return err
	}
	if err := s.queue(ctx); err != nil {
		return err
	}
	defer func() { <-s.gate }()
	// outside of the transaction, where SQLite wants it; there is one connection that writes, so it is the same
	if err := s.writer.WithContext(ctx).Exec("ATTACH DATABASE ? AS "+incoming, staged.path()).Error; err != nil {
		return err
	}
	defer func() { _ = s.writer.WithContext(context.WithoutCancel(ctx)).Exec("DETACH DATABASE " + incoming).Error }()
	return s.writer.WithContext(ctx).Transaction(func(tx *gorm.DB) error { return f(&Store{tx, s.shared}) })
}
