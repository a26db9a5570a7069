package care

import (
	"errors"
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/units"
	"freshanvil/core/use"
)

func of(l machine.Layout, drinks float64) machine.Answers {
	a := home(drinks)
	a.Layout = l
	return a
}

// Every school of the trade is there with a reason; each machine is offered
// those it can follow, its default first.
func TestSchoolsForEachMachine(t *testing.T) {
	none := home(3)
	none.Valve = machine.No
	for name, c := range map[string]struct {
		a     machine.Answers
		first SchoolID
		count int
	}{
		"solenoid at home": {home(4), SchoolFifty, 9}, "café": {of(machine.HXCafe, 300), SchoolClose, 9},
		"cam": {of(machine.LeverCam, 3), SchoolCam, 10}, "no valve, light": {none, SchoolHand, 2},
	} {
		list := SchoolsFor(c.a)
		if len(list) != c.count || list[0].ID != c.first {
			t.Errorf("%s: %d schools, first %s", name, len(list), list[0].ID)
		}
		for _, s := range list {
			pick, err := Pick(c.a, s.ID)
			if err != nil || s.Why == "" || s.Title == "" || len(pick.For(c.a).Because) == 0 ||
				pick.Title() != s.Title {
				t.Errorf("%s: %s is not said in full: %v", name, s.ID, err)
			}
		}
	}
	if len(Everies()) != 10 {
		t.Errorf("%d intervals", len(Everies()))
	}
	// 200 on the counter is 100 drinks where each comes with a flush
	pick, _ := Pick(home(4), SchoolProgram)
	rate := Declared(home(4))
	if span := pick.For(home(4)).Span(home(4).Facts(), rate); !near(span.Value, 25, 1e-9) {
		t.Errorf("200 on the counter at 4 drinks a day: %v days, want 25", span.Value)
	}
}

// A choice holds for the due answer; a choice the machine can no longer follow
// gives way to its default.
func TestChoiceHolds(t *testing.T) {
	h := History{Done: []Done{{task.Wash, machine.Group(1), daysAgo(8), ""}}, Log: use.Log{LoggedSince: daysAgo(20)}}
	var err error
	if h.Choice, err = Pick(home(4), SchoolSoak); err != nil {
		t.Fatal(err)
	}
	if d := washOf(AllDue(home(4), h, noon, time.UTC)); d.State != Overdue || d.Clocks[0].Limit != 7 {
		t.Errorf("washed eight days ago, weekly: %s, %+v", d.State, d.Clocks)
	}
	if h.Choice, err = Pair(home(4), backflush.Tablet, nil, OwnNumbers, Interval{Litres: 5, Shots: 400}); err != nil {
		t.Fatal(err)
	}
	h.Events = presses(use.Double, 40, daysAgo(7), noon, 1)
	d := washOf(AllDue(home(4), h, noon, time.UTC))
	// by hand: 40 doubles of 36 + 20 + 25 + 50 mL are 5.24 L
	if d.State != Overdue || d.Clocks[1].Kind != task.ByLitres || !near(d.Clocks[1].Used.Value, 5.24, 1e-9) ||
		d.Interval.Days != 30 {
		t.Errorf("%s, %+v", d.State, d.Clocks)
	}
	if d.When() != "Has just fallen due." {
		t.Errorf("%q", d.When())
	}
	none := home(4)
	none.Valve = machine.No
	if i := h.Choice.For(none); i.Task != task.Screen || i.Days != 30 {
		t.Errorf("a wash chosen for a machine that now has no valve: %+v", i)
	}
	for _, c := range []struct {
		method backflush.MethodID
		every  EveryID
		own    Interval
		field  string
	}{
		{"fistful", EveryDay, Interval{}, "method"}, {backflush.WaterOnly, EveryDay, Interval{}, "method"},
		{backflush.Soak, "hourly", Interval{}, "every"},
		{backflush.Soak, OwnNumbers, Interval{}, "own"}, {backflush.Soak, OwnNumbers, Interval{Shots: 4}, "shots"},
		{backflush.Soak, OwnNumbers, Interval{Days: math.NaN()}, "days"},
	} {
		_, err := Pair(home(4), c.method, nil, c.every, c.own)
		var bad *units.OutOfRange
		if !errors.As(err, &bad) || bad.Field != c.field {
			t.Errorf("%+v: %v", c, err)
		}
	}
	if _, err := Pick(home(4), SchoolHand); err == nil {
		t.Error("a hand clean was chosen in the wash's place")
	}
}

