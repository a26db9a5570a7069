package store

import (
	"context"
	"fmt"
	"time"

	"gorm.io/gorm"

	"freshanvil/core/care"
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
	Answers      machine.Answers
	Hardness     HardnessAnswer
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
	}
	settingRow struct {
		ID            int64
		MachineID     string
		FromMs        int64
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

func setting(id string, a machine.Answers, h HardnessAnswer, from time.Time) *settingRow {
	if a.Overrides == nil {
		a.Overrides = map[string]string{}
	}
	return &settingRow{MachineID: id, FromMs: ms(from), Layout: a.Layout, Valve: a.Valve, Drinks: a.Drinks,
		MilkDrinks: a.MilkDrinks, HardnessKnown: h.Known, HardnessValue: h.Value, HardnessUnit: h.Unit,
		Treatment: a.Treatment, Facts: a.Overrides}
}

// AddMachine keeps a machine. Adding the same id again changes nothing.
func (s *Store) AddMachine(ctx context.Context, m Machine, now time.Time) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		err := tx.Create(
			&machineRow{
				ID:        m.ID,
				Name:      m.Name,
				Zone:      m.Zone.String(),
				Owner:     m.Owner,
				Place:     m.Place,
				CreatedMs: ms(now),
			},
		).Error
		if duplicate(err) {
			return nil
		}
		if err != nil {
			return err
		}
		return tx.Create(setting(m.ID, m.Answers, m.Hardness, now)).Error
	})
}

