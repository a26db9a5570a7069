package e2e

import (
	"bytes"
	"encoding/json"
	"flag"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
)

var long = flag.Bool("long", false, "as often as takes long: make long")

// A server that is killed under load, again and again, loses nothing that it acknowledged, and doubles nothing that was
// sent again: every drink of every round is there once, the file is sound each time, and it takes writes at once.
func TestKilledUnderLoad(t *testing.T) {
	t.Parallel()
	rounds := 20
	if *long {
		rounds = 1000
	}
	file, at := filepath.Join(t.TempDir(), "test.db"), noon(t)
	machine := uuid.NewString()
	acknowledged, sent := 0, 0
	for round := range rounds {
		a, cmd := at.launch(t, "serve", "--port", "0", "--db", file)
		if round == 0 {
			post(t, a.address+"/api/machines", map[string]any{"id": machine, "name": "Deck", "zone": "Europe/Lisbon",
				"answers": map[string]any{"layout": "hx_cafe", "valve": "yes", "drinks_per_day": 200, "milk_drinks_per_day": 80,
					"hardness": map[string]any{"known": true, "value": 9, "unit": "dh"}, "treatment": "none"}}, 201)
		}
		taken, tried := hammer(a, machine, cmd, time.Duration(20+round*13%180)*time.Millisecond)
		acknowledged, sent = acknowledged+taken, sent+tried
	}
	a, cmd := at.launch(t, "serve", "--port", "0", "--db", file)
	defer func() { _ = cmd.Process.Kill(); _ = cmd.Wait() }()
	var use struct{ Entries []struct{ ID string } }
	var bench struct {
		Machines []struct{ Today struct{ Drinks float64 } }
	}
	a.get("/api/bench", &bench)
	a.get("/api/machines/"+machine+"/use", &use)
	drinks := int(bench.Machines[0].Today.Drinks)
	t.Logf("%d rounds: %d drinks acknowledged of %d sent, %d there", rounds, acknowledged, sent, drinks)
	if acknowledged == 0 || drinks < acknowledged || drinks > sent {
		t.Errorf("%d drinks, %d acknowledged, %d sent", drinks, acknowledged, sent)
	}
	again := uuid.NewString() // what was acknowledged and is sent once more changes nothing
	for range 3 {
		post(t, a.address+"/api/machines/"+machine+"/use", drink(again, at), 201)
	}
	a.get("/api/bench", &bench)
	if now := int(bench.Machines[0].Today.Drinks); now != drinks+1 {
		t.Errorf("sent three times, one drink became %d", now-drinks)
	}
}

// A server that is killed while it takes a file in has all of the file or nothing, wherever it was by then, and the
// next one takes the same file.
func TestKilledUnderAFile(t *testing.T) {
	t.Parallel()
	rounds := 8
	if *long {
		rounds = 200
	}
	folder, at := t.TempDir(), noon(t)
	file := filepath.Join(folder, "test.db")
	var text strings.Builder
	text.WriteString("date,double,milk\n")
	for n := range 20_000 {
		fmt.Fprintf(&text, "%s,%d,1\n", at.now().Add(time.Duration(n-20_001)*time.Hour).Format(time.RFC3339), 1+n%9)
	}
	machines := make([]string, rounds)
	take := func(a *app, machine string, preview bool) (got struct{ Entries, Fresh, Same int }) {
		body, _ := json.Marshal(map[string]any{"text": text.String(), "preview": preview})
		res, err := http.Post(a.address+"/api/machines/"+machine+"/imports", "application/json", bytes.NewReader(body))
		if err != nil {
			return got // it was killed
		}
		defer res.Body.Close()
		_ = json.NewDecoder(res.Body).Decode(&got)
		return got
	}
	for round := range rounds {
		a, cmd := at.launch(t, "serve", "--port", "0", "--db", file)
		machines[round] = uuid.NewString()
		post(t, a.address+"/api/machines", map[string]any{"id": machines[round], "name": "Deck", "zone": "Europe/Lisbon",
			"answers": map[string]any{"layout": "hx_cafe", "valve": "yes", "drinks_per_day": 200, "milk_drinks_per_day": 80,
				"hardness": map[string]any{"known": true, "value": 9, "unit": "dh"}, "treatment": "none"}}, 201)
		done := make(chan struct{})
		go func() { defer close(done); take(a, machines[round], false) }()
		time.Sleep(time.Duration(round*171%1500) * time.Millisecond)
		_ = cmd.Process.Kill()
		_ = cmd.Wait()
		<-done
	}
	a, cmd := at.launch(t, "serve", "--port", "0", "--db", file)
	defer func() { _ = cmd.Process.Kill(); _ = cmd.Wait() }()
	whole := 0
	for round, machine := range machines {
		got := take(a, machine, true)
		if got.Entries != 40_000 || got.Fresh != 0 && got.Fresh != 40_000 || got.Fresh+got.Same != 40_000 {
			t.Errorf("round %d: of %d entries %d are there and %d not", round, got.Entries, got.Same, got.Fresh)
		}
		if got.Same > 0 {
			whole++
		}
	}
	t.Logf("%d rounds: %d files were taken before the server was killed", rounds, whole)
	if got := take(a, machines[0], false); got.Fresh+got.Same != 40_000 {
		t.Errorf("the same file by the next server: %+v", got)
	}
}

