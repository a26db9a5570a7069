package run

import (
	"fmt"
	"maps"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/units"
)

// steel is a machine whose boiler somebody has named: two soaks fit.
var steel = map[string]string{"brew_material": "stainless"}

func descalePlan(t testing.TB, l machine.Layout, set map[string]string, change func(*job.Sitting)) job.Plan {
	t.Helper()
	a := answersOf(l)
	a.Treatment, a.Overrides = machine.InTank, set
	in, err := sittingOf(a, func(in *job.Sitting) { in.Known = true })
	if err != nil {
		t.Fatal(err)
	}
	if change != nil {
		change(&in)
	}
	p, err := job.Descale(a, in)
	if err != nil {
		t.Fatalf("%s %v: %v", l, set, err)
	}
	return p
}

var good = descale.Strip{PH: 7.4, Taste: descale.TasteGone}

// answer presses what leads on, as a careful person would.
func (h *hand) answer(s State) {
	measure, _ := job.BodyOf[job.Measure](s.Step)
	choose, _ := job.BodyOf[job.Choose](s.Step)
	switch {
	case len(choose.Ways) > 0:
		h.with(Press{Kind: Heard, Answer: choose.Ways[0].Answer})
	case measure.Reads == job.Spent:
		h.with(Press{Kind: Measured, Strip: &descale.Strip{PH: 2.6}})
	case measure.Reads != "":
		h.with(Press{Kind: Measured, Strip: &good})
	case slices.Contains(s.Allowed, Done):
		h.press(Done)
	case sees(s, job.RinseCup):
		h.read(clean)
	case sees(s, job.FirstWater):
		h.with(Press{Kind: Graded, First: backflush.ColourPale})
	case slices.Contains(s.Allowed, Begin):
		h.press(Begin)
	default:
		h.wait(15 * time.Second)
	}
}

// until goes on until something holds.
func (h *hand) until(what string, ok func(State) bool) State {
	h.t.Helper()
	for range 4000 {
		s := h.state()
		if s.Broke != nil {
			h.t.Fatalf("at %s: %v", s.Step.ID, s.Broke)
		}
		if ok(s) {
			return s
		}
		if s.Outcome != "" {
			break
		}
		h.answer(s)
	}
	h.t.Fatalf("never came to %s; at %s", what, h.state().Step.ID)
	return State{}
}

func (h *hand) step(id string) State {
	h.t.Helper()
	return h.until(id, func(s State) bool { return s.Step.ID == id })
}

func soaking(s State) bool {
	soak, ok := job.BodyOf[job.Soak](s.Step)
	return ok && soak.Acid && s.Segment.Kind == Soak
}

func proving(s State) bool {
	m, _ := job.BodyOf[job.Measure](s.Step)
	return m.Reads == job.Proof
}

// pushing is the first push of a descale that brings acid in.
func pushing(s State) bool { return job.Is[job.Push](s.Step) && s.Step.Phase == job.Acidic }

// jug is what stands in the jug under an outlet.
func jug(s State, outlet string) float64 {
	p := s.Descale.Plant
	return p.V[p.Spec.Openings[p.Spec.FindOpening(outlet)].Into].Litres
}

