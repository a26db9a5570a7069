package run

import (
	"math/rand/v2"
	"reflect"
	"strings"
	"testing"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// two is a wash of both groups of a shop's machine.
func two(t testing.TB, id backflush.MethodID, set map[string]string, parts ...job.Target) job.Plan {
	t.Helper()
	a := machine.Answers{
		Layout:    machine.MultiCafe,
		Valve:     machine.Yes,
		Drinks:    120,
		Hardness:  units.UnknownHardness(),
		Treatment: machine.Untreated,
		Overrides: set,
	}
	if len(parts) == 0 {
		parts = []job.Target{{Group: 1}, {Group: 2}}
	}
	p, err := job.Wash(a, id, backflush.UsualPowder, parts...)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

// One group soaks while the hands are in the other; each keeps its own hazard.
func TestTwoGroupsAtOnce(t *testing.T) {
	h := newHand(t, two(t, backflush.Soak, nil)).to("1-short")
	h.press(Begin)
	h.wait(40 * time.Second) // 4 × 5/5
	s := h.state()
	if s.Step.ID != "2-brush" || len(s.Soaks) != 1 || s.Soaks[0].Step.ID != "1-soak" ||
		s.Soaks[0].End.Sub(h.now) != 3*time.Minute {
		t.Fatalf("group 1 soaks: at %s, beside %+v", s.Step.ID, s.Soaks)
	}
	if !s.In() || s.Detergent.In || s.Number() != 2 || !s.Groups[0].Detergent.In {
		t.Errorf("group 2 is clean, group 1 is not: %+v", s.Groups)
	}
	for _, l := range s.Lines {
		if (l.ID == "1-soak") != (l.Status == "beside") {
			t.Errorf("%s is %s", l.ID, l.Status)
		}
	}
	h.to("2-short").press(Begin)
	h.wait(40 * time.Second)
	if s := h.state(); s.Step.ID != "1-soak" || s.Segment.Kind != Soak || len(s.Soaks) != 1 ||
		s.Soaks[0].Step.ID != "2-soak" {
		t.Fatalf("both soak: at %s, %+v", s.Step.ID, s.Soaks)
	}
	h.wait(3 * time.Minute) // the first is over, and the second half a minute
	if s := h.state(); s.Step.ID != "1-detergent" || s.Segment.Kind != Open {
		t.Fatalf("at %s", s.Step.ID)
	}
	h.press(Begin)
	h.wait(time.Minute)
	if s := h.state(); s.Step.ID != "2-detergent" {
		t.Errorf("the second soak is over, but the hands are sent to %s", s.Step.ID)
	}
	h.to("outside")
	if s := h.state(); s.Groups[0].Detergent.In || s.Groups[0].Soapy != 10 ||
		s.Groups[0].Through.Pulses != 3+4+6+s.Groups[0].Detergent.Rinsed {
		t.Errorf("group 1 rinsed: %+v", s.Groups[0])
	}
	for s = h.state(); s.Outcome == ""; s = h.state() {
		h.to(s.Step.ID)
		switch {
		case s.Step.Kind() == job.ActKind:
			h.press(Done)
		case sees(s, job.RinseCup):
			h.read(clean)
		case sees(s, job.FirstWater):
			h.with(Press{Kind: Graded, First: backflush.ColourPale})
		case s.Segment.Kind == Open:
			h.press(Begin)
		default:
			h.wait(time.Second)
		}
	}
	if s.Outcome != Finished || s.In() || !s.Groups[0].Ended || !s.Groups[1].Ended ||
		s.Groups[1].First != backflush.ColourPale {
		t.Errorf("ended %q: %+v", s.Outcome, s.Groups)
	}
}

// Slow hands: what a group waits for whose soak is over comes before all else,
// a rinse that is not clear yet too.
func TestASoakThatIsOverComesFirst(t *testing.T) {
	h := newHand(t, two(t, backflush.Soak, nil)).to("2-brush")
	h.wait(4 * time.Minute)
	if s := h.press(Done); s.Step.ID != "1-detergent" {
		t.Errorf("group 1 has soaked for four minutes, the hands are sent to %s", s.Step.ID)
	}
	if s := h.to("2-dose").state(); s.Step.ID != "2-dose" || s.Groups[0].Soapy != 10 {
		t.Errorf("then on to group 2: %s", s.Step.ID)
	}
}

// Stopped in the middle, each group ends as it stands.
func TestStoppedBetweenTwoGroups(t *testing.T) {
	h := newHand(t, two(t, backflush.HalfTeaspoon, nil)).to("2-brush")
	s := h.press(Stop)
	if s.Outcome != Stopped || s.Activities[0].Outcome != Finished || s.Activities[1].Outcome != Stopped {
		t.Errorf("%q: %q and %q", s.Outcome, s.Activities[0].Outcome, s.Activities[1].Outcome)
	}
	h = newHand(t, two(t, backflush.Soak, nil)).to("2-brush")
	if s := h.press(Stop); s.Outcome != StoppedUnsafe || s.Activities[0].Outcome != StoppedUnsafe ||
		s.Activities[1].Outcome != Stopped {
		t.Errorf("%q: %q and %q", s.Outcome, s.Activities[0].Outcome, s.Activities[1].Outcome)
	}
	// one group was left dirty: it is rinsed, the other washed
	h = newHand(
		t,
		two(t, backflush.HalfTeaspoon, nil, job.Target{Group: 2, Dirty: true}, job.Target{Group: 1}),
	).to("2-listen")
	if s := h.state(); s.Number() != 2 || s.Detergent.Least != 10 || s.Groups[1].Detergent.Least != 5 {
		t.Errorf("%+v", s.Groups)
	}
}

// bears plays a run through by its boundaries and keeps the pump's account apart
// from the fold: warmed by each second of ON, cooled by the rating's rate. It is
// never warmer at the end of an ON than one that has run as long as it may.
func bears(t testing.TB, p job.Plan, speed int, presses []Press, end time.Time) {
	t.Helper()
	cool := float64(p.Setups[0].Duty.On) / float64(p.Setups[0].Duty.Off)
	warm, at, next := 0.0, start, 0
	for at.Before(end) {
		s := Fold(p, start, speed, made(presses, at), at)
		until := end
		if !s.Segment.End.IsZero() && s.Segment.End.After(at) {
			until = s.Segment.End
		}
		for next < len(presses) && !presses[next].At.After(at) {
			next++
		}
		if next < len(presses) && presses[next].At.Before(until) {
			until = presses[next].At
		}
		if s.Segment.Kind == On && s.Segment.End.IsZero() { // own pace: the duty may end it
			low, high := at, until
			for high.Sub(low) > time.Microsecond {
				if mid := low.Add(high.Sub(low) / 2); Fold(
					p,
					start,
					speed,
					made(presses, mid),
					mid,
				).Segment.Kind == On {
					low = mid
				} else {
					high = mid
				}
			}
			until = high
		}
		if s.Outcome != "" {
			return
		}
		took := float64(until.Sub(at)) * float64(speed)
		before := Fold(p, start, speed, made(presses, until.Add(-time.Nanosecond)), until.Add(-time.Nanosecond))
		if s.Segment.Kind == On {
			warm += took
			if slack := float64(time.Millisecond); warm > float64(p.Setups[0].Duty.On)+slack {
				t.Fatalf(
					"the pump has run %v on top of its rests, it may %v: %s at %v",
					time.Duration(warm),
					p.Setups[0].Duty.On,
					s.Step.ID,
					until.Sub(start),
				)
			}
		} else {
			warm = max(0, warm-took*cool)
		}
		after := Fold(p, start, speed, made(presses, until), until)
		if before.Step.Kind() == job.ActKind && after.Step.ID != before.Step.ID { // a flush by hand, of unknown instant
			warm += float64((&job.Pump{Flow: p.Setups[0].Flow}).Flush(before.Step.Body.Water(0)))
		}
		at = until
	}
}

// Whatever is pressed, the pump is never run past its duty; where it may run for
// half a minute only, it rests in the middle of a set.
func TestDutyIsNeverExceeded(t *testing.T) {
	random := rand.New(rand.NewPCG(21, 4))
	rests := 0
	for round := range 60 {
		methods := backflush.Methods()
		p := anyPlan(t, random, methods[round%len(methods)].ID, false)
		speed := 1 + random.IntN(10)
		list, end := storm(random, p, speed)
		bears(t, p, speed, list, end)
		for _, press := range list {
			if Fold(p, start, speed, made(list, press.At), press.At).Segment.Kind == Rest {
				rests++
			}
		}
	}
	if rests == 0 {
		t.Error("no pump ever rested: the test proves nothing")
	}
}

// 30 s on and 1 min off: a second of running takes two of rest. Ten seconds on,
// five off warm it by 7.5 s a pulse: three fit, the fourth waits.
func TestThePumpRestsBetweenPulses(t *testing.T) {
	h := newHand(t, two(t, backflush.HalfTeaspoon, map[string]string{"pump": "vibratory"}))
	if h.plan.Setups[0].Duty.On != 2*time.Minute {
		t.Fatalf("duty %+v", h.plan.Setups[0].Duty)
	}
	h.plan.Setups[0].Duty.On = 30 * time.Second
	h.to("1-detergent").wait(time.Minute)
	s := h.press(Begin)
	var kinds []string
	for _, g := range s.Schedule {
		kinds = append(kinds, string(g.Kind))
	}
	if got := strings.Join(kinds, " "); got != "on off on off on off rest on off rest on off" {
		t.Errorf("schedule: %s", got)
	}
	for _, g := range s.Schedule {
		if now := Fold(h.plan, start, 1, h.presses, g.Start); now.Segment != g {
			t.Errorf("the schedule said %+v, it came to %+v", g, now.Segment)
		}
	}
	h.now = s.Schedule[6].Start.Add(time.Second)
	if s := h.state(); s.Soapy != 3 ||
		!reflect.DeepEqual(s.Allowed, []PressKind{Hold, NoPressure, NothingCame, Stop, RinseNow, Away}) ||
		s.Segment.Pulse != 4 {
		t.Errorf("in the rest: %d pulses, %+v, allowed %v", s.Soapy, s.Segment, s.Allowed)
	}
	if s := h.press(NoPressure); s.Soapy != 2 || s.Segment.Kind != Held || s.Segment.Pulse != 3 {
		t.Errorf("no pressure, said in the rest, takes the pulse before it back: %d, %+v", s.Soapy, s.Segment)
	}
	if s := h.press(Begin); s.Segment.Kind != Rest {
		t.Errorf("begun at once: %+v, want the rest to go on", s.Segment)
	}
	if again := h.press(NoPressure); again.Soapy != 2 || again.Segment.Kind != Rest {
		t.Errorf("no pressure before any pulse: %d, %+v", again.Soapy, again.Segment)
	}
	// at one's own pace the pump is sent off when it has run as long as it may
	h = newHand(t, h.plan).to("1-detergent").wait(time.Minute)
	h.with(Press{Kind: Begin, Own: true})
	h.wait(31 * time.Second)
	if s := h.state(); s.Segment.Kind != Held || s.Soapy != 0 || s.Finding == nil ||
		s.Finding.Verdict != reason.Stop ||
		s.Ran > 30*time.Second {
		t.Errorf("31 s on: %+v, %+v, ran %v", s.Segment, s.Finding, s.Ran)
	}
}
