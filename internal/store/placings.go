package store

import (
	"context"

	"gorm.io/gorm/clause"

	"freshanvil/core/care"
	"freshanvil/core/machine"
	"freshanvil/core/task"
)

type placingRow struct {
	MachineID string  `gorm:"primaryKey"`
	Task      task.ID `gorm:"primaryKey"`
	Part      string  `gorm:"primaryKey"`
	OnMs      int64
	SetMs     int64
}

func (placingRow) TableName() string { return "placings" }

// Place keeps the day that somebody put a task on, in the place of an earlier one.
func (s *Store) Place(ctx context.Context, machineID string, p care.Placing) error {
	return s.db.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).
		Create(&placingRow{machineID, p.Task, p.Part.String(), ms(p.On), ms(p.Set)}).Error
}

// Unplace lets a task fall on its own day again, as it does where it was put on none.
func (s *Store) Unplace(ctx context.Context, machineID string, id task.ID, part machine.Part) error {
	return s.db.WithContext(ctx).
		Delete(&placingRow{}, "machine_id = ? AND task = ? AND part = ?", machineID, id, part.String()).Error
}

// Placings are the days that tasks were put on, by machine; of one machine alone where it is named.
func (s *Store) Placings(ctx context.Context, machineID string) (map[string][]care.Placing, error) {
	var rows []placingRow
	q := s.db.WithContext(ctx).Order("machine_id, task, part")
	if machineID != "" {
		q = q.Where("machine_id = ?", machineID)
	}
	if err := q.Find(&rows).Error; err != nil {
		return nil, err
	}
	list := map[string][]care.Placing{}
	for _, r := range rows {
		list[r.MachineID] = append(list[r.MachineID],
			care.Placing{Task: r.Task, Part: part(r.Part), On: at(r.OnMs), Set: at(r.SetMs)})
	}
	return list, nil
}
