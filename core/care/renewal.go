package care

import (
	"errors"
	"fmt"
	"math"
	"time"

	"freshanvil/core/circuit"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/units"
)

// Renewal is a filter or a softener that wears out.
type Renewal struct {
	Task   task.ID // FilterChange or Regenerate
	Litres units.Litres
	Days   float64 // never longer; 0 for a softener
	// Named is since when it is known to be there: its clocks run from then, until one is on
	// record. Zero where nobody knows.
	Named time.Time
}

// spent is the water of a day, or of a part of one, and what it does.
type spent struct {
	circuit.Day
	effect circuit.Effect
	share  float64 // of its scale that stays in the machine; 0 is all
}

// spans is the water since an instant, day by day, with what reached the machine then.
func (s *situation) spans(b believed, from time.Time) ([]spent, error) {
	var list []spent
	const endless = units.Litres(math.MaxFloat64)
	for i, r := range s.h.Waters {
		start, end := s.drawn(i, from, s.now)
		if !start.Before(end) {
			continue
		}
		if r.Renew == nil || r.Raw == nil || r.Renew.Litres <= 0 {
			days, err := s.spend(b, r.Effect, r.Effect, endless, start, end)
			if err != nil {
				return nil, err
			}
			list = append(list, days...)
			continue
		}
		// once the filter is exhausted, the water goes through as it comes from the tap; what had gone
		// through it before, behind whatever water, carries over
		renewed := s.renewed(r.Renew)
		if renewed.After(end) {
			renewed = start
		}
		used := 0.0
		if !renewed.IsZero() && renewed.Before(start) {
			var err error
			if used, err = s.usedUp(b, r.Renew.Task, renewed, start); err != nil {
				return nil, err
			}
		}
		renewed = latest(renewed, start)
		left := r.Renew.Litres * units.Litres(math.Max(0, 1-used))
		before, errBefore := s.spend(b, r.Effect, r.Effect, endless, start, renewed)
		since, errSince := s.spend(b, r.Effect, *r.Raw, left, renewed, end)
		if err := errors.Join(errBefore, errSince); err != nil {
			return nil, err
		}
		list = append(append(list, before...), since...)
	}
	return list, nil
}

// drawn is the part between two instants in which a machine drew the water of that place in its history;
// empty where the end is not after the start. The first water holds back to any start.
func (s *situation) drawn(i int, from, to time.Time) (start, end time.Time) {
	start, end = from, to
	if i > 0 {
		start = latest(from, s.h.Waters[i].From)
	}
	if i+1 < len(s.h.Waters) {
		end = earliest(to, s.h.Waters[i+1].From)
	}
	return start, end
}

// spend is the days of a stretch: so many litres as one effect leaves them, the rest as another.
func (s *situation) spend(
	b believed, fresh, after circuit.Effect, lasts units.Litres, from, to time.Time,
) ([]spent, error) {
	turns := make([]time.Time, 0, len(s.h.Shares))
	for _, x := range s.h.Shares {
		turns = append(turns, x.From)
	}
	var list []spent
	for _, x := range cut(from, to, turns) {
		days, err := s.byDay(b, x.from, x.to)
		if err != nil {
			return nil, err
		}
		share := s.h.ShareAt(x.from)
		for _, d := range days {
			good := 1.0
			if all := d.All(); all > 0 {
				good = math.Max(0, math.Min(1, float64(lasts/all)))
			}
			if lasts -= d.All(); good > 0 {
				list = append(list, spent{d.Times(good), fresh, share})
			}
			if good < 1 {
				list = append(list, spent{d.Times(1 - good), after, share})
			}
		}
	}
	return list, nil
}

// wornLitres is what a filter has let through, told in litres of the water of now.
var wornLitres = reason.MustFormula("worn × holds")

// renewed is since when a filter or a softener wears: its last renewal, else the day it was named;
// zero where nobody knows.
func (s *situation) renewed(r *Renewal) time.Time {
	if at := s.h.last(r.Task, machine.Part{}, s.now).At; !at.IsZero() {
		return at
	}
	if r.Named.After(s.now) {
		return time.Time{}
	}
	return r.Named
}

// usedUp is the share of a filter or a softener that the water between two instants has used up: each
// litre by what it would hold of the water of its day.
func (s *situation) usedUp(b believed, of task.ID, from, to time.Time) (share float64, err error) {
	for i, r := range s.h.Waters {
		start, end := s.drawn(i, from, to)
		if !start.Before(end) || r.Renew == nil || r.Renew.Task != of || r.Renew.Litres <= 0 {
			continue
		}
		through, err := s.through(b, start, end)
		if err != nil {
			return 0, err
		}
		share += float64(through.All() / r.Renew.Litres)
	}
	return share, nil
}

