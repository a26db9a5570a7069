package store

import (
	"context"
	"time"

	"gorm.io/gorm"

	"freshanvil/core/job"
	"freshanvil/core/machine"
)

// What may be in a part: a chemical, or pressure behind a drain that let nothing out.
const (
	Detergent = "detergent"
	Acid      = "acid"
	Pressure  = "pressure"
)

// Hazard is a chemical in a part of a machine, or pressure that may stand in one.
type Hazard struct {
	MachineID string
	Part      machine.Part
	Chemical  string
	Tries     int // of pressure: how often nothing came out
	RunID     string
	Since     time.Time
}

type hazardRow struct {
	ID        int64
	MachineID string
	Part      string
	Chemical  string
	Tries     int
	RunID     string
	SinceMs   int64
	ClearedMs *int64
	ClearedBy *string
}

func (hazardRow) TableName() string { return "hazards" }

// Hazards lists what is in which part now, oldest first.
func (s *Store) Hazards(ctx context.Context) ([]Hazard, error) {
	return openHazards(s.db.WithContext(ctx))
}

func openHazards(db *gorm.DB) ([]Hazard, error) {
	var rows []hazardRow
	if err := db.Order("since_ms, id").Find(&rows, "cleared_ms IS NULL").Error; err != nil {
		return nil, err
	}
	list := make([]Hazard, len(rows))
	for i, r := range rows {
		// of a part that cannot be read, it is taken as in the whole machine
		list[i] = Hazard{MachineID: r.MachineID, Part: part(r.Part), Chemical: r.Chemical, Tries: r.Tries, RunID: r.RunID,
			Since: at(r.SinceMs)}
	}
	return list, nil
}

// Contents is what is in a machine, by the hazards on record.
func Contents(list []Hazard, machineID string) (in job.Contents) {
	for _, h := range list {
		switch {
		case h.MachineID != machineID:
		case h.Chemical == Acid:
			in.Acid = append(in.Acid, h.Part)
		case h.Chemical == Pressure:
			if in.Blind == nil {
				in.Blind = map[machine.Part]int{}
			}
			in.Blind[h.Part] = h.Tries
		default:
			in.Detergent = append(in.Detergent, h.Part)
		}
	}
	return in
}

// SetHazard opens or clears the hazard of one part, which h names. One that is no
// longer in is cleared only where its run had to do with it.
func (s *Store) SetHazard(ctx context.Context, h Hazard, in, ever bool, now time.Time) error {
	const open = "machine_id = ? AND part = ? AND chemical = ? AND cleared_ms IS NULL"
	db := s.db.WithContext(ctx)
	standing := db.Model(&hazardRow{}).Where(open, h.MachineID, h.Part.String(), h.Chemical)
	switch {
	case in:
		changed := standing.Update("tries", h.Tries)
		if changed.Error != nil || changed.RowsAffected > 0 {
			return changed.Error
		}
		return db.Create(&hazardRow{MachineID: h.MachineID, Part: h.Part.String(), Chemical: h.Chemical, Tries: h.Tries,
			RunID: h.RunID, SinceMs: ms(now)}).Error
	case ever:
		return standing.Updates(map[string]any{"cleared_ms": ms(now), "cleared_by": "run " + h.RunID}).Error
	}
	return nil
}

// ClearHazards clears what is in a part, or, of the whole machine, the acid in its circuits, and
// says how many there were.
func (s *Store) ClearHazards(ctx context.Context, machineID string, part machine.Part, by string, now time.Time) (
	int, error,
) {
	which := s.db.WithContext(ctx).Model(&hazardRow{}).Where("machine_id = ? AND cleared_ms IS NULL", machineID)
	if part.IsWhole() {
		which = which.Where("chemical = ?", Acid)
	} else {
		which = which.Where("part = ?", part.String())
	}
	cleared := which.Updates(map[string]any{"cleared_ms": ms(now), "cleared_by": by})
	return int(cleared.RowsAffected), cleared.Error
}
