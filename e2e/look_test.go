package e2e

import (
	"testing"
	"time"
	"path/filepath"
	"os"
)

func TestLook(t *testing.T) {
	m := noon(t)
	db := filepath.Join(t.TempDir(), "d.db")
	a, cmd := m.launch(t, "demo", "--speed", "300", "--port", "0", "--db", db)
	b := browse(t)
	p := a.open(b, "/", 1280, 800)
	id := p.demoMachine("Ferry tea deck")
	p.must(p.Navigate(a.address + "/machines/" + id + "/rest"))
	p.step("Close it down on")
	p.shot("/tmp/look-0.png")
	q := a.open(b, "/", 1280, 800)
	oid := q.demoMachine("Observatory kitchen")
	q.must(q.Navigate(a.address + "/machines/" + oid + "/rest"))
	q.step("Closed for a while?")
	q.dates("First day closed", m.now().AddDate(0, 0, 50).Format(time.DateOnly))
	q.dates("Last day closed", m.now().AddDate(0, 0, 85).Format(time.DateOnly))
	q.sees("Close it for 36 days")
	q.shot("/tmp/look-1.png")
	r := a.open(b, "/machines/"+id+"/rest", 390, 844)
	r.step("Close it down on")
	r.shot("/tmp/look-2.png")
	p.must(p.Navigate(a.address + "/machines/" + id + "/walk"))
	p.step("How does it")
	p.click("button", "Off, unplugged")
	for i := 0; i < 25 && p.heading() != "How far does the handle turn?"; i++ {
		h := p.heading()
		p.click("button", "Can’t tell")
		p.until("next", func() bool { return p.heading() != h })
	}
	p.fillIn("Degrees", "3")
	p.sees("Looked at before")
	p.shot("/tmp/look-3.png")
	_ = cmd.Process.Signal(os.Interrupt)
	_ = cmd.Wait()
	m.ahead += 39 * 24 * time.Hour
	a, cmd = m.launch(t, "serve", "--speed", "300", "--port", "0", "--db", db)
	p = a.open(b, "/machines/"+id+"/rest", 1280, 800)
	p.click("button", "Close it down now")
	p.sees("I cannot go on")
	p.shot("/tmp/look-4.png")
	p.lead("Closed down.")
	p.shot("/tmp/look-5.png")
	_ = cmd.Process.Signal(os.Interrupt)
	_ = cmd.Wait()
	m.ahead += 9 * 24 * time.Hour
	a, cmd = m.launch(t, "serve", "--speed", "300", "--port", "0", "--db", db)
	defer func() { _ = cmd.Process.Signal(os.Interrupt) }()
	p = a.open(b, "/machines/"+id+"/rest", 1280, 800)
	p.sees("Visit it on")
	p.shot("/tmp/look-6.png")
	p.must(p.Navigate(a.address + "/"))
	p.sees("Ferry tea deck")
	p.shot("/tmp/look-7.png")
}
