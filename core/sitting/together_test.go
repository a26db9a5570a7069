package sitting

import (
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/task"
)

func item(id task.ID, every, due float64) Item {
	return Item{Task: id, Title: id.Title(), Every: every, Due: due}
}

func tasksIn(s Sitting) (ids []task.ID) {
	for _, m := range s.Members {
		ids = append(ids, m.Task)
	}
	return ids
}

// From a wash every two weeks, a descale every second and a filter every fourth, four beats come by
// themselves (common practice): wash; wash and descale; wash; wash, descale and filter; in the order of work.
func TestFourBeats(t *testing.T) {
	list := Year([]Item{item(task.Wash, 14, 14), item(task.Descale, 28, 28), item(task.FilterChange, 56, 56)}, 112.5)
	want := [][]task.ID{{task.Wash}, {task.Descale, task.Wash}, {task.Wash},
		{task.FilterChange, task.Descale, task.Wash}}
	if len(list) != 8 {
		t.Fatalf("%d sittings in 16 weeks: %+v", len(list), list)
	}
	for i, s := range list {
		if math.Abs(s.Day-float64(14*(i+1))) > 0.01 || !slices.Equal(tasksIn(s), want[i%4]) {
			t.Errorf("sitting %d on day %.1f: %v, want %v", i+1, s.Day, tasksIn(s), want[i%4])
		}
	}
}

// Where the three run out of step by days, as they do when they are counted by use, they are drawn together
// as far as that pays: an hour and a half of descaling is not done days early to lay out once less.
func TestBeatsOutOfStep(t *testing.T) {
	items := []Item{item(task.Wash, 13.2, 9), item(task.Descale, 30, 21), item(task.FilterChange, 61, 40)}
	joined, alone := 0, 0.0
	list := Year(items, 200)
	for _, s := range list {
		if len(s.Members) > 1 {
			joined++
		}
	}
	for _, i := range items {
		alone += Minutes(Year([]Item{i}, 200))
	}
	if joined < 4 || Minutes(list) >= alone {
		t.Errorf("%d sittings, %d joined, %g min; each by itself %g", len(list), joined, Minutes(list), alone)
	}
}

// What is shared pays for days of being early, and says so; what it cannot pay for stays apart.
func TestWhatPays(t *testing.T) {
	for _, c := range []struct {
		name  string
		items []Item
		want  [][]task.ID
		says  string
	}{
		{"the machine is cold anyway", []Item{item(task.Screen, 30, 0), item(task.Seal, 365, 20)},
			[][]task.ID{{task.Seal, task.Screen}}, "Pulled forward by 20 days: the machine is cold anyway."},
		{"one laying out less", []Item{item(task.Soak, 7, 0), item(task.Tip, 7, 2)},
			[][]task.ID{{task.Tip, task.Soak}}, "Pulled forward by 2 days: one laying out less."},
		{"more than a third early", []Item{item(task.Soak, 7, 0), item(task.Tank, 30, 11)},
			[][]task.ID{{task.Soak}, {task.Tank}}, "Due."},
		{"not past a cap", []Item{{Task: task.Wash, Title: "Wash", Every: 30, Due: 0, Never: true}, item(task.Soak, 30, 11)},
			[][]task.ID{{task.Wash}, {task.Soak}}, "Due."},
		{"late comes first", []Item{item(task.Wash, 14, -3), item(task.Soak, 7, 1)},
			[][]task.ID{{task.Wash, task.Soak}}, "Pulled forward by a day: one laying out less."},
	} {
		t.Run(c.name, func(t *testing.T) {
			got := Together(c.items)
			if len(got) != len(c.want) {
				t.Fatalf("%d sittings: %+v", len(got), got)
			}
			said := false
			for i, s := range got {
				if !slices.Equal(tasksIn(s), c.want[i]) {
					t.Errorf("sitting %d: %v, want %v", i, tasksIn(s), c.want[i])
				}
				if len(s.Members) > 1 && s.Minutes >= s.Alone {
					t.Errorf("together %g min, alone %g", s.Minutes, s.Alone)
				}
				for _, m := range s.Members {
					said = said || m.Because.Text == c.says
				}
			}
			if !said {
				t.Errorf("nobody says %q: %+v", c.says, got)
			}
		})
	}
}

func random(r *rand.Rand, n int) []Item {
	ids := []task.ID{task.Wash, task.Descale, task.FilterChange, task.Screen, task.Soak, task.Tip, task.Tank, task.Seal,
		task.SteamJoint, task.Grinder}
	items := make([]Item, n)
	for i := range items {
		every := 5 + 80*r.Float64()
		items[i] = item(ids[i], every, every*(1.2*r.Float64()-0.2))
		items[i].Never = r.IntN(4) == 0
	}
	return items
}

// costOf is what a way of parting costs; infinite where a part has no day.
func costOf(items []Item, parts []uint) (sum float64) {
	for _, p := range parts {
		_, cost, _ := best(items, p)
		sum += cost
	}
	return sum
}

