package api

import (
	"context"
	"database/sql"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
)

// What may harm somebody is refused over the contract, each refusal with its own code,
// the field that stands against it, the value it has and what is allowed, with the
// reason; and nothing is begun.
func TestWhatMayHarmIsRefused(t *testing.T) {
	b := newBench(t)
	descale := func(more ...any) fields {
		body := fields{"device": "phone", "parts": []string{"machine"}, "task": "descale"}
		for i := 0; i < len(more); i += 2 {
			body[more[i].(string)] = more[i+1]
		}
		return body
	}
	wash := fields{"device": "phone", "parts": []string{"group-1"}, "method": "half_teaspoon"}
	for _, c := range []struct {
		name, layout string
		facts        []string
		ask          fields
		code, field  string
		value        string
	}{
		{"sulfamic acid where the material is not said", "single_boiler", nil, descale("product", "sulfamic"),
			"material_not_said", "product", "sulfamic"},
		{"sulfamic acid on aluminium", "single_boiler", []string{"brew_material", "aluminium"},
			descale("product", "sulfamic"), "harms_material", "product", "sulfamic"},
		{"hot soaks where the material is not said", "single_boiler", nil, descale("program", "hot_soaks"),
			"material_not_said", "program", "hot_soaks"},
		{"30 g/L where the material is not said", "single_boiler", nil, descale("strength_g_l", 30),
			"material_not_said", "strength_g_l", "30"},
		{"30 g/L on aluminium", "thermoblock", []string{"brew_material", "aluminium"}, descale("strength_g_l", 30),
			"too_strong", "strength_g_l", "30"},
		{"a heat exchanger by its tap", "hx_home", []string{"brew_material", "stainless"}, descale(),
			"emptied_by_tap", "drain", "tap"},
		{"and if somebody asks for it by name", "hx_home", []string{"brew_material", "stainless"},
			descale("program", "by_tap"), "emptied_by_tap", "drain", "tap"},
		{"a drained boiler whose heater nobody is sure of", "dual_home", []string{"brew_material", "stainless"}, descale(),
			"heater_not_said", "steam_heater", "cannot_tell"},
		{"one that is heated while it fills", "hx_home", []string{"drain", "plug", "steam_heater", "on_means_heating"},
			descale(), "heater_stays_on", "steam_heater", "on_means_heating"},
		{"one whose pump waits for the heat", "thermoblock", []string{"pump_before_hot", "no"}, descale(),
			"heater_stays_on", "pump_before_hot", "no"},
		{"what does not fit into the time that acid may stand", "single_boiler", nil, descale(),
			"contact_too_long", "program", "three_soaks"},
		{"more than six refills", "dual_home", []string{"brew_material", "stainless", "heel", "0.4"}, descale(),
			"too_many_refills", "heel", "0.4"},
		{"a trade machine", "hx_cafe", nil, descale(), "not_by_the_keeper", "layout", "hx_cafe"},
		{"a descale of a machine that leaks", "single_boiler", []string{"condition", "leaks"}, descale(),
			"leaks", "condition", "leaks"},
		{"a wash of a machine that leaks", "single_boiler", []string{"condition", "leaks"}, wash,
			"leaks", "condition", "leaks"},
		{"a draw-off of a machine that leaks", "hx_home", []string{"condition", "leaks", "water", "mains"},
			descale("task", "draw_off"), "leaks", "condition", "leaks"},
		{"a draw-off without a steam boiler", "single_boiler", nil, descale("task", "draw_off"),
			"no_steam_boiler", "layout", "single_boiler"},
	} {
		t.Run(c.name, func(t *testing.T) {
			b.t = t
			id := b.add(with("layout", c.layout))
			if len(c.facts) > 0 {
				b.knows(id, c.facts...)
			}
			c.ask["id"] = newID()
			var p Problem
			b.call("POST", "/api/machines/"+id+"/runs", c.ask, 422, &p)
			if p.Code != c.code || p.Field == nil || *p.Field != c.field || *p.Value != c.value || *p.Allowed == "" {
				t.Errorf(
					"refused as %s of %v: %v, allowed %v",
					p.Code,
					deref(p.Field),
					deref(p.Value),
					deref(p.Allowed),
				)
			}
			if p.Finding == nil || p.Finding.Verdict != reason.Refused || len(p.Finding.Because) == 0 {
				t.Errorf("without a reason: %+v", p.Finding)
			}
			b.call("GET", "/api/runs/"+c.ask["id"].(string), nil, 404, nil)
		})
	}
}

