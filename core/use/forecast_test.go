package use

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// Quantiles of the waiting time against SciPy 1.17.1,
// b × scipy.stats.betaprime.ppf(p, n, a) (published library).
func TestForecastAgainstSciPy(t *testing.T) {
	for _, c := range []struct {
		n, a, b float64
		want    [3]float64
	}{
		{50, 2, 0.5, [3]float64{6.243948, 14.7948, 47.226918}},
		{12, 32, 8.5, [3]float64{1.988552, 3.132011, 4.790159}},
		{1, 2, 0.5, [3]float64{0.027046, 0.207107, 1.081139}},
		{3, 40, 10, [3]float64{0.272511, 0.674179, 1.386834}},
		{56, 2, 20, [3]float64{280.597947, 663.28991, 2114.730323}},
	} {
		for i, p := range []float64{0.1, 0.5, 0.9} {
			// shots to be expected over the mean rate a ÷ b are days
			got := Pace{shots: c.a - 2}.need(c.n, p, 1) * c.b / c.a
			if math.Abs(got-c.want[i]) > 1e-5*math.Max(1, c.want[i]) {
				t.Errorf("n %v, a %v, b %v, p %v: %v, want %v", c.n, c.a, c.b, p, got, c.want[i])
			}
		}
	}
}

var noon = time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)

func daysAgo(d float64) time.Time { return noon.Add(-time.Duration(d * 24 * float64(time.Hour))) }

func near[T ~float64](a, b, tolerance T) bool { return math.Abs(float64(a-b)) <= float64(tolerance) }

// single is a home machine with one boiler.
func single() machine.Answers {
	return machine.Answers{Layout: machine.SingleBoiler, Valve: machine.Yes, Drinks: 4,
		Hardness: units.UnknownHardness(), Treatment: machine.Untreated}
}

// habitOf is the habit of some entries, in UTC.
func habitOf(events []Event, now time.Time) Habit {
	return Log{Events: events}.Counted(now, time.UTC).Habit
}

// logged makes a history of so many shots on each of the last days.
func logged(days int, each float64) Log {
	var events []Event
	for d := range days {
		at := Day(noon, time.UTC).AddDate(0, 0, d-days).Add(5 * time.Hour)
		events = append(events, Event{Kind: Double, Count: each, From: at, To: at})
	}
	return Log{
		LoggedSince: Day(noon, time.UTC).AddDate(0, 0, -days),
		Habit:       habitOf(events, noon),
		Events:      events,
	}
}

func daysTo(a float64, h Log, togo float64) reason.Worked {
	return PaceOf(a, 1, 1, h, noon, time.UTC).Forecast("days", togo)
}

func TestForecastLeansOnWhatIsLogged(t *testing.T) {
	said, less, more := daysTo(4, Log{}, 50), daysTo(4, logged(28, 1), 50), daysTo(4, logged(28, 10), 50)
	if !(more.Value < said.Value && said.Value < less.Value) || !near(less.Value, 46, 6) || !near(more.Value, 5, 1) {
		t.Errorf(
			"50 shots: said 4 a day %v, logged 1 a day %v, logged 10 a day %v",
			said.Value,
			less.Value,
			more.Value,
		)
	}
	if narrow := daysTo(4, logged(28, 4), 50); narrow.High-narrow.Low >= said.High-said.Low {
		t.Error("a month of logging does not narrow the range")
	}
	// what was logged lately wins over what was logged before, and over what was said
	slow := logged(56, 2)
	for day := 28; day < 56; day++ {
		slow.Habit.Days[day][0] = 8
	}
	if got := daysTo(2, slow, 40); got.Value > 6.4 || got.Low > 5 {
		t.Errorf(
			"eight a day for four weeks after two a day: 40 shots in %v days, from %v; the mean of both would be eight",
			got.Value,
			got.Low,
		)
	}
}

