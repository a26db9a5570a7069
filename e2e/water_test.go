package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/proto"
)

// headline is the answer of the water screen.
func headline(p *page) string {
	return p.eval(`() => document.querySelector('h1.date')?.innerText ?? ''`)
}

// From a strip to a date in seconds; what if moves the date at once and is let go
// again; a filter is chosen, changed by the hand that is led, and its date stands.
func TestFromAStripToADate(t *testing.T) {
	t.Parallel()
	a := start(t, "serve", "--speed", "60")
	p := home(t, a)
	began := time.Now()
	p.click("a", "Its water")
	p.sees("Ways to treat the water")
	p.sees("A workshop descales it")
	p.click("button", "Enter a reading")
	p.unfold("What if")
	p.click("label.pad", "14–21")
	p.until("what if", func() bool { return strings.HasPrefix(headline(p), "Every") })
	p.click("button", "Save this reading")
	p.unfold("The water in numbers")
	p.sees("strip: hardness 312")
	p.until("a date", func() bool { return headline(p) != "" && !strings.HasPrefix(headline(p), "Every") })
	t.Logf("from the machine's page to the date of a strip: %.1f s", time.Since(began).Seconds())
	date := headline(p)

	slide := func(i int, v string) {
		p.script(
			`{ const s = document.querySelectorAll('.slide input')[` + string(
				rune('0'+i),
			) + `]; s.value = '` + v + `'; s.dispatchEvent(new Event('input', { bubbles: true })) }`,
		)
	}
	slide(0, "40")
	p.until("a year of soft water", func() bool { return strings.Contains(headline(p), "a year") })
	slide(0, "400")
	p.until("hard water", func() bool { return headline(p) == "Every 2 months" })
	p.script(
		`{ const s = document.querySelector('.slide select'); s.value = 'none'; s.dispatchEvent(new Event('change', {
			bubbles: true })) }`,
	)
	slide(1, "30")
	p.until("thirty drinks of it, untreated", func() bool { return strings.HasSuffix(headline(p), "days") })
	p.click("button", "Undo")
	p.until("as it is", func() bool { return headline(p) == date })

	// who would rather not descale looks once a year
	stance := func(v string) {
		p.script(
			`{ const s = [...document.querySelectorAll('select')].find((s) => s.innerText.includes('low-mineral'));
				s.value = '` + v + `'; s.dispatchEvent(new Event('change', { bubbles: true })) }`,
		)
	}
	p.unfold("Who descales it")
	stance("nobody, low-mineral water")
	p.sees("Do not descale: treat the water")
	p.sees("Look for scale")
	stance("by layout")
	p.sees("A workshop descales it")

	p.unfold("Ways to treat the water")
	p.click(`[aria-label="Choose filter jug"]`, "Choose")
	p.sees("through filter jug")
	p.click(`[aria-label="Choose filter in the tank"]`, "Choose")
	p.sees("through filter in the tank")
	p.unfold("Where it goes")
	p.sees("Change the filter")
	p.click("button", "Lead me")
	goOn(p, "New filter into water", "Old filter out", "Look at the strainer")
	p.step("Fit it, flush")
	p.space()
	p.step("Set the month")
	p.space()
	p.step("Filter changed.")
	p.sees("The next comes around")
	p.click("a", "To the bench")
	p.click("h2 a", "Dual boiler, home")
	p.job("Change the filter")
	p.sees("Last done")
}

