package report

import (
	_ "embed"
	"encoding/json"
	"fmt"
	"math"
	"strconv"
	"strings"

	"codeberg.org/go-pdf/fpdf"

	"freshanvil/core/inspect"
)

//go:embed sights.json
var sightsJSON []byte

// shape is one outline of a drawing, as web/sights.js writes it: a path in absolute M, L, C and Z, of a square of 240.
type shape struct {
	D     string    `json:"d"`
	Fill  string    `json:"fill"` // paper, ink, act, or a pattern; empty for none
	Ink   string    `json:"ink"`  // of the line; empty for none
	Width float64   `json:"width"`
	Dash  []float64 `json:"dash"`
}

// square is the side of the drawings.
const square = 240.0

// shapes are the drawings by sight and verdict.
var shapes = func() map[string][]shape {
	var all map[string][]shape
	if err := json.Unmarshal(sightsJSON, &all); err != nil {
		panic(fmt.Sprintf("sights.json: %v; make sights writes it", err))
	}
	return all
}()

type colour [3]int

// The inks of paper.
var inks = map[string]colour{"ink": {22, 24, 29}, "act": {31, 63, 191}, "stop": {192, 33, 30}, "rule": {190, 186, 174},
	"grey": {90, 92, 98}, "paper": {255, 255, 255}}

// sight draws what was seen in a square with its upper left corner at x, y and a side in mm.
func (w *writer) sight(sight inspect.Sight, verdict inspect.Verdict, x, y, side float64) {
	k := side / square
	for _, s := range shapes[string(sight)+" "+string(verdict)] {
		path := parsePath(s.D)
		if s.Fill != "" {
			w.fill(path, s.Fill, x, y, k)
		}
		if s.Ink == "" {
			continue
		}
		w.stroke(inks[s.Ink])
		w.pdf.SetLineWidth(s.Width * k)
		if len(s.Dash) > 0 {
			dash := make([]float64, len(s.Dash))
			for i, d := range s.Dash {
				dash[i] = d * k
			}
			w.pdf.SetDashPattern(dash, 0)
		}
		w.trace(path, x, y, k)
		w.pdf.DrawPath("D")
		w.pdf.SetDashPattern(nil, 0)
	}
}

// fill lays ink, paper or a pattern under an outline. Patterns keep to it by being cut at its corners.
func (w *writer) fill(path []move, with string, x, y, k float64) {
	if c, plain := inks[with]; plain {
		w.pdf.SetFillColor(c[0], c[1], c[2])
		w.trace(path, x, y, k)
		w.pdf.DrawPath("F")
		return
	}
	corners := flat(path, x, y, k)
	if len(corners) < 3 {
		return
	}
	// before it is cut: what is set within holds within alone, and the writer would take it to hold for what follows
	ink := inks["ink"]
	w.pdf.SetFillColor(ink[0], ink[1], ink[2])
	w.stroke(ink)
	w.pdf.SetLineWidth(2 * k)
	w.pdf.ClipPolygon(corners, false)
	defer w.pdf.ClipEnd()
	if with == "hatch" {
		for at := -square; at < square; at += 9 * math.Sqrt2 {
			w.pdf.Line(x+at*k, y+square*k, x+(at+square)*k, y)
		}
		return
	}
	step, r := 13.0, 1.8 // the patterns of SightPicture.svelte
	switch with {
	case "thick":
		step, r = 7, 2.1
	case "full":
		step, r = 4.6, 1.9
	}
	for gy := step / 2; gy < square; gy += step {
		for gx := step / 2; gx < square; gx += step {
			w.pdf.Circle(x+gx*k, y+gy*k, r*k, "F")
		}
	}
}

// move is one step of a path: M, L or C with their points, or Z.
type move struct {
	kind byte
	to   []float64
}

func parsePath(d string) []move {
	var list []move
	for i := 0; i < len(d); {
		end := i + 1
		for end < len(d) && !strings.ContainsRune("MLCZ", rune(d[end])) {
			end++
		}
		m := move{kind: d[i]}
		for _, f := range strings.Fields(d[i+1 : end]) {
			n, _ := strconv.ParseFloat(f, 64)
			m.to = append(m.to, n)
		}
		list = append(list, m)
		i = end
	}
	return list
}

// trace lays a path out, to be drawn or filled.
func (w *writer) trace(path []move, x, y, k float64) {
	for _, m := range path {
		p := make([]float64, len(m.to))
		for i, v := range m.to {
			p[i] = x + v*k
			if i%2 == 1 {
				p[i] = y + v*k
			}
		}
		switch m.kind {
		case 'M':
			w.pdf.MoveTo(p[0], p[1])
		case 'L':
			w.pdf.LineTo(p[0], p[1])
		case 'C':
			w.pdf.CurveBezierCubicTo(p[0], p[1], p[2], p[3], p[4], p[5])
		case 'Z':
			w.pdf.ClosePath()
		}
	}
}

// flat are the corners of a path, its curves in eight parts each.
func flat(path []move, x, y, k float64) []fpdf.PointType {
	const parts = 8
	var list []fpdf.PointType
	var px, py float64
	add := func(ax, ay float64) {
		list = append(list, fpdf.PointType{X: x + ax*k, Y: y + ay*k})
	}
	for _, m := range path {
		switch m.kind {
		case 'M', 'L':
			px, py = m.to[0], m.to[1]
			add(px, py)
		case 'C':
			for i := 1; i <= parts; i++ {
				t := float64(i) / parts
				u := 1 - t
				at := func(a, b, c, d float64) float64 { return u*u*u*a + 3*u*u*t*b + 3*u*t*t*c + t*t*t*d }
				add(at(px, m.to[0], m.to[2], m.to[4]), at(py, m.to[1], m.to[3], m.to[5]))
			}
			px, py = m.to[4], m.to[5]
		}
	}
	return list
}
