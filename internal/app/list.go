package app

import (
	"context"

	"freshanvil/core/machine"
	"freshanvil/internal/store"
)

// ListTaken is what a list of machines came to.
type ListTaken struct {
	Machines []machine.Listed
	Bad      []machine.BadLine
	Kept     bool
	Same     int // of them that are there already, from the same list
}

// TakeList keeps the machines of a list, all or none; with preview it only reads it. The same list again keeps
// nothing twice.
func (a *App) TakeList(ctx context.Context, text, zone string, preview bool) (ListTaken, error) {
	var out ListTaken
	if _, err := ParseZone(zone); err != nil {
		return out, err
	}
	if out.Machines, out.Bad = machine.ReadList(text); len(out.Bad) > 0 || preview {
		return out, nil
	}
	now := a.now()
	err := a.store.Write(ctx, func(tx *store.Store) error {
		for _, l := range out.Machines {
			n := NewMachine{ID: derived("list", text, l.Line), Name: l.Name, Owner: l.Owner, Place: l.Place, Zone: zone,
				Answers:  l.Answers,
				Hardness: store.HardnessAnswer{Known: l.Hardness.Known, Value: l.Hardness.Value, Unit: l.Hardness.Unit}}
			if !l.Used {
				n.IsNew = &now
			}
			again, err := tx.Claim(ctx, n.ID, "machine", n.Name, now)
			if err != nil {
				return err
			}
			if again {
				out.Same++
				continue
			}
			if err := n.keep(ctx, tx, now); err != nil {
				return err
			}
		}
		return nil
	})
	out.Kept = err == nil
	return out, err
}
