package run

import (
	"fmt"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

var (
	start = time.Date(2026, 3, 10, 7, 0, 0, 0, time.UTC)
	clean = backflush.Cup{Colour: backflush.ColourClear, Foam: backflush.FoamNone, Grains: backflush.GrainsFew}
	foamy = backflush.Cup{Colour: backflush.ColourPale, Foam: backflush.FoamSome, Grains: backflush.GrainsNone}
)

func plan(t testing.TB, l machine.Layout, dirty bool) job.Plan {
	t.Helper()
	return planBy(t, l, backflush.HalfTeaspoon, dirty)
}

func planBy(t testing.TB, l machine.Layout, id backflush.MethodID, dirty bool) job.Plan {
	t.Helper()
	a := machine.Answers{
		Layout:    l,
		Valve:     machine.Yes,
		Drinks:    4,
		Hardness:  units.UnknownHardness(),
		Treatment: machine.Untreated,
		Overrides: map[string]string{"own_program": "yes"},
	}
	p, err := job.Wash(a, id, backflush.UsualPowder, job.Target{Group: 1, Dirty: dirty})
	if err != nil {
		t.Fatal(err)
	}
	return p
}

// sees says whether a step asks how that looks.
func sees(s State, at job.Sight) bool {
	look, ok := job.BodyOf[job.Look](s.Step)
	return ok && look.At == at
}

// pulsesOf is how many pulses a step has.
func pulsesOf(s State) int {
	set, _ := job.BodyOf[job.Pulses](s.Step)
	return set.Count
}

// hand plays a run like a person: it looks at the state and presses.
type hand struct {
	t       testing.TB
	plan    job.Plan
	speed   int
	now     time.Time
	presses []Press
}

func newHand(t testing.TB, p job.Plan) *hand { return &hand{t: t, plan: p, speed: 1, now: start} }

func (h *hand) state() State               { return Fold(h.plan, start, h.speed, h.presses, h.now) }
func (h *hand) wait(d time.Duration) *hand { h.now = h.now.Add(d); return h }
func (h *hand) add(p Press)                { h.presses = append(h.presses, p) }
func (h *hand) press(k PressKind) State    { return h.with(Press{Kind: k}) }
func (h *hand) read(c backflush.Cup) State { return h.with(Press{Kind: Reading, Cup: &c}) }
func (h *hand) with(p Press) State {
	s := h.state()
	p.ID, p.Device, p.Step, p.Segment, p.At = fmt.Sprint(len(h.presses)), "phone", s.Step.ID, s.Segment.Index, h.now
	h.add(p)
	return h.state()
}

// to presses on until the named step is the present one.
func (h *hand) to(step string) *hand {
	h.t.Helper()
	for range 60 {
		s := h.state()
		switch {
		case s.Step.ID == step:
			return h
		case s.Outcome != "":
			h.t.Fatalf("the run ended before %s", step)
		case s.Step.Kind() == job.ActKind:
			h.press(Done)
		case sees(s, job.RinseCup):
			h.read(clean)
		case s.Step.Kind() == job.ChooseKind:
			ways, _ := job.BodyOf[job.Choose](s.Step)
			h.with(Press{Kind: Heard, Answer: ways.Ways[0].Answer})
		case sees(s, job.FirstWater):
			h.with(Press{Kind: Graded, First: backflush.ColourPale})
		case s.Segment.Kind == Open || s.Segment.Kind == Held:
			h.press(Begin)
		default:
			h.wait(time.Second)
		}
	}
	for h.state().Step.ID != step {
		h.wait(time.Second)
		if h.now.Sub(start) > time.Hour {
			h.t.Fatalf("never came to %s", step)
		}
		h.to(step)
	}
	return h
}

func TestWholeWash(t *testing.T) {
	h := newHand(t, plan(t, machine.DualHome, false))
	h.to("dose")
	if s := h.state(); s.Detergent.In {
		t.Error("detergent is in before the dose")
	}
	if s := h.press(Done); !s.Detergent.In || s.Step.ID != "detergent" {
		t.Errorf("after the dose: %+v at %s", s.Detergent, s.Step.ID)
	}
	h.press(Begin)
	h.wait(3 * time.Second)
	if s := h.state(); s.Segment.Kind != On || s.Segment.Pulse != 1 || s.Segment.End.Sub(h.now) != 7*time.Second {
		t.Errorf("3 s in: %+v, want ON with 7 s left", s.Segment)
	}
	h.wait(9 * time.Second)
	if s := h.state(); s.Segment.Kind != Off || s.Segment.End.Sub(h.now) != 3*time.Second || len(s.Schedule) != 9 {
		t.Errorf("12 s in: %+v and %d to come, want OFF with 3 s left", s.Segment, len(s.Schedule))
	}
	h.wait(63 * time.Second)
	if s := h.state(); s.Step.ID != "first" || s.Soapy != 5 {
		t.Errorf("75 s in: %s after %d pulses, want the first discharge after five", s.Step.ID, s.Soapy)
	}
	h.to("cup")
	if s := h.state(); s.Detergent.Rinsed != 5 || !s.Detergent.In {
		t.Errorf("before the look: %+v", s.Detergent)
	}
	if s := h.read(clean); s.Step.ID != "basket" || !s.Detergent.In {
		t.Errorf("a clear cup leads to %s; detergent in: %v, want it in until the flush", s.Step.ID, s.Detergent.In)
	}
	if s := h.press(Done); s.Detergent.In || s.Step.ID != "outside" {
		t.Errorf("after the flush: %+v", s.Detergent)
	}
	h.to("discard")
	if s := h.press(Done); s.Outcome != Finished || s.EndedAt != h.now || len(s.Allowed) != 0 {
		t.Errorf("ended as %q", s.Outcome)
	}
	// by hand: 13 pulses of 40 mL, two flushes and the first shot of 50 mL
	if s := h.state(); s.Used.Volume(40) != 670 {
		t.Errorf("used %v mL, want 670", s.Used)
	}
}

func TestUnclearCupAddsPairsThenAsksToStop(t *testing.T) {
	h := newHand(t, plan(t, machine.DualHome, false)).to("cup")
	for pair := 1; pair <= backflush.MostPairs; pair++ {
		if s := h.read(foamy); s.Step.ID != fmt.Sprintf("more-%d", pair) || pulsesOf(s) != 2 ||
			s.Finding == nil {
			t.Fatalf("unclear: at %s, finding %+v", s.Step.ID, s.Finding)
		}
		h.press(Begin)
		h.wait(30 * time.Second)
	}
	s := h.read(foamy)
	if s.Finding == nil || s.Finding.Verdict != reason.Stop ||
		!reflect.DeepEqual(s.Allowed, []PressKind{Again, Stop, RinseNow, Away}) {
		t.Fatalf("three pairs on: %+v, allowed %v", s.Finding, s.Allowed)
	}
	if s := h.read(clean); s.Step.ID != "cup-4" || len(s.Cups) != 4 {
		t.Errorf("a reading was taken without two more pulses: at %s", s.Step.ID)
	}
	if s := h.press(Again); s.Step.ID != "more-4" {
		t.Errorf("again leads to %s", s.Step.ID)
	}
	// three stay three: after two more that are not clear there is no again
	dirty := newHand(t, h.plan)
	dirty.presses, dirty.now = slices.Clone(h.presses), h.now
	dirty.press(Begin)
	dirty.wait(30 * time.Second)
	if s := dirty.read(foamy); s.Finding == nil || s.Finding.Verdict != reason.Stop ||
		slices.Contains(s.Allowed, Again) || dirty.press(Again).Step.ID != s.Step.ID {
		t.Errorf("four pairs on: %+v, allowed %v", s.Finding, s.Allowed)
	}
	h.press(Begin)
	h.wait(30 * time.Second)
	if s := h.read(clean); s.Step.ID != "basket" || s.Detergent.Rinsed != 13 {
		t.Errorf("clear at last: at %s after %d", s.Step.ID, s.Detergent.Rinsed)
	}
}

func TestHoldAndNoPressureVoidThePulse(t *testing.T) {
	h := newHand(t, plan(t, machine.DualHome, false)).to("detergent")
	h.press(Begin)
	h.wait(17 * time.Second) // two seconds into the second ON
	if s := h.press(Hold); s.Segment.Kind != Held || s.Soapy != 1 || s.Segment.Pulse != 2 {
		t.Fatalf("held: %+v after %d pulses", s.Segment, s.Soapy)
	}
	h.wait(time.Hour)
	if s := h.state(); s.Segment.Kind != Held || s.Soapy != 1 {
		t.Fatal("a hold runs on by itself")
	}
	held := h.presses[len(h.presses)-1]
	if s := h.press(Begin); s.Segment.Kind != On || s.Segment.Pulse != 2 {
		t.Fatalf("after the hold: %+v, want the second pulse again", s.Segment)
	}
	// the same hold from another device, late: it is gone
	held.ID, held.Device, held.At = "late", "tablet", h.now
	h.add(held)
	if s := h.state(); s.Segment.Kind != On {
		t.Fatalf("a hold for a pulse already void stops the next: %+v", s.Segment)
	}
	s := h.wait(11 * time.Second).press(NoPressure)
	if s.Segment.Kind != Held || s.Finding == nil || s.Finding.Verdict != reason.Look {
		t.Fatalf("no pressure: %+v, %+v", s.Segment, s.Finding)
	}
	h.press(Begin)
	if s := h.wait(4 * time.Second).press(NoPressure); s.Finding == nil || s.Finding.Verdict != reason.Stop {
		t.Fatalf("no pressure twice: %+v", s.Finding)
	}
	// then it goes on only with what was found
	if s := h.press(Begin); s.Segment.Kind != Held || slices.Contains(s.Allowed, Begin) {
		t.Fatalf("it pulses again: %+v, %v", s.Segment, s.Allowed)
	}
	if s := h.with(Press{Kind: Mended, Answer: job.NotLocked}); s.Finding == nil || !slices.Contains(s.Allowed, Begin) {
		t.Fatalf("what was found is told, and: %v, %+v", s.Allowed, s.Finding)
	}
	if (Press{Kind: Mended, Answer: job.Flows}).Check() == nil {
		t.Error("anything is a finding")
	}
	// pressed a second too late, it still takes back the pulse it was meant for
	h.press(Begin)
	h.wait(14 * time.Second)
	late := Press{
		ID:      "slow",
		Step:    "detergent",
		Segment: h.state().Segment.Index,
		Kind:    NoPressure,
		At:      h.now.Add(2 * time.Second),
	}
	h.wait(2 * time.Second)
	if s := h.state(); s.Soapy != 2 {
		t.Fatalf("%d pulses before the late press", s.Soapy)
	}
	h.add(late)
	if s := h.state(); s.Soapy != 1 || s.Segment.Kind != Held {
		t.Errorf("late no pressure: %d pulses count, %s", s.Soapy, s.Segment.Kind)
	}
}

func TestStop(t *testing.T) {
	for _, c := range []struct {
		at        string
		nothingIn bool
		want      Outcome
	}{
		{"ready", false, Stopped}, {"brush", false, Stopped}, {"dose", true, Stopped}, {"dose", false, StoppedUnsafe},
		{"detergent", false, StoppedUnsafe}, {"detergent", true, StoppedUnsafe}, {"rinse", false, StoppedUnsafe},
		{"cup", false, StoppedUnsafe}, {"basket", false, StoppedUnsafe}, {"discard", false, ""},
	} {
		h := newHand(t, plan(t, machine.DualHome, false)).to(c.at)
		s := h.with(Press{Kind: Stop, NothingIn: c.nothingIn})
		if s.Outcome != c.want || s.Detergent.In != (c.want == StoppedUnsafe) {
			t.Errorf("stopped at %s: %q, detergent in %v, want %q", c.at, s.Outcome, s.Detergent.In, c.want)
		}
	}
	h := newHand(t, plan(t, machine.SingleBoiler, true))
	if s := h.press(Stop); s.Outcome != StoppedUnsafe {
		t.Errorf("a rinse of a dirty group stopped at once: %q", s.Outcome)
	}
}

// A tray of half a litre does not hold the whole wash: it is emptied before it
// passes 80 %.
func TestTrayIsEmptiedInTime(t *testing.T) {
	h := newHand(t, plan(t, machine.SingleBoiler, false)).to("rinse")
	if s := h.state(); !s.EmptyTray || s.Tray.Volume(40) != 370 {
		t.Fatalf("before the rinse: %v mL in the tray, empty it: %v", s.Tray, s.EmptyTray)
	}
	if s := h.press(Begin); s.EmptyTray || s.Tray != (Water{}) {
		t.Errorf("emptied: %v mL", s.Tray)
	}
	if s := newHand(t, plan(t, machine.HXHome, false)).to("rinse").state(); s.EmptyTray {
		t.Error("a litre tray is emptied at 370 mL")
	}
}

func TestSpeedIsRunSecondsAWallSecond(t *testing.T) {
	h := newHand(t, plan(t, machine.DualHome, false))
	h.speed = 30
	h.to("detergent").press(Begin)
	h.wait(2500 * time.Millisecond)
	if s := h.state(); s.Step.ID != "first" {
		t.Errorf("75 run seconds at speed 30 lead to %s", s.Step.ID)
	}
}

func TestPressRefused(t *testing.T) {
	for _, p := range []Press{{Kind: "dance"}, {Kind: Reading}, {Kind: Reading, Cup: &backflush.Cup{}}} {
		if p.Check() == nil {
			t.Errorf("%+v was accepted", p)
		}
	}
	if err := (Press{Kind: Reading, Cup: &clean}).Check(); err != nil {
		t.Error(err)
	}
}

// anyPlan is a plan for one group to three, of a machine with a small tray and
// tank and a pump that must rest, with or without detergent left in.
func anyPlan(t testing.TB, random *rand.Rand, id backflush.MethodID, dirty bool) job.Plan {
	t.Helper()
	set := map[string]string{
		"own_program":  "yes",
		"groups":       "3",
		"pump":         "vibratory",
		"water":        "tank",
		"tank_l":       "2",
		"tray_l":       "0.5",
		"duty_on_min":  []string{"0.5", "1", "2"}[random.IntN(3)],
		"duty_off_min": "1",
	}
	a := machine.Answers{
		Layout:    machine.HXHome,
		Valve:     machine.Yes,
		Drinks:    4,
		Hardness:  units.UnknownHardness(),
		Treatment: machine.Untreated,
		Overrides: set,
	}
	parts := make([]job.Target, 1+random.IntN(3))
	for i := range parts {
		parts[i] = job.Target{Group: i + 1, Dirty: dirty && random.IntN(2) == 0}
	}
	p, err := job.Wash(a, id, backflush.UsualPowder, parts...)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

// made are the presses of a log that were made by an instant.
func made(list []Press, at time.Time) []Press {
	n := 0
	for n < len(list) && !list[n].At.After(at) {
		n++
	}
	return list[:n]
}

// storm is a log of random presses: mostly sensible, often late, doubled, for
// the wrong step or segment, from two devices.
func storm(random *rand.Rand, p job.Plan, speed int) ([]Press, time.Time) {
	kinds := []PressKind{Done, Begin, Hold, NoPressure, Reading, Graded, Heard, Turn, Again, Stop,
		NothingCame, Opened, RinseNow, Away, Returned}
	var list []Press
	now := start
	for i := range 20 + random.IntN(60) {
		now = now.Add(time.Duration(random.IntN(20000)) * time.Millisecond / time.Duration(speed))
		s := Fold(p, start, speed, list, now)
		press := Press{
			ID:      fmt.Sprint(i),
			Device:  fmt.Sprint(random.IntN(2)),
			Step:    s.Step.ID,
			Segment: s.Segment.Index,
			At:      now,
			Minutes: 5,
		}
		if len(s.Allowed) > 0 && random.IntN(4) > 0 {
			press.Kind = s.Allowed[0]
		} else {
			press.Kind = kinds[random.IntN(len(kinds))]
		}
		if press.Kind == Stop && random.IntN(8) > 0 {
			press.Kind = Done
		}
		switch random.IntN(12) {
		case 0:
			press.Step = p.Order[random.IntN(len(p.Order))]
		case 1:
			press.Segment += random.IntN(7) - 3
		case 2:
			if len(list) > 0 {
				press = list[random.IntN(len(list))]
				press.At = now
			}
		}
		cup := clean
		if random.IntN(3) == 0 {
			cup = foamy
		}
		press.Cup, press.First = &cup, cup.Colour
		press.Own = random.IntN(4) == 0
		press.Answer = []job.Answer{job.Flows, job.Flows, job.NoClick, job.Clicks}[random.IntN(4)]
		press.NothingIn = random.IntN(2) == 0
		list = append(list, press)
	}
	return list, now
}

// No order of presses ends a run with the hazard cleared and the rinse not
// proven; replaying gives the same state; what is seen on the way is what the
// replay gives.
func TestNoOrderOfPressesClearsTheHazardEarly(t *testing.T) {
	random := rand.New(rand.NewPCG(7, 11))
	outcomes := map[Outcome]int{}
	for round := range 480 {
		speed := 1 + random.IntN(40)
		methods := backflush.Methods()
		p := anyPlan(t, random, methods[round%len(methods)].ID, round%5 == 0)
		list, end := storm(random, p, speed)
		s := Fold(p, start, speed, list, end)
		if !reflect.DeepEqual(s, Fold(p, start, speed, append([]Press(nil), list...), end)) {
			t.Fatal("replaying gives another state")
		}
		outcomes[s.Outcome]++

		dosed, cleared := map[machine.Part]time.Time{}, map[machine.Part]time.Time{}
		for _, a := range p.Washes() {
			if a.Wash.Dirty {
				dosed[a.Part] = start
			}
		}
		for _, press := range list {
			justBefore := press.At.Add(-time.Nanosecond)
			before := Fold(p, start, speed, made(list, justBefore), justBefore)
			after := Fold(p, start, speed, made(list, press.At), press.At)
			for i, g := range after.Groups {
				was := before.Groups[i].Detergent.In
				if !was && g.Detergent.In {
					dosed[g.Part] = press.At
				}
				if was && !g.Detergent.In {
					cleared[g.Part] = press.At
				}
			}
			if after.Tray.Volume(p.Setups[0].Vents) > p.Setups[0].Tray {
				t.Fatalf("round %d: %v mL in a tray of %v", round, after.Tray, p.Setups[0].Tray)
			}
			if after.Drawn.Volume(p.Setups[0].Vents) > p.Setups[0].Tank-100 { // a tenth stays, and a pulse that runs
				t.Fatalf("round %d: %v mL drawn from a tank of %v", round, after.Drawn, p.Setups[0].Tank)
			}
			hands := 0
			for _, l := range after.Lines {
				if l.Status == "now" {
					hands++
				}
			}
			for _, soak := range after.Soaks {
				if soak.Step.Lane == job.Hands || soak.Step.ID == after.Step.ID {
					t.Fatalf("round %d: %s takes hands that are at %s", round, soak.Step.ID, after.Step.ID)
				}
			}
			if hands != 1 && after.Outcome != Finished {
				t.Fatalf("round %d: hands at %d steps at once", round, hands)
			}
		}
		for i, g := range s.Groups {
			d := g.Detergent
			proven := d.Rinsed >= d.Least && d.Clear && d.Flushed && len(g.Cups) > 0 && g.Cups[len(g.Cups)-1].Clear()
			if d.Ever && !d.In && !proven {
				t.Fatalf("round %d: group %d cleared without proof: %+v", round, g.Number(), s)
			}
			if s.Outcome == Finished && (d.In || d.Ever && !proven || !g.Ended) {
				t.Fatalf("round %d: finished without proof: %+v", round, g)
			}
			if s.Outcome == Stopped && (d.In || s.Activities[i].Outcome == Stopped && d.Ever && !proven) {
				t.Fatalf("round %d: stopped as safe with detergent used: %+v", round, d)
			}
			// the clock itself: the least pulses cannot be had in less time
			more := p.WashOf(g.Part).More
			least := time.Duration(d.Least) * (more.On + more.Off) / time.Duration(speed)
			if at, done := cleared[g.Part]; done && at.Sub(dosed[g.Part]) < least-time.Millisecond {
				t.Fatalf(
					"round %d: cleared %v after the dose, the rinse alone takes %v",
					round,
					at.Sub(dosed[g.Part]),
					least,
				)
			}
		}
	}
	for _, o := range []Outcome{Finished, Stopped, StoppedUnsafe, ""} {
		if outcomes[o] == 0 {
			t.Errorf("no round ended as %q: the test proves nothing about it", o)
		}
	}
}

// Presses for a state already gone, and repeats, do nothing.
func TestRepeatsDoNothing(t *testing.T) {
	random := rand.New(rand.NewPCG(3, 5))
	for range 200 {
		p := plan(t, machine.DualHome, false)
		h := newHand(t, p).to([]string{"dose", "blind", "cup", "discard"}[random.IntN(4)])
		want := h.state()
		for range 5 {
			again := h.presses[random.IntN(len(h.presses))]
			again.At = h.now
			h.add(again)
		}
		if got := h.state(); !reflect.DeepEqual(got, want) {
			t.Fatalf("repeats changed the state:\n%+v\n%+v", want, got)
		}
	}
}

func FuzzFold(f *testing.F) {
	f.Add(uint64(1), uint64(2), 30)
	f.Fuzz(func(t *testing.T, a, b uint64, speed int) {
		speed = 1 + (speed&0xff)%60
		random := rand.New(rand.NewPCG(a, b))
		methods := backflush.Methods()
		p := anyPlan(t, random, methods[random.IntN(len(methods))].ID, random.IntN(4) == 0)
		list, end := storm(random, p, speed)
		s := Fold(p, start, speed, list, end.Add(time.Hour))
		if s.Outcome == Finished && s.In() {
			t.Fatal("finished with detergent in")
		}
		bears(t, p, speed, list, end.Add(time.Hour))
	})
}

// Every method comes to its end, and detergent counts as out only at the end
// of the rinse; what was seen first is kept.
func TestEveryMethodEnds(t *testing.T) {
	for _, m := range backflush.Methods() {
		h := newHand(t, planBy(t, machine.HXHome, m.ID, false))
		steps := h.plan.Steps()
		h.to(steps[len(steps)-1].ID)
		s := h.press(Done)
		if s.Outcome != Finished || s.Detergent.In || s.Detergent.Ever == m.Wet() ||
			s.Detergent.Rinsed < m.Rinse.Count {
			t.Errorf("%s: %q, %+v", m.ID, s.Outcome, s.Detergent)
		}
		if !m.Wet() && (s.First != backflush.ColourPale || s.Soapy != m.First.Count+m.Detergent.Count) {
			t.Errorf("%s: first %q, %d pulses with detergent", m.ID, s.First, s.Soapy)
		}
	}
}

// The soak begins with the end of the pulse before it, runs by itself, cannot
// be cut short, and does not stop for anybody.
func TestSoakRunsByItself(t *testing.T) {
	h := newHand(t, planBy(t, machine.HXHome, backflush.Soak, false))
	h.to("short").press(Begin)
	h.wait(40 * time.Second) // 4 × 5/5
	s := h.state()
	if s.Step.ID != "soak" || s.Segment.Kind != Soak || s.Segment.End.Sub(h.now) != 3*time.Minute ||
		len(s.Schedule) != 1 ||
		s.Soapy != 4 {
		t.Fatalf("after the short pulses: %s, %+v", s.Step.ID, s.Segment)
	}
	for _, k := range []PressKind{Done, Begin, Hold, NoPressure, Again} {
		if s := h.press(k); s.Step.ID != "soak" || s.Segment.End.Sub(h.now) != 3*time.Minute {
			t.Errorf("%s in the soak: %s, %+v", k, s.Step.ID, s.Segment)
		}
	}
	h.wait(3*time.Minute - time.Second)
	if s := h.state(); s.Step.ID != "soak" {
		t.Errorf("a second before its end: %s", s.Step.ID)
	}
	h.wait(time.Hour)
	if s := h.state(); s.Step.ID != "detergent" || s.Segment.Kind != Open || !s.Detergent.In {
		t.Errorf("an hour later: %s, %s, want the pulses to wait", s.Step.ID, s.Segment.Kind)
	}
	h = newHand(t, planBy(t, machine.HXHome, backflush.Soak, false))
	h.to("soak").wait(time.Minute)
	if s := h.press(Stop); s.Outcome != StoppedUnsafe {
		t.Errorf("stopped in the soak: %q", s.Outcome)
	}
}

// The machine's own program is begun by a press and may be left when it is done.
func TestMachineProgram(t *testing.T) {
	h := newHand(t, planBy(t, machine.HXHome, backflush.MachineProgram, false))
	h.to("program")
	if s := h.state(); s.Segment.Kind != Open || s.Soapy != 0 {
		t.Errorf("before it is started: %+v", s.Segment)
	}
	if s := h.press(Begin); s.Segment.Kind != Soak || s.Segment.End.Sub(h.now) != 390*time.Second {
		t.Errorf("started: %+v", s.Segment)
	}
	h.wait(6 * time.Minute)
	s := h.press(Done)
	if s.Step.ID != "first" || s.Soapy != 5 || s.Tray.Flushed != 50+10*40 || s.Tray.Pulses != 3 {
		t.Errorf("done after six minutes: %s, %d, %v mL", s.Step.ID, s.Soapy, s.Tray.Flushed)
	}
	if s := h.with(Press{Kind: Graded, First: "green"}); s.Step.ID != "first" {
		t.Error("a colour that does not exist was taken")
	}
	if (Press{Kind: Graded, First: "green"}).Check() == nil ||
		(Press{Kind: Graded, First: backflush.Unseen}).Check() != nil {
		t.Error("grades are not checked")
	}
}

// Left in overnight: no click is answered with hot water to the brim, again, and
// with a little powder for its foam; then it is the coil. A click without water
// is the jet. Both are a technician's; only water that comes leads to the rinse.
func TestRecoveryTheNextMorning(t *testing.T) {
	hear := func(h *hand, what job.Answer) State { return h.with(Press{Kind: Heard, Answer: what}) }
	h := newHand(t, plan(t, machine.SingleBoiler, true)).to("listen")
	if s := hear(h, job.Flows); s.Step.ID != "blind" || s.Finding != nil {
		t.Errorf("water comes: %s", s.Step.ID)
	}
	h = newHand(t, plan(t, machine.SingleBoiler, true)).to("listen")
	for try := 1; try <= 3; try++ {
		s := hear(h, job.NoClick)
		if s.Step.ID != fmt.Sprintf("brim-%d", try) || (s.Step.Effect == job.Doses) != (try == 3) {
			t.Fatalf("no click for the %d. time: %s, hazard %q", try, s.Step.ID, s.Step.Effect)
		}
		if s := h.press(Done); s.Segment.Kind != Soak || s.Segment.End.Sub(h.now) != 3*time.Minute {
			t.Errorf("it stands to the brim: %+v", s.Segment)
		}
		h.wait(3 * time.Minute)
		h.press(Done)
	}
	if d := h.state().Detergent; d.Least != 11 { // ten for what was left in
		t.Errorf("with a pinch of powder more: at least %d pulses", d.Least)
	}
	s := hear(h, job.NoClick)
	if s.Finding == nil || s.Finding.Verdict != reason.Stop || !strings.Contains(s.Finding.Title, "coil") ||
		!s.Detergent.In {
		t.Fatalf("still no click: %+v", s.Finding)
	}
	if s := h.press(Stop); s.Outcome != StoppedUnsafe {
		t.Errorf("stopped: %q", s.Outcome)
	}
	h = newHand(t, plan(t, machine.SingleBoiler, true)).to("listen")
	if s := hear(h, job.Clicks); s.Finding == nil || !strings.Contains(s.Finding.Title, "jet") ||
		s.Step.ID != "listen" {
		t.Errorf("a click without water: %+v", s.Finding)
	}
	if s := hear(h, job.Flows); s.Step.ID != "blind" {
		t.Errorf("it came after all: %s", s.Step.ID)
	}
	h = newHand(t, plan(t, machine.SingleBoiler, true)).to("listen")
	hear(h, job.NoClick)
	h.press(Done)
	h.wait(3 * time.Minute)
	h.press(Done)
	hear(h, job.Flows)
	if s := h.to("discard").press(Done); s.Outcome != Finished || s.Detergent.In {
		t.Errorf("freed by hot water: %q, %+v", s.Outcome, s.Detergent)
	}
	if (Press{Kind: Heard, Answer: "hums"}).Check() == nil {
		t.Error("a sound that is none of the three was taken")
	}
}

// The tank is asked to be filled before a set of pulses would draw it down to
// its last quarter litre, or half of a small one; the press that goes on says that it was.
func TestTankIsFilledInTime(t *testing.T) {
	a := machine.Answers{
		Layout:    machine.HXHome,
		Valve:     machine.Yes,
		Drinks:    4,
		Hardness:  units.UnknownHardness(),
		Treatment: machine.Untreated,
		Overrides: map[string]string{"tank_l": "0.5", "tray_l": "0"},
	}
	p, err := job.Wash(a, backflush.HalfTeaspoon, backflush.UsualPowder, job.Target{Group: 1})
	if err != nil {
		t.Fatal(err)
	}
	h := newHand(t, p).to("rinse")
	if s := h.state(); !s.FillTank || s.Drawn.Volume(40) != 200 {
		t.Errorf("200 mL drawn of 500 since it was filled, 200 to come: %v", s.Drawn)
	}
	if s := h.press(Begin); s.FillTank || s.Drawn.Volume(40) != 0 {
		t.Errorf("filled: %v drawn since", s.Drawn)
	}
	h.to("outside")
	if s := h.state(); s.FillTank || s.Drawn.Volume(40) != 250 || s.Used.Volume(40) != 620 {
		t.Errorf("in the end: %v drawn since, %v in all", s.Drawn, s.Used)
	}
}

// At one's own pace each boundary is a press: nothing moves without one, an off
// part that is cut short counts for nothing, and the rinse is as long as ever.
func TestOwnPace(t *testing.T) {
	h := newHand(t, plan(t, machine.DualHome, false)).to("detergent")
	s := h.with(Press{Kind: Begin, Own: true})
	if s.Segment.Kind != On || !s.Segment.End.IsZero() ||
		!reflect.DeepEqual(s.Allowed, []PressKind{Turn, Hold, NoPressure, NothingCame, Stop, RinseNow, Away}) {
		t.Fatalf("begun: %+v, allowed %v", s.Segment, s.Allowed)
	}
	h.wait(time.Minute)
	if s := h.state(); s.Segment.Kind != On || s.Segment.Pulse != 1 {
		t.Errorf("a minute later: %+v", s.Segment)
	}
	h.press(Turn)
	h.wait(2 * time.Second)
	if s := h.press(Turn); s.Segment.Kind != Held || s.Segment.Pulse != 1 || s.Finding == nil || s.Soapy != 0 {
		t.Errorf("two seconds of off: pulse %d, %d counted, %+v", s.Segment.Pulse, s.Soapy, s.Finding)
	}
	h.with(Press{Kind: Begin, Own: true})
	for pulse := 1; pulse <= 5; pulse++ {
		h.wait(11 * time.Second)
		h.press(Turn)
		h.wait(6 * time.Second)
		s = h.press(Turn)
		if s.Soapy != pulse {
			t.Fatalf("pulse %d: %d counted", pulse, s.Soapy)
		}
	}
	if s.Step.ID != "first" {
		t.Errorf("after five pulses: %s", s.Step.ID)
	}
	// the next set goes by the clock again unless it is begun so
	h.to("rinse")
	if s := h.press(Begin); s.Segment.End.IsZero() {
		t.Errorf("by the clock: %+v", s.Segment)
	}
}
