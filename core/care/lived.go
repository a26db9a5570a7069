package care

import (
	"fmt"
	"math"
	"slices"
	"time"

	"freshanvil/core/circuit"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
	"freshanvil/core/use"
)

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
