package api

import (
	"fmt"
	"strings"
	"testing"
	"time"
)

func (b *bench) schools(id string) Schools {
	b.t.Helper()
	var out Schools
	b.call("GET", "/api/machines/"+id+"/schools", nil, 200, &out)
	return out
}

// A school that is chosen holds for the next date, the dose and the run; it is
// taken back by one call, and the same request again changes nothing.
func TestSchoolChosenAndBack(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	b.call(
		"POST",
		"/api/machines/"+id+"/care",
		fields{"id": newID(), "task": "wash", "part": "group-1", "at": b.now.AddDate(0, 0, -8)},
		201,
		nil,
	)
	s := b.schools(id)
	if s.Current.Id != "fifty" || len(s.Schools) != 9 || !s.Schools[0].ByDefault || !s.Schools[0].Chosen ||
		len(s.Methods) != 8 ||
		len(s.Water) != 3 ||
		len(s.Changes) != 1 {
		t.Fatalf("a new machine: %+v", s.Current)
	}
	for _, row := range s.Schools {
		if (row.Days == nil) != (row.Id == "program") {
			t.Errorf("%s: figures %v", row.Id, row.Days)
		}
	}
	ask := fields{"id": newID(), "school": "soak"}
	b.call("POST", "/api/machines/"+id+"/schools", ask, 201, &s)
	b.call("POST", "/api/machines/"+id+"/schools", ask, 201, &s)
	if s.Current.Id != "soak" || s.Current.Days.Value != 7 || len(s.Changes) != 2 || !s.Changes[1].Newest {
		t.Errorf("chosen twice: %+v, %d changes", s.Current, len(s.Changes))
	}
	if next := b.first().Next; next.State != "overdue" || next.Clock == nil || next.Clock.Limit != 7 {
		t.Errorf("eight days after a wash, weekly: %+v", next)
	}
	var mix Mix
	b.call("GET", "/api/machines/"+id+"/mix", nil, 200, &mix)
	if mix.Dose.Mass.Value != 1.5 {
		t.Errorf("the dose card says %v g, the soak takes 1.5", mix.Dose.Mass.Value)
	}
	var run Run
	b.call(
		"POST",
		"/api/machines/"+id+"/runs",
		fields{"id": newID(), "device": "phone", "parts": []string{"group-1"}},
		201,
		&run,
	)
	if run.Wash.Method != "soak" || run.Task != "wash" {
		t.Errorf("the run is by %s", run.Wash.Method)
	}
	b.call("POST", "/api/machines/"+id+"/interval-changes", fields{"id": newID(), "kind": "undo"}, 201, &s)
	if s.Current.Id != "fifty" || !s.Changes[1].TakenBack || s.Changes[1].Newest {
		t.Errorf("taken back: %+v, %+v", s.Current.Id, s.Changes)
	}
	var p Problem
	b.call("POST", "/api/machines/"+id+"/interval-changes", fields{"id": newID(), "kind": "undo"}, 409, &p)
	b.call("POST", "/api/machines/"+id+"/interval-changes", fields{"id": newID(), "kind": "take"}, 409, &p)
	if p.Finding == nil {
		t.Error("nothing is proposed, and no reason is given")
	}
	b.call("POST", "/api/machines/"+id+"/interval-changes", fields{"id": newID(), "kind": "oily"}, 201, &s)
	if len(s.Shortened) != 1 || b.washDue().Clocks[0].Limit != 35 {
		t.Errorf("oily beans: %v, %+v", s.Shortened, b.washDue().Clocks[0])
	}
}