// A run that is led while its server is killed, again and again, is at its end what it was led to: each press that was
// answered counts once, one that got no answer is sent again with its own id until it is, and none is lost or doubled.
// Each wash stands in the log with the pulses that were made.
func TestPressesUnderKills(t *testing.T) {
	t.Parallel()
	washes := 4
	if *long {
		washes = 155 // 2,000 presses
	}
	file, at := filepath.Join(t.TempDir(), "test.db"), noon(t)
	a, cmd := at.launch(t, "serve", "--port", "0", "--db", file)
	defer func() { _ = cmd.Process.Kill(); _ = cmd.Wait() }()
	machine, dice := uuid.NewString(), rand.New(rand.NewPCG(2, 1))
	post(t, a.address+"/api/machines", map[string]any{"id": machine, "name": "Deck", "zone": "Europe/Lisbon",
		"answers": map[string]any{"layout": "dual_home", "valve": "yes", "drinks_per_day": 4, "milk_drinks_per_day": 2,
			"hardness": map[string]any{"known": true, "value": 9, "unit": "dh"}, "treatment": "none"}}, 201)
	kills, sent := 0, 0
	// answered sends a request until it is answered; now and then the server is killed meanwhile, and begun anew
	answered := func(to string, body map[string]any, into any) {
		t.Helper()
		for range 20 {
			dead, killed, after := make(chan struct{}), dice.IntN(3) == 0, time.Duration(dice.IntN(12))*time.Millisecond
			go func() {
				defer close(dead)
				if killed {
					time.Sleep(after)
					_ = cmd.Process.Kill()
				}
			}()
			text, err := json.Marshal(body)
			if err != nil {
				t.Fatal(err)
			}
			var status int
			var answer []byte
			sent++
			res, err := http.Post(to, "application/json", bytes.NewReader(text))
			if err == nil {
				status = res.StatusCode
				answer, err = io.ReadAll(res.Body)
				_ = res.Body.Close()
			}
			if <-dead; killed {
				kills++
				_ = cmd.Wait()
				cmd = a.again("serve", "--db", file)
			}
			if err != nil {
				continue
			}
			if status != http.StatusOK && status != http.StatusCreated {
				t.Fatalf("%s %s answered %d %s", to, text, status, answer)
			}
			if err := json.Unmarshal(answer, into); err != nil {
				t.Fatal(err)
			}
			return
		}
		t.Fatal("no answer in twenty tries")
	}
	type running struct {
		Step    struct{ ID string }
		Segment struct{ Index int }
		Outcome string
	}
	presses := 0
	for range washes {
		id := uuid.NewString()
		var now running
		answered(a.address+"/api/machines/"+machine+"/runs", map[string]any{"id": id, "device": "phone",
			"parts": []string{"group-1"}, "method": "half_teaspoon"}, &now)
		press := func(kind string, more ...any) {
			t.Helper()
			body := map[string]any{"id": uuid.NewString(), "device": "phone", "step": now.Step.ID,
				"segment": now.Segment.Index, "kind": kind, "at": a.now().Format(time.RFC3339Nano)}
			for i := 0; i < len(more); i += 2 {
				body[more[i].(string)] = more[i+1]
			}
			presses++
			now = running{}
			answered(a.address+"/api/runs/"+id+"/presses", body, &now)
		}
		wait := func(d time.Duration) {
			a.passes(d)
			now = running{}
			a.get("/api/runs/"+id, &now)
		}
		press("done")
		press("done")
		press("begin")
		wait(46 * time.Second)
		press("done")
		press("begin")
		wait(76 * time.Second)
		press("graded", "first", "brown")
		press("done")
		press("begin")
		wait(76 * time.Second)
		press("reading", "cup", map[string]string{"colour": "clear", "foam": "none", "grains": "0"})
		press("done")
		wait(time.Minute)
		press("done")
		press("done")
		press("done") // once too often: what is over stays as it is
		if now.Outcome != "done" {
			t.Fatalf("led to its end, it is %q at %s", now.Outcome, now.Step.ID)
		}
	}
	var log struct {
		Entries []struct {
			Outcome      string
			Run_id       string
			Soapy_pulses int
			Rinse_pulses int
		}
	}
	a.get("/api/log?limit=500&machine_id="+machine, &log)
	led := map[string]bool{}
	for _, e := range log.Entries {
		if e.Run_id == "" {
			continue
		}
		if e.Outcome != "done" || e.Soapy_pulses != 5 || e.Rinse_pulses != 5 || led[e.Run_id] {
			t.Errorf("in the log: %+v", e)
		}
		led[e.Run_id] = true
	}
	if len(led) != washes || kills == 0 {
		t.Errorf("%d washes in the log of %d that were led, %d kills", len(led), washes, kills)
	}
	t.Logf("%d presses, sent %d times, under %d kills: %d washes, each once", presses, sent, kills, len(led))
}

