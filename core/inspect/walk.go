package inspect

import (
	"slices"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/units"
)

// Posture is what a machine is like while something is looked at.
type Posture string

// As it stands, before a hand is laid on it; switched on and at its heat; off, unplugged and below 45 °C.
const (
	Untouched Posture = "untouched"
	HotOn     Posture = "hot"
	OffCold   Posture = "cold"
)

// SameWalk is how long a walk may be interrupted, and gone on with where it was left: a cooling takes hours (our own
// engineering choice).
const SameWalk = 12 * time.Hour

// Card is one look of a walk: a thing of a part.
type Card struct {
	Row
	Part machine.Part
}

// Walk is the looks of a walk round a machine, in an order in which nothing is waited for twice: what needs no hand
// first, for what is found there may stop everything; then all that is seen as the machine is now, hot or cold; then
// the rest, after one cooling or one heating.
func Walk(f machine.Facts, hot bool) (list []Card) {
	order := []Posture{Untouched, HotOn, OffCold}
	if !hot {
		order = []Posture{Untouched, OffCold, HotOn}
	}
	for _, at := range order {
		for _, row := range rows {
			if row.At == at && row.Of == task.Whole && row.On(f) {
				list = append(list, Card{row, machine.Part{}})
			}
		}
		for g := range f.Groups {
			for _, row := range rows {
				if row.At == at && row.Of == task.EachGroup && row.On(f) {
					list = append(list, Card{row, machine.Group(g + 1)})
				}
			}
		}
	}
	return list
}

// On says whether a machine has what is looked at.
func (r Row) On(f machine.Facts) bool { return r.fits == nil || r.fits(f) }

// Judged is a look with what follows from it.
type Judged struct {
	Seen
	Finding reason.Finding
}

// Judge says what a look comes to: the verdict that was chosen, or, where a number was read, the one that it
// makes. The error is a *units.OutOfRange.
func (r Row) Judge(v Verdict, number *float64, c Context) (Judged, error) {
	if err := r.checkNumber(number); err != nil {
		return Judged{}, err
	}
	var why []reason.Reason
	if number != nil {
		v, why = r.Measure.judge(c, *number)
	}
	seen, known := r.Find(v)
	if !known {
		return Judged{}, &units.OutOfRange{Field: "verdict", Value: string(v), Allowed: "one of " + names(r.Seen,
			func(s Seen) string { return string(s.Verdict) })}
	}
	if f, stops := seen.Halts(); stops {
		f.Because = append(slices.Clone(why), f.Because...)
		return Judged{seen, f}, nil
	}
	f := reason.Finding{Verdict: reason.Fine, Title: seen.Do, Next: seen.Next,
		Because: append([]reason.Reason{{Text: seen.Means, Source: seen.Source}}, why...)}
	if seen.Bad {
		f.Verdict = reason.Look
	}
	return Judged{seen, f}, nil
}

// Halts is what there is to do where a machine is not to be used on, with what to look for the cause of; false where
// it may be.
func (s Seen) Halts() (reason.Finding, bool) {
	if s.Stops == nil {
		return reason.Finding{}, false
	}
	f := *s.Stops
	f.Symptom = s.Symptom
	return f, true
}

// When says by when a task comes that a look brings forward.
func (p Pull) When() string {
	if p == Soon {
		return "within a month"
	}
	return "now"
}
