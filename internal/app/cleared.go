package app

import (
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"slices"
	"sync"

	"freshanvil/core/job"
	"freshanvil/core/reason"
	"freshanvil/core/run"
)

// mostKept is how many judgements are kept.
const mostKept = 256

// judgements are kept by what was judged: the same plan is asked for again and again while
// somebody looks at its card.
type judgements struct {
	mu   sync.Mutex
	kept map[[sha256.Size]byte]judgement
}

type judgement struct {
	cleared reason.Reason
	err     error
}

// judgedBy is what of a plan matters to how it is judged: not how much of an interval had gone.
func judgedBy(p job.Plan) job.Plan {
	p.Activities = slices.Clone(p.Activities)
	for i, x := range p.Activities {
		if x.Wash != nil {
			wash := *x.Wash
			wash.Gone = 0
			p.Activities[i].Wash = &wash
		}
	}
	return p
}

// Cleared says that a plan was judged on the model of the machine, and how; the error is a
// *reason.Refusal where something happens in it that must not.
func (a *App) Cleared(p job.Plan) (reason.Reason, error) {
	text, err := json.Marshal(judgedBy(p))
	if err != nil {
		return reason.Reason{}, fmt.Errorf("a plan that cannot be told from another: %w", err)
	}
	key := sha256.Sum256(text)
	a.judged.mu.Lock()
	known, is := a.judged.kept[key]
	a.judged.mu.Unlock()
	if is {
		return known.cleared, known.err
	}
	var j judgement
	j.cleared, j.err = run.Cleared(p)
	a.judged.mu.Lock()
	defer a.judged.mu.Unlock()
	if a.judged.kept == nil || len(a.judged.kept) >= mostKept {
		a.judged.kept = map[[sha256.Size]byte]judgement{}
	}
	a.judged.kept[key] = j
	return j.cleared, j.err
}
