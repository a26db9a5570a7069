package care

import (
	"testing"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/task"
	"freshanvil/core/use"
)

// A café's close ends with the flush: the bench reminds of the first shot in the morning, group by
// group, until one is pulled; nobody else is reminded.
func TestFirstShotInTheMorning(t *testing.T) {
	cafe := machine.Answers{Layout: machine.HXCafe, Valve: machine.Yes, Drinks: 200}
	close := time.Date(2026, 3, 10, 21, 0, 0, 0, time.UTC)
	washed := History{Done: []Done{{task.Wash, machine.Group(1), close, ""}, {task.Wash, machine.Group(2), close, ""}}}
	shot := func(p machine.Part, at time.Time) use.Event {
		return use.Event{Part: p, Kind: use.Double, Count: 1, From: at, To: at}
	}
	for name, c := range map[string]struct {
		a    machine.Answers
		uses []use.Event
		at   time.Time
		want int
	}{
		"the next morning": {cafe, nil, close.Add(10 * time.Hour), 2},
		"one group has made one": {cafe, []use.Event{shot(machine.Group(1), close.Add(9*time.Hour))},
			close.Add(10 * time.Hour), 1},
		"nobody said which": {cafe, []use.Event{shot(machine.Part{}, close.Add(9*time.Hour))},
			close.Add(10 * time.Hour), 0},
		"a shot before the wash": {cafe, []use.Event{shot(machine.Group(1), close.Add(-time.Hour))}, close.Add(time.Hour), 2},
		"two days later":         {cafe, nil, close.Add(48 * time.Hour), 0},
		"at home": {machine.Answers{Layout: machine.DualHome, Valve: machine.Yes, Drinks: 4}, nil,
			close.Add(10 * time.Hour), 0},
	} {
		t.Run(name, func(t *testing.T) {
			h := washed
			h.Events = c.uses
			list := FirstShotAway(c.a, h, c.at)
			if _, any := ThrowAway(list); len(list) != c.want || any != (c.want > 0) {
				t.Errorf("%v", list)
			}
		})
	}
}
