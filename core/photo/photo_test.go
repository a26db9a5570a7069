package photo

import (
	"bytes"
	"errors"
	"flag"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"math"
	"math/rand/v2"
	"os"
	"testing"

	"freshanvil/core/backflush"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

var write = flag.Bool("write", false, "draw the pictures of testdata anew")

// drawing is a picture of a cup from above, drawn: what the lamp is like, what is in it, how many grains swim in it.
type drawing struct {
	side    int
	lamp    [3]float64 // of white, linear
	water   [3]float64 // as a share of white, linear
	grains  int
	wall    float64 // how white the cup is
	shadow  float64 // how much darker its left side is
	mirror  float64 // radius of a lamp in the water, as a share of the side
	blurred int     // pixels
	noise   float64
}

var waters = map[backflush.Colour][3]float64{backflush.ColourClear: {0.93, 0.93, 0.88}, backflush.ColourPale: {0.78,
	0.68,
	0.46}, backflush.ColourBrown: {0.42, 0.24, 0.08}, backflush.ColourDark: {0.10, 0.05, 0.022}}

func daylight(water [3]float64) drawing {
	return drawing{side: 300, lamp: [3]float64{0.8, 0.8, 0.8}, water: water, wall: 0.97}
}

// grainsAt is where grains swim, each apart from all others.
var grainsAt = func() (list [24]Point) {
	for i := range list {
		a, far := float64(i)*2.4, 0.03+0.18*math.Sqrt(float64(i)/float64(len(list)))
		list[i] = Point{0.5 + far*math.Cos(a), 0.5 + far*math.Sin(a)}
	}
	return list
}()

// at is the light of a place, as a share of white.
func (d drawing) at(x, y float64) [3]float64 {
	r := math.Hypot(x-0.5, y-0.5)
	even := 1 - d.shadow*math.Max(0, 0.5-x)*2
	grey := func(v float64) [3]float64 { return [3]float64{v * even, v * even, v * even} }
	for _, g := range grainsAt[:d.grains] {
		if dx, dy := x-g.X, y-g.Y; dx*dx+dy*dy < 0.008*0.008 {
			return [3]float64{0.03, 0.02, 0.015}
		}
	}
	switch {
	case r < d.mirror:
		return grey(1.4)
	case r < 0.31:
		return [3]float64{d.water[0] * even, d.water[1] * even, d.water[2] * even}
	case r < 0.47:
		return grey(d.wall)
	}
	return [3]float64{0.30 * even, 0.20 * even, 0.12 * even} // a wooden table
}

func (d drawing) draw() image.Image {
	img := image.NewRGBA(image.Rect(0, 0, d.side, d.side*5/4)) // upright, as phones take them
	rnd := rand.New(rand.NewPCG(1, 2))
	n, step := max(1, min(12, d.blurred)), float64(d.blurred)/12
	for v := range d.side * 5 / 4 {
		for u := range d.side {
			var sum [3]float64
			for i := range n * n { // out of focus
				for k, c := range d.at((float64(u)+step*float64(i%n))/float64(d.side),
					(float64(v)-float64(d.side)/8+step*float64(i/n))/float64(d.side)) {
					sum[k] += c / float64(n*n)
				}
			}
			var px [3]uint8
			for k, c := range sum {
				c = c*d.lamp[k] + d.noise*rnd.NormFloat64()
				c = math.Max(0, math.Min(1, c))
				if c <= 0.0031308 {
					c *= 12.92
				} else {
					c = 1.055*math.Pow(c, 1/2.4) - 0.055
				}
				px[k] = uint8(math.Round(c * 255))
			}
			img.SetRGBA(u, v, color.RGBA{px[0], px[1], px[2], 255})
		}
	}
	return img
}

// Each grade is found under a window, a warm lamp and a cold one, with a camera's noise, also after JPEG; each with as
// many grains as were drawn. What it was tried on are these drawings, and nothing else.
func TestDrawnCups(t *testing.T) {
	for colour, water := range waters {
		for name, lamp := range map[string][3]float64{"window": {0.8, 0.8, 0.8}, "warm": {0.85, 0.62, 0.36},
			"cold": {0.55, 0.66, 0.8}} {
			for _, grains := range map[string][]int{"window": {0, 7}, "warm": {2}, "cold": {24}}[name] {
				t.Run(string(colour)+" "+name, func(t *testing.T) {
					d := daylight(water)
					d.lamp, d.grains, d.noise, d.shadow = lamp, grains, 0.004, 0.15
					var buf bytes.Buffer
					if err := jpeg.Encode(&buf, d.draw(), &jpeg.Options{Quality: 88}); err != nil {
						t.Fatal(err)
					}
					img, err := Decode(buf.Bytes())
					if err != nil {
						t.Fatal(err)
					}
					c, err := JudgeCup(img)
					if err != nil || c.Colour != colour || c.Sure == Between || len(c.Because) == 0 {
						t.Fatalf("%v %s, %s, %+v", err, c.Colour, c.Sure, c.Seen)
					}
					want := map[int]backflush.Grains{0: backflush.GrainsNone, 2: backflush.GrainsFew, 7: backflush.GrainsSome,
						24: backflush.GrainsMany}[grains]
					if colour == backflush.ColourDark {
						if want = ""; c.Counted != -1 {
							t.Errorf("%d grains counted in the dark", c.Counted)
						}
					} else if c.Counted != grains || len(c.Marks) != grains {
						t.Errorf("%d grains of %d", c.Counted, grains)
					}
					if c.Grains != want {
						t.Errorf("grade %q, want %q", c.Grains, want)
					}
				})
			}
		}
	}
}

// Half way between two grades it says so.
func TestBetweenTwoGrades(t *testing.T) {
	c, err := JudgeCup(daylight([3]float64{0.60, 0.44, 0.22}).draw())
	if err != nil || c.Sure == FairlySure || c.Colour == c.Or {
		t.Errorf("%v %+v", err, c)
	}
	between := 0
	for _, pair := range [][2]backflush.Colour{{backflush.ColourClear, backflush.ColourPale},
		{backflush.ColourPale, backflush.ColourBrown}, {backflush.ColourBrown, backflush.ColourDark}} {
		for share := 0.3; share < 0.75; share += 0.05 { // the dirtier of the two is proposed
			var mixed [3]float64
			for i := range mixed {
				mixed[i] = (1-share)*waters[pair[0]][i] + share*waters[pair[1]][i]
			}
			c, err := JudgeCup(daylight(mixed).draw())
			if err == nil && c.Sure == Between {
				between++
				if c.Colour != pair[1] || c.Or != pair[0] {
					t.Errorf("%.2f from %s to %s: %s, or %s", share, pair[0], pair[1], c.Colour, c.Or)
				}
			}
		}
	}
	if between == 0 {
		t.Error("nothing lay between two grades")
	}
}

// What cannot be judged is refused by its own reason, with what to do.
func TestRefusals(t *testing.T) {
	clear, brown := waters[backflush.ColourClear], waters[backflush.ColourBrown]
	for name, c := range map[string]struct {
		change func(*drawing)
		water  [3]float64
		want   reason.Code
	}{
		"too small":    {func(d *drawing) { d.side = 150 }, clear, TooSmall},
		"dark":         {func(d *drawing) { d.lamp = [3]float64{0.06, 0.06, 0.06} }, clear, TooDark},
		"too bright":   {func(d *drawing) { d.lamp = [3]float64{1.3, 1.3, 1.3} }, brown, TooBright},
		"a shadow":     {func(d *drawing) { d.shadow = 0.9 }, brown, NoWhite},
		"a red cup":    {func(d *drawing) { d.lamp = [3]float64{0.8, 0.2, 0.15} }, brown, NoWhite},
		"out of focus": {func(d *drawing) { d.blurred = 24 }, clear, NotSharp},
		"a lamp":       {func(d *drawing) { d.mirror = 0.09 }, brown, Mirrors},
		"blue":         {func(*drawing) {}, [3]float64{0.35, 0.62, 0.80}, NotCoffee},
		"green":        {func(*drawing) {}, [3]float64{0.45, 0.75, 0.55}, NotCoffee},
		"red":          {func(*drawing) {}, [3]float64{0.60, 0.08, 0.08}, NotCoffee},
	} {
		t.Run(name, func(t *testing.T) {
			d := daylight(c.water)
			c.change(&d)
			got, err := JudgeCup(d.draw())
			var no *reason.Refusal
			if !errors.As(err, &no) || no.Code != c.want || len(no.Finding.Next) < 2 {
				t.Errorf("%v, %+v", err, got)
			}
		})
	}
	var no *reason.Refusal
	if _, err := Decode([]byte("GIF89a")); !errors.As(err, &no) || no.Code != Unreadable {
		t.Errorf("no photo: %v", err)
	}
}

// strip draws a pad beside a chart of five fields, under a lamp; the pad is of a field, or lies so far between it and
// the next.
func strip(lamp [3]float64, field int, between float64) (image.Image, Point, Point, []Patch) {
	colours := [][3]float64{{0.85, 0.42, 0.10}, {0.80, 0.62, 0.14}, {0.55, 0.62, 0.18}, {0.22, 0.50, 0.24}, {0.10, 0.30,
		0.34}}
	d := drawing{side: 400, lamp: lamp}
	img := d.draw().(*image.RGBA)
	fill := func(x0, y0, x1, y1 int, c [3]float64) {
		one := drawing{side: 400, lamp: lamp, water: c}
		var px [3]uint8
		for k := range c {
			v := math.Min(1, one.water[k]*lamp[k])
			px[k] = uint8(math.Round(255 * (1.055*math.Pow(v, 1/2.4) - 0.055)))
		}
		for y := y0; y < y1; y++ {
			for x := x0; x < x1; x++ {
				img.SetRGBA(x, y, color.RGBA{px[0], px[1], px[2], 255})
			}
		}
	}
	fill(0, 0, 400, 500, [3]float64{0.95, 0.95, 0.95})
	var chart []Patch
	for i, c := range colours {
		fill(20+i*75, 60, 75+i*75, 120, c)
		chart = append(chart, Patch{Point{(47.0 + float64(i)*75) / 399, 90.0 / 499}, 6 + float64(i)*0.5})
	}
	pad := colours[field]
	if between > 0 {
		for k := range pad {
			pad[k] += between * (colours[field+1][k] - pad[k])
		}
	}
	fill(150, 300, 250, 400, pad)
	return img, Point{0.05, 0.9}, Point{0.5, 0.7}, chart
}

// A pad is found on its own chart under three lamps; one that lies between two fields gives both; a chart whose fields
// look alike, a pad that is like none, a white that is none, and places that cannot be are refused.
func TestDrawnStrips(t *testing.T) {
	for _, lamp := range [][3]float64{{0.8, 0.8, 0.8}, {0.85, 0.62, 0.36}, {0.55, 0.66, 0.8}} {
		for field := range 5 {
			img, white, pad, chart := strip(lamp, field, 0)
			s, err := JudgeStrip(img, white, pad, chart)
			if err != nil || s.Value != 6+float64(field)*0.5 || s.Low != s.High || s.Sure != FairlySure {
				t.Errorf("field %d: %v %+v", field, err, s)
			}
		}
		img, white, pad, chart := strip(lamp, 2, 0.5)
		if s, err := JudgeStrip(img, white, pad, chart); err != nil || s.Low != 7 || s.High != 7.5 {
			t.Errorf("between 7 and 7.5: %v %+v", err, s)
		}
	}
	img, white, pad, chart := strip([3]float64{0.8, 0.8, 0.8}, 1, 0)
	var no *reason.Refusal
	if _, err := JudgeStrip(img, chart[0].Point, pad, chart); !errors.As(err, &no) || no.Code != NoWhite {
		t.Errorf("an orange white: %v", err)
	}
	same := []Patch{{chart[0].Point, 6}, {chart[0].Point, 7}}
	if _, err := JudgeStrip(img, white, pad, same); !errors.As(err, &no) || no.Code != NoMatch {
		t.Errorf("two alike: %v", err)
	}
	if _, err := JudgeStrip(img, white, chart[0].Point, chart[2:]); !errors.As(err, &no) || no.Code != NoMatch {
		t.Errorf("a pad like none: %v", err)
	}
	var bad *units.OutOfRange
	for field, call := range map[string]func() (Strip, error){
		"white": func() (Strip, error) { return JudgeStrip(img, Point{2, 0}, pad, chart) },
		"pad":   func() (Strip, error) { return JudgeStrip(img, white, Point{0, -1}, chart) },
		"chart": func() (Strip, error) { return JudgeStrip(img, white, pad, chart[:1]) },
	} {
		if _, err := call(); !errors.As(err, &bad) || bad.Field != field {
			t.Errorf("%s: %v", field, err)
		}
	}
}

// The pictures of testdata are these drawings: the browser's tests hand them in.
func TestPicturesAreKept(t *testing.T) {
	blue := daylight([3]float64{0.35, 0.62, 0.80})
	brown := daylight(waters[backflush.ColourBrown])
	brown.grains = 6
	for name, d := range map[string]drawing{"brown": brown, "blue": blue} {
		file := "testdata/" + name + ".png"
		var buf bytes.Buffer
		if err := png.Encode(&buf, d.draw()); err != nil {
			t.Fatal(err)
		}
		if *write {
			if err := os.WriteFile(file, buf.Bytes(), 0o644); err != nil {
				t.Fatal(err)
			}
		}
		data, err := os.ReadFile(file)
		if err != nil {
			t.Fatal(err)
		}
		img, err := Decode(data)
		if err != nil || img.Bounds().Dx() != d.side {
			t.Errorf("%s: %v", file, err)
		}
	}
}
