package run

import (
	"freshanvil/core/job"
)

// act is done by hand, and a press says so.
type act struct {
	still
	f    *fold
	body job.Act
}

func init() {
	kinds[job.ActKind] = func(f *fold) kind {
		body, _ := job.BodyOf[job.Act](f.step())
		return &act{f: f, body: body}
	}
}

func (a *act) allowed() []PressKind { return []PressKind{Done} }

func (a *act) ahead() float64 { return float64(a.body.Flushes) }

// press counts what was done: to the chemical of the part, to the liquids, to tray and
// tank.
func (a *act) press(p Press) {
	if p.Kind != Done {
		return
	}
	f := a.f
	if g := f.here(); g != nil {
		switch f.step().Effect {
		case job.Doses:
			g.takeDose(f.activity().Wash)
		case job.Proves:
			g.flush()
		}
	}
	if a.body.Flushes > 0 {
		f.emptyAndFill()
	}
	f.doBy(f.step().Acts, f.since)
	if a.body.Mix != nil {
		f.acid.mix(*a.body.Mix, p.Mixed)
	}
	if a.body.Flushes > 0 {
		f.countFlush(a.body.Flushes)
		if f.model == nil { // else the model has counted it
			pump := job.Pump{Flow: f.setup().Flow}
			f.warmPump(pump.Flush(a.body.Flushes))
		}
	}
	f.countDrawn(a.body.Draws)
	f.state.Finding = nil
	f.next()
}
