package store

import (
	"context"
	"time"

	"gorm.io/gorm/clause"

	"freshanvil/core/remind"
)

type remindedRow struct {
	Channel, Job string
	Stage        remind.Stage
	AtMs         int64
}

func (remindedRow) TableName() string { return "reminded" }

// Reminded says what was told last of each job by a channel.
func (s *Store) Reminded(ctx context.Context, channel string) (map[string]remind.Stage, error) {
	var rows []remindedRow
	err := s.db.WithContext(ctx).Find(&rows, "channel = ?", channel).Error
	told := map[string]remind.Stage{}
	for _, r := range rows {
		told[r.Job] = r.Stage
	}
	return told, err
}

// KeepReminded keeps that jobs were told of, and forgets what was told longer ago than a time.
func (s *Store) KeepReminded(ctx context.Context, channel string, jobs []remind.Job, now time.Time,
	forget time.Duration) error {
	for _, j := range jobs {
		row := remindedRow{channel, j.Key, j.Stage, ms(now)}
		if err := s.db.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error; err != nil {
			return err
		}
	}
	return s.db.WithContext(ctx).Delete(&remindedRow{}, "at_ms < ?", ms(now.Add(-forget))).Error
}
