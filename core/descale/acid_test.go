package descale

import (
	"encoding/csv"
	"errors"
	"math"
	"os"
	"strconv"
	"testing"
	"time"

	"freshanvil/core/units"
)

type row struct {
	acid     AcidID
	g, caco3 units.Strength
	ph       units.PH
	i, s     float64
	cloudy   bool
}

// table is testdata/acids.csv: PHREEQC 3 (Parkhurst & Appelo, US Geological Survey)
// with minteq.v4.dat, constants of NIST 46; lactic and sulfamic acid added from
// handbook pKa. It shares no code with this package.
func table(t testing.TB) (list []row) {
	t.Helper()
	file, err := os.Open("testdata/acids.csv")
	if err != nil {
		t.Fatal(err)
	}
	defer file.Close()
	lines, err := csv.NewReader(file).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	for _, l := range lines[1:] {
		num := func(i int) float64 {
			v, err := strconv.ParseFloat(l[i], 64)
			if err != nil {
				t.Fatal(err)
			}
			return v
		}
		r := row{acid: AcidID(l[0]), g: units.Strength(num(1)), caco3: units.Strength(num(2)), ph: units.PH(num(3)),
			i: num(4), cloudy: l[5] != ""}
		if r.cloudy {
			r.s = num(5)
		}
		list = append(list, r)
	}
	return list
}

// Every row of the table: pH within 0.02, what was dissolved from the pH within
// 2 % or 0.1 g/L up to pH 4.5, the saturation of calcium citrate within 0.05.
func TestEveryRowOfTheTable(t *testing.T) {
	rows := table(t)
	worstPH, worstS, worstTaken := 0.0, 0.0, 0.0
	for _, r := range rows {
		s, err := Dissolve(r.acid, r.g, r.caco3)
		if err != nil {
			t.Fatalf("%+v: %v", r, err)
		}
		worstPH = math.Max(worstPH, math.Abs(float64(s.PH-r.ph)))
		if math.Abs(float64(s.PH-r.ph)) > 0.02 || math.Abs(s.Strength-r.i) > 0.02*r.i+0.0005 {
			t.Errorf(
				"%s %v g/L with %v: pH %.3f, strength %.4f; the table %.3f, %.4f",
				r.acid,
				r.g,
				r.caco3,
				s.PH,
				s.Strength,
				r.ph,
				r.i,
			)
		}
		if r.cloudy {
			worstS = math.Max(worstS, math.Abs(s.Cloudy-r.s))
			if math.Abs(s.Cloudy-r.s) > 0.05 {
				t.Errorf("%s %v g/L with %v: index %.3f, the table %.3f", r.acid, r.g, r.caco3, s.Cloudy, r.s)
			}
		}
		if r.ph > 4.5 {
			continue
		}
		got, err := TakenUp(r.acid, r.g, r.ph)
		if err != nil {
			t.Fatal(err)
		}
		off := math.Abs(float64(got - r.caco3))
		worstTaken = math.Max(worstTaken, off)
		if off > math.Max(0.02*float64(r.caco3), 0.1) {
			t.Errorf("%s %v g/L at pH %.3f: %.3f g/L taken up, the table %v", r.acid, r.g, r.ph, got, r.caco3)
		}
	}
	if len(rows) != 122 {
		t.Errorf("%d rows", len(rows))
	}
	t.Logf(
		"%d rows: pH within %.4f, index within %.4f, taken up within %.3f g/L",
		len(rows),
		worstPH,
		worstS,
		worstTaken,
	)
}

