package job

import (
	"fmt"
	"math"
	"strings"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
)

// drainOf is the opening by which a vessel is let out; empty where there is none.
func (l *laying) drainOf(i int) string {
	for g := range l.d.Plant.Openings {
		if o := &l.d.Plant.Openings[g]; o.Of == i && o.Kind == plant.Drain {
			return o.ID
		}
	}
	return ""
}

// drainAll lets every boiler with a drain out, the steam side first; with acid inside, the
// gas behind the group's valve is let out before any screw is touched.
func (l *laying) drainAll(spent bool) {
	for _, i := range l.circuits() {
		if drain := l.drainOf(i); drain != "" {
			l.drain(i, drain)
			l.lateFills = 0
			if spent {
				l.readSpent(i)
			}
		}
	}
	if !spent {
		return
	}
	for _, i := range l.brews() {
		if l.drainOf(i) == "" {
			l.readSpent(i)
		}
	}
}

// jugShare is how full a jug is let run, quickShare how much of that a quick hand lets.
const (
	jugShare   = 0.75
	quickShare = 0.9
)

// drain lets one boiler out, jug by jug.
func (l *laying) drain(i int, drain string) {
	v, s := &l.d.Plant.Vessels[i], &l.p.V[i]
	comes := math.Max(0, s.Litres-v.Heel*v.Working)
	var list []doing
	if !l.tapOpen() {
		list = append(list, l.jugUnder(steamTap), does("Open the steam tap: air must come in.", act(plant.Open, steamTap)))
	}
	list = append(list, l.jugUnder(drain))
	list = append(list, l.letGasOut(true)...)
	if l.f.Valve == machine.Cam && v.Kind != plant.Steam {
		list = append(list, does("Leave the lever up: air comes in by it.", act(plant.Open, groupOf(v))))
	}
	jug := l.d.Plant.Vessels[l.opening(drain).Into]
	goes := int(math.Ceil((comes+l.lateFills)/(quickShare*jugShare*jug.Capacity) - 1e-9))
	list = append(list, say("Hold a cloth over the %s and open it a quarter turn. Stop, and wait until "+
		"nothing hisses. Then open it further.", l.outlet(drain)))
	if goes > 1 {
		var acts []plant.Action
		for range goes - 1 {
			acts = append(acts, amount(plant.LetOut, drain, jugShare*jug.Capacity), act(plant.Empty, jug.ID))
		}
		list = append(list, does("Whenever the jug is three quarters full: close it, note how much came, empty the jug, "+
			"and open it again.", acts...))
	}
	list = append(list, does("Let it run until nothing more comes. Close it gently: tight, not hard.",
		act(plant.LetOut, drain)))
	if l.f.Valve == machine.Cam && v.Kind != plant.Steam {
		list = append(list, does("Put the lever down.", act(plant.Close, groupOf(v))))
	}
	l.add(Step{
		ID: "drain-" + v.ID, Title: fmt.Sprintf("let the %s out", v.Title), Head: "Let the " + v.Title + " out",
		Button: "It is out, and the drain is closed", Takes: time.Minute + time.Duration(goes)*30*time.Second,
		Cautions: []reason.Caution{never45, gas, gloves},
		Body:     Act{Runs: time.Duration(comes/plant.Drains*1.5) * time.Second},
	}.with(list...))
	l.askDrained(v, drain, comes)
}

// letGasOut is what lets the gas out that stands behind the valves of the groups, with the
// plug out after it where something is to be opened. It is nothing more where no acid has
// been on the brew side.
func (l *laying) letGasOut(opens bool) []doing {
	var list []doing
	pumped := false
	for _, i := range l.brews() {
		if l.p.V[i].Acid < plant.Weak || l.justVented() {
			continue
		}
		group := groupOf(&l.d.Plant.Vessels[i])
		if l.opening(group).Lever {
			list = append(list, does(fmt.Sprintf("Lift the lever of the %s for a second and put it down: gas leaves.",
				l.outlet(group)), act(plant.Open, group), act(plant.Close, group)))
			continue
		}
		if !l.p.Plug && !pumped {
			list = append(list, plugIn(), l.lookStillOff())
		}
		pumped = true
		list = append(list, does(fmt.Sprintf("Switch on, pump for one second by the %s into its jug, and switch off: gas "+
			"leaves.", l.outlet(group)), act(plant.Blip, group)))
	}
	if opens && (pumped || l.p.Plug) {
		list = append(list, pullPlug())
	}
	return list
}

// justVented says whether the gas has been let out in the step before.
func (l *laying) justVented() bool {
	return len(l.steps) > 0 && strings.HasPrefix(l.steps[len(l.steps)-1].ID, "vent-again")
}

