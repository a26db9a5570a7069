package e2e

import (
	"encoding/json"
	"fmt"
	"math"
	"os"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
)

// today waits until the first stub counts so many drinks.
func (p *page) today(name, count string) {
	p.t.Helper()
	p.until(name+" at "+count, func() bool {
		return p.eval(
			`(n) => [...document.querySelectorAll('article')].find((a) =>
				a.getAttribute('aria-label') === n)?.querySelector('.stub')?.textContent.match(/today (\d+)/)?.[1] ?? ''`,
			name,
		) == count
	})
}

// Log with one press, several with a digit, undo in sight, per group.
func TestLogAndUndo(t *testing.T) {
	whatever(t, logAndUndo)
}

func logAndUndo(t *testing.T, when moment) {
	a := when.start(t, "demo")
	p := a.open(browse(t), "/", 1280, 800)
	const name = "Ferry tea deck"
	p.sees(name)
	count := func() int {
		n, err := strconv.Atoi(
			p.eval(
				`() => document.querySelector('article[aria-label="Ferry tea deck"] .stub').textContent.match(/today (\d+)/)[1]`,
			),
		)
		p.must(err)
		return n
	}
	at := count()
	key := func(kind string) { p.click(`[aria-label="Log use of Ferry tea deck"] button`, kind) }
	key("double")
	p.today(name, fmt.Sprint(at+1))
	p.must(p.Keyboard.Type(input.Digit4)) // the key has the focus
	p.today(name, fmt.Sprint(at+5))
	p.sees("undo double")
	p.click(`article[aria-label="Ferry tea deck"] button`, "undo double")
	p.today(name, fmt.Sprint(at+1))
	p.click(`[aria-label="Which group of Ferry tea deck"] button`, "group 2")
	key("milk")
	p.today(name, fmt.Sprint(at+2))
	key("flush")
	p.sees("undo flush")
	p.today(name, fmt.Sprint(at+2))

	// held down, the key offers numbers
	el, err := p.ElementR(`[aria-label="Log use of Ferry tea deck"] button`, "single")
	p.must(err)
	shape, err := el.Shape()
	p.must(err)
	p.must(p.Mouse.MoveTo(*shape.OnePointInside()))
	p.must(p.Mouse.Down("left", 1))
	p.until("the numbers", func() bool {
		return p.eval(`() => document.querySelector('[aria-label="How many single"]') !== null`) == "true"
	})
	p.must(p.Mouse.Up("left", 1))
	p.click(`[aria-label="How many single"] button`, "3")
	p.today(name, fmt.Sprint(at+5))

	// corrected on the machine's page
	p.click("h2 a", name)
	p.unfold("Use, newest first")
	p.sees("3 singles, group 2")
	p.click("button", "correct")
	p.fill("how many", "2")
	p.click("li .btn", "Save")
	p.sees("2 singles, group 2")
	p.click("a", "Bench")
	p.today(name, fmt.Sprint(at+4))
}

// While a group holds detergent the band stands on every screen, drinks are
// refused, and a technician may sign the group off.
func TestBandRefusalAndSignOff(t *testing.T) {
	t.Parallel()
	a := start(t, "demo", "--speed", "30")
	p := a.open(browse(t), "/", 1280, 800)
	p.click(`article[aria-label="Observatory kitchen"] button`, "Start the wash")
	goOn(p, "Get ready", "Brush and flush", "Water first", "tsp")
	p.step("Detergent pulses")
	p.must(p.Keyboard.Type(input.KeyX))
	p.sees("Detergent stays in group 1")
	p.click("dialog button", "Stop, detergent left in")
	p.step("Stopped, unsafe")
	band := "Observatory kitchen. Detergent in group 1: no drinks until the rinse is proven"
	for _, screen := range []string{"/", "/mix", "/log", "/machines/new", "/preferences"} {
		p.must(p.Navigate(a.address + screen))
		p.sees(band)
	}
	p.must(p.Navigate(a.address + "/"))
	p.sees("Rinse the detergent out")
	p.click(`[aria-label="Log use of Observatory kitchen"] button`, "double")
	p.sees("Allowed: a group without detergent")
	p.click(".band a", "See what to do")
	p.click("summary", "Sign off group 1")
	p.click("button", "Nothing is left in it")
	p.sees("Name is missing")
	p.fillIn("Your name", "A. Tester")
	p.fillIn("What was done", "opened, rinsed, valve clicks")
	p.click("button", "Nothing is left in it")
	p.until("the band gone", func() bool { return p.eval(`() => document.querySelector('.band') === null`) == "true" })
	p.must(p.Navigate(a.address + "/log"))
	p.sees("Signed off by A. Tester")
	p.sees("opened, rinsed, valve clicks")
}