// What speaks against a choice is said: it is the user's to make.
func TestWarnings(t *testing.T) {
	for name, c := range map[string]struct {
		a     machine.Answers
		id    SchoolID
		words string
	}{
		"café weekly": {of(machine.HXCafe, 300), SchoolSoak, "every day"},
		"cam weekly":  {of(machine.LeverCam, 3), SchoolSoak, "grease"},
		"cam daily":   {of(machine.LeverCam, 3), SchoolClose, "grease"}, "home seldom": {home(4), SchoolSeldom, "rancid"},
		"home weekly": {home(4), SchoolSoak, ""}, "café daily": {of(machine.HXCafe, 300), SchoolClose, ""},
	} {
		pick, err := Pick(c.a, c.id)
		if err != nil {
			t.Fatal(err)
		}
		list := pick.Warn(c.a)
		if (c.words == "") != (len(list) == 0) || (len(list) > 0 && !strings.Contains(list[0].Text, c.words)) {
			t.Errorf("%s: %+v", name, list)
		}
	}
}

// Oily beans and a party shorten the present interval only.
func TestShortenedUntilTheNextWash(t *testing.T) {
	h := History{
		Done: []Done{{task.Wash, machine.Group(1), daysAgo(9), ""}},
		Log:  use.Log{LoggedSince: daysAgo(9), Events: presses(use.Double, 36, daysAgo(9), noon, 1)},
	}
	h.Choice.Shortened = []Shortening{{"oily", daysAgo(2).UnixMilli()}}
	d := washOf(AllDue(home(4), h, noon, time.UTC))
	if d.State != Overdue || d.Clocks[0].Limit != 35 || !strings.Contains(d.Because[len(d.Because)-1].Text, "Oily") {
		t.Errorf("%s, limit %v, %+v", d.State, d.Clocks[0].Limit, d.Because)
	}
	h.Done[0].At = daysAgo(1)
	if d := washOf(AllDue(home(4), h, noon, time.UTC)); d.Clocks[0].Limit != 50 {
		t.Errorf("after the wash: limit %v", d.Clocks[0].Limit)
	}
	if CheckShortening("oily") != nil || CheckShortening("rain") == nil {
		t.Error("kinds of shortening")
	}
}

// What the first discharge asks for (our own engineering choices): clear twice
// running +25 %, pale keeps, brown −15 %, dark −30 %, bounded to half and
// twice the school's, the calendar's caps on top.
func TestLearn(t *testing.T) {
	clear, pale, brown, dark := backflush.ColourClear, backflush.ColourPale, backflush.ColourBrown, backflush.ColourDark
	g := func(list ...backflush.Colour) []Graded {
		var out []Graded
		for i, c := range list {
			out = append(out, Graded{At: daysAgo(float64(30 - i)), Part: machine.Group(1), First: c, Gone: 1})
		}
		return out
	}
	early := g(clear, clear)
	early[1].Gone = 0.4
	late := g(dark)
	late[0].Gone = 1.9
	other := g(clear, clear)
	other[1].Part = machine.Group(2)
	weekly, _ := Pick(home(4), SchoolSoak)
	monthly, _ := Pick(home(4), SchoolTablet)
	factor := func(c Choice, f float64) Choice { c.Factor = f; return c }
	for name, c := range map[string]struct {
		a      machine.Answers
		choice Choice
		graded []Graded
		factor float64 // 0 where none is proposed
		shots  float64
		days   float64
	}{
		"nothing seen":          {home(4), Choice{}, g(backflush.Unseen), 0, 0, 0},
		"clear once":            {home(4), Choice{}, g(clear), 0, 0, 0},
		"clear twice":           {home(4), Choice{}, g(clear, clear), 1.25, 63, 30},
		"clear twice, one seen": {home(4), Choice{}, g(clear, backflush.Unseen, clear), 1.25, 63, 30},
		"pale after clear":      {home(4), Choice{}, g(clear, pale), 0, 0, 0},
		"brown":                 {home(4), Choice{}, g(pale, brown), 0.85, 43, 30},
		"dark":                  {home(4), Choice{}, g(dark), 0.7, 35, 30},
		"clear, too early":      {home(4), Choice{}, early, 0, 0, 0},
		"dark, far too late":    {home(4), Choice{}, late, 0, 0, 0},
		"clear in two groups":   {home(4), Choice{}, other, 0, 0, 0},
		"at twice already": {home(4),
			factor(Choice{School: SchoolFifty, Method: backflush.HalfTeaspoon, Every: FiftyOrKilo}, 2), g(clear, clear), 0, 0,
			0},
		"bounded at twice": {home(4),
			factor(Choice{School: SchoolFifty, Method: backflush.HalfTeaspoon, Every: FiftyOrKilo}, 1.9), g(clear, clear), 2,
			100, 30},
		"bounded at half": {home(4),
			factor(Choice{School: SchoolFifty, Method: backflush.HalfTeaspoon, Every: FiftyOrKilo}, 0.6), g(dark), 0.5, 25, 30},
		"weekly, clear":         {home(4), weekly, g(clear, clear), 1.25, 0, 8.75},
		"monthly stays capped":  {home(4), monthly, g(clear, clear), 0, 0, 0},
		"monthly, dark":         {home(4), monthly, g(dark), 0.7, 0, 21},
		"café's day is its cap": {of(machine.HXCafe, 300), Choice{}, g(clear, clear), 0, 0, 0},
		"café, dark":            {of(machine.HXCafe, 300), Choice{}, g(dark), 0, 0, 0},
		"cam never more often":  {of(machine.LeverCam, 3), Choice{}, g(dark), 0, 0, 0},
		"cam, clear":            {of(machine.LeverCam, 3), Choice{}, g(clear, clear), 1.25, 0, 227.5},
	} {
		l := Learn(c.a, c.choice, c.graded)
		if l.Proposed != (c.factor > 0) || len(l.Finding.Because) == 0 || l.Finding.Title == "" {
			t.Errorf("%s: proposed %v, %+v", name, l.Proposed, l.Finding)
			continue
		}
		if l.Proposed &&
			(!near(l.Factor.Value, c.factor, 1e-12) || !near(l.Interval.Shots, c.shots, 1e-9) || !near(l.Interval.Days, c.days,
				1e-9)) {
			t.Errorf("%s: factor %v, %v shots, %v days", name, l.Factor.Value, l.Interval.Shots, l.Interval.Days)
		}
	}
}

