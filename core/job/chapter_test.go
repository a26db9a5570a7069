package job

import (
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"strings"
	"testing"
)

// TestChapters: a descale is told in a few lines that leave no step out, in the order of the work; the rinse says how
// often, as its circuits ask for.
func TestChapters(t *testing.T) {
	for _, p := range everyPlan(t) {
		if p.Descaling() == nil {
			continue
		}
		list := p.Chapters()
		var ids []string
		titles := map[string]bool{}
		for _, s := range list {
			if s.Title == "" || titles[s.Title] {
				t.Errorf("%s: %q twice, or without a title", p.Title(), s.Title)
			}
			titles[s.Title] = true
			if s.Hands > s.All {
				t.Errorf("%s: %s by hand of %s", s.Title, s.Hands, s.All)
			}
			for _, st := range s.Steps {
				ids = append(ids, st.ID)
			}
		}
		var want []string
		for _, st := range p.Steps() {
			want = append(want, st.ID)
		}
		if strings.Join(ids, " ") != strings.Join(want, " ") {
			t.Errorf("other steps than the plan's:\n%v\n%v", ids, want)
		}
		if len(list) > 7 {
			t.Errorf("%d lines", len(list))
		}
		for _, c := range p.Descaling().Descale.Circuits {
			if c.Drained && c.Least.Value > 1 && !strings.Contains(titlesOf(list), "times") {
				t.Errorf("%v refills, and yet: %s", c.Least.Value, titlesOf(list))
			}
		}
	}
}

func titlesOf(list []Chapter) string {
	var out []string
	for _, s := range list {
		out = append(out, s.Title)
	}
	return strings.Join(out, "; ")
}

// A rinse of two refills is told as twice, one of one without a count: the number is that of its circuits, and it is
// worked out by letting share after share go until the limit is reached.
func TestRefillsAreCounted(t *testing.T) {
	p := descaled(t, dual, 3, nil)
	d := p.Descaling().Descale
	for i, c := range d.Circuits {
		share, n := 1.0, 0
		in := map[string]float64{}
		for _, x := range c.Least.Inputs {
			in[x.Symbol] = x.Value
		}
		for ; share > in["limit"]; n++ {
			heel := in["heel"]
			if share >= in["weak"] {
				heel /= in["stops"]
			}
			share *= heel
		}
		if c.Least.Value != float64(n) {
			t.Errorf("%s: %v refills, by hand %d", c.Part, c.Least.Value, n)
		}
		d.Circuits[i].Least.Value = 2
	}
	if got := titlesOf(p.Chapters()); !strings.Contains(got, "2 times") {
		t.Errorf("two refills are told as %s", got)
	}
	for i := range d.Circuits {
		d.Circuits[i].Least.Value = 1
	}
	for _, c := range p.Chapters() {
		if c.Phase == Rinsing && strings.ContainsAny(c.Title, "0123456789") {
			t.Errorf("one refill is told as %s", c.Title)
		}
	}
}

// Slow hands, ten seconds late at each switch, leave the pump no air and no vessel over its brim: the mix and the
// fillings are enough for them.
func TestSlowHandsAreProvidedFor(t *testing.T) {
	for _, a := range []machine.Answers{single, block, hx, dual} {
		p := descaled(t, a, 3, nil)
		x := p.Descaling().Descale.Begins()
		for _, s := range p.Steps() {
			play(x, s, slow)
		}
		for _, v := range x.Broken {
			if v.Never == plant.DrawsAir || v.Never == plant.OverBrim {
				t.Errorf("%s: %v", a.Layout, v)
			}
		}
	}
}
