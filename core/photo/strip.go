package photo

import (
	"fmt"
	"image"
	"math"
	"slices"

	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// Patch is a field of a strip's own chart, with the value that it stands for.
type Patch struct {
	Point
	Value float64
}

// Strip is what a pad of a strip is nearest to on its own chart, in one photo.
type Strip struct {
	Value     float64
	Low, High float64 // from one field to the next where it lies between them
	Apart     float64 // CIEDE2000 from that field
	Sure      Sure
	Because   []reason.Reason
}

// The bounds of a strip (our own engineering choices): fields of the chart; how far apart two of them must look to be
// told apart; how near a pad must come to one of them; the radius that is looked at round each place.
const (
	leastPatches, mostPatches = 2, 12
	tellApart                 = 3.0
	nearEnough                = 12.0
	looksAt                   = 0.012
)

// JudgeStrip looks at a pad beside its chart: white is a place on the white card or the strip's white plastic. What it
// cannot judge is a *reason.Refusal, a place or a chart that cannot be is a *units.OutOfRange.
func JudgeStrip(img image.Image, white, pad Point, chart []Patch) (Strip, error) {
	if err := checkPlaces(white, pad, chart); err != nil {
		return Strip{}, err
	}
	b := img.Bounds()
	if short := min(b.Dx(), b.Dy()); short < leastSide {
		return Strip{}, refuse(TooSmall, fmt.Sprintf("It is only %d pixels high or wide", short), "Take it from nearer.")
	}
	lamp, clipped := colourAt(img, white)
	switch strong, weak := slices.Max(lamp[:]), slices.Min(lamp[:]); {
	case lamp.light() < whiteLeast:
		return Strip{}, refuse(TooDark, "It is too dark", "More light: at a window, without the flash.")
	case clipped:
		return Strip{}, refuse(TooBright, "The white is too bright: its colour is lost", "Less light, or tap on the white "+
			"before you take it.")
	case strong > mostTinted*weak:
		return Strip{}, refuse(NoWhite, "What should be white is coloured", "Press on something white.")
	}
	at := func(p Point) Lab { c, _ := colourAt(img, p); return c.lab(lamp) }
	slices.SortFunc(chart, func(a, b Patch) int { return int(math.Copysign(1, a.Value-b.Value)) })
	fields := make([]Lab, len(chart))
	for i, c := range chart {
		fields[i] = at(c.Point)
		if i > 0 && Difference(fields[i-1], fields[i]) < tellApart {
			return Strip{}, refuse(NoMatch, fmt.Sprintf("On this photo the fields for %g and %g look alike", chart[i-1].Value,
				c.Value), "Daylight, and press the middle of each field.")
		}
	}
	return nearest(at(pad), fields, chart)
}

func checkPlaces(white, pad Point, chart []Patch) error {
	if n := len(chart); n < leastPatches || n > mostPatches {
		return &units.OutOfRange{Field: "chart", Value: fmt.Sprintf("%d fields", n),
			Allowed: fmt.Sprintf("%d to %d", leastPatches, mostPatches)}
	}
	for i, c := range chart {
		if err := c.Check("chart"); err != nil {
			return err
		}
		if slices.ContainsFunc(chart[:i], func(o Patch) bool { return o.Value == c.Value }) {
			return &units.OutOfRange{Field: "chart", Value: fmt.Sprintf("%g twice", c.Value), Allowed: "each value once"}
		}
	}
	if err := white.Check("white"); err != nil {
		return err
	}
	return pad.Check("pad")
}

// colourAt is the colour round a place, and whether a channel of it is at its end.
func colourAt(img image.Image, p Point) (mean linear, clipped bool) {
	b := img.Bounds()
	r := max(2, int(looksAt*float64(min(b.Dx(), b.Dy()))))
	x, y := b.Min.X+int(p.X*float64(b.Dx()-1)), b.Min.Y+int(p.Y*float64(b.Dy()-1))
	n, ends := 0.0, 0.0
	for v := max(b.Min.Y, y-r); v < min(b.Max.Y, y+r+1); v++ {
		for u := max(b.Min.X, x-r); u < min(b.Max.X, x+r+1); u++ {
			red, green, blue, _ := img.At(u, v).RGBA()
			end := false
			for k, c := range [3]uint32{red, green, blue} {
				mean[k] += levels[c>>8]
				end = end || c>>8 >= 254
			}
			if n++; end {
				ends++
			}
		}
	}
	for k := range mean {
		mean[k] /= n
	}
	return mean, ends > n/2
}

// nearest is the field that a pad comes nearest to, or the two that it lies between.
func nearest(pad Lab, fields []Lab, chart []Patch) (Strip, error) {
	by := make([]float64, len(fields))
	best := 0
	for i, f := range fields {
		if by[i] = Difference(pad, f); by[i] < by[best] {
			best = i
		}
	}
	if by[best] > nearEnough {
		return Strip{}, refuse(NoMatch, "The pad is like no field of the chart", "Is it this strip's own chart? Was the "+
			"pad read at its time, and wet all over?")
	}
	next := -1
	for i := range by {
		if i != best && (next < 0 || by[i] < by[next]) {
			next = i
		}
	}
	s := Strip{Value: chart[best].Value, Low: chart[best].Value, High: chart[best].Value, Apart: by[best],
		Sure: sureness(by[best], by[next])}
	if beside := next - best; s.Sure == Between && (beside == 1 || beside == -1) {
		s.Low, s.High = min(chart[best].Value, chart[next].Value), max(chart[best].Value, chart[next].Value)
	}
	s.Because = []reason.Reason{
		{Source: reason.Source{Kind: reason.Published, Which: "CIEDE2000, Sharma, Wu & Dalal 2005, Color Res. Appl. 30:21"},
			Text: fmt.Sprintf("The pad is %.0f from the field for %g and %.0f from that for %g.", by[best], chart[best].Value,
				by[next], chart[next].Value)},
		{Source: reason.Ours, Text: "Tried on drawn pictures only. The strip's own chart, seen by your own eyes, goes " +
			"first."}}
	return s, nil
}
