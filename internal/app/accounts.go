package app

import (
	"context"
	"errors"
	"slices"
	"strings"
	"time"

	"freshanvil/core/units"
	"freshanvil/internal/store"
)

// Account is a person and what they may do.
type Account struct {
	store.Person
	Role   Role
	LogsIn bool // they have a passphrase
}

// Accounts lists the people with what they may do.
func (a *App) Accounts(ctx context.Context) ([]Account, error) {
	list, err := a.store.Accounts(ctx)
	out := make([]Account, len(list))
	for i, x := range list {
		out[i] = Account{x.Person, Role(x.Role), x.Secret != ""}
	}
	return out, err
}

// SetAccount says what somebody may do and, where one is given, their passphrase; whoever was let in as them logs in
// anew then. The last owner stays one.
func (a *App) SetAccount(ctx context.Context, id string, role Role, passphrase string) error {
	if !role.Known() {
		return &units.OutOfRange{Field: "role", Value: string(role), Allowed: "owner, keeper, closer or onlooker"}
	}
	list, err := a.store.Accounts(ctx)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(list, func(x store.Account) bool { return x.ID == id })
	if i < 0 {
		return missing(store.ErrNotFound, "Nobody of that id", "person_id", id, "somebody on the list")
	}
	secret := ""
	if passphrase != "" {
		if secret, err = hash(ctx, passphrase, list[i].Name); err != nil {
			return err
		}
	}
	now := a.now()
	defer a.door.forget()
	err = a.store.Write(ctx, func(tx *store.Store) error {
		if role != Owner {
			if err := leavesOwner(ctx, tx, id); err != nil {
				return err
			}
		}
		if secret != "" {
			if err := tx.EndSessions(ctx, id, now); err != nil {
				return err
			}
		}
		return tx.SetAccount(ctx, id, string(role), secret)
	})
	if err == nil && secret != "" {
		a.door.passed("name " + strings.ToLower(list[i].Name))
	}
	return err
}

// leavesOwner refuses to take away the last one who may let others in.
func leavesOwner(ctx context.Context, tx *store.Store, id string) error {
	list, err := tx.Accounts(ctx)
	if err != nil {
		return err
	}
	owns := func(x store.Account) bool { return Role(x.Role) == Owner && x.Secret != "" }
	was := slices.ContainsFunc(list, func(x store.Account) bool { return x.ID == id && owns(x) })
	others := slices.ContainsFunc(list, func(x store.Account) bool { return x.ID != id && owns(x) })
	if was && !others {
		return &Conflict{Code: "last_owner", Title: "The last owner stays", Field: "person_id", Value: id,
			Allowed: "somebody else who is an owner first"}
	}
	return nil
}

// ChangePassphrase gives whoever asks a new passphrase, against the old one; their other sessions end.
func (a *App) ChangePassphrase(ctx context.Context, w Who, old, fresh string) error {
	keys := []string{"name " + strings.ToLower(w.Name)}
	now := a.now()
	if err := a.door.wait(now, keys...); err != nil {
		return err
	}
	list, err := a.store.Accounts(ctx)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(list, func(x store.Account) bool { return x.ID == w.Person && x.Secret != "" })
	if i < 0 {
		return &Denied{Code: "login", Title: "A device has no passphrase"}
	}
	is, err := compare(ctx, old, list[i].Secret)
	if err != nil {
		return err
	}
	if !is {
		a.door.failed(now, keys...)
		return &units.OutOfRange{Field: "old", Value: "another", Allowed: "the passphrase that holds now"}
	}
	secret, err := hash(ctx, fresh, w.Name)
	if err != nil {
		return err
	}
	defer a.door.forget()
	a.door.withdraw(w.Session)
	return a.store.Write(ctx, func(tx *store.Store) error {
		all, err := tx.Sessions(ctx, now)
		if err != nil {
			return err
		}
		for _, s := range all {
			if s.PersonID == w.Person {
				a.door.withdraw(s.ID)
			}
			if s.PersonID == w.Person && s.ID != w.Session {
				if err := tx.EndSession(ctx, s.ID); err != nil {
					return err
				}
			}
		}
		return tx.SetAccount(ctx, w.Person, list[i].Role, secret)
	})
}

// Device is a browser that is let in.
type Device struct {
	ID, Name   string
	Person     string // by name; empty where it belongs to nobody
	Role       Role
	Made, Seen time.Time
	This       bool // it is the one that asks
}