// From the Bench to a finished run without touching the mouse.
func TestKeyboardOnly(t *testing.T) {
	t.Parallel()
	a := start(t, "demo", "--speed", "30")
	p := a.open(browse(t), "/log", 1280, 800)
	p.sees("Detergent wash")
	p.must(p.Keyboard.Type(input.Key('?')))
	p.sees("Filter the bench")
	p.must(p.Keyboard.Type(input.Escape))
	p.must(p.Keyboard.Type(input.KeyB))
	p.sees("Fell due")
	focused := func() string { return p.eval(`() => document.activeElement.textContent.trim()`) }
	for i := 0; focused() != "Start the wash"; i++ {
		if i > 60 {
			t.Fatal("tab never comes to the button")
		}
		p.must(p.Keyboard.Type(input.Tab))
	}
	p.must(p.Keyboard.Type(input.Enter))
	goOn(p, "Get ready", "Brush and flush", "Water first", "tsp", "Detergent pulses")
	p.step("The first dirty water")
	toRadio := func() {
		t.Helper()
		unpicked := `() => document.activeElement.type === 'radio' && !document.activeElement.checked`
		for i := 0; p.eval(unpicked) != "true"; i++ {
			if i > 30 {
				t.Fatal("tab never comes to the next row")
			}
			p.must(p.Keyboard.Type(input.Tab))
		}
	}
	toRadio()
	p.space()
	p.sees("That is how it looked")
	p.space()
	goOn(p, "Empty the blind", "Water pulses")
	p.step("Look in the cup")
	// a row at a time: tab to it, space picks, arrows change
	p.must(p.Keyboard.Type(input.Tab))
	for range 3 {
		toRadio()
		p.space()
	}
	p.sees("That is what I see")
	p.space()
	goOn(p, "Basket back", "Wipe the outside", "Pour the first shot away")
	p.step("Washed.")
}

