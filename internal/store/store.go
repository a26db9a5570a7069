// Package store keeps machines, use, runs and what was done in SQLite.
//
// It knows rows and nothing of what they mean: package app hands core what core needs and
// writes down what core came to. Every change is one transaction; bad input leaves no trace.
package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"net/url"
	"os"
	"sync/atomic"
	"time"

	"github.com/mattn/go-sqlite3"
	"github.com/pressly/goose/v3"
	"gorm.io/driver/sqlite"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Errors of the store. They are wrapped with what was asked for.
var (
	ErrNotFound = errors.New("not found")
	// ErrGone is what was there, and was taken back or away before.
	ErrGone     = errors.New("gone already")
	ErrConflict = errors.New("conflict")
	// ErrForeign is a database that another program made.
	ErrForeign = errors.New("not a database of Fresh Anvil")
	// ErrNewer is a database that a later version of this program has migrated.
	ErrNewer = errors.New("made by a newer version of Fresh Anvil")
	// ErrOther is an id that belongs to another request, with other content.
	ErrOther = errors.New("the id belongs to another request")
	// ErrCrowded is a write that would have waited too long: nothing was changed, and the same may be asked again.
	ErrCrowded = errors.New("too many wait to write")
	// ErrChanged is an edit of what has changed since it was read.
	ErrChanged = errors.New("changed meanwhile")
)

// Store is an open database, or one transaction of it.
type Store struct {
	db *gorm.DB
	*shared
}

// shared is what all transactions of a store have in common.
type shared struct {
	plans  plans
	clocks clocks
	writer *gorm.DB // the one connection that writes
	hot    hot
	// gate lets one in that writes; the others wait in the order in which they came.
	gate    chan struct{}
	waiting atomic.Int32
}

// Bounds of waiting to write (our own engineering choices): a drink takes a millisecond or two.
const (
	mostWaiting = 128
	longestWait = 10 * time.Second
)

// Write makes one transaction of what f does: all of it, or nothing where f gives an error. Nobody
// else writes meanwhile, so what f read before it wrote still holds. Whoever waits is let in in
// the order of coming: work that is done in parts lets the others pass between two of them. Where too many wait
// already, or it would take too long, it is ErrCrowded.
func (s *Store) Write(ctx context.Context, f func(tx *Store) error) error {
	if err := s.queue(ctx); err != nil {
		return err
	}
	defer func() { <-s.gate }()
	return s.writer.WithContext(ctx).Transaction(func(tx *gorm.DB) error { return f(&Store{tx, s.shared}) })
}

// queue waits until nobody else writes.
func (s *Store) queue(ctx context.Context) error {
	defer s.waiting.Add(-1)
	if s.waiting.Add(1) > mostWaiting {
		return ErrCrowded
	}
	select {
	case s.gate <- struct{}{}:
		return nil
	default:
	}
	late := time.NewTimer(longestWait)
	defer late.Stop()
	select {
	case s.gate <- struct{}{}:
		return nil
	case <-late.C:
		return ErrCrowded
	case <-ctx.Done():
		return ctx.Err()
	}
}

// Waiting is how many wait to be let in to write.
func (s *Store) Waiting() int { return int(s.waiting.Load()) }

// Open opens or makes the database file and migrates its tables. Before
// a migration that rewrites what is there, a copy is made beside it. A database of
// another program is ErrForeign, one of a newer version ErrNewer: both are left as
// they are.
func Open(ctx context.Context, file string) (*Store, error) {
	if err := own(ctx, file); err != nil {
		return nil, fmt.Errorf("open %s: %w", file, err)
	}
	if err := begin(ctx, file); err != nil {
		return nil, fmt.Errorf("open %s: %w", file, err)
	}
	q := url.Values{
		"_foreign_keys": {"on"},
		"_journal_mode": {"WAL"},
		"_busy_timeout": {"5000"},
		"_txlock":       {"immediate"},
		"_synchronous":  {"FULL"}, // what is acknowledged is on the disk, also after a power cut
	}
	dsn := fileAt(file, q)
	writer, raw, err := connect(dsn)
	if err != nil {
		return nil, fmt.Errorf("open %s: %w", file, err)
	}
	raw.SetMaxOpenConns(1) // one writes at a time: its statements stay prepared
	if err := errors.Join(copyBefore(ctx, raw, file), ctx.Err()); err != nil {
		return nil, errors.Join(err, raw.Close())
	}
	if err := errors.Join(migrate(ctx, raw), ctx.Err()); err != nil {
		return nil, errors.Join(err, raw.Close())
	}
	q.Set("_query_only", "true") // whoever writes goes through Write
	q.Set("_txlock", "deferred")
	reader, _, err := connect(fileAt(file, q))
	if err != nil {
		return nil, errors.Join(err, raw.Close())
	}
	all := &shared{writer: writer, gate: make(chan struct{}, 1)}
	if err := all.hot.prepare(ctx, raw); err != nil {
		return nil, errors.Join(err, raw.Close())
	}
	return &Store{reader, all}, nil
}

