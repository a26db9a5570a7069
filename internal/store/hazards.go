package store

import (
	"context"
	"fmt"
	"slices"
	"time"

	"gorm.io/gorm"

	"freshanvil/core/care"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/run"
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
		part, err := machine.ParsePart(r.Part)
		if err != nil {
			return nil, fmt.Errorf("hazard %d: %w", r.ID, err)
		}
		list[i] = Hazard{MachineID: r.MachineID, Part: part, Chemical: r.Chemical, Tries: r.Tries, RunID: r.RunID,
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

// followHazards opens or clears the hazard of each part that a run is about.
func followHazards(tx *gorm.DB, r Run, after run.State, now time.Time) error {
	for _, g := range after.Groups {
		of := r.Machines[activityOf(r.Plan, g.Part).Setup]
		row := hazardRow{MachineID: of, Part: g.Part.String(), Chemical: Detergent}
		if err := followHazard(tx, r.ID, row, g.Detergent.In, g.Detergent.Ever, now); err != nil {
			return err
		}
		row.Chemical, row.Tries = Pressure, g.Blind
		if err := followHazard(tx, r.ID, row, g.Blind > 0, true, now); err != nil {
			return err
		}
	}
	if after.Descale == nil {
		return nil
	}
	of := r.Machines[r.Plan.Descaling().Setup]
	for _, a := range after.Descale.Acids {
		row := hazardRow{MachineID: of, Part: a.Part.String(), Chemical: Acid}
		if err := followHazard(tx, r.ID, row, a.In, a.Ever, now); err != nil {
			return err
		}
	}
	return nil
}

// followHazard opens or clears the hazard of one part, which h names. One that is no
// longer in is cleared only where this run had to do with it.
func followHazard(tx *gorm.DB, runID string, h hazardRow, in, ever bool, now time.Time) error {
	const open = "machine_id = ? AND part = ? AND chemical = ? AND cleared_ms IS NULL"
	standing := tx.Model(&hazardRow{}).Where(open, h.MachineID, h.Part, h.Chemical)
	switch {
	case in:
		changed := standing.Update("tries", h.Tries)
		if changed.Error != nil || changed.RowsAffected > 0 {
			return changed.Error
		}
		h.RunID, h.SinceMs = runID, ms(now)
		return tx.Create(&h).Error
	case ever:
		return standing.Updates(map[string]any{"cleared_ms": ms(now), "cleared_by": "run " + runID}).Error
	}
	return nil
}

// SignOff clears what is in a group, or, of the whole machine, the acid in its
// circuits, on somebody's word, which is written down. The same id again changes
// nothing; a part in which nothing is, or with a run that goes on, is ErrConflict.
func (s *Store) SignOff(ctx context.Context, id, machineID string, part machine.Part, name, note string,
	now time.Time) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var there int64
		if err := tx.Model(&careRow{}).Where("id = ?", id).Count(&there).Error; err != nil || there > 0 {
			return err
		}
		if err := s.refuseBusy(tx, machineID, part); err != nil {
			return err
		}
		which := tx.Model(&hazardRow{}).Where("machine_id = ? AND cleared_ms IS NULL", machineID)
		task := care.Rinse
		if part.IsWhole() {
			which, task = which.Where("chemical = ?", Acid), care.AcidRinse
		} else {
			which = which.Where("part = ?", part.String())
		}
		cleared := which.Updates(map[string]any{"cleared_ms": ms(now), "cleared_by": "sign-off: " + name})
		if cleared.Error != nil {
			return cleared.Error
		}
		if cleared.RowsAffected == 0 {
			return fmt.Errorf("nothing is in %s: %w", part, ErrConflict)
		}
		return tx.Create(&careRow{ID: id, MachineID: machineID, Part: part.String(), Task: task, AtMs: ms(now),
			Outcome: SignedOff, Title: "Signed off by " + name, Record: Record{Note: note}}).Error
	})
}

// refuseBusy is ErrConflict where a run goes on that is about a part.
func (s *Store) refuseBusy(tx *gorm.DB, machineID string, part machine.Part) error {
	var of []runMachineRow
	if err := tx.Find(&of, "machine_id = ? AND open = 1", machineID).Error; err != nil {
		return err
	}
	for _, o := range of {
		var row runRow
		if err := tx.Take(&row, "id = ?", o.RunID).Error; err != nil {
			return err
		}
		plan, err := s.plans.of(row)
		washes := slices.ContainsFunc(plan.Washes(), func(a job.Activity) bool { return a.Part == part })
		if err != nil || washes || part.IsWhole() && plan.Descaling() != nil {
			return fmt.Errorf("a run goes on in %s: %w", part, ErrConflict)
		}
	}
	return nil
}
