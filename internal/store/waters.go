package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"freshanvil/core/machine"
	"freshanvil/core/treat"
	"freshanvil/core/water"
)

// Source is where water comes from, with what was read of it, oldest first.
type Source struct {
	ID, Name string
	Samples  []Reading
}

// Reading is one sample of a source.
type Reading struct {
	ID     string
	Taken  time.Time
	How    string // strip, drops, meter, report
	Sample water.Sample
	// Bad is why what was read cannot be read any more; nil where it can.
	Bad error
}

// Draws is what a machine draws from an instant on.
type Draws struct {
	ID, SourceID string // no source: the hardness of the five answers
	From         time.Time
	Treatment    treat.Setting
}

type (
	sourceRow struct {
		ID        string
		Name      string
		CreatedMs int64
	}
	sampleRow struct {
		ID       string
		SourceID string
		TakenMs  int64
		How      string
		Body     string
		SaidMs   int64
		GoneMs   *int64
	}
	drawsRow struct {
		ID        string
		MachineID string
		FromMs    int64
		SourceID  *string
		Treatment settingForm `gorm:"serializer:json"`
	}
	treatmentRow struct {
		Kind machine.Treatment
		Body settingForm `gorm:"serializer:json"`
	}
)

func (sourceRow) TableName() string    { return "sources" }
func (sampleRow) TableName() string    { return "samples" }
func (drawsRow) TableName() string     { return "machine_waters" }
func (treatmentRow) TableName() string { return "treatments" }

// AddSource keeps a source.
func (s *Store) AddSource(ctx context.Context, id, name string, now time.Time) error {
	return s.db.WithContext(ctx).Create(&sourceRow{id, name, ms(now)}).Error
}

// AddReading keeps what was read of a source; one that is not there is ErrNotFound.
func (s *Store) AddReading(ctx context.Context, sourceID string, r Reading, now time.Time) error {
	if err := s.hasSource(ctx, sourceID); err != nil {
		return err
	}
	body, err := json.Marshal(keepSample(r.Sample))
	if err != nil {
		return err
	}
	row := sampleRow{ID: r.ID, SourceID: sourceID, TakenMs: ms(r.Taken), How: r.How, Body: string(body), SaidMs: ms(now)}
	if err := s.db.WithContext(ctx).Create(&row).Error; err != nil {
		return err
	}
	return s.staleBy(ctx, sourceID)
}

// reading is what a row holds. One bad row hides itself, never the source it is of.
func (r sampleRow) reading() Reading {
	out := Reading{ID: r.ID, Taken: at(r.TakenMs), How: r.How}
	var f sampleForm
	out.Bad = json.Unmarshal([]byte(r.Body), &f)
	out.Sample = f.core()
	return out
}

func (s *Store) hasSource(ctx context.Context, id string) error {
	var there int64
	err := s.db.WithContext(ctx).Model(&sourceRow{}).Where("id = ?", id).Count(&there).Error
	if err == nil && there == 0 {
		err = fmt.Errorf("source %s: %w", id, ErrNotFound)
	}
	return err
}

// ReadingOf finds a reading that stands, and its source; ErrGone, ErrNotFound where it does not.
func (s *Store) ReadingOf(ctx context.Context, id string) (Reading, string, error) {
	var row sampleRow
	err := s.db.WithContext(ctx).Take(&row, "id = ?", id).Error
	switch {
	case errors.Is(err, gorm.ErrRecordNotFound):
		return Reading{}, "", fmt.Errorf("reading %s: %w", id, ErrNotFound)
	case err == nil && row.GoneMs != nil:
		return Reading{}, "", fmt.Errorf("reading %s: %w", id, ErrGone)
	}
	return row.reading(), row.SourceID, err
}

// TakeBack takes a reading of a source back.
func (s *Store) TakeBack(ctx context.Context, id, sourceID string, now time.Time) error {
	err := s.db.WithContext(ctx).Model(&sampleRow{}).Where("id = ? AND gone_ms IS NULL", id).Update("gone_ms", ms(now)).
		Error
	if err != nil {
		return err
	}
	return s.staleBy(ctx, sourceID)
}

// DateReading gives a reading of a source another date.
func (s *Store) DateReading(ctx context.Context, id, sourceID string, taken time.Time) error {
	err := s.db.WithContext(ctx).Model(&sampleRow{}).Where("id = ?", id).Update("taken_ms", ms(taken)).Error
	if err != nil {
		return err
	}
	return s.staleBy(ctx, sourceID)
}

