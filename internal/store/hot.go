package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"sync/atomic"
	"time"

	"gorm.io/gorm"

	"freshanvil/core/use"
)

// hot are the statements of a drink. They are prepared once on the connection that writes: whatever
// goes through the query builder is prepared anew in each transaction, which costs a drink more than
// the rest of it.
type hot struct {
	guard, insert, shot, flush, water, touch *sql.Stmt
	asked                                    atomic.Int64
}

// guardSQL reads all that may stand in the way of an entry: the machine, what holds of it, what is
// in it, and whether the id is in use.
const guardSQL = `SELECT m.id, m.name, m.zone, m.created_ms, m.archived_ms, m.logged_since_ms, m.version,
		s.layout, s.valve, s.facts, s.drinks, s.milk_drinks, s.hardness_known, s.hardness_value, s.hardness_unit,
		s.treatment, u.machine_id, u.part, u.kind, u.count, u.from_ms, u.to_ms, u.source, u.supersedes,
		h.part, h.chemical, COALESCE(h.tries, 0), EXISTS (SELECT 1 FROM requests r WHERE r.id = @entry)
	FROM machines m JOIN settings s ON ` + newestSetting + `
	LEFT JOIN use_events u ON u.id = @entry
	LEFT JOIN hazards h ON h.machine_id = m.id AND h.cleared_ms IS NULL
	WHERE m.id = @id`

// countSQL counts an entry of an instant to its day, where nothing absorbs it.
func countSQL(absorbedBy string) string {
	return `INSERT INTO use_days (machine_id, day_ms, part, single, double, milk, flush, water)
		SELECT @id, @day, @part, @single, @double, @milk, @flush, @water ` + absorbedBy + `
		ON CONFLICT DO UPDATE SET single = single + excluded.single, double = double + excluded.double,
			milk = milk + excluded.milk, flush = flush + excluded.flush, water = water + excluded.water`
}

// spansSQL are the longer spans that an entry of some kinds may be part of.
func spansSQL(kinds string) string {
	return `WHERE NOT EXISTS (SELECT 1 FROM use_events e INDEXED BY use_spans WHERE e.machine_id = @id
		AND e.from_ms < e.to_ms AND e.to_ms >= @at AND e.from_ms < @at AND (e.part = 'machine' OR e.part = @part)
		AND ` + standing + ` AND e.kind IN (` + kinds + `))`
}

func (h *hot) prepare(ctx context.Context, db *sql.DB) error {
	for _, x := range []struct {
		to   **sql.Stmt
		text string
	}{
		{&h.guard, guardSQL},
		{&h.insert, `INSERT INTO use_events (id, machine_id, part, kind, count, from_ms, to_ms, source, supersedes,
				person_id)
			VALUES (@id, @machine, @part, @kind, @count, @from, @to, @source, @supersedes, @person)`},
		{&h.shot, countSQL(spansSQL("'single', 'double', 'milk'"))},
		{&h.flush, countSQL(spansSQL("'flush'"))},
		{&h.water, countSQL("WHERE @at > 0")}, // of runs: part of no span; SQLite wants a WHERE before ON CONFLICT
		{&h.touch, `UPDATE machines SET stale = 1, logged_since_ms =
				CASE WHEN @from IS NULL THEN logged_since_ms ELSE MIN(COALESCE(logged_since_ms, @from), @from) END
			WHERE id = @id RETURNING (SELECT COALESCE(SUM(single + double + milk), 0) FROM use_days
				WHERE machine_id = @id AND day_ms = @day)`},
	} {
		stmt, err := db.PrepareContext(ctx, x.text)
		if err != nil {
			return fmt.Errorf("%s: %w", x.text, err)
		}
		*x.to = stmt
	}
	return nil
}

func (h *hot) close() {
	for _, s := range []*sql.Stmt{h.guard, h.insert, h.shot, h.flush, h.water, h.touch} {
		if s != nil {
			_ = s.Close()
		}
	}
}

// of is a prepared statement in the transaction that the store is; it must be one.
func (s *Store) of(ctx context.Context, stmt *sql.Stmt) (*sql.Stmt, error) {
	s.hot.asked.Add(1)
	tx, err := s.tx()
	if err != nil {
		return nil, err
	}
	return tx.StmtContext(ctx, stmt), nil
}

// tx is the transaction that the store is; it must be one.
func (s *Store) tx() (*sql.Tx, error) {
	if pool, is := s.db.Statement.ConnPool.(*gorm.PreparedStmtTX); is {
		if tx, is := pool.Tx.(*sql.Tx); is {
			return tx, nil
		}
	}
	return nil, errors.New("this is done in a transaction: see Write")
}

func (s *Store) exec(ctx context.Context, stmt *sql.Stmt, args ...any) error {
	in, err := s.of(ctx, stmt)
	if err == nil {
		_, err = in.ExecContext(ctx, args...)
	}
	return err
}

// Guard is all that is to be looked at before use is logged, read at once.
type Guard struct {
	Machine Machine
	Hazards []Hazard
	Before  *Used // the entry that has the id already; nil where it is free
	Today   float64
}

