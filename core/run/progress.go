package run

import (
	"time"

	"freshanvil/core/job"
)

// Progress is how far a run has come, for whoever puts what is left into another order.
type Progress struct {
	Left  []job.Step               // the present one first
	Ended map[string]time.Duration // when each step was over, on the run's clock since it began
	Now   time.Duration
	// Fresh says that nothing of the present step has begun, but for what stands by itself.
	Fresh bool
}

// ProgressOf folds a run as Fold does, and says how far it has come.
func ProgressOf(plan job.Plan, started time.Time, speed int, presses []Press, now time.Time) Progress {
	f := replay(plan, started, speed, presses, now)
	since := func(t time.Time) time.Duration { return t.Sub(started) * f.speed }
	p := Progress{Ended: map[string]time.Duration{}, Now: since(f.now)}
	for id, at := range f.ended {
		p.Ended[id] = since(at)
	}
	if f.over {
		return p
	}
	p.Left = f.steps[f.i:]
	soak, stands := job.BodyOf[job.Soak](f.step())
	p.Fresh = f.segment == 0 && !f.cut && f.absence == nil && f.state.Finding == nil &&
		(f.mode == Open || stands && !soak.Acid)
	return p
}

// reorder puts what is left into another order, where that holds the same steps and nothing of the present one has
// begun.
func (f *fold) reorder(order []string) {
	soak, stands := job.BodyOf[job.Soak](f.step())
	if f.segment != 0 || f.mode != Open && (!stands || soak.Acid) || len(order) != len(f.steps)-f.i {
		return
	}
	byID := map[string]job.Step{}
	for _, s := range f.steps[f.i:] {
		byID[s.ID] = s
	}
	list := append([]job.Step(nil), f.steps[:f.i]...)
	for _, id := range order {
		s, known := byID[id]
		if !known {
			return
		}
		delete(byID, id)
		list = append(list, s)
	}
	f.steps = list
	f.segment, f.mode, f.since = 0, Open, f.now
	f.enter()
}
