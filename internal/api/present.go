package api

import (
	"cmp"
	"errors"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/run"
	"freshanvil/core/sitting"
	"freshanvil/core/task"
	"freshanvil/core/treat"
	"freshanvil/core/units"
	"freshanvil/core/water"
	"freshanvil/internal/app"
)

// ptr gives a pointer to a value, or nil for its zero value.
func ptr[T comparable](v T) *T {
	var zero T
	if v == zero {
		return nil
	}
	return &v
}

// ReadAnswers turns the answers of the contract into those of core. The error is a
// *units.OutOfRange with the contract's field name.
func ReadAnswers(in Answers) (machine.Answers, error) {
	a, _, err := answersIn(in)
	return a, err
}

func answersIn(in Answers) (machine.Answers, app.HardnessAnswer, error) {
	h := app.HardnessAnswer{Known: in.Hardness.Known}
	if h.Known {
		if in.Hardness.Value == nil {
			return machine.Answers{}, h, &units.OutOfRange{
				Field:   "hardness.value",
				Value:   "nothing",
				Allowed: "a number, or known: false",
			}
		}
		if in.Hardness.Unit == nil {
			return machine.Answers{}, h, &units.OutOfRange{
				Field:   "hardness.unit",
				Value:   "nothing",
				Allowed: "one of mg_l_caco3, mmol_l, dh, fh, clark, gpg",
			}
		}
		h.Value, h.Unit = *in.Hardness.Value, units.HardnessUnit(*in.Hardness.Unit)
	}
	reading, err := h.Reading()
	if err != nil {
		if bad, ok := err.(*units.OutOfRange); ok {
			bad.Field = "hardness." + bad.Field
		}
		return machine.Answers{}, h, err
	}
	a := machine.Answers{
		Layout:     machine.Layout(in.Layout),
		Valve:      machine.Answer(in.Valve),
		Drinks:     in.DrinksPerDay,
		MilkDrinks: in.MilkDrinksPerDay,
		Hardness:   reading,
		Treatment:  machine.Treatment(in.Treatment),
	}
	return a, h, a.Check()
}

func answersOut(m app.Machine) Answers {
	a := Answers{
		Layout:           AnswersLayout(m.Answers.Layout),
		Valve:            AnswersValve(m.Answers.Valve),
		DrinksPerDay:     m.Answers.Drinks,
		MilkDrinksPerDay: m.Answers.MilkDrinks,
		Treatment:        AnswersTreatment(m.Answers.Treatment),
		Hardness:         HardnessAnswer{Known: m.Hardness.Known},
	}
	if m.Hardness.Known {
		unit := HardnessAnswerUnit(m.Hardness.Unit)
		a.Hardness.Value, a.Hardness.Unit = &m.Hardness.Value, &unit
	}
	return a
}

func hardnessOut(h units.HardnessReading) HardnessShown {
	out := HardnessShown{Known: h.Known, Note: water.Note(h)}
	for _, in := range water.InAllUnits(h) {
		out.Units = append(out.Units, HardnessIn{Likely: in.Shown, Symbol: in.Unit.Symbol(), Unit: string(in.Unit)})
	}
	usgs, wrmg := water.Classes(h)
	out.Usgs, out.Wrmg = classOut(usgs), classOut(wrmg)
	return out
}

func classOut(c water.Class) HardnessClass {
	return HardnessClass{Likely: c.Likely, Low: c.Low, High: c.High, Source: c.Source}
}

const descaling = "When, and by whom, stands on the machine's water page: its hardness, its treatment and your " +
	"drinks set the date."

func planOut(
	a machine.Answers,
	c care.Choice,
	dues []care.Due,
	in backflush.Detergent,
	now time.Time,
) (MachinePlan, error) {
	cafe, _ := a.Cafe()
	c = c.Settled(a)
	p := MachinePlan{
		School:      c.Title(),
		LayoutTitle: a.Layout.Title(),
		Groups:      a.Facts().Groups,
		Cafe:        cafe,
		Gate:        backflush.Gate(a.Facts()),
		Hardness: hardnessOut(
			a.Hardness,
		),
		Assumptions: a.Assumptions(),
		Descaling:   descaling,
		Dues:        make([]Due, len(dues)),
	}
	for _, i := range care.Intervals(a, c) {
		p.Intervals = append(p.Intervals, intervalOut(i))
	}
	for i, d := range dues {
		p.Dues[i] = *dueOut(d, p.Groups, now)
	}
	if id, any := job.Renews(treat.Usual(a.Treatment)); any {
		p.Renews = ptr(MachinePlanRenews(id))
	}
	var err error
	p.Wash, err = washOut(a, c, in, job.Target{Group: 1})
	return p, err
}

