package descale_test

import (
	"fmt"

	"freshanvil/core/descale"
	"freshanvil/core/machine"
	"freshanvil/core/units"
)

// A dose is worked out from the circuits and the scale that is likely in them; where
// nobody has said what a boiler is made of, it is taken as the worst its layout is built of.
func ExampleMix() {
	facts := machine.Answers{Layout: machine.SingleBoiler}.Facts()
	material, said := descale.Careful(facts)
	circuits := descale.Circuits(facts, units.Sharp(2), units.Reading{})
	card, err := descale.Mix(descale.Products()[0], 0, circuits, material)
	fmt.Println(material, said, err)
	fmt.Printf("%.0f g/L, %.1f g in %.2f L\n", card.Strength, card.Measure.Value, card.Mixed.Value)
	// Output:
	// aluminium false <nil>
	// 20 g/L, 10.5 g in 0.52 L
}
