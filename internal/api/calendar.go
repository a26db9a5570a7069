package api

import (
	"bytes"
	"context"
	"fmt"
	"strings"

	"freshanvil/internal/app"
	"freshanvil/internal/calendar"
)

// originOf is where whoever asks finds the pages.
func (s *Server) originOf(ctx context.Context) string {
	r := requestOf(ctx)
	if r == nil || r.Host == "" {
		return ""
	}
	if s.isSecure(r) {
		return "https://" + r.Host
	}
	return "http://" + r.Host
}

func (s *Server) written(ctx context.Context, name string, list []app.Date) (*bytes.Buffer, error) {
	var out bytes.Buffer
	return &out, calendar.Write(&out, name, list, s.originOf(ctx))
}

// fewMachines is of how many machines a calendar is written anew whenever somebody asks (our own engineering choice).
const fewMachines = 20

// GetCalendar is the dates of a machine, of an owner's, or of all, as a file.
func (s *Server) GetCalendar(ctx context.Context, r GetCalendarRequestObject) (GetCalendarResponseObject, error) {
	name := "Fresh Anvil"
	var machines []app.Machine
	var err error
	switch {
	case r.Params.MachineId != nil:
		m, err := s.App.Find(ctx, *r.Params.MachineId)
		if err != nil {
			return nil, err
		}
		name, machines = m.Name, []app.Machine{m}
	case r.Params.Owner != nil:
		name = *r.Params.Owner
		machines, err = s.App.OwnedBy(ctx, name)
	default:
		machines, err = s.App.Machines(ctx, false)
	}
	if err != nil {
		return nil, err
	}
	now := s.App.Instant()
	write := func(ctx context.Context) (*bytes.Buffer, error) {
		list, err := s.App.Dates(ctx, machines, now)
		if err != nil {
			return nil, err
		}
		return s.written(ctx, name, list)
	}
	key := fmt.Sprintf("%s %s of %s at %s", orElse(r.Params.MachineId, ""), orElse(r.Params.Owner, ""), name,
		s.originOf(ctx))
	// whoever looks at one machine, or a few, sees what holds now
	out, err := s.shelf.take(ctx, key, len(machines) <= fewMachines, now, write)
	if err != nil {
		return nil, err
	}
	return GetCalendar200TextcalendarResponse{Body: out, ContentLength: int64(out.Len()),
		Headers: GetCalendar200ResponseHeaders{ContentDisposition: ptr(`attachment; filename="fresh-anvil.ics"`)}}, nil
}

// GetFeed is the calendar of a secret address.
func (s *Server) GetFeed(ctx context.Context, r GetFeedRequestObject) (GetFeedResponseObject, error) {
	secret, now := strings.TrimSuffix(r.Secret, ".ics"), s.App.Instant()
	if err := s.App.FeedHolds(ctx, secret); err != nil {
		return nil, err
	}
	out, err := s.shelf.take(ctx, "feed "+secret+" at "+s.originOf(ctx), false, now,
		func(ctx context.Context) (*bytes.Buffer, error) {
			name, list, err := s.App.FeedDates(ctx, secret, now)
			if err != nil {
				return nil, err
			}
			return s.written(ctx, name, list)
		})
	if err != nil {
		return nil, err
	}
	return GetFeed200TextcalendarResponse{Body: out, ContentLength: int64(out.Len())}, nil
}

func (s *Server) feeds(ctx context.Context) (Feeds, error) {
	list, err := s.App.Feeds(ctx)
	if err != nil {
		return Feeds{}, err
	}
	machines, err := s.App.Machines(ctx, false)
	if err != nil {
		return Feeds{}, err
	}
	out := Feeds{Feeds: []Feed{}}
	for _, f := range list {
		title := "All machines"
		switch f.Of {
		case app.FeedOwner:
			title = "Machines of " + f.Key
		case app.FeedMachine:
			title = "A machine that is archived"
			for _, m := range machines {
				if m.ID == f.Key {
					title = m.Name
				}
			}
		}
		out.Feeds = append(out.Feeds, Feed{Id: f.ID, Of: FeedOf(f.Of), Key: f.Key, Title: title, Made: f.Made,
			Path: "/api/calendars/" + f.Secret + ".ics"})
	}
	return out, nil
}

// ListFeeds lists the calendars that may be asked for from outside.
func (s *Server) ListFeeds(ctx context.Context, _ ListFeedsRequestObject) (ListFeedsResponseObject, error) {
	out, err := s.feeds(ctx)
	return ListFeeds200JSONResponse(out), err
}

// OpenFeed gives a calendar a secret address, or another one.
func (s *Server) OpenFeed(ctx context.Context, r OpenFeedRequestObject) (OpenFeedResponseObject, error) {
	if err := s.App.OpenFeed(ctx, string(r.Body.Of), r.Body.Key); err != nil {
		return nil, err
	}
	out, err := s.feeds(ctx)
	return OpenFeed200JSONResponse(out), err
}

// EndFeed ends the address of a calendar.
func (s *Server) EndFeed(ctx context.Context, r EndFeedRequestObject) (EndFeedResponseObject, error) {
	if err := s.App.EndFeed(ctx, r.FeedId); err != nil {
		return nil, err
	}
	out, err := s.feeds(ctx)
	return EndFeed200JSONResponse(out), err
}
