package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod"
)

// TestScreenshots draws the pictures of the README from demo data:
// make screenshots.
func TestScreenshots(t *testing.T) {
	dir := os.Getenv("SHOTS")
	if dir == "" {
		t.Skip("SHOTS names no folder; make screenshots sets it")
	}
	a := start(t, "demo", "--speed", "3") // slow enough to catch a pulse
	b := browse(t)
	to := func(name string) string { return filepath.Join(dir, name+".png") }
	settle := func() { time.Sleep(400 * time.Millisecond) }

	sheet := a.open(b, "/", 1280, 800)
	sheet.must(sheet.Navigate(a.address + "/machines/" + sheet.demoMachine("Observatory kitchen") + "/sitting"))
	sheet.sees("Step by step")
	settle()
	sheet.shot(to("sheet"))

	tape := a.open(b, "/", 1280, 800)
	tape.must(tape.Navigate(a.address + "/machines/" + tape.demoMachine("Observatory kitchen") + "/tape"))
	tape.sees("In one sitting")
	settle()
	tape.shot(to("tape"))

	bench := a.open(b, "/", 1280, 800)
	bench.sees("Observatory kitchen")
	settle()
	bench.shot(to("bench"))
	small := a.open(b, "/", 390, 844)
	small.sees("Observatory kitchen")
	settle()
	small.shot(to("bench-phone"))

	mix := a.open(b, "/mix", 1280, 800)
	mix.sees("Why this much")
	settle()
	mix.shot(to("mix"))

	five := a.open(b, "/machines/new", 1280, 800)
	answerFive(five)
	five.sees("every 50 shots")
	settle()
	five.must(rod.Try(func() { five.MustEval(`() => window.scrollTo(0, 0)`) }))
	five.shot(to("answers"))

	schools := a.open(b, "/", 1280, 800)
	schools.click("a", "Ferry tea deck")
	schools.click("a", "How often, and how")
	schools.sees("How it went so far")
	settle()
	schools.shot(to("schools"))

	water := a.open(b, "/", 1280, 800)
	water.click("a", "Ferry tea deck")
	water.click("a", "Its water")
	water.sees("Ways to treat the water")
	settle()
	water.shot(to("water"))
	water.must(water.Navigate(a.address + "/"))
	water.click(`article[aria-label="Bench loaner"] a`, "Bench loaner")
	water.click("a", "Descale card")
	water.sees("Circuit by circuit")
	settle()
	water.shot(to("descale-card"))

	bench.click("a", "Observatory kitchen")
	bench.sees("Change the answers")
	settle()
	bench.shot(to("machine"))
	bench.click(".ruler button", "+")
	bench.sees("How it was worked out")
	settle()
	bench.shot(to("how-it-was-worked-out"))

	run := a.open(b, "/", 1280, 800)
	run.sees("Observatory kitchen")
	run.click(`article[aria-label="Observatory kitchen"] button`, "Start the wash")
	run.step("Get ready")
	run.space()
	goOn(run, "Brush and flush", "Water first")
	run.step("tsp")
	run.space()
	run.step("Detergent pulses")
	run.space()
	run.until(
		"ON",
		func() bool { return run.eval(`() => document.querySelector('.word')?.textContent ?? ''`) == "ON" },
	)
	time.Sleep(700 * time.Millisecond)
	run.shot(to("run-on"))
	run.until(
		"OFF",
		func() bool { return run.eval(`() => document.querySelector('.word')?.textContent ?? ''`) == "OFF" },
	)
	run.step("The first dirty water")
	run.click(".picks label", "brown")
	run.space()
	run.step("Empty the blind")
	run.space()
	run.step("Water pulses")
	run.space()
	run.step("Look in the cup")
	pickClear(run)
	run.space()
	run.step("Basket back")
	run.space()
	goOn(run, "Wipe the outside", "Pour the first shot away")
	run.step("Washed.")

	log := a.open(b, "/log", 1280, 800)
	log.sees("Detergent wash")
	log.must(rod.Try(func() { log.MustEval(`() => document.documentElement.dataset.theme = 'night'`) }))
	settle()
	log.shot(to("log-night"))

	walk := a.open(b, "/", 1280, 800)
	walk.must(walk.Navigate(a.address + "/machines/" + walk.demoMachine("Corner shop") + "/walk"))
	walk.step("How does it stand there now?")
	walk.click("button", "Off, unplugged")
	for n := 0; n < 30 && !(strings.Contains(walk.heading(), "The screen") &&
		walk.eval(`() => document.querySelector('.looks .label-voice').textContent`) >= "Corner shop, group 2"); n++ {
		last := walk.eval(`() => document.querySelector('.label-voice').textContent`)
		walk.click("button", "Can’t tell")
		walk.until("the next look", func() bool {
			return walk.eval(`() => document.querySelector('.label-voice').textContent`) != last
		})
	}
	walk.click("button.card", "Some holes blocked")
	walk.sees("What it moves")
	settle()
	walk.shot(to("walk"))

	rest := a.open(b, "/", 1280, 800)
	rest.must(rest.Navigate(a.address + "/machines/" + rest.demoMachine("Ferry tea deck") + "/rest"))
	rest.step("Close it down on")
	settle()
	rest.shot(to("rest"))

	wrong := a.open(b, "/", 1280, 800)
	shopID := wrong.demoMachine("Corner shop")
	wrong.must(wrong.Navigate(a.address + "/machines/" + shopID + "/diagnose?symptom=weak_steam"))
	wrong.sees("I cannot tell")
	settle()
	wrong.shot(to("diagnose"))

	shop := a.open(b, "/", 1180, 820)
	shop.must(shop.Navigate(a.address + "/machines/" + shop.demoMachine("Corner shop") + "/bar"))
	shop.sees("The nights before")
	shop.click(".tall", "Done")
	shop.sees("2 to do")
	settle()
	shop.shot(to("bar"))

	left := a.open(b, "/", 1280, 800)
	left.click(`article[aria-label="Corner shop"] button`, "Start the wash")
	for _, step := range []string{"Get ready", "Brush and flush", "Water first", "tsp"} {
		left.step(step)
		left.space()
	}
	left.step("Detergent pulses")
	left.click("button", "I cannot go on")
	left.click("dialog button", "Stop, detergent left in")
	left.step("Stopped, unsafe")
	left.addMachines(35)
	left.must(left.Navigate(a.address + "/"))
	left.sees("40 of 40 machines")
	settle()
	left.shot(to("bench-many"))

	paper := a.open(b, "/", 1280, 800)
	paper.must(paper.Navigate(a.address + "/machines/" + paper.demoMachine("Observatory kitchen") +
		"/report?from=2026-01-20"))
	paper.sees("What was found")
	settle()
	paper.shot(to("report"))
}
