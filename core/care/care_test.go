package care

import (
	"fmt"
	"math"
	"slices"
	"testing"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/units"
	"freshanvil/core/use"
)

var noon = time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)

func daysAgo(d float64) time.Time { return noon.Add(-time.Duration(d * 24 * float64(time.Hour))) }

func home(drinks float64) machine.Answers {
	return machine.Answers{
		Layout:    machine.SingleBoiler,
		Valve:     machine.Yes,
		Drinks:    drinks,
		Hardness:  units.UnknownHardness(),
		Treatment: machine.Untreated,
	}
}

func near[T ~float64](a, b, tolerance T) bool { return math.Abs(float64(a-b)) <= float64(tolerance) }

// Default intervals by valve and use (common practice, the 30-day cap is ours).
func TestDefaultIntervals(t *testing.T) {
	with := func(change func(*machine.Answers)) machine.Answers {
		a := home(4)
		change(&a)
		return a
	}
	for name, c := range map[string]struct {
		a    machine.Answers
		want []Interval
	}{
		"solenoid at home": {home(4), []Interval{{Task: task.Wash, Shots: 50, Coffee: 1000, Days: 30},
			{Task: task.Screen, Days: 30}}},
		"café layout": {with(func(a *machine.Answers) { a.Layout = machine.HXCafe }),
			[]Interval{{Task: task.Wash, Daily: true}, {Task: task.Screen, Days: 7}}},
		"home layout used like a café's": {home(60),
			[]Interval{{Task: task.Wash, Daily: true}, {Task: task.Screen, Days: 7}}},
		"cam lever": {with(func(a *machine.Answers) { a.Layout = machine.LeverCam }),
			[]Interval{{Task: task.Wash, Days: 182}, {Task: task.Screen, Days: 91}}},
		"no valve, light": {with(func(a *machine.Answers) { a.Valve = machine.No }),
			[]Interval{{Task: task.Screen, Days: 30}}},
		"no valve, 12 a day": {with(func(a *machine.Answers) { a.Valve = machine.No; a.Drinks = 12 }),
			[]Interval{{Task: task.Screen, Days: 7}}},
		"can't tell counts as no": {with(func(a *machine.Answers) { a.Valve = machine.CannotTell }),
			[]Interval{{Task: task.Screen, Days: 30}}},
	} {
		got := Intervals(c.a, Choice{})
		if len(got) != len(c.want) {
			t.Errorf("%s: %+v", name, got)
			continue
		}
		for i, g := range got {
			w := c.want[i]
			if g.Task != w.Task || g.Shots != w.Shots || g.Coffee != w.Coffee || g.Days != w.Days ||
				g.Daily != w.Daily ||
				len(g.Because) == 0 {
				t.Errorf("%s: %+v, want %+v with a reason", name, g, w)
			}
		}
	}
	if doubles := coffeeBetween / float64(home(4).Facts().Double); !near(doubles, 56, 0.6) {
		t.Errorf("a kilogram is %v doubles, want about 56", doubles)
	}
}

func presses(kind use.Kind, n int, from, to time.Time, group int) []use.Event {
	var list []use.Event
	for i := range n {
		at := from.Add(to.Sub(from) * time.Duration(i+1) / time.Duration(n+1))
		e := use.Event{Kind: kind, Count: 1, From: at, To: at}
		if group > 0 {
			e.Part = machine.Group(group)
		}
		list = append(list, e)
	}
	return list
}

// only leaves the dues of some tasks.
func only(list []Due, of ...task.ID) []Due {
	return slices.DeleteFunc(list, func(d Due) bool { return !slices.Contains(of, d.Task) })
}

// washOf is the first due of the wash, or of what stands in its place.
func washOf(list []Due) Due {
	for _, d := range list {
		if d.Task == task.Wash {
			return d
		}
	}
	return list[slices.IndexFunc(list, func(d Due) bool { return d.Task == task.Screen })]
}

