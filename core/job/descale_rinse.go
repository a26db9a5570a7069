package job

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"time"

	"freshanvil/core/descale"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/speak"
)

// soakFilterMeanwhile puts a new filter into water, where it stands while it is rinsed.
func (l *laying) soakFilterMeanwhile() {
	if l.in.Setting.Kind == machine.InTank && l.in.Renew && !l.in.Dirty {
		in := newFilter()
		in.ID = "filter-in-water"
		l.renewing(in)
		soak := filterSoak()
		soak.After, soak.Lane = []string{in.ID}, FilterLane
		l.late = append(l.late, soak)
	}
}

// rinse takes the acid out: the source first, then every circuit as much as the model asks.
func (l *laying) rinse() {
	l.cleanSource()
	switch l.prog.Empties {
	case descale.ByPump:
		l.rinsePushed()
	case descale.ByMachine:
		l.own("own-rinse", "its own rinse, with clean water", "Its own rinse", "Its rinse has ended",
			"Let its program rinse with the clean water. Say when it has ended.", math.Min(0.9*l.ownCatch(), 0.8),
			l.jugUnder(steamTap))
		l.rinsePushed()
	case descale.ByPouring:
		l.rinsePoured()
	default:
		l.rinseDrained()
	}
}

func (l *laying) cleanSource() {
	s := Step{
		ID: "clean-source", Title: fmt.Sprintf("%s rinsed, clean water in", l.tank()),
		Head: speak.Upper(l.tank()) + " rinsed, clean water", Button: "Clean water is in", Takes: time.Minute,
		Cautions: []reason.Caution{gloves, sponge}, Body: Act{},
	}
	away := "The rest of the solution goes down the drain by local rules and the label."
	if l.prog.Empties == descale.ByPouring {
		s.Title, s.Head, s.Button = "mixing jug rinsed", "Rinse the mixing jug", "It is clean"
		l.add(s.with(does("Empty the mixing jug and rinse it twice. "+away, act(plant.Empty, l.source().ID))))
		return
	}
	l.add(s.with(
		does(fmt.Sprintf("Empty the %s and rinse it twice. %s", l.tank(), away), act(plant.Empty, l.source().ID)),
		l.fillUp(),
	))
}

// over is what is flushed beyond what the model asks, so that the lines are as clean as what
// they lead from (our own engineering choice).
const over = 1.1

// rinsePushed flushes each circuit: by the wand until little is left, by the group, and by
// the wand again, whose line was first.
func (l *laying) rinsePushed() {
	for _, i := range l.brews() {
		v := &l.d.Plant.Vessels[i]
		group := groupOf(v)
		all := -over * v.Working * math.Log(l.d.Plant.Solution.Limit)
		if !l.withTap(i) {
			l.through(group, math.Max(all, outletRise), "water")
			continue
		}
		if l.spentLater {
			l.catchSpent()
		}
		l.through(steamTap, math.Max(all/2, outletRise-outletHeel), "water")
		if l.spentLater {
			l.readSpent(i)
		}
		l.through(group, math.Max(all/2, outletRise), "water")
		l.through(steamTap, outletHeel, "water")
	}
}

// catchSpent catches spent solution before the rinse thins it. It is read once that has begun:
// a strip takes longer than the acid should stand.
func (l *laying) catchSpent() {
	l.add(Step{
		ID: "catch", Title: "catch a cup of spent solution", Head: "Catch the spent solution", Button: "The cup is set aside",
		Takes: 20 * time.Second, Cautions: []reason.Caution{steamy, gloves}, Body: Act{},
	}.with(does(fmt.Sprintf("Stand a cup under the %s. Switch on, %s for a moment, and switch off. Set the cup aside: "+
		"that is spent solution.", l.outlet(steamTap), l.keep(steamTap)), amount(plant.Sample, steamTap, cupTakes))))
}

