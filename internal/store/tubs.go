package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"

	"freshanvil/core/backflush"
	"freshanvil/core/supply"
)

type (
	tubRow struct {
		ID       string
		AtMs     int64
		Form     backflush.Form
		Amount   float64
		Holds    float64
		GramTsp  float64
		OpenedMs int64
		Price    float64
	}
	foamRow struct {
		ID    string
		TubID string
		AtMs  int64
		Foams bool
	}
)

func (tubRow) TableName() string  { return "tubs" }
func (foamRow) TableName() string { return "foam_tests" }

// Tub is the tub in use, with what was taken from it and how it foamed.
type Tub struct {
	ID string
	supply.Tub
	Used  float64 // by runs since it was said: grams or tablets
	Tests []supply.FoamTest
}

// SayTub keeps a new word about the tub. The same id again changes nothing.
func (s *Store) SayTub(ctx context.Context, id string, t supply.Tub, now time.Time) error {
	err := s.db.WithContext(ctx).
		Create(&tubRow{ID: id, AtMs: ms(now), Form: t.Form, Amount: t.Amount, Holds: t.Holds, GramTsp: t.GramTsp,
			OpenedMs: ms(t.Opened), Price: t.Price}).
		Error
	if duplicate(err) {
		return nil
	}
	return err
}

// Tub finds the tub in use; ErrNotFound where none is on record.
func (s *Store) Tub(ctx context.Context) (Tub, error) {
	db := s.db.WithContext(ctx)
	var row tubRow
	if err := db.Order("at_ms DESC, rowid DESC").Take(&row).Error; errors.Is(err, gorm.ErrRecordNotFound) {
		return Tub{}, fmt.Errorf("a tub of detergent: %w", ErrNotFound)
	} else if err != nil {
		return Tub{}, err
	}
	t := Tub{
		ID: row.ID,
		Tub: supply.Tub{
			Form:    row.Form,
			Amount:  row.Amount,
			Holds:   row.Holds,
			GramTsp: row.GramTsp,
			Opened:  at(row.OpenedMs),
			Price:   row.Price,
		},
	}
	var runs []careRow
	if err := db.Find(&runs, "run_id IS NOT NULL AND at_ms > ?", row.AtMs).Error; err != nil {
		return Tub{}, err
	}
	for _, r := range runs {
		if d := r.Record.Dose; d != nil && d.Form == row.Form {
			t.Used += d.core().Amount()
		}
	}
	var tests []foamRow
	if err := db.Order("at_ms, rowid").Find(&tests, "tub_id = ?", row.ID).Error; err != nil {
		return Tub{}, err
	}
	for _, f := range tests {
		t.Tests = append(t.Tests, supply.FoamTest{At: at(f.AtMs), Foams: f.Foams})
	}
	return t, nil
}

// TestFoam keeps a foam test of the tub in use; of another, ErrNotFound.
func (s *Store) TestFoam(ctx context.Context, id, tubID string, foams bool, now time.Time) error {
	t, err := s.Tub(ctx)
	if err != nil {
		return err
	}
	if t.ID != tubID {
		return fmt.Errorf("tub %s in use: %w", tubID, ErrNotFound)
	}
	err = s.db.WithContext(ctx).Create(&foamRow{ID: id, TubID: tubID, AtMs: ms(now), Foams: foams}).Error
	if duplicate(err) {
		return nil
	}
	return err
}
