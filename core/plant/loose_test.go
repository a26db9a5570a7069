package plant

import (
	"slices"
	"testing"

	"freshanvil/core/machine"
)

// What comes off a machine, in which order and in which state: common practice of the trade, section by
// section of a good technician's work. The screen comes off before what it holds, shims go in first, a
// boiler's fitting only cold, unplugged, without pressure and with the supply shut; wood never goes into
// the bath; a tip never stands in liquid for more than five minutes, nor on a machine that cools.
func TestPartsComeOffInOrder(t *testing.T) {
	out := Action{Verb: TakeOut, What: "group-1"}
	off := func(what string) Action { return Action{Verb: TakeOff, What: what} }
	on := func(what string) Action { return Action{Verb: FitOn, What: what} }
	for _, c := range []struct {
		name   string
		layout machine.Layout
		hot    bool
		acts   []Action
		want   Never // empty: nothing
	}{
		{"screen, seal, shims, and back", machine.HXHome, false, []Action{out, off("screen-1"), off("seal-1"),
			off("shims-1"), off("spreader-1"), on("spreader-1"), on("shims-1"), on("seal-1"), on("screen-1")}, ""},
		{"shims last", machine.HXHome, false, []Action{out, off("screen-1"), off("seal-1"), off("shims-1"), on("seal-1")},
			WrongOrder},
		{"screen before the spreader", machine.HXHome, false, []Action{out, off("screen-1"), off("spreader-1"),
			on("screen-1")}, WrongOrder},
		{"behind a handle", machine.HXHome, true, []Action{{Verb: SwitchOff}, {Verb: Unplug}, off("screen-1")}, WrongOrder},
		{"hot", machine.HXHome, true, []Action{{Verb: SwitchOff}, {Verb: Unplug}, out, off("screen-1")}, OpenedHot},
		{"gauze at pressure", machine.HXHome, true, []Action{{Verb: SwitchOff}, {Verb: Unplug}, off("gauze")},
			OpenedPressed},
		{"jet with the supply open", machine.HXCafe, false, []Action{off("jet-1")}, PluggedIn},
		{"jet with it shut", machine.HXCafe, false, []Action{{Verb: PlugIn}, {Verb: SwitchOn}, {Verb: ShutSupply},
			{Verb: LetOff, What: "group-1"}, {Verb: SwitchOff}, {Verb: Unplug}, off("jet-1"), on("jet-1"),
			{Verb: OpenSupply}}, ""},
		{"jet with brew pressure behind it", machine.HXCafe, false, []Action{{Verb: ShutSupply}, off("jet-1")}, LineOpened},
		{"drain seal of a full boiler", machine.DualHome, false, []Action{off("seal-steam-drain")}, WrongOrder},
		{"on without its gauze", machine.HXHome, false, []Action{off("gauze"), {Verb: PlugIn}, {Verb: SwitchOn}}, PowerOpen},
		{"strainer behind the tank", machine.HXHome, false, []Action{{Verb: Scrub, What: "strainer"}}, WrongOrder},
		{"tank out while on", machine.HXHome, true, []Action{off("tank-walls")}, PowerNoSupply},
		{"tip into a cup", machine.HXHome, true, []Action{off("tip"), {Verb: MixBath}, {Bathe, "tip", 0},
			{Verb: Lift, What: "tip"},
			{Verb: WashOff, What: "tip"}, on("tip")}, ""},
		{"a bath that nobody mixed", machine.HXHome, true, []Action{off("tip"), {Bathe, "tip", 0}}, WrongOrder},
		{"tip into the bath on the wand", machine.HXHome, true, []Action{{Bathe, "tip", 0}}, WrongOrder},
	} {
		t.Run(c.name, func(t *testing.T) {
			p := Cold(specOf(t, facts(c.layout)))
			if c.hot {
				p = InUse(p.Spec)
			}
			do(p, c.acts...)
			if c.want == "" {
				p.End(false)
				if len(p.Broken) > 0 {
					t.Errorf("broken: %v", p.Broken)
				}
				return
			}
			if !slices.ContainsFunc(p.Broken, func(v Violation) bool { return v.Never == c.want }) {
				t.Errorf("broken %v, want %s", p.Broken, c.want)
			}
		})
	}
}

// The bath has its time, and a tip in liquid on the machine too.
func TestBathAndDip(t *testing.T) {
	early := Cold(specOf(t, facts(machine.HXHome)))
	do(early, Action{Verb: MixBath}, Action{Verb: TakeOff, What: "basket-1"}, Action{Bathe, "basket-1", 600})
	early.Wait(500)
	do(early, Action{Verb: Lift, What: "basket-1"})
	if len(early.Broken) != 1 || early.Broken[0].Never != WrongOrder {
		t.Errorf("out after 500 s of 600: %v", early.Broken)
	}
	for _, c := range []struct {
		seconds float64
		want    int
	}{{300, 0}, {400, 1}} {
		p := InUse(specOf(t, facts(machine.HXHome)))
		do(p, Action{Verb: Dip, What: "tip"})
		p.Wait(c.seconds)
		do(p, Action{Verb: Undip, What: "tip"})
		if len(p.Broken) != c.want {
			t.Errorf("%v s in liquid: %v", c.seconds, p.Broken)
		}
	}
	if q := early.Clone(); &q.L[0] == &early.L[0] {
		t.Error("a copy shares its parts")
	}
}
