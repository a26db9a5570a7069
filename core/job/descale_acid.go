package job

import (
	"fmt"
	"math"
	"slices"
	"time"

	"freshanvil/core/descale"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// What goes through (our own engineering choices): volumes of solution that renew a path
// that is pushed; what an outlet gets of solution and of rinse, L; what a cup takes.
const (
	renews     = 1.5
	outletAcid = 0.08
	outletHeel = 0.1
	outletRise = 0.3
	cupTakes   = 0.05
)

// addRound lays one more round of acid; false where it cannot be laid.
func (l *laying) addRound(n int) bool {
	l.round, l.roundFrom, l.fresh = n, len(l.steps), l.p.Clone()
	switch {
	case l.prog.ID == descale.Sips:
		l.round = 1
		l.addSips(n)
	case l.prog.Empties == descale.ByMachine:
		l.runOwn()
	case l.prog.Empties == descale.ByPump:
		l.soakPushed(n)
	case l.prog.Empties == descale.ByPouring:
		l.soakPoured(n)
	default:
		l.soakDrained(n)
	}
	return l.err == nil && len(l.p.Broken) == 0
}

// source words
func (l *laying) tank() string { return l.source().Title }

// setToMix says how much solution is mixed in all, and so in as few batches as the source
// takes.
func (l *laying) setToMix(litres float64) { l.toMix = litres }

// ensure mixes the next batch where the source does not hold so much, with what a slow hand
// draws beside.
func (l *laying) ensure(litres float64) { l.ensureAtLeast(litres + l.lateDraws()) }

// ensureAtLeast mixes the next batch where the source holds less than is needed, L.
func (l *laying) ensureAtLeast(need float64) {
	if l.mixed > 0 && l.drawn() >= need-1e-9 {
		return
	}
	v := math.Min(math.Max(l.toMix, need-l.drawn()), l.roomForMore())
	l.toMix = math.Max(0, l.toMix-v)
	l.mix(v)
}

// roomForMore is what can be poured into the source now, whoever has drawn from it.
func (l *laying) roomForMore() float64 {
	if l.mixed == 0 {
		return l.source().Working
	}
	return l.source().Working - l.p.V[plant.SourceAt].Litres - quickLeaves*l.lateDrawn
}

// quickLeaves is what a quick hand leaves in the source, two seconds a go, for each litre that a
// slow one draws beside, ten seconds a go.
const quickLeaves = 0.2

// mix makes a batch: the first into the emptied source, later ones on top.
func (l *laying) mix(v float64) {
	card := l.in.Card
	first := l.mixed == 0
	l.mixed += v
	water := reason.Worked{
		Name: "solution of this batch", Value: v, Unit: "L", Formula: "batch", Source: reason.Ours,
		WouldChange: []string{"a larger tank", "more or less scale"},
		Inputs: []reason.Input{{
			Symbol: "batch", Label: "what goes in and through, and what a slow hand lets through beside", Value: v, Unit: "L",
			Source: reason.Ours,
		}},
	}.Exact()
	measure := reason.Worked{
		Name: card.Product.Name + " for this batch", Value: v * card.ALitre.Value, Unit: card.ALitre.Unit,
		Formula: "batch × litre", Source: reason.Ours, WouldChange: []string{"another strength", "another product"},
		Inputs: []reason.Input{water.AsInput("batch"), card.ALitre.AsInput("litre")},
	}.Exact()
	if card.Product.Form == descale.Sachets { // by the piece
		measure.Value, measure.Formula = math.Ceil(measure.Value-1e-9), "ceil(batch × litre − 0.000000001)"
		measure = measure.Exact()
	}
	made := card.Product.MakesUp(measure, card.ALitre, water)
	what := map[descale.Form]string{
		descale.Powder: "powder", descale.Sachets: "sachets", descale.Liquid: "liquid",
	}[card.Product.Form]
	list := []doing{say("Put the lukewarm water into a clean jug, then the %s into it. Stir until it is gone.", what)}
	rest := ""
	if made.Value > v*1.01 {
		rest = " The rest is not used."
	}
	pour := amount(plant.PourMix, l.source().ID, v)
	switch {
	case l.prog.Empties == descale.ByPouring:
		list = append(list, does("Keep it in the jug."+rest, act(plant.Empty, l.source().ID), pour))
	case first:
		list = append(list, does(fmt.Sprintf("Empty the %s.", l.tank()), act(plant.Empty, l.source().ID)),
			does(fmt.Sprintf("Pour %s of the solution into the %s.%s", Litres(v), l.tank(), rest), pour))
	default:
		list = append(list, does(fmt.Sprintf("Pour %s of it into the %s, on top of what is left in there.%s", Litres(v),
			l.tank(), rest), pour))
	}
	l.add(Step{
		ID: "mix", Title: fmt.Sprintf("mix %s of solution", Litres(v)), Head: "Mix",
		Button: "It is dissolved", Takes: 3 * time.Minute, Cautions: []reason.Caution{gloves, sponge},
		Body: Act{Mix: &Mix{measure, made}},
	}.with(list...))
}

// withTap says whether a circuit's steam tap is one of its cold outlets.
func (l *laying) withTap(i int) bool { return l.opening(steamTap).Of == i }

// tapOpen says whether the steam tap is open now.
func (l *laying) tapOpen() bool { return l.p.Gates[l.d.Plant.FindOpening(steamTap)].Open }

// room is what the jug under an outlet still takes, three quarters of it, less what a slow
// hand lets in beside.
func (l *laying) room(to string) float64 {
	into := l.opening(to).Into
	v := &l.d.Plant.Vessels[into]
	return math.Max(0, 0.95*v.Capacity-l.p.V[into].Litres-l.lateIn[v.ID]-l.lateDraws())
}

// through pushes so much of the solution, or of water, through an outlet, in as many goes
// as jug, source, duty and heat allow.
func (l *laying) through(to string, litres float64, what string, first ...doing) {
	for left := litres; left > 1e-6 && l.err == nil; {
		if l.phase == Acidic {
			l.ensure(math.Min(left, l.source().Working-l.lateDraws()))
		}
		left -= l.throughOnce(to, left, what, first...)
	}
}

func (l *laying) throughOnce(to string, left float64, what string, first ...doing) float64 {
	first = slices.Clone(first)
	share := l.shareOf()
	most := l.longestPush().Seconds() * l.flow() * share
	if l.room(to) < math.Min(left, most) || !l.placed[l.d.Plant.Vessels[l.opening(to).Into].ID] {
		first = append(first, l.jugUnder(to))
		into := &l.d.Plant.Vessels[l.opening(to).Into]
		most = math.Min(most, 0.95*into.Capacity-l.lateDraws())
	} else {
		most = math.Min(most, l.room(to))
	}
	if l.phase != Acidic {
		most = math.Min(most, (l.source().Working-l.lateDraws())*share)
	} else {
		most = math.Min(most, math.Max(0.01, (l.drawn()-l.lateDraws()))*share)
	}
	if most < 0.005 {
		l.err = l.notFit("jug_l", float64(l.f.Jug.Litres()), "a larger jug and tank")
		return left
	}
	goes := math.Ceil(left/most - 1e-9)
	v := left / goes
	if l.phase != Acidic && l.drawn() < v/share+l.lateDraws() {
		first = append([]doing{l.fillUp()}, first...)
	}
	first = append(first, l.plugged()...)
	first = append(first, l.turnTap(to)...)
	l.push(to, v, share, what, first...)
	return v
}

// plugged is what brings the plug in, where it is out.
func (l *laying) plugged() []doing {
	if l.p.Plug {
		return nil
	}
	return []doing{plugIn(), l.lookStillOff()}
}

// turnTap is what has to be done to the steam tap before something is pushed by an outlet.
func (l *laying) turnTap(to string) []doing {
	switch o := l.opening(to); {
	case o.Kind == plant.SteamTap && !l.tapOpen():
		return []doing{l.openTap()}
	case o.Kind == plant.Group && l.tapOpen() && l.withTap(o.Of):
		return []doing{l.closeTap()}
	}
	return nil
}

// shareOf is the share of the pump's flow that goes through an outlet: half where the
// steam boiler fills beside.
func (l *laying) shareOf() float64 {
	if s := l.steamAt(); s != nil && !s.Full {
		return 0.5
	}
	return 1
}

func (l *laying) fillUp() doing {
	return does(fmt.Sprintf("Fill the %s with clean water.", l.tank()), act(plant.FillUp, l.source().ID))
}

// notFit is the refusal of a machine whose jug or tank is too small for any push.
func (l *laying) notFit(field string, has float64, wants string) error {
	return reason.Refuse(NotCleared, "Jug or tank is too small for this").
		Of(field, fmt.Sprintf("%.2g L", has), wants).
		Why(reason.Ours, "A slow hand at the switch would let it run over, or the pump draw air.").
		Instead("Use a larger jug, and say its size on the machine's page.")
}

// soakPushed renews each circuit by the pump, and lets it stand, switched off.
func (l *laying) soakPushed(n int) {
	if n == 1 {
		l.setToMix(l.pushedInAll())
	}
	for _, i := range l.brews() {
		v := &l.d.Plant.Vessels[i]
		fill := math.Max(renews*v.Working, 2*outletAcid)
		group := groupOf(v)
		if !l.withTap(i) {
			l.through(group, fill, "solution")
			continue
		}
		l.through(group, outletAcid, "solution")
		l.through(steamTap, fill-outletAcid, "solution")
	}
	l.stand(n)
	for _, i := range l.brews() {
		l.readSpent(i)
	}
}

// pushedInAll is the solution of all rounds that the likely scale may ask for.
func (l *laying) pushedInAll() float64 {
	sum := 0.0
	rounds := math.Min(float64(l.prog.Soaks), l.roundsWanted())
	for _, i := range l.brews() {
		fill := math.Max(renews*l.d.Plant.Vessels[i].Working, 2*outletAcid)
		goes := math.Ceil(fill/(l.longestPush().Seconds()*l.flow())) + 1
		sum += rounds * (fill + goes*l.lateDraws() + cupTakes)
	}
	return sum
}

// roundsWanted is how many fills the likely scale asks for.
func (l *laying) roundsWanted() float64 {
	most := 1.0
	for _, i := range l.circuits() {
		v := &l.d.Plant.Vessels[i]
		takes := l.d.Plant.Solution.Takes * v.Working * (1 - math.Exp(-plant.Attack*v.Area*1200/(v.Working/1000)))
		most = math.Max(most, math.Ceil(v.Scale/takes-spare))
	}
	return most
}

// stand lets the solution stand.
func (l *laying) stand(n int) {
	long := l.soak
	s := Step{
		ID: "soak", Title: fmt.Sprintf("soak %.0f min, switched off", long.Minutes()), Head: "It soaks",
		Button: "Go on", Cautions: []reason.Caution{gas, gloves}, Body: Soak{For: long, Acid: true},
		Do: []string{
			"The machine is off. " + l.tapStays(),
			"Stay in the house.",
		},
	}
	if l.prog.Empties == descale.ByPouring {
		s.Do = []string{"The cap stays off: gas must leave. Stay in the house."}
	}
	if l.prog.Hot {
		s.Title, s.Do = fmt.Sprintf("soak %.0f min, hot", long.Minutes()), nil
		s.Cautions = []reason.Caution{gas, hotAcid}
		s = s.with(append(l.heatersBack("Turn the heater of the %s on again."),
			does("Switch the machine on, and leave it on: brew temperature, no hotter. The steam switch stays off.",
				act(plant.SwitchOn, "")),
			say("%s", l.tapStays()))...)
	}
	l.add(s)
	l.soaked, l.soakedAt = l.p.Clone(), len(l.steps)
	if l.prog.Hot {
		var list []doing
		for _, i := range l.brews() {
			v := &l.d.Plant.Vessels[i]
			list = append(list, does("", act(plant.SoakedHot, v.ID)))
			if v.Heater == machine.CanBeOff {
				list = append(list, does(fmt.Sprintf("Turn the heater of the %s off, and see that it says so.", v.Title),
					act(plant.HeaterOff, v.ID)))
			}
		}
		l.add(Step{
			ID: "heat-off", Title: "switch off", Head: "Switch off", Button: "It is off", Takes: 10 * time.Second,
			Cautions: []reason.Caution{gas, hotAcid}, Body: Act{},
		}.with(append(list, does("Switch the machine off before the next push.", act(plant.SwitchOff, "")))...))
	}
}

// heatersBack turns on again the heaters that are off.
func (l *laying) heatersBack(text string) (list []doing) {
	for i := range l.d.Plant.Vessels {
		if v := &l.d.Plant.Vessels[i]; v.Watts > 0 && l.p.V[i].Off {
			list = append(list, does(fmt.Sprintf(text, v.Title), act(plant.HeaterBack, v.ID)))
		}
	}
	return list
}

// readSpent asks for the solution's pH before it mixes with another's.
func (l *laying) readSpent(i int) {
	v := &l.d.Plant.Vessels[i]
	s := Step{
		ID: "spent-" + v.ID, Title: "spent solution, " + v.Title, Head: "The spent solution",
		Button: "That is what it reads", Takes: 30 * time.Second, Cautions: []reason.Caution{gloves},
		Body: Measure{Reads: Spent, Circuit: part(v.ID)},
	}
	switch l.prog.Empties {
	case descale.ByPump:
		if l.spentLater {
			l.spentLater = false
			s = s.with(say("Dip a strip into the cup that you set aside."))
			break
		}
		to := groupOf(v)
		if l.withTap(i) && l.tapOpen() {
			to = steamTap
		}
		l.ensureAtLeast(cupTakes)
		if l.prog.Hot {
			s.Cautions = []reason.Caution{gloves, hotAcid}
		}
		s = s.with(does(fmt.Sprintf("Stand a cup under the %s, and take your hand away. Switch on and %s for a moment, "+
			"then off: a small cup of what stood in there.", l.outlet(to), l.keep(to)), amount(plant.Sample, to, cupTakes)),
			doingIf(l.prog.Hot, say("Let it cool before you touch the cup.")))
	case descale.ByMachine:
		s = s.with(say("Take a small cup of the last that came out."))
	case descale.ByPouring:
		s = s.with(say("Take a small cup of what is in the bowl. The rest goes down the drain by local rules and the label."))
	default:
		where := "jug under its drain"
		if v.Heel == 0 {
			where = "jug under the group"
		}
		s = s.with(say("Take a small cup from the %s.", where))
	}
	l.add(s.with(say("Its pH tells how much scale was there. Look at its colour too: deep blue means stop and rinse.")))
}

// addSips lays so many sips that stand: the first by the group, the rest by the wand, whose
// tap stays open.
func (l *laying) addSips(n int) {
	i := l.brews()[0]
	v := &l.d.Plant.Vessels[i]
	sip := renews * v.Working
	late := sip + l.lateDraws()
	l.setToMix(float64(n)*late + cupTakes + l.lateDraws())
	group := groupOf(v)
	l.ensure(late)
	l.sips(group, 1, sip, append(l.plugged(), l.jugUnder(group), closeIfOpen(l))...)
	for left := n - 1; left > 0 && l.err == nil; {
		jug := l.d.Plant.Vessels[l.opening(steamTap).Into].Capacity
		most := int(math.Min(4, math.Floor(0.95*jug/late)))
		most = min(most, int(math.Floor((l.drawn()+l.roomForMore())/late)))
		if most < 1 {
			l.err = l.notFit("jug_l", float64(l.f.Jug.Litres()), "a larger jug and tank")
			return
		}
		count := min(left, most)
		if left < n-1 { // what may be left out, as a round
			l.round++
		}
		l.ensure(float64(count)*late - l.lateDraws())
		first := []doing{l.jugUnder(steamTap)}
		if !l.tapOpen() {
			first = []doing{l.wandOpen()}
		}
		l.sips(steamTap, count, sip, first...)
		left -= count
	}
	l.soaked, l.soakedAt = l.p.Clone(), len(l.steps)
	l.spentLater = true
}

func closeIfOpen(l *laying) doing {
	if l.tapOpen() {
		return l.closeTap()
	}
	return doing{}
}

// works is the part of its course that a stand is left for: 0.7 V ÷ (k A) (our own
// engineering choice).
const works = 0.7

// sips adds a set of sips.
func (l *laying) sips(to string, count int, litres float64, first ...doing) {
	i := l.opening(to).Of
	v := &l.d.Plant.Vessels[i]
	warm := l.p.V[i].Temp
	attack := plant.AttackAt(warm) * 1e6
	stand := reason.Worked{
		Name: "how long a sip stands", Value: works * v.Working / 1000 / (attack / 1e6 * v.Area), Unit: "s",
		Formula: "works × holds ÷ 1000 ÷ (attack ÷ 1000000 × area)", Source: reason.Ours,
		WouldChange: []string{"a warmer block", "more surface"},
		Inputs: []reason.Input{
			{Symbol: "works", Label: "part of its course that it is left for", Value: works, Source: reason.Ours},
			{Symbol: "holds", Label: "the path holds", Value: v.Working, Unit: "L", Source: reason.Ours},
			{Symbol: "attack", Label: fmt.Sprintf("how fast the acid works at %.0f °C", warm), Value: attack, Unit: "µm/s",
				Source: reason.Ours},
			{Symbol: "area", Label: "surface that scale lies on", Value: v.Area, Unit: "m²", Source: reason.Ours},
		},
	}.Exact()
	// no finer than the speed of the acid is known
	stands := time.Duration(math.Min(1200, math.Max(20, 10*math.Round(stand.Value/10)))) * time.Second
	on := time.Duration(l.f.FreeFlow.Takes(units.Litres(litres).Millilitres()) / l.shareOf() * float64(time.Second))
	title := fmt.Sprintf("%d sips of %s by the %s, %.0f s to stand", count, Litres(litres), l.outlet(to),
		stands.Seconds())
	head := "Sips by the "
	if count == 1 {
		head = "A sip by the "
		title = fmt.Sprintf("a sip of %s by the %s, %.0f s to stand", Litres(litres), l.outlet(to), stands.Seconds())
	}
	s := Step{
		ID: "sips-" + to, Title: title, Head: head + l.outlet(to), Button: "Begin: " + l.starts(to),
		Takes: handBegins, Cautions: []reason.Caution{steamy, gas, gloves},
		Body: Sips{To: to, Count: count, On: on, Stand: stands, Litres: units.Litres(litres), Length: stand},
	}
	if l.opening(to).Of != l.d.Plant.Find("steam") && l.steamAt() != nil {
		first = append(first, besideIt)
	}
	l.add(s.with(append(first, say("At ON: switch on and %s at once. At OFF: %s and switch the machine off. It stands "+
		"until the next ON.", l.start(to), l.stop(to)))...))
}

// runOwn leads around the machine's own program: acid once a tankful.
func (l *laying) runOwn() {
	mixed := math.Min(ownLeast, l.source().Working)
	v := math.Min(0.9*mixed, 0.9*l.ownCatch()) // it leaves some in the tank, and stops by itself
	l.setToMix(mixed)
	l.ensure(mixed)
	l.own("own", "its own descaling program", "Start its program", "It asks for clean water",
		"Start the descaling program by its manual: it pushes and soaks by itself. Say when it asks for clean water.", v,
		append(l.plugged(), l.wandOpen())...)
	l.soaked, l.soakedAt = l.p.Clone(), len(l.steps)
	for _, i := range l.brews() {
		l.readSpent(i)
	}
}

// ownCatch is what catches a program's water.
func (l *laying) ownCatch() float64 { return l.d.Plant.Vessels[l.opening(steamTap).Into].Capacity }

// ownLong is what a program is taken to need (common practice).
const (
	ownLong   = 20 * time.Minute
	ownRinses = 4 * time.Minute
)

func (l *laying) own(id, title, head, ends, what string, litres float64, first ...doing) {
	long, run := ownLong, amount(plant.OwnRun, "", litres)
	if l.phase != Acidic {
		long, run.What = ownRinses, plant.OwnRinse
	}
	l.add(Step{
		ID: id, Title: title, Head: head, Button: "The program has started", Takes: time.Minute,
		Cautions: []reason.Caution{gas, gloves, steamy},
		Body: Wait{
			For: long, Early: true, Ends: ends, Acid: l.phase == Acidic,
			Does: []plant.Action{run},
		},
	}.with(append(first, say("Put a basin under every other outlet."), say("%s", what))...))
}
