package job

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"time"

	"freshanvil/core/descale"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/speak"
	"freshanvil/core/units"
)

// pace is how a pair of hands is taken to work: hand work by a factor, what the screen
// calls so many seconds late, a longer wait so many seconds longer.
type pace struct{ work, late, longer float64 }

// asSaid is what steps are planned for, slow what must still be safe (our own engineering
// choices).
var (
	asSaid = pace{work: 1}
	slow   = pace{work: 3, late: 10, longer: 600}
)

// laying is a descale while it is laid out: the steps so far, and the plant after them.
type laying struct {
	f         machine.Facts
	in        Sitting
	prog      descale.Program
	d         *Descaling
	p         *plant.Plant
	pace      pace
	phase     Phase
	round     int
	steps     []Step
	names     map[string]int
	late      []Step        // soaks beside, shown where they are needed
	toMix     float64       // L of solution that are still to be mixed
	mixed     float64       // L so far
	lateFills float64       // L that slow hands let into the steam boiler beside, since it was let out
	soak      time.Duration // of a round
	// soaked is the plant when the last soak ends, soakedAt how many steps there were then,
	// roundFrom how many before the round, fresh the plant then.
	soaked, fresh       *plant.Plant
	soakedAt, roundFrom int
	// lateDrawn is what slow hands have drawn from the source beside since it was filled,
	// lateIn what they have let into each jug since it was emptied, L.
	lateDrawn float64
	placed    map[string]bool // jugs that stand under their outlets
	lateIn    map[string]float64
	// spentLater: the spent solution is caught as the rinse begins, and read after it.
	spentLater bool
	err        error
}

// fork is a copy that goes its own way, for hands of another pace.
func (l *laying) fork(p pace) *laying {
	x := *l
	d := *l.d
	d.Circuits, d.Findings = slices.Clone(l.d.Circuits), slices.Clone(l.d.Findings)
	x.d, x.p, x.pace = &d, l.p.Clone(), p
	x.steps, x.names, x.late = slices.Clone(l.steps), maps.Clone(l.names), slices.Clone(l.late)
	x.lateIn, x.placed = maps.Clone(l.lateIn), maps.Clone(l.placed)
	return &x
}

// add appends a step and lets it do what it does.
func (l *laying) add(s Step) {
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
	l.countActs(s.Acts)
	switch b := s.Body.(type) {
	case Push:
		l.countLate(b.To, 1)
	case Sips:
		l.countLate(b.To, b.Count)
	}
	play(l.p, s, l.pace)
	l.steps = append(l.steps, s)
}

// countActs counts what is filled and emptied.
func (l *laying) countActs(list []plant.Action) {
	for _, a := range list {
		switch {
		case a.Verb == plant.FillUp, a.Verb == plant.Empty && a.What == l.source().ID:
			l.lateDrawn = 0
		}
		switch {
		case a.Verb == plant.PourMix || a.Verb == plant.FillUp:
			l.d.Tubs++
		case a.Verb == plant.Empty && a.What != l.source().ID:
			l.d.Catches++
			delete(l.lateIn, a.What)
			l.placed[a.What] = true
		}
	}
}

// countLate counts what a slow hand draws beside, and lets into a jug, in so many goes.
func (l *laying) countLate(to string, goes int) {
	l.lateDrawn += float64(goes) * l.lateDraws()
	if to != "" {
		l.lateIn[l.d.Plant.Vessels[l.opening(to).Into].ID] += float64(goes) * l.lateDraws()
	}
}

// renewing appends a step of the renewal that is done beside.
func (l *laying) renewing(s Step) {
	s.Activity = renewID
	l.add(s)
}

// play lets a step do to a plant what it does, at a pace.
func play(p *plant.Plant, s Step, at pace) {
	if s.Lane != Hands {
		return
	}
	from := p.T
	p.Play(s.Acts, from, from+s.Takes.Seconds()*at.work)
	rest := func(long time.Duration) {
		warm := time.Duration(p.Warm * float64(time.Second))
		p.Wait(p.Spec.Duty.Rest(warm, long+time.Duration(at.late)*time.Second).Seconds())
	}
	doAll := func(list []plant.Action) {
		for _, a := range list {
			p.Do(a)
		}
	}
	switch b := s.Body.(type) {
	case Push:
		rest(b.Runs())
		doAll(b.Begins())
		p.Wait(b.Runs().Seconds() + at.late)
		doAll(b.Ends())
	case Sips:
		for range b.Count {
			rest(b.On)
			doAll(b.Begins())
			p.Wait(b.On.Seconds() + at.late)
			doAll(b.Ends())
			p.Wait(b.Stand.Seconds())
		}
	case Soak:
		p.Wait(b.For.Seconds() + at.overrun(b.For))
	case Wait:
		began := p.T
		doAll(b.Does)
		p.WaitTo(began + b.For.Seconds() + at.overrun(b.For))
		doAll(b.Read)
	case Measure:
		if b.Reads == Proof && b.Last {
			p.Do(act(plant.Proven, b.Circuit.String()))
		}
	}
}

// shortStand is the longest stand whose end the screen calls to somebody who waits by it.
const shortStand = 5 * time.Minute

