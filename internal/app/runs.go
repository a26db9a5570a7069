package app

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/run"
	"freshanvil/core/sitting"
	"freshanvil/core/task"
	"freshanvil/core/units"
	"freshanvil/internal/store"
)

// Begun is a run as it is asked for.
type Begun struct {
	ID, MachineID, Device string
	Speed                 int // run seconds a wall second; 1 but in practice and in the demo
	Practice              bool
	Task                  task.ID
	Parts                 []machine.Part
	Method                backflush.MethodID // empty for the chosen one
	LockedIn              bool               // of a group to free: the handle
	Draws                 int                // of a draw-off; 0 for as many as usual
	Pulses                int                // of a water backflush; 0 for as many as the machine's habit asks for
	Entitled              string             // who records to be entitled to a task that is not anybody's
	With                  []job.Want         // further tasks of the same sitting
	How                   How                // a sitting is carried out
	Descale               Asked
}

// Startable are the tasks that a run may be asked for.
func Startable() []task.ID {
	return task.Where(func(r task.Row) bool {
		return r.Way == task.Led && !r.Leaves || r.Way == task.Planned || r.ID == task.Unblock || r.Leads
	})
}

// tries is how often a plan is made anew where what it was made from changed meanwhile.
const tries = 3

// StartRun plans what is to be done to a machine or its groups and begins it. Where detergent is
// in a group already, or acid in the machine, only its rinse is planned. None is led that the
// model of the machine does not clear, or whose machine was changed while it was planned.
func (a *App) StartRun(ctx context.Context, b Begun) error {
	if _, err := task.Parse("task", string(b.Task), Startable()); err != nil {
		return err
	}
	if err := b.checkParts(); err != nil {
		return err
	}
	for range tries {
		begun, err := a.tryStart(ctx, b)
		if begun || err != nil {
			return otherRequest(err, b.ID)
		}
	}
	return &Conflict{Code: "changed_meanwhile", Title: "The machine was changed meanwhile", Field: "machine_id",
		Value: b.MachineID, Allowed: "a machine that nobody else is changing: try again"}
}

// tryStart plans on what stands now, and begins it only if that still stands. It reports false
// where it does not.
func (a *App) tryStart(ctx context.Context, b Begun) (bool, error) {
	now := a.now()
	m, err := inUse(ctx, a.store, b.MachineID)
	if err != nil {
		return false, err
	}
	if again, err := a.startedBefore(ctx, b); again || err != nil {
		return again, err
	}
	in, err := inside(ctx, a.store, m.ID)
	if err != nil {
		return false, err
	}
	planned := in
	if b.Practice {
		planned = job.Contents{}
	}
	if err := planned.MayBeUsed(); err != nil {
		return false, err
	}
	if err := a.mayRun(ctx, m, b, planned, now); err != nil {
		return false, err
	}
	plan, err := a.plan(ctx, m, b, planned, now)
	if err == nil {
		_, err = a.Cleared(plan)
	}
	if err != nil {
		return false, err
	}
	r := store.Run{ID: b.ID, Machines: []string{m.ID}, Device: b.Device, Speed: b.Speed, Practice: b.Practice, Plan: plan,
		Started: now}
	begun := false
	err = a.store.Write(ctx, func(tx *store.Store) error {
		again, err := tx.Claim(ctx, b.ID, "run", b, now)
		if begun = again; err != nil || again {
			return err
		}
		still, err := inUse(ctx, tx, m.ID)
		if err != nil {
			return err
		}
		holds, err := inside(ctx, tx, m.ID)
		if err != nil {
			return err
		}
		if still.Version != m.Version || !same(holds, in) {
			return errMeanwhile
		}
		begun = true
		err = tx.StartRun(ctx, r)
		if errors.Is(err, store.ErrConflict) {
			return a.openAlready(ctx, tx, m)
		}
		return err
	})
	if errors.Is(err, errMeanwhile) {
		return false, nil
	}
	return begun, err
}

var errMeanwhile = errors.New("what a plan was made from has changed")

// startedBefore says whether the same request began a run already; an id of another is an error.
func (a *App) startedBefore(ctx context.Context, b Begun) (again bool, err error) {
	_, err = a.store.Run(ctx, b.ID)
	if errors.Is(err, store.ErrNotFound) {
		return false, nil
	}
	if err != nil {
		return false, err
	}
	err = a.store.Write(ctx, func(tx *store.Store) error {
		again, err = tx.Claim(ctx, b.ID, "run", b, a.now())
		if err == nil && !again { // of a time when ids were not kept
			return fmt.Errorf("id %s: %w", b.ID, store.ErrOther)
		}
		return err
	})
	return again, err
}

