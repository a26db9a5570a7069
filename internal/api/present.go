package api

import (
	"math"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/run"
	"freshanvil/core/units"
	"freshanvil/core/water"
	"freshanvil/internal/store"
)

// ptr gives a pointer to a value, or nil for its zero value.
func ptr[T comparable](v T) *T {
	var zero T
	if v == zero {
		return nil
	}
	return &v
}

func answersIn(in Answers) (machine.Answers, store.HardnessAnswer, error) {
	h := store.HardnessAnswer{Known: in.Hardness.Known}
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

func answersOut(m store.Machine) Answers {
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
	var err error
	p.Wash, err = washOut(a, c.Method, in, job.Part{Group: 1})
	return p, err
}

// washOut is what a wash takes; nil where it must not be washed.
func washOut(
	a machine.Answers,
	method backflush.MethodID,
	in backflush.Detergent,
	parts ...job.Part,
) (*WashPlan, error) {
	if method == "" {
		return nil, nil
	}
	p, err := job.Wash(a, method, in, parts...)
	if _, no := err.(*job.Refused); no {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	w := washPlanOut(p, p.Leads())
	return &w, nil
}

// washPlanOut is a plan as it is for one of its groups.
func washPlanOut(p job.Plan, part job.Part) WashPlan {
	m, err := backflush.Lookup(part.Method)
	if err != nil {
		m.Name = string(part.Method) // a plan from a time when the method had another name
	}
	if part.Rinse.Shown.Name == "" { // nothing is rinsed
		part.Rinse.Shown = reason.Worked{
			Name:        "water pulses",
			Source:      reason.Ours,
			Inputs:      []reason.Input{},
			WouldChange: []string{},
		}
	}
	out := WashPlan{
		Method:     string(part.Method),
		MethodName: m.Name,
		Pattern:    m.Pattern,
		Why:        m.Why,
		Ours:       ptr(m.Ours),
		Dose:       doseOut(part.Dose),
		Minutes:    p.Minutes,
		TankUses:   p.TankUses,
		TrayGets:   p.TrayGets,
		Rinse:      part.Rinse.Shown,
	}
	if part.Rinse.Residue.Name != "" {
		out.Residue = &part.Rinse.Residue
	}
	return out
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

func dueOut(d care.Due, groups int, now time.Time) *Due {
	out := &Due{
		Task:     DueTask(d.Task),
		Title:    d.Title(),
		Head:     d.Head(groups),
		Says:     d.Says(),
		Daily:    d.Interval.Daily,
		Now:      d.Now(now),
		Group:    d.Group,
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

func hazardOut(h store.Hazard, name string) Hazard {
	return Hazard{
		MachineId:   h.MachineID,
		MachineName: name,
		Group:       h.Group,
		Circuit:     ptr(h.Circuit),
		Chemical:    HazardChemical(h.Chemical),
		Since:       h.Since,
		Text:        store.Inside([]store.Hazard{h}, h.MachineID).Says(),
		RunId:       &h.RunID,
	}
}

// whereOut says what a plan is for: its groups, or the machine.
func whereOut(p job.Plan) string {
	if p.Leads().Task.OfMachine() {
		return "the machine"
	}
	return care.Groups(p.Groups())
}

func runOut(r store.Run, m store.Machine, now time.Time) Run {
	s := r.At(now)
	out := Run{
		Id: r.ID, MachineId: r.MachineID, MachineName: m.Name, Zone: m.Zone.String(), Title: r.Plan.Leads().Title,
		Task: RunTask(r.Plan.Leads().Task), OfMachine: r.Plan.Leads().Task.OfMachine(), Group: s.Number,
		Where: whereOut(r.Plan), Here: care.Groups([]int{s.Number}), Soaks: []Soaking{}, Groups: []RunGroup{},
		Wash: washPlanOut(r.Plan, r.Plan.Part(s.Number)), Speed: r.Speed, StartedAt: r.Started, ServerTime: now,
		Step: stepOut(
			s.Step,
		), SoapyPulses: s.Soapy, Cups: append([]Cup{}, s.Cups...), Finding: s.Finding, EmptyTray: s.EmptyTray,
		FillTank: s.FillTank, Practice: r.Practice, Device: r.Device, LastDevice: lastDevice(r),
		PatienceS: run.Patience.Seconds(), Help: backflush.Help(m.Answers.Facts()),
		Allowed: []RunAllowed{}, Schedule: []Segment{}, Lines: []Line{},
	}
	out.Detergent.In, out.Detergent.Rinsed, out.Detergent.Least, out.Detergent.Clear = s.Detergent.In,
		s.Detergent.Rinsed, s.Detergent.Least, s.Detergent.Clear
	switch out.Task {
	case RunTaskFilterChange, RunTaskRegenerate, RunTaskDrawOff:
		out.Help = []Finding{} // what goes wrong in a wash does not here
	case RunTaskDescale, RunTaskAcidRinse:
		if s.Step.Phase != "" {
			out.Help = descale.Help(m.Answers.Facts())
		}
	}
	var in job.Inside
	for _, g := range s.Groups {
		if g.Detergent.In {
			in.Detergent = append(in.Detergent, g.Number)
		}
		out.Groups = append(
			out.Groups,
			RunGroup{
				Group:       g.Number,
				Task:        RunGroupTask(r.Plan.Part(g.Number).Task),
				Detergent:   g.Detergent.In,
				SoapyPulses: g.Soapy,
				Rinsed:      g.Detergent.Rinsed,
				Cups:        append([]Cup{}, g.Cups...),
				Outcome:     RunGroupOutcome(g.Outcome()),
			},
		)
	}
	for _, a := range s.Acids {
		if a.In {
			in.Acid = append(in.Acid, a.ID)
		}
	}
	out.Inside.Text, out.Inside.Parts = in.Says(), in.Where()
	out.Inside.Any = out.Inside.Text != ""
	if r.Plan.Acid != nil {
		out.Descale = runDescaleOut(r, s)
	}
	if s.Step.ID == r.Plan.Steps[0].ID || s.Step.Phase != "" { // getting ready is for all
		out.Here = out.Where
	}
	for _, b := range s.Soaks {
		out.Soaks = append(
			out.Soaks,
			Soaking{
				Group:    b.Step.Group,
				What:     string(b.Step.Lane),
				Text:     b.Step.Head,
				StartsAt: b.Start,
				EndsAt:   b.End,
			},
		)
	}
	segment := func(g Segment, end time.Time) Segment {
		if !end.IsZero() {
			g.EndsAt = &end
		}
		return g
	}
	out.Segment = segment(
		Segment{
			Index:    s.Segment.Index,
			Kind:     SegmentKind(s.Segment.Kind),
			Pulse:    s.Segment.Pulse,
			StartsAt: s.Segment.Start,
		},
		s.Segment.End,
	)
	for _, g := range s.Schedule {
		out.Schedule = append(
			out.Schedule,
			segment(Segment{Index: g.Index, Kind: SegmentKind(g.Kind), Pulse: g.Pulse, StartsAt: g.Start}, g.End),
		)
	}
	for _, k := range s.Allowed {
		out.Allowed = append(out.Allowed, RunAllowed(k))
	}
	for _, l := range s.Lines {
		out.Lines = append(
			out.Lines,
			Line{Id: l.ID, Title: l.Title, Group: l.Group, Note: ptr(l.Note), Status: LineStatus(l.Status)},
		)
	}
	if s.Outcome != "" {
		outcome := RunOutcome(s.Outcome)
		out.Outcome, out.EndedAt = &outcome, &s.EndedAt
	}
	if r.Plan.Tray > 0 {
		out.Tray = vesselOut(s.Tray.Worked("water in the tray", r.Plan.Vents), r.Plan.Tray)
	}
	if r.Plan.Tank > 0 {
		out.Tank = vesselOut(s.Drawn.Left(r.Plan.Tank, r.Plan.Vents), r.Plan.Tank)
	}
	return out
}

// lastDevice is the one that pressed last: it leads, the others follow.
func lastDevice(r store.Run) string {
	if len(r.Presses) == 0 {
		return r.Device
	}
	return r.Presses[len(r.Presses)-1].Device
}

func vesselOut(has reason.Worked, holds units.Volume) *Vessel {
	return &Vessel{Has: has, HoldsMl: float64(holds), Share: math.Min(1, has.Value/float64(holds))}
}

func stepOut(s job.Step) Step {
	out := Step{
		Id:       s.ID,
		Kind:     StepKind(s.Kind),
		Title:    s.Title,
		Head:     s.Head,
		Do:       s.Do,
		Button:   s.Button,
		Cautions: s.Cautions,
		Group:    s.Group,
		Flush:    s.Flush,
	}
	if s.Hazard == job.Sets {
		out.Doses = ptr(true)
	}
	if s.Waits > 0 {
		out.WaitsS = ptr(s.Waits.Seconds())
	}
	out.Length, out.Circuit, out.Ends = s.Length, ptr(s.Circuit), ptr(s.Ends)
	if s.Phase != "" {
		out.Phase = ptr(StepPhase(s.Phase))
	}
	if s.Reads != "" {
		out.Reads = ptr(StepReads(s.Reads))
	}
	if s.Mix != nil {
		out.Mix = &Batch{Measure: s.Mix.Measure, Water: s.Mix.Water}
	}
	if s.Kind == job.Choose {
		ways := s.Ways
		if len(ways) == 0 {
			ways = job.Heard()
		}
		list := make([]Way, len(ways))
		for i, w := range ways {
			list[i] = Way{What: w.What, Text: w.Text}
		}
		out.Ways = &list
	}
	if s.Pulses != nil {
		on, off := s.Pulses.On.Seconds(), s.Pulses.Off.Seconds()
		out.OnS, out.OffS, out.Pulses = &on, &off, &s.Pulses.Count
	}
	return out
}

func entryOut(e store.Entry, m store.Machine) LogEntry {
	out := LogEntry{
		Id:          e.ID,
		MachineId:   e.MachineID,
		MachineName: m.Name,
		Zone:        m.Zone.String(),
		Title:       e.Title,
		Group:       e.Group,
		At:          e.At,
		Outcome:     LogEntryOutcome(e.Outcome),
		RunId:       ptr(e.RunID),
		Note:        ptr(e.Record.Note),
	}
	if e.Task.OfMachine() {
		out.Group = 0
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

func factsOut(a machine.Answers) []Fact {
	known := a.Known()
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
		} else {
			out[i].Min, out[i].Max = &k.Min, &k.Max
		}
	}
	return out
}
