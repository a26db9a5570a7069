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

func descalePlan(t testing.TB, l machine.Layout, set map[string]string, change func(*job.Sitting)) job.Plan {
	t.Helper()
	a := machine.Answers{
		Layout:    l,
		Valve:     machine.No,
		Drinks:    4,
		Hardness:  units.UnknownHardness(),
		Treatment: machine.InTank,
		Overrides: set,
	}
	r := units.Reading{Known: true, Low: 0.3, Likely: 0.4, High: 0.4}
	g := 0.0
	if set["boiler_material"] == "aluminium" {
		g = 15
	}
	card, err := descale.Mix(descale.Products()[0], g, descale.Circuits(a.Facts(), r, r))
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
	switch {
	case s.Step.Kind == job.Choose && len(s.Step.Ways) > 0:
		h.with(Press{Kind: Heard, What: s.Step.Ways[0].What})
	case s.Step.Reads == job.Spent:
		h.with(Press{Kind: Measured, Strip: &descale.Strip{PH: 2.6}})
	case s.Step.Reads != "":
		h.with(Press{Kind: Measured, Strip: &good})
	case slices.Contains(s.Allowed, Done):
		h.press(Done)
	case s.Step.Kind == job.Look:
		h.read(clean)
	case s.Step.Kind == job.Grade:
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

// The whole of it: the hazard is set as solution goes in, stands until two strips
// in a row match, the contact stays within the hour, and the scale is told.
func TestWholeDescale(t *testing.T) {
	h := newHand(t, descalePlan(t, machine.SingleBoiler, nil, nil))
	if s := h.step("push-boiler"); s.In() || s.Contact != 0 {
		t.Fatal("acid is in before any was pushed")
	}
	h.press(Begin)
	s := h.wait(5 * time.Second).state()
	if !s.Acids[0].In || s.Segment.Kind != On || s.Pipes.At("boiler").Acid <= 0.05 ||
		s.Groups[0].Outcome() != StoppedUnsafe {
		t.Fatalf("5 s in: %+v, %v", s.Acids[0], s.Segment)
	}
	soak := h.until("the soak", func(s State) bool { return s.Segment.Kind == Soak })
	if long := soak.Segment.End.Sub(soak.Segment.Start); long != 20*time.Minute {
		t.Errorf("soaks for %v", long)
	}
	s = h.step("clean-source")
	if s.Contact > time.Hour+time.Minute || s.Contact < 55*time.Minute {
		t.Errorf("acid stood %v", s.Contact)
	}
	s = h.step("prove-boiler")
	if s.Acids[0].Left().Value > descale.Clean*1.001 || !s.Acids[0].In {
		t.Errorf("%v left, in: %v; only a strip ends it", s.Acids[0].Left().Value, s.Acids[0].In)
	}
	if s := h.with(Press{Kind: Measured, Strip: &good}); s.Step.ID != "prove-boiler" || !s.In() {
		t.Error("one strip is taken for two")
	}
	if s := h.with(Press{Kind: Measured, Strip: &good}); s.In() || s.Step.ID != "gauze" {
		t.Errorf("after two strips: in %v, at %s", s.In(), s.Step.ID)
	}
	end := h.until("the end", func(s State) bool { return s.Outcome != "" })
	sum, any := descale.Sum(end.Acids[0].Tally)
	if end.Outcome != Finished || !any || sum.Grams.Likely < 0.2 {
		t.Errorf("%s, %+v", end.Outcome, sum)
	}
}

// A strip that does not match asks for more; three times, and somebody is to stop
// and look; a taste of acid counts as no match; a meter needs no second reading.
func TestRinseIsProven(t *testing.T) {
	h := newHand(t, descalePlan(t, machine.DualHome, nil, nil))
	h.step("prove-brew-boiler")
	sour := descale.Strip{PH: 7.4, Taste: descale.TasteAcid}
	s := h.with(Press{Kind: Measured, Strip: &sour})
	if !strings.HasPrefix(s.Step.ID, "more-1-") || s.Finding == nil ||
		!strings.Contains(s.Finding.Because[0].Text, "tastes") {
		t.Fatalf("at %s, %+v", s.Step.ID, s.Finding)
	}
	for n := 2; n <= mostStrikes; n++ {
		h.until("the next look", func(s State) bool { return s.Step.Reads == job.Proof })
		s = h.with(Press{Kind: Measured, Strip: &descale.Strip{PH: 5}})
	}
	if s.Finding == nil || s.Finding.Verdict != reason.Stop || !slices.Contains(s.Allowed, Again) ||
		slices.Contains(s.Allowed, Measured) {
		t.Fatalf("three times: %+v, allowed %v", s.Finding, s.Allowed)
	}
	h.press(Again)
	h.until("the next look", func(s State) bool { return s.Step.Reads == job.Proof })
	meter := descale.Strip{PH: 7.6, Meter: true, Taste: descale.TasteGone}
	if s := h.with(Press{Kind: Measured, Strip: &meter}); s.Acids[0].In || !s.Acids[1].In ||
		s.Step.ID != "prove-steam-boiler" {
		t.Errorf("a meter: %+v at %s", s.Acids, s.Step.ID)
	}
}

// “Not drained” is led round: reopened, asked again, twice at most.
func TestNotDrained(t *testing.T) {
	h := newHand(t, descalePlan(t, machine.DualHome, nil, nil))
	h.step("drain-steam-boiler")
	for n := range 2 {
		s := h.with(Press{Kind: Heard, What: "not_drained"})
		if !strings.Contains(s.Step.ID, "reopen") || s.Pipes.At("steam-boiler").Litres < 1 {
			t.Fatalf("try %d leads to %s", n, s.Step.ID)
		}
		h.press(Done)
	}
	if s := h.with(Press{Kind: Heard, What: "not_drained"}); s.Finding == nil || s.Finding.Verdict != reason.Stop ||
		!slices.Contains(s.Allowed, Stop) {
		t.Fatalf("the third time: %+v", s.Finding)
	}
	if s := h.with(Press{Kind: Heard, What: "drained"}); s.Step.ID != "drain-brew-boiler" ||
		s.Pipes.At("steam-boiler").Litres > 0.1 {
		t.Errorf("it ran after all: at %s", s.Step.ID)
	}
	if s := h.state(); !slices.Contains(s.Marks, "not drained") {
		t.Errorf("marks %v", s.Marks)
	}
}

// A hold in a push keeps what has gone through; no water counts for nothing.
func TestPushIsHeldAndResumed(t *testing.T) {
	h := newHand(t, descalePlan(t, machine.SingleBoiler, nil, nil))
	s := h.step("push-boiler")
	whole := s.Step.Litres()
	h.press(Begin)
	h.wait(10 * time.Second)
	s = h.press(Hold)
	if got := s.Pipes.At("jug").Litres; s.Segment.Kind != Held || got < 0.079 || got > 0.081 {
		t.Fatalf("held with %.3f L in the jug, want 8 mL/s for 10 s", got)
	}
	h.press(Begin)
	h.wait(4 * time.Second)
	if s := h.press(NoPressure); s.Finding == nil || s.Pipes.At("jug").Litres > 0.081 {
		t.Fatalf("no water: %+v, %.3f L", s.Finding, s.Pipes.At("jug").Litres)
	}
	h.press(Begin)
	s = h.until("the soak", func(s State) bool { return s.Step.ID != "push-boiler" })
	if got := s.Pipes.At("jug").Litres; got < whole-1e-6 || got > whole+1e-6 {
		t.Errorf("%.4f L through, want %.4f", got, whole)
	}
}

// The power goes in the middle of a soak and comes back after two hours: the
// remaining soaks are left out, and the advice says why.
func TestPowerCut(t *testing.T) {
	h := newHand(t, descalePlan(t, machine.SingleBoiler, nil, nil))
	h.until("the soak", func(s State) bool { return s.Segment.Kind == Soak })
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
		!strings.Contains(s.Finding.Because[1].Text, "may stand 60 in all") {
		t.Fatalf("back: %+v", s.Finding)
	}
	if s := h.until("the rinse", func(s State) bool { return s.Step.Phase != job.Acidic }); s.Step.ID != "clean-source" ||
		slices.ContainsFunc(s.Lines, func(l Line) bool { return l.ID == "soak-2" }) {
		t.Errorf("went on to %s", s.Step.ID)
	}
	// in a push, what has gone through is kept
	h = newHand(t, descalePlan(t, machine.SingleBoiler, nil, nil))
	h.step("push-boiler")
	h.press(Begin)
	h.wait(10 * time.Second)
	h.press(Cut)
	h.wait(time.Minute)
	if s := h.press(Back); s.Segment.Kind != Held || s.Pipes.At("jug").Litres < 0.079 ||
		s.Finding.Verdict != reason.Look {
		t.Errorf("cut in a push: %+v, %+v", s.Segment, s.Finding)
	}
}

// Blue or green ends the soaking at once.
func TestCopperComesOff(t *testing.T) {
	h := newHand(t, descalePlan(t, machine.SingleBoiler, nil, nil))
	h.step("spent-boiler")
	s := h.with(Press{Kind: Measured, Strip: &descale.Strip{PH: 2.5, Blue: true}})
	if s.Step.ID != "clean-source" || s.Finding == nil || s.Finding.Verdict != reason.Stop ||
		!slices.Contains(s.Marks, "blue or green solution") {
		t.Errorf("at %s: %+v", s.Step.ID, s.Finding)
	}
}

// Stopped with acid inside it is unsafe; the next run only rinses, and ends it.
func TestAcidLeftInIsRinsedOut(t *testing.T) {
	h := newHand(t, descalePlan(t, machine.DualHome, nil, nil))
	h.until("the soak", func(s State) bool { return s.Segment.Kind == Soak && s.Step.Stands })
	if s := h.press(Stop); s.Outcome != StoppedUnsafe || !s.In() {
		t.Fatalf("stopped: %s", s.Outcome)
	}
	h = newHand(t, descalePlan(t, machine.DualHome, nil, func(in *job.Sitting) { in.Dirty = true }))
	if s := h.state(); !s.In() {
		t.Fatal("acid that was left in is not in")
	}
	if s := h.until("the end", func(s State) bool { return s.Outcome != "" }); s.Outcome != Finished || s.In() ||
		len(s.Errands) != 0 {
		t.Errorf("rinsed: %s, %+v", s.Outcome, s.Errands)
	}
}

// A wash that is joined follows in the same run, after the filter is back; each is
// told by itself.
func TestJoinedWithFilterAndWash(t *testing.T) {
	a := machine.Answers{
		Layout:    machine.SingleBoiler,
		Valve:     machine.Yes,
		Drinks:    4,
		Hardness:  units.UnknownHardness(),
		Treatment: machine.InTank,
	}
	w, err := job.Wash(a, backflush.HalfTeaspoon, backflush.UsualPowder, job.Part{Group: 1})
	if err != nil {
		t.Fatal(err)
	}
	h := newHand(t, descalePlan(t, machine.SingleBoiler, nil, func(in *job.Sitting) { in.Renew, in.Wash = true, &w }))
	dose := h.step("dose")
	if dose.In() || dose.Errands[0].Outcome != Finished || dose.Errands[1].Task != care.FilterChange ||
		dose.Errands[1].Outcome != Finished {
		t.Fatalf("before the dose: %+v", dose.Errands)
	}
	if s := h.press(Done); s.Groups[0].Outcome() != StoppedUnsafe || s.Acids[0].In {
		t.Fatal("detergent is not in")
	}
	h.step("discard")
	if s := h.press(Done); s.Outcome != Finished || s.Soapy != 5 {
		t.Errorf("%s, %d pulses", s.Outcome, s.Soapy)
	}
}

// Over random machines and random hands: in a descale the pump never runs longer than
// its duty, no liquid does what it must not, nothing ends as done before every rinse is
// proven, and acid never stands beside detergent.
func TestRandomDescales(t *testing.T) {
	r := rand.New(rand.NewPCG(20, 26))
	ends := map[Outcome]int{}
	for n := range 30 {
		h := newHand(t, randomPlan(t, r))
		for range 700 {
			s := h.state()
			if s.Broke != nil {
				t.Fatalf("run %d: %v", n, s.Broke)
			}
			if on := h.plan.Duty.On; on > 0 && s.Step.Phase != "" && s.Ran > on+time.Millisecond {
				t.Fatalf("run %d at %s: the pump is at %v of %v", n, s.Step.ID, s.Ran, on)
			}
			if s.Contact > h.plan.Acid.Contact+100*time.Hour {
				t.Fatalf("run %d: acid stood %v", n, s.Contact)
			}
			acid := slices.ContainsFunc(s.Acids, func(a Acid) bool { return a.In })
			if acid && slices.ContainsFunc(s.Groups, func(g Group) bool { return g.Detergent.In }) {
				t.Fatalf("run %d at %s: acid beside detergent", n, s.Step.ID)
			}
			for _, v := range s.Pipes.Vessels {
				if v.Litres > v.Holds+1e-6 || v.Litres < -1e-6 || v.Kind == descale.Source && v.Acid > 1+1e-9 {
					t.Fatalf("run %d at %s: %+v", n, s.Step.ID, v)
				}
			}
			if s.Outcome != "" {
				for _, a := range s.Acids {
					if s.Outcome == Finished &&
						(!a.Ever || a.In || len(a.Strips) == 0 || !a.Strips[len(a.Strips)-1].Matches(s.Feed.PH)) {
						t.Fatalf("run %d ends as done: %+v", n, a)
					}
				}
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

// fumble presses mostly what leads on, now and then anything else.
func (h *hand) fumble(r *rand.Rand, s State) {
	if r.IntN(6) > 0 {
		h.answer(s)
		return
	}
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
	case k == 5 && len(s.Step.Ways) > 0:
		h.with(Press{Kind: Heard, What: s.Step.Ways[r.IntN(len(s.Step.Ways))].What})
	case k == 6:
		h.with(Press{Kind: Measured, Strip: &descale.Strip{PH: 3 + 5*r.Float64(), Taste: descale.TasteGone}})
	case k == 7:
		h.press([]PressKind{Done, Begin, Again, Turn, Back}[r.IntN(5)])
	default:
		h.wait(time.Duration(r.IntN(600)) * time.Second)
	}
}

func randomPlan(t testing.TB, r *rand.Rand) job.Plan {
	t.Helper()
	layouts := []machine.Layout{
		machine.Thermoblock,
		machine.SingleBoiler,
		machine.DualHome,
		machine.HXHome,
		machine.LeverManual,
	}
	l := layouts[r.IntN(len(layouts))]
	a := machine.Answers{Layout: l}
	set := map[string]string{}
	for _, o := range [][2]string{{"jug_l", fmt.Sprintf("%.2f", 0.3+2*r.Float64())},
		{"tank_l", fmt.Sprintf("%.2f", 0.8+2*r.Float64())}, {"duty_on_min", fmt.Sprintf("%.2f", 0.5+2*r.Float64())},
		{"tray_l", fmt.Sprintf("%.2f", 0.2+r.Float64())}, {"boiler_material", "aluminium"}, {"drain", "plug"},
		{"own_descale", "yes"}, {"flow_ml_s", "4"}} {
		if r.IntN(3) == 0 && a.CheckOverride(o[0], o[1]) == nil {
			set[o[0]] = o[1]
		}
	}
	a.Overrides = set
	list := descale.ProgramsFor(a.Facts())
	prog := list[r.IntN(len(list))].ID
	w, err := job.Wash(
		machine.Answers{Layout: machine.SingleBoiler, Valve: machine.Yes},
		backflush.HalfTeaspoon,
		backflush.UsualPowder,
		job.Part{Group: 1},
	)
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
