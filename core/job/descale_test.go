package job

import (
	"errors"
	"fmt"
	"maps"
	"math"
	"math/rand/v2"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/circuit"
	"freshanvil/core/descale"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/treat"
	"freshanvil/core/units"
)

// with are answers about a machine of which some facts were said.
func with(l machine.Layout, facts ...string) machine.Answers {
	a := answers(l, machine.Yes)
	a.Overrides = map[string]string{}
	for i := 0; i < len(facts); i += 2 {
		a.Overrides[facts[i]] = facts[i+1]
	}
	return a
}

func planned(t testing.TB, a machine.Answers, product string, scale float64, change func(*Sitting)) (Sitting, error) {
	t.Helper()
	f := a.Facts()
	r := units.Reading{Known: true, Low: scale, Likely: scale, High: scale * 1.2}
	material, _ := descale.Careful(f)
	i := slices.IndexFunc(descale.Products(), func(p descale.Product) bool { return p.ID == product })
	card, err := descale.Mix(descale.Products()[i], 0, descale.Circuits(f, r, r), material)
	in := Sitting{Card: card, Setting: treat.Usual(a.Treatment), FeedAlk: 100, FeedPH: 7.6, Share: 1, Known: true,
		Now: time.Date(2026, 3, 10, 18, 0, 0, 0, time.UTC)}
	if change != nil {
		change(&in)
	}
	return in, err
}

func descaled(t testing.TB, a machine.Answers, scale float64, change func(*Sitting)) Plan {
	t.Helper()
	in, err := planned(t, a, "citric", scale, change)
	if err != nil {
		t.Fatal(err)
	}
	p, err := Descale(a, in)
	if err != nil {
		t.Fatalf("%s %v: %v", a.Layout, a.Overrides, err)
	}
	return p
}

// The machines that are led: how each is emptied, with material and heaters said.
var (
	single = with(machine.SingleBoiler, "brew_material", "brass")
	block  = with(machine.Thermoblock, "brew_material", "stainless")
	soft   = with(machine.Thermoblock, "brew_material", "aluminium")
	hx     = with(machine.HXHome, "drain", "plug", "steam_heater", "held_off", "brew_material", "copper",
		"steam_material", "copper")
	dual = with(machine.DualHome, "brew_heater", "can_be_off", "steam_heater", "can_be_off", "brew_material", "stainless",
		"steam_material", "stainless")
	lever = with(machine.LeverManual, "brew_material", "brass")
)