// prove asks for strips beside the feed at each outlet of each circuit, at the steam boiler's
// drain first: rinsing on through the others warms that boiler where it is held off.
func (l *laying) prove() {
	for n := range l.d.Circuits {
		c := &l.d.Circuits[n]
		if l.tapOpen() { // what is open is proven first
			slices.SortStableFunc(c.Outlets, func(a, b Outlet) int {
				return cmp.Compare(l.opening(b.ID).Kind, l.opening(a.ID).Kind)
			})
		}
		for k := range c.Outlets {
			o := &c.Outlets[k]
			l.proveAt(c, o, k == len(c.Outlets)-1)
		}
	}
	for n := range l.d.Circuits {
		for k := range l.d.Circuits[n].Outlets {
			l.addMore(&l.d.Circuits[n], &l.d.Circuits[n].Outlets[k])
		}
	}
}

func (l *laying) proveAt(c *Circuit, o *Outlet, last bool) {
	opening := l.opening(o.ID)
	var first []doing
	cup := amount(plant.Sample, o.ID, cupTakes)
	switch {
	case opening.Kind == plant.Drain:
		if l.p.Plug {
			first = append(first, pullPlug())
		}
		first = append(first, does(fmt.Sprintf("Open the %s a quarter turn, take a cup of what comes, and close it.",
			l.outlet(o.ID)), cup))
	case opening.Kind == plant.Cap:
		first = append(first, does("Take a cup out of the boiler by its opening.", cup))
	default:
		if l.drawn() < 2*cupTakes {
			first = append(first, l.fillUp())
		}
		first = append(append(first, l.plugged()...), l.turnTap(o.ID)...)
		first = append(first, does(fmt.Sprintf("Stand a cup under the %s. Switch on and %s until it is half full, then "+
			"%s and switch off.", l.outlet(o.ID), l.keep(o.ID), l.stop(o.ID)), cup))
	}
	body := Measure{Reads: Proof, Circuit: c.Part, Outlet: o.ID, Last: last}
	l.add(Step{
		ID: "prove-" + c.Part.String() + "-" + o.ID, Title: fmt.Sprintf("strip: %s, at the %s", c.Title, o.Title),
		Head: "Strip: " + o.Title, Button: "That is what it reads", Takes: 2 * time.Minute, Body: body,
		Cautions: []reason.Caution{steamy},
	}.with(append(first,
		say("A strip in it, a strip in the clean water: do both read the same, within one step? Nobody tastes it."))...))
}

// addMore sets out what is rinsed on where a strip does not match: what brings what is left
// to a tenth.
func (l *laying) addMore(c *Circuit, o *Outlet) {
	x := l.fork(asSaid)
	x.steps, x.names, x.phase = nil, map[string]int{}, Proving
	x.p.V[plant.SourceAt].Litres = 0
	for g := range x.d.Plant.Openings { // whatever is in a jug, it is emptied first
		into := x.d.Plant.Openings[g].Into
		x.p.V[into].Litres = x.d.Plant.Vessels[into].Capacity
	}
	i := x.d.Plant.Find(c.Part.String())
	switch {
	case c.Part.Kind() != "brew" || c.Drained:
		x.refill(i)
	default:
		x.through(o.ID, math.Max(outletHeel, float64(c.Working)*math.Ln10), "water")
	}
	if x.err == nil && x.d.Plant.HasPump && x.drawn() < 3*cupTakes { // the next cups come from it
		x.add(Step{
			ID: "tank-again", Title: "clean water in", Head: "Clean water", Button: "It is in", Takes: 30 * time.Second,
			Cautions: []reason.Caution{sponge}, Body: Act{},
		}.with(x.fillUp()))
	}
	if l.err == nil {
		l.err = x.err
	}
	o.More = x.steps
}

// refill lets a boiler out once more and fills it again.
func (l *laying) refill(i int) {
	if drain := l.drainOf(i); drain != "" {
		l.drain(i, drain)
		l.lateFills = 0
		l.fillAll("water")
		if l.p.Plug && l.d.Plant.Vessels[i].Kind == plant.Steam {
			l.add(Step{
				ID: "plug-out", Title: "plug out", Head: "Plug out", Button: "It is out", Takes: 10 * time.Second,
				Cautions: []reason.Caution{dryHeat}, Body: Act{},
			}.with(pullPlug()))
		}
		return
	}
	l.pourOut(i)
	l.pourIn(i, "water", false)
}

