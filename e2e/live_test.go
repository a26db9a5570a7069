package e2e

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
)

// sounded is what was sounded so far, or would have been.
func (p *page) sounded() (list []struct {
	Sound string
	Muted bool
}) {
	p.t.Helper()
	p.must(json.Unmarshal([]byte(p.eval(`() => JSON.stringify(window.freshAnvilSounds ?? [])`)), &list))
	return list
}

// ON and OFF sound once each at every boundary, muted ones are marked; a run
// that stands still with detergent in the group nags, and the next page that is
// opened leads back to it.
func TestSoundsAndNagging(t *testing.T) {
	t.Parallel()
	a := start(t, "demo")
	b := browse(t)
	p := a.open(b, "/", 1280, 800)
	p.click(`article[aria-label="Observatory kitchen"] button`, "Start the wash")
	goOn(p, "Get ready", "Brush and flush", "Water first", "tsp")
	p.step("Detergent pulses")
	p.must(p.Keyboard.Type(input.KeyS))
	p.sees("Sound is off")
	before := len(p.sounded())
	p.space()
	p.comes("The first dirty water")
	count := map[string]int{}
	for _, s := range p.sounded()[before:] {
		count[s.Sound]++
		if !s.Muted {
			t.Errorf("%s sounds while the sound is off", s.Sound)
		}
	}
	if count["on"] != 5 || count["off"] != 5 || count["ready"] != 1 {
		t.Errorf("five pulses sound as %v", count)
	}
	p.must(p.Keyboard.Type(input.KeyS))
	p.sees("Sound is on")
	a.passes(time.Minute) // nobody comes
	p.sees("Waiting for you")
	p.until("the nagging", func() bool {
		list := p.sounded()
		return len(list) > 0 && list[len(list)-1].Sound == "overdue" && !list[len(list)-1].Muted
	})
	if title := p.eval(`() => document.title`); !strings.HasPrefix(title, "! waiting") {
		t.Errorf("the title says %q", title)
	}
	// what was picked stays while the run is asked for again, as it is every five seconds
	p.click(".picks label", "pale")
	asked := func() string {
		return p.eval(`() => String(performance.getEntriesByType('resource').filter((r) =>
			r.name.includes('/api/runs/')).length)`)
	}
	for range 2 {
		before := asked()
		a.passes(6 * time.Second)
		p.until("the run is asked for again", func() bool { return asked() != before })
	}
	if picked := p.eval(`() => document.querySelector('.picks input:checked')?.value ?? 'nothing'`); picked != "pale" {
		t.Errorf("pale was picked, %s is when the run was asked for twice", picked)
	}
	p.sees("That is how it looked")
	q := a.open(b, "/log", 390, 844)
	q.step("The first dirty water")
	q.sees("Waiting for you")
	// nor can it be forgotten by leaving: the band stands, and leads back
	q.click("a", "Bench; the run goes on")
	q.sees("Detergent in group 1: no drinks")
}

// The next morning: no click is answered with hot water to the brim; when water
// comes, the rinse goes on. What may be wrong is at hand in the run.
func TestRecoveryNextMorning(t *testing.T) {
	t.Parallel()
	a := start(t, "demo")
	p := a.open(browse(t), "/", 1280, 800)
	p.click(`article[aria-label="Observatory kitchen"] button`, "Start the wash")
	goOn(p, "Get ready", "Brush and flush", "Water first", "tsp")
	p.step("Detergent pulses")
	p.must(p.Keyboard.Type(input.KeyH))
	p.sees("The handle is stuck")
	p.click("summary", "Still soapy")
	p.sees("Take the blind basket out and wash it")
	p.click("dialog button", "Go on with the run")
	p.must(p.Keyboard.Type(input.KeyX))
	p.click("dialog button", "Stop, detergent left in")
	p.step("Stopped, unsafe")
	p.click("a", "To the bench")
	p.click("button", "Start the rinse")
	goOn(p, "Get ready", "Handle out, carefully")
	p.comes("Listen")
	p.click("label.hear", "No click, no water")
	p.space()
	p.step("Fill the blind to the brim")
	p.space()
	p.step("It stands")
	goOn(p, "Handle out, carefully")
	p.comes("Listen")
	p.click("label.hear", "It clicks, but no water")
	p.space()
	p.sees("the group's jet is blocked")
	p.click("label.hear", "It clicks, and water comes")
	p.click("aside button", "That is what happens")
	goOn(p, "Blind in", "Water pulses")
	p.comes("Look in the cup")
	p.sees("at least 10")
	pickClear(p)
	p.space()
	goOn(p, "Basket back", "Wipe the outside", "Pour the first shot away")
	p.comes("Rinsed.")
}

