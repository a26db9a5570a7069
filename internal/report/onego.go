package report

import (
	"fmt"
	"io"
	"strings"
	"time"

	"freshanvil/core/sitting"
	"freshanvil/core/speak"
)

// InOneGo is several runs as text: when it ends, and where to be when. The sheets of the runs follow by themselves.
func InOneGo(to io.Writer, a sitting.Afternoon, start time.Time, zone *time.Location) error {
	w := &sheet{to: to, told: map[string]bool{}}
	var names []string
	for _, j := range a.Jobs {
		if len(names) == 0 || names[len(names)-1] != j.Name {
			names = append(names, j.Name)
		}
	}
	w.wrap("", strings.ToUpper("In one go: "+strings.Join(names, ", ")))
	w.wrap("", fmt.Sprintf("%s Of it %s by hand.", a.Says(), speak.Minutes(a.Hands.Minutes())))
	if !start.IsZero() {
		w.wrap("", fmt.Sprintf("Begun on %s, it ends at about %s.", start.In(zone).Format("Monday 2 January at 15:04"),
			start.Add(a.Takes).In(zone).Format("Monday 15:04")))
	}
	w.wrap("", "For machines that stand within reach of each other: nothing that soaks is left alone in the house.")
	clock := func(d time.Duration) string { return fmt.Sprintf("%d:%02d", int(d.Hours()), int(d.Minutes())%60) }
	for _, v := range a.Visits {
		w.blank()
		w.wrap(fmt.Sprintf("%5s to %s  ", clock(v.From), clock(v.To)), a.Jobs[v.Job].Name)
		w.wrap("    ", strings.Join(v.Steps, "; ")+".")
		switch {
		case v.Back > 0:
			w.wrap("    ", fmt.Sprintf("Then by itself: %s. Back at %s.", v.Stands, clock(v.Back)))
		case v.Stands != "":
			w.wrap("    ", fmt.Sprintf("Then by itself: %s.", v.Stands))
		}
	}
	return w.err
}
