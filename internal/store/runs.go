package store

import (
	"context"
	"errors"
	"fmt"
	"sync"
	"time"

	"gorm.io/gorm"

	"freshanvil/core/job"
	"freshanvil/core/run"
)

// Run is a run with everything its state follows from; an ended one is what was
// written down of it.
type Run struct {
	ID       string
	Machines []string // the first leads
	Device   string
	Speed    int
	Practice bool // played without a machine: nothing follows from it
	Plan     job.Plan
	Started  time.Time
	Presses  []run.Press
	Ended    *Ended
	// Unreadable says why an open run cannot be carried on; nil where it can. It is
	// ended by name.
	Unreadable error
	mark       mark // the last instant that its own clock is known for
}

// MachineID is the machine that leads.
func (r Run) MachineID() string { return r.Machines[0] }

// At is the state of the run at an instant of its own clock.
func (r Run) At(now time.Time) run.State {
	return run.Fold(r.Plan, r.Started, r.Speed, r.Presses, now)
}

type (
	runRow struct {
		ID          string
		Device      string
		Speed       int
		Practice    bool
		PlanVersion int
		Plan        string
		StartedMs   int64
		EndedMs     *int64
		Outcome     *string
		Record      string
	}
	runMachineRow struct {
		RunID     string
		MachineID string
		Seq       int
		Open      bool
	}
)

func (runRow) TableName() string        { return "runs" }
func (runMachineRow) TableName() string { return "run_machines" }

// plans are those of the runs last asked for: a plan is frozen, so it is decoded once.
type plans struct {
	mu   sync.Mutex
	made map[string]job.Plan
}

// mostPlans bounds what is kept.
const mostPlans = 256

func (p *plans) of(row runRow) (job.Plan, error) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if plan, known := p.made[row.ID]; known {
		return plan, nil
	}
	plan, err := readPlan(row.Plan)
	if err != nil {
		return plan, fmt.Errorf("the plan of run %s: %w", row.ID, err)
	}
	if p.made == nil {
		p.made = map[string]job.Plan{}
	}
	for id := range p.made { // any one makes room: were all dropped, many runs would be read again and again
		if len(p.made) < mostPlans {
			break
		}
		delete(p.made, id)
	}
	p.made[row.ID] = plan
	return plan, nil
}

// StartRun keeps a new run. Another open run on one of its machines is ErrConflict.
func (s *Store) StartRun(ctx context.Context, r Run) error {
	plan, err := keepPlan(r.Plan)
	if err != nil {
		return err
	}
	db := s.db.WithContext(ctx)
	var open int64
	if err := db.Model(&runMachineRow{}).Where("open = 1 AND machine_id IN ?", r.Machines).Count(&open).Error; err != nil {
		return err
	}
	if open > 0 && !r.Practice {
		return fmt.Errorf("another run is open on this machine: %w", ErrConflict)
	}
	row := runRow{ID: r.ID, Device: r.Device, Speed: r.Speed, Practice: r.Practice, PlanVersion: planVersion,
		Plan: plan, StartedMs: ms(r.Started)}
	err = db.Create(&row).Error
	for i, id := range r.Machines {
		if err == nil {
			err = db.Create(&runMachineRow{RunID: r.ID, MachineID: id, Seq: i, Open: !r.Practice}).Error
		}
	}
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
	var row runRow
	if err := db.Take(&row, "id = ?", id).Error; errors.Is(err, gorm.ErrRecordNotFound) {
		return Run{}, fmt.Errorf("run %s: %w", id, ErrNotFound)
	} else if err != nil {
		return Run{}, err
	}
	var of []runMachineRow
	if err := db.Order("seq").Find(&of, "run_id = ?", id).Error; err != nil {
		return Run{}, err
	}
	r, err := s.bare(row, of)
	if err != nil || r.Ended != nil || r.Unreadable != nil {
		return r, err
	}
	return r, loadPresses(db, &r)
}

// bare is a run without its presses.
func (s *Store) bare(row runRow, of []runMachineRow) (Run, error) {
	r := Run{ID: row.ID, Device: row.Device, Speed: row.Speed, Practice: row.Practice, Started: at(row.StartedMs)}
	r.mark = mark{wall: r.Started, run: r.Started}
	for _, m := range of {
		r.Machines = append(r.Machines, m.MachineID)
	}
	if len(r.Machines) == 0 {
		return r, fmt.Errorf("run %s is of no machine", row.ID)
	}
	if row.EndedMs != nil {
		ended, err := readEnded(row.Record)
		if err != nil {
			return r, fmt.Errorf("the record of run %s: %w", row.ID, err)
		}
		r.Ended = &ended
		return r, nil
	}
	r.Plan, r.Unreadable = s.plans.of(row)
	return r, nil
}

// OpenRuns lists the runs that go on, practice left out, without their presses: all of them, or those on some machines.
func (s *Store) OpenRuns(ctx context.Context, machines ...string) ([]Run, error) {
	db := s.db.WithContext(ctx)
	var rows []runRow
	on, ids := "ended_ms IS NULL AND practice = 0", []any{}
	if len(machines) > 0 { // a plan is large: none is read that is not asked for
		on += " AND id IN (SELECT run_id FROM run_machines WHERE open = 1 AND machine_id IN ?)"
		ids = append(ids, machines)
	}
	if err := db.Find(&rows, append([]any{on}, ids...)...).Error; err != nil || len(rows) == 0 {
		return nil, err
	}
	var of []runMachineRow
	if err := db.Order("seq").Find(&of, "open = 1").Error; err != nil {
		return nil, err
	}
	own := map[string][]runMachineRow{}
	for _, m := range of {
		own[m.RunID] = append(own[m.RunID], m)
	}
	list := make([]Run, len(rows))
	for i, row := range rows {
		var err error
		if list[i], err = s.bare(row, own[row.ID]); err != nil {
			return nil, err
		}
	}
	return list, nil
}

// EndRun writes down that a run is over, and what it came to.
func (s *Store) EndRun(ctx context.Context, id string, e Ended) error {
	record, err := keepEnded(e)
	if err != nil {
		return err
	}
	db := s.db.WithContext(ctx)
	set := map[string]any{"ended_ms": ms(e.At), "outcome": string(e.Outcome), "record": record}
	if err := db.Model(&runRow{}).Where("id = ?", id).Updates(set).Error; err != nil {
		return err
	}
	return db.Model(&runMachineRow{}).Where("run_id = ?", id).Update("open", false).Error
}