func deref(s *string) string {
	if s == nil {
		return "nothing"
	}
	return *s
}

// "Nothing came" is counted on the group over runs. After two there is no way to begin
// again, in the same run or in another, until somebody signs the pressure off by name.
func TestNothingCameIsCountedOverRuns(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	toPulses := func(l *live) {
		l.goOnTo("the pulses", func() bool { return slices.Contains(l.Allowed, "nothing_came") })
	}
	l := b.start(id)
	toPulses(l)
	l.press("nothing_came")
	if l.Finding == nil || len(b.first().Hazards) == 0 {
		t.Fatalf("one try: %+v, hazards %+v", l.Finding, b.first().Hazards)
	}
	l.press("stop")

	again := fields{"id": newID(), "device": "phone", "parts": []string{"group-1"}, "method": "half_teaspoon"}
	var p Problem
	b.call("POST", "/api/machines/"+id+"/runs", again, 409, &p)
	if p.Code != "head_blocked" || p.Finding == nil || !strings.Contains(p.Finding.Next[1], "No water comes") {
		t.Errorf("washed after one try: %+v", p)
	}
	// it is freed, cold; then nothing comes twice
	var freed Run
	b.call("POST", "/api/machines/"+id+"/runs",
		fields{"id": newID(), "device": "phone", "parts": []string{"group-1"}, "task": "unblock"}, 201, &freed)
	l = &live{bench: b, id: freed.Id, Run: freed}
	l.goOnTo("the handle", func() bool { return l.Step.Id == "loosen" })
	if len(b.first().Hazards) == 0 {
		t.Error("it counts as open before the handle is out")
	}
	l.goOnTo("the rinse", func() bool { return slices.Contains(l.Allowed, "nothing_came") })
	if len(b.first().Hazards) != 0 {
		t.Errorf("the handle was out: %+v", b.first().Hazards)
	}
	l.press("nothing_came")
	l.press("begin")
	l.wait(16 * time.Second)
	l.press("nothing_came")
	if slices.Contains(l.Allowed, "begin") || slices.Contains(l.Allowed, "done") {
		t.Errorf("after two tries it may be begun again: %v", l.Allowed)
	}
	l.press("begin") // against what is allowed: it changes nothing
	if slices.Contains(l.Allowed, "begin") || l.Segment.Kind == "pulse" {
		t.Errorf("begun all the same: %v in %s", l.Allowed, l.Segment.Kind)
	}
	if l.Outcome == nil {
		l.press("stop")
	}
	var tries int
	for _, h := range b.first().Hazards {
		if h.Chemical == "pressure" {
			tries = *h.Tries
		}
	}
	if tries != 2 {
		t.Errorf("%d tries on record of %+v", tries, b.first().Hazards)
	}
	for _, task := range []string{"wash", "unblock"} {
		again["task"] = task
		b.call("POST", "/api/machines/"+id+"/runs", again, 409, &p)
		if p.Code != "head_blocked" || p.Finding == nil {
			t.Errorf("%s: %+v", task, p)
		}
	}
	b.call("POST", "/api/machines/"+id+"/sign-offs",
		fields{"id": newID(), "part": "group-1", "name": "A. Tester", "note": "exhaust valve cleaned"}, 201, nil)
	if hazards := b.first().Hazards; len(hazards) != 0 {
		t.Errorf("signed off, and still %+v", hazards)
	}
	again["task"] = "wash"
	b.call("POST", "/api/machines/"+id+"/runs", again, 201, nil)
}

