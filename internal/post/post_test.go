package post

import (
	"context"
	"encoding/json"
	"errors"
	"net"
	"net/http"
	"net/http/httptest"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"freshanvil/core/machine"
	"freshanvil/core/units"
	"freshanvil/internal/app"
	"freshanvil/internal/standin"
)

// desk is a bench with one machine, and a mail server and a webhook that stand in for real ones.
type desk struct {
	*testing.T
	*app.App
	now          time.Time
	mail, hook   *standin.Box
	port         int
	web          *httptest.Server
	id           string
	said         app.Reminders
	closeMailing func()
}

func newDesk(t *testing.T) *desk {
	t.Helper()
	d := &desk{T: t, now: time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC), mail: &standin.Box{}, hook: &standin.Box{}}
	a, err := app.Open(t.Context(), filepath.Join(t.TempDir(), "test.db"), func() time.Time { return d.now })
	if err != nil {
		t.Fatal(err)
	}
	d.App = a
	t.Cleanup(func() { _ = a.Close() })
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	server := standin.MailServer(l, d.mail)
	d.closeMailing = func() { _ = server.Close() }
	t.Cleanup(d.closeMailing)
	d.port = l.Addr().(*net.TCPAddr).Port
	d.web = httptest.NewServer(standin.Hook(d.hook))
	t.Cleanup(d.web.Close)
	d.id = uuid.NewString()
	err = a.CreateMachine(t.Context(), app.NewMachine{ID: d.id, Name: "Tea deck", Owner: "Ferry line", Zone: "UTC",
		Answers: machine.Answers{Layout: machine.HXHome, Valve: machine.Yes, Drinks: 6, MilkDrinks: 2,
			Treatment: machine.Untreated}})
	if err != nil {
		t.Fatal(err)
	}
	d.said = app.Reminders{Zone: "UTC", QuietFrom: "22:00", QuietTo: "07:00", Address: "http://bench.local",
		Mail: app.Mail{On: true, Host: "127.0.0.1", Port: d.port, Security: "none", From: "bench@example.org",
			To: "ines@example.org, rui@example.org"},
		Hook: app.Hook{On: true, URL: d.web.URL + "/told", Secret: "tea"}}
	d.says(d.said)
	return d
}

func (d *desk) says(r app.Reminders) {
	d.Helper()
	if err := d.SetReminders(d.Context(), r); err != nil {
		d.Fatal(err)
	}
}

func (d *desk) remind() (mails, hooks int) {
	d.Helper()
	if err := d.Remind(d.Context(), Post{}); err != nil {
		d.Fatal(err)
	}
	return len(d.mail.List()), len(d.hook.List())
}

func (d *desk) went(channel string) app.Delivery {
	d.Helper()
	all, err := d.Deliveries(d.Context())
	if err != nil {
		d.Fatal(err)
	}
	return all[channel]
}

