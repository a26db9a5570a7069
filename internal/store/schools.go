package store

import (
	"context"
	"fmt"
	"time"

	"gorm.io/gorm"

	"freshanvil/core/care"
	"freshanvil/core/run"
	"freshanvil/core/task"
	"freshanvil/core/use"
)

// What an interval change is.
const (
	Chosen  = "chosen"
	Learned = "learned"
	Oily    = "oily"
	Party   = "party"
	Undone  = "undone"
)

type (
	changeRow struct {
		ID         string
		MachineID  string
		AtMs       int64
		What       string
		Choice     choiceForm `gorm:"serializer:json"`
		Why        string
		Supersedes *string
	}
	awayRow struct {
		ID        string
		MachineID string
		FromMs    int64
		ToMs      int64
		Note      string
		SaidMs    int64
		GoneMs    *int64
		Stands    string
	}
	readingRow struct {
		ID        string
		MachineID string
		AtMs      int64
		Value     float64
	}
)

func (changeRow) TableName() string  { return "interval_changes" }
func (awayRow) TableName() string    { return "away" }
func (readingRow) TableName() string { return "counter_readings" }

// Change is one change of how often and how.
type Change struct {
	ID, What, Why string
	At            time.Time
	Choice        care.Choice
	Supersedes    string // the change that it takes back; empty for none
	TakenBack     bool
}

// ChangeInterval keeps a change.
func (s *Store) ChangeInterval(ctx context.Context, machineID string, c Change) error {
	row := changeRow{ID: c.ID, MachineID: machineID, AtMs: ms(c.At), What: c.What, Choice: keepChoice(c.Choice),
		Why: c.Why}
	if c.Supersedes != "" {
		row.Supersedes = &c.Supersedes
	}
	if err := s.db.WithContext(ctx).Create(&row).Error; err != nil {
		return err
	}
	return s.Stale(ctx, machineID)
}

// Changes lists every change of a machine's interval, oldest first.
func (s *Store) Changes(ctx context.Context, machineID string) ([]Change, error) {
	var rows []changeRow
	err := s.db.WithContext(ctx).Order("at_ms, rowid").Find(&rows, "machine_id = ?", machineID).Error
	gone := map[string]bool{}
	for _, r := range rows {
		if r.Supersedes != nil {
			gone[*r.Supersedes] = true
		}
	}
	list := make([]Change, len(rows))
	for i, r := range rows {
		list[i] = Change{ID: r.ID, What: r.What, Why: r.Why, At: at(r.AtMs), Choice: r.Choice.core(), TakenBack: gone[r.ID]}
	}
	return list, err
}

// Away is a time nobody is there, as entered.
type Away struct {
	ID       string
	From, To time.Time
	Note     string
	// Stands is how it is closed meanwhile: visited, alone; empty where nothing is done about it.
	Stands string
}

// How a machine is closed while nobody is there: somebody comes once a week, or nobody.
const (
	Visited = "visited"
	Alone   = "alone"
)

// SayAway keeps a time nobody is there.
func (s *Store) SayAway(ctx context.Context, machineID string, a Away, now time.Time) error {
	err := s.db.WithContext(ctx).
		Create(&awayRow{ID: a.ID, MachineID: machineID, FromMs: ms(a.From), ToMs: ms(a.To), Note: a.Note, SaidMs: ms(now),
			Stands: a.Stands}).
		Error
	if err != nil {
		return err
	}
	return s.Stale(ctx, machineID)
}

// ForgetAway takes a time back; ErrNotFound where the machine has no such one.
func (s *Store) ForgetAway(ctx context.Context, machineID, id string, now time.Time) error {
	done := s.db.WithContext(ctx).
		Model(&awayRow{}).
		Where("id = ? AND machine_id = ?", id, machineID).
		Update("gone_ms", gorm.Expr("COALESCE(gone_ms, ?)", ms(now)))
	if done.Error == nil && done.RowsAffected == 0 {
		return fmt.Errorf("holiday %s: %w", id, ErrNotFound)
	}
	if done.Error != nil {
		return done.Error
	}
	return s.Stale(ctx, machineID)
}

// Aways lists the times nobody is there of one machine, oldest first.
func (s *Store) Aways(ctx context.Context, machineID string) ([]Away, error) {
	var rows []awayRow
	err := s.db.WithContext(ctx).Order("from_ms").Find(&rows, "machine_id = ? AND gone_ms IS NULL", machineID).Error
	list := make([]Away, len(rows))
	for i, r := range rows {
		list[i] = Away{r.ID, at(r.FromMs), at(r.ToMs), r.Note, r.Stands}
	}
	return list, err
}

// LastReading is the newest reading of the machine's counter until an instant, which is that of the one before an
// instant, nil where there is none; one whose use was taken back does not count.
func (s *Store) LastReading(ctx context.Context, machineID string, until time.Time) (*use.Reading, error) {
	var rows []readingRow
	err := s.db.WithContext(ctx).
		Raw("SELECT e.* FROM counter_readings e WHERE e.machine_id = ? AND e.at_ms <= ? AND "+standing+
			" ORDER BY e.at_ms DESC, e.rowid DESC LIMIT 1", machineID, ms(until)).
		Scan(&rows).
		Error
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	return &use.Reading{Value: rows[0].Value, At: at(rows[0].AtMs)}, nil
}

// AddCounter keeps a reading of the machine's counter.
func (s *Store) AddCounter(ctx context.Context, id, machineID string, r use.Reading) error {
	return s.db.WithContext(ctx).Create(&readingRow{ID: id, MachineID: machineID, AtMs: ms(r.At), Value: r.Value}).Error
}

// Washes lists the washes of a machine that were led and finished since an instant, oldest first.
func (s *Store) Washes(ctx context.Context, machineID string, since time.Time) ([]Entry, error) {
	var rows []careRow
	err := s.db.WithContext(ctx).Order("at_ms, rowid").
		Find(&rows, "machine_id = ? AND task = ? AND outcome = ? AND at_ms > ? AND gone_ms IS NULL", machineID, task.Wash,
			string(run.Finished), ms(since)).Error
	if err != nil {
		return nil, err
	}
	return entries(rows), nil
}

// Past is the completed care of one machine, of some tasks, since an instant, oldest first.
func (s *Store) Past(ctx context.Context, machineID string, of []task.ID, since time.Time) ([]Entry, error) {
	var rows []careRow
	err := s.db.WithContext(ctx).Order("at_ms, rowid").
		Find(&rows, "machine_id = ? AND task IN ? AND outcome IN ? AND at_ms > ? AND gone_ms IS NULL", machineID, of,
			[]string{string(run.Finished), Recorded}, ms(since)).Error
	if err != nil {
		return nil, err
	}
	return entries(rows), nil
}
