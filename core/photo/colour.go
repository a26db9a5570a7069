package photo

import "math"

// Lab is a colour of CIELAB (CIE 15:2004) under daylight D65: lightness 0 to 100, red against green, yellow against
// blue.
type Lab struct{ L, A, B float64 }

// linear is a colour by the light of its three primaries, 0 to 1.
type linear [3]float64

// toLinear undoes the transfer curve of sRGB (IEC 61966-2-1), for values from 0 to 1.
func toLinear(v float64) float64 {
	if v <= 0.04045 {
		return v / 12.92
	}
	return math.Pow((v+0.055)/1.055, 2.4)
}

// primaries are those of sRGB in XYZ under D65 (IEC 61966-2-1).
var primaries = [3][3]float64{
	{0.4124564, 0.3575761, 0.1804375}, {0.2126729, 0.7151522, 0.0721750}, {0.0193339, 0.1191920, 0.9503041},
}

// whitePoint is what the three primaries come to together.
var whitePoint = [3]float64{0.9504700, 1.0000001, 1.0888300}

// lab is a colour beside what is white under the same light: each primary is taken as a share of the white's
// (von Kries), so that the lamp and the camera fall out.
func (c linear) lab(white linear) Lab {
	var f [3]float64
	for i, row := range primaries {
		x := 0.0
		for k := range row {
			x += row[k] * c[k] / white[k]
		}
		f[i] = curve(x / whitePoint[i])
	}
	return Lab{116*f[1] - 16, 500 * (f[0] - f[1]), 200 * (f[1] - f[2])}
}

// curve is that of CIELAB: a cube root, straight near black.
func curve(t float64) float64 {
	const edge = 6.0 / 29
	if t > edge*edge*edge {
		return math.Cbrt(t)
	}
	return t/(3*edge*edge) + 4.0/29
}

// Difference is how far apart two colours look, CIEDE2000: 1 is about the least that is seen side by side. Source:
// Sharma, Wu & Dalal 2005, Color Res. Appl. 30:21.
func Difference(p, q Lab) float64 {
	bar := (math.Hypot(p.A, p.B) + math.Hypot(q.A, q.B)) / 2
	g := 0.5 * (1 - math.Sqrt(pow7(bar)/(pow7(bar)+pow7(25))))
	c1, h1 := polar(p.A*(1+g), p.B)
	c2, h2 := polar(q.A*(1+g), q.B)
	dh, hue := between(h1, h2, c1*c2 == 0)
	dL, dC, dH := q.L-p.L, c2-c1, 2*math.Sqrt(c1*c2)*sin(dh/2)
	light, chroma := (p.L+q.L)/2, (c1+c2)/2

	t := 1 - 0.17*cos(hue-30) + 0.24*cos(2*hue) + 0.32*cos(3*hue+6) - 0.20*cos(4*hue-63)
	turn := 30 * math.Exp(-math.Pow((hue-275)/25, 2))
	rc := 2 * math.Sqrt(pow7(chroma)/(pow7(chroma)+pow7(25)))
	sl := 1 + 0.015*math.Pow(light-50, 2)/math.Sqrt(20+math.Pow(light-50, 2))
	sc, sh := 1+0.045*chroma, 1+0.015*chroma*t
	l, c, h := dL/sl, dC/sc, dH/sh
	return math.Sqrt(l*l + c*c + h*h - sin(2*turn)*rc*c*h)
}

func pow7(x float64) float64 { return math.Pow(x, 7) }

func sin(degrees float64) float64 { return math.Sin(degrees * math.Pi / 180) }
func cos(degrees float64) float64 { return math.Cos(degrees * math.Pi / 180) }

// polar is chroma and hue, degrees from 0 to 360; grey has the hue 0.
func polar(a, b float64) (chroma, hue float64) {
	if chroma = math.Hypot(a, b); chroma == 0 {
		return 0, 0
	}
	if hue = math.Atan2(b, a) * 180 / math.Pi; hue < 0 {
		hue += 360
	}
	return chroma, hue
}

// between is the difference of two hues and their mean, the short way round; with a grey there is no difference, and
// the mean is the other's hue.
func between(h1, h2 float64, grey bool) (difference, mean float64) {
	switch d := h2 - h1; {
	case grey:
		return 0, h1 + h2
	case math.Abs(d) <= 180:
		return d, (h1 + h2) / 2
	case d > 180:
		difference = d - 360
	default:
		difference = d + 360
	}
	if h1+h2 < 360 {
		return difference, (h1 + h2 + 360) / 2
	}
	return difference, (h1 + h2 - 360) / 2
}