// ChangeAnswers lets new answers hold from now on.
func (s *Store) ChangeAnswers(
	ctx context.Context,
	id string,
	a machine.Answers,
	h HardnessAnswer,
	now time.Time,
) error {
	return s.db.WithContext(ctx).Create(setting(id, a, h, now)).Error
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
// it back. Nothing is deleted.
func (s *Store) Describe(ctx context.Context, m Machine, now time.Time) error {
	return s.db.WithContext(ctx).Exec(`UPDATE machines SET name = @name, owner = @owner, place = @place,
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

func (s *Store) machines(ctx context.Context, where string, arg any) ([]Machine, error) {
	var rows []struct {
		Machine machineRow `gorm:"embedded;embeddedPrefix:m_"`
		Setting settingRow `gorm:"embedded;embeddedPrefix:s_"`
	}
	err := s.db.WithContext(ctx).Raw(`
		SELECT m.id m_id, m.name m_name, m.zone m_zone, m.owner m_owner, m.place m_place, m.created_ms m_created_ms,
			m.archived_ms m_archived_ms, m.logged_since_ms m_logged_since_ms,
		       s.layout s_layout, s.valve s_valve, s.facts s_facts, s.drinks s_drinks, s.milk_drinks s_milk_drinks,
		       s.hardness_known s_hardness_known, s.hardness_value s_hardness_value, s.hardness_unit s_hardness_unit,
		       	s.treatment s_treatment
		FROM machines m JOIN settings s ON s.id = (SELECT MAX(id) FROM settings WHERE machine_id = m.id)
		WHERE `+where+` ORDER BY m.created_ms, m.id`, arg).Scan(&rows).Error
	if err != nil {
		return nil, err
	}
	list := make([]Machine, len(rows))
	for i, r := range rows {
		zone, err := time.LoadLocation(r.Machine.Zone)
		if err != nil {
			return nil, fmt.Errorf("machine %s: %w", r.Machine.ID, err)
		}
		set := r.Setting
		m := Machine{
			ID:       r.Machine.ID,
			Name:     r.Machine.Name,
			Owner:    r.Machine.Owner,
			Place:    r.Machine.Place,
			Created:  at(r.Machine.CreatedMs),
			Archived: r.Machine.ArchivedMs != nil,
			Zone:     zone,
			Hardness: HardnessAnswer{set.HardnessKnown, set.HardnessValue, set.HardnessUnit},
		}
		if r.Machine.LoggedSinceMs != nil {
			m.LoggedSince = at(*r.Machine.LoggedSinceMs)
		}
		reading, err := m.Hardness.Reading()
		if err != nil {
			return nil, fmt.Errorf("machine %s: %w", m.ID, err)
		}
		m.Answers = machine.Answers{
			Layout:     set.Layout,
			Valve:      set.Valve,
			Overrides:  set.Facts,
			Drinks:     set.Drinks,
			MilkDrinks: set.MilkDrinks,
			Hardness:   reading,
			Treatment:  set.Treatment,
		}
		list[i] = m
	}
	return list, nil
}

type useRow struct {
	ID         string
	MachineID  string
	Part       string
	Kind       care.UseKind
	Count      float64
	FromMs     int64
	ToMs       int64
	Source     string
	Supersedes *string
}

func (useRow) TableName() string { return "use_events" }

// part is what the use is of; what cannot be read counts for the whole machine.
func (u useRow) part() machine.Part {
	part, err := machine.ParsePart(u.Part)
	if err != nil {
		return machine.Part{}
	}
	return part
}

// Undo is the kind of an event that takes another back.
const Undo care.UseKind = "undo"

// AddUse appends to the ledger. The same id again changes nothing. A
// superseded event must be the machine's own and not superseded already;
// else ErrConflict.
func (s *Store) AddUse(ctx context.Context, machineID, source, supersedes string, events ...care.UseEvent) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		for _, e := range events {
			if err := addUse(tx, machineID, source, supersedes, e); err != nil {
				return err
			}
		}
		return nil
	})
}

func addUse(tx *gorm.DB, machineID, source, supersedes string, e care.UseEvent) error {
	row := useRow{
		ID:        e.ID,
		MachineID: machineID,
		Part:      e.Part.String(),
		Kind:      e.Kind,
		Count:     e.Count,
		FromMs:    ms(e.From),
		ToMs:      ms(e.To),
		Source:    source,
	}
	var there int64
	if err := tx.Model(&useRow{}).Where("id = ?", e.ID).Count(&there).Error; err != nil || there > 0 {
		return err
	}
	if supersedes != "" {
		row.Supersedes = &supersedes
		var own int64
		if err := tx.Model(&useRow{}).Where("id = ? AND machine_id = ? AND kind <> ?", supersedes, machineID,
			Undo).Count(&own).Error; err != nil {
			return err
		}
		if own == 0 {
			return fmt.Errorf("entry %s of this machine: %w", supersedes, ErrNotFound)
		}
	}
	if err := tx.Create(&row).Error; duplicate(err) {
		return fmt.Errorf("entry %s is taken back already: %w", supersedes, ErrConflict)
	} else if err != nil {
		return err
	}
	if err := tally(tx, machineID, supersedes, e); err != nil {
		return err
	}
	if err := unsettle(tx, machineID, supersedes, e); err != nil {
		return err
	}
	arg := map[string]any{"at": row.FromMs, "id": machineID, "gone": supersedes}
	if supersedes != "" {
		// where the first drink was taken back, the log begins with the next
		err := tx.Exec(`UPDATE machines SET logged_since_ms = (SELECT MIN(e.from_ms) FROM use_events e
			WHERE e.machine_id = @id AND e.kind IN ('single', 'double', 'milk') AND `+standing+`)
			WHERE id = @id AND logged_since_ms = (SELECT from_ms FROM use_events WHERE id = @gone)`, arg).Error
		if err != nil {
			return err
		}
	}
	if !e.Kind.IsShot() {
		return nil
	}
	return tx.Exec(
		"UPDATE machines SET logged_since_ms = MIN(COALESCE(logged_since_ms, @at), @at) WHERE id = @id",
		arg,
	).Error
}

// sinceLastCare is the use of each machine since the oldest of its newest
// completions. It walks use_by_machine from that instant on, no further back.
const sinceLastCare = `WITH since AS (
	SELECT machine_id, MIN(at_ms) at_ms FROM last_care WHERE (@only = '' OR machine_id = @only) AND task IN ('wash',
		'hand_clean') GROUP BY machine_id)
	SELECT e.* FROM since CROSS JOIN use_events e INDEXED BY use_by_machine ON e.machine_id = since.machine_id
		AND e.to_ms > since.at_ms
	WHERE e.kind <> 'undo' AND ` + standing

// Histories gives, for every machine asked for, what its due answers rest on:
// the newest completion of each task and group, and the use since the oldest
// of those; use by the day over the last weeks; what was chosen; and when nobody
// is there. It reads no older use, but counts up what is not kept by the day.
func (s *Store) Histories(ctx context.Context, list []Machine, now time.Time) (map[string]care.History, error) {
	only := ""
	if len(list) == 1 {
		only = list[0].ID
	}
	out := make(map[string]care.History, len(list))
	for _, m := range list {
		out[m.ID] = care.History{LoggedSince: m.LoggedSince}
	}
	var done []struct {
		MachineID string
		Task      care.Task
		Part      string
		AtMs      int64
	}
	db := s.db.WithContext(ctx)
	arg := map[string]any{"only": only}
	err := db.Raw("SELECT machine_id, task, part, at_ms FROM last_care WHERE @only = '' OR machine_id = @only", arg).
		Scan(&done).
		Error
	if err != nil {
		return nil, err
	}
	for _, d := range done {
		part, err := machine.ParsePart(d.Part)
		if err != nil {
			return nil, fmt.Errorf("care of machine %s: %w", d.MachineID, err)
		}
		h := out[d.MachineID]
		h.Done = append(h.Done, care.Done{Task: d.Task, Part: part, At: at(d.AtMs)})
		out[d.MachineID] = h
	}
	var used []useRow
	err = db.Raw(sinceLastCare, arg).Scan(&used).Error
	if err != nil {
		return nil, err
	}
	for _, u := range used {
		h := out[u.MachineID]
		h.Events = append(h.Events, u.event())
		out[u.MachineID] = h
	}
	var aways []awayRow
	if err := db.Raw("SELECT * FROM away WHERE (@only = '' OR machine_id = @only) AND gone_ms IS NULL AND to_ms > "+
		"@since", map[string]any{"only": only, "since": ms(now.Add(-habitReach))}).Scan(&aways).Error; err != nil {
		return nil, err
	}
	for _, a := range aways {
		h := out[a.MachineID]
		h.Away = append(h.Away, care.Spell{From: at(a.FromMs), To: at(a.ToMs), Entered: true})
		out[a.MachineID] = h
	}
	if err := choices(db, only, out); err != nil {
		return nil, err
	}
	if err := s.waters(ctx, list, only, out); err != nil {
		return nil, err
	}
	return out, s.habits(ctx, list, only, out, now)
}

func (u useRow) event() care.UseEvent {
	return care.UseEvent{ID: u.ID, Part: u.part(), Kind: u.Kind, Count: u.Count, From: at(u.FromMs), To: at(u.ToMs)}
}

// standing keeps the events that were not taken back or corrected.
const standing = "NOT EXISTS (SELECT 1 FROM use_events u WHERE u.supersedes = e.id)"

// Today is what was pressed in on one machine since its day turned.
type Today struct {
	Drinks float64
	ID     string // the newest entry
	Kind   care.UseKind
}

// Todays sums, for machines that share a zone, what was pressed in since an
// instant, by machine.
func (s *Store) Todays(
	ctx context.Context,
	list []Machine,
	zone *time.Location,
	since time.Time,
) (map[string]Today, error) {
	var rows []struct {
		MachineID string
		Drinks    float64
		ID        string
		Kind      care.UseKind
	}
	where, arg := "e.machine_id IN (SELECT id FROM machines WHERE zone = ?)", zone.String()
	from := "use_events e INDEXED BY use_by_time"
	if len(list) == 1 {
		where, arg, from = "e.machine_id = ?", list[0].ID, "use_events e INDEXED BY use_by_machine"
	}
	// a file's day ends with the instant at which this one begins, and is not of it
	at := ms(since)
	// with one MAX, SQLite takes the other columns from the row that has it
	err := s.db.WithContext(ctx).
		Raw("SELECT e.machine_id, SUM(CASE e.kind WHEN 'flush' THEN 0 ELSE e.count END) drinks, MAX(e.to_ms), e.id, "+
			"e.kind FROM "+from+
			" WHERE "+where+" AND e.to_ms >= ? AND NOT (e.to_ms = ? AND e.from_ms < e.to_ms) "+
			"AND e.kind NOT IN ('undo', 'run_water') AND "+standing+" GROUP BY e.machine_id",
			arg, at, at).
		Scan(&rows).
		Error
	out := make(map[string]Today, len(rows))
	for _, r := range rows {
		out[r.MachineID] = Today{r.Drinks, r.ID, r.Kind}
	}
	return out, err
}

// Use finds one entry of a machine's ledger, standing or not; else ErrNotFound.
func (s *Store) Use(ctx context.Context, machineID, id string) (care.UseEvent, error) {
	var rows []useRow
	err := s.db.WithContext(ctx).Find(&rows, "id = ? AND machine_id = ?", id, machineID).Error
	if err == nil && len(rows) == 0 {
		err = fmt.Errorf("entry %s of this machine: %w", id, ErrNotFound)
	}
	if err != nil {
		return care.UseEvent{}, err
	}
	return rows[0].event(), nil
}

// Ledger lists the newest entries of one machine as they stand, newest first.
func (s *Store) Ledger(ctx context.Context, machineID string, limit int) ([]care.UseEvent, error) {
	var rows []useRow
	err := s.db.WithContext(ctx).
		Raw("SELECT e.* FROM use_events e WHERE e.machine_id = ? AND e.kind NOT IN ('undo', 'run_water') AND "+
			""+standing+" ORDER BY e.to_ms DESC, e.id DESC LIMIT ?", machineID, limit).
		Scan(&rows).
		Error
	list := make([]care.UseEvent, len(rows))
	for i, r := range rows {
		list[i] = r.event()
	}
	return list, err
}
