package care

import (
	"slices"
	"testing"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/task"
	"freshanvil/core/use"
)

// café is a shop with two groups that makes drinks every day, looked at in the evening.
func shop(set ...string) (machine.Answers, History, time.Time) {
	a := machine.Answers{Layout: machine.HXCafe, Valve: machine.Yes, Drinks: 200, MilkDrinks: 100,
		Overrides: map[string]string{}}
	for i := 0; i < len(set); i += 2 {
		a.Overrides[set[i]] = set[i+1]
	}
	now := time.Date(2026, 5, 20, 18, 0, 0, 0, time.UTC)
	h := History{}
	h.LoggedSince = now.AddDate(0, 0, -30)
	for d := range 30 {
		if d == 3 { // closed on one day
			continue
		}
		at := now.AddDate(0, 0, -d)
		h.Events = append(h.Events, use.Event{ID: at.String(), Kind: use.Double, Count: 200,
			From: at.Add(-time.Hour), To: at})
	}
	h.Since = now.AddDate(0, 0, -40)
	h.LoggedUntil = now
	return a, h, now
}

func tasksOf(list []Close) (ids []task.ID) {
	for _, c := range list {
		ids = append(ids, c.Task)
	}
	return ids
}

// Tonight's jobs stand in the order of the work; what is done goes below, with who and when; a weekly
// soak that has come is among them.
func TestClosingInOrder(t *testing.T) {
	a, h, now := shop()
	dues := []Standing{{Task: task.Wash, State: Today, Part: machine.Group(1)}, {Task: task.Wash, State: Today,
		Part: machine.Group(2)}, {Task: task.Soak, State: Overdue}, {Task: task.Screen, State: Overdue,
		Part: machine.Group(1)}, {Task: task.Tip, State: Later}}
	c := ClosingOf(a, h, dues, nil, now, time.UTC)
	want := []task.ID{task.Wand, task.Wash, task.Soak, task.Waste} // the wash begins with the brush
	if got := tasksOf(c.Jobs); !slices.Equal(got, want) {
		t.Fatalf("%v, want %v", got, want)
	}
	did := []Did{{Task: task.Wand, At: now.Add(-time.Minute), By: "M"}, {Task: task.Brush, At: now.Add(-26 * time.Hour)}}
	c = ClosingOf(a, h, dues, did, now, time.UTC)
	last := c.Jobs[len(c.Jobs)-1]
	if last.Task != task.Wand || last.By != "M" || last.Done.IsZero() || c.Jobs[0].Task != task.Wash || !c.Jobs[0].Due {
		t.Errorf("%+v", c.Jobs)
	}
}

// A wash counts as brush and water backflush of the night; a tank wipe as fresh water.
func TestAWashTicksTheBrush(t *testing.T) {
	a, h, now := shop()
	did := []Did{{Task: task.Wash, At: now.Add(-time.Minute), By: "Ana"}}
	for _, j := range ClosingOf(a, h, nil, did, now, time.UTC).Jobs {
		ticked := j.Task == task.Brush || j.Task == task.WaterBackflush
		if ticked != !j.Done.IsZero() {
			t.Errorf("%s done at %s", j.Task, j.Done)
		}
	}
}

// Nights are seen, not scored: closed, in part with what is missing, nobody; none where no drink was made.
func TestNightsAreSeen(t *testing.T) {
	a, h, now := shop()
	var did []Did
	for _, id := range []task.ID{task.Wand, task.Brush, task.WaterBackflush, task.Waste} {
		did = append(did, Did{Task: id, At: now.AddDate(0, 0, -1), By: "Ana"})
	}
	did = append(did, Did{Task: task.Wand, At: now.AddDate(0, 0, -2).Add(8 * time.Hour), By: "B"}) // at 2 in the morning
	nights := ClosingOf(a, h, nil, did, now, time.UTC).Nights
	if len(nights) != 14 {
		t.Fatalf("%d nights", len(nights))
	}
	for i, want := range []NightState{ClosedNight, PartNight, IdleNight, OpenNight} {
		if nights[i].State != want {
			t.Errorf("night %d of %s: %+v, want %s", i, nights[i].Day, nights[i], want)
		}
	}
	if len(nights[1].Missing) != 3 || !slices.Equal(nights[1].By, []string{"B"}) || nights[0].By[0] != "Ana" {
		t.Errorf("%+v", nights[:2])
	}
}

