package task

import (
	"errors"
	"testing"

	"freshanvil/core/machine"
	"freshanvil/core/units"
)

// Every row is said in full: a title, what stands in "since the last …", a hand's work where no run
// leads it; what it does besides, and whose date it tells, are tasks themselves.
func TestTheTable(t *testing.T) {
	seen := map[ID]bool{}
	for i, r := range All() {
		if seen[r.ID] || r.ID == "" || r.Title == "" || r.Short == "" {
			t.Errorf("row %d: %+v", i, r)
		}
		seen[r.ID] = true
		byHand := r.Way == Recorded || r.Way == Small && r.ID != WaterBackflush || r.Begins
		if byHand && r.How == "" {
			t.Errorf("%s: how %q, done by %s", r.ID, r.How, r.Way)
		}
		if led := r.Way == Led || r.Way == Planned || r.ID == WaterBackflush || r.Leads; led != (r.Over != "") {
			t.Errorf("%s: over %q, done by %s", r.ID, r.Over, r.Way)
		}
		if r.Whose == ByTheCode && r.Way != Recorded {
			t.Errorf("%s is for whoever the local code names, and led by %s", r.ID, r.Way)
		}
		if r.Leaves && len(r.Clocks) > 0 {
			t.Errorf("%s counts for nothing and has a clock", r.ID)
		}
		if r.ID.Rank() != i || r.ID.Title() != r.Title {
			t.Errorf("%s stands at %d", r.ID, r.ID.Rank())
		}
	}
	for _, r := range All() {
		for _, also := range append(r.Also, r.ID.Tells()) {
			if _, known := Find(also); !known {
				t.Errorf("%s names %q, which is no task", r.ID, also)
			}
		}
	}
	if _, known := Find("renew"); known || ID("renew").Title() != "" || ID("renew").Rank() >= 0 {
		t.Error("a task that is not in the table is known")
	}
}

// A wash is more than a water backflush, and begins with the brush; a descale is a look for scale,
// and no look is a descale.
func TestWhatCountsAsWhat(t *testing.T) {
	for _, c := range []struct {
		done, as ID
		want     bool
	}{
		{Wash, WaterBackflush, true}, {Wash, Brush, true}, {WaterBackflush, Wash, false}, {Descale, LookForScale, true},
		{LookForScale, Descale, false}, {Wash, Wash, true}, {Rinse, Wash, false},
	} {
		if got := c.done.Counts(c.as); got != c.want {
			t.Errorf("%s as %s: %v", c.done, c.as, got)
		}
	}
	if AcidRinse.Tells() != Descale || Wash.Tells() != Wash {
		t.Error("whose date is told")
	}
}

func TestCheckPart(t *testing.T) {
	for _, c := range []struct {
		id   ID
		part machine.Part
		fine bool
	}{
		{Wash, machine.Group(2), true}, {Wash, machine.Group(3), false}, {Wash, machine.Part{}, false},
		{Descale, machine.Part{}, true}, {Descale, machine.Group(1), false},
	} {
		err := c.id.CheckPart(c.part, 2)
		var bad *units.OutOfRange
		if (err == nil) != c.fine || err != nil && (!errors.As(err, &bad) || bad.Field != "part" || bad.Allowed == "") {
			t.Errorf("%s of %s: %v", c.id, c.part, err)
		}
	}
}
