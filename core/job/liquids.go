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

// mostTries is how often a drain or an air lock is tried before a workshop (common
// practice: two tries at most).
const mostTries = 2

// cool waits until the machine may be opened, then lets somebody say that it is.
func (l *laying) cool() {
	c, err := descale.CoolingOf(l.f)
	if err != nil {
		l.err = err
		return
	}
	w := c.Opens(l.f.Layout == machine.DualHome)
	l.add(
		Step{
			ID:     "off",
			Kind:   Act,
			Title:  "switch off, steam tap open",
			Head:   "Switch off, steam tap open",
			Button: "Off, and it has hissed out",
			Takes:  time.Minute,
			Does:   []descale.Move{{Kind: descale.Cools}, {Kind: descale.Vents}},
			Do: []string{
				"Machine off. Steam tap open slowly, into a jug, until nothing hisses. Leave it open.",
			},
			Cautions: []reason.Caution{steamy},
		},
	)
	l.add(
		Step{
			ID:     "cool",
			Kind:   Wait,
			Title:  "cools until it may be opened",
			Head:   "It cools",
			Button: "The clock runs",
			Ends:   "It is cold already",
			Waits:  time.Duration(w.Value * float64(time.Hour)).Round(time.Minute),
			AtOnce: true,
			Early:  true,
			Length: &w,
			Do: []string{
				"Leave it. Cold already, because it stood overnight? Say so.",
			},
			Cautions: []reason.Caution{unplug},
		},
	)
	wait := Step{
		ID:       "cool-on",
		Kind:     Wait,
		Title:    "cools half an hour more",
		Head:     "It cools",
		Button:   "The clock runs",
		Ends:     "It is cold now",
		Waits:    30 * time.Minute,
		Early:    true,
		Do:       []string{"Half an hour more, then feel it again."},
		Cautions: []reason.Caution{unplug},
	}
	s := l.add(
		Step{
			ID:       "cold",
			Kind:     Choose,
			Title:    "cold, gauge at 0, unplugged?",
			Head:     "Cold and unplugged?",
			Button:   "That is how it is",
			Takes:    time.Minute,
			Do:       []string{"Plug out. Gauge at 0. A hand rests on the boiler without hurry: below 45 °C."},
			Cautions: []reason.Caution{unplug},
			Ways: []Way{
				{What: "cold", Text: "Cold, gauge at 0, unplugged"},
				{
					What:   "not_yet",
					Text:   "Not yet",
					Detour: []Step{wait},
					Most:   12,
					Stop: stop(
						"It does not cool",
						"It should have been cold hours ago.",
						"Is it still switched on, or plugged in? Leave it, and call a technician.",
					),
				},
			},
		},
	)
	if l.prog.Empties == descale.ByPouring {
		s.Head, s.Title, s.Ways[0].Text = "Cold?", "cold?", "Cold"
	}
	if l.in.Dirty {
		return
	}
	for _, c := range l.drained() {
		l.drain(c, "water")
	}
}

func stop(title, because string, next ...string) *reason.Finding {
	return &reason.Finding{
		Verdict: reason.Stop,
		Title:   title,
		Because: []reason.Reason{{Text: because, Source: reason.Trade}},
		Next:    next,
	}
}

// drained are the circuits that are let out, steam first.
func (l *laying) drained() []Circuit {
	var list []Circuit
	for i := len(l.acid.Circuits) - 1; i >= 0; i-- {
		if c := l.acid.Circuits[i]; c.Heel > 0 {
			list = append(list, c)
		}
	}
	return list
}

func (l *laying) pushed() []Circuit {
	var list []Circuit
	for _, c := range l.acid.Circuits {
		if c.Heel == 0 {
			list = append(list, c)
		}
	}
	return list
}

// letOut is what draining a circuit does: as often as it must, the catch is emptied
// in between.
func (l *laying) letOut(c Circuit, catch string) []descale.Move {
	var list []descale.Move
	to := *l.at(catch)
	if to.Litres > 0 {
		list = append(list, descale.Move{Kind: descale.Empties, From: catch})
		to.Litres = 0
	}
	for left := l.at(c.ID).Litres - c.Heel*c.Holds; left > 1e-9; {
		v := math.Min(left, to.Room())
		list = append(list, descale.Move{Kind: descale.Drains, From: c.ID, To: catch, Litres: v})
		left -= v
		if to.Litres += v; left > 1e-9 {
			list = append(list, descale.Move{Kind: descale.Empties, From: catch})
			to.Litres = 0
		}
	}
	return list
}

