package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"
)

// machine keeps a machine of a layout, of stainless steel, descaled two months ago, and
// gives its id.
func (p *page) machine(layout string) string {
	p.t.Helper()
	return p.eval(`async (layout) => {
		const post = async (path, body) => { const r = await fetch('/api' + path, { method: 'POST', headers: {
			'content-type': 'application/json' }, body: JSON.stringify(body) });
				if (!r.ok) throw new Error(path + ' ' + await r.text()) }
		const id = crypto.randomUUID()
		const answers = { layout, valve: 'yes', drinks_per_day: 4, milk_drinks_per_day: 2, hardness: { known: true,
			value: 14, unit: 'dh' }, treatment: 'in_tank' }
		await post('/machines', { id, name: 'Trial ' + layout, zone: 'Europe/Lisbon', answers })
		const water = (await (await fetch('/api/waters')).json()).treatments.find((t) => t.kind === 'in_tank')
		await post('/machines/' + id + '/water', { id: crypto.randomUUID(), treatment: water })
		await post('/machines/' + id + '/care', { id: crypto.randomUUID(), task: 'descale', parts: ['machine'],
			at: new Date(Date.now() - 60 * 86400e3).toISOString() })
		await post('/machines/' + id + '/facts', { version: 1, facts: [{ key: 'brew_material', value: 'stainless' }] })
		return id
	}`, layout)
}

// says puts facts on record, by key and value.
func (p *page) says(id string, facts ...string) {
	p.t.Helper()
	for i := 0; i < len(facts); i += 2 {
		p.eval(`async (id, key, value) => { const { version } = await (await fetch('/api/machines/' + id)).json()
			const r = await fetch('/api/machines/' + id + '/facts', { method: 'POST',
			headers: { 'content-type': 'application/json' }, body: JSON.stringify({ version, facts: [{ key, value }] }) })
			if (!r.ok) throw new Error(await r.text()) }`, id, facts[i], facts[i+1])
	}
}

// demoMachine is the id of a machine of the demo.
func (p *page) demoMachine(name string) string {
	p.t.Helper()
	return p.eval(
		`async (name) => (await (await fetch('/api/bench')).json()).machines.find((m) => m.name === name).id`,
		name,
	)
}

// beginDescale goes from the plan of a machine to its running descale.
func (p *page) beginDescale(a *app, id string) {
	p.t.Helper()
	p.must(p.Navigate(a.address + "/machines/" + id + "/descale"))
	p.sees("How it goes")
	p.click("button", "Start the descale")
	p.step("Gloves on")
}

// heading is the big words of the present step.
func (p *page) heading() string {
	p.t.Helper()
	return strings.TrimSpace(p.eval(`() => document.querySelector('h1')?.textContent ?? ''`))
}

// lead presses what a careful person would, until the big words hold the text. It
// presses the buttons of the screen, nothing else.
func (p *page) lead(to string) {
	p.t.Helper()
	p.leadUntil(to, `document.querySelector('h1')?.textContent.includes('`+to+`')`)
}

// leadUntil does so until what the page shows is true.
func (p *page) leadUntil(what, shown string) {
	p.t.Helper()
	for end := time.Now().Add(100 * time.Second); time.Now().Before(end); time.Sleep(60 * time.Millisecond) {
		// in one go, so that no step is pressed away between the look and the press
		there := p.eval(`() => {
			if (` + shown + `) return 'there'
			const first = document.querySelector('label.hear input')
			if (first && !document.querySelector('label.hear input:checked')) {
				first.click()
				return ''
			}
			const pads = [...document.querySelectorAll('label.pad')]
			const at = (text) => pads.find((l) => l.textContent.trim() === text)?.querySelector('input')
			if (pads.length > 0 && !document.querySelector('label.pad.picked')) { (at('7.5') ?? at('2.5'))?.click();
				at('no taste of acid')?.click(); return '' }
			const grades = document.querySelectorAll('.picks')
			for (const g of grades) if (!g.querySelector('input:checked')) g.querySelector('input')?.click()
			const main = document.querySelector('.buttons button.press')
			if (main && !main.disabled && !/^(Stop|Pause|To the bench)/.test(main.textContent)) {
				main.click()
				return ''
			}
			return ` + counting + `
		}`)
		if there == "there" {
			return
		}
		if there != "" {
			p.app.passes(p.seconds(there))
		}
	}
	p.t.Fatalf("never came to %s; at %s", what, p.heading())
}

