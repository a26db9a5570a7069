// Package photo looks at a photo of a cup of rinse water, or of a test strip beside its chart, and says what it is
// nearest to, and how sure that is. The white of the cup or of a card takes the lamp and the camera out.
//
// It proposes, and decides nothing. It refuses what it cannot judge. It was tried on drawn pictures only (its tests
// draw them): of real photos it claims nothing.
package photo

import (
	"fmt"
	"image"
	"math"
	"slices"

	"freshanvil/core/backflush"
	"freshanvil/core/reason"
)

// Where on a photo what is looked for, as shares of its shorter side from its middle: the water in the middle, the
// white wall of the cup round it. Whoever takes it sees these rings.
const (
	Water             = 0.27
	WallFrom, WallTo  = 0.37, 0.45
	grainsWithin      = 0.25
	darkerBy          = 16.0 // L* below the water's: a grain
	leastGrain        = 3    // pixels of the judged square
	mostGrain         = 400
	mostMirrored      = 0.03
	farthest          = 16.0 // CIEDE2000 from all that is known: no colour of coffee in water
	sureFrom, soFrom  = 0.55, 0.25
	tooDarkForGrains  = 45.0
	blueFrom, blueHue = 8.0, 110.0
)

// known are the colours of the grades, beside white (our own engineering choices, from drawn pictures).
var known = []struct {
	colour backflush.Colour
	lab    Lab
}{
	{backflush.ColourClear, Lab{96, -1, 2}}, {backflush.ColourPale, Lab{84, 3, 16}},
	{backflush.ColourBrown, Lab{58, 14, 34}}, {backflush.ColourDark, Lab{28, 12, 18}},
}

// Cup is what a photo of a cup from above is nearest to.
type Cup struct {
	Colour backflush.Colour
	Or     backflush.Colour // the next nearest
	Apart  float64          // CIEDE2000 from what it is nearest to
	Sure   Sure
	// Counted is how many grains were counted, Grains their grade; Counted is -1 where they cannot be.
	Counted int
	Grains  backflush.Grains
	Marks   []Circle // where each grain is
	Seen    Lab      // the water's colour beside the cup's white
	Because []reason.Reason
}

// Sure is how sure a proposal is.
type Sure string

// Nearer to one than to all others by far; nearer to it; between two.
const (
	FairlySure Sure = "fairly_sure"
	Likely     Sure = "likely"
	Between    Sure = "between"
)

func sureness(nearest, next float64) Sure {
	switch x := (next - nearest) / math.Max(1e-9, next+nearest); {
	case x >= sureFrom:
		return FairlySure
	case x >= soFrom:
		return Likely
	}
	return Between
}

// JudgeCup looks at a cup from above. What it cannot judge is a *reason.Refusal.
func JudgeCup(img image.Image) (Cup, error) {
	p, err := square(img)
	if err != nil {
		return Cup{}, err
	}
	white, err := p.white(p.ring(WallFrom, WallTo))
	if err != nil {
		return Cup{}, err
	}
	if !p.sharp(white) {
		return Cup{}, refuse(NotSharp, "It is not sharp", "Hold still, and tap on the cup before you take it.")
	}
	water := p.ring(0, Water)
	labs := make(map[int]Lab, len(water))
	mirrored := 0
	for _, at := range water {
		labs[at] = p.px[at].lab(white)
		if labs[at].L > 104 || p.clipped[at] {
			mirrored++
		}
	}
	if float64(mirrored) > mostMirrored*float64(len(water)) {
		return Cup{}, refuse(Mirrors, "A lamp mirrors in the water", "Turn the cup, or stand between it and the lamp.")
	}
	c := Cup{Seen: median(labs)}
	if err := c.name(); err != nil {
		return Cup{}, err
	}
	c.count(p, labs)
	return c, nil
}

// median is the colour that half of the water is lighter than, and so on: grains do not move it.
func median(labs map[int]Lab) Lab {
	of := func(get func(Lab) float64) float64 {
		list := make([]float64, 0, len(labs))
		for _, l := range labs {
			list = append(list, get(l))
		}
		slices.Sort(list)
		return list[len(list)/2]
	}
	return Lab{of(func(l Lab) float64 { return l.L }), of(func(l Lab) float64 { return l.A }),
		of(func(l Lab) float64 { return l.B })}
}