// Renewing is when the filter or the softener is due; false where nothing is
// renewed.
func Renewing(a machine.Answers, h History, now time.Time, zone *time.Location) (Due, bool, error) {
	if len(h.Waters) == 0 || h.water(now).Renew == nil {
		return Due{}, false, nil
	}
	return situated(a, h, now, zone).renewing()
}

func (s *situation) renewing() (Due, bool, error) {
	now, zone, h := s.now, s.zone, s.h
	r := h.water(now).Renew
	b, err := s.believe()
	if err != nil {
		return Due{}, false, err
	}
	last := h.last(r.Task, machine.Part{}, now)
	d := Due{Task: r.Task, Interval: Interval{Task: r.Task, Litres: float64(r.Litres), Days: r.Days}, Last: last.At}
	since := d.Last
	if since.IsZero() && !r.Named.After(now) {
		since = r.Named
	}
	d.Because = []reason.Reason{
		{
			Text: "Litres of all circuits count, at the hardness of this water; what goes through an exhausted one is as " +
				"it comes from the tap.",
			Source: reason.Ours,
		},
	}
	if r.Days > 0 {
		d.Because = append(
			d.Because,
			reason.Reason{
				Text:   fmt.Sprintf("Never longer than %.0f days: bacteria grow in a cartridge that stands still.", r.Days),
				Source: reason.Trade,
			},
		)
	}
	if since.IsZero() {
		return d.unrecorded(now), true, nil
	}
	if why, any := last.Begun.Why(); any {
		d.Because, d.Begun = append([]reason.Reason{why}, d.Because...), true
	}
	if d.Last.IsZero() {
		d.Because = append([]reason.Reason{{
			Text:   "Counted from the day you named it, as if it had been new then. If it was not, say when it was changed.",
			Source: reason.Said,
		}}, d.Because...)
	}
	litres, err := circuit.LitresADay(s.f, b.use)
	if err != nil {
		return d, false, err
	}
	var ahead []reason.Worked
	if r.Litres > 0 {
		worn, err := s.usedUp(b, r.Task, since, now)
		if err != nil {
			return d, false, err
		}
		used := wornLitres.Of("litres since the last "+d.Task.Short(), "L", reason.Log, []reason.Input{
			{Symbol: "worn", Label: "share of it that is used up: what went through by what it would hold, day by day",
				Value: worn, Source: reason.Log},
			{Symbol: "holds", Label: "litres it lasts at the hardness of now", Value: float64(r.Litres), Unit: "L",
				Source: reason.Ours},
		}, "logging drinks", "another date for it")
		all := units.Litres(used.Value)
		d.Clocks = append(d.Clocks, Clock{Kind: task.ByLitres, Used: used, Limit: float64(r.Litres), Unit: "L"})
		ahead = append(
			ahead,
			reason.Worked{
				Name:        "days to its last litre",
				Value:       math.Min(circuit.Never, math.Max(0, float64(r.Litres-all))/math.Max(litres.All.Value, 0.001)),
				Unit:        "days",
				Formula:     "min(never, max(0, limit − used) ÷ max(use, 0.001))",
				Source:      reason.Ours,
				WouldChange: []string{"logging drinks", "softer water"},
				Inputs: []reason.Input{
					{
						Symbol: "never",
						Label:  "shown as never",
						Value:  circuit.Never,
						Unit:   "days",
						Source: reason.Ours,
					},
					{
						Symbol: "limit",
						Label:  "litres it lasts at this hardness",
						Value:  float64(r.Litres),
						Unit:   "L",
						Source: reason.Ours,
					},
					used.AsInput("used"),
					litres.All.AsInput("use"),
				},
			}.Exact(),
		)
	}
	if r.Days > 0 {
		used := daysSince(since, now, r.Task)
		d.Clocks = append(d.Clocks, Clock{Kind: task.ByDays, Used: used, Limit: r.Days, Unit: "days"})
		ahead = append(ahead, daysLeft(used, r.Days))
	}
	return d.settle(ahead, now, zone), true, nil
}

// ofRenewal is the filter or the softener that wears out.
func (s *situation) ofRenewal(id task.ID) []Due {
	if len(s.h.Waters) == 0 {
		return nil
	}
	if r := s.h.water(s.now).Renew; r == nil || r.Task != id {
		return nil
	}
	d, any, err := s.renewing()
	if err != nil {
		return []Due{notWorkedOut(id, err, s.now)}
	}
	if !any {
		return nil
	}
	return []Due{d}
}
