package store

import (
	"context"
	"time"

	"freshanvil/core/inspect"
	"freshanvil/core/machine"
)

type (
	lookRow struct {
		ID        string
		MachineID string
		Part      string
		Sight     inspect.Sight
		Verdict   inspect.Verdict
		AtMs      int64
		RunID     *string
		GoneMs    *int64
		Number    *float64
	}
	personRow struct {
		ID       string
		Name     string
		Initials string
		SaidMs   int64
		GoneMs   *int64
	}
)

func (lookRow) TableName() string   { return "looks" }
func (personRow) TableName() string { return "people" }

// Look is what somebody saw of a part of a machine.
type Look struct {
	ID, MachineID, RunID string
	inspect.Found
}

// Person is somebody who does the small jobs.
type Person struct{ ID, Name, Initials string }

// AddLook keeps what somebody saw. The machine's standings are to be worked out anew. Two looks at one thing never
// share an instant, so that the one that was kept last is the last one: where there is one already, it is a millisecond
// later.
func (s *Store) AddLook(ctx context.Context, l Look) error {
	var taken []int64
	err := s.db.WithContext(ctx).Model(&lookRow{}).Order("at_ms").Where("machine_id = ? AND sight = ? AND part = ? AND "+
		"gone_ms IS NULL AND at_ms >= ?", l.MachineID, l.Sight, l.Part.String(), ms(l.At)).Pluck("at_ms", &taken).Error
	if err != nil {
		return err
	}
	for _, at := range taken {
		if at == ms(l.At) {
			l.At = l.At.Add(time.Millisecond)
		}
	}
	row := lookRow{ID: l.ID, MachineID: l.MachineID, Part: l.Part.String(), Sight: l.Sight, Verdict: l.Verdict,
		AtMs: ms(l.At), Number: l.Number}
	if l.RunID != "" {
		row.RunID = &l.RunID
	}
	if err := s.db.WithContext(ctx).Create(&row).Error; err != nil {
		return err
	}
	return s.Stale(ctx, l.MachineID)
}

// Looks lists the newest looks at each thing of a machine that stand, so many of each, newest first.
func (s *Store) Looks(ctx context.Context, machineID string, each int) ([]Look, error) {
	var rows []lookRow
	err := s.db.WithContext(ctx).Raw("SELECT * FROM (SELECT *, ROW_NUMBER() OVER (PARTITION BY sight, part "+
		"ORDER BY at_ms DESC, id DESC) AS n FROM looks WHERE machine_id = ? AND gone_ms IS NULL) WHERE n <= ? "+
		"ORDER BY at_ms DESC, id DESC", machineID, each).Scan(&rows).Error
	return looksOf(rows), err
}

// LooksAt lists the looks at one thing of a part that stand, newest first.
func (s *Store) LooksAt(ctx context.Context, machineID string, sight inspect.Sight, of machine.Part, limit int) (
	[]Look, error,
) {
	var rows []lookRow
	err := s.db.WithContext(ctx).Order("at_ms DESC, id DESC").Limit(limit).
		Find(&rows, "machine_id = ? AND sight = ? AND part = ? AND gone_ms IS NULL", machineID, sight, of.String()).Error
	return looksOf(rows), err
}

func looksOf(rows []lookRow) []Look {
	list := make([]Look, len(rows))
	for i, r := range rows {
		list[i] = Look{ID: r.ID, MachineID: r.MachineID, Found: inspect.Found{Sight: r.Sight, Part: part(r.Part),
			Verdict: r.Verdict, At: at(r.AtMs), Number: r.Number}}
		if r.RunID != nil {
			list[i].RunID = *r.RunID
		}
	}
	return list
}

// TakeLookBack takes a look back; ErrGone, ErrNotFound where it does not stand.
func (s *Store) TakeLookBack(ctx context.Context, machineID, id string, now time.Time) error {
	if err := s.takeAway(ctx, &lookRow{}, now, "id = ? AND machine_id = ?", id, machineID); err != nil {
		return err
	}
	return s.Stale(ctx, machineID)
}

// AddPerson keeps somebody who does the small jobs.
func (s *Store) AddPerson(ctx context.Context, p Person, now time.Time) error {
	return s.db.WithContext(ctx).Create(&personRow{ID: p.ID, Name: p.Name, Initials: p.Initials, SaidMs: ms(now)}).Error
}

// People lists them, by name.
func (s *Store) People(ctx context.Context) ([]Person, error) {
	var rows []personRow
	err := s.db.WithContext(ctx).Order("name, id").Find(&rows, "gone_ms IS NULL").Error
	list := make([]Person, len(rows))
	for i, r := range rows {
		list[i] = Person{r.ID, r.Name, r.Initials}
	}
	return list, err
}

// ForgetPerson takes somebody off the list; what they did stays. ErrGone, ErrNotFound where they are not on it.
func (s *Store) ForgetPerson(ctx context.Context, id string, now time.Time) error {
	return s.takeAway(ctx, &personRow{}, now, "id = ?", id)
}

// DoneSince lists what of some tasks was done to a machine since an instant, by whom.
func (s *Store) DoneSince(ctx context.Context, machineID string, tasks any, since time.Time) ([]Entry, error) {
	var rows []careRow
	err := s.db.WithContext(ctx).Order("at_ms, rowid").Find(&rows, "machine_id = ? AND gone_ms IS NULL AND "+
		"outcome IN ? AND outcome <> ? AND at_ms >= ? AND task IN ?", machineID, counting, Begins, ms(since), tasks).Error
	return entries(rows), err
}

// RunLooks lists what was seen in a run, in its order.
func (s *Store) RunLooks(ctx context.Context, runID string) ([]Look, error) {
	var rows []lookRow
	err := s.db.WithContext(ctx).Order("at_ms, id").Find(&rows, "run_id = ? AND gone_ms IS NULL", runID).Error
	return looksOf(rows), err
}

// LooksBetween lists the newest look at each thing of a machine from an instant until another that stands, newest
// first.
func (s *Store) LooksBetween(ctx context.Context, machineID string, from, until time.Time) ([]Look, error) {
	var rows []lookRow
	err := s.db.WithContext(ctx).Raw("SELECT * FROM (SELECT *, ROW_NUMBER() OVER (PARTITION BY sight, part "+
		"ORDER BY at_ms DESC, id DESC) AS n FROM looks WHERE machine_id = ? AND at_ms >= ? AND at_ms < ? AND "+
		"gone_ms IS NULL) WHERE n = 1 ORDER BY at_ms DESC, id DESC", machineID, ms(from), ms(until)).Scan(&rows).Error
	return looksOf(rows), err
}
