package run_test

import (
	"fmt"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/run"
)

// A run is its plan and the presses that were accepted, folded up to an instant: the same
// presses give the same state, on any device and after any restart.
func ExampleFold() {
	answers := machine.Answers{Layout: machine.DualHome, Valve: machine.Yes, Drinks: 4, Treatment: machine.Untreated}
	plan, err := job.Wash(answers, backflush.HalfTeaspoon, backflush.UsualPowder, job.Target{Group: 1})
	if err != nil {
		fmt.Println(err)
		return
	}
	began := time.Date(2026, 3, 10, 18, 0, 0, 0, time.UTC)
	presses := []run.Press{
		{ID: "a", Step: "ready", Kind: run.Done, At: began.Add(10 * time.Second)},
		{ID: "b", Step: "brush", Kind: run.Done, At: began.Add(40 * time.Second)},
		{ID: "c", Step: "water", Kind: run.Begin, At: began.Add(60 * time.Second)},
		{ID: "d", Step: "dose", Kind: run.Done, At: began.Add(130 * time.Second)},
		{ID: "e", Step: "detergent", Kind: run.Begin, At: began.Add(140 * time.Second)},
	}
	state := run.Fold(plan, began, 1, presses, began.Add(153*time.Second))
	fmt.Printf("%s, pulse %d: %s; detergent in: %v\n", state.Step.ID, state.Segment.Pulse, state.Segment.Kind, state.In())
	// Output:
	// detergent, pulse 1: off; detergent in: true
}