// Bad input on each form says at the field what is allowed and keeps what was typed.
func TestBadInputAtTheField(t *testing.T) {
	t.Parallel()
	a := start(t, "demo")
	p := a.open(browse(t), "/machines/new", 1280, 800)
	answerFive(p)
	for _, c := range []struct{ field, typed, says string }{
		{"Drinks a day", "10000", "Drinks a day cannot be 10000. Allowed: a number from 0 to 2000."},
		{"Drinks a day", "4", "every 50 shots"},
		{"Milk drinks a day", "-2", "Milk drinks a day cannot be -2. Allowed: a number from 0 to 2000."},
		{"Milk drinks a day", "1", "every 50 shots"},
		{"Hardness", "900", "Hardness cannot be 900. Allowed: 0 to 112 °dH."},
		{"Hardness", "250", "Hardness cannot be 250. Allowed: 0 to 112 °dH."},
	} {
		p.fill(c.field, c.typed)
		p.sees(c.says)
		if got := p.eval(`(l) => document.querySelector('input[aria-label="' + l + '"]').value`, c.field); got != c.typed {
			t.Errorf("%s: %q was typed, %q is kept", c.field, c.typed, got)
		}
	}
	p.click("button", "250 mg/L would be 14 °dH: take it")
	p.sees("every 50 shots")
	if got := p.eval(`() => document.querySelector('input[aria-label="Hardness"]').value`); got != "14" {
		t.Errorf("the hardness is %q, want the 14 °dH that were meant", got)
	}
	p.must(p.Navigate(a.address + "/mix"))
	p.click("summary", "Weighed it")
	p.fillIn("In it now", "900")
	p.click("button", "Save the tub")
	p.sees("cannot be 900. Allowed: 0 to 500")
	p.fillIn("In it now", "400")
	p.click("button", "Save the tub")
	p.sees("400 g left")
	p.click("button", "It does not")
	p.sees("It does not foam: do not use it")
	p.click("a", "Bench")
	p.click("h2 a", "Observatory kitchen")
	p.click(".picture button", "drip tray")
	p.click("button.row", "drip tray")
	p.fill("drip tray (0 is a waste pipe)", "99")
	p.click("form.edit button", "Save")
	p.sees("Drip tray cannot be 99. Allowed: 0 to 10 L.")
	p.fill("drip tray (0 is a waste pipe)", "0.6")
	p.click("form.edit button", "Save")
	p.sees("0.6 L")
	p.unfold("Already done")
	day, err := p.Element(`input[aria-label="the day it was done"]`)
	p.must(err)
	p.must(day.InputTime(a.now().AddDate(0, 0, 5)))
	p.click("button", "Save that day")
	p.sees("Allowed: a time that is past, at most 10 years back")
	p.unfold("Use, newest first")
	p.click("button", "correct")
	p.fill("how many", "0")
	p.click("li .btn", "Save")
	p.sees("cannot be 0. Allowed: a number from 1 to 500.")
	p.unfold("Whose it is")
	p.fillIn("Name", "")
	p.click(".plate form button", "Save")
	p.sees("Name is missing")
	p.must(p.Navigate(a.address + "/preferences"))
	p.must(p.MustElement("#currency").SelectAllText())
	p.must(p.MustElement("#currency").Input("E1"))
	p.click("button", "Save")
	p.sees("Currency cannot be E1")
	p.click("label.pick", "US customary")
	p.must(p.Navigate(a.address + "/mix"))
	p.sees("0.11 oz")
}

// A hundred machines: filter, sort, archive and take back.
func TestManyMachines(t *testing.T) {
	t.Parallel()
	a := start(t, "demo")
	p := a.open(browse(t), "/", 1280, 800)
	p.sees("Ferry tea deck")
	p.addMachines(95)
	p.must(p.Reload())
	p.sees("100 of 100 machines")
	began := time.Now()
	p.click("button.pick", "by owner")
	p.sees("no owner said")
	t.Logf("a hundred machines by owner: %.0f ms", time.Since(began).Seconds()*1000)
	p.fill("Filter the machines", "harbour office")
	p.sees("1 of 100 machines")
	p.click("li a", "Bench loaner")
	p.unfold("Whose it is")
	p.click("button", "Archive this machine")
	p.sees("It stands on no bench")
	p.must(p.Navigate(a.address + "/"))
	p.sees("99 of 99 machines")
	p.click("button", "See archived machines")
	p.click("li a", "Bench loaner")
	p.unfold("Whose it is")
	p.click("button", "Put it back on the bench")
	p.until("it is back", func() bool {
		return p.eval(`() => !document.body.textContent.includes('It stands on no bench')`) == "true"
	})
}

func (p *page) addMachines(n int) {
	p.t.Helper()
	p.eval(`async (n) => {
		for (let i = 0; i < n; i++) {
			const answers = { layout: ['dual_home', 'hx_home', 'lever_cam', 'thermoblock', 'hx_cafe'][i % 5], valve: 'yes',
				drinks_per_day: 4 + i, milk_drinks_per_day: 2, hardness: { known: false }, treatment: 'none' }
			const r = await fetch('/api/machines', { method: 'POST', headers: { 'content-type': 'application/json' },
				body: JSON.stringify({ id: crypto.randomUUID(), name: 'Machine ' + (i + 1), zone: 'Europe/Lisbon', answers }) })
			if (!r.ok) throw new Error(await r.text())
			const { id } = await r.json()
			const care = { id: crypto.randomUUID(), task: 'wash', parts: ['group-1'],
				at: new Date(Date.now() - (i % 7) * 864e5).toISOString() }
			if (i % 4) await fetch('/api/machines/' + id + '/care', { method: 'POST', headers: {
				'content-type': 'application/json' }, body: JSON.stringify(care) })
		}
	}`, n)
}

