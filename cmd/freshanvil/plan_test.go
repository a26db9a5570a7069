package main

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"strings"
	"testing"

	"freshanvil/internal/api"
)

// request is what plan reads, of a layout with facts.
func request(layout string, facts ...string) string {
	var list []string
	for i := 0; i < len(facts); i += 2 {
		list = append(list, fmt.Sprintf(`{"key": %q, "value": %q}`, facts[i], facts[i+1]))
	}
	valve := "yes"
	if layout == "lever_manual" {
		valve = "no"
	}
	return fmt.Sprintf(`{"machine": {"answers": {"layout": %q, "valve": %q, "drinks_per_day": 4,
		"milk_drinks_per_day": 2, "hardness": {"known": true, "value": 14, "unit": "dh"}, "treatment": "none"},
		"facts": [%s]}, "tasks": ["descale"], "start": "2026-03-10T18:00:00Z"}`, layout, valve, strings.Join(list, ", "))
}

func planned(in string, args ...string) (out, complaints string, code int) {
	var o, c bytes.Buffer
	err := plan(args, strings.NewReader(in), &o, &c)
	var told exit
	if errors.As(err, &told) {
		code = told.code
	} else if err != nil {
		code = 1
	}
	return o.String(), c.String(), code
}

var (
	singleSaid = request("single_boiler", "brew_material", "brass")
	dualSaid   = request("dual_home", "brew_material", "stainless", "steam_material", "stainless", "brew_heater",
		"can_be_off", "steam_heater", "can_be_off")
)

// exponent is a number as nobody at a machine reads it.
var exponent = regexp.MustCompile(`[0-9]e[-+][0-9]`)

// The sheet says what to lay out, when it ends, each step with its cautions, how to leave it,
// and how often it was played; no line is longer than a page is wide.
func TestPlanPrintsASheet(t *testing.T) {
	for name, in := range map[string]string{
		"single boiler": singleSaid, "dual boiler": dualSaid,
		"thermoblock": request("thermoblock", "brew_material", "stainless"),
		"heat exchanger": request("hx_home", "brew_material", "copper", "steam_material", "copper", "drain", "plug",
			"steam_heater", "held_off"),
		"poured lever": request("lever_manual", "brew_material", "brass"),
	} {
		t.Run(name, func(t *testing.T) {
			out, complaints, code := planned(in)
			if code != 0 || complaints != "" {
				t.Fatalf("%d: %s", code, complaints)
			}
			for _, want := range []string{"LAY OUT", "citric acid", "Begun on Tuesday 10 March at 18:00", "It cools",
				"It soaks|Sips", "pH ____", "IF YOU ARE CALLED AWAY", "on a model of this machine", "! Gloves"} {
				found := false
				for _, one := range strings.Split(want, "|") {
					found = found || strings.Contains(out, one)
				}
				if !found {
					t.Errorf("the sheet does not say %q", want)
				}
			}
			for line := range strings.Lines(out) {
				if len([]rune(line)) > 90 || exponent.MatchString(line) || strings.Contains(line, "NaN") {
					t.Errorf("line %q", line)
				}
			}
		})
	}
}

// The document has every step by its id, in order, with its ways.
func TestPlanPrintsItsSteps(t *testing.T) {
	out, _, code := planned(dualSaid, "--json")
	var d planDocument
	if err := json.Unmarshal([]byte(out), &d); err != nil || code != 0 {
		t.Fatal(err, code)
	}
	ids := map[string]int{}
	for i, s := range d.Steps {
		if _, twice := ids[s.ID]; twice || s.ID == "" || len(s.Do) == 0 {
			t.Errorf("step %d: %+v", i, s)
		}
		ids[s.ID] = i
	}
	if d.Program != "drained" || ids["drain-steam"] > ids["mix"] || ids["mix"] > ids["soak"] || d.HandsMin <= 0 ||
		d.Minutes < d.HandsMin || len(d.Steps[ids["out-steam"]].Ways) != 2 || d.Cleared == "" {
		t.Errorf("%s, %v minutes, %v by hand, %v", d.Program, d.Minutes, d.HandsMin, ids)
	}
}

func traced(t *testing.T, in string, args ...string) (lines []traceLine, code int) {
	t.Helper()
	out, _, code := planned(in, append(args, "--trace")...)
	for line := range strings.Lines(out) {
		var l traceLine
		if err := json.Unmarshal([]byte(line), &l); err != nil {
			t.Fatalf("%v: %s", err, line)
		}
		lines = append(lines, l)
	}
	return lines, code
}

