package run

import (
	"errors"
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

// knocks is a kind of step that no plan knows: so many presses, a breath between them.
type knocks struct{ Times int }

func (knocks) Kind() job.StepKind                                     { return "knocks" }
func (k knocks) Spell(takes time.Duration, _ *job.Pump) time.Duration { return takes }
func (knocks) Water(units.Volume) units.Volume                        { return 0 }

// knocking carries it out: all there is to a kind stands here.
type knocking struct {
	still
	f    *fold
	left int
}

func (k *knocking) allowed() []PressKind {
	if k.f.mode == Rest {
		return nil
	}
	return []PressKind{Done}
}

func (k *knocking) press(p Press) {
	if p.Kind == Done && k.f.mode == Open {
		k.left--
		k.f.turnTo(Rest)
	}
}

func (k *knocking) ends() (time.Time, bool) { return k.f.since.Add(2 * time.Second), k.f.mode == Rest }

func (k *knocking) pass() {
	if k.left == 0 {
		k.f.next()
		return
	}
	k.f.turnTo(Open)
}

// A kind of step is a file: one that is made here, and that neither the fold nor any
// other kind has heard of, is carried out, listed and replayed with the rest.
func TestAKindIsAFile(t *testing.T) {
	kinds["knocks"] = func(f *fold) kind {
		body, _ := job.BodyOf[knocks](f.step())
		return &knocking{f: f, left: body.Times}
	}
	defer delete(kinds, "knocks")
	p := plan(t, machine.DualHome, false)
	a := &p.Activities[0]
	a.Steps = append(a.Steps, job.Step{
		ID: "knock", Activity: a.ID, Lane: job.Hands, Part: a.Part, Title: "knock three times", Body: knocks{3},
	})
	p.Order = slices.Insert(slices.Clone(p.Order), 1, "knock")
	h := newHand(t, p).to("knock")
	for n := range 3 {
		if s := h.state(); s.Step.ID != "knock" || !reflect.DeepEqual(s.Allowed, []PressKind{Done, Stop, Away}) {
			t.Fatalf("knock %d: %s, %v", n, s.Step.ID, s.Allowed)
		}
		if s := h.press(Done); s.Segment.Kind != Rest || slices.Contains(s.Allowed, Done) {
			t.Fatalf("after knock %d: %+v", n, s.Segment)
		}
		h.wait(2 * time.Second)
	}
	if s := h.state(); s.Step.ID != "brush" || s.Lines[1].Status != "gone" {
		t.Errorf("after three: %s", s.Step.ID)
	}
	if s := h.to("discard").press(Done); s.Outcome != Finished {
		t.Errorf("ended %q", s.Outcome)
	}
}

// The clock of the machine is set back by two minutes, or an hour, in a step of every
// kind: time stands still, presses that follow count, and nothing that was done is
// undone.
func TestClockSetBackStandsStill(t *testing.T) {
	wash := planBy(t, machine.HXHome, backflush.Soak, false)
	own := planBy(t, machine.HXHome, backflush.MachineProgram, false)
	dirty := plan(t, machine.SingleBoiler, true)
	acid := descalePlan(t, machine.SingleBoiler, steel, nil)
	block := descalePlan(t, machine.Thermoblock, steel, nil)
	for name, at := range map[string]struct {
		plan job.Plan
		to   func(*hand) State
	}{
		"act":    {wash, func(h *hand) State { return h.to("blind").state() }},
		"pulses": {wash, func(h *hand) State { h.to("short").press(Begin); return h.wait(12 * time.Second).state() }},
		"soak":   {wash, func(h *hand) State { return h.to("soak").wait(time.Minute).state() }},
		"wait":   {own, func(h *hand) State { h.to("program").press(Begin); return h.wait(time.Minute).state() }},
		"first":  {wash, func(h *hand) State { return h.to("first").state() }},
		"cup":    {wash, func(h *hand) State { return h.to("cup").state() }},
		"choose": {dirty, func(h *hand) State { return h.to("listen").state() }},
		"push": {acid,
			func(h *hand) State {
				h.until("a push", pushing)
				h.press(Begin)
				return h.wait(3 * time.Second).state()
			}},
		"sips": {block, func(h *hand) State {
			h.until("sips", func(s State) bool { return job.Is[job.Sips](s.Step) })
			h.press(Begin)
			return h.wait(5 * time.Second).state()
		}},
		"measure": {acid, func(h *hand) State { return h.until("the proof", proving) }},
	} {
		for _, back := range []time.Duration{2 * time.Minute, time.Hour} {
			t.Run(name+" "+back.String(), func(t *testing.T) {
				h := newHand(t, at.plan)
				want := at.to(h)
				// a press that does nothing, made at what the clock showed, holds the time reached
				h.add(Press{ID: "here", Step: "none", At: h.now})
				reached := h.now
				h.now = h.now.Add(-back)
				if got := h.state(); !reflect.DeepEqual(got, want) {
					t.Fatalf("%s after the clock went back: %s %+v, before %s %+v", back, got.Step.ID, got.Segment,
						want.Step.ID, want.Segment)
				}
				if want.In() != h.state().In() {
					t.Fatal("what is in the machine is hidden")
				}
				after := h.answerOnce()
				h.now = reached.Add(time.Second)
				if late := h.state(); late.Step.ID != after.Step.ID {
					t.Errorf("a press counted only until the clock caught up: %s, then %s", after.Step.ID, late.Step.ID)
				}
				if s := h.state(); s.Outcome != "" {
					t.Errorf("it ended: %s", s.Outcome)
				}
			})
		}
	}
}

// answerOnce presses what leads on, and only that.
func (h *hand) answerOnce() State {
	if s := h.state(); len(s.Allowed) > 0 && s.Segment.Kind != On && s.Segment.Kind != Off && s.Segment.Kind != Soak {
		h.answer(s)
	}
	return h.state()
}

// An ended run stays ended, whatever the clock says afterwards.
func TestAnEndedRunStaysEnded(t *testing.T) {
	h := newHand(t, plan(t, machine.DualHome, false)).to("discard")
	if s := h.press(Done); s.Outcome != Finished {
		t.Fatal("it has not ended")
	}
	h.now = start.Add(-time.Hour)
	if s := h.state(); s.Outcome != Finished {
		t.Errorf("an hour back it is at %s again", s.Step.ID)
	}
}

// Nothing came out at the drain: the pulse counts for nothing, twice it is the end of
// trying, and only somebody's word that it opened undoes it. What was counted in
// earlier runs counts too.
func TestNothingCame(t *testing.T) {
	h := newHand(t, plan(t, machine.DualHome, false)).to("detergent")
	if s := h.state(); slices.Contains(s.Allowed, NothingCame) {
		t.Error("nothing has been pulsed, and it may be said that nothing came")
	}
	h.press(Begin)
	s := h.wait(27 * time.Second).press(NothingCame) // in the second OFF
	if s.Soapy != 1 || s.Segment.Kind != Held || s.Blind != 1 || s.Finding == nil ||
		s.Finding.Verdict != reason.Stop || !strings.Contains(s.Finding.Title, "under pressure") {
		t.Fatalf("once: %d pulses, %+v, %+v", s.Soapy, s.Segment, s.Finding)
	}
	if want := []PressKind{Begin, Opened, Stop, RinseNow, Away}; !reflect.DeepEqual(s.Allowed, want) {
		t.Errorf("once: allowed %v, want %v", s.Allowed, want)
	}
	h.press(Begin)
	// after the second try nobody goes on before it is said whether anything came
	s = h.wait(15 * time.Second).state()
	want := []PressKind{Opened, NothingCame, Stop, RinseNow, Away}
	if !reflect.DeepEqual(s.Allowed, want) || s.Soapy != 2 {
		t.Errorf("after the second try: allowed %v, want %v", s.Allowed, want)
	}
	s = h.press(NothingCame)
	if s.Soapy != 1 || s.Blind != 2 || slices.Contains(s.Allowed, Begin) || !slices.Contains(s.Allowed, Opened) {
		t.Fatalf("twice: %d pulses, blind %d, allowed %v", s.Soapy, s.Blind, s.Allowed)
	}
	if s := h.press(Begin); s.Segment.Kind != Held {
		t.Fatal("pulses begin on a head that let nothing out twice")
	}
	if s := h.press(Opened); s.Blind != 0 || !slices.Contains(s.Allowed, Begin) {
		t.Errorf("it opened: blind %d, allowed %v", s.Blind, s.Allowed)
	}
	if s := h.press(Stop); s.Outcome != StoppedUnsafe {
		t.Errorf("stopped: %s", s.Outcome)
	}
}

// At the first dirty water it is an answer too: the last pulse counts for nothing, and
// one more is made once the head has opened.
func TestNothingCameAtTheFirstLook(t *testing.T) {
	h := newHand(t, plan(t, machine.DualHome, false)).to("first")
	before := h.state().Soapy
	s := h.press(NothingCame)
	if s.Soapy != before-1 || s.Blind != 1 || !reflect.DeepEqual(s.Allowed, []PressKind{Opened, Stop, RinseNow, Away}) {
		t.Fatalf("%d pulses, blind %d, allowed %v", s.Soapy, s.Blind, s.Allowed)
	}
	if s := h.with(Press{Kind: Graded, First: backflush.ColourPale}); s.Step.ID != "first" {
		t.Fatal("it goes on as if water had come")
	}
	s = h.press(Opened)
	if set, ok := job.BodyOf[job.Pulses](s.Step); !ok || set.Count != 1 || s.Step.Effect == job.Rinses {
		t.Fatalf("after it opened: %s", s.Step.ID)
	}
	h.press(Begin)
	s = h.wait(16 * time.Second).state()
	if !sees(s, job.FirstWater) || s.Soapy != before {
		t.Errorf("then: %s, %d pulses", s.Step.ID, s.Soapy)
	}
	h.with(Press{Kind: Graded, First: backflush.ColourPale})
	if s := h.to("discard").press(Done); s.Outcome != Finished || s.Blind != 0 {
		t.Errorf("ended %q", s.Outcome)
	}
}

// It came at the second try: it is said, and the set goes on from the next pulse.
func TestItCameAtTheSecondTry(t *testing.T) {
	h := newHand(t, plan(t, machine.DualHome, false)).to("detergent")
	h.press(Begin)
	h.wait(12 * time.Second).press(NothingCame)
	h.press(Begin)
	h.wait(time.Minute)
	if s := h.press(Opened); s.Blind != 0 || s.Segment.Kind != On || s.Segment.Pulse != 2 {
		t.Errorf("blind %d, %+v", s.Blind, s.Segment)
	}
	h.wait(time.Minute)
	if s := h.state(); s.Soapy != 5 || s.Step.ID != "first" {
		t.Errorf("then %s after %d pulses", s.Step.ID, s.Soapy)
	}
}

// After a try at which nothing came nobody washes the group before it is open: it is freed, cold,
// and the tries stand until the handle is out.
func TestNothingCameCountsOverRuns(t *testing.T) {
	a := machine.Answers{Layout: machine.DualHome, Valve: machine.Yes, Drinks: 4,
		Hardness: units.UnknownHardness(), Treatment: machine.Untreated}
	var no *reason.Refusal
	_, err := job.Wash(a, backflush.HalfTeaspoon, backflush.UsualPowder, job.Target{Group: 1, Blind: 1})
	if !errors.As(err, &no) || no.Code != job.HeadBlocked {
		t.Errorf("washed after one try: %v", err)
	}
	p, err := job.Unblock(a, backflush.UsualPowder, job.Target{Group: 1, Blind: 1})
	if err != nil {
		t.Fatal(err)
	}
	for _, s := range p.Steps() {
		text := strings.Join(s.Do, " ")
		if s.ID == "loosen" {
			break
		}
		for _, never := range []string{"hiss", "at pressure", "is on and hot"} {
			if strings.Contains(text, never) {
				t.Errorf("%s says of a blocked head: %s", s.ID, text)
			}
		}
	}
	h := newHand(t, p).to("cold")
	h.press(Begin)
	h.press(Done)
	stuck := newHand(t, p)
	stuck.presses, stuck.now = slices.Clone(h.presses), h.now
	s := stuck.with(Press{Kind: Heard, Answer: job.Stuck})
	if s.Blind != 1 || s.Finding == nil || s.Finding.Verdict != reason.Stop || stuck.press(Stop).Blind != 1 {
		t.Errorf("stuck: blind %d, %+v", s.Blind, s.Finding)
	}
	if s := h.with(Press{Kind: Heard, Answer: job.Opens}); s.Blind != 0 || s.Step.ID != "on" {
		t.Errorf("open: blind %d at %s", s.Blind, s.Step.ID)
	}
	if s := h.to("discard").press(Done); s.Outcome != Finished || s.In() {
		t.Errorf("freed: %q", s.Outcome)
	}
}
