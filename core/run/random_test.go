package run

import (
	"errors"
	"flag"
	"fmt"
	"maps"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/treat"
	"freshanvil/core/units"
)

// long asks for what takes longer: make long.
var long = flag.Bool("long", false, "judge 2,000 random machines, with rescues along every play")

// randomFacts are facts that somebody may say of a machine, each with what may be said.
var randomFacts = []struct {
	key  string
	draw func(r *rand.Rand) string
}{
	{"brew_l", logBetween(0.05, 1)}, {"steam_l", logBetween(0.5, 4)}, {"heater_w", logBetween(800, 2000)},
	{"tank_l", logBetween(1, 4)}, {"tray_l", logBetween(0.2, 2)}, {"jug_l", logBetween(0.6, 3)},
	{"flow_ml_s", logBetween(4, 12)}, {"duty_on_min", logBetween(0.5, 4)}, {"room_c", logBetween(15, 32)},
	{"drain", oneOf("plug", "screws", "tap", "flushing only", "pouring out")},
	{"water", oneOf("tank", "plumbed")},
	{"steam_heater", oneOf("can_be_off", "held_off", "on_means_heating", "cannot_tell")},
	{"brew_heater", oneOf("can_be_off", "held_off", "on_means_heating", "cannot_tell")},
	{"pump_before_hot", oneOf("yes", "no", "cannot_tell")},
	{"groups", oneOf("1", "2")},
	{"condition", oneOf("sound", "leaks", "flow is weak")},
}

func logBetween(from, to float64) func(*rand.Rand) string {
	return func(r *rand.Rand) string { return fmt.Sprintf("%.2g", from*math.Pow(to/from, r.Float64())) }
}

func oneOf(list ...string) func(*rand.Rand) string {
	return func(r *rand.Rand) string { return list[r.IntN(len(list))] }
}

var materials = oneOf("copper", "brass", "stainless", "aluminium", "not_said", "nickel_plated")

// random is a machine that somebody may keep: any layout, what it is made of and what its
// heaters do mostly said, as mostly suits, and every fourth of the other facts.
func random(r *rand.Rand) machine.Answers {
	layouts := []machine.Layout{machine.Thermoblock, machine.SingleBoiler, machine.HXHome, machine.DualHome,
		machine.LeverManual, machine.LeverCam, machine.HXCafe, machine.MultiCafe}
	// two in eight are trade machines, which are refused as they are: fewer of them
	l := layouts[min(r.IntN(40)/6, 7)]
	a := answersOf(l)
	a.Treatment = []machine.Treatment{machine.Untreated, machine.Untreated, machine.InTank, machine.Softener}[r.IntN(4)]
	a.Drinks = float64(1 + r.IntN(20))
	set := func(key, value string) {
		if a.CheckOverride(key, value) == nil {
			a.Overrides[key] = value
		}
	}
	set("brew_material", materials(r))
	set("steam_material", materials(r))
	if r.IntN(4) > 0 {
		set("brew_material", "stainless")
		set("steam_material", "copper")
		set("steam_heater", []string{"held_off", "can_be_off"}[r.IntN(2)])
		set("brew_heater", "can_be_off")
		if l == machine.HXHome || l == machine.LeverCam {
			set("drain", "plug")
		}
	}
	for _, f := range randomFacts {
		if r.IntN(4) == 0 && r.IntN(2) == 0 {
			set(f.key, f.draw(r))
		}
	}
	return a
}

// wanted is what somebody may ask for: any product, strength and program, acid that was left
// in, a new filter beside.
func wanted(r *rand.Rand, a machine.Answers) (job.Sitting, error) {
	f := a.Facts()
	brew, steam, err := descale.AtTheLimit(f)
	if err != nil {
		return job.Sitting{}, err
	}
	known := r.IntN(2) == 0
	if known {
		g := 0.2 + 12*r.Float64()
		brew, steam = units.Sharp(g), units.Sharp(g*2*r.Float64())
	}
	product := descale.Products()[0]
	if r.IntN(4) == 0 {
		product = descale.Products()[r.IntN(len(descale.Products()))]
	}
	strength := 0.0
	if r.IntN(4) == 0 {
		strength = 10 + 30*r.Float64()
	}
	card, err := descale.MixFor(product, units.Strength(strength), f, descale.Circuits(f, brew, steam))
	if err != nil {
		return job.Sitting{}, err
	}
	in := job.Sitting{Card: card, Setting: treat.Usual(a.Treatment), FeedAlk: units.Alkalinity(20 + 280*r.Float64()),
		FeedPH: units.PH(6.5 + 1.7*r.Float64()), Share: 0.3 + r.Float64(), Known: known, Now: start}
	in.Renew, in.Dirty = r.IntN(6) == 0 && job.RenewsBeside(in.Setting), r.IntN(6) == 0
	if fits := descale.ProgramsFor(f); r.IntN(3) == 0 && len(fits) > 0 {
		in.Program = fits[r.IntN(len(fits))].ID
	}
	return in, nil
}

// Random machines: each is led by a plan that the model clears, or is refused with a code, the
// field that decided, its value, what is allowed, and a reason. What was refused is printed, by
// layout and reason (seen with -v).
func TestRandomMachines(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 26))
	machines := 150
	if *long {
		machines = 2000
	}
	count, refused := map[machine.Layout]int{}, map[machine.Layout]map[string]int{}
	cleared, plays, rescues := 0, 0, 0
	for n := range machines {
		a := random(r)
		count[a.Layout]++
		in, err := wanted(r, a)
		var p job.Plan
		if err == nil {
			p, err = job.Descale(a, in)
		}
		if err == nil {
			var v Verdict
			v, err = judge(p, *long)
			plays, rescues = plays+v.Plays, rescues+v.Rescues
		}
		if err == nil {
			cleared++
			continue
		}
		var no *reason.Refusal
		if !errors.As(err, &no) {
			t.Fatalf("machine %d, %s %v: %v", n, a.Layout, a.Overrides, err)
		}
		if no.Code == "" || no.Field == "" || no.Value == "" || no.Allowed == "" || len(no.Finding.Because) == 0 {
			t.Errorf("machine %d, %s %v: %+v", n, a.Layout, a.Overrides, no)
		}
		if refused[a.Layout] == nil {
			refused[a.Layout] = map[string]int{}
		}
		refused[a.Layout][string(no.Code)]++
		if no.Code == job.NotCleared {
			t.Logf("machine %d, %s %v: %v", n, a.Layout, a.Overrides, no.Finding.Because)
		}
	}
	t.Logf("%d of %d machines are led, %d plays, left at %d instants", cleared, machines, plays, rescues)
	for _, l := range slices.Sorted(maps.Keys(count)) {
		var list []string
		for _, code := range slices.Sorted(maps.Keys(refused[l])) {
			list = append(list, fmt.Sprintf("%s %.0f %%", code, 100*float64(refused[l][code])/float64(count[l])))
		}
		t.Logf("%-14s %4d, refused: %s", l, count[l], strings.Join(list, ", "))
	}
	if cleared < machines/5 || cleared > machines*4/5 {
		t.Errorf("%d of %d machines are led: the draw tells nothing", cleared, machines)
	}
}