// The trace goes on in time, ends clean and hot, and holds no violation; for slow hands it
// takes longer.
func TestPlanTracesThePlant(t *testing.T) {
	as, code := traced(t, dualSaid)
	if code != 0 || len(as) < 100 {
		t.Fatalf("%d lines, exit %d", len(as), code)
	}
	last := 0.0
	for _, l := range as {
		if l.T < last-1e-9 || len(l.Violations) > 0 || l.Step == "" {
			t.Fatalf("%v after %v s, %+v", l.T, last, l.Violations)
		}
		last = l.T
	}
	end := as[len(as)-1]
	for _, v := range end.Vessels {
		if (v.Kind == "brew" || v.Kind == "steam") && (v.Acid > 1e-4 || v.Litres < 0.9*v.Working || v.Temp < 80) {
			t.Errorf("ends with %+v", v)
		}
		for _, o := range v.Openings {
			if o.Open {
				t.Errorf("ends with %s open", o.ID)
			}
		}
	}
	if end.Contact["steam"] <= 0 || end.Contact["brew-1"] <= 0 || !end.On || !end.SupplyOpen {
		t.Errorf("%+v", end)
	}
	slow, code := traced(t, dualSaid, "--hands", "3")
	if code != 0 || slow[len(slow)-1].T <= last {
		t.Errorf("slow hands: exit %d, %v s", code, slow[len(slow)-1].T)
	}
	again, _ := traced(t, dualSaid, "--seed", "7")
	if once, _ := traced(t, dualSaid, "--seed", "7"); len(once) != len(again) ||
		once[len(once)-1].T != again[len(again)-1].T {
		t.Error("a seed does not give the same again")
	}
	differs, code := traced(t, dualSaid, "--answer", "prove-steam-steam-drain=differs")
	if code != 0 || len(differs) <= len(as) {
		t.Errorf("a strip that differs: exit %d, %d lines of %d", code, len(differs), len(as))
	}
	halted, code := traced(t, dualSaid, "--answer", "try-pump=waits_for_heat")
	if code != 0 || halted[len(halted)-1].Step != "try-pump" {
		t.Errorf("a pump that waits: exit %d at %s", code, halted[len(halted)-1].Step)
	}
}

// What must not be done is a problem document and exit code 3; what is wrong in the request,
// the same and 2.
func TestPlanRefuses(t *testing.T) {
	for _, c := range []struct {
		name, in    string
		args        []string
		code        int
		kind, field string
	}{
		{"by its tap", request("hx_home"), nil, 3, "emptied_by_tap", "drain"},
		{"heater not said", request("hx_home", "drain", "plug"), nil, 3, "heater_not_said", "steam_heater"},
		{"does not fit", request("single_boiler"), nil, 3, "contact_too_long", "program"},
		{"a trade machine", request("multi_cafe"), nil, 3, "not_by_the_keeper", "layout"},
		{"two kinds of hands", singleSaid, []string{"--hands", "2", "--seed", "1", "--trace"}, 2, "out_of_range", "seed"},
		{"hands of stone", singleSaid, []string{"--hands", "9"}, 2, "out_of_range", "hands"},
		{"an answer to nothing", singleSaid, []string{"--answer", "nowhere=hot"}, 2, "out_of_range", "answer"},
		{"a fact that is none", request("single_boiler", "wings", "2"), nil, 2, "out_of_range", "machine.facts.key"},
		{"a task that is none", strings.Replace(singleSaid, `"descale"`, `"polish"`, 1), nil, 2, "contract", "tasks.0"},
		{"no machine", `{"tasks": ["descale"]}`, nil, 2, "out_of_range", "machine"},
		{"no document", `{`, nil, 2, "out_of_range", "request"},
		{"a field that is none", `{"mashine": 1}`, nil, 2, "contract", "mashine"},
	} {
		t.Run(c.name, func(t *testing.T) {
			out, complaints, code := planned(c.in, c.args...)
			var p api.Problem
			if err := json.Unmarshal([]byte(complaints), &p); err != nil {
				t.Fatalf("%v: %s", err, complaints)
			}
			if code != c.code || p.Code != c.kind || p.Field == nil || *p.Field != c.field || *p.Value == "" ||
				*p.Allowed == "" || out != "" {
				t.Errorf("exit %d, %s of %v: %s", code, p.Code, *p.Field, complaints)
			}
		})
	}
}

