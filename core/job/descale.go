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
	Inside  Contents
	Now     time.Time
	Zone    *time.Location
}

// What a bucket holds where the intake is moved to one, a basin for what the machine's
// own program lets out; what at most stays in a source (our own engineering choices).
const (
	bucket    = 10.0
	basinful  = 5.0
	mostKept  = 0.3
	keptShare = 0.1
	ownLeast  = 1.0 // L, for a program of the machine's own (common practice)
	// longestPush is how long the pump runs at a stretch while acid is in: on most of
	// these machines on means heating.
	longestPush = 60 * time.Second
)

// settles is how long the group comes to its usual heat before a wash (common
// practice: a few minutes).
const settles = 5 * time.Minute

// ids of vessels that are no part of the machine
const (
	sourceID = "source"
	jugID    = "jug"
)

// ids of activities
const (
	descaleID = "descale"
	renewID   = "renew"
)

// Descale composes the descale of a machine, led from the filter out to the first
// shot poured away, as much of it as fits into the time that acid may stand. It
// refuses, with a *reason.Refusal, a machine that is not for its keeper to descale, a
// product it does not bear, and acid beside detergent; a program that does not suit is
// a *units.OutOfRange.
func Descale(a machine.Answers, in Sitting) (Plan, error) {
	if err := in.Inside.Meets(true); err != nil {
		return Plan{}, err
	}
	f := a.Facts()
	if in.Zone == nil {
		in.Zone = time.UTC
	}
	if in.Dirty {
		prog, err := descale.ToRinse(f)
		if err != nil {
			return Plan{}, err
		}
		return laid(f, in, prog, fit{})
	}
	prog, err := descale.ProgramFor(f, in.Program)
	if err != nil {
		return Plan{}, err
	}
	if err := in.Card.Product.Bears(f, in.Card.Strength); err != nil {
		return Plan{}, err
	}
	return fitted(f, in, prog)
}

// fit is how many soaks a descale has, and how long each is.
type fit struct {
	rounds int
	soak   time.Duration
}

// ShortestSoak is the soak that is still worth beginning (our own engineering choice).
const ShortestSoak = 5 * time.Minute

// fitted lays a descale out with as many soaks as fit: first all of them, then shorter
// ones, then fewer.
func fitted(f machine.Facts, in Sitting, prog descale.Program) (Plan, error) {
	want := fit{rounds: prog.Soaks, soak: prog.Soak}
	for _, n := range in.Card.Needs {
		want.rounds = min(want.rounds, max(1, int(n.Fills.Value)))
	}
	for try := want; try.rounds > 0; try = (fit{try.rounds - 1, prog.Soak}) {
		for {
			p, err := laid(f, in, prog, try)
			if err != nil {
				return Plan{}, err
			}
			d := p.Descaling().Descale
			over := d.Planned - d.Contact
			if over <= 0 {
				d.addNote(try, want)
				return p, nil
			}
			cut := time.Duration(float64(over) / float64(try.rounds) / prog.Counts())
			shorter := (try.soak - cut).Truncate(time.Minute)
			if shorter < ShortestSoak || prog.Empties == descale.ByMachine || try.rounds > 1 && shorter < want.soak/2 {
				break
			}
			try.soak = min(shorter, try.soak-time.Minute)
		}
	}
	contact := descale.Contact(in.Card.Product, in.Card.Strength, carefully(f)).Minutes()
	return Plan{}, reason.Refuse(ContactTooLong, "It does not fit into the time that acid may stand").
		Of("program", string(prog.ID), fmt.Sprintf("one that has acid in for at most %.0f minutes", contact)).
		Why(reason.Ours, fmt.Sprintf("Acid may stand %.0f minutes in all, from the first drop until it is rinsed out.",
			contact)).
		Instead("Another product, a weaker solution, or a workshop.")
}

func carefully(f machine.Facts) descale.Material {
	m, _ := descale.Careful(f)
	return m
}

// addNote says where fewer or shorter soaks are planned than were wanted.
func (d *Descaling) addNote(got, want fit) {
	if got == want {
		return
	}
	title := fmt.Sprintf("Only %d of %d soaks fit: acid may stay in for %.0f minutes", got.rounds, want.rounds,
		d.Contact.Minutes())
	if got.rounds == want.rounds {
		title = fmt.Sprintf("Soaks of %.0f minutes: acid may stay in for %.0f in all", got.soak.Minutes(),
			d.Contact.Minutes())
	}
	d.Findings = append(d.Findings, reason.Finding{
		Verdict: reason.Look, Title: title,
		Because: []reason.Reason{{Text: "Longer is harder on the metal than on the scale.", Source: reason.Ours}},
		Next: []string{
			"See what the spent solution and the gauze say; descale again another day if scale is left.",
		},
	})
}

