package store

import (
	"context"
	"fmt"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/use"
)

type (
	useRow struct {
		ID         string
		MachineID  string
		Part       string
		Kind       use.Kind
		Count      float64
		FromMs     int64
		ToMs       int64
		Source     string
		Supersedes *string
	}
	dayRow struct {
		MachineID string
		DayMs     int64
		Part      string
		Single    float64
		Double    float64
		Milk      float64
		Flush     float64
		Water     float64
	}
)

func (useRow) TableName() string { return "use_events" }
func (dayRow) TableName() string { return "use_days" }

// part is what the use is of; what cannot be read counts for the whole machine.
func part(text string) machine.Part {
	part, err := machine.ParsePart(text)
	if err != nil {
		return machine.Part{}
	}
	return part
}

func (u useRow) event() use.Event {
	return use.Event{ID: u.ID, Part: part(u.Part), Kind: u.Kind, Count: u.Count, From: at(u.FromMs), To: at(u.ToMs)}
}

func events(rows []useRow) []use.Event {
	list := make([]use.Event, len(rows))
	for i, r := range rows {
		list[i] = r.event()
	}
	return list
}

// standing keeps the events that were not taken back or corrected.
const standing = "NOT EXISTS (SELECT 1 FROM use_events u WHERE u.supersedes = e.id)"

// Entry of the ledger, as it is to be kept.
type Used struct {
	use.Event
	Source     string
	Supersedes string // the entry that it takes back or corrects; empty for none
}

// Today is what was pressed in on one machine since its day turned.
type Today struct {
	Drinks float64
	ID     string // the newest entry
	Kind   use.Kind
}

// AddUse appends to the ledger of a machine, and counts up by the day what changes by it. A
// superseded entry must be the machine's own and not superseded already; else ErrConflict. An id
// that is there already is ErrOther. It gives the drinks of the day of an instant.
func (s *Store) AddUse(ctx context.Context, m Machine, now time.Time, list ...Used) (drinks float64, err error) {
	var recount span
	for _, u := range list {
		if u.Supersedes != "" {
			was, err := s.Use(ctx, m.ID, u.Supersedes)
			if err != nil || was.Kind == use.Undo {
				return 0, fmt.Errorf("entry %s of this machine: %w", u.Supersedes, ErrNotFound)
			}
			recount.take(was.From, was.To)
		}
		if err := s.insert(ctx, m.ID, u); duplicate(err) {
			return 0, s.twice(ctx, u)
		} else if err != nil {
			return 0, err
		}
		if u.Supersedes == "" && u.From.Equal(u.To) {
			if err := s.press(ctx, m, u.Event); err != nil {
				return 0, err
			}
			continue
		}
		recount.take(u.From, u.To)
	}
	if err := s.recount(ctx, m, recount); err != nil {
		return 0, err
	}
	return s.touched(ctx, m, now, list, !recount.from.IsZero())
}

// twice says which of the two an entry that cannot be kept is: of an id that is in use, or of
// an entry that was taken back before.
func (s *Store) twice(ctx context.Context, u Used) error {
	var there int64
	if err := s.db.WithContext(ctx).Model(&useRow{}).Where("id = ?", u.ID).Count(&there).Error; err != nil {
		return err
	}
	if there > 0 {
		return fmt.Errorf("id %s: %w", u.ID, ErrOther)
	}
	return fmt.Errorf("entry %s is taken back already: %w", u.Supersedes, ErrConflict)
}

// span is a stretch of time in which use by the day is to be counted up anew.
type span struct{ from, to time.Time }

func (s *span) take(from, to time.Time) {
	if s.from.IsZero() || from.Before(s.from) {
		s.from = from
	}
	if to.After(s.to) {
		s.to = to
	}
}

// recount counts use by the day up anew from the entries, over every day of a stretch.
func (s *Store) recount(ctx context.Context, m Machine, over span) error {
	if over.from.IsZero() {
		return nil
	}
	db := s.db.WithContext(ctx)
	from, to := use.Day(over.from, m.Zone), use.NextDay(over.to, m.Zone)
	list, err := s.between(ctx, m.ID, from, to)
	if err != nil {
		return err
	}
	if err := db.Where("machine_id = ? AND day_ms >= ? AND day_ms < ?", m.ID, ms(from), ms(to)).
		Delete(&dayRow{}).Error; err != nil {
		return err
	}
	days := use.ByDay(list, from, to, m.Zone)
	rows := make([]dayRow, len(days))
	for i, d := range days {
		rows[i] = dayRow{m.ID, ms(d.Start), d.Part.String(), d.Single, d.Double, d.Milk, d.Flush, d.Water}
	}
	if len(rows) == 0 {
		return nil
	}
	return db.CreateInBatches(rows, 500).Error
}