// Whichever clock runs out first decides: 50 shots, a kilogram, 30 days.
func TestWhicheverComesFirst(t *testing.T) {
	for name, c := range map[string]struct {
		kind    use.Kind
		shots   int
		ago     float64
		state   State
		leads   task.Clock
		usedOfI float64
	}{
		"shots run out, doubles":              {use.Double, 50, 12, Overdue, task.ByShots, 50},
		"one shot to go":                      {use.Double, 49, 12, Today, task.ByShots, 49},
		"singles weigh half, shots still run": {use.Single, 55, 12, Overdue, task.ByShots, 55},
		"thirty days at two a week":           {use.Double, 9, 30, Overdue, task.ByDays, 30},
		"nearly thirty days":                  {use.Double, 9, 29.5, Today, task.ByDays, 29.5},
		"a week in":                           {use.Double, 28, 7, Later, task.ByShots, 28},
	} {
		h := History{
			Done: []Done{{task.Wash, machine.Group(1), daysAgo(c.ago), ""}},
			Log:  use.Log{LoggedSince: daysAgo(100), Events: presses(c.kind, c.shots, daysAgo(c.ago), noon, 1)},
		}
		d := washOf(AllDue(home(4), h, noon, time.UTC))
		if d.State != c.state {
			t.Errorf("%s: %s, want %s", name, d.State, c.state)
		}
		for _, clock := range d.Clocks {
			if clock.Leads != (clock.Kind == c.leads) {
				t.Errorf("%s: %s leads %v, want %s to lead", name, clock.Kind, clock.Leads, c.leads)
			}
			if clock.Leads && !near(clock.Used.Value, c.usedOfI, 1e-9) {
				t.Errorf("%s: used %v, want %v", name, clock.Used.Value, c.usedOfI)
			}
		}
		if d.Earliest.After(d.Likely) || d.Likely.After(d.Latest) || d.Earliest.Before(noon) {
			t.Errorf("%s: %v, %v, %v are out of order", name, d.Earliest, d.Likely, d.Latest)
		}
		if limit := daysAgo(c.ago - 30); d.Latest.After(limit) && d.Latest.After(noon) {
			t.Errorf("%s: latest %v is past the 30-day cap %v", name, d.Latest, limit)
		}
	}
}

func TestCoffeeMassRunsOutFirst(t *testing.T) {
	// 40 doubles logged as one span, then a coffee limit below the shots'
	every := Interval{Task: task.Wash, Shots: 50, Coffee: 700, Days: 30}
	h := History{
		Done: []Done{{task.Wash, machine.Group(1), daysAgo(10), ""}},
		Log:  use.Log{LoggedSince: daysAgo(50), Events: presses(use.Double, 40, daysAgo(10), noon, 1)},
	}
	d := situated(home(4), h, noon, time.UTC).worn(every, machine.Group(1))
	if d.State != Overdue || !d.Clocks[1].Leads || d.Clocks[1].Used.Value != 720 {
		t.Errorf("%s, %+v", d.State, d.Clocks)
	}
}

// The job and its sentence, by state.
func TestHeadAndSentence(t *testing.T) {
	over := func(kind task.Clock, unit string, used, limit float64) []Clock {
		return []Clock{{Kind: kind, Unit: unit, Used: reason.Worked{Value: used}, Limit: limit, Leads: true}}
	}
	for _, c := range []struct {
		d          Due
		groups     int
		head, says string
	}{
		{Due{Task: task.Wash, Part: machine.Group(1), State: Later}, 1, "Nothing to do", ""},
		{Due{Task: task.Wash, Part: machine.Group(1), State: Unrecorded}, 1, "Detergent wash", "Nothing on record: due now."},
		{Due{Task: task.Wash, Part: machine.Group(1), State: Today, Interval: Interval{Daily: true}}, 1, "Tonight: wash",
			"After the last drink."},
		{Due{Task: task.Wash, Part: machine.Group(2), State: Today, Interval: Interval{Daily: true}, Cafe: true}, 2,
			"Close tonight: wash, group 2", "After the last drink."},
		{Due{Task: task.Screen, Part: machine.Group(1), State: Today}, 1, "Screen off and scrubbed", "Falls due today."},
		{Due{Task: task.Wash, Part: machine.Group(2), State: Overdue, Clocks: over(task.ByShots, "shots", 62, 50)}, 2,
			"Detergent wash, group 2",
			"Fell due 12 shots ago."},
		{Due{Task: task.Wash, Part: machine.Group(1), State: Overdue, Clocks: over(task.ByShots, "shots", 51, 50)}, 1,
			"Detergent wash", "Fell due 1 shot ago."},
		{Due{Task: task.Wash, Part: machine.Group(1), State: Overdue, Clocks: over(task.ByShots, "shots", 50, 50)}, 1,
			"Detergent wash", "Has just fallen due."},
		{Due{Task: task.Wash, Part: machine.Group(1), State: Overdue, Clocks: over(task.ByDays, "days", 31.9, 30)}, 1,
			"Detergent wash", "Fell due 1 day ago."},
		{Due{Task: task.Wash, Part: machine.Group(1), State: Overdue, Clocks: over(task.ByCoffee, "g", 1040, 1000)}, 1,
			"Detergent wash",
			"Fell due 40 g of coffee ago."},
	} {
		if head, says := c.d.Head(c.groups), c.d.When(); head != c.head || says != c.says {
			t.Errorf("%s: %q and %q, want %q and %q", c.d.State, head, says, c.head, c.says)
		}
	}
}