// Less use never brings the likely date nearer: neither fewer drinks on any
// day that stays a day of use, nor fewer said, nor a holiday more. (A day that
// falls to nothing may make a spell be taken as nobody there.)
func TestLessUseNeverBringsADateNearer(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 1))
	for range 400 {
		h := logged(20+r.IntN(50), 0)
		for day := range h.Habit.Days {
			for g := range h.Habit.Days[day] {
				h.Habit.Days[day][g] = float64(1 + r.IntN(9))
			}
		}
		said, togo := 0.5+8*r.Float64(), float64(1+r.IntN(60))
		before := daysTo(said, h, togo).Value
		if got := daysTo(said*(0.2+0.8*r.Float64()), h, togo).Value; got < before-1e-9 {
			t.Fatalf("fewer drinks said: %v days, were %v", got, before)
		}
		away := h
		from := noon.Add(time.Duration(r.IntN(30)*24) * time.Hour)
		away.Away = []Spell{{From: from, To: from.AddDate(0, 0, 1+r.IntN(20)), Entered: true}}
		if got := daysTo(said, away, togo).Value; got < before-1e-9 {
			t.Fatalf("a holiday ahead: %v days, were %v", got, before)
		}
		for day := range h.Habit.Days {
			for g, v := range h.Habit.Days[day] {
				if v > 1 && r.IntN(3) == 0 {
					h.Habit.Days[day][g] = v - 1
				}
			}
		}
		if got := daysTo(said, h, togo).Value; got < before-1e-9 {
			t.Fatalf("fewer drinks logged: %v days, were %v", got, before)
		}
	}
}

// Weekends off: a wash that needs a day's drinks more falls on the Monday, and
// a holiday that was entered is stepped over. A long spell without a drink is
// left out of the rate; two of them are how the machine is used.
func TestDaysOfTheWeekAndIdleSpells(t *testing.T) {
	friday := time.Date(2026, 3, 13, 20, 0, 0, 0, time.UTC)
	office := func(gaps ...int) Log {
		var events []Event
		for day := range 60 {
			at := friday.AddDate(0, 0, day-60)
			idle := slices.ContainsFunc(gaps, func(g int) bool { return day >= g && day < g+9 })
			if wd := at.Weekday(); wd != time.Saturday && wd != time.Sunday && !idle {
				events = append(
					events,
					Event{Kind: Double, Count: 6, From: at.Add(-12 * time.Hour), To: at.Add(-12 * time.Hour)},
				)
			}
		}
		return Log{LoggedSince: friday.AddDate(0, 0, -60), Habit: habitOf(events, friday)}
	}
	forecast := func(h Log) reason.Worked {
		return PaceOf(4, 1, 1, h, friday, time.UTC).Forecast("days", 6)
	}
	if w := forecast(office()); friday.Add(time.Duration(w.Value*24)*time.Hour).Weekday() != time.Monday {
		t.Errorf("six shots more from a Friday night: in %.2f days, want Monday", w.Value)
	}
	h := office()
	h.Away = []Spell{
		{From: Day(friday, time.UTC).AddDate(0, 0, 1), To: Day(friday, time.UTC).AddDate(0, 0, 15), Entered: true},
	}
	if w := forecast(h); w.Value < 14 || w.Low < 14 {
		t.Errorf("away for two weeks: in %.2f days, earliest %.2f", w.Value, w.Low)
	}
	whole, one, two := PaceOf(
		4,
		1,
		1,
		office(),
		friday,
		time.UTC,
	), PaceOf(
		4,
		1,
		1,
		office(30),
		friday,
		time.UTC,
	), PaceOf(
		4,
		1,
		1,
		office(15, 40),
		friday,
		time.UTC,
	)
	if !near(one.PerDay(), whole.PerDay(), 0.35) || len(one.Because) != 1 ||
		!strings.Contains(one.Because[0].Text, "nobody there") {
		t.Errorf(
			"a holiday in between moves the rate from %.2f to %.2f, said as %+v",
			whole.PerDay(),
			one.PerDay(),
			one.Because,
		)
	}
	if two.PerDay() > 0.85*whole.PerDay() || len(two.Because) != 0 {
		t.Errorf("two spells: %.2f beside %.2f, want them to count", two.PerDay(), whole.PerDay())
	}
}

