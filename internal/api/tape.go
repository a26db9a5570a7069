package api

import (
	"context"

	"freshanvil/core/care"
	"freshanvil/core/machine"
	"freshanvil/core/sitting"
	"freshanvil/core/units"
	"freshanvil/core/use"
	"freshanvil/internal/app"
)

// How many marks of the axis carry a label, of how many days there is a mark each, and how close labels may stand,
// as a share of what is shown.
const (
	useLabels = 7
	dateMarks = 22
	apart     = 0.06
)

// GetTape is a machine's life on an axis of use.
func (s *Server) GetTape(ctx context.Context, r GetTapeRequestObject) (GetTapeResponseObject, error) {
	t, err := s.App.LifeOf(ctx, r.MachineId, orElse(r.Params.Weeks, 13))
	if err != nil {
		return nil, err
	}
	out := tapeOut(t)
	if p := r.Params; p.Task != nil || p.Part != nil || p.On != nil {
		if p.Task == nil || p.Part == nil || p.On == nil {
			return nil, &units.OutOfRange{Field: "on", Value: "without the others", Allowed: "task, part and on together"}
		}
		part, err := machine.ParsePart(*p.Part)
		if err != nil {
			return nil, err
		}
		move, year, err := t.Moving(app.Placed{MachineID: r.MachineId, Task: *p.Task, Part: part, Year: p.On.Year(),
			Month: p.On.Month(), Day: p.On.Day()})
		if err != nil {
			return nil, err
		}
		out.Move = &TapeMove{EarlyDays: move.Early, Minutes: move.Minutes, Says: move.Says, With: []string{}}
		for _, m := range move.Joined {
			out.Move.With = append(out.Move.With, m.Title)
		}
		out.Sittings = tapeSittings(t, year)
	}
	return GetTape200JSONResponse(out), nil
}

func tapeOut(t app.Tape) Tape {
	x, zone := t.Axis, t.Machine.Zone
	out := Tape{MachineName: t.Machine.Name, Zone: zone.String(), Since: t.Since.UTC(), Now: x.At(t.Now),
		NowAt: t.Now.UTC(),
		From:  x.At(t.From), To: x.At(t.To), FromAt: t.From.UTC(), ToAt: t.To.UTC(), Minutes: t.Minutes, AtBest: t.AtBest,
		Uses: ticksOut(x.Uses(t.From, t.To, useLabels)), Dates: ticksOut(x.Days(t.From, t.To, zone, dateMarks, apart)),
		Pinches: []TapePinch{}, Tracks: make([]TapeTrack, len(t.Tracks)), Sittings: tapeSittings(t, t.Year)}
	if !t.LoggedSince.IsZero() {
		out.LoggedSince = ptr(t.LoggedSince.UTC())
	}
	for _, p := range x.Pinches(t.From, t.To) {
		out.Pinches = append(out.Pinches, TapePinch{At: x.At(p.From), From: p.From.UTC(), To: p.To.UTC(),
			Days: int(p.To.Sub(p.From).Hours()/24 + 0.5)})
	}
	var days []sitting.Tick
	for day := use.Day(t.Now, zone); day.Before(t.To); day = use.NextDay(day, zone) {
		noon := sitting.DayOn(day.In(zone).Year(), day.In(zone).Month(), day.In(zone).Day(), zone)
		days = append(days, sitting.Tick{At: x.At(noon), Day: noon})
	}
	out.Ahead = ticksOut(days)
	for i, k := range t.Tracks {
		out.Tracks[i] = trackOut(t, k)
	}
	return out
}

func trackOut(t app.Tape, k sitting.Track) TapeTrack {
	x := t.Axis
	out := TapeTrack{Task: k.Task, Part: k.Part, Title: k.Title, State: TapeTrackState(k.State), Says: k.When(),
		Done: []TapeTick{}}
	if k.Clock != "" {
		out.Clock = ptr(ClockKind(k.Clock))
	}
	for _, d := range k.Done {
		if !d.Before(t.From) {
			out.Done = append(out.Done, TapeTick{At: x.At(d), Day: ptr(d.UTC()), Strong: true})
		}
	}
	if k.State == care.Overdue || k.State == care.Unrecorded || !k.Earliest.After(t.To) {
		out.Due = &TapeDue{Earliest: x.At(k.Earliest), Likely: x.At(k.Likely), Latest: x.At(k.Latest),
			EarliestAt: k.Earliest.UTC(), LikelyAt: k.Likely.UTC(), LatestAt: k.Latest.UTC()}
	}
	for _, i := range t.Items {
		if i.Task == k.Task && i.Part == k.Part {
			out.Moves = true
			if i.Placed {
				out.Placed = ptr(on(t.Now, i.On))
			}
		}
	}
	return out
}

func tapeSittings(t app.Tape, year []sitting.Sitting) []TapeSitting {
	out := make([]TapeSitting, len(year))
	for i, s := range year {
		out[i] = TapeSitting{Place: t.Axis.At(on(t.Now, s.Day)), Shown: sittingOut(s, t.Now)}
	}
	return out
}

func ticksOut(list []sitting.Tick) []TapeTick {
	out := make([]TapeTick, len(list))
	for i, k := range list {
		out[i] = TapeTick{At: k.At, Strong: k.Strong}
		if !k.Day.IsZero() {
			out[i].Day = ptr(k.Day.UTC())
		}
	}
	return out
}

// PlaceTask puts a task on a day.
func (s *Server) PlaceTask(ctx context.Context, r PlaceTaskRequestObject) (PlaceTaskResponseObject, error) {
	b := r.Body
	return PlaceTask204Response{}, s.App.Place(ctx, app.Placed{ID: b.Id, MachineID: r.MachineId, Task: b.Task,
		Part: b.Part,
		Year: b.On.Year(), Month: b.On.Month(), Day: b.On.Day()})
}

// UnplaceTask lets a task fall on its own day again.
func (s *Server) UnplaceTask(ctx context.Context, r UnplaceTaskRequestObject) (UnplaceTaskResponseObject, error) {
	return UnplaceTask204Response{}, s.App.Unplace(ctx, r.MachineId, r.Task, r.Part)
}
