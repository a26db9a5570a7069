package care

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"time"

	"freshanvil/core/circuit"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/scale"
	"freshanvil/core/task"
	"freshanvil/core/units"
	"freshanvil/core/use"
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

// Renewal is a filter or a softener that wears out.
type Renewal struct {
	Task   task.ID // FilterChange or Regenerate
	Litres units.Litres
	Days   float64 // never longer; 0 for a softener
	// Named is since when it is known to be there: its clocks run from then, until one is on
	// record. Zero where nobody knows.
	Named time.Time
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

// believed is how a machine is taken to be used from now on.
type believed struct {
	use    circuit.Use
	shots  float64 // a day
	milk   float64 // share of the shots
	logged bool    // the share is as logged, not as declared
}

func (s *situation) believe() (believed, error) {
	b := believed{}
	shots := reason.Worked{
		Name:        "drinks a day",
		Unit:        "a day",
		Source:      reason.Ours,
		WouldChange: []string{"logging drinks", "other answers"},
	}
	for g := 1; g <= s.f.Groups; g++ {
		p := s.pace(g)
		symbol := fmt.Sprintf("g%d", g)
		if g > 1 {
			shots.Formula += " + "
		}
		shots.Formula += symbol
		shots.Inputs = append(shots.Inputs, p.Mean().AsInput(symbol))
		shots.Value += p.PerDay()
	}
	shots = shots.Exact()
	b.shots = shots.Value
	b.milk = milkShare(s.a)
	said, label := reason.Said, "milk drinks among the drinks, as you said"
	from := s.h.LoggedSince
	if all := s.h.oldest(s.now); all.After(from) {
		from = all
	}
	sums := s.h.Sum(machine.Part{}, s.f.Groups, from, s.now, s.zone)
	if sums.Milk > 0 {
		b.milk, b.logged = sums.Milk/sums.Shots(), true
		label, said = "milk drinks among the drinks, as logged", reason.Log
	}
	milk := reason.Worked{
		Name:        "milk drinks a day",
		Value:       b.shots * b.milk,
		Unit:        "a day",
		Formula:     "drinks × share",
		Source:      said,
		WouldChange: []string{"logging drinks", "other answers"},
		Inputs: []reason.Input{
			shots.AsInput("drinks"),
			{Symbol: "share", Label: label, Value: b.milk, Source: said},
		},
	}.Exact()
	over := 0.0
	if !from.IsZero() {
		over = days(from, s.now)
	}
	each := func(name, what, unit string, n float64) reason.Worked {
		return reason.Worked{
			Name:        name,
			Value:       n / math.Max(1, over),
			Unit:        unit + "/day",
			Formula:     "logged ÷ max(1, days)",
			Source:      reason.Log,
			WouldChange: []string{"logging more or less"},
			Inputs: []reason.Input{
				{Symbol: "logged", Label: what, Value: n, Unit: unit, Source: reason.Log},
				{Symbol: "days", Label: "days they were logged over", Value: over, Unit: "days", Source: reason.Log},
			},
		}.Exact()
	}
	b.use = circuit.Use{
		Shots:   shots,
		Milk:    milk,
		Flushes: each("flushes a day", "flushes logged by themselves", "flushes", sums.Flush),
		Runs:    each("water of runs a day", "pulses and flushes of runs", "mL", sums.Water),
	}
	return b, nil
}

// milkShare is the share of milk drinks among the drinks, as declared.
func milkShare(a machine.Answers) float64 {
	if a.Drinks > 0 {
		return a.MilkDrinks / a.Drinks
	}
	return 0
}

// oldest is the oldest of the newest completions of what the water asks for; the present
// instant where none is on record.
func (h History) oldest(now time.Time) time.Time {
	since := now
	for _, d := range h.Done {
		if water := d.Task.IsOfMachine() && !d.Task.IsSmall(); water && d.At.Before(since) {
			since = d.At
		}
	}
	if n := len(h.Waters); n > 0 {
		if r := h.Waters[n-1].Renew; r != nil && !r.Named.IsZero() && r.Named.Before(since) {
			since = r.Named
		}
	}
	if since.Equal(now) && len(h.Days) == 0 {
		return time.Time{} // the entries are all there is
	}
	return since
}

// through is the water between two instants.
func (s *situation) through(b believed, from, to time.Time) (all circuit.Amount, err error) {
	list, err := s.byDay(b, from, to)
	for _, d := range list {
		all = all.Plus(d.Amount)
	}
	return all, err
}

// byDay is the water between two instants by the day, and how long the machine was on: as logged, at
// the declared rate before anything was, at the believed rate after the newest reading; each day by
// what held of the machine then.
func (s *situation) byDay(b believed, from, to time.Time) (list []circuit.Day, err error) {
	for _, x := range s.h.Held.Between(from, to) {
		gram, err := circuit.SteamADrink(x.Facts)
		if err != nil {
			return nil, err
		}
		made := s.h.ByDay(x.Facts.Groups, x.From, x.To, s.zone)
		told := slices.ContainsFunc(made, func(m use.Made) bool { return m.Milk > 0 })
		share := milkShare(x.Answers)
		if b.logged {
			share = b.milk
		}
		until := s.blankUntil(x.From)
		for _, m := range made {
			blank := x.Answers.Drinks * s.there(m.From, earliest(until, m.To))
			if !s.h.LoggedUntil.IsZero() {
				blank += b.shots * s.there(latest(m.From, s.h.LoggedUntil), m.To)
			}
			milk := m.Milk + blank*share
			if !told { // spans of a counter do not tell
				milk += m.Shots() * share
			}
			shots, over := m.Shots()+blank, s.there(m.From, m.To)
			list = append(list, circuit.Day{
				Amount: circuit.Amount{
					Brew: units.Litres(shots)*x.Facts.BrewWater.Litres() + units.Litres(m.Flush)*x.Facts.Flush.Litres() +
						units.Volume(m.Water).Litres(),
					Steam: units.Litres(milk * float64(gram) / 1000),
					Hot:   units.Litres(over) * x.Facts.HotWater.Litres(),
				},
				On: time.Duration(over * float64(x.Facts.HoursOn)),
			})
		}
	}
	return list, nil
}

// spent is the water of a day, or of a part of one, and what it does.
type spent struct {
	circuit.Day
	effect circuit.Effect
	share  float64 // of its scale that stays in the machine; 0 is all
}

// spans is the water since an instant, day by day, with what reached the machine then.
func (s *situation) spans(b believed, from time.Time) ([]spent, error) {
	var list []spent
	const endless = units.Litres(math.MaxFloat64)
	for i, r := range s.h.Waters {
		start, end := s.drawn(i, from, s.now)
		if !start.Before(end) {
			continue
		}
		if r.Renew == nil || r.Raw == nil || r.Renew.Litres <= 0 {
			days, err := s.spend(b, r.Effect, r.Effect, endless, start, end)
			if err != nil {
				return nil, err
			}
			list = append(list, days...)
			continue
		}
		// once the filter is exhausted, the water goes through as it comes from the tap; what had gone
		// through it before, behind whatever water, carries over
		renewed := s.renewed(r.Renew)
		if renewed.After(end) {
			renewed = start
		}
		used := 0.0
		if !renewed.IsZero() && renewed.Before(start) {
			var err error
			if used, err = s.usedUp(b, r.Renew.Task, renewed, start); err != nil {
				return nil, err
			}
		}
		renewed = latest(renewed, start)
		left := r.Renew.Litres * units.Litres(math.Max(0, 1-used))
		before, errBefore := s.spend(b, r.Effect, r.Effect, endless, start, renewed)
		since, errSince := s.spend(b, r.Effect, *r.Raw, left, renewed, end)
		if err := errors.Join(errBefore, errSince); err != nil {
			return nil, err
		}
		list = append(append(list, before...), since...)
	}
	return list, nil
}

// drawn is the part between two instants in which a machine drew the water of that place in its history;
// empty where the end is not after the start. The first water holds back to any start.
func (s *situation) drawn(i int, from, to time.Time) (start, end time.Time) {
	start, end = from, to
	if i > 0 {
		start = latest(from, s.h.Waters[i].From)
	}
	if i+1 < len(s.h.Waters) {
		end = earliest(to, s.h.Waters[i+1].From)
	}
	return start, end
}

// spend is the days of a stretch: so many litres as one effect leaves them, the rest as another.
func (s *situation) spend(
	b believed, fresh, after circuit.Effect, lasts units.Litres, from, to time.Time,
) ([]spent, error) {
	turns := make([]time.Time, 0, len(s.h.Shares))
	for _, x := range s.h.Shares {
		turns = append(turns, x.From)
	}
	var list []spent
	for _, x := range cut(from, to, turns) {
		days, err := s.byDay(b, x.from, x.to)
		if err != nil {
			return nil, err
		}
		share := s.h.ShareAt(x.from)
		for _, d := range days {
			good := 1.0
			if all := d.All(); all > 0 {
				good = math.Max(0, math.Min(1, float64(lasts/all)))
			}
			if lasts -= d.All(); good > 0 {
				list = append(list, spent{d.Times(good), fresh, share})
			}
			if good < 1 {
				list = append(list, spent{d.Times(1 - good), after, share})
			}
		}
	}
	return list, nil
}

// wornLitres is what a filter has let through, told in litres of the water of now.
var wornLitres = reason.MustFormula("worn × holds")

// renewed is since when a filter or a softener wears: its last renewal, else the day it was named;
// zero where nobody knows.
func (s *situation) renewed(r *Renewal) time.Time {
	if at := s.h.last(r.Task, machine.Part{}, s.now).At; !at.IsZero() {
		return at
	}
	if r.Named.After(s.now) {
		return time.Time{}
	}
	return r.Named
}

// usedUp is the share of a filter or a softener that the water between two instants has used up: each
// litre by what it would hold of the water of its day.
func (s *situation) usedUp(b believed, of task.ID, from, to time.Time) (share float64, err error) {
	for i, r := range s.h.Waters {
		start, end := s.drawn(i, from, to)
		if !start.Before(end) || r.Renew == nil || r.Renew.Task != of || r.Renew.Litres <= 0 {
			continue
		}
		through, err := s.through(b, start, end)
		if err != nil {
			return 0, err
		}
		share += float64(through.All() / r.Renew.Litres)
	}
	return share, nil
}

// PredictedUntil is the scale of all surfaces that the waters of a history left between an instant and
// another, at a share of all; everywhere as if all of it reached the surface, as it was worked out
// before the model knew better.
func PredictedUntil(
	a machine.Answers, h History, from, to time.Time, zone *time.Location, everywhere bool,
) (units.Mass, error) {
	s := situated(a, h, to, zone)
	s.h.Shares = nil
	b, err := s.believe()
	if err != nil {
		return 0, err
	}
	list, err := s.spans(b, from)
	if err != nil {
		return 0, err
	}
	places, err := circuit.Places(s.f)
	if err != nil {
		return 0, err
	}
	all := 0.0
	for _, x := range list {
		if everywhere {
			x.On = 1e4 * time.Hour
		}
		for _, p := range places {
			all += p.Rate(x.effect, x.Day).Likely * float64(p.Count) / 1000
		}
	}
	return units.Mass(all), nil
}

type stretch struct{ from, to time.Time }

// cut parts a stretch of time where something changed.
func cut(from, to time.Time, turns []time.Time) []stretch {
	var list []stretch
	for _, t := range append(slices.Clone(turns), to) {
		if t.After(from) && !t.After(to) {
			list = append(list, stretch{from, t})
			from = t
		}
	}
	return list
}

// water is the one that reaches the machine now.
func (h History) water(now time.Time) Regime {
	at := h.Waters[0]
	for _, r := range h.Waters {
		if !r.From.After(now) {
			at = r
		}
	}
	return at
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

// Renewing is when the filter or the softener is due; false where nothing is
// renewed.
func Renewing(a machine.Answers, h History, now time.Time, zone *time.Location) (Due, bool, error) {
	if len(h.Waters) == 0 || h.water(now).Renew == nil {
		return Due{}, false, nil
	}
	return situated(a, h, now, zone).renewing()
}

func (s *situation) renewing() (Due, bool, error) {
	now, zone, h := s.now, s.zone, s.h
	r := h.water(now).Renew
	b, err := s.believe()
	if err != nil {
		return Due{}, false, err
	}
	last := h.last(r.Task, machine.Part{}, now)
	d := Due{Task: r.Task, Interval: Interval{Task: r.Task, Litres: float64(r.Litres), Days: r.Days}, Last: last.At}
	since := d.Last
	if since.IsZero() && !r.Named.After(now) {
		since = r.Named
	}
	d.Because = []reason.Reason{
		{
			Text: "Litres of all circuits count, at the hardness of this water; what goes through an exhausted one is as " +
				"it comes from the tap.",
			Source: reason.Ours,
		},
	}
	if r.Days > 0 {
		d.Because = append(
			d.Because,
			reason.Reason{
				Text:   fmt.Sprintf("Never longer than %.0f days: bacteria grow in a cartridge that stands still.", r.Days),
				Source: reason.Trade,
			},
		)
	}
	if since.IsZero() {
		return d.unrecorded(now), true, nil
	}
	if why, any := last.Begun.Why(); any {
		d.Because, d.Begun = append([]reason.Reason{why}, d.Because...), true
	}
	if d.Last.IsZero() {
		d.Because = append([]reason.Reason{{
			Text:   "Counted from the day you named it, as if it had been new then. If it was not, say when it was changed.",
			Source: reason.Said,
		}}, d.Because...)
	}
	litres, err := circuit.LitresADay(s.f, b.use)
	if err != nil {
		return d, false, err
	}
	var ahead []reason.Worked
	if r.Litres > 0 {
		worn, err := s.usedUp(b, r.Task, since, now)
		if err != nil {
			return d, false, err
		}
		used := wornLitres.Of("litres since the last "+d.Task.Short(), "L", reason.Log, []reason.Input{
			{Symbol: "worn", Label: "share of it that is used up: what went through by what it would hold, day by day",
				Value: worn, Source: reason.Log},
			{Symbol: "holds", Label: "litres it lasts at the hardness of now", Value: float64(r.Litres), Unit: "L",
				Source: reason.Ours},
		}, "logging drinks", "another date for it")
		all := units.Litres(used.Value)
		d.Clocks = append(d.Clocks, Clock{Kind: task.ByLitres, Used: used, Limit: float64(r.Litres), Unit: "L"})
		ahead = append(
			ahead,
			reason.Worked{
				Name:        "days to its last litre",
				Value:       math.Min(circuit.Never, math.Max(0, float64(r.Litres-all))/math.Max(litres.All.Value, 0.001)),
				Unit:        "days",
				Formula:     "min(never, max(0, limit − used) ÷ max(use, 0.001))",
				Source:      reason.Ours,
				WouldChange: []string{"logging drinks", "softer water"},
				Inputs: []reason.Input{
					{
						Symbol: "never",
						Label:  "shown as never",
						Value:  circuit.Never,
						Unit:   "days",
						Source: reason.Ours,
					},
					{
						Symbol: "limit",
						Label:  "litres it lasts at this hardness",
						Value:  float64(r.Litres),
						Unit:   "L",
						Source: reason.Ours,
					},
					used.AsInput("used"),
					litres.All.AsInput("use"),
				},
			}.Exact(),
		)
	}
	if r.Days > 0 {
		used := daysSince(since, now, r.Task)
		d.Clocks = append(d.Clocks, Clock{Kind: task.ByDays, Used: used, Limit: r.Days, Unit: "days"})
		ahead = append(ahead, daysLeft(used, r.Days))
	}
	return d.settle(ahead, now, zone), true, nil
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

// ofRenewal is the filter or the softener that wears out.
func (s *situation) ofRenewal(id task.ID) []Due {
	if len(s.h.Waters) == 0 {
		return nil
	}
	if r := s.h.water(s.now).Renew; r == nil || r.Task != id {
		return nil
	}
	d, any, err := s.renewing()
	if err != nil {
		return []Due{notWorkedOut(id, err, s.now)}
	}
	if !any {
		return nil
	}
	return []Due{d}
}
