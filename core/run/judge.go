package run

import (
	"errors"
	"fmt"
	"runtime"
	"sync"
	"sync/atomic"

	"freshanvil/core/job"
	"freshanvil/core/reason"
)

// Verdict is what judging a plan found.
type Verdict struct {
	Plays   int // of the plan, by so many pairs of hands and answers
	Rescues int // instants at which somebody was called away, or the power went
}

// Judge plays a plan with the hands that it must be safe for: three uniform, each step alone
// at half and three times its time, each answer and each detour once, sixteen mixtures; and
// looks for a rescue at each step and event of the nominal play. It is not a proof: it says
// how much was played. The error is a *reason.Refusal.
func Judge(plan job.Plan) (Verdict, error) { return judge(plan, false) }

// judge looks for rescues along every play, where all are asked for.
func judge(plan job.Plan, all bool) (Verdict, error) {
	var v Verdict
	if plan.Begins() == nil {
		return v, nil
	}
	list := handsFor(plan)
	v.Plays = len(list)
	if err := judgeHands(plan, list); err != nil {
		return v, asRefusal(err)
	}
	if !all {
		list = uniform()
	}
	n, err := judgeRescues(plan, list)
	v.Rescues = n
	return v, asRefusal(err)
}

// judgeHands plays the plan by each pair of hands, several at a time; the error is that of the
// first in the list, whichever was played first.
func judgeHands(plan job.Plan, list []Hands) error {
	failed := make([]error, len(list))
	var next atomic.Int64
	var all sync.WaitGroup
	for range min(runtime.GOMAXPROCS(0), len(list)) {
		all.Go(func() {
			for i := int(next.Add(1)) - 1; i < len(list); i = int(next.Add(1)) - 1 {
				_, failed[i] = Perform(plan, list[i])
			}
		})
	}
	all.Wait()
	for _, err := range failed {
		if err != nil {
			return err
		}
	}
	return nil
}

func asRefusal(err error) error {
	var unsafe *job.Unsafe
	if errors.As(err, &unsafe) {
		return &uncleared{unsafe.Refusal(), unsafe}
	}
	return err
}

// uncleared is a refusal that also says at which step.
type uncleared struct {
	*reason.Refusal
	unsafe *job.Unsafe
}

// Unwrap gives both.
func (u *uncleared) Unwrap() []error { return []error{u.Refusal, u.unsafe} }

// Cleared composes nothing: it judges, and says in how many plays nothing happened that must
// not.
func Cleared(plan job.Plan) (reason.Reason, error) {
	v, err := Judge(plan)
	return reason.Reason{
		Text: fmt.Sprintf("Played %d times on a model of this machine, by slow and quick hands and with every other answer, "+
			"and left at %d instants: nothing happened that must not. That is a sample, not a proof.", v.Plays, v.Rescues),
		Source: reason.Ours,
	}, err
}
