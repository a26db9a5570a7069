package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"
)

// home keeps one machine of 4 drinks a day, through the screens, and goes to
// its page.
func home(t *testing.T, a *app) *page {
	t.Helper()
	p := a.open(browse(t), "/machines/new", 1280, 800)
	answerFive(p)
	p.click("label.key", "It was used before")
	p.sees("nothing is on record")
	p.click("button", "Save this machine")
	p.sees("Nothing on record")
	p.click("h2 a", "Dual boiler, home")
	p.sees("Days nobody is there")
	p.descaled()
	p.must(p.Reload())
	p.sees("Days nobody is there")
	return p
}

// descaled puts on record that the first machine was descaled today.
func (p *page) descaled() {
	p.t.Helper()
	status := p.eval(`async () => {
		const id = (await (await fetch('/api/bench')).json()).machines[0].id
		const body = JSON.stringify({ id: crypto.randomUUID(), task: 'descale', parts: ['machine'],
			at: new Date().toISOString() })
		return String((await fetch('/api/machines/' + id + '/care', { method: 'POST', headers: {
			'content-type': 'application/json' }, body })).status)
	}`)
	if status != "201" {
		p.t.Fatalf("descaled: %s", status)
	}
}

// A school is chosen and taken back; another pairing and own numbers are shown
// before they are chosen; the next wash is done by the method chosen.
func TestSchoolChangedAndBack(t *testing.T) {
	t.Parallel()
	a := start(t, "serve", "--speed", "60")
	p := home(t, a)
	p.click("a", "How often, and how")
	p.sees("Every 12.5 days")
	p.unfold("The schools side by side")
	p.click(`[aria-label="Choose Weekly soak"]`, "Choose")
	p.sees("Weekly soak: every 7 days")
	p.unfold("How it went so far")
	p.click("button", "undo")
	p.sees("By use: every 50 shots")
	if gone := p.eval(`() => document.querySelectorAll('.line-through').length`); gone != "1" {
		t.Errorf("%s changes are struck out, want the one that was taken back", gone)
	}
	p.unfold("Another pairing")
	p.must(p.MustElement(".pair label:first-child select").Select([]string{"Three-pulse method"}, true, "text"))
	p.must(p.MustElement(".pair label:nth-child(2) select").Select([]string{"own numbers"}, true, "text"))
	p.sees("Own is missing")
	p.fill("shots", "2")
	p.sees("Allowed: a number from 5 to 1000")
	p.fill("shots", "40")
	p.sees("every 40 shots or 30 days")
	p.click("button", "Choose this pairing")
	p.sees("Own pairing: every 40 shots")
	p.unfold("Water only, in between")
	p.click(`[aria-label="Choose Every day"]`, "Choose") // water only, every day
	p.until("the water chosen", func() bool {
		return strings.Contains(
			p.eval(`() => [...document.querySelectorAll('li.chosen')].map((l) => l.textContent).join()`),
			"Every day",
		)
	})
	p.click("button", "Oily beans")
	p.click("a", "Dual boiler, home")
	p.click("button", "Start the wash")
	goOn(p, "Get ready", "Brush and flush", "Water first")
	p.step("tsp")
	p.sees("2 g")
	p.space()
	goOn(p, "Detergent pulses")
	firstDischarge(p, "dark")
	goOn(p, "Empty the blind", "Water pulses")
	p.step("Look in the cup")
	pickClear(p)
	p.space()
	p.step("Water over the rim")
	p.sees("Never unlock the handle while the pump runs")
	p.space()
	goOn(p, "Basket back", "Wipe the outside", "Pour the first shot away")
	p.step("Washed.")
	p.sees("3 pulses with it, 7 of water")
	p.sees("Wash more often: every 28 shots")
	p.click("button", "Use this interval")
	p.sees("Taken: every 28 shots")
	p.click("button", "Undo")
	p.sees("Wash more often: every 28 shots")
}

// The machine's own counter after a month, and a holiday entered.
func TestCounterAndHoliday(t *testing.T) {
	whatever(t, counterAndHoliday)
}

func counterAndHoliday(t *testing.T, when moment) {
	a := when.start(t, "serve")
	p := home(t, a)
	p.unfold("Already done")
	p.click("details button", "a month ago")
	p.sees("Overdue") // 4 drinks a day were said
	p.unfold("own counter")
	p.fillIn("It shows", "200")
	p.click("label.pick", "went back to 0")
	p.click("button", "Save the reading")
	p.sees("100 drinks since") // each with a flush that counts too
	p.unfold("Use, newest first")
	p.sees("100 doubles, since")
	p.fillIn("It shows", "10")
	p.sees("counted on")
	p.click("button", "Save the reading")
	p.sees("Allowed: 200 or more, as the reading before; or say that the counter was reset")
	p.unfold("Already done")
	p.click("details button", "today")
	likely := func() time.Time {
		var bench struct{ Machines []struct{ ID string } }
		a.get("/api/bench", &bench)
		var machine struct {
			Plan struct {
				Dues []struct {
					Task   string
					Likely time.Time
				}
			}
		}
		a.get("/api/machines/"+bench.Machines[0].ID, &machine)
		for _, d := range machine.Plan.Dues {
			if d.Task == "wash" {
				return d.Likely
			}
		}
		t.Fatal("no wash is due")
		return time.Time{}
	}
	p.until("the wash on record", func() bool { return likely().Sub(when.now()) > 48*time.Hour })
	before := likely()
	p.unfold("Days nobody is there")
	for i, ahead := range []int{1, 10} {
		field, err := p.ElementR("label", "^"+[]string{"First day", "Last day"}[i])
		p.must(err)
		input, err := field.Element("input")
		p.must(err)
		p.must(input.InputTime(when.now().AddDate(0, 0, ahead)))
	}
	p.fillIn("What for", "boat out of the water")
	p.click("button", "Save the days")
	p.sees("boat out of the water")
	if moved := likely(); moved.Sub(before) < 12*time.Hour {
		t.Errorf("the date was %v and is %v with a holiday ahead", before, moved)
	}
	p.click("li button", "undo")
	p.until(
		"the holiday gone",
		func() bool { return likely().Sub(before).Abs() < time.Hour },
	) // it moves with the clock
}

