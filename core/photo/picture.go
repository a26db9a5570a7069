package photo

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	_ "image/jpeg" // a photo is one of these
	_ "image/png"
	"math"
	"slices"

	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// The bounds of a photo: a side below which nothing is counted, and the pixels that are decoded at most; the side on
// which it is judged.
const (
	leastSide  = 200
	mostBytes  = 12e6 * 4 // of a picture once it is read: twelve million pixels at eight bits
	judgedSide = 400
)

// Why a photo is refused.
const (
	Unreadable reason.Code = "photo_unreadable"
	TooSmall   reason.Code = "photo_too_small"
	TooDark    reason.Code = "photo_too_dark"
	TooBright  reason.Code = "photo_too_bright"
	NoWhite    reason.Code = "photo_no_white"
	NotSharp   reason.Code = "photo_not_sharp"
	Mirrors    reason.Code = "photo_mirrors"
	NotCoffee  reason.Code = "photo_not_coffee"
	NoMatch    reason.Code = "photo_no_match"
)

// picture is a photo, linear and square: its middle, as large as its shorter side.
type picture struct {
	side int
	px   []linear
	// clipped marks what a channel of is at its end: more light would not have shown.
	clipped []bool
}

// Decode reads a photo, JPEG or PNG. One that cannot be read, or is too large, is a *reason.Refusal.
func Decode(data []byte) (image.Image, error) {
	config, _, err := image.DecodeConfig(bytes.NewReader(data))
	if err != nil || float64(config.Width)*float64(config.Height)*bytesOf(config.ColorModel) > mostBytes {
		return nil, refuse(Unreadable, "This is no photo that can be read", "A JPEG or a PNG, of 12 million pixels at most.")
	}
	img, _, err := image.Decode(bytes.NewReader(data))
	if err != nil {
		return nil, refuse(Unreadable, "This is no photo that can be read", "Take it again, as a JPEG or a PNG.")
	}
	return img, nil
}

// bytesOf is what a pixel of a model takes once it is read.
func bytesOf(m color.Model) float64 {
	switch m {
	case color.GrayModel, color.AlphaModel:
		return 1
	case color.Gray16Model, color.Alpha16Model:
		return 2
	case color.RGBA64Model, color.NRGBA64Model:
		return 8
	}
	return 4
}

func refuse(code reason.Code, title string, next ...string) *reason.Refusal {
	return reason.Refuse(code, title).Of("photo", title, "an even, sharp photo with something white in it").
		Why(reason.Ours, "A photo that cannot be judged is worse than none: what it proposes would be a guess.").
		Instead(append(next, "Or look yourself, and choose what is nearest.")...)
}

// square takes the middle of a photo, as large as its shorter side, at the side on which it is judged.
func square(img image.Image) (*picture, error) {
	b := img.Bounds()
	short := min(b.Dx(), b.Dy())
	if short < leastSide {
		return nil, refuse(TooSmall, fmt.Sprintf("It is only %d pixels high or wide", short), "Take it from nearer.")
	}
	p := &picture{side: min(short, judgedSide)}
	p.px, p.clipped = make([]linear, p.side*p.side), make([]bool, p.side*p.side)
	x0, y0 := b.Min.X+(b.Dx()-short)/2, b.Min.Y+(b.Dy()-short)/2
	for y := range p.side {
		for x := range p.side {
			p.average(img, x, y, x0+x*short/p.side, y0+y*short/p.side, x0+(x+1)*short/p.side, y0+(y+1)*short/p.side)
		}
	}
	return p, nil
}

// average is one pixel of the square by those of the photo under it.
func (p *picture) average(img image.Image, x, y, fromX, fromY, toX, toY int) {
	var sum linear
	n, at := 0.0, y*p.side+x
	for v := fromY; v < max(toY, fromY+1); v++ {
		for u := fromX; u < max(toX, fromX+1); u++ {
			r, g, b, _ := img.At(u, v).RGBA()
			for k, c := range [3]uint32{r, g, b} {
				sum[k] += levels[c>>8]
				p.clipped[at] = p.clipped[at] || c>>8 >= 254
			}
			n++
		}
	}
	for k := range sum {
		p.px[at][k] = sum[k] / n
	}
}

