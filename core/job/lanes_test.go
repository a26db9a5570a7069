package job

import (
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/machine"
	"freshanvil/core/units"
)

// cafe is a machine with so many groups.
func cafe(groups int, set map[string]string) machine.Answers {
	a := answers(machine.MultiCafe, machine.Yes)
	a.Overrides = map[string]string{"groups": fmt.Sprint(groups)}
	for k, v := range set {
		a.Overrides[k] = v
	}
	return a
}

func washAll(t *testing.T, a machine.Answers, id backflush.MethodID) Plan {
	t.Helper()
	var parts []Target
	for g := range a.Facts().Groups {
		parts = append(parts, Target{Group: g + 1})
	}
	p, err := Wash(a, id, backflush.UsualPowder, parts...)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

func ids(p Plan) string {
	list := make([]string, len(p.Steps()))
	for i, s := range p.Steps() {
		list[i] = s.ID
	}
	return strings.Join(list, " ")
}

// One group's soak is the next one's pulses (the soak school's way with two
// groups, common practice).
func TestOneSoakIsTheNextGroupsPulses(t *testing.T) {
	p := washAll(t, cafe(2, nil), backflush.Soak)
	want := "ready 1-brush 1-water 1-dose 1-short 2-brush 2-water 2-dose 2-short 1-soak 1-detergent 1-first"
	if !strings.HasPrefix(ids(p), want) {
		t.Errorf("order:\n%s\nwant it to begin\n%s", ids(p), want)
	}
	asks := func(p Plan) bool {
		return strings.Contains(strings.Join(p.Steps()[0].Do, " "), "its own handle and blind")
	}
	if !asks(p) {
		t.Error("groups that soak in turn ask for one blind only")
	}
	// without a soak there is nothing to gain: one group after the other
	p = washAll(t, cafe(2, nil), backflush.HalfTeaspoon)
	if want := "ready 1-brush 1-water 1-dose 1-detergent 1-first 1-blind 1-rinse 1-cup 1-basket " +
		"2-brush"; !strings.HasPrefix(
		ids(p),
		want,
	) {
		t.Errorf("half teaspoon: %s", ids(p))
	}
	if asks(p) {
		t.Error("groups washed one after the other ask for two blinds")
	}
	for _, g := range []int{0, 1, 3} {
		_, err := Wash(cafe(2, nil), backflush.Soak, backflush.UsualPowder, Target{Group: 1}, Target{Group: g})
		var bad *units.OutOfRange
		if !errors.As(err, &bad) || bad.Field != "parts" {
			t.Errorf("groups 1 and %d: %v", g, err)
		}
	}
	if _, err := Wash(cafe(2, nil), backflush.Soak, backflush.UsualPowder); err == nil {
		t.Error("a plan for no group was made")
	}
}

// walked is the plan by the clock: when the hands begin and end each step.
type walked struct {
	step     Step
	from, to time.Duration
}

// walk goes through a plan as written, apart from the code that laid it out. It
// fails where the hands would be needed twice, or a soak stands alone after its
// end.
func walk(t *testing.T, p Plan) (list []walked, total time.Duration) {
	t.Helper()
	ended := map[string]time.Duration{}
	var at, warm time.Duration
	for _, s := range p.Steps() {
		from := at
		for _, after := range s.After {
			if s.Lane == Hands && ended[after] > at {
				t.Errorf("%s begins at %v, %s ends at %v", s.ID, at, after, ended[after])
			}
		}
		switch {
		case Is[Soak](s):
			soak, _ := BodyOf[Soak](s)
			end := ended[s.After[0]] + soak.For
			if at > end {
				t.Errorf("%s ended at %v, the hands come at %v", s.ID, end, at)
			}
			from, at = ended[s.After[0]], max(at, end)
			warm = max(
				0,
				warm-(at-from)*time.Duration(max(1, p.Setups[0].Duty.On))/time.Duration(max(1, p.Setups[0].Duty.Off)),
			)
		case Is[Pulses](s):
			set, _ := BodyOf[Pulses](s)
			for range set.Count {
				if p.Setups[0].Duty.On > 0 && warm+set.On > p.Setups[0].Duty.On {
					over := float64(warm + set.On - p.Setups[0].Duty.On)
					rest := time.Duration(over * float64(p.Setups[0].Duty.Off) / float64(p.Setups[0].Duty.On))
					rest = (rest + time.Second - 1).Truncate(time.Second)
					at += rest
					warm -= time.Duration(float64(rest) * float64(p.Setups[0].Duty.On) / float64(p.Setups[0].Duty.Off))
				}
				at += set.On + set.Off
				if p.Setups[0].Duty.On > 0 {
					warm = max(
						0,
						warm+set.On-time.Duration(
							float64(set.Off)*float64(p.Setups[0].Duty.On)/float64(p.Setups[0].Duty.Off),
						),
					)
				}
			}
		default:
			at += s.Takes
			if duty := p.Setups[0].Duty; duty.On > 0 {
				act, _ := BodyOf[Act](s)
				ran := time.Duration(p.Setups[0].Flow.Takes(act.Flushes) * float64(time.Second))
				warm = duty.Cooled(duty.Ran(warm, ran), s.Takes-ran)
			}
		}
		ended[s.ID] = at
		list = append(list, walked{s, from, at})
	}
	return list, at
}

// Whatever the method and the number of groups: one pair of hands, no soak that
// nobody comes to when it ends, the order of each group kept, and never longer
// than one group after the other.
func TestLanes(t *testing.T) {
	for groups := 1; groups <= 4; groups++ {
		for _, m := range backflush.Methods() {
			if m.Program > 0 {
				continue
			}
			a := cafe(groups, nil)
			p := washAll(t, a, m.ID)
			list, total := walk(t, p)
			if got := p.Minutes.Value; got != total.Minutes() {
				t.Errorf("%s, %d groups: %v min, by the clock %v", m.ID, groups, got, total.Minutes())
			}
			var free time.Duration
			for _, w := range list {
				if w.step.Lane == Hands {
					if w.from < free {
						t.Fatalf("%s, %d groups: two hands at %v", m.ID, groups, w.from)
					}
					free = w.to
				}
			}
			one, err := Wash(a, m.ID, backflush.UsualPowder, Target{Group: 1})
			if err != nil {
				t.Fatal(err)
			}
			apart := float64(groups)*one.Minutes.Value - float64(groups-1)*one.Steps()[0].Takes.Minutes()
			gain := apart - p.Minutes.Value
			if gain < -1e-9 || m.Soak > 0 && groups > 1 && gain < 2*float64(groups-1) {
				t.Errorf("%s: %d groups take %.1f min, one after the other %.1f", m.ID, groups, p.Minutes.Value, apart)
			}
		}
	}
}

// The order found for two groups is nearly as short as any: every interleaving is tried
// that comes to each soak when it ends, and by slow hands not much later.
func TestTwoGroupsAsShortAsAnyOrder(t *testing.T) {
	p := washAll(t, cafe(2, nil), backflush.Soak)
	var chains [2][]Step
	for _, s := range p.Steps()[1:] {
		g := s.Part.GroupNumber() - 1
		chains[g] = append(chains[g], s)
	}
	length := func(s Step) time.Duration {
		if set, ok := BodyOf[Pulses](s); ok {
			return set.Length()
		}
		return s.Takes
	}
	type state struct {
		done [2]int
		left [2]time.Duration // of a soak that runs
	}
	const never = time.Duration(1 << 60)
	known := map[state]time.Duration{}
	var best func(s state) time.Duration
	best = func(s state) time.Duration {
		if s.done[0] == len(chains[0]) && s.done[1] == len(chains[1]) {
			return 0
		}
		if d, ok := known[s]; ok {
			return d
		}
		known[s] = never
		least := never
		for g := range 2 {
			if s.done[g] == len(chains[g]) {
				continue
			}
			o, next := 1-g, s
			step := chains[g][s.done[g]]
			other := s.done[o] < len(chains[o]) && Is[Soak](chains[o][s.done[o]])
			long := length(step)
			if Is[Soak](step) {
				long = s.left[g] // wait for it
			}
			slow := Slow(step, Pump{})
			if Is[Soak](step) {
				slow = long
			}
			if other && (long > s.left[o] || slow > s.left[o]+Overstay) {
				continue // the other soak would stand alone
			}
			next.done[g]++
			if other {
				next.left[o] -= long
			}
			next.left[g] = 0
			if next.done[g] < len(chains[g]) && Is[Soak](chains[g][next.done[g]]) {
				soak, _ := BodyOf[Soak](chains[g][next.done[g]])
				next.left[g] = soak.For
			}
			if rest := best(next); rest < never {
				least = min(least, long+rest)
			}
		}
		known[s] = least
		return least
	}
	want := best(state{}) + p.Steps()[0].Takes
	// whose turn it is is decided step by step: that costs under a minute here
	if got := time.Duration(p.Minutes.Value * float64(time.Minute)); got > want+time.Minute {
		t.Errorf("laid out in %v, the shortest order takes %v", got, want)
	}
}

// A pump that must rest as long as it runs gets its rests in the plan.
func TestPumpRestsAreInThePlan(t *testing.T) {
	set := map[string]string{"pump": "vibratory"}
	usual := washAll(t, cafe(2, set), backflush.ShortPulse)
	if usual.Setups[0].Duty.On != 2*time.Minute {
		t.Fatalf("duty %+v", usual.Setups[0].Duty)
	}
	home := answers(machine.HXHome, machine.Yes)
	home.Overrides = map[string]string{"duty_on_min": "0.5", "duty_off_min": "1"}
	p := washAll(t, home, backflush.HalfTeaspoon)
	home.Overrides = nil
	free := washAll(t, home, backflush.HalfTeaspoon)
	if p.Minutes.Value <= free.Minutes.Value {
		t.Errorf("half a minute on, one off: %v min, with two on and one off %v", p.Minutes.Value, free.Minutes.Value)
	}
	if _, total := walk(t, p); p.Minutes.Value > total.Minutes()+0.01 || p.Minutes.Value < total.Minutes()-1 {
		t.Errorf("%v min, by the clock %v", p.Minutes.Value, total.Minutes())
	}
}