// The whole of it: the hazard is set as solution goes in, stands until two strips
// in a row match at each outlet, the contact stays within what the acid may stand, and what
// was done is told.
func TestWholeDescale(t *testing.T) {
	h := newHand(t, descalePlan(t, machine.SingleBoiler, steel, nil))
	if s := h.until("the first push", pushing); s.In() || s.Descale.Contact != 0 {
		t.Fatal("acid is in before any was pushed")
	}
	h.press(Begin)
	s := h.wait(5 * time.Second).state()
	if !s.Descale.Acids[0].In || s.Segment.Kind != On || s.Descale.Plant.At("brew-1").Acid <= 0.05 ||
		s.Activities[0].Outcome != StoppedUnsafe {
		t.Fatalf("5 s in: %+v, %v", s.Descale.Acids[0], s.Segment)
	}
	soak := h.until("the soak", soaking)
	if long := soak.Segment.End.Sub(soak.Segment.Start); long != 20*time.Minute {
		t.Errorf("soaks for %v", long)
	}
	if now, then := soak.Descale.Frames[0], soak.Descale.Frames[len(soak.Descale.Frames)-1]; then.At != soak.Segment.End ||
		then.Plant.At("brew-1").Scale >= now.Plant.At("brew-1").Scale {
		t.Errorf("frames to %v: %v g, then %v", then.At, now.Plant.At("brew-1").Scale, then.Plant.At("brew-1").Scale)
	}
	s = h.until("the proof", proving)
	if c := s.Descale.Contact; c > 90*time.Minute || c < 40*time.Minute {
		t.Errorf("acid stood %v", c)
	}
	if left := s.Descale.Acids[0].Left(); left.Value > descale.Clean*1.001 || !s.Descale.Acids[0].In {
		t.Errorf("%v left, in: %v; only a strip ends it", left.Value, s.Descale.Acids[0].In)
	}
	stood, first := s.Descale.Contact, s.Step.ID
	if s := h.with(Press{Kind: Measured, Strip: &good}); s.Step.ID != first || !s.In() {
		t.Error("one strip is taken for two")
	}
	if s := h.wait(time.Hour).with(Press{Kind: Measured, Strip: &good}); !s.In() || !proving(s) {
		t.Errorf("one outlet is taken for both: in %v, at %s", s.In(), s.Step.ID)
	}
	h.with(Press{Kind: Measured, Strip: &good})
	if s := h.with(Press{Kind: Measured, Strip: &good}); s.In() || proving(s) {
		t.Errorf("after two strips at each outlet: in %v, at %s", s.In(), s.Step.ID)
	}
	end := h.until("the end", func(s State) bool { return s.Outcome != "" })
	sum, any := descale.Sum(end.Descale.Acids[0].Tally)
	if end.Outcome != Finished || !any || sum.Grams.Likely < 0.2 || end.Descale.Contact != stood {
		t.Errorf("%s, %+v, acid stood %v, then %v", end.Outcome, sum, stood, end.Descale.Contact)
	}
}

// The log tells what was done: as much as was said to be mixed, what went through,
// the soaks there were, and those left out.
func TestWhatWasDoneIsBooked(t *testing.T) {
	plan := descalePlan(t, machine.SingleBoiler, steel, nil)
	d := plan.Descaling().Descale
	h := newHand(t, plan)
	h.step("mix")
	said := 41.0
	h.with(Press{Kind: Done, Mixed: &said})
	h.step("spent-brew-1")
	h.with(Press{Kind: Measured, Strip: &descale.Strip{PH: 2.5, Blue: true}})
	s := h.until("the end", func(s State) bool { return s.Outcome != "" })
	b := s.Descale.Booked
	if b.Mixed != 41 || b.Soaks != 1 || b.LeftOut != d.Rounds-1 ||
		b.Pushed <= 0.4 || float64(b.Pushed) >= d.Solution.Value {
		t.Errorf("booked %+v of %d rounds, %v L", b, d.Rounds, d.Solution.Value)
	}
	report := s.Report(plan)
	for _, want := range []string{"41 g", "one soak", fmt.Sprintf("Left out: %d of %d soaks", d.Rounds-1, d.Rounds),
		"blue or green"} {
		if !strings.Contains(report, want) {
			t.Errorf("the log does not say %q: %s", want, report)
		}
	}
	if spent, _ := s.Spent(plan); !spent.AtLeast {
		t.Error("soaks were left out, and it is taken for all there was")
	}
}

