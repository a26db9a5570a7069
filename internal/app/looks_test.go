package app

import (
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/circuit"
	"freshanvil/core/inspect"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/run"
	"freshanvil/core/task"
	"freshanvil/core/units"
	"freshanvil/internal/store"
)

// lead leads a task to its end as a person would, with another answer than the usual where one is given.
func (b *bench) lead(id string, of task.ID, entitled string, answers map[inspect.Sight]inspect.Verdict,
	parts ...machine.Part) store.Run {
	b.t.Helper()
	start := Begun{ID: newID(), MachineID: id, Device: "test", Speed: 1, Task: of, Parts: parts, Entitled: entitled}
	b.must(b.StartRun(ctx, start))
	r, err := b.Run(ctx, start.ID)
	b.must(err)
	return b.goOn(r, answers)
}

// goOn presses what a person would until a run has ended.
func (b *bench) goOn(r store.Run, answers map[inspect.Sight]inspect.Verdict) store.Run {
	b.t.Helper()
	var err error
	for n := 0; r.Ended == nil; n++ {
		s := r.At(b.clock)
		if n > 400 {
			b.t.Fatalf("it does not end, at %s", s.Step.ID)
		}
		p := run.Press{ID: newID(), Device: "test", Step: s.Step.ID, Segment: s.Segment.Index, Kind: run.Done}
		switch body := s.Step.Body.(type) {
		case job.Choose:
			p.Kind, p.Answer = run.Heard, body.Ways[0].Answer
			if v, other := answers[body.Sight]; other {
				p.Answer = job.Answer(v)
			}
		case job.Wait:
			if s.Segment.Kind == run.Open {
				p.Kind = run.Begin
			}
		case job.Pulses:
			if s.Segment.Kind == run.Open {
				p.Kind = run.Begin
				break
			}
			b.clock = s.Schedule[len(s.Schedule)-1].End
			continue
		case job.Look:
			p.Kind, p.First = run.Graded, backflush.ColourPale
			if body.At == job.RinseCup {
				p.Kind = run.Reading
				p.Cup = &backflush.Cup{Colour: backflush.ColourClear, Foam: backflush.FoamNone, Grains: backflush.GrainsNone}
			}
		case job.Soak:
			b.clock = b.clock.Add(body.For)
			if r, err = b.Run(ctx, r.ID); err != nil || r.At(b.clock).Step.ID != s.Step.ID {
				b.must(err)
				continue
			}
		}
		b.clock = b.clock.Add(30 * time.Second)
		p.At = b.clock
		r, err = b.Press(ctx, r.ID, p)
		b.must(err)
	}
	return r
}

func (b *bench) due(id string, of task.ID, part machine.Part) care.Due {
	b.t.Helper()
	m := b.machine(id)
	h, err := b.History(ctx, m, b.clock)
	b.must(err)
	for _, d := range care.AllDue(m.Answers, h, b.clock, m.Zone) {
		if d.Task == of && d.Part == part {
			return d
		}
	}
	b.t.Fatalf("no %s", of)
	return care.Due{}
}

