package care

import (
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"freshanvil/core/circuit"
	"freshanvil/core/machine"
	"freshanvil/core/task"
	"freshanvil/core/units"
	"freshanvil/core/use"
	"freshanvil/core/water"
)

// effectOf is what a water of that hardness does in a home dual boiler.
func effectOf(t *testing.T, hardness float64, f machine.Facts) circuit.Effect {
	t.Helper()
	w, err := water.Sample{
		Hardness:   units.Sharp(hardness),
		Calcium:    units.Sharp(0.78 * hardness / water.CalciumAs),
		Alkalinity: units.Sharp(0.8 * hardness),
		PH:         units.Sharp(7.6),
	}.Fill()
	if err != nil {
		t.Fatal(err)
	}
	e, err := circuit.EffectOf(w, f)
	if err != nil {
		t.Fatal(err)
	}
	return e
}

func descaling(t *testing.T, a machine.Answers, h History, now time.Time) Descaling {
	t.Helper()
	d, err := DescalingOf(a, h, now, time.UTC)
	if err != nil {
		t.Fatal(err)
	}
	return d
}

// A date that cannot be worked out does not vanish: the job counts as due now, with the
// reason. Here a fact that no machine has got past its door.
func TestDueThatCannotBeWorkedOutIsDueNow(t *testing.T) {
	now := time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)
	a := machine.Answers{Layout: machine.DualHome, Valve: machine.Yes, Drinks: 4, MilkDrinks: 2}
	h := History{
		Waters: []Regime{{Effect: effectOf(t, 260, a.Facts()),
			Renew: &Renewal{Task: task.FilterChange, Litres: 50, Days: 60}}},
		Done: []Done{{Task: task.Descale, At: now.AddDate(0, 0, -3)}, {Task: task.FilterChange, At: now.AddDate(0, 0, -3)}},
	}
	a.Overrides = map[string]string{"steam_bar": "900"}
	if _, err := DescalingOf(a, h, now, time.UTC); err == nil {
		t.Fatal("900 bar of steam can be worked out")
	}
	for _, task := range []task.ID{task.Descale, task.FilterChange} {
		i := slices.IndexFunc(AllDue(a, h, now, time.UTC), func(d Due) bool { return d.Task == task })
		if i < 0 {
			t.Fatalf("%s vanished", task)
		}
		d := AllDue(a, h, now, time.UTC)[i]
		if d.State != Unrecorded || !d.NoDate || !d.Now(now) || !strings.Contains(d.When(), "cannot be worked out") ||
			len(d.Because) != 1 || !strings.Contains(d.Because[0].Text, "900") {
			t.Errorf("%s: %s, %+v", task, d.State, d.Because)
		}
	}
}

// Declared, nothing logged: after 30 days at 4 drinks a day, 4 × 131 mL a day have
// left what falls out of each litre; the date is what is left to the limit.
func TestScaleByHand(t *testing.T) {
	now := time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)
	a := machine.Answers{
		Layout:     machine.DualHome,
		Valve:      machine.Yes,
		Drinks:     4,
		MilkDrinks: 2,
		Overrides:  map[string]string{"descale_school": "no calendar"},
	}
	e := effectOf(t, 260, a.Facts())
	h := History{Waters: []Regime{{Effect: e}}, Done: []Done{{Task: task.Descale, At: now.AddDate(0, 0, -30)}}}
	d := descaling(t, a, h, now)
	brew := d.Places[0]
	if want := e.Precipitates.Likely * 30 * 0.524; math.Abs(brew.Lies.Likely-want) > 1e-6*want {
		t.Errorf("%v mg lie there, want %v", brew.Lies.Likely, want)
	}
	if steam := d.Places[1]; math.Abs(steam.Lies.Likely-30*d.Litres.Steam.Value*e.Feed.Likely) > 1e-6 {
		t.Errorf("in the steam boiler %v mg, want all that came with the steam", steam.Lies.Likely)
	}
	lead := d.Places[d.Lead]
	if d.Due.State != Later || len(d.Due.Clocks) != 2 || d.Due.Clocks[0].Kind != task.ByScale || !d.Due.Clocks[0].Leads ||
		math.Abs(d.Due.Days.Value-lead.Days.Value) > 1e-9 {
		t.Errorf(
			"%s by %+v, in %v days; the %s says %v",
			d.Due.State,
			d.Due.Clocks,
			d.Due.Days.Value,
			lead.Title,
			lead.Days.Value,
		)
	}
	// of a water that was read sharply only the newer constants widen the range, and they give more scale
	if !d.Due.Earliest.Before(d.Due.Likely) || !d.Due.Latest.Equal(d.Due.Likely) {
		t.Errorf("%v, %v, %v", d.Due.Earliest, d.Due.Likely, d.Due.Latest)
	}
	// the calendar of the trade comes first where it is shorter: 61 days from the last
	a.Overrides = nil
	d = descaling(t, a, h, now)
	if days := d.Due.Interval.Days; math.Abs(days-60.8) > 1e-9 || d.Due.Days.Value > 60.8-30+1e-9 {
		t.Errorf("very hard: every %v days, in %v", days, d.Due.Days.Value)
	}
	// soft water: the calendar and the year; nothing on record: due now
	soft := History{Waters: []Regime{{Effect: effectOf(t, 30, a.Facts())}}, Done: h.Done}
	if d := descaling(t, a, soft, now); math.Abs(d.Due.Interval.Days-12*30.4) > 1e-9 {
		t.Errorf("soft: %v", d.Due.Interval.Days)
	}
	if d := descaling(t, a, History{Waters: h.Waters}, now); d.Due.State != Unrecorded {
		t.Errorf("nothing on record: %s", d.Due.State)
	}
	with, without := AllDue(a, h, now, time.UTC), AllDue(a, History{}, now, time.UTC)
	if len(only(with, task.Descale)) != 1 || len(only(without, task.Descale)) != 0 {
		t.Error("a descale is due where a water is known, and only there")
	}
}