func (a pace) overrun(long time.Duration) float64 {
	if long <= shortStand {
		return a.late
	}
	return a.longer
}

// source is what is fixed of the vessel that is drawn from.
func (l *laying) source() *plant.Vessel { return &l.d.Plant.Vessels[plant.SourceAt] }

// drawn is what is in it now, if a slow hand has drawn from it.
func (l *laying) drawn() float64 { return max(0, l.p.V[plant.SourceAt].Litres-l.lateDrawn) }

// flow is what the pump gives freely, L/s.
func (l *laying) flow() float64 { return l.d.Plant.Flow }

// lateDraws is what a slow hand lets the pump draw beyond what is meant, L.
func (l *laying) lateDraws() float64 { return slow.late * l.flow() }

// steamAt is the state of the steam boiler; nil where there is none.
func (l *laying) steamAt() *plant.State { return l.p.At("steam") }

// handBegins is how long the hands take before a push begins (our own engineering choice).
const handBegins = 15 * time.Second

// longestPush is how long the pump runs at a stretch: a minute where on means heating, less
// than a slow hand makes too long for its duty, never longer than an autofill may run.
func (l *laying) longestPush() time.Duration {
	most := 100 * time.Second
	if heats := l.phase != After; !heats {
		return l.within(most)
	}
	if l.f.BrewHeater == machine.OnHeats || l.f.BrewHeater == machine.NotKnown || l.f.BrewHeater == machine.HeldOff {
		most = time.Minute
	}
	return l.within(most)
}

// within is as long as the pump may run for its duty, with a slow hand at the switch.
func (l *laying) within(most time.Duration) time.Duration {
	if on := l.f.Duty.On; on > 0 {
		most = min(most, max(5*time.Second, on-time.Duration(slow.late)*time.Second-time.Second))
	}
	return most
}

// pushed is how long the pump runs for so much by an outlet, or into a boiler by itself,
// where so much of its flow goes there.
func (l *laying) pushed(litres, share float64, what string) reason.Worked {
	return reason.Worked{
		Name: "how long the pump runs", Value: litres * 1000 / (float64(l.f.FreeFlow) * share), Unit: "s",
		Formula: "litres × 1000 ÷ (flow × share)",
		Source:  reason.Ours, WouldChange: []string{"a group that flows faster or slower: the machine's page"},
		Inputs: []reason.Input{
			{Symbol: "litres", Label: what + " of this go", Value: litres, Unit: "L", Source: reason.Ours},
			{Symbol: "flow", Label: "free flow", Value: float64(l.f.FreeFlow), Unit: "mL/s", Source: reason.Ours},
			{Symbol: "share", Label: "of it that goes this way; the rest fills the steam boiler", Value: share,
				Source: reason.Ours},
		},
	}.Exact()
}

// push adds a push of so much through an outlet.
func (l *laying) push(to string, litres, share float64, what string, first ...doing) {
	id, title := "push-"+to, fmt.Sprintf("%s of %s through the %s", Litres(litres), what, l.outlet2(to))
	head := speak.Upper(what) + " through the " + l.outlet2(to)
	if to == "" {
		id, title, head = "fill", fmt.Sprintf("fill the steam boiler with %s", what), "The boiler fills"
	}
	s := Step{
		ID: id, Title: title, Head: head, Button: "Begin: " + l.starts(to), Takes: handBegins,
		Cautions: []reason.Caution{steamy, gloves, sponge},
		Body:     Push{To: to, Litres: units.Litres(litres), Long: l.pushed(litres, share, what)},
	}
	l.add(s.with(append(first, l.beginWords(to))...))
}

func (l *laying) outlet2(to string) string {
	if to == "" {
		return "steam boiler"
	}
	return l.outlet(to)
}

func (l *laying) starts(to string) string {
	switch {
	case to == "":
		return "switch on"
	case l.opening(to).Lever:
		return "on, lever up"
	}
	return "on, pump on"
}

// Litres is a volume in litres as a person pours it: to 10 mL, or to 0.1 L.
func Litres[V ~float64](v V) string {
	if v < 0.995 {
		return fmt.Sprintf("%.0f mL", math.Max(10, math.Round(float64(v)*100)*10))
	}
	return strings.TrimSuffix(fmt.Sprintf("%.1f", v), ".0") + " L"
}

// part is the part that a vessel of the plant is.
func part(id string) machine.Part {
	p, _ := machine.ParsePart(id)
	return p
}

// circuits are the vessels in which acid works, by their place.
func (l *laying) circuits() []int {
	var list []int
	for i := range l.d.Plant.Vessels {
		if l.d.Plant.Vessels[i].IsCircuit() {
			list = append(list, i)
		}
	}
	return list
}

// brews are those of them that are no steam boiler.
func (l *laying) brews() []int {
	return slices.DeleteFunc(l.circuits(), func(i int) bool { return l.d.Plant.Vessels[i].Kind == plant.Steam })
}

// groupOf is the opening of a brew circuit's group.
func groupOf(v *plant.Vessel) string { return machine.Group(part(v.ID).Number()).String() }
