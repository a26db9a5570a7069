package api

import (
	"net"
	"strings"
	"testing"

	"freshanvil/internal/standin"
)

// Reminders are off until somebody asks; a password is taken, never shown, and kept when it is left out; a trial says
// whether the server took it.
func TestRemindersAreSet(t *testing.T) {
	b := newBench(t)
	var r Reminders
	b.call("GET", "/api/reminders", nil, 200, &r)
	if r.Mail.On || r.Webhook.On || r.Mail.Security != "starttls" || r.Mail.Port != 587 || len(r.Went) != 0 {
		t.Errorf("%+v", r)
	}
	box := &standin.Box{}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	server := standin.MailServer(l, box)
	defer server.Close()
	mail := fields{"on": true, "host": "127.0.0.1", "port": l.Addr().(*net.TCPAddr).Port, "security": "none", "user": "",
		"password": "kettle", "from": "bench@example.org", "to": "ines@example.org"}
	said := fields{"mail": mail, "webhook": fields{"on": false, "url": ""}, "quiet_from": "22:00", "quiet_to": "07:00",
		"zone": "Europe/Lisbon", "address": ""}
	b.call("PUT", "/api/reminders", said, 200, &r)
	delete(mail, "password")
	b.call("PUT", "/api/reminders", said, 200, &r)
	rec := b.sent("GET", "/api/reminders", "", nil)
	if !r.Mail.HasPassword || strings.Contains(rec.Body.String(), "kettle") {
		t.Errorf("%+v", r)
	}
	b.call("POST", "/api/reminders/trials", fields{"channel": "mail"}, 204, nil)
	if list := box.List(); len(list) != 1 || !strings.Contains(list[0].Text, "a trial") {
		t.Errorf("%+v", list)
	}
	box.Answers(true, 0)
	var p Problem
	b.call("POST", "/api/reminders/trials", fields{"channel": "mail"}, 409, &p)
	if p.Code != "not_sent" || p.Detail == nil || !strings.Contains(*p.Detail, "refused") {
		t.Errorf("%+v", p)
	}
	b.call("POST", "/api/reminders/trials", fields{"channel": "webhook"}, 409, &p)
	if p.Code != "channel_off" {
		t.Errorf("%+v", p)
	}
	mail["port"] = 0
	b.call("PUT", "/api/reminders", said, 422, &p)
	if *p.Field != "mail.port" {
		t.Errorf("%+v", p)
	}
	b.call("GET", "/api/reminders", nil, 200, &r)
	if r.Mail.Port == 0 {
		t.Error("half of it was kept")
	}
}
