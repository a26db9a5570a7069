package tables

import (
	"fmt"
	"slices"
	"testing"
)

func ExampleOpen() {
	rows, err := Open("date;drinks\n2026-03-10;14\n").ReadAll()
	fmt.Println(rows, err)
	// Output: [[date drinks] [2026-03-10 14]] <nil>
}

func TestOpen(t *testing.T) {
	for _, c := range []struct {
		name, text string
		want       []string // the first row
	}{
		{"commas", "a,b\n1,2\n", []string{"a", "b"}},
		{"semicolons", "a;b\n1,5;2\n", []string{"a", "b"}},
		{"tabs", "a\tb\n", []string{"a", "b"}},
		{"a comma in a name", "a;b, in mg/L;c\n", []string{"a", "b, in mg/L", "c"}},
		{"a mark at its start", "\ufeffa,b\n", []string{"a", "b"}},
		{"empty lines above", "\n\r\n\na;b\n", []string{"a", "b"}},
		{"one column", "a\n", []string{"a"}},
		{"a quote within", "a 9\" b,c\n", []string{"a 9\" b", "c"}},
		{"blanks before", "a, b\n", []string{"a", "b"}},
	} {
		t.Run(c.name, func(t *testing.T) {
			if got, err := Open(c.text).Read(); err != nil || !slices.Equal(got, c.want) {
				t.Errorf("%q, %v, want %q", got, err, c.want)
			}
		})
	}
}

// A row is told by the line of the file on which it begins, also below empty lines and fields of several lines.
func TestRowsKeepTheirLines(t *testing.T) {
	r := Open("\na,b\n\n1,\"x\ny\"\n2,z\n")
	var lines []int
	for {
		if _, err := r.Read(); err != nil {
			break
		}
		line, _ := r.FieldPos(0)
		lines = append(lines, line)
	}
	if !slices.Equal(lines, []int{2, 4, 6}) {
		t.Errorf("rows on lines %v", lines)
	}
}
