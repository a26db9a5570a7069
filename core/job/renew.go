package job

import (
	"fmt"
	"math"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/treat"
	"freshanvil/core/units"
)

// How long a new filter stands in water (common practice), a softener in salt, salt water
// runs through a larger one, its own programme runs, a unit's first tankful takes to make; what
// runs through a new filter before its water is used, L (our own engineering choices, all but
// the first; the leaflet goes before them).
const (
	filterSoaks  = 5 * time.Minute
	saltSoaks    = 30 * time.Minute
	brineRuns    = 45 * time.Minute
	programmed   = 90 * time.Minute
	firstTankful = time.Hour
	flushedTank  = 0.5
	flushedSink  = 5.0
	teaspoon     = 6.0 // g of salt (common practice)
)

// How a softener is regenerated goes by its resin, L (our own engineering choices): a small one
// stands in a bath of salt, one under the counter gets its salt by hand, a mains softener has a
// programme of its own.
const (
	bathResin = 0.5
	handResin = 20.0
)

// Renews is the task by which a treatment is renewed: a softener is regenerated, a
// filter changed; false where there is nothing to renew.
func Renews(s treat.Setting) (task.ID, bool) {
	if s.Resin > 0 {
		return task.Regenerate, true
	}
	return task.FilterChange, s.Rated > 0 || s.Days > 0
}

// RenewsBeside says whether a treatment can be renewed beside a descale: one that stands in the
// tank. The others are a job of their own, with the supply shut.
func RenewsBeside(s treat.Setting) bool {
	return s.Kind == machine.InTank || s.Resin > 0 && s.Resin <= bathResin
}

// renewal writes the steps of a renewal.
type renewal struct {
	f   machine.Facts
	s   treat.Setting
	now time.Time
}

// The cautions of a renewal.
var (
	saltOnly = reason.Caution{
		Danger: "break", Text: "Salt without additives only. Salt water never goes into the machine: it eats metal.",
	}
	dryFilter    = reason.Caution{Danger: "break", Text: "A dry filter lets air into the pump."}
	intakeInAir  = reason.Caution{Danger: "break", Text: "Do not run the pump while the intake is in the air."}
	pressureLine = reason.Caution{
		Danger: "pressure",
		Text:   "Supply shut and pressure off before anything is unscrewed. Local codes and licensed people go first.",
	}
	leaflet = reason.Caution{Danger: "break", Text: "The filter's leaflet goes before this sheet."}
)

// shutUnder shuts the supply of what is under the counter.
func (r renewal) shutUnder(what string) []doing {
	shut := say("Shut the tap that feeds %s.", what)
	if r.f.Plumbed {
		shut = does(fmt.Sprintf("Shut the tap that feeds %s: the lever across the pipe.", what), act(plant.ShutSupply, ""))
	}
	return []doing{does("Switch the machine off.", act(plant.SwitchOff, "")), shut}
}

// open opens the supply again.
func (r renewal) open(what string) []doing {
	opened := say("Open the tap that feeds %s, slowly.", what)
	if r.f.Plumbed {
		opened = does(fmt.Sprintf("Open the tap that feeds %s, slowly.", what), act(plant.OpenSupply, ""))
	}
	return []doing{opened}
}

// dry looks for leaks once there is pressure.
func dry() doing {
	return say("Hold dry paper to each joint for a minute. A drop? Shut the tap and turn the joint tighter.")
}

// drawn lets the first water through the machine.
func (r renewal) drawn(litres float64) doing {
	group := machine.Group(1).String()
	if r.f.Pump == machine.NoPump {
		return say("Fill the boiler with its water.")
	}
	return does(fmt.Sprintf("Take the handle out and put a jug under the group. Let %s through, and pour it away. "+
		"Handle back.", Litres(litres)),
		act(plant.TakeOut, group), act(plant.Empty, "jug-group-1"), amount(plant.Sample, group, litres),
		act(plant.Empty, "jug-group-1"), act(plant.LockBasket, group))
}