// Nothing on record counts as due now.
func TestUnrecordedIsDueNow(t *testing.T) {
	d := washOf(AllDue(home(4), History{}, noon, time.UTC))
	if d.State != Unrecorded || !d.Likely.Equal(noon) || len(d.Because) < 2 {
		t.Errorf("%+v", d)
	}
}

// Before anything is logged, use is taken at the declared rate; from the
// first log on, what is logged counts.
func TestDeclaredRateFillsInUntilTheFirstLog(t *testing.T) {
	h := History{Done: []Done{{task.Wash, machine.Group(1), daysAgo(10), ""}}}
	if d := washOf(AllDue(home(4), h, noon, time.UTC)); !near(d.Clocks[0].Used.Value, 40, 1e-9) ||
		!near(d.Clocks[1].Used.Value, 720, 1e-9) {
		t.Errorf("nothing logged: %v shots, %v g", d.Clocks[0].Used.Value, d.Clocks[1].Used.Value)
	}
	h.LoggedSince = daysAgo(4)
	h.Events = presses(use.Milk, 6, daysAgo(4), noon, 0)
	d := washOf(AllDue(home(4), h, noon, time.UTC))
	if !near(d.Clocks[0].Used.Value, 6*4+6, 1e-9) {
		t.Errorf(
			"logged for the last four of ten days: %v shots, want 24 assumed and 6 logged",
			d.Clocks[0].Used.Value,
		)
	}
}

// Use of the whole machine is split evenly unless logged by group; flushes
// are no shots; an event over the edge counts by its share.
func TestCount(t *testing.T) {
	events := []use.Event{
		{Kind: use.Double, Count: 10, From: daysAgo(2), To: daysAgo(2)},
		{Kind: use.Single, Count: 4, From: daysAgo(1), To: daysAgo(1), Part: machine.Group(1)},
		{Kind: use.Flush, Count: 7, From: daysAgo(1), To: daysAgo(1), Part: machine.Group(1)},
		{Kind: use.RunWater, Count: 400, From: daysAgo(1), To: daysAgo(1), Part: machine.Group(1)},
		{Kind: use.Double, Count: 20, From: daysAgo(6), To: daysAgo(2), Part: machine.Group(2)},
		{Kind: use.Double, Count: 99, From: daysAgo(3), To: daysAgo(3), Part: machine.Group(1)},
	}
	f := home(4).Facts()
	one := use.Count(events, machine.Group(1), 2, daysAgo(3), noon)
	two := use.Count(events, machine.Group(2), 2, daysAgo(3), noon)
	if one.Shots() != 9 || one.Coffee(f) != 5*18+4*9 {
		t.Errorf("group 1: %+v, want 9 shots and 126 g", one)
	}
	if !near(two.Shots(), 5+5, 1e-9) || !near(two.Coffee(f), 180, 1e-9) {
		t.Errorf("group 2: %+v, want 10 shots", two)
	}
}

