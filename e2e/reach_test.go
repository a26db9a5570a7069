package e2e

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
)

// watched has the page look, all the time, whether each way out can be pressed: inside the window, and nothing over it.
const watched = `
	window.covered = []; window.passed = new Set()
	setInterval(() => {
		const head = document.querySelector('h1')?.textContent
		const list = [...document.querySelectorAll('.help button')]
		if (!document.querySelector('.stage') || document.querySelector('.buttons a.press')) return
		window.passed.add(document.querySelector('.lines .now')?.textContent)
		if (list.length < 2) window.covered.push(head + ': only ' + list.length)
		for (const b of list) {
			const r = b.getBoundingClientRect()
			const at = document.elementFromPoint(r.x + r.width / 2, r.y + r.height / 2)
			if (r.top < 0 || r.bottom > innerHeight || r.left < 0 || r.right > innerWidth || r.height < 44 || !b.contains(at))
				window.covered.push(head + ': ' + b.textContent + ' ' + JSON.stringify(r) + ' under ' + at?.textContent)
		}
	}, 30)`

// TestHelpIsNeverCovered: on a phone, over all steps of a wash and of a descale, help and the ways out are in the
// window with nothing over them. What was really mixed is what the log says.
func TestHelpIsNeverCovered(t *testing.T) {
	t.Parallel()
	a := start(t, "serve", "--speed", "120")
	p := a.open(browse(t), "/", 390, 844)
	id := p.machine("single_boiler")
	watch := func(least int) {
		t.Helper()
		var covered []string
		if err := json.Unmarshal([]byte(p.eval(`() => JSON.stringify(window.covered)`)), &covered); err != nil {
			t.Fatal(err)
		}
		if len(covered) > 0 {
			t.Errorf("%d times, first: %s", len(covered), covered[0])
		}
		var passed int
		_, _ = fmt.Sscan(p.eval(`() => window.passed.size`), &passed)
		if passed < least {
			t.Errorf("only %d steps were looked at", passed)
		}
	}
	p.must(p.Navigate(a.address + "/machines/" + id))
	p.click("button", "Start the wash")
	p.step("Get ready")
	p.script(watched)
	p.sees("done about")
	p.lead("Washed.")
	watch(9)

	p.beginDescale(a, id)
	p.script(watched)
	p.leadUntil("the first batch", `document.querySelector('.really') !== null`)
	var said, unit float64
	_, _ = fmt.Sscan(p.eval(`() => parseFloat(document.querySelector('.really input[type=number]').placeholder)`), &said)
	p.click("label.pick", "half of it")
	p.click(".buttons button", "It is dissolved")
	p.until("the next step", func() bool { return p.eval(`() => document.querySelector('.really') === null`) == "true" })
	p.leadUntil("its end", `document.querySelector('h1')?.textContent.includes('Descaled.')`)
	watch(20)
	var log struct {
		Entries []struct{ Title, Task, Note string }
	}
	a.get("/api/log?machine_id="+id, &log)
	_ = unit
	for _, e := range log.Entries {
		t.Logf("%+v", e)
	}
	if len(log.Entries) == 0 || !strings.Contains(fmt.Sprintf("%+v", log.Entries[0]), fmt.Sprint(said/2)) {
		t.Errorf("half of %v g was mixed; the log says %+v", said, log.Entries)
	}
}