// drain lets a circuit out, cold: what came says whether it did.
func (l *laying) drain(c Circuit, what string) {
	does := l.letOut(c, basinID)
	amount, goes := 0.0, 0
	for _, m := range does {
		if m.Kind == descale.Drains {
			amount += m.Litres
			goes++
		}
	}
	catch := l.at(basinID)
	where := l.name(catch.Title) + " empty, a cloth on it."
	if goes > 1 {
		where += fmt.Sprintf(
			" It takes %s at a time: shut the drain, empty it, open again, %d times.",
			litres(0.8*catch.Holds),
			goes,
		)
	}
	again := Step{
		ID:      "reopen-" + c.ID,
		Kind:    Act,
		Title:   "reopen that drain",
		Head:    "Reopen that drain",
		Button:  "Open, and waited",
		Takes:   2 * time.Minute,
		Circuit: c.ID,
		Do: []string{
			"“Not drained” is no fault: air has not come in yet, or the drain is not open far enough.",
			"Steam tap open. That drain another half turn, not out. Wait two minutes.",
		},
		Cautions: []reason.Caution{unplug},
	}
	if l.prog.Empties == descale.ByPouring {
		l.add(
			Step{
				ID:      "pour-" + c.ID,
				Kind:    Act,
				Title:   fmt.Sprintf("pour it out, %s, %s", litres(amount), what),
				Head:    "Pour it out",
				Button:  "Empty",
				Takes:   time.Minute,
				Circuit: c.ID,
				Does:    does,
				Do: []string{
					fmt.Sprintf("Cap off, tip it: about %s into the basin. What clings stays.", litres(amount)),
				},
				Cautions: l.wet(unplug),
			},
		)
		return
	}
	l.add(
		Step{
			ID:      "drain-" + c.ID,
			Kind:    Choose,
			Title:   fmt.Sprintf("drain the %s, %s", c.Title, litres(amount)),
			Head:    "Drain the " + c.Title,
			Button:  "That is what happened",
			Takes:   4 * time.Minute,
			Circuit: c.ID,
			Does:    does,
			Do: []string{
				where,
				fmt.Sprintf("Open its drain slowly: about %s of %s.", litres(amount), what),
				"It has stopped? Shut the drain gently, no tighter than hand-tight.",
			},
			Cautions: l.wet(unplug),
			Ways: []Way{
				{What: "drained", Text: "It ran, and stopped by itself"},
				{What: "not_drained", Text: "Nothing comes, or “not drained”", Detour: []Step{again}, Most: mostTries,
					Stop: stop(
						"The drain stays shut: flakes or the valve",
						"Opened twice, and nothing came.",
						"Two tries at most. Do not force it; leave it cold and unplugged.",
						"A workshop opens it.",
					), Marks: "not drained"},
			},
		},
	)
}

// wet are the cautions of a step where acid may be in.
func (l *laying) wet(more ...reason.Caution) []reason.Caution {
	if l.phase == Acidic || l.in.Dirty || l.phase == Rinsing {
		return append(more, gloves, sponge)
	}
	return more
}

// hot brings a machine that is emptied by its tap to pressure, and empties it.
func (l *laying) hot() {
	l.add(
		Step{
			ID:     "pressure",
			Kind:   Act,
			Title:  "on, and at pressure",
			Head:   "On, to pressure",
			Button: "The gauge is up",
			Takes:  time.Minute,
			Does:   []descale.Move{{Kind: descale.Tops, To: sourceID}},
			Do: []string{
				l.name(l.tank) + " full of clean water. Machine on, until the gauge shows its usual pressure.",
			},
			Cautions: []reason.Caution{scald},
		},
	)
	l.tap("water")
}

