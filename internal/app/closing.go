package app

import (
	"context"
	"strings"
	"time"
	"unicode/utf8"

	"freshanvil/core/care"
	"freshanvil/core/job"
	"freshanvil/core/sitting"
	"freshanvil/core/task"
	"freshanvil/core/units"
	"freshanvil/internal/store"
)

// Closing is what is done to a machine tonight, and what became of the nights before.
func (a *App) Closing(ctx context.Context, m store.Machine, now time.Time) (care.Closing, error) {
	h, err := a.History(ctx, m, now)
	if err != nil {
		return care.Closing{}, err
	}
	rows, err := a.store.DoneSince(ctx, m.ID, care.Closes(), care.ClosingSince(now, m.Zone))
	if err != nil {
		return care.Closing{}, err
	}
	did := make([]care.Did, len(rows))
	for i, r := range rows {
		did[i] = care.Did{ID: r.ID, Task: r.Task, At: r.At, By: r.Record.By}
	}
	list, _ := care.Standings(m.Answers, h, now, m.Zone)
	return care.ClosingOf(m.Answers, h, list, did, now, m.Zone), nil
}

// How long a name, its initials, the name of a machine or a note may be, in signs.
const (
	longestName     = 40
	longestInitials = 4
	longestTitle    = 80
	longestNote     = 500
	longestNotes    = 2000
)

// AddPerson puts somebody on the list of those who do the small jobs: a name and initials, no account.
func (a *App) AddPerson(ctx context.Context, p store.Person) error {
	var err error
	if p.Name, err = units.Line("name", p.Name, true, longestName); err != nil {
		return err
	}
	if p.Initials, err = units.Line("initials", p.Initials, false, longestInitials); err != nil {
		return err
	}
	if p.Initials == "" {
		p.Initials = initials(p.Name)
	}
	return a.write(ctx, p.ID, "person", p, func(tx *store.Store, now time.Time) error { return tx.AddPerson(ctx, p, now) })
}

// initials are the first letters of a name.
func initials(name string) string {
	var out []rune
	for _, word := range strings.Fields(name) {
		r, _ := utf8.DecodeRuneInString(word)
		out = append(out, []rune(strings.ToUpper(string(r)))...)
	}
	return string(out[:min(longestInitials, len(out))])
}

// People lists them.
func (a *App) People(ctx context.Context) ([]store.Person, error) { return a.store.People(ctx) }

// ForgetPerson takes somebody off the list, and shuts them out; what they did stays on record. The last owner stays.
func (a *App) ForgetPerson(ctx context.Context, id string) error {
	now := a.now()
	defer a.door.forget()
	return a.store.Write(ctx, func(tx *store.Store) error {
		if err := leavesOwner(ctx, tx, id); err != nil {
			return err
		}
		if err := tx.EndSessions(ctx, id, now); err != nil {
			return err
		}
		return missing(unlessGone(tx.ForgetPerson(ctx, id, now)), "Nobody of that id", "person_id", id,
			"somebody on the list")
	})
}

// who is a name or initials as they are put on record: as they were given, or those of whoever asks.
func who(ctx context.Context, field, by string) (string, error) {
	if strings.TrimSpace(by) == "" {
		if w := Asking(ctx); w.Person != "" {
			return w.Initials, nil
		}
	}
	return units.Line(field, by, false, longestName)
}

// Paper is what somebody leaves who was named by the maker or the local code.
type Paper struct {
	Number string
	Dated  *time.Time
}

// longestPaper is how long a paper's number may be, in letters.
const longestPaper = 60

func (p *Paper) check(now time.Time) error {
	number, err := units.Line("paper.number", p.Number, false, longestPaper)
	if err != nil {
		return err
	}
	p.Number = number
	if p.Dated != nil {
		at, err := past("paper.dated", *p.Dated, now, careReach)
		if err != nil {
			return err
		}
		p.Dated = &at
	}
	return nil
}

// Evening is what of a close one run leads: the tasks, and their plan as it would be laid out now.
type Evening struct {
	Wants []job.Want
	Plan  job.Plan
}

// Hands is how much of it is hand work.
func (e Evening) Hands() (hands time.Duration) {
	for _, in := range e.Plan.Minutes.Inputs {
		if in.Symbol == "hands" {
			hands = time.Duration(in.Value * float64(time.Second))
		}
	}
	return hands
}

// EveningOf is what of some tasks of a close is led in one go: every group, the tub, the tray, as they are due; what is
// opened cold waits for the morning. It is empty where that is one task, or where it cannot be led now.
func (a *App) EveningOf(ctx context.Context, m store.Machine, due []task.ID) (e Evening, err error) {
	in, err := a.Inside(ctx, m.ID)
	if err != nil {
		return e, err
	}
	e.Wants = sitting.AtNight(due, m.Answers.Facts().Groups)
	if len(e.Wants) < 2 {
		return Evening{}, nil
	}
	g, err := a.gathering(ctx, m, e.Wants, in, a.now())
	if err == nil {
		e.Plan, err = sitting.Estimate(g, e.Wants...)
	}
	if _, known := whyNot(err); known { // the list goes on; what hinders it is said where it is started
		return Evening{}, nil
	}
	return e, err
}
