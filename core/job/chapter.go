package job

import (
	"fmt"
	"time"

	"freshanvil/core/speak"
)

// Chapter is a part of a plan that is told in one line: steps of one phase after another.
type Chapter struct {
	Phase Phase
	Title string
	Steps []Step
	// Hands is the time for the hands in it, All with what runs and stands by itself.
	Hands, All time.Duration
}

var chapterTitles = map[Phase]string{
	Before: "Get ready", Acidic: "Acid in", Rinsing: "Rinse", Proving: "Prove that it is clean",
	After: "Close it, heat it and look",
}

// Chapters are the steps of a descale by their phase, in order, each with how often it goes round.
func (p Plan) Chapters() []Chapter {
	var list []Chapter
	for _, x := range p.Spans() {
		n := len(list)
		if n == 0 || list[n-1].Phase != x.Step.Phase {
			title := chapterTitles[x.Step.Phase]
			if title == "" {
				title = "Then the rest"
			}
			list = append(list, Chapter{Phase: x.Step.Phase, Title: title})
			n++
		}
		s := &list[n-1]
		s.Steps = append(s.Steps, x.Step)
		s.Hands += max(0, x.To-x.From-x.Waited)
		s.All += x.To - x.From
	}
	a := p.Descaling()
	if a == nil {
		return list
	}
	for i := range list {
		switch s := &list[i]; {
		case s.Phase == Acidic && a.Descale.Rounds > 1:
			s.Title += fmt.Sprintf(", %s", speak.Times(a.Descale.Rounds))
		case s.Phase == Rinsing && refills(a.Descale) > 1:
			s.Title += fmt.Sprintf(", %s", speak.Times(refills(a.Descale)))
		}
	}
	return list
}

// refills is how often the boiler that is rinsed most often is filled and drained.
func refills(d *Descaling) (most int) {
	for _, c := range d.Circuits {
		if c.Drained {
			most = max(most, int(c.Least.Value))
		}
	}
	return most
}
