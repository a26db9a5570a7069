package sitting

import (
	"testing"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/task"
)

// What belongs to standing still is joined to nothing, and a machine that is laid up has no sitting at all.
func TestARestIsNoSitting(t *testing.T) {
	now := time.Date(2026, 5, 20, 9, 0, 0, 0, time.UTC)
	due := func(id task.ID) care.Standing {
		return care.Standing{Task: id, State: care.Overdue, Last: now.AddDate(0, -2, 0), Likely: now}
	}
	if list := ItemsOf([]care.Standing{due(task.Tip), due(task.LayUp), due(task.Tank)}, now); len(list) != 2 {
		t.Errorf("before it closes: %+v", list)
	}
	if list := ItemsOf([]care.Standing{due(task.Tip), due(task.Return), due(task.Visit)}, now); len(list) != 0 {
		t.Errorf("laid up: %+v", list)
	}
}
