package care_test

import (
	"strings"
	"testing"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/machine"
	"freshanvil/core/task"
)

// A date on paper has its year and says between which days it lies; what is due now says so.
func TestADateOnPaper(t *testing.T) {
	zone := time.UTC
	day := func(d int) time.Time { return time.Date(2026, 12, d, 12, 0, 0, 0, zone) }
	for _, x := range []struct {
		name, want string
		s          care.Standing
	}{
		{"later", "About 9 December 2026. Between 5 and 14 December 2026.",
			care.Standing{State: care.Later, Earliest: day(5), Likely: day(9), Latest: day(14)}},
		{"one day", "About 9 December 2026.",
			care.Standing{State: care.Later, Earliest: day(9), Likely: day(9), Latest: day(9)}},
		{"over a month's end", "About 30 November 2026. Between 28 November and 2 December 2026.",
			care.Standing{State: care.Later, Earliest: day(-2), Likely: day(0), Latest: day(2)}},
		{"over a year's end", "About 31 December 2026. Between 30 December 2026 and 2 January 2027.",
			care.Standing{State: care.Later, Earliest: day(30), Likely: day(31), Latest: day(33)}},
		{"today", "Falls due today.", care.Standing{State: care.Today}},
		{"nothing on record", "Nothing on record: due now.", care.Standing{State: care.Unrecorded}},
		{"overdue", "Overdue. Fell due 30 shots ago.",
			care.Standing{State: care.Overdue, Clock: "shots", Used: 80, Most: 50, Unit: "shots"}},
	} {
		t.Run(x.name, func(t *testing.T) {
			if got := strings.TrimSpace(x.s.Falls(zone) + " " + x.s.Between(zone)); got != x.want {
				t.Errorf("%q, want %q", got, x.want)
			}
		})
	}
}

// By hand: a title is told once, its groups in order; the only group of a machine is not named.
func TestTitles(t *testing.T) {
	list := []care.Titled{{"Wash", machine.Group(2)}, {"Drip tray", machine.Part{}}, {"Wash", machine.Group(1)},
		{"Wash", machine.Group(2)}}
	for groups, want := range map[int]string{1: "Wash; Drip tray", 2: "Wash, groups 1 and 2; Drip tray"} {
		if got := strings.Join(care.Titles(list, groups), "; "); got != want {
			t.Errorf("of %d groups %q, want %q", groups, got, want)
		}
	}
	for want, got := range map[string]string{", group 2": care.OfGroup(machine.Group(2), 3),
		"": care.OfGroup(machine.Group(1), 1) + care.OfGroup(machine.Part{}, 2)} {
		if got != want {
			t.Errorf("%q, want %q", got, want)
		}
	}
}

// What is dated ahead, by a clock that was, is not done yet: a task stands as if it were not on record.
func TestWhatIsDatedAheadIsNotDone(t *testing.T) {
	now := time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)
	a := machine.Answers{Layout: machine.SingleBoiler, Valve: machine.Yes, Drinks: 4}
	wash := func(done ...care.Done) care.Standing {
		t.Helper()
		list, _ := care.Standings(a, care.History{Done: done}, now, time.UTC)
		for _, s := range list {
			if s.Task == task.Wash {
				return s
			}
		}
		t.Fatal("no wash stands")
		return care.Standing{}
	}
	ahead := care.Done{Task: task.Wash, Part: machine.Group(1), At: now.AddDate(0, 0, 2)}
	past := care.Done{Task: task.Wash, Part: machine.Group(1), At: now.AddDate(0, 0, -3)}
	if got := wash(ahead); got.State != care.Unrecorded || !got.Last.IsZero() {
		t.Errorf("a wash of the day after tomorrow counts: %+v", got)
	}
	if got := wash(past, ahead); !got.Last.Equal(past.At) {
		t.Errorf("the wash that was is forgotten for one that is to come: %+v", got)
	}
}
