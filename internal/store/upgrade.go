package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"strings"
	"time"
)

// versionOf is how far a database has been migrated; 0 where it is new. It only reads.
func versionOf(ctx context.Context, db *sql.DB) (int, error) {
	var there int
	err := db.QueryRowContext(ctx, "SELECT COUNT(*) FROM sqlite_schema WHERE name = 'goose_db_version'").Scan(&there)
	if err != nil || there == 0 {
		return 0, err
	}
	var version sql.NullInt64
	err = db.QueryRowContext(ctx, "SELECT MAX(version_id) FROM goose_db_version WHERE is_applied = 1").Scan(&version)
	return int(version.Int64), err
}

// copyBefore makes a copy of a database that is about to be migrated, beside it, once a version.
func copyBefore(ctx context.Context, db *sql.DB, file string) error {
	version, err := versionOf(ctx, db)
	if err != nil || version == 0 || version >= latest() {
		return err
	}
	to := fmt.Sprintf("%s.before-%d.db", strings.TrimSuffix(file, ".db"), latest())
	if _, err := os.Stat(to); err == nil {
		return nil // made before: what it holds is the older state
	} else if !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	if err := CopyTo(ctx, file, to); err != nil {
		return fmt.Errorf("no copy could be made before the update, so nothing was changed: %w", err)
	}
	return nil
}

// OldRun is a run whose plan is of an older version: it cannot be read.
type OldRun struct {
	Run
	// Log is what was written down of it, where it has ended.
	Log       []Entry
	EndedAt   time.Time // zero where it went on
	EndedWith string
}

// OldRuns lists the runs of an older version that are still to be brought up to this one.
func (s *Store) OldRuns(ctx context.Context) ([]OldRun, error) {
	db := s.db.WithContext(ctx)
	var rows []runRow
	err := db.Find(&rows, "plan_version <> ? AND (ended_ms IS NULL OR record = '')", planVersion).Error
	if err != nil {
		return nil, err
	}
	list := make([]OldRun, len(rows))
	for i, row := range rows {
		var of []runMachineRow
		if err := db.Order("seq").Find(&of, "run_id = ?", row.ID).Error; err != nil {
			return nil, err
		}
		x := OldRun{Run: Run{ID: row.ID, Practice: row.Practice,
			Unreadable: errors.New("its plan is of an older version")}}
		for _, m := range of {
			x.Machines = append(x.Machines, m.MachineID)
		}
		if row.EndedMs != nil {
			x.EndedAt = at(*row.EndedMs)
		}
		if row.Outcome != nil {
			x.EndedWith = *row.Outcome
		}
		var log []careRow
		if err := db.Order("id").Find(&log, "run_id = ?", row.ID).Error; err != nil {
			return nil, err
		}
		x.Log = entries(log)
		list[i] = x
	}
	return list, nil
}
