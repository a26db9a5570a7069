package sitting

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/treat"
	"freshanvil/core/units"
)

// made is a piece of so many minutes by hand and so many that stand before it, wanting a machine like that.
func made(id task.ID, wants job.Condition, minutes ...int) job.Piece {
	p := job.Piece{Task: id}
	for i := 0; i < len(minutes); i += 2 {
		p.Stretches = append(p.Stretches, job.Stretch{Wants: wants, Stands: time.Duration(minutes[i]) * time.Minute,
			Hands: time.Duration(minutes[i+1]) * time.Minute})
	}
	return p
}

func gathered(cools, heats int, pieces ...job.Piece) *job.Gathered {
	return &job.Gathered{Pieces: pieces, Cools: time.Duration(cools) * time.Minute,
		Heats: time.Duration(heats) * time.Minute, Switching: time.Minute}
}

// Small orders worked out by hand: a wait is filled with what fits into it; cooling is filled, too.
func TestWaitsAreFilled(t *testing.T) {
	for _, c := range []struct {
		name   string
		g      *job.Gathered
		wanted int // minutes
	}{
		{"one bath", gathered(0, 0, made(task.Soak, job.Whatever, 0, 3, 10, 5)), 18},
		{"tank while it soaks", gathered(0, 0, made(task.Soak, job.Whatever, 0, 3, 10, 5), made(task.Tank,
			job.HotMachine, 0, 4)), 18},
		{"two baths cross", gathered(0, 0, made(task.Soak, job.Whatever, 0, 3, 10, 5), made(task.Tip, job.HotMachine, 0, 2,
			10, 2)), 20},
		{"soaked while it cools", gathered(60, 10, made(task.Screen, job.ColdMachine, 0, 8), made(task.Soak, job.Whatever, 0,
			3, 10, 5)), 1 + 60 + 8 + 1},
		{"looked at when hot again", gathered(60, 10, job.Piece{Task: task.Screen, Stretches: []job.Stretch{
			{Wants: job.ColdMachine, Hands: 8 * time.Minute}, {Wants: job.HotMachine, Hands: time.Minute}}}), 81},
	} {
		t.Run(c.name, func(t *testing.T) {
			o := Shortest(c.g)
			if o.Takes != time.Duration(c.wanted)*time.Minute || !o.Proven || o.Least > o.Takes {
				t.Errorf("takes %s, at the least %s, proven %v; want %d min", o.Takes, o.Least, o.Proven, c.wanted)
			}
		})
	}
}

// every order is gone through one by one, as a check of its own; the shortest it finds.
func everyOrder(s *search, a *at) time.Duration {
	if a.finished == s.total && a.on {
		return a.now
	}
	least := time.Duration(1 << 62)
	for _, m := range s.moves(a) {
		least = min(least, everyOrder(s, a.after(m, s.g)))
	}
	return least
}

// Against every order, one by one; never shorter than its own bound.
func TestShortestIsTheShortest(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 9))
	for range 120 {
		var pieces []job.Piece
		for i := range 1 + r.IntN(4) {
			id := []task.ID{task.Soak, task.Tip, task.Screen, task.Wash, task.Tank}[i]
			wants := []job.Condition{job.Whatever, job.HotMachine, job.ColdMachine, job.HotMachine, job.HotMachine}[i]
			p := made(id, wants, 0, 1+r.IntN(9))
			if r.IntN(2) == 0 {
				p.Stretches = append(p.Stretches, made(id, wants, 1+r.IntN(15), 1+r.IntN(6)).Stretches...)
			}
			if wants == job.ColdMachine {
				p.Stretches = append(p.Stretches, made(id, job.HotMachine, 0, 1).Stretches...)
			}
			pieces = append(pieces, p)
		}
		g := gathered(5+r.IntN(40), 1+r.IntN(10), pieces...)
		o := Shortest(g)
		s := &search{g: g}
		a := &at{done: make([]int, len(pieces)), ready: make([]time.Duration, len(pieces))}
		for _, p := range pieces {
			s.total += len(p.Stretches)
			for _, x := range p.Stretches {
				if x.Wants == job.ColdMachine {
					s.colds++
				}
			}
		}
		a.off, a.on = s.colds == 0, s.colds == 0
		if least := everyOrder(s, a); o.Takes != least || o.Least > least || !o.Proven {
			t.Fatalf("takes %s, the shortest of all %s, bound %s: %+v", o.Takes, least, o.Least, pieces)
		}
	}
}

