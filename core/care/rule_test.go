package care

import (
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/task"
	"freshanvil/core/use"
)

// Every task with a date of its own has one rule, every small one a place among the chores, and
// nothing else has either.
func TestEveryTaskHasItsRule(t *testing.T) {
	var ruled, small []task.ID
	for _, r := range rules {
		ruled = append(ruled, r.task)
	}
	milk := home(4)
	milk.MilkDrinks = 2
	waste := milk
	waste.Overrides = map[string]string{"tray_l": "0"}
	for _, a := range []machine.Answers{milk, waste} {
		for _, c := range choresOf(a, a.Facts()) {
			small = append(small, c.Task)
		}
	}
	for _, row := range task.All() {
		dated := len(row.Clocks) > 0 && row.Way != task.Small
		own := slices.DeleteFunc(slices.Clone(ruled), func(id task.ID) bool { return id != row.ID })
		if dated != (len(own) == 1) {
			t.Errorf("%s: %d rules, dated: %v", row.ID, len(own), dated)
		}
		if (row.Way == task.Small) != slices.Contains(small, row.ID) {
			t.Errorf("%s: small: %v", row.ID, row.Way)
		}
	}
}

// What is only put on record has its interval (common practice): the screen weekly, monthly in
// light use, in the other quarters on a cam lever; the soak weekly, the tank monthly, the seal
// yearly; and begins when the machine came.
func TestJobsOnRecord(t *testing.T) {
	cam, busy, plumbed, cafe := home(4), home(20), home(4), of(machine.HXCafe, 6)
	cam.Layout = machine.LeverCam
	plumbed.Overrides = map[string]string{"water": "mains"}
	for name, c := range map[string]struct {
		a    machine.Answers
		days map[task.ID]float64
	}{
		"light use at home": {home(4), map[task.ID]float64{task.Screen: 30, task.Soak: 7, task.Tank: 30, task.Seal: 365}},
		"much use at home":  {busy, map[task.ID]float64{task.Screen: 7, task.Soak: 7, task.Tank: 30, task.Seal: 365}},
		"a cam lever":       {cam, map[task.ID]float64{task.Screen: 91, task.Soak: 7, task.Tank: 30, task.Seal: 365}},
		"mains water":       {plumbed, map[task.ID]float64{task.Screen: 30, task.Soak: 7, task.Seal: 365}},
		"a quiet café":      {cafe, map[task.ID]float64{task.Screen: 7, task.Soak: 7, task.Seal: 365}},
	} {
		t.Run(name, func(t *testing.T) {
			begun := daysAgo(2)
			h := History{}
			for _, row := range task.All() {
				for g := range c.a.Facts().Groups {
					part := machine.Part{}
					if row.Of == task.EachGroup {
						part = machine.Group(g + 1)
					}
					h.Done = append(h.Done, Done{row.ID, part, begun, Added})
				}
			}
			got := map[task.ID]float64{}
			for _, d := range only(AllDue(c.a, h, noon, time.UTC), task.Screen, task.Soak, task.Tank, task.Seal) {
				got[d.Task] = d.Interval.Days
				if d.State != Later || !near(d.Days.Value, d.Interval.Days-2, 1e-9) || !d.Begun ||
					!strings.Contains(d.Because[0].Text, "came to the bench") {
					t.Errorf("%s: %s in %v days, %+v", d.Task, d.State, d.Days.Value, d.Because)
				}
			}
			if len(got) != len(c.days) {
				t.Errorf("%v, want %v", got, c.days)
			}
			for id, want := range c.days {
				if got[id] != want {
					t.Errorf("%s every %v days, want %v", id, got[id], want)
				}
			}
		})
	}
}

// What held when: 40 days on very hard water, then a softener: the scale of the 40 days stays,
// and the drinks that were said then are the ones taken for them.
func TestThePastStaysAsItWas(t *testing.T) {
	now := noon
	begin, turn := now.AddDate(0, 0, -50), now.AddDate(0, 0, -10)
	before := machine.Answers{Layout: machine.SingleBoiler, Valve: machine.Yes, Drinks: 6, MilkDrinks: 3}
	after := before
	after.Drinks, after.MilkDrinks = 1, 0
	hard, soft := effectOf(t, 320, before.Facts()), effectOf(t, 54, before.Facts())
	done := []Done{{Task: task.Descale, At: begin}, {Task: task.Wash, Part: machine.Group(1), At: begin}}
	still := descaling(t, before, History{Done: done, Waters: []Regime{{Effect: hard}}}, turn)
	h := History{
		Done: done, Waters: []Regime{{Effect: hard}, {From: turn, Effect: soft}},
		Held: machine.Hold(machine.Holding{Answers: before}, machine.Holding{From: turn, Answers: after}),
	}
	d := descaling(t, after, h, now)
	lay, grew := still.Places[0].Lies.Likely, d.Places[0].Lies.Likely
	if lay < 1000 || grew < lay {
		t.Errorf("%.0f mg lay there on the day of the change, %.0f ten days later", lay, grew)
	}
	wash := washOf(AllDue(after, h, now, time.UTC))
	if made := wash.Clocks[0].Used.Value; !near(made, 40*6+10*1, 1e-6) {
		t.Errorf("%v shots since the wash, want 40 days at 6 and 10 at 1", made)
	}
	// a share that was learned on the way holds from its day on
	h.Shares = []Share{{From: turn, Of: 0.5}}
	if half := descaling(t, after, h, now).Places[0].Lies.Likely; !near(half-lay, (grew-lay)/2, 1e-6*grew) {
		t.Errorf("with half of it staying since the change: %.1f mg more, want half of %.1f", half-lay, grew-lay)
	}
}

// A task that no rule can date stays in the list, due now, with its reason.
func TestWaterThatCannotBeWorkedOut(t *testing.T) {
	h := History{NoWater: errors.New("no such water")}
	list := only(AllDue(home(4), h, noon, time.UTC), task.Descale)
	if len(list) != 1 || !list[0].NoDate || !strings.Contains(list[0].Because[0].Text, "no such water") {
		t.Errorf("%+v", list)
	}
}

// Entries are read one by one from the oldest of the newest washes on, whatever else was done.
func TestReadFrom(t *testing.T) {
	two := home(4)
	two.Overrides = map[string]string{"groups": "2"}
	done := []Done{{task.Wash, machine.Group(1), daysAgo(3), ""}, {task.Wash, machine.Group(2), daysAgo(9), ""},
		{task.Seal, machine.Group(1), daysAgo(300), New}, {Task: task.Descale, At: daysAgo(90)}}
	if got := ReadFrom(two, Choice{}, done, noon, time.UTC); !got.Equal(use.Day(daysAgo(9), time.UTC)) {
		t.Errorf("from %v", got)
	}
	if got := ReadFrom(two, Choice{}, nil, noon, time.UTC); !got.Equal(use.Day(noon, time.UTC)) {
		t.Errorf("nothing on record: from %v", got)
	}
	h := History{Done: done}
	if got := h.DaysFrom(noon, time.UTC); !got.Equal(use.Day(daysAgo(90), time.UTC)) {
		t.Errorf("days from %v, want the descale's", got)
	}
}