// Limits by the table's own summary: grams of acid a gram of CaCO3, to pH 4 and
// until calcium citrate can drop out.
func TestLimits(t *testing.T) {
	for _, c := range []struct {
		id           AcidID
		g            units.Strength
		slow, cloudy float64
	}{{Citric, 10, 2.3, 3.4}, {Citric, 20, 2.2, 4.2}, {Citric, 30, 2.1, 4.6}, {Citric, 50, 2.0, 5.4},
		{Lactic, 30, 2.7, 0}, {Acetic, 50, 5.0, 0}, {Sulfamic, 30, 1.94, 0}} {
		l, err := LimitsOf(c.id, c.g)
		if err != nil {
			t.Fatal(err)
		}
		if got := float64(c.g / l.Slow); math.Abs(got-c.slow) > 0.06 {
			t.Errorf("%s %v g/L: %.3f g a gram to pH 4, want %v", c.id, c.g, got, c.slow)
		}
		if got := float64(c.g / l.Cloudy); math.Abs(got-c.cloudy) > 0.1 {
			t.Errorf("%s %v g/L: %.3f g a gram until cloudy, want %v", c.id, c.g, got, c.cloudy)
		}
	}
	// stoichiometry from molar masses: to full neutralisation 192.124 × 2 ÷ (3 × 100.087) = 1.28
	a, _ := find(Citric)
	if got := 30 / a.neutral(30); math.Abs(float64(got-1.28)) > 0.001 {
		t.Errorf("to neutral: %v g of citric acid a gram", got)
	}
}

// Between the rows of the table: more dissolved always shows a higher pH, and the
// pH leads back to what was dissolved.
func TestBetweenTheRows(t *testing.T) {
	for _, a := range acids {
		for g := units.Strength(4); g < 110; g *= 1.7 {
			before := units.PH(-1)
			for share := units.Strength(0); share < 0.9; share += 0.05 {
				x := share * a.neutral(g)
				s, err := Dissolve(a.id, g, x)
				if err != nil || s.PH <= before {
					t.Fatalf("%s %v g/L with %v: pH %v after %v, %v", a.id, g, x, s.PH, before, err)
				}
				before = s.PH
				if s.PH > 4.5 {
					continue
				}
				back, err := TakenUp(a.id, g, s.PH)
				if err != nil || math.Abs(float64(back-x)) > 1e-4*max(1, float64(x)) {
					t.Errorf("%s %v g/L with %v: pH %v leads back to %v, %v", a.id, g, x, s.PH, back, err)
				}
			}
		}
	}
}

func TestAcidsRefused(t *testing.T) {
	for field, call := range map[string]func() error{
		"acid":                func() error { _, err := Dissolve("hydrochloric", 30, 1); return err },
		"acid_g_l":            func() error { _, err := Dissolve(Citric, 0, 0); return err },
		"acid_g_l ":           func() error { _, err := TakenUp(Citric, 500, 3); return err },
		"caco3_dissolved_g_l": func() error { _, err := Dissolve(Citric, 30, 90); return err },
		"ph":                  func() error { _, err := TakenUp(Citric, 30, 7); return err },
	} {
		var bad *units.OutOfRange
		if err := call(); !errors.As(err, &bad) || bad.Field != field && bad.Field+" " != field {
			t.Errorf("%s: %v", field, err)
		}
	}
}

// BenchmarkTakenUp: what was dissolved from a pH, over the table's rows, beside
// finding it by going through what could be dissolved in steps of 0.01 g/L.
func BenchmarkTakenUp(b *testing.B) {
	rows := table(b)
	i := 0
	for b.Loop() {
		r := rows[i%len(rows)]
		if _, err := TakenUp(r.acid, r.g, min(5.5, r.ph)); err != nil {
			b.Fatal(err)
		}
		i++
	}
	each := float64(b.Elapsed().Nanoseconds()) / float64(b.N)
	began := time.Now()
	steps := 0
	for x := units.Strength(0); x < 6; x += 0.01 {
		s, err := Dissolve(Citric, 30, x)
		if err != nil {
			b.Fatal(err)
		}
		if steps++; s.PH > 3.2 {
			break
		}
	}
	b.ReportMetric(float64(time.Since(began).Nanoseconds())/each, "x_faster_than_steps")
}