// A screen that is led off and back is on record, with what was seen; a seal found brittle pulls its change
// forward to now, and its change, led, ends that.
func TestABrittleSealPullsItsChangeForward(t *testing.T) {
	b := newBench(t)
	id, g := b.add(4, 10), machine.Group(1)
	b.clock = b.clock.AddDate(0, 0, 40)
	was := b.due(id, task.Seal, g)
	r := b.lead(id, task.Screen, "", map[inspect.Sight]inspect.Verdict{inspect.Seal: inspect.Brittle}, g)
	if r.Ended.Outcome != run.Finished || len(r.Ended.Lines) == 0 {
		t.Fatalf("ended %s", r.Ended.Outcome)
	}
	log, err := b.Log(ctx, id, false, 1)
	b.must(err)
	if len(log) != 1 || !strings.Contains(log[0].Record.Note, "seal: hard or cracked") {
		t.Errorf("in the log: %+v", log)
	}
	if d := b.due(id, task.Screen, g); d.Begun || d.State != care.Later || d.Last.IsZero() {
		t.Errorf("the screen: %s, last %s", d.State, d.Last)
	}
	is := b.due(id, task.Seal, g)
	if was.Pulled || !is.Pulled || !is.Now(b.clock) || !strings.Contains(is.Because[0].Text, "Hard or cracked") {
		t.Errorf("was %v, is %v: %q", was.Pulled, is.Pulled, is.Because[0].Text)
	}
	looks, err := b.RunLooks(ctx, r.ID)
	b.must(err)
	if len(looks) != 3 {
		t.Errorf("kept %d looks", len(looks))
	}
	fits, err := b.Fits(ctx, b.machine(id), b.clock)
	b.must(err)
	if len(fits) != 1 || fits[0].What != "a group seal" {
		t.Errorf("to fit: %+v", fits)
	}
	b.checkKept(id)
	b.clock = b.clock.Add(24 * time.Hour)
	b.lead(id, task.Seal, "", nil, g)
	if d := b.due(id, task.Seal, g); d.Pulled || d.State != care.Later || d.Begun {
		t.Errorf("after a new seal: %+v", d.State)
	}
	if fits, _ = b.Fits(ctx, b.machine(id), b.clock); len(fits) != 0 {
		t.Errorf("still to fit: %+v", fits)
	}
}

// A crusted gauze pulls the descale forward and moves the share of the scale that stays; a clean one that is
// looked at soon after a descale teaches nothing.
func TestTheGauzeMovesTheShare(t *testing.T) {
	b := newBench(t)
	id := b.add(8, 18)
	b.done(id, task.Descale, machine.Part{}, b.clock.Add(-time.Hour))
	b.clock = b.clock.AddDate(0, 0, 2)
	b.lead(id, task.LookForScale, "", nil, machine.Part{})
	if list, err := b.Shares(ctx, id); err != nil || len(list) != 0 {
		t.Errorf("a clean gauze two days after a descale taught %+v, %v", list, err)
	}
	b.clock = b.clock.AddDate(0, 0, 12)
	b.lead(id, task.LookForScale, "", map[inspect.Sight]inspect.Verdict{inspect.Gauze: inspect.Crusted}, machine.Part{})
	list, err := b.Shares(ctx, id)
	if err != nil || len(list) != 1 || list[0].Share != 1.25 {
		t.Errorf("a crusted gauze taught %+v, %v", list, err)
	}
	if d := b.due(id, task.Descale, machine.Part{}); !d.Pulled || !d.Now(b.clock) {
		t.Errorf("the descale: %s, %q", d.State, d.Because[0].Text)
	}
	b.checkKept(id)
}

// A soak takes its detergent from the tub; a run that is stopped before the bath is mixed does not.
func TestASoakTakesFromTheTub(t *testing.T) {
	b := newBench(t)
	id := b.add(4, 10)
	entries := func() (dosed int) {
		log, err := b.Log(ctx, id, true, 50)
		b.must(err)
		for _, e := range log {
			if e.Task == task.Soak && e.Record.Dose != nil {
				dosed++
			}
		}
		return dosed
	}
	start := Begun{ID: newID(), MachineID: id, Device: "test", Speed: 1, Task: task.Soak, Parts: []machine.Part{{}}}
	b.must(b.StartRun(ctx, start))
	r, err := b.Run(ctx, start.ID)
	b.must(err)
	stop := run.Press{ID: newID(), Device: "test", Step: r.At(b.clock).Step.ID, Kind: run.Stop, At: b.clock}
	_, err = b.Press(ctx, r.ID, stop)
	b.must(err)
	if n := entries(); n != 0 {
		t.Errorf("nothing mixed, and %d doses from the tub", n)
	}
	b.lead(id, task.Soak, "", nil, machine.Part{})
	if n := entries(); n != 1 {
		t.Errorf("%d doses from the tub", n)
	}
}