// Nothing came out at the drain, twice: no pulse is begun any more, the end says that the
// head may be under pressure, and so does the bench until somebody signs it off.
func TestNothingCameOut(t *testing.T) {
	t.Parallel()
	a := start(t, "demo")
	p := a.open(browse(t), "/", 1280, 800)
	p.click(`article[aria-label="Observatory kitchen"] button`, "Start the wash")
	goOn(p, "Get ready", "Brush and flush", "Water first", "tsp", "Detergent pulses")
	p.until("ON", func() bool { return word(p) == "ON" })
	p.must(p.Keyboard.Type(input.KeyD))
	p.step("Nothing came out")
	p.sees("Stop the pump. Do not touch the handle.")
	p.space() // the space bar says nothing for a head that may be under pressure
	p.click("button.press", "Pulse again")
	p.soon("whether water came", func() bool {
		return strings.Contains(p.eval(`() => document.body.innerText`), "Did water come at the drain spout this time?")
	})
	p.space()
	p.click("button.press", "Still nothing")
	p.step("Nothing came out twice: stop here")
	if text := p.eval(`() => document.querySelector('.buttons').innerText`); strings.Contains(text, "again") {
		t.Errorf("it may be begun again: %s", text)
	}
	p.click("button.press", "stop here")
	p.click("dialog button", "Stop, detergent left in")
	p.step("Stopped, unsafe")
	p.sees("The head of group 1 may still be under pressure.")
	p.click("a", "To the bench")
	p.sees("Two tries are enough: call a technician.")
	p.click("a", "See the machine")
	p.click("summary", "Sign off group 1")
	p.fillIn("Your name", "A. Tester")
	p.fillIn("What was done", "valve cleaned, opened cold")
	p.click("button", "Nothing is left in it")
	p.until("the band gone", func() bool { return p.eval(`() => document.querySelector('.band') === null`) == "true" })
	p.click("button", "Start the wash")
	p.step("Get ready")
}

// A method is tried without a machine, at speed: marked on screen, nothing is
// written down, the machine stays as it was.
func TestPractice(t *testing.T) {
	t.Parallel()
	a := start(t, "serve", "--speed", "60")
	p := home(t, a)
	p.click("a", "How often, and how")
	p.unfold("The methods")
	p.click(".method:first-child button", "Practise")
	p.sees("No machine, no powder: nothing is written down.")
	p.sees("at 10 times the speed")
	goOn(p, "Get ready", "Brush and flush", "Water first", "tsp", "Detergent pulses")
	firstDischarge(p, "brown")
	goOn(p, "Empty the blind", "Water pulses")
	p.step("Look in the cup")
	pickClear(p)
	p.space()
	goOn(p, "Basket back", "Wipe the outside", "Pour the first shot away")
	p.step("Practised.")
	p.must(p.Navigate(a.address + "/log"))
	p.sees("Descale") // what was put on record before
	if strings.Contains(p.eval(`() => document.body.innerText`), "Detergent wash, group") {
		t.Error("practice is in the log")
	}
}

// A pump that may run for half a minute rests in the middle of a set, and goes
// on by itself.
func TestThePumpRests(t *testing.T) {
	t.Parallel()
	a := start(t, "serve")
	p := home(t, a)
	machine := p.eval(`async () => (await (await fetch('/api/bench')).json()).machines[0].id`)
	put := fmt.Sprintf(
		`async () => String((await fetch('/api/machines/%s/facts', { method: 'POST', headers: {
			'content-type': 'application/json' }, body: JSON.stringify({ version: 1, facts: [{ key: 'duty_on_min',
				value: '0.5' }] }) })).status)`,
		machine,
	)
	if status := p.eval(put); status != "200" {
		t.Fatalf("the fact: %s", status)
	}
	p.click("button", "Start the wash")
	goOn(p, "Get ready", "Brush and flush", "Water first", "tsp")
	p.comes("Detergent pulses")
	a.passes(5 * time.Minute) // the pump has rested from what went before
	p.space()
	p.comes("Pump rests")
	p.sees("the next pulse begins by itself")
	p.sees("pulse 4 of 5")
	p.comes("The first dirty water")
}

