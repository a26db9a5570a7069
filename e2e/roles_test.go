package e2e

import (
	"regexp"
	"strings"
	"testing"

	"github.com/go-rod/rod"
)

// owned is the demo's bench over TLS, with its owner let in on a desk.
func owned(t *testing.T) (*app, *rod.Browser, *page) {
	t.Helper()
	a := start(t, "demo", "--tls", "--speed", "30")
	code := regexp.MustCompile(`with this code: (\S+)`).FindStringSubmatch(a.said)
	if len(code) != 2 {
		t.Fatalf("in the terminal: %q", a.said)
	}
	b := browse(t, "ignore-certificate-errors")
	desk := a.open(b, "/", 1280, 800)
	desk.fillIn("Code", code[1])
	desk.fillIn("Name", "Ines")
	desk.fillIn("A passphrase of your own: ten signs or more", "four quiet copper kettles")
	desk.click("button", "Begin as the owner")
	desk.sees("Observatory kitchen")
	return a, b, desk
}

// pairs lets another browser in as what the owner's desk says of it.
func (a *app) pairs(b *rod.Browser, desk *page, name, as string, width, height int) *page {
	a.t.Helper()
	desk.must(desk.Navigate(a.address + "/preferences"))
	desk.sees("Devices that are let in")
	desk.fillIn("Its name", name)
	if as == "" {
		desk.click("label", "at the bar")
	} else {
		desk.eval(`(as) => { const all = [...document.querySelectorAll('select')].filter((s) =>
			[...s.options].some((o) => o.value === as) && s.closest('form')?.textContent.includes('Let a device in'))
			all[0].value = as; all[0].dispatchEvent(new Event('change', { bubbles: true })); return '' }`, as)
	}
	desk.click("button", "Let a device in")
	desk.sees("It holds once")
	digits := strings.TrimSpace(desk.eval(`() => document.querySelector('p.huge-voice').textContent`))
	private, err := b.Incognito()
	desk.must(err)
	p := a.open(private, "/", width, height)
	if _, err := p.EvalOnNewDocument(`window.denied = []
		const real = window.fetch
		window.fetch = async (...args) => {
			const got = await real(...args)
			if (got.status === 403) denied.push((args[0].method ?? 'GET') + ' ' + (args[0].url ?? args[0]))
			return got
		}`); err != nil {
		a.t.Fatal(err)
	}
	p.click("button", "Let this device in")
	p.fillIn("Six digits", digits)
	p.click("form button", "Let this device in")
	return p
}

// Who only looks on is offered nothing that would be refused: every button of every page is pressed, and the server
// says no to none. A closer is offered the start of a wash, not the answers.
func TestNobodyIsOfferedWhatTheirRoleMayNot(t *testing.T) {
	t.Parallel()
	a, b, desk := owned(t)
	look := a.pairs(b, desk, "screen in the hall", "onlooker", 1280, 800)
	look.sees("Observatory kitchen")
	kitchen, deck := look.demoMachine("Observatory kitchen"), look.demoMachine("Ferry tea deck")
	desk.must(desk.Navigate(a.address + "/machines/" + deck))
	desk.job("Detergent wash")
	desk.click("button", "Start the wash")
	desk.step("Get ready")
	run := desk.eval(`() => location.pathname`)
	for _, x := range []struct{ path, text string }{{"/", "Observatory kitchen"}, {"/mix", "Why this much"},
		{"/log", "Log"}, {"/today", "Where to be, when"}, {"/preferences", "Devices that are let in"},
		{"/machines/" + kitchen, "This year:"}, {"/machines/" + kitchen + "/water", "Ways to treat the water"},
		{"/machines/" + kitchen + "/tape", "In one sitting"}, {"/machines/" + kitchen + "/schools", "side by side"},
		{"/machines/" + kitchen + "/descale", "Workshop"}, {"/machines/" + kitchen + "/rest", "Closed for a while"},
		{"/machines/" + kitchen + "/diagnose", "What do you notice?"}, {"/machines/" + deck + "/close", "The nights before"},
		{run, "You look on"}} {
		look.must(look.Navigate(a.address + x.path))
		look.sees(x.text)
		look.eval(`() => { document.querySelectorAll('main details').forEach((d) => (d.open = true)); return '' }`)
		look.sees(x.text)
		pressed := look.eval(`async () => {
			window.print = () => {}
			const leads = /Log out|Shut it out|Let a device in/
			let n = 0
			for (const b of document.querySelectorAll('main button')) {
				if (b.disabled || !b.checkVisibility({ visibilityProperty: true }) || leads.test(b.textContent)) continue
				b.click()
				n++
				await new Promise((done) => setTimeout(done, 20))
			}
			await new Promise((done) => setTimeout(done, 200))
			return String(n)
		}`)
		if denied := look.eval(`() => window.denied.join(', ')`); denied != "" {
			t.Errorf("%s, %s buttons: refused %s", x.path, pressed, denied)
		}
	}
	if got := look.eval(`() => String([...document.querySelectorAll('nav a')].some((l) =>
		l.offsetParent && l.textContent.includes('Add')))`); got != "false" {
		t.Error("an onlooker is asked to add a machine")
	}

	helps := a.pairs(b, desk, "phone of the evening", "closer", 390, 844)
	helps.sees("Observatory kitchen")
	helps.must(helps.Navigate(a.address + "/machines/" + kitchen))
	helps.job("Detergent wash")
	helps.sees("Start the wash")
	if got := helps.eval(`() => String([...document.querySelectorAll('a')].some((l) =>
		l.offsetParent && l.textContent.includes('Change the answers')))`); got != "false" {
		t.Error("a closer is asked to change the answers")
	}
}

