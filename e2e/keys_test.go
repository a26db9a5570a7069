package e2e

import (
	"fmt"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
)

// middle is where the key stands that goes on.
func (p *page) middle() proto.Point {
	p.t.Helper()
	at := strings.Split(p.eval(`() => {
		const r = document.querySelector('.buttons .press').getBoundingClientRect()
		return [r.x + r.width / 2, r.y + r.height / 2].join()
	}`), ",")
	x, _ := strconv.ParseFloat(at[0], 64)
	y, _ := strconv.ParseFloat(at[1], 64)
	return proto.Point{X: x, Y: y}
}

// taps presses twice at one place, so far apart.
func (p *page) taps(at proto.Point, apart time.Duration) {
	p.t.Helper()
	for range 2 {
		p.must(p.Mouse.MoveTo(at))
		p.must(p.Mouse.Click(proto.InputMouseButtonLeft, 1))
		time.Sleep(apart)
	}
}

// settled waits until the key that goes on takes presses.
func (p *page) settled() {
	p.t.Helper()
	p.until("a key that takes presses", func() bool {
		return p.eval(`() => String(document.querySelector('.keys[data-fresh]') === null && !(window.sending > 0))`) == "true"
	})
}

// A double tap is one press: on the page as the clock leads and as a hand does, by thumb and by the space bar, at every
// size. The second tap reports no fault, holds nothing and goes on past nothing; what holds and stops works at once,
// and never stands where the key to go on stood.
func TestADoubleTapIsOnePress(t *testing.T) {
	t.Parallel()
	a := start(t, "demo")
	b := browse(t)
	for _, size := range [][2]int{{1280, 800}, {1180, 820}, {390, 844}} {
		t.Run(fmt.Sprintf("%d wide", size[0]), func(t *testing.T) {
			p := a.open(b, "/", size[0], size[1])
			p.t = t
			p.click(`article[aria-label="Observatory kitchen"] button`, "Start the wash")
			p.step("Get ready")
			p.settled()
			p.taps(p.middle(), 150*time.Millisecond)
			p.step("Brush and flush") // and no further
			p.settled()
			p.taps(p.middle(), 300*time.Millisecond)
			p.step("Water first")
			for _, apart := range []time.Duration{80, 150, 300} {
				p.settled()
				at := p.middle()
				p.taps(at, apart*time.Millisecond)
				p.until("ON", func() bool { return word(p) == "ON" })
				if under := p.eval(`(x, y) => {
					const key = document.elementFromPoint(x, y)?.closest('button:not(:disabled), a')
					return key ? key.textContent : 'nothing'
				}`, at.X, at.Y); under != "nothing" {
					t.Errorf("where the key to go on stood is %q", under)
				}
				p.must(p.Keyboard.Type(input.KeyP)) // it holds at once
				p.sees("Pulse again")
				p.settled()
				for range 2 { // by the space bar, or a pedal that types it
					p.must(p.Keyboard.Type(input.Space))
					time.Sleep(apart * time.Millisecond)
				}
				p.until("ON again", func() bool { return word(p) == "ON" })
				p.must(p.Keyboard.Type(input.KeyP))
				p.sees("Pulse again")
				if strings.Contains(p.eval(`() => document.body.innerText`), "No pressure: the pulse") {
					t.Error("a fault was reported")
				}
			}
			for n := range 2 { // a fault is reported, once the keys have stood
				p.click("button.press", "Pulse again")
				p.until("ON", func() bool { return word(p) == "ON" })
				time.Sleep(time.Second)
				p.click("button.press", "No pressure")
				p.sees([]string{"does not count", "No pressure twice"}[n])
			}
			p.settled()
			p.must(p.Keyboard.Type(input.Space)) // there is no going on
			if keys := p.eval(`() => document.querySelector('.keys').innerText`); strings.Contains(keys, "again") ||
				!strings.Contains(keys, "Pump is off: stop here") {
				t.Errorf("the keys: %s", keys)
			}
			time.Sleep(time.Second)
			p.click("button.press", "The handle was loose")
			p.sees("Go on: it is mended")
			p.click("button.press", "Pulse again")
			p.until("ON at last", func() bool { return word(p) == "ON" })
			p.must(p.Keyboard.Type(input.KeyX))
			p.click("dialog button", "Stop here")
			p.sees("Nothing is counted as done")
		})
	}
}

// Who is called away with detergent inside has the key there by which it is rinsed first.
func TestRinseNowThenGo(t *testing.T) {
	t.Parallel()
	a := start(t, "demo")
	p := a.open(browse(t), "/", 390, 844)
	p.click(`article[aria-label="Observatory kitchen"] button`, "Start the wash")
	goOn(p, "Get ready", "Brush and flush", "Water first", "tsp")
	p.step("Detergent pulses")
	p.click("button", "I am called away")
	p.sees("Rinse now and stop, then go.")
	p.click("dialog button", "Rinse now, then go")
	p.sees("Rinse, then it is over")
}
