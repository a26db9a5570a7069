package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"freshanvil/core/machine"
	"freshanvil/core/task"
)

// Feed is a calendar that is asked for from outside, by its secret.
type Feed struct {
	ID     string
	Of     string // bench, owner or machine
	Key    string // the owner's name, or the machine's id; empty for the bench
	Secret string
	Made   time.Time
}

type feedRow struct {
	ID, Of, Key, Secret string
	MadeMs              int64
}

func (feedRow) TableName() string { return "feeds" }

func (r feedRow) feed() Feed { return Feed{r.ID, r.Of, r.Key, r.Secret, at(r.MadeMs)} }

// Feeds lists them.
func (s *Store) Feeds(ctx context.Context) ([]Feed, error) {
	var rows []feedRow
	err := s.db.WithContext(ctx).Order("of, key").Find(&rows).Error
	list := make([]Feed, len(rows))
	for i, r := range rows {
		list[i] = r.feed()
	}
	return list, err
}

// FeedBy finds a feed by its secret; ErrNotFound where that is none.
func (s *Store) FeedBy(ctx context.Context, secret string) (Feed, error) {
	var row feedRow
	err := s.db.WithContext(ctx).Take(&row, "secret = ?", secret).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return Feed{}, fmt.Errorf("a feed of this secret: %w", ErrNotFound)
	}
	return row.feed(), err
}

// SetFeed keeps a feed; of the same one before, the address changes.
func (s *Store) SetFeed(ctx context.Context, f Feed) error {
	return s.db.WithContext(ctx).Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "of"}, {Name: "key"}},
		DoUpdates: clause.AssignmentColumns([]string{"secret", "made_ms"})}).
		Create(&feedRow{f.ID, f.Of, f.Key, f.Secret, ms(f.Made)}).Error
}

// ForgetFeed ends a feed; what is not there has ended already.
func (s *Store) ForgetFeed(ctx context.Context, id string) error {
	return s.db.WithContext(ctx).Delete(&feedRow{}, "id = ?", id).Error
}

// GivenDate is what a date of a machine said when it was last given out.
type GivenDate struct {
	MachineID, UID, Day, Digest string
	Sequence                    int
	Changed                     time.Time
}

type dateRow struct {
	MachineID string
	UID       string `gorm:"column:uid"`
	Day       string
	Digest    string
	Sequence  int
	ChangedMs int64
}

func (dateRow) TableName() string { return "dates" }

// GivenDates are those of a machine, by their uid.
func (s *Store) GivenDates(ctx context.Context, machineID string) (map[string]GivenDate, error) {
	var rows []dateRow
	err := s.db.WithContext(ctx).Find(&rows, "machine_id = ?", machineID).Error
	all := map[string]GivenDate{}
	for _, r := range rows {
		all[r.UID] = GivenDate{r.MachineID, r.UID, r.Day, r.Digest, r.Sequence, at(r.ChangedMs)}
	}
	return all, err
}

// KeepDates keeps what dates say now.
func (s *Store) KeepDates(ctx context.Context, list []GivenDate) error {
	for _, d := range list {
		row := dateRow{d.MachineID, d.UID, d.Day, d.Digest, d.Sequence, ms(d.Changed)}
		if err := s.db.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error; err != nil {
			return err
		}
	}
	return nil
}

// Often says how often each task of each part of a machine was done, by what is on record.
func (s *Store) Often(ctx context.Context, machineID string) (func(task.ID, machine.Part) int, error) {
	var rows []struct {
		Task  task.ID
		Part  string
		Times int
	}
	err := s.db.WithContext(ctx).Raw("SELECT task, part, COUNT(*) AS times FROM care_log WHERE machine_id = ? AND "+
		"outcome IN ? AND gone_ms IS NULL GROUP BY task, part", machineID, counting).Scan(&rows).Error
	times := map[string]int{}
	for _, r := range rows {
		times[string(r.Task)+" "+r.Part] = r.Times
	}
	return func(id task.ID, of machine.Part) int { return times[string(id)+" "+of.String()] }, err
}
