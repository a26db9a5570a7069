package app

import (
	"bytes"
	"context"
	"fmt"
	"image/jpeg"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/machine"
	"freshanvil/core/photo"
	"freshanvil/core/task"
	"freshanvil/core/units"
	"freshanvil/internal/store"
)

// Glanced is a machine at a glance.
type Glanced struct {
	care.Glance
	Scheme machine.Scheme
	Dues   []care.Due // most pressing first
	Worth  []care.Worth
	// Year is what was done in the last one, oldest first.
	Year []Entry
	Done string // the same in words
	// Fitted is what was last fitted new, newest first.
	Fitted []care.Done
	From   time.Time
}

// yearBack is how far back a machine's strip goes.
const yearBack = 365 * 24 * time.Hour

// Glance puts together what is known of a machine, and what would help most to know.
func (a *App) Glance(ctx context.Context, m Machine, now time.Time) (Glanced, error) {
	out := Glanced{Scheme: m.Answers.Facts().Scheme(), From: now.Add(-yearBack)}
	h, err := a.History(ctx, m, now)
	if err != nil {
		return out, err
	}
	out.Fitted = care.Fitted(h.Done)
	var scale *care.Descaling
	if d, err := care.DescalingOf(m.Answers, h, now, m.Zone); err == nil {
		scale = &d
		drawing, err := a.Drawing(ctx, m, now)
		if err != nil {
			return out, err
		}
		if out.Worth, err = a.Worth(m, drawing, d.Use); err != nil {
			return out, err
		}
	}
	out.Dues = care.AllDue(m.Answers, h, now, m.Zone)
	out.Glance = care.GlanceOf(m.Answers, h, out.Dues, scale, now, m.Zone)
	if out.Year, err = a.store.Past(ctx, m.ID, task.Where(func(r task.Row) bool { return r.Way != task.Small }),
		out.From); err != nil {
		return out, err
	}
	done := make([]care.Done, len(out.Year))
	for i, e := range out.Year {
		done[i] = care.Done{Task: e.Task, Part: e.Part, At: e.At}
	}
	out.Done = care.Counted(done)
	return out, nil
}

// Plate is what stands on a machine's plate, and what somebody notes of it.
type Plate = store.Plate

// Plate is that of one machine.
func (a *App) Plate(ctx context.Context, machineID string) (Plate, error) {
	return a.store.Plate(ctx, machineID)
}

// SayPlate keeps the words of a machine's plate.
func (a *App) SayPlate(ctx context.Context, machineID string, p Plate) (err error) {
	if p.Model, err = units.Line("model", p.Model, false, longestTitle); err != nil {
		return err
	}
	if p.Serial, err = units.Line("serial", p.Serial, false, longestTitle); err != nil {
		return err
	}
	if p.Notes, err = units.Text("notes", p.Notes, false, longestNotes); err != nil {
		return err
	}
	return a.store.Write(ctx, func(tx *store.Store) error {
		if _, err := find(ctx, tx, machineID); err != nil {
			return err
		}
		return tx.SayPlate(ctx, machineID, p)
	})
}

// photoQuality is that of a kept photo, of 100.
const photoQuality = 82

// SetPhoto keeps a photo of a machine, drawn anew: what the camera wrote beside the picture is left out. Without
// one it is forgotten. One that cannot be read is a *reason.Refusal.
func (a *App) SetPhoto(ctx context.Context, machineID string, data []byte) error {
	var kept []byte
	if len(data) > 0 {
		img, err := photo.Decode(data)
		if err != nil {
			return err
		}
		var out bytes.Buffer
		if err := jpeg.Encode(&out, img, &jpeg.Options{Quality: photoQuality}); err != nil {
			return fmt.Errorf("a photo that cannot be kept: %w", err)
		}
		kept = out.Bytes()
	}
	return a.store.Write(ctx, func(tx *store.Store) error {
		if _, err := find(ctx, tx, machineID); err != nil {
			return err
		}
		return tx.SetPhoto(ctx, machineID, kept)
	})
}

// Photo is the photo of a machine, a JPEG.
func (a *App) Photo(ctx context.Context, machineID string) ([]byte, error) {
	return a.store.Photo(ctx, machineID)
}
