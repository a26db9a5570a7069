package main

import (
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/reason"
	"freshanvil/core/run"
	"freshanvil/core/units"
	"freshanvil/internal/api"
	"freshanvil/internal/app"
	"freshanvil/internal/report"
)

const planUsage = `Usage:
  freshanvil plan [--json | --trace] [--hands X | --seed N] [--answer STEP=WAY ...] < request.json

The request: {"machine": {"answers": {…}, "facts": [{"key", "value"}]}, "tasks": ["descale", …],
"with": {"method" | "program" | "product" | "strength_g_l" | "draws" | "days" | "visits" | "parts": […]},
"start": "2026-03-10T18:00:00Z"}.
Answers are those of the contract; tasks are descale, wash, water_backflush, filter_change,
regenerate, draw_off, lay_up, visit, return, and the care of parts. The plan is printed as a sheet to work from. Several
tasks are one sitting; "cold": true is a machine that has been off overnight. Several machines are
{"machines": [{"name", "machine", "tasks", "with", "cold"}, …]}: one order of visits, then the
sheet of each run.

  --json    the plan with its step ids
  --trace   the machine as the model believes it to be, a JSON line at each event and step; of
            refused plans too, up to the instant
  --hands   every step's hand work takes X times as long, 0.5 to 3
  --seed    each step's takes a time of its own, from half to three times as long
  --answer  what is said, or happens, at a step: a way of a choice; no_water; differs;
            nothing_came; rinse_now

A plan that must not be carried out is refused: a problem document on the standard error, and
exit code 3. What cannot be read or is out of range: the same, and exit code 2.
`

// Exit codes of plan.
const (
	exitBad     = 2
	exitRefused = 3
)

// exit is an error that was told already, with the code to end with.
type exit struct{ code int }

func (e exit) Error() string { return fmt.Sprint("exit ", e.code) }

// planFlags are what is asked of plan beside its request.
type planFlags struct {
	json, trace bool
	hands       float64
	seed        int64
	answers     []string
}

func (f *planFlags) String() string { return strings.Join(f.answers, ",") }

// Set takes one answer more.
func (f *planFlags) Set(text string) error {
	if step, way, ok := strings.Cut(text, "="); !ok || step == "" || way == "" {
		return fmt.Errorf("%q; allowed: STEP=WAY", text)
	}
	f.answers = append(f.answers, text)
	return nil
}

func plan(args []string, in io.Reader, out, complain io.Writer) error {
	var o planFlags
	flags := flag.NewFlagSet("plan", flag.ContinueOnError)
	flags.SetOutput(complain)
	flags.Usage = func() { fmt.Fprint(complain, planUsage) }
	flags.BoolVar(&o.json, "json", false, "the plan with its step ids")
	flags.BoolVar(&o.trace, "trace", false, "the states of the machine")
	flags.Float64Var(&o.hands, "hands", 0, "every step's time, 0.5 to 3")
	flags.Int64Var(&o.seed, "seed", -1, "a time of its own for each step")
	flags.Var(&o, "answer", "STEP=WAY")
	if err := flags.Parse(args); err != nil {
		return err
	}
	err := carryOutPlan(o, flags.Args(), in, out)
	if err == nil {
		return nil
	}
	problem := api.ProblemOf(err)
	text, _ := json.Marshal(problem)
	fmt.Fprintln(complain, string(text))
	var refused *reason.Refusal
	if errors.As(err, &refused) {
		return exit{exitRefused}
	}
	return exit{exitBad}
}

func (f *planFlags) check(rest []string) error {
	switch {
	case len(rest) > 0:
		return &units.OutOfRange{Field: "arguments", Value: rest[0],
			Allowed: "flags only; the request comes on the standard input"}
	case f.json && f.trace:
		return &units.OutOfRange{Field: "trace", Value: "with json", Allowed: "one of the two"}
	case f.hands != 0 && f.seed >= 0:
		return &units.OutOfRange{Field: "seed", Value: "with hands", Allowed: "one of the two"}
	case f.hands != 0 && !(f.hands >= 0.5 && f.hands <= 3):
		return &units.OutOfRange{Field: "hands", Value: fmt.Sprint(f.hands), Allowed: "0.5 to 3"}
	}
	return nil
}

// handsOf are the hands that a trace is played with.
func (f *planFlags) handsOf(p job.Plan) (run.Hands, error) {
	h := run.AsSaid()
	switch {
	case f.hands != 0:
		h = run.Uniform(f.hands)
	case f.seed >= 0:
		h = run.Mixed(uint64(f.seed))
	}
	h.Answers, h.NoPressure, h.Differ = map[string]job.Answer{}, map[string]bool{}, map[string]bool{}
	h.NothingCame, h.RinseNow = map[string]bool{}, map[string]bool{}
	known := map[string]bool{}
	for _, s := range p.Steps() {
		known[s.ID] = true
	}
	for _, text := range f.answers {
		step, way, _ := strings.Cut(text, "=")
		if !known[step] {
			return h, &units.OutOfRange{Field: "answer", Value: text, Allowed: "the id of a step of the plan"}
		}
		switch way {
		case "no_water":
			h.NoPressure[step] = true
		case "differs":
			h.Differ[step] = true
		case "nothing_came":
			h.NothingCame[step] = true
		case "rinse_now":
			h.RinseNow[step] = true
		default:
			h.Answers[step] = job.Answer(way)
		}
	}
	return h, nil
}

