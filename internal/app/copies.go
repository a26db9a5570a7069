package app

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"freshanvil/core/units"
	"freshanvil/internal/store"
)

// Copies are made of the whole database each night, and so many of the newest kept (our own engineering choices).
const (
	usuallyKept = 7
	mostCopies  = 60
	copyHour    = 3 // of the clock on the wall
	copyPrefix  = "freshanvil-"
	copyStamp   = "20060102-150405"
	copiesKey   = "copies"
)

// Copy is one copy of the database.
type Copy struct {
	Name  string
	At    time.Time
	Bytes int64
}

// Keeping is how the database is kept: the copies there are, newest first, when one was last tried and what came of it,
// and whether the database itself was sound when it was last read through.
type Keeping struct {
	Keep    int       // how many copies are kept; 0 makes none by itself
	Tried   time.Time // zero where none was tried
	Failed  string    // why the last one failed; empty where it did not
	Checked time.Time // zero where it was never read through
	Damage  string    // what was found then; empty where it is sound
	Folder  string    // where they lie, by its last name
	Copies  []Copy
	Late    bool // no copy was made for longer than a night should take
}

// kept is Keeping as it is stored.
type kept struct {
	Keep      int    `json:"keep"`
	TriedMs   int64  `json:"tried_ms,omitempty"`
	Failed    string `json:"failed,omitempty"`
	CheckedMs int64  `json:"checked_ms,omitempty"`
	Damage    string `json:"damage,omitempty"`
	// Made are the copies by name in the order in which they were made, oldest first: a clock that was ahead must not
	// decide which is the newest.
	Made []string `json:"made,omitempty"`
}

// copying lets one copy be made at a time.
type copying struct {
	mu   sync.Mutex
	file string // of the database; empty where there is none
}

// CopiesOf is the folder beside a database file in which its copies lie.
func CopiesOf(file string) string { return strings.TrimSuffix(file, ".db") + ".copies" }

// Keeping says how the database is kept.
func (a *App) Keeping(ctx context.Context) (Keeping, error) {
	k, err := a.kept(ctx)
	if err != nil {
		return Keeping{}, err
	}
	out := Keeping{Keep: k.Keep, Failed: k.Failed, Damage: k.Damage, Tried: instant(k.TriedMs),
		Checked: instant(k.CheckedMs), Folder: filepath.Base(CopiesOf(a.copying.file))}
	out.Copies, err = copiesIn(CopiesOf(a.copying.file), k.Made)
	now := a.Now()
	out.Late = k.Keep > 0 && !done(k.TriedMs, now, now.Add(-lateAfter))
	return out, err
}

// lateAfter is how long after the last copy copies are late (our own engineering choice: a night that was missed).
const lateAfter = 36 * time.Hour

// done says whether something was done since an instant. A stamp in the future counts as never: the clock was ahead.
func done(ms int64, now, since time.Time) bool {
	at := instant(ms)
	return !at.IsZero() && !at.After(now.Add(time.Minute)) && !at.Before(since)
}

func instant(ms int64) time.Time {
	if ms == 0 {
		return time.Time{}
	}
	return time.UnixMilli(ms).UTC()
}

func (a *App) kept(ctx context.Context) (k kept, err error) {
	k.Keep = usuallyKept
	text, err := a.Meta(ctx, copiesKey)
	if err != nil || text == "" {
		return k, err
	}
	return k, json.Unmarshal([]byte(text), &k)
}

// change changes what is stored of how the database is kept.
func (a *App) change(ctx context.Context, f func(k *kept)) error {
	return a.store.Write(ctx, func(tx *store.Store) error {
		k := kept{Keep: usuallyKept}
		text, err := tx.Meta(ctx, copiesKey)
		if err != nil {
			return err
		}
		if text != "" {
			if err := json.Unmarshal([]byte(text), &k); err != nil {
				return err
			}
		}
		f(&k)
		said, err := json.Marshal(k)
		if err != nil {
			return err
		}
		return tx.SetMeta(ctx, copiesKey, string(said))
	})
}

// KeepCopies says how many copies are kept, 0 to 60.
func (a *App) KeepCopies(ctx context.Context, n int) error {
	if n < 0 || n > mostCopies {
		return &units.OutOfRange{Field: "keep", Value: fmt.Sprint(n), Allowed: fmt.Sprintf("0 to %d", mostCopies)}
	}
	return a.change(ctx, func(k *kept) { k.Keep = n })
}

// CopyNow makes a copy, reads it back, and takes the oldest away that are too many. What failed is kept to be shown.
func (a *App) CopyNow(ctx context.Context) error {
	a.copying.mu.Lock()
	defer a.copying.mu.Unlock()
	now := a.now()
	dir := CopiesOf(a.copying.file)
	name := copyPrefix + now.Format(copyStamp) + ".db"
	failed := store.CopyTo(ctx, a.copying.file, filepath.Join(dir, name))
	k, err := a.kept(ctx)
	if errors.Is(failed, os.ErrExist) { // somebody asked in the same second: that copy is it
		failed = nil
	} else if failed == nil {
		k.Made = append(k.Made, name)
	}
	if failed == nil && err == nil {
		err = prune(dir, max(1, k.Keep), k.Made)
	}
	made := k.Made[max(0, len(k.Made)-2*mostCopies):]
	return errors.Join(failed, err, a.change(ctx, func(k *kept) {
		k.TriedMs, k.Failed, k.Made = now.UnixMilli(), "", made
		if failed != nil {
			k.Failed = strings.ReplaceAll(failed.Error(), filepath.Dir(dir)+string(filepath.Separator), "")
		}
	}))
}