// tap empties the boilers by their own pressure, the heater off.
func (l *laying) tap(what string) {
	for _, c := range l.drained() {
		does := append([]descale.Move{{Kind: descale.Cools}}, l.letOut(c, jugID)...)
		amount := l.at(c.ID).Litres - c.Heel*c.Holds
		again := Step{
			ID:      "warm-" + c.ID,
			Kind:    Act,
			Title:   "pressure again",
			Head:    "Pressure again",
			Button:  "The gauge is up, machine is off",
			Takes:   5 * time.Minute,
			Circuit: c.ID,
			Do: []string{
				"Tap shut, steam tap a crack open into a jug. Machine on until the gauge is up again, off.",
			},
			Cautions: l.wet(steamy),
		}
		l.add(
			Step{
				ID:      "tap-" + c.ID,
				Kind:    Choose,
				Title:   fmt.Sprintf("empty the %s by its tap, %s", c.Title, litres(amount)),
				Head:    "Off. Tap open",
				Button:  "That is what happened",
				Takes:   3 * time.Minute,
				Circuit: c.ID,
				Does:    does,
				Do: []string{
					"Machine off first: never emptied under heat.",
					fmt.Sprintf(
						"Hot-water tap open slowly into the %s: its own pressure drives out about %s of %s, until only steam comes. "+
							"Empty the %s whenever it is four fifths full.",
						l.catch,
						litres(amount),
						what,
						l.catch,
					),
					"Then the steam tap open, until the gauge is at 0.",
				},
				Cautions: l.wet(steamy),
				Ways: []Way{
					{What: "drained", Text: "It ran until only steam came"},
					{
						What:   "not_drained",
						Text:   "Only a little came",
						Detour: []Step{again},
						Most:   mostTries,
						Stop: stop(
							"The tap gives nothing",
							"Twice at pressure, and nothing came.",
							"Two tries at most. Off, cold, unplugged; flakes may stop the tap.",
							"A workshop opens it.",
						),
						Marks: "not drained",
					},
				},
			},
		)
	}
}

// fill lets the pump, or a hand, fill the circuits that were let out.
func (l *laying) fill(card descale.Card, acid bool) {
	for _, c := range l.drained() {
		v := l.at(c.ID)
		need := v.Holds - v.Litres
		if need <= 0 {
			continue
		}
		for part := 1; need > 1e-9; part++ {
			var does []descale.Move
			switch s := l.at(sourceID); {
			case acid && s.Gives() < 1e-6:
				l.mix(card)
			case !acid && s.Gives() < need:
				does = append(does, descale.Move{Kind: descale.Tops, To: sourceID})
			}
			gives := l.at(sourceID).Gives()
			if len(does) > 0 {
				gives = l.at(sourceID).Holds - l.at(sourceID).Keeps
			}
			some := math.Min(need, gives)
			if some <= 1e-9 {
				l.err = fmt.Errorf("the %s gives nothing for the %s", l.tank, c.Title)
				return
			}
			l.fillStep(
				c,
				append(does, descale.Move{Kind: descale.Fills, From: sourceID, To: c.ID, Litres: some}),
				some,
				acid,
			)
			need -= some
		}
	}
}

func (l *laying) fillStep(c Circuit, does []descale.Move, some float64, acid bool) {
	what := "clean water"
	if acid {
		what = "solution"
	}
	do := []string{}
	if !acid && len(does) > 1 {
		do = append(do, l.name(l.tank)+" full of clean water.")
	}
	vent := Step{
		ID:      "unlock-" + c.ID,
		Kind:    Act,
		Title:   "let the air out",
		Head:    "Let the air out",
		Button:  "Tried again",
		Takes:   2 * time.Minute,
		Circuit: c.ID,
		Do: []string{
			"Machine off. Is the intake under water?",
			"Steam tap and group open, so that air can leave; pump on for ten seconds, off for ten, three times.",
		},
		Cautions: l.wet(dryHeat),
	}
	s := Step{
		ID:      "fill-" + c.ID,
		Title:   fmt.Sprintf("fill the %s, %s of %s", c.Title, litres(some), what),
		Head:    "Fill the " + c.Title,
		Kind:    Choose,
		Button:  "That is what happened",
		Takes:   2 * time.Minute,
		Circuit: c.ID,
		Does:    append(does, descale.Move{Kind: descale.Vents}),
		Ways: []Way{
			{What: "full", Text: "Full: the pump has stopped, or water comes"},
			{What: "air_lock", Text: "The pump runs, and no water comes", Detour: []Step{vent}, Most: mostTries,
				Stop: stop(
					"Air lock: the pump draws no water",
					"Vented twice, and it still draws air.",
					"Off at once: never heat an empty boiler, never run a pump dry.",
					"A technician bleeds it.",
				), Marks: "air lock"},
		},
	}
	switch {
	case l.prog.Empties == descale.ByPouring || l.f.Pump == machine.NoPump:
		s.Kind, s.Ways, s.Button = Act, nil, "It is full"
		s.Do = append(
			do,
			fmt.Sprintf("Through its cap: about %s of %s, cold. Cap back on, loose.", litres(some), what),
		)
	default:
		s.Do = append(
			do,
			fmt.Sprintf(
				"Drains shut, steam tap open into the %s. Plug in, machine on: the pump draws about %s of %s.",
				l.catch,
				litres(some),
				what,
			),
			"As soon as it stops, or water comes from the group: machine off, before it heats.",
		)
	}
	s.Cautions = l.wet(dryHeat)
	l.add(s)
}