// washOut is what a wash takes; nil where it must not be washed now.
func washOut(a machine.Answers, c care.Choice, in backflush.Detergent, targets ...job.Target) (*WashPlan,
	error) {
	if c.Method == "" {
		return nil, nil
	}
	method, err := c.By()
	if err != nil {
		return nil, err
	}
	p, err := job.WashBy(a, method, in, targets...)
	var no *reason.Refusal
	if errors.As(err, &no) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	w := washPlanOut(p, p.Leads().Wash)
	return &w, nil
}

// washPlanOut is a plan as it is for one of its groups; of one that washes nothing, it
// is empty.
func washPlanOut(p job.Plan, wash *job.Washing) WashPlan {
	out := WashPlan{Minutes: p.Minutes, TankUses: p.TankUses, TrayGets: p.TrayGets, Rinse: nothingRinsed()}
	if wash == nil {
		return out
	}
	m, err := backflush.Lookup(wash.Method)
	if err != nil {
		m.Name = string(wash.Method) // a plan from a time when the method had another name
	}
	out.Method, out.MethodName, out.Pattern, out.Why, out.Ours = string(
		wash.Method,
	), m.Name, m.Pattern, m.Why, ptr(
		m.Ours,
	)
	if wash.Named != "" {
		out.MethodName = wash.Named
	}
	out.Dose = doseOut(wash.Dose)
	if wash.Rinse.Shown.Name != "" {
		out.Rinse = wash.Rinse.Shown
	}
	if wash.Rinse.Residue.Name != "" {
		out.Residue = &wash.Rinse.Residue
	}
	return out
}

// nothingRinsed stands where a plan has no rinse.
func nothingRinsed() reason.Worked {
	return reason.Worked{Name: "water pulses", Source: reason.Ours, Inputs: []reason.Input{}, WouldChange: []string{}}
}

func doseOut(d *backflush.Dose) *Dose {
	if d == nil {
		return nil
	}
	return &Dose{
		Form:    DoseForm(d.Form),
		Tablets: d.Tablets,
		Pinch:   ptr(d.Pinch),
		Mass:    d.Mass,
		Spoon:   Spoon{Whole: d.Spoon.Whole, Num: d.Spoon.Num, Den: d.Spoon.Den},
	}
}

func standingOut(x care.Standing, groups int, now time.Time, together ...int) *Standing {
	row := x.Task.Row()
	out := &Standing{Task: x.Task, Title: x.Title, Head: x.Head(groups, together...), Says: x.When(), How: row.How,
		Way: TaskWay(row.Way), Whose: whoseOut(row.Whose), Doses: row.Doses,
		Daily: x.Daily, Now: x.Now(now), Begun: x.Begun, Part: x.Part,
		State: StandingState(x.State), Last: ptr(x.Last), Earliest: x.Earliest.UTC(), Likely: x.Likely.UTC(),
		Latest: x.Latest.UTC(), Why: x.Why}
	if x.Clock != "" {
		out.Clock = &struct {
			Kind  ClockKind `json:"kind"`
			Limit float64   `json:"limit"`
			Over  bool      `json:"over"`
			Says  string    `json:"says"`
			Times float64   `json:"times"`
			Unit  string    `json:"unit"`
			Used  float64   `json:"used"`
		}{ClockKind(x.Clock), x.Most, x.Used >= x.Most, x.Going(), x.Gone(), x.Unit, x.Used}
	}
	return out
}

// frontOut is what stands foremost on a machine, in words.
func frontOut(f sitting.Front) Front {
	out := Front{Begin: FrontBegin(f.Begin), Head: f.Head, Name: f.Name, Says: append([]string{}, f.Says...),
		Button: ptr(f.Button), Short: ptr(f.Short), Task: ptr(f.Task), Press: f.Press, Pulses: ptr(f.Pulses),
		Unsafe: f.Unsafe}
	if len(f.Parts) > 0 {
		out.Parts = &f.Parts
	}
	return out
}

func whoseOut(w task.Whose) Whose { return Whose(cmp.Or(string(w), "anybody")) }

