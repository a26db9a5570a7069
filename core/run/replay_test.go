package run

import (
	"compress/gzip"
	"encoding/json"
	"fmt"
	"os"
	"slices"
	"testing"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/units"
)

// summary is a state as the recording of the earlier fold wrote it down; what could
// not be pressed then is left out.
func summary(p job.Plan, s State) string {
	allowed := slices.DeleteFunc(slices.Clone(s.Allowed), func(k PressKind) bool {
		return k == NothingCame || k == Opened
	})
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

// Runs of every method, of one group to three, with random presses, were recorded
// with the fold as it was before steps had kinds: they come to the same states.
func TestWashesReplayAsBefore(t *testing.T) {
	file, err := os.Open("testdata/washes.json.gz")
	if err != nil {
		t.Fatal(err)
	}
	defer file.Close()
	unzipped, err := gzip.NewReader(file)
	if err != nil {
		t.Fatal(err)
	}
	var recorded []struct {
		Method  string            `json:"method"`
		Facts   map[string]string `json:"facts"`
		Dirty   []bool            `json:"dirty"`
		Speed   int               `json:"speed"`
		Presses []struct {
			Step      string `json:"step"`
			Segment   int    `json:"segment"`
			Kind      string `json:"kind"`
			AtMs      int64  `json:"at_ms"`
			Cup       string `json:"cup"`
			First     string `json:"first"`
			What      string `json:"what"`
			Own       bool   `json:"own"`
			NothingIn bool   `json:"nothing_in"`
		} `json:"presses"`
		States []string `json:"states"`
	}
	if err := json.NewDecoder(unzipped).Decode(&recorded); err != nil {
		t.Fatal(err)
	}
	for i, r := range recorded {
		t.Run(fmt.Sprintf("%d %s", i, r.Method), func(t *testing.T) {
			a := machine.Answers{Layout: machine.HXHome, Valve: machine.Yes, Drinks: 4,
				Hardness: units.UnknownHardness(), Treatment: machine.Untreated, Overrides: r.Facts}
			var targets []job.Target
			for g, dirty := range r.Dirty {
				targets = append(targets, job.Target{Group: g + 1, Dirty: dirty})
			}
			p, err := job.Wash(a, backflush.MethodID(r.Method), backflush.UsualPowder, targets...)
			if err != nil {
				t.Fatal(err)
			}
			var presses []Press
			for n, q := range r.Presses {
				cup := foamy
				if q.Cup == "clean" {
					cup = clean
				}
				presses = append(presses, Press{ID: fmt.Sprint(n), Step: q.Step, Segment: q.Segment,
					Kind: PressKind(q.Kind), At: time.UnixMilli(q.AtMs).UTC(), Cup: &cup,
					First: backflush.Colour(q.First), Answer: job.Answer(q.What), Own: q.Own, NothingIn: q.NothingIn,
				})
			}
			for n, q := range presses { // presses of one instant were recorded together
				s := Fold(p, start, r.Speed, made(presses, q.At), q.At)
				if got := summary(p, s); got != r.States[n] {
					t.Fatalf("press %d, %s:\n%s\nbefore:\n%s", n, q.Kind, got, r.States[n])
				}
			}
		})
	}
}