// What may harm somebody is refused, each with the field that decided and what
// would be allowed: a boiler by its tap; one that must be filled while a heater is on, or
// while nobody can tell; one whose pump waits for the heat; no sulfamic acid and no hot soak
// where the material is not said; nothing on a machine that leaks.
func TestDescaleRefused(t *testing.T) {
	for name, c := range map[string]struct {
		a       machine.Answers
		program descale.ProgramID
		product string
		code    reason.Code
		field   string
	}{
		"heat exchanger by its tap": {with(machine.HXHome), "", "citric", circuit.ByItsTap, "drain"},
		"the same, asked for":       {with(machine.HXHome), descale.ByTap, "citric", circuit.ByItsTap, "drain"},
		"heater not said": {with(machine.HXHome, "drain", "plug"), "", "citric", circuit.HeaterNotSaid,
			"steam_heater"},
		"on means heating": {with(machine.HXHome, "drain", "plug", "steam_heater", "on_means_heating"), "", "citric",
			circuit.HeaterStaysOn, "steam_heater"},
		"a brew element is never held off": {with(machine.DualHome, "brew_heater", "held_off", "steam_heater",
			"held_off"), "",
			"citric", circuit.HeaterStaysOn, "brew_heater"},
		"brew heater not said": {with(machine.DualHome, "steam_heater", "can_be_off"), "", "citric",
			circuit.HeaterNotSaid, "brew_heater"},
		"the pump waits for the heat": {with(machine.SingleBoiler, "pump_before_hot", "no"), "", "citric",
			circuit.HeaterStaysOn, "pump_before_hot"},
		"too many refills": {with(machine.HXHome, "drain", "plug", "heel", "0.4", "steam_heater", "held_off"),
			descale.Drained, "citric", circuit.ManyRefills, "heel"},
		"a dual boiler with a tap": {with(machine.DualHome, "drain", "tap", "brew_heater", "can_be_off", "steam_heater",
			"can_be_off"), "", "citric", circuit.ByItsTap, "drain"},
		"a small steam boiler pushed": {with(machine.DualHome, "drain", "flushing only", "steam_l", "0.5"), "",
			"citric", circuit.DrainNotLed, "drain"},
		"nickel": {with(machine.SingleBoiler, "brew_material", "nickel_plated"), "", "citric", circuit.NotByTheKeeper,
			"brew_material"},
		"trade machine":               {with(machine.MultiCafe), "", "citric", circuit.NotByTheKeeper, "layout"},
		"sulfamic, material not said": {with(machine.Thermoblock), "", "sulfamic", descale.MaterialNotSaid, "product"},
		"hot, material not said": {with(machine.SingleBoiler), descale.HotSoaks, "citric",
			descale.MaterialNotSaid, "program"},
		"hot, aluminium": {with(machine.SingleBoiler, "brew_material", "aluminium"), descale.HotSoaks,
			"citric", descale.HarmsMaterial, "program"},
		"it leaks": {with(machine.SingleBoiler, "condition", "leaks"), "", "citric", circuit.Leaks,
			"condition"},
	} {
		t.Run(name, func(t *testing.T) {
			in, err := planned(t, c.a, c.product, 1, func(in *Sitting) { in.Program = c.program })
			if err == nil {
				_, err = Descale(c.a, in)
			} else if c.code == descale.MaterialNotSaid { // refused by the machine, not by the mixing alone
				err = descale.Products()[3].Bears(c.a.Facts(), 30)
			}
			var no *reason.Refusal
			if !errors.As(err, &no) {
				t.Fatalf("%v, want a refusal", err)
			}
			if no.Code != c.code || no.Field != c.field || no.Value == "" || no.Allowed == "" ||
				len(no.Finding.Because) == 0 {
				t.Errorf("%+v", no)
			}
		})
	}
	// a program that fits no machine of its kind is a wrong answer, not a refusal
	in, err := planned(t, with(machine.SingleBoiler), "citric", 1, func(in *Sitting) { in.Program = descale.Drained })
	if err != nil {
		t.Fatal(err)
	}
	var bad *units.OutOfRange
	if _, err := Descale(with(machine.SingleBoiler), in); !errors.As(err, &bad) || bad.Field != "program" {
		t.Errorf("a single boiler is drained: %v", err)
	}
}

// With the material not said a thermoblock or a single boiler is taken as aluminium:
// 20 g/L and 20 minutes from the first drop, whatever it would otherwise be.
func TestNotSaidIsTakenAsAluminium(t *testing.T) {
	for _, l := range []machine.Layout{machine.Thermoblock, machine.SingleBoiler} {
		for _, scale := range []float64{0.2, 3, 40} {
			in, err := planned(t, with(l), "citric", scale, nil)
			if err != nil {
				t.Fatal(err)
			}
			p, err := Descale(with(l), in)
			var no *reason.Refusal
			if errors.As(err, &no) && no.Code == ContactTooLong {
				continue // it need not fit; it must not stand longer
			}
			if err != nil {
				t.Fatal(err)
			}
			d := p.Descaling().Descale
			if d.Strength != 20 || d.Contact != 20*time.Minute || d.Planned > d.Contact {
				t.Errorf("%s, %v g: %v g/L for %v of %v", l, scale, d.Strength, d.Planned, d.Contact)
			}
		}
		in, err := planned(t, with(l), "citric", 1, nil)
		if err != nil {
			t.Fatal(err)
		}
		in.Card.Strength = 25
		var no *reason.Refusal
		if _, err := Descale(with(l), in); !errors.As(err, &no) || no.Code != descale.MaterialNotSaid ||
			no.Field != "strength_g_l" {
			t.Errorf("%s at 25 g/L: %v", l, err)
		}
	}
}

// counted sums up a plan: soaks of acid, litres pushed in the rinse by each outlet, the
// longest push.
func counted(p Plan) (soaks int, rinsed map[string]float64, longest time.Duration) {
	rinsed = map[string]float64{}
	for _, s := range p.Steps() {
		if body, ok := BodyOf[Soak](s); ok && body.Acid {
			soaks++
		}
		if push, ok := BodyOf[Push](s); ok && s.Phase != After {
			longest = max(longest, push.Runs())
			if s.Phase == Rinsing {
				rinsed[push.To] += float64(push.Litres)
			}
		}
	}
	return soaks, rinsed, longest
}

