package job

import (
	"fmt"
	"math"
	"strings"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/descale"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/treat"
)

// Sitting is what a descale is planned from, beside the machine.
type Sitting struct {
	Program descale.ProgramID // none is the usual one
	Card    descale.Card
	Setting treat.Setting // what treats the water
	Renew   bool          // with a new filter, or the softener in salt
	FeedAlk float64       // mg/L as CaCO3
	Share   float64       // of the scale that stays, so far
	Known   bool          // a descale is on record
	Dirty   bool          // acid is in already: it is only rinsed out
	Wash    *Plan         // joined after it
	Inside  Inside
	Now     time.Time
	Zone    *time.Location
}

// What a bucket holds where the intake is moved to one, a jug to mix in, a basin for
// what is drained; what at most stays in a source (our own engineering choices).
const (
	bucket    = 10.0
	mixingJug = 2.0
	basinful  = 5.0
	mostKept  = 0.3
	keptShare = 0.1
	ownLeast  = 1.0 // L, for a program of the machine's own (common practice)
)

// settles is how long the group comes to its usual heat before a wash (common
// practice: a few minutes).
const settles = 5 * time.Minute

// shortest is the soak that is still worth beginning (our own engineering choice).
const shortest = 2 * time.Minute

// mostTries is how often a drain or an air lock is tried before a workshop (common
// practice: two tries at most).
const mostTries = 2

var (
	gloves  = reason.Caution{Danger: "poison", Text: "Gloves and eye protection. Acid into water, never the other way; never beside bleach or detergent. Away from children. The label goes first."}
	gas     = reason.Caution{Danger: "gas", Text: "Scale frees gas: an outlet stays open, never all shut. Heater off while acid stands. Air the room."}
	sponge  = reason.Caution{Danger: "break", Text: "Sponge every drop off chrome and stone at once. Blue or green is copper: stop, rinse."}
	unplug  = reason.Caution{Danger: "shock", Text: "Unplug before anything is opened. Gauge at 0, steam tap open, below 45 °C. The maker's manual goes first."}
	dryHeat = reason.Caution{Danger: "break", Text: "Never heat an empty boiler: off again as soon as it is full."}
	steamy  = reason.Caution{Danger: "scald", Text: "Hot water and steam come out under pressure: hands clear, tap open slowly."}
)

// laying is a descale while it is laid out: the steps so far, and where the liquid
// is after them.
type laying struct {
	f       machine.Facts
	in      Sitting
	prog    descale.Program
	acid    *Acid
	pipes   descale.Pipes
	tank    string // how the source is called
	catch   string // how what catches the outlets is called
	phase   Phase
	round   int
	steps   []Step
	batches []float64
	names   map[string]int
	late    []Step // soaks beside, shown where they are needed
	err     error
}

const (
	sourceID = "source"
	jugID    = "jug"
	basinID  = "basin"
)

// Descale composes the descale of a machine, led from the filter out to the first
// shot poured away. It refuses, with *Refused, a machine that is not for its keeper
// to descale, and acid beside detergent; a program that does not suit is a
// *units.OutOfRange.
func Descale(a machine.Answers, in Sitting) (Plan, error) {
	if err := in.Inside.Meets(true); err != nil {
		return Plan{}, err
	}
	f := a.Facts()
	prog, err := descale.ProgramFor(f, in.Program)
	if err != nil {
		return Plan{}, err
	}
	if in.Zone == nil {
		in.Zone = time.UTC
	}
	flow := f.FreeFlow
	if flow == 0 {
		flow = 8 // nothing is pushed by a pump; the figure is not used
	}
	l := &laying{f: f, in: in, prog: prog, names: map[string]int{}, tank: "tank", catch: "jug", phase: Before}
	l.acid = &Acid{Program: prog.ID, Title: prog.Title, Product: in.Card.Product.Name, Kind: in.Card.Product.Main(), Strength: in.Card.Strength, FeedAlk: in.FeedAlk, Known: in.Known, Share: in.Share, Flow: flow, Dirty: in.Dirty,
		Contact: descale.Contact(in.Card.Product, descale.Material(f.Material))}
	l.vessels()
	l.lay()
	if l.err != nil {
		return Plan{}, l.err
	}
	p := Plan{Version: 3, Begin: starts(f.Pump), Vents: f.Vents, Flow: flow, Duty: f.Duty, Steps: l.steps, Acid: l.acid, Parts: []Part{{Group: 1, Task: care.Descale, Title: care.Descale.Title()}}}
	if in.Dirty {
		p.Parts[0].Task, p.Parts[0].Title = care.AcidRinse, care.AcidRinse.Title()
	}
	l.errands(&p)
	if in.Wash != nil && !in.Dirty {
		p.join(*in.Wash)
	}
	p.sums()
	return p, p.Check()
}