// A home single boiler from the plan to the log, at speed, with a reload in the
// middle of a soak: it goes on from where it stood, the band over it.
func TestDescaleSingleBoiler(t *testing.T) {
	t.Parallel()
	a := start(t, "serve")
	p := a.open(browse(t), "/", 1280, 800)
	id := p.machine("single_boiler")
	p.must(p.Navigate(a.address + "/machines/" + id + "/descale"))
	p.unfold("Another way, or more with it")
	p.sees("Up to three soaks, switched off")
	p.click("label.way", "Up to two soaks, switched off")
	p.click("label.tick", "with a new filter")
	p.unfold("Close it, heat it and look")
	p.sees("Set the month")
	p.click("button", "Start the descale")
	p.lead("It soaks")
	p.sees("Acid in the boiler: no drinks until the rinse is proven")
	p.click("button", "I cannot go on")
	p.sees("Switch the machine off and pull the plug: it must not start by itself.")
	p.sees("Leave the steam tap open, its jug under the wand: gas must leave.")
	p.click("dialog button", "Go on with the run")
	at, _ := left(p)
	p.must(p.Reload())
	p.step("It soaks")
	if after, _ := left(p); after > at || after < at-60 {
		t.Errorf("%.0f s of the soak left before the reload, %.0f after", at, after)
	}
	if map_ := p.eval(`() => document.querySelector('.map')?.getAttribute('aria-label') ?? ''`); !strings.Contains(
		map_,
		"boiler: 0.30 of 0.30 litres, acid",
	) {
		t.Errorf("the map says %q", map_)
	}
	q := a.open(p.Browser(), "/", 390, 844)
	q.sees("Acid in the boiler: no drinks")
	q.until(
		"the way back to the run",
		func() bool { return strings.Contains(q.eval(`() => location.pathname`), "/runs/") },
	)
	_ = q.Close()
	p.lead("Strip: steam wand")
	p.sees("the water that goes in reads 7.5")
	p.click("label.pad", "5.0")
	p.click(".buttons button", "That is what it reads")
	p.sees("Not clean yet: rinse on")
	p.lead("Descaled.")
	p.sees("of scale came out")
	p.sees("Change the filter: done; next")
	if strings.Contains(p.eval(`() => document.body.innerText`), "no drinks until") {
		t.Error("the band stays after the proof")
	}
	p.click("a", "Log")
	p.sees("Words in it")
	p.click("summary", "Change the filter") // one sitting, opened
	p.sees("20 g of citric acid")
}

// A dual boiler by its screws, and a thermoblock in sips, led from the first to the last step:
// the map shows the machine as it goes, the sips go by the clock.
func TestDescaleDrainedAndInSips(t *testing.T) {
	t.Parallel()
	a := start(t, "serve")
	p := a.open(browse(t), "/", 1280, 800)
	id := p.machine("dual_home")
	p.says(id, "steam_material", "stainless", "brew_heater", "can_be_off", "steam_heater", "can_be_off")
	p.beginDescale(a, id)
	p.lead("Heaters off")
	p.lead("How much came out?")
	p.lead("It soaks")
	p.until("both boilers on the map", func() bool {
		map_ := p.eval(`() => document.querySelector('.map')?.getAttribute('aria-label') ?? ''`)
		return strings.Contains(map_, "steam boiler: 0.5") && strings.Contains(map_, "brew boiler: 0.30 of 0.30 litres, acid")
	})
	p.sees("Acid in the brew boiler and steam boiler")
	p.lead("Descaled.")
	p.sees("Acid stood")

	id = p.machine("thermoblock")
	p.beginDescale(a, id)
	p.lead("by the steam wand")
	p.click(".buttons button", "Begin")
	p.comes("Off: it stands")
	p.sees("The machine is off")
	p.lead("Descaled.")
}