// A single boiler of brass, 5.5 g of scale: two soaks fit into 90 minutes, where pushing
// heats (our own engineering model); no push longer than a minute; at least 9.2 volumes of
// rinse, 0.3 L of them by each outlet.
func TestTwoSoaksFitASingleBoiler(t *testing.T) {
	p := descaled(t, single, 5.5, nil)
	d := p.Descaling().Descale
	soaks, rinsed, longest := counted(p)
	all := rinsed["group-1"] + rinsed["steam_tap"]
	if soaks != 2 || d.Rounds != 2 || longest > time.Minute || all < 9.2*0.3 || all > 12*0.3 {
		t.Errorf("%d soaks, pushes of up to %v, %.2f L of rinse", soaks, longest, all)
	}
	if rinsed["group-1"] < 0.3 || rinsed["steam_tap"] < 0.3 {
		t.Errorf("by the outlets: %v", rinsed)
	}
	if d.Contact != 90*time.Minute || d.Planned > d.Contact || d.Planned < 40*time.Minute {
		t.Errorf("contact %v of %v", d.Planned, d.Contact)
	}
	if c := d.Circuits[0]; len(c.Outlets) != 2 {
		t.Errorf("proven at %+v", c.Outlets)
	}
}

// A thermoblock in sips of 1.5 volumes that stand about two minutes cold, shorter when it is
// warm: 6.5 g take 15 to 19 sips of stainless steel, aluminium bears about three (our own
// engineering model).
func TestSipsThatStand(t *testing.T) {
	for _, c := range []struct {
		a           machine.Answers
		least, most int
	}{{block, 13, 19}, {soft, 2, 4}} {
		p := descaled(t, c.a, 6.5, nil)
		d := p.Descaling().Descale
		var stands []time.Duration
		sips := 0
		for _, s := range p.Steps() {
			if b, ok := BodyOf[Sips](s); ok {
				sips += b.Count
				stands = append(stands, b.Stand)
				if math.Abs(float64(b.Litres)-0.075) > 1e-9 {
					t.Errorf("sips of %v L", b.Litres)
				}
			}
		}
		if sips < c.least || sips > c.most || d.Rounds != sips || d.Planned > d.Contact {
			t.Errorf("%v: %d sips, acid stands %v of %v", c.a.Overrides, sips, d.Planned, d.Contact)
		}
		if stands[0] < 100*time.Second || stands[0] > 115*time.Second || stands[len(stands)-1] > stands[0] {
			t.Errorf("stands of %v", stands)
		}
	}
	if d := descaled(t, soft, 6.5, nil).Descaling().Descale; d.Left < 4 || len(d.Findings) == 0 {
		t.Errorf("aluminium: %.1f g stay, %+v", d.Left, d.Findings)
	}
}

// drains are the steps that let a boiler out, fills those that fill one, by id.
func indexOf(p Plan, prefix string) int {
	return slices.IndexFunc(p.Steps(), func(s Step) bool { return strings.HasPrefix(s.ID, prefix) })
}

// A dual boiler by its screws: heaters off while it is still on, four hours of cooling at
// least, the steam side first; while 1 % or more of acid is in the steam boiler it is never
// filled to its probe, so that nothing heats; and the brew side is vented before any screw.
func TestDrainedDualBoiler(t *testing.T) {
	p := descaled(t, dual, 3, nil)
	for _, order := range [][2]string{{"heaters-off", "off"}, {"cool", "drain-steam"}, {"drain-steam", "drain-brew-1"},
		{"drain-brew-1", "mix"}, {"soak", "vent"}, {"vent-again", "drain-steam-2"}, {"watch", "first-hot_water_tap"}} {
		if i, j := indexOf(p, order[0]), indexOf(p, order[1]); i < 0 || j < 0 || i > j {
			t.Errorf("%s at %d, %s at %d", order[0], i, order[1], j)
		}
	}
	if cool, _ := BodyOf[Wait](p.Steps()[indexOf(p, "cool")]); cool.For < 4*time.Hour {
		t.Errorf("it cools for %v", cool.For)
	}
	d := p.Descaling().Descale
	x := d.Begins()
	for _, s := range p.Steps() {
		play(x, s, asSaid)
		steam := x.At("steam")
		if full := steam.Litres > 0.98*0.7; full && steam.Acid >= plant.Weak {
			t.Errorf("%s: filled to the probe with %.2g of acid", s.ID, steam.Acid)
		}
	}
	if refills := d.Circuits[0].Least.Value; refills < 4 || refills > 5 {
		t.Errorf("%v refills", refills)
	}
}

