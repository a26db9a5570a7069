package e2e

import (
	"net/http"
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

// TestASlowAnswerMovesNothing: with a server that takes its time, the next row is typed while the last one is being
// saved: no letter lands in another field, nothing typed is lost, a double Enter keeps one machine; what was refused
// says what was probably meant, and is saved by a press.
func TestASlowAnswerMovesNothing(t *testing.T) {
	t.Parallel()
	a := start(t, "serve")
	p := a.open(browse(t), "/machines/many", 1280, 800)
	p.until("the layouts", func() bool {
		return p.eval(`() => document.querySelectorAll('option').length > 10`) == "true"
	})
	p.eval(`() => { // answers to what is saved come a second late
		const swift = window.fetch
		window.fetch = async (...of) => {
			const posts = (of[0].method ?? of[1]?.method) === 'POST'
			if (posts) await new Promise((go) => setTimeout(go, 1000))
			return swift(...of)
		}
	}`)
	press := func(list ...input.Key) { p.must(p.Keyboard.Type(list...)) }
	write := func(text string) { p.must(p.InsertText(text)) }
	at := func() string {
		return p.eval(`() => document.activeElement?.closest('label')?.textContent.trim() ?? ''`)
	}
	p.until("a fresh row", func() bool { return at() == "Owner" })
	write("Ferry")
	press(input.Tab, input.Tab)
	write("Port")
	press(input.Enter, input.Enter)
	if at() != "Owner" {
		t.Errorf("after Enter the hand is at %q, want Owner at once", at())
	}
	write("Potter")
	press(input.Tab, input.Tab)
	write("Wheel")
	p.sees("1 saved")
	write("house")
	if row := p.eval(`() => [...document.querySelectorAll('form.row .wide input')].map((i) => i.value).join()`); row !=
		"Potter,,Wheelhouse" || at() != "Name" {
		t.Errorf("the row is %q, the hand at %q", row, at())
	}
	p.fillIn("Hardness, °dH", "250")
	press(input.Enter)
	p.sees("Not saved: Potter, Wheelhouse")
	p.click("button", "250 mg/L would be 14 °dH: take it")
	p.sees("2 saved")
	if got := p.eval(`() => document.querySelectorAll('form.row input[type=number]')[2].value`); got != "14" {
		t.Errorf("the next row begins with a hardness of %s, want the 14 that were taken", got)
	}
	var bench struct {
		Machines []struct{ Name, Owner string }
	}
	a.get("/api/bench", &bench)
	if len(bench.Machines) != 2 {
		t.Errorf("%d machines are kept, want two: %v", len(bench.Machines), bench.Machines)
	}
}

// TestAPageWithoutItsMachine says so, in words that blame nobody, and leads on to the machines there are; a sitting
// with nothing in it is no error.
func TestAPageWithoutItsMachine(t *testing.T) {
	t.Parallel()
	a := start(t, "demo")
	p := a.open(browse(t), "/report", 1280, 800)
	p.sees("A report of which machine?")
	p.click("li a", "Observatory kitchen")
	p.sees("Service report")
	gone := "0193c3a0-7b1e-7cc2-8a64-3f1f5d0e2a11"
	for _, page := range []string{"", "/schools", "/water", "/walk", "/card", "/sitting", "/log", "/rest", "/descale",
		"/diagnose", "/mix", "/tape", "/close", "/wall", "/report", "/answers"} {
		for _, id := range []string{gone, "not-an-id"} {
			p.must(p.Navigate(a.address + "/machines/" + id + page))
			p.sees("This machine is not here")
			if red := p.eval(`() => document.querySelectorAll('.caution').length`); red != "0" {
				t.Errorf("%s: %s red notes", page, red)
			}
			p.sees("Ferry tea deck")
		}
	}
	p.click("li a", "Potter")
	p.sees("Five answers")
	var bench struct{ Machines []struct{ ID, Name string } }
	a.get("/api/bench", &bench)
	for _, m := range bench.Machines {
		res, err := http.Get(a.address + "/api/machines/" + m.ID + "/sitting")
		p.must(err)
		p.must(res.Body.Close())
		if res.StatusCode != http.StatusConflict {
			continue
		}
		p.must(p.Navigate(a.address + "/machines/" + m.ID + "/sitting"))
		p.sees("Nothing falls due together now")
		if red := p.eval(`() => document.querySelectorAll('.caution').length`); red != "0" {
			t.Errorf("an empty sitting is told in %s red notes", red)
		}
		return
	}
	t.Error("no machine of the demo has an empty sitting")
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
