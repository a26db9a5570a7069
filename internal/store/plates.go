package store

import (
	"context"
	"fmt"
)

// Plate is what stands on a machine's plate, and what somebody notes of it.
type Plate struct {
	Model, Serial, Notes string
	Photo                bool // there is one
}

// Plate is that of one machine; an empty one where nothing was said.
func (s *Store) Plate(ctx context.Context, machineID string) (p Plate, err error) {
	err = s.db.WithContext(ctx).Raw(`SELECT model, serial, notes, photo IS NOT NULL photo FROM plates
		WHERE machine_id = ?`, machineID).Scan(&p).Error
	return p, err
}

// SayPlate keeps the words of a plate; its photo stays.
func (s *Store) SayPlate(ctx context.Context, machineID string, p Plate) error {
	return s.db.WithContext(ctx).Exec(`INSERT INTO plates (machine_id, model, serial, notes) VALUES (?, ?, ?, ?)
		ON CONFLICT (machine_id) DO UPDATE SET model = excluded.model, serial = excluded.serial, notes = excluded.notes`,
		machineID, p.Model, p.Serial, p.Notes).Error
}

// SetPhoto keeps the photo of a machine, or, without one, forgets it.
func (s *Store) SetPhoto(ctx context.Context, machineID string, jpeg []byte) error {
	return s.db.WithContext(ctx).Exec(`INSERT INTO plates (machine_id, photo) VALUES (?, ?)
		ON CONFLICT (machine_id) DO UPDATE SET photo = excluded.photo`, machineID, jpeg).Error
}

// Photo is the photo of a machine; ErrNotFound where there is none.
func (s *Store) Photo(ctx context.Context, machineID string) ([]byte, error) {
	var photo []byte
	err := s.db.WithContext(ctx).Raw("SELECT photo FROM plates WHERE machine_id = ?", machineID).Row().Scan(&photo)
	if err != nil || photo == nil {
		return nil, fmt.Errorf("a photo of machine %s: %w", machineID, ErrNotFound)
	}
	return photo, nil
}