// A heat exchanger by its plug: the tube gets sips while the boiler fills beside it; in the
// rinse it is clean before the boiler's last refill, for then its element may go on.
func TestHeatExchangerByItsPlug(t *testing.T) {
	p := descaled(t, hx, 5, nil)
	x := p.Descaling().Descale.Begins()
	sips, probed := 0, false
	for _, s := range p.Steps() {
		play(x, s, asSaid)
		if b, ok := BodyOf[Sips](s); ok {
			sips += b.Count
		}
		if s.Phase == Rinsing && x.At("steam").Full {
			probed = true
			if tube := x.Spec.Find("brew-1"); x.Sours(tube) {
				t.Errorf("%s: the boiler is full, the tube holds %.2g", s.ID, x.V[tube].Acid)
			}
		}
	}
	if sips < 3 || !probed {
		t.Errorf("%d sips, full in the rinse: %v", sips, probed)
	}
}

// A manual lever is poured out and filled by hand; its cap is off while acid stands, and
// tight before it is switched on.
func TestPouredLever(t *testing.T) {
	p := descaled(t, lever, 3, nil)
	x := p.Descaling().Descale.Begins()
	cap := x.Spec.FindOpening("cap")
	for _, s := range p.Steps() {
		play(x, s, asSaid)
		if soak, ok := BodyOf[Soak](s); ok && soak.Acid && !x.Gates[cap].Open {
			t.Errorf("%s with the cap on", s.ID)
		}
	}
	// what was drawn at first pressure is not poured in again while it is hot; the element stays covered
	if x.Gates[cap].Open || !x.On || x.At("brew-1").Litres < x.Spec.Vessels[x.Spec.Find("brew-1")].Covered {
		t.Errorf("at the end: %+v, on %v", x.At("brew-1"), x.On)
	}
	on := p.Steps()[indexOf(p, "on")]
	if !strings.Contains(strings.Join(on.Do, " "), "cap on, tight") {
		t.Errorf("%v", on.Do)
	}
}

// said are words that promise something to the machine, with the verb that does it.
var said = []struct {
	words *regexp.Regexp
	verb  plant.Verb
}{
	{regexp.MustCompile(`(?i)\bopen the steam tap\b`), plant.Open},
	{regexp.MustCompile(`(?i)\bclose the steam tap\b`), plant.Close},
	{regexp.MustCompile(`(?i)\bpull the plug\.`), plant.Unplug},
	{regexp.MustCompile(`(?i)\bplug in\b`), plant.PlugIn},
	{regexp.MustCompile(`(?i)^fill the (tank|bucket) with clean`), plant.FillUp},
	{regexp.MustCompile(`(?i)^empty the (tank|bucket)`), plant.Empty},
	{regexp.MustCompile(`(?i)^pour [0-9.]+ m?L of the solution into`), plant.PourMix},
	{regexp.MustCompile(`(?i)^turn the heater of .* off`), plant.HeaterOff},
	{regexp.MustCompile(`(?i)^turn the heater of .* on again`), plant.HeaterBack},
	{regexp.MustCompile(`(?i)put an empty jug under`), plant.Empty},
	{regexp.MustCompile(`(?i)let it run until nothing more comes`), plant.LetOut},
	{regexp.MustCompile(`(?i)turn the machine over`), plant.TurnOver},
	{regexp.MustCompile(`(?i)^shut the water supply`), plant.ShutSupply},
	{regexp.MustCompile(`(?i)^open the supply`), plant.OpenSupply},
}

