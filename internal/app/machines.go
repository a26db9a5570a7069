package app

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/inspect"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/task"
	"freshanvil/core/units"
	"freshanvil/internal/store"
)

// NewMachine is a machine as it comes to the bench.
type NewMachine struct {
	ID, Name, Owner, Place string
	Zone                   string
	Answers                machine.Answers
	Hardness               store.HardnessAnswer
	// IsNew says that the machine was new on a day: every clock counts from then.
	IsNew *time.Time
	// Before is when something was done before it came, by what somebody knows; what is not
	// named is not known.
	Before []Before
}

// Before is one job that was done before a machine came to the bench.
type Before struct {
	Task task.ID
	Part machine.Part
	At   time.Time
}

// ParseZone finds an IANA time zone; another is a *units.OutOfRange.
func ParseZone(name string) (*time.Location, error) {
	zone, err := time.LoadLocation(name)
	if err != nil || name == "" || name == "Local" {
		return nil, &units.OutOfRange{Field: "zone", Value: shorten(name),
			Allowed: "an IANA time zone such as Europe/Lisbon"}
	}
	return zone, nil
}

func shorten(text string) string {
	if r := []rune(text); len(r) > 80 {
		return string(r[:80]) + "…"
	}
	return text
}

// CreateMachine keeps a machine, with what is known of what was done before.
func (a *App) CreateMachine(ctx context.Context, n NewMachine) error {
	if err := n.Answers.Check(); err != nil {
		return under("answers", err)
	}
	if _, err := ParseZone(n.Zone); err != nil {
		return err
	}
	if err := named(&n.Name, &n.Owner, &n.Place); err != nil {
		return err
	}
	return a.write(ctx, n.ID, "machine", n, func(tx *store.Store, now time.Time) error { return n.keep(ctx, tx, now) })
}

// keep writes a machine, with what is known of what was done before.
func (n NewMachine) keep(ctx context.Context, tx *store.Store, now time.Time) error {
	zone, err := ParseZone(n.Zone)
	if err != nil {
		return err
	}
	m := store.Machine{ID: n.ID, Name: n.Name, Owner: n.Owner, Place: n.Place, Zone: zone, Answers: n.Answers,
		Hardness: n.Hardness}
	if err := tx.AddMachine(ctx, m, now); errors.Is(err, store.ErrConflict) {
		return fmt.Errorf("machine %s: %w", m.ID, store.ErrOther)
	} else if err != nil {
		return err
	}
	return n.begin(ctx, tx, m, now)
}

// under puts a field that is not allowed below the one that holds it.
func under(field string, err error) error {
	var bad *units.OutOfRange
	if errors.As(err, &bad) {
		return bad.Under(field)
	}
	return err
}

// begin puts on record from when the clocks of a machine count that has just come.
func (n NewMachine) begin(ctx context.Context, tx *store.Store, m store.Machine, now time.Time) error {
	for i, b := range n.Before {
		field := fmt.Sprintf("before.%d", i)
		if err := b.Task.CheckPart(b.Part, m.Answers.Facts().Groups); err != nil {
			return under(field, err)
		}
		at, err := past("at", b.At, now, careReach)
		if err != nil {
			return under(field, err)
		}
		if err := tx.AddEntry(ctx, entry(derived(m.ID, "before", i), m.ID, b.Task, b.Part, at)); err != nil {
			return err
		}
	}
	if n.IsNew == nil {
		return beginClocks(ctx, tx, m, now, care.Added, care.Begins(m.Answers))
	}
	since, err := past("new_since", *n.IsNew, now, careReach)
	if err != nil {
		return err
	}
	return beginClocks(ctx, tx, m, since, care.New, func(r task.Row) bool { return len(r.Clocks) > 0 })
}

// beginClocks puts on record that the clocks of tasks count from an instant on, in every part of
// a machine that they are of.
func beginClocks(ctx context.Context, tx *store.Store, m store.Machine, at time.Time, why care.Begun,
	which func(task.Row) bool) error {
	for _, d := range care.BegunAt(m.Answers, at, why, which) {
		e := store.Entry{ID: derived(m.ID, why, d.Task, d.Part), MachineID: m.ID, Task: d.Task, Part: d.Part, At: at,
			Outcome: store.Begins, Title: d.Task.Title(), Record: store.Record{Begun: why}}
		if err := tx.AddEntry(ctx, e); err != nil {
			return err
		}
	}
	return nil
}