func same(a, b job.Contents) bool {
	return slices.Equal(a.Detergent, b.Detergent) && slices.Equal(a.Acid, b.Acid) && maps.Equal(a.Blind, b.Blind)
}

// inside is what is in a machine now.
func inside(ctx context.Context, tx *store.Store, machineID string) (job.Contents, error) {
	hazards, err := tx.Hazards(ctx)
	return store.Contents(hazards, machineID), err
}

// Inside is what is in a machine now.
func (a *App) Inside(ctx context.Context, machineID string) (job.Contents, error) {
	return inside(ctx, a.store, machineID)
}

func (a *App) openAlready(ctx context.Context, tx *store.Store, m store.Machine) error {
	c := &Conflict{Code: "run_open", Title: "A run is open on this machine", Detail: "Finish it or stop it first.",
		Field: "machine_id", Value: m.ID, Allowed: "to go on with the run that is open"}
	open, err := tx.OpenRuns(ctx, m.ID)
	if err != nil {
		return err
	}
	for _, r := range open {
		if slices.Contains(r.Machines, m.ID) {
			c.Allowed = "to go on with run " + r.ID
		}
	}
	return c
}

// checkParts refuses parts that a task is not of.
func (b Begun) checkParts() error {
	of := b.Task.Row().Of
	allowed, ok := "machine, alone, for "+string(b.Task), len(b.Parts) == 1 && b.Parts[0].IsWhole()
	if of == task.EachGroup {
		notAGroup := slices.ContainsFunc(b.Parts, func(p machine.Part) bool { return p.GroupNumber() == 0 })
		allowed, ok = "groups, such as group-1", len(b.Parts) > 0 && !notAGroup
		if b.Task == task.Unblock {
			allowed, ok = "one group, such as group-1", ok && len(b.Parts) == 1
		}
	}
	if !ok {
		return &units.OutOfRange{Field: "parts", Value: fmt.Sprint(b.Parts), Allowed: allowed}
	}
	return nil
}

// planners make the plan of a task.
var planners = map[task.ID]func(a *App, ctx context.Context, m store.Machine, b Begun, in job.Contents, now time.Time) (
	job.Plan, error){
	task.Wash: (*App).planWash, task.Unblock: (*App).planWash,
	task.FilterChange: (*App).planRenewal, task.Regenerate: (*App).planRenewal,
	task.Descale: (*App).planDescale, task.DrawOff: (*App).planDrawOff,
	task.LayUp: (*App).planStandDown, task.Visit: (*App).planStandDown, task.Return: (*App).planStandDown,
}

func (a *App) plan(ctx context.Context, m store.Machine, b Begun, in job.Contents, now time.Time) (job.Plan, error) {
	if len(b.With) > 0 || b.How.Cold {
		c, err := a.composed(ctx, m, append([]job.Want{{Task: b.Task, Parts: b.Parts}}, b.With...), b.How, in, now)
		return c.Plan, err
	}
	if job.Tends(b.Task) {
		return a.planCare(ctx, m, b, in, now)
	}
	return planners[b.Task](a, ctx, m, b, in, now)
}

// planCare plans the care of parts, by whoever may.
func (a *App) planCare(ctx context.Context, m store.Machine, b Begun, in job.Contents, now time.Time) (
	job.Plan, error,
) {
	row := b.Task.Row()
	by, err := units.Line("entitled", b.Entitled, false, longestName)
	if err != nil {
		return job.Plan{}, err
	}
	if row.Whose == task.Entitled && by == "" {
		return job.Plan{}, reason.Refuse(job.NotEntitled, "Only for whoever the maker or the trade names").
			Of("entitled", "nobody", "the name of who records to be entitled to it").
			Why(reason.Trade, "A mistake here lets a boiler run dry, overfill or leak under pressure.").
			Instead("A technician says his name and is led.", "Or put it on record when it was done, with who did it.")
	}
	text := in.Holds()
	if slices.Contains(row.Needs, task.NoChemical) && text != "" {
		return job.Plan{}, &Conflict{Code: string(job.ChemicalInside), Title: text, Field: "task", Value: string(b.Task),
			Allowed: "a machine without detergent or acid inside: rinse it first"}
	}
	for part := range in.Blind {
		if row.Of == task.EachGroup || b.Task == task.Soak {
			return job.Plan{}, &Conflict{Code: "under_pressure", Title: "A head may be under pressure", Field: "parts",
				Value: part.String(), Allowed: "groups that let their water out: free this one first"}
		}
	}
	powder, err := a.Detergent(ctx)
	if err != nil {
		return job.Plan{}, err
	}
	p, err := job.Tend(m.Answers, b.Task, powder, b.Parts...)
	if err != nil {
		return p, err
	}
	for i := range p.Activities {
		p.Activities[i].By = by
	}
	if b.Task == task.LookForScale {
		if p.Activities[0].Before, err = a.believedScale(ctx, m, now); err != nil {
			return p, err
		}
	}
	return p, nil
}

