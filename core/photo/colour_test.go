package photo

import (
	"encoding/csv"
	"math"
	"os"
	"strconv"
	"strings"
	"testing"
)

// The published pairs (Sharma, Wu & Dalal 2005, Color Res. Appl. 30:21, table 1; typed in from memory, each row
// agreeing
// with the colour-science library to four places), both ways round: the formula is the same for either.
func TestDifferenceOnThePublishedPairs(t *testing.T) {
	text, err := os.ReadFile("testdata/ciede2000.csv")
	if err != nil {
		t.Fatal(err)
	}
	r := csv.NewReader(strings.NewReader(string(text)))
	r.Comment = '#'
	rows, err := r.ReadAll()
	if err != nil || len(rows) != 34 {
		t.Fatalf("%d rows, %v", len(rows), err)
	}
	for i, row := range rows {
		var v [7]float64
		for k := range v {
			if v[k], err = strconv.ParseFloat(row[k], 64); err != nil {
				t.Fatal(err)
			}
		}
		p, q := Lab{v[0], v[1], v[2]}, Lab{v[3], v[4], v[5]}
		for _, got := range []float64{Difference(p, q), Difference(q, p)} {
			if math.Abs(got-v[6]) > 0.00005 {
				t.Errorf("pair %d: %.4f, published %.4f", i+1, got, v[6])
			}
		}
	}
}

// Colours of sRGB whose Lab is in every handbook (D65, two degrees; from memory): white, black, a middle grey, and the
// three primaries; under a yellow lamp, what is white beside the lamp's white is white.
func TestLab(t *testing.T) {
	white := linear{1, 1, 1}
	for _, c := range []struct {
		name string
		rgb  [3]float64
		want Lab
	}{
		{"white", [3]float64{1, 1, 1}, Lab{100, 0, 0}}, {"black", [3]float64{}, Lab{0, 0, 0}},
		{"grey", [3]float64{119.0 / 255, 119.0 / 255, 119.0 / 255}, Lab{50.03, 0, 0}},
		{"red", [3]float64{1, 0, 0}, Lab{53.24, 80.09, 67.20}}, {"green", [3]float64{0, 1, 0}, Lab{87.73, -86.18, 83.18}},
		{"blue", [3]float64{0, 0, 1}, Lab{32.30, 79.19, -107.86}},
	} {
		got := linear{toLinear(c.rgb[0]), toLinear(c.rgb[1]), toLinear(c.rgb[2])}.lab(white)
		if math.Abs(got.L-c.want.L) > 0.05 || math.Abs(got.A-c.want.A) > 0.05 || math.Abs(got.B-c.want.B) > 0.05 {
			t.Errorf("%s: %+v, want %+v", c.name, got, c.want)
		}
	}
	lamp := linear{0.9, 0.7, 0.4}
	if got := (linear{0.45, 0.35, 0.2}).lab(lamp); math.Abs(got.A) > 1e-3 || math.Abs(got.B) > 1e-3 {
		t.Errorf("half of a yellow lamp's white: %+v", got)
	}
}