func strainer() Step {
	return Step{
		ID: "strainer", Title: "look at the strainer", Head: "Look at the strainer", Button: "Looked, and it is clean",
		Takes: time.Minute, Body: Act{},
		Cautions: []reason.Caution{{Danger: "break", Text: "By the maker's manual; do not force a strainer out."}},
	}.with(
		say("Look at the gauze on the intake: are there white grains or flakes? Rinse it under the tap."),
		say("Flakes of scale mean more scale behind: bring the descale forward."),
	)
}

func newFilter() Step {
	return Step{
		ID: "in", Title: "new filter into water", Head: "New filter into water", Button: "It stands in water",
		Takes: time.Minute, Cautions: []reason.Caution{dryFilter, leaflet}, Body: Act{},
	}.with(
		say("With clean hands, unpack the new one and rinse it. Hold it under cold water in a jug until no bubbles come."),
	)
}

func filterSoak() Step {
	return Step{
		ID: "filter-soak", Title: fmt.Sprintf("soaks %.0f min in all", filterSoaks.Minutes()), Head: "Filter soaks",
		Button: "Go on", Cautions: []reason.Caution{dryFilter}, Body: Soak{For: filterSoaks},
	}.with(say("It stands until it is wet through."))
}

// filterOut takes the old one out of the tank.
func (r renewal) filterOut() Step {
	return Step{
		ID: "out", Title: "old filter out", Head: "Old filter out", Button: "It is out", Takes: time.Minute,
		Cautions: []reason.Caution{intakeInAir}, Body: Act{},
	}.with(
		does("Switch the machine off.", act(plant.SwitchOff, "")),
		does("Take the tank out. Take the old filter out and wipe the tank.", act(plant.FilterOut, ""),
			act(plant.Empty, "tank")),
	)
}

// fitted puts a new filter into the tank.
func (r renewal) fitted() Step {
	return Step{
		ID: "fit", Title: "fit it, flush", Head: "Fit it, flush", Button: "Fitted and flushed", Takes: 2 * time.Minute,
		Cautions: []reason.Caution{scald, leaflet}, Body: Act{Draws: units.Volume(flushedTank * 1000)},
	}.with(
		does("Fit it to its mark, fill the tank and put it back.", act(plant.FilterIn, ""), act(plant.FillUp, "tank")),
		does("Switch the machine on.", act(plant.SwitchOn, "")),
		r.drawn(flushedTank),
		say("The first of it carries dust."),
	)
}

// month sets until when it lasts.
func (r renewal) month() Step {
	days := 30
	if r.s.Days > 0 {
		days = int(r.s.Days)
	}
	until := r.now.AddDate(0, 0, days).Format("January 2006")
	if r.now.IsZero() { // nobody has said when
		until = "a month from now"
		if n := math.Round(float64(days) / 30.4); n > 1 {
			until = fmt.Sprintf("%.0f months from now", n)
		}
	}
	return Step{
		ID: "month", Title: "set the month", Head: "Set the month", Button: "The month is set",
		Takes: 20 * time.Second, Body: Act{},
		Cautions: []reason.Caution{{Danger: "break", Text: "Litres may end it sooner: the bench says when."}},
	}.with(say("Turn its ring, or write on it: %s.", until))
}

// inTank changes what stands in the tank.
func (r renewal) inTank() []Step {
	soak := filterSoak()
	soak.ID, soak.Lane, soak.After = "soak", FilterLane, []string{"in"}
	return []Step{newFilter(), r.filterOut(), strainer(), soak, r.fitted(), r.month()}
}

// jug changes the cartridge of a jug; the machine has nothing to do with it.
func (r renewal) jug() []Step {
	soak := filterSoak()
	soak.ID, soak.Lane, soak.After = "soak", FilterLane, []string{"in"}
	out := Step{
		ID: "out", Title: "old cartridge out", Head: "Old cartridge out", Button: "It is out", Takes: time.Minute,
		Cautions: []reason.Caution{leaflet}, Body: Act{},
	}.with(say("Take the old cartridge out of the jug. Wash jug and lid."))
	fit := Step{
		ID: "fit", Title: "fit it, two fillings away", Head: "Fit it", Button: "Two fillings are away",
		Takes: 3 * time.Minute, Cautions: []reason.Caution{leaflet}, Body: Act{},
	}.with(
		say("Press the new cartridge into the jug."),
		say("Fill the jug twice, and pour both fillings away: they carry dust."),
	)
	return []Step{newFilter(), out, soak, fit, r.month()}
}