// What is not anybody's is led only for who records by name to be entitled; the name stays in the log. The
// papers of a service and of the law are put on record with date, number and by whom.
func TestWhoMay(t *testing.T) {
	b := newBench(t)
	id := newID()
	n := NewMachine{ID: id, Name: "Corner shop", Zone: "Europe/Lisbon", IsNew: &b.clock}
	n.Answers, n.Hardness = home(190, 7)
	n.Answers.Layout = machine.HXCafe
	b.must(b.CreateMachine(ctx, n))
	start := Begun{ID: newID(), MachineID: id, Device: "test", Speed: 1, Task: task.Jet,
		Parts: []machine.Part{machine.Group(1)}}
	err := b.StartRun(ctx, start)
	var no *reason.Refusal
	if !errors.As(err, &no) || no.Code != job.NotEntitled || no.Field != "entitled" {
		t.Fatalf("led for nobody: %v", err)
	}
	b.lead(id, task.Jet, "M. Lima", nil, machine.Group(1))
	log, err := b.Log(ctx, id, false, 10)
	b.must(err)
	if len(log) != 1 || log[0].Record.By != "M. Lima" || log[0].Task != task.Jet {
		t.Errorf("in the log: %+v", log)
	}
	dated := b.clock.AddDate(0, 0, -3)
	paper := Care{ID: newID(), MachineID: id, Task: task.Inspection, Parts: []machine.Part{{}}, At: dated,
		By: "Harbour office", Paper: Paper{Number: " B 4-117 ", Dated: &dated}}
	b.must(b.RecordCare(ctx, paper))
	log, err = b.Log(ctx, id, false, 10)
	b.must(err)
	i := slices.IndexFunc(log, func(e store.Entry) bool { return e.Task == task.Inspection })
	if i < 0 || log[i].Record.Paper != "B 4-117" || !log[i].Record.Papered.Equal(dated) ||
		log[i].Record.By != "Harbour office" {
		t.Errorf("the paper: %+v", log)
	}
	ahead := b.clock.AddDate(0, 1, 0)
	paper.ID, paper.Paper.Dated = newID(), &ahead
	var bad *units.OutOfRange
	if err := b.RecordCare(ctx, paper); !errors.As(err, &bad) || bad.Field != "paper.dated" {
		t.Errorf("a paper of tomorrow: %v", err)
	}
}

// The close of a night is ticked with who and when; the nights before are seen. People are a list of names.
func TestTheCloseOfANight(t *testing.T) {
	b := newBench(t)
	id := b.add(4, 10)
	for range 5 {
		b.log(id, "double", b.clock)
		b.clock = b.clock.AddDate(0, 0, 1)
	}
	b.must(b.AddPerson(ctx, store.Person{ID: newID(), Name: "Ines Prata"}))
	people, err := b.People(ctx)
	b.must(err)
	if len(people) != 1 || people[0].Initials != "IP" {
		t.Fatalf("%+v", people)
	}
	b.must(b.RecordSmall(ctx, newID(), id, []task.ID{task.Wand, task.Brush}, b.clock, " IP "))
	c, err := b.Closing(ctx, b.machine(id), b.clock)
	b.must(err)
	ticked := 0
	for i, j := range c.Jobs {
		if j.Done.IsZero() {
			continue
		}
		ticked++
		if j.By != "IP" || !j.Done.Equal(b.clock) || i < len(c.Jobs)-2 {
			t.Errorf("job %d: %+v", i, j)
		}
	}
	if ticked != 2 || len(c.Nights) != 14 || c.Nights[0].State != care.OpenNight {
		t.Errorf("%d ticked, last night %+v", ticked, c.Nights[0])
	}
	b.must(b.ForgetPerson(ctx, people[0].ID))
	if people, err = b.People(ctx); err != nil || len(people) != 0 {
		t.Errorf("%+v, %v", people, err)
	}
	var bad *units.OutOfRange
	if err := b.AddPerson(ctx, store.Person{ID: newID(), Name: "   "}); !errors.As(err, &bad) || bad.Field != "name" {
		t.Errorf("nobody: %v", err)
	}
}

