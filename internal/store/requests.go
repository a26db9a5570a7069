package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"
)

type requestRow struct {
	ID   string
	What string
	Sum  string
	AtMs int64
	// PersonID is who asked; empty where nobody logs in
	PersonID string
}

func (requestRow) TableName() string { return "requests" }

// sumOf tells one request from another.
func sumOf(what string, content any) (string, error) {
	text, err := json.Marshal(content)
	if err != nil {
		return "", fmt.Errorf("a request that cannot be told from another: %w", err)
	}
	sum := sha256.Sum256(append([]byte(what+" "), text...))
	return hex.EncodeToString(sum[:16]), nil
}

// Claim takes an id for a request. It reports true where the same request was made before: nothing
// is to be done again. An id that belongs to another request is ErrOther.
func (s *Store) Claim(ctx context.Context, id, what string, content any, now time.Time) (again bool, err error) {
	sum, err := sumOf(what, content)
	if err != nil {
		return false, err
	}
	db := s.db.WithContext(ctx)
	var have requestRow
	err = db.Take(&have, "id = ?", id).Error
	switch {
	case errors.Is(err, gorm.ErrRecordNotFound):
		var used int64
		if err := db.Model(&useRow{}).Where("id = ?", id).Count(&used).Error; err != nil {
			return false, err
		}
		if used > 0 {
			return false, fmt.Errorf("id %s: %w", id, ErrOther)
		}
		return false, db.Create(&requestRow{id, what, sum, ms(now), personIn(ctx)}).Error
	case err != nil:
		return false, err
	case have.What != what || have.Sum != sum:
		return false, fmt.Errorf("id %s: %w", id, ErrOther)
	}
	return true, nil
}