// A strip within one step of its scale is a match, a meter within 0.3. One that differs asks
// for more; after two the clean water is read again, with a fresh strip; after three,
// somebody is to stop and look; a taste of acid counts as no match; a meter needs no second
// reading.
func TestRinseIsProven(t *testing.T) {
	h := newHand(t, descalePlan(t, machine.SingleBoiler, steel, nil))
	h.until("the proof", proving)
	sour := descale.Strip{PH: 7.4, Taste: descale.TasteAcid}
	s := h.with(Press{Kind: Measured, Strip: &sour})
	if !strings.HasPrefix(s.Step.ID, "more-1-") || s.Finding == nil ||
		!strings.Contains(s.Finding.Because[0].Text, "tastes") {
		t.Fatalf("at %s, %+v", s.Step.ID, s.Finding)
	}
	h.until("the next look", proving)
	s = h.with(Press{Kind: Measured, Strip: &descale.Strip{PH: 6.4}})
	if m, _ := job.BodyOf[job.Measure](s.Step); m.Reads != job.Feed || !strings.Contains(s.Finding.Title, "clean water") {
		t.Fatalf("after two: %s, %+v", s.Step.ID, s.Finding)
	}
	h.with(Press{Kind: Measured, Strip: &descale.Strip{PH: 7.6, Meter: true}})
	h.until("the next look", proving)
	s = h.with(Press{Kind: Measured, Strip: &descale.Strip{PH: 5}})
	if s.Finding == nil || s.Finding.Verdict != reason.Stop || !slices.Contains(s.Allowed, Again) ||
		slices.Contains(s.Allowed, Measured) {
		t.Fatalf("three times: %+v, allowed %v", s.Finding, s.Allowed)
	}
	h.press(Again)
	first := h.until("the next look", proving).Step
	meter := descale.Strip{PH: 7.4, Meter: true}
	if s := h.with(Press{Kind: Measured, Strip: &meter}); !proving(s) || s.Step.ID == first.ID {
		t.Errorf("a meter: at %s", s.Step.ID)
	}
	if s := h.with(Press{Kind: Measured, Strip: &meter}); s.In() {
		t.Errorf("both outlets: %+v", s.Descale.Acids)
	}
}

// A hold in a push keeps what has gone through; no water counts for nothing.
func TestPushIsHeldAndResumed(t *testing.T) {
	h := newHand(t, descalePlan(t, machine.SingleBoiler, steel, nil))
	s := h.until("the push by the wand", func(s State) bool {
		b, ok := job.BodyOf[job.Push](s.Step)
		return ok && b.To == "steam_tap"
	})
	body, _ := job.BodyOf[job.Push](s.Step)
	id := s.Step.ID
	h.press(Begin)
	h.wait(10 * time.Second)
	s = h.press(Hold)
	if got := jug(s, "steam_tap"); s.Segment.Kind != Held || math.Abs(got-0.08) > 0.001 || s.Descale.Plant.On {
		t.Fatalf("held with %.3f L in the jug, want 8 mL/s for 10 s; on: %v", got, s.Descale.Plant.On)
	}
	h.press(Begin)
	h.wait(4 * time.Second)
	if s := h.press(NoPressure); s.Finding == nil || s.Segment.Kind != Held {
		t.Fatalf("no water: %+v, %v", s.Finding, s.Segment.Kind)
	}
	h.press(Begin)
	s = h.until("what follows", func(s State) bool { return s.Step.ID != id })
	if got := jug(s, "steam_tap"); got < float64(body.Litres)-1e-6 {
		t.Errorf("%.4f L through, want %.4f at least", got, body.Litres)
	}
}

// The power goes in the middle of a soak and comes back after two hours: the
// remaining soaks are left out, and the advice says why.
func TestPowerCut(t *testing.T) {
	h := newHand(t, descalePlan(t, machine.SingleBoiler, steel, nil))
	h.until("the soak", soaking)
	s := h.press(Cut)
	if !s.Cut || s.Finding == nil || !strings.Contains(s.Finding.Next[1], "steam tap open, its jug") ||
		!slices.Equal(s.Allowed, []PressKind{Back, Stop}) {
		t.Fatalf("cut: %+v, %v", s.Finding, s.Allowed)
	}
	h.wait(2 * time.Hour)
	if s := h.press(Done); !s.Cut {
		t.Fatal("something was done without power")
	}
	s = h.press(Back)
	if s.Cut || s.Finding == nil || s.Finding.Verdict != reason.Stop ||
		!strings.Contains(s.Finding.Because[1].Text, "may stand 90 in all") {
		t.Fatalf("back: %+v", s.Finding)
	}
	s = h.until("the rinse", func(s State) bool { return s.Step.Phase != job.Acidic })
	if s.Step.ID != "clean-source" || slices.ContainsFunc(s.Lines, func(l Line) bool { return l.ID == "soak-2" }) {
		t.Errorf("went on to %s", s.Step.ID)
	}
	// in a push, what has gone through is kept, and the machine is off
	h = newHand(t, descalePlan(t, machine.SingleBoiler, steel, nil))
	h.until("the first push", pushing)
	h.press(Begin)
	h.wait(5 * time.Second)
	h.press(Cut)
	h.wait(time.Minute)
	if s := h.press(Back); s.Segment.Kind != Held || jug(s, "group-1") < 0.039 || s.Descale.Plant.On ||
		s.Finding.Verdict != reason.Look {
		t.Errorf("cut in a push: %+v, %+v", s.Segment, s.Finding)
	}
}

