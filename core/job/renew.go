package job

import (
	"fmt"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/treat"
	"freshanvil/core/units"
)

// how long a new filter stands in water (common practice), and a softener in salt
// (our own engineering choice)
const (
	filterSoaks = 5 * time.Minute
	saltSoaks   = 30 * time.Minute
	teaspoon    = 6.0 // g of salt (common practice)
)

// Renews is the task by which a treatment is renewed: a softener is regenerated, a
// filter changed; false where there is nothing to renew.
func Renews(s treat.Setting) (care.Task, bool) {
	if s.Resin > 0 {
		return care.Regenerate, true
	}
	return care.FilterChange, s.Rated > 0 || s.Days > 0
}

func saltBath(s treat.Setting) Step {
	return Step{
		ID:     "out",
		Kind:   Act,
		Title:  "softener out, into salt",
		Head:   "Softener into salt",
		Button: "It stands in salt water",
		Takes:  2 * time.Minute,
		Do: []string{
			"Machine off. Take the softener out.",
			fmt.Sprintf(
				"%.0f g of salt, about %.0f teaspoons, in a jug of warm water; the softener into it.",
				s.Salt,
				s.Salt/teaspoon,
			),
		},
		Cautions: []reason.Caution{
			{Danger: "break", Text: "Cooking salt only. Salt water never goes into the machine: it eats metal."},
		},
	}
}

func saltSoak() Step {
	return Step{
		ID:     "soak",
		Kind:   Wait,
		Title:  fmt.Sprintf("in salt, %.0f min", saltSoaks.Minutes()),
		Head:   "In salt",
		Button: "Go on",
		Waits:  saltSoaks,
		AtOnce: true,
		Do: []string{
			"The salt puts back what the resin gave. A good moment for a descale, with the softener out.",
		},
		Cautions: []reason.Caution{
			{Danger: "break", Text: "Do not run the machine without its softener longer than this."},
		},
	}
}

func saltRinse() Step {
	return Step{
		ID:     "rinse",
		Kind:   Act,
		Title:  "rinse until not salty",
		Head:   "Rinse it",
		Button: "It no longer tastes salty",
		Takes:  5 * time.Minute,
		Do: []string{
			"About five minutes under running water, until a drop of it no longer tastes salty.",
		},
		Cautions: []reason.Caution{
			{Danger: "break", Text: "Salty still? Rinse on: what is left goes into the boiler."},
		},
	}
}

func softenerBack() Step {
	return Step{
		ID:     "back",
		Kind:   Act,
		Title:  "softener back in",
		Head:   "Softener back in",
		Button: "It is in",
		Takes:  time.Minute,
		Do: []string{
			"Softener in, tank full, machine on. Draw a cup and pour it away.",
		},
		Cautions: []reason.Caution{scald},
	}
}

func strainer() Step {
	return Step{
		ID:     "strainer",
		Kind:   Act,
		Title:  "look at the strainer",
		Head:   "Look at the strainer",
		Button: "Looked, and it is clean",
		Takes:  time.Minute,
		Do: []string{
			"The gauze on the intake, or the strainer under the sink: white grains or flakes?",
			"Rinse it under the tap. Flakes of scale mean more scale behind: bring the descaling forward.",
		},
		Cautions: []reason.Caution{{Danger: "break", Text: "By the maker's manual; do not force a strainer out."}},
	}
}

func newFilter() Step {
	return Step{
		ID:     "in",
		Kind:   Act,
		Title:  "new filter into water",
		Head:   "New filter into water",
		Button: "It stands in water",
		Takes:  time.Minute,
		Do: []string{
			"Unpack the new one, rinse it, and stand it in a jug of cold water. Press it until no bubbles come.",
		},
		Cautions: []reason.Caution{{Danger: "break", Text: "A dry filter lets air into the pump."}},
	}
}

func filterSoak() Step {
	return Step{
		ID:     "filter-soak",
		Kind:   Wait,
		Title:  fmt.Sprintf("soaks %.0f min in all", filterSoaks.Minutes()),
		Head:   "Filter soaks",
		Button: "Go on",
		Waits:  filterSoaks,
		AtOnce: true,
		Do: []string{
			"Until the bed is wet through.",
		},
		Cautions: []reason.Caution{{Danger: "break", Text: "A dry filter lets air into the pump."}},
	}
}

