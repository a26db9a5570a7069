package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/remind"
	"freshanvil/internal/store"
)

// Remind tells whom it is for what has fallen due, by each channel that is on. What cannot be sent is kept, said in the
// preferences, and tried again later; an error is one of this database only.
func (a *App) Remind(ctx context.Context, by Sender) error {
	a.reminding.Lock() // one goes out at a time
	defer a.reminding.Unlock()
	r, err := a.Reminders(ctx)
	if err != nil || !r.Mail.On && !r.Hook.On {
		return err
	}
	now := a.now()
	zone, err := time.LoadLocation(r.Zone)
	if err != nil {
		return err
	}
	quiet, err := remind.ParseHours(r.QuietFrom, r.QuietTo)
	if err != nil || quiet.Quiet(now, zone) {
		return err
	}
	went, err := a.Deliveries(ctx)
	if err != nil {
		return err
	}
	var all *Message
	for _, channel := range []string{MailChannel, HookChannel} {
		d := went[channel]
		switch {
		case channel == MailChannel && (!r.Mail.On || remind.SameDay(d.Sent, now, zone)):
			continue
		case channel == HookChannel && !r.Hook.On, now.Before(d.Next):
			continue
		}
		if all == nil {
			if all, err = a.fallen(ctx, now); err != nil {
				return err
			}
		}
		if err := a.deliver(ctx, by, channel, r, *all, d); err != nil {
			return err
		}
	}
	return nil
}

// fallen are the jobs of all machines that are due or overdue.
func (a *App) fallen(ctx context.Context, now time.Time) (*Message, error) {
	machines, err := a.Machines(ctx, false)
	if err != nil {
		return nil, err
	}
	kept, err := a.Standings(ctx, machines, now)
	if err != nil {
		return nil, err
	}
	m := &Message{Made: now, Machines: map[string]store.Machine{}}
	for _, x := range machines {
		jobs, err := a.fallenOf(ctx, x, kept[x.ID])
		if err != nil {
			return nil, err
		}
		if len(jobs) > 0 {
			m.Machines[x.ID] = x
			m.Jobs = append(m.Jobs, jobs...)
		}
	}
	return m, nil
}

func (a *App) fallenOf(ctx context.Context, m store.Machine, kept store.Kept) (jobs []remind.Job, err error) {
	groups := m.Answers.Facts().Groups
	for _, s := range kept.List {
		stage, told := remind.StageOf(s)
		if !told {
			continue
		}
		jobs = append(jobs, remind.Job{Machine: m.ID, Task: s.Task, Part: s.Part, Stage: stage, When: s.When(),
			Title: s.Title + care.OfGroup(s.Part, groups)})
	}
	if len(jobs) == 0 {
		return nil, nil
	}
	often, err := a.store.Often(ctx, m.ID)
	if err != nil {
		return nil, err
	}
	for i, j := range jobs {
		jobs[i].Key = fmt.Sprintf("%s %s %s %d", m.ID, j.Task, j.Part, often(j.Task, j.Part)+1)
	}
	return jobs, nil
}

// deliver sends the news of a channel, and keeps how it went.
func (a *App) deliver(ctx context.Context, by Sender, channel string, r Reminders, all Message, d Delivery) error {
	told, err := a.store.Reminded(ctx, channel)
	if err != nil {
		return err
	}
	all.Jobs = remind.News(all.Jobs, told)
	if len(all.Jobs) == 0 {
		if d.Failed == "" {
			return nil
		}
		return a.keepDelivery(ctx, channel, Delivery{Sent: d.Sent}, nil) // what waited was done meanwhile
	}
	compose(&all, r)
	if failed := send(ctx, by, channel, r, all); failed != nil {
		d.Failures++
		d.Failed, d.Next = failed.Error(), all.Made.Add(remind.Again(d.Failures))
		return a.keepDelivery(ctx, channel, d, nil)
	}
	return a.keepDelivery(ctx, channel, Delivery{Sent: all.Made}, all.Jobs)
}

func compose(m *Message, r Reminders) {
	m.Subject = "Fresh Anvil: " + remind.Subject(m.Jobs)
	m.Text = remind.Text(m.Jobs, func(id string) string {
		x := m.Machines[id]
		said := slices.DeleteFunc([]string{x.Name, x.Owner, x.Place}, func(s string) bool { return s == "" })
		return strings.Join(said, ", ")
	}, r.Address)
}

func send(ctx context.Context, by Sender, channel string, r Reminders, m Message) error {
	if channel == MailChannel {
		return by.Mail(ctx, r.Mail, m)
	}
	return by.Hook(ctx, r.Hook, m)
}

func (a *App) keepDelivery(ctx context.Context, channel string, d Delivery, told []remind.Job) error {
	return a.store.Write(ctx, func(tx *store.Store) error {
		all := map[string]Delivery{}
		text, err := tx.Meta(ctx, deliveriesKey)
		if err == nil && text != "" {
			err = json.Unmarshal([]byte(text), &all)
		}
		if err != nil {
			return err
		}
		all[channel] = d
		raw, err := json.Marshal(all)
		if err != nil {
			return err
		}
		return errors.Join(tx.SetMeta(ctx, deliveriesKey, string(raw)),
			tx.KeepReminded(ctx, channel, told, a.now(), remembered))
	})
}

// TryReminder sends a message by a channel at once, to see that it arrives; the error is why it did not.
func (a *App) TryReminder(ctx context.Context, by Sender, channel string) error {
	r, err := a.Reminders(ctx)
	if err != nil {
		return err
	}
	if channel == MailChannel && !r.Mail.On || channel == HookChannel && !r.Hook.On {
		return &Conflict{Code: "channel_off", Title: "It is off", Field: "channel", Value: channel,
			Allowed: "one that is on, and saved"}
	}
	m := Message{Subject: "Fresh Anvil: a trial", Made: a.now(), Trial: true,
		Text: "This is a trial. From now on you are told what falls due, once, and once more when it is overdue.\n"}
	if err := send(ctx, by, channel, r, m); err != nil {
		return &Conflict{Code: "not_sent", Title: "It could not be sent", Detail: err.Error()}
	}
	return nil
}

// KeepReminding reminds for as long as the context lasts, looking every so often.
func (a *App) KeepReminding(ctx context.Context, by Sender, every time.Duration, failed func(error)) {
	tick := time.NewTicker(every)
	defer tick.Stop()
	for {
		if err := a.Remind(ctx, by); err != nil && ctx.Err() == nil {
			failed(err)
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}