// Words and actions are one: a step that says that something is opened, shut, plugged in,
// poured or emptied does it, in the steps that are added, too; and whatever is done is said.
func TestWordsAreDone(t *testing.T) {
	mains := with(machine.SingleBoiler, "brew_material", "brass", "water", "mains")
	for _, a := range []machine.Answers{single, block, hx, dual, lever, mains} {
		p := descaled(t, a, 5, nil)
		steps := p.Steps()
		for _, c := range p.Descaling().Descale.Circuits {
			for _, o := range append(slices.Clone(c.Outlets), c.Firsts...) {
				steps = append(steps, o.More...)
			}
		}
		for _, s := range steps {
			has := func(verb plant.Verb) bool {
				return slices.ContainsFunc(s.Acts, func(a plant.Action) bool { return a.Verb == verb })
			}
			for _, text := range s.Do {
				for _, x := range said {
					if x.words.MatchString(text) && !has(x.verb) && !has(plant.Sample) && s.ID != "heat" && s.ID != "watch" {
						t.Errorf("%s %s says %q, and nothing of it is done: %v", a.Layout, s.ID, text, s.Acts)
					}
				}
			}
			if len(s.Acts) > 0 && len(s.Do) == 0 || len(s.Cautions) == 0 || s.Button == "" || s.Head == "" {
				t.Errorf("%s %s is not said in full", a.Layout, s.ID)
			}
		}
	}
}

// Every machine ends as it must be left: plugged in, on, closed, full, the supply open, the
// filter back; and between plug and pressure every drain is shut.
func TestEndsReadyForUse(t *testing.T) {
	for _, a := range []machine.Answers{single, block, soft, hx, dual, lever,
		with(machine.SingleBoiler, "brew_material", "brass", "water", "mains")} {
		a.Treatment = machine.InTank
		p := descaled(t, a, 3, nil)
		x := p.Descaling().Descale.Begins()
		for _, s := range p.Steps() {
			play(x, s, asSaid)
		}
		x.End(false)
		if len(x.Broken) > 0 || !x.Plug || !x.On || !x.Supply || x.Intake || !x.Filter {
			t.Errorf("%s: %v, plugged %v, on %v, supply %v, filter %v", a.Layout, x.Broken, x.Plug, x.On, x.Supply, x.Filter)
		}
		for g, gate := range x.Gates {
			if gate.Open {
				t.Errorf("%s ends with the %s open", a.Layout, x.Spec.Openings[g].Title)
			}
		}
	}
}

// No dose is above three times what the likely scale takes to pH 4, with what fills the
// circuits and goes by the outlets; or one dose by the label, for a litre or the tank.
func TestDoseStaysBelowItsCeiling(t *testing.T) {
	random := rand.New(rand.NewPCG(6, 16))
	planned1 := 0
	for range 60 {
		a := randomMachine(random)
		for _, id := range []string{"citric", "lactic", "sulfamic", "vinegar", "sachet", "mark"} {
			in, err := planned(t, a, id, random.Float64()*random.Float64()*40, nil)
			if err != nil {
				continue // refused: nothing is shown
			}
			c := in.Card
			if c.Acid() > c.Ceiling()*1.001 {
				t.Fatalf("%s %v, %s: %.0f g of acid, at most %.0f", a.Layout, a.Overrides, id, c.Acid(), c.Ceiling())
			}
			p, err := Descale(a, in)
			if err != nil {
				continue
			}
			planned1++
			d := p.Descaling().Descale
			if acid, most := units.Litres(d.Solution.Value).At(d.Strength), mostAcid(d, in); acid > most*1.001 {
				t.Fatalf("%s %v, %s: %.0f g are mixed, at most %.0f", a.Layout, a.Overrides, id, acid, most)
			}
			for _, s := range p.Steps() { // what is weighed out for a batch makes it as strong as it is meant
				act, ok := BodyOf[Act](s)
				if !ok || act.Mix == nil {
					continue
				}
				acid := act.Mix.Measure.Value * float64(c.Product.Strength()) / c.Product.Litre
				if got := acid / act.Mix.Water.Value; got > float64(d.Strength)*1.001 || got < float64(d.Strength)*0.999 {
					t.Fatalf("%s %v, %s: %.1f g/L, meant %.1f", a.Layout, a.Overrides, id, got, d.Strength)
				}
			}
		}
	}
	if planned1 < 30 {
		t.Errorf("only %d plans", planned1)
	}
}