// A handle that is locked in, or of which nothing is said, comes out cold, and one try stays on the
// group until it is out; only one that is said to be out is left out of it.
func TestHandleLockedInComesOutCold(t *testing.T) {
	for name, c := range map[string]struct {
		said   fields
		second string
		tries  int
	}{
		"not said":  {fields{}, "off", 1},
		"locked in": {fields{"locked_in": true}, "off", 1},
		"out":       {fields{"locked_in": false}, "listen", 0},
	} {
		t.Run(name, func(t *testing.T) {
			b := newBench(t)
			id := b.add(home())
			c.said["id"], c.said["device"], c.said["parts"], c.said["task"] = newID(), "phone", []string{"group-1"}, "unblock"
			var freed Run
			b.call("POST", "/api/machines/"+id+"/runs", c.said, 201, &freed)
			l := &live{bench: b, id: freed.Id, Run: freed}
			l.press("done")
			if l.Step.Id != c.second {
				t.Fatalf("after ready comes %s", l.Step.Id)
			}
			l.press("stop")
			var tries int
			for _, h := range b.first().Hazards {
				if h.Chemical == "pressure" {
					tries = *h.Tries
				}
			}
			if tries != c.tries {
				t.Errorf("%d tries on record after a stop, want %d", tries, c.tries)
			}
		})
	}
}

// A clock that is set back, by two minutes or by an hour, in whatever step a run is and
// while it runs, neither loses a press nor hides what is inside nor opens what has ended:
// time stands still until it goes on from there. The runs go through every kind of step.
func TestClockSetBackDuringRuns(t *testing.T) {
	runs := map[string]func(*bench) *live{
		"wash":    func(b *bench) *live { return b.start(b.add(home())) },
		"descale": func(b *bench) *live { return b.descale(b.addSteel(), nil) },
		"own program": func(b *bench) *live {
			id := b.addSteel()
			b.knows(id, "own_descale", "yes")
			return b.descale(id, fields{"program": "own_program"})
		},
	}
	for _, back := range []time.Duration{2 * time.Minute, time.Hour} {
		kinds := sync.Map{}
		t.Run(back.String(), func(t *testing.T) {
			for name, begin := range runs {
				t.Run(name, func(t *testing.T) {
					t.Parallel()
					b := newBench(t)
					leadSetBack(t, begin(b), back, &kinds)
				})
			}
		})
		for _, kind := range []StepKind{"act", "pulses", "push", "soak", "wait", "look", "choose", "measure"} {
			if _, met := kinds.Load(kind); !met {
				t.Errorf("%v: no run came through a step of the kind %s", back, kind)
			}
		}
	}
}

// leadSetBack leads a run to its end, the clock set back once in each segment of each step.
func leadSetBack(t *testing.T, l *live, back time.Duration, kinds *sync.Map) {
	seen := map[string]bool{}
	for range 900 {
		if l.Outcome != nil {
			break
		}
		before := l.Run
		kinds.Store(before.Step.Kind, true)
		if at := before.Step.Id + string(before.Segment.Kind); !seen[at] {
			seen[at] = true
			l.now = l.now.Add(-back)
			l.wait(0)
			if l.Outcome != nil || l.Step.Id != before.Step.Id || l.Segment.Index != before.Segment.Index ||
				l.Inside.Any != before.Inside.Any {
				t.Fatalf("set back at %s: at %s, inside %v", at, l.Step.Id, l.Inside)
			}
		}
		l.goOn() // a press counts, although the clock shows an earlier hour
	}
	if l.Outcome == nil || *l.Outcome != "done" || len(l.first().Hazards) > 0 {
		t.Fatalf("never ended: at %s, where %v may be pressed", l.Step.Id, l.Allowed)
	}
	l.now = l.now.Add(-back)
	l.wait(0)
	if l.Outcome == nil {
		t.Error("an ended run opened again")
	}
}

