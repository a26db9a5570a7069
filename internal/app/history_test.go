package app

import (
	"errors"
	"math"
	"strings"
	"testing"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/machine"
	"freshanvil/core/task"
	"freshanvil/core/treat"
	"freshanvil/core/units"
	"freshanvil/core/use"
	"freshanvil/core/water"
	"freshanvil/internal/store"
)

// lies is the scale in a machine, in mg, and checks it against all entries together.
func (b *bench) lies(id, what string) float64 {
	b.t.Helper()
	m := b.machine(id)
	h, err := b.History(ctx, m, b.clock)
	b.must(err)
	d, err := care.DescalingOf(m.Answers, h, b.clock, m.Zone)
	b.must(err)
	whole := h
	whole.Days, whole.Since = nil, time.Time{}
	whole.Events, err = b.store.EventsOf(ctx, m, time.UnixMilli(0), nil)
	b.must(err)
	want, err := care.DescalingOf(m.Answers, whole, b.clock, m.Zone)
	b.must(err)
	if len(h.Events) >= len(whole.Events) {
		b.t.Errorf("%s: all %d entries are read", what, len(whole.Events))
	}
	got := d.Places[0].Lies.Likely
	if math.Abs(got-want.Places[0].Lies.Likely) > 1e-6*(1+got) ||
		math.Abs(float64(d.Through.All()-want.Through.All())) > 1e-6 {
		b.t.Errorf("%s: %v mg lie there, of all entries %v; %v L, %v", what, got, want.Places[0].Lies.Likely,
			d.Through.All(), want.Through.All())
	}
	return got
}

// What is counted up by the day gives the same scale as all entries together, whatever is logged,
// back-dated or taken back afterwards; a new reading, taken back or dated anew, and another
// treatment count from their day on.
func TestUseByTheDayIsTheWholeUse(t *testing.T) {
	b := newBench(t)
	day := func(n int) time.Time { return now.AddDate(0, 0, -n) }
	b.clock = day(310)
	source, id := newID(), b.add(4, 14)
	b.must(b.AddSource(ctx, source, "Harbour main"))
	read := func(ago int, hardness float64) string {
		r := store.Reading{ID: newID(), Taken: day(ago), How: "strip", Sample: water.Sample{Hardness: units.Sharp(hardness)}}
		b.must(b.AddReading(ctx, source, r))
		return r.ID
	}
	b.clock = now
	read(300, 260)
	from := day(200)
	b.must(b.ChooseWater(ctx, WaterChoice{ID: newID(), MachineID: id, SourceID: source, From: &from,
		Treatment: treat.Usual(machine.Untreated)}))
	b.done(id, task.Descale, machine.Part{}, day(90))
	b.done(id, task.Wash, machine.Group(1), day(10))
	for n := 100; n > 0; n-- {
		for _, kind := range []use.Kind{use.Double, use.Double, use.Double, use.Milk} {
			b.log(id, kind, day(n).Add(time.Hour))
		}
	}
	first := b.lies(id, "at first")
	if again := b.lies(id, "read again"); again != first {
		t.Errorf("read again it is %v, was %v", again, first)
	}
	back := Pressed{ID: newID(), MachineID: id, Kind: use.Double, Count: 40, At: day(50)}
	_, err := b.LogUse(ctx, back)
	b.must(err)
	if more := b.lies(id, "back-dated"); more <= first {
		t.Errorf("forty drinks more leave %v, before %v", more, first)
	}
	_, err = b.LogUse(ctx, Pressed{ID: newID(), MachineID: id, Kind: use.Undo, Count: 1, At: now, Supersedes: back.ID})
	b.must(err)
	near := func(got float64) bool { return math.Abs(got-first) <= 1e-6*first }
	if got := b.lies(id, "taken back"); !near(got) {
		t.Errorf("taken back: %v, was %v", got, first)
	}
	soft := read(40, 80)
	softer := b.lies(id, "a softer reading")
	if softer >= first {
		t.Errorf("softer for forty days: %v, was %v", softer, first)
	}
	b.must(b.DateReading(ctx, soft, day(20)))
	if got := b.lies(id, "dated anew"); !(softer < got && got < first) {
		t.Errorf("softer for twenty days: %v, for forty %v, never %v", got, softer, first)
	}
	b.must(b.ForgetReading(ctx, soft))
	if got := b.lies(id, "the reading taken back"); !near(got) {
		t.Errorf("%v, was %v", got, first)
	}
	from = day(30)
	b.must(b.ChooseWater(ctx, WaterChoice{ID: newID(), MachineID: id, SourceID: source, From: &from,
		Treatment: treat.Usual(machine.Softener)}))
	b.done(id, task.Regenerate, machine.Part{}, day(2))
	if got := b.lies(id, "softened"); got >= first {
		t.Errorf("softened for thirty days: %v, was %v", got, first)
	}
	b.must(b.ForgetReading(ctx, soft)) // again: it is away already
	for what, err := range map[string]error{
		"a reading that never was": b.ForgetReading(ctx, newID()),
		"dated when taken back":    b.DateReading(ctx, soft, now),
		"a source that is not there": b.ChooseWater(ctx, WaterChoice{ID: newID(), MachineID: id, SourceID: newID(),
			Treatment: treat.Usual(machine.Jug)}),
		"a reading of no source": b.AddReading(ctx, newID(), store.Reading{ID: newID(), Taken: now,
			Sample: water.Sample{Hardness: units.Sharp(80)}}),
	} {
		if !errors.Is(err, store.ErrNotFound) {
			t.Errorf("%s: %v", what, err)
		}
	}
}

