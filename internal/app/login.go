package app

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/alexedwards/argon2id"
	"github.com/google/uuid"

	"freshanvil/core/units"
	"freshanvil/internal/store"
)

// hashing are the parameters of argon2id (OWASP Password Storage Cheat Sheet: 19 MiB, two passes, one lane).
var hashing = &argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// hashers is how many passphrases are hashed at once: each takes 19 MiB.
var hashers = make(chan struct{}, 2)

// nobodys is compared with where there is no such person, so that nobody hears from the time it takes who is there.
var nobodys = func() string {
	h, _ := argon2id.CreateHash(newToken(), hashing)
	return h
}()

// How long a passphrase may be, in signs.
const (
	shortestSecret = 10
	longestSecret  = 200
)

func compare(ctx context.Context, secret, hash string) (bool, error) {
	select {
	case hashers <- struct{}{}:
		defer func() { <-hashers }()
	case <-ctx.Done():
		return false, ctx.Err()
	}
	if hash == "" {
		_, err := argon2id.ComparePasswordAndHash(secret, nobodys)
		return false, err
	}
	return argon2id.ComparePasswordAndHash(secret, hash)
}

// hash refuses a passphrase that is too short, and hashes any other.
func hash(ctx context.Context, secret, name string) (string, error) {
	n := utf8.RuneCountInString(secret)
	if n < shortestSecret || n > longestSecret || strings.EqualFold(strings.TrimSpace(secret), name) {
		return "", &units.OutOfRange{Field: "passphrase", Value: fmt.Sprintf("%d signs", n),
			Allowed: fmt.Sprintf("%d to %d signs, such as four words, and not the name", shortestSecret, longestSecret)}
	}
	select {
	case hashers <- struct{}{}:
		defer func() { <-hashers }()
	case <-ctx.Done():
		return "", ctx.Err()
	}
	return argon2id.CreateHash(secret, hashing)
}

// Attempt is somebody before the door.
type Attempt struct {
	Name, Passphrase, Code string
	From                   string // the address it comes from
	Device                 string // what it is, as it says itself
	Known                  string // the token that it holds already; empty for none
}

var wrong = &Denied{Code: "login", Title: "Name or passphrase is wrong"}

// HasOwner says whether somebody may let others in.
func (a *App) HasOwner(ctx context.Context) (bool, error) {
	return hasOwner(ctx, a.store)
}

func hasOwner(ctx context.Context, from *store.Store) (bool, error) {
	list, err := from.Accounts(ctx)
	return slices.ContainsFunc(list, func(x store.Account) bool { return Role(x.Role) == Owner && x.Secret != "" }), err
}

// FirstCode makes the code by which the first owner is made; empty where there is an owner. It holds until it is
// used, or the process ends.
func (a *App) FirstCode(ctx context.Context) (string, error) {
	has, err := a.HasOwner(ctx)
	if err != nil || has {
		return "", err
	}
	code := newCode(plainly, 10)
	a.door.mu.Lock()
	a.door.first = hashed(code)
	a.door.mu.Unlock()
	return code[:5] + "-" + code[5:], nil
}

// recoveryKey is where the code is kept that freshanvil owner makes: a way back for who forgot the passphrase.
const recoveryKey = "owner_code"

type recovery struct {
	Code   string `json:"code"`
	EndsMs int64  `json:"ends_ms"`
}

// RecoverOwner makes a code by which an owner gives a new passphrase, for an hour; whoever may write the
// database's file may do so.
func (a *App) RecoverOwner(ctx context.Context) (string, error) {
	code := newCode(plainly, 10)
	text, err := json.Marshal(recovery{hashed(code), a.now().Add(time.Hour).UnixMilli()})
	if err != nil {
		return "", err
	}
	return code[:5] + "-" + code[5:], a.SetMeta(ctx, recoveryKey, string(text))
}

// wrongCode refuses a code that begins no owner.
var wrongCode = &Denied{Code: "code", Title: "The code is wrong, or used up",
	Detail: "It stands in the terminal in which the server was started; freshanvil owner makes a new one."}