// filterFitted puts a new filter in, and says until when it lasts.
func filterFitted(f machine.Facts, s treat.Setting, now time.Time) []Step {
	in := "the tank"
	switch s.Kind {
	case machine.Jug:
		in = "the jug"
	case machine.UnderSink, machine.ReverseOsmosis:
		in = "its head"
	}
	next := now.AddDate(0, 1, 0)
	if s.Days > 0 {
		next = now.AddDate(0, 0, int(s.Days))
	}
	return []Step{
		{
			ID:     "fit",
			Kind:   Act,
			Title:  "fit it, flush",
			Head:   "Fit it, flush",
			Button: "Fitted and flushed",
			Takes:  2 * time.Minute,
			Do: []string{
				"Into " + in + ", to its mark. Supply open, machine on.",
				"Let about half a litre through and pour it away: the first of it carries dust.",
			},
			Cautions: []reason.Caution{scald},
		},
		{
			ID:     "month",
			Kind:   Act,
			Title:  "set the month",
			Head:   "Set the month",
			Button: "The month is set",
			Takes:  20 * time.Second,
			Do: []string{
				fmt.Sprintf("Turn its ring, or write on it: %s.", next.Format("January 2006")),
			},
			Cautions: []reason.Caution{{Danger: "break", Text: "Litres may end it sooner: the bench says when."}},
		},
	}
}

// Renew composes the change of a filter or the regeneration of a softener, with
// the look at the strainer meanwhile. A treatment that is not renewed is a
// *units.OutOfRange.
func Renew(a machine.Answers, s treat.Setting, now time.Time) (Plan, error) {
	f := a.Facts()
	p := Plan{Version: 2, Begin: starts(f.Pump), Flow: f.FreeFlow, Duty: f.Duty}
	part := Part{Group: 1, Task: care.FilterChange}
	switch {
	case s.Resin > 0:
		part.Task = care.Regenerate
		p.Steps = []Step{saltBath(s), strainer(), saltSoak(), saltRinse(), softenerBack()}
	case s.Rated > 0 || s.Days > 0:
		shut, danger := "Machine off.", reason.Caution{
			Danger: "break",
			Text:   "Do not run the pump while the intake is in the air.",
		}
		if f.Plumbed || s.Kind == machine.UnderSink || s.Kind == machine.ReverseOsmosis {
			shut = "Machine off, supply shut: the lever across the pipe. Open the tap once, so that no pressure is left."
			danger = reason.Caution{
				Danger: "pressure",
				Text:   "Supply shut and pressure off before anything is unscrewed. Local codes and licensed people go first.",
			}
		}
		out := Step{
			ID:       "out",
			Kind:     Act,
			Title:    "old filter out",
			Head:     "Old filter out",
			Button:   "It is out",
			Takes:    time.Minute,
			Do:       []string{shut, "Take the old filter out."},
			Cautions: []reason.Caution{danger},
		}
		soak := filterSoak()
		soak.ID = "soak"
		p.Steps = append([]Step{newFilter(), out, strainer(), soak}, filterFitted(f, s, now)...)
	default:
		return Plan{}, &units.OutOfRange{
			Field:   "task",
			Value:   "renew",
			Allowed: "a machine behind a filter or a softener; this one is behind " + treat.Title(s.Kind),
		}
	}
	part.Title = part.Task.Title()
	p.Parts = []Part{part}
	var hands, soak, beside time.Duration
	began := ""
	for i := range p.Steps {
		st := &p.Steps[i]
		st.Group, st.Lane = 1, Hands
		if i > 0 {
			st.After = []string{p.Steps[i-1].ID}
		}
		switch {
		case st.AtOnce: // it began with the first step
			st.Lane, st.After, soak = groupLane(1), []string{p.Steps[0].ID}, st.Waits
			began = st.ID
		case i > 0 && began == "":
			beside += st.Takes
		}
		hands += st.Takes
	}
	p.work(hands, 0, max(0, soak-beside))
	return p, p.Check()
}