// A file with bad rows is refused line by line and nothing is kept; mended, it
// is taken; the same file again changes nothing.
func TestImportWithBadRowsAndAgain(t *testing.T) {
	whatever(t, importWithBadRowsAndAgain)
}

func importWithBadRowsAndAgain(t *testing.T, when moment) {
	a := when.start(t, "serve")
	p := home(t, a)
	day := func(ago int) string { return when.now().AddDate(0, 0, -ago).Format(time.DateOnly) }
	pick := func(text string) {
		t.Helper()
		file := filepath.Join(t.TempDir(), "use.csv")
		p.must(os.WriteFile(file, []byte(text), 0o600))
		input, err := p.Element(`input[type="file"]`)
		p.must(err)
		p.must(input.SetFiles([]string{file}))
	}
	p.unfold("Use from a file")
	p.unfold("Use, newest first")
	pick(fmt.Sprintf("date,double,milk\n%s,5,3\n%s,five,3\n%s,2,1\n", day(4), day(3), day(2)))
	p.sees("1 line cannot be taken, so nothing is.")
	p.sees("line 3")
	p.sees("Allowed: a number from 0 to 2000.")
	p.sees("Nothing was logged yet")
	good := fmt.Sprintf("date,double,milk\n%s,5,3\n%s,2,1\n", day(4), day(3))
	pick(good)
	p.sees("11 drinks")
	p.sees("4 new, 0 corrected, 0 there already")
	p.click("button", "Save it all")
	p.sees("Saved.")
	p.sees("5 doubles")
	row := p.eval(`() => [...document.querySelectorAll('li')].find((l) => l.innerText.includes('5 doubles')).innerText`)
	if strings.Contains(row, "04:00") || !strings.Contains(row, when.now().AddDate(0, 0, -4).Format("2 Jan")) {
		t.Errorf("a day of the file is shown as %q", row)
	}
	pick(good)
	p.sees("0 new, 0 corrected, 4 there already")
	p.click("button", "Save it all")
	p.sees("Nothing changed.")
	p.click("li button", "undo")
	p.until("one taken back", func() bool {
		return p.eval(`() => [...document.querySelectorAll('li button')].filter((b) => b.innerText === 'undo').length`) == "3"
	})
	pick(good)
	p.sees("0 new, 0 corrected, 3 there already")
	p.sees("One was taken back or corrected by hand since an earlier file; it stays so.")
	p.click("button", "Save it all")
	p.sees("Nothing changed.")
}

// Today's one job stands alone; the small ones are folded under it, ticked off
// together, and a water backflush can be led.
func TestSmallOnesAreFolded(t *testing.T) {
	whatever(t, smallOnesAreFolded)
}

func smallOnesAreFolded(t *testing.T, when moment) {
	a := when.start(t, "demo", "--speed", "60")
	p := a.open(browse(t), "/", 1280, 800)
	const of = `article[aria-label="Observatory kitchen"] `
	p.sees("Observatory kitchen")
	p.click(`[aria-label="Log use of Observatory kitchen"] button`, "double") // a day of use, whatever the hour
	p.click(of+"summary", "Daily: 5 quick jobs")
	if open := p.eval(`() => document.querySelectorAll('article details[open]').length`); open != "1" {
		t.Errorf("%s folds are open, want the one that was pressed", open)
	}
	p.click(of+"button", "Lead me")
	p.step("Get ready")
	p.space()
	p.step("Blind in")
	p.space()
	goOn(p, "Water pulses", "Basket back")
	p.step("Backflushed.")
	p.sees("5 pulses of water")
	p.click("a", "To the bench")
	p.sees("Detergent wash")
	p.click(of+"summary", "Daily: 4 quick jobs")
	p.click(of+"button", "All of them are done")
	p.until("the fold gone", func() bool {
		return p.eval(
			`() => ![...document.querySelectorAll('article[aria-label="Observatory kitchen"] summary')].some((s) =>
				s.textContent.includes("Daily:"))`,
		) == "true"
	})
	p.must(p.Navigate(a.address + "/log"))
	p.sees("Water backflush")
	p.click("label", "with the small ones")
	p.sees("Empty and wash the tray")
}

// One's own dose and pulses, named: what is out of range is told at once, what is chosen is what the
// run leads.
func TestOwnDose(t *testing.T) {
	t.Parallel()
	a := start(t, "serve", "--speed", "60")
	p := home(t, a)
	p.click("a", "How often, and how")
	p.unfold("Another pairing")
	p.click("label.tick", "My own dose and pulses")
	p.fillIn("Name of your way", "Aunt's way")
	p.fillIn("Powder, g", "9")
	p.sees("Allowed: a number from 0.25 to 6")
	p.fillIn("Powder, g", "1.5")
	p.fillIn("On, seconds", "6")
	p.fillIn("Wash pulses", "4")
	p.sees("Aunt's way: 6 s on, 5 s off, 4 times; 5 with water.")
	p.click("button", "Choose this pairing")
	p.sees("Aunt's way: every 50 shots")
	p.click("a", "Dual boiler, home")
	p.click("button", "Start the wash")
	goOn(p, "Get ready", "Brush and flush", "Water first")
	p.step("tsp")
	p.sees("1.5 g in the blind")
	p.space()
	p.step("Detergent pulses")
	p.sees("1 of 4")
}