// Devices lists what is let in, last seen first: all of them to an owner, their own to anybody else.
func (a *App) Devices(ctx context.Context, w Who) ([]Device, error) {
	all, err := a.store.Sessions(ctx, a.now())
	if err != nil {
		return nil, err
	}
	names, err := a.store.Accounts(ctx)
	if err != nil {
		return nil, err
	}
	list := []Device{}
	for _, s := range all {
		if w.Role != Owner && (s.PersonID == "" || s.PersonID != w.Person) {
			continue
		}
		d := Device{ID: s.ID, Name: s.Device, Role: Role(s.Role), Made: s.Made, Seen: s.Seen, This: s.ID == w.Session}
		for _, x := range names {
			if x.ID == s.PersonID {
				d.Person = x.Name
			}
		}
		list = append(list, d)
	}
	return list, nil
}

// Revoke takes a device back: what it sends next is refused. A run that it led goes on, and is led by another.
func (a *App) Revoke(ctx context.Context, w Who, id string) error {
	list, err := a.Devices(ctx, w)
	if err != nil {
		return err
	}
	if !slices.ContainsFunc(list, func(d Device) bool { return d.ID == id }) {
		return nil // it is out already, or somebody else's, of which nobody hears from here
	}
	defer a.door.forget()
	a.door.withdraw(id)
	return a.store.Write(ctx, func(tx *store.Store) error {
		if err := tx.EndSession(ctx, id); !errors.Is(err, store.ErrNotFound) {
			return err
		}
		return nil
	})
}

// Offer is what another device shows or types to be let in: either, once, for five minutes.
type Offer struct {
	Code  string // six digits
	Token string
	Ends  time.Time
}

// OfferPairing lets one device more in: as whoever asks, with their role or a lower one; or, for the bar, as nobody,
// to tick the close and to lead a run.
func (a *App) OfferPairing(w Who, role Role, device string, kiosk bool) (Offer, error) {
	if kiosk {
		role = Closer
	}
	if !role.Known() || !w.Role.May(role) {
		return Offer{}, &units.OutOfRange{Field: "role", Value: string(role), Allowed: "your own role, or a lower one"}
	}
	device, err := units.Line("name", device, true, longestTitle)
	if err != nil {
		return Offer{}, err
	}
	now := a.now()
	if w.Session != "" && w.Person == "" {
		return Offer{}, &Denied{Code: "role", Title: "A tablet lets no other device in",
			Detail: "Somebody who is logged in by name does that."}
	}
	out := Offer{Code: newCode(digits, 6), Token: newToken(), Ends: now.Add(pairingFor)}
	o := offer{code: hashed(out.Code), token: hashed(out.Token), person: w.Person, maker: w.Session, role: role,
		device: device, ends: out.Ends}
	if kiosk {
		o.person = ""
	}
	a.door.mu.Lock()
	defer a.door.mu.Unlock()
	a.door.offers = slices.DeleteFunc(a.door.offers, func(x offer) bool { return !now.Before(x.ends) })
	if len(a.door.offers) >= mostOffers {
		a.door.offers = a.door.offers[1:]
	}
	a.door.offers = append(a.door.offers, o)
	return out, nil
}

// mostWrong is how many wrong codes take the offers back: six digits are not to be tried through.
const mostWrong = 5

// Pair lets a device in that has a code or a token of an offer. Each is used up by it.
func (a *App) Pair(ctx context.Context, t Attempt) (token string, w Who, err error) {
	now := a.now()
	key := "from " + t.From
	if err := a.door.wait(now, key); err != nil {
		return "", w, err
	}
	given := hashed(strings.TrimSpace(t.Code))
	code := hashed(typed(t.Code))
	a.door.mu.Lock()
	i := slices.IndexFunc(a.door.offers, func(o offer) bool {
		return now.Before(o.ends) && (alike(o.token, given) || alike(o.code, code))
	})
	var o offer
	if i >= 0 {
		o = a.door.offers[i]
		a.door.offers = slices.Delete(a.door.offers, i, i+1)
	} else {
		for n := range a.door.offers {
			a.door.offers[n].wrong++
		}
		a.door.offers = slices.DeleteFunc(a.door.offers, func(o offer) bool { return o.wrong >= mostWrong })
	}
	a.door.mu.Unlock()
	if i < 0 {
		a.door.failed(now, key)
		return "", w, &Denied{Code: "code", Title: "The code is wrong, used up, or too old",
			Detail: "Show a new one on the device that is let in: Preferences, Let a device in."}
	}
	a.door.passed(key)
	if o.maker != "" { // an offer is good as long as whoever made it is let in
		if all, err := a.store.Sessions(ctx, now); err != nil {
			return "", w, err
		} else if !slices.ContainsFunc(all, func(s store.Session) bool { return s.ID == o.maker }) {
			return "", w, &Denied{Code: "code", Title: "The code is wrong, used up, or too old"}
		}
	}
	return a.begin(ctx, o.person, o.role, o.device, pairedFor)
}
