package care

import (
	"fmt"
	"math"
	"slices"
	"time"

	"freshanvil/core/circuit"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/scale"
	"freshanvil/core/units"
)

// The tasks of the water.
const (
	Descale      Task = "descale"
	AcidRinse    Task = "acid_rinse" // of what a descale left in
	DrawOff      Task = "draw_off"   // of the steam boiler, in the place of a descale
	FilterChange Task = "filter_change"
	Regenerate   Task = "regenerate"
)

// ByScale is the clock that counts the scale itself, in mm.
const ByScale ClockKind = "scale"

// Regime is a water as it reaches a machine from an instant on.
type Regime struct {
	From   time.Time
	Effect circuit.Effect
	// Raw is the water before what treats it, where that is renewed: once it is
	// exhausted, that is what reaches the machine.
	Raw   *circuit.Effect
	Renew *Renewal
}

// Renewal is a filter or a softener that wears out.
type Renewal struct {
	Task   Task // FilterChange or Regenerate
	Litres float64
	Days   float64 // never longer; 0 for a softener
	// Named is since when it is known to be there: its clocks run from then, until one is on
	// record. Zero where nobody knows.
	Named time.Time
}

// Sums is what a whole machine made, over all its groups.
type Sums struct{ Shots, Milk, Flushes, Runs float64 } // Runs in mL

// Settled is what was made before the events a history holds, counted up.
type Settled struct {
	From, To time.Time
	Sums
}

// SumOf counts events up, as Count does, for the whole machine.
func SumOf(events []UseEvent, from, to time.Time) Sums {
	var s Sums
	for _, e := range Standing(events) {
		n := e.Count * overlap(e.From, e.To, from, to)
		switch {
		case e.Kind.IsShot():
			s.Shots += n
			if e.Kind == Milk {
				s.Milk += n
			}
		case e.Kind == Flush:
			s.Flushes += n
		case e.Kind == RunWater:
			s.Runs += n
		}
	}
	return s
}

func (s Sums) plus(o Sums) Sums {
	return Sums{s.Shots + o.Shots, s.Milk + o.Milk, s.Flushes + o.Flushes, s.Runs + o.Runs}
}

// between is what was made in a span, by the log alone.
func (h History) between(from, to time.Time) Sums {
	var s Sums
	for _, p := range h.Settled {
		if !p.From.Before(from) && !p.To.After(to) {
			s = s.plus(p.Sums)
			from = latest(from, p.To)
		}
	}
	if from.Before(to) {
		s = s.plus(SumOf(h.Events, from, to))
	}
	return s
}

// Descaling is where the scale of a machine stands, and when it is to come off.
type Descaling struct {
	Suits    circuit.Suits
	Use      circuit.Use    // a day, as believed
	Litres   circuit.Litres // a day
	Effect   circuit.Effect
	Places   []AtPlace
	Lead     int           // the place that reaches its limit first
	ByScale  reason.Worked // days from clean until the first limit, by the scale alone
	Calendar reason.Worked // days between two, by the calendar; 0 where none is kept
	Every    reason.Worked // days from clean to the next: the first of both, and a year
	Due      Due
	Through  circuit.Amount // litres since the last one
	// Inspect: this water leaves no scale over its whole range, or it is not
	// descaled by choice; the date is one to look.
	Inspect bool
}

// AtPlace is how the scale stands at one place of a machine: what lies there, how fast it
// grows, and when it reaches its limit.
type AtPlace struct {
	circuit.Place
	Rate, Grown, Days reason.Worked
	Hotter            *reason.Worked
	Lies, MgADay      units.Reading // mg
}

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
				Value:  p.Surface.Area,
				Unit:   "cm²",
				Source: reason.Ours,
			},
		},
	}
}