// A look without a run is kept and taken back; what it is not of is refused.
func TestALookIsTakenBack(t *testing.T) {
	b := newBench(t)
	id, g := b.add(4, 10), machine.Group(1)
	seen := Seen{ID: newID(), MachineID: id, Found: inspect.Found{Sight: inspect.Seal, Part: g, Verdict: inspect.Chipped,
		At: b.clock}}
	b.must(b.RecordLook(ctx, seen))
	b.must(b.RecordLook(ctx, seen)) // a repeat is the same request
	if !b.due(id, task.Seal, g).Pulled {
		t.Error("a chipped seal asks for nothing")
	}
	b.must(b.TakeLookBack(ctx, id, seen.ID))
	if b.due(id, task.Seal, g).Pulled {
		t.Error("taken back, it still asks")
	}
	b.must(b.TakeLookBack(ctx, id, seen.ID))
	var none *Missing
	if err := b.TakeLookBack(ctx, id, newID()); !errors.As(err, &none) || none.Field != "look_id" {
		t.Errorf("one that never was: %v", err)
	}
	seen.ID, seen.Part = newID(), machine.Group(2)
	var bad *units.OutOfRange
	if err := b.RecordLook(ctx, seen); !errors.As(err, &bad) || bad.Field != "part" {
		t.Errorf("of a group it has not: %v", err)
	}
}

// A technician's own way: a trade machine is descaled for who records by name to be entitled, where the
// model of it clears the plan, and ends with the looks at pressure; for nobody else, and not where it does not
// fit into the time that acid may stand.
func TestATechniciansOwnWay(t *testing.T) {
	b := newBench(t)
	add := func(set map[string]string) string {
		n := NewMachine{ID: newID(), Name: "Corner shop", Zone: "Europe/Lisbon", IsNew: &b.clock}
		n.Answers, n.Hardness = home(60, 14)
		n.Answers.Layout, n.Answers.Overrides = machine.MultiCafe, set
		b.must(b.CreateMachine(ctx, n))
		return n.ID
	}
	small := add(map[string]string{"groups": "1", "steam_l": "4", "drain": "screws", "jug_l": "10",
		"brew_heater": "can_be_off", "steam_heater": "held_off", "brew_material": "stainless", "steam_material": "stainless"})
	large := add(map[string]string{"drain": "screws", "brew_heater": "can_be_off", "steam_heater": "held_off",
		"brew_material": "stainless", "steam_material": "stainless"})
	start := func(id, by string) (job.Plan, error) {
		run := Begun{ID: newID(), MachineID: id, Device: "test", Speed: 1, Task: task.Descale, Entitled: by,
			Parts: []machine.Part{{}}, Descale: Asked{Product: "citric"}}
		if err := b.StartRun(ctx, run); err != nil {
			return job.Plan{}, err
		}
		r, err := b.Run(ctx, run.ID)
		return r.Plan, err
	}
	var no *reason.Refusal
	if _, err := start(small, ""); !errors.As(err, &no) || no.Code != circuit.NotByTheKeeper {
		t.Errorf("for nobody by name: %v", err)
	}
	if _, err := start(large, "M. Lima"); !errors.As(err, &no) || no.Code == circuit.NotByTheKeeper {
		t.Errorf("beyond what the model clears: %v", err)
	}
	p, err := start(small, "M. Lima")
	b.must(err)
	if p.Leads().By != "M. Lima" {
		t.Errorf("by %q", p.Leads().By)
	}
	var said strings.Builder
	for _, s := range p.Steps() {
		said.WriteString(strings.ToLower(s.Title + " " + strings.Join(s.Do, " ") + "\n"))
	}
	for _, want := range []string{"hose", "bucket", "vacuum", "relief", "ten minutes", "ten seconds"} {
		if !strings.Contains(said.String(), want) {
			t.Errorf("no step says %q", want)
		}
	}
}
