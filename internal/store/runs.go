package store

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"sync"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"

	"freshanvil/core/care"
	"freshanvil/core/job"
	"freshanvil/core/machine"
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
const mostPlans = 64

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
	if p.made == nil || len(p.made) >= mostPlans {
		p.made = map[string]job.Plan{}
	}
	p.made[row.ID] = plan
	return plan, nil
}

// StartRun keeps a new run. The same id again changes nothing; another open
// run on one of its machines is ErrConflict.
func (s *Store) StartRun(ctx context.Context, r Run) error {
	plan, err := keepPlan(r.Plan)
	if err != nil {
		return err
	}
	err = s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var there int64
		if err := tx.Model(&runRow{}).Where("id = ?", r.ID).Count(&there).Error; err != nil || there > 0 {
			return err
		}
		row := runRow{ID: r.ID, Device: r.Device, Speed: r.Speed, Practice: r.Practice, PlanVersion: planVersion,
			Plan: plan, StartedMs: ms(r.Started)}
		if err := tx.Create(&row).Error; err != nil {
			return err
		}
		for i, id := range r.Machines {
			of := runMachineRow{RunID: r.ID, MachineID: id, Seq: i, Open: !r.Practice}
			if err := tx.Create(&of).Error; err != nil {
				return err
			}
		}
		return nil
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

// OpenRuns lists the runs that go on, practice left out, without their presses.
func (s *Store) OpenRuns(ctx context.Context) ([]Run, error) {
	db := s.db.WithContext(ctx)
	var rows []runRow
	if err := db.Find(&rows, "ended_ms IS NULL AND practice = 0").Error; err != nil || len(rows) == 0 {
		return nil, err
	}
	var of []runMachineRow
	if err := db.Order("seq").Find(&of, "open = 1").Error; err != nil {
		return nil, err
	}
	list := make([]Run, len(rows))
	for i, row := range rows {
		own := slices.DeleteFunc(slices.Clone(of), func(m runMachineRow) bool { return m.RunID != row.ID })
		var err error
		if list[i], err = s.bare(row, own); err != nil {
			return nil, err
		}
	}
	return list, nil
}

// derived is an id that follows from a run's own and from what it is for: ids of
// different things never meet.
func derived(run string, what ...any) string {
	return uuid.NewSHA1(uuid.NameSpaceOID, fmt.Append([]byte(run+" "), what...)).String()
}

// end writes down that a run is over.
func end(tx *gorm.DB, id string, e Ended) error {
	record, err := keepEnded(e)
	if err != nil {
		return err
	}
	set := map[string]any{"ended_ms": ms(e.At), "outcome": string(e.Outcome), "record": record}
	if err := tx.Model(&runRow{}).Where("id = ?", id).Updates(set).Error; err != nil {
		return err
	}
	return tx.Model(&runMachineRow{}).Where("run_id = ?", id).Update("open", false).Error
}

// follow writes down what a press led to: what is in which part, and, where the run
// has ended, what it came to, activity by activity. Wall is the time on the wall.
func follow(tx *gorm.DB, r Run, after run.State, wall time.Time) error {
	if !r.Practice {
		if err := followHazards(tx, r, after, wall); err != nil {
			return err
		}
	}
	if after.Outcome == "" {
		return nil
	}
	e := endOf(r, after)
	if e.At.After(wall) {
		e.At = wall // the clock was set back meanwhile: no record lies ahead
	}
	if err := end(tx, r.ID, e); err != nil || r.Practice {
		return err
	}
	for _, a := range after.Activities {
		if err := writeDown(tx, r, a, after, e.At); err != nil {
			return err
		}
	}
	return learn(tx, r, after, e.At)
}

// writeDown puts on record what an activity came to.
func writeDown(tx *gorm.DB, r Run, a run.Activity, after run.State, at time.Time) error {
	of := r.Machines[r.Plan.Activity(a.ID).Setup]
	row := careRow{ID: derived(r.ID, "care", a.ID), MachineID: of, Part: a.Part.String(), Task: a.Task, AtMs: ms(at),
		Outcome: string(a.Outcome), Title: a.Title, RunID: &r.ID}
	row.Record.Minutes = max(0, at.Sub(r.Started).Minutes()*float64(r.Speed))
	if a.Task == care.Descale || a.Task == care.AcidRinse {
		row.Record.Note = after.Report(r.Plan)
	}
	for _, g := range after.Groups {
		if g.Part == a.Part {
			if err := writeDownGroup(tx, r, g, of, at, &row.Record); err != nil {
				return err
			}
		}
	}
	if a.Drawn > 0 {
		e := care.UseEvent{ID: derived(r.ID, "drawn", a.ID), Part: a.Part, Kind: care.RunWater, Count: float64(a.Drawn),
			From: r.Started, To: at}
		if e.From.After(at) {
			e.From = at
		}
		if err := addUse(tx, of, "run", "", e); err != nil {
			return err
		}
	}
	return tx.Create(&row).Error
}

// writeDownGroup counts the water of a group as use, and puts what was done to it into
// its record.
func writeDownGroup(tx *gorm.DB, r Run, g run.Group, of string, at time.Time, record *Record) error {
	wash := r.Plan.WashOf(g.Part)
	if used := g.Through.Volume(r.Plan.Of(*activityOf(r.Plan, g.Part)).Vents); used > 0 {
		e := care.UseEvent{ID: derived(r.ID, "water", g.Part), Part: g.Part, Kind: care.RunWater, Count: float64(used),
			From: r.Started, To: at}
		if e.From.After(at) {
			e.From = at
		}
		if err := addUse(tx, of, "run", "", e); err != nil {
			return err
		}
	}
	record.Method, record.Soapy, record.Rinsed = wash.Method, g.Soapy, g.Detergent.Rinsed
	record.Cups, record.First, record.Gone = g.Cups, g.First, wash.Gone
	if g.Detergent.Ever {
		record.Dose = wash.Dose
	}
	return nil
}

// activityOf is the activity that washes a group.
func activityOf(p job.Plan, part machine.Part) *job.Activity {
	for i := range p.Activities {
		if p.Activities[i].Wash != nil && p.Activities[i].Part == part {
			return &p.Activities[i]
		}
	}
	return &p.Activities[0]
}

// learn lets the spent solution of a descale that is done move the share of the
// scale that stays.
func learn(tx *gorm.DB, r Run, after run.State, at time.Time) error {
	spent, any := after.Spent(r.Plan)
	if !any || after.In() || after.Outcome == run.StoppedUnsafe {
		return nil
	}
	a := r.Plan.Descaling()
	if to, teaches := spent.Teaches(a.Descale.Share, a.Descale.Predicted()); teaches {
		share := Share{ID: derived(r.ID, "spent"), At: at, Share: to.Value, Worked: to, Spent: spent}
		return addShare(tx, r.Machines[a.Setup], share)
	}
	return nil
}

// Void ends a run on somebody's word, whatever state it is in and whether or not its
// plan can still be read. What it put into the machine stays on record as inside. A
// run that has ended is left as it is.
func (s *Store) Void(ctx context.Context, id, name, why string, now time.Time) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		r, err := s.loadRun(tx, id)
		if err != nil || r.Ended != nil {
			return err
		}
		note := "Ended by " + name + ": " + why
		e, err := abandoned(tx, r, note, now)
		if err != nil {
			return err
		}
		return end(tx, id, e)
	})
}