// staleBy marks the standings of every machine that has ever drawn from a source.
func (s *Store) staleBy(ctx context.Context, sourceID string) error {
	return s.db.WithContext(ctx).Exec("UPDATE machines SET stale = 1 WHERE id IN "+
		"(SELECT machine_id FROM machine_waters WHERE source_id = ?)", sourceID).Error
}

// Sources lists the sources with what was read of them.
func (s *Store) Sources(ctx context.Context) ([]Source, error) {
	db := s.db.WithContext(ctx)
	var rows []sourceRow
	if err := db.Order("created_ms, id").Find(&rows).Error; err != nil {
		return nil, err
	}
	var samples []sampleRow
	if err := db.Order("taken_ms, said_ms, rowid").Find(&samples, "gone_ms IS NULL").Error; err != nil {
		return nil, err
	}
	list := make([]Source, len(rows))
	for i, r := range rows {
		list[i] = Source{ID: r.ID, Name: r.Name}
		for _, x := range samples {
			if x.SourceID == r.ID {
				list[i].Samples = append(list[i].Samples, x.reading())
			}
		}
	}
	return list, nil
}

// Draw lets a machine draw from a source through a treatment from an instant on; a source that is
// not there is ErrNotFound.
func (s *Store) Draw(ctx context.Context, machineID string, d Draws) error {
	row := drawsRow{ID: d.ID, MachineID: machineID, FromMs: ms(d.From), Treatment: settingForm(d.Treatment)}
	if d.SourceID != "" {
		row.SourceID = &d.SourceID
		if err := s.hasSource(ctx, d.SourceID); err != nil {
			return err
		}
	}
	if err := s.db.WithContext(ctx).Create(&row).Error; err != nil {
		return err
	}
	return s.Stale(ctx, machineID)
}

// DateDraw gives what a machine draws another first day.
func (s *Store) DateDraw(ctx context.Context, machineID, id string, from time.Time) error {
	err := s.db.WithContext(ctx).Model(&drawsRow{}).Where("id = ?", id).Update("from_ms", ms(from)).Error
	if err != nil {
		return err
	}
	return s.Stale(ctx, machineID)
}

// Treatments are the treatments with the user's numbers, the usual ones where
// nobody said any.
func (s *Store) Treatments(ctx context.Context) ([]treat.Setting, error) {
	var rows []treatmentRow
	if err := s.db.WithContext(ctx).Find(&rows).Error; err != nil {
		return nil, err
	}
	var list []treat.Setting
	for _, k := range machine.Treatments() {
		set := treat.Usual(k)
		for _, r := range rows {
			if r.Kind == k {
				set = treat.Setting(r.Body)
			}
		}
		list = append(list, set)
	}
	return list, nil
}

// SayTreatment keeps the user's numbers of a treatment.
func (s *Store) SayTreatment(ctx context.Context, t treat.Setting) error {
	err := s.db.WithContext(ctx).
		Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "kind"}}, UpdateAll: true}).
		Create(&treatmentRow{t.Kind, settingForm(t)}).
		Error
	if err != nil {
		return err
	}
	return s.StaleAll(ctx)
}

// Drawn is what a machine draws, oldest first.
func (s *Store) Drawn(ctx context.Context, machineID string) ([]Draws, error) {
	var rows []drawsRow
	err := s.db.WithContext(ctx).Order("from_ms, rowid").Find(&rows, "machine_id = ?", machineID).Error
	list := make([]Draws, len(rows))
	for i, r := range rows {
		list[i] = Draws{ID: r.ID, From: at(r.FromMs), Treatment: treat.Setting(r.Treatment)}
		if r.SourceID != nil {
			list[i].SourceID = *r.SourceID
		}
	}
	return list, err
}

// SourceNamed finds a source; ErrNotFound where it is not there.
func (s *Store) SourceNamed(ctx context.Context, id string) (Source, error) {
	all, err := s.Sources(ctx)
	if err != nil {
		return Source{}, err
	}
	for _, x := range all {
		if x.ID == id {
			return x, nil
		}
	}
	return Source{}, fmt.Errorf("source %s: %w", id, ErrNotFound)
}