func drink(id string, at moment) map[string]any {
	return map[string]any{"id": id, "kind": "double", "count": 1, "part": "machine",
		"at": at.now().Format(time.RFC3339)}
}

// hammer logs drinks from several hands until the server is killed; each that got no answer is sent again in the next
// round by nobody: it may be there or not, and is counted as sent.
func hammer(a *app, machine string, cmd *exec.Cmd, load time.Duration) (taken, tried int) {
	var mu sync.Mutex
	var hands sync.WaitGroup
	stop := make(chan struct{})
	for range 6 {
		hands.Add(1)
		go func() {
			defer hands.Done()
			for {
				select {
				case <-stop:
					return
				default:
				}
				body, _ := json.Marshal(drink(uuid.NewString(), a.moment))
				mu.Lock()
				tried++
				mu.Unlock()
				res, err := http.Post(a.address+"/api/machines/"+machine+"/use", "application/json", bytes.NewReader(body))
				if err != nil {
					continue
				}
				if res.StatusCode == http.StatusCreated {
					mu.Lock()
					taken++
					mu.Unlock()
				}
				_ = res.Body.Close()
			}
		}()
	}
	time.Sleep(load)
	_ = cmd.Process.Kill()
	_ = cmd.Wait()
	close(stop)
	hands.Wait()
	return taken, tried
}

func post(t *testing.T, to string, body any, status int) {
	t.Helper()
	text, err := json.Marshal(body)
	if err != nil {
		t.Fatal(err)
	}
	res, err := http.Post(to, "application/json", bytes.NewReader(text))
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	if res.StatusCode != status {
		t.Fatal(fmt.Sprint(to, " answered ", res.Status))
	}
}
