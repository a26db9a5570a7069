package job

import (
	"fmt"
	"math"
	"time"

	"freshanvil/core/descale"
	"freshanvil/core/reason"
)

// ShortestSoak is the soak that is still worth beginning (our own engineering choice).
const ShortestSoak = 2 * time.Minute

// feed reads the water that goes in: what the rinse is compared with.
func (l *laying) feed() {
	l.add(
		Step{
			ID:     "feed",
			Kind:   Look,
			Reads:  Feed,
			Title:  "pH of the water that goes in",
			Head:   "The water that goes in",
			Button: "That is what it reads",
			Takes:  time.Minute,
			Do: []string{
				"A strip, or a meter, in the clean water you will rinse with. The rinse is done when it reads the same again.",
			},
			Cautions: []reason.Caution{
				{Danger: "poison", Text: "Without a strip or a meter a rinse cannot be proven: get some first."},
			},
		},
	)
}

// soaking brings the solution in, lets it stand, and lets it out, round by round.
func (l *laying) soaking() {
	card := l.in.Card
	least := 0.0
	if l.prog.Empties == descale.ByMachine {
		least = ownLeast
	}
	card = card.DrawnFrom(l.at(sourceID).Keeps, least)
	l.acid.Measure, l.acid.Solution, l.acid.Spoons = card.Measure, card.Solution, card.Spoons
	rounds := l.prog.Soaks
	for _, n := range card.Needs {
		if l.prog.Empties == descale.ByDrain || l.prog.Empties == descale.ByOwnTap ||
			l.prog.Empties == descale.ByPouring {
			rounds = max(rounds, int(n.Fills.Value))
		}
	}
	if most := int((l.acid.Contact + l.prog.Soak - 1) / l.prog.Soak); rounds > most {
		l.acid.Findings = append(
			l.acid.Findings,
			reason.Finding{
				Verdict: reason.Look,
				Title: fmt.Sprintf(
					"%d rounds of %d: acid may stand %.0f minutes in all",
					most,
					rounds,
					l.acid.Contact.Minutes(),
				),
				Because: []reason.Reason{
					{Text: "More would be longer than a machine bears in one go.", Source: reason.Ours},
				},
				Next: []string{"See what the spent solution says; descale again another day if scale is left."},
			},
		)
		rounds = most
	}
	// what is pushed through in each round, what is filled
	through := map[string]float64{}
	all := 0.0
	for i, c := range l.acid.Circuits {
		n := l.need(i)
		if c.Heel > 0 {
			all += n.Fill.Value * float64(rounds)
			continue
		}
		through[c.ID] = n.Fill.Value * n.Fills.Value / float64(rounds)
		all += n.Fill.Value * n.Fills.Value
	}
	all = math.Max(all, least-l.at(sourceID).Keeps)
	l.batch(card, all)
	stood := time.Duration(0)
	for r := 1; r <= rounds; r++ {
		l.round = r
		soak := min(l.prog.Soak, l.acid.Contact-stood)
		if soak < ShortestSoak {
			break
		}
		if r == 1 {
			l.mix(card)
		}
		l.fill(card, true)
		if l.prog.Empties == descale.ByMachine {
			l.program(through)
		} else {
			for _, c := range l.pushed() {
				l.push(c, through[c.ID], r, card)
			}
			l.soak(soak)
		}
		stood += soak
		for _, c := range l.pushed() {
			l.spent(c)
		}
		l.empty(func() {
			for _, c := range l.drained() {
				l.spent(c)
			}
		})
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

// batch parts the solution into what the source holds, once and again.
func (l *laying) batch(card descale.Card, all float64) {
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
		Name:        "solution of this batch",
		Value:       v,
		Unit:        "L",
		Formula:     "batch",
		Source:      reason.Ours,
		WouldChange: []string{"a larger tank", "more or less scale"},
		Inputs: []reason.Input{
			{
				Symbol: "batch",
				Label:  "its share of what goes through, and what stays in the tank",
				Value:  v,
				Unit:   "L",
				Source: reason.Ours,
			},
		},
	}.Exact()
	measure := reason.Worked{
		Name:        card.Product.Name + " for this batch",
		Value:       v * card.ALitre.Value,
		Unit:        card.ALitre.Unit,
		Formula:     "batch × litre",
		Source:      reason.Ours,
		WouldChange: []string{"another strength", "another product"},
		Inputs:      []reason.Input{water.AsInput("batch"), card.ALitre.AsInput("litre")},
	}.Exact()
	if card.Product.Form == descale.Sachets { // by the piece
		measure.Value, measure.Formula = math.Ceil(measure.Value-1e-9), "ceil(batch × litre − 0.000000001)"
		measure = measure.Exact()
	}
	var does []descale.Move
	if l.at(sourceID).Acid < descale.Clean && l.at(sourceID).Litres > 0 {
		does = append(does, descale.Move{Kind: descale.Empties, From: sourceID})
	}
	l.add(
		Step{
			ID:     "mix",
			Kind:   Act,
			Title:  fmt.Sprintf("mix %s of solution", litres(v)),
			Head:   "Mix",
			Button: "It is dissolved, in the " + l.tank,
			Takes:  3 * time.Minute,
			Mix:    &Mix{measure, water},
			Does:   append(does, descale.Move{Kind: descale.Pours, To: sourceID, Litres: v, Acid: true}),
			Do: []string{
				fmt.Sprintf(
					"%s empty. Lukewarm water to the amount, then the %s into it; stir until it is gone.",
					l.name(l.tank),
					map[descale.Form]string{descale.Powder: "powder", descale.Sachets: "sachets",
						descale.Liquid: "liquid"}[card.Product.Form],
				),
			},
			Cautions: []reason.Caution{gloves, sponge},
		},
	)
}

// soak lets the solution stand.
func (l *laying) soak(long time.Duration) {
	s := Step{
		ID:     "soak",
		Kind:   Wait,
		Title:  fmt.Sprintf("soak %.0f min, switched off", long.Minutes()),
		Head:   "It soaks",
		Button: "Go on",
		Waits:  long,
		AtOnce: true,
		Stands: true,
		Do: []string{
			"Machine off, an outlet open into the " + l.catch + ". Leave it; stay in the house.",
		},
		Cautions: []reason.Caution{gas, gloves},
	}
	if l.prog.Hot {
		s.Title = fmt.Sprintf("soak %.0f min, hot", long.Minutes())
		s.Do = []string{
			"Machine on, at brew temperature, no hotter: steam switch off. An outlet open into the " + l.catch + ".",
		}
		s.Does = []descale.Move{{Kind: descale.Heats}}
	}
	l.add(s)
	if l.prog.Hot {
		l.add(
			Step{
				ID:       "heat-off",
				Kind:     Act,
				Title:    "switch off",
				Head:     "Switch off",
				Button:   "It is off",
				Takes:    10 * time.Second,
				Does:     []descale.Move{{Kind: descale.Cools}},
				Do:       []string{"Heater off before the next push."},
				Cautions: []reason.Caution{gas},
			},
		)
	}
}

// program leads around the machine's own program, which pushes and soaks by itself.
func (l *laying) program(through map[string]float64) {
	var does []descale.Move
	sim := l.pipes.Clone()
	do := func(m descale.Move) {
		if err := sim.Do(m); err != nil && l.err == nil {
			l.err = err
		}
		does = append(does, m)
	}
	rest := map[string]float64{}
	for _, c := range l.pushed() {
		left := through[c.ID]
		for left > 1e-9 && sim.At(sourceID).Gives() > 1e-9 && l.err == nil {
			if sim.At(jugID).Room() < 1e-3 {
				do(descale.Move{Kind: descale.Empties, From: jugID})
			}
			v := math.Min(left, math.Min(sim.At(sourceID).Gives(), sim.At(jugID).Room()))
			do(descale.Move{Kind: descale.Pushes, From: sourceID, Through: c.ID, To: jugID, Litres: v})
			left -= v
		}
		rest[c.ID] = left
	}
	defer func() {
		if len(l.batches) > 0 && l.err == nil { // more than the tank holds: once again
			l.mix(l.in.Card)
			l.program(rest)
		}
	}()
	l.add(
		Step{
			ID:     "own",
			Kind:   Wait,
			Title:  "its own descaling program",
			Head:   "Start its program",
			Button: "The program has started",
			Ends:   "It asks for clean water",
			Waits:  l.prog.Soak,
			Early:  true,
			Stands: true,
			Does:   does,
			Do: []string{
				"Basin under every outlet: it lets out about a litre.",
				"Start the descaling program by its manual; it pushes and soaks by itself. Say when it asks for clean water.",
			},
			Cautions: []reason.Caution{gas, gloves, steamy},
		},
	)
}

// spent asks for the solution's pH before it mixes with another's.
func (l *laying) spent(c Circuit) {
	from := fmt.Sprintf("A small cup from the %s, the pump on for a moment,", c.Outlet)
	switch {
	case c.Heel > 0 && l.prog.Empties == descale.ByOwnTap:
		from = "A small cup of what came from the tap,"
	case c.Heel > 0 && l.prog.Empties == descale.ByDrain:
		from = fmt.Sprintf("A small cup at the drain of the %s, opened for a moment,", c.Title)
	case c.Heel > 0:
		from = "A small cup, dipped out,"
	case l.prog.Empties == descale.ByMachine:
		from = "A small cup of the last that came out,"
	}
	l.add(
		Step{
			ID:      "spent-" + c.ID,
			Kind:    Look,
			Reads:   Spent,
			Circuit: c.ID,
			Title:   "spent solution, " + c.Title,
			Head:    "The spent solution",
			Button:  "That is what it reads",
			Takes:   time.Minute,
			Do: []string{
				from + " before anything else goes through: its pH tells how much scale was there. Look at its colour too.",
			},
			Cautions: []reason.Caution{gloves},
		},
	)
}

// prove asks for a strip beside the feed, and a taste.
func (l *laying) prove(c Circuit) {
	from := "from the " + c.Outlet
	switch {
	case c.Heel > 0 && l.prog.Empties == descale.ByDrain:
		from = "at its drain, opened for a moment, unplugged"
	case c.Heel > 0 && l.prog.Empties == descale.ByPouring:
		from = "poured out of it"
	}
	l.add(
		Step{
			ID:      "prove-" + c.ID,
			Kind:    Look,
			Reads:   Proof,
			Circuit: c.ID,
			Title:   "strip and taste, " + c.Title,
			Head:    "Strip: " + c.Title,
			Button:  "That is what it reads",
			Takes:   2 * time.Minute,
			Do: []string{
				"A cup " + from + ". A strip in it, a strip in the clean water: the same?",
				"Then a sip, cooled, spat out: no taste of acid. (Of acid only; detergent is never tasted.)",
			},
			Cautions: []reason.Caution{steamy},
		},
	)
}
