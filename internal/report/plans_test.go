package report

import (
	"bytes"
	"errors"
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/run"
	"freshanvil/core/task"
	"freshanvil/core/units"
	"freshanvil/internal/app"
)

var write = flag.Bool("write", false, "write docs/plans anew")

const plansDir = "../../docs/plans"

// known are the facts that somebody has to say before a machine of a layout is descaled.
var known = map[machine.Layout]map[string]string{
	machine.Thermoblock:  {"brew_material": "stainless", "brew_heater": "can_be_off"},
	machine.SingleBoiler: {"brew_material": "brass", "brew_heater": "can_be_off"},
	machine.HXHome: {"drain": "plug", "brew_material": "copper", "steam_material": "copper",
		"steam_heater": "held_off"},
	machine.LeverCam: {"drain": "plug", "brew_material": "copper", "steam_material": "copper",
		"steam_heater": "held_off"},
	machine.DualHome: {"brew_material": "stainless", "steam_material": "stainless", "brew_heater": "can_be_off",
		"steam_heater": "can_be_off"},
	machine.LeverManual: {"brew_material": "brass", "brew_heater": "can_be_off"},
}

// sheets are the requests whose sheets are kept, by the name of their file.
func sheets() map[string]app.Alone {
	list := map[string]app.Alone{}
	for _, l := range machine.Layouts() {
		a := machine.Answers{Layout: l, Valve: machine.Yes, Drinks: 4, MilkDrinks: 2, Treatment: machine.Untreated,
			Hardness: units.HardnessReading{Likely: 2.5, Low: 2.5, High: 2.5, Known: true}, Overrides: map[string]string{}}
		if l == machine.LeverManual {
			a.Valve = machine.No
		}
		for key, value := range known[l] {
			a.Overrides[key] = value
		}
		for _, id := range []task.ID{task.Wash, task.WaterBackflush, task.Descale, task.DrawOff} {
			list[fmt.Sprintf("%s-%s", l, id)] = app.Alone{Answers: a, Tasks: []task.ID{id}}
		}
		for _, r := range task.All() { // parts are cared for alike on most: two layouts, and whatever is special
			if special := l == machine.LeverCam && r.ID == task.CamGrease || l == machine.HXHome && r.ID == task.Tank; job.Tends(
				r.ID) && (l == machine.HXCafe || l == machine.DualHome || special) {
				list[fmt.Sprintf("%s-%s", l, r.ID)] = app.Alone{Answers: a, Tasks: []task.ID{r.ID}}
			}
		}
		for _, id := range []task.ID{task.LayUp, task.Visit, task.Return} {
			if l == machine.HXCafe || l == machine.SingleBoiler || l == machine.LeverManual && id == task.LayUp {
				still := a
				still.Treatment = machine.InTank
				if l == machine.HXCafe {
					still.Treatment = machine.UnderSink
				}
				list[fmt.Sprintf("%s-%s", l, id)] = app.Alone{Answers: still, Tasks: []task.ID{id}, Days: 35, Visits: 4}
			}
		}
		for _, kind := range machine.Treatments() {
			if l != machine.DualHome && l != machine.HXCafe { // the others are changed as these are
				continue
			}
			behind := a
			behind.Treatment = kind
			id := task.FilterChange
			if kind == machine.Softener {
				id = task.Regenerate
			}
			if kind != machine.Untreated && kind != machine.Bottled {
				list[fmt.Sprintf("%s-%s-%s", l, id, kind)] = app.Alone{Answers: behind, Tasks: []task.ID{id}}
			}
		}
		switch l { // what falls due together, in one sitting
		case machine.DualHome:
			list["dual_home-sitting"] = app.Alone{Answers: a, Tasks: []task.ID{task.Wash, task.Seal, task.Soak, task.Tip,
				task.Tank}}
		case machine.HXCafe:
			list["hx_cafe-sitting"] = app.Alone{Answers: a, Tasks: []task.ID{task.Wash, task.Soak, task.Tip, task.Waste}}
		}
		if l == machine.HXHome {
			a.Overrides["own_program"] = "yes"
			for _, m := range backflush.Methods() {
				if !m.Wet() && m.ID != backflush.HalfTeaspoon {
					list[fmt.Sprintf("%s-%s-%s", l, task.Wash, m.ID)] = app.Alone{Answers: a,
						Tasks: []task.ID{task.Wash}, Method: m.ID}
				}
			}
		}
	}
	return list
}

// sheetOf is one as text; a refusal says why, and what may be done instead.
func sheetOf(a app.Alone) (string, error) {
	var text bytes.Buffer
	planned, err := a.Plan()
	var no *reason.Refusal
	if errors.As(err, &no) {
		fmt.Fprintf(&text, "REFUSED: %s\n", no.Finding.Title)
		for _, r := range no.Finding.Because {
			fmt.Fprintf(&text, "  %s\n", r.Text)
		}
		for _, next := range no.Finding.Next {
			fmt.Fprintf(&text, "  - %s\n", next)
		}
		return text.String(), nil
	}
	if err != nil {
		return "", err
	}
	err = Sheet(&text, planned.Plan, time.Time{}, time.UTC, planned.Clear)
	return text.String(), err
}