// Blue or green ends the soaking at once.
func TestCopperComesOff(t *testing.T) {
	h := newHand(t, descalePlan(t, machine.SingleBoiler, steel, nil))
	h.step("spent-brew-1")
	s := h.with(Press{Kind: Measured, Strip: &descale.Strip{PH: 2.5, Blue: true}})
	if s.Step.ID != "clean-source" || s.Finding == nil || s.Finding.Verdict != reason.Stop ||
		!slices.Contains(s.Descale.Marks, job.CopperSeen) {
		t.Errorf("at %s: %+v", s.Step.ID, s.Finding)
	}
}

// Sips go by the clock: ON, then they stand; where no more fit, the rest is left out. The
// schedule that a device gets names every boundary to the end of the set.
func TestSipsGoByTheClock(t *testing.T) {
	p := descalePlan(t, machine.Thermoblock, steel, nil)
	h := newHand(t, p)
	s := h.until("the sips", func(s State) bool {
		b, ok := job.BodyOf[job.Sips](s.Step)
		return ok && b.Count > 1
	})
	b, _ := job.BodyOf[job.Sips](s.Step)
	s = h.press(Begin)
	if len(s.Schedule) != 2*b.Count || s.Segment.Kind != On || s.Schedule[1].Kind != Soak ||
		s.Schedule[1].End.Sub(s.Schedule[1].Start) != b.Stand {
		t.Fatalf("%d segments for %d sips: %+v", len(s.Schedule), b.Count, s.Schedule[:2])
	}
	id, last := s.Step.ID, s.Schedule[len(s.Schedule)-1]
	for _, g := range s.Schedule { // the boundaries come as they were told
		h.now = g.Start.Add(time.Second)
		if s := h.state(); s.Segment.Kind != g.Kind || s.Segment.Index != g.Index || s.Segment.Pulse != g.Pulse {
			t.Fatalf("told %+v, is %+v", g, s.Segment)
		}
	}
	h.now = last.End.Add(time.Second)
	if s := h.state(); s.Step.ID == id || s.Descale.Plant.On {
		t.Errorf("after the last: %s, on %v", s.Step.ID, s.Descale.Plant.On)
	}
	// an hour of standing still in the middle: the rest is left out
	h = newHand(t, p)
	h.until("the sips", func(s State) bool { return s.Step.ID == id })
	h.press(Begin)
	h.wait(3 * time.Second)
	h.press(Hold)
	h.wait(80 * time.Minute)
	h.press(Begin)
	s = h.until("the rinse", func(s State) bool { return s.Step.Phase == job.Rinsing })
	if s.Descale.Booked.LeftOut == 0 {
		t.Errorf("%+v", s.Descale.Booked)
	}
}