// vessels sets out what holds liquid, as the descale begins.
func (l *laying) vessels() {
	f := l.f
	source := descale.Vessel{ID: sourceID, Title: "tank", Kind: descale.Source, Holds: f.Tank.Litres()}
	switch {
	case l.prog.Empties == descale.ByPouring:
		source.Title, source.Holds = "mixing jug", mixingJug
	case f.Plumbed || source.Holds == 0:
		source.Title, source.Holds = "bucket", bucket
	}
	if l.prog.Empties != descale.ByPouring {
		source.Keeps = math.Min(mostKept, keptShare*source.Holds)
	}
	jug := descale.Vessel{ID: jugID, Title: "jug", Kind: descale.Catch, Holds: f.Jug.Litres()}
	if l.prog.Empties == descale.ByMachine {
		jug.Title, jug.Holds = "basin", math.Max(basinful, jug.Holds)
	}
	basin := descale.Vessel{ID: basinID, Title: "tray", Kind: descale.Catch, Holds: f.Tray.Litres()}
	if f.Tray == 0 || l.prog.Empties == descale.ByPouring {
		basin.Title, basin.Holds = "basin", basinful
	}
	l.tank, l.catch = source.Title, jug.Title
	l.pipes = descale.Pipes{Vessels: []descale.Vessel{source}, Hot: !l.in.Dirty && (l.prog.Empties == descale.ByDrain || l.prog.Empties == descale.ByOwnTap || l.prog.Empties == descale.ByPouring)}
	for _, n := range l.in.Card.Needs {
		for i := range n.Count {
			c := Circuit{ID: strings.ReplaceAll(n.Title, " ", "-"), Title: n.Title, Holds: n.Litre, Heel: n.Heel, Scale: n.Grams, Least: n.Rinse.Flush, Outlet: "group"}
			if n.Count > 1 {
				c.ID, c.Title, c.Outlet = fmt.Sprintf("%s-%d", c.ID, i+1), fmt.Sprintf("%s %d", c.Title, i+1), fmt.Sprintf("group %d", i+1)
			}
			switch {
			case n.Title == "steam boiler":
				c.Outlet = "hot-water tap"
			case len(l.in.Card.Needs) == 1 && f.Pump != machine.NoPump:
				c.Outlet = "steam wand"
			}
			if n.Heel > 0 {
				c.Least = n.Rinse.Refills
			}
			if x := n.Rinse.Advice; x != nil && i == 0 {
				l.acid.Findings = append(l.acid.Findings, *x)
			}
			l.acid.Circuits = append(l.acid.Circuits, c)
			v := descale.Vessel{ID: c.ID, Title: c.Title, Kind: descale.InCircuit, Holds: c.Holds, Litres: c.Holds, Heel: c.Heel}
			if l.in.Dirty {
				v.Acid = 1
			}
			l.pipes.Vessels = append(l.pipes.Vessels, v)
		}
	}
	l.pipes.Vessels = append(l.pipes.Vessels, jug)
	if l.prog.Empties == descale.ByDrain || l.prog.Empties == descale.ByPouring {
		l.pipes.Vessels = append(l.pipes.Vessels, basin)
	}
	l.acid.Pipes = l.pipes.Clone()
}

// add appends a step and lets it do what it does to the liquids.
func (l *laying) add(s Step) *Step {
	l.names[s.ID]++
	if n := l.names[s.ID]; n > 1 {
		s.ID = fmt.Sprintf("%s-%d", s.ID, n)
	}
	s.Group, s.Phase, s.Round = 1, l.phase, l.round
	if s.Lane == "" {
		s.Lane = Hands
	}
	if len(s.After) == 0 && len(l.steps) > 0 {
		s.After = []string{l.steps[len(l.steps)-1].ID}
	}
	for _, m := range s.Does {
		if err := l.pipes.Do(m); err != nil && l.err == nil {
			l.err = fmt.Errorf("step %s: %w", s.ID, err)
		}
		if m.Kind == descale.Pours && m.Acid || m.Kind == descale.Tops {
			l.acid.Tubs++
		}
		if m.Kind == descale.Empties && m.From != sourceID {
			l.acid.Catches++
		}
	}
	l.steps = append(l.steps, s)
	return &l.steps[len(l.steps)-1]
}

func (l *laying) at(id string) *descale.Vessel { return l.pipes.At(id) }

func litres(v float64) string {
	if v < 0.995 {
		return fmt.Sprintf("%.0f mL", math.Max(10, math.Round(v*100)*10))
	}
	return fmt.Sprintf("%.1f L", v)
}