// What falls due is told once by mail and to the webhook, in words and as signed JSON; not again, not in the quiet
// hours, and by mail once a day at most.
func TestRemindedOnce(t *testing.T) {
	d := newDesk(t)
	d.now = time.Date(2026, 3, 10, 23, 0, 0, 0, time.UTC)
	if mails, hooks := d.remind(); mails+hooks != 0 {
		t.Errorf("in the quiet hours: %d mails, %d requests", mails, hooks)
	}
	d.now = time.Date(2026, 3, 11, 7, 30, 0, 0, time.UTC)
	if mails, hooks := d.remind(); mails != 1 || hooks != 1 {
		t.Fatalf("in the morning: %d mails, %d requests; %+v %+v", mails, hooks, d.went("mail"), d.went("webhook"))
	}
	if mails, hooks := d.remind(); mails != 1 || hooks != 1 {
		t.Errorf("at once again: %d mails, %d requests", mails, hooks)
	}
	m := d.mail.List()[0]
	if m.To != "ines@example.org, rui@example.org" || !strings.HasPrefix(m.Subject, "Fresh Anvil: ") ||
		!strings.Contains(m.Text, "Tea deck") || !strings.Contains(m.Text, "Detergent wash") ||
		!strings.Contains(m.Text, "http://bench.local/machines/"+d.id) {
		t.Errorf("%+v", m)
	}
	h := d.hook.List()[0]
	var p Payload
	if err := json.Unmarshal([]byte(h.Text), &p); err != nil || p.Event != "reminder" || len(p.Machines) != 1 ||
		p.Machines[0].Owner != "Ferry line" || len(p.Machines[0].Jobs) == 0 || p.Machines[0].Jobs[0].Stage != "due" {
		t.Errorf("%+v, %v", p, err)
	}
	if h.Header.Get(Signature) != Sign("tea", []byte(h.Text)) {
		t.Errorf("signed %q", h.Header.Get(Signature))
	}
	// a machine that is added later the same day: the webhook hears of it, the mail waits for the next day
	err := d.CreateMachine(t.Context(), app.NewMachine{ID: uuid.NewString(), Name: "Galley", Zone: "UTC",
		Answers: machine.Answers{Layout: machine.HXHome, Valve: machine.Yes, Drinks: 6, Treatment: machine.Untreated}})
	if err != nil {
		t.Fatal(err)
	}
	d.now = d.now.Add(time.Hour)
	if mails, hooks := d.remind(); mails != 1 || hooks != 2 {
		t.Errorf("later that day: %d mails, %d requests", mails, hooks)
	}
	d.now = d.now.Add(24 * time.Hour)
	if mails, _ := d.remind(); mails != 2 || strings.Contains(d.mail.List()[1].Text, "Tea deck") {
		t.Errorf("the next day: %d mails, %+v", mails, d.mail.List()[1])
	}
	if err := d.TryReminder(t.Context(), Post{}, "mail"); err != nil || len(d.mail.List()) != 3 {
		t.Errorf("a trial is sent at once: %v", err)
	}
}

// A server that refuses, is slow or is gone: it is said why, what was to be told is told later, once.
func TestWhatCannotBeSentIsTriedAgain(t *testing.T) {
	d := newDesk(t)
	d.mail.Answers(true, 0)
	d.hook.Answers(true, 0)
	d.remind()
	for _, channel := range []string{"mail", "webhook"} {
		w := d.went(channel)
		if w.Failures != 1 || w.Failed == "" || !w.Next.After(d.now) || !w.Sent.IsZero() {
			t.Errorf("%s, refused: %+v", channel, w)
		}
	}
	d.mail.Answers(false, 0)
	d.hook.Answers(false, 0)
	if mails, hooks := d.remind(); mails+hooks != 0 {
		t.Error("tried again at once")
	}
	d.now = d.now.Add(16 * time.Minute)
	if mails, hooks := d.remind(); mails != 1 || hooks != 1 {
		t.Errorf("a quarter of an hour later: %d, %d", mails, hooks)
	}
	if w := d.went("mail"); w.Failed != "" || !w.Sent.Equal(d.now) {
		t.Errorf("%+v", w)
	}

	d.closeMailing()
	d.now = d.now.Add(30 * 24 * time.Hour) // other jobs have fallen due
	d.remind()
	if w := d.went("mail"); w.Failures != 1 || !strings.Contains(w.Failed, "127.0.0.1") {
		t.Errorf("gone: %+v", w)
	}
	var not *app.Conflict
	if err := d.TryReminder(t.Context(), Post{}, "mail"); !errors.As(err, &not) || not.Code != "not_sent" ||
		not.Detail == "" {
		t.Errorf("%v", err)
	}
	// once it is off, nothing is tried
	d.said.Mail.On, d.said.Hook.On = false, false
	d.says(d.said)
	d.now = d.now.Add(24 * time.Hour)
	before := len(d.hook.List())
	if _, hooks := d.remind(); hooks != before || d.went("mail").Failures != 0 {
		t.Error("off, and still tried")
	}
}