// axe-core finds nothing on any view, in either theme, wide and narrow.
func TestAxe(t *testing.T) {
	t.Parallel()
	script, err := os.ReadFile("../web/node_modules/axe-core/axe.min.js")
	if err != nil {
		t.Fatal(err)
	}
	a := start(t, "demo")
	b := browse(t)
	p := a.open(b, "/", 1280, 800)
	narrow := false
	check := func(view string) {
		t.Helper()
		if p.eval(`() => typeof window.axe`) == "undefined" {
			p.script(string(script))
		}
		themes := []string{"day", "night"}
		if narrow { // the colours are the same
			themes = themes[:1]
		}
		for _, theme := range themes {
			raw := p.eval(`async (theme, narrow) => {
				document.documentElement.dataset.theme = theme
				await new Promise((r) => setTimeout(r, 60))
				// the themes differ by their colours alone; a phone has the colours of a desk, which make long looks at anew
				const only = theme === 'night' ? { runOnly: ['color-contrast'] } : narrow ?
					{ rules: { 'color-contrast': { enabled: false } } } : {}
				const { violations } = await axe.run(document, { resultTypes: ['violations'], ...only })
				return JSON.stringify(violations.map((v) => ({ id: v.id, nodes: v.nodes.slice(0, 3).map((n) => n.html.slice(0,
					160) + ' ' + (n.any[0]?.message ?? '')) })))
			}`, theme, narrow && !*long)
			var found []struct {
				ID    string
				Nodes []string
			}
			p.must(json.Unmarshal([]byte(raw), &found))
			for _, f := range found {
				t.Errorf("%s, %s: %s\n  %s", view, theme, f.ID, strings.Join(f.Nodes, "\n  "))
			}
		}
	}
	visit := func(path, text, view string) {
		t.Helper()
		p.must(p.Navigate(a.address + path))
		p.sees(text)
		check(view)
	}
	for _, width := range []int{1280, 390} {
		narrow = width < 700
		p = a.open(b, "/", width, 844)
		at := fmt.Sprintf(" at %d", width)
		visit("/", "Ferry tea deck", "bench"+at)
		p.click("summary", "quick job")
		check("small ones" + at)
		visit("/log", "Detergent wash", "log"+at)
		visit("/mix", "Why this much", "mix"+at)
		shop := p.demoMachine("Corner shop")
		visit("/machines/"+shop+"/close", "The nights before", "close"+at)
		visit("/machines/"+shop+"/bar", "The nights before", "bar"+at)
		visit("/machines/"+p.demoMachine("Observatory kitchen")+"/sitting", "Step by step", "work sheet"+at)
		visit("/machines/"+p.demoMachine("Observatory kitchen")+"/tape", "In one sitting", "tape"+at)
		p.eval(`() => document.querySelector('.mark').dispatchEvent(new MouseEvent('click', { bubbles: true }))`)
		p.sees("Put it on this day")
		check("a task on the tape, chosen" + at)
		visit("/machines/"+p.demoMachine("Observatory kitchen")+"/card", "Do not use", "card"+at)
		visit("/machines/"+p.demoMachine("Corner shop")+"/diagnose", "What do you notice?", "what is wrong"+at)
		p.click("button", "It heats slowly")
		p.sees("I cannot tell")
		check("a look" + at)
		visit("/machines/"+p.demoMachine("Ferry tea deck")+"/rest", "Weekly visit", "standing still"+at)
		visit("/machines/"+p.demoMachine("Ferry tea deck")+"/walk", "How does it stand", "walk round"+at)
		p.click("button", "Off, unplugged")
		p.sees("Is it dry under the machine?")
		p.click("button.card", "Wet")
		p.sees("Look for the cause")
		check("a card of the walk" + at)
		for p.heading() != "How far does the handle turn?" {
			last := p.heading()
			p.click("button", "Can’t tell")
			p.until("the next look", func() bool { return p.heading() != last })
		}
		check("a card that is measured" + at)
		visit("/today", "Where to be", "in one go"+at)
		visit("/preferences", "Currency", "preferences"+at)
		visit("/machines/new", "How is it built", "five answers, empty"+at)
		if width > 700 {
			answerFive(p)
			p.sees("every 50 shots")
		} else {
			p.click("label.key", "Dual boiler, home")
			p.sees("Drinks a day")
		}
		check("five answers" + at)
		visit("/machines/many", "From a file", "several machines"+at)
		visit("/", "Ferry tea deck", "bench"+at)
		p.click("h2 a", "Ferry tea deck")
		p.sees("This year:")
		check("machine" + at)
		if narrow {
			p.click(".rows button", "steam boiler")
		} else {
			p.click(".picture button", "steam boiler")
		}
		p.sees("the steam boiler is made of")
		check("a part of a machine" + at)
		p.click("a", "How often, and how")
		p.sees("How it went so far")
		check("schools" + at)
		p.must(p.NavigateBack())
		p.sees("This year:")
		p.click("a", "Its water")
		p.sees("Ways to treat the water")
		check("water" + at)
		p.click("button", "Enter a reading")
		p.sees("pads of the strip")
		check("a reading" + at)
		p.click("a", "The descale card")
		p.sees("Not for you to do")
		check("a descale that is not led" + at)
		p.must(p.NavigateBack())
		p.sees("Ways to treat the water")
		p.must(p.NavigateBack())
		p.sees("This year:")
		p.click(".ruler button", "of")
		p.sees("What would change it")
		check("how it was worked out" + at)
		visit("/machines/"+p.demoMachine("Corner shop")+"/descale", "Not for you to do", "refused"+at)
		visit("/machines/"+p.demoMachine("Bench loaner")+"/descale", "Circuit by circuit", "descale card"+at)
		p.click("button", "Practise")
		p.lead("The water that goes in")
		check("a strip of a descale" + at)
		p.leadUntil("the batch", "document.querySelector('.really')")
		check("a batch of a descale" + at)
	}
	for _, width := range []int{1280, 390} {
		a := start(t, "demo")
		at := fmt.Sprintf(" at %d", width)
		p = a.open(b, "/", width, 844)
		p.click(`article[aria-label="Observatory kitchen"] button`, "Start the wash")
		for _, step := range []string{"Get ready", "Brush and flush", "Water first", "tsp", "Detergent pulses"} {
			p.comes(step)
			check("run: " + step + at)
			p.space()
		}
		p.until("ON", func() bool { return word(p) == "ON" })
		check("run: ON" + at)
		p.must(p.Keyboard.Type(input.KeyN))
		p.sees("No pressure: the pulse does not count")
		check("run: held" + at)
		p.must(p.Keyboard.Type(input.KeyX))
		p.sees("Stop this run?")
		check("run: stop?" + at)
		p.click("dialog button", "Stop, detergent left in")
		p.step("Stopped, unsafe")
		check("run: stopped, unsafe" + at)
		p.must(p.Navigate(a.address + "/"))
		p.sees("Rinse the detergent out")
		check("bench with the band" + at)
		p.click("button", "Start the rinse")
		goOn(p, "Get ready", "Handle out, carefully")
		p.step("Listen")
		check("run: a choice" + at)
	}
	p = a.open(b, "/", 1280, 844)
	p.addMachines(3)
	p.must(p.Reload())
	p.sees("8 of 8 machines")
	check("bench for many")
}