// ON and OFF are readable: the capitals are at least a quarter of the height at
// 1280×800 and an eighth at 390 px, and nothing runs over the edge, with ten
// seconds beside them either.
func TestPulseIsReadable(t *testing.T) {
	t.Parallel()
	a := start(t, "serve")
	p := home(t, a)
	p.click("button", "Start the wash")
	goOn(p, "Get ready", "Brush and flush", "Water first", "tsp")
	p.step("Detergent pulses")
	p.click("label", "at my own pace") // so that each part stands until both have been looked at
	p.click(".buttons button", "Begin")
	phone := a.open(p.Browser(), p.eval(`() => location.pathname`), 390, 844)
	for _, w := range []string{"ON", "OFF"} {
		p.until(w, func() bool { return word(p) == w })
		for _, c := range []struct {
			p    *page
			part float64
		}{{p, 0.25}, {phone, 0.125}} {
			c.p.until(w, func() bool { return word(c.p) == w })
			got := c.p.eval(`() => {
				const word = document.querySelector('.word'), pulse = document.querySelector('.pulse'),
					seconds = document.querySelector('.seconds')
				seconds.textContent = '10' // the widest there is
				seconds.classList.add('wide')
				const over = seconds.getBoundingClientRect().right > innerWidth + 1 || word.getBoundingClientRect().right >
					seconds.getBoundingClientRect().left + 1 || pulse.scrollWidth > pulse.clientWidth + 1
				return (parseFloat(getComputedStyle(word).fontSize) * 0.7) / innerHeight + ' ' + over
			}`)
			var share float64
			var over bool
			if _, err := fmt.Sscan(got, &share, &over); err != nil || share < c.part || over {
				t.Errorf("%s: %.3f of the height, want %v; over the edge %v, %v", w, share, c.part, over, err)
			}
		}
		a.passes(10 * time.Second)
		p.front()
		p.until("its part has lasted", func() bool {
			return p.eval(`() => String(document.querySelector('.buttons button').disabled)`) == "false"
		})
		p.space()
	}
}

// At one's own pace nothing moves without a press, and none is taken before its
// part has lasted.
func TestOwnPace(t *testing.T) {
	t.Parallel()
	a := start(t, "demo")
	p := a.open(browse(t), "/", 1280, 800)
	p.click(`article[aria-label="Observatory kitchen"] button`, "Start the wash")
	goOn(p, "Get ready", "Brush and flush", "Water first", "tsp")
	p.step("Detergent pulses")
	p.click("label", "at my own pace")
	p.click(".buttons button", "Begin")
	p.until("ON", func() bool { return word(p) == "ON" })
	text := p.eval(`() => { const b = document.querySelector('.buttons button'); return b.textContent + b.disabled }`)
	if !strings.Contains(text, "Build pressure") || !strings.Contains(text, "true") {
		t.Errorf("the button says %q at once", text)
	}
	a.passes(16 * time.Second)
	p.sees("Pump is off")
	p.until("well past the ten seconds", func() bool {
		return strings.TrimSpace(p.eval(`() => document.querySelector('.seconds').textContent`)) >= "15"
	})
	if word(p) != "ON" || pulse(p) != "1" {
		t.Errorf("%s in pulse %s, nobody pressed", word(p), pulse(p))
	}
	p.space()
	p.until("OFF", func() bool { return word(p) == "OFF" })
	a.passes(10 * time.Second)
	p.sees("Go on")
	p.space()
	p.until("the second pulse", func() bool { return word(p) == "ON" && pulse(p) == "2" })
}

