package app

import (
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/base64"
	"encoding/hex"
	"fmt"
	"math/big"
	"slices"
	"strings"
	"sync"
	"time"
)

// Role is what somebody may do; each may do what those before it may.
type Role string

// The roles, from the least.
const (
	Anybody  Role = "anybody"  // needs no login
	Onlooker Role = "onlooker" // sees everything, changes nothing
	Closer   Role = "closer"   // logs drinks, leads runs, ticks the close
	Keeper   Role = "keeper"   // keeps machines, water, schools and stock
	Owner    Role = "owner"    // says who may do what, and keeps the database
)

var roles = []Role{Anybody, Onlooker, Closer, Keeper, Owner}

func (r Role) rank() int {
	for i, x := range roles {
		if x == r {
			return i
		}
	}
	return -1
}

// Roles are those that somebody may have, from the least.
func Roles() []Role { return slices.Clone(roles[1:]) }

// Known says whether it is one that somebody may have.
func (r Role) Known() bool { return r.rank() > 0 }

// May says whether this role may do what another is needed for. What nobody knows may nothing.
func (r Role) May(needs Role) bool { return needs.rank() >= 0 && r.rank() >= needs.rank() }

// Who is somebody, or a device, that was let in. The zero value is nobody.
type Who struct {
	Session  string
	Person   string // empty for a device that belongs to nobody
	Name     string
	Initials string
	Role     Role
	Device   string
}

// Denied is why nobody is let in.
type Denied struct {
	Code, Title, Detail string
	Wait                time.Duration // after which it may be tried again; 0 where trying again is no use
}

// Error is the title.
func (d *Denied) Error() string { return d.Title }

// Bounds of the door (our own engineering choices).
const (
	freeTries   = 3                // before somebody waits
	lockedAfter = 10               // failures in a row
	longestWait = 15 * time.Minute // and for how long it is then locked
	pairingFor  = 5 * time.Minute
	mostOffers  = 5
	mostNames   = 4096 // names and addresses that are remembered
	cachedFor   = time.Minute
	loginFor    = 30 * 24 * time.Hour
	pairedFor   = 180 * 24 * time.Hour
	seenEvery   = time.Hour
)

// door is what is known of who stands before it. Nothing of it outlives the process but the sessions.
type door struct {
	mu     sync.Mutex
	first  string // hash of the one-time code for the first owner; empty where there is none
	fails  map[string]fail
	offers []offer
	cache  map[string]cached
	told   func() // whoever must hear that somebody was shut out
}

type fail struct {
	count int
	until time.Time // before which nothing is tried
	last  time.Time
}

type cached struct {
	who   Who
	until time.Time
}

// offer is a device that may be paired.
type offer struct {
	code, token string // hashes
	person      string
	maker       string // the session that made it, and dies with it
	role        Role
	device      string
	ends        time.Time
	wrong       int
}

// hashed is a token or a code as it is kept.
func hashed(text string) string {
	sum := sha256.Sum256([]byte(text))
	return hex.EncodeToString(sum[:])
}

func alike(a, b string) bool { return subtle.ConstantTimeCompare([]byte(a), []byte(b)) == 1 }

// newToken is 256 bits that nobody guesses.
func newToken() string {
	b := make([]byte, 32)
	_, _ = rand.Read(b) // it never fails: the runtime ends the process instead
	return base64.RawURLEncoding.EncodeToString(b)
}

// newCode is a code to be typed: so many signs that are not taken for one another.
func newCode(signs string, n int) string {
	var out strings.Builder
	for range n {
		i, _ := rand.Int(rand.Reader, big.NewInt(int64(len(signs))))
		out.WriteByte(signs[i.Int64()])
	}
	return out.String()
}

const (
	digits  = "0123456789"
	plainly = "ABCDEFGHJKMNPQRSTUVWXYZ23456789"
)

// typed is a code as somebody types it.
func typed(code string) string {
	return strings.ToUpper(strings.NewReplacer(" ", "", "-", "").Replace(code))
}

