package run

import (
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// fullTray is the share of the tray that is used before it is emptied, spare the
// share of the tank that stays in it: a pump must not draw air (our own engineering
// choices, both).
const (
	fullTray = 0.8
	spare    = 0.1
	leastIn  = 250.0 // mL that stay in a tank, at most half of it: a boiler that fills by itself may ask for some
)

// keeps is what stays in the tank of the present step's machine.
func (f *fold) keeps() units.Volume {
	tank := float64(f.setup().Tank)
	return units.Volume(max(spare*tank, min(leastIn, tank/2)))
}

// stock is the water of the present step's machine.
func (f *fold) stock() *Stock { return &f.stocks[f.activity().Setup] }

// needsTray says whether the water of the present step would fill the tray beyond
// what is safe to carry.
func (f *fold) needsTray() bool {
	setup, ahead := f.setup(), f.waterAhead()
	return setup.Tray > 0 && ahead > 0 &&
		f.stock().Tray.Volume(setup.Vents)+ahead > units.Volume(fullTray*float64(setup.Tray))
}

// needsTank says whether the water of the present step would draw the tank down to
// what must stay in it.
func (f *fold) needsTank() bool {
	setup, ahead := f.setup(), f.waterAhead()
	return setup.Tank > 0 && ahead > 0 &&
		f.stock().Drawn.Volume(setup.Vents)+ahead > setup.Tank-f.keeps()
}

// bearsNoMore says what to do before the next pulse, where the tray would overflow by it or the
// tank run dry; nil where both bear it.
func (f *fold) bearsNoMore() *reason.Finding {
	setup, s := f.setup(), f.stock()
	say := func(title, because, next string) *reason.Finding {
		return &reason.Finding{Verdict: reason.Look, Title: title,
			Because: []reason.Reason{{Text: because, Source: reason.Ours}}, Next: []string{next}}
	}
	switch {
	case setup.Tray > 0 && s.Tray != (Water{}) &&
		s.Tray.Volume(setup.Vents)+setup.Vents > units.Volume(fullTray*float64(setup.Tray)):
		return say("The tray is nearly full", "It does not hold all the pulses of this set.",
			"Empty the tray and put it back. Then pulse on: no pulse is lost.")
	case setup.Tank > 0 && s.Drawn != (Water{}) &&
		s.Drawn.Volume(setup.Vents)+setup.Vents > setup.Tank-f.keeps():
		return say("The tank is nearly empty", "It does not give all the pulses of this set.",
			"Fill the tank. Then pulse on: no pulse is lost.")
	}
	return nil
}

// waterAhead is the water of the present step that is still to come; 0 while it runs.
func (f *fold) waterAhead() units.Volume {
	if f.over || f.mode != Open && f.mode != Held {
		return 0
	}
	return units.Volume(f.present.ahead())
}

// emptyAndFill takes a press that lets water run as the word that the tray was
// emptied and the tank filled, where it had to be.
func (f *fold) emptyAndFill() {
	if f.needsTray() {
		f.stock().Tray = Water{}
		f.doNow([]plant.Action{{Verb: plant.Empty, What: "tray"}})
	}
	if f.needsTank() {
		f.stock().Drawn = Water{}
		f.doNow([]plant.Action{{Verb: plant.FillUp, What: "tank"}})
	}
}

// waters are all the counts that the water of the present step goes into.
func (f *fold) waters() []*Water {
	s := f.stock()
	list := []*Water{&s.Tray, &s.Used, &s.Drawn}
	if g := f.group(f.step().Part); g != nil {
		list = append(list, &g.Through)
	}
	return list
}

// countFlush counts water that ran through the open group.
func (f *fold) countFlush(v units.Volume) {
	for _, w := range f.waters() {
		w.Flushed += v
	}
}

// countDrawn counts water that left the machine beside its tray, for the present activity.
func (f *fold) countDrawn(v units.Volume) {
	if v == 0 {
		return
	}
	s := f.stock()
	s.Used.Flushed, s.Drawn.Flushed = s.Used.Flushed+v, s.Drawn.Flushed+v
	f.drawn[f.step().Activity] += v
}

// countPulse counts a pulse that has vented, or may have.
func (f *fold) countPulse() {
	for _, w := range f.waters() {
		w.Pulses++
	}
}
