// Package report writes what goes out to be read by people: a plan as a sheet of text that
// somebody can work from.
package report

import (
	"fmt"
	"io"
	"strings"
	"time"

	"freshanvil/core/job"
	"freshanvil/core/reason"
	"freshanvil/core/run"
	"freshanvil/core/speak"
)

// width is how long a line of a sheet is, in letters.
const width = 88

// Sheet is a plan as text: what to lay out, how long it takes, the steps with what to do and
// what to mind.
func Sheet(to io.Writer, p job.Plan, start time.Time, zone *time.Location, clear *reason.Reason) error {
	w := &sheet{to: to, told: map[string]bool{}}
	lead := p.Leads()
	title := p.Title()
	if lead.Descale != nil {
		title += ": " + lead.Descale.Title
	}
	w.line("%s", strings.ToUpper(title))
	w.times(p, start, zone)
	w.layOut(p)
	if d := lead.Descale; d != nil {
		for _, f := range d.Findings {
			w.blank()
			w.finding(f)
		}
	}
	begins := begins(p)
	w.several = len(p.Groups()) > 1
	for n, s := range p.Steps() {
		w.step(n+1, s, begins[s.ID])
	}
	if lead.Descale != nil {
		w.leaving()
	}
	if clear != nil {
		w.blank()
		w.wrap("", clear.Text)
	}
	return w.err
}

type sheet struct {
	to   io.Writer
	err  error
	told map[string]bool // cautions that stand above
	// several says that more than one group is washed: each step names its own.
	several bool
}

func (w *sheet) line(text string, args ...any) {
	if w.err == nil {
		_, w.err = fmt.Fprintf(w.to, text+"\n", args...)
	}
}

func (w *sheet) blank() { w.line("") }

// wrap writes a sentence, its lines indented.
func (w *sheet) wrap(indent, text string) {
	rest := strings.Fields(text)
	first := indent
	for len(rest) > 0 {
		line := first
		for len(rest) > 0 && (line == first || len([]rune(line))+1+len([]rune(rest[0])) <= width) {
			if line != first {
				line += " "
			}
			line += rest[0]
			rest = rest[1:]
		}
		w.line("%s", line)
		first = strings.Repeat(" ", len([]rune(indent)))
	}
}

func (w *sheet) finding(f reason.Finding) {
	w.wrap("Note: ", f.Title+".")
	for _, r := range f.Because {
		w.wrap("      ", r.Text)
	}
	for _, n := range f.Next {
		w.wrap("      ", n)
	}
}

func (w *sheet) times(p job.Plan, start time.Time, zone *time.Location) {
	hands, waits := 0.0, 0.0
	for _, in := range p.Minutes.Inputs {
		if in.Symbol == "hands" {
			hands += in.Value / 60
		} else {
			waits += in.Value / 60
		}
	}
	w.wrap("", fmt.Sprintf("It takes about %s: %s by hand, %s of waiting and of the pump.", speak.Minutes(hands+waits),
		speak.Minutes(hands), speak.Minutes(waits)))
	if !start.IsZero() {
		end := start.Add(time.Duration((hands + waits) * float64(time.Minute)))
		w.wrap("", fmt.Sprintf("Begun on %s, it ends at about %s.", start.In(zone).Format("Monday 2 January at 15:04"),
			end.In(zone).Format("Monday 15:04")))
	}
	if d := p.Leads().Descale; d != nil && !d.Dirty {
		w.wrap("", fmt.Sprintf("Acid stands for about %.0f minutes, warm ones counted more; it may stand for %.0f.",
			d.Planned.Minutes(), d.Contact.Minutes()))
	}
}

func (w *sheet) layOut(p job.Plan) {
	w.blank()
	w.line("LAY OUT")
	for _, text := range p.LayOut() {
		w.wrap("  - ", text)
	}
	for _, text := range p.Waters() {
		w.wrap("  - ", text)
	}
	if d := p.Leads().Descale; d != nil {
		w.wrap("  - ", fmt.Sprintf("The %s is filled %s, jugs are emptied %s.", d.Plant.Vessels[0].Title,
			strings.ToLower(speak.Times(d.Tubs)), strings.ToLower(speak.Times(d.Catches))))
	}
}

