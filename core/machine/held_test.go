package machine

import (
	"testing"
	"time"
)

func drinks(h Held) (list []float64) {
	for _, x := range h {
		list = append(list, x.Answers.Drinks)
	}
	return list
}

// What held is found by its day; before the first nobody said otherwise; a correction changes
// what was said for later, too, and nothing before.
func TestWhatHeldWhen(t *testing.T) {
	day := func(d int) time.Time { return time.Date(2026, 1, 1+d, 0, 0, 0, 0, time.UTC) }
	of := func(d int, n float64) Holding {
		return Holding{From: day(d), Answers: Answers{Layout: SingleBoiler, Drinks: n}}
	}
	h := Hold(of(30, 6), of(0, 2), of(10, 4), of(30, 8))
	for d, want := range map[int]float64{-5: 2, 0: 2, 9: 2, 10: 4, 29: 4, 30: 8, 99: 8} {
		if got := h.At(day(d)).Answers.Drinks; got != want {
			t.Errorf("day %d: %v, want %v", d, got, want)
		}
	}
	if h.At(day(12)).Facts.Groups != 1 {
		t.Error("the facts are not worked out")
	}
	total := 0.0
	for _, s := range h.Between(day(5), day(40)) {
		total += s.Answers.Drinks * s.To.Sub(s.From).Hours() / 24
	}
	if total != 5*2+20*4+10*8 {
		t.Errorf("over the stretches %v drinks", total)
	}
	double := func(a Answers) Answers { a.Drinks *= 2; return a }
	for name, c := range map[string]struct {
		got  Held
		want []float64
		at   int // the first that is another
	}{
		"a correction between two": {h.Correct(day(20), double), []float64{2, 4, 8, 16}, 20},
		"on the day of one":        {h.Correct(day(10), double), []float64{2, 8, 16}, 10},
		"before all":               {h.Correct(day(-9), double), []float64{4, 4, 8, 16}, -9},
		"the newest since then":    {h.Since(day(5)), []float64{2, 8}, 5},
		"the newest held already":  {h.Since(day(50)), []float64{2, 4, 8}, 0},
		"nobody knows since when":  {h.Since(time.Time{}), []float64{2, 4, 8}, 0},
	} {
		t.Run(name, func(t *testing.T) {
			got := drinks(c.got)
			same := len(got) == len(c.want)
			for i := range min(len(got), len(c.want)) {
				same = same && got[i] == c.want[i]
			}
			if !same {
				t.Errorf("%v, want %v", got, c.want)
			}
			if c.got.At(day(c.at)).From != day(c.at) {
				t.Errorf("from day %d on holds %+v", c.at, c.got.At(day(c.at)).From)
			}
		})
	}
}