// every way of parting is gone through one by one, on a fine grid of days, as a check of its own.
func exhaustive(items []Item, i int, parts []uint) float64 {
	if i == len(items) {
		return costOf(items, parts)
	}
	least := math.Inf(1)
	for k := range parts {
		parts[k] |= 1 << i
		least = math.Min(least, exhaustive(items, i+1, parts))
		parts[k] &^= 1 << i
	}
	return math.Min(least, exhaustive(items, i+1, append(slices.Clone(parts), 1<<i)))
}

// Against every way of parting, one by one; each task once, on a day that it may be done on; a day that costs
// less than the one that was found is on no fine grid.
func TestTogetherIsTheLeast(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 5))
	for range 150 {
		items := random(r, 1+r.IntN(6))
		list, sum, seen := Together(items), 0.0, 0
		for _, s := range list {
			var set uint
			for _, m := range s.Members {
				seen++
				i := slices.IndexFunc(items, func(x Item) bool { return x.Task == m.Task })
				set |= 1 << i
				if s.Day < m.earliest()-1e-9 || s.Day > m.latest()+1e-9 {
					t.Fatalf("%s on day %g, allowed %g to %g", m.Task, s.Day, m.earliest(), m.latest())
				}
			}
			day, cost, _ := best(items, set)
			if math.Abs(day-s.Day) > 1e-9 {
				t.Fatalf("on day %g, best %g", s.Day, day)
			}
			for grid := 0.0; grid < 100; grid += 0.5 {
				at, fine := shared(items, set), true
				for i, x := range items {
					if set>>i&1 == 1 {
						at, fine = at+x.own(grid), fine && grid >= x.earliest() && grid <= x.latest()
					}
				}
				if fine && at < cost-1e-6 {
					t.Fatalf("day %g costs %g, day %g %g", day, cost, grid, at)
				}
			}
			sum += cost
		}
		if least := exhaustive(items, 0, nil); seen != len(items) || math.Abs(sum-least) > 1e-6 {
			t.Fatalf("%d of %d tasks, %g min, the least is %g", seen, len(items), sum, least)
		}
	}
}

// A year is never cheaper than its bound, and together it is never dearer than each task by itself.
func TestAYearAndItsBound(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 1))
	worst := 0.0
	for range 40 {
		items := random(r, 2+r.IntN(7))
		list := Year(items, 365)
		minutes, bound, alone := Minutes(list), Bound(items, 365), 0.0
		for _, i := range items {
			alone += Minutes(Year([]Item{i}, 365))
		}
		if minutes < bound-1e-6 || minutes > alone*1.05 {
			t.Errorf("%g min, at the least %g, each by itself %g", minutes, bound, alone)
		}
		worst = math.Max(worst, minutes/bound)
	}
	if worst > 2.5 {
		t.Errorf("a year of %g times its bound", worst)
	}
}

// A standing becomes an item with its own interval; the daily ones ride along, licensed hands are not asked.
func TestItemsOfStandings(t *testing.T) {
	now := time.Date(2026, 5, 20, 9, 0, 0, 0, time.UTC)
	ago := func(d int) time.Time { return now.AddDate(0, 0, -d) }
	list := ItemsOf([]care.Standing{
		{Task: task.Wash, Part: machine.Group(1), State: care.Later, Last: ago(10), Likely: now.AddDate(0, 0, 4),
			Clock: task.ByShots, Used: 40, Most: 50},
		{Task: task.Soak, State: care.Overdue, Last: ago(9), Likely: now, Clock: task.ByDays, Used: 9, Most: 7},
		{Task: task.Tank, State: care.Unrecorded, Likely: now},
		{Task: task.Wash, State: care.Today, Daily: true, Last: ago(1), Likely: now},
		{Task: task.Brush, State: care.Today, Likely: now}, {Task: task.Inspection, Last: ago(3), Likely: now},
		{Task: task.Descale, State: care.Overdue, Workshop: true, Likely: now},
	}, now)
	if len(list) != 3 {
		t.Fatalf("%d items: %+v", len(list), list)
	}
	for i, want := range []struct{ every, due float64 }{{12.5, 4}, {7, -2}, {30, 0}} {
		if math.Abs(list[i].Every-want.every) > 0.01 || math.Abs(list[i].Due-want.due) > 0.01 {
			t.Errorf("%s every %g, due in %g, want %+v", list[i].Task, list[i].Every, list[i].Due, want)
		}
	}
	heads := Sitting{Members: []Member{{Item: Item{Title: "Detergent wash"}}, {Item: Item{Title: "Soak"}},
		{Item: Item{Title: "Tank"}}, {Item: Item{Title: "Tip"}}}}.Head()
	if !strings.Contains(heads, "Detergent wash, soak and 2 more") {
		t.Errorf("%q", heads)
	}
}