// lay puts the steps in their order.
func (l *laying) lay() {
	l.begin()
	switch l.prog.Empties {
	case descale.ByDrain, descale.ByPouring:
		l.cool()
	case descale.ByOwnTap:
		if !l.in.Dirty {
			l.hot()
		}
	}
	if !l.in.Dirty {
		l.feed()
		l.phase = Acidic
		l.soaking()
	} else {
		l.feed()
	}
	l.phase, l.round = Rinsing, 0
	l.rinse()
	l.phase = Proving
	if l.prog.Empties == descale.ByOwnTap { // without pressure its tap gives no cup
		l.heat()
	}
	for _, c := range l.acid.Circuits {
		l.prove(c)
	}
	for i := range l.acid.Circuits {
		l.more(&l.acid.Circuits[i])
	}
	l.phase = After
	l.after()
}

func (l *laying) begin() {
	do := []string{"Gloves on, glasses on. A wet cloth and a sponge within reach, the window open.", fmt.Sprintf("A %s of %s under the outlet, pH strips or a meter, something to time by is here.", l.catch, litres(l.at(jugID).Holds))}
	if l.prog.Empties == descale.ByPump {
		do = append(do, "Machine on to pump, off while it soaks; the steam switch stays off.")
	}
	if l.prog.Empties == descale.ByDrain {
		do = append(do, "The screwdriver or key for the drains, by the maker's manual.")
	}
	if l.in.Dirty {
		do = append(do, "Acid is in from before. Do not heat it; an outlet stays open.")
	}
	l.add(Step{ID: "prepare", Kind: Act, Title: "get ready: gloves, jug, strips", Head: "Gloves on, jug ready", Button: "All ready", Takes: 2 * time.Minute, Do: do, Cautions: []reason.Caution{gloves, sponge}})
	if l.tank == "bucket" {
		l.add(Step{ID: "intake", Kind: Act, Title: "intake into the bucket", Head: "Intake into the bucket", Button: "Hose is off and capped", Takes: 5 * time.Minute,
			Do:       []string{"Supply shut: the lever across the pipe. Mains hose off and capped.", "The pump's intake into a clean bucket. If it cannot be moved, stop here: a technician's work."},
			Cautions: []reason.Caution{{Danger: "poison", Text: "Never dose acid into a mains line. Local codes and licensed people go first."}}})
	}
	l.filterOut()
}

// filterOut takes what treats the water out before any acid.
func (l *laying) filterOut() {
	s := l.in.Setting
	switch {
	case s.Resin > 0 && l.in.Renew && !l.in.Dirty:
		out := l.add(saltBath(s))
		out.ID = "softener-out"
		l.add(strainer())
		bath := saltSoak()
		bath.ID = "salt-soak"
		l.beside(bath, "softener-out")
	case s.Resin > 0 || s.Kind == machine.InTank:
		l.add(Step{ID: "filter-out", Kind: Act, Title: "filter out", Head: "Filter out", Button: "It is out, and stands in water", Takes: time.Minute,
			Do:       []string{"Take the filter or the softener out of the tank: acid ruins it.", "Stand it in clean water, so that it does not dry."},
			Cautions: []reason.Caution{{Danger: "break", Text: "Left in, it is spoilt and takes up the acid."}}})
		l.add(strainer())
	}
}

// lanes of what stands in a jug by itself
const (
	softenerLane Lane = "softener"
	filterLane   Lane = "filter"
)

// beside adds a soak that runs while the hands do other things.
func (l *laying) beside(s Step, after string) {
	s.After = []string{after}
	s.Lane = softenerLane
	if s.ID == "filter-soak" {
		s.Lane = filterLane
	}
	l.late = append(l.late, s)
}

