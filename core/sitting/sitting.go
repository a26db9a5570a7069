package sitting

import (
	"fmt"
	"slices"
	"strings"

	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/speak"
	"freshanvil/core/task"
)

// today is the share of a day within which a sitting is now.
const today = 0.5

// Now says whether it is due now.
func (s Sitting) Now() bool { return s.Day < today }

// Led is what of a sitting can be led in one run: each task once with its parts. A descale is led by itself; of one
// task alone there is nothing to put together, and it is empty.
func (s Sitting) Led() []job.Want {
	if wants := s.Wants(); len(wants) > 1 {
		return wants
	}
	return nil
}

// Tasks is how many tasks are done in a sitting; of several groups each once.
func (s Sitting) Tasks() int {
	seen := map[task.ID]bool{}
	for _, m := range s.Members {
		seen[m.Task] = true
	}
	return len(seen)
}

// AlongWithDescale says whether a descale takes a task along in its own run: a wash after it, a new filter or a
// softener in salt.
func AlongWithDescale(id task.ID) bool {
	return id == task.Descale || id == task.Wash || id == task.FilterChange || id == task.Regenerate
}

// AtNight are the tasks of a close that one run leads, each of all the parts that it is of on a machine of so many
// groups; what is opened cold is for the morning.
func AtNight(due []task.ID, groups int) (wants []job.Want) {
	for _, id := range due {
		row := id.Row()
		if !job.Gathers(id) || row.Whose != task.Anybodys || slices.Contains(row.Needs, task.Cold) {
			continue
		}
		w := job.Want{Task: id, Parts: []machine.Part{{}}}
		if !id.IsOfMachine() {
			w.Parts = nil
			for g := range groups {
				w.Parts = append(w.Parts, machine.Group(g+1))
			}
		}
		wants = append(wants, w)
	}
	return wants
}

// Runs is how many runs lead a sitting: one; two where a descale, which takes a wash and a new filter along, goes
// before the rest; none where nothing of it is led with others.
func (s Sitting) Runs() (n int) {
	descales, rest := false, 0
	for _, m := range s.Members {
		descales = descales || m.Task == task.Descale
	}
	for _, w := range s.Wants() {
		if !descales || !AlongWithDescale(w.Task) {
			rest++
		}
	}
	if descales {
		n++
	}
	if rest > 0 {
		n++
	}
	return n
}

// Apart says that not one run leads all that is led of a sitting: a descale goes first, or there is one task alone.
func (s Sitting) Apart() bool {
	return len(s.Wants()) < 2 || slices.ContainsFunc(s.Members, func(m Member) bool { return m.Task == task.Descale })
}

// Wants are the tasks of a sitting that a run can lead beside others, each once with its parts.
func (s Sitting) Wants() (wants []job.Want) {
	for _, m := range s.Members {
		if !job.Gathers(m.Task) {
			continue
		}
		i := slices.IndexFunc(wants, func(w job.Want) bool { return w.Task == m.Task })
		if i < 0 {
			wants = append(wants, job.Want{Task: m.Task})
			i = len(wants) - 1
		}
		wants[i].Parts = append(wants[i].Parts, m.Part)
	}
	return wants
}

// Head names a sitting in few words: its first task, and how many more.
func (s Sitting) Head() string {
	if len(s.Members) == 0 {
		return ""
	}
	var names []string
	for i, m := range s.Members {
		name := m.Title
		if i > 0 {
			name = speak.Lower(m.Title)
		}
		if !slices.ContainsFunc(names, func(n string) bool { return strings.EqualFold(n, name) }) { // of another group
			names = append(names, name)
		}
	}
	if len(names) > 3 {
		return fmt.Sprintf("%s and %d more", strings.Join(names[:2], ", "), len(names)-2)
	}
	return strings.Join(names, ", ")
}