// askDrained asks how much came out, and leads on where it was too little.
func (l *laying) askDrained(v *plant.Vessel, drain string, comes float64) {
	again := func(id string) []Step {
		acts := []plant.Action{act(plant.Empty, l.d.Plant.Vessels[l.opening(drain).Into].ID)}
		return []Step{Step{
			ID: id, Title: "open the drain again", Head: "Once more", Button: "It is out, and the drain is closed",
			Takes: 3 * time.Minute, Cautions: []reason.Caution{never45, gas}, Body: Act{},
		}.with(
			does("Empty the jug and put it back. A cloth over it: open the drain again, all the way.", acts...),
			say("Tilt the machine a little towards it, if two can hold it."),
			does("Let it run until nothing more comes. Close it gently.", act(plant.LetOut, drain)),
		)}
	}
	stop := reason.Refuse(NotCleared, "It does not come out: stop here").
		Why(reason.Trade, "An air lock, or flakes in the drain. What cannot be let out cannot be rinsed.").
		Instead("Leave it off and unplugged, with the steam tap open. Call a workshop.")
	l.add(Step{
		ID: "out-" + v.ID, Title: fmt.Sprintf("check that about %s came out", Litres(comes)),
		Head: "How much came out?", Button: "That is what came", Takes: 30 * time.Second,
		Do: []string{fmt.Sprintf("All jugs together: about %s is right. Less than %s is not drained.", Litres(comes),
			Litres(0.9*comes))},
		Cautions: []reason.Caution{dryHeat},
		Body: Choose{Ways: []Way{
			{Answer: Drained, Text: fmt.Sprintf("%s or more", Litres(0.9*comes))},
			{Answer: NotDrained, Text: "Less", Tries: [][]Step{again("once-more"), again("once-more")},
				Stop: &stop.Finding},
		}},
	})
}

// soakDrained fills what was let out with solution, lets it stand, and lets it out again.
func (l *laying) soakDrained(n int) {
	l.setToMix(l.takesToFill())
	l.fillAll("solution")
	l.stand(n)
	l.vent()
	l.drainAll(true)
}

// takesToFill is what has to be mixed for one round: what the filling draws, with slow hands,
// less what is still there.
func (l *laying) takesToFill() float64 {
	x := l.fork(asSaid)
	x.setToMix(l.drainedInAll())
	x.fillAll("solution")
	if x.err != nil {
		return l.drainedInAll()
	}
	return math.Max(0, x.mixed-l.mixed-x.drawn()+0.001)
}

// drainedInAll is more than a round takes: what fills each boiler up to where it stops, what
// goes by the groups, and what a slow hand lets in beside.
func (l *laying) drainedInAll() float64 {
	sum := 0.0
	for _, i := range l.circuits() {
		v := &l.d.Plant.Vessels[i]
		switch {
		case v.Kind == plant.Steam:
			sum += (plant.Stops - v.Heel) * v.Working
		case v.Heel > 0:
			sum += (1-v.Heel)*v.Working + outletAcid + l.lateDraws()
		default:
			sum += 6 * (renews*v.Working + l.lateDraws()/2)
		}
	}
	return sum + 2*l.lateDraws()
}

// strong says whether a circuit holds acid enough for a filling to stop early.
func (l *laying) strong() bool {
	if l.phase == Acidic || l.p.Holds(plant.Weak) {
		return true
	}
	for _, i := range l.brews() { // a tube is clean before its boiler is full: its element would go on
		if l.heldOff() && l.d.Plant.Vessels[i].Kind == plant.Tube && l.phase == Rinsing && !l.tubeClean(i) {
			return true
		}
	}
	return false
}

// tubeClean says whether a brew tube and its group hold no more acid than may stay.
func (l *laying) tubeClean(i int) bool {
	gate := l.p.Gates[l.d.Plant.FindOpening(groupOf(&l.d.Plant.Vessels[i]))]
	return !l.p.Sours(i) && gate.Acid <= l.d.Plant.Solution.Limit && gate.Drew >= outletRise-1e-9
}

// tubeNeeds is the water that still has to go through a brew tube, L.
func (l *laying) tubeNeeds(i int) float64 {
	v := &l.d.Plant.Vessels[i]
	need := -over*v.Working*math.Log(l.d.Plant.Solution.Limit) - l.p.V[i].Through
	return math.Max(need, outletRise-l.p.Gates[l.d.Plant.FindOpening(groupOf(v))].Drew)
}