// BeginOwner lets the first owner in, or one who has a code of freshanvil owner: with a name and a passphrase of
// their own. Either code is used up by it.
func (a *App) BeginOwner(ctx context.Context, t Attempt) (token string, w Who, err error) {
	now := a.now()
	keys := []string{"code", "from " + t.From}
	if err := a.door.wait(now, keys...); err != nil {
		return "", w, err
	}
	name, err := units.Line("name", t.Name, true, longestName)
	if err != nil {
		return "", w, err
	}
	code := hashed(typed(t.Code))
	if _, err := a.ownerCode(ctx, a.store, code, now); err != nil {
		if err == wrongCode {
			a.door.failed(now, keys...)
		}
		return "", w, err
	}
	secret, err := hash(ctx, t.Passphrase, name)
	if err != nil {
		return "", w, err
	}
	var id string
	err = a.store.Write(ctx, func(tx *store.Store) error {
		again, err := a.ownerCode(ctx, tx, code, now) // once, also where two use it at the same moment
		if err != nil {
			return err
		}
		if id, err = personNamed(ctx, tx, name, now); err != nil {
			return err
		}
		if again {
			err = errors.Join(tx.SetMeta(ctx, recoveryKey, ""), tx.EndSessions(ctx, id, now))
		}
		return errors.Join(err, tx.SetAccount(ctx, id, string(Owner), secret))
	})
	if err != nil {
		return "", w, err
	}
	a.door.mu.Lock()
	a.door.first = ""
	a.door.mu.Unlock()
	a.door.passed(append(keys, "name "+strings.ToLower(name))...)
	a.door.forget()
	return a.begin(ctx, id, Owner, t.Device, loginFor)
}

// ownerCode says whether the code is one of freshanvil owner (again) or that of the first start, as long as nobody
// owns the bench; wrongCode where it is neither.
func (a *App) ownerCode(ctx context.Context, from *store.Store, code string, now time.Time) (again bool, err error) {
	text, err := from.Meta(ctx, recoveryKey)
	if err != nil {
		return false, err
	}
	var back recovery
	if text != "" {
		_ = json.Unmarshal([]byte(text), &back)
	}
	if back.Code != "" && now.UnixMilli() < back.EndsMs && alike(back.Code, code) {
		return true, nil
	}
	a.door.mu.Lock()
	first := a.door.first != "" && alike(a.door.first, code)
	a.door.mu.Unlock()
	if !first {
		return false, wrongCode
	}
	if has, err := hasOwner(ctx, from); err != nil || has {
		return false, cmp.Or(err, error(wrongCode))
	}
	return false, nil
}

// personNamed is the id of the person of that name, who is added where nobody has it.
func personNamed(ctx context.Context, tx *store.Store, name string, now time.Time) (string, error) {
	list, err := tx.Accounts(ctx)
	if err != nil {
		return "", err
	}
	for _, x := range list {
		if strings.EqualFold(x.Name, name) {
			return x.ID, nil
		}
	}
	p := store.Person{ID: uuid.NewString(), Name: name, Initials: initials(name)}
	return p.ID, tx.AddPerson(ctx, p, now)
}

// Login lets somebody in by name and passphrase. Each login is a session of its own, under a token that nobody had
// before.
func (a *App) Login(ctx context.Context, t Attempt) (token string, w Who, err error) {
	now := a.now()
	name := strings.TrimSpace(t.Name)
	keys := []string{"name " + strings.ToLower(name) + " from " + t.From, "from " + t.From}
	if t.Known != "" { // a device that this person was let in on is not kept out by a stranger's tries
		if x, err := a.Let(ctx, t.Known); err == nil && x.Person != "" && strings.EqualFold(x.Name, name) {
			keys = keys[:1]
		}
	}
	if err := a.door.try(now, keys...); err != nil {
		return "", w, err
	}
	if utf8.RuneCountInString(t.Passphrase) > longestSecret {
		return "", w, wrong
	}
	list, err := a.store.Accounts(ctx)
	if err != nil {
		return "", w, err
	}
	var who store.Account
	for _, x := range list {
		if strings.EqualFold(x.Name, name) && x.Secret != "" {
			who = x
		}
	}
	is, err := compare(ctx, t.Passphrase, who.Secret)
	if err != nil {
		return "", w, err
	}
	if !is {
		return "", w, wrong
	}
	a.door.passed(keys[0])
	a.door.untry(keys[1:]...)
	return a.begin(ctx, who.ID, Role(who.Role), t.Device, loginFor)
}

