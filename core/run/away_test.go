package run

import (
	"slices"
	"strings"
	"testing"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/job"
	"freshanvil/core/machine"
)

// Called away in a pulse: it is held and comes again, the run waits, a ring is due at the end of the
// minutes, and whoever is back goes on where it stood.
func TestCalledAwayAndBack(t *testing.T) {
	h := newHand(t, plan(t, machine.DualHome, false)).to("detergent")
	h.press(Begin)
	h.wait(17 * time.Second)
	s := h.with(Press{Kind: Away, Minutes: 5})
	if s.Absence == nil || s.Absence.Until.Sub(h.now) != 5*time.Minute || s.Segment.Kind != Held ||
		!slices.Equal(s.Allowed, []PressKind{Returned, Stop}) || len(s.Absence.Do) == 0 {
		t.Fatalf("called away: %+v, %s, %v", s.Absence, s.Segment.Kind, s.Allowed)
	}
	h.wait(20 * time.Minute)
	if s := h.press(Begin); s.Segment.Kind != Held || s.Soapy != 1 {
		t.Errorf("somebody who is away begins a pulse: %s", s.Segment.Kind)
	}
	if s := h.press(Returned); s.Absence != nil || !slices.Contains(s.Allowed, Begin) {
		t.Errorf("back: %+v, %v", s.Absence, s.Allowed)
	}
	h.press(Begin)
	h.wait(time.Minute)
	if s := h.state(); s.Soapy != 5 || s.Step.ID != "first" {
		t.Errorf("then %s after %d pulses", s.Step.ID, s.Soapy)
	}
}

// With detergent in a group nobody goes for longer than five minutes; without, for thirty. With acid
// in, for as long as it may still stand.
func TestHowLongSomebodyMayBeAway(t *testing.T) {
	may := func(s State) (list []int) {
		for _, l := range s.Absences {
			if l.Not == "" {
				list = append(list, l.Minutes)
			}
			if len(l.Do) == 0 {
				t.Errorf("%d minutes: nothing is said to do", l.Minutes)
			}
		}
		return list
	}
	h := newHand(t, plan(t, machine.DualHome, false)).to("water")
	if got := may(h.state()); !slices.Equal(got, []int{5, 15, 30}) {
		t.Errorf("before the dose: %v", got)
	}
	h.to("rinse")
	if got := may(h.state()); !slices.Equal(got, []int{5}) {
		t.Errorf("with detergent in: %v", got)
	}
	if s := h.with(Press{Kind: Away, Minutes: 30}); s.Absence != nil {
		t.Error("half an hour away, with detergent in")
	}
	if (Press{Kind: Away, Minutes: 7}).Check() == nil {
		t.Error("seven minutes were taken")
	}
	sour := newHand(t, descalePlan(t, machine.SingleBoiler, steel, nil))
	sour.until("the soak", soaking)
	s := sour.state()
	if got := may(s); len(got) == 0 || !strings.Contains(strings.Join(s.Absences[0].Do, " "), "steam tap open") {
		t.Errorf("with acid in: %v, %v", got, s.Absences)
	}
}

// From every step with detergent in, the rinse can be had at once: a pulse more for each detergent
// pulse that was left out, the cup, the flush; then the run is over, and the wash does not count.
func TestRinseNowAndStop(t *testing.T) {
	for _, at := range []string{"short", "soak", "detergent", "first", "blind", "rinse", "cup"} {
		t.Run(at, func(t *testing.T) {
			h := newHand(t, planBy(t, machine.HXHome, backflush.Soak, false)).to(at)
			before := h.state()
			s := h.press(RinseNow)
			if want := 6 + 10 - before.Soapy; s.Detergent.Least != want {
				t.Errorf("after %d of 10 pulses at least %d, want %d", before.Soapy, s.Detergent.Least, want)
			}
			for _, l := range s.Lines {
				if l.Status == "ahead" && (strings.Contains(l.Title, "detergent") || strings.Contains(l.ID, "discard")) {
					t.Errorf("%s is still to come", l.ID)
				}
			}
			s = h.to("basket").press(Done)
			if s.Outcome != Stopped || s.In() || s.Detergent.Rinsed < s.Detergent.Least {
				t.Errorf("ended %q: %+v", s.Outcome, s.Detergent)
			}
		})
	}
	if s := newHand(t, plan(t, machine.HXHome, false)).to("water").press(RinseNow); s.Step.ID != "water" {
		t.Error("a clean group is rinsed")
	}
}

// Of three groups, one that is done stays done, one that holds detergent is rinsed, one that was not
// begun is left out.
func TestRinseNowOfThreeGroups(t *testing.T) {
	a := answersOf(machine.MultiCafe)
	a.Valve, a.Overrides["groups"] = machine.Yes, "3"
	p, err := job.Wash(a, backflush.HalfTeaspoon, backflush.UsualPowder, allGroups(a)...)
	if err != nil {
		t.Fatal(err)
	}
	h := newHand(t, p).to("2-detergent")
	h.press(RinseNow)
	s := h.to("2-basket").press(Done)
	var ended []Outcome
	for _, x := range s.Activities {
		ended = append(ended, x.Outcome)
	}
	if !slices.Equal(ended, []Outcome{Finished, Stopped, Stopped}) || s.In() || s.Outcome != Stopped {
		t.Errorf("%q: %v", s.Outcome, ended)
	}
}

// A rinse that a small tray does not hold stops in time, and goes on where it stood.
func TestTrayIsEmptiedInTheMiddleOfASet(t *testing.T) {
	h := newHand(t, planBy(t, machine.SingleBoiler, backflush.TenAndFive, false)).to("detergent")
	h.press(RinseNow)
	h.to("rinse").press(Begin)
	h.wait(10 * time.Minute)
	s := h.state()
	if s.Segment.Kind != Held || !s.EmptyTray || s.Finding == nil || s.Tray.Volume(40) > 400 {
		t.Fatalf("%s, empty %v, %v mL in the tray", s.Segment.Kind, s.EmptyTray, s.Tray)
	}
	rinsed := s.Detergent.Rinsed
	h.press(Begin)
	h.wait(16 * time.Second)
	if s := h.state(); s.Detergent.Rinsed != rinsed+1 || s.Tray.Pulses != 1 {
		t.Errorf("%d rinsed, %v in the tray", s.Detergent.Rinsed, s.Tray)
	}
}
