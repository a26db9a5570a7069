package app

import (
	"context"
	"encoding/json"
	"fmt"
	"net"
	"net/mail"
	"net/url"
	"strings"
	"time"

	"freshanvil/core/remind"
	"freshanvil/core/units"
	"freshanvil/internal/store"
)

// The ways by which somebody is reminded.
const (
	MailChannel = "mail"
	HookChannel = "webhook"
)

// Reminders is whom is told what falls due, by what, and when not. The zero value tells nobody.
type Reminders struct {
	Mail Mail `json:"mail"`
	Hook Hook `json:"webhook"`
	// QuietFrom and QuietTo are times of the day there, such as 22:00; empty for no quiet hours.
	QuietFrom string `json:"quiet_from"`
	QuietTo   string `json:"quiet_to"`
	Zone      string `json:"zone"`
	Address   string `json:"address"` // where the pages are found, for what leads there; may be empty
}

// Mail is a server that sends mail, and who is written to.
type Mail struct {
	On       bool   `json:"on"`
	Host     string `json:"host"`
	Port     int    `json:"port"`
	Security string `json:"security"` // starttls, tls; none to a server on this machine only
	User     string `json:"user"`
	Password string `json:"password"`
	From     string `json:"from"`
	To       string `json:"to"` // one address or more, with commas between
}

// Hook is an address that is told as JSON.
type Hook struct {
	On     bool   `json:"on"`
	URL    string `json:"url"`
	Secret string `json:"secret"` // signs what is sent; empty for no signature
}

// Message is what is told.
type Message struct {
	Subject, Text string
	Made          time.Time
	Jobs          []remind.Job
	Machines      map[string]store.Machine // by their ids
	Trial         bool
}

// Sender sends what is told; package post does.
type Sender interface {
	Mail(ctx context.Context, by Mail, m Message) error
	Hook(ctx context.Context, by Hook, m Message) error
}

// Delivery is how it went with a channel.
type Delivery struct {
	Sent     time.Time `json:"sent"` // last; zero for never
	Failed   string    `json:"failed"`
	Failures int       `json:"failures"` // in a row
	Next     time.Time `json:"next"`     // when it is tried again; zero where nothing waits
}

// Notes about the database in which they are kept.
const (
	remindersKey  = "reminders"
	deliveriesKey = "deliveries"
)

// longestOf are how long the words of the reminders may be, letters.
const (
	longestHost    = 253
	longestURL     = 500
	longestAddress = 254
)

// remembered is for how long it is known what was told.
const remembered = 3 * 366 * 24 * time.Hour

// Reminders is who is reminded, secrets and all.
func (a *App) Reminders(ctx context.Context) (r Reminders, err error) {
	return r, a.noteOf(ctx, remindersKey, &r)
}

// Deliveries says how it went, by channel.
func (a *App) Deliveries(ctx context.Context) (map[string]Delivery, error) {
	all := map[string]Delivery{}
	return all, a.noteOf(ctx, deliveriesKey, &all)
}

func (a *App) noteOf(ctx context.Context, key string, into any) error {
	text, err := a.Meta(ctx, key)
	if err != nil || text == "" {
		return err
	}
	if err := json.Unmarshal([]byte(text), into); err != nil {
		return fmt.Errorf("%s: %w", key, err)
	}
	return nil
}

// SetReminders says who is reminded. An empty password or secret leaves the one that is kept, as long as the server or
// the address stays the same: it is never sent anywhere else.
func (a *App) SetReminders(ctx context.Context, r Reminders) error {
	was, err := a.Reminders(ctx)
	if err != nil {
		return err
	}
	if r.Mail.Password == "" && r.Mail.Host == was.Mail.Host && r.Mail.User == was.Mail.User {
		r.Mail.Password = was.Mail.Password
	}
	if r.Hook.Secret == "" && r.Hook.URL == was.Hook.URL {
		r.Hook.Secret = was.Hook.Secret
	}
	if err := r.check(); err != nil {
		return err
	}
	text, err := json.Marshal(r)
	if err != nil {
		return err
	}
	return a.store.Write(ctx, func(tx *store.Store) error {
		if err := tx.SetMeta(ctx, deliveriesKey, "{}"); err != nil { // what failed may go now
			return err
		}
		return tx.SetMeta(ctx, remindersKey, string(text))
	})
}

func (r Reminders) check() error {
	if _, err := remind.ParseHours(r.QuietFrom, r.QuietTo); err != nil {
		return err
	}
	if _, err := time.LoadLocation(r.Zone); err != nil || r.Zone == "" {
		return &units.OutOfRange{Field: "zone", Value: r.Zone, Allowed: "a zone such as Europe/Lisbon"}
	}
	if u, err := url.Parse(r.Address); r.Address != "" && (err != nil || u.Host == "" || len(r.Address) > longestURL ||
		u.Scheme != "https" && u.Scheme != "http" || strings.Trim(u.Path, "/") != "") {
		return &units.OutOfRange{Field: "address", Value: r.Address, Allowed: "such as https://bench.example.org, or empty"}
	}
	if r.Mail.On {
		if err := r.Mail.check(); err != nil {
			return err
		}
	}
	if r.Hook.On {
		return r.Hook.check()
	}
	return nil
}

// Recipients are who is written to.
func (m Mail) Recipients() ([]string, error) {
	var list []string
	for part := range strings.SplitSeq(m.To, ",") {
		to, err := mail.ParseAddress(strings.TrimSpace(part))
		if err != nil || len(to.Address) > longestAddress {
			return nil, &units.OutOfRange{Field: "mail.to", Value: part, Allowed: "addresses such as ines@example.org"}
		}
		list = append(list, to.Address)
	}
	return list, nil
}

func (m Mail) check() error {
	host, err := units.Line("mail.host", m.Host, true, longestHost)
	if err != nil || host != m.Host || strings.ContainsAny(host, "/: ") {
		return &units.OutOfRange{Field: "mail.host", Value: m.Host, Allowed: "the name of a server, such as mail.example.org"}
	}
	if m.Port < 1 || m.Port > 65535 {
		return &units.OutOfRange{Field: "mail.port", Value: fmt.Sprint(m.Port), Allowed: "1 to 65535; most often 587 or 465"}
	}
	switch m.Security {
	case "starttls", "tls":
	case "none":
		if ip := net.ParseIP(m.Host); m.Host != "localhost" && (ip == nil || !ip.IsLoopback()) {
			return &units.OutOfRange{Field: "mail.security", Value: m.Security,
				Allowed: "starttls or tls; without either only to a server on this machine"}
		}
	default:
		return &units.OutOfRange{Field: "mail.security", Value: m.Security, Allowed: "starttls, tls, none"}
	}
	if from, err := mail.ParseAddress(m.From); err != nil || len(from.Address) > longestAddress {
		return &units.OutOfRange{Field: "mail.from", Value: m.From, Allowed: "an address such as bench@example.org"}
	}
	_, err = m.Recipients()
	return err
}

func (h Hook) check() error {
	u, err := url.Parse(h.URL)
	if err != nil || u.Host == "" || len(h.URL) > longestURL || u.User != nil ||
		u.Scheme != "https" && u.Scheme != "http" {
		return &units.OutOfRange{Field: "webhook.url", Value: h.URL,
			Allowed: "an address such as https://example.org/hook, without a name or password in it"}
	}
	return nil
}
