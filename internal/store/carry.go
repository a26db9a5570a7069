package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"github.com/pressly/goose/v3"
)

// Kind is how a column is written where the record leaves the database.
type Kind string

// The kinds.
const (
	Text    Kind = "text"
	Integer Kind = "integer"
	Real    Kind = "real"
	Instant Kind = "instant" // milliseconds since 1970, UTC; its column ends in _ms
	JSON    Kind = "json"
	Bytes   Kind = "bytes"
)

// Column is one column of a table that is carried.
type Column struct {
	Name string // in the database
	Kind Kind
	Null bool // may be nothing
	Key  bool // of the primary key
}

// Table is one table whose rows are carried from one database to another.
type Table struct {
	Name    string
	Columns []Column
	// Numbered says that its key is a number of this database only: a row is known by what it says.
	Numbered bool
	// order is that in which its rows came about, where the database knows, else that of its key.
	order string
}

// carried are the tables that hold the record, in an order in which none refers to a later one but itself. What is not
// here is worked out anew (standings), holds for this server alone (sessions, feeds, requests), or is goose's.
var carried = []string{"meta", "people", "machines", "sources", "samples", "machine_waters", "treatments", "products",
	"tubs", "foam_tests", "settings", "runs", "run_machines", "presses", "care_log", "looks", "hazards", "use_events",
	"use_days", "counter_readings", "away", "interval_changes", "shares", "diagnoses", "placings", "plates", "moved",
	"dates"}

// apart are columns that are not carried: secrets, and what is worked out anew.
var apart = []string{"people.secret", "machines.stale", "machines.worked_ms", "machines.until_ms", "machines.says",
	"machines.rules", "hazards.id", "settings.id"}

// written are the columns that hold JSON.
var written = []string{"care_log.record", "interval_changes.choice", "machine_waters.treatment", "presses.body",
	"products.body", "runs.plan", "runs.record", "samples.body", "settings.facts", "shares.body", "treatments.body"}

// carriedMeta are the notes about the database itself that mean something elsewhere.
var carriedMeta = []string{"preferences"}

// yielding are the tables whose rows stay as they are here where the record brings others: the preferences, and what
// this server's calendars said.
var yielding = []string{"meta", "dates"}

// querier is a database or a transaction of it.
type querier interface {
	QueryContext(ctx context.Context, query string, args ...any) (*sql.Rows, error)
}

// tablesOf are the carried tables as a database has them.
func tablesOf(ctx context.Context, db querier) ([]Table, error) {
	var list []Table
	for _, name := range carried {
		t := Table{Name: name}
		rows, err := db.QueryContext(ctx, "SELECT name, type, \"notnull\", pk FROM pragma_table_info(?) ORDER BY cid", name)
		if err != nil {
			return nil, err
		}
		for rows.Next() {
			var column, kind string
			var required bool
			var key int
			if err := rows.Scan(&column, &kind, &required, &key); err != nil {
				return nil, errors.Join(err, rows.Close())
			}
			if slices.Contains(apart, name+"."+column) {
				t.Numbered = t.Numbered || key > 0
				continue
			}
			t.Columns = append(t.Columns, Column{column, kindOf(name, column, kind), !required && key == 0, key > 0})
		}
		if err := errors.Join(rows.Err(), rows.Close()); err != nil {
			return nil, err
		}
		if len(t.Columns) == 0 { // an older database lacks what came later
			continue
		}
		if t.order, err = orderOf(ctx, db, t); err != nil {
			return nil, err
		}
		list = append(list, t)
	}
	return list, nil
}

func orderOf(ctx context.Context, db querier, t Table) (string, error) {
	rows, err := db.QueryContext(ctx, "SELECT wr FROM pragma_table_list WHERE schema = 'main' AND name = ?", t.Name)
	if err != nil {
		return "", err
	}
	keyed := false
	for rows.Next() {
		if err := rows.Scan(&keyed); err != nil {
			return "", errors.Join(err, rows.Close())
		}
	}
	if keyed {
		return strings.Join(t.keys(), ", "), errors.Join(rows.Err(), rows.Close())
	}
	return "rowid", errors.Join(rows.Err(), rows.Close())
}