// A method paired with an interval, or own numbers; what is not allowed names
// the field and changes nothing.
func TestPairings(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	var row SchoolRow
	b.call(
		"POST",
		"/api/machines/"+id+"/pairings",
		fields{"id": newID(), "method": "three_pulse", "every": "own", "own": fields{"litres": 10, "shots": 60}},
		200,
		&row,
	)
	if row.Id != "own" || *row.Interval.Litres != 10 || *row.Interval.Days != 30 || row.Shots.Value != 60 {
		t.Errorf("%+v", row)
	}
	if b.schools(id).Current.Id != "fifty" {
		t.Error("a preview was kept")
	}
	for _, c := range []struct {
		path  string
		body  fields
		field string
	}{
		{"pairings", fields{"id": newID()}, "every"},
		{"pairings", fields{"id": newID(), "school": "soak", "every": "day"}, "school"},
		{"pairings", fields{"id": newID(), "school": "hand_weekly"}, "school"},
		{"pairings", fields{"id": newID(), "method": "water_only", "every": "day"}, "method"},
		{"pairings", fields{"id": newID(), "method": "soak", "every": "own"}, "own"},
		{"pairings", fields{"id": newID(), "method": "soak", "every": "own", "own": fields{"shots": 2}}, "own.shots"},
		{"schools", fields{"id": newID(), "method": "machine_program", "every": "week"}, "method"},
		{"interval-changes", fields{"id": newID(), "kind": "rain"}, "kind"},
	} {
		var p Problem
		b.call("POST", "/api/machines/"+id+"/"+c.path, c.body, 422, &p)
		if p.Field == nil || *p.Field != c.field || p.Allowed == nil {
			t.Errorf("%v: %+v, want %s", c.body, p, c.field)
		}
	}
	if len(b.schools(id).Changes) != 1 {
		t.Error("a refused choice was kept")
	}
	none := home()
	none["valve"] = "no"
	hand := b.add(none)
	s := b.schools(hand)
	if !s.ByHand || len(s.Schools) != 2 || len(s.Methods) != 0 || len(s.Water) != 0 {
		t.Errorf("without a valve: %+v", s.Current)
	}
	b.call(
		"POST",
		"/api/machines/"+hand+"/schools",
		fields{"id": newID(), "every": "own", "own": fields{"days": 10}},
		201,
		&s,
	)
	if *s.Current.Interval.Days != 10 || s.Current.Interval.Task != "screen" {
		t.Errorf("every ten days by hand: %+v", s.Current.Interval)
	}
}

// wash leads one wash through to its end and says how the first discharge looked.
func (b *bench) wash(id, first string) *live {
	l := b.start(id)
	l.toDose()
	l.press("done")
	l.press("begin")
	l.wait(76 * time.Second)
	l.press("graded", "first", first)
	l.press("done")
	l.press("begin")
	l.wait(76 * time.Second)
	l.press("reading", "cup", clearCup)
	l.press("done")
	l.press("done")
	l.press("done")
	return l
}

// Clear twice running proposes a longer interval at the end of the run; one
// call takes it, one takes it back; a dark one proposes a shorter.
func TestFirstDischargeTeaches(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	b.call(
		"POST",
		"/api/machines/"+id+"/care",
		fields{"id": newID(), "task": "wash", "part": "group-1", "at": b.now},
		201,
		nil,
	)
	drinks := func() {
		b.now = b.now.AddDate(0, 0, 12)
		b.call(
			"POST",
			"/api/machines/"+id+"/use",
			fields{"id": newID(), "kind": "double", "count": 48, "at": b.now.Add(-time.Hour)},
			201,
			nil,
		)
	}
	drinks()
	if l := b.wash(id, "clear"); l.Lesson == nil || l.Lesson.Proposed {
		t.Fatalf("clear once: %+v", l.Lesson)
	}
	drinks()
	l := b.wash(id, "clear")
	if l.Lesson == nil || !l.Lesson.Proposed || l.Lesson.Factor.Value != 1.25 || *l.Lesson.Interval.Shots != 63 {
		t.Fatalf("clear twice: %+v", l.Lesson)
	}
	var s Schools
	b.call("POST", "/api/machines/"+id+"/interval-changes", fields{"id": newID(), "kind": "take"}, 201, &s)
	if *s.Current.Interval.Shots != 63 || s.Lesson.Proposed || s.Changes[1].What != "learned" ||
		!strings.Contains(s.Changes[1].Why, "clear twice") {
		t.Errorf("taken: %+v", s.Current.Interval)
	}
	if limit := b.washDue().Clocks[0].Limit; limit != 63 {
		t.Errorf("the bench counts to %v", limit)
	}
	b.call("POST", "/api/machines/"+id+"/interval-changes", fields{"id": newID(), "kind": "undo"}, 201, &s)
	if *s.Current.Interval.Shots != 50 {
		t.Errorf("taken back: %+v", s.Current.Interval)
	}
	drinks()
	if l := b.wash(id, "dark"); !l.Lesson.Proposed || *l.Lesson.Interval.Shots != 35 {
		t.Errorf("dark: %+v", l.Lesson)
	}
	if s := b.schools(id); len(s.Passed) != 4 || *s.Passed[3].First != "dark" || *s.Passed[3].Shots != 48 {
		t.Errorf("the history: %+v", s.Passed)
	}
}