// A year of a thousand machines of six tasks each; beside it what the years cost, against each task by itself and
// against the bound that no way of putting them together is below.
func BenchmarkYear(b *testing.B) {
	r := rand.New(rand.NewPCG(1, 2))
	machines := make([][]Item, 1000)
	for i := range machines {
		machines[i] = random(r, 6)
	}
	var joined, alone, bound float64
	for b.Loop() {
		joined, alone, bound = 0, 0, 0
		for _, items := range machines {
			year := Year(items, 365)
			joined += Minutes(year)
			bound += Bound(items, 365)
			for _, s := range year {
				alone += s.Alone
			}
		}
	}
	b.ReportMetric(joined/alone, "of_one_by_one")
	b.ReportMetric(joined/bound, "of_the_bound")
}

// What one run leads: each task once with its parts; never a descale, and not one task by itself.
func TestLed(t *testing.T) {
	of := func(list ...Item) []job.Want {
		s := Sitting{}
		for _, i := range list {
			s.Members = append(s.Members, Member{Item: i})
		}
		return s.Led()
	}
	wash := func(g int) Item { return Item{Task: task.Wash, Part: machine.Group(g)} }
	got := of(wash(1), Item{Task: task.Descale}, Item{Task: task.Soak}, wash(2))
	if len(got) != 2 || got[0].Task != task.Wash || len(got[0].Parts) != 2 || got[1].Task != task.Soak {
		t.Errorf("%+v", got)
	}
	if got := of(wash(1), wash(2), Item{Task: task.Descale}); got != nil {
		t.Errorf("one task alone: %+v", got)
	}
}

// A yearly seal is not pulled forward by weeks to a screen that comes round weekly: it waits for the one before its own
// day. With a screen that does not come round before, it is.
func TestWaitsForTheNext(t *testing.T) {
	weekly, yearly := item(task.Screen, 7, 2), item(task.Seal, 365, 50)
	first := Year([]Item{weekly, yearly}, 5)[0]
	if len(first.Members) != 1 || first.Members[0].Task != task.Screen {
		t.Errorf("the first: %+v", first)
	}
	early := -1.0
	for _, s := range Year([]Item{weekly, yearly}, 80) {
		for _, m := range s.Members {
			if m.Task == task.Seal {
				early = m.Early
			}
		}
	}
	if early < 0 || early >= 7 {
		t.Errorf("the seal came %g days early", early)
	}
	weekly.Every = 90
	if first := Year([]Item{weekly, yearly}, 5)[0]; len(first.Members) != 2 {
		t.Errorf("with one every ninety days: %+v", first)
	}
}

// Nothing is done while nobody is there: it is done before, where that is not too early, else when somebody is back;
// and what waited is done then together.
func TestNobodyIsThere(t *testing.T) {
	for _, c := range []struct {
		name string
		due  float64
		day  float64
		text string
	}{{"soon after they leave", 11, 9.5, "Before nobody is there"}, {"late in it", 20, 24.25, "until somebody is back"},
		{"after it", 30, 30, "Due"}, {"before it", 8, 8, "Due"}} {
		t.Run(c.name, func(t *testing.T) {
			s := Year([]Item{item(task.Wash, 14, c.due)}, 60, Gone{10, 24})[0]
			if math.Abs(s.Day-c.day) > 0.01 || !strings.Contains(s.Members[0].Because.Text, c.text) ||
				math.Abs(s.Members[0].Early-(c.due-s.Day)) > 0.01 {
				t.Errorf("%+v", s)
			}
		})
	}
	list := Year([]Item{item(task.Wash, 14, 18), item(task.Soak, 7, 22)}, 25, Gone{10, 24})
	if len(list) != 1 || len(list[0].Members) != 2 {
		t.Errorf("when they are back: %+v", list)
	}
}

// A close's run leads what is anybody's and needs no cold machine, of every group; a descale takes a wash and what
// treats the water along, and nothing else.
func TestAtNightAndAlong(t *testing.T) {
	got := AtNight([]task.ID{task.Wash, task.Screen, task.Soak, task.Brush, task.Jet}, 2)
	if len(got) != 2 || got[0].Task != task.Wash || len(got[0].Parts) != 2 || got[1].Task != task.Soak ||
		len(got[1].Parts) != 1 {
		t.Errorf("%+v", got)
	}
	for id, want := range map[task.ID]bool{task.Wash: true, task.FilterChange: true, task.Regenerate: true,
		task.Soak: false, task.Screen: false} {
		if AlongWithDescale(id) != want {
			t.Errorf("%s: %v", id, !want)
		}
	}
}

// Every task with a date that is no rest has its place in the order of work: one that comes to the table is not put
// last by nobody's choice.
func TestEveryTaskHasItsPlace(t *testing.T) {
	for _, row := range task.All() {
		if len(row.Clocks) > 0 && row.Way != task.Small && !row.Rests && !slices.Contains(order, row.ID) {
			t.Errorf("%s has no place in the order of work", row.ID)
		}
	}
}
