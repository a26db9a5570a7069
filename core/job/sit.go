package job

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/speak"
	"freshanvil/core/task"
	"freshanvil/core/treat"
	"freshanvil/core/units"
)

// Condition is what a machine must be like while a stretch of work is done.
type Condition int

// A stretch may not care, want the machine on and at its heat, or off, cold and unplugged.
const (
	Whatever Condition = iota
	HotMachine
	ColdMachine
)

// Stretch is what the hands do in one go, after what stood by itself before it.
type Stretch struct {
	Wants  Condition
	Hands  time.Duration
	Stands time.Duration // that it waits for after the stretch before it
	Handle bool          // a handle is pressed home in it, which must not be in the bath
	Steams bool          // the steam tap is opened in it, on whose wand the tip must be
	steps  []Step
	stand  *Step
}

// Piece is the care of one task, cut where the hands are free meanwhile.
type Piece struct {
	Task       task.ID
	Stretches  []Stretch
	activities []Activity
	what       tended
	plan       *Plan // of a wash or a renewal, which is laid out by itself
}

// Want is a task that is wanted, of these parts.
type Want struct {
	Task  task.ID
	Parts []machine.Part
}

// Gathering is what pieces are made from.
type Gathering struct {
	Answers machine.Answers
	Powder  backflush.Detergent
	Method  backflush.Method // of a wash
	Targets []Target         // of a wash
	Setting treat.Setting    // of a renewal
	Now     time.Time
	Cold    bool // the machine has been off overnight; it counts where something is done cold
}

// Gathered are pieces that are put into an order, and what a machine takes to cool and to heat.
type Gathered struct {
	Pieces       []Piece
	Cools, Heats time.Duration
	Switching    time.Duration // of the hands, to switch off or on
	Cold         bool          // it is off and cold from the start
	t            *tending
	plan         Plan
	cold         tended // what all that is done cold wants together
	washes       bool
}

// Turn is one thing in an order: off, on, or a stretch of a piece.
type Turn struct {
	Kind           TurnKind
	Piece, Stretch int
}

// TurnKind is what a turn is.
type TurnKind int

// The kinds.
const (
	WorkTurn TurnKind = iota
	OffTurn
	OnTurn
)

// Gathers says whether a task can be a piece of a sitting.
func Gathers(id task.ID) bool {
	return Tends(id) || id == task.Wash || id == task.DrawOff || renewable(id)
}

// renewable says whether a task renews what treats the water.
func renewable(id task.ID) bool { return id == task.FilterChange || id == task.Regenerate }

// Apart refuses, with a *reason.Refusal, a task that is no part of a sitting, and says why it stands alone.
const Apart reason.Code = "stands_alone"

// apart is that refusal.
func apart(id task.ID) *reason.Refusal {
	row := id.Row()
	why := "It is done by hand and put on record: no run leads it."
	switch {
	case id == task.Descale || id == task.AcidRinse:
		why = "Acid has the whole machine for itself. A wash, a new filter or the softener's salt comes along in its own run."
	case row.Leaves:
		why = "What is in the machine comes out first, before anything else is done to it."
	case row.Rests:
		why = "A closing, a visit and a return have a day of their own, and end with the water as they say."
	case id == task.WaterBackflush:
		why = "A wash begins and ends with water pulses: it counts as a water backflush."
	}
	return reason.Refuse(Apart, row.Title+" stands alone").
		Of("task", string(id), "a task that can be done in a sitting").Why(reason.Trade, why)
}

// Gather cuts the tasks that are wanted into pieces. What one of them refuses is refused.
func Gather(in Gathering, wants ...Want) (*Gathered, error) {
	f := in.Answers.Facts()
	g := &Gathered{Switching: time.Minute}
	var err error
	if g.plan, err = modelled(f); err != nil {
		return nil, err
	}
	if g.t, err = newTending(in.Answers, &g.plan, in.Powder); err != nil {
		return nil, err
	}
	for i, w := range wants {
		if slices.ContainsFunc(wants[:i], func(o Want) bool { return o.Task == w.Task }) {
			return nil, &units.OutOfRange{Field: "task", Value: string(w.Task), Allowed: "each task once"}
		}
		p, err := g.piece(in, w)
		if err != nil {
			return nil, err
		}
		if len(wants) > 1 && w.Task != task.Wash { // a run knows the steps of a wash by their names
			p.rename(string(w.Task))
		}
		g.Pieces = append(g.Pieces, p)
		g.plan.Activities = append(g.plan.Activities, p.activities...)
	}
	if !g.washes {
		g.plan.Setups[0].Tray, g.plan.Setups[0].Tank = 0, 0 // what runs is a few flushes
	}
	if g.cold.cold {
		cool, _ := BodyOf[Wait](g.t.cools(g.cold))
		heat, _ := BodyOf[Wait](g.t.hotAgain())
		g.Cools, g.Heats = cool.For, heat.For
		if g.Cold = in.Cold; g.Cold {
			g.Cools, g.plan.Cold = 0, true
		}
	}
	return g, nil
}

