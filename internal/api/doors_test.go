package api

import (
	"bufio"
	"bytes"
	"context"
	"fmt"
	"image"
	"image/png"
	"log/slog"
	"net"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"testing"
	"testing/fstest"
	"time"

	"freshanvil/core/photo"
	"freshanvil/internal/app"
)

// R2. Who is not let in and sends a login by drops holds nobody else up: the bench and whether the server is well are
// answered meanwhile, and what comes too slowly is let go.
func TestSlowLoginsHoldNobodyUp(t *testing.T) {
	b, _ := guarded(t)
	server := httptest.NewServer(b.handle)
	defer server.Close()
	var open []net.Conn
	for range 150 {
		c, err := net.Dial("tcp", server.Listener.Addr().String())
		if err != nil {
			t.Fatal(err)
		}
		defer c.Close()
		fmt.Fprintf(c, "POST /api/login HTTP/1.1\r\nHost: localhost\r\nContent-Type: application/json\r\n"+
			"Content-Length: 1000\r\n\r\n{")
		open = append(open, c)
	}
	client := &http.Client{Timeout: 3 * time.Second}
	for _, path := range []string{"/healthz", "/api/me"} {
		got, err := client.Get(server.URL + path)
		if err != nil || got.StatusCode != 200 {
			t.Fatalf("%s meanwhile: %v %v", path, got, err)
		}
		_ = got.Body.Close()
	}
	answers := map[string]int{}
	for _, c := range open {
		_ = c.SetReadDeadline(time.Now().Add(bodyWithin + 10*time.Second))
		line, _ := bufio.NewReader(c).ReadString('\n')
		answers[strings.TrimSpace(line)]++
	}
	for line := range answers {
		if !strings.Contains(line, "408") && !strings.Contains(line, "503") {
			t.Errorf("%d are answered %q", answers[line], line)
		}
	}
}

// R2. So many requests of one address, and no more: another address finds its place.
func TestOneAddressLeavesRoomForOthers(t *testing.T) {
	var goes byAddress
	for range mostOfOne {
		if _, ok := goes.take("198.51.100.1", mostOfOne); !ok {
			t.Fatal("not even its share")
		}
	}
	if _, ok := goes.take("198.51.100.1", mostOfOne); ok {
		t.Error("more than its share")
	}
	done, ok := goes.take("198.51.100.2", mostOfOne)
	if !ok {
		t.Fatal("another one is kept out")
	}
	done()
	done() // a second time takes nobody else's place back
	if goes.goes["198.51.100.2"] != 0 || goes.goes["198.51.100.1"] != mostOfOne {
		t.Errorf("%v", goes.goes)
	}
}

// R3. A picture that would take more memory than twelve million pixels at eight bits is refused before it is read.
func TestLargePicturesAreRefusedUnread(t *testing.T) {
	draw := func(img image.Image) []byte {
		var raw bytes.Buffer
		if err := (&png.Encoder{CompressionLevel: png.BestSpeed}).Encode(&raw, img); err != nil {
			t.Fatal(err)
		}
		return raw.Bytes()
	}
	if _, err := photo.Decode(draw(image.NewRGBA64(image.Rect(0, 0, 2600, 2600)))); err == nil {
		t.Error("6.8 million pixels at sixteen bits were read")
	}
	if _, err := photo.Decode(draw(image.NewGray(image.Rect(0, 0, 2600, 2600)))); err != nil {
		t.Errorf("a small one: %v", err)
	}
}