// The probe of what held when: 40 days on 18 °dH, then an answer of 3 °dH. The scale of the 40 days
// stays, the date moves little; correcting the past is its own act and takes it away.
func TestNewAnswersLeaveThePastAsItWas(t *testing.T) {
	b := newBench(t)
	day := func(n int) time.Time { return now.AddDate(0, 0, n) }
	id := b.add(6, 18)
	for n := 1; n < 40; n++ {
		b.clock = day(n)
		for range 6 {
			b.log(id, use.Double, b.clock.Add(-time.Hour))
		}
	}
	b.clock = day(40)
	b.done(id, task.Wash, machine.Group(1), b.clock)
	before := b.lies(id, "40 days on hard water")
	said := b.machine(id)
	a, h := home(6, 3)
	b.must(b.ChangeAnswers(ctx, Edit{MachineID: id, Version: said.Version}, a, h))
	b.clock = b.clock.Add(time.Minute)
	after := b.lies(id, "softer from now on")
	if before < 1000 || after < before-1e-6 || after > 1.02*before {
		t.Errorf("%.0f mg lay there before the answer, %.0f after it", before, after)
	}
	b.clock = day(60)
	later := b.lies(id, "twenty days later")
	if later < after {
		t.Errorf("%.0f mg, less than %.0f before", later, after)
	}
	if err := b.ChangeAnswers(ctx, Edit{MachineID: id, Version: said.Version}, a, h); !conflict(err, "changed_meanwhile") {
		t.Errorf("an edit from an older version: %v", err)
	}
	from := day(0)
	b.must(b.ChangeAnswers(ctx, Edit{MachineID: id, Version: b.machine(id).Version, Since: &from}, a, h))
	if got := b.lies(id, "it was soft all along"); got > 0.5*before {
		t.Errorf("corrected: %.0f mg, was %.0f", got, later)
	}
}

// Facts, too: a boiler that was said to be bigger counts from its day on; a correction from its own.
func TestFactsHoldFromTheirDay(t *testing.T) {
	b := newBench(t)
	id := b.add(4, 14)
	b.clock = now.AddDate(0, 0, 30)
	edit := func(since *time.Time, value string) {
		t.Helper()
		e := Edit{MachineID: id, Version: b.machine(id).Version, Since: since}
		b.must(b.ChangeFacts(ctx, e, []Fact{{"beverage_g", &value}}))
	}
	held := func(at time.Time) string {
		line, err := b.store.Timeline(ctx, id)
		b.must(err)
		return heldOf(line).At(at).Answers.Overrides["beverage_g"]
	}
	edit(nil, "60")
	b.clock = now.AddDate(0, 0, 50)
	edit(nil, "70")
	mid, begin := now.AddDate(0, 0, 40), now.AddDate(0, 0, 10)
	if held(begin) != "" || held(mid) != "60" || held(b.clock) != "70" {
		t.Errorf("%q, %q, %q", held(begin), held(mid), held(b.clock))
	}
	edit(&mid, "50")
	if held(now.AddDate(0, 0, 35)) != "60" || held(mid) != "50" || held(b.clock) != "50" {
		t.Errorf("corrected from day 40: %q, %q, %q", held(now.AddDate(0, 0, 35)), held(mid), held(b.clock))
	}
	future := b.clock.AddDate(0, 0, 2)
	var bad *units.OutOfRange
	e := Edit{MachineID: id, Version: b.machine(id).Version, Since: &future}
	err := b.ChangeFacts(ctx, e, []Fact{{"beverage_g", nil}})
	if !errors.As(err, &bad) || bad.Field != "since" {
		t.Errorf("from a day to come: %v", err)
	}
}