// Where acid is, is called as the machine calls it, in the band as in the steps.
func TestAcidIsNamedAsItsMachineCallsIt(t *testing.T) {
	brew, steam := machine.Brew(1), machine.Only(machine.SteamBoiler)
	for _, c := range []struct {
		in   Contents
		want string
	}{
		{Contents{Acid: []machine.Part{brew}, Layout: machine.Thermoblock}, "the heating block"},
		{Contents{Acid: []machine.Part{brew}}, "the boiler"},
		{Contents{Acid: []machine.Part{steam, brew}, Layout: machine.HXHome}, "the brew tube and steam boiler"},
		{Contents{Acid: []machine.Part{machine.Brew(2), brew}, Layout: machine.MultiCafe},
			"the brew boiler 1 and brew boiler 2"},
	} {
		if got := c.in.Names(); got != c.want {
			t.Errorf("%+v: %s, want %s", c.in, got, c.want)
		}
	}
}

func TestAcidAndDetergentNeverMeet(t *testing.T) {
	a := with(machine.SingleBoiler, "brew_material", "brass")
	in, err := planned(t, a, "citric", 1, func(in *Sitting) { in.Inside.Detergent = []machine.Part{machine.Group(1)} })
	if err != nil {
		t.Fatal(err)
	}
	var no *reason.Refusal
	if _, err := Descale(a, in); !errors.As(err, &no) || no.Code != ChemicalInside ||
		!strings.Contains(no.Finding.Title, "Detergent is in group 1") {
		t.Errorf("acid beside detergent: %v", err)
	}
	acid := Contents{Acid: []machine.Part{machine.Brew(1)}}
	if err := acid.Meets(false); !errors.As(err, &no) {
		t.Errorf("detergent beside acid: %v", err)
	}
	if err := acid.Meets(true); err != nil {
		t.Errorf("acid on acid: %v", err)
	}
	if err := acid.MeetsFilter(); !errors.As(err, &no) || no.Code != ChemicalInside || no.Field != "task" {
		t.Errorf("a filter into acid: %v", err)
	}
	if err := (Contents{Detergent: []machine.Part{machine.Group(1)}}).MeetsFilter(); err != nil {
		t.Errorf("a filter beside detergent in a group: %v", err)
	}
	// a joined wash comes after the proof, and an order that is turned round is refused
	w, err := Wash(a, backflush.HalfTeaspoon, backflush.UsualPowder, Target{Group: 1})
	if err != nil {
		t.Fatal(err)
	}
	p := descaled(t, a, 1, func(in *Sitting) { in.Wash = &w })
	proves := func(s Step) bool { m, _ := BodyOf[Measure](s); return m.Reads == Proof }
	doses := func(s Step) bool { return s.Effect == Doses }
	if slices.IndexFunc(p.Steps(), doses) < slices.IndexFunc(p.Steps(), proves) {
		t.Error("detergent before the acid is proven out")
	}
	if len(p.Activities) != 2 || p.Leads().Task != task.Descale || p.Activities[1].Task != task.Wash {
		t.Errorf("%+v, leads %s", p.Activities, p.Leads().Task)
	}
	p = loose(p)
	i := slices.IndexFunc(p.Steps(), proves)
	p.Order = slices.Delete(p.Order, i, i+1)
	if err := p.Check(); err == nil {
		t.Error("a plan without its proof passes")
	}
}

// Filter and softener have lanes of their own: out before the acid, back after the
// rinse, the month set.
func TestFilterAndSoftener(t *testing.T) {
	a := with(machine.SingleBoiler, "brew_material", "brass")
	before := func(list, first, then string) bool {
		i, j := strings.Index(list, first), strings.Index(list, then)
		return i >= 0 && j > i
	}
	a.Treatment = machine.InTank
	p := descaled(t, a, 1, func(in *Sitting) { in.Renew = true })
	got := ids(p)
	if !before(got, "filter-out", "mix") || !before(got, "filter-in-water", "filter-soak") ||
		!before(got, "prove-brew-1", "fit") || !before(got, "fit", "month") ||
		p.Activities[1].Task != task.FilterChange {
		t.Errorf("filter: %s, %+v", got, p.Activities)
	}
	a.Treatment = machine.Softener
	got = ids(descaled(t, a, 1, func(in *Sitting) { in.Renew = true }))
	if !before(got, "softener-out", "mix") || !before(got, "salt-soak", "salt-rinse") ||
		!before(got, "salt-rinse", "back") || !before(got, "prove-brew-1", "back") {
		t.Errorf("softener: %s", got)
	}
	if got := ids(descaled(t, a, 1, nil)); !before(got, "filter-out", "mix") ||
		!before(got, "prove-brew-1", "filter-back") {
		t.Errorf("put back as it is: %s", got)
	}
}

