package job

import (
	"errors"
	"regexp"
	"strings"
	"testing"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/inspect"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/units"
)

// saidBy is everything that a plan says, in lower case.
func saidBy(p Plan) string {
	var all strings.Builder
	for _, s := range p.Steps() {
		all.WriteString(strings.ToLower(strings.Join(append([]string{s.Title, s.Head}, s.Do...), "\n")) + "\n")
		for _, c := range s.Cautions {
			all.WriteString(strings.ToLower(c.Text) + "\n")
		}
	}
	return all.String()
}

// What is done to parts, rule by rule as the trade does it (common practice): each stands in the plan that
// leads it, in that order.
func TestPartsAreDoneAsTheTradeDoesThem(t *testing.T) {
	for _, c := range []struct {
		rule string
		task task.ID
		set  []string
		said []string
	}{
		{"cool group first, levered at the lip on both sides", task.Screen, []string{"screen", "seal"},
			[]string{"45 °c", "under the lip", "on the left", "on the right"}},
		{"or one centre screw, snug, not tight", task.Screen, []string{"screen", "screw"},
			[]string{"undo the screw in its middle", "snug. not tight"}},
		{"both sides scrubbed, the spreader, wetting looked at", task.Screen, nil,
			[]string{"against a lamp", "on both sides", "spreader", "let water run"}},
		{"shims first, flat side up, bevel to the screen, pressed home by part-turns", task.Seal, nil,
			[]string{"same width and the same height", "shims first", "flat side looks up", "bevelled", "left and right",
				"rim of the handle"}},
		{"baskets and metal of the handles, level at the metal's edge, wood never", task.Soak, []string{"handle", "wood"},
			[]string{"gloves and glasses", "into the water", "metal's edge", "wooden grip stays dry", "never wood",
				"nothing feels slippery"}},
		{"tip unscrewed into a cup, holes opened with a soft pick, purge and wipe", task.Tip, nil,
			[]string{"for 3 seconds", "unscrew it", "a cup of hot water", "never leave the wand standing in liquid", "soft pick",
				"for 5 seconds"}},
		{"on the wand at most five minutes, on and at pressure, out before it is switched off", task.Tip,
			[]string{"tip", "fixed"}, []string{"at pressure", "stays on", "five minutes are the most", "take the cup away"}},
		{"milk cleaner about an hour", task.Tip, []string{"tip_in", "milk_cleaner"}, []string{"milk cleaner", "1 h"}},
		{"overnight with a tablet", task.Tip, []string{"tip_in", "tablet_overnight"}, []string{"with a tablet", "8 h"}},
		{"tank wiped against slime, strainer looked at", task.Tank, nil, []string{"strainer", "wipe walls"}},
		{"hot water down the waste", task.Waste, []string{"tray_l", "0"},
			[]string{"hot-water tap", "slowly into the waste"}},
		{"tap gauze: a look at the boiler's inside, cold", task.LookForScale, nil,
			[]string{"gauge must be at 0", "unscrew its gauze", "white is scale", "from a step away"}},
		{"relief valve by eye, from a step away: never plugged, never adjusted", task.Relief, nil,
			[]string{"at pressure", "from a step away", "never plug"}},
		{"grinder: tablets, the first grounds away", task.Grinder, nil,
			[]string{"as many as the label says", "30 g of coffee and throw it away"}},
	} {
		t.Run(c.rule, func(t *testing.T) {
			a := with(machine.HXHome, c.set...)
			a.MilkDrinks = 2
			part := machine.Part{}
			if !c.task.IsOfMachine() {
				part = machine.Group(1)
			}
			p, err := Tend(a, c.task, backflush.UsualPowder, part)
			if err != nil {
				t.Fatal(err)
			}
			rest := saidBy(p)
			for _, want := range c.said {
				at := strings.Index(rest, want)
				if at < 0 {
					t.Fatalf("not said, or too early: %q in\n%s", want, rest)
				}
				rest = rest[at+len(want):]
			}
		})
	}
}