// Called away in a pulse, for longer than was said: it rings, and whoever is back goes on where it
// stood. Then the wash is cut short: only the rinse is left, and the run ends without detergent.
func TestCalledAwayThenRinsedAtOnce(t *testing.T) {
	t.Parallel()
	a := start(t, "demo")
	p := a.open(browse(t), "/", 1280, 800)
	p.click(`article[aria-label="Observatory kitchen"] button`, "Start the wash")
	goOn(p, "Get ready", "Brush and flush", "Water first", "tsp")
	p.step("Detergent pulses")
	p.must(p.Keyboard.Type(input.KeyC))
	p.sees("Stop the pump. Leave the handle locked.")
	p.sees("Detergent would begin to dry in the valve.")
	barred := p.eval(`() => [...document.querySelectorAll('dialog[open] button')].filter((b) => b.disabled).length`)
	if barred != "2" {
		t.Errorf("%s lengths are barred, want 15 and 30 minutes", barred)
	}
	p.click("dialog button", "5 minutes")
	p.step("Called away")
	a.passes(5 * time.Minute)
	p.until("the ring", func() bool {
		list := p.sounded()
		return len(list) > 0 && list[len(list)-1].Sound == "overdue"
	})
	p.step("Time to be back")
	p.space()
	p.step("Detergent pulses")
	p.sees("Pulses made before count")
	p.space()
	p.comes("The first dirty water")
	p.must(p.Keyboard.Type(input.KeyX))
	p.click("dialog button", "Rinse now and stop")
	p.sees("Rinse, then it is over")
	goOn(p, "Empty the blind", "Water pulses")
	p.comes("Look in the cup")
	pickClear(p)
	p.space()
	goOn(p, "Basket back")
	p.comes("Stopped.")
	p.sees("The detergent is rinsed out. Nothing is counted as done.")
	p.click("a", "To the bench")
	p.sees("Start the wash")
}

// showsAll checks that a step leaves out no sentence of what is to be done.
func (p *page) showsAll() {
	p.t.Helper()
	missing := p.eval(`async () => {
		const run = await (await fetch('/api/runs/' + location.pathname.split('/').pop())).json()
		const shown = document.body.innerText
		return run.step.do.filter((d) => !shown.includes(d)).join(' | ')
	}`)
	if missing != "" {
		p.t.Errorf("%s does not show: %s", p.heading(), missing)
	}
}

// Nothing came, stopped, the server killed: the group is freed from the bench, cold, and is a group
// like any other again.
func TestFreedAfterARestart(t *testing.T) {
	t.Parallel()
	db := filepath.Join(t.TempDir(), "freed.db")
	when := noon(t)
	a, server := when.launch(t, "serve", "--port", "0", "--db", db)
	p := home(t, a)
	p.click("button", "Start the wash")
	goOn(p, "Get ready", "Brush and flush", "Water first")
	p.until("ON", func() bool { return word(p) == "ON" })
	p.must(p.Keyboard.Type(input.KeyD))
	p.sees("Do not touch the handle.")
	p.must(p.Keyboard.Type(input.KeyX))
	p.click("dialog button", "Stop here")
	p.step("Stopped") // it is acknowledged, and so kept
	p.must(server.Process.Signal(syscall.SIGKILL))
	_ = server.Wait()
	again := a.again("serve", "--speed", "600", "--db", db)
	t.Cleanup(func() {
		_ = again.Process.Signal(os.Interrupt)
		_ = again.Wait()
	})
	p.must(p.Navigate(a.address + "/"))
	p.sees("Free group 1")
	p.click("button", "Free group 1")
	for _, head := range []string{"Get ready", "Switch it off", "It cools", "Loosen it under a cloth", "Switch it on",
		"Listen", "Blind in", "Water pulses", "Look in the cup", "Basket back"} {
		p.lead(head)
		p.showsAll()
	}
	p.lead("Rinsed.")
	p.click("a", "To the bench")
	p.until("no band", func() bool { return p.eval(`() => document.querySelector('.band') === null`) == "true" })
	p.click("summary", "No water comes from a group") // and without a run that went wrong
	p.click("button", "The handle is out")
	p.step("Get ready")
	p.sees("Is one locked in after all?")
	p.space()
	p.step("Listen")
}