// A minute of a hot soak counts for four: as many as fit are led, and no longer.
func TestHotSoaksCountByTheirHeat(t *testing.T) {
	p := descalePlan(t, machine.SingleBoiler, steel, func(in *job.Sitting) { in.Program = descale.HotSoaks })
	h := newHand(t, p)
	s := h.until("the soak", soaking)
	for s.Descale.Plant.At("brew-1").Temp < 71 {
		s = h.wait(10 * time.Second).state()
	}
	before := s.Descale.Contact
	if after := h.wait(time.Minute).state().Descale.Contact - before; after < 4*time.Minute-time.Second ||
		after > 4*time.Minute+time.Second {
		t.Errorf("a minute hot counts for %v", after)
	}
	s = h.until("the proof", proving)
	if c := s.Descale.Contact; c > 90*time.Minute {
		t.Errorf("acid stood for %v", c)
	}
}

// Stopped with acid inside it is unsafe; the next run only rinses, and ends it.
func TestAcidLeftInIsRinsedOut(t *testing.T) {
	h := newHand(t, descalePlan(t, machine.SingleBoiler, steel, nil))
	h.until("the soak", soaking)
	if s := h.press(Stop); s.Outcome != StoppedUnsafe || !s.In() {
		t.Fatalf("stopped: %s", s.Outcome)
	}
	h = newHand(t, descalePlan(t, machine.SingleBoiler, steel, func(in *job.Sitting) { in.Dirty = true }))
	if s := h.state(); !s.In() {
		t.Fatal("acid that was left in is not in")
	}
	s := h.until("the end", func(s State) bool { return s.Outcome != "" })
	if s.Outcome != Finished || s.In() || len(s.Activities) != 1 {
		t.Errorf("rinsed: %s, %+v", s.Outcome, s.Activities)
	}
}

// A wash that is joined follows in the same run, after the filter is back; each is
// told by itself.
func TestJoinedWithFilterAndWash(t *testing.T) {
	a := answersOf(machine.SingleBoiler)
	w, err := job.Wash(a, backflush.HalfTeaspoon, backflush.UsualPowder, job.Target{Group: 1})
	if err != nil {
		t.Fatal(err)
	}
	h := newHand(t, descalePlan(t, machine.SingleBoiler, steel, func(in *job.Sitting) { in.Renew, in.Wash = true, &w }))
	dose := h.step("dose")
	if dose.In() || dose.Activities[0].Task != task.Descale || dose.Activities[0].Outcome != Finished ||
		dose.Activities[1].Task != task.FilterChange || dose.Activities[1].Outcome != Finished ||
		dose.Activities[2].Outcome != Stopped {
		t.Fatalf("before the dose: %+v", dose.Activities)
	}
	if s := h.press(Done); s.Activities[2].Outcome != StoppedUnsafe || s.Descale.Acids[0].In {
		t.Fatal("detergent is not in")
	}
	h.step("discard")
	if s := h.press(Done); s.Outcome != Finished || s.Soapy != 5 {
		t.Errorf("%s, %d pulses", s.Outcome, s.Soapy)
	}
}

// Over random machines and random hands: in a descale the pump never runs longer than
// its duty, no vessel runs over, no soak is begun that acid may not stand for, nothing ends as
// done before every rinse is proven, and acid never stands beside detergent.
func TestRandomDescales(t *testing.T) {
	r := rand.New(rand.NewPCG(20, 26))
	ends := map[Outcome]int{}
	for n := range 24 {
		h := newHand(t, randomPlan(t, r))
		d := h.plan.Descaling().Descale
		for range 700 {
			s := h.state()
			checkLiquids(t, n, h, s)
			if soak, ok := job.BodyOf[job.Soak](s.Step); ok && soak.Acid && s.Descale.Contact > d.Contact &&
				!s.Cut && s.Segment.End.After(h.now) {
				t.Fatalf("run %d soaks on: acid stood %v of %v", n, s.Descale.Contact, d.Contact)
			}
			if s.Outcome != "" {
				checkProven(t, n, s)
				ends[s.Outcome]++
				break
			}
			h.fumble(r, s)
		}
	}
	if ends[Finished] < 8 || ends[StoppedUnsafe] < 1 {
		t.Errorf("ends: %v", ends)
	}
}

// mayBreak are what a random hand may bring about, and no plan keeps it from: it waits for
// hours with acid inside, or says that water came where none did.
var mayBreak = []plant.Never{plant.ContactOver, plant.DrawsAir, plant.OverDuty, plant.OverBrim, plant.AcidHeated,
	plant.OpenedPressed, plant.NotVented}