// between lists the standing entries that touch a stretch of time, longer spans over it too. They may be very many, and
// others wait meanwhile: they are read without the query builder's detours.
func (s *Store) between(ctx context.Context, machineID string, from, to time.Time) ([]use.Event, error) {
	const entry = "SELECT e.id, e.part, e.kind, e.count, e.from_ms, e.to_ms FROM use_events e INDEXED BY "
	rows, err := s.db.WithContext(ctx).Raw(entry+`use_by_machine WHERE e.machine_id = @id
			AND e.to_ms >= @from AND e.to_ms <= @to AND e.kind <> 'undo' AND `+standing+`
		UNION ALL `+entry+`use_spans WHERE e.machine_id = @id AND e.from_ms < e.to_ms
			AND e.to_ms > @to AND e.from_ms < @to AND e.kind <> 'undo' AND `+standing,
		map[string]any{"id": machineID, "from": ms(from), "to": ms(to)}).Rows()
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var list []use.Event
	for rows.Next() {
		var r useRow
		if err := rows.Scan(&r.ID, &r.Part, &r.Kind, &r.Count, &r.FromMs, &r.ToMs); err != nil {
			return nil, err
		}
		list = append(list, r.event())
	}
	return list, rows.Err()
}

// EventsOf lists the standing entries from an instant on, and those that touch the days that
// begin at some others, each once.
func (s *Store) EventsOf(ctx context.Context, m Machine, since time.Time, days []time.Time) ([]use.Event, error) {
	var rows []useRow
	err := s.db.WithContext(ctx).Raw("SELECT e.* FROM use_events e INDEXED BY use_by_machine WHERE e.machine_id = ? "+
		"AND e.to_ms >= ? AND e.kind <> 'undo' AND "+standing, m.ID, ms(since)).Scan(&rows).Error
	list := events(rows)
	seen := make(map[string]bool, len(list))
	for _, e := range list {
		seen[e.ID] = true
	}
	for _, day := range days {
		if err != nil {
			return nil, err
		}
		var more []use.Event
		more, err = s.between(ctx, m.ID, day, use.NextDay(day, m.Zone))
		for _, e := range more {
			if !seen[e.ID] {
				seen[e.ID] = true
				list = append(list, e)
			}
		}
	}
	return list, err
}

// Days is use by the day from an instant on, oldest first.
func (s *Store) Days(ctx context.Context, machineID string, from time.Time) ([]use.DayUse, error) {
	var rows []dayRow
	err := s.db.WithContext(ctx).Order("day_ms, part").Find(&rows, "machine_id = ? AND day_ms >= ?", machineID, ms(from)).
		Error
	list := make([]use.DayUse, len(rows))
	for i, r := range rows {
		list[i] = use.DayUse{Start: at(r.DayMs), Part: part(r.Part),
			Counts: use.Counts{Single: r.Single, Double: r.Double, Milk: r.Milk, Flush: r.Flush, Water: r.Water}}
	}
	return list, err
}

// LoggedUntil is where the log of a machine ends for now: the end of its newest drinks where those
// are a span; zero where presses go on.
func (s *Store) LoggedUntil(ctx context.Context, machineID string) (time.Time, error) {
	var newest []useRow
	err := s.db.WithContext(ctx).Raw("SELECT e.* FROM use_events e INDEXED BY use_by_machine WHERE e.machine_id = ? AND "+
		"e.kind IN ('single', 'double', 'milk') AND "+standing+" ORDER BY e.to_ms DESC LIMIT 1", machineID).
		Scan(&newest).Error
	if err != nil || len(newest) == 0 || newest[0].FromMs == newest[0].ToMs {
		return time.Time{}, err
	}
	return at(newest[0].ToMs), nil
}

// Todays sums, for machines that share a zone, what was pressed in since an
// instant, by machine.
func (s *Store) Todays(
	ctx context.Context,
	list []Machine,
	zone *time.Location,
	since time.Time,
) (map[string]Today, error) {
	var rows []struct {
		MachineID string
		Drinks    float64
		ID        string
		Kind      use.Kind
	}
	where, arg := "e.machine_id IN (SELECT id FROM machines WHERE zone = ?)", zone.String()
	from := "use_events e INDEXED BY use_by_time"
	if len(list) == 1 {
		where, arg, from = "e.machine_id = ?", list[0].ID, "use_events e INDEXED BY use_by_machine"
	}
	// a file's day ends with the instant at which this one begins, and is not of it
	at := ms(since)
	// with one MAX, SQLite takes the other columns from the row that has it
	err := s.db.WithContext(ctx).
		Raw("SELECT e.machine_id, SUM(CASE e.kind WHEN 'flush' THEN 0 ELSE e.count END) drinks, MAX(e.to_ms), e.id, "+
			"e.kind FROM "+from+
			" WHERE "+where+" AND e.to_ms >= ? AND NOT (e.to_ms = ? AND e.from_ms < e.to_ms) "+
			"AND e.kind NOT IN ('undo', 'run_water') AND "+standing+" GROUP BY e.machine_id",
			arg, at, at).
		Scan(&rows).
		Error
	out := make(map[string]Today, len(rows))
	for _, r := range rows {
		out[r.MachineID] = Today{r.Drinks, r.ID, r.Kind}
	}
	return out, err
}

