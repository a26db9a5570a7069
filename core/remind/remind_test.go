package remind_test

import (
	"errors"
	"strings"
	"testing"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/remind"
	"freshanvil/core/task"
	"freshanvil/core/units"
)

func TestWhatIsToldOf(t *testing.T) {
	for _, x := range []struct {
		name string
		s    care.Standing
		want remind.Stage
		told bool
	}{
		{"overdue", care.Standing{Task: task.Wash, State: care.Overdue}, remind.Overdue, true},
		{"today", care.Standing{Task: task.Wash, State: care.Today}, remind.Due, true},
		{"nothing on record", care.Standing{Task: task.Seal, State: care.Unrecorded}, remind.Due, true},
		{"later", care.Standing{Task: task.Wash, State: care.Later}, "", false},
		{"every night anyway", care.Standing{Task: task.Wash, State: care.Today, Daily: true}, "", false},
		{"small", care.Standing{Task: task.Tray, State: care.Today}, "", false},
		{"no date", care.Standing{Task: task.Wash, State: care.Unrecorded, NoDate: true}, "", false},
		{"the return", care.Standing{Task: task.Return, State: care.Overdue}, remind.Overdue, true},
	} {
		t.Run(x.name, func(t *testing.T) {
			if got, told := remind.StageOf(x.s); got != x.want || told != x.told {
				t.Errorf("%q, %v", got, told)
			}
		})
	}
}

// Each time that a job comes round is told of once when it is due and once when it is overdue; one that is overdue when
// it is first seen once only.
func TestOnceWhenDueAndOnceWhenOverdue(t *testing.T) {
	told := map[string]remind.Stage{}
	tell := func(jobs ...remind.Job) (n int) {
		for _, j := range remind.News(jobs, told) {
			told[j.Key] = j.Stage
			n++
		}
		return n
	}
	a, b := remind.Job{Key: "a", Stage: remind.Due}, remind.Job{Key: "b", Stage: remind.Overdue}
	for i, want := range []int{2, 0} {
		if got := tell(a, b); got != want {
			t.Errorf("at %d: %d told, want %d", i, got, want)
		}
	}
	a.Stage = remind.Overdue
	if tell(a, b) != 1 || tell(a, b) != 0 {
		t.Error("overdue is told once more, and no more")
	}
	if a.Key = "a, the next time"; tell(a) != 1 {
		t.Error("the next time is another")
	}
}

func TestQuietHours(t *testing.T) {
	zone, err := time.LoadLocation("Europe/Lisbon")
	if err != nil {
		t.Fatal(err)
	}
	for _, x := range []struct {
		from, to, at string
		quiet        bool
	}{
		{"22:00", "07:00", "23:30", true}, {"22:00", "07:00", "06:59", true}, {"22:00", "07:00", "07:00", false},
		{"22:00", "07:00", "12:00", false}, {"12:00", "14:00", "13:00", true}, {"12:00", "14:00", "14:00", false},
		{"", "", "03:00", false},
	} {
		h, err := remind.ParseHours(x.from, x.to)
		if err != nil {
			t.Fatal(err)
		}
		at, err := time.ParseInLocation("2006-01-02 15:04", "2026-07-10 "+x.at, zone)
		if err != nil {
			t.Fatal(err)
		}
		if got := h.Quiet(at, zone); got != x.quiet {
			t.Errorf("%s to %s, at %s: %v", x.from, x.to, x.at, got)
		}
	}
	for _, bad := range [][2]string{{"22", "07:00"}, {"22:00", ""}, {"25:00", "07:00"}} {
		var out *units.OutOfRange
		if _, err := remind.ParseHours(bad[0], bad[1]); !errors.As(err, &out) || !strings.HasPrefix(out.Field, "quiet_") {
			t.Errorf("%v: %v", bad, err)
		}
	}
}

func TestTriedAgainLater(t *testing.T) {
	last := time.Duration(0)
	for n := 1; n < 12; n++ {
		wait := remind.Again(n)
		if wait < last || wait > 12*time.Hour || wait < 15*time.Minute {
			t.Errorf("after %d failures %v, was %v", n, wait, last)
		}
		last = wait
	}
}

func TestTheWordsOfAReminder(t *testing.T) {
	jobs := []remind.Job{
		{Machine: "1", Title: "Detergent wash, group 1", Stage: remind.Overdue, When: "Fell due 9 shots ago."},
		{Machine: "1", Title: "New seal", Stage: remind.Due, When: "Falls due today."},
		{Machine: "2", Title: "Descale", Stage: remind.Due, When: "Falls due today."}}
	for n, want := range map[int]string{1: "Detergent wash, group 1 is overdue", 3: "3 jobs are due, 1 of them overdue"} {
		if got := remind.Subject(jobs[:n]); got != want {
			t.Errorf("%q, want %q", got, want)
		}
	}
	if got := remind.Subject(jobs[1:]); got != "2 jobs are due" {
		t.Error(got)
	}
	text := remind.Text(jobs, func(id string) string { return "Machine " + id }, "https://bench.local")
	want := "Machine 1\n  Detergent wash, group 1. Overdue. Fell due 9 shots ago.\n  New seal. Falls due today.\n" +
		"  https://bench.local/machines/1\n\nMachine 2\n  Descale. Falls due today.\n  https://bench.local/machines/2\n\n"
	if !strings.HasPrefix(text, want) {
		t.Errorf("%s", text)
	}
}