// gathering is a machine at home or in a shop, with all that its sittings are made from.
func gathering(t *testing.T, l machine.Layout) job.Gathering {
	t.Helper()
	a := machine.Answers{Layout: l, Valve: machine.Yes, Drinks: 4, MilkDrinks: 2, Treatment: machine.InTank,
		Hardness: units.UnknownHardness()}
	m, err := backflush.Lookup(backflush.HalfTeaspoon)
	if err != nil {
		t.Fatal(err)
	}
	in := job.Gathering{Answers: a, Powder: backflush.UsualPowder, Method: m, Setting: treat.Usual(machine.InTank),
		Now: time.Date(2026, 5, 20, 9, 0, 0, 0, time.UTC)}
	for g := range a.Facts().Groups {
		in.Targets = append(in.Targets, job.Target{Group: g + 1})
	}
	return in
}

func wantsOf(in job.Gathering, ids ...task.ID) (list []job.Want) {
	for _, id := range ids {
		w := job.Want{Task: id, Parts: []machine.Part{{}}}
		if !id.IsOfMachine() {
			w.Parts = w.Parts[:0]
			for g := range in.Answers.Facts().Groups {
				w.Parts = append(w.Parts, machine.Group(g+1))
			}
		}
		list = append(list, w)
	}
	return list
}

// A sitting is cleared on the model of the machine, in the shortest order; it is shorter than its tasks one
// by one; what is done cold comes before the wash, and only one cooling is waited for.
func TestASittingIsCleared(t *testing.T) {
	for _, c := range []struct {
		layout machine.Layout
		tasks  []task.ID
	}{
		{machine.DualHome, []task.ID{task.Wash, task.Soak, task.Tip, task.Tank}},
		{machine.DualHome, []task.ID{task.Screen, task.Seal, task.Wash, task.Soak, task.Tip, task.Tank, task.Grinder}},
		{machine.HXHome, []task.ID{task.FilterChange, task.Screen, task.SteamJoint, task.Wash, task.Tank}},
		{machine.HXCafe, []task.ID{task.Wash, task.Soak, task.Tip, task.Waste}},
		{machine.HXCafe, []task.ID{task.Screen, task.Soak, task.Wash}},
		{machine.Thermoblock, []task.ID{task.LookForScale, task.Soak, task.Tank}},
		{machine.LeverCam, []task.ID{task.CamGrease, task.Seal, task.Soak}},
	} {
		t.Run(fmt.Sprintf("%s %v", c.layout, c.tasks), func(t *testing.T) {
			in := gathering(t, c.layout)
			if c.layout == machine.HXCafe {
				in.Answers.Treatment = machine.UnderSink
			}
			got, err := Compose(in, wantsOf(in, c.tasks...)...)
			if err != nil {
				var no *reason.Refusal
				if errors.As(err, &no) {
					t.Fatalf("%+v", no.Finding)
				}
				t.Fatal(err)
			}
			whole := time.Duration(got.Plan.Minutes.Value * float64(time.Minute))
			if !got.Order.Proven || whole >= got.Alone || got.Order.Takes < got.Order.Least {
				t.Errorf("%s in all, %s by the order, %s alone, proven %v", whole, got.Order.Takes, got.Alone, got.Order.Proven)
			}
			cooled, washed := 0, false
			for _, s := range got.Plan.Steps() {
				if s.Head == "It cools" {
					cooled++
				}
				if s.Effect == job.Doses {
					washed = true
				}
				if s.Head == "Screen off" && washed {
					t.Error("the screen comes off after the wash")
				}
			}
			if cooled > 1 {
				t.Errorf("it cools %d times", cooled)
			}
			included := 0 // a new seal has the screen off, too
			for _, x := range c.tasks {
				for _, y := range c.tasks {
					if x != y && y.Counts(x) {
						included++
						break
					}
				}
			}
			if len(got.Plan.Titles()) != len(c.tasks)-included {
				t.Errorf("titles: %v", got.Plan.Titles())
			}
			if included == 0 && !slices.Contains(got.Plan.Titles(), c.tasks[0].Title()) || got.Says() == "" {
				t.Errorf("it says %q", got.Says())
			}
		})
	}
}

// What one of the tasks refuses, the sitting refuses; the same task twice is no sitting.
func TestWhatASittingRefuses(t *testing.T) {
	in := gathering(t, machine.HXHome)
	var no *reason.Refusal
	_, err := Compose(in, wantsOf(in, task.Soak, task.CamGrease)...)
	if !errors.As(err, &no) || no.Code != job.NoSuchPart {
		t.Errorf("a cam where there is none: %v", err)
	}
	var bad *units.OutOfRange
	if _, err := Compose(in, wantsOf(in, task.Soak, task.Soak)...); !errors.As(err, &bad) || bad.Field != "task" {
		t.Errorf("twice: %v", err)
	}
	for _, id := range []task.ID{task.Descale, task.AcidRinse, task.WaterBackflush, task.Return, task.Service} {
		_, err := Compose(in, wantsOf(in, id, task.Soak)...)
		if !errors.As(err, &no) || no.Code != job.Apart || no.Field != "task" || len(no.Finding.Because) != 1 {
			t.Errorf("%s beside another: %v", id, err)
		}
	}
}