// A reading of the counter becomes use since the one before and absorbs what
// was pressed; taken back in the ledger, it counts for nothing.
func TestCounterReading(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	b.call(
		"POST",
		"/api/machines/"+id+"/care",
		fields{"id": newID(), "task": "wash", "part": "group-1", "at": b.now},
		201,
		nil,
	)
	read := func(value float64, more ...any) Counted {
		body := fields{"id": newID(), "reading": value, "at": b.now}
		for i := 0; i < len(more); i += 2 {
			body[more[i].(string)] = more[i+1]
		}
		var c Counted
		b.call("POST", "/api/machines/"+id+"/counter", body, 201, &c)
		return c
	}
	b.now = b.now.AddDate(0, 0, 2)
	if c := read(20, "reset", true); c.Drinks != 10 {
		t.Errorf("20 on the counter since the wash: %+v", c)
	}
	b.now = b.now.AddDate(0, 0, 5)
	b.call(
		"POST",
		"/api/machines/"+id+"/use",
		fields{"id": newID(), "kind": "milk", "count": 6, "at": b.now.AddDate(0, 0, -1)},
		201,
		nil,
	)
	if c := read(80); c.Drinks != 30 {
		t.Errorf("60 more: %+v", c)
	}
	used := func() float64 { return b.washDue().Clocks[0].Used.Value }
	if used() != 40 {
		t.Errorf("%v shots since the wash, want 40: the milk drinks are part of the reading", used())
	}
	var p Problem
	b.now = b.now.AddDate(0, 0, 1)
	b.call("POST", "/api/machines/"+id+"/counter", fields{"id": newID(), "reading": 12, "at": b.now}, 422, &p)
	if *p.Field != "reading" || !strings.Contains(*p.Allowed, "80 or more") {
		t.Errorf("below the one before: %+v", p)
	}
	var list UseList
	b.call("GET", "/api/machines/"+id+"/use", nil, 200, &list)
	if e := list.Entries[0]; e.Count != 30 || !e.From.Before(e.At) {
		t.Fatalf("the ledger: %+v", list.Entries)
	}
	// corrected, it stays over its span
	b.call(
		"POST",
		"/api/machines/"+id+"/use",
		fields{
			"id":         newID(),
			"kind":       "double",
			"count":      25,
			"at":         list.Entries[0].At,
			"supersedes": list.Entries[0].Id,
		},
		201,
		nil,
	)
	// and the day since then is taken at the rate that was learned
	if got := used(); got < 38 || got > 41 {
		t.Errorf("corrected to 25, a day ago: %v shots, want 35 and a day's", got)
	}
	var m Machine
	b.call("GET", "/api/machines/"+id, nil, 200, &m)
	if *m.Counter.Last != 20 || m.Counter.Each != 2 {
		t.Errorf("the reading that was corrected away still counts: %+v", m.Counter)
	}
}

// A file of use: bad rows are named and nothing is kept; the same file again
// changes nothing; a corrected one corrects.
func TestImport(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	day := func(ago int) string { return b.now.AddDate(0, 0, -ago).Format(time.DateOnly) }
	file := func(text string, preview bool) Imported {
		var out Imported
		b.call("POST", "/api/machines/"+id+"/imports", fields{"text": text, "preview": preview}, 200, &out)
		return out
	}
	used := func() string {
		var list UseList
		b.call("GET", "/api/machines/"+id+"/use", nil, 200, &list)
		sum := 0.0
		for _, e := range list.Entries {
			sum += e.Count
		}
		return fmt.Sprintf("%d entries, %v drinks", len(list.Entries), sum)
	}
	bad := file("date,double,milk\n"+day(3)+",4,2\n"+day(2)+",four,2\n2026-02-30,1,1\n", false)
	if bad.Kept || len(bad.Bad) != 2 || bad.Bad[0].Line != 3 || bad.Bad[0].Field != "double" ||
		bad.Bad[1].Field != "date" ||
		used() != "0 entries, 0 drinks" {
		t.Errorf("bad rows: %+v, %s", bad, used())
	}
	good := "date,double,milk\n" + day(3) + ",4,2\n" + day(2) + ",3,2\n"
	if p := file(good, true); p.Kept || p.Fresh != 4 || *p.Drinks != 11 || used() != "0 entries, 0 drinks" {
		t.Errorf("looked at: %+v, %s", p, used())
	}
	if p := file(good, false); !p.Kept || p.Fresh != 4 || used() != "4 entries, 11 drinks" {
		t.Errorf("taken: %+v, %s", p, used())
	}
	if p := file(good, false); p.Fresh != 0 || p.Changed != 0 || p.Same != 4 || used() != "4 entries, 11 drinks" {
		t.Errorf("again: %+v, %s", p, used())
	}
	for _, count := range []string{"5", "3", "5"} { // back and forth
		p := file("date,double,milk\n"+day(3)+",4,2\n"+day(2)+","+count+",2\n", false)
		want := map[string]string{"5": "4 entries, 13 drinks", "3": "4 entries, 11 drinks"}[count]
		if p.Changed != 1 || p.Same != 3 || used() != want {
			t.Errorf("corrected to %s: %+v, %s", count, p, used())
		}
	}
}

