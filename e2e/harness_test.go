// Package e2e drives the real application through a real browser.
package e2e

import (
	"bufio"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/launcher"
	"github.com/go-rod/rod/lib/launcher/flags"
	"github.com/go-rod/rod/lib/proto"
)

// app is one running application.
type app struct {
	t       testing.TB
	address string
	moment
	said string // in the terminal, until it was ready
	time *passing
}

// passing lets time pass at once, for an application and for the pages it was opened on. Who waits for a pump or a soak
// waits no longer than for an answer, and what is looked at meanwhile stands for as long as it would in a kitchen,
// however busy the machine is that the test runs on.
type passing struct {
	file  string // where the application reads what its clock is ahead by
	by    time.Duration
	pages []*page
}

// passes lets so much time pass.
func (a *app) passes(d time.Duration) {
	a.t.Helper()
	if d <= 0 {
		return
	}
	d = d.Truncate(time.Millisecond) + 20*time.Millisecond // clearly past it
	// No answer of the old time may come to a page of the new one: each page has all its answers first, and asks no more
	// until the application is there, too. A page that was closed minds no more.
	for _, p := range a.time.pages {
		_, _ = p.Eval(`async (ms) => {
			for (let i = 0; i < 200 && asks.away > 0; i++) await new Promise((done) => setTimeout(done, 10))
			asks.stand = new Promise((done) => (asks.goOn = done))
			asks.shown = document.querySelector('[data-left]')?.dataset.left
			timePassed += ms
			try { sessionStorage.setItem('timePassed', timePassed) } catch { /* it is on no page of the application's */ }
		}`, d.Milliseconds())
	}
	a.time.by += d
	err := os.WriteFile(a.time.file+".new", fmt.Appendf(nil, "%.3f", a.time.by.Seconds()), 0o600)
	if err == nil {
		err = os.Rename(a.time.file+".new", a.time.file)
	}
	if err != nil {
		a.t.Fatal(err)
	}
	for _, p := range a.time.pages {
		// what counts down is waited for until it shows it
		_, _ = p.Eval(`async () => {
			asks.goOn?.()
			const left = () => document.querySelector('[data-left]')?.dataset.left
			for (let i = 0; Number(asks.shown) > 0 && left() === asks.shown && i < 150; i++)
				await new Promise((done) => setTimeout(done, 10))
		}`)
	}
}

// now is what the clocks show.
func (a *app) now() time.Time { return a.moment.now().Add(a.time.by) }

// moment is what the clocks of the application and of its browsers show, and where.
type moment struct {
	ahead time.Duration // of the clock of the machine that the test runs on
	zone  *time.Location
	from  time.Time // when it was taken
}

// noon is an ordinary one. Whatever the hour at which the tests run, this is the one
// they see.
func noon(t testing.TB) moment { return at(t, "12:00", "Europe/Lisbon") }

// at is a time of an ordinary day in a zone.
func at(t testing.TB, clock, zone string) moment {
	t.Helper()
	where, err := time.LoadLocation(zone)
	if err != nil {
		t.Fatal(err)
	}
	when, err := time.ParseInLocation("2006-01-02 15:04", "2026-03-10 "+clock, where)
	if err != nil {
		t.Fatal(err)
	}
	return moment{time.Until(when), where, when}
}

// now is what the clocks show.
func (m moment) now() time.Time { return time.Now().Add(m.ahead).In(m.zone) }

// whatever runs a test that minds the clock shortly after midnight, before and about the
// hour at which a machine's day turns, at noon and at the end of the day, and in zones
// far apart.
func whatever(t *testing.T, test func(*testing.T, moment)) {
	zones := []string{"Europe/Lisbon", "Pacific/Auckland", "America/St_Johns"}
	for i, clock := range []string{"00:30", "03:59", "12:00", "23:59"} {
		zone := zones[i%len(zones)]
		t.Run(clock+" in "+zone, func(t *testing.T) {
			t.Parallel()
			test(t, at(t, clock, zone))
		})
	}
}

// start runs the built binary at noon, on a free port, and stops it with the test.
func start(t testing.TB, args ...string) *app {
	t.Helper()
	return noon(t).start(t, args...)
}

