package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"testing"
	"time"
)

// says types a date into a field, as a browser's own calendar would.
func (p *page) dates(label, date string) {
	p.t.Helper()
	p.eval(`(label, date) => {
		const of = [...document.querySelectorAll('label')].find((l) => l.textContent.includes(label))
		const field = of.querySelector('input')
		field.value = date
		field.dispatchEvent(new Event('input', { bubbles: true }))
	}`, label, date)
}

// A machine is closed for twelve days: what that comes to stands there before it is saved; it is closed down, visited
// once, and on its return the pump screams: that stops the run, and leads to the cause. Each part on its own day.
func TestClosedForTwelveDays(t *testing.T) {
	t.Parallel()
	m := noon(t)
	db := filepath.Join(t.TempDir(), "closed.db")
	day := 0
	open := func(ahead int) (*page, string, func()) {
		m.ahead += time.Duration(ahead-day) * 24 * time.Hour
		day = ahead
		a, cmd := m.launch(t, "serve", "--speed", "300", "--port", "0", "--db", db)
		return a.open(browse(t), "/", 1280, 800), a.address, func() {
			_ = cmd.Process.Signal(os.Interrupt)
			_ = cmd.Wait()
		}
	}
	p, address, shut := open(0)
	id := p.machine("single_boiler")
	rest := func() string { return address + "/machines/" + id + "/rest" }
	p.must(p.Navigate(rest()))
	p.step("Closed for a while?")
	p.dates("First day closed", m.now().AddDate(0, 0, 1).Format(time.DateOnly))
	p.dates("Last day closed", m.now().AddDate(0, 0, 12).Format(time.DateOnly))
	p.click("button", "Close it for 12 days")
	p.step("Close it down on")
	p.sees("one visit")
	p.click("button", "Close it down now")
	p.lead("Closed down.")
	p.sees("Do not switch it on")
	shut()

	p, address, shut = open(5)
	p.sees("Laid up")
	p.sees("Do not switch it on")
	shut()

	p, address, shut = open(8)
	p.sees("Weekly visit")
	p.must(p.Navigate(rest()))
	p.step("Visit it on")
	p.click("button", "Visit it now")
	p.lead("Visited.")
	shut()

	p, address, shut = open(13)
	defer shut()
	p.sees("Bring it back into use")
	p.must(p.Navigate(rest()))
	p.step(fmt.Sprintf("Back on %d", m.now().Day()))
	p.click("button", "Bring it back now")
	p.lead("How does the pump sound?")
	p.must(p.Keyboard.Type('2'))
	p.space()
	p.sees("Switch it off: the pump is dry")
	p.click("a", "Look for the cause")
	p.sees("The pump screams")
	p.click("a", "Back to the run")
	p.sees("Switch it off: the pump is dry")
}