func kindOf(table, column, declared string) Kind {
	switch {
	case slices.Contains(written, table+"."+column):
		return JSON
	case strings.HasSuffix(column, "_ms") && declared == "INTEGER":
		return Instant
	case declared == "INTEGER":
		return Integer
	case declared == "REAL":
		return Real
	case declared == "BLOB":
		return Bytes
	}
	return Text
}

// Carry hands out every row of the record as one moment saw it: first the tables, then their rows in turn, each as the
// database has it.
func (s *Store) Carry(ctx context.Context, begin func([]Table) error, row func(Table, []any) error) error {
	raw, err := s.db.DB()
	if err != nil {
		return err
	}
	tx, err := raw.BeginTx(ctx, &sql.TxOptions{ReadOnly: true})
	if err != nil {
		return err
	}
	defer func() { _ = tx.Rollback() }() // it only reads
	tables, err := tablesOf(ctx, tx)
	if err != nil {
		return err
	}
	if err := begin(tables); err != nil {
		return err
	}
	for _, t := range tables {
		if err := carryTable(ctx, tx, t, row); err != nil {
			return fmt.Errorf("%s: %w", t.Name, err)
		}
	}
	return nil
}

func carryTable(ctx context.Context, tx *sql.Tx, t Table, row func(Table, []any) error) error {
	query := "SELECT " + t.names("") + " FROM " + t.Name
	if t.Name == "meta" {
		query += " WHERE key IN ('" + strings.Join(carriedMeta, "', '") + "')"
	}
	rows, err := tx.QueryContext(ctx, query+" ORDER BY "+t.order)
	if err != nil {
		return err
	}
	defer rows.Close()
	values, into := make([]any, len(t.Columns)), make([]any, len(t.Columns))
	for i := range values {
		into[i] = &values[i]
	}
	for rows.Next() {
		if err := rows.Scan(into...); err != nil {
			return err
		}
		if err := row(t, values); err != nil {
			return err
		}
	}
	return rows.Err()
}

func (t Table) names(of string) string {
	names := make([]string, len(t.Columns))
	for i, c := range t.Columns {
		names[i] = of + `"` + c.Name + `"`
	}
	return strings.Join(names, ", ")
}

func (t Table) keys() (list []string) {
	for _, c := range t.Columns {
		if c.Key {
			list = append(list, `"`+c.Name+`"`)
		}
	}
	return list
}

// Stage is a database beside, into which the rows of a record are brought before any of them counts.
type Stage struct {
	*aside
	Tables []Table
}

// NewStage makes one in a folder, with the tables of a migration, so that a record of an earlier version is brought in
// as it was.
func NewStage(ctx context.Context, folder string, migration int64) (*Stage, error) {
	s := &Stage{}
	var err error
	s.aside, err = putAside(ctx, folder, func(db *sql.DB) (err error) {
		if err = migrateTo(ctx, db, migration); err == nil {
			s.Tables, err = tablesOf(ctx, db)
		}
		return err
	})
	if err != nil {
		return nil, err
	}
	return s, nil
}

func migrateTo(ctx context.Context, db *sql.DB, migration int64) error {
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	p, err := goose.NewProvider(goose.DialectSQLite3, db, files)
	if err != nil {
		return err
	}
	_, err = p.UpTo(ctx, migration)
	return err
}

// Add brings a row of a table in, its values in the order of the table's columns.
func (s *Stage) Add(ctx context.Context, t Table, values []any) error {
	marks := strings.TrimSuffix(strings.Repeat("?, ", len(values)), ", ")
	_, err := s.tx.ExecContext(ctx, "INSERT INTO "+t.Name+" ("+t.names("")+") VALUES ("+marks+")", values...)
	return err
}

