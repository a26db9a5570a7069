package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"sync"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/job"
	"freshanvil/core/run"
)

// Run is a run with everything its state follows from.
type Run struct {
	ID, MachineID, Device string
	Speed                 int
	Practice              bool // played without a machine: nothing follows from it
	Plan                  job.Plan
	Started               time.Time
	Presses               []run.Press
}

// At is the state of the run at an instant.
func (r Run) At(now time.Time) run.State {
	return run.Fold(r.Plan, r.Started, r.Speed, r.Presses, now)
}

type (
	runRow struct {
		ID        string
		MachineID string
		GroupNo   int
		Device    string
		Speed     int
		Practice  bool
		Plan      job.Plan `gorm:"serializer:json"`
		StartedMs int64
		EndedMs   *int64
		Outcome   *string
	}
	// keptRow is a run as it is read: its plan is frozen, so it is decoded once.
	keptRow struct {
		ID        string
		MachineID string
		Device    string
		Speed     int
		Practice  bool
		Plan      string
		StartedMs int64
	}
	pressRow struct {
		ID         string
		RunID      string
		Seq        int
		AtMs       int64
		ReceivedMs int64
		Body       run.Press `gorm:"serializer:json"`
	}
	hazardRow struct {
		ID        int64
		MachineID string
		GroupNo   int
		Circuit   string
		Chemical  string
		RunID     string
		SinceMs   int64
		ClearedMs *int64
		ClearedBy *string
	}
	careRow struct {
		ID        string
		MachineID string
		GroupNo   int
		Task      care.Task
		AtMs      int64
		Outcome   string
		Title     string
		RunID     *string
		Record    Record `gorm:"serializer:json"`
	}
)

func (runRow) TableName() string    { return "runs" }
func (keptRow) TableName() string   { return "runs" }
func (pressRow) TableName() string  { return "presses" }
func (hazardRow) TableName() string { return "hazards" }
func (careRow) TableName() string   { return "care_log" }

// plans are those of the runs last asked for.
type plans struct {
	mu   sync.Mutex
	made map[string]job.Plan
}

// mostPlans bounds what is kept.
const mostPlans = 64

func (p *plans) of(row keptRow) (job.Plan, error) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if plan, known := p.made[row.ID]; known {
		return plan, nil
	}
	var plan job.Plan
	if err := json.Unmarshal([]byte(row.Plan), &plan); err != nil {
		return plan, fmt.Errorf("the plan of run %s: %w", row.ID, err)
	}
	if p.made == nil || len(p.made) >= mostPlans {
		p.made = map[string]job.Plan{}
	}
	p.made[row.ID] = plan
	return plan, nil
}

// Record is what a run came to, as it is written down.
type Record struct {
	Method  backflush.MethodID `json:"method,omitempty"`
	Dose    *backflush.Dose    `json:"dose,omitempty"`
	Soapy   int                `json:"soapy,omitempty"`
	Rinsed  int                `json:"rinsed,omitempty"`
	Cups    []backflush.Cup    `json:"cups,omitempty"`
	First   backflush.Colour   `json:"first,omitempty"`   // of the first discharge
	Gone    float64            `json:"gone,omitempty"`    // share of the interval
	Minutes float64            `json:"minutes,omitempty"` // run time
	Note    string             `json:"note,omitempty"`
}

// Hazard is a chemical in a part of a machine: detergent in a group, acid in a
// circuit of group 0.
type Hazard struct {
	MachineID string
	Group     int
	Circuit   string // its id
	Chemical  string
	RunID     string
	Since     time.Time
}

// StartRun keeps a new run. The same id again changes nothing; another open
// run on the machine is ErrConflict.
func (s *Store) StartRun(ctx context.Context, r Run) error {
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var there int64
		if err := tx.Model(&runRow{}).Where("id = ?", r.ID).Count(&there).Error; err != nil || there > 0 {
			return err
		}
		return tx.Create(
			&runRow{
				ID:        r.ID,
				MachineID: r.MachineID,
				GroupNo:   r.Plan.Parts[0].Group,
				Device:    r.Device,
				Speed:     r.Speed,
				Practice:  r.Practice,
				Plan:      r.Plan,
				StartedMs: ms(r.Started),
			},
		).Error
	})
	if duplicate(err) {
		return fmt.Errorf("another run is open on this machine: %w", ErrConflict)
	}
	return err
}

// Run finds one run; ErrNotFound where it is not there.
func (s *Store) Run(ctx context.Context, id string) (Run, error) {
	return s.loadRun(s.db.WithContext(ctx), id)
}