// Sixteen activities over three groups: screens, washes of three groups and all that is done beside.
func BenchmarkSixteen(b *testing.B) {
	g := gathered(240, 25, made(task.FilterChange, job.HotMachine, 0, 10), made(task.Tank, job.HotMachine, 0, 4),
		made(task.Grinder, job.Whatever, 0, 7), made(task.SteamJoint, job.ColdMachine, 0, 9),
		made(task.Relief, job.HotMachine, 0, 1), made(task.Waste, job.HotMachine, 0, 3),
		made(task.Tip, job.HotMachine, 0, 2, 10, 3), made(task.Soak, job.Whatever, 0, 3, 10, 5),
		made(task.Seal, job.ColdMachine, 0, 12), made(task.Wash, job.HotMachine, 0, 27))
	for range 3 {
		g.Pieces = append(g.Pieces, made(task.Screen, job.ColdMachine, 0, 8), made(task.Jet, job.ColdMachine, 0, 9))
	}
	for b.Loop() {
		if o := Shortest(g); !o.Proven {
			b.Fatalf("not proven: %s, at the least %s", o.Takes, o.Least)
		}
	}
	b.ReportMetric(b.Elapsed().Seconds()*1000/float64(b.N)/50, "of_50_ms")
}

// Moving turns by hand: each way of changing two neighbours is either led, and then never shorter than the shortest, or
// refused with a reason; what does not name each turn once is refused by name.
func TestMovedByHand(t *testing.T) {
	in := gathering(t, machine.HXHome)
	wants := wantsOf(in, task.Screen, task.Wash, task.Soak, task.Tip, task.Tank)
	best, err := Compose(in, wants...)
	if err != nil {
		t.Fatal(err)
	}
	names := func() (list []string) {
		for _, p := range best.Places() {
			list = append(list, p.Name)
		}
		return list
	}
	if same, err := ComposeAs(in, names(), wants...); err != nil || same.Order.Takes != takes(best.Plan) {
		t.Fatalf("the same order: %v, %v", same.Order.Takes, err)
	}
	led, why := 0, map[string]bool{}
	for i := range len(names()) - 1 {
		for j := i + 1; j < min(i+3, len(names())); j++ {
			order := names()
			order[i], order[j] = order[j], order[i]
			c, err := ComposeAs(in, order, wants...)
			var refused *reason.Refusal
			var bad *units.OutOfRange
			switch {
			case err == nil:
				led++
				if takes(c.Plan) < takes(best.Plan) || !strings.Contains(c.Says(), "as you moved it") {
					t.Errorf("%v takes %v, the shortest %v: %s", order, takes(c.Plan), takes(best.Plan), c.Says())
				}
			case errors.As(err, &refused):
				if len(refused.Finding.Because) == 0 {
					t.Errorf("%v is refused without a reason", order)
					continue
				}
				why[refused.Finding.Because[0].Text] = true
			case !errors.As(err, &bad) || bad.Field != "order":
				t.Errorf("%v: %v", order, err)
			}
		}
	}
	if led < 3 || len(why) < 3 {
		t.Errorf("%d orders are led; refused for %d reasons: %v", led, len(why), why)
	}
	for _, order := range [][]string{{"off"}, append(names(), "off"), append(names()[1:], "tea"), names()[1:]} {
		var bad *units.OutOfRange
		if _, err := ComposeAs(in, order, wants...); !errors.As(err, &bad) || bad.Field != "order" {
			t.Errorf("%v: %v", order, err)
		}
	}
}

// A machine that has been off overnight is begun cold: what is done cold comes first and waits for nothing, and the
// model clears it; hours are saved. Where nothing is done cold it makes no difference.
func TestBegunCold(t *testing.T) {
	for _, layout := range []machine.Layout{machine.HXHome, machine.HXCafe, machine.DualHome, machine.LeverCam} {
		t.Run(string(layout), func(t *testing.T) {
			in := gathering(t, layout)
			wants := wantsOf(in, task.Screen, task.Soak, task.Wash)
			used, err := Compose(in, wants...)
			if err != nil {
				t.Fatal(err)
			}
			in.Cold = true
			cold, err := Compose(in, wants...)
			if err != nil {
				t.Fatal(err)
			}
			if saved := takes(used.Plan) - takes(cold.Plan); saved < 2*time.Hour {
				t.Errorf("only %v shorter", saved)
			}
			first := cold.Plan.Steps()[0]
			if strings.HasSuffix(first.ID, "let-off") && layout == machine.HXCafe { // the mains press on its groups
				first = cold.Plan.Steps()[1]
			}
			if first.ID != "off" && !strings.HasSuffix(first.ID, "-off") ||
				!strings.Contains(strings.Join(first.Do, " "), "thermometer must read less than 45") {
				t.Errorf("it begins with %s: %v", first.ID, first.Do)
			}
			bathed := false // a handle presses the screen home: it must not stand in the bath then
			for _, s := range cold.Plan.Steps() {
				switch {
				case s.ID == "cool":
					t.Error("it waits until it is cool")
				case s.ID == "soak-in" || s.ID == "soak-back":
					bathed = s.ID == "soak-in"
				case bathed && strings.Contains(strings.Join(s.Do, " "), "with the empty handle"):
					t.Errorf("%s while the handles are in the bath", s.ID)
				}
			}
			hot, err := Compose(in, wantsOf(in, task.Soak, task.Wash)...)
			if err != nil || hot.Plan.Cold {
				t.Errorf("nothing is done cold, and it is begun cold: %v", err)
			}
		})
	}
}