// A change of water counts from its day on, and what stands before the events is
// counted with them: the same as if all were there.
func TestWaterChangesAndUseByTheDay(t *testing.T) {
	now := time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)
	a := machine.Answers{Layout: machine.SingleBoiler, Valve: machine.Yes, Drinks: 4}
	f := a.Facts()
	hard, soft := effectOf(t, 260, f), effectOf(t, 100, f)
	var events []use.Event
	for day := 60; day > 0; day-- {
		at := now.AddDate(0, 0, -day)
		events = append(
			events,
			use.Event{Kind: use.Double, Count: 3, From: at, To: at},
			use.Event{Kind: use.Milk, Count: 1, From: at, To: at},
			use.Event{Kind: use.Flush, Count: 2, From: at, To: at},
		)
	}
	since, turn := now.AddDate(0, 0, -40).Add(-time.Hour), now.AddDate(0, 0, -20).Add(-time.Hour)
	h := History{
		Waters: []Regime{{Effect: hard}, {From: turn, Effect: soft}},
		Done:   []Done{{Task: task.Descale, At: since}},
		Log:    use.Log{Events: events, LoggedSince: events[0].To, Since: since},
	}
	d := descaling(t, a, h, now)
	// a shared boiler, 20 days of 3 doubles, a milk drink and 2 flushes with each
	gram, err := circuit.SteamADrink(f)
	if err != nil {
		t.Fatal(err)
	}
	want := 0.0
	for _, e := range []circuit.Effect{hard, soft} {
		want += 20 * ((4*0.131+2*0.05)*math.Max(0, e.Precipitates.Likely) + float64(gram)/1000*e.Feed.Likely)
	}
	if got := d.Places[0].Lies.Likely; math.Abs(got-want) > 1e-6*want {
		t.Errorf("%v mg, want %v", got, want)
	}
	kept := h
	kept.Since = use.Day(now.AddDate(0, 0, -10), time.UTC)
	kept.Days = use.ByDay(events, time.Time{}, use.NextDay(now, time.UTC), time.UTC)
	kept.Events = nil
	touched := use.Touched(kept.Since, time.UTC, kept.Marks()...)
	for _, e := range events {
		if !e.To.Before(kept.Since) || slices.Contains(touched, use.Day(e.To, time.UTC)) {
			kept.Events = append(kept.Events, e)
		}
	}
	if len(kept.Events) >= len(events)/2 {
		t.Fatalf("%d of %d entries are still needed", len(kept.Events), len(events))
	}
	again := descaling(t, a, kept, now)
	if math.Abs(again.Places[0].Lies.Likely-d.Places[0].Lies.Likely) > 1e-6 ||
		math.Abs(float64(again.Through.All()-d.Through.All())) > 1e-9 {
		t.Errorf(
			"from the sums by the day %v mg and %v L, from all events %v and %v",
			again.Places[0].Lies.Likely,
			again.Through.All(),
			d.Places[0].Lies.Likely,
			d.Through.All(),
		)
	}
}

