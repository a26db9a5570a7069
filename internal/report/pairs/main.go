// Command pairs lists what may be seen of each thing: a sight and a verdict a line, for web/sights.js to draw.
package main

import (
	"fmt"

	"freshanvil/core/inspect"
)

func main() {
	for _, row := range inspect.All() {
		for _, seen := range row.Seen {
			fmt.Println(row.Sight, seen.Verdict)
		}
	}
}