// believedScale is what is believed of a machine's scale before somebody looks; nil where nothing is known of
// its water.
func (a *App) believedScale(ctx context.Context, m store.Machine, now time.Time) (*job.Believed, error) {
	d, err := a.Scale(ctx, m, now)
	if err != nil || len(d.Places) == 0 || d.Due.State == care.Unrecorded {
		return nil, nil //nolint:nilerr // what is not known teaches nothing; the water page says why
	}
	share := d.History.ShareAt(now)
	if share == 0 {
		share = 1
	}
	lead := d.Places[d.Lead]
	return &job.Believed{Share: share, Grown: lead.Grown.Value / float64(lead.Surface.Limit)}, nil
}

func (a *App) planRenewal(ctx context.Context, m store.Machine, b Begun, in job.Contents, now time.Time) (
	job.Plan, error,
) {
	if err := in.MeetsFilter(); err != nil {
		return job.Plan{}, err
	}
	d, err := a.Drawing(ctx, m, now)
	if err != nil {
		return job.Plan{}, err
	}
	if id, any := job.Renews(d.Setting); !any || id != b.Task {
		return job.Plan{}, &units.OutOfRange{Field: "task", Value: string(b.Task),
			Allowed: "a machine behind a filter or a softener, and the task that renews it"}
	}
	return job.Renew(m.Answers, d.Setting, now)
}

func (a *App) planDrawOff(_ context.Context, m store.Machine, b Begun, in job.Contents, _ time.Time) (job.Plan, error) {
	if text := in.Holds(); text != "" {
		return job.Plan{}, &Conflict{Code: string(job.ChemicalInside), Title: text, Field: "task", Value: string(b.Task),
			Allowed: "a machine without detergent or acid inside: rinse it first"}
	}
	return job.DrawOff(m.Answers, b.Draws)
}

func (a *App) planDescale(ctx context.Context, m store.Machine, b Begun, in job.Contents, now time.Time) (
	job.Plan, error,
) {
	by, err := units.Line("entitled", b.Entitled, false, longestName)
	if err != nil {
		return job.Plan{}, err
	}
	m.Answers.Entitled = by != ""
	d, err := a.Scale(ctx, m, now)
	if err != nil {
		return job.Plan{}, err
	}
	sit, err := a.Sitting(ctx, m, d, b.Descale, in, now)
	if err != nil {
		return job.Plan{}, err
	}
	p, err := a.DescalePlan(ctx, m, d, sit, b.Descale)
	for i := range p.Activities {
		p.Activities[i].By = by
	}
	return p, err
}

func (a *App) planWash(ctx context.Context, m store.Machine, b Begun, in job.Contents, now time.Time) (
	job.Plan, error,
) {
	if err := in.Meets(false); err != nil {
		return job.Plan{}, err
	}
	powder, err := a.Detergent(ctx)
	if err != nil {
		return job.Plan{}, err
	}
	h, err := a.History(ctx, m, now)
	if err != nil {
		return job.Plan{}, err
	}
	choice := h.Choice.Settled(m.Answers)
	if b.Method != "" {
		choice = care.Choice{Method: b.Method}
	} else if choice.Method == "" {
		choice.Method = backflush.HalfTeaspoon // refused with the gate's reason
	}
	method, err := choice.By()
	if err != nil {
		return job.Plan{}, err
	}
	if method.ID == backflush.WaterOnly {
		if method, err = backflush.WaterPulses(m.Answers.Facts(), b.Pulses); err != nil {
			return job.Plan{}, err
		}
	}
	targets := make([]job.Target, len(b.Parts))
	for i, part := range b.Parts {
		targets[i] = job.Target{Group: part.GroupNumber(), Dirty: slices.Contains(in.Detergent, part),
			Blind: in.Blind[part]}
	}
	if b.Task == task.Unblock {
		targets[0].LockedIn = b.LockedIn
		return job.Unblock(m.Answers, powder, targets[0])
	}
	for _, d := range care.AllDue(m.Answers, h, now, m.Zone) {
		for i, part := range b.Parts {
			if d.Task == task.Wash && d.Part == part {
				targets[i].Gone = d.Gone()
			}
		}
	}
	return job.WashBy(m.Answers, method, powder, targets...)
}

func noRun(id string, err error) error {
	return missing(err, "No such run", "run_id", id, "the id of a run that was started")
}

// Run finds a run; a *Missing where it is not there.
func (a *App) Run(ctx context.Context, id string) (store.Run, error) {
	r, err := a.store.Run(ctx, id)
	return r, noRun(id, err)
}

