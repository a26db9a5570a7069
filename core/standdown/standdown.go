// Package standdown decides what a machine that stands still for weeks needs: when it is visited, in which order its
// groups are opened so that the waste pipe takes their water, how much water renews what stood in it, and when only the
// local health authority says whether it may be used again.
//
// It does not lay out the steps (package job), nor decide what else falls due meanwhile (package care).
package standdown

import (
	"fmt"
	"math"
	"time"

	"freshanvil/core/boiler"
	"freshanvil/core/circuit"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// Rest is a time in which a machine is not used: from the start of its first day to the start of the day on which it
// is used again, both the machine's days.
type Rest struct {
	From, To time.Time
	// Visited says that somebody comes once a week.
	Visited bool
}

// When what is done (common practice for the week; the rest are our own engineering choices): a visit each week, none
// within three days of the return; shorter than five days nothing is closed; over two weeks without a visit, or over
// four with them, it was long.
const (
	Shortest      = 5
	visitEvery    = 7
	beforeReturn  = 3
	longUnvisited = 14
	longVisited   = 28
)

// Days is how many days it stands still.
func (r Rest) Days() int { return int(math.Round(r.To.Sub(r.From).Hours() / 24)) }

// Check refuses a rest that is too short to close a machine for; the error is a *units.OutOfRange.
func (r Rest) Check() error {
	if d := r.Days(); d < Shortest {
		return &units.OutOfRange{Field: "to", Value: fmt.Sprintf("%d days", d),
			Allowed: fmt.Sprintf("%d days at least: for less, fresh water in the tank will do", Shortest)}
	}
	return nil
}

// Visits are the days of the weekly visits, in the zone of From.
func (r Rest) Visits() (list []time.Time) {
	if !r.Visited {
		return nil
	}
	for at := r.From.AddDate(0, 0, visitEvery); !at.After(r.To.AddDate(0, 0, -beforeReturn)); {
		list = append(list, at)
		at = at.AddDate(0, 0, visitEvery)
	}
	return list
}

// Stood is what is known of a rest when a machine comes back.
type Stood struct {
	Days   int
	Visits int // that were made
}

// Long says whether water stood so long that it may have grown something: nobody came for over two weeks, on average
// between two visits, or it stood for over four.
func (s Stood) Long() bool {
	return s.Days > longVisited || float64(s.Days)/float64(s.Visits+1) > longUnvisited
}

// Because says why, in a sentence.
func (s Stood) Because() reason.Reason {
	text := fmt.Sprintf("It stood still for %d days", s.Days)
	switch s.Visits {
	case 0:
		text += ", and nobody drew water."
	case 1:
		text += ", with one visit."
	default:
		text += fmt.Sprintf(", with %d visits.", s.Visits)
	}
	if s.Long() {
		text += fmt.Sprintf(" Over %d days between two visits, or over %d in all, counts as long.", longUnvisited,
			longVisited)
	}
	return reason.Reason{Text: text, Source: reason.Ours}
}

// Opening is a group that is opened, so long after the first.
type Opening struct {
	Group    int
	At, Shut time.Duration
}

// How the groups run on a visit (common practice): five minutes each, opened 12 s apart.
const (
	RunsFor = 5 * time.Minute
	Apart   = 12 * time.Second
)

// Openings is when each group is opened and shut, so that what runs at once is never more than the waste pipe takes:
// as many together as it takes, the next when those are shut. One that takes less than a single group gives still
// gets one: the tap is then opened less far.
func Openings(f machine.Facts) (list []Opening, together int) {
	together = max(1, int(math.Floor(float64(f.Waste)/float64(f.FreeFlow)+1e-9)))
	for g := range f.Groups {
		wave, n := g/together, g%together
		before := time.Duration(0)
		if wave > 0 {
			before = list[wave*together-1].Shut
		}
		at := before + time.Duration(n)*Apart
		list = append(list, Opening{Group: g + 1, At: at, Shut: at + RunsFor})
	}
	return list, together
}

var washesOut = reason.MustFormula("−ln(1 − share) × holds")

// Flushed is how much runs through a group so that what stood before it is out, L: of what mixes, three times its
// litres leave one part in twenty.
func Flushed(f machine.Facts) reason.Worked {
	return washesOut.Of("water through a group", "L", reason.Ours, []reason.Input{
		{Symbol: "share", Label: "of what stood there goes out", Value: boiler.WellRenewed, Source: reason.Ours},
		{Symbol: "holds", Label: "what stands before the group, its line too", Source: reason.Ours, Unit: "L",
			Value: float64(f.BrewFill().Litres()) + line},
	}, "the litres of its brew boiler, said as a fact")
}

// line is what stands in the line and the head of a group, L (our own engineering choice).
const line = 0.1

// Turnover is how a steam boiler is renewed: so much a draw, so often, and the share that this renews. On a visit
// three draws do (common practice); after a long rest as many as renew nearly all of it. A machine without such a
// boiler needs no draws; the error is that of circuit.DrawOf else.
type Turnover struct {
	Draw   units.Litres
	Draws  int
	Renews reason.Worked
}

// MostDraws bounds the draws of one sitting (our own engineering choice): the rest is renewed by the next days' use.
const MostDraws = 20

// TurnoverOf is the turnover of a machine, after a long rest or not.
func TurnoverOf(f machine.Facts, long bool) (Turnover, error) {
	if f.SteamBoiler == 0 || f.Pump == machine.NoPump {
		return Turnover{}, nil
	}
	draw, err := circuit.DrawOf(f)
	if err != nil {
		return Turnover{}, err
	}
	t := Turnover{Draw: draw, Draws: circuit.UsualDraws}
	holds := f.SteamFill().Litres()
	if long {
		left := math.Log(1 - boiler.WellRenewed)
		t.Draws = min(MostDraws, int(math.Ceil(left/math.Log(float64(1-draw/holds))-1e-9)))
	}
	t.Renews = circuit.Renews(f, draw, t.Draws)
	return t, nil
}
