package job

import (
	"errors"
	"fmt"
	"time"

	"freshanvil/core/descale"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// addRounds lays as many rounds of acid as the likely scale asks for and as fit: after
// each, slow hands must still get below 1 % within the time that acid may stand.
func (l *laying) addRounds() error {
	best, rounds, failed := l, 0, l
	least := 1
	if l.prog.ID == descale.Sips { // one by each outlet
		least = len(l.d.Circuits[0].Outlets)
	}
	for n := least; n <= l.prog.Soaks; n++ {
		try := l.fork(asSaid)
		if rounds > 0 && l.prog.ID != descale.Sips {
			try = best.fork(asSaid)
		}
		try, exit, ok := try.fitRound(n)
		if !ok {
			failed = try
			break
		}
		if l.prog.ID == descale.Sips {
			try.d.Exit, try.d.Rounds, try.d.Costs = exit, n, try.costsOfSips()
			best, rounds = try, n
			if best.scaleLeft() <= spare*l.scaleAtFirst() {
				break
			}
			continue
		}
		cost := try.costs()
		if n > 1 && // else the run would leave it out
			try.fresh.Contact()+(cost+exit).Seconds() > l.d.Contact.Seconds() {
			break
		}
		try.d.Exit, try.d.Rounds, try.d.Costs = exit, n, append(try.d.Costs, cost)
		best, rounds = try, n
		if best.scaleLeft() <= spare*l.scaleAtFirst() {
			break
		}
	}
	if rounds == 0 {
		err := failed.tooLong()
		*l = *failed
		return err
	}
	*l = *best
	l.d.Left = units.Mass(l.scaleLeft())
	l.setMeasures()
	l.noteLeft(failed.err)
	return nil
}

// fitRound lays a round, with as long a soak as fits, and says what slow hands need to get
// out of it.
func (l *laying) fitRound(n int) (*laying, time.Duration, bool) {
	for _, soak := range l.soaks() {
		try := l.fork(asSaid)
		try.soak = soak
		if !try.addRound(n) {
			l = try
			continue
		}
		exit, ok := try.exit()
		if most := mostAcid(l.d, l.in); ok && units.Litres(try.mixed).At(l.d.Strength) > most*1.0001 {
			l.err = tooMuch(units.Litres(try.mixed).At(l.d.Strength), most)
			return l, 0, false
		}
		if ok {
			return try, exit, true
		}
		l.err = try.err
	}
	return l, 0, false
}

// soaks are the lengths of a soak that are tried, the longest first.
func (l *laying) soaks() []time.Duration {
	list := []time.Duration{l.prog.Soak}
	if l.prog.Hot || l.prog.Soak == 0 {
		return list
	}
	for s := l.prog.Soak - 5*time.Minute; s >= ShortestSoak; s -= 5 * time.Minute {
		list = append(list, s)
	}
	return list
}

// spare is the share of the likely scale that is not worth another round (our own
// engineering choice).
const spare = 0.05

func (l *laying) scaleLeft() float64 {
	sum := 0.0
	for _, i := range l.circuits() {
		sum += l.p.V[i].Scale
	}
	return sum
}

func (l *laying) scaleAtFirst() float64 {
	sum := 0.0
	for _, i := range l.circuits() {
		sum += l.d.Plant.Vessels[i].Scale
	}
	return sum
}

// exit is what slow hands need, by its weight, from the end of the last soak until less than
// 1 % is left, and whether that is within the time that acid may stand.
func (l *laying) exit() (time.Duration, bool) {
	x := l.fork(asSaid)
	x.phase, x.placed = Rinsing, map[string]bool{}
	x.rinse()
	if x.err != nil && l.err == nil {
		l.err = x.err
	}
	p := l.slowlySoaked()
	from := p.Contact()
	if l.soak > shortStand { // somebody comes late to the end of it
		p.Wait(slow.longer)
	}
	for _, s := range x.steps[l.soakedAt:] {
		play(p, s, slow)
	}
	long := p.Contact() - from
	fits := l.soaked.Contact()+long <= l.d.Contact.Seconds()
	return time.Duration(long * float64(time.Second)), fits && x.err == nil
}

// slowlySoaked is the plant at the end of the last soak if hands were slow all along, and the
// soak as short as one is that is worth beginning: as warm as it may be then.
func (l *laying) slowlySoaked() *plant.Plant {
	p := l.d.Begins()
	for i, s := range l.steps[:l.soakedAt] {
		if b, ok := BodyOf[Soak](s); ok && b.Acid && i >= l.roundFrom {
			b.For = min(b.For, ShortestSoak)
			s.Body = b
		}
		play(p, s, slow)
	}
	return p
}

// costs is what a round takes of the time that acid may stand, for slow hands, up to a soak
// that is still worth beginning.
func (l *laying) costs() time.Duration {
	p := l.fresh.Clone()
	from := p.Contact()
	for _, s := range l.steps[l.roundFrom:l.soakedAt] {
		if b, ok := BodyOf[Soak](s); ok && b.Acid {
			b.For = min(b.For, ShortestSoak)
			s.Body = b
		}
		play(p, s, slow)
	}
	return time.Duration((p.Contact() - from) * float64(time.Second))
}

// costsOfSips is the same of each set of sips after the first by the wand: up to the first of
// its sips, by hands that were slow all along.
func (l *laying) costsOfSips() []time.Duration {
	list := []time.Duration{0}
	p := l.d.Begins()
	for i, s := range l.steps[:l.soakedAt] {
		if s.Round >= 2 && s.Round > l.steps[i-1].Round {
			first := p.Clone()
			from := first.Contact()
			for _, s := range l.steps[i:l.soakedAt] {
				b, is := BodyOf[Sips](s)
				b.Count = 1
				if is {
					s.Body = b
				}
				if play(first, s, slow); is {
					break
				}
			}
			list = append(list, time.Duration((first.Contact()-from)*float64(time.Second)))
		}
		play(p, s, slow)
	}
	return list
}

func (l *laying) tooLong() error {
	if l.err != nil {
		return l.err
	}
	for _, v := range l.p.Broken {
		if v.Never != plant.ContactOver {
			return &Unsafe{Violation: v}
		}
	}
	contact := l.d.Contact.Minutes()
	no := reason.Refuse(ContactTooLong, "It does not fit into the time that acid may stand").
		Of("program", string(l.prog.ID), fmt.Sprintf("one that has acid in for at most %.0f minutes", contact)).
		Why(reason.Ours, fmt.Sprintf("Acid may stand %.0f minutes in all, from the first drop until it is rinsed out; "+
			"slow hands would need longer.", contact))
	if _, said := descale.Careful(l.f); !said {
		no.Instead("Find out what the boiler is made of, and say so on the machine's page: it may bear more.")
	}
	return no.Instead("Use another product or a weaker solution, or let a workshop do it.")
}

// roughly is an amount of scale, no finer than it is known.
func roughly[M ~float64](g M) string {
	if g >= 10 {
		return fmt.Sprintf("%.0f", g)
	}
	return fmt.Sprintf("%.1g", g)
}

// noteLeft says what one sitting leaves for another day, and what kept it from more.
func (l *laying) noteLeft(kept error) {
	if float64(l.d.Left) <= spare*l.scaleAtFirst() {
		return
	}
	why := fmt.Sprintf("acid may stay in for %.0f minutes, warm ones counted more.", l.d.Contact.Minutes())
	var no *reason.Refusal
	if errors.As(kept, &no) && no.Code == DoseTooLarge {
		why = "no more acid is mixed than one dose by the label, or three times what the scale needs."
	}
	l.d.Findings = append(l.d.Findings, reason.Finding{
		Verdict: reason.Look, Title: "One sitting does not take all of it",
		Because: []reason.Reason{{
			Text:   fmt.Sprintf("About %s g of %s g would be left: %s", roughly(l.d.Left), roughly(l.scaleAtFirst()), why),
			Source: reason.Ours,
		}},
		Next: []string{"See what the spent solution and the gauze say; descale again another day."},
	})
}

// mostAcid is the acid that a plan may mix at most: three times what the likely scale
// takes to pH 4, what fills the circuits and goes by the outlets once; or one dose by the label,
// for a litre or the tank, whichever is more.
func mostAcid(d *Descaling, in Sitting) units.Mass {
	var litres units.Litres
	label := units.Litres(1)
	for _, c := range d.Circuits {
		takes := units.Litres(mostTimes * float64(c.Scale) / d.Plant.Solution.Takes)
		litres += takes + c.Working + outletHeel*units.Litres(len(c.Outlets))
	}
	if source := &d.Plant.Vessels[plant.SourceAt]; source.ID == "tank" {
		label = max(label, units.Litres(source.Working))
	}
	return max(litres.At(d.Strength), label.At(in.Card.Product.Strength()))
}

// tooMuch is the refusal of a descale for which there is too little scale.
func tooMuch(acid, most units.Mass) error {
	return reason.Refuse(DoseTooLarge, "Too little scale for so much acid").
		Of("product", fmt.Sprintf("%.0f g of acid", float64(acid)), fmt.Sprintf("%.0f g or less", float64(most))).
		Why(reason.Ours, "Filling this machine would take more than three times the acid that its likely scale needs.").
		Instead("Look at the gauze of the hot-water tap; descale when there is more scale.")
}

// mostTimes is how many times what the likely scale takes a plan may use at most (our own
// engineering choice).
const mostTimes = 3.0
