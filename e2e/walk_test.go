package e2e

import (
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
)

// keys counts what is pressed on a keyboard.
type keys struct {
	*page
	n int
}

func (k *keys) press(list ...input.Key) {
	k.t.Helper()
	for _, x := range list {
		k.must(k.Keyboard.Type(x))
		k.n++
	}
}

// measuring says whether a number is asked for.
func (p *page) measuring() bool {
	return p.eval(`() => String(!!document.querySelector('.measure input'))`) == "true"
}

// next presses until the walk asks something else.
func (k *keys) next(do func()) {
	k.t.Helper()
	at := func() string {
		return k.eval(`() => ['.label-voice', 'h1'].map((x) => document.querySelector(x)?.textContent).join(' ')`)
	}
	was := at()
	do()
	k.until("the next look after "+was, func() bool { return at() != was })
}

// A whole walk round a machine with two groups by keys alone, with every number typed and a crusted gauze found on the
// way, in at most sixty of them: what follows stands beside the drawing before it is taken, the descale is pulled
// forward, and at its end the state is shown in pictures. The next walk tells how it was.
func TestAWalkByKeys(t *testing.T) {
	t.Parallel()
	a := start(t, "demo")
	p := a.open(browse(t), "/", 1280, 800)
	id := p.demoMachine("Corner shop")
	p.must(p.Navigate(a.address + "/machines/" + id + "/walk"))
	p.step("How does it stand there now?")
	k := &keys{page: p}
	numbers := map[string][]input.Key{"steam gauge": {'1', '.', '2'}, "pump gauge": {'9'}, "to its heat": {'2', '4'},
		"ten seconds": {'2', '9', '0'}, "handle turn": {'0'}}
	k.next(func() { k.press('1') })
	looks := 0
	for ; looks < 40 && !strings.Contains(p.heading(), "want"); looks++ {
		switch h := p.heading(); {
		case strings.Contains(h, "switch it off"):
			looks--
			k.next(func() { k.press(input.Enter) })
		case strings.Contains(h, "gauze"):
			k.press('3')
			p.sees("Descale now")
			p.sees("Descale, in a workshop: now, not")
			k.next(func() { k.press(input.Enter) })
		case p.measuring():
			for part, list := range numbers {
				if strings.Contains(h, part) {
					k.press(list...)
				}
			}
			p.until("it is judged",
				func() bool { return p.eval(`() => String(document.querySelector('.take').disabled)`) == "false" })
			k.next(func() { k.press(input.Enter) })
		default:
			k.next(func() { k.press('1') })
		}
	}
	if looks != 27 || k.n > 60 {
		t.Errorf("%d looks by %d keys", looks, k.n)
	}
	p.step("One thing wants something")
	p.sees("Crusted.")
	if drawn := p.eval(`() => String(document.querySelectorAll('.state svg').length)`); drawn != "27" {
		t.Errorf("%s drawings of its state", drawn)
	}
	p.must(p.Navigate(a.address + "/machines/" + id))
	p.job("Descale")
	p.sees("Tap gauze on")
	p.must(p.Navigate(a.address + "/machines/" + id + "/walk"))
	p.step("How does it stand there now?")
	p.click("button", "On, and at its heat")
	p.step("One thing wants something") // every look is done already
}

// On a phone, by hand: a relief valve that blows stops the machine, is on the band and on the bench, and nothing is
// led on it until a technician signs for it by name; a look taken back by whoever was wrong lets it go on.
func TestAReliefValveStops(t *testing.T) {
	t.Parallel()
	a := start(t, "demo")
	p := a.open(browse(t), "/", 390, 844)
	id := p.demoMachine("Observatory kitchen")
	walk := func() {
		p.must(p.Navigate(a.address + "/machines/" + id + "/walk"))
		p.step("How does it stand there now?")
		p.click("button", "On, and at its heat")
		p.step("Is it dry under the machine?")
		for !strings.Contains(p.heading(), "relief valve") {
			last := p.heading()
			p.click("button", "Can’t tell")
			p.until("the next look", func() bool { return p.heading() != last })
		}
		p.step("What comes from the relief valve?")
		p.click("button.card", "Steam or water blows")
		p.sees("Never plug it, never adjust it.")
		p.click("button", "Record it, and stop")
		p.step("Switch off")
	}
	walk()
	p.click("button", "I was wrong")
	p.until("it may go on", func() bool { return !strings.Contains(p.heading(), "Switch off") })
	walk()
	p.click("a", "To the machine’s page")
	p.sees("Nothing is led on it meanwhile.")
	led := p.eval(`() => String([...document.querySelectorAll('main button.btn')].filter((b) =>
		/lead me|start the/i.test(b.textContent)).length)`)
	if led != "0" {
		t.Errorf("%s jobs are led on it", led)
	}
	p.click("summary", "Sign off the machine")
	p.fillIn("Your name", "A. Tester")
	p.fillIn("What was done", "a new pressure switch, tried for an hour")
	p.click("button", "It may be used again")
	p.until("it may be used", func() bool {
		return p.eval(`() => String(document.body.textContent.includes('Nothing is led on it meanwhile'))`) == "false"
	})
	p.must(p.Navigate(a.address + "/machines/" + id + "/diagnose?symptom=weak_steam"))
	p.sees("The steam is weak")
}

// A photo of a cup, offered on the card of the first dirty water: one of blue water is refused with what it may be, one
// of brown water proposes the brown card and marks its grains; nothing is on record before somebody takes it.
func TestAPhotoIsRefusedAndTaken(t *testing.T) {
	t.Parallel()
	a := start(t, "demo")
	p := a.open(browse(t), "/", 1280, 800)
	id := p.demoMachine("Corner shop")
	p.must(p.Navigate(a.address + "/machines/" + id + "/walk"))
	p.step("How does it stand there now?")
	p.must(p.Keyboard.Type('1'))
	for n := 0; n < 20 && !strings.Contains(p.heading(), "drain spout"); n++ {
		last := p.heading()
		p.click("button", "Can’t tell")
		p.until("the next look", func() bool { return p.heading() != last })
	}
	p.click("summary", "Or by a photo")
	photo := func(name string) {
		file, err := filepath.Abs("../core/photo/testdata/" + name)
		p.must(err)
		field, err := p.Element("input[type=file]")
		p.must(err)
		p.must(field.SetFiles([]string{file}))
	}
	photo("blue.png")
	p.sees("This is no colour of coffee in water")
	p.sees("dissolved metal")
	photo("brown.png")
	p.sees("Nearest to brown")
	p.sees("6 grains")
	if marks := p.eval(`() => String(document.querySelectorAll('.shown circle').length)`); marks != "18" {
		t.Errorf("%s circles: three rings and six grains, each drawn twice", marks)
	}
	p.click("button", "Choose that card")
	p.sees("Wash it within a month")
	p.click("button", "Take it, next part")
	p.sees("Taken: First dirty water, group 1: brown")
}
