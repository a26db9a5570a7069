package e2e

import (
	"bytes"
	"encoding/json"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	ics "github.com/emersion/go-ical"
	"github.com/go-rod/rod/lib/proto"
	"github.com/ledongthuc/pdf"
	"github.com/xuri/excelize/v2"
)

// fetched is a file of the application, as another program fetches it.
func (a *app) fetched(path string) []byte {
	a.t.Helper()
	got, err := http.Get(a.address + path)
	if err != nil {
		a.t.Fatal(err)
	}
	defer got.Body.Close()
	raw, err := io.ReadAll(got.Body)
	if err != nil || got.StatusCode != 200 {
		a.t.Fatalf("%s: %d, %v", path, got.StatusCode, err)
	}
	return raw
}

// The report of the demo's shop: of the last visit, of the year, and the PDF that its button leads to says what the
// page says.
func TestTheReportOfTheShop(t *testing.T) {
	t.Parallel()
	a := start(t, "demo", "--speed", "30")
	p := a.open(browse(t), "/", 1280, 800)
	id := p.demoMachine("Corner shop")
	p.must(p.Navigate(a.address + "/machines/" + id))
	p.click("a", "Report for the owner")
	p.sees("What comes next")
	p.sees("9 March 2026")
	p.sees("In the cup: no colour, no foam")
	p.click("button", "2026")
	p.sees("From 1 January 2026 to 9 March 2026.")
	href := p.eval(`() => [...document.querySelectorAll('a')].find((x) => x.textContent.includes('US letter'))
		.getAttribute('href')`)
	raw := a.fetched(href)
	read, err := pdf.NewReader(bytes.NewReader(raw), int64(len(raw)))
	if err != nil {
		t.Fatal(err)
	}
	text := ""
	for n := 1; n <= read.NumPage(); n++ {
		page, err := read.Page(n).GetPlainText(nil)
		if err != nil {
			t.Fatal(err)
		}
		text += page
	}
	if read.NumPage() > 3 {
		t.Errorf("a year of a shop is %d pages", read.NumPage())
	}
	on := strings.Join(strings.Fields(text), "")
	var said []string
	heads := `() => JSON.stringify([...document.querySelectorAll('article b, article h1, article h2, article h3')]
		.map((x) => x.textContent.trim()))`
	if err := json.Unmarshal([]byte(p.eval(heads)), &said); err != nil || len(said) < 20 {
		t.Fatalf("%d, %v", len(said), err)
	}
	for _, x := range said {
		if !strings.Contains(on, strings.Join(strings.Fields(strings.TrimSuffix(x, ".")), "")) {
			t.Errorf("%q is on the page, not on paper", x)
		}
	}
}

// A calendar's address is made, changed and ended in the preferences; the old one is answered no more.
func TestACalendarsAddress(t *testing.T) {
	t.Parallel()
	a := start(t, "demo", "--speed", "30")
	p := a.open(browse(t), "/preferences", 1280, 800)
	p.sees("Dates in your calendar")
	p.click("button", "Make an address")
	p.sees("Copy the address")
	address := func() string { return p.eval(`() => document.querySelector('input[readonly]').value`) }
	first := address()
	c, err := ics.NewDecoder(bytes.NewReader(a.fetched(strings.TrimPrefix(first, a.address)))).Decode()
	if err != nil || len(c.Events()) < 10 {
		t.Fatalf("%v, %d dates of the demo", err, len(c.Events()))
	}
	p.click("button", "Change it")
	p.until("another address", func() bool { return address() != first })
	got, err := http.Get(first)
	if err != nil {
		t.Fatal(err)
	}
	_ = got.Body.Close()
	if got.StatusCode != 404 {
		t.Errorf("the old address: %d", got.StatusCode)
	}
	a.fetched(strings.TrimPrefix(address(), a.address))
	p.click("button", "End it")
	p.until("no address", func() bool {
		return p.eval(`() => String(document.querySelectorAll('input[readonly]').length)`) == "0"
	})
}

// Reminders are switched on and tried against the stand-in; what it refuses is said.
func TestARemindersTrial(t *testing.T) {
	t.Parallel()
	a := start(t, "demo", "--speed", "30")
	p := a.open(browse(t), "/preferences", 1280, 900)
	p.unfold("Reminders")
	p.click("label", "To a webhook")
	p.fillIn("Address", a.address+"/nothing-takes-this")
	p.click("button:not(.btn-outline)", "Save")
	p.sees("Saved.")
	p.click("button", "Try the webhook")
	p.sees("It could not be sent")
	p.click("label", "By mail")
	p.click("button:not(.btn-outline)", "Save")
	p.sees("Allowed: the name of a server")
}

// choose picks a file, as the dialog of the system would.
func choose(p *page, input, file string) {
	p.t.Helper()
	el, err := p.Element(input)
	p.must(err)
	p.must(el.SetFiles([]string{file}))
}

// pick says what a column of a foreign table is.
func pick(p *page, label, option string) {
	p.t.Helper()
	p.eval(`(label, option) => { const s = [...document.querySelectorAll('.mapping label')].find((l) =>
		l.textContent.trim().startsWith(label)).querySelector('select')
		s.value = [...s.options].find((o) => o.textContent.startsWith(option)).value
		s.dispatchEvent(new Event('change', { bubbles: true })); return '' }`, label, option)
}