// Guard reads what may stand in the way of an entry with an id: the machine, what is in it, and
// the entry itself where it was made before. ErrNotFound where there is no such machine; ErrOther
// where the id belongs to another request. It is part of a transaction.
func (s *Store) Guard(ctx context.Context, machineID, id string, now time.Time) (Guard, error) {
	stmt, err := s.of(ctx, s.hot.guard)
	if err != nil {
		return Guard{}, err
	}
	rows, err := stmt.QueryContext(ctx, sql.Named("id", machineID), sql.Named("entry", id))
	if err != nil {
		return Guard{}, err
	}
	defer rows.Close()
	var g Guard
	taken := false
	for rows.Next() {
		if taken, err = g.scan(rows, machineID, id); err != nil {
			return g, err
		}
	}
	if err := rows.Err(); err != nil {
		return g, err
	}
	switch {
	case g.Machine.ID == "":
		return g, fmt.Errorf("machine %s: %w", machineID, ErrNotFound)
	case taken:
		return g, fmt.Errorf("id %s: %w", id, ErrOther)
	case g.Before != nil:
		g.Today, err = s.drinksOf(ctx, g.Machine, now)
	}
	return g, err
}

// scan reads one row of the guard, one a hazard, and says whether the id belongs to another request.
func (g *Guard) scan(rows *sql.Rows, machineID, id string) (taken bool, err error) {
	var (
		m               machineRow
		set             settingRow
		facts           string
		of, part_, kind *string
		count           *float64
		from, to        *int64
		source, before  *string
		in, chemical    *string
		tries           int
	)
	err = rows.Scan(&m.ID, &m.Name, &m.Zone, &m.CreatedMs, &m.ArchivedMs, &m.LoggedSinceMs, &m.Version, &set.Layout,
		&set.Valve, &facts, &set.Drinks, &set.MilkDrinks, &set.HardnessKnown, &set.HardnessValue, &set.HardnessUnit,
		&set.Treatment, &of, &part_, &kind, &count, &from, &to, &source, &before, &in, &chemical, &tries, &taken)
	if err != nil {
		return false, err
	}
	if g.Machine.ID == "" {
		set.Facts = factsOf(facts)
		g.Machine = machineOf(m, set)
	}
	if in != nil {
		g.Hazards = append(g.Hazards, Hazard{MachineID: machineID, Part: part(*in), Chemical: *chemical, Tries: tries})
	}
	if of == nil {
		return taken, nil
	}
	g.Before = &Used{Source: *source, Event: use.Event{ID: id, Part: part(*part_), Kind: use.Kind(*kind), Count: *count,
		From: at(*from), To: at(*to)}}
	if before != nil {
		g.Before.Supersedes = *before
	}
	return taken || *of != machineID, nil
}

// insert keeps an entry of the ledger.
func (s *Store) insert(ctx context.Context, machineID string, u Used) error {
	var supersedes any
	if u.Supersedes != "" {
		supersedes = u.Supersedes
	}
	return s.exec(ctx, s.hot.insert, sql.Named("id", u.ID), sql.Named("machine", machineID),
		sql.Named("part", u.Part.String()), sql.Named("kind", string(u.Kind)), sql.Named("count", u.Count),
		sql.Named("from", ms(u.From)), sql.Named("to", ms(u.To)), sql.Named("source", u.Source),
		sql.Named("supersedes", supersedes),
		sql.Named("person", personIn(ctx)))
}

// press counts an entry of an instant to its day, unless a longer span absorbs it.
func (s *Store) press(ctx context.Context, m Machine, e use.Event) error {
	c := use.CountsOf(e)
	if c == (use.Counts{}) {
		return nil
	}
	stmt := s.hot.water
	switch {
	case e.Kind.IsShot():
		stmt = s.hot.shot
	case e.Kind == use.Flush:
		stmt = s.hot.flush
	}
	return s.exec(ctx, stmt, sql.Named("id", m.ID), sql.Named("day", ms(use.Day(e.To, m.Zone))),
		sql.Named("part", e.Part.String()), sql.Named("at", ms(e.To)), sql.Named("single", c.Single),
		sql.Named("double", c.Double), sql.Named("milk", c.Milk), sql.Named("flush", c.Flush), sql.Named("water", c.Water))
}

// touched notes that the use of a machine has changed: since when it is logged, and that its
// standings are to be worked out anew. Where entries were taken back, since when is looked up.
func (s *Store) touched(ctx context.Context, m Machine, now time.Time, list []Used, anew bool) (
	drinks float64, err error,
) {
	var from any
	for _, u := range list {
		if at, earlier := from.(int64); u.Kind.IsShot() && (!earlier || ms(u.From) < at) {
			from = ms(u.From)
		}
	}
	if anew {
		err := s.db.WithContext(ctx).Exec("UPDATE machines SET logged_since_ms = (SELECT MIN(e.from_ms) FROM use_events e "+
			"WHERE e.machine_id = @id AND e.kind IN ('single', 'double', 'milk') AND "+standing+") WHERE id = @id",
			map[string]any{"id": m.ID}).Error
		if err != nil {
			return 0, err
		}
		from = nil
	}
	stmt, err := s.of(ctx, s.hot.touch)
	if err != nil {
		return 0, err
	}
	err = stmt.QueryRowContext(ctx, sql.Named("id", m.ID), sql.Named("from", from),
		sql.Named("day", ms(use.Day(now, m.Zone)))).Scan(&drinks)
	return drinks, err
}
