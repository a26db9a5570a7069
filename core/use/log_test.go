package use

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"freshanvil/core/machine"
	"freshanvil/internal/beside"
)

// scatter makes a history of presses, spans of a counter and files, some on the turn of a day.
func scatter(r *rand.Rand, zone *time.Location) []Event {
	var list []Event
	kinds := []Kind{Single, Double, Milk, Flush, RunWater}
	begin := Day(noon.AddDate(0, 0, -120), zone)
	for range 60 + r.IntN(120) {
		at := begin.Add(time.Duration(r.Int64N(int64(120*24*time.Hour/time.Millisecond))) * time.Millisecond)
		e := Event{Kind: kinds[r.IntN(len(kinds))], Count: float64(1 + r.IntN(9)), From: at, To: at,
			Part: ofGroup(r.IntN(3))}
		switch r.IntN(8) {
		case 0:
			e.From = Day(at, zone)
			e.To = e.From
		case 1:
			e.From = at.Add(-time.Duration(r.IntN(40*24)) * time.Hour)
		case 2:
			e.From, e.To = Day(at, zone), NextDay(at, zone)
		}
		list = append(list, e)
	}
	return list
}

// What is kept by the day, with the entries of the days on which something changed, sums to what
// all entries sum to, from any instant on which something changed to any other.
func TestDaysSumToTheEntries(t *testing.T) {
	lisbon, err := time.LoadLocation("Europe/Lisbon") // whose clocks changed on 29 March 2026
	if err != nil {
		t.Fatal(err)
	}
	for seed := range uint64(60) {
		r := rand.New(rand.NewPCG(seed, 4))
		all := scatter(r, lisbon)
		now := noon.AddDate(0, 0, 30)
		since := Day(now.AddDate(0, 0, -r.IntN(20)), lisbon)
		marks := []time.Time{now}
		for range 4 {
			marks = append(marks, now.Add(-time.Duration(r.IntN(150*24*60))*time.Minute))
		}
		marks = append(marks, Day(marks[1], lisbon))
		touched := Touched(since, lisbon, marks...)
		l := Log{Since: since, Days: ByDay(all, time.Time{}, NextDay(now, lisbon), lisbon)}
		for _, e := range all {
			near := !e.To.Before(since)
			for _, d := range touched {
				near = near || e.From.Before(NextDay(d, lisbon)) && !e.To.Before(d)
			}
			if near {
				l.Events = append(l.Events, e)
			}
		}
		slices.SortFunc(marks, time.Time.Compare)
		for i, from := range marks {
			for _, to := range marks[i+1:] {
				var daily Counts
				end := from
				for _, m := range l.ByDay(2, from, to, lisbon) {
					if !m.From.Equal(end) || !m.To.After(m.From) || m.To.After(NextDay(m.From, lisbon)) {
						t.Fatalf("seed %d: %s to %s after %s", seed, m.From, m.To, end)
					}
					daily, end = daily.Plus(m.Counts), m.To
				}
				if want := Count(all, machine.Part{}, 2, from, to); from.Before(to) && (!alike(want, daily) || !end.Equal(to)) {
					t.Fatalf("seed %d, day by day from %s to %s: %+v, want %+v", seed, from, to, daily, want)
				}
				for _, part := range []machine.Part{{}, machine.Group(1)} {
					want, got := Count(all, part, 2, from, to), l.Sum(part, 2, from, to, lisbon)
					if !alike(want, got) {
						t.Fatalf("seed %d, %s from %s to %s: %+v, want %+v", seed, part, from, to, got, want)
					}
				}
			}
		}
	}
}

func alike(a, b Counts) bool {
	same := func(x, y float64) bool { return math.Abs(x-y) <= 1e-6*(1+math.Abs(y)) }
	return same(a.Single, b.Single) && same(a.Double, b.Double) && same(a.Milk, b.Milk) && same(a.Flush, b.Flush) &&
		same(a.Water, b.Water)
}