// Edit is a change of what is known of a machine. Version is the one that it was made from. Since
// is set where the past is corrected: it was like that from then on.
type Edit struct {
	MachineID string
	Version   int
	Since     *time.Time
}

// changed is the conflict of an edit that was made from an older version.
func changed(m store.Machine, version int) error {
	return &Conflict{Code: "changed_meanwhile", Title: "It was changed meanwhile", Field: "version",
		Value: fmt.Sprint(version), Allowed: fmt.Sprintf("%d, as it stands now: look again, and change that", m.Version)}
}

// edit changes what was said of a machine, in one transaction with what is checked before.
func (a *App) edit(ctx context.Context, e Edit, change func(tx *store.Store, m store.Machine, was machine.Answers) (
	machine.Answers, *store.HardnessAnswer, error)) error {
	now := a.now()
	return a.store.Write(ctx, func(tx *store.Store) error {
		m, err := inUse(ctx, tx, e.MachineID)
		if err != nil {
			return err
		}
		if e.Version < 1 || e.Version > m.Version {
			return changed(m, e.Version)
		}
		if err := refuseChange(ctx, tx, m.ID); err != nil {
			return err
		}
		since := now
		if e.Since != nil {
			if since, err = past("since", *e.Since, now, careReach); err != nil {
				return err
			}
		}
		said, err := tx.Timeline(ctx, m.ID)
		if err != nil && m.Bad == nil {
			return err
		}
		list, err := correct(said, since, func(x store.Said) (store.Said, error) {
			answers, hardness, err := change(tx, m, x.Answers)
			if hardness != nil {
				x.Hardness = *hardness
			}
			x.Answers = answers
			return x, err
		})
		if err != nil {
			return err
		}
		return tx.Say(ctx, m.ID, since, list, now)
	})
}

// correct gives a timeline with what held at an instant and was said for later changed.
func correct(said []store.Said, since time.Time, change func(store.Said) (store.Said, error)) ([]store.Said, error) {
	at := said[0]
	var later []store.Said
	for _, x := range said {
		switch {
		case x.From.After(since):
			later = append(later, x)
		default:
			at = x
		}
	}
	at.From = since
	out := make([]store.Said, 0, len(later)+1)
	for _, x := range append([]store.Said{at}, later...) {
		x, err := change(x)
		if err != nil {
			return nil, err
		}
		if n := len(out); n > 0 && sameSaid(out[n-1], x) {
			continue // the correction says what was said later
		}
		out = append(out, x)
	}
	return out, nil
}

func sameSaid(a, b store.Said) bool {
	x, y := a.Answers, b.Answers
	return a.Hardness == b.Hardness && x.Layout == y.Layout && x.Valve == y.Valve && x.Drinks == y.Drinks &&
		x.MilkDrinks == y.MilkDrinks && x.Treatment == y.Treatment && maps.Equal(x.Overrides, y.Overrides)
}

// ChangeAnswers lets new answers hold from now on, or corrects the past.
func (a *App) ChangeAnswers(ctx context.Context, e Edit, answers machine.Answers, h store.HardnessAnswer) error {
	if err := answers.Check(); err != nil {
		return err
	}
	return a.edit(ctx, e, func(tx *store.Store, m store.Machine, was machine.Answers) (
		machine.Answers, *store.HardnessAnswer, error) {
		if e.Version != m.Version {
			return was, nil, changed(m, e.Version)
		}
		now := answers
		now.Overrides = keep(was.Overrides, answers)
		return now, &h, nil
	})
}

// keep gives the facts that a machine of the new answers still has.
func keep(facts map[string]string, a machine.Answers) map[string]string {
	kept := map[string]string{}
	for key, value := range facts {
		if a.CheckOverride(key, value) == nil {
			kept[key] = value
		}
	}
	return kept
}

// Fact is one fact of a machine; without a value it is taken back, and the layout's stands in.
type Fact struct {
	Key   string
	Value *string
}

