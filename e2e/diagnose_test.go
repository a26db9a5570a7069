package e2e

import (
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
)

// From a run somebody goes to look for a cause and back: the run goes on meanwhile, and nothing else is led.
func TestDiagnosisFromARun(t *testing.T) {
	t.Parallel()
	a := start(t, "demo")
	p := a.open(browse(t), "/", 1280, 800)
	id := p.demoMachine("Observatory kitchen")
	p.must(p.Navigate(a.address + "/machines/" + id))
	p.click("button", "Start the wash")
	p.sees("I cannot go on")
	p.must(p.Keyboard.Type('h'))
	p.click("a", "look for the cause")
	p.step("What do you notice?")
	p.sees("The run goes on meanwhile.")
	p.click("button", "It leaks at the handle")
	p.sees("I cannot tell")
	for last := p.heading(); last != "It may be one of these"; last = p.heading() {
		p.must(p.Keyboard.Type('0'))
		p.until("the next look", func() bool { return p.heading() != last })
	}
	p.sees("Finish the run first, or stop it.")
	p.click("a", "Back to the run")
	p.sees("I cannot go on")
}

// From a symptom to its cause by keys alone: one question at a time, back one, what follows at the end; over pressure
// stops first and leads to no job; what is as it should be is said to be.
func TestDiagnosisByKeys(t *testing.T) {
	t.Parallel()
	a := start(t, "demo")
	p := a.open(browse(t), "/", 1280, 800)
	id := p.demoMachine("Corner shop")
	p.must(p.Navigate(a.address + "/machines/" + id))
	p.click("a", "Something is wrong")
	p.step("What do you notice?")
	p.fillIn("Bar", "2,2")
	p.click("button", "Judge it")
	p.sees("Stop: it is over its limit")
	p.sees("do not touch the relief valve")
	p.click("button", "No water comes from the group")
	behind := func() string { return p.eval(`() => String(document.querySelectorAll('.said li').length)`) }
	p.sees("I cannot tell")
	first := p.heading()
	p.must(p.Keyboard.Type('0'))
	p.until("a look is behind", func() bool { return behind() == "1" && p.heading() != first })
	p.click("button", "Back to the look before")
	p.until("the first look again", func() bool { return behind() == "0" && p.heading() == first })
	p.answersNoClick()
	p.sees("Dried detergent holds the valve")
	p.sees("Group 1: the handle is locked in")
	p.click("button", "That was it")
	p.sees("it counts the next time")
	p.click("button", "Something else")
	p.click("button", "The gauge goes over its mark")
	p.sees("Switch it off and pull the plug now.")
	p.sees("Nothing is led on it")
	led := p.eval(`() => String([...document.querySelectorAll('main button.btn')].some((b) =>
		/lead me/.test(b.textContent)))`)
	if led != "false" {
		t.Error("over pressure leads to a job")
	}
	p.click("button", "Something else")
	p.click("button", "The rubber disc drips")
	p.sees("small hole")
	p.must(p.Keyboard.Type('1'))
	p.sees("That is as it should be")
	p.click("button", "Something else")
	p.click("button", "No water comes from the group")
	p.sees("I cannot tell")
	p.answersNoClick()
	p.click("button", "Group 1: the handle is out")
	p.sees("I cannot go on")
	p.leadUntil("the valve is listened for", `document.querySelector('label.hear') !== null`)
	p.must(p.Keyboard.Type('2')) // no click
	p.space()
	p.leadUntil("hot water to the brim", `document.querySelector('main').innerText.includes('to the brim')`)
}

// answersNoClick answers what is asked as somebody would whose group gives no water and does not click after a wash.
func (p *page) answersNoClick() {
	p.t.Helper()
	for n := 0; n < 12 && !strings.Contains(p.heading(), "Dried detergent"); n++ {
		last, key := p.heading(), input.Key('0')
		for part, answer := range map[string]input.Key{"pump sound": '1', "valve click": '2', "a wash": '1',
			"supply open": '1', "tank full": '1', "as usual": '1'} {
			if strings.Contains(last, part) {
				key = answer
			}
		}
		p.must(p.Keyboard.Type(key))
		p.until("the next look", func() bool { return p.heading() != last })
	}
}
