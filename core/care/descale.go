package care

import (
	"fmt"
	"math"
	"time"

	"freshanvil/core/circuit"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/scale"
	"freshanvil/core/task"
	"freshanvil/core/units"
)

// Regime is a water as it reaches a machine from an instant on.
type Regime struct {
	From   time.Time
	Effect circuit.Effect
	// Measured is when its hardness and alkalinity were measured; zero where they were not.
	Measured time.Time
	// Raw is the water before what treats it, where that is renewed: once it is
	// exhausted, that is what reaches the machine.
	Raw   *circuit.Effect
	Renew *Renewal
}

// Descaling is where the scale of a machine stands, and when it is to come off.
type Descaling struct {
	Suits    circuit.Suits
	Use      circuit.Use    // a day, as believed
	Litres   circuit.Litres // a day
	Effect   circuit.Effect
	Places   []AtPlace
	Lead     int           // the place that reaches its limit first
	ByScale  reason.Worked // days from clean until the first limit, by the scale alone: the early end
	Calendar reason.Worked // days between two, by the calendar; 0 where none is kept
	Decided  circuit.Decided
	Measured bool // hardness and alkalinity were measured within a year: the calendar does not count
	// TreatFirst is the advice that goes before a date; nil where there is none.
	TreatFirst *reason.Finding
	Due        Due
	Through    circuit.Amount // litres since the last one
	// Inspect: this water leaves no scale over its whole range, or it is not
	// descaled by choice; the date is one to look.
	Inspect bool
}

// AtPlace is how the scale stands at one place of a machine: what lies there, how fast it
// grows, and when it reaches its limit.
type AtPlace struct {
	circuit.Place
	Rate, Grown, Days reason.Worked
	Early             reason.Worked // until it may have its limit
	Hotter            *reason.Worked
	Lies, MgADay      units.Reading // mg
}

// Most is the scale that may lie there, in mm: the early end decides.
func (p AtPlace) Most() reason.Worked { return p.GrownMost(p.Lies) }

// Predicted is the scale in one vessel of a place, in grams.
func (p AtPlace) Predicted() reason.Worked {
	return reason.Worked{
		Name:        "scale predicted, " + p.Title,
		Value:       p.Lies.Likely / 1000,
		Low:         p.Lies.Low / 1000,
		High:        p.Lies.High / 1000,
		Spread:      reason.Bounds,
		Unit:        "g",
		Formula:     "mm ÷ 10 × density × area",
		Source:      reason.Ours,
		WouldChange: []string{"another water", "another date for the last descale"},
		Inputs: []reason.Input{
			p.Grown.AsInput("mm"),
			{Symbol: "density", Label: "of porous scale", Value: scale.Porous, Unit: "g/cm³", Source: reason.Ours},
			{
				Symbol: "area",
				Label:  "of the surface it grows on",
				Value:  float64(p.Surface.Area),
				Unit:   "cm²",
				Source: reason.Ours,
			},
		},
	}
}

// InVessels is the scale predicted in each vessel, g, brew (or the one that both
// share) and steam, and in all of them. Where no descale is on record nobody knows:
// then it is as much as may ever be, the limit of each surface.
func (d Descaling) InVessels() (brew, steam units.Reading, all units.Mass) {
	for _, p := range d.Places {
		g := p.Lies.Scale(0.001)
		if d.Due.State == Unrecorded {
			g = units.Sharp(float64(p.Surface.Holds()))
		}
		if p.ID == circuit.Steam {
			steam = g
		} else {
			brew = g
		}
		all += units.Mass(g.Likely) * units.Mass(p.Count)
	}
	return brew, steam, all
}

// Unknown is the finding that nobody knows how much scale there is, since no descale is on
// record; false where the log predicts it.
func (d Descaling) Unknown() (reason.Finding, bool) {
	return reason.Finding{
		Verdict: reason.Look,
		Title:   "No descale is on record",
		Because: []reason.Reason{
			{
				Text:   "What is in it is not known, so as much is taken as may ever be: the limit of each surface.",
				Source: reason.Ours,
			},
		},
		Next: []string{
			"Go by the spent solution: fizzing, or above pH 4, asks for another fill.",
		},
	}, d.Due.State == Unrecorded
}