func dueOut(d care.Due, groups int, now time.Time) *Due {
	x, row := d.Standing(), d.Task.Row()
	out := &Due{
		Task:     d.Task,
		Title:    x.Title,
		Head:     x.Head(groups),
		Says:     x.When(),
		How:      row.How,
		Way:      TaskWay(row.Way),
		Whose:    whoseOut(row.Whose),
		Doses:    row.Doses,
		Pulled:   x.Pulled,
		Daily:    x.Daily,
		Now:      x.Now(now),
		Begun:    x.Begun,
		Part:     d.Part,
		State:    DueState(d.State),
		Clocks:   []Clock{},
		Earliest: d.Earliest.UTC(),
		Likely:   d.Likely.UTC(),
		Latest:   d.Latest.UTC(),
		Because:  d.Because,
	}
	if d.Days.Name != "" {
		out.Days = &d.Days
	}
	if !d.Last.IsZero() {
		last := d.Last.UTC()
		out.Last = &last
	}
	for _, c := range d.Clocks {
		out.Clocks = append(
			out.Clocks,
			Clock{
				Kind:  ClockKind(c.Kind),
				Used:  c.Used,
				Limit: c.Limit,
				Left:  c.Left(),
				Unit:  c.Unit,
				Over:  c.Over(),
				Leads: c.Leads,
			},
		)
	}
	return out
}

func hazardOut(h app.Hazard, m app.Machine) Hazard {
	in := app.Contents([]app.Hazard{h}, h.MachineID)
	in.Layout = m.Answers.Layout
	text := in.Holds()
	if h.Chemical == app.Pressure {
		text = in.Pressed()
	}
	if h.Chemical == app.Stopped {
		text = in.Halted()
	}
	return Hazard{MachineId: h.MachineID, MachineName: m.Name, Part: h.Part, Chemical: HazardChemical(h.Chemical),
		Since: h.Since, Text: text, Tries: ptr(h.Tries), Bars: ptr(job.Bars(h.Tries)), RunId: ptr(h.RunID)}
}

func entryOut(e app.Entry, m app.Machine) LogEntry {
	did, proof := app.Told(e)
	out := LogEntry{
		Id:          e.ID,
		MachineId:   e.MachineID,
		MachineName: m.Name,
		Zone:        m.Zone.String(),
		Title:       e.Title,
		Titled:      e.Title + care.OfGroup(e.Part, m.Answers.Facts().Groups),
		Part:        e.Part,
		At:          e.At,
		Outcome:     LogEntryOutcome(e.Outcome),
		RunId:       ptr(e.RunID),
		Note:        ptr(e.Record.Note),
		TakenBack:   ptr(e.TakenBack),
		WasAt:       e.Record.Dated,
		By:          ptr(e.Record.By),
		Paper:       ptr(e.Record.Paper),
		PaperDated:  e.Record.Papered,
		Did:         orNone(did),
		Proof:       proof,
		Sitting:     e.ID,
		Counts:      ptr(!e.TakenBack && (e.Outcome == app.Recorded || e.Outcome == string(run.Finished))),
	}
	if sent := e.Record.Sent; sent != "" && sent != e.Record.By {
		out.Sent = &sent
	}
	if e.RunID != "" {
		out.Method, out.Dose, out.SoapyPulses, out.RinsePulses, out.Minutes = ptr(
			string(e.Record.Method),
		), doseOut(
			e.Record.Dose,
		), &e.Record.Soapy, &e.Record.Rinsed, &e.Record.Minutes
		out.First = ptr(string(e.Record.First))
		if len(e.Record.Cups) > 0 {
			out.Cups = &e.Record.Cups
		}
	}
	return out
}

func factsOut(a machine.Answers) []Fact { return knownOut(a.Known()) }

func knownOut(known []machine.Known) []Fact {
	out := make([]Fact, len(known))
	for i, k := range known {
		out[i] = Fact{
			Key:     k.Key,
			Label:   k.Label,
			Unit:    k.Unit,
			Value:   k.Value,
			Default: k.Default,
			Set:     k.Set,
			Source:  k.Source,
			Changes: k.Changes,
		}
		if k.Options != nil {
			out[i].Options = &k.Options
			titles := make([]string, len(k.Options))
			for j, o := range k.Options {
				titles[j] = machine.OptionTitle(o)
			}
			out[i].Titles, out[i].ValueTitle = &titles, ptr(machine.OptionTitle(k.Value))
		} else {
			out[i].Min, out[i].Max = &k.Min, &k.Max
		}
	}
	return out
}

// badLines are the lines of a file that cannot be taken.
func badLines[T ~struct {
	Line                  int
	Field, Value, Allowed string
}](list []T) []BadLine {
	out := []BadLine{}
	for _, x := range list {
		b := struct {
			Line                  int
			Field, Value, Allowed string
		}(x)
		out = append(out, BadLine{Line: b.Line, Field: b.Field, Value: b.Value, Allowed: b.Allowed})
	}
	return out
}
