package app

import (
	"context"
	"slices"
	"time"

	"freshanvil/core/diagnose"
	"freshanvil/core/units"
	"freshanvil/internal/store"
)

// Diagnosis is a machine with how far the search for a cause has come.
type Diagnosis struct {
	Machine  store.Machine
	Symptoms []diagnose.Symptom // that can be noticed on it
	Finding  *diagnose.Finding  // nil where no symptom was chosen yet
}

// Diagnose weighs what was said of a symptom of a machine. It writes nothing.
func (a *App) Diagnose(ctx context.Context, machineID string, symptom diagnose.SymptomID, said []diagnose.Said) (
	d Diagnosis, err error,
) {
	if d.Machine, err = find(ctx, a.store, machineID); err != nil {
		return d, err
	}
	f := d.Machine.Answers.Facts()
	for _, s := range diagnose.Symptoms() {
		if s.Fits(f) {
			d.Symptoms = append(d.Symptoms, s)
		}
	}
	if symptom == "" {
		return d, nil
	}
	found, err := a.store.FoundBehind(ctx, symptom)
	if err != nil {
		return d, err
	}
	finding, err := diagnose.Diagnose(f, symptom, said, found)
	d.Finding = &finding
	return d, err
}

// Found is a cause that somebody found behind a symptom.
type Found struct {
	ID, MachineID string
	Symptom       diagnose.SymptomID
	Cause         diagnose.CauseID
}

// RecordCause keeps the cause that was found: what is asked first goes by it from then on.
func (a *App) RecordCause(ctx context.Context, x Found) error {
	return a.write(ctx, x.ID, "diagnosis", x, func(tx *store.Store, now time.Time) error {
		m, err := inUse(ctx, tx, x.MachineID)
		if err != nil {
			return err
		}
		d, err := diagnose.Diagnose(m.Answers.Facts(), x.Symptom, nil, nil)
		if err != nil {
			return err
		}
		if !slices.ContainsFunc(d.Causes, func(c diagnose.Likely) bool { return c.ID == x.Cause }) {
			return &units.OutOfRange{Field: "cause", Value: string(x.Cause), Allowed: "a cause of that symptom on this machine"}
		}
		return tx.AddDiagnosis(ctx, x.ID, m.ID, x.Symptom, x.Cause, now)
	})
}