// A jet is cleaned with the supply shut, the gauge at 0 and the steam tap open, by wood, not steel (common
// practice); of several groups the tap is opened once.
func TestJetsOfTwoGroups(t *testing.T) {
	p, err := Tend(answers(machine.HXCafe, machine.Yes), task.Jet, backflush.UsualPowder, machine.Group(1),
		machine.Group(2))
	if err != nil {
		t.Fatal(err)
	}
	text := saidBy(p)
	for _, want := range []string{"shut the water supply", "gauge must be at 0", "open the steam tap",
		"wood or nylon only"} {
		if !strings.Contains(text, want) {
			t.Errorf("not said: %q", want)
		}
	}
	if n := strings.Count(text, "open the steam tap:"); n != 1 || len(p.Activities) != 2 {
		t.Errorf("the steam tap is opened %d times, for %d groups", n, len(p.Activities))
	}
}

// How long baskets soak goes by the school: ten minutes, twenty, or an hour (common practice).
func TestHowLongTheBathStands(t *testing.T) {
	for set, want := range map[string]time.Duration{"ten_minutes": 10 * time.Minute, "twenty_minutes": 20 * time.Minute,
		"an_hour": time.Hour} {
		t.Run(set, func(t *testing.T) {
			p, err := Tend(with(machine.HXHome, "soak_for", set), task.Soak, backflush.UsualPowder, machine.Part{})
			if err != nil {
				t.Fatal(err)
			}
			for _, s := range p.Steps() {
				if b, is := BodyOf[Soak](s); is && b.For != want {
					t.Errorf("it stands %s, want %s", b.For, want)
				}
			}
			if p.Activities[0].Uses == nil || p.Activities[0].Uses.Mass.Value != 1.5 {
				t.Errorf("from the tub: %+v", p.Activities[0].Uses)
			}
		})
	}
}

// A plan asks for what it is there to look at, draws where a hand turns something, and lays out its tools.
func TestWhatAPlanOfPartsHolds(t *testing.T) {
	p, err := Tend(answers(machine.HXHome, machine.Yes), task.Screen, backflush.UsualPowder, machine.Group(1))
	if err != nil {
		t.Fatal(err)
	}
	pictures := 0
	for _, s := range p.Steps() {
		if s.Picture != "" {
			pictures++
		}
		if look, is := BodyOf[Choose](s); is && look.Sight != "" {
			row, known := inspect.Find(look.Sight)
			if !known || len(row.Seen) != len(look.Ways) {
				t.Errorf("%s: %d answers, %d verdicts", s.ID, len(look.Ways), len(row.Seen))
			}
		}
	}
	if pictures != 2 || !regexp.MustCompile(`lever.*brush`).MatchString(strings.Join(p.LayOut(), " ")) {
		t.Errorf("%d drawings, laid out: %v", pictures, p.LayOut())
	}
	p.Activities[0].Looks = append(p.Activities[0].Looks, inspect.Rim)
	if err := p.Check(); err == nil {
		t.Error("nobody looks at the rim, and the plan is fine")
	}
	var no *reason.Refusal
	if _, err := Tend(answers(machine.HXHome, machine.Yes), task.CamGrease, backflush.UsualPowder,
		machine.Group(1)); !errors.As(err, &no) || no.Code != NoSuchPart {
		t.Errorf("a cam where there is none: %v", err)
	}
	var bad *units.OutOfRange
	if _, err := Tend(answers(machine.HXHome, machine.Yes), task.Screen, backflush.UsualPowder, machine.Group(1),
		machine.Group(1)); !errors.As(err, &bad) || bad.Field != "parts" {
		t.Errorf("the same group twice: %v", err)
	}
}

// What the table says of the hands of a task is what its plan takes them for, within half and double: what
// is done together is weighed by it.
func TestTheTableKnowsTheHands(t *testing.T) {
	for id := range activities {
		t.Run(string(id), func(t *testing.T) {
			want := id.Row().Hands
			if id.IsSmall() {
				return // they ride along
			}
			for _, l := range machine.Layouts() {
				part := machine.Part{}
				if !id.IsOfMachine() {
					part = machine.Group(1)
				}
				p, err := Tend(answers(l, machine.Yes), id, backflush.UsualPowder, part)
				if err != nil {
					continue
				}
				hands := p.Minutes.Inputs[0].Value / 60
				if hands < want/2 || hands > want*2 {
					t.Errorf("%s: %.1f min by hand, the table says %.0f", l, hands, want)
				}
			}
		})
	}
}