// nowhere is the key of an address that nobody knows: nobody waits for what others did there.
const nowhere = "from "

// wait refuses who has failed too often: first a little, then for long.
func (d *door) wait(now time.Time, keys ...string) error {
	d.mu.Lock()
	defer d.mu.Unlock()
	for _, key := range keys {
		if f := d.fails[key]; key != nowhere && now.Before(f.until) {
			left := f.until.Sub(now).Round(time.Second)
			title := "Wait a little"
			if f.count >= lockedAfter {
				title = "Locked, for a while"
			}
			return &Denied{Code: "wait", Title: title, Wait: max(time.Second, left), Detail: fmt.Sprintf(
				"Too many tries failed. Try again in %s. The owner can give a new passphrase; for the owner, "+
					"freshanvil owner on the server does.", long(left))}
		}
	}
	return nil
}

// long is a time in words.
func long(d time.Duration) string {
	if d < 2*time.Minute {
		return fmt.Sprintf("%d seconds", max(1, int(d.Seconds())))
	}
	return fmt.Sprintf("%d minutes", int(d.Round(time.Minute).Minutes()))
}

// try counts a try before anything is compared: whatever comes at the same moment is counted, too. It refuses who has
// failed too often; passed takes the count back.
func (d *door) try(now time.Time, keys ...string) error {
	if err := d.wait(now, keys...); err != nil {
		return err
	}
	d.failed(now, keys...)
	return nil
}

// failed notes a failure: after a few, each doubles the wait.
func (d *door) failed(now time.Time, keys ...string) {
	d.mu.Lock()
	defer d.mu.Unlock()
	if len(d.fails) > mostNames {
		for key, f := range d.fails {
			if now.Sub(f.last) > longestWait {
				delete(d.fails, key)
			}
		}
	}
	if d.fails == nil || len(d.fails) > 2*mostNames {
		d.fails = map[string]fail{} // who floods it gains a few tries, nobody is kept out
	}
	for _, key := range keys {
		if key == nowhere {
			continue
		}
		f := d.fails[key]
		if now.Sub(f.last) > longestWait {
			f.count = 0
		}
		f.count, f.last = f.count+1, now
		switch {
		case f.count >= lockedAfter:
			f.until = now.Add(longestWait)
		case f.count > freeTries:
			f.until = now.Add(time.Second << (f.count - freeTries))
		}
		d.fails[key] = f
	}
}

// untry takes one try back, which was none that failed.
func (d *door) untry(keys ...string) {
	d.mu.Lock()
	defer d.mu.Unlock()
	for _, key := range keys {
		f, is := d.fails[key]
		if f.count--; !is || f.count <= 0 {
			delete(d.fails, key)
			continue
		}
		if f.count <= freeTries {
			f.until = time.Time{}
		}
		d.fails[key] = f
	}
}

func (d *door) passed(keys ...string) {
	d.mu.Lock()
	defer d.mu.Unlock()
	for _, key := range keys {
		delete(d.fails, key)
	}
}

// forget drops what is remembered of who was let in: each is looked up anew. Who is told of it looks, too.
func (d *door) forget() {
	d.mu.Lock()
	d.cache = nil
	told := d.told
	d.mu.Unlock()
	if told != nil {
		told()
	}
}

// withdraw takes back the offers that a session has made.
func (d *door) withdraw(sessions ...string) {
	d.mu.Lock()
	defer d.mu.Unlock()
	d.offers = slices.DeleteFunc(d.offers, func(o offer) bool { return slices.Contains(sessions, o.maker) })
}

func (d *door) remembered(token string, now time.Time) (Who, bool) {
	d.mu.Lock()
	defer d.mu.Unlock()
	c, is := d.cache[token]
	return c.who, is && now.Before(c.until)
}

func (d *door) remember(token string, w Who, now time.Time) {
	d.mu.Lock()
	defer d.mu.Unlock()
	if d.cache == nil || len(d.cache) > mostNames {
		d.cache = map[string]cached{}
	}
	d.cache[token] = cached{w, now.Add(cachedFor)}
}