// The other tasks are planned, too: read as a sheet, as steps, and traced on the model.
func TestPlanOfOtherTasks(t *testing.T) {
	for task, treatment := range map[string]string{"wash": "none", "water_backflush": "none", "draw_off": "none",
		"filter_change": "in_tank", "regenerate": "softener"} {
		t.Run(task, func(t *testing.T) {
			in := strings.NewReplacer(`["descale"]`, `["`+task+`"]`, `"treatment": "none"`,
				`"treatment": "`+treatment+`"`).Replace(request("hx_home"))
			out, complaints, code := planned(in)
			if code != 0 || !strings.Contains(out, "LAY OUT") || !strings.Contains(out, "on a model of this machine") {
				t.Errorf("exit %d: %s", code, complaints)
			}
			out, _, code = planned(in, "--json")
			var d planDocument
			if err := json.Unmarshal([]byte(out), &d); err != nil || code != 0 || len(d.Steps) < 4 || d.Cleared == "" {
				t.Errorf("exit %d, %d steps: %v", code, len(d.Steps), err)
			}
			lines, code := traced(t, in)
			if code != 0 || lines[len(lines)-1].Event != "end" || len(lines) < len(d.Steps) {
				t.Errorf("exit %d, %d lines", code, len(lines))
			}
		})
	}
}

// A wash is traced with its detergent: it is in the head after the pulses, and below 10 mg/L in
// the end; what nobody expects leads on, or out.
func TestPlanTracesAWash(t *testing.T) {
	in := strings.Replace(request("dual_home"), `["descale"]`, `["wash"]`, 1)
	head := func(l traceLine) float64 {
		for _, v := range l.Vessels {
			if v.ID == "group-1" {
				return v.Detergent
			}
		}
		t.Fatal("no group in the trace")
		return 0
	}
	for name, c := range map[string]struct {
		answer string
		step   string // where it ends
	}{
		"as usual":       {"", "discard"},
		"nothing came":   {"detergent=nothing_came", "discard"},
		"rinsed at once": {"first=rinse_now", "basket"},
	} {
		t.Run(name, func(t *testing.T) {
			args := []string{}
			if c.answer != "" {
				args = append(args, "--answer", c.answer)
			}
			lines, code := traced(t, in, args...)
			most := 0.0
			for _, l := range lines {
				most = max(most, head(l))
			}
			last := lines[len(lines)-1]
			if code != 0 || most < 100 || head(last) > 10 || last.Step != c.step || len(last.Violations) > 0 {
				t.Errorf("exit %d: %.0f mg/L at most, %.1f in the end, at %s: %v", code, most, head(last), last.Step,
					last.Violations)
			}
		})
	}
}

// several is a request for several machines.
func several(jobs ...string) string {
	return `{"machines": [` + strings.Join(jobs, ", ") + `], "start": "2026-03-10T18:00:00Z"}`
}

// jobOf is one machine of it, with its tasks.
func jobOf(name, said, tasks string) string {
	machine := said[strings.Index(said, `"machine"`):strings.Index(said, `, "tasks"`)]
	return fmt.Sprintf(`{"name": %q, %s, "tasks": [%s]}`, name, machine, tasks)
}

