package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"

	"freshanvil/core/machine"
	"freshanvil/core/units"
)

// Machine is a machine with the answers that hold now.
type Machine struct {
	ID, Name     string
	Owner, Place string
	Archived     bool
	Zone         *time.Location
	Created      time.Time
	LoggedSince  time.Time // zero where no use is on record
	Version      int       // goes up with every edit
	Answers      machine.Answers
	Hardness     HardnessAnswer
	// Bad says why a row of it cannot be read; nil where all can. What cannot be read stands as
	// if it had not been said.
	Bad error
}

// HardnessAnswer is the hardness as it was given.
type HardnessAnswer struct {
	Known bool
	Value float64
	Unit  units.HardnessUnit
}

// Reading is the answer as a range; where nobody knows, the default stands in.
func (h HardnessAnswer) Reading() (units.HardnessReading, error) {
	if !h.Known {
		return units.UnknownHardness(), nil
	}
	v, err := units.NewHardness(h.Value, h.Unit)
	return units.HardnessReading{Likely: v, Low: v, High: v, Known: true}, err
}

// rows as the database has them
type (
	machineRow struct {
		ID            string
		Name          string
		Zone          string
		Owner         string
		Place         string
		CreatedMs     int64
		ArchivedMs    *int64
		LoggedSinceMs *int64
		Version       int
		Stale         bool
		WorkedMs      int64
		UntilMs       int64
		Says          string
	}
	settingRow struct {
		ID            int64
		MachineID     string
		FromMs        int64
		SaidMs        int64
		GoneMs        *int64
		Version       int
		Layout        machine.Layout
		Valve         machine.Answer
		Drinks        float64
		MilkDrinks    float64
		HardnessKnown bool
		HardnessValue float64
		HardnessUnit  units.HardnessUnit
		Treatment     machine.Treatment
		Facts         map[string]string `gorm:"serializer:json"`
	}
)

func (machineRow) TableName() string { return "machines" }
func (settingRow) TableName() string { return "settings" }

// Said are answers as they were given, from an instant on.
type Said struct {
	From     time.Time
	Answers  machine.Answers
	Hardness HardnessAnswer
	Version  int // of the machine, from which on they stood
}

func (s settingRow) said() (Said, error) {
	h := HardnessAnswer{s.HardnessKnown, s.HardnessValue, s.HardnessUnit}
	reading, err := h.Reading()
	if err != nil {
		reading = units.UnknownHardness()
	}
	return Said{at(s.FromMs), machine.Answers{Layout: s.Layout, Valve: s.Valve, Overrides: s.Facts, Drinks: s.Drinks,
		MilkDrinks: s.MilkDrinks, Hardness: reading, Treatment: s.Treatment}, h, s.Version}, err
}

func settingOf(id string, s Said, said time.Time) *settingRow {
	a, h := s.Answers, s.Hardness
	if a.Overrides == nil {
		a.Overrides = map[string]string{}
	}
	return &settingRow{MachineID: id, FromMs: ms(s.From), SaidMs: ms(said), Version: s.Version, Layout: a.Layout,
		Valve: a.Valve, Drinks: a.Drinks, MilkDrinks: a.MilkDrinks, HardnessKnown: h.Known, HardnessValue: h.Value,
		HardnessUnit: h.Unit, Treatment: a.Treatment, Facts: a.Overrides}
}

// AddMachine keeps a machine whose answers hold from an instant on. An id that is there already
// is ErrConflict.
func (s *Store) AddMachine(ctx context.Context, m Machine, now time.Time) error {
	db := s.db.WithContext(ctx)
	err := db.Create(&machineRow{ID: m.ID, Name: m.Name, Zone: m.Zone.String(), Owner: m.Owner, Place: m.Place,
		CreatedMs: ms(now), Version: 1, Stale: true}).Error
	if duplicate(err) {
		return fmt.Errorf("machine %s is there already: %w", m.ID, ErrConflict)
	}
	if err != nil {
		return err
	}
	return db.Create(settingOf(m.ID, Said{now, m.Answers, m.Hardness, 1}, now)).Error
}

// Timeline is what was said of a machine, and since when it held, oldest first. The error names
// what cannot be read of it; the rest is given all the same.
func (s *Store) Timeline(ctx context.Context, id string) ([]Said, error) {
	var rows []settingRow
	err := s.db.WithContext(ctx).Order("from_ms, id").Find(&rows, "machine_id = ? AND gone_ms IS NULL", id).Error
	list := make([]Said, 0, len(rows))
	for _, r := range rows {
		said, bad := r.said()
		err = errors.Join(err, bad)
		list = append(list, said)
	}
	return list, err
}

// SaidAt is what was said of a machine when it was of a version; ErrNotFound where it was never
// of that one.
func (s *Store) SaidAt(ctx context.Context, id string, version int) (Said, error) {
	var row settingRow
	err := s.db.WithContext(ctx).Order("version DESC, from_ms DESC, id DESC").
		Take(&row, "machine_id = ? AND version <= ?", id, version).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return Said{}, fmt.Errorf("version %d of machine %s: %w", version, id, ErrNotFound)
	}
	if err != nil {
		return Said{}, err
	}
	return row.said()
}

