package store

import (
	"context"
	"fmt"
	"time"

	"gorm.io/gorm"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/machine"
	"freshanvil/core/run"
	"freshanvil/core/task"
)

type careRow struct {
	ID        string
	MachineID string
	Part      string
	Task      task.ID
	AtMs      int64
	Outcome   string
	Title     string
	RunID     *string
	Record    recordForm `gorm:"serializer:json"`
	GoneMs    *int64
}

func (careRow) TableName() string { return "care_log" }

// Record is what was done to a part, as it is written down.
type Record struct {
	Method  backflush.MethodID
	Dose    *backflush.Dose
	Soapy   int
	Rinsed  int
	Cups    []backflush.Cup
	First   backflush.Colour // of the first dirty water
	Gone    float64          // share of the interval
	Minutes float64          // run time
	Note    string
	By      string // who did it, by name or initials
	Sent    string // who was logged in as it was put in, where that is known
	Paper   string // its number, where somebody left one
	Papered *time.Time
	Begun   care.Begun // why a clock begins here, where nothing was done
	Dated   *time.Time // what its date was before it was corrected
}

// Entry is one line of the log.
type Entry struct {
	ID, MachineID, Outcome, Title, RunID string
	Task                                 task.ID
	Part                                 machine.Part
	At                                   time.Time
	Record                               Record
	TakenBack                            bool
}

// The outcomes of what is in the log without a run: put on record, signed off on
// somebody's word, only said, which moves no date, and the day on which a clock begins.
const (
	Recorded  = "recorded"
	SignedOff = "signed_off"
	Noted     = "noted"
	Begins    = "begun"
)

// counting are the outcomes that a clock begins from.
var counting = []string{string(run.Finished), Recorded, Begins}

// AddEntry writes a line of the log. The machine's standings are to be worked out anew.
func (s *Store) AddEntry(ctx context.Context, e Entry) error {
	row := careRow{ID: e.ID, MachineID: e.MachineID, Part: e.Part.String(), Task: e.Task, AtMs: ms(e.At),
		Outcome: e.Outcome, Title: e.Title, Record: keepRecord(e.Record)}
	if e.RunID != "" {
		row.RunID = &e.RunID
	}
	if err := s.db.WithContext(ctx).Create(&row).Error; err != nil {
		return err
	}
	return s.Stale(ctx, e.MachineID)
}

// Entry finds a line of the log of a machine; ErrNotFound where it has none of that id.
func (s *Store) Entry(ctx context.Context, machineID, id string) (Entry, error) {
	var rows []careRow
	if err := s.db.WithContext(ctx).Find(&rows, "id = ? AND machine_id = ?", id, machineID).Error; err != nil {
		return Entry{}, err
	}
	if len(rows) == 0 {
		return Entry{}, fmt.Errorf("line %s of the log of this machine: %w", id, ErrNotFound)
	}
	return entries(rows)[0], nil
}

// TakeEntryBack takes a line of the log back: it stays, and counts for nothing.
func (s *Store) TakeEntryBack(ctx context.Context, e Entry, now time.Time) error {
	err := s.db.WithContext(ctx).Model(&careRow{}).Where("id = ?", e.ID).
		Update("gone_ms", gorm.Expr("COALESCE(gone_ms, ?)", ms(now))).Error
	if err != nil {
		return err
	}
	return s.Stale(ctx, e.MachineID)
}

// DateEntry gives a line of the log another date; what it was before is kept with it.
func (s *Store) DateEntry(ctx context.Context, e Entry, to time.Time) error {
	was := e.At
	e.Record.Dated = &was
	err := s.db.WithContext(ctx).Model(&careRow{}).Where("id = ?", e.ID).Select("AtMs", "Record").
		Updates(&careRow{AtMs: ms(to), Record: keepRecord(e.Record)}).Error
	if err != nil {
		return err
	}
	return s.Stale(ctx, e.MachineID)
}

// DoneAt are the instants at which a task of the whole machine was done, oldest first.
func (s *Store) DoneAt(ctx context.Context, machineID string, id task.ID) ([]time.Time, error) {
	var list []int64
	err := s.db.WithContext(ctx).Model(&careRow{}).Order("at_ms").
		Where("machine_id = ? AND task = ? AND gone_ms IS NULL AND outcome IN ? AND outcome <> ?", machineID, id, counting,
			Begins).Pluck("at_ms", &list).Error
	out := make([]time.Time, len(list))
	for i, t := range list {
		out[i] = at(t)
	}
	return out, err
}

// Done gives the newest completion of each task and part of a machine.
func (s *Store) Done(ctx context.Context, machineID string) ([]care.Done, error) {
	var rows []struct {
		Task   task.ID
		Part   string
		AtMs   int64
		Record recordForm `gorm:"serializer:json"`
	}
	// with one MAX, SQLite takes the other columns from the row that has it; of two at the same
	// instant, what was done goes before the day a clock begins
	err := s.db.WithContext(ctx).Raw("SELECT task, part, at_ms, record, MAX(2 * at_ms + (outcome <> ?)) FROM care_log "+
		"INDEXED BY care_newest WHERE machine_id = ? AND gone_ms IS NULL AND outcome IN ? GROUP BY task, part", Begins,
		machineID, counting).
		Scan(&rows).Error
	list := make([]care.Done, len(rows))
	for i, r := range rows {
		list[i] = care.Done{Task: r.Task, Part: part(r.Part), At: at(r.AtMs), Begun: r.Record.Begun}
	}
	return list, err
}