// A till's workbook is read by saying which column is which: what its first rows become stands there before, and taken
// twice it changes nothing. A file that is none is refused in words.
func TestAForeignSpreadsheet(t *testing.T) {
	t.Parallel()
	a := start(t, "demo", "--speed", "30")
	p := a.open(browse(t), "/", 1280, 900)
	id := p.demoMachine("Potter's studio")
	p.must(p.Navigate(a.address + "/machines/" + id))
	p.unfold("Use from a file")
	book := filepath.Join(t.TempDir(), "till.xlsx")
	f := excelize.NewFile()
	defer f.Close()
	for cell, v := range map[string]any{"A1": "Tag", "B1": "Verkauft", "A2": "13.2.2026", "B2": 7, "A3": "14.2.2026",
		"B3": 9} {
		p.must(f.SetCellValue("Sheet1", cell, v))
	}
	p.must(f.SaveAs(book))
	choose(p, "input[type=file]", book)
	p.sees("One column is needed still: day")
	pick(p, "day", "Tag")
	p.sees("Its first rows, as they are read")
	pick(p, "drinks", "Verkauft")
	p.sees("2026-02-13")
	p.click("button", "Look at all 2 rows")
	p.sees("16 drinks")
	p.click("button", "Save it all")
	p.sees("Saved.")
	choose(p, "input[type=file]", book)
	p.sees("One column is needed still: day")
	pick(p, "day", "Tag")
	p.sees("Its first rows, as they are read")
	pick(p, "drinks", "Verkauft")
	p.click("button", "Look at all 2 rows")
	p.sees("2 there already")

	bad := filepath.Join(t.TempDir(), "bad.xlsx")
	p.must(os.WriteFile(bad, []byte("PK\x03\x04 no workbook"), 0o600))
	choose(p, "input[type=file]", bad)
	p.sees("cannot be read as a spreadsheet")
}

// Years of readings come in from a table whose hardness names no unit: it is asked for, nothing is taken before, and
// the same again changes nothing.
func TestYearsOfReadings(t *testing.T) {
	t.Parallel()
	a := start(t, "demo", "--speed", "30")
	p := a.open(browse(t), "/", 1280, 900)
	id := p.demoMachine("Corner shop")
	p.must(p.Navigate(a.address + "/machines/" + id + "/water"))
	file := filepath.Join(t.TempDir(), "readings.csv")
	p.must(os.WriteFile(file, []byte("Day;Total hardness;pH\n13.2.2024;12,5;7,4\n20.8.2025;14;\n"), 0o600))
	for _, says := range []string{"2 new readings, 0 there already", "0 new readings, 2 there already"} {
		p.click("button", "Enter a reading")
		p.unfold("many readings, from a table")
		choose(p, "input[type=file]", file)
		p.sees("In which unit is the hardness?")
		pick(p, "hardness in", "°dH")
		p.sees("hardness °dH")
		p.click("button", "Look at all 2 rows")
		p.sees(says)
		p.click("button", "Save all readings")
	}
	var all struct {
		Sources []struct{ Readings []struct{ Taken time.Time } }
	}
	a.get("/api/waters", &all)
	old := 0
	for _, s := range all.Sources {
		for _, r := range s.Readings {
			if r.Taken.Year() == 2024 {
				old++
			}
		}
	}
	if old != 1 {
		t.Errorf("%d readings of 2024", old)
	}
}

// On paper stands what was found and done, and nothing that is for pressing or choosing.
func TestWhatPrints(t *testing.T) {
	t.Parallel()
	a := start(t, "demo", "--speed", "30")
	p := a.open(browse(t), "/", 800, 1100)
	shop, deck, kitchen := p.demoMachine("Corner shop"), p.demoMachine("Ferry tea deck"),
		p.demoMachine("Observatory kitchen")
	p.must(proto.EmulationSetEmulatedMedia{Media: "print"}.Call(p.Page))
	for path, text := range map[string]string{
		"/log":                              "First dirty water",
		"/machines/" + kitchen + "/mix":     "Observatory kitchen",
		"/today":                            "Where to be, when",
		"/machines/" + shop + "/report":     "What was done",
		"/machines/" + shop + "/card":       "Soak baskets and handles",
		"/machines/" + deck + "/wall":       "Before you go",
		"/machines/" + kitchen + "/sitting": "Step by step",
	} {
		p.must(p.Navigate(a.address + path))
		p.until(path+" says "+text, func() bool { // innerText is what is shown
			return strings.Contains(strings.ToLower(p.eval(`() => document.body.innerText`)), strings.ToLower(text))
		})
		shown := p.eval(`() => [...document.querySelectorAll('.filters select, .btn, .key, .minor, nav, ' +
			'input:is([type=date], [type=search], [type=file])')].filter((el) =>
			el.checkVisibility({ visibilityProperty: true }) && !el.closest('.sr-only') &&
			el.getBoundingClientRect().width > 1).map((el) => el.outerHTML.slice(0, 90)).join('; ')`)
		if shown != "" {
			t.Errorf("%s: on paper stands %s", path, shown)
		}
	}
	p.must(p.Navigate(a.address + "/log"))
	p.sees("the newest 60 of")
	if blank := p.eval(`() => String([...document.querySelectorAll('.sitting')].filter((el) =>
		!el.querySelector('summary b').checkVisibility()).length)`); blank != "0" {
		t.Errorf("%s lines of the log do not say what was done", blank)
	}
}
