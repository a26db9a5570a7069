package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"

	"freshanvil/core/care"
	"freshanvil/core/machine"
)

// What an interval change is.
const (
	Chosen  = "chosen"
	Learned = "learned"
	Oily    = "oily"
	Party   = "party"
	Undone  = "undone"
)

type (
	changeRow struct {
		ID         string
		MachineID  string
		AtMs       int64
		What       string
		Choice     care.Choice `gorm:"serializer:json"`
		Why        string
		Supersedes *string
	}
	awayRow struct {
		ID        string
		MachineID string
		FromMs    int64
		ToMs      int64
		Note      string
		SaidMs    int64
		GoneMs    *int64
	}
	readingRow struct {
		ID        string
		MachineID string
		AtMs      int64
		Value     float64
	}
	habitRow struct {
		MachineID string     `gorm:"primaryKey"`
		Body      care.Habit `gorm:"serializer:json"`
		SpansMs   int64
		UntilMs   int64
	}
)

func (changeRow) TableName() string  { return "interval_changes" }
func (awayRow) TableName() string    { return "away" }
func (readingRow) TableName() string { return "counter_readings" }
func (habitRow) TableName() string   { return "habits" }

// Change is one change of how often and how.
type Change struct {
	ID, What, Why string
	At            time.Time
	Choice        care.Choice
	TakenBack     bool
}

// ChangeInterval keeps a change. The same id again changes nothing.
func (s *Store) ChangeInterval(ctx context.Context, machineID string, c Change) error {
	err := s.db.WithContext(ctx).
		Create(&changeRow{ID: c.ID, MachineID: machineID, AtMs: ms(c.At), What: c.What, Choice: c.Choice, Why: c.Why}).
		Error
	if duplicate(err) {
		return nil
	}
	return err
}

// UndoInterval takes the newest standing change back; what held before it
// holds again. With nothing to take back, ErrConflict. The same id again
// changes nothing.
func (s *Store) UndoInterval(ctx context.Context, id, machineID string, now time.Time) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var there int64
		if err := tx.Model(&changeRow{}).Where("id = ?", id).Count(&there).Error; err != nil || there > 0 {
			return err
		}
		var newest changeRow
		err := tx.Raw("SELECT * FROM interval_changes e WHERE machine_id = ? AND what <> 'undone' AND "+unchanged+" "+
			"ORDER BY at_ms DESC, rowid DESC LIMIT 1", machineID).
			Take(&newest).
			Error
		if errors.Is(err, gorm.ErrRecordNotFound) {
			return fmt.Errorf("no change of the interval to take back: %w", ErrConflict)
		}
		if err != nil {
			return err
		}
		return tx.Create(
			&changeRow{
				ID:         id,
				MachineID:  machineID,
				AtMs:       ms(now),
				What:       Undone,
				Why:        "taken back",
				Supersedes: &newest.ID,
			},
		).Error
	})
}

// unchanged keeps the changes that were not taken back.
const unchanged = "NOT EXISTS (SELECT 1 FROM interval_changes u WHERE u.supersedes = e.id)"

// Changes lists every change of a machine's interval, oldest first.
func (s *Store) Changes(ctx context.Context, machineID string) ([]Change, error) {
	var rows []changeRow
	err := s.db.WithContext(ctx).Order("at_ms, rowid").Find(&rows, "machine_id = ?", machineID).Error
	gone := map[string]bool{}
	for _, r := range rows {
		if r.Supersedes != nil {
			gone[*r.Supersedes] = true
		}
	}
	list := make([]Change, len(rows))
	for i, r := range rows {
		list[i] = Change{ID: r.ID, What: r.What, Why: r.Why, At: at(r.AtMs), Choice: r.Choice, TakenBack: gone[r.ID]}
	}
	return list, err
}

// choices gives what holds for each machine asked for.
func choices(db *gorm.DB, only string, out map[string]care.History) error {
	var rows []changeRow
	err := db.Raw("SELECT e.* FROM interval_changes e WHERE (@only = '' OR machine_id = @only) AND what <> 'undone' "+
		"AND "+unchanged+" ORDER BY at_ms, rowid", map[string]any{"only": only}).
		Scan(&rows).
		Error
	for _, r := range rows {
		h, asked := out[r.MachineID]
		if !asked {
			continue
		}
		if r.What == Oily || r.What == Party {
			h.Choice.Shortened = append(h.Choice.Shortened, care.Shortening{Kind: r.What, At: r.AtMs})
		} else {
			r.Choice.Shortened = h.Choice.Shortened
			h.Choice, h.ChoiceSince = r.Choice, at(r.AtMs)
		}
		out[r.MachineID] = h
	}
	return err
}

// Away is a time nobody is there, as entered.
type Away struct {
	ID       string
	From, To time.Time
	Note     string
}