// Say puts a timeline in the place of what was said for an instant and later. The machine is of
// the next version.
func (s *Store) Say(ctx context.Context, id string, since time.Time, list []Said, now time.Time) error {
	db := s.db.WithContext(ctx)
	var version int
	if err := db.Raw("UPDATE machines SET version = version + 1, stale = 1 WHERE id = ? RETURNING version", id).
		Scan(&version).Error; err != nil {
		return err
	}
	err := db.Model(&settingRow{}).Where("machine_id = ? AND from_ms >= ? AND gone_ms IS NULL", id, ms(since)).
		Update("gone_ms", ms(now)).Error
	for _, x := range list {
		if x.From.Before(since) || err != nil {
			continue
		}
		x.Version = version
		err = db.Create(settingOf(id, x, now)).Error
	}
	return err
}

// Machine finds one machine; ErrNotFound where it is not there.
func (s *Store) Machine(ctx context.Context, id string) (Machine, error) {
	list, err := s.machines(ctx, "m.id = ?", id)
	if err == nil && len(list) == 0 {
		err = fmt.Errorf("machine %s: %w", id, ErrNotFound)
	}
	if err != nil {
		return Machine{}, err
	}
	return list[0], nil
}

// Machines lists the machines in use, or those archived, in the order they
// were added.
func (s *Store) Machines(ctx context.Context, archived bool) ([]Machine, error) {
	return s.machines(ctx, "(m.archived_ms IS NOT NULL) = ?", archived)
}

// Describe changes name, owner and place of a machine and archives it or takes
// it back. Nothing is deleted. The machine is of the next version.
func (s *Store) Describe(ctx context.Context, m Machine, now time.Time) error {
	return s.db.WithContext(ctx).Exec(`UPDATE machines SET name = @name, owner = @owner, place = @place,
		version = version + 1, stale = 1,
		archived_ms = CASE WHEN @archived THEN COALESCE(archived_ms, @now) END WHERE id = @id`,
		map[string]any{
			"name":     m.Name,
			"owner":    m.Owner,
			"place":    m.Place,
			"archived": m.Archived,
			"now":      ms(now),
			"id":       m.ID,
		}).
		Error
}

// newestSetting is what holds last of a machine.
const newestSetting = `s.id = (SELECT n.id FROM settings n WHERE n.machine_id = m.id AND n.gone_ms IS NULL
	ORDER BY n.from_ms DESC, n.id DESC LIMIT 1)`

func (s *Store) machines(ctx context.Context, where string, arg any) ([]Machine, error) {
	var rows []struct {
		Machine machineRow `gorm:"embedded;embeddedPrefix:m_"`
		Setting settingRow `gorm:"embedded;embeddedPrefix:s_"`
	}
	err := s.db.WithContext(ctx).Raw(`
		SELECT m.id m_id, m.name m_name, m.zone m_zone, m.owner m_owner, m.place m_place, m.created_ms m_created_ms,
			m.archived_ms m_archived_ms, m.logged_since_ms m_logged_since_ms, m.version m_version,
		       s.layout s_layout, s.valve s_valve, s.facts s_facts, s.drinks s_drinks, s.milk_drinks s_milk_drinks,
		       s.hardness_known s_hardness_known, s.hardness_value s_hardness_value, s.hardness_unit s_hardness_unit,
		       	s.treatment s_treatment
		FROM machines m JOIN settings s ON `+newestSetting+`
		WHERE `+where+` ORDER BY m.created_ms, m.id`, arg).Scan(&rows).Error
	if err != nil {
		return nil, err
	}
	list := make([]Machine, len(rows))
	for i, r := range rows {
		list[i] = machineOf(r.Machine, r.Setting)
	}
	return list, nil
}

func machineOf(r machineRow, set settingRow) Machine {
	m := Machine{ID: r.ID, Name: r.Name, Owner: r.Owner, Place: r.Place, Created: at(r.CreatedMs),
		Archived: r.ArchivedMs != nil, Version: r.Version}
	if r.LoggedSinceMs != nil {
		m.LoggedSince = at(*r.LoggedSinceMs)
	}
	m.Zone, m.Bad = zoneOf(r.Zone)
	said, err := set.said()
	if err != nil && m.Bad == nil {
		m.Bad = fmt.Errorf("its hardness cannot be read: %w", err)
	}
	m.Answers, m.Hardness = said.Answers, said.Hardness
	if err := m.Answers.Check(); err != nil && m.Bad == nil {
		m.Bad = fmt.Errorf("its answers cannot be read: %w", err)
	}
	return m
}

// zoneOf is a zone by its name; where it is not known, UTC stands in, and the error says so.
func zoneOf(name string) (*time.Location, error) {
	zone, err := time.LoadLocation(name)
	if err != nil {
		return time.UTC, fmt.Errorf("its time zone %q is not known, so its days turn by UTC", name)
	}
	return zone, nil
}

// factsOf reads the facts that were said; what cannot be read stands as not said.
func factsOf(text string) map[string]string {
	facts := map[string]string{}
	if json.Unmarshal([]byte(text), &facts) != nil {
		return nil
	}
	return facts
}