// A holiday moves the date behind it, and back when it is taken back.
func TestHolidays(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	b.call(
		"POST",
		"/api/machines/"+id+"/care",
		fields{"id": newID(), "task": "wash", "part": "group-1", "at": b.now},
		201,
		nil,
	)
	before := b.washDue().Likely
	day := func(ahead int) string { return b.now.AddDate(0, 0, ahead).Format(time.DateOnly) }
	var m Machine
	b.call(
		"POST",
		"/api/machines/"+id+"/away",
		fields{"id": newID(), "from": day(2), "to": day(8), "note": "boat out"},
		201,
		&m,
	)
	if len(m.Away) != 1 || m.Away[0].From.String() != day(2) || m.Away[0].To.String() != day(8) ||
		m.Away[0].Note != "boat out" {
		t.Errorf("%+v", m.Away)
	}
	if moved := b.washDue().Likely.Sub(before).Hours() / 24; moved < 6.9 || moved > 7.1 {
		t.Errorf("a week away moves the date by %.2f days", moved)
	}
	b.call("DELETE", "/api/machines/"+id+"/away/"+m.Away[0].Id, nil, 200, &m)
	if len(m.Away) != 0 || !b.washDue().Likely.Equal(before) {
		t.Errorf("taken back: %+v", m.Away)
	}
	for _, c := range []struct{ from, to, field string }{{day(5), day(4), "to"}, {day(-500), day(1), "from"},
		{day(1), day(500), "to"}} {
		var p Problem
		b.call("POST", "/api/machines/"+id+"/away", fields{"id": newID(), "from": c.from, "to": c.to}, 422, &p)
		if *p.Field != c.field {
			t.Errorf("%+v: %+v", c, p)
		}
	}
	b.call("DELETE", "/api/machines/"+id+"/away/"+newID(), nil, 404, nil)
}

// The small ones stand beside the wash on a day of use, are ticked off
// together, and do not crowd the log; a water backflush can be led.
func TestSmallOnes(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	b.call("POST", "/api/machines/"+id+"/use", fields{"id": newID(), "kind": "double", "at": b.now}, 201, nil)
	if small := b.first().Small; len(small) != 5 {
		t.Fatalf("%+v", small)
	}
	ask := fields{"id": newID(), "tasks": []string{"brush", "wand", "tray"}, "at": b.now}
	var after BenchMachine
	b.call("POST", "/api/machines/"+id+"/small", ask, 201, &after)
	b.call("POST", "/api/machines/"+id+"/small", ask, 201, &after)
	if len(after.Small) != 2 {
		t.Errorf("three of five are done: %+v", after.Small)
	}
	l := b.start(id, "method", "water_only")
	l.press("done")
	l.press("done")
	l.press("begin")
	l.wait(66 * time.Second)
	l.press("done")
	if l.Outcome == nil || *l.Outcome != "done" || l.Task != "water_backflush" || l.Lesson != nil ||
		len(b.first().Hazards) != 0 {
		t.Errorf("led: %+v", l.Outcome)
	}
	if small := b.first().Small; len(small) != 1 || small[0].Task != "tank_water" {
		t.Errorf("after it: %+v", small)
	}
	if next := b.first().Next; next.State != "unrecorded" {
		t.Errorf("water took the wash's place: %s", next.State)
	}
	var log Log
	b.call("GET", "/api/log", nil, 200, &log)
	few := len(log.Entries)
	b.call("GET", "/api/log?small=true", nil, 200, &log)
	if few != 2 || len(log.Entries) != 5 {
		t.Errorf("%d entries, %d with the small ones", few, len(log.Entries))
	}
	none := home()
	none["valve"] = "no"
	var p Problem
	b.call(
		"POST",
		"/api/machines/"+b.add(none)+"/small",
		fields{"id": newID(), "tasks": []string{"water_backflush"}, "at": b.now},
		422,
		&p,
	)
	if p.Finding == nil {
		t.Error("a water backflush without a valve is put on record")
	}
}