// A café's day without a drink asks for no wash; nor does a closed season. A
// home's monthly cap runs on while nobody is there.
func TestClosedDays(t *testing.T) {
	cafe := of(machine.HXCafe, 300)
	washed := use.Day(noon, time.UTC).AddDate(0, 0, -2).Add(15 * time.Hour) // the evening before last
	both := []Done{{task.Wash, machine.Group(1), washed, ""}, {task.Wash, machine.Group(2), washed, ""}}
	open := use.Event{Kind: use.Double, Count: 200, From: noon.AddDate(0, 0, -1), To: noon.AddDate(0, 0, -1)}
	long := use.Event{Kind: use.Double, Count: 200, From: daysAgo(30), To: daysAgo(30)}
	for name, c := range map[string]struct {
		events []use.Event
		away   []use.Spell
		state  State
	}{
		"yesterday was open":   {[]use.Event{long, open}, nil, Overdue},
		"yesterday was closed": {[]use.Event{long}, nil, Today},
		"closed this week": {[]use.Event{long},
			[]use.Spell{{From: use.Day(noon, time.UTC), To: use.Day(noon, time.UTC).AddDate(0, 0, 7), Entered: true}}, Later},
		"nothing is ever logged": {nil, nil, Overdue},
	} {
		h := History{Done: both, Log: use.Log{Events: c.events, Away: c.away}}
		if len(c.events) > 0 {
			h.LoggedSince = daysAgo(40)
		}
		if d := washOf(AllDue(cafe, h, noon, time.UTC)); d.State != c.state {
			t.Errorf("%s: %s, want %s", name, d.State, c.state)
		}
	}
	h := History{
		Done: []Done{{task.Wash, machine.Group(1), daysAgo(31), ""}},
		Log:  use.Log{LoggedSince: daysAgo(60), Away: []use.Spell{{From: daysAgo(30), To: daysAgo(-10), Entered: true}}},
	}
	if d := washOf(AllDue(home(4), h, noon, time.UTC)); d.State != Overdue || !d.Clocks[2].Leads ||
		d.Clocks[0].Used.Value != 0 {
		t.Errorf("a month away: %s, %+v", d.State, d.Clocks)
	}
}

