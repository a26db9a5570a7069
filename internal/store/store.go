// Package store keeps machines, use, runs and what was done in SQLite.
//
// It decides nothing about care: it hands core what core needs and writes
// down what core came to. Every change is one transaction; bad input leaves
// no trace.
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
	"strings"
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
	ErrConflict = errors.New("conflict")
	// ErrForeign is a database that another program made.
	ErrForeign = errors.New("not a database of Fresh Anvil")
	// ErrNewer is a database that a later version of this program has migrated.
	ErrNewer = errors.New("made by a newer version of Fresh Anvil")
)

// Store is an open database.
type Store struct {
	db      *gorm.DB
	effects effects
	plans   plans
	clocks  clocks
}

// Open opens or makes the database file and brings it up to date; now is when. Before
// a migration that rewrites what is there, a copy is made beside it. A database of
// another program is ErrForeign, one of a newer version ErrNewer: both are left as
// they are.
func Open(ctx context.Context, file string, now time.Time) (*Store, error) {
	q := url.Values{
		"_foreign_keys": {"on"},
		"_journal_mode": {"WAL"},
		"_busy_timeout": {"5000"},
		"_txlock":       {"immediate"},
		"_synchronous":  {"NORMAL"},
	}
	at := "file:" + strings.NewReplacer("?", "%3f", "#", "%23").Replace(file)
	if err := own(ctx, file, at); err != nil {
		return nil, fmt.Errorf("open %s: %w", file, err)
	}
	dsn := at + "?" + q.Encode()
	db, err := gorm.Open(
		sqlite.Open(dsn),
		&gorm.Config{Logger: logger.Discard, SkipDefaultTransaction: true, TranslateError: false},
	)
	if err != nil {
		return nil, fmt.Errorf("open %s: %w", file, err)
	}
	raw, err := db.DB()
	if err != nil {
		return nil, err
	}
	s := &Store{db: db}
	if err := errors.Join(copyBefore(ctx, raw, file), ctx.Err()); err != nil {
		return nil, errors.Join(err, raw.Close())
	}
	if err := errors.Join(migrate(ctx, raw), ctx.Err()); err != nil {
		return nil, errors.Join(err, raw.Close())
	}
	if err := s.upgrade(ctx, now); err != nil {
		return nil, errors.Join(err, raw.Close())
	}
	return s, nil
}

// ours is the application id that the first migration writes.
const ours = 1178693238

// own refuses a database that holds something and is not ours. It only reads:
// what is somebody else's stays as it is.
func own(ctx context.Context, file, at string) error {
	if _, err := os.Stat(file); errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	db, err := sql.Open("sqlite3", at+"?mode=ro")
	if err != nil {
		return err
	}
	defer db.Close()
	var id, tables int
	if err := db.QueryRowContext(ctx, "PRAGMA application_id").Scan(&id); err != nil {
		return err
	}
	if err := db.QueryRowContext(ctx, "SELECT COUNT(*) FROM sqlite_schema").Scan(&tables); err != nil {
		return err
	}
	if id != ours && tables > 0 {
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
	raw, err := s.db.DB()
	if err != nil {
		return err
	}
	return raw.Close()
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
	return errors.As(err, &e) && (e.Code == sqlite3.ErrBusy || e.Code == sqlite3.ErrLocked)
}