// What the model of the machine has not cleared is not led: drained boilers, a heat
// exchanger by its tap. The page says why, and what to do in its place.
func TestDescaleThatIsNotLed(t *testing.T) {
	t.Parallel()
	a := start(t, "demo", "--speed", "200")
	p := a.open(browse(t), "/", 1280, 800)
	for _, c := range []struct{ id, why string }{
		{p.demoMachine("Observatory kitchen"), "an element would stand dry"},
		{p.machine("hx_home"), "the acid would have to be heated"},
	} {
		p.must(p.Navigate(a.address + "/machines/" + c.id + "/descale"))
		p.sees("A workshop descales it")
		p.sees(c.why)
		p.sees("Note that a workshop is booked")
		if strings.Contains(p.eval(`() => document.body.innerText`), "Start the descale") {
			t.Error("it may be started")
		}
	}
	// what decides is asked on the card: said there, the descale is led
	p.must(p.Navigate(a.address + "/machines/" + p.demoMachine("Observatory kitchen") + "/descale"))
	p.sees("Say this first")
	for _, fact := range []string{"brew_heater", "steam_heater"} {
		p.until("the answer of the "+fact+" is kept", func() bool { // the card may be drawn anew under a press
			return p.eval(`(fact) => {
				const key = document.querySelector('input[name="' + fact + '"][value="can_be_off"]')
				if (key && !key.checked) key.click()
				return key ? 'asked' : 'kept'
			}`, fact) == "kept"
		})
	}
	p.sees("Start the descale")
	p.sees("Say this, and the plan fits better")
}

// The power is cut in a soak, and the machine that serves with it: when both are
// back, the run says what to do, and leaves out what there is no time for.
func TestPowerCutInASoak(t *testing.T) {
	t.Parallel()
	db := filepath.Join(t.TempDir(), "cut.db")
	when := noon(t)
	a, cmd := when.launch(t, "serve", "--port", "0", "--db", db)
	p := a.open(browse(t), "/", 1280, 800)
	p.beginDescale(a, p.machine("single_boiler"))
	p.lead("It soaks")
	p.click("button", "The power is gone")
	p.sees("No power: switch it off")
	p.sees("Leave the steam tap open")
	run := p.eval(`() => location.pathname`)
	p.must(cmd.Process.Signal(os.Kill))
	_ = cmd.Wait()
	a.passes(92 * time.Minute)
	cmd = a.again("serve", "--db", db)
	defer func() { _ = cmd.Process.Signal(os.Interrupt) }()
	p.must(p.Navigate(a.address + run))
	p.sees("Acid in the boiler")
	p.click(".buttons button", "Power is back")
	p.sees("no more soaking, rinse")
	p.sees("may stand 90 in all")
	p.lead("Tank rinsed")
	if text := p.eval(`() => document.querySelector('.lines').innerText`); strings.Count(text, "soak 20 min") != 1 {
		t.Errorf("the other soaks are still listed:\n%s", text)
	}
}

// A café's machine is not led: treating, drawing off and a note stand in its place.
func TestRefusedMachine(t *testing.T) {
	t.Parallel()
	a := start(t, "demo", "--speed", "600")
	p := a.open(browse(t), "/", 1280, 800)
	id := p.demoMachine("Corner shop")
	p.must(p.Navigate(a.address + "/machines/" + id + "/descale"))
	p.sees("A workshop descales it")
	p.sees("Not for you to do.")
	if strings.Contains(p.eval(`() => document.body.innerText`), "Start the descale") {
		t.Error("it may be started")
	}
	p.fillIn("Who, and when", "bench in town, Friday")
	p.click("button", "Save the note")
	p.sees("Noted.")
	p.click("button", "Lead me")
	p.step("At pressure")
	p.lead("Draw 850 mL")
	p.lead("Drawn off.")
	p.must(p.Navigate(fmt.Sprintf("%s/machines/%s/log", a.address, id)))
	p.sees("bench in town, Friday")
	p.sees("Draw off the steam boiler")
}
