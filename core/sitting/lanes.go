package sitting

import (
	"fmt"
	"time"

	"freshanvil/core/job"
)

// Bar is something that goes on in a lane of a work sheet.
type Bar struct {
	Title    string
	Work     job.Work
	From, To time.Duration // from the start of the sitting
}

// Lane is one row of a work sheet: the hands, the machine, or a task at its part.
type Lane struct {
	Title string
	Bars  []Bar
}

// Lanes draws a plan in time: what the hands do, what the machine does by itself, and each task. No two bars
// of the hands overlap.
func Lanes(p job.Plan) []Lane {
	hands, whole := Lane{Title: "hands"}, Lane{Title: "the machine"}
	work := make([]Lane, len(p.Activities))
	place := map[string]int{}
	groups := len(p.Groups()) > 1
	for i, a := range p.Activities {
		place[a.ID], work[i].Title = i, a.Task.Title()
		if g := a.Part.GroupNumber(); groups && g > 0 {
			work[i].Title += fmt.Sprintf(", group %d", g)
		}
	}
	for _, x := range p.Spans() {
		b := Bar{Title: x.Step.Title, Work: x.Work, From: x.From, To: x.To}
		if x.Work != job.ByItself {
			hands.Bars = append(hands.Bars, b)
		}
		if x.OfTheMachine() {
			whole.Bars = append(whole.Bars, b)
			continue
		}
		lane := &work[place[x.Step.Activity]]
		lane.Bars = append(lane.Bars, b)
	}
	list := []Lane{hands}
	if len(whole.Bars) > 0 {
		list = append(list, whole)
	}
	return append(list, work...)
}