// Acid that was left in is rinsed out of each machine that its keeper can rinse, whoever
// descales it otherwise; of one that would have to be switched on to be refilled, with a
// heater nobody is sure of, nobody is led: it says how to leave it.
func TestAcidLeftIn(t *testing.T) {
	forbidden := with(machine.SingleBoiler, "warranty", "forbids descaling")
	for _, a := range []machine.Answers{forbidden, block, soft, hx, dual, lever} {
		p := descaled(t, a, 1, func(in *Sitting) { in.Dirty = true })
		if p.Leads().Task != task.AcidRinse || strings.Contains(ids(p), "mix") {
			t.Errorf("%s: %s, %s", a.Layout, p.Leads().Task, ids(p))
		}
	}
	for _, l := range []machine.Layout{machine.DualHome, machine.HXHome} {
		in, err := planned(t, with(l), "citric", 1, func(in *Sitting) { in.Dirty = true })
		if err != nil {
			t.Fatal(err)
		}
		var no *reason.Refusal
		if _, err := Descale(with(l), in); !errors.As(err, &no) || no.Code != descale.NotCleared ||
			!strings.Contains(strings.Join(no.Finding.Next, " "), "pull the plug") {
			t.Errorf("%s: %v", l, err)
		}
	}
}

// Each draw is at most a quarter of what the boiler holds as it is kept, and no more than tank
// and pump give: three of 0.30 L renew 56 % of a 1.8 L boiler (1 − (1 − 0.30 ÷ 1.26)³).
func TestDrawOff(t *testing.T) {
	for name, c := range map[string]struct {
		a     machine.Answers
		code  reason.Code
		field string
	}{
		"no tank to speak of": {with(machine.HXHome, "tank_l", "0.2", "jug_l", "0.05"), circuit.TankTooSmall, "tank_l"},
		"no steam boiler":     {with(machine.SingleBoiler), circuit.NoSteamBoiler, "layout"},
		"it leaks":            {with(machine.HXCafe, "condition", "leaks"), circuit.Leaks, "condition"},
	} {
		t.Run(name, func(t *testing.T) {
			var no *reason.Refusal
			if _, err := DrawOff(c.a, 0); !errors.As(err, &no) || no.Code != c.code || no.Field != c.field {
				t.Errorf("%v", err)
			}
		})
	}
	for name, c := range map[string]struct {
		a     machine.Answers
		draw  float64
		share float64
		fills int
	}{
		"1.8 L, a tank of 1":   {with(machine.HXHome, "steam_l", "1.8", "tank_l", "1", "jug_l", "1"), 0.3, 0.56, 3},
		"1.8 L, a tank of 2.5": {with(machine.HXHome, "jug_l", "1"), 0.3, 0.56, 2},
		"6 L, a tank of 1":     {with(machine.HXHome, "steam_l", "6", "tank_l", "1", "jug_l", "2"), 0.8, 0.47, 4},
		"6 L, a tank of 3":     {with(machine.HXHome, "steam_l", "6", "tank_l", "3", "jug_l", "2"), 0.8, 0.47, 2},
		"11 L on the mains":    {with(machine.HXCafe, "jug_l", "3"), 1.8, 0.55, 0},
	} {
		t.Run(name, func(t *testing.T) {
			draw, err := circuit.DrawOf(c.a.Facts())
			if err != nil || math.Abs(float64(draw)-c.draw) > 0.006 {
				t.Errorf("%v L a draw: %v", draw, err)
			}
			if got := circuit.Renews(c.a.Facts(), draw, 3).Value; math.Abs(got-c.share) > 0.01 {
				t.Errorf("three draws renew %.2f", got)
			}
			p, err := DrawOff(c.a, 0)
			if err != nil || ids(p) != "ready draw-1 back-1 draw-2 back-2 draw-3 back-3 done" {
				t.Fatalf("%v, %s", err, ids(p))
			}
			fills := 0
			for _, s := range p.Steps() {
				for _, x := range s.Acts {
					if x.Verb == plant.FillUp {
						fills++
					}
				}
			}
			if fills != c.fills {
				t.Errorf("the tank is filled %d times", fills)
			}
		})
	}
	if _, err := DrawOff(with(machine.HXHome), 21); err == nil {
		t.Error("21 draws were planned")
	}
}

