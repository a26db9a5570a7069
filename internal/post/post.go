// Package post sends what somebody is reminded of: as mail through an SMTP server (RFC 5321), and as JSON to an
// address.
package post

import (
	"bytes"
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"syscall"
	"time"

	"github.com/wneessen/go-mail"

	"freshanvil/internal/app"
)

// patience is how long a server may take to answer.
const patience = 20 * time.Second

// Post sends; the zero value is ready for use.
type Post struct{}

// Mail sends a message as plain text to each recipient, as one mail.
func (Post) Mail(ctx context.Context, by app.Mail, m app.Message) error {
	to, err := by.Recipients()
	if err != nil {
		return err
	}
	msg := mail.NewMsg()
	if err := errors.Join(msg.From(by.From), msg.To(to...)); err != nil {
		return err
	}
	msg.Subject(m.Subject)
	msg.SetDateWithValue(m.Made)
	msg.SetMessageID()
	msg.SetUserAgent("Fresh Anvil")
	msg.SetBodyString(mail.TypeTextPlain, m.Text)
	ctx, done := context.WithTimeout(ctx, patience)
	defer done()
	ends, _ := ctx.Deadline()
	options := []mail.Option{mail.WithPort(by.Port), mail.WithHELO("fresh-anvil.local"),
		mail.WithTimeout(max(time.Until(ends), time.Millisecond))}
	switch by.Security {
	case "tls":
		options = append(options, mail.WithSSL())
	case "none":
		options = append(options, mail.WithTLSPolicy(mail.NoTLS))
	default:
		options = append(options, mail.WithTLSPolicy(mail.TLSMandatory))
	}
	if by.User != "" {
		options = append(options, mail.WithSMTPAuth(mail.SMTPAuthAutoDiscover), mail.WithUsername(by.User),
			mail.WithPassword(by.Password))
	}
	client, err := mail.NewClient(by.Host, options...)
	if err != nil {
		return err
	}
	if err := client.DialAndSendWithContext(ctx, msg); err != nil {
		return fmt.Errorf("%s: %w", by.Host, err)
	}
	return nil
}

// Payload is what a webhook is told.
type Payload struct {
	Event    string    `json:"event"` // reminder, trial
	Made     time.Time `json:"made"`
	Subject  string    `json:"subject"`
	Machines []Machine `json:"machines"`
}

// Machine is one machine of a payload, with what has fallen due there.
type Machine struct {
	ID    string `json:"id"`
	Name  string `json:"name"`
	Owner string `json:"owner,omitempty"`
	Place string `json:"place,omitempty"`
	Jobs  []Job  `json:"jobs"`
}

// Job is one job of a payload.
type Job struct {
	Task  string `json:"task"`
	Part  string `json:"part"`
	Title string `json:"title"`
	Stage string `json:"stage"` // due, overdue
	When  string `json:"when"`
}

func payloadOf(m app.Message) Payload {
	p := Payload{Event: "reminder", Made: m.Made, Subject: m.Subject, Machines: []Machine{}}
	if m.Trial {
		p.Event = "trial"
	}
	at := map[string]int{}
	for _, j := range m.Jobs {
		i, known := at[j.Machine]
		if !known {
			x := m.Machines[j.Machine]
			i = len(p.Machines)
			at[j.Machine] = i
			p.Machines = append(p.Machines, Machine{ID: x.ID, Name: x.Name, Owner: x.Owner, Place: x.Place})
		}
		p.Machines[i].Jobs = append(p.Machines[i].Jobs, Job{string(j.Task), j.Part.String(), j.Title, string(j.Stage),
			j.When})
	}
	return p
}

// Signature is the header in which a payload's HMAC-SHA256 stands, as hexadecimal.
const Signature = "X-Fresh-Anvil-Signature"

// Sign is the signature of a payload by a secret.
func Sign(secret string, raw []byte) string {
	mac := hmac.New(sha256.New, []byte(secret))
	mac.Write(raw)
	return "sha256=" + hex.EncodeToString(mac.Sum(nil))
}

// client follows nobody elsewhere: what is sent goes where somebody said, or nowhere.
var client = &http.Client{Timeout: patience, Transport: &http.Transport{Proxy: http.ProxyFromEnvironment,
	DialContext: (&net.Dialer{Timeout: patience, Control: notLinkLocal}).DialContext},
	CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}

// notLinkLocal refuses an address that only this machine's own network link knows: what answers there, such as the data
// of a host that it runs on, is nobody's reminder. It looks at the address that a name has turned out to be.
func notLinkLocal(_, address string, _ syscall.RawConn) error {
	host, _, err := net.SplitHostPort(address)
	if err != nil {
		return err
	}
	if ip := net.ParseIP(host); ip != nil && (ip.IsLinkLocalUnicast() || ip.IsLinkLocalMulticast()) {
		return fmt.Errorf("%s is a link-local address: nothing is sent there", host)
	}
	return nil
}

// Hook sends a message as JSON; any answer but a 2xx is an error.
func (Post) Hook(ctx context.Context, by app.Hook, m app.Message) error {
	raw, err := json.Marshal(payloadOf(m))
	if err != nil {
		return err
	}
	req, err := http.NewRequestWithContext(ctx, http.MethodPost, by.URL, bytes.NewReader(raw))
	if err != nil {
		return err
	}
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set("User-Agent", "Fresh Anvil")
	if by.Secret != "" {
		req.Header.Set(Signature, Sign(by.Secret, raw))
	}
	got, err := client.Do(req)
	if err != nil {
		return err
	}
	defer got.Body.Close()
	_, _ = io.Copy(io.Discard, io.LimitReader(got.Body, 64<<10))
	if got.StatusCode < 200 || got.StatusCode > 299 {
		return fmt.Errorf("%s answered %s", by.URL, got.Status)
	}
	return nil
}
