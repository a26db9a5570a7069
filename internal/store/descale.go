package store

import (
	"context"
	"time"

	"gorm.io/gorm/clause"

	"freshanvil/core/descale"
	"freshanvil/core/reason"
)

// Share is the share of the scale that stays in a machine, after a spent solution.
type Share struct {
	ID    string
	At    time.Time
	Share float64
	// Worked is how it came about.
	Worked reason.Worked
	Spent  descale.Spent
}

type (
	productRow struct {
		ID   string
		Body productForm `gorm:"serializer:json"`
	}
	shareRow struct {
		ID        string
		MachineID string
		AtMs      int64
		Share     float64
		Body      taughtForm `gorm:"serializer:json"`
		GoneMs    *int64
	}
)

func (productRow) TableName() string { return "products" }
func (shareRow) TableName() string   { return "shares" }

// Products lists the user's own descalers.
func (s *Store) Products(ctx context.Context) ([]descale.Product, error) {
	var rows []productRow
	err := s.db.WithContext(ctx).Order("rowid").Find(&rows).Error
	list := make([]descale.Product, len(rows))
	for i, r := range rows {
		list[i] = r.Body.core()
	}
	return list, err
}

// AddProduct keeps one; the same id again replaces it.
func (s *Store) AddProduct(ctx context.Context, p descale.Product) error {
	return s.db.WithContext(ctx).
		Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "id"}}, UpdateAll: true}).
		Create(&productRow{p.ID, keepProduct(p)}).
		Error
}

// ForgetProduct takes one away; what is not there is away already.
func (s *Store) ForgetProduct(ctx context.Context, id string) error {
	return s.db.WithContext(ctx).Delete(&productRow{}, "id = ?", id).Error
}

// AddShare keeps what a spent solution came to.
func (s *Store) AddShare(ctx context.Context, machineID string, x Share) error {
	err := s.db.WithContext(ctx).Create(
		&shareRow{ID: x.ID, MachineID: machineID, AtMs: ms(x.At), Share: x.Share, Body: keepTaught(x.Worked, x.Spent)},
	).Error
	if err != nil {
		return err
	}
	return s.Stale(ctx, machineID)
}

// Shares lists those of a machine that stand, newest first.
func (s *Store) Shares(ctx context.Context, machineID string) ([]Share, error) {
	var rows []shareRow
	err := s.db.WithContext(ctx).
		Order("at_ms DESC, rowid DESC").
		Find(&rows, "machine_id = ? AND gone_ms IS NULL", machineID).
		Error
	list := make([]Share, len(rows))
	for i, r := range rows {
		list[i] = Share{r.ID, at(r.AtMs), r.Share, r.Body.Worked.core(), r.Body.Spent.core()}
	}
	return list, err
}

// SetShare puts another working in the place of one that stands.
func (s *Store) SetShare(ctx context.Context, machineID string, x Share) error {
	err := s.db.WithContext(ctx).Model(&shareRow{}).Where("id = ? AND machine_id = ?", x.ID, machineID).
		Select("share", "body").Updates(&shareRow{Share: x.Share, Body: keepTaught(x.Worked, x.Spent)}).Error
	if err != nil {
		return err
	}
	return s.Stale(ctx, machineID)
}

// TakeShareBack takes one back; ErrGone, ErrNotFound where it does not stand.
func (s *Store) TakeShareBack(ctx context.Context, machineID, id string, now time.Time) error {
	if err := s.takeAway(ctx, &shareRow{}, now, "id = ? AND machine_id = ?", id, machineID); err != nil {
		return err
	}
	return s.Stale(ctx, machineID)
}