// The first minute: a new machine counts from that day; what was done about a day counts from
// then; what nobody knows is due now, and says so; jobs that were never asked for begin today.
func TestTheFirstMinute(t *testing.T) {
	b := newBench(t)
	make := func(n NewMachine) map[task.ID]care.Due {
		t.Helper()
		n.ID, n.Name, n.Zone = newID(), "Loaner", "UTC"
		n.Answers, n.Hardness = home(4, 14)
		b.must(b.CreateMachine(ctx, n))
		m := b.machine(n.ID)
		h, err := b.History(ctx, m, b.clock)
		b.must(err)
		out := map[task.ID]care.Due{}
		for _, d := range care.AllDue(m.Answers, h, b.clock, m.Zone) {
			out[d.Task] = d
		}
		return out
	}
	bought := now.AddDate(0, 0, -3)
	fresh := make(NewMachine{IsNew: &bought})
	for id, d := range fresh {
		if d.State == care.Unrecorded || !d.Last.Equal(bought) || !d.Begun || !strings.Contains(d.Because[0].Text, "new") {
			t.Errorf("new: %s is %s since %v, %v", id, d.State, d.Last, d.Because[0])
		}
	}
	about := now.AddDate(0, 0, -20)
	used := make(NewMachine{Before: []Before{{task.Descale, machine.Part{}, about}}})
	if d := used[task.Descale]; !d.Last.Equal(about) || d.Begun {
		t.Errorf("descaled about %v: %+v", about, d)
	}
	if d := used[task.Wash]; d.State != care.Unrecorded {
		t.Errorf("nobody knows of a wash: %s", d.State)
	}
	if d := used[task.Soak]; d.State != care.Later || !d.Begun ||
		!strings.Contains(d.Because[0].Text, "came to the bench") {
		t.Errorf("the soak: %s, %v", d.State, d.Because)
	}
	n := NewMachine{ID: newID(), Name: "x", Zone: "UTC", Before: []Before{{task.Wash, machine.Group(3), about}}}
	n.Answers, n.Hardness = home(4, 14)
	var bad *units.OutOfRange
	if err := b.CreateMachine(ctx, n); !errors.As(err, &bad) || bad.Field != "before.0.part" {
		t.Errorf("washed in a group that is not there: %v", err)
	}
	if _, err := b.Find(ctx, n.ID); !errors.Is(err, store.ErrNotFound) {
		t.Error("half of it was kept")
	}
}

// Care that is on record can be taken back and dated anew; what counts follows; a run's date is
// known by the run.
func TestCareIsTakenBackAndDatedAnew(t *testing.T) {
	b := newBench(t)
	id := b.add(4, 14)
	b.clock = now.AddDate(0, 0, 40)
	last := func() time.Time {
		done, err := b.store.Done(ctx, id)
		b.must(err)
		return LastWash(done)
	}
	first := b.done(id, task.Wash, machine.Group(1), now.AddDate(0, 0, 10))
	second := b.done(id, task.Wash, machine.Group(1), now.AddDate(0, 0, 30))
	b.must(b.DateCare(ctx, id, second, now.AddDate(0, 0, 5)))
	if !last().Equal(now.AddDate(0, 0, 10)) {
		t.Errorf("dated anew, the last is %v", last())
	}
	b.must(b.TakeCareBack(ctx, id, first))
	b.must(b.TakeCareBack(ctx, id, first))
	if !last().Equal(now.AddDate(0, 0, 5)) {
		t.Errorf("taken back, the last is %v", last())
	}
	list, err := b.store.Log(ctx, id, false, 10)
	b.must(err)
	if len(list) != 2 || !list[0].TakenBack || list[1].Record.Dated == nil ||
		!list[1].Record.Dated.Equal(now.AddDate(0, 0, 30)) {
		t.Errorf("the log: %+v", list)
	}
	note, err := b.Note(ctx, newID(), id, task.Descale, "by a workshop")
	b.must(err)
	var bad *units.OutOfRange
	for what, c := range map[string]struct {
		err  error
		fine func(error) bool
	}{
		"a note":      {b.TakeCareBack(ctx, id, note.ID), func(e error) bool { return conflict(e, "counts_for_nothing") }},
		"nothing":     {b.TakeCareBack(ctx, id, newID()), func(e error) bool { return errors.Is(e, store.ErrNotFound) }},
		"dated, gone": {b.DateCare(ctx, id, first, now), func(e error) bool { return conflict(e, "date_is_known") }},
		"dated tomorrow": {b.DateCare(ctx, id, second, b.clock.AddDate(0, 0, 1)),
			func(e error) bool { return errors.As(e, &bad) }},
	} {
		if !c.fine(c.err) {
			t.Errorf("%s: %v", what, c.err)
		}
	}
}
