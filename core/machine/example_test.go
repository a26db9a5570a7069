package machine_test

import (
	"fmt"

	"freshanvil/core/machine"
)

// A part is named the same in the contract and in the database; in a sentence it is
// called as its machine calls it.
func ExampleParsePart() {
	facts := machine.Answers{Layout: machine.SingleBoiler}.Facts()
	for _, text := range []string{"machine", "group-1", "brew-1"} {
		part, _ := machine.ParsePart(text)
		fmt.Printf("%s: %q, group %d\n", part, facts.PartTitle(part), part.GroupNumber())
	}
	// Output:
	// machine: "machine", group 0
	// group-1: "group 1", group 1
	// brew-1: "boiler", group 0
}