// SayAway keeps a time nobody is there. The same id again changes nothing.
func (s *Store) SayAway(ctx context.Context, machineID string, a Away, now time.Time) error {
	err := s.db.WithContext(ctx).
		Create(&awayRow{ID: a.ID, MachineID: machineID, FromMs: ms(a.From), ToMs: ms(a.To), Note: a.Note, SaidMs: ms(now)}).
		Error
	if duplicate(err) {
		return nil
	}
	return err
}

// ForgetAway takes a time back; ErrNotFound where the machine has no such one.
func (s *Store) ForgetAway(ctx context.Context, machineID, id string, now time.Time) error {
	done := s.db.WithContext(ctx).
		Model(&awayRow{}).
		Where("id = ? AND machine_id = ?", id, machineID).
		Update("gone_ms", gorm.Expr("COALESCE(gone_ms, ?)", ms(now)))
	if done.Error == nil && done.RowsAffected == 0 {
		return fmt.Errorf("holiday %s: %w", id, ErrNotFound)
	}
	return done.Error
}

// Aways lists the times nobody is there of one machine, oldest first.
func (s *Store) Aways(ctx context.Context, machineID string) ([]Away, error) {
	var rows []awayRow
	err := s.db.WithContext(ctx).Order("from_ms").Find(&rows, "machine_id = ? AND gone_ms IS NULL", machineID).Error
	list := make([]Away, len(rows))
	for i, r := range rows {
		list[i] = Away{r.ID, at(r.FromMs), at(r.ToMs), r.Note}
	}
	return list, err
}

// LastReading is the newest reading of the machine's counter before an
// instant, nil where there is none; one whose use was taken back does not count.
func (s *Store) LastReading(ctx context.Context, machineID string) (*care.Reading, error) {
	var rows []readingRow
	err := s.db.WithContext(ctx).
		Raw("SELECT e.* FROM counter_readings e WHERE e.machine_id = ? AND "+standing+" ORDER BY e.at_ms DESC LIMIT 1",
			machineID).
		Scan(&rows).
		Error
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	return &care.Reading{Value: rows[0].Value, At: at(rows[0].AtMs)}, nil
}

// HasReading says whether a reading of that id is kept already.
func (s *Store) HasReading(ctx context.Context, id string) (bool, error) {
	var there int64
	err := s.db.WithContext(ctx).Model(&readingRow{}).Where("id = ?", id).Count(&there).Error
	return there > 0, err
}

// AddReading keeps a reading of the machine's counter with the use it stands
// for. The same id again changes nothing.
func (s *Store) AddReading(ctx context.Context, machineID string, value float64, use care.UseEvent) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		err := tx.Create(&readingRow{ID: use.ID, MachineID: machineID, AtMs: ms(use.To), Value: value}).Error
		if duplicate(err) {
			return nil
		}
		if err != nil || use.Count == 0 {
			return err
		}
		return addUse(tx, machineID, "counter", "", use)
	})
}

// Imported says what a file of use came to.
type Imported struct{ New, Changed, Same int }

const imported = "import"

var errDry = errors.New("nothing is kept of a preview")

// ImportUse takes the use of a file, all of it or none. What was imported for
// the same span, group and kind before is corrected where the count differs,
// and left alone where it does not. With dry, nothing is kept.
func (s *Store) ImportUse(ctx context.Context, machineID string, events []care.UseEvent, dry bool) (Imported, error) {
	var sum Imported
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		for _, e := range events {
			var have []useRow
			err := tx.Raw("SELECT e.* FROM use_events e INDEXED BY use_by_machine WHERE e.machine_id = ? AND e.to_ms = ? "+
				"AND e.from_ms = ? AND e.part = ? AND e.kind = ? AND e.source = ? AND "+standing,
				machineID, ms(e.To), ms(e.From), e.Part.String(), e.Kind, imported).
				Scan(&have).
				Error
			if err != nil {
				return err
			}
			before := ""
			switch {
			case len(have) == 0:
				sum.New++
			case have[0].Count == e.Count:
				sum.Same++
				continue
			default:
				sum.Changed++
				before = have[0].ID
			}
			e.ID = uuid.NewSHA1(
				uuid.NameSpaceOID,
				fmt.Append(
					nil,
					machineID,
					imported,
					ms(e.From),
					ms(e.To),
					e.Part.GroupNumber(),
					e.Kind,
					e.Count,
					before,
				),
			).
				String()
			if err := addUse(tx, machineID, imported, before, e); err != nil {
				return err
			}
		}
		if dry {
			return errDry
		}
		return nil
	})
	if errors.Is(err, errDry) {
		err = nil
	}
	return sum, err
}

// habitReach is how far back the ledger is read for use by the day.
const habitReach = 58 * 24 * time.Hour