// Cam lever: wash twice a year, a hand clean in each other quarter; a wash
// does what a hand clean does.
func TestCamLeverAlternates(t *testing.T) {
	a := home(4)
	a.Layout = machine.LeverCam
	for name, c := range map[string]struct {
		done  []Done
		first task.ID
		in    float64
	}{
		"after a wash, the hand clean": {[]Done{{task.Wash, machine.Group(1), daysAgo(1), ""}}, task.Screen, 90},
		"after the hand clean, the wash": {[]Done{{task.Wash, machine.Group(1), daysAgo(92), ""},
			{task.Screen, machine.Group(1), daysAgo(1), ""}}, task.Wash, 90},
		"neither done for half a year":     {[]Done{{task.Wash, machine.Group(1), daysAgo(183), ""}}, task.Wash, 0},
		"hand clean late, wash not so yet": {[]Done{{task.Wash, machine.Group(1), daysAgo(100), ""}}, task.Screen, 0},
	} {
		d := only(AllDue(a, History{Done: c.done}, noon, time.UTC), task.Wash, task.Screen)
		if len(d) != 2 || d[0].Task != c.first || !near(d[0].Days.Value, c.in, 1e-6) {
			t.Errorf("%s: first %s in %.1f days, want %s in %v", name, d[0].Task, d[0].Days.Value, c.first, c.in)
		}
		if d[0].Earliest != d[0].Latest {
			t.Errorf("%s: a calendar interval has a range", name)
		}
	}
}

// A café washes once in each of its days, which turn at 04:00 in its zone.
func TestCafeDaily(t *testing.T) {
	zone, err := time.LoadLocation("Europe/Lisbon")
	if err != nil {
		t.Fatal(err)
	}
	at := func(day, hour int) time.Time { return time.Date(2026, 7, day, hour, 30, 0, 0, zone) }
	a := home(300)
	a.Layout = machine.HXCafe
	for name, c := range map[string]struct {
		last, now time.Time
		state     State
		likely    time.Time
	}{
		"washed last night, morning": {at(1, 20), at(2, 8), Today,
			time.Date(2026, 7, 2, 19, 0, 0, 0, zone)},
		"washed at two at night counts as the day before": {at(2, 2), at(2, 8), Today,
			time.Date(2026, 7, 2, 19, 0, 0, 0, zone)},
		"washed today":                             {at(2, 7), at(2, 20), Later, time.Date(2026, 7, 3, 19, 0, 0, 0, zone)},
		"past closing":                             {at(1, 20), at(2, 22), Today, at(2, 22)},
		"half past three is still the same day":    {at(1, 20), at(3, 3), Today, at(3, 3)},
		"half past four is the next: a day missed": {at(1, 20), at(3, 4), Overdue, at(3, 4)},
	} {
		h := History{Done: []Done{{task.Wash, machine.Group(1), c.last, ""}, {task.Wash, machine.Group(2), c.last, ""}}}
		d := only(AllDue(a, h, c.now, zone), task.Wash)
		if len(d) != 2 || d[0].State != c.state || !d[0].Likely.Equal(c.likely) {
			t.Errorf("%s: %s, likely %v, want %s, %v", name, d[0].State, d[0].Likely, c.state, c.likely)
		}
		// for now once the café is closed, or a day late; not in the morning
		if want := c.state == Overdue || (c.state == Today && !c.now.Before(c.likely)); d[0].Now(c.now) != want {
			t.Errorf("%s: for now %v, want %v", name, d[0].Now(c.now), want)
		}
		if d[0].Clocks[0].Over() != (c.state == Overdue) {
			t.Errorf("%s: the clock stands at %v of %v", name, d[0].Clocks[0].Used.Value, d[0].Clocks[0].Limit)
		}
	}
}

func TestReasonsAreNeverEmpty(t *testing.T) {
	for _, l := range machine.Layouts() {
		for _, v := range []machine.Answer{machine.Yes, machine.No, machine.CannotTell} {
			a := home(20)
			a.Layout, a.Valve = l, v
			for _, d := range AllDue(a, History{Done: []Done{{task.Wash, machine.Group(1), daysAgo(2), ""}}}, noon, time.UTC) {
				if len(d.Because) == 0 || (d.Task == task.Wash && !a.Facts().Valve.Vents()) {
					t.Errorf("%s, valve %s: %s because %+v", l, v, d.Task, d.Because)
				}
				for _, r := range d.Because {
					if r.Text == "" || r.Source.Kind == reason.Kind("") {
						t.Errorf("%s: a reason without text or source", l)
					}
				}
			}
		}
	}
}

