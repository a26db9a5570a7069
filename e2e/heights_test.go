package e2e

import (
	"fmt"
	"strconv"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/proto"
)

// tall is how high a machine's pages stood on a phone before they were folded, by layout: of the machine, its water and
// its schools, px at 390 wide. They may be half of it.
var tall = map[string][3]int{
	"thermoblock":   {12115, 6086, 6745},
	"single_boiler": {12157, 6134, 6745},
	"hx_home":       {13977, 6154, 6745},
	"dual_home":     {14779, 6502, 6745},
	"lever_cam":     {14556, 6154, 7405},
	"lever_manual":  {10602, 6134, 2049},
	"hx_cafe":       {17555, 6388, 6795},
	"multi_cafe":    {17168, 6388, 6795},
}

// tallDescale is the same of a descale card that is led.
var tallDescale = map[string]int{"thermoblock": 4818, "lever_manual": 4802}

// TestPagesAreHalfAsTall: on a phone, by layout; and nothing runs over the edge at 320 px, or at 1280 px magnified to
// twice the size, which is 640 px wide.
func TestPagesAreHalfAsTall(t *testing.T) {
	t.Parallel()
	a := start(t, "serve")
	p := a.open(browse(t), "/", 390, 844)
	size := func(width int) {
		p.must(p.SetViewport(&proto.EmulationSetDeviceMetricsOverride{Width: width, Height: 844, DeviceScaleFactor: 1}))
	}
	height := func() int {
		h, _ := strconv.Atoi(p.eval(`() => String(document.documentElement.scrollHeight)`))
		return h
	}
	fits := func(what string) {
		t.Helper()
		for _, width := range []int{320, 640} {
			size(width)
			if over := p.eval(`() => document.documentElement.scrollWidth - innerWidth + ' ' +
				([...document.querySelectorAll('main *')].find((e) => e.getBoundingClientRect().right > innerWidth + 1 &&
					!e.closest('[class*=scroll], .sr-only, svg'))?.outerHTML.slice(0, 120) ?? '')`); over[0] != '0' &&
				over[0] != '-' {
				t.Errorf("%s at %d px: %s px over the edge", what, width, over)
			}
		}
		size(390)
	}
	for layout, before := range tall {
		id := p.kept(layout)
		pages := []struct {
			path, shows string
			before      int
		}{{"", "This year:", before[0]}, {"/water", "Ways to treat the water", before[1]},
			{"/schools", "side by side", before[2]}}
		if was := tallDescale[layout]; was > 0 {
			pages = append(pages, struct {
				path, shows string
				before      int
			}{"/descale", "Before you touch it", was})
		}
		for _, page := range pages {
			if layout == "lever_manual" && page.path == "/schools" {
				page.shows = "By hand: how often"
			}
			p.must(p.Navigate(a.address + "/machines/" + id + page.path))
			p.sees(page.shows)
			now := 0
			p.until("the last answer has come: "+page.path, func() bool {
				was := now
				time.Sleep(150 * time.Millisecond)
				now = height()
				return now == was
			})
			if now > page.before/2 {
				t.Errorf("%s%s: %d px, was %d", layout, page.path, now, page.before)
			}
			t.Logf("%s%s: %d px, was %d", layout, page.path, now, page.before)
			if layout == "dual_home" || layout == "hx_cafe" {
				fits(fmt.Sprint(layout, page.path))
			}
		}
	}
	for path, shows := range map[string]string{"/": "Trial", "/machines/new": "How is it built?",
		"/machines/many": "From a file", "/log": "Log", "/mix": "Why this much", "/preferences": "Currency",
		"/tape": "Later than this strip reaches"} {
		p.must(p.Navigate(a.address + path))
		p.sees(shows)
		fits(path)
	}
}

// kept keeps a machine of a layout of which nothing more is known, and gives its id.
func (p *page) kept(layout string) string {
	p.t.Helper()
	return p.eval(`async (layout) => {
		const id = crypto.randomUUID()
		const cafe = layout.endsWith('cafe')
		const answers = { layout, valve: layout === 'lever_manual' ? 'no' : 'yes', drinks_per_day: cafe ? 200 : 6,
			milk_drinks_per_day: 2, hardness: { known: true, value: 14, unit: 'dh' }, treatment: 'none' }
		const r = await fetch('/api/machines', { method: 'POST', headers: { 'content-type': 'application/json' },
			body: JSON.stringify({ id, name: 'Trial ' + layout, zone: 'Europe/Lisbon', answers }) })
		if (!r.ok) throw new Error(await r.text())
		return id
	}`, layout)
}