// R4. A tablet takes back tonight's ticks and nothing else; what is left by law, what is older and what somebody else
// did is its keeper's. Who really sent it stands in the log.
func TestWhoTakesALineBack(t *testing.T) {
	b, first := owner(t)
	id := newID()
	if got := first.ask("POST", "/api/machines", fields{"id": id, "name": "Tea deck", "zone": "UTC",
		"answers": with("layout", "hx_cafe", "drinks_per_day", 200)}, nil); got != 201 {
		t.Fatalf("%d", got)
	}
	var o PairOffer
	first.ask("POST", "/api/devices", fields{"name": "bar", "role": "closer", "kiosk": true}, &o)
	tablet := b.browser("192.0.2.30")
	if got := tablet.pairs(o.Code); got != 200 {
		t.Fatalf("%d", got)
	}
	inspection := newID()
	var no Problem
	if got := first.ask("POST", "/api/machines/"+id+"/care", fields{"id": inspection, "task": "inspection",
		"parts": []string{"machine"}, "at": b.now, "by": "Ines"}, &no); got != 201 && got != 204 {
		t.Fatalf("%d %+v", got, no)
	}
	if got := tablet.ask("DELETE", "/api/machines/"+id+"/care/"+inspection, nil, nil); got != 403 {
		t.Errorf("the inspection by a tablet: %d", got)
	}
	if got := tablet.ask("POST", "/api/machines/"+id+"/care", fields{"id": newID(), "task": "inspection",
		"parts": []string{"machine"}, "at": b.now, "by": "Somebody"}, nil); got != 403 {
		t.Errorf("a tablet leaves an inspection: %d", got)
	}
	if got := tablet.ask("POST", "/api/machines/"+id+"/small", fields{"id": newID(), "tasks": []string{"brush"},
		"at": b.now, "by": "Rui"}, nil); got != 204 && got != 201 {
		t.Errorf("a tick by the tablet: %d", got)
	}
	var log Log
	first.ask("GET", "/api/log?small=true", nil, &log)
	sent := map[string]string{}
	for _, e := range log.Entries {
		sent[orElse(e.By, "")] = orElse(e.Sent, "")
	}
	if sent["Rui"] != "bar" || sent["Ines"] == "Ines" {
		t.Errorf("who put it in: %v", sent)
	}
	if got := first.ask("DELETE", "/api/machines/"+id+"/care/"+inspection, nil, nil); got != 204 {
		t.Errorf("its keeper: %d", got)
	}
}

// R5. An offer dies with whoever made it, and with their passphrase; a tablet makes none; the stream of a device that
// is shut out ends.
func TestOffersAndStreamsEnd(t *testing.T) {
	b, first := owner(t)
	keeper := first.as("Rui", app.Keeper)
	offer := func(w *browser) (o PairOffer, status int) {
		status = w.ask("POST", "/api/devices", fields{"name": "phone", "role": "closer", "kiosk": false}, &o)
		return o, status
	}
	o, _ := offer(keeper)
	if got := keeper.ask("POST", "/api/logout", fields{"everywhere": true}, nil); got != 200 {
		t.Fatalf("%d", got)
	}
	if got := b.browser("192.0.2.40").pairs(o.Code); got == 200 {
		t.Error("an offer outlives its maker")
	}
	o, _ = offer(first)
	change := fields{"old": secret, "passphrase": secret + "new"}
	if got := first.ask("PUT", "/api/me/passphrase", change, nil); got != 204 && got != 200 {
		t.Fatalf("%d", got)
	}
	if got := b.browser("192.0.2.41").pairs(o.Code); got == 200 {
		t.Error("an offer outlives the passphrase")
	}
	var kiosk PairOffer
	first.ask("POST", "/api/devices", fields{"name": "bar", "role": "closer", "kiosk": true}, &kiosk)
	tablet := b.browser("192.0.2.42")
	tablet.pairs(kiosk.Code)
	if _, got := offer(tablet); got != 403 {
		t.Errorf("a tablet lets others in: %d", got)
	}
	ctx, stop := context.WithTimeout(t.Context(), 20*time.Second)
	defer stop()
	ended := make(chan struct{})
	go func() {
		defer close(ended)
		r := httptest.NewRequest("GET", "/api/events", nil).WithContext(ctx)
		r.Host = "bench.test:8443"
		r.Header.Set("Cookie", tablet.cookie)
		b.handle.ServeHTTP(httptest.NewRecorder(), r)
	}()
	var list Devices
	for n := 0; len(list.Devices) < 2 && n < 50; n++ {
		first.ask("GET", "/api/devices", nil, &list)
	}
	for _, d := range list.Devices {
		if d.Name == "bar" {
			first.ask("DELETE", "/api/devices/"+d.Id, nil, nil)
		}
	}
	select {
	case <-ended:
	case <-time.After(18 * time.Second):
		t.Error("its stream goes on")
	}
}

