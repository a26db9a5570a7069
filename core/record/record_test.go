package record

import (
	"slices"
	"strings"
	"testing"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
)

var (
	clean = backflush.Cup{Colour: backflush.ColourClear, Foam: backflush.FoamNone, Grains: backflush.GrainsFew}
	foamy = backflush.Cup{Colour: backflush.ColourPale, Foam: backflush.FoamSome, Grains: backflush.GrainsNone}
)

func powder(g float64) *backflush.Dose {
	return &backflush.Dose{Form: backflush.Powder, Mass: reason.Worked{Value: g, Unit: "g"}}
}

func TestWhatWasDoneIsTold(t *testing.T) {
	tablet := &backflush.Dose{Form: backflush.Tablets, Tablets: 1}
	for _, x := range []struct {
		name, did, proof string
		e                Entry
	}{
		{"a wash", "3 g of powder, 5 pulses with it, 7 of water. The first dirty water was brown.",
			"In the cup: no colour, no foam, 1 to 3 grains, at look 2.",
			Entry{Outcome: Done, Dose: powder(3), Soapy: 5, Rinsed: 7, First: "brown", Cups: []backflush.Cup{foamy, clean}}},
		{"a tablet", "One tablet, one pulse with it, 5 of water.", "",
			Entry{Outcome: Done, Dose: tablet, Soapy: 1, Rinsed: 5, First: "unseen"}},
		{"water only", "4 pulses of water, no detergent.", "", Entry{Outcome: Done, Rinsed: 4}},
		{"left inside", "Stopped: detergent or acid was left inside. 3 g of powder, 2 pulses with it, 0 of water.",
			"In the cup: pale, some foam, no grains. Not clear.",
			Entry{Outcome: Unsafe, Dose: powder(3), Soapy: 2, Cups: []backflush.Cup{foamy}}},
		{"by word", "A new one of silicone.", "",
			Entry{Outcome: Said, Note: "A new one of silicone."}},
		{"led, nothing else", "", "", Entry{Outcome: Done}},
	} {
		t.Run(x.name, func(t *testing.T) {
			if got := strings.Join(x.e.Did(), " "); got != x.did {
				t.Errorf("did %q, want %q", got, x.did)
			}
			if got := x.e.Proof(); got != x.proof {
				t.Errorf("proof %q, want %q", got, x.proof)
			}
		})
	}
}

func TestSums(t *testing.T) {
	day := func(n int) time.Time { return time.Date(2026, 3, n, 20, 0, 0, 0, time.UTC) }
	one, two := machine.Group(1), machine.Group(2)
	list := []Entry{
		{Task: task.Wash, Part: one, Title: "Detergent wash", At: day(9), Outcome: Done, Dose: powder(3),
			Cups: []backflush.Cup{clean}},
		{Task: task.Wash, Part: one, Title: "Detergent wash", At: day(2), Outcome: Done, Dose: powder(3),
			Cups: []backflush.Cup{foamy}},
		{Task: task.Wash, Part: one, Title: "Detergent wash", At: day(5), Outcome: Unsafe, Dose: powder(3)},
		{Task: task.Wash, Part: two, Title: "Detergent wash", At: day(9), Outcome: Said},
		{Task: task.Seal, Part: one, Title: "Note: seal", At: day(9), Outcome: Noted},
	}
	sums := Sums(list)
	if len(sums) != 2 {
		t.Fatalf("%+v", sums)
	}
	written := func(at time.Time) string { return at.Format("2 January") }
	want := []string{"From 2 March to 9 March.", "One was stopped before its end.", "About 9 g of detergent.",
		"1 of 2 cups were clear at the end."}
	if got := sums[0].Words(written); sums[0].Count() != "2 times" || !slices.Equal(got, want) {
		t.Errorf("%s %q", sums[0].Count(), got)
	}
	if got := sums[1].Words(written); sums[1].Count() != "Once" || !slices.Equal(got, []string{"On 9 March."}) {
		t.Errorf("%s %q", sums[1].Count(), got)
	}
	// of many that were put on record and few that were led, only those few are known to have had a dose
	list = append(list, Entry{Task: task.Wash, Part: one, At: day(10), Outcome: Said})
	if got := Sums(list)[0].Words(written); !slices.Contains(got, "About 9 g of detergent in the 3 that were led.") {
		t.Errorf("%q", got)
	}
}
