package e2e

import (
	"testing"
)

// The pages do nothing that their own policy forbids: no style or script in a line, nothing from elsewhere. The look
// would be another where the browser refused something.
func TestPagesKeepTheirPolicy(t *testing.T) {
	t.Parallel()
	a := start(t, "demo", "--speed", "30")
	p := a.open(browse(t), "/", 1280, 800)
	if _, err := p.EvalOnNewDocument(`window.refused = []
		document.addEventListener('securitypolicyviolation', (e) =>
			refused.push([e.violatedDirective, e.blockedURI, e.sample, e.sourceFile, e.lineNumber].join(' ')))`); err != nil {
		t.Fatal(err)
	}
	kitchen, deck := p.demoMachine("Observatory kitchen"), p.demoMachine("Ferry tea deck")
	see := func(path, text string) {
		t.Helper()
		p.must(p.Navigate(a.address + path))
		p.sees(text)
		p.eval(`() => { document.querySelectorAll('main details').forEach((d) => (d.open = true)); return '' }`)
		p.sees(text)
		if said := p.eval(`() => window.refused.slice(0, 3).join(' | ')`); said != "" {
			t.Errorf("%s: %s", path, said)
		}
	}
	for path, text := range map[string]string{"/": "Observatory kitchen", "/mix": "Why this much", "/log": "Log",
		"/machines/new": "How is it built?", "/machines/many": "From a file", "/preferences": "Currency",
		"/today": "Where to be, when"} {
		see(path, text)
	}
	for path, text := range map[string]string{"": "This year:", "/water": "Ways to treat the water",
		"/tape": "In one sitting", "/schools": "side by side", "/descale": "Workshop", "/sitting": "Step by step",
		"/walk":     "How does it stand",
		"/diagnose": "What do you notice?", "/card": "Observatory kitchen", "/rest": "Closed for a while"} {
		see("/machines/"+kitchen+path, text)
	}
	see("/machines/"+deck+"/close", "The nights before")
	p.must(p.Navigate(a.address + "/machines/" + deck))
	p.job("Detergent wash")
	p.click("button", "Start the wash")
	p.step("Get ready")
	p.space()
	if said := p.eval(`() => window.refused.slice(0, 3).join(' | ')`); said != "" {
		t.Errorf("a run: %s", said)
	}
}
