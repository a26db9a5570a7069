package app

import (
	"errors"
	"fmt"
	"slices"

	"freshanvil/core/sitting"
	"freshanvil/core/task"
	"freshanvil/core/units"
)

// AloneOne is one machine of several, as people call it, with what is asked for.
type AloneOne struct {
	Name string
	Alone
}

// InOneGo puts what is asked for on several machines into one order of visits, without a log. A descale is a run of its
// own that takes a wash and a new filter along; what else is asked for on its machine comes after it. An error is that
// of the first machine that is not led so.
func InOneGo(list []AloneOne) (sitting.Afternoon, []Planned, error) {
	var jobs []sitting.Job
	var plans []Planned
	for i, one := range list {
		for _, a := range one.runs() {
			p, err := a.Plan()
			var bad *units.OutOfRange
			if len(list) > 1 && errors.As(err, &bad) {
				err = bad.Under(fmt.Sprintf("machines.%d", i))
			}
			if err != nil {
				return sitting.Afternoon{}, nil, err
			}
			plans = append(plans, p)
			jobs = append(jobs, sitting.Job{Machine: one.Name, Name: one.Name, Plan: p.Plan})
		}
	}
	return sitting.InOneGo(jobs...), plans, nil
}

// runs are the runs that the tasks of a machine are led in.
func (a Alone) runs() []Alone {
	rest := slices.DeleteFunc(slices.Clone(a.Tasks), sitting.AlongWithDescale)
	if !slices.Contains(a.Tasks, task.Descale) || len(rest) == 0 {
		return []Alone{a}
	}
	first, then := a, a
	first.Tasks = slices.DeleteFunc(slices.Clone(a.Tasks), func(id task.ID) bool { return slices.Contains(rest, id) })
	first.Cold, then.Cold, then.Tasks = false, false, rest
	return []Alone{first, then}
}

// Several says that it takes more than one run.
func (a Alone) Several() bool { return len(a.runs()) > 1 }
