package store

import (
	"context"
	"time"

	"gorm.io/gorm"

	"freshanvil/core/inspect"
	"freshanvil/core/job"
	"freshanvil/core/machine"
)

// What may be in a part: a chemical, or pressure behind a drain that let nothing out; or that a look found a danger
// for which the machine is switched off.
const (
	Detergent = "detergent"
	Acid      = "acid"
	Pressure  = "pressure"
	Stopped   = "stopped"
)

// Hazard is a chemical in a part of a machine, pressure that may stand in one, or a danger that was seen.
type Hazard struct {
	MachineID string
	Part      machine.Part
	Chemical  string
	Tries     int    // of pressure: how often nothing came out
	RunID     string // that put it there; empty where a look did
	Look      *Look
	Since     time.Time
}

type hazardRow struct {
	ID        int64
	MachineID string
	Part      string
	Chemical  string
	Tries     int
	RunID     *string
	LookID    *string
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
		list[i] = Hazard{MachineID: r.MachineID, Part: part(r.Part), Chemical: r.Chemical, Tries: r.Tries,
			Since: at(r.SinceMs)}
		if r.RunID != nil {
			list[i].RunID = *r.RunID
		}
		if r.LookID == nil {
			continue
		}
		var look []lookRow
		if err := db.Find(&look, "id = ?", *r.LookID).Error; err != nil {
			return nil, err
		}
		if len(look) > 0 {
			list[i].Look = &looksOf(look)[0]
		}
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
		case h.Chemical == Stopped:
			seen := inspect.Found{Part: h.Part}
			if h.Look != nil {
				seen = h.Look.Found
			}
			in.Stopped = append(in.Stopped, seen)
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
		row := hazardRow{MachineID: h.MachineID, Part: h.Part.String(), Chemical: h.Chemical, Tries: h.Tries,
			SinceMs: ms(now)}
		if h.RunID != "" {
			row.RunID = &h.RunID
		}
		if h.Look != nil {
			row.LookID = &h.Look.ID
		}
		return db.Create(&row).Error
	case ever:
		return standing.Updates(map[string]any{"cleared_ms": ms(now), "cleared_by": "run " + h.RunID}).Error
	}
	return nil
}

// ClearSeen clears what a look put there.
func (s *Store) ClearSeen(ctx context.Context, lookID, by string, now time.Time) error {
	return s.db.WithContext(ctx).Model(&hazardRow{}).Where("look_id = ? AND cleared_ms IS NULL", lookID).
		Updates(map[string]any{"cleared_ms": ms(now), "cleared_by": by}).Error
}

// ClearStops clears the dangers for which a machine is switched off, and says how many there were.
func (s *Store) ClearStops(ctx context.Context, machineID, by string, now time.Time) (int, error) {
	cleared := s.db.WithContext(ctx).Model(&hazardRow{}).
		Where("machine_id = ? AND cleared_ms IS NULL AND chemical = ?", machineID, Stopped).
		Updates(map[string]any{"cleared_ms": ms(now), "cleared_by": by})
	return int(cleared.RowsAffected), cleared.Error
}

// ClearHazards clears what is in a part, or, of the whole machine, the acid in its circuits, and
// says how many there were. A danger for which it is switched off stays.
func (s *Store) ClearHazards(ctx context.Context, machineID string, part machine.Part, by string, now time.Time) (
	int, error,
) {
	which := s.db.WithContext(ctx).Model(&hazardRow{}).
		Where("machine_id = ? AND cleared_ms IS NULL AND chemical <> ?", machineID, Stopped)
	if part.IsWhole() {
		which = which.Where("chemical = ?", Acid)
	} else {
		which = which.Where("part = ?", part.String())
	}
	cleared := which.Updates(map[string]any{"cleared_ms": ms(now), "cleared_by": by})
	return int(cleared.RowsAffected), cleared.Error
}