// cool waits until the machine may be opened, then lets somebody say that it is.
func (l *laying) cool() {
	c, err := descale.CoolingOf(l.f)
	if err != nil {
		l.err = err
		return
	}
	w := c.Opens(l.f.Layout == machine.DualHome)
	l.add(Step{ID: "off", Kind: Act, Title: "switch off, steam tap open", Head: "Switch off, steam tap open", Button: "Off, and it has hissed out", Takes: time.Minute, Does: []descale.Move{{Kind: descale.Cools}, {Kind: descale.Vents}},
		Do: []string{"Machine off. Steam tap open slowly, into a jug, until nothing hisses. Leave it open."}, Cautions: []reason.Caution{steamy}})
	l.add(Step{ID: "cool", Kind: Wait, Title: "cools until it may be opened", Head: "It cools", Button: "The clock runs", Ends: "It is cold already", Waits: time.Duration(w.Value * float64(time.Hour)).Round(time.Minute), AtOnce: true, Early: true, Length: &w,
		Do: []string{"Leave it. Cold already, because it stood overnight? Say so."}, Cautions: []reason.Caution{unplug}})
	wait := Step{ID: "cool-on", Kind: Wait, Title: "cools half an hour more", Head: "It cools", Button: "The clock runs", Ends: "It is cold now", Waits: 30 * time.Minute, Early: true, Do: []string{"Half an hour more, then feel it again."}, Cautions: []reason.Caution{unplug}}
	s := l.add(Step{ID: "cold", Kind: Choose, Title: "cold, gauge at 0, unplugged?", Head: "Cold and unplugged?", Button: "That is how it is", Takes: time.Minute,
		Do:       []string{"Plug out. Gauge at 0. A hand rests on the boiler without hurry: below 45 °C."},
		Cautions: []reason.Caution{unplug},
		Ways:     []Way{{What: "cold", Text: "Cold, gauge at 0, unplugged"}, {What: "not_yet", Text: "Not yet", Detour: []Step{wait}, Most: 12, Stop: stop("It does not cool", "It should have been cold hours ago.", "Is it still switched on, or plugged in? Leave it, and call a technician.")}}})
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
	return &reason.Finding{Verdict: reason.Stop, Title: title, Because: []reason.Reason{{Text: because, Source: reason.Trade}}, Next: next}
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
		where += fmt.Sprintf(" It takes %s at a time: shut the drain, empty it, open again, %d times.", litres(0.8*catch.Holds), goes)
	}
	again := Step{ID: "reopen-" + c.ID, Kind: Act, Title: "reopen that drain", Head: "Reopen that drain", Button: "Open, and waited", Takes: 2 * time.Minute, Circuit: c.ID,
		Do:       []string{"“Not drained” is no fault: air has not come in yet, or the drain is not open far enough.", "Steam tap open. That drain another half turn, not out. Wait two minutes."},
		Cautions: []reason.Caution{unplug}}
	if l.prog.Empties == descale.ByPouring {
		l.add(Step{ID: "pour-" + c.ID, Kind: Act, Title: fmt.Sprintf("pour it out, %s, %s", litres(amount), what), Head: "Pour it out", Button: "Empty", Takes: time.Minute, Circuit: c.ID, Does: does,
			Do: []string{fmt.Sprintf("Cap off, tip it: about %s into the basin. What clings stays.", litres(amount))}, Cautions: l.wet(unplug)})
		return
	}
	l.add(Step{ID: "drain-" + c.ID, Kind: Choose, Title: fmt.Sprintf("drain the %s, %s", c.Title, litres(amount)), Head: "Drain the " + c.Title, Button: "That is what happened", Takes: 4 * time.Minute, Circuit: c.ID, Does: does,
		Do:       []string{where, fmt.Sprintf("Open its drain slowly: about %s of %s.", litres(amount), what), "It has stopped? Shut the drain gently, no tighter than hand-tight."},
		Cautions: l.wet(unplug),
		Ways: []Way{{What: "drained", Text: "It ran, and stopped by itself"}, {What: "not_drained", Text: "Nothing comes, or “not drained”", Detour: []Step{again}, Most: mostTries,
			Stop: stop("The drain stays shut: flakes or the valve", "Opened twice, and nothing came.", "Two tries at most. Do not force it; leave it cold and unplugged.", "A workshop opens it."), Marks: "not drained"}}})
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
	l.add(Step{ID: "pressure", Kind: Act, Title: "on, and at pressure", Head: "On, to pressure", Button: "The gauge is up", Takes: time.Minute, Does: []descale.Move{{Kind: descale.Tops, To: sourceID}},
		Do: []string{l.name(l.tank) + " full of clean water. Machine on, until the gauge shows its usual pressure."}, Cautions: []reason.Caution{scald}})
	l.tap("water")
}

// tap empties the boilers by their own pressure, the heater off.
func (l *laying) tap(what string) {
	for _, c := range l.drained() {
		does := append([]descale.Move{{Kind: descale.Cools}}, l.letOut(c, jugID)...)
		amount := l.at(c.ID).Litres - c.Heel*c.Holds
		again := Step{ID: "warm-" + c.ID, Kind: Act, Title: "pressure again", Head: "Pressure again", Button: "The gauge is up, machine is off", Takes: 5 * time.Minute, Circuit: c.ID,
			Do: []string{"Tap shut, steam tap a crack open into a jug. Machine on until the gauge is up again, off."}, Cautions: l.wet(steamy)}
		l.add(Step{ID: "tap-" + c.ID, Kind: Choose, Title: fmt.Sprintf("empty the %s by its tap, %s", c.Title, litres(amount)), Head: "Off. Tap open", Button: "That is what happened", Takes: 3 * time.Minute, Circuit: c.ID, Does: does,
			Do:       []string{"Machine off first: never emptied under heat.", fmt.Sprintf("Hot-water tap open slowly into the %s: its own pressure drives out about %s of %s, until only steam comes. Empty the %s whenever it is four fifths full.", l.catch, litres(amount), what, l.catch), "Then the steam tap open, until the gauge is at 0."},
			Cautions: l.wet(steamy),
			Ways:     []Way{{What: "drained", Text: "It ran until only steam came"}, {What: "not_drained", Text: "Only a little came", Detour: []Step{again}, Most: mostTries, Stop: stop("The tap gives nothing", "Twice at pressure, and nothing came.", "Two tries at most. Off, cold, unplugged; flakes may stop the tap.", "A workshop opens it."), Marks: "not drained"}}})
	}
}