func (g *Gathered) piece(in Gathering, w Want) (Piece, error) {
	what, tends := activities[w.Task]
	var p Plan
	var err error
	switch {
	case tends:
		return g.tended(w, what)
	case w.Task == task.Wash:
		p, err = WashBy(in.Answers, in.Method, in.Powder, in.Targets...)
		g.washes = true
	case w.Task == task.DrawOff:
		p, err = DrawOff(in.Answers, 0)
	case renewable(w.Task):
		if own, any := Renews(in.Setting); any && own != w.Task {
			err = reason.Refuse(NothingToRenew, "What treats the water is not renewed like that").
				Of("task", string(w.Task), string(own)).
				Why(reason.Said, "This machine is behind "+treat.Title(in.Setting.Kind)+".")
			break
		}
		p, err = Renew(in.Answers, in.Setting, in.Now)
	default:
		err = apart(w.Task)
	}
	if err != nil {
		return Piece{}, err
	}
	long := time.Duration(p.Minutes.Value * float64(time.Minute))
	s := Stretch{Wants: HotMachine, Hands: long, steps: p.Steps()}
	for _, x := range s.steps {
		s.note(x)
	}
	piece := Piece{Task: w.Task, plan: &p, activities: slices.Clone(p.Activities), Stretches: []Stretch{s}}
	for i := range piece.activities {
		piece.activities[i].Steps = nil
	}
	return piece, nil
}

// tended is the care of parts as a piece.
func (g *Gathered) tended(w Want, what tended) (Piece, error) {
	if err := what.check(w.Task, g.t.f, w.Parts); err != nil {
		return Piece{}, err
	}
	p := Piece{Task: w.Task, what: what}
	g.t.many = len(w.Parts) > 1
	for _, part := range w.Parts {
		p.activities = append(p.activities, g.t.activity(w.Task, what, part))
	}
	wants := HotMachine
	switch {
	case what.cold:
		wants = ColdMachine
		g.cold.cold, g.cold.supply, g.cold.lets = true, g.cold.supply || what.supply, g.cold.lets || what.lets
		g.cold.sealed, g.cold.drained = g.cold.sealed || what.sealed, g.cold.drained || what.drained
		if g.cold.reach == "" || what.reach == onTheFitting {
			g.cold.reach = what.reach
		}
	case what.anywhere:
		wants = Whatever
	}
	p.cut(wants, g.t.each(p.activities, what.steps))
	if after := g.t.each(p.activities, what.after); len(after) > 0 {
		p.cut(HotMachine, after)
	}
	return p, nil
}

// cut makes stretches of steps: one ends where something stands by itself.
func (p *Piece) cut(wants Condition, steps []Step) {
	s := Stretch{Wants: wants}
	for i := range steps {
		if soak, is := BodyOf[Soak](steps[i]); is {
			p.Stretches = append(p.Stretches, s)
			s = Stretch{Wants: wants, Stands: soak.For, stand: &steps[i]}
			continue
		}
		s.steps = append(s.steps, steps[i])
		s.Hands += steps[i].Takes
		s.note(steps[i])
	}
	p.Stretches = append(p.Stretches, s)
}

// note notes what a step of a stretch needs that another piece may have taken away.
func (s *Stretch) note(x Step) {
	for _, a := range x.Acts {
		s.Handle = s.Handle || a.Verb == plant.LockBasket
		s.Steams = s.Steams || (a.Verb == plant.Puff || a.Verb == plant.Open) && a.What == steamTap
	}
}

// rename names the steps of a piece apart from those of the others, and what they wait for.
func (p *Piece) rename(by string) {
	for i := range p.Stretches {
		s := &p.Stretches[i]
		for j := range s.steps {
			x := &s.steps[j]
			x.ID, x.After = by+"-"+x.ID, slices.Clone(x.After)
			for k := range x.After {
				x.After[k] = by + "-" + x.After[k]
			}
		}
		if s.stand != nil {
			s.stand.ID = by + "-" + s.stand.ID
		}
	}
}

// InTurn is the plain order: off, all that is done cold, on, then one piece after the other.
func (g *Gathered) InTurn() []Turn {
	var list []Turn
	if g.cold.cold {
		list = append(list, Turn{Kind: OffTurn})
		for i, p := range g.Pieces {
			for j, s := range p.Stretches {
				if s.Wants == ColdMachine {
					list = append(list, Turn{Piece: i, Stretch: j})
				}
			}
		}
		list = append(list, Turn{Kind: OnTurn})
	}
	for i, p := range g.Pieces {
		for j, s := range p.Stretches {
			if s.Wants != ColdMachine {
				list = append(list, Turn{Piece: i, Stretch: j})
			}
		}
	}
	return list
}

