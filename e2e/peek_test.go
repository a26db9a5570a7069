package e2e

import (
	"os"
	"testing"
	"time"
)

func TestPeek(t *testing.T) {
	if os.Getenv("PEEK") == "" {
		t.Skip()
	}
	b := browse(t)
	a := start(t, "demo", "--speed", "10")
	wait := func() { time.Sleep(350 * time.Millisecond) }
	p := a.open(b, "/", 1280, 800)
	p.sees("Ferry tea deck")
	wait()
	p.shot("/tmp/shots/i-bench.png")
	p.click("a", "Mix")
	p.sees("Why this much")
	wait()
	p.shot("/tmp/shots/i-mix.png")
	p.click("a", "Bench")
	p.click("h2 a", "Ferry")
	p.sees("What is known of it")
	wait()
	p.shot("/tmp/shots/i-machine.png")
	p.click("button.row", "drip tray")
	p.eval(`() => document.querySelector('form.edit').scrollIntoView({block:'center'})`)
	wait()
	p.shot("/tmp/shots/i-facts.png")
	p.click("a", "See the dose")
	p.sees("in group 2")
	wait()
	p.shot("/tmp/shots/i-mix2.png")
	p.click("a", "Preferences")
	wait()
	p.shot("/tmp/shots/i-prefs.png")
	p.eval(`async () => { for (let i = 0; i < 35; i++) { const id = crypto.randomUUID(); await fetch('/api/machines', {method:'POST', headers:{'content-type':'application/json'}, body: JSON.stringify({id, name:'Machine '+(i+1), zone:'Europe/Lisbon', answers:{layout:['dual_home','hx_home','lever_cam','thermoblock','hx_cafe'][i%5], valve:'yes', drinks_per_day:4+i, milk_drinks_per_day:2, hardness:{known:false}, treatment:'none'}})}); if (i % 3) await fetch('/api/machines/'+id+'/care', {method:'POST', headers:{'content-type':'application/json'}, body: JSON.stringify({id: crypto.randomUUID(), task:'wash', group:1, at:new Date(Date.now()-i*864e5).toISOString()})}) } }`)
	p.click("a", "Bench")
	p.sees("40 of 40")
	wait()
	p.shot("/tmp/shots/i-dense.png")
	q := a.open(b, "/", 390, 844)
	q.sees("40 of 40")
	wait()
	q.shot("/tmp/shots/j-dense.png")
	q.click("a", "Mix")
	q.sees("Why this much")
	wait()
	q.shot("/tmp/shots/j-mix.png")
	q.eval(`() => document.documentElement.dataset.theme = 'night'`)
	wait()
	q.shot("/tmp/shots/j-mix-night.png")
	q.click("a", "Bench")
	q.click("li a", "Ferry")
	q.sees("What is known of it")
	wait()
	q.shot("/tmp/shots/j-machine.png")
}