// Press takes one press into the log of a run and writes down what follows:
// what is in the machine, the end, the log entry, the water used. A press that is
// there already changes nothing; an id that is of another press is a *Conflict. The order is that
// of acceptance; it was made as long ago as is claimed, on the run's own clock, but not before the
// press it follows.
func (a *App) Press(ctx context.Context, runID string, p run.Press) (store.Run, error) {
	if err := p.Check(); err != nil {
		return store.Run{}, err
	}
	wall := a.now()
	var r store.Run
	err := a.store.Write(ctx, func(tx *store.Store) error {
		var err error
		if r, err = tx.Run(ctx, runID); err != nil || r.Ended != nil {
			return err // it has ended: nothing can be pressed any more
		}
		if r.Unreadable != nil {
			return fmt.Errorf("run %s cannot be carried on (%w): %w", runID, r.Unreadable, store.ErrConflict)
		}
		floor := r.Started
		for _, q := range r.Presses {
			if q.ID == p.ID {
				if same, err := store.SamePress(q, p); err != nil || same {
					return err
				}
				return fmt.Errorf("press %s: %w", p.ID, store.ErrOther)
			}
			floor = q.At
		}
		now := tx.Clock(r, wall)
		age := max(0, wall.Sub(p.At)) // as the device sees it; a clock set back makes it look as from the future
		p.At = clamp(now.Add(-age), floor, now)
		if r, err = tx.AddPress(ctx, r, p, wall, now); err != nil {
			return err
		}
		after := r.At(now)
		if err := follow(ctx, tx, r, after, wall); err != nil {
			return err
		}
		if after.Outcome != "" {
			r, err = tx.Run(ctx, runID)
		}
		return err
	})
	if err != nil {
		return r, otherRequest(noRun(runID, err), p.ID)
	}
	if turned, any := a.inAnotherOrder(ctx, r); any {
		r = turned
	}
	a.tell(runID)
	return r, nil
}

// inAnotherOrder looks whether what is left of a run of several tasks goes quicker in another order, now that it is
// known how long the hands took, and writes that into its log. It looks outside any transaction, and writes only where
// nobody pressed meanwhile; whatever hinders it, the run goes on as it was.
func (a *App) inAnotherOrder(ctx context.Context, r store.Run) (store.Run, bool) {
	if r.Ended != nil || len(r.Plan.Titles()) < 2 || r.Plan.Descaling() != nil {
		return r, false
	}
	wall := a.now()
	now := a.store.Clock(r, wall)
	so := run.ProgressOf(r.Plan, r.Started, r.Speed, r.Presses, now)
	order, saves, ok := sitting.Replan(r.Plan, so)
	if !ok {
		return r, false
	}
	seen, turned := len(r.Presses), r
	err := a.store.Write(ctx, func(tx *store.Store) error {
		again, err := tx.Run(ctx, r.ID)
		if err != nil || again.Ended != nil || len(again.Presses) != seen {
			return errors.Join(err, errMeanwhile)
		}
		press := run.Press{ID: derived(r.ID, "order", seen), Device: theServer, Step: so.Left[0].ID, Kind: run.Reorder,
			At: clamp(now, r.Started, now), Order: order, Minutes: int(saves.Round(time.Minute).Minutes())}
		turned, err = tx.AddPress(ctx, again, press, wall, now)
		return err
	})
	return turned, err == nil
}

// theServer is the device of what nobody pressed.
const theServer = "server"

func clamp(t, low, high time.Time) time.Time {
	t = t.UTC().Truncate(time.Millisecond) // stored to the millisecond; fold on what is stored
	if t.After(high) {
		t = high
	}
	if t.Before(low) {
		return low
	}
	return t
}

// Void ends a run on somebody's word, whatever state it is in and whether or not its
// plan can still be read. What it put into the machine stays on record as inside. A
// run that has ended is left as it is.
func (a *App) Void(ctx context.Context, id, name, why string) error {
	name, err := units.Line("name", name, true, longestName)
	if err != nil {
		return err
	}
	if why, err = units.Text("why", why, true, longestNote); err != nil {
		return err
	}
	if len([]rune(name)) < 2 {
		return &units.OutOfRange{Field: "name", Value: shorten(name), Allowed: "two signs or more: the name of who ends it"}
	}
	now := a.now()
	err = a.store.Write(ctx, func(tx *store.Store) error {
		r, err := tx.Run(ctx, id)
		if err != nil || r.Ended != nil {
			return err
		}
		e, err := abandoned(ctx, tx, r, "Ended by "+name+": "+why, now)
		if err != nil {
			return err
		}
		return tx.EndRun(ctx, id, e)
	})
	if err == nil {
		a.tell(id)
	}
	return noRun(id, err)
}