// Finish brings the tables to those of this version, and says what a row refers to that is not there.
func (s *Stage) Finish(ctx context.Context) error {
	if err := s.finish(); err != nil {
		return err
	}
	if err := migrateTo(ctx, s.db, int64(latest())); err != nil {
		return err
	}
	var table, other string
	var row sql.NullInt64
	var nth int
	err := s.db.QueryRowContext(ctx, "SELECT * FROM pragma_foreign_key_check LIMIT 1").Scan(&table, &row, &other, &nth)
	if errors.Is(err, sql.ErrNoRows) {
		return nil
	}
	if err != nil {
		return err
	}
	return fmt.Errorf("a row of %s refers to one of %s that is not in the file: %w", table, other, ErrConflict)
}

// Merged is what came of bringing a record in.
type Merged struct {
	Fresh map[string]int // rows that were not there, by table
	Same  int            // rows that were there already
	// Other are rows that are there and say something else, such as "machines 0198…"; with one of them nothing is kept.
	Other []string
}

// mostOther is how many rows that differ are named.
const mostOther = 20

// Merge takes over what a stage holds, all of it or, where a row is here and says something else, none. In a trial
// nothing is kept at all.
func (s *Store) Merge(ctx context.Context, stage *Stage, trial bool) (Merged, error) {
	out := Merged{Fresh: map[string]int{}}
	err := s.WriteFrom(ctx, stage, func(in *Store) error {
		tx, err := in.tx()
		if err != nil {
			return err
		}
		tables, err := tablesOf(ctx, tx)
		if err != nil {
			return err
		}
		for _, t := range tables {
			if err := mergeTable(ctx, tx, t, &out); err != nil {
				return fmt.Errorf("%s: %w", t.Name, err)
			}
		}
		if trial || len(out.Other) > 0 {
			return errNothingKept
		}
		return nil
	})
	if errors.Is(err, errNothingKept) {
		err = nil
	}
	return out, err
}

// errNothingKept ends a transaction of which nothing is to be kept.
var errNothingKept = errors.New("nothing is kept")

func mergeTable(ctx context.Context, tx *sql.Tx, t Table, out *Merged) error {
	alike := make([]string, len(t.Columns))
	for i, c := range t.Columns {
		alike[i] = fmt.Sprintf(`i."%s" IS m."%s"`, c.Name, c.Name)
	}
	same, keys := strings.Join(alike, " AND "), t.keys()
	here := same // of a numbered table a row is known by what it says
	if len(keys) > 0 {
		parts := make([]string, len(keys))
		for i, k := range keys {
			parts[i] = "i." + k + " IS m." + k
		}
		here = strings.Join(parts, " AND ")
	}
	if len(keys) > 0 && !slices.Contains(yielding, t.Name) {
		rows, err := tx.QueryContext(ctx, fmt.Sprintf("SELECT %s FROM incoming.%s i JOIN main.%s m ON %s WHERE NOT (%s) "+
			"LIMIT %d", "i."+strings.Join(keys, " || ' ' || i."), t.Name, t.Name, here, same, mostOther))
		if err != nil {
			return err
		}
		for rows.Next() {
			var key string
			if err := rows.Scan(&key); err != nil {
				return errors.Join(err, rows.Close())
			}
			if len(out.Other) < mostOther {
				out.Other = append(out.Other, t.Name+" "+key)
			}
		}
		if err := errors.Join(rows.Err(), rows.Close()); err != nil {
			return err
		}
	}
	var all int
	if err := tx.QueryRowContext(ctx, "SELECT COUNT(*) FROM incoming."+t.Name).Scan(&all); err != nil {
		return err
	}
	order := "i." + strings.ReplaceAll(t.order, ", ", ", i.")
	done, err := tx.ExecContext(ctx, fmt.Sprintf("INSERT INTO main.%s (%s) SELECT %s FROM incoming.%s i WHERE NOT EXISTS "+
		"(SELECT 1 FROM main.%s m WHERE %s) ORDER BY %s", t.Name, t.names(""), t.names("i."), t.Name, t.Name, here, order))
	if err != nil {
		return err
	}
	fresh, err := done.RowsAffected()
	if err != nil {
		return err
	}
	if fresh > 0 {
		out.Fresh[t.Name] = int(fresh)
	}
	out.Same += all - int(fresh)
	return nil
}