// Nothing follows a redirect, and no secret goes to another server than the one it was given for.
func TestSecretsStayWhereTheyBelong(t *testing.T) {
	d := newDesk(t)
	elsewhere := httptest.NewServer(http.RedirectHandler(d.web.URL, http.StatusTemporaryRedirect))
	defer elsewhere.Close()
	err := Post{}.Hook(t.Context(), app.Hook{URL: elsewhere.URL, Secret: "tea"}, app.Message{})
	if err == nil || len(d.hook.List()) != 0 {
		t.Errorf("followed: %v", err)
	}
	moved := d.said
	moved.Hook = app.Hook{On: true, URL: elsewhere.URL}
	moved.Mail.Password = "kettle"
	d.says(moved)
	moved.Mail.Password, moved.Mail.Host = "", "localhost"
	d.says(moved)
	got, err := d.Reminders(t.Context())
	if err != nil || got.Hook.Secret != "" || got.Mail.Password != "" {
		t.Errorf("%+v, %v", got, err)
	}
	for field, change := range map[string]func(*app.Reminders){
		"mail.security": func(r *app.Reminders) { r.Mail.Host = "mail.example.org" },
		"mail.host":     func(r *app.Reminders) { r.Mail.Host = "http://x" },
		"mail.port":     func(r *app.Reminders) { r.Mail.Port = 0 },
		"mail.to":       func(r *app.Reminders) { r.Mail.To = "ines@example.org\nBcc: eve@example.org" },
		"mail.from":     func(r *app.Reminders) { r.Mail.From = "nobody" },
		"webhook.url":   func(r *app.Reminders) { r.Hook.URL = "file:///etc/hosts" },
		"quiet_to":      func(r *app.Reminders) { r.QuietTo = "7" },
		"zone":          func(r *app.Reminders) { r.Zone = "Nowhere/Land" },
		"address":       func(r *app.Reminders) { r.Address = "javascript:alert(1)" },
	} {
		r := d.said
		change(&r)
		var bad *units.OutOfRange
		if err := d.SetReminders(t.Context(), r); !errors.As(err, &bad) || bad.Field != field {
			t.Errorf("%s: %v", field, err)
		}
	}
}

// A server that does not answer is given up on; who waits is not held.
func TestASlowServerIsGivenUpOn(t *testing.T) {
	d := newDesk(t)
	d.mail.Answers(false, time.Hour)
	d.hook.Answers(false, time.Hour)
	for name, send := range map[string]func(context.Context) error{
		"mail":    func(ctx context.Context) error { return Post{}.Mail(ctx, d.said.Mail, app.Message{Subject: "x"}) },
		"webhook": func(ctx context.Context) error { return Post{}.Hook(ctx, d.said.Hook, app.Message{Subject: "x"}) },
	} {
		t.Run(name, func(t *testing.T) {
			ctx, done := context.WithTimeout(t.Context(), 200*time.Millisecond)
			defer done()
			if err := send(ctx); err == nil {
				t.Error("an hour has passed, or nobody waited for the answer")
			}
		})
	}
	if len(d.mail.List())+len(d.hook.List()) != 0 {
		t.Error("something was kept")
	}
}

// R16. Nothing is sent to an address that only the machine's own link knows, whatever name leads there.
func TestNothingGoesToALinkLocalAddress(t *testing.T) {
	for address, want := range map[string]bool{"169.254.169.254:80": false, "[fe80::1]:443": false,
		"[ff02::1]:80": false, "127.0.0.1:8080": true, "192.0.2.7:443": true, "[2001:db8::1]:443": true} {
		if err := notLinkLocal("tcp", address, nil); (err == nil) != want {
			t.Errorf("%s: %v", address, err)
		}
	}
	err := Post{}.Hook(t.Context(), app.Hook{On: true, URL: "http://169.254.169.254/latest"}, app.Message{})
	if err == nil || !strings.Contains(err.Error(), "link-local") {
		t.Errorf("%v", err)
	}
}