// fewest is how often the hands wait at the least in an order that takes so long, by every order one by one.
func fewest(s *search, a *at, takes time.Duration) int {
	if a.finished == s.total && a.on {
		if a.now == takes {
			return a.gaps
		}
		return 1 << 20
	}
	least := 1 << 20
	for _, m := range s.moves(a) {
		least = min(least, fewest(s, a.after(m, s.g), takes))
	}
	return least
}

// Of orders that are as short, one is taken in which the hands' waits are interrupted as seldom as may be.
func TestFewestInterruptions(t *testing.T) {
	r := rand.New(rand.NewPCG(6, 6))
	mattered := 0
	for range 120 {
		var pieces []job.Piece
		for i := range 2 + r.IntN(3) {
			id := []task.ID{task.Soak, task.Tip, task.Tank, task.SteamJoint}[i]
			p := made(id, job.HotMachine, 0, 1+r.IntN(5))
			for range r.IntN(3) {
				p.Stretches = append(p.Stretches, made(id, job.HotMachine, 3+r.IntN(15), 1+r.IntN(3)).Stretches...)
			}
			pieces = append(pieces, p)
		}
		g := gathered(0, 0, pieces...)
		o := Shortest(g)
		s := newSearch(g)
		a := s.begins()
		for _, turn := range o.Turns {
			a = a.after(move{turn: turn, start: max(a.now, a.readyFor(turn))}, g)
		}
		least := fewest(s, s.begins(), o.Takes)
		if a.now != o.Takes || a.gaps != least {
			t.Fatalf("%v in %d waits, %v in %d would do: %v", a.now, a.gaps, o.Takes, least, o.Turns)
		}
		if least > 0 {
			mattered++
		}
	}
	if mattered < 20 {
		t.Errorf("hands waited in only %d of 120", mattered)
	}
}

// An order that the model does not clear gets an arrow and is looked for anew; after five it is the plain one, which is
// said and not called the shortest; another error ends it at once.
func TestBrokenArrows(t *testing.T) {
	in := gathering(t, machine.HXHome)
	g, err := job.Gather(in, wantsOf(in, task.Soak, task.Tip, task.Tank)...)
	if err != nil {
		t.Fatal(err)
	}
	before := func(p job.Plan, first, then string) bool {
		return slices.Index(p.Order, first) < slices.Index(p.Order, then)
	}
	asked := 0
	c, err := cleared(g, func(p job.Plan) (reason.Reason, error) {
		if asked++; !before(p, "soak-out", "tank-wipe") {
			return reason.Reason{}, &job.Unsafe{Step: "tank-wipe"}
		}
		return reason.Reason{Text: "cleared"}, nil
	})
	if err != nil || c.Plain || asked < 2 || !before(c.Plan, "soak-out", "tank-wipe") {
		t.Errorf("%v, plain %v, asked %d times: %v", err, c.Plain, asked, c.Plan.Order)
	}
	asked = 0
	plain, err := g.Plan(g.InTurn())
	if err != nil {
		t.Fatal(err)
	}
	c, err = cleared(g, func(p job.Plan) (reason.Reason, error) {
		if asked++; slices.Equal(p.Order, plain.Order) {
			return reason.Reason{}, nil
		}
		return reason.Reason{}, &job.Unsafe{Step: p.Order[asked%3]}
	})
	if err != nil || !c.Plain || c.Order.Proven || asked > mostArrows+2 || !strings.Contains(c.Says(),
		"one by one: the model") {
		t.Errorf("%v, plain %v, asked %d times: %s", err, c.Plain, asked, c.Says())
	}
	never := errors.New("never")
	if _, err := cleared(g, func(job.Plan) (reason.Reason, error) { return reason.Reason{}, never }); !errors.Is(err,
		never) {
		t.Errorf("%v", err)
	}
}