// A supplier's report with bad rows takes nothing and names them; mended, it is
// taken whole.
func TestSuppliersReport(t *testing.T) {
	t.Parallel()
	a := start(t, "serve")
	p := home(t, a)
	p.click("a", "Its water")
	p.click("button", "Enter a reading")
	p.click("label.tick", "report")
	p.unfold("another source, or another day")
	put := func(text string) {
		t.Helper()
		file := filepath.Join(t.TempDir(), "report.csv")
		if err := os.WriteFile(file, []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
		input, err := p.Element("input[type=file]")
		p.must(err)
		p.must(input.SetFiles([]string{file}))
	}
	p.fillIn("Its name", "Hill spring")
	put("parameter,value,unit\nhardness,plenty,mg/L\npH,7.2,\nchloride,12,stone\n")
	p.sees("2 lines cannot be taken, so nothing is.")
	p.sees("line 2")
	p.sees("line 4")
	var waters struct{ Sources []any }
	if a.get("/api/waters", &waters); len(waters.Sources) != 0 {
		t.Error("a source was kept for a report that was not")
	}
	put("parameter,value,unit\nhardness,95,mg/L\nalkalinity,70,mg/L\npH,7.2,\nchloride,12,mg/L\nnitrate,3,mg/L\n")
	p.sees("1 line that does not matter here")
	p.click("button", "Save the report")
	p.unfold("The water in numbers")
	p.sees("Hill spring, through")
	p.sees("report: pH 7.2, hardness 95 mg/L")

	// on paper: the chart and what is unfolded, not the levers
	p.unfold("Ways to treat the water")
	p.unfold("What if")
	p.must(proto.EmulationSetEmulatedMedia{Media: "print"}.Call(p))
	got := p.eval(
		`() => [['.work svg', true], ['table', true], ['.if', false], ['header', false]].map(([s, on]) =>
			(document.querySelector(s).getBoundingClientRect().height > 0) === on).join()`,
	)
	if got != "true,true,true,true" {
		t.Errorf("in print, chart, table, levers, header: %s", got)
	}
}

// The descale card of three layouts: the verdict on top, no dose where it is not led, the
// product changed, one of the user's own, and what the spent solution said.
func TestDescaleCard(t *testing.T) {
	t.Parallel()
	a := start(t, "demo")
	b := browse(t)
	p := a.open(b, "/", 1280, 800)
	p.must(p.Navigate(a.address + "/machines/" + p.demoMachine("Bench loaner") + "/descale"))
	p.sees("Descale at home")
	p.sees("Circuit by circuit")
	p.sees("Gloves and eye protection")
	p.unfold("Another descaler")
	p.sees("an ounce to 32 fl oz")
	choose := func(v string) {
		p.script(
			`{ const s = document.querySelector('select'); s.value = '` + v + `'; s.dispatchEvent(new Event('change', {
				bubbles: true })) }`,
		)
	}
	choose("sachet")
	p.until("sachets", func() bool {
		return strings.Contains(p.eval(`() => document.querySelector('.amount').innerText`), "sachet")
	})
	p.click("button", "Another product")
	p.fillIn("What it is called", "harbour mix")
	p.click("button", "Save it")
	p.until("the own product", func() bool {
		return p.eval(`() => document.querySelector('select').selectedOptions[0].textContent`) == "harbour mix"
	})
	p.unfold("Afterwards")
	p.fillIn("pH of the spent solution", "2.6")
	p.fillIn("litres of it", "1")
	p.click("button", "What was there?")
	p.sees("The share that stays here is now taken as")
	p.click("button", "undo")
	p.until("taken back", func() bool {
		return !strings.Contains(p.eval(`() => document.body.innerText`), "of what falls out stays")
	})
	p.must(p.Navigate(a.address + "/"))
	p.click("a", "Corner shop")
	p.click("a", "Descale card")
	p.sees("A workshop descales it")
	p.sees("Not for you to do.")
	if got := p.eval(`() => String(document.querySelector('table, .amount'))`); got != "null" {
		t.Error("a dose is shown for a machine that is not led")
	}
	p.must(p.Navigate(a.address + "/machines/" + p.demoMachine("Ferry tea deck") + "/descale"))
	p.sees("the acid would have to be heated")
	p.must(p.Navigate(a.address + "/machines/" + p.demoMachine("Bench loaner") + "/descale"))
	p.unfold("Circuit by circuit")
	p.must(proto.EmulationSetEmulatedMedia{Media: "print"}.Call(p))
	if got := p.eval(`() => [['table', true], ['header', false], ['.verdict', true]].map(([s, on]) =>
		(document.querySelector(s).getBoundingClientRect().height > 0) === on).join()`); got != "true,true,true" {
		t.Errorf("in print, table, header, verdict: %s", got)
	}
}