func checkLiquids(t *testing.T, n int, h *hand, s State) {
	t.Helper()
	for _, v := range s.Descale.Plant.Broken {
		if !slices.Contains(mayBreak, v.Never) {
			t.Fatalf("run %d at %s: %v", n, s.Step.ID, v)
		}
	}
	if on := h.plan.Setups[0].Duty.On; on > 0 && s.Step.Phase != "" && s.Ran > on+30*time.Second { // a cup beside
		t.Fatalf("run %d at %s: the pump is at %v of %v", n, s.Step.ID, s.Ran, on)
	}
	if in := s.Contents(); len(in.Acid) > 0 && len(in.Detergent) > 0 {
		t.Fatalf("run %d at %s: acid beside detergent", n, s.Step.ID)
	}
}

func checkProven(t *testing.T, n int, s State) {
	t.Helper()
	for _, a := range s.Descale.Acids {
		proven := a.Ever && !a.In && len(a.Strips) > 0
		if s.Outcome == Finished && !proven {
			t.Fatalf("run %d ends as done: %+v", n, a)
		}
	}
}

// fumble presses mostly what leads on, now and then anything else.
func (h *hand) fumble(r *rand.Rand, s State) {
	if r.IntN(6) > 0 {
		h.answer(s)
		return
	}
	choose, _ := job.BodyOf[job.Choose](s.Step)
	switch k := r.IntN(12); {
	case k == 0 && r.IntN(12) == 0:
		h.press(Stop)
	case k == 1:
		h.press(Cut)
		h.wait(time.Duration(r.IntN(90)) * time.Minute)
		h.press(Back)
	case k == 2:
		h.press(NoPressure)
	case k == 3, k == 4:
		h.press(Hold)
	case k == 5 && len(choose.Ways) > 0:
		h.with(Press{Kind: Heard, Answer: choose.Ways[r.IntN(len(choose.Ways))].Answer})
	case k == 6:
		h.with(Press{Kind: Measured, Strip: &descale.Strip{PH: units.PH(3 + 5*r.Float64()), Taste: descale.TasteGone}})
	case k == 7:
		h.press([]PressKind{Done, Begin, Again, Turn, Back, NothingCame, Opened}[r.IntN(7)])
	default:
		h.wait(time.Duration(r.IntN(600)) * time.Second)
	}
}

func randomPlan(t testing.TB, r *rand.Rand) job.Plan {
	t.Helper()
	list := []machine.Answers{}
	for _, name := range slices.Sorted(maps.Keys(cleared)) {
		list = append(list, cleared[name])
	}
	for {
		a := list[r.IntN(len(list))]
		a.Overrides = maps.Clone(a.Overrides)
		for _, o := range [][2]string{
			{"jug_l", fmt.Sprintf("%.2f", 0.8+2*r.Float64())}, {"tank_l", fmt.Sprintf("%.2f", 1.5+2*r.Float64())},
			{"duty_on_min", fmt.Sprintf("%.2f", 1+2*r.Float64())}, {"tray_l", fmt.Sprintf("%.2f", 0.2+r.Float64())},
			{"flow_ml_s", "6"},
		} {
			if r.IntN(3) == 0 && a.CheckOverride(o[0], o[1]) == nil {
				a.Overrides[o[0]] = o[1]
			}
		}
		w, err := job.Wash(answersOf(machine.SingleBoiler), backflush.HalfTeaspoon, backflush.UsualPowder,
			job.Target{Group: 1})
		if err != nil {
			t.Fatal(err)
		}
		in, err := sittingOf(a, func(in *job.Sitting) {
			in.Renew, in.Dirty = r.IntN(2) == 0, r.IntN(6) == 0
			if r.IntN(3) == 0 && a.Layout != machine.LeverManual { // which is never washed
				in.Wash = &w
			}
		})
		if err != nil {
			t.Fatal(err)
		}
		if p, err := job.Descale(a, in); err == nil {
			return p
		}
	}
}