// InVessels is what is predicted in each vessel, g, brew (or the one that both
// share) and steam, and in all of them. Where no descale is on record nobody knows:
// then it is as much as may ever be, the limit of each surface.
func (d Descaling) InVessels() (brew, steam units.Reading, all float64) {
	for _, p := range d.Places {
		g := p.Lies.Scale(0.001)
		if d.Due.State == Unrecorded {
			g = units.Sharp(p.Surface.Holds())
		}
		if p.ID == circuit.Steam {
			steam = g
		} else {
			brew = g
		}
		all += g.Likely * float64(p.Count)
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
	perDay float64 // declared shots a day
	gram   float64 // steam of a milk drink
	f      machine.Facts
}

func believe(a machine.Answers, h History, now time.Time, zone *time.Location) (believed, error) {
	f := a.Facts()
	b := believed{f: f, perDay: a.Drinks}
	gram, err := circuit.SteamADrink(f)
	if err != nil {
		return b, err
	}
	b.gram = float64(gram)
	shots := reason.Worked{
		Name:        "drinks a day",
		Unit:        "a day",
		Source:      reason.Ours,
		WouldChange: []string{"logging drinks", "other answers"},
	}
	for g := 1; g <= f.Groups; g++ {
		p := h.pace(a.Drinks/float64(f.Groups), g, f.Groups, now, zone)
		symbol := fmt.Sprintf("g%d", g)
		if g > 1 {
			shots.Formula += " + "
		}
		shots.Formula += symbol
		shots.Inputs = append(shots.Inputs, p.Mean().AsInput(symbol))
		shots.Value += p.mean()
	}
	shots = shots.Exact()
	b.shots = shots.Value
	declared, said := 0.0, reason.Said
	if a.Drinks > 0 {
		declared = a.MilkDrinks / a.Drinks
	}
	b.milk = declared
	label := "milk drinks among the drinks, as you said"
	from := latest(h.LoggedSince, h.Since)
	sums := h.between(from, now)
	if sums.Milk > 0 {
		b.milk, label, said = sums.Milk/sums.Shots, "milk drinks among the drinks, as logged", reason.Log
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
	days := 0.0
	if !from.IsZero() {
		days = now.Sub(from).Hours() / 24
	}
	each := func(name, what, unit string, n float64) reason.Worked {
		return reason.Worked{
			Name:        name,
			Value:       n / math.Max(1, days),
			Unit:        unit + "/day",
			Formula:     "logged ÷ max(1, days)",
			Source:      reason.Log,
			WouldChange: []string{"logging more or less"},
			Inputs: []reason.Input{
				{Symbol: "logged", Label: what, Value: n, Unit: unit, Source: reason.Log},
				{Symbol: "days", Label: "days they were logged over", Value: days, Unit: "days", Source: reason.Log},
			},
		}.Exact()
	}
	b.use = circuit.Use{
		Shots:   shots,
		Milk:    milk,
		Flushes: each("flushes a day", "flushes logged by themselves", "flushes", sums.Flushes),
		Runs:    each("water of runs a day", "pulses and flushes of runs", "mL", sums.Runs),
	}
	return b, nil
}

// amount is the water, in litres, that went with what was made over some days.
func (b believed) amount(s Sums, days float64) circuit.Amount {
	if s.Milk == 0 {
		s.Milk = s.Shots * b.milk // spans of a counter do not tell
	}
	return circuit.Amount{
		Brew:  s.Shots*b.f.BrewWater.Litres() + s.Flushes*b.f.Flush.Litres() + s.Runs/1000,
		Steam: s.Milk * b.gram / 1000,
		Hot:   days * b.f.HotWater.Litres(),
	}
}

// through is the water between two instants: as logged, at the declared rate
// before anything was, at the believed rate after the newest reading.
func (b believed) through(h History, from, to time.Time) circuit.Amount {
	if !from.Before(to) {
		return circuit.Amount{}
	}
	days := func(a, b time.Time) float64 { return math.Max(0, b.Sub(a).Hours()/24) }
	s := h.between(from, to)
	begins := to
	if !h.LoggedSince.IsZero() && h.LoggedSince.Before(to) {
		begins = latest(from, h.LoggedSince)
	}
	s.Shots += b.perDay * days(from, begins)
	if !h.LoggedUntil.IsZero() && h.LoggedUntil.Before(to) {
		s.Shots += b.shots * days(latest(from, h.LoggedUntil), to)
	}
	return b.amount(s, days(from, to))
}

// spent is the scale left between two instants, by each water that held, in
// litres of each effect.
type spent struct {
	effect circuit.Effect
	amount circuit.Amount
}

func (b believed) spans(h History, from, now time.Time) []spent {
	var list []spent
	for i, r := range h.Waters {
		start, end := from, now
		if i > 0 {
			start = latest(from, r.From)
		}
		if i+1 < len(h.Waters) && h.Waters[i+1].From.Before(now) {
			end = h.Waters[i+1].From
		}
		if !start.Before(end) {
			continue
		}
		if r.Renew == nil || r.Raw == nil || r.Renew.Litres <= 0 {
			list = append(list, spent{r.Effect, b.through(h, start, end)})
			continue
		}
		// once the filter is exhausted, the water goes through as it comes from the tap
		renewed := h.newest(r.Renew.Task, now)
		if renewed.Before(start) || renewed.After(end) {
			renewed = start
		}
		list = append(list, spent{r.Effect, b.through(h, start, renewed)})
		after := b.through(h, renewed, end)
		share := 1.0
		if all := after.All(); all > r.Renew.Litres {
			share = r.Renew.Litres / all
		}
		list = append(list, spent{r.Effect, after.Times(share)}, spent{*r.Raw, after.Times(1 - share)})
	}
	return list
}

// newest is when a task of the whole machine was done last; zero where it is
// not on record.
func (h History) newest(t Task, now time.Time) time.Time {
	var last time.Time
	for _, d := range h.Done {
		if d.Task == t && d.At.After(last) && !d.At.After(now) {
			last = d.At
		}
	}
	return last
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
	Effect *circuit.Effect
	Drinks *float64 // a day, with as many milk drinks among them as now
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
	if h.Habit.From.IsZero() {
		h.Habit = HabitOf(h.Events, now, zone)
	}
	b, err := believe(a, h, now, zone)
	if err != nil {
		return Descaling{}, err
	}
	d := Descaling{Suits: circuit.Judge(b.f), Use: b.use, Effect: h.water(now).Effect}
	if ahead.Effect != nil {
		d.Effect = *ahead.Effect
	}
	if ahead.Drinks != nil {
		d.Use = circuit.UseOf(*ahead.Drinks, *ahead.Drinks*b.milk)
	}
	if d.Litres, err = circuit.LitresADay(b.f, d.Use); err != nil {
		return d, err
	}
	places, err := circuit.Places(b.f)
	if err != nil {
		return d, err
	}
	last := h.newest(Descale, now)
	var past []spent
	if !last.IsZero() {
		past = b.spans(h, last, now)
		for _, s := range past {
			d.Through = d.Through.Plus(s.amount)
		}
	}
	grows := false
	var clean []reason.Worked
	for i, p := range places {
		p.Share = h.Share
		at := AtPlace{Place: p, MgADay: p.Rate(d.Effect, d.Litres.Amount()), Rate: p.Worked(d.Effect, d.Litres)}
		for _, s := range past {
			r := p.Rate(s.effect, s.amount)
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
		at.Days = p.Days(at.Lies, at.MgADay)
		grows = grows || at.MgADay.High > 0
		clean = append(clean, p.Days(units.Reading{}, at.MgADay))
		d.Places = append(d.Places, at)
		if at.Days.Value < d.Places[d.Lead].Days.Value {
			d.Lead = i
		}
	}
	d.Calendar = circuit.Calendar(b.f, d.Effect.Hardness)
	d.Inspect = !grows || d.Suits.Way == circuit.TreatWater
	d.setEvery(clean)
	d.setDue(last, now, zone)
	return d, nil
}

// setEvery works out how often a descale comes round, counted from clean surfaces.
func (d *Descaling) setEvery(clean []reason.Worked) {
	d.ByScale = clean[0]
	for _, w := range clean {
		if w.Value < d.ByScale.Value {
			d.ByScale = w
		}
	}
	w := reason.Worked{
		Name:        "days between two descales",
		Unit:        "days",
		Formula:     "cap",
		Source:      reason.Ours,
		Value:       scale.MostDays,
		Low:         scale.MostDays,
		High:        scale.MostDays,
		Spread:      reason.Bounds,
		WouldChange: []string{"another water", "more or fewer drinks", "another calendar"},
		Inputs: []reason.Input{
			{Symbol: "cap", Label: "never later than", Value: scale.MostDays, Unit: "days", Source: reason.Ours},
		},
	}
	add := func(symbol string, x reason.Worked) {
		w.Formula += ", " + symbol
		w.Inputs = append(w.Inputs, x.AsInput(symbol))
		w.Value, w.Low, w.High = math.Min(w.Value, x.Value), math.Min(w.Low, x.Low), math.Min(w.High, x.High)
	}
	if !d.Inspect {
		add("scale", d.ByScale)
		if d.Calendar.Value > 0 {
			add("calendar", d.Calendar)
		}
	}
	if d.Every = w; len(w.Inputs) > 1 {
		d.Every.Formula = "min(" + w.Formula + ")"
	}
}

func (d *Descaling) setDue(last, now time.Time, zone *time.Location) {
	due := Due{Task: Descale, Last: last, Interval: Interval{Task: Descale, Days: scale.MostDays}}
	say := func(source reason.Source, text string, args ...any) {
		due.Because = append(due.Because, reason.Reason{Text: fmt.Sprintf(text, args...), Source: source})
	}
	if c := d.Calendar.Value; c > 0 && !d.Inspect {
		due.Interval.Days = math.Min(c, scale.MostDays)
	}
	lead := d.Places[d.Lead]
	switch {
	case d.Suits.Way == circuit.TreatWater:
		due.As = "Look for scale"
		say(reason.Said, "It is not descaled: look into the tap's gauze once a year, and keep the water as it is.")
	case d.Inspect:
		due.As = "Look for scale"
		say(reason.Ours, "This water gives no scale over its whole range: look once a year, do not descale.")
	default:
		if d.Suits.Way == circuit.Workshop {
			due.As = "Descale, in a workshop"
		}
		say(
			reason.Ours,
			"It falls due at %.1f mm of scale on the %s, at the usual interval for this hardness, or after a year.",
			lead.Surface.Limit,
			lead.Title,
		)
	}
	if d.Suits.Way == circuit.Workshop && len(d.Suits.Finding.Because) > 0 {
		due.Because = append(due.Because, d.Suits.Finding.Because[0])
	}
	if last.IsZero() {
		due.State, due.Earliest, due.Likely, due.Latest = Unrecorded, now, now, now
		due.Because = append(
			[]reason.Reason{
				{
					Text:   "Nothing is on record, so it counts as due now. If it was done, say when.",
					Source: reason.Ours,
				},
			},
			due.Because...)
		d.Due = due
		return
	}
	var ahead []reason.Worked
	if !d.Inspect {
		due.Clocks = append(due.Clocks, Clock{Kind: ByScale, Used: lead.Grown, Limit: lead.Surface.Limit, Unit: "mm"})
		ahead = append(ahead, lead.Days)
	}
	used := daysSince(last, now, Descale)
	due.Clocks = append(due.Clocks, Clock{Kind: ByDays, Used: used, Limit: due.Interval.Days, Unit: "days"})
	ahead = append(ahead, daysLeft(used, due.Interval.Days))
	d.Due = due.settle(ahead, now, zone)
}

// Renewing is when the filter or the softener is due; false where nothing is
// renewed.
func Renewing(a machine.Answers, h History, now time.Time, zone *time.Location) (Due, bool, error) {
	if len(h.Waters) == 0 {
		return Due{}, false, nil
	}
	r := h.water(now).Renew
	if r == nil {
		return Due{}, false, nil
	}
	if h.Habit.From.IsZero() {
		h.Habit = HabitOf(h.Events, now, zone)
	}
	b, err := believe(a, h, now, zone)
	if err != nil {
		return Due{}, false, err
	}
	d := Due{
		Task:     r.Task,
		Interval: Interval{Task: r.Task, Litres: r.Litres, Days: r.Days},
		Last:     h.newest(r.Task, now),
	}
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
		d.State, d.Earliest, d.Likely, d.Latest = Unrecorded, now, now, now
		d.Because = append(
			[]reason.Reason{
				{
					Text:   "Nothing is on record, so it counts as due now. If it was done, say when.",
					Source: reason.Ours,
				},
			},
			d.Because...)
		return d, true, nil
	}
	if d.Last.IsZero() {
		d.Because = append([]reason.Reason{{
			Text:   "Counted from the day you named it, as if it had been new then. If it was not, say when it was changed.",
			Source: reason.Said,
		}}, d.Because...)
	}
	litres, err := circuit.LitresADay(b.f, b.use)
	if err != nil {
		return d, false, err
	}
	var ahead []reason.Worked
	if r.Litres > 0 {
		all := b.through(h, since, now).All()
		used := reason.Worked{
			Name:        "litres since the last " + d.Task.short(),
			Value:       all,
			Unit:        "L",
			Formula:     "through",
			Source:      reason.Log,
			WouldChange: []string{"logging drinks", "another date for it"},
			Inputs: []reason.Input{
				{
					Symbol: "through",
					Label:  "through all circuits, of what was logged, and of the usual day where nothing was",
					Value:  all,
					Unit:   "L",
					Source: reason.Log,
				},
			},
		}.Exact()
		d.Clocks = append(d.Clocks, Clock{Kind: ByLitres, Used: used, Limit: r.Litres, Unit: "L"})
		ahead = append(
			ahead,
			reason.Worked{
				Name:        "days to its last litre",
				Value:       math.Min(circuit.Never, math.Max(0, r.Litres-all)/math.Max(litres.All.Value, 0.001)),
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
						Value:  r.Litres,
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
		d.Clocks = append(d.Clocks, Clock{Kind: ByDays, Used: used, Limit: r.Days, Unit: "days"})
		ahead = append(ahead, daysLeft(used, r.Days))
	}
	return d.settle(ahead, now, zone), true, nil
}

// notWorkedOut is a due whose date cannot be worked out: it counts as due now, and says
// why, for a job that vanishes from the list is not done.
func notWorkedOut(t Task, err error, now time.Time) Due {
	return Due{Task: t, Interval: Interval{Task: t}, State: Unrecorded, NoDate: true, Earliest: now, Likely: now,
		Latest: now,
		Because: []reason.Reason{{
			Text:   "Its date cannot be worked out, so it counts as due now: " + err.Error() + ".",
			Source: reason.Ours,
		}}}
}

// ofWater adds what the water asks for to a list of dues.
func ofWater(list []Due, a machine.Answers, h History, now time.Time, zone *time.Location) []Due {
	if len(h.Waters) == 0 {
		return list
	}
	if d, err := DescalingOf(a, h, now, zone); err != nil {
		list = append(list, notWorkedOut(Descale, err, now))
	} else {
		list = append(list, d.Due)
	}
	if d, any, err := Renewing(a, h, now, zone); err != nil {
		list = append(list, notWorkedOut(h.water(now).Renew.Task, err, now))
	} else if any {
		list = append(list, d)
	}
	return slices.Clip(list)
}
