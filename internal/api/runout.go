package api

import (
	"fmt"
	"math"
	"slices"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/care"
	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/run"
	"freshanvil/core/task"
	"freshanvil/core/units"
	"freshanvil/internal/app"
)

// runOut is a run that goes on, at an instant of its own clock.
func runOut(r app.Run, m app.Machine, now time.Time) Run {
	s, lead := r.At(now), r.Plan.Leads()
	out := Run{Id: r.ID, MachineId: m.ID, MachineName: m.Name, Zone: m.Zone.String(), Title: r.Plan.Title(),
		Task: lead.Task, OfMachine: lead.Part.IsWhole(), Over: lead.Task.Row().Over, After: ptr(lead.Task.Row().After),
		Part: s.Step.Part, Where: r.Plan.Where(),
		Here: hereOut(r.Plan, s), Soaks: []Soaking{}, Groups: []RunGroup{}, Activities: activitiesOut(s.Activities),
		Wash: washPlanOut(r.Plan, r.Plan.WashOf(s.Step.Part)), Speed: r.Speed, StartedAt: r.Started, ServerTime: now,
		Step: stepOut(s.Step), SoapyPulses: s.Soapy, Cups: append([]Cup{}, s.Cups...), Finding: s.Finding,
		EmptyTray: s.EmptyTray, FillTank: s.FillTank, Practice: r.Practice, Device: r.Device, LastDevice: lastDevice(r),
		PatienceS: run.Patience.Seconds(), Help: helpOut(helped(r.Plan, s.Step), s.Step.Phase, m.Answers.Facts()),
		Absences: []Leave{}, Allowed: []RunAllowed{}, Schedule: []Segment{}, Lines: linesOut(s.Lines)}
	if !s.LikelyEnd.IsZero() && s.Absence == nil {
		out.LikelyEnd = &s.LikelyEnd
	}
	if n := len(r.Presses); n > 0 && r.Presses[n-1].Kind == run.Reorder {
		out.SoonerMin = &r.Presses[n-1].Minutes
	}
	out.Detergent.In, out.Detergent.Rinsed = s.Detergent.In, s.Detergent.Rinsed
	out.Detergent.Least, out.Detergent.Clear = s.Detergent.Least, s.Detergent.Clear
	for i, a := range r.Plan.Washes() {
		g := s.Groups[i]
		out.Groups = append(out.Groups, RunGroup{Part: g.Part, Task: a.Task, Detergent: g.Detergent.In,
			SoapyPulses: g.Soapy, Rinsed: g.Detergent.Rinsed, Cups: append([]Cup{}, g.Cups...),
			Blind: g.Blind, Barred: ptr(job.Bars(g.Blind)),
			Outcome: RunGroupOutcome(outcomeOf(s.Activities, a.ID))})
	}
	insideOut(&out, s.Contents(), m)
	if s.Descale != nil {
		out.Descale = runDescaleOut(r.Plan, s)
	}
	for _, b := range s.Soaks {
		out.Soaks = append(out.Soaks, Soaking{Id: b.Step.ID, Part: b.Step.Part, What: soaking(r.Plan, b.Step),
			Text: b.Step.Head, StartsAt: b.Start, EndsAt: b.End})
	}
	if a := s.Absence; a != nil {
		out.Absence = &Absence{Since: a.Since, Until: a.Until, Minutes: a.Minutes, Do: a.Do}
	}
	for _, l := range s.Absences {
		leave := Leave{Minutes: LeaveMinutes(l.Minutes), Do: l.Do}
		if l.Not != "" {
			leave.Not = &l.Not
		}
		out.Absences = append(out.Absences, leave)
	}
	out.Segment = segmentOut(s.Segment)
	for _, g := range s.Schedule {
		out.Schedule = append(out.Schedule, segmentOut(g))
	}
	for _, k := range s.Allowed {
		out.Allowed = append(out.Allowed, RunAllowed(k))
	}
	if s.Outcome != "" {
		outcome := RunOutcome(s.Outcome)
		out.Outcome, out.EndedAt = &outcome, &s.EndedAt
	}
	setup := r.Plan.Of(*r.Plan.Activity(s.Step.Activity))
	if setup.Tray > 0 {
		out.Tray = vesselOut(s.Tray.Worked("water in the tray", setup.Vents), setup.Tray)
	}
	if setup.Tank > 0 {
		out.Tank = vesselOut(s.Drawn.Left(setup.Tank, setup.Vents), setup.Tank)
	}
	return out
}