func (m moment) start(t testing.TB, args ...string) *app {
	t.Helper()
	file := filepath.Join(t.TempDir(), "test.db")
	if args[0] == "demo" {
		m.copyDemo(t, file)
		args = append(args, "--keep")
	}
	a, cmd := m.launch(t, append(args, "--port", "0", "--db", file)...)
	t.Cleanup(func() {
		_ = cmd.Process.Signal(os.Interrupt)
		if err := cmd.Wait(); err != nil {
			t.Errorf("the server did not stop cleanly: %v", err)
		}
	})
	return a
}

// demos are the files of the demo as it is made at a moment: many tests begin from the same one, and filling it takes
// longer than most of them.
var demos sync.Map

// copyDemo puts the demo as it is made at the moment into a file.
func (m moment) copyDemo(t testing.TB, file string) {
	t.Helper()
	made, _ := demos.LoadOrStore(m.from.Format(time.RFC3339)+" "+m.zone.String(), sync.OnceValues(func() ([]byte, error) {
		dir, err := os.MkdirTemp("", "freshanvil-demo")
		if err != nil {
			return nil, err
		}
		defer os.RemoveAll(dir)
		first := filepath.Join(dir, "demo.db")
		then := moment{time.Until(m.from), m.zone, m.from}
		_, cmd := then.launch(t, "demo", "--port", "0", "--db", first)
		_ = cmd.Process.Signal(os.Interrupt)
		if err := cmd.Wait(); err != nil {
			return nil, err
		}
		if _, err := os.Stat(first + "-wal"); err == nil {
			return nil, errors.New("the demo left a log beside its file")
		}
		return os.ReadFile(first)
	}))
	data, err := made.(func() ([]byte, error))()
	if err == nil {
		err = os.WriteFile(file, data, 0o600)
	}
	if err != nil {
		t.Fatal(err)
	}
}

// launch runs the built binary and waits for its address.
func (m moment) launch(t testing.TB, args ...string) (*app, *exec.Cmd) {
	t.Helper()
	passed := &passing{file: filepath.Join(t.TempDir(), "ahead")}
	if err := os.WriteFile(passed.file, []byte("0"), 0o600); err != nil {
		t.Fatal(err)
	}
	return m.run(t, passed, args...)
}

// again runs it anew where it ran, at the time that it is by now.
func (a *app) again(args ...string) *exec.Cmd {
	a.t.Helper()
	port := a.address[strings.LastIndex(a.address, ":")+1:]
	_, cmd := a.moment.run(a.t, a.time, append(args, "--port", port)...)
	return cmd
}

func (m moment) run(t testing.TB, passed *passing, args ...string) (*app, *exec.Cmd) {
	t.Helper()
	binary, err := filepath.Abs("../bin/freshanvil")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := os.Stat(binary); err != nil {
		t.Fatalf("%v: run make build first", err)
	}
	args = append(args, "--clock", m.now().Format(time.RFC3339Nano), "--ahead", passed.file)
	cmd := exec.Command(binary, args...)
	cmd.Env = append(os.Environ(), "TZ="+m.zone.String())
	cmd.Stderr = os.Stderr
	out, err := cmd.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	if err := cmd.Start(); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = cmd.Process.Kill() }) // whatever else fails
	said, lines := "", bufio.NewReader(out)
	for {
		line, err := lines.ReadString('\n')
		said += line
		if address, is := strings.CutPrefix(line, "Fresh Anvil is at "); is {
			return &app{t, strings.TrimSpace(address), m, said, passed}, cmd
		}
		if err != nil {
			t.Fatalf("the server printed %q, %v: no address", said, err)
		}
	}
}

// wire is a connection that can be cut: a proxy on its way to an application.
type wire struct {
	mu    sync.Mutex
	cut   bool
	open  map[net.Conn]bool
	front net.Listener
}