// fillsFor is how long the steam boiler may fill in one go at so much a second, s: up to
// where it stops, and no further by a slow hand.
func (l *laying) fillsFor(q float64) float64 {
	i := l.d.Plant.Find("steam")
	v, s := &l.d.Plant.Vessels[i], &l.p.V[i]
	if !l.strong() {
		return math.Inf(1)
	}
	meant := (plant.Stops*v.Working - s.Litres) / q
	late := (slowStops*v.Working-s.Litres-l.lateFills)/q - slow.late
	return math.Max(0, math.Min(meant, late))
}

// slowStops is the share of the working fill that no slow hand lets a boiler with acid in it
// get beyond, short of the probe.
const slowStops = 0.965

// fillAll fills the boilers that were let out: the brew side by its groups, the steam boiler
// by itself.
func (l *laying) fillAll(what string) {
	for _, i := range l.brews() {
		if l.d.Plant.Vessels[i].Heel > 0 {
			l.fillBrew(i, what)
		} else {
			l.fillTube(i, what)
		}
	}
	for goes := 0; l.err == nil && goes < 12; goes++ {
		v, s := &l.d.Plant.Vessels[l.d.Plant.Find("steam")], l.steamAt()
		if s.Full || l.strong() && s.Litres > 0.6*v.Working && l.fillsFor(l.flow()) < 8 {
			return
		}
		t := math.Min(l.fillsFor(l.flow()), (v.Working-s.Litres)/l.flow())
		t = math.Min(t, l.longestPush().Seconds())
		if t < 3 && l.strong() {
			if s.Litres < 0.5*v.Working {
				l.err = l.cannotFill()
			}
			return
		}
		t = math.Max(t, 3)
		l.fill(t, what)
	}
}

// fill lets the steam boiler fill by itself for so long.
func (l *laying) fill(t float64, what string) {
	litres := t * l.flow()
	var first []doing
	if l.phase == Acidic {
		l.ensure(litres)
	} else if l.drawn() < litres+l.lateDraws() {
		first = append(first, l.fillUp())
	}
	first = append(first, l.plugged()...)
	l.push("", litres, 1, what, first...)
	l.lateFills += l.lateDraws()
}

// fillBrew fills a brew boiler by its group, and lets some out there.
func (l *laying) fillBrew(i int, what string) {
	v, s := &l.d.Plant.Vessels[i], &l.p.V[i]
	group := groupOf(v)
	thru := outletAcid
	if l.phase != Acidic {
		thru = outletHeel
	}
	share := l.shareOf()
	left := v.Working - s.Litres + thru
	for goes := 0; left > 1e-6 && l.err == nil && goes < 8; goes++ {
		most := l.longestPush().Seconds() * l.flow() * share
		if share < 1 {
			if may := l.fillsFor(l.flow() * share); may*l.flow()*share < math.Min(left, most)-1e-6 {
				l.err = l.cannotFill()
				return
			}
		}
		go1 := math.Min(left, most)
		var first []doing
		if l.phase == Acidic {
			l.ensure(go1 / share)
		} else if l.drawn() < go1/share+l.lateDraws() {
			first = append(first, l.fillUp())
		}
		if goes == 0 {
			first = append(first, l.jugUnder(group), say("The %s fills first: it comes at the group after about %.0f s. The "+
				"steam boiler fills beside it.", v.Title, 5*math.Round((v.Working-s.Litres)/(l.flow()*share)/5)))
		}
		first = append(first, l.plugged()...)
		l.push(group, go1, share, what, first...)
		l.lateFills += slow.late * l.flow() * share
		left -= go1
	}
}

// besideIt is said where autofill runs beside.
var besideIt = say("The steam boiler fills beside it: half of what the pump gives goes each way.")

