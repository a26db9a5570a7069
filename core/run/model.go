package run

import (
	"math"
	"time"

	"freshanvil/core/plant"
)

// at is an instant in the plant's own time, s since the run began. What takes its time
// however fast a hand presses, a boiler that runs out, puts the plant ahead of the run.
func (f *fold) at(t time.Time) float64 {
	return (t.Sub(f.started) * f.speed).Seconds() + f.lead
}

// catchUp puts the plant's time on the run's, where it has come ahead.
func (f *fold) catchUp(late float64) {
	if ahead := f.model.T - f.at(f.now) - math.Max(0, late); ahead > 0 {
		f.lead += ahead
	}
}

// doBy does what the hands do in the present step, spread over the time they had for it.
func (f *fold) doBy(list []plant.Action, from time.Time) {
	p := f.model
	if p == nil || len(list) == 0 {
		return
	}
	if f.hands != nil {
		list = f.hands.scaled(list, f.step().ID)
	}
	ran := p.Ran
	p.Play(list, f.at(from), f.at(f.now))
	f.catchUp(0)
	if ran = p.Ran - ran; ran > 0 { // a cup by the pump, gas let out
		f.warmPump(time.Duration(ran * float64(time.Second)))
	}
	f.watch()
}

// saidHot takes somebody's word, before a wait is over, that the machine is as hot as it was waited for.
func (f *fold) saidHot() {
	if f.model != nil && f.hands == nil {
		f.model.WaitTo(f.at(f.now))
		f.model.SaidHot()
	}
}

// doNow does something at this instant.
func (f *fold) doNow(list []plant.Action) { f.doAt(list, 0) }

// doAt does something so many seconds after this instant, or before it: the moment a hand
// really takes.
func (f *fold) doAt(list []plant.Action, late float64) {
	p := f.model
	if p == nil {
		return
	}
	p.WaitTo(f.at(f.now) + late)
	for _, a := range list {
		p.Do(a)
	}
	f.catchUp(late)
	f.watch()
}

// doAhead lets the machine do by itself what takes the whole of a wait: the plant is ahead of
// the run until that is over.
func (f *fold) doAhead(list []plant.Action) {
	p := f.model
	if p == nil || len(list) == 0 {
		return
	}
	f.markSour("steam_tap")
	p.WaitTo(f.at(f.now))
	for _, a := range list {
		p.Do(a)
	}
	f.watch()
}

// late is how late a hand is that the screen calls, s; 0 but for judging a plan.
func (f *fold) late() float64 {
	if f.hands == nil {
		return 0
	}
	return f.hands.Late
}

// frames are the plant now, at each event of the present segment, and at its end.
func (f *fold) frames(now *plant.Plant) []Frame {
	end, runs := f.present.ends()
	if !runs || f.over || f.cut {
		return nil
	}
	list := []Frame{{f.now, now}}
	p := now.Clone()
	p.Watch = func(p *plant.Plant, _ string) {
		if len(list) < mostFrames {
			at := f.started.Add(f.wall(time.Duration(p.T * float64(time.Second))))
			list = append(list, Frame{at, p.Clone()})
		}
	}
	p.WaitTo(f.at(end))
	p.Watch = nil
	return append(list, Frame{end, p})
}
