package e2e

import (
	"strings"
	"testing"
)

// begin starts a led task of a machine from its page.
func (p *page) begin(a *app, id, title string) {
	p.t.Helper()
	p.must(p.Navigate(a.address + "/machines/" + id))
	p.job(title)
	p.eval(`(title) => { const s = [...document.querySelectorAll('details.job')].find((s) =>
		s.querySelector('summary').textContent.includes(title)); [...s.querySelectorAll('button')].find((b) =>
		b.textContent.trim() === 'Lead me').click() }`, title)
}

// A screen is led off and back, in a cold machine; the seal is found brittle, which the end says, the page
// shows and which pulls its change forward: the bench names it.
func TestHandCleanIsLedAndLogged(t *testing.T) {
	t.Parallel()
	a := start(t, "serve", "--speed", "120")
	p := a.open(browse(t), "/", 1280, 800)
	id := p.machine("single_boiler")
	p.begin(a, id, "Screen off and scrubbed")
	p.lead("Screen off")
	p.sees("blunt lever")
	if p.eval(`() => document.querySelector('figure svg')?.getAttribute('aria-label') ?? ''`) == "" {
		t.Error("no drawing where the hand levers")
	}
	p.lead("Press the seal")
	p.must(p.Keyboard.Type('3'))
	p.sees("A hard seal lets the handle leak")
	p.space()
	p.lead("Scrubbed.")
	p.sees("A hard seal lets the handle leak")
	p.must(p.Navigate(a.address + "/machines/" + id))
	p.sees("to fit:")
	p.unfold("What was found")
	p.sees("Hard or cracked")
	p.must(p.Navigate(a.address + "/machines/" + id + "/log"))
	p.sees("Screen off and scrubbed")
	var bench struct {
		Machines []struct {
			ID   string `json:"id"`
			Next struct {
				Task, Says string
			} `json:"next"`
		} `json:"machines"`
	}
	p.until("the seal on the bench", func() bool {
		a.get("/api/bench", &bench)
		for _, m := range bench.Machines {
			if m.ID == id && (m.Next.Task == "seal" || m.Next.Task == "wash") {
				return true
			}
		}
		return false
	})
	var m struct {
		Plan struct {
			Dues []struct {
				Task, State string
				Pulled      bool
			} `json:"dues"`
		} `json:"plan"`
	}
	a.get("/api/machines/"+id, &m)
	pulled := false
	for _, d := range m.Plan.Dues {
		pulled = pulled || d.Task == "seal" && d.Pulled && d.State == "today"
	}
	if !pulled {
		t.Errorf("the seal is not pulled forward: %+v", m.Plan.Dues)
	}
}

// Baskets soak to the bell: the time left stands there, and the next step comes by itself when it is over.
func TestSoakBathToItsBell(t *testing.T) {
	t.Parallel()
	a := start(t, "serve")
	p := a.open(browse(t), "/", 390, 844)
	id := p.machine("dual_home")
	p.begin(a, id, "Soak baskets and handles")
	p.lead("Baskets and handles in")
	p.sees("grip stays out")
	p.lead("It soaks")
	p.sees("The bell rings")
	left := p.eval(`() => document.querySelector('.seconds')?.dataset.left ?? ''`)
	if left == "" {
		t.Error("nobody says how long it still soaks")
	}
	p.comes("Out, brush, rinse") // by itself
	p.lead("Soaked.")
	p.sees("The basket stays in")
}

// What is not anybody's is led only for a name; a paper is put on record with its number and by whom.
func TestATechnicianIsLedByName(t *testing.T) {
	t.Parallel()
	a := start(t, "demo", "--speed", "120")
	p := a.open(browse(t), "/", 1280, 800)
	id := p.demoMachine("Corner shop")
	p.must(p.Navigate(a.address + "/machines/" + id))
	p.job("Clean the level probe")
	p.eval(`() => { const s = [...document.querySelectorAll('details.job')].find((s) =>
		s.textContent.includes('Clean the level probe')); s.querySelectorAll('summary')[1].click() }`)
	p.fillIn("Name of who is entitled", "M. Lima")
	p.click("button", "I am entitled")
	p.step("Switch it off")
	p.lead("The probe is clean.")
	p.must(p.Navigate(a.address + "/machines/" + id + "/log"))
	p.sees("by M. Lima")
	p.sees("paper B 4-117")
}

