package e2e

import (
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
)

// TestFirstPlanOnAPhone: from an empty database to a kept plan in nine presses at most, typed digits apart, one
// question a screen, nothing below the thumb; the plan says wash, descale and filter, each with a date or why
// there is none.
func TestFirstPlanOnAPhone(t *testing.T) {
	t.Parallel()
	a := start(t, "serve")
	p := a.open(browse(t), "/", 390, 844)
	presses := 0
	press := func(selector, text string) {
		presses++
		p.click(selector, text)
	}
	asks := func(title string) {
		p.until("the question "+title, func() bool {
			return p.eval(`() => [...document.querySelectorAll('h2')].map((h) => h.textContent.trim()).join('|')`) != "" &&
				strings.Contains(p.eval(`() => document.querySelector('.question h2')?.textContent ?? ''`), title)
		})
		if p.eval(`() => document.querySelectorAll('.question').length`) != "1" {
			t.Errorf("more than one question beside %s", title)
		}
	}
	p.sees("Five answers")
	press("a", "Answer the five questions")
	asks("How is it built?")
	press("label.key", "Thermoblock")
	asks("Has it a three-way valve?")
	press("label.key b", "Yes")
	asks("Drinks a day")
	p.fill("Drinks a day", "5")
	press("button", "Next")
	asks("with milk")
	p.fill("Milk drinks a day", "2")
	press("button", "Next")
	asks("How hard")
	press("label.key", "I don't know")
	asks("What treats")
	press("label.key b", "nothing")
	asks("Is it new?")
	press("label.key", "It is new")
	asks("What do you call it?")
	p.sees("No filter: nothing treats the water.")
	for _, title := range []string{"Detergent wash", "Descale"} {
		p.until(title+" with a date", func() bool {
			return strings.Contains(p.eval(`(t) => [...document.querySelectorAll('section.job')]
				.find((s) => s.querySelector('h3').textContent === t)?.querySelector('.when').textContent ?? ''`, title), "around")
		})
	}
	p.sees("of detergent a group")
	p.sees("of water, when it is due")
	if reach := p.eval(`() => { const r = document.querySelector('.keep').getBoundingClientRect()
		return r.bottom <= innerHeight + 1 && r.top > 0 &&
			/Descale .* No filter/.test(document.querySelector('.keep .line').textContent) }`); reach != "true" {
		t.Error("the plan in one line and the save are not in reach")
	}
	press("button", "Save this machine")
	p.sees("Thermoblock")
	if presses > 9 {
		t.Errorf("%d presses, at most 9", presses)
	}
	var bench struct {
		Machines []struct{ Layout_title string }
	}
	a.get("/api/bench", &bench)
	if len(bench.Machines) != 1 {
		t.Fatalf("%d machines", len(bench.Machines))
	}
}

// TestFiveAnswersByKeyboard: arrow keys move in a list, Enter picks and goes on.
func TestFiveAnswersByKeyboard(t *testing.T) {
	t.Parallel()
	a := start(t, "serve")
	p := a.open(browse(t), "/machines/new", 390, 844)
	p.sees("How is it built?")
	p.until("the drawings", func() bool {
		return p.eval(`() => document.querySelectorAll('.question svg').length`) == "8"
	})
	p.eval(`() => document.querySelector('.question input').focus()`)
	p.must(p.Keyboard.Type(input.ArrowDown, input.ArrowDown))
	p.until("the third is picked", func() bool {
		return p.eval(`() => document.querySelector('.question input:checked')?.value ?? ''`) == "hx_home"
	})
	p.sees("How is it built?")
	p.must(p.Keyboard.Type(input.Enter))
	p.sees("Drinks a day, in all?")
	p.must(p.Keyboard.Type('4', input.Enter))
	p.sees("How many of them with milk?")
	p.click("button", "Back")
	p.sees("Drinks a day, in all?")
	if kept := p.eval(`() => document.querySelector('input[aria-label="Drinks a day"]').value`); kept != "4" {
		t.Errorf("%q drinks after going back", kept)
	}
}