// Days without a drink are nobody there only where ten shots or more would have been
// expected on them (our own engineering choice): at two a day four such days count as
// they are, five are left out.
func TestFewShotsMissedAreNoIdleSpell(t *testing.T) {
	evening := time.Date(2026, 3, 13, 20, 0, 0, 0, time.UTC)
	for gap, left := range map[int]bool{4: false, 5: true, 6: true} {
		t.Run(fmt.Sprint(gap, " days"), func(t *testing.T) {
			var events []Event
			for day := range 40 {
				if at := evening.AddDate(0, 0, day-40); day < 20 || day >= 20+gap {
					events = append(events, Event{Kind: Double, Count: 2, From: at, To: at})
				}
			}
			h := Log{LoggedSince: evening.AddDate(0, 0, -40), Habit: habitOf(events, evening)}
			p := PaceOf(2, 1, 1, h, evening, time.UTC)
			if got := len(p.Because) > 0; got != left {
				t.Errorf("left out: %v, want %v; %+v at %.2f a day", got, left, p.Because, p.PerDay())
			}
		})
	}
}

// a way of using a machine: shots on one day, with what it keeps in mind
type way func(r *rand.Rand, day int) int

func poisson(r *rand.Rand, mean float64) int {
	n, p, limit := 0, 1.0, math.Exp(-mean)
	for p *= r.Float64(); p > limit; p *= r.Float64() {
		n++
	}
	return n
}

// Four ways to use a machine, at 4 shots on a day of use (ours, invented).
func ways(busy float64) map[string]func() way {
	return map[string]func() way{
		"steady": func() way { return func(r *rand.Rand, _ int) int { return poisson(r, 4*busy) } },
		"weekdays": func() way {
			return func(r *rand.Rand, day int) int {
				if d := day % 7; d == 5 || d == 6 {
					return poisson(r, 0.3*busy)
				}
				return poisson(r, 5.5*busy)
			}
		},
		"growing": func() way { // half as much again in three months
			return func(r *rand.Rand, day int) int { return poisson(r, busy*3*math.Exp(float64(day)*math.Log(1.5)/90)) }
		},
		"stop and go": func() way { // away for four days or so after every nine
			on := true
			return func(r *rand.Rand, _ int) int {
				if r.Float64() < map[bool]float64{true: 1.0 / 9, false: 1.0 / 4}[on] {
					on = !on
				}
				if !on {
					return 0
				}
				return poisson(r, 5*busy)
			}
		},
	}
}

// The 80 % range holds 75 to 85 % of simulated futures.
func TestRangeHolds(t *testing.T) {
	begin := time.Date(2026, 1, 5, 4, 0, 0, 0, time.UTC)
	for _, busy := range []float64{0.4, 1, 3} {
		for name, begins := range ways(busy) {
			random := rand.New(rand.NewPCG(7, uint64(len(name))))
			inside, early, late, n := 0, 0, 0, 1500
			for range n {
				make := begins()
				var events []Event
				for day := range 70 {
					at := begin.AddDate(0, 0, day).Add(6 * time.Hour)
					if shots := make(random, day); shots > 0 {
						events = append(events, Event{Kind: Double, Count: float64(shots), From: at, To: at})
					}
				}
				now := begin.AddDate(0, 0, 70)
				togo := float64(10 + random.IntN(40))
				h := Log{LoggedSince: begin, Habit: habitOf(events, now)}
				w := PaceOf(4*busy, 1, 1, h, now, time.UTC).Forecast("days", togo)
				// the shots of a day fall at random in it
				left, day, when := int(togo), 70, 0.0
				for ; ; day++ {
					shots := make(random, day)
					if shots < left {
						left -= shots
						continue
					}
					times := []float64{}
					for range shots {
						times = append(times, random.Float64())
					}
					slices.Sort(times)
					when = float64(day-70) + times[left-1]
					break
				}
				switch {
				case when < w.Low:
					early++
				case when > w.High:
					late++
				default:
					inside++
				}
			}
			share := 100 * float64(inside) / float64(n)
			t.Logf(
				"%s, %.1f a day: %.1f %% inside, %.1f %% earlier, %.1f %% later",
				name,
				4*busy,
				share,
				100*float64(early)/float64(n),
				100*float64(late)/float64(n),
			)
			if share < 75 || share > 85 {
				t.Errorf("%s, %.1f a day: the range holds %.1f %% of the futures, want 75 to 85", name, 4*busy, share)
			}
		}
	}
}
