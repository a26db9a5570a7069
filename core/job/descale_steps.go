package job

import (
	"fmt"
	"math"
	"strings"
	"time"

	"freshanvil/core/descale"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
)

// addBegin adds the steps that get ready and take out what treats the water.
func (l *laying) addBegin() {
	do := []string{
		"Gloves on, glasses on. A wet cloth and a sponge within reach, the window open.",
		fmt.Sprintf("Put a %s of %s, pH strips or a meter, and a clean glass within reach.", l.catch,
			litres(l.at(jugID).Holds)),
	}
	if l.prog.Empties == descale.ByPump {
		do = append(do, "The machine is switched on only to pump, and off again at once. On most machines on means "+
			"heating: what comes out gets warm. The steam switch stays off.")
	}
	if l.in.Dirty {
		do = append(do, "Acid is in from before. An outlet stays open.")
	}
	l.add(Step{
		ID: "prepare", Title: "get ready: gloves, jug, strips", Head: "Gloves on, jug ready", Button: "All ready",
		Takes: 2 * time.Minute, Do: do, Cautions: []reason.Caution{gloves, sponge}, Body: Act{},
	})
	if l.tank == "bucket" {
		l.add(Step{
			ID: "intake", Title: "intake into the bucket", Head: "Intake into the bucket",
			Button: "Hose is off and capped", Takes: 5 * time.Minute, Body: Act{},
			Do: []string{
				"Supply shut: the lever across the pipe. Mains hose off and capped.",
				"The pump's intake into a clean bucket. If it cannot be moved, stop here: a technician's work.",
			},
			Cautions: []reason.Caution{{
				Danger: "poison",
				Text:   "Never dose acid into a mains line. Local codes and licensed people go first.",
			}},
		})
	}
	l.takeFilterOut()
}

// takeFilterOut adds the step that takes what treats the water out before any acid.
func (l *laying) takeFilterOut() {
	s := l.in.Setting
	renews := l.in.Renew && !l.in.Dirty
	switch {
	case s.Resin > 0 && renews:
		out := saltBath(s)
		out.ID = "softener-out"
		l.renewing(out)
		l.renewing(strainer())
		bath := saltSoak()
		bath.ID, bath.After, bath.Lane = "salt-soak", []string{"softener-out"}, SoftenerLane
		l.late = append(l.late, bath)
	case s.Resin > 0 || s.Kind == machine.InTank:
		l.add(Step{
			ID: "filter-out", Title: "filter out", Head: "Filter out", Button: "It is out, and stands in water",
			Takes: time.Minute, Body: Act{},
			Do: []string{
				"Take the filter or the softener out of the tank: acid ruins it.",
				"Stand it in clean water, so that it does not dry.",
			},
			Cautions: []reason.Caution{{Danger: "break", Text: "Left in, it is spoilt and takes up the acid."}},
		})
		l.add(strainer())
	}
}

// readFeed adds the reading of the water that goes in: what the rinse is compared with.
func (l *laying) readFeed() {
	l.add(Step{
		ID: "feed", Title: "pH of the water that goes in", Head: "The water that goes in",
		Button: "That is what it reads", Takes: time.Minute, Body: Measure{Reads: Feed},
		Do: []string{
			"A strip, or a meter, in the clean water you will rinse with. The rinse is done when it reads the same again.",
		},
		Cautions: []reason.Caution{{
			Danger: "poison", Text: "Without a strip or a meter a rinse cannot be proven: get some first.",
		}},
	})
}

// addSoaks adds what brings the solution in, lets it stand, and pushes it on, round by round.
func (l *laying) addSoaks() {
	card := l.in.Card
	least := 0.0
	if l.prog.Empties == descale.ByMachine {
		least = ownLeast
	}
	through := map[machine.Part]float64{} // pushed through in each round
	all := 0.0
	for i, c := range l.d.Circuits {
		n := l.need(i)
		through[c.Part] = n.Fill.Value
		all += n.Fill.Value * float64(l.fit.rounds)
	}
	card = card.InRounds(l.fit.rounds).DrawnFrom(l.at(sourceID).Keeps, least)
	l.d.Measure, l.d.Solution, l.d.Spoons = card.Measure, card.Solution, card.Spoons
	l.setBatches(math.Max(all, least-l.at(sourceID).Keeps))
	l.mix(card)
	for r := 1; r <= l.fit.rounds; r++ {
		l.round = r
		if l.prog.Empties == descale.ByMachine {
			l.runProgram(card, through)
		} else {
			for _, c := range l.d.Circuits {
				l.push(c, through[c.Part], r, card)
			}
			l.soak()
		}
		for _, c := range l.d.Circuits {
			l.readSpent(c)
		}
	}
}

