package store

import (
	"context"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/machine"
	"freshanvil/core/task"
)

type standingRow struct {
	MachineID  string
	Seq        int
	Task       task.ID
	Part       string
	State      care.State
	Title      string
	Flags      int
	LastMs     *int64
	EarliestMs int64
	LikelyMs   int64
	LatestMs   int64
	Clock      task.Clock
	Used       float64
	Most       float64
	Unit       string
	Why        string
}

func (standingRow) TableName() string { return "standings" }

const (
	isDaily = 1 << iota
	isCafe
	hasNoDate
	isBegun
	isPulled
	inWorkshop
)

func flag(set bool, bit int) int {
	if set {
		return bit
	}
	return 0
}

func keepStanding(machineID string, seq int, s care.Standing) standingRow {
	row := standingRow{MachineID: machineID, Seq: seq, Task: s.Task, Part: s.Part.String(), State: s.State, Title: s.Title,
		Flags: flag(s.Daily, isDaily) | flag(s.Cafe, isCafe) | flag(s.NoDate, hasNoDate) | flag(s.Begun, isBegun) |
			flag(s.Pulled, isPulled) | flag(s.Workshop, inWorkshop),
		EarliestMs: ms(s.Earliest), LikelyMs: ms(s.Likely), LatestMs: ms(s.Latest), Clock: s.Clock, Used: s.Used,
		Most: s.Most, Unit: s.Unit, Why: s.Why}
	if !s.Last.IsZero() {
		last := ms(s.Last)
		row.LastMs = &last
	}
	return row
}

func (r standingRow) standing() care.Standing {
	s := care.Standing{Task: r.Task, Part: part(r.Part), State: r.State, Title: r.Title, Daily: r.Flags&isDaily != 0,
		Cafe: r.Flags&isCafe != 0, NoDate: r.Flags&hasNoDate != 0, Begun: r.Flags&isBegun != 0, Pulled: r.Flags&isPulled != 0,
		Workshop: r.Flags&inWorkshop != 0,
		Earliest: at(r.EarliestMs), Likely: at(r.LikelyMs), Latest: at(r.LatestMs), Clock: r.Clock, Used: r.Used,
		Most: r.Most, Unit: r.Unit, Why: r.Why}
	if r.LastMs != nil {
		s.Last = at(*r.LastMs)
	}
	return s
}

// Kept are the standings of one machine, most pressing first, when they were worked out, and
// until when they hold by themselves.
type Kept struct {
	List          []care.Standing
	Says          string // what is said of the machine beside its jobs
	Worked, Until time.Time
}

// Stale marks the standings of a machine: they are to be worked out anew.
func (s *Store) Stale(ctx context.Context, machineID string) error {
	return s.db.WithContext(ctx).Exec("UPDATE machines SET stale = 1 WHERE id = ?", machineID).Error
}

// StaleAll marks the standings of all machines.
func (s *Store) StaleAll(ctx context.Context) error {
	return s.db.WithContext(ctx).Exec("UPDATE machines SET stale = 1").Error
}

// StaleIDs lists the machines whose standings something has changed, at most so many; with turned, also those that do
// not hold at an instant: a day has turned, the clock was set back, or the rules are another version than they were
// worked out by. Of the machines in use, or of one.
func (s *Store) StaleIDs(ctx context.Context, only string, now time.Time, turned bool, most int) ([]string, error) {
	where := "stale = 1"
	if turned {
		where = "(stale = 1 OR until_ms <= @now OR worked_ms > @now OR rules <> @rules)"
	}
	which := "archived_ms IS NULL"
	if only != "" {
		which = "id = @only"
	}
	var ids []string
	err := s.db.WithContext(ctx).Raw("SELECT id FROM machines WHERE "+which+" AND "+where+" LIMIT @most",
		map[string]any{"only": only, "now": ms(now), "most": most, "rules": care.Rules}).Scan(&ids).Error
	return ids, err
}