// Log lists the newest lines of the log, newest first; with small the small tasks of the day too.
func (s *Store) Log(ctx context.Context, machineID string, small bool, limit int) ([]Entry, error) {
	return s.LogBetween(ctx, machineID, small, time.Time{}, time.Time{}, limit)
}

func entries(rows []careRow) []Entry {
	list := make([]Entry, len(rows))
	for i, r := range rows {
		list[i] = Entry{ID: r.ID, MachineID: r.MachineID, Outcome: r.Outcome, Title: r.Title, Task: r.Task,
			Part: part(r.Part), At: at(r.AtMs), Record: r.Record.core(), TakenBack: r.GoneMs != nil}
		if r.RunID != nil {
			list[i].RunID = *r.RunID
		}
	}
	return list
}

// EntriesBetween lists the lines of the log of a machine that stand, from an instant until another, oldest first.
func (s *Store) EntriesBetween(ctx context.Context, machineID string, from, until time.Time) ([]Entry, error) {
	var rows []careRow
	err := s.db.WithContext(ctx).Order("at_ms, rowid").Find(&rows,
		"machine_id = ? AND outcome <> ? AND at_ms >= ? AND at_ms < ? AND gone_ms IS NULL", machineID, Begins, ms(from),
		ms(until)).Error
	return entries(rows), err
}

// LastWord is when anything was last done to a machine, but for the small ones, or found of it; zero for never.
func (s *Store) LastWord(ctx context.Context, machineID string) (time.Time, error) {
	var last int64
	small := task.Where(func(r task.Row) bool { return r.Way == task.Small })
	err := s.db.WithContext(ctx).Raw("SELECT COALESCE(MAX(at), 0) FROM (SELECT MAX(at_ms) AS at FROM care_log WHERE "+
		"machine_id = ? AND outcome <> ? AND task NOT IN ? AND gone_ms IS NULL UNION ALL SELECT MAX(at_ms) FROM looks "+
		"WHERE machine_id = ? AND gone_ms IS NULL)", machineID, Begins, small, machineID).Scan(&last).Error
	if err != nil || last == 0 {
		return time.Time{}, err
	}
	return at(last), nil
}

// LogBetween lists the newest lines of the log from an instant until another, newest first; zero instants bound
// nothing.
func (s *Store) LogBetween(ctx context.Context, machineID string, small bool, from, until time.Time, limit int) (
	[]Entry, error) {
	q := s.db.WithContext(ctx).Order("at_ms DESC, rowid DESC").Limit(limit).Where("outcome <> ?", Begins)
	if !small {
		q = q.Where("NOT (outcome = ? AND task IN ?)", Recorded, task.Where(func(r task.Row) bool {
			return r.Way == task.Small
		}))
	}
	if machineID != "" {
		q = q.Where("machine_id = ?", machineID)
	}
	if !from.IsZero() {
		q = q.Where("at_ms >= ? AND at_ms < ?", ms(from), ms(until))
	}
	var rows []careRow
	if err := q.Find(&rows).Error; err != nil {
		return nil, err
	}
	return entries(rows), nil
}

// LoggedIn says that something was done in a year by UTC. Where that was so near to the turn of the year that it may be
// of another one by the machine's own clock, it says to which machine, and when.
type LoggedIn struct {
	Year      int
	MachineID string
	Edge      time.Time
}

// LogYears are the years in which anything was done, of one machine or of all.
func (s *Store) LogYears(ctx context.Context, machineID string) ([]LoggedIn, error) {
	const edge = "strftime('%m-%d', at_ms / 1000, 'unixepoch') IN ('12-31', '01-01')"
	query, args := "SELECT DISTINCT CAST(strftime('%Y', at_ms / 1000, 'unixepoch') AS INTEGER) AS year, CASE WHEN "+edge+
		" THEN machine_id ELSE '' END AS machine_id, CASE WHEN "+edge+" THEN at_ms END AS edge FROM care_log "+
		"WHERE outcome <> ?", []any{Begins}
	if machineID != "" {
		query, args = query+" AND machine_id = ?", append(args, machineID)
	}
	var rows []struct {
		MachineID string
		Year      int
		Edge      *int64
	}
	err := s.db.WithContext(ctx).Raw(query, args...).Scan(&rows).Error
	list := make([]LoggedIn, len(rows))
	for i, r := range rows {
		list[i] = LoggedIn{Year: r.Year, MachineID: r.MachineID}
		if r.Edge != nil {
			list[i].Edge = at(*r.Edge)
		}
	}
	return list, err
}