// A machine that leaks is not washed, nor a group whose drain let nothing out twice.
func TestWashRefusedWhereItWouldHurt(t *testing.T) {
	for name, c := range map[string]struct {
		a      machine.Answers
		target Target
		code   reason.Code
		field  string
	}{
		"it leaks":       {with(machine.HXHome, "condition", "leaks"), Target{Group: 1}, backflush.Leaks, "condition"},
		"blind once":     {with(machine.HXHome), Target{Group: 1, Blind: 1}, HeadBlocked, "parts"},
		"blind twice":    {with(machine.HXHome), Target{Group: 1, Blind: 2}, HeadBlocked, "parts"},
		"blind, a rinse": {with(machine.HXHome), Target{Group: 1, Blind: 3, Dirty: true}, HeadBlocked, "parts"},
	} {
		t.Run(name, func(t *testing.T) {
			var no *reason.Refusal
			_, err := Wash(c.a, backflush.HalfTeaspoon, backflush.UsualPowder, c.target)
			if !errors.As(err, &no) || no.Code != c.code || no.Field != c.field || len(no.Finding.Next) == 0 {
				t.Errorf("%v", err)
			}
		})
	}
	for blind, steps := range map[int]string{
		0: "ready listen blind rinse cup basket outside discard",
		1: "ready off cold loosen on listen blind rinse cup basket outside discard",
	} {
		p, err := Unblock(with(machine.HXHome), backflush.UsualPowder, Target{Group: 1, Blind: blind})
		if err != nil || ids(p) != steps {
			t.Errorf("freed after %d tries: %v, %s", blind, err, ids(p))
		}
	}
	locked, err := Unblock(with(machine.HXHome), backflush.UsualPowder, Target{Group: 1, LockedIn: true})
	if err != nil {
		t.Fatal(err)
	}
	tries := locked.WashOf(machine.Group(1)).Blind
	if _, below, cools := locked.Cooling(); !cools || below != 45 || tries != 1 {
		t.Errorf("a handle of which nobody knows: cools %v below %v °C, %d tries", cools, below, tries)
	}
	out, err := Unblock(with(machine.HXHome), backflush.UsualPowder, Target{Group: 1})
	if _, _, cools := out.Cooling(); err != nil || cools {
		t.Errorf("with the handle out it waits: %v", err)
	}
	var no *reason.Refusal
	if _, err := Unblock(with(machine.HXHome), backflush.UsualPowder, Target{Group: 1, Blind: 2}); !errors.As(err, &no) ||
		no.Code != HeadBlocked {
		t.Errorf("freed after two tries: %v", err)
	}
}

func randomMachine(r *rand.Rand) machine.Answers {
	pick := func(list ...string) string { return list[r.IntN(len(list))] }
	num := func(low, high float64) string { return fmt.Sprintf("%.3g", low+r.Float64()*(high-low)) }
	a := answers(machine.Layouts()[r.IntN(len(machine.Layouts()))], machine.No)
	a.Treatment = machine.Treatments()[r.IntN(len(machine.Treatments()))]
	try := map[string]string{
		"brew_l": num(0.05, 1), "steam_l": num(0.3, 3), "tank_l": num(0.8, 4), "tray_l": num(0, 1.5),
		"jug_l": num(0.3, 3), "heel": num(0.03, 0.5), "flow_ml_s": num(2, 20), "duty_on_min": num(0.5, 3),
		"duty_off_min": num(0, 2), "brew_material": pick("not_said", "copper", "aluminium", "stainless"),
		"drain":       pick("tap", "plug", "screws", "pouring out", "flushing only"),
		"own_descale": pick("no", "yes"), "water": pick("tank", "mains"), "pump": pick("vibratory", "rotary"),
	}
	a.Overrides = map[string]string{}
	for _, key := range slices.Sorted(maps.Keys(try)) {
		if value := try[key]; r.IntN(2) == 0 && a.CheckOverride(key, value) == nil {
			a.Overrides[key] = value
		}
	}
	return a
}
