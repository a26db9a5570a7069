package job

import (
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