func carryOutPlan(o planFlags, rest []string, in io.Reader, out io.Writer) error {
	if err := o.check(rest); err != nil {
		return err
	}
	list, start, err := readPlanRequest(in)
	if err != nil {
		return err
	}
	if len(list) > 1 || list[0].Several() {
		return severalOut(o, list, start, out)
	}
	asked := list[0].Alone
	planned, err := asked.Plan()
	var refused *reason.Refusal
	if err != nil && !errors.As(err, &refused) {
		return err
	}
	if o.trace {
		if len(planned.Plan.Activities) == 0 {
			return err
		}
		h, bad := o.handsOf(planned.Plan)
		if bad != nil {
			return bad
		}
		if traced := traceOut(out, planned.Plan, h); err == nil {
			err = traced
		}
		return err
	}
	if err != nil {
		return err
	}
	if _, err := o.handsOf(planned.Plan); err != nil {
		return err
	}
	if o.json {
		return planOut(out, planned)
	}
	return report.Sheet(out, planned.Plan, asked.Start, time.UTC, planned.Clear)
}

func readPlanRequest(in io.Reader) (list []app.AloneOne, start time.Time, err error) {
	var r api.PlanRequest
	if err := api.ReadAs("PlanRequest", in, &r); err != nil {
		return nil, start, err
	}
	if r.Start != nil {
		start = *r.Start
	}
	switch {
	case r.Machines != nil && r.Machine != nil:
		return nil, start, &units.OutOfRange{Field: "machines", Value: "beside machine", Allowed: "one of the two"}
	case r.Machines == nil && r.Machine == nil:
		return nil, start, &units.OutOfRange{Field: "machine", Value: "nothing", Allowed: "answers and facts of one machine"}
	case r.Machines == nil:
		one := api.PlanJob{Name: r.Name, Machine: *r.Machine, Tasks: r.Tasks, Cold: r.Cold, With: r.With}
		asked, err := alone(one, start)
		return []app.AloneOne{{Name: or(r.Name, ""), Alone: asked}}, start, err
	}
	for i, j := range *r.Machines {
		name := or(j.Name, fmt.Sprintf("Machine %d", i+1))
		if slices.ContainsFunc(list, func(o app.AloneOne) bool { return o.Name == name }) {
			return nil, start, &units.OutOfRange{Field: fmt.Sprintf("machines.%d.name", i), Value: name,
				Allowed: "each name once"}
		}
		one, err := alone(j, start)
		if err != nil {
			return nil, start, under(fmt.Sprintf("machines.%d", i), err)
		}
		list = append(list, app.AloneOne{Name: name, Alone: one})
	}
	return list, start, nil
}

// or is what was given, or else what stands in for it.
func or[T any](given *T, otherwise T) T {
	if given == nil {
		return otherwise
	}
	return *given
}

// alone is one machine with what is asked for on it.
func alone(j api.PlanJob, start time.Time) (app.Alone, error) {
	a, err := api.ReadAnswers(j.Machine.Answers)
	if err != nil {
		return app.Alone{}, under("machine.answers", err)
	}
	a.Overrides = map[string]string{}
	for _, f := range or(j.Machine.Facts, nil) {
		value := fmt.Sprint(f.Value)
		if err := a.CheckOverride(f.Key, value); err != nil {
			return app.Alone{}, under("machine.facts", err)
		}
		a.Overrides[f.Key] = value
	}
	with := or(j.With, api.PlanWith{})
	return app.Alone{
		Answers: a, Tasks: or(j.Tasks, nil), Cold: or(j.Cold, false), Start: start,
		Method:  backflush.MethodID(or(with.Method, "")),
		Program: descale.ProgramID(or(with.Program, "")),
		Product: or(with.Product, ""), GPerL: units.Strength(or(with.StrengthGL, 0)),
		Parts: or(with.Parts, nil), Draws: or(with.Draws, 0), Days: or(with.Days, 0), Visits: or(with.Visits, 0),
	}, nil
}

// severalOut prints what is done in one go: where to be when, then the sheet of each run.
func severalOut(o planFlags, list []app.AloneOne, start time.Time, out io.Writer) error {
	if o.json || o.trace {
		return &units.OutOfRange{Field: "machines", Value: "with json or trace", Allowed: "one run at a time"}
	}
	a, plans, err := app.InOneGo(list)
	if err != nil {
		return err
	}
	if err := report.InOneGo(out, a, start, time.UTC); err != nil {
		return err
	}
	for i, p := range plans {
		fmt.Fprintf(out, "\n\n%s\n\n", strings.ToUpper(a.Jobs[i].Name))
		if err := report.Sheet(out, p.Plan, time.Time{}, time.UTC, p.Clear); err != nil {
			return err
		}
	}
	return nil
}

func under(field string, err error) error {
	var bad *units.OutOfRange
	if errors.As(err, &bad) {
		return bad.Under(field)
	}
	return err
}
