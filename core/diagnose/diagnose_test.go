package diagnose

import (
	"errors"
	"math"
	"regexp"
	"slices"
	"strings"
	"testing"

	"freshanvil/core/machine"
	"freshanvil/core/task"
	"freshanvil/core/units"
)

// machines are one of each layout, with a tank and on the mains.
func machines() (list []machine.Facts) {
	for _, l := range []machine.Layout{machine.Thermoblock, machine.SingleBoiler, machine.HXHome, machine.HXCafe,
		machine.DualHome, machine.MultiCafe, machine.LeverCam, machine.LeverManual} {
		valve := machine.Yes
		if l == machine.LeverManual {
			valve = machine.No
		}
		list = append(list, machine.Answers{Layout: l, Valve: valve, Drinks: 4, Hardness: units.UnknownHardness()}.Facts())
	}
	return list
}

// The graph holds together: every cause and check that is named is there, what an answer is given with adds up to one,
// every cause is behind a symptom and every check asked of one, and every remedy that is led is a task there is.
func TestTheGraphHoldsTogether(t *testing.T) {
	behind, asked := map[CauseID]bool{}, map[CheckID]bool{}
	for _, s := range symptoms {
		for _, w := range s.causes {
			if _, known := causes[w.id]; !known || w.parts <= 0 {
				t.Errorf("%s: no cause %q", s.ID, w.id)
			}
			behind[w.id] = true
		}
		for _, id := range s.checks {
			if _, known := checks[id]; !known {
				t.Errorf("%s: no check %q", s.ID, id)
			}
			asked[id] = true
		}
	}
	for id, c := range causes {
		if !behind[id] || c.Title == "" {
			t.Errorf("%s is behind no symptom, or has no title", id)
		}
		if c.Remedy.End == Led {
			if row := c.Remedy.Task.Row(); row.ID != c.Remedy.Task || row.Way == task.Small && !row.Leads {
				t.Errorf("%s: %q is led by nothing", id, c.Remedy.Task)
			}
		} else if len(c.Remedy.Do) == 0 {
			t.Errorf("%s says nothing of what to do", id)
		}
	}
	for id, c := range checks {
		if !asked[id] || len(c.Answers) < 2 || c.Minutes <= 0 {
			t.Errorf("%s is never asked, or not a question", id)
		}
		for cause, given := range c.given {
			sum := 0.0
			for _, p := range given {
				sum += p
			}
			if len(given) != len(c.Answers) || math.Abs(sum-1) > 1e-9 || !behind[cause] {
				t.Errorf("%s of %s: %v", id, cause, given)
			}
		}
	}
}

// Section by section: on every machine on which a symptom can be noticed, a person who answers as a cause would have it
// comes to that cause first or second, without a loop; who can tell nothing ends, too, with causes in their order.
func TestEveryCauseIsReached(t *testing.T) {
	reached := map[CauseID]bool{}
	for _, f := range machines() {
		for _, s := range symptoms {
			if !s.Fits(f) {
				continue
			}
			for _, w := range s.on(f) {
				var said []Said
				for n := 0; ; n++ {
					d, err := Diagnose(f, s.ID, said, nil)
					if err != nil || n > len(s.checks) {
						t.Fatalf("%s %s: %v after %d checks", s.ID, w.id, err, n)
					}
					if d.Next == nil {
						if place := slices.IndexFunc(d.Causes, func(c Likely) bool { return c.ID == w.id }); place <= 1 {
							reached[w.id] = true
						}
						break
					}
					said = append(said, Said{d.Next.ID, d.Next.Answers[likeliest(*d.Next, w.id)].ID})
				}
			}
			var said []Said
			for {
				d, err := Diagnose(f, s.ID, said, nil)
				if err != nil {
					t.Fatal(err)
				}
				if d.Next == nil {
					break
				}
				said = append(said, Said{d.Next.ID, CantTell})
			}
		}
	}
	for id := range causes {
		if !reached[id] {
			t.Errorf("nobody comes to %s", id)
		}
	}
}

// likeliest is the answer that a cause gives most often.
func likeliest(c Check, id CauseID) (best int) {
	for n := range c.Answers {
		if c.chance(id, n) > c.chance(id, best) {
			best = n
		}
	}
	return best
}

