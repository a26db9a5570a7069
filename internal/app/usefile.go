package app

import (
	"context"
	"errors"
	"path/filepath"
	"slices"

	"freshanvil/core/machine"
	"freshanvil/core/use"
	"freshanvil/internal/store"
)

// imported is the source of what a file says.
const imported = "import"

const (
	// mostAtOnce is how many entries of a file are compared and made ready at once.
	mostAtOnce = 500
	// mostReadings is how often a file is read anew because what it was compared with has changed meanwhile.
	mostReadings = 5
)

// Imported says what a file of use came to.
type Imported struct {
	Events             []use.Event
	Bad                []use.BadRow
	New, Changed, Same int
	ByHand             int // imported before, and taken back or corrected by somebody since: they stay as they are
}

// Readied is how far a file of use has come: how many of its entries are ready to be written.
type Readied struct{ Entries, Ready int }

// Importing says how far the file has come that is taken in on a machine; false where none is.
func (a *App) Importing(ctx context.Context, machineID string) (Readied, bool, error) {
	if _, err := find(ctx, a.store, machineID); err != nil {
		return Readied{}, false, err
	}
	w, is := a.readied.Load(machineID)
	if !is {
		return Readied{}, false, nil
	}
	return w.(Readied), true, nil
}

// ImportUse takes the use of a file, or says what it would come to: all of it or none. A file with a bad row is not
// taken. What was imported for the same span, part and kind before is corrected where the count differs, and left alone
// where it does not, or where somebody changed it by hand since; so the same file again changes nothing. It is read,
// compared and made ready beside the database while others write, and then written in one transaction.
func (a *App) ImportUse(ctx context.Context, machineID, text string, preview bool) (Imported, error) {
	if !preview {
		defer a.readied.Delete(machineID)
	}
	for range mostReadings {
		sum, err := a.importUse(ctx, machineID, text, preview)
		if !errors.Is(err, store.ErrChanged) {
			return sum, err
		}
	}
	return Imported{}, store.ErrCrowded
}

// importUse does it once; ErrChanged where what it was compared with is not so any more: nothing was written.
func (a *App) importUse(ctx context.Context, machineID, text string, preview bool) (sum Imported, err error) {
	now := a.now()
	m, err := inUse(ctx, a.store, machineID)
	if err != nil {
		return sum, err
	}
	sum.Events, sum.Bad = use.ReadUse(text, m.Answers.Facts(), m.Zone, now)
	if len(sum.Bad) > 0 {
		return sum, nil
	}
	slices.SortStableFunc(sum.Events, func(x, y use.Event) int { return x.From.Compare(y.From) })
	if preview {
		return sum, sum.compare(ctx, a.store, m, func(int, []store.Used) error { return nil })
	}
	newest, err := a.store.NewestUse(ctx)
	if err != nil {
		return sum, err
	}
	stage, err := store.NewUseStage(ctx, filepath.Dir(a.copying.file))
	if err != nil {
		return sum, err
	}
	defer func() { _ = stage.Close() }() // what was staged counts no more, whatever came of it
	a.readied.Store(machineID, Readied{Entries: len(sum.Events)})
	err = sum.compare(ctx, a.store, m, func(upTo int, list []store.Used) error {
		a.readied.Store(machineID, Readied{Entries: len(sum.Events), Ready: upTo})
		return stage.Add(ctx, list...)
	})
	if err != nil {
		return sum, err
	}
	if sum.New+sum.Changed == 0 {
		return sum, nil
	}
	return sum, a.store.WriteFrom(ctx, stage, func(tx *store.Store) error {
		m, err := sameSince(ctx, tx, m, newest)
		if err != nil {
			return err
		}
		return tx.TakeUse(ctx, m, now, stage)
	})
}

// sameSince finds a machine again that is as it was, and what was imported on it, too, since an entry was the newest of
// the ledger; else ErrChanged.
func sameSince(ctx context.Context, tx *store.Store, was store.Machine, newest int64) (store.Machine, error) {
	m, err := inUse(ctx, tx, was.ID) // it may have been archived meanwhile
	if err != nil {
		return m, err
	}
	moved, err := tx.ImportsMoved(ctx, m.ID, imported, newest)
	if err == nil && (moved || m.Version != was.Version) {
		err = store.ErrChanged
	}
	return m, err
}

type row struct {
	from, to int64
	part     machine.Part
	kind     use.Kind
}

func rowOf(e use.Event) row { return row{e.From.UnixMilli(), e.To.UnixMilli(), e.Part, e.Kind} }

// compare says which entries are new or differ from what was imported before, counts them, and hands them out with how
// far it has come.
func (i *Imported) compare(ctx context.Context, s *store.Store, m store.Machine,
	hand func(upTo int, list []store.Used) error) error {
	upTo := 0
	for some := range slices.Chunk(i.Events, mostAtOnce) {
		list, err := i.compareSome(ctx, s, m, some)
		if err != nil {
			return err
		}
		upTo += len(some)
		if err := hand(upTo, list); err != nil {
			return err
		}
	}
	return nil
}

func (i *Imported) compareSome(ctx context.Context, s *store.Store, m store.Machine, some []use.Event) (
	[]store.Used, error,
) {
	from, to := some[0].From, some[0].To
	for _, e := range some {
		if e.To.After(to) {
			to = e.To
		}
	}
	before, err := s.Imported(ctx, m.ID, imported, from, to)
	if err != nil {
		return nil, err
	}
	have := make(map[row]store.Before, len(before))
	for _, e := range before {
		have[rowOf(e.Event)] = e
	}
	var list []store.Used
	for _, e := range some {
		was, any := have[rowOf(e)]
		switch {
		case !any:
			i.New++
		case was.ByHand:
			i.ByHand++
			continue
		case was.Count == e.Count:
			i.Same++
			continue
		default:
			i.Changed++
		}
		e.ID = derived(m.ID, imported, e.From.UnixMilli(), e.To.UnixMilli(), e.Part, e.Kind, e.Count, was.ID)
		list = append(list, store.Used{Event: e, Source: imported, Supersedes: was.ID})
	}
	return list, nil
}
