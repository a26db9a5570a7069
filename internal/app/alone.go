// Package app holds the use cases: what is asked for is put together from core, judged,
// and refused or given. Whatever comes in, from a page or the command line, goes through
// the same one.
package app

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/run"
	"freshanvil/core/sitting"
	"freshanvil/core/standdown"
	"freshanvil/core/task"
	"freshanvil/core/treat"
	"freshanvil/core/units"
	"freshanvil/core/water"
)

// Alone is a plan that is asked for without a log: of a machine told by its answers and
// facts alone.
type Alone struct {
	Answers machine.Answers
	Tasks   []task.ID
	Method  backflush.MethodID // of a wash; empty for the usual one
	Program descale.ProgramID  // of a descale; empty for the usual one
	Product string             // empty for citric acid
	GPerL   units.Strength     // 0 for as strong as is usual
	Parts   []machine.Part     // of a wash; none is every group
	Draws   int                // of a draw-off; 0 for as many as usual
	Cold    bool               // the machine has been off overnight
	Days    int                // that it stands still, of a closing, a visit or a return; 0 for two weeks
	Visits  int                // that are made meanwhile
	Start   time.Time
}

// Planned is a plan, and how it was cleared where it was judged on the model of the machine.
type Planned struct {
	Plan  job.Plan
	Card  *descale.Card  // of a descale
	Clear *reason.Reason // how it was cleared on the model of the machine
}

// tasks that are planned here.
var tasks = append([]task.ID{task.Descale, task.Wash, task.WaterBackflush, task.FilterChange, task.Regenerate,
	task.DrawOff, task.LayUp, task.Visit, task.Return}, tended()...)

// tended are the tasks that are done to a machine's parts.
func tended() []task.ID { return task.Where(func(r task.Row) bool { return job.Tends(r.ID) }) }

// Plan composes what is asked for. Bad input is a *units.OutOfRange, what must not be done a
// *reason.Refusal; then the plan holds what was laid before, for a trace.
func (a Alone) Plan() (Planned, error) {
	if err := a.check(); err != nil {
		return Planned{}, err
	}
	switch {
	case slices.Contains(a.Tasks, task.Descale):
		return a.descale()
	case (len(a.Tasks) > 1 || a.Cold) && !slices.ContainsFunc(a.Tasks, func(id task.ID) bool { return !job.Gathers(id) }):
		return a.sitting()
	case slices.Contains(a.Tasks, task.Wash), slices.Contains(a.Tasks, task.WaterBackflush):
		return cleared(a.wash())
	case slices.Contains(a.Tasks, task.DrawOff):
		return cleared(job.DrawOff(a.Answers, a.Draws))
	case a.Tasks[0].Row().Rests:
		return cleared(a.standDown())
	case job.Tends(a.Tasks[0]):
		return cleared(job.Tend(a.Answers, a.Tasks[0], backflush.UsualPowder, a.partsOf(a.Tasks[0])...))
	}
	return cleared(job.Renew(a.Answers, treat.Usual(a.Answers.Treatment), a.Start))
}

// usualRest is how long a machine stands still where nobody says, days.
const usualRest = 14

// standDown closes a machine, visits it or brings it back.
func (a Alone) standDown() (job.Plan, error) {
	days := a.Days
	if days == 0 {
		days = usualRest
	}
	from := a.Start.AddDate(0, 0, 1)
	rest := standdown.Rest{From: from, To: from.AddDate(0, 0, days), Visited: a.Visits > 0}
	if err := rest.Check(); err != nil {
		return job.Plan{}, &units.OutOfRange{Field: "with.days", Value: fmt.Sprint(days),
			Allowed: fmt.Sprintf("%d or more", standdown.Shortest)}
	}
	return job.StandDown(job.Resting{Answers: a.Answers, Task: a.Tasks[0], Rest: rest,
		Stood: standdown.Stood{Days: days, Visits: a.Visits}})
}

// sitting composes several tasks in the shortest order.
func (a Alone) sitting() (Planned, error) {
	g := job.Gathering{Answers: a.Answers, Powder: backflush.UsualPowder, Setting: treat.Usual(a.Answers.Treatment),
		Now: a.Start, Cold: a.Cold}
	var wants []job.Want
	for _, id := range a.Tasks {
		wants = append(wants, job.Want{Task: id, Parts: a.partsOf(id)})
		if id != task.Wash {
			continue
		}
		var err error
		if g.Method, err = a.method(); err != nil {
			return Planned{}, err
		}
		for _, p := range a.partsOf(id) {
			g.Targets = append(g.Targets, job.Target{Group: p.GroupNumber()})
		}
	}
	c, err := sitting.Compose(g, wants...)
	if err != nil {
		return Planned{Plan: c.Plan}, err
	}
	why := c.Clear
	why.Text = c.Says() + " " + why.Text
	return Planned{Plan: c.Plan, Clear: &why}, nil
}

// method is how a wash is done: as asked for, as is usual for the machine.
func (a Alone) method() (backflush.Method, error) {
	if a.Method != "" {
		return backflush.Lookup(a.Method)
	}
	choice := care.Choice{}.Settled(a.Answers)
	if choice.Method == "" {
		choice.Method = backflush.HalfTeaspoon
	}
	return choice.By()
}