// over puts a wire in front of an application; the test takes it away.
func (a *app) over() (*app, *wire) {
	a.t.Helper()
	front, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		a.t.Fatal(err)
	}
	w := &wire{open: map[net.Conn]bool{}, front: front}
	a.t.Cleanup(func() {
		_ = front.Close()
		w.breaks(true)
	})
	scheme, back, _ := strings.Cut(a.address, "://")
	go func() {
		for {
			in, err := front.Accept()
			if err != nil {
				return
			}
			out, err := net.Dial("tcp", back)
			w.mu.Lock()
			if err != nil || w.cut {
				w.mu.Unlock()
				_ = in.Close()
				if out != nil {
					_ = out.Close()
				}
				continue
			}
			w.open[in], w.open[out] = true, true
			w.mu.Unlock()
			for _, pair := range [][2]net.Conn{{in, out}, {out, in}} {
				go func() {
					_, _ = io.Copy(pair[0], pair[1])
					_ = pair[0].Close()
					_ = pair[1].Close()
				}()
			}
		}
	}()
	return &app{a.t, scheme + "://" + front.Addr().String(), a.moment, a.said, a.time}, w
}

// breaks cuts the wire or mends it.
func (w *wire) breaks(cut bool) {
	w.mu.Lock()
	defer w.mu.Unlock()
	w.cut = cut
	if cut {
		for c := range w.open {
			_ = c.Close()
			delete(w.open, c)
		}
	}
}

// get reads a document of the API.
func (a *app) get(path string, into any) {
	a.t.Helper()
	res, err := http.Get(a.address + path)
	if err != nil {
		a.t.Fatal(err)
	}
	defer res.Body.Close()
	body, _ := io.ReadAll(res.Body)
	if res.StatusCode != http.StatusOK {
		a.t.Fatalf("%s: %s %s", path, res.Status, body)
	}
	if err := json.Unmarshal(body, into); err != nil {
		a.t.Fatal(err)
	}
}

// browse opens a browser for one test.
func browse(t testing.TB, more ...string) *rod.Browser {
	t.Helper()
	bin := os.Getenv("CHROMIUM")
	if bin == "" {
		bin, _ = exec.LookPath("chromium")
	}
	if bin == "" {
		t.Fatal("no Chromium: run make test, which installs it")
	}
	data, err := os.MkdirTemp("", "freshanvil-browser")
	if err != nil {
		t.Fatal(err)
	}
	l := launcher.New().Bin(bin).Leakless(false).Headless(true).UserDataDir(data)
	more = append(more, "no-sandbox", "disable-gpu", "disable-quic", "no-first-run", "disable-background-networking",
		"disable-component-update", "disable-sync")
	for _, flag := range more {
		l = l.Set(flags.Flag(flag))
	}
	control, err := l.Launch()
	if err != nil {
		t.Fatal(err)
	}
	b := rod.New().ControlURL(control)
	if err := b.Connect(); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		_ = b.Timeout(5 * time.Second).Close()
		l.Kill()
		_ = os.RemoveAll(data)
	})
	return b
}

// page is a browser tab with short words for what a person does.
type page struct {
	t testing.TB
	*rod.Page
	app *app
}

func (a *app) open(b *rod.Browser, path string, width, height int) *page {
	a.t.Helper()
	tab, err := b.Page(proto.TargetCreateTarget{URL: "about:blank"})
	if err != nil {
		a.t.Fatal(err)
	}
	tab = tab.Timeout(3 * time.Minute)
	p := &page{a.t, tab, a}
	a.time.pages = append(a.time.pages, p)
	p.must(proto.EmulationSetTimezoneOverride{TimezoneID: a.zone.String()}.Call(tab))
	_, err = tab.EvalOnNewDocument(fmt.Sprintf(`{
		const Real = Date, ahead = %d, real = performance.now.bind(performance)
		globalThis.timePassed = %d
		try { timePassed = Number(sessionStorage.getItem('timePassed') ?? timePassed) } catch { /* a page of nobody's */ }
		globalThis.Date = class extends Real {
			constructor(...at) { if (at.length > 0) super(...at); else super(Date.now()) }
			static now() { return Real.now() + ahead + timePassed }
		}
		performance.now = () => real() + timePassed
		const send = globalThis.fetch
		globalThis.asks = { away: 0, stand: undefined }
		globalThis.sending = 0
		globalThis.fetch = async (what, how) => {
			const presses = (how?.method ?? what.method ?? 'GET') !== 'GET'
			if (presses) sending++
			await asks.stand
			asks.away++
			try {
				const answer = await send(what, how)
				if (answer.body && !answer.headers.get('content-type')?.includes('event-stream')) await answer.clone().arrayBuffer()
				return answer
			} finally {
				setTimeout(() => asks.away--, 30) // the page has read it by then
				if (presses) sending--
			}
		}
	}`, a.ahead.Milliseconds(), a.time.by.Milliseconds()))
	p.must(err)
	p.must(
		tab.SetViewport(
			&proto.EmulationSetDeviceMetricsOverride{
				Width:             width,
				Height:            height,
				DeviceScaleFactor: 1,
				Mobile:            width < 500,
			},
		),
	)
	p.must(tab.Navigate(a.address + path))
	p.must(tab.WaitLoad())
	return p
}