// A practice run is played at its own speed without a machine: no hazard, no
// log, no use, and it does not stand in the way of a real one.
func TestPracticeLeavesNothingBehind(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	var run Run
	b.call(
		"POST",
		"/api/machines/"+id+"/runs",
		fields{
			"id":       newID(),
			"device":   "phone",
			"parts":    []string{"group-1"},
			"practice": true,
			"speed":    30,
			"method":   "soak",
		},
		201,
		&run,
	)
	l := &live{bench: b, id: run.Id, Run: run}
	if !run.Practice || run.Speed != 30 || len(run.Help) < 4 {
		t.Errorf("%+v", run)
	}
	l.goOnTo("the dose", func() bool { return l.Step.Id == "dose" })
	l.press("done")
	if !l.Detergent.In || len(b.first().Hazards) != 0 || b.first().OpenRun != nil {
		t.Error("practice marks the machine")
	}
	b.call("POST", "/api/machines/"+id+"/use", fields{"id": newID(), "kind": "double", "at": b.now}, 201, nil)
	b.start(id)
	l.press("stop")
	var log Log
	b.call("GET", "/api/log", nil, 200, &log)
	if *l.Outcome != "stopped_unsafe" || len(log.Entries) != 1 || len(b.first().Hazards) != 0 {
		t.Errorf("practice is written down: %+v", log.Entries)
	}
	var p Problem
	b.call(
		"POST",
		"/api/machines/"+id+"/runs",
		fields{"id": newID(), "device": "phone", "parts": []string{"group-1"}, "speed": 30},
		422,
		&p,
	)
	if *p.Field != "speed" {
		t.Errorf("a real run at speed: %+v", p)
	}
}

// Somebody's own dose and pulses: named, within what residue and duty allow, led as they are, with
// the rinse that the residue asks for; and taken back as any choice is.
func TestOwnDoseAndPulses(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	choice := func(numbers fields) fields {
		return fields{"id": newID(), "every": "fifty_shots", "method": "half_teaspoon", "numbers": numbers}
	}
	var p Problem
	b.call("POST", "/api/machines/"+id+"/schools", choice(fields{"name": " ", "grams": 2}), 422, &p)
	if p.Field == nil || *p.Field != "numbers.name" {
		t.Errorf("without a name: %+v", p)
	}
	deep := b.add(home())
	b.call("POST", "/api/machines/"+deep+"/facts",
		fields{"facts": []fields{{"key": "stays_ml", "value": "100"}, {"key": "vents_ml", "value": "25"}}}, 200, nil)
	b.call("POST", "/api/machines/"+deep+"/schools", choice(fields{"name": "mine", "grams": 6, "detergent": 3}), 422, &p)
	if *p.Field != "numbers.grams" || !strings.Contains(*p.Allowed, "pulses to rinse out") {
		t.Errorf("more than its head gives up: %+v", p)
	}
	var s Schools
	b.call("POST", "/api/machines/"+id+"/schools",
		choice(fields{"name": "Closer's way", "grams": 2, "on_s": 8, "detergent": 4, "rinse": 3}), 201, &s)
	if s.Current.Title != "Closer's way" || *s.Current.MethodName != "Closer's way" ||
		!strings.Contains(*s.Current.Pattern, "8 s on, 5 s off, 4 times") {
		t.Errorf("%+v", s.Current)
	}
	l := b.startChosen(id)
	l.toDose()
	if got := l.Wash.Dose.Mass.Value; got < 1.99 || got > 2.01 || l.Wash.MethodName != "Closer's way" {
		t.Errorf("%v g by %s", got, l.Wash.MethodName)
	}
	l.press("done")
	l.press("begin")
	if *l.Step.Pulses != 4 || *l.Step.OnS != 8 || l.Detergent.Least != 6 {
		t.Errorf("%d pulses of %v s, rinsed at least %d times", *l.Step.Pulses, *l.Step.OnS, l.Detergent.Least)
	}
	l.goOnTo("the end", func() bool { return l.Outcome != nil })
	if *l.Outcome != "done" {
		t.Errorf("ended %s", *l.Outcome)
	}
}

// startChosen starts a wash by whatever was chosen for the machine.
func (b *bench) startChosen(id string) *live {
	b.t.Helper()
	var r Run
	b.call("POST", "/api/machines/"+id+"/runs", fields{"id": newID(), "device": "phone", "parts": []string{"group-1"}},
		201, &r)
	return &live{bench: b, id: r.Id, Run: r}
}