// overOf is what is said when a run was led to its end: of one task by its row, of a sitting by what it was.
func overOf(e app.Ended) string {
	for _, a := range e.Activities {
		if e.Descale == nil && a.Task != e.Task {
			return "All of it is done."
		}
	}
	return e.Task.Row().Over
}

// endedOut is a run that has ended, by what was written down of it.
func endedOut(r app.Run, m app.Machine, now time.Time) Run {
	e := *r.Ended
	outcome := RunOutcome(e.Outcome)
	out := Run{Id: r.ID, MachineId: m.ID, MachineName: m.Name, Zone: m.Zone.String(), Title: e.Title,
		Task: e.Task, OfMachine: e.Task.IsOfMachine(), Over: overOf(e), After: ptr(e.Task.Row().After),
		Where: e.Where, Here: e.Where, Soaks: []Soaking{},
		Groups: []RunGroup{}, Activities: activitiesOut(e.Activities), Speed: r.Speed, StartedAt: r.Started,
		ServerTime: now, Finding: e.Finding, Practice: r.Practice, Device: r.Device, LastDevice: r.Device,
		PatienceS: run.Patience.Seconds(), Help: []Finding{}, Absences: []Leave{}, Allowed: []RunAllowed{},
		Schedule: []Segment{},
		Lines:    linesOut(e.Lines), Outcome: &outcome, EndedAt: &e.At, Note: ptr(e.Note), Cups: []Cup{},
		Wash: WashPlan{Minutes: nothingRinsed(), TankUses: nothingRinsed(), TrayGets: nothingRinsed(),
			Rinse: nothingRinsed()},
		Step: Step{Id: "ended", Kind: StepKind(job.ActKind), Do: []string{}, Cautions: []reason.Caution{}}}
	out.Segment = Segment{Kind: SegmentKind(run.Open), StartsAt: e.At}
	for _, g := range e.Groups {
		out.Groups = append(out.Groups, RunGroup{Part: g.Part, Task: g.Task, Detergent: g.In,
			SoapyPulses: g.Soapy, Rinsed: g.Rinsed, Cups: append([]Cup{}, g.Cups...),
			Blind: g.Blind, Barred: ptr(job.Bars(g.Blind)),
			Outcome: RunGroupOutcome(groupOutcome(e, g))})
	}
	if len(e.Groups) > 0 {
		g := e.Groups[0]
		out.Part, out.SoapyPulses, out.Cups = g.Part, g.Soapy, append([]Cup{}, g.Cups...)
		out.Detergent.In, out.Detergent.Rinsed, out.Detergent.Least, out.Detergent.Clear = g.In, g.Rinsed, g.Least, !g.In
		out.Wash.Dose, out.Wash.Method = doseOut(g.Dose), string(g.Method)
	}
	insideOut(&out, e.Contents(), m)
	if e.Descale != nil {
		out.Descale = endedDescaleOut(*e.Descale)
	}
	return out
}

// groupOutcome is how a run ended for one of its groups.
func groupOutcome(e app.Ended, g app.EndedGroup) run.Outcome {
	for _, a := range e.Activities {
		if a.Part == g.Part {
			return a.Outcome
		}
	}
	return e.Outcome
}

func outcomeOf(list []run.Activity, id string) run.Outcome {
	for _, a := range list {
		if a.ID == id {
			return a.Outcome
		}
	}
	return run.Stopped
}

func insideOut(out *Run, in job.Contents, m app.Machine) {
	in.Layout = m.Answers.Layout
	out.Inside.Text, out.Inside.Parts, out.Inside.Any = in.Holds(), in.Names(), in.Any()
}

// hereOut names what the present step is for: getting ready, and what is of a descale,
// are for all.
func hereOut(p job.Plan, s run.State) string {
	if g := s.Step.Part.GroupNumber(); g > 0 && s.Step.ID != p.Order[0] && s.Step.Phase == "" {
		return care.Groups([]int{g})
	}
	if a := p.Activity(s.Step.Activity); a != nil && sits(p) {
		return a.Task.Row().Short
	}
	return p.Where()
}

// sits says whether a plan is a sitting of several tasks; a descale leads what goes with it.
func sits(p job.Plan) bool { return p.Descaling() == nil && len(p.Titles()) > 1 }

// helped is the task that help is about: in a sitting that of the step, else the one that leads.
func helped(p job.Plan, s job.Step) task.ID {
	if a := p.Activity(s.Activity); a != nil && sits(p) {
		return a.Task
	}
	return p.Leads().Task
}

