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

	"gorm.io/gorm"

	"freshanvil/core/care"
	"freshanvil/core/machine"
	"freshanvil/core/run"
)

// rewrites is the first migration that rewrites what is there: before it a copy is
// made.
const rewrites = 9

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

// copyBefore makes a copy of a database that is about to be rewritten, beside it, once.
func copyBefore(ctx context.Context, db *sql.DB, file string) error {
	version, err := versionOf(ctx, db)
	if err != nil || version == 0 || version >= rewrites {
		return err
	}
	to := fmt.Sprintf("%s.before-%d.db", strings.TrimSuffix(file, ".db"), rewrites)
	if _, err := os.Stat(to); err == nil {
		return nil // made before: what it holds is the older state
	} else if !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	if _, err := db.ExecContext(ctx, "VACUUM INTO ?", to); err != nil {
		return fmt.Errorf("no copy could be made before the update, so nothing was changed: %w", err)
	}
	return nil
}

// upgrade brings runs of an older version to what this one reads: what an ended run
// came to is written down from the log, and an open one ends, its hazards kept.
func (s *Store) upgrade(ctx context.Context, now time.Time) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var old []runRow
		err := tx.Find(&old, "plan_version <> ? AND (ended_ms IS NULL OR record = '')", planVersion).Error
		if err != nil {
			return err
		}
		for _, row := range old {
			if err := s.upgradeRun(tx, row, now); err != nil {
				return fmt.Errorf("run %s: %w", row.ID, err)
			}
		}
		return nil
	})
}

func (s *Store) upgradeRun(tx *gorm.DB, row runRow, now time.Time) error {
	if row.EndedMs != nil {
		e, err := endedByTheLog(tx, row)
		if err != nil {
			return err
		}
		return end(tx, row.ID, e)
	}
	var of []runMachineRow
	if err := tx.Order("seq").Find(&of, "run_id = ?", row.ID).Error; err != nil {
		return err
	}
	r := Run{ID: row.ID, Practice: row.Practice, Unreadable: errors.New("its plan is of an older version")}
	for _, m := range of {
		r.Machines = append(r.Machines, m.MachineID)
	}
	e, err := abandoned(tx, r, "The application was updated while it went on, and cannot carry it on.", now)
	if err != nil {
		return err
	}
	return end(tx, row.ID, e)
}

// endedByTheLog is what an ended run of an older version came to, as far as the log
// tells.
func endedByTheLog(tx *gorm.DB, row runRow) (Ended, error) {
	e := Ended{At: at(*row.EndedMs), Task: care.Wash, Title: "Practice", Where: "the machine"}
	if row.Outcome != nil {
		e.Outcome = run.Outcome(*row.Outcome)
	}
	var entries []careRow
	if err := tx.Order("id").Find(&entries, "run_id = ?", row.ID).Error; err != nil {
		return e, err
	}
	var numbers []int
	for i, c := range entries {
		part, err := machine.ParsePart(c.Part)
		if err != nil {
			return e, err
		}
		if i == 0 || c.Task == care.Descale {
			e.Task, e.Title = c.Task, c.Title
		}
		e.Activities = append(e.Activities, run.Activity{ID: fmt.Sprint(c.Task, " ", part), Task: c.Task, Part: part,
			Title: c.Title, Outcome: run.Outcome(c.Outcome)})
		if c.Record.Note != "" {
			e.Note = c.Record.Note
		}
		if part.GroupNumber() == 0 {
			continue
		}
		numbers = append(numbers, part.GroupNumber())
		e.Groups = append(e.Groups, EndedGroup{Part: part, Task: c.Task, Method: c.Record.Method, Dose: c.Record.Dose,
			In: c.Outcome == string(run.StoppedUnsafe), Soapy: c.Record.Soapy, Rinsed: c.Record.Rinsed,
			Least: c.Record.Rinsed, Cups: c.Record.Cups, First: c.Record.First})
	}
	if len(numbers) > 0 {
		e.Where = care.Groups(numbers)
	}
	return e, nil
}