// ChangeFacts says facts of a machine, all or none. Two that change different facts of one
// version both hold; where the same fact was changed meanwhile, it is refused.
func (a *App) ChangeFacts(ctx context.Context, e Edit, facts []Fact) error {
	return a.edit(ctx, e, func(tx *store.Store, m store.Machine, was machine.Answers) (
		machine.Answers, *store.HardnessAnswer, error) {
		if e.Version != m.Version {
			if err := untouched(ctx, tx, m, e.Version, facts); err != nil {
				return was, nil, err
			}
		}
		was.Overrides = maps.Clone(was.Overrides)
		if was.Overrides == nil {
			was.Overrides = map[string]string{}
		}
		for _, f := range facts {
			value := ""
			if f.Value != nil {
				value = *f.Value
			}
			err := was.CheckOverride(f.Key, value)
			switch {
			case f.Value == nil && fieldOf(err) != "key":
				delete(was.Overrides, f.Key)
			case err != nil:
				return was, nil, err
			default:
				was.Overrides[f.Key] = value
			}
		}
		return was, nil, nil
	})
}

func fieldOf(err error) string {
	var bad *units.OutOfRange
	if errors.As(err, &bad) {
		return bad.Field
	}
	return ""
}

// untouched refuses facts that have changed since a version, or a machine that is another layout
// now.
func untouched(ctx context.Context, tx *store.Store, m store.Machine, version int, facts []Fact) error {
	then, err := tx.SaidAt(ctx, m.ID, version)
	if err != nil {
		return err
	}
	same := then.Answers.Layout == m.Answers.Layout
	for _, f := range facts {
		before, was := then.Answers.Overrides[f.Key]
		now, is := m.Answers.Overrides[f.Key]
		same = same && before == now && was == is
	}
	if !same {
		return changed(m, version)
	}
	return nil
}

// named makes name, owner and place what is kept of them.
func named(name, owner, place *string) (err error) {
	if *name, err = units.Line("name", *name, true, longestTitle); err != nil {
		return err
	}
	if *owner, err = units.Line("owner", *owner, false, longestTitle); err != nil {
		return err
	}
	*place, err = units.Line("place", *place, false, longestTitle)
	return err
}

// Details are name, owner and place of a machine, and whether it is archived.
type Details struct {
	Name, Owner, Place string
	Archived           bool
}

// ChangeDetails changes them. A machine with an open run or with a chemical inside is not archived.
func (a *App) ChangeDetails(ctx context.Context, e Edit, d Details) error {
	if err := named(&d.Name, &d.Owner, &d.Place); err != nil {
		return err
	}
	now := a.now()
	return a.store.Write(ctx, func(tx *store.Store) error {
		m, err := find(ctx, tx, e.MachineID)
		if err != nil {
			return err
		}
		if e.Version != m.Version {
			return changed(m, e.Version)
		}
		if d.Archived && !m.Archived {
			if err := refuseChange(ctx, tx, m.ID); err != nil {
				return err
			}
		}
		m.Name, m.Owner, m.Place, m.Archived = d.Name, d.Owner, d.Place, d.Archived
		return tx.Describe(ctx, m, now)
	})
}

// refuseChange: while a run is open or a chemical is inside, the answers that
// the way out was planned from must hold.
func refuseChange(ctx context.Context, tx *store.Store, id string) error {
	hazards, err := tx.Hazards(ctx)
	if err != nil {
		return err
	}
	if text := store.Contents(hazards, id).Holds(); text != "" {
		return &Conflict{Code: string(job.ChemicalInside), Title: text, Field: "machine_id", Value: id,
			Allowed: "a machine without detergent or acid inside: rinse it first"}
	}
	open, err := tx.OpenRuns(ctx, id)
	if err != nil {
		return err
	}
	for _, r := range open {
		if slices.Contains(r.Machines, id) {
			return &Conflict{Code: "run_open", Title: "A run is open on this machine", Field: "machine_id", Value: id,
				Allowed: "a machine without an open run: finish or stop it first"}
		}
	}
	return nil
}

// Signed is somebody's word, by name, that nothing is left in a part; or, of a machine that was switched off for
// what was seen of it, that it may be used again.
type Signed struct {
	ID, MachineID string
	Part          machine.Part
	Name, Note    string
	Stopped       bool
}