// helpOut is what may go wrong in the middle of it.
func helpOut(of task.ID, phase job.Phase, f machine.Facts) []Finding {
	if job.Tends(of) {
		return job.TendHelp()
	}
	switch of {
	case task.FilterChange, task.Regenerate, task.DrawOff:
		return []Finding{} // what goes wrong in a wash does not here
	case task.Descale, task.AcidRinse: // with a wash behind it, that is helped as a wash is
		if phase != "" {
			return descale.Help(f)
		}
	}
	return backflush.Help(f)
}

func activitiesOut(list []run.Activity) []ActivityNow {
	out := make([]ActivityNow, len(list))
	for i, a := range list {
		out[i] = ActivityNow{Task: string(a.Task), Part: a.Part, Title: a.Title, Outcome: ActivityNowOutcome(a.Outcome)}
	}
	return out
}

func linesOut(list []run.Line) []Line {
	out := make([]Line, len(list))
	for i, l := range list {
		out[i] = Line{Id: l.ID, Title: l.Title, Part: l.Part, Note: ptr(l.Note), Status: LineStatus(l.Status)}
	}
	return out
}

func segmentOut(g run.Segment) Segment {
	out := Segment{Index: g.Index, Kind: SegmentKind(g.Kind), Pulse: g.Pulse, StartsAt: g.Start}
	if !g.End.IsZero() {
		out.EndsAt = &g.End
	}
	return out
}

// lastDevice is the one that pressed last: it leads, the others follow.
func lastDevice(r app.Run) string {
	if len(r.Presses) == 0 {
		return r.Device
	}
	for _, p := range slices.Backward(r.Presses) {
		if p.Kind != run.Reorder { // nobody pressed that
			return p.Device
		}
	}
	return r.Device
}

func vesselOut(has reason.Worked, holds units.Volume) *Vessel {
	return &Vessel{Has: has, HoldsMl: float64(holds), Share: math.Min(1, has.Value/float64(holds))}
}

// stepOut is a step with what its kind adds: a new kind gets its case here and its
// fields in the contract.
func stepOut(s job.Step) Step {
	out := Step{Id: s.ID, Kind: StepKind(s.Kind()), Title: s.Title, Head: s.Head, Do: s.Do, Button: s.Button,
		Cautions: append([]reason.Caution{}, s.Cautions...), Part: s.Part}
	if s.Effect == job.Doses {
		out.Doses = ptr(true)
	}
	if s.Phase != "" {
		out.Phase = ptr(StepPhase(s.Phase))
	}
	if s.Picture != "" {
		out.Picture = ptr(StepPicture(s.Picture))
	}
	switch b := s.Body.(type) {
	case job.Act:
		out.Flush = b.FlushTime
		if b.Mix != nil {
			out.Mix = &Batch{Measure: b.Mix.Measure, Water: b.Mix.Water}
		}
	case job.Pulses:
		on, off := b.On.Seconds(), b.Off.Seconds()
		out.OnS, out.OffS, out.Pulses = &on, &off, &b.Count
	case job.Push:
		out.Length = &b.Long
		out.Outlet = ptr(b.To)
	case job.Sips:
		on, stand := b.On.Seconds(), b.Stand.Seconds()
		out.OnS, out.OffS, out.Pulses, out.Length, out.Outlet = &on, &stand, &b.Count, &b.Length, ptr(b.To)
	case job.Soak:
		out.WaitsS, out.Length, out.Ends = ptr(b.For.Seconds()), b.Length, ptr(b.Ends)
	case job.Wait:
		out.WaitsS, out.Length, out.Ends = ptr(b.For.Seconds()), b.Length, ptr(b.Ends)
	case job.Look:
		out.Sees = ptr(StepSees(b.At))
	case job.Choose:
		list := make([]Way, len(b.Ways))
		for i, w := range b.Ways {
			list[i] = wayOut(w, b.Sight)
		}
		out.Ways, out.Sight = &list, ptr(string(b.Sight))
	case job.Measure:
		pads := b.Reads.Pads()
		out.Reads, out.Pads = ptr(StepReads(b.Reads)), &pads
		if !b.Circuit.IsWhole() {
			out.Circuit = &b.Circuit
		}
	}
	return out
}

// soaking names what stands in its bath: the group, the circuit, or the task whose part it is.
func soaking(p job.Plan, s job.Step) string {
	if g := s.Part.GroupNumber(); g > 0 {
		return fmt.Sprintf("group %d", g)
	}
	if a := p.Activity(s.Activity); a != nil && s.Lane == job.Hands {
		return a.Task.Title()
	}
	return string(s.Lane)
}
