package e2e

import (
	"context"
	"database/sql"
	"math"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	_ "github.com/mattn/go-sqlite3" // to hold the database as another program would
)

// A second browser is told of a press, and what it presses is told to the first,
// which follows then.
func TestTwoBrowsersAgree(t *testing.T) {
	t.Parallel()
	a := start(t, "demo", "--speed", "1")
	p := a.open(browse(t), "/", 1280, 800)
	p.click(`article[aria-label="Observatory kitchen"] button`, "Start the wash")
	p.step("Get ready")
	other := a.open(browse(t), p.eval(`() => location.pathname`), 390, 844)
	other.step("Get ready")
	// told by its stream, at once: a device whose clock stands still does not ask of itself, as it else would in the end
	stands := func(p *page) { p.eval(`() => { const at = performance.now(); performance.now = () => at; return '' }`) }
	stands(other)
	p.front()
	p.space()
	other.step("Brush and flush")
	other.sees("This one follows. Press any button to take control.")
	stands(p)
	other.click("button", "Brushed and flushed")
	p.step("Water first")
	p.sees("Another device has taken over.")
	p.front()
	p.space()
	other.until("ON", func() bool { return word(other) == "ON" })
	p.until("it leads again", func() bool {
		return !strings.Contains(p.eval(`() => document.body.innerText`), "Another device has taken over")
	})
}

// The connection is cut in a pulse: the step goes on, the press is kept, over a
// reload of neither, and taken once when the wire is mended.
func TestConnectionCutInAPulse(t *testing.T) {
	t.Parallel()
	real := start(t, "demo", "--speed", "1")
	a, wire := real.over()
	p := a.open(browse(t), "/", 1280, 800)
	p.click(`article[aria-label="Observatory kitchen"] button`, "Start the wash")
	goOn(p, "Get ready", "Brush and flush", "Water first")
	p.until("ON", func() bool { return word(p) == "ON" })
	wire.breaks(true)
	before, at := left(p)
	a.passes(time.Second)
	if after, now := left(p); word(p) == "ON" && math.Abs(before-after-now.Sub(at).Seconds()) > 0.5 {
		t.Errorf("without connection the pulse stands at %.1f s, was %.1f", after, before)
	}
	p.soon("OFF, by its own clock", func() bool { return word(p) == "OFF" })
	p.space() // pause
	p.sees("Your press is kept and sent again")
	wire.breaks(false)
	p.step("Held")
	var run struct {
		Segment struct{ Kind string }
		Tray    struct{ Has struct{ Value float64 } }
	}
	real.get("/api/runs/"+filepath.Base(p.eval(`() => location.pathname`)), &run)
	// one pulse of 40 mL that counts for nothing, and the 50 mL of the flush
	if run.Segment.Kind != "held" || run.Tray.Has.Value != 90 {
		t.Errorf("after the wire was mended: %+v, want one pulse held, once", run)
	}
}

// The database is held under a press, for longer than the server waits: the page says that
// the server is busy and keeps the press, over a reload too; when the database is free the
// press counts, once.
func TestServerBusyUnderAPress(t *testing.T) {
	t.Parallel()
	file := filepath.Join(t.TempDir(), "busy.db")
	a, server := noon(t).launch(t, "demo", "--port", "0", "--db", file)
	t.Cleanup(func() {
		_ = server.Process.Signal(os.Interrupt)
		_ = server.Wait()
	})
	p := a.open(browse(t), "/", 1280, 800)
	p.click(`article[aria-label="Observatory kitchen"] button`, "Start the wash")
	p.step("Get ready")
	db, err := sql.Open("sqlite3", file)
	p.must(err)
	defer db.Close()
	hold, err := db.Conn(context.Background())
	p.must(err)
	defer hold.Close()
	_, err = hold.ExecContext(context.Background(), "BEGIN IMMEDIATE")
	p.must(err)
	p.space()
	p.sees("The server is busy. Your press is kept and sent again.")
	p.must(p.Reload())
	p.step("Get ready")
	p.sees("Your press is kept and sent again.")
	_, err = hold.ExecContext(context.Background(), "ROLLBACK")
	p.must(err)
	p.step("Brush and flush")
	p.until("nothing on its way", func() bool {
		return !strings.Contains(p.eval(`() => document.body.innerText`), "Your press is kept")
	})
	if at := p.heading(); at != "Brush and flush" {
		t.Errorf("the press counted again: at %s", at)
	}
}