// A database that somebody holds for ten seconds refuses a press with "busy", and says
// that nothing was changed; the same press again is taken, once.
func TestPressWhileTheDatabaseIsHeld(t *testing.T) {
	t.Parallel()
	b := newBench(t)
	l := b.start(b.add(home()))
	other, err := sql.Open("sqlite3", b.file)
	if err != nil {
		t.Fatal(err)
	}
	defer other.Close()
	conn, err := other.Conn(context.Background())
	if err != nil {
		t.Fatal(err)
	}
	defer conn.Close()
	if _, err := conn.ExecContext(context.Background(), "BEGIN IMMEDIATE"); err != nil {
		t.Fatal(err)
	}
	press := fields{"id": newID(), "device": "phone", "step": l.Step.Id, "segment": l.Segment.Index, "kind": "done",
		"at": b.now}
	path := "/api/runs/" + l.id + "/presses"
	for range 2 { // the application waits five seconds each time
		var p Problem
		b.call("POST", path, press, 503, &p)
		if p.Code != "busy" || !strings.Contains(*p.Detail, "Nothing was changed") {
			t.Errorf("%+v", p)
		}
	}
	if _, err := conn.ExecContext(context.Background(), "ROLLBACK"); err != nil {
		t.Fatal(err)
	}
	was := l.Step.Id
	var after Run
	b.call("POST", path, press, 200, &after)
	if after.Step.Id == was {
		t.Fatalf("the press that was sent again did not count: still at %s", was)
	}
	at := after.Step.Id
	b.call("POST", path, press, 200, &after)
	if after.Step.Id != at {
		t.Errorf("it counted twice: at %s", after.Step.Id)
	}
}

// Whatever state a run is in, somebody can end it by name; what it put in stays on
// record, and a second time changes nothing.
func TestRunIsEndedByName(t *testing.T) {
	b := newBench(t)
	id := b.addSteel()
	l := b.descale(id, nil)
	l.goOnTo("acid in", func() bool { return l.Inside.Any })
	b.call("POST", "/api/runs/"+l.id+"/void", fields{"name": "  ", "why": "lost"}, 422, nil)
	b.call("POST", "/api/runs/"+l.id+"/void", fields{"name": "A. Tester", "why": " "}, 422, nil)
	b.call("POST", "/api/runs/"+newID()+"/void", fields{"name": "A. Tester", "why": "lost"}, 404, nil)
	for range 2 {
		b.call("POST", "/api/runs/"+l.id+"/void", fields{"name": "A. Tester", "why": "the tablet drowned"}, 200, &l.Run)
		if *l.Outcome != "stopped_unsafe" || l.Note == nil || !strings.Contains(*l.Note, "A. Tester") {
			t.Errorf("ended %v, note %v", *l.Outcome, l.Note)
		}
	}
	m := b.first()
	if m.OpenRun != nil || len(m.Hazards) != 1 || m.Hazards[0].Part != machine.Brew(1) {
		t.Errorf("after it: run %+v, hazards %+v", m.OpenRun, m.Hazards)
	}
	if next := b.descale(id, nil); next.Task != "acid_rinse" {
		t.Errorf("then it leads %s", next.Task)
	}
}

