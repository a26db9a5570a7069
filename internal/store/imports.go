package store

import (
	"context"
	"database/sql"
	"errors"
	"time"

	"freshanvil/core/use"
)

// UseStage is where the entries of a file of use are made ready.
type UseStage struct {
	*aside
	insert *sql.Stmt
	span   span // over which use by the day is to be counted up anew
}

// NewUseStage makes one in a folder.
func NewUseStage(ctx context.Context, folder string) (*UseStage, error) {
	s := &UseStage{}
	var err error
	s.aside, err = putAside(ctx, folder, func(db *sql.DB) error {
		_, err := db.ExecContext(ctx, `CREATE TABLE use_events (id TEXT, part TEXT, kind TEXT, count REAL, from_ms INTEGER,
			to_ms INTEGER, source TEXT, supersedes TEXT)`)
		return err
	})
	if err != nil {
		return nil, err
	}
	s.insert, err = s.tx.PrepareContext(ctx, "INSERT INTO use_events VALUES (?, ?, ?, ?, ?, ?, ?, ?)")
	if err != nil {
		return nil, errors.Join(err, s.Close())
	}
	return s, nil
}

// Add brings entries in.
func (s *UseStage) Add(ctx context.Context, list ...Used) error {
	for _, u := range list {
		var supersedes any
		if u.Supersedes != "" {
			supersedes = u.Supersedes
		}
		if _, err := s.insert.ExecContext(ctx, u.ID, u.Part.String(), string(u.Kind), u.Count, ms(u.From), ms(u.To),
			u.Source, supersedes); err != nil {
			return err
		}
		s.span.take(u.From, u.To)
	}
	return nil
}

// TakeUse appends the entries of a stage to the ledger of its machine, as AddUse does, in a few statements however many
// they are. What they correct must be the machine's own, and stand. It is part of WriteFrom.
func (s *Store) TakeUse(ctx context.Context, m Machine, now time.Time, stage *UseStage) error {
	err := s.db.WithContext(ctx).Exec("INSERT INTO main.use_events (id, machine_id, part, kind, count, from_ms, to_ms, "+
		"source, supersedes, person_id) SELECT id, ?, part, kind, count, from_ms, to_ms, source, supersedes, ? FROM "+
		incoming+".use_events ORDER BY rowid", m.ID, personIn(ctx)).Error
	if err != nil {
		return err
	}
	if err := s.recount(ctx, m, stage.span); err != nil {
		return err
	}
	_, err = s.touched(ctx, m, now, nil, true)
	return err
}

// Before is an entry that a source brought before.
type Before struct {
	use.Event
	ByHand bool // it was taken back or corrected by somebody since
}

// Imported lists the entries of a source that lie wholly in a stretch of time, the newest of each where the source
// corrected its own.
func (s *Store) Imported(ctx context.Context, machineID, source string, from, to time.Time) ([]Before, error) {
	var rows []struct {
		Row    useRow `gorm:"embedded"`
		ByHand bool
	}
	err := s.db.WithContext(ctx).Raw("SELECT e.*, u.id IS NOT NULL by_hand FROM use_events e INDEXED BY use_by_machine "+
		"LEFT JOIN use_events u ON u.supersedes = e.id WHERE e.machine_id = ? AND e.to_ms >= ? AND e.to_ms <= ? "+
		"AND e.from_ms >= ? AND e.source = ? AND e.kind <> 'undo' AND COALESCE(u.source, '') <> e.source",
		machineID, ms(from), ms(to), ms(from), source).Scan(&rows).Error
	list := make([]Before, len(rows))
	for i, r := range rows {
		list[i] = Before{r.Row.event(), r.ByHand}
	}
	return list, err
}

// NewestUse is the newest entry of the ledger of all machines, by the order in which they were made.
func (s *Store) NewestUse(ctx context.Context) (number int64, err error) {
	err = s.db.WithContext(ctx).Raw("SELECT COALESCE(MAX(rowid), 0) FROM use_events").Scan(&number).Error
	return number, err
}

// ImportsMoved says whether a source brought anything to a machine, or any entry of it was taken back or corrected,
// since an entry was the newest.
func (s *Store) ImportsMoved(ctx context.Context, machineID, source string, newest int64) (moved bool, err error) {
	err = s.db.WithContext(ctx).Raw("SELECT EXISTS (SELECT 1 FROM use_events WHERE rowid > ? AND machine_id = ? AND "+
		"(source = ? OR supersedes IS NOT NULL))", newest, machineID, source).Scan(&moved).Error
	return moved, err
}