func (s *Store) loadRun(db *gorm.DB, id string) (Run, error) {
	var row keptRow
	if err := db.Take(&row, "id = ?", id).Error; errors.Is(err, gorm.ErrRecordNotFound) {
		return Run{}, fmt.Errorf("run %s: %w", id, ErrNotFound)
	} else if err != nil {
		return Run{}, err
	}
	plan, err := s.plans.of(row)
	if err != nil {
		return Run{}, err
	}
	var presses []pressRow
	if err := db.Order("seq").Find(&presses, "run_id = ?", id).Error; err != nil {
		return Run{}, err
	}
	r := Run{
		ID:        row.ID,
		MachineID: row.MachineID,
		Device:    row.Device,
		Speed:     row.Speed,
		Practice:  row.Practice,
		Plan:      plan,
		Started:   at(row.StartedMs),
		Presses:   make([]run.Press, len(presses)),
	}
	for i, p := range presses {
		r.Presses[i] = p.Body
		r.Presses[i].At = at(p.AtMs)
	}
	return r, nil
}

// OpenRuns lists the runs that go on, practice left out.
func (s *Store) OpenRuns(ctx context.Context) ([]Run, error) {
	var rows []keptRow
	err := s.db.WithContext(ctx).Find(&rows, "ended_ms IS NULL AND practice = 0").Error
	list := make([]Run, len(rows))
	for i, r := range rows {
		plan, err := s.plans.of(r)
		if err != nil {
			return nil, err
		}
		list[i] = Run{ID: r.ID, MachineID: r.MachineID, Plan: plan, Started: at(r.StartedMs), Speed: r.Speed}
	}
	return list, err
}

// Hazards lists what is in which part now, oldest first.
func (s *Store) Hazards(ctx context.Context) ([]Hazard, error) {
	var rows []hazardRow
	err := s.db.WithContext(ctx).Order("since_ms").Find(&rows, "cleared_ms IS NULL").Error
	list := make([]Hazard, len(rows))
	for i, r := range rows {
		list[i] = Hazard{
			MachineID: r.MachineID,
			Group:     r.GroupNo,
			Circuit:   r.Circuit,
			Chemical:  r.Chemical,
			RunID:     r.RunID,
			Since:     at(r.SinceMs),
		}
	}
	return list, err
}

// Accept takes one press into the log of a run and writes down what follows:
// detergent in or out of the group, the end, the log entry, the water used.
// A press that is there already changes nothing. The instant claimed is kept
// between the last press and now.
func (s *Store) Accept(ctx context.Context, runID string, p run.Press, now time.Time) (Run, error) {
	var r Run
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var err error
		if r, err = s.loadRun(tx, runID); err != nil {
			return err
		}
		floor := r.Started
		for _, q := range r.Presses {
			if q.ID == p.ID {
				return nil
			}
			floor = q.At
		}
		before := r.At(now)
		if before.Outcome != "" {
			return nil // it has ended: nothing can be pressed any more
		}
		p.At = clamp(p.At, floor, now)
		row := pressRow{ID: p.ID, RunID: runID, Seq: len(r.Presses) + 1, AtMs: ms(p.At), ReceivedMs: ms(now), Body: p}
		if err := tx.Create(&row).Error; err != nil {
			return err
		}
		r.Presses = append(r.Presses, p)
		return follow(tx, r, r.At(now), now)
	})
	return r, err
}

func clamp(t, low, high time.Time) time.Time {
	t = at(ms(t)) // stored to the millisecond; fold on what is stored
	if t.Before(low) {
		return low
	}
	if t.After(high) {
		return high
	}
	return t
}

// The chemicals.
const (
	Detergent = "detergent"
	Acid      = "acid"
)

// Inside is what is in a machine, by the hazards on record.
func Inside(list []Hazard, machineID string) (in job.Inside) {
	for _, h := range list {
		switch {
		case h.MachineID != machineID:
		case h.Chemical == Acid:
			in.Acid = append(in.Acid, h.Circuit)
		default:
			in.Detergent = append(in.Detergent, h.Group)
		}
	}
	return in
}