// name finds the grade that the water's colour is nearest to.
func (c *Cup) name() error {
	type far struct {
		colour backflush.Colour
		by     float64
	}
	list := make([]far, len(known))
	for i, k := range known {
		list[i] = far{k.colour, Difference(c.Seen, k.lab)}
	}
	slices.SortFunc(list, func(a, b far) int { return int(math.Copysign(1, a.by-b.by)) })
	chroma, hue := polar(c.Seen.A, c.Seen.B)
	if blue := chroma > blueFrom && hue > blueHue && hue < 320; blue || list[0].by > farthest {
		return refuse(NotCoffee, "This is no colour of coffee in water", "Blue or green is dissolved metal, not coffee: "+
			"in a descale finish this soak and rinse; deep blue: stop, and rinse.")
	}
	c.Sure = sureness(list[0].by, list[1].by)
	if c.Sure == Between && dirtier(list[1].colour, list[0].colour) { // a wash too many does no harm
		list[0], list[1] = list[1], list[0]
	}
	c.Colour, c.Apart, c.Or = list[0].colour, list[0].by, list[1].colour
	c.Because = []reason.Reason{
		{Source: reason.Source{Kind: reason.Published, Which: "CIEDE2000, Sharma, Wu & Dalal 2005, Color Res. Appl. 30:21"},
			Text: fmt.Sprintf("Beside the cup's white the water is %.0f from %s and %.0f from %s; 1 is about the least that is "+
				"seen side by side.", list[0].by, list[0].colour, list[1].by, list[1].colour)},
		{Source: reason.Ours, Text: "The grades' own colours, and all of this, were tried on drawn pictures only. Foam " +
			"is not judged: look for it yourself."}}
	return nil
}

// dirtier says whether one grade is dirtier than another: the grades stand in that order.
func dirtier(a, b backflush.Colour) bool {
	for _, k := range known { // whichever stands first is the cleaner
		if k.colour == a || k.colour == b {
			return k.colour == b && a != b
		}
	}
	return false
}

// count counts the grains: dark specks, each by itself.
func (c *Cup) count(p *picture, labs map[int]Lab) {
	c.Counted = -1
	if c.Seen.L < tooDarkForGrains {
		return
	}
	dark := map[int]bool{}
	for _, at := range p.ring(0, grainsWithin) {
		if labs[at].L < c.Seen.L-darkerBy {
			dark[at] = true
		}
	}
	c.Counted = 0
	for _, at := range p.ring(0, grainsWithin) {
		if !dark[at] {
			continue
		}
		speck := p.speck(at, dark)
		if len(speck) < leastGrain || len(speck) > mostGrain {
			continue
		}
		c.Counted++
		c.Marks = append(c.Marks, p.around(speck))
	}
	switch {
	case c.Counted == 0:
		c.Grains = backflush.GrainsNone
	case c.Counted <= 3:
		c.Grains = backflush.GrainsFew
	case c.Counted <= 10:
		c.Grains = backflush.GrainsSome
	default:
		c.Grains = backflush.GrainsMany
	}
}

// speck takes all that hangs together with a dark pixel away.
func (p *picture) speck(from int, dark map[int]bool) (list []int) {
	open := []int{from}
	delete(dark, from)
	for len(open) > 0 {
		at := open[len(open)-1]
		open, list = open[:len(open)-1], append(list, at)
		for _, d := range [8]int{-p.side - 1, -p.side, -p.side + 1, -1, 1, p.side - 1, p.side, p.side + 1} {
			if dark[at+d] {
				delete(dark, at+d)
				open = append(open, at+d)
			}
		}
	}
	return list
}

// around is the circle round a speck.
func (p *picture) around(speck []int) Circle {
	var x, y float64
	for _, at := range speck {
		x, y = x+float64(at%p.side), y+float64(at/p.side)
	}
	n, side := float64(len(speck)), float64(p.side)
	return Circle{Point{(x/n + 0.5) / side, (y/n + 0.5) / side}, (math.Sqrt(n/math.Pi) + 4) / side}
}