// The server is killed in a soak and started again: nothing is lost, and the
// soak has gone on.
func TestKilledInASoak(t *testing.T) {
	t.Parallel()
	db := filepath.Join(t.TempDir(), "kept.db")
	when := noon(t)
	a, server := when.launch(t, "serve", "--port", "0", "--db", db)
	p := home(t, a)
	p.click("a", "How often, and how")
	p.unfold("The schools side by side")
	p.click(`[aria-label="Choose Weekly soak"]`, "Choose")
	p.sees("Weekly soak: every 7 days")
	p.click("a", "Dual boiler, home")
	p.click("button", "Start the wash")
	goOn(p, "Get ready", "Brush and flush", "Water first", "tsp", "Detergent pulses")
	p.comes("Soak")
	before, at := left(p)
	if err := server.Process.Signal(syscall.SIGKILL); err != nil {
		t.Fatal(err)
	}
	_ = server.Wait()
	a.passes(20 * time.Second)
	launching := time.Now()
	again := a.again("serve", "--db", db)
	// its clock begins when the program does, which on a busy machine is somewhat after it was told the time
	slack := time.Since(launching).Seconds()
	t.Cleanup(func() {
		_ = again.Process.Signal(os.Interrupt)
		_ = again.Wait()
	})
	p.must(p.Reload())
	p.step("Soak")
	after, now := left(p)
	gone := now.Sub(at).Seconds()
	if went := before - after; went > gone+2 || went < gone-2-slack {
		t.Errorf("%.1f seconds were left, %.1f went by, %.1f are left", before, gone, after)
	}
	p.sees("Detergent in group 1")
}

// A shop closes with both groups in one sitting: one group soaks at the side
// while the hands are in the other, and both are written down, from the bench to
// the log.
func TestTwoGroupsSoakInTurn(t *testing.T) {
	t.Parallel()
	a := start(t, "serve")
	p := a.open(browse(t), "/machines/new", 1280, 800)
	p.click("label.key", "Heat exchanger, café")
	p.fill("Drinks a day", "200")
	p.fill("Milk drinks a day", "90")
	p.click("label.key", "I don't know")
	p.click("label.key b", "nothing")
	p.click("label.key", "It was used before")
	p.sees("nothing is on record")
	p.click("button", "Save this machine")
	p.sees("Detergent wash, groups 1 and 2")
	p.click("a", "Heat exchanger, café")
	p.click("a", "How often, and how")
	p.unfold("The schools side by side")
	p.click(`[aria-label="Choose Weekly soak"]`, "Choose")
	p.sees("Weekly soak:")
	p.click("a", "Heat exchanger, café")
	p.sees("Detergent wash, groups 1 and 2") // as the bench says, and for both
	p.sees("Group 1 only")
	p.click("button", "Start the wash")
	p.step("Get ready")
	p.sees("Each group needs its own handle")
	steps, side, late := 0, map[string]bool{}, false
	done := func() bool {
		return strings.Contains(p.eval(`() => document.querySelector('h1')?.textContent ?? ''`), "Washed.")
	}
	for limit := time.Now().Add(3 * time.Minute); !done() && time.Now().Before(limit); {
		counted := p.counted()
		text := p.eval(`() => document.querySelector('h1')?.textContent ?? ''`)
		if soaks := p.eval(`() => document.querySelector('[data-soak]')?.dataset.soak ?? ''`); soaks != "" {
			side[soaks+" beside "+p.eval(`() => document.querySelector('.where b').textContent`)] = true
		}
		late = late ||
			strings.Contains(p.eval(`() => document.querySelector('.meanwhile')?.textContent ?? ''`), "is over")
		switch {
		case strings.Contains(text, "first dirty water"):
			if !picked(p, "pale") {
				continue // the press before was only just answered
			}
		case strings.Contains(text, "Look in the cup"):
			if !picked(p, "clear", "none", "1 to 3") {
				continue
			}
		case word(p) != "" || strings.Contains(text, "Soak"):
			a.passes(counted)
			continue
		}
		p.space()
		steps++
		time.Sleep(60 * time.Millisecond)
	}
	if !done() {
		t.Fatalf("after three minutes: %s", p.eval(`() => document.querySelector('h1')?.textContent ?? ''`))
	}
	if !side["group 1 beside group 2"] || !side["group 2 beside group 1"] {
		t.Errorf("soaks seen at the side: %v", side)
	}
	t.Logf("%d presses, a soak over before anybody came: %v", steps, late)
	p.sees("Written down for each group.")
	p.click("a", "Log")
	p.sees("Detergent wash, groups 1 and 2")
	var log struct {
		Entries []struct {
			Group   int
			Outcome string
		}
	}
	a.get("/api/log", &log)
	if len(log.Entries) != 2 || log.Entries[0].Outcome != "done" || log.Entries[1].Outcome != "done" {
		t.Errorf("log: %+v", log.Entries)
	}
}