// Information by hand: a check that parts two equal causes for certain tells one bit; one that is right nine times of
// ten 1 − H(0.1) = 0.531; one that says the same of both, nothing (Shannon 1948).
func TestInformationByHand(t *testing.T) {
	shares := map[CauseID]float64{"a": 0.5, "b": 0.5}
	for name, c := range map[string]struct {
		given map[CauseID][]float64
		bits  float64
	}{"certain": {on(map[CauseID]float64{"a": 1, "b": 0}), 1}, "nine of ten": {on(map[CauseID]float64{"a": 0.9,
		"b": 0.1}), 0.531004},
		"the same of both": {on(map[CauseID]float64{"a": 0.7, "b": 0.7}), 0}, "nothing known": {nil, 0}} {
		t.Run(name, func(t *testing.T) {
			check := Check{Answers: yesNo, given: c.given}
			if got := check.tells(shares); math.Abs(got-c.bits) > 1e-6 {
				t.Errorf("%g bits, want %g", got, c.bits)
			}
		})
	}
	after := Check{Answers: yesNo, given: on(map[CauseID]float64{"a": 0.9,
		"b": 0.3})}.after(map[CauseID]float64{"a": 0.25, "b": 0.75}, 0)
	if math.Abs(after["a"]-0.5) > 1e-12 { // 0.25·0.9 against 0.75·0.3
		t.Errorf("after yes %g", after["a"])
	}
}

// What a bench has found before changes what is likely, and with it what is asked first.
func TestWhatWasFoundChangesTheFirstCheck(t *testing.T) {
	f := machines()[2]
	plain, err := Diagnose(f, "no_pump_pressure", nil, nil)
	if err != nil {
		t.Fatal(err)
	}
	often, err := Diagnose(f, "no_pump_pressure", nil, map[CauseID]int{"filter_old": 40})
	if err != nil {
		t.Fatal(err)
	}
	if often.Causes[0].ID != "filter_old" || len(often.Because) != 2 {
		t.Errorf("found forty times: %+v", often.Causes[0])
	}
	if plain.Next == nil || often.Next != nil && often.Next.ID == plain.Next.ID && often.Bits == plain.Bits {
		t.Errorf("first %v, then %v", plain.Next, often.Next)
	}
}

// The two that lead to no job: over pressure and moisture stop first; what is normal is said to be; no click leads to
// the hot water in the blind, and a click without water to the jet.
func TestWhereItEnds(t *testing.T) {
	f := machines()[3] // a café's
	for _, id := range []SymptomID{"over_pressure", "moisture"} {
		d, err := Diagnose(f, id, nil, nil)
		if err != nil || !d.Symptom.Stops || d.Causes[0].Remedy.End != Stop || d.Causes[0].Remedy.Task != "" {
			t.Errorf("%s: %v %+v", id, err, d.Causes)
		}
	}
	for _, c := range []struct {
		symptom SymptomID
		said    []Said
		cause   CauseID
		end     End
		task    task.ID
	}{
		{"no_water", []Said{{"click", "no"}, {"washed_last", "yes"}}, "dried_powder", Led, task.Unblock},
		{"no_water", []Said{{"click", "yes"}, {"hot_water", "yes"}, {"stood", "yes"}, {"screen_looked", "clean"}}, "jet",
			Led, task.Jet},
		{"disc_drips", []Said{{"disc_looked", "yes"}}, "disc_hole", Normal, ""},
		{"light_on", []Said{{"light_says", "clean"}}, "light_wash", Normal, ""},
		{"slow_heating", []Said{{"gauze_looked", "crusted"}, {"how_long", "longer"}}, "steam_scale", Led, task.Descale},
		{"pump_screams", []Said{{"supply_looked", "no"}}, "supply_shut", ByHand, ""},
	} {
		t.Run(string(c.cause), func(t *testing.T) {
			d, err := Diagnose(f, c.symptom, c.said, nil)
			if err != nil || d.Causes[0].ID != c.cause || d.Causes[0].Remedy.End != c.end || d.Causes[0].Remedy.Task != c.task {
				t.Errorf("%v %+v", err, d.Causes[0])
			}
		})
	}
}

