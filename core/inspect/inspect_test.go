package inspect

import (
	"errors"
	"slices"
	"testing"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/units"
)

// Every sight says its verdicts in full, the harmless one first; what is bad moves something or names a
// part to fit, what it moves is a task, and only what is bad does.
func TestTheTable(t *testing.T) {
	for _, row := range All() {
		t.Run(string(row.Sight), func(t *testing.T) {
			if row.Title == "" || len(row.Seen) < 2 || row.Seen[0].Bad {
				t.Errorf("%+v", row)
			}
			if walked := row.At != ""; walked != (row.Ask != "") || walked != (len(row.How) > 0) {
				t.Error("a walk does not know how it is looked at")
			}
			for i, s := range row.Seen {
				if s.Text == "" || s.Means == "" || s.Do == "" || s.Source == (reason.Source{}) {
					t.Errorf("%s is not said in full", s.Verdict)
				}
				acts := len(s.Moves) > 0 || s.Fit != "" || s.Times > 0 && s.Times < 1 || s.Symptom != "" || len(s.Next) > 0
				if s.Bad != acts {
					t.Errorf("%s: bad %v, moves %v, fits %q, times %g", s.Verdict, s.Bad, s.Moves, s.Fit, s.Times)
				}
				for _, m := range s.Moves {
					if _, known := task.Find(m.Task); !known {
						t.Errorf("%s moves %q, which is no task", s.Verdict, m.Task)
					}
				}
				if s.Stops != nil && (s.Stops.Verdict != reason.Stop || len(s.Stops.Next) == 0) {
					t.Errorf("%s stops without saying what to do", s.Verdict)
				}
				if slices.ContainsFunc(row.Seen[:i], func(o Seen) bool { return o.Verdict == s.Verdict }) {
					t.Errorf("%s stands twice", s.Verdict)
				}
			}
		})
	}
}

func TestCheckNamesTheField(t *testing.T) {
	for _, c := range []struct {
		name  string
		found Found
		field string
	}{
		{"fine", Found{Sight: Seal, Part: machine.Group(2), Verdict: Springy}, ""},
		{"the machine's", Found{Sight: Gauze, Verdict: Crusted}, ""},
		{"no sight", Found{Sight: "ear", Verdict: Clean}, "sight"},
		{"another's verdict", Found{Sight: Seal, Part: machine.Group(1), Verdict: Crusted}, "verdict"},
		{"no such group", Found{Sight: Seal, Part: machine.Group(3), Verdict: Springy}, "part"},
		{"a group's gauze", Found{Sight: Gauze, Part: machine.Group(1), Verdict: Clean}, "part"},
		{"the machine's seal", Found{Sight: Seal, Verdict: Springy}, "part"},
		{"a number of a seal", Found{Sight: Seal, Part: machine.Group(1), Verdict: Springy, Number: num(3)}, "number"},
		{"a handle that turns twice", Found{Sight: LockAngle, Part: machine.Group(1), Verdict: AtMark, Number: num(400)},
			"number"},
	} {
		t.Run(c.name, func(t *testing.T) {
			err := c.found.Check(2)
			var bad *units.OutOfRange
			switch {
			case c.field == "" && err != nil:
				t.Error(err)
			case c.field != "" && (!errors.As(err, &bad) || bad.Field != c.field || bad.Allowed == ""):
				t.Errorf("%v, want %s", err, c.field)
			}
		})
	}
}

// The newest look counts, of this part alone, and none that lies ahead.
func TestNewest(t *testing.T) {
	day := func(n int) time.Time { return time.Date(2026, 3, n, 9, 0, 0, 0, time.UTC) }
	list := []Found{
		{Seal, machine.Group(1), Springy, day(1), nil}, {Seal, machine.Group(1), Brittle, day(9), nil},
		{Seal, machine.Group(1), Stiff, day(5), nil}, {Seal, machine.Group(2), Chipped, day(7), nil},
		{Seal, machine.Group(1), Chipped, day(20), nil}, {Screen, machine.Group(1), Clean, day(8), nil},
	}
	last, before := Newest(list, Seal, machine.Group(1), day(10))
	if last == nil || before == nil || last.Verdict != Brittle || before.Verdict != Stiff {
		t.Errorf("last %+v, before %+v", last, before)
	}
	if last, before = Newest(list, Seal, machine.Group(2),
		day(10)); last == nil || last.Verdict != Chipped || before != nil {
		t.Errorf("the other group: %+v, %+v", last, before)
	}
	if last, _ = Newest(list, Gauze, machine.Part{}, day(10)); last != nil {
		t.Errorf("never looked at: %+v", last)
	}
	if list[1].Seen().Fit != "a group seal" || (Found{Sight: Seal, Verdict: "gone"}).Seen().Text != "" {
		t.Error("what it means")
	}
}