// follow writes down what a press led to, group by group.
func follow(tx *gorm.DB, r Run, after run.State, now time.Time) error {
	if !r.Practice {
		for _, g := range after.Groups {
			if err := followHazard(tx, r, hazardRow{GroupNo: g.Number, Chemical: Detergent}, g.Detergent.In, g.Detergent.Ever,
				now); err != nil {
				return err
			}
		}
		for _, a := range after.Acids {
			if err := followHazard(tx, r, hazardRow{Circuit: a.ID, Chemical: Acid}, a.In, a.Ever, now); err != nil {
				return err
			}
		}
	}
	if after.Outcome == "" {
		return nil
	}
	if err := tx.Model(&runRow{}).Where("id = ?",
		r.ID).Updates(map[string]any{"ended_ms": ms(after.EndedAt), "outcome": string(after.Outcome)}).Error; err != nil ||
		r.Practice {
		return err
	}
	for i, g := range after.Groups {
		if err := writeDown(tx, r, i, g, after); err != nil {
			return err
		}
	}
	for _, e := range after.Errands {
		row := careRow{
			ID:        derived(r.ID, string(e.Task)),
			MachineID: r.MachineID,
			GroupNo:   1,
			Task:      e.Task,
			AtMs:      ms(after.EndedAt),
			Outcome:   string(e.Outcome),
			Title:     e.Title,
			RunID:     &r.ID,
		}
		if row.Record.Minutes = after.EndedAt.Sub(r.Started).Minutes() * float64(r.Speed); e.Task == care.Descale {
			row.Record.Note = after.Says(r.Plan)
		}
		if err := tx.Create(&row).Error; err != nil {
			return err
		}
	}
	return learn(tx, r, after)
}

// learn lets the spent solution of a descale that is done move the share of the
// scale that stays.
func learn(tx *gorm.DB, r Run, after run.State) error {
	spent, any := after.Spent(r.Plan)
	if !any || after.In() || after.Outcome == run.StoppedUnsafe {
		return nil
	}
	if to, teaches := spent.Teaches(r.Plan.Acid.Share, r.Plan.Acid.Predicted()); teaches {
		return addShare(
			tx,
			r.MachineID,
			Share{ID: derived(r.ID, "spent"), At: after.EndedAt, Share: to.Value, Worked: to, Spent: spent},
		)
	}
	return nil
}

// derived is an id that follows from a run's own.
func derived(run string, what any) string {
	return uuid.NewSHA1(uuid.NameSpaceOID, fmt.Append(nil, run, what)).String()
}

// followHazard opens or clears the hazard of one part, which h names.
func followHazard(tx *gorm.DB, r Run, h hazardRow, in, ever bool, now time.Time) error {
	open := tx.Model(&hazardRow{}).
		Where("machine_id = ? AND group_no = ? AND circuit = ? AND chemical = ? AND cleared_ms IS NULL", r.MachineID,
			h.GroupNo, h.Circuit, h.Chemical)
	switch {
	case in:
		var there int64
		if err := open.Count(&there).Error; err != nil || there > 0 {
			return err
		}
		h.MachineID, h.RunID, h.SinceMs = r.MachineID, r.ID, ms(now)
		return tx.Create(&h).Error
	case ever:
		return open.Updates(map[string]any{"cleared_ms": ms(now), "cleared_by": "rinse " + r.ID}).Error
	}
	return nil
}

// writeDown puts on record what a run that has ended came to in one group. The
// first group's entry has the run's own id, the others one that follows from it.
func writeDown(tx *gorm.DB, r Run, i int, g run.Group, after run.State) error {
	id, ended := r.ID, after.EndedAt
	if i > 0 {
		id = derived(r.ID, g.Number)
	}
	if used := g.Through.Volume(r.Plan.Vents); used > 0 {
		e := care.UseEvent{
			ID:    id,
			Group: g.Number,
			Kind:  care.RunWater,
			Count: float64(used),
			From:  r.Started,
			To:    ended,
		}
		if err := addUse(tx, r.MachineID, "run", "", e); err != nil {
			return err
		}
	}
	part := r.Plan.Part(g.Number)
	record := Record{
		Method:  part.Method,
		Dose:    part.Dose,
		Soapy:   g.Soapy,
		Rinsed:  g.Detergent.Rinsed,
		Cups:    g.Cups,
		First:   g.First,
		Gone:    part.Gone,
		Minutes: ended.Sub(r.Started).Minutes() * float64(r.Speed),
	}
	if !g.Detergent.Ever {
		record.Dose = nil // none went in
	}
	if part.Task == care.Descale || part.Task == care.AcidRinse {
		record.Note = after.Says(r.Plan)
	}
	return tx.Create(
		&careRow{
			ID:        id,
			MachineID: r.MachineID,
			GroupNo:   g.Number,
			Task:      part.Task,
			AtMs:      ms(ended),
			Outcome:   string(g.Outcome()),
			Title:     part.Title,
			RunID:     &r.ID,
			Record:    record,
		},
	).Error
}

// Entry is one line of the log.
type Entry struct {
	ID, MachineID, Outcome, Title, RunID string
	Task                                 care.Task
	Group                                int
	At                                   time.Time
	Record                               Record
}

// Recorded is the outcome of care put on record without a run.
const Recorded = "recorded"

