package care

import (
	"flag"
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/machine"
	"freshanvil/core/task"
)

var write = flag.Bool("write", false, "write the golden standings anew, with the version of the rules raised")

// goldenStandings are where the tasks of many machines stand at one instant: each layout on two waters, with nothing on
// record, new, and cared for a while ago by one school and another.
func goldenStandings(t *testing.T) string {
	t.Helper()
	now := time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)
	var out strings.Builder
	for _, layout := range machine.Layouts() {
		drinks := 4.0
		if slices.Contains([]machine.Layout{machine.HXCafe, machine.MultiCafe}, layout) {
			drinks = 200
		}
		for _, hardness := range []float64{60, 260} {
			a := machine.Answers{Layout: layout, Valve: machine.Yes, Drinks: drinks, MilkDrinks: drinks / 2,
				Treatment: machine.Untreated}
			if layout == machine.LeverManual {
				a.Valve = machine.No
			}
			f := a.Facts()
			waters := []Regime{{Effect: effectOf(t, hardness, f)}}
			began := BegunAt(a, now.AddDate(0, 0, -40), Started, Begins(a))
			cared := BegunAt(a, now.AddDate(0, 0, -25), "", func(task.Row) bool { return true })
			for _, h := range []struct {
				name string
				History
			}{
				{"nothing on record", History{Waters: waters}}, {"new", History{Waters: waters, Done: began}},
				{"cared for", History{Waters: waters, Done: cared}},
				{"by another school", History{Waters: waters, Done: cared, ChoiceSince: now.AddDate(0, -1, 0),
					Choice: Choice{Method: backflush.TenAndFive, Every: EveryWeek}}},
			} {
				fmt.Fprintf(&out, "%s, %g a day, %g mg/L, %s\n", layout, drinks, hardness, h.name)
				list, until := Standings(a, h.History, now, time.UTC)
				for _, s := range list {
					fmt.Fprintf(&out, "  %s %s %s %s|%s|%s %s %.3g of %.3g %s: %s\n", s.Task, s.Part, s.State,
						s.Earliest.Format(time.DateOnly), s.Likely.Format(time.DateOnly), s.Latest.Format(time.DateOnly), s.Clock,
						s.Used, s.Most, s.Unit, s.Why)
				}
				fmt.Fprintf(&out, "  until %s\n", until.Format(time.DateOnly))
			}
		}
	}
	return out.String()
}

// Where tasks stand moves with the version of the rules alone: kept standings of an older version are worked out anew,
// those of the same one are not.
func TestStandingsMoveWithTheRules(t *testing.T) {
	const path = "testdata/standings.txt"
	got := goldenStandings(t)
	raw, err := os.ReadFile(path)
	if err != nil && !*write {
		t.Fatal(err)
	}
	head, kept, _ := strings.Cut(string(raw), "\n")
	version := 0
	_, _ = fmt.Sscanf(head, "rules %d", &version)
	switch {
	case got == kept && version == Rules:
	case got != kept && version >= Rules:
		t.Fatalf("standings moved, and the rules are still version %d: raise care.Rules, then go test ./core/care -write\n%s",
			Rules, firstApart(kept, got))
	case *write:
		if err := os.MkdirAll("testdata", 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(path, fmt.Appendf(nil, "rules %d\n%s", Rules, got), 0o644); err != nil {
			t.Fatal(err)
		}
	default:
		t.Fatalf("the rules are version %d, the golden standings of %d: go test ./core/care -write", Rules, version)
	}
}

// firstApart is the first line in which two texts differ.
func firstApart(was, is string) string {
	a, b := strings.Split(was, "\n"), strings.Split(is, "\n")
	for i := range min(len(a), len(b)) {
		if a[i] != b[i] {
			return fmt.Sprintf("line %d was\n%s\nand is\n%s", i+2, a[i], b[i])
		}
	}
	return fmt.Sprintf("%d lines were, %d are", len(a), len(b))
}