// Plan lays the pieces out in an order. What waits by itself, while a machine cools or heats too, stands
// beside what is done meanwhile.
func (g *Gathered) Plan(turns []Turn) (Plan, error) {
	l := &sitter{g: g, last: map[int]string{}}
	for i, t := range turns {
		next := Turn{Kind: OffTurn}
		if i+1 < len(turns) {
			next = turns[i+1]
		}
		switch t.Kind {
		case OffTurn:
			if off, lets := g.t.letOff(g.cold, g.coldParts(), g.Cold); lets {
				l.add(g.of(off))
			}
			if g.Cold {
				l.add(g.of(g.t.left(g.cold, g.coldParts())))
				continue
			}
			l.add(g.of(g.t.off(g.cold, g.coldParts())))
			l.pause(g.of(g.t.cools(g.cold)), next, ColdMachine)
		case OnTurn:
			l.add(g.of(g.t.on(g.cold)))
			l.pause(g.of(g.t.hotAgain()), next, HotMachine)
		default:
			l.work(t)
		}
	}
	p := g.plan
	p.Activities = slices.Clone(p.Activities)
	p.put(l.steps)
	p.setWork(l.sums())
	for _, piece := range g.Pieces {
		if piece.plan != nil && piece.plan.TrayGets.Value > 0 {
			p.TankUses, p.TrayGets = piece.plan.TankUses, piece.plan.TrayGets
		}
	}
	p.Minutes.Inputs[1].Label = "the pump runs"
	p.Minutes.WouldChange = []string{"a machine that is cold already", "hands that are quicker or slower"}
	return p, p.fits()
}

// NotTogether is the code of tasks that do not come out as one plan.
const NotTogether reason.Code = "not_together"

// fits is Check, told as a refusal of tasks that do not come out as one plan.
func (p Plan) fits() error {
	err := p.Check()
	var no *reason.Refusal
	if err == nil || errors.As(err, &no) {
		return err
	}
	return reason.Refuse(NotTogether, "These do not fit into one sitting").
		Of("task", strings.Join(p.Titles(), ", "), "fewer of them at once").Why(reason.Ours, err.Error()+".").
		Instead("Begin one of them by itself.")
}

// coldParts are the parts that something is done to while the machine is cold.
func (g *Gathered) coldParts() []machine.Part {
	var list []machine.Part
	for _, p := range g.Pieces {
		for _, a := range p.activities {
			if p.what.cold && !slices.Contains(list, a.Part) {
				list = append(list, a.Part)
			}
		}
	}
	return list
}

// of gives a step that is for all cold pieces to the first of them.
func (g *Gathered) of(s Step) Step {
	i := slices.IndexFunc(g.Pieces, func(p Piece) bool { return p.what.cold })
	acts := g.Pieces[i].activities
	s.Activity, s.Part, s.Lane = acts[0].ID, acts[0].Part, Hands
	if len(g.Pieces) == 1 {
		s.ID = name(len(acts) > 1, acts[0].Part, s.ID)
	}
	return s
}

// handlesBack says whether another piece puts handles back that a cold one needs out.
func (g *Gathered) handlesBack(i int) bool {
	return g.Pieces[i].what.cold && slices.ContainsFunc(g.Pieces, func(p Piece) bool { return p.Task == task.Soak })
}

// sitter lays steps one after the other.
type sitter struct {
	g     *Gathered
	steps []Step
	last  map[int]string // of each piece, its last step
	waits map[Condition]*Step
}

func (l *sitter) add(s Step) {
	if len(s.After) == 0 && len(l.steps) > 0 {
		s.After = []string{l.steps[len(l.steps)-1].ID}
	}
	l.steps = append(l.steps, s)
}

// pause lets the machine cool or heat: by a press that begins it, where the next turn waits for it anyway;
// else beside what is done meanwhile.
func (l *sitter) pause(s Step, next Turn, for_ Condition) {
	if next.Kind == WorkTurn && l.g.Pieces[next.Piece].Stretches[next.Stretch].Wants == for_ {
		l.add(s)
		return
	}
	wait, _ := BodyOf[Wait](s)
	s.Body = Soak{For: wait.For, Early: true, Ends: wait.Ends, Length: wait.Length, Read: wait.Read}
	s.After = []string{l.steps[len(l.steps)-1].ID}
	if l.waits == nil {
		l.waits = map[Condition]*Step{}
	}
	l.waits[for_] = &s
}