// AddCare puts care on record that was done without a run. The same id again
// changes nothing.
func (s *Store) AddCare(ctx context.Context, id, machineID string, task care.Task, group int, done time.Time) error {
	err := s.db.WithContext(ctx).
		Create(&careRow{ID: id, MachineID: machineID, GroupNo: group, Task: task, AtMs: ms(done), Outcome: Recorded,
			Title: task.Title()}).
		Error
	if duplicate(err) {
		return nil
	}
	return err
}

// AddSmall puts small tasks of the day on record, all or none. The same again
// changes nothing.
func (s *Store) AddSmall(ctx context.Context, id, machineID string, tasks []care.Task, done time.Time) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		for _, task := range tasks {
			err := tx.Create(
				&careRow{
					ID:        uuid.NewSHA1(uuid.NameSpaceOID, []byte(id+string(task))).String(),
					MachineID: machineID,
					GroupNo:   1,
					Task:      task,
					AtMs:      ms(done),
					Outcome:   Recorded,
					Title:     task.Title(),
				},
			).Error
			if err != nil && !duplicate(err) {
				return err
			}
		}
		return nil
	})
}

// Log lists what was done, newest first, of one machine or of all; the small
// tasks of the day only if asked for.
func (s *Store) Log(ctx context.Context, machineID string, small bool, limit int) ([]Entry, error) {
	q := s.db.WithContext(ctx).Order("at_ms DESC, id DESC").Limit(limit)
	if !small {
		q = q.Where(
			"NOT (outcome = ? AND task IN ('water_backflush', 'brush', 'tray', 'waste', 'tank_water'))",
			Recorded,
		)
	}
	if machineID != "" {
		q = q.Where("machine_id = ?", machineID)
	}
	var rows []careRow
	err := q.Find(&rows).Error
	return entries(rows), err
}

func entries(rows []careRow) []Entry {
	list := make([]Entry, len(rows))
	for i, r := range rows {
		list[i] = Entry{
			ID:        r.ID,
			MachineID: r.MachineID,
			Outcome:   r.Outcome,
			Title:     r.Title,
			Task:      r.Task,
			Group:     r.GroupNo,
			At:        at(r.AtMs),
			Record:    r.Record,
		}
		if r.RunID != nil {
			list[i].RunID = *r.RunID
		}
	}
	return list
}

// SignedOff is the outcome of a technician's word.
const SignedOff = "signed_off"

// Noted is the outcome of something that is only said, and moves no date.
const Noted = "noted"

// Note puts a note on record. The same id again changes nothing.
func (s *Store) Note(
	ctx context.Context,
	id, machineID string,
	task care.Task,
	title, text string,
	now time.Time,
) error {
	err := s.db.WithContext(ctx).
		Create(&careRow{ID: id, MachineID: machineID, GroupNo: 1, Task: task, AtMs: ms(now), Outcome: Noted, Title: title,
			Record: Record{Note: text}}).
		Error
	if duplicate(err) {
		return nil
	}
	return err
}

// SignOff clears the hazard of a group, or of the circuits of a machine (group 0), on a technician's word, which is
// written down. The same id again changes nothing; a group without a hazard,
// or with a run that goes on, is ErrConflict.
func (s *Store) SignOff(ctx context.Context, id, machineID string, group int, name, note string, now time.Time) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var there int64
		if err := tx.Model(&careRow{}).Where("id = ?", id).Count(&there).Error; err != nil || there > 0 {
			return err
		}
		var open []runRow
		if err := tx.Find(&open, "machine_id = ? AND ended_ms IS NULL AND practice = 0", machineID).Error; err != nil {
			return err
		}
		for _, r := range open {
			if slices.Contains(r.Plan.Groups(), group) || group == 0 && r.Plan.Acid != nil {
				return fmt.Errorf("a run goes on in group %d: %w", group, ErrConflict)
			}
		}
		cleared := tx.Model(&hazardRow{}).
			Where("machine_id = ? AND group_no = ? AND cleared_ms IS NULL", machineID, group).
			Updates(map[string]any{"cleared_ms": ms(now), "cleared_by": "sign-off: " + name})
		if cleared.Error != nil {
			return cleared.Error
		}
		if cleared.RowsAffected == 0 {
			return fmt.Errorf("nothing is in group %d: %w", group, ErrConflict)
		}
		task := care.Rinse
		if group == 0 {
			task = care.AcidRinse
		}
		return tx.Create(
			&careRow{
				ID:        id,
				MachineID: machineID,
				GroupNo:   max(1, group),
				Task:      task,
				AtMs:      ms(now),
				Outcome:   SignedOff,
				Title:     "Signed off by " + name,
				Record:    Record{Note: note},
			},
		).Error
	})
}