// A tablet that is nobody's asks once which machine it stands at, and opens the close list of that one from then on.
func TestATabletAtTheBar(t *testing.T) {
	t.Parallel()
	a, b, desk := owned(t)
	bar := a.pairs(b, desk, "tablet at the bar", "", 1180, 820)
	bar.sees("Which machine stands here?")
	bar.click("button", "Ferry tea deck")
	bar.sees("Tonight:")
	bar.must(bar.Navigate(a.address + "/"))
	bar.until("the list of that machine", func() bool {
		return strings.HasSuffix(bar.eval(`() => location.pathname`), "/bar") &&
			strings.Contains(bar.eval(`() => document.body.innerText`), "Ferry tea deck")
	})
	bar.click("button", "Done")
	bar.sees("Undo")
	bar.click("a", "Another machine")
	bar.sees("Which machine stands here?")
}

// Two people who are let in by their own names tick the same close, each on a device of their own: the log names both.
func TestTwoPeopleInOneLog(t *testing.T) {
	t.Parallel()
	a, b, desk := owned(t)
	deck := desk.demoMachine("Ferry tea deck")
	desk.must(desk.Navigate(a.address + "/preferences"))
	desk.sees("Who may do what")
	desk.fill("A passphrase for Rui", "seven slow copper ferries")
	field := `document.querySelector('input[aria-label="A passphrase for Rui"]')`
	desk.eval(`() => { ` + field + `.form.requestSubmit(); return '' }`)
	desk.until("Rui may log in", func() bool {
		return desk.eval(`() => `+field+`.placeholder`) == "a new passphrase"
	})
	private, err := b.Incognito()
	desk.must(err)
	rui := a.open(private, "/machines/"+deck+"/close", 390, 844)
	rui.fillIn("Name", "Rui")
	rui.fillIn("Passphrase", "seven slow copper ferries")
	rui.click("form button", "Log in")
	rui.sees("Tonight: 3 to do")
	rui.click("button", "Done")
	rui.sees("Tonight: 2 to do")
	desk.must(desk.Navigate(a.address + "/machines/" + deck + "/close"))
	desk.sees("Tonight: 2 to do")
	desk.click("button", "Done")
	desk.sees("Tonight: 1 to do")
	rui.must(rui.Navigate(a.address + "/machines/" + deck + "/log"))
	rui.click("summary", "Narrow it down")
	rui.click("label", "with the small ones")
	rui.until("both of tonight are there by who did them", func() bool {
		said := rui.eval(`() => [...document.querySelectorAll('li.sitting')].map((x) => x.innerText)
			.filter((x) => x.includes('10 Mar')).join()`)
		return strings.Contains(said, "by R") && strings.Contains(said, "by I")
	})
}