// cleared judges a plan that was composed on the model of its machine.
func cleared(p job.Plan, err error) (Planned, error) {
	if err != nil {
		return Planned{Plan: p}, err
	}
	why, err := run.Cleared(p)
	return Planned{Plan: p, Clear: &why}, err
}

func (a Alone) check() error {
	var names []string
	for _, t := range tasks {
		names = append(names, string(t))
	}
	if len(a.Tasks) == 0 {
		return &units.OutOfRange{Field: "tasks", Value: "none", Allowed: "one or more of " + strings.Join(names, ", ")}
	}
	for _, t := range a.Tasks {
		if !slices.Contains(tasks, t) {
			return &units.OutOfRange{Field: "tasks", Value: string(t), Allowed: "one of " + strings.Join(names, ", ")}
		}
	}
	if len(a.Tasks) > 1 {
		beside := []task.ID{task.Descale, task.Wash, task.FilterChange, task.Regenerate}
		descales := slices.Contains(a.Tasks, task.Descale)
		for _, t := range a.Tasks {
			if descales && !slices.Contains(beside, t) || !descales && !job.Gathers(t) {
				return &units.OutOfRange{Field: "tasks", Value: string(t), Allowed: "beside others, what can be done in one " +
					"sitting; beside a descale, a wash and a new filter"}
			}
		}
	}
	if !(a.GPerL >= 0) {
		return &units.OutOfRange{Field: "with.strength_g_l", Value: fmt.Sprint(float64(a.GPerL)), Allowed: "above 0"}
	}
	return a.Answers.Check()
}

func (a Alone) wash() (job.Plan, error) {
	method := a.Method
	if slices.Contains(a.Tasks, task.WaterBackflush) && !slices.Contains(a.Tasks, task.Wash) {
		method = backflush.WaterOnly
	}
	if method == "" {
		method = care.Choice{}.Settled(a.Answers).Method
	}
	if method == "" {
		method = backflush.HalfTeaspoon
	}
	var targets []job.Target
	for _, p := range a.partsOf(task.Wash) {
		targets = append(targets, job.Target{Group: p.GroupNumber()})
	}
	return job.Wash(a.Answers, method, backflush.UsualPowder, targets...)
}

// partsOf are the parts that a task is asked for: those that were named, else all that it is of.
func (a Alone) partsOf(id task.ID) []machine.Part {
	if id.IsOfMachine() {
		return []machine.Part{{}}
	}
	var list []machine.Part
	for g := range a.Answers.Facts().Groups {
		if p := machine.Group(g + 1); len(a.Parts) == 0 || slices.Contains(a.Parts, p) {
			list = append(list, p)
		}
	}
	return list
}

// sample is the water of the five answers.
func (a Alone) sample() water.Sample {
	h := a.Answers.Hardness
	if !h.Known {
		return water.Sample{}
	}
	mg := func(v units.Hardness) float64 { return v.In(units.MgPerLCaCO3) }
	return water.Sample{Hardness: units.Reading{Known: true, Low: mg(h.Low), Likely: mg(h.Likely), High: mg(h.High)}}
}

func (a Alone) descale() (Planned, error) {
	f := a.Answers.Facts()
	id := a.Product
	if id == "" {
		id = "citric"
	}
	product, err := among(id)
	if err != nil {
		return Planned{}, err
	}
	brew, steam, err := descale.AtTheLimit(f)
	if err != nil {
		return Planned{}, err
	}
	if _, err := descale.ProgramFor(f, a.Program); err != nil { // who may not gets no dose
		return Planned{}, err
	}
	card, err := descale.MixFor(product, a.GPerL, f, descale.Circuits(f, brew, steam), descale.Chrome, descale.Seals)
	if err != nil {
		return Planned{}, err
	}
	filled, err := a.sample().Fill()
	if err != nil {
		return Planned{}, err
	}
	in := job.Sitting{
		Program: a.Program, Card: card, Setting: treat.Usual(a.Answers.Treatment),
		FeedAlk: units.Alkalinity(filled.Alkalinity.Likely),
		FeedPH:  units.PH(filled.PH.Likely), Share: 1, Now: a.Start,
		Renew: slices.Contains(a.Tasks, task.FilterChange) || slices.Contains(a.Tasks, task.Regenerate),
	}
	if slices.Contains(a.Tasks, task.Wash) {
		w, err := a.wash()
		if err != nil {
			return Planned{}, err
		}
		in.Wash = &w
	}
	p, err := job.Descale(a.Answers, in)
	out := Planned{Plan: p, Card: &card}
	if err != nil {
		return out, err
	}
	cleared, err := run.Cleared(p)
	out.Clear = &cleared
	return out, err
}

func among(id string) (descale.Product, error) {
	var names []string
	for _, p := range descale.Products() {
		if p.ID == id {
			return p, nil
		}
		names = append(names, p.ID)
	}
	return descale.Product{}, &units.OutOfRange{Field: "with.product", Value: id, Allowed: "one of " +
		strings.Join(names, ", ")}
}