// Where two pulses after each drink are kept, they are no job of the night.
func TestPulsesAfterEachDrink(t *testing.T) {
	a, h, now := shop("water_backflush", "after each drink")
	c := ClosingOf(a, h, nil, nil, now, time.UTC)
	if c.AfterDrink == nil || slices.Contains(tasksOf(c.Jobs), task.WaterBackflush) {
		t.Errorf("%+v", c)
	}
}

// Tonight's close of what stands: the job of each day, what is due and the small ones, each once; begun when the last
// drink is made, or now where that is past. Without a job of each day there is none.
func TestTonight(t *testing.T) {
	now := time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)
	at := now.Add(7 * time.Hour)
	wash := func(g int, state State) Standing {
		return Standing{Task: task.Wash, Part: machine.Group(g), Daily: true, State: state, Likely: at}
	}
	list := []Standing{wash(1, Today), wash(2, Today), {Task: task.Soak, State: Overdue}, {Task: task.Tip, State: Later},
		{Task: task.Screen, State: Overdue}, {Task: task.Tray, State: Today}}
	due, begin := Tonight(list, now)
	if !slices.Equal(due, []task.ID{task.Wash, task.Soak, task.Tray}) || !begin.Equal(at) {
		t.Errorf("%v, begun %v", due, begin)
	}
	if _, begin = Tonight(list, at.Add(time.Hour)); !begin.Equal(at.Add(time.Hour)) {
		t.Errorf("late in the evening it is begun %v", begin)
	}
	if due, _ := Tonight([]Standing{wash(1, Later), {Task: task.Soak, State: Overdue}}, now); len(due) != 0 {
		t.Errorf("washed already, and still %v", due)
	}
}

// What is opened cold is no job of the night: it is for the next morning, each once.
func TestMornings(t *testing.T) {
	got := mornings([]Standing{{Task: task.Screen, Part: machine.Group(1), Title: "Screen off", State: Overdue},
		{Task: task.Screen, Part: machine.Group(2), Title: "Screen off", State: Today}, {Task: task.Soak, Title: "Soak",
			State: Overdue}, {Task: task.Seal, Title: "New seal", State: Later}})
	if !slices.Equal(got, []string{"Screen off"}) {
		t.Errorf("%v", got)
	}
}

// What may go wrong with pulses is said only where there are any.
func TestPulsesAreOfAValve(t *testing.T) {
	cafe, h, now := shop()
	lever := machine.Answers{Layout: machine.LeverManual, Valve: machine.No, Drinks: 4, Overrides: map[string]string{}}
	for of, want := range map[*machine.Answers]bool{&cafe: true, &lever: false} {
		if got := ClosingOf(*of, h, nil, nil, now, time.UTC).Pulses; got != want {
			t.Errorf("%s: %v", of.Layout, got)
		}
	}
}

// A card on a wall hangs there for weeks: it says what each night asks for, and not what happens to be due tonight.
func TestEveryNightIsNotTonight(t *testing.T) {
	cafe, _, _ := shop()
	home := machine.Answers{Layout: machine.SingleBoiler, Valve: machine.Yes, Drinks: 4, MilkDrinks: 2,
		Overrides: map[string]string{"water_backflush": "a few times a week"}}
	daily := Standing{Task: task.Wash, State: Later, Part: machine.Group(1), Daily: true}
	due := []Standing{{Task: task.Soak, State: Overdue}, {Task: task.Tank, State: Today}}
	for _, x := range []struct {
		name string
		of   machine.Answers
		dues []Standing
		want []task.ID
	}{
		{"a café washes each night", cafe, append(due, daily), []task.ID{task.Wand, task.Wash, task.Waste}},
		{"a wash that is due tonight", home, append(due, Standing{Task: task.Wash, State: Overdue}),
			[]task.ID{task.Wand, task.WaterBackflush, task.Brush, task.Tray, task.TankWater}},
	} {
		t.Run(x.name, func(t *testing.T) {
			got := EveryNight(x.of, x.dues)
			if !slices.Equal(tasksOf(got), x.want) {
				t.Fatalf("%v, want %v", tasksOf(got), x.want)
			}
			for _, j := range got {
				if j.Task == task.WaterBackflush && j.Title != "Water backflush, every 3 days" || j.Due {
					t.Errorf("%+v", j)
				}
			}
		})
	}
}