// underSink changes a cartridge under the sink: dry, supply shut, flushed into a bucket.
func (r renewal) underSink() []Step {
	out := Step{
		ID: "out", Title: "supply shut, old cartridge out", Head: "Old cartridge out", Button: "It is out",
		Takes: 4 * time.Minute, Cautions: []reason.Caution{pressureLine}, Body: Act{},
	}.with(append(r.shutUnder("the filter"),
		say("Put a bucket under the filter. Let the pressure out by its flush valve, until nothing runs."),
		does("Turn the old cartridge out of its head.", act(plant.FilterOut, "")),
	)...)
	in := Step{
		ID: "in", Title: "new cartridge in, dry", Head: "New cartridge in", Button: "It is in, to its mark",
		Takes: 2 * time.Minute, Cautions: []reason.Caution{leaflet}, Body: Act{},
	}.with(does("Wipe the head. Turn the new cartridge in by hand, to its mark. It goes in dry.", act(plant.FilterIn, "")))
	flush := Step{
		ID: "flush", Title: fmt.Sprintf("%s into a bucket", Litres(flushedSink)), Head: "Flush it into a bucket",
		Button: "It runs clear", Takes: 5 * time.Minute, Cautions: []reason.Caution{leaflet},
		Body: Act{Draws: units.Volume(flushedSink * 1000)},
	}.with(append([]doing{say("Put its flush hose, or the hose behind it, into the bucket.")}, append(r.open("the filter"),
		say("Let %s run into the bucket, until it is clear and without bubbles.", Litres(flushedSink)),
		say("Close the flush valve. Did you take a hose off? Shut the tap, put it back, open the tap again."), dry(),
	)...)...)
	return []Step{out, in, flush, r.onAgain(), r.month()}
}

// onAgain ends what is done under the counter.
func (r renewal) onAgain() Step {
	return Step{
		ID: "on", Title: "on, the first water away", Head: "Switch it on", Button: "The first water is away",
		Takes: 2 * time.Minute, Cautions: []reason.Caution{scald}, Body: Act{Draws: units.Volume(flushedTank * 1000)},
	}.with(r.fillTank(), does("Switch the machine on.", act(plant.SwitchOn, "")), r.drawn(flushedTank))
}

func (r renewal) fillTank() doing {
	if r.f.Plumbed || r.f.Pump == machine.NoPump {
		return doing{}
	}
	return does("Empty the tank and fill it with the new water.", act(plant.Empty, "tank"), act(plant.FillUp, "tank"))
}

// osmosis changes the prefilters of a reverse-osmosis unit, and its membrane in its turn.
func (r renewal) osmosis() []Step {
	out := Step{
		ID: "out", Title: "supply shut, prefilters out", Head: "Prefilters out", Button: "They are out",
		Takes: 8 * time.Minute, Cautions: []reason.Caution{pressureLine}, Body: Act{},
	}.with(append(r.shutUnder("the unit"),
		say("Shut the valve on its tank. Open its own tap until nothing runs."),
		does("Put a bucket under the housings and unscrew them. Take the prefilters out and wipe the housings.",
			act(plant.FilterOut, "")),
	)...)
	in := Step{
		ID: "in", Title: "new prefilters in", Head: "New prefilters in", Button: "They are in", Takes: 5 * time.Minute,
		Cautions: []reason.Caution{leaflet}, Body: Act{},
	}.with(
		say("Put the new prefilters in, each in its own housing. Lay the seal rings into their grooves."),
		does("Screw the housings on by hand.", act(plant.FilterIn, "")),
	)
	membrane := Step{
		ID: "membrane", Title: "the membrane, in its turn", Head: "Is it the membrane's turn?", Button: "Looked at",
		Takes: 3 * time.Minute, Cautions: []reason.Caution{leaflet}, Body: Act{},
	}.with(
		say("A membrane lasts two to three years. Measure tap and filtered water with a conductivity meter."),
		say("More than a tenth gets through? Change the membrane too, by the unit's leaflet. Else leave it."),
	)
	run := Step{
		ID: "flush", Title: "the first tankful away", Head: "The first tankful runs away", Button: "It fills",
		Cautions: []reason.Caution{leaflet},
		Body:     Wait{For: firstTankful, Early: true, Ends: "The first tankful is away"},
	}.with(append(r.open("the unit"),
		say("Open the valve on its tank."), dry(),
		say("Let the tank fill, then let all of it run away: it carries dust."),
	)...)
	return []Step{out, in, membrane, run, r.onAgain(), r.month()}
}