// Use finds one entry of a machine's ledger, standing or not; else ErrNotFound.
func (s *Store) Use(ctx context.Context, machineID, id string) (Used, error) {
	var rows []useRow
	err := s.db.WithContext(ctx).Find(&rows, "id = ? AND machine_id = ?", id, machineID).Error
	if err == nil && len(rows) == 0 {
		err = fmt.Errorf("entry %s of this machine: %w", id, ErrNotFound)
	}
	if err != nil {
		return Used{}, err
	}
	u := Used{Event: rows[0].event(), Source: rows[0].Source}
	if rows[0].Supersedes != nil {
		u.Supersedes = *rows[0].Supersedes
	}
	return u, nil
}

// HasUse says whether an id is in use for an entry of any machine.
func (s *Store) HasUse(ctx context.Context, id string) (bool, error) {
	var n int64
	err := s.db.WithContext(ctx).Model(&useRow{}).Where("id = ?", id).Count(&n).Error
	return n > 0, err
}

// Ledger lists the newest entries of one machine as they stand, newest first.
func (s *Store) Ledger(ctx context.Context, machineID string, limit int) ([]use.Event, error) {
	var rows []useRow
	err := s.db.WithContext(ctx).
		Raw("SELECT e.* FROM use_events e WHERE e.machine_id = ? AND e.kind NOT IN ('undo', 'run_water') AND "+
			""+standing+" ORDER BY e.to_ms DESC, e.rowid DESC LIMIT ?", machineID, limit).
		Scan(&rows).
		Error
	return events(rows), err
}

// Recount counts the use of a machine up by the day anew, all of it.
func (s *Store) Recount(ctx context.Context, m Machine) error {
	var ends struct{ From, To *int64 }
	err := s.db.WithContext(ctx).Raw("SELECT MIN(from_ms) \"from\", MAX(to_ms) \"to\" FROM use_events "+
		"WHERE machine_id = ?", m.ID).Scan(&ends).Error
	if err != nil || ends.From == nil {
		return err
	}
	return s.recount(ctx, m, span{at(*ends.From), at(*ends.To)})
}

// drinksOf is what was made on a machine in the day of an instant.
func (s *Store) drinksOf(ctx context.Context, m Machine, now time.Time) (drinks float64, err error) {
	err = s.db.WithContext(ctx).Raw("SELECT COALESCE(SUM(single + double + milk), 0) FROM use_days WHERE machine_id = ? "+
		"AND day_ms = ?", m.ID, ms(use.Day(now, m.Zone))).Scan(&drinks).Error
	return drinks, err
}

// UseLine is an entry of the ledger as it stands in a table: with its machine, and whether another took its place.
type UseLine struct {
	MachineID, ID, Kind, Part, Source, Supersedes string
	Count                                         float64
	From, To                                      time.Time
	Superseded                                    bool
}

// EachUse hands out the ledger of all machines, oldest first; one line at a time, however many there are.
func (s *Store) EachUse(ctx context.Context, f func(UseLine) error) error {
	rows, err := s.db.WithContext(ctx).Raw("SELECT e.machine_id, e.id, e.kind, e.part, e.source, " +
		"COALESCE(e.supersedes, ''), e.count, e.from_ms, e.to_ms, EXISTS (SELECT 1 FROM use_events o WHERE " +
		"o.supersedes = e.id) FROM use_events e ORDER BY e.to_ms, e.rowid").Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var l UseLine
		var from, to int64
		err := rows.Scan(&l.MachineID, &l.ID, &l.Kind, &l.Part, &l.Source, &l.Supersedes, &l.Count, &from, &to,
			&l.Superseded)
		if err != nil {
			return err
		}
		l.From, l.To = at(from), at(to)
		if err := f(l); err != nil {
			return err
		}
	}
	return rows.Err()
}

// EachEntry hands out the log of all machines, oldest first.
func (s *Store) EachEntry(ctx context.Context, f func(Entry) error) error {
	rows, err := s.db.WithContext(ctx).Model(&careRow{}).Where("outcome <> ?", Begins).Order("at_ms, rowid").Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var row careRow
		if err := s.db.ScanRows(rows, &row); err != nil {
			return err
		}
		if err := f(entries([]careRow{row})[0]); err != nil {
			return err
		}
	}
	return rows.Err()
}

// EachLook hands out what was seen of all machines and stands, oldest first.
func (s *Store) EachLook(ctx context.Context, f func(Look) error) error {
	rows, err := s.db.WithContext(ctx).Model(&lookRow{}).Where("gone_ms IS NULL").Order("at_ms, id").Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var row lookRow
		if err := s.db.ScanRows(rows, &row); err != nil {
			return err
		}
		if err := f(looksOf([]lookRow{row})[0]); err != nil {
			return err
		}
	}
	return rows.Err()
}
