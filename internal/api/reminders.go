package api

import (
	"context"

	"freshanvil/internal/app"
)

func (s *Server) reminders(ctx context.Context) (Reminders, error) {
	r, err := s.App.Reminders(ctx)
	if err != nil {
		return Reminders{}, err
	}
	went, err := s.App.Deliveries(ctx)
	if err != nil {
		return Reminders{}, err
	}
	m := r.Mail
	if m.Security == "" { // nobody has said anything yet
		m.Security, m.Port = "starttls", 587
	}
	out := Reminders{QuietFrom: r.QuietFrom, QuietTo: r.QuietTo, Zone: r.Zone, Address: r.Address, Went: []Delivery{},
		Mail: MailBy{On: m.On, Host: m.Host, Port: m.Port, Security: MailSecurity(m.Security), User: m.User,
			HasPassword: m.Password != "", From: m.From, To: m.To},
		Webhook: HookBy{On: r.Hook.On, Url: r.Hook.URL, HasSecret: r.Hook.Secret != ""}}
	for _, channel := range []string{app.MailChannel, app.HookChannel} {
		d, known := went[channel]
		if !known {
			continue
		}
		x := Delivery{Channel: Channel(channel), Failed: ptr(d.Failed), Failures: d.Failures}
		if !d.Sent.IsZero() {
			x.Sent = &d.Sent
		}
		if !d.Next.IsZero() {
			x.Next = &d.Next
		}
		out.Went = append(out.Went, x)
	}
	return out, nil
}

// GetReminders is who is reminded, and how it went.
func (s *Server) GetReminders(ctx context.Context, _ GetRemindersRequestObject) (GetRemindersResponseObject, error) {
	out, err := s.reminders(ctx)
	return GetReminders200JSONResponse(out), err
}

// SetReminders says who is reminded.
func (s *Server) SetReminders(ctx context.Context, r SetRemindersRequestObject) (SetRemindersResponseObject, error) {
	b := r.Body
	err := s.App.SetReminders(ctx, app.Reminders{QuietFrom: b.QuietFrom, QuietTo: b.QuietTo, Zone: b.Zone,
		Address: b.Address, Mail: app.Mail{On: b.Mail.On, Host: b.Mail.Host, Port: b.Mail.Port,
			Security: string(b.Mail.Security), User: b.Mail.User, Password: orElse(b.Mail.Password, ""), From: b.Mail.From,
			To: b.Mail.To},
		Hook: app.Hook{On: b.Webhook.On, URL: b.Webhook.Url, Secret: orElse(b.Webhook.Secret, "")}})
	if err != nil {
		return nil, err
	}
	out, err := s.reminders(ctx)
	return SetReminders200JSONResponse(out), err
}

// TryReminder sends a message at once.
func (s *Server) TryReminder(ctx context.Context, r TryReminderRequestObject) (TryReminderResponseObject, error) {
	return TryReminder204Response{}, s.App.TryReminder(ctx, s.Post, string(r.Body.Channel))
}