// A filter of 20 L, changed 60 days ago, at half a litre a day: 10 L of the 30 went
// through as from the tap. It has fallen due.
func TestAnExhaustedFilterLetsScaleThrough(t *testing.T) {
	now := time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)
	a := machine.Answers{Layout: machine.DualHome, Valve: machine.Yes, Drinks: 4}
	raw, behind := effectOf(t, 260, a.Facts()), effectOf(t, 120, a.Facts())
	changed := Done{Task: task.FilterChange, At: now.AddDate(0, 0, -60)}
	h := History{
		Waters: []Regime{{Effect: behind, Raw: &raw, Renew: &Renewal{Task: task.FilterChange, Litres: 20, Days: 90}}},
		Done:   []Done{{Task: task.Descale, At: changed.At}, changed},
	}
	d := descaling(t, a, h, now)
	all := 60 * 0.524
	want := 20*math.Max(0, behind.Precipitates.Likely) + (all-20)*raw.Precipitates.Likely
	if got := d.Places[0].Lies.Likely; math.Abs(got-want) > 1e-6*want {
		t.Errorf("%v mg, want %v", got, want)
	}
	due, any, err := Renewing(a, h, now, time.UTC)
	if err != nil || !any || due.State != Overdue || !due.Clocks[0].Leads ||
		!strings.Contains(due.When(), "11 litres ago") ||
		due.Head(2) != "Change the filter" {
		t.Errorf("%v, %s, %+v", err, due.When(), due.Clocks)
	}
	h.Done = h.Done[:1]
	if due, _, _ := Renewing(a, h, now, time.UTC); due.State != Unrecorded {
		t.Errorf("never changed: %s", due.State)
	}
	if _, any, _ := Renewing(a, History{Waters: []Regime{{Effect: raw}}}, now, time.UTC); any {
		t.Error("nothing is renewed, and it is due")
	}
}

// More use and harder water never put the date later; a machine that is not
// descaled is only looked into.
func TestTheDateIsMonotone(t *testing.T) {
	now := time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)
	done := []Done{{Task: task.Descale, At: now.AddDate(0, 0, -10)}}
	for _, l := range machine.Layouts() {
		for _, drinks := range []float64{1, 4, 12, 60} {
			a := machine.Answers{Layout: l, Valve: machine.Yes, Drinks: drinks, MilkDrinks: drinks / 2}
			twice := a
			twice.Drinks, twice.MilkDrinks = 2*drinks, drinks
			before := math.Inf(1)
			for _, hardness := range []float64{20, 100, 180, 300, 450} {
				h := History{Waters: []Regime{{Effect: effectOf(t, hardness, a.Facts())}}, Done: done}
				days := descaling(t, a, h, now).Due.Days.Value
				if days > before+1e-9 || descaling(t, twice, h, now).Due.Days.Value > days+1e-9 {
					t.Errorf("%s, %v drinks, %v mg/L: %v days, softer %v", l, drinks, hardness, days, before)
				}
				before = days
			}
		}
	}
	never := machine.Answers{
		Layout:    machine.DualHome,
		Valve:     machine.Yes,
		Drinks:    4,
		Overrides: map[string]string{"stance": "nobody, low-mineral water"},
	}
	d := descaling(t, never, History{Waters: []Regime{{Effect: effectOf(t, 260, never.Facts())}}, Done: done}, now)
	if !d.Inspect || d.Due.Title() != "Look for scale" || len(d.Due.Clocks) != 1 || d.Due.Interval.Days != 365 {
		t.Errorf("%+v", d.Due)
	}
}

// A filter that was named and never changed counts from the day it was named; once a change is on
// record, from that.
func TestFilterCountsFromTheDayItWasNamed(t *testing.T) {
	a, zone := home(4), time.UTC
	now := time.Date(2026, 3, 10, 12, 0, 0, 0, zone)
	regime := func(named time.Time) []Regime {
		return []Regime{{Effect: effectOf(t, 260, a.Facts()),
			Renew: &Renewal{Task: task.FilterChange, Days: 60, Named: named}}}
	}
	for name, c := range map[string]struct {
		named, changed time.Time
		state          State
		used           float64
	}{
		"named ten days ago":   {now.AddDate(0, 0, -10), time.Time{}, Later, 10},
		"named long ago":       {now.AddDate(0, 0, -90), time.Time{}, Overdue, 90},
		"changed since":        {now.AddDate(0, 0, -90), now.AddDate(0, 0, -5), Later, 5},
		"nobody knows":         {time.Time{}, time.Time{}, Unrecorded, 0},
		"named ahead of today": {now.AddDate(0, 0, 3), time.Time{}, Unrecorded, 0},
	} {
		t.Run(name, func(t *testing.T) {
			h := History{Waters: regime(c.named)}
			if !c.changed.IsZero() {
				h.Done = []Done{{Task: task.FilterChange, At: c.changed}}
			}
			due, any, err := Renewing(a, h, now, zone)
			if err != nil || !any || due.State != c.state {
				t.Fatalf("%s, %v", due.State, err)
			}
			if c.used > 0 && due.Clocks[0].Used.Value != c.used {
				t.Errorf("%v days, want %v", due.Clocks[0].Used.Value, c.used)
			}
		})
	}
}