// Contrast of both themes from the tokens themselves: AA (4.5) for text, AAA
// (7) for what a run shows. Formula: WCAG 2.2, relative luminance (published).
func TestContrastOfBothThemes(t *testing.T) {
	t.Parallel()
	css, err := os.ReadFile("../web/src/app.css")
	if err != nil {
		t.Fatal(err)
	}
	themes := regexp.MustCompile(`(?s)name: '(day|night)';(.*?)\n}`).FindAllStringSubmatch(string(css), -1)
	if len(themes) != 2 {
		t.Fatalf("%d themes", len(themes))
	}
	token := regexp.MustCompile(`--([a-z0-9-]+): #([0-9a-f]{6});`)
	for _, theme := range themes {
		colour := map[string]float64{}
		for _, m := range token.FindAllStringSubmatch(theme[2], -1) {
			v, err := strconv.ParseUint(m[2], 16, 32)
			if err != nil {
				t.Fatal(err)
			}
			colour[m[1]] = luminance(v)
		}
		for _, c := range []struct {
			ink, ground string
			least       float64
		}{
			{"color-base-content", "color-base-100", 7}, {"color-base-content", "color-base-200", 7},
			{"color-neutral-content", "color-neutral", 7},
			{"ink-2", "color-base-100", 4.5}, {"ink-2", "color-base-200", 4.5}, {"ink-2", "color-secondary", 4.5},
			{"color-primary", "color-base-100", 4.5}, {"color-primary", "color-base-200", 4.5},
			{"color-primary", "color-secondary", 4.5},
			{"color-primary-content", "color-primary", 4.5}, {"color-secondary-content", "color-secondary", 7},
			{"color-error", "color-base-100", 4.5}, {"color-error", "color-base-200", 4.5},
			{"color-error", "color-secondary", 4.5}, {"color-error-content", "color-error", 4.5},
			{"color-success", "color-base-100", 4.5}, {"color-success", "color-base-200", 4.5},
		} {
			ink, ok1 := colour[c.ink]
			ground, ok2 := colour[c.ground]
			ratio := (math.Max(ink, ground) + 0.05) / (math.Min(ink, ground) + 0.05)
			if !ok1 || !ok2 || ratio < c.least {
				t.Errorf("%s: %s on %s is %.2f, want %.1f", theme[1], c.ink, c.ground, ratio, c.least)
			}
		}
	}
}

