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

var (
	gloves = reason.Caution{
		Danger: "poison",
		Text: "Gloves and eye protection. Acid into water, never the other way; never beside bleach or detergent. " +
			"Away from children. The label goes first.",
	}
	gas = reason.Caution{
		Danger: "gas",
		Text:   "Scale frees gas: an outlet stays open, never all shut. Heater off while acid stands. Air the room.",
	}
	sponge = reason.Caution{
		Danger: "break",
		Text:   "Sponge every drop off chrome and stone at once. Blue or green is copper: stop, rinse.",
	}
	unplug = reason.Caution{
		Danger: "shock",
		Text:   "Unplug before anything is opened. Gauge at 0, steam tap open, below 45 °C. The maker's manual goes first.",
	}
	dryHeat = reason.Caution{Danger: "break", Text: "Never heat an empty boiler: off again as soon as it is full."}
	steamy  = reason.Caution{
		Danger: "scald",
		Text:   "Hot water and steam come out under pressure: hands clear, tap open slowly.",
	}
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
	l.acid = &Acid{
		Program:  prog.ID,
		Title:    prog.Title,
		Product:  in.Card.Product.Name,
		Kind:     in.Card.Product.Main(),
		Strength: in.Card.Strength,
		FeedAlk:  in.FeedAlk,
		Known:    in.Known,
		Share:    in.Share,
		Flow:     flow,
		Dirty:    in.Dirty,
		Contact:  descale.Contact(in.Card.Product, descale.Material(f.Material)),
	}
	l.vessels()
	l.lay()
	if l.err != nil {
		return Plan{}, l.err
	}
	p := Plan{
		Version: 3,
		Begin:   starts(f.Pump),
		Vents:   f.Vents,
		Flow:    flow,
		Duty:    f.Duty,
		Steps:   l.steps,
		Acid:    l.acid,
		Parts:   []Part{{Group: 1, Task: care.Descale, Title: care.Descale.Title()}},
	}
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
	l.pipes = descale.Pipes{
		Vessels: []descale.Vessel{source},
		Hot: !l.in.Dirty &&
			(l.prog.Empties == descale.ByDrain || l.prog.Empties == descale.ByOwnTap || l.prog.Empties == descale.ByPouring),
	}
	for _, n := range l.in.Card.Needs {
		for i := range n.Count {
			c := Circuit{
				ID:     strings.ReplaceAll(n.Title, " ", "-"),
				Title:  n.Title,
				Holds:  n.Litre,
				Heel:   n.Heel,
				Scale:  n.Grams,
				Least:  n.Rinse.Flush,
				Outlet: "group",
			}
			if n.Count > 1 {
				c.ID, c.Title, c.Outlet = fmt.Sprintf(
					"%s-%d",
					c.ID,
					i+1,
				), fmt.Sprintf(
					"%s %d",
					c.Title,
					i+1,
				), fmt.Sprintf(
					"group %d",
					i+1,
				)
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
			v := descale.Vessel{
				ID:     c.ID,
				Title:  c.Title,
				Kind:   descale.InCircuit,
				Holds:  c.Holds,
				Litres: c.Holds,
				Heel:   c.Heel,
			}
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
	do := []string{
		"Gloves on, glasses on. A wet cloth and a sponge within reach, the window open.",
		fmt.Sprintf(
			"A %s of %s under the outlet, pH strips or a meter, something to time by is here.",
			l.catch,
			litres(l.at(jugID).Holds),
		),
	}
	if l.prog.Empties == descale.ByPump {
		do = append(do, "Machine on to pump, off while it soaks; the steam switch stays off.")
	}
	if l.prog.Empties == descale.ByDrain {
		do = append(do, "The screwdriver or key for the drains, by the maker's manual.")
	}
	if l.in.Dirty {
		do = append(do, "Acid is in from before. Do not heat it; an outlet stays open.")
	}
	l.add(
		Step{
			ID:       "prepare",
			Kind:     Act,
			Title:    "get ready: gloves, jug, strips",
			Head:     "Gloves on, jug ready",
			Button:   "All ready",
			Takes:    2 * time.Minute,
			Do:       do,
			Cautions: []reason.Caution{gloves, sponge},
		},
	)
	if l.tank == "bucket" {
		l.add(
			Step{
				ID:     "intake",
				Kind:   Act,
				Title:  "intake into the bucket",
				Head:   "Intake into the bucket",
				Button: "Hose is off and capped",
				Takes:  5 * time.Minute,
				Do: []string{
					"Supply shut: the lever across the pipe. Mains hose off and capped.",
					"The pump's intake into a clean bucket. If it cannot be moved, stop here: a technician's work.",
				},
				Cautions: []reason.Caution{
					{
						Danger: "poison",
						Text:   "Never dose acid into a mains line. Local codes and licensed people go first.",
					},
				},
			},
		)
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
		l.add(
			Step{
				ID:     "filter-out",
				Kind:   Act,
				Title:  "filter out",
				Head:   "Filter out",
				Button: "It is out, and stands in water",
				Takes:  time.Minute,
				Do: []string{
					"Take the filter or the softener out of the tank: acid ruins it.",
					"Stand it in clean water, so that it does not dry.",
				},
				Cautions: []reason.Caution{{Danger: "break", Text: "Left in, it is spoilt and takes up the acid."}},
			},
		)
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

func (l *laying) name(word string) string { return strings.ToUpper(word[:1]) + word[1:] }

func (l *laying) renews() bool {
	_, any := Renews(l.in.Setting)
	return any
}

// after puts everything back and says what is left to do.
func (l *laying) after() {
	l.add(
		Step{
			ID:     "gauze",
			Kind:   Choose,
			Title:  "look at the gauze and the flow",
			Head:   "Look at the gauze",
			Button: "That is how it looks",
			Takes:  2 * time.Minute,
			Do: []string{
				"Unscrew the gauze of the tap or the wand's tip, cooled: a free look inside. Rinse flakes out.",
			},
			Cautions: []reason.Caution{scald},
			Ways: []Way{
				{What: "clean", Text: "Clean"},
				{What: "dusting", Text: "A dusting of white", Marks: "gauze dusted"},
				{What: "crusted", Text: "Crusted", Marks: "gauze crusted"},
			},
		},
	)
	l.add(
		Step{
			ID:     "shut",
			Kind:   Act,
			Title:  "outlets shut, full, on",
			Head:   "Outlets shut, on",
			Button: "On, and full",
			Takes:  2 * time.Minute,
			Does:   []descale.Move{{Kind: descale.Shuts}, {Kind: descale.Heats}},
			Do: []string{
				"Every boiler full, drains and steam tap shut. Only then plug in, and on.",
			},
			Cautions: []reason.Caution{dryHeat},
		},
	)
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
		l.add(
			Step{
				ID:       "filter-back",
				Kind:     Act,
				Title:    "filter back in",
				Head:     "Filter back in",
				Button:   "It is in",
				Takes:    time.Minute,
				Do:       []string{"Out of its water, wet through, and back into the tank."},
				Cautions: []reason.Caution{{Danger: "break", Text: "A dry filter lets air into the pump."}},
			},
		)
	}
	if l.tank == "bucket" {
		l.add(
			Step{
				ID:     "supply",
				Kind:   Act,
				Title:  "hose back, supply open",
				Head:   "Hose back, supply open",
				Button: "Open, and no leak",
				Takes:  4 * time.Minute,
				Do: []string{
					"Intake and mains hose back, supply open. Look for leaks.",
					"A pump that screams: the supply is shut.",
				},
				Cautions: []reason.Caution{
					{Danger: "pressure", Text: "Mains water: local codes and licensed people go first."},
				},
			},
		)
	}
	light := "A light that asks for descaling stays on: only the machine's own program puts it out. That is normal."
	if l.prog.Empties == descale.ByMachine {
		light = "Its own program has put its light out."
	}
	l.add(
		Step{
			ID:     "wipe",
			Kind:   Act,
			Title:  "chrome and stone wiped, gloves off",
			Head:   "Wipe chrome and stone",
			Button: "Wiped",
			Takes:  2 * time.Minute,
			Do: []string{
				"Clean water and a cloth over tray, chrome and the stone around it: acid marks them.",
				light,
			},
			Cautions: []reason.Caution{sponge},
		},
	)
	if l.in.Wash == nil || l.in.Dirty {
		l.add(
			Step{
				ID:       "first-shot",
				Kind:     Act,
				Title:    "pour the first drink away",
				Head:     "Pour the first drink away",
				Button:   "Poured away",
				Takes:    time.Minute,
				Do:       []string{"Pull one shot as usual, and pour it away."},
				Cautions: []reason.Caution{scald},
			},
		)
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
	p.Steps = append(
		p.Steps,
		Step{
			ID:     "settle",
			Kind:   Wait,
			Lane:   Hands,
			Group:  1,
			After:  []string{last},
			Phase:  After,
			Title:  "to its usual heat, a few minutes",
			Head:   "A few minutes",
			Button: "The clock runs",
			Ends:   "It is at its usual heat",
			Waits:  settles,
			Early:  true,
			Do: []string{
				"Until group and gauge stand as usual. Then the wash; the acid is out.",
			},
			Cautions: []reason.Caution{scald},
		},
	)
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
