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
	"freshanvil/core/treat"
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

// reaches is the share of what falls out that reaches so many cm², hot for so many hours in so many
// litres, at 10 µm/s.
func reaches(area, hours, litres float64) float64 {
	return 1 - math.Exp(-1e-5*area*1e-4*hours*3600/(litres*1e-3))
}

// Declared, nothing logged: after 30 days at 4 drinks a day, 4 × 131 mL a day have
// left what falls out of each litre and reaches an element of 100 cm² hot for 6 hours a day, of
// 1 − e^(−4.12) of it; the date is what is left to the limit, at the early end.
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
	if want := e.Precipitates.Likely * 30 * 0.524 * reaches(100, 6, 0.524); math.Abs(brew.Lies.Likely-want) > 1e-6*want {
		t.Errorf("%v mg lie there, want %v", brew.Lies.Likely, want)
	}
	if steam := d.Places[1]; math.Abs(steam.Lies.Likely-30*d.Litres.Steam.Value*e.Feed.Likely) > 1e-6 {
		t.Errorf("in the steam boiler %v mg, want all that came with the steam", steam.Lies.Likely)
	}
	lead := d.Places[d.Lead]
	if d.Due.State != Later || len(d.Due.Clocks) != 2 || d.Due.Clocks[0].Kind != task.ByScale || !d.Due.Clocks[0].Leads ||
		math.Abs(d.Due.Days.Value-lead.Early.Value) > 1e-9 || lead.Early.Value != lead.Days.Low {
		t.Errorf(
			"%s by %+v, in %v days; the %s says %v",
			d.Due.State,
			d.Due.Clocks,
			d.Due.Days.Value,
			lead.Title,
			lead.Early.Value,
		)
	}
	// the date is the early end; how fast scale reaches the surface is not known better than that
	if !d.Due.Earliest.Equal(d.Due.Likely) || !d.Due.Latest.After(d.Due.Likely) {
		t.Errorf("%v, %v, %v", d.Due.Earliest, d.Due.Likely, d.Due.Latest)
	}
	// the calendar of the trade comes first where it is shorter: 2 months × (2 ÷ 3)^0.1 from the last
	a.Overrides = nil
	d = descaling(t, a, h, now)
	if days := d.Due.Interval.Days; math.Abs(days-58.384) > 1e-3 || d.Due.Days.Value > 58.384-30+1e-3 ||
		d.Decided.By != circuit.ByCalendar && d.Decided.By != circuit.ByScale {
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

// Where hardness and alkalinity were measured within a year, the calendar does not count; read by a strip,
// or longer ago, it does. A café on hard water is told to treat it before any date.
func TestWhatWasMeasuredDecides(t *testing.T) {
	now := time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)
	a := machine.Answers{Layout: machine.DualHome, Valve: machine.Yes, Drinks: 2}
	done := []Done{{Task: task.Descale, At: now.AddDate(0, 0, -5)}}
	read := func(how water.How, known bool, taken time.Time) Supply {
		s := water.Sample{Hardness: units.Sharp(85), PH: units.Sharp(7.6)}
		if known {
			s.Alkalinity = units.Sharp(68)
		}
		drawn := []Drawn{{Source: true, Samples: []Sampled{{Taken: taken, How: how, Sample: s}},
			Treatment: treat.Usual(machine.Untreated)}}
		return Supplies(machine.Hold(machine.Holding{Answers: a}), drawn, nil)[0]
	}
	recent, old := now.AddDate(0, -2, 0), now.AddDate(-1, -2, 0)
	for name, c := range map[string]struct {
		supply Supply
		want   bool
	}{
		"by drops":                 {read(water.ByDrops, true, recent), true},
		"by a meter":               {read(water.ByMeter, true, recent), true},
		"by a report":              {read(water.ByReport, true, recent), true},
		"by a strip":               {read(water.ByStrip, true, recent), false},
		"without alkalinity":       {read(water.ByDrops, false, recent), false},
		"more than a year ago":     {read(water.ByDrops, true, old), false},
		"the answer of a hardness": {Supplies(machine.Hold(machine.Holding{Answers: a}), nil, nil)[0], false},
	} {
		t.Run(name, func(t *testing.T) {
			regimes, err := Regimes([]Supply{c.supply}, EffectsOf)
			if err != nil {
				t.Fatal(err)
			}
			d := descaling(t, a, History{Waters: regimes, Done: done}, now)
			if d.Measured != c.want {
				t.Fatalf("measured: %v", d.Measured)
			}
			counts := d.Due.Interval.Days < 365
			if counts == c.want {
				t.Errorf("the calendar counts: %v, every %v days by %s", counts, d.Decided.Every.Value, d.Decided.By)
			}
		})
	}
	cafe := machine.Answers{Layout: machine.HXCafe, Valve: machine.Yes, Drinks: 300, MilkDrinks: 150}
	for hardness, want := range map[float64]bool{260: true, 85: false} {
		h := History{Waters: []Regime{{Effect: effectOf(t, hardness, cafe.Facts())}}, Done: done}
		d := descaling(t, cafe, h, now)
		first := d.Due.Because[0].Text
		if (d.TreatFirst != nil) != want || strings.Contains(first, "descaling does not keep up") != want {
			t.Errorf("%v mg/L: %+v, %q", hardness, d.TreatFirst, first)
		}
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
		// of the first day only 17 hours count: it begins at 11, and the next day turns at 4
		share := (19*reaches(137.5, 6, 0.624) + reaches(137.5, 6*17.0/24, 0.624)) / 20
		want += 20 * ((4*0.131+2*0.05)*share*math.Max(0, e.Precipitates.Likely) + float64(gram)/1000*e.Feed.Likely)
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
	want *= reaches(100, 6, 0.524)
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

// What went through a filter carries over a change of the water: 30 days at half a litre of hard water, of
// which it would hold 20 L, use up 0.786 of it; on softer water, of which it would hold 60, 0.524 L a day use up
// the rest in 24.5 days. The filter's litres are told in those of now, and then the tap's water scales.
func TestAFilterCarriesOverAChangeOfWater(t *testing.T) {
	now := time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)
	a := machine.Answers{Layout: machine.DualHome, Valve: machine.Yes, Drinks: 4}
	hard, soft, behind := effectOf(t, 260, a.Facts()), effectOf(t, 120, a.Facts()), effectOf(t, 60, a.Facts())
	began, turn := now.AddDate(0, 0, -60), now.AddDate(0, 0, -30)
	filter := func(litres units.Litres) *Renewal {
		return &Renewal{Task: task.FilterChange, Litres: litres, Days: 300, Named: began}
	}
	h := History{
		Waters: []Regime{{Effect: behind, Raw: &hard, Renew: filter(20)},
			{From: turn, Effect: behind, Raw: &soft, Renew: filter(60)}},
		Done: []Done{{Task: task.Descale, At: began}},
	}
	due, any, err := Renewing(a, h, now, time.UTC)
	share := 30*0.524/20 + 30*0.524/60
	if err != nil || !any || math.Abs(due.Clocks[0].Used.Value-share*60) > 1e-6 || due.State != Overdue {
		t.Errorf("%v, %s: %v L, want %v", err, due.State, due.Clocks[0].Used.Value, share*60)
	}
	d := descaling(t, a, h, now)
	good := 30 + 60*(1-30*0.524/20)/0.524 // days behind the filter
	want := (good*0.524*math.Max(0, behind.Precipitates.Likely) + (60-good)*0.524*soft.Precipitates.Likely) *
		reaches(100, 6, 0.524)
	if got := d.Places[0].Lies.Likely; math.Abs(got-want) > 1e-6*(1+want) {
		t.Errorf("%v mg, want %v", got, want)
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
				longer := a
				longer.Overrides = map[string]string{"hours_on": "20"}
				if days > before+1e-9 || descaling(t, twice, h, now).Due.Days.Value > days+1e-9 ||
					descaling(t, longer, h, now).Due.Days.Value > days+1e-9 {
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

// A café of two groups on untreated water of the mains, hardness and alkalinity measured: more drinks
// and harder water never put the descale later, and hard water is treated first. The log is the table
// that docs/water.md shows.
func TestCafes(t *testing.T) {
	now := time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)
	before := map[float64]float64{}
	for _, hardness := range []float64{85, 160, 260} {
		last := math.Inf(1)
		for _, drinks := range []float64{100, 300, 600} {
			a := machine.Answers{Layout: machine.HXCafe, Valve: machine.Yes, Drinks: drinks, MilkDrinks: drinks / 2}
			h := History{Waters: []Regime{{Effect: effectOf(t, hardness, a.Facts()), Measured: now}},
				Done: []Done{{Task: task.Descale, At: now}}}
			d := descaling(t, a, h, now)
			every := d.Decided.Every
			if every.Value > last || before[drinks] > 0 && every.Value > before[drinks] {
				t.Errorf("%v drinks on %v mg/L: %v days", drinks, hardness, every.Value)
			}
			if (d.TreatFirst != nil) != (drinks > 100 && hardness > 120) {
				t.Errorf("%v drinks on %v mg/L: treat first: %v", drinks, hardness, d.TreatFirst)
			}
			last, before[drinks] = every.Value, every.Value
			t.Logf("| %.0f | %.0f | %s | %s | %s to %s | %s | %v |", hardness, drinks, d.Decided.By,
				circuit.Spoken(every.Value), circuit.Spoken(every.Low), circuit.Spoken(every.High), d.Places[d.Lead].Title,
				d.TreatFirst != nil)
		}
	}
}