// A press on the turn belongs to the day that begins, and to what was made since then; one at the
// instant of a wash was made before it.
func TestThePressOnTheTurn(t *testing.T) {
	turn := Day(noon, time.UTC)
	press := []Event{{Kind: Double, Count: 1, From: turn, To: turn}}
	days := ByDay(press, time.Time{}, noon, time.UTC)
	if len(days) != 1 || !days[0].Start.Equal(turn) {
		t.Fatalf("by the day: %+v, want it in the day that begins", days)
	}
	for at, want := range map[time.Time]float64{turn.Add(-time.Millisecond): 1, turn: 0} {
		t.Run(fmt.Sprint("since ", at.Format(time.TimeOnly)), func(t *testing.T) {
			if got := Count(press, machine.Part{}, 1, at, noon).Shots(); got != want {
				t.Errorf("%v, want %v", got, want)
			}
		})
	}
}

// absorbs is what a span absorbs, asked of each pair: the plain reading of the rule, to check the quick one by.
func absorbs(s, e Event) bool {
	if !s.From.Before(s.To) || s.Kind == RunWater || e.Kind == RunWater || s.Kind.IsShot() != e.Kind.IsShot() ||
		!s.Part.IsWhole() && s.Part != e.Part {
		return false
	}
	if e.From.Equal(e.To) {
		return e.To.After(s.From) && !e.To.After(s.To)
	}
	return !e.From.Before(s.From) && !e.To.After(s.To) && e.To.Sub(e.From) < s.To.Sub(s.From)
}

// By the hour few instants fall together, by the day many do: spans that begin or end with each other, and presses on
// the ends of spans.
func TestStandingIsAskedOfEachPair(t *testing.T) {
	absorbed := 0
	for seed := range uint64(200) {
		r := rand.New(rand.NewPCG(seed, 9))
		all := scatter(r, time.UTC)
		if seed%2 == 0 {
			for i, e := range all {
				all[i].From, all[i].To = Day(e.From, time.UTC), Day(e.To, time.UTC)
			}
		}
		var want []Event
		for _, e := range all {
			if !slices.ContainsFunc(all, func(s Event) bool { return absorbs(s, e) }) {
				want = append(want, e)
			}
		}
		absorbed += len(all) - len(want)
		if got := Standing(all); !slices.Equal(got, want) {
			t.Fatalf("seed %d: %d stand, want %d of %d", seed, len(got), len(want), len(all))
		}
	}
	if absorbed < 1000 {
		t.Errorf("only %d were absorbed", absorbed)
	}
}

// BenchmarkStanding: ten years of spans of a day, four groups, beside counting them up once.
func BenchmarkStanding(b *testing.B) {
	var all []Event
	for day := range 3650 {
		for group := range 4 {
			from := noon.AddDate(0, 0, day)
			all = append(all, Event{Kind: Double, Count: 9, From: from, To: from.AddDate(0, 0, 1), Part: ofGroup(group)})
		}
	}
	beside.Run(b, "counted_up", func() {
		var n float64
		for _, e := range all {
			n += e.Count
		}
		if n == 0 {
			b.Fatal("nothing")
		}
	}, func() {
		if len(Standing(all)) != len(all) {
			b.Fatal("one is absorbed")
		}
	})
}

// A row of a file of days is of one day, also where that has another number of hours; what a counter showed is not.
func TestOfOneDay(t *testing.T) {
	zone, err := time.LoadLocation("Europe/Lisbon")
	if err != nil {
		t.Fatal(err)
	}
	start := DayOf(2026, 3, 28, zone) // the clocks go forward in it
	for _, c := range []struct {
		what     string
		from, to time.Time
		want     bool
	}{
		{"a day of 23 hours", start, NextDay(start, zone), true},
		{"24 hours from its start", start, start.Add(24 * time.Hour), false},
		{"two days", start, NextDay(NextDay(start, zone), zone), false},
		{"an instant", start, start, false},
		{"from noon to noon", start.Add(8 * time.Hour), NextDay(start, zone).Add(8 * time.Hour), false},
	} {
		t.Run(c.what, func(t *testing.T) {
			if got := (Event{From: c.from, To: c.to}).OfOneDay(zone); got != c.want {
				t.Errorf("%v, want %v", got, c.want)
			}
		})
	}
}
