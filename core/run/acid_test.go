package run

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/treat"
	"freshanvil/core/units"
)

// steel is a machine whose boiler somebody has named: three soaks fit.
var steel = map[string]string{"brew_material": "stainless"}

func descalePlan(t testing.TB, l machine.Layout, set map[string]string, change func(*job.Sitting)) job.Plan {
	t.Helper()
	a := machine.Answers{Layout: l, Valve: machine.No, Drinks: 4, Hardness: units.UnknownHardness(),
		Treatment: machine.InTank, Overrides: set}
	f := a.Facts()
	r := units.Reading{Known: true, Low: 8, Likely: 9, High: 10}
	material, _ := descale.Careful(f)
	card, err := descale.Mix(descale.Products()[0], 0, descale.Circuits(f, r, r), material)
	if err != nil {
		t.Fatal(err)
	}
	in := job.Sitting{Card: card, Setting: treat.Usual(a.Treatment), FeedAlk: 80, Share: 1, Known: true, Now: start}
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

func soaking(s State) bool { return s.Segment.Kind == Soak }

func proving(s State) bool {
	m, _ := job.BodyOf[job.Measure](s.Step)
	return m.Reads == job.Proof
}

// The whole of it: the hazard is set as solution goes in, stands until two strips
// in a row match, the contact stays within what the acid may stand, and what was done
// is told.
func TestWholeDescale(t *testing.T) {
	h := newHand(t, descalePlan(t, machine.SingleBoiler, steel, nil))
	if s := h.step("push-brew-1"); s.In() || s.Descale.Contact != 0 {
		t.Fatal("acid is in before any was pushed")
	}
	h.press(Begin)
	s := h.wait(5 * time.Second).state()
	if !s.Descale.Acids[0].In || s.Segment.Kind != On || s.Descale.Pipes.At("brew-1").Acid <= 0.05 ||
		s.Activities[0].Outcome != StoppedUnsafe {
		t.Fatalf("5 s in: %+v, %v", s.Descale.Acids[0], s.Segment)
	}
	soak := h.until("the soak", soaking)
	if long := soak.Segment.End.Sub(soak.Segment.Start); long != 20*time.Minute {
		t.Errorf("soaks for %v", long)
	}
	s = h.step("prove-brew-1")
	if c := s.Descale.Contact; c > 90*time.Minute || c < 60*time.Minute {
		t.Errorf("acid stood %v", c)
	}
	if left := s.Descale.Acids[0].Left().Value; left > descale.Clean*1.001 || !s.Descale.Acids[0].In {
		t.Errorf("%v left, in: %v; only a strip ends it", left, s.Descale.Acids[0].In)
	}
	stood := s.Descale.Contact
	if s := h.with(Press{Kind: Measured, Strip: &good}); s.Step.ID != "prove-brew-1" || !s.In() {
		t.Error("one strip is taken for two")
	}
	if s := h.wait(time.Hour).with(Press{Kind: Measured, Strip: &good}); s.In() || s.Step.ID != "gauze" {
		t.Errorf("after two strips: in %v, at %s", s.In(), s.Step.ID)
	}
	end := h.until("the end", func(s State) bool { return s.Outcome != "" })
	sum, any := descale.Sum(end.Descale.Acids[0].Tally)
	if end.Outcome != Finished || !any || sum.Grams.Likely < 0.2 || end.Descale.Contact != stood {
		t.Errorf("%s, %+v, acid stood %v", end.Outcome, sum, end.Descale.Contact)
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
	h.until("the second soak", func(s State) bool { return soaking(s) && s.Step.Round == 2 })
	h.step("spent-brew-1-2")
	h.with(Press{Kind: Measured, Strip: &descale.Strip{PH: 2.5, Blue: true}})
	s := h.until("the end", func(s State) bool { return s.Outcome != "" })
	b := s.Descale.Booked
	if b.Mixed != 41 || b.Soaks != 2 || b.LeftOut != d.Rounds-2 || b.Pushed <= 0.5 || b.Pushed >= d.Solution.Value {
		t.Errorf("booked %+v of %d rounds, %v L", b, d.Rounds, d.Solution.Value)
	}
	report := s.Report(plan)
	for _, want := range []string{"41 g", "2 soaks", fmt.Sprintf("Left out: %d of %d soaks", d.Rounds-2, d.Rounds),
		"blue or green"} {
		if !strings.Contains(report, want) {
			t.Errorf("the log does not say %q: %s", want, report)
		}
	}
	if spent, _ := s.Spent(plan); !spent.AtLeast {
		t.Error("soaks were left out, and it is taken for all there was")
	}
}

// A strip that does not match asks for more; three times, and somebody is to stop
// and look; a taste of acid counts as no match; a meter needs no second reading.
func TestRinseIsProven(t *testing.T) {
	h := newHand(t, descalePlan(t, machine.SingleBoiler, nil, nil))
	h.step("prove-brew-1")
	sour := descale.Strip{PH: 7.4, Taste: descale.TasteAcid}
	s := h.with(Press{Kind: Measured, Strip: &sour})
	if !strings.HasPrefix(s.Step.ID, "more-1-") || s.Finding == nil ||
		!strings.Contains(s.Finding.Because[0].Text, "tastes") {
		t.Fatalf("at %s, %+v", s.Step.ID, s.Finding)
	}
	for n := 2; n <= mostStrikes; n++ {
		h.until("the next look", proving)
		s = h.with(Press{Kind: Measured, Strip: &descale.Strip{PH: 5}})
	}
	if s.Finding == nil || s.Finding.Verdict != reason.Stop || !slices.Contains(s.Allowed, Again) ||
		slices.Contains(s.Allowed, Measured) {
		t.Fatalf("three times: %+v, allowed %v", s.Finding, s.Allowed)
	}
	h.press(Again)
	h.until("the next look", proving)
	meter := descale.Strip{PH: 7.6, Meter: true, Taste: descale.TasteGone}
	if s := h.with(Press{Kind: Measured, Strip: &meter}); s.In() || s.Step.ID != "gauze" {
		t.Errorf("a meter: %+v at %s", s.Descale.Acids, s.Step.ID)
	}
}

// A hold in a push keeps what has gone through; no water counts for nothing.
func TestPushIsHeldAndResumed(t *testing.T) {
	h := newHand(t, descalePlan(t, machine.SingleBoiler, nil, nil))
	s := h.step("push-brew-1")
	body, _ := job.BodyOf[job.Push](s.Step)
	whole := body.Litres()
	h.press(Begin)
	h.wait(10 * time.Second)
	s = h.press(Hold)
	if got := s.Descale.Pipes.At("jug").Litres; s.Segment.Kind != Held || got < 0.079 || got > 0.081 {
		t.Fatalf("held with %.3f L in the jug, want 8 mL/s for 10 s", got)
	}
	h.press(Begin)
	h.wait(4 * time.Second)
	if s := h.press(NoPressure); s.Finding == nil || s.Descale.Pipes.At("jug").Litres > 0.081 {
		t.Fatalf("no water: %+v, %.3f L", s.Finding, s.Descale.Pipes.At("jug").Litres)
	}
	h.press(Begin)
	s = h.until("what follows", func(s State) bool { return s.Step.ID != "push-brew-1" })
	if got := s.Descale.Pipes.At("jug").Litres; got < whole-1e-6 || got > whole+1e-6 {
		t.Errorf("%.4f L through, want %.4f", got, whole)
	}
}

// The power goes in the middle of a soak and comes back after two hours: the
// remaining soaks are left out, and the advice says why.
func TestPowerCut(t *testing.T) {
	h := newHand(t, descalePlan(t, machine.SingleBoiler, steel, nil))
	h.until("the soak", soaking)
	s := h.press(Cut)
	if !s.Cut || s.Finding == nil || !strings.Contains(s.Finding.Next[1], "Steam tap stays open") ||
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
	// in a push, what has gone through is kept
	h = newHand(t, descalePlan(t, machine.SingleBoiler, nil, nil))
	h.step("push-brew-1")
	h.press(Begin)
	h.wait(10 * time.Second)
	h.press(Cut)
	h.wait(time.Minute)
	if s := h.press(Back); s.Segment.Kind != Held || s.Descale.Pipes.At("jug").Litres < 0.079 ||
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

// A minute of a hot soak counts for four: it ends when acid has stood as long as it
// may.
func TestHotSoaksCountByTheirHeat(t *testing.T) {
	p := descalePlan(t, machine.SingleBoiler, steel, func(in *job.Sitting) { in.Program = descale.HotSoaks })
	h := newHand(t, p)
	s := h.until("the soak", soaking)
	before := s.Descale.Contact
	if after := h.wait(2*time.Minute).state().Descale.Contact - before; after != 8*time.Minute {
		t.Errorf("two minutes hot count for %v", after)
	}
	s = h.step("prove-brew-1")
	if c := s.Descale.Contact; c > 90*time.Minute || c < 50*time.Minute {
		t.Errorf("acid stood for %v", c)
	}
}

// Stopped with acid inside it is unsafe; the next run only rinses, and ends it.
func TestAcidLeftInIsRinsedOut(t *testing.T) {
	h := newHand(t, descalePlan(t, machine.SingleBoiler, nil, nil))
	h.until("the soak", soaking)
	if s := h.press(Stop); s.Outcome != StoppedUnsafe || !s.In() {
		t.Fatalf("stopped: %s", s.Outcome)
	}
	h = newHand(t, descalePlan(t, machine.SingleBoiler, nil, func(in *job.Sitting) { in.Dirty = true }))
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
	a := machine.Answers{Layout: machine.SingleBoiler, Valve: machine.Yes, Drinks: 4,
		Hardness: units.UnknownHardness(), Treatment: machine.InTank}
	w, err := job.Wash(a, backflush.HalfTeaspoon, backflush.UsualPowder, job.Target{Group: 1})
	if err != nil {
		t.Fatal(err)
	}
	h := newHand(t, descalePlan(t, machine.SingleBoiler, nil, func(in *job.Sitting) { in.Renew, in.Wash = true, &w }))
	dose := h.step("dose")
	if dose.In() || dose.Activities[0].Task != care.Descale || dose.Activities[0].Outcome != Finished ||
		dose.Activities[1].Task != care.FilterChange || dose.Activities[1].Outcome != Finished ||
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
// its duty, no liquid does what it must not, no soak is begun that acid may not stand
// for, nothing ends as done before every rinse is proven, and acid never stands beside
// detergent.
func TestRandomDescales(t *testing.T) {
	r := rand.New(rand.NewPCG(20, 26))
	ends := map[Outcome]int{}
	for n := range 30 {
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
	if ends[Finished] < 12 || ends[StoppedUnsafe] < 1 {
		t.Errorf("ends: %v", ends)
	}
}

func checkLiquids(t *testing.T, n int, h *hand, s State) {
	t.Helper()
	if s.Broke != nil {
		t.Fatalf("run %d: %v", n, s.Broke)
	}
	if on := h.plan.Setups[0].Duty.On; on > 0 && s.Step.Phase != "" && s.Ran > on+time.Millisecond {
		t.Fatalf("run %d at %s: the pump is at %v of %v", n, s.Step.ID, s.Ran, on)
	}
	if in := s.Contents(); len(in.Acid) > 0 && len(in.Detergent) > 0 {
		t.Fatalf("run %d at %s: acid beside detergent", n, s.Step.ID)
	}
	for _, v := range s.Descale.Pipes.Vessels {
		if v.Litres > v.Holds+1e-6 || v.Litres < -1e-6 || v.Kind == descale.Source && v.Acid > 1+1e-9 {
			t.Fatalf("run %d at %s: %+v", n, s.Step.ID, v)
		}
	}
}

func checkProven(t *testing.T, n int, s State) {
	t.Helper()
	for _, a := range s.Descale.Acids {
		proven := a.Ever && !a.In && len(a.Strips) > 0 && a.Strips[len(a.Strips)-1].Matches(s.Descale.Feed.PH)
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
		h.with(Press{Kind: Measured, Strip: &descale.Strip{PH: 3 + 5*r.Float64(), Taste: descale.TasteGone}})
	case k == 7:
		h.press([]PressKind{Done, Begin, Again, Turn, Back, NothingCame, Opened}[r.IntN(7)])
	default:
		h.wait(time.Duration(r.IntN(600)) * time.Second)
	}
}

func randomPlan(t testing.TB, r *rand.Rand) job.Plan {
	t.Helper()
	layouts := []machine.Layout{machine.Thermoblock, machine.SingleBoiler}
	l := layouts[r.IntN(len(layouts))]
	a := machine.Answers{Layout: l}
	set := map[string]string{}
	for _, o := range [][2]string{
		{"jug_l", fmt.Sprintf("%.2f", 0.3+2*r.Float64())}, {"tank_l", fmt.Sprintf("%.2f", 0.8+2*r.Float64())},
		{"duty_on_min", fmt.Sprintf("%.2f", 0.5+2*r.Float64())}, {"tray_l", fmt.Sprintf("%.2f", 0.2+r.Float64())},
		{"brew_material", "aluminium"}, {"brew_material", "stainless"}, {"own_descale", "yes"}, {"flow_ml_s", "6"},
	} {
		if r.IntN(3) == 0 && a.CheckOverride(o[0], o[1]) == nil {
			set[o[0]] = o[1]
		}
	}
	a.Overrides = set
	list := descale.ProgramsFor(a.Facts())
	prog := list[r.IntN(len(list))].ID
	if set["brew_material"] != "stainless" && prog == descale.OwnProgram {
		prog = descale.ThreeSoaks // the own program alone takes the twenty minutes
	}
	w, err := job.Wash(machine.Answers{Layout: machine.SingleBoiler, Valve: machine.Yes}, backflush.HalfTeaspoon,
		backflush.UsualPowder, job.Target{Group: 1})
	if err != nil {
		t.Fatal(err)
	}
	return descalePlan(t, l, set, func(in *job.Sitting) {
		in.Program, in.Renew, in.Dirty = prog, r.IntN(2) == 0, r.IntN(6) == 0
		if r.IntN(3) == 0 {
			in.Wash = &w
		}
	})
}