// push lets the pump draw through a circuit, jug by jug.
func (l *laying) push(c Circuit, amount float64, turn int, card descale.Card) {
	for left := amount; left > 1e-9 && l.err == nil; turn++ {
		var does []descale.Move
		var do []string
		s := l.at(sourceID)
		gives := s.Gives()
		switch {
		case l.phase == Acidic && gives < 1e-6:
			if len(l.batches) == 0 {
				return // the last drop of the last batch
			}
			l.mix(card)
			gives = l.at(sourceID).Gives()
		}
		jug := l.at(jugID)
		room := jug.Room()
		if jug.Litres > 0 {
			does = append(does, descale.Move{Kind: descale.Empties, From: jugID})
			room = 0.8 * jug.Holds
		}
		most := math.Min(room, s.Holds-s.Keeps)
		v := left / math.Ceil(left/most-1e-9) // as many goes as it takes, all alike
		switch {
		case l.phase == Acidic:
			v = math.Min(v, gives)
		case gives < v:
			does, do = append(
				does,
				descale.Move{Kind: descale.Tops, To: sourceID},
			), append(
				do,
				l.name(l.tank)+" full of clean water.",
			)
		}
		outlet := c.Outlet
		if outlet == "steam wand" && turn%2 == 0 {
			outlet = "group"
		}
		what := "water"
		if l.phase == Acidic {
			what = "solution"
		}
		do = append(
			do,
			fmt.Sprintf(
				"%s empty, under the %s. %s",
				l.name(l.catch),
				outlet,
				map[bool]string{true: "Handle out.", false: "Its tap open."}[strings.HasPrefix(outlet, "group")],
			),
			fmt.Sprintf("Press, and in the same moment: %s. Off when it says so.", starts(l.f.Pump)),
		)
		on := time.Duration(v * 1000 / l.acid.Flow * float64(time.Second))
		flows := reason.Worked{
			Name:        "how long the pump runs",
			Value:       v * 1000 / l.acid.Flow,
			Unit:        "s",
			Formula:     "litres × 1000 ÷ flow",
			Source:      reason.Ours,
			WouldChange: []string{"a group that flows faster or slower: the machine's page"},
			Inputs: []reason.Input{
				{Symbol: "litres", Label: what + " of this go", Value: v, Unit: "L", Source: reason.Ours},
				{Symbol: "flow", Label: "free flow", Value: l.acid.Flow, Unit: "mL/s", Source: reason.Ours},
			},
		}.Exact()
		l.add(
			Step{
				ID:      "push-" + c.ID,
				Kind:    Push,
				Title:   fmt.Sprintf("%s of %s through the %s", litres(v), what, outlet),
				Head:    l.name(what) + " through the " + outlet,
				Button:  "Begin: " + starts(l.f.Pump),
				Circuit: c.ID,
				Takes:   on,
				Length:  &flows,
				Does: append(
					append(does, descale.Move{Kind: descale.Vents}),
					descale.Move{Kind: descale.Pushes, From: sourceID, Through: c.ID, To: jugID, Litres: v},
				),
				Do:       do,
				Cautions: l.wet(steamy),
			},
		)
		left -= v
	}
}

// empty lets what is in the circuits out, where it is let out; sample is what is
// looked at of it on the way.
func (l *laying) empty(sample func()) {
	switch l.prog.Empties {
	case descale.ByDrain, descale.ByPouring:
		if l.prog.Empties == descale.ByDrain && l.f.Pump != machine.NoPump {
			l.add(
				Step{
					ID:       "plug",
					Kind:     Act,
					Title:    "unplug, gauge at 0",
					Head:     "Unplug",
					Button:   "Unplugged, gauge at 0",
					Takes:    20 * time.Second,
					Does:     []descale.Move{{Kind: descale.Cools}},
					Do:       []string{"Plug out before a drain is opened. Gauge at 0, steam tap open."},
					Cautions: []reason.Caution{unplug},
				},
			)
		}
		sample()
		for _, c := range l.drained() {
			l.drain(c, map[bool]string{true: "spent solution", false: "rinse water"}[l.phase == Acidic])
		}
	case descale.ByOwnTap:
		l.heat()
		l.tap(map[bool]string{true: "spent solution", false: "rinse water"}[l.phase == Acidic])
		sample()
	}
}