// SignOff clears what is in a group, or, of the whole machine, the acid in its circuits, or the danger for which it
// was switched off, on somebody's word, which is written down.
func (a *App) SignOff(ctx context.Context, s Signed) error {
	id, machineID, part, note := s.ID, s.MachineID, s.Part, s.Note
	name, err := units.Line("name", s.Name, true, longestName)
	if err != nil {
		return err
	}
	if len([]rune(name)) < 2 {
		return &units.OutOfRange{Field: "name", Value: shorten(s.Name), Allowed: "the name of who vouches"}
	}
	if note, err = units.Text("note", note, false, longestNote); err != nil {
		return err
	}
	content := []string{machineID, part.String(), name, note}
	if s.Stopped {
		content = append(content, store.Stopped)
	}
	return a.write(ctx, id, "sign_off", content, func(tx *store.Store, now time.Time) error {
		m, err := find(ctx, tx, machineID)
		if err != nil {
			return err
		}
		if s.Stopped {
			return signStops(ctx, tx, s, name, now)
		}
		of := task.AcidRinse
		if !part.IsWhole() {
			of = task.Rinse
			if err := of.CheckPart(part, m.Answers.Facts().Groups); err != nil {
				return err
			}
		}
		busy, err := isBusy(ctx, tx, machineID, part)
		if err != nil {
			return err
		}
		cleared := 0
		if !busy {
			if cleared, err = tx.ClearHazards(ctx, machineID, part, "sign-off: "+name, now); err != nil {
				return err
			}
		}
		if cleared == 0 {
			return &Conflict{Code: "nothing_inside", Title: "Nothing to sign off", Field: "part", Value: part.String(),
				Allowed: "a group that holds detergent or may be under pressure, or the machine where acid " +
					"is in its circuits, and no open run"}
		}
		e := entry(id, machineID, of, part, now)
		e.Outcome, e.Title, e.Record.Note = store.SignedOff, "Signed off by "+name, note
		return tx.AddEntry(ctx, e)
	})
}

// signStops lets a machine be used again on somebody's word; what was seen is put on record as mended.
func signStops(ctx context.Context, tx *store.Store, s Signed, name string, now time.Time) error {
	hazards, err := tx.Hazards(ctx)
	if err != nil {
		return err
	}
	cleared, err := tx.ClearStops(ctx, s.MachineID, "sign-off: "+name, now)
	if err != nil {
		return err
	}
	if cleared == 0 {
		return &Conflict{Code: "nothing_inside", Title: "Nothing to sign off", Field: "what", Value: store.Stopped,
			Allowed: "a machine that was switched off for what was seen of it"}
	}
	for _, f := range store.Contents(hazards, s.MachineID).Stopped {
		row, known := inspect.Find(f.Sight)
		if !known {
			continue
		}
		mended := inspect.Found{Sight: f.Sight, Part: f.Part, Verdict: row.Seen[0].Verdict, At: now}
		id := derived(s.ID, "mended", string(f.Sight)+f.Part.String())
		if err := tx.AddLook(ctx, store.Look{ID: id, MachineID: s.MachineID, Found: mended}); err != nil {
			return err
		}
	}
	e := entry(s.ID, s.MachineID, task.Service, machine.Part{}, now)
	e.Outcome, e.Title, e.Record.Note = store.SignedOff, "Signed off by "+name, s.Note
	return tx.AddEntry(ctx, e)
}

// isBusy says whether a run goes on that is about a part.
func isBusy(ctx context.Context, tx *store.Store, machineID string, part machine.Part) (bool, error) {
	open, err := tx.OpenRuns(ctx, machineID)
	if err != nil {
		return false, err
	}
	for _, r := range open {
		if !slices.Contains(r.Machines, machineID) {
			continue
		}
		washes := slices.ContainsFunc(r.Plan.Washes(), func(x job.Activity) bool { return x.Part == part })
		if r.Unreadable != nil || washes || part.IsWhole() && r.Plan.Descaling() != nil {
			return true, nil
		}
	}
	return false, nil
}

// SeeMoved notes that somebody has seen the dates of a machine that an update moved.
func (a *App) SeeMoved(ctx context.Context, machineID string) error {
	now := a.now()
	return a.store.Write(ctx, func(tx *store.Store) error { return tx.SeeMoved(ctx, machineID, now) })
}