// A browser has one stream, whatever the number of its tabs: seven of them are all told what one presses, and when the
// tab that listens is closed the next one does.
func TestTabsShareOneStream(t *testing.T) {
	t.Parallel()
	a := start(t, "demo", "--speed", "1")
	b := browse(t)
	first := a.open(b, "/", 1280, 800)
	first.click(`article[aria-label="Observatory kitchen"] button`, "Start the wash")
	first.step("Get ready")
	path := first.eval(`() => location.pathname`)
	tabs := []*page{first}
	for range 6 {
		p := a.open(b, path, 390, 844)
		p.step("Get ready")
		tabs = append(tabs, p)
	}
	streams := func() (list []*page) {
		for _, p := range tabs {
			if p.eval(`() => performance.getEntriesByName(location.origin + '/api/events').length + ''`) != "0" {
				list = append(list, p)
			}
		}
		return list
	}
	// an open stream has no entry yet: what was asked for is counted by the browser's own list of locks
	held := func(p *page) string {
		return p.eval(`async () => { const q = await navigator.locks.query()
			return q.held.filter((l) => l.name === 'freshanvil.runs').length + ' ' +
				q.pending.filter((l) => l.name === 'freshanvil.runs').length }`)
	}
	first.until("one tab listens, six wait", func() bool { return held(first) == "1 6" })
	if got := streams(); len(got) > 1 {
		t.Errorf("%d streams", len(got))
	}
	first.front()
	first.click("button", "All ready")
	for _, p := range tabs {
		p.step("Brush and flush")
	}
	first.must(first.Close())
	tabs = tabs[1:]
	tabs[0].until("the next one listens", func() bool { return held(tabs[0]) == "1 5" })
	tabs[0].click("button", "Brushed and flushed")
	for _, p := range tabs {
		p.step("Water first")
	}
}

// A phone in a cellar: the network is gone, the page is loaded again, and it plays the step that it last heard, keeps
// the press, and sends it once the network is back.
func TestReloadedWithoutANetwork(t *testing.T) {
	t.Parallel()
	real := start(t, "demo", "--speed", "1")
	a, wire := real.over()
	p := a.open(browse(t), "/", 390, 844)
	p.click(`article[aria-label="Observatory kitchen"] button`, "Start the wash")
	p.step("Get ready")
	p.until("the shell is kept", func() bool {
		return p.eval(`async () => { const c = await caches.open('freshanvil-shell')
			const all = (await c.keys()).map((r) => new URL(r.url).pathname)
			const whole = all.includes('/') && all.some((n) => /Run-.*js/.test(n))
			return navigator.serviceWorker.controller && whole ? 'yes' : 'no' }`) == "yes"
	})
	// R12: what else opens in a tab is not what is shown offline
	for _, other := range []string{"/healthz", "/api/bench"} {
		p.must(p.Navigate(a.address + other))
		p.must(p.NavigateBack())
		p.step("Get ready")
	}
	wire.breaks(true)
	p.must(p.Reload())
	p.step("Get ready")
	p.front()
	p.click("button", "All ready")
	p.sees("Your press is kept and sent again")
	p.must(p.Reload())
	p.step("Get ready")
	p.sees("Your press is kept and sent again")
	wire.breaks(false)
	p.step("Brush and flush")
}