// TestTwelveMachinesByKeyboard: twelve machines with owners and places, by keyboard alone, at most twenty keys each
// beside the words; then a list from a file, all or none, and the same file again.
func TestTwelveMachinesByKeyboard(t *testing.T) {
	t.Parallel()
	a := start(t, "serve")
	p := a.open(browse(t), "/machines/many", 1280, 800)
	p.until("the layouts", func() bool {
		return p.eval(`() => document.querySelectorAll('option').length > 10`) == "true"
	})
	keys := 0
	press := func(list ...input.Key) {
		keys += len(list)
		p.must(p.Keyboard.Type(list...))
	}
	write := func(text string) { p.must(p.InsertText(text)) }
	for i := range 12 {
		p.until("a fresh row", func() bool {
			return p.eval(`() => document.activeElement?.closest('label')?.textContent.trim() ?? ''`) == "Owner"
		})
		write("Owner " + string(rune('A'+i)))
		press(input.Tab)
		write("Quay")
		press(input.Tab)
		write("Machine")
		if i%4 == 1 { // another layout: the next in the list
			press(input.Tab, input.ArrowDown)
		}
		press(input.Enter)
		p.sees(strconv.Itoa(i+1) + " saved")
	}
	if keys > 12*20 {
		t.Errorf("%d keys for twelve machines", keys)
	}
	t.Logf("%d keys for twelve machines", keys)
	var bench struct {
		Machines []struct{ Owner, Place, Layout_title string }
	}
	a.get("/api/bench", &bench)
	layouts := map[string]bool{}
	for _, m := range bench.Machines {
		layouts[m.Layout_title] = true
		if m.Place != "Quay" || !strings.HasPrefix(m.Owner, "Owner ") {
			t.Errorf("%+v", m)
		}
	}
	if len(bench.Machines) != 12 || len(layouts) < 3 {
		t.Errorf("%d machines of %d layouts", len(bench.Machines), len(layouts))
	}

	pick := func(text string) {
		t.Helper()
		file := filepath.Join(t.TempDir(), "machines.csv")
		p.must(os.WriteFile(file, []byte(text), 0o600))
		field, err := p.Element(`input[type="file"]`)
		p.must(err)
		p.must(field.SetFiles([]string{file}))
	}
	pick("owner,name,layout,drinks\nFerry,Port,hx_cafe,200\nFerry,Aft,samovar,3\n")
	p.sees("1 line cannot be taken, so nothing is.")
	p.sees("line 3")
	good := "owner,name,layout,drinks\nFerry,Port,hx_cafe,200\n,Aft,,\n"
	pick(good)
	p.click("button", "Save all 2")
	p.sees("2 kept.")
	pick(good)
	p.click("button", "Save all 2")
	p.sees("Nothing changed: they are there already.")
}

// TestOwnColoursAndStillness: with colours of the reader's own, a picked answer has a frame; who asked for stillness
// sees nothing move; single keys can be switched off and stay off.
func TestOwnColoursAndStillness(t *testing.T) {
	t.Parallel()
	a := start(t, "demo")
	p := a.open(browse(t), "/machines/new", 1280, 800)
	p.must(proto.EmulationSetEmulatedMedia{Features: []*proto.EmulationMediaFeature{
		{Name: "forced-colors", Value: "active"}, {Name: "prefers-reduced-motion", Value: "reduce"},
	}}.Call(p))
	p.click("label.key", "Single boiler")
	frame := p.eval(`() => getComputedStyle(document.querySelector('label:has(input:checked)')).outlineStyle`)
	if frame != "solid" {
		t.Errorf("a picked answer is framed %q", frame)
	}
	p.must(p.Navigate(a.address + "/"))
	p.click(`article[aria-label="Observatory kitchen"] button`, "Start the wash")
	p.step("Get ready")
	if moving := p.eval(`() => String(document.getAnimations().length)`); moving != "0" {
		t.Errorf("%s things move", moving)
	}
	p.must(p.Keyboard.Type('?'))
	p.click("dialog label", "Single keys work")
	p.click("dialog button", "Close")
	p.must(p.Keyboard.Type('x'))
	if open := p.eval(`() => String(document.querySelector('dialog[open]') === null)`); open != "true" {
		t.Error("a single key still acts")
	}
	p.must(p.Reload())
	p.step("Get ready")
	p.must(p.Keyboard.Type('x'))
	if open := p.eval(`() => String(document.querySelector('dialog[open]') === null)`); open != "true" {
		t.Error("after a reload a single key acts again")
	}
	p.space() // the main button always answers
	p.step("Brush and flush")
}