// KeepStandings keeps what the tasks of a machine have come to.
func (s *Store) KeepStandings(ctx context.Context, machineID string, k Kept) error {
	db := s.db.WithContext(ctx)
	if err := db.Where("machine_id = ?", machineID).Delete(&standingRow{}).Error; err != nil {
		return err
	}
	rows := make([]standingRow, len(k.List))
	for i, x := range k.List {
		rows[i] = keepStanding(machineID, i, x)
	}
	if len(rows) > 0 {
		if err := db.Create(&rows).Error; err != nil {
			return err
		}
	}
	return db.Exec("UPDATE machines SET stale = 0, worked_ms = ?, until_ms = ?, says = ?, rules = ? WHERE id = ?",
		ms(k.Worked), ms(k.Until), k.Says, care.Rules, machineID).Error
}

// Standings gives what is kept of the machines in use, or those archived, or of one.
func (s *Store) Standings(ctx context.Context, only string) (map[string]Kept, error) {
	out := map[string]Kept{}
	var of []machineRow
	db := s.db.WithContext(ctx)
	if err := db.Raw("SELECT id, worked_ms, until_ms, says FROM machines WHERE @only = '' OR id = @only",
		map[string]any{"only": only}).Scan(&of).Error; err != nil {
		return nil, err
	}
	for _, m := range of {
		out[m.ID] = Kept{Worked: at(m.WorkedMs), Until: at(m.UntilMs), Says: m.Says}
	}
	// read row by row: a list of ten thousand machines is asked for at once
	rows, err := db.Raw("SELECT machine_id, task, part, state, title, flags, last_ms, earliest_ms, likely_ms, latest_ms, "+
		"clock, used, most, unit, why FROM standings WHERE @only = '' OR machine_id = @only ORDER BY machine_id, seq",
		map[string]any{"only": only}).Rows()
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var r standingRow
	for rows.Next() {
		if err := rows.Scan(&r.MachineID, &r.Task, &r.Part, &r.State, &r.Title, &r.Flags, &r.LastMs, &r.EarliestMs,
			&r.LikelyMs, &r.LatestMs, &r.Clock, &r.Used, &r.Most, &r.Unit, &r.Why); err != nil {
			return nil, err
		}
		k := out[r.MachineID]
		k.List = append(k.List, r.standing())
		out[r.MachineID] = k
	}
	return out, rows.Err()
}

// Moved is a date that an update of the application moved.
type Moved struct {
	Task    task.ID
	Part    machine.Part
	Was, Is time.Time
}

type movedRow struct {
	MachineID string
	Task      task.ID
	Part      string
	WasMs     int64
	IsMs      int64
	SeenMs    *int64
}

func (movedRow) TableName() string { return "moved" }

// KeepMoved keeps dates that were moved, until somebody has seen them.
func (s *Store) KeepMoved(ctx context.Context, machineID string, list []Moved) error {
	for _, m := range list {
		row := movedRow{MachineID: machineID, Task: m.Task, Part: m.Part.String(), WasMs: ms(m.Was), IsMs: ms(m.Is)}
		if err := s.db.WithContext(ctx).Create(&row).Error; err != nil {
			return err
		}
	}
	return nil
}

// MovedOf lists the moved dates of a machine that nobody has seen yet.
func (s *Store) MovedOf(ctx context.Context, machineID string) ([]Moved, error) {
	var rows []movedRow
	err := s.db.WithContext(ctx).Order("task, part").Find(&rows, "machine_id = ? AND seen_ms IS NULL", machineID).Error
	list := make([]Moved, len(rows))
	for i, r := range rows {
		list[i] = Moved{r.Task, part(r.Part), at(r.WasMs), at(r.IsMs)}
	}
	return list, err
}

// SeeMoved notes that somebody has seen the moved dates of a machine.
func (s *Store) SeeMoved(ctx context.Context, machineID string, now time.Time) error {
	return s.db.WithContext(ctx).Model(&movedRow{}).Where("machine_id = ? AND seen_ms IS NULL", machineID).
		Update("seen_ms", ms(now)).Error
}
