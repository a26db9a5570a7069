package store

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/machine"
)

type careRow struct {
	ID        string
	MachineID string
	Part      string
	Task      care.Task
	AtMs      int64
	Outcome   string
	Title     string
	RunID     *string
	Record    Record `gorm:"serializer:json"`
}

func (careRow) TableName() string { return "care_log" }

// Record is what was done to a part, as it is written down.
type Record struct {
	Method  backflush.MethodID `json:"method,omitempty"`
	Dose    *backflush.Dose    `json:"dose,omitempty"`
	Soapy   int                `json:"soapy,omitempty"`
	Rinsed  int                `json:"rinsed,omitempty"`
	Cups    []backflush.Cup    `json:"cups,omitempty"`
	First   backflush.Colour   `json:"first,omitempty"`   // of the first dirty water
	Gone    float64            `json:"gone,omitempty"`    // share of the interval
	Minutes float64            `json:"minutes,omitempty"` // run time
	Note    string             `json:"note,omitempty"`
}

// Entry is one line of the log.
type Entry struct {
	ID, MachineID, Outcome, Title, RunID string
	Task                                 care.Task
	Part                                 machine.Part
	At                                   time.Time
	Record                               Record
}

// The outcomes of what is in the log without a run: put on record, signed off on
// somebody's word, and only said, which moves no date.
const (
	Recorded  = "recorded"
	SignedOff = "signed_off"
	Noted     = "noted"
)

// AddCare puts care on record that was done without a run. The same id again
// changes nothing.
func (s *Store) AddCare(ctx context.Context, id, machineID string, task care.Task, part machine.Part,
	done time.Time) error {
	err := s.db.WithContext(ctx).Create(&careRow{ID: id, MachineID: machineID, Part: part.String(), Task: task,
		AtMs: ms(done), Outcome: Recorded, Title: task.Title()}).Error
	if duplicate(err) {
		return nil
	}
	return err
}

// AddSmall puts small tasks of the day on record, all or none. The same again
// changes nothing.
func (s *Store) AddSmall(ctx context.Context, id, machineID string, tasks []care.Task, done time.Time) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		for _, task := range tasks {
			err := tx.Create(&careRow{ID: uuid.NewSHA1(uuid.NameSpaceOID, []byte(id+string(task))).String(),
				MachineID: machineID, Part: machine.Part{}.String(), Task: task, AtMs: ms(done), Outcome: Recorded,
				Title: task.Title()}).Error
			if err != nil && !duplicate(err) {
				return err
			}
		}
		return nil
	})
}

// Note puts a note on record. The same id again changes nothing.
func (s *Store) Note(ctx context.Context, id, machineID string, task care.Task, title, text string,
	now time.Time) error {
	err := s.db.WithContext(ctx).
		Create(&careRow{ID: id, MachineID: machineID, Part: machine.Part{}.String(), Task: task,
			AtMs: ms(now), Outcome: Noted, Title: title, Record: Record{Note: text}}).
		Error
	if duplicate(err) {
		return nil
	}
	return err
}

// Log lists what was done, newest first, of one machine or of all; the small
// tasks of the day only if asked for.
func (s *Store) Log(ctx context.Context, machineID string, small bool, limit int) ([]Entry, error) {
	q := s.db.WithContext(ctx).Order("at_ms DESC, rowid DESC").Limit(limit)
	if !small {
		q = q.Where(
			"NOT (outcome = ? AND task IN ('water_backflush', 'brush', 'tray', 'waste', 'tank_water'))",
			Recorded,
		)
	}
	if machineID != "" {
		q = q.Where("machine_id = ?", machineID)
	}
	var rows []careRow
	if err := q.Find(&rows).Error; err != nil {
		return nil, err
	}
	return entries(rows)
}

func entries(rows []careRow) ([]Entry, error) {
	list := make([]Entry, len(rows))
	for i, r := range rows {
		part, err := machine.ParsePart(r.Part)
		if err != nil {
			return nil, fmt.Errorf("log entry %s: %w", r.ID, err)
		}
		list[i] = Entry{ID: r.ID, MachineID: r.MachineID, Outcome: r.Outcome, Title: r.Title, Task: r.Task, Part: part,
			At: at(r.AtMs), Record: r.Record}
		if r.RunID != nil {
			list[i].RunID = *r.RunID
		}
	}
	return list, nil
}