// Ahead is what to take for the time to come, in the place of what is believed.
type Ahead struct {
	Effect   *circuit.Effect
	Drinks   *float64       // a day, with as many milk drinks among them as now
	On       *time.Duration // in a day, that it is switched on
	Measured *bool          // whether hardness and alkalinity are
}

// DescalingOf works it out at an instant. The history must hold a water.
func DescalingOf(a machine.Answers, h History, now time.Time, zone *time.Location) (Descaling, error) {
	return DescalingIf(a, h, now, zone, Ahead{})
}

// DescalingIf is DescalingOf if the time to come were another.
func DescalingIf(a machine.Answers, h History, now time.Time, zone *time.Location, ahead Ahead) (Descaling, error) {
	if len(h.Waters) == 0 {
		return Descaling{}, fmt.Errorf("no water is known for this machine")
	}
	return situated(a, h, now, zone).descaling(ahead)
}

func (s *situation) descaling(ahead Ahead) (Descaling, error) {
	now, zone, h := s.now, s.zone, s.h
	b, err := s.believe()
	if err != nil {
		return Descaling{}, err
	}
	d := Descaling{Suits: circuit.Judge(s.f), Use: b.use, Effect: h.water(now).Effect}
	if ahead.Effect != nil {
		d.Effect = *ahead.Effect
	}
	if ahead.Drinks != nil {
		d.Use = circuit.UseOf(*ahead.Drinks, *ahead.Drinks*b.milk)
	}
	if d.Litres, err = circuit.LitresADay(s.f, d.Use); err != nil {
		return d, err
	}
	places, err := circuit.Places(s.f)
	if err != nil {
		return d, err
	}
	last := h.last(task.Descale, machine.Part{}, now)
	var past []spent
	if !last.At.IsZero() {
		if past, err = s.spans(b, last.At); err != nil {
			return d, err
		}
		for _, x := range past {
			d.Through = d.Through.Plus(x.Amount)
		}
	}
	grows := false
	var clean []reason.Worked
	on := s.f.HoursOn
	if ahead.On != nil {
		on = *ahead.On
	}
	for i, p := range places {
		p.Share = h.ShareAt(now)
		at := AtPlace{Place: p, MgADay: p.Rate(d.Effect, circuit.Day{Amount: d.Litres.Amount(), On: on}),
			Rate: p.Worked(d.Effect, d.Litres, on)}
		for _, x := range past {
			then := p
			then.Share = x.share
			r := then.Rate(x.effect, x.Day)
			at.Lies = units.Reading{
				Known:  true,
				Low:    at.Lies.Low + r.Low,
				Likely: at.Lies.Likely + r.Likely,
				High:   at.Lies.High + r.High,
			}
		}
		at.Grown = p.Grown(at.Lies)
		if hot, any := p.Hotter(at.Grown); any {
			at.Hotter = &hot
		}
		at.Days, at.Early = p.Days(at.Lies, at.MgADay), p.Early(at.Lies, at.MgADay)
		grows = grows || at.MgADay.High > 0
		clean = append(clean, p.Early(units.Reading{}, at.MgADay))
		d.Places = append(d.Places, at)
		if at.Early.Value < d.Places[d.Lead].Early.Value {
			d.Lead = i
		}
	}
	d.Calendar = circuit.Calendar(s.f, d.Effect.Hardness)
	d.Inspect = !grows || d.Suits.Way == circuit.TreatWater
	d.Measured = measuredLately(h.water(now).Measured, now)
	if ahead.Measured != nil {
		d.Measured = *ahead.Measured
	}
	d.decide(clean)
	if first, any := circuit.TreatFirst(d.Use.Shots.Value, d.Effect.Hardness.Likely); any && !d.Inspect {
		d.TreatFirst = &first
	}
	d.setDue(last, h, now, zone)
	return d, nil
}

// measuredFor is how long a measured water counts as known (our own engineering choice).
const measuredFor = 366 * 24 * time.Hour

func measuredLately(at, now time.Time) bool { return !at.IsZero() && now.Sub(at) <= measuredFor }

// decide works out how often a descale comes round, counted from clean surfaces, and which rule says
// so. Where it is not descaled, it is looked at once a year.
func (d *Descaling) decide(clean []reason.Worked) {
	d.ByScale = clean[0]
	for _, w := range clean {
		if w.Value < d.ByScale.Value {
			d.ByScale = w
		}
	}
	d.Decided = circuit.Decide(d.ByScale, d.Calendar, d.Measured)
	if d.Inspect {
		d.Decided = circuit.Decide(yearOnly, reason.Worked{}, true)
	}
}

