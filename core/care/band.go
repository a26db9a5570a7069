package care

import "time"

// Band is how much a machine presses, among many.
type Band string

// The bands, the most pressing first.
const (
	Unsafe   Band = "unsafe" // a chemical or pressure is in it, or a look stopped it
	Late     Band = "late"   // something is for now
	ThisWeek Band = "this_week"
	NotKnown Band = "not_known" // nothing is on record of what presses most
	Calm     Band = "later"
)

// week is how far ahead the work of a week is looked at.
const week = 7 * 24 * time.Hour

// BandOf is the band of a machine: unsafe where it holds something, else by what presses most on it; without anything
// due it is calm.
func BandOf(unsafe bool, next *Standing, now time.Time) Band {
	switch {
	case unsafe:
		return Unsafe
	case next == nil:
		return Calm
	case next.State == Unrecorded:
		return NotKnown
	case next.Now(now):
		return Late
	case next.Likely.Before(now.Add(week)):
		return ThisWeek
	}
	return Calm
}