// laying is a descale while it is laid out: the steps so far, and where the liquid
// is after them.
type laying struct {
	f       machine.Facts
	in      Sitting
	prog    descale.Program
	fit     fit
	d       *Descaling
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

// laid puts the whole plan together, whether or not it fits.
func laid(f machine.Facts, in Sitting, prog descale.Program, fit fit) (Plan, error) {
	l := &laying{
		f: f, in: in, prog: prog, fit: fit, names: map[string]int{}, tank: "tank", catch: "jug", phase: Before,
		d: &Descaling{
			Program: prog.ID, Title: prog.Title, Product: in.Card.Product.Name, Acid: in.Card.Product.Main(),
			Strength: in.Card.Strength, FeedAlk: in.FeedAlk, Known: in.Known, Share: in.Share, Dirty: in.Dirty,
			Contact: descale.Contact(in.Card.Product, in.Card.Strength, carefully(f)), Rounds: fit.rounds,
		},
	}
	l.setVessels()
	l.lay()
	if l.err != nil {
		return Plan{}, l.err
	}
	setup := SetupOf(f)
	setup.Tray, setup.Tank = 0, 0 // the liquids are followed by themselves
	p := Plan{Setups: []Setup{setup}, Activities: l.activities()}
	p.put(l.steps)
	l.d.Planned = l.contact()
	if in.Wash != nil && !in.Dirty {
		p.join(*in.Wash)
	}
	p.addUp()
	return p, p.Check()
}

// activities are the descale, and the renewal of what treats the water beside it.
func (l *laying) activities() []Activity {
	d := Activity{
		ID: descaleID, Task: care.Descale, Title: care.Descale.Title(), Descale: l.d,
		Takes: []Resource{TheHands, ThePump, TheJug, TheSink, ThePower},
	}
	if l.in.Dirty {
		d.Task, d.Title = care.AcidRinse, care.AcidRinse.Title()
		return []Activity{d}
	}
	list := []Activity{d}
	if task, any := Renews(l.in.Setting); any && l.in.Renew {
		list = append(
			list,
			Activity{ID: renewID, Task: task, Title: task.Title(), Takes: []Resource{TheHands, TheSink}},
		)
	}
	return list
}

// setVessels sets out what holds liquid, as the descale begins.
func (l *laying) setVessels() {
	f := l.f
	source := descale.Vessel{ID: sourceID, Title: "tank", Kind: descale.Source, Holds: f.Tank.Litres()}
	if f.Plumbed || source.Holds == 0 {
		source.Title, source.Holds = "bucket", bucket
	}
	source.Keeps = math.Min(mostKept, keptShare*source.Holds)
	jug := descale.Vessel{ID: jugID, Title: "jug", Kind: descale.Catch, Holds: f.Jug.Litres()}
	if l.prog.Empties == descale.ByMachine {
		jug.Title, jug.Holds = "basin", math.Max(basinful, jug.Holds)
	}
	l.tank, l.catch = source.Title, jug.Title
	l.pipes = descale.Pipes{Vessels: []descale.Vessel{source}}
	for _, n := range l.in.Card.Needs {
		for i := range n.Count {
			l.setCircuit(n, i)
		}
	}
	l.pipes.Vessels = append(l.pipes.Vessels, jug)
	l.d.Pipes = l.pipes.Clone()
}

// setCircuit sets out one of the circuits that the card has a need for.
func (l *laying) setCircuit(n descale.Need, i int) {
	part := machine.Brew(i + 1)
	c := Circuit{
		Part: part, Title: l.f.PartTitle(part), Holds: n.Litre, Scale: n.Grams, Least: n.Rinse.Flush, Outlet: "group",
	}
	if l.f.Groups > 1 {
		c.Outlet = fmt.Sprintf("group %d", i+1)
	} else if l.f.Pump != machine.NoPump {
		c.Outlet = "steam wand"
	}
	l.d.Circuits = append(l.d.Circuits, c)
	v := descale.Vessel{ID: part.String(), Title: c.Title, Kind: descale.InCircuit, Holds: c.Holds, Litres: c.Holds}
	if l.in.Dirty {
		v.Acid = 1
	}
	l.pipes.Vessels = append(l.pipes.Vessels, v)
}

// add appends a step and lets it do what it does to the liquids.
func (l *laying) add(s Step) *Step {
	l.names[s.ID]++
	if n := l.names[s.ID]; n > 1 {
		s.ID = fmt.Sprintf("%s-%d", s.ID, n)
	}
	s.Phase, s.Round = l.phase, l.round
	if s.Activity == "" {
		s.Activity = descaleID
	}
	if s.Lane == "" {
		s.Lane = Hands
	}
	if len(s.After) == 0 && len(l.steps) > 0 {
		s.After = []string{l.steps[len(l.steps)-1].ID}
	}
	for _, m := range Moves(s) {
		if err := l.pipes.Do(m); err != nil && l.err == nil {
			l.err = fmt.Errorf("step %s: %w", s.ID, err)
		}
		if m.Kind == descale.Pours && m.Acid || m.Kind == descale.Tops {
			l.d.Tubs++
		}
		if m.Kind == descale.Empties && m.From != sourceID {
			l.d.Catches++
		}
	}
	l.steps = append(l.steps, s)
	return &l.steps[len(l.steps)-1]
}

// renewing appends a step of the renewal that is done beside.
func (l *laying) renewing(s Step) *Step {
	s.Activity = renewID
	return l.add(s)
}

func (l *laying) at(id string) *descale.Vessel { return l.pipes.At(id) }

func litres(v float64) string {
	if v < 0.995 {
		return fmt.Sprintf("%.0f mL", math.Max(10, math.Round(v*100)*10))
	}
	return fmt.Sprintf("%.1f L", v)
}

func capital(word string) string { return strings.ToUpper(word[:1]) + word[1:] }

// lay puts the steps in their order.
func (l *laying) lay() {
	l.addBegin()
	l.readFeed()
	if !l.in.Dirty {
		l.phase = Acidic
		l.addSoaks()
	}
	l.phase, l.round = Rinsing, 0
	l.rinse()
	l.phase = Proving
	for _, c := range l.d.Circuits {
		l.prove(c)
	}
	for i := range l.d.Circuits {
		l.addMore(&l.d.Circuits[i])
	}
	l.phase = After
	l.finish()
}

// contact is how long acid stands in the circuits as the hands are estimated, from
// the first drop until less than 1 % is left in each: soaks count by their heat.
func (l *laying) contact() time.Duration {
	pump := Pump{Duty: l.f.Duty, Flow: l.f.FreeFlow}
	pipes := l.d.Pipes.Clone()
	stood, in := time.Duration(0), false
	for _, s := range l.steps {
		before := in
		for _, m := range Moves(s) {
			_ = pipes.Do(m) // what it may not do was refused when it was laid
		}
		in = pipes.Holds(descale.Weak)
		if s.Lane != Hands {
			continue
		}
		long := s.Body.Spell(s.Takes, &pump)
		if soak, ok := BodyOf[Soak](s); ok && soak.Counts > 0 {
			long = time.Duration(float64(long) * soak.Counts)
		}
		if before || in {
			stood += long
		}
	}
	return stood
}

// join lets a wash follow, once the acid is out and the filter is back.
func (p *Plan) join(w Plan) {
	steps := w.Steps()
	settle := Step{
		ID: "settle", Lane: Hands, Part: w.Activities[0].Part, After: []string{p.Order[len(p.Order)-1]}, Phase: After,
		Activity: descaleID, Title: "to its usual heat, a few minutes", Head: "A few minutes", Button: "The clock runs",
		Do:       []string{"Until group and gauge stand as usual. Then the wash; the acid is out."},
		Cautions: []reason.Caution{scald},
		Body:     Wait{For: settles, Early: true, Ends: "It is at its usual heat"},
	}
	setup := w.Setups[0]
	p.Setups = append(p.Setups[:0:0], setup)
	for _, a := range w.Activities {
		a.Steps = nil
		p.Activities = append(p.Activities, a)
	}
	p.put([]Step{settle})
	for _, s := range steps {
		if len(s.After) == 0 {
			s.After = []string{"settle"}
		}
		p.put([]Step{s})
	}
}