// The close of a night on a bar tablet: ticked by touch and keys, with who; called away in the middle and
// back on another device, nothing is lost; a tick is taken back.
func TestTheCloseWithAnInterruption(t *testing.T) {
	t.Parallel()
	a := start(t, "demo", "--speed", "60")
	b := browse(t)
	p := a.open(b, "/", 1180, 820)
	id := p.demoMachine("Corner shop")
	p.must(p.Navigate(a.address + "/machines/" + id + "/bar"))
	p.sees("Tonight: 3 to do")
	if p.eval(`() => document.querySelector('header') ? 'header' : ''`) != "" {
		t.Error("the bar tablet shows more than the close")
	}
	// readable at two metres: every job's words are large, every key is large enough for a wet thumb
	small := p.eval(`() => [...document.querySelectorAll('.job h2')].filter((h) =>
		parseFloat(getComputedStyle(h).fontSize) < 30).length + ' ' + [...document.querySelectorAll('.job button')]
		.filter((k) => k.getBoundingClientRect().height < 60).length`)
	if small != "0 0" {
		t.Errorf("words and keys that are too small: %s", small)
	}
	if over := p.eval(`() => String(document.documentElement.scrollHeight - innerHeight)`); over != "0" {
		t.Errorf("it scrolls by %s px at 1180×820", over)
	}
	p.click(".initials", "R")
	p.must(p.Keyboard.Type('1'))
	p.sees("Tonight: 2 to do")
	p.click(".job button", "Start")
	p.step("Get ready")
	p.space()

	other := a.open(b, "/machines/"+id+"/bar", 1180, 820) // called away: somebody else comes to the tablet
	other.sees("is under way")
	other.sees(", R")
	other.click("button", "Go back to it")
	other.lead("Washed.")
	other.must(other.Navigate(a.address + "/machines/" + id + "/bar"))
	other.sees("Tonight: 1 to do")
	other.click(".tall", "Done")
	other.sees("Closed.")
	other.eval(`() => [...document.querySelectorAll('.job')].find((j) => j.textContent.includes('Tray')).
		querySelector('.minor').click()`)
	other.sees("Tonight: 1 to do")
}

// What is due together is led in one run, in the shortest order: a bath soaks while something else is done,
// and ticks at the side; the log holds each task by itself.
func TestASittingIsLed(t *testing.T) {
	t.Parallel()
	a := start(t, "demo", "--speed", "120")
	p := a.open(browse(t), "/", 1280, 800)
	p.sees("In one sitting:")
	id := p.demoMachine("Observatory kitchen")
	p.must(p.Navigate(a.address + "/machines/" + id))
	p.unfold("In one sitting")
	p.sees("one laying out less")
	p.click("a", "Work sheet")
	p.sees("Step by step")
	p.sees("stands by itself")
	p.eval(`() => { const at = document.querySelector('input[type=time]'); at.value = '18:30';
		at.dispatchEvent(new Event('input', {bubbles: true})) }`)
	p.sees("Tue 10 Mar, 18:30")
	if first := p.eval(`() => document.querySelector('ol.by-step b').textContent`); first != "18:30" {
		t.Errorf("the first step is at %s", first)
	}
	p.click("button", "Start the sitting")
	p.sees("step 1 of")
	p.sees("Observatory kitchen, soak") // not the group that comes later
	p.leadUntil("the end", `(() => { window.beside = window.beside || document.querySelector('.meanwhile') !== null;
		return document.querySelector('h1')?.textContent.includes('All of it is done') })()`)
	if p.eval(`() => String(window.beside)`) != "true" {
		t.Error("nothing ticked at the side")
	}
	var log struct {
		Entries []struct{ Title, Outcome string } `json:"entries"`
	}
	a.get("/api/log?machine_id="+id+"&limit=4", &log)
	done := map[string]bool{}
	for _, e := range log.Entries {
		done[e.Title] = e.Outcome == "done"
	}
	for _, want := range []string{"Detergent wash", "Soak the steam tip", "Soak baskets and handles"} {
		if !done[want] {
			t.Errorf("%s is not in the log as done: %v", want, done)
		}
	}
	p.must(p.Navigate(a.address + "/"))
	p.until("the bench of it to be clear", func() bool {
		return strings.Contains(p.eval(`() => document.querySelector('article[aria-label="Observatory kitchen"]')
			?.textContent ?? ''`), "Nothing to do")
	})
}