// yearOnly stands for a surface that is looked at, not descaled.
var yearOnly = reason.MustFormula("never").Of("days until the limit", "days", reason.Ours, []reason.Input{
	{Symbol: "never", Label: "it is looked at, not descaled", Value: circuit.Never, Unit: "days", Source: reason.Ours},
}, "another water", "another answer")

func (d *Descaling) setDue(last Done, h History, now time.Time, zone *time.Location) {
	due := Due{Task: task.Descale, Last: last.At, Interval: Interval{Task: task.Descale, Days: scale.MostDays}}
	say := func(source reason.Source, text string, args ...any) {
		due.Because = append(due.Because, reason.Reason{Text: fmt.Sprintf(text, args...), Source: source})
	}
	if d.Inspect { // it is not descaled: a look, and a descale, too, counts as one
		due.Task = task.LookForScale
		due.Interval.Task = due.Task
		last = h.last(due.Task, machine.Part{}, now)
		due.Last = last.At
	}
	if c := d.Calendar.Value; c > 0 && !d.Inspect && !d.Measured {
		due.Interval.Days = math.Min(c, scale.MostDays)
	}
	lead := d.Places[d.Lead]
	switch {
	case d.Suits.Way == circuit.TreatWater:
		say(reason.Said, "It is not descaled: look into the tap's gauze once a year, and keep the water as it is.")
	case d.Inspect:
		say(reason.Ours, "This water gives no scale over its whole range: look once a year, do not descale.")
	default:
		if d.Suits.Way == circuit.Workshop {
			due.As, due.Workshop = "Descale, in a workshop", true
		}
		if d.TreatFirst != nil {
			due.Because = append(due.Because, d.TreatFirst.Because...)
			say(reason.Ours, "%s.", d.TreatFirst.Title)
		}
		due.Because = append(due.Because, d.Decided.Reason)
		say(reason.Ours, "The limit is %.1f mm of scale on the %s.", float64(lead.Surface.Limit), lead.Title)
	}
	if d.Suits.Way == circuit.Workshop && len(d.Suits.Finding.Because) > 0 {
		due.Because = append(due.Because, d.Suits.Finding.Because[0])
	}
	if last.At.IsZero() {
		d.Due = due.unrecorded(now)
		return
	}
	if why, any := last.Begun.Why(); any {
		due.Because, due.Begun = append([]reason.Reason{why}, due.Because...), true
	}
	var ahead []reason.Worked
	if !d.Inspect {
		due.Clocks = append(due.Clocks, Clock{Kind: task.ByScale, Used: lead.Most(), Limit: float64(lead.Surface.Limit),
			Unit: "mm"})
		ahead = append(ahead, lead.Early)
	}
	due.calendar(due.Interval.Days, now)
	ahead = append(ahead, daysLeft(due.Clocks[len(due.Clocks)-1].Used, due.Interval.Days))
	d.Due = due.settle(ahead, now, zone)
}

// notWorkedOut is a due whose date cannot be worked out: it counts as due now, and says
// why, for a job that vanishes from the list is not done.
func notWorkedOut(t task.ID, err error, now time.Time) Due {
	return Due{Task: t, Interval: Interval{Task: t}, State: Unrecorded, NoDate: true, Earliest: now, Likely: now,
		Latest: now,
		Because: []reason.Reason{{
			Text:   "Its date cannot be worked out, so it counts as due now: " + err.Error() + ".",
			Source: reason.Ours,
		}}}
}

// ofScale is the descale, or the look in its place, whichever is the one asked for.
func (s *situation) ofScale(id task.ID) []Due {
	if len(s.h.Waters) == 0 {
		if id == task.Descale && s.h.NoWater != nil {
			return []Due{notWorkedOut(id, s.h.NoWater, s.now)}
		}
		return nil
	}
	if s.scale == nil && s.scaleErr == nil {
		d, err := s.descaling(Ahead{})
		s.scale, s.scaleErr = &d, err
	}
	switch {
	case s.scaleErr != nil && id == task.Descale:
		return []Due{notWorkedOut(id, s.scaleErr, s.now)}
	case s.scaleErr != nil || s.scale.Due.Task != id:
		return nil
	}
	return []Due{s.scale.Due}
}