func luminance(rgb uint64) float64 {
	part := func(shift int) float64 {
		v := float64(rgb>>shift&0xff) / 255
		if v <= 0.04045 {
			return v / 12.92
		}
		return math.Pow((v+0.055)/1.055, 2.4)
	}
	return 0.2126*part(16) + 0.7152*part(8) + 0.0722*part(0)
}

// A newcomer's first trustworthy plan in under a minute: typed as fast as a
// person would, a field or choice every two seconds, it takes seven inputs.
func TestFiveAnswersAreFewInputs(t *testing.T) {
	t.Parallel()
	a := start(t, "serve")
	p := a.open(browse(t), "/machines/new", 1280, 800)
	began := time.Now()
	answerFive(p)
	p.sees("every 50 shots")
	t.Logf("the plan stood %.1f s after the page, after seven inputs", time.Since(began).Seconds())
	if inputs := p.eval(`() => document.querySelectorAll('.question .no').length`); inputs != "5" {
		t.Errorf("%s questions, want five", inputs)
	}
}

// A closer with one blind goes from the first group straight on to the second.
func TestCloseOfTwoGroups(t *testing.T) {
	t.Parallel()
	a := start(t, "serve", "--speed", "60")
	p := a.open(browse(t), "/machines/new", 1280, 800)
	p.click("label.key", "Heat exchanger, café")
	p.fill("Drinks a day", "200")
	p.fill("Milk drinks a day", "90")
	p.click("label.key", "I don't know")
	p.click("label.key b", "nothing")
	p.click("label.key", "It was used before")
	p.sees("nothing is on record")
	p.click("button", "Save this machine")
	p.click("button", "Group 1 only")
	for group := 1; group <= 2; group++ {
		p.sees(fmt.Sprintf("group %d", group))
		goOn(p, "Get ready", "Brush and flush", "Water first", "tsp", "Detergent pulses")
		firstDischarge(p, "missed it")
		goOn(p, "Empty the blind", "Water pulses")
		p.step("Look in the cup")
		pickClear(p)
		p.space()
		p.step("Basket back")
		p.sees("2 seconds")
		p.space()
		p.step("Wipe the outside")
		p.sees("Tomorrow the first shot of each washed group goes down the sink.")
		p.space()
		p.step("Washed.")
		if group == 1 {
			p.click("button", "Go on with group 2")
		}
	}
	if again := p.eval(`() => [...document.querySelectorAll('button')].some((b) =>
		b.textContent.includes('Go on with group')) + ''`); again != "false" {
		t.Error("both groups are washed, and a third is offered")
	}
}