// need is what the card says of the circuit at a place in the plan.
func (l *laying) need(i int) descale.Need {
	for _, n := range l.in.Card.Needs {
		if i -= n.Count; i < 0 {
			return n
		}
	}
	return l.in.Card.Needs[0]
}

// setBatches parts the solution into what the source holds, once and again: only the
// first has what must stay in the source.
func (l *laying) setBatches(all float64) {
	source := l.at(sourceID)
	usable := source.Holds - source.Keeps
	n := int(math.Ceil(all/usable - 1e-9))
	for i := range n {
		v := all / float64(n)
		if i == 0 {
			v += source.Keeps
		}
		l.batches = append(l.batches, v)
	}
}

// mix makes the next batch.
func (l *laying) mix(card descale.Card) {
	if len(l.batches) == 0 {
		return
	}
	v := l.batches[0]
	l.batches = l.batches[1:]
	water := reason.Worked{
		Name: "solution of this batch", Value: v, Unit: "L", Formula: "batch", Source: reason.Ours,
		WouldChange: []string{"a larger tank", "more or less scale"},
		Inputs: []reason.Input{{
			Symbol: "batch", Label: "its share of what goes through, and what stays in the tank", Value: v, Unit: "L",
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
	mixed := card.Product.MakesUp(measure, card.ALitre, water)
	first := l.at(sourceID).Acid < descale.Clean
	var moves []descale.Move
	where := fmt.Sprintf("Pour it into the %s, on top of what is left in there.", l.tank)
	if mixed.Value > v*1.01 {
		where = fmt.Sprintf("Pour %s of it into the %s, on top of what is left in there. The rest is not used.",
			litres(v), l.tank)
	}
	if first {
		where = fmt.Sprintf("Empty the %s, and pour the solution into it.", l.tank)
		if mixed.Value > v*1.01 {
			where = fmt.Sprintf("Empty the %s, and pour %s of it in. The rest is not used.", l.tank, litres(v))
		}
		if l.at(sourceID).Litres > 0 {
			moves = append(moves, descale.Move{Kind: descale.Empties, From: sourceID})
		}
	}
	what := map[descale.Form]string{
		descale.Powder: "powder", descale.Sachets: "sachets", descale.Liquid: "liquid",
	}[card.Product.Form]
	l.add(Step{
		ID: "mix", Title: fmt.Sprintf("mix %s of solution", litres(v)), Head: "Mix",
		Button: "It is dissolved, in the " + l.tank, Takes: 3 * time.Minute,
		Do: []string{
			fmt.Sprintf(
				"Lukewarm water to the amount, in a clean jug; then the %s into it. Stir until it is gone.",
				what,
			),
			where,
		},
		Cautions: []reason.Caution{gloves, sponge},
		Body: Act{
			Moves: append(moves, descale.Move{Kind: descale.Pours, To: sourceID, Litres: v, Acid: true}),
			Mix:   &Mix{measure, mixed},
		},
	})
}

// soak lets the solution stand.
func (l *laying) soak() {
	long := l.fit.soak
	s := Step{
		ID: "soak", Title: fmt.Sprintf("soak %.0f min, switched off", long.Minutes()), Head: "It soaks",
		Button: "Go on",
		Do: []string{
			"Machine off. Steam tap open, the " + l.catch + " under the wand, its tip above the liquid: gas must leave.",
			"Stay in the house.",
		},
		Cautions: []reason.Caution{gas, gloves},
	}
	body := Soak{For: long, Acid: true, Counts: l.prog.Counts()}
	if l.prog.Hot {
		s.Title = fmt.Sprintf("soak %.0f min, hot", long.Minutes())
		s.Do = []string{
			"Machine on, at brew temperature, no hotter: steam switch off.",
			"Steam tap open, the " + l.catch + " under the wand, its tip above the liquid: gas must leave.",
		}
		body.Moves = []descale.Move{{Kind: descale.Heats}}
	}
	s.Body = body
	l.add(s)
	if l.prog.Hot {
		l.add(Step{
			ID: "heat-off", Title: "switch off", Head: "Switch off", Button: "It is off", Takes: 10 * time.Second,
			Do: []string{"Machine off before the next push."}, Cautions: []reason.Caution{gas},
			Body: Act{Moves: []descale.Move{{Kind: descale.Cools}}},
		})
	}
}

// runProgram leads around the machine's own program, which pushes and soaks by itself:
// once a tankful.
func (l *laying) runProgram(card descale.Card, through map[machine.Part]float64) {
	var moves []descale.Move
	sim := l.pipes.Clone()
	do := func(m descale.Move) {
		if err := sim.Do(m); err != nil && l.err == nil {
			l.err = err
		}
		moves = append(moves, m)
	}
	rest := map[machine.Part]float64{}
	for _, c := range l.d.Circuits {
		left := through[c.Part]
		for left > 1e-9 && sim.At(sourceID).Gives() > 1e-9 && l.err == nil {
			if sim.At(jugID).Room() < 1e-3 {
				do(descale.Move{Kind: descale.Empties, From: jugID})
			}
			v := math.Min(left, math.Min(sim.At(sourceID).Gives(), sim.At(jugID).Room()))
			do(descale.Move{Kind: descale.Pushes, From: sourceID, Through: c.Part.String(), To: jugID, Litres: v})
			left -= v
		}
		rest[c.Part] = left
	}
	l.add(Step{
		ID: "own", Title: "its own descaling program", Head: "Start its program", Button: "The program has started",
		Do: []string{
			"Basin under every outlet: it lets out about a litre.",
			"Start the descaling program by its manual; it pushes and soaks by itself. Say when it asks for clean water.",
		},
		Cautions: []reason.Caution{gas, gloves, steamy},
		Body: Wait{
			For: l.fit.soak, Early: true, Ends: "It asks for clean water", Acid: true,
			Moves: append([]descale.Move{{Kind: descale.Vents}}, moves...),
		},
	})
	if len(l.batches) > 0 && l.err == nil { // more than the tank holds: once again
		l.mix(card)
		l.runProgram(card, rest)
	}
}

// readSpent asks for the solution's pH before it mixes with another's.
func (l *laying) readSpent(c Circuit) {
	from := fmt.Sprintf("A small cup from the %s, the pump on for a moment,", c.Outlet)
	if l.prog.Empties == descale.ByMachine {
		from = "A small cup of the last that came out,"
	}
	l.add(Step{
		ID: "spent-" + c.Part.String(), Title: "spent solution, " + c.Title, Head: "The spent solution",
		Button: "That is what it reads", Takes: time.Minute, Body: Measure{Reads: Spent, Circuit: c.Part},
		Do: []string{
			from + " before anything else goes through: its pH tells how much scale was there. Look at its colour too.",
		},
		Cautions: []reason.Caution{gloves},
	})
}

// prove asks for a strip beside the feed, and a taste.
func (l *laying) prove(c Circuit) {
	l.add(Step{
		ID: "prove-" + c.Part.String(), Title: "strip and taste, " + c.Title, Head: "Strip: " + c.Title,
		Button: "That is what it reads", Takes: 2 * time.Minute, Body: Measure{Reads: Proof, Circuit: c.Part},
		Do: []string{
			"A cup from the " + c.Outlet + ", the pump on for a moment. A strip in it, a strip in the clean water: the same?",
			"Only where both read the same: a sip, cooled, spat out. No taste of acid? Never after blue solution.",
		},
		Cautions: []reason.Caution{steamy},
	})
}

// push lets the pump draw through a circuit, jug by jug.
func (l *laying) push(c Circuit, amount float64, turn int, card descale.Card) {
	for left := amount; left > 1e-9 && l.err == nil; turn++ {
		if l.phase == Acidic && l.at(sourceID).Gives() < 1e-6 {
			if len(l.batches) == 0 {
				return // the last drop of the last batch
			}
			l.mix(card)
		}
		left -= l.pushOnce(c, left, turn)
	}
}

// pushOnce lets as much of it through as jug, source and the longest push allow, and
// gives how much that was.
func (l *laying) pushOnce(c Circuit, left float64, turn int) float64 {
	var moves []descale.Move
	var do []string
	source, jug := l.at(sourceID), l.at(jugID)
	room := jug.Room()
	if jug.Litres > 0 {
		moves = append(moves, descale.Move{Kind: descale.Empties, From: jugID})
		room = descale.Brim * jug.Holds
	}
	most := math.Min(math.Min(room, source.Holds-source.Keeps), longestPush.Seconds()*l.f.FreeFlow/1000)
	v := left / math.Ceil(left/most-1e-9) // as many goes as it takes, all alike
	what := "water"
	switch {
	case l.phase == Acidic:
		what, v = "solution", math.Min(v, source.Gives())
	case source.Gives() < v:
		moves = append(moves, descale.Move{Kind: descale.Tops, To: sourceID})
		do = append(do, fmt.Sprintf("Fill the %s with clean water.", l.tank))
	}
	outlet := c.Outlet
	if outlet == "steam wand" && turn%2 == 0 {
		outlet = "group"
	}
	open := "Open its tap."
	if strings.HasPrefix(outlet, "group") {
		open = "Close the steam tap. Take the handle out."
	}
	do = append(do,
		fmt.Sprintf("Put the empty %s under the %s. %s", l.catch, outlet, open),
		fmt.Sprintf("Tap Begin and start the pump together: %s. Stop it when the screen shows OFF, and switch off.",
			starts(l.f.Pump)))
	long := reason.Worked{
		Name: "how long the pump runs", Value: v * 1000 / l.f.FreeFlow, Unit: "s", Formula: "litres × 1000 ÷ flow",
		Source: reason.Ours, WouldChange: []string{"a group that flows faster or slower: the machine's page"},
		Inputs: []reason.Input{
			{Symbol: "litres", Label: what + " of this go", Value: v, Unit: "L", Source: reason.Ours},
			{Symbol: "flow", Label: "free flow", Value: l.f.FreeFlow, Unit: "mL/s", Source: reason.Ours},
		},
	}.Exact()
	moves = append(moves, descale.Move{Kind: descale.Vents}, descale.Move{
		Kind: descale.Pushes, From: sourceID, Through: c.Part.String(), To: jugID, Litres: v,
	})
	l.add(Step{
		ID: "push-" + c.Part.String(), Title: fmt.Sprintf("%s of %s through the %s", litres(v), what, outlet),
		Head: capital(what) + " through the " + outlet, Button: "Begin: " + starts(l.f.Pump),
		Takes: time.Duration(long.Value * float64(time.Second)), Do: do,
		Cautions: append([]reason.Caution{steamy}, gloves, sponge),
		Body:     Push{Moves: moves, Long: long},
	})
	return v
}

// rinse takes the acid out: the source first, then every circuit as much as the
// model asks.
func (l *laying) rinse() {
	if _, any := Renews(l.in.Setting); l.in.Setting.Resin == 0 && l.in.Renew && any && !l.in.Dirty {
		in := newFilter()
		in.ID = "filter-in-water"
		l.renewing(in)
		soak := filterSoak()
		soak.After, soak.Lane = []string{in.ID}, FilterLane
		l.late = append(l.late, soak)
	}
	l.add(Step{
		ID: "clean-source", Title: fmt.Sprintf("%s rinsed, clean water in", l.tank),
		Head: capital(l.tank) + " rinsed, clean water", Button: "Clean water is in", Takes: 2 * time.Minute,
		Do: []string{
			fmt.Sprintf("Empty the %s, wipe it and rinse it twice. Then fill it with clean water.", l.tank),
			fmt.Sprintf("Empty the %s. What was in it goes down the drain by local rules and the label.", l.catch),
		},
		Cautions: []reason.Caution{gloves, sponge},
		Body: Act{Moves: []descale.Move{
			{Kind: descale.Vents}, {Kind: descale.Empties, From: sourceID}, {Kind: descale.Empties, From: jugID},
			{Kind: descale.Tops, To: sourceID},
		}},
	})
	for _, c := range l.d.Circuits {
		l.push(c, c.Least.Value, 1, l.in.Card)
	}
}

// addMore adds what is rinsed on where a strip does not match.
func (l *laying) addMore(c *Circuit) {
	x := &laying{
		f: l.f, in: l.in, prog: l.prog, d: &Descaling{Circuits: []Circuit{*c}, Program: l.d.Program},
		pipes: l.pipes.Clone(), tank: l.tank, catch: l.catch, phase: Proving, names: map[string]int{},
	}
	// whatever is left in them: the source is filled up, the catch emptied first
	x.pipes.At(sourceID).Litres = 0
	for i := range x.pipes.Vessels {
		if v := &x.pipes.Vessels[i]; v.Kind == descale.Catch {
			v.Litres = math.Max(v.Litres, 0.001)
		}
	}
	x.push(*c, c.Holds*math.Ln10, 1, x.in.Card)
	if l.err == nil {
		l.err = x.err
	}
	c.More = x.steps
}

// finish puts everything back and says what is left to do.
func (l *laying) finish() {
	l.add(Step{
		ID: "gauze", Title: "look at the gauze and the flow", Head: "Look at the gauze",
		Button: "That is how it looks", Takes: 2 * time.Minute,
		Do: []string{
			"Unscrew the gauze of the wand's tip, once it has cooled: a free look inside. Rinse flakes out.",
		},
		Cautions: []reason.Caution{scald},
		Body: Choose{Ways: []Way{
			{Answer: Clean, Text: "Clean"},
			{Answer: Dusting, Text: "A dusting of white", Marks: GauzeDusted},
			{Answer: Crusted, Text: "Crusted", Marks: GauzeCrusted},
		}},
	})
	late := l.late
	l.late = nil
	for _, w := range late {
		l.renewing(w)
	}
	l.putTreatmentBack()
	if l.tank == "bucket" {
		l.add(Step{
			ID: "supply", Title: "hose back, supply open", Head: "Hose back, supply open",
			Button: "Open, and no leak", Takes: 4 * time.Minute, Body: Act{},
			Do: []string{
				"Intake and mains hose back, supply open. Look for leaks.", "A pump that screams: the supply is shut.",
			},
			Cautions: []reason.Caution{{
				Danger: "pressure", Text: "Mains water: local codes and licensed people go first.",
			}},
		})
	}
	fill := "Pump until water comes at the group, then close the steam tap. Leave it on."
	if l.tank == "tank" {
		fill = "Fill the tank with clean water. " + fill
	}
	l.add(Step{
		ID: "shut", Title: "full, outlets shut, on", Head: "Fill it, then on", Button: "On, and full",
		Takes: 2 * time.Minute, Do: []string{fill},
		Cautions: []reason.Caution{dryHeat, steamy},
		Body:     Act{Moves: []descale.Move{{Kind: descale.Shuts}, {Kind: descale.Heats}}},
	})
	light := "A light that asks for descaling stays on: only the machine's own program puts it out. That is normal."
	if l.prog.Empties == descale.ByMachine {
		light = "Its own program has put its light out."
	}
	l.add(Step{
		ID: "wipe", Title: "chrome and stone wiped, gloves off", Head: "Wipe chrome and stone", Button: "Wiped",
		Takes: 2 * time.Minute, Cautions: []reason.Caution{sponge}, Body: Act{},
		Do: []string{"Clean water and a cloth over tray, chrome and the stone around it: acid marks them.", light},
	})
	if l.in.Wash == nil || l.in.Dirty {
		l.add(Step{
			ID: "first-shot", Title: "pour the first drink away", Head: "Pour the first drink away",
			Button: "Poured away", Takes: time.Minute, Cautions: []reason.Caution{scald}, Body: Act{},
			Do: []string{"Once it is at its usual heat, pull one shot as usual, and pour it away."},
		})
	}
}

// putTreatmentBack adds the steps that fit what treats the water again, new or as it was.
func (l *laying) putTreatmentBack() {
	s := l.in.Setting
	_, any := Renews(s)
	switch {
	case l.in.Dirty:
	case s.Resin > 0 && l.in.Renew:
		r := saltRinse()
		r.ID = "salt-rinse"
		l.renewing(r)
		l.renewing(softenerBack())
	case l.in.Renew && any:
		for _, x := range filterFitted(l.f, s, l.in.Now.In(l.in.Zone)) {
			l.renewing(x)
		}
	case s.Resin > 0 || s.Kind == machine.InTank:
		l.add(Step{
			ID: "filter-back", Title: "filter back in", Head: "Filter back in", Button: "It is in",
			Takes: time.Minute, Body: Act{}, Do: []string{"Out of its water, wet through, and back into the tank."},
			Cautions: []reason.Caution{{Danger: "break", Text: "A dry filter lets air into the pump."}},
		})
	}
}