// capOpen says whether the cap is off.
func (l *laying) capOpen() bool { return l.p.Gates[l.d.Plant.FindOpening("cap")].Open }

// pourOut turns a boiler over.
func (l *laying) pourOut(i int, list ...doing) {
	v := &l.d.Plant.Vessels[i]
	over := "the sink"
	if l.phase == Acidic {
		over = "a large bowl in the sink"
	}
	if !l.capOpen() {
		list = append(list,
			does("Unscrew the cap a quarter turn under a cloth. Stop, and wait until nothing hisses. Then take "+
				"it off.", act(plant.Open, "cap")))
	}
	l.add(Step{
		ID: "pour-out", Title: "pour the boiler out", Head: "Pour it out", Button: "It is out", Takes: 2 * time.Minute,
		Cautions: []reason.Caution{never45, gas, gloves}, Body: Act{},
	}.with(append(list, say("Take the jug and the drip tray away."),
		does(fmt.Sprintf("Two hands: turn the machine over %s, plug and switch away from the water. Wait until nothing more "+
			"comes.",
			over), act(plant.TurnOver, v.ID)))...))
}

// pourIn fills it by its opening. Cold, nothing comes by the group: its pipe is drawn and proven at first pressure.
func (l *laying) pourIn(i int, what string, strong bool) {
	v, s := &l.d.Plant.Vessels[i], &l.p.V[i]
	target, toMark := v.Working, true
	if strong || l.p.Holds(plant.Weak) {
		target, toMark = plant.Stops*v.Working, false
	}
	litres := target - s.Litres
	var list []doing
	if l.phase != Acidic {
		list = append(list, does(fmt.Sprintf("Measure %s of clean water in the mixing jug.", Litres(1.2*litres)),
			act(plant.Empty, l.source().ID), amount(plant.PourClean, l.source().ID, 1.2*litres)))
	}
	list = append(list, does(fmt.Sprintf("Pour %s into the boiler by its opening. Leave the cap off, and the lever down.",
		Litres(litres)), amount(plant.PourIn, v.ID, litres)))
	if toMark {
		list = append(list, does("Fill it up to the usual mark.", amount(plant.PourTo, v.ID, target)))
	}
	l.add(Step{
		ID: "pour-in", Title: fmt.Sprintf("pour in %s of %s", Litres(litres), what), Head: "Pour " + what + " in",
		Button: "It is in", Takes: 3 * time.Minute, Cautions: []reason.Caution{gas, gloves}, Body: Act{},
	}.with(list...))
}

// soakPoured fills a boiler by hand with solution, lets it stand, and pours it out.
func (l *laying) soakPoured(n int) {
	i := l.brews()[0]
	v := &l.d.Plant.Vessels[i]
	if n == 1 {
		l.phase = Before
		l.pourOut(i)
		l.phase = Acidic
	}
	l.mix(plant.Stops*v.Working - l.p.V[i].Litres)
	l.pourIn(i, "solution", true)
	l.stand(n)
	l.pourOut(i)
	l.readSpent(i)
}

// rinsePoured pours in and out until it is clean; the last stays in.
func (l *laying) rinsePoured() {
	i := l.brews()[0]
	for n := 0; l.err == nil && n < 12; n++ {
		if n > 0 || l.in.Dirty {
			l.pourOut(i)
		}
		l.pourIn(i, "water", false)
		if l.allClean() {
			return
		}
	}
	v := &l.d.Plant.Vessels[i]
	l.err = reason.Refuse(NotCleared, "Its boiler is too small to be rinsed by hand").
		Of("brew_l", fmt.Sprintf("%.2g L", v.Capacity), "a boiler of 0.2 L or more").
		Why(reason.Ours, "Twelve fillings would not rinse the group.").
		Instead("A workshop descales it; treat the water meanwhile.")
}