func (l *laying) name(word string) string { return strings.ToUpper(word[:1]) + word[1:] }

// feed reads the water that goes in: what the rinse is compared with.
func (l *laying) feed() {
	l.add(Step{ID: "feed", Kind: Look, Reads: Feed, Title: "pH of the water that goes in", Head: "The water that goes in", Button: "That is what it reads", Takes: time.Minute,
		Do: []string{"A strip, or a meter, in the clean water you will rinse with. The rinse is done when it reads the same again."}, Cautions: []reason.Caution{{Danger: "poison", Text: "Without a strip or a meter a rinse cannot be proven: get some first."}}})
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
		if l.prog.Empties == descale.ByDrain || l.prog.Empties == descale.ByOwnTap || l.prog.Empties == descale.ByPouring {
			rounds = max(rounds, int(n.Fills.Value))
		}
	}
	if most := int((l.acid.Contact + l.prog.Soak - 1) / l.prog.Soak); rounds > most {
		l.acid.Findings = append(l.acid.Findings, reason.Finding{Verdict: reason.Look, Title: fmt.Sprintf("%d rounds of %d: acid may stand %.0f minutes in all", most, rounds, l.acid.Contact.Minutes()),
			Because: []reason.Reason{{Text: "More would be longer than a machine bears in one go.", Source: reason.Ours}}, Next: []string{"See what the spent solution says; descale again another day if scale is left."}})
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
		if soak < shortest {
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
	water := reason.Worked{Name: "solution of this batch", Value: v, Unit: "L", Formula: "batch", Source: reason.Ours, WouldChange: []string{"a larger tank", "more or less scale"},
		Inputs: []reason.Input{{Symbol: "batch", Label: "its share of what goes through, and what stays in the tank", Value: v, Unit: "L", Source: reason.Ours}}}.Exact()
	measure := reason.Worked{Name: card.Product.Name + " for this batch", Value: v * card.ALitre.Value, Unit: card.ALitre.Unit, Formula: "batch × litre", Source: reason.Ours, WouldChange: []string{"another strength", "another product"},
		Inputs: []reason.Input{water.AsInput("batch"), card.ALitre.AsInput("litre")}}.Exact()
	if card.Product.Form == descale.Sachets { // by the piece
		measure.Value, measure.Formula = math.Ceil(measure.Value-1e-9), "ceil(batch × litre − 0.000000001)"
		measure = measure.Exact()
	}
	var does []descale.Move
	if l.at(sourceID).Acid < descale.Clean && l.at(sourceID).Litres > 0 {
		does = append(does, descale.Move{Kind: descale.Empties, From: sourceID})
	}
	l.add(Step{ID: "mix", Kind: Act, Title: fmt.Sprintf("mix %s of solution", litres(v)), Head: "Mix", Button: "It is dissolved, in the " + l.tank, Takes: 3 * time.Minute, Mix: &Mix{measure, water},
		Does:     append(does, descale.Move{Kind: descale.Pours, To: sourceID, Litres: v, Acid: true}),
		Do:       []string{fmt.Sprintf("%s empty. Lukewarm water to the amount, then the %s into it; stir until it is gone.", l.name(l.tank), map[descale.Form]string{descale.Powder: "powder", descale.Sachets: "sachets", descale.Liquid: "liquid"}[card.Product.Form])},
		Cautions: []reason.Caution{gloves, sponge}})
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
			l.fillStep(c, append(does, descale.Move{Kind: descale.Fills, From: sourceID, To: c.ID, Litres: some}), some, acid)
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
	vent := Step{ID: "unlock-" + c.ID, Kind: Act, Title: "let the air out", Head: "Let the air out", Button: "Tried again", Takes: 2 * time.Minute, Circuit: c.ID,
		Do: []string{"Machine off. Is the intake under water?", "Steam tap and group open, so that air can leave; pump on for ten seconds, off for ten, three times."}, Cautions: l.wet(dryHeat)}
	s := Step{ID: "fill-" + c.ID, Title: fmt.Sprintf("fill the %s, %s of %s", c.Title, litres(some), what), Head: "Fill the " + c.Title, Kind: Choose, Button: "That is what happened", Takes: 2 * time.Minute, Circuit: c.ID, Does: append(does, descale.Move{Kind: descale.Vents}),
		Ways: []Way{{What: "full", Text: "Full: the pump has stopped, or water comes"}, {What: "air_lock", Text: "The pump runs, and no water comes", Detour: []Step{vent}, Most: mostTries,
			Stop: stop("Air lock: the pump draws no water", "Vented twice, and it still draws air.", "Off at once: never heat an empty boiler, never run a pump dry.", "A technician bleeds it."), Marks: "air lock"}}}
	switch {
	case l.prog.Empties == descale.ByPouring || l.f.Pump == machine.NoPump:
		s.Kind, s.Ways, s.Button = Act, nil, "It is full"
		s.Do = append(do, fmt.Sprintf("Through its cap: about %s of %s, cold. Cap back on, loose.", litres(some), what))
	default:
		s.Do = append(do, fmt.Sprintf("Drains shut, steam tap open into the %s. Plug in, machine on: the pump draws about %s of %s.", l.catch, litres(some), what), "As soon as it stops, or water comes from the group: machine off, before it heats.")
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
			does, do = append(does, descale.Move{Kind: descale.Tops, To: sourceID}), append(do, l.name(l.tank)+" full of clean water.")
		}
		outlet := c.Outlet
		if outlet == "steam wand" && turn%2 == 0 {
			outlet = "group"
		}
		what := "water"
		if l.phase == Acidic {
			what = "solution"
		}
		do = append(do, fmt.Sprintf("%s empty, under the %s. %s", l.name(l.catch), outlet, map[bool]string{true: "Handle out.", false: "Its tap open."}[strings.HasPrefix(outlet, "group")]), fmt.Sprintf("Press, and in the same moment: %s. Off when it says so.", starts(l.f.Pump)))
		on := time.Duration(v * 1000 / l.acid.Flow * float64(time.Second))
		flows := reason.Worked{Name: "how long the pump runs", Value: v * 1000 / l.acid.Flow, Unit: "s", Formula: "litres × 1000 ÷ flow", Source: reason.Ours, WouldChange: []string{"a group that flows faster or slower: the machine's page"},
			Inputs: []reason.Input{{Symbol: "litres", Label: what + " of this go", Value: v, Unit: "L", Source: reason.Ours}, {Symbol: "flow", Label: "free flow", Value: l.acid.Flow, Unit: "mL/s", Source: reason.Ours}}}.Exact()
		l.add(Step{ID: "push-" + c.ID, Kind: Push, Title: fmt.Sprintf("%s of %s through the %s", litres(v), what, outlet), Head: l.name(what) + " through the " + outlet, Button: "Begin: " + starts(l.f.Pump), Circuit: c.ID, Takes: on, Length: &flows,
			Does: append(append(does, descale.Move{Kind: descale.Vents}), descale.Move{Kind: descale.Pushes, From: sourceID, Through: c.ID, To: jugID, Litres: v}), Do: do, Cautions: l.wet(steamy)})
		left -= v
	}
}

