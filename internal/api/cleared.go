package api

import (
	"crypto/sha256"
	"encoding/json"
	"fmt"
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

// cleared says that a plan was judged on the model of the machine, and how; the error is a
// *reason.Refusal where something happens in it that must not.
func (s *Server) cleared(p job.Plan) (reason.Reason, error) {
	text, err := json.Marshal(p)
	if err != nil {
		return reason.Reason{}, fmt.Errorf("a plan that cannot be told from another: %w", err)
	}
	key := sha256.Sum256(text)
	s.judged.mu.Lock()
	known, is := s.judged.kept[key]
	s.judged.mu.Unlock()
	if is {
		return known.cleared, known.err
	}
	var j judgement
	j.cleared, j.err = run.Cleared(p)
	s.judged.mu.Lock()
	defer s.judged.mu.Unlock()
	if s.judged.kept == nil || len(s.judged.kept) >= mostKept {
		s.judged.kept = map[[sha256.Size]byte]judgement{}
	}
	s.judged.kept[key] = j
	return j.cleared, j.err
}