// fillTube brings solution into a brew tube in sips that stand, or flushes it, while the
// steam boiler fills beside: half of what the pump gives goes each way.
func (l *laying) fillTube(i int, what string) {
	v := &l.d.Plant.Vessels[i]
	group := groupOf(v)
	share := l.shareOf()
	q := l.flow() * share
	if l.phase == Acidic {
		late := slow.late * q
		s, st := &l.d.Plant.Vessels[l.d.Plant.Find("steam")], l.steamAt()
		tubes := float64(len(l.brews()))
		may := math.Min((slowStops*s.Working-st.Litres-l.lateFills)/tubes-late, (plant.Stops*s.Working-st.Litres)/tubes)
		sip := math.Min(renews*v.Working, may)
		on := sip / q
		byLevel := (slowStops*s.Working - st.Litres - l.lateFills) / (sip + late)
		byMeant := (plant.Stops*s.Working - st.Litres) / sip
		jug := 0.95 * l.d.Plant.Vessels[l.opening(group).Into].Capacity / (sip + late)
		tank := l.source().Working / ((sip + late) / share)
		n := int(math.Floor(math.Min(math.Min(jug, tank), math.Min(byLevel, byMeant)/float64(len(l.brews())))))
		n = min(n, 8)
		if n < 1 || on > l.longestPush().Seconds() || sip < 0.8*v.Working {
			l.err = l.cannotFill()
			return
		}
		l.ensure(float64(n) * (sip + late) / share)
		first := []doing{l.jugUnder(group)}
		first = append(first, l.plugged()...)
		l.sips(group, n, sip, first...)
		l.lateFills += float64(n) * late
		return
	}
	need := l.tubeNeeds(i)
	if l.tubeClean(i) {
		return
	}
	for goes := 0; need > 1e-6 && l.err == nil && goes < 12; goes++ {
		share := l.shareOf()
		t := math.Min(l.longestPush().Seconds(), need/(l.flow()*share))
		if share < 1 {
			t = math.Min(t, l.fillsFor(l.flow()*share))
			if s := l.steamAt(); !l.strong() { // no further than to the probe: then all of it would come this way
				t = math.Min(t, (l.d.Plant.Vessels[l.d.Plant.Find("steam")].Working-s.Litres)/(l.flow()*share))
			}
		}
		t = math.Min(t, (l.source().Working-l.lateDraws())/l.flow())
		if t < 8 && goes > 0 || t < 3 {
			return // the next refill goes on with it
		}
		into := l.d.Plant.Vessels[l.opening(group).Into]
		t = math.Min(t, (0.95*into.Capacity-slow.late*l.flow()*share)/(l.flow()*share))
		var first []doing
		if l.drawn() < t*l.flow()+l.lateDraws() {
			first = append(first, l.fillUp())
		}
		first = append(first, l.jugUnder(group))
		if share < 1 {
			first = append(first, besideIt)
		}
		first = append(first, l.plugged()...)
		l.push(group, t*l.flow()*share, share, what, first...)
		l.lateFills += slow.late * l.flow() * share
		need -= t * l.flow() * share
	}
}

// vent lets the gas out that stands behind the groups' valves: at once, and again after two
// minutes.
func (l *laying) vent() {
	ventOnce := func(id string, opens bool) {
		list := l.letGasOut(opens)
		if len(list) == 0 {
			return
		}
		l.add(Step{
			ID: id, Title: "let gas out at the group", Head: "Let the gas out", Button: "The gas is out",
			Takes: 45 * time.Second, Cautions: []reason.Caution{gas, steamy}, Body: Act{},
		}.with(list...))
	}
	before := len(l.steps)
	ventOnce("vent", false)
	if len(l.steps) == before {
		return
	}
	l.add(Step{
		ID: "vent-wait", Title: "two minutes for more gas", Head: "Two minutes", Button: "The clock runs",
		Do: []string{"Gas goes on leaving the solution. No screw is touched meanwhile."}, Cautions: []reason.Caution{gas},
		Body: Wait{For: 2 * time.Minute},
	})
	ventOnce("vent-again", true)
}

// rinseDrained lets out and refills until each circuit is clean.
func (l *laying) rinseDrained() {
	for n := 0; l.err == nil && n < 12; n++ {
		if n > 0 || l.in.Dirty {
			l.drainAll(false)
		}
		l.fillAll("water")
		if l.allClean() {
			return
		}
	}
	l.err = l.cannotFill()
}

// cannotFill is the refusal of a boiler that would be filled too far, or not at all.
func (l *laying) cannotFill() error {
	return reason.Refuse(NotCleared, "Its boilers cannot be filled as far as they must be").
		Of("flow_ml_s", fmt.Sprintf("%.3g mL/s", l.f.FreeFlow), "a slower pump, larger boilers, or a larger jug").
		Why(reason.Ours, "Acid must stay below the probe of the steam boiler, and a slow hand at the switch would bring it "+
			"above.").
		Instead("A workshop descales it; treat the water meanwhile.")
}

// allClean says whether no circuit holds more acid than may stay, and no outlet too little
// rinse.
func (l *laying) allClean() bool {
	for _, i := range l.circuits() {
		if l.p.Sours(i) {
			return false
		}
	}
	for _, c := range l.d.Circuits {
		for _, o := range c.Outlets {
			gate := l.p.Gates[l.d.Plant.FindOpening(o.ID)]
			if l.opening(o.ID).Kind == plant.Group && (gate.Drew < outletRise-1e-6 || gate.Acid > l.d.Plant.Solution.Limit) {
				return false
			}
		}
	}
	return true
}