// abandoned is how a run ends that is carried on no more: what it left inside stays on
// record, and its machines are told so in the log.
func abandoned(tx *gorm.DB, r Run, note string, now time.Time) (Ended, error) {
	e := Ended{Outcome: run.Stopped, At: now, Task: care.Wash, Title: "A run that was not carried on",
		Where: "the machine", Note: note}
	if r.Unreadable == nil && len(r.Plan.Activities) > 0 {
		lead := r.Plan.Leads()
		e.Task, e.Title, e.Where = lead.Task, lead.Title, r.Plan.Where()
	}
	if r.Practice {
		return e, nil
	}
	all, err := openHazards(tx)
	if err != nil {
		return e, err
	}
	for i, machineID := range r.Machines {
		in := Contents(all, machineID)
		outcome := run.Stopped
		if in.Any() || len(in.Blind) > 0 {
			outcome, e.Outcome = run.StoppedUnsafe, run.StoppedUnsafe
		}
		for _, part := range in.Detergent {
			e.Groups = append(e.Groups, EndedGroup{Part: part, Task: care.Wash, In: true})
		}
		row := careRow{ID: derived(r.ID, "void", i), MachineID: machineID, Part: machine.Part{}.String(), Task: e.Task,
			AtMs: ms(now), Outcome: string(outcome), Title: e.Title, RunID: &r.ID, Record: Record{Note: note}}
		if err := tx.Create(&row).Error; err != nil {
			return e, err
		}
	}
	return e, nil
}
