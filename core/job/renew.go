package job

import (
	"fmt"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/treat"
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
		ID: "out", Title: "softener out, into salt", Head: "Softener into salt", Button: "It stands in salt water",
		Takes: 2 * time.Minute, Body: Act{},
		Do: []string{
			"Machine off. Take the softener out.",
			fmt.Sprintf("%.0f g of salt, about %.0f teaspoons, in a jug of warm water; the softener into it.",
				s.Salt, s.Salt/teaspoon),
		},
		Cautions: []reason.Caution{{
			Danger: "break", Text: "Cooking salt only. Salt water never goes into the machine: it eats metal.",
		}},
	}
}

func saltSoak() Step {
	return Step{
		ID: "soak", Title: fmt.Sprintf("in salt, %.0f min", saltSoaks.Minutes()), Head: "In salt", Button: "Go on",
		Body: Soak{For: saltSoaks},
		Do: []string{
			"The salt puts back what the resin gave. A good moment for a descale, with the softener out.",
		},
		Cautions: []reason.Caution{{
			Danger: "break", Text: "Do not run the machine without its softener longer than this.",
		}},
	}
}

func saltRinse() Step {
	return Step{
		ID: "rinse", Title: "rinse until not salty", Head: "Rinse it", Button: "It no longer tastes salty",
		Takes: 5 * time.Minute, Body: Act{},
		Do: []string{"About five minutes under running water, until a drop of it no longer tastes salty."},
		Cautions: []reason.Caution{{
			Danger: "break", Text: "Salty still? Rinse on: what is left goes into the boiler.",
		}},
	}
}

func softenerBack() Step {
	return Step{
		ID: "back", Title: "softener back in", Head: "Softener back in", Button: "It is in", Takes: time.Minute,
		Do:       []string{"Softener in, tank full, machine on. Draw a cup and pour it away."},
		Cautions: []reason.Caution{scald}, Body: Act{},
	}
}

func strainer() Step {
	return Step{
		ID: "strainer", Title: "look at the strainer", Head: "Look at the strainer", Button: "Looked, and it is clean",
		Takes: time.Minute, Body: Act{},
		Do: []string{
			"The gauze on the intake, or the strainer under the sink: white grains or flakes?",
			"Rinse it under the tap. Flakes of scale mean more scale behind: bring the descaling forward.",
		},
		Cautions: []reason.Caution{{
			Danger: "break", Text: "By the maker's manual; do not force a strainer out.",
		}},
	}
}

// dryFilter is why a new filter stands in water first.
var dryFilter = reason.Caution{Danger: "break", Text: "A dry filter lets air into the pump."}

func newFilter() Step {
	return Step{
		ID: "in", Title: "new filter into water", Head: "New filter into water", Button: "It stands in water",
		Takes: time.Minute, Cautions: []reason.Caution{dryFilter}, Body: Act{},
		Do: []string{
			"Unpack the new one, rinse it, and stand it in a jug of cold water. Press it until no bubbles come.",
		},
	}
}

func filterSoak() Step {
	return Step{
		ID: "filter-soak", Title: fmt.Sprintf("soaks %.0f min in all", filterSoaks.Minutes()), Head: "Filter soaks",
		Button: "Go on", Do: []string{"Until the bed is wet through."}, Cautions: []reason.Caution{dryFilter},
		Body: Soak{For: filterSoaks},
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
			ID: "fit", Title: "fit it, flush", Head: "Fit it, flush", Button: "Fitted and flushed",
			Takes: 2 * time.Minute, Cautions: []reason.Caution{scald}, Body: Act{},
			Do: []string{
				"Into " + in + ", to its mark. Supply open, machine on.",
				"Let about half a litre through and pour it away: the first of it carries dust.",
			},
		},
		{
			ID: "month", Title: "set the month", Head: "Set the month", Button: "The month is set",
			Takes: 20 * time.Second, Body: Act{},
			Do: []string{fmt.Sprintf("Turn its ring, or write on it: %s.", next.Format("January 2006"))},
			Cautions: []reason.Caution{{
				Danger: "break", Text: "Litres may end it sooner: the bench says when.",
			}},
		},
	}
}

// filterOut takes the old one out.
func filterOut(f machine.Facts, s treat.Setting) Step {
	shut, danger := "Machine off.", reason.Caution{
		Danger: "break", Text: "Do not run the pump while the intake is in the air.",
	}
	if f.Plumbed || s.Kind == machine.UnderSink || s.Kind == machine.ReverseOsmosis {
		shut = "Machine off, supply shut: the lever across the pipe. Open the tap once, so that no pressure is left."
		danger = reason.Caution{
			Danger: "pressure",
			Text: "Supply shut and pressure off before anything is unscrewed. Local codes and licensed people go " +
				"first.",
		}
	}
	return Step{
		ID: "out", Title: "old filter out", Head: "Old filter out", Button: "It is out", Takes: time.Minute,
		Do: []string{shut, "Take the old filter out."}, Cautions: []reason.Caution{danger}, Body: Act{},
	}
}

// Renew composes the change of a filter or the regeneration of a softener, with
// the look at the strainer meanwhile. It refuses, with a *reason.Refusal, a treatment
// that is not renewed.
func Renew(a machine.Answers, s treat.Setting, now time.Time) (Plan, error) {
	f := a.Facts()
	task, any := Renews(s)
	if !any {
		return Plan{}, reason.Refuse(NothingToRenew, "There is nothing to renew").
			Of("treatment", string(s.Kind), "a machine behind a filter or a softener").
			Why(reason.Said, "This one is behind "+treat.Title(s.Kind)+".")
	}
	lane := SoftenerLane
	steps := []Step{saltBath(s), strainer(), saltSoak(), saltRinse(), softenerBack()}
	if s.Resin == 0 {
		lane = FilterLane
		soak := filterSoak()
		soak.ID = "soak"
		steps = append([]Step{newFilter(), filterOut(f, s), strainer(), soak}, filterFitted(f, s, now)...)
	}
	p := Plan{
		Setups:     []Setup{{Begin: starts(f.Pump), Flow: f.FreeFlow, Duty: f.Duty}},
		Activities: []Activity{{ID: renewID, Task: task, Title: task.Title(), Takes: []Resource{TheHands, TheSink}}},
	}
	var all sums
	var stands, beside time.Duration
	for i := range steps {
		st := &steps[i]
		st.Activity, st.Lane = renewID, Hands
		if i > 0 {
			st.After = []string{steps[i-1].ID}
		}
		if soak, ok := BodyOf[Soak](*st); ok { // it began with the first step
			st.Lane, st.After, stands = lane, []string{steps[0].ID}, soak.For
		} else if i > 0 && stands == 0 {
			beside += st.Takes
		}
		all.hands += st.Takes
	}
	p.put(steps)
	all.waits = max(0, stands-beside)
	p.setWork(all)
	return p, p.Check()
}