// soak lets the solution stand.
func (l *laying) soak(long time.Duration) {
	s := Step{ID: "soak", Kind: Wait, Title: fmt.Sprintf("soak %.0f min, switched off", long.Minutes()), Head: "It soaks", Button: "Go on", Waits: long, AtOnce: true, Stands: true,
		Do: []string{"Machine off, an outlet open into the " + l.catch + ". Leave it; stay in the house."}, Cautions: []reason.Caution{gas, gloves}}
	if l.prog.Hot {
		s.Title = fmt.Sprintf("soak %.0f min, hot", long.Minutes())
		s.Do = []string{"Machine on, at brew temperature, no hotter: steam switch off. An outlet open into the " + l.catch + "."}
		s.Does = []descale.Move{{Kind: descale.Heats}}
	}
	l.add(s)
	if l.prog.Hot {
		l.add(Step{ID: "heat-off", Kind: Act, Title: "switch off", Head: "Switch off", Button: "It is off", Takes: 10 * time.Second, Does: []descale.Move{{Kind: descale.Cools}}, Do: []string{"Heater off before the next push."}, Cautions: []reason.Caution{gas}})
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
	l.add(Step{ID: "own", Kind: Wait, Title: "its own descaling program", Head: "Start its program", Button: "The program has started", Ends: "It asks for clean water", Waits: l.prog.Soak, Early: true, Stands: true, Does: does,
		Do: []string{"Basin under every outlet: it lets out about a litre.", "Start the descaling program by its manual; it pushes and soaks by itself. Say when it asks for clean water."}, Cautions: []reason.Caution{gas, gloves, steamy}})
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
	l.add(Step{ID: "spent-" + c.ID, Kind: Look, Reads: Spent, Circuit: c.ID, Title: "spent solution, " + c.Title, Head: "The spent solution", Button: "That is what it reads", Takes: time.Minute,
		Do: []string{from + " before anything else goes through: its pH tells how much scale was there. Look at its colour too."}, Cautions: []reason.Caution{gloves}})
}

// empty lets what is in the circuits out, where it is let out; sample is what is
// looked at of it on the way.
func (l *laying) empty(sample func()) {
	switch l.prog.Empties {
	case descale.ByDrain, descale.ByPouring:
		if l.prog.Empties == descale.ByDrain && l.f.Pump != machine.NoPump {
			l.add(Step{ID: "plug", Kind: Act, Title: "unplug, gauge at 0", Head: "Unplug", Button: "Unplugged, gauge at 0", Takes: 20 * time.Second, Does: []descale.Move{{Kind: descale.Cools}}, Do: []string{"Plug out before a drain is opened. Gauge at 0, steam tap open."}, Cautions: []reason.Caution{unplug}})
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
		l.add(Step{ID: "heat-" + c.ID, Kind: Wait, Title: "heats, steam tap a crack open", Head: "It heats", Button: "It is on", Ends: "The gauge has lifted", Waits: time.Duration(w.Value * float64(time.Minute)).Round(time.Second), Early: true, Length: &w, Circuit: c.ID, Does: []descale.Move{{Kind: descale.Vents}, {Kind: descale.Heats}},
			Do:       []string{"It is full? Only then: plug in, machine on.", "Steam tap a crack open into the " + l.catch + " all the while: gas must leave. Say when the gauge has lifted."},
			Cautions: []reason.Caution{gas, dryHeat, steamy}})
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
	l.add(Step{ID: "clean-source", Kind: Act, Title: fmt.Sprintf("%s rinsed, clean water in", l.tank), Head: l.name(l.tank) + " rinsed, clean water", Button: "Clean water is in", Takes: 2 * time.Minute,
		Does:     []descale.Move{{Kind: descale.Vents}, {Kind: descale.Empties, From: sourceID}, {Kind: descale.Empties, From: jugID}, {Kind: descale.Tops, To: sourceID}},
		Do:       []string{l.name(l.tank) + " empty, wiped, rinsed twice. Then full of clean water.", l.name(l.catch) + " empty. What was in it goes down the drain by local rules and the label."},
		Cautions: []reason.Caution{gloves, sponge}})
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

// prove asks for a strip beside the feed, and a taste.
func (l *laying) prove(c Circuit) {
	from := "from the " + c.Outlet
	switch {
	case c.Heel > 0 && l.prog.Empties == descale.ByDrain:
		from = "at its drain, opened for a moment, unplugged"
	case c.Heel > 0 && l.prog.Empties == descale.ByPouring:
		from = "poured out of it"
	}
	l.add(Step{ID: "prove-" + c.ID, Kind: Look, Reads: Proof, Circuit: c.ID, Title: "strip and taste, " + c.Title, Head: "Strip: " + c.Title, Button: "That is what it reads", Takes: 2 * time.Minute,
		Do:       []string{"A cup " + from + ". A strip in it, a strip in the clean water: the same?", "Then a sip, cooled, spat out: no taste of acid. (Of acid only; detergent is never tasted.)"},
		Cautions: []reason.Caution{steamy}})
}

// more is what is rinsed on where a strip does not match.
func (l *laying) more(c *Circuit) {
	x := &laying{f: l.f, in: l.in, prog: l.prog, acid: &Acid{Circuits: []Circuit{*c}, Flow: l.acid.Flow, Program: l.acid.Program}, pipes: l.pipes.Clone(), tank: l.tank, catch: l.catch, phase: Proving, names: map[string]int{}}
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

func (l *laying) renews() bool {
	s := l.in.Setting
	return s.Resin > 0 || s.Rated > 0 || s.Days > 0
}

// after puts everything back and says what is left to do.
func (l *laying) after() {
	l.add(Step{ID: "gauze", Kind: Choose, Title: "look at the gauze and the flow", Head: "Look at the gauze", Button: "That is how it looks", Takes: 2 * time.Minute,
		Do: []string{"Unscrew the gauze of the tap or the wand's tip, cooled: a free look inside. Rinse flakes out."}, Cautions: []reason.Caution{scald},
		Ways: []Way{{What: "clean", Text: "Clean"}, {What: "dusting", Text: "A dusting of white", Marks: "gauze dusted"}, {What: "crusted", Text: "Crusted", Marks: "gauze crusted"}}})
	l.add(Step{ID: "shut", Kind: Act, Title: "outlets shut, full, on", Head: "Outlets shut, on", Button: "On, and full", Takes: 2 * time.Minute, Does: []descale.Move{{Kind: descale.Shuts}, {Kind: descale.Heats}},
		Do: []string{"Every boiler full, drains and steam tap shut. Only then plug in, and on."}, Cautions: []reason.Caution{dryHeat}})
	s := l.in.Setting
	late := l.late
	l.late = nil
	for _, w := range late {
		l.add(w)
	}
	switch {
	case l.in.Dirty:
	case s.Resin > 0 && l.in.Renew:
		r := l.add(saltRinse())
		r.ID = "salt-rinse"
		l.add(softenerBack())
	case l.in.Renew && l.renews():
		for _, x := range filterFitted(l.f, s, l.in.Now.In(l.in.Zone)) {
			l.add(x)
		}
	case s.Resin > 0 || s.Kind == machine.InTank:
		l.add(Step{ID: "filter-back", Kind: Act, Title: "filter back in", Head: "Filter back in", Button: "It is in", Takes: time.Minute, Do: []string{"Out of its water, wet through, and back into the tank."}, Cautions: []reason.Caution{{Danger: "break", Text: "A dry filter lets air into the pump."}}})
	}
	if l.tank == "bucket" {
		l.add(Step{ID: "supply", Kind: Act, Title: "hose back, supply open", Head: "Hose back, supply open", Button: "Open, and no leak", Takes: 4 * time.Minute, Do: []string{"Intake and mains hose back, supply open. Look for leaks.", "A pump that screams: the supply is shut."}, Cautions: []reason.Caution{{Danger: "pressure", Text: "Mains water: local codes and licensed people go first."}}})
	}
	light := "A light that asks for descaling stays on: only the machine's own program puts it out. That is normal."
	if l.prog.Empties == descale.ByMachine {
		light = "Its own program has put its light out."
	}
	l.add(Step{ID: "wipe", Kind: Act, Title: "chrome and stone wiped, gloves off", Head: "Wipe chrome and stone", Button: "Wiped", Takes: 2 * time.Minute, Do: []string{"Clean water and a cloth over tray, chrome and the stone around it: acid marks them.", light}, Cautions: []reason.Caution{sponge}})
	if l.in.Wash == nil || l.in.Dirty {
		l.add(Step{ID: "first-shot", Kind: Act, Title: "pour the first drink away", Head: "Pour the first drink away", Button: "Poured away", Takes: time.Minute, Do: []string{"Pull one shot as usual, and pour it away."}, Cautions: []reason.Caution{scald}})
	}
}

// errands are what a descale does beside itself.
func (l *laying) errands(p *Plan) {
	if l.in.Dirty {
		return
	}
	if l.in.Wash != nil {
		p.Errands = append(p.Errands, Errand{Task: care.Descale, Title: care.Descale.Title(), Last: "wipe"})
	}
	switch {
	case !l.in.Renew || !l.renews():
	case l.in.Setting.Resin > 0:
		p.Errands = append(p.Errands, Errand{Task: care.Regenerate, Title: care.Regenerate.Title(), Last: "back"})
	default:
		p.Errands = append(p.Errands, Errand{Task: care.FilterChange, Title: care.FilterChange.Title(), Last: "fit"})
	}
}

// join lets a wash follow, once the acid is out and the filter is back.
func (p *Plan) join(w Plan) {
	last := p.Steps[len(p.Steps)-1].ID
	p.Parts, p.Vents, p.Tray, p.Tank = w.Parts, w.Vents, w.Tray, w.Tank
	p.Steps = append(p.Steps, Step{ID: "settle", Kind: Wait, Lane: Hands, Group: 1, After: []string{last}, Phase: After, Title: "to its usual heat, a few minutes", Head: "A few minutes", Button: "The clock runs", Ends: "It is at its usual heat", Waits: settles, Early: true,
		Do: []string{"Until group and gauge stand as usual. Then the wash; the acid is out."}, Cautions: []reason.Caution{scald}})
	last = "settle"
	for _, s := range w.Steps {
		if len(s.After) == 0 {
			s.After = []string{last}
		}
		p.Steps = append(p.Steps, s)
	}
}

// sums is what a descale takes in all.
func (p *Plan) sums() {
	var hands, pulsing, waits time.Duration
	clock := &sitting{plan: p}
	for _, s := range p.Steps {
		if s.Kind == Wait && (s.Lane == softenerLane || s.Lane == filterLane) {
			continue // it runs beside the soaks
		}
		long, warm := clock.spell(s)
		clock.warm = warm
		switch {
		case s.Kind == Push:
			pulsing, waits = pulsing+s.Takes, waits+long-s.Takes
		case s.Pulses != nil:
			pulsing, waits = pulsing+s.Pulses.Length(), waits+long-s.Pulses.Length()
		case s.Kind == Wait:
			waits += s.Waits
		default:
			hands += s.Takes
		}
	}
	p.work(hands, pulsing, waits)
	p.Minutes.Inputs[1].Label = "the pump runs, and pulses"
	p.Minutes.WouldChange = []string{"a strip that does not match: it is rinsed on", "a larger jug, a larger tank"}
}
