package run

import (
	"bytes"
	"compress/gzip"
	"encoding/json"
	"flag"
	"fmt"
	"math/rand/v2"
	"os"
	"testing"

	"freshanvil/core/backflush"
	"freshanvil/core/job"
)

// summary is a state in a line.
func summary(p job.Plan, s State) string {
	allowed := s.Allowed
	vents := p.Setups[0].Vents
	text := fmt.Sprintf(
		"%s %d %s %d %v %q ran=%dms",
		s.Step.ID,
		s.Segment.Index,
		s.Segment.Kind,
		s.Segment.Pulse,
		allowed,
		s.Outcome,
		s.Ran.Milliseconds(),
	)
	for i, g := range s.Groups {
		d := g.Detergent
		text += fmt.Sprintf(" | %d in=%v ever=%v rinsed=%d least=%d clear=%v flushed=%v soapy=%d first=%q cups=%d "+
			"ended=%v through=%.0f %s", g.Number(), d.In, d.Ever, d.Rinsed, d.Least, d.Clear, d.Flushed, g.Soapy, g.First,
			len(g.Cups), g.Ended, float64(g.Through.Volume(vents)), s.Activities[i].Outcome)
	}
	return text + fmt.Sprintf(" | tray=%.0f used=%.0f drawn=%.0f soaks=%d lines=%d", float64(s.Tray.Volume(vents)),
		float64(s.Used.Volume(vents)), float64(s.Drawn.Volume(vents)), len(s.Soaks), len(s.Lines))
}

var record = flag.Bool("record", false, "write down the states that a replay is compared with")

// recorded are the states of a run at each of its presses.
type recorded struct {
	Method string   `json:"method"`
	States []string `json:"states"`
}

// replayed are runs of every method, of one group to three, with random presses.
func replayed(t *testing.T) []recorded {
	var list []recorded
	for round := range uint64(8) {
		for i, m := range backflush.Methods() {
			random := rand.New(rand.NewPCG(round, uint64(i)))
			p := anyPlan(t, random, m.ID, round%3 == 0)
			p.AsksFound = false // they were written down before a run did
			speed := 1 + random.IntN(30)
			presses, _ := storm(random, p, speed)
			r := recorded{Method: string(m.ID)}
			for _, q := range presses { // presses of one instant are taken together
				r.States = append(r.States, summary(p, Fold(p, start, speed, made(presses, q.At), q.At)))
			}
			list = append(list, r)
		}
	}
	return list
}

// The states of many runs were written down (go test ./core/run -run Replay -record): a
// change of the fold that was not meant to change them does not.
func TestWashesReplayAsRecorded(t *testing.T) {
	const path = "testdata/washes.json.gz"
	got := replayed(t)
	if *record {
		var text bytes.Buffer
		zip := gzip.NewWriter(&text)
		if err := json.NewEncoder(zip).Encode(got); err != nil || zip.Close() != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(path, text.Bytes(), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	file, err := os.Open(path)
	if err != nil {
		t.Fatal(err)
	}
	defer file.Close()
	unzipped, err := gzip.NewReader(file)
	if err != nil {
		t.Fatal(err)
	}
	var want []recorded
	if err := json.NewDecoder(unzipped).Decode(&want); err != nil || len(want) != len(got) {
		t.Fatal(len(want), err)
	}
	for i, r := range want {
		t.Run(fmt.Sprintf("%d %s", i, r.Method), func(t *testing.T) {
			if len(r.States) != len(got[i].States) {
				t.Fatalf("%d states, %d before", len(got[i].States), len(r.States))
			}
			for n := range r.States {
				if got[i].States[n] != r.States[n] {
					t.Fatalf("press %d:\n%s\nbefore:\n%s", n, got[i].States[n], r.States[n])
				}
			}
		})
	}
}