func (l *sitter) work(t Turn) {
	p := &l.g.Pieces[t.Piece]
	s := p.Stretches[t.Stretch]
	if wait := l.waits[s.Wants]; wait != nil {
		l.steps = append(l.steps, *wait)
		delete(l.waits, s.Wants)
	}
	if s.stand != nil {
		stand := *s.stand
		stand.After = []string{l.last[t.Piece]}
		l.steps = append(l.steps, stand)
	}
	for i, x := range s.steps {
		fresh := i == 0 || s.steps[i-1].Part != x.Part // the first that is done to this group
		if fresh && s.Wants == ColdMachine && t.Stretch == 0 && l.g.handlesBack(t.Piece) && x.Part.GroupNumber() > 0 {
			x = x.first(does("Is a handle in the group? Take it out.", act(plant.TakeOut, x.Part.String())))
		}
		switch {
		case p.plan == nil:
			x.After = nil
		case i == 0 && len(l.steps) > 0:
			x.After = []string{l.steps[len(l.steps)-1].ID}
		}
		l.add(x)
		l.last[t.Piece] = x.ID
	}
}

// first puts something before what a step does.
func (s Step) first(d doing) Step {
	s.Do = append([]string{d.text}, s.Do...)
	s.Acts = append(slices.Clone(d.acts), s.Acts...)
	return s
}

// sums is what the steps take, one pair of hands and what stands beside it counted once.
func (l *sitter) sums() sums {
	var all sums
	for _, x := range spans(l.steps, l.g.plan.pump(), 0, map[string]time.Duration{}) {
		all.waits += x.Waited
		switch x.Work {
		case ByPump:
			all.pulsing += x.To - x.From - x.Waited
		case ByHand:
			all.hands += x.To - x.From - x.Waited
		}
	}
	return all
}

// Title is what a plan is called: by what leads it, or, where several tasks are done in one sitting, by all of
// them.
func (p Plan) Title() string {
	list := p.Titles()
	if len(list) < 2 || p.Descaling() != nil {
		return p.Leads().Title
	}
	for i := range list[1:] {
		list[i+1] = speak.Lower(list[i+1])
	}
	return "One sitting: " + speak.Lower(list[0]) + ", " + strings.Join(list[1:], ", ")
}

// Titles are what a plan does, in few words each, as the activities stand in it; of several groups once.
func (p Plan) Titles() []string {
	var list []string
	for _, a := range p.Activities {
		if t := a.Task.Title(); !slices.Contains(list, t) {
			list = append(list, t)
		}
	}
	return list
}

// Name names a turn, for whoever moves it: off, on, or a task with which of its stretches, from 1.
func (g *Gathered) Name(t Turn) string {
	switch t.Kind {
	case OffTurn:
		return "off"
	case OnTurn:
		return "on"
	}
	return fmt.Sprintf("%s.%d", g.Pieces[t.Piece].Task, t.Stretch+1)
}

// Title is what is done in a turn, in few words.
func (g *Gathered) Title(t Turn) string {
	switch t.Kind {
	case OffTurn:
		return "Switch off, let it cool"
	case OnTurn:
		return "Switch on, let it heat"
	}
	p := g.Pieces[t.Piece]
	title := p.Task.Title()
	if len(p.Stretches) == 1 {
		return title
	}
	return title + ": " + speak.Lower(p.Stretches[t.Stretch].steps[0].Head)
}

// Steps are the steps of a turn, by their ids, what stands before it first.
func (g *Gathered) Steps(t Turn) (ids []string) {
	switch t.Kind {
	case OffTurn:
		return []string{"let-off", "off", "cool"}
	case OnTurn:
		return []string{"on", "heat"}
	}
	s := g.Pieces[t.Piece].Stretches[t.Stretch]
	if s.stand != nil {
		ids = append(ids, s.stand.ID)
	}
	for _, x := range s.steps {
		ids = append(ids, x.ID)
	}
	return ids
}

// Turns reads the names of an order. It must hold each turn once, those of a task in their own order; the error is a
// *units.OutOfRange.
func (g *Gathered) Turns(names []string) ([]Turn, error) {
	left := g.InTurn()
	turns := make([]Turn, 0, len(left))
	for _, name := range names {
		i := slices.IndexFunc(left, func(t Turn) bool { return g.Name(t) == name })
		if i < 0 {
			return nil, &units.OutOfRange{Field: "order", Value: name, Allowed: "each turn of the work sheet once"}
		}
		for _, t := range left[:i] {
			if t.Kind == WorkTurn && left[i].Kind == WorkTurn && t.Piece == left[i].Piece {
				return nil, &units.OutOfRange{Field: "order", Value: name,
					Allowed: "the turns of a task in their own order: " + g.Name(t) + " before it"}
			}
		}
		turns = append(turns, left[i])
		left = slices.Delete(left, i, i+1)
	}
	if len(left) > 0 {
		return nil, &units.OutOfRange{Field: "order", Value: fmt.Sprintf("%d turns", len(names)),
			Allowed: "each turn of the work sheet once; " + g.Name(left[0]) + " is missing"}
	}
	return turns, nil
}