// By hand: 4 a day wash every 12.5 days by shots; 0.5 a day by the 30-day cap;
// a café of two groups twice a day; a cam lever twice a year.
func TestWashesADay(t *testing.T) {
	cafe, cam, none := home(300), home(4), home(4)
	cafe.Layout, cam.Layout, none.Valve = machine.HXCafe, machine.LeverCam, machine.No
	for name, c := range map[string]struct {
		a    machine.Answers
		want float64
	}{"4 a day": {home(4), 0.08}, "one in two days": {home(0.5), 1.0 / 30}, "café": {cafe, 2}, "cam": {cam, 1.0 / 182},
		"no valve": {none, 0}} {
		if got := PerDay(c.a, Choice{}); !near(got.Value, c.want, 1e-12) {
			t.Errorf("%s: %v washes a day, want %v", name, got.Value, c.want)
		}
	}
}

// After one group's wash comes the next group that is due, if one is.
func TestThenTheNextGroup(t *testing.T) {
	dues := []Standing{
		{Task: task.Screen, Part: machine.Group(3), State: Overdue},
		{Task: task.Wash, Part: machine.Group(1), State: Overdue, Title: task.Wash.Title()},
		{Task: task.Wash, Part: machine.Group(2), State: Today},
		{Task: task.Wash, Part: machine.Group(3), State: Later},
	}
	if d, ok := Then(dues, 1); !ok || d.Part.GroupNumber() != 2 {
		t.Errorf("after group 1: %d, %v, want group 2", d.Part.GroupNumber(), ok)
	}
	if d, ok := Then(dues, 2); !ok || d.Part.GroupNumber() != 1 {
		t.Errorf("after group 2: %d, %v, want group 1", d.Part.GroupNumber(), ok)
	}
	if _, ok := Then(dues, 1, 2); ok {
		t.Error("both are washed, and one comes next")
	}
	if got := Together(dues[1:]); !slices.Equal(got, []int{1, 2}) ||
		dues[1].Head(2, got...) != "Detergent wash, groups 1 and 2" {
		t.Errorf("together: %v, %q", got, dues[1].Head(2, got...))
	}
	if got := Groups([]int{1, 2, 4}); got != "groups 1, 2 and 4" {
		t.Error(got)
	}
	if got := Together(dues); !slices.Equal(got, []int{3}) {
		t.Errorf("where a screen presses most: %v, want its group", got)
	}
	if Together(dues[3:]) != nil || Together(nil) != nil || Together([]Standing{{Task: task.Descale}}) != nil {
		t.Error("something is done together that is not due, or of no group")
	}
	if _, ok := Then(dues[3:], 1); ok {
		t.Error("a wash that is not due comes next")
	}
}

// No drinks from a group that holds detergent; a flush helps to get it out.
func TestDrinksAreBarredFromADirtyGroup(t *testing.T) {
	one, two, all := machine.Group(1), machine.Group(2), machine.Part{}
	type parts = []machine.Part
	for _, c := range []struct {
		kind        use.Kind
		of          machine.Part
		dirty, want parts
	}{
		{use.Double, one, nil, nil}, {use.Double, one, parts{one}, parts{one}}, {use.Double, one, parts{two}, nil},
		{use.Milk, all, parts{two}, parts{two}}, {use.Single, all, parts{one, two}, parts{one, two}},
		{use.Flush, one, parts{one}, nil}, {use.RunWater, one, parts{one}, nil}, {"undo", all, parts{one}, nil},
	} {
		t.Run(fmt.Sprint(c.kind, c.of, c.dirty), func(t *testing.T) {
			if got := use.Barred(c.kind, c.of, c.dirty); !slices.Equal(got, c.want) {
				t.Errorf("barred by %v, want %v", got, c.want)
			}
		})
	}
}
