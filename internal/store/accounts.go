package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"
)

// Account is a person with what they may do, and the hash of their passphrase; without one they cannot log in.
type Account struct {
	Person
	Role, Secret string
}

// Session is a browser that is let in: somebody who logged in, or a device that was paired. Of its token the hash is
// kept.
type Session struct {
	ID, Token        string
	PersonID         string // empty where a device belongs to nobody, such as a tablet at the bar
	Role, Device     string
	Made, Seen, Ends time.Time
}

type accountRow struct {
	ID, Name, Initials, Role, Secret string
}

func (accountRow) TableName() string { return "people" }

type sessionRow struct {
	ID, Token, Role, Device string
	PersonID                *string
	MadeMs, SeenMs, EndsMs  int64
}

func (sessionRow) TableName() string { return "sessions" }

func (r sessionRow) session() Session {
	s := Session{ID: r.ID, Token: r.Token, Role: r.Role, Device: r.Device, Made: at(r.MadeMs), Seen: at(r.SeenMs),
		Ends: at(r.EndsMs)}
	if r.PersonID != nil {
		s.PersonID = *r.PersonID
	}
	return s
}

// Accounts lists the people with what they may do, by name.
func (s *Store) Accounts(ctx context.Context) ([]Account, error) {
	var rows []accountRow
	err := s.db.WithContext(ctx).Order("name, id").Find(&rows, "gone_ms IS NULL").Error
	list := make([]Account, len(rows))
	for i, r := range rows {
		list[i] = Account{Person{r.ID, r.Name, r.Initials}, r.Role, r.Secret}
	}
	return list, err
}

// SetAccount changes what a person may do, and, where a secret is given, by what they are known. ErrNotFound where
// nobody of that id is there.
func (s *Store) SetAccount(ctx context.Context, id, role, secret string) error {
	change := map[string]any{"role": role}
	if secret != "" {
		change["secret"] = secret
	}
	done := s.db.WithContext(ctx).Model(&accountRow{}).Where("id = ? AND gone_ms IS NULL", id).Updates(change)
	if done.Error == nil && done.RowsAffected == 0 {
		return fmt.Errorf("person %s: %w", id, ErrNotFound)
	}
	return done.Error
}

// AddSession keeps a browser that is let in.
func (s *Store) AddSession(ctx context.Context, x Session) error {
	row := sessionRow{ID: x.ID, Token: x.Token, Role: x.Role, Device: x.Device, MadeMs: ms(x.Made), SeenMs: ms(x.Seen),
		EndsMs: ms(x.Ends)}
	if x.PersonID != "" {
		row.PersonID = &x.PersonID
	}
	return s.db.WithContext(ctx).Create(&row).Error
}

// SessionOf finds a session by the hash of its token; ErrNotFound where there is none, or it has ended.
func (s *Store) SessionOf(ctx context.Context, token string, now time.Time) (Session, error) {
	var row sessionRow
	err := s.db.WithContext(ctx).Take(&row, "token = ? AND ends_ms > ?", token, ms(now)).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return Session{}, fmt.Errorf("session: %w", ErrNotFound)
	}
	return row.session(), err
}

// Sessions lists those that have not ended, last seen first.
func (s *Store) Sessions(ctx context.Context, now time.Time) ([]Session, error) {
	var rows []sessionRow
	err := s.db.WithContext(ctx).Order("seen_ms DESC, id").Find(&rows, "ends_ms > ?", ms(now)).Error
	list := make([]Session, len(rows))
	for i, r := range rows {
		list[i] = r.session()
	}
	return list, err
}

// SeeSession notes when a session was last used, and until when it now holds.
func (s *Store) SeeSession(ctx context.Context, id string, now, ends time.Time) error {
	return s.db.WithContext(ctx).Model(&sessionRow{}).Where("id = ?", id).
		Updates(map[string]any{"seen_ms": ms(now), "ends_ms": ms(ends)}).Error
}

// EndSession ends one; ErrNotFound where there is none.
func (s *Store) EndSession(ctx context.Context, id string) error {
	gone := s.db.WithContext(ctx).Delete(&sessionRow{}, "id = ?", id)
	if gone.Error == nil && gone.RowsAffected == 0 {
		return fmt.Errorf("session %s: %w", id, ErrNotFound)
	}
	return gone.Error
}

// EndSessions ends all of a person, and what is long over.
func (s *Store) EndSessions(ctx context.Context, personID string, now time.Time) error {
	return s.db.WithContext(ctx).Delete(&sessionRow{}, "person_id = ? OR ends_ms <= ?", personID, ms(now)).Error
}

type personKey struct{}

// WithPerson says on whose behalf what follows is written: each request and each entry of the ledger carries it.
func WithPerson(ctx context.Context, id string) context.Context {
	return context.WithValue(ctx, personKey{}, id)
}

func personIn(ctx context.Context) string {
	id, _ := ctx.Value(personKey{}).(string)
	return id
}
