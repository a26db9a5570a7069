// Package standin stands in for what reminders are sent to: a mail server and a webhook on this machine that keep what
// they are sent, or refuse it, or answer late.
package standin

import (
	"context"
	"errors"
	"io"
	"net"
	"net/http"
	"net/mail"
	"strings"
	"sync"
	"time"

	"github.com/emersion/go-smtp"
)

// Kept is one thing that was sent: a mail, or the body of a request.
type Kept struct {
	To, Subject, Text string
	Header            http.Header // of a request
}

// Box holds what was sent, and says how it is answered.
type Box struct {
	mu   sync.Mutex
	list []Kept
	// Refuse and Delay are how it answers from now on.
	refuse bool
	delay  time.Duration
	// Told is called with each thing that was kept; nil where nobody waits.
	Told func(Kept)
}

// Answers says how what comes from now on is answered: refused, or late.
func (b *Box) Answers(refuse bool, delay time.Duration) {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.refuse, b.delay = refuse, delay
}

// List is what was kept, oldest first.
func (b *Box) List() []Kept {
	b.mu.Lock()
	defer b.mu.Unlock()
	return append([]Kept(nil), b.list...)
}

func (b *Box) keep(ctx context.Context, k Kept) error {
	b.mu.Lock()
	refuse, delay := b.refuse, b.delay
	b.mu.Unlock()
	if delay > 0 {
		late := time.NewTimer(delay)
		defer late.Stop()
		select {
		case <-late.C:
		case <-ctx.Done():
			return ctx.Err()
		}
	}
	if refuse {
		return errors.New("refused, as it was told to")
	}
	b.mu.Lock()
	b.list = append(b.list, k)
	b.mu.Unlock()
	if b.Told != nil {
		b.Told(k)
	}
	return nil
}

// MailServer takes mail at an address of this machine until it is closed; without TLS, for it is on this machine only.
func MailServer(l net.Listener, b *Box) io.Closer {
	s := smtp.NewServer(backend{b})
	s.Domain = "stand-in.local"
	s.ReadTimeout, s.WriteTimeout = time.Minute, time.Minute
	s.MaxMessageBytes = 1 << 20
	go func() { _ = s.Serve(l) }()
	return s
}

type backend struct{ box *Box }

func (b backend) NewSession(*smtp.Conn) (smtp.Session, error) { return &session{box: b.box}, nil }

type session struct {
	box *Box
	to  []string
}

func (s *session) Mail(string, *smtp.MailOptions) error { return nil }

func (s *session) Rcpt(to string, _ *smtp.RcptOptions) error {
	s.to = append(s.to, to)
	return nil
}

func (s *session) Data(r io.Reader) error {
	m, err := mail.ReadMessage(r)
	if err != nil {
		return err
	}
	body, err := io.ReadAll(m.Body)
	if err != nil {
		return err
	}
	if err := s.box.keep(context.Background(), Kept{To: strings.Join(s.to, ", "), Subject: m.Header.Get("Subject"),
		Text: string(body)}); err != nil {
		return &smtp.SMTPError{Code: 451, EnhancedCode: smtp.EnhancedCode{4, 3, 0}, Message: err.Error()}
	}
	return nil
}

func (s *session) Reset() { s.to = nil }

func (s *session) Logout() error { return nil }

// Hook answers requests as a webhook does.
func Hook(b *Box) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		body, err := io.ReadAll(io.LimitReader(r.Body, 1<<20))
		if err == nil {
			err = b.keep(r.Context(), Kept{To: r.URL.Path, Text: string(body), Header: r.Header.Clone()})
		}
		if err != nil {
			http.Error(w, err.Error(), http.StatusServiceUnavailable)
			return
		}
		w.WriteHeader(http.StatusNoContent)
	})
}