// A run whose plan cannot be read any more takes nothing else down: the bench says so, the
// other machine works on, and the run is ended by name with what is inside kept.
func TestUnreadableRunHasAWayOut(t *testing.T) {
	b := newBench(t)
	id, other := b.addSteel(), b.add(home())
	l := b.descale(id, nil)
	l.goOnTo("acid in", func() bool { return l.Inside.Any })
	raw, err := sql.Open("sqlite3", b.file)
	if err != nil {
		t.Fatal(err)
	}
	defer raw.Close()
	if _, err := raw.Exec("UPDATE runs SET plan = '{\"version\":4,\"activities\":7}' WHERE id = ?", l.id); err != nil {
		t.Fatal(err)
	}
	b.reopen() // a plan that was read is remembered
	var bench Bench
	b.call("GET", "/api/bench", nil, 200, &bench)
	var found bool
	for _, m := range bench.Machines {
		found = found || m.Id == id && m.OpenRun != nil && m.OpenRun.Unreadable != nil && *m.OpenRun.Unreadable
	}
	if !found || len(bench.Machines) != 2 {
		t.Fatalf("the bench: %+v", bench.Machines)
	}
	var p Problem
	b.call("GET", "/api/runs/"+l.id, nil, 409, &p)
	if p.Code != "run_unreadable" {
		t.Errorf("%+v", p)
	}
	b.start(other)
	b.call("POST", "/api/runs/"+l.id+"/void", fields{"name": "A. Tester", "why": "it cannot be read"}, 200, &l.Run)
	if *l.Outcome != "stopped_unsafe" {
		t.Errorf("ended %s", *l.Outcome)
	}
	if next := b.descale(id, nil); next.Task != "acid_rinse" {
		t.Errorf("then it leads %s", next.Task)
	}
}

// An id belongs to one request: a run is not begun under the id of a record, and the record
// stands. Presses are numbered in their run: one that has the id of another run's ends like any
// other.
func TestIDsOfDifferentThingsNeverCollide(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	shared := newID()
	b.call("POST", "/api/machines/"+id+"/care",
		fields{"id": shared, "task": "wash", "part": "group-1", "at": b.now}, 201, nil)
	var p Problem
	b.call("POST", "/api/machines/"+id+"/runs",
		fields{"id": shared, "device": "d", "parts": []string{"group-1"}}, 409, &p)
	if p.Code != "id_in_use" || *p.Field != "id" {
		t.Errorf("a run under the id of a record: %+v", p)
	}
	l := b.start(id)
	press := newID()
	l.press("done", "id", press)
	l.goOnTo("the end", func() bool { return l.Outcome != nil })
	if *l.Outcome != "done" {
		t.Errorf("ended %s", *l.Outcome)
	}
	other := b.start(id)
	was := other.Step.Id
	other.press("done", "id", press)
	if other.Step.Id == was {
		t.Error("a press was taken for another run's")
	}
	var log Log
	b.call("GET", "/api/log?machine_id="+id, nil, 200, &log)
	if len(log.Entries) != 3 {
		t.Errorf("%d entries", len(log.Entries))
	}
}

// The log books what was weighed out, not what was planned.
func TestLogBooksWhatWasMixed(t *testing.T) {
	b := newBench(t)
	id := b.addSteel()
	l := b.descale(id, nil)
	planned := l.Descale.Measure.Value
	l.goOnTo("the mix", func() bool { return l.Step.Mix != nil })
	l.press("done", "mixed", 7.5)
	l.goOnTo("the end", func() bool { return l.Outcome != nil })
	var log Log
	b.call("GET", "/api/log?machine_id="+id, nil, 200, &log)
	if e := log.Entries[0]; e.Title != "Descale" || e.Note == nil || !strings.Contains(*e.Note, "7.5 g") ||
		planned < 10 {
		t.Errorf("%v g planned, 7.5 mixed, booked %+v", planned, deref(e.Note))
	}
}

// A plan that the time acid may stand does not allow shows no dose: only why, and what else.
func TestNoDoseWhereNothingIsLed(t *testing.T) {
	b := newBench(t)
	id := b.add(with("layout", "single_boiler")) // its material not said: taken as aluminium
	var d MachineDescale
	b.call("GET", "/api/machines/"+id+"/descale", nil, 200, &d)
	if d.Refused == nil || d.Card != nil || d.Plan != nil || len(d.Refused.Because) == 0 || len(d.Refused.Next) == 0 {
		t.Errorf("refused %+v, card %+v", d.Refused, d.Card)
	}
}