// R6. A hundred wrong passphrases at once are counted as they come; a stranger's tries keep nobody out elsewhere.
func TestTriesAreCountedBeforeTheyAreCompared(t *testing.T) {
	b, first := owner(t)
	first.as("Rui", app.Closer)
	var mu sync.Mutex
	statuses := map[int]int{}
	var all sync.WaitGroup
	for range 100 {
		all.Go(func() {
			thief := b.browser("198.51.100.7")
			got := thief.logsIn("Rui", "guess guess guess")
			mu.Lock()
			statuses[got]++
			mu.Unlock()
		})
	}
	all.Wait()
	if statuses[401] > 6 || statuses[401]+statuses[429] != 100 {
		t.Errorf("%v", statuses)
	}
	if got := b.browser("192.0.2.50").logsIn("Rui", secret+"Rui"); got != 200 {
		t.Errorf("from elsewhere: %d", got)
	}
}

// R9. The same small task twice in one request is refused by name.
func TestASmallTaskTwice(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	var p Problem
	b.call("POST", "/api/machines/"+id+"/small", fields{"id": newID(), "tasks": []string{"brush", "brush"}, "at": b.now},
		422, &p)
}

// R13. What a calendar's address is known by stands in no log. R16. Over TLS browsers are told to stay there.
func TestSecretsStayOutOfTheLog(t *testing.T) {
	b := newBench(t)
	var said bytes.Buffer
	handle, err := New(Config{App: b.app, Pages: fstest.MapFS{"index.html": {Data: []byte("<!doctype html>")}}, Speed: 1,
		Log:     slog.New(slog.NewTextHandler(&said, &slog.HandlerOptions{Level: slog.LevelDebug})),
		Origins: []string{outside}})
	if err != nil {
		t.Fatal(err)
	}
	r := httptest.NewRequest("GET", "/api/calendars/a-secret-that-nobody-sees.ics", nil)
	r.Host = "bench.test:8443"
	w := httptest.NewRecorder()
	handle.ServeHTTP(w, r)
	if strings.Contains(said.String(), "a-secret") || !strings.Contains(said.String(), "/api/calendars/") {
		t.Errorf("the log says %s", said.String())
	}
	if w.Header().Get("Strict-Transport-Security") == "" {
		t.Error("nobody is told to stay")
	}
}

// R14. A calendar of many is written once for whoever asks meanwhile, one at a time.
func TestCalendarsAreKept(t *testing.T) {
	var shelf feedShelf
	now := time.Date(2026, 5, 20, 9, 0, 0, 0, time.UTC)
	wrote := 0
	write := func(context.Context) (*bytes.Buffer, error) { wrote++; return bytes.NewBufferString("dates"), nil }
	for n := range 5 {
		out, err := shelf.take(t.Context(), "all", false, now.Add(time.Duration(n)*time.Minute), write)
		if err != nil || out.String() != "dates" {
			t.Fatal(err)
		}
	}
	if wrote != 1 {
		t.Errorf("written %d times in four minutes", wrote)
	}
	enough, entered := make(chan struct{}), make(chan struct{})
	slow := func(context.Context) (*bytes.Buffer, error) {
		close(entered)
		<-enough
		return bytes.NewBufferString("new"), nil
	}
	go func() { _, _ = shelf.take(context.Background(), "all", false, now.Add(time.Hour), slow) }()
	<-entered
	out, err := shelf.take(t.Context(), "all", false, now.Add(time.Hour), write)
	if err != nil || out.String() != "dates" {
		t.Errorf("while it is written: %v", err)
	}
	if _, err := shelf.take(t.Context(), "another", false, now, write); err == nil {
		t.Error("two are written at once")
	}
	close(enough)
}
