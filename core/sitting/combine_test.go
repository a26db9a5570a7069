package sitting

import (
	"errors"
	"flag"
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/run"
	"freshanvil/core/task"
	"freshanvil/core/treat"
)

// long asks for what takes longer: make long.
var longer = flag.Bool("long", false, "compose every pair, and 2,000 threes and fours, and judge 2,500 of them")

// combined is a machine and what is to be done to it in one sitting.
type combined struct {
	layout    machine.Layout
	treatment machine.Treatment
	groups    int
	cold      bool
	tasks     []task.ID
}

func (c combined) String() string {
	names := make([]string, len(c.tasks))
	for i, id := range c.tasks {
		names[i] = string(id)
	}
	state := "hot"
	if c.cold {
		state = "cold"
	}
	return fmt.Sprintf("%s %s %dg %s %s", c.layout, c.treatment, c.groups, state, strings.Join(names, "+"))
}

// sat are the tasks that a sitting is made of.
func sat() []task.ID { return task.Where(func(r task.Row) bool { return job.Gathers(r.ID) }) }

// gather is a machine with what is wanted.
func (c combined) gather(t *testing.T) (job.Gathering, []job.Want) {
	in := gathering(t, c.layout)
	in.Answers.Treatment, in.Setting, in.Cold = c.treatment, treat.Usual(c.treatment), c.cold
	if c.layout == machine.LeverManual {
		in.Answers.Valve = machine.No
	}
	if c.groups > 0 {
		in.Answers.Overrides = map[string]string{"groups": fmt.Sprint(c.groups)}
	}
	in.Targets = nil
	for g := range in.Answers.Facts().Groups {
		in.Targets = append(in.Targets, job.Target{Group: g + 1})
	}
	return in, wantsOf(in, c.tasks...)
}

// pairs are every two tasks over all layouts and treatments, in use and left off overnight.
func pairs() (list []combined) {
	ids := sat()
	for _, l := range machine.Layouts() {
		for _, tr := range machine.Treatments() {
			for i := range ids {
				for j := i + 1; j < len(ids); j++ {
					for _, cold := range []bool{false, true} {
						list = append(list, combined{layout: l, treatment: tr, cold: cold, tasks: []task.ID{ids[i], ids[j]}})
					}
				}
			}
		}
	}
	return list
}

// drawn are so many random threes and fours, one to four groups.
func drawn(n int) (list []combined) {
	r := rand.New(rand.NewPCG(37, 1202))
	ids := sat()
	layouts, treatments := machine.Layouts(), machine.Treatments()
	for range n {
		r.Shuffle(len(ids), func(i, j int) { ids[i], ids[j] = ids[j], ids[i] })
		c := combined{layout: layouts[r.IntN(len(layouts))], treatment: treatments[r.IntN(len(treatments))],
			cold: r.IntN(2) == 0, tasks: slices.Clone(ids[:3+r.IntN(2)])}
		if groups := 1 + r.IntN(4); c.layout == machine.HXCafe || c.layout == machine.MultiCafe || groups == 2 {
			c.groups = groups
		}
		list = append(list, c)
	}
	return list
}

// ownReason says whether a refusal is told by a reason of the machine's own: something it has not, or that is not done
// to it. What the model does not clear is none, where each task by itself is cleared.
func ownReason(err error) bool {
	var no *reason.Refusal
	return errors.As(err, &no) && no.Code != job.NotCleared && no.Code != job.NotTogether &&
		no.Field != "" && no.Allowed != "" && len(no.Finding.Because) > 0
}

// Every pair of tasks over all layouts and treatments, and random threes and fours over one to four groups, hot and
// cold, gives a sheet that the model clears, or a refusal with a reason of its own.
func TestWhatIsDoneTogetherIsLed(t *testing.T) {
	list := append(pairs(), drawn(2000)...)
	composes, judges := 400, 100
	if *longer {
		composes, judges = len(list), 2500
	}
	r := rand.New(rand.NewPCG(7, 37))
	r.Shuffle(len(list), func(i, j int) { list[i], list[j] = list[j], list[i] })
	led, refused := 0, map[string]int{}
	for n, c := range list[:composes] {
		in, wants := c.gather(t)
		var err error
		if n < judges {
			_, err = Compose(in, wants...)
		} else {
			_, err = Estimate(in, wants...)
		}
		var no *reason.Refusal
		switch {
		case err == nil:
			led++
		case ownReason(err):
			errors.As(err, &no)
			refused[string(no.Code)]++
		case errors.As(err, &no) && workshopAlone(in, wants):
			refused["drained with heaters on"]++
		default:
			t.Errorf("%v: %v %s", c, err, becauseOf(err))
		}
	}
	for _, code := range slices.Sorted(maps.Keys(refused)) {
		t.Logf("refused: %s %d", code, refused[code])
	}
	if led < composes/3 {
		t.Errorf("only %d of %d are led", led, composes)
	}
}

// workshopAlone says whether the drain seals are among the tasks, and are not cleared by themselves, either: a boiler
// that was drained fills with its element on.
func workshopAlone(in job.Gathering, wants []job.Want) bool {
	for _, w := range wants {
		if w.Task != task.DrainSeals {
			continue
		}
		p, err := Estimate(in, w)
		if err == nil {
			_, err = run.Cleared(p)
		}
		return err != nil
	}
	return false
}

func becauseOf(err error) (text string) {
	var no *reason.Refusal
	if errors.As(err, &no) {
		for _, b := range no.Finding.Because {
			text += " " + b.Text
		}
	}
	return text
}