// levels are the 256 values of a channel, linear.
var levels = func() (list [256]float64) {
	for i := range list {
		list[i] = toLinear(float64(i) / 255)
	}
	return list
}()

// light is how light a pixel is.
func (c linear) light() float64 {
	return primaries[1][0]*c[0] + primaries[1][1]*c[1] + primaries[1][2]*c[2]
}

// ring lists the pixels between two distances from the middle, as shares of the side.
func (p *picture) ring(from, to float64) (list []int) {
	middle := float64(p.side-1) / 2
	for y := range p.side {
		for x := range p.side {
			if d := math.Hypot(float64(x)-middle, float64(y)-middle) / float64(p.side); d >= from && d < to {
				list = append(list, y*p.side+x)
			}
		}
	}
	return list
}

// What counts as white (our own engineering choices): the lighter part of what should be white, of at least this
// light; clipped in no more than a share; evenly lit; and not more coloured than a lamp makes it.
const (
	whiteFrom, whiteTo = 0.5, 0.95 // of its pixels, by light
	whiteLeast         = 0.12
	mostClipped        = 0.15
	leastEven          = 0.55 // the darkest fifth beside the lightest tenth
	mostTinted         = 2.8  // its strongest primary beside its weakest
)

// white is the white that a photo shows where something white should be.
func (p *picture) white(of []int) (linear, error) {
	slices.SortFunc(of, func(a, b int) int { return int(math.Copysign(1, p.px[a].light()-p.px[b].light())) })
	n := len(of)
	share := func(x float64) float64 { return p.px[of[min(n-1, int(x*float64(n)))]].light() }
	clipped := 0
	var sum linear
	from, to := int(whiteFrom*float64(n)), int(whiteTo*float64(n))
	for i, at := range of {
		if p.clipped[at] {
			clipped++
		}
		if i >= from && i < to {
			for k := range sum {
				sum[k] += p.px[at][k] / float64(to-from)
			}
		}
	}
	switch strong, weak := slices.Max(sum[:]), slices.Min(sum[:]); {
	case sum.light() < whiteLeast:
		return sum, refuse(TooDark, "It is too dark", "More light: at a window, without the flash.")
	case float64(clipped) > mostClipped*float64(n):
		return sum, refuse(TooBright, "The white is too bright: its colour is lost", "Less light, or tap on the white "+
			"before you take it.")
	case share(0.2) < leastEven*share(0.9):
		return sum, refuse(NoWhite, "There is no even white round the water", "A white cup, straight from above, its "+
			"wall in the ring, without a shadow over it.")
	case strong > mostTinted*weak:
		return sum, refuse(NoWhite, "What should be white is coloured", "A white cup or a white card, in daylight.")
	}
	return sum, nil
}

// leastSharp is how fast light changes at the sharpest places of a photo that is sharp enough to count grains in (our
// own engineering choice): the share of the white, from one pixel to the next but one.
const leastSharp = 0.12

// sharp says whether a photo is.
func (p *picture) sharp(white linear) bool {
	var steps []float64
	for y := range p.side - 2 {
		for x := range p.side - 2 {
			at := y*p.side + x
			here := p.px[at].light()
			steps = append(steps, math.Max(math.Abs(p.px[at+2].light()-here), math.Abs(p.px[at+2*p.side].light()-here)))
		}
	}
	slices.Sort(steps)
	return steps[len(steps)*998/1000] >= leastSharp*white.light()
}

// Point is a place on a photo, as shares of its width and height from its upper left corner.
type Point struct{ X, Y float64 }

// Check refuses a place that is not on the photo; the error is a *units.OutOfRange.
func (p Point) Check(field string) error {
	if !(p.X >= 0 && p.X <= 1 && p.Y >= 0 && p.Y <= 1) {
		return &units.OutOfRange{Field: field, Value: fmt.Sprintf("%g, %g", p.X, p.Y), Allowed: "0 to 1 each: a place " +
			"on the photo"}
	}
	return nil
}

// Circle is a place with a radius, as a share of the width.
type Circle struct {
	Point
	R float64
}
