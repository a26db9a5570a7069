package e2e

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/proto"
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
	var said float64
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
	if len(log.Entries) == 0 || !strings.Contains(fmt.Sprintf("%+v", log.Entries[0]), fmt.Sprint(said/2)) {
		t.Errorf("half of %v g was mixed; the log says %+v", said, log.Entries)
	}
}

// TestOrderForAScreenReader: through the accessibility tree, on a phone: what is heard first is what matters first, and
// nothing that is seen is out of the order in which it is heard.
func TestOrderForAScreenReader(t *testing.T) {
	t.Parallel()
	a := start(t, "demo")
	p := a.open(browse(t), "/", 390, 844)
	hears := func(roles ...string) (list []string) {
		t.Helper()
		p.must(proto.AccessibilityEnable{}.Call(p))
		tree, err := proto.AccessibilityGetFullAXTree{}.Call(p)
		p.must(err)
		byID := map[proto.AccessibilityAXNodeID]*proto.AccessibilityAXNode{}
		for _, n := range tree.Nodes {
			byID[n.NodeID] = n
		}
		var walk func(*proto.AccessibilityAXNode)
		walk = func(n *proto.AccessibilityAXNode) {
			if n == nil {
				return
			}
			if !n.Ignored && n.Role != nil && n.Name != nil && slices.Contains(roles, n.Role.Value.Str()) {
				list = append(list, n.Name.Value.Str())
			}
			for _, c := range n.ChildIDs {
				walk(byID[c])
			}
		}
		walk(tree.Nodes[0])
		return list
	}
	inOrder := func(what string, heard []string, want ...string) {
		t.Helper()
		from := 0
		for _, w := range want {
			i := slices.IndexFunc(heard[from:], func(h string) bool { return strings.Contains(h, w) })
			if i < 0 {
				t.Fatalf("%s: %q is not heard after %q in %q", what, w, heard[:from], heard)
			}
			from += i + 1
		}
	}
	p.sees("Ferry tea deck")
	inOrder("the bench", hears("link", "heading", "button"), "Skip to the page", "Bench", "Bench", "Observatory kitchen")
	p.must(p.Navigate(a.address + "/machines/" + p.demoMachine("Observatory kitchen")))
	p.sees("This year:")
	inOrder("a machine", hears("heading"), "Observatory kitchen", "Detergent wash", "Worth finding out", "This year",
		"Every job, with its date", "Whose it is")
	seen := p.eval(`() => {
		const tops = [...document.querySelectorAll('main h1, main h2')].map((h) => h.getBoundingClientRect().top)
		return String(tops.every((t, i) => i === 0 || t >= tops[i - 1] - 1)) }`)
	if seen != "true" {
		t.Error("headings are seen in another order than they are heard")
	}
	p.click("button", "Start the wash")
	p.step("Get ready")
	inOrder("a run", hears("heading", "button", "listitem", "StaticText"), "Get ready", "Hot water and steam", "tank",
		"Something is wrong", "I cannot go on", "All ready")
}

// TestTabletFitsTwoMachines: on a wall tablet the bench of two machines, both with something due, needs no scrolling.
func TestTabletFitsTwoMachines(t *testing.T) {
	t.Parallel()
	a := start(t, "serve")
	p := a.open(browse(t), "/", 1180, 820)
	p.machine("dual_home")
	p.machine("hx_home")
	p.must(p.Reload())
	p.sees("Trial hx_home")
	p.until("both slips", func() bool { return p.eval(`() => document.querySelectorAll('article').length`) == "2" })
	if over := p.eval(`() => String(document.documentElement.scrollHeight - innerHeight)`); over != "0" {
		t.Errorf("%s px below the screen", over)
	}
}

// TestFewWordsCutNoDanger: in few words each danger stands whole, and the space bar is the main button's again.
func TestFewWordsCutNoDanger(t *testing.T) {
	t.Parallel()
	a := start(t, "serve", "--speed", "1")
	p := a.open(browse(t), "/", 1280, 800)
	p.must(p.Navigate(a.address + "/machines/" + p.machine("single_boiler")))
	p.click("button", "Start the wash")
	p.step("Get ready")
	dangers := func() string { return p.eval(`() => document.querySelector('.cautions').innerText`) }
	whole := dangers()
	if !strings.Contains(whole, ". ") {
		t.Fatalf("the first step names no danger: %q", whole)
	}
	p.click("button", "Few words")
	p.sees("All words")
	if now := dangers(); now != whole {
		t.Errorf("in few words %q; in all words %q", now, whole)
	}
	p.space()
	p.until("the next step", func() bool { return p.eval(`() => document.querySelector('h1').innerText`) != "Get ready" })
	p.sees("All words")
}