// Nothing is almost certain before one look, whatever the machine; and that nothing is to be done is said only where
// nine of ten speak for it.
func TestNothingIsCertainBeforeALook(t *testing.T) {
	for _, f := range machines() {
		for _, s := range symptoms {
			if !s.Fits(f) {
				continue
			}
			for _, said := range [][]Said{nil, {{s.madeOn(f).checks[0], CantTell}}} {
				d, err := Diagnose(f, s.ID, said, nil)
				if err != nil || d.Sure || said == nil && d.Next == nil {
					t.Fatalf("%s: %v, sure %v, next %v", s.ID, err, d.Sure, d.Next)
				}
				for _, c := range d.Causes {
					if c.Words == "almost certainly" {
						t.Errorf("%s: %s is almost certain", s.ID, c.ID)
					}
				}
			}
			for _, id := range s.madeOn(f).checks {
				for _, a := range checks[id].Answers {
					d, err := Diagnose(f, s.ID, []Said{{id, a.ID}}, nil)
					if err != nil {
						t.Fatal(err)
					}
					if first := d.Causes[0]; d.Sure && first.Remedy.End == Normal && first.Share < 0.9 {
						t.Errorf("%s: %s by %s, %.2f", s.ID, first.ID, id, first.Share)
					}
				}
			}
		}
	}
}

// With more than one group the other one is looked at before anything else: it clears supply and pump.
func TestTheOtherGroupComesFirst(t *testing.T) {
	f := machines()[3] // a café's, of two groups
	for _, id := range []SymptomID{"no_water", "no_pump_pressure", "air_lock"} {
		d, err := Diagnose(f, id, nil, nil)
		if err != nil || d.Next == nil || d.Next.ID != "other_group" {
			t.Errorf("%s: %v, first %+v", id, err, d.Next)
		}
	}
	d, err := Diagnose(f, "no_water", []Said{{"other_group", "yes"}}, nil)
	if err != nil || d.Next == nil || d.Next.ID == "supply_looked" {
		t.Errorf("%v, then %+v", err, d.Next)
	}
	for _, c := range d.Causes {
		if general := c.ID == "supply_shut" || c.ID == "air" || c.ID == "pump_dead"; general && c.Share > 0.02 {
			t.Errorf("%s is still %.2f likely", c.ID, c.Share)
		}
	}
	if d, err := Diagnose(machines()[2], "no_water", nil, nil); err != nil || d.Next.ID == "other_group" {
		t.Errorf("one group: %v %+v", err, d.Next)
	}
}

// One question asks one thing; what a look opens or turns says first that it is off, unplugged, cold and without
// pressure; a remedy that moves water, pressure or a screw is led, names who does it, or begins switched off.
func TestQuestionsAndRemedies(t *testing.T) {
	two := regexp.MustCompile(`\?.*\?| and |, or |: does|: can`)
	for id, c := range checks {
		if two.MatchString(c.Ask) {
			t.Errorf("%s asks two things: %s", id, c.Ask)
		}
		how := strings.Join(c.How, " ")
		if opens := regexp.MustCompile(`(?i)unscrew|nut `).MatchString(how + c.Ask); opens &&
			!strings.Contains(how, "the plug out, cold, the gauge at 0") {
			t.Errorf("%s opens something hot: %s", id, how)
		}
	}
	moves := regexp.MustCompile(`(?i)\b(supply|tank|valve|drain|pump|tap|screw|pressure)\b`)
	for id, c := range causes {
		text := c.Title + " " + strings.Join(c.Remedy.Do, " ")
		if c.Remedy.End == ByHand && moves.MatchString(text) && !strings.HasPrefix(c.Remedy.Do[0], "Switch the machine off") {
			t.Errorf("%s: %s", id, text)
		}
		if c.Remedy.End == Normal && !strings.Contains(text, "look again") {
			t.Errorf("%s does not say when it is not that: %s", id, text)
		}
	}
}

// What is not in the graph, or not on this machine, is refused by name.
func TestWhatIsRefused(t *testing.T) {
	f := machines()[3]
	for name, c := range map[string]struct {
		symptom SymptomID
		said    []Said
	}{"symptom": {"hiccups", nil}, "check": {"no_water", []Said{{"salted_today", "yes"}}},
		"answer": {"no_water", []Said{{"click", "perhaps"}}}} {
		t.Run(name, func(t *testing.T) {
			var bad *units.OutOfRange
			if _, err := Diagnose(f, c.symptom, c.said, nil); !errors.As(err, &bad) || bad.Field != name {
				t.Errorf("%v", err)
			}
		})
	}
	twice := []Said{{"click", "yes"}, {"click", "yes"}}
	if _, err := Diagnose(f, "no_water", twice, nil); err == nil {
		t.Error("a check may be answered twice")
	}
	if _, err := Diagnose(machines()[0], "stiff_lever", nil, nil); err == nil {
		t.Error("a machine without a lever has a stiff one")
	}
}

