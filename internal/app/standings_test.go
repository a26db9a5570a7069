package app

import (
	"fmt"
	"math/rand/v2"
	"reflect"
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

// checkKept holds what is kept of every machine against working it out anew, as of the instant
// when it was worked out; and checks that it holds now: no day has turned since, no change is
// waiting.
func (b *bench) checkKept(what string) {
	b.t.Helper()
	list, err := b.Machines(ctx, false)
	b.must(err)
	kept, err := b.Standings(ctx, list, b.clock)
	b.must(err)
	for _, m := range list {
		k := kept[m.ID]
		h, err := b.History(ctx, m, k.Worked)
		b.must(err)
		anew, until := care.Standings(m.Answers, h, k.Worked, m.Zone)
		for i := range anew { // as it is kept, to the millisecond and in UTC
			for _, at := range []*time.Time{&anew[i].Last, &anew[i].Earliest, &anew[i].Likely, &anew[i].Latest} {
				if !at.IsZero() {
					*at = time.UnixMilli(at.UnixMilli()).UTC()
				}
			}
		}
		if !reflect.DeepEqual(k.List, anew) || !k.Until.Equal(until) {
			b.t.Fatalf("%s: kept of %s\n%+v\nanew\n%+v", what, m.Name, k.List, anew)
		}
		if k.Worked.After(b.clock) || !k.Until.After(b.clock) {
			b.t.Fatalf("%s: kept from %v until %v, and it is %v", what, k.Worked, k.Until, b.clock)
		}
	}
}

// random does something to a machine, or moves the clock; some of it is refused, which changes
// nothing.
func (b *bench) random(r *rand.Rand, id, source string, entries *[]string, lines *[]string) string {
	past := func(days int) time.Time { return b.clock.Add(-time.Duration(r.IntN(days*24*60)) * time.Minute) }
	switch r.IntN(16) {
	case 0, 1, 2:
		p := Pressed{ID: newID(), MachineID: id, Kind: []use.Kind{use.Single, use.Double, use.Milk, use.Flush}[r.IntN(4)],
			Count: float64(1 + r.IntN(5)), At: past(20)}
		if _, err := b.LogUse(ctx, p); err == nil {
			*entries = append(*entries, p.ID)
		}
		return "a drink"
	case 3:
		if len(*entries) > 0 {
			p := Pressed{ID: newID(), MachineID: id, Kind: use.Undo, Count: 1, At: b.clock,
				Supersedes: (*entries)[r.IntN(len(*entries))]}
			_, _ = b.LogUse(ctx, p)
		}
		return "undo"
	case 4:
		c := Care{ID: newID(), MachineID: id, At: past(40), Parts: []machine.Part{machine.Group(1)},
			Task: []task.ID{task.Wash, task.Screen, task.Seal}[r.IntN(3)]}
		if b.RecordCare(ctx, c) == nil {
			*lines = append(*lines, c.ID)
		}
		return "care of a group"
	case 5:
		c := Care{ID: newID(), MachineID: id, At: past(90), Parts: []machine.Part{{}},
			Task: []task.ID{task.Descale, task.Soak, task.Tank, task.FilterChange, task.LookForScale}[r.IntN(5)]}
		if b.RecordCare(ctx, c) == nil {
			*lines = append(*lines, c.ID)
		}
		return "care of the machine"
	case 6:
		if len(*lines) > 0 {
			_ = b.TakeCareBack(ctx, id, (*lines)[r.IntN(len(*lines))])
		}
		return "care taken back"
	case 7:
		if len(*lines) > 0 {
			_ = b.DateCare(ctx, id, (*lines)[r.IntN(len(*lines))], past(60))
		}
		return "care dated anew"
	case 8:
		a, h := home(float64(1+r.IntN(9)), float64(2+r.IntN(20)))
		a.Treatment = machine.Treatments()[r.IntN(4)]
		e := Edit{MachineID: id, Version: b.machine(id).Version}
		if since := past(60); r.IntN(2) == 0 {
			e.Since = &since
		}
		b.must(b.ChangeAnswers(ctx, e, a, h))
		return "other answers"
	case 9:
		value := fmt.Sprint(30 + r.IntN(40))
		b.must(b.ChangeFacts(ctx, Edit{MachineID: id, Version: b.machine(id).Version}, []Fact{{"beverage_g", &value}}))
		return "a fact"
	case 10:
		reading := store.Reading{ID: newID(), Taken: past(90), How: "drops",
			Sample: water.Sample{Hardness: units.Sharp(float64(40 + r.IntN(300)))}}
		b.must(b.AddReading(ctx, source, reading))
		return "a reading"
	case 11:
		from := past(60)
		b.must(b.ChooseWater(ctx, WaterChoice{ID: newID(), MachineID: id, SourceID: source, From: &from,
			Treatment: treat.Usual(machine.Treatments()[r.IntN(5)])}))
		return "another water"
	case 12:
		_ = b.ChangeInterval(ctx, newID(), id, []string{"oily", "party", "undo"}[r.IntN(3)])
		return "the interval"
	case 13:
		b.restart()
		return "a restart"
	case 14:
		b.clock = b.clock.Add(-time.Duration(r.IntN(90)) * time.Minute)
		return "the clock set back"
	}
	b.clock = b.clock.Add(time.Duration(r.IntN(40)) * time.Hour)
	return "time goes on"
}

// Whatever was done, undone and corrected, whenever the clock was set and the server killed: what is
// kept of each task is what working it out anew gives.
func TestStandingsEqualWorkingOutAnew(t *testing.T) {
	for seed := range uint64(6) {
		t.Run(fmt.Sprint("history ", seed), func(t *testing.T) {
			r := rand.New(rand.NewPCG(seed, 19))
			b := newBench(t)
			source := newID()
			b.must(b.AddSource(ctx, source, "Harbour main"))
			id, other := b.add(4, 14), b.add(2, 8)
			b.clock = now.AddDate(0, 0, 100)
			var entries, lines []string
			for step := range 90 {
				of := id
				if r.IntN(6) == 0 {
					of = other
				}
				what := b.random(r, of, source, &entries, &lines)
				if r.IntN(3) == 0 {
					b.checkKept(fmt.Sprintf("step %d, %s", step, what))
				}
			}
			b.checkKept("at the end")
		})
	}
}

// A change marks what it concerns and nothing else; the server may be killed before it is worked
// out anew, the next read does it.
func TestMarkedUntilWorkedOut(t *testing.T) {
	b := newBench(t)
	id, other := b.add(4, 14), b.add(2, 8)
	b.checkKept("at first")
	stale := func() []string {
		ids, err := b.store.StaleIDs(ctx, "", b.clock, false, 10)
		b.must(err)
		return ids
	}
	if ids := stale(); len(ids) != 0 {
		t.Fatalf("read, and still marked: %v", ids)
	}
	b.log(id, use.Double, b.clock)
	b.restart() // killed between the mark and working it out
	if ids := stale(); len(ids) != 1 || ids[0] != id {
		t.Errorf("marked %v, want %s and not %s", ids, id, other)
	}
	b.checkKept("after the restart")
	if ids := stale(); len(ids) != 0 {
		t.Errorf("still marked: %v", ids)
	}
	// somebody else's reading concerns nobody who does not draw from there
	source := newID()
	b.must(b.AddSource(ctx, source, "Hill main"))
	b.must(b.AddReading(ctx, source, store.Reading{ID: newID(), Taken: b.clock, How: "strip",
		Sample: water.Sample{Hardness: units.Sharp(90)}}))
	if ids := stale(); len(ids) != 0 {
		t.Errorf("a reading that nobody draws from marks %v", ids)
	}
}

// The turn of a day is worked out in batches of its own: a list that is read meanwhile is answered
// from what is kept.
func TestTheDayTurnsInBatches(t *testing.T) {
	b := newBench(t)
	for range batch + 5 {
		b.add(4, 14)
	}
	list, err := b.Machines(ctx, false)
	b.must(err)
	_, err = b.Standings(ctx, list, b.clock)
	b.must(err)
	b.clock = b.clock.AddDate(0, 0, 1)
	kept, err := b.Standings(ctx, list, b.clock)
	b.must(err)
	for id, k := range kept {
		if !k.Worked.Before(b.clock.AddDate(0, 0, -1).Add(time.Second)) {
			t.Fatalf("%s was worked out inside a request, at %v", id, k.Worked)
		}
	}
	b.must(b.TurnDay(ctx))
	b.checkKept("the day turned")
}

// A row that cannot be read is said of its machine, which stays on the bench; the others have their
// dates.
func TestABadRowHidesItselfOnly(t *testing.T) {
	b := newBench(t)
	good := b.add(4, 14)
	bad := map[string]string{}
	for what, q := range map[string]string{
		"time zone": "UPDATE machines SET zone = 'Nowhere/Land' WHERE id = ?",
		"hardness":  "UPDATE settings SET hardness_unit = 'spoons' WHERE machine_id = ?",
		"answers":   "UPDATE settings SET layout = 'kettle' WHERE machine_id = ?",
		"part":      "UPDATE care_log SET part = 'lid', record = '{' WHERE machine_id = ?",
	} {
		id := b.add(4, 14)
		b.sql(q, id)
		bad[id] = what
	}
	list, err := b.Machines(ctx, false)
	b.must(err)
	if len(list) != len(bad)+1 {
		t.Fatalf("%d machines on the bench", len(list))
	}
	kept, err := b.Standings(ctx, list, b.clock)
	b.must(err)
	for _, m := range list {
		k, what := kept[m.ID], bad[m.ID]
		said := ""
		if m.Bad != nil {
			said = m.Bad.Error()
		}
		for _, x := range k.List {
			said += " " + x.Why
		}
		switch {
		case len(k.List) == 0:
			t.Errorf("%s: nothing stands", what)
		case m.ID == good && m.Bad != nil:
			t.Errorf("the good one: %v", m.Bad)
		case m.ID != good && what != "part" && !strings.Contains(said, what):
			t.Errorf("%s: it says %q", what, said)
		}
	}
}

// A reading that cannot be read any more is said in place of the date of what is counted by it, on
// the machines that drew from its source alone; taken back, the date is there again.
func TestABadReadingIsSaidWhereItCounts(t *testing.T) {
	b := newBench(t)
	from := b.clock.AddDate(0, 0, -200)
	draws := func(name string) (id, reading string) {
		source := newID()
		id = b.add(4, 14)
		b.must(b.AddSource(ctx, source, name))
		for _, ago := range []int{190, 20} {
			r := store.Reading{ID: newID(), Taken: b.clock.AddDate(0, 0, -ago), How: "drops",
				Sample: water.Sample{Hardness: units.Sharp(180)}}
			b.must(b.AddReading(ctx, source, r))
			reading = r.ID
		}
		b.must(b.ChooseWater(ctx, WaterChoice{ID: newID(), MachineID: id, SourceID: source, From: &from,
			Treatment: treat.Usual(machine.Untreated)}))
		b.done(id, task.Descale, machine.Part{}, b.clock.AddDate(0, 0, -30))
		return id, reading
	}
	bad, reading := draws("Harbour main")
	good, _ := draws("Hill main")
	descale := func(id string) care.Standing {
		list, err := b.Machines(ctx, false)
		b.must(err)
		kept, err := b.Standings(ctx, list, b.clock)
		b.must(err)
		for _, s := range kept[id].List {
			if s.Task == task.Descale {
				return s
			}
		}
		t.Fatal("nothing is said of descaling")
		return care.Standing{}
	}
	before := descale(bad)
	if before.NoDate || descale(good).NoDate {
		t.Fatalf("before: %+v", before)
	}
	b.sql("UPDATE samples SET body = '{\"hardness\":' WHERE id = ?", reading)
	b.sql("UPDATE machines SET stale = 1")
	if s := descale(bad); !s.NoDate || !strings.Contains(s.Why, "Harbour main cannot be read") {
		t.Errorf("with a bad reading: %+v", s)
	}
	if s := descale(good); s.NoDate {
		t.Errorf("the other machine: %+v", s)
	}
	if _, err := b.Drawing(ctx, b.machine(bad), b.clock); err != nil {
		t.Errorf("its water's page: %v", err)
	}
	b.must(b.ForgetReading(ctx, reading))
	if s := descale(bad); s.NoDate || s.Likely != before.Likely {
		t.Errorf("taken back: %+v, before %+v", s, before)
	}
}

// R7. On a disk that takes no write the bench is read all the same: what a turn of the day changes is worked out,
// shown, and kept nowhere.
func TestTheBenchIsReadFromAFullDisk(t *testing.T) {
	b := newBench(t)
	id := b.add(4, 14)
	list, err := b.Machines(ctx, false)
	b.must(err)
	before, err := b.Standings(ctx, list, b.clock)
	b.must(err)
	b.clock = b.clock.AddDate(0, 0, 3)
	b.must(b.store.Freeze(true))
	shown, err := b.Standings(ctx, list, b.clock)
	if err != nil {
		t.Fatal(err)
	}
	if len(shown[id].List) != len(before[id].List) || reflect.DeepEqual(shown[id].List, before[id].List) {
		t.Error("what is shown is not worked out anew")
	}
	b.must(b.store.Freeze(false))
	kept, err := b.Standings(ctx, list, b.clock)
	b.must(err)
	for i, k := range kept[id].List {
		s := shown[id].List[i]
		if s.Task != k.Task || s.State != k.State || s.Used != k.Used || s.Likely.UnixMilli() != k.Likely.UnixMilli() {
			t.Errorf("shown %+v, kept %+v", s, k)
		}
	}
}

// S9. What was worked out by older rules is worked out anew before anybody is told of a machine; of a long list it is
// done beside, and no request waits for it.
func TestNewRulesReachWhatIsKept(t *testing.T) {
	b := newBench(t)
	var ids []string
	for range batch + 3 {
		ids = append(ids, b.add(4, 14))
	}
	list, err := b.Machines(ctx, false)
	b.must(err)
	_, err = b.Standings(ctx, list, b.clock)
	b.must(err)
	b.must(b.TurnDay(ctx))
	b.sql("UPDATE standings SET title = 'by older rules'")
	b.sql("UPDATE machines SET rules = rules - 1")
	old := func(list ...store.Machine) (n int) {
		kept, err := b.Standings(ctx, list, b.clock)
		b.must(err)
		for _, m := range list {
			if kept[m.ID].List[0].Title == "by older rules" {
				n++
			}
		}
		return n
	}
	if n := old(list[0]); n > 0 {
		t.Error("a machine is told of by older rules")
	}
	if n := old(list...); n != len(ids)-1 {
		t.Errorf("%d of a long list are as they were: a request has worked some out", n)
	}
	b.must(b.TurnDay(ctx))
	if n := old(list...); n > 0 {
		t.Errorf("%d are by older rules after they were worked out beside", n)
	}
}