// Navigate goes to another page, once what was pressed on this one has been answered; what is never answered is left.
func (p *page) Navigate(address string) error {
	for range 100 {
		if is, err := p.Eval(`() => window.sending ?? 0`); err != nil || is.Value.Int() == 0 {
			break
		}
		time.Sleep(50 * time.Millisecond)
	}
	return p.Page.Navigate(address)
}

func (p *page) must(err error) {
	p.t.Helper()
	if err != nil {
		p.t.Fatal(err)
	}
}

// sees waits until the text is on the page.
func (p *page) sees(text string) {
	p.t.Helper()
	if _, err := p.Page.Timeout(30*time.Second).ElementR("body", regexpQuote(text)); err != nil {
		body, _ := p.Page.Element("body")
		now := "nothing"
		if body != nil {
			now, _ = body.Text()
		}
		p.t.Fatalf("never saw %q; the page says:\n%s", text, now)
	}
}

// step waits until a run stands at the step whose big words hold the text.
func (p *page) step(text string) {
	p.t.Helper()
	p.until("the step "+text, func() bool {
		return strings.Contains(p.eval(`() => document.querySelector('h1')?.textContent ?? ''`), text)
	})
}

// soon waits for a condition, and lets pass what a run counts down meanwhile.
func (p *page) soon(what string, ok func() bool) {
	p.t.Helper()
	p.until(what, func() bool {
		left := p.counted() // read first: what begins after the look is not to be passed over
		if ok() {
			return true
		}
		p.app.passes(left)
		return false
	})
}

// comes waits so until a run stands at that step.
func (p *page) comes(text string) {
	p.t.Helper()
	p.soon("the step "+text, func() bool { return strings.Contains(p.heading(), text) })
}

// counting is for how many seconds the present step counts down yet, by the clock on the wall.
const counting = `((document.querySelector('[data-left]')?.dataset.left ?? 0) /
	(document.querySelector('.where')?.textContent.match(/at (\d+) times the speed/)?.[1] ?? 1)).toFixed(3)`

// counted is what it counts down yet.
func (p *page) counted() time.Duration {
	p.t.Helper()
	return p.seconds(p.eval(`() => ` + counting))
}

// seconds reads a number of them.
func (p *page) seconds(text string) time.Duration {
	p.t.Helper()
	d, err := time.ParseDuration(text + "s")
	p.must(err)
	return d
}

// click presses the button, link or label with the text.
func (p *page) click(selector, text string) {
	p.t.Helper()
	el, err := p.Page.Timeout(30*time.Second).ElementR(selector, regexpQuote(text))
	if err != nil {
		p.t.Fatalf("no %s says %q: %v", selector, text, err)
	}
	p.front()
	// as a person would: not before what was pressed last is answered and the page stands still, if it ever does
	_, _ = el.Eval(`async () => {
		for (let i = 0; i < 20 && window.sending > 0; i++) await new Promise((done) => setTimeout(done, 50))
		for (let i = 0; i < 30 && this.closest('.keys') && document.querySelector('.keys[data-fresh]'); i++)
			await new Promise((done) => setTimeout(done, 50)) // a key that has just changed its meaning takes no press
		let was = ''
		for (let i = 0; i < 12; i++) {
			const { x, y, width, height } = this.getBoundingClientRect(), is = [x, y, width, height].join()
			if (is === was) return
			was = is
			await new Promise((done) => setTimeout(done, 16))
		}
	}`)
	for range 5 {
		_, _ = el.Eval(`() => {
			window.landed = 'nowhere'
			addEventListener('click', (e) => {
				window.landed = this.contains(e.target) ? 'here' : e.target.closest('a, button, label, summary') ?? 'nowhere'
			}, { capture: true, once: true })
		}`)
		p.must(el.Click(proto.InputMouseButtonLeft, 1))
		// what the page moved under the finger is pressed again
		where, err := p.Eval(`() => String(window.landed?.outerHTML ?? window.landed)`)
		if err != nil || where.Value.Str() != "nowhere" {
			if err == nil && where.Value.Str() != "here" && where.Value.Str() != "undefined" {
				p.t.Fatalf("%q was to be pressed, and the press landed on %s", text, where.Value.Str())
			}
			return
		}
	}
	p.t.Fatalf("%q could not be pressed: the page moves on under every press", text)
}