// Several machines are planned in one go: when it ends, where to be when, then the sheet of each run; a descale goes
// first on its machine, and no detergent is handled anywhere while acid stands in another. Names that are not apart,
// and what belongs to one alone, are refused by name.
func TestPlanOfSeveralMachines(t *testing.T) {
	in := several(jobOf("Net loft", singleSaid, `"descale", "wash", "soak"`), jobOf("Studio", dualSaid, `"wash", "soak"`))
	out, complaints, code := planned(in)
	if code != 0 {
		t.Fatalf("exit %d: %s", code, complaints)
	}
	for _, want := range []string{"IN ONE GO: NET LOFT, STUDIO", "it ends at about", "Then by itself: it cools",
		"Back at ",
		"\nDESCALE", "\nONE SITTING"} {
		if !strings.Contains(out, want) {
			t.Errorf("no %q in\n%s", want, out[:2000])
		}
	}
	visits := strings.Split(out[:strings.Index(out, "\n\n\n")], "\n\n")
	sour, soapy, acid := false, 0, 0
	for _, v := range visits[1:] {
		if strings.Contains(v, "Net loft") {
			sour = strings.Contains(v, "of solution through") || sour && !strings.Contains(v, "everything dry")
			acid++
		}
		if strings.Contains(v, "powder") || strings.Contains(v, "mix the bath") {
			soapy++
			if sour && strings.Contains(v, "Studio") {
				t.Errorf("detergent while acid stands in the other machine:\n%s", v)
			}
		}
	}
	if soapy < 2 || acid < 4 {
		t.Errorf("%d visits with detergent, %d to the machine that is descaled", soapy, acid)
	}
	for name, bad := range map[string]string{
		"machines.1.name": several(jobOf("A", singleSaid, `"wash"`), jobOf("A", dualSaid, `"wash"`)),
		"machines": strings.Replace(in, `{"machines"`, `{"tasks": ["wash"],
			`+singleSaid[1:strings.Index(singleSaid, `, "tasks"`)]+`, "machines"`, 1),
		"machines.0.tasks": several(`{"name": "A", `+dualSaid[1:strings.Index(dualSaid, `, "tasks"`)]+`, "tasks": []}`,
			jobOf("B", dualSaid, `"wash"`)),
	} {
		if _, complaints, code := planned(bad); code != exitBad || !strings.Contains(complaints, `"field":"`+name) {
			t.Errorf("%s: exit %d %s", name, code, complaints)
		}
	}
	if _, complaints, code := planned(in, "--json"); code != exitBad || !strings.Contains(complaints,
		"one run at a time") {
		t.Errorf("--json: exit %d %s", code, complaints)
	}
}

// A machine that has been off overnight is planned without waiting until it is cool.
func TestPlanOfAColdMachine(t *testing.T) {
	in := strings.Replace(dualSaid, `"tasks": ["descale"]`, `"tasks": ["screen", "soak"], "cold": true`, 1)
	out, complaints, code := planned(in)
	if code != 0 || !strings.Contains(out, "It is off, and cold") || strings.Contains(out, "(cool)") {
		t.Errorf("exit %d: %s\n%s", code, complaints, out)
	}
}

// What plan reads has the form of the contract: a hardness without known, a unit that does not exist, a field too many
// are refused by field, value and a sentence, and nothing is planned.
func TestPlanReadsByTheContract(t *testing.T) {
	for _, c := range []struct{ name, old, new, field, says string }{
		{"a hardness without known", `"known": true, `, ``, "machine.answers.hardness.known",
			"Say whether the hardness is known."},
		{"a unit that does not exist", `"unit": "dh"`, `"unit": "German"`, "machine.answers.hardness.unit",
			"The unit of hardness cannot be German. Allowed: one of mg_l_caco3, mmol_l, dh, fh, clark, gpg."},
		{"a hardness in another unit", `"value": 14`, `"value": 250`, "machine.answers.hardness.value",
			"Hardness cannot be 250. Allowed: 0 to 112 °dH."},
		{"a hardness as a text", `"value": 14`, `"value": "14"`, "machine.answers.hardness.value",
			"Hardness cannot be 14. Allowed: a number from 0 to 1000000."},
		{"a field that is not known", `"tasks"`, `"drinks": 4, "tasks"`, "drinks", "There is no field drinks here."},
		{"no task at all", `["descale"]`, `[]`, "tasks", "Tasks cannot be []. Allowed: 1 or more."},
		{"a part that no machine has", `"tasks"`, `"with": {"parts": ["group-9"]}, "tasks"`, "with.parts.0", "Parts cannot " +
			"be group-9. Allowed: machine, group-1 to group-6, brew-1 to brew-6, steam, tank, tray, wand, spout, tap, filter."},
		{"a day that is none", `2026-03-10T18:00:00Z`, `tomorrow`, "start",
			"Start cannot be tomorrow. Allowed: a time such as 2026-03-10T07:00:00Z."},
	} {
		t.Run(c.name, func(t *testing.T) {
			in := strings.Replace(singleSaid, c.old, c.new, 1)
			if in == singleSaid {
				t.Fatal("nothing was changed")
			}
			out, complaint, code := planned(in)
			var p api.Problem
			if err := json.Unmarshal([]byte(complaint), &p); err != nil {
				t.Fatalf("%v: %s", err, complaint)
			}
			if code != exitBad || out != "" || p.Field == nil || *p.Field != c.field || p.Says == nil || *p.Says != c.says {
				t.Errorf("exit %d, out %q, problem %s", code, out, complaint)
			}
		})
	}
}