// connect opens connections of their own to a database.
func connect(dsn string) (*gorm.DB, *sql.DB, error) {
	db, err := gorm.Open(
		sqlite.Open(dsn),
		&gorm.Config{Logger: logger.Discard, SkipDefaultTransaction: true, TranslateError: false,
			DisableNestedTransaction: true, PrepareStmt: true},
	)
	if err != nil {
		return nil, nil, err
	}
	raw, err := db.DB()
	return db, raw, err
}

// applicationID is the application id that the first migration writes.
const applicationID = 1178693238

// own refuses a file that is there and is no sound database of ours. It only reads: what is somebody else's stays as
// it is.
func own(ctx context.Context, file string) error {
	if _, err := os.Stat(file); errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	return Sound(ctx, file, false)
}

// begin makes a database file where there is none: with our mark in it before it gets its name, so that one of no bytes
// is never ours, whenever the machine is switched off. One that is there is only its owner's from now on.
func begin(ctx context.Context, file string) error {
	if _, err := os.Stat(file); err == nil {
		return Private(file)
	}
	part := file + ".part"
	if err := Private(part); err != nil {
		return err
	}
	db, err := sql.Open("sqlite3", fileAt(part, url.Values{"mode": {"rw"}}))
	if err != nil {
		return err
	}
	_, err = db.ExecContext(ctx, fmt.Sprintf("PRAGMA application_id = %d", applicationID))
	if err := errors.Join(err, db.Close()); err != nil {
		return err
	}
	return settle(part, file)
}

// ours says whether a database is of this program, and not of a later version of it.
func ours(ctx context.Context, db *sql.DB) error {
	var id, tables int
	if err := db.QueryRowContext(ctx, "PRAGMA application_id").Scan(&id); err != nil {
		return err
	}
	if err := db.QueryRowContext(ctx, "SELECT COUNT(*) FROM sqlite_schema").Scan(&tables); err != nil {
		return err
	}
	if id != applicationID && tables > 0 {
		return ErrForeign
	}
	version, err := versionOf(ctx, db)
	if err == nil && version > latest() {
		return ErrNewer
	}
	return err
}

// latest is the newest migration that this program has.
func latest() int {
	files, _ := fs.Glob(migrations, "migrations/*.sql")
	return len(files)
}

func migrate(ctx context.Context, db *sql.DB) error {
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	p, err := goose.NewProvider(goose.DialectSQLite3, db, files)
	if err != nil {
		return err
	}
	_, err = p.Up(ctx)
	return err
}

// Close closes the database.
func (s *Store) Close() error {
	s.hot.close()
	var failed error
	for _, db := range []*gorm.DB{s.db, s.writer} {
		raw, err := db.DB()
		if err == nil {
			err = raw.Close()
		}
		failed = errors.Join(failed, err)
	}
	return failed
}

// Ready says whether the database answers.
func (s *Store) Ready(ctx context.Context) error {
	var one int
	return s.db.WithContext(ctx).Raw("SELECT 1").Scan(&one).Error
}

// Meta reads a note about the database itself; empty where there is none.
func (s *Store) Meta(ctx context.Context, key string) (string, error) {
	var value string
	err := s.db.WithContext(ctx).Raw("SELECT value FROM meta WHERE key = ?", key).Scan(&value).Error
	return value, err
}

// SetMeta writes a note about the database itself.
func (s *Store) SetMeta(ctx context.Context, key, value string) error {
	return s.db.WithContext(ctx).
		Exec("INSERT INTO meta (key, value) VALUES (?, ?) ON CONFLICT (key) DO UPDATE SET value = excluded.value", key,
			value).
		Error
}

// takeAway marks the row of a model as gone from now on: ErrGone where it was before, ErrNotFound where it never was.
func (s *Store) takeAway(ctx context.Context, model any, now time.Time, where string, args ...any) error {
	done := s.db.WithContext(ctx).Model(model).Where(where, args...).Where("gone_ms IS NULL").Update("gone_ms", ms(now))
	if done.Error != nil || done.RowsAffected > 0 {
		return done.Error
	}
	var before int64
	if err := s.db.WithContext(ctx).Model(model).Where(where, args...).Count(&before).Error; err != nil {
		return err
	}
	if before > 0 {
		return fmt.Errorf("%v: %w", args[0], ErrGone)
	}
	return fmt.Errorf("%v: %w", args[0], ErrNotFound)
}

func ms(t time.Time) int64 { return t.UnixMilli() }

func at(ms int64) time.Time { return time.UnixMilli(ms).UTC() }

// duplicate says whether the row was there already.
func duplicate(err error) bool {
	var e sqlite3.Error
	return errors.As(err, &e) &&
		(e.ExtendedCode == sqlite3.ErrConstraintPrimaryKey || e.ExtendedCode == sqlite3.ErrConstraintUnique)
}

// Busy says whether an error is only that somebody else writes: nothing was changed,
// and the same may be asked again.
func Busy(err error) bool {
	var e sqlite3.Error
	return errors.Is(err, ErrCrowded) || errors.As(err, &e) && (e.Code == sqlite3.ErrBusy || e.Code == sqlite3.ErrLocked)
}