// begin makes a session, and gives its token: the only time that it is known here.
func (a *App) begin(ctx context.Context, personID string, role Role, device string, holds time.Duration) (
	token string, w Who, err error,
) {
	now := a.now()
	device, err = units.Line("device", device, false, longestTitle)
	if err != nil {
		device = "a browser"
	}
	token = newToken()
	s := store.Session{ID: uuid.NewString(), Token: hashed(token), PersonID: personID, Role: string(role),
		Device: device, Made: now, Seen: now, Ends: now.Add(holds)}
	if err := a.store.Write(ctx, func(tx *store.Store) error { return tx.AddSession(ctx, s) }); err != nil {
		return "", w, err
	}
	w, err = a.whoOf(ctx, s)
	return token, w, err
}

// Let is who a token belongs to; nobody where it is unknown, has ended, or was taken back.
func (a *App) Let(ctx context.Context, token string) (Who, error) {
	if token == "" {
		return Who{}, nil
	}
	now, kept := a.now(), hashed(token)
	if w, is := a.door.remembered(kept, now); is {
		return w, nil
	}
	s, err := a.store.SessionOf(ctx, kept, now)
	if errors.Is(err, store.ErrNotFound) {
		return Who{}, nil
	}
	if err != nil {
		return Who{}, err
	}
	w, err := a.whoOf(ctx, s)
	if err != nil || w.Role == "" {
		return Who{}, err
	}
	if now.Sub(s.Seen) > seenEvery {
		ends := now.Add(s.Ends.Sub(s.Seen))
		if err := a.store.Write(ctx, func(tx *store.Store) error { return tx.SeeSession(ctx, s.ID, now, ends) }); err != nil {
			return Who{}, err
		}
	}
	a.door.remember(kept, w, now)
	return w, nil
}

// whoOf is who a session is of. A person's role is what it is now, and never more than the session was given.
func (a *App) whoOf(ctx context.Context, s store.Session) (Who, error) {
	w := Who{Session: s.ID, Role: Role(s.Role), Device: s.Device, Name: s.Device}
	if s.PersonID == "" {
		return w, nil
	}
	list, err := a.store.Accounts(ctx)
	if err != nil {
		return Who{}, err
	}
	i := slices.IndexFunc(list, func(x store.Account) bool { return x.ID == s.PersonID && x.Secret != "" })
	if i < 0 {
		return Who{}, nil
	}
	p := list[i]
	w.Person, w.Name, w.Initials = p.ID, p.Name, p.Initials
	if !Role(p.Role).May(w.Role) || w.Role == "" {
		w.Role = Role(p.Role)
	}
	return w, nil
}

// Leave ends a session; everywhere ends all of that person.
func (a *App) Leave(ctx context.Context, w Who, everywhere bool) error {
	defer a.door.forget()
	now := a.now()
	return a.store.Write(ctx, func(tx *store.Store) error {
		if everywhere && w.Person != "" {
			return tx.EndSessions(ctx, w.Person, now)
		}
		if err := tx.EndSession(ctx, w.Session); !errors.Is(err, store.ErrNotFound) {
			return err
		}
		return nil
	})
}

// As is a context in which what is written is written on somebody's behalf.
func As(ctx context.Context, w Who) context.Context {
	return store.WithPerson(context.WithValue(ctx, whoKey{}, w), w.Person)
}

type whoKey struct{}

// Asking is on whose behalf something is asked; nobody where there is no login.
func Asking(ctx context.Context) Who {
	w, _ := ctx.Value(whoKey{}).(Who)
	return w
}