// The complaints of the trade, line by line (common practice): each is a symptom, with the causes that are looked for
// behind it, and how each of them ends.
func TestTheComplaintsOfTheTrade(t *testing.T) {
	for _, c := range []struct {
		complaint string
		symptom   SymptomID
		cause     CauseID
		end       End
		task      task.ID
	}{
		{"no water, no click", "no_water", "dried_powder", Led, task.Unblock},
		{"no water, no click: coil", "no_water", "coil", Licensed, ""},
		{"click, no water", "no_water", "jet", Led, task.Jet},
		{"water one-sided", "one_sided", "spreader", Led, task.Screen},
		{"leak at the handle: seal", "handle_leaks", "seal_worn", Led, task.Seal},
		{"leak at the handle: rim", "handle_leaks", "rim", ByHand, ""},
		{"leak at the handle: handle worn, shim", "handle_leaks", "handle_worn", ByHand, ""},
		{"leak at the steam joint: nut, grease", "joint_leaks", "joint_loose", Led, task.SteamJoint},
		{"leak at the steam joint: gasket", "joint_leaks", "joint_gasket", Licensed, ""},
		{"weak steam: tip holes", "weak_steam", "tip_blocked", Led, task.Tip},
		{"over-pressure", "over_pressure", "switch_stuck", Stop, ""},
		{"no pump pressure", "no_pump_pressure", "pump_dead", Licensed, ""},
		{"pump scream: supply", "pump_screams", "supply_shut", ByHand, ""},
		{"pump scream: tank", "pump_screams", "tank_empty", ByHand, ""},
		{"pump scream: air", "pump_screams", "air", Led, task.Bleed},
		{"air lock after draining", "air_lock", "air", Led, task.Bleed},
		{"dripping disc", "disc_drips", "disc_hole", Normal, ""},
		{"light still on after descaling", "light_on", "light_wash", Normal, ""},
		{"not-drained message", "not_drained", "drain_open", Licensed, ""},
		{"still soapy", "soapy", "rinse_short", Led, task.Rinse},
		{"brown after washing", "brown_after", "behind_screen", Led, task.Screen},
		{"stiff or squeaking lever: after a wash", "stiff_lever", "after_wash", Normal, ""},
		{"stiff or squeaking lever: dry", "stiff_lever", "cam_dry", Led, task.CamGrease},
		{"basket falls out", "basket_falls", "spring", ByHand, ""},
		{"milk smell", "milk_smell", "wand_milk", Led, task.Tip},
		{"salty after softener", "salty", "brine", ByHand, ""},
		{"slow heating: scale", "slow_heating", "steam_scale", Led, task.Descale},
		{"slow heating: element", "slow_heating", "element", Licensed, ""},
		{"moisture under the machine", "moisture", "leak_inside", Stop, ""},
		{"moisture in a gauge", "moisture", "condensed", Stop, ""},
	} {
		t.Run(c.complaint, func(t *testing.T) {
			i := slices.IndexFunc(symptoms, func(s Symptom) bool { return s.ID == c.symptom })
			if i < 0 || !slices.ContainsFunc(symptoms[i].causes, func(w weighed) bool { return w.id == c.cause }) {
				t.Fatalf("%s is not behind %s", c.cause, c.symptom)
			}
			got := causes[c.cause].Remedy
			if got.End != c.end || got.Task != c.task {
				t.Errorf("it ends in %s %s", got.End, got.Task)
			}
			if (c.end == Stop) != symptoms[i].Stops {
				t.Errorf("stops: %v", symptoms[i].Stops)
			}
			if c.end != Led && len(got.Do) == 0 {
				t.Error("nothing is said of what to do")
			}
		})
	}
}

// TestRemediesBegin: what is led begins somewhere, what is not led nowhere.
func TestRemediesBegin(t *testing.T) {
	for _, c := range []struct {
		of   task.ID
		want Begins
	}{
		{"", NotAtAll}, {task.Descale, OnTheCard}, {task.Unblock, ByHandle}, {task.Rinse, ByFoam}, {task.Seal, AtOnce},
	} {
		if got := (Remedy{Task: c.of}).Begins(); got != c.want {
			t.Errorf("%q begins %q, want %q", c.of, got, c.want)
		}
	}
}