// freed is the sheet of a group from which no water comes.
func freed(blind int) (string, error) {
	a := machine.Answers{Layout: machine.HXHome, Valve: machine.Yes, Drinks: 4, Treatment: machine.Untreated,
		Hardness: units.UnknownHardness()}
	p, err := job.Unblock(a, backflush.UsualPowder, job.Target{Group: 1, Blind: blind})
	if err != nil {
		return "", err
	}
	why, err := run.Cleared(p)
	if err != nil {
		return "", err
	}
	var text bytes.Buffer
	err = Sheet(&text, p, time.Time{}, time.UTC, &why)
	return text.String(), err
}

// The sheets in docs/plans are those that the rules make now, so that a change of words or of a
// plan is seen: go test ./internal/report -write writes them anew.
func TestSheetsAreKept(t *testing.T) {
	want := map[string]string{}
	for name, a := range sheets() {
		text, err := sheetOf(a)
		if err != nil {
			t.Fatalf("%s: %v", name, err)
		}
		want[name+".txt"] = text
	}
	for blind, name := range []string{"hx_home-no_water.txt", "hx_home-nothing_came.txt"} {
		text, err := freed(blind)
		if err != nil {
			t.Fatalf("%s: %v", name, err)
		}
		want[name] = text
	}
	if *write {
		if err := os.RemoveAll(plansDir); err != nil {
			t.Fatal(err)
		}
		if err := os.MkdirAll(plansDir, 0o755); err != nil {
			t.Fatal(err)
		}
		for name, text := range want {
			if err := os.WriteFile(filepath.Join(plansDir, name), []byte(text), 0o644); err != nil {
				t.Fatal(err)
			}
		}
	}
	files, err := filepath.Glob(filepath.Join(plansDir, "*.txt"))
	if err != nil || len(files) != len(want) {
		t.Errorf("%d sheets are kept, %d made: %v", len(files), len(want), err)
	}
	led := 0
	for name, text := range want {
		t.Run(strings.TrimSuffix(name, ".txt"), func(t *testing.T) {
			kept, err := os.ReadFile(filepath.Join(plansDir, name))
			if err != nil || string(kept) != text {
				t.Errorf("stale: go test ./internal/report -write (%v)", err)
			}
		})
		if !strings.HasPrefix(text, "REFUSED") {
			led++
		}
	}
	if led < 35 {
		t.Errorf("only %d of %d are led", led, len(want))
	}
}

// lengthsFile holds how long each sheet may be: its name, steps, words and cautions.
const lengthsFile = "testdata/lengths.txt"

var stepLine = regexp.MustCompile(`(?m)^ ?\d+  \d+:\d\d `)

// Sheets only get shorter: steps, words and cautions of each are held by what they were. With -write what is shorter is
// written down; what is longer is written there by hand, with the reason in the commit.
func TestSheetsGetNoLonger(t *testing.T) {
	files, err := filepath.Glob(filepath.Join(plansDir, "*.txt"))
	if err != nil {
		t.Fatal(err)
	}
	raw, err := os.ReadFile(lengthsFile)
	if err != nil && !*write {
		t.Fatal(err)
	}
	was := map[string][3]int{}
	for line := range strings.Lines(string(raw)) {
		var name string
		var n [3]int
		if _, err := fmt.Sscanf(line, "%s %d steps %d words %d cautions", &name, &n[0], &n[1], &n[2]); err != nil {
			t.Fatalf("%q: %v", line, err)
		}
		was[name] = n
	}
	var out strings.Builder
	for _, path := range files {
		name := strings.TrimSuffix(filepath.Base(path), ".txt")
		text, err := os.ReadFile(path)
		if err != nil {
			t.Fatal(err)
		}
		is := [3]int{len(stepLine.FindAll(text, -1)), len(strings.Fields(string(text))),
			strings.Count(string(text), "\n    ! ")}
		most, known := was[name]
		if !known && !*write {
			t.Errorf("%s is new: go test ./internal/report -write", name)
		}
		for i, what := range []string{"steps", "words", "cautions"} {
			switch {
			case known && is[i] > most[i]:
				t.Errorf("%s has %d %s, at most %d", name, is[i], what, most[i])
				is[i] = most[i]
			case known && is[i] < most[i] && !*write:
				t.Errorf("%s has %d %s, %d before: go test ./internal/report -write", name, is[i], what, most[i])
			}
		}
		fmt.Fprintf(&out, "%s %d steps %d words %d cautions\n", name, is[0], is[1], is[2])
	}
	if *write {
		if err := os.MkdirAll(filepath.Dir(lengthsFile), 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(lengthsFile, []byte(out.String()), 0o644); err != nil {
			t.Fatal(err)
		}
	}
}