// unfold opens what is folded under a heading.
func (p *page) unfold(title string) {
	p.t.Helper()
	p.until("something to unfold: "+title, func() bool {
		return p.eval(`(title) => { const d = [...document.querySelectorAll('details')].find((d) =>
			d.querySelector(':scope > summary')?.textContent.includes(title))
			if (!d) return 'no'
			if (!d.open) d.querySelector(':scope > summary').click()
			return d.open ? 'open' : 'no' }`, title) == "open"
	})
}

// job opens one task on a machine's page.
func (p *page) job(title string) {
	p.t.Helper()
	p.unfold("Every job, with its date")
	p.unfold(title)
}

// fillIn types into the field inside the label that begins with the text.
func (p *page) fillIn(label, text string) {
	p.t.Helper()
	el, err := p.Page.Timeout(30*time.Second).ElementR("label", "^"+regexpQuote(label))
	if err != nil {
		p.t.Fatalf("no label %q: %v", label, err)
	}
	field, err := el.Element("input")
	p.must(err)
	p.must(field.SelectAllText())
	p.must(field.Input(text))
}

// front brings the tab forward: one behind another gets no frames.
func (p *page) front() {
	p.t.Helper()
	_, err := p.Activate()
	p.must(err)
}

// fill types into the field with the label.
func (p *page) fill(label, text string) {
	p.t.Helper()
	el, err := p.Page.Timeout(30 * time.Second).Element(`input[aria-label="` + label + `"]`)
	if err != nil {
		p.t.Fatalf("no field %q: %v", label, err)
	}
	p.must(el.SelectAllText())
	p.must(el.Input(text))
}

func (p *page) space() {
	p.t.Helper()
	p.eval(`async () => {
		for (let i = 0; i < 30 && document.querySelector('.keys[data-fresh]'); i++)
			await new Promise((done) => setTimeout(done, 50))
	}`)
	p.must(p.Keyboard.Type(input.Space))
}

func (p *page) eval(js string, args ...any) string {
	p.t.Helper()
	v, err := p.Eval(js, args...)
	p.must(err)
	return v.Value.String()
}

// script runs a script in the page's own world, past its content policy.
func (p *page) script(js string) {
	p.t.Helper()
	_, err := proto.RuntimeEvaluate{Expression: js}.Call(p)
	p.must(err)
}

// shot takes a picture of what is on the screen.
func (p *page) shot(file string) {
	p.t.Helper()
	p.front()
	png, err := p.Screenshot(false, &proto.PageCaptureScreenshot{Format: proto.PageCaptureScreenshotFormatPng})
	p.must(err)
	p.must(os.MkdirAll(filepath.Dir(file), 0o755))
	p.must(os.WriteFile(file, png, 0o644))
}

func regexpQuote(text string) string {
	special := `\.+*?()|[]{}^$/`
	var b strings.Builder
	for _, r := range text {
		if strings.ContainsRune(special, r) {
			b.WriteByte('\\')
		}
		b.WriteRune(r)
	}
	return b.String()
}

// until waits for a condition that needs no element.
func (p *page) until(what string, ok func() bool) {
	p.t.Helper()
	for end := time.Now().Add(30 * time.Second); time.Now().Before(end); time.Sleep(80 * time.Millisecond) {
		if ok() {
			return
		}
	}
	p.t.Fatal(fmt.Sprint("never came: ", what))
}
