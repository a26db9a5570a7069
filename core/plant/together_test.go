package plant

import (
	"testing"

	"freshanvil/core/machine"
)

// Two groups of a café, opened 12 s apart and left open for five minutes each, worked by hand: 300 s at 30 mL/s are 9 L
// a group, through its own tube, and the last is closed after 312 s. A blind that is in, or a machine without plug,
// cannot be left open.
func TestTogether(t *testing.T) {
	p := InUse(specOf(t, facts(machine.HXCafe)))
	do(p, Action{Verb: TakeOut, What: "group-1"}, Action{Verb: TakeOut, What: "group-2"})
	begun, tray := p.T, p.V[TrayAt].Litres
	do(p, Action{Verb: Together, What: "group-1 group-2", Amount: 300})
	if took := p.T - begun; !near(took, 312, 0.1) {
		t.Errorf("%.0f s", took)
	}
	if got := p.V[TrayAt].Litres - tray; !near(got, 18, 0.1) {
		t.Errorf("%.2f L into the waste", got)
	}
	if p.Route != -1 || len(p.more) > 0 || len(p.Broken) > 0 {
		t.Errorf("left open: %d %v, %v", p.Route, p.more, p.Broken)
	}
	for name, bad := range map[string][]Action{
		"a blind":       {{Verb: LockBlind, What: "group-1"}, {Verb: Together, What: "group-1 group-2", Amount: 9}},
		"no such group": {{Verb: Together, What: "group-7", Amount: 9}},
		"unplugged":     {{Verb: SwitchOff}, {Verb: Unplug}, {Verb: Together, What: "group-2", Amount: 9}},
	} {
		q := p.Clone()
		do(q, bad...)
		if len(q.Broken) == 0 || q.Broken[0].Never != CannotBeDone {
			t.Errorf("%s: %v", name, q.Broken)
		}
	}
}

// A machine that was closed is full, cold, unplugged and without water from outside; power before water breaks it.
func TestLaidUp(t *testing.T) {
	for _, l := range machine.Layouts() {
		s := specOf(t, facts(l))
		p := LaidUp(s)
		if p.Plug || p.V[SourceAt].Litres > 0 || s.Mains == p.Supply {
			t.Errorf("%s: %+v", l, p.V[SourceAt])
		}
		if p.End(true); len(p.Broken) > 0 {
			t.Errorf("%s: %v", l, p.Broken)
		}
	}
	p := LaidUp(specOf(t, facts(machine.HXCafe)))
	do(p, Action{Verb: PlugIn}, Action{Verb: SwitchOn})
	if len(p.Broken) == 0 || p.Broken[0].Never != PowerNoSupply {
		t.Errorf("switched on with the supply shut: %v", p.Broken)
	}
}