// heat brings a full boiler to pressure, an outlet open while acid is in.
func (l *laying) heat() {
	for _, c := range l.drained() {
		watts := l.f.SteamHeater
		if watts == 0 {
			watts = l.f.Heater
		}
		w := descale.HeatUp(c.Holds, watts, 105)
		l.add(
			Step{
				ID:      "heat-" + c.ID,
				Kind:    Wait,
				Title:   "heats, steam tap a crack open",
				Head:    "It heats",
				Button:  "It is on",
				Ends:    "The gauge has lifted",
				Waits:   time.Duration(w.Value * float64(time.Minute)).Round(time.Second),
				Early:   true,
				Length:  &w,
				Circuit: c.ID,
				Does:    []descale.Move{{Kind: descale.Vents}, {Kind: descale.Heats}},
				Do: []string{
					"It is full? Only then: plug in, machine on.",
					"Steam tap a crack open into the " + l.catch + " all the while: gas must leave. Say when the gauge has lifted.",
				},
				Cautions: []reason.Caution{gas, dryHeat, steamy},
			},
		)
	}
}

// rinse takes the acid out: the source first, then every circuit as often as the
// model asks.
func (l *laying) rinse() {
	if l.in.Setting.Resin == 0 && l.in.Renew && l.renews() && !l.in.Dirty {
		in := l.add(newFilter())
		in.ID = "filter-in-water"
		l.beside(filterSoak(), in.ID)
	}
	l.add(
		Step{
			ID:     "clean-source",
			Kind:   Act,
			Title:  fmt.Sprintf("%s rinsed, clean water in", l.tank),
			Head:   l.name(l.tank) + " rinsed, clean water",
			Button: "Clean water is in",
			Takes:  2 * time.Minute,
			Does: []descale.Move{
				{Kind: descale.Vents},
				{Kind: descale.Empties, From: sourceID},
				{Kind: descale.Empties, From: jugID},
				{Kind: descale.Tops, To: sourceID},
			},
			Do: []string{
				l.name(l.tank) + " empty, wiped, rinsed twice. Then full of clean water.",
				l.name(l.catch) + " empty. What was in it goes down the drain by local rules and the label.",
			},
			Cautions: []reason.Caution{gloves, sponge},
		},
	)
	refills := 0
	for _, c := range l.drained() {
		refills = max(refills, int(c.Least.Value))
	}
	unseen := func() {}
	if l.in.Dirty {
		l.fill(l.in.Card, false) // where it was left empty
		if refills > 0 {
			l.empty(unseen)
		}
	}
	for n := range refills {
		l.fill(l.in.Card, false)
		if n+1 < refills {
			l.empty(unseen)
		}
	}
	for _, c := range l.pushed() {
		l.push(c, c.Least.Value, 1, l.in.Card)
	}
}

// more is what is rinsed on where a strip does not match.
func (l *laying) more(c *Circuit) {
	x := &laying{
		f:     l.f,
		in:    l.in,
		prog:  l.prog,
		acid:  &Acid{Circuits: []Circuit{*c}, Flow: l.acid.Flow, Program: l.acid.Program},
		pipes: l.pipes.Clone(),
		tank:  l.tank,
		catch: l.catch,
		phase: Proving,
		names: map[string]int{},
	}
	// whatever is left in them: the source is filled up, the catch emptied first
	x.pipes.At(sourceID).Litres = 0
	for i := range x.pipes.Vessels {
		if v := &x.pipes.Vessels[i]; v.Kind == descale.Catch {
			v.Litres = math.Max(v.Litres, 0.001)
		}
	}
	if c.Heel > 0 {
		x.empty(func() {})
		x.fill(x.in.Card, false)
	} else {
		x.push(*c, c.Holds*math.Ln10, 1, x.in.Card)
	}
	if l.err == nil {
		l.err = x.err
	}
	c.More = x.steps
}