// ReadThrough compares the whole database with itself. What is wrong is kept to be shown, and given.
func (a *App) ReadThrough(ctx context.Context) error {
	now := a.now()
	found := store.Sound(ctx, a.copying.file, true)
	if errors.Is(found, context.Canceled) {
		return found
	}
	return errors.Join(found, a.change(ctx, func(k *kept) {
		k.CheckedMs, k.Damage = now.UnixMilli(), ""
		if found != nil {
			k.Damage = found.Error()
		}
	}))
}

// nightly is the last hour of copies before an instant, by the clock on the wall.
func nightly(now time.Time) time.Time {
	at := time.Date(now.Year(), now.Month(), now.Day(), copyHour, 0, 0, 0, now.Location())
	if at.After(now) {
		at = at.AddDate(0, 0, -1)
	}
	return at
}

// Nightly reads the database through and makes a copy of it, where that was not done since the last night's hour.
// A database that is damaged is not copied: what was copied before is worth more.
func (a *App) Nightly(ctx context.Context) error {
	k, err := a.kept(ctx)
	if err != nil {
		return err
	}
	hour := nightly(a.Now())
	if !done(k.CheckedMs, a.Now(), hour) {
		if err := a.ReadThrough(ctx); err != nil {
			return err
		}
	}
	if k.Keep == 0 || done(k.TriedMs, a.Now(), hour) {
		return nil
	}
	return a.CopyNow(ctx)
}

// copiesIn lists the copies in a folder, newest first: those that were made here by the order in which they were, then
// any others by their stamps.
func copiesIn(dir string, made []string) (list []Copy, err error) {
	found, err := os.ReadDir(dir)
	if errors.Is(err, os.ErrNotExist) {
		return nil, nil
	}
	for _, f := range found {
		stamp, is := strings.CutPrefix(strings.TrimSuffix(f.Name(), ".db"), copyPrefix)
		at, bad := time.Parse(copyStamp, stamp)
		if !is || bad != nil || !strings.HasSuffix(f.Name(), ".db") {
			continue // somebody else's, or one that is being made
		}
		info, gone := f.Info()
		if gone != nil {
			continue
		}
		list = append(list, Copy{Name: f.Name(), At: at.UTC(), Bytes: info.Size()})
	}
	slices.SortFunc(list, func(x, y Copy) int {
		return cmp.Or(cmp.Compare(slices.Index(made, y.Name), slices.Index(made, x.Name)), cmp.Compare(y.Name, x.Name))
	})
	return list, err
}

// prune takes the oldest copies away; what was made last is never among them.
func prune(dir string, keep int, made []string) error {
	list, err := copiesIn(dir, made)
	for _, c := range list[min(keep, len(list)):] {
		err = errors.Join(err, os.Remove(filepath.Join(dir, c.Name)))
	}
	return err
}

// Writes says whether the database takes a write now.
func (a *App) Writes(ctx context.Context) error {
	return a.store.Write(ctx, func(tx *store.Store) error {
		return tx.SetMeta(ctx, "health", a.now().Format(time.RFC3339))
	})
}

// sweep takes away what a copy that was killed has left.
func sweep(dir string) error {
	found, err := os.ReadDir(dir)
	if errors.Is(err, os.ErrNotExist) {
		return nil
	}
	for _, f := range found {
		of, part := strings.CutSuffix(strings.TrimSuffix(f.Name(), "-journal"), ".part")
		left := part || strings.HasSuffix(f.Name(), ".db-journal")
		if left && strings.HasPrefix(of, copyPrefix) {
			err = errors.Join(err, os.Remove(filepath.Join(dir, f.Name())))
		}
	}
	return err
}

// KeepCopying is Nightly again and again, until the context ends.
func (a *App) KeepCopying(ctx context.Context, every time.Duration, failed func(error)) {
	tick := time.NewTicker(every)
	defer tick.Stop()
	if err := sweep(CopiesOf(a.copying.file)); err != nil {
		failed(err)
	}
	for {
		if err := a.Nightly(ctx); err != nil && ctx.Err() == nil {
			failed(err)
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}

// Claim claims a database file for one process.
func Claim(file string) (*store.Claim, error) { return store.ClaimFile(file) }

// CopyFile copies a database file, also while it is served, and gives the name of the copy: to, or one by the day
// among the nightly copies.
func CopyFile(ctx context.Context, file, to string, now time.Time) (string, error) {
	if to == "" {
		to = filepath.Join(CopiesOf(file), copyPrefix+now.UTC().Format(copyStamp)+".db")
	}
	return to, store.CopyTo(ctx, file, to)
}

// RestoreFile puts a copy in place of a database file that is not served, and gives the name under which what was
// there is kept; empty where nothing was.
func RestoreFile(ctx context.Context, file, from string, now time.Time) (aside string, err error) {
	if _, err := os.Stat(file); err == nil {
		aside = strings.TrimSuffix(file, ".db") + ".aside-" + now.UTC().Format(copyStamp) + ".db"
	}
	return aside, store.Restore(ctx, file, from, aside)
}

// Sound says what is wrong with a database file that is there; nil where it can be opened.
func Sound(ctx context.Context, file string) error { return store.Sound(ctx, file, false) }