// steps are those of the kind of treatment.
func (r renewal) steps() []Step {
	switch {
	case r.s.Resin > handResin:
		return r.byProgramme()
	case r.s.Resin > bathResin:
		return r.byHand()
	case r.s.Resin > 0:
		return r.bath()
	case r.s.Kind == machine.Jug:
		return r.jug()
	case r.s.Kind == machine.UnderSink:
		return r.underSink()
	case r.s.Kind == machine.ReverseOsmosis:
		return r.osmosis()
	}
	return r.inTank()
}

// Renew composes the change of a filter or the regeneration of a softener, as its kind
// is really changed. It refuses, with a *reason.Refusal, a treatment that is not renewed.
func Renew(a machine.Answers, s treat.Setting, now time.Time) (Plan, error) {
	f := a.Facts()
	task, any := Renews(s)
	if !any {
		return Plan{}, reason.Refuse(NothingToRenew, "There is nothing to renew").
			Of("treatment", string(s.Kind), "a machine behind a filter or a softener").
			Why(reason.Said, "This one is behind "+treat.Title(s.Kind)+".")
	}
	if s.Kind == machine.InTank && (f.Plumbed || f.Tank == 0) {
		return Plan{}, reason.Refuse(NothingToRenew, "It has no tank for a filter to stand in").
			Of("treatment", string(s.Kind), "a machine with a tank, or what really treats its water").
			Why(reason.Said, "It is fed by the mains or by hand.").
			Instead("Say on its water page what treats its water.")
	}
	if f.Plumbed && s.Resin > 0 && s.Resin <= bathResin {
		return Plan{}, reason.Refuse(SoftenerNotSaid, "Say first how large its softener is").
			Of("resin_l", fmt.Sprintf("%.2g L", s.Resin), "the litres of resin of a softener under the counter").
			Why(reason.Ours, "A softener so small stands in a tank, and this machine is on the mains.").
			Instead("Read resin and salt from its label, and put both in on the water page.")
	}
	p, err := modelled(f)
	if err != nil {
		return Plan{}, err
	}
	p.Setups[0].Tray, p.Setups[0].Tank = 0, 0 // nothing runs into the tray
	p.Activities = []Activity{{ID: renewID, Task: task, Title: task.Title(), Takes: []Resource{TheHands, TheSink}}}
	steps := renewal{f, s, now}.steps()
	var all sums
	var stands, beside time.Duration
	for i := range steps {
		st := &steps[i]
		st.Activity = renewID
		if st.Lane == "" {
			st.Lane = Hands
			if i > 0 {
				st.After = []string{steps[i-1].ID}
			}
		}
		switch b := st.Body.(type) {
		case Soak: // it began with the step before what is done meanwhile
			stands = b.For
		case Wait:
			all.waits += b.For
		default:
			if i > 0 && stands == 0 {
				beside += st.Takes
			}
		}
		all.hands += st.Takes
	}
	p.put(steps)
	all.waits += max(0, stands-beside)
	p.setWork(all)
	return p, p.Check()
}
