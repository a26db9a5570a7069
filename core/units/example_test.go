package units_test

import (
	"fmt"

	"freshanvil/core/units"
)

// What a person writes down is a number or an interval; a comma that may part thousands
// is not guessed at.
func ExampleParseReading() {
	r, _ := units.ParseReading("12,5-14,5")
	fmt.Println(r.Low, r.Likely, r.High)
	_, err := units.ParseReading("1,250")
	fmt.Println(err)
	// Output:
	// 12.5 13.5 14.5
	// reading is 1,250; allowed: 1.250 or 1250, whichever it is
}