// habits gives use by the day for each machine asked for. What is missing is
// counted up from the last weeks of the ledger, and kept.
func (s *Store) habits(
	ctx context.Context,
	list []Machine,
	only string,
	out map[string]care.History,
	now time.Time,
) error {
	var rows []habitRow
	db := s.db.WithContext(ctx)
	if err := db.Raw("SELECT * FROM habits WHERE @only = '' OR machine_id = @only",
		map[string]any{"only": only}).Scan(&rows).Error; err != nil {
		return err
	}
	have := make(map[string]bool, len(rows))
	take := func(r habitRow) {
		id := r.MachineID
		if h, asked := out[id]; asked {
			h.Habit = r.Body
			if r.UntilMs > 0 {
				h.LoggedUntil = at(r.UntilMs)
			}
			out[id] = h
			have[id] = true
		}
	}
	for _, r := range rows {
		take(r)
	}
	var missing []Machine
	for _, m := range list {
		if !have[m.ID] {
			missing = append(missing, m)
		}
	}
	if len(missing) == 0 {
		return nil
	}
	// one writer: nothing can be logged between counting up and keeping
	return db.Transaction(func(tx *gorm.DB) error {
		for _, m := range missing {
			var used []useRow
			err := tx.Raw("SELECT e.* FROM use_events e INDEXED BY use_by_machine WHERE e.machine_id = ? AND e.to_ms > ? "+
				"AND e.kind IN ('single', 'double', 'milk') AND "+standing, m.ID, ms(now.Add(-habitReach))).
				Scan(&used).
				Error
			if err != nil {
				return err
			}
			row := habitRow{MachineID: m.ID}
			events := make([]care.UseEvent, len(used))
			for i, u := range used {
				events[i] = u.event()
				if u.FromMs < u.ToMs {
					row.SpansMs = max(row.SpansMs, u.ToMs)
				}
			}
			row.Body = care.HabitOf(events, now, m.Zone)
			var newest []useRow
			if err := tx.Raw("SELECT e.* FROM use_events e INDEXED BY use_by_machine WHERE e.machine_id = ? AND e.kind IN "+
				"('single', 'double', 'milk') AND "+standing+" ORDER BY e.to_ms DESC LIMIT 1",
				m.ID).Scan(&newest).Error; err != nil {
				return err
			}
			if len(newest) > 0 && newest[0].FromMs < newest[0].ToMs {
				row.UntilMs = newest[0].ToMs
			}
			if err := tx.Save(&row).Error; err != nil {
				return err
			}
			take(row)
		}
		return nil
	})
}

// tally counts one press more into use by the day. What cannot simply be
// added makes it be counted up anew.
func tally(tx *gorm.DB, machineID, supersedes string, e care.UseEvent) error {
	if supersedes == "" && !e.Kind.IsShot() {
		return nil
	}
	var row habitRow
	err := tx.Take(&row, "machine_id = ?", machineID).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return nil
	}
	if err != nil {
		return err
	}
	if supersedes == "" && e.From.Equal(e.To) && ms(e.To) > row.SpansMs {
		var name string
		if err := tx.Raw("SELECT zone FROM machines WHERE id = ?", machineID).Scan(&name).Error; err != nil {
			return err
		}
		if zone, err := time.LoadLocation(name); err == nil && row.Body.Add(e, zone) {
			row.UntilMs = 0 // presses go on
			return tx.Save(&row).Error
		}
	}
	return tx.Delete(&row).Error
}

// Graded lists the washes of a machine whose first discharge was asked for,
// since an instant, oldest first.
func (s *Store) Graded(ctx context.Context, machineID string, since time.Time) ([]care.Graded, error) {
	var rows []careRow
	err := s.db.WithContext(ctx).
		Order("at_ms").
		Find(&rows, "machine_id = ? AND task = ? AND outcome = 'done' AND at_ms > ?", machineID, care.Wash, ms(since)).
		Error
	if err != nil {
		return nil, err
	}
	var list []care.Graded
	for _, r := range rows {
		part, err := machine.ParsePart(r.Part)
		if err != nil {
			return nil, err
		}
		if r.Record.First != "" {
			list = append(list, care.Graded{At: at(r.AtMs), Part: part, First: r.Record.First, Gone: r.Record.Gone})
		}
	}
	return list, nil
}

// Past is the completed care of one machine since an instant, oldest first,
// with the use logged since then.
func (s *Store) Past(ctx context.Context, machineID string, since time.Time) ([]Entry, []care.UseEvent, error) {
	db := s.db.WithContext(ctx)
	var rows []careRow
	err := db.Order("at_ms, id").
		Find(&rows, "machine_id = ? AND task IN ('wash', 'hand_clean') AND outcome IN ('done', 'recorded') AND at_ms > ?",
			machineID, ms(since)).
		Error
	if err != nil {
		return nil, nil, err
	}
	var used []useRow
	err = db.Raw("SELECT e.* FROM use_events e INDEXED BY use_by_machine WHERE e.machine_id = ? AND e.to_ms > ? AND "+
		"e.kind IN ('single', 'double', 'milk') AND "+standing, machineID, ms(since)).
		Scan(&used).
		Error
	events := make([]care.UseEvent, len(used))
	for i, u := range used {
		events[i] = u.event()
	}
	if err != nil {
		return nil, nil, err
	}
	list, err := entries(rows)
	return list, events, err
}
