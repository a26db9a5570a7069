package e2e

import (
	"regexp"
	"strings"
	"testing"
)

// Over TLS nobody is let in who does not say who they are. The owner begins by the code of the terminal; a phone is
// paired by six digits, leads a run on, loses the network in the middle and comes back; shut out, its press is refused
// in words and kept, the run goes on, and the log names who ended it.
func TestTheDoor(t *testing.T) {
	t.Parallel()
	a := start(t, "serve", "--tls", "--speed", "30")
	code := regexp.MustCompile(`with this code: (\S+)`).FindStringSubmatch(a.said)
	if len(code) != 2 || !strings.Contains(a.said, "SHA-256 fingerprint") || !strings.HasPrefix(a.address, "https://") {
		t.Fatalf("in the terminal: %q", a.said)
	}
	b := browse(t, "ignore-certificate-errors")
	desk := a.open(b, "/", 1280, 800)
	desk.sees("Nobody is let in yet")
	desk.fillIn("Code", code[1])
	desk.fillIn("Name", "Ines")
	desk.fillIn("A passphrase of your own: ten signs or more", "four quiet copper kettles")
	desk.click("button", "Begin as the owner")
	desk.sees("Answer the five questions")
	id := desk.kept("hx_home")

	desk.must(desk.Navigate(a.address + "/preferences"))
	desk.sees("Devices that are let in")
	desk.sees("this one")
	desk.fillIn("Its name", "phone in the kitchen")
	desk.click("button", "Let a device in")
	desk.sees("It holds once")
	digits := strings.TrimSpace(desk.eval(`() => document.querySelector('p.huge-voice').textContent`))

	private, err := b.Incognito()
	desk.must(err)
	weak, line := a.over()
	phone := weak.open(private, "/machines/"+id, 390, 844)
	phone.sees("Log in")
	phone.click("button", "Let this device in")
	phone.fillIn("Six digits", digits)
	phone.click("form button", "Let this device in")
	phone.sees("Trial hx_home")

	desk.click("button", "Done")
	desk.sees("phone in the kitchen")
	desk.must(desk.Navigate(a.address + "/machines/" + id))
	desk.job("Detergent wash")
	desk.click("button", "Start the wash")
	desk.step("Get ready")
	run := desk.eval(`() => location.pathname`)
	phone.must(phone.Navigate(weak.address + run))
	phone.step("Get ready")
	phone.click("button", "All ready")
	desk.until("what the phone pressed shows on the desk", func() bool {
		return desk.eval(`() => document.querySelector('h1').textContent`) != "Get ready"
	})
	phone.step("Brush and flush") // its own answer has come, too: until then a key says what was said already
	line.breaks(true)
	phone.front()
	phone.space()
	phone.sees("No connection")
	line.breaks(false)
	phone.until("what was pressed without a network has arrived", func() bool {
		return phone.eval(`() => document.querySelector('h1').textContent`) ==
			desk.eval(`() => document.querySelector('h1').textContent`)
	})

	other := a.open(b, "/preferences", 1280, 800)
	other.sees("phone in the kitchen")
	other.eval(`() => { [...document.querySelectorAll('li')].find((l) => l.textContent.includes('phone in the kitchen'))
		.querySelector('button').click(); return '' }`)
	other.until("the phone is off the list", func() bool {
		return !strings.Contains(other.eval(`() => document.body.innerText`), "phone in the kitchen")
	})
	phone.front()
	phone.space()
	phone.sees("Log in")
	desk.lead("Washed.")
	desk.must(desk.Navigate(a.address + "/log"))
	desk.sees("by Ines")
	desk.click("button", "Log out")
	desk.sees("Log in")
	desk.fillIn("Name", "Ines")
	desk.fillIn("Passphrase", "four quiet brass kettles")
	desk.click("form button", "Log in")
	desk.sees("Name or passphrase is wrong")
	desk.fillIn("Passphrase", "four quiet copper kettles")
	desk.click("form button", "Log in")
	desk.sees("by Ines")
}