// On a phone the drink keys lie under the thumb, in reach without scrolling, of one machine and of several: one press
// logs a drink, a party takes three, one of yesterday goes into yesterday's count; reasons are folded.
func TestKeysUnderTheThumb(t *testing.T) {
	t.Parallel()
	a := start(t, "serve")
	b := browse(t)
	p := a.open(b, "/", 390, 844)
	p.machine("dual_home")
	p.must(p.Navigate(a.address + "/"))
	p.sees("today 0 drinks")
	box := p.eval(`() => { const b = [...document.querySelectorAll('.thumb .key')].map((k) => k.getBoundingClientRect())
		return [b.length, b.every((r) => r.top > innerHeight / 2 && r.bottom <= innerHeight && r.height >= 64)].join(' ') }`)
	if box != "4 true" {
		t.Errorf("keys under the thumb: %s", box)
	}
	if p.eval(`() => String(document.querySelector('.why details')?.open)`) != "false" {
		t.Error("the reasons are not folded")
	}
	p.click(".thumb .key", "double")
	p.sees("today 1 drink")
	p.click(".thumb button", "a party")
	p.click(".thumb .key", "40")
	p.click(".thumb .key", "40 double")
	p.sees("today 41 drinks")
	p.click(".thumb button", "yesterday")
	p.click(".thumb .key", "single")
	p.until("it is yesterday's", func() bool {
		return p.eval(`() => document.querySelector('.thumb .words').textContent.includes('of yesterday') + ''`) == "false"
	})
	p.sees("today 41 drinks")
	p.click(".thumb button", "undo")
	p.sees("today 1 drink")
	p.machine("hx_home")
	p.must(p.Navigate(a.address + "/"))
	p.click(".thumb .names button", "Trial hx_home")
	p.sees("today 0 drinks")
	p.click(".thumb .key", "with milk")
	p.sees("today 1 drink")
	p.must(p.Reload())
	p.sees("today 1 drink") // the machine that was chosen last
}

// By keyboard: the first thing on a page skips its menu, and another page begins at its head, which is where whoever
// hears the screen read goes on.
func TestSkipAndHead(t *testing.T) {
	t.Parallel()
	a := start(t, "demo")
	p := a.open(browse(t), "/", 1280, 800)
	p.sees("Ferry tea deck")
	focused := func() string { return p.eval(`() => document.activeElement.textContent.trim().slice(0, 40)`) }
	p.must(p.Keyboard.Type(input.Tab))
	if got := focused(); got != "Skip to the page" {
		t.Errorf("first comes %q", got)
	}
	p.must(p.Keyboard.Type(input.Enter))
	if got := p.eval(`() => document.activeElement.id`); got != "main" {
		t.Errorf("skipped to %q", got)
	}
	p.click("nav a", "Water")
	p.until("the page's head", func() bool {
		return p.eval(`() => document.activeElement.tagName + ' ' + location.pathname`) == "H1 /water"
	})
	p.click("nav a", "Log")
	p.until("the next one's", func() bool {
		return p.eval(`() => document.activeElement.tagName + ' ' + location.pathname`) == "H1 /log"
	})
}