// begins is when each step begins as the hands are planned for, since the start.
func begins(p job.Plan) map[string]time.Duration {
	at := map[string]time.Duration{}
	_, _ = run.Perform(p, run.AsSaid(), func(play *run.Play, s job.Step) {
		if _, seen := at[s.ID]; !seen {
			at[s.ID] = play.Now()
		}
	})
	return at
}

func (w *sheet) step(n int, s job.Step, at time.Duration) {
	w.blank()
	clock := fmt.Sprintf("%d:%02d", int(at.Hours()), int(at.Minutes())%60)
	head := s.Head
	if g := s.Part.GroupNumber(); w.several && g > 0 && strings.HasPrefix(s.ID, fmt.Sprint(g)) {
		head = fmt.Sprintf("Group %d: %s", g, head)
	}
	w.wrap(fmt.Sprintf("%2d  %s  ", n, clock), head+" ("+s.ID+")")
	indent := strings.Repeat(" ", 4)
	if act, ok := job.BodyOf[job.Act](s); ok && act.Mix != nil {
		w.wrap(indent, fmt.Sprintf("%s %s into %s of water.", reason.Figure(act.Mix.Measure.Value, "g"), act.Mix.Measure.Unit,
			job.Litres(act.Mix.Water.Value)))
	}
	for _, text := range s.OnPaper() {
		w.wrap(indent, text)
	}
	w.body(indent, s)
	for _, c := range s.Cautions {
		text := c.Text
		if w.told[text] { // in full once, then its first words
			text = c.Short()
		}
		w.told[c.Text] = true
		w.wrap(indent+"! ", text)
	}
}

// body writes what a kind of step has beside its words.
func (w *sheet) body(indent string, s job.Step) {
	for _, text := range s.Beside() {
		w.wrap(indent, text)
	}
	switch b := s.Body.(type) {
	case job.Choose:
		for _, way := range b.Ways {
			text := "[ ] " + way.Text
			switch {
			case way.Stop != nil && len(way.Tries) == 0:
				text += ": " + way.Stop.Title + ". " + strings.Join(way.Stop.Next, " ")
			case len(way.Tries) > 0:
				text += fmt.Sprintf(": go through this and ask again, at most %s", strings.ToLower(speak.Times(len(way.Tries))))
			}
			w.wrap(indent, text)
			w.tried(indent+"    ", way)
		}
	case job.Measure:
		w.wrap(indent, map[job.Reads]string{
			job.Feed: "It reads pH ____", job.Spent: "It reads pH ____, colour ________",
			job.Proof: "It reads pH ____ and ____ (two strips in a row). If they differ: rinse on.",
		}[b.Reads])
	}
}

// tried writes what is gone through before it is asked again.
func (w *sheet) tried(indent string, way job.Way) {
	if len(way.Tries) == 0 {
		return
	}
	for _, s := range way.Tries[0] {
		w.wrap(indent, strings.Join(s.OnPaper(), " "))
		w.body(indent, s)
	}
	if way.Stop != nil {
		w.wrap(indent, "Then: "+way.Stop.Title+". "+strings.Join(way.Stop.Next, " "))
	}
}

// leaving says how to leave it in the middle.
func (w *sheet) leaving() {
	w.blank()
	w.line("IF YOU ARE CALLED AWAY, OR THE POWER GOES")
	for _, text := range []string{
		"Before any acid is in: switch off, pull the plug, close every drain. Begin again another day.",
		"With acid in: switch off and pull the plug, so that nothing starts by itself. Close a drain that is open. " +
			"Leave the steam tap open into its jug, or the cap off: gas must leave. Open nothing else.",
		"Go on as soon as you can: no more acid, straight to the rinse. No drinks until its strips match.",
		"If the pump is dead, leave it so and call a workshop today: say which acid it is.",
	} {
		w.wrap("  - ", text)
	}
}