// The small ones stand for today only, on a day of use, and the wash covers
// what it does anyway.
func TestChores(t *testing.T) {
	used := []use.Event{{Kind: use.Double, Count: 3, From: noon.Add(-time.Hour), To: noon.Add(-time.Hour)}}
	none, plumbed, never := home(4), home(4), home(4)
	none.Valve = machine.No
	never.Overrides = map[string]string{"water_backflush": "never"}
	plumbed.Overrides = map[string]string{"water": "mains", "tray_l": "0"}
	for name, c := range map[string]struct {
		a      machine.Answers
		events []use.Event
		done   []Done
		away   bool
		want   []task.ID
	}{
		"a day of use": {home(4), used, nil, false, []task.ID{task.Brush, task.WaterBackflush, task.Tray, task.TankWater}},
		"no drink yet": {home(4), []use.Event{{Kind: use.Double, Count: 1, From: daysAgo(2), To: daysAgo(2)}}, nil,
			false, nil},
		"on holiday":           {home(4), used, nil, true, nil},
		"no valve":             {none, used, nil, false, []task.ID{task.Brush, task.Tray, task.TankWater}},
		"mains and waste pipe": {plumbed, used, nil, false, []task.ID{task.Brush, task.WaterBackflush, task.Waste}},
		"no water backflush":   {never, used, nil, false, []task.ID{task.Brush, task.Tray, task.TankWater}},
		"washed this morning": {home(4), used, []Done{{task.Wash, machine.Group(1), daysAgo(0.1), ""}}, false,
			[]task.ID{task.Tray, task.TankWater}},
		"water two days ago": {home(4), used,
			[]Done{{task.WaterBackflush, machine.Part{}, daysAgo(2), ""}, {task.Brush, machine.Part{}, daysAgo(1), ""}}, false,
			[]task.ID{task.Brush, task.Tray, task.TankWater}},
		"water three days ago": {home(4), used, []Done{{task.WaterBackflush, machine.Part{}, daysAgo(3), ""}}, false,
			[]task.ID{task.Brush, task.WaterBackflush, task.Tray, task.TankWater}},
		"a café's water, daily": {of(machine.HXCafe, 300), used,
			[]Done{{task.WaterBackflush, machine.Part{}, daysAgo(1), ""}, {task.Brush, machine.Part{}, noon, ""}},
			false, []task.ID{task.WaterBackflush, task.Waste}},
	} {
		h := History{Done: c.done, Log: use.Log{LoggedSince: daysAgo(9), Events: c.events}}
		if c.away {
			h.Away = []use.Spell{{From: daysAgo(1), To: daysAgo(-1)}}
		}
		var got []task.ID
		for _, k := range Chores(c.a, h, noon, time.UTC) {
			if !k.Task.IsSmall() || k.How == "" || k.Because.Text == "" || k.Title == "" {
				t.Errorf("%s: %+v is not said in full", name, k)
			}
			got = append(got, k.Task)
		}
		if !slices.Equal(got, c.want) {
			t.Errorf("%s: %v, want %v", name, got, c.want)
		}
	}
	if task.Wash.IsSmall() {
		t.Error("the wash is no small one")
	}
}

func TestWarnIsEmptyByHand(t *testing.T) {
	none := of(machine.HXCafe, 300)
	none.Valve = machine.No
	c, err := Pick(none, SchoolHandWk)
	if err != nil || len(c.Warn(none)) != 0 || c.For(none).Because[0].Source.Kind == reason.Kind("") {
		t.Errorf("%v, %+v", err, c.Warn(none))
	}
}

// A year replayed, day by day: drinks are logged, the wash is done on the day
// it falls due, and the washes of the year are what the ruler said, under five
// schools for the same machine.
func TestAYearReplayed(t *testing.T) {
	a := home(4)
	for school, want := range map[SchoolID]float64{
		// by hand at 4 a day: 365 ÷ 12.5, ÷ 7, ÷ 14, ÷ 13.9 and ÷ 30
		SchoolFifty: 29.2, SchoolSoak: 52.1, SchoolTen: 26.1, SchoolThree: 26.3, SchoolTablet: 12.2,
	} {
		choice, err := Pick(a, school)
		if err != nil {
			t.Fatal(err)
		}
		begin := time.Date(2025, 3, 1, 20, 0, 0, 0, time.UTC)
		h := History{
			Choice: choice,
			Done:   []Done{{task.Wash, machine.Group(1), begin, ""}},
			Log:    use.Log{LoggedSince: begin.Add(-12 * time.Hour)},
		}
		washes, early := 0, 0
		for day := 1; day <= 365; day++ {
			evening := begin.AddDate(0, 0, day)
			// five on a weekday, two on Saturday, one on Sunday: 4 a day
			drinks := map[time.Weekday]float64{time.Saturday: 2, time.Sunday: 1}[evening.Weekday()]
			if drinks == 0 {
				drinks = 5
			}
			at := evening.Add(-8 * time.Hour)
			h.Events = append(h.Events, use.Event{Kind: use.Double, Count: drinks, From: at, To: at})
			d := washOf(AllDue(a, h, evening, time.UTC))
			if d.State == Overdue || d.State == Today {
				if d.State == Today && d.Gone() < 0.8 {
					early++
				}
				washes++
				h.Done = []Done{{task.Wash, machine.Group(1), evening, ""}}
			}
		}
		t.Logf("%-7s %3d washes in the replayed year, by the ruler %.1f", school, washes, want)
		if math.Abs(float64(washes)-want) > 0.05*want+1 || early > 2 {
			t.Errorf("%s: %d washes in the year, %d of them early; the ruler says %.1f", school, washes, early, want)
		}
	}
}
